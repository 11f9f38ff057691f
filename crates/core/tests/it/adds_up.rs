//! One base: wherever a charge stands, it is 1 less the ampere-hours taken over the label's times what wear has left of them.

use lake_hour_core::build::card::{Pace, card};
use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::live::{Begins, Heard, Live};
use lake_hour_core::log::{Charge, Outing, Used, parts, told_capacity};
use lake_hour_core::pack::{Health, Pack, Shown};
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig, SettingPoint};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, Volts};
use lake_hour_core::verdict::{Note, Outcome};

const LABEL: f64 = 100.0;

fn battery(chemistry: Chemistry, hours: f64) -> Battery {
    let volts = match chemistry {
        Chemistry::Lfp => 12.8,
        Chemistry::Nmc => 14.4,
        _ => 12.0,
    };
    let rating = Rating::Capacity { ah: AmpHours::of(LABEL), over: Hours::of(hours) };
    let mut battery = Battery::new("unit", chemistry, Volts::of(volts), rating);
    battery.max_continuous = Some(Amps::of(200.0));
    battery
}

fn plan(pack: Pack, at: f64, stretches: &[(f64, f64)]) -> Plan {
    let mut rig = Rig::new("skiff", CraftKind::VHull, pack.voltage());
    rig.motor.max_current = Some(Amps::of(46.0));
    rig.motor.settings = (1..=10)
        .map(|n| SettingPoint {
            setting: f64::from(n),
            current: Amps::of(4.0 * f64::from(n)),
            at: None,
        })
        .collect();
    let mut day = Day::starting_at(420);
    day.ambient = Some(Celsius::of(at));
    for (n, (hours, amps)) in stretches.iter().enumerate() {
        let duty = if *amps > 0.0 { Duty::Current(Amps::of(*amps)) } else { Duty::Off };
        day = day.then(format!("part {n}"), Hours::of(*hours), duty);
    }
    Plan {
        currency: "USD".to_owned(),
        rig,
        day,
        rules: HouseRules::default(),
        packs: vec![Pack { shown: Shown::Full, ..pack }],
        wants: Vec::new(),
        build: Default::default(),
    }
}

/// The sum by hand, the lane, the log's line as planned, the card and a trip under way, over all chemistries, one and several units,
/// worn and new, cold and warm: ampere-hours and charge agree within 0.5 %.
#[test]
fn every_place_that_counts_a_charge_counts_the_same_ampere_hours() {
    let stretches = [(0.8, 16.0), (1.0, 6.0), (0.5, 0.0), (0.7, 12.0)];
    let by_hand: f64 = stretches.iter().map(|(hours, amps)| hours * amps).sum();
    let near = |got: f64, want: f64, what: &str| {
        assert!((got / want - 1.0).abs() < 0.005, "{what}: {got}, by hand {want}");
    };
    for chemistry in Chemistry::ALL {
        for (series, parallel) in [(1, 1), (2, 1), (3, 2)] {
            for capacity_share in [1.0, 0.8] {
                for degrees in [25.0, -5.0] {
                    let health = Health { capacity_share, ..Health::NEW };
                    let pack =
                        Pack { health, ..Pack::of(battery(chemistry, 20.0), series, parallel) };
                    let what =
                        format!("{chemistry:?} {series}s{parallel}p {capacity_share} {degrees} °C");
                    let whole = LABEL * f64::from(parallel) * capacity_share;
                    let plan = plan(pack, degrees, &stretches);
                    let pack = &plan.packs[0];
                    near(told_capacity(pack).unwrap().value(), whole, &what);
                    let judge = plan.judge().unwrap();
                    let drawn = judge.in_full(pack).drawn.unwrap();
                    near(drawn.summary.delivered.value(), by_hand, &format!("{what}, lane"));
                    near(
                        1.0 - drawn.summary.charge_left,
                        by_hand / whole,
                        &format!("{what}, left"),
                    );
                    let last = drawn.points.last().unwrap();
                    near(1.0 - last.charge, by_hand / whole, &format!("{what}, its last point"));
                    // The log's line as planned, and what a shunt that counts it would say.
                    let outing = Outing {
                        date: jiff::civil::date(2026, 5, 2),
                        name: "as planned".to_owned(),
                        hours: None,
                        distance: None,
                        start: Charge::Full,
                        used: Used::AmpHours(AmpHours::of(by_hand)),
                        wind: None,
                        reading: None,
                        note: String::new(),
                        of: None,
                        recorded: None,
                        hot: None,
                        counts: true,
                        practice: false,
                        plan: plan.clone(),
                    };
                    let (used, _) = outing.share_used().unwrap();
                    near(used, by_hand / whole, &format!("{what}, its log"));
                    near(parts(&plan, pack).unwrap().sum(), used, &format!("{what}, as planned"));
                    let (planned, left) = outing.left().unwrap();
                    near(planned, left, &format!("{what}, planned and left"));
                    // Under way: what has gone since it began, as a share of what it was thought to hold.
                    let mut live = Live::of(pack, Begins::Full, Celsius::of(degrees)).unwrap();
                    let begun = live.left().charge;
                    for (hours, amps) in stretches {
                        for _ in 0..60 {
                            let heard = Heard { volts: None, current: Some(Amps::of(amps)) };
                            live.heard(Hours::of(hours / 60.0), heard);
                        }
                    }
                    near(live.drawn().0.value(), by_hand, &format!("{what}, under way"));
                    near(
                        begun - live.left().charge,
                        by_hand / whole,
                        &format!("{what}, under way"),
                    );
                    // The card: from full at a setting to the floor, where nothing else ends it before.
                    if degrees > 0.0 {
                        let card = card(&plan, pack).unwrap();
                        let line =
                            card.lines.iter().find(|l| l.pace == Pace::Setting(2.0)).unwrap();
                        let hours = line.left[0].hours.unwrap().value();
                        let (bank, ..) = judge.bank_and_legs(pack, pack).unwrap();
                        let amps = 8.0 * bank.volts(&bank.at(0.7), 8.0)
                            / judge.rig().motor.reads_at().value();
                        let gives = (1.0 - card.floor) * whole / hours;
                        // Its motor fades with the volts: within the tenth by which they fall.
                        assert!((gives / amps - 1.0).abs() < 0.10, "{what}, card: {gives} {amps}");
                    }
                }
            }
        }
    }
}

