//! Will they fit: the Board's packs in the rig's bays, all to one scale.

use crate::figures;
use crate::parts::fit::{FitView, MOST_PACKS};
use lake_hour_core::pack::stow;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::system::{Measure, System};

/// The Board's packs in their bays.
#[derive(Debug, Clone)]
pub(super) struct FitsView {
    pub(super) fits: Vec<FitView>,
    /// Packs that are not drawn, there being so many.
    pub(super) undrawn: usize,
    pub(super) has_bays: bool,
    /// Room left around and above each unit, in the units shown.
    pub(super) clearances: (String, String),
}

impl FitsView {
    pub(super) fn of(plan: &Plan, units: System) -> Self {
        let drawn = plan.packs.iter().take(MOST_PACKS);
        Self {
            fits: drawn.filter_map(|p| FitView::of(&plan.rig, p, units)).collect(),
            undrawn: plan.packs.len().saturating_sub(MOST_PACKS),
            has_bays: !plan.rig.bays.is_empty(),
            clearances: clearances(units),
        }
    }
}

fn clearances(units: System) -> (String, String) {
    let side =
        |mm: f64| figures::measure(units, Measure::Side, mm, usize::from(units != System::Metric));
    (side(stow::AIR), side(stow::ABOVE))
}
