//! Which unit strays: by volts of all units at one moment, and by their charges after several outings.

use crate::learn::{FOUR_IN_FIVE, above};
use crate::log::{Did, Log};
use crate::pack::Pack;
use crate::units::{Ohms, Volts};
use jiff::civil::Date;

/// A unit by how far it lies below the others.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ranked {
    /// Which unit, counted from 1.
    pub unit: u32,
    /// Its volts. [V]
    pub volts: Volts,
    /// How far below the middle of the others. [V]
    pub below: f64,
    /// The same in points of charge, 0 to 1; of lead only.
    pub charge_below: Option<f64>,
    /// Whether that is more than readings and sound units differ by.
    pub strays: bool,
}

/// Rested volts of two sound 12 V units differ by less than this. [V] Common practice, no source; in proportion to the volts.
const APART: f64 = 0.15;

/// The units of a pack by volts that were read after the same rest, the lowest first. Two units are ranked; which of them is
/// the odd one, two alone cannot tell.
pub fn by_volts(pack: &Pack, volts: &[Volts]) -> Vec<Ranked> {
    let facts = pack.battery.chemistry.facts();
    let cells = f64::from(pack.battery.cells());
    let apart = APART * pack.battery.nominal_voltage.value() / 12.0;
    let mut all: Vec<Ranked> = volts
        .iter()
        .enumerate()
        .map(|(n, v)| {
            let all: Vec<f64> = volts.iter().map(|v| v.value()).collect();
            let middle = middle_of_others(&all, n).unwrap_or(v.value());
            let share = |v: f64| facts.cell.ocv.share_at(v / cells);
            let below = middle - v.value();
            Ranked {
                unit: n as u32 + 1,
                volts: *v,
                below,
                charge_below: facts.lead.then(|| share(middle) - share(v.value())),
                strays: below > apart,
            }
        })
        .collect();
    all.sort_by(|a, b| b.below.total_cmp(&a.below).then(a.unit.cmp(&b.unit)));
    all
}

/// The middle of all but one; `None` where there is no other.
fn middle_of_others(all: &[f64], but: usize) -> Option<f64> {
    let others = all.iter().enumerate().filter(|(n, _)| *n != but).map(|(_, v)| *v);
    middle(others.collect())
}

fn middle(mut all: Vec<f64>) -> Option<f64> {
    all.sort_by(f64::total_cmp);
    match all.len() {
        0 => None,
        len if len % 2 == 1 => Some(all[len / 2]),
        len => Some(0.5 * (all[len / 2 - 1] + all[len / 2])),
    }
}

/// Charges of all units of a pack at one moment, in order.
#[derive(Debug, Clone, PartialEq)]
pub struct Charges {
    /// When.
    pub date: Date,
    /// Of each, 0 to 1.
    pub shares: Vec<f64>,
    /// Told by rested volts, not by meters of their own.
    pub by_volts: bool,
}

impl Charges {
    /// How far each of them may be off: one standard deviation.
    const fn unsure(&self) -> f64 {
        if self.by_volts { BY_VOLTS } else { BY_METER }
    }
}

/// What outings say of one unit beside the others.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Straying {
    /// Which unit, counted from 1.
    pub unit: u32,
    /// Its capacity over that of the others: likely, and the ends between which it lies four times in five.
    pub capacity: [f64; 3],
    /// How far below the others it stands when all are full, 0 to 1.
    pub below_full: f64,
    /// It falls behind by more than readings do by chance: it is the weak one.
    pub weak: bool,
    /// It falls behind as little as readings do by chance, but stands below the others even at full: it wants to be charged
    /// alone.
    pub low: bool,
}

