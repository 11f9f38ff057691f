//! Log: what the pack really does, what wears it, and what to do tonight.

mod calendar;
mod care;
mod doctor;
mod file;
mod health;
mod learned;
mod outing;
mod page;
mod record;
mod report;
mod rows;
mod season;

pub(crate) use page::LogPage;

use crate::forms::log::{self as forms, Against};
use crate::forms::{Problems, Typed};
use crate::frame::App;
use crate::frame::asked::{Asked, Form, back};
use crate::frame::error::PageError;
use crate::frame::view::{Logging, Open, Page};
use crate::parts::outings::{added, as_it_stands, both, whose};
use axum::Router;
use axum::extract::{DefaultBodyLimit, Path};
use axum::http::header;
use axum::response::{IntoResponse, Redirect, Response};
use axum::routing::{get, post};
use jiff::ToSpan;
use jiff::civil::Date;
use lake_hour_core::learn::Ageing;
use lake_hour_core::log::{Charge, Chore, Did, Logged, Outing, Test, Used};
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::{Candidate, Detail};
use lake_hour_store::{Board, Change, LogId};
use std::sync::Arc;

pub(crate) fn routes() -> Router<App> {
    Router::new()
        .route("/rigs/{rig}/log", get(show))
        .route("/rigs/{rig}/log/new/{kind}", post(add).get(back))
        .route("/rigs/{rig}/log/entries/{id}", post(edit).get(back))
        .route("/rigs/{rig}/log/entries/{id}/remove", post(remove).get(back))
        .route("/rigs/{rig}/log/as-planned", post(as_planned).get(back))
        .route("/rigs/{rig}/log/entries/{id}/report", get(report_of))
        .route("/rigs/{rig}/log/entries/{id}/to-shelf", post(to_shelf).get(back))
        .route("/rigs/{rig}/log/take-over", post(take_over).get(back))
        .route("/rigs/{rig}/log/leave-out", post(leave_out).get(back))
        .route("/rigs/{rig}/log/plan-as-used", post(plan_as_used).get(back))
        .route("/rigs/{rig}/log/chores/{pack}/{chore}/{say}", post(chore).get(back))
        .route(
            "/rigs/{rig}/log/file",
            post(file::bring).layer(DefaultBodyLimit::max(file::LARGEST)).get(back),
        )
        .route("/rigs/{rig}/log/record/{id}", post(record::told).get(back))
        .route("/rigs/{rig}/log.json", get(save))
        .route("/rigs/{rig}/care.ics", get(calendar))
}

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Log).draw(None, None).await
}

/// Today, where the program runs.
fn today() -> Date {
    jiff::ZonedDateTime::now().date()
}

/// The whole log as a document.
async fn save(asked: Asked) -> Result<Response, PageError> {
    let kept = asked.app.store.log(asked.rig).await?;
    let document = lake_hour_formats::logged::write(&kept.log);
    let text = serde_json::to_string_pretty(&document).map_err(|_| PageError::Broken)?;
    let headers = [
        (header::CONTENT_TYPE, "application/json"),
        (header::CONTENT_DISPOSITION, "attachment; filename=\"lake-hour-log.json\""),
    ];
    Ok((headers, text).into_response())
}

/// A capacity test on one sheet.
async fn report_of(asked: Asked, Path((_, id)): Path<(i64, i64)>) -> Result<Response, PageError> {
    let asked = asked.on(Page::Log);
    let log = asked.app.store.log(asked.rig).await?.log;
    let scene = asked.scene(asked.board().await?).await?;
    let recorded = match log.tests().find(|(n, _)| *n == id).and_then(|(_, t)| t.recorded) {
        Some(kept) => asked.app.store.recorded(asked.rig, kept).await?,
        None => Vec::new(),
    };
    let html = asked.app.working(move || report::sheet(&scene, &log, id, &recorded)).await?;
    let gone = || PageError::Gone("a capacity test that can be reported".to_owned());
    Ok(axum::response::Html(html.ok_or_else(gone)??).into_response())
}

