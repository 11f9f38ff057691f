//! From a decision to a working boat or cart: what must be bought, in which order it is done, what a meter must read on the
//! way, what else must change, and a card for the pocket.
//!
//! All of it is generated for one rig and one change of pack, and none of it is advice for a craft nobody looked at: local
//! codes, the makers' manuals and licensed practice come first.

pub mod card;
pub mod changes;
mod needs;
pub mod reading;
pub mod steps;

pub use crate::kept::{
    Build, ChargerPlace, MOST_OWN, OwnPart, PartKept, PartKey, PartState, StepKept, StepKey,
    StepState,
};
pub use crate::parts::{Needs, NotBuilt, Part, circuit};
pub use reading::Reading;
pub use steps::{Caution, Phase, Step, Tool};

use crate::keyed::keyed;
use crate::pack::Pack;
use crate::plan::Plan;
use crate::units::{Amps, Kilograms};
use crate::verdict::{Evaluation, Judge};
use crate::wiring::DANGEROUS;
use std::cell::OnceCell;

keyed! {
    /// What is exchanged for what.
    pub enum Change {
        /// Nothing is aboard yet.
        FirstFit,
        /// Lead goes, lithium comes.
        LeadToLithium,
        /// Lead goes, lead comes.
        LeadToLead,
        /// Lithium goes, lithium comes.
        LithiumToLithium,
        /// Lithium goes, lead comes.
        LithiumToLead,
    }
}

/// One change of pack on one rig: what all of the sheets are made of.
#[derive(Debug)]
pub struct Job<'a> {
    needs: Needs<'a>,
    /// All that is told of its day, worked out when it is first asked for: a list of parts needs none of it.
    evaluation: OnceCell<Evaluation>,
    judge: Judge,
}

impl<'a> std::ops::Deref for Job<'a> {
    type Target = Needs<'a>;

    fn deref(&self) -> &Needs<'a> {
        &self.needs
    }
}

/// The highest current of a pack's day; `None` where it is set aside. [A]
pub fn highest(evaluation: &Evaluation) -> Option<Amps> {
    Some(crate::verdict::highest(&evaluation.drawn.as_ref()?.points))
}

impl<'a> Job<'a> {
    /// The change of a plan's aboard pack for one of its others.
    ///
    /// # Errors
    /// [`NotBuilt`] where the pack cannot be used, what the day draws is not known, or no circuit can be laid and protected.
    pub fn of(plan: &'a Plan, pack: &'a Pack) -> Result<Self, NotBuilt> {
        let judge = plan.judge().map_err(NotBuilt::NoDraw)?;
        let needs = Needs::of(plan, pack, &judge)?;
        Ok(Self { needs, evaluation: OnceCell::new(), judge })
    }

    /// All that is told of its day.
    pub fn evaluation(&self) -> &Evaluation {
        self.evaluation.get_or_init(|| self.judge.in_full(self.pack))
    }

    /// What is exchanged for what.
    pub fn change(&self) -> Change {
        let new = self.pack.battery.chemistry.is_lead();
        match (self.aboard.map(|p| p.battery.chemistry.is_lead()), new) {
            (None, _) => Change::FirstFit,
            (Some(true), false) => Change::LeadToLithium,
            (Some(true), true) => Change::LeadToLead,
            (Some(false), false) => Change::LithiumToLithium,
            (Some(false), true) => Change::LithiumToLead,
        }
    }

    /// Lead is in or out of the craft in this work.
    pub fn handles_lead(&self) -> bool {
        self.pack.battery.chemistry.is_lead() || self.takes_lead_out()
    }

    /// Several units in series are aboard, off one of which 12 V devices may be tapped.
    pub fn may_be_tapped(&self) -> bool {
        self.aboard.is_some_and(|p| p.series > 1)
    }

    /// A pack of this work stands above 60 V when freshly charged: nothing here is told of how it is wired.
    pub fn is_dangerous(&self) -> bool {
        let high = |p: &Pack| p.full_charge_voltage() > DANGEROUS;
        high(self.pack) || self.aboard.is_some_and(high)
    }

    /// It stands above 60 V while it is equalized only.
    pub fn is_dangerous_when_equalized(&self) -> bool {
        let all = [Some(self.pack), self.aboard];
        let equalized = all.into_iter().flatten().filter_map(Pack::equalizing_voltage);
        !self.is_dangerous() && equalized.into_iter().any(|v| v > DANGEROUS)
    }

    /// How much heavier the craft gets by the batteries; below zero where it gets lighter. `None` without both labels'
    /// weight. [kg]
    pub fn heavier_by(&self) -> Option<Kilograms> {
        let before = self.aboard.map_or(Some(Kilograms::ZERO), Pack::mass)?;
        Some(self.pack.mass()? - before)
    }

    /// How the new pack is called where ticks of work done with it are kept: as long as that is the same, they hold.
    pub fn new_id(&self) -> String {
        id_of(self.pack)
    }

    /// The same of the pack that is taken out.
    pub fn old_id(&self) -> String {
        self.aboard.map_or_else(String::new, id_of)
    }
}

fn id_of(pack: &Pack) -> String {
    format!("{} {}s{}p", pack.battery.name, pack.series, pack.parallel)
}

impl Plan {
    /// The pack that is to be built, if one is chosen.
    pub fn chosen(&self) -> Option<&Pack> {
        self.packs.iter().find(|pack| pack.chosen)
    }
}