/// 59.4 Ah out of a 100 Ah flooded set is 41 % left and below the floor of half, not "home with 51 %".
#[test]
fn fifty_nine_of_a_hundred_is_below_half() {
    let plan = plan(Pack::of(battery(Chemistry::Flooded, 20.0), 2, 1), 25.0, &[(5.4, 11.0)]);
    let evaluation = plan.judge().unwrap().in_full(&plan.packs[0]);
    let drawn = evaluation.drawn.unwrap();
    assert!((drawn.summary.charge_left - 0.406).abs() < 1e-9, "{:?}", drawn.summary);
    assert_eq!(evaluation.outcome, Outcome::BelowFloor);
    assert!((drawn.between.0 - 0.406).abs() < 1e-9, "cycled as deep as the meter says");
}

/// Lead's label over other hours than twenty is fitted; a slow draw that gives more than the label stands at 0 % and says how much
/// more; a label that its own ratings contradict is not what a charge is counted in.
#[test]
fn what_is_beyond_the_label_is_told_and_is_no_charge() {
    let slow = plan(Pack::of(battery(Chemistry::Flooded, 20.0), 1, 1), 25.0, &[(70.0, 1.5)]);
    let evaluation = slow.judge().unwrap().in_full(&slow.packs[0]);
    let drawn = evaluation.drawn.unwrap();
    assert_eq!(drawn.summary.charge_left, 0.0);
    let more = evaluation.notes.iter().find_map(|n| match n {
        Note::PastLabel { more } => Some(more.value()),
        _ => None,
    });
    assert!(more.is_some_and(|more| (more - 5.0).abs() < 0.1), "{more:?}");
    assert!(drawn.points.iter().all(|p| (0.0..=1.0).contains(&p.charge)));
    let five = told_capacity(&Pack::of(battery(Chemistry::Flooded, 5.0), 1, 1)).unwrap().value();
    assert!((115.0..130.0).contains(&five), "100 Ah over 5 h is more over 20 h: {five}");
    let lithium = told_capacity(&Pack::of(battery(Chemistry::Lfp, 5.0), 1, 1)).unwrap().value();
    assert!((lithium - LABEL).abs() < 1e-9, "lithium's label is its own");
    let mut lying = battery(Chemistry::Agm, 20.0);
    lying.ratings.push(Rating::Runtime { at: Amps::of(25.0), lasted: Hours::of(0.8) });
    let law = lake_hour_core::drawdown::fit(&lying).unwrap().law;
    assert!(
        law.rated() < 0.9 * LABEL && law.rated() < law.q_max(),
        "{} {}",
        law.rated(),
        law.q_max()
    );
}

/// Forty outings of three days are forty cycles, each as deep as three days take.
#[test]
fn outings_of_several_days_are_cycles_of_all_their_days() {
    let mut three = plan(Pack::of(battery(Chemistry::Lfp, 20.0), 1, 1), 25.0, &[(2.0, 10.0)]);
    three.day.outings_per_year = 40.0;
    let one = three.judge().unwrap().in_full(&three.packs[0]).drawn.unwrap();
    three.day.days_without_charging = 3;
    let all = three.judge().unwrap().in_full(&three.packs[0]).drawn.unwrap();
    let deep = |d: &lake_hour_core::verdict::Drawn| d.between.1 - d.between.0;
    assert_eq!(three.day.days_each(), " of 3 days each");
    assert!((deep(&all) / deep(&one) - 3.0).abs() < 1e-6, "{} {}", deep(&all), deep(&one));
    assert!((one.life.outings / one.life.years - 40.0).abs() < 1e-6);
    assert!((all.life.outings / all.life.years - 40.0).abs() < 1e-6);
}
