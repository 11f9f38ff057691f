//! The first page of an empty database, and the way to the current rig.

use crate::App;
use crate::error::PageError;
use crate::layout::Frame;
use crate::look::Look;
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::units::{Amps, Hours, Volts};

pub(crate) fn routes() -> Router<App> {
    Router::new().route("/", get(start)).route("/start/{with}", post(begin))
}

#[derive(Template)]
#[template(path = "start.html")]
struct StartPage {
    frame: Frame,
}

async fn start(State(app): State<App>, headers: HeaderMap) -> Result<Response, PageError> {
    if let Some(rig) = app.store.rigs().await?.iter().find(|r| !r.archived) {
        return Ok(Redirect::to(&format!("/rigs/{}/board", rig.id.0)).into_response());
    }
    let page = StartPage { frame: Frame::plain("Start", Look::of(&headers)) };
    Ok(Html(page.render().map_err(|_| PageError::Broken)?).into_response())
}

async fn begin(State(app): State<App>, Path(with): Path<String>) -> Result<Redirect, PageError> {
    let (rig, open) = match with.as_str() {
        "demo" => (app.demo.fill(&app.store).await?, "board"),
        "own" => (app.store.import(own()).await?, "rig"),
        _ => return Err(PageError::NoSuchPage),
    };
    Ok(Redirect::to(&format!("/rigs/{}/{open}", rig.0)))
}

/// A beginning of one's own: one boat, one hour, nothing on the board yet.
fn own() -> Plan {
    Plan {
        currency: "USD".to_owned(),
        rig: Rig::new("My boat", CraftKind::VHull, Volts::of(12.0)),
        day: Day::starting_at(7 * 60).then("Out", Hours::of(1.0), Duty::Current(Amps::of(15.0))),
        rules: HouseRules::default(),
        packs: Vec::new(),
    }
}
