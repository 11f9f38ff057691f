//! Labels and what is made of them: published voltages, ratings on one basis, sizes, conflicts.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::drawdown::law::CellParameters;
use lake_hour_core::drawdown::{UnitLaw, fit};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, Ohms, Volts, WattHours};
use lake_hour_core::verdict::{self, Note};

fn ah(ah: f64, hours: f64) -> Rating {
    Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(hours) }
}

fn labelled(chemistry: Chemistry, volts: f64, ratings: &[Rating]) -> Battery {
    let mut battery = Battery::new("b", chemistry, Volts::of(volts), ratings[0]);
    battery.ratings = ratings.to_vec();
    battery
}

/// Cells times n, nominal, freshly charged and empty: LFP 4S 12.8/14.6/10, 8S 25.6/29.2/20, 12S
/// 38.4/43.8/30, 16S 51.2/58.4/40, 20S 64/73/50; lead 12 V 12.0/14.7/10.5, 24, 36, 48, 60 and 72 V times
/// two to six.
#[test]
fn strings_stand_at_the_published_voltages() {
    for (chemistry, nominal, cells, full, empty) in [
        (Chemistry::Lfp, 12.8, 4, 14.6, 10.0),
        (Chemistry::Lfp, 25.6, 8, 29.2, 20.0),
        (Chemistry::Lfp, 38.4, 12, 43.8, 30.0),
        (Chemistry::Lfp, 48.0, 15, 54.75, 37.5),
        (Chemistry::Lfp, 51.2, 16, 58.4, 40.0),
        (Chemistry::Lfp, 64.0, 20, 73.0, 50.0),
        (Chemistry::Lfp, 76.8, 24, 87.6, 60.0),
        (Chemistry::Agm, 12.0, 6, 14.7, 10.5),
        (Chemistry::Flooded, 24.0, 12, 29.4, 21.0),
        (Chemistry::Gel, 36.0, 18, 44.1, 31.5),
        (Chemistry::Flooded, 48.0, 24, 58.8, 42.0),
        (Chemistry::Agm, 60.0, 30, 73.5, 52.5),
        (Chemistry::Flooded, 72.0, 36, 88.2, 63.0),
        (Chemistry::Flooded, 6.0, 3, 7.35, 5.25),
        (Chemistry::Flooded, 8.0, 4, 9.8, 7.0),
    ] {
        let battery = labelled(chemistry, nominal, &[ah(100.0, 20.0)]);
        assert_eq!(battery.cells(), cells, "{nominal} V");
        assert!((battery.end_voltage().value() - empty).abs() < 1e-9);
        let pack = Pack::of(battery, 1, 1);
        assert!((pack.full_charge_voltage().value() - full).abs() < 1e-9, "{nominal} V");
    }
}

/// The same battery stated in four ways: 100 Ah over 20 h, its energy at nominal volts, and the same
/// law's own run times. Each alone gives the same size.
#[test]
fn every_way_to_state_a_capacity_gives_the_same_battery() {
    for chemistry in [Chemistry::Flooded, Chemistry::Agm, Chemistry::Gel, Chemistry::Lfp] {
        let volts = if chemistry == Chemistry::Lfp { 12.8 } else { 12.0 };
        let first = fit(&labelled(chemistry, volts, &[ah(100.0, 20.0)])).unwrap();
        let reserve = first.law.runtime(25.0) * 60.0;
        let at_75 =
            Rating::Runtime { at: Amps::of(75.0), lasted: Hours::of(first.law.runtime(75.0)) };
        let energy = Rating::Energy { wh: WattHours::of(100.0 * volts), over: Hours::of(20.0) };
        for rating in [Rating::reserve(reserve), at_75, energy] {
            let other = fit(&labelled(chemistry, volts, &[rating])).unwrap();
            let off = other.q20 / first.q20 - 1.0;
            // The resistance goes by the headline's size, which a fast rating states smaller.
            assert!(off.abs() < 0.02, "{} {}: {off:+.4}", chemistry.name(), rating.words());
        }
        let all = [ah(100.0, 20.0), Rating::reserve(reserve), at_75, energy];
        let together = fit(&labelled(chemistry, volts, &all)).unwrap();
        assert!(together.conflict() < 0.03, "{}: {}", chemistry.name(), together.conflict());
    }
}

