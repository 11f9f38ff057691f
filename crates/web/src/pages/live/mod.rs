//! Under way: what is left, and whether it gets home.

mod events;
mod face;
mod page;
mod replay;

pub(crate) use page::LivePage;

use crate::forms::live as forms;
use crate::forms::log::Which;
use crate::forms::{Problems, Typed};
use crate::frame::App;
use crate::frame::asked::{Asked, back};
use crate::frame::error::PageError;
use crate::frame::share::Seat;
use crate::frame::trips::Running;
use crate::frame::upload;
use crate::frame::view::{Open, Page, Part};
use crate::parts::outings::{added, as_it_stands, chosen, drain, driven_with, kept_at, whose};
use axum::extract::{DefaultBodyLimit, Multipart, Path};
use axum::response::Response;
use axum::routing::{get, post};
use axum::{Extension, Router};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use lake_hour_core::learn::FOUR_IN_FIVE;
use lake_hour_core::live::{Begins, Clue, Path as Way, Place, Setup, WayBack};
use lake_hour_core::log::{Charge, Log, Logged, Outing, Used, as_driven_with, told_capacity};
use lake_hour_core::pack::Taught;
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, Metres, Volts};
use lake_hour_formats::gpx;
use lake_hour_formats::monitor::Sample;
use lake_hour_formats::underway::{self, Begun, Event, Source};
use lake_hour_store::{Board, Change};
use std::io::BufReader;
use std::sync::Arc;

pub(crate) fn routes() -> Router<App> {
    let under = |what: &str| format!("/rigs/{{rig}}/live{what}");
    Router::new()
        .route(&under(""), get(show))
        .route(&under("/events"), get(events::events))
        .route(&under("/begin"), post(begin).get(back))
        .route(&under("/stand-in"), post(stand_in).get(back))
        .route(&under("/read"), post(read).get(back))
        .route(&under("/right"), post(right).get(back))
        .route(&under("/home"), post(home).get(back))
        .route(&under("/out"), post(out).get(back))
        .route(&under("/which"), post(which).get(back))
        .route(&under("/back/{way}"), post(way_back).get(back))
        .route(&under("/route"), post(route).layer(DefaultBodyLimit::max(LARGEST)).get(back))
        .route(&under("/end"), post(end).get(back))
        .route(&under("/drop"), post(drop_it).get(back))
}

/// Largest route taken. [bytes]
const LARGEST: usize = 50 << 20;

async fn show(asked: Asked) -> Result<Response, PageError> {
    asked.on(Page::Live).draw(None, None).await
}

fn gone() -> PageError {
    PageError::Gone("the trip under way: it has ended".to_owned())
}

impl Asked {
    fn running(&self) -> Result<Arc<Running>, PageError> {
        self.app.trips.of(self.rig).ok_or_else(gone)
    }
}

/// A start that nobody typed: what the log of that pack makes likely by today, else not said.
pub(super) fn not_typed(board: &Board, log: &Log, pack: Option<i64>) -> Begins {
    let known = pack.and_then(|id| {
        let owned = log.pack(id)?;
        let today = jiff::ZonedDateTime::now().date();
        log.left_now(id, today, kept_at(owned, board), drain(board))
    });
    known.map_or(Begins::NotSaid, |left| Begins::Logged {
        charge: left.charge,
        unsure: (left.unsure / FOUR_IN_FIVE).max(LEAST_UNSURE),
    })
}

/// What a log knows is never surer than this. [charge] Estimate.
const LEAST_UNSURE: f64 = 0.02;

