//! Two banks in turn: what goes in and out of each is accounted for, and known cases come out as they must.

use lake_hour_core::day::{Day, Duty, SolarHour};
use lake_hour_core::drawdown::fit;
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::two_banks::{Run, Sources, TwoBanks, two_banks};
use lake_hour_core::refill::charge::Charge;
use lake_hour_core::rig::{Charger, CraftKind, Rig, Supply};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, Volts, Watts};
use proptest::prelude::*;

fn bank(chemistry: Chemistry, ah: f64) -> Pack {
    let volts = if chemistry == Chemistry::Lfp { 12.8 } else { 12.0 };
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    Pack::of(Battery::new("Sedge", chemistry, Volts::of(volts), rating), 1, 1)
}

/// So many days of 24 hours at a current.
fn plan(amps: f64, days: f64) -> Plan {
    let day =
        Day::starting_at(7 * 60).then("On", Hours::of(24.0 * days), Duty::Current(Amps::of(amps)));
    Plan {
        currency: "USD".to_owned(),
        rig: Rig::new("sloop", CraftKind::Sailboat, Volts::of(12.0)),
        day,
        rules: HouseRules::default(),
        packs: Vec::new(),
        wants: Vec::new(),
        build: lake_hour_core::kept::Build::default(),
    }
}

fn sources(sun: f64, generator: Option<f64>, shore: Option<f64>) -> Sources {
    let hour = |from_minute, watts| SolarHour { from_minute, power: Watts::of(watts) };
    Sources {
        days: (7 * 60, Hours::of(14.0)),
        sun: if sun > 0.0 { vec![hour(9 * 60, sun), hour(17 * 60, 0.0)] } else { Vec::new() },
        generator: generator.map(|a| (Amps::of(a), Some(Hours::of(6.0)))),
        shore: shore.map(|a| (Amps::of(a), Hours::of(8.0))),
    }
}

fn whole(bank: &Pack) -> f64 {
    fit(&bank.battery).unwrap().law.rated() * f64::from(bank.parallel)
}

/// Charge is conserved in each: what it ends with is what it began with, less what was drawn, and what was put in times
/// what of that stays. And the spans are those of one clock.
fn holds(all: &TwoBanks, bank: &Pack) {
    let coulombic = bank.battery.chemistry.facts().acceptance.coulombic;
    for (run, count) in [(&all.in_turn, 1.0), (&all.together, 2.0)] {
        let ends = run.out_at.unwrap_or(all.lasts).value();
        for lane in &run.lanes {
            let (first, last) = (lane.charge[0], lane.charge[lane.charge.len() - 1]);
            let gone =
                (lane.drawn.value() - lane.charged.value() * coulombic) / (count * whole(bank));
            assert!((first.1 - last.1 - gone).abs() < 1e-6, "{} {} {gone}", first.1, last.1);
            assert!((last.0.value() - ends).abs() < 1e-6);
            for (_, share) in &lane.charge {
                // The floor is found on a straight line through a piece whose current follows the volts.
                assert!((all.between.0 - 1e-4..=all.between.1 + 1e-4).contains(share), "{share}");
            }
            assert!(lane.used.windows(2).all(|s| s[0].to <= s[1].from));
        }
        let used: f64 =
            run.lanes.iter().flat_map(|l| &l.used).map(|s| (s.to - s.from).value()).sum();
        assert!((used - ends).abs() < 1e-4, "always one of them: {used} of {ends}");
        let put_in: f64 = run.lanes.iter().map(|l| l.charged.value()).sum();
        let by: f64 = run.by_source.iter().map(|a| a.value()).sum();
        assert!((put_in - by).abs() < 1e-6 * put_in.max(1.0));
        assert!(run.generator_hours().value() <= ends + 1e-9);
    }
}

fn gone_through(plan: &Plan, bank: &Pack, sources: &Sources) -> TwoBanks {
    let all = two_banks(plan, bank, sources).expect("a day and a capacity");
    holds(&all, bank);
    all
}

/// Without a source two banks give as much one after the other as side by side: all above the floor, at 50 % half of it.
#[test]
fn without_a_source_both_ways_give_the_same() {
    for chemistry in [Chemistry::Agm, Chemistry::Flooded, Chemistry::Lfp] {
        let bank = bank(chemistry, 100.0);
        let all = gone_through(&plan(5.0, 7.0), &bank, &sources(0.0, None, None));
        let (turn, one) = (&all.in_turn, &all.together);
        let asked = 2.0 * (1.0 - all.between.0) * whole(&bank);
        let drawn = |run: &Run| run.lanes.iter().map(|l| l.drawn.value()).sum::<f64>();
        assert!(
            (drawn(turn) / asked - 1.0).abs() < 1e-6 && (drawn(one) / asked - 1.0).abs() < 1e-6
        );
        assert!((turn.out_at.unwrap().value() - asked / 5.0).abs() < 1e-3);
        assert_eq!((turn.switches(), one.switches()), (1, 0));
        // Side by side each gives half of the current: less is lost in it.
        assert!(one.energy > turn.energy);
    }
}

