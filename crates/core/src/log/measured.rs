//! What tests on the bench make of an owned pack: the one figure that Health, the Board and Under way count with.

use super::{Did, LoadVerdict, Log, Owned, years};
use crate::learn::{CAPACITY, FOUR_IN_FIVE, Factor, Learned};
use crate::numeric::median;
use crate::pack::{Health, Pack, WeakUnit};
use crate::plan::Plan;
use jiff::civil::Date;

/// What was measured of an owned pack.
#[derive(Debug, Clone, PartialEq)]
pub struct Measured {
    /// Its health: of its units but the weak one, where one is.
    pub health: Health,
    /// The unit that holds less than the others, counted from 1, and by how much.
    pub weak: Option<(u32, WeakUnit)>,
    /// The capacity of the pack as a whole, as a share of its label's: likely, and the ends between which it lies four times in
    /// five. `None` where only a resistance was measured.
    pub capacity: Option<[f64; 3]>,
    /// What the latest test found, as a share of the label, and when: its outings and its age since are in `capacity` as well.
    pub found: Option<(f64, Date)>,
    /// When the latest of it was measured.
    pub on: Date,
}

/// Two tests of the same within so many days that differ by more than so much clash: the one that fewer others bear out is passed
/// over, of two alike the higher. Estimates. [d], [1]
const TOGETHER: f64 = 120.0;
const APART: f64 = 0.05;
/// A discharge shorter than this says nothing of the capacity. Estimate. [h]
pub const SHORTEST_TEST: f64 = 0.25;
/// A unit that was tested holds less than the others from so much on. Three times what a test may be off.
const LESS: f64 = 0.045;
/// A unit resists more than the others from so many times on: IEEE 1188, from memory.
const RESISTS: f64 = 1.25;
/// A measured resistance is believed within these times what is usual.
const RESISTANCE: (f64, f64) = (0.5, 5.0);

/// A capacity that was found on the bench.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tested {
    /// Its entry in the log.
    pub id: i64,
    /// When.
    pub date: Date,
    /// The unit, counted from 1; the pack as a whole where not told.
    pub unit: Option<u32>,
    /// Capacity as a share of the label's.
    pub share: f64,
    /// Another test of the same differs and is better borne out: this one is passed over.
    pub passed_over: bool,
}

impl Log {
    /// Capacities of an owned pack and its units that were found on the bench, the earliest first.
    pub fn tested(&self, pack: i64) -> Vec<Tested> {
        let Some(owned) = self.pack(pack) else { return Vec::new() };
        let single = owned.pack.units() == 1;
        let found = self.tests().filter(|(_, t)| t.of == Some(pack)).filter_map(|(id, t)| {
            let Did::Capacity(test) = &t.did else { return None };
            if test.lasted.value() < SHORTEST_TEST {
                return None;
            }
            // The only unit is the pack.
            let unit = t.unit.filter(|_| !single);
            let one = match unit {
                Some(_) => Pack::of(owned.pack.battery.clone(), 1, 1),
                None => owned.pack.clone(),
            };
            let share = test.found(&one, 1.0).ok()?.share?;
            Some(Tested { id, date: t.date, unit, share, passed_over: false })
        });
        let mut all: Vec<Tested> = found.collect();
        let alike = |a: &Tested, b: &Tested| {
            a.unit == b.unit && (years(a.date) - years(b.date)).abs() * 365.25 <= TOGETHER
        };
        let near = |a: &Tested, b: &Tested| (a.share - b.share).abs() <= APART;
        let borne_out = |a: &Tested| all.iter().filter(|b| alike(a, b) && near(a, b)).count();
        let over: Vec<i64> = all
            .iter()
            .filter(|a| {
                let better = |b: &&Tested| {
                    let (mine, theirs) = (borne_out(a), borne_out(b));
                    theirs > mine || theirs == mine && b.share < a.share
                };
                all.iter().filter(|b| alike(a, b) && !near(a, b)).any(|b| better(&b))
            })
            .map(|t| t.id)
            .collect();
        all.iter_mut().for_each(|t| t.passed_over = over.contains(&t.id));
        all
    }

    /// What a resistance of the pack as a whole was over what is usual, by the latest load test that says it.
    fn resists(&self, pack: i64, owned: &Owned) -> Option<(Date, f64)> {
        self.tests().rev().find_map(|(_, t)| {
            let Did::Load(load) = &t.did else { return None };
            if t.of != Some(pack) || t.unit.is_some() && owned.pack.units() > 1 {
                return None;
            }
            let found = load.found(&owned.pack, owned.pack.series, owned.pack.parallel).ok()?;
            let usual = found.usual.value();
            let says = found.verdict != LoadVerdict::NotCharged && usual > 0.0;
            let times = found.resistance.value() / usual;
            (says && (RESISTANCE.0..=RESISTANCE.1).contains(&times)).then_some((t.date, times))
        })
    }

