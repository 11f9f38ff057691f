//! Places and speeds, not minutes alone: what a pack of fewer volts or more wind makes of a day's work.

use lake_hour_core::day::{Day, Duty, Keeps, Stretch};
use lake_hour_core::decide::get_home::{Change, get_home, gets_home};
use lake_hour_core::decide::sure;
use lake_hour_core::decide::{Contest, Decided};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::convert::MS_PER_MPH;
use lake_hour_core::units::{AmpHours, Amps, Hours, Metres, MetresPerSecond, Money, Volts};
use lake_hour_core::verdict::{Does, Evaluation, How, Limit, Outcome, What};
use proptest::prelude::*;

fn mph(v: f64) -> MetresPerSecond {
    MetresPerSecond::of(v * MS_PER_MPH)
}

fn rig() -> Rig {
    let mut rig = Rig::new("boat", CraftKind::VHull, Volts::of(36.0));
    rig.motor.also_accepts = vec![Volts::of(24.0)];
    rig.motor.max_current = Some(Amps::of(45.0));
    rig
}

/// So many 12 V units of LFP in series.
fn pack(series: u32, ah: f64) -> Pack {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(5.0) };
    let mut battery = Battery::new("b", Chemistry::Lfp, Volts::of(12.8), rating);
    battery.price = Some(Money::of(300.0));
    Pack::of(battery, series, 1)
}

fn plan(rig: Rig, day: Day, packs: Vec<Pack>) -> Plan {
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs,
        wants: Vec::new(),
        build: Default::default(),
    }
}

fn day() -> Day {
    Day::starting_at(420)
        .then("Out", Hours::of(0.7), Duty::Setting(8.0))
        .then("Trolling", Hours::of(2.0), Duty::Setting(3.0))
        .then("Home", Hours::of(0.7), Duty::Setting(8.0))
}

fn judged(plan: &Plan) -> Vec<Evaluation> {
    plan.evaluate().unwrap()
}

/// A brushed motor on two thirds of its volts goes about two thirds as fast (common practice, no source): getting somewhere takes
/// about half as long again, and the place is as far away; trolling lasts as long and is slower.
#[test]
fn fewer_volts_take_longer_to_get_there_and_troll_slower() {
    let plan = plan(rig(), day(), vec![pack(3, 100.0), pack(2, 100.0)]);
    let all = judged(&plan);
    let as_planned = all[0].drawn.as_ref().unwrap();
    assert!(as_planned.work.otherwise.is_empty() && as_planned.driven.is_none());
    assert_eq!(all[0].verdict(&plan.day).what, What::Home);
    let slower = all[1].drawn.as_ref().unwrap();
    let how: Vec<&str> = (slower.work.otherwise.iter())
        .map(|o| match o.how {
            How::Longer(_) => "longer",
            How::Slower => "slower",
            _ => "not",
        })
        .collect();
    assert_eq!(how, ["longer", "slower", "longer"]);
    for o in &slower.work.otherwise {
        let share = o.reached / o.planned;
        assert!((0.6..0.8).contains(&share), "{share}");
        if let How::Longer(more) = o.how {
            let lasts = plan.day.stretches[o.stretch].lasts;
            // As far as planned.
            let far = |v: MetresPerSecond, h: Hours| v.value() * h.value();
            let (was, is) = (far(o.planned, lasts), far(o.reached, lasts + more));
            assert!((is / was - 1.0).abs() < 1e-6, "{was} {is}");
        }
    }
    let driven = slower.driven.as_ref().unwrap();
    assert_eq!(driven.stretches[1].lasts, Hours::of(2.0), "time is spent as planned");
    let span: Hours = slower.legs.iter().map(|leg| leg.hours).sum();
    assert!((span - driven.lasts()).value().abs() < 1e-6);
    assert!((slower.takes - driven.lasts() / plan.day.lasts()).abs() < 1e-9);
    let told = all[1].verdict(&plan.day);
    assert_eq!((told.what, told.stretch), (What::HomeSlower, Some(0)));
    assert!(all[1].covers_the_distance());
}

/// The same day on fewer volts draws less and lasts longer by the minutes; doing less work is never the better pack, unless its
/// owner says so.
#[test]
fn doing_less_work_is_never_the_better_pack() {
    let mut plan = plan(rig(), day(), vec![pack(2, 100.0), pack(3, 100.0)]);
    // Two units cost less than three: they came first by money.
    let standings = Contest::of(&plan).unwrap().standings();
    assert_eq!(Contest::order(&standings), [1, 0]);
    assert_eq!(standings[1].compare(&standings[0]).1, Decided::Home);
    plan.day.slower_will_do = true;
    assert_eq!(Contest::of(&plan).unwrap().best(), Some(0));
}

