//! Powers between nothing and one, where each nanosecond counts.

/// A power `x^n` for x from 0 on, chosen once and taken often.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) enum Power {
    /// x itself.
    Linear,
    /// The fourth power of the seventh root: a fifth of the cost of any other.
    FourSevenths,
    /// Any other.
    Other(f64),
}

/// Four sevenths, the exponent of acid under the plates.
pub(crate) const FOUR_SEVENTHS: f64 = 4.0 / 7.0;

impl Power {
    /// The power with this exponent.
    // Exactly these two stand for the quick ways; a hair from them is worked out.
    #[allow(clippy::float_cmp)]
    pub(crate) const fn of(n: f64) -> Self {
        if n == 1.0 {
            Self::Linear
        } else if n == FOUR_SEVENTHS {
            Self::FourSevenths
        } else {
            Self::Other(n)
        }
    }

    /// The exponent.
    pub(crate) const fn exponent(self) -> f64 {
        match self {
            Self::Linear => 1.0,
            Self::FourSevenths => FOUR_SEVENTHS,
            Self::Other(n) => n,
        }
    }

    /// `x^n`; nothing below the least number worth asking for.
    #[inline(always)]
    pub(crate) fn raise(self, x: f64) -> f64 {
        if x < 1e-200 {
            return 0.0;
        }
        match self {
            Self::Linear => x,
            Self::FourSevenths => {
                let root = seventh_root(x);
                (root * root) * (root * root)
            }
            Self::Other(n) => x.powf(n),
        }
    }
}

/// `x^(1/7)` of a normal positive number: a guess from its logarithm's digits, right to one in thirty, and two steps
/// of Halley's method, each of which triples the digits: 2e-11 is left.
#[inline(always)]
fn seventh_root(x: f64) -> f64 {
    /// Six sevenths of the bias of an exponent, less what makes the guess best in the middle.
    const BIAS: u64 = (1023_u64 << 52) / 7 * 6 - (10_u64 << 44);
    let mut y = f64::from_bits(x.to_bits() / 7 + BIAS);
    for _ in 0..2 {
        let y2 = y * y;
        let y7 = y2 * y2 * y2 * y;
        y *= (6.0 * y7 + 8.0 * x) / (8.0 * y7 + 6.0 * x);
    }
    y
}

/// `x^(1/7)` from 0 to 1 to two in ten thousand: one step of the same.
#[inline(always)]
pub(crate) fn rough_seventh_root(x: f64) -> f64 {
    const BIAS: u64 = (1023_u64 << 52) / 7 * 6 - (10_u64 << 44);
    if x < 1e-200 {
        return 0.0;
    }
    let y = f64::from_bits(x.to_bits() / 7 + BIAS);
    let y2 = y * y;
    let y7 = y2 * y2 * y2 * y;
    y * (6.0 * y7 + 8.0 * x) / (8.0 * y7 + 6.0 * x)
}

#[cfg(test)]
mod tests {
    use super::{Power, rough_seventh_root};

    #[test]
    fn the_rough_root_is_nearly_the_root() {
        for x in [1e-12_f64, 1e-4, 0.01, 0.1, 0.3333, 0.7, 0.999, 1.0] {
            assert!((rough_seventh_root(x) / x.powf(1.0 / 7.0) - 1.0).abs() < 2e-4, "{x}");
        }
        assert!(rough_seventh_root(0.0).abs() < 1e-300);
    }

    #[test]
    fn the_quick_power_is_the_power() {
        for x in [1e-150, 1e-9, 3e-4, 0.01, 0.05, 0.3333, 0.7, 1.0, 1.5, 2.0, 9.0, 1e4, 1e120] {
            let quick = Power::FourSevenths.raise(x);
            assert!((quick / x.powf(4.0 / 7.0) - 1.0).abs() < 1e-10, "{x}: {quick}");
        }
        assert!(Power::FourSevenths.raise(0.0).abs() < 1e-300);
        assert!((Power::of(0.5).raise(9.0) - 3.0).abs() < 1e-12);
        assert_eq!((Power::of(1.0), Power::of(4.0 / 7.0)), (Power::Linear, Power::FourSevenths));
    }
}
