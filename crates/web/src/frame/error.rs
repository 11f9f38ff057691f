//! Errors become pages here and nowhere else.

use crate::frame::head::Head;
use crate::frame::look::Look;
use crate::frame::render::Render;
use askama::Template;
use axum::extract::Request;
use axum::http::{HeaderValue, StatusCode};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use lake_hour_store::{Role, StoreError};
use std::sync::Arc;

/// Anything that keeps a page from being shown.
#[derive(Debug, thiserror::Error)]
pub(crate) enum PageError {
    #[error("There is no page at this address.")]
    NoSuchPage,
    #[error("This address is not used that way. Nothing was changed.")]
    WrongMethod,
    #[error("This takes longer than a page should: Lake Hour is busy. Try once more in a moment.")]
    TooLong,
    #[error(
        "Other changes were in the way for too long. Nothing was changed; what you typed is still on the page you came from."
    )]
    Busy,
    #[error(
        "What was kept of this rig cannot be read any more ({why}). Its other parts and your other rigs are as they were. It reads: {text}"
    )]
    Unreadable { text: String, why: String },
    #[error("What you asked for is no longer there: {0}.")]
    Gone(String),
    #[error("That does not fit: {0}.")]
    Full(String),
    #[error("This form could not be read: {0}.")]
    BadForm(String),
    #[error("This is more than a form can hold: at most 256 kB are read. Nothing was changed.")]
    TooLarge,
    #[error("This file is larger than {0} MB, the most that is taken. Nothing was changed.")]
    FileTooLarge(usize),
    #[error(
        "This address is not one of Lake Hour's own. Open it by the address it printed when it started."
    )]
    WrongHost,
    #[error(
        "This device may only {}. Nothing was changed. Somebody at the machine can let it do more, under \"On your phone\".", only(.0)
    )]
    NotByRole(Role),
    #[error("Changes can only be made from Lake Hour's own pages. Nothing was changed.")]
    OtherSite,
    #[error(
        "Something broke on our side. Nothing was changed; try once more, and then restart Lake Hour."
    )]
    Broken,
    #[error(
        "The database could not do it: {0}. Nothing was changed; what you typed is still on the page you came from."
    )]
    Store(StoreError),
    #[error("The folder for files on their way refused, {0}. Nothing was changed.")]
    Temp(String),
    #[error(
        "The disk that holds your rigs refused: {0}. Nothing was changed; what you typed is still on the page you came from."
    )]
    Disk(String),
}

/// What a device of a role does, after "may only".
const fn only(role: &Role) -> &'static str {
    match role {
        Role::Watch => "watch the trip that is under way",
        Role::Log => "look, and write to the trip and the log",
        Role::Everything => "do what is not done at the machine alone",
    }
}

impl PageError {
    fn status(&self) -> StatusCode {
        match self {
            Self::NoSuchPage | Self::Gone(_) => StatusCode::NOT_FOUND,
            Self::WrongMethod => StatusCode::METHOD_NOT_ALLOWED,
            Self::TooLong | Self::Busy => StatusCode::SERVICE_UNAVAILABLE,
            Self::Full(_) => StatusCode::CONFLICT,
            Self::BadForm(_) => StatusCode::BAD_REQUEST,
            Self::TooLarge | Self::FileTooLarge(_) => StatusCode::PAYLOAD_TOO_LARGE,
            Self::WrongHost => StatusCode::MISDIRECTED_REQUEST,
            Self::OtherSite | Self::NotByRole(_) => StatusCode::FORBIDDEN,
            Self::Disk(_) | Self::Temp(_) => StatusCode::INSUFFICIENT_STORAGE,
            Self::Broken | Self::Store(_) | Self::Unreadable { .. } => {
                StatusCode::INTERNAL_SERVER_ERROR
            }
        }
    }

    const fn heading(&self) -> &'static str {
        match self {
            Self::NoSuchPage | Self::Gone(_) => "Not found",
            Self::Full(_) => "No more fit",
            Self::BadForm(_) | Self::TooLarge | Self::FileTooLarge(_) => "Not read",
            Self::WrongHost | Self::OtherSite | Self::WrongMethod | Self::NotByRole(_) => "Refused",
            Self::TooLong | Self::Busy => "Busy",
            Self::Unreadable { .. } => "Cannot be read",
            Self::Disk(_) | Self::Temp(_) => "Not saved",
            Self::Broken | Self::Store(_) => "Our fault",
        }
    }
}

