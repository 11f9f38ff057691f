//! What a log teaches of the plan that stands now, and that plan with it or without.

use super::{Log, Owned, years};
use crate::learn::{Ageing, Driven, Learned};
use crate::pack::{Health, Pack, Taught};
use crate::plan::Plan;
use crate::rig::Pushes;
use jiff::civil::Date;

impl Log {
    /// The owned pack that the log is about: that of the latest outing, else the one bought last that is not retired.
    pub fn about(&self) -> Option<(i64, &Owned)> {
        let found = |id: i64| Some((id, self.pack(id)?));
        let latest = self.outings().rev().find_map(|(_, o)| found(o.of?));
        latest.or_else(|| self.owned().rev().find(|(_, o)| o.retired.is_none()))
    }

    /// What the latest trip under way with a pack like this one has taught of its units, as far as it holds on a day.
    pub fn taught_of(&self, pack: &Pack, today: Date) -> Option<Taught> {
        let told = self.outings().filter_map(|(id, o)| {
            let driven = o.pack().filter(|p| p.is_built_like(pack))?;
            Some((o.date, id, driven.taught.filter(|t| t.on == Some(o.date))?))
        });
        let (_, _, taught) = told.max_by_key(|(date, id, _)| (*date, *id))?;
        taught.by(today)
    }

    /// How that pack ages before anything is logged.
    pub fn ageing(&self) -> Ageing {
        self.about().map_or(Ageing::UNTOLD, |(_, owned)| owned.ageing())
    }

    /// What it teaches, by a day, of the rig of a plan as it is described now and of the pack that it is about.
    pub fn learned(&self, plan: &Plan, today: Date) -> Learned {
        let entries = self.entries(plan, self.about().map(|(id, _)| id));
        Learned::of_pack(&entries, years(today), self.ageing())
    }

    /// A plan with what was learnt in its rig, and in every pack of it that is built like the one the log is about.
    pub fn taught(&self, plan: &Plan, learned: &Learned, today: Date) -> Plan {
        let mut taught = plan.clone();
        let rig = &mut taught.rig;
        rig.motor.learned = learned.lesson(Driven::AtSettings, today);
        rig.craft.learned = Pushes {
            at_speed: learned.lesson(Driven::AtSpeed, today),
            holding: learned.lesson(Driven::Holding, today),
        };
        if let Some((_, owned)) = self.about()
            && let Some(health) = learned.health(owned.pack.health)
            && crate::allowed::CAPACITY_LEFT.check(health.capacity_share).is_ok()
        {
            let same = |p: &&mut Pack| p.is_built_like(&owned.pack);
            taught.packs.iter_mut().filter(same).for_each(|pack| pack.health = health);
        }
        taught
    }

    /// A plan without anything that a log taught: a pack is what its owner told of it.
    pub fn untaught(&self, plan: &Plan) -> Plan {
        let mut untaught = Plan { rig: plan.rig.unlearned(), ..plan.clone() };
        for pack in untaught.packs.iter_mut().filter(|p| p.health.doubt < 1.0) {
            let told = self.owned().find(|(_, o)| pack.is_built_like(&o.pack));
            pack.health = told.map_or(Health::NEW, |(_, o)| o.pack.health);
        }
        untaught
    }
}
