//! A monitor's table: which column is what, whose it is, and what becomes of it: outings, or a test on the bench.

use super::rows;
use crate::figures;
use crate::forms::log::{Which, as_owned};
use crate::forms::{Problems, Typed};
use crate::frame::asked::{Asked, Scene};
use crate::frame::error::PageError;
use crate::frame::records::Record;
use crate::frame::view::{Open, Page, Part};
use crate::parts::outings::{as_it_stands, whose};
use axum::extract::Path;
use axum::response::Response;
use jiff::tz::TimeZone;
use lake_hour_core::log::{
    CapacityTest, Charge, Did, HOT, Log, Logged, Outing, Owned, Test, TestEnd, Used,
};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, Volts, WattHours};
use lake_hour_formats::monitor::{self, Bench, Column, NotTaken, Recorded, Said, Trip, Unclear};
use lake_hour_store::{Board, Change};
use std::sync::Arc;

/// Most outings of one file.
const MOST_TRIPS: usize = 400;

/// What is said of a table: as it is chosen in a form.
#[derive(Debug, Clone)]
struct Choice {
    said: Said,
    /// The pack it was recorded of; the one that the log is about where not told.
    of: String,
    /// It is a test on the bench.
    test: bool,
}

const fn column_words(column: Column) -> &'static str {
    match column {
        Column::Time => "time",
        Column::Date => "date",
        Column::Volts => "volts",
        Column::Amps => "amps",
        Column::Watts => "watts",
        Column::Charge => "charge, %",
        Column::Warmth => "temperature",
        Column::Battery => "which battery",
    }
}

/// A column, as it is asked about.
#[derive(Debug, Clone)]
pub(super) struct ColumnView {
    pub(super) name: String,
    pub(super) heading: String,
    /// "12.9, 12.9, 12.8".
    pub(super) shown: String,
    /// The key of what it is; empty for nothing.
    pub(super) is: String,
}

/// A table that is asked about.
#[derive(Debug, Clone)]
pub(super) struct RecordView {
    pub(super) title: String,
    pub(super) action: String,
    pub(super) columns: Vec<ColumnView>,
    /// What a column can be: key and words.
    pub(super) kinds: Vec<(&'static str, &'static str)>,
    pub(super) packs: Vec<(String, String)>,
    pub(super) of: String,
    pub(super) test: bool,
    pub(super) problem: Option<String>,
}

impl RecordView {
    pub(super) fn of(scene: &Scene, log: &Log) -> Option<Self> {
        let record = scene.record.as_deref()?;
        let draft = scene.draft_of(scene.view.open);
        let typed = draft.map_or_else(|| typed(&guess(record), "", false), |d| d.typed.clone());
        let column = |(n, heading): (usize, &String)| {
            let cells = record.top.rows.iter().filter_map(|row| row.get(n));
            let cells: Vec<&str> = cells.map(String::as_str).collect();
            let name = format!("column_{n}");
            let is = typed.get(&name).to_owned();
            ColumnView { is, name, heading: heading.clone(), shown: cells.join(", ") }
        };
        let board = &scene.board;
        let offered = Which::offered(board, log);
        let kinds = std::iter::once(("", "nothing I need"));
        Some(Self {
            title: format!("What is in {}?", record.name),
            action: format!("/rigs/{}/log/record/{}{}", board.rig.0, record.id, scene.view.query()),
            columns: record.top.headings.iter().enumerate().map(column).collect(),
            kinds: kinds.chain(Column::ALL.map(|c| (c.key(), column_words(c)))).collect(),
            packs: offered.into_iter().map(|(w, name)| (w.key(board), name)).collect(),
            of: typed.get("of").to_owned(),
            test: typed.get("is") == "test",
            problem: draft.and_then(|d| d.problems.get("file").map(str::to_owned)),
        })
    }
}

/// What its headings are taken for.
fn guess(record: &Record) -> Said {
    let all = record.top.guessed.iter().enumerate();
    all.filter_map(|(n, column)| Some(((*column)?, n))).collect()
}

/// As it stands in the form.
fn typed(said: &Said, of: &str, test: bool) -> Typed {
    let base = Typed::default().with("of", of).with("is", if test { "test" } else { "outings" });
    said.iter().fold(base, |typed, (column, n)| typed.with(&format!("column_{n}"), column.key()))
}

