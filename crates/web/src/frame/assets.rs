//! Styles, scripts, fonts and pictures, shipped inside the program, packed when it was built.

use crate::frame::App;
use crate::frame::error::PageError;
use axum::Router;
use axum::extract::{Path, Query};
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use serde::Deserialize;

struct Asset {
    name: &'static str,
    /// A mark of its contents.
    mark: &'static str,
    plain: &'static [u8],
    /// Packed; empty where that gains nothing.
    brotli: &'static [u8],
    gzip: &'static [u8],
}

static ASSETS: &[Asset] = include!(concat!(env!("OUT_DIR"), "/assets.rs"));

fn find(name: &str) -> Option<&'static Asset> {
    ASSETS.iter().find(|asset| asset.name == name)
}

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/assets/{*path}", get(asset))
        .route(
            "/manifest.webmanifest",
            get(async |headers: HeaderMap| send("app.webmanifest", None, &headers)),
        )
        // Of its own address: it may only speak for what lies below that.
        .route("/worker.js", get(async |headers: HeaderMap| send("worker.js", None, &headers)))
        .route("/favicon.ico", get(async |headers: HeaderMap| send("icon.svg", None, &headers)))
}

/// Address of an asset, with a mark of its contents so that it can be kept for good.
pub(crate) fn url(path: &str) -> String {
    let mark = find(path).map_or("", |asset| asset.mark);
    format!("/assets/{path}?v={mark}")
}

#[derive(Deserialize)]
struct Version {
    v: Option<String>,
}

async fn asset(
    Path(path): Path<String>,
    Query(version): Query<Version>,
    headers: HeaderMap,
) -> Result<Response, PageError> {
    send(&path, version.v.as_deref(), &headers)
}

/// Sends an asset as the browser can take it; asked for by its mark, it may be kept for a year.
fn send(path: &str, version: Option<&str>, headers: &HeaderMap) -> Result<Response, PageError> {
    let asset = find(path).ok_or(PageError::NoSuchPage)?;
    let text = |name| headers.get(name).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let tag = format!("\"{}\"", asset.mark);
    let keep = match version {
        Some(mark) if mark == asset.mark => "public, max-age=31536000, immutable",
        _ => "no-cache",
    };
    let kept = [(header::CACHE_CONTROL, keep), (header::VARY, "Accept-Encoding")];
    if text(header::IF_NONE_MATCH) == tag {
        return Ok((StatusCode::NOT_MODIFIED, kept, [(header::ETAG, tag)]).into_response());
    }
    let takes = |packing: &str| {
        let mut offers = text(header::ACCEPT_ENCODING).split(',').map(str::trim);
        offers.any(|offer| offer.split(';').next() == Some(packing) && !offer.ends_with("q=0"))
    };
    let (packing, bytes) = if !asset.brotli.is_empty() && takes("br") {
        (Some("br"), asset.brotli)
    } else if !asset.gzip.is_empty() && takes("gzip") {
        (Some("gzip"), asset.gzip)
    } else {
        (None, asset.plain)
    };
    let told = [(header::CONTENT_TYPE, kind(path).to_owned()), (header::ETAG, tag)];
    let mut response = (kept, told, bytes).into_response();
    if let Some(packing) = packing {
        response.headers_mut().insert(header::CONTENT_ENCODING, HeaderValue::from_static(packing));
    }
    Ok(response)
}

fn kind(path: &str) -> &'static str {
    match path.rsplit('.').next() {
        Some("css") => "text/css; charset=utf-8",
        Some("js") => "text/javascript; charset=utf-8",
        Some("svg") => "image/svg+xml",
        Some("woff2") => "font/woff2",
        Some("webmanifest") => "application/manifest+json",
        _ => "text/plain; charset=utf-8",
    }
}
