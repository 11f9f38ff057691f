//! Build: from the decision to a working craft, on two sheets of paper.

mod also;
mod card;
mod page;
mod parts;
mod steps;
mod told;
mod words;

pub(crate) use page::BuildPage;

use crate::forms::{self, Problems, Typed};
use crate::frame::App;
use crate::frame::asked::{Asked, Form, back};
use crate::frame::error::PageError;
use crate::frame::view::{Open, Page, Part};
use axum::Router;
use axum::extract::Path;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use lake_hour_core::build::steps::NotDone;
use lake_hour_core::build::{
    Build, ChargerPlace, Job, PartKept, PartKey, PartState, StepKey, StepState,
};
use lake_hour_core::pack::Pack;
use lake_hour_core::parts::List;
use lake_hour_store::{Board, Change, PackId};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/build", get(show))
        .route("/rigs/{rig}/build/choose", post(choose).get(back))
        .route("/rigs/{rig}/build/choose/{id}", post(choose_this).get(back))
        .route("/rigs/{rig}/build/charger/{place}", post(place).get(back))
        .route("/rigs/{rig}/build/counted/{yes}", post(count).get(back))
        .route("/rigs/{rig}/build/parts", post(edit_parts).get(back))
        .route("/rigs/{rig}/build/parts/{part}/{state}", post(tick).get(back))
        .route("/rigs/{rig}/build/own", post(edit_own).get(back))
        .route("/rigs/{rig}/build/steps/{step}/{state}", post(edit_step).get(back))
        .route("/rigs/{rig}/build/parts.csv", get(table))
        .route("/rigs/{rig}/build/sheets", get(sheets))
        .route("/rigs/{rig}/build/card.html", get(file))
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Build).draw(None, None).await
}

/// The two sheets as they print.
async fn sheets(asked: Asked) -> Result<Response, PageError> {
    let asked = asked.on(Page::Build);
    let scene = asked.scene(asked.board().await?).await?;
    let html = asked.app.working(move || page::sheets(&scene)).await??;
    Ok(axum::response::Html(html).into_response())
}

fn attached(kind: &'static str, name: &'static str, text: String) -> Response {
    let headers = [(header::CONTENT_TYPE, kind), (header::CONTENT_DISPOSITION, name)];
    (headers, text).into_response()
}

/// The card as one file with its own script and style.
async fn file(asked: Asked) -> Result<Response, PageError> {
    let asked = asked.on(Page::Build);
    let scene = asked.scene(asked.board().await?).await?;
    let html = asked.app.working(move || page::card_file(&scene)).await??;
    Ok(attached("text/html; charset=utf-8", "attachment; filename=\"lake-hour-card.html\"", html))
}

async fn table(asked: Asked) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let units = asked.look.units;
    let csv = asked.app.working(move || {
        let job = chosen(&board)?;
        Ok::<_, PageError>(parts::csv(&job, units, &board.plan.currency))
    });
    Ok(attached(
        "text/csv; charset=utf-8",
        "attachment; filename=\"lake-hour-parts.csv\"",
        csv.await??,
    ))
}

/// The work on the pack that is chosen.
fn chosen(board: &Board) -> Result<Job<'_>, PageError> {
    let gone = || PageError::Gone("a pack that is chosen and can be built".to_owned());
    let pack = board.plan.chosen().ok_or_else(gone)?;
    Job::of(&board.plan, pack).map_err(|_| gone())
}

async fn choose(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let id = typed.get("pack").parse().map_err(|_| PageError::Gone("this pack".to_owned()))?;
    asked.on(Page::Build).make(Open::Nothing, move |_| Ok(Change::ChoosePack(PackId(id)))).await
}

/// The same from a lane of the Board.
async fn choose_this(asked: Asked, Path((_, id)): Path<(i64, i64)>) -> Result<Response, PageError> {
    asked.on(Page::Build).make(Open::Nothing, move |_| Ok(Change::ChoosePack(PackId(id)))).await
}

fn edited(sentence: impl Into<String>, build: Build) -> Change {
    Change::EditBuild(sentence.into(), Box::new(build), None)
}

async fn place(asked: Asked, Path((_, place)): Path<(i64, String)>) -> Result<Response, PageError> {
    let place = ChargerPlace::from_key(&place).ok_or(PageError::NoSuchPage)?;
    asked
        .on(Page::Build)
        .make(Open::Nothing, move |board| {
            let build = Build { charger: Some(place), ..board.plan.build.clone() };
            Ok(edited("Changed where the charger is", build))
        })
        .await
}

async fn count(asked: Asked, Path((_, yes)): Path<(i64, String)>) -> Result<Response, PageError> {
    let counted = match yes.as_str() {
        "yes" => true,
        "no" => false,
        _ => return Err(PageError::NoSuchPage),
    };
    asked
        .on(Page::Build)
        .make(Open::Nothing, move |board| {
            let sentence = if counted {
                "Every pack's price counts its parts list"
            } else {
                "Parts lists do not count: prices are what each pack's form says"
            };
            Ok(edited(sentence, Build { counted, ..board.plan.build.clone() }))
        })
        .await
}

