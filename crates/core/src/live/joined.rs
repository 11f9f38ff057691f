//! What is left, joined from what was counted and what was read by hand, on a grid of charges; and where two of them clash.
//!
//! Each reading is weighed by Student's t with four degrees of freedom, `(1 + z²/4)^-2.5`, so that a poor one does not drag the
//! rest along. Two that differ by more than [`CLASH`] standard deviations are not averaged: the lower one counts until somebody
//! says which is right.

use crate::drawdown::rested::of_pack;
use crate::drawdown::{State, UnitLaw};
use crate::keyed::keyed;
use crate::pack::Pack;

keyed! {
    /// What a percent is read off.
    pub enum Gauge {
        /// A shunt that counts amp-hours since it was set to this battery when full.
        Shunt,
        /// The percent that a lithium battery's own BMS tells.
        Bms,
        /// A gauge that turns volts into a percent.
        Volts,
        /// No instrument: how the owner feels it stands.
        Feel,
        /// A percent of which nobody has said where it comes from.
        Unknown,
    }
}

impl Gauge {
    /// How far off its percent is, as one standard deviation at a charge, 0 to 1. Estimates: a count drifts with what was counted,
    /// one meter in five is poor, and volts say little of lithium's charge.
    fn unsure(self, charge: f64, lead: bool) -> f64 {
        match self {
            Self::Shunt => 0.02 + 0.03 * (1.0 - charge),
            Self::Bms => 0.05,
            Self::Volts if lead => 0.15,
            Self::Volts => 0.25,
            Self::Feel => 0.15,
            Self::Unknown => 0.10,
        }
    }
}

keyed! {
    /// What a charge is known by.
    pub enum Clue {
        /// What was said of the start, less what was counted since.
        Count,
        /// A percent that was read.
        Percent,
        /// Volts that were read.
        Volts,
    }
}

/// Between which charges it is looked for, and in how many steps.
const STEPS: usize = 200;
/// Wider than this many standard deviations two of them clash.
const CLASH: f64 = 2.5;
/// A start that nobody told of is full so often, give or take so much, and else
/// anything. Estimates.
const NOT_SAID: (f64, f64) = (0.4, 0.05);
/// How far apart volts are read, of a 12 V lead unit [V]; the share of the drop under load, known and by the plan, that may be off.
const READ: f64 = 0.025;
const OF_DROP: (f64, f64) = (0.3, 0.6);
/// How far lithium's law is off in its volts a cell, and above how many its curve is flat. [V]
const OFF: f64 = 0.039;
const FLAT: f64 = 3.21;
/// What lies within so many steps of a charge lies about it.
const ABOUT: usize = 10;
/// Nothing is farther off than so many standard deviations.
const BEYOND: f64 = 30.0;
/// What a guess weighs is spread over so much charge, so that two hundred of them fill the grid.
const SPREAD: f64 = 0.01;

/// How likely each charge from 0 to 1 is.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Density(Vec<f64>);

fn charge_at(n: usize) -> f64 {
    n as f64 / STEPS as f64
}

fn student(z: f64) -> f64 {
    (1.0 + z * z / 4.0).powf(-2.5)
}

fn normal(z: f64) -> f64 {
    (-0.5 * z * z).exp()
}

impl Density {
    fn of(likely: impl Fn(f64) -> f64) -> Self {
        Self((0..=STEPS).map(|n| likely(charge_at(n))).collect()).summed_to_one()
    }

    fn summed_to_one(mut self) -> Self {
        let sum: f64 = self.0.iter().sum();
        if sum > 0.0 {
            self.0.iter_mut().for_each(|w| *w /= sum);
        }
        self
    }

    /// Nobody said how full it began.
    pub(super) fn not_said() -> Self {
        let (often, sd) = NOT_SAID;
        // Nothing is fuller than full: all of it lies on one side.
        let peak = 2.0 * often / sd / (2.0 * std::f64::consts::PI).sqrt();
        Self::of(|s| peak * normal((1.0 - s) / sd) + (1.0 - often))
    }