/// More wind than the motor has power for fails as such, above any hours, and the change that mends it is less wind.
#[test]
fn a_place_that_is_not_held_fails_whatever_is_left() {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(20.0));
    let mut day = Day::starting_at(420).then("Drift", Hours::of(0.5), Duty::Off).then(
        "Hold",
        Hours::of(0.5),
        Duty::HoldPlace,
    );
    let at = |day: &mut Day, wind: f64| day.conditions.wind = mph(wind);
    at(&mut day, 5.0);
    let calm = plan(rig.clone(), day.clone(), vec![pack(2, 200.0)]);
    assert_eq!(judged(&calm)[0].verdict(&calm.day).what, What::Home);
    at(&mut day, 25.0);
    let windy = plan(rig, day, vec![pack(2, 200.0)]);
    let told = &judged(&windy)[0];
    let verdict = told.verdict(&windy.day);
    assert_eq!((verdict.what, verdict.stretch), (What::CannotHold, Some(1)));
    assert_eq!(
        verdict.limit.map(|(limit, at)| (limit, at.unwrap())),
        Some((Limit::Motor, Hours::of(0.5)))
    );
    assert_eq!((told.counts_as(), told.covers_the_distance()), (Outcome::Stops, false));
    assert!(told.drawn.as_ref().unwrap().summary.charge_left > 0.5, "and most of it is left");
    assert!(!gets_home(&windy, &windy.packs[0]));
    let chances = sure::chances(&Contest::of(&windy).unwrap()).unwrap();
    assert_eq!(chances[0].map(|c| (c.finished, c.best)), Some((0.0, 0.0)));
    let wind = get_home(&windy, &windy.packs[0]).into_iter().find_map(|c| match c {
        Change::Wind(most) => Some(most),
        _ => None,
    });
    let most = wind.expect("less wind mends it");
    assert!(most > mph(5.0) && most < mph(25.0), "{most}");
}

/// A speed that is typed is made or not; so many miles are gone all the same, later.
#[test]
fn a_speed_is_not_made_and_miles_take_longer() {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(12.0));
    rig.motor.max_current = Some(Amps::of(40.0));
    let go = |duty| {
        plan(
            rig.clone(),
            Day::starting_at(420).then("Go", Hours::of(1.0), duty),
            vec![pack(1, 200.0)],
        )
    };
    let fast = go(Duty::Speed(mph(9.0)));
    let told = judged(&fast)[0].verdict(&fast.day);
    assert_eq!((told.what, told.stretch), (What::CannotMake, Some(0)));
    let easy = go(Duty::Speed(mph(1.5)));
    assert_eq!(judged(&easy)[0].verdict(&easy.day).what, What::Home);
    let far = go(Duty::Distance(Metres::of(mph(5.0).value() * 3600.0)));
    let told = &judged(&far)[0];
    let work = &told.drawn.as_ref().unwrap().work;
    assert_eq!(work.does(), Does::Slower);
    assert!(work.longer() > Hours::ZERO);
    // What the motor gives at its most reaches this.
    let reached = work.otherwise[0].reached;
    let asks = propulsion::implied(
        &rig,
        &Stretch::new("s", Hours::of(1.0), Duty::Speed(reached)),
        &lake_hour_core::day::Conditions::CALM,
    );
    let full = (Amps::of(40.0) * Volts::of(12.0)).value();
    assert!((asks.unwrap().watts.value() / full - 1.0).abs() < 0.01);
}

/// What of a stretch stays: by its load, by its name, as its owner says.
#[test]
fn names_and_loads_tell_what_a_stretch_keeps() {
    let of = |name: &str, duty, boat| Stretch::new(name, Hours::of(1.0), duty).keeps_on(boat);
    let five = Duty::Setting(5.0);
    for name in ["Out to station 1", "Across", "Run home", "Transect at setting 4"] {
        assert_eq!(of(name, five, true), Keeps::Distance, "{name}");
    }
    for name in ["Trolling", "Drift out", "Hold, wind", "Stretch 3", "Homework"] {
        assert_eq!(of(name, five, true), Keeps::Time, "{name}");
    }
    assert_eq!(of("Stretch 3", Duty::Speed(mph(2.0)), true), Keeps::Distance);
    assert_eq!(of("Trolling", Duty::Speed(mph(2.0)), true), Keeps::Time);
    assert_eq!(of("Out", Duty::HoldPlace, true), Keeps::Time);
    assert_eq!(of("Trolling", Duty::Distance(Metres::of(900.0)), true), Keeps::Distance);
    assert_eq!(of("Rubbish", five, false), Keeps::Distance, "a cart's round");
    let told = Stretch { keeps: Some(Keeps::Time), ..Stretch::new("Out", Hours::of(1.0), five) };
    assert_eq!(told.keeps_on(true), Keeps::Time);
}

