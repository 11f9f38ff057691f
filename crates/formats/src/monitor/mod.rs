//! CSV of any battery monitor: columns by their words and units, times as they come, and the outings in it.
//!
//! Read row by row; what is kept is bounded: of a longer file neighbouring rows become one.

mod bench;
mod columns;
mod follow;
mod packed;
mod times;
mod trips;

pub use bench::{Bench, NoBench, bench};
pub use columns::{Column, Columns, Said, Unclear};
pub use follow::Follow;
pub use packed::{pack, unpack};
pub use trips::{Trip, trips};

use crate::metered::Metered;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use std::io::Read;
use times::Times;

/// One row. What a monitor does not tell is not a number.
#[derive(Debug, Clone, Copy)]
pub struct Sample {
    /// Seconds since the first row. [s]
    pub at: u32,
    /// [V]
    pub volts: f32,
    /// Positive when it is discharged. [A]
    pub amps: f32,
    /// Charge, 0 to 1.
    pub share: f32,
    /// [°C]
    pub warm: f32,
}

/// What a monitor recorded.
#[derive(Debug, Clone)]
pub struct Recorded {
    /// When it begins, by the clock of the place.
    pub begins: DateTime,
    /// Its rows in order.
    pub samples: Vec<Sample>,
    /// What was taken for what.
    pub columns: Columns,
    /// What is odd about it, in sentences.
    pub odd: Vec<String>,
    /// Rows read.
    pub rows: u64,
}

/// Why nothing can be taken.
#[derive(Debug, thiserror::Error)]
pub enum NotTaken {
    /// The file cannot be read.
    #[error("the file cannot be read: {0}")]
    Read(#[from] std::io::Error),
    /// Not a table.
    #[error("line {0} is no row of a table: save it as CSV, with a line of headings first")]
    NoTable(u64),
    /// Not even text.
    #[error("it is no text: save it as CSV, in UTF-8")]
    NoText,
    /// Columns are missing.
    #[error("{0}")]
    Columns(#[from] Unclear),
    /// Times cannot be read.
    #[error(
        "line {line}: the time \u{201c}{text}\u{201d} cannot be read; as in 2026-09-22 07:00:05"
    )]
    Time {
        /// Where.
        line: u64,
        /// What stands there.
        text: String,
    },
    /// No figures where amps should be.
    #[error("no row has a figure in the column \u{201c}{0}\u{201d}, which is taken for the amps")]
    NoAmps(String),
    /// Rows of several batteries.
    #[error("its rows are of {} batteries, {}: save each as a file of its own", .0.len(), .0.join(", "))]
    Several(Vec<String>),
    /// No rows.
    #[error("there are no rows behind the headings")]
    Empty,
    /// The reader gave up.
    #[error("it was cancelled")]
    Cancelled,
}

/// Most rows that are kept apart; beyond them neighbours become one.
const MOST: usize = 1 << 20;
/// Longer than this without a row is a gap. [s]
pub const GAP: u32 = 120;
/// Longest row. [bytes]
const LONGEST: u64 = 64 * 1024;

/// Reads a monitor's CSV. Times without an offset are of the place; others are brought to it. `goes_on` is asked now and then
/// with the rows read so far.
///
/// # Errors
/// [`NotTaken`], in a sentence.
pub fn read(
    file: impl Read,
    place: &TimeZone,
    said: Option<&Said>,
    mut goes_on: impl FnMut(u64) -> bool,
) -> Result<Recorded, NotTaken> {
    let Table { mut table, next_row, delimiter, before } = table(file)?;
    let headings = table.headers().map_err(|_| NotTaken::NoTable(1))?.clone();
    let headings: Vec<&str> = headings.iter().collect();
    let columns = match said {
        Some(said) => Columns::said(&headings, said)?,
        None => Columns::of(&headings)?,
    };
    let mut kept = Kept { step: 1, ..Kept::default() };
    let mut times = Times::new(place.clone());
    let mut row = csv::StringRecord::new();
    loop {
        let line = before + table.position().line();
        match table.read_record(&mut row) {
            Ok(false) => break,
            Ok(true) => {}
            // A line that is no text is a line too few, not an end.
            Err(e) if matches!(e.kind(), csv::ErrorKind::Utf8 { .. }) => {
                kept.unreadable += 1;
                continue;
            }
            Err(e) => {
                return Err(match e.into_kind() {
                    csv::ErrorKind::Io(e) => NotTaken::Read(e),
                    _ => NotTaken::NoTable(line),
                });
            }
        }
        next_row();
        kept.rows += 1;
        if kept.rows.is_multiple_of(20_000) && !goes_on(kept.rows) {
            return Err(NotTaken::Cancelled);
        }
        if row.iter().all(str::is_empty) {
            continue;
        }
        let text = columns.time(&row);
        let Some(at) = times.read(&text) else {
            if kept.first.is_none() {
                let text = text.chars().take(40).collect();
                return Err(NotTaken::Time { line, text });
            }
            kept.unreadable += 1;
            continue;
        };
        if let Some(battery) = columns.battery(&row) {
            kept.of(battery);
        }
        kept.take(at, columns.sample(&row, delimiter != b','));
    }
    kept.finish(columns, &times)
}

