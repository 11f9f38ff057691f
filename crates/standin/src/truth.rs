//! What is true of a day and nobody is told.

use lake_hour_core::pack::Pack;
use rand::rngs::StdRng;
use rand::{RngExt, SeedableRng};
use rand_distr::StandardNormal;

/// What is true and nobody is told: drawn of a seed, always the same for it.
#[derive(Debug, Clone, PartialEq)]
pub struct Truth {
    /// Wind, over the plan's.
    pub wind: f64,
    /// Power that a speed takes, over the model's: hull, load, tires.
    pub drag: f64,
    /// Amps at a setting, over the plan's.
    pub draw: f64,
    /// Capacity of each unit in series, over its label's; one of them is weak.
    pub units: Vec<f64>,
    /// How much a current puts out of reach, and how long it is remembered: in standard deviations of what the label leaves open.
    pub shape: (f64, f64),
    /// Resistance, over the label's.
    pub resistance: f64,
    /// Charge it begins with.
    pub charge: f64,
    /// The meter's zero. [A]
    pub zero: f64,
    /// What the meter's volts are off. [V a cell]
    pub bias: f64,
    /// Share of the time in which nothing is told.
    pub silent: f64,
    /// What its battery is like.
    pub battery: Battery,
}

/// What a battery is like.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Battery {
    /// It follows the program's own law, with figures that nobody tells.
    OwnLaw,
    /// It follows the discharge curves of another model, kept as data: porous electrodes of lead or LFP.
    OtherModel,
}

/// At the most so much less than is believed does a pack hold by wear that nobody has told or measured yet, of lithium and lead. Lead
/// is used until it is worn out, at 80 % of its label as cycle lives are told, and that in a few years; lithium lasts ten. Estimate.
const WORN: (f64, f64) = (0.05, 0.12);

/// Draws.
#[derive(Debug)]
pub(crate) struct Dice(StdRng);

impl Dice {
    pub(crate) fn of(seed: u64) -> Self {
        Self(StdRng::seed_from_u64(seed))
    }

    /// 0 to 1.
    pub(crate) fn flat(&mut self) -> f64 {
        self.0.random()
    }

    pub(crate) fn normal(&mut self) -> f64 {
        self.0.sample(StandardNormal)
    }
}

impl Truth {
    /// As a day may really be: a third more wind, a worn pack with a weak unit that the label does not tell all of, a meter with a zero
    /// of its own.
    pub fn of(seed: u64, pack: &Pack, begins: f64) -> Self {
        let mut dice = Dice::of(seed);
        let worn = if pack.battery.chemistry.is_lead() { WORN.1 } else { WORN.0 };
        let worn = 1.0 - worn * dice.flat() + 0.04 * dice.normal();
        let weak = (dice.flat() * f64::from(pack.series)) as usize;
        let units = (0..pack.series as usize).map(|n| {
            let unlike = 0.01 * dice.normal() - if n == weak { 0.02 } else { 0.0 };
            (worn + unlike).max(0.6)
        });
        let units = units.collect();
        Self {
            units,
            wind: 1.3 + 0.2 * dice.normal(),
            drag: (0.15 * dice.normal()).exp(),
            draw: (0.04 * dice.normal()).exp(),
            resistance: (0.15 + 0.25 * dice.normal()).exp(),
            charge: (begins - 0.02 * dice.normal().abs()).clamp(0.05, 1.0),
            zero: 0.05 * dice.normal(),
            bias: 0.006 * dice.normal(),
            silent: 0.03,
            shape: (dice.normal(), dice.normal()),
            battery: Battery::OwnLaw,
        }
    }

    /// The same with a battery of another model.
    pub fn of_another_model(self) -> Self {
        Self { battery: Battery::OtherModel, ..self }
    }

    /// A day as the plan has it, with a meter that is right and never silent.
    pub fn as_planned(series: u32, begins: f64) -> Self {
        Self {
            wind: 1.0,
            drag: 1.0,
            draw: 1.0,
            units: vec![1.0; series as usize],
            shape: (0.0, 0.0),
            resistance: 1.0,
            charge: begins,
            zero: 0.0,
            bias: 0.0,
            silent: 0.0,
            battery: Battery::OwnLaw,
        }
    }
}
