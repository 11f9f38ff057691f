//! The day without its stretches, as fields: when, how often, in what weather, with which devices.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use crate::frame::look::Look;
use lake_hour_core::allowed;
use lake_hour_core::day::{Accessory, Charging, Day, HourConditions, SolarHour};
use lake_hour_core::drawdown::{Rest, charge_by_volts};
use lake_hour_core::pack::Pack;
use lake_hour_core::units::parse;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Celsius, Hours, MetresPerSecond, Volts, Watts};
use lake_hour_core::verdict::told_capacity;

const DAY: &[Spec] = &[
    Spec::figure("start", "Starts at", "", "7:00, 1300, 1:00 PM").with_signs(),
    Spec::figure("outings", "Outings like this", "a year", ""),
    Spec::figure("days", "Days between charges", "", "1 if charged every night"),
    Spec::figure("ready", "Full again by", "", "5:30, or blank").with_signs(),
    Spec::measure("wind", "Wind", Measure::Speed, "through the day"),
    Spec::measure("current", "Current", Measure::Speed, ""),
    Spec::measure(
        "ambient",
        "Air at the batteries",
        Measure::Temperature,
        "room temperature if blank",
    ),
    Spec::measure("kept", "Batteries start at", Measure::Temperature, "if kept indoors"),
    Spec::figure("charge", "They start charged to", "%", "or 12.4 V rested lead, or 60 Ah")
        .with_signs(),
    Spec::tick("overnight", "Charger runs on nights between"),
    Spec::tick("slower", "A slower pack will do"),
];

const SOURCES: &[(&str, &str)] = &[("sun", "the sun"), ("charger", "alternator or charger")];

/// What charges on the way.
const CHARGING: &[Spec] = &[
    Spec::choice("by", "From", SOURCES),
    Spec::figure("from", "Starts", "", "clock").with_signs(),
    Spec::figure("for", "For", "", "45 min; the sun: until the next").with_signs(),
    Spec::figure("gives", "Gives", "", "80 W, or 20 A").with_signs(),
];

/// A change at a clock time.
const HOURLY: &[Spec] = &[
    Spec::figure("from", "From", "", "clock").with_signs(),
    Spec::measure("wind", "Wind", Measure::Speed, ""),
    Spec::measure("current", "Current", Measure::Speed, ""),
    Spec::measure("air", "Air", Measure::Temperature, ""),
];

const BATTERIES: &[(&str, &str)] = &[("house", "house battery"), ("traction", "motor battery")];
/// Changes of weather in a day, and devices, that fit on the page.
pub(crate) const MOST_HOURS: usize = 24;
pub(crate) const MOST_DEVICES: usize = 24;

/// A device.
const DEVICES: &[Spec] = &[
    Spec::words("name", "Device"),
    Spec::figure("draw", "Draws", "W", "18, or 1.5 A").with_signs(),
    Spec::figure("hours", "Hours", "h", "all day if blank"),
    Spec::choice("on", "Runs on", BATTERIES),
];

/// Carts meet no water's current.
fn met(specs: &[Spec], boat: bool) -> Vec<Spec> {
    specs.iter().filter(|s| boat || s.name != "current").copied().collect()
}

pub(crate) fn fields(form: Shown<'_>, boat: bool) -> Vec<Field> {
    form.fields("day", &met(DAY, boat))
}

pub(crate) fn hourly_rows(form: Shown<'_>, count: usize, boat: bool) -> Vec<Vec<Field>> {
    form.rows("hourly", &met(HOURLY, boat), count)
}

/// The rows of what charges on the way, with a blank one behind.
pub(crate) fn charging_rows(form: Shown<'_>, count: usize) -> Vec<Vec<Field>> {
    form.rows("charging", CHARGING, count)
}

pub(crate) fn device_rows(form: Shown<'_>, count: usize) -> Vec<Vec<Field>> {
    form.rows("device", DEVICES, count)
}

