//! From a decision to a working craft: the order of work, readings, parts and the card.

use lake_hour_core::build::card::{self, LEVELS, Pace};
use lake_hour_core::build::changes::Also;
use lake_hour_core::build::reading::{MOST_MOVED, Read, Reading};
use lake_hour_core::build::steps::{NotDone, Standing, is_heavy};
use lake_hour_core::build::{
    Build, Caution, Change, ChargerPlace, Job, NotBuilt, OwnPart, PartKept, PartKey, PartState,
    Step, StepKept, StepKey, StepState,
};
use lake_hour_core::day::{Accessory, Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Extras, Pack};
use lake_hour_core::parts::{Group, List};
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{Bay, Charger, CraftKind, Rig, SettingPoint, Supply, Whereabouts};
use lake_hour_core::shelf::{Battery, Chemistry, Rating, Size};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, MetresPerSecond, Millimetres, Money, Newtons, Volts,
    Watts,
};

fn unit(chemistry: Chemistry, volts: f64, ah: f64, kg: f64) -> Battery {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    let name = format!("{} {volts}-{ah}", chemistry.name());
    let mut battery = Battery::new(name, chemistry, Volts::of(volts), rating);
    battery.mass = Some(Kilograms::of(kg));
    battery.price = Some(Money::of(300.0));
    battery.max_continuous = (!chemistry.is_lead()).then(|| Amps::of(ah));
    let (length, width) = (Millimetres::of(330.0), Millimetres::of(173.0));
    battery.size = Some(Size { length, width, height: Millimetres::of(215.0) });
    battery
}

/// A craft that takes so many volts, with a pack aboard or none, and one to be put in, chosen.
fn plan(kind: CraftKind, volts: f64, aboard: Option<Pack>, new: Pack) -> Plan {
    let mut rig = Rig::new("craft", kind, Volts::of(volts));
    rig.motor.max_current = Some(Amps::of(40.0));
    rig.bays.push(Bay {
        name: "Box".into(),
        whereabouts: Whereabouts::Midship,
        length: Millimetres::of(1500.0),
        width: Millimetres::of(1200.0),
        height: Millimetres::of(400.0),
        mass_limit: None,
        sealed: false,
        upright_only: true,
        layers: 1,
        position: 0.5,
    });
    let mut day = Day::starting_at(420)
        .then("Out", Hours::of(0.5), Duty::Current(Amps::of(15.0)))
        .then("Home", Hours::of(0.5), Duty::Current(Amps::of(15.0)));
    day.ambient = Some(Celsius::of(25.0));
    let aboard = aboard.map(|pack| Pack { aboard: true, ..pack });
    let new = Pack { chosen: true, ..new };
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs: aboard.into_iter().chain([new]).collect(),
        wants: Vec::new(),
        build: Build::default(),
    }
}

fn lfp(volts: f64, series: u32, parallel: u32) -> Pack {
    Pack::of(unit(Chemistry::Lfp, volts, 100.0, 11.5 * volts / 12.8), series, parallel)
}

fn lead(chemistry: Chemistry, volts: f64, series: u32, parallel: u32) -> Pack {
    Pack::of(unit(chemistry, volts, 110.0, 30.0), series, parallel)
}

/// Rigs and changes of every kind: boat, cart, kart, motorbike; first fit and all exchanges; one unit and several; charger
/// aboard and carried; devices and none; bays open and closed.
fn all_plans() -> Vec<Plan> {
    use Chemistry::{Agm, Flooded, Gel};
    let kinds = [
        CraftKind::VHull,
        CraftKind::Kayak,
        CraftKind::GolfCart,
        CraftKind::GoKart,
        CraftKind::Motorbike,
    ];
    let olds = [
        None,
        Some(lead(Agm, 12.0, 4, 1)),
        Some(lead(Flooded, 6.0, 8, 1)),
        Some(lfp(51.2, 1, 1)),
        Some(lfp(12.8, 4, 1)),
    ];
    let news = [
        lfp(51.2, 1, 1),
        lfp(12.8, 4, 1),
        lfp(51.2, 1, 2),
        lfp(25.6, 2, 2),
        lead(Flooded, 6.0, 8, 1),
        lead(Gel, 12.0, 4, 2),
    ];
    let mut all = Vec::new();
    for kind in kinds {
        for old in &olds {
            for new in &news {
                for (place, devices, sealed) in [
                    (None, true, true),
                    (Some(ChargerPlace::Carried), false, false),
                    (Some(ChargerPlace::Aboard), true, false),
                ] {
                    let mut plan = plan(kind, 48.0, old.clone(), new.clone());
                    plan.build.charger = place;
                    plan.rig.bays[0].sealed = sealed;
                    if devices {
                        let (name, power) = ("Sonar".to_owned(), Watts::of(18.0));
                        let hours = None;
                        plan.day.accessories.push(Accessory {
                            name,
                            power,
                            hours,
                            on_house: false,
                        });
                    }
                    all.push(plan);
                }
            }
        }
    }
    // 12 V, where nothing is in series, and what stands above 60 V.
    for kind in kinds {
        all.push(plan(kind, 12.0, Some(lead(Agm, 12.0, 1, 1)), lfp(12.8, 1, 1)));
        all.push(plan(kind, 12.0, None, lfp(12.8, 1, 2)));
        all.push(plan(kind, 72.0, Some(lead(Agm, 12.0, 6, 1)), lfp(76.8, 1, 1)));
    }
    all
}

