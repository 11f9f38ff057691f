//! Where something that starts positive stops being so.

/// Relative width at which the search stops.
const CLOSE: f64 = 1e-10;

/// The largest `t` in `[0, end]` at which `f` is still positive, when `f(0) > 0`; `end` if it
/// never stops. Safe with `f` at minus infinity.
///
/// To [`CLOSE`] of `end`, or where `f` is below 1e-12, or after 90 evaluations. With several crossings it finds one
/// of them.
///
/// Regula falsi with the Illinois rule, and halving every third time or where a bound is infinite:
/// a bracket all the way, and some ten evaluations for the smooth curves it is used on.
pub(crate) fn last_positive(f: impl Fn(f64) -> f64, end: f64) -> f64 {
    let (mut low, mut f_low) = (0.0, f(0.0));
    let (mut high, mut f_high) = (end, f(end));
    if f_high > 0.0 {
        return end;
    }
    let mut stuck = 0_i8;
    for pass in 0..90 {
        if high - low <= CLOSE * end {
            break;
        }
        // Every third step halves, lest a cliff pin one end.
        let mid = if pass % 3 != 2 && f_high.is_finite() && f_low.is_finite() {
            let guess = low + (high - low) * f_low / (f_low - f_high);
            guess.clamp(low, high)
        } else {
            0.5 * (low + high)
        };
        let f_mid = f(mid);
        if f_mid > 0.0 {
            (low, f_low) = (mid, f_mid);
            if stuck == 1 {
                f_high *= 0.5;
            }
            stuck = 1;
        } else {
            (high, f_high) = (mid, f_mid);
            if stuck == -1 {
                f_low *= 0.5;
            }
            stuck = -1;
        }
        if f_mid.abs() < 1e-12 {
            return mid;
        }
    }
    // Still on the near side, where a voltage can be read.
    low
}

/// Where a test that holds at `low` and fails at `high` turns, by halving: for what has no value to go by, or
/// so little to gain that nothing faster pays. The bracket that is left: the last `x` at which it held, and
/// the first at which it did not.
///
/// `passes` halvings leave `2^-passes` of the width: 24 are seven digits, 40 are twelve.
pub(crate) fn halved(
    (mut low, mut high): (f64, f64),
    passes: usize,
    holds: impl Fn(f64) -> bool,
) -> (f64, f64) {
    for _ in 0..passes {
        let mid = 0.5 * (low + high);
        if holds(mid) { low = mid } else { high = mid }
    }
    (low, high)
}

#[cfg(test)]
mod tests {
    use super::{halved, last_positive};

    #[test]
    fn halving_closes_in_from_both_sides() {
        let (low, high) = halved((0.0, 3.0), 40, |x| x * x < 2.0);
        assert!(low * low < 2.0 && high * high >= 2.0 && high - low < 1e-11, "{low} {high}");
    }

    #[test]
    fn it_finds_the_crossing_of_smooth_steep_and_broken_curves() {
        let close = |got: f64, want: f64| assert!((got - want).abs() < 1e-8, "{got} is not {want}");
        close(last_positive(|t| 1.0 - t * t, 3.0), 1.0);
        close(last_positive(|t| 1.0 - (20.0 * t).exp() / 1e9, 5.0), 9.0 * 10_f64.ln() / 20.0);
        close(last_positive(|t| if t < 0.7 { 1.0 - t } else { f64::NEG_INFINITY }, 1.0), 0.7);
        close(last_positive(|_| 1.0, 2.0), 2.0);
    }
}
