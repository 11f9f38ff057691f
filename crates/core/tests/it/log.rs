//! Outings as they went: what they say in equations, and what a few of them teach of a motor whose truth is known.

use jiff::ToSpan;
use jiff::civil::date;
use lake_hour_core::care::health;
use lake_hour_core::day::{Accessory, Conditions, Day, Duty, SolarHour};
use lake_hour_core::drawdown::Rest;
use lake_hour_core::house::HouseRules;
use lake_hour_core::learn::{Ageing, Driven, Entry, Factor, Learned, Meter, Told};
use lake_hour_core::log::{
    CapacityTest, Cause, Charge, Did, Log, Logged, Outing, Owned, Reading, Season, Test, TestEnd,
    Unclear, Used, as_driven_with, parts, told_capacity, unlearned, years,
};
use lake_hour_core::pack::{Health, Pack};
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Lesson, Rig, SettingPoint, SpeedPoint};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Metres, MetresPerSecond, Money, Volts, Watts,
};

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
        recorded: None,
        hot: None,
        counts: true,
        practice: false,
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
    assert!((share - 0.4).abs() < 1e-12 && meter == Meter::Percent);
    let (_, meter) = told(lfp(), Charge::Full, Used::Left(Charge::Feel(0.5))).unwrap();
    assert_eq!(meter, Meter::Feel);
    let (_, meter) = told(lfp(), Charge::Full, Used::Left(Charge::Full)).unwrap();
    assert_eq!(meter, Meter::Percent);
    let rested = Used::Left(Charge::Rested(Volts::of(24.6), Rest::FourHours));
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

/// A shunt that counts what was planned, on a pack of any kind, new or worn, in a wind that was measured or not: it teaches that all
/// is as planned.
#[test]
fn counted_as_planned_teaches_that_it_is_as_planned() {
    for chemistry in Chemistry::ALL {
        for (worn, wind) in [(1.0, Some(3.0)), (0.85, None)] {
            let mut planned = plan(chemistry, if chemistry.facts().lead { 12.0 } else { 12.8 });
            planned.packs[0].health = Health::at(worn);
            let run = planned.judge().unwrap().in_full(&planned.packs[0]).drawn.unwrap();
            let used = Used::AmpHours(run.summary.delivered);
            let went = |n: i8| Outing {
                date: date(2026, 9, 1 + n),
                wind: wind.map(MetresPerSecond::of),
                ..outing(planned.clone(), Charge::Full, used)
            };
            let entries: Vec<Entry> =
                (0..8).flat_map(|n| went(n).entries(i64::from(n)).unwrap()).collect();
            let learned = Learned::from(&entries, years(date(2026, 9, 9)));
            for driven in [Driven::AtSettings, Driven::AtSpeed, Driven::Holding] {
                let times = learned.takes(driven)[1];
                assert!((times - 1.0).abs() < 0.005, "{chemistry:?} {worn} {driven:?}: {times}");
            }
        }
    }
}

/// What is driven at one setting, however many stretches, is off together; at two it is off less; where it was measured there, not at
/// all. Worked by hand: shares .1, .2 and .1 at settings 4, 4 and 7.
#[test]
fn the_curve_between_measured_settings_is_off_by_itself() {
    let mut plan = lfp();
    plan.day = Day::starting_at(420)
        .then("a", Hours::of(1.0), Duty::Setting(4.0))
        .then("b", Hours::of(2.0), Duty::Setting(4.0))
        .then("c", Hours::of(0.4), Duty::Setting(7.0))
        .then("d", Hours::of(0.5), Duty::Speed(MetresPerSecond::of(0.8)))
        .then("e", Hours::of(0.5), Duty::Current(Amps::of(9.0)))
        .then("f", Hours::of(0.5), Duty::HoldPlace);
    let told = |plan: &Plan| parts(plan, &plan.packs[0]).unwrap();
    let none = told(&plan);
    let one = |at: usize| {
        let mut alone = plan.clone();
        for (n, s) in alone.day.stretches.iter_mut().enumerate() {
            if n != at {
                s.duty = Duty::Off;
            }
        }
        told(&alone).squares.iter().sum::<f64>().sqrt()
    };
    let (together, alone) = (one(0) + one(1), one(2).powi(2));
    let by_hand = together.powi(2) + alone;
    assert!((none.between[0] / by_hand - 1.0).abs() < 0.05, "{none:?} {by_hand}");
    assert!((none.between[1] - none.squares[1]).abs() < 1e-12 && none.between[1] > 0.0);
    let motor = &mut plan.rig.motor;
    motor.settings = vec![SettingPoint { setting: 4.0, current: Amps::of(14.0), at: None }];
    motor.settings_measured = true;
    plan.rig.measured =
        vec![SpeedPoint { speed: MetresPerSecond::of(0.8), current: Amps::of(8.0) }];
    let measured = told(&plan);
    assert!((measured.between[0] / alone - 1.0).abs() < 0.3, "{measured:?}");
    assert_eq!(measured.between[1], 0.0);
}

