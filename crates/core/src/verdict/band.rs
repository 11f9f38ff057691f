//! From a bad day to a good one: how sure the charge line is, and what it is least sure of.
//!
//! The day is run [`DAYS`] times, each unknown at a place of its own between its ends: evenly spread over all of
//! them together by Halton's sequence, always the same one, so that a figure never changes by itself. The unknowns
//! are taken to be independent and as likely at one place of their range as at another. The worst and the best
//! tenth are left out.

use crate::drawdown::{self, Ended, Fit, Guard, Leg, Point, Summary, share_given};
use crate::keyed::keyed;
use crate::numeric::halton;
use crate::pack::Pack;
use crate::rig::Rig;
use crate::source::Origin;
use crate::units::Hours;

/// Days tried. Enough for steady tenth and ninetieth percentiles, few enough to be free.
const DAYS: usize = 48;
/// A bad day is worse than nine in ten, a good one better than nine in ten.
const BAD: f64 = 0.1;

keyed! {
    /// What is not known for sure.
    pub enum Unknown {
        /// What the label's ampere-hours are worth.
        Capacity,
        /// How much a current puts out of reach.
        Law,
        /// How fast it comes back.
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
    /// Share of the days tried that were finished: the chance of getting home.
    pub days_finished: f64,
    /// When it stops on a bad day and on a good one; `None` where that day is finished. [h]
    pub stops: (Option<Hours>, Option<Hours>),
    /// What alone would widen the band most, if anything does.
    pub widest: Option<Unknown>,
}

/// How far each unknown reaches, either way.
struct Reach {
    /// Logarithm of what the battery holds over what its label says.
    capacity: f64,
    /// Logarithm of what the law makes of that, where it is right of the label.
    size: f64,
    /// Logarithm of what a current puts out of reach, on a bad day and on a good one.
    law: (f64, f64),
    /// Logarithm of what Peukert's law makes of the run time over what ours does, where no rating tells; its sign says
    /// on which side it is.
    peukert: f64,
    /// Logarithm of how long a current is remembered.
    recovery: f64,
    /// Share of the resistance.
    resistance: f64,
    /// In the middle of the rated times, how long [h] and what share of the 20-hour capacity is given; `None` where that
    /// is the 20-hour capacity itself.
    given: Option<(f64, f64)>,
}

/// How much of a current is felt at once, the least and the most: on simulated cells. See [`Rates::at_once`].
///
/// [`Rates::at_once`]: crate::chemistry::Rates::at_once
const AT_ONCE: (f64, f64) = (0.12, 0.45);

/// A value between 0 and 1 for every unknown; one half is the central case.
pub type Draws = [f64; Unknown::ALL.len()];

/// Every unknown where the likely day has it: in its middle.
pub const CENTRAL: Draws = [0.5; Unknown::ALL.len()];

/// One pack's day, to be tried again and again.
struct Tried<'a> {
    rig: &'a Rig,
    pack: &'a Pack,
    fit: &'a Fit,
    starts_at: f64,
    legs: &'a [Leg],
    guard: &'a Guard,
    reach: Reach,
}