/// A file of the moment could not be made or written: where, and what to do.
pub(crate) fn of_temp(error: &std::io::Error) -> PageError {
    let folder = std::env::temp_dir();
    let why = match error.kind() {
        std::io::ErrorKind::StorageFull => "it is full; free some space there",
        std::io::ErrorKind::PermissionDenied | std::io::ErrorKind::ReadOnlyFilesystem => {
            "it may only be read; allow writing there"
        }
        std::io::ErrorKind::NotFound => "it is not there; make it",
        _ => "it cannot be written",
    };
    PageError::Temp(format!(
        "{}: {why}, or start Lake Hour with another one in TMPDIR",
        folder.display()
    ))
}

impl From<StoreError> for PageError {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound(_) => Self::Gone(error.to_string()),
            StoreError::Full { .. } | StoreError::Taken(_) => Self::Full(error.to_string()),
            StoreError::Busy => Self::Busy,
            StoreError::Unreadable { text, why } => Self::Unreadable { text, why },
            StoreError::Database(_)
            | StoreError::Disk(_)
            | StoreError::LooksOnly(_)
            | StoreError::HalfTaken(_)
            | StoreError::NoRoom { .. } => match error.of_disk() {
                Some(says) => Self::Disk(says),
                None => Self::Store(error),
            },
            StoreError::Stored(_)
            | StoreError::Unknown(_)
            | StoreError::Panicked
            | StoreError::Closed => Self::Store(error),
        }
    }
}

impl IntoResponse for PageError {
    /// Only the status and the error itself: [`draw_problem`] knows the request and draws.
    fn into_response(self) -> Response {
        let mut response = self.status().into_response();
        response.extensions_mut().insert(Arc::new(self));
        response
    }
}

#[derive(Template)]
#[template(path = "problem.html", blocks = ["notice"])]
struct ProblemPage {
    head: Head,
    heading: &'static str,
    sentence: String,
    /// Where the text that cannot be read is saved.
    save: Option<String>,
}

/// Draws the error a page ended in: a whole page, or a notice into the page that is open.
pub(crate) async fn draw_problem(render: Render, request: Request, next: Next) -> Response {
    let look = Look::of(request.headers());
    let rig = request.uri().path().split('/').nth(2).and_then(|rig| rig.parse().ok());
    let response = next.run(request).await;
    if response.extensions().get::<Drawn>().is_some() {
        return response;
    }
    let Some(problem) = response.extensions().get::<Arc<PageError>>().cloned() else {
        return if response.status() == StatusCode::PAYLOAD_TOO_LARGE {
            draw(&PageError::TooLarge, render, look, None)
        } else {
            response
        };
    };
    match &*problem {
        PageError::Store(source) => tracing::error!(%source, "a request failed"),
        PageError::Disk(says) => tracing::error!(%says, "the disk refused"),
        _ => {}
    }
    draw(&problem, render, look, rig)
}

/// On an answer whose problem is drawn already: an outer layer leaves it as it is.
#[derive(Clone, Copy)]
struct Drawn;

/// `rig` is the one whose page was asked for.
fn draw(problem: &PageError, render: Render, look: Look, rig: Option<i64>) -> Response {
    let damaged = matches!(problem, PageError::Unreadable { .. });
    let page = ProblemPage {
        head: Head::plain("Not shown", look),
        heading: problem.heading(),
        sentence: problem.to_string(),
        save: rig.filter(|_| damaged).map(|rig| format!("/rigs/{rig}/kept/rig/{rig}")),
    };
    let drawn = match render {
        Render::Page => page.render(),
        Render::Fragment => page.as_notice().render(),
    };
    let mut response = match drawn {
        Ok(html) => (problem.status(), Html(html)).into_response(),
        Err(_) => (problem.status(), problem.to_string()).into_response(),
    };
    response.extensions_mut().insert(Drawn);
    if render == Render::Fragment {
        // The page that is open, and all that was typed on it, stays.
        let headers = response.headers_mut();
        headers.insert("HX-Retarget", HeaderValue::from_static("#notice"));
        headers.insert("HX-Reswap", HeaderValue::from_static("outerHTML"));
    }
    response
}

pub(crate) async fn no_such_page() -> PageError {
    PageError::NoSuchPage
}

/// The address is there, but not for this method; what it is for stands in `Allow`.
pub(crate) async fn wrong_method() -> PageError {
    PageError::WrongMethod
}
