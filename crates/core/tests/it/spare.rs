//! What is to spare, and how hard a pack may be driven.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::rig::{CraftKind, Rig, SettingPoint};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, MetresPerSecond, Volts};
use lake_hour_core::verdict::{self, Drawn, Outcome};
use proptest::prelude::*;

fn pack(chemistry: Chemistry, ah: f64, series: u32) -> Pack {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), series, 1)
}

fn rig(volts: f64, most: f64) -> Rig {
    let mut rig = Rig::new("r", CraftKind::JonBoat, Volts::of(volts));
    rig.motor.max_current = Some(Amps::of(most));
    rig
}

fn drawn(rig: &Rig, day: &Day, pack: &Pack) -> (Outcome, Drawn) {
    let e = verdict::evaluate(rig, day, &HouseRules::default(), pack).unwrap();
    (e.outcome, e.drawn.unwrap())
}

/// Common practice, no source: 100 Ah of LFP at 20 A last about 5 h; with a tenth kept, 4.5 h. Two of
/// them are gone after two hours.
#[test]
fn a_hundred_amp_hours_at_twenty_amps_leave_two_and_a_half_hours_after_two() {
    let day = Day::starting_at(420).then("on", Hours::of(2.0), Duty::Current(Amps::of(20.0)));
    let (_, d) = drawn(&rig(12.0, 40.0), &day, &pack(Chemistry::Lfp, 100.0, 1));
    let spare = d.hours_to_spare.unwrap().value();
    assert!((spare - 2.5).abs() < 0.15, "{spare}");
    assert!((spare - (d.hours_at_this_pace.unwrap().value() - 2.0)).abs() < 1e-6);
}

#[test]
fn miles_to_spare_follow_the_day_and_a_parked_hour_adds_none() {
    let speed = MetresPerSecond::of(1.2);
    let day = Day::starting_at(420).then("go", Hours::of(1.0), Duty::Speed(speed)).then(
        "rest",
        Hours::of(1.0),
        Duty::Off,
    );
    let rig = rig(12.0, 40.0);
    let course = verdict::course(&rig, &day);
    let gone = course.distance();
    assert!((gone.value() - 4320.0).abs() < 1.0, "{gone}");
    let (_, d) = drawn(&rig, &day, &pack(Chemistry::Lfp, 100.0, 1));
    let spare = d.spare(&course).unwrap();
    assert_eq!(spare.distance, Some(course.within(spare.hours)));
    for (hours, metres) in [
        (0.0, 0.0),
        (0.5, 2160.0),
        (1.0, 4320.0),
        (1.9, 4320.0),
        (2.5, 6480.0),
        (-0.5, 0.0),
        (-1.5, -2160.0),
    ] {
        let far = course.within(Hours::of(hours)).value();
        assert!((far - metres).abs() < 1.0, "{hours} h: {far}");
    }
    let twice = verdict::course(&rig, &Day { days_without_charging: 2, ..day.clone() });
    // The second day's rest, its hour under way, the night of 22 h, the first day's rest.
    for (hours, metres) in [
        (-1.0, 0.0),
        (-1.5, -2160.0),
        (-2.0, -4320.0),
        (-24.0, -4320.0),
        (-25.5, -6480.0),
        (-26.0, -8640.0),
        (-99.0, -8640.0),
        (2.5, 6480.0),
    ] {
        let far = twice.within(Hours::of(hours)).value();
        assert!((far - metres).abs() < 1.0, "{hours} h: {far}");
    }
    let nowhere = verdict::Course::default();
    assert_eq!(d.spare(&nowhere).unwrap().distance, None, "a day that goes nowhere");
}

