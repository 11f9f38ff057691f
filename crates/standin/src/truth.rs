//! What is true of a day and nobody is told.

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
}

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
    /// As a day may really be: a third more wind, a worn pack with a weak unit, a meter with a zero of its own.
    pub fn of(seed: u64, series: u32, begins: f64) -> Self {
        let mut dice = Dice::of(seed);
        let worn = 1.0 - 0.08 * dice.flat() + 0.04 * dice.normal();
        let weak = (dice.flat() * f64::from(series)) as usize;
        let units = (0..series as usize).map(|n| {
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
        }
    }

    /// A day as the plan has it, with a meter that is right and never silent.
    pub fn as_planned(series: u32, begins: f64) -> Self {
        Self {
            wind: 1.0,
            drag: 1.0,
            draw: 1.0,
            units: vec![1.0; series as usize],
            resistance: 1.0,
            charge: begins,
            zero: 0.0,
            bias: 0.0,
            silent: 0.0,
        }
    }
}
