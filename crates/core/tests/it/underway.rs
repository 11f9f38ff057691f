//! A trip under way at its edges: full, silent, shut off, impossible.

use lake_hour_core::day::{Day, Duty, Surface};
use lake_hour_core::house::HouseRules;
use lake_hour_core::live::{
    Begins, ByHand, Clue, End, FarBy, Gauge, Gear, Heard, KnownAs, KnownBy, NoTrip, Path, Place,
    Setup, Told, Trip, Warning, WayBack,
};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Metres, MetresPerSecond, Volts, convert::MS_PER_MPH,
};
use proptest::prelude::*;

fn plan(kind: CraftKind, chemistry: Chemistry) -> Plan {
    let mut rig = Rig::new("Reed", kind, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(46.0));
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    let mut battery = Battery::new("Reed", chemistry, Volts::of(volts), rating);
    battery.max_continuous = Some(Amps::of(80.0));
    let day = Day::starting_at(420)
        .then("Out", Hours::of(1.0), Duty::Setting(6.0))
        .then("Reeds", Hours::of(2.0), Duty::Setting(2.0))
        .then("Home", Hours::of(1.0), Duty::Setting(6.0));
    Plan {
        currency: "USD".to_owned(),
        rig,
        day,
        rules: HouseRules::default(),
        packs: vec![Pack::of(battery, 2, 1)],
        wants: Vec::new(),
        build: Default::default(),
    }
}

fn setup(plan: Plan, sensed: bool) -> Setup {
    Setup {
        plan,
        begins: Begins::Full,
        warm: Celsius::of(20.0),
        launch: None,
        back: WayBack::Straight,
        sensed,
    }
}

fn trip(chemistry: Chemistry) -> Trip {
    Trip::begin(setup(plan(CraftKind::VHull, chemistry), true)).unwrap()
}

fn told(volts: f64, amps: f64) -> Told {
    let pack = Heard { volts: Some(Volts::of(volts)), current: Some(Amps::of(amps)) };
    Told { pack, ..Told::default() }
}

const SECOND: f64 = 1.0 / 3600.0;

fn hear(trip: &mut Trip, seconds: u32, told: &Told) {
    for n in 0..seconds {
        trip.hear(Hours::of(SECOND), told);
        if n % 10 == 9 {
            let now = trip.now();
            trip.look(&now);
        }
    }
}

fn stands(trip: &Trip, warning: Warning) -> bool {
    trip.warnings().standing().any(|w| w == warning)
}

/// Ten minutes at its charger's volts with hardly a current are full; a cloud over the panel takes the volts down and is none.
#[test]
fn full_is_known_by_its_charger_and_not_by_a_cloud() {
    for (chemistry, held) in [(Chemistry::Lfp, 28.5), (Chemistry::Agm, 29.0)] {
        let mut trip = trip(chemistry);
        hear(&mut trip, 3600, &told(25.6, 40.0));
        let used = trip.left().charge;
        assert!((0.52..0.70).contains(&used), "{chemistry:?}: 40 of 100 Ah are gone: {used}");
        for _ in 0..6 {
            hear(&mut trip, 300, &told(held, -1.0));
            hear(&mut trip, 60, &told(26.0, -0.2));
        }
        assert!(trip.left().charge < 0.75, "{chemistry:?}: clouds: {}", trip.left().charge);
        hear(&mut trip, 601, &told(held, -1.0));
        let (since, _, full) = trip.counted();
        assert!(trip.left().charge > 0.96 && full && since.minutes() < 1.0, "{:?}", trip.left());
    }
}

/// The meter that says 100 % all day changes nothing; what is typed of one pulls, and is not believed outright.
#[test]
fn a_meter_that_stands_at_full_is_not_believed() {
    let mut trip = trip(Chemistry::Lfp);
    let stuck = Told { meter: Some(1.0), ..told(26.4, 30.0) };
    hear(&mut trip, 7200, &stuck);
    assert!((trip.left().charge - 0.4).abs() < 0.05, "{:?}", trip.left());
    let mut hand = Trip::begin(setup(plan(CraftKind::VHull, Chemistry::Lfp), false)).unwrap();
    hear(&mut hand, 3600, &Told::default());
    let before = hand.left().charge;
    hand.read(&ByHand { meter: Some(0.3), ..ByHand::default() });
    let after = hand.left().charge;
    assert!(after < before && after > 0.3, "{before} to {after}");
}

