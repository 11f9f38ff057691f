//! What is said beside a verdict: each note in the situation that calls for it, with its figures, and in none
//! that does not.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::rig::{Bay, Charger, CraftKind, Rig, Supply, Whereabouts};
use lake_hour_core::shelf::{Battery, Chemistry, Correction, Detail, Rating, Size};
use lake_hour_core::units::system::System;
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, Millimetres, Volts, Watts};
use lake_hour_core::verdict::{self, Judge, Note, Outcome};

fn battery(chemistry: Chemistry, ah: f64) -> Battery {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let over = Hours::of(chemistry.usual_rating_hours());
    let mut b = Battery::new(
        "Tern",
        chemistry,
        Volts::of(volts),
        Rating::Capacity { ah: AmpHours::of(ah), over },
    );
    if !chemistry.is_lead() {
        b.max_continuous = Some(Amps::of(100.0));
    }
    b
}

fn rig() -> Rig {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(50.0));
    rig
}

fn day(amps: f64, hours: f64) -> Day {
    Day::starting_at(420).then("Out", Hours::of(hours), Duty::Current(Amps::of(amps)))
}

/// What is said of a pack, in pounds and degrees Fahrenheit.
fn said(rig: &Rig, day: &Day, pack: &Pack) -> Vec<String> {
    let e = verdict::evaluate(rig, day, &HouseRules::default(), pack).unwrap();
    e.notes.iter().map(|note: &Note| note.sentence(System::Us)).collect()
}

fn charger(name: &str, banks: u32, volts: f64, amps: f64) -> Charger {
    Charger {
        name: name.to_owned(),
        banks,
        bank_voltage: Volts::of(volts),
        current: Amps::of(amps),
        supply: Supply::Mains,
        absorption: None,
        profiles: Vec::new(),
        hours: None,
    }
}

/// (what is changed from an easy day with a sound pack, what is then said and was not before)
type Case = (&'static str, fn(&mut Rig, &mut Day, &mut Pack), &'static str);

const CASES: &[Case] = &[
    (
        "full throttle",
        |_, _, p| p.battery.max_continuous = Some(Amps::of(40.0)),
        "Its BMS shuts off above 40 A; the motor at full setting draws 50 A. Never full throttle.",
    ),
    (
        "ratings",
        |_, _, p| {
            p.battery = battery(Chemistry::Agm, 140.0);
            p.battery.ratings.push(Rating::reserve(150.0));
        },
        "The ratings on its label disagree by",
    ),
    (
        "harder than rated",
        |_, d, p| {
            p.battery = battery(Chemistry::Agm, 30.0);
            *d = day(45.0, 0.3);
        },
        "the shortest rating on its label is over 20.0 h",
    ),
    (
        "cold, by what is typical",
        |_, d, _| d.ambient = Some(Celsius::of(-25.0)),
        "Makers do not allow discharging it at -13 °F.",
    ),
    (
        "cold, by its label",
        |_, d, p| {
            p.battery.others.insert("discharge_low_c", (-10.0).into());
            d.ambient = Some(Celsius::of(-15.0));
        },
        "Its BMS shuts off at 5 °F: its label allows 14 °F to 140 °F.",
    ),
    (
        "no charging below freezing",
        |_, d, _| d.ambient = Some(Celsius::of(-5.0)),
        "Do not charge it at 23 °F: charging ruins lithium below 32 °F. Warm it first.",
    ),
    (
        "no charging in the heat",
        |_, d, _| d.ambient = Some(Celsius::of(48.0)),
        "Do not charge it at 118 °F: above 113 °F its BMS refuses. Let it cool first.",
    ),
    (
        "a weak unit's string",
        |_, d, p| {
            p.parallel = 2;
            p.weak_unit = Some(WeakUnit { capacity_share: 0.3, resistance_factor: 1.0 });
            *d = day(30.0, 4.0);
        },
        "The string with the weak unit shuts off after",
    ),
    ("a sudden end", |_, d, _| *d = day(30.0, 6.0), "Its BMS shuts off with hardly a warning."),
    (
        "no switch in lead",
        |_, d, p| {
            p.battery = battery(Chemistry::Flooded, 100.0);
            *d = day(20.0, 3.6);
        },
        "Lead has no switch inside: stop by hand after",
    ),
    (
        "a charger for another pack",
        |r, _, _| r.chargers.push(charger("Old Faithful", 1, 12.0, 10.0)),
        "Needs another charger: Old Faithful gives 1 x 12 V, this takes 2 x 12.8 V.",
    ),
    (
        "not full in time",
        |r, d, _| {
            r.chargers.push(charger("Trickle", 2, 12.0, 2.0));
            d.ready_by = Some(600);
            d.stretches[0].lasts = Hours::of(7.0);
        },
        "Not full again in time: it takes",
    ),
    (
        "a corrected label",
        |_, _, p| {
            let detail = Detail::CAPACITY;
            p.battery.corrected.push(Correction { detail, said: 300.0, used: 100.0 });
        },
        "Not as labeled, since the label check doubts it: capacity: the label says 300 Ah, used here: 100 Ah.",
    ),
    (
        "too large for its bay",
        |r, _, p| {
            let side = Millimetres::of;
            p.battery.size =
                Some(Size { length: side(330.0), width: side(173.0), height: side(240.0) });
            r.bays.push(Bay {
                name: "Stern box".to_owned(),
                whereabouts: Whereabouts::Stern,
                length: side(400.0),
                width: side(200.0),
                height: side(300.0),
                mass_limit: None,
                sealed: false,
                upright_only: false,
                layers: 1,
                position: 0.9,
            });
        },
        "The battery bays take 1 of its 2. Stern box:",
    ),
    ("nothing told of series", |_, _, p| p.battery.max_series = None, "\"May I join 2 in series"),
    (
        "made for starting",
        |_, _, p| p.battery.purpose = Some(lake_hour_core::shelf::Purpose::Starting),
        "Made to start engines",
    ),
    (
        "more than the motor gives",
        |_, d, _| {
            d.stretches[0].duty = Duty::Speed(lake_hour_core::units::MetresPerSecond::of(9.0));
        },
        "Out cannot make 20.1 mph: ",
    ),
];