/// The top of a table: its headings, what each is taken for, and a few rows.
#[derive(Debug, Clone, PartialEq)]
pub struct Top {
    /// As they stand there.
    pub headings: Vec<String>,
    /// What each is taken for.
    pub guessed: Vec<Option<Column>>,
    /// The first rows, as text.
    pub rows: Vec<Vec<String>>,
}

/// Rows that are shown of a table.
const SHOWN: usize = 3;
/// Most columns of a table, and the longest text of one that is shown.
const MOST_COLUMNS: usize = 64;
const LONGEST_SHOWN: usize = 40;

/// The top of a monitor's table, for whoever says by hand which column is what.
///
/// # Errors
/// [`NotTaken`], where it is no table.
pub fn top(file: impl Read) -> Result<Top, NotTaken> {
    let Table { mut table, next_row, .. } = table(file)?;
    let cut = |record: &csv::StringRecord| -> Vec<String> {
        let cells = record.iter().take(MOST_COLUMNS);
        cells.map(|cell| cell.chars().take(LONGEST_SHOWN).collect()).collect()
    };
    let headings = table.headers().map_err(|_| NotTaken::NoTable(1))?.clone();
    let guessed = columns::guessed(&headings.iter().take(MOST_COLUMNS).collect::<Vec<_>>());
    let mut rows = Vec::new();
    let mut row = csv::StringRecord::new();
    while rows.len() < SHOWN && table.read_record(&mut row).map_err(|_| NotTaken::NoTable(2))? {
        next_row();
        rows.push(cut(&row));
    }
    Ok(Top { headings: cut(&headings), guessed, rows })
}

/// A table from its headings on.
struct Table<R, F> {
    table: csv::Reader<R>,
    /// To be called where a row is done.
    next_row: F,
    /// What separates its columns.
    delimiter: u8,
    /// Lines that stand before it.
    before: u64,
}

fn table(file: impl Read) -> Result<Table<impl Read, impl Fn()>, NotTaken> {
    let mut file = std::io::BufReader::with_capacity(1 << 16, file);
    let (before, first) = beginning(&mut file)?;
    let text = String::from_utf8_lossy(&first).into_owned();
    let delimiter = columns::delimiter(text.lines().next().unwrap_or(""));
    let file = Metered::new(file, "one row", LONGEST);
    let next_row = file.refill();
    let first = text.trim_start_matches('\u{feff}').to_owned().into_bytes();
    let joined = std::io::Cursor::new(first).chain(file);
    let table = csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .flexible(true)
        .has_headers(true)
        .trim(csv::Trim::All)
        .from_reader(joined);
    Ok(Table { table, next_row, delimiter, before })
}

/// The lines from that of the headings on, as far as they were read, and how many stood before it. Where none has words that are
/// known, the first that looks like one of a table is taken for it.
fn beginning(file: &mut impl std::io::BufRead) -> Result<(u64, Vec<u8>), NotTaken> {
    let mut lines: Vec<Vec<u8>> = Vec::new();
    let mut looks_like_one = None;
    // A monitor may write its name and version before the table.
    for n in 0..20 {
        let mut bytes = Vec::new();
        let read = std::io::BufRead::read_until(&mut file.take(LONGEST), b'\n', &mut bytes)?;
        if read == 0 {
            break;
        }
        if bytes.contains(&0) {
            return Err(NotTaken::NoText);
        }
        let line = String::from_utf8_lossy(&bytes);
        if columns::is_heading(&line) {
            return Ok((n, bytes));
        }
        if looks_like_one.is_none() && columns::is_row(&line) {
            looks_like_one = Some(n);
        }
        lines.push(bytes);
    }
    let from = looks_like_one.ok_or(NotTaken::Columns(Unclear::Heading))?;
    Ok((from, lines.split_off(from as usize).concat()))
}

/// What is kept while rows come.
#[derive(Default)]
struct Kept {
    /// Batteries that rows are of; more than can be are rows that are numbered.
    batteries: Vec<String>,
    first: Option<i64>,
    begins: Option<DateTime>,
    last: i64,
    samples: Vec<Sample>,
    /// So many rows become one.
    step: u64,
    rows: u64,
    unreadable: u64,
    back: u64,
    gaps: (u64, u64),
    thinned: bool,
}

/// Batteries of one file that are told apart: a column with more is something else.
const MOST_BATTERIES: usize = 8;

impl Kept {
    fn of(&mut self, battery: &str) {
        let new = !battery.is_empty() && !self.batteries.iter().any(|b| b == battery);
        if new && self.batteries.len() <= MOST_BATTERIES {
            self.batteries.push(battery.chars().take(24).collect());
        }
    }

