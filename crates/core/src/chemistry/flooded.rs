//! Flooded (vented) lead-acid.

use super::{Acceptance, Facts, Spread, lead};

/// Flooded: lead in free acid that is topped up. What lead-acid has in common, with the cycles and the
/// self-discharge of this kind.
pub(super) const FACTS: Facts = Facts {
    name: "Flooded",
    // Equalising included.
    charge_cell: (2.33, 2.70),
    absorption_cell: (2.38, 2.50),
    // Textbooks: 1.2 to 1.3.
    peukert: 1.25,
    peukert_seen: (1.05, 1.35),
    cell: lead::cell(2.122, 0.205, 1.09),
    cycles: &[
        (0.1, 3500.0),
        (0.2, 2250.0),
        (0.3, 1650.0),
        (0.5, 1100.0),
        (0.8, 650.0),
        (1.0, 450.0),
    ],
    years: 5.0,
    self_discharge: (0.05, 0.15),
    acceptance: Acceptance {
        tail_end: 0.02,
        coulombic: 0.885,
        round_trip: 0.75,
        most: 0.20,
        ..lead::FACTS.acceptance
    },
    spread: Spread { e0: 0.024, fall: 0.28 },
    energy_per_kg: (30.0, 50.0),
    ..lead::FACTS
};
