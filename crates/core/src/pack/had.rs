//! What an owner says of batteries that have been used: how old they are and what is the matter with them.

use super::{Health, WeakUnit};
use crate::keyed::keyed;
use crate::shelf::{Battery, Chemistry, Detail, Rating};
use crate::source::{Origin, Vouched};
use crate::units::{AmpHours, Hours, Money, Volts, WattHours};

keyed! {
    /// What is the matter.
    pub enum Symptom {
        /// They do as they ever did.
        AsEver,
        /// Days have become shorter.
        Shorter,
        /// One of them is weaker, or hotter, than the others.
        OneWeak,
        /// They do not hold their charge.
        WontHold,
        /// They are dead.
        Dead,
    }
}

/// How old batteries are, and what is the matter with them.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Had {
    /// Years since they were new, 0 to 40; `None` where nobody knows.
    pub years: Option<f64>,
    /// What is the matter; `None` where nothing is told.
    pub symptom: Option<Symptom>,
}

/// What is left of a set whose days have become shorter: nobody notices less than a quarter. Common practice, no source.
const SHORTER: f64 = 0.75;
/// What is left of one that does not hold its charge, and of one that is dead. Estimates.
const WONT_HOLD: f64 = 0.4;
const DEAD: f64 = 0.1;
/// A unit that strays: six tenths of the others, twice their resistance. Estimate.
const STRAYS: WeakUnit = WeakUnit { capacity_share: 0.6, resistance_factor: 2.0 };

impl Had {
    /// What wear has left by that: `1 - 0.2 years / the chemistry's years`, as labels end a life at 80 %, or what the symptom says where
    /// that is less. A test says more.
    pub fn health(&self, battery: &Battery) -> Health {
        let lives = battery.calendar_years.unwrap_or(battery.chemistry.typical_years());
        let by_age = self.years.map_or(1.0, |years| 1.0 - 0.2 * years / lives);
        let at_most = match self.symptom {
            None | Some(Symptom::AsEver | Symptom::OneWeak) => 1.0,
            Some(Symptom::Shorter) => SHORTER,
            Some(Symptom::WontHold) => WONT_HOLD,
            Some(Symptom::Dead) => DEAD,
        };
        let share = by_age.min(at_most).max(DEAD);
        if share < 1.0 { Health::at(share) } else { Health::NEW }
    }

    /// The unit that strays, where one is said to.
    pub fn weak_unit(&self) -> Option<WeakUnit> {
        (self.symptom == Some(Symptom::OneWeak)).then_some(STRAYS)
    }
}

/// Ampere-hours over 20 hours of a lead unit of so many volts that nobody knows the label of: golf-cart sizes of 6 and 8 V, a
/// group 27 to 31 of 12 V. Common practice, no source.
fn usual_ah(volts: Volts) -> AmpHours {
    AmpHours::of(match volts.value() {
        v if v < 7.0 => 220.0,
        v if v < 10.0 => 165.0,
        _ => 100.0,
    })
}

/// What a watt-hour of a chemistry usually costs, so that it is known what such a set costs to buy again. Typical, from memory.
const fn usual_price_per_wh(chemistry: Chemistry) -> f64 {
    match chemistry {
        Chemistry::Flooded => 0.12,
        Chemistry::Agm => 0.18,
        Chemistry::Gel => 0.24,
        Chemistry::Lfp => 0.25,
        Chemistry::Nmc => 0.35,
    }
}

impl Battery {
    /// A battery of which nobody knows the label: its chemistry, its volts, what such ones usually hold where that is not told either,
    /// and what they usually cost.
    pub fn of_unknown_make(chemistry: Chemistry, volts: Volts, ah: Option<AmpHours>) -> Self {
        let over = Hours::of(if chemistry.is_lead() { 20.0 } else { 5.0 });
        let rating = Rating::Capacity { ah: ah.unwrap_or(usual_ah(volts)), over };
        let mut battery = Self::new("What I have", chemistry, volts, rating);
        battery.hours_assumed = true;
        if ah.is_none() {
            battery.origins.insert(Detail::CAPACITY, Vouched { by: Origin::Typical, on: None });
        }
        let usual = Vouched { by: Origin::Typical, on: None };
        let wh = battery.energy().map_or(0.0, WattHours::value);
        battery.price = Some(Money::of((wh * usual_price_per_wh(chemistry)).round()));
        battery.origins.insert(Detail::PRICE, usual);
        battery
    }
}
