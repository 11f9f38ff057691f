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

use crate::keyed::keyed;
pub use rest::Rest;

use super::{Battery, Detail};
use crate::units::say::Say;

keyed! {
    /// How sure a doubt is.
    pub enum Sureness {
        /// Against physics, or against another figure of the same label.
        #[strum(serialize = "cannot-be")]
        CannotBe,
        /// No such battery is known.
        Hardly,
        /// Unusual: ask before buying.
        Ask,
    }
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
}

keyed! {
    /// What is doubtful.
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
        /// Made to start engines, whatever its ampere-hours.
        MadeForStarting,
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
    /// A value for one figure, to three digits, and nothing else changed.
    fn of(detail: Detail, value: f64) -> Self {
        // Three digits are as many as a guess has.
        let digits = 10_f64.powi(2 - value.abs().max(1e-9).log10().floor() as i32);
        Self { detail, value: (value * digits).round() / digits, scales_ratings: false }
    }

    /// The same, and the run times and other ratings shrink with the capacity.
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
    /// A doubt without a figure to use instead.
    fn new(kind: DoubtKind, sure: Sureness, sentence: impl Into<String>) -> Self {
        Self { kind, sure, sentence: sentence.into(), instead: None }
    }

    /// The same doubt, with a figure to use instead.
    fn instead(mut self, suggestion: Suggestion) -> Self {
        self.instead = Some(suggestion);
        self
    }
}

/// Every doubt about a candidate's label, the surest first, in the units and money asked for. `rest` is the shelf
/// it stands on.
///
/// Each check looks at two figures that cannot both be true, or at one that no battery has; a figure that is not
/// told raises no doubt. Most suggest the figure to use instead; nothing is changed before the user says so.
pub fn doubts(b: &Battery, rest: Option<&Rest>, say: Say<'_>) -> Vec<Doubt> {
    let units = say.units;
    let mut doubts: Vec<Doubt> = [
        density::energy_sum(b),
        density::for_weight(b, units),
        density::for_size(b, units),
        ratings::reserve(b),
        ratings::rates(b),
        ratings::lead_equivalent(b),
        currents::cranking(b),
        currents::for_starting(b),
        currents::continuous(b),
        currents::peak(b),
        volts::nominal(b),
        volts::charging(b),
        life::in_years(b),
        life::for_chemistry(b),
        life::self_discharge(b),
        life::cold_charge(b, units),
        life::warranty(b),
        rest::size_class(b, units),
    ]
    .into_iter()
    .flatten()
    .collect();
    if let Some(rest) = rest {
        doubts.extend(rest.price(b, say));
        doubts.extend(rest.weight(b));
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