/// Common practice, no source: each to half, then switch; about two hours of the generator bring it to 82 %, as long again
/// would the rest take; the generator stops near 80 % and the sun does the tail.
#[test]
fn a_generator_does_the_bulk_and_is_stopped_before_the_tail() {
    let bank = bank(Chemistry::Flooded, 200.0);
    let charger = whole(&bank) / 6.0;
    let all = gone_through(&plan(8.0, 3.0), &bank, &sources(0.0, Some(charger), None));
    let first = all.in_turn.generator[0];
    let accepts = bank.battery.chemistry.facts().acceptance;
    let charge =
        Charge { capacity: AmpHours::of(whole(&bank)), current: Amps::of(charger), accepts };
    let bulk = charge.hours(0.5, accepts.bulk_to).unwrap().total();
    assert!(((first.to - first.from) - bulk).value().abs() < 0.01, "{first:?} {bulk:?}");
    assert!((1.7..2.4).contains(&bulk.value()), "{bulk:?}");
    // It never gets its last part: told what that costs.
    let never = all.never_full.unwrap();
    assert!((never.highest - accepts.bulk_to).abs() < 0.005);
    assert!((never.lost.value() - whole(&bank) * (1.0 - never.highest)).abs() < 1e-6);
    assert!(never.generator.unwrap() > bulk, "the rest takes longer than all that went before");
    // With the sun on the bank that rests it is filled, and the generator runs no longer.
    let sunny = gone_through(&plan(8.0, 3.0), &bank, &sources(150.0, Some(charger), None));
    assert!(sunny.in_turn.generator_hours() <= all.in_turn.generator_hours());
    assert!(sunny.in_turn.lanes[0].highest_since.unwrap() > never.highest + 0.05);
}

#[test]
fn lithium_is_not_told_to_be_filled_and_shore_fills_in_the_night_alone() {
    let lithium = bank(Chemistry::Lfp, 100.0);
    let all = gone_through(&plan(8.0, 4.0), &lithium, &sources(0.0, Some(30.0), None));
    assert!(all.in_turn.switches() > 0 && all.never_full.is_none());
    let agm = bank(Chemistry::Agm, 200.0);
    let all = gone_through(&plan(6.0, 3.0), &agm, &sources(0.0, None, Some(20.0)));
    let [sun, generator, shore] = all.in_turn.by_source.map(AmpHours::value);
    assert!(sun == 0.0 && generator == 0.0 && shore > 50.0, "{shore}");
    let first = &all.in_turn.lanes[0].charge;
    let rises = |from: f64, to: f64| {
        let within = first.windows(2).filter(|w| w[0].0.value() >= from && w[1].0.value() <= to);
        within.map(|w| w[1].1 - w[0].1).fold(0.0, f64::max)
    };
    assert!(rises(0.0, 14.0) <= 0.0 && rises(24.0, 38.0) <= 0.0, "not by day");
}

#[test]
fn what_cannot_be_given_ends_at_once_and_nothing_asked_ends_never() {
    let mut small = bank(Chemistry::Lfp, 10.0);
    small.battery.max_continuous = Some(Amps::of(5.0));
    let all = gone_through(&plan(50.0, 1.0), &small, &sources(200.0, Some(5.0), Some(5.0)));
    assert!(all.in_turn.out_at.unwrap().value() < 0.01);
    let idle = gone_through(&plan(0.0, 1.0), &small, &sources(0.0, Some(5.0), None));
    assert!(idle.in_turn.out_at.is_none() && idle.in_turn.generator.is_empty());
    assert_eq!(two_banks(&plan(5.0, 0.0), &small, &sources(0.0, None, None)), None);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Any load, any sources, any rules: all is accounted for; more sun never empties them sooner.
    #[test]
    fn any_days_add_up(
        chemistry in prop::sample::select(vec![Chemistry::Flooded, Chemistry::Agm, Chemistry::Gel, Chemistry::Lfp]),
        ah in 20.0_f64..400.0, amps in 0.5_f64..40.0, days in 0.2_f64..5.0,
        sun in 0.0_f64..400.0, generator in prop::option::of(2.0_f64..60.0), shore in prop::option::of(2.0_f64..40.0),
        ceiling in 0.6_f64..1.0,
    ) {
        let bank = bank(chemistry, ah);
        let mut plan = plan(amps, days);
        plan.rules = plan.rules.with_ceiling(chemistry, ceiling);
        let dark = gone_through(&plan, &bank, &sources(0.0, generator, shore));
        let sunny = gone_through(&plan, &bank, &sources(sun, generator, shore));
        let lasts = |run: &Run| run.out_at.map_or(f64::INFINITY, Hours::value);
        if generator.is_none() {
            prop_assert!(lasts(&sunny.in_turn) >= lasts(&dark.in_turn) - 0.02);
        }
    }
}

