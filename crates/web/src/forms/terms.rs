//! What money is reckoned with, as fields.

use super::{Field, Problems, Reader, Shown, Spec, Typed};
use crate::figures;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::money::{Terms, typical_energy_price};
use lake_hour_core::plan::Plan;
use lake_hour_core::units::{Hours, Money};
use lake_hour_store::Change;

const TERMS: &[Spec] = &[
    Spec::words("currency", "Currency"),
    Spec::figure("energy", "A kWh costs", "", ""),
    Spec::figure("sale", "You sell what is aboard for", "", "pack and charger"),
    Spec::figure("water", "Water for flooded", "a year", "about 10"),
    Spec::figure("upkeep", "Time for it", "h a year", "about 2"),
    Spec::figure("hour", "Your hour is worth", "", "0 if you like doing it"),
    Spec::figure("failing", "Units that fail early", "% a year", "2 from memory"),
    Spec::figure("discount", "Interest", "% a year", "above inflation; 0 counts as paid"),
    Spec::figure("lead", "Lead gets dearer", "% a year", "").with_signs(),
    Spec::figure("lithium", "Lithium gets dearer", "% a year", "-3 if cheaper").with_signs(),
    Spec::figure(
        "resale",
        "Worth of what outlasts the years",
        "%",
        "of its unused years; 0 counts none",
    ),
];

/// Percentages as they are typed.
const INTEREST: Allowed = Allowed { low: 0.0, high: 50.0, unit: "%" };
const TREND: Allowed = Allowed { low: -20.0, high: 20.0, unit: "%" };
const SHARE: Allowed = Allowed { low: 0.0, high: 100.0, unit: "%" };
const FAILING: Allowed = Allowed { low: 0.0, high: 50.0, unit: "%" };

/// The fields; what a kilowatt-hour usually costs is said below its own.
pub(crate) fn fields(form: Shown<'_>, currency: &str) -> (Vec<Field>, String) {
    let usual = match typical_energy_price(currency) {
        Some(price) => format!(
            "Left empty, a kWh counts as {}: a household, from memory. A generator's is some four times that.",
            figures::money(price, currency)
        ),
        None => {
            format!("Left empty, energy is not counted: no usual price in {currency} is known.")
        }
    };
    (form.fields("money", TERMS), usual)
}

pub(crate) fn typed(plan: &Plan) -> Typed {
    let t = &plan.rules.money;
    let percent = |share: f64| figures::typed(share * 100.0);
    let sum = |money: Money| figures::typed(money.value());
    Typed::default()
        .with("currency", &*plan.currency)
        .with("energy", t.energy_price.map(sum).unwrap_or_default())
        .with("sale", sum(t.sale))
        .with("water", sum(t.water))
        .with("upkeep", figures::typed(t.upkeep.value()))
        .with("hour", sum(t.hour))
        .with("failing", percent(t.failing))
        .with("discount", percent(t.discount))
        .with("lead", percent(t.lead_trend))
        .with("lithium", percent(t.lithium_trend))
        .with("resale", percent(t.resale))
}

pub(crate) fn read(
    typed: &Typed,
    units: lake_hour_core::units::system::System,
) -> Result<Change, Problems> {
    let mut r = Reader::of(typed, units);
    let code = r.text("currency").map(|c| c.trim().to_ascii_uppercase());
    let is_code = |c: &String| c.len() == 3 && c.bytes().all(|b| b.is_ascii_uppercase());
    let currency = code.filter(is_code);
    if currency.is_none() {
        r.problem(
            "currency",
            "Type its three letters, as in USD, EUR or CAD. Sums are not converted.",
        );
    }
    let energy = r.optional("energy", &allowed::ENERGY_PRICE);
    let mut figure = |name: &str, range: &Allowed| r.number(name, range);
    let sale = figure("sale", &allowed::PRICE);
    let water = figure("water", &allowed::PRICE);
    let upkeep = figure("upkeep", &allowed::UPKEEP);
    let hour = figure("hour", &allowed::PRICE);
    let failing = figure("failing", &FAILING);
    let discount = figure("discount", &INTEREST);
    let lead = figure("lead", &TREND);
    let lithium = figure("lithium", &TREND);
    let resale = figure("resale", &SHARE);
    let terms = (|| {
        Some(Terms {
            energy_price: energy?.map(Money::of),
            discount: discount? / 100.0,
            lead_trend: lead? / 100.0,
            lithium_trend: lithium? / 100.0,
            hour: Money::of(hour?),
            water: Money::of(water?),
            upkeep: Hours::of(upkeep?),
            resale: resale? / 100.0,
            sale: Money::of(sale?),
            failing: failing? / 100.0,
        })
    })();
    let change = currency.zip(terms).map(|(currency, terms)| Change::EditMoney(currency, terms));
    r.finish(change)
}
