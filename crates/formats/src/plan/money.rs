//! What money is reckoned with: the document, its check, its writing.

use super::day::unless;
use crate::fault::Checker;
use lake_hour_core::allowed;
use lake_hour_core::money::Terms;
use lake_hour_core::units::{Hours, Money};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The terms of one household; sums in the plan's currency.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MoneyDocument {
    /// A kilowatt-hour from the wall or the generator; what is typical for the currency if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::ENERGY_PRICE.low, max = allowed::ENERGY_PRICE.high))]
    pub energy_price_per_kwh: Option<f64>,
    /// Interest a year, as a share; 0 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::DISCOUNT.low, max = allowed::DISCOUNT.high))]
    pub discount: Option<f64>,
    /// By how much lead gets dearer a year, as a share; 0 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::TREND.low, max = allowed::TREND.high))]
    pub lead_trend: Option<f64>,
    /// The same for lithium.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::TREND.low, max = allowed::TREND.high))]
    pub lithium_trend: Option<f64>,
    /// What an own hour is worth; 0 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hour: Option<f64>,
    /// Water and cleaning of flooded batteries in a year; 10 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub water_per_year: Option<f64>,
    /// Hours of it in a year; 2 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::UPKEEP.low, max = allowed::UPKEEP.high))]
    pub upkeep_hours: Option<f64>,
    /// What a first set that outlasts the years looked ahead is worth then, as a share of its unused years' price; 0 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::SHARE.low, max = allowed::SHARE.high))]
    pub resale: Option<f64>,
    /// What the pack and the charger aboard bring; 0 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sale: Option<f64>,
    /// Units that fail before their time in a year, as a share; 0.02 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::FAILING_SHARE.low, max = allowed::FAILING_SHARE.high))]
    pub failing: Option<f64>,
}

pub(super) fn check(c: &mut Checker, doc: Option<&MoneyDocument>) -> Terms {
    let usual = Terms::default();
    let Some(doc) = doc else { return usual };
    let mut figure = |name: &str, value: Option<f64>, range: &allowed::Allowed, usual: f64| {
        c.optional(format!("house_rules.money.{name}"), value, range).unwrap_or(usual)
    };
    let price = &allowed::PRICE;
    let terms = Terms {
        energy_price: None,
        discount: figure("discount", doc.discount, &allowed::DISCOUNT, usual.discount),
        lead_trend: figure("lead_trend", doc.lead_trend, &allowed::TREND, usual.lead_trend),
        lithium_trend: {
            figure("lithium_trend", doc.lithium_trend, &allowed::TREND, usual.lithium_trend)
        },
        hour: Money::of(figure("hour", doc.hour, price, usual.hour.value())),
        water: Money::of(figure("water_per_year", doc.water_per_year, price, usual.water.value())),
        upkeep: {
            let usual = usual.upkeep.value();
            Hours::of(figure("upkeep_hours", doc.upkeep_hours, &allowed::UPKEEP, usual))
        },
        resale: figure("resale", doc.resale, &allowed::SHARE, usual.resale),
        sale: Money::of(figure("sale", doc.sale, price, usual.sale.value())),
        failing: figure("failing", doc.failing, &allowed::FAILING_SHARE, usual.failing),
    };
    let at = "house_rules.money.energy_price_per_kwh";
    let energy = c.optional(at, doc.energy_price_per_kwh, &allowed::ENERGY_PRICE).map(Money::of);
    Terms { energy_price: energy, ..terms }
}

/// Nothing where all is as usual, so that files stay short.
pub(super) fn write(terms: &Terms) -> Option<MoneyDocument> {
    let usual = Terms::default();
    let sum = |value: Money, usual: Money| unless(value.value(), usual.value());
    let doc = MoneyDocument {
        energy_price_per_kwh: terms.energy_price.map(Money::value),
        discount: unless(terms.discount, usual.discount),
        lead_trend: unless(terms.lead_trend, usual.lead_trend),
        lithium_trend: unless(terms.lithium_trend, usual.lithium_trend),
        hour: sum(terms.hour, usual.hour),
        water_per_year: sum(terms.water, usual.water),
        upkeep_hours: unless(terms.upkeep.value(), usual.upkeep.value()),
        resale: unless(terms.resale, usual.resale),
        sale: sum(terms.sale, usual.sale),
        failing: unless(terms.failing, usual.failing),
    };
    (doc != MoneyDocument::default()).then_some(doc)
}
