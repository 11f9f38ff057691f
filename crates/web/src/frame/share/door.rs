//! What stands before the pages of the second listener: who was let in goes through, who was not types a code and waits.

use super::code::Tried;
use super::crowd::{Crowd, Guest, place};
use super::may::{Refused, may};
use super::waiting::Stands;
use super::{Peer, Seat, Share, hex, now, sha256};
use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::look::cookie;
use crate::frame::trips::is_near;
use axum::Router;
use axum::body::Body;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, Uri, header};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Redirect, Response};
use lake_hour_store::{Device, Role};
use ring::rand::{SecureRandom, SystemRandom};
use std::net::{IpAddr, Ipv4Addr};
use std::sync::Arc;
use std::time::Duration;

/// The cookie of a session.
const COOKIE: &str = "seat";
/// Kept for a year; who is let in is known here, and there only until it was unused for too long. [s]
const KEPT: u32 = 31_536_000;
/// Most that is read of a code that is sent, and for how long it is waited. [bytes]
const LARGEST: usize = 512;
const LONGEST: Duration = Duration::from_secs(5);
/// Longest name of a device. [characters]
pub(crate) const LONGEST_NAME: usize = 40;

#[derive(Debug, Clone)]
pub(super) struct Door {
    pub(super) app: App,
    pub(super) share: Arc<Share>,
    pub(super) crowd: Crowd,
}

pub(super) fn around(pages: Router, door: Door) -> Router {
    // One service behind the door: a router of its own would tell who asks wrongly what there is.
    Router::new()
        .fallback_service(pages)
        .layer(middleware::from_fn_with_state(door, only_who_was_let_in))
}

async fn only_who_was_let_in(
    State(Door { app, share, crowd }): State<Door>,
    mut request: Request,
    next: Next,
) -> Response {
    let peer = request.extensions().get::<Peer>().map(|peer| peer.0);
    let twice = request.headers().get_all(header::HOST).iter().nth(1).is_some();
    if twice || peer.is_some_and(|peer| !is_near(peer)) {
        return nothing();
    }
    let seat = seat(request.headers());
    if let Some(seat) = seat
        && let Ok(Some(device)) = app.store.device_of(seat.0, now()).await
    {
        if let Some(guest) = request.extensions().get::<Arc<Guest>>() {
            crowd.know(guest);
        }
        app.store.seen_device(&device, now());
        request.extensions_mut().insert(seat);
        return inside(&app, &device, request, next).await;
    }
    let path = request.uri().path().to_owned();
    match (request.method(), path.as_str()) {
        (&Method::GET, "/") => match seat.and_then(|seat| share.stands(seat)) {
            Some(Stands::Waits) => waits(),
            Some(Stands::Refused) => door("", "", "Not let in.", StatusCode::FORBIDDEN),
            None => door("", device_name(request.headers()), "", StatusCode::OK),
        },
        (&Method::GET, path) if path.starts_with("/join/") => {
            let code = path.trim_start_matches("/join/");
            door(code, device_name(request.headers()), "", StatusCode::OK)
        }
        (&Method::POST, "/join") => {
            let peer = place(peer.unwrap_or(IpAddr::V4(Ipv4Addr::UNSPECIFIED)));
            join(&share, peer, request).await
        }
        _ => nothing(),
    }
}

/// A device that was let in asks for something.
async fn inside(app: &App, device: &Device, request: Request, next: Next) -> Response {
    let path = request.uri().path().to_owned();
    if path == "/join" || path.starts_with("/join/") {
        return to("/");
    }
    match may(device.role, request.method(), &path) {
        Ok(()) if device.role == Role::Watch && path == "/" => match watched(app).await {
            Ok(to) => to.into_response(),
            Err(error) => error.into_response(),
        },
        Ok(()) => next.run(request).await,
        Err(Refused::AtTheMachine) => nothing(),
        // Drawn by the layers within, which know how it was asked for.
        Err(Refused::ByRole) => {
            let mut request = request;
            request.extensions_mut().insert(NotByRole(device.role));
            next.run(request).await
        }
    }
}

/// On a request that a device of this role may not make.
#[derive(Debug, Clone, Copy)]
pub(crate) struct NotByRole(pub(crate) Role);

/// Where somebody who only watches is led: to the rig that is under way, else to the first.
async fn watched(app: &App) -> Result<Redirect, PageError> {
    let rigs = app.store.rigs().await?;
    let first = rigs.iter().find(|rig| app.trips.of(rig.id).is_some()).or(rigs.first());
    let rig = first.ok_or_else(|| PageError::Gone("a rig: there is none yet".to_owned()))?;
    Ok(Redirect::to(&format!("/rigs/{}/live", rig.id.0)))
}

fn seat(headers: &HeaderMap) -> Option<Seat> {
    let shown = cookie(headers, COOKIE)?;
    (shown.len() == 64).then(|| Seat(sha256(shown.as_bytes())))
}

impl Share {
    fn stands(&self, seat: Seat) -> Option<Stands> {
        let now = self.ticks();
        self.with_line(|line| line.stands(seat.0, now))
    }
}

/// An answer that tells nothing.
fn nothing() -> Response {
    (StatusCode::NOT_FOUND, quiet(), Body::empty()).into_response()
}

