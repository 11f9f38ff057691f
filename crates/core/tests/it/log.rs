//! Outings as they went: what they say in equations, and what a few of them teach of a motor whose truth is known.

use jiff::civil::date;
use lake_hour_core::day::{Accessory, Conditions, Day, Duty, SolarHour};
use lake_hour_core::house::HouseRules;
use lake_hour_core::learn::{Factor, Learned, Meter, Told};
use lake_hour_core::log::{Charge, Outing, Reading, Unclear, Used, parts, years};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, MetresPerSecond, Volts, Watts};

fn plan(chemistry: Chemistry, volts: f64) -> Plan {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(46.0));
    let mut day = Day::starting_at(420)
        .then("Out", Hours::of(0.7), Duty::Setting(8.0))
        .then("Hold", Hours::of(1.0), Duty::HoldPlace)
        .then("Transect", Hours::of(1.5), Duty::Speed(MetresPerSecond::of(0.8)))
        .then("Lunch", Hours::of(0.5), Duty::Off)
        .then("Home", Hours::of(0.8), Duty::Setting(7.0));
    day.ambient = Some(Celsius::of(25.0));
    day.conditions = Conditions { wind: MetresPerSecond::of(3.0), ..Conditions::CALM };
    let name = "Sonar".to_owned();
    day.accessories =
        vec![Accessory { name, power: Watts::of(18.0), hours: None, on_house: false }];
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    let pack = Pack::of(Battery::new("Reed", chemistry, Volts::of(volts), rating), 2, 1);
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs: vec![Pack { aboard: true, ..pack }],
        wants: Vec::new(),
        build: Default::default(),
    }
}

fn outing(plan: Plan, start: Charge, used: Used) -> Outing {
    Outing {
        date: date(2026, 9, 22),
        name: "Two stations".into(),
        hours: None,
        distance: None,
        start,
        used,
        wind: Some(MetresPerSecond::of(3.0)),
        reading: None,
        note: String::new(),
        of: None,
        counts: true,
        plan,
    }
}

fn lfp() -> Plan {
    plan(Chemistry::Lfp, 12.8)
}

/// What is expected by its parts is what the day's run takes; as long again takes as much again.
#[test]
fn the_parts_of_a_day_are_what_its_run_takes() {
    for plan in [lfp(), plan(Chemistry::Agm, 12.0)] {
        let told = parts(&plan, &plan.packs[0]).unwrap();
        let run = plan.judge().unwrap().in_full(&plan.packs[0]).drawn.unwrap();
        let took = run.starts_at - run.summary.charge_left;
        assert!((told.sum() - took).abs() < 1e-9, "{} by parts, {took} by the run", told.sum());
        for part in [told.at_settings, told.at_speed, told.holding, told.devices] {
            assert!(part > 0.005 && part < took, "{told:?}");
        }
        let mut longer = outing(plan.clone(), Charge::Full, Used::AmpHours(AmpHours::of(40.0)));
        longer.hours = Some(plan.day.lasts() * 2.0);
        let twice = longer.as_driven().unwrap();
        assert!((twice.day.lasts() / plan.day.lasts() - 2.0).abs() < 1e-12);
        // More than it has: what comes after its end is taken as what came before.
        let twice = parts(&twice, &plan.packs[0]).unwrap();
        assert!((twice.sum() / told.sum() - 2.0).abs() < 0.12, "{told:?} {twice:?}");
    }
}

