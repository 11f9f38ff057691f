//! Packs proposed of a shelf: all of them, each as the verdict itself would tell it, and what would mend those refused.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::pack::limits::VOLTAGE_MATCH;
use lake_hour_core::pack::stow;
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::near::{Mend, mend};
use lake_hour_core::proposals::{Hurdle, MOST_OF_SMALL, MOST_PARALLEL, Proposal};
use lake_hour_core::rig::{Bay, Charger, CraftKind, Rig, Supply, Whereabouts};
use lake_hour_core::shelf::{Battery, Chemistry, Rating, Size};
use lake_hour_core::units::{
    AmpHours, Amps, Hours, Kilograms, MetresPerSecond, Millimetres, Money, Volts, Watts,
};
use lake_hour_core::verdict::{Judge, Outcome};

fn battery(n: usize) -> Battery {
    let chemistry = [Chemistry::Agm, Chemistry::Lfp, Chemistry::Flooded, Chemistry::Gel][n % 4];
    let cells = [3.0, 4.0, 6.0, 12.0, 18.0, 24.0][n / 4 % 6];
    let volts = if chemistry.is_lead() { cells * 2.0 } else { (cells / 1.5_f64).round() * 3.2 };
    let ah = [30.0, 55.0, 100.0, 145.0, 220.0][n / 3 % 5];
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    let mut b = Battery::new(format!("Sedge {n}"), chemistry, Volts::of(volts), rating);
    b.mass = Some(Kilograms::of(ah * volts / if chemistry.is_lead() { 40.0 } else { 110.0 }));
    b.price = Some(Money::of(90.0 + ah * volts * 0.3));
    let mm = |v: f64| Millimetres::of(v);
    let size =
        Size { length: mm(200.0 + ah), width: mm(130.0 + ah / 4.0), height: mm(180.0 + ah / 3.0) };
    b.size = (!n.is_multiple_of(7)).then_some(size);
    b.max_continuous = (!chemistry.is_lead()).then_some(Amps::of(ah * 0.6));
    if n.is_multiple_of(11) {
        b.max_series = Some(2);
    }
    if n.is_multiple_of(13) {
        b.ratings.clear();
    }
    b
}

fn rig() -> Rig {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(50.0));
    rig.motor.also_accepts = vec![Volts::of(12.0)];
    rig.controller_max = Some(Volts::of(32.0));
    rig.battery_mass_limit = Some(Kilograms::of(110.0));
    let bay = |name: &str, [l, w, h]: [f64; 3], sealed| Bay {
        name: name.to_owned(),
        whereabouts: Whereabouts::Bow,
        length: Millimetres::of(l),
        width: Millimetres::of(w),
        height: Millimetres::of(h),
        mass_limit: Some(Kilograms::of(80.0)),
        sealed,
        upright_only: true,
        layers: 1,
        position: 0.2,
    };
    rig.bays = vec![
        bay("Bow box", [560.0, 400.0, 300.0], false),
        bay("Seat", [700.0, 360.0, 290.0], true),
    ];
    rig.chargers = vec![Charger {
        name: "Two-bank".to_owned(),
        supply: Supply::Mains,
        banks: 2,
        bank_voltage: Volts::of(12.0),
        current: Amps::of(8.0),
        absorption: None,
        profiles: vec![Chemistry::Agm, Chemistry::Lfp],
        hours: None,
    }];
    rig
}

fn plan() -> Plan {
    let mut day = Day::starting_at(7 * 60)
        .then("out", Hours::of(0.7), Duty::Current(Amps::of(24.0)))
        .then("hold", Hours::of(2.5), Duty::Power(Watts::of(190.0)))
        .then("drift", Hours::of(0.5), Duty::Off)
        .then("home", Hours::of(0.8), Duty::Power(Watts::of(800.0)));
    day.outings_per_year = 30.0;
    Plan {
        currency: "USD".into(),
        rig: rig(),
        day,
        rules: HouseRules::default(),
        packs: Vec::new(),
        wants: Vec::new(),
        build: lake_hour_core::kept::Build::default(),
    }
}

fn judge(plan: &Plan) -> Judge {
    plan.judge().expect("no settings used")
}

/// Every pack of ninety batteries, with its battery.
fn all(plan: &Plan, judge: &Judge) -> Vec<(Battery, Proposal)> {
    let each = |n| judge.proposals(plan, &battery(n)).into_iter().map(move |p| (battery(n), p));
    (0..90).flat_map(each).collect()
}

