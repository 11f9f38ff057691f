//! One battery unit as it can be bought.

use super::figures::Value;
use super::{Chemistry, Correction, Detail, Rating, SizeClass};
use crate::keyed::keyed;
use crate::source::{Origin, Vouched};
use crate::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Millimetres, Money, Ohms, Volts, WattHours,
};
use std::collections::BTreeMap;

/// A battery unit: what its label and its seller say. What they do not say is `None` and filled with what
/// is typical where it is used, and reported as assumed.
///
/// Every figure has its row in [`FIGURES`](super::figures::FIGURES), by which it is read and written.
#[derive(Debug, Clone, PartialEq)]
pub struct Battery {
    /// Its name on the shelf.
    pub name: String,
    /// What it is made of.
    pub chemistry: Chemistry,
    /// How it is built.
    pub build: Option<Build>,
    /// What it is made for.
    pub purpose: Option<Purpose>,
    /// Its standard size.
    pub size_class: Option<SizeClass>,
    /// Nominal voltage of one unit. [V]
    pub nominal_voltage: Volts,
    /// Every statement of capacity on the label.
    pub ratings: Vec<Rating>,
    /// Whether the hours of the headline ampere-hours were not told, so that the chemistry's usual ones stand for them.
    pub hours_assumed: bool,
    /// Watt-hours as printed, which need not be volts times ampere-hours. [Wh]
    pub printed_energy: Option<WattHours>,
    /// "Lead-equivalent" ampere-hours as printed: never reckoned with. [Ah]
    pub lead_equivalent: Option<AmpHours>,
    /// Cold cranking amps. Never turned into ampere-hours: no valid conversion exists.
    pub cranking: Option<Amps>,
    /// Weight of one unit. [kg]
    pub mass: Option<Kilograms>,
    /// Outside dimensions of one unit.
    pub size: Option<Size>,
    /// Price of one unit, in the plan's currency.
    pub price: Option<Money>,
    /// Highest current it may give without end. [A]
    pub max_continuous: Option<Amps>,
    /// Highest current it may give for a moment.
    pub peak: Option<Peak>,
    /// Voltage at which its protection opens. [V]
    pub low_voltage_cutoff: Option<Volts>,
    /// Highest charging voltage the label gives. [V]
    pub charge_voltage: Option<Volts>,
    /// Temperature under which it refuses a charge by itself. [°C]
    pub cold_cutoff: Option<Celsius>,
    /// Whether it warms itself before charging.
    pub heater: Option<bool>,
    /// Whether it tells its charge (a display, a radio, a wire).
    pub monitor: Option<bool>,
    /// Internal resistance, where the label or a bench test gives it. [Ω]
    pub resistance: Option<Ohms>,
    /// Share of the charge lost in a month of rest, 0 to 1.
    pub self_discharge: Option<f64>,
    /// Most units its maker allows in series.
    pub max_series: Option<u32>,
    /// Cycles promised at given depths of discharge.
    pub cycles: Vec<CyclePoint>,
    /// Years until the calendar ends it.
    pub calendar_years: Option<f64>,
    /// Years of full warranty.
    pub warranty_full: Option<f64>,
    /// Years of warranty in all, the prorated ones included.
    pub warranty_total: Option<f64>,
    /// Figures that nothing here reckons with, by the keys of their rows in
    /// [`FIGURES`](super::figures::FIGURES).
    pub others: BTreeMap<&'static str, Value>,
    /// Who vouches for a figure, where it is not the label.
    pub origins: BTreeMap<Detail, Vouched>,
    /// Figures of the label that were replaced by plausible ones.
    pub corrected: Vec<Correction>,
}

keyed! {
    /// How a unit is built inside, where that matters.
    pub enum Build {
        /// Flat pouch or box cells.
        Prismatic,
        /// Round cells.
        Cylindrical,
        /// Wound lead plates with glass mat.
        Spiral,
        /// "Semi-solid": a lithium cell with less liquid in it.
        SemiSolid,
    }
}

impl Build {
    /// As it is said.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Prismatic => "prismatic",
            Self::Cylindrical => "cylindrical",
            Self::Spiral => "spiral",
            Self::SemiSolid => "semi-solid",
        }
    }
}

keyed! {
    /// What its maker made it for.
    pub enum Purpose {
        /// Many deep discharges.
        DeepCycle,
        /// Some of both.
        DualPurpose,
        /// Starting an engine.
        Starting,
    }
}

impl Purpose {
    /// As it is said.
    pub const fn name(self) -> &'static str {
        match self {
            Self::DeepCycle => "deep-cycle",
            Self::DualPurpose => "dual-purpose",
            Self::Starting => "starting",
        }
    }
}

/// Outside dimensions. [mm]
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Size {
    /// The longer side of the footprint.
    pub length: Millimetres,
    /// The shorter side of the footprint.
    pub width: Millimetres,
    /// Height with terminals.
    pub height: Millimetres,
}

/// A current allowed for some seconds only.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Peak {
    /// The current. [A]
    pub current: Amps,
    /// How long it is borne. [s]
    pub seconds: f64,
}

impl Peak {
    /// Seconds a peak current is borne when the label does not say. Common practice, no source. [s]
    pub const USUAL_SECONDS: f64 = 5.0;
}

/// A promise on the label: so many cycles at such a depth of discharge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CyclePoint {
    /// Depth of discharge, 0 to 1.
    pub depth: f64,
    /// Cycles until the end of life.
    pub cycles: f64,
}

