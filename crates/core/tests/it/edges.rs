//! The core at its edges: more than there is, nothing at all, odd labels, odd days. Each figure stays what it says it is.

use lake_hour_core::day::{
    Accessory, Charging, Day, Duty, HourConditions, SolarHour, Stretch, Surface,
};
use lake_hour_core::drawdown::{
    Bank, Demand, Ended, Guard, Leg, Summary, UnitLaw, fit, law::CellParameters, run, run_from,
};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Health, Pack, limits};
use lake_hour_core::propulsion::{implied, of_day, unused_speeds};
use lake_hour_core::rig::{Charger, CraftKind, Motor, Rig, SettingPoint, SpeedPoint, Supply};
use lake_hour_core::shelf::{Battery, Chemistry, Detail, Peak, Rating};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::system::System;
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Metres, MetresPerSecond, Money, Volts, Watts,
};
use lake_hour_core::verdict::{self, Evaluation, Note, Outcome};

fn battery(chemistry: Chemistry, ah: f64) -> Battery {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let over = Hours::of(chemistry.usual_rating_hours());
    Battery::new("b", chemistry, Volts::of(volts), Rating::Capacity { ah: AmpHours::of(ah), over })
}

fn pack(chemistry: Chemistry, ah: f64) -> Pack {
    Pack::of(battery(chemistry, ah), 1, 1)
}

fn rig(volts: f64) -> Rig {
    Rig::new("r", CraftKind::VHull, Volts::of(volts))
}

fn day(hours: f64, duty: Duty) -> Day {
    let mut day = Day::starting_at(420).then("on", Hours::of(hours), duty);
    day.ambient = Some(Celsius::of(25.0));
    day
}

fn amps(a: f64) -> Duty {
    Duty::Current(Amps::of(a))
}

fn evaluate(rig: &Rig, day: &Day, pack: &Pack) -> Evaluation {
    verdict::evaluate(rig, day, &HouseRules::default(), pack).unwrap()
}

fn summary(rig: &Rig, day: &Day, pack: &Pack) -> Summary {
    evaluate(rig, day, pack).drawn.unwrap().summary
}

fn said(e: &Evaluation) -> Vec<String> {
    e.notes.iter().map(|n| n.sentence(System::Us)).collect()
}

/// More power than a pack can give at any voltage: it stops at that moment, says so, and no share leaves 0 to 1.
#[test]
fn more_power_than_there_is_stops_the_day_there() {
    for (chemistry, duty) in [
        (Chemistry::Agm, Duty::Speed(MetresPerSecond::of(4.0))),
        (Chemistry::Gel, Duty::Power(Watts::of(60_000.0))),
        (Chemistry::Lfp, Duty::Speed(MetresPerSecond::of(3.5))),
        (Chemistry::Nmc, Duty::Power(Watts::of(40_000.0))),
    ] {
        for celsius in [-20.0, 25.0, 40.0] {
            let mut day = day(0.5, duty);
            day.ambient = Some(Celsius::of(celsius));
            let e = evaluate(&rig(12.0), &day, &pack(chemistry, 20.0));
            let drawn = e.drawn.as_ref().unwrap();
            let s = &drawn.summary;
            assert!((0.0..=1.0).contains(&s.charge_left), "{chemistry:?} {celsius}: {s:?}");
            assert!(drawn.band.low >= 0.0 && drawn.band.high <= 1.0, "{:?}", drawn.band);
            assert_eq!(e.outcome, Outcome::Stops, "{chemistry:?} {celsius}");
            assert!(s.energy.value() < 20.0 * 17.0, "{s:?}");
            if matches!(s.ended, Ended::Stopped { too_much: Some(_), .. }) {
                let told = said(&e);
                let words = told.iter().find(|n| n.contains("cannot give that at any voltage"));
                assert!(words.is_some(), "{told:?}");
            }
        }
    }
    let e = evaluate(
        &rig(12.0),
        &day(0.5, Duty::Power(Watts::of(60_000.0))),
        &pack(Chemistry::Gel, 100.0),
    );
    assert!(
        matches!(e.drawn.unwrap().summary.ended, Ended::Stopped { at, too_much: Some(_) } if at == Hours::ZERO)
    );
}

/// Draw curves with a point at 0, points that stand twice, reversed, or far out: no panic, never falling, met at the points.
#[test]
fn odd_draw_curves_are_read() {
    let point = |setting, current| SettingPoint { setting, current: Amps::of(current), at: None };
    for points in [
        vec![point(0.0, 0.0), point(5.0, 11.0)],
        vec![point(0.0, 2.0), point(0.0, 3.0)],
        vec![point(5.0, 11.0), point(5.0, 12.0), point(10.0, 46.0)],
        vec![point(10.0, 46.0), point(1.0, 1.2)],
        vec![point(3.0, 0.0), point(7.0, 0.0)],
        vec![point(1e-9, 1e-9), point(10.0, 1e6)],
    ] {
        let mut motor = Motor::of(Volts::of(12.0));
        motor.max_current = Some(Amps::of(50.0));
        motor.settings = points;
        let mut before = 0.0;
        for tenth in 0..=100 {
            let now = motor.current_at(f64::from(tenth) / 10.0).unwrap().value();
            assert!(
                now.is_finite() && now >= before - 1e-9,
                "{:?} at {tenth}: {now}",
                motor.settings
            );
            before = now;
        }
    }
}

