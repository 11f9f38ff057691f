//! The Shelf: candidate batteries, and how far to believe their labels.

mod files;
mod fit;
mod page;
mod row;
mod view;

pub(crate) use files::Files;

use crate::App;
use crate::asked::Asked;
use crate::error::PageError;
use crate::forms::{Problems, Typed, candidate as forms};
use crate::render::Render;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path};
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::{Candidate, Chemistry, Detail, DoubtKind, Rest};
use lake_hour_formats::shelf::paste::{self, Understood};
use lake_hour_store::{BatteryId, Change, Place, ShelfChange};
use page::ShelfPage;
use view::{Open, ShelfView};

pub(crate) fn routes() -> Router<App> {
    let file = post(files::send).layer(DefaultBodyLimit::max(files::LARGEST));
    Router::new()
        .route("/rigs/{rig}/shelf", get(show).post(add))
        .route("/rigs/{rig}/shelf.csv", get(files::csv))
        .route("/rigs/{rig}/shelf.json", get(files::json))
        .route("/rigs/{rig}/shelf/paste", post(understand).get(back))
        .route("/rigs/{rig}/shelf/file", file.get(back))
        .route("/rigs/{rig}/shelf/files/{id}/{act}", post(files::act).get(back))
        .route("/rigs/{rig}/shelf/undo", post(undo).get(back))
        .route("/rigs/{rig}/shelf/redo", post(redo).get(back))
        .route("/rigs/{rig}/shelf/unpick", post(unpick).get(back))
        .route("/rigs/{rig}/shelf/{id}", post(edit).get(back))
        .route("/rigs/{rig}/shelf/{id}/{act}", post(act).get(back))
}

/// What was just done, and what takes it back.
#[derive(Debug, Clone)]
enum Shown {
    /// Nothing does.
    Plain(String),
    /// A change of the shelf.
    OnShelf(String),
    /// A change of the board.
    OnBoard(String),
}

/// What a page of the shelf shows beside the shelf itself.
#[derive(Debug, Clone, Default)]
struct Sheet {
    said: Option<Shown>,
    /// A form that has to be looked at again.
    typed: Option<Typed>,
    problems: Option<Problems>,
    /// What was understood of a pasted text.
    understood: Option<Understood>,
}

/// A form's own address visited: without scripts it stands in the address bar after a refused form.
async fn back(asked: Asked, view: ShelfView) -> Redirect {
    Redirect::to(&view.address(asked.rig))
}

fn go(asked: &Asked, view: &ShelfView) -> Response {
    Redirect::to(&view.address(asked.rig)).into_response()
}

/// Draws the shelf as it is now.
async fn draw(asked: &Asked, view: ShelfView, sheet: Sheet) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let plan = board.plan.clone();
    let shelf =
        asked.app.store.shelf(view.query.clone(), move |c| row::per_usable(&plan, c)).await?;
    let open = match view.open {
        Open::Battery(id) | Open::Edit(id) => asked.app.store.battery(BatteryId(id)).await.ok(),
        _ => None,
    };
    let held = match view.open {
        Open::Import(id) => asked.app.files.get(id),
        _ => None,
    };
    let status = match &sheet.problems {
        Some(_) => StatusCode::UNPROCESSABLE_ENTITY,
        None => StatusCode::OK,
    };
    let address = view.address(asked.rig);
    let page = ShelfPage::new(&board, asked.look, view, shelf, open, held, sheet);
    let html = page.html(asked.render)?;
    let vary = [(header::VARY, "HX-Request-Type, Cookie")];
    let mut response = (status, vary, Html(html)).into_response();
    if asked.render == Render::Fragment
        && asked.posted
        && let Ok(address) = HeaderValue::from_str(&address)
    {
        response.headers_mut().insert("HX-Replace-Url", address);
    }
    Ok(response)
}

/// After a change: the shelf in its new state, or the way to it for a browser without scripts.
async fn answer(
    asked: &Asked,
    view: ShelfView,
    said: Option<Shown>,
) -> Result<Response, PageError> {
    match asked.render {
        Render::Fragment => draw(asked, view, Sheet { said, ..Sheet::default() }).await,
        Render::Page => Ok(go(asked, &view)),
    }
}

