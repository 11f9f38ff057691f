//! Laws of the outing: wind, water and road, weather by the hour, days in a row, charging, ageing.

use lake_hour_core::day::{Conditions, Day, Duty, Heading, HourConditions, Stretch, Surface};
use lake_hour_core::drawdown::fit;
use lake_hour_core::house::HouseRules;
use lake_hour_core::life::{Keeping, ageing};
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::propulsion::{hull, implied};
use lake_hour_core::refill::charge::Charge;
use lake_hour_core::rig::{Charger, CraftKind, Rig, SpeedPoint, Supply};
use lake_hour_core::shelf::{Battery, Chemistry, Peak, Rating};
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, MetresPerSecond, Money, Newtons, Volts, Watts,
};
use lake_hour_core::verdict::{self, Outcome};
use proptest::prelude::*;

fn boats() -> impl Strategy<Value = CraftKind> {
    prop::sample::select(CraftKind::ALL.into_iter().filter(|k| k.is_boat()).collect::<Vec<_>>())
}

fn carts() -> impl Strategy<Value = CraftKind> {
    prop::sample::select(CraftKind::ALL.into_iter().filter(|k| !k.is_boat()).collect::<Vec<_>>())
}

fn ms(v: f64) -> MetresPerSecond {
    MetresPerSecond::of(v)
}

fn weather(wind: f64, current: f64) -> Conditions {
    Conditions { wind: ms(wind), current: ms(current), air: None }
}

fn rig(kind: CraftKind) -> Rig {
    Rig::new("r", kind, Volts::of(24.0))
}

fn stretch(duty: Duty) -> Stretch {
    Stretch::new("s", Hours::of(1.0), duty)
}

fn watts(rig: &Rig, stretch: &Stretch, now: &Conditions) -> f64 {
    implied(rig, stretch, now).expect("no setting").watts.value()
}

