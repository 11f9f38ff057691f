//! Styles, scripts, fonts and pictures, shipped inside the program.

use crate::App;
use crate::error::PageError;
use axum::Router;
use axum::extract::{Path, Query};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use rust_embed::RustEmbed;
use serde::Deserialize;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/assets/{*path}", get(asset))
        .route("/favicon.ico", get(async || send("icon.svg", false)))
}

/// Address of an asset, with a mark of its contents so that it can be kept for good.
pub(crate) fn url(path: &str) -> String {
    let mark = Assets::get(path).map_or_else(String::new, |file| {
        file.metadata.sha256_hash()[..6].iter().map(|byte| format!("{byte:02x}")).collect()
    });
    format!("/assets/{path}?v={mark}")
}

#[derive(Deserialize)]
struct Version {
    v: Option<String>,
}

async fn asset(
    Path(path): Path<String>,
    Query(version): Query<Version>,
) -> Result<Response, PageError> {
    send(&path, version.v.is_some())
}

fn send(path: &str, marked: bool) -> Result<Response, PageError> {
    let file = Assets::get(path).ok_or(PageError::NoSuchPage)?;
    let keep = if marked { "public, max-age=31536000, immutable" } else { "no-cache" };
    let kind = file.metadata.mimetype().to_owned();
    Ok(([(header::CONTENT_TYPE, kind), (header::CACHE_CONTROL, keep.to_owned())], file.data)
        .into_response())
}
