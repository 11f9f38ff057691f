//! One pack on one rig, as far as its parts hang on it.

use crate::kept::ChargerPlace;
use crate::pack::limits::{self, SetAside};
use crate::pack::{Pack, stow};
use crate::plan::Plan;
use crate::units::{AmpHours, Amps};
use crate::verdict::{self, Judge, NoDrawCurve, devices_draw};
use crate::wiring::cable::NoCable;
use crate::wiring::{self, Asked, Charging, DANGEROUS, USUAL_SHEATH, Wiring, wire};

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

/// What a pack's parts hang on.
#[derive(Debug)]
pub struct Needs<'a> {
    /// The plan.
    pub plan: &'a Plan,
    /// What is put in.
    pub pack: &'a Pack,
    /// What is taken out; `None` where nothing is aboard, or it is this very pack.
    pub aboard: Option<&'a Pack>,
    /// Its ampere-hours over twenty hours. [Ah]
    pub capacity: AmpHours,
    /// What is asked of the wiring.
    pub asked: Asked,
    /// The circuit.
    pub wiring: Wiring,
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

impl<'a> Needs<'a> {
    /// What a pack needs on a plan, by its judge.
    ///
    /// # Errors
    /// [`NotBuilt`] where the pack cannot be used, or no circuit can be laid and protected.
    pub fn of(plan: &'a Plan, pack: &'a Pack, judge: &Judge) -> Result<Self, NotBuilt> {
        let (Some(highest), Some(capacity)) = (judge.highest(pack), verdict::capacity(pack)) else {
            return Err(NotBuilt::SetAside(limits::set_aside(pack, judge.rig())));
        };
        Self::drawn(plan, pack, highest, capacity)
    }

    /// The same where the highest current of its day and its ampere-hours over twenty hours are known already.
    ///
    /// # Errors
    /// [`NotBuilt`] where no circuit can be laid and protected.
    pub fn drawn(
        plan: &'a Plan,
        pack: &'a Pack,
        highest: Amps,
        capacity: AmpHours,
    ) -> Result<Self, NotBuilt> {
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
        Ok(Self { plan, pack, aboard, capacity, asked, wiring })
    }

    /// Where the charger is, as the owner says, else as is usual: carried to what is carried itself.
    pub fn charger_place(&self) -> ChargerPlace {
        self.plan.build.charger.unwrap_or_else(|| usual_place(self.plan))
    }

    /// The pack that is taken out is lead.
    pub fn takes_lead_out(&self) -> bool {
        self.aboard.is_some_and(|p| p.battery.chemistry.is_lead())
    }

    /// Devices for 12 V hang on a pack of more.
    pub fn needs_converter(&self) -> bool {
        let hang = self.plan.day.accessories.iter().any(|a| !a.on_house);
        hang && crate::verdict::is_converted(self.pack.voltage())
    }

    /// Bays that the pack's units stand in, as they are set out; 0 where that is not told.
    pub fn bays_used(&self) -> u32 {
        let stowage = stow::stow(&self.plan.rig, self.pack);
        let used = stowage.iter().flat_map(|s| &s.bays).filter(|b| !b.stowed.spots.is_empty());
        used.count() as u32
    }

    /// Lead goes into a bay that is closed off: it finds room there once the air does.
    pub fn needs_vent(&self) -> bool {
        if !self.pack.battery.chemistry.is_lead() {
            return false;
        }
        let mut open = self.plan.rig.clone();
        open.bays.iter_mut().for_each(|bay| bay.sealed = false);
        let stowage = stow::stow(&open, self.pack);
        let mut used = stowage.iter().flat_map(|s| &s.bays).filter(|b| !b.stowed.spots.is_empty());
        used.any(|b| self.plan.rig.bays.get(b.place).is_some_and(|bay| bay.sealed))
    }
}

/// A charger is carried to what is carried itself: kayak, canoe, rowing skiff. Common practice, no source.
fn usual_place(plan: &Plan) -> ChargerPlace {
    use crate::rig::CraftKind::{Canoe, Kayak, RowingSkiff};
    match plan.rig.craft.kind {
        Kayak | Canoe | RowingSkiff => ChargerPlace::Carried,
        _ => ChargerPlace::Aboard,
    }
}
