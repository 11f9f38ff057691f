//! What goes into a day and what comes out of it.

use crate::drawdown::law::Cold;
use crate::drawdown::load::Demand;
use crate::units::{AmpHours, Amps, Hours, Volts, WattHours, Watts};

/// One stretch as the bank feels it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leg {
    /// How long. [h]
    pub hours: Hours,
    /// What is asked.
    pub demand: Demand,
    /// What the temperature does.
    pub cold: Cold,
    /// Whether the battery may be charged at this temperature.
    pub takes_charge: bool,
}

impl Leg {
    /// A stretch at the temperature that labels are rated at.
    pub const fn rated(hours: Hours, demand: Demand) -> Self {
        Self { hours, demand, cold: Cold::NONE, takes_charge: true }
    }
}

/// Levels to watch and limits that end the day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Guard {
    /// Charge share that stays in the battery for its life.
    pub floor: f64,
    /// Charge share below which the reserve for the way home is touched.
    pub reserve: f64,
    /// Current one string may carry without end; `None` when nothing opens. [A]
    pub continuous: Option<Amps>,
    /// Current at which a string opens at once; `None` when nothing opens. [A]
    pub peak: Option<Amps>,
    /// How long a current between the two is borne. [h]
    pub peak_for: Hours,
}

impl Guard {
    /// Nothing watched, nothing opens.
    pub const NONE: Self = Self {
        floor: f64::NEG_INFINITY,
        reserve: f64::NEG_INFINITY,
        continuous: None,
        peak: None,
        peak_for: Hours::ZERO,
    };
}

/// How the day ended. A day that ends early is a result, not an error.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Ended {
    /// All stretches were done.
    DayDone,
    /// Nothing left within reach, or at the voltage where a BMS or controller opens.
    Stopped {
        /// When. [h]
        at: Hours,
        /// What was asked, where it was more than the pack could give at any voltage from the first moment on. [W]
        too_much: Option<Watts>,
    },
    /// The BMS opened on current.
    Tripped {
        /// When. [h]
        at: Hours,
        /// Current in one string. [A]
        amps: Amps,
    },
}

/// The bank at one moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// When. [h]
    pub at: Hours,
    /// Share of the charge left.
    pub charge: f64,
    /// Pack voltage under the load just before; `None` while the cold holds all that is left. [V]
    pub volts: Option<Volts>,
    /// Mean pack current since the last point. [A]
    pub amps: Amps,
}

impl Point {
    #[inline(always)]
    pub(super) fn of(at: f64, charge: f64, volts: f64, amps: f64) -> Self {
        Self { at: Hours::of(at), charge, volts: Volts::try_new(volts).ok(), amps: Amps::of(amps) }
    }
}

/// What a day came to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Summary {
    /// How it ended.
    pub ended: Ended,
    /// Share of the charge left at the end, 0 to 1.
    pub charge_left: f64,
    /// What was taken beyond the label's ampere-hours, as a share of them: a slow draw may give more than the label promises.
    pub past_label: f64,
    /// When the floor was reached. [h]
    pub floor_at: Option<Hours>,
    /// Pack voltage under the load at that moment. [V]
    pub floor_volts: Option<Volts>,
    /// When the reserve was touched. [h]
    pub reserve_at: Option<Hours>,
    /// When the string of a weak unit opened and the others carried on. [h]
    pub string_out_at: Option<Hours>,
    /// Charge delivered. [Ah]
    pub delivered: AmpHours,
    /// Energy delivered. [Wh]
    pub energy: WattHours,
    /// Charge put in on the way. [Ah]
    pub charged: AmpHours,
    /// Energy put in on the way. [Wh]
    pub energy_in: WattHours,
    /// Lowest voltage under load; `None` when nothing was drawn. [V]
    pub lowest_voltage: Option<Volts>,
}