fn job(plan: &Plan) -> Job<'_> {
    Job::of(plan, plan.chosen().unwrap()).unwrap()
}

/// Every order that is made waits for what it must: by its own needs, by rules that are told here once more and apart from
/// them, and by the phases it is gathered under.
///
/// The rules: the ground or negative terminal comes off first and goes on last, batteries are switched off and unplugged
/// before that, eyes are protected before anything is opened, brakes and chocks are set first, vents are open before lead
/// is charged (OSHA 29 CFR 1910.178(g) and 1910.151(c)); the tow switch is set and the interlock proven (ANSI/ILTVA Z130.1,
/// Z135); a fuse goes in when all else is joined, protection stands before power (ABYC E-11). From memory.
#[test]
fn no_order_has_a_step_before_what_it_needs() {
    use StepKey::*;
    let rules: &[(StepKey, &[StepKey])] = &[
        (Guard, &[OldNegative, LiftOut, Neutralize, PlaceUnits, JoinUnits, Water, UnitVolts]),
        (Park, &[OldNegative, LiftOut, PlaceUnits, SwitchOn, Interlock]),
        (Unplug, &[OldNegative, JoinUnits, Positive, NegativeLast]),
        (SwitchOff, &[OldNegative]),
        (OldNegative, &[OldPositive, OldJumpers, OldTaps, LiftOut, PlaceUnits]),
        (OldPositive, &[OldJumpers, LiftOut]),
        (FindTaps, &[OldNegative, OldTaps]),
        (OldJumpers, &[LiftOut]),
        (LiftOut, &[Neutralize, Paint, LayPad, PlaceUnits]),
        (Neutralize, &[Paint, LayPad, PlaceUnits]),
        (CutVent, &[PlaceUnits, FirstCharge]),
        (UnitVolts, &[ChargeEach, PlaceUnits, JoinUnits]),
        (ChargeEach, &[Alike, JoinUnits, JoinStrings]),
        (Alike, &[JoinUnits, JoinStrings]),
        (HoldDown, &[JoinUnits, Positive, NegativeLast, TrialRun]),
        (FuseOut, &[JoinUnits, Positive, NegativeSide, NegativeLast]),
        (StringVolts, &[JoinStrings]),
        (JoinUnits, &[StringVolts, Polarity]),
        (JoinStrings, &[Polarity]),
        (Positive, &[Polarity, NegativeLast]),
        (NegativeSide, &[Polarity]),
        (WireDevices, &[Polarity, NegativeLast]),
        (WireCharger, &[Polarity, NegativeLast, FirstCharge]),
        (Tighten, &[Polarity, NegativeLast]),
        (Polarity, &[NegativeLast, FuseIn, SwitchOn]),
        (NegativeLast, &[FuseIn, FillCapacitors, SwitchOn]),
        (CoverPosts, &[FuseIn, SwitchOn, TrialRun]),
        (FillCapacitors, &[SwitchOn]),
        (SwitchOn, &[Interlock, FirstCharge, TrialRun]),
        (SetProfile, &[Interlock, FirstCharge]),
        (Interlock, &[FirstCharge, TrialRun]),
        (FirstCharge, &[Balance, Water, SetMeter, TrialRun]),
        (SetMeter, &[TrialRun]),
        (SetLimits, &[TrialRun]),
        (TrialRun, &[FeelLugs, AfterFirst, AfterMonth]),
        (FeelLugs, &[AfterFirst]),
        (AfterFirst, &[AfterMonth]),
    ];
    let (mut seen, mut orders) = (std::collections::BTreeSet::new(), 0);
    for plan in all_plans() {
        // Flooded cells go on no two wheels.
        let Ok(job) = Job::of(&plan, plan.chosen().unwrap()) else {
            assert!(plan.rig.craft.kind == CraftKind::Motorbike);
            continue;
        };
        let steps = job.steps();
        let at = |key: StepKey| steps.iter().position(|s| s.key == key);
        for (n, step) in steps.iter().enumerate() {
            assert_eq!(step.number, n + 1);
            assert_eq!(at(step.key), Some(n), "{:?} stands twice", step.key);
            for need in &step.needs {
                assert!(at(*need).is_some_and(|before| before < n), "{:?} {need:?}", step.key);
            }
            seen.insert(step.key);
        }
        for (first, then) in rules {
            for then in *then {
                if let (Some(first_at), Some(then_at)) = (at(*first), at(*then)) {
                    assert!(first_at < then_at, "{first:?} must come before {then:?}");
                }
            }
        }
        // The negative is the last of the wiring that carries the motor's current.
        if let Some(last) = at(NegativeLast) {
            for key in [JoinUnits, JoinStrings, Positive, NegativeSide, WireDevices, WireCharger] {
                assert!(at(key).is_none_or(|n| n < last));
            }
        }
        orders += 1;
    }
    assert!(orders > 300, "{orders}");
    // Every step is part of some order.
    assert_eq!(
        seen.len(),
        StepKey::ALL.len(),
        "{:?}",
        StepKey::ALL.iter().filter(|k| !seen.contains(k)).collect::<Vec<_>>()
    );
}

