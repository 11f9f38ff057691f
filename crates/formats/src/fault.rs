//! What is wrong with a document: where, what, and what is allowed.

use lake_hour_core::allowed::{self, Allowed};

/// Most faults reported of one document; the rest are counted.
const MOST_REPORTED: usize = 50;

/// One fault.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fault {
    /// Where, as in `packs[1].series`; empty for the document as a whole.
    pub at: String,
    /// What is wrong and what is allowed.
    pub says: String,
}

impl std::fmt::Display for Fault {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let at = if self.at.is_empty() { "plan" } else { &self.at };
        write!(f, "{at}: {}", self.says)
    }
}

/// Every fault of one document.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{} fault(s) in the document", .0.len())]
pub struct Faults(pub Vec<Fault>);

impl Faults {
    /// The first of them, in a sentence.
    pub fn first(&self) -> String {
        let first = self.0.first();
        first.map_or_else(
            String::new,
            |f| {
                if f.at.is_empty() { f.says.clone() } else { f.to_string() }
            },
        )
    }

    /// The document can't be read at all.
    pub(crate) fn one(at: impl Into<String>, says: impl Into<String>) -> Self {
        Self(vec![Fault { at: at.into(), says: says.into() }])
    }
}

/// Collects faults while a document is checked, so that all are told at once.
#[derive(Debug, Default)]
pub(crate) struct Checker {
    faults: Vec<Fault>,
    unreported: usize,
}

/// A field of a document by the place it stands in. Made into text only when there is something to tell.
#[derive(Clone, Copy)]
pub(crate) struct At<'a>(pub(crate) &'a str, pub(crate) &'a str);

impl From<At<'_>> for String {
    fn from(At(place, field): At<'_>) -> Self {
        if place.is_empty() { field.to_owned() } else { format!("{place}.{field}") }
    }
}

impl Checker {
    pub(crate) fn fault(&mut self, at: impl Into<String>, says: impl std::fmt::Display) {
        if self.faults.len() < MOST_REPORTED {
            self.faults.push(Fault { at: at.into(), says: says.to_string() });
        } else {
            self.unreported += 1;
        }
    }

    /// The number if allowed; the smallest allowed and a fault if not, so that checking goes on.
    pub(crate) fn number(&mut self, at: impl Into<String>, value: f64, allowed: &Allowed) -> f64 {
        match allowed.check(value) {
            Ok(value) => value,
            Err(_) => {
                self.fault(at, format!("{value} is not allowed; give a number {allowed}"));
                allowed.low
            }
        }
    }

    pub(crate) fn optional(
        &mut self,
        at: impl Into<String>,
        value: Option<f64>,
        allowed: &Allowed,
    ) -> Option<f64> {
        value.map(|v| self.number(at, v, allowed))
    }

    pub(crate) fn count(&mut self, at: impl Into<String>, value: f64, allowed: &Allowed) -> u32 {
        match allowed.check_count(value) {
            Ok(count) => count,
            Err(_) => {
                self.fault(at, format!("{value} is not allowed; give a whole number {allowed}"));
                allowed.low as u32
            }
        }
    }

    pub(crate) fn name(&mut self, at: impl Into<String>, name: &str) -> String {
        self.text(at, name, allowed::NAME_LENGTH)
    }

    /// The words if allowed; none and a fault if not.
    pub(crate) fn text(&mut self, at: impl Into<String>, text: &str, most: usize) -> String {
        allowed::text(text, most).unwrap_or_else(|bad| {
            self.fault(at, bad);
            String::new()
        })
    }

    pub(crate) fn at_most(&mut self, at: &str, length: usize, most: usize) -> bool {
        if length > most {
            self.fault(at, format!("{length} of them; at most {most} are allowed"));
        }
        length <= most
    }

    pub(crate) fn finish<T>(mut self, value: T) -> Result<T, Faults> {
        if self.unreported > 0 {
            let says = format!("and {} more faults", self.unreported);
            self.faults.push(Fault { at: String::new(), says });
        }
        if self.faults.is_empty() { Ok(value) } else { Err(Faults(self.faults)) }
    }
}
