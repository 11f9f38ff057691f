//! Absorbed glass mat, a sealed lead-acid.

use super::{Acceptance, Facts, lead};

/// Absorbed glass mat: lead whose acid sits in glass fleece. What lead-acid has in common, but for its low
/// resistance, its cycles, and the currents it gives and takes.
pub(super) const FACTS: Facts = Facts {
    name: "AGM",
    // Textbooks: 1.05 to 1.15.
    peukert: 1.10,
    peukert_seen: (1.03, 1.22),
    cell: lead::cell(2.145, 0.225, 0.62),
    cycles: &[(0.3, 1250.0), (0.5, 750.0), (0.8, 450.0), (1.0, 300.0)],
    years: 6.0,
    acceptance: Acceptance { most: 0.40, ..lead::FACTS.acceptance },
    burst_rate: 10.0,
    ..lead::FACTS
};
