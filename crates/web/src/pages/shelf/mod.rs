//! The Shelf: candidate batteries, and how far to believe their labels.

mod files;
mod page;
mod row;
mod view;

use crate::forms::merge::Merged;
use crate::forms::{Problems, Typed, candidate as forms};
use crate::frame::App;
use crate::frame::asked::{Asked, OVER};
use crate::frame::error::PageError;
use crate::frame::render::Render;
use crate::frame::turned;
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path};
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_core::pack::{Pack, Taken};
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::figures::Label;
use lake_hour_core::shelf::{Candidate, Chemistry, Detail, DoubtKind, Rest};
use lake_hour_formats::shelf::paste::{self, Understood};
use lake_hour_store::{BatteryId, Change, Place, ShelfChange, StoreError, Turned};
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
    // A rig that cannot be read takes the shelf, which is no part of it, not along.
    let board = asked.app.store.board_or_bare(asked.rig).await?;
    let plan = board.plan.clone();
    let shelf = asked.app.store.shelf(view.query.clone(), row::by_usable(plan)).await?;
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
    let page = ShelfPage::new(
        &board,
        asked.look,
        view,
        shelf,
        open,
        held,
        asked.app.files.left_out(),
        sheet,
    );
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
    if view.open == Open::Fit {
        // It stood here once, and is kept in bookmarks.
        return Ok(Redirect::to(&view.will_they_fit(asked.rig)).into_response());
    }
    draw(&asked, view, Sheet::default()).await
}

async fn undo(asked: Asked, view: ShelfView, typed: Typed) -> Result<Response, PageError> {
    let turned = asked.app.store.undo_shelf(turned::expected(&typed)).await?;
    let said = turned::words("Taken back", turned).map(Shown::Plain);
    answer(&asked, view.opening(still_there(view.open)), said).await
}

