//! Who may ask and who may write: the layers around every page.

use crate::frame::error::{self, PageError};
use crate::frame::share::NotByRole;
use axum::Router;
use axum::body::Body;
use axum::extract::{DefaultBodyLimit, Request};
use axum::http::header::{self, HeaderName};
use axum::http::{HeaderValue, Method, StatusCode};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};
use std::hash::{Hash, Hasher};
use std::net::SocketAddr;
use std::sync::Arc;
use std::time::Duration;
use tower_http::CompressionLevel;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::timeout::RequestBodyTimeoutLayer;
use tower_http::trace::TraceLayer;

/// Largest form taken. A pack's form is under a kilobyte. [bytes]
const LARGEST_FORM: usize = 256 * 1024;
/// Longest that a page may take to be answered. A change has no such limit: one that has begun comes to
/// an end, and one that waits too long for its turn is withdrawn by the store.
const LONGEST: Duration = Duration::from_secs(20);
/// Longest pause within what is sent.
const LONGEST_PAUSE: Duration = Duration::from_secs(20);

/// Nothing from elsewhere, nothing inline, no framing.
const CONTENT_POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self'; \
     img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; \
     form-action 'self'";

/// What a browser calls this server.
#[derive(Clone)]
pub(crate) struct Called {
    address: Arc<dyn Fn() -> SocketAddr + Send + Sync>,
    name: Option<String>,
    /// "http" or "https".
    scheme: &'static str,
}

impl Called {
    /// By one address, for good.
    pub(crate) fn at(address: SocketAddr) -> Self {
        Self::moving(move || address, None, "http")
    }

    /// By an address that may change, and by a name.
    pub(crate) fn moving(
        address: impl Fn() -> SocketAddr + Send + Sync + 'static,
        name: Option<String>,
        scheme: &'static str,
    ) -> Self {
        Self { address: Arc::new(address), name, scheme }
    }
}

