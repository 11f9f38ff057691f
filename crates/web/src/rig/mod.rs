//! The Rig: what moves, what pushes it, where batteries go; and the list of rigs.

mod curve;
mod list;
mod page;
mod sketch;

pub(crate) use page::RigPage;

use crate::App;
use crate::asked::{Asked, back};
use crate::error::PageError;
use crate::forms::{Problems, Typed, rig as forms};
use crate::view::{Open, Page, Part};
use axum::Router;
use axum::response::Response;
use axum::routing::{get, post};
use lake_hour_core::day::Duty;
use lake_hour_core::rig::Rig;
use lake_hour_store::{Board, Change};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs", get(list::show))
        .route("/rigs/{rig}/{act}", post(list::act))
        .route("/rigs/{rig}/rig", get(show))
        .route("/rigs/{rig}/craft", post(edit_craft).get(back))
        .route("/rigs/{rig}/motor", post(edit_motor).get(back))
        .route("/rigs/{rig}/draw", post(edit_draw).get(back))
        .route("/rigs/{rig}/measured", post(edit_measured).get(back))
        .route("/rigs/{rig}/bays", post(edit_bays).get(back))
        .route("/rigs/{rig}/chargers", post(edit_chargers).get(back))
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Rig).draw(None, None).await
}

/// Whether the day has stretches by motor setting, which need a draw curve.
fn needs_draw(board: &Board) -> bool {
    board.plan.day.stretches.iter().any(|s| matches!(s.duty, Duty::Setting(_)))
}

async fn kept(
    asked: Asked,
    read: Result<Rig, Problems>,
    part: Part,
    typed: Typed,
) -> Result<Response, PageError> {
    let read = read.map(edited);
    asked.change(read, Open::Part(part), typed).await
}

async fn edit_craft(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let before = asked.board().await?.plan.rig;
    let read = forms::read_craft(&typed, asked.look.units, &before);
    kept(asked, read, Part::Craft, typed).await
}

async fn edit_motor(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let needs = needs_draw(&board);
    let read = forms::read_motor(&typed, asked.look.units, &board.plan.rig, needs);
    kept(asked, read, Part::Motor, typed).await
}

async fn edit_draw(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let (before, needs, units) = (&board.plan.rig, needs_draw(&board), asked.look.units);
    let read = |typed: &Typed| forms::read_draw(typed, units, before, needs).map(edited);
    let kept = forms::draw_typed(before);
    asked.change_list(read, kept, Open::Part(Part::Draw), typed).await
}

async fn edit_measured(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let (before, units) = (asked.board().await?.plan.rig, asked.look.units);
    let read = |typed: &Typed| forms::read_measured(typed, units, &before).map(edited);
    let kept = forms::measured_typed(&before, units);
    asked.change_list(read, kept, Open::Part(Part::Measured), typed).await
}

async fn edit_bays(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let (before, units) = (asked.board().await?.plan.rig, asked.look.units);
    let read = |typed: &Typed| forms::read_bays(typed, units, &before).map(edited);
    let kept = forms::bays_typed(&before, units);
    asked.change_list(read, kept, Open::Part(Part::Bays), typed).await
}

async fn edit_chargers(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let (before, units) = (asked.board().await?.plan.rig, asked.look.units);
    let read = |typed: &Typed| forms::read_chargers(typed, units, &before).map(edited);
    let kept = forms::chargers_typed(&before);
    asked.change_list(read, kept, Open::Part(Part::Chargers), typed).await
}

fn edited(rig: Rig) -> Change {
    Change::EditRig(Box::new(rig))
}
