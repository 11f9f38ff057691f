//! A shelf as CSV (RFC 4180), read row by row in bounded memory.

use super::columns::{COLUMNS, Column, Sheet};
use csv::{ByteRecord, ReaderBuilder};
use encoding_rs_io::DecodeReaderBytes;
use lake_hour_core::shelf::Candidate;
use lake_hour_core::shelf::figures::Wrong;
use std::cell::Cell;
use std::io::{BufRead, BufReader, Chain, Cursor, Read};
use std::rc::Rc;

/// Most columns a file may have.
pub const MOST_COLUMNS: usize = 256;
/// Longest row. An open quote would otherwise swallow the rest of the file. [bytes]
const LONGEST_ROW: u64 = 256 * 1024;
/// Longest cell that can mean anything. [bytes]
const LONGEST_CELL: usize = 4096;

/// Something to say of one cell or row.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CellFault {
    /// Line of the file, counted from 1.
    pub line: u64,
    /// Column by name; empty for the whole row.
    pub column: String,
    /// What is wrong, or what was taken how.
    pub says: String,
}

/// A row as it was understood.
#[derive(Debug, Clone, PartialEq)]
pub enum Row {
    /// A battery, with what was taken in another way than it stands.
    Battery {
        /// Line of the file.
        line: u64,
        /// The battery.
        candidate: Box<Candidate>,
        /// Cells whose units were turned.
        turned: Vec<CellFault>,
    },
    /// Not taken.
    Faulty(Vec<CellFault>),
}

/// Nothing of the file can be taken.
#[derive(Debug, thiserror::Error)]
pub enum TableError {
    /// No line at all.
    #[error(
        "The file is empty. Its first line must name the columns, as name, chemistry, nominal_voltage_v, capacity_ah."
    )]
    Empty,
    /// Too many columns.
    #[error("The first line names {0} columns; at most {MOST_COLUMNS} are read.")]
    TooManyColumns(usize),
    /// None of the columns that are needed.
    #[error("The first line must name the columns; {0} is missing. See docs/formats/shelf.csv.md.")]
    Missing(&'static str),
    /// A column comes twice.
    #[error("The column {0} comes twice.")]
    Twice(String),
    /// A quote is not closed.
    #[error("Line {0}: a quote is opened there and not closed, or the row is longer than 256 kB.")]
    OpenQuote(u64),
    /// The file cannot be read.
    #[error("The file cannot be read at line {line}: {says}.")]
    Broken {
        /// Line.
        line: u64,
        /// Why.
        says: String,
    },
}

/// Hands out no more bytes than a row may have before the next row is asked for.
struct Metered<R> {
    inner: R,
    left: Rc<Cell<u64>>,
    given: Rc<Cell<u64>>,
    last: Rc<Cell<Last>>,
}

/// How the text went on when it was last asked for.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Last {
    Byte(u8),
    EndAfter(u8),
}

impl<R: Read> Read for Metered<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        if self.left.get() == 0 {
            return Err(std::io::Error::new(std::io::ErrorKind::FileTooLarge, "row too long"));
        }
        let n = self.inner.read(into)?;
        self.left.set(self.left.get().saturating_sub(n as u64));
        self.given.set(self.given.get() + n as u64);
        self.last.set(match (self.last.get(), n.checked_sub(1).and_then(|at| into.get(at))) {
            (_, Some(byte)) => Last::Byte(*byte),
            (Last::Byte(before) | Last::EndAfter(before), None) => Last::EndAfter(before),
        });
        Ok(n)
    }
}

/// The columns that a file has, in its order; `None` where nothing is known by a name.
#[derive(Clone)]
pub struct Columns(Vec<Option<Column>>);

impl Columns {
    /// A battery of the file over the one of its name on the shelf: of what the file has no column for,
    /// nothing is lost.
    ///
    /// # Errors
    /// What the two do not make a battery with.
    pub fn over(
        &self,
        line: u64,
        before: &Candidate,
        row: Candidate,
    ) -> Result<Candidate, Vec<CellFault>> {
        let has = |column: &Column| self.0.iter().flatten().any(|c| c.name() == column.name());
        if COLUMNS.iter().all(has) {
            return Ok(row);
        }
        let (mut both, mut new) = (Sheet::of(before), Sheet::of(&row));
        for column in self.0.iter().flatten() {
            both.take(*column, &mut new);
        }
        both.candidate().map_err(|wrong| {
            let fault = |wrong: Wrong| CellFault {
                line,
                column: wrong.key().to_owned(),
                says: wrong.to_string(),
            };
            wrong.into_iter().map(fault).collect()
        })
    }
}

impl std::fmt::Debug for Columns {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_list().entries(self.0.iter().map(|c| c.map(Column::name))).finish()
    }
}

/// A file's text, its first line put back before the rest.
type Text<R> = Chain<Cursor<Vec<u8>>, BufReader<Newlines<DecodeReaderBytes<R, Vec<u8>>>>>;

