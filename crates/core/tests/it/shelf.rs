//! The label check and the fit, against published figures and the trade's own cases.

use lake_hour_core::pack::Pack;
use lake_hour_core::pack::stow::{self, Refusal};
use lake_hour_core::rig::{Bay, CraftKind, Rig, Whereabouts};
use lake_hour_core::shelf::{
    Battery, Candidate, Chemistry, CyclePoint, Detail, DoubtKind, Peak, Purpose, Rating, Rest,
    Size, SizeClass, Sureness,
};
use lake_hour_core::units::convert::KG_PER_LB;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Millimetres, Money, Volts, WattHours,
};

fn labelled(chemistry: Chemistry, volts: f64, ah: f64, lb: f64) -> Candidate {
    let over = Hours::of(chemistry.usual_rating_hours());
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over };
    let mut battery = Battery::new("X", chemistry, Volts::of(volts), rating);
    battery.mass = Some(Kilograms::of(lb * KG_PER_LB));
    Candidate::of(battery)
}

fn size(length: f64, width: f64, height: f64) -> Size {
    let mm = Millimetres::of;
    Size { length: mm(length), width: mm(width), height: mm(height) }
}

fn kinds(c: &Candidate) -> Vec<DoubtKind> {
    c.doubts(None).iter().map(|d| d.kind).collect()
}

/// Energy densities of ordinary batteries, from datasheets: 48.0, 46.3, 45.0, 38.6, 41.0 and 108.5
/// Wh/kg. None of them is doubted.
#[test]
fn ordinary_labels_are_not_doubted() {
    use Chemistry::{Agm, Flooded, Lfp};
    for (chemistry, volts, ah, lb, wh_per_kg) in [
        (Flooded, 6.0, 225.0, 62.0, 48.0),
        (Flooded, 12.0, 105.0, 60.0, 46.3),
        (Flooded, 12.0, 80.0, 47.0, 45.0),
        (Agm, 12.0, 35.0, 24.0, 38.6),
        (Agm, 12.0, 245.0, 158.0, 41.0),
        (Lfp, 12.8, 100.0, 26.0, 108.5),
    ] {
        let mut c = labelled(chemistry, volts, ah, lb);
        let density = volts * ah / (lb * KG_PER_LB);
        assert!((density - wh_per_kg).abs() < 0.06, "{density}");
        c.battery.printed_energy = Some(WattHours::of(volts * ah));
        c.battery.max_continuous = (chemistry == Lfp).then_some(Amps::of(ah));
        assert_eq!(kinds(&c), [], "{} {ah} Ah", chemistry.name());
    }
}

/// A generic 6 V golf-car datasheet: 250 Ah in 100 h, 225 in 20, 207 in 10, 185 in 5, 447 min at 25 A,
/// 115 min at 75 A. It disagrees with itself by 6 to 9 %, which is no reason to doubt it.
#[test]
fn a_datasheet_that_disagrees_with_itself_by_nine_percent_is_not_doubted() {
    let mut c = labelled(Chemistry::Flooded, 6.0, 225.0, 62.0);
    for (ah, over) in [(250.0, 100.0), (207.0, 10.0), (185.0, 5.0)] {
        c.battery.ratings.push(Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(over) });
    }
    c.battery.ratings.push(Rating::reserve(447.0));
    let at = Amps::of(75.0);
    c.battery.ratings.push(Rating::Runtime { at, lasted: Hours::from_minutes(115.0) });
    c.battery.size = Some(SizeClass::Gc2.size());
    c.battery.size_class = Some(SizeClass::Gc2);
    assert_eq!(kinds(&c), []);
}

/// Every group size with its usual weight and ampere-hours in it (common practice, no source).
#[test]
fn usual_batteries_of_every_size_are_not_doubted() {
    for class in SizeClass::ALL {
        let volts = match class {
            SizeClass::Gc2 | SizeClass::Gc2H => 6.0,
            SizeClass::Gc8 => 8.0,
            _ => 12.0,
        };
        let (low, high) = class.typical_mass(Chemistry::Flooded).expect("lead comes in all");
        let (few, many) = class.typical_lead_ah();
        let mut c = labelled(Chemistry::Flooded, volts, f64::midpoint(few, many), 1.0);
        c.battery.mass = Some((low + high) * 0.5);
        c.battery.size = Some(class.size());
        c.battery.size_class = Some(class);
        assert_eq!(kinds(&c), [], "{}", class.name());
    }
}

