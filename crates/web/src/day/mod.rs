//! The Day: how the hours are really spent.

mod gpx;
mod page;
pub(crate) mod strip;

pub(crate) use page::DayPage;

use crate::App;
use crate::asked::{Asked, back};
use crate::error::PageError;
use crate::forms::stretch::About;
use crate::forms::{self, Problems, Typed};
use crate::view::{Nudges, Open, Page, Part};
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path};
use axum::response::Response;
use axum::routing::{get, post};
use lake_hour_core::day::{self, Day, Stretch};
use lake_hour_store::{Change, Direction, Place, StretchId};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/day", get(show).post(edit_day))
        .route("/rigs/{rig}/hourly", post(edit_hourly).get(back))
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

async fn edit_day(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let before = asked.board().await?.plan.day;
    let read = forms::day_frame::read(&typed, asked.look.units, &before);
    asked.change(read.map(edited), Open::Day, typed).await
}

async fn edit_hourly(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let (before, units) = (asked.board().await?.plan.day, asked.look.units);
    let read = |typed: &Typed| forms::day_frame::read_hourly(typed, units, &before).map(edited);
    let kept = forms::day_frame::hourly_typed(&before, asked.look);
    asked.change_list(read, kept, Open::Part(Part::Hourly), typed).await
}

async fn edit_devices(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let (before, units) = (asked.board().await?.plan.day, asked.look.units);
    let read = |typed: &Typed| forms::day_frame::read_devices(typed, units, &before).map(edited);
    let kept = forms::day_frame::devices_typed(&before);
    asked.change_list(read, kept, Open::Part(Part::Devices), typed).await
}

fn edited(day: Day) -> Change {
    Change::EditDay(Box::new(day))
}

/// Takes one of the days to begin from: its stretches and its weather; how often, devices and what the
/// batteries are kept at stay as they were.
async fn use_template(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let plan = asked.board().await?.plan;
    let all = day::templates(plan.rig.craft.kind);
    let template = all
        .into_iter()
        .find(|t| t.key == typed.get("template"))
        .ok_or_else(|| PageError::BadForm("it names no day that is offered".to_owned()))?;
    let day = Day {
        outings_per_year: plan.day.outings_per_year,
        ready_by: plan.day.ready_by,
        battery_start: plan.day.battery_start,
        ambient: plan.day.ambient,
        accessories: plan.day.accessories,
        ..template.day
    };
    let change = Change::UseDay(template.name.to_owned(), Box::new(day), None);
    asked.change(Ok(change), Open::Nothing, typed).await
}

/// Keeps the what-ifs: the plan with them becomes the plan.
async fn keep_what_if(mut asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let kept = asked.board().await?.plan;
    let plan = asked.view.nudges.applied(&kept, asked.look.units);
    asked.view.nudges = Nudges::default();
    let rig = (plan.rig != kept.rig).then(|| Box::new(plan.rig));
    let change = Change::UseDay("with the what-if".to_owned(), Box::new(plan.day), rig);
    asked.change(Ok(change), Open::Nothing, typed).await
}

async fn add_stretch(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let read =
        read_stretch(&asked, None, &typed).await?.map(|s| Change::AddStretch(s, Place::Last));
    asked.change(read, Open::NewStretch, typed).await
}

async fn edit_stretch(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let read = read_stretch(&asked, Some(StretchId(id)), &typed).await?;
    let read = read.map(|s| Change::EditStretch(StretchId(id), s));
    asked.change(read, Open::Stretch(id), typed).await
}

async fn read_stretch(
    asked: &Asked,
    id: Option<StretchId>,
    typed: &Typed,
) -> Result<Result<Stretch, Problems>, PageError> {
    let board = asked.board().await?;
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
        implied: at.map(|n| strip::implied(plan)[n]),
        units: asked.look.units,
        boat: plan.rig.craft.kind.is_boat(),
    };
    Ok(forms::stretch::read(typed, about))
}

/// A block's edge was dragged, or moved by the arrow keys.
async fn set_minutes(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let at = board.stretches.iter().position(|s| s.0 == id);
    let stretch = at.map(|n| &board.plan.day.stretches[n]);
    let Some(stretch) = stretch else { return Err(PageError::Gone("this stretch".to_owned())) };
    let whole =
        forms::stretch::typed(stretch, asked.look.units).with("minutes", typed.get("minutes"));
    let read = read_stretch(&asked, Some(StretchId(id)), &whole).await?;
    let read = read.map(|s| Change::EditStretch(StretchId(id), s));
    asked.change(read, Open::Stretch(id), whole).await
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
