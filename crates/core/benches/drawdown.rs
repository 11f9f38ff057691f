//! Speed of the discharge core, as ratios within one run: `cargo bench -p lake-hour-core`.
//!
//! The days are of twelve hours in forty stretches. Goals on one core, for 10,000 packs: 10 ms at steady
//! currents, 50 ms with the motor law, on a machine where one exponential and one inverse hyperbolic
//! sine take 15.5 ns together: so 1.6 and 8 times those two for each stretch. At steady currents at
//! least 500 times as fast as stepping through the same days second by second. Linear in packs and in
//! stretches: ten times the work at most eleven times the time. A shelf of 1,000 models in every wiring up to
//! 8 x 4 that the voltage allows, against forty stretches, is judged to an outcome in 150 ms.
#![allow(clippy::print_stdout)]

use lake_hour_core::drawdown::law::CellParameters;
use lake_hour_core::drawdown::{Bank, Demand, Guard, Leg, UnitLaw, run};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::{Amps, Hours, Volts};
use std::hint::black_box;
use std::time::Instant;

/// Seconds of the best of some runs: the least disturbed one.
fn best_of(times: usize, mut work: impl FnMut()) -> f64 {
    (0..times)
        .map(|_| {
            let start = Instant::now();
            work();
            start.elapsed().as_secs_f64()
        })
        .fold(f64::INFINITY, f64::min)
}

fn packs(count: usize) -> Vec<Bank> {
    (0..count)
        .map(|n| {
            let chemistry = [Chemistry::Agm, Chemistry::Lfp, Chemistry::Flooded][n % 3];
            let cells = if chemistry.is_lead() { 6 } else { 4 };
            let q20 = 80.0 + (n % 97) as f64;
            Bank::uniform(UnitLaw::new(CellParameters::typical(chemistry), cells, q20), 2, 1)
        })
        .collect()
}

fn day(stretches: usize, motor: bool) -> Vec<Leg> {
    (0..stretches)
        .map(|n| {
            let amps = Amps::of([9.0, 3.0, 0.0, 5.5][n % 4] * 40.0 / stretches as f64);
            let demand =
                if motor { Demand::setting(amps, Volts::of(24.0)) } else { Demand::current(amps) };
            Leg::rated(Hours::of(12.0 / 40.0), demand)
        })
        .collect()
}

fn all(packs: &[Bank], day: &[Leg]) -> f64 {
    packs.iter().map(|p| run(black_box(p), day, &Guard::NONE, |_| {}).charge_left).sum()
}

/// The same physics second by second: the plain way.
fn stepped(bank: &Bank, day: &[Leg]) -> f64 {
    let mut state = bank.full();
    for leg in day {
        let mut volts = bank.volts(&state, 0.0);
        for _ in 0..(leg.hours.value() * 3600.0) as u32 {
            let amps = leg.demand.amps(volts.max(bank.least_volts()));
            volts = bank.volts(&state, amps);
            if amps > 0.0 && bank.margin(&state, amps) <= 0.0 {
                return bank.charge_share(&state);
            }
            state = bank.draw(&state, amps, 1.0 / 3600.0);
        }
    }
    bank.charge_share(&state)
}

/// Nanoseconds of one exponential and one inverse hyperbolic sine on this machine.
fn yardstick() -> f64 {
    let count = 4_000_000;
    let time = best_of(5, || {
        let mut sum = 0.0;
        for n in 0..count {
            let x = black_box(0.5 + f64::from(n & 1023) * 1e-3);
            sum += (-x).exp() + x.asinh();
        }
        black_box(sum);
    });
    time * 1e9 / f64::from(count)
}

