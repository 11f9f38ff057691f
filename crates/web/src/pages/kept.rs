//! Texts as they are kept, to be saved where they cannot be read any more.

use crate::frame::App;
use crate::frame::error::PageError;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use lake_hour_store::{BatteryId, Part, RigId};

pub(crate) fn routes() -> Router<App> {
    Router::new().route("/rigs/{rig}/kept/{what}/{id}", get(text))
}

async fn text(
    State(app): State<App>,
    Path((rig, what, id)): Path<(i64, String, i64)>,
) -> Result<Response, PageError> {
    let part = match what.as_str() {
        "rig" => Part::Rig,
        "stretch" => Part::Stretch(id),
        "pack" => Part::Pack(id),
        "battery" => Part::Battery(BatteryId(id)),
        _ => return Err(PageError::NoSuchPage),
    };
    let text = app.store.raw(RigId(rig), part).await?;
    let headers = [
        (header::CONTENT_TYPE, "text/plain; charset=utf-8".to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{what}-{id}.txt\"")),
    ];
    Ok((headers, text).into_response())
}
