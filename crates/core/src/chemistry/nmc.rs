//! Lithium nickel manganese cobalt oxide: every default is typical only, and where nothing else is known it is
//! LFP's.

use super::{Cell, ColdLaw, Facts, Heat, Ocv, lfp, ocv};
use crate::units::Volts;

/// Voltage under load at which a cell counts as empty. [V] Cell makers' datasheets give 2.5 to 3.0;
/// from memory.
const END: Volts = Volts::of(3.0);

/// Nominal volts of a cell from which a label means the mid-nickel family and not the nickel-rich one. (cp)
const MID_NICKEL_FROM: f64 = 3.65;

/// The open-circuit curve of the family that a label's nominal volts a cell name. [V]
pub(crate) fn family(nominal_cell: f64) -> Ocv {
    if nominal_cell >= MID_NICKEL_FROM {
        Ocv::Table(&ocv::MID_NICKEL, 0.0)
    } else {
        Ocv::Table(&ocv::NICKEL_RICH, 0.0)
    }
}

/// LFP's, but for the voltages, the energy in the weight and the shorter life.
pub(super) const FACTS: Facts = Facts {
    name: "NMC",
    nominal_cell: Volts::of(3.6),
    sold_cells: &[1, 2, 3, 4, 7, 10, 13, 14, 16, 17, 20, 24, 28],
    named_cells: &[3.6, 3.7],
    loaded_cell: Volts::of(3.7),
    full_charge_cell: Volts::of(4.20),
    charge_cell: (4.05, 4.20),
    absorption_cell: (4.10, 4.20),
    end_cell: END,
    floor: 0.15,
    cell: Cell { ocv: Ocv::Table(&ocv::NICKEL_RICH, 0.0), v_end: END.value(), ..lfp::FACTS.cell },
    // Fitted to a measured NCA cell: P. Kollmeyer, doi 10.17632/wykht8y7tg.1.
    cold: ColdLaw { locked: (0.07, 1.0), slows: 0.03 },
    heat: Some(Heat { joules: 20.0 }),
    cycles: &[(0.5, 2000.0), (0.8, 1000.0), (1.0, 600.0)],
    years: 8.0,
    continuous_rates: (2.0, 3.1, 10.0),
    burst_rate: 10.0,
    energy_per_kg: (120.0, 220.0),
    energy_ceiling: 300.0,
    energy_per_litre: 450.0,
    ..lfp::FACTS
};
