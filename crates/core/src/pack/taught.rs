//! What its rests and counts have taught of a lead unit: no label tells it.

use jiff::civil::Date;
use nalgebra::{SMatrix, SVector};

/// Five figures of a lead unit over what its label and kind say: the volts of a full cell at rest [V], and logarithms of how far they
/// fall to the label's last ampere-hour, of the resistance, of what a current puts out of reach, and of the capacity over the label's.
///
/// Normal, as a trip under way leaves them; kept with the pack from day to day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Taught {
    /// Likely.
    pub mean: [f64; 5],
    /// How far each may be off, and with which others.
    pub covariance: [[f64; 5]; 5],
    /// When it was taught last; not yet where it is not kept.
    pub on: Option<Date>,
}

/// How far each wanders in a day: one standard deviation. Estimates.
const A_DAY: [f64; 5] = [0.006, 0.06, 0.08, 0.06, 0.02];
/// The same of its own kind before anything is taught, which nothing kept is wider than.
const MOST: [f64; 5] = [0.024, 0.28, 0.30, 0.45, 0.15];
/// Days after which nothing is left of it that its kind does not say as well.
const FORGOTTEN: f64 = 400.0;

impl Taught {
    /// The same so long after it was taught: each has wandered a little, never wider than its kind.
    pub fn by(self, today: Date) -> Option<Self> {
        let on = self.on?;
        // Two clocks may differ by a day.
        let days = (today.duration_since(on).as_hours() as f64 / 24.0).max(0.0);
        if days > FORGOTTEN {
            return None;
        }
        let mut then = self;
        for (n, row) in then.covariance.iter_mut().enumerate() {
            let wider = row[n] + days * A_DAY[n] * A_DAY[n];
            row[n] = wider.min((MOST[n] * MOST[n]).max(row[n]));
        }
        Some(then)
    }

    /// The same with its capacity over what is believed of the pack, which wear has left a share of; its mean, and a root of how far
    /// it may be off.
    pub(crate) fn over(self, capacity_share: f64) -> (SVector<f64, 5>, SMatrix<f64, 5, 5>) {
        let mut mean = SVector::from(self.mean);
        mean[4] -= capacity_share.ln();
        type Five = SMatrix<f64, 5, 5>;
        let covariance =
            Five::from_fn(|r, c| self.covariance[r][c]) + Five::from_diagonal_element(1e-9);
        // One that is no covariance is taken for as sure as its diagonal says.
        let root = covariance.cholesky().map_or_else(
            || SMatrix::from_diagonal(&covariance.diagonal().map(|v| v.abs().sqrt())),
            |c| c.l(),
        );
        (mean, root)
    }

    /// The same with its capacity over the label's, of a pack that wear has left a share of.
    pub(crate) fn of_label(mut self, capacity_share: f64) -> Self {
        self.mean[4] += capacity_share.ln();
        self
    }

    /// Whether every figure is one that a unit may have: within four times what its kind differs by.
    pub fn is_sound(&self) -> bool {
        let within = |(mean, most): (&f64, &f64)| mean.is_finite() && mean.abs() <= 4.0 * most;
        let spread = |n: usize| {
            let v = self.covariance[n][n];
            v.is_finite() && (0.0..=16.0 * MOST[n] * MOST[n]).contains(&v)
        };
        self.mean.iter().zip(&MOST).all(within)
            && (0..5).all(spread)
            && self.covariance.iter().flatten().all(|v| v.is_finite())
    }
}
