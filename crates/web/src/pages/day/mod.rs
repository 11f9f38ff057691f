//! The Day: how the hours are really spent.

mod gpx;
mod page;

pub(crate) use page::html;

use crate::forms::stretch::About;
use crate::forms::{self, Problems, Typed, day_frame};
use crate::frame::App;
use crate::frame::asked::{Asked, Form, back};
use crate::frame::error::PageError;
use crate::frame::look::Look;
use crate::frame::view::{Fix, Open, Page, Part};
use crate::parts::strip::Asks;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path};
use axum::response::Response;
use axum::routing::{get, post};
use lake_hour_core::allowed;
use lake_hour_core::day::{self, Day, Duty, Stretch};
use lake_hour_core::units::Hours;
use lake_hour_core::units::system::System;
use lake_hour_store::{Board, Change, Direction, Place, StretchId};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/day", get(show).post(edit_day))
        .route("/rigs/{rig}/hourly", post(edit_hourly).get(back))
        .route("/rigs/{rig}/charging", post(edit_charging).get(back))
        .route("/rigs/{rig}/devices", post(edit_devices).get(back))
        .route("/rigs/{rig}/day.gpx", get(gpx::export))
        .route(
            "/rigs/{rig}/gpx",
            post(gpx::import).layer(DefaultBodyLimit::max(gpx::LARGEST)).get(back),
        )
        .route("/rigs/{rig}/template", post(use_template).get(back))
        .route("/rigs/{rig}/what-if", post(keep_what_if).get(back))
        .route("/rigs/{rig}/stretches", post(add_stretch).get(back))
        .route("/rigs/{rig}/stretches/{id}", post(edit_stretch).get(back))
        .route("/rigs/{rig}/stretches/{id}/minutes", post(set_minutes).get(back))
        .route("/rigs/{rig}/stretches/{id}/place", post(put_stretch).get(back))
        .route("/rigs/{rig}/stretches/{id}/{act}", post(act_on_stretch).get(back))
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Day).draw(None, None).await
}

fn edited(day: Day) -> Change {
    Change::EditDay(Box::new(day))
}

async fn edit_day(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| day_frame::typed(&board.plan.day, look),
        |board, typed, units| {
            day_frame::read(typed, units, &board.plan.day, board.plan.aboard()).map(edited)
        },
    );
    asked.edit(Open::Day, typed, form).await
}

async fn edit_hourly(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| day_frame::hourly_typed(&board.plan.day, look),
        |board, typed, units| day_frame::read_hourly(typed, units, &board.plan.day).map(edited),
    );
    asked.edit(Open::Part(Part::Hourly), typed, form).await
}

async fn edit_charging(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| day_frame::charging_typed(&board.plan.day, look),
        |board, typed, units| day_frame::read_charging(typed, units, &board.plan.day).map(edited),
    );
    asked.edit(Open::Part(Part::Charging), typed, form).await
}

async fn edit_devices(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| day_frame::devices_typed(&board.plan.day),
        |board, typed, units| day_frame::read_devices(typed, units, &board.plan.day).map(edited),
    );
    asked.edit(Open::Part(Part::Devices), typed, form).await
}

/// Takes one of the days to begin from: its stretches and its weather; how often, devices and what the
/// batteries are kept at stay as they were.
async fn use_template(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    asked
        .make(Open::Nothing, move |board| {
            let day = &board.plan.day;
            let all = day::templates(board.plan.rig.craft.kind);
            let template = all
                .into_iter()
                .find(|t| t.key == typed.get("template"))
                .ok_or_else(|| PageError::BadForm("it names no day that is offered".to_owned()))?;
            let day = Day {
                outings_per_year: day.outings_per_year,
                ready_by: day.ready_by,
                battery_start: day.battery_start,
                ambient: day.ambient,
                accessories: day.accessories.clone(),
                start_charge: day.start_charge,
                solar: day.solar.clone(),
                charging: day.charging.clone(),
                charge_overnight: day.charge_overnight,
                ..template.day
            };
            Ok(Change::UseDay(template.name.to_owned(), Box::new(day), None))
        })
        .await
}

