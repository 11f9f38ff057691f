//! Lithium iron phosphate, LiFePO4.

use super::{Acceptance, Cell, ColdLaw, Facts, Heat, Ocv, Rates, Spread, ocv};
use crate::units::Volts;

/// Voltage under load at which a cell counts as empty: 10.0 V of four. [V] Common in cell makers'
/// datasheets; from memory.
const END: Volts = Volts::of(2.5);

/// 385 Wh/kg of actives alone (169.9 and 372 mAh/g); nothing complete is credible above 200.
pub(super) const FACTS: Facts = Facts {
    name: "LFP",
    lead: false,
    nominal_cell: Volts::of(3.2),
    sold_cells: &[1, 2, 4, 8, 12, 15, 16, 20, 24, 30, 32],
    named_cells: &[3.2],
    loaded_cell: Volts::of(3.28),
    full_charge_cell: Volts::of(3.65),
    charge_cell: (3.45, 3.65),
    absorption_cell: (3.50, 3.65),
    end_cell: END,
    floor: 0.1,
    rating_hours: 5.0,
    // Textbooks: 1.01 to 1.05.
    peukert: 1.03,
    peukert_seen: (1.0, 1.06),
    // r: chosen on seven cells, three of them measured; docs/model.md has the errors. The rest [M].
    cell: Cell {
        ocv: Ocv::Table(&ocv::LFP, 0.0),
        r: 0.06,
        leads: 0.0,
        b: 0.0,
        rates: Rates::particles(0.0103),
        v_end: END.value(),
    },
    // What stays locked: the middle of datasheet ranges, from memory. How cold slows it: chosen on three simulated cells.
    cold: ColdLaw { locked: (0.12, 1.4), slows: 0.03 },
    resistance_at_freezing: 2.0,
    resistance_warm: 0.3,
    discharge_window: (-20.0, 60.0),
    charge_window: (0.0, 45.0),
    cycles: &[(0.5, 6500.0), (0.8, 4000.0), (1.0, 3000.0)],
    years: 10.0,
    self_discharge: (0.02, 0.04),
    acceptance: Acceptance {
        bulk_to: 0.95,
        tail_end: 0.05,
        coulombic: 0.995,
        round_trip: 0.945,
        most: 0.50,
    },
    continuous_rates: (1.0, 1.6, 5.0),
    burst_rate: 5.0,
    energy_per_kg: (80.0, 160.0),
    energy_ceiling: 200.0,
    energy_per_litre: 280.0,
    label_spread: (0.025, 0.031),
    spread: Spread { e0: 0.0, fall: 0.0 },
    // 12 kg for 100 Ah of four cells.
    heat: Some(Heat { joules: 30.0 }),
};
