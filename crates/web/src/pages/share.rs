//! Who is let in from the network: the code, as figures and for a camera, those who wait for a yes, and the devices that have one.

use crate::forms::Typed;
use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::look::Look;
use crate::frame::render::{Render, block};
use crate::frame::share::{self, LONGEST_NAME, Share};
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use lake_hour_store::Role;
use std::convert::Infallible;
use std::sync::Arc;
use std::time::Duration;
use tokio_stream::wrappers::ReceiverStream;

/// Most that look at the code at once.
const MOST: usize = 16;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/share", get(show))
        .route("/share/events", get(events))
        .route("/share/waiting/{id}/{answer}", post(answer).get(back))
        .route("/share/devices/{id}", post(tell).get(back))
        .route("/share/devices/{id}/remove", post(remove).get(back))
}

async fn back() -> Redirect {
    Redirect::to("/share")
}

/// What a device of a role may do, in words.
const fn role_words(role: Role) -> &'static str {
    match role {
        Role::Watch => "Watch the trip under way",
        Role::Log => "Look, and write trip and log",
        Role::Everything => "Everything",
    }
}

/// The roles to choose from, and which is chosen.
fn roles(chosen: Role) -> Vec<(&'static str, &'static str, bool)> {
    Role::ALL.map(|role| (role.key(), role_words(role), role == chosen)).to_vec()
}

/// A device that was let in.
struct DeviceView {
    id: i64,
    name: String,
    may: &'static str,
    roles: Vec<(&'static str, &'static str, bool)>,
    since: String,
    seen: String,
    expired: bool,
}

/// One that waits.
struct WaitingView {
    id: u64,
    name: String,
    roles: Vec<(&'static str, &'static str, bool)>,
}

/// How it is shared.
struct ShareView {
    address: String,
    by_name: Option<String>,
    code: String,
    picture: String,
    fingerprint: Option<String>,
    waiting: Vec<WaitingView>,
}

impl ShareView {
    fn of(share: &Share) -> Self {
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
        let waiting = share.waiting().into_iter();
        Self {
            address: share.address_words(),
            by_name: share.name_words(),
            code: grouped(&share.code()),
            picture,
            fingerprint: share.at().fingerprint,
            waiting: waiting
                .map(|w| WaitingView { id: w.id, name: w.name, roles: roles(Role::Log) })
                .collect(),
        }
    }
}

#[derive(Template)]
#[template(path = "share.html", blocks = ["page"])]
struct SharePage {
    head: Head,
    share: Option<ShareView>,
    devices: Vec<DeviceView>,
    longest: usize,
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
    let now = share::now();
    let devices = app.store.devices().await?.into_iter().map(|d| DeviceView {
        id: d.id,
        expired: d.is_expired(now),
        may: role_words(d.role),
        roles: roles(d.role),
        name: d.name,
        since: day(d.since),
        seen: day(d.seen),
    });
    let page = SharePage {
        head: Head::plain("On your phone", Look::of(&headers)),
        share: app.share.get().map(|share| ShareView::of(share)),
        devices: devices.collect(),
        longest: LONGEST_NAME,
    };
    let html = match render {
        Render::Page => page.render().map_err(|_| PageError::Broken)?,
        Render::Fragment => block(&page.head.title, page.as_page().render())?,
    };
    Ok(Html(html).into_response())
}

/// A word whenever the page would show something else: somebody waits, the code was used or is too old, the address changed.
async fn events(State(app): State<App>) -> Result<Response, PageError> {
    let share = app.share.get().cloned().ok_or(PageError::NoSuchPage)?;
    let mut news = share.watch();
    if share.watched() > MOST {
        return Err(PageError::Busy);
    }
    let (send, receive) = tokio::sync::mpsc::channel::<Result<Event, Infallible>>(2);
    let share = Arc::downgrade(&share);
    tokio::spawn(async move {
        loop {
            let Some(left) = share.upgrade().map(|share| share.code_left()) else { return };
            tokio::select! {
                changed = news.changed() => if changed.is_err() { return },
                // A second more: then there is another one.
                () = tokio::time::sleep(Duration::from_secs(left + 1)) => {}
                () = send.closed() => return,
            }
            if send.send(Ok(Event::default().data("look"))).await.is_err() {
                return;
            }
        }
    });
    let stream = Sse::new(ReceiverStream::new(receive));
    Ok(stream.keep_alive(KeepAlive::new().interval(Duration::from_secs(10))).into_response())
}

/// A name and a role, as they were typed.
fn told(typed: &Typed, usual: &str) -> (String, Option<Role>) {
    let name: String = typed.get("name").trim().chars().take(LONGEST_NAME).collect();
    let name = if name.is_empty() { usual.to_owned() } else { name };
    (name, Role::of(typed.get("role")))
}

fn no_role() -> PageError {
    PageError::BadForm("choose what the device may do: watch, log or everything".to_owned())
}

/// Yes or no to one that waits.
async fn answer(
    State(app): State<App>,
    Path((id, answer)): Path<(u64, String)>,
    typed: Typed,
) -> Result<Redirect, PageError> {
    let gone = || PageError::Gone("this device: it waited too long, or was answered".to_owned());
    let share = app.share.get().ok_or_else(gone)?;
    let usual = share.waiting().into_iter().find(|w| w.id == id).ok_or_else(gone)?.name;
    match answer.as_str() {
        "let-in" => {
            let (name, role) = told(&typed, &usual);
            let role = role.ok_or_else(no_role)?;
            let one = share.answer(id, true).ok_or_else(gone)?;
            app.store.let_in(name, role, one.token, share::now()).await?;
            share.is_news();
        }
        "refuse" => {
            share.answer(id, false).ok_or_else(gone)?;
        }
        _ => return Err(PageError::NoSuchPage),
    }
    Ok(Redirect::to("/share"))
}

/// A device is called otherwise, or may do something else.
async fn tell(
    State(app): State<App>,
    Path(id): Path<i64>,
    typed: Typed,
) -> Result<Redirect, PageError> {
    let all = app.store.devices().await?;
    let gone = || PageError::Gone("this device: it was shut out".to_owned());
    let known = all.into_iter().find(|d| d.id == id).ok_or_else(gone)?;
    let (name, role) = told(&typed, &known.name);
    app.store.tell_device(id, name, role.ok_or_else(no_role)?).await?;
    Ok(Redirect::to("/share"))
}

async fn remove(State(app): State<App>, Path(id): Path<i64>) -> Result<Response, PageError> {
    app.store.shut_out(id).await?;
    Ok(Redirect::to("/share").into_response())
}