fn chosen(typed: &Typed, record: &Record) -> Choice {
    let all = (0..record.top.headings.len()).filter_map(|n| {
        let column = Column::from_key(typed.get(&format!("column_{n}")))?;
        Some((column, n))
    });
    Choice { said: all.collect(), of: typed.get("of").to_owned(), test: typed.get("is") == "test" }
}

/// A table that was sent: taken where its columns are known, else asked about.
pub(super) async fn sent(
    asked: Asked,
    record: Arc<Record>,
    beside: &Typed,
) -> Result<Response, PageError> {
    let kept = asked.app.store.said_of(&record.top.headings).await?;
    let said = kept.unwrap_or_else(|| guess(&record));
    let test = beside.get("is") == "test";
    let choice = Choice { said, of: beside.get("of").to_owned(), test };
    if beside.get("ask") == "on" {
        return ask(asked, &record, &choice, None).await;
    }
    take(asked, record, choice, Open::Part(Part::Import)).await
}

/// The form that asks.
async fn ask(
    mut asked: Asked,
    record: &Record,
    choice: &Choice,
    problem: Option<String>,
) -> Result<Response, PageError> {
    let open = Open::Record(i64::try_from(record.id).unwrap_or(i64::MAX));
    asked.view.open = open;
    let typed = typed(&choice.said, &choice.of, choice.test);
    let problems = problem.map_or_else(Problems::default, |says| Problems::one("file", says));
    asked.change(Err(problems), open, typed).await
}

/// What was said of it.
pub(super) async fn told(
    asked: Asked,
    Path((_, id)): Path<(i64, u64)>,
    typed: Typed,
) -> Result<Response, PageError> {
    let mut asked = asked.on(Page::Log);
    asked.view.see = None;
    let gone = || PageError::Gone("this file: choose it once more".to_owned());
    let record = asked.app.records.get(asked.rig, id).ok_or_else(gone)?;
    let choice = chosen(&typed, &record);
    let open = Open::Record(i64::try_from(id).unwrap_or(i64::MAX));
    take(asked, record, choice, open).await
}

/// Why a table is not taken, and whether saying more of its columns would help.
struct Refused {
    says: String,
    ask: bool,
}

impl Refused {
    fn of(says: impl std::fmt::Display) -> Self {
        Self { says: format!("Not taken: {says}."), ask: false }
    }
}

async fn take(
    asked: Asked,
    record: Arc<Record>,
    choice: Choice,
    part: Open,
) -> Result<Response, PageError> {
    let (board, log) = (asked.board().await?, asked.app.store.log(asked.rig).await?.log);
    let (held, said) = (Arc::clone(&record), choice.said.clone());
    let read = tokio::task::spawn_blocking(move || {
        held.read(|file| monitor::read(file, &TimeZone::system(), Some(&said), |_| true))
    });
    let read = match read.await.map_err(|_| PageError::Broken)?? {
        Ok(recorded) => Ok(recorded),
        Err(NotTaken::Columns(unclear)) => {
            let what = match unclear {
                Unclear::Amps => "amps, nor watts beside volts",
                Unclear::Time | Unclear::Heading => "the time",
            };
            Err(Refused { says: format!("No column is {what} yet: say which."), ask: true })
        }
        Err(e @ (NotTaken::Time { .. } | NotTaken::NoAmps(_))) => {
            Err(Refused { says: format!("{}.", figures::capital(&e.to_string())), ask: true })
        }
        Err(e) => Err(Refused::of(e)),
    };
    let known = (board, log, choice.clone(), record.name.clone());
    let made = match read {
        Ok(recorded) => made(&asked, known, recorded).await?,
        Err(refused) => Err(refused),
    };
    match made {
        Ok(change) => {
            // What was only guessed may be guessed better another day.
            if matches!(part, Open::Record(_)) {
                asked.app.store.keep_said(&record.top.headings, choice.said).await?;
            }
            asked.app.records.let_go(record.id);
            let of = Open::Part(Part::Import);
            let mut asked = asked;
            asked.view.open = Open::Nothing;
            asked.change(Ok(change), of, Typed::default()).await
        }
        // It is still there: what is wrong is said beside its columns.
        Err(refused) if refused.ask || matches!(part, Open::Record(_)) => {
            ask(asked, &record, &choice, Some(refused.says)).await
        }
        Err(refused) => {
            asked.change(Err(Problems::one("file", refused.says)), part, Typed::default()).await
        }
    }
}

