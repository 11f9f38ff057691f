//! A battery's own fields: the same on the Board and on the shelf.

use super::{Reader, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Peak, Rating, Size};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Millimetres, Ohms, Volts};
use lake_hour_formats::words;

/// A resistance typed in thousandths of an ohm.
const MILLIOHM: allowed::Allowed = allowed::Allowed { low: 0.01, high: 10_000.0, unit: "milliohm" };
const DEPTH_PERCENT: allowed::Allowed = allowed::Allowed { low: 1.0, high: 100.0, unit: "%" };

/// The fields of a battery that is there.
pub(crate) fn typed(b: &Battery, units: System) -> Typed {
    let some = |v: Option<f64>| v.map(figures::typed).unwrap_or_default();
    let of = |m: Measure, si: Option<f64>| si.map(|v| shown(units, m, v)).unwrap_or_default();
    let side = |pick: fn(&Size) -> Millimetres| b.size.as_ref().map(|s| pick(s).value());
    let (capacity, reserve) = (stated_capacity(b), stated_reserve(b));
    let cycles = b.cycles.first();
    Typed::default()
        .with("name", &*b.name)
        .with("chemistry", b.chemistry.key())
        .with("volts", figures::typed(b.nominal_voltage.value()))
        .with("ah", some(capacity.map(|c| c.0)))
        .with("over", some(capacity.map(|c| c.1)))
        .with("reserve", some(reserve))
        .with("continuous", some(b.max_continuous.map(Amps::value)))
        .with("cutoff", some(b.low_voltage_cutoff.map(Volts::value)))
        .with("mass", of(Measure::Mass, b.mass.map(Kilograms::value)))
        .with("length", of(Measure::Side, side(|s| s.length)))
        .with("width", of(Measure::Side, side(|s| s.width)))
        .with("height", of(Measure::Side, side(|s| s.height)))
        .with("cranking", some(b.cranking.map(Amps::value)))
        .with("ratings", further(b))
        .with("peak", some(b.peak.map(|p| p.current.value())))
        .with("seconds", some(b.peak.map(|p| p.seconds)))
        .with("milliohm", some(b.resistance.map(|r| r.value() * 1000.0)))
        .with("price", some(b.price))
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

/// Reads a battery. What the form does not show is kept from `before`; `None` where something is wrong,
/// which the reader holds.
pub(crate) fn read(r: &mut Reader<'_>, before: Option<&Battery>) -> Option<Battery> {
    let (typed, units) = (r.typed, r.units);
    let name = r.name("name");
    let chemistry = r.choice("chemistry", Chemistry::from_key);
    let volts = r.number("volts", &allowed::UNIT_VOLTAGE);
    let ah = r.optional("ah", &allowed::CAPACITY);
    let over = r.optional("over", &allowed::RATED_HOURS);
    let reserve = r.optional("reserve", &allowed::RATED_MINUTES);
    let continuous = r.optional("continuous", &allowed::LIMIT_CURRENT);
    let cutoff = r.optional("cutoff", &allowed::VOLTAGE);
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
    let chemistry = chemistry?;
    let mut ratings = Vec::new();
    if let Some(ah) = ah? {
        let over = over?.unwrap_or(chemistry.usual_rating_hours());
        ratings.push(Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(over) });
    }
    ratings.extend(reserve?.map(Rating::reserve));
    ratings.extend(others);
    let rating = Rating::reserve(1.0);
    let mut battery =
        before.cloned().unwrap_or_else(|| Battery::new("", chemistry, Volts::ZERO, rating));
    battery.name = name?;
    battery.chemistry = chemistry;
    battery.nominal_voltage = Volts::of(volts?);
    battery.ratings = ratings;
    battery.max_continuous = continuous?.map(Amps::of);
    battery.low_voltage_cutoff = cutoff?.map(Volts::of);
    let kept_mass = before.and_then(|b| b.mass).map(Kilograms::value);
    battery.mass =
        untouched(units, Measure::Mass, kept_mass, typed.get("mass"), mass?).map(Kilograms::of);
    let kept_size = before.and_then(|b| b.size);
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
    Some(battery)
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