async fn edit_parts(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| forms::build::parts_typed(&board.plan),
        |board, typed, units| {
            let read = forms::build::read_parts(typed, units, &board.plan)?;
            // The price of a battery is the pack's own, in one place.
            let place = board.plan.packs.iter().position(|pack| pack.chosen);
            let priced = place
                .map(|n| (&board.plan.packs[n], board.packs[n]))
                .filter(|(pack, _)| pack.battery.price != read.battery);
            let priced = priced.map(|(pack, id)| {
                let mut pack: Pack = pack.clone();
                pack.battery.price = read.battery;
                (id, Box::new(pack))
            });
            Ok(Change::EditBuild("Changed the parts list".to_owned(), Box::new(read.build), priced))
        },
    );
    asked.on(Page::Build).edit(Open::Part(Part::Parts), typed, form).await
}

async fn edit_own(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| forms::build::own_typed(&board.plan.build),
        |board, typed, units| {
            let build = forms::build::read_own(typed, units, &board.plan.build)?;
            Ok(edited("Changed your own parts", build))
        },
    );
    asked.on(Page::Build).edit(Open::Part(Part::OwnParts), typed, form).await
}

/// A tick that says what its button said, whatever another window made of it since.
async fn tick(
    asked: Asked,
    Path((_, part, state)): Path<(i64, String, String)>,
) -> Result<Response, PageError> {
    let key = PartKey::from_key(&part).ok_or(PageError::NoSuchPage)?;
    let state = PartState::from_key(&state).ok_or(PageError::NoSuchPage)?;
    asked
        .on(Page::Build)
        .make(Open::Nothing, move |board| {
            let job = chosen(board)?;
            let list = List::of(&job);
            let gone = || PageError::Gone("this part".to_owned());
            let part = list.parts.iter().find(|p| p.key == key).ok_or_else(gone)?;
            let before = board.plan.build.part(key);
            let kept = PartKept {
                key,
                state,
                of: part.size.id(key),
                price: before.and_then(|k| k.price),
                note: part.note.clone(),
            };
            let name = parts::name(key, &job);
            let sentence = match state {
                PartState::ToBuy => format!("{name}: to buy"),
                PartState::Bought => format!("{name}: bought"),
                PartState::Have => format!("{name}: at hand"),
            };
            Ok(edited(sentence, board.plan.build.clone().with_part(kept)))
        })
        .await
}

/// What is said of a step: `save` keeps it as it stands, with what was typed.
async fn edit_step(
    asked: Asked,
    Path((_, step, say)): Path<(i64, String, String)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let key = StepKey::from_key(&step).ok_or(PageError::NoSuchPage)?;
    let say = match say.as_str() {
        "save" => None,
        state => Some(StepState::from_key(state).ok_or(PageError::NoSuchPage)?),
    };
    let form = Form::new(
        move |board, look| {
            let Ok(job) = chosen(board) else { return Typed::default() };
            let steps = job.steps();
            let step = steps.iter().find(|s| s.key == key);
            step.map_or_else(Typed::default, |step| {
                forms::build::step_typed(&step.kept, step.reading, look.units)
            })
        },
        move |board, typed, units| {
            let gone = |_| Problems::one("say", "No pack is chosen any more.");
            let job = chosen(board).map_err(gone)?;
            let kept = forms::build::read_step(typed, units, &job, key, say)?;
            let steps = job.steps();
            let build = job.said(kept).map_err(|not| not_done(not, &steps))?;
            let number = steps.iter().find(|s| s.key == key).map_or(0, |s| s.number);
            let now = build.step(key).map_or(StepState::Open, |s| s.state);
            let sentence = match (say, now) {
                (Some(StepState::Done), StepState::Done) => format!("Step {number} done"),
                (Some(StepState::Done), _) => {
                    format!("Step {number} stopped: its reading is out of limits")
                }
                (_, StepState::PutOff) => format!("Step {number} put off"),
                (Some(StepState::Open), _) => format!("Step {number} opened again"),
                _ => format!("Step {number} saved"),
            };
            Ok(edited(sentence, build))
        },
    );
    asked.on(Page::Build).edit(Open::Part(Part::Step(key)), typed, form).await
}

fn not_done(not: NotDone, steps: &[lake_hour_core::build::Step]) -> Problems {
    match not {
        NotDone::Unknown => Problems::one("say", "This step is no part of the work any more."),
        NotDone::Waits(key) => {
            let number = steps.iter().find(|s| s.key == key).map_or(0, |s| s.number);
            Problems::one(
                "say",
                format!("First step {number}: do it, or put it off where that is offered."),
            )
        }
        NotDone::Unread => Problems::one("reading", "Type what you read first."),
        NotDone::Firm => {
            Problems::one("say", "This one cannot be put off: what follows would hurt someone.")
        }
        NotDone::NoReason => Problems::one("reason", "Say why, as in: shop closed."),
    }
}
