//! The columns of a shelf's CSV: the core's figures, and what is kept beside them.

use crate::battery::{chosen, longest, offered};
use crate::tables::guarded;
use crate::words;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::shelf::figures::{self, Field, Holds, Label, Number, Value, Wrong};
use lake_hour_core::shelf::{Battery, Candidate, Correction, Detail, DoubtKind};
use lake_hour_core::source::Vouched;
use lake_hour_core::units::parse;
use lake_hour_core::units::system::{Measure, System};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::LazyLock;

/// What stands in a column.
#[derive(Clone, Copy)]
pub(super) enum Column {
    Figure(&'static Field),
    Origins,
    Corrected,
    Accepted,
    Hidden,
}

/// All columns, in the order they are written.
pub(super) static COLUMNS: LazyLock<Vec<Column>> = LazyLock::new(|| {
    let figures = figures::fields().map(|(_, field)| Column::Figure(field));
    figures.chain([Column::Origins, Column::Corrected, Column::Accepted, Column::Hidden]).collect()
});

impl Column {
    pub(super) fn name(self) -> &'static str {
        match self {
            Self::Figure(field) => field.key,
            Self::Origins => "origins",
            Self::Corrected => "corrected",
            Self::Accepted => "accepted",
            Self::Hidden => "hidden",
        }
    }
}

/// A row as it is read, before it makes a battery.
#[derive(Default, Clone)]
pub(super) struct Sheet {
    pub(super) label: Label,
    origins: BTreeMap<Detail, Vouched>,
    corrected: Vec<Correction>,
    accepted: BTreeSet<DoubtKind>,
    hidden: bool,
}

impl Sheet {
    pub(super) fn of(c: &Candidate) -> Self {
        Self {
            label: Label::of(&c.battery),
            origins: c.battery.origins.clone(),
            corrected: c.battery.corrected.clone(),
            accepted: c.accepted.clone(),
            hidden: c.hidden,
        }
    }

    /// The battery it makes, or what is wrong.
    pub(super) fn candidate(self) -> Result<Candidate, Vec<Wrong>> {
        let battery = self.label.battery()?;
        let battery = Battery { origins: self.origins, corrected: self.corrected, ..battery };
        Ok(Candidate { battery, accepted: self.accepted, hidden: self.hidden })
    }

    /// Takes a column from another row.
    pub(super) fn take(&mut self, column: Column, from: &mut Self) {
        match column {
            Column::Figure(field) => self.label.set(field, from.label.get(field.key).cloned()),
            Column::Origins => self.origins = std::mem::take(&mut from.origins),
            Column::Corrected => self.corrected = std::mem::take(&mut from.corrected),
            Column::Accepted => self.accepted = std::mem::take(&mut from.accepted),
            Column::Hidden => self.hidden = from.hidden,
        }
    }

    /// A column in words.
    pub(super) fn cell(&self, column: Column) -> String {
        match column {
            Column::Figure(field) => match self.label.get(field.key) {
                None => String::new(),
                Some(Value::Number(v)) => v.to_string(),
                Some(Value::Text(text)) => guarded(text),
                Some(Value::Flag(yes)) => if *yes { "yes" } else { "no" }.to_owned(),
                Some(Value::Ratings(all)) => guarded(&words::ratings(all)),
                Some(Value::Cycles(all)) => guarded(&words::cycles(all)),
            },
            Column::Origins => guarded(&words::origins(&self.origins)),
            Column::Corrected => guarded(&words::corrected(&self.corrected)),
            Column::Accepted => {
                self.accepted.iter().map(|kind| kind.key()).collect::<Vec<_>>().join("; ")
            }
            Column::Hidden => if self.hidden { "yes" } else { "" }.to_owned(),
        }
    }

    /// Reads a column that is not empty. What was turned from another unit is told.
    pub(super) fn read(&mut self, column: Column, cell: &str) -> Result<Option<String>, String> {
        match column {
            Column::Figure(field) => {
                let (value, turned) = value(field, cell)?;
                self.label.set(field, Some(value));
                return Ok(turned);
            }
            Column::Origins => self.origins = words::read_origins(cell)?,
            Column::Corrected => self.corrected = words::read_corrected(cell)?,
            Column::Accepted => {
                let keys = cell.split(';').map(str::trim).filter(|key| !key.is_empty());
                let kinds =
                    keys.map(|key| DoubtKind::from_key(key).ok_or("Names a doubt there is not."));
                self.accepted = kinds.collect::<Result<_, _>>()?;
            }
            Column::Hidden => self.hidden = read_flag(cell)?,
        }
        Ok(None)
    }
}

/// The value of a cell, and what to tell where its unit was turned.
fn value(field: &Field, cell: &str) -> Result<(Value, Option<String>), String> {
    let value = match &field.holds {
        Holds::Number(n) => match n.measure {
            Some(measure) => {
                let (value, turned) = read_measure(cell, measure, &n.allowed)?;
                return Ok((Value::Number(value), turned.then(|| said(cell, value, measure))));
            }
            None => Value::Number(read_number(cell, n)?),
        },
        Holds::Text(_) | Holds::Long(_) => {
            Value::Text(allowed::text(cell, longest(&field.holds)).map_err(|bad| bad.to_string())?)
        }
        Holds::Choice(choice) => {
            // Keys are lower case, but for those of sizes, which are read in either.
            let key = chosen(choice, cell).or_else(|| chosen(choice, &cell.to_lowercase()));
            let key = key.ok_or_else(|| format!("Must be one of {}.", offered(choice)))?;
            Value::Text(key.to_owned())
        }
        Holds::Flag(_) => Value::Flag(read_flag(cell)?),
        Holds::Ratings => Value::Ratings(words::read_ratings(cell)?),
        Holds::Cycles => Value::Cycles(words::read_cycles(cell)?),
    };
    Ok((value, None))
}

/// What a cell was turned into.
fn said(cell: &str, value: f64, measure: Measure) -> String {
    format!("{cell} is taken as {}.", System::Metric.say(measure, value, 2))
}

/// A number with at most a word on why not.
fn read_number(cell: &str, n: &Number) -> Result<f64, String> {
    // The plain way first: it is the one of nearly every cell.
    let plain = cell.parse::<f64>().ok().filter(|v| v.is_finite() && cell.len() < 32);
    let read = match plain {
        Some(value) if n.whole => n.allowed.check_count(value).map(f64::from),
        Some(value) => n.allowed.check(value),
        None if n.whole => parse::whole(cell, &n.allowed).map(f64::from),
        None => parse::number(cell, &n.allowed),
    };
    read.map_err(|bad| bad.to_string())
}

/// A measure, with whether it carried a unit other than the column's.
fn read_measure(cell: &str, measure: Measure, range: &Allowed) -> Result<(f64, bool), String> {
    if let Ok(value) = cell.parse::<f64>() {
        return range.check(value).map(|v| (v, false)).map_err(|bad| bad.to_string());
    }
    let value = System::Metric.read(cell, measure, range).map_err(|bad| bad.to_string())?;
    let own = System::Metric.unit(measure);
    let named = cell.trim_end_matches(|c: char| !c.is_ascii_digit());
    let unit = cell[named.len()..].trim();
    Ok((value, !unit.is_empty() && unit != own.name && !own.also.contains(&unit)))
}

fn read_flag(cell: &str) -> Result<bool, String> {
    match cell.to_ascii_lowercase().as_str() {
        "yes" | "y" | "true" | "1" => Ok(true),
        "no" | "n" | "false" | "0" => Ok(false),
        _ => Err("Write yes or no.".to_owned()),
    }
}
