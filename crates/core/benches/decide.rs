//! Speed of the decision, as multiples of judging its packs once: `cargo bench -p lake-hour-core --bench decide`.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::decide::tipping::{self, Driver};
use lake_hour_core::decide::{Contest, get_home, moments, sure};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{
    AmpHours, Amps, Hours, Kilograms, MetresPerSecond, Money, Volts, Watts,
};
use lake_hour_core::wants::Preset;
use std::hint::black_box;
use std::time::Instant;

/// A skiff in the wind, eight stretches, thirty packs, a weekend angler's wants.
fn plan() -> Plan {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(50.0));
    let mut day = Day::starting_at(420);
    for n in 0..8 {
        let duty = match n % 4 {
            0 => Duty::Speed(MetresPerSecond::of(1.4)),
            1 => Duty::HoldPlace,
            2 => Duty::Off,
            _ => Duty::Power(Watts::of(170.0)),
        };
        day = day.then(format!("s{n}"), Hours::of(0.8), duty);
    }
    day.conditions.wind = MetresPerSecond::of(3.5);
    let pack = |n: usize| {
        let chemistry = [Chemistry::Agm, Chemistry::Lfp, Chemistry::Flooded][n % 3];
        let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
        let ah = AmpHours::of(60.0 + 3.0 * n as f64);
        let rating = Rating::Capacity { ah, over: Hours::of(20.0) };
        let mut battery = Battery::new(format!("b{n}"), chemistry, Volts::of(volts), rating);
        battery.mass = Some(Kilograms::of(10.0 + n as f64));
        battery.price =
            Some(Money::of(if chemistry.is_lead() { 180.0 } else { 420.0 } + 3.0 * n as f64));
        Pack::of(battery, 2, 1)
    };
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs: (0..30).map(pack).collect(),
        wants: Preset::WeekendAngler.wants(),
        build: Default::default(),
    }
}

/// The least time of a few, in ms.
fn best_of(times: u32, mut work: impl FnMut()) -> f64 {
    (0..times)
        .map(|_| {
            let began = Instant::now();
            work();
            began.elapsed().as_secs_f64() * 1e3
        })
        .fold(f64::INFINITY, f64::min)
}

fn main() {
    let plan = plan();
    let contest = Contest::of(&plan).unwrap();
    let once = best_of(20, || drop(black_box(Contest::of(&plan).unwrap().standings())));
    println!(
        "thirty packs judged and ranked once: {once:.2} ms; all else as multiples of it, one core"
    );
    let told = |what: &str, time: f64, goal: &str| {
        println!("{what}: {time:.1} ms, {:.0} times ({goal})", time / once);
    };
    let tips = best_of(3, || {
        for driver in Driver::ALL {
            black_box(tipping::tipping(&contest, driver));
        }
    });
    told("all tipping points", tips, "goal 300 ms on two cores");
    for (across, down) in [(Driver::Wind, Driver::Outings), (Driver::Wind, Driver::Hours)] {
        let map =
            best_of(2, || drop(black_box(tipping::map(&contest, across, down, 60, &|| true))));
        told(&format!("a map of 60 x 60, {} and {}", across.key(), down.key()), map, "goal 1 s");
    }
    let chances = best_of(3, || drop(black_box(sure::chances(&contest))));
    told("the chance of each being best", chances, "no goal");
    let homes = best_of(2, || {
        for pack in &plan.packs {
            black_box((get_home::get_home(&plan, pack), get_home::margin(&plan, pack)));
        }
    });
    told("ways home and margins of all", homes, "no goal");
    let judge = plan.judge().unwrap();
    let times = moments::times(&plan.day, 96);
    let all = best_of(3, || {
        for pack in &plan.packs {
            drop(black_box(moments::moments(&judge, pack, &times)));
        }
    });
    told("every moment of every lane", all, "no goal");
}
