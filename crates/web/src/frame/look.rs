//! How the pages look to this browser: its theme, units and clock, remembered in cookies that say
//! nothing about anyone.

use crate::frame::App;
use axum::Router;
use axum::extract::{Path, Request, State};
use axum::http::{HeaderMap, HeaderValue, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Redirect, Response};
use axum::routing::post;
use lake_hour_core::units::say::{Clock, Say};
use lake_hour_core::units::system::System;
use lake_hour_store::Trouble;

/// The colours.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Theme {
    /// Paper lake chart.
    #[default]
    Day,
    /// Dark.
    Night,
    /// Black on white, thick lines, larger type: a phone in daylight.
    Sun,
}

impl Theme {
    pub(crate) const ALL: [Self; 3] = [Self::Day, Self::Night, Self::Sun];

    pub(crate) const fn key(self) -> &'static str {
        match self {
            Self::Day => "day",
            Self::Night => "night",
            Self::Sun => "sun",
        }
    }

    pub(crate) const fn name(self) -> &'static str {
        match self {
            Self::Day => "Day",
            Self::Night => "Night",
            Self::Sun => "Sun",
        }
    }

    fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|t| t.key() == key)
    }
}

/// Theme, units and clock.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct Look {
    pub(crate) theme: Theme,
    pub(crate) units: System,
    pub(crate) clock: Clock,
    /// The theme was chosen, and is not only the usual one.
    pub(crate) chosen: bool,
    /// The browser says that it is a phone's.
    pub(crate) phone: bool,
    /// Why nothing can be changed, if so.
    pub(crate) trouble: Option<Trouble>,
}

tokio::task_local! {
    /// Why nothing can be changed while a request is answered.
    static TROUBLE: Option<Trouble>;
}

/// What is in the way of changes is known to every page that is drawn for a request.
pub(crate) async fn with_trouble(State(app): State<App>, request: Request, next: Next) -> Response {
    TROUBLE.scope(app.store.trouble(), next.run(request)).await
}

impl Look {
    /// The look of the page under way: on a phone black on white, unless another was chosen.
    pub(crate) const fn under_way(self) -> Self {
        if self.phone && !self.chosen { Self { theme: Theme::Sun, ..self } } else { self }
    }

    /// Why nothing can be changed, for the bar on every page.
    pub(crate) fn trouble_words(self) -> Option<&'static str> {
        self.trouble.map(|trouble| match trouble {
            Trouble::ReadOnly => {
                "Only to look at: the folder with your data may only be read, so no change is kept."
            }
            Trouble::Full => "The disk is full, so no change is kept until there is room.",
            Trouble::Damaged => "The file with your data is damaged, so no change is kept.",
        })
    }

    /// How figures are said to this browser.
    pub(crate) const fn say(self, currency: &str) -> Say<'_> {
        Say { units: self.units, clock: self.clock, currency }
    }

    /// What the browser remembers.
    pub(crate) fn of(headers: &HeaderMap) -> Self {
        let cookie = |name: &str| cookie(headers, name);
        let agent = headers.get(header::USER_AGENT).and_then(|v| v.to_str().ok());
        Self {
            theme: cookie("theme").and_then(|k| Theme::from_key(&k)).unwrap_or_default(),
            units: cookie("units").and_then(|k| System::from_key(&k)).unwrap_or_default(),
            clock: cookie("clock").and_then(|k| Clock::from_key(&k)).unwrap_or_default(),
            chosen: cookie("theme").is_some(),
            phone: agent.is_some_and(|a| a.contains("Mobi")),
            trouble: TROUBLE.try_with(|trouble| *trouble).unwrap_or_default(),
        }
    }
}

/// A cookie of a request.
pub(crate) fn cookie(headers: &HeaderMap, name: &str) -> Option<String> {
    let all = headers.get_all(header::COOKIE).iter().filter_map(|v| v.to_str().ok());
    all.flat_map(|v| v.split(';'))
        .filter_map(|pair| pair.trim().split_once('='))
        .find(|(key, _)| *key == name)
        .map(|(_, value)| value.to_owned())
}

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/theme/{key}", post(choose_theme))
        .route("/units/{key}", post(choose_units))
        .route("/clock/{key}", post(choose_clock))
}

async fn choose_theme(Path(key): Path<String>, headers: HeaderMap) -> Response {
    remember("theme", Theme::from_key(&key).unwrap_or_default().key(), &headers)
}

async fn choose_units(Path(key): Path<String>, headers: HeaderMap) -> Response {
    remember("units", System::from_key(&key).unwrap_or_default().key(), &headers)
}

async fn choose_clock(Path(key): Path<String>, headers: HeaderMap) -> Response {
    remember("clock", Clock::from_key(&key).unwrap_or_default().key(), &headers)
}

/// Keeps a choice in a cookie, so that the next page comes in it without a flash, and goes back.
fn remember(name: &str, key: &str, headers: &HeaderMap) -> Response {
    let cookie = format!("{name}={key}; Path=/; Max-Age=31536000; SameSite=Strict");
    // Only the path of the referring page: never a redirect to somewhere else.
    let back = headers
        .get(header::REFERER)
        .and_then(|v| v.to_str().ok())
        .and_then(|v| v.parse::<axum::http::Uri>().ok())
        .and_then(|uri| uri.path_and_query().map(|p| p.as_str().to_owned()))
        .filter(|path| path.starts_with('/') && !path.starts_with("//"))
        .unwrap_or_else(|| "/".to_owned());
    let mut response = Redirect::to(&back).into_response();
    if let Ok(value) = HeaderValue::from_str(&cookie) {
        response.headers_mut().insert(header::SET_COOKIE, value);
    }
    response
}
