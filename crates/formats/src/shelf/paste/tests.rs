//! Labels as shops write them, honest and not, all invented; and one line of a label after another.

use super::*;
use lake_hour_core::shelf::figures::Value;
use lake_hour_core::shelf::{Candidate, Chemistry, DoubtKind, Sureness};

const HONEST: &str = include_str!("labels/honest.txt");
const WICKED: &str = include_str!("labels/wicked.txt");

/// Head and text of every label.
fn labels(file: &'static str) -> impl Iterator<Item = (&'static str, &'static str)> {
    file.split("----\n").skip(1).map(|block| {
        let (head, text) = block.split_once('\n').expect("a head");
        (head.trim_start_matches("= "), text)
    })
}

fn candidate(text: &str) -> (Candidate, Understood) {
    let mut read = read(text, System::Us);
    if let (None, Some(equivalent)) =
        (read.label.number("capacity_ah"), read.label.number("lead_equivalent_ah"))
    {
        // The form asks for the Ah: a buyer who believes the label types these.
        read.label.put("capacity_ah", equivalent);
    }
    (Candidate::of(read.label.battery().unwrap_or_else(|w| panic!("{w:?}: {text}"))), read)
}

/// Honest labels are read right and left alone: no doubt above asking, three of those in all.
#[test]
fn honest_labels_are_read_and_not_doubted() {
    let (mut asked, mut wrong) = (Vec::new(), Vec::new());
    for (head, text) in labels(HONEST) {
        let want: Vec<&str> = head.split(' ').collect();
        let (c, read) = candidate(text);
        let figure = |n: usize| want[n].parse::<f64>().expect(head);
        let b = &c.battery;
        let got = [
            b.nominal_voltage.value(),
            b.headline().map_or(0.0, |h| h.0.value()),
            b.mass.map_or(0.0, lake_hour_core::units::Kilograms::value),
        ];
        let close =
            got.iter().zip([1, 2, 3]).all(|(g, n)| (g - figure(n)).abs() <= 0.012 * figure(n));
        if Some(b.chemistry) != Chemistry::from_key(want[0]) || !close {
            wrong.push(format!("{head}: read {:?} {got:?} of\n{text}", b.chemistry));
        }
        if !read.asks.is_empty() || read.label.text("chemistry").is_none() {
            wrong.push(format!("{head}: asks {:?}", read.asks));
        }
        for doubt in c.doubts(None) {
            if doubt.sure == Sureness::Ask { &mut asked } else { &mut wrong }
                .push(format!("{head}: {:?} {}", doubt.kind, doubt.sentence));
        }
        let name = read.label.text("name").unwrap_or_default();
        if name.chars().count() > 40 || name.is_empty() {
            wrong.push(format!("{head}: called {name:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} wrong: {}", wrong.len(), wrong.join("\n"));
    assert!(asked.len() <= 3, "{asked:#?}");
    assert_eq!(labels(HONEST).count(), 60);
}

#[test]
fn every_lie_of_forty_labels_is_found() {
    let mut missed = Vec::new();
    for (head, text) in labels(WICKED) {
        let (c, _) = candidate(text);
        let found: Vec<DoubtKind> = c.doubts(None).iter().map(|d| d.kind).collect();
        for key in head.split(' ') {
            let kind = DoubtKind::from_key(key).expect(key);
            if !found.contains(&kind) {
                missed.push(format!("{key}: found {found:?} in {text}"));
            }
        }
    }
    assert!(missed.is_empty(), "{}", missed.join("\n"));
    assert_eq!(labels(WICKED).count(), 40);
}

#[test]
fn the_chemistry_is_derived_with_its_reason_or_asked_never_just_lithium() {
    for (text, key, why) in [
        ("Teal\n12.8 V 100 Ah", "lfp", "only its cells"),
        ("Teal\n12 V 100 Ah 1280 Wh", "lfp", "the volts that come out"),
        ("Teal\n14.8 V 20 Ah", "nmc", "only its cells"),
        ("Teal\n12 V 850 CCA / 1000 CA", "flooded", "cranking"),
        ("Teal SLA\n12 V 7 Ah", "agm", "sealed lead"),
        ("Teal\n12 V 100 Ah 64 lb", "flooded", "as heavy"),
        ("Teal\n12 V 100 Ah 24 lb", "lfp", "as light"),
        ("Teal\n12 V 100 Ah BMS 100 A", "lfp", "lithium has this"),
    ] {
        let got = read(text, System::Us);
        assert_eq!(got.label.text("chemistry"), Some(key), "{text}");
        assert!(got.found.iter().any(|f| f.meaning.contains(why)), "{text}: {:?}", got.found);
    }
    let bare = read("Teal\n12 V 100 Ah", System::Us);
    assert_eq!(bare.label.text("chemistry"), None);
    assert!(bare.asks[0].says.contains("choose it"), "{:?}", bare.asks);
    assert!(bare.label.battery().is_err());
}

/// (line, field, value). Common practice, no source.
#[test]
fn pieces_are_read_as_they_are_written_in_shops() {
    for (text, key, value) in [
        ("850 CCA / 1000 CA", "cranking_a", 850.0),
        ("1000 CA / 850 CCA", "cranking_a", 850.0),
        ("L 12.93\" W 6.77\" H 9.37\"", "length_mm", 328.4),
        ("L 12.93\" W 6.77\" H 9.37\"", "height_mm", 238.0),
        ("12.9 x 6.8 x 9.4 in (L x W x H)", "height_mm", 238.8),
        ("Länge 318 mm, Breite 165 mm, Höhe 215 mm", "width_mm", 165.0),
        ("1 year full, 36 months pro-rated", "warranty_full_years", 1.0),
        ("1 year full, 36 months pro-rated warranty", "warranty_total_years", 3.0),
        ("5-yr warranty", "warranty_total_years", 5.0),
        ("up to 4000 cycles @80% DOD", "cycles", 4000.0),
        ("Charge -4F to 122F", "cold_cutoff_c", -20.0),
        ("Discharge -20 to 60 C", "discharge_low_c", -20.0),
        ("Discharge -20 to 60 C", "discharge_high_c", 60.0),
        ("Charge 0 to 45 C", "charge_high_c", 45.0),
        ("Cells: 16", "cell_count", 16.0),
        ("Short Reserve AGM 12V 100Ah", "nominal_voltage_v", 12.0),
        ("Weight (kg): 11,5", "mass_kg", 11.5),
        ("Kaltstartstrom 850 A (EN)", "cranking_a", 850.0),
        ("Preis: 1.299,00 EUR", "price", 1299.0),
        ("Max discharge current 230 A (5 s)", "peak_current_a", 230.0),
        ("Max discharge current 230 A (5 s)", "peak_seconds", 5.0),
        ("Discharge: 90 A continuous, 230 A (5 s)", "max_continuous_current_a", 90.0),
        ("Discharge: 90 A continuous, 230 A (5 s)", "peak_current_a", 230.0),
    ] {
        let text =
            if text.contains("full, 36") { format!("Warranty: {text}") } else { text.to_owned() };
        let got = match read(&format!("Teal\n{text}"), System::Us).label.get(key) {
            Some(Value::Number(got)) => Some(*got),
            Some(Value::Cycles(all)) => Some(all[0].cycles),
            _ => None,
        };
        assert!(got.is_some_and(|g| (g - value).abs() < 0.06), "{text}: {key} is {got:?}");
    }
    let brief = read("Teal\nMax discharge current 230 A (5 s)", System::Us).label;
    assert_eq!(brief.number("max_continuous_current_a"), None, "five seconds are not for long");
    let discharge = read("Teal\nDischarge -4F to 122F", System::Us);
    assert_eq!(discharge.label.number("cold_cutoff_c"), None);
    assert!(
        discharge.found.iter().any(|f| f.meaning.contains("from -4 °F to 122 °F")),
        "{discharge:?}"
    );
    let metric = read("Teal\n13,4 kg, 330 x 173 x 215 mm", System::Metric);
    let said: String = metric.found.iter().map(|f| f.meaning.as_str()).collect();
    assert!(said.contains("13.4 kg") && said.contains("330 x 173 x 215 mm"), "{said}");
    let us = read("Teal\n13,4 kg, 330 x 173 x 215 mm", System::Us);
    assert!(
        us.found.iter().all(|f| !f.meaning.contains("mm") && !f.meaning.contains("kg")),
        "{us:?}"
    );
}
