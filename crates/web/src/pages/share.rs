//! Who is let in from the network: the code, as figures and for a camera, and the devices that were.

use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::look::Look;
use crate::frame::render::{Render, block};
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use jiff::Timestamp;
use jiff::tz::TimeZone;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/share", get(show))
        .route("/share/devices/{id}/remove", post(remove).get(async || Redirect::to("/share")))
}

/// A device that was let in.
struct DeviceView {
    id: i64,
    name: String,
    since: String,
    seen: String,
}

/// How it is shared.
struct ShareView {
    address: String,
    code: String,
    picture: String,
    fingerprint: Option<String>,
}

#[derive(Template)]
#[template(path = "share.html", blocks = ["page"])]
struct SharePage {
    head: Head,
    share: Option<ShareView>,
    devices: Vec<DeviceView>,
}

/// "483 201 957".
fn grouped(code: &str) -> String {
    let parts: Vec<&str> = (0..code.len()).step_by(3).filter_map(|n| code.get(n..n + 3)).collect();
    parts.join(" ")
}

fn day(at: i64) -> String {
    Timestamp::from_second(at).map_or_else(
        |_| String::new(),
        |t| t.to_zoned_datetime(TimeZone::system()).strftime("%b %-d, %H:%M").to_string(),
    )
}

async fn show(
    State(app): State<App>,
    render: Render,
    headers: HeaderMap,
) -> Result<Response, PageError> {
    let share = app.share.get().map(|share| {
        let invitation = share.invitation();
        let picture = qrcode::QrCode::new(invitation.as_bytes()).map(|code| {
            code.render::<qrcode::render::svg::Color<'_>>()
                .min_dimensions(240, 240)
                .dark_color(qrcode::render::svg::Color("#000"))
                .light_color(qrcode::render::svg::Color("#fff"))
                .build()
        });
        let picture = picture.unwrap_or_default();
        // Its declaration is for a file of its own.
        let picture = picture.find("<svg").map_or("", |n| &picture[n..]).to_owned();
        ShareView {
            address: share.address_words(),
            code: grouped(&share.code()),
            picture,
            fingerprint: share.fingerprint.clone(),
        }
    });
    let devices = app.store.devices().await?.into_iter().map(|d| DeviceView {
        id: d.id,
        name: d.name,
        since: day(d.since),
        seen: day(d.seen),
    });
    let head = Head::plain("On your phone", Look::of(&headers));
    let page = SharePage { head, share, devices: devices.collect() };
    let html = match render {
        Render::Page => page.render().map_err(|_| PageError::Broken)?,
        Render::Fragment => block(&page.head.title, page.as_page().render())?,
    };
    Ok(Html(html).into_response())
}

async fn remove(State(app): State<App>, Path(id): Path<i64>) -> Result<Response, PageError> {
    app.store.shut_out(id).await?;
    Ok(Redirect::to("/share").into_response())
}
