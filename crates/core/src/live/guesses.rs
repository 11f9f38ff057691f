//! Guesses at what nobody knows of a pack under way, spread evenly, weighed, and chosen anew.

use nalgebra::{SMatrix, SVector};

/// How many guesses are carried.
pub(super) const COUNT: usize = 200;
/// What each is a guess at.
pub(super) const UNKNOWNS: usize = 9;

/// One guess: charge share, logarithm of the capacity over what is believed, the meter's zero [A], what flowed in a gap over what
/// was bridged, logarithm of the resistance over what is believed, bias of the volts [V a cell]; and of lead, over what is believed
/// of its kind: the volts of a full cell at rest [V], logarithms of how far they fall and of what a current puts out of reach.
pub(super) type Guess = SVector<f64, UNKNOWNS>;

pub(super) const SHARE: usize = 0;
pub(super) const CAPACITY: usize = 1;
pub(super) const ZERO: usize = 2;
pub(super) const GAP: usize = 3;
pub(super) const RESISTANCE: usize = 4;
pub(super) const BIAS: usize = 5;
pub(super) const FULL_VOLTS: usize = 6;
pub(super) const FALL: usize = 7;
pub(super) const REACH: usize = 8;

/// Normal draws that fill the space evenly: a point of the additive sequence of M. Roberts (2018) in so many dimensions, made normal
/// in pairs by G. E. P. Box, M. E. Muller, Ann. Math. Stat. 29 (1958) 610. `stage` moves all points on.
pub(super) fn spread(n: usize, stage: usize) -> Guess {
    const EVEN: usize = UNKNOWNS.div_ceil(2) * 2;
    /// The root of `g^(d+1) = g + 1` for d = 10.
    const ROOT: f64 = 1.068_297_188_920_841_2;
    let at = (n + 1 + stage * COUNT) as f64;
    let flat: [f64; EVEN] =
        std::array::from_fn(|d| (0.5 + at * ROOT.powi(-(d as i32 + 1))).fract());
    Guess::from_fn(|d, _| {
        let (u, v) = (flat[d / 2 * 2].max(1e-12), flat[d / 2 * 2 + 1]);
        let far = (-2.0 * u.ln()).sqrt();
        let turn = 2.0 * std::f64::consts::PI * v;
        if d % 2 == 0 { far * turn.cos() } else { far * turn.sin() }
    })
}

/// Mean and covariance of weighed guesses.
pub(super) fn moments(
    guesses: &[Guess],
    weights: &[f64],
) -> (Guess, SMatrix<f64, UNKNOWNS, UNKNOWNS>) {
    let mean: Guess = guesses.iter().zip(weights).map(|(g, w)| g * *w).sum();
    let spread = guesses.iter().zip(weights).map(|(g, w)| {
        let off = g - mean;
        off * off.transpose() * *w
    });
    (mean, spread.sum())
}

/// How many guesses really count: one over the sum of the squares of their weights.
pub(super) fn effective(weights: &[f64]) -> f64 {
    1.0 / weights.iter().map(|w| w * w).sum::<f64>()
}

/// Which guesses are chosen anew, each as often as it is believed: in equal steps along the sum of the weights.
pub(super) fn chosen(weights: &[f64]) -> Vec<usize> {
    let step = 1.0 / weights.len() as f64;
    let (mut sum, mut n) = (weights[0], 0);
    (0..weights.len())
        .map(|m| {
            let at = (m as f64 + 0.5) * step;
            while at > sum && n + 1 < weights.len() {
                n += 1;
                sum += weights[n];
            }
            n
        })
        .collect()
}