#[test]
fn warnings_stand_when_they_are_due_and_say_nothing_else() {
    let mut quiet = trip(Chemistry::Lfp);
    hear(&mut quiet, 600, &told(26.5, 10.0));
    assert_eq!(quiet.warnings().standing().count(), 0);
    let mut off = trip(Chemistry::Lfp);
    hear(&mut off, 60, &told(0.2, 0.0));
    assert!(stands(&off, Warning::ShutOff) && off.has_shut_off());
    let mut hard = trip(Chemistry::Lfp);
    hear(&mut hard, 60, &told(26.0, 78.0));
    assert!(stands(&hard, Warning::SwitchNear));
    let mut hot = trip(Chemistry::Lfp);
    hear(&mut hot, 120, &Told { warm: Some(Celsius::of(58.0)), ..told(26.4, 10.0) });
    assert!(stands(&hot, Warning::Hot) && !stands(&hot, Warning::Cold));
    let mut weak = trip(Chemistry::Agm);
    let units = vec![Volts::of(12.4), Volts::of(11.9)];
    hear(&mut weak, 120, &Told { units, ..told(24.3, 20.0) });
    assert!(stands(&weak, Warning::Strays));
    assert_eq!(weak.behind().map(|b| b.0), Some(1));
    let mut silent = trip(Chemistry::Lfp);
    hear(&mut silent, 60, &told(26.5, 12.0));
    let before = silent.left().charge;
    hear(&mut silent, 300, &Told::default());
    assert!(stands(&silent, Warning::Silent));
    let fell = before - silent.left().charge;
    assert!((fell - 0.01).abs() < 0.003, "counted on at 12 A: {fell}");
    hear(&mut silent, 20, &told(26.5, 12.0));
    assert!(!stands(&silent, Warning::Silent));
    let mut low = trip(Chemistry::Lfp);
    hear(&mut low, 3 * 3600, &told(25.6, 28.0));
    assert!(
        stands(&low, Warning::Reserve)
            && low.warnings().said().iter().any(|w| w.0 == Warning::Reserve)
    );
}

fn place(north: f64) -> Place {
    Place::of(44.2 + north / 111_195.0, -72.6).unwrap()
}

/// Farther out there is less left on arrival, a later home, an earlier turn; upstream settings that are too slow do not arrive.
#[test]
fn the_way_home_answers_to_the_distance_and_to_what_is_against_it() {
    let mut trip = trip(Chemistry::Lfp);
    let mut before: Option<(f64, f64)> = None;
    for n in 0..6 {
        for s in 0..600 {
            let north = f64::from(n * 600 + s) * 1.2;
            let heard = Told {
                place: Some(place(north)),
                speed: Some(MetresPerSecond::of(1.2)),
                ..told(26.2, 15.0)
            };
            trip.hear(Hours::of(SECOND), &heard);
        }
        let home = trip.now().home.unwrap();
        assert_eq!(home.by, FarBy::Position);
        assert!((home.far.value() - f64::from((n + 1) * 600) * 1.2).abs() < 10.0);
        let row = home.rows[1];
        let left = row.left.unwrap().charge;
        let end = trip.at().value() + home.turn.unwrap().value();
        if let Some((left_then, _)) = before {
            assert!(left < left_then, "{left} after {left_then}");
        }
        before = Some((left, end));
        assert!(home.rows.windows(2).all(|w| w[0].speed >= w[1].speed), "the fastest first");
        assert!(
            home.rows
                .iter()
                .all(|r| r.keeps.1 <= r.keeps.0 + 1e-9 && r.keeps.0 <= r.arrives + 1e-9)
        );
    }
    trip.turn(true);
    assert_eq!(trip.now().home.unwrap().turn, None);
    // Against a current that carries it out: the lowest settings never arrive.
    let mut against = plan(CraftKind::VHull, Chemistry::Lfp);
    against.day.conditions.current = MetresPerSecond::of(1.6 * MS_PER_MPH);
    let mut trip = Trip::begin(setup(against, false)).unwrap();
    trip.read(&ByHand { far: Some(Metres::of(3000.0)), ..ByHand::default() });
    let home = trip.now().home.unwrap();
    assert_eq!(home.rows.last().unwrap().end, End::Backwards, "{home:?}");
    assert!(home.too_slow.is_some() && home.cheapest.is_some_and(|(_, v)| v.value() > 0.2));
}