/// Against going through every S and P: none that the voltage allows is left out, but for more of what more cannot mend
/// and more than four side by side of what gets home.
#[test]
fn every_way_of_wiring_that_the_voltage_allows_is_proposed() {
    let plan = plan();
    let judge = judge(&plan);
    let mut proposed = 0;
    for n in 0..90 {
        let b = battery(n);
        let all = judge.proposals(&plan, &b);
        let wired: Vec<(u32, u32)> = all.iter().map(|p| (p.series, p.parallel)).collect();
        if b.ratings.is_empty() {
            assert_eq!(all[0].hurdle, Some(Hurdle::Starting));
            continue;
        }
        let suits = |s: u32| {
            [24.0, 12.0]
                .iter()
                .any(|v| VOLTAGE_MATCH.contains(&(b.nominal_voltage.value() * f64::from(s) / v)))
        };
        for s in (1..=64).filter(|s| suits(*s)) {
            let mut home = false;
            for p in (1..=MOST_OF_SMALL).filter(|p| s * p <= 64) {
                if p > MOST_PARALLEL && home {
                    break;
                }
                let found = all.iter().find(|f| (f.series, f.parallel) == (s, p));
                let found = found.unwrap_or_else(|| panic!("{s}S{p}P of {b:?}"));
                let end = !matches!(found.hurdle, None | Some(Hurdle::Bms | Hurdle::Empty));
                home |= found.outcome == Outcome::Home;
                proposed += 1;
                if end {
                    break;
                }
            }
        }
        let none = (1..=64).all(|s| !suits(s));
        assert_eq!(none, all[0].hurdle == Some(Hurdle::Volts), "{b:?} {wired:?}");
        assert!(wired.iter().all(|(s, _)| none || suits(*s)));
    }
    assert!(proposed > 150, "{proposed}");
}

/// A figure has one definition: the list says of each pack what its lane on the Board would.
#[test]
fn a_proposal_says_what_the_verdict_says_of_its_pack() {
    let plan = plan();
    let judge = judge(&plan);
    let (mut home, mut refused) = (0, 0);
    for (b, p) in all(&plan, &judge) {
        let mut pack = p.pack(&plan, &b);
        pack.extras = plan.needs_of(&pack, &judge);
        let told = judge.in_full(&pack);
        let set_aside = matches!(
            p.hurdle,
            Some(h) if !matches!(
                h,
                Hurdle::Bms | Hurdle::Empty | Hurdle::Work | Hurdle::Room | Hurdle::Gasses
            )
        );
        assert_eq!(told.outcome == Outcome::SetAside, set_aside, "{p:?}");
        let Some(drawn) = told.drawn else {
            refused += 1;
            continue;
        };
        assert_eq!(p.outcome, told.outcome, "{p:?}");
        assert_eq!(p.hurdle == Some(Hurdle::Bms), told.outcome == Outcome::Trips);
        assert_eq!(p.hurdle == Some(Hurdle::Empty), told.outcome == Outcome::Stops);
        assert_eq!(p.charge_left, drawn.summary.charge_left);
        assert_eq!((p.price, p.mass), (told.price_total, told.mass));
        assert_eq!(p.hourly, drawn.cost.and_then(|c| c.per_lake_hour));
        assert_eq!(p.charger, drawn.refill.by.is_some());
        let placed = stow::stow(&plan.rig, &pack).map(|s| s.placed() >= pack.units());
        assert_eq!(p.fits, placed, "{p:?}");
        assert!((0.0..=1.0).contains(&p.charge_left) && p.short >= 0.0, "{p:?}");
        home += usize::from(p.hurdle.is_none());
    }
    assert!(home > 20 && refused > 10, "{home} {refused}");
}

/// What is said to let a pack pass does, and no less would.
#[test]
fn what_would_let_a_pack_pass_does() {
    let mut kinds = [0; 4];
    // On a short day more amps are enough; on the long one they would be empty all the same.
    let mut short = plan();
    for stretch in &mut short.day.stretches {
        stretch.lasts = stretch.lasts * 0.2;
    }
    for plan in [plan(), short] {
        let judge = judge(&plan);
        passes_as_said(&plan, &judge, &mut kinds);
    }
    assert!(kinds[..3].iter().all(|n| *n > 0), "{kinds:?}");
}