fn speed(units: System, v: MetresPerSecond) -> String {
    shown(units, Measure::Speed, v.value())
}

fn warmth(units: System, t: Option<Celsius>) -> String {
    t.map(|t| shown(units, Measure::Temperature, t.value())).unwrap_or_default()
}

pub(crate) fn typed(day: &Day, look: Look) -> Typed {
    let units = look.units;
    let clock = |minute| look.clock.words(minute);
    Typed::default()
        .with("start", clock(day.start_minute))
        .with("outings", figures::typed(day.outings_per_year))
        .with("days", day.days_without_charging.to_string())
        .with("ready", day.ready_by.map(clock).unwrap_or_default())
        .with("wind", speed(units, day.conditions.wind))
        .with("current", speed(units, day.conditions.current))
        .with("ambient", warmth(units, day.ambient))
        .with("kept", warmth(units, day.battery_start))
        .with("charge", day.start_charge.map(|c| figures::typed(c * 100.0)).unwrap_or_default())
        .with("overnight", if day.charge_overnight { "on" } else { "" })
        .with("slower", if day.slower_will_do { "on" } else { "" })
}

/// Sun first, then what charges besides.
pub(crate) fn charging_typed(day: &Day, look: Look) -> Typed {
    let clock = |minute: u32| look.clock.words((minute % 1440) as u16);
    let sun = day.solar.iter().map(|s| {
        (
            "sun",
            clock(s.from_minute),
            String::new(),
            format!("{} W", figures::typed(s.power.value())),
        )
    });
    let others = day.charging.iter().map(|c| {
        let lasts = format!("{} min", figures::typed(c.lasts.minutes()));
        ("charger", clock(c.from_minute), lasts, format!("{} A", figures::typed(c.current.value())))
    });
    sun.chain(others).enumerate().fold(Typed::default(), |typed, (n, (by, from, lasts, gives))| {
        typed
            .with(&format!("by_{n}"), by)
            .with(&format!("from_{n}"), from)
            .with(&format!("for_{n}"), lasts)
            .with(&format!("gives_{n}"), gives)
    })
}

pub(crate) fn hourly_typed(day: &Day, look: Look) -> Typed {
    let units = look.units;
    day.hourly.iter().enumerate().fold(Typed::default(), |typed, (n, h)| {
        let of = |v: Option<MetresPerSecond>| v.map(|v| speed(units, v)).unwrap_or_default();
        let clock = look.clock.words((h.from_minute % 1440) as u16);
        typed
            .with(&format!("from_{n}"), clock)
            .with(&format!("wind_{n}"), of(h.wind))
            .with(&format!("current_{n}"), of(h.current))
            .with(&format!("air_{n}"), warmth(units, h.air))
    })
}

/// The devices, and what a new one usually runs on.
pub(crate) fn devices_drawn(day: &Day) -> Typed {
    devices_typed(day).with(&format!("on_{}", day.accessories.len()), "house")
}

pub(crate) fn devices_typed(day: &Day) -> Typed {
    day.accessories.iter().enumerate().fold(Typed::default(), |typed, (n, a)| {
        let hours = a.hours.map(|h| figures::typed(h.value())).unwrap_or_default();
        typed
            .with(&format!("name_{n}"), &*a.name)
            .with(&format!("draw_{n}"), figures::typed(a.power.value()))
            .with(&format!("hours_{n}"), hours)
            .with(&format!("on_{n}"), if a.on_house { "house" } else { "traction" })
    })
}

