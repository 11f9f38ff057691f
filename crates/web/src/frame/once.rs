//! What is submitted twice is done once: by a double click, a second Enter, a browser that asks again.
//!
//! Forms that add carry `once`, the state of the page they stand on. The same form with the same contents from the same state, sent
//! again before or soon after the first was answered, is led to where the first one led. It works without scripts: the first is
//! brought to its end even where its browser has turned away from it.

use super::App;
use axum::body::{Body, Bytes};
use axum::extract::{Request, State};
use axum::http::{HeaderValue, Method, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Redirect, Response};
use ring::digest;
use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

/// Most that are remembered, and for how long after the answer.
const MOST: usize = 128;
const REMEMBERED: Duration = Duration::from_secs(5);
/// Largest form that is looked at. [bytes]
const LARGEST: usize = 256 * 1024;
/// The field.
const FIELD: &str = "once";

/// Where one led, and when that was answered.
type Led = Arc<tokio::sync::Mutex<Option<(Instant, String)>>>;

/// Forms by their fingerprint, the newest last.
type Sent = VecDeque<([u8; 32], Led)>;

/// What was submitted just now.
#[derive(Debug, Clone, Default)]
pub(crate) struct Once(Arc<Mutex<Sent>>);

impl Once {
    /// The place of a form that was sent; another one where it was answered too long ago.
    fn of(&self, form: [u8; 32]) -> Led {
        let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let is_over = |led: &Led| {
            let led = led.try_lock().ok();
            led.is_some_and(|led| led.as_ref().is_some_and(|(at, _)| at.elapsed() > REMEMBERED))
        };
        all.retain(|(_, led)| !is_over(led));
        if let Some((_, led)) = all.iter().find(|(known, _)| *known == form) {
            return Arc::clone(led);
        }
        if all.len() >= MOST {
            all.pop_front();
        }
        let led = Led::default();
        all.push_back((form, Arc::clone(&led)));
        led
    }
}

/// Around all pages.
pub(crate) async fn only_once(State(app): State<App>, request: Request, next: Next) -> Response {
    let is_form = request
        .headers()
        .get(header::CONTENT_TYPE)
        .is_some_and(|kind| kind.as_bytes().starts_with(b"application/x-www-form-urlencoded"));
    let long =
        request.headers().get(header::CONTENT_LENGTH).and_then(|v| v.to_str().ok()?.parse().ok());
    // What is larger, or does not say how large it is, is no form that is clicked twice.
    let is_small = long.is_some_and(|long: usize| long <= LARGEST);
    if *request.method() != Method::POST || !is_form || !is_small {
        return next.run(request).await;
    }
    let (parts, body) = request.into_parts();
    let Ok(body) = axum::body::to_bytes(body, LARGEST).await else {
        // It says that it is small: who sends more is refused as further in; who broke off reads no answer.
        return super::error::PageError::TooLarge.into_response();
    };
    let marked = form_urlencoded::parse(&body).any(|(key, _)| key == FIELD);
    let request = Request::from_parts(parts, Body::from(body.clone()));
    if !marked {
        return next.run(request).await;
    }
    let led = app.once.of(fingerprint(&request, &body));
    let mut place = led.lock_owned().await;
    if let Some((_, to)) = &*place {
        return Redirect::to(to).into_response();
    }
    let from = request.headers().get(header::REFERER).and_then(path_of);
    // Brought to its end, whoever waits for it.
    let done = tokio::spawn(async move {
        let response = next.run(request).await;
        let status = response.status();
        if status.is_success() || status.is_redirection() {
            let header = |name: &str| response.headers().get(name).and_then(path_of);
            let to = header("location").or_else(|| header("HX-Push-Url"));
            let to = to.or_else(|| header("HX-Replace-Url")).or(from);
            *place = to.map(|to| (Instant::now(), to));
        }
        response
    });
    done.await.unwrap_or_else(|_| super::error::PageError::Broken.into_response())
}

/// Path and query of an address, so that nobody is led elsewhere.
fn path_of(address: &HeaderValue) -> Option<String> {
    let uri: axum::http::Uri = address.to_str().ok()?.parse().ok()?;
    uri.path_and_query()
        .map(|p| p.as_str().to_owned())
        .filter(|p| p.starts_with('/') && !p.starts_with("//"))
}

fn fingerprint(request: &Request, body: &Bytes) -> [u8; 32] {
    let mut all = digest::Context::new(&digest::SHA256);
    let address = request.uri().path_and_query().map_or("/", |p| p.as_str());
    let cookies = request.headers().get(header::COOKIE).map_or(&b""[..], HeaderValue::as_bytes);
    for part in [address.as_bytes(), cookies, body] {
        all.update(&(part.len() as u64).to_le_bytes());
        all.update(part);
    }
    let mut sum = [0; 32];
    sum.copy_from_slice(all.finish().as_ref());
    sum
}