/// What a test of a new pack found, as the shelf battery's measured figures: the next comparison uses them.
async fn to_shelf(asked: Asked, Path((_, id)): Path<(i64, i64)>) -> Result<Response, PageError> {
    let log = asked.app.store.log(asked.rig).await?.log;
    let gone = || PageError::Gone("a test of a new pack".to_owned());
    let (name, measured) = report::measured(&log, id).ok_or_else(gone)?;
    let there = asked.app.store.battery_named(name.clone()).await?;
    let there = there.ok_or_else(|| PageError::Gone(format!("{name} on the shelf")))?;
    let edit = move |before: &Candidate| {
        let mut after = before.clone();
        after.battery.ratings = measured.ratings.clone();
        for detail in [Detail::CAPACITY, Detail::RATINGS] {
            let by = measured.origins.get(&detail).copied();
            after.battery.origins.extend(by.map(|by| (detail, by)));
        }
        Ok::<_, PageError>((Some(after), ()))
    };
    asked.app.store.edit_battery(there, edit).await??;
    Ok(Redirect::to(&asked.view.on(Page::Shelf).address(asked.rig)).into_response())
}

/// All that is due, for a calendar that asks again and again.
async fn calendar(asked: Asked) -> Result<Response, PageError> {
    let asked = asked.on(Page::Log);
    let (board, look) = (asked.board().await?, asked.look);
    let log = asked.app.store.log(asked.rig).await?.log;
    let text =
        asked.app.working(move || calendar::calendar(&board, &log, look.say(&board.plan.currency)));
    let headers = [
        (header::CONTENT_TYPE, "text/calendar; charset=utf-8"),
        (header::CONTENT_DISPOSITION, "inline; filename=\"lake-hour-care.ics\""),
    ];
    Ok((headers, text.await?).into_response())
}

/// How far something is put off. [d]
const LATER: i32 = 14;

/// A chore that was done, or is put off.
async fn chore(
    asked: Asked,
    Path((_, pack, chore, say)): Path<(i64, i64, String, String)>,
) -> Result<Response, PageError> {
    let chore = Chore::from_key(&chore).ok_or(PageError::NoSuchPage)?;
    let name = care::chore(chore);
    let (to, sentence) = match say.as_str() {
        "done" => (None, format!("Done: {name}")),
        "later" => {
            let to = today().checked_add(LATER.days()).unwrap_or(today());
            (Some(to), format!("Put off to {}: {name}", rows::day(to)))
        }
        _ => return Err(PageError::NoSuchPage),
    };
    let test = Test {
        date: today(),
        of: Some(pack),
        unit: None,
        recorded: None,
        did: Did::Care(chore, to),
        note: String::new(),
    };
    let log = asked.app.store.log(asked.rig).await?.log;
    if log.pack(pack).is_none() {
        return Err(PageError::Gone("this pack".to_owned()));
    }
    asked
        .on(Page::Log)
        .make(Open::Nothing, move |_| {
            Ok(Change::AddLogged(sentence, Box::new(Logged::Test(Box::new(test)))))
        })
        .await
}

/// It went as planned: the outing of today, with what the plan takes, by feel.
async fn as_planned(asked: Asked) -> Result<Response, PageError> {
    let mut asked = asked.on(Page::Log);
    asked.view.see = None;
    let board = asked.board().await?;
    let log = asked.app.store.log(asked.rig).await?.log;
    let form = Open::Logging(Logging::Outing);
    let typed = forms::blank(Logging::Outing, today(), &board, &log);
    let Some((of, pack)) = whose(&board, &log) else {
        let says = Problems::one("of", "Put the pack on the Board first that you drive with.");
        return asked.change(Err(says), form, typed).await;
    };
    let outing = Outing {
        of,
        start: board.plan.day.start_charge.map_or(Charge::Full, Charge::Meter),
        ..as_it_stands(&board.plan, &pack, today())
    };
    // What it is held against afterwards is what it is logged with.
    let drawn = outing.went(0, &[], Ageing::UNTOLD).ok().and_then(|went| went.planned.drawn);
    let left = drawn.filter(|d| d.ended_early_at().is_none()).map(|d| d.summary.charge_left);
    let Some(left) = left else {
        let says = "By the plan this pack does not last the day: type how it went.";
        return asked.change(Err(Problems::one("end", says)), form, typed).await;
    };
    let used = Used::Left(Charge::Feel((left * 100.0).round() / 100.0));
    let outing = Outing { used, ..outing };
    let logged = Logged::Outing(Box::new(outing.clone()));
    if log.has(&logged) {
        let says = "Today's outing is logged as planned already: give a second one a name.";
        return asked.change(Err(Problems::one("date", says)), form, typed).await;
    }
    let sentence = format!("Logged {}: as planned", called(&logged));
    let change = added(sentence, outing, of, pack);
    asked.change(Ok(change), Open::Nothing, Typed::default()).await
}

/// What is said of an entry.
fn called(logged: &Logged) -> String {
    match logged {
        Logged::Outing(o) => format!("the outing of {}", rows::day(o.date)),
        Logged::Owned(o) => format!("the pack {}", o.pack.name),
        Logged::Test(t) => format!("the {} of {}", rows::test_name(&t.did), rows::day(t.date)),
    }
}

