//! Rules of series and parallel, published conversions, and the worked sums of the trade.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::drawdown::{Bank, Demand, Ended, Guard, Leg, fit, run};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Pack, WeakUnit, limits};
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Peak, Rating};
use lake_hour_core::units::system::System;
use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Volts};
use lake_hour_core::verdict::{self, Outcome};
use lake_hour_core::wiring::sharing;

fn unit(chemistry: Chemistry, volts: f64, ah: f64) -> Battery {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    Battery::new("u", chemistry, Volts::of(volts), rating)
}

/// Definitions: 8 A for 12 h is 96 Ah; 48 V at 125 A for an hour is 6 kWh; 18 W at 12 V is 1.5 A.
#[test]
fn the_units_multiply_as_defined() {
    assert_eq!((Amps::of(8.0) * Hours::of(12.0)).to_string(), "96 Ah");
    assert_eq!((Volts::of(48.0) * Amps::of(125.0) * Hours::of(1.0)).to_string(), "6000 Wh");
    let watts = lake_hour_core::units::Watts::of(18.0);
    assert_eq!(format!("{:.1}", watts / Volts::of(12.0)), "1.5 A");
}

/// Kirchhoff: series adds volts and keeps ampere-hours, parallel the other way, energy is the same
/// however the units are arranged.
#[test]
fn eight_golf_car_batteries_are_48_volts_and_10_8_kilowatt_hours() {
    let pack = Pack::of(unit(Chemistry::Flooded, 6.0, 225.0), 8, 1);
    assert_eq!((pack.voltage().value(), pack.capacity().unwrap().value()), (48.0, 225.0));
    assert!((pack.energy().unwrap().value() - 10_800.0).abs() < 1e-9);
    for (series, parallel) in [(4, 2), (2, 4), (1, 8)] {
        let other = Pack::of(unit(Chemistry::Flooded, 6.0, 225.0), series, parallel);
        assert_eq!(other.energy(), pack.energy());
    }
}

/// Nodal solution of four units in parallel, 5 milliohm each, 0.5 milliohm a link, 100 A: taken from
/// one end 38.5/26.3/19.2/16.0 A, from opposite corners 27.3/22.7/22.7/27.3 A; two share 54.5/45.5.
#[test]
fn parallel_units_share_by_the_way_the_cables_go() {
    for (units, corners, want) in [
        (4, false, &[38.5, 26.3, 19.2, 16.0][..]),
        (4, true, &[27.3, 22.7, 22.7, 27.3]),
        (2, false, &[54.5, 45.5]),
        (2, true, &[50.0, 50.0]),
    ] {
        let got = sharing::currents(units, 0.005, 0.0005, Amps::of(100.0), corners);
        for (got, want) in got.iter().zip(want) {
            assert!((got.value() - want).abs() < 0.06, "{units} units: {got} is not {want}");
        }
    }
}

#[test]
fn one_weak_unit_limits_its_string() {
    let rig = Rig::new("r", CraftKind::VHull, Volts::of(24.0));
    let day = Day::starting_at(0).then("on", Hours::of(20.0), Duty::Current(Amps::of(10.0)));
    let ends = |parallel, weak: Option<f64>| {
        let mut pack = Pack::of(unit(Chemistry::Lfp, 12.8, 100.0), 2, parallel);
        pack.weak_unit = weak.map(|s| WeakUnit { capacity_share: s, resistance_factor: 1.0 });
        let e = verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).unwrap();
        let drawn = e.drawn.unwrap();
        (
            drawn.ended_early_at().map_or(20.0, Hours::value),
            drawn.summary.string_out_at.map(Hours::value),
        )
    };
    let (sound, none) = ends(1, None);
    let (limited, _) = ends(1, Some(0.6));
    assert!((limited / sound - 0.6).abs() < 0.03, "a chain is as strong as its weakest link");
    assert_eq!(none, None);
    // With a second string the day goes on after the weak one opens, but not as long.
    let (two, out) = ends(2, Some(0.6));
    assert!(out.unwrap() > 11.0 && out.unwrap() < two && two < ends(2, None).0);
}

#[test]
fn a_bms_opens_on_current_at_the_moment_it_is_too_much() {
    let rig = Rig::new("r", CraftKind::VHull, Volts::of(12.0));
    let mut battery = unit(Chemistry::Lfp, 12.8, 100.0);
    battery.max_continuous = Some(Amps::of(50.0));
    let day = Day::starting_at(0).then("out", Hours::of(1.0), Duty::Current(Amps::of(30.0))).then(
        "full",
        Hours::of(0.5),
        Duty::Current(Amps::of(56.0)),
    );
    let evaluate = |battery: &Battery, parallel| {
        let pack = Pack::of(battery.clone(), 1, parallel);
        verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).unwrap()
    };
    let tripped = evaluate(&battery, 1);
    assert_eq!(tripped.outcome, Outcome::Trips);
    assert_eq!(tripped.drawn.unwrap().ended_early_at(), Some(Hours::of(1.0)));
    // Parallel strings share the current; series would not help.
    assert_eq!(evaluate(&battery, 2).outcome, Outcome::Home);
    battery.peak = Some(Peak { current: Amps::of(100.0), seconds: 90.0 });
    let at = evaluate(&battery, 1).drawn.unwrap().ended_early_at().unwrap().value();
    assert!((at - (1.0 + 90.0 / 3600.0)).abs() < 1e-9, "borne for its seconds: {at}");
}

