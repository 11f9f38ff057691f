//! Shelves in and out: the round trip, RFC 4180, hostile files, pasted labels.

use super::table::{self, Row, TableError};
use super::{FORMAT, stream};
use super::{paste, read, read_candidate, write, write_candidate};
use lake_hour_core::shelf::figures::{Label, Value};
use lake_hour_core::shelf::{Candidate, Detail, DoubtKind, Purpose, SizeClass};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::Money;
use lake_hour_core::units::system::System;
use serde_json::json;

/// What a label says in a field.
fn said(label: &Label, key: &str) -> serde_json::Value {
    match label.get(key) {
        None => json!(null),
        Some(Value::Number(v)) => json!(v),
        Some(Value::Text(text)) => json!(text),
        Some(Value::Flag(yes)) => json!(yes),
        Some(Value::Ratings(all)) => json!(crate::words::ratings(all)),
        Some(Value::Cycles(all)) => json!(crate::words::cycles(all)),
    }
}

const HEAD: &str = "name,chemistry,nominal_voltage_v,capacity_ah,mass_kg,price";

fn rows_of(text: &[u8]) -> Vec<Row> {
    table::rows(text).expect("a table").map(|r| r.expect("readable")).collect()
}

fn good(text: &str) -> Vec<Candidate> {
    let good = rows_of(text.as_bytes()).into_iter().map(|row| match row {
        Row::Battery { candidate, .. } => *candidate,
        Row::Faulty(faults) => panic!("{faults:?}"),
    });
    good.collect()
}

/// The faults of a text's rows as (line, column, sentence).
fn faults(text: &str) -> Vec<(u64, String, String)> {
    let all = rows_of(text.as_bytes()).into_iter().flat_map(|row| match row {
        Row::Faulty(faults) => faults,
        Row::Battery { .. } => Vec::new(),
    });
    all.map(|f| (f.line, f.column, f.says)).collect()
}

/// A candidate with every field filled in.
fn full() -> Candidate {
    let text = r#"{"battery":{"name":"=Marl, \"Point\"","chemistry":"lfp","nominal_voltage_v":12.8,
        "capacity_ah":100.1,"capacity_hours":5,"reserve_minutes_25a":236,
        "ratings":[{"current_a":75,"minutes":77},{"capacity_ah":98,"hours":1},{"energy_kwh":1.27,"hours":10}],
        "cranking_a":300,"mass_kg":11.3398,"length_mm":330,"width_mm":173,"height_mm":215.5,"price":319.99,
        "max_continuous_current_a":100,"peak_current_a":200,"peak_seconds":3,"low_voltage_cutoff_v":10,
        "resistance_ohm":0.004,"cycles":[{"depth":0.8,"cycles":3500},{"depth":0.5,"cycles":6000}],
        "calendar_years":10,
        "origins":{"capacity":{"by":"measured","on":"2026-05-01"},"price":{"by":"told"}},
        "corrected":[{"figure":"capacity","label_said":300,"used":100.1}],
        "build":"prismatic","purpose":"deep_cycle","size_class":"31","energy_wh":1280,
        "lead_equivalent_ah":300,"charge_voltage_v":14.6,"cold_cutoff_c":0,"heater":true,"monitor":false,
        "ingress":"IP65","terminals":"M8","warranty_full_years":5,"warranty_total_years":8,
        "self_discharge_month":0.02,"max_series":4,
        "discharge_low_c":-20,"discharge_high_c":60,"charge_high_c":45,"cell_count":16,"standards":"UL 1973",
        "seller":"Reedmarsh Supply","link":"https://reedmarsh.example/marl","support":"answers by mail",
        "note":"two stand in the shed"},"accepted":["peak","warranty"],"hidden":true}"#;
    read_candidate(text).expect("good")
}

