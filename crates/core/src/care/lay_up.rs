//! The months in which it is not used.

use super::tonight::RESTS_AT;
use crate::drawdown::temperature::{discharge_window, freezes_at};
use crate::life::Stored;
use crate::log::Owned;
use crate::units::{Amps, Celsius, Volts};

/// A month of rest.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Month {
    /// Months since it was laid up.
    pub after: u32,
    /// Charge left, 0 to 1; nothing once it is flat.
    pub charge: Option<f64>,
    /// Rested volts of a 12 V unit of lead, or of the unit's own volts. [V]
    pub volts: Option<Volts>,
}

/// What comes of laying it up.
#[derive(Debug, Clone, PartialEq)]
pub struct LayUp {
    /// Charge to lay it up at, 0 to 1.
    pub at: f64,
    /// Month by month.
    pub months: Vec<Month>,
    /// Months until lead is charged again at the latest, under 12.4 V a 12 V unit, or lithium's BMS goes to sleep; `None` when
    /// that is more than two years off.
    pub until: Option<f64>,
    /// Months between charges.
    pub top_up: f64,
    /// Something drains it that is best taken off: months until it is flat by that.
    pub drained_in: Option<f64>,
    /// It gets colder than it bears: the least that its maker allows. [°C]
    pub too_cold: Option<Celsius>,
    /// Lead that is down to its floor freezes at this. [°C]
    pub freezes_at: Option<Celsius>,
}

/// Rested volts of a cell of lead under which it is charged again: 12.4 V of six. Common practice, no source.
const LEAST_CELL: f64 = 12.4 / 6.0;
/// Charge below which a BMS may go to sleep. Estimate.
const SLEEPS: f64 = 0.05;
/// Months between charges in storage at the most. Common practice, no source.
const TOP_UP: f64 = 3.0;
/// Looked ahead. [months]
const LONGEST: f64 = 24.0;

/// What some months of rest make of a pack, kept at a temperature with what drains it, and at the coldest there.
pub fn lay_up(
    owned: &Owned,
    months: u32,
    kept_at: Celsius,
    coldest: Celsius,
    drain: Amps,
) -> LayUp {
    let battery = &owned.pack.battery;
    let facts = battery.chemistry.facts();
    let at = if facts.lead { 1.0 } else { RESTS_AT };
    let left = |after: f64, drain: Amps| match owned.stored(at, after, kept_at, drain) {
        Stored::Left(charge) => Some(charge),
        Stored::Flat | Stored::Ruined => None,
    };
    let cells = f64::from(battery.cells());
    let low = |charge: f64| match facts.lead {
        true => facts.cell.ocv.at(charge) < LEAST_CELL,
        false => charge < SLEEPS,
    };
    let fine = |after: f64| left(after, drain).is_some_and(|charge| !low(charge));
    let until = (!fine(LONGEST)).then(|| crate::numeric::halved((0.0, LONGEST), 40, fine).0);
    let flat = |after: f64| left(after, drain).is_some();
    let drained_in = (drain > Amps::ZERO && !flat(LONGEST))
        .then(|| crate::numeric::halved((0.0, LONGEST), 40, flat).0);
    let window = discharge_window(battery);
    let least = facts.discharge_window.0;
    LayUp {
        at,
        months: (0..=months)
            .map(|after| {
                let charge = left(f64::from(after), drain);
                let volts = charge
                    .filter(|_| facts.lead)
                    .map(|charge| Volts::of(facts.cell.ocv.at(charge) * cells));
                Month { after, charge, volts }
            })
            .collect(),
        top_up: until.map_or(TOP_UP, |until| until.min(TOP_UP)),
        until,
        drained_in,
        too_cold: (!window.allows(coldest) && coldest.value() < least)
            .then_some(Celsius::of(least)),
        freezes_at: facts.lead.then(|| freezes_at(facts.floor)),
    }
}
