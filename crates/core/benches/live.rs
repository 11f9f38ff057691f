//! Speed under way, in one run on one core: `cargo bench -p lake-hour-core --bench live`.
//!
//! Goals: a second heard under 50 us; the way home told in less than the four seconds between two looks, on the slowest law; a day
//! of twelve hours at a second each counted again in less than a second or two where the program was begun anew.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::live::{Begins, Heard, Place, Setup, Told, Trip, WayBack};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Celsius, Hours, MetresPerSecond, Volts};
use std::hint::black_box;
use std::time::Instant;

fn trip(chemistry: Chemistry) -> Trip {
    let mut rig = Rig::new("Reed", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(46.0));
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rating = Rating::Capacity { ah: AmpHours::of(200.0), over: Hours::of(20.0) };
    let pack = Pack::of(Battery::new("Reed", chemistry, Volts::of(volts), rating), 2, 1);
    let day = Day::starting_at(420).then("Out", Hours::of(6.0), Duty::Setting(4.0)).then(
        "Home",
        Hours::of(6.0),
        Duty::Setting(5.0),
    );
    let plan = Plan {
        currency: "USD".to_owned(),
        rig,
        day,
        rules: HouseRules::default(),
        packs: vec![pack],
        wants: Vec::new(),
        build: Default::default(),
    };
    let (begins, warm) = (Begins::Full, Celsius::of(20.0));
    let (launch, back, sensed) = (None, WayBack::Straight, true);
    Trip::begin(Setup { plan, begins, warm, launch, back, sensed }).unwrap()
}

fn main() {
    for chemistry in [Chemistry::Lfp, Chemistry::Agm] {
        let mut trip = trip(chemistry);
        let second = Hours::of(1.0 / 3600.0);
        let begun = Instant::now();
        for n in 0..43_200 {
            let amps = 9.0 + f64::from(n % 7);
            let told = Told {
                pack: Heard { volts: Some(Volts::of(25.4)), current: Some(Amps::of(amps)) },
                speed: Some(MetresPerSecond::of(1.1)),
                place: Place::of(44.2 + f64::from(n) * 1e-5, -72.6),
                ..Told::default()
            };
            trip.hear(second, black_box(&told));
        }
        let all = begun.elapsed().as_secs_f64();
        let begun = Instant::now();
        for _ in 0..5 {
            black_box(trip.now());
        }
        let now = begun.elapsed().as_secs_f64() / 5.0;
        println!(
            "{chemistry:?}: a second heard {:.1} us (goal 50), twelve hours again {all:.2} s, the way home {:.0} ms (goal 4000)",
            all / 43_200.0 * 1e6,
            now * 1e3
        );
    }
}