    /// Of charges with weights.
    pub(super) fn of_guesses(each: &[(f64, f64)]) -> Self {
        Self::of(|s| each.iter().map(|(at, weight)| weight * normal((s - at) / SPREAD)).sum())
    }

    /// So much later drawn of it, give or take one standard deviation; nobody draws below nothing.
    pub(super) fn spent(&self, used: f64, unsure: f64) -> Self {
        let mut then = vec![0.0; STEPS + 1];
        let sd = unsure.max(0.5 / STEPS as f64);
        for (n, weight) in self.0.iter().enumerate().filter(|(_, w)| **w > 0.0) {
            let at = (charge_at(n) - used).clamp(0.0, 1.0);
            let spread: Vec<f64> = (0..=STEPS).map(|m| normal((charge_at(m) - at) / sd)).collect();
            let sum: f64 = spread.iter().sum();
            then.iter_mut().zip(spread).for_each(|(then, s)| *then += weight * s / sum);
        }
        Self(then).summed_to_one()
    }

    fn times(&self, reading: &Reading) -> Self {
        let both = self.0.iter().zip(&reading.likely).map(|(a, b)| a * b).collect();
        Self(both).summed_to_one()
    }

    /// The charge below which it lies with a chance, 0 to 1.
    pub(super) fn below(&self, chance: f64) -> f64 {
        let mut sum = 0.0;
        for (n, weight) in self.0.iter().enumerate() {
            if *weight > 0.0 && sum + weight >= chance {
                // Within the step, as if its weight lay evenly over it.
                let within = (chance - sum) / weight - 0.5;
                return (charge_at(n) + within / STEPS as f64).clamp(0.0, 1.0);
            }
            sum += weight;
        }
        1.0
    }

    fn likeliest(&self) -> f64 {
        let best = self.0.iter().enumerate().max_by(|a, b| a.1.total_cmp(b.1));
        best.map_or(0.0, |(n, _)| charge_at(n))
    }

    /// How many standard deviations of a Student's t each charge lies off the likeliest, by what lies about it: a start that may
    /// be anything is not far from full because full is a narrow place.
    fn off(&self) -> Vec<f64> {
        let about: Vec<f64> = (0..=STEPS)
            .map(|n| self.0[n.saturating_sub(ABOUT)..=(n + ABOUT).min(STEPS)].iter().sum())
            .collect();
        let peak = about.iter().copied().fold(0.0, f64::max);
        let z = |w: &f64| {
            if *w > 0.0 { 2.0 * ((w / peak).powf(-0.4) - 1.0).sqrt() } else { f64::INFINITY }
        };
        about.iter().map(z).collect()
    }
}

/// Something that was read: how likely it is at each charge, and how many standard deviations off.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Reading {
    source: Clue,
    likely: Vec<f64>,
    off: Vec<f64>,
}

impl Reading {
    /// A percent, 0 to 1, off a gauge.
    pub(super) fn percent(charge: f64, gauge: Gauge, lead: bool) -> Self {
        let sd = gauge.unsure(charge, lead);
        let off: Vec<f64> = (0..=STEPS).map(|n| (charge_at(n) - charge) / sd).collect();
        let likely = off.iter().map(|z| student(*z)).collect();
        Self { source: Clue::Percent, likely, off }
    }