fn passes_as_said(plan: &Plan, judge: &Judge, kinds: &mut [usize; 4]) {
    for (b, p) in all(plan, judge) {
        let Some(hurdle) = p.hurdle else { continue };
        let pack = p.pack(plan, &b);
        match mend(plan, judge, &pack, hurdle) {
            None => {}
            Some(Mend::Amps { more, limit, .. }) => {
                kinds[0] += 1;
                let with = |amps: Amps| {
                    let mut pack = pack.clone();
                    pack.battery.max_continuous = Some(amps / f64::from(pack.parallel));
                    judge.in_full(&pack).outcome
                };
                assert_ne!(with((limit + more) * 1.03), Outcome::Trips, "{p:?} {more} {limit}");
                assert_eq!(with((limit + more) * 0.9), Outcome::Trips, "{p:?} {more} {limit}");
            }
            Some(Mend::Bay { bay, way, by }) => {
                kinds[1] += 1;
                let fits = |by: f64| {
                    let mut rig = plan.rig.clone();
                    let bay = rig.bays.iter_mut().find(|one| one.name == bay).expect("a bay");
                    let side = match way {
                        "longer" => &mut bay.length,
                        "wider" => &mut bay.width,
                        _ => &mut bay.height,
                    };
                    *side += Millimetres::of(by);
                    stow::stow(&rig, &pack).is_some_and(|s| s.placed() >= pack.units())
                };
                assert!(fits(by) && !fits(by - 1.0), "{p:?} {way} {by}");
            }
            Some(Mend::Carry { what, by }) => {
                kinds[2] += 1;
                assert!(by > Kilograms::ZERO);
                if what == "the craft" {
                    let mut rig = plan.rig.clone();
                    rig.battery_mass_limit = rig.battery_mass_limit.map(|l| l + by);
                    let aside = lake_hour_core::pack::limits::set_aside(&pack, &rig);
                    assert!(aside.is_empty(), "{aside:?}");
                }
            }
            Some(Mend::SlowerHome) => kinds[3] += 1,
        }
    }
}

/// Common practice, no source: flooded batteries never go on two wheels, and a maker's "at most two in series" is kept.
#[test]
fn two_wheels_take_no_flooded_battery_and_a_label_is_kept() {
    let mut plan = plan();
    plan.rig.craft.kind = CraftKind::Motorbike;
    let bike = judge(&plan);
    let flooded = bike.proposals(&plan, &battery(6));
    assert_eq!(battery(6).chemistry, Chemistry::Flooded);
    assert!(flooded.iter().all(|p| p.hurdle == Some(Hurdle::Spills)), "{flooded:?}");
    plan.rig.craft.kind = CraftKind::VHull;
    let boat = judge(&plan);
    assert!(boat.proposals(&plan, &battery(6)).iter().all(|p| p.hurdle != Some(Hurdle::Spills)));
    let mut six = battery(0);
    (six.nominal_voltage, six.chemistry, six.max_series) =
        (Volts::of(6.0), Chemistry::Agm, Some(2));
    six.ratings = battery(1).ratings;
    let by_series = |s: u32| {
        boat.proposals(&plan, &six).into_iter().find(|p| p.series == s).expect("it").hurdle
    };
    assert_ne!(by_series(2), Some(Hurdle::Label));
    assert_eq!(by_series(4), Some(Hurdle::Label));
    let pack = Pack::of(six, 4, 1);
    let said = lake_hour_core::pack::limits::set_aside(&pack, &plan.rig)[0]
        .sentence(lake_hour_core::units::system::System::Us);
    assert_eq!(said, "has 4 in series, its maker allows at most 2");
}

fn cart() -> Plan {
    let mut plan = plan();
    plan.rig = Rig::new("cart", CraftKind::UtilityCart, Volts::of(48.0));
    plan.rig.craft.loaded_mass = Some(Kilograms::of(500.0));
    plan.rig.craft.windage = Some(1.4);
    plan.rig.motor.max_current = Some(Amps::of(200.0));
    plan.day = Day::starting_at(420).then("loop", Hours::of(1.0), Duty::Power(Watts::of(900.0)));
    plan
}