/// Begins one; a trip that is under way already goes on.
async fn started(asked: Asked, begins: forms::Begin, typed: Typed) -> Result<Response, PageError> {
    let form = Open::Part(Part::Begin);
    if asked.app.trips.of(asked.rig).is_some() {
        return asked.answer(Some("A trip is under way already".to_owned())).await;
    }
    let board = asked.board().await?;
    let log = asked.app.store.log(asked.rig).await?.log;
    let aboard = match Which::read(typed.get("of"), &board, &log) {
        Some(which) => chosen(&board, &log, which),
        None => whose(&board, &log),
    };
    let Some((id, pack)) = aboard else {
        let says = "First add the pack that is in the boat.";
        return asked.change(Err(Problems::one("source", says)), form, typed).await;
    };
    let begins = forms::Begin {
        begins: Some(begins.begins.unwrap_or_else(|| not_typed(&board, &log, id))),
        ..begins
    };
    // What the log learnt is known before anything is heard.
    let today = jiff::ZonedDateTime::now().date();
    let learned = log.learned(&board.plan, today);
    let taught = log.taught(&board.plan, &learned, today);
    let pack = taught.built_like(&pack).cloned().unwrap_or(pack);
    let plan = as_driven_with(&taught, &pack);
    let warm = begins.warm.or(plan.day.battery_start).or(plan.day.ambient);
    let sensed = begins.source != Source::Hand;
    let setup = Setup {
        plan,
        begins: begins.begins.unwrap_or(Begins::NotSaid),
        warm: warm.unwrap_or(Celsius::of(20.0)),
        launch: None,
        back: begins.back,
        sensed,
    };
    let before = asked.app.store.trips(asked.rig, 12).await?;
    let gauge = before.iter().find_map(|trip| underway::read(&trip.body).ok()?.gauge);
    let begun = Begun { setup, source: begins.source, gauge };
    match asked.app.trips.begin(&asked.app.store, asked.rig, begun).await {
        Ok(()) => asked.answer(None).await,
        Err(PageError::BadForm(says)) => {
            let says = format!("It cannot be counted: {says}.");
            asked.change(Err(Problems::one("source", says)), form, typed).await
        }
        Err(error) => Err(error),
    }
}

async fn begin(
    asked: Asked,
    seat: Option<Extension<Seat>>,
    typed: Typed,
) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    // Which files there are on this machine is told to nobody else.
    if seat.is_some() && typed.get("source") == "file" {
        let says = "A file on the machine is named at the machine itself: begin the trip there.";
        let problem = Problems::one("source", says);
        return asked.change(Err(problem), Open::Part(Part::Begin), typed).await;
    }
    match forms::read_begin(&typed, typed.units_or(asked.look.units)) {
        Ok(mut begins) => {
            known(&asked, &mut begins.source).await?;
            started(asked, begins, typed).await
        }
        Err(problems) => asked.change(Err(problems), Open::Part(Part::Begin), typed).await,
    }
}

/// Which battery of a source is which was said on a trip before.
async fn known(asked: &Asked, source: &mut Source) -> Result<(), PageError> {
    let Source::SignalK { address, batteries } = source else { return Ok(()) };
    let before = asked.app.store.trips(asked.rig, 12).await?;
    let said = before.iter().find_map(|trip| match underway::read(&trip.body).ok()?.source {
        Source::SignalK { address: then, batteries } if then == *address => Some(batteries),
        _ => None,
    });
    batteries.extend(said.unwrap_or_default());
    Ok(())
}

/// A day that is played by the stand-in.
async fn stand_in(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let times = typed.get("speed").parse().ok().filter(|s| (1.0..=600.0).contains(s));
    let seed = typed.get("seed").parse().unwrap_or(7);
    let source = Source::StandIn { speed: times.unwrap_or(60.0), seed };
    let begins =
        forms::Begin { source, begins: Some(Begins::Full), back: WayBack::Straight, warm: None };
    started(asked, begins, typed).await
}

async fn read(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let running = asked.running()?;
    let nominal = running.seen().trip.pack().voltage();
    match forms::read_reading(&typed, typed.units_or(asked.look.units), nominal) {
        Ok(hand) => {
            if hand.gauge.is_some() {
                running.retell(&asked.app.store, |begun| begun.gauge = hand.gauge).await?;
            }
            running.does(&asked.app.store, Event::Typed(hand)).await?;
            let mut asked = asked;
            asked.view.open = Open::Nothing;
            asked.answer(Some("Taken: what is left is weighed anew".to_owned())).await
        }
        Err(problems) => {
            let mut asked = asked;
            asked.view.open = Open::Reading;
            asked.change(Err(problems), Open::Part(Part::Read), typed).await
        }
    }
}

/// Of two that clash somebody says which is right.
async fn right(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let right = Clue::from_key(typed.get("right"));
    asked.running()?.does(&asked.app.store, Event::Answered(right)).await?;
    asked.answer(None).await
}

async fn home(asked: Asked) -> Result<Response, PageError> {
    turned(asked, true).await
}

async fn out(asked: Asked) -> Result<Response, PageError> {
    turned(asked, false).await
}

async fn turned(asked: Asked, home: bool) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    asked.running()?.does(&asked.app.store, Event::Turned(home)).await?;
    asked.answer(None).await
}