    /// Volts of a pack while a unit gives `amps`, held against the law of that unit. `guessed` where nobody told the amps.
    pub(super) fn volts(pack: &Pack, law: &UnitLaw, volts: f64, amps: f64, guessed: bool) -> Self {
        let cells = f64::from(pack.battery.cells());
        let cell = volts / f64::from(pack.series) / cells;
        let of_drop = if guessed { OF_DROP.1 } else { OF_DROP.0 };
        let stands = of_pack(pack);
        // Expected of a cell at a charge, and one standard deviation of that. [V]
        let each: Vec<(f64, f64)> = (0..=STEPS)
            .map(|n| {
                let share = charge_at(n);
                let state = State { recent: amps.max(0.0), ..law.at(share) };
                let rest = law.volts(state, 0.0) / cells;
                let told = law.volts(state, amps) / cells;
                let loaded = if told.is_finite() {
                    told
                } else {
                    super::charge::empty_cell(law, state, amps)
                };
                let drop = of_drop * (rest - loaded);
                match stands {
                    Some(([_, fall], [sd_e0, sd_fall])) => {
                        let fallen = fall * sd_fall * (1.0 - share);
                        let sd = (READ / 6.0).hypot(sd_e0).hypot(fallen).hypot(drop);
                        (cell - loaded, sd)
                    }
                    // On its flat part a volt of lithium says nothing: both are held against each other no higher than that.
                    None => {
                        let seen = (cell + rest - loaded).min(FLAT) - rest.min(FLAT);
                        (seen, OFF.hypot(drop))
                    }
                }
            })
            .collect();
        // Volts of lead are as sure as they are where they point to; those of lithium point nowhere on its flat part.
        let (_, sd) = each.iter().fold((f64::INFINITY, OFF), |best, (off, sd)| {
            if off.abs() < best.0 { (off.abs(), *sd) } else { best }
        });
        let sure = |own: f64| if stands.is_some() { sd } else { own };
        // A unit that cannot stand there at all is as far off as can be, and not beyond all belief.
        let z = |off: f64| if off.is_finite() { off.clamp(-BEYOND, BEYOND) } else { BEYOND };
        let off: Vec<f64> = each.iter().map(|(off, own)| z(off / sure(*own))).collect();
        let likely = off.iter().map(|z| student(*z)).collect();
        Self { source: Clue::Volts, likely, off }
    }

    /// What it was read off.
    pub(super) const fn source(&self) -> Clue {
        self.source
    }

    /// Whether both were read off the same.
    pub(super) fn is_as(&self, other: &Self) -> bool {
        self.source == other.source
    }

    /// What it says of the charge so much later drawn.
    pub(super) fn later(&self, used: f64) -> Self {
        let moved = |all: &[f64]| -> Vec<f64> {
            let from =
                |n: usize| ((charge_at(n) + used) * STEPS as f64).round().clamp(0.0, STEPS as f64);
            (0..=STEPS).map(|n| all[from(n) as usize]).collect()
        };
        Self { likely: moved(&self.likely), off: moved(&self.off), ..*self }
    }

    /// What it says alone: there is nothing that it could be too poor for.
    fn alone(&self) -> Density {
        Density(self.off.iter().map(|z| normal(*z)).collect()).summed_to_one()
    }
}

/// How many standard deviations two lie apart: the least of what both are off together at any one charge.
fn apart(a: &[f64], b: &[f64]) -> f64 {
    let both = a.iter().zip(b).map(|(a, b)| a.hypot(*b));
    both.fold(f64::INFINITY, f64::min)
}

/// Two that say different things: what is counted with, until somebody says which is right.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Clash {
    /// The lower of them, what it says with all that does not clash with it, and what it says by itself.
    pub(super) lower: (Clue, Density, f64),
    /// The higher one.
    pub(super) higher: (Clue, Density, f64),
}

/// What is left, by all of it.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Joined {
    pub(super) density: Density,
    pub(super) clash: Option<Clash>,
}