async fn show(asked: Asked, view: ShelfView) -> Result<Response, PageError> {
    draw(&asked, view, Sheet::default()).await
}

async fn undo(asked: Asked, view: ShelfView) -> Result<Response, PageError> {
    let said = asked.app.store.undo_shelf().await?;
    let said = said.map(|s| Shown::Plain(format!("Taken back: {s}")));
    answer(&asked, view.opening(still_there(view.open)), said).await
}

async fn redo(asked: Asked, view: ShelfView) -> Result<Response, PageError> {
    let said = asked.app.store.redo_shelf().await?;
    let said = said.map(|s| Shown::OnShelf(format!("Made again: {s}")));
    answer(&asked, view.opening(still_there(view.open)), said).await
}

/// What stays open when batteries may have come or gone: a file that was taken is done with.
const fn still_there(open: Open) -> Open {
    match open {
        Open::Import(_) => Open::Files,
        open => open,
    }
}

/// A battery that was put on the board is taken off again.
async fn unpick(asked: Asked, view: ShelfView) -> Result<Response, PageError> {
    let said = asked.app.store.undo(asked.rig).await?;
    answer(&asked, view, said.map(|s| Shown::Plain(format!("Taken back: {s}")))).await
}

async fn add(asked: Asked, view: ShelfView, typed: Typed) -> Result<Response, PageError> {
    let read = forms::read(&typed, asked.look.units, None);
    let read = not_taken(&asked, read, None).await?;
    match read {
        Ok(candidate) => {
            let change = ShelfChange::Add(Box::new(candidate));
            let kept = asked.app.store.change_shelf(change).await?;
            let open = kept.made.map_or(Open::Nothing, Open::Battery);
            answer(&asked, view.opening(open), Some(Shown::OnShelf(kept.sentence))).await
        }
        Err(problems) => {
            let open = match view.open {
                Open::New(..) | Open::Paste => view.open,
                _ => Open::New(
                    Chemistry::from_key(typed.get("chemistry")).unwrap_or(Chemistry::Lfp),
                    None,
                ),
            };
            refuse(&asked, view.opening(open), typed, problems).await
        }
    }
}

async fn edit(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    view: ShelfView,
    typed: Typed,
) -> Result<Response, PageError> {
    let before = asked.app.store.battery(BatteryId(id)).await?.candidate;
    let read = forms::read(&typed, asked.look.units, Some(&before));
    match not_taken(&asked, read, Some(id)).await? {
        Ok(candidate) => {
            keep(&asked, view.opening(Open::Battery(id)), id, &before, candidate).await
        }
        Err(problems) => refuse(&asked, view.opening(Open::Edit(id)), typed, problems).await,
    }
}

/// A name that another battery has is told beside its field.
async fn not_taken(
    asked: &Asked,
    read: Result<Candidate, Problems>,
    id: Option<i64>,
) -> Result<Result<Candidate, Problems>, PageError> {
    let Ok(candidate) = &read else { return Ok(read) };
    let other = asked.app.store.battery_named(candidate.battery.name.clone()).await?;
    if other.is_some_and(|other| Some(other.0) != id) {
        let says = "Another battery on the shelf has this name.";
        return Ok(Err(Problems::one("name", says)));
    }
    Ok(read)
}

async fn refuse(
    asked: &Asked,
    view: ShelfView,
    typed: Typed,
    problems: Problems,
) -> Result<Response, PageError> {
    let sheet = Sheet { typed: Some(typed), problems: Some(problems), ..Sheet::default() };
    draw(asked, view, sheet).await
}

async fn keep(
    asked: &Asked,
    view: ShelfView,
    id: i64,
    before: &Candidate,
    after: Candidate,
) -> Result<Response, PageError> {
    if after == *before {
        return answer(asked, view, None).await;
    }
    let change = ShelfChange::Edit(BatteryId(id), Box::new(after));
    let kept = asked.app.store.change_shelf(change).await?;
    answer(asked, view, Some(Shown::OnShelf(kept.sentence))).await
}