/// How far a unit's charge is off by its own meter, and by rested volts. Estimates.
const BY_METER: f64 = 0.02;
const BY_VOLTS: f64 = 0.06;
/// Sound units of one kind differ by so much. Estimate.
const SOUND: f64 = 0.02;
/// A unit is called weak from so much more drop than the others on, where chance alone does so in one pack of a hundred, and two
/// days show it.
const WEAKER: f64 = 0.08;
const BY_CHANCE: f64 = 0.01;
const SHOWN: f64 = 0.05;
/// Above this all are taken for full; so many such readings tell how far meters stand apart.
const FULL: f64 = 0.95;
const RESTS: usize = 3;
/// Less than this is no outing.
const SHALLOW: f64 = 0.05;
/// No unit holds so many times what the others do.
const MOST_OVER: f64 = 3.0;
/// Drops known no better than this say nothing yet.
const UNCLEAR: f64 = 0.5;
/// Steps in which a wild reading is weighed down, as by Student's t with four degrees of freedom.
const STEPS: usize = 10;

/// Units by how far they fall behind the others, the weakest first; empty for fewer than two units or readings after use.
///
/// `e = b x` in each reading, `e` a unit's drop less the median `x` of the others', fitted with weights `5 / (4 + z²)`; its
/// capacity over theirs is `1 / (1 + b)`. What units stand apart at full is taken off first. Of two units none is called weak:
/// which of them is the odd one, two cannot tell.
pub fn strays(readings: &[Charges]) -> Vec<Straying> {
    let Some(units) = readings.last().map(|r| r.shares.len()).filter(|n| *n > 1) else {
        return Vec::new();
    };
    let readings: Vec<&Charges> = readings.iter().filter(|r| r.shares.len() == units).collect();
    let is_full = |r: &&&Charges| middle(r.shares.clone()).is_some_and(|m| m >= FULL);
    let rests: Vec<&Charges> = readings.iter().filter(is_full).copied().collect();
    let used: Vec<&Charges> = readings.iter().filter(|r| !is_full(r)).copied().collect();
    let count = units as f64;
    // The middle of few is itself unsure.
    let of_few = if units <= 3 { 1.0 + 1.0 / (count - 1.0) } else { 1.0 + 1.57 / (count - 1.0) };
    let mut all: Vec<Straying> = (0..units)
        .filter_map(|n| {
            let below: Vec<f64> = rests
                .iter()
                .filter_map(|r| Some(middle_of_others(&r.shares, n)? - r.shares[n]))
                .collect();
            let below_full = if below.len() < RESTS {
                0.0
            } else {
                below.iter().sum::<f64>() / below.len() as f64
            };
            let points: Vec<(f64, f64, f64)> = used
                .iter()
                .filter_map(|r| {
                    let others = middle_of_others(&r.shares, n)?;
                    let x = (1.0 - others).max(SHALLOW);
                    Some((x, others - r.shares[n] - below_full, r.unsure()))
                })
                .collect();
            if points.is_empty() {
                return None;
            }
            let (b, known, lever) = fitted(&points);
            // What was taken off is itself read no better.
            let taken_off = match (below.len() < RESTS, rests.last()) {
                (false, Some(rest)) => rest.unsure() * lever / (below.len() as f64).sqrt(),
                _ => 0.0,
            };
            let own = 1.0 / known + SOUND * SOUND + taken_off * taken_off;
            let sd = (of_few * own).sqrt();
            // One that hardly falls while the others do is misread, or was charged apart: it tells no capacity.
            if FOUR_IN_FIVE * sd > UNCLEAR || 1.0 + b - FOUR_IN_FIVE * sd < 1.0 / MOST_OVER {
                return None;
            }
            let by_chance = above(b / sd);
            let shown = points.iter().filter(|(x, e, _)| e / x > SHOWN).count() > 1;
            let capacity =
                [FOUR_IN_FIVE, 0.0, -FOUR_IN_FIVE].map(|side| 1.0 / (1.0 + b + side * sd));
            let weak = units > 2 && shown && b >= WEAKER && by_chance < BY_CHANCE / count;
            let low = !weak && below_full > 2.0 * BY_METER;
            let unit = n as u32 + 1;
            Some(Straying {
                unit,
                capacity: [capacity[1], capacity[0], capacity[2]],
                below_full,
                weak,
                low,
            })
        })
        .collect();
    all.sort_by(|a, b| a.capacity[0].total_cmp(&b.capacity[0]).then(a.unit.cmp(&b.unit)));
    all
}

