//! A plan file comes back: shown first, then a rig of its own or in the place of one, which can be undone.

use crate::forms::Typed;
use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::look::Look;
use crate::frame::upload;
use askama::Template;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Multipart, Query, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_core::plan::Plan;
use lake_hour_formats::fault::Fault;
use lake_hour_formats::plan;
use lake_hour_store::{Change, RigId};
use serde::Deserialize;
use std::io::Read as _;

/// Largest plan file taken on a page; a plan of two hundred packs is half of it. [bytes]
const LARGEST: usize = 2 << 20;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/plan", get(ask).post(look_at).layer(DefaultBodyLimit::max(LARGEST)))
        // The text comes back in a form, where every sign may take three.
        .route("/plan/take", post(take).layer(DefaultBodyLimit::max(LARGEST * 4)))
}

/// The rig that was open, which the file may replace.
#[derive(Deserialize)]
struct Over {
    rig: Option<i64>,
}

/// What is in a file, before anything is kept.
struct Looked {
    text: String,
    summary: Vec<(&'static str, String)>,
}

#[derive(Template)]
#[template(path = "load.html")]
struct LoadPage {
    head: Head,
    /// The rig that was open, with its name.
    over: Option<(i64, String)>,
    problem: Option<String>,
    faults: Vec<Fault>,
    looked: Option<Looked>,
}

impl LoadPage {
    async fn new(app: &App, over: &Over, headers: &HeaderMap) -> Result<Self, PageError> {
        let rigs = app.store.rigs().await?;
        let over = over.rig.and_then(|id| rigs.into_iter().find(|r| r.id == RigId(id)));
        Ok(Self {
            head: Head::plain("Open a plan file", Look::of(headers)),
            over: over.map(|r| (r.id.0, r.name)),
            problem: None,
            faults: Vec::new(),
            looked: None,
        })
    }

    fn answer(&self) -> Result<Response, PageError> {
        let bad = self.problem.is_some() || !self.faults.is_empty();
        let status = if bad { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
        Ok((status, Html(self.render().map_err(|_| PageError::Broken)?)).into_response())
    }

    fn query(&self) -> String {
        self.over.as_ref().map(|(id, _)| format!("?rig={id}")).unwrap_or_default()
    }
}

async fn ask(
    State(app): State<App>,
    Query(over): Query<Over>,
    headers: HeaderMap,
) -> Result<Response, PageError> {
    LoadPage::new(&app, &over, &headers).await?.answer()
}

async fn look_at(
    State(app): State<App>,
    Query(over): Query<Over>,
    headers: HeaderMap,
    form: Multipart,
) -> Result<Response, PageError> {
    let mut page = LoadPage::new(&app, &over, &headers).await?;
    let Some(mut upload) = upload::receive(form, LARGEST).await? else {
        page.problem = Some("Choose a plan file first, as in lake-hour.plan.json.".to_owned());
        return page.answer();
    };
    let mut bytes = Vec::new();
    upload.file.read_to_end(&mut bytes).map_err(|_| PageError::Broken)?;
    match plan::read(&bytes) {
        Ok(plan) => {
            let text = String::from_utf8(bytes).map_err(|_| PageError::Broken)?;
            page.looked = Some(Looked { text, summary: summary(&plan) });
        }
        Err(faults) => page.faults = faults.0,
    }
    page.answer()
}

/// What a plan holds, in a few lines.
fn summary(plan: &Plan) -> Vec<(&'static str, String)> {
    let names = |all: Vec<&str>| match all.len() {
        0 => "none".to_owned(),
        n => format!("{n}: {}", all.join(", ")),
    };
    vec![
        ("Rig", plan.rig.name.clone()),
        ("System", format!("{:.0}", plan.rig.motor.system_voltage)),
        ("Stretches", names(plan.day.stretches.iter().map(|s| s.name.as_str()).collect())),
        ("Packs", names(plan.packs.iter().map(|p| p.name.as_str()).collect())),
    ]
}

async fn take(
    State(app): State<App>,
    Query(over): Query<Over>,
    headers: HeaderMap,
    typed: Typed,
) -> Result<Response, PageError> {
    let plan = match plan::read(typed.get("plan").as_bytes()) {
        Ok(plan) => plan,
        Err(faults) => {
            let mut page = LoadPage::new(&app, &over, &headers).await?;
            page.faults = faults.0;
            return page.answer();
        }
    };
    let rig = match (typed.get("as"), over.rig) {
        ("over", Some(rig)) => {
            app.store.change(RigId(rig), Change::UsePlan(Box::new(plan))).await?;
            RigId(rig)
        }
        _ => app.store.import(plan).await?,
    };
    Ok(Redirect::to(&format!("/rigs/{}/board", rig.0)).into_response())
}