#[test]
fn a_round_trip_through_either_format_loses_nothing() {
    let full = full();
    assert_eq!(full.battery.size_class, Some(SizeClass::G31));
    assert_eq!(full.battery.purpose, Some(Purpose::DeepCycle));
    assert!(full.accepted.contains(&DoubtKind::Peak));
    let on = Some("2026-05-01".parse().expect("a day"));
    let measured = Vouched { by: Origin::Measured, on };
    assert_eq!(full.battery.origins[&Detail::CAPACITY], measured);
    assert_eq!(read_candidate(&write_candidate(&full)).expect("again"), full);
    let mut text = table::header();
    text.extend(table::row(&full));
    let text = String::from_utf8(text).expect("text");
    assert!(text.contains("\"'=Marl, \"\"Point\"\"\""), "{text}");
    assert_eq!(good(&text), [full]);
    // And what is bare stays bare.
    let bare = good(&format!("{HEAD}\r\nTern,agm,12,105,,\r\n"));
    let mut text = table::header();
    text.extend(table::row(&bare[0]));
    assert_eq!(good(&String::from_utf8(text).expect("text")), bare);
}

/// The documents of a shelf by a validator that knows nothing of this program.
#[test]
fn what_is_written_fits_the_schema() {
    let schema: serde_json::Value = serde_json::from_str(&crate::schema::shelf()).expect("JSON");
    let validator = jsonschema::validator_for(&schema).expect("a schema");
    let mut document = serde_json::json!({
        "format": "lake-hour/shelf", "version": 1,
        "batteries": [serde_json::to_value(write(&full())).expect("JSON")],
    });
    assert!(validator.is_valid(&document));
    assert_eq!(read(document.to_string().as_bytes()).expect("good"), [full()]);
    document["batteries"][0]["colour"] = "red".into();
    assert!(!validator.is_valid(&document));
    let says = read(document.to_string().as_bytes()).expect_err("unknown").0[0].to_string();
    assert!(says.starts_with("batteries[0]") && says.contains("colour"), "{says}");
}

/// RFC 4180, section 2, rules 1 to 7: line ends, the last one optional, a header, spaces are part of
/// a field, quotes around commas, quotes and line ends, quotes doubled.
#[test]
fn rfc_4180_cases() {
    let rows = good(&format!("{HEAD}\r\nA,agm,12,105,,\r\nB,agm,12,105,,"));
    assert_eq!(rows.len(), 2);
    let rows = good(&format!("{HEAD}\n\"A, \"\"big\"\"\",\"agm\",\"12\",\"105\",,\n"));
    assert_eq!(rows[0].battery.name, "A, \"big\"");
    let bad = faults(&format!("{HEAD}\r\n\"two\r\nlines\",agm,12,105,,\r\nB,agm,12,x,,"));
    assert_eq!(bad[0], (2, "name".into(), "Use letters, digits and signs on one line.".into()));
    assert_eq!((bad[1].0, bad[1].1.as_str()), (4, "capacity_ah"));
    let bad = faults(&format!("{HEAD}\nA,agm,12\n"));
    assert_eq!(bad[0].2, "3 cells where the first line names 6.");
}

#[test]
fn every_fault_is_told_by_line_and_column() {
    let text = format!(
        "{HEAD}\n,agm,12,105,30,200\nB,brick,12,105,30,200\nC,agm,0,105,30,200\nD,agm,12,,30,200\n\
         E,agm,12,105,30,2026-05-01\nF,agm,12,105,66 stone,200\nG,agm,12,1e309,30,=1+1\n"
    );
    let got = faults(&text);
    // The same lines, however they end: as on Unix, as on Windows, as on an old Mac.
    for end in ["\r\n", "\r"] {
        assert_eq!(faults(&text.replace('\n', end)), got, "{end:?}");
    }
    let got: Vec<_> = got.iter().map(|(l, c, s)| (*l, c.as_str(), s.as_str())).collect();
    for want in [
        (2, "name", "Give it a name."),
        (3, "chemistry", "Must be one of lfp, agm, gel, flooded, nmc."),
        (4, "nominal_voltage_v", "Type a number from 1 to 400 V, as in 20."),
        (5, "capacity_ah", "Give the Ah or the reserve minutes."),
        (6, "price", "This is not a number. Type one from 0 to 1000000, as in 100."),
        (7, "mass_kg", "This is not a number. Type one from 0.05 to 2000 kg, as in 10."),
        (8, "capacity_ah", "Type a number from 0.1 to 10000 Ah, as in 30."),
        (8, "price", "This is not a number. Type one from 0 to 1000000, as in 100."),
    ] {
        assert!(got.contains(&want), "{want:?} in {got:#?}");
    }
    assert_eq!(got.len(), 8, "{got:#?}");
}

