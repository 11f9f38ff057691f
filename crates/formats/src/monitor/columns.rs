//! Which column is what, by its words and its unit.

use super::Sample;

/// What a column tells.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Column {
    /// The time, or date and time.
    Time,
    /// The date alone.
    Date,
    /// Volts.
    Volts,
    /// Amps.
    Amps,
    /// Watts.
    Watts,
    /// Charge in percent.
    Charge,
    /// Warmth.
    Warmth,
    /// Which battery the row is of.
    Battery,
}

impl Column {
    /// All that a column can be said to be.
    pub const ALL: [Self; 8] = [
        Self::Time,
        Self::Date,
        Self::Amps,
        Self::Volts,
        Self::Watts,
        Self::Charge,
        Self::Warmth,
        Self::Battery,
    ];

    /// As it stands in forms and in the database.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Time => "time",
            Self::Date => "date",
            Self::Amps => "amps",
            Self::Volts => "volts",
            Self::Watts => "watts",
            Self::Charge => "charge",
            Self::Warmth => "temperature",
            Self::Battery => "battery",
        }
    }

    /// The column of a key.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|c| c.key() == key)
    }
}

/// Which column of a table is what, as it was said by hand: columns are counted from 0.
pub type Said = Vec<(Column, usize)>;

/// Which column is what.
#[derive(Debug, Clone, PartialEq)]
pub struct Columns {
    /// What, which column, times what it is in our unit, and its heading.
    all: Vec<(Column, usize, f64, String)>,
    /// The warmth is told in °F.
    fahrenheit: bool,
    /// There are no amps, but watts and volts.
    pub amps_from_watts: bool,
}

/// Why columns are not understood.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unclear {
    /// No line of headings.
    #[error(
        "no line of headings is found: it must name a time and amps, as in Time, Voltage (V), Current (A)"
    )]
    Heading,
    /// No time.
    #[error("no column is the time: one must be headed Time, Date or Timestamp")]
    Time,
    /// No amps.
    #[error("no column is amps: one must be headed Current, Amps or (A); or watts beside volts")]
    Amps,
}

/// What separates columns: the one of comma, semicolon and tab that stands most often in the headings.
pub(super) fn delimiter(heading: &str) -> u8 {
    let count = |of: u8| heading.bytes().filter(|b| *b == of).count();
    [b';', b'\t', b','].into_iter().max_by_key(|d| count(*d)).unwrap_or(b',')
}

/// Whether a line has the words of headings in it.
pub(super) fn is_heading(line: &str) -> bool {
    let delimiter = char::from(delimiter(line));
    let cells: Vec<&str> = line.split(delimiter).collect();
    let has = |of: &[Column]| {
        cells.iter().any(|cell| known(cell).is_some_and(|(column, _, _)| of.contains(&column)))
    };
    cells.len() > 1
        && has(&[Column::Time, Column::Date])
        && has(&[Column::Amps, Column::Volts, Column::Watts, Column::Charge])
}

/// Whether a line might be one of a table: two cells at least.
pub(super) fn is_row(line: &str) -> bool {
    line.contains([';', '\t', ','])
}

/// What a heading is: its words, and its unit in brackets or behind it.
fn known(heading: &str) -> Option<(Column, f64, bool)> {
    let text = heading.trim_matches(['"', '\u{feff}', ' ']).to_lowercase();
    let unit = text
        .rsplit_once(['(', '[', '/'])
        .map_or("", |(_, unit)| unit.trim_end_matches([')', ']']).trim());
    let words: Vec<&str> =
        text.split(|c: char| !c.is_alphanumeric() && c != '%').filter(|w| !w.is_empty()).collect();
    let has = |of: &[&str]| words.iter().any(|w| of.iter().any(|o| w == o));
    let begins = |of: &[&str]| words.iter().any(|w| of.iter().any(|o| w.starts_with(o)));
    // Of another battery, or of a cell.
    if begins(&["starter", "aux", "cell", "mid", "solar", "panel"]) {
        return None;
    }
    let fahrenheit = unit.contains('f') || has(&["f", "degf", "fahrenheit"]);
    if begins(&["temp", "warm"]) {
        return Some((Column::Warmth, 1.0, fahrenheit));
    }
    if has(&["ah", "mah", "wh", "kwh"]) || begins(&["consumed", "capacity"]) {
        // Counted here from amps.
        return None;
    }
    if has(&["soc", "%"]) || text.contains("state of charge") || unit == "%" {
        return Some((Column::Charge, 0.01, false));
    }
    let milli = unit == "ma" || unit == "mv" || has(&["ma", "mv"]);
    let times = if milli { 0.001 } else { 1.0 };
    if begins(&["volt"]) || unit == "v" || unit == "mv" || has(&["v", "mv"]) {
        return Some((Column::Volts, times, false));
    }
    if begins(&["current", "amp"]) || unit == "a" || unit == "ma" || has(&["a", "ma", "i"]) {
        return Some((Column::Amps, times, false));
    }
    if begins(&["power", "watt"]) || unit == "w" || unit == "kw" || has(&["w"]) {
        return Some((Column::Watts, if unit == "kw" { 1000.0 } else { 1.0 }, false));
    }
    if begins(&["time", "timestamp", "datetime"]) || has(&["clock", "utc"]) {
        return Some((Column::Time, 1.0, false));
    }
    if begins(&["date"]) {
        return Some((Column::Date, 1.0, false));
    }
    // "Battery", "Device name", "Pack no": every word of it speaks of which.
    let which = ["battery", "device", "pack", "serial", "bank"];
    let beside = ["number", "no", "id", "name"];
    let all = words.iter().all(|w| which.contains(w) || beside.contains(w));
    (all && has(&which)).then_some((Column::Battery, 1.0, false))
}