/// A power that a sagging battery answers with more and more current trips in the middle of a
/// stretch, where the current crosses the limit.
#[test]
fn a_rising_current_trips_inside_its_stretch() {
    let law = fit(&unit(Chemistry::Lfp, 12.8, 50.0)).unwrap().law;
    let bank = Bank::uniform(law, 1, 1);
    let demand = Demand::power(lake_hour_core::units::Watts::of(600.0));
    let leg = Leg::rated(Hours::of(1.0), demand);
    let guard =
        Guard { continuous: Some(Amps::of(48.5)), peak: Some(Amps::of(48.5)), ..Guard::NONE };
    let Ended::Tripped { at, amps } = run(&bank, &[leg], &guard, |_| {}).ended else { panic!() };
    let (at, amps) = (at.value(), amps.value());
    assert!(at > 0.01 && at < 0.99 && (amps - 48.5).abs() < 0.3, "{at} h, {amps} A");
}

#[test]
fn a_pack_that_cannot_be_used_is_set_aside_by_its_figure() {
    let mut rig = Rig::new("r", CraftKind::GolfCart, Volts::of(36.0));
    rig.controller_max = Some(Volts::of(43.0));
    rig.battery_mass_limit = Some(Kilograms::of(20.0));
    let mut battery = unit(Chemistry::Lfp, 12.8, 100.0);
    battery.mass = Some(Kilograms::of(11.5));
    let reasons = |pack: &Pack| {
        limits::set_aside(pack, &rig).iter().map(|r| r.sentence(System::Us)).collect::<Vec<_>>()
    };
    assert_eq!(
        reasons(&Pack::of(battery.clone(), 3, 1)),
        [
            "freshly charged it stands at 43.8 V, the controller's max is 43.0 V",
            "weighs 76 lb, the craft may carry 44 lb",
        ]
    );
    assert_eq!(
        reasons(&Pack::of(battery.clone(), 1, 1)),
        ["gives 12.8 V, the system is 36 V: it takes 3 in series"]
    );
    battery.ratings.clear();
    battery.cranking = Some(Amps::of(650.0));
    assert!(reasons(&Pack::of(battery, 3, 1))[0].contains("a starting battery, not for traction"));
}

/// Warm from indoors on a cold lake: it starts with nearly all its reach and loses some by noon.
#[test]
fn a_battery_kept_indoors_does_better_on_a_cold_morning() {
    let rig = Rig::new("r", CraftKind::VHull, Volts::of(12.0));
    let mut day = Day::starting_at(420).then("on", Hours::of(6.0), Duty::Current(Amps::of(30.0)));
    day.ambient = Some(lake_hour_core::units::Celsius::of(-5.0));
    let lasts = |start: Option<f64>| {
        let mut day = day.clone();
        day.battery_start = start.map(lake_hour_core::units::Celsius::of);
        // Short stretches, so that the cooling is followed.
        let one = day.stretches[0].clone();
        day.stretches = vec![lake_hour_core::day::Stretch { lasts: Hours::of(0.25), ..one }; 24];
        let pack = Pack::of(unit(Chemistry::Lfp, 12.8, 100.0), 1, 1);
        let e = verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).unwrap();
        assert!(e.notes.iter().any(|n| n.sentence(System::Us).contains("Do not charge it")));
        e.drawn.unwrap().ended_early_at().unwrap().value()
    };
    let (cold, warm) = (lasts(None), lasts(Some(20.0)));
    assert!(warm > cold * 1.02 && warm < 100.0 / 30.0, "cold {cold}, warm {warm}");
}

#[test]
fn the_band_is_the_same_every_time_and_says_what_it_is_least_sure_of() {
    let rig = Rig::new("r", CraftKind::VHull, Volts::of(12.0));
    let day = Day::starting_at(420).then("on", Hours::of(2.0), Duty::Current(Amps::of(12.0)));
    let band = |b: Battery| {
        let pack = Pack::of(b, 1, 1);
        let e = verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).unwrap();
        e.drawn.unwrap().band
    };
    let agm = unit(Chemistry::Agm, 12.0, 100.0);
    assert_eq!(band(agm.clone()), band(agm.clone()));
    let mut doubtful = agm.clone();
    doubtful.ratings.push(Rating::reserve(80.0));
    let width = |b: &verdict::Band| b.high - b.low;
    assert!(width(&band(doubtful)) > width(&band(agm)), "conflict widens the band");
    let lfp = band(unit(Chemistry::Lfp, 12.8, 100.0));
    assert_eq!(lfp.widest, Some(verdict::Unknown::Draw));
}