/// The mistake of the trade: two batteries of 50 A in series still carry 50 A.
#[test]
fn a_bms_below_the_motors_maximum_limits_the_setting_and_series_does_not_help() {
    let mut rig = rig(24.0, 60.0);
    rig.motor.settings = (1..=10)
        .map(|s| SettingPoint {
            setting: f64::from(s),
            current: Amps::of(6.0 * f64::from(s)),
            at: None,
        })
        .collect();
    rig.motor.settings_measured = true;
    let day = Day::starting_at(420).then("on", Hours::of(1.0), Duty::Current(Amps::of(10.0)));
    let mut two = pack(Chemistry::Lfp, 50.0, 2);
    two.battery.max_continuous = Some(Amps::of(50.0));
    // A full LFP stands some 10 % above nominal and draws more: setting 7, not 8.
    let (_, d) = drawn(&rig, &day, &two);
    assert_eq!(d.highest_safe_setting, Some(7.0));
    // In parallel the strings share it.
    let four = Pack { parallel: 2, ..two.clone() };
    assert_eq!(drawn(&rig, &day, &four).1.highest_safe_setting, Some(10.0));
    // Lead has no switch inside.
    let mut lead = pack(Chemistry::Agm, 100.0, 2);
    lead.battery.max_continuous = Some(Amps::of(50.0));
    assert_eq!(drawn(&rig, &day, &lead).1.highest_safe_setting, Some(10.0));
    let mut stepped = rig.clone();
    stepped.motor.dial = lake_hour_core::rig::Dial::steps_of(5);
    assert_eq!(drawn(&stepped, &day, &two).1.highest_safe_setting, Some(6.0), "a step it has");
    let mut unknown = rig;
    unknown.motor.settings.clear();
    unknown.motor.max_current = None;
    assert_eq!(drawn(&unknown, &day, &two).1.highest_safe_setting, None);
}

#[test]
fn a_pack_that_is_empty_on_a_bad_day_carries_nothing_at_its_end() {
    let day = Day::starting_at(420).then("on", Hours::of(5.0), Duty::Current(Amps::of(30.0)));
    let (outcome, d) = drawn(&rig(12.0, 50.0), &day, &pack(Chemistry::Lfp, 60.0, 1));
    assert_eq!(outcome, Outcome::Stops);
    // A bad day ends on what its draw put out of reach: an ampere or two it may still give for ten minutes.
    assert!(d.highest_safe_setting.unwrap() <= 2.0, "{:?}", d.highest_safe_setting);
    assert!(d.hours_to_spare.unwrap().value() < 0.0);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, failure_persistence: None, ..ProptestConfig::default() })]

    /// The sign of what is to spare and the verdict never disagree.
    #[test]
    fn what_is_to_spare_agrees_with_the_verdict(
        lead in any::<bool>(), ah in 20.0..300.0_f64, amps in 0.5..45.0_f64, hours in 0.2..9.0_f64,
        rest in 0.0..3.0_f64, days in 1..4_u32,
    ) {
        let mut day = Day::starting_at(300)
            .then("on", Hours::of(hours), Duty::Current(Amps::of(amps)))
            .then("off", Hours::of(rest), Duty::Off);
        day.days_without_charging = days;
        let chemistry = if lead { Chemistry::Agm } else { Chemistry::Lfp };
        let (outcome, d) = drawn(&rig(12.0, 50.0), &day, &pack(chemistry, ah, 1));
        let spare = d.hours_to_spare.map(Hours::value);
        match outcome {
            Outcome::Home | Outcome::BelowReserve => prop_assert!(spare.is_none_or(|s| s > -1e-6)),
            _ => prop_assert!(spare.unwrap() < 1e-6),
        }
    }

    /// A stronger BMS, or a shorter day, never lowers the setting by more than one, where the BMS carries the day and the charge
    /// lasts: one that shuts off at once leaves its pack full, and one that gives out early leaves what it could not give.
    ///
    /// By one it may: leads for more amps lose fewer volts, a motor draws more at more volts, and of a charge that is just enough
    /// for the last run home that little is missing.
    #[test]
    fn a_stronger_pack_is_never_to_be_driven_softer(
        ah in 20.0..200.0_f64, limit in 14.0..80.0_f64, more in 1.0..3.0_f64, hours in 0.2..4.0_f64,
    ) {
        let of = |hours: f64, limit: f64| {
            let day = Day::starting_at(300).then("on", Hours::of(hours), Duty::Current(Amps::of(9.0)));
            let mut p = pack(Chemistry::Lfp, ah, 1);
            p.battery.max_continuous = Some(Amps::of(limit));
            let d = drawn(&rig(12.0, 50.0), &day, &p).1;
            (d.highest_safe_setting.unwrap(), d.band.days_finished >= 1.0)
        };
        if !of(hours, limit).1 || !of(hours, limit * more).1 {
            return Ok(());
        }
        let of = |hours, limit| of(hours, limit).0;
        prop_assert!(of(hours, limit * more) >= of(hours, limit) - 1.0);
        prop_assert!(of(hours / more, limit) >= of(hours, limit));
    }
}
