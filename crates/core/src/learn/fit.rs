//! What is most likely of all entries together, and how sure that is.

use super::entry::{CAPACITY, EMPTIED, Entry, Equation, Told, unit};
use super::{Ageing, FACTORS, Factor, Four, FourByFour, Prior, above, density};
use nalgebra::{DMatrix, DVector};

/// Steps of Gauss-Newton: it settles long before.
const STEPS: usize = 20;
/// Steps in which a wild entry is only weighed down gently, so that it finds its place first.
const GENTLE: usize = 6;
/// Steps that are taken whole; those after them are shortened against swinging.
const WHOLE: usize = 3;
const SHORTENED: f64 = 0.8;
/// One entry in so many is wild: a wrong date, a meter reset. Estimate.
const WILD: f64 = 0.03;
/// Weight below which an entry is asked about.
const ASKED_ABOUT: f64 = 0.2;
/// Chance that a pack that reads empty is not: a wrong press. Estimate.
const NOT_EMPTY: f64 = 0.0009;

/// What a log taught.
#[derive(Debug, Clone, PartialEq)]
pub struct Learned {
    /// Logarithms of the factors today.
    pub(super) mean: Four,
    /// Their covariances today.
    pub(super) covariance: FourByFour,
    /// How far each could be off before anything was logged, by today.
    pub(super) before: Four,
    /// The middle of each by today, had nothing been logged.
    pub(super) middle: Four,
    /// For each entry that was used, in order: which, and how much it was believed, 0 to 1.
    pub(super) weights: Vec<(i64, f64)>,
}

/// How much an entry is believed: the chance that it is no wild one.
pub(super) fn belief(residual: f64, variance: f64, wild: f64) -> f64 {
    let s = variance.sqrt();
    let honest = (1.0 - WILD) * density(residual / s) / s;
    honest / (honest + WILD * wild)
}

/// Residual and variance as they are weighed. Of an emptied pack only that it used that much at least.
fn weighed(e: &Equation, step: usize) -> (f64, f64, f64) {
    if !e.at_least {
        let z = e.residual / e.variance().sqrt();
        let weight = if step < GENTLE {
            5.0 / (4.0 + z * z)
        } else {
            belief(e.residual, e.variance(), e.wild)
        };
        return (e.residual, e.variance() / weight.max(1e-9), weight);
    }
    let s = e.variance().sqrt();
    let a = e.residual / s;
    let more = above(a).max(1e-300);
    let hazard = density(a) / more;
    let curvature = (hazard * (hazard - a)).clamp(1e-4, 1.0);
    let weight = more / (more + NOT_EMPTY / EMPTIED);
    let residual = (s * hazard / curvature).min(2.0 * s + e.residual.abs());
    (residual, e.variance() / (weight * curvature).max(1e-9), weight)
}

fn each(of: impl Fn(Factor) -> f64) -> Four {
    Four::from_iterator(Factor::ALL.into_iter().map(of))
}

impl Learned {
    /// What entries teach, told for a day so many years on; those that [`Entry::check`] refuses are passed over.
    pub fn from(entries: &[Entry], today: f64) -> Self {
        Self::of_pack(entries, today, Ageing::UNTOLD)
    }