/// OSHA and makers of vehicles above 60 V DC (ISO 6469-3): nobody is told how to wire them here.
#[test]
fn above_sixty_volts_the_wiring_is_left_to_licensed_help() {
    let plan =
        plan(CraftKind::GoKart, 72.0, Some(lead(Chemistry::Agm, 12.0, 6, 1)), lfp(76.8, 1, 1));
    let job = job(&plan);
    assert!(job.is_dangerous());
    let steps = job.steps();
    let has = |key: StepKey| steps.iter().any(|s| s.key == key);
    assert!(has(StepKey::Licensed) && has(StepKey::Interlock) && has(StepKey::FirstCharge));
    for wrench in [
        StepKey::OldNegative,
        StepKey::LiftOut,
        StepKey::JoinUnits,
        StepKey::Positive,
        StepKey::NegativeLast,
        StepKey::FuseIn,
        StepKey::Tighten,
    ] {
        assert!(!has(wrench), "{wrench:?}");
    }
    // A 48 V set of lead passes 60 V only while it is equalized: 24 cells at 2.58 to 2.70 V.
    let cart = self::plan(CraftKind::GolfCart, 48.0, None, lead(Chemistry::Flooded, 6.0, 8, 1));
    assert!(!self::job(&cart).is_dangerous() && self::job(&cart).is_dangerous_when_equalized());
}

#[test]
fn each_change_takes_what_it_must_and_no_more() {
    use Chemistry::{Agm, Flooded};
    let keys = |plan: &Plan| -> Vec<StepKey> { job(plan).steps().iter().map(|s| s.key).collect() };
    // A kayak's first battery: nothing to take out, one unit, no capacitors.
    let first = plan(CraftKind::Kayak, 12.0, None, lfp(12.8, 1, 1));
    assert_eq!(job(&first).change(), Change::FirstFit);
    let of_first = keys(&first);
    for not in [
        StepKey::OldNegative,
        StepKey::Neutralize,
        StepKey::JoinUnits,
        StepKey::ChargeEach,
        StepKey::FillCapacitors,
        StepKey::Interlock,
        StepKey::WireCharger,
        StepKey::Balance,
    ] {
        assert!(!of_first.contains(&not), "{not:?}");
    }
    // A cart's eight lead units to one: taps, acid, interlock, precharge, the cut-off; nothing to join.
    let cart = plan(CraftKind::UtilityCart, 48.0, Some(lead(Flooded, 6.0, 8, 1)), lfp(51.2, 1, 1));
    assert_eq!(job(&cart).change(), Change::LeadToLithium);
    let of_cart = keys(&cart);
    for wanted in [
        StepKey::FindTaps,
        StepKey::OldTaps,
        StepKey::OldJumpers,
        StepKey::Neutralize,
        StepKey::Interlock,
        StepKey::FillCapacitors,
        StepKey::SetLimits,
    ] {
        assert!(of_cart.contains(&wanted), "{wanted:?}");
    }
    assert!(!of_cart.contains(&StepKey::JoinUnits) && !of_cart.contains(&StepKey::Water));
    // Lead for lead: charged as a set, watered, no lithium's first charge.
    let again =
        plan(CraftKind::UtilityCart, 48.0, Some(lead(Agm, 12.0, 4, 1)), lead(Flooded, 6.0, 8, 1));
    let of_again = keys(&again);
    assert!(of_again.contains(&StepKey::Water) && !of_again.contains(&StepKey::ChargeEach));
    assert!(of_again.contains(&StepKey::Alike) && !of_again.contains(&StepKey::SetLimits));
    // What is aboard already is not taken out for itself.
    let mut same = first;
    same.packs[0].aboard = true;
    assert_eq!(job(&same).change(), Change::FirstFit);
    // What cannot be used is not built, and says by which figure.
    let wrong = plan(CraftKind::Kayak, 12.0, None, lfp(51.2, 1, 1));
    assert!(
        matches!(Job::of(&wrong, &wrong.packs[0]), Err(NotBuilt::SetAside(why)) if !why.is_empty())
    );
}

/// 33 CFR 183.455, ABYC E-11: what no fuse protects is not joined. More amps than any fuse or cable is sold for give no parts
/// and no order of work, and cost what was typed, with the charger that is wanted all the same.
#[test]
fn what_cannot_be_protected_is_not_built() {
    let mut plan = plan(CraftKind::VHull, 12.0, None, lfp(12.8, 1, 1));
    let batteries = plan.packs[0].price_total().unwrap();
    let charger = lake_hour_core::parts::charger(&plan.rules, &plan.rig, &plan.packs[0]).unwrap();
    plan.rig.motor.max_current = Some(Amps::of(900.0));
    assert!(matches!(Job::of(&plan, &plan.packs[0]), Err(NotBuilt::NoCircuit(_))));
    assert_eq!(plan.with_parts_counted().packs[0].price_total(), Some(batteries + charger));
    // Whatever is built has its fuse on the list.
    for plan in all_plans() {
        if let Ok(job) = Job::of(&plan, plan.chosen().unwrap())
            && !job.is_dangerous()
        {
            assert!(List::of(&job).parts.iter().any(|p| p.key == PartKey::MainFuse));
        }
    }
}