/// Which of a source's batteries is which: told once, kept for the next trip.
async fn which(asked: Asked, typed: Typed) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let running = asked.running()?;
    let seen = running.seen();
    let said: Vec<(String, underway::Which)> = seen
        .which
        .iter()
        .enumerate()
        .filter_map(|(n, (id, _))| {
            Some((id.clone(), page::which(typed.get(&format!("which_{n}")))?))
        })
        .collect();
    let tell = |begun: &mut Begun| {
        if let Source::SignalK { batteries, .. } = &mut begun.source {
            batteries.extend(said);
        }
    };
    running.retell(&asked.app.store, tell).await?;
    asked.answer(None).await
}

async fn way_back(
    asked: Asked,
    Path((_, way)): Path<(i64, String)>,
) -> Result<Response, PageError> {
    let back = match way.as_str() {
        "straight" => WayBack::Straight,
        "track" => WayBack::Track,
        _ => return Err(PageError::NoSuchPage),
    };
    let asked = asked.on(Page::Live);
    let running = asked.running()?;
    running.retell(&asked.app.store, move |begun| begun.setup.back = back).await?;
    asked.answer(None).await
}

/// A drawn way: it ends where the trip began, whichever way round it was drawn.
async fn route(asked: Asked, form: Multipart) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let running = asked.running()?;
    let Some(sent) = upload::receive(form, LARGEST).await? else {
        return asked.answer(Some("Choose a GPX file first".to_owned())).await;
    };
    let read = tokio::task::spawn_blocking(move || gpx::read(BufReader::new(sent.file), |_| true));
    let way = match read.await.map_err(|_| PageError::Broken)? {
        Ok(way) => way,
        Err(why) => return asked.answer(Some(format!("Not taken: {why}"))).await,
    };
    let path = path(&way);
    let seen = running.seen();
    let here = seen.trip.launch().or(seen.trip.told().place);
    let path = match here {
        Some(launch) if ends(&path).is_some_and(|(a, b)| a.to(launch) < b.to(launch)) => {
            path.reversed()
        }
        _ => path,
    };
    running.retell(&asked.app.store, move |begun| begun.setup.back = WayBack::Route(path)).await?;
    asked.answer(Some("The way home is the route of the file".to_owned())).await
}

fn ends(path: &Way) -> Option<(Place, Place)> {
    let mut points = path.points().map(|(place, _)| place);
    let first = points.next()?;
    Some((first, points.last()?))
}

/// The line of a file, with the heights of its pieces.
fn path(way: &gpx::Way) -> Way {
    let mut gone = 0.0;
    let heights: Vec<(f64, f64)> = way
        .pieces
        .iter()
        .filter_map(|piece| {
            let middle = gone + 0.5 * piece.metres;
            gone += piece.metres;
            Some((middle, piece.elevation?))
        })
        .collect();
    let (mut along, mut last) = (0.0, None::<(f64, f64)>);
    Way::of(way.line.iter().filter_map(|at| {
        along += last.map_or(0.0, |last| gpx::distance(last, *at));
        last = Some(*at);
        let near =
            heights.iter().min_by(|a, b| (a.0 - along).abs().total_cmp(&(b.0 - along).abs()));
        Some((Place::of(at.0, at.1)?, near.map(|h| h.1)))
    }))
}

/// It is over: an outing in the log, with all that was heard.
async fn end(asked: Asked) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let running = asked.running()?;
    let board = asked.board().await?;
    let log = asked.app.store.log(asked.rig).await?.log;
    let store = asked.app.store.clone();
    let seen = running.seen();
    let Some((of, pack)) = driven_with(&board, &log, seen.trip.pack()) else {
        let said = "First add the pack that is in the boat: the trip goes on".to_owned();
        return asked.answer(Some(said)).await;
    };
    asked.app.trips.stop(&store, asked.rig).await;
    let lines = store.trip_lines(asked.rig, running.id).await?;
    let samples = samples(&lines);
    let recorded = match samples.len() {
        0 | 1 => None,
        _ => Some(store.keep_recorded(asked.rig, samples.clone()).await?),
    };
    let outing = Outing { recorded, ..outing(&seen, &samples, &pack) };
    let on = outing.date.strftime("%b %-d");
    let change = if outing.practice {
        // No pack was drawn down: it is of none that is owned.
        let sentence = format!("Kept the practice trip of {on}: it counts nowhere");
        Change::AddLogged(sentence, Box::new(Logged::Outing(Box::new(outing))))
    } else {
        added(format!("Logged the trip of {on}"), Outing { of, ..outing }, of, pack)
    };
    let app = asked.app.clone();
    let mut asked = asked.on(Page::Log);
    asked.view.open = Open::Nothing;
    match asked.change(Ok(change), Open::Nothing, Typed::default()).await {
        Ok(response) => {
            // Only what is logged is over; what was typed on the way is in its lines, for the replay.
            app.store.end_trip(running.id, seen.clock(), recorded).await?;
            Ok(response)
        }
        Err(error) => {
            app.trips.resume(&app.store).await;
            Err(error)
        }
    }
}