fn quiet() -> [(header::HeaderName, &'static str); 5] {
    [
        (header::CACHE_CONTROL, "no-store"),
        // Who was not let in keeps no connection.
        (header::CONNECTION, "close"),
        // Without it a browser says of a form only that it comes from nowhere.
        (header::REFERRER_POLICY, "same-origin"),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (
            header::CONTENT_SECURITY_POLICY,
            "default-src 'none'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'",
        ),
    ]
}

fn to(path: &'static str) -> Response {
    (StatusCode::SEE_OTHER, [(header::LOCATION, path)], quiet()).into_response()
}

const HEAD: &str = "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">";

fn plain(status: StatusCode, page: String) -> Response {
    let kind = [(header::CONTENT_TYPE, "text/html; charset=utf-8")];
    (status, kind, quiet(), page).into_response()
}

/// A field for a code, and nothing else: whose door it is is not said.
fn door(code: &str, name: &str, says: &str, status: StatusCode) -> Response {
    let digits: String = code.chars().filter(char::is_ascii_digit).take(12).collect();
    plain(
        status,
        format!(
            "{HEAD}<title>Code</title><form method=\"post\" action=\"/join\"><p><label>Code <input name=\"code\" value=\"{digits}\" inputmode=\"numeric\" autocomplete=\"off\" size=\"14\"></label></p><p><label>Name of this device <input name=\"name\" value=\"{name}\" maxlength=\"{LONGEST_NAME}\" autocomplete=\"off\"></label></p><p><button>OK</button></p><p role=\"status\">{says}</p></form></html>"
        ),
    )
}

/// The code was right; the page asks by itself whether somebody said yes.
fn waits() -> Response {
    let page = format!(
        "{HEAD}<title>Wait</title><p role=\"status\">Now say yes on the other screen. This page goes on by itself; <a href=\"/\">look now</a>.</p></html>"
    );
    let mut response = plain(StatusCode::OK, page);
    response.headers_mut().insert(header::REFRESH, HeaderValue::from_static("2"));
    response
}

async fn join(share: &Share, peer: IpAddr, request: Request) -> Response {
    if !is_from_here(request.headers(), share) {
        return nothing();
    }
    let usual = device_name(request.headers());
    let body = axum::body::to_bytes(request.into_body(), LARGEST);
    let Ok(Ok(body)) = tokio::time::timeout(LONGEST, body).await else {
        return nothing();
    };
    let field = |name: &str| form_urlencoded::parse(&body).find(|(key, _)| key == name);
    let digits = field("code").map(|(_, code)| code.chars().filter(char::is_ascii_digit).collect());
    let typed: String = digits.unwrap_or_default();
    let name: Option<String> = field("name").map(|(_, name)| {
        let shown = name.trim().chars().filter(|c| !c.is_control());
        shown.take(LONGEST_NAME).collect()
    });
    let name = name.filter(|name| !name.is_empty()).unwrap_or_else(|| usual.to_owned());
    let now = share.ticks();
    match share.with_code(|code| code.tried(&typed, peer, now)) {
        Tried::TooOften => {
            let says = "Wrong code, and tried often. Ask for the code that is shown now.";
            door("", usual, says, StatusCode::TOO_MANY_REQUESTS)
        }
        Tried::Wrong => door("", usual, "Wrong code.", StatusCode::FORBIDDEN),
        Tried::Right => {
            let mut secret = [0_u8; 32];
            if SystemRandom::new().fill(&mut secret).is_err() {
                return nothing();
            }
            let secret = hex(&secret);
            share.with_line(|line| line.join(name, sha256(secret.as_bytes()), now));
            share.is_news();
            let secure = if share.is_secure() { "; Secure" } else { "" };
            let cookie = format!(
                "{COOKIE}={secret}; Path=/; Max-Age={KEPT}; HttpOnly; SameSite=Strict{secure}"
            );
            let mut response = to("/");
            if let Ok(value) = HeaderValue::from_str(&cookie) {
                response.headers_mut().insert(header::SET_COOKIE, value);
            }
            response
        }
    }
}

/// A code is only ever sent from the door itself.
fn is_from_here(headers: &HeaderMap, share: &Share) -> bool {
    let text = |name: header::HeaderName| headers.get(name).and_then(|v| v.to_str().ok());
    let host = text(header::HOST).and_then(|h| h.parse::<Uri>().ok());
    let Some(host) = host.and_then(|h| h.authority().map(|a| a.as_str().to_owned())) else {
        return false;
    };
    let own = [Some(share.address_words()), share.name_words()];
    let called = format!("{}://{host}", share.scheme());
    own.into_iter().flatten().any(|own| own.eq_ignore_ascii_case(&called))
        && text(header::ORIGIN).is_none_or(|origin| origin.eq_ignore_ascii_case(&called))
}

/// What a device is called until it is named: by what its browser says of it.
fn device_name(headers: &HeaderMap) -> &'static str {
    let agent = headers.get(header::USER_AGENT).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let kinds = [
        ("iPhone", "iPhone"),
        ("iPad", "iPad"),
        ("Android", "Android device"),
        ("Macintosh", "Mac"),
        ("Windows", "Windows computer"),
        ("Linux", "Linux computer"),
    ];
    let kind = kinds.iter().find(|(mark, _)| agent.contains(mark));
    kind.map_or("A browser", |(_, name)| name)
}