pub(crate) fn around(pages: Router, called: Called) -> Router {
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
        .layer(middleware::from_fn(move |request: Request, next: Next| {
            let refused = refusal(&request, &called);
            async move {
                match refused {
                    Some(problem) => problem.into_response(),
                    None => next.run(request).await,
                }
            }
        }))
        .layer(DefaultBodyLimit::max(LARGEST_FORM))
        .layer(middleware::from_fn(in_time))
        .layer(middleware::from_fn(error::draw_problem))
        .layer(RequestBodyTimeoutLayer::new(LONGEST_PAUSE))
        .layer(middleware::from_fn(unchanged))
        // Pages are packed as they are asked for, as lightly as keeps the longest under 20 kB: most are read on the machine that made them.
        .layer(CompressionLayer::new().quality(CompressionLevel::Precise(4)))
        .layer(header(header::CONTENT_SECURITY_POLICY, CONTENT_POLICY))
        .layer(header(header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
        .layer(header(header::X_FRAME_OPTIONS, "DENY"))
        .layer(header(header::REFERRER_POLICY, "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-opener-policy"), "same-origin"))
        .layer(header(HeaderName::from_static("cross-origin-resource-policy"), "same-origin"))
        .layer(header(header::CACHE_CONTROL, "private, no-cache"))
        .layer(trace)
}

/// A look that takes too long is given up with a page that says so.
async fn in_time(request: Request, next: Next) -> Response {
    if !matches!(*request.method(), Method::GET | Method::HEAD) {
        return next.run(request).await;
    }
    match tokio::time::timeout(LONGEST, next.run(request)).await {
        Ok(response) => response,
        Err(_) => PageError::TooLong.into_response(),
    }
}

/// A page that is as the browser has it already is not sent again.
async fn unchanged(request: Request, next: Next) -> Response {
    let asked = *request.method() == Method::GET;
    let has = request.headers().get(header::IF_NONE_MATCH).cloned();
    let response = next.run(request).await;
    let page = response
        .headers()
        .get(header::CONTENT_TYPE)
        .is_some_and(|k| k.as_bytes().starts_with(b"text/html"));
    if !asked || !page || response.status() != StatusCode::OK {
        return response;
    }
    let (mut head, body) = response.into_parts();
    let Ok(bytes) = axum::body::to_bytes(body, usize::MAX).await else {
        return PageError::Broken.into_response();
    };
    let mut hash = std::hash::DefaultHasher::new();
    bytes.hash(&mut hash);
    // Weak: packed or not, it is the same page.
    let Ok(tag) = HeaderValue::try_from(format!("W/\"{:016x}\"", hash.finish())) else {
        return (head, bytes).into_response();
    };
    if has.as_ref() == Some(&tag) {
        head.status = StatusCode::NOT_MODIFIED;
        head.headers.remove(header::CONTENT_LENGTH);
        head.headers.insert(header::ETAG, tag);
        return (head, Body::empty()).into_response();
    }
    head.headers.insert(header::ETAG, tag);
    (head, bytes).into_response()
}

/// Why a request is not let through, if so.
///
/// A page elsewhere may point a name of its own at this machine (DNS rebinding): the name it calls
/// us by gives it away. It may also post a form here: its origin gives it away, or the browser's word
/// where the form comes from. What says either must not be contradicted by the other.
fn refusal(request: &Request, us: &Called) -> Option<PageError> {
    // What cannot be read is no known name, and is not taken for none.
    let text =
        |name: HeaderName| request.headers().get(name).map(|v| v.to_str().unwrap_or("unreadable"));
    // Which of two is meant nobody knows.
    let one = request.headers().get_all(header::HOST).iter().nth(1).is_none();
    let called = text(header::HOST)
        .filter(|_| one)
        .or_else(|| request.uri().authority().map(axum::http::uri::Authority::as_str));
    let Some(called) = called.filter(|name| is_us(name, us)) else {
        return Some(PageError::WrongHost);
    };
    if let Some(NotByRole(role)) = request.extensions().get() {
        return Some(PageError::NotByRole(*role));
    }
    if matches!(*request.method(), Method::GET | Method::HEAD) {
        return None;
    }
    let own = |origin: &str| origin.split_once("://") == Some((us.scheme, called));
    let from_here = text(header::ORIGIN).is_none_or(own);
    let sent_here = matches!(
        text(HeaderName::from_static("sec-fetch-site")),
        None | Some("same-origin" | "none")
    );
    (!from_here || !sent_here).then_some(PageError::OtherSite)
}

/// Whether a `Host` header names this server: a loopback name, or the address listened on. Where it
/// listens on all addresses any of them will do: a name pointed here from elsewhere is none.
fn is_us(called: &str, us: &Called) -> bool {
    let host = (us.address)();
    let name = match called.rsplit_once(':') {
        Some((name, port)) if !port.ends_with(']') => {
            if port.parse() != Ok(host.port()) {
                return false;
            }
            name
        }
        // Browsers leave the port away only where it is the scheme's own.
        _ if host.port() == if us.scheme == "https" { 443 } else { 80 } => called,
        _ => return false,
    };
    let address = name.trim_start_matches('[').trim_end_matches(']');
    name.eq_ignore_ascii_case("localhost")
        || us.name.as_ref().is_some_and(|own| own.eq_ignore_ascii_case(name))
        || address
            .parse::<std::net::IpAddr>()
            .is_ok_and(|ip| ip.is_loopback() || ip == host.ip() || host.ip().is_unspecified())
}

#[cfg(test)]
mod tests {
    use super::*;
    use axum::routing::{get, post};
    use tower::ServiceExt;

    const HOST: SocketAddr =
        SocketAddr::new(std::net::IpAddr::V4(std::net::Ipv4Addr::LOCALHOST), 8640);

    async fn answered(method: Method, path: &str) -> (StatusCode, String) {
        let stall = || async {
            tokio::time::sleep(LONGEST * 2).await;
            "late"
        };
        let fault: fn() -> std::future::Ready<&'static str> = || panic!("a fault of ours");
        let pages = Router::new()
            .route("/panics", get(fault))
            .route("/stalls", get(stall))
            .route("/changes", post(stall));
        let request = Request::builder().method(method).uri(path).header("host", "127.0.0.1:8640");
        let request = request.body(Body::empty()).expect("a request");
        let Ok(answer) = around(pages, Called::at(HOST)).oneshot(request).await;
        let status = answer.status();
        let body = axum::body::to_bytes(answer.into_body(), usize::MAX).await.expect("a page");
        (status, String::from_utf8_lossy(&body).into_owned())
    }

    /// A fault of the program's own is a page that says so; the next request is answered as ever.
    #[tokio::test]
    async fn a_panic_is_a_page_in_words() {
        let (status, page) = answered(Method::GET, "/panics").await;
        assert_eq!(status, StatusCode::INTERNAL_SERVER_ERROR);
        assert!(page.contains("<h1>") && !page.contains("a fault of ours"), "{page}");
    }

    /// A look that takes too long is given up; a change, once begun, comes to its end.
    #[tokio::test(start_paused = true)]
    async fn what_takes_too_long_is_given_up_unless_it_changes_something() {
        let (status, page) = answered(Method::GET, "/stalls").await;
        assert!(status.is_server_error() && page.contains("<h1>"), "{status} {page}");
        let (status, body) = answered(Method::POST, "/changes").await;
        assert_eq!((status, body.as_str()), (StatusCode::OK, "late"));
    }
}