/// Faraday's law: 11.99 g of lead, lead dioxide and acid for an ampere-hour of each cell. A 12 V lead
/// battery of 18 Ah in 5 lb would be 95 Wh/kg; its actives alone weigh 2.85 lb. As LFP it is ordinary.
#[test]
fn five_pounds_of_lead_hold_no_eighteen_amp_hours() {
    let actives_lb = 11.99 * 18.0 * 6.0 / 1000.0 / KG_PER_LB;
    assert!((actives_lb - 2.85).abs() < 0.01, "{actives_lb}");
    let lead = labelled(Chemistry::Agm, 12.0, 18.0, 5.0)
        .doubts_in(Say { units: System::Metric, ..Say::plain("USD") }, None);
    assert_eq!((lead[0].kind, lead[0].sure), (DoubtKind::EnergyForWeight, Sureness::CannotBe));
    assert!(lead[0].sentence.contains("is 95 Wh/kg"), "{}", lead[0].sentence);
    assert_eq!(kinds(&labelled(Chemistry::Lfp, 12.8, 18.0, 5.0)), []);
    // "Lead-equivalent": three times what the weight allows.
    let doubts = labelled(Chemistry::Lfp, 12.8, 54.0, 5.0).doubts(None);
    assert!(doubts[0].sentence.contains("lead-equivalent"), "{}", doubts[0].sentence);
}

/// 243 A from 18 Ah is 13.5 times its Ah: impossible without end, ordinary as a cranking figure.
#[test]
fn cranking_amps_and_continuous_amps_are_told_apart() {
    let mut c = labelled(Chemistry::Agm, 12.0, 18.0, 13.5);
    c.battery.cranking = Some(Amps::of(243.0));
    assert_eq!(kinds(&c), []);
    c.battery.cranking = None;
    c.battery.max_continuous = Some(Amps::of(243.0));
    let doubts = c.doubts(None);
    assert_eq!((doubts[0].kind, doubts[0].sure), (DoubtKind::Continuous, Sureness::CannotBe));
    assert!(doubts[0].sentence.contains("cranking figure"), "{}", doubts[0].sentence);
    c.replace(doubts[0].instead.expect("a plausible figure"));
    assert_eq!(c.battery.max_continuous, Some(Amps::of(18.0)));
    assert_eq!(kinds(&c), []);
    assert_eq!(
        c.battery.corrected[0].to_string(),
        "continuous current: the label says 243 A, used here: 18 A"
    );
    assert!(c.restore(Detail::CONTINUOUS) && !c.restore(Detail::CONTINUOUS));
    assert_eq!(c.battery.max_continuous, Some(Amps::of(243.0)));
}

/// 12,000 cycles in 8 years are 4.11 a day, 4,000 are 1.37: laboratory figures, capped at one a day.
#[test]
fn more_cycles_than_days_are_capped() {
    for (cycles, a_day, sure) in
        [(12_000.0, "4.1", Sureness::Hardly), (4_000.0, "1.4", Sureness::Ask)]
    {
        let mut c = labelled(Chemistry::Lfp, 12.8, 100.0, 26.0);
        c.battery.cycles = vec![CyclePoint { depth: 0.5, cycles }];
        c.battery.calendar_years = Some(8.0);
        let doubts = c.doubts(None);
        let doubt = doubts.iter().find(|d| d.kind == DoubtKind::CyclesInYears).expect("doubted");
        assert_eq!(doubt.sure, sure);
        assert!(doubt.sentence.contains(a_day), "{}", doubt.sentence);
        c.replace(doubt.instead.expect("capped"));
        assert!((c.battery.cycles[0].cycles - 2920.0).abs() < 1e-9);
        assert_eq!(kinds(&c), []);
    }
}