#[test]
fn what_a_file_has_no_column_for_stays_as_it_is() {
    let full = full();
    let text = "name,chemistry,nominal_voltage_v,price,hidden,accepted\n\"'=Marl, \"\"Point\"\"\",lfp,12.8,299,,\n";
    let mut rows = table::rows(text.as_bytes()).expect("a table");
    // Alone the row is no battery: it has no capacity.
    let Some(Ok(Row::Faulty(_))) = rows.next() else { panic!("no capacity") };
    let text = text.replace("price,", "price,capacity_ah,").replace("299,", "299,90,");
    let mut rows = table::rows(text.as_bytes()).expect("a table");
    let Some(Ok(Row::Battery { line, candidate, .. })) = rows.next() else { panic!("a row") };
    let over = rows.columns().over(line, &full, *candidate.clone()).expect("good");
    let differs = table::differences(&full, &over);
    assert_eq!(differs, ["capacity_ah", "price", "accepted", "hidden"]);
    assert_eq!(
        (over.battery.price, over.battery.size),
        (Some(Money::of(299.0)), full.battery.size)
    );
    // A cut-off the new voltage does not bear is told.
    let mut six = *candidate;
    six.battery.nominal_voltage = lake_hour_core::units::Volts::of(6.4);
    let faults = rows.columns().over(line, &full, six).expect_err("10 V of 6.4 V");
    assert_eq!(faults[0].column, "low_voltage_cutoff_v");
}

#[test]
fn other_separators_encodings_and_units_are_understood_and_told() {
    let text = "name;chemistry;nominal_voltage_v;capacity_ah;mass_kg\nTern;lfp;12,8;100;26 lb\n";
    let mut rows = table::rows(text.as_bytes()).expect("semicolons");
    assert_eq!(rows.remarks, ["Read as separated by semicolons."]);
    let Some(Ok(Row::Battery { candidate, turned, line })) = rows.next() else { panic!("a row") };
    assert!((candidate.battery.mass.expect("given").value() - 11.793).abs() < 0.001);
    assert_eq!((line, turned[0].says.as_str()), (2, "26 lb is taken as 11.79 kg."));
    // A byte-order mark, and UTF-16 in both orders.
    let text = format!("\u{feff}{HEAD}\nÉtang,agm,12,105,30,200\n");
    let little: Vec<u8> = text.encode_utf16().flat_map(u16::to_le_bytes).collect();
    let big: Vec<u8> = text.encode_utf16().flat_map(u16::to_be_bytes).collect();
    for bytes in [text.as_bytes(), &little, &big] {
        let Row::Battery { candidate, .. } = &rows_of(bytes)[0] else { panic!("a row") };
        assert_eq!(candidate.battery.name, "Étang");
    }
    let mut latin = format!("{HEAD}\n").into_bytes();
    latin.extend(b"\xc9tang,agm,12,105,30,200\n");
    let Row::Faulty(bad) = &rows_of(&latin)[0] else { panic!("not text") };
    assert_eq!(bad[0].says, "This is not readable text.");
    // A hundred and ninety-seven columns that nobody knows.
    let more: String = (0..197).map(|n| format!(",x{n}")).collect();
    let text = format!("name,chemistry,nominal_voltage_v{more}\n");
    let remarks = table::rows(text.as_bytes()).expect("read").remarks;
    assert!(remarks[0].ends_with("x6, x7 and 189 more."), "{remarks:?}");
}

