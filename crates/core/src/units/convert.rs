//! Conversion factors between what people type and what the core counts in.
//!
//! Authority: NIST SP 811 (2008), appendix B.8; factors marked exact are exact by definition.

use super::{Celsius, Kilograms, Millimetres};

/// Kilograms in one avoirdupois pound. Exact: NIST SP 811 B.8, "pound (avoirdupois)".
pub const KG_PER_LB: f64 = 0.453_592_37;
/// Millimetres in one inch. Exact: NIST SP 811 B.8, "inch".
pub const MM_PER_INCH: f64 = 25.4;

/// A mass in pounds. [lb]
pub fn pounds(mass: Kilograms) -> f64 {
    mass.value() / KG_PER_LB
}

/// A mass given in pounds. [lb]
pub fn from_pounds(pounds: f64) -> Kilograms {
    Kilograms::of(pounds * KG_PER_LB)
}

/// A length in inches. [in]
pub fn inches(length: Millimetres) -> f64 {
    length.value() / MM_PER_INCH
}

/// A temperature in degrees Fahrenheit. [°F]
/// `t/°F = 1.8 t/°C + 32`, exact: NIST SP 811 B.8, "degree Fahrenheit (temperature)".
pub fn fahrenheit(t: Celsius) -> f64 {
    t.value() * 1.8 + 32.0
}

/// A temperature given in degrees Fahrenheit; the inverse of [`fahrenheit`]. [°F]
pub fn from_fahrenheit(t: f64) -> Celsius {
    Celsius::of((t - 32.0) / 1.8)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// NIST SP 811 B.8 and B.9; the temperature rows are the definition's fixed points.
    #[test]
    fn every_factor_gives_the_published_figure() {
        for (got, want) in [
            (pounds(Kilograms::of(0.453_592_37)), 1.0),
            (from_pounds(100.0).value(), 45.359_237),
            (inches(Millimetres::of(330.2)), 13.0),
            (fahrenheit(Celsius::of(25.0)), 77.0),
            (fahrenheit(Celsius::of(-17.777_777_777_777_78)), 0.0),
            (from_fahrenheit(80.0).value(), 26.666_666_666_666_668),
            (from_fahrenheit(32.0).value(), 0.0),
        ] {
            assert!((got - want).abs() < 1e-9, "{got} is not {want}");
        }
    }
}