/// A draw curve goes on from its last point to the motor's maximum, and no one point bends it above that.
#[test]
fn a_draw_curve_ends_at_the_motors_maximum() {
    let curve = |max: f64, points: &[(f64, f64)]| {
        let mut motor = Motor::of(Volts::of(12.0));
        motor.max_current = Some(Amps::of(max));
        let point = |&(setting, a)| SettingPoint { setting, current: Amps::of(a), at: None };
        motor.settings = points.iter().map(point).collect();
        motor.current_at(10.0).unwrap().value()
    };
    assert!((curve(50.0, &[(1.0, 1.2), (5.0, 11.0)]) - 50.0).abs() < 1e-9);
    assert!((curve(30.0, &[(7.5, 30.0)]) - 30.0).abs() < 1e-9);
    // What was read stands above what the label says.
    assert!((curve(30.0, &[(7.5, 35.0)]) - 35.0).abs() < 1e-9);
}

/// A stated maximum caps the draw at any voltage: a 52 A motor under a 60 A switch runs on a pack that stands well above its nominal
/// volts, at full throttle and held at a speed; without a stated maximum it draws what its own law says.
#[test]
fn a_stated_maximum_caps_the_draw_at_any_voltage() {
    let mut pack = Pack::of(battery(Chemistry::Lfp, 100.0), 1, 1);
    pack.battery.nominal_voltage = Volts::of(12.8);
    pack.battery.max_continuous = Some(Amps::of(60.0));
    let run = |stated: bool, duty: Duty| {
        let mut rig = rig(12.0);
        rig.motor.max_current = Some(Amps::of(52.0));
        rig.motor.max_is_typical = !stated;
        let day = Day::starting_at(420).then("All out", Hours::of(0.5), duty);
        evaluate(&rig, &day, &pack).drawn.unwrap().summary
    };
    for duty in [Duty::Setting(10.0), Duty::Power(Watts::of(900.0))] {
        let capped = run(true, duty);
        assert_eq!(capped.ended, Ended::DayDone, "{duty:?}");
        assert!(capped.delivered.value() <= 26.0 + 1e-9, "{duty:?}: {}", capped.delivered);
    }
    // Uncapped it would draw more, and trip.
    let free = run(false, Duty::Setting(10.0));
    assert!(free.ended != Ended::DayDone || free.delivered.value() > 26.2, "{free:?}");
}

/// One measured pair is met exactly at its own setting, whatever the curve does between; above it and below it never falls.
#[test]
fn one_measured_pair_is_met_at_its_own_setting() {
    for (setting, amps) in [(5.0, 46.0), (2.0, 44.0), (9.0, 3.0), (4.0, 1.2), (5.0, 11.0)] {
        let mut motor = Motor::of(Volts::of(12.0));
        motor.max_current = Some(Amps::of(50.0));
        motor.settings = vec![SettingPoint { setting, current: Amps::of(amps), at: None }];
        let at = |s: f64| motor.current_at(s).unwrap().value();
        assert!((at(setting) - amps).abs() < 1e-6, "{setting}: {} not {amps}", at(setting));
        assert_eq!(motor.read_at_setting(setting), None, "a maker's");
        motor.settings_measured = true;
        motor.settings[0].at = Some(Volts::of(12.6));
        let read = motor.read_at_setting(setting).unwrap();
        assert_eq!((read.0.value(), read.1.value()), (amps, 12.6));
        (motor.settings_measured, motor.settings[0].at) = (false, None);
        let at = |s: f64| motor.current_at(s).unwrap().value();
        assert!((1..=20).all(|n| at(f64::from(n) / 2.0) >= at(f64::from(n - 1) / 2.0) - 1e-9));
        assert!(at(10.0) <= 50.0 + 1e-9);
    }
}

/// Arithmetic of the chemistry's efficiencies: what goes back is what came out over the coulombic efficiency; the wall gives the
/// energy over the battery's round trip and the charger's 0.88. Known by reserve minutes alone.
#[test]
fn a_refill_puts_back_what_came_out_and_more() {
    let mut b = battery(Chemistry::Flooded, 100.0);
    b.ratings = vec![Rating::reserve(180.0)];
    let e = evaluate(&rig(12.0), &day(6.0, amps(10.0)), &Pack::of(b, 1, 1));
    let drawn = e.drawn.unwrap();
    let (s, refill) = (drawn.summary, drawn.refill);
    assert!((s.delivered.value() - 60.0).abs() < 1e-9);
    assert!((refill.amp_hours_in.value() - 60.0 / 0.885).abs() < 1e-6, "{refill:?}");
    assert!((refill.wall.value() - s.energy.value() / (0.75 * 0.88)).abs() < 1e-6);
}

