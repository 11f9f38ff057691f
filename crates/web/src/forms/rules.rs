//! The house rules as fields.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::house::HouseRules;
use lake_hour_core::life::School;
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::Celsius;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_store::Change;

const RULES: &[Spec] = &[
    Spec::figure("reserve", "Reserve for the way home", "%", "of what may be used"),
    Spec::figure("flooded", "Flooded keeps", "%", "half is usual"),
    Spec::figure("agm", "AGM keeps", "%", "50; some say 20"),
    Spec::figure("gel", "Gel keeps", "%", ""),
    Spec::figure("lfp", "LFP keeps", "%", "10; some say 0 or 20"),
    Spec::figure("nmc", "NMC keeps", "%", ""),
    Spec::figure("lfp_top", "LFP charged to", "%", "100; some say 80 or 90"),
    Spec::figure("nmc_top", "NMC charged to", "%", ""),
    Spec::figure("horizon", "Look ahead", "years", ""),
    Spec::measure("kept", "Stored at", Measure::Temperature, ""),
    Spec::figure("resting", "Stored at a charge of", "%", "heat and full age lithium"),
    Spec::choice("school", "What ages lithium", SCHOOLS),
];

/// Two schools, neither settled.
const SCHOOLS: &[(&str, &str)] =
    &[("calendar", "years and warmth"), ("window", "cycles near full as well")];

/// Chemistries that may be charged to less than full; lead wants to be full.
const TOPPED: [(Chemistry, &str); 2] = [(Chemistry::Lfp, "lfp_top"), (Chemistry::Nmc, "nmc_top")];

pub(crate) fn fields(form: Shown<'_>) -> Vec<Field> {
    form.fields("rules", RULES)
}

pub(crate) fn typed(rules: &HouseRules, units: System) -> Typed {
    let percent = |share: f64| figures::typed(share * 100.0);
    let kept = rules.keeping.temperature.value();
    let typed = Typed::default()
        .with("reserve", percent(rules.reserve))
        .with("horizon", figures::typed(rules.horizon_years))
        .with("kept", shown(units, Measure::Temperature, kept))
        .with("resting", percent(rules.keeping.resting_charge))
        .with("school", rules.keeping.school.key());
    let typed =
        TOPPED.into_iter().fold(typed, |t, (c, name)| t.with(name, percent(rules.ceiling(c))));
    Chemistry::ALL.into_iter().fold(typed, |t, c| t.with(c.key(), percent(rules.floor(c))))
}

/// A ceiling typed as a percentage.
const TOP: allowed::Allowed = allowed::Allowed { low: 50.0, high: 100.0, unit: "%" };
/// A share of the charge typed as a percentage.
const CHARGE: allowed::Allowed = allowed::Allowed { low: 5.0, high: 100.0, unit: "%" };

pub(crate) fn read(typed: &Typed, units: System, before: &HouseRules) -> Result<Change, Problems> {
    let mut r = Reader::of(typed, units);
    let mut rules = *before;
    let mut whole = true;
    for chemistry in Chemistry::ALL {
        match r.number(chemistry.key(), &allowed::PERCENT) {
            Some(percent) => rules = rules.with_floor(chemistry, percent / 100.0),
            None => whole = false,
        }
    }
    for (chemistry, name) in TOPPED {
        let ceiling = if typed.has(name) {
            r.number(name, &TOP).map(|percent| percent / 100.0)
        } else {
            Some(before.ceiling(chemistry))
        };
        match ceiling {
            Some(ceiling) if ceiling <= rules.floor(chemistry) + 0.05 => {
                r.problem(name, "Must lie above what it keeps, or nothing is left to use.");
                whole = false;
            }
            Some(ceiling) => rules = rules.with_ceiling(chemistry, ceiling),
            None => whole = false,
        }
    }
    if typed.has("school") {
        match r.choice("school", School::from_key) {
            Some(school) => rules.keeping.school = school,
            None => whole = false,
        }
    }
    let mut take = |read: Option<f64>, put: &mut f64, times: f64| match read {
        Some(value) => *put = value * times,
        None => whole = false,
    };
    take(r.number("reserve", &allowed::PERCENT), &mut rules.reserve, 0.01);
    take(r.number("horizon", &allowed::HORIZON), &mut rules.horizon_years, 1.0);
    take(r.number("resting", &CHARGE), &mut rules.keeping.resting_charge, 0.01);
    let kept = r.measure("kept", Measure::Temperature, &allowed::TEMPERATURE);
    let before = Some(before.keeping.temperature.value());
    match untouched(units, Measure::Temperature, before, typed.get("kept"), kept) {
        Some(t) => rules.keeping.temperature = Celsius::of(t),
        None => whole = false,
    }
    r.finish(whole.then_some(Change::EditRules(rules)))
}
