//! A pack with its battery as groups of fields.

use super::{Group, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Rating};
use lake_hour_core::shelf::{Peak, Size};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Millimetres, Ohms, Volts};
use lake_hour_formats::words;

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
    Spec::figure("cranking", "Cranking amps", "A", "never turned into Ah"),
    Spec {
        words: true,
        ..Spec::figure(
            "ratings",
            "Further ratings",
            "",
            "207 Ah at 10 h; 115 min at 75 A; 1.4 kWh at 20 h",
        )
    },
];

const WIRING: &[Spec] = &[
    Spec::figure("series", "In series", "", "adds volts"),
    Spec::figure("parallel", "In parallel", "", "adds amp-hours"),
    Spec::figure("continuous", "Carries for long", "A", "each; its BMS opens above"),
    Spec::figure("peak", "Carries for moments", "A", "each"),
    Spec::figure("seconds", "for up to", "s", "5 if it does not say"),
    Spec::figure("cutoff", "Cuts off at", "V", "each; typical if empty"),
    Spec::figure("milliohm", "Resistance", "milliohm", "each; typical if empty"),
    Spec::figure("weak", "One weak unit", "%", "of a sound one's capacity"),
];

const MONEY: &[Spec] = &[
    Spec::measure("mass", "Weight of one", Measure::Mass, "or type its unit"),
    Spec::measure("length", "Length", Measure::Side, ""),
    Spec::measure("width", "Width", Measure::Side, ""),
    Spec::measure("height", "Height", Measure::Side, "with terminals"),
    Spec::figure("price", "Price of one", "", ""),
    Spec::figure("extra", "Charger, meter, cables", "", "all it takes beside them"),
    Spec::figure("cycles", "Cycles promised", "", "typical if empty"),
    Spec::figure("depth", "at a depth of", "%", "80 if it does not say"),
    Spec::figure("years", "Calendar life", "years", "typical if empty"),
    Spec::tick("aboard", "Aboard today"),
];

