//! Each doubt on either side of its line: what is ordinary is left alone, what is beyond it is told. The
//! lines are common practice, no source, where none is named; sources stand with the checks themselves.

use lake_hour_core::shelf::{
    Battery, Build, Candidate, Chemistry, CyclePoint, Detail, DoubtKind, Peak, Purpose, Rating,
    Rest, Size, SizeClass, Sureness, kinds,
};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Millimetres, Money, Volts, WattHours,
};

fn size(length: f64, width: f64, height: f64) -> Size {
    let mm = Millimetres::of;
    Size { length: mm(length), width: mm(width), height: mm(height) }
}

fn battery(chemistry: Chemistry, volts: f64, ah: f64, kg: f64) -> Candidate {
    let over = Hours::of(chemistry.usual_rating_hours());
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over };
    let mut battery = Battery::new("Sedge", chemistry, Volts::of(volts), rating);
    battery.mass = Some(Kilograms::of(kg));
    battery.price = Some(Money::of(volts * ah * 0.25));
    Candidate::of(battery)
}

fn lfp() -> Candidate {
    battery(Chemistry::Lfp, 12.8, 100.0, 11.5)
}

fn agm() -> Candidate {
    battery(Chemistry::Agm, 12.0, 100.0, 29.0)
}

type Change = fn(&mut Candidate, f64);

/// Kind, candidate, change, ordinary value, doubted value.
type Line = (DoubtKind, fn() -> Candidate, Change, f64, f64);

const LINES: &[Line] = &[
    (
        DoubtKind::EnergySum,
        lfp,
        |c, v| c.battery.printed_energy = Some(WattHours::of(v)),
        1300.0,
        1330.0,
    ),
    (
        DoubtKind::EnergySum,
        lfp,
        |c, v| c.battery.printed_energy = Some(WattHours::of(v)),
        1250.0,
        1200.0,
    ),
    (DoubtKind::EnergyForWeight, lfp, |c, v| c.battery.mass = Some(Kilograms::of(v)), 8.5, 6.0),
    (DoubtKind::EnergyForWeight, agm, |c, v| c.battery.mass = Some(Kilograms::of(v)), 27.0, 15.0),
    (
        DoubtKind::EnergyForSize,
        lfp,
        |c, v| c.battery.size = Some(size(330.0, 173.0, v)),
        215.0,
        60.0,
    ),
    (
        DoubtKind::ReserveMinutes,
        agm,
        |c, v| c.battery.ratings.push(Rating::reserve(v)),
        175.0,
        80.0,
    ),
    (
        DoubtKind::RatesDisagree,
        agm,
        |c, v| {
            let quick = Rating::Capacity { ah: AmpHours::of(v), over: Hours::of(5.0) };
            c.battery.ratings.push(quick);
        },
        84.0,
        50.0,
    ),
    (
        DoubtKind::LeadEquivalent,
        lfp,
        |c, v| c.battery.lead_equivalent = Some(AmpHours::of(v)),
        300.0,
        110.0,
    ),
    (
        DoubtKind::CrankingForCapacity,
        agm,
        |c, v| c.battery.cranking = Some(Amps::of(v)),
        900.0,
        2000.0,
    ),
    (DoubtKind::Continuous, lfp, |c, v| c.battery.max_continuous = Some(Amps::of(v)), 150.0, 200.0),
    (
        DoubtKind::Peak,
        lfp,
        |c, v| c.battery.peak = Some(Peak { current: Amps::of(v), seconds: 5.0 }),
        300.0,
        900.0,
    ),
    (DoubtKind::NominalVoltage, lfp, |c, v| c.battery.nominal_voltage = Volts::of(v), 12.8, 12.0),
    (DoubtKind::NominalVoltage, agm, |c, v| c.battery.nominal_voltage = Volts::of(v), 12.0, 12.8),
    (
        DoubtKind::ChargeVoltage,
        lfp,
        |c, v| c.battery.charge_voltage = Some(Volts::of(v)),
        14.6,
        15.2,
    ),
    (
        DoubtKind::ChargeVoltage,
        lfp,
        |c, v| c.battery.charge_voltage = Some(Volts::of(v)),
        14.2,
        12.6,
    ),
    (
        DoubtKind::ChargeVoltage,
        agm,
        |c, v| c.battery.charge_voltage = Some(Volts::of(v)),
        14.7,
        15.6,
    ),
    (
        DoubtKind::CyclesInYears,
        lfp,
        |c, v| {
            c.battery.cycles = vec![CyclePoint { depth: 0.8, cycles: v }];
            c.battery.calendar_years = Some(10.0);
        },
        3650.0,
        9000.0,
    ),
    (
        DoubtKind::CyclesForChemistry,
        agm,
        |c, v| c.battery.cycles = vec![CyclePoint { depth: 0.5, cycles: v }],
        700.0,
        4000.0,
    ),
    (DoubtKind::SelfDischarge, lfp, |c, v| c.battery.self_discharge = Some(v), 0.03, 0.0),
    (DoubtKind::SelfDischarge, lfp, |c, v| c.battery.self_discharge = Some(v), 0.01, 0.2),
    (DoubtKind::ColdCharge, lfp, |c, v| c.battery.cold_cutoff = Some(Celsius::of(v)), 0.0, -20.0),
    (
        DoubtKind::Warranty,
        lfp,
        |c, v| (c.battery.warranty_full, c.battery.warranty_total) = (Some(v), Some(5.0)),
        3.0,
        8.0,
    ),
    (
        DoubtKind::SizeForClass,
        lfp,
        |c, v| {
            c.battery.size_class = Some(SizeClass::G31);
            c.battery.size = Some(size(v, 173.0, 215.0));
        },
        332.0,
        340.0,
    ),
];

