//! Which unit of a pack is the weak one, by everything that was read and tested of its units.

use super::{Did, LoadVerdict, Log, Tested};
use crate::learn::{CAPACITY, FOUR_IN_FIVE, above};
use crate::numeric::median;
use crate::pack::{Pack, RESISTS_MORE};
use jiff::civil::Date;

/// The mean of all but one of several.
fn mean_of_others(all: &[f64], but: usize) -> f64 {
    (all.iter().sum::<f64>() - all[but]) / (all.len() - 1) as f64
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

/// What readings and tests say of one unit beside the others.
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

/// How far a unit's charge is off by its own meter, and by rested volts, from reading to reading. Estimates.
const BY_METER: f64 = 0.02;
const BY_VOLTS: f64 = 0.06;
/// How far gauges of sound units stand apart all the time, by meters and by volts. Estimates: three points are common.
const GAUGES_APART: [f64; 2] = [0.03, 0.06];
/// How much a unit's capacity follows its resistance: `(R / R of the others - 1) / 2.5` of it is lost, as [`Health::at`](crate::pack::Health::at) has it, to
/// so much. Estimate: resistances tell of a unit, but loosely.
const BY_OHMS: f64 = 0.12;
/// Sound units of one kind differ by so much. Estimate.
const SOUND: f64 = 0.02;
/// Nothing is known beforehand of how much more a unit drops than the others.
const ANY: f64 = 0.5;
/// A unit is called weak from so much more drop than the others on, where chance alone does so in at most two packs of a hundred (by the trial in its test), and two
/// days show it, or a test.
const WEAKER: f64 = 0.08;
const BY_CHANCE: f64 = 0.025;
const SHOWN: f64 = 0.05;
/// Above this all are taken for full.
const FULL: f64 = 0.95;
/// Less than this is no outing.
const SHALLOW: f64 = 0.05;
/// No unit holds so many times what the others do.
const MOST_OVER: f64 = 3.0;
/// Drops known no better than this say nothing yet.
const UNCLEAR: f64 = 0.5;
/// Steps in which a wild reading is weighed down, as by Student's t with eight degrees of freedom.
const STEPS: usize = 10;

/// What all readings and tests of the units say together.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Doctor {
    /// Units by how far they fall behind the others, the weakest first; empty for fewer than two units or nothing after use.
    pub units: Vec<Straying>,
    /// Before anyone is named all units have to be read once when all are full and rested: gauges stand apart.
    pub asks_for_full: bool,
}

impl Doctor {
    /// The unit that is named.
    pub fn weak(&self) -> Option<&Straying> {
        self.units.iter().find(|s| s.weak)
    }
}

type Three = nalgebra::SMatrix<f64, 3, 3>;
type Unknown = nalgebra::SVector<f64, 3>;

/// One equation of a unit: what it is below the others, how that goes with the offsets of its meter and of its volts and with how
/// much more it drops, and one standard deviation.
type Row = (f64, Unknown, f64);

