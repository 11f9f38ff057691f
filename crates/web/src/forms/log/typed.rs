//! Entries of the log as their forms show them.

use super::super::{Typed, shown};
use crate::figures;
use jiff::civil::Date;
use lake_hour_core::log::{Charge, Did, Logged, Outing, Owned, Test, TestEnd, Used};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Celsius, Hours, Metres, MetresPerSecond, Money, WattHours};

fn percent(share: f64) -> String {
    format!("{} %", figures::typed(share * 100.0))
}

fn charge_typed(charge: Charge) -> String {
    match charge {
        Charge::Full => String::new(),
        Charge::Meter(share) | Charge::Feel(share) => percent(share),
        Charge::Rested(volts, rest) => {
            format!("{} V rested {}", figures::typed(volts.value()), figures::rested(rest))
        }
    }
}

const fn by(charge: Charge) -> &'static str {
    if matches!(charge, Charge::Feel(_)) { "feel" } else { "meter" }
}

fn of_typed(of: Option<i64>) -> String {
    of.map_or_else(String::new, |id| format!("owned-{id}"))
}

fn figure(value: Option<f64>) -> String {
    value.map(figures::typed).unwrap_or_default()
}

fn measured(units: System, of: Measure, value: Option<f64>) -> String {
    value.map(|si| shown(units, of, si)).unwrap_or_default()
}

fn date(date: Option<Date>) -> String {
    date.map(|d| d.to_string()).unwrap_or_default()
}

/// An entry as its form shows it.
pub(crate) fn typed(logged: &Logged, units: System) -> Typed {
    match logged {
        Logged::Outing(o) => outing_typed(o, units),
        Logged::Owned(o) => owned_typed(o, units),
        Logged::Test(t) => test_typed(t, units),
    }
}

fn outing_typed(o: &Outing, units: System) -> Typed {
    let (end, by) = match o.used {
        Used::AmpHours(ah) => (format!("{} Ah used", figures::typed(ah.value())), by(o.start)),
        // A blank end says nothing: a full one is told in words.
        Used::Left(Charge::Full) => ("full".to_owned(), by(o.start)),
        Used::Left(charge) => (charge_typed(charge), by(charge)),
    };
    Typed::default()
        .with("of", of_typed(o.of))
        .with("date", o.date.to_string())
        .with("name", o.name.clone())
        .with("end", end)
        .with("by", by)
        .with("start", charge_typed(o.start))
        .with("hours", figure(o.hours.map(Hours::value)))
        .with("distance", measured(units, Measure::Distance, o.distance.map(Metres::value)))
        .with("wind", measured(units, Measure::Speed, o.wind.map(MetresPerSecond::value)))
        .with(
            "setting",
            o.reading.map_or_else(String::new, |r| {
                figures::typed_setting(&o.plan.rig.motor.dial, r.setting)
            }),
        )
        .with("amps", figure(o.reading.map(|r| r.current.value())))
        .with("note", o.note.clone())
        .with("out", if o.counts { "" } else { "on" })
}

fn owned_typed(o: &Owned, units: System) -> Typed {
    let next = o.next.map(|next| next.date);
    let leaves = o.next.map(|next| lake_hour_core::units::say::Clock::Hours24.words(next.minute));
    let typed = Typed::default()
        .with("bought", o.bought.to_string())
        .with("shop", o.shop.clone())
        .with("paid", figure(o.paid.map(Money::value)))
        .with("full", figure(o.full_years))
        .with("prorated", figure(o.prorated_years))
        .with("kept", measured(units, Measure::Temperature, o.kept_at.map(Celsius::value)))
        .with("next", date(next))
        .with("leaves", leaves.unwrap_or_default())
        .with("retired", date(o.retired))
        .with("note", o.note.clone());
    o.units.iter().enumerate().fold(typed, |typed, (n, unit)| {
        typed
            .with(&format!("number_{n}"), unit.number.clone())
            .with(&format!("serial_{n}"), unit.serial.clone())
            .with(&format!("place_{n}"), unit.place.map(|p| p.to_string()).unwrap_or_default())
            .with(&format!("since_{n}"), date(unit.since))
            .with(&format!("out_{n}"), date(unit.retired))
    })
}

fn test_typed(t: &Test, units: System) -> Typed {
    let typed = Typed::default()
        .with("of", of_typed(t.of))
        .with("date", t.date.to_string())
        .with("unit", t.unit.map(|n| n.to_string()).unwrap_or_default())
        .with("note", t.note.clone());
    let warm = |t: Option<Celsius>| measured(units, Measure::Temperature, t.map(Celsius::value));
    match &t.did {
        Did::Charged(charge) => {
            let end = charge_typed(*charge);
            let end = if end.is_empty() { "full".to_owned() } else { end };
            typed.with("end", end).with("by", by(*charge))
        }
        Did::Capacity(c) => typed
            .with("amps", figures::typed(c.current.value()))
            .with("lasted", figures::typed(c.lasted.minutes()))
            .with("stop", figures::typed(c.stop.value()))
            .with("ended", if c.ended == TestEnd::CutShort { "short" } else { "reached" })
            .with("warm", warm(c.temperature))
            .with("wh", figure(c.energy.map(WattHours::value))),
        Did::Load(l) => typed
            .with("before", figures::typed(l.before.value()))
            .with("under", figures::typed(l.under.value()))
            .with("amps", figures::typed(l.current.value()))
            .with("seconds", figures::typed(l.seconds))
            .with("warm", warm(l.temperature)),
        Did::Care(chore, to) => typed.with("chore", chore.key()).with("later", date(*to)),
        Did::Volts(volts) => typed.with("volts", each(volts.iter().map(|v| v.value()), "")),
        Did::Charges(charges) => {
            typed.with("volts", each(charges.iter().map(|share| share * 100.0), " %"))
        }
        Did::Resistances(ohms) => {
            typed.with("volts", each(ohms.iter().map(|r| r.value() * 1000.0), " m\u{3a9}"))
        }
    }
}

/// One figure of each unit, as they are typed.
fn each(all: impl Iterator<Item = f64>, unit: &str) -> String {
    all.map(|v| format!("{}{unit}", figures::typed(v))).collect::<Vec<_>>().join(", ")
}