/// No charger aboard suits: not "ready", and a note says what would suit. A charger's hours a day are waited for.
#[test]
fn a_charger_that_does_not_fit_is_not_ready_and_its_hours_are_waited_for() {
    let mut r = rig(12.0);
    let charger = |volts: f64, amps: f64, hours: Option<f64>| Charger {
        name: "Dock".into(),
        supply: Supply::Mains,
        banks: 1,
        bank_voltage: Volts::of(volts),
        current: Amps::of(amps),
        absorption: None,
        profiles: Vec::new(),
        hours: hours.map(Hours::of),
    };
    let mut d = day(5.0, amps(10.0));
    d.ready_by = Some(6 * 60);
    r.chargers = vec![charger(48.0, 10.0, None)];
    let e = evaluate(&r, &d, &pack(Chemistry::Lfp, 100.0));
    assert_eq!(e.drawn.as_ref().unwrap().refill.ready, None);
    let told = said(&e);
    assert!(
        told.iter().any(|n| n
            .starts_with("No charger aboard suits. One that would: 13 V with a profile for LFP")),
        "{told:?}"
    );
    // 50 Ah at 5 A take ten hours: with four a day 24 + 24 + 2 and a little.
    r.chargers = vec![charger(12.0, 5.0, Some(4.0))];
    let refill = evaluate(&r, &d, &pack(Chemistry::Lfp, 100.0)).drawn.unwrap().refill;
    assert!(refill.hours() > Hours::of(9.5) && refill.hours() < Hours::of(11.0), "{refill:?}");
    assert!(refill.elapsed > Hours::of(49.0) && refill.elapsed < Hours::of(52.0), "{refill:?}");
    assert_eq!(refill.ready, Some(false));
}

/// An outing is as long as it is told, costs the same whatever it delivers, and its nights are not hours out.
#[test]
fn an_outing_of_three_days_is_one_outing_and_its_nights_are_not_on_the_water() {
    let mut p = pack(Chemistry::Lfp, 200.0);
    p.battery.price = Some(Money::of(1000.0));
    let cost = |days: u32, amps: f64| {
        let mut d = day(4.0, Duty::Current(Amps::of(amps)));
        d.days_without_charging = days;
        let drawn = evaluate(&rig(12.0), &d, &p).drawn.unwrap();
        (drawn.cost.unwrap(), drawn.summary)
    };
    let ((one, _), (three, s)) = (cost(1, 10.0), cost(3, 10.0));
    assert!((one.per_cycle.value() - three.per_cycle.value()).abs() < 1e-9, "one charge an outing");
    let (kwh, hours) = (three.per_kwh.unwrap().value(), three.per_lake_hour.unwrap().value());
    assert!((kwh - three.per_cycle.value() / (s.energy.value() / 1000.0)).abs() < 1e-9);
    assert!((hours - three.per_cycle.value() / 12.0).abs() < 1e-9, "twelve hours out");
    // Empty early on the second of two days: the night between is not paid for as an hour out.
    let (early, s) = cost(2, 45.0);
    let Ended::Stopped { at, .. } = s.ended else { panic!("{s:?}") };
    assert!(at > Hours::of(24.0) && at < Hours::of(28.0));
    let out = early.per_cycle.value() / early.per_lake_hour.unwrap().value();
    assert!((out - (at.value() - 20.0)).abs() < 1e-9, "{out} h");
}

/// The voltage at which to stop by hand is that of the moment, under the load and rested: flooded at 5 A half down.
#[test]
fn the_volts_to_stop_at_are_those_at_the_floor() {
    let e = evaluate(&rig(12.0), &day(30.0, amps(5.0)), &pack(Chemistry::Flooded, 100.0));
    let (loaded, rested) = e
        .notes
        .iter()
        .find_map(|n| match n {
            Note::CutByHand { loaded, rested, .. } => Some((loaded.value(), rested.value())),
            _ => None,
        })
        .unwrap();
    // BCI-type tables: half a flooded battery rests at 12.1 to 12.24 V.
    assert!((12.1..12.35).contains(&rested), "{rested}");
    assert!(loaded < rested && loaded > 12.0, "{loaded}");
}

/// Weather that changes inside a stretch counts from that moment: told as one stretch or as two, the same.
#[test]
fn weather_counts_from_the_moment_it_changes() {
    let mut r = rig(24.0);
    r.motor.max_current = Some(Amps::of(80.0));
    let mut one = day(8.0, Duty::HoldPlace);
    one.start_minute = 8 * 60;
    one.conditions.wind = MetresPerSecond::of(2.0);
    let hour = HourConditions {
        from_minute: 12 * 60,
        wind: Some(MetresPerSecond::of(8.0)),
        current: None,
        air: Some(Celsius::of(5.0)),
    };
    one.hourly = vec![hour];
    let mut two = one.clone();
    two.stretches[0].lasts = Hours::of(4.0);
    two.stretches.push(two.stretches[0].clone());
    let big = Pack::of(battery(Chemistry::Lfp, 400.0), 2, 1);
    let (a, b) = (summary(&r, &one, &big), summary(&r, &two, &big));
    assert!((a.delivered / b.delivered - 1.0).abs() < 1e-4, "{} {}", a.delivered, b.delivered);
    assert!(a.delivered > AmpHours::of(20.0));
    // What the Day tells of the stretch is the mean of its parts.
    let told: Vec<f64> = of_day(&r, &two).iter().map(|i| i.unwrap().watts.value()).collect();
    let whole = of_day(&r, &one)[0].unwrap().watts.value();
    assert!((whole - 0.5 * (told[0] + told[1])).abs() < 1e-9);
}

