//! Conversion factors between what people type and what the core counts in.
//!
//! Authority: NIST SP 811 (2008), appendix B.8; factors marked exact are exact by definition.

use super::{Celsius, Kilograms, Millimetres};

/// Litres in a cubic foot. Exact: 0.3048 m cubed, NIST SP 811 B.8, "cubic foot".
pub const L_PER_CUBIC_FOOT: f64 = 28.316_846_592;
/// Kilograms in one avoirdupois pound. Exact: NIST SP 811 B.8, "pound (avoirdupois)".
pub const KG_PER_LB: f64 = 0.453_592_37;
/// Millimetres in one inch. Exact: NIST SP 811 B.8, "inch".
pub const MM_PER_INCH: f64 = 25.4;

/// Metres in one foot. Exact: NIST SP 811 B.8, "foot".
pub const M_PER_FOOT: f64 = 0.3048;
/// Metres in one statute mile. Exact: NIST SP 811 B.8, "mile".
pub const M_PER_MILE: f64 = 1609.344;
/// Metres in one nautical mile. Exact: NIST SP 811 B.8, "mile, nautical".
pub const M_PER_NAUTICAL_MILE: f64 = 1852.0;
/// Metres in one kilometre. Exact: SI prefix, NIST SP 811 table 5.
pub const M_PER_KM: f64 = 1000.0;
/// m/s in one mile an hour. Exact: NIST SP 811 B.8, "mile per hour": 4.4704 E-01.
pub const MS_PER_MPH: f64 = 0.447_04;
/// m/s in one knot: a nautical mile an hour. NIST SP 811 B.8, "knot": 5.144 444 E-01.
pub const MS_PER_KNOT: f64 = 1852.0 / 3600.0;
/// m/s in one kilometre an hour. NIST SP 811 B.8, "kilometer per hour": 2.777 778 E-01.
pub const MS_PER_KMH: f64 = 1.0 / 3.6;
/// Newtons in one pound-force. Exact: NIST SP 811 B.8, 0.45359237 kg x 9.80665 m/s².
pub const N_PER_LBF: f64 = 4.448_221_615_260_5;
/// Seconds in one hour. Exact: SI Brochure, 9th ed., table 8.
pub const SECONDS_PER_HOUR: f64 = 3600.0;

/// A mass in pounds. [lb]
pub fn pounds(mass: Kilograms) -> f64 {
    mass.value() / KG_PER_LB
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

/// A temperature given in degrees Fahrenheit, the inverse of [`fahrenheit`]. [°C]
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
            (100.0 * KG_PER_LB, 45.359_237),
            (inches(Millimetres::of(330.2)), 13.0),
            (14.0 * M_PER_FOOT, 4.267_2),
            (M_PER_MILE, 5280.0 * M_PER_FOOT),
            (M_PER_NAUTICAL_MILE, 1.852 * M_PER_KM),
            (MS_PER_MPH * SECONDS_PER_HOUR, M_PER_MILE),
            (MS_PER_KNOT, 0.514_444_444_444_444_4),
            (MS_PER_KMH, 0.277_777_777_777_777_8),
            (N_PER_LBF, 0.453_592_37 * 9.806_65),
            (fahrenheit(Celsius::of(25.0)), 77.0),
            (fahrenheit(Celsius::of(-17.777_777_777_777_78)), 0.0),
            (from_fahrenheit(80.0).value(), 26.666_666_666_666_668),
            (from_fahrenheit(32.0).value(), 0.0),
        ] {
            assert!((got - want).abs() < 1e-9, "{got} is not {want}");
        }
    }
}
