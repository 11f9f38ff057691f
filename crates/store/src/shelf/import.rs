//! A shelf from a file: looked at first, then taken as one change.

use super::row::BatteryRow;
use super::{count, history, named};
use crate::error::StoreError;
use lake_hour_core::shelf::Candidate;
use lake_hour_formats::shelf::table::{self, CellFault, Columns, Row};
use lake_hour_formats::shelf::{self, MOST_BATTERIES};
use rusqlite::{Connection, Transaction};
use std::collections::HashMap;
use std::io::{BufReader, Read, Seek, SeekFrom};
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::mpsc::{Receiver, SyncSender};

/// Faults, remarks and names that are told; the others are counted.
const MOST_TOLD: usize = 100;

/// How far an import is; shared with the one who waits for it and may call it off.
#[derive(Debug, Default)]
pub struct Progress {
    /// Bytes of the file.
    pub size: AtomicU64,
    /// Bytes read.
    pub read: AtomicU64,
    /// Batteries seen.
    pub rows: AtomicU64,
    /// Called off: nothing is kept.
    pub cancelled: AtomicBool,
}

/// A battery that is told of, and the columns in which it differs from the one on the shelf.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Told {
    /// Its name.
    pub name: String,
    /// Columns that change.
    pub differs: Vec<&'static str>,
}

/// What a file does to the shelf.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Report {
    /// Batteries that are new.
    pub added: usize,
    /// Batteries that are on the shelf with other figures.
    pub changed: usize,
    /// Batteries that stand on the shelf as they are in the file.
    pub same: usize,
    /// Rows that cannot be taken.
    pub faulty: usize,
    /// The first of the new ones.
    pub new: Vec<String>,
    /// The first of the changed ones.
    pub other: Vec<Told>,
    /// The first faults, by line and column.
    pub faults: Vec<CellFault>,
    /// The first cells that were taken in another unit.
    pub turned: Vec<CellFault>,
    /// What is to be known of the file as a whole.
    pub remarks: Vec<String>,
    /// Why nothing of the file can be taken.
    pub broken: Option<String>,
    /// It was called off on the way.
    pub cancelled: bool,
}

impl Report {
    fn fault(&mut self, faults: Vec<CellFault>) {
        self.faulty += 1;
        let room = MOST_TOLD.saturating_sub(self.faults.len());
        self.faults.extend(faults.into_iter().take(room));
    }

    /// What the change is called.
    fn sentence(&self) -> String {
        format!("Took a file: {} added, {} changed", self.added, self.changed)
    }
}

/// A row as it was understood, and what the shelf keeps of it if it is new.
struct Ready {
    row: Row,
    stored: Option<BatteryRow>,
}

/// What the reading thread hands over.
enum Piece {
    Opened(Columns, Vec<String>),
    Rows(Vec<Ready>),
    Broken(String),
}

/// Rows handed over at once.
const AT_ONCE: usize = 200;

/// Reads a CSV and hands over what it understood, piece by piece, until nobody listens.
fn understand(file: impl Read, writes: bool, progress: &Progress, send: &SyncSender<Piece>) {
    let mut rows = match table::rows(file) {
        Ok(rows) => rows,
        Err(e) => return drop(send.send(Piece::Broken(e.to_string()))),
    };
    let opened = Piece::Opened(rows.columns().clone(), std::mem::take(&mut rows.remarks));
    if send.send(opened).is_err() {
        return;
    }
    let mut ready = Vec::with_capacity(AT_ONCE);
    let mut broken = None;
    while let Some(row) = rows.next() {
        progress.read.store(rows.read_bytes(), Ordering::Relaxed);
        let row = match row {
            Ok(row) => row,
            Err(e) => {
                broken = Some(Piece::Broken(e.to_string()));
                break;
            }
        };
        let stored = match &row {
            Row::Battery { candidate, .. } if writes => Some(BatteryRow::of(0, candidate)),
            _ => None,
        };
        ready.push(Ready { row, stored });
        if ready.len() == AT_ONCE {
            let full = std::mem::replace(&mut ready, Vec::with_capacity(AT_ONCE));
            if send.send(Piece::Rows(full)).is_err() {
                return;
            }
        }
    }
    // Who called it off does not listen any more.
    let _ = send.send(Piece::Rows(ready));
    let _ = broken.map(|broken| send.send(broken));
}

/// Where batteries go: only compared with the shelf, or put on it.
struct Taking<'a> {
    c: &'a Connection,
    /// The transaction and the change it is remembered as.
    writes: Option<(&'a Transaction<'a>, i64)>,
    report: Report,
    /// Names of the file by their line.
    seen: HashMap<String, u64>,
    /// Batteries on the shelf before.
    before: usize,
    progress: &'a Progress,
}

