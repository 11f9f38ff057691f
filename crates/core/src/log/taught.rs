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

    /// What the latest trip under way with a pack like this one has taught of its units, as it left it.
    pub fn taught_last(&self, pack: &Pack) -> Option<Taught> {
        let told = self.outings().filter_map(|(id, o)| {
            let driven = o.pack().filter(|p| p.is_built_like(pack))?;
            Some((o.date, id, driven.taught.filter(|t| t.on == Some(o.date))?))
        });
        told.max_by_key(|(date, id, _)| (*date, *id)).map(|(_, _, taught)| taught)
    }

    /// The same as far as it holds on a day.
    pub fn taught_of(&self, pack: &Pack, today: Date) -> Option<Taught> {
        self.taught_last(pack)?.by(today)
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

    /// A plan with what was learnt in its rig, and in every pack of it that is built like an owned one what was measured of that,
    /// or learnt of it where the log is about it.
    pub fn taught(&self, plan: &Plan, learned: &Learned, today: Date) -> Plan {
        let mut taught = plan.clone();
        let rig = &mut taught.rig;
        rig.motor.learned = learned.lesson(Driven::AtSettings, today);
        rig.craft.learned = Pushes {
            at_speed: learned.lesson(Driven::AtSpeed, today),
            holding: learned.lesson(Driven::Holding, today),
        };
        let about = self.about().map(|(id, _)| id);
        for (id, owned) in self.owned() {
            let measured = self.measured(plan, id, today);
            let by_outings = || learned.health(owned.pack.health).filter(|_| about == Some(id));
            let (health, weak) = match measured {
                Some(m) if m.capacity.is_some() => (m.health, m.weak.map(|(_, weak)| weak)),
                // A load test says how it resists, and its outings what it holds.
                Some(m) => {
                    let resistance_factor = m.health.resistance_factor;
                    let held = by_outings().unwrap_or(m.health);
                    (Health { resistance_factor, ..held }, owned.pack.weak_unit)
                }
                None => match by_outings() {
                    Some(health) => (health, owned.pack.weak_unit),
                    None => continue,
                },
            };
            if crate::allowed::CAPACITY_LEFT.check(health.capacity_share).is_err() {
                continue;
            }
            for pack in taught.packs.iter_mut().filter(|p| p.is_built_like(&owned.pack)) {
                (pack.health, pack.weak_unit) = (health, weak);
            }
        }
        taught
    }

    /// A plan without anything that a log taught: a pack is what its owner told of it.
    pub fn untaught(&self, plan: &Plan) -> Plan {
        let mut untaught = Plan { rig: plan.rig.unlearned(), ..plan.clone() };
        // A pack of which nothing was learnt is what somebody typed of it.
        for pack in untaught.packs.iter_mut().filter(|p| p.health.doubt < 1.0) {
            let told = self.owned().find(|(_, o)| pack.is_built_like(&o.pack));
            match told {
                Some((_, o)) => (pack.health, pack.weak_unit) = (o.pack.health, o.pack.weak_unit),
                None => pack.health = Health::NEW,
            }
        }
        untaught
    }
}