/// A label that lies in every way there is gets every doubt it deserves.
#[test]
fn a_wicked_label_gets_every_doubt_it_deserves() {
    let mut wicked = labelled(Chemistry::Lfp, 12.0, 400.0, 22.0);
    wicked.battery.printed_energy = Some(WattHours::of(1280.0));
    wicked.battery.lead_equivalent = Some(AmpHours::of(400.0));
    let b = &mut wicked.battery;
    b.size = Some(size(345.0, 173.0, 240.0));
    b.ratings.push(Rating::reserve(230.0));
    let at = Amps::of(150.0);
    b.ratings.push(Rating::Runtime { at, lasted: Hours::from_minutes(5.0) });
    b.cranking = Some(Amps::of(9000.0));
    b.max_continuous = Some(Amps::of(2000.0));
    b.peak = Some(Peak { current: Amps::of(1000.0), seconds: 5.0 });
    b.cycles = vec![CyclePoint { depth: 0.8, cycles: 20_000.0 }];
    b.calendar_years = Some(8.0);
    b.price = Some(Money::of(90.0));
    wicked.battery.size_class = Some(SizeClass::G31);
    wicked.battery.charge_voltage = Some(Volts::of(15.8));
    wicked.battery.self_discharge = Some(0.0);
    wicked.battery.cold_cutoff = Some(Celsius::of(-10.0));
    wicked.battery.warranty_full = Some(12.0);
    wicked.battery.warranty_total = Some(10.0);
    let rest = Rest { price_per_wh: Some(Money::of(0.25)), kg_per_wh: Some(0.009) };
    let mut got: Vec<DoubtKind> = wicked.doubts(Some(&rest)).iter().map(|d| d.kind).collect();
    got.sort();
    // A starting battery's lack of Ah cannot stand beside an Ah figure.
    let want: Vec<_> = DoubtKind::ALL
        .into_iter()
        .filter(|k| *k != DoubtKind::CrankingOnly && *k != DoubtKind::MadeForStarting)
        .collect();
    assert_eq!(got, want);
    for doubt in wicked.doubts(Some(&rest)) {
        assert!(doubt.sentence.chars().any(|c| c.is_ascii_digit()), "{}", doubt.sentence);
        assert!(doubt.sentence.len() < 260, "{}", doubt.sentence);
    }
    // One that is accepted is not told again.
    wicked.accepted.insert(DoubtKind::Peak);
    assert!(!kinds(&wicked).contains(&DoubtKind::Peak));
    let mut starter = labelled(Chemistry::Flooded, 12.0, 1.0, 40.0);
    starter.battery.ratings.clear();
    starter.battery.cranking = Some(Amps::of(650.0));
    assert_eq!(kinds(&starter), [DoubtKind::CrankingOnly]);
}

/// Voltages, charging and purpose, each on its own: (what is changed, what is doubted, used instead).
#[test]
fn single_lies_are_found_one_by_one() {
    type Lie = fn(&mut Candidate);
    let lies: [(Chemistry, Lie, DoubtKind, Option<f64>); 8] = [
        (
            Chemistry::Lfp,
            |c| c.battery.nominal_voltage = Volts::of(24.0),
            DoubtKind::NominalVoltage,
            Some(25.6),
        ),
        (
            Chemistry::Agm,
            |c| c.battery.nominal_voltage = Volts::of(12.8),
            DoubtKind::NominalVoltage,
            Some(12.0),
        ),
        (
            Chemistry::Gel,
            |c| c.battery.charge_voltage = Some(Volts::of(14.8)),
            DoubtKind::ChargeVoltage,
            Some(14.4),
        ),
        (
            Chemistry::Lfp,
            |c| c.battery.charge_voltage = Some(Volts::of(13.2)),
            DoubtKind::ChargeVoltage,
            None,
        ),
        (
            Chemistry::Agm,
            |c| c.battery.cycles = vec![CyclePoint { depth: 1.0, cycles: 2000.0 }],
            DoubtKind::CyclesForChemistry,
            Some(300.0),
        ),
        (
            Chemistry::Lfp,
            |c| c.battery.printed_energy = Some(WattHours::of(900.0)),
            DoubtKind::EnergySum,
            Some(70.3),
        ),
        (
            Chemistry::Agm,
            |c| {
                c.battery.purpose = Some(Purpose::DeepCycle);
                c.battery.cranking = Some(Amps::of(1200.0));
            },
            DoubtKind::CrankingForCapacity,
            None,
        ),
        (
            Chemistry::Flooded,
            |c| c.battery.ratings.push(Rating::reserve(90.0)),
            DoubtKind::ReserveMinutes,
            Some(58.5),
        ),
    ];
    for (chemistry, lie, kind, instead) in lies {
        let lead = chemistry.is_lead();
        let (volts, lb) = if lead { (12.0, 60.0) } else { (12.8, 26.0) };
        let mut c = labelled(chemistry, volts, if lead { 90.0 } else { 100.0 }, lb);
        lie(&mut c);
        let doubts = c.doubts(None);
        let doubt = doubts.iter().find(|d| d.kind == kind).unwrap_or_else(|| panic!("{kind:?}"));
        let told = doubt.instead.map(|s| s.value);
        match (told, instead) {
            (Some(a), Some(b)) => assert!((a - b).abs() < 0.06 * b, "{kind:?}: {a}"),
            (a, b) => assert_eq!(a, b, "{kind:?}"),
        }
    }
}