/// What the unit of a heading makes of its figures where it is said by hand what they are.
fn scale(heading: &str, column: Column) -> (f64, bool) {
    if let Some((_, times, fahrenheit)) = known(heading).filter(|k| k.0 == column) {
        return (times, fahrenheit);
    }
    let text = heading.to_lowercase();
    let unit = |of: &[&str]| {
        text.split(|c: char| !c.is_alphanumeric() && c != '%').any(|w| of.contains(&w))
    };
    let times = match column {
        Column::Charge => 0.01,
        Column::Amps | Column::Volts if unit(&["ma", "mv"]) => 0.001,
        Column::Watts if unit(&["kw"]) => 1000.0,
        _ => 1.0,
    };
    (times, column == Column::Warmth && unit(&["f", "degf", "fahrenheit"]))
}

/// What each of these headings is taken for.
pub(super) fn guessed(headings: &[&str]) -> Vec<Option<Column>> {
    let mut taken = Vec::new();
    headings
        .iter()
        .map(|heading| {
            let (column, _, _) = known(heading)?;
            // Of two that tell the same the first counts.
            let new = !taken.contains(&column);
            taken.push(column);
            new.then_some(column)
        })
        .collect()
}

impl Columns {
    /// Of these headings; of two that tell the same the first counts.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn of(headings: &[&str]) -> Result<Self, Unclear> {
        let all = guessed(headings).into_iter().enumerate();
        Self::said(headings, &all.filter_map(|(n, c)| Some((c?, n))).collect())
    }

    /// Of these headings, by what was said of them.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn said(headings: &[&str], said: &Said) -> Result<Self, Unclear> {
        let mut columns = Self { all: Vec::new(), fahrenheit: false, amps_from_watts: false };
        for &(column, n) in said {
            let Some(heading) = headings.get(n).filter(|_| columns.at(column).is_none()) else {
                continue;
            };
            let (times, fahrenheit) = scale(heading, column);
            columns.fahrenheit |= fahrenheit;
            let heading: String = heading.trim().chars().take(40).collect();
            columns.all.push((column, n, times, heading));
        }
        if columns.at(Column::Time).is_none() && columns.at(Column::Date).is_none() {
            return Err(Unclear::Time);
        }
        if columns.at(Column::Amps).is_none() {
            if columns.at(Column::Watts).is_none() || columns.at(Column::Volts).is_none() {
                return Err(Unclear::Amps);
            }
            columns.amps_from_watts = true;
        }
        Ok(columns)
    }

    fn at(&self, column: Column) -> Option<(usize, f64)> {
        self.all.iter().find(|c| c.0 == column).map(|c| (c.1, c.2))
    }

    /// What was taken for what, in the words of the file: "time: Timestamp".
    pub fn told(&self) -> Vec<(Column, String)> {
        self.all.iter().map(|(column, _, _, heading)| (*column, heading.clone())).collect()
    }

    /// Which battery a row is of, where that is told.
    pub(super) fn battery<'r>(&self, row: &'r csv::StringRecord) -> Option<&'r str> {
        row.get(self.at(Column::Battery)?.0)
    }

    /// Date and time of a row.
    pub(super) fn time(&self, row: &csv::StringRecord) -> String {
        let cell = |column| self.at(column).and_then(|(n, _)| row.get(n)).unwrap_or("");
        match (cell(Column::Date), cell(Column::Time)) {
            ("", time) => time.to_owned(),
            (date, "") => date.to_owned(),
            (date, time) => format!("{date} {time}"),
        }
    }

    /// The figures of a row; `commas` may stand for points.
    pub(super) fn sample(&self, row: &csv::StringRecord, commas: bool) -> Sample {
        let figure = |column| {
            let (n, times) = self.at(column)?;
            let text = row.get(n)?;
            let read = if commas && text.contains(',') {
                text.replace('.', "").replace(',', ".").parse::<f64>()
            } else {
                text.trim_end_matches(|c: char| c.is_alphabetic() || c == '%' || c == ' ').parse()
            };
            read.ok().filter(|v| v.is_finite()).map(|v| (v * times) as f32)
        };
        let none = f32::NAN;
        let volts = figure(Column::Volts).unwrap_or(none);
        let amps = match self.amps_from_watts {
            true => figure(Column::Watts).map(|w| w / volts),
            false => figure(Column::Amps),
        };
        let warm = figure(Column::Warmth);
        let warm = warm.map(|t| if self.fahrenheit { (t - 32.0) / 1.8 } else { t });
        Sample {
            at: 0,
            volts,
            amps: amps.filter(|a| a.is_finite()).unwrap_or(none),
            share: figure(Column::Charge).filter(|s| (0.0..=1.02).contains(s)).unwrap_or(none),
            warm: warm.unwrap_or(none),
        }
    }
}
