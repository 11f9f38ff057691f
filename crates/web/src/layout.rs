//! What stands around every page: the header, the tabs, the theme.

use crate::App;
use crate::assets;
use axum::Router;
use axum::extract::Path;
use axum::http::{HeaderMap, HeaderValue, header};
use axum::response::{IntoResponse, Redirect, Response};
use axum::routing::post;

/// How the pages look.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Theme {
    /// Paper lake chart.
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

    /// The theme the browser remembers.
    pub(crate) fn of(headers: &HeaderMap) -> Self {
        headers
            .get_all(header::COOKIE)
            .iter()
            .filter_map(|v| v.to_str().ok())
            .flat_map(|v| v.split(';'))
            .filter_map(|pair| pair.trim().strip_prefix("theme="))
            .find_map(Self::from_key)
            .unwrap_or(Self::Day)
    }
}

/// What the frame of a page shows.
#[derive(Debug, Clone)]
pub(crate) struct Frame {
    pub(crate) title: String,
    pub(crate) theme: Theme,
    /// The current rig, by name and address.
    pub(crate) rig: Option<(String, String)>,
}

impl Frame {
    pub(crate) fn plain(title: &str, theme: Theme) -> Self {
        Self { title: title.to_owned(), theme, rig: None }
    }

    pub(crate) fn asset(&self, path: &str) -> String {
        assets::url(path)
    }

    pub(crate) const fn themes(&self) -> [Theme; 3] {
        Theme::ALL
    }
}

pub(crate) fn routes() -> Router<App> {
    Router::new().route("/theme/{key}", post(choose_theme))
}

/// Remembers the theme in a cookie, so that the next page comes in it without a flash. The page
/// itself needs no other cookie, and this one says nothing about anyone.
async fn choose_theme(Path(key): Path<String>, headers: HeaderMap) -> Response {
    let theme = Theme::from_key(&key).unwrap_or(Theme::Day);
    let cookie = format!("theme={}; Path=/; Max-Age=31536000; SameSite=Strict", theme.key());
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