#[test]
fn files_that_cannot_be_taken_say_why() {
    let refused = |text: &[u8]| table::rows(text).map(|_| ()).expect_err("refused").to_string();
    assert!(refused(b"").starts_with("The file is empty"));
    assert!(refused(b"name,volts\n").contains("chemistry is missing"));
    assert_eq!(refused(b"name,name,chemistry\n"), "The column name comes twice.");
    let wide = vec![b','; 300];
    assert_eq!(refused(&wide), "The first line names 301 columns; at most 256 are read.");
    // A quote that is never closed: told by its line, before the rest of the file is in memory.
    let mut open = format!("{HEAD}\nA,agm,12,105,30,200\n\"B,agm,12,105,30,200\n").into_bytes();
    open.extend(b"C,agm,12,105,30,200\n".repeat(2_000_000));
    let mut rows = table::rows(open.as_slice()).expect("a table");
    assert!(matches!(rows.next(), Some(Ok(Row::Battery { .. }))));
    let Some(Err(TableError::OpenQuote(3))) = rows.next() else { panic!("an open quote") };
    assert!(rows.next().is_none() && rows.read_bytes() < 2 << 20, "{}", rows.read_bytes());
    // The same in a short file.
    let bad = faults(&format!("{HEAD}\n\"A,agm,12,105,30,200\nB,agm,12,105,30,200\n"));
    assert!(bad[0].2.ends_with("Perhaps a quote is opened and not closed."), "{bad:?}");
    // JSON nested ten thousand deep.
    let deep = "[".repeat(10_000);
    let says = read(deep.as_bytes()).expect_err("deep").0[0].to_string();
    assert!(says.len() < 200, "{says}");
    let nested = format!("{{\"batteries\":{deep}");
    assert!(read(nested.as_bytes()).expect_err("deep").0[0].says.contains("line 1"));
}

#[test]
fn a_pasted_label_is_understood_piece_by_piece() {
    let got = paste::read(
        "Marl Point 12-100 Deep Cycle LiFePO4 (Group 31)\n\
         12.8V 100Ah 1280Wh\n\
         Max continuous discharge current: 100 A, peak 200A (5s)\n\
         Charging voltage: 14.2 - 14.6V\n\
         Low voltage cut-off | 10V\n\
         Weight: 24.3 lbs (11.0 kg)\n\
         Dimensions: 12.99 x 6.77 x 8.43 in\n\
         4,000+ cycles @ 80% DoD\n\
         8 year warranty\n\
         Low-temp charge protection at 32°F, self-heating, Bluetooth, IP65\n\
         Terminals: M8\n\
         Internal resistance <= 4 milliohm; self-discharge 2 % a month\n\
         Up to 4 in series\n\
         Price: $319.99\n\
         Model year 7 of the pond series",
        System::Us,
    );
    for (key, value) in [
        ("name", json!("Marl Point 12-100 Deep Cycle LiFePO4")),
        ("chemistry", json!("lfp")),
        ("nominal_voltage_v", json!(12.8)),
        ("capacity_ah", json!(100.0)),
        ("energy_wh", json!(1280.0)),
        ("max_continuous_current_a", json!(100.0)),
        ("peak_current_a", json!(200.0)),
        ("peak_seconds", json!(5.0)),
        ("charge_voltage_v", json!(14.6)),
        ("low_voltage_cutoff_v", json!(10.0)),
        ("mass_kg", json!(11.0)),
        ("length_mm", json!(329.9)),
        ("width_mm", json!(172.0)),
        ("height_mm", json!(214.1)),
        ("cycles", json!("4000 at 80 %")),
        ("warranty_total_years", json!(8.0)),
        ("cold_cutoff_c", json!(0.0)),
        ("heater", json!(true)),
        ("monitor", json!(true)),
        ("ingress", json!("IP65")),
        ("terminals", json!("M8")),
        ("resistance_ohm", json!(0.004)),
        ("self_discharge_month", json!(0.02)),
        ("max_series", json!(4.0)),
        ("price", json!(319.99)),
        ("size_class", json!("31")),
        ("purpose", json!("deep_cycle")),
    ] {
        assert_eq!(said(&got.label, key), value, "{key}");
    }
    assert_eq!(got.left, ["Model year 7 of the pond series"]);
    assert!(got.found.iter().any(|f| f.text == "100Ah" && f.meaning == "capacity 100 Ah"));
}