/// A cart's way home has its hills: its grades count, the steepest is told, what it took so far is believed.
#[test]
fn a_carts_hill_counts_on_the_way_home() {
    let mut cart = plan(CraftKind::GolfCart, Chemistry::Agm);
    cart.rig.motor.max_current = Some(Amps::of(300.0));
    cart.day.stretches.iter_mut().for_each(|s| {
        (s.duty, s.surface) = (Duty::Speed(MetresPerSecond::of(5.0)), Surface::Asphalt);
    });
    let way = |rises: f64| {
        Path::of(
            (0..=20)
                .rev()
                .map(|n| (place(f64::from(n) * 150.0), Some(rises * (20.0 - f64::from(n))))),
        )
    };
    let left = |rises: f64| {
        let back = WayBack::Route(way(rises));
        let mut trip = Trip::begin(Setup { back, ..setup(cart.clone(), true) }).unwrap();
        trip.hear(Hours::of(SECOND), &Told { place: Some(place(0.0)), ..told(25.0, 5.0) });
        trip.hear(Hours::of(SECOND), &Told { place: Some(place(3000.0)), ..told(25.0, 5.0) });
        let home = trip.now().home.unwrap();
        assert!(
            (home.far.value() - 3000.0).abs() < 20.0 && matches!(home.rows[0].gear, Gear::Speed(_))
        );
        (home.rows[1].left.unwrap().charge, home.hill)
    };
    let (flat, steep) = (left(0.0), left(7.5));
    assert!(steep.0 < flat.0 - 0.02, "{flat:?} {steep:?}");
    assert!(flat.1.is_none());
    let (grade, amps) = steep.1.unwrap();
    assert!((grade - 0.05).abs() < 0.005 && amps.value() > 60.0, "{grade} {amps}");
}

