//! A shelf from a file: looked at first, then taken as one change.
//!
//! One thread reads and understands, another compares with the shelf or writes, piece by piece. Each
//! piece is a transaction of its own, so that an edit never waits for a whole file; until the last one
//! the change is unfinished, and an unfinished change is taken back as a whole.

use super::row::{BatteryRow, key};
use super::{count, history, named};
use crate::error::StoreError;
use lake_hour_core::shelf::Candidate;
use lake_hour_formats::shelf::table::{self, CellFault, Columns, Row};
use lake_hour_formats::shelf::{MOST_BATTERIES, stream};
use rusqlite::{Connection, Transaction};
use std::collections::HashMap;
use std::io::{BufReader, Read, Seek, SeekFrom};
use std::ops::ControlFlow;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use tokio::sync::mpsc;

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
    /// Batteries that it has, as it was looked at.
    pub looked: AtomicU64,
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
    /// The change by which it was taken, see [`crate::Undo`].
    pub change: Option<i64>,
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
pub(crate) struct Ready {
    row: Row,
    stored: Option<BatteryRow>,
}

/// What the reading thread hands over.
pub(crate) enum Piece {
    Opened(Columns, Vec<String>),
    Rows(Vec<Ready>),
    Broken(String),
}

/// Rows handed over, and written, at once: some 20 ms of work, for which an edit may have to wait.
const AT_ONCE: usize = 250;

/// Where the pieces of a file go: nowhere any more when its reader has gone.
struct Sender {
    pieces: mpsc::Sender<Piece>,
    ready: Vec<Ready>,
    writes: bool,
}

impl Sender {
    fn row(&mut self, row: Row) -> ControlFlow<()> {
        let stored = match &row {
            Row::Battery { candidate, .. } if self.writes => Some(BatteryRow::of(0, candidate)),
            _ => None,
        };
        self.ready.push(Ready { row, stored });
        if self.ready.len() < AT_ONCE {
            return ControlFlow::Continue(());
        }
        let full = std::mem::replace(&mut self.ready, Vec::with_capacity(AT_ONCE));
        self.piece(Piece::Rows(full))
    }

    fn piece(&self, piece: Piece) -> ControlFlow<()> {
        match self.pieces.blocking_send(piece) {
            Ok(()) => ControlFlow::Continue(()),
            Err(_) => ControlFlow::Break(()),
        }
    }
}

/// Reads a file in a thread of its own and hands over what it understood, piece by piece, until nobody
/// listens.
pub(crate) fn understand(
    file: std::fs::File,
    writes: bool,
    progress: Arc<Progress>,
) -> mpsc::Receiver<Piece> {
    let (pieces, listen) = mpsc::channel(4);
    // A blocking task is no good here: at the end of the program it would be waited for.
    std::thread::spawn(move || {
        let mut send = Sender { pieces, ready: Vec::with_capacity(AT_ONCE), writes };
        let broken = read(&file, &mut send, &progress);
        let rest = std::mem::take(&mut send.ready);
        if send.piece(Piece::Rows(rest)).is_continue()
            && let Some(broken) = broken
        {
            // Nobody listens any more: it was called off.
            let _ = send.piece(Piece::Broken(broken));
        }
    });
    listen
}

/// Reads all of a file; returns why nothing of it can be taken, if so.
fn read(file: &std::fs::File, send: &mut Sender, progress: &Progress) -> Option<String> {
    let mut file = BufReader::with_capacity(1 << 16, file);
    let mut start = [0; 64];
    let begun = file
        .seek(SeekFrom::Start(0))
        .and_then(|_| file.by_ref().take(64).read(&mut start))
        .and_then(|n| file.seek(SeekFrom::Start(0)).map(|_| n));
    match begun {
        Err(e) => Some(format!("The file cannot be read: {e}.")),
        Ok(n) => match start[..n].trim_ascii_start().first() {
            Some(b'{' | b'[') => json(file, send, progress),
            _ => csv(file, send, progress),
        },
    }
}

fn csv(file: impl Read, send: &mut Sender, progress: &Progress) -> Option<String> {
    let mut rows = match table::rows(file) {
        Ok(rows) => rows,
        Err(e) => return Some(e.to_string()),
    };
    let opened = Piece::Opened(rows.columns().clone(), std::mem::take(&mut rows.remarks));
    if send.piece(opened).is_break() {
        return None;
    }
    while let Some(row) = rows.next() {
        progress.read.store(rows.read_bytes(), Ordering::Relaxed);
        match row {
            Ok(row) => {
                if send.row(row).is_break() {
                    return None;
                }
            }
            Err(e) => return Some(e.to_string()),
        }
    }
    None
}

fn json(file: impl Read, send: &mut Sender, progress: &Progress) -> Option<String> {
    let read = stream::each(file, |line, bytes, battery| {
        progress.read.store(bytes, Ordering::Relaxed);
        send.row(match battery {
            Ok(battery) => Row::Battery { line, candidate: Box::new(battery), turned: Vec::new() },
            Err(faults) => Row::Faulty(
                faults
                    .0
                    .into_iter()
                    .map(|f| CellFault { line, column: f.at, says: f.says })
                    .collect(),
            ),
        })
    });
    read.err()
}