#[test]
fn a_date_is_years_from_any_other() {
    let apart = years(date(2027, 3, 1)) - years(date(2026, 3, 1));
    assert!((apart - 1.0).abs() < 0.002, "{apart}");
    assert!(years(date(2019, 12, 31)) < 0.0);
}

/// A log of outings whose truth is known: what it teaches is taken over into the rig, multiplies what is told of it exactly,
/// and leaves no more doubt than there was; the next day's band is narrower by that.
#[test]
fn what_is_taken_over_multiplies_the_draw_and_narrows_the_band() {
    let plan = lfp();
    let pack = &plan.packs[0];
    let took = parts(&plan, pack).unwrap();
    let truth = 1.15;
    let entries: Vec<_> = (1..=6)
        .flat_map(|n| {
            let used = (took.at_settings + took.at_speed + took.holding) * truth + took.devices;
            let reading = Some(Reading {
                setting: 8.0,
                current: plan.rig.motor.current_at(8.0).unwrap() * truth,
            });
            let o = Outing {
                reading: reading.filter(|_| n == 2),
                date: date(2026, 5, n),
                ..outing(plan.clone(), Charge::Full, Used::Left(Charge::Meter(1.0 - used)))
            };
            o.entries(i64::from(n)).unwrap()
        })
        .collect();
    let learned = Learned::from(&entries, years(date(2026, 5, 10)));
    let mut taught = plan.clone();
    let on = date(2026, 5, 10);
    let lesson = learned.lesson(Driven::AtSettings, on).expect("settings are learnt");
    assert!((lesson.times / truth - 1.0).abs() < 0.03, "{lesson:?}");
    assert!((0.0..1.0).contains(&lesson.doubt) && lesson.entries == 7);
    taught.rig.motor.learned = Some(lesson);
    taught.rig.craft.learned.at_speed = learned.lesson(Driven::AtSpeed, on);
    taught.rig.craft.learned.holding = learned.lesson(Driven::Holding, on);
    for setting in [2.0, 5.0, 8.0] {
        let amps = |plan: &Plan| plan.rig.motor.current_at(setting).unwrap().value();
        assert!((amps(&taught) / amps(&plan) - lesson.times).abs() < 1e-12);
    }
    // No more than its owner stated it to draw, whatever a log taught.
    assert_eq!(taught.rig.motor.current_at(10.0), plan.rig.motor.max_current);
    // Its most is what it draws at the top, for cables and limits too; a log that taught less makes no cable thinner.
    let full = |rig: &Rig| rig.motor.full_current().unwrap().value();
    let top = taught.rig.motor.current_at(10.0).unwrap().value();
    assert!((full(&taught.rig) - top).abs() < 1e-9);
    let mut less = taught.rig.clone();
    less.motor.learned = Some(Lesson { times: 0.8, ..lesson });
    assert!((full(&less) - full(&plan.rig)).abs() < 1e-9);
    // What was typed is what was typed: the draw is another one.
    let mut typed = taught.clone();
    typed.day.stretches[0].duty = Duty::Current(Amps::of(20.0));
    let implied = lake_hour_core::propulsion::of_day(&typed.rig, &typed.day)[0].unwrap();
    assert!((implied.amps.value() - 20.0 * lesson.times).abs() < 1e-9);
    let band = |plan: &Plan| {
        let drawn = plan.judge().unwrap().in_full(&plan.packs[0]).drawn.unwrap();
        (drawn.band.high - drawn.band.low, drawn.summary.charge_left)
    };
    let ((wide, before), (narrow, after)) = (band(&plan), band(&taught));
    assert!(narrow < 0.8 * wide && after < before, "{wide} {narrow} {before} {after}");
    // By labels and what is typical alone it is the rig that it was.
    assert_eq!(taught.rig.unlearned(), plan.rig);
    // Learnt again on a rig that has taken it over it is the same: nothing is counted twice.
    let again = outing(taught.clone(), Charge::Full, Used::Left(Charge::Meter(0.5)));
    let base = outing(plan.clone(), Charge::Full, Used::Left(Charge::Meter(0.5)));
    assert_eq!(
        again.on(&taught).unwrap().entries(1).unwrap(),
        base.on(&plan).unwrap().entries(1).unwrap()
    );
}