/// A Board of twenty lanes, bands and workings included: the whole answer's computation.
fn board() {
    use lake_hour_core::day::{Day, Duty};
    use lake_hour_core::house::HouseRules;
    use lake_hour_core::pack::Pack;
    use lake_hour_core::plan::Plan;
    use lake_hour_core::rig::{CraftKind, Rig};
    use lake_hour_core::shelf::{Battery, Rating};
    use lake_hour_core::units::{AmpHours, Hours, Watts};
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(50.0));
    let mut day = Day::starting_at(420);
    for (n, watts) in [480.0, 165.0, 360.0, 200.0, 150.0, 170.0, 260.0, 560.0].iter().enumerate() {
        day = day.then(format!("s{n}"), Hours::of(0.9), Duty::Power(Watts::of(*watts)));
    }
    let pack = |n: usize| {
        let chemistry = [Chemistry::Agm, Chemistry::Lfp, Chemistry::Flooded][n % 3];
        let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
        let ah = AmpHours::of(90.0 + n as f64);
        let rating = Rating::Capacity { ah, over: Hours::of(20.0) };
        Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), 2, 1)
    };
    let packs: Vec<Pack> = (0..20).map(pack).collect();
    let plan = Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs,
        wants: Vec::new(),
        build: Default::default(),
    };
    let time = best_of(20, || {
        black_box(plan.evaluate().map(|all| all.len())).unwrap_or_default();
    });
    println!("a board of 20 lanes, 8 stretches at a power, with bands: {:.1} ms", time * 1e3);
}

/// Every wiring of a shelf that suits the system's voltage, judged to an outcome: models fitted, days laid
/// out for each, packs run.
fn shelf() {
    use lake_hour_core::day::{Day, Duty};
    use lake_hour_core::house::HouseRules;
    use lake_hour_core::pack::Pack;
    use lake_hour_core::rig::{CraftKind, Rig};
    use lake_hour_core::shelf::{Battery, Rating};
    use lake_hour_core::units::{AmpHours, Celsius, Hours, Kilograms, Watts};
    use lake_hour_core::verdict::{Judge, Outcome};
    let mut rig = Rig::new("barge", CraftKind::VHull, Volts::of(48.0));
    rig.motor.max_current = Some(Amps::of(120.0));
    let mut day = Day::starting_at(420);
    // Kept warm, used in the cold: each weight cools in its own time.
    (day.battery_start, day.ambient) = (Some(Celsius::of(20.0)), Some(Celsius::of(8.0)));
    for n in 0..40_usize {
        let watts = Watts::of([480.0, 165.0, 360.0, 200.0][n % 4]);
        day = day.then(format!("s{n}"), Hours::of(0.2), Duty::Power(watts));
    }
    let model = |n: usize| {
        let chemistry = [Chemistry::Agm, Chemistry::Lfp, Chemistry::Flooded][n % 3];
        let unit = [6.0, 8.0, 12.0, 24.0, 36.0, 48.0][n / 3 % 6];
        let volts = if chemistry.is_lead() { unit } else { unit / 12.0 * 12.8 };
        let ah = |share: f64| AmpHours::of((60.0 + (n % 211) as f64) * share);
        let headline = Rating::Capacity { ah: ah(1.0), over: Hours::of(20.0) };
        let mut battery = Battery::new("b", chemistry, Volts::of(volts), headline);
        if n.is_multiple_of(2) {
            battery.ratings.push(Rating::Capacity { ah: ah(0.85), over: Hours::of(5.0) });
        }
        battery.mass = Some(Kilograms::of(9.0 + (n % 37) as f64));
        battery
    };
    let models: Vec<Battery> = (0..1_000).map(model).collect();
    let rules = HouseRules::default();
    let mut judged = (0, 0);
    let time = best_of(5, || {
        judged = (0, 0);
        let Ok(judge) = Judge::new(&rig, &day, &rules) else { return };
        for battery in &models {
            let Ok(model) = judge.model(battery) else { continue };
            let mut pack = Pack::of(battery.clone(), 1, 1);
            for (series, parallel) in (1..=8).flat_map(|s| (1..=4).map(move |p| (s, p))) {
                (pack.series, pack.parallel) = (series, parallel);
                let outcome = judge.outcome(&pack, &model).outcome;
                judged.0 += usize::from(outcome != Outcome::SetAside);
                judged.1 += usize::from(outcome == Outcome::Home);
            }
        }
        black_box(judged);
    });
    let (packs, home) = judged;
    println!(
        "a shelf of 1,000 models: {packs} packs, {} stretches judged in {:.0} ms (goal 100), {home} get home",
        packs * day.stretches.len(),
        time * 1e3
    );
    propose(rig, &day, models);
}