/// Reads the day's frame; stretches, hours and devices stay as they are.
pub(crate) fn read(
    typed: &Typed,
    units: System,
    before: &Day,
    aboard: Option<&Pack>,
) -> Result<Day, Problems> {
    let mut r = Reader::of(typed, units);
    let start = r.clock_if("start");
    if start == Some(None) {
        r.problem("start", "Type a clock time, as in 7:00, 1300 or 1:00 PM.");
    }
    let outings = r.number("outings", &allowed::OUTINGS);
    let days = r.whole_or("days", &allowed::DAYS_WITHOUT_CHARGING, 1);
    if let Some(days) = days.filter(|d| *d > 1)
        && before.lasts().value() > 24.0
    {
        r.problem("days", format!("A day of more than 24 h cannot be repeated {days} times."));
    }
    let ready = r.clock_if("ready");
    let mut speed = |name: &str, before: MetresPerSecond| {
        if !typed.has(name) {
            return Some(before.value());
        }
        let read = r.measure_if(name, Measure::Speed, &allowed::SPEED);
        let read = read.map(|v| v.unwrap_or(0.0));
        untouched(units, Measure::Speed, Some(before.value()), typed.get(name), read)
    };
    let wind = speed("wind", before.conditions.wind);
    let current = speed("current", before.conditions.current);
    let mut warmth = |name: &str, before: Option<Celsius>| -> Option<Option<Celsius>> {
        let read = r.measure_if(name, Measure::Temperature, &allowed::TEMPERATURE)?;
        let before = before.map(Celsius::value);
        let of = Measure::Temperature;
        Some(untouched(units, of, before, typed.get(name), read).map(Celsius::of))
    };
    let ambient = warmth("ambient", before.ambient);
    let kept = warmth("kept", before.battery_start);
    let charge = start_charge(&mut r, typed.get("charge").trim(), aboard);
    let day = (|| {
        let mut day = before.clone();
        day.start_minute = start??;
        day.outings_per_year = outings?;
        day.days_without_charging = days?;
        day.ready_by = ready?;
        day.conditions.wind = MetresPerSecond::of(wind?);
        day.conditions.current = MetresPerSecond::of(current?);
        day.ambient = ambient?;
        day.battery_start = kept?;
        day.start_charge = charge?;
        day.charge_overnight = r.ticked("overnight");
        day.slower_will_do = r.ticked("slower");
        Some(day)
    })();
    r.finish(day)
}

/// Minutes after the midnight before the start: a clock time before the start is on the next morning where the day
/// lasts till then, else it was before the day began and holds from there on.
fn on_its_day(day: &Day, clock: u32) -> u32 {
    let (start, next) = (u32::from(day.start_minute), clock + 1440);
    let ends = f64::from(start) + day.lasts().minutes();
    if clock < start && f64::from(next) < ends { next } else { clock }
}

/// Reads what changes by the hour.
pub(crate) fn read_hourly(typed: &Typed, units: System, before: &Day) -> Result<Day, Problems> {
    let mut r = Reader::of(typed, units);
    let mut times = Vec::new();
    let rows =
        r.rows(&["from", "wind", "current", "air"], before.hourly.len(), MOST_HOURS, |r, n| {
            let from = r.clock_if("from");
            if from == Some(None) {
                r.problem("from", "Type a clock time, as in 7:00, 1300 or 1:00 PM.");
            }
            if let Some(Some(minute)) = from {
                if times.contains(&minute) {
                    r.problem("from", "This time stands twice: change one, or remove it.");
                }
                times.push(minute);
            }
            let kept = before.hourly.get(n);
            let mut measure = |name: &str, of: Measure, range, kept: Option<f64>| {
                let read = r.measure_if(name, of, range);
                let text = typed.get(&format!("{name}_{n}"));
                read.map(|read| untouched(units, of, kept, text, read))
            };
            let speed = |v: Option<MetresPerSecond>| v.map(MetresPerSecond::value);
            let (m, range) = (Measure::Speed, &allowed::SPEED);
            let wind = measure("wind", m, range, speed(kept.and_then(|h| h.wind)));
            let current = measure("current", m, range, speed(kept.and_then(|h| h.current)));
            let warmth = kept.and_then(|h| h.air).map(Celsius::value);
            let air = measure("air", Measure::Temperature, &allowed::TEMPERATURE, warmth);
            Some(HourConditions {
                from_minute: u32::from(from??),
                wind: wind?.map(MetresPerSecond::of),
                current: current?.map(MetresPerSecond::of),
                air: air?.map(Celsius::of),
            })
        });
    let rows = rows.map(|mut rows| {
        for row in &mut rows {
            row.from_minute = on_its_day(before, row.from_minute);
        }
        rows.sort_by_key(|h| h.from_minute);
        Day { hourly: rows, ..before.clone() }
    });
    r.finish(rows)
}

