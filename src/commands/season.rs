//! A season of the example: outings of two rigs, invented like all of it. What they used comes of an invented truth, by which motor
//! and hull take a little more than typical and one pack holds less than its label.

use jiff::ToSpan;
use jiff::civil::Date;
use lake_hour_core::log::{
    CapacityTest, Charge, Did, LoadTest, Log, Logged, Next, Outing, Owned, Reading, Test, TestEnd,
    Used, as_driven_with, parts,
};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::{Amps, Celsius, Hours, MetresPerSecond, Money, Volts};

/// What a rig really takes over what is told and typical: at settings, at speeds, and how much the pack holds.
struct Truth {
    draw: f64,
    speed: f64,
    holds: f64,
}

/// An outing: how long ago, its name, its share of the planned day's length, the wind by a meter in m/s, how far the reading of
/// the charge was off in points, and a setting at which amps were read.
type Trip = (i32, &'static str, f64, Option<f64>, f64, Option<f64>);

const SKIFF: &[Trip] = &[
    (203, "Ice-out check", 0.30, Some(2.5), 1.0, None),
    (189, "Station 1 only", 0.35, None, -2.0, None),
    (174, "Two stations, short", 0.48, Some(4.5), 1.0, Some(5.0)),
    (160, "Transect only", 0.32, None, 0.0, None),
    (139, "Two stations, short", 0.46, Some(3.6), 3.0, None),
    (118, "Fish survey", 0.40, None, -1.0, Some(8.0)),
    (97, "Two stations, short", 0.50, Some(6.0), 2.0, None),
    (76, "Algae round", 0.38, None, -3.0, None),
    (55, "Station 2, buoys", 0.34, Some(3.0), 1.0, None),
    (34, "Two stations, short", 0.45, Some(5.5), 0.0, None),
    (8, "Last samples", 0.36, None, 2.0, None),
];

const CANOE: &[Trip] = &[
    (196, "Herons at dawn", 1.0, None, 1.0, None),
    (168, "Loons", 1.2, Some(2.0), -2.0, Some(4.0)),
    (146, "Herons at dawn", 1.0, None, 0.0, None),
    (125, "Island and back", 0.8, None, 2.0, None),
    (90, "Rail count", 1.3, None, -1.0, Some(6.0)),
    (62, "Herons at dawn", 1.0, Some(3.0), 1.0, None),
    (27, "Migration morning", 1.1, None, -2.0, None),
    (5, "Late swans", 0.9, None, 1.0, None),
];

/// The season of an example, told back from a day; nothing for one that has none.
pub(super) fn of(key: &str, plan: &Plan, today: Date) -> Log {
    let named = |name: &str| plan.packs.iter().find(|p| p.name == name);
    match key {
        "demo" => named("Now aboard: two tired AGM")
            .map_or_else(Log::default, |pack| skiff(plan, pack, today)),
        "demo-canoe" => {
            named("Sandbar 12-50").map_or_else(Log::default, |pack| canoe(plan, pack, today))
        }
        _ => Log::default(),
    }
}

fn ago(today: Date, days: i32) -> Date {
    today.checked_sub(days.days()).unwrap_or(today)
}

/// Outings as they went by the truth, each charged full afterwards but the last.
fn outings(plan: &Plan, pack: &Pack, trips: &[Trip], truth: &Truth, today: Date) -> Vec<Logged> {
    let mut all = Vec::new();
    let last = trips.iter().map(|t| t.0).min();
    for &(days, name, share, wind, off, setting) in trips {
        let plan = as_driven_with(plan, pack);
        let pack = plan.packs[0].clone();
        let reading = setting.and_then(|setting| {
            let amps = plan.rig.motor.current_at(setting)? / f64::from(plan.rig.motor.count);
            let read = (amps.value() * truth.draw * 10.0).round() / 10.0;
            Some(Reading { setting, current: Amps::of(read) })
        });
        let mut outing = Outing {
            date: ago(today, days),
            name: name.to_owned(),
            hours: Some(Hours::of((plan.day.lasts().value() * share * 10.0).round() / 10.0)),
            distance: None,
            start: Charge::Full,
            used: Used::Left(Charge::Meter(0.5)),
            wind: wind.map(MetresPerSecond::of),
            reading,
            note: String::new(),
            of: Some(1),
            recorded: None,
            hot: None,
            counts: true,
            practice: false,
            plan,
        };
        let took = outing.as_driven().ok().and_then(|plan| parts(&plan, &pack).ok());
        let Some(took) = took else { continue };
        let used = (took.at_settings * truth.draw
            + took.at_speed * truth.draw * truth.speed
            + took.holding * truth.draw
            + took.devices)
            / truth.holds;
        let left = (1.0 - used + off / 100.0).max(0.05);
        outing.used = Used::Left(Charge::Meter((left * 100.0).round() / 100.0));
        all.push(Logged::Outing(Box::new(outing)));
        if Some(days) != last {
            all.push(test(ago(today, days - 1), None, Did::Charged(Charge::Full), ""));
        }
    }
    all
}

fn test(date: Date, unit: Option<u32>, did: Did, note: &str) -> Logged {
    Logged::Test(Box::new(Test {
        date,
        of: Some(1),
        unit,
        did,
        recorded: None,
        note: note.to_owned(),
    }))
}

fn capacity(amps: f64, hours: f64, stop: f64, celsius: f64) -> Did {
    Did::Capacity(CapacityTest {
        current: Amps::of(amps),
        lasted: Hours::of(hours),
        stop: Volts::of(stop),
        ended: TestEnd::Reached,
        temperature: Some(Celsius::of(celsius)),
        energy: None,
    })
}

fn numbered(owned: Owned, rest: Vec<Logged>) -> Log {
    let mut all = vec![(1, Logged::Owned(Box::new(owned)))];
    all.extend((2..).zip(rest));
    Log::of(all)
}

fn skiff(plan: &Plan, pack: &Pack, today: Date) -> Log {
    let pack = Pack { aboard: true, ..pack.clone() };
    let owned = Owned {
        shop: "Boathouse stores".to_owned(),
        paid: Some(Money::of(470.0)),
        full_years: Some(1.0),
        prorated_years: Some(4.0),
        kept_at: Some(Celsius::of(12.0)),
        next: Some(Next { date: ago(today, -9), minute: 7 * 60 }),
        ..Owned::of(pack.clone(), ago(today, 1150))
    };
    let truth = Truth { draw: 1.13, speed: 1.06, holds: 0.86 };
    let mut rest = outings(plan, &pack, SKIFF, &truth, today);
    rest.push(test(
        ago(today, 210),
        None,
        capacity(5.0, 15.5, 21.0, 17.0),
        "Bench in the boathouse, both units in series",
    ));
    // Nothing is left empty after a test.
    rest.push(test(ago(today, 209), None, Did::Charged(Charge::Full), ""));
    let load = |before, under| {
        Did::Load(LoadTest {
            before: Volts::of(before),
            under: Volts::of(under),
            current: Amps::of(100.0),
            seconds: 15.0,
            temperature: Some(Celsius::of(14.0)),
        })
    };
    rest.push(test(ago(today, 30), Some(1), load(12.78, 11.62), ""));
    rest.push(test(ago(today, 30), Some(2), load(12.69, 10.71), ""));
    rest.push(test(
        ago(today, 96),
        None,
        Did::Volts(vec![Volts::of(12.47), Volts::of(12.33)]),
        "Morning after the two stations",
    ));
    rest.push(test(
        ago(today, 7),
        None,
        Did::Volts(vec![Volts::of(12.41), Volts::of(12.17)]),
        "Morning after, nothing on",
    ));
    numbered(owned, rest)
}

fn canoe(plan: &Plan, pack: &Pack, today: Date) -> Log {
    let owned = Owned {
        paid: Some(Money::of(210.0)),
        full_years: Some(5.0),
        next: Some(Next { date: ago(today, -2), minute: 5 * 60 + 30 }),
        ..Owned::of(Pack { aboard: true, ..pack.clone() }, ago(today, 230))
    };
    let truth = Truth { draw: 0.95, speed: 1.0, holds: 1.02 };
    let mut rest = outings(plan, pack, CANOE, &truth, today);
    rest.push(test(
        ago(today, 225),
        None,
        capacity(10.0, 5.1, 10.0, 21.0),
        "Before its first trip",
    ));
    rest.push(test(ago(today, 224), None, Did::Charged(Charge::Full), ""));
    numbered(owned, rest)
}
