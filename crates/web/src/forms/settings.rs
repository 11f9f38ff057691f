//! The day's frame, the house rules and the rig as fields.

use super::{Field, Problems, Reader, Spec, Typed, fields};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::day::{self, Day};
use lake_hour_core::house::HouseRules;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::{Amps, Celsius, Kilograms, Volts, convert};
use lake_hour_store::Change;

const DAY: &[Spec] = &[
    Spec::figure("start", "Starts at", "", "as in 07:00"),
    Spec::figure("ambient", "Around the batteries", "°F", "or add C; 77 °F if empty"),
    Spec::figure("outings", "Days like this", "a year", ""),
];

const RULES: &[Spec] = &[
    Spec::figure("reserve", "Reserve for the way home", "%", "of what may be used"),
    Spec::figure("flooded", "Flooded keeps", "%", "half is the usual school"),
    Spec::figure("agm", "AGM keeps", "%", "50; some say 20"),
    Spec::figure("gel", "Gel keeps", "%", ""),
    Spec::figure("lfp", "LFP keeps", "%", "10; some say 0 or 20"),
    Spec::figure("nmc", "NMC keeps", "%", ""),
    Spec::figure("horizon", "Look ahead", "years", ""),
];

const KINDS: &[(&str, &str)] = &[
    ("kayak", "Kayak"),
    ("canoe", "Canoe"),
    ("jon_boat", "Jon boat"),
    ("v_hull", "V-hull"),
    ("bass", "Bass-type boat"),
    ("pontoon", "Pontoon or barge"),
    ("sailboat", "Sailboat or cruiser"),
    ("rowing_skiff", "Rowing skiff"),
    ("golf_cart", "Golf cart"),
    ("utility_cart", "Utility cart"),
    ("lsv", "Low-speed vehicle"),
    ("go_kart", "Go-kart"),
    ("motorbike", "Motorbike"),
    ("conversion", "Small conversion"),
];

const RIG: &[Spec] = &[
    Spec::words("name", "Name"),
    Spec::choice("kind", "Craft", KINDS),
    Spec::figure("volts", "Motor's system", "V", "12, 24, 36, 48 ..."),
    Spec::figure("max", "Motor's highest amps", "A", "from its label"),
    Spec::figure("highest", "Controller bears", "V", "at most; no limit if empty"),
    Spec::figure("lowest", "Controller needs", "V", "at least; none if empty"),
    Spec::figure("limit", "Weight for batteries", "lb", "at most; or add kg"),
];

pub(crate) fn day_fields(typed: &Typed, problems: &Problems) -> Vec<Field> {
    fields("day", DAY, typed, problems)
}

pub(crate) fn day_typed(day: &Day) -> Typed {
    let fahrenheit = |t| figures::typed_coarse(convert::fahrenheit(t));
    Typed::default()
        .with("start", day::clock_words(day.start_minute))
        .with("ambient", day.ambient.map(fahrenheit).unwrap_or_default())
        .with("outings", figures::typed(day.outings_per_year))
}

pub(crate) fn read_day(typed: &Typed) -> Result<Change, Problems> {
    let mut r = Reader::of(typed);
    let start = day::clock(typed.get("start"));
    if start.is_none() {
        r.problem("start", "Type a clock time from 00:00 to 23:59.");
    }
    let ambient = r.temperature("ambient");
    let outings = r.number("outings", &allowed::OUTINGS);
    let change = match (start, ambient, outings) {
        (Some(start_minute), Some(ambient), Some(outings_per_year)) => Some(Change::EditDay {
            start_minute,
            ambient: ambient.map(Celsius::of),
            outings_per_year,
        }),
        _ => None,
    };
    r.finish(change)
}

pub(crate) fn rules_fields(typed: &Typed, problems: &Problems) -> Vec<Field> {
    fields("rules", RULES, typed, problems)
}

pub(crate) fn rules_typed(rules: &HouseRules) -> Typed {
    let percent = |share: f64| figures::typed(share * 100.0);
    let typed = Typed::default()
        .with("reserve", percent(rules.reserve))
        .with("horizon", figures::typed(rules.horizon_years));
    Chemistry::ALL.into_iter().fold(typed, |t, c| t.with(c.key(), percent(rules.floor(c))))
}

pub(crate) fn read_rules(typed: &Typed, before: &HouseRules) -> Result<Change, Problems> {
    let mut r = Reader::of(typed);
    let mut rules = *before;
    let mut whole = true;
    for chemistry in Chemistry::ALL {
        match r.number(chemistry.key(), &allowed::PERCENT) {
            Some(percent) => rules = rules.with_floor(chemistry, percent / 100.0),
            None => whole = false,
        }
    }
    match r.number("reserve", &allowed::PERCENT) {
        Some(percent) => rules.reserve = percent / 100.0,
        None => whole = false,
    }
    match r.number("horizon", &allowed::HORIZON) {
        Some(years) => rules.horizon_years = years,
        None => whole = false,
    }
    r.finish(whole.then_some(Change::EditRules(rules)))
}

pub(crate) fn rig_fields(typed: &Typed, problems: &Problems) -> Vec<Field> {
    fields("rig", RIG, typed, problems)
}

pub(crate) fn rig_typed(rig: &Rig) -> Typed {
    let volts = |v: Option<Volts>| v.map(|v| figures::typed(v.value())).unwrap_or_default();
    let limit = rig.battery_mass_limit.map(|m| figures::typed_coarse(convert::pounds(m)));
    Typed::default()
        .with("name", &*rig.name)
        .with("kind", rig.craft.kind.key())
        .with("volts", figures::typed(rig.motor.system_voltage.value()))
        .with("max", rig.motor.max_current.map(|a| figures::typed(a.value())).unwrap_or_default())
        .with("highest", volts(rig.controller_max))
        .with("lowest", volts(rig.controller_min))
        .with("limit", limit.unwrap_or_default())
}

/// Reads a rig. `needs_draw` tells whether the day has stretches by motor setting.
pub(crate) fn read_rig(typed: &Typed, before: &Rig, needs_draw: bool) -> Result<Change, Problems> {
    let mut r = Reader::of(typed);
    let name = r.name("name");
    let kind = r.choice("kind", CraftKind::from_key);
    let volts = r.number("volts", &allowed::SYSTEM_VOLTAGE);
    let max = r.optional("max", &allowed::LIMIT_CURRENT);
    let highest = r.optional("highest", &allowed::VOLTAGE);
    let lowest = r.optional("lowest", &allowed::VOLTAGE);
    let limit = r.mass("limit", &allowed::CRAFT_MASS);
    if max == Some(None) && needs_draw && before.motor.settings.is_empty() {
        r.problem("max", "The day has stretches by motor setting: they need this figure.");
    }
    if let (Some(Some(lowest)), Some(Some(highest))) = (lowest, highest)
        && lowest >= highest
    {
        r.problem("lowest", "Must be below the highest.");
    }
    let rig = (|| {
        let mut rig = before.clone();
        rig.name = name?;
        rig.craft.kind = kind?;
        rig.motor.system_voltage = Volts::of(volts?);
        rig.motor.max_current = max?.map(Amps::of);
        rig.controller_max = highest?.map(Volts::of);
        rig.controller_min = lowest?.map(Volts::of);
        rig.battery_mass_limit = limit?.map(Kilograms::of);
        Some(Change::EditRig(Box::new(rig)))
    })();
    r.finish(rig)
}