#[test]
fn a_lead_table_in_html_with_scripts_is_only_text() {
    let got = paste::read(
        "<script>alert('1 Ah')</script><table><tr><td>Voltage</td><td>12&nbsp;V</td></tr>\
         <tr><td>Chemistry</td><td><b>AGM</b></td></tr>\
         <tr><td>Capacity</td><td>105 Ah @ 20 hr</td></tr><tr><td>C5</td><td>90Ah (5 hour)</td></tr>\
         <tr><td>Reserve Capacity</td><td>190 min</td></tr><tr><td>CCA</td><td>800</td></tr>\
         <tr><td>Runtime</td><td>48 min at 75 A</td></tr>\
         <tr><td>Warranty</td><td>2 years full, 3 years prorated</td></tr>\
         <tr><td>Lead equivalent</td><td>300 Ah</td></tr></table>",
        System::Us,
    );
    for (key, value) in [
        ("chemistry", json!("agm")),
        ("nominal_voltage_v", json!(12.0)),
        ("capacity_ah", json!(105.0)),
        ("capacity_hours", json!(20.0)),
        ("reserve_minutes_25a", json!(190.0)),
        ("cranking_a", json!(800.0)),
        ("ratings", json!("90 Ah at 5 h; 48 min at 75 A")),
        ("warranty_full_years", json!(2.0)),
        ("warranty_total_years", json!(5.0)),
        ("lead_equivalent_ah", json!(300.0)),
    ] {
        assert_eq!(said(&got.label, key), value, "{key}");
    }
    assert!(!format!("{got:?}").contains("alert"));
}

#[test]
fn any_text_is_read_without_harm() {
    for text in ["", "\u{0}", "Ah Ah Ah", "<script>", "x x x", "9".repeat(100_000).as_str()] {
        let got = paste::read(text, System::Us);
        assert_eq!(got.label.number("capacity_ah"), None, "{text:.20}");
    }
    let many = "12 V 100 Ah 5 kg\n".repeat(50_000);
    assert!(paste::read(&many, System::Us).found.len() <= 3 * 400 + 1);
}