#[test]
fn what_cannot_be_counted_is_refused() {
    let none = Plan { packs: Vec::new(), ..plan(CraftKind::VHull, Chemistry::Lfp) };
    assert_eq!(Trip::begin(setup(none, true)).err(), Some(NoTrip::NoPack));
    let begins = Begins::About(f64::NAN);
    let odd = Setup { begins, ..setup(plan(CraftKind::VHull, Chemistry::Lfp), true) };
    assert_eq!(Trip::begin(odd).err(), Some(NoTrip::NoCharge));
    let mut bare = plan(CraftKind::VHull, Chemistry::Lfp);
    (bare.day.stretches, bare.rig.motor.max_current) = (Vec::new(), None);
    let trip = Trip::begin(setup(bare, false)).unwrap();
    assert!(trip.now().left.charge > 0.9);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]
    /// Whatever is heard, in whatever order and at whatever times: every figure is finite and within its bounds, and each is the
    /// same wherever it is told.
    #[test]
    fn whatever_is_heard_every_figure_is_one_that_can_be(
        lead in any::<bool>(),
        events in prop::collection::vec(
            (-1e4_f64..1e5, prop::option::of(0.0_f64..2000.0), prop::option::of(-5000.0_f64..5000.0),
             prop::option::of((-90.0_f64..=90.0, -180.0_f64..=180.0)), prop::option::of(0.0_f64..60.0), 0_u8..8), 1..40),
    ) {
        let chemistry = if lead { Chemistry::Flooded } else { Chemistry::Lfp };
        let mut trip = trip(chemistry);
        for (seconds, volts, amps, at, speed, what) in events {
            let pack = Heard { volts: volts.map(Volts::of), current: amps.map(Amps::of) };
            match what {
                0 => trip.read(&ByHand { volts: pack.volts, current: pack.current, meter: Some(seconds / 1e5), gauge: None, far: speed.map(|s| Metres::of(s * 1e4)) }),
                1 => trip.turn(seconds > 0.0),
                2 => trip.way_back(WayBack::Track),
                _ => trip.hear(Hours::of(seconds / 3600.0), &Told {
                    pack,
                    place: at.and_then(|(lat, lon)| Place::of(lat, lon)),
                    speed: speed.map(MetresPerSecond::of),
                    ..Told::default()
                }),
            }
        }
        let now = trip.now();
        trip.look(&now);
        prop_assert_eq!(now.left, trip.left());
        let (low, high) = now.left.between;
        prop_assert!((0.0..=1.0).contains(&low) && low <= now.left.charge + 1e-9 && now.left.charge <= high + 1e-9 && high <= 1.0);
        prop_assert!(now.lasts.0.value() >= 0.0 && now.lasts.0.value() <= 48.0 + 1e-9);
        let home = now.home.unwrap();
        prop_assert!(home.far.value() >= 0.0 && home.far.value() < 2.1e7 + 1e9);
        for row in &home.rows {
            prop_assert!((0.0..=1.0 + 1e-9).contains(&row.arrives));
            if let Some(left) = row.left {
                prop_assert!((0.0..=1.0).contains(&left.charge));
            }
            if let End::Short(far) = row.end {
                prop_assert!(far.value() > 0.0 && far.value() <= home.far.value() + 1.0);
            }
        }
        prop_assert!(home.turn.is_none_or(|t| (0.0..=24.0).contains(&t.value())));
    }
}

fn by_hand(chemistry: Chemistry, begins: Begins) -> Trip {
    let setup = Setup { begins, ..setup(plan(CraftKind::VHull, chemistry), false) };
    Trip::begin(setup).unwrap()
}

fn reads(meter: f64, gauge: Gauge) -> ByHand {
    ByHand { meter: Some(meter), gauge: Some(gauge), ..ByHand::default() }
}

/// A start that nobody told is not full, and a band says so; what is read then counts.
#[test]
fn a_start_that_nobody_told_is_what_the_log_knows_or_not_said() {
    let nothing = by_hand(Chemistry::Lfp, Begins::NotSaid);
    let left = nothing.left();
    assert_eq!(nothing.draw_known(), KnownAs::Assumed);
    assert_eq!(nothing.volts_known(), KnownAs::Assumed);
    assert!(left.between.0 < 0.25 && left.between.1 > 0.95, "{left:?}");
    let logged = by_hand(Chemistry::Lfp, Begins::Logged { charge: 0.55, unsure: 0.08 });
    let left = logged.left();
    assert!((left.charge - 0.55).abs() < 0.02, "{left:?}");
    assert!((left.between.1 - left.between.0 - 0.205).abs() < 0.04, "{left:?}");
    // A meter at 25 % and the volts of such a pack under load agree: that is what it has, and nothing is asked.
    let mut low = by_hand(Chemistry::Lfp, Begins::NotSaid);
    low.read(&ByHand {
        volts: Some(Volts::of(24.8)),
        current: Some(Amps::of(20.0)),
        ..reads(0.25, Gauge::Bms)
    });
    let left = low.left();
    assert_eq!((low.draw_known(), low.volts_known()), (KnownAs::Typed, KnownAs::Typed));
    assert!(low.question().is_none() && (0.15..=0.30).contains(&left.charge), "{left:?}");
    assert_eq!(low.known_by(), KnownBy::Read(Clue::Volts));
}

