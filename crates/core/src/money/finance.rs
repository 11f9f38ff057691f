//! The arithmetic of sums at different times, with no meaning of its own.
//!
//! Source of all three: W. Short, D. J. Packey, T. Holt, *A Manual for the Economic Evaluation of Energy Efficiency and
//! Renewable Energy Technologies*, NREL/TP-462-5173 (1995).

use crate::units::Money;

/// What one unit of money in `years` is worth today at a rate of interest a year: `(1 + r)^-t`.
pub fn present(rate: f64, years: f64) -> f64 {
    (1.0 + rate).powf(-years)
}

/// What one unit of money a year, paid at the end of each, is worth today: `Σ (1 + r)^-t`.
///
/// The last year may be a part of one: that part is paid at its end.
pub fn annuity(rate: f64, years: f64) -> f64 {
    let whole = years.floor();
    let full = if rate == 0.0 { whole } else { (1.0 - present(rate, whole)) / rate };
    full + (years - whole) * present(rate, years)
}

/// What a sum today comes to as equal payments at the ends of some years: `r (1 + r)^n / ((1 + r)^n - 1)`.
pub fn capital_recovery(rate: f64, years: f64) -> f64 {
    1.0 / annuity(rate, years)
}

/// Worth today of sums at their times [years]: `Σ CF (1 + r)^-t`.
pub fn net_present_value(rate: f64, sums: &[(f64, Money)]) -> Money {
    sums.iter().map(|(years, sum)| *sum * present(rate, *years)).sum()
}

/// `Σ q^k` for `k` from 1 to `n`.
pub(super) fn geometric(q: f64, n: f64) -> f64 {
    if (q - 1.0).abs() < 1e-12 { n } else { q * (1.0 - q.powf(n)) / (1.0 - q) }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn near(a: f64, b: f64, by: f64) {
        assert!((a - b).abs() < by, "{a} {b}");
    }

    /// Present-value arithmetic as the manual defines it, worked by hand: at 5 %, 900 now, 30 a year and 900 again in
    /// year five come to 1836.83 over ten years; 1,800 over ten years is 233.11 a year, 900 over five 207.88.
    #[test]
    fn sums_at_their_times_are_as_worked() {
        let mut sums = vec![(0.0, Money::of(-900.0)), (5.0, Money::of(-900.0))];
        sums.extend((1..=10).map(|year| (f64::from(year), Money::of(-30.0))));
        near(net_present_value(0.05, &sums).value(), -1836.83, 0.005);
        near(capital_recovery(0.05, 10.0), 0.129_505, 5e-7);
        near(1800.0 * capital_recovery(0.05, 10.0), 233.11, 0.005);
        near(900.0 * capital_recovery(0.05, 5.0), 207.88, 0.005);
        near(annuity(0.0, 7.5), 7.5, 1e-12);
        // A year that is almost whole is worth what the whole one is.
        near(annuity(0.07, 3.0 - 1e-9), annuity(0.07, 3.0), 1e-8);
        near(geometric(0.5, 3.0), 0.875, 1e-12);
        near(geometric(1.0, 4.0), 4.0, 1e-12);
    }
}