    /// The same of a pack that ages so.
    pub fn of_pack(entries: &[Entry], today: f64, ageing: Ageing) -> Self {
        let mut entries: Vec<&Entry> = entries.iter().filter(|e| e.check().is_ok()).collect();
        entries.sort_by(|a, b| a.years.total_cmp(&b.years).then(a.id.cmp(&b.id)));
        // Years are counted from the first one.
        let first = entries.first().map_or(today, |e| e.years);
        let years: Vec<f64> = entries.iter().map(|e| e.years - first).collect();
        let today = (today - first).max(0.0);
        let age = (first - ageing.since.unwrap_or(first)).max(0.0);
        let tested = entries.iter().any(|e| matches!(e.told, Told::Capacity(_)));
        let prior = |f: Factor| f.prior_of(ageing, age, tested);
        let middle = each(|f| prior(f).mean(today));
        let own = each(|f| prior(f).covariance(today, today));
        // What is learnt is held against what label and kind leave open.
        let before = each(|f| f.prior_of(ageing, age, false).covariance(today, today).sqrt());
        let none = Self {
            mean: middle,
            covariance: FourByFour::from_diagonal(&own),
            before,
            middle,
            weights: Vec::new(),
        };
        let n = entries.len();
        let Some(solved) = Solved::of(&entries, &years, &prior) else { return none };
        // Between today and each entry, through the slopes of the entries.
        let towards = DMatrix::from_fn(FACTORS, n, |p, j| {
            let f = Factor::ALL[p];
            prior(f).covariance(today, years[j]) * solved.slopes[j][p]
        });
        let mean = &towards * &solved.told;
        let explained = &towards * solved.gram.solve(&towards.transpose());
        let mut covariance = FourByFour::from_fn(|p, q| {
            let own = if p == q { own[p] } else { 0.0 };
            own - 0.5 * (explained[(p, q)] + explained[(q, p)])
        });
        for p in 0..FACTORS {
            // Rounding must not make anything surer than sure.
            covariance[(p, p)] = covariance[(p, p)].max(1e-9);
        }
        Self {
            mean: Four::from_fn(|p, _| middle[p] + mean[p]),
            covariance,
            weights: entries.iter().zip(&solved.weights).map(|(e, w)| (e.id, *w)).collect(),
            ..none
        }
    }

    /// A factor today: middle, and the ends between which it lies four times in five.
    pub fn factor(&self, factor: Factor) -> [f64; 3] {
        self.between(&unit(factor))
    }

    /// Amps at a setting, or at a speed: products of factors, told where neither can be told apart.
    pub fn product(&self, factors: &[Factor]) -> [f64; 3] {
        self.between(&factors.iter().map(|f| unit(*f)).sum())
    }

    pub(super) fn between(&self, of: &Four) -> [f64; 3] {
        four_in_five(of.dot(&self.mean), self.variance_of(of).sqrt())
    }

    pub(super) fn between_before(&self, of: &Four) -> [f64; 3] {
        four_in_five(of.dot(&self.middle), self.variance_before(of).sqrt())
    }

    /// Variance of the logarithm of a product of factors, now and before anything was logged.
    pub(super) fn variance_of(&self, of: &Four) -> f64 {
        of.dot(&(self.covariance * of))
    }

    pub(super) fn variance_before(&self, of: &Four) -> f64 {
        of.component_mul(&self.before).norm_squared()
    }

    /// Before anything was logged, as [`factor`](Self::factor).
    pub fn factor_before(&self, factor: Factor) -> [f64; 3] {
        self.between_before(&unit(factor))
    }

    /// How unsure the logarithm of a factor is: its standard deviation.
    pub fn unsure(&self, factor: Factor) -> f64 {
        self.covariance[(factor as usize, factor as usize)].sqrt()
    }

    /// How unsure it still is, as a share of what it was: above 0.8 nothing was learnt of it yet.
    pub fn still(&self, factor: Factor) -> f64 {
        self.unsure(factor) / self.before[factor as usize]
    }

    /// Whether two factors cannot be told apart, only their product or quotient.
    pub fn tangled(&self, a: Factor, b: Factor) -> bool {
        let c = self.covariance[(a as usize, b as usize)];
        (c / (self.unsure(a) * self.unsure(b))).abs() > TANGLED
    }

    /// How many entries it rests on.
    pub fn count(&self) -> usize {
        self.weights.len()
    }

    /// How unsure a capacity is right after a test of it, as [`Health`](crate::pack::Health) has it.
    pub(crate) fn still_after_a_test(&self) -> f64 {
        CAPACITY / self.before[Factor::Capacity as usize]
    }

