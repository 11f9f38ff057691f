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
}

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
    begins(&["date"]).then_some((Column::Date, 1.0, false))
}

impl Columns {
    /// Of these headings; of two that tell the same the first counts.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn of(headings: &[&str]) -> Result<Self, Unclear> {
        let mut columns = Self { all: Vec::new(), fahrenheit: false, amps_from_watts: false };
        for (n, heading) in headings.iter().enumerate() {
            let Some((column, times, fahrenheit)) = known(heading) else { continue };
            if columns.at(column).is_some() {
                continue;
            }
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