/// However little lies between floor and ceiling, the generator is started for it, every day anew for its hours.
#[test]
fn the_generator_runs_its_hours_of_every_day() {
    let bank = bank(Chemistry::Agm, 100.0);
    let mut narrow = plan(10.0, 4.0);
    narrow.rules = narrow.rules.with_ceiling(Chemistry::Agm, 0.56);
    let all = gone_through(&narrow, &bank, &sources(0.0, Some(30.0), None));
    assert!(
        all.in_turn.generator.len() > 3 && all.in_turn.switches() > 3,
        "{:?}",
        all.in_turn.generator
    );
    let long = gone_through(&plan(3.0, 4.0), &bank, &sources(0.0, Some(12.0), None));
    for day in 0..4 {
        let within = |s: f64| s.clamp(24.0 * f64::from(day), 24.0 * f64::from(day + 1));
        let ran =
            long.in_turn.generator.iter().map(|s| within(s.to.value()) - within(s.from.value()));
        assert!(ran.sum::<f64>() < 6.0 + 1e-3, "day {day}");
    }
    assert!(long.in_turn.generator_hours().value() > 8.0, "on more days than one");
}

/// Panels of the rig shine around noon where the day tells of no sun, whenever the day begins.
#[test]
fn panels_on_the_rig_shine_around_noon() {
    let bank = bank(Chemistry::Agm, 200.0);
    for start in [7 * 60, 13 * 60, 23 * 60 + 50] {
        let mut plan = plan(6.0, 6.0);
        plan.day.start_minute = start;
        plan.rig.chargers = vec![Charger {
            name: "Panels".to_owned(),
            supply: Supply::Solar,
            banks: 1,
            bank_voltage: Volts::of(12.0),
            current: Amps::of(10.0),
            absorption: None,
            profiles: Vec::new(),
            hours: Some(Hours::of(6.0)),
        }];
        let panels = Sources::of(&plan, &bank);
        let all = gone_through(&plan, &bank, &panels);
        let dark = gone_through(&plan, &bank, &sources(0.0, None, None));
        let [sun, others @ ..] = all.in_turn.by_source.map(AmpHours::value);
        assert!(sun > 60.0 && others == [0.0, 0.0], "{start} {sun}");
        assert!(all.in_turn.out_at.is_none_or(|at| at > dark.in_turn.out_at.unwrap()));
        for lane in &all.in_turn.lanes {
            for pair in lane.charge.windows(2).filter(|p| p[1].1 > p[0].1) {
                let clock = (f64::from(start) / 60.0 + pair[0].0.value()) % 24.0;
                assert!((9.0 - 1e-6..15.0).contains(&clock), "{start}: {clock}");
            }
        }
        plan.day.solar = sources(50.0, None, None).sun;
        assert_eq!(Sources::of(&plan, &bank).sun, plan.day.solar, "what the day tells comes first");
    }
}

/// Told only of banks that had a source and the time: not of one that came to its floor in the last hours.
#[test]
fn a_bank_without_the_time_to_be_filled_is_not_blamed() {
    let bank = bank(Chemistry::Agm, 100.0);
    let none = gone_through(&plan(5.0, 7.0), &bank, &sources(0.0, None, None));
    assert!(none.in_turn.out_at.is_some() && none.never_full.is_none());
    // The first is low after some ten hours, and the day ends before a day is over.
    let short = gone_through(&plan(5.0, 0.6), &bank, &sources(0.0, Some(2.0), None));
    assert_eq!(short.in_turn.switches(), 1);
    assert!(short.never_full.is_none());
    let long = gone_through(&plan(5.0, 2.0), &bank, &sources(0.0, Some(20.0), None));
    assert!(long.never_full.unwrap().highest < 0.9);
}