/// Of limits that fail the earliest on the clock is told, whatever ends the day.
#[test]
fn the_first_limit_by_the_clock_is_told() {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(12.0));
    rig.motor.max_current = Some(Amps::of(50.0));
    let plan = plan(
        rig,
        Day::starting_at(420).then("Go", Hours::of(6.0), Duty::Current(Amps::of(20.0))),
        vec![pack(1, 100.0), pack(1, 125.0), pack(1, 400.0)],
    );
    let all = judged(&plan);
    let told = |n: usize| all[n].verdict(&plan.day);
    assert_eq!(told(0).what, What::Stops);
    assert_eq!(told(0).limit.map(|l| l.0), Some(Limit::Reserve), "touched before it stops");
    assert_eq!(told(1).what, What::HomeTooDeep);
    assert_eq!((told(2).what, told(2).limit), (What::Home, None));
    let at = |n: usize| told(n).limit.unwrap().1.unwrap().value();
    assert!(at(0) < 6.0 && at(0) < at(1));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    /// More wind never lets a pack do more of the work; what goes slower never goes faster than planned, and gets as far.
    #[test]
    fn more_wind_never_does_more_of_the_work(
        wind in 0.0..30.0_f64, more in 0.0..20.0_f64, amps in 10.0..60.0_f64, speed in 0.5..6.0_f64,
    ) {
        let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
        rig.motor.max_current = Some(Amps::of(amps));
        let of = |wind: f64| {
            let mut day = Day::starting_at(420)
                .then("Go", Hours::of(0.5), Duty::Distance(Metres::of(mph(speed).value() * 1800.0)))
                .then("Hold", Hours::of(0.5), Duty::HoldPlace);
            day.conditions.wind = mph(wind);
            let plan = plan(rig.clone(), day, vec![pack(2, 300.0)]);
            let told = judged(&plan).remove(0);
            (told.drawn.unwrap().work.as_ref().clone(), plan.day)
        };
        let (less, _) = of(wind);
        let (rough, day) = of(wind + more);
        prop_assert!(less.does() <= rough.does(), "{less:?} {rough:?}");
        for o in &rough.otherwise {
            prop_assert!(o.reached < o.planned || o.how == How::CannotHold, "{o:?}");
            if let How::Longer(hours) = o.how {
                let lasts = day.stretches[o.stretch].lasts;
                let (was, is) = (o.planned.value() * lasts.value(), o.reached.value() * (lasts + hours).value());
                prop_assert!((is / was - 1.0).abs() < 1e-6);
            }
        }
    }
}

/// Home is a place so far away: its time follows from the speed at its setting, wind lengthens it, and a wind that is more than the
/// motor has is told as a speed that is not made. By hand: at twice the speed half the time.
#[test]
fn a_place_so_far_away_takes_its_time_and_wind_lengthens_it() {
    let mut plan = plan(rig(), day(), vec![pack(3, 100.0)]);
    plan.day.stretches[2].far = Some(Metres::of(3000.0));
    plan.measured_out();
    let calm = plan.day.stretches[2].lasts;
    let speed = |plan: &Plan| {
        let implied = propulsion::of_day(&plan.rig_as_measured(), &plan.day);
        implied[2].as_ref().unwrap().speed.unwrap().value()
    };
    assert!((calm.value() * 3600.0 * speed(&plan) - 3000.0).abs() < 1.0);
    assert_eq!(judged(&plan)[0].verdict(&plan.day).what, What::Home, "as planned");
    let mut windy = plan.clone();
    lake_hour_core::plan::WhatIf::Wind(mph(10.0)).apply(&mut windy);
    assert!(windy.day.stretches[2].lasts > calm * 1.02);
    assert_eq!(windy.day.stretches[0].lasts, plan.day.stretches[0].lasts, "minutes stay minutes");
    let left = |plan: &Plan| judged(plan)[0].drawn.as_ref().unwrap().summary.charge_left;
    assert!(left(&windy) < left(&plan));
    // Twice as far is twice as long; half a day is half as far.
    let mut far = plan.clone();
    far.day.stretches[2].far = Some(Metres::of(6000.0));
    far.measured_out();
    assert!((far.day.stretches[2].lasts / calm - 2.0).abs() < 1e-9);
    assert_eq!(plan.day.clone().as_long(0.5).stretches[2].far, Some(Metres::of(1500.0)));
    // Two halves are each half as far, a distance as well as a speed; an outing that was driven keeps its times.
    let half = plan.day.stretches[2].clone().lengthened(0.5);
    assert_eq!((half.far, half.lasts), (Some(Metres::of(1500.0)), calm * 0.5));
    let by_distance = Stretch::new("Out", Hours::of(1.0), Duty::Distance(Metres::of(4000.0)));
    assert_eq!(by_distance.lengthened(0.5).duty, Duty::Distance(Metres::of(2000.0)));
    let mut driven = lake_hour_core::log::as_driven_with(&plan, &plan.packs[0]);
    driven.day.conditions.wind = mph(10.0);
    driven.measured_out();
    assert_eq!(driven.day.stretches[2].lasts, calm);
    // Nothing gets there in a gale: the time stays as it was told, and the verdict says so.
    let mut gale = plan.clone();
    lake_hour_core::plan::WhatIf::Wind(mph(60.0)).apply(&mut gale);
    assert_eq!(gale.day.stretches[2].lasts, calm);
    assert_eq!(judged(&gale)[0].verdict(&gale.day).what, What::CannotMake);
}