/// Road-load arithmetic, worked for 500 kg, Cd A 1.4 m²: 10 % at 10 mph takes 344 Wh a mile at an efficiency of 0.75,
/// 3.44 kW, so 3.69 kW at the 0.70 used here; level asphalt at 15 mph 995 W and 1.07 kW. Getting 500 kg from rest to 15
/// mph takes 11.2 kJ of the battery a second over two seconds at η 1: m v²/t.
#[test]
fn a_power_holds_the_speed_that_the_road_takes_it_for() {
    use lake_hour_core::proposals::power::{FASTEST, held, sprint};
    use lake_hour_core::units::convert::MS_PER_MPH;
    let plan = cart();
    for (rolling, grade, watts, mph) in [(0.015, 0.10, 3_686.0, 10.0), (0.015, 0.0, 1_066.0, 15.0)]
    {
        let v = held(&plan.rig.craft, rolling, grade, Watts::of(watts));
        assert!(
            (v.value() / MS_PER_MPH / mph - 1.0).abs() < 0.015,
            "{mph}: {}",
            v.value() / MS_PER_MPH
        );
    }
    assert_eq!(held(&plan.rig.craft, 0.015, 0.0, Watts::of(1e6)), FASTEST);
    assert!(held(&plan.rig.craft, 0.015, 0.35, Watts::ZERO).value() < 1e-6);
    let pack = Pack::of(battery(0), 1, 1);
    let v = MetresPerSecond::of(15.0 * MS_PER_MPH);
    let asked = |seconds| sprint(&plan, &pack, v, seconds).value();
    // Twice as long asks half the push; what the road takes stays.
    let road = 2.0 * asked(8.0) - asked(4.0);
    assert!((asked(4.0) - road - 500.0 * 1.12 * v.value() * v.value() / 4.0 / 0.70).abs() < 1.0);
    assert!((900.0..1_200.0).contains(&road), "{road}");
}

/// Common practice, no source: lead sags on the hill near its floor, lithium hardly does; a BMS of 100 A gives half of what
/// a motor of 200 A could take.
#[test]
fn lead_sags_on_the_hill_and_a_bms_limits_lithium() {
    use lake_hour_core::proposals::power::{HeldBy, cranking, on_a_hill};
    let plan = cart();
    let rating = Rating::Capacity { ah: AmpHours::of(105.0), over: Hours::of(20.0) };
    let lead = Pack::of(Battery::new("Fen", Chemistry::Agm, Volts::of(12.0), rating), 4, 1);
    let mut lfp = Pack::of(Battery::new("Tern", Chemistry::Lfp, Volts::of(51.2), rating), 1, 1);
    lfp.battery.max_continuous = Some(Amps::of(200.0));
    let at = |pack: &Pack, share| on_a_hill(&plan, pack, 0.10, share).expect("all is told");
    let (fresh, _) = at(&lead, 1.0);
    let (low, _) = at(&lead, 0.3);
    let ((full, of), (near, _)) = (at(&lfp, 1.0), at(&lfp, 0.2));
    assert!(low / fresh < 0.93, "{low} {fresh}");
    assert!(near / full > 0.95, "{near} {full}");
    assert_eq!(of.held_by, HeldBy::Motor);
    lfp.battery.max_continuous = Some(Amps::of(100.0));
    let (slower, half) = at(&lfp, 1.0);
    assert_eq!((half.held_by, half.amps), (HeldBy::Label, Amps::of(100.0)));
    assert!(slower < full && half.watts / of.watts < 0.55);
    // A hill is never held faster for being steeper, nor with less charge.
    let mut last = (f64::INFINITY, f64::INFINITY);
    for step in 0..=10_u32 {
        let grade = at_grade(&plan, &lead, f64::from(step) * 0.03);
        let charge = at(&lead, 1.0 - f64::from(step) * 0.08).0.value();
        assert!(grade <= last.0 + 1e-9 && charge <= last.1 + 1e-9, "{step}");
        last = (grade, charge);
    }
    // SAE J537: cranking amps at 1.2 V a cell; power, and no ampere-hours.
    let mut starting = lead.clone();
    assert_eq!(cranking(&starting), None);
    starting.battery.cranking = Some(Amps::of(650.0));
    assert!((cranking(&starting).expect("told").value() - 650.0 * 7.2 * 4.0).abs() < 1e-6);
}

fn at_grade(plan: &Plan, pack: &Pack, grade: f64) -> f64 {
    lake_hour_core::proposals::power::on_a_hill(plan, pack, grade, 1.0).expect("told").0.value()
}