    /// What was measured of an owned pack by a day; `None` where nothing was.
    pub fn measured(&self, plan: &Plan, pack: i64, today: Date) -> Option<Measured> {
        let owned = self.pack(pack)?;
        let told = owned.pack.health;
        let all = self.tested(pack);
        let whole = all.iter().rfind(|t| t.unit.is_none() && !t.passed_over);
        let units = self.tested_units(pack);
        let resists = self.resists(pack, owned);
        let dates = whole.into_iter().chain(&units).map(|t| t.date);
        let on = dates.chain(resists.map(|r| r.0)).max()?;
        let learned =
            Learned::of_pack(&self.entries(plan, Some(pack)), years(today), owned.ageing());
        let by_whole = whole.and_then(|_| learned.health(told));
        let sound = self.sound_units(owned, &units);
        let weakest = units.iter().min_by(|a, b| a.share.total_cmp(&b.share)).map(|t| t.share);
        let share = sound.unwrap_or_else(|| {
            let believed = by_whole.map_or(told.capacity_share, |h| h.capacity_share);
            // A string gives what its weakest unit does: its others hold no less than that.
            weakest.map_or(believed, |w| believed.max(w))
        });
        let mut health = match (by_whole, sound) {
            (Some(health), None) => Health { capacity_share: share, ..health },
            (_, Some(_)) => Health { doubt: learned.still_after_a_test(), ..Health::at(share) },
            (None, None) => told,
        };
        if let Some((_, times)) = resists {
            health.resistance_factor = times;
        }
        let weak = self.weak_by_tests(pack, owned, &units, share);
        let given = weak.map_or(health.capacity_share, |(_, w)| w.capacity_share * share);
        let by_units = weak.is_some() || sound.is_some() || by_whole.is_none();
        let tested = whole.is_some() || !units.is_empty();
        let capacity = tested.then(|| {
            let sd = FOUR_IN_FIVE * CAPACITY;
            if by_units {
                [-sd, 0.0, sd].map(|off| given * (1.0 + off))
            } else {
                learned.factor(Factor::Capacity).map(|f| f * told.capacity_share)
            }
        });
        let by_unit = units.iter().map(|t| t.date).max().map(|on| (given, on));
        let found = whole.map(|t| (t.share, t.date)).filter(|_| !by_units).or(by_unit);
        Some(Measured { health, weak, capacity, found, on })
    }

    /// What the units hold but the weakest, by their tests: where all were tested, or more than two. Units that nobody tested are
    /// what the pack was told to be, or was found to be as a whole.
    fn sound_units(&self, owned: &Owned, units: &[Tested]) -> Option<f64> {
        let all_tested = units.len() == owned.pack.units() as usize;
        let weakest = units.iter().min_by(|a, b| a.share.total_cmp(&b.share))?.unit;
        let others = units.iter().filter(|t| t.unit != weakest).map(|t| t.share).collect();
        median(others).filter(|_| all_tested || units.len() > 2)
    }

    /// The unit that tests find to hold less than the share that its others do, with the resistance that was read of it, else with what
    /// such wear brings.
    fn weak_by_tests(
        &self,
        pack: i64,
        owned: &Owned,
        units: &[Tested],
        share: f64,
    ) -> Option<(u32, WeakUnit)> {
        let weakest = units.iter().min_by(|a, b| a.share.total_cmp(&b.share))?;
        let unit = weakest.unit.filter(|_| owned.pack.units() > 1)?;
        let capacity_share = weakest.share / share;
        let read = self.unit_times(pack).into_iter().find(|r| r.0 == unit).map(|r| r.1);
        let worn = Health::at(capacity_share).resistance_factor;
        let resistance_factor = read.map_or(worn, |times| times.max(1.0));
        (weakest.share < share - LESS)
            .then_some((unit, WeakUnit { capacity_share, resistance_factor }))
    }

    /// Units whose resistance, read last, was over the others' by so many times that it tells, counted from 1.
    fn unit_times(&self, pack: i64) -> Vec<(u32, f64)> {
        let read = self.tests().rev().find_map(|(_, t)| match &t.did {
            Did::Resistances(ohms) if t.of == Some(pack) && ohms.len() > 1 => Some(ohms),
            _ => None,
        });
        let Some(ohms) = read else { return Vec::new() };
        let all: Vec<f64> = ohms.iter().map(|r| r.value()).collect();
        let Some(usual) = median(all.clone()).filter(|m| *m > 0.0) else { return Vec::new() };
        let each = (1..).zip(all).map(|(n, r)| (n, r / usual));
        each.filter(|(_, times)| *times >= RESISTS).collect()
    }
}