async fn add(
    asked: Asked,
    Path((_, kind)): Path<(i64, String)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let kind = Logging::read(&kind).ok_or(PageError::NoSuchPage)?;
    let log = Arc::new(asked.app.store.log(asked.rig).await?.log);
    let again = Arc::clone(&log);
    let form = Form::new(
        move |board, _| forms::blank(kind, today(), board, &log),
        move |board, typed, units| {
            let against = Against { board, log: &again, today: today(), before: None };
            let read = forms::read(typed, units, kind, &against)?;
            let name = called(&read.logged);
            let sentence = match &read.logged {
                Logged::Owned(_) => format!("Owned: {name}"),
                _ => format!("Logged {name}"),
            };
            Ok(match read.bought {
                None => Change::AddLogged(sentence, Box::new(read.logged)),
                // The pack becomes owned with its first entry.
                Some(owned) => Change::AddLog(sentence, both(owned, read.logged)),
            })
        },
    );
    asked.on(Page::Log).edit(Open::Logging(kind), typed, form).await
}

async fn edit(
    asked: Asked,
    Path((_, id)): Path<(i64, i64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let log = Arc::new(asked.app.store.log(asked.rig).await?.log);
    let before = asked.app.store.logged(asked.rig, LogId(id)).await?;
    let shown = before.clone();
    let form = Form::new(
        move |_, look| forms::typed(&shown, look.units),
        move |board, typed, units| {
            let against = Against { board, log: &log, today: today(), before: Some(&before) };
            let read = forms::read(typed, units, forms::kind(&before), &against)?;
            if read.bought.is_some() {
                return Err(Problems::one("of", "Choose one of the packs that you own."));
            }
            let sentence = format!("Changed {}", called(&read.logged));
            Ok(Change::EditLogged(sentence, LogId(id), Box::new(read.logged)))
        },
    );
    asked.on(Page::Log).edit(Open::Entry(id), typed, form).await
}

async fn remove(asked: Asked, Path((_, id)): Path<(i64, i64)>) -> Result<Response, PageError> {
    let sentence = match asked.app.store.logged(asked.rig, LogId(id)).await {
        Ok(before) => format!("Removed {}", called(&before)),
        // One that cannot be read any more can be removed all the same.
        Err(lake_hour_store::StoreError::Unreadable { .. }) => "Removed an entry".to_owned(),
        Err(error) => return Err(error.into()),
    };
    let mut asked = asked.on(Page::Log);
    asked.view.see = None;
    asked.make(Open::Nothing, move |_| Ok(Change::RemoveLogged(sentence, LogId(id)))).await
}

/// The change of a board to what a log makes of its plan.
fn turned(board: &Board, to: Plan, sentence: &str) -> Change {
    let all = std::iter::zip(&board.plan.packs, std::iter::zip(board.packs.clone(), to.packs));
    let packs = all.filter(|(before, (_, after))| *before != after).map(|(_, both)| both);
    Change::TakeOver(sentence.to_owned(), Box::new(to.rig), packs.collect())
}

async fn take_over(asked: Asked) -> Result<Response, PageError> {
    let log = asked.app.store.log(asked.rig).await?.log;
    asked
        .on(Page::Log)
        .make(Open::Nothing, move |board| {
            let plan = &board.plan;
            let to = log.taught(plan, &log.learned(plan, today()), today());
            Ok(turned(board, to, "Every plan uses what the log taught"))
        })
        .await
}

async fn leave_out(asked: Asked) -> Result<Response, PageError> {
    let log = asked.app.store.log(asked.rig).await?.log;
    asked
        .on(Page::Log)
        .make(Open::Nothing, move |board| {
            let to = log.untaught(&board.plan);
            Ok(turned(board, to, "No plan uses what the log taught any more"))
        })
        .await
}

/// The day is planned as often as it was gone out so far.
async fn plan_as_used(asked: Asked) -> Result<Response, PageError> {
    let log = asked.app.store.log(asked.rig).await?.log;
    asked
        .on(Page::Log)
        .make(Open::Nothing, move |board| {
            let (id, _) =
                log.about().ok_or_else(|| PageError::Gone("a pack you own".to_owned()))?;
            let mut day = board.plan.day.clone();
            let pace = season::in_a_year(&log, id);
            day.outings_per_year = pace.ok_or_else(|| PageError::Gone("a pace".to_owned()))?;
            Ok(Change::EditDay(Box::new(day)))
        })
        .await
}