#[test]
fn each_note_is_said_where_it_is_called_for_and_only_there() {
    let mut easy = (rig(), day(10.0, 1.0), Pack::of(battery(Chemistry::Lfp, 100.0), 2, 1));
    easy.2.battery.max_series = Some(4);
    assert_eq!(said(&easy.0, &easy.1, &easy.2), Vec::<String>::new(), "nothing to say of it");
    for (what, change, says) in CASES {
        let (mut rig, mut day, mut pack) = easy.clone();
        change(&mut rig, &mut day, &mut pack);
        let all = said(&rig, &day, &pack);
        assert!(all.iter().any(|s| s.contains(says)), "{what}: {all:?}");
    }
}

/// What is judged first is what is told at last: the stages agree on packs of every kind, and a battery's
/// weight makes no difference to a day that is as warm as where it was kept.
#[test]
fn the_first_stage_says_the_same_as_the_last() {
    let rig = rig();
    let mut outcomes = std::collections::BTreeSet::new();
    for (start, air) in [(None, None), (None, Some(5.0)), (Some(20.0), Some(-5.0))] {
        for watts in [120.0, 480.0, 900.0, 1200.0] {
            let mut day = Day::starting_at(420);
            (day.battery_start, day.ambient) = (start.map(Celsius::of), air.map(Celsius::of));
            for name in ["Out", "Hold", "Home"] {
                day = day.then(name, Hours::of(0.9), Duty::Power(Watts::of(watts)));
            }
            day.days_without_charging = 2;
            let judge = Judge::new(&rig, &day, &HouseRules::default()).unwrap();
            for chemistry in Chemistry::ALL {
                for (ah, kg, amps) in
                    [(20.0, 5.0, 30.0), (100.0, 14.0, 100.0), (300.0, 40.0, 300.0)]
                {
                    let mut unit = battery(chemistry, ah);
                    unit.mass = Some(lake_hour_core::units::Kilograms::of(kg));
                    unit.max_continuous = Some(Amps::of(amps));
                    let model = judge.model(&unit).unwrap();
                    for (series, parallel) in [(1, 1), (2, 1), (2, 3)] {
                        let pack = Pack::of(unit.clone(), series, parallel);
                        let (first, last) = (judge.outcome(&pack, &model), judge.in_full(&pack));
                        assert_eq!(
                            first.outcome, last.outcome,
                            "{chemistry:?} {ah} Ah at {watts} W"
                        );
                        assert_eq!(first.reasons, last.reasons);
                        assert_eq!(first.summary, last.drawn.map(|d| d.summary));
                        outcomes.insert(first.outcome);
                    }
                }
            }
        }
    }
    let all = [
        Outcome::Home,
        Outcome::BelowReserve,
        Outcome::BelowFloor,
        Outcome::Stops,
        Outcome::Trips,
        Outcome::SetAside,
    ];
    assert!(all.iter().all(|o| outcomes.contains(o)), "only {outcomes:?} were met");
}
