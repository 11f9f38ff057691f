//! What moves and what pushes it: the craft, the motor, and what they allow.

mod bay;
pub(crate) mod brushed;
mod charger;
mod craft;
mod dial;
mod lesson;
mod motor;

pub use bay::{Bay, Whereabouts};
pub use charger::{Charger, Supply};
pub use craft::{Craft, CraftKind, PERSON, Usual};
pub use dial::{Dial, Mark, NoDial};
pub use lesson::{Lesson, Pushes};
pub use motor::{BOLLARD, Motor, SettingPoint, typical_current};

use crate::keyed::keyed;
use crate::units::{Amps, Kilograms, Metres, MetresPerSecond, Volts};

/// Most bays, chargers or measured speeds of one rig.
pub const MOST_PARTS: usize = 12;

impl Rig {
    /// Another dial. A point of the draw curve stays at the mark that it was read at where the new dial has that mark; else as far up
    /// as it was.
    pub fn turn_dial(&mut self, dial: Dial) {
        let motor = &mut self.motor;
        if motor.dial == dial {
            return;
        }
        for point in &mut motor.settings {
            let name = match motor.dial.mark(point.setting) {
                Mark::Number(n) | Mark::Percent(n) => n.to_string(),
                Mark::Named(name) => name.to_owned(),
                Mark::Off => continue,
            };
            // A number of ten is none of a hundred.
            let scales = matches!((&motor.dial, &dial), (Dial::Percent, _) | (_, Dial::Percent));
            if let Some(setting) = dial.at(&name).filter(|_| !scales) {
                point.setting = setting;
            }
        }
        motor.settings.sort_by(|a, b| a.setting.total_cmp(&b.setting));
        motor.dial = dial;
    }
}

/// A speed and the current it took, read off on one's own boat in calm water.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SpeedPoint {
    /// Speed through the water or along the road. [m/s]
    pub speed: MetresPerSecond,
    /// Current of all motors together. [A]
    pub current: Amps,
}

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
    /// From the batteries to the motor, one way; the motor is then told to stand behind that cable. [m]
    pub lead: Option<Metres>,
    /// Weight its trailer may carry. [kg]
    pub trailer_limit: Option<Kilograms>,
    /// Whether a combustion engine pushes it besides, on which it may plane.
    pub main_engine: bool,
    /// What it draws while it stands and cannot be switched off. [A]
    pub standing_drain: Option<Amps>,
    /// Where batteries can go.
    pub bays: Vec<Bay>,
    /// What fills them again.
    pub chargers: Vec<Charger>,
    /// Speeds measured on this very craft, slowest first.
    pub measured: Vec<SpeedPoint>,
    /// What beside batteries is there already and serves whatever pack is chosen, each once.
    pub owned: Vec<Owned>,
}

keyed! {
    /// What an owner may have already, so that no pack needs it bought.
    pub enum Owned {
        /// A charger that suits.
        Charger,
        /// Fuses with their holders.
        Fuse,
        /// A breaker.
        Breaker,
        /// Cables with their lugs, between the units and to the motor.
        Cables,
        /// A meter of charge.
        Meter,
    }
}

impl Rig {
    /// The rig with amps that were read without their volts read at these: those of the pack that is aboard.
    pub fn read_at(&self, volts: Option<Volts>) -> Self {
        let mut rig = self.clone();
        rig.motor.read_at = volts;
        rig
    }

    /// The rig by its labels and what is typical alone: as if nothing had been learnt from a log.
    pub fn unlearned(&self) -> Self {
        let mut rig = self.clone();
        rig.motor.learned = None;
        rig.craft.learned = Pushes::default();
        rig
    }

    /// A rig of which only the required figures are known.
    pub fn new(name: impl Into<String>, kind: CraftKind, system_voltage: Volts) -> Self {
        Self {
            name: name.into(),
            craft: Craft::of(kind),
            motor: Motor::of(system_voltage),
            controller_max: None,
            controller_min: None,
            battery_mass_limit: None,
            lead: None,
            trailer_limit: None,
            main_engine: false,
            standing_drain: None,
            bays: Vec::new(),
            chargers: Vec::new(),
            measured: Vec::new(),
            owned: Vec::new(),
        }
    }
}
