//! Under way: what is left, on invented days whose truth nobody told.

use crate::dice::Dice;
use lake_hour_core::drawdown::fit;
use lake_hour_core::live::{Begins, Heard, Left, Live, Way};
use lake_hour_core::pack::Pack;
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, Metres, MetresPerSecond, Volts};

fn pack(chemistry: Chemistry) -> Pack {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    Pack::of(Battery::new("Reed", chemistry, Volts::of(volts), rating), 2, 1)
}

const ROOM: Celsius = Celsius::of(25.0);
const STEP: f64 = 10.0;

/// A day of six hours by a hidden truth, and what is said of it at each hour: (truth, said).
fn day(chemistry: Chemistry, seed: u64, begins: Begins) -> Vec<(f64, Left)> {
    let mut dice = Dice(seed);
    let pack = pack(chemistry);
    let lead = chemistry.is_lead();
    let z = dice.normal();
    let sd = if lead { 0.07 } else { 0.05 };
    let mut holds = 1.0 + sd * z * if z < 0.0 { 1.5 } else { 1.0 };
    if seed.is_multiple_of(5) {
        holds *= 0.9;
    }
    let law = fit(&pack.battery).unwrap().law.worn(holds, (0.3 * dice.normal()).exp());
    let (zero, bias) = (0.05 * dice.normal(), 0.008 * dice.normal());
    let full = match begins {
        Begins::Full => 1.0 - 0.02 * dice.normal().abs(),
        Begins::NotSaid => 0.7,
        Begins::Logged { charge: share, .. } | Begins::About(share) => {
            (share + 0.10 * dice.normal()).clamp(0.3, 1.0)
        }
    };
    let mut state = law.at(full);
    let mut live = Live::of(&pack, begins, ROOM).unwrap();
    let (mut amps, mut until, mut silent, mut drift) = (8.0, 0.0, 0.0, 0.0);
    let mut said = Vec::new();
    for n in 1..=(6.0 * 3600.0 / STEP) as u32 {
        let at = f64::from(n) * STEP;
        if at > until {
            amps = if dice.flat() < 0.2 { 1.5 } else { 6.0 + 10.0 * dice.flat() };
            until = at + 600.0 + 1800.0 * dice.flat();
        }
        if dice.flat() < STEP / 7200.0 {
            silent = at + 240.0;
        }
        // Model errors last a quarter of an hour.
        drift += -drift * STEP / 900.0 + 0.012 * (2.0 * STEP / 900.0_f64).sqrt() * dice.normal();
        if law.head(state, amps) <= 0.0 {
            amps = 0.0;
        }
        state = law.rest_or_draw(state, amps, STEP / 3600.0);
        let volts =
            2.0 * (law.volts(state, amps) + 6.0 * (bias + drift) * if lead { 1.0 } else { 0.67 });
        let heard = Heard {
            // Once it is empty it is shut off: no volts.
            volts: volts.is_finite().then(|| Volts::of(volts + 0.01 * dice.normal())),
            current: Some(Amps::of(amps + zero + 0.1 * dice.normal())),
        };
        let heard = if at < silent { Heard::default() } else { heard };
        live.heard(Hours::of(STEP / 3600.0), heard);
        if n.is_multiple_of((3600.0 / STEP) as u32) {
            said.push((law.charge_share(state).max(0.0), live.left()));
        }
    }
    said
}

/// Root of the mean square of what was said over the truth, and the share of bands that hold it, at each hour.
fn tried(chemistry: Chemistry, begins: Begins, days: u64) -> Vec<(f64, f64)> {
    let all: Vec<Vec<(f64, Left)>> =
        (0..days).map(|n| day(chemistry, n * 31 + 5, begins)).collect();
    (0..6)
        .map(|hour| {
            let off = all.iter().map(|d| (d[hour].1.charge - d[hour].0).powi(2)).sum::<f64>();
            let holds = all.iter().filter(|d| {
                let (truth, left) = d[hour];
                (left.between.0..=left.between.1).contains(&truth)
            });
            ((off / days as f64).sqrt(), holds.count() as f64 / days as f64)
        })
        .collect()
}

/// After two hours it is within 3 points of lithium's truth and 5 of lead's, and its bands hold it about as often as they say.
#[test]
fn what_is_left_is_known_within_points_and_its_bands_hold_it() {
    for (chemistry, most) in [(Chemistry::Lfp, 0.03), (Chemistry::Agm, 0.05)] {
        let hours = tried(chemistry, Begins::Full, 150);
        for (n, (off, holds)) in hours.iter().enumerate() {
            println!(
                "{chemistry:?} after {} h: {:.1} points, holds {holds:.2}",
                n + 1,
                off * 100.0
            );
        }
        assert!(hours[1].0 < most, "{chemistry:?}: {:?}", hours[1]);
        assert!(hours.iter().all(|(_, holds)| *holds >= 0.75), "{chemistry:?}: {hours:?}");
    }
    // Lithium between its ends cannot mend a start that was a guess; lead's volts do.
    let lithium = tried(Chemistry::Lfp, Begins::About(0.7), 300);
    let lead = tried(Chemistry::Agm, Begins::About(0.7), 300);
    println!("guessed: {lithium:?} {lead:?}");
    assert!(lead[1].0 < 0.07 && lead[1].0 < lithium[1].0, "{lithium:?} {lead:?}");
    assert!(lithium[1].1 >= 0.7 && lead[1].1 >= 0.7);
}

