//! `lake-hour/shelf`, version 1: candidate batteries as JSON and as CSV, and label text as it is pasted.

mod columns;
pub mod paste;
pub mod stream;
pub mod table;
#[cfg(test)]
mod tests;

use crate::battery::{self, BatteryDocument};
use crate::fault::{At, Checker, Faults};
use crate::lift::{self, Kind};
use crate::plan;
use lake_hour_core::allowed;
use lake_hour_core::shelf::{Candidate, DoubtKind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/shelf";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;
/// Most batteries on a shelf.
pub const MOST_BATTERIES: usize = 200_000;

/// A shelf of candidate batteries.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ShelfDocument {
    /// Always `lake-hour/shelf`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    /// The batteries.
    pub batteries: Vec<CandidateDocument>,
}

/// A battery as it is offered.
#[derive(Debug, Clone, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CandidateDocument {
    /// The unit, as in a plan.
    pub battery: BatteryDocument,
    /// Doubts of the label check that its owner lives with.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub accepted: Vec<String>,
    /// Kept, but not shown.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub hidden: bool,
}

/// Reads a shelf.
///
/// # Errors
/// [`Faults`], each with its place: not JSON, another format or version, unknown fields, figures outside
/// what is allowed.
pub fn read(bytes: &[u8]) -> Result<Vec<Candidate>, Faults> {
    if bytes.len() > plan::LARGEST {
        let says = format!("{} MB; at most {} MB are read", bytes.len() >> 20, plan::LARGEST >> 20);
        return Err(Faults::one("", says));
    }
    let doc: ShelfDocument = plan::document(bytes)?;
    let mut c = Checker::default();
    if doc.format != FORMAT {
        c.fault("format", format!("must be \"{FORMAT}\""));
    }
    if doc.version != VERSION {
        c.fault("version", format!("this program reads version {VERSION}"));
    }
    c.at_most("batteries", doc.batteries.len(), MOST_BATTERIES);
    let all = doc.batteries.iter().take(MOST_BATTERIES).enumerate();
    let all = all.map(|(n, d)| check(&mut c, &format!("batteries[{n}]"), d)).collect();
    c.finish(all)
}

/// Reads one candidate, as a database keeps it or as it stands in a file.
///
/// # Errors
/// [`Faults`] when the text is no candidate or its figures are not allowed.
pub fn read_candidate(text: &str) -> Result<Candidate, Faults> {
    let doc: CandidateDocument = lift::read(Kind::Candidate, text)?;
    let mut c = Checker::default();
    let candidate = check(&mut c, "", &doc);
    c.finish(candidate)
}

/// One candidate as a database keeps it.
pub fn write_candidate(candidate: &Candidate) -> String {
    lift::keep(&write(candidate))
}

/// What a shelf's JSON begins with, before its first battery.
pub fn json_begin() -> String {
    format!("{{\"format\":\"{FORMAT}\",\"version\":{VERSION},\"batteries\":[")
}

/// A battery in a shelf's JSON, with what parts it from the one before.
pub fn json_next(candidate: &Candidate, first: bool) -> String {
    let comma = if first { "\n" } else { ",\n" };
    format!("{comma}{}", json(candidate))
}

/// What a shelf's JSON ends with.
pub const JSON_END: &str = "\n]}\n";

/// One candidate as it stands in a file. What can be written always can: every figure is finite.
pub fn json(candidate: &Candidate) -> String {
    serde_json::to_string(&write(candidate)).unwrap_or_default()
}

pub(crate) fn check(c: &mut Checker, at: &str, doc: &CandidateDocument) -> Candidate {
    let unit = battery::check(c, &String::from(At(at, "battery")), &doc.battery);
    let accepted = accepted(c, At(at, "accepted"), &doc.accepted);
    Candidate { battery: unit, accepted, hidden: doc.hidden }
}

fn accepted(c: &mut Checker, at: At<'_>, keys: &[String]) -> BTreeSet<DoubtKind> {
    let mut accepted = BTreeSet::new();
    for key in keys.iter().take(allowed::MOST_POINTS) {
        match DoubtKind::from_key(key) {
            Some(kind) => drop(accepted.insert(kind)),
            None => c.fault(at, "names a doubt there is not"),
        }
    }
    accepted
}

/// A candidate as a document.
pub fn write(c: &Candidate) -> CandidateDocument {
    CandidateDocument {
        battery: battery::document(&c.battery),
        accepted: c.accepted.iter().map(|k| k.key().to_owned()).collect(),
        hidden: c.hidden,
    }
}
