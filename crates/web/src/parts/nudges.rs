//! What-ifs as links.

use crate::figures;
use crate::frame::look::Look;
use crate::frame::view::{Fix, Nudge, View};
use lake_hour_core::day::{Duty, Stretch};
use lake_hour_core::plan::Plan;
use lake_hour_core::units::{Hours, MetresPerSecond};
use lake_hour_store::RigId;

/// A what-if, on or off.
pub(crate) struct NudgeLink {
    pub(crate) words: String,
    pub(crate) href: String,
    pub(crate) on: bool,
}

/// The what-ifs of a page.
pub(crate) fn nudges(rig: RigId, view: View, plan: &Plan, look: Look) -> Vec<NudgeLink> {
    let boat = plan.rig.craft.kind.is_boat();
    // A cart meets no current and little wind.
    let all = Nudge::ALL.into_iter().filter(|n| boat || *n != Nudge::Wind);
    let usual = all.map(|nudge| NudgeLink {
        words: nudge.words(look.units).to_owned(),
        href: View { nudges: view.nudges.toggled(nudge), ..view }.address(rig),
        on: view.nudges.has(nudge),
    });
    let fix = view.nudges.fix.map(|fix| NudgeLink {
        words: fix_words(fix, plan, look),
        href: View { nudges: view.nudges.with(None), ..view }.address(rig),
        on: true,
    });
    usual.chain(fix).collect()
}

/// "40 min less of Hold station 2", "home at 85 % of the speed", "for home by 12:00", "wind 6 mph".
pub(crate) fn fix_words(fix: Fix, plan: &Plan, look: Look) -> String {
    match fix {
        Fix::Fewer(at, less) => {
            let of = plan.day.stretches.get(at).map_or("a stretch", |s| s.name.as_str());
            format!("{} less of {of}", figures::duration(f64::from(less) / 60.0))
        }
        Fix::HomeAt(share) => {
            let way = if plan.rig.craft.kind.is_boat() { "home" } else { "the last way" };
            format!("{way} at {share} % of the speed")
        }
        Fix::TurnAt(at) => {
            let at = Hours::from_minutes(f64::from(at));
            format!("turn for home by {}", figures::clock(&plan.day, at, look.clock))
        }
        Fix::Wind(wind) => {
            let wind = MetresPerSecond::of(f64::from(wind) / 1000.0);
            format!("wind {} at most", figures::speed(wind, look.units))
        }
    }
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
