//! Your data: saved as one file or as open files, brought back, deleted.

use crate::figures;
use crate::forms::Typed;
use crate::frame::App;
use crate::frame::brought::Copy;
use crate::frame::error::{PageError, of_temp};
use crate::frame::head::{Head, moment};
use crate::frame::look::Look;
use crate::frame::upload;
use askama::Template;
use axum::Router;
use axum::body::{Body, Bytes};
use axum::extract::{DefaultBodyLimit, Multipart, State};
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{Html, IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use lake_hour_formats::{gpx, plan, result, shelf, tables};
use lake_hour_store::backup::{self, KeptCopy, Kind};
use lake_hour_store::{RigId, Trouble};
use std::fs::File;
use std::io::{Read, Seek, SeekFrom, Write};
use std::sync::Arc;
use tokio_stream::wrappers::ReceiverStream;
use zip::write::SimpleFileOptions;

/// Largest backup that is taken on a page. [bytes]
const LARGEST: usize = backup::LARGEST as usize;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/data", get(show))
        .route("/data/lake-hour-backup.db", get(save))
        .route("/data/lake-hour-files.zip", get(open_files))
        .route("/data/look", post(look_at).layer(DefaultBodyLimit::max(LARGEST)).get(back))
        .route("/data/restore", post(restore).get(back))
        .route("/data/kept", post(restore_kept).get(back))
        .route("/data/delete", post(delete).get(back))
        .route("/data/again", post(again).get(back))
}

async fn back() -> Redirect {
    Redirect::to("/data")
}

/// Why nothing can be changed, and the way back.
struct TroubleView {
    trouble: Trouble,
    file: String,
    folder: String,
    /// What is free on its disk.
    free: Option<String>,
    /// The night whose copy is shown, where the file cannot be read.
    shows: Option<String>,
    looks_only: bool,
}

impl TroubleView {
    fn of(app: &App, trouble: Trouble) -> Self {
        let path = app.store.path();
        let copies = app.store.copies();
        let shows = app.store.looks_at();
        Self {
            trouble,
            file: path.display().to_string(),
            folder: path.parent().map(|f| f.display().to_string()).unwrap_or_default(),
            free: lake_hour_store::room(path).map(size),
            shows: shows
                .and_then(|name| copies.iter().find(|c| c.name == name).map(|c| row(c).words)),
            looks_only: app.store.looks_only(),
        }
    }
}

/// A copy that is kept, in words.
struct Row {
    name: String,
    words: String,
    size: String,
}

#[derive(Template)]
#[template(path = "data.html")]
struct DataPage {
    head: Head,
    rigs: usize,
    batteries: usize,
    copies: Vec<Row>,
    folder: String,
    trouble: Option<TroubleView>,
    brought: Option<Arc<Copy>>,
    problem: Option<String>,
    /// What was typed where the word delete was asked for.
    not_delete: Option<String>,
}

impl DataPage {
    async fn new(app: &App, headers: &HeaderMap) -> Result<Self, PageError> {
        let store = app.store.clone();
        let (copies, folder) = app.working(move || (store.copies(), store.copies_folder())).await?;
        Ok(Self {
            head: Head::plain("Your data", Look::of(headers)),
            rigs: app.store.rigs().await?.len(),
            batteries: app.store.batteries().await?,
            copies: copies.iter().map(row).collect(),
            folder: folder.display().to_string(),
            trouble: app.store.trouble().map(|trouble| TroubleView::of(app, trouble)),
            brought: None,
            problem: None,
            not_delete: None,
        })
    }

    fn answer(&self) -> Result<Response, PageError> {
        let bad = self.problem.is_some() || self.not_delete.is_some();
        let status = if bad { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
        Ok((status, Html(self.render().map_err(|_| PageError::Broken)?)).into_response())
    }
}

/// "11.4 MB".
fn size(bytes: u64) -> String {
    if bytes < 1 << 20 {
        format!("{} kB", bytes.div_ceil(1024))
    } else {
        format!("{} MB", figures::amount(bytes as f64 / f64::from(1 << 20)))
    }
}

fn row(copy: &KeptCopy) -> Row {
    let stem = copy.name.trim_end_matches(".db");
    let of = stem.split_once('-').map_or("", |(_, of)| of);
    let words = match copy.kind {
        Kind::Daily => format!("night of {of}"),
        Kind::Weekly => format!("week {of}"),
        // "2026-11-28-093000"
        Kind::Replaced => match (of.get(..10), of.get(11..13), of.get(13..15)) {
            (Some(day), Some(hour), Some(minute)) => {
                format!("what stood here before {day}, {hour}:{minute}")
            }
            _ => format!("what stood here before {of}"),
        },
    };
    Row { name: copy.name.clone(), words, size: size(copy.size) }
}

async fn show(State(app): State<App>, headers: HeaderMap) -> Result<Response, PageError> {
    DataPage::new(&app, &headers).await?.answer()
}

/// A file that is sent piece by piece, whoever reads it and however slowly.
fn sent(mut file: File, kind: &'static str, name: &'static str) -> Result<Response, PageError> {
    let size = file.seek(SeekFrom::End(0)).map_err(|_| PageError::Broken)?;
    file.seek(SeekFrom::Start(0)).map_err(|_| PageError::Broken)?;
    let (send, pieces) = tokio::sync::mpsc::channel::<std::io::Result<Bytes>>(2);
    tokio::task::spawn_blocking(move || {
        let mut piece = vec![0; 1 << 16];
        loop {
            match file.read(&mut piece) {
                Ok(0) => break,
                Ok(n) => {
                    if send.blocking_send(Ok(Bytes::copy_from_slice(&piece[..n]))).is_err() {
                        break;
                    }
                }
                Err(error) => {
                    let _ = send.blocking_send(Err(error));
                    break;
                }
            }
        }
    });
    let headers = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}\"")),
        (header::CONTENT_LENGTH, size.to_string()),
    ];
    Ok((headers, Body::from_stream(ReceiverStream::new(pieces))).into_response())
}

