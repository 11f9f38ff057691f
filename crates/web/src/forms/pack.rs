//! A pack with its battery as groups of fields.

use super::{Group, Problems, Reader, Spec, Typed, fields};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Volts, convert};

const CHEMISTRIES: &[(&str, &str)] = &[
    ("lfp", "LFP (lithium iron phosphate)"),
    ("agm", "AGM (sealed lead)"),
    ("gel", "Gel (sealed lead)"),
    ("flooded", "Flooded (vented lead)"),
    ("nmc", "NMC (lithium; typical figures only)"),
];

const BATTERY: &[Spec] = &[
    Spec::words("name", "Name"),
    Spec::choice("chemistry", "Chemistry", CHEMISTRIES),
    Spec::figure("volts", "Volts of one", "V", "12, 12.8, 6 ..."),
    Spec::figure("ah", "Capacity of one", "Ah", "from the label"),
    Spec::figure("over", "rated over", "h", "20 if it does not say"),
    Spec::figure("reserve", "or reserve", "min", "minutes at 25 A"),
];

const WIRING: &[Spec] = &[
    Spec::figure("series", "In series", "", "adds volts"),
    Spec::figure("parallel", "In parallel", "", "adds amp-hours"),
    Spec::figure("continuous", "Carries for long", "A", "each; its BMS opens above"),
    Spec::figure("cutoff", "Cuts off at", "V", "each; typical if empty"),
    Spec::figure("weak", "One weak unit", "%", "of a sound one's capacity"),
];

const MONEY: &[Spec] = &[
    Spec::figure("mass", "Weight of one", "lb", "or add kg"),
    Spec::figure("price", "Price of one", "", ""),
    Spec::figure("extra", "Charger, meter, cables", "", "all it takes beside them"),
    Spec::figure("cycles", "Cycles promised", "", "typical if empty"),
    Spec::figure("depth", "at a depth of", "%", "80 if it does not say"),
    Spec::figure("years", "Calendar life", "years", "typical if empty"),
];

/// The groups of fields of a pack's form.
pub(crate) fn groups(prefix: &str, typed: &Typed, problems: &Problems) -> Vec<Group> {
    [("Battery", BATTERY), ("Wiring and limits", WIRING), ("Weight, money, life", MONEY)]
        .map(|(title, specs)| Group { title, fields: fields(prefix, specs, typed, problems) })
        .into()
}

/// The fields of a new pack.
pub(crate) fn blank() -> Typed {
    Typed::default()
        .with("chemistry", "lfp")
        .with("series", "1")
        .with("parallel", "1")
        .with("extra", "0")
}

/// The fields of a pack that is there.
pub(crate) fn typed(pack: &Pack) -> Typed {
    let b = &pack.battery;
    let some = |v: Option<f64>| v.map(figures::typed).unwrap_or_default();
    let (capacity, reserve) = (stated_capacity(b), stated_reserve(b));
    let cycles = b.cycles.first();
    Typed::default()
        .with("name", &*pack.name)
        .with("chemistry", b.chemistry.key())
        .with("volts", figures::typed(b.nominal_voltage.value()))
        .with("ah", some(capacity.map(|c| c.0)))
        .with("over", some(capacity.map(|c| c.1)))
        .with("reserve", some(reserve))
        .with("series", pack.series.to_string())
        .with("parallel", pack.parallel.to_string())
        .with("continuous", some(b.max_continuous.map(Amps::value)))
        .with("cutoff", some(b.low_voltage_cutoff.map(Volts::value)))
        .with("weak", some(pack.weak_unit.map(|w| w.capacity_share * 100.0)))
        .with("mass", b.mass.map(|m| figures::typed_coarse(convert::pounds(m))).unwrap_or_default())
        .with("price", some(b.price))
        .with("extra", figures::typed(pack.extra_cost))
        .with("cycles", some(cycles.map(|p| p.cycles)))
        .with("depth", some(cycles.map(|p| p.depth * 100.0)))
        .with("years", some(b.calendar_years))
}

