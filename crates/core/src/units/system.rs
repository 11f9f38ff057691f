//! The units people read and type in: three sets, switched at once, and every unit understood anywhere.

use super::convert::{
    KG_PER_LB, M_PER_FOOT, M_PER_KM, M_PER_MILE, M_PER_NAUTICAL_MILE, MM_PER_INCH, MS_PER_KMH,
    MS_PER_KNOT, MS_PER_MPH, N_PER_LBF,
};
use super::parse::{self, BadNumber};
use crate::allowed::Allowed;
use crate::keyed::keyed;

/// A quantity that people measure in more than one unit. Inside the core it is in its SI unit: kg, m, mm,
/// m/s, m, °C, N.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Measure {
    /// Mass. [kg]
    Mass,
    /// Length of a craft. [m]
    Length,
    /// Side of a battery or a bay. [mm]
    Side,
    /// Speed. [m/s]
    Speed,
    /// Distance gone. [m]
    Distance,
    /// Temperature. [°C]
    Temperature,
    /// Force. [N]
    Force,
    /// Area met by the wind. [m2]
    Area,
    /// Torque. [N m]
    Torque,
}

/// One unit: how it is written, and `SI value = figure x factor + offset`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Unit {
    /// As it is printed.
    pub name: &'static str,
    /// As it may be typed, besides.
    pub also: &'static [&'static str],
    /// SI units in one of it.
    pub factor: f64,
    /// SI value of its zero.
    pub offset: f64,
}

/// A unit, how else people write it, and how many SI units it is.
const fn unit(name: &'static str, also: &'static [&'static str], factor: f64) -> Unit {
    Unit { name, also, factor, offset: 0.0 }
}

/// Of a mass. [kg]
const MASS: &[Unit] = &[
    unit("lb", &["lbs", "pound", "pounds"], KG_PER_LB),
    unit("kg", &["kilo", "kilos"], 1.0),
    unit("oz", &["ounces"], KG_PER_LB / 16.0),
];
/// Of a boat. [m]
const LENGTH: &[Unit] = &[
    unit("ft", &["feet", "foot", "'"], M_PER_FOOT),
    unit("in", &["inch", "inches", "\"", "''"], MM_PER_INCH / 1000.0),
    unit("m", &["metres", "meters"], 1.0),
    unit("cm", &[], 0.01),
];
/// Of a battery or a bay. [mm]
const SIDE: &[Unit] = &[
    unit("in", &["inch", "inches", "\"", "''"], MM_PER_INCH),
    unit("mm", &[], 1.0),
    unit("cm", &[], 10.0),
    unit("ft", &["feet", "foot", "'"], M_PER_FOOT * 1000.0),
];
/// Of a speed. [m/s]
const SPEED: &[Unit] = &[
    unit("mph", &["mi/h"], MS_PER_MPH),
    unit("kn", &["kt", "kts", "knots"], MS_PER_KNOT),
    unit("km/h", &["kmh", "kph"], MS_PER_KMH),
    unit("m/s", &[], 1.0),
];
/// Of a way. [m]
const DISTANCE: &[Unit] = &[
    unit("mi", &["miles", "mile"], M_PER_MILE),
    unit("nmi", &["nm"], M_PER_NAUTICAL_MILE),
    unit("km", &[], M_PER_KM),
    unit("m", &[], 1.0),
    unit("ft", &["feet"], M_PER_FOOT),
];
/// Of a thrust. [N]
const FORCE: &[Unit] = &[unit("lbf", &["lb", "lbs"], N_PER_LBF), unit("N", &["n"], 1.0)];
/// Of a windage. [m²]
const AREA: &[Unit] = &[unit("ft²", &["sqft"], M_PER_FOOT * M_PER_FOOT), unit("m²", &["sqm"], 1.0)];
/// Of a torque. [N m]
const TORQUE: &[Unit] = &[
    unit("in lb", &["inlb", "inlbs", "lbfin", "lbin"], N_PER_LBF * MM_PER_INCH / 1000.0),
    unit("N m", &["Nm", "nm"], 1.0),
    unit("ft lb", &["ftlb", "ftlbs", "lbfft", "lbft"], N_PER_LBF * M_PER_FOOT),
];
/// Of a temperature; a factor does not turn these, see its conversion. [°C]
const TEMPERATURE: &[Unit] = &[
    // °C = (°F - 32) / 1.8, exact: NIST SP 811 B.8.
    Unit { name: "°F", also: &["F", "f"], factor: 1.0 / 1.8, offset: -32.0 / 1.8 },
    unit("°C", &["C", "c"], 1.0),
];

impl Measure {
    /// Every unit of the measure that is understood.
    pub const fn units(self) -> &'static [Unit] {
        match self {
            Self::Mass => MASS,
            Self::Length => LENGTH,
            Self::Side => SIDE,
            Self::Speed => SPEED,
            Self::Distance => DISTANCE,
            Self::Temperature => TEMPERATURE,
            Self::Force => FORCE,
            Self::Area => AREA,
            Self::Torque => TORQUE,
        }
    }
}