impl CyclePoint {
    /// The depth that is meant where a label gives cycles and no depth. Common practice, no source.
    pub const USUAL_DEPTH: f64 = 0.8;
}

/// The label gives no capacity, so no run time can be honest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
#[error(
    "the label gives cranking amps but no Ah and no reserve minutes: a starting battery, not for traction"
)]
pub struct NotForTraction;

impl Battery {
    /// Whether its price is what such batteries usually cost: nobody told it.
    pub fn price_is_usual(&self) -> bool {
        self.origins.get(&Detail::PRICE).is_some_and(|vouched| vouched.by == Origin::Typical)
    }

    /// A battery of which only the required figures are known.
    pub fn new(
        name: impl Into<String>,
        chemistry: Chemistry,
        nominal: Volts,
        rating: Rating,
    ) -> Self {
        Self {
            name: name.into(),
            chemistry,
            build: None,
            purpose: None,
            size_class: None,
            nominal_voltage: nominal,
            ratings: vec![rating],
            hours_assumed: false,
            printed_energy: None,
            lead_equivalent: None,
            cranking: None,
            mass: None,
            size: None,
            price: None,
            max_continuous: None,
            peak: None,
            low_voltage_cutoff: None,
            charge_voltage: None,
            cold_cutoff: None,
            heater: None,
            monitor: None,
            resistance: None,
            self_discharge: None,
            max_series: None,
            cycles: Vec::new(),
            calendar_years: None,
            warranty_full: None,
            warranty_total: None,
            others: BTreeMap::new(),
            origins: BTreeMap::new(),
            corrected: Vec::new(),
        }
    }

    /// Who vouches for a figure: the label, unless told otherwise.
    pub fn origin(&self, detail: Detail) -> Origin {
        self.origins.get(&detail).map_or(Origin::Label, |v| v.by)
    }

    /// Cells in series inside one unit: six for a 12 V lead battery, four for 12.8 V LFP.
    ///
    /// Of the numbers that are sold the one that comes nearest to the nominal voltage, since "36 V", "60 V" and "72 V" are
    /// names: they are twelve, twenty and twenty-four LFP cells. A number of cells on the label decides, where it is one
    /// of them within a quarter of the voltage.
    pub fn cells(&self) -> u32 {
        let facts = self.chemistry.facts();
        let volts = self.nominal_voltage.value();
        let off = |cells: u32| {
            let named =
                facts.named_cells.iter().map(|v| (volts / (v * f64::from(cells))).ln().abs());
            named.fold(f64::INFINITY, f64::min)
        };
        if let Some(told) = self.cells_told().filter(|n| off(*n) < 0.25) {
            return told;
        }
        let most = facts.sold_cells.last().copied().unwrap_or(0);
        let nearest = facts.sold_cells.iter().copied().min_by(|a, b| off(*a).total_cmp(&off(*b)));
        match nearest {
            Some(cells) if volts < f64::from(most) * facts.nominal_cell.value() * 1.05 => cells,
            _ => (self.nominal_voltage / facts.nominal_cell).round().max(1.0) as u32,
        }
    }

    /// Cells that the label tells of.
    fn cells_told(&self) -> Option<u32> {
        self.count("cell_count")
    }

    /// Most strings side by side that its maker allows.
    pub fn max_parallel(&self) -> Option<u32> {
        self.count("max_parallel")
    }

    /// Whether its maker allows another to stand on it; not where the label is silent.
    pub fn stackable(&self) -> bool {
        matches!(self.others.get("stackable"), Some(Value::Flag(true)))
    }

    /// A count that only the label's row keeps.
    fn count(&self, key: &str) -> Option<u32> {
        match self.others.get(key)? {
            Value::Number(count) => Some(*count as u32),
            _ => None,
        }
    }

    /// The system voltage one unit is sold for: 12 for a lead unit of 12 V and for LFP of 12.8 V. `None`
    /// for voltages that belong to no usual system. Common practice, no source. [V]
    pub fn system_volts(&self) -> Option<u32> {
        let times = |system: &u32| self.nominal_voltage.value() / f64::from(*system);
        let near = Self::SYSTEMS.into_iter().filter(|s| (0.95..=1.25).contains(&times(s)));
        near.min_by(|a, b| times(a).ln().abs().total_cmp(&times(b).ln().abs()))
    }

    /// Systems that units are sold for. [V]
    pub const SYSTEMS: [u32; 9] = [6, 8, 12, 24, 36, 48, 60, 72, 96];

    /// The label's headline: its ampere-hours over the longest time it states. [Ah], [h]
    ///
    /// # Errors
    /// [`NotForTraction`] when there is no capacity at all.
    pub fn headline(&self) -> Result<(AmpHours, Hours), NotForTraction> {
        self.ratings
            .iter()
            .max_by(|a, b| a.hours().value().total_cmp(&b.hours().value()))
            .map(|r| (r.amp_hours(self.nominal_voltage), r.hours()))
            .ok_or(NotForTraction)
    }

    /// Nominal voltage times headline ampere-hours. [Wh]
    ///
    /// # Errors
    /// [`NotForTraction`] when there is no capacity at all.
    pub fn energy(&self) -> Result<WattHours, NotForTraction> {
        Ok(self.nominal_voltage * self.headline()?.0)
    }

    /// Voltage at which one unit ends its discharge: its protection's, or the chemistry's. [V]
    pub fn end_voltage(&self) -> Volts {
        let chemistry_end = self.chemistry.end_cell() * f64::from(self.cells());
        self.low_voltage_cutoff.unwrap_or(chemistry_end)
    }
}