fn bay(length: f64, width: f64, height: f64) -> Bay {
    let mm = Millimetres::of;
    Bay {
        name: "Box".to_owned(),
        whereabouts: Whereabouts::Bow,
        length: mm(length),
        width: mm(width),
        height: mm(height),
        mass_limit: None,
        sealed: false,
        upright_only: false,
        layers: 1,
        position: 0.2,
    }
}

fn boxed(chemistry: Chemistry, side: Size) -> Battery {
    let mut b = labelled(chemistry, 12.0, 100.0, 60.0).battery;
    b.size = Some(side);
    b
}

#[test]
fn batteries_go_into_a_bay_or_are_refused_by_the_millimetre() {
    let g31 = boxed(Chemistry::Agm, SizeClass::G31.size());
    // 330 + 2 x 5 along, 2 x 173 + 3 x 5 across, 240 + 20 high: exactly two.
    let exact = stow::in_bay(&g31, &bay(340.0, 361.0, 260.0), 2).expect("sized");
    assert_eq!((exact.most, exact.spots.len(), &exact.refusal), (2, 2, &None));
    let tight = stow::in_bay(&g31, &bay(340.0, 360.0, 260.0), 2).expect("sized");
    assert_eq!(tight.most, 1);
    let says = tight.refusal.expect("refused").sentence(System::Metric);
    assert_eq!(says, "2 need 361 mm with clearance, the bay is 360 mm wide: 1 mm short");
    // One turned round behind the others.
    let turned = stow::in_bay(&g31, &bay(523.0, 361.0, 260.0), 3).expect("sized");
    assert_eq!(turned.spots.len(), 3, "{turned:?}");
    // Low bays: a sealed battery lies down where it may, a flooded one never does.
    let low = bay(400.0, 400.0, 200.0);
    assert_eq!(stow::in_bay(&g31, &low, 1).expect("sized").most, 1);
    let upright = Bay { upright_only: true, ..low.clone() };
    let says = stow::in_bay(&g31, &upright, 1)
        .expect("sized")
        .refusal
        .expect("no")
        .sentence(System::Metric);
    assert!(says.ends_with("200 mm high: 60 mm short, and it must stand upright"), "{says}");
    let flooded = boxed(Chemistry::Flooded, SizeClass::G31.size());
    assert_eq!(stow::in_bay(&flooded, &low, 1).expect("sized").most, 0);
    let closed = Bay { sealed: true, ..bay(900.0, 900.0, 900.0) };
    assert_eq!(stow::in_bay(&flooded, &closed, 1).expect("sized").refusal, Some(Refusal::Gasses));
    // By weight: 27.2 kg each.
    let weak = Bay { mass_limit: Some(Kilograms::of(40.0)), ..bay(900.0, 900.0, 300.0) };
    let weak = stow::in_bay(&g31, &weak, 2).expect("sized");
    assert_eq!(weak.most, 1);
    assert!(weak.refusal.expect("too heavy").sentence(System::Us).contains("2 weigh 120 lb"));
}

#[test]
fn a_pack_is_spread_over_the_bays_only_when_none_takes_it_all() {
    let mut rig = Rig::new("Skiff", CraftKind::VHull, Volts::of(24.0));
    let pack = Pack::of(boxed(Chemistry::Agm, SizeClass::G31.size()), 2, 1);
    assert_eq!(stow::stow(&rig, &pack), None);
    rig.bays = vec![bay(345.0, 190.0, 260.0), bay(345.0, 400.0, 260.0)];
    rig.bays[1].name = "Stern".to_owned();
    assert_eq!(stow::stow(&rig, &pack).expect("bays").held_by(), ["Stern"]);
    let four = Pack { series: 2, parallel: 2, ..pack.clone() };
    let spread = stow::stow(&rig, &four).expect("bays");
    assert_eq!((spread.placed(), spread.held_by()), (3, vec!["Stern", "Box"]));
    let why = spread.refusals();
    let says: Vec<String> =
        why.iter().map(|(bay, r)| format!("{bay}: {}", r.sentence(System::Us))).collect();
    // 350 mm are 13.8 in: US owners see no millimetres.
    assert!(says[1].starts_with("Box: 2 need 13.8 in with clearance"), "{says:?}");
    assert!(!says.concat().contains("mm"), "{says:?}");
}