fn stated_capacity(b: &Battery) -> Option<(f64, f64)> {
    b.ratings.iter().find_map(|r| match r {
        Rating::Capacity { ah, over } => Some((ah.value(), over.value())),
        Rating::Runtime { .. } | Rating::Energy { .. } => None,
    })
}

fn stated_reserve(b: &Battery) -> Option<f64> {
    b.ratings.iter().find_map(|r| match r {
        Rating::Runtime { at, lasted } if (at.value() - 25.0).abs() < 1e-9 => {
            Some(lasted.minutes())
        }
        _ => None,
    })
}

/// Reads a pack. What the form does not show is kept from `before`.
pub(crate) fn read(typed: &Typed, before: Option<&Pack>) -> Result<Pack, Problems> {
    let mut r = Reader::of(typed);
    let name = r.name("name");
    let chemistry = r.choice("chemistry", Chemistry::from_key);
    let volts = r.number("volts", &allowed::UNIT_VOLTAGE);
    let ah = r.optional("ah", &allowed::CAPACITY);
    let over = r.optional("over", &allowed::RATED_HOURS);
    let reserve = r.optional("reserve", &allowed::RATED_MINUTES);
    let series = r.whole("series", &allowed::SERIES);
    let parallel = r.whole("parallel", &allowed::PARALLEL);
    let continuous = r.optional("continuous", &allowed::LIMIT_CURRENT);
    let cutoff = r.optional("cutoff", &allowed::VOLTAGE);
    let weak = r.optional("weak", &WEAK_PERCENT);
    let mass = r.mass("mass", &allowed::UNIT_MASS);
    let price = r.optional("price", &allowed::PRICE);
    let extra = r.optional("extra", &allowed::PRICE);
    let cycles = r.optional("cycles", &allowed::CYCLES);
    let depth = r.optional("depth", &DEPTH_PERCENT);
    let years = r.optional("years", &allowed::YEARS);
    if let (Some(Some(cutoff)), Some(volts)) = (cutoff, volts)
        && cutoff >= volts
    {
        r.problem("cutoff", format!("Must be below the battery's {volts} V."));
    }
    let others: Vec<Rating> = before.map(|p| unseen_ratings(&p.battery)).unwrap_or_default();
    let starting = before.is_some_and(|p| p.battery.cranking.is_some());
    if (ah, reserve) == (Some(None), Some(None)) && others.is_empty() && !starting {
        r.problem(
            "ah",
            "Give the Ah or the reserve minutes. Cranking amps tell nothing of run time.",
        );
    }
    let pack = (|| {
        let chemistry = chemistry?;
        let mut ratings = Vec::new();
        if let Some(ah) = ah? {
            let over = over?.unwrap_or(chemistry.usual_rating_hours());
            ratings.push(Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(over) });
        }
        ratings.extend(reserve?.map(Rating::reserve));
        ratings.extend(others);
        let rating = Rating::reserve(1.0);
        let kept = before.map(|p| p.battery.clone());
        let mut battery = kept.unwrap_or_else(|| Battery::new("", chemistry, Volts::ZERO, rating));
        let name = name?;
        battery.name.clone_from(&name);
        battery.chemistry = chemistry;
        battery.nominal_voltage = Volts::of(volts?);
        battery.ratings = ratings;
        battery.max_continuous = continuous?.map(Amps::of);
        battery.low_voltage_cutoff = cutoff?.map(Volts::of);
        let mass = mass?.map(Kilograms::of);
        // A field that was not touched keeps its exact figure, not the rounded one it showed.
        let untouched = before.filter(|p| self::typed(p).get("mass") == typed.get("mass"));
        battery.mass = untouched.map_or(mass, |p| p.battery.mass);
        battery.price = price?;
        battery.calendar_years = years?;
        let later = battery.cycles.get(1..).unwrap_or_default().to_vec();
        battery.cycles = match cycles? {
            Some(cycles) => {
                let depth = depth?.unwrap_or(80.0) / 100.0;
                std::iter::once(CyclePoint { depth, cycles }).chain(later).collect()
            }
            None => Vec::new(),
        };
        let resistance = before.and_then(|p| p.weak_unit).map_or(1.0, |w| w.resistance_factor);
        Some(Pack {
            name,
            battery,
            series: series?,
            parallel: parallel?,
            extra_cost: extra?.unwrap_or(0.0),
            weak_unit: weak?.map(|percent| WeakUnit {
                capacity_share: percent / 100.0,
                resistance_factor: resistance,
            }),
        })
    })();
    r.finish(pack)
}

