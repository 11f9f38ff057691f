//! What a battery monitor recorded becomes outings; a track tells how far they went.

use super::{record, rows};
use crate::figures;
use crate::forms::{Problems, Typed};
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::upload::{self, Upload};
use crate::frame::view::{Open, Page, Part};
use axum::extract::Multipart;
use axum::response::Response;
use jiff::tz::TimeZone;
use lake_hour_core::log::{Log, Logged, Outing};
use lake_hour_core::units::Metres;
use lake_hour_formats::gpx;
use lake_hour_formats::monitor;
use lake_hour_store::{Change, LogId};
use std::io::{BufReader, Read, Seek, SeekFrom};

/// Largest upload taken: a season at a row a second is some 100 MB. [bytes]
pub(super) const LARGEST: usize = 600 * 1024 * 1024;

/// What a file held.
enum Held {
    Table(Box<(Upload, monitor::Top)>),
    Track(gpx::Way),
    Log(Log),
}

pub(super) async fn bring(asked: Asked, form: Multipart) -> Result<Response, PageError> {
    // What it brings is what is drawn.
    let mut asked = asked.on(Page::Log);
    asked.view.see = None;
    let part = Open::Part(Part::Import);
    let refused = |says: String| Err(Problems::one("file", says));
    let Some(upload) = upload::receive(form, LARGEST).await? else {
        let says = "Choose a file first: the CSV of a battery monitor, or a GPX track.".to_owned();
        return asked.change(refused(says), part, Typed::default()).await;
    };
    let name = upload.name.clone();
    let held = tokio::task::spawn_blocking(move || look(upload)).await;
    match held.map_err(|_| PageError::Broken)? {
        Err(says) => asked.change(refused(says), part, Typed::default()).await,
        Ok(Held::Track(way)) => track(asked, way, part).await,
        Ok(Held::Log(log)) => {
            let sentence = format!("Took {} entries from {name}", log.all.len());
            asked.change(Ok(Change::AddLog(sentence, log)), part, Typed::default()).await
        }
        Ok(Held::Table(table)) => {
            let (upload, top) = *table;
            let beside = upload.beside.clone();
            let held = asked.app.records.hold(asked.rig, upload, top);
            record::sent(asked, held, &beside).await
        }
    }
}

/// Reads a file as what it is.
fn look(mut upload: Upload) -> Result<Held, String> {
    let mut first = [0_u8; 64];
    let read = upload.file.read(&mut first).unwrap_or(0);
    upload.file.seek(SeekFrom::Start(0)).map_err(|e| format!("Not taken: {e}."))?;
    let text = String::from_utf8_lossy(&first[..read]);
    if text.trim_start_matches('\u{feff}').trim_start().starts_with('<') {
        let way = gpx::read(BufReader::new(upload.file), |_| true);
        return way.map(Held::Track).map_err(|e| format!("Not taken: {e}."));
    }
    if text.trim_start_matches('\u{feff}').trim_start().starts_with('{') {
        return whole_log(upload.file).map(Held::Log);
    }
    let top = monitor::top(&upload.file).map_err(|e| format!("Not taken: {e}."))?;
    Ok(Held::Table(Box::new((upload, top))))
}

/// A log that was saved here or elsewhere. What a monitor recorded is not in it.
fn whole_log(file: std::fs::File) -> Result<Log, String> {
    let mut bytes = Vec::new();
    let most = lake_hour_formats::plan::LARGEST as u64;
    file.take(most + 1).read_to_end(&mut bytes).map_err(|e| format!("Not taken: {e}."))?;
    if bytes.len() as u64 > most {
        return Err(format!("Not taken: at most {} MB of a log are read.", most >> 20));
    }
    let mut log = lake_hour_formats::logged::read(&bytes)
        .map_err(|faults| format!("Not taken: {}.", faults.first()))?;
    for (_, entry) in &mut log.all {
        match entry {
            Logged::Outing(outing) => outing.recorded = None,
            Logged::Test(test) => test.recorded = None,
            Logged::Owned(_) => {}
        }
    }
    if log.all.is_empty() { Err("Not taken: there is nothing in it.".to_owned()) } else { Ok(log) }
}

/// A track tells how far the outing of its day went.
async fn track(asked: Asked, way: gpx::Way, part: Open) -> Result<Response, PageError> {
    let log = asked.app.store.log(asked.rig).await?.log;
    let refused = |says: String| Err(Problems::one("file", says));
    let date = way
        .begins
        .and_then(|s| jiff::Timestamp::from_second(s).ok())
        .map(|t| t.to_zoned_datetime(TimeZone::system()).date());
    let Some(date) = date else {
        let says = "Not taken: its points have no times, so it belongs to no outing.".to_owned();
        return asked.change(refused(says), part, Typed::default()).await;
    };
    let hours = way.seconds() / 3600.0;
    let apart = |o: &Outing| (o.lasted().value() - hours).abs();
    let of_day = log.outings().filter(|(_, o)| o.date == date);
    let Some((id, outing)) = of_day.min_by(|a, b| apart(a.1).total_cmp(&apart(b.1))) else {
        let says = format!("Not taken: no outing of {} is logged yet.", rows::day(date));
        return asked.change(refused(says), part, Typed::default()).await;
    };
    let outing = Outing { distance: Some(Metres::of(way.metres())), ..outing.clone() };
    let far = figures::distance(Metres::of(way.metres()), asked.look.units);
    let sentence =
        format!("The outing of {} went {far} by the track, in {hours:.1} h", rows::day(date));
    let change =
        Change::EditLogged(sentence, LogId(id), Box::new(Logged::Outing(Box::new(outing))));
    asked.change(Ok(change), part, Typed::default()).await
}
