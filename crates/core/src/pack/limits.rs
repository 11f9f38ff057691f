//! Why a pack cannot be used at all, each reason with its figure.

use super::Pack;
use crate::rig::brushed::brushed_speed;
use crate::rig::{Motor, Rig};
use crate::shelf::Chemistry;
use crate::units::system::{Measure, System};
use crate::units::{Amps, Kilograms, Volts};

/// Nominal pack voltages that suit a system, as shares of the system's.
///
/// Four LFP cells for six lead ones give 12.8 V for 12 V, a share of 1.067; 14-cell NMC for 48 V
/// reaches 1.08. Anything outside 0.92 to 1.12 is another system voltage (common practice, no
/// source).
pub const VOLTAGE_MATCH: std::ops::RangeInclusive<f64> = 0.92..=1.12;

/// A reason to set a pack aside. The text says by which figure.
#[derive(Debug, Clone, PartialEq)]
pub enum SetAside {
    /// No capacity on the label.
    StartingBattery,
    /// The string gives another voltage than the system's.
    WrongVoltage {
        /// What the string gives. [V]
        pack: Volts,
        /// What the system is. [V]
        system: Volts,
        /// Units in series that would fit, if any.
        series_wanted: Option<u32>,
    },
    /// Freshly charged it exceeds the controller's maximum.
    TooHighWhenFull {
        /// Freshly charged. [V]
        full: Volts,
        /// The controller's maximum. [V]
        limit: Volts,
    },
    /// Heavier than the craft may carry.
    TooHeavy {
        /// The pack. [kg]
        mass: Kilograms,
        /// The limit. [kg]
        limit: Kilograms,
    },
    /// More units in series or strings side by side than the label allows.
    BeyondLabel {
        /// Which: "in series" or "in parallel".
        way: &'static str,
        /// How many there are.
        wired: u32,
        /// How many its maker allows.
        most: u32,
    },
    /// Flooded batteries on two wheels: they spill when it leans or falls.
    Spills,
    /// A stretch of the day is given by a motor setting, and what the motor draws there is not known: no pack
    /// can be judged. Nothing against this one.
    NoDraw {
        /// Which stretch, from 0.
        index: usize,
        /// Its name.
        name: String,
    },
}

impl SetAside {
    /// A few words to sort packs by.
    pub const fn short(&self) -> &'static str {
        match self {
            Self::StartingBattery => "a starting battery",
            Self::WrongVoltage { .. } => "wrong voltage",
            Self::TooHighWhenFull { .. } => "too many volts when full",
            Self::TooHeavy { .. } => "too heavy",
            Self::BeyondLabel { .. } => "more than the label allows",
            Self::Spills => "spills when it leans",
            Self::NoDraw { .. } => "the motor's draw is not known",
        }
    }
}

impl SetAside {
    /// The reason as a sentence without its subject, with the figures.
    pub fn sentence(&self, units: System) -> String {
        match self {
            Self::StartingBattery => crate::shelf::NotForTraction.to_string(),
            Self::WrongVoltage { pack, system, series_wanted } => {
                let gives = format!("gives {pack:.1}, the system is {system:.0}");
                match series_wanted {
                    Some(s) => format!("{gives}: it takes {s} in series"),
                    None => format!("{gives}: no number of these in series fits"),
                }
            }
            Self::TooHighWhenFull { full, limit } => {
                format!(
                    "freshly charged it stands at {full:.1}, the controller's max is {limit:.1}"
                )
            }
            Self::TooHeavy { mass, limit } => format!(
                "weighs {}, the craft may carry {}",
                units.say(Measure::Mass, mass.value(), 0),
                units.say(Measure::Mass, limit.value(), 0)
            ),
            Self::BeyondLabel { way, wired, most } => {
                format!("has {wired} {way}, its maker allows at most {most}")
            }
            Self::Spills => "is flooded: on two wheels its acid spills".to_owned(),
            Self::NoDraw { index, name } => format!(
                "cannot be judged: what the motor draws in stretch {} ({name}) is not known",
                index + 1
            ),
        }
    }
}

/// The nominal voltage of those that the motor takes which a pack's suits; `None` when none does. [V]
pub fn accepted(pack: &Pack, rig: &Rig) -> Option<Volts> {
    let motor = &rig.motor;
    let all = std::iter::once(&motor.system_voltage).chain(&motor.also_accepts);
    all.copied().find(|volts| VOLTAGE_MATCH.contains(&(pack.voltage() / *volts)))
}

/// What a pack of another voltage than the motor's usual leaves of its top speed, as a share; `None` where it runs on its
/// usual one.
///
/// The propeller's speed of a brushed motor by its own law, see `rig::brushed`: thrust goes with its square, the boat's
/// speed about with it.
pub fn speed_on(pack: &Pack, rig: &Rig) -> Option<f64> {
    let system = rig.motor.system_voltage;
    let other = accepted(pack, rig)? / system;
    ((other - 1.0).abs() > 1e-9).then(|| brushed_speed(other).0)
}

/// Every reason why `pack` cannot be used on `rig`; empty when it can.
pub fn set_aside(pack: &Pack, rig: &Rig) -> Vec<SetAside> {
    let mut reasons = Vec::new();
    if pack.battery.ratings.is_empty() {
        reasons.push(SetAside::StartingBattery);
    }
    let system = rig.motor.system_voltage;
    if accepted(pack, rig).is_none() {
        let wanted = (system / pack.battery.nominal_voltage).round().max(1.0);
        let fits = VOLTAGE_MATCH.contains(&((pack.battery.nominal_voltage * wanted) / system));
        reasons.push(SetAside::WrongVoltage {
            pack: pack.voltage(),
            system,
            series_wanted: (fits && wanted <= crate::allowed::SERIES.high).then_some(wanted as u32),
        });
    }
    if let Some(limit) = rig.controller_max
        && pack.full_charge_voltage() > limit
    {
        reasons.push(SetAside::TooHighWhenFull { full: pack.full_charge_voltage(), limit });
    }
    if let (Some(mass), Some(limit)) = (pack.mass(), rig.battery_mass_limit)
        && mass > limit
    {
        reasons.push(SetAside::TooHeavy { mass, limit });
    }
    let label = [
        ("in series", pack.series, pack.battery.max_series),
        ("in parallel", pack.parallel, pack.battery.max_parallel()),
    ];
    for (way, wired, most) in label {
        if let Some(most) = most.filter(|most| *most < wired) {
            reasons.push(SetAside::BeyondLabel { way, wired, most });
        }
    }
    if pack.battery.chemistry == Chemistry::Flooded && rig.craft.kind.leans() {
        reasons.push(SetAside::Spills);
    }
    reasons
}

/// What a pack's BMS lets through without end, and the more that the motor draws at most; `None` where it carries the motor
/// whole or either is not known. [A, A]
pub fn below_full_throttle(pack: &Pack, motor: &Motor) -> Option<(Amps, Amps)> {
    pack.bms_limit().zip(motor.full_current()).filter(|(limit, full)| limit < full)
}
