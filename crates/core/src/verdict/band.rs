//! From a bad day to a good one: how sure the charge line is, and what it is least sure of.
//!
//! The day is run [`DAYS`] times, each unknown at a place of its own between its ends: evenly spread over all of
//! them together by Halton's sequence, always the same one, so that a figure never changes by itself. The unknowns
//! are taken to be independent and as likely at one place of their range as at another. The worst and the best
//! tenth are left out.

use crate::drawdown::{self, Fit, Guard, Leg, Summary, UnitLaw};
use crate::keyed::keyed;
use crate::pack::Pack;
use crate::rig::Rig;
use crate::source::Origin;
use crate::units::{Amps, Hours};

/// Days tried. Enough for steady tenth and ninetieth percentiles, few enough to be free.
const DAYS: usize = 48;
/// A bad day is worse than nine in ten, a good one better than nine in ten.
const BAD: f64 = 0.1;

keyed! {
    /// What is not known for sure.
    pub enum Unknown {
        /// What the label's ampere-hours are worth.
        Capacity,
        /// Whether the two wells or Peukert's law is nearer.
        Law,
        /// How fast bound charge comes back.
        Recovery,
        /// What the motor really draws.
        Draw,
        /// What the cold takes.
        Cold,
        /// The resistance, and with it the voltage under load.
        Resistance,
    }
}

impl Unknown {
    /// What to say of it.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Capacity => "what the label's ampere-hours are worth",
            Self::Law => "how capacity falls with current",
            Self::Recovery => "how fast charge comes back in a rest",
            Self::Draw => "what the motor really draws",
            Self::Cold => "what the cold takes",
            Self::Resistance => "the battery's resistance",
        }
    }
}

/// The band at one moment: charge share on a bad day and on a good one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BandPoint {
    /// When. [h]
    pub at: Hours,
    /// On a bad day.
    pub low: f64,
    /// On a good day.
    pub high: f64,
}

/// The band of a day.
#[derive(Debug, Clone, PartialEq)]
pub struct Band {
    /// At the start and at the end of every stretch.
    pub points: Vec<BandPoint>,
    /// Charge left on a bad day.
    pub low: f64,
    /// Charge left on a good day.
    pub high: f64,
    /// Share of the days tried that were finished.
    pub days_finished: f64,
    /// What alone would widen the band most, if anything does.
    pub widest: Option<Unknown>,
}

/// How far each unknown reaches, either way.
struct Reach {
    /// Share of the label's ampere-hours.
    capacity: f64,
    /// Logarithm of the ratio of the two laws' run times; its sign says on which side Peukert's is.
    peukert: f64,
    /// Logarithm of the recovery rate.
    recovery: f64,
    /// Share of the charge that the cold may take or leave.
    cold: f64,
    /// Share of the resistance.
    resistance: f64,
}

/// A value between 0 and 1 for every unknown; one half is the central case.
type Draws = [f64; Unknown::ALL.len()];

/// Every unknown where the likely day has it: in its middle, and the two wells without Peukert's opinion.
const CENTRAL: Draws = [0.5, 0.0, 0.5, 0.5, 0.5, 0.5];

/// The band around a run, by trying [`DAYS`] days spread evenly over what is not known.
pub(super) fn band(
    rig: &Rig,
    pack: &Pack,
    fit: &Fit,
    legs: &[Leg],
    guard: &Guard,
    central: &Summary,
) -> Band {
    let reach = reach(pack, fit, legs, central);
    let mut varied = Vec::with_capacity(legs.len());
    let mut ends = vec![Vec::with_capacity(DAYS); legs.len()];
    let mut left = Vec::with_capacity(DAYS);
    let mut finished = 0_usize;
    for n in 0..DAYS {
        let draws = std::array::from_fn(|axis| radical_inverse(n + 1, PRIMES[axis]));
        let bank = vary(rig, pack, fit, legs, &reach, &draws, &mut varied);
        let mut times = Vec::with_capacity(legs.len() + 2);
        let s =
            drawdown::run_roughly(&bank, &varied, guard, |p| times.push((p.at.value(), p.charge)));
        finished += usize::from(s.ended == drawdown::Ended::DayDone);
        left.push(s.charge_left);
        let mut clock = Hours::ZERO;
        for (leg, end) in std::iter::zip(legs, &mut ends) {
            clock += leg.hours;
            end.push(charge_at(&times, clock.value()));
        }
    }
    let mut points = vec![BandPoint { at: Hours::ZERO, low: 1.0, high: 1.0 }];
    let mut clock = Hours::ZERO;
    for (leg, end) in std::iter::zip(legs, &mut ends) {
        clock += leg.hours;
        let (low, high) = percentiles(end);
        points.push(BandPoint { at: clock, low, high });
    }
    let (low, high) = percentiles(&mut left);
    // What is left can only be surer than the central line if it contains it.
    let (low, high) = (low.min(central.charge_left), high.max(central.charge_left));
    let widest = Unknown::ALL
        .into_iter()
        .enumerate()
        .map(|(axis, unknown)| {
            let mut ends = [0.0; 2];
            for (end, at) in std::iter::zip(&mut ends, [BAD, 1.0 - BAD]) {
                let mut draws = CENTRAL;
                draws[axis] = at;
                let bank = vary(rig, pack, fit, legs, &reach, &draws, &mut varied);
                *end = drawdown::run_roughly(&bank, &varied, guard, |_| {}).charge_left;
            }
            ((ends[1] - ends[0]).abs(), unknown)
        })
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .filter(|(width, _)| *width > 1e-6)
        .map(|(_, unknown)| unknown);
    Band { points, low, high, days_finished: finished as f64 / DAYS as f64, widest }
}