/// Units by how far they fall behind the others, from readings of all of them at some moments, and from capacities that tests
/// found of some, over the label's.
///
/// A unit lies `e = o + b x` below the mean of the others, which have dropped by `x`: `o` is what its gauge stands apart all the
/// time, by meters and by volts each its own, and `b` how much more it drops; `1 / (1 + b)` is its capacity over theirs. Both are
/// solved together over all dates, as a Bayesian linear regression with weights `9 / (8 + z²)` (C. M. Bishop, *Pattern Recognition
/// and Machine Learning*, Springer 2006, (3.50) and (3.51)); a test of a unit is an equation of `b` alone, and so is its resistance
/// over the others'. Of two units none is called weak by readings: which of them is the odd one, two cannot tell; nor is any by its
/// resistance alone.
pub fn doctor(readings: &[Charges], tested: &[(u32, f64)], resisting: &[(u32, f64)]) -> Doctor {
    let by_readings = readings.last().map(|r| r.shares.len());
    let by_tests = tested.iter().map(|t| t.0 as usize).max();
    let Some(units) = by_readings.or(by_tests).filter(|n| *n > 1) else {
        return Doctor::default();
    };
    let readings: Vec<&Charges> = readings.iter().filter(|r| r.shares.len() == units).collect();
    let is_full = |r: &Charges| median(r.shares.clone()).is_some_and(|m| m >= FULL);
    let has_full =
        [false, true].map(|volts| readings.iter().any(|r| r.by_volts == volts && is_full(r)));
    let used = readings.iter().filter(|r| !is_full(r)).count();
    // Of volts and meters both, either that has a full rest may name one.
    let settled = readings.iter().any(|r| !is_full(r) && has_full[usize::from(r.by_volts)]);
    let share_of = |unit: u32| tested.iter().find(|t| t.0 == unit).map(|t| t.1);
    let mut all: Vec<Straying> = (1..=units as u32)
        .filter_map(|unit| {
            let n = unit as usize - 1;
            let mut rows: Vec<Row> = Vec::new();
            for r in &readings {
                let others = mean_of_others(&r.shares, n);
                let x =
                    if is_full(r) { (1.0 - others).max(0.0) } else { (1.0 - others).max(SHALLOW) };
                let (meter, volts) = if r.by_volts { (0.0, 1.0) } else { (1.0, 0.0) };
                rows.push((others - r.shares[n], Unknown::new(meter, volts, x), r.unsure()));
            }
            let shown =
                rows.iter().filter(|(e, of, _)| of[2] >= SHALLOW && e / of[2] > SHOWN).count();
            let own = share_of(unit);
            let others: Vec<f64> = tested.iter().filter(|t| t.0 != unit).map(|t| t.1).collect();
            let by_test = own.zip(median(others)).filter(|(own, _)| *own > 0.0);
            if let Some((own, others)) = by_test {
                let sd = CAPACITY * std::f64::consts::SQRT_2 * others / own;
                rows.push((others / own - 1.0, Unknown::new(0.0, 0.0, 1.0), sd));
            }
            if used == 0 && by_test.is_none() {
                return None;
            }
            for (_, times) in resisting.iter().filter(|r| r.0 == unit) {
                rows.push(((times - 1.0) / RESISTS_MORE, Unknown::new(0.0, 0.0, 1.0), BY_OHMS));
            }
            let (mean, covariance) = solved(&rows)?;
            let b = mean[2];
            // The mean of few is itself unsure.
            let count = units as f64;
            let of_few = 1.0 + 1.0 / (count - 1.0);
            let sd = (of_few * (covariance[(2, 2)] + SOUND * SOUND)).sqrt();
            // One that hardly falls while the others do is misread, or was charged apart: it tells no capacity.
            if FOUR_IN_FIVE * sd > UNCLEAR || 1.0 + b - FOUR_IN_FIVE * sd < 1.0 / MOST_OVER {
                return None;
            }
            let by_chance = above(b / sd);
            let capacity =
                [FOUR_IN_FIVE, 0.0, -FOUR_IN_FIVE].map(|side| 1.0 / (1.0 + b + side * sd));
            let told_apart = by_test.is_some() || units > 2 && settled && shown > 1;
            let weak = told_apart && b >= WEAKER && by_chance < BY_CHANCE / count;
            let (below_full, unsure) = if covariance[(0, 0)] / GAUGES_APART[0].powi(2)
                <= covariance[(1, 1)] / GAUGES_APART[1].powi(2)
            {
                (mean[0], covariance[(0, 0)].sqrt())
            } else {
                (mean[1], covariance[(1, 1)].sqrt())
            };
            let low = !weak && below_full > 2.0 * BY_METER && below_full > 2.0 * unsure;
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
    let asks_for_full = units > 2 && used > 0 && !settled && all.iter().all(|s| !s.weak);
    Doctor { units: all, asks_for_full }
}

/// The unknowns of a unit and how far each may be off, weighed down where a reading is wild.
fn solved(rows: &[Row]) -> Option<(Unknown, Three)> {
    let [meter, volts] = GAUGES_APART;
    let beforehand = Unknown::new(meter, volts, ANY).map(|sd| 1.0 / (sd * sd));
    let mut mean = Unknown::zeros();
    let mut covariance = Three::zeros();
    for step in 0..STEPS {
        let mut known = Three::from_diagonal(&beforehand);
        let mut right = Unknown::zeros();
        for (e, of, sd) in rows {
            let z = (e - of.dot(&mean)) / sd;
            // The first step believes all alike.
            let weight = if step == 0 { 1.0 } else { 9.0 / (8.0 + z * z) } / (sd * sd);
            known += of * of.transpose() * weight;
            right += of * (weight * e);
        }
        covariance = known.try_inverse()?;
        mean = covariance * right;
    }
    Some((mean, covariance))
}

impl Log {
    /// Since when the units of an owned pack are where they are.
    pub(crate) fn units_since(&self, pack: i64) -> Option<Date> {
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

    /// The latest test of each unit of an owned pack that counts, by unit.
    pub fn tested_units(&self, pack: i64) -> Vec<Tested> {
        let mut all: Vec<Tested> = Vec::new();
        for t in self.tested(pack).into_iter().filter(|t| !t.passed_over && t.unit.is_some()) {
            all.retain(|u| u.unit != t.unit);
            all.push(t);
        }
        all
    }

    /// Units with their resistance over the middle of all, by the latest meter reading and by load tests of single units since they
    /// are where they are.
    fn resisting(&self, pack: i64) -> Vec<(u32, f64)> {
        let Some(owned) = self.pack(pack) else { return Vec::new() };
        let since = self.units_since(pack);
        let counts = |date: Date| since.is_none_or(|since| date >= since);
        let mut read: Vec<(u32, f64)> = Vec::new();
        let mut loaded: Vec<(u32, f64)> = Vec::new();
        let one = Pack::of(owned.pack.battery.clone(), 1, 1);
        for (_, t) in self.tests().filter(|(_, t)| t.of == Some(pack) && counts(t.date)) {
            match (&t.did, t.unit) {
                (Did::Resistances(ohms), _) => {
                    read = (1..).zip(ohms.iter().map(|r| r.value())).collect();
                }
                (Did::Load(load), Some(unit)) => {
                    let Ok(found) = load.found(&one, 1, 1) else { continue };
                    if found.verdict != LoadVerdict::NotCharged {
                        loaded.retain(|u| u.0 != unit);
                        loaded.push((unit, found.resistance.value()));
                    }
                }
                _ => {}
            }
        }
        // What one meter reads is held against what the same reads of the others.
        let over = |all: Vec<(u32, f64)>| -> Vec<(u32, f64)> {
            let usual = median(all.iter().map(|r| r.1).collect()).filter(|m| *m > 0.0);
            let usual = usual.filter(|_| all.len() > 1);
            usual.map_or_else(Vec::new, |m| all.into_iter().map(|(n, r)| (n, r / m)).collect())
        };
        let mut all = over(read);
        all.extend(over(loaded));
        all
    }

    /// What readings, tests and resistances of the units of an owned pack say together.
    pub fn doctor(&self, pack: i64) -> Doctor {
        let tested: Vec<(u32, f64)> =
            self.tested_units(pack).iter().filter_map(|t| Some((t.unit?, t.share))).collect();
        doctor(&self.unit_charges(pack), &tested, &self.resisting(pack))
    }
}
