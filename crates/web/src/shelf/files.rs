//! Shelves as files: sent, looked at, taken or called off; and written out.

use super::Sheet;
use super::view::{Open, ShelfView};
use crate::App;
use crate::asked::Asked;
use crate::error::PageError;
use crate::forms::Problems;
use crate::upload;
use axum::body::{Body, Bytes};
use axum::extract::{Multipart, Path, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use lake_hour_core::shelf::Candidate;
use lake_hour_formats::shelf::{self, table};
use lake_hour_store::{Progress, Report, StoreError};
use std::collections::VecDeque;
use std::fs::File;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

/// Largest file taken: 100,000 batteries are some 25 MB. [bytes]
pub(super) const LARGEST: usize = 128 * 1024 * 1024;
/// Files that are held at once, waiting to be taken; the oldest goes first.
const MOST_HELD: usize = 4;
/// How long an answer waits for a small file to be done with.
const PATIENCE: Duration = Duration::from_millis(400);

/// How far a file is.
#[derive(Debug, Clone)]
pub(super) enum Stage {
    /// Being compared with the shelf.
    Looking,
    /// What it would do.
    Looked(Report),
    /// Being put on the shelf.
    Taking,
    /// What it did.
    Taken(Report),
    /// Called off before it was taken.
    Off,
    /// The database could not.
    Failed,
}

/// A file on its way to the shelf.
#[derive(Debug)]
pub(super) struct Held {
    pub(super) id: u64,
    pub(super) name: String,
    pub(super) progress: Arc<Progress>,
    file: File,
    stage: Mutex<Stage>,
}

impl Held {
    pub(super) fn stage(&self) -> Stage {
        self.stage.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    fn set(&self, stage: Stage) {
        *self.stage.lock().unwrap_or_else(PoisonError::into_inner) = stage;
    }

    /// How much of it is read. [%]
    pub(super) fn percent(&self) -> u64 {
        let of = |n: &AtomicU64| n.load(Ordering::Relaxed);
        (of(&self.progress.read) * 100 / of(&self.progress.size).max(1)).min(100)
    }

    pub(super) fn rows(&self) -> u64 {
        self.progress.rows.load(Ordering::Relaxed)
    }

    /// From looked at to being taken; false where it is not there to be taken, or is already.
    fn start(&self) -> bool {
        let mut stage = self.stage.lock().unwrap_or_else(PoisonError::into_inner);
        let ready = matches!(*stage, Stage::Looked(_));
        if ready {
            self.progress.read.store(0, Ordering::Relaxed);
            self.progress.rows.store(0, Ordering::Relaxed);
            *stage = Stage::Taking;
        }
        ready
    }

    fn open(&self) -> Result<File, PageError> {
        self.file.try_clone().map_err(|_| PageError::Broken)
    }
}

/// The files that wait.
#[derive(Debug, Clone, Default)]
pub(crate) struct Files {
    held: Arc<Mutex<VecDeque<Arc<Held>>>>,
    next: Arc<AtomicU64>,
}

impl Files {
    pub(super) fn get(&self, id: u64) -> Option<Arc<Held>> {
        let held = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        held.iter().find(|h| h.id == id).cloned()
    }

    fn hold(&self, upload: upload::Upload) -> Arc<Held> {
        let id = self.next.fetch_add(1, Ordering::Relaxed) + 1;
        let progress = Progress { size: AtomicU64::new(upload.size), ..Progress::default() };
        let (name, file) = (upload.name, upload.file);
        let stage = Mutex::new(Stage::Looking);
        let held = Arc::new(Held { id, name, progress: Arc::new(progress), file, stage });
        let mut all = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        all.push_back(held.clone());
        while all.len() > MOST_HELD {
            if let Some(old) = all.pop_front() {
                old.progress.cancelled.store(true, Ordering::Relaxed);
            }
        }
        held
    }
}

/// Waits a little for work that may be long; it goes on by itself.
async fn a_little(work: tokio::task::JoinHandle<()>) {
    let _ = tokio::time::timeout(PATIENCE, work).await;
}

fn settled(done: Result<Report, StoreError>, as_: fn(Report) -> Stage) -> Stage {
    match done {
        Ok(report) => as_(report),
        Err(error) => {
            tracing::error!(error = ?error, "a file could not be brought to the shelf");
            Stage::Failed
        }
    }
}

/// A file is sent: it is compared with the shelf, and nothing is changed yet.
pub(super) async fn send(
    asked: Asked,
    view: ShelfView,
    form: Multipart,
) -> Result<Response, PageError> {
    let Some(upload) = upload::receive(form, LARGEST).await? else {
        let problems = Problems::one("file", "Choose a CSV or JSON file first.");
        let view = view.opening(Open::Files);
        return super::draw(&asked, view, Sheet { problems: Some(problems), ..Sheet::default() })
            .await;
    };
    let held = asked.app.files.hold(upload);
    let file = held.open()?;
    let (store, at) = (asked.app.store.clone(), held.clone());
    a_little(tokio::spawn(async move {
        let done = store.look_at_file(file, at.progress.clone()).await;
        at.set(settled(done, Stage::Looked));
    }))
    .await;
    Ok(super::go(&asked, &view.opening(Open::Import(held.id))))
}

/// The file is taken, called off, or put away.
pub(super) async fn act(
    asked: Asked,
    Path((_, id, act)): Path<(i64, u64, String)>,
    view: ShelfView,
) -> Result<Response, PageError> {
    let gone = || PageError::Gone("this file: choose it once more".to_owned());
    let held = asked.app.files.get(id).ok_or_else(gone)?;
    match act.as_str() {
        "take" => {
            // Opened first: what is once said to be taken must come to an end.
            let file = held.open()?;
            if held.start() {
                let (store, at) = (asked.app.store.clone(), held.clone());
                a_little(tokio::spawn(async move {
                    let done = store.take_file(file, at.progress.clone()).await;
                    at.set(settled(done, Stage::Taken));
                }))
                .await;
            }
        }
        "cancel" => {
            held.progress.cancelled.store(true, Ordering::Relaxed);
            if matches!(held.stage(), Stage::Looked(_)) {
                held.set(Stage::Off);
            }
        }
        _ => return Err(PageError::NoSuchPage),
    }
    super::answer(&asked, view.opening(Open::Import(id)), None).await
}

/// A piece of an answer that is written while the shelf is read. [bytes]
const PIECE: usize = 32 * 1024;

/// The whole shelf, hidden batteries too.
pub(super) async fn csv(State(app): State<App>) -> Response {
    let row = |candidate: &Candidate, _| table::row(candidate);
    write(app, "text/csv; charset=utf-8", "lake-hour-shelf.csv", table::header(), row, b"")
}

/// The same as JSON.
pub(super) async fn json(State(app): State<App>) -> Response {
    let begin = format!(
        "{{\"format\":\"{}\",\"version\":{},\"batteries\":[",
        shelf::FORMAT,
        shelf::VERSION
    );
    let row = |candidate: &Candidate, first| {
        let comma = if first { "\n" } else { ",\n" };
        format!("{comma}{}", shelf::write_candidate(candidate)).into_bytes()
    };
    write(app, "application/json", "lake-hour-shelf.json", begin.into_bytes(), row, b"\n]}\n")
}

fn write(
    app: App,
    kind: &'static str,
    file: &'static str,
    begin: Vec<u8>,
    one: impl Fn(&Candidate, bool) -> Vec<u8> + Send + 'static,
    end: &'static [u8],
) -> Response {
    let (send, pieces) = tokio::sync::mpsc::channel::<Result<Bytes, std::io::Error>>(4);
    tokio::spawn(async move {
        let piece = Arc::new(Mutex::new(begin));
        let (into, to, mut first) = (piece.clone(), send.clone(), true);
        let all = app
            .store
            .each_battery(move |candidate| {
                let mut piece = into.lock().unwrap_or_else(PoisonError::into_inner);
                piece.extend(one(candidate, std::mem::take(&mut first)));
                piece.len() < PIECE
                    || to.blocking_send(Ok(std::mem::take(&mut *piece).into())).is_ok()
            })
            .await;
        let mut rest = std::mem::take(&mut *piece.lock().unwrap_or_else(PoisonError::into_inner));
        rest.extend_from_slice(end);
        // Who asked may have gone away meanwhile; a file cut short must not look whole.
        let _ = send.send(all.map(|()| rest.into()).map_err(std::io::Error::other)).await;
    });
    let next = |mut pieces: tokio::sync::mpsc::Receiver<_>| async move {
        pieces.recv().await.map(|piece| (piece, pieces))
    };
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{file}\"")),
    ];
    (headers, Body::from_stream(futures_util::stream::unfold(pieces, next))).into_response()
}
