//! Points spread evenly over several axes, always the same ones.

/// A base for each axis: the first primes.
const PRIMES: [usize; 9] = [2, 3, 5, 7, 11, 13, 17, 19, 23];

/// The `n`-th point's place on an axis, counted from 1, above 0 and below 1: the digits of `n` in the axis' base, mirrored
/// behind the point. J. H. Halton, Numerische Mathematik 2 (1960) 84.
pub(crate) fn halton(mut n: usize, axis: usize) -> f64 {
    let base = PRIMES[axis];
    let (mut share, mut digit) = (0.0, 1.0 / base as f64);
    while n > 0 {
        share += (n % base) as f64 * digit;
        n /= base;
        digit /= base as f64;
    }
    share
}

#[cfg(test)]
mod tests {
    use super::halton;

    /// Halton 1960: the sequence in bases 2 and 3 begins 1/2, 1/4, 3/4 and 1/3, 2/3, 1/9.
    #[test]
    fn the_sample_is_the_published_sequence() {
        for (n, axis, want) in [
            (1, 0, 0.5),
            (2, 0, 0.25),
            (3, 0, 0.75),
            (1, 1, 1.0 / 3.0),
            (2, 1, 2.0 / 3.0),
            (3, 1, 1.0 / 9.0),
        ] {
            assert!((halton(n, axis) - want).abs() < 1e-12);
        }
    }
}
