//! `lake-hour/shelf`, version 1: candidate batteries as JSON and as CSV, and label text as it is pasted.

mod columns;
pub mod paste;
pub mod stream;
pub mod table;
#[cfg(test)]
mod tests;

use crate::fault::{At, Checker, Faults};
use crate::plan::pack::{battery, battery_document};
use crate::plan::{self, BatteryDocument};
use lake_hour_core::allowed;
use lake_hour_core::shelf::{Build, Candidate, DoubtKind, Purpose, SizeClass};
use lake_hour_core::units::{AmpHours, Celsius, Volts, WattHours};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/shelf";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;
/// Most batteries on a shelf.
pub const MOST_BATTERIES: usize = 200_000;

/// A shelf of candidate batteries.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
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
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CandidateDocument {
    /// The unit, as in a plan.
    pub battery: BatteryDocument,
    /// `prismatic`, `cylindrical`, `spiral` or `semi_solid`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub build: Option<String>,
    /// `deep_cycle`, `dual_purpose` or `starting`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub purpose: Option<String>,
    /// BCI group: U1, 22NF, 24, 27, 31, 34, 4D, 8D, GC2, GC2H, GC8 or GC12.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub size_class: Option<String>,
    /// Watt-hours as printed. [Wh]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub energy_wh: Option<f64>,
    /// "Lead-equivalent" ampere-hours as printed; never reckoned with. [Ah]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lead_equivalent_ah: Option<f64>,
    /// Highest charging voltage. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub charge_voltage_v: Option<f64>,
    /// Temperature under which it refuses a charge by itself. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cold_cutoff_c: Option<f64>,
    /// Warms itself before charging.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heater: Option<bool>,
    /// Tells its charge.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub monitor: Option<bool>,
    /// Ingress rating.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ingress: Option<String>,
    /// Terminals.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub terminals: Option<String>,
    /// Years of full warranty.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warranty_full_years: Option<f64>,
    /// Years of warranty in all, the prorated ones included.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warranty_total_years: Option<f64>,
    /// Share of the charge lost in a month of rest, 0 to 1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub self_discharge_month: Option<f64>,
    /// Most units in series.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub max_series: Option<f64>,
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

/// Reads one candidate, as a database keeps it.
///
/// # Errors
/// [`Faults`] when the text is no candidate or its figures are not allowed.
pub fn read_candidate(text: &str) -> Result<Candidate, Faults> {
    let doc: CandidateDocument = plan::document(text.as_bytes())?;
    let mut c = Checker::default();
    let candidate = check(&mut c, "", &doc);
    c.finish(candidate)
}

/// One candidate as text. What can be written always can: every figure is finite.
pub fn write_candidate(candidate: &Candidate) -> String {
    serde_json::to_string(&write(candidate)).unwrap_or_default()
}

/// A candidate as far as a document tells it: what is missing or not allowed is left blank, for a form
/// to ask for. Zero volts stand for none.
pub fn as_far(doc: &CandidateDocument) -> Candidate {
    let mut doc = doc.clone();
    if doc.battery.chemistry.is_empty() {
        "lfp".clone_into(&mut doc.battery.chemistry);
    }
    let mut candidate = check(&mut Checker::default(), "", &doc);
    candidate.battery.nominal_voltage = Volts::of(doc.battery.nominal_voltage_v);
    candidate
}

fn one_of<T>(
    c: &mut Checker,
    at: At<'_>,
    key: Option<&str>,
    read: impl Fn(&str) -> Option<T>,
    offered: &str,
) -> Option<T> {
    let key = key?;
    let read = read(key);
    if read.is_none() {
        c.fault(at, format!("must be one of {offered}"));
    }
    read
}

pub(crate) fn check(c: &mut Checker, at: &str, doc: &CandidateDocument) -> Candidate {
    let unit = if at.is_empty() {
        battery(c, "battery", &doc.battery)
    } else {
        battery(c, &String::from(At(at, "battery")), &doc.battery)
    };
    let build = one_of(
        c,
        At(at, "build"),
        doc.build.as_deref(),
        Build::from_key,
        "prismatic, cylindrical, spiral, semi_solid",
    );
    let purpose = one_of(
        c,
        At(at, "purpose"),
        doc.purpose.as_deref(),
        Purpose::from_key,
        "deep_cycle, dual_purpose, starting",
    );
    let size_class = one_of(
        c,
        At(at, "size_class"),
        doc.size_class.as_deref(),
        SizeClass::from_name,
        "U1, 22NF, 24, 27, 31, 34, 4D, 8D, GC2, GC2H, GC8, GC12",
    );
    let mut accepted = std::collections::BTreeSet::new();
    for key in doc.accepted.iter().take(allowed::MOST_POINTS) {
        match DoubtKind::from_key(key) {
            Some(kind) => drop(accepted.insert(kind)),
            None => c.fault(At(at, "accepted"), "names a doubt there is not"),
        }
    }
    let words = |c: &mut Checker, name: &str, text: Option<&String>| {
        text.map(|text| c.name(At(at, name), text))
    };
    let ingress = words(c, "ingress", doc.ingress.as_ref());
    let terminals = words(c, "terminals", doc.terminals.as_ref());
    let mut number = |name: &str, value: Option<f64>, range| c.optional(At(at, name), value, range);
    Candidate {
        battery: unit,
        build,
        purpose,
        size_class,
        energy: number("energy_wh", doc.energy_wh, &allowed::LABEL_ENERGY).map(WattHours::of),
        lead_equivalent: number("lead_equivalent_ah", doc.lead_equivalent_ah, &allowed::CAPACITY)
            .map(AmpHours::of),
        charge_voltage: number("charge_voltage_v", doc.charge_voltage_v, &allowed::VOLTAGE)
            .map(Volts::of),
        cold_cutoff: number("cold_cutoff_c", doc.cold_cutoff_c, &allowed::TEMPERATURE)
            .map(Celsius::of),
        heater: doc.heater,
        monitor: doc.monitor,
        ingress,
        terminals,
        warranty_full: number("warranty_full_years", doc.warranty_full_years, &allowed::WARRANTY),
        warranty_total: number(
            "warranty_total_years",
            doc.warranty_total_years,
            &allowed::WARRANTY,
        ),
        self_discharge: number(
            "self_discharge_month",
            doc.self_discharge_month,
            &allowed::SELF_DISCHARGE,
        ),
        max_series: doc.max_series.map(|n| c.count(At(at, "max_series"), n, &allowed::SERIES)),
        accepted,
        hidden: doc.hidden,
    }
}

/// A candidate as a document.
pub fn write(c: &Candidate) -> CandidateDocument {
    CandidateDocument {
        battery: battery_document(&c.battery),
        build: c.build.map(|b| b.key().to_owned()),
        purpose: c.purpose.map(|p| p.key().to_owned()),
        size_class: c.size_class.map(|s| s.name().to_owned()),
        energy_wh: c.energy.map(WattHours::value),
        lead_equivalent_ah: c.lead_equivalent.map(AmpHours::value),
        charge_voltage_v: c.charge_voltage.map(Volts::value),
        cold_cutoff_c: c.cold_cutoff.map(Celsius::value),
        heater: c.heater,
        monitor: c.monitor,
        ingress: c.ingress.clone(),
        terminals: c.terminals.clone(),
        warranty_full_years: c.warranty_full,
        warranty_total_years: c.warranty_total,
        self_discharge_month: c.self_discharge,
        max_series: c.max_series.map(f64::from),
        accepted: c.accepted.iter().map(|k| k.key().to_owned()).collect(),
        hidden: c.hidden,
    }
}
