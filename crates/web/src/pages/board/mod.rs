//! The Board: which pack gets you home.

mod change;
mod cursor;
mod map;
mod money;
mod page;
mod schools;
mod share;
mod tips;
mod wants;

pub(crate) use page::BoardPage;

use crate::figures;
use crate::forms::{self, Typed};
use crate::frame::App;
use crate::frame::asked::{Asked, Form, back};
use crate::frame::error::PageError;
use crate::frame::turned;
use crate::frame::view::{Open, Page, of_address};
use crate::frame::weighed::OnBoard;
use axum::Router;
use axum::extract::Path;
use axum::http::{Uri, header};
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use lake_hour_core::allowed;
use lake_hour_core::decide::get_home;
use lake_hour_core::pack::{Pack, Shown};
use lake_hour_core::plan::schools::Question;
use lake_hour_core::units::parse;
use lake_hour_core::wants::{Kind, Level, Preset, Want};
use lake_hour_store::{Board, Change, Direction, PackId, Place};
use serde::Deserialize;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .merge(share::routes())
        .route("/rigs/{rig}/board", get(show))
        .route("/rigs/{rig}/plan.json", get(plan))
        .route("/rigs/{rig}/now", get(now))
        .route("/rigs/{rig}/undo", post(undo).get(back))
        .route("/rigs/{rig}/redo", post(redo).get(back))
        .route("/rigs/{rig}/rules", post(edit_rules).get(back))
        .route("/rigs/{rig}/moments.json", get(moments))
        .route("/rigs/{rig}/wants", post(edit_wants).get(back))
        .route("/rigs/{rig}/wants/{what}/{act}", post(turn_want).get(back))
        .route("/rigs/{rig}/money", post(edit_money).get(back))
        .route("/rigs/{rig}/schools/{question}/{school}", post(choose_school).get(back))
        .route("/rigs/{rig}/packs/new", post(add_pack).get(back))
        .route("/rigs/{rig}/packs/{id}", post(edit_pack).get(back))
        .route("/rigs/{rig}/packs/{id}/{act}", post(act_on_pack).get(back))
}

/// Asks for the decision to be worked out before the page is drawn.
#[derive(Default, Deserialize)]
struct Weigh {
    #[serde(default)]
    weigh: String,
}

async fn show(asked: Asked, address: Uri) -> Result<Response, PageError> {
    let asked = asked.on(Page::Board);
    let Weigh { weigh } = of_address(&address);
    if !weigh.is_empty() {
        let board = asked.board().await?;
        asked.app.scales_ready(OnBoard::of(&board, asked.view, asked.look.units)).await?;
    }
    asked.draw(None, None).await
}

/// Every lane at every moment of the day, for the line that is moved through it.
async fn moments(asked: Asked) -> Result<Response, PageError> {
    let asked = asked.on(Page::Board);
    let board = asked.board().await?;
    let shown = OnBoard::of(&board, asked.view, asked.look.units);
    let scales = asked.app.scales_ready(shown.clone()).await?;
    let document = scales.weighed().map(|weighed| cursor::document(&shown, weighed, asked.look));
    let json = serde_json::to_string(&document).map_err(|_| PageError::Broken)?;
    let headers = [(header::CONTENT_TYPE, "application/json"), (header::VARY, "Cookie")];
    Ok((headers, json).into_response())
}

async fn edit_wants(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| forms::wants::typed(&board.plan.wants, look),
        |board, typed, units| forms::wants::read(typed, units, board),
    );
    asked.edit(Open::Wants, typed, form).await
}

async fn edit_money(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, _| forms::terms::typed(&board.plan),
        |_, typed, units| forms::terms::read(typed, units),
    );
    asked.edit(Open::Money, typed, form).await
}

/// Follows another school: the rules of the house, or what devices hang on.
async fn choose_school(
    asked: Asked,
    Path((_, question, school)): Path<(i64, String, usize)>,
) -> Result<Response, PageError> {
    let question = Question::from_key(&question).ok_or(PageError::NoSuchPage)?;
    if school >= question.choices().len() {
        return Err(PageError::NoSuchPage);
    }
    asked
        .make(Open::Rules, move |board| {
            let mut plan = board.plan.clone();
            question.choose(&mut plan, school);
            Ok(match question {
                Question::Devices => Change::EditDay(Box::new(plan.day)),
                _ => Change::EditRules(plan.rules),
            })
        })
        .await
}

/// A chip that takes the level it said it would, whatever another window made of it since, or a preset that takes the place
/// of all wants.
async fn turn_want(
    asked: Asked,
    Path((_, what, act)): Path<(i64, String, String)>,
) -> Result<Response, PageError> {
    let open = asked.view.open;
    let preset = (what == "preset").then(|| Preset::from_key(&act));
    match preset {
        Some(None) => return Err(PageError::NoSuchPage),
        Some(Some(preset)) => {
            let wants = preset.wants();
            return asked.make(open, move |_| Ok(Change::EditWants(wants))).await;
        }
        None => {}
    }
    let kind = Kind::from_key(&what).ok_or(PageError::NoSuchPage)?;
    let level = Level::from_key(&act).ok_or(PageError::NoSuchPage)?;
    asked
        .make(open, move |board| {
            let mut wants = board.plan.wants.clone();
            match wants.iter_mut().find(|want| want.kind == kind) {
                Some(want) => want.level = level,
                None => wants.push(Want::of(kind, level)),
            }
            Ok(Change::EditWants(wants))
        })
        .await
}