#[test]
fn a_capacity_that_was_learnt_is_over_what_its_owner_told() {
    let worn = Health::at(0.7);
    let test = |share| Entry { id: 1, years: 6.0, told: Told::Capacity(share) };
    let learned = Learned::from(&[test(0.95)], 6.0);
    let health = learned.health(worn).expect("a test teaches it");
    assert!((health.capacity_share - 0.7 * 0.95).abs() < 0.003, "{health:?}");
    assert!(health.doubt < 0.5);
    let mut pack = lfp().packs.remove(0);
    pack.health = worn;
    let holds = told_capacity(&pack).unwrap();
    assert!((holds.value() - 70.0).abs() < 0.5, "{holds}");
    assert_eq!(unlearned(&pack).health, worn, "what its owner told stays");
    pack.health = health;
    assert_eq!(unlearned(&pack).health, Health::NEW);
    // What was measured wins over what a label and an age make likely: however new, and however old.
    for ageing in [Ageing::UNTOLD, Ageing { a_year: 0.04, since: Some(2.0) }] {
        let learned = Learned::of_pack(&[test(0.80)], 6.0, ageing);
        assert!(learned.doubted().is_empty());
        assert!((learned.factor(Factor::Capacity)[1] - 0.80).abs() < 0.003);
    }
}

/// The causes of a difference are all of it, whatever they are; a day of another length is held against a plan as long as it was.
#[test]
fn what_went_otherwise_adds_up() {
    let plan = lfp();
    let planned = plan.day.lasts().value();
    for (hours, wind, left) in [
        (None, None, 0.50),
        (Some(planned * 1.1), Some(5.0), 0.30),
        (Some(planned * 0.4), None, 0.85),
        (Some(planned * 1.1), Some(1.0), 0.62),
    ] {
        let o = Outing {
            hours: hours.map(Hours::of),
            wind: wind.map(MetresPerSecond::of),
            ..outing(plan.clone(), Charge::Full, Used::Left(Charge::Meter(left)))
        };
        let entries = o.entries(1).unwrap();
        let went = o.went(1, &entries, Ageing::UNTOLD).unwrap();
        let sum: f64 = went.causes.iter().map(|c| c.1).sum();
        assert!((sum - went.more()).abs() < 1e-9, "{went:?}");
        assert!((went.left - left).abs() < 1e-12);
        assert_eq!(o.left(), Ok((went.left_planned, went.left)), "the same in short");
        let has = |cause| went.causes.iter().any(|c| c.0 == cause);
        assert_eq!(has(Cause::Length), hours.is_some_and(|h| h > planned));
        assert_eq!(has(Cause::Wind), wind.is_some_and(|w| (w - 3.0_f64).abs() > 1e-9));
        let lasts = went.plan.day.lasts().value();
        let shown = if hours.is_some_and(|h| h < planned) { planned * 0.4 } else { planned };
        assert!((lasts - shown).abs() < 1e-6, "{lasts} {shown}");
    }
    // On another craft it says nothing of this one.
    let o = outing(plan.clone(), Charge::Full, Used::Left(Charge::Meter(0.5)));
    let rig = Rig::new("canoe", CraftKind::Canoe, Volts::of(24.0));
    assert_eq!(o.on(&Plan { rig, ..plan }), Err(Unclear::OtherRig));
}

