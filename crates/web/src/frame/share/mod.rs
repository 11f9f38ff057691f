//! On the phone at the ramp: a second listener in one's own network, for devices that were let in by a code that holds once.
//! Whoever was not is told nothing, not even whose door it is.

mod code;
mod tls;

pub use tls::{Certificate, own_address};

use super::App;
use super::look::cookie;
use super::trips::is_near;
use axum::Router;
use axum::body::Body;
use axum::extract::{Request, State};
use axum::http::{HeaderMap, HeaderValue, Method, StatusCode, Uri, header};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};
use code::{Code, Tried};
use ring::digest;
use ring::rand::{SecureRandom, SystemRandom};
use std::net::{IpAddr, SocketAddr};
use std::sync::{Arc, Mutex, PoisonError};

/// The second listener.
#[derive(Debug)]
pub(crate) struct Share {
    /// Where it listens.
    pub(crate) address: SocketAddr,
    /// SHA-256 of its certificate; `None` where it speaks plainly.
    pub(crate) fingerprint: Option<String>,
    code: Mutex<Code>,
}

/// What a device shows, as its SHA-256: it stands in a request that comes by the second listener.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Seat(pub(crate) [u8; 32]);

/// The cookie of a session.
const COOKIE: &str = "seat";
/// Kept for a year. [s]
const KEPT: u32 = 31_536_000;
/// Most that is read of a code that is sent. [bytes]
const LARGEST: usize = 256;

fn now() -> i64 {
    jiff::Timestamp::now().as_second()
}

pub(crate) fn sha256(bytes: &[u8]) -> [u8; 32] {
    let mut sum = [0; 32];
    sum.copy_from_slice(digest::digest(&digest::SHA256, bytes).as_ref());
    sum
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

impl Share {
    pub(crate) fn new(address: SocketAddr, fingerprint: Option<String>) -> Self {
        Self { address, fingerprint, code: Mutex::new(Code::new(now())) }
    }

    const fn is_secure(&self) -> bool {
        self.fingerprint.is_some()
    }

    const fn scheme(&self) -> &'static str {
        if self.is_secure() { "https" } else { "http" }
    }

    /// What is typed at the other end.
    pub(crate) fn address_words(&self) -> String {
        format!("{}://{}", self.scheme(), self.address)
    }

    /// The code that holds now.
    pub(crate) fn code(&self) -> String {
        self.with(|code| code.now(now()))
    }

    /// What a camera is shown: the address with the code in it.
    pub(crate) fn invitation(&self) -> String {
        format!("{}/join/{}", self.address_words(), self.code())
    }

    fn with<T>(&self, work: impl FnOnce(&mut Code) -> T) -> T {
        work(&mut self.code.lock().unwrap_or_else(PoisonError::into_inner))
    }
}

/// The pages as the second listener has them.
pub(crate) fn around(pages: Router, app: App, share: Arc<Share>) -> Router {
    pages.layer(middleware::from_fn_with_state((app, share), only_who_was_let_in))
}

/// Who comes by the second listener.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Peer(pub(crate) IpAddr);

async fn only_who_was_let_in(
    State((app, share)): State<(App, Arc<Share>)>,
    mut request: Request,
    next: Next,
) -> Response {
    let peer = request.extensions().get::<Peer>().copied();
    if peer.is_some_and(|peer| !is_near(peer.0)) {
        return nothing();
    }
    let path = request.uri().path().to_owned();
    if let Some(seat) = seat(request.headers())
        && let Ok(Some(device)) = app.store.device_of(seat.0).await
    {
        // Who is let in is its owner's to say, at the machine itself.
        if path.starts_with("/share") {
            return nothing();
        }
        if path.starts_with("/join") || path == "/" && request.uri().query() == Some("joined") {
            return to("/");
        }
        let _ = app.store.seen_device(device, now()).await;
        request.extensions_mut().insert(seat);
        return next.run(request).await;
    }
    match (request.method(), path.as_str()) {
        (&Method::GET, "/") => door(""),
        (&Method::GET, path) if path.starts_with("/join/") => {
            door(path.trim_start_matches("/join/"))
        }
        (&Method::POST, "/join") => join(&app, &share, request).await,
        _ => nothing(),
    }
}

fn seat(headers: &HeaderMap) -> Option<Seat> {
    let shown = cookie(headers, COOKIE)?;
    (shown.len() == 64).then(|| Seat(sha256(shown.as_bytes())))
}

/// An answer that tells nothing.
fn nothing() -> Response {
    (StatusCode::NOT_FOUND, quiet(), Body::empty()).into_response()
}

fn quiet() -> [(header::HeaderName, &'static str); 4] {
    [
        (header::CACHE_CONTROL, "no-store"),
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

/// A field for a code, and nothing else: whose door it is is not said.
fn door(code: &str) -> Response {
    door_saying(code, "", StatusCode::OK)
}

fn door_saying(code: &str, says: &str, status: StatusCode) -> Response {
    let digits: String = code.chars().filter(char::is_ascii_digit).take(12).collect();
    let page = format!(
        "<!doctype html><html lang=\"en\"><meta charset=\"utf-8\"><meta name=\"viewport\" content=\"width=device-width, initial-scale=1\"><title>Code</title><form method=\"post\" action=\"/join\"><p><label>Code <input name=\"code\" value=\"{digits}\" inputmode=\"numeric\" autocomplete=\"off\" size=\"14\"></label> <button>OK</button></p><p role=\"status\">{says}</p></form></html>"
    );
    let kind = [(header::CONTENT_TYPE, "text/html; charset=utf-8")];
    (status, kind, quiet(), page).into_response()
}

async fn join(app: &App, share: &Share, request: Request) -> Response {
    if !is_from_here(request.headers(), share) {
        return nothing();
    }
    let name = device_name(request.headers());
    let Ok(body) = axum::body::to_bytes(request.into_body(), LARGEST).await else {
        return nothing();
    };
    let typed = form_urlencoded::parse(&body).find(|(key, _)| key == "code");
    let typed: String = typed
        .map(|(_, code)| code.chars().filter(char::is_ascii_digit).collect())
        .unwrap_or_default();
    match share.with(|code| code.tried(&typed, now())) {
        Tried::TooOften => {
            door_saying("", "Wait a minute, then try again.", StatusCode::TOO_MANY_REQUESTS)
        }
        Tried::Wrong => door_saying("", "That is not it.", StatusCode::FORBIDDEN),
        Tried::Right => {
            let mut secret = [0_u8; 32];
            if SystemRandom::new().fill(&mut secret).is_err() {
                return nothing();
            }
            let secret = hex(&secret);
            if app.store.let_in(name, sha256(secret.as_bytes()), now()).await.is_err() {
                return door_saying("", "No room: remove a device first.", StatusCode::CONFLICT);
            }
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
    let here = host.and_then(|h| h.authority().map(|a| a.as_str().to_owned()));
    let called = here.as_deref() == Some(share.address.to_string().as_str());
    let origin = text(header::ORIGIN);
    let own = share.address_words();
    called && origin.is_none_or(|origin| origin == own)
}

/// What a device is called in the list: by what its browser says of it.
fn device_name(headers: &HeaderMap) -> String {
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
    kind.map_or("A browser", |(_, name)| name).to_owned()
}
