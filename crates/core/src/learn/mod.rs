//! What a log teaches: this motor's draw, this hull's drag, what the wind does to it, this pack's capacity.
//!
//! The four are factors on the label and the typical figures, unknown by the [`Prior`]: as logarithms they are normal, and each
//! drifts a little with the years, so that wear needs no rule of its own. Every entry of a log is one equation in them;
//! [`Learned::from`] finds what is most likely of all entries together (maximum a posteriori by Gauss-Newton, in the form of a
//! Gaussian process over time), and how sure that is. One wild entry is weighed down, not believed. The same log always gives
//! the same answer: entries are put in order, nothing is drawn at random.
//!
//! Equations: C. E. Rasmussen, C. K. I. Williams, *Gaussian Processes for Machine Learning*, MIT Press 2006, (2.25) and (2.26)
//! for the mean and covariance of a process observed with noise; the linearisation at each step is that of Gauss-Newton. The
//! sizes of what is not known are estimates of our own.

mod band;
mod differs;
mod entry;
mod fit;
mod lesson;
mod next;

pub(crate) use entry::CAPACITY;

pub use band::{Band, Day};
pub use differs::{Difference, Reason, Share};
pub use entry::{Entry, Meter, Parts, Refused, Told};
pub use fit::{FOUR_IN_FIVE, Learned};
pub use lesson::Driven;
pub use next::{Measure, Worth};

use crate::keyed::keyed;

keyed! {
    /// What is learnt of a craft and its pack.
    pub enum Factor {
        /// Amps at a setting, over what the draw curve says.
        Draw,
        /// Power for a speed, over what its kind takes.
        Drag,
        /// Power to hold a place in a wind, over what the hull's windage takes, by its 1.5th power.
        Wind,
        /// Capacity, over the label's.
        Capacity,
    }
}

/// How far a capacity may be from its label where a test tells it: so wide that the test alone counts.
const BEFORE_A_TEST: f64 = 0.5;

/// How many there are.
pub const FACTORS: usize = Factor::ALL.len();

/// Figures of all factors, in their order.
pub(crate) type Four = nalgebra::SVector<f64, FACTORS>;
/// Their covariances.
pub(crate) type FourByFour = nalgebra::SMatrix<f64, FACTORS, FACTORS>;

/// What is known of a factor before anything is logged, as a logarithm.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Prior {
    /// Standard deviation, as a share: labels and typical figures are off by that.
    pub sd: f64,
    /// How far it wanders in a year, as a share.
    pub wanders: f64,
    /// What it loses a year, as a share.
    pub ages: f64,
    /// How far that may be off, as a share a year.
    pub ages_unsure: f64,
    /// Its age at the first entry. [a]
    pub age: f64,
}

/// How a pack ages, before anything is logged.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ageing {
    /// Share of its capacity that it loses a year.
    pub a_year: f64,
    /// When it was new, in years since some day; at the first entry where not told. [a]
    pub since: Option<f64>,
}

impl Ageing {
    /// A pack of which nothing is known: 2 % a year from its first entry on.
    pub const UNTOLD: Self = Self { a_year: 0.02, since: None };
    /// How far what it loses a year may be off, as a share of it: calendar lives of one kind differ by as much. Estimate.
    const UNSURE: f64 = 0.75;
}

impl Factor {
    /// What is known of it beforehand. Estimates: amps at a setting differ by 15 % from the typical curve, hulls by 30 % and
    /// the wind's push by 40 % from their kind's middle, capacity by 5 % from its label; a pack loses some 2 % a year.
    pub const fn prior(self) -> Prior {
        self.prior_of(Ageing::UNTOLD, 0.0, false)
    }

    /// The same of a pack that ages so and is so old at the first entry. [a]
    ///
    /// Where a capacity was measured the label says nothing of it beside the test.
    pub(crate) const fn prior_of(self, ageing: Ageing, age: f64, tested: bool) -> Prior {
        let prior = self.at_first();
        match self {
            Self::Capacity => Prior {
                sd: if tested { BEFORE_A_TEST } else { prior.sd },
                ages: ageing.a_year,
                ages_unsure: ageing.a_year * Ageing::UNSURE,
                age,
                ..prior
            },
            _ => prior,
        }
    }

    const fn at_first(self) -> Prior {
        let (sd, wanders) = match self {
            Self::Draw => (0.15, 0.03),
            Self::Drag => (0.30, 0.10),
            Self::Wind => (0.40, 0.03),
            Self::Capacity => (0.05, 0.005),
        };
        Prior { sd, wanders, ages: 0.0, ages_unsure: 0.0, age: 0.0 }
    }
}

impl Prior {
    /// Its middle after so many years.
    pub(crate) fn mean(self, years: f64) -> f64 {
        -self.ages * (self.age + years)
    }

    /// How two moments of it hang together: what was off at first stays off, what it wandered until the earlier one is in both.
    pub(crate) fn covariance(self, a: f64, b: f64) -> f64 {
        let wandered = self.wanders * self.wanders * a.min(b);
        let (old, older) = (self.age + a, self.age + b);
        self.sd * self.sd + wandered + self.ages_unsure * self.ages_unsure * old * older
    }
}

/// How far a wind's speed may be off where it was measured, and where it is only a guess, as shares. Estimates: a hand-held meter
/// at one height for a whole day; a forecast.
const WIND_TOLD: f64 = 0.125;
const WIND_GUESSED: f64 = 0.25;

/// Variance of the logarithm of the power that holds a place, by the wind of the day alone: power goes with the cube of the wind.
pub(crate) fn wind_of_day(guessed: bool) -> f64 {
    let speed = if guessed { WIND_GUESSED } else { WIND_TOLD };
    9.0 * speed * speed
}

/// How far the draw at a setting, and at a speed, may be off between the measured ones, as a share, however well the curve is known
/// elsewhere. Estimates: a controller's steps; a hull's hump, weed and chop.
pub(crate) const BETWEEN: [f64; 2] = [0.06, 0.12];
/// How far a stretch lasts longer or shorter than planned, as a share of what it takes. Estimate.
pub(crate) const TIMING: f64 = 0.10;

/// Density of the normal distribution.
pub(crate) fn density(z: f64) -> f64 {
    libm::exp(-0.5 * z * z) / (2.0 * std::f64::consts::PI).sqrt()
}

/// Share of the normal distribution above `z`.
pub(crate) fn above(z: f64) -> f64 {
    0.5 * libm::erfc(z / std::f64::consts::SQRT_2)
}