/// Cells that are sold, where the nominal voltage is a name: 36 V are twelve cells, 43.8 V when full, and too many for a
/// controller of 42 V. A number on the label decides.
#[test]
fn lithium_has_the_cells_that_are_sold() {
    for (chemistry, volts, cells) in [
        (Chemistry::Lfp, 12.0, 4),
        (Chemistry::Lfp, 24.0, 8),
        (Chemistry::Lfp, 36.0, 12),
        (Chemistry::Lfp, 48.0, 15),
        (Chemistry::Lfp, 51.2, 16),
        (Chemistry::Lfp, 60.0, 20),
        (Chemistry::Lfp, 72.0, 24),
        (Chemistry::Nmc, 25.9, 7),
        (Chemistry::Nmc, 36.0, 10),
        (Chemistry::Nmc, 48.0, 13),
        (Chemistry::Nmc, 52.0, 14),
        (Chemistry::Nmc, 74.0, 20),
        (Chemistry::Agm, 8.0, 4),
        (Chemistry::Flooded, 6.0, 3),
    ] {
        let mut b = battery(chemistry, 100.0);
        b.nominal_voltage = Volts::of(volts);
        assert_eq!(b.cells(), cells, "{chemistry:?} {volts} V");
    }
    let mut b = battery(Chemistry::Lfp, 100.0);
    b.nominal_voltage = Volts::of(48.0);
    b.others.insert("cell_count", 16.0.into());
    assert_eq!(b.cells(), 16);
    b.others.insert("cell_count", 4000.0.into());
    assert_eq!(b.cells(), 15, "that many cells are not in series");
    let mut r = rig(36.0);
    r.controller_max = Some(Volts::of(42.0));
    b = battery(Chemistry::Lfp, 100.0);
    b.nominal_voltage = Volts::of(36.0);
    let reasons = limits::set_aside(&Pack::of(b, 1, 1), &r);
    assert!(reasons.iter().any(|r| r.sentence(System::Us).contains("43.8 V")), "{reasons:?}");
}

/// Every rating is obeyed: a peak current alone opens as well.
#[test]
fn a_peak_without_a_continuous_current_opens() {
    let mut p = pack(Chemistry::Lfp, 300.0);
    p.battery.peak = Some(Peak { current: Amps::of(100.0), seconds: 5.0 });
    let e = evaluate(&rig(12.0), &day(0.2, amps(200.0)), &p);
    assert_eq!(e.outcome, Outcome::Trips);
    assert_eq!(evaluate(&rig(12.0), &day(0.2, amps(90.0)), &p).outcome, Outcome::Home);
}

/// The energy of a run against an integrator of its own, adaptive Simpson on the law's voltage: within 0.1 %, also down to
/// empty, for every chemistry; and told as one stretch or as many it is the same.
#[test]
fn watt_hours_are_the_integral_of_the_voltage() {
    fn simpson(f: &dyn Fn(f64) -> f64, a: f64, b: f64, depth: u32) -> f64 {
        let rule = |a: f64, b: f64| (f(a) + 4.0 * f(0.5 * (a + b)) + f(b)) * (b - a) / 6.0;
        let (m, whole) = (0.5 * (a + b), rule(a, b));
        let halves = rule(a, m) + rule(m, b);
        if depth == 0 || (depth < 18 && (halves - whole).abs() < 1e-9 * whole.abs()) {
            return halves;
        }
        simpson(f, a, m, depth - 1) + simpson(f, m, b, depth - 1)
    }
    for chemistry in Chemistry::ALL {
        let cells = if chemistry.is_lead() { 6 } else { 4 };
        let law = UnitLaw::new(CellParameters::typical(chemistry), cells, 100.0);
        let bank = Bank::uniform(law, 1, 1);
        for (current, share) in [(5.0, 1.0), (20.0, 1.0), (60.0, 1.0), (30.0, 0.5), (100.0, 0.3)] {
            let hours = law.runtime(current) * share * 1.000_001;
            let parts = |n: u32| {
                let leg =
                    Leg::rated(Hours::of(hours / f64::from(n)), Demand::current(Amps::of(current)));
                run(&bank, &vec![leg; n as usize], &Guard::NONE, |_| {}).energy.value()
            };
            let lasted = hours.min(law.runtime(current));
            let power = |t: f64| {
                let volts = law.volts(law.rest_or_draw(law.full(), current, t), current);
                current * if volts.is_finite() { volts } else { law.v_end() }
            };
            let truth = simpson(&power, 0.0, lasted, 22);
            for n in [1, 2, 7] {
                let off = parts(n) / truth - 1.0;
                assert!(off.abs() < 1e-3, "{chemistry:?} {current} A, {n} parts: {off:+.5}");
            }
        }
    }
}

/// Round temperatures, up or down, to a mark of the scale and from one: a day is told, and warmer is never worse.
#[test]
fn a_battery_warms_and_cools_to_round_figures() {
    let left = |start: f64, air: f64| {
        let mut d = day(6.0, amps(8.0));
        (d.battery_start, d.ambient) = (Some(Celsius::of(start)), Some(Celsius::of(air)));
        summary(&rig(12.0), &d, &pack(Chemistry::Lfp, 100.0)).charge_left
    };
    for air in [-20.0, -0.5, 0.0, 20.0, 25.0] {
        let all: Vec<f64> =
            [-30.0, -5.0, 0.0, 0.5, 20.0, 45.0].map(|start| left(start, air)).into();
        assert!(all.windows(2).all(|w| w[1] >= w[0] - 1e-9), "{air} °C: {all:?}");
    }
}

