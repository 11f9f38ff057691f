//! What a day will take, by what was learnt.

use super::entry::Parts;
use super::fit::FOUR_IN_FIVE;
use super::{Four, FourByFour, Learned};
use nalgebra::SMatrix;

/// A day to come.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Day {
    /// What it takes by label and typical figures.
    pub parts: Parts,
    /// Whether its wind is only a guess.
    pub wind_guessed: bool,
}

/// What a day takes, as shares of the label's capacity: between the ends it lies four times in five.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Band {
    /// A good day.
    pub low: f64,
    /// The middle one.
    pub likely: f64,
    /// A bad day.
    pub high: f64,
}

impl Band {
    /// From end to end.
    pub fn width(&self) -> f64 {
        self.high - self.low
    }
}

impl Learned {
    /// What a day takes of the capacity there is, by what was learnt.
    pub fn day(&self, day: &Day) -> Band {
        band(day, &self.mean, &self.covariance)
    }

    /// The same before anything was logged.
    pub fn day_before(&self, day: &Day) -> Band {
        let own = self.before.component_mul(&self.before);
        band(day, &self.middle, &FourByFour::from_diagonal(&own))
    }

    pub(super) fn day_if(&self, day: &Day, covariance: &FourByFour) -> Band {
        band(day, &self.mean, covariance)
    }
}

/// A sum of log-normal parts that hang together, taken for log-normal by its mean and variance: L. F. Fenton, *The Sum of
/// Log-Normal Probability Distributions in Scatter Transmission Systems*, IRE Trans. Comm. Systems 8 (1960) 57.
fn band(day: &Day, mean: &Four, covariance: &FourByFour) -> Band {
    let terms = day.parts.terms(true);
    let own = day.parts.own(day.wind_guessed);
    let rows = SMatrix::<f64, 4, 4>::from_fn(|k, p| terms[k].1[p]);
    let known = rows * covariance * rows.transpose();
    let spread = known + FourByFour::from_diagonal(&Four::from(own));
    // What is told of lengths, curves and wind is their mean.
    let means: [f64; 4] =
        std::array::from_fn(|k| terms[k].0 * libm::exp(terms[k].1.dot(mean) + 0.5 * known[(k, k)]));
    let whole: f64 = means.iter().sum();
    if whole <= 0.0 {
        return Band { low: 0.0, likely: 0.0, high: 0.0 };
    }
    let variance: f64 = (0..4)
        .flat_map(|k| (0..4).map(move |l| (k, l)))
        .map(|(k, l)| means[k] * means[l] * (libm::exp(spread[(k, l)]) - 1.0))
        .sum();
    let s = (1.0 + variance / (whole * whole)).ln().sqrt();
    let middle = whole.ln() - 0.5 * s * s;
    let at = |side: f64| libm::exp(middle + side * FOUR_IN_FIVE * s);
    Band { low: at(-1.0), likely: at(0.0), high: at(1.0) }
}
