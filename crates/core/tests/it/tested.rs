//! Tests on the bench: each counts at once, the first as well as the tenth.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lake_hour_core::house::HouseRules;
use lake_hour_core::log::{CapacityTest, Did, LoadTest, Log, Logged, Owned, Test, TestEnd};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, Ohms, Volts};

const BOUGHT: Date = date(2026, 9, 20);

fn pack(chemistry: Chemistry, series: u32) -> Pack {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    Pack::of(Battery::new("Reed", chemistry, Volts::of(volts), rating), series, 1)
}

fn plan(pack: &Pack) -> Plan {
    Plan {
        currency: "USD".into(),
        rig: Rig::new("skiff", CraftKind::VHull, pack.voltage()),
        day: lake_hour_core::day::Day::starting_at(420),
        rules: HouseRules::default(),
        packs: vec![pack.clone()],
        wants: Vec::new(),
        build: Default::default(),
    }
}

/// A discharge at 5 A that finds a share of the label: its time is in proportion.
fn gives(pack: &Pack, unit: Option<u32>, share: f64, on: Date) -> Logged {
    let one = if unit.is_some() { Pack::of(pack.battery.clone(), 1, 1) } else { pack.clone() };
    let stop = Volts::of(if pack.battery.chemistry.is_lead() { 10.5 } else { 10.0 });
    let test = |lasted: f64| CapacityTest {
        current: Amps::of(5.0),
        lasted: Hours::of(lasted),
        stop: stop * f64::from(one.series),
        ended: TestEnd::Reached,
        temperature: None,
        energy: None,
    };
    let whole = test(10.0).found(&one, 1.0).unwrap().rated.value();
    logged(Did::Capacity(test(whole * share)), unit, on)
}

fn logged(did: Did, unit: Option<u32>, on: Date) -> Logged {
    let note = String::new();
    Logged::Test(Box::new(Test { date: on, of: Some(1), unit, did, recorded: None, note }))
}

fn log(pack: &Pack, tests: Vec<Logged>) -> Log {
    let owned = Logged::Owned(Box::new(Owned::of(pack.clone(), BOUGHT)));
    Log::of((1..).zip(std::iter::once(owned).chain(tests)).collect())
}

/// 82 % of a battery that was bought that week is 82 %, in what the log taught, in its health and in every plan; nothing calls the
/// only entry the odd one.
#[test]
fn the_first_test_counts_at_once_however_new_the_battery_is() {
    for (chemistry, series) in [(Chemistry::Lfp, 1), (Chemistry::Agm, 2), (Chemistry::Nmc, 1)] {
        let pack = pack(chemistry, series);
        let plan = plan(&pack);
        let today = date(2026, 9, 24);
        let log = log(&pack, vec![gives(&pack, None, 0.82, today)]);
        let measured = log.measured(&plan, 1, today).expect("measured");
        let [low, likely, high] = measured.capacity.expect("a capacity");
        assert!((likely - 0.82).abs() < 0.003, "{chemistry:?}: {likely}");
        assert!(low > 0.79 && high < 0.85, "{low} {high}");
        let learned = log.learned(&plan, today);
        assert!(learned.knows_capacity() && learned.doubted().is_empty());
        let taught = log.taught(&plan, &learned, today);
        let health = taught.packs[0].health;
        assert!((health.capacity_share - 0.82).abs() < 0.003 && health.doubt < 0.4, "{health:?}");
        // Taken back, it is what its owner told.
        assert_eq!(log.untaught(&taught).packs[0].health, pack.health);
    }
}

/// Two tests that differ are not averaged: the lower counts until a third bears one of them out.
#[test]
fn of_two_tests_that_differ_the_lower_counts_until_a_third_settles_it() {
    let pack = pack(Chemistry::Lfp, 1);
    let plan = plan(&pack);
    let on = |days: i64| BOUGHT.checked_add(days.days()).unwrap();
    let share = |tests: &[f64]| {
        let tests = (0..).zip(tests).map(|(n, share)| gives(&pack, None, *share, on(3 + n)));
        let log = log(&pack, tests.collect());
        let over: Vec<bool> = log.tested(1).iter().map(|t| t.passed_over).collect();
        (log.measured(&plan, 1, on(20)).unwrap().capacity.unwrap()[1], over)
    };
    let (likely, over) = share(&[0.82, 0.91]);
    assert!((likely - 0.82).abs() < 0.005 && over == [false, true], "{likely} {over:?}");
    let (likely, over) = share(&[0.82, 0.91, 0.90]);
    assert!((likely - 0.905).abs() < 0.01 && over == [true, false, false], "{likely} {over:?}");
    let (likely, over) = share(&[0.84, 0.82]);
    assert!((likely - 0.83).abs() < 0.01 && over == [false, false], "{likely} {over:?}");
    // Minutes say nothing of a capacity, and what is kept of them changes nothing.
    let short = CapacityTest {
        current: Amps::of(5.0),
        lasted: Hours::of(0.05),
        stop: Volts::of(10.0),
        ended: TestEnd::Reached,
        temperature: None,
        energy: None,
    };
    let short = log(&pack, vec![logged(Did::Capacity(short), None, on(3))]);
    assert_eq!(short.measured(&plan, 1, on(4)), None);
}