async fn redo(asked: Asked, view: ShelfView, typed: Typed) -> Result<Response, PageError> {
    let said = match asked.app.store.redo_shelf(turned::expected(&typed)).await? {
        done @ Turned::Done(_) => turned::words("Made again", done).map(Shown::OnShelf),
        other => turned::words("Made again", other).map(Shown::Plain),
    };
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
async fn unpick(asked: Asked, view: ShelfView, typed: Typed) -> Result<Response, PageError> {
    let turned = asked.app.store.undo(asked.rig, turned::expected(&typed)).await?;
    answer(&asked, view, turned::words("Taken back", turned).map(Shown::Plain)).await
}

async fn add(asked: Asked, view: ShelfView, typed: Typed) -> Result<Response, PageError> {
    let problems = match forms::read(&typed, typed.units_or(asked.look.units), None) {
        Ok(candidate) => {
            let change = ShelfChange::Add(Box::new(candidate));
            match asked.app.store.change_shelf(change).await {
                Ok(kept) => {
                    let open = kept.made.map_or(Open::Nothing, Open::Battery);
                    let said = Some(Shown::OnShelf(kept.sentence));
                    return answer(&asked, view.opening(open), said).await;
                }
                Err(StoreError::Taken(_)) => name_taken(),
                Err(error) => return Err(error.into()),
            }
        }
        Err(problems) => problems,
    };
    let open = match view.open {
        Open::New(..) | Open::Paste => view.open,
        _ => Open::New(Chemistry::from_key(typed.get("chemistry")).unwrap_or(Chemistry::Lfp), None),
    };
    refuse(&asked, view.opening(open), typed, problems).await
}

async fn edit(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    view: ShelfView,
    typed: Typed,
) -> Result<Response, PageError> {
    let units = typed.units_or(asked.look.units);
    let sent = typed.clone();
    let made = asked.app.store.edit_battery(BatteryId(id), move |before| {
        let Ok(Merged { typed, over }) =
            typed.over(&forms::typed(&Label::of(&before.battery), units))
        else {
            return Err((Typed::default(), Problems::default()));
        };
        match forms::read(&typed, units, Some(before)) {
            Ok(after) => Ok((Some(after), over)),
            Err(problems) => Err((typed, problems)),
        }
    });
    match made.await {
        Ok(Ok((kept, over))) => {
            let said = kept.map(|kept| match over {
                true => Shown::OnShelf(format!("{}. {OVER}", kept.sentence)),
                false => Shown::OnShelf(kept.sentence),
            });
            answer(&asked, view.opening(Open::Battery(id)), said).await
        }
        Ok(Err((typed, problems))) => {
            refuse(&asked, view.opening(Open::Edit(id)), typed, problems).await
        }
        Err(StoreError::Taken(_)) => {
            refuse(&asked, view.opening(Open::Edit(id)), sent, name_taken()).await
        }
        Err(error) => Err(error.into()),
    }
}

/// A name that another battery has is told beside its field.
fn name_taken() -> Problems {
    Problems::one("name", "Another battery on the shelf has this name.")
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
    let stays = match act.as_str() {
        "pick" => {
            let candidate = store.battery(BatteryId(id)).await?.candidate;
            return pick(&asked, view, candidate).await;
        }
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
        "hide" | "show" => Open::Nothing,
        "accept" | "doubt" | "replace" | "restore" | "origins" => Open::Battery(id),
        _ => return Err(PageError::NoSuchPage),
    };
    let sent = typed.clone();
    let made = store.edit_battery(BatteryId(id), move |before| {
        Ok::<_, Unfit>((Some(acted(&act, &typed, before)?), ()))
    });
    match made.await? {
        Ok((kept, ())) => {
            let said = kept.map(|kept| Shown::OnShelf(kept.sentence));
            answer(&asked, view.opening(stays), said).await
        }
        Err(Unfit::Problems(problems)) => {
            refuse(&asked, view.opening(Open::Battery(id)), sent, problems).await
        }
        Err(Unfit::NotOffered) => {
            Err(PageError::BadForm("it names nothing that is offered".to_owned()))
        }
    }
}

/// Why something is not done to a battery.
enum Unfit {
    NotOffered,
    Problems(Problems),
}

/// A battery after one of its small changes.
fn acted(act: &str, typed: &Typed, before: &Candidate) -> Result<Candidate, Unfit> {
    let mut after = before.clone();
    let kind = || DoubtKind::from_key(typed.get("doubt")).ok_or(Unfit::NotOffered);
    match act {
        "hide" | "show" => after.hidden = act == "hide",
        "accept" => {
            after.accepted.insert(kind()?);
        }
        "doubt" => {
            after.accepted.remove(&kind()?);
        }
        "replace" => {
            let kind = kind()?;
            let doubts = before.doubts(None);
            let instead = doubts.into_iter().find(|d| d.kind == kind).and_then(|d| d.instead);
            after.replace(instead.ok_or(Unfit::NotOffered)?);
        }
        "restore" => {
            after.restore(Detail::from_key(typed.get("figure")).ok_or(Unfit::NotOffered)?);
        }
        _ => after = forms::read_origins(typed, before).map_err(Unfit::Problems)?,
    }
    Ok(after)
}

/// Puts a battery on the board, as many in series as the rig's voltage takes.
async fn pick(asked: &Asked, view: ShelfView, c: Candidate) -> Result<Response, PageError> {
    let most = c.battery.max_series;
    let made = asked.app.store.change_by(asked.rig, move |board| {
        let pack = pack_of(&board.plan, &c);
        let told = (pack.series, board.plan.rig.motor.system_voltage.value());
        Ok::<_, PageError>((Change::AddPack(Box::new(pack), Place::First), told))
    });
    let (kept, (series, volts)) = made.await??;
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
    let from = Some(Taken::of(&*c.battery.name));
    Pack { from, ..Pack::of(c.battery.clone(), series as u32, 1) }
}

/// The family's usual figures, for a battery of this chemistry.
fn rest_of(shelf: &lake_hour_store::ShelfPage, c: &Candidate) -> Rest {
    *shelf.rest(c.battery.chemistry)
}
