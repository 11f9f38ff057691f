//! A result as CSV (RFC 4180) and as plain text.

use crate::result::{PackResult, ResultDocument};
use serde_json::Value;
use std::fmt::Write as _;

/// The result as CSV: a header with units, a row per pack, lines ended by CRLF. The columns are the fields of
/// the JSON result, all but the working; what is a list there is joined by "; ".
pub fn csv(result: &ResultDocument) -> String {
    let mut out =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    let schema = schemars::schema_for!(PackResult);
    let fields = schema.get("properties").and_then(Value::as_object);
    let header: Vec<&String> =
        fields.into_iter().flat_map(|f| f.keys()).filter(|key| *key != "working").collect();
    // Writing to memory cannot fail, and every row has the header's length.
    let _ = out.write_record(&header);
    for pack in &result.packs {
        let pack = serde_json::to_value(pack).unwrap_or_default();
        let _ = out.write_record(header.iter().map(|key| cell(&pack[key.as_str()])));
    }
    out.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

/// Rows of text as CSV, lines ended by CRLF, all as long as the header. What begins like a formula is made text.
pub fn rows(header: &[String], rows: impl Iterator<Item = Vec<String>>) -> String {
    let mut out =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    // Writing to memory cannot fail.
    let _ = out.write_record(header);
    for row in rows {
        let _ = out.write_record(row.iter().map(|cell| guarded(cell)));
    }
    out.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

fn cell(value: &Value) -> String {
    match value {
        Value::Null => String::new(),
        Value::String(text) => guarded(text),
        Value::Array(all) => {
            let words = all.iter().map(|v| v.as_str().map_or_else(|| v.to_string(), str::to_owned));
            guarded(&words.collect::<Vec<_>>().join("; "))
        }
        other => other.to_string(),
    }
}

/// The result in sentences, a paragraph per pack.
pub fn text(result: &ResultDocument) -> String {
    let mut out = String::new();
    for p in &result.packs {
        // Writing to a string cannot fail.
        let _ = writeln!(out, "{}: {}", p.name, verdict(p));
        if let (Some(wh), Some(kg)) = (p.energy_wh, p.mass_kg) {
            let _ = writeln!(out, "  {wh:.0} Wh on the label, {kg:.1} kg");
        }
        if let (Some(low), Some(high)) = (p.charge_left_low, p.charge_left_high) {
            let _ = writeln!(
                out,
                "  charge left {:.0} % on a bad day to {:.0} % on a good one",
                low * 100.0,
                high * 100.0
            );
        }
        if let (Some(total), Some(cycle)) = (p.price_total, p.cost_per_cycle) {
            let _ = writeln!(out, "  {total:.0} {}, {cycle:.2} a cycle", result.currency);
        }
        for note in &p.notes {
            let _ = writeln!(out, "  {note}");
        }
    }
    out.push_str(
        "Lake Hour estimates: local codes, the makers' manuals and licensed practice come first.\n",
    );
    out
}

fn verdict(p: &PackResult) -> String {
    let left = p.charge_left.unwrap_or_default() * 100.0;
    let at = p.stops_at_min.unwrap_or_default();
    let name = p.verdict.stretch.as_deref().unwrap_or_default();
    match p.verdict.what {
        "cannot_hold" => return format!("cannot hold the place: {name}"),
        "cannot_make" => return format!("cannot make the speed: {name}"),
        "home_slower" => return format!("gets home slower than planned, {left:.0} % left"),
        _ => {}
    }
    match p.outcome {
        "home" => format!("gets home{}, {left:.0} % left", to_spare(p)),
        "below_reserve" => format!("gets home{}, {left:.0} % left, in reserve", to_spare(p)),
        "below_floor" => {
            format!("gets home with {left:.0} % left, below the floor: shortens battery life")
        }
        "stops" => format!("stops after {at:.0} min"),
        "trips" => format!("BMS shuts off on current after {at:.0} min"),
        _ => format!("set aside: {}", p.reasons.join("; ")),
    }
}

/// " with 3.3 h (7.4 mi) to spare".
fn to_spare(p: &PackResult) -> String {
    let miles = p.miles_to_spare.map(|m| format!(" ({m:.1} mi)")).unwrap_or_default();
    p.hours_to_spare.map(|h| format!(" with {h:.1} h{miles} to spare")).unwrap_or_default()
}

/// A cell that a spreadsheet would take for a formula is made text by an apostrophe; so is one that
/// begins with an apostrophe, or the first could not be told from it.
pub(crate) fn guarded(cell: &str) -> String {
    if cell.starts_with(['=', '+', '-', '@', '\t', '\r', '\'']) {
        format!("'{cell}")
    } else {
        cell.to_owned()
    }
}

#[cfg(test)]
mod tests {
    use super::{csv, guarded};
    use crate::{plan, result};

    /// Whatever the JSON result tells of a pack stands in its row, under the same name.
    #[test]
    fn a_row_tells_all_that_the_json_result_tells() {
        let plan = include_bytes!("../tests/data/sampling-skiff.plan.json");
        let plan = plan::read(plan).expect("a plan");
        let evaluations = plan.evaluate().expect("known");
        let document = result::document(&plan, &evaluations, false);
        let told = serde_json::to_value(&document.packs[0]).expect("JSON");
        let text = csv(&document);
        let mut rows = ::csv::Reader::from_reader(text.as_bytes());
        let header = rows.headers().expect("a header").clone();
        let row = rows.records().next().expect("a row").expect("sound");
        assert_eq!(header.len(), told.as_object().expect("fields").len());
        for (name, cell) in std::iter::zip(&header, &row) {
            let json = &told[name];
            let same = match json {
                serde_json::Value::Null => cell.is_empty(),
                serde_json::Value::Number(n) => cell.parse() == Ok(n.as_f64().unwrap_or(f64::NAN)),
                serde_json::Value::Bool(b) => cell == b.to_string(),
                serde_json::Value::String(text) => cell == text,
                // More than a figure stands there as it does in the result.
                serde_json::Value::Object(_) => {
                    serde_json::from_str(cell).is_ok_and(|v: serde_json::Value| v == *json)
                }
                serde_json::Value::Array(all) => {
                    all.iter().filter_map(|one| one.as_str()).all(|one| cell.contains(one))
                }
            };
            assert!(same, "{name}: {cell:?} is not {json}");
        }
        let none = csv(&result::document(
            &lake_hour_core::plan::Plan { packs: Vec::new(), ..plan },
            &[],
            false,
        ));
        assert_eq!(none.trim_end().split(',').count(), header.len(), "a header even of nothing");
    }

    /// What is said in sentences is the one verdict: a place that is not held is no way home, however much is left.
    #[test]
    fn sentences_say_the_verdict() {
        let mut plan = serde_json::from_slice::<serde_json::Value>(include_bytes!(
            "../tests/data/sampling-skiff.plan.json"
        ))
        .expect("JSON");
        plan["day"]["stretches"][1]["load"] = serde_json::json!({"kind": "hold_place"});
        for (wind, says) in [(4.0, "gets home"), (30.0, "cannot hold the place: ")] {
            plan["day"]["wind_ms"] = wind.into();
            let plan = plan::read(plan.to_string().as_bytes()).expect("a plan");
            let evaluations = plan.evaluate().expect("known");
            let said = super::text(&result::document(&plan, &evaluations, false));
            let name = &plan.packs[0].name;
            assert!(said.starts_with(&format!("{name}: {says}")), "{said}");
            assert!(wind < 9.0 || !said.contains("gets home"), "{said}");
        }
    }

    /// RFC 4180 leaves it to practice: a leading =, +, - or @ is a formula to a spreadsheet.
    #[test]
    fn a_name_cannot_become_a_formula() {
        assert_eq!(guarded("=1+1"), "'=1+1");
        assert_eq!(guarded("@x"), "'@x");
        assert_eq!(guarded("Marl Point"), "Marl Point");
    }
}