/// A row of what charges on the way.
enum Gives {
    Sun(SolarHour),
    Charger(Charging),
}

/// Reads what charges on the way: the sun in watts until the next of its rows, anything else in amps for its minutes.
pub(crate) fn read_charging(typed: &Typed, units: System, before: &Day) -> Result<Day, Problems> {
    let mut r = Reader::of(typed, units);
    let there = before.solar.len() + before.charging.len();
    let mut suns = Vec::new();
    let rows = r.rows(&["from", "for", "gives"], there, MOST_HOURS, |r, n| {
        let by = r.choice("by", |key| match key {
            "sun" | "" => Some(true),
            "charger" => Some(false),
            _ => None,
        });
        let from = r.clock_if("from");
        if from == Some(None) {
            r.problem("from", "Type a clock time, as in 9:00 or 1:30 PM.");
        }
        let from = from.flatten().map(|minute| on_its_day(before, u32::from(minute)));
        let gives = typed.get(&format!("gives_{n}")).trim().to_owned();
        let lasts = typed.get(&format!("for_{n}")).trim().to_owned();
        if by? {
            if !lasts.is_empty() {
                r.problem(
                    "for",
                    "Leave it blank: the sun shines until its next row, as in 0 W at 18:00.",
                );
            }
            let watts = figure(r, "gives", &gives, WATTS, &allowed::POWER);
            if let Some(from) = from {
                if suns.contains(&from) {
                    r.problem(
                        "from",
                        "The sun stands twice at this time: change one, or remove it.",
                    );
                }
                suns.push(from);
            }
            if !lasts.is_empty() {
                return None;
            }
            return Some(Gives::Sun(SolarHour { from_minute: from?, power: Watts::of(watts?) }));
        }
        let minutes = match parse::minutes(&lasts, &allowed::MINUTES) {
            Ok(minutes) => Some(minutes),
            Err(bad) => {
                r.problem("for", bad);
                None
            }
        };
        let amps = figure(r, "gives", &gives, AMPS, &allowed::CHARGER_CURRENT);
        Some(Gives::Charger(Charging {
            from_minute: from?,
            lasts: Hours::from_minutes(minutes?),
            current: Amps::of(amps?),
        }))
    });
    let day = rows.map(|rows| {
        let mut day = Day { solar: Vec::new(), charging: Vec::new(), ..before.clone() };
        for row in rows {
            match row {
                Gives::Sun(sun) => day.solar.push(sun),
                Gives::Charger(charging) => day.charging.push(charging),
            }
        }
        day.solar.sort_by_key(|s| s.from_minute);
        day.charging.sort_by_key(|c| c.from_minute);
        day
    });
    r.finish(day)
}

/// How each source is told, and what is said of another unit.
const WATTS: ([char; 2], &str) = (['W', 'w'], "The sun is told in watts, as in 80 W.");
const AMPS: ([char; 2], &str) = (['A', 'a'], "What is no sun is told in amps, as in 20 A.");