/// A unit that was tested holds its string back: the plan has it as the weak one, the others as what they are.
#[test]
fn a_test_of_one_unit_counts_for_the_string() {
    let pack = pack(Chemistry::Agm, 4);
    let plan = plan(&pack);
    let on = date(2026, 10, 1);
    // Two are tested: the second holds less.
    let two = vec![gives(&pack, Some(1), 0.97, on), gives(&pack, Some(2), 0.80, on)];
    let measured = log(&pack, two).measured(&plan, 1, on).unwrap();
    let (unit, weak) = measured.weak.expect("a weak one");
    assert_eq!(unit, 2);
    assert!((weak.capacity_share - 0.80 / measured.health.capacity_share).abs() < 1e-9);
    assert!((measured.capacity.unwrap()[1] - 0.80).abs() < 0.003, "{measured:?}");
    // All are: the middle of the others is the pack's.
    let shares = [0.95, 0.93, 0.80, 0.94];
    let all = (1..).zip(shares).map(|(n, share)| gives(&pack, Some(n), share, on)).collect();
    let log = log(&pack, all);
    let measured = log.measured(&plan, 1, on).unwrap();
    let (unit, weak) = measured.weak.unwrap();
    assert!(unit == 3 && (weak.capacity_share - 0.80 / 0.94).abs() < 0.004, "{measured:?}");
    assert!((measured.health.capacity_share - 0.94).abs() < 0.004, "{measured:?}");
    let taught = log.taught(&plan, &log.learned(&plan, on), on);
    assert_eq!(taught.packs[0].weak_unit, Some(weak));
    assert_eq!(log.untaught(&taught).packs[0].weak_unit, None);
    // Sound ones are none the weaker for being tested.
    let sound = (1..=4).map(|n| gives(&pack, Some(n), 0.98 + 0.004 * f64::from(n), on));
    let sound = self::log(&pack, sound.collect());
    assert_eq!(sound.measured(&plan, 1, on).unwrap().weak, None);
}

/// A load test of the whole pack tells its resistance, which wear alone would have told otherwise; resistances of units that of the
/// weak one.
#[test]
fn a_load_test_and_resistances_say_how_it_resists() {
    let pack = pack(Chemistry::Agm, 2);
    let plan = plan(&pack);
    let on = date(2026, 10, 1);
    let load = |under: f64| {
        let (before, under) = (Volts::of(25.6), Volts::of(under));
        let current = Amps::of(50.0);
        LoadTest { before, under, current, seconds: 15.0, temperature: None }
    };
    let usual = load(24.0).found(&pack, 2, 1).unwrap().usual.value();
    let twice = load(25.6 - 50.0 * usual * 2.0);
    let log_of = |load| log(&pack, vec![logged(Did::Load(load), None, on)]);
    let measured = log_of(twice).measured(&plan, 1, on).unwrap();
    assert!((measured.health.resistance_factor - 2.0).abs() < 1e-6 && measured.capacity.is_none());
    let log = log_of(twice);
    let taught = log.taught(&plan, &log.learned(&plan, on), on);
    assert!((taught.packs[0].health.resistance_factor - 2.0).abs() < 1e-6);
    // One that was not charged says nothing.
    let flat = LoadTest { before: Volts::of(24.2), ..twice };
    assert_eq!(log_of(flat).measured(&plan, 1, on), None);
    let ohms = [5.0, 9.0].map(|m| Ohms::of(m / 1000.0)).to_vec();
    let both = vec![logged(Did::Resistances(ohms), None, on), gives(&pack, Some(2), 0.80, on)];
    let (_, weak) = self::log(&pack, both).measured(&plan, 1, on).unwrap().weak.unwrap();
    assert!((weak.resistance_factor - 9.0 / 7.0).abs() < 1e-9, "{weak:?}");
}