/// What makers print of thrust and draw (common practice, no source): 55 lbf for 600 W, 80 for 1,344 W, 112 for
/// 1,872 W. Within a quarter, and all of them above what the ideal disc of 0.25 m asks.
#[test]
fn static_thrust_costs_about_what_makers_print() {
    for (lbf, watts) in [(55.0, 600.0), (80.0, 1344.0), (112.0, 1872.0)] {
        let thrust = Newtons::of(lbf * lake_hour_core::units::convert::N_PER_LBF);
        let power = hull::electrical_power(thrust, ms(0.0), Watts::of(watts)).value();
        assert!((power / watts - 1.0).abs() < 0.25, "{lbf} lbf: {power:.0} W, printed {watts}");
        assert!(hull::ideal_power(thrust, ms(0.0), 0.049).value() < watts);
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, failure_persistence: None, ..ProptestConfig::default() })]

    /// Faster, windier, heavier: never for less. With the wind: never for more.
    #[test]
    fn nothing_is_pushed_for_less(
        kind in boats(), v in 0.2..2.2_f64, wind in 0.0..9.0_f64, current in 0.0..0.8_f64, more in 1.0..1.5_f64,
    ) {
        let rig = rig(kind);
        let go = stretch(Duty::Speed(ms(v)));
        let now = weather(wind, current);
        let base = watts(&rig, &go, &now);
        prop_assert!(watts(&rig, &stretch(Duty::Speed(ms(v * more))), &now) >= base);
        prop_assert!(watts(&rig, &go, &weather(wind * more, current)) >= base);
        prop_assert!(watts(&rig, &go, &weather(wind, current * more)) >= base);
        let mut loaded = rig.clone();
        loaded.craft.people += 2;
        prop_assert!(watts(&loaded, &go, &now) >= base);
        let with = Stretch { heading: Heading::With, ..go.clone() };
        let across = Stretch { heading: Heading::Across, ..go };
        prop_assert!(watts(&rig, &with, &now) <= watts(&rig, &across, &now) + 1e-9);
        prop_assert!(watts(&rig, &across, &now) <= base + 1e-9);
    }

    /// A power and the speed it reaches belong together, whatever the weather.
    #[test]
    fn the_speed_of_a_power_asks_for_that_power(
        kind in boats(), v in 0.3..1.8_f64, wind in 0.0..6.0_f64, current in 0.0..0.4_f64,
    ) {
        let rig = rig(kind);
        let now = weather(wind, current);
        let asked = watts(&rig, &stretch(Duty::Speed(ms(v))), &now);
        let back = implied(&rig, &stretch(Duty::Power(Watts::of(asked))), &now).expect("known");
        prop_assert!((back.speed.expect("told").value() - v).abs() < 1e-5);
        let metres = back.distance.expect("told").value();
        prop_assert!((metres - v * 3600.0).abs() < 0.1);
    }

    /// Carts: steeper, softer, heavier and with more stops, never for less; downhill never for less
    /// than nothing.
    #[test]
    fn no_hill_is_climbed_for_less(
        kind in carts(), v in 1.0..9.0_f64, grade in -0.12..0.12_f64, steeper in 0.0..0.05_f64, stops in 0_u32..20,
    ) {
        let rig = rig(kind);
        let mut road = stretch(Duty::Speed(ms(v)));
        road.grade = grade;
        let base = watts(&rig, &road, &Conditions::CALM);
        prop_assert!(base >= 0.0);
        let up = Stretch { grade: grade + steeper, ..road.clone() };
        prop_assert!(watts(&rig, &up, &Conditions::CALM) >= base);
        let soft = Stretch { surface: Surface::Grass, ..road.clone() };
        prop_assert!(watts(&rig, &soft, &Conditions::CALM) >= base);
        let stopping = Stretch { stops, ..road.clone() };
        prop_assert!(watts(&rig, &stopping, &Conditions::CALM) >= base);
        let mut heavy = rig.clone();
        heavy.craft.gear = Some(Kilograms::of(400.0));
        let level = Stretch { grade: grade.max(0.0), ..road };
        prop_assert!(watts(&heavy, &level, &Conditions::CALM) >= watts(&rig, &level, &Conditions::CALM));
    }

    /// Two measured speeds are met exactly, and the doubt shrinks with each.
    #[test]
    fn what_was_measured_is_met(kind in boats(), slow in 0.6..1.0_f64, faster in 1.3..2.0_f64, low in 0.5..2.0_f64, high in 0.5..2.0_f64) {
        let mut rig = rig(kind);
        let amps = |rig: &Rig, v: f64| watts(rig, &stretch(Duty::Speed(ms(v))), &Conditions::CALM) / 24.0;
        let unsure = |rig: &Rig| {
            implied(rig, &stretch(Duty::Speed(ms(slow))), &Conditions::CALM).expect("known").unsure
        };
        let guessed = unsure(&rig);
        let (v1, v2) = (slow, slow * faster);
        // One idle ampere goes before any push.
        let (a1, a2) = (1.0 + (amps(&rig, v1) - 1.0) * low, 1.0 + (amps(&rig, v2) - 1.0) * high);
        rig.measured.push(SpeedPoint { speed: ms(v1), current: Amps::of(a1) });
        let once = unsure(&rig);
        prop_assert!((amps(&rig, v1) - a1).abs() < 1e-6);
        rig.measured.push(SpeedPoint { speed: ms(v2), current: Amps::of(a2) });
        prop_assert!(guessed > once && once > unsure(&rig));
        prop_assert!((amps(&rig, v1) - a1).abs() < 1e-6);
        // The bend is bounded: a pair that no hull could show is met as far as it goes.
        let bend = (high / low).ln().abs() / faster.ln();
        prop_assert!(bend > 4.0 || (amps(&rig, v2) - a2).abs() < 1e-6);
    }

    /// Charging: more current never takes longer, fuller never takes longer, and a charge is the sum of
    /// its parts.
    #[test]
    fn a_stronger_charger_is_never_slower(
        c in prop::sample::select(Chemistry::ALL.to_vec()), ah in 20.0..300.0_f64, rate in 0.05..0.4_f64, from in 0.0..0.95_f64, more in 1.0..2.0_f64,
    ) {
        let charge = Charge { capacity: AmpHours::of(ah), current: Amps::of(rate * ah), accepts: c.facts().acceptance };
        let stronger = Charge { current: charge.current * more, ..charge };
        let hours = |c: &Charge, from: f64, to: f64| c.hours(from, to).expect("has a current").total().value();
        prop_assert!(hours(&stronger, from, 1.0) <= hours(&charge, from, 1.0) + 1e-9);
        let half = 0.5 * (from + 1.0);
        let parts = hours(&charge, from, half) + hours(&charge, half, 1.0);
        prop_assert!((parts - hours(&charge, from, 1.0)).abs() < 1e-6);
        prop_assert!(hours(&charge, half, 1.0) <= hours(&charge, from, 1.0));
        prop_assert!(charge.amp_hours_in(from, 1.0).value() >= (1.0 - from) * ah);
    }

    /// Whatever is asked of whatever battery, a day is told in figures, and no more comes out than was in it.
    #[test]
    fn the_impossible_is_told_in_figures(
        c in prop::sample::select(Chemistry::ALL.to_vec()), ah in prop::sample::select(vec![0.5, 5.0, 100.0, 2000.0]),
        volts in prop::sample::select(vec![6.0, 12.0, 36.0]), cutoff in prop::option::of(0.05..0.99_f64),
        lot in (1..4_u32, 1..4_u32), weak in prop::option::of((0.05..1.0_f64, 1.0..10.0_f64)),
        asks in prop::collection::vec((0..5_usize, 0.0..1.0_f64, 0.01..24.0_f64), 1..6),
        full in prop::sample::select(vec![0.5, 50.0, 1000.0]), air in -40.0..50.0_f64, start in -30.0..50.0_f64,
        limits in (prop::option::of(0.1..5000.0_f64), prop::option::of(0.1..9000.0_f64)),
    ) {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(volts * f64::from(lot.0)));
        rig.motor.max_current = Some(Amps::of(full));
        let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
        let mut battery = Battery::new("b", c, Volts::of(volts), rating);
        battery.low_voltage_cutoff = cutoff.map(|share| Volts::of(volts * share));
        battery.max_continuous = limits.0.map(Amps::of);
        battery.peak = limits.1.map(|a| Peak { current: Amps::of(a), seconds: 5.0 });
        let mut pack = Pack::of(battery, lot.0, lot.1);
        pack.weak_unit = weak.map(|(capacity_share, resistance_factor)| WeakUnit { capacity_share, resistance_factor });
        let mut day = Day::starting_at(1430);
        for (kind, size, hours) in asks {
            let duty = [Duty::Off, Duty::Current(Amps::of(2000.0 * size.powi(3))), Duty::Power(Watts::of(200_000.0 * size.powi(4))),
                Duty::Setting(10.0 * size), Duty::Speed(ms(8.0 * size))][kind];
            day = day.then("on", Hours::of(hours), duty);
        }
        (day.ambient, day.battery_start) = (Some(Celsius::of(air)), Some(Celsius::of(start)));
        let e = verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).expect("draws are known");
        if let Some(drawn) = e.drawn {
            let s = &drawn.summary;
            let had = drawn.fit.law.q_max() * f64::from(lot.1);
            prop_assert!((-1e-6..=had * 1.000_001).contains(&s.delivered.value()), "{s:?}");
            prop_assert!((-1e-6..=had * 1.4 * pack.voltage().value()).contains(&s.energy.value()), "{s:?}");
            let share = 0.0..=1.0 + 1e-9;
            prop_assert!(share.contains(&s.charge_left) && share.contains(&drawn.band.low), "{s:?}");
            prop_assert!(drawn.ended_early_at().is_none_or(|at| at <= drawn.day(&day).span()));
        }
    }

    /// Deeper never gives more cycles; hotter and longer never leaves more.
    #[test]
    fn depth_heat_and_time_never_help(
        c in prop::sample::select(Chemistry::ALL.to_vec()), depth in 0.05..0.9_f64, t in -5.0..45.0_f64, months in 0.5..12.0_f64,
    ) {
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        let b = Battery::new("b", c, Volts::of(12.0), rating);
        let deeper = ageing::cycles_at(&b, depth + 0.1).value;
        prop_assert!(deeper <= ageing::cycles_at(&b, depth).value);
        let keep = |t: f64| Keeping { temperature: Celsius::of(t), ..Keeping::AS_RATED };
        prop_assert!(ageing::calendar_factor(c, keep(t + 5.0)) <= ageing::calendar_factor(c, keep(t)));
        let left = |m: f64, t: f64| ageing::charge_after_storage(&b, 1.0, m, Celsius::of(t));
        prop_assert!(left(months + 1.0, t) <= left(months, t) && left(months, t + 5.0) <= left(months, t));
    }

    /// A label twice as large is a battery twice as large, and no set of ratings makes nonsense.
    #[test]
    fn a_fit_scales_with_its_label(
        c in prop::sample::select(Chemistry::ALL.to_vec()), ah in 100.0..400.0_f64, shares in prop::collection::vec((1.0..30.0_f64, 0.6..1.2_f64), 0..5),
    ) {
        let battery = |times: f64| {
            let rating = |share: f64, hours: f64| Rating::Capacity {
                ah: AmpHours::of(ah * share * times),
                over: Hours::of(hours),
            };
            let mut b = Battery::new("b", c, Volts::of(12.0), rating(1.0, 20.0));
            b.ratings.extend(shares.iter().map(|&(hours, share)| rating(share, hours)));
            b
        };
        let (one, two) = (fit(&battery(1.0)).expect("rated"), fit(&battery(2.0)).expect("rated"));
        prop_assert!(one.q20 > 0.2 * ah && one.q20 < 3.0 * ah && one.conflict() >= 0.0);
        // Resistance for its size falls a little with size below 100 Ah, and for lithium up to 200.
        prop_assert!((two.q20 / one.q20 / 2.0 - 1.0).abs() < 0.02);
        // And with it, for lithium, what of its end is out of reach: a small part of what two ratings can tell.
        let alike = if c.is_lead() { 1e-6 } else { 0.25 };
        prop_assert!((two.cell.rates.a / one.cell.rates.a).ln().abs() < alike);
    }
}