keyed! {
    /// A set of units.
    #[derive(Default)]
    pub enum System {
        /// Pounds, feet, miles an hour, degrees Fahrenheit.
        #[default]
        Us,
        /// The same with knots and nautical miles.
        Nautical,
        /// Kilograms, metres, kilometres an hour, degrees Celsius.
        Metric,
    }
}

impl System {
    /// Its most telling units.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Us => "lb mph °F",
            Self::Nautical => "lb kn °F",
            Self::Metric => "kg km/h °C",
        }
    }

    /// The unit of a measure in this set.
    pub fn unit(self, measure: Measure) -> Unit {
        let at = match (self, measure) {
            (Self::Us, _)
            | (
                Self::Nautical,
                Measure::Mass
                | Measure::Length
                | Measure::Side
                | Measure::Temperature
                | Measure::Force
                | Measure::Area
                | Measure::Torque,
            ) => 0,
            (Self::Nautical, Measure::Speed | Measure::Distance) => 1,
            (
                Self::Metric,
                Measure::Mass
                | Measure::Side
                | Measure::Temperature
                | Measure::Force
                | Measure::Area
                | Measure::Torque,
            ) => 1,
            (Self::Metric, Measure::Length | Measure::Speed | Measure::Distance) => 2,
        };
        measure.units()[at]
    }

    /// An SI value as a figure in this set's unit.
    pub fn figure(self, measure: Measure, si: f64) -> f64 {
        let unit = self.unit(measure);
        (si - unit.offset) / unit.factor
    }

    /// What is allowed, in this set's unit.
    pub fn allowed(self, measure: Measure, si: &Allowed) -> Allowed {
        let tidy = |v: f64, up: bool| {
            let scale = if v.abs() < 20.0 { 100.0 } else { 1.0 };
            (if up { (v * scale).ceil() } else { (v * scale).floor() }) / scale
        };
        Allowed {
            low: tidy(self.figure(measure, si.low), true),
            high: tidy(self.figure(measure, si.high), false),
            unit: self.unit(measure).name,
        }
    }

    /// Reads what people type: figures with or without units, one after another where that is usual
    /// ("14 ft 6 in"). A figure without a unit is in this set's. The value is SI.
    ///
    /// # Errors
    /// [`BadNumber`], which says what is allowed in this set's unit.
    ///
    /// ```
    /// use lake_hour_core::{allowed, units::system::{Measure, System}};
    /// let feet = System::Us.read("14 ft 6 in", Measure::Length, &allowed::CRAFT_LENGTH).unwrap();
    /// assert!((feet - 4.4196).abs() < 1e-9);
    /// ```
    pub fn read(self, typed: &str, measure: Measure, si: &Allowed) -> Result<f64, BadNumber> {
        let shown = self.allowed(measure, si);
        let joined;
        let typed = if measure == Measure::Torque {
            joined = in_one_word(typed);
            &joined
        } else {
            typed
        };
        let parts = parse::parts(typed).ok_or(BadNumber::NotANumber(shown))?;
        if parts.is_empty() {
            return Err(BadNumber::Empty(shown));
        }
        let mut sum = 0.0;
        for (n, (figure, name)) in parts.iter().enumerate() {
            let unit = if name.is_empty() {
                // "14 ft 6": what follows feet without a unit is inches.
                if n > 0 { measure.units()[1] } else { self.unit(measure) }
            } else {
                *measure
                    .units()
                    .iter()
                    .find(|u| u.name == name || u.also.contains(&name.as_str()))
                    .ok_or(BadNumber::NotANumber(shown))?
            };
            let adds_up = matches!(measure, Measure::Mass | Measure::Length | Measure::Side);
            if n > 0 && !adds_up {
                return Err(BadNumber::NotANumber(shown));
            }
            sum += figure * unit.factor + unit.offset;
        }
        // A hair over the limit is the limit's own conversion.
        let slack = 1e-9 * si.high.abs().max(1.0);
        if sum >= si.low - slack && sum <= si.high + slack {
            Ok(sum.clamp(si.low, si.high))
        } else {
            Err(BadNumber::OutOfRange(shown))
        }
    }
}