/// Joins a count with what was read beside it.
pub(super) fn join(count: &Density, readings: &[Reading]) -> Joined {
    let counted = (Clue::Count, count.off(), count.clone(), count.likeliest());
    let read = readings.iter().map(|r| {
        let alone = r.alone();
        let at = alone.likeliest();
        (r.source, r.off.clone(), alone, at)
    });
    let all: Vec<(Clue, Vec<f64>, Density, f64)> = std::iter::once(counted).chain(read).collect();
    let worst = (0..all.len())
        .flat_map(|a| (a + 1..all.len()).map(move |b| (a, b)))
        .map(|(a, b)| (apart(&all[a].1, &all[b].1), a, b))
        .max_by(|x, y| x.0.total_cmp(&y.0))
        .filter(|(z, ..)| *z > CLASH);
    // One of them with all that does not clash with it.
    let with = |n: usize, not: usize| {
        let mut density = if n == 0 { count.clone() } else { all[n].2.clone() };
        for m in (0..all.len()).filter(|m| *m != n && *m != not) {
            if apart(&all[n].1, &all[m].1) <= CLASH {
                density = match m.checked_sub(1).and_then(|m| readings.get(m)) {
                    Some(reading) => density.times(reading),
                    None => {
                        let both = density.0.iter().zip(&count.0).map(|(a, b)| a * b).collect();
                        Density(both).summed_to_one()
                    }
                };
            }
        }
        (all[n].0, density, all[n].3)
    };
    match worst {
        None => {
            Joined { density: readings.iter().fold(count.clone(), |d, r| d.times(r)), clash: None }
        }
        Some((_, a, b)) => {
            let (low, high) = if all[a].3 <= all[b].3 { (a, b) } else { (b, a) };
            let (lower, higher) = (with(low, high), with(high, low));
            Joined { density: lower.1.clone(), clash: Some(Clash { lower, higher }) }
        }
    }
}

#[cfg(test)]
#[allow(clippy::print_stdout)]
mod tests {
    use super::*;
    use crate::drawdown::fit;
    use crate::live::Left;
    use crate::pack::Taught;
    use crate::shelf::{Battery, Chemistry, Rating};
    use crate::units::{AmpHours, Hours, Volts};

    impl Density {
        /// Its charger ended by itself.
        fn full() -> Self {
            Self::of(|s| normal((1.0 - s) / 0.02))
        }

        /// About so much, give or take one standard deviation.
        fn about(charge: f64, unsure: f64) -> Self {
            Self::of(|s| normal((s - charge) / unsure.max(1e-3)))
        }

        fn mean(&self) -> f64 {
            self.0.iter().enumerate().map(|(n, w)| charge_at(n) * w).sum()
        }

        /// Mean, and between which it lies eight times in ten.
        fn left(&self) -> Left {
            Left { charge: self.mean(), between: (self.below(0.1), self.below(0.9)) }
        }
    }

    impl Clash {
        /// The lower of them, with a band over both.
        fn left(&self) -> Left {
            let Left { charge, between: (low, high) } = self.lower.1.left();
            Left { charge, between: (low, high.max(self.higher.2)) }
        }
    }

    /// Case, count, readings, what was worked by hand, whether it asks.
    type Case<'a> = (&'a str, &'a Density, Vec<Reading>, [f64; 3], bool);