/// What a craft weighs was told with the pack that is aboard: driven with another one it is as much lighter or heavier, on the
/// Board and in the log alike.
#[test]
fn an_outing_with_another_pack_weighs_what_that_one_does() {
    let mut plan = lfp();
    plan.rig.craft.loaded_mass = Some(Kilograms::of(420.0));
    let (speed, current) = (MetresPerSecond::of(1.3), Amps::of(14.5));
    plan.rig.measured = vec![SpeedPoint { speed, current }];
    plan.rig.motor.settings_measured = true;
    let (setting, at) = (5.0, None);
    plan.rig.motor.settings = vec![SettingPoint { setting, current: Amps::of(11.0), at }];
    plan.packs[0].battery.mass = Some(Kilograms::of(30.0));
    let mut light = plan.packs[0].clone();
    (light.battery.mass, light.aboard) = (Some(Kilograms::of(11.0)), false);
    light.battery.name = "Tern".into();
    light.battery.nominal_voltage = Volts::of(12.0);
    light.battery.chemistry = Chemistry::Agm;
    plan.packs.push(light.clone());
    let on_board = plan.judge().unwrap().in_full(&light).drawn.unwrap().summary.charge_left;
    let driven = as_driven_with(&plan, &light);
    assert_eq!(driven.packs.len(), 2, "the one it was weighed with stands behind it");
    assert_eq!(as_driven_with(&plan, &plan.packs[0]).packs.len(), 1);
    let in_log = driven.judge().unwrap().in_full(&driven.packs[0]).drawn.unwrap();
    assert!((in_log.summary.charge_left - on_board).abs() < 1e-9, "{on_board}");
    // Looked at again on today's rig it is still that.
    let o = outing(driven.clone(), Charge::Full, Used::Left(Charge::Meter(0.5)));
    assert_eq!(o.on(&plan).unwrap().plan.rig, driven.rig);
    // With none aboard it is as it is told, at nominal volts.
    plan.packs[0].aboard = false;
    let on_board = plan.judge().unwrap().in_full(&light).drawn.unwrap().summary.charge_left;
    let driven = as_driven_with(&plan, &light);
    let in_log = driven.judge().unwrap().in_full(&driven.packs[0]).drawn.unwrap();
    assert!((in_log.summary.charge_left - on_board).abs() < 1e-9);
}

/// A pack with a price, bought a year ago, and so many outings with it that went as planned.
fn used(plan: &Plan, outings: i32) -> (Log, jiff::civil::Date) {
    let (bought, today) = (date(2025, 9, 22), date(2026, 9, 22));
    let owned = Owned::of(plan.packs[0].clone(), bought);
    let one =
        Outing { of: Some(1), ..outing(plan.clone(), Charge::Full, Used::Left(Charge::Full)) };
    let left = one.went(0, &[], Ageing::UNTOLD).unwrap().left_planned;
    let mut all = vec![(1, Logged::Owned(Box::new(owned)))];
    for n in 0..outings {
        let date = bought.checked_add((n * 365 / outings).days()).unwrap();
        let used = Used::Left(Charge::Meter(left));
        let distance = (n % 2 == 0).then_some(Metres::of(4000.0));
        let one = Outing { date, used, distance, ..one.clone() };
        all.push((i64::from(n) + 2, Logged::Outing(Box::new(one))));
    }
    (Log::of(all), today)
}

