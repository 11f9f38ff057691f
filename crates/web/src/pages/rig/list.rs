//! All rigs: open one, make another like it, put it away and bring it back.

use crate::forms::{first, rig};
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::look::Look;
use crate::frame::{App, Offer};
use askama::Template;
use axum::extract::{Path, State};
use axum::http::HeaderMap;
use axum::response::{Html, IntoResponse, Redirect, Response};
use lake_hour_store::{RigId, RigName};

#[derive(Template)]
#[template(path = "rig/list.html")]
struct RigsPage {
    head: Head,
    rigs: Vec<RigName>,
    archived: Vec<RigName>,
    examples: Vec<Offer>,
    answers: first::Answers,
}

impl RigsPage {
    #[allow(clippy::unused_self)]
    const fn has(&self) -> &'static [(&'static str, &'static str)] {
        crate::forms::have::KINDS
    }

    #[allow(clippy::unused_self)]
    const fn kinds(&self) -> &'static [(&'static str, &'static str)] {
        rig::KINDS
    }
}

pub(super) async fn show(
    State(app): State<App>,
    headers: HeaderMap,
) -> Result<Response, PageError> {
    let (archived, rigs) = app.store.rigs().await?.into_iter().partition(|r| r.archived);
    let head = Head::plain("Rigs", Look::of(&headers));
    let page = RigsPage {
        head,
        rigs,
        archived,
        examples: app.offers(),
        answers: first::Answers::default(),
    };
    Ok(Html(page.render().map_err(|_| PageError::Broken)?).into_response())
}

pub(super) async fn act(
    State(app): State<App>,
    Path((rig, act)): Path<(i64, String)>,
) -> Result<Redirect, PageError> {
    let rig = RigId(rig);
    match act.as_str() {
        "duplicate" => {
            let made = app.store.duplicate(rig).await?;
            Ok(Redirect::to(&format!("/rigs/{}/rig", made.0)))
        }
        "archive" | "bring-back" => {
            app.store.archive(rig, act == "archive").await?;
            Ok(Redirect::to("/rigs"))
        }
        _ => Err(PageError::NoSuchPage),
    }
}