/// "Taken for the time: Timestamp; amps: Current (A)."
fn taken_for(recorded: &Recorded) -> String {
    let all = recorded.columns.told().into_iter();
    let all = all.map(|(column, heading)| format!("{}: {heading}", column_words(column)));
    format!("Taken for the {}", all.collect::<Vec<_>>().join("; "))
}

/// The volts of a record in the middle may differ by this share from those of the pack that it is said to be of.
const OTHER_VOLTS: f64 = 0.3;

fn of_other_volts(recorded: &Recorded, pack: &Pack) -> Option<String> {
    let mut volts: Vec<f32> =
        recorded.samples.iter().map(|s| s.volts).filter(|v| v.is_finite()).collect();
    volts.sort_by(f32::total_cmp);
    let middle = f64::from(*volts.get(volts.len() / 2)?);
    let pack_volts = pack.voltage().value();
    ((middle / pack_volts - 1.0).abs() > OTHER_VOLTS).then(|| {
        format!(
            "its {middle:.1} V are not those of {}, {} V: choose the pack it was recorded of",
            pack.name,
            figures::typed(pack_volts)
        )
    })
}

/// The entries of a table as a change.
async fn made(
    asked: &Asked,
    (board, log, choice, file): (Board, Log, Choice, String),
    recorded: Recorded,
) -> Result<Result<Change, Refused>, PageError> {
    let Some((of, pack)) = owner(&board, &log, &choice.of) else {
        let says = "put the pack on the Board first that this was recorded of";
        return Ok(Err(Refused::of(says)));
    };
    if let Some(says) = of_other_volts(&recorded, &pack) {
        return Ok(Err(Refused { says: format!("Not taken: {says}."), ask: true }));
    }
    let trips = monitor::trips(&recorded);
    let mut note = vec![format!("{file}: {}", taken_for(&recorded))];
    note.extend(recorded.odd.iter().cloned());
    let note: String = note.join(". ").chars().take(lake_hour_core::allowed::TEXT_LENGTH).collect();
    let own = of.unwrap_or(1);
    let entries = if choice.test {
        tested(asked, &log, (own, &pack), (&recorded, &trips), &note).await?
    } else {
        outings(asked, &log, (own, &pack, &board.plan), (&recorded, trips), &note).await?
    };
    let (what, entries) = match entries {
        Ok(made) => made,
        Err(refused) => return Ok(Err(refused)),
    };
    let odd = if recorded.odd.is_empty() {
        String::new()
    } else {
        format!(" ({})", recorded.odd.join("; "))
    };
    let sentence = format!("{what} from {} rows. {}{odd}", recorded.rows, taken_for(&recorded));
    let mut all: Vec<(i64, Logged)> = (2..).zip(entries).collect();
    // Where the pack is owned already the entries name it by its number as it is.
    Ok(Ok(if of.is_some() {
        Change::AddSame(sentence, Log::of(all))
    } else {
        let bought = all.iter().map(|(_, e)| e.date()).min().unwrap_or_else(super::today);
        all.push((1, Logged::Owned(Box::new(Owned::of(pack, bought)))));
        Change::AddLog(sentence, Log::of(all))
    }))
}

/// The pack that a table is of, and its number where it is owned.
fn owner(board: &Board, log: &Log, of: &str) -> Option<(Option<i64>, Pack)> {
    if of.is_empty() {
        return whose(board, log);
    }
    match Which::read(of, board, log)? {
        Which::Owned(id) => Some((Some(id), log.pack(id)?.pack.clone())),
        Which::OnBoard(n) => Some((None, as_owned(board.plan.packs.get(n)?))),
    }
}

/// What was made of a table, in words and entries.
type Made = Result<(String, Vec<Logged>), Refused>;

/// Rows of a record, told from the first of them.
async fn keep(
    asked: &Asked,
    recorded: &Recorded,
    rows: std::ops::Range<usize>,
) -> Result<i64, PageError> {
    let first = recorded.samples[rows.start].at;
    let rows = recorded.samples[rows].iter();
    let rows = rows.map(|s| monitor::Sample { at: s.at - first, ..*s }).collect();
    Ok(asked.app.store.keep_recorded(asked.rig, rows).await?)
}