/// The same shelf with prices and sizes, on a rig with bays and a charger: what is proposed of it, with room, charger,
/// what a dead unit leaves, and money.
fn propose(
    mut rig: lake_hour_core::rig::Rig,
    day: &lake_hour_core::day::Day,
    mut models: Vec<lake_hour_core::shelf::Battery>,
) {
    use lake_hour_core::house::HouseRules;
    use lake_hour_core::plan::Plan;
    use lake_hour_core::rig::{Bay, Charger, Supply, Whereabouts};
    use lake_hour_core::shelf::Size;
    use lake_hour_core::units::{Millimetres, Money};
    use lake_hour_core::verdict::Judge;
    let mm = Millimetres::of;
    let (length, width, height) = (mm(1400.0), mm(500.0), mm(320.0));
    rig.bays = vec![Bay {
        name: "tray".into(),
        whereabouts: Whereabouts::Midship,
        length,
        width,
        height,
        mass_limit: None,
        sealed: false,
        upright_only: false,
        layers: 1,
        position: 0.5,
    }];
    rig.chargers = vec![Charger {
        name: "c".into(),
        supply: Supply::Mains,
        banks: 4,
        bank_voltage: Volts::of(12.0),
        current: Amps::of(10.0),
        absorption: None,
        profiles: Vec::new(),
        hours: None,
    }];
    for (n, battery) in models.iter_mut().enumerate() {
        battery.price = Some(Money::of(100.0 + n as f64));
        let side = |most: f64| mm(most - (n % 53) as f64);
        battery.size = Some(Size { length: side(330.0), width: side(180.0), height: side(280.0) });
    }
    let plan = Plan {
        currency: "USD".into(),
        rig: rig.clone(),
        day: day.clone(),
        rules: HouseRules::default(),
        packs: Vec::new(),
        wants: Vec::new(),
        build: Default::default(),
    };
    let mut found = (0, 0);
    let time = best_of(5, || {
        found = (0, 0);
        let Ok(judge) = Judge::new(&rig, day, &HouseRules::default()) else { return };
        for battery in &models {
            let all = judge.proposals(&plan, battery);
            found.0 += all.len();
            found.1 += all.iter().filter(|p| p.hurdle.is_none()).count();
        }
        black_box(found);
    });
    let (packs, home) = found;
    println!(
        "proposals of 1,000 models: {packs} packs in {:.0} ms (goal 150), {home} get home",
        time * 1e3
    );
}

/// The circuit of eight in series, two side by side, each unit on the charger: laid, sized, checked.
fn wiring() {
    use lake_hour_core::pack::Pack;
    use lake_hour_core::rig::{CraftKind, Rig};
    use lake_hour_core::shelf::{Battery, Rating};
    use lake_hour_core::units::{AmpHours, Hours};
    use lake_hour_core::wiring::cable::{Insulation, Place};
    use lake_hour_core::wiring::{Asked, Charging, wire};
    let rating = Rating::Capacity { ah: AmpHours::of(225.0), over: Hours::of(20.0) };
    let battery = Battery::new("b", Chemistry::Flooded, Volts::of(6.0), rating);
    let (rig, pack) =
        (Rig::new("cart", CraftKind::GolfCart, Volts::of(48.0)), Pack::of(battery, 8, 2));
    let asked = |charging| Asked {
        most: Amps::of(150.0),
        today: Amps::of(90.0),
        breaker: true,
        devices: Amps::of(5.0),
        charging,
        insulation: Insulation::C105,
        place: Place::Open,
    };
    for (name, charging) in [
        ("charged whole", Charging::Whole(Amps::of(15.0))),
        ("charged unit by unit", Charging::Each(Amps::of(10.0))),
    ] {
        let asked = asked(charging);
        let time = best_of(50, || {
            let _ = black_box(wire(&rig, &pack, &asked));
        });
        println!("wiring of an 8S2P, {name}: {:.2} ms (goal 1)", time * 1e3);
    }
}