/// Hot is not cold: the words fit, also where only an hour's weather tells it.
#[test]
fn hot_and_cold_are_told_apart_and_by_the_hour() {
    let told = |air: f64, by_hour: bool| {
        let mut d = day(3.0, amps(5.0));
        d.ambient = Some(Celsius::of(if by_hour { 20.0 } else { air }));
        if by_hour {
            d.hourly = vec![HourConditions {
                from_minute: 421,
                wind: None,
                current: None,
                air: Some(Celsius::of(air)),
            }];
            d.stretches[0].lasts = Hours::of(20.0);
        }
        said(&evaluate(&rig(12.0), &d, &pack(Chemistry::Lfp, 300.0))).join(" ")
    };
    let hot = told(46.0, false);
    assert!(hot.contains("Let it cool first") && !hot.contains("Warm it first"), "{hot}");
    for by_hour in [false, true] {
        let cold = told(-6.0, by_hour);
        assert!(
            cold.contains("Warm it first") && !cold.contains("Let it cool"),
            "{by_hour}: {cold}"
        );
    }
    // Lead that is drawn low freezes; full it does not.
    let frozen = |start: f64| {
        let mut d = day(1.0, amps(1.0));
        (d.ambient, d.start_charge) = (Some(Celsius::of(-22.0)), Some(start));
        said(&evaluate(&rig(12.0), &d, &pack(Chemistry::Flooded, 100.0))).join(" ")
    };
    assert!(frozen(0.35).contains("It may freeze and burst") && !frozen(1.0).contains("freeze"));
}

/// 200 stops cost what 200 stops cost, however the time between them is told; and speed is what a moving cart has.
#[test]
fn stops_are_counted_once_whatever_share_of_the_time_it_rolls() {
    let r = Rig::new("cart", CraftKind::GolfCart, Volts::of(48.0));
    let energy = |share: f64, stops: u32| {
        let duty = Duty::Speed(MetresPerSecond::of(5.0));
        let s = Stretch {
            share,
            stops,
            surface: Surface::Gravel,
            ..Stretch::new("s", Hours::of(4.0), duty)
        };
        implied(&r, &s, &lake_hour_core::day::Conditions::CALM).unwrap().watts.value() * 4.0 * share
    };
    let of_stops = |share| energy(share, 200) - energy(share, 0);
    assert!((of_stops(1.0) / of_stops(0.5) - 1.0).abs() < 1e-9 && of_stops(1.0) > 100.0);
}

/// A rest after the run changes nothing in how unsure the run was.
#[test]
fn hours_at_rest_do_not_move_the_band() {
    let band = |rest: f64| {
        let mut d = day(1.0, amps(30.0));
        if rest > 0.0 {
            d = d.then("off", Hours::of(rest), Duty::Off);
        }
        evaluate(&rig(12.0), &d, &pack(Chemistry::Agm, 100.0)).drawn.unwrap().band
    };
    let (with, without) = (band(100.0), band(0.0));
    assert!((with.low - without.low).abs() < 1e-9 && (with.high - without.high).abs() < 1e-9);
    // A day at the edge: a moment to stop at on a bad day, a chance of getting home.
    let e = evaluate(&rig(12.0), &day(2.6, amps(30.0)), &pack(Chemistry::Agm, 100.0));
    let band = e.drawn.unwrap().band;
    assert!((0.05..0.95).contains(&band.days_finished), "{band:?}");
    assert!(
        band.stops.0.is_some_and(|at| at < Hours::of(2.6)) && band.stops.1.is_none(),
        "{band:?}"
    );
}

/// Empty is empty: a cut-off set far below the rated end adds nothing.
#[test]
fn a_low_cut_off_gets_no_more_out_of_lead_than_there_is() {
    let mut r = rig(12.0);
    r.motor.max_current = Some(Amps::of(40.0));
    let lasts = |cutoff: f64| {
        let mut p = pack(Chemistry::Agm, 100.0);
        p.battery.low_voltage_cutoff = Some(Volts::of(cutoff));
        evaluate(&r, &day(10.0, Duty::Setting(10.0)), &p)
            .drawn
            .unwrap()
            .ended_early_at()
            .unwrap()
            .value()
    };
    let rated = lasts(10.5);
    for cutoff in [8.0, 6.0, 2.0] {
        assert!(
            (lasts(cutoff) / rated - 1.0).abs() < 0.01,
            "{cutoff} V: {} h, {rated} h",
            lasts(cutoff)
        );
    }
}

/// A motor that also takes 24 V runs on it, slower, and says how much.
#[test]
fn every_voltage_that_the_motor_takes_is_judged() {
    let mut r = rig(36.0);
    r.motor.max_current = Some(Amps::of(40.0));
    let p = Pack::of(battery(Chemistry::Lfp, 100.0), 2, 1);
    let d = day(1.0, Duty::Setting(6.0));
    assert_eq!(evaluate(&r, &d, &p).outcome, Outcome::SetAside);
    r.motor.also_accepts = vec![Volts::of(24.0)];
    let e = evaluate(&r, &d, &p);
    assert_eq!(e.outcome, Outcome::Home);
    let told = said(&e).join(" ");
    assert!(told.contains("runs slower on 25.6 V than on 36 V: about 7"), "{told}");
    let full = Pack::of(battery(Chemistry::Lfp, 100.0), 3, 1);
    let (low, usual) = (summary(&r, &d, &p), summary(&r, &d, &full));
    assert!(low.delivered < usual.delivered * 0.8, "a slower motor draws less");
}