/// A number with or without its unit's sign behind it; `or_else` is said of the sign of another one.
fn figure(
    r: &mut Reader<'_>,
    name: &str,
    text: &str,
    (sign, or_else): ([char; 2], &str),
    range: &allowed::Allowed,
) -> Option<f64> {
    if text.ends_with(|c: char| c.is_alphabetic() && !sign.contains(&c)) {
        r.problem(name, or_else);
        return None;
    }
    match parse::number(text.strip_suffix(sign).unwrap_or(text), range) {
        Ok(number) => Some(number),
        Err(bad) => {
            r.problem(name, bad);
            None
        }
    }
}

/// A charge to start with: a percentage, or of the pack aboard its ampere-hours or, where that is lead, its volts after
/// hours of rest. Kept as the share that it comes to.
fn start_charge(r: &mut Reader<'_>, text: &str, aboard: Option<&Pack>) -> Option<Option<f64>> {
    let sign = |sign: &str| {
        let at = text.len().checked_sub(sign.len())?;
        let (number, end) = text.split_at_checked(at)?;
        end.eq_ignore_ascii_case(sign).then_some(number)
    };
    let (read, of) = if let Some(number) = sign("ah") {
        let whole = aboard.and_then(told_capacity);
        let share = |ah: f64| whole.map(|whole| ah / whole.value());
        (parse::number(number, &allowed::CAPACITY).map(share), "No pack is said to be aboard")
    } else if let Some(number) = sign("v") {
        let share = |v: f64| {
            let read = charge_by_volts(aboard?, Volts::of(v), Rest::FourHours)?;
            Some(read.charge)
        };
        (parse::number(number, &allowed::VOLTAGE).map(share), "No lead is said to be aboard")
    } else {
        return r.optional("charge", &CHARGE).map(|percent| percent.map(|p| p / 100.0));
    };
    match read {
        Err(bad) => r.problem("charge", bad),
        Ok(None) => {
            r.problem("charge", format!("{of}: type a percentage, as in 60."));
        }
        Ok(Some(share)) => {
            let range = allowed::START_CHARGE;
            if (range.low..=range.high).contains(&share) {
                // As it is shown: to a tenth of a percent.
                return Some(Some((share * 1000.0).round() / 1000.0));
            }
            let says = format!(
                "That comes to {:.0} % of what is aboard: 5 to 100 % is allowed.",
                share * 100.0
            );
            r.problem("charge", says);
        }
    }
    None
}

/// A charge to start with, as a percentage.
const CHARGE: allowed::Allowed = allowed::Allowed { low: 5.0, high: 100.0, unit: "%" };

/// Reads the devices. A draw with "A" behind it is at 12 V, as such devices are.
pub(crate) fn read_devices(typed: &Typed, units: System, before: &Day) -> Result<Day, Problems> {
    let mut r = Reader::of(typed, units);
    let rows =
        r.rows(&["name", "draw", "hours"], before.accessories.len(), MOST_DEVICES, |r, n| {
            let name = r.name_or("name", &format!("Device {}", n + 1));
            let text = typed.get(&format!("draw_{n}")).trim();
            let power = match text.strip_suffix(['A', 'a']) {
                Some(amps) => match lake_hour_core::units::parse::number(amps, &DEVICE_AMPS) {
                    Ok(amps) => Some(amps * DEVICE_VOLTS),
                    Err(bad) => {
                        r.problem("draw", bad);
                        None
                    }
                },
                None => r.number("draw", &allowed::POWER),
            };
            let hours = r.optional("hours", &allowed::DEVICE_HOURS);
            let on = r.choice("on", |key| match key {
                "house" | "" => Some(true),
                "traction" => Some(false),
                _ => None,
            });
            Some(Accessory {
                name: name?,
                power: Watts::of(power?),
                hours: hours?.map(Hours::of),
                on_house: on?,
            })
        });
    r.finish(rows.map(|accessories| Day { accessories, ..before.clone() }))
}

/// Volts that small devices are made for.
const DEVICE_VOLTS: f64 = 12.0;
const DEVICE_AMPS: allowed::Allowed = allowed::Allowed { low: 0.0, high: 500.0, unit: "A" };
