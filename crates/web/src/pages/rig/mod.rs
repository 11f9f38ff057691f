//! The Rig: what moves, what pushes it, where batteries go; and the list of rigs.

mod list;
mod page;

pub(crate) use page::RigPage;

use crate::forms::{Typed, have, rig as forms};
use crate::frame::App;
use crate::frame::asked::{Asked, Form, back};
use crate::frame::error::PageError;
use crate::frame::view::{Open, Page, Part};
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
        .route("/rigs/{rig}/have", post(edit_have).get(back))
        .route("/rigs/{rig}/owned", post(edit_owned).get(back))
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Rig).draw(None, None).await
}

/// Whether the day has stretches by motor setting, which need a draw curve.
fn needs_draw(board: &Board) -> bool {
    board.plan.day.stretches.iter().any(|s| matches!(s.duty, Duty::Setting(_)))
}

fn edited(rig: Rig) -> Change {
    Change::EditRig(Box::new(rig))
}

async fn edit_craft(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| forms::craft_typed(&board.plan.rig, look.units),
        |board, typed, units| forms::read_craft(typed, units, &board.plan.rig).map(edited),
    );
    asked.edit(Open::Part(Part::Craft), typed, form).await
}

async fn edit_motor(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| forms::motor_typed(&board.plan.rig, look.units),
        |board, typed, units| {
            forms::read_motor(typed, units, &board.plan.rig, needs_draw(board)).map(edited)
        },
    );
    asked.edit(Open::Part(Part::Motor), typed, form).await
}

async fn edit_draw(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| forms::draw_typed(&board.plan.rig),
        |board, typed, units| {
            forms::read_draw(typed, units, &board.plan.rig, needs_draw(board)).map(edited)
        },
    );
    asked.edit(Open::Part(Part::Draw), typed, form).await
}

async fn edit_measured(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| forms::measured_typed(&board.plan.rig, look.units),
        |board, typed, units| forms::read_measured(typed, units, &board.plan.rig).map(edited),
    );
    asked.edit(Open::Part(Part::Measured), typed, form).await
}

async fn edit_bays(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| forms::bays_typed(&board.plan.rig, look.units),
        |board, typed, units| forms::read_bays(typed, units, &board.plan.rig).map(edited),
    );
    asked.edit(Open::Part(Part::Bays), typed, form).await
}

async fn edit_owned(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| forms::owned_typed(&board.plan.rig),
        |board, typed, units| forms::read_owned(typed, units, &board.plan.rig).map(edited),
    );
    asked.edit(Open::Part(Part::Owned), typed, form).await
}

async fn edit_have(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| have::typed(board, look.units),
        |board, typed, units| have::read(typed, units, board),
    );
    asked.edit(Open::Part(Part::Have), typed, form).await
}

async fn edit_chargers(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| forms::chargers_typed(&board.plan.rig),
        |board, typed, units| forms::read_chargers(typed, units, &board.plan.rig).map(edited),
    );
    asked.edit(Open::Part(Part::Chargers), typed, form).await
}