/// The same use in whatever way it is told, as sure as it can be read. Rested lead: 12.3 V of a 12 V battery is about half
/// (common practice, no source).
#[test]
fn a_use_is_what_its_owner_knows_of_it() {
    let told = |plan: Plan, start, used| outing(plan, start, used).share_used();
    let (share, meter) = told(lfp(), Charge::Full, Used::AmpHours(AmpHours::of(40.0))).unwrap();
    assert!((share - 0.40).abs() < 0.02 && meter == Meter::Shunt);
    let (share, meter) = told(lfp(), Charge::Meter(0.9), Used::Left(Charge::Meter(0.5))).unwrap();
    assert!((share - 0.4).abs() < 1e-12 && meter == Meter::Rested);
    let (_, meter) = told(lfp(), Charge::Full, Used::Left(Charge::Feel(0.5))).unwrap();
    assert_eq!(meter, Meter::Feel);
    let (_, meter) = told(lfp(), Charge::Full, Used::Left(Charge::Full)).unwrap();
    assert_eq!(meter, Meter::Rested);
    let rested = Used::Left(Charge::Rested(Volts::of(24.6)));
    let (share, _) = told(plan(Chemistry::Flooded, 12.0), Charge::Full, rested).unwrap();
    assert!((0.35..=0.60).contains(&share), "{share}");
    assert_eq!(told(lfp(), Charge::Full, rested), Err(Unclear::VoltsOfLithium));
    let mut fed = lfp();
    fed.day.solar.push(SolarHour { from_minute: 540, power: Watts::of(50.0) });
    let fed = outing(fed, Charge::Full, Used::AmpHours(AmpHours::of(40.0)));
    assert_eq!(fed.entries(1), Err(Unclear::Charged));
    for odd in [Charge::Meter(1.2), Charge::Feel(-0.1), Charge::Meter(f64::NAN)] {
        assert_eq!(told(lfp(), odd, Used::Left(Charge::Meter(0.1))), Err(Unclear::NoCharge));
    }
    let flat = outing(lfp(), Charge::Meter(0.0), Used::Left(Charge::Meter(0.0)));
    assert_eq!(flat.entries(1), Err(Unclear::NoCharge));
    let mut none = lfp();
    none.packs.clear();
    assert_eq!(told(none, Charge::Full, rested), Err(Unclear::NoPack));
    let mut unknown = outing(lfp(), Charge::Full, Used::AmpHours(AmpHours::of(40.0)));
    unknown.plan.rig.motor.max_current = None;
    assert_eq!(unknown.entries(1), Err(Unclear::NoDraw));
    assert!(unknown.expected().is_err());
}

/// Begun at 60 %, in the wind that there was: what was expected is the run of that day.
#[test]
fn an_outing_is_expected_as_it_was_driven() {
    let mut went = outing(lfp(), Charge::Meter(0.6), Used::Left(Charge::Meter(0.2)));
    let calm = went.expected().unwrap().drawn.unwrap();
    assert!((calm.starts_at - 0.6).abs() < 1e-12);
    went.wind = Some(MetresPerSecond::of(6.0));
    let blown = went.expected().unwrap().drawn.unwrap();
    assert!(blown.summary.charge_left < calm.summary.charge_left);
}

/// A motor that really draws 15 % more than its label: its days, run by the day's own model with that motor, teach it; what its
/// hull does is left as it was.
#[test]
fn a_motor_that_draws_more_is_found_out() {
    let mut truth = lfp();
    truth.rig.motor.max_current = Some(Amps::of(46.0 * 1.15));
    truth.day.stretches.retain(|s| matches!(s.duty, Duty::Setting(_) | Duty::Off));
    let mut planned = truth.clone();
    planned.rig.motor.max_current = Some(Amps::of(46.0));
    let run = truth.judge().unwrap().in_full(&truth.packs[0]).drawn.unwrap();
    let used = Used::AmpHours(run.summary.delivered);
    let mut entries = Vec::new();
    for n in 0..6 {
        let mut went = outing(planned.clone(), Charge::Full, used);
        went.date = date(2026, 9, 1 + n);
        if n == 5 {
            let says = planned.rig.motor.current_at(8.0).unwrap();
            went.reading = Some(Reading { setting: 8.0, current: says * 1.15 });
        }
        entries.extend(went.entries(i64::from(n)).unwrap());
    }
    assert_eq!(entries.len(), 7);
    assert!(matches!(entries[6].told, Told::Amps(ratio) if (ratio - 1.15).abs() < 1e-9));
    let learned = Learned::from(&entries, years(date(2026, 9, 30)));
    let [low, middle, high] = learned.factor(Factor::Draw);
    assert!((middle - 1.15).abs() < 0.04 && low < 1.15 && 1.15 < high, "{low} {middle} {high}");
    assert!(learned.still(Factor::Drag) > 0.95);
}

#[test]
fn a_date_is_years_from_any_other() {
    let apart = years(date(2027, 3, 1)) - years(date(2026, 3, 1));
    assert!((apart - 1.0).abs() < 0.002, "{apart}");
    assert!(years(date(2019, 12, 31)) < 0.0);
}
