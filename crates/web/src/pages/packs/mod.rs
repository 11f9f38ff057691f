//! The Packs: what could be built of the shelf for this rig and day, and what each would be like.

mod bench;
mod charger;
mod fits;
mod hand;
mod house;
mod list;
mod near;
mod opened;
mod page;
mod power;
mod row;
mod turn;
mod view;
mod weight;
mod wiring;

use crate::forms::Typed;
use crate::frame::App;
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::proposed::WhatIf;
use crate::frame::render::Render;
use crate::frame::turned;
use crate::frame::view::Page;
use axum::Router;
use axum::http::{HeaderValue, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use hand::Built;
use lake_hour_core::pack::{Pack, Taken};
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Battery;
use lake_hour_store::{BatteryId, Change, Place};
use list::List;
use page::{Found, PacksPage};
use std::collections::BTreeSet;
use view::{PacksView, Which};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/packs", get(show))
        .route("/rigs/{rig}/packs/wiring.svg", get(file))
        .route("/rigs/{rig}/packs/take", post(take).get(back))
        .route("/rigs/{rig}/packs/undo", post(undo).get(back))
        .route("/rigs/{rig}/packs/redo", post(redo).get(back))
}

/// A form's own address visited: without scripts it stands in the address bar after a refused form.
async fn back(asked: Asked, view: PacksView) -> Redirect {
    Redirect::to(&view.address(asked.rig))
}

async fn show(asked: Asked, view: PacksView) -> Result<Response, PageError> {
    draw(&asked, view, None).await
}

/// A pack of a battery of the shelf, by how many of it there are.
fn pack_of(plan: &Plan, battery: &Battery, which: Which) -> Pack {
    let mut pack = lake_hour_core::proposals::pack(plan, battery, which.series, which.parallel);
    pack.from = Some(Taken::of(&*battery.name));
    pack
}

/// Draws the packs as they are now.
async fn draw(asked: &Asked, view: PacksView, said: Option<String>) -> Result<Response, PageError> {
    let view = view.with_units(asked.look.units);
    let board = asked.board().await?;
    let look = asked.look;
    let plan = wiring::with_lead(view.board.nudges.applied(&board.plan, look.units), &view, look);
    let proposals = {
        let what_if = WhatIf {
            nudges: view.board.nudges,
            units: look.units,
            lead: plan.rig.lead,
            house: house::asked(&view, &plan).0,
        };
        asked.app.proposals(&board, what_if, &plan).await?
    };
    let (proposals, missing) = match proposals {
        Ok(proposals) => (proposals, None),
        Err(unknown) => (Default::default(), Some(unknown)),
    };
    let listed = {
        let (view, currency) = (view.clone(), plan.currency.clone());
        let found = proposals.found.clone();
        asked.app.working(move || List::of(&found, &view, look.say(&currency)))
    };
    let list = listed.await?;
    let mut wanted: BTreeSet<BatteryId> = list.rows.iter().map(|r| r.which.battery).collect();
    wanted.extend(list.near.iter().map(|n| n.which.battery));
    wanted.extend(list.others.iter().map(|which| which.battery));
    wanted.extend(view.open.iter().chain(&view.beside).map(|which| which.battery));
    wanted.extend(view.odd_unit.iter().chain(view.second.iter().map(|w| &w.battery)));
    let house = house::best(&proposals.house);
    wanted.extend(house.iter().map(|(id, ..)| *id).chain(view.house.map(|w| w.battery)));
    let starters = house::cheapest(&proposals.starters);
    wanted.extend(starters.iter().map(|s| s.battery));
    let labels = asked.app.store.labels(wanted).await?;
    let names = if view.hand { asked.app.store.names(hand::MOST_NAMES).await? } else { Vec::new() };
    let address = view.address(asked.rig);
    let (render, verdicts) = (asked.render, asked.app.verdicts.clone());
    let html = asked.app.working(move || {
        let house = (house, starters);
        let found = Found { board, plan, proposals, list, labels, names, house, missing, verdicts };
        PacksPage::new(&found, look, view, said).html(render)
    });
    let html = html.await??;
    let vary = [(header::VARY, "HX-Request-Type, Cookie")];
    let mut response = (vary, Html(html)).into_response();
    if asked.render == Render::Fragment
        && asked.posted
        && let Ok(address) = HeaderValue::from_str(&address)
    {
        response.headers_mut().insert("HX-Replace-Url", address);
    }
    Ok(response)
}

/// The wiring of a pack as a picture that any reader of SVG opens.
async fn file(asked: Asked, view: PacksView) -> Result<Response, PageError> {
    let gone = || PageError::Gone("this pack".to_owned());
    let which = view.open.ok_or_else(gone)?;
    let board = asked.board().await?;
    let battery = asked.app.store.battery(which.battery).await?.candidate.battery;
    let look = asked.look;
    let plan = wiring::with_lead(view.board.nudges.applied(&board.plan, look.units), &view, look);
    let svg = asked.app.working(move || page::wiring_file(&plan, &battery, which, look, &view));
    let svg = svg.await?.ok_or_else(gone)?;
    let headers = [
        (header::CONTENT_TYPE, "image/svg+xml"),
        (header::CONTENT_DISPOSITION, "attachment; filename=\"lake-hour-wiring.svg\""),
    ];
    Ok((headers, svg).into_response())
}

/// After a change: the packs in their new state, or the way to them for a browser without scripts.
async fn answer(
    asked: &Asked,
    view: PacksView,
    said: Option<String>,
) -> Result<Response, PageError> {
    match asked.render {
        Render::Fragment => draw(asked, view, said).await,
        Render::Page => Ok(Redirect::to(&view.address(asked.rig)).into_response()),
    }
}

/// Puts a pack on the Board.
async fn take(asked: Asked, view: PacksView, typed: Typed) -> Result<Response, PageError> {
    let which = Which::read(typed.get("pack"))
        .filter(|which| hand::is_small(*which))
        .ok_or_else(|| PageError::BadForm("it names no pack that is offered".to_owned()))?;
    asked.app.store.battery(which.battery).await?;
    let odd = view.odd_unit.into_iter().chain(view.second.map(|w| w.battery));
    let labels = odd.chain([which.battery]).collect();
    let labels = asked.app.store.labels(labels).await?;
    let as_built = view.clone();
    let builds = typed.get("then") == "build";
    let made = asked.app.store.change_by(asked.rig, move |board| {
        let built = Built::of(&board.plan, &labels, which, &as_built);
        let built = built.filter(|built| built.danger.is_none());
        let mut pack = built.ok_or_else(|| PageError::Gone("this pack".to_owned()))?.pack;
        pack.chosen = builds;
        Ok::<_, PageError>((Change::AddPack(Box::new(pack), Place::First), ()))
    });
    let (mut kept, ()) = made.await??;
    if builds {
        let mut asked = asked.on(Page::Build);
        asked.after = kept.board.take();
        return asked.answer(Some(kept.sentence)).await;
    }
    answer(&asked, view, Some(kept.sentence)).await
}

async fn undo(asked: Asked, view: PacksView, typed: Typed) -> Result<Response, PageError> {
    let turned = asked.app.store.undo(asked.rig, turned::expected(&typed)).await?;
    answer(&asked, view, turned::words("Taken back", turned)).await
}

async fn redo(asked: Asked, view: PacksView, typed: Typed) -> Result<Response, PageError> {
    let turned = asked.app.store.redo(asked.rig, turned::expected(&typed)).await?;
    answer(&asked, view, turned::words("Made again", turned)).await
}
