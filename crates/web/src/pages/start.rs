//! The first page of an empty database, and the way to the current rig.

use crate::forms::first::{self, Answers};
use crate::forms::rig::KINDS;
use crate::forms::{Typed, have};
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::look::Look;
use crate::frame::{App, Offer};
use askama::Template;
use axum::Router;
use axum::extract::{Path, State};
use axum::http::{HeaderMap, StatusCode};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::units::convert::M_PER_MILE;
use lake_hour_core::units::{Amps, Hours, Metres};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/", get(start))
        .route("/start/three", post(three).get(start_again))
        .route("/start/{with}", post(begin))
}

#[derive(Template)]
#[template(path = "start.html")]
struct StartPage {
    head: Head,
    examples: Vec<Offer>,
    answers: Answers,
}

impl StartPage {
    #[allow(clippy::unused_self)]
    const fn has(&self) -> &'static [(&'static str, &'static str)] {
        have::KINDS
    }

    #[allow(clippy::unused_self)]
    const fn kinds(&self) -> &'static [(&'static str, &'static str)] {
        KINDS
    }
}

/// Where a refused form stands: the same page, loaded fresh.
async fn start_again(State(app): State<App>, headers: HeaderMap) -> Result<Response, PageError> {
    let head = Head::plain("Start", Look::of(&headers));
    let page = StartPage { head, examples: app.offers(), answers: Answers::default() };
    Ok(Html(page.render().map_err(|_| PageError::Broken)?).into_response())
}

/// Three answers become a rig, a day, packs of typical batteries, and a Board.
async fn three(
    State(app): State<App>,
    headers: HeaderMap,
    typed: Typed,
) -> Result<Response, PageError> {
    let mut answers = Answers::of(&typed);
    let Some(mut plan) = answers.plan() else {
        let head = Head::plain("Start", Look::of(&headers));
        let page = StartPage { head, examples: app.offers(), answers };
        let html = page.render().map_err(|_| PageError::Broken)?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, Html(html)).into_response());
    };
    let typical = first::typical();
    // Only an empty shelf is stocked: what its owner has put there is his.
    app.store.stock(typical.clone()).await?;
    let plan = app
        .working(move || {
            let batteries: Vec<_> = typical.into_iter().map(|c| c.battery).collect();
            let proposed = first::proposed(&plan, &batteries);
            plan.packs.extend(proposed);
            plan
        })
        .await?;
    let rig = app.store.import(plan).await?;
    Ok(Redirect::to(&format!("/rigs/{}/board", rig.0)).into_response())
}

async fn start(State(app): State<App>, headers: HeaderMap) -> Result<Response, PageError> {
    if let Some(rig) = app.store.rigs().await?.iter().find(|r| !r.archived) {
        return Ok(Redirect::to(&format!("/rigs/{}/board", rig.id.0)).into_response());
    }
    let page = StartPage {
        head: Head::plain("Start", Look::of(&headers)),
        examples: app.offers(),
        answers: Answers::default(),
    };
    Ok(Html(page.render().map_err(|_| PageError::Broken)?).into_response())
}

async fn begin(State(app): State<App>, Path(with): Path<String>) -> Result<Redirect, PageError> {
    let (rig, open) = match with.as_str() {
        "own" => (app.store.import(own(CraftKind::VHull)).await?, "rig"),
        "own-kayak" => (app.store.import(own(CraftKind::Kayak)).await?, "rig"),
        "own-cart" => (app.store.import(own(CraftKind::GolfCart)).await?, "rig"),
        key => (app.demo.add(&app.store, key).await?.ok_or(PageError::NoSuchPage)?, "board"),
    };
    Ok(Redirect::to(&format!("/rigs/{}/{open}", rig.0)))
}

/// A beginning of one's own: one craft at its usual volts, one hour or a few miles, nothing on the board
/// yet.
fn own(kind: CraftKind) -> Plan {
    let first = if kind.is_boat() {
        ("Out", Hours::of(1.0), Duty::Current(Amps::of(15.0)))
    } else {
        ("A round", Hours::of(0.5), Duty::Distance(Metres::of(3.0 * M_PER_MILE)))
    };
    let name = match kind {
        CraftKind::Kayak => "My kayak",
        _ if kind.is_boat() => "My boat",
        _ => "My cart",
    };
    Plan {
        currency: "USD".to_owned(),
        rig: Rig::new(name, kind, kind.usual_volts()),
        day: Day::starting_at(7 * 60).then(first.0, first.1, first.2),
        rules: HouseRules::default(),
        packs: Vec::new(),
        wants: Vec::new(),
        build: Default::default(),
    }
}
