//! A result as CSV (RFC 4180) and as plain text.

use crate::result::{PackResult, ResultDocument};
use crate::shelf::table::guarded;
use std::fmt::Write as _;

/// The result as CSV: a header with units, a row per pack, lines ended by CRLF.
pub fn csv(result: &ResultDocument) -> String {
    let mut out =
        csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    let header = [
        "name",
        "outcome",
        "reasons",
        "voltage_v",
        "capacity_ah",
        "energy_wh",
        "mass_kg",
        "price_total",
        "charge_left",
        "charge_left_low",
        "charge_left_high",
        "stops_at_min",
        "floor_at_min",
        "reserve_at_min",
        "delivered_ah",
        "delivered_wh",
        "lowest_voltage_v",
        "hours_at_this_pace",
        "life_years",
        "life_outings",
        "life_ended_by",
        "cost_per_cycle",
        "cost_per_kwh",
        "cost_per_lake_hour",
    ];
    // Writing to memory cannot fail, and every row has the header's length.
    let _ = out.write_record(header);
    for p in &result.packs {
        let n = |v: Option<f64>| v.map(|v| v.to_string()).unwrap_or_default();
        let _ = out.write_record([
            guarded(&p.name),
            p.outcome.to_owned(),
            guarded(&p.reasons.join("; ")),
            p.voltage_v.to_string(),
            n(p.capacity_ah),
            n(p.energy_wh),
            n(p.mass_kg),
            n(p.price_total),
            n(p.charge_left),
            n(p.charge_left_low),
            n(p.charge_left_high),
            n(p.stops_at_min),
            n(p.floor_at_min),
            n(p.reserve_at_min),
            n(p.delivered_ah),
            n(p.delivered_wh),
            n(p.lowest_voltage_v),
            n(p.hours_at_this_pace),
            n(p.life_years),
            n(p.life_outings),
            p.life_ended_by.unwrap_or_default().to_owned(),
            n(p.cost_per_cycle),
            n(p.cost_per_kwh),
            n(p.cost_per_lake_hour),
        ]);
    }
    out.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
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

#[cfg(test)]
mod tests {
    use super::guarded;

    /// RFC 4180 leaves it to practice: a leading =, +, - or @ is a formula to a spreadsheet.
    #[test]
    fn a_name_cannot_become_a_formula() {
        assert_eq!(guarded("=1+1"), "'=1+1");
        assert_eq!(guarded("@x"), "'@x");
        assert_eq!(guarded("Marl Point"), "Marl Point");
    }
}