/// Every measured speed is met; one that idles is not used, and said so.
#[test]
fn every_measured_speed_is_used_or_named() {
    let mut r = rig(24.0);
    let point = |v: f64, a: f64| SpeedPoint { speed: MetresPerSecond::of(v), current: Amps::of(a) };
    r.measured = vec![point(0.3, 0.4), point(0.8, 5.0), point(1.2, 11.0), point(1.6, 30.0)];
    let watts = |v: f64| {
        let s = Stretch::new("s", Hours::of(1.0), Duty::Speed(MetresPerSecond::of(v)));
        implied(&r, &s, &lake_hour_core::day::Conditions::CALM).unwrap().watts.value()
    };
    for (v, a) in [(0.8, 5.0), (1.2, 11.0), (1.6, 30.0)] {
        assert!((watts(v) - a * 24.0).abs() < 1e-6, "{v} m/s: {}", watts(v));
    }
    assert_eq!(unused_speeds(&r), [point(0.3, 0.4)]);
    let e = evaluate(&r, &day(1.0, amps(5.0)), &Pack::of(battery(Chemistry::Lfp, 100.0), 2, 1));
    assert!(
        said(&e).join(" ").contains("is not used: 0.4 A is no more than the motor takes idling")
    );
    // Below its idle even a whole day of it is a figure.
    assert!(watts(0.2).is_finite());
}

/// Ampere-hours of the result are 20-hour ones whatever the label rates over; the hours a label leaves out are assumed.
#[test]
fn capacities_are_on_one_basis() {
    let mut b = battery(Chemistry::Agm, 63.0);
    b.ratings = vec![Rating::Runtime { at: Amps::of(75.0), lasted: Hours::of(63.0 / 75.0) }];
    let e = evaluate(&rig(12.0), &day(1.0, amps(5.0)), &Pack::of(b, 1, 2));
    let (capacity, (label, over)) = (e.capacity.unwrap().value(), e.label_capacity.unwrap());
    assert!((185.0..225.0).contains(&capacity), "two of about 100 Ah over 20 h: {capacity}");
    assert!((label.value() - 126.0).abs() < 1e-9 && (over.value() - 0.84).abs() < 1e-9);
    assert!((e.energy.unwrap().value() - 12.0 * capacity).abs() < 1e-9);
    let mut untold = battery(Chemistry::Agm, 100.0);
    untold.hours_assumed = true;
    let e = evaluate(&rig(12.0), &day(1.0, amps(5.0)), &Pack::of(untold, 1, 1));
    assert!(e.assumed.contains(&"battery.capacity_hours"));
}

/// A device that runs for more hours than the day has runs in the nights of an outing.
#[test]
fn devices_run_through_the_night() {
    let mut d = day(8.0, Duty::Off);
    let device = |hours| Accessory {
        name: "Fridge".into(),
        power: Watts::of(20.0),
        hours: Some(Hours::of(hours)),
        on_house: false,
    };
    d.days_without_charging = 2;
    let wh = |d: &Day| summary(&rig(12.0), d, &pack(Chemistry::Lfp, 200.0)).energy.value();
    d.accessories = vec![device(8.0)];
    assert!((wh(&d) - 320.0).abs() < 0.5, "{}", wh(&d));
    d.accessories = vec![device(24.0)];
    assert!((wh(&d) - 2.0 * 24.0 * 20.0).abs() < 0.5, "two whole days: {}", wh(&d));
}

/// Labels that contradict each other by 200 % make a wide band, and a battery of some size in all of it.
#[test]
fn ratings_far_apart_leave_a_battery() {
    let mut b = battery(Chemistry::Flooded, 300.0);
    b.ratings.push(Rating::reserve(60.0));
    b.ratings.push(Rating::Capacity { ah: AmpHours::of(20.0), over: Hours::of(10.0) });
    let fitted = fit(&b).unwrap();
    assert!(fitted.q20 > 10.0 && fitted.conflict() > 1.0, "{fitted:?}");
    let band = evaluate(&rig(12.0), &day(2.0, amps(5.0)), &Pack::of(b, 1, 1)).drawn.unwrap().band;
    assert!(band.low >= 0.0 && band.low <= band.high && band.high <= 1.0, "{band:?}");
}

/// What was measured wins: met within 1 % beside a label that says otherwise, and surer.
#[test]
fn a_measured_rating_is_met() {
    let mut b = battery(Chemistry::Agm, 100.0);
    b.ratings.push(Rating::Runtime { at: Amps::of(25.0), lasted: Hours::of(2.6) });
    let label = fit(&b).unwrap();
    b.origins.insert(Detail::RATINGS, Vouched { by: Origin::Measured, on: None });
    let measured = fit(&b).unwrap();
    let off = |f: &lake_hour_core::drawdown::Fit| (f.law.runtime(25.0) / 2.6 - 1.0).abs();
    assert!(
        off(&measured) < 0.01 && off(&measured) < off(&label),
        "{} {}",
        off(&measured),
        off(&label)
    );
    assert_eq!(measured.shape, Origin::Measured);
    assert!(measured.open.size < label.open.size);
}