/// One line of a label after another, as shops and makers write them: (text, field, value). Common
/// practice, no source.
#[test]
fn labels_are_read_however_they_are_written() {
    for (text, key, value) in [
        ("Capacity: 100Ah", "capacity_ah", 100.0),
        ("Rated Capacity | 1,050 Ah", "capacity_ah", 1050.0),
        ("105 AH @ 20 HR", "capacity_hours", 20.0),
        ("Nominal voltage 25.6 V", "nominal_voltage_v", 25.6),
        ("48 volts", "nominal_voltage_v", 48.0),
        ("Energy 2.56 kWh", "energy_wh", 2560.0),
        ("1280 Wh", "energy_wh", 1280.0),
        ("Reserve Capacity: 205 minutes @ 25 amps", "reserve_minutes_25a", 205.0),
        ("RC 190 min", "reserve_minutes_25a", 190.0),
        ("225 min at 25 A", "reserve_minutes_25a", 225.0),
        ("CCA: 800", "cranking_a", 800.0),
        ("650 CCA", "cranking_a", 650.0),
        ("Continuous discharge current 100A", "max_continuous_current_a", 100.0),
        ("BMS 150 A", "max_continuous_current_a", 150.0),
        ("Peak 300 A (3 sec)", "peak_current_a", 300.0),
        ("Peak 300 A (3 sec)", "peak_seconds", 3.0),
        ("Weight 11.5 kg", "mass_kg", 11.5),
        ("Price $1,299", "price", 1299.0),
        ("€ 449", "price", 449.0),
        ("Design life: 10 years", "calendar_years", 10.0),
        ("Self-discharge: 3% per month", "self_discharge_month", 0.03),
        ("Internal resistance 5 milliohm", "resistance_ohm", 0.005),
        ("Charging voltage 14.4V", "charge_voltage_v", 14.4),
        ("max. 4 in series", "max_series", 4.0),
        ("Dimensions 330 x 173 x 215 mm", "length_mm", 330.0),
        ("L x W x H: 13.0 x 6.8 x 8.5 inches", "length_mm", 330.2),
        ("300 Ah lead-acid equivalent", "lead_equivalent_ah", 300.0),
        ("Low temp charge cut-off: 0 °C", "cold_cutoff_c", 0.0),
        ("Cold charging protection at 23 F", "cold_cutoff_c", -5.0),
    ] {
        let got = paste::read(&format!("Teal\n{text}"), System::Us).label.number(key);
        let close = got.is_some_and(|got| (got - value).abs() < 1e-6);
        assert!(close, "{text}: {key} is {got:?}, not {value}");
    }
    for (text, key, value) in [
        ("Chemistry: LiFePO4", "chemistry", "lfp"),
        ("Lithium Iron Phosphate", "chemistry", "lfp"),
        ("NMC cells", "chemistry", "nmc"),
        ("Absorbed Glass Mat", "chemistry", "agm"),
        ("Gelled electrolyte", "chemistry", "gel"),
        ("Flooded lead acid", "chemistry", "flooded"),
        ("Cylindrical cells", "build", "cylindrical"),
        ("semi-solid state", "build", "semi_solid"),
        ("Dual purpose", "purpose", "dual_purpose"),
        ("BCI Group: GC2", "size_class", "GC2"),
        ("Group 24", "size_class", "24"),
        ("Waterproof IP67", "ingress", "IP67"),
        ("M8 terminals", "terminals", "M8"),
        ("Name: Pintail 12-50", "name", "Pintail 12-50"),
        ("4000 cycles at 80% DOD", "cycles", "4000 at 80 %"),
        ("Cycle life: 3500", "cycles", "3500 at 80 %"),
        ("Seller: Reedmarsh Supply", "seller", "Reedmarsh Supply"),
    ] {
        let got = paste::read(&format!("Teal\n{text}"), System::Us).label;
        assert_eq!(said(&got, key), value, "{text}");
    }
    // Bare numbers are never guessed at.
    let bare = paste::read("Teal\n100\n12.8\nModel 2100", System::Us);
    assert_eq!(bare.label.number("capacity_ah"), None);
    assert_eq!(bare.left.len(), 3, "{:?}", bare.left);
}

/// Every field of the format, one after another, with figures and texts at their edges: whatever is accepted
/// comes back from both kinds of file, to the last digit.
#[test]
fn whatever_is_accepted_comes_back() {
    let schema: serde_json::Value = serde_json::from_str(&crate::schema::shelf()).expect("schema");
    let figures = [
        5e-324,
        1e-320,
        1e-300,
        1e-9,
        1.0 / 3.0,
        0.1 + 0.2,
        1.0,
        2.5,
        7.0,
        12.000_000_000_000_002,
        80.0,
        123_456.789,
        1e300,
        f64::MAX,
    ];
    let texts = [
        "Ärger",
        "ΣΊΓΜΑ",
        "=1+1",
        "-x",
        "'=x",
        "a,b;c",
        "two\nlines",
        "q\"q",
        "tab\there",
        "\u{202e}rtl",
        "e\u{301}",
        "🔋",
        "IP67",
        "lfp",
        "31",
        " padded ",
        "12 V",
    ];
    let (mut accepted, mut refused) = (0, 0);
    for part in ["CandidateDocument", "BatteryDocument"] {
        let fields = schema["$defs"][part]["properties"].as_object().expect("fields");
        for (field, _) in fields {
            let figures = figures.map(serde_json::Value::from);
            let texts = texts.map(serde_json::Value::from);
            for value in figures.into_iter().chain(texts) {
                // Minutes are kept as hours, which holds them to the last digit but one.
                if field.contains("minutes") && value.as_f64().is_some_and(|v| v.fract() != 0.0) {
                    continue;
                }
                let mut document = serde_json::json!({"battery": {
                    "name": "Teal", "chemistry": "lfp", "nominal_voltage_v": 12.8, "capacity_ah": 100}});
                match part {
                    "BatteryDocument" => document["battery"][field] = value,
                    _ if field == "battery" => continue,
                    _ => document[field] = value,
                }
                let Ok(candidate) = read_candidate(&document.to_string()) else {
                    refused += 1;
                    continue;
                };
                accepted += 1;
                let mut csv = table::header();
                csv.extend(table::row(&candidate));
                let read = good(std::str::from_utf8(&csv).expect("text"));
                assert!(read.iter().eq([&candidate]), "{document}");
                let json = format!(
                    "{{\"format\":\"{FORMAT}\",\"version\":1,\"batteries\":[{}]}}",
                    super::json(&candidate)
                );
                let mut back = Vec::new();
                stream::each(json.as_bytes(), |_, _, one| {
                    back.push(one.expect("readable"));
                    std::ops::ControlFlow::Continue(())
                })
                .expect("a shelf");
                assert_eq!(back, [candidate], "{document}");
            }
        }
    }
    assert!(accepted > 150 && refused > 300, "{accepted} accepted, {refused} refused");
}