/// Twelve boxes in three bays that hardly hold them, searched.
fn fit() {
    use lake_hour_core::pack::{Pack, stow};
    use lake_hour_core::rig::{Bay, CraftKind, Rig, Whereabouts};
    use lake_hour_core::shelf::{Battery, Rating, Size};
    use lake_hour_core::units::{AmpHours, Hours, Millimetres};
    let mm = Millimetres::of;
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    let mut battery = Battery::new("b", Chemistry::Lfp, Volts::of(12.8), rating);
    battery.size = Some(Size { length: mm(330.0), width: mm(173.0), height: mm(215.0) });
    let mut rig = Rig::new("barge", CraftKind::Pontoon, Volts::of(48.0));
    let bay = |length, width| Bay {
        name: "bay".into(),
        whereabouts: Whereabouts::Midship,
        length: mm(length),
        width: mm(width),
        height: mm(360.0),
        mass_limit: None,
        sealed: false,
        upright_only: false,
        layers: 1,
        position: 0.5,
    };
    rig.bays = vec![bay(560.0, 540.0), bay(620.0, 400.0), bay(740.0, 480.0)];
    let pack = Pack::of(battery, 4, 3);
    let mut placed = 0;
    let time = best_of(20, || {
        placed = black_box(stow::stow(&rig, &pack)).map_or(0, |s| s.placed());
    });
    println!("fit search: {placed} of 12 boxes in 3 bays, {:.2} ms (goal 20)", time * 1e3);
}

fn main() {
    fit();
    wiring();
    board();
    shelf();
    let yard = yardstick();
    println!("one exp and one asinh: {yard:.1} ns");
    let (many, few) = (packs(10_000), packs(1_000));
    let stretches = 40;
    for (name, motor, goal) in [("steady currents", false, 1.3), ("motor law", true, 5.5)] {
        let legs = day(stretches, motor);
        let time = best_of(7, || {
            black_box(all(&many, &legs));
        });
        let fewer = best_of(15, || {
            black_box(all(&few, &legs));
        });
        let long = day(stretches * 10, motor);
        let longer = best_of(5, || {
            black_box(all(&few, &long));
        });
        let sample = &many[..20];
        let plain = best_of(3, || {
            black_box(sample.iter().map(|p| stepped(p, &legs)).sum::<f64>());
        });
        let closed = best_of(50, || {
            black_box(all(sample, &legs));
        });
        let each = time * 1e9 / (many.len() * stretches) as f64;
        println!(
            "{name:15} one core: 10,000 packs x 40 stretches {:6.1} ms, {each:.0} ns a stretch, {:.2} yardsticks (goal {goal})",
            time * 1e3,
            each / yard
        );
        println!(
            "{name:15} 1 s steps take {:.0} times as long; 10 x packs {:.1} x time, 10 x stretches {:.1} x time (goal 11)",
            plain / closed,
            time / fewer,
            longer / fewer
        );
        let half = many.len() / 2;
        let both = best_of(7, || {
            std::thread::scope(|s| {
                s.spawn(|| black_box(all(&many[..half], &legs)));
                black_box(all(&many[half..], &legs));
            });
        });
        println!("{name:15} two cores: {:6.1} ms", both * 1e3);
    }
}
