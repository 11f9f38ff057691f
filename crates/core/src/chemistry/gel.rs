//! Gelled electrolyte, a sealed lead-acid.

use super::{Facts, lead};

/// Gel: lead whose acid is thickened. What lead-acid has in common, with the gentler charge it asks for.
pub(super) const FACTS: Facts = Facts {
    name: "Gel",
    charge_cell: (2.30, 2.40),
    absorption_cell: (2.33, 2.37),
    // Textbooks: 1.1 to 1.25.
    peukert: 1.17,
    peukert_seen: (1.05, 1.25),
    cell: lead::cell(2.140, 0.225, 0.71),
    cycles: &[(0.3, 1500.0), (0.5, 850.0), (0.8, 525.0), (1.0, 375.0)],
    years: 7.0,
    energy_per_kg: (28.0, 42.0),
    energy_per_litre: 95.0,
    ..lead::FACTS
};
