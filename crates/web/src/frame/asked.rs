//! A request about a rig, from its address to its answer: what every page shares.

use crate::frame::App;
use crate::frame::error::PageError;
use crate::frame::form::merge::Merged;
use crate::frame::form::{Problems, Shown, Typed};
use crate::frame::judged::Verdicts;
use crate::frame::look::Look;
use crate::frame::records::Record;
use crate::frame::render::Render;
use crate::frame::trips::{Replay, Seen};
use crate::frame::view::{Open, Page, View};
use crate::frame::weighed::{OnBoard, Scales};
use axum::extract::{FromRequestParts, Path, Query};
use axum::http::request::Parts;
use axum::http::{HeaderValue, Method, StatusCode, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use lake_hour_core::log::Log;
use lake_hour_core::shelf::Battery;
use lake_hour_core::units::system::System;
use lake_hour_formats::monitor::Sample;
use lake_hour_store::{BatteryId, Board, Change, Kept, KeptLog, KeptTrip, RigId};
use std::collections::BTreeMap;
use std::sync::Arc;

/// A form that could not be taken, with what was typed: it is shown again, beside what is wrong.
#[derive(Debug, Clone)]
pub(crate) struct Draft {
    pub(crate) of: Open,
    pub(crate) typed: Typed,
    pub(crate) problems: Problems,
}

/// What a page is drawn from.
#[derive(Debug, Clone)]
pub(crate) struct Scene {
    pub(crate) board: Board,
    pub(crate) view: View,
    pub(crate) look: Look,
    pub(crate) draft: Option<Draft>,
    /// What was just done.
    pub(crate) said: Option<String>,
    /// Batteries of the shelf that packs were built of, as their labels stand now.
    pub(crate) shelf: BTreeMap<BatteryId, Battery>,
    /// What is worked out already.
    pub(crate) verdicts: Verdicts,
    /// What is logged of the rig, where it is shown.
    pub(crate) log: Option<Arc<KeptLog>>,
    /// What a monitor recorded of the outing that is drawn.
    pub(crate) recorded: Vec<Sample>,
    /// A monitor's table that waits to be told of.
    pub(crate) record: Option<Arc<Record>>,
    /// What the Board's decision rests on, where it was asked for.
    pub(crate) scales: Option<Scales>,
    /// The trip under way, where it is shown.
    pub(crate) under_way: Option<Box<Seen>>,
    /// Trips that are over, the newest first.
    pub(crate) trips: Vec<KeptTrip>,
    /// The one of them that is seen again.
    pub(crate) replay: Option<Box<Replay>>,
}

impl Scene {
    /// The draft of this form, if it is the one to be looked at again.
    pub(crate) fn draft_of(&self, open: Open) -> Option<&Draft> {
        self.draft.as_ref().filter(|d| d.of == open)
    }

    /// A form with what is kept in it, or with what was typed and is wrong.
    pub(crate) fn form<T>(
        &self,
        open: Open,
        kept: impl FnOnce() -> Typed,
        show: impl FnOnce(Shown<'_>) -> T,
    ) -> T {
        let draft = self.draft_of(open);
        let none = Problems::default();
        let typed = draft.map_or_else(kept, |d| d.typed.clone());
        let problems = draft.map_or(&none, |d| &d.problems);
        show(Shown { typed: &typed, problems, units: self.look.units })
    }
}

/// A form on a rig's page, told at the moment its change is written.
pub(crate) struct Form {
    /// How it would be drawn.
    pub(crate) now: Box<Draws>,
    /// What it asks for.
    pub(crate) read: Box<Reads>,
}

type Draws = dyn Fn(&Board, Look) -> Typed + Send;
type Reads = dyn Fn(&Board, &Typed, System) -> Result<Change, Problems> + Send;

impl Form {
    pub(crate) fn new(
        now: impl Fn(&Board, Look) -> Typed + Send + 'static,
        read: impl Fn(&Board, &Typed, System) -> Result<Change, Problems> + Send + 'static,
    ) -> Self {
        Self { now: Box::new(now), read: Box::new(read) }
    }
}

/// What is left to say of a change that was made.
struct Rest {
    /// It went over what another window had changed.
    over: bool,
    /// Other rows that have to be looked at again.
    left: Option<(Typed, Problems)>,
}

/// Why a change was not made.
enum Refused {
    Problems(Typed, Problems),
    /// The list is another one by now.
    Moved,
}

/// Trips that are over and are offered to be seen again.
const SHOWN_TRIPS: i64 = 12;

/// Both windows had changed the same.
pub(crate) const OVER: &str =
    "Another window had changed the same meanwhile; yours is kept, and Undo brings the other back";
const MOVED: &str =
    "Not removed: another window changed this list meanwhile. Here it is as it is now";

/// What every answer about a rig needs from its request.
pub(crate) struct Asked {
    pub(crate) app: App,
    pub(crate) rig: RigId,
    pub(crate) view: View,
    pub(crate) render: Render,
    pub(crate) look: Look,
    /// Something was sent by a form, and not only asked for by a link.
    pub(crate) posted: bool,
    /// The rig after a change of this request.
    pub(crate) after: Option<Box<Board>>,
    /// The page that it was asked from, where it says so.
    pub(crate) from: Option<Page>,
}

impl FromRequestParts<App> for Asked {
    type Rejection = PageError;

    async fn from_request_parts(parts: &mut Parts, app: &App) -> Result<Self, PageError> {
        #[derive(serde::Deserialize)]
        struct RigPath {
            rig: i64,
        }
        let Path(RigPath { rig }) =
            Path::from_request_parts(parts, app).await.map_err(|_| PageError::NoSuchPage)?;
        let Query(view) = Query::from_request_parts(parts, app).await.unwrap_or_default();
        let render = Render::from_request_parts(parts, app).await.unwrap_or(Render::Page);
        let look = Look::of(&parts.headers);
        // A search that is typed is one entry of the history, not one for each letter.
        let source = parts.headers.get("HX-Source").and_then(|v| v.to_str().ok());
        let searched = source.is_some_and(|s| s.starts_with("form"));
        let posted = parts.method == Method::POST || searched;
        let from = parts.headers.get("HX-Current-URL").and_then(|v| v.to_str().ok());
        let from = from.and_then(|url| {
            let path = url.split(['?', '#']).next()?;
            let key = path.rsplit('/').next()?;
            Page::ALL.into_iter().find(|page| page.key() == key)
        });
        let (app, rig, after) = (app.clone(), RigId(rig), None);
        Ok(Self { app, rig, view, render, look, posted, after, from })
    }
}

impl Asked {
    pub(crate) async fn board(&self) -> Result<Board, PageError> {
        Ok(self.app.store.board(self.rig).await?)
    }

    /// The same on a page that its address names.
    pub(crate) const fn on(mut self, page: Page) -> Self {
        self.view.page = page;
        self
    }

    /// The page as it is now, or with a form that has to be looked at again.
    pub(crate) async fn draw(
        mut self,
        draft: Option<Draft>,
        said: Option<String>,
    ) -> Result<Response, PageError> {
        if matches!(self.view.page, Page::Shelf | Page::Packs) {
            // These draw themselves: most of what they show belongs to the shelf.
            return Ok(Redirect::to(&self.view.address(self.rig)).into_response());
        }
        let board = match self.after.take() {
            Some(board) => *board,
            None => self.board().await?,
        };
        let status =
            if draft.is_some() { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
        let address = self.view.address(self.rig);
        let render = self.render;
        if let (Page::Board, Some(drivers)) = (self.view.page, self.view.map) {
            let shown = OnBoard::of(&board, self.view, self.look.units);
            // Where others are in front of it the page is drawn without: a change that was made is answered.
            let _ = self.app.map_ready(shown, drivers).await;
        }
        let scene = Scene { draft, said, ..self.scene(board).await? };
        let drawing = self.app.drawing;
        let html = self.app.working(move || drawing(&scene, render)).await??;
        let vary = [(header::VARY, "HX-Request-Type, Cookie")];
        let mut response = (status, vary, Html(html)).into_response();
        // What was asked for is a new entry of the browser's history, so that Back leads out of it.
        if self.render == Render::Fragment
            && self.posted
            && let Ok(address) = HeaderValue::from_str(&address)
        {
            // The address bar says what is shown, so that it can be reloaded, kept and passed on; another page than it was
            // asked from is one to come back from.
            let leads_on = self.from.is_some_and(|from| from != self.view.page);
            let way = if leads_on { "HX-Push-Url" } else { "HX-Replace-Url" };
            response.headers_mut().insert(way, address);
        }
        Ok(response)
    }

    /// What a page is drawn from, with nothing to be looked at again.
    pub(crate) async fn scene(&self, board: Board) -> Result<Scene, PageError> {
        let (view, look) = (self.view, self.look);
        let shelf = self.built_of(&board).await?;
        let verdicts = self.app.verdicts.clone();
        let scales = (view.page == Page::Board)
            .then(|| self.app.scales(&OnBoard::of(&board, view, look.units)));
        let log = match view.page {
            Page::Log | Page::Live => Some(Arc::new(self.app.store.log(board.rig).await?)),
            _ => None,
        };
        let live = view.page == Page::Live;
        let under_way = self.app.trips.of(board.rig).filter(|_| live).map(|r| Box::new(r.seen()));
        let trips =
            if live { self.app.store.trips(board.rig, SHOWN_TRIPS).await? } else { Vec::new() };
        let trips: Vec<KeptTrip> = trips.into_iter().filter(|trip| trip.ended.is_some()).collect();
        let replay = match trips.iter().find(|trip| view.see == Some(trip.id.0)).cloned() {
            Some(trip) => self.replay(trip).await?,
            None => None,
        };
        let recorded = match log.as_ref().filter(|_| !live) {
            Some(kept) => self.recorded(&kept.log).await?,
            None => Vec::new(),
        };
        let record = match view.open {
            Open::Record(id) => {
                u64::try_from(id).ok().and_then(|id| self.app.records.get(self.rig, id))
            }
            _ => None,
        };
        let (draft, said) = (None, None);
        Ok(Scene {
            board,
            view,
            look,
            draft,
            said,
            shelf,
            verdicts,
            scales,
            log,
            recorded,
            record,
            under_way,
            trips,
            replay,
        })
    }

    /// A trip that is over, told again.
    async fn replay(&self, trip: KeptTrip) -> Result<Option<Box<Replay>>, PageError> {
        let lines = self.app.store.trip_lines(trip.rig, trip.id).await?;
        self.app.working(move || Replay::of(&trip, &lines).map(Box::new)).await
    }

    /// What a monitor recorded of the outing that is drawn.
    async fn recorded(&self, log: &Log) -> Result<Vec<Sample>, PageError> {
        match self.view.seen(log).and_then(|(_, outing)| outing.recorded) {
            Some(id) => Ok(self.app.store.recorded(self.rig, id).await?),
            None => Ok(Vec::new()),
        }
    }

    /// The batteries of the shelf that the board's packs were built of.
    async fn built_of(&self, board: &Board) -> Result<BTreeMap<BatteryId, Battery>, PageError> {
        if self.view.page != Page::Board {
            return Ok(BTreeMap::new());
        }
        let built_of = board.built_of.iter().copied().flatten().collect();
        Ok(self.app.store.labels(built_of).await?)
    }

    /// After a change: the page in its new state, or the way to it for a browser without scripts.
    pub(crate) async fn answer(self, said: Option<String>) -> Result<Response, PageError> {
        match self.render {
            Render::Fragment => self.draw(None, said).await,
            Render::Page => Ok(Redirect::to(&self.view.address(self.rig)).into_response()),
        }
    }

    /// Makes the change that a form asks for, or shows the form again.
    pub(crate) async fn change(
        mut self,
        read: Result<Change, Problems>,
        of: Open,
        typed: Typed,
    ) -> Result<Response, PageError> {
        let change = match read {
            Ok(change) => change,
            Err(problems) => {
                self.view.open = self.panel(of);
                return self.draw(Some(Draft { of, typed, problems }), None).await;
            }
        };
        let copied = matches!(change, Change::CopyPack(_));
        let opens = matches!(change, Change::CopyStretch(_) | Change::SplitStretch(_));
        let logs =
            matches!(change, Change::AddLogged(..) | Change::AddLog(..) | Change::AddSame(..));
        let mut kept = self.app.store.change(self.rig, change).await?;
        self.after = kept.board.take();
        if logs {
            self.see(kept.made).await?;
        }
        self.view.open = match (of, kept.made) {
            // A new pack is done with; a copy is opened, since it is made to be changed.
            (Open::NewPack, _) => Open::Nothing,
            (_, Some(id)) if copied => Open::Pack(id),
            (_, Some(id)) if opens && self.view.page == Page::Day => Open::Stretch(id),
            (Open::NewStretch, Some(id)) if self.view.page == Page::Day => Open::Stretch(id),
            (of, _) => self.panel(of),
        };
        self.answer(Some(kept.sentence)).await
    }

    /// What was just logged is what is drawn, however long ago it was; the latest outing is drawn unasked.
    async fn see(&mut self, made: Option<i64>) -> Result<(), PageError> {
        let log = self.app.store.log(self.rig).await?.log;
        let latest = log.outings().next_back().map(|(id, _)| id);
        let outing = made.filter(|id| log.outing(*id).is_some());
        self.view.see = outing.filter(|id| latest != Some(*id));
        Ok(())
    }

    /// Makes a change that is found for the rig as it is at the moment of writing.
    pub(crate) async fn make(
        mut self,
        of: Open,
        find: impl FnOnce(&Board) -> Result<Change, PageError> + Send + 'static,
    ) -> Result<Response, PageError> {
        let made =
            self.app.store.change_by(self.rig, |board| Ok::<_, PageError>((find(board)?, ())));
        let (mut kept, ()) = made.await??;
        self.after = kept.board.take();
        self.view.open = self.panel(of);
        self.answer(Some(kept.sentence)).await
    }

    /// Makes the change that a form asks for of the rig as it is at the moment of writing: what another
    /// window changed in other fields stays, and where both changed the same this one wins and says so.
    /// A row of a list that is to go goes even where another one is half typed or wrong.
    pub(crate) async fn edit(
        self,
        of: Open,
        typed: Typed,
        form: Form,
    ) -> Result<Response, PageError> {
        let look = Look { units: typed.units_or(self.look.units), ..self.look };
        let read = move |board: &Board| {
            let now = (form.now)(board, look);
            let read = |typed: &Typed| (form.read)(board, typed, look.units);
            let gone = typed.taken_out();
            let Merged { typed, over } = typed.over(&now).map_err(|_| Refused::Moved)?;
            let problems = match read(&typed) {
                Ok(change) => return Ok((change, Rest { over, left: None })),
                Err(problems) => problems,
            };
            let alone = gone.and_then(|gone| {
                let change = read(&now.with("take-out", gone.to_string())).ok()?;
                Some((change, (typed.without_row(gone), problems.without_row(gone))))
            });
            match alone {
                Some((change, left)) => Ok((change, Rest { over, left: Some(left) })),
                None => Err(Refused::Problems(typed, problems)),
            }
        };
        match self.app.store.change_by(self.rig, read).await? {
            Ok((kept, rest)) => self.kept(kept, of, rest).await,
            Err(refused) => self.refused(refused, of).await,
        }
    }

    async fn kept(mut self, mut kept: Kept, of: Open, rest: Rest) -> Result<Response, PageError> {
        self.after = kept.board.take();
        if matches!(of, Open::Logging(_)) {
            self.see(kept.made).await?;
        }
        self.view.open = match (of, kept.made) {
            (Open::NewStretch, Some(id)) if self.view.page == Page::Day => Open::Stretch(id),
            // What is logged is done with, and shown.
            (Open::Logging(_) | Open::Entry(_), _) => Open::Nothing,
            (of, _) => self.panel(of),
        };
        if let Some((typed, problems)) = rest.left.filter(|(_, problems)| !problems.is_empty()) {
            return self.draw(Some(Draft { of, typed, problems }), None).await;
        }
        let sentence = match rest.over {
            true => format!("{}. {OVER}", kept.sentence),
            false => kept.sentence,
        };
        self.answer(Some(sentence)).await
    }

    async fn refused(mut self, refused: Refused, of: Open) -> Result<Response, PageError> {
        self.view.open = self.panel(of);
        match refused {
            Refused::Problems(typed, problems) => {
                self.draw(Some(Draft { of, typed, problems }), None).await
            }
            Refused::Moved => self.answer(Some(MOVED.to_owned())).await,
        }
    }

    /// The panel that holds this form on this page.
    const fn panel(&self, of: Open) -> Open {
        match (self.view.page, of) {
            (Page::Day, Open::Day) => Open::Nothing,
            (Page::Board, Open::Stretch(_) | Open::NewStretch) => Open::Day,
            // A part is always there; what else is open stays so.
            (_, Open::Part(_)) => self.view.open,
            (_, of) => of,
        }
    }
}

/// A form's own address visited: without scripts it stands in the address bar after a refused form.
pub(crate) async fn back(asked: Asked) -> Redirect {
    Redirect::to(&asked.view.address(asked.rig))
}
