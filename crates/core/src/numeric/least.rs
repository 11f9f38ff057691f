//! Least squares over a few parameters.

/// Up to three parameters, as distances from where the search begins.
pub(crate) type Moved = [f64; 3];

/// Passes of the search below; four are enough for smooth ones.
const PASSES: usize = 12;

/// Where the squares of some residuals are least, over the first `free` of three parameters within `most` either way,
/// and the standard deviation that they leave each: Gauss and Newton's method from nothing, damped where a step would make it worse.
pub(crate) fn least_squares(
    residuals: impl Fn(&Moved) -> Vec<f64>,
    free: usize,
    most: Moved,
) -> (Moved, Moved) {
    const STEP: f64 = 1e-4;
    let squares = |r: &[f64]| r.iter().map(|v| v * v).sum::<f64>();
    let (mut at, mut damped) = (Moved::default(), 1e-6);
    let mut now = residuals(&at);
    let slopes = |at: &Moved, now: &[f64]| -> Vec<Vec<f64>> {
        let slope = |p: usize| {
            let mut there = *at;
            there[p] += STEP;
            let there = residuals(&there);
            std::iter::zip(&there, now).map(|(b, a)| (b - a) / STEP).collect()
        };
        (0..free).map(slope).collect()
    };
    let dot = |a: &[f64], b: &[f64]| std::iter::zip(a, b).map(|(x, y)| x * y).sum::<f64>();
    for _ in 0..PASSES {
        let j = slopes(&at, &now);
        let mut better = false;
        for _ in 0..8 {
            let mut normal = [[0.0; 3]; 3];
            let mut right = [0.0; 3];
            for p in 0..free {
                for q in 0..free {
                    normal[p][q] = dot(&j[p], &j[q]);
                }
                normal[p][p] *= 1.0 + damped;
                right[p] = -dot(&j[p], &now);
            }
            let by = solve(normal, right, free);
            let mut there = at;
            for p in 0..free {
                there[p] = (there[p] + by[p]).clamp(-most[p], most[p]);
            }
            let then = residuals(&there);
            if squares(&then) < squares(&now) {
                let gain = squares(&now) - squares(&then);
                better = gain > 1e-9 * squares(&now);
                (at, now, damped) = (there, then, damped * 0.1);
                break;
            }
            damped = (damped * 10.0).max(1e-3);
        }
        if !better {
            break;
        }
    }
    let j = slopes(&at, &now);
    let mut normal = [[0.0; 3]; 3];
    for p in 0..free {
        for q in 0..free {
            normal[p][q] = dot(&j[p], &j[q]);
        }
    }
    let mut spread = Moved::default();
    for p in 0..free {
        let mut unit = [0.0; 3];
        unit[p] = 1.0;
        spread[p] = solve(normal, unit, free)[p].max(0.0).sqrt();
    }
    (at, spread)
}

/// Solves up to three linear equations whose matrix is positive definite, as that of [`least_squares`] is since each
/// parameter has a residual of its own: elimination without pivoting.
// Rows and columns are numbers here.
#[allow(clippy::needless_range_loop)]
fn solve(mut m: [[f64; 3]; 3], mut right: [f64; 3], count: usize) -> [f64; 3] {
    for p in 0..count {
        for q in p + 1..count {
            let share = m[q][p] / m[p][p];
            for k in p..count {
                m[q][k] -= share * m[p][k];
            }
            right[q] -= share * right[p];
        }
    }
    let mut x = [0.0; 3];
    for p in (0..count).rev() {
        let rest: f64 = (p + 1..count).map(|q| m[p][q] * x[q]).sum();
        x[p] = (right[p] - rest) / m[p][p];
    }
    x
}

#[cfg(test)]
mod tests {
    use super::{least_squares, solve};

    /// Worked: 2x + y = 5, x + 3y = 10 has x = 1, y = 3.
    #[test]
    fn linear_equations_are_solved() {
        let x = solve([[2.0, 1.0, 0.0], [1.0, 3.0, 0.0], [0.0; 3]], [5.0, 10.0, 0.0], 2);
        assert!((x[0] - 1.0).abs() < 1e-12 && (x[1] - 3.0).abs() < 1e-12);
    }

    /// The exponential through (0, 2), (1, 1), (2, 0.5) is 2 e^(-0.693 t); a bound stops the search at itself.
    #[test]
    fn a_curve_is_fitted_to_its_points() {
        let points = [(0.0, 2.0), (1.0, 1.0), (2.0, 0.5_f64)];
        let off = |p: &[f64; 3]| points.map(|(t, y)| (1.0 + p[0]) * (-p[1] * t).exp() - y).to_vec();
        let (at, spread) = least_squares(off, 2, [9.0; 3]);
        assert!((at[0] - 1.0).abs() < 1e-6 && (at[1] - 2_f64.ln()).abs() < 1e-6, "{at:?}");
        assert!(spread[0] > 0.0 && spread[1] > 0.0);
        let (held, _) = least_squares(off, 2, [0.5; 3]);
        assert!((held[0] - 0.5).abs() < 1e-9, "{held:?}");
    }
}