fn evaluate(rig: &Rig, day: &Day, pack: &Pack) -> verdict::Drawn {
    verdict::evaluate(rig, day, &HouseRules::default(), pack).unwrap().drawn.unwrap()
}

/// A 24 V charger on the mains.
fn charger(amps: f64) -> Charger {
    Charger {
        name: "Bench".into(),
        supply: Supply::Mains,
        banks: 1,
        bank_voltage: Volts::of(24.0),
        current: Amps::of(amps),
        absorption: None,
        profiles: Vec::new(),
        hours: None,
    }
}

fn lfp(ah: f64) -> Pack {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(5.0) };
    Pack::of(Battery::new("b", Chemistry::Lfp, Volts::of(25.6), rating), 1, 1)
}

#[test]
fn weather_changes_by_the_hour_and_what_is_not_told_stays() {
    let mut day = Day::starting_at(7 * 60).then("a", Hours::of(8.0), Duty::HoldPlace);
    day.conditions.wind = ms(2.0);
    day.ambient = Some(Celsius::of(10.0));
    day.hourly = vec![
        HourConditions { from_minute: 9 * 60, wind: Some(ms(5.0)), current: None, air: None },
        HourConditions {
            from_minute: 12 * 60,
            wind: None,
            current: Some(ms(0.5)),
            air: Some(Celsius::of(18.0)),
        },
    ];
    for (hours, wind, current, air) in
        [(0.0, 2.0, 0.0, 10.0), (1.9, 2.0, 0.0, 10.0), (2.0, 5.0, 0.0, 10.0), (6.0, 5.0, 0.5, 18.0)]
    {
        let now = day.conditions_at(Hours::of(hours));
        assert_eq!(
            (now.wind, now.current, now.air),
            (ms(wind), ms(current), Some(Celsius::of(air)))
        );
    }
}

