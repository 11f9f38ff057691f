//! House and electronics on a battery of their own.

use super::view::PacksView;
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::house_battery::{Offer, VOLTS, ledger};
use lake_hour_core::shelf::{Battery, Chemistry};
use lake_hour_core::units::Money;
use lake_hour_core::units::parse;
use lake_hour_core::units::say::Say;
use lake_hour_store::BatteryId;
use std::collections::BTreeMap;

/// Batteries that are told.
pub(super) const MOST_OFFERS: usize = 5;

/// The house battery on the page.
#[derive(Debug, Clone)]
pub(super) struct HouseView {
    /// (device, watts, amps at 12 V, hours, amp-hours)
    pub(super) items: Vec<[String; 5]>,
    pub(super) sum: String,
    pub(super) sizes: String,
    pub(super) offers: Vec<OfferView>,
    pub(super) days: String,
    pub(super) problem: Option<String>,
}

/// A battery of the shelf that would do.
#[derive(Debug, Clone)]
pub(super) struct OfferView {
    pub(super) name: String,
    pub(super) price: String,
    pub(super) mass: String,
    pub(super) days: String,
    pub(super) doubted: bool,
}

/// Days between charges: as typed, or the day's own.
pub(super) fn days(view: &PacksView, plan: &Plan) -> Result<f64, String> {
    if view.days.is_empty() {
        return Ok(f64::from(plan.day.days_without_charging));
    }
    parse::number(&view.days, &allowed::HOUSE_DAYS).map_err(|e| e.to_string())
}

/// The cheapest first, those whose labels are doubted last.
pub(super) fn best(all: &[(BatteryId, Offer, bool)]) -> Vec<(BatteryId, Offer, bool)> {
    let price = |o: &Offer| o.price.map_or(f64::INFINITY, Money::value);
    let mut best = all.to_vec();
    best.sort_by(|a, b| {
        a.2.cmp(&b.2).then(price(&a.1).total_cmp(&price(&b.1))).then(a.0.cmp(&b.0))
    });
    best.truncate(MOST_OFFERS);
    best
}

impl HouseView {
    /// `None` where no device has a battery of its own.
    pub(super) fn of(
        plan: &Plan,
        best: &[(BatteryId, Offer, bool)],
        labels: &BTreeMap<BatteryId, Battery>,
        view: &PacksView,
        say: Say<'_>,
    ) -> Option<Self> {
        let ledger = ledger(&plan.day)?;
        let between = days(view, plan);
        let count = between.as_ref().map_or(1.0, |d| *d);
        let items = ledger.items.iter().map(|i| {
            [
                i.name.clone(),
                figures::amount(i.watts.value()),
                figures::amount(i.amps.value()),
                figures::amount(i.hours.value()),
                figures::amount(i.amp_hours.value()),
            ]
        });
        let size = |chemistry: Chemistry| {
            let size = ledger.size(&plan.rules, chemistry, count).sold;
            format!("{} {} Ah", chemistry.name(), figures::amount(size.value()))
        };
        let offers = best.iter().filter_map(|(id, offer, doubted)| {
            let battery = labels.get(id)?;
            let two = if offer.parallel > 1 { "two " } else { "" };
            Some(OfferView {
                name: format!("{two}{}", battery.name),
                price: offer.price.map_or_else(|| "-".to_owned(), |p| say.money(p)),
                mass: offer.mass.map_or_else(|| "-".to_owned(), |m| figures::mass(m, say.units)),
                days: match offer.days {
                    d if d < 9.95 => {
                        format!("{} days", figures::typed_coarse((d * 10.0).floor() / 10.0))
                    }
                    d => format!("{} days", figures::amount(d.floor())),
                },
                doubted: *doubted,
            })
        });
        let total = ledger.a_day.value() * count;
        let days_words = match count {
            1.0 => "one day".to_owned(),
            n => format!("{} days", figures::typed_coarse(n)),
        };
        Some(Self {
            items: items.collect(),
            sum: format!(
                "{} Ah at {} V for {days_words} between charges",
                figures::amount(total),
                figures::amount(VOLTS.value())
            ),
            sizes: format!(
                "Size to buy with floor and reserve kept: {} or {}.",
                size(Chemistry::Agm),
                size(Chemistry::Lfp)
            ),
            offers: offers.collect(),
            days: figures::typed_coarse(count),
            problem: between.err(),
        })
    }
}
