//! The Board: which pack gets you home.

mod page;

pub(crate) use page::BoardPage;

use crate::forms::{self, Typed};
use crate::frame::App;
use crate::frame::asked::{Asked, Form, back};
use crate::frame::error::PageError;
use crate::frame::turned;
use crate::frame::view::{Open, Page};
use axum::Router;
use axum::extract::Path;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use axum::routing::{get, post};
use lake_hour_core::pack::Pack;
use lake_hour_store::{Board, Change, Direction, PackId, Place};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/board", get(show))
        .route("/rigs/{rig}/plan.json", get(plan))
        .route("/rigs/{rig}/now", get(now))
        .route("/rigs/{rig}/undo", post(undo).get(back))
        .route("/rigs/{rig}/redo", post(redo).get(back))
        .route("/rigs/{rig}/rules", post(edit_rules).get(back))
        .route("/rigs/{rig}/packs/new", post(add_pack).get(back))
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