/// Slope of `e` on `x` through nothing, the sum of the weights by which it is known, and by how much it changes with every `e`.
fn fitted(points: &[(f64, f64, f64)]) -> (f64, f64, f64) {
    let (mut b, mut known, mut lever) = (0.0, 0.0, 0.0);
    for step in 0..STEPS {
        let (mut over, mut under, mut sum) = (0.0, 0.0, 0.0);
        for (x, e, sd) in points {
            let z = (e - b * x) / sd;
            // The first step believes all alike.
            let weight = if step == 0 { 1.0 } else { 5.0 / (4.0 + z * z) } / (sd * sd);
            over += weight * x * e;
            under += weight * x * x;
            sum += weight * x;
        }
        (b, known, lever) = (over / under, under, sum / under);
    }
    (b, known, lever)
}

/// A unit by its resistance.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Resisting {
    /// Which unit, counted from 1.
    pub unit: u32,
    /// What was read last.
    pub now: Ohms,
    /// Over its own first reading, or over the middle of the others where that is the only one.
    pub times: f64,
    /// It is held against its own first reading.
    pub by_own: bool,
}

/// Times its baseline from which a unit is looked into, and replaced. IEEE 1188, from memory: 25 % and 50 %.
pub const RISEN: (f64, f64) = (1.25, 1.5);

impl Log {
    /// Since when the units of an owned pack are where they are.
    fn units_since(&self, pack: i64) -> Option<Date> {
        self.pack(pack)?.units.iter().filter_map(|u| u.since).max()
    }

    /// Charges of all units of an owned pack, the earliest first, since one of them was changed last: by their own meters, or
    /// by the rested volts of lead.
    pub fn unit_charges(&self, pack: i64) -> Vec<Charges> {
        let Some(owned) = self.pack(pack) else { return Vec::new() };
        let since = self.units_since(pack);
        let battery = &owned.pack.battery;
        let facts = battery.chemistry.facts();
        let cells = f64::from(battery.cells());
        let of = self.tests().map(|(_, t)| t).filter(|t| t.of == Some(pack) && t.unit.is_none());
        let of = of.filter(|t| since.is_none_or(|since| t.date >= since));
        of.filter_map(|t| match &t.did {
            Did::Charges(shares) => {
                Some(Charges { date: t.date, shares: shares.clone(), by_volts: false })
            }
            Did::Volts(volts) if facts.lead => {
                let shares = volts.iter().map(|v| facts.cell.ocv.share_at(v.value() / cells));
                Some(Charges { date: t.date, shares: shares.collect(), by_volts: true })
            }
            _ => None,
        })
        .collect()
    }

    /// The units of an owned pack by their resistance, as read last; with the day. `None` where none was read.
    pub fn unit_resistances(&self, pack: i64) -> Option<(Date, Vec<Resisting>)> {
        let since = self.units_since(pack);
        let read: Vec<(Date, &Vec<Ohms>)> = self
            .tests()
            .filter(|(_, t)| t.of == Some(pack) && since.is_none_or(|since| t.date >= since))
            .filter_map(|(_, t)| match &t.did {
                Did::Resistances(ohms) => Some((t.date, ohms)),
                _ => None,
            })
            .collect();
        let (date, last) = read.last()?;
        let first = read.first().filter(|(_, f)| read.len() > 1 && f.len() == last.len());
        let values: Vec<f64> = last.iter().map(|r| r.value()).collect();
        let all = last.iter().enumerate().map(|(n, now)| {
            let own = first.map(|(_, f)| f[n].value());
            let base = own.or_else(|| middle_of_others(&values, n)).unwrap_or(now.value());
            let times = now.value() / base;
            Resisting { unit: n as u32 + 1, now: *now, times, by_own: own.is_some() }
        });
        Some((*date, all.collect()))
    }
}