/// How unsure each unknown is for this pack on this day.
///
/// As shares either way, but for Peukert's: the logarithm of what his law makes of the run time at the day's mean
/// current over what the two wells make of it, which may lie on either side of the line. A figure from the label
/// or a meter is surer than what is typical.
fn reach(pack: &Pack, fit: &Fit, legs: &[Leg], central: &Summary) -> Reach {
    let chemistry = pack.battery.chemistry;
    let natural = chemistry.facts().label_spread;
    let hours: Hours = legs.iter().map(|l| l.hours).sum();
    let mean = if hours > Hours::ZERO { central.delivered / hours } else { Amps::ZERO };
    let unit_mean = mean.value() / f64::from(pack.parallel);
    let ratio = if unit_mean > 0.0 {
        (fit.peukert.runtime(unit_mean) / fit.law.runtime(unit_mean)).clamp(0.7, 1.3)
    } else {
        1.0
    };
    Reach {
        capacity: natural.max(0.5 * fit.conflict()),
        peukert: if ratio.is_finite() { ratio.ln() } else { 0.0 },
        recovery: if fit.recovery == Origin::Typical { 0.5 } else { 0.3 },
        cold: legs.iter().map(|l| 1.0 - l.reach).fold(0.0, f64::max)
            * chemistry.facts().cold_unsure,
        resistance: if fit.resistance == Origin::Typical { 0.3 } else { 0.1 },
    }
}

/// The bank and the day with every unknown moved to its drawn place.
///
/// `varied` is room for the stretches, used again from day to day. A stretch that the cold takes nothing from stays
/// as it is.
fn vary(
    rig: &Rig,
    pack: &Pack,
    fit: &Fit,
    legs: &[Leg],
    reach: &Reach,
    draws: &Draws,
    varied: &mut Vec<Leg>,
) -> drawdown::Bank {
    let [capacity, law, recovery, draw, cold, resistance] = *draws;
    let either_way = |u: f64| 2.0 * u - 1.0;
    let mut cell = fit.cell;
    cell.k *= (reach.recovery * either_way(recovery)).exp();
    cell.r *= 1.0 + reach.resistance * either_way(resistance);
    let size = (1.0 + reach.capacity * either_way(capacity)) * (reach.peukert * law).exp();
    let unit = UnitLaw::new(cell, pack.battery.cells(), fit.q20 * size).ending_at(fit.law.v_end());
    varied.clear();
    varied.extend(legs.iter().map(|leg| Leg {
        demand: leg.demand.leaning(either_way(draw)),
        reach: if leg.reach < 1.0 {
            (leg.reach + reach.cold * either_way(cold)).min(1.0)
        } else {
            leg.reach
        },
        ..*leg
    }));
    super::bank(pack, rig, unit)
}

/// Charge at a time, on the straight lines between the points; after the last point its charge.
fn charge_at(points: &[(f64, f64)], at: f64) -> f64 {
    let next = points.partition_point(|p| p.0 < at - 1e-12);
    let Some(&(t1, c1)) = points.get(next) else {
        return points.last().map_or(1.0, |p| p.1);
    };
    if next == 0 {
        return c1;
    }
    let (t0, c0) = points[next - 1];
    if t1 <= t0 { c1 } else { c0 + (c1 - c0) * (at - t0) / (t1 - t0) }
}

/// The values that the worst and the best tenth are left out by, by rank. `values` must not be empty.
fn percentiles(values: &mut [f64]) -> (f64, f64) {
    values.sort_by(f64::total_cmp);
    let at = |share: f64| values[((values.len() - 1) as f64 * share).round() as usize];
    (at(BAD), at(1.0 - BAD))
}

/// A base for each axis of the sample: Halton's sequence takes the first primes. J. H. Halton, Numerische
/// Mathematik 2 (1960) 84.
const PRIMES: [usize; Unknown::ALL.len()] = [2, 3, 5, 7, 11, 13];

/// The digits of `n` in a prime base, mirrored behind the point: one axis of Halton's evenly spread
/// sequence (J. H. Halton, Numerische Mathematik 2 (1960) 84). The same days every time.
fn radical_inverse(mut n: usize, base: usize) -> f64 {
    let (mut share, mut digit) = (0.0, 1.0 / base as f64);
    while n > 0 {
        share += (n % base) as f64 * digit;
        n /= base;
        digit /= base as f64;
    }
    share
}

#[cfg(test)]
mod tests {
    use super::radical_inverse;

    /// Halton 1960: the sequence in bases 2 and 3 begins 1/2, 1/4, 3/4 and 1/3, 2/3, 1/9.
    #[test]
    fn the_sample_is_the_published_sequence() {
        for (n, base, want) in [
            (1, 2, 0.5),
            (2, 2, 0.25),
            (3, 2, 0.75),
            (1, 3, 1.0 / 3.0),
            (2, 3, 2.0 / 3.0),
            (3, 3, 1.0 / 9.0),
        ] {
            assert!((radical_inverse(n, base) - want).abs() < 1e-12);
        }
    }
}