/// Units of two words, "in lb", "ft-lb", as one.
fn in_one_word(typed: &str) -> String {
    let letters: Vec<char> = typed.chars().collect();
    let between = |n: usize| {
        let before = letters[..n].iter().rfind(|c| !c.is_whitespace() && **c != '-');
        let after = letters[n..].iter().find(|c| !c.is_whitespace() && **c != '-');
        before.is_some_and(|c| c.is_alphabetic()) && after.is_some_and(|c| c.is_alphabetic())
    };
    let kept = letters
        .iter()
        .enumerate()
        .filter(|(n, c)| !((c.is_whitespace() || **c == '-') && between(*n)));
    kept.map(|(_, c)| *c).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::allowed;

    /// NIST SP 811 B.8 for every factor used.
    #[test]
    fn figures_are_read_as_people_write_them() {
        for (system, typed, measure, si) in [
            (System::Us, "14 ft 6 in", Measure::Length, 4.419_6),
            (System::Us, "14' 6\"", Measure::Length, 4.419_6),
            (System::Us, "14 ft 6", Measure::Length, 4.419_6),
            (System::Us, "14.5", Measure::Length, 4.419_6),
            (System::Metric, "4,2", Measure::Length, 4.2),
            (System::Metric, "14 ft", Measure::Length, 4.267_2),
            (System::Us, "1,250", Measure::Mass, 566.990_462_5),
            (System::Us, "100 kg", Measure::Mass, 100.0),
            (System::Us, "5 mph", Measure::Speed, 2.235_2),
            (System::Nautical, "5", Measure::Speed, 2.572_222_222),
            (System::Metric, "18 km/h", Measure::Speed, 5.0),
            (System::Us, "1/2", Measure::Distance, 804.672),
            (System::Us, "2 1/2 mi", Measure::Distance, 4_023.36),
            (System::Us, "1 nmi", Measure::Distance, 1852.0),
            (System::Us, "10 1/4", Measure::Side, 260.35),
            (System::Metric, "26 cm", Measure::Side, 260.0),
            (System::Us, "32", Measure::Temperature, 0.0),
            (System::Us, "14 C", Measure::Temperature, 14.0),
            (System::Metric, "-5", Measure::Temperature, -5.0),
            (System::Us, "55 lb", Measure::Force, 244.652_188_8),
            // 1 ft2 = 9.290 304 E-02 m2: NIST SP 811 B.8.
            (System::Us, "10", Measure::Area, 0.929_030_4),
            (System::Us, "1.7 m²", Measure::Area, 1.7),
            // 1 lbf in = 1.129 848 E-01 N m, 1 lbf ft = 1.355 818 N m: NIST SP 811 B.8.
            (System::Us, "80", Measure::Torque, 9.038_786_3),
            (System::Us, "6 ft lb", Measure::Torque, 8.134_907_7),
            (System::Nautical, "9 N m", Measure::Torque, 9.0),
            (System::Metric, "80 in-lb", Measure::Torque, 9.038_786_3),
        ] {
            let range = match measure {
                Measure::Mass => allowed::CRAFT_MASS,
                Measure::Length => allowed::CRAFT_LENGTH,
                Measure::Side => allowed::BATTERY_SIDE,
                Measure::Speed => allowed::SPEED,
                Measure::Distance => allowed::DISTANCE,
                Measure::Temperature => allowed::TEMPERATURE,
                Measure::Force => allowed::THRUST,
                Measure::Area => allowed::WINDAGE,
                Measure::Torque => allowed::READING,
            };
            let got = system.read(typed, measure, &range).expect(typed);
            assert!((got - si).abs() < 1e-6, "{typed}: {got}, not {si}");
            let figure = system.figure(measure, got);
            let again = system.read(&format!("{figure:.9}"), measure, &range).expect("again");
            assert!((again - got).abs() < 1e-6, "{typed} does not come back");
        }
    }

    #[test]
    fn what_is_refused_says_what_is_allowed_in_the_units_shown() {
        let says = |system: System, typed: &str| {
            system.read(typed, Measure::Speed, &allowed::SPEED).expect_err(typed).to_string()
        };
        assert_eq!(says(System::Us, "300"), "Type a number from 0 to 134 mph, as in 5.");
        assert_eq!(says(System::Metric, "300"), "Type a number from 0 to 216 km/h, as in 6.");
        assert_eq!(says(System::Us, ""), "Type a number from 0 to 134 mph, as in 5.");
        for typed in
            ["5 furlongs", "NaN", "1e309", "5 mph 3", "--5", "1/0", "9".repeat(400).as_str()]
        {
            says(System::Us, typed);
        }
    }
}