/// The band around a run, by trying [`DAYS`] days spread evenly over what is not known.
#[allow(clippy::too_many_arguments)]
pub(super) fn band(
    rig: &Rig,
    pack: &Pack,
    fit: &Fit,
    starts_at: f64,
    legs: &[Leg],
    guard: &Guard,
    central: &Summary,
    points: &[Point],
) -> Band {
    let reach = reach(pack, fit, points);
    let tried = Tried { rig, pack, fit, starts_at, legs, guard, reach };
    let mut varied = Vec::with_capacity(legs.len());
    let mut ends = vec![Vec::with_capacity(DAYS); legs.len()];
    let (mut left, mut stopped) = (Vec::with_capacity(DAYS), Vec::with_capacity(DAYS));
    for n in 0..DAYS {
        let draws = std::array::from_fn(|axis| halton(n + 1, axis));
        let mut times = Vec::with_capacity(legs.len() + 2);
        let s = tried.day(&draws, &mut varied, |p| times.push((p.at.value(), p.charge)));
        stopped.push(match s.ended {
            Ended::DayDone => f64::INFINITY,
            Ended::Stopped { at, .. } | Ended::Tripped { at, .. } => at.value(),
        });
        left.push(s.charge_left);
        let mut clock = Hours::ZERO;
        for (leg, end) in std::iter::zip(legs, &mut ends) {
            clock += leg.hours;
            end.push(charge_at(&times, clock.value()));
        }
    }
    let mut points = vec![BandPoint { at: Hours::ZERO, low: starts_at, high: starts_at }];
    let mut clock = Hours::ZERO;
    for (leg, end) in std::iter::zip(legs, &mut ends) {
        clock += leg.hours;
        let (low, high) = percentiles(end);
        points.push(BandPoint { at: clock, low, high });
    }
    let (low, high) = percentiles(&mut left);
    // What is left can only be surer than the central line if it contains it.
    let (low, high) = (low.min(central.charge_left), high.max(central.charge_left));
    let finished = stopped.iter().filter(|at| at.is_infinite()).count();
    let (first, last) = percentiles(&mut stopped);
    let moment = |at: f64| Hours::try_new(at).ok();
    let widest = Unknown::ALL
        .into_iter()
        .enumerate()
        .map(|(axis, unknown)| {
            let mut ends = [0.0; 2];
            for (end, at) in std::iter::zip(&mut ends, [BAD, 1.0 - BAD]) {
                let mut draws = CENTRAL;
                draws[axis] = at;
                *end = tried.day(&draws, &mut varied, |_| {}).charge_left;
            }
            ((ends[1] - ends[0]).abs(), unknown)
        })
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .filter(|(width, _)| *width > 1e-6)
        .map(|(_, unknown)| unknown);
    let days_finished = finished as f64 / DAYS as f64;
    Band { points, low, high, days_finished, stops: (moment(first), moment(last)), widest }
}

/// The same day with every unknown at a place of one's own choosing, once for each set of draws.
#[allow(clippy::too_many_arguments)]
pub(super) fn tried(
    rig: &Rig,
    pack: &Pack,
    fit: &Fit,
    starts_at: f64,
    legs: &[Leg],
    guard: &Guard,
    points: &[Point],
    draws: impl Iterator<Item = Draws>,
) -> Vec<Summary> {
    let reach = reach(pack, fit, points);
    let tried = Tried { rig, pack, fit, starts_at, legs, guard, reach };
    let mut varied = Vec::with_capacity(legs.len());
    draws.map(|draws| tried.day(&draws, &mut varied, |_| {})).collect()
}

/// The current at which most of a day's charge is drawn, `Σ I² t / Σ I t`: rests and what charges do not count. [A]
fn working_current(points: &[Point]) -> f64 {
    let (mut squares, mut charge) = (0.0, 0.0);
    for pair in points.windows(2) {
        let (hours, amps) = ((pair[1].at - pair[0].at).value(), pair[1].amps.value());
        if amps > 0.0 {
            squares += amps * amps * hours;
            charge += amps * hours;
        }
    }
    if charge > 0.0 { squares / charge } else { 0.0 }
}

/// Peukert's opinion is heard up to this, as the logarithm of a ratio of run times. Estimate.
const HEARD: f64 = 0.3;

/// How unsure each unknown is for this pack on this day.
///
/// As shares either way, but for Peukert's opinion, which is asked where the day draws harder than any rating tells. A
/// figure from a meter is surer than one from a label, and that than what is typical.
fn reach(pack: &Pack, fit: &Fit, points: &[Point]) -> Reach {
    let (in_common, own) = pack.battery.chemistry.facts().label_spread;
    let ratings = fit.ratings.len().max(1) as f64;
    let natural = in_common.hypot(own / ratings.sqrt());
    let unit = working_current(points) / f64::from(pack.parallel);
    let ours = fit.law.runtime(unit);
    let untold = unit > 0.0 && ours > 0.0 && ours < 0.8 * fit.rated_hours.0;
    let peukert = if untold { (fit.peukert.runtime(unit) / ours).ln() } else { 0.0 };
    let (size, law) = by_ratings(fit);
    Reach {
        // Two standard deviations of what measured ratings leave open, or what labels are off by nature.
        capacity: if fit.measured { 2.0 * fit.open.size } else { natural }
            .max(0.5 * fit.conflict())
            * pack.health.doubt,
        size,
        law,
        peukert: peukert.clamp(-HEARD, HEARD),
        recovery: fit.open.memory,
        resistance: if fit.resistance == Origin::Typical { 0.3 } else { 0.1 },
        given: {
            let hours = (fit.rated_hours.0 * fit.rated_hours.1).sqrt();
            ((hours - 20.0).abs() > 0.01).then(|| (hours, share_given(&fit.cell, hours)))
        },
    }
}