async fn outings(
    asked: &Asked,
    log: &Log,
    (own, pack, plan): (i64, &Pack, &Plan),
    (recorded, trips): (&Recorded, Vec<Trip>),
    note: &str,
) -> Result<Made, PageError> {
    if trips.is_empty() {
        let says = format!(
            "in {} rows nothing is driven for five minutes. {}",
            recorded.rows,
            taken_for(recorded)
        );
        return Ok(Err(Refused::of(says)));
    }
    let known = |trip: &Trip| {
        log.outings().any(|(_, o)| {
            let hours = o.hours.map_or(0.0, Hours::value);
            o.date == trip.begins.date()
                && o.recorded.is_some()
                && (hours - trip.hours).abs() < 0.02
        })
    };
    let (there, new): (Vec<Trip>, Vec<Trip>) = trips.into_iter().partition(known);
    if new.is_empty() {
        return Ok(Err(Refused::of(match there.len() {
            1 => "its outing is logged already".to_owned(),
            n => format!("all {n} outings of it are logged already"),
        })));
    }
    if new.len() > MOST_TRIPS {
        let says = format!("{} outings; at most {MOST_TRIPS} at once", new.len());
        return Ok(Err(Refused::of(says)));
    }
    let mut all = Vec::new();
    for trip in &new {
        let kept = keep(asked, recorded, trip.rows.clone()).await?;
        let outing = outing(plan, pack, trip, note.to_owned());
        let hot = trip.above(recorded, HOT).map(Hours::of);
        let outing = Outing { of: Some(own), recorded: Some(kept), hot, ..outing };
        all.push(Logged::Outing(Box::new(outing)));
    }
    let what = match (new.len(), there.len()) {
        (1, 0) => format!("Logged the outing of {}", rows::day(new[0].begins.date())),
        (n, 0) => format!("Logged {n} outings"),
        (n, old) => format!("Logged {n} outings; {old} were logged already"),
    };
    Ok(Ok((what, all)))
}

fn outing(plan: &Plan, pack: &Pack, trip: &Trip, note: String) -> Outing {
    let start = match trip.share {
        Some((from, _)) if from < 0.995 => Charge::Meter(from),
        _ => Charge::Full,
    };
    Outing {
        name: "Recorded".to_owned(),
        hours: Some(Hours::of(trip.hours)),
        start,
        used: Used::AmpHours(AmpHours::of(trip.used_ah)),
        note,
        ..as_it_stands(plan, pack, trip.begins.date())
    }
}

/// A test is over within this share above the volts at which its chemistry is empty: lithium falls off a cliff there, so that a
/// BMS ends it well before. Common practice, no source.
const OVER: (f64, f64) = (1.02, 1.12);

async fn tested(
    asked: &Asked,
    log: &Log,
    (own, pack): (i64, &Pack),
    (recorded, trips): (&Recorded, &[Trip]),
    note: &str,
) -> Result<Made, PageError> {
    let Bench { amps, hours, stop, energy, warm } = match monitor::bench(recorded, trips) {
        Ok(bench) => bench,
        Err(none) => return Ok(Err(Refused::of(none))),
    };
    let facts = pack.battery.chemistry.facts();
    let cells = f64::from(pack.battery.cells()) * f64::from(pack.series);
    let over = if facts.lead { OVER.0 } else { OVER.1 };
    let reached = stop <= facts.cell.v_end * cells * over;
    let test = Test {
        date: trips[0].begins.date(),
        of: Some(own),
        unit: None,
        did: Did::Capacity(CapacityTest {
            current: Amps::of(amps),
            lasted: Hours::of(hours),
            stop: Volts::of(stop),
            ended: if reached { TestEnd::Reached } else { TestEnd::CutShort },
            temperature: warm.map(Celsius::of),
            energy: Some(WattHours::of(energy)),
        }),
        recorded: None,
        note: note.to_owned(),
    };
    let date = rows::day(test.date);
    if log.has(&Logged::Test(Box::new(test.clone()))) {
        return Ok(Err(Refused::of("its test is logged already")));
    }
    let kept = keep(asked, recorded, trips[0].rows.clone()).await?;
    let ended = if reached { "to its end" } else { "cut short" };
    let what = format!("Logged the capacity test of {date}, {ended} at {stop:.1} V,");
    let test = Test { recorded: Some(kept), ..test };
    Ok(Ok((what, vec![Logged::Test(Box::new(test))])))
}
