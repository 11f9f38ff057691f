//! The Board: which pack gets you home.

mod day;
mod lane;
mod page;
mod picture;
mod view;

use crate::App;
use crate::error::PageError;
use crate::forms::{self, Problems, Typed};
use crate::layout::Theme;
use crate::render::Render;
use axum::Router;
use axum::extract::{Path, Query};
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_store::{Board, Change, Direction, PackId, Place, RigId, StretchId};
use page::BoardPage;
use view::{Open, View};

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/board", get(show))
        .route("/rigs/{rig}/plan.json", get(plan))
        .route("/rigs/{rig}/undo", post(undo).get(back))
        .route("/rigs/{rig}/redo", post(redo).get(back))
        .route("/rigs/{rig}/day", post(edit_day).get(back))
        .route("/rigs/{rig}/rules", post(edit_rules).get(back))
        .route("/rigs/{rig}/rig", post(edit_rig).get(back))
        .route("/rigs/{rig}/stretches", post(add_stretch).get(back))
        .route("/rigs/{rig}/stretches/{id}", post(edit_stretch).get(back))
        .route("/rigs/{rig}/stretches/{id}/{act}", post(act_on_stretch).get(back))
        .route("/rigs/{rig}/packs", post(add_pack).get(back))
        .route("/rigs/{rig}/packs/{id}", post(edit_pack).get(back))
        .route("/rigs/{rig}/packs/{id}/{act}", post(act_on_pack).get(back))
}

/// A form's own address visited: without scripts it stands in the address bar after a refused form.
async fn back(asked: Asked) -> Redirect {
    Redirect::to(&asked.view.address(asked.rig))
}

/// A form that could not be taken, with what was typed: it is shown again, beside what is wrong.
#[derive(Debug, Clone)]
pub(crate) struct Draft {
    of: Open,
    typed: Typed,
    problems: Problems,
}

/// What every answer on a board needs from its request.
struct Asked {
    app: App,
    rig: RigId,
    view: View,
    render: Render,
    theme: Theme,
}

impl axum::extract::FromRequestParts<App> for Asked {
    type Rejection = PageError;

    async fn from_request_parts(
        parts: &mut axum::http::request::Parts,
        app: &App,
    ) -> Result<Self, PageError> {
        #[derive(serde::Deserialize)]
        struct RigPath {
            rig: i64,
        }
        let Path(RigPath { rig }) =
            Path::from_request_parts(parts, app).await.map_err(|_| PageError::NoSuchPage)?;
        let Query(view) = Query::from_request_parts(parts, app).await.unwrap_or_default();
        let render = Render::from_request_parts(parts, app).await.unwrap_or(Render::Page);
        let theme = Theme::of(&parts.headers);
        Ok(Self { app: app.clone(), rig: RigId(rig), view, render, theme })
    }
}

impl Asked {
    async fn board(&self) -> Result<Board, PageError> {
        Ok(self.app.store.board(self.rig).await?)
    }

    /// The board as it is now, or with a form that has to be looked at again.
    async fn draw(self, draft: Option<Draft>, said: Option<String>) -> Result<Response, PageError> {
        let board = self.board().await?;
        let permit = self.app.evaluations.clone().acquire_owned().await;
        let _permit = permit.map_err(|_| PageError::Broken)?;
        let (view, theme, render) = (self.view, self.theme, self.render);
        let status =
            if draft.is_some() { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
        let address = view.address(self.rig);
        let html = tokio::task::spawn_blocking(move || {
            BoardPage::new(&board, view, theme, draft.as_ref(), said).html(render)
        });
        let html = html.await.map_err(|_| PageError::Broken)??;
        let vary = [(header::VARY, "HX-Request-Type")];
        let mut response = (status, vary, Html(html)).into_response();
        if render == Render::Fragment
            && let Ok(address) = HeaderValue::from_str(&address)
        {
            // The address bar says what is shown, so that it can be reloaded, kept and passed on.
            response.headers_mut().insert("HX-Replace-Url", address);
        }
        Ok(response)
    }

    /// After a change: the board in its new state, or the way to it for a browser without scripts.
    async fn answer(self, said: Option<String>) -> Result<Response, PageError> {
        match self.render {
            Render::Fragment => self.draw(None, said).await,
            Render::Page => Ok(Redirect::to(&self.view.address(self.rig)).into_response()),
        }
    }

    /// Makes the change that a form asks for, or shows the form again.
    async fn change(
        mut self,
        read: Result<Change, Problems>,
        of: Open,
        typed: Typed,
    ) -> Result<Response, PageError> {
        let change = match read {
            Ok(change) => change,
            Err(problems) => {
                self.view.open = of.panel();
                return self.draw(Some(Draft { of, typed, problems }), None).await;
            }
        };
        let copied = matches!(change, Change::CopyPack(_));
        let kept = self.app.store.change(self.rig, change).await?;
        self.view.open = match (of, kept.made) {
            // A new pack is done with; a copy is opened, since it is made to be changed.
            (Open::NewPack, _) => Open::Nothing,
            (_, Some(id)) if copied => Open::Pack(id),
            (of, _) => of.panel(),
        };
        self.answer(Some(kept.sentence)).await
    }
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.draw(None, None).await
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

async fn edit_day(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    asked.change(forms::settings::read_day(&typed), Open::Day, typed).await
}

async fn edit_rules(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let before = asked.board().await?.plan.rules;
    asked.change(forms::settings::read_rules(&typed, &before), Open::Rules, typed).await
}

async fn edit_rig(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let plan = asked.board().await?.plan;
    let needs_draw =
        plan.day.stretches.iter().any(|s| matches!(s.duty, lake_hour_core::day::Duty::Setting(_)));
    let read = forms::settings::read_rig(&typed, &plan.rig, needs_draw);
    asked.change(read, Open::Rig, typed).await
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
) -> Result<Result<lake_hour_core::day::Stretch, Problems>, PageError> {
    let board = asked.board().await?;
    let motor = &board.plan.rig.motor;
    let known = motor.max_current.is_some() || !motor.settings.is_empty();
    let others = std::iter::zip(&board.stretches, &board.plan.day.stretches)
        .filter(|(other, _)| Some(**other) != id)
        .map(|(_, stretch)| stretch.lasts)
        .sum();
    Ok(forms::stretch::read(typed, known, others))
}

async fn act_on_stretch(
    asked: Asked,
    Path((_, id, act)): Path<(i64, i64, String)>,
) -> Result<Response, PageError> {
    let stretch = StretchId(id);
    let change = match act.as_str() {
        "copy" => Change::CopyStretch(stretch),
        "remove" => Change::RemoveStretch(stretch),
        "earlier" => Change::MoveStretch(stretch, Direction::Earlier),
        "later" => Change::MoveStretch(stretch, Direction::Later),
        _ => return Err(PageError::NoSuchPage),
    };
    asked.change(Ok(change), Open::Day, Typed::default()).await
}

async fn add_pack(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let read = forms::pack::read(&typed, None).map(|p| Change::AddPack(Box::new(p), Place::First));
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
    let read = forms::pack::read(&typed, before).map(|p| Change::EditPack(PackId(id), Box::new(p)));
    asked.change(read, Open::Pack(id), typed).await
}

async fn act_on_pack(
    asked: Asked,
    Path((_, id, act)): Path<(i64, i64, String)>,
) -> Result<Response, PageError> {
    let pack = PackId(id);
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