/// What cables and fuses hang on is asked for, and where it is only typical, or more than the pack gives, that is said first
/// and the trial run is no faster. A BMS limit under the motor's maximum: common practice, no source.
#[test]
fn the_highest_amps_are_told_or_asked_for() {
    let mut plan = plan(CraftKind::VHull, 12.0, None, lfp(12.8, 1, 1));
    let says = |plan: &Plan, which: fn(&Also) -> bool| job(plan).also().iter().any(which);
    let typical: fn(&Also) -> bool = |a| matches!(a, Also::MotorTypical { .. });
    let below: fn(&Also) -> bool = |a| matches!(a, Also::LimitBelow { .. });
    assert!(!says(&plan, typical) && !says(&plan, below));
    plan.rig.motor.max_is_typical = true;
    assert!(says(&plan, typical) && !says(&plan, below));
    // 130 A of a motor, 100 A of a BMS: the setting to keep to is the Board's own, and draws no more than it gives.
    plan.rig.motor.max_is_typical = false;
    plan.rig.motor.max_current = Some(Amps::of(130.0));
    let also = job(&plan).also();
    let found = also.iter().find_map(|a| match a {
        Also::LimitBelow { limit, most, setting } => Some((*limit, *most, (*setting)?)),
        _ => None,
    });
    let (limit, most, setting) = found.expect("said");
    assert_eq!((limit.value(), most.value()), (100.0, 130.0));
    let board = plan.judge().unwrap().in_full(&plan.packs[0]).drawn.unwrap();
    assert_eq!(board.highest_safe_setting, Some(setting));
    assert!(plan.rig.motor.current_at(setting).unwrap() <= limit && setting < 10.0, "{setting}");
    assert!(job(&plan).most_borne().unwrap() <= limit);
    // A label's thrust tells the amps of such motors, not of this one; nothing tells nothing.
    plan.rig.motor.max_current = None;
    plan.rig.motor.thrust = Some(Newtons::of(200.0));
    assert!(says(&plan, typical));
    plan.rig.motor.thrust = None;
    assert!(matches!(Job::of(&plan, &plan.packs[0]), Err(NotBuilt::NoHighest)));
}

/// On wheels the last round is all that is driven since the last stop, and what it takes is what is gone after it.
#[test]
fn the_last_round_is_up_and_down() {
    let mut plan = plan(CraftKind::GolfCart, 48.0, None, lfp(51.2, 1, 1));
    let drive = |amps: f64| Duty::Current(Amps::of(amps));
    plan.day = Day::starting_at(480)
        .then("Up", Hours::of(0.5), drive(30.0))
        .then("Lunch", Hours::of(1.0), Duty::Off)
        .then("Up again", Hours::of(0.5), drive(30.0))
        .then("Down", Hours::of(0.5), drive(2.0));
    let turn = card::card(&plan, &plan.packs[0]).unwrap().turn.unwrap();
    assert_eq!((turn.home.as_str(), turn.at.value()), ("Up again", 1.5));
    // 16 Ah of 100; a battery gives a little more than its label.
    assert!((0.13..=0.165).contains(&turn.takes), "{}", turn.takes);
    // A boat goes home on its last stretch.
    plan.rig.craft.kind = CraftKind::VHull;
    let turn = card::card(&plan, &plan.packs[0]).unwrap().turn.unwrap();
    assert_eq!(turn.home, "Down");
}

fn said(plan: &mut Plan, kept: StepKept) -> Result<(), NotDone> {
    let build = job(plan).said(kept)?;
    plan.build = build;
    Ok(())
}

/// A value in the middle of what is right.
fn right(reading: Reading) -> f64 {
    match reading {
        Reading::Volts(low, high) => 0.5 * (low + high).value(),
        Reading::Apart(most) => 0.5 * most.value(),
        Reading::Torque(limits) => limits.map_or(9.0, |(low, high)| 0.5 * (low + high)),
        Reading::Moves(most) => 0.5 * most,
        Reading::AmpHours(low, high) => 0.5 * (low + high).value(),
        Reading::Yes => 1.0,
    }
}

fn done(step: &Step) -> StepKept {
    let reading = step.reading.map(right);
    StepKept { state: StepState::Done, reading, ..StepKept::new(step.key) }
}

#[test]
fn the_work_goes_through_from_the_first_step_to_the_last_and_in_no_other_order() {
    for mut plan in all_plans().into_iter().step_by(7) {
        if Job::of(&plan, plan.chosen().unwrap()).is_err() {
            continue;
        }
        let steps = job(&plan).steps();
        let last = steps.last().unwrap();
        assert!(matches!(said(&mut plan, done(last)), Err(NotDone::Waits(_))));
        for step in &steps {
            let now = job(&plan).steps();
            let this = now.iter().find(|s| s.key == step.key).unwrap();
            assert_eq!(this.standing(&now), Standing::Ready, "{:?}", step.key);
            said(&mut plan, done(this)).unwrap();
        }
        let all = job(&plan).steps();
        assert!(all.iter().all(|s| s.standing(&all) == Standing::Done));
    }
}