/// Where batteries go: only compared with the shelf, or put on it.
pub(crate) struct Taking {
    /// The change it is remembered as, when it is kept.
    change: Option<i64>,
    pub(crate) report: Report,
    columns: Option<Columns>,
    /// Batteries on the shelf before.
    before: Option<usize>,
    /// Names of the file by their line.
    seen: HashMap<String, u64>,
    progress: Arc<Progress>,
}

impl Taking {
    /// To be compared only.
    pub(crate) fn look(progress: Arc<Progress>) -> Self {
        Self {
            change: None,
            report: Report::default(),
            columns: None,
            before: None,
            seen: HashMap::new(),
            progress,
        }
    }

    /// To be kept, as a change that is unfinished until [`finish`](Self::finish).
    pub(crate) fn begin(t: &Transaction<'_>, progress: Arc<Progress>) -> Result<Self, StoreError> {
        let change = history::begin_unfinished(t, "Took a file")?;
        Ok(Self { change: Some(change), ..Self::look(progress) })
    }

    /// Whether there is nothing more to take: called off, or broken.
    fn ended(&self) -> bool {
        self.report.cancelled || self.report.broken.is_some()
    }

    /// Takes a piece; false to stop.
    pub(crate) fn piece(&mut self, c: &Connection, piece: Piece) -> Result<bool, StoreError> {
        if self.progress.cancelled.load(Ordering::Relaxed) {
            self.report.cancelled = true;
            return Ok(false);
        }
        match piece {
            Piece::Opened(of, remarks) => {
                self.columns = Some(of);
                self.report.remarks = remarks;
            }
            Piece::Broken(why) => self.report.broken = Some(why),
            Piece::Rows(rows) => {
                let before = match self.before {
                    Some(before) => before,
                    None => *self.before.insert(count(c)?),
                };
                for ready in rows {
                    self.take(c, ready)?;
                    if before + self.report.added > MOST_BATTERIES {
                        let says = format!(
                            "More than {MOST_BATTERIES} batteries do not fit on the shelf."
                        );
                        self.report.broken = Some(says);
                        break;
                    }
                }
            }
        }
        Ok(!self.ended())
    }

    fn take(&mut self, c: &Connection, ready: Ready) -> Result<(), StoreError> {
        self.progress.rows.fetch_add(1, Ordering::Relaxed);
        let (line, candidate) = match ready.row {
            Row::Faulty(faults) => {
                self.report.fault(faults);
                return Ok(());
            }
            Row::Battery { line, candidate, turned } => {
                let room = MOST_TOLD.saturating_sub(self.report.turned.len());
                self.report.turned.extend(turned.into_iter().take(room));
                (line, candidate)
            }
        };
        if let Some(first) = self.seen.insert(key(&candidate.battery.name), line) {
            let says = format!("This name stands on line {first} already.");
            self.report.fault(vec![CellFault { line, column: "name".to_owned(), says }]);
            return Ok(());
        }
        match named(c, &candidate.battery.name)? {
            Some(id) => self.over(c, id, line, *candidate),
            None => {
                self.report.added += 1;
                if self.report.new.len() < MOST_TOLD {
                    self.report.new.push(candidate.battery.name.clone());
                }
                if let Some(change) = self.change {
                    let row = ready.stored.unwrap_or_else(|| BatteryRow::of(0, &candidate));
                    history::note(c, change, row.put(c)?, None)?;
                }
                Ok(())
            }
        }
    }

    /// Takes a row over the battery of its name.
    fn over(
        &mut self,
        c: &Connection,
        id: i64,
        line: u64,
        candidate: Candidate,
    ) -> Result<(), StoreError> {
        let before = BatteryRow::find(c, id)?;
        let known = before.candidate();
        let laid = match (&self.columns, &known) {
            (Some(columns), Ok(known)) => columns.over(line, known, candidate),
            // One that cannot be read any more is replaced whole.
            _ => Ok(candidate),
        };
        let candidate = match laid {
            Ok(candidate) => candidate,
            Err(faults) => {
                self.report.fault(faults);
                return Ok(());
            }
        };
        if known.as_ref().is_ok_and(|known| *known == candidate) {
            self.report.same += 1;
            return Ok(());
        }
        self.report.changed += 1;
        if self.report.other.len() < MOST_TOLD {
            let differs = known.map_or_else(
                |_| vec!["it cannot be read as it is"],
                |known| table::differences(&known, &candidate),
            );
            self.report.other.push(Told { name: before.name.clone(), differs });
        }
        if let Some(change) = self.change {
            history::note(c, change, id, Some(&before.body))?;
            BatteryRow::of(id, &candidate).put(c)?;
        }
        Ok(())
    }

    /// The change it is remembered as; none has the number zero.
    pub(crate) fn change(&self) -> i64 {
        self.change.unwrap_or(0)
    }

    /// Ends what was begun: true where it stays, as one change; false where all of it is to be taken back
    /// by [`history::take_back`].
    pub(crate) fn finish(&mut self, t: &Transaction<'_>) -> Result<bool, StoreError> {
        let Some(change) = self.change else { return Ok(true) };
        if self.ended() || self.report.added + self.report.changed == 0 {
            return Ok(false);
        }
        if history::finish(t, change, &self.report.sentence())? {
            self.report.remarks.push(format!("{}.", history::FORGOT));
        }
        self.report.change = Some(change);
        Ok(true)
    }
}