/// The rows of a file, one after another.
pub struct Rows<R: Read> {
    reader: csv::Reader<Metered<Text<R>>>,
    left: Rc<Cell<u64>>,
    given: Rc<Cell<u64>>,
    last: Rc<Cell<Last>>,
    /// Whether lines end by CR LF, of which the reader leaves the LF for its next row.
    crlf: bool,
    columns: Columns,
    /// What is to be known of the file as a whole.
    pub remarks: Vec<String>,
    record: ByteRecord,
    ended: bool,
}

impl<R: Read> std::fmt::Debug for Rows<R> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Rows").field("read", &self.read_bytes()).finish_non_exhaustive()
    }
}

/// Ends lines by line feeds where the file ends them by carriage returns alone: lines are counted by those.
struct Newlines<R>(BufReader<R>);

impl<R: Read> Read for Newlines<R> {
    fn read(&mut self, out: &mut [u8]) -> std::io::Result<usize> {
        let chunk = self.0.fill_buf()?;
        let n = chunk.len().min(out.len());
        out[..n].copy_from_slice(&chunk[..n]);
        self.0.consume(n);
        if n == 0 {
            return Ok(0);
        }
        for at in 0..n - 1 {
            if out[at] == b'\r' && out[at + 1] != b'\n' {
                out[at] = b'\n';
            }
        }
        if out[n - 1] == b'\r' && self.0.fill_buf()?.first() != Some(&b'\n') {
            out[n - 1] = b'\n';
        }
        Ok(n)
    }
}

/// Opens a file: its encoding (UTF-8 with or without a mark, UTF-16), its separator, its columns.
///
/// # Errors
/// [`TableError`] when nothing of it can be taken.
pub fn rows<R: Read>(file: R) -> Result<Rows<R>, TableError> {
    let decoded = BufReader::with_capacity(64 * 1024, DecodeReaderBytes::new(file));
    let mut text = BufReader::with_capacity(64 * 1024, Newlines(decoded));
    let broken = |e: &dyn std::fmt::Display| TableError::Broken { line: 1, says: e.to_string() };
    let mut start = Vec::new();
    text.by_ref().take(LONGEST_ROW).read_until(b'\n', &mut start).map_err(|e| broken(&e))?;
    if start.is_empty() {
        return Err(TableError::Empty);
    }
    let crlf = start.ends_with(b"\r\n");
    let first = start.split(|b| matches!(b, b'\n' | b'\r')).next().unwrap_or_default();
    let count = |mark: u8| first.iter().filter(|b| **b == mark).count();
    let separator = if first.contains(&b',') && count(b',') >= count(b';').max(count(b'\t')) {
        b','
    } else if count(b';') >= count(b'\t') && count(b';') > 0 {
        b';'
    } else if count(b'\t') > 0 {
        b'\t'
    } else {
        b','
    };
    let mut remarks = Vec::new();
    match separator {
        b';' => remarks.push("Read as separated by semicolons.".to_owned()),
        b'\t' => remarks.push("Read as separated by tabs.".to_owned()),
        _ => {}
    }
    let (left, given) = (Rc::new(Cell::new(LONGEST_ROW)), Rc::new(Cell::new(0)));
    let last = Rc::new(Cell::new(Last::Byte(b'\n')));
    let inner = Cursor::new(start).chain(text);
    let metered = Metered { inner, left: left.clone(), given: given.clone(), last: last.clone() };
    let mut reader = ReaderBuilder::new()
        .delimiter(separator)
        .has_headers(false)
        .flexible(true)
        .from_reader(metered);
    let mut record = ByteRecord::new();
    match reader.read_byte_record(&mut record) {
        Ok(true) => {}
        Ok(false) => return Err(TableError::Empty),
        Err(e) => return Err(trouble(&e, 1)),
    }
    if record.len() > MOST_COLUMNS {
        return Err(TableError::TooManyColumns(record.len()));
    }
    let mut columns: Vec<Option<Column>> = Vec::new();
    let mut unknown = Vec::new();
    for cell in &record {
        let name = String::from_utf8_lossy(cell).trim().to_ascii_lowercase();
        let column = COLUMNS.iter().find(|c| c.name() == name).copied();
        if column.is_none() && !name.is_empty() {
            unknown.push(name.chars().take(40).collect::<String>());
        }
        if let Some(found) = column
            && columns.iter().flatten().any(|c| c.name() == found.name())
        {
            return Err(TableError::Twice(name));
        }
        columns.push(column);
    }
    for needed in ["name", "chemistry", "nominal_voltage_v"] {
        if !columns.iter().flatten().any(|c| c.name() == needed) {
            return Err(TableError::Missing(needed));
        }
    }
    if !unknown.is_empty() {
        let more = unknown.len().saturating_sub(8);
        unknown.truncate(8);
        let tail = if more > 0 { format!(" and {more} more") } else { String::new() };
        remarks.push(format!(
            "Columns left out, since nothing is known by their names: {}{tail}.",
            unknown.join(", ")
        ));
    }
    Ok(Rows {
        reader,
        left,
        given,
        last,
        crlf,
        columns: Columns(columns),
        remarks,
        record,
        ended: false,
    })
}

