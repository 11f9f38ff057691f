//! A Board passed on: plan and result in one file, its table, and the decision as one page that needs no server.

use super::BoardPage;
use crate::frame::App;
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::view::{Open, Page};
use crate::frame::weighed::OnBoard;
use askama::Template;
use axum::Router;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use axum::routing::get;
use lake_hour_formats::{decision, result, tables};
use rayon::iter::{IntoParallelRefIterator, ParallelIterator};

pub(super) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/shared.json", get(shared))
        .route("/rigs/{rig}/table.csv", get(table))
        .route("/rigs/{rig}/decision.html", get(page))
}

/// A file to keep.
fn file(kind: &'static str, name: &'static str, text: String) -> Response {
    let headers = [(header::CONTENT_TYPE, kind), (header::CONTENT_DISPOSITION, name)];
    (headers, text).into_response()
}

/// The plan as it is kept, with its result.
async fn shared(asked: Asked) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let json = asked
        .app
        .working(move || {
            let (plan, counted) = (&board.plan, board.plan.with_parts_counted());
            let all: Vec<_> = match plan.judge() {
                Ok(judge) => counted.packs.par_iter().map(|pack| judge.in_full(pack)).collect(),
                // A stretch that cannot be worked out: the plan is worth keeping all the same.
                Err(_) => Vec::new(),
            };
            serde_json::to_string_pretty(&decision::shared(plan, &all))
        })
        .await?
        .map_err(|_| PageError::Broken)?;
    Ok(file("application/json", "attachment; filename=\"lake-hour.shared.json\"", json))
}

/// The table of what is shown, what-ifs included.
async fn table(asked: Asked) -> Result<Response, PageError> {
    let board = asked.board().await?;
    let OnBoard { plan, .. } = OnBoard::of(&board, asked.view, asked.look.units);
    let csv = asked
        .app
        .working(move || {
            let judge = plan.judge().ok()?;
            let all: Vec<_> = plan.packs.par_iter().map(|pack| judge.in_full(pack)).collect();
            Some(tables::csv(&result::document(&plan, &all, false)))
        })
        .await?
        .ok_or_else(|| PageError::Gone("a motor's draw that its settings need".to_owned()))?;
    Ok(file("text/csv; charset=utf-8", "attachment; filename=\"lake-hour.csv\"", csv))
}

#[derive(Template)]
#[template(path = "board/file.html")]
struct FilePage<'a> {
    page: &'a BoardPage,
    css: &'static str,
}

/// The decision as one page that needs no server: its style stands in it.
async fn page(mut asked: Asked) -> Result<Response, PageError> {
    asked.view.open = Open::Nothing;
    let asked = asked.on(Page::Board);
    let board = asked.board().await?;
    asked.app.scales_ready(OnBoard::of(&board, asked.view, asked.look.units)).await?;
    let scene = asked.scene(board).await?;
    let css = include_str!("../../../templates/board/file.css");
    let html = asked
        .app
        .working(move || FilePage { page: &BoardPage::new(&scene), css }.render())
        .await?
        .map_err(|_| PageError::Broken)?;
    Ok(file("text/html; charset=utf-8", "attachment; filename=\"lake-hour.decision.html\"", html))
}
