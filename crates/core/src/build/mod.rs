//! From a decision to a working boat or cart: what must be bought, in which order it is done, what a meter must read on the
//! way, what else must change, and a card for the pocket.
//!
//! All of it is generated for one rig and one change of pack, and none of it is advice for a craft nobody looked at: local
//! codes, the makers' manuals and licensed practice come first.

pub mod card;
pub mod changes;
mod needs;
pub mod parts;
pub mod prices;
pub mod reading;
pub mod steps;
pub mod terminal;

pub use crate::kept::{
    Build, ChargerPlace, MOST_OWN, OwnPart, PartKept, PartKey, PartState, StepKept, StepKey,
    StepState,
};
pub use parts::Part;
pub use reading::Reading;
pub use steps::{Caution, Phase, Step, Tool};

use crate::keyed::keyed;
use crate::pack::Pack;
use crate::pack::limits::{self, SetAside};
use crate::plan::Plan;
use crate::units::{AmpHours, Amps, Kilograms};
use crate::verdict::{self, Evaluation, Judge, NoDrawCurve, devices_draw};
use crate::wiring::cable::NoCable;
use crate::wiring::{self, Asked, Charging, DANGEROUS, USUAL_SHEATH, Wiring, wire};
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

/// Why nothing can be built of a pack.
#[derive(Debug, Clone, PartialEq)]
pub enum NotBuilt {
    /// It cannot be used on this rig.
    SetAside(Vec<SetAside>),
    /// What the day draws is not known.
    NoDraw(NoDrawCurve),
    /// Nobody has told the most that the motor draws, which cables, fuse and switch hang on.
    NoHighest,
    /// No cable is sold for it, or no fuse that would protect it: nobody is told how to join it without.
    NoCircuit(NoCable),
}

/// One change of pack on one rig: what all of the sheets are made of.
#[derive(Debug)]
pub struct Job<'a> {
    /// The plan.
    pub plan: &'a Plan,
    /// What is put in.
    pub pack: &'a Pack,
    /// What is taken out; `None` where nothing is aboard, or it is this very pack.
    pub aboard: Option<&'a Pack>,
    /// Its ampere-hours over twenty hours. [Ah]
    pub capacity: AmpHours,
    /// All that is told of its day, worked out when it is first asked for: a list of parts needs none of it.
    evaluation: OnceCell<Evaluation>,
    judge: Judge,
    /// What is asked of the wiring.
    pub asked: Asked,
    /// The circuit.
    pub wiring: Wiring,
}

/// The highest current of a pack's day; `None` where it is set aside. [A]
pub fn highest(evaluation: &Evaluation) -> Option<Amps> {
    let points = &evaluation.drawn.as_ref()?.points;
    Some(points.iter().map(|p| p.amps).fold(Amps::ZERO, Amps::max))
}

/// A pack's circuit, for the highest current of its day. A breaker stands in it as told, else by the rule of the house.
pub fn circuit(
    plan: &Plan,
    pack: &Pack,
    highest: Amps,
    breaker: Option<bool>,
) -> (Asked, Result<Wiring, NoCable>) {
    let takes = devices_draw(&plan.rig, &plan.day);
    let most = wiring::most(&plan.rig, takes).map_or(highest, |most| most.max(highest));
    let asked = Asked {
        // Less than an ampere is laid for one.
        most: most.max(Amps::of(1.0)),
        today: highest,
        breaker: breaker.unwrap_or_else(|| breaker_by_rule(plan, pack)),
        devices: takes / pack.voltage(),
        charging: Charging::of(&plan.rig, pack),
        insulation: USUAL_SHEATH.0,
        place: USUAL_SHEATH.1,
    };
    (asked, wire(&plan.rig, pack, &asked))
}

/// Whether a breaker stands besides the fuse: always, but where the house trusts the BMS and there is one.
pub const fn breaker_by_rule(plan: &Plan, pack: &Pack) -> bool {
    !plan.rules.bms_is_enough || pack.battery.chemistry.is_lead()
}

impl<'a> Job<'a> {
    /// The change of a plan's aboard pack for one of its others.
    ///
    /// # Errors
    /// [`NotBuilt`] where the pack cannot be used, what the day draws is not known, or no circuit can be laid and protected.
    pub fn of(plan: &'a Plan, pack: &'a Pack) -> Result<Self, NotBuilt> {
        let judge = plan.judge().map_err(NotBuilt::NoDraw)?;
        let (Some(highest), Some(capacity)) = (judge.highest(pack), verdict::capacity(pack)) else {
            return Err(NotBuilt::SetAside(limits::set_aside(pack, judge.rig())));
        };
        if plan.rig.motor.full_current().is_none() {
            return Err(NotBuilt::NoHighest);
        }
        let (asked, wiring) = circuit(plan, pack, highest, None);
        let wiring = wiring.map_err(NotBuilt::NoCircuit)?;
        if wiring.lead.fuse.is_none() && pack.full_charge_voltage() <= DANGEROUS {
            return Err(NotBuilt::NoCircuit(NoCable::Fuse));
        }
        // The one that is put in may be said to be aboard already.
        let aboard = plan.aboard().filter(|aboard| !pack.aboard && **aboard != *pack);
        let evaluation = OnceCell::new();
        Ok(Self { plan, pack, aboard, capacity, evaluation, judge, asked, wiring })
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

    /// The pack that is taken out is lead.
    pub fn takes_lead_out(&self) -> bool {
        self.aboard.is_some_and(|p| p.battery.chemistry.is_lead())
    }

    /// Several units in series are aboard, off one of which 12 V devices may be tapped.
    pub fn may_be_tapped(&self) -> bool {
        self.aboard.is_some_and(|p| p.series > 1)
    }

    /// Where the charger is, as the owner says, else as is usual: carried to what is carried itself.
    pub fn charger_place(&self) -> ChargerPlace {
        self.plan.build.charger.unwrap_or_else(|| usual_place(self.plan))
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

/// A charger is carried to what is carried itself: kayak, canoe, rowing skiff. Common practice, no source.
fn usual_place(plan: &Plan) -> ChargerPlace {
    use crate::rig::CraftKind::{Canoe, Kayak, RowingSkiff};
    match plan.rig.craft.kind {
        Kayak | Canoe | RowingSkiff => ChargerPlace::Carried,
        _ => ChargerPlace::Aboard,
    }
}

impl Plan {
    /// The pack that is to be built, if one is chosen.
    pub fn chosen(&self) -> Option<&Pack> {
        self.packs.iter().find(|pack| pack.chosen)
    }

    /// The plan as its money counts: what the chosen pack takes beside its batteries is what its list of parts comes to,
    /// and not what was guessed before, unless the owner wants it otherwise. Labour and disposal stay.
    pub fn with_parts_counted(&self) -> std::borrow::Cow<'_, Self> {
        let place = self.packs.iter().position(|pack| pack.chosen).filter(|_| self.build.counted);
        let Some(place) = place else { return std::borrow::Cow::Borrowed(self) };
        let Ok(job) = Job::of(self, &self.packs[place]) else {
            return std::borrow::Cow::Borrowed(self);
        };
        let list = parts::List::of(&job);
        let mut plan = self.clone();
        let pack = &mut plan.packs[place];
        pack.extras = list.extras(&pack.extras);
        std::borrow::Cow::Owned(plan)
    }
}
