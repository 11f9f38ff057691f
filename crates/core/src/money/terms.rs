//! What money is reckoned with: prices of a kilowatt-hour and an hour, interest, trends, what is sold.

use crate::pack::Pack;
use crate::shelf::Battery;
use crate::units::{Hours, Money};

/// The terms of one household. All sums in the plan's currency.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Terms {
    /// A kilowatt-hour from the wall or the generator; what is typical for the currency if not told.
    pub energy_price: Option<Money>,
    /// Interest a year, as a share: what money would earn elsewhere, above inflation.
    pub discount: f64,
    /// By how much lead gets dearer a year, as a share; negative for cheaper.
    pub lead_trend: f64,
    /// The same for lithium.
    pub lithium_trend: f64,
    /// What an own hour is worth.
    pub hour: Money,
    /// Water and cleaning of flooded batteries in a year.
    pub water: Money,
    /// Hours of it in a year. [h]
    pub upkeep: Hours,
    /// What a first set that outlasts the years looked ahead is worth then, as a share of its unused years' price.
    pub resale: f64,
    /// What the pack and the charger aboard bring when another pack takes their place.
    pub sale: Money,
    /// Units that fail before their time in a year, as a share.
    pub failing: f64,
}

/// Units that fail in a year, as a share. Typical, from memory: makers publish none. Every owner may have a figure of
/// one's own.
pub const USUAL_FAILING: f64 = 0.02;

impl Default for Terms {
    /// No interest and no trend: sums as they are paid. Nothing for what outlasts the years looked ahead: a choice, so that
    /// a long life nobody lives to see is not paid for. Water and hours: common practice, no source.
    fn default() -> Self {
        Self {
            energy_price: None,
            discount: 0.0,
            lead_trend: 0.0,
            lithium_trend: 0.0,
            hour: Money::ZERO,
            water: Money::of(10.0),
            upkeep: Hours::of(2.0),
            resale: 0.0,
            sale: Money::ZERO,
            failing: USUAL_FAILING,
        }
    }
}

/// A household's kilowatt-hour by currency, where it is not told. All from memory.
const TYPICAL: [(&str, f64); 5] =
    [("USD", 0.17), ("CAD", 0.14), ("EUR", 0.28), ("GBP", 0.27), ("AUD", 0.33)];

/// What a kilowatt-hour usually costs in a currency; `None` where no figure is known.
pub fn typical_energy_price(currency: &str) -> Option<Money> {
    TYPICAL.iter().find(|(code, _)| *code == currency).map(|(_, price)| Money::of(*price))
}

impl Terms {
    /// The same with what is typical for the currency where nothing is told.
    pub fn in_currency(mut self, currency: &str) -> Self {
        self.energy_price = self.energy_price.or_else(|| typical_energy_price(currency));
        self
    }

    /// All that is paid now for a pack: batteries, extras and labour, less what is sold of what is aboard where it takes
    /// its place. Nothing for what is aboard: it is paid. `None` without a price.
    pub fn paid_now(&self, pack: &Pack) -> Option<Money> {
        if pack.aboard {
            return Some(Money::ZERO);
        }
        pack.price_total().map(|price| price - self.sale)
    }

    /// By how much a battery gets dearer a year, as a share.
    pub const fn trend(&self, battery: &Battery) -> f64 {
        if battery.chemistry.is_lead() { self.lead_trend } else { self.lithium_trend }
    }

    /// What a year's upkeep costs: only cells that can be opened want water.
    pub fn upkeep_of(&self, battery: &Battery) -> Money {
        if battery.chemistry == crate::shelf::Chemistry::Flooded {
            self.water + self.hour * self.upkeep.value()
        } else {
            Money::ZERO
        }
    }
}
