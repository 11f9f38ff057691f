//! Two or three packs of the Board side by side, what differs first.

mod rows;

use crate::frame::App;
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::judged::Judged;
use crate::frame::render::{Render, block};
use crate::frame::view::{Page, View, of_address};
use crate::frame::weighed::{OnBoard, Scales};
use crate::parts::circuit;
use crate::parts::decision::{self, About};
use crate::parts::drawing::Drawing;
use crate::parts::fit::FitView;
use crate::parts::picture::Picture;
use askama::Template;
use axum::Router;
use axum::http::Uri;
use axum::response::{Html, IntoResponse, Response};
use axum::routing::get;
use lake_hour_core::decide::Contest;
use lake_hour_core::verdict;
use lake_hour_store::RigId;
use rows::Row;
use serde::Deserialize;
use std::sync::Arc;

pub(crate) fn routes() -> Router<App> {
    Router::new().route("/rigs/{rig}/compare", get(show))
}

/// Most packs side by side.
const MOST: usize = 3;

/// Which packs, by their numbers: "3-7".
#[derive(Default, Deserialize)]
struct Which {
    #[serde(default)]
    packs: String,
    /// As the choices of a form send them.
    #[serde(default)]
    a: String,
    #[serde(default)]
    b: String,
    #[serde(default)]
    c: String,
}

impl Which {
    /// The packs that are asked for, each once.
    fn ids(&self) -> Vec<i64> {
        let chosen = [&self.a, &self.b, &self.c].into_iter().map(String::as_str);
        let mut ids: Vec<i64> = Vec::new();
        for id in self.packs.split('-').chain(chosen).filter_map(|id| id.parse().ok()) {
            if !ids.contains(&id) && ids.len() < MOST {
                ids.push(id);
            }
        }
        ids
    }
}

/// One pack in its column.
pub(crate) struct Column {
    id: i64,
    name: String,
    outcome: &'static str,
    disc: &'static str,
    verdict: String,
    picture: Option<Arc<Picture>>,
    fit: Option<FitView>,
    drawing: Option<Drawing>,
    wiring: String,
    notes: Vec<String>,
    working: String,
    packs_page: String,
}

#[derive(Template)]
#[template(path = "compare/page.html", blocks = ["page"])]
struct ComparePage {
    head: Head,
    rig: RigId,
    board: String,
    kept: Vec<(&'static str, String)>,
    /// All packs that may be chosen.
    all: Vec<(i64, String)>,
    columns: Vec<Column>,
    differ: Vec<Row>,
    same: Vec<Row>,
    what_ifs: bool,
}

impl ComparePage {
    /// The three choices, with what stands in each.
    fn choices(&self) -> [(&'static str, &'static str, Option<i64>); MOST] {
        let at = |n: usize| self.columns.get(n).map(|c| c.id);
        [("a", "First", at(0)), ("b", "Second", at(1)), ("c", "Third", at(2))]
    }

    fn is(&self, id: &i64, chosen: &Option<i64>) -> bool {
        *chosen == Some(*id)
    }
}

async fn show(asked: Asked, address: Uri) -> Result<Response, PageError> {
    let asked = asked.on(Page::Board);
    let board = asked.board().await?;
    let shown = OnBoard::of(&board, asked.view, asked.look.units);
    let scales = asked.app.scales_ready(shown.clone()).await?;
    let which: Which = of_address(&address);
    let (view, look, render) = (asked.view, asked.look, asked.render);
    let verdicts = asked.app.verdicts.clone();
    let html = asked
        .app
        .working(move || {
            let head = Head {
                title: format!("{}: Compare", board.plan.rig.name),
                ..Head::of_rig(&board, view, look)
            };
            let judged = verdicts.of(&shown.plan);
            let page = page(head, board.rig, view, &shown, &judged, &scales, &which.ids());
            match render {
                Render::Page => page.render().map_err(|_| PageError::Broken),
                Render::Fragment => block(&page.head.title, page.as_page().render()),
            }
        })
        .await??;
    let vary = [(axum::http::header::VARY, "HX-Request-Type, Cookie")];
    Ok((vary, Html(html)).into_response())
}

fn page(
    head: Head,
    rig: RigId,
    view: View,
    shown: &OnBoard,
    judged: &[Arc<Judged>],
    scales: &Scales,
    asked_for: &[i64],
) -> ComparePage {
    let plan = &shown.plan;
    let standings = shown.standings();
    let order = Contest::order(&standings);
    let usable = |n: &usize| judged.get(*n).is_some_and(|e| e.drawn.is_some());
    let of_id = |id: &i64| shown.ids.iter().position(|one| one.0 == *id);
    let mut places: Vec<usize> = asked_for.iter().filter_map(of_id).filter(usable).collect();
    if places.len() < 2 {
        // Those that come first, where fewer are asked for.
        let rest = order.iter().copied().chain(0..plan.packs.len());
        for n in rest.filter(usable) {
            if places.len() < 2 && !places.contains(&n) {
                places.push(n);
            }
        }
    }
    let course = verdict::course(&plan.rig_as_measured(), &plan.day);
    let say = head.look.say(&plan.currency);
    let column = |n: &usize| {
        let (pack, evaluation) = (&plan.packs[*n], &judged[*n]);
        let about = About { plan, pack, course: &course, say };
        let laid = circuit::laid(&about, evaluation, None);
        let (drawing, wiring) = match &laid {
            Some((asked, Ok(w))) => (
                circuit::drawings(&about, asked, w, &[("narrow", 366.0, 3)]).pop(),
                format!("{}: {}", circuit::sentence(pack, w), circuit::parts(w)),
            ),
            _ => (None, "No cable is sold for it.".to_owned()),
        };
        let id = shown.ids[*n].0;
        Column {
            id,
            name: pack.name.clone(),
            outcome: evaluation.counts_as().key(),
            disc: decision::disc(evaluation.counts_as()),
            verdict: decision::verdict(&about, evaluation),
            picture: evaluation
                .drawn
                .as_ref()
                .map(|d| evaluation.drawn(say.clock, || Picture::of(d, evaluation.outcome, about))),
            fit: FitView::of(&plan.rig, pack, say.units),
            drawing,
            wiring,
            notes: decision::in_full(&about, evaluation)
                .into_iter()
                .chain(decision::notes(&about, evaluation))
                .collect(),
            working: view.opening(crate::frame::view::Open::Working(id)).address(rig),
            packs_page: view.on(Page::Packs).address(rig),
        }
    };
    let compared: Vec<rows::One<'_>> = places
        .iter()
        .map(|n| rows::One {
            pack: &plan.packs[*n],
            evaluation: &judged[*n],
            standing: standings.get(*n),
            assumed: scales.weighed().is_some_and(|w| !w.settle.is_empty()),
            chance: scales.weighed().and_then(|w| w.chances.get(*n).copied().flatten()),
        })
        .collect();
    let all = std::iter::zip(&shown.ids, &plan.packs)
        .enumerate()
        .filter(|(n, _)| usable(n))
        .map(|(_, (id, pack))| (id.0, pack.name.clone()));
    let (differ, same) =
        rows::rows(plan, &course, say, &compared).into_iter().partition(Row::differs);
    ComparePage {
        rig,
        board: view.opening(crate::frame::view::Open::Nothing).address(rig),
        kept: view.kept(),
        all: all.collect(),
        columns: places.iter().map(column).collect(),
        differ,
        same,
        what_ifs: view.nudges.any(),
        head,
    }
}