#[test]
fn a_reading_out_of_its_limits_stops_the_work_there() {
    let old = lead(Chemistry::Agm, 12.0, 2, 1);
    let mut plan = plan(CraftKind::VHull, 24.0, Some(old), lfp(12.8, 2, 1));
    let steps = job(&plan).steps();
    let until = steps.iter().position(|s| s.key == StepKey::Polarity).unwrap();
    for step in &steps[..until] {
        said(&mut plan, done(step)).unwrap();
    }
    let polarity = |value: f64| StepKept {
        state: StepState::Done,
        reading: Some(value),
        ..StepKept::new(StepKey::Polarity)
    };
    let standing = |plan: &Plan, key: StepKey| {
        let all = job(plan).steps();
        all.iter().find(|s| s.key == key).unwrap().standing(&all)
    };
    // One unit instead of two, two chargers' worth too much, leads changed; each is kept, and stops.
    for (volts, read) in [(13.3, Read::Low), (40.2, Read::High), (-26.6, Read::Reversed)] {
        said(&mut plan, polarity(volts)).unwrap();
        assert_eq!(plan.build.step(StepKey::Polarity).unwrap().reading, Some(volts));
        assert_eq!(standing(&plan, StepKey::Polarity), Standing::Stopped(read));
        assert_eq!(standing(&plan, StepKey::NegativeLast), Standing::Waits(StepKey::Polarity));
        let last = StepKept { state: StepState::Done, ..StepKept::new(StepKey::NegativeLast) };
        assert_eq!(said(&mut plan, last), Err(NotDone::Waits(StepKey::Polarity)));
    }
    // It cannot be passed without being read, nor put off; with a right one the work goes on.
    let unread = StepKept { reading: None, ..polarity(0.0) };
    assert_eq!(said(&mut plan, unread), Err(NotDone::Unread));
    let mut off = StepKept { state: StepState::PutOff, ..StepKept::new(StepKey::Polarity) };
    off.reason = "no meter".into();
    assert_eq!(said(&mut plan, off), Err(NotDone::Firm));
    said(&mut plan, polarity(26.5)).unwrap();
    assert_eq!(standing(&plan, StepKey::NegativeLast), Standing::Ready);
    // Others may be put off, with a reason and not without; what is put off holds nothing up.
    let mut off = StepKept { state: StepState::PutOff, ..StepKept::new(StepKey::Recycle) };
    assert_eq!(said(&mut plan, off.clone()), Err(NotDone::NoReason));
    off.reason = "shop closed".into();
    said(&mut plan, off).unwrap();
    assert_eq!(standing(&plan, StepKey::Recycle), Standing::PutOff);
    // Undone again, nothing is left of it.
    let opened = StepKept::new(StepKey::Recycle);
    said(&mut plan, opened).unwrap();
    assert_eq!(plan.build.step(StepKey::Recycle), None);
}

/// Rest volts of FACTS published tables (handbook: flooded 12.73 V full, 12.10 V half; common practice: LFP 4S 13.5 full and
/// 13.1 half): a sound set is let through, one unit too few or too many never is.
#[test]
fn the_limits_of_volts_let_sound_sets_through_and_no_others() {
    for (chemistry, volts, cells_of_12, full, half) in [
        (Chemistry::Flooded, 6.0, 0.5, 12.73, 12.15),
        (Chemistry::Agm, 12.0, 1.0, 12.80, 12.35),
        (Chemistry::Lfp, 12.8, 1.0, 13.50, 13.10),
    ] {
        let series = (48.0_f64 / volts).round() as u32;
        let new = Pack::of(unit(chemistry, volts, 100.0, 20.0), series, 1);
        let plan = plan(CraftKind::GolfCart, 48.0, None, new);
        let reading = job(&plan).reading(StepKey::Polarity).unwrap();
        let set = |rest: f64, units: u32| rest * cells_of_12 * f64::from(units);
        for rest in [full, half] {
            assert_eq!(reading.judge(set(rest, series)), Read::Right, "{chemistry:?} {rest}");
            assert_eq!(reading.judge(-set(rest, series)), Read::Reversed);
        }
        assert_eq!(reading.judge(set(full, series - 1)), Read::Low);
        if chemistry == Chemistry::Lfp || volts == 12.0 {
            assert_eq!(reading.judge(set(full, series + 1)), Read::High);
        }
        // A unit in reverse takes its volts twice.
        assert_eq!(reading.judge(set(full, series - 2)), Read::Low);
    }
    // 33 CFR 183.420: one inch.
    assert_eq!(Reading::Moves(MOST_MOVED).judge(25.0), Read::Right);
    assert_eq!(Reading::Moves(MOST_MOVED).judge(26.0), Read::High);
    // 14.2 to 14.6 V is what chargers for four cells hold (common practice, no source).
    let plan = plan(CraftKind::VHull, 12.0, None, lfp(12.8, 1, 1));
    let Some(Reading::Volts(low, high)) = job(&plan).reading(StepKey::SetProfile) else { panic!() };
    assert!(low.value() <= 14.2 && (high.value() - 14.6).abs() < 1e-9);
    // NIOSH 94-110: 51 lb is the most at best; a 62 lb unit is for two.
    assert!(is_heavy(Kilograms::of(62.0 * 0.4536)) && !is_heavy(Kilograms::of(11.5)));
    let cart = self::plan(
        CraftKind::GolfCart,
        48.0,
        Some(lead(Chemistry::Flooded, 6.0, 8, 1)),
        lfp(51.2, 1, 1),
    );
    let steps = job(&cart).steps();
    let lifts = steps.iter().find(|s| s.key == StepKey::LiftOut).unwrap();
    assert!(
        lifts.cautions.contains(&Caution::Lift) && lifts.cautions.contains(&Caution::LeadHands)
    );
}

