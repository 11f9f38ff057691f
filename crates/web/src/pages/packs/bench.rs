//! The packs that a page looks at, each judged once, with what one dead unit leaves of it.

use super::hand::{Built, is_small};
use super::opened::FailureRow;
use super::pack_of;
use super::page::Found;
use super::view::{PacksView, Which};
use crate::frame::judged::Judged;
use crate::frame::look::Look;
use crate::parts::decision::About;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::failing::one_fails;
use lake_hour_core::shelf::Battery;
use lake_hour_core::verdict::Course;
use lake_hour_store::BatteryId;
use std::collections::BTreeMap;
use std::sync::Arc;

/// Packs of the shelf with what is known of each.
pub(super) struct Bench<'a> {
    pub(super) plan: &'a Plan,
    labels: &'a BTreeMap<BatteryId, Battery>,
    course: &'a Course,
    pub(super) look: Look,
    view: &'a PacksView,
    judged: Vec<(Pack, Arc<Judged>)>,
}

impl<'a> Bench<'a> {
    pub(super) fn new(
        found: &'a Found,
        course: &'a Course,
        look: Look,
        view: &'a PacksView,
        wanted: &[Which],
    ) -> Self {
        let Found { plan, labels, .. } = found;
        let packs: Vec<Pack> = wanted
            .iter()
            .filter(|which| is_small(**which))
            .flat_map(|which| {
                let built = Built::of(plan, labels, *which, view).map(|built| built.pack);
                let sound = labels.get(&which.battery).map(|b| pack_of(plan, b, *which));
                let odd = built.filter(|built| Some(built) != sound.as_ref());
                sound.into_iter().chain(odd)
            })
            .collect();
        // What one dead unit leaves of those is judged with them.
        let left = packs.iter().filter_map(|p| Some(one_fails(p, &plan.rig)?.pack().clone()));
        // And what is aboard today, against which weights are told.
        let aboard = plan.aboard().cloned();
        let all: Vec<Pack> = packs.iter().cloned().chain(left).chain(aboard).collect();
        let mut with = plan.clone();
        let before = with.packs.len();
        with.packs.extend(all.iter().cloned());
        let judged = found.verdicts.of(&with.with_parts_counted()).into_iter().skip(before);
        Self { plan, labels, course, look, view, judged: std::iter::zip(all, judged).collect() }
    }

    pub(super) fn built(&self, which: Which) -> Option<Built> {
        Built::of(self.plan, self.labels, which, self.view)
    }

    /// All its units sound, whatever is built by hand.
    pub(super) fn sound(&self, which: Which) -> Option<Pack> {
        Some(pack_of(self.plan, self.labels.get(&which.battery)?, which))
    }

    pub(super) fn pack(&self, which: Which) -> Option<Pack> {
        Some(self.built(which)?.pack)
    }

    pub(super) fn judged(&self, pack: &Pack) -> Option<&Arc<Judged>> {
        self.judged.iter().find(|(known, _)| known == pack).map(|(_, judged)| judged)
    }

    /// What is aboard today.
    pub(super) fn aboard(&self) -> Option<&Arc<Judged>> {
        self.judged(self.plan.aboard()?)
    }

    pub(super) fn about<'b>(&'b self, pack: &'b Pack) -> About<'b> {
        let say = self.look.say(&self.plan.currency);
        About { plan: self.plan, pack, course: self.course, say }
    }

    pub(super) fn failure(&self, which: Which, rate: f64, this: bool) -> Option<FailureRow> {
        let pack = self.pack(which)?;
        let rest = one_fails(&pack, &self.plan.rig);
        let rest = rest.and_then(|rest| self.judged(rest.pack()).cloned());
        Some(FailureRow::of(&self.about(&pack), rest.as_deref().map(|j| &**j), rate, this))
    }
}