    fn pack(chemistry: Chemistry) -> Pack {
        let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), 1, 1)
    }

    fn volts(pack: &Pack, volts: f64, amps: f64) -> Reading {
        let law = fit(&pack.battery).expect("a label").law;
        let law = pack.taught.map_or(law, |t| law.taught(&t));
        Reading::volts(pack, &law, volts, amps, false)
    }

    fn percent(charge: f64, gauge: Gauge) -> Reading {
        Reading::percent(charge, gauge, true)
    }

    fn said(count: &Density, readings: &[Reading]) -> (Left, Option<(Clue, Clue)>) {
        let joined = join(count, readings);
        let left = joined.clash.as_ref().map_or_else(|| joined.density.left(), Clash::left);
        (left, joined.clash.map(|c| (c.lower.0, c.higher.0)))
    }

    /// Thirteen cases worked by hand, in percent: what is likely, its band, and whether it is asked which is right. Rules of our
    /// own, worked beside this program on the same grid; within three points each, the ends of bands within five.
    #[test]
    fn a_start_a_count_a_meter_and_volts_are_joined_as_worked_by_hand() {
        let [agm, flooded, lfp] = [Chemistry::Agm, Chemistry::Flooded, Chemistry::Lfp].map(pack);
        let mut gel = pack(Chemistry::Gel);
        let mut covariance = [[0.0; 5]; 5];
        (covariance[0][0], covariance[1][1]) = (0.006 * 0.006, 0.08 * 0.08);
        gel.taught = Some(Taught { mean: [0.0; 5], covariance, on: None });
        let (blank, full) = (Density::not_said(), Density::full());
        let planned = full.spent(0.40, 0.08);
        let logged = Density::about(0.45, 0.094);
        use Gauge::{Bms, Feel, Shunt, Unknown};
        let lithium = |charge, gauge| Reading::percent(charge, gauge, false);
        let cases: [Case<'_>; 13] = [
            (
                "flooded, blank, meter 25 %, 12.4 V",
                &blank,
                vec![percent(0.25, Unknown), volts(&flooded, 12.4, 0.0)],
                [25.0, 12.0, 73.0],
                true,
            ),
            (
                "typed full, meter 25 %",
                &full,
                vec![percent(0.25, Unknown)],
                [25.0, 12.0, 100.0],
                true,
            ),
            (
                "flooded, blank, 12.24 V",
                &blank,
                vec![volts(&flooded, 12.24, 0.0)],
                [65.0, 38.0, 96.0],
                false,
            ),
            ("AGM full, 40 +-8 planned", &planned, vec![], [58.0, 48.0, 69.0], false),
            ("and shunt 58 %", &planned, vec![percent(0.58, Shunt)], [58.0, 54.0, 62.0], false),
            (
                "and 12.10 V at C/10",
                &planned,
                vec![volts(&agm, 12.10, 10.0)],
                [56.0, 47.0, 66.0],
                false,
            ),
            (
                "and unknown meter 30 %",
                &planned,
                vec![percent(0.30, Unknown)],
                [51.0, 41.0, 61.0],
                false,
            ),
            ("and shunt 30 %", &planned, vec![percent(0.30, Shunt)], [30.0, 25.0, 58.0], true),
            (
                "LFP blank, gauge 60 %",
                &blank,
                vec![lithium(0.60, Gauge::Volts)],
                [68.0, 31.0, 98.0],
                false,
            ),
            (
                "LFP full, 30 +-6, BMS 68 %",
                &full.spent(0.30, 0.06),
                vec![lithium(0.68, Bms)],
                [68.0, 63.0, 73.0],
                false,
            ),
            (
                "flooded, log, a month ago, 11.9 V",
                &logged,
                vec![volts(&flooded, 11.9, 0.0)],
                [44.0, 32.0, 56.0],
                false,
            ),
            (
                "gel taught, blank, 12.35 V, feel half",
                &blank,
                vec![volts(&gel, 12.35, 0.0), percent(0.5, Feel)],
                [62.0, 55.0, 68.0],
                false,
            ),
            // A pack of lithium that gives 9.1 V at a quarter of its hour rate is empty, whatever was said.
            (
                "LFP full, 9.1 V at 25 A",
                &full,
                vec![volts(&lfp, 9.1, 25.0)],
                [1.0, 0.0, 100.0],
                true,
            ),
        ];
        for (case, count, readings, [likely, low, high], asks) in cases {
            let (left, clash) = said(count, &readings);
            println!(
                "{case}: {:.1} ({:.1} to {:.1}) {clash:?}; by hand {likely} ({low} to {high})",
                left.charge * 100.0,
                left.between.0 * 100.0,
                left.between.1 * 100.0
            );
            assert_eq!(clash.is_some(), asks, "{case}");
            assert!((left.charge * 100.0 - likely).abs() <= 3.0, "{case}: {left:?}");
            assert!((left.between.0 * 100.0 - low).abs() <= 5.0, "{case}: {left:?}");
            assert!((left.between.1 * 100.0 - high).abs() <= 5.0, "{case}: {left:?}");
        }
    }

    /// Two normal estimates joined are their mean weighed by one over their variances, `1/s² = 1/a² + 1/b²` (a Kalman filter's
    /// update in one dimension: R. E. Kalman, J. Basic Eng. 82 (1960) 35). Near their middle a Student's t of four degrees is
    /// normal with 5/4 of the precision.
    #[test]
    fn two_that_agree_are_joined_by_their_precisions() {
        let count = Density::about(0.60, 0.08);
        let left = join(&count, &[percent(0.58, Gauge::Unknown)]).density;
        let (a, b) = (1.0 / (0.08 * 0.08), 1.25 / (0.10 * 0.10));
        let by_hand = (0.60 * a + 0.58 * b) / (a + b);
        assert!((left.mean() - by_hand).abs() < 0.002, "{} {by_hand}", left.mean());
        let width = (left.below(0.9) - left.below(0.1)) / 2.0 / 1.2816;
        assert!((width - (a + b).powf(-0.5)).abs() < 0.006, "{width} {}", (a + b).powf(-0.5));
        // Drawn of it, means add and variances add.
        let spent = Density::about(0.80, 0.04).spent(0.3, 0.03);
        assert!((spent.mean() - 0.5).abs() < 1e-3, "{}", spent.mean());
        let width = (spent.below(0.9) - spent.below(0.1)) / 2.0 / 1.2816;
        assert!((width - 0.05).abs() < 0.002, "{width}");
    }

    /// A thousand starts that nobody told of: half of them full, the others anything; some used since, by a plan that is off by a
    /// seventh; then one reads a percent, of which one in five is poor, and most read the volts of a rested flooded unit of their
    /// own make, too. A poor meter reads anything at all, and the lower of two is shown: that is what most of the error is. Errors are of another kind than the rules': evenly spread, and by the unit's own line.
    #[test]
    fn of_invented_starts_few_are_called_much_fuller_than_they_are() {
        let flooded = pack(Chemistry::Flooded);
        let (mut squares, mut held, mut over, mut asked) = (0.0, 0, 0, 0);
        const STARTS: usize = 1000;
        for n in 1..=STARTS {
            let u = |axis: usize| crate::numeric::halton(n, axis);
            let even = |axis: usize, sd: f64| (u(axis) * 2.0 - 1.0) * sd * 3.0_f64.sqrt();
            let start = if u(0) < 0.5 { 1.0 - 0.03 * u(1) } else { 0.15 + 0.85 * u(1) };
            let planned = 0.5 * u(2) * start;
            let truth = (start - planned * (1.0 + even(3, 0.15))).clamp(0.0, 1.0);
            let meter = if u(4) < 0.2 { u(5) } else { (truth + even(5, 0.05)).clamp(0.0, 1.0) };
            let mut readings = vec![percent(meter, Gauge::Unknown)];
            if u(6) < 0.8 {
                let (full, fall) = (2.122 + even(7, 0.02), 0.205 * (1.0 + even(8, 0.25)));
                readings.push(volts(&flooded, 6.0 * (full - fall * (1.0 - truth)), 0.0));
            }
            let count = Density::not_said().spent(planned, (0.15 * planned).max(0.02));
            let (left, clash) = said(&count, &readings);
            squares += (left.charge - truth).powi(2);
            held += usize::from((left.between.0..=left.between.1).contains(&truth));
            over += usize::from(left.charge > truth + 0.15);
            asked += usize::from(clash.is_some());
        }
        let share = |n: usize| n as f64 / STARTS as f64;
        let (rms, held, over, asked) =
            ((squares / STARTS as f64).sqrt(), share(held), share(over), share(asked));
        println!("rms {rms:.3}, held {held:.3}, over by 15 points {over:.3}, asked {asked:.3}");
        assert!(rms < 0.17 && over < 0.055 && asked < 0.07, "{rms} {over} {asked}");
        assert!((0.76..0.93).contains(&held), "{held}");
    }
}