#[test]
fn what_is_ordinary_is_left_alone_and_what_is_beyond_is_told() {
    for (kind, base, change, ordinary, beyond) in LINES {
        let told = |value: f64| {
            let mut c = base();
            change(&mut c, value);
            c.doubts(None).into_iter().find(|d| d.kind == *kind)
        };
        assert_eq!(told(*ordinary), None, "{kind:?} at {ordinary}");
        let doubt = told(*beyond).unwrap_or_else(|| panic!("{kind:?} at {beyond}"));
        // A doubt is a sentence with its figures in it.
        assert!(doubt.sentence.contains(|c: char| c.is_ascii_digit()), "{}", doubt.sentence);
        assert!(doubt.sentence.ends_with(['.', '?']), "{}", doubt.sentence);
    }
}

#[test]
fn what_the_check_puts_in_place_is_itself_not_doubted() {
    let mut mended = 0;
    for (kind, base, change, _, beyond) in LINES {
        let mut c = base();
        change(&mut c, *beyond);
        let label = c.clone();
        let Some(suggestion) =
            c.doubts(None).into_iter().find(|d| d.kind == *kind).unwrap().instead
        else {
            continue;
        };
        c.replace(suggestion);
        assert!(!c.doubts(None).iter().any(|d| d.kind == *kind), "{kind:?}: {:?}", c.doubts(None));
        let correction = c.battery.corrected[0];
        assert_eq!(correction.detail, suggestion.detail);
        assert!(correction.to_string().contains("used here:"), "{correction}");
        // And the label's figure comes back as it was.
        assert!(c.restore(suggestion.detail));
        let (was, is) =
            (label.battery.figure(suggestion.detail), c.battery.figure(suggestion.detail));
        assert!((was.unwrap_or(0.0) - is.unwrap_or(0.0)).abs() < 1e-6, "{kind:?}: {was:?} {is:?}");
        assert!(c.battery.corrected.is_empty() && !c.restore(suggestion.detail));
        mended += 1;
    }
    assert!(mended >= 10, "{mended}");
}

#[test]
fn a_heater_or_a_missing_figure_silences_what_depends_on_it() {
    let mut c = lfp();
    c.battery.cold_cutoff = Some(Celsius::of(-20.0));
    c.battery.heater = Some(true);
    assert!(!c.doubts(None).iter().any(|d| d.kind == DoubtKind::ColdCharge));
    // Of a bare label, nothing is doubted but what it says.
    let mut bare = lfp();
    (bare.battery.mass, bare.battery.price) = (None, None);
    assert_eq!(
        bare.doubts(Some(&Rest { price_per_wh: Some(Money::of(0.2)), kg_per_wh: Some(0.01) })),
        []
    );
    // An accepted doubt is not raised again; the others are.
    let mut c = lfp();
    c.battery.printed_energy = Some(WattHours::of(1800.0));
    c.battery.self_discharge = Some(0.0);
    c.accepted.insert(DoubtKind::EnergySum);
    let left: Vec<DoubtKind> = c.doubts(None).iter().map(|d| d.kind).collect();
    assert_eq!(left, [DoubtKind::SelfDischarge]);
}