/// A day begins anywhere: what is left at its end is lower by what was missing; wear shrinks the pack.
#[test]
fn a_day_starts_where_it_is_told_to() {
    let (r, p) = (rig(12.0), pack(Chemistry::Lfp, 100.0));
    let mut d = day(2.0, amps(10.0));
    let full = summary(&r, &d, &p).charge_left;
    d.start_charge = Some(0.6);
    let drawn = evaluate(&r, &d, &p).drawn.unwrap();
    assert!((drawn.summary.charge_left - (full - 0.4)).abs() < 1e-9);
    assert!((drawn.band.points[0].low - 0.6).abs() < 1e-12 && drawn.band.high <= 0.6);
    let mut worn = p.clone();
    worn.health = Health { capacity_share: 0.8, resistance_factor: 1.5, ..Health::NEW };
    d.start_charge = None;
    let left = summary(&r, &d, &worn).charge_left;
    assert!((left - (1.0 - (1.0 - full) / 0.8)).abs() < 1e-9, "{left}");
    // The ceiling of the house is where a day begins that tells nothing else, and where a charge ends.
    let rules = HouseRules::default().with_ceiling(Chemistry::Lfp, 0.8);
    let drawn = verdict::evaluate(&r, &d, &rules, &p).unwrap().drawn.unwrap();
    assert!((drawn.starts_at - 0.8).abs() < 1e-12 && (drawn.refill.to - 0.8).abs() < 1e-12);
    assert!((drawn.between.1 - drawn.between.0 - (1.0 - full)).abs() < 1e-9);
    // From any state, in the middle of a run.
    let law = fit(&p.battery).unwrap().law;
    let bank = Bank::uniform(law, 1, 1);
    let leg = |h: f64| Leg::rated(Hours::of(h), Demand::current(Amps::of(20.0)));
    let whole = run(&bank, &[leg(3.0)], &Guard::NONE, |_| {});
    let middle = bank.draw(&bank.full(), 20.0, 1.0);
    let rest = run_from(&bank, &middle, &[leg(2.0)], &Guard::NONE, |_| {});
    assert!((whole.charge_left - rest.charge_left).abs() < 1e-12);
}

/// Sun, an alternator and a night's charger put charge back: in and out are told apart, full takes none, frozen lithium
/// takes none.
#[test]
fn charge_goes_in_on_the_way() {
    let (mut r, p) = (rig(12.0), pack(Chemistry::Lfp, 100.0));
    let plain = day(4.0, amps(10.0));
    let mut sunny = plain.clone();
    sunny.solar = vec![
        SolarHour { from_minute: 8 * 60, power: Watts::of(100.0) },
        SolarHour { from_minute: 10 * 60, power: Watts::ZERO },
    ];
    let (dark, lit) = (summary(&r, &plain, &p), summary(&r, &sunny, &p));
    // Two hours of 100 W against 10 A: 200 Wh at about 13.1 V come off what the battery gives.
    let saved = dark.energy.value() - lit.energy.value();
    assert!((saved - 200.0).abs() < 4.0, "{saved} Wh");
    assert!(lit.charged.value() < 1e-9, "it never gave more than was asked");
    // An alternator of 30 A for an hour while 10 A are drawn: 20 Ah go in, over the coulombic efficiency.
    let mut motored = plain.clone();
    motored.start_charge = Some(0.7);
    motored.charging =
        vec![Charging { from_minute: 9 * 60, lasts: Hours::of(1.0), current: Amps::of(30.0) }];
    let s = summary(&r, &motored, &p);
    assert!(
        (s.charged.value() - 20.0).abs() < 1e-6 && (s.delivered.value() - 30.0).abs() < 1e-6,
        "{s:?}"
    );
    let law = fit(&p.battery).unwrap().law;
    assert!((s.charge_left - (0.7 - (30.0 - 20.0 * 0.995) / law.rated())).abs() < 1e-9, "{s:?}");
    assert!(s.energy_in.value() > 20.0 * 12.0 && s.energy_in.value() < 20.0 * 14.7);
    // Full takes none; never more than full.
    let mut idle = day(4.0, Duty::Off);
    idle.charging =
        vec![Charging { from_minute: 420, lasts: Hours::of(4.0), current: Amps::of(50.0) }];
    let s = summary(&r, &idle, &p);
    assert!(s.charge_left <= 1.0 && s.charged.value() < 1e-9, "{s:?}");
    let mut low = idle.clone();
    low.start_charge = Some(0.3);
    let s = summary(&r, &low, &p);
    assert!(s.charge_left > 0.97 && s.charge_left <= 1.0 && s.charged.value() < 71.0, "{s:?}");
    // Frozen lithium takes none; lead does.
    low.ambient = Some(Celsius::of(-5.0));
    assert!((summary(&r, &low, &p).charge_left - 0.3).abs() < 1e-9);
    assert!(summary(&r, &low, &pack(Chemistry::Agm, 100.0)).charge_left > 0.8);
    // Two days with the dock's charger at night are two single days.
    let mut two = plain.clone();
    two.days_without_charging = 2;
    r.chargers = vec![Charger {
        name: "Dock".into(),
        supply: Supply::Mains,
        banks: 1,
        bank_voltage: Volts::of(12.0),
        current: Amps::of(20.0),
        absorption: None,
        profiles: Vec::new(),
        hours: Some(Hours::of(8.0)),
    }];
    let empty = summary(&r, &two, &p).charge_left;
    two.charge_overnight = true;
    let full = summary(&r, &two, &p).charge_left;
    assert!((full - dark.charge_left).abs() < 0.01 && full > empty + 0.3, "{full} {empty}");
}

