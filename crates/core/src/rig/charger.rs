//! What fills the batteries again: chargers on the mains, a generator, the sun.

use crate::keyed::keyed;
use crate::shelf::Chemistry;
use crate::units::{Amps, Hours, Volts};

keyed! {
    /// What a charger lives on.
    pub enum Supply {
        /// Shore or house power.
        Mains,
        /// A generator that someone has to listen to.
        Generator,
        /// Solar panels behind a controller.
        Solar,
    }
}

/// A charger that is aboard or at the dock.
#[derive(Debug, Clone, PartialEq)]
pub struct Charger {
    /// What it is called.
    pub name: String,
    /// What it lives on.
    pub supply: Supply,
    /// Outputs, each for a bank of its own.
    pub banks: u32,
    /// Nominal voltage of each output. [V]
    pub bank_voltage: Volts,
    /// Current of each output. [A]
    pub current: Amps,
    /// Volts of each output in absorption, the highest that it holds, if told. [V]
    pub absorption: Option<Volts>,
    /// Chemistries it has a profile for; none named means it was not told.
    pub profiles: Vec<Chemistry>,
    /// Hours a night (or of sun a day) it can run; as long as needed when not told. [h]
    pub hours: Option<Hours>,
}