    /// Entries that do not go with the rest: they are kept, weigh less, and are asked about. Of one or two none is the odd one.
    pub fn doubted(&self) -> Vec<i64> {
        if self.weights.len() < REST {
            return Vec::new();
        }
        self.weights.iter().filter(|(_, w)| *w < ASKED_ABOUT).map(|(id, _)| *id).collect()
    }
}

/// Of a normal distribution four fifths lie within so many standard deviations. Abramowitz and Stegun, *Handbook of Mathematical
/// Functions*, table 26.5.
pub const FOUR_IN_FIVE: f64 = 1.281_552;
/// The middle of something whose logarithm is normal, and the ends between which it lies four times in five.
fn four_in_five(middle: f64, sd: f64) -> [f64; 3] {
    [-1.0, 0.0, 1.0].map(|side| libm::exp(middle + side * FOUR_IN_FIVE * sd))
}

/// Fewer than so many entries have no rest that one could differ from.
const REST: usize = 3;
/// From this correlation on two factors are one.
const TANGLED: f64 = 0.7;

/// The equations where they meet.
struct Solved {
    slopes: Vec<Four>,
    weights: Vec<f64>,
    gram: nalgebra::Cholesky<f64, nalgebra::Dyn>,
    told: DVector<f64>,
}

impl Solved {
    /// `None` for no entries, or where rounding leaves nothing to be solved.
    fn of(entries: &[&Entry], years: &[f64], prior: &impl Fn(Factor) -> Prior) -> Option<Self> {
        let n = entries.len();
        if n == 0 {
            return None;
        }
        let middles: Vec<Four> = years.iter().map(|t| each(|f| prior(f).mean(*t))).collect();
        let sd: Vec<Four> =
            years.iter().map(|t| each(|f| prior(f).covariance(*t, *t).sqrt())).collect();
        // How moments hang together: the same for all steps.
        let covariance: Vec<DMatrix<f64>> = Factor::ALL
            .iter()
            .map(|f| DMatrix::from_fn(n, n, |i, j| prior(*f).covariance(years[i], years[j])))
            .collect();
        let mut states = middles.clone();
        for step in 0.. {
            let equations: Vec<Equation> =
                entries.iter().zip(&states).map(|(e, s)| e.at(s)).collect();
            let weighed: Vec<(f64, f64, f64)> =
                equations.iter().map(|e| weighed(e, step)).collect();
            let slopes: Vec<Four> = equations.iter().map(|e| e.slope).collect();
            let gram = DMatrix::from_fn(n, n, |i, j| {
                let through: f64 =
                    (0..FACTORS).map(|p| slopes[i][p] * covariance[p][(i, j)] * slopes[j][p]).sum();
                let alike = equations[i].alike(&equations[j]);
                // However little one reading is believed, what all of that meter are off by stays what it is.
                let anew = 1.0 - alike / equations[i].variance();
                through + alike + if i == j { weighed[i].1 * anew } else { 0.0 }
            });
            let gram = gram.cholesky()?;
            let right =
                DVector::from_fn(n, |i, _| slopes[i].dot(&(states[i] - middles[i])) + weighed[i].0);
            let told = gram.solve(&right);
            if step == STEPS {
                let weights = weighed.iter().map(|w| w.2).collect();
                return Some(Self { slopes, weights, gram, told });
            }
            let wanted = |i: usize| {
                Four::from_fn(|p, _| {
                    let pull: f64 =
                        (0..n).map(|j| covariance[p][(i, j)] * slopes[j][p] * told[j]).sum();
                    middles[i][p] + pull
                })
            };
            let steps: Vec<Four> = (0..n).map(|i| wanted(i) - states[i]).collect();
            let farthest = steps
                .iter()
                .zip(&sd)
                .map(|(step, sd)| step.component_div(sd).amax())
                .fold(0.0, f64::max);
            let length = if step < WHOLE { 1.0 } else { SHORTENED } / farthest.max(1.0);
            for (state, step) in states.iter_mut().zip(steps) {
                *state += step * length;
            }
        }
        None
    }
}