/// Ratings that have no field of their own.
fn unseen_ratings(b: &Battery) -> Vec<Rating> {
    let (mut capacity, mut reserve) = (false, false);
    let seen = |r: &Rating| match r {
        Rating::Capacity { .. } => !std::mem::replace(&mut capacity, true),
        Rating::Runtime { at, .. } if (at.value() - 25.0).abs() < 1e-9 => {
            !std::mem::replace(&mut reserve, true)
        }
        Rating::Runtime { .. } | Rating::Energy { .. } => false,
    };
    let mut seen = seen;
    b.ratings.iter().filter(|r| !seen(r)).copied().collect()
}

const WEAK_PERCENT: allowed::Allowed = allowed::Allowed { low: 5.0, high: 100.0, unit: "%" };
const DEPTH_PERCENT: allowed::Allowed = allowed::Allowed { low: 1.0, high: 100.0, unit: "%" };

#[cfg(test)]
mod tests {
    use super::*;

    fn pack() -> Pack {
        let rating = Rating::Capacity { ah: AmpHours::of(105.0), over: Hours::of(20.0) };
        let mut battery = Battery::new("Quarry", Chemistry::Agm, Volts::of(12.0), rating);
        battery.ratings.push(Rating::reserve(190.0));
        let seventy_five =
            Rating::Runtime { at: Amps::of(75.0), lasted: Hours::from_minutes(48.0) };
        battery.ratings.push(seventy_five);
        battery.cycles = vec![
            CyclePoint { depth: 0.5, cycles: 700.0 },
            CyclePoint { depth: 0.8, cycles: 400.0 },
        ];
        battery.mass = Some(convert::from_pounds(67.0));
        battery.price = Some(219.0);
        Pack::of(battery, 2, 1)
    }

    #[test]
    fn saving_an_untouched_form_changes_nothing() {
        let before = pack();
        let after = read(&typed(&before), Some(&before)).expect("untouched");
        assert_eq!(after.battery.ratings, before.battery.ratings);
        assert_eq!(after.battery.cycles, before.battery.cycles);
        assert_eq!((after.series, after.parallel, &after.name), (2, 1, &before.name));
        let grams = (after.battery.mass.expect("kept") - before.battery.mass.expect("set")).value();
        assert!(grams.abs() < 1e-3);
    }

    #[test]
    fn each_bad_field_is_told_and_the_rest_is_kept() {
        let sent = typed(&pack())
            .with("series", "0")
            .with("parallel", "65")
            .with("ah", "1e309")
            .with("cutoff", "12.5")
            .with("name", " ");
        let problems = read(&sent, Some(&pack())).expect_err("bad");
        assert_eq!(problems.get("series"), Some("Type a number from 1 to 64."));
        assert_eq!(problems.get("parallel"), Some("Type a number from 1 to 64."));
        assert_eq!(problems.get("ah"), Some("Type a number from 0.1 to 10000 Ah."));
        assert_eq!(problems.get("cutoff"), Some("Must be below the battery's 12 V."));
        assert_eq!(problems.get("name"), Some("Give it a name."));
        assert_eq!(problems.count(), 5);
    }

    #[test]
    fn no_capacity_at_all_is_asked_for() {
        let sent = blank().with("name", "Spark").with("volts", "12");
        let problems = read(&sent, None).expect_err("no capacity");
        assert!(problems.get("ah").expect("told").contains("reserve minutes"));
    }
}