#[test]
fn three_days_without_charging_take_three_times_as_much() {
    let rig = rig(CraftKind::VHull);
    let mut day = Day::starting_at(420).then("a", Hours::of(3.0), Duty::Current(Amps::of(10.0)));
    let once = evaluate(&rig, &day, &lfp(120.0)).summary;
    day.days_without_charging = 3;
    assert!((day.span().value() - 51.0).abs() < 1e-9);
    let thrice = evaluate(&rig, &day, &lfp(120.0)).summary;
    assert!((thrice.delivered.value() - 3.0 * once.delivered.value()).abs() < 1e-6);
    day.days_without_charging = 5;
    let drawn = evaluate(&rig, &day, &lfp(120.0));
    // Empty on the fourth day: the moment counts the nights.
    assert!(drawn.ended_early_at().unwrap() > Hours::of(72.0));
}

/// A battery drawn low while warm may hold less than the cold lets out: the pause has no voltage, and the
/// next stretch stops at once.
#[test]
fn a_pause_that_the_cold_takes_over_has_no_voltage() {
    let rig = rig(CraftKind::VHull);
    let mut day = Day::starting_at(420)
        .then("out", Hours::of(1.0), Duty::Current(Amps::of(105.0)))
        .then("park", Hours::of(20.0), Duty::Off)
        .then("back", Hours::of(0.5), Duty::Current(Amps::of(10.0)));
    day.battery_start = Some(Celsius::of(25.0));
    day.ambient = Some(Celsius::of(-20.0));
    let drawn = evaluate(&rig, &day, &lfp(120.0));
    let ended = drawn.ended_early_at().expect("stops").value();
    assert!((ended - 21.0).abs() < 1e-9, "{:?}", drawn.summary);
    let parked = drawn.points.iter().rfind(|p| p.amps == Amps::ZERO).expect("the pause's end");
    assert_eq!((parked.volts, parked.amps), (None, Amps::ZERO));
    assert!(drawn.summary.lowest_voltage.is_some_and(|v| v > Volts::of(10.0)));
}