#[test]
fn the_rest_of_the_shelf_is_compared_with_within_bounds_it_tells() {
    let rest = Rest { price_per_wh: Some(Money::of(0.25)), kg_per_wh: Some(0.009) };
    assert_eq!(lfp().doubts(Some(&rest)), []);
    let (low, high) = rest.prices().unwrap();
    let energy = 1280.0;
    for (price, doubted) in
        [(low * 1.01, false), (low * 0.99, true), (high * 0.99, false), (high * 1.01, true)]
    {
        let mut c = lfp();
        c.battery.price = Some(price * energy);
        let told = c.doubts(Some(&rest)).iter().any(|d| d.kind == DoubtKind::PriceForShelf);
        assert_eq!(told, doubted, "{price} for a Wh");
    }
    let (low, high) = rest.weights().unwrap();
    for (kg, doubted) in [(low * 0.99, true), (high * 0.99, false), (high * 1.01, true)] {
        let mut c = lfp();
        c.battery.mass = Some(Kilograms::of(kg * energy));
        let told = c.doubts(Some(&rest)).iter().any(|d| d.kind == DoubtKind::WeightForShelf);
        assert_eq!(told, doubted, "{kg} kg for a Wh");
    }
    assert_eq!(Rest::default().prices(), None);
}

#[test]
fn the_surest_doubt_comes_first() {
    let mut c = lfp();
    c.battery.printed_energy = Some(WattHours::of(1800.0));
    c.battery.cycles = vec![CyclePoint { depth: 0.8, cycles: 12_000.0 }];
    c.battery.calendar_years = Some(10.0);
    c.battery.nominal_voltage = Volts::of(12.0);
    let sure: Vec<Sureness> = c.doubts(None).iter().map(|d| d.sure).collect();
    assert!(sure.len() >= 3 && sure.is_sorted(), "{sure:?}");
    assert_eq!(sure[0], Sureness::CannotBe);
}

#[test]
fn keys_come_back_to_what_they_name_and_every_kind_has_its_words() {
    for kind in DoubtKind::ALL {
        assert_eq!(DoubtKind::from_key(kind.key()), Some(kind));
    }
    for detail in Detail::vouched() {
        assert_eq!(Detail::from_key(detail.key()), Some(detail));
        assert!(!detail.words().is_empty());
    }
    for build in Build::ALL {
        assert_eq!(Build::from_key(build.key()), Some(build));
    }
    for purpose in Purpose::ALL {
        assert_eq!(Purpose::from_key(purpose.key()), Some(purpose));
        assert!(!kinds::purpose(purpose).name.is_empty());
    }
    for class in SizeClass::ALL {
        assert_eq!(SizeClass::from_name(class.name()), Some(class));
        let (low, high) = class.typical_lead_ah();
        assert!(low < high);
    }
    assert_eq!(DoubtKind::from_key("colour"), None);
    assert_eq!(SizeClass::from_name("99"), None);
}

/// Systems that units are sold for: common practice, no source.
#[test]
fn a_units_system_voltage_is_the_one_it_is_sold_for() {
    for (volts, system) in [
        (6.0, Some(6)),
        (8.0, Some(8)),
        (12.0, Some(12)),
        (12.8, Some(12)),
        (14.4, Some(12)),
        (25.6, Some(24)),
        (36.0, Some(36)),
        (38.4, Some(36)),
        (51.2, Some(48)),
        (50.4, Some(48)),
        (72.0, Some(72)),
        (3.2, None),
        (18.5, None),
    ] {
        let unit = battery(Chemistry::Lfp, volts, 100.0, 10.0).battery;
        assert_eq!(unit.system_volts(), system, "{volts} V");
    }
}