#[test]
fn parts_add_up_and_flow_into_what_it_costs_all_in() {
    for mut plan in all_plans().into_iter().step_by(11) {
        if Job::of(&plan, plan.chosen().unwrap()).is_err() {
            continue;
        }
        plan.build.own.push(OwnPart {
            name: "Paint".into(),
            count: 2,
            price: Some(Money::of(7.5)),
            state: PartState::ToBuy,
            note: String::new(),
        });
        let list = List::of(&job(&plan));
        let near = |a: Money, b: f64| assert!((a.value() - b).abs() < 1e-9, "{a:?} {b}");
        let (total, missing) = list.total();
        assert_eq!(missing, 0);
        near(list.left_to_buy().0, total.value());
        // The list with the batteries is what the pack costs all in, to the cent, wherever that is asked for.
        let counted = plan.with_parts_counted();
        near(counted.chosen().unwrap().price_total().unwrap(), total.value());
        let evaluated = plan.evaluate().unwrap().pop().unwrap();
        near(evaluated.price_total.unwrap(), total.value());
        assert_eq!(*plan.with_parts_counted(), *counted.with_parts_counted(), "once is enough");
        // What was typed of "anything else" stands for the list, labour stays; not counted, all is as it was.
        let place = plan.packs.len() - 1;
        let told = Extras {
            labour: Some(Money::of(90.0)),
            other: Some(Money::of(5.0)),
            ..Extras::default()
        };
        plan.packs[place].extras = told;
        let batteries = plan.packs[place].price_of_batteries().unwrap().value();
        near(plan.with_parts_counted().packs[place].price_total().unwrap(), batteries + 95.0);
        plan.build.counted = false;
        assert_eq!(plan.with_parts_counted().packs[place].extras, told);
        // Bought, at hand, another price: conserved.
        plan.build.counted = true;
        let main = list.parts.iter().find(|p| p.key == PartKey::Switch).unwrap();
        let kept = |state, price: Option<f64>| PartKept {
            key: PartKey::Switch,
            state,
            of: main.size.id(PartKey::Switch),
            price: price.map(Money::of),
            note: "shop".into(),
        };
        let was = main.sum().unwrap().value();
        for (state, price, sum, left) in [
            (PartState::Bought, None, was, 0.0),
            (PartState::Have, None, 0.0, 0.0),
            (PartState::ToBuy, Some(99.0), 99.0, 99.0),
        ] {
            let changed =
                Plan { build: plan.build.clone().with_part(kept(state, price)), ..plan.clone() };
            let list = List::of(&job(&changed));
            near(list.total().0, total.value() - was + sum);
            near(list.left_to_buy().0, total.value() - was + left);
        }
    }
}

#[test]
fn ticks_hold_while_they_apply() {
    let old = Some(lead(Chemistry::Agm, 12.0, 2, 1));
    let mut plan = plan(CraftKind::VHull, 24.0, old, lfp(12.8, 2, 1));
    plan.packs.push(lfp(25.6, 1, 1));
    // The meter, the main fuse and the jumper are bought; the old pack is out; the new units are alike.
    for key in [PartKey::Meter, PartKey::MainFuse, PartKey::Jumpers] {
        let list = List::of(&job(&plan));
        let part = list.parts.iter().find(|p| p.key == key).unwrap();
        let (state, of) = (PartState::Bought, part.size.id(key));
        plan.build = plan.build.clone().with_part(PartKept {
            key,
            state,
            of,
            price: None,
            note: "shop".into(),
        });
    }
    for step in job(&plan).steps() {
        said(&mut plan, done(&step)).unwrap();
        if step.key == StepKey::Alike {
            break;
        }
    }
    // Another pack is chosen.
    (plan.packs[1].chosen, plan.packs[2].chosen) = (false, true);
    let (list, steps) = (List::of(&job(&plan)), job(&plan).steps());
    let state = |key: PartKey| list.parts.iter().find(|p| p.key == key).map(|p| p.state);
    assert_eq!(state(PartKey::Meter), Some(PartState::Bought));
    assert_eq!(state(PartKey::Jumpers), None, "one unit has none");
    let kept =
        |key: StepKey| steps.iter().find(|s| s.key == key).map(|s| (s.kept.state, s.was.is_some()));
    assert_eq!(kept(StepKey::LiftOut), Some((StepState::Done, false)));
    assert_eq!(kept(StepKey::Guard), Some((StepState::Done, false)));
    assert_eq!(kept(StepKey::UnitVolts), Some((StepState::Open, true)), "these are other units");
    // And back: nothing was lost.
    (plan.packs[1].chosen, plan.packs[2].chosen) = (true, false);
    let steps = job(&plan).steps();
    assert!(steps.iter().any(|s| s.key == StepKey::Alike && s.kept.state == StepState::Done));
    // A stronger motor asks for another fuse: the one that was bought is not it.
    plan.rig.motor.max_current = Some(Amps::of(140.0));
    let list = List::of(&job(&plan));
    let fuse = list.parts.iter().find(|p| p.key == PartKey::MainFuse).unwrap();
    assert_eq!((fuse.state, fuse.was.is_some()), (PartState::ToBuy, true));
    assert_eq!(fuse.note, "shop");
}

