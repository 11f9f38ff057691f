//! Who may ask and who may write: the layers around every page.

use crate::error::{self, PageError};
use axum::Router;
use axum::body::Body;
use axum::extract::{DefaultBodyLimit, Request};
use axum::http::header::{self, HeaderName};
use axum::http::{HeaderValue, Method, StatusCode};
use axum::middleware::{self, Next};
use axum::response::IntoResponse;
use std::net::SocketAddr;
use std::time::Duration;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::TimeoutLayer;
use tower_http::trace::TraceLayer;

/// Largest form taken. A pack's form is under a kilobyte. [bytes]
const LARGEST_FORM: usize = 256 * 1024;
/// Longest a request may take.
const LONGEST: Duration = Duration::from_secs(20);

/// Nothing from elsewhere, nothing inline, no framing.
const CONTENT_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self'; \
     img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; \
     form-action 'self'";

pub(crate) fn around(pages: Router, host: SocketAddr) -> Router {
    let header = |name: HeaderName, value: &'static str| {
        SetResponseHeaderLayer::if_not_present(name, HeaderValue::from_static(value))
    };
    let trace = TraceLayer::new_for_http().make_span_with(|request: &Request<Body>| {
        // Path only: what was typed travels in bodies and queries, and stays out of the log.
        tracing::info_span!("request", method = %request.method(), path = request.uri().path())
    });
    pages
        .layer(middleware::from_fn(error::draw_problem))
        .layer(CatchPanicLayer::custom(|_| PageError::Broken.into_response()))
        .layer(middleware::from_fn(move |request: Request, next: Next| async move {
            match refusal(&request, host) {
                Some(problem) => problem.into_response(),
                None => next.run(request).await,
            }
        }))
        .layer(DefaultBodyLimit::max(LARGEST_FORM))
        .layer(middleware::from_fn(error::draw_problem))
        .layer(TimeoutLayer::with_status_code(StatusCode::REQUEST_TIMEOUT, LONGEST))
        .layer(CompressionLayer::new())
        .layer(header(header::CONTENT_SECURITY_POLICY, CONTENT_POLICY))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::X_FRAME_OPTIONS, "DENY"))
        .layer(header(header::REFERRER_POLICY, "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-resource-policy"), "same-origin"))
        .layer(header(header::CACHE_CONTROL, "no-store"))
        .layer(trace)
}

/// Why a request is not let through, if so.
///
/// A page elsewhere may point a name of its own at this machine (DNS rebinding): the name it calls
/// us by gives it away. It may also post a form here: its origin gives it away.
fn refusal(request: &Request, host: SocketAddr) -> Option<PageError> {
    let text = |name: HeaderName| request.headers().get(name).and_then(|v| v.to_str().ok());
    let called = text(header::HOST)
        .or_else(|| request.uri().authority().map(axum::http::uri::Authority::as_str));
    let Some(called) = called.filter(|name| is_us(name, host)) else {
        return Some(PageError::WrongHost);
    };
    if matches!(*request.method(), Method::GET | Method::HEAD) {
        return None;
    }
    let same_origin = match text(header::ORIGIN) {
        Some(origin) => origin.strip_prefix("http://") == Some(called),
        None => matches!(
            text(HeaderName::from_static("sec-fetch-site")),
            None | Some("same-origin" | "none")
        ),
    };
    (!same_origin).then_some(PageError::OtherSite)
}

/// Whether a `Host` header names this server: a loopback name, or the address listened on.
fn is_us(called: &str, host: SocketAddr) -> bool {
    let name = match called.rsplit_once(':') {
        Some((name, port)) if !port.ends_with(']') => {
            if port.parse() != Ok(host.port()) {
                return false;
            }
            name
        }
        // Browsers leave the port away only where it is http's own.
        _ if host.port() == 80 => called,
        _ => return false,
    };
    let address = name.trim_start_matches('[').trim_end_matches(']');
    name.eq_ignore_ascii_case("localhost")
        || address.parse::<std::net::IpAddr>().is_ok_and(|ip| ip.is_loopback() || ip == host.ip())
}