/// Keeps the what-ifs: the plan with them becomes the plan.
async fn keep_what_if(mut asked: Asked) -> Result<Response, PageError> {
    let (nudges, units) = (std::mem::take(&mut asked.view.nudges), asked.look.units);
    asked
        .make(Open::Nothing, move |board| {
            let kept = &board.plan;
            let mut plan = nudges.applied(kept, units);
            if matches!(nudges.fix, Some(Fix::TurnAt(_))) {
                // What was left out kept its place while it was looked at; kept for good, it goes.
                let shortest = Hours::from_minutes(allowed::MINUTES.low);
                let mut was = kept.day.stretches.iter();
                plan.day
                    .stretches
                    .retain(|s| was.next() == Some(s) || s.duty != Duty::Off || s.lasts > shortest);
            }
            let rig = (plan.rig != kept.rig).then(|| Box::new(plan.rig));
            Ok(Change::UseDay("with the what-if".to_owned(), Box::new(plan.day), rig))
        })
        .await
}

async fn add_stretch(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |_, _| Typed::default(),
        |board, typed, units| {
            Ok(Change::AddStretch(read_stretch(board, None, typed, units)?, Place::Last))
        },
    );
    asked.edit(Open::NewStretch, typed, form).await
}

async fn edit_stretch(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    asked.edit(Open::Stretch(id), typed, stretch_form(StretchId(id))).await
}

fn stretch_form(id: StretchId) -> Form {
    Form::new(
        move |board, look| {
            let stretch = stretch(board, id);
            stretch.map_or_else(Typed::default, |s| {
                forms::stretch::typed(s, look.units, &board.plan.rig.motor.dial)
            })
        },
        move |board, typed, units| {
            Ok(Change::EditStretch(id, read_stretch(board, Some(id), typed, units)?))
        },
    )
}

fn stretch(board: &Board, id: StretchId) -> Option<&Stretch> {
    let at = board.stretches.iter().position(|other| *other == id)?;
    board.plan.day.stretches.get(at)
}

fn read_stretch(
    board: &Board,
    id: Option<StretchId>,
    typed: &Typed,
    units: System,
) -> Result<Stretch, Problems> {
    let plan = &board.plan;
    let at = board.stretches.iter().position(|other| Some(*other) == id);
    let others = plan
        .day
        .stretches
        .iter()
        .enumerate()
        .filter(|(n, _)| Some(*n) != at)
        .map(|(_, stretch)| stretch.lasts)
        .sum();
    let about = About {
        draw_is_known: plan.rig.motor.draw_is_known(),
        others,
        before: at.map(|n| &plan.day.stretches[n]),
        implied: at.map(|n| Asks::of(plan).implied[n]),
        units,
        boat: plan.rig.craft.kind.is_boat(),
        dial: &plan.rig.motor.dial,
    };
    forms::stretch::read(typed, about)
}

/// A block's edge was dragged, or moved by the arrow keys: nothing else of the stretch is told.
async fn set_minutes(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let minutes = typed.get("minutes").to_owned();
    let whole = stretch_form(StretchId(id));
    let form = Form::new(
        |_, _| Typed::default(),
        move |board, _, units| {
            let now = (whole.now)(board, Look { units, ..Look::default() });
            (whole.read)(board, &now.with("minutes", minutes.as_str()), units)
        },
    );
    asked.edit(Open::Stretch(id), typed, form).await
}

/// A block was dragged to another place in the day.
async fn put_stretch(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let at = typed.get("place").parse::<usize>().unwrap_or(usize::MAX).min(day::MOST_STRETCHES);
    let change = Change::PutStretch(StretchId(id), at);
    asked.change(Ok(change), Open::Stretch(id), Typed::default()).await
}

async fn act_on_stretch(
    asked: Asked,
    Path((_, id, act)): Path<(i64, i64, String)>,
) -> Result<Response, PageError> {
    let stretch = StretchId(id);
    let (change, open) = match act.as_str() {
        "copy" => (Change::CopyStretch(stretch), Open::Stretch(id)),
        "split" => (Change::SplitStretch(stretch), Open::Stretch(id)),
        "remove" => (Change::RemoveStretch(stretch), Open::Day),
        "earlier" => (Change::MoveStretch(stretch, Direction::Earlier), Open::Stretch(id)),
        "later" => (Change::MoveStretch(stretch, Direction::Later), Open::Stretch(id)),
        _ => return Err(PageError::NoSuchPage),
    };
    asked.change(Ok(change), open, Typed::default()).await
}