#[test]
fn the_list_names_what_is_easily_forgotten() {
    let mut cart = plan(
        CraftKind::UtilityCart,
        48.0,
        Some(lead(Chemistry::Flooded, 6.0, 8, 1)),
        lfp(51.2, 1, 1),
    );
    let (name, power, hours) = ("Lights".to_owned(), Watts::of(60.0), None);
    cart.day.accessories.push(Accessory { name, power, hours, on_house: false });
    let keys = |plan: &Plan| -> Vec<PartKey> {
        List::of(&job(plan)).parts.iter().map(|p| p.key).collect()
    };
    let of_cart = keys(&cart);
    for key in [
        PartKey::Charger,
        PartKey::Converter,
        PartKey::FuseBlock,
        PartKey::Precharge,
        PartKey::MainFuse,
        PartKey::HoldDowns,
        PartKey::Covers,
        PartKey::TrayPaint,
        PartKey::Meter,
        PartKey::Inlet,
    ] {
        assert!(of_cart.contains(&key), "{key:?}");
    }
    assert!(!of_cart.contains(&PartKey::Jumpers) && !of_cart.contains(&PartKey::MotorPlug));
    // A charger that fits is not bought again.
    cart.rig.chargers.push(Charger {
        name: "Shed".into(),
        supply: Supply::Mains,
        banks: 1,
        bank_voltage: Volts::of(48.0),
        current: Amps::of(15.0),
        absorption: None,
        profiles: vec![Chemistry::Lfp],
        hours: None,
    });
    assert!(!keys(&cart).contains(&PartKey::Charger));
    // A converter has room above what hangs on it; lead in a closed bay has its vent, IEC 62485-2: 151 cm² for 225 Ah.
    let mut vented = plan(
        CraftKind::GolfCart,
        48.0,
        None,
        Pack::of(unit(Chemistry::Flooded, 6.0, 225.0, 28.0), 8, 1),
    );
    vented.rig.bays[0].sealed = true;
    let list = List::of(&job(&vented));
    let vent = list.parts.iter().find(|p| p.key == PartKey::Vent).unwrap();
    let lake_hour_core::parts::Size::Openings(area) = vent.size else { panic!() };
    assert!((area - 151.2).abs() < 0.3, "{area}");
    assert!(list.parts.iter().all(|p| p.count > 0 && p.each.is_some_and(|(m, _)| m.value() > 0.0)));
    assert!(list.parts.iter().any(|p| p.key.group() == Group::Holder));
}

