//! Shelves as files: sent, looked at, taken or called off; and written out.

use super::Sheet;
use super::view::{Open, ShelfView};
use crate::forms::Problems;
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::held::Stage;
use crate::frame::upload;
use axum::body::{Body, Bytes};
use axum::extract::{Multipart, Path};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use lake_hour_core::shelf::Candidate;
use lake_hour_formats::shelf::{self, table};
use lake_hour_store::{Report, StoreError};
use std::time::Duration;
use tokio_stream::wrappers::ReceiverStream;

/// Largest file taken: 100,000 batteries are some 25 MB. [bytes]
pub(super) const LARGEST: usize = 128 * 1024 * 1024;
/// How long an answer waits for a small file to be done with.
const PATIENCE: Duration = Duration::from_millis(400);

/// Waits a little for work that may be long; it goes on by itself.
async fn a_little(work: tokio::task::JoinHandle<()>) {
    let _ = tokio::time::timeout(PATIENCE, work).await;
}

fn settled(done: Result<Report, StoreError>, as_: fn(Report) -> Stage) -> Stage {
    match done {
        Ok(report) => as_(report),
        Err(error) => {
            tracing::error!(error = ?error, "a file could not be brought to the shelf");
            let stays = if matches!(error, StoreError::HalfTaken(_)) {
                ""
            } else {
                " Nothing of the file is on the shelf."
            };
            Stage::Failed(format!(
                "Not taken: {}.{stays}",
                error.of_disk().unwrap_or_else(|| error.to_string())
            ))
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
            held.call_off();
            if matches!(held.stage(), Stage::Looked(_)) {
                held.set(Stage::Off);
            }
        }
        _ => return Err(PageError::NoSuchPage),
    }
    super::answer(&asked, view.opening(Open::Import(id)), None).await
}

/// Batteries that are read at once: some 64 kB of a file.
const AT_ONCE: usize = 200;
/// Longest that whoever asked may take nothing of the file.
const LONGEST_STALL: Duration = Duration::from_secs(20);

/// The whole shelf, hidden batteries too.
pub(super) async fn csv(asked: Asked) -> Result<Response, PageError> {
    let row = |candidate: &Candidate, _| table::row(candidate);
    let form = Form { begin: table::header(), row, end: b"" };
    write(asked, "text/csv; charset=utf-8", "lake-hour-shelf.csv", form).await
}

/// The same as JSON.
pub(super) async fn json(asked: Asked) -> Result<Response, PageError> {
    let row = |candidate: &Candidate, first| shelf::json_next(candidate, first).into_bytes();
    let form =
        Form { begin: shelf::json_begin().into_bytes(), row, end: shelf::JSON_END.as_bytes() };
    write(asked, "application/json", "lake-hour-shelf.json", form).await
}

/// How a file is written: its beginning, a battery (the first?), its end.
struct Form<R> {
    begin: Vec<u8>,
    row: R,
    end: &'static [u8],
}

/// Writes the shelf piece by piece, each read for itself: however slowly it is taken, nobody waits for it.
async fn write(
    asked: Asked,
    kind: &'static str,
    file: &'static str,
    form: Form<impl Fn(&Candidate, bool) -> Vec<u8> + Send + 'static>,
) -> Result<Response, PageError> {
    // A rig that is not there has no shelf either.
    asked.app.store.board_or_bare(asked.rig).await?;
    let store = asked.app.store.clone();
    let files = asked.app.files.clone();
    let (send, pieces) = tokio::sync::mpsc::channel::<Result<Bytes, std::io::Error>>(2);
    tokio::spawn(async move {
        let (mut piece, mut last, mut first) = (form.begin, None, true);
        let mut left_out = Vec::new();
        loop {
            let slice = match store.batteries_after(last, AT_ONCE).await {
                Ok(slice) => slice,
                Err(error) => {
                    // A file cut short must not look whole.
                    let _ = send.send(Err(std::io::Error::other(error))).await;
                    return;
                }
            };
            for one in &slice.batteries {
                piece.extend((form.row)(&one.candidate, std::mem::take(&mut first)));
            }
            left_out.extend(slice.unreadable);
            last = slice.last;
            if last.is_none() {
                break;
            }
            if !piece.is_empty()
                && send
                    .send_timeout(Ok(std::mem::take(&mut piece).into()), LONGEST_STALL)
                    .await
                    .is_err()
            {
                return;
            }
        }
        if !left_out.is_empty() {
            tracing::warn!(batteries = ?left_out, "left out of a saved shelf: they cannot be read");
        }
        files.leave_out(left_out);
        piece.extend_from_slice(form.end);
        let _ = send.send_timeout(Ok(piece.into()), LONGEST_STALL).await;
    });
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{file}\"")),
    ];
    Ok((headers, Body::from_stream(ReceiverStream::new(pieces))).into_response())
}