/// A start called full and a meter at 25 % are not averaged: one question, the lower until it is answered, and each answer counts.
#[test]
fn of_two_that_clash_the_lower_counts_until_somebody_says_which_is_right() {
    let mut trip = by_hand(Chemistry::Lfp, Begins::Full);
    hear(&mut trip, 600, &Told::default());
    let counted = trip.left().charge;
    trip.read(&reads(0.25, Gauge::Unknown));
    let asked = trip.question().expect("both clash");
    assert_eq!((asked.lower.0, asked.higher.0), (Clue::Percent, Clue::Count));
    assert!((asked.lower.1 - 0.25).abs() < 0.01 && (asked.higher.1 - counted).abs() < 0.03);
    let left = trip.left();
    assert!((left.charge - 0.25).abs() < 0.03 && left.between.1 > 0.85, "{left:?}");
    // The way home is driven on the lower one, too.
    let home = |trip: &Trip| trip.now().home.unwrap().rows[0].arrives;
    let before = by_hand(Chemistry::Lfp, Begins::Full);
    let mut far = before.clone();
    for t in [&mut trip, &mut far] {
        t.read(&ByHand { far: Some(Metres::of(9000.0)), ..ByHand::default() });
    }
    assert!(home(&trip) < 0.1 && home(&far) > 0.9, "{} {}", home(&trip), home(&far));

    let mut meter = trip.clone();
    meter.answer(Some(Clue::Percent));
    let left = meter.left();
    assert!(
        meter.question().is_none() && (left.charge - 0.25).abs() < 0.03 && left.between.1 < 0.5
    );
    let mut count = trip.clone();
    count.answer(Some(Clue::Count));
    let left = count.left();
    assert!(count.question().is_none() && (left.charge - counted).abs() < 0.03, "{left:?}");
    // A meter that was called wrong is not asked about again.
    count.read(&reads(0.22, Gauge::Unknown));
    assert!(count.question().is_none() && (count.left().charge - counted).abs() < 0.03);
    let mut unsure = trip.clone();
    unsure.answer(None);
    assert!(unsure.question().is_some_and(|q| q.unsure));
    assert!((unsure.left().charge - 0.25).abs() < 0.03 && unsure.left().between.1 > 0.85);
    // Two meters that always differ are asked about once.
    hear(&mut unsure, 600, &Told::default());
    unsure.read(&reads(0.23, Gauge::Unknown));
    assert!(unsure.question().is_some_and(|q| q.unsure), "{:?}", unsure.question());
    // What was mistyped is mended by typing it again.
    let mut typo = trip;
    typo.read(&reads(0.95, Gauge::Unknown));
    assert!(typo.question().is_none() && typo.left().charge > 0.85, "{:?}", typo.left());
}

/// A 12 V pack of lithium at 9.1 V under a quarter of its hour rate is about to shut off: an alarm at once, whatever was said.
#[test]
fn a_pack_that_sinks_under_its_load_is_an_alarm_at_once() {
    let mut plan = plan(CraftKind::VHull, Chemistry::Lfp);
    plan.rig.motor.system_voltage = Volts::of(12.0);
    plan.packs[0].series = 1;
    let mut trip = Trip::begin(setup(plan, false)).unwrap();
    let sinks =
        ByHand { volts: Some(Volts::of(9.1)), current: Some(Amps::of(25.0)), ..ByHand::default() };
    trip.read(&sinks);
    let now = trip.now();
    trip.look(&now);
    assert!(stands(&trip, Warning::SwitchNear), "{:?}", trip.warnings());
    assert!(now.left.charge < 0.05, "{:?}", now.left);
    assert_eq!(trip.question().map(|q| q.lower.0), Some(Clue::Volts));
}

/// A monitor's own percent that clashes with its count is asked about; one that is a little off is not.
#[test]
fn a_monitors_own_percent_is_asked_about_where_it_clashes() {
    for (says, asks) in [(0.93, false), (0.30, true)] {
        let mut trip = trip(Chemistry::Lfp);
        hear(&mut trip, 300, &Told { meter: Some(says), ..told(26.4, 10.0) });
        assert_eq!(trip.question().is_some(), asks, "{says}");
        let likely = if asks { 0.30 } else { 0.98 };
        assert!((trip.left().charge - likely).abs() < 0.04, "{says}: {:?}", trip.left());
    }
}