/// The card's figures are those of a day told in full; and, common practice without a source: 100 Ah of LFP at 20 A last 5 h,
/// at 35 A just under 3 h, at 3 A 25 to 33 h, down to empty.
#[test]
fn the_card_tells_what_the_day_would() {
    let mut plan = plan(CraftKind::VHull, 12.0, None, lfp(12.8, 1, 1));
    plan.day.stretches = Day::starting_at(0)
        .then("Out", Hours::of(1.0), Duty::Speed(MetresPerSecond::of(1.0)))
        .then("Home", Hours::of(1.0), Duty::Speed(MetresPerSecond::of(1.0)))
        .stretches;
    let pack = plan.chosen().unwrap().clone();
    let card = card::card(&plan, &pack).unwrap();
    assert_eq!(card.lines.len(), 10);
    for line in &card.lines {
        for (left, percent) in std::iter::zip(&line.left, LEVELS) {
            let mut day = line.pace.day(&plan.day);
            day.start_charge = Some(f64::from(percent) / 100.0);
            let told =
                Plan { day, ..plan.clone() }.evaluate().unwrap().pop().unwrap().drawn.unwrap();
            assert_eq!(left.hours, told.hours_at_this_pace, "{:?} {percent}", line.pace);
            let below = f64::from(percent) / 100.0 <= card.floor;
            assert!(!below || left.hours.unwrap().value() < 1e-9, "{percent}: {:?}", left.hours);
        }
        // Less charge, fewer hours; and no hours from nothing.
        for pair in line.left.windows(2) {
            assert!(pair[0].hours >= pair[1].hours);
        }
        let (Some(speed), Some(hours)) = (line.speed, line.left[0].hours) else { continue };
        let miles = line.left[0].distance.unwrap().value();
        assert!((miles - speed.value() * hours.value() * 3600.0).abs() < 1e-6);
    }
    // Faster is shorter.
    let full: Vec<_> = card.lines.iter().map(|l| l.left[0].hours.unwrap()).collect();
    assert!(full.windows(2).all(|p| p[0] < p[1]), "{full:?}");
    let turn = card.turn.unwrap();
    assert!((turn.turn_at - (turn.takes + card.reserve)).abs() < 1e-12 && turn.takes > 0.0);
    plan.rules = plan.rules.with_floor(Chemistry::Lfp, 0.0);
    for (amps, from, to) in [(20.0, 4.7, 5.2), (35.0, 2.6, 3.0), (3.0, 25.0, 34.5)] {
        plan.rig.motor.max_current = Some(Amps::of(amps));
        // Read at the volts of the pack in the middle of its day.
        let at = Some(Volts::of(13.1));
        let point = SettingPoint { setting: 10.0, current: Amps::of(amps), at };
        plan.rig.motor.settings = vec![point];
        let hours = card::card(&plan, &pack).unwrap().lines[0].left[0].hours.unwrap().value();
        assert!((from..=to).contains(&hours), "{amps} A: {hours} h");
    }
    // Lead tells by its volts under load, which fall with its charge.
    let lead = Pack { chosen: true, ..lead(Chemistry::Agm, 12.0, 1, 1) };
    plan.packs = vec![lead.clone()];
    let card = card::card(&plan, &lead).unwrap();
    assert!(card.by_volts);
    let volts: Vec<f64> =
        card.lines[0].left.iter().filter_map(|l| l.volts).map(Volts::value).collect();
    assert!(volts.len() > 10 && volts.windows(2).all(|p| p[0] > p[1]), "{volts:?}");
}

/// The card of a cart tells of its own rounds: at their speed it goes as far as the Board says that a charge does.
#[test]
fn a_card_on_wheels_goes_as_far_as_the_board_says() {
    let mut cart = plan(CraftKind::GolfCart, 48.0, None, lfp(51.2, 1, 1));
    let speed = MetresPerSecond::of(10.0 * lake_hour_core::units::convert::MS_PER_MPH);
    cart.day = Day::starting_at(480).then("Round", Hours::of(1.0), Duty::Speed(speed));
    (cart.day.stretches[0].grade, cart.day.stretches[0].stops) = (0.02, 8);
    let at = |cart: &lake_hour_core::plan::Plan| {
        let card = card::card(cart, cart.chosen().unwrap()).unwrap();
        let line = card.lines.iter().find(|l| l.pace == Pace::Speed(speed)).unwrap().clone();
        line.left[0].distance.unwrap().value()
    };
    let drawn = cart.evaluate().unwrap().pop().unwrap().drawn.unwrap();
    let board = drawn.hours_at_this_pace.unwrap().value() * speed.value() * 3600.0;
    assert!((at(&cart) / board - 1.0).abs() < 0.01, "{} {board}", at(&cart));
    let mut level = cart.clone();
    (level.day.stretches[0].grade, level.day.stretches[0].stops) = (0.0, 0);
    assert!(at(&level) > at(&cart) * 1.1);
    // The old set is heavier by so much, and what it weighs is taken off once.
    let mut old = lead(Chemistry::Flooded, 6.0, 8, 1);
    old.battery.mass = Some(lake_hour_core::units::Kilograms::of(28.0));
    old.aboard = true;
    cart.packs[0].battery.mass = Some(lake_hour_core::units::Kilograms::of(50.0));
    let mut lighter = cart.clone();
    lighter.packs.push(old);
    let mut typed = cart.clone();
    typed.rig.craft.heavier_by = lake_hour_core::units::Kilograms::of(50.0 - 8.0 * 28.0);
    assert!((at(&lighter) / at(&typed) - 1.0).abs() < 1e-9);
}

#[test]
fn a_cart_has_speeds_on_its_card_and_what_it_cannot_drive_is_not_on_it() {
    let mut cart = plan(CraftKind::GolfCart, 48.0, None, lfp(51.2, 1, 1));
    let card = card::card(&cart, cart.chosen().unwrap()).unwrap();
    assert!(card.lines.iter().all(|l| matches!(l.pace, Pace::Speed(_)) && l.speed.is_some()));
    assert!(card.lines.len() >= 2);
    cart.rig.motor.max_current = Some(Amps::of(6.0));
    let fewer = card::card(&cart, cart.chosen().unwrap()).unwrap();
    assert!(fewer.lines.len() < card.lines.len());
    // Nothing is told of a pack that cannot be used, or where the draw is not known.
    let boat = plan(CraftKind::VHull, 12.0, None, lfp(51.2, 1, 1));
    assert_eq!(card::card(&boat, boat.chosen().unwrap()), None);
}
