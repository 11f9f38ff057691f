//! What moves and what pushes it: the craft, the motor, and what they allow.

mod craft;
mod motor;

pub use craft::{Craft, CraftKind};
pub use motor::{Motor, SettingPoint, typical_current};

use crate::units::{Kilograms, Volts};

/// A craft with its motor and the limits a pack must keep.
#[derive(Debug, Clone, PartialEq)]
pub struct Rig {
    /// Its name.
    pub name: String,
    /// The boat or cart.
    pub craft: Craft,
    /// The motor.
    pub motor: Motor,
    /// Highest voltage the controller or motor bears. [V]
    pub controller_max: Option<Volts>,
    /// Lowest voltage at which the controller or motor still works. [V]
    pub controller_min: Option<Volts>,
    /// Weight of battery the craft may carry. [kg]
    pub battery_mass_limit: Option<Kilograms>,
}

impl Rig {
    /// A rig of which only the required figures are known.
    pub fn new(name: impl Into<String>, kind: CraftKind, system_voltage: Volts) -> Self {
        let motor = Motor {
            name: "Motor".to_owned(),
            system_voltage,
            max_current: None,
            settings: Vec::new(),
        };
        Self {
            name: name.into(),
            craft: Craft { kind, length_m: None, loaded_mass: None },
            motor,
            controller_max: None,
            controller_min: None,
            battery_mass_limit: None,
        }
    }
}