    fn take(&mut self, (at, civil): (i64, DateTime), sample: Sample) {
        let first = *self.first.get_or_insert(at);
        if self.begins.is_none() {
            self.begins = Some(civil);
            self.last = at;
        }
        // The clock was set back: what is told twice is passed over.
        if at < self.last {
            self.back += 1;
            return;
        }
        let since = u32::try_from(at - self.last).unwrap_or(u32::MAX);
        if since > GAP {
            self.gaps = (self.gaps.0 + 1, self.gaps.1 + u64::from(since));
        }
        self.last = at;
        if !self.rows.is_multiple_of(self.step) {
            return;
        }
        let at = u32::try_from(at - first).unwrap_or(u32::MAX);
        self.samples.push(Sample { at, ..sample });
        if self.samples.len() >= MOST {
            let mut keep = false;
            self.samples.retain(|_| {
                keep = !keep;
                keep
            });
            (self.step, self.thinned) = (self.step * 2, true);
        }
    }

    fn finish(mut self, columns: Columns, times: &Times) -> Result<Recorded, NotTaken> {
        let Some(begins) = self.begins else { return Err(NotTaken::Empty) };
        if (2..=MOST_BATTERIES).contains(&self.batteries.len()) {
            return Err(NotTaken::Several(self.batteries));
        }
        if self.samples.iter().all(|s| s.amps.is_nan()) {
            let from = if columns.amps_from_watts { Column::Watts } else { Column::Amps };
            let heading = columns.told().into_iter().find(|(column, _)| *column == from);
            return Err(NotTaken::NoAmps(heading.map_or_else(String::new, |(_, h)| h)));
        }
        let mut odd = Vec::new();
        if columns.amps_from_watts {
            odd.push("Amps are worked out of watts and volts".to_owned());
        }
        if turned(&mut self.samples) {
            odd.push("Amps are negative there while it discharges: they are turned".to_owned());
        }
        if self.back > 0 {
            odd.push(format!("the clock was set back: {} rows are passed over", self.back));
        }
        if self.gaps.0 > 0 {
            odd.push(format!(
                "{} {} without rows, {:.1} h in all: nothing is counted there",
                self.gaps.0,
                if self.gaps.0 == 1 { "gap" } else { "gaps" },
                self.gaps.1 as f64 / 3600.0
            ));
        }
        if self.unreadable > 0 {
            odd.push(format!("{} rows cannot be read", self.unreadable));
        }
        if self.thinned {
            odd.push(format!("of so many rows one in {} is kept", self.step));
        }
        odd.extend(at_rest(&self.samples));
        odd.extend(times.odd());
        Ok(Recorded { begins, samples: self.samples, columns, odd, rows: self.rows })
    }
}

/// Less than this is taken for nothing, and so many hours of the same show that it is no chance. [A], [h]
const NOTHING: f64 = 0.02;
const HOURS_AT_REST: f64 = 1.0;

/// A meter that counts on while nothing runs: its zero is off, or something cannot be switched off.
fn at_rest(samples: &[Sample]) -> Option<String> {
    let mut rests: Vec<(f64, f64)> = samples
        .windows(2)
        .filter(|pair| trips::rests(pair[0].amps) && pair[1].at - pair[0].at <= GAP)
        .map(|pair| (f64::from(pair[0].amps), f64::from(pair[1].at - pair[0].at) / 3600.0))
        .collect();
    let hours: f64 = rests.iter().map(|r| r.1).sum();
    rests.sort_by(|a, b| a.0.total_cmp(&b.0));
    let middle = rests.get(rests.len() / 2)?.0;
    (hours >= HOURS_AT_REST && middle.abs() >= NOTHING).then(|| {
        format!(
            "it counts {middle:.2} A while nothing is driven: something stays on, or its zero is off by that"
        )
    })
}

/// Turns amps round that are negative while the charge falls, or where no charge is told while more flows one way than the
/// other: what a day takes is more than what comes back in it.
fn turned(samples: &mut [Sample]) -> bool {
    let (mut with_share, mut by_share, mut sum) = (0_u32, 0.0_f64, 0.0_f64);
    for pair in samples.windows(2) {
        let (a, b) = (pair[0], pair[1]);
        let dt = f64::from(b.at - a.at).min(f64::from(GAP));
        if a.amps.is_nan() {
            continue;
        }
        sum += f64::from(a.amps) * dt;
        if !a.share.is_nan() && !b.share.is_nan() && (a.share - b.share).abs() > 1e-6 {
            with_share += 1;
            by_share += f64::from(a.amps) * f64::from(a.share - b.share);
        }
    }
    let other_way = if with_share >= 3 { by_share < 0.0 } else { sum < 0.0 };
    if other_way {
        for sample in samples.iter_mut() {
            sample.amps = -sample.amps;
        }
    }
    other_way
}

#[cfg(test)]
mod tests;