/// A pasted text is read; nothing is kept before its reader has looked at it.
async fn understand(asked: Asked, view: ShelfView, typed: Typed) -> Result<Response, PageError> {
    let understood = paste::read(typed.get("text"), asked.look.units);
    let view = view.opening(Open::Paste);
    if understood.found.iter().all(|f| f.meaning == "name") {
        let says =
            "No figure with its unit was found in it: copy the label's text or the table's rows.";
        return refuse(&asked, view, typed, Problems::one("text", says)).await;
    }
    let sheet = Sheet { typed: Some(typed), understood: Some(understood), ..Sheet::default() };
    draw(&asked, view, sheet).await
}

async fn act(
    asked: Asked,
    Path((_, id, act)): Path<(i64, i64, String)>,
    view: ShelfView,
    typed: Typed,
) -> Result<Response, PageError> {
    let store = &asked.app.store;
    let before = store.battery(BatteryId(id)).await?.candidate;
    let mut after = before.clone();
    let offered = || PageError::BadForm("it names nothing that is offered".to_owned());
    match act.as_str() {
        "pick" => return pick(&asked, view, before).await,
        "copy" => {
            let kept = store.change_shelf(ShelfChange::Copy(BatteryId(id))).await?;
            let open = kept.made.map_or(Open::Nothing, Open::Edit);
            return answer(&asked, view.opening(open), Some(Shown::OnShelf(kept.sentence))).await;
        }
        "remove" => {
            let kept = store.change_shelf(ShelfChange::Remove(BatteryId(id))).await?;
            let said = Some(Shown::OnShelf(kept.sentence));
            return answer(&asked, view.opening(Open::Nothing), said).await;
        }
        "hide" | "show" => {
            after.hidden = act == "hide";
            return keep(&asked, view.opening(Open::Nothing), id, &before, after).await;
        }
        "accept" | "doubt" => {
            let kind = DoubtKind::from_key(typed.get("doubt")).ok_or_else(offered)?;
            if act == "accept" {
                after.accepted.insert(kind);
            } else {
                after.accepted.remove(&kind);
            }
        }
        "replace" => {
            let kind = DoubtKind::from_key(typed.get("doubt")).ok_or_else(offered)?;
            let doubts = before.doubts(None);
            let instead = doubts.into_iter().find(|d| d.kind == kind).and_then(|d| d.instead);
            after.replace(instead.ok_or_else(offered)?);
        }
        "restore" => {
            after.restore(Detail::from_key(typed.get("figure")).ok_or_else(offered)?);
        }
        "origins" => match forms::read_origins(&typed, &before) {
            Ok(vouched) => after = vouched,
            Err(problems) => {
                return refuse(&asked, view.opening(Open::Battery(id)), typed, problems).await;
            }
        },
        _ => return Err(PageError::NoSuchPage),
    }
    keep(&asked, view.opening(Open::Battery(id)), id, &before, after).await
}

/// Puts a battery on the board, as many in series as the rig's voltage takes.
async fn pick(asked: &Asked, view: ShelfView, c: Candidate) -> Result<Response, PageError> {
    let plan = asked.board().await?.plan;
    let pack = pack_of(&plan, &c);
    let (series, most) = (pack.series, c.max_series);
    let change = Change::AddPack(Box::new(pack), Place::First);
    let kept = asked.app.store.change(asked.rig, change).await?;
    let volts = plan.rig.motor.system_voltage.value();
    let mut said = format!("{}: {series} in series for {volts} V, on the Board", kept.sentence);
    if let Some(most) = most.filter(|most| *most < series) {
        said = format!("{said}. Its maker allows at most {most} in series");
    }
    answer(asked, view, Some(Shown::OnBoard(said))).await
}

/// A battery as a pack of the rig's voltage.
fn pack_of(plan: &Plan, c: &Candidate) -> Pack {
    let unit = c.battery.system_volts().map_or(c.battery.nominal_voltage.value(), f64::from);
    let series = (plan.rig.motor.system_voltage.value() / unit.max(1.0)).round().clamp(1.0, 64.0);
    let from = Some(c.battery.name.clone());
    Pack { from, ..Pack::of(c.battery.clone(), series as u32, 1) }
}

/// The family's usual figures, for a battery of this chemistry.
fn rest_of(shelf: &lake_hour_store::ShelfPage, c: &Candidate) -> Rest {
    *shelf.rest(c.battery.chemistry)
}