/// The groups of fields of a pack's form.
pub(crate) fn groups(prefix: &str, form: Shown<'_>) -> Vec<Group> {
    [("Battery", BATTERY), ("Wiring and limits", WIRING), ("Size, money, life", MONEY)]
        .map(|(title, specs)| Group { title, fields: form.fields(prefix, specs) })
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
pub(crate) fn typed(pack: &Pack, units: System) -> Typed {
    let b = &pack.battery;
    let some = |v: Option<f64>| v.map(figures::typed).unwrap_or_default();
    let of = |m: Measure, si: Option<f64>| si.map(|v| shown(units, m, v)).unwrap_or_default();
    let side = |pick: fn(&Size) -> Millimetres| b.size.as_ref().map(|s| pick(s).value());
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
        .with("mass", of(Measure::Mass, b.mass.map(Kilograms::value)))
        .with("length", of(Measure::Side, side(|s| s.length)))
        .with("width", of(Measure::Side, side(|s| s.width)))
        .with("height", of(Measure::Side, side(|s| s.height)))
        .with("cranking", some(b.cranking.map(Amps::value)))
        .with("ratings", further(b))
        .with("peak", some(b.peak.map(|p| p.current.value())))
        .with("seconds", some(b.peak.map(|p| p.seconds)))
        .with("milliohm", some(b.resistance.map(|r| r.value() * 1000.0)))
        .with("aboard", if pack.aboard { "on" } else { "" })
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

/// Further ratings as they are typed.
fn further(b: &Battery) -> String {
    words::ratings(&unseen_ratings(b))
}

/// Reads a pack. What the form does not show is kept from `before`.
pub(crate) fn read(typed: &Typed, units: System, before: Option<&Pack>) -> Result<Pack, Problems> {
    let mut r = Reader::of(typed, units);
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
    let mass = r.measure_if("mass", Measure::Mass, &allowed::UNIT_MASS);
    let sides = ["length", "width", "height"]
        .map(|n| (n, r.measure_if(n, Measure::Side, &allowed::BATTERY_SIDE)));
    let given = sides.iter().filter(|(_, s)| matches!(s, Some(Some(_)))).count();
    for (name, side) in &sides {
        if *side == Some(None) && given > 0 {
            r.problem(name, "Give all three sides, or none.");
        }
    }
    let cranking = r.optional("cranking", &allowed::CRANKING);
    let peak = r.optional("peak", &allowed::LIMIT_CURRENT);
    let seconds = r.optional("seconds", &allowed::PEAK_SECONDS);
    let milliohm = r.optional("milliohm", &MILLIOHM);
    let others = match words::read_ratings(typed.get("ratings")) {
        Ok(ratings) => ratings,
        Err(says) => {
            r.problem("ratings", says);
            Vec::new()
        }
    };
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
    let starting = matches!(cranking, Some(Some(_)));
    let none = (ah, reserve) == (Some(None), Some(None)) && others.is_empty();
    if none && !starting && !typed.get("ratings").contains(char::is_alphanumeric) {
        r.problem("ah", "Give the Ah or the reserve minutes.");
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
        // A battery that has a name of its own keeps it when the pack gets another.
        if before.is_none_or(|p| p.battery.name == p.name) {
            battery.name.clone_from(&name);
        }
        battery.chemistry = chemistry;
        battery.nominal_voltage = Volts::of(volts?);
        battery.ratings = ratings;
        battery.max_continuous = continuous?.map(Amps::of);
        battery.low_voltage_cutoff = cutoff?.map(Volts::of);
        let kept_mass = before.and_then(|p| p.battery.mass).map(Kilograms::value);
        battery.mass =
            untouched(units, Measure::Mass, kept_mass, typed.get("mass"), mass?).map(Kilograms::of);
        let kept_size = before.and_then(|p| p.battery.size);
        let side = |n: usize, pick: fn(&Size) -> Millimetres| -> Option<Option<Millimetres>> {
            let kept = kept_size.as_ref().map(|s| pick(s).value());
            let (name, read) = sides[n];
            let typed = typed.get(name);
            Some(untouched(units, Measure::Side, kept, typed, read?).map(Millimetres::of))
        };
        let sides = [side(0, |s| s.length)?, side(1, |s| s.width)?, side(2, |s| s.height)?];
        battery.size = match sides {
            [Some(length), Some(width), Some(height)] => Some(Size { length, width, height }),
            _ => None,
        };
        battery.cranking = cranking?.map(Amps::of);
        battery.resistance = milliohm?.map(|m| Ohms::of(m / 1000.0));
        let seconds = seconds?.unwrap_or(5.0);
        battery.peak = peak?.map(|a| Peak { current: Amps::of(a), seconds });
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
            aboard: r.ticked("aboard"),
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
/// A resistance typed in thousandths of an ohm.
const MILLIOHM: allowed::Allowed = allowed::Allowed { low: 0.01, high: 10_000.0, unit: "milliohm" };
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
        battery.mass = Some(Kilograms::of(30.4));
        battery.cranking = Some(Amps::of(800.0));
        let side = Millimetres::of;
        battery.size = Some(Size { length: side(330.0), width: side(173.0), height: side(240.0) });
        battery.price = Some(219.0);
        Pack::of(battery, 2, 1)
    }

    #[test]
    fn saving_an_untouched_form_changes_nothing() {
        let before = pack();
        let after =
            read(&typed(&before, System::Us), System::Us, Some(&before)).expect("untouched");
        assert_eq!(after, before);
    }

    #[test]
    fn each_bad_field_is_told_and_the_rest_is_kept() {
        let sent = typed(&pack(), System::Us)
            .with("series", "0")
            .with("parallel", "65")
            .with("ah", "1e309")
            .with("cutoff", "12.5")
            .with("name", " ");
        let problems = read(&sent, System::Us, Some(&pack())).expect_err("bad");
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
        let problems = read(&sent, System::Us, None).expect_err("no capacity");
        assert!(problems.get("ah").expect("told").contains("reserve minutes"));
    }
}