/// A controller that regenerates brings a part of a hill back; another nothing.
#[test]
fn downhill_gives_something_back_only_through_the_controller() {
    let mut r = Rig::new("cart", CraftKind::GolfCart, Volts::of(48.0));
    let mut d = day(0.3, Duty::Speed(MetresPerSecond::of(5.0)));
    d.stretches[0].grade = -0.08;
    d.start_charge = Some(0.5);
    let p = Pack::of(battery(Chemistry::Lfp, 100.0), 4, 1);
    let left = |r: &Rig| summary(r, &d, &p).charge_left;
    assert!((left(&r) - 0.5).abs() < 1e-9);
    r.motor.regenerates = true;
    let s = summary(&r, &d, &p);
    assert!(s.charge_left > 0.5 && s.energy_in.value() > 1.0 && s.energy.value() < 1e-9, "{s:?}");
    // Never more than half of what the height holds.
    let metres = 5.0 * 0.3 * 3600.0 * 0.08;
    let held = r.craft.mass().value.value() * 9.806_65 * metres / 3600.0;
    assert!(s.energy_in.value() < 0.5 * held);
}

/// Amps read on 13.3 V are not taken for amps at 12: by their own volts, else by what is aboard.
#[test]
fn amps_are_meant_at_the_volts_they_were_read_at() {
    let mut r = rig(12.0);
    r.motor.max_current = Some(Amps::of(40.0));
    r.motor.settings_measured = true;
    let point = |at: Option<f64>| SettingPoint {
        setting: 5.0,
        current: Amps::of(20.0),
        at: at.map(Volts::of),
    };
    let lfp = pack(Chemistry::Lfp, 100.0);
    let drawn = |r: &Rig, aboard: Option<&Pack>| {
        let judge = verdict::Judge::beside(
            r,
            &day(1.0, Duty::Setting(5.0)),
            &HouseRules::default(),
            aboard,
        );
        judge.unwrap().in_full(&lfp).drawn.unwrap().summary.delivered.value()
    };
    r.motor.settings = vec![point(None)];
    let (as_nominal, as_aboard) = (drawn(&r, None), drawn(&r, Some(&lfp)));
    // 20 A at about 13.1 V are 20 A on the battery that stands there; taken for 12 V they would be some 23.
    assert!((as_aboard - 20.0).abs() < 0.5, "{as_aboard}");
    assert!(as_nominal > 22.0, "{as_nominal}");
    r.motor.settings = vec![point(Some(13.1))];
    assert!((drawn(&r, None) - 20.0).abs() < 0.5, "{}", drawn(&r, None));
}

/// A lighter pack asks for less: hull and road follow its weight against what is aboard, and the working says so.
#[test]
fn what_the_pack_weighs_goes_into_what_it_draws() {
    let mut r = rig(24.0);
    r.craft.loaded_mass = Some(Kilograms::of(300.0));
    let mut lead = Pack::of(battery(Chemistry::Agm, 110.0), 2, 1);
    lead.battery.mass = Some(Kilograms::of(32.0));
    lead.aboard = true;
    let mut lfp = Pack::of(battery(Chemistry::Lfp, 110.0), 2, 1);
    lfp.battery.mass = Some(Kilograms::of(8.0));
    let d = day(2.0, Duty::Distance(Metres::of(8000.0)));
    let judge = |p: &Pack, aboard| {
        verdict::Judge::beside(&r, &d, &HouseRules::default(), aboard)
            .unwrap()
            .in_full(p)
            .drawn
            .unwrap()
    };
    let (alone, beside) = (judge(&lfp, None), judge(&lfp, Some(&lead)));
    assert!((beside.heavier_by.value() + 48.0).abs() < 1e-9);
    // Wetted surface goes with the two thirds of the displacement, power with the drag to 1.5 at the most.
    let share = beside.summary.energy / alone.summary.energy;
    let drag = (252.0_f64 / 300.0).powf(2.0 / 3.0);
    assert!(share < drag * 1.03 && share > drag.powf(1.5), "{share}");
    assert_eq!(judge(&lead, Some(&lead)).heavier_by, Kilograms::ZERO);
    let say = lake_hour_core::units::say::Say::plain("USD");
    let lines = verdict::working(&lfp, &d, &HouseRules::default(), &beside, say);
    let terms: Vec<&str> = lines.iter().flat_map(|l| &l.terms).map(|t| t.value.as_str()).collect();
    assert!(terms.iter().any(|t| t.contains("106 lb lighter than what is aboard")), "{terms:?}");
}