impl Taking<'_> {
    /// Takes one row; `columns` are those that its file has, `None` for all. False to stop.
    fn take(&mut self, ready: Ready, columns: Option<&Columns>) -> Result<bool, StoreError> {
        if self.progress.cancelled.load(Ordering::Relaxed) {
            self.report.cancelled = true;
            return Ok(false);
        }
        self.progress.rows.fetch_add(1, Ordering::Relaxed);
        let (line, candidate) = match ready.row {
            Row::Faulty(faults) => {
                self.report.fault(faults);
                return Ok(true);
            }
            Row::Battery { line, candidate, turned } => {
                let room = MOST_TOLD.saturating_sub(self.report.turned.len());
                self.report.turned.extend(turned.into_iter().take(room));
                (line, candidate)
            }
        };
        if let Some(first) = self.seen.insert(candidate.battery.name.to_lowercase(), line) {
            let says = format!("This name stands on line {first} already.");
            self.report.fault(vec![CellFault { line, column: "name".to_owned(), says }]);
            return Ok(true);
        }
        self.one(line, *candidate, ready.stored, columns)?;
        if self.before + self.report.added > MOST_BATTERIES {
            self.report.broken =
                Some(format!("More than {MOST_BATTERIES} batteries do not fit on the shelf."));
            return Ok(false);
        }
        Ok(true)
    }

    fn one(
        &mut self,
        line: u64,
        candidate: Candidate,
        stored: Option<BatteryRow>,
        columns: Option<&Columns>,
    ) -> Result<(), StoreError> {
        let name = &candidate.battery.name;
        let known = if self.before > 0 { named(self.c, name)? } else { None };
        let Some(id) = known else {
            self.report.added += 1;
            if self.report.new.len() < MOST_TOLD {
                self.report.new.push(name.clone());
            }
            if let Some((t, _)) = self.writes {
                stored.unwrap_or_else(|| BatteryRow::of(0, &candidate)).put(t)?;
            }
            return Ok(());
        };
        let before = BatteryRow::find(self.c, id)?;
        let known = before.candidate()?;
        let laid = match columns {
            Some(columns) => columns.over(line, &known, candidate),
            None => Ok(candidate),
        };
        let candidate = match laid {
            Ok(candidate) => candidate,
            Err(faults) => {
                self.report.fault(faults);
                return Ok(());
            }
        };
        if known == candidate {
            self.report.same += 1;
            return Ok(());
        }
        self.report.changed += 1;
        if self.report.other.len() < MOST_TOLD {
            let differs = table::differences(&known, &candidate);
            self.report.other.push(Told { name: before.name.clone(), differs });
        }
        if let Some((t, change)) = self.writes {
            history::note(t, change, id, Some(&before.body))?;
            BatteryRow::of(id, &candidate).put(t)?;
        }
        Ok(())
    }

    /// Reads in one thread while the rows before go to the shelf in this one.
    fn csv(&mut self, file: impl Read + Send) -> Result<(), StoreError> {
        let (send, pieces) = std::sync::mpsc::sync_channel(4);
        let progress = self.progress;
        let writes = self.writes.is_some();
        std::thread::scope(|scope| {
            scope.spawn(move || understand(file, writes, progress, &send));
            // When this ends early, the other thread finds nobody who listens, and ends too.
            self.listen(pieces)
        })
    }

    fn listen(&mut self, pieces: Receiver<Piece>) -> Result<(), StoreError> {
        let mut columns = None;
        for piece in pieces {
            match piece {
                Piece::Opened(of, remarks) => {
                    columns = Some(of);
                    self.report.remarks = remarks;
                }
                Piece::Rows(rows) => {
                    for ready in rows {
                        if !self.take(ready, columns.as_ref())? {
                            return Ok(());
                        }
                    }
                }
                Piece::Broken(why) => self.report.broken = Some(why),
            }
        }
        Ok(())
    }

    fn json(&mut self, mut file: impl Read) -> Result<(), StoreError> {
        let mut bytes = Vec::new();
        let most = lake_hour_formats::plan::LARGEST as u64 + 1;
        if let Err(e) = file.by_ref().take(most).read_to_end(&mut bytes) {
            self.report.broken = Some(format!("The file cannot be read: {e}."));
            return Ok(());
        }
        let all = match shelf::read(&bytes) {
            Ok(all) => all,
            Err(faults) => {
                let says: Vec<String> = faults.0.iter().take(8).map(ToString::to_string).collect();
                self.report.broken = Some(says.join("; "));
                return Ok(());
            }
        };
        for (candidate, n) in all.into_iter().zip(1..) {
            let row = Row::Battery { line: n, candidate: Box::new(candidate), turned: Vec::new() };
            if !self.take(Ready { row, stored: None }, None)? {
                break;
            }
        }
        Ok(())
    }
}

/// Reads a file and says what it does to the shelf. With a transaction it is done as one change; what
/// was called off or is broken leaves nothing behind, which the report says.
pub(crate) fn run(
    c: &Connection,
    writes: Option<&Transaction<'_>>,
    file: &std::fs::File,
    progress: &Progress,
) -> Result<Report, StoreError> {
    let mut file = BufReader::with_capacity(1 << 16, file);
    let mut start = [0; 64];
    let begun = file
        .seek(SeekFrom::Start(0))
        .and_then(|_| file.by_ref().take(64).read(&mut start))
        .and_then(|n| file.seek(SeekFrom::Start(0)).map(|_| n));
    let begun = match begun {
        Ok(n) => start[..n].trim_ascii_start().first().copied(),
        Err(e) => {
            let broken = Some(format!("The file cannot be read: {e}."));
            return Ok(Report { broken, ..Report::default() });
        }
    };
    let before = count(c)?;
    let newest: i64 = c.query_row("SELECT coalesce(max(id), 0) FROM battery", [], |r| r.get(0))?;
    let change = writes.map(|t| history::begin(t, "Took a file")).transpose()?;
    let mut taking = Taking {
        c,
        writes: writes.zip(change),
        report: Report::default(),
        seen: HashMap::new(),
        before,
        progress,
    };
    match begun {
        Some(b'{' | b'[') => taking.json(file)?,
        _ => taking.csv(file)?,
    }
    let report = taking.report;
    if let Some((t, change)) = writes.zip(change) {
        t.execute(
            "INSERT INTO shelf_was (change_id, battery_id, body)
             SELECT ?1, id, NULL FROM battery WHERE id > ?2",
            [change, newest],
        )?;
        history::name(t, change, &report.sentence())?;
    }
    Ok(report)
}