/// All of it as one file, made while others write.
async fn save(State(app): State<App>) -> Result<Response, PageError> {
    let folder = tempfile::tempdir().map_err(|e| of_temp(&e))?;
    let to = folder.path().join("copy.db");
    app.store.back_up(to.clone()).await?;
    let file = File::open(&to).map_err(|_| PageError::Broken)?;
    // What is open is still there when its name has gone.
    drop(folder);
    sent(file, "application/vnd.sqlite3", "lake-hour-backup.db")
}

/// Batteries asked for at once.
const AT_ONCE: usize = 500;

/// All of it as open files in one zip.
async fn open_files(State(app): State<App>) -> Result<Response, PageError> {
    let mut boards = Vec::new();
    for rig in app.store.rigs().await? {
        boards.push((rig.id, app.store.board(rig.id).await, app.store.log(rig.id).await));
    }
    let file = tempfile::tempfile().map_err(|e| of_temp(&e))?;
    let mut zip = app.working(move || rigs_into(file, &boards)).await??;
    let (mut json, mut csv) = (shelf::json_begin(), shelf::table::header());
    let (mut last, mut first) = (None, true);
    loop {
        let slice = app.store.batteries_after(last, AT_ONCE).await?;
        for one in &slice.batteries {
            json.push_str(&shelf::json_next(&one.candidate, std::mem::take(&mut first)));
            csv.extend(shelf::table::row(&one.candidate));
        }
        last = slice.last;
        if last.is_none() {
            break;
        }
    }
    json.push_str(shelf::JSON_END);
    let file = app.working(move || {
        put(&mut zip, "shelf.json", json.as_bytes())?;
        put(&mut zip, "shelf.csv", &csv)?;
        zip.finish().map_err(|_| PageError::Broken)
    });
    sent(file.await??, "application/zip", "lake-hour-files.zip")
}

type Zip = zip::ZipWriter<File>;

fn put(zip: &mut Zip, name: &str, bytes: &[u8]) -> Result<(), PageError> {
    let options = SimpleFileOptions::default();
    zip.start_file(name, options).map_err(|_| PageError::Broken)?;
    zip.write_all(bytes).map_err(|_| PageError::Broken)
}

const ABOUT: &str = "All that Lake Hour keeps, as open files.\r\n\r\n\
    *.plan.json  a rig with its day, packs and build: open it on the page \"Open a plan file\"\r\n\
    *.log.json   its log: outings, tests, packs you own; bring it in on the Log page\r\n\
    *.result.csv what its packs came to\r\n\
    *.route.gpx  the route of its day (GPX 1.1)\r\n\
    shelf.json, shelf.csv  all batteries: bring them in on the Shelf page\r\n";

type Boards = Vec<(
    RigId,
    Result<lake_hour_store::Board, lake_hour_store::StoreError>,
    Result<lake_hour_store::KeptLog, lake_hour_store::StoreError>,
)>;