/// Rows as the log keeps what a monitor recorded.
fn samples(lines: &str) -> Vec<Sample> {
    let of = |v: Option<f64>| v.map_or(f32::NAN, |v| v as f32);
    underway::lines(lines)
        .filter_map(|(at, event)| {
            let Event::Heard(told) = event else { return None };
            let heard = told.pack.volts.is_some() || told.pack.current.is_some();
            heard.then(|| Sample {
                at: at.max(0.0) as u32,
                volts: of(told.pack.volts.map(Volts::value)),
                amps: of(told.pack.current.map(Amps::value)),
                share: f32::NAN,
                warm: of(told.warm.map(Celsius::value)),
            })
        })
        .collect()
}

/// What a trip was, as an outing.
fn outing(
    seen: &crate::frame::trips::Seen,
    samples: &[Sample],
    pack: &lake_hour_core::pack::Pack,
) -> Outing {
    let trip = &seen.trip;
    let date = Timestamp::from_second(seen.began).map_or_else(
        |_| jiff::ZonedDateTime::now().date(),
        |t| t.to_zoned_datetime(TimeZone::system()).date(),
    );
    let counted: f64 = samples
        .windows(2)
        .map(|pair| {
            let seconds =
                f64::from(pair[1].at - pair[0].at).min(f64::from(lake_hour_formats::monitor::GAP));
            if pair[0].amps.is_nan() { 0.0 } else { f64::from(pair[0].amps) * seconds / 3600.0 }
        })
        .sum();
    let left = (trip.left().charge * 100.0).round() / 100.0;
    let used = if counted > 0.0 {
        Used::AmpHours(AmpHours::of((counted * 10.0).round() / 10.0))
    } else {
        Used::Left(Charge::Feel(left))
    };
    let gone = trip.gone();
    let lasted = Hours::of(trip.at().value().clamp(
        lake_hour_core::allowed::OUTING_HOURS.low,
        lake_hour_core::allowed::OUTING_HOURS.high,
    ));
    let said = trip.setup().begins != Begins::NotSaid;
    let practice = matches!(seen.begun.source, Source::StandIn { .. });
    let mut as_driven = as_it_stands(&trip.setup().plan, pack, date);
    if let Some(driven) = as_driven.plan.packs.first_mut()
        && let Some(taught) = trip.teaches().filter(|_| !practice)
    {
        driven.taught = Some(Taught { on: Some(date), ..taught });
    }
    Outing {
        name: "Under way".to_owned(),
        hours: Some(lasted),
        distance: (gone.value() > 50.0).then(|| Metres::of(gone.value().round())),
        start: match trip.setup().begins {
            Begins::Full => Charge::Full,
            Begins::About(share) => Charge::Meter(share),
            Begins::Logged { charge, .. } => Charge::Feel(charge),
            // Nobody said it: what was left, and what was counted before.
            Begins::NotSaid => Charge::Feel((left + share_counted(trip)).clamp(0.01, 1.0)),
        },
        used,
        note: if practice {
            "Practice: played by the stand-in".to_owned()
        } else if !said {
            "Nobody said how full it began: left out of the learning".to_owned()
        } else {
            String::new()
        },
        counts: !practice && said,
        practice,
        ..as_driven
    }
}

/// What was counted on a trip, as a share of the rated ampere-hours.
fn share_counted(trip: &lake_hour_core::live::Trip) -> f64 {
    let (drawn, _) = trip.count().drawn();
    told_capacity(trip.pack()).map_or(0.0, |whole| drawn / whole)
}

/// It is over, and not logged.
async fn drop_it(asked: Asked) -> Result<Response, PageError> {
    let asked = asked.on(Page::Live);
    let running = asked.running()?;
    asked.app.trips.stop(&asked.app.store, asked.rig).await;
    asked.app.store.forget_trip(asked.rig, running.id).await?;
    asked.answer(Some("The trip was not kept".to_owned())).await
}