/// Used as it was planned a pack costs what the plan says; so far it has cost what was paid, and every outing makes that less.
#[test]
fn used_as_planned_it_costs_what_the_plan_says() {
    let mut plan = lfp();
    plan.day.outings_per_year = 30.0;
    plan.packs[0].battery.price = Some(Money::of(300.0));
    let (log, today) = used(&plan, 30);
    let rules = plan.rules_filled();
    assert!((log.per_year(1, today) - 30.0).abs() < 0.1);
    let life = health(&log, 1, today, &rules, [1.0; 3]).unwrap().life;
    let real = log.cost_as_used(1, &rules, &life, today).unwrap();
    // As it was bought: aboard it is paid for.
    let bought = Pack { aboard: false, ..plan.packs[0].clone() };
    let said = plan.judge().unwrap().in_full(&bought).drawn.unwrap().cost.unwrap();
    let near = |a: Option<Money>, b: Option<Money>, by: f64| {
        let (a, b) = (a.unwrap().value(), b.unwrap().value());
        assert!((a / b - 1.0).abs() < by, "{a} {b}");
    };
    near(real.per_lake_hour, said.per_lake_hour, 0.02);
    near(Some(real.account.energy), Some(said.account.energy), 0.05);
    assert_eq!(health(&log, 1, today, &rules, [1.0; 3]).unwrap().hot, None);
    let mut warm = log.clone();
    for (_, entry) in &mut warm.all[..3] {
        if let Logged::Outing(o) = entry {
            o.hot = Some(Hours::of(1.5));
        }
    }
    assert_eq!(health(&warm, 1, today, &rules, [1.0; 3]).unwrap().hot, Some(3.0));
    // Half as often is nearly twice as dear, where it is the years that end it.
    let (seldom, _) = used(&plan, 15);
    let life = health(&seldom, 1, today, &rules, [1.0; 3]).unwrap().life;
    let dear = seldom.cost_as_used(1, &rules, &life, today).unwrap();
    assert!(dear.per_cycle > real.per_cycle * 1.5);

    let spent = log.spent(1, &rules, today).unwrap();
    assert_eq!(spent.paid, Money::of(600.0));
    let whole = spent.season;
    assert_eq!(whole.outings, 30);
    assert!((whole.hours.value() - 30.0 * plan.day.lasts().value()).abs() < 1e-9);
    // What the wall gave is more than came out, and what was paid for it is that.
    assert!(whole.wall > whole.energy && whole.energy.value() > 0.0);
    let kwh = rules.money.energy_price.unwrap();
    assert!((spent.energy.value() - kwh.value() * whole.wall.value() / 1000.0).abs() < 1e-9);
    // Two halves of a year make a year.
    let (middle, after) = (date(2026, 3, 1), date(2026, 3, 2));
    let (a, b) = (log.season(1, date(2025, 1, 1), middle), log.season(1, after, today));
    assert_eq!(a.outings + b.outings, whole.outings);
    assert!((a.energy + b.energy - whole.energy).value().abs() < 1e-6);
    // Of half of them the distance is told: those bear their hours' share.
    assert!((whole.distance.value() - 15.0 * 4000.0).abs() < 1e-9);
    assert!((whole.each_goes().unwrap().value() - 4000.0).abs() < 1e-6);
    let a_metre = spent.per_metre().unwrap().value();
    assert!((a_metre * 4000.0 * 30.0 - spent.total().value()).abs() < 1e-6);
    near(spent.per_hour(), Some(spent.total() / whole.hours.value()), 1e-12);
    assert!(seldom.spent(1, &rules, today).unwrap().per_hour() > spent.per_hour());
}

/// Without outings, a price, or such a pack nothing is said; the plan at that use is as long and as often as it was.
#[test]
fn nothing_is_made_of_no_use() {
    let plan = lfp();
    let (log, today) = used(&plan, 10);
    let rules = plan.rules_filled();
    // Not priced, then paid for.
    assert_eq!(log.spent(1, &rules, today), None);
    assert_eq!(log.spent(7, &rules, today), None);
    assert_eq!(log.as_used(7, &plan, today), None);
    let mut paid = log.clone();
    let Logged::Owned(owned) = &mut paid.all[0].1 else { panic!("bought first") };
    owned.paid = Some(Money::of(500.0));
    let spent = paid.spent(1, &rules, today).unwrap();
    assert_eq!(spent.paid, Money::of(500.0));
    let none = Log::of(paid.all[..1].to_vec());
    assert_eq!(none.season(1, date(2025, 1, 1), today), Season::default());
    assert_eq!(none.spent(1, &rules, today).unwrap().per_hour(), None);
    assert_eq!(none.spent(1, &rules, today).unwrap().per_metre(), None);
    assert!(none.per_year(1, today) == 0.0 && none.as_used(1, &plan, today).is_none());

    let mut short = log.clone();
    for (_, entry) in &mut short.all {
        if let Logged::Outing(o) = entry {
            o.hours = Some(plan.day.lasts() * 0.5);
        }
    }
    let as_used = short.as_used(1, &plan, today).unwrap();
    assert!((as_used.day.lasts() / plan.day.lasts() - 0.5).abs() < 1e-9);
    assert!((as_used.day.outings_per_year - 10.0).abs() < 0.05);
}