fn rigs_into(file: File, boards: &Boards) -> Result<Zip, PageError> {
    let mut zip = zip::ZipWriter::new(file);
    put(&mut zip, "READ-ME.txt", ABOUT.as_bytes())?;
    for (id, board, log) in boards {
        // One that cannot be read is shown on its own page with its text; the others are saved.
        let Ok(board) = board else { continue };
        let plan = &board.plan;
        let stem: String = plan
            .rig
            .name
            .chars()
            .map(|c| if c.is_alphanumeric() { c } else { '-' })
            .take(40)
            .collect();
        let stem = format!("{:02}-{}", id.0, stem.trim_matches('-').to_lowercase());
        let json = serde_json::to_vec_pretty(&plan::write(plan)).map_err(|_| PageError::Broken)?;
        put(&mut zip, &format!("{stem}.plan.json"), &json)?;
        if let Ok(kept) = log
            && !kept.log.all.is_empty()
        {
            let json = serde_json::to_vec_pretty(&lake_hour_formats::logged::write(&kept.log));
            put(&mut zip, &format!("{stem}.log.json"), &json.map_err(|_| PageError::Broken)?)?;
        }
        if let Ok(evaluations) = plan.evaluate() {
            let csv = tables::csv(&result::document(plan, &evaluations, false));
            put(&mut zip, &format!("{stem}.result.csv"), csv.as_bytes())?;
        }
        if let Some(route) = gpx::write(&plan.rig.name, &plan.day) {
            put(&mut zip, &format!("{stem}.route.gpx"), &route)?;
        }
    }
    Ok(zip)
}

/// A backup is sent: it is looked at, and nothing is changed yet.
async fn look_at(
    State(app): State<App>,
    headers: HeaderMap,
    form: Multipart,
) -> Result<Response, PageError> {
    let mut page = DataPage::new(&app, &headers).await?;
    let Some(mut upload) = upload::receive(form, LARGEST).await? else {
        page.problem = Some("Choose a backup first, as in lake-hour-backup.db.".to_owned());
        return page.answer();
    };
    let name = upload.name.clone();
    let looked = app.heavy.does(move |_| {
        let mut set_aside = || {
            let kept = tempfile::Builder::new().prefix("lake-hour-").suffix(".db").tempfile();
            let (mut file, path) =
                kept.and_then(|kept| Ok(kept.keep()?)).map_err(backup::BadCopy::Unread)?;
            let copied = std::io::copy(&mut upload.file, &mut file).and_then(|_| file.sync_all());
            let looked =
                copied.map_err(backup::BadCopy::Unread).and_then(|()| backup::look_at(&path));
            if looked.is_err() {
                backup::discard(&path);
            }
            looked.map(|sound| (sound, path))
        };
        Ok(set_aside())
    });
    match looked.await? {
        Ok((sound, path)) => page.brought = Some(app.brought.hold(name, sound, path)),
        Err(why) => page.problem = Some(format!("{name}: {why}. Nothing was changed.")),
    }
    page.answer()
}

async fn restore(State(app): State<App>, typed: Typed) -> Result<Redirect, PageError> {
    let gone = || PageError::Gone("this backup: choose the file once more".to_owned());
    let token = typed.get("token").parse().map_err(|_| gone())?;
    let copy = app.brought.take(token).ok_or_else(gone)?;
    app.replaced(app.store.bring_back(copy.path().to_owned(), &moment())).await?;
    Ok(Redirect::to("/data"))
}

/// A copy that was kept here takes the place of all.
async fn restore_kept(
    State(app): State<App>,
    headers: HeaderMap,
    typed: Typed,
) -> Result<Response, PageError> {
    let gone = || PageError::Gone("this copy".to_owned());
    let kept = app.store.kept_copy(typed.get("name")).ok_or_else(gone)?;
    let looked = app.heavy.does(move |_| {
        let set_aside = || {
            let folder = tempfile::tempdir().map_err(backup::BadCopy::Unread)?;
            let aside = folder.path().join("copy.db");
            std::fs::copy(&kept, &aside).map_err(backup::BadCopy::Unread)?;
            backup::look_at(&aside).map(|_| (folder, aside))
        };
        Ok(set_aside())
    });
    match looked.await? {
        Ok((_folder, aside)) => {
            app.replaced(app.store.bring_back(aside, &moment())).await?;
            Ok(Redirect::to("/data").into_response())
        }
        Err(why) => {
            let mut page = DataPage::new(&app, &headers).await?;
            page.problem = Some(format!("{}: {why}. Nothing was changed.", typed.get("name")));
            page.answer()
        }
    }
}

/// What was in the way may be gone.
async fn again(State(app): State<App>, headers: HeaderMap) -> Result<Response, PageError> {
    let tried = if app.store.looks_only() { app.store.try_again().await } else { Ok(()) };
    match tried {
        Ok(()) => {
            app.trips.resume(&app.store).await;
            Ok(Redirect::to("/data").into_response())
        }
        Err(why) => {
            let mut page = DataPage::new(&app, &headers).await?;
            page.problem = Some(format!("Still not: {why}."));
            page.answer()
        }
    }
}

async fn delete(
    State(app): State<App>,
    headers: HeaderMap,
    typed: Typed,
) -> Result<Response, PageError> {
    let word = typed.get("word");
    if !word.trim().eq_ignore_ascii_case("delete") {
        let mut page = DataPage::new(&app, &headers).await?;
        page.not_delete = Some(word.to_owned());
        return page.answer();
    }
    app.replaced(app.store.delete_all(&moment())).await?;
    Ok(Redirect::to("/data").into_response())
}
