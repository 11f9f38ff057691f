//! The label check: each doubt is a sentence with its figures, how sure it is, and where there is one,
//! a plausible figure to use instead.
//!
//! A label's ratings disagree by 6 to 9 % as a rule, so no doubt is raised below 10 %.

mod currents;
mod density;
mod life;
mod ratings;
mod rest;
mod volts;

pub use rest::Rest;

use super::{Candidate, Detail};
use crate::units::say::Say;

/// How sure a doubt is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Sureness {
    /// Against physics, or against another figure of the same label.
    CannotBe,
    /// No such battery is known.
    Hardly,
    /// Unusual: ask before buying.
    Ask,
}

impl Sureness {
    /// As it is said before the sentence.
    pub const fn words(self) -> &'static str {
        match self {
            Self::CannotBe => "Cannot be",
            Self::Hardly => "Hardly",
            Self::Ask => "Ask",
        }
    }

    /// The key used in pages.
    pub const fn key(self) -> &'static str {
        match self {
            Self::CannotBe => "cannot-be",
            Self::Hardly => "hardly",
            Self::Ask => "ask",
        }
    }
}

/// What is doubtful.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum DoubtKind {
    /// Volts times ampere-hours are not the watt-hours printed.
    EnergySum,
    /// Too much, or too little, energy for the weight.
    EnergyForWeight,
    /// Too much energy for the case.
    EnergyForSize,
    /// Ampere-hours against reserve minutes.
    ReserveMinutes,
    /// Ratings against one another.
    RatesDisagree,
    /// "Lead-equivalent" ampere-hours.
    LeadEquivalent,
    /// Cranking amps and no capacity.
    CrankingOnly,
    /// Cranking amps against the capacity.
    CrankingForCapacity,
    /// Continuous current against the capacity.
    Continuous,
    /// Peak current against the capacity or the continuous one.
    Peak,
    /// Nominal voltage against the chemistry.
    NominalVoltage,
    /// Charging voltage against the chemistry.
    ChargeVoltage,
    /// More cycles than its years can hold.
    CyclesInYears,
    /// More cycles than its chemistry gives.
    CyclesForChemistry,
    /// No self-discharge, or far too much.
    SelfDischarge,
    /// A charge promised below freezing without a heater.
    ColdCharge,
    /// Warranty against itself.
    Warranty,
    /// Dimensions against the standard size.
    SizeForClass,
    /// Price against the rest of the shelf.
    PriceForShelf,
    /// Weight against the rest of the shelf.
    WeightForShelf,
}

impl DoubtKind {
    /// All of them.
    pub const ALL: [Self; 20] = [
        Self::EnergySum,
        Self::EnergyForWeight,
        Self::EnergyForSize,
        Self::ReserveMinutes,
        Self::RatesDisagree,
        Self::LeadEquivalent,
        Self::CrankingOnly,
        Self::CrankingForCapacity,
        Self::Continuous,
        Self::Peak,
        Self::NominalVoltage,
        Self::ChargeVoltage,
        Self::CyclesInYears,
        Self::CyclesForChemistry,
        Self::SelfDischarge,
        Self::ColdCharge,
        Self::Warranty,
        Self::SizeForClass,
        Self::PriceForShelf,
        Self::WeightForShelf,
    ];

    /// The key used in files and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::EnergySum => "energy_sum",
            Self::EnergyForWeight => "energy_for_weight",
            Self::EnergyForSize => "energy_for_size",
            Self::ReserveMinutes => "reserve_minutes",
            Self::RatesDisagree => "rates_disagree",
            Self::LeadEquivalent => "lead_equivalent",
            Self::CrankingOnly => "cranking_only",
            Self::CrankingForCapacity => "cranking_for_capacity",
            Self::Continuous => "continuous",
            Self::Peak => "peak",
            Self::NominalVoltage => "nominal_voltage",
            Self::ChargeVoltage => "charge_voltage",
            Self::CyclesInYears => "cycles_in_years",
            Self::CyclesForChemistry => "cycles_for_chemistry",
            Self::SelfDischarge => "self_discharge",
            Self::ColdCharge => "cold_charge",
            Self::Warranty => "warranty",
            Self::SizeForClass => "size_for_class",
            Self::PriceForShelf => "price_for_shelf",
            Self::WeightForShelf => "weight_for_shelf",
        }
    }

    /// The doubt with this [`key`](Self::key).
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|k| k.key() == key)
    }
}

/// A plausible figure to use instead of the label's.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Suggestion {
    /// Which figure.
    pub detail: Detail,
    /// The plausible value, in the detail's unit.
    pub value: f64,
    /// Whether every rating shrinks with the capacity, run times among them.
    pub scales_ratings: bool,
}

impl Suggestion {
    fn of(detail: Detail, value: f64) -> Self {
        // Three digits are as many as a guess has.
        let digits = 10_f64.powi(2 - value.abs().max(1e-9).log10().floor() as i32);
        Self { detail, value: (value * digits).round() / digits, scales_ratings: false }
    }

    fn whole(self) -> Self {
        Self { scales_ratings: true, ..self }
    }

    /// "Use 66 Ah".
    pub fn words(&self) -> String {
        let unit = self.detail.unit();
        let what = if unit.is_empty() { self.detail.words() } else { unit };
        format!("Use {} {what}", self.value)
    }
}

/// One doubt about a label.
#[derive(Debug, Clone, PartialEq)]
pub struct Doubt {
    /// What is doubtful.
    pub kind: DoubtKind,
    /// How sure.
    pub sure: Sureness,
    /// The doubt in a sentence, with the figures in it.
    pub sentence: String,
    /// What to use instead, where that can be told.
    pub instead: Option<Suggestion>,
}

impl Doubt {
    fn new(kind: DoubtKind, sure: Sureness, sentence: impl Into<String>) -> Self {
        Self { kind, sure, sentence: sentence.into(), instead: None }
    }

    fn instead(mut self, suggestion: Suggestion) -> Self {
        self.instead = Some(suggestion);
        self
    }
}

/// Every doubt about a candidate's label, the surest first, in the units and money asked for. `rest` is the shelf
/// it stands on.
pub fn doubts(candidate: &Candidate, rest: Option<&Rest>, say: Say<'_>) -> Vec<Doubt> {
    let units = say.units;
    let mut doubts: Vec<Doubt> = [
        density::energy_sum(candidate),
        density::for_weight(candidate, units),
        density::for_size(candidate, units),
        ratings::reserve(candidate),
        ratings::rates(candidate),
        ratings::lead_equivalent(candidate),
        currents::cranking(candidate),
        currents::continuous(candidate),
        currents::peak(candidate),
        volts::nominal(candidate),
        volts::charging(candidate),
        life::in_years(candidate),
        life::for_chemistry(candidate),
        life::self_discharge(candidate),
        life::cold_charge(candidate, units),
        life::warranty(candidate),
        rest::size_class(candidate, units),
    ]
    .into_iter()
    .flatten()
    .collect();
    if let Some(rest) = rest {
        doubts.extend(rest.price(candidate, say));
        doubts.extend(rest.weight(candidate));
    }
    doubts.sort_by_key(|d| d.sure);
    doubts
}

/// A figure without needless digits.
fn tidy(value: f64) -> String {
    let digits = if value.abs() < 10.0 { 1 } else { 0 };
    let text = format!("{value:.digits$}");
    text.strip_suffix(".0").map_or(text.clone(), str::to_owned)
}

/// Ampere-hours, volts, years as a label prints them.
fn plain(value: f64) -> String {
    format!("{}", (value * 100.0).round() / 100.0)
}