/// Far too much for a tiny battery whose cut-off is set lower than it can ever stand under load: it runs dry
/// inside a step, where what is asked falls with the voltage. It stops, and what it gave is within what it had.
#[test]
fn far_too_much_stops_a_battery_that_is_cut_off_too_low() {
    let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(72.0));
    rig.motor.max_current = Some(Amps::of(1000.0));
    let rating = Rating::Capacity { ah: AmpHours::of(5.0), over: Hours::of(20.0) };
    for chemistry in Chemistry::ALL {
        for duty in [
            Duty::Speed(MetresPerSecond::of(8.0)),
            Duty::Power(Watts::of(200_000.0)),
            Duty::Setting(10.0),
        ] {
            for (series, parallel) in [(12, 8), (6, 1)] {
                let volts = Volts::of(72.0 / f64::from(series));
                let mut battery = Battery::new("tiny", chemistry, volts, rating);
                battery.low_voltage_cutoff = Some(volts * 0.1);
                let pack = Pack::of(battery, series, parallel);
                let day = Day::starting_at(0).then("on", Hours::of(24.0), duty);
                let drawn = evaluate(&rig, &day, &pack);
                let (s, full) = (&drawn.summary, drawn.fit.law.q_max() * f64::from(parallel));
                assert!(drawn.ended_early_at().is_some(), "{chemistry:?} {duty:?}: {s:?}");
                assert!(
                    (0.0..=full).contains(&s.delivered.value()),
                    "{chemistry:?} {duty:?}: {s:?}"
                );
                let most = full * 1.4 * pack.voltage().value();
                assert!((0.0..=most).contains(&s.energy.value()), "{chemistry:?} {duty:?}: {s:?}");
            }
        }
    }
}

#[test]
fn a_third_of_the_time_takes_a_third() {
    let rig = rig(CraftKind::VHull);
    let mut day = Day::starting_at(420).then("a", Hours::of(3.0), Duty::Current(Amps::of(20.0)));
    day.stretches[0].share = 1.0 / 3.0;
    let drawn = evaluate(&rig, &day, &lfp(120.0));
    assert!((drawn.summary.delivered.value() - 20.0).abs() < 1e-9);
    assert!((drawn.legs.iter().map(|l| l.hours.value()).sum::<f64>() - 3.0).abs() < 1e-9);
}

/// Arithmetic: 18 W for two of four hours are 36 Wh; on a battery of its own it takes nothing here.
#[test]
fn devices_draw_for_their_hours_and_only_from_their_battery() {
    let rig = rig(CraftKind::VHull);
    let mut day = Day::starting_at(420).then("a", Hours::of(4.0), Duty::Off);
    day.accessories = vec![lake_hour_core::day::Accessory {
        name: "Sonar".into(),
        power: Watts::of(18.0),
        hours: Some(Hours::of(2.0)),
        on_house: false,
    }];
    let wh = evaluate(&rig, &day, &lfp(60.0)).summary.energy.value();
    // Through a converter of 88 %.
    assert!((wh - 36.0 / 0.88).abs() < 0.05, "{wh}");
    day.accessories[0].on_house = true;
    assert!(evaluate(&rig, &day, &lfp(60.0)).summary.energy.value() < 1e-9);
}