/// The same day gives the same answer; charge is kept; a clock that goes back, or stood for hours, counts nothing.
#[test]
fn the_same_day_gives_the_same_answer_and_an_odd_clock_none() {
    assert_eq!(day(Chemistry::Lfp, 3, Begins::Full), day(Chemistry::Lfp, 3, Begins::Full));
    let pack = pack(Chemistry::Lfp);
    let mut live = Live::of(&pack, Begins::Full, ROOM).unwrap();
    let begun = live.left();
    assert!(begun.charge > 0.97 && begun.between.1 <= 1.0, "{begun:?}");
    let nothing = [
        (-5.0, Heard { volts: None, current: Some(Amps::of(20.0)) }),
        (9000.0, Heard { volts: None, current: Some(Amps::of(20.0)) }),
    ];
    for (seconds, heard) in nothing {
        live.heard(Hours::of(seconds / 3600.0), heard);
    }
    let left = live.left();
    assert!((left.charge - begun.charge).abs() < 1e-3, "{left:?}");
    // An hour at 20 A of 100 Ah, bridged through silence by what flowed before it.
    for n in 0..360 {
        let heard = Heard { volts: None, current: (n % 3 > 0).then(|| Amps::of(20.0)) };
        live.heard(Hours::of(10.0 / 3600.0), heard);
    }
    let after = live.left();
    assert!((begun.charge - after.charge - 0.2).abs() < 0.02, "{after:?}");
    assert!(after.between.0 < after.charge && after.charge < after.between.1);
}

/// How long it lasts goes down with the current, the floor and the time; the chance of it is one where it surely does.
#[test]
fn how_long_it_lasts_answers_to_what_is_drawn() {
    for chemistry in [Chemistry::Lfp, Chemistry::Flooded] {
        let live = Live::of(&pack(chemistry), Begins::Full, ROOM).unwrap();
        let most = Hours::of(100.0);
        let lasts = |amps: f64, floor: f64| live.lasts(Amps::of(amps), floor, most);
        let (likely, [low, high]) = lasts(20.0, 0.2);
        assert!(low < likely && likely < high, "{low} {likely} {high}");
        assert!(lasts(40.0, 0.2).0 < likely && lasts(20.0, 0.5).0 < likely);
        assert!((likely.value() - 0.8 * 100.0 / 20.0).abs() < 0.6, "{chemistry:?}: {likely}");
        assert_eq!(lasts(0.0, 0.2).0, most, "nothing drawn lasts as long as anyone looks");
        let holds = |hours: f64| live.holds(Amps::of(20.0), 0.2, Hours::of(hours));
        assert!((holds(1.0) - 1.0).abs() < 1e-9 && holds(9.0) == 0.0);
        assert!((holds(likely.value()) - 0.5).abs() < 0.2);
        let falls: Vec<f64> = (0..20).map(|n| holds(f64::from(n) * 0.4)).collect();
        assert!(falls.windows(2).all(|w| w[0] >= w[1]), "{falls:?}");
    }
}

fn way(amps: f64, speed: f64, unsure: f64) -> Way {
    let speed_of = MetresPerSecond::of;
    Way { current: Amps::of(amps), speed: speed_of(speed), unsure: speed_of(unsure) }
}

/// Farther, slower, thirstier: less likely. Driven back it does not arrive; turning when it is said is still home, later not.
#[test]
fn home_is_less_likely_the_farther_and_turning_in_time_is_in_time() {
    let live = Live::of(&pack(Chemistry::Lfp), Begins::Full, ROOM).unwrap();
    let home = |km: f64, way: Way| live.arrives(Metres::of(km * 1000.0), way, 0.2);
    assert!((home(0.0, way(20.0, -1.0, 0.2)) - 1.0).abs() < 1e-12, "it is home");
    assert!((home(1.0, way(20.0, 1.5, 0.1)) - 1.0).abs() < 1e-9);
    assert!(home(1.0, way(20.0, -0.5, 0.1)) == 0.0);
    // As likely driven back as forward: no more than every other time.
    assert!(home(1.0, way(20.0, 0.0, 0.3)) < 0.5);
    let far: Vec<f64> = (1..40).map(|km| home(f64::from(km), way(20.0, 1.5, 0.15))).collect();
    assert!(far.windows(2).all(|w| w[0] >= w[1]) && far[38] == 0.0, "{far:?}");
    assert!(home(20.0, way(22.0, 1.5, 0.1)) <= home(20.0, way(20.0, 1.5, 0.1)));

    let (out, ways) = (way(20.0, 1.5, 0.1), [way(40.0, 2.0, 0.1), way(20.0, 1.4, 0.1)]);
    let start = (Metres::of(500.0), out);
    let turn = live.turns_within(start, &ways, 0.2, 0.95).value();
    assert!(turn > 1.0 && turn < 2.2, "half of four hours, less what is unsure: {turn}");
    let sure = |hours: f64| {
        // Driven out that long by what it counts itself.
        let mut later = live.clone();
        for _ in 0..(hours * 360.0) as u32 {
            let heard = Heard { volts: None, current: Some(Amps::of(20.0)) };
            later.heard(Hours::of(10.0 / 3600.0), heard);
        }
        let far = Metres::of(500.0 + 1.5 * hours * 3600.0);
        ways.iter().map(|way| later.arrives(far, *way, 0.2)).fold(0.0, f64::max)
    };
    assert!(sure(turn - 0.02) >= 0.93, "{}", sure(turn - 0.02));
    assert!(sure(turn + 0.4) < 0.9, "{}", sure(turn + 0.4));
    assert_eq!(live.turns_within(start, &[way(20.0, -1.0, 0.0)], 0.2, 0.95), Hours::ZERO);
    assert_eq!(live.turns_within(start, &[], 0.2, 0.95), Hours::ZERO);
}
