//! What the three kinds of lead-acid have in common; each changes what is its own.

use super::{Acceptance, Cell, ColdLaw, Facts, Ocv, Rates, Spread};
use crate::units::Volts;

/// Voltage under load at which a cell counts as empty: 10.5 V of a 12 V battery. [V] The end of the
/// 20-hour rating in makers' datasheets, BCI and IEC 60254-1 alike; from memory.
const END: Volts = Volts::of(1.75);

/// Lead-acid as far as its kinds are alike.
///
/// Faraday's law asks 11.99 g of lead, lead dioxide and acid for an ampere-hour of a cell, 170 Wh/kg at
/// 2.04 V of actives alone; batteries reach 45 % of it at best.
pub(super) const FACTS: Facts = Facts {
    name: "Lead",
    lead: true,
    nominal_cell: Volts::of(2.0),
    sold_cells: &[],
    named_cells: &[2.0],
    loaded_cell: Volts::of(2.06),
    full_charge_cell: Volts::of(2.45),
    charge_cell: (2.33, 2.47),
    absorption_cell: (2.38, 2.47),
    end_cell: END,
    floor: 0.5,
    rating_hours: 20.0,
    peukert: 1.17,
    peukert_seen: (1.05, 1.25),
    cell: cell(2.140, 0.225, 0.71),
    cold: ColdLaw { locked: (0.138, 1.66), slows: 0.0 },
    resistance_at_freezing: 1.5,
    resistance_warm: 1.0,
    discharge_window: (-30.0, 50.0),
    charge_window: (-20.0, 50.0),
    cycles: &[],
    years: 6.0,
    self_discharge: (0.02, 0.04),
    acceptance: Acceptance {
        bulk_to: 0.82,
        tail_end: 0.0075,
        coulombic: 0.945,
        round_trip: 0.835,
        most: 0.30,
    },
    continuous_rates: (1.0, 1.05, 3.0),
    burst_rate: 5.0,
    energy_per_kg: (28.0, 46.0),
    energy_ceiling: 76.5,
    energy_per_litre: 110.0,
    label_spread: (0.05, 0.062),
    spread: Spread { e0: 0.020, fall: 0.27 },
    heat: None,
};

/// Resistance of a lead cell by what a current of one 20-hour capacity an hour puts out of its reach: thick plates resist
/// more. [V h]
///
/// `r = 0.04 + 0.05 a`: chosen of five forms on simulated cells of five builds (pybamm 26.10.1.1, Sulzer2019), all of them seen.
pub(crate) const fn resists(a: f64) -> f64 {
    0.04 + 0.05 * a
}

/// A lead cell. `a` fitted to makers' rate tables [M]. `E0` and the fall `D` from full to the label's last ampere-hour are the
/// middle of published resting tables, from memory; units of one kind differ by [`Spread`](super::Spread). docs/model.md has
/// the errors.
pub(super) const fn cell(e0: f64, fall: f64, a: f64) -> Cell {
    let (ocv, rates) = (Ocv::Linear { e0, a: fall }, Rates::acid(a));
    Cell { ocv, r: resists(a), leads: 0.0, b: 0.0, rates, v_end: END.value() }
}