#[test]
fn what_is_beyond_the_motor_is_said_and_the_band_is_wider_for_what_is_guessed() {
    let mut rig = rig(CraftKind::Pontoon);
    rig.motor.max_current = Some(Amps::of(30.0));
    let mut day = Day::starting_at(420).then("Hold in a gale", Hours::of(1.0), Duty::HoldPlace);
    day.conditions = weather(15.0, 1.5);
    let e = verdict::evaluate(&rig, &day, &HouseRules::default(), &lfp(120.0)).unwrap();
    let notes: Vec<String> = e.notes.iter().map(|n| n.sentence(System::Us)).collect();
    assert!(
        notes.iter().any(|n| n.starts_with("Hold in a gale: the motor cannot hold")),
        "{notes:?}"
    );
    let width = |duty: Duty| {
        let day = Day::starting_at(420).then("a", Hours::of(3.0), duty);
        let band = evaluate(&rig, &day, &lfp(120.0)).band;
        (band.high - band.low) / (1.0 - band.low)
    };
    let guessed = width(Duty::Speed(ms(1.0)));
    assert!(guessed > 1.5 * width(Duty::Current(Amps::of(8.0))), "{guessed}");
}

#[test]
fn lead_is_cut_by_hand_and_lithium_stops_by_itself() {
    let rig = Rig::new("r", CraftKind::JonBoat, Volts::of(12.0));
    let day = Day::starting_at(420).then("on", Hours::of(5.0), Duty::Current(Amps::of(14.0)));
    let of = |chemistry: Chemistry, volts: f64| {
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        let pack = Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), 1, 1);
        verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).unwrap()
    };
    let lead = of(Chemistry::Flooded, 12.0);
    assert_eq!(lead.outcome, Outcome::BelowFloor);
    assert!(lead.notes.iter().any(|n| n.sentence(System::Us).contains("stop by hand after")));
    let lithium = of(Chemistry::Lfp, 12.8);
    assert!(!lithium.notes.iter().any(|n| n.sentence(System::Us).contains("by hand")));
}

/// Both cores or one: the same evaluations in the same order.
#[test]
fn many_packs_are_worked_out_alike_however_many_cores_there_are() {
    let rig = rig(CraftKind::VHull);
    let day = Day::starting_at(420).then("a", Hours::of(3.0), Duty::Current(Amps::of(10.0)));
    let packs: Vec<Pack> = (0..60).map(|n| lfp(40.0 + f64::from(n))).collect();
    let plan = lake_hour_core::plan::Plan {
        currency: "USD".into(),
        rig: rig.clone(),
        day: day.clone(),
        rules: HouseRules::default(),
        packs: packs.clone(),
        wants: Vec::new(),
        build: lake_hour_core::kept::Build::default(),
    };
    let all = plan.evaluate().unwrap();
    assert_eq!(all.len(), 60);
    for (n, pack) in packs.iter().enumerate().step_by(13) {
        let alone = verdict::evaluate(&rig, &day, &HouseRules::default(), pack).unwrap();
        assert_eq!(all[n], alone);
    }
}

#[test]
fn the_working_of_every_figure_is_there_with_its_numbers() {
    let rig = rig(CraftKind::VHull);
    let mut day = Day::starting_at(420).then("a", Hours::of(3.0), Duty::Current(Amps::of(10.0)));
    day.ready_by = Some(360);
    let mut rig = rig;
    rig.chargers = vec![charger(20.0)];
    let mut pack = lfp(100.0);
    pack.battery.price = Some(Money::of(400.0));
    let drawn = evaluate(&rig, &day, &pack);
    let lines = verdict::working(&pack, &day, &HouseRules::default(), &drawn, Say::plain("USD"));
    let keys: Vec<&str> = lines.iter().map(|l| l.figure).collect();
    assert_eq!(
        keys,
        [
            "capacity",
            "charge_left",
            "reserve",
            "hours_at_this_pace",
            "life",
            "cost",
            "refill",
            "capacity_over_years",
            "storage"
        ]
    );
    let says = |key: &str| lines.iter().find(|l| l.figure == key).unwrap();
    assert!(says("charge_left").numbers.starts_with("1.00 - 30.0 Ah / 100."));
    // 30 Ah at a fifth of 100 Ah an hour, almost nothing to taper.
    assert!(says("refill").result.contains("ready by 06:00"), "{}", says("refill").result);
    // Compound arithmetic at 2 % a month: 98, 94, 89 %.
    assert_eq!(says("storage").result, "98 %, 94 %, 89 %");
    assert!(lines.iter().all(|l| !l.formula.is_empty() && !l.numbers.contains("NaN")));
}