/// The plan as a file: the same that `lake-hour evaluate` reads.
async fn plan(asked: Asked) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let document = lake_hour_formats::plan::write(&board.plan);
    let json = serde_json::to_string_pretty(&document).map_err(|_| PageError::Broken)?;
    let headers = [
        (header::CONTENT_TYPE, "application/json"),
        (header::CONTENT_DISPOSITION, "attachment; filename=\"lake-hour.plan.json\""),
    ];
    Ok((headers, json).into_response())
}

/// Whether another window was at work: a short text that is compared with the page's.
async fn now(asked: Asked) -> Result<String, PageError> {
    Ok(asked.app.store.now(asked.rig).await?)
}

async fn undo(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let turned = asked.app.store.undo(asked.rig, turned::expected(&typed)).await?;
    asked.answer(turned::words("Taken back", turned)).await
}

async fn redo(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let turned = asked.app.store.redo(asked.rig, turned::expected(&typed)).await?;
    asked.answer(turned::words("Made again", turned)).await
}

async fn edit_rules(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let form = Form::new(
        |board, look| forms::rules::typed(&board.plan.rules, look.units),
        |board, typed, units| forms::rules::read(typed, units, &board.plan.rules),
    );
    asked.edit(Open::Rules, typed, form).await
}

async fn add_pack(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let units = typed.units_or(asked.look.units);
    let read =
        forms::pack::read(&typed, units, None).map(|p| Change::AddPack(Box::new(p), Place::First));
    asked.change(read, Open::NewPack, typed).await
}

async fn edit_pack(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let id = PackId(id);
    let form = Form::new(
        move |board, look| {
            pack(board, id).map_or_else(Typed::default, |p| forms::pack::typed(p, look.units))
        },
        move |board, typed, units| {
            let read = forms::pack::read(typed, units, pack(board, id))?;
            Ok(Change::EditPack(id, Box::new(read)))
        },
    );
    asked.edit(Open::Pack(id.0), typed, form).await
}

fn pack(board: &Board, id: PackId) -> Option<&Pack> {
    let at = board.packs.iter().position(|p| *p == id)?;
    board.plan.packs.get(at)
}

async fn act_on_pack(
    asked: Asked,
    Path((_, id, act)): Path<(i64, i64, String)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let pack = PackId(id);
    match act.as_str() {
        "relabel" => return relabel(asked, pack).await,
        "slim" => return show_as(asked, pack, Shown::Slim).await,
        "full" => return show_as(asked, pack, Shown::Full).await,
        "hide" => return show_as(asked, pack, Shown::Hidden).await,
        "string" | "sized" => return another_size(asked, pack, &act, &typed).await,
        _ => {}
    }
    let change = match act.as_str() {
        "copy" => Change::CopyPack(pack),
        "remove" => Change::RemovePack(pack),
        "earlier" => Change::MovePack(pack, Direction::Earlier),
        "later" => Change::MovePack(pack, Direction::Later),
        _ => return Err(PageError::NoSuchPage),
    };
    let stays = asked.view.open;
    asked
        .change(Ok(change), if act == "remove" { Open::Nothing } else { stays }, Typed::default())
        .await
}

/// How much of a pack the Board shows.
async fn show_as(asked: Asked, id: PackId, shown: Shown) -> Result<Response, PageError> {
    let open = asked.view.open;
    asked
        .make(open, move |board| {
            let pack = pack(board, id).ok_or_else(|| PageError::Gone("this pack".to_owned()))?;
            Ok(Change::EditPack(id, Box::new(Pack { shown, ..pack.clone() })))
        })
        .await
}

/// The same pack with another string, or of units of another size, beside it.
async fn another_size(
    asked: Asked,
    id: PackId,
    act: &str,
    typed: &Typed,
) -> Result<Response, PageError> {
    let gone = || PageError::Gone("this pack".to_owned());
    let board = asked.board().await?;
    let one = pack(&board, id).ok_or_else(gone)?;
    let mut other = if act == "string" {
        get_home::with_one_more_string(one)
    } else {
        let ah = parse::number(typed.get("ah"), &allowed::CAPACITY)
            .map_err(|_| PageError::BadForm("the size must be in Ah, as in 80".to_owned()))?;
        let (label, _) = one.battery.headline().map_err(|_| gone())?;
        let mut sized = get_home::sized(one, ah / label.value());
        sized.battery.name = format!("{} at {} Ah", one.battery.name, figures::amount(ah));
        sized.from = None;
        sized
    };
    other.aboard = false;
    let what = if act == "string" { "one string more" } else { "larger" };
    let most = allowed::NAME_LENGTH - what.len() - 2;
    other.name = format!("{}, {what}", one.name.chars().take(most).collect::<String>());
    let open = asked.view.open;
    asked.change(Ok(Change::AddPack(Box::new(other), Place::Last)), open, Typed::default()).await
}

/// Takes over what the label of its battery says on the Shelf now.
async fn relabel(asked: Asked, id: PackId) -> Result<Response, PageError> {
    let gone = |what: &str| PageError::Gone(what.to_owned());
    let board = asked.board().await?;
    let at = board.packs.iter().position(|one| *one == id).ok_or_else(|| gone("this pack"))?;
    let of = "the battery it was built of";
    let found = board.built_of.get(at).copied().flatten().ok_or_else(|| gone(of))?;
    let label = asked.app.store.battery(found).await?.candidate.battery;
    let open = asked.view.open;
    asked
        .make(open, move |board| {
            let pack = pack(board, id).ok_or_else(|| gone("this pack"))?.clone();
            Ok(Change::EditPack(id, Box::new(pack.with_label(&label))))
        })
        .await
}
