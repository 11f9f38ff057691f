//! What-ifs as links.

use crate::frame::view::{Nudge, View};
use lake_hour_core::day::{Duty, Stretch};
use lake_hour_core::plan::Plan;
use lake_hour_core::units::system::System;
use lake_hour_store::RigId;

/// A what-if, on or off.
pub(crate) struct NudgeLink {
    pub(crate) words: &'static str,
    pub(crate) href: String,
    pub(crate) on: bool,
}

/// The what-ifs of a page.
pub(crate) fn nudges(rig: RigId, view: View, boat: bool, units: System) -> Vec<NudgeLink> {
    // A cart meets no current and little wind.
    let all = Nudge::ALL.into_iter().filter(|n| boat || *n != Nudge::Wind);
    all.map(|nudge| NudgeLink {
        words: nudge.words(units),
        href: View { nudges: view.nudges.toggled(nudge), ..view }.address(rig),
        on: view.nudges.has(nudge),
    })
    .collect()
}

/// What a what-if leaves as it was, said plainly: a draw that its owner stated answers to no wind.
pub(crate) fn unmoved(view: View, plan: &Plan) -> Option<String> {
    let asked = view.nudges.has(Nudge::Wind) || view.nudges.has(Nudge::People);
    let stated =
        |s: &&Stretch| matches!(s.duty, Duty::Current(_) | Duty::Power(_) | Duty::Setting(_));
    match plan.day.stretches.iter().filter(stated).count() {
        0 => None,
        _ if !asked => None,
        1 => Some("One stretch is given by its draw or setting and stays as it is.".to_owned()),
        n => {
            Some(format!("{n} stretches are given by their draw or setting and stay as they are."))
        }
    }
}
