//! A track becomes the day; the day's route goes out.

use crate::forms::{Problems, Typed};
use crate::frame::asked::Asked;
use crate::frame::error::PageError;
use crate::frame::upload;
use crate::frame::view::{Open, Part};
use axum::extract::Multipart;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use lake_hour_core::day::{Day, LONGEST};
use lake_hour_formats::gpx::{self, Way};
use lake_hour_store::Change;
use std::io::BufReader;

/// Largest upload taken: a day at one point a second is some 10 MB. [bytes]
pub(super) const LARGEST: usize = 64 * 1024 * 1024;

pub(super) async fn export(asked: Asked) -> Result<Response, PageError> {
    let plan = asked.board().await?.plan;
    let file = gpx::write(&plan.rig.name, &plan.day)
        .ok_or_else(|| PageError::Gone("a route: this day has none".to_owned()))?;
    let headers = [
        (header::CONTENT_TYPE, "application/gpx+xml"),
        (header::CONTENT_DISPOSITION, "attachment; filename=\"lake-hour-route.gpx\""),
    ];
    Ok((headers, file).into_response())
}

pub(super) async fn import(asked: Asked, form: Multipart) -> Result<Response, PageError> {
    let before = asked.board().await?.plan;
    let boat = before.rig.craft.kind.is_boat();
    let part = Open::Part(Part::Import);
    let way = match receive(form).await? {
        Ok(way) => way,
        Err(says) => {
            return asked.change(Err(Problems::one("file", says)), part, Typed::default()).await;
        }
    };
    let day = Day {
        stretches: gpx::stretches(&way, boat),
        route: way.line.clone(),
        start_minute: before.day.start_minute,
        ..before.day
    };
    if day.lasts() > LONGEST || day.stretches.is_empty() {
        let says = format!(
            "It lasts {:.0} h; a day has from half a minute to {:.0} h (7 days).",
            day.lasts().value(),
            LONGEST.value()
        );
        return asked.change(Err(Problems::one("file", says)), part, Typed::default()).await;
    }
    let name = way.name.clone().unwrap_or_else(|| "of the track".to_owned());
    let odd = if way.odd.is_empty() { String::new() } else { format!(" ({})", way.odd.join(" ")) };
    let what = format!("{name}: {} points{odd}", way.points);
    asked.change(Ok(Change::UseDay(what, Box::new(day), None)), part, Typed::default()).await
}

/// Takes the file and reads it.
async fn receive(form: Multipart) -> Result<Result<Way, String>, PageError> {
    let Some(upload) = upload::receive(form, LARGEST).await? else {
        return Ok(Err("Choose a GPX file first.".to_owned()));
    };
    let read = tokio::task::spawn_blocking(move || {
        gpx::read(BufReader::new(upload.file), |_| true).map_err(|e| format!("Not taken: {e}."))
    });
    read.await.map_err(|_| PageError::Broken)
}
