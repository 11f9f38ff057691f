//! How fast it goes for what it draws today, and what wind and current do to the way home.

use crate::units::MetresPerSecond;
use nalgebra::{Matrix2, RowVector2, Vector2};

/// How far a hull's speed at a power may be off before it was seen: the cube root of a third of the power. Estimate.
const HULL: f64 = 0.12;
/// How far what wind and current do may be off: as a share of what was expected, and besides. [m/s] Estimates.
const PUSH: (f64, f64) = (0.25, 0.15);
/// How far that wanders in an hour. [m/s]
const WANDERS: f64 = 0.2;
/// How far the mean of half a minute is off: a receiver, waves, the helm. [m/s]
const READS: f64 = 0.15;
/// Slower than this through water nothing is learnt. [m/s]
const SLOWEST: f64 = 0.4;

/// Two unknowns in a Kalman filter: R. E. Kalman, J. Basic Eng. 82 (1960) 35. Speed over ground is `k v + c a`: `v` what the
/// model says of the draw in still water, `a` how fast wind and current carry it towards home, `c` the cosine of its course to that
/// of the way home.
#[derive(Debug, Clone, PartialEq)]
pub struct Pace {
    mean: Vector2<f64>,
    unsure: Matrix2<f64>,
}

impl Pace {
    /// What the plan expects: how fast wind and current carry it towards home, below zero away from it. [m/s]
    pub fn expecting(push: MetresPerSecond) -> Self {
        let sd = PUSH.0 * push.value().abs() + PUSH.1;
        Self {
            mean: Vector2::new(1.0, push.value()),
            unsure: Matrix2::from_diagonal(&Vector2::new(HULL * HULL, sd * sd)),
        }
    }

    /// So fast over ground by the mean of some seconds, where still water would let it go so fast, on a course to home of this cosine.
    pub fn seen(
        &mut self,
        over: MetresPerSecond,
        still: MetresPerSecond,
        cosine: f64,
        seconds: f64,
    ) {
        if still.value() < SLOWEST || seconds.is_nan() || seconds <= 0.0 || !cosine.is_finite() {
            return;
        }
        self.unsure[(1, 1)] += WANDERS * WANDERS * seconds / 3600.0;
        let h = RowVector2::new(still.value(), cosine);
        let off = over.value() - (h * self.mean)[0];
        let read = READS * READS * (30.0 / seconds).max(1.0);
        let all = (h * self.unsure * h.transpose())[0] + read;
        // What is ten times as far off as expected is a receiver's jump.
        if off * off > 100.0 * all {
            return;
        }
        let gain = self.unsure * h.transpose() / all;
        self.mean += gain * off;
        let left = Matrix2::identity() - gain * h;
        // Joseph's form stays symmetric.
        self.unsure = left * self.unsure * left.transpose() + gain * read * gain.transpose();
    }

    /// Speed towards home where still water would let it go so fast, and one standard deviation. [m/s]
    pub fn home(&self, still: MetresPerSecond) -> (MetresPerSecond, MetresPerSecond) {
        let h = RowVector2::new(still.value(), 1.0);
        let sd = (h * self.unsure * h.transpose())[0].sqrt();
        (MetresPerSecond::of((h * self.mean)[0]), MetresPerSecond::of(sd))
    }

    /// How fast wind and current carry it towards home, below zero away from it. [m/s]
    pub fn push(&self) -> MetresPerSecond {
        MetresPerSecond::of(self.mean[1])
    }

    /// Speed for a draw over what the model says. [1]
    pub fn hull(&self) -> f64 {
        self.mean[0]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(v: f64) -> MetresPerSecond {
        MetresPerSecond::of(v)
    }

    /// A hull that is a tenth slower, half a meter a second that carries it out: found by going out and a little across.
    #[test]
    fn wind_and_hull_are_told_apart_by_courses() {
        let mut pace = Pace::expecting(of(0.0));
        let before = pace.home(of(1.5));
        assert_eq!(before.0, of(1.5));
        for n in 0..60 {
            let (still, cosine) = if n % 3 == 0 { (1.2, 0.1) } else { (1.6, -0.95) };
            pace.seen(of(0.9 * still - 0.5 * cosine), of(still), cosine, 30.0);
        }
        let (home, sd) = pace.home(of(1.5));
        assert!(
            (pace.hull() - 0.9).abs() < 0.05 && (pace.push().value() + 0.5).abs() < 0.06,
            "{pace:?}"
        );
        assert!((home.value() - (0.9 * 1.5 - 0.5)).abs() < 0.1 && sd < before.1);
        // A jump of the receiver, standing still and no time teach nothing.
        let same = pace.clone();
        pace.seen(of(40.0), of(1.5), 1.0, 30.0);
        pace.seen(of(0.0), of(0.0), 1.0, 30.0);
        pace.seen(of(1.0), of(1.5), f64::NAN, 30.0);
        pace.seen(of(1.0), of(1.5), 1.0, 0.0);
        assert!((pace.hull() - same.hull()).abs() < 1e-12);
    }
}