fn trouble(e: &csv::Error, line: u64) -> TableError {
    match e.kind() {
        csv::ErrorKind::Io(io) if io.kind() == std::io::ErrorKind::FileTooLarge => {
            TableError::OpenQuote(line)
        }
        _ => TableError::Broken { line, says: e.to_string() },
    }
}

impl<R: Read> Rows<R> {
    /// The columns the file has.
    pub fn columns(&self) -> &Columns {
        &self.columns
    }

    /// Bytes of text read so far.
    pub fn read_bytes(&self) -> u64 {
        self.given.get()
    }

    /// The line on which the row just read began: where it ended, less the line ends inside it.
    fn line(&self) -> u64 {
        let unfinished = matches!(self.last.get(), Last::EndAfter(byte) if byte != b'\n');
        let past = u64::from(!self.crlf && !unfinished);
        let inside = self.record.as_slice().iter().filter(|b| **b == b'\n').count() as u64;
        self.reader.position().line().saturating_sub(past + inside)
    }

    fn fault(&self, line: u64, column: &str, says: impl Into<String>) -> CellFault {
        CellFault { line, column: column.to_owned(), says: says.into() }
    }

    fn understand(&self, line: u64) -> Row {
        let record = &self.record;
        if record.len() != self.columns.0.len() {
            let lines = record.iter().flatten().filter(|b| **b == b'\n').count();
            let quote = if lines > 0 && record.len() < self.columns.0.len() {
                " Perhaps a quote is opened and not closed."
            } else {
                ""
            };
            let says = format!(
                "{} cells where the first line names {}.{quote}",
                record.len(),
                self.columns.0.len()
            );
            return Row::Faulty(vec![self.fault(line, "", says)]);
        }
        let mut sheet = Sheet::default();
        let (mut faults, mut turned) = (Vec::new(), Vec::new());
        for (column, cell) in std::iter::zip(&self.columns.0, record) {
            let Some(column) = column else { continue };
            if cell.len() > LONGEST_CELL {
                let says = format!("{} characters; at most {LONGEST_CELL} are read.", cell.len());
                faults.push(self.fault(line, column.name(), says));
                continue;
            }
            let Ok(cell) = std::str::from_utf8(cell) else {
                faults.push(self.fault(line, column.name(), "This is not readable text."));
                continue;
            };
            let cell = unguarded(cell.trim());
            if cell.is_empty() {
                continue;
            }
            match sheet.read(*column, cell) {
                Ok(None) => {}
                Ok(Some(says)) => turned.push(self.fault(line, column.name(), says)),
                Err(says) => faults.push(self.fault(line, column.name(), says)),
            }
        }
        if sheet.label.get("name").is_none() && !faults.iter().any(|f| f.column == "name") {
            faults.push(self.fault(line, "name", "Give it a name."));
        }
        match sheet.candidate() {
            Ok(candidate) if faults.is_empty() => {
                return Row::Battery { line, candidate: Box::new(candidate), turned };
            }
            Ok(_) => {}
            Err(wrong) => {
                let told = faults.len();
                for wrong in wrong {
                    // What follows from a cell that was refused is not told besides.
                    if !faults[..told].iter().any(|f| wrong.follows(&f.column)) {
                        faults.push(self.fault(line, wrong.key(), wrong.to_string()));
                    }
                }
            }
        }
        Row::Faulty(faults)
    }
}

impl<R: Read> Iterator for Rows<R> {
    type Item = Result<Row, TableError>;

    fn next(&mut self) -> Option<Self::Item> {
        if self.ended {
            return None;
        }
        self.left.set(LONGEST_ROW);
        let line = self.reader.position().line() + u64::from(self.crlf);
        match self.reader.read_byte_record(&mut self.record) {
            Ok(true) => Some(Ok(self.understand(self.line()))),
            Ok(false) => {
                self.ended = true;
                None
            }
            Err(e) => {
                self.ended = true;
                Some(Err(trouble(&e, line)))
            }
        }
    }
}

fn unguarded(cell: &str) -> &str {
    match cell.strip_prefix('\'') {
        Some(rest) if rest.starts_with(['=', '+', '-', '@', '\t', '\r', '\'']) => rest,
        _ => cell,
    }
}

/// Columns in which two batteries differ.
pub fn differences(one: &Candidate, other: &Candidate) -> Vec<&'static str> {
    let (one, other) = (Sheet::of(one), Sheet::of(other));
    let differ = COLUMNS.iter().filter(|column| one.cell(**column) != other.cell(**column));
    differ.map(|column| column.name()).collect()
}

/// The first line of a shelf's CSV.
pub fn header() -> Vec<u8> {
    line(COLUMNS.iter().map(|c| c.name().to_owned()))
}

/// A battery as a line of CSV, ended by CRLF.
pub fn row(candidate: &Candidate) -> Vec<u8> {
    let sheet = Sheet::of(candidate);
    line(COLUMNS.iter().map(|column| sheet.cell(*column)))
}

fn line(cells: impl Iterator<Item = String>) -> Vec<u8> {
    let mut out =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    // Writing to memory cannot fail.
    let _ = out.write_record(cells.map(String::into_bytes));
    out.into_inner().unwrap_or_default()
}