/// Algebra of SAE J537's reserve minutes: RC 180 delivers 75.0 Ah at 25 A, which is not the 20-hour
/// figure; a label that prints 75 Ah over 20 h beside it contradicts itself and is told by how much.
#[test]
fn a_label_that_contradicts_itself_is_told_by_how_much_and_widens_the_band() {
    let rig = Rig::new("r", CraftKind::JonBoat, Volts::of(12.0));
    let day = Day::starting_at(420).then("on", Hours::of(2.0), Duty::Current(Amps::of(8.0)));
    let evaluate = |ratings: &[Rating]| {
        let pack = Pack::of(labelled(Chemistry::Flooded, 12.0, ratings), 1, 1);
        verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).unwrap()
    };
    let lying = evaluate(&[ah(75.0, 20.0), Rating::reserve(180.0)]);
    let by = lying.notes.iter().find_map(|n| match n {
        Note::RatingsDisagree { by } => Some(*by),
        _ => None,
    });
    assert!(by.is_some_and(|by| (0.10..0.5).contains(&by)), "{by:?}");
    let honest = evaluate(&[ah(105.0, 20.0), Rating::reserve(185.0)]);
    assert!(!honest.notes.iter().any(|n| matches!(n, Note::RatingsDisagree { .. })));
    let relative = |e: &verdict::Evaluation| {
        let band = &e.drawn.as_ref().unwrap().band;
        (band.high - band.low) / (1.0 - band.low)
    };
    assert!(relative(&lying) > relative(&honest));
}

/// A heavy draw ends early, and a rest brings some of it back: in lead much, in lithium little.
#[test]
fn rests_bring_back_much_in_lead_and_little_in_lithium() {
    let regained = |chemistry: Chemistry, cells: u32| {
        let cell = CellParameters::typical(chemistry);
        let law = UnitLaw::new(cell, cells, 100.0);
        let spent = law.rest_or_draw(law.full(), 60.0, law.runtime(60.0));
        let rested = law.rest_or_draw(spent, 0.0, 3.0);
        // What can be drawn at the same 60 A before the end voltage, without and with the rest.
        let left = |state| {
            let mut hours = 0.0;
            while law.volts(law.rest_or_draw(state, 60.0, hours), 60.0) > law.v_end() {
                hours += 0.001;
            }
            hours * 60.0
        };
        left(rested) - left(spent)
    };
    let (lead, lithium) = (regained(Chemistry::Flooded, 6), regained(Chemistry::Lfp, 4));
    assert!(lead > 5.0 && (-1e-9..2.0).contains(&lithium), "{lead} and {lithium} Ah");
}

/// A measured resistance replaces the typical one, is said to come from the label, and sags the more the
/// larger it is.
#[test]
fn a_stated_resistance_decides_the_sag() {
    let volts = |milliohm: Option<f64>| {
        let mut battery = labelled(Chemistry::Lfp, 12.8, &[ah(100.0, 5.0)]);
        battery.resistance = milliohm.map(|m| Ohms::of(m / 1000.0));
        let law = fit(&battery).unwrap().law;
        law.volts(law.rest_or_draw(law.full(), 50.0, 0.5), 50.0)
    };
    let (low, high) = (volts(Some(1.0)), volts(Some(21.0)));
    // Ohm's law: 50 A through 20 milliohm more are 1 V.
    assert!((low - high - 1.0).abs() < 0.01, "{low} {high}");
    let typical = volts(None);
    assert!(typical < low && typical > high);
}
