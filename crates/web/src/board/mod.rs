//! The Board: which pack gets you home.

mod decision;
mod lane;
mod page;
mod picture;
pub(crate) mod rows;

pub(crate) use lane::{Lane, lanes};
pub(crate) use page::{BoardPage, NudgeLink, nudges, unmoved};

use crate::App;
use crate::asked::{Asked, back};
use crate::error::PageError;
use crate::forms::{self, Typed};
use crate::view::{Open, Page};
use axum::Router;
use axum::extract::Path;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use lake_hour_store::{Change, Direction, PackId, Place};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/board", get(show))
        .route("/rigs/{rig}/plan.json", get(plan))
        .route("/rigs/{rig}/undo", post(undo).get(back))
        .route("/rigs/{rig}/redo", post(redo).get(back))
        .route("/rigs/{rig}/rules", post(edit_rules).get(back))
        .route("/rigs/{rig}/packs", post(add_pack).get(back))
        .route("/rigs/{rig}/packs/{id}", post(edit_pack).get(back))
        .route("/rigs/{rig}/packs/{id}/{act}", post(act_on_pack).get(back))
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Board).draw(None, None).await
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

async fn undo(asked: Asked) -> Result<Response, PageError> {
    let said = asked.app.store.undo(asked.rig).await?;
    asked.answer(said.map(|s| format!("Taken back: {s}"))).await
}

async fn redo(asked: Asked) -> Result<Response, PageError> {
    let said = asked.app.store.redo(asked.rig).await?;
    asked.answer(said.map(|s| format!("Made again: {s}"))).await
}

async fn edit_rules(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let before = asked.board().await?.plan.rules;
    let read = forms::rules::read(&typed, asked.look.units, &before);
    asked.change(read, Open::Rules, typed).await
}

async fn add_pack(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let read = forms::pack::read(&typed, asked.look.units, None)
        .map(|p| Change::AddPack(Box::new(p), Place::First));
    asked.change(read, Open::NewPack, typed).await
}

async fn edit_pack(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let at = board.packs.iter().position(|p| p.0 == id);
    let before = at.map(|n| &board.plan.packs[n]);
    let read = forms::pack::read(&typed, asked.look.units, before)
        .map(|p| Change::EditPack(PackId(id), Box::new(p)));
    asked.change(read, Open::Pack(id), typed).await
}

async fn act_on_pack(
    asked: Asked,
    Path((_, id, act)): Path<(i64, i64, String)>,
) -> Result<Response, PageError> {
    let pack = PackId(id);
    if act == "relabel" {
        return relabel(asked, pack).await;
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

/// Takes over what the label of its battery says on the Shelf now.
async fn relabel(asked: Asked, id: PackId) -> Result<Response, PageError> {
    let gone = |what: &str| PageError::Gone(what.to_owned());
    let board = asked.board().await?;
    let at = board.packs.iter().position(|p| *p == id);
    let mut pack = at.map(|n| board.plan.packs[n].clone()).ok_or_else(|| gone("this pack"))?;
    let name = pack.from.clone().ok_or_else(|| gone("the battery it was built of"))?;
    let found = asked.app.store.battery_named(name).await?;
    let found = found.ok_or_else(|| gone("the battery it was built of"))?;
    pack.battery = asked.app.store.battery(found).await?.candidate.battery;
    let open = asked.view.open;
    asked.change(Ok(Change::EditPack(id, Box::new(pack))), open, Typed::default()).await
}
