//! Wind, current, road and weather.

use crate::keyed::keyed;
use crate::units::{Celsius, MetresPerSecond};

/// What the air and the water do.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Conditions {
    /// Wind speed. [m/s]
    pub wind: MetresPerSecond,
    /// Speed of the water's own current. [m/s]
    pub current: MetresPerSecond,
    /// Air around the batteries, if told. [°C]
    pub air: Option<Celsius>,
}

impl Conditions {
    /// No wind, no current.
    pub const CALM: Self =
        Self { wind: MetresPerSecond::ZERO, current: MetresPerSecond::ZERO, air: None };
}

/// What changes at a clock time, until the next one says otherwise.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HourConditions {
    /// Minutes after the midnight before the start.
    pub from_minute: u32,
    /// Wind from then on. [m/s]
    pub wind: Option<MetresPerSecond>,
    /// Current from then on. [m/s]
    pub current: Option<MetresPerSecond>,
    /// Air from then on. [°C]
    pub air: Option<Celsius>,
}

impl HourConditions {
    /// These over what was before.
    pub fn over(&self, before: Conditions) -> Conditions {
        Conditions {
            wind: self.wind.unwrap_or(before.wind),
            current: self.current.unwrap_or(before.current),
            air: self.air.or(before.air),
        }
    }
}

keyed! {
    /// How wind and current stand to a stretch.
    pub enum Heading {
        /// Against both.
        Into,
        /// Across them: neither helps nor hinders.
        Across,
        /// With both.
        With,
    }
}

impl Heading {
    /// Share of wind and current that stands against the craft: 1, 0 or -1.
    pub const fn against(self) -> f64 {
        match self {
            Self::Into => 1.0,
            Self::Across => 0.0,
            Self::With => -1.0,
        }
    }
}

keyed! {
    /// What a cart rolls on.
    pub enum Surface {
        /// Asphalt or concrete.
        Asphalt,
        /// Gravel.
        Gravel,
        /// Short grass.
        Grass,
        /// Loose sand.
        Sand,
    }
}

impl Surface {
    /// Rolling resistance as a share of the weight, typical, and how far it ranges.
    ///
    /// Asphalt 0.012 to 0.022, gravel 0.02 to 0.035, short grass 0.035 to 0.10, sand 0.1 and more:
    /// ranges of vehicle-dynamics textbooks (Gillespie; Wong), from memory.
    pub const fn rolling(self) -> (f64, f64, f64) {
        match self {
            Self::Asphalt => (0.015, 0.012, 0.022),
            Self::Gravel => (0.027, 0.020, 0.035),
            Self::Grass => (0.060, 0.035, 0.100),
            Self::Sand => (0.150, 0.100, 0.250),
        }
    }
}