/// A JSON shelf is read battery by battery: one that is wrong is told by its number and the others are
/// taken; what is wrong with the file as a whole is said in a sentence.
#[test]
fn a_json_shelf_is_read_one_by_one() {
    let teal = r#"{"battery":{"name":"Teal","chemistry":"lfp","nominal_voltage_v":12.8,"capacity_ah":100}}"#;
    let read = |text: &str| {
        let mut told = Vec::new();
        let end = stream::each(text.as_bytes(), |n, bytes, one| {
            assert!(bytes > 0 && bytes <= text.len() as u64);
            told.push((n, one.is_ok()));
            if n < 3 {
                std::ops::ControlFlow::Continue(())
            } else {
                std::ops::ControlFlow::Break(())
            }
        });
        (told, end)
    };
    let head = r#""format":"lake-hour/shelf","version":1"#;
    let (told, end) =
        read(&format!(r#"{{{head},"batteries":[{teal},{{"battery":7}},{teal},{teal}]}}"#));
    assert_eq!(
        (told, end),
        (vec![(1, true), (2, false), (3, true)], Ok(())),
        "told to stop at three"
    );
    for (text, says) in [
        (format!(r#"{{"version":1,"batteries":[{teal}]}}"#), "\"format\" is missing"),
        (format!(r#"{{"format":"other","batteries":[{teal}]}}"#), "format must be"),
        (format!(r#"{{{head},"batteries":[{teal}],"mast":1}}"#), "\"mast\" is no part of a shelf"),
        (format!(r#"{{{head},"batteries":[{teal}"#), "EOF"),
        (format!(r#"{{{head},{head},"batteries":[]}}"#), "comes twice"),
        ("[]".to_owned(), "a shelf: an object"),
        (format!(r#"{{{head},"batteries":["{}"]}}"#, "x".repeat(400_000)), "one battery is longer"),
        (format!(r#"{{{head},"batteries":[{}"#, "[".repeat(100_000)), "cannot be read"),
        (r#"{"format":"lake-hour/shelf","version":2}"#.to_owned(), "version 1"),
    ] {
        let end = read(&text).1.expect_err(says);
        assert!(end.contains(says), "{end}");
    }
}

mod any_shelf {
    use super::*;
    use proptest::option::of;
    use proptest::prelude::*;

    fn name() -> impl Strategy<Value = String> {
        // Quotes, separators, formula signs, letters beyond ASCII.
        "[A-Za-zÀ-ž0-9=+@',;\"\\-][A-Za-zÀ-ž0-9 =+@',;\"\\-]{0,30}[A-Za-z0-9]"
    }

    fn figures() -> impl Strategy<Value = [Option<f64>; 8]> {
        [
            of(0.5..2000.0_f64),
            of(0.1..200.0),
            of(1.0..9000.0),
            of(1.0..4000.0),
            of(0.1..2000.0),
            of(0.1..500.0),
            of(0.0..99_999.0),
            of(-39.0..59.0),
        ]
    }

    fn candidate() -> impl Strategy<Value = Candidate> {
        let flags = (of(any::<bool>()), of(any::<bool>()), any::<bool>(), 0_usize..5, 0_usize..12);
        (name(), 1.0..380.0_f64, 0.2..9000.0_f64, figures(), flags).prop_map(
            |(name, volts, ah, figures, (heater, monitor, hidden, chemistry, class))| {
                let [energy, cutoff, reserve, cranking, long, mass, price, cold] = figures;
                // Labels give minutes; the hours that are kept hold them to the last digit only then.
                let reserve = reserve.map(|minutes| (minutes * 10.0).round() / 10.0);
                let chemistry = ["flooded", "agm", "gel", "lfp", "nmc"][chemistry];
                let document = serde_json::json!({
                    "battery": {
                        "name": name.trim(),
                        "chemistry": chemistry,
                        "nominal_voltage_v": volts,
                        "capacity_ah": ah,
                        "reserve_minutes_25a": reserve,
                        "cranking_a": cranking,
                        "max_continuous_current_a": long,
                        "low_voltage_cutoff_v": cutoff.map(|c| (c.min(volts) * 0.8).max(0.5)).filter(|c| *c < volts),
                        "mass_kg": mass,
                        "price": price,
                    },
                    "energy_wh": energy.map(|e| e + 1.0),
                    "cold_cutoff_c": cold,
                    "heater": heater,
                    "monitor": monitor,
                    "hidden": hidden,
                    "size_class": SizeClass::ALL[class].name(),
                });
                read_candidate(&document.to_string()).expect("within what is allowed")
            },
        )
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(200))]

        /// Whatever stands on a shelf, a file of either format brings it back to the last digit.
        #[test]
        fn a_round_trip_loses_nothing(all in prop::collection::vec(candidate(), 1..5)) {
            let mut csv = table::header();
            all.iter().for_each(|c| csv.extend(table::row(c)));
            prop_assert_eq!(&good(std::str::from_utf8(&csv).expect("text")), &all);
            for c in &all {
                prop_assert_eq!(&read_candidate(&write_candidate(c)).expect("again"), c);
                prop_assert!(table::differences(c, c).is_empty());
            }
        }

        /// No cell goes out that a spreadsheet would run.
        #[test]
        fn no_formula_goes_out(c in candidate()) {
            let line = table::row(&c);
            let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(line.as_slice());
            let record = reader.records().next().expect("a row").expect("readable");
            for (n, cell) in record.iter().enumerate() {
                let figure = cell.parse::<f64>().is_ok();
                prop_assert!(figure || !cell.starts_with(['=', '+', '-', '@', '\t', '\r']), "{n}: {cell}");
            }
        }

        /// Any bytes are read to their end or refused in words, by line, without a panic.
        #[test]
        fn any_bytes_are_read_or_refused(bytes in prop::collection::vec(any::<u8>(), 0..600), cells in "[a-z,;\"\n\r\t0-9=]{0,300}") {
            let mut file = format!("{HEAD}\n{cells}\n").into_bytes();
            file.extend(&bytes);
            for text in [&bytes, &file] {
                if let Ok(rows) = table::rows(text.as_slice()) {
                    for row in rows {
                        if let Ok(Row::Faulty(faults)) = row {
                            prop_assert!(!faults.is_empty());
                            prop_assert!(faults.iter().all(|f| f.line > 0 && f.says.len() < 400));
                        }
                    }
                }
                let _ = read(text);
            }
            let got = paste::read(&cells, System::Us);
            prop_assert!(got.found.len() < 600);
        }
    }
}

#[test]
fn every_column_is_documented() {
    let doc = include_str!("../../../../docs/formats/shelf.csv.md");
    let header = String::from_utf8(table::header()).expect("text");
    for column in header.trim_end().split(',') {
        assert!(doc.contains(&format!("`{column}`")), "{column}");
    }
}