/// How far the law may be off by as many ratings as it is known by: the logarithm of the size either way, and that of what a current
/// puts out of reach on a bad day and on a good one.
///
/// Chosen so that the tenths that are left out are tenths: on simulated cells, lead and lithium, whose labels and draws are exact
/// (docs/model.md). Simulated lead loses less by a current than makers' tables say, hence the range to one side.
fn by_ratings(fit: &Fit) -> (f64, (f64, f64)) {
    let apart = fit.shape != Origin::Typical;
    match (fit.ratings.len(), fit.cell.rates.acid) {
        (0 | 1, true) => (0.02, (0.3, -0.85)),
        (0 | 1, false) => (0.01, (2.0, -1.0)),
        // Ratings over the same time are one.
        (_, true) if !apart => (0.02, (0.3, -0.85)),
        (_, false) if !apart => (0.01, (2.0, -1.0)),
        (2, _) => (0.0, (1.3 * fit.open.a, -1.3 * fit.open.a)),
        _ => (0.35 * fit.open.size, (0.7 * fit.open.a, -0.7 * fit.open.a)),
    }
}

impl Tried<'_> {
    /// The day with every unknown moved to its drawn place.
    ///
    /// `varied` is room for the stretches, used again from day to day.
    fn day(&self, draws: &Draws, varied: &mut Vec<Leg>, observe: impl FnMut(Point)) -> Summary {
        let Self { rig, pack, fit, reach, .. } = self;
        let [capacity, law, recovery, draw, cold, resistance] = *draws;
        let either_way = |u: f64| 2.0 * u - 1.0;
        let mut cell = fit.cell;
        // From the bad end over the likely middle to the good one.
        let (bad, good) = reach.law;
        let lean = either_way(law);
        cell.rates.a *= (if lean < 0.0 { -lean * bad } else { lean * good }).exp();
        cell.rates.memory *= (reach.recovery * either_way(recovery)).exp();
        if cell.rates.acid {
            cell.rates.at_once = AT_ONCE.0 + (AT_ONCE.1 - AT_ONCE.0) * recovery;
        }
        cell.r *= 1.0 + reach.resistance * either_way(resistance);
        // Whatever the shape, the ratings stand: in the middle of their times it gives what it gave.
        let kept = reach.given.map_or(1.0, |(hours, given)| given / share_given(&cell, hours));
        let opinion = (reach.peukert * either_way(law).max(0.0)).exp();
        // As factors either way, so that no doubt makes a battery of nothing or less.
        let holds = (reach.capacity * either_way(capacity)).exp();
        let size = holds * (reach.size * either_way(capacity)).exp() * kept * opinion;
        let unit =
            fit.law.with_cell(cell).worn(size, 1.0 / size).counted_in(fit.law.rated() * holds);
        varied.clear();
        varied.extend(self.legs.iter().map(|leg| {
            let demand = leg.demand.leaning(either_way(draw));
            Leg { demand, cold: leg.cold.leaning(either_way(cold)), ..*leg }
        }));
        let bank = super::bank(pack, rig, unit);
        drawdown::run_roughly(&bank, &bank.at(self.starts_at), varied, self.guard, observe)
    }
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
    if t1 <= t0 { c1 } else { c0 + (c1 - c0) * ((at - t0) / (t1 - t0)).min(1.0) }
}

/// The values that the worst and the best tenth are left out by, by rank. `values` must not be empty.
pub(crate) fn percentiles(values: &mut [f64]) -> (f64, f64) {
    values.sort_by(f64::total_cmp);
    let at = |share: f64| values[((values.len() - 1) as f64 * share).round() as usize];
    (at(BAD), at(1.0 - BAD))
}