/// What is taken over and left out again gives the plan as it was; of packs that are built otherwise nothing is touched.
#[test]
fn what_is_taken_over_goes_out_again_whole() {
    let mut plan = lfp();
    let other = Pack::of(plan.packs[0].battery.clone(), 2, 2);
    plan.packs.push(other);
    let (mut log, today) = used(&plan, 6);
    for (_, entry) in &mut log.all {
        if let Logged::Outing(o) = entry {
            let (share, _) = o.share_used().unwrap();
            o.used = Used::AmpHours(told_capacity(&plan.packs[0]).unwrap() * (share * 1.12));
        }
    }
    let test = CapacityTest {
        current: Amps::of(20.0),
        lasted: Hours::of(4.6),
        stop: Volts::of(20.0),
        ended: TestEnd::Reached,
        temperature: Some(Celsius::of(25.0)),
        energy: None,
    };
    let did = Did::Capacity(test);
    let logged =
        Test { date: today, of: Some(1), unit: None, did, recorded: None, note: String::new() };
    log.all.push((99, Logged::Test(Box::new(logged))));
    let learned = log.learned(&plan, today);
    let taught = log.taught(&plan, &learned, today);
    assert!(taught.rig.motor.learned.is_some());
    assert!(taught.packs[0].health.doubt < 1.0 && taught.packs[1] == plan.packs[1]);
    assert!((taught.packs[0].health.capacity_share - 0.922).abs() < 0.02);
    assert!((taught.rig.motor.learned.unwrap().times - 1.12).abs() < 0.06);
    assert_eq!(log.untaught(&taught), plan);
    // What is learnt is learnt of what was told, whether it is in use or not.
    let again = log.learned(&taught, today);
    assert_eq!(log.taught(&taught, &again, today), taught);
}

/// What was played draws no pack down: not in its cycles, its charge, its health, its money, and nothing is learnt of it.
#[test]
fn practice_counts_nowhere() {
    let plan = lfp();
    let owned = Logged::Owned(Box::new(Owned::of(plan.packs[0].clone(), date(2026, 3, 1))));
    let real = outing(plan.clone(), Charge::Full, Used::AmpHours(AmpHours::of(40.0)));
    let real = Outing { of: Some(1), date: date(2026, 9, 20), ..real };
    let played = Outing {
        date: date(2026, 9, 24),
        used: Used::AmpHours(AmpHours::of(90.0)),
        practice: true,
        ..real.clone()
    };
    let entry = |o: &Outing| Logged::Outing(Box::new(o.clone()));
    let without = Log::of(vec![(1, owned.clone()), (2, entry(&real))]);
    let with = Log::of(vec![(1, owned), (2, entry(&real)), (3, entry(&played))]);
    let today = date(2026, 9, 30);
    assert_eq!((with.outings().count(), with.practice().count()), (1, 1));
    assert!(with.outing(3).is_some(), "it may be looked at again");
    assert_eq!(with.full_cycles(1), without.full_cycles(1));
    assert_eq!(with.last_known(1, today), without.last_known(1, today));
    assert_eq!(with.entries(&plan, Some(1)), without.entries(&plan, Some(1)));
    assert_eq!(with.per_year(1, today), without.per_year(1, today));
    assert_eq!(with.learned(&plan, today), without.learned(&plan, today));
    let rules = HouseRules::default();
    let of = |log: &Log| health(log, 1, today, &rules, [0.95, 1.0, 1.0]);
    assert_eq!(of(&with), of(&without));
}
