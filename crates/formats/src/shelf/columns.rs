//! The columns of a shelf's CSV: one list for reading, writing and the documentation.

use super::CandidateDocument as Doc;
use crate::plan::{
    CapacityDocument, CorrectedDocument, CyclesDocument, EnergyDocument, RatingDocument,
    RuntimeDocument, VouchedDocument,
};
use crate::words;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::shelf::{CyclePoint, Rating};
use lake_hour_core::units::parse;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Amps, Hours, WattHours};

/// What stands in a column.
pub(super) enum Holds {
    /// A number in the column's unit.
    Number(fn(&mut Doc) -> &mut Option<f64>, &'static Allowed),
    /// The same, where a cell may carry a unit of its own: "26 lb".
    Measure(fn(&mut Doc) -> &mut Option<f64>, Measure, &'static Allowed),
    /// Words.
    Text(fn(&mut Doc) -> &mut Option<String>),
    /// Yes or no.
    Flag(fn(&mut Doc) -> &mut Option<bool>),
    /// Anything else.
    Own(fn(&Doc) -> String, fn(&mut Doc, &str) -> Result<(), String>),
}

/// A column by name.
pub(super) struct Column {
    pub(super) name: &'static str,
    pub(super) holds: Holds,
}

const fn number(
    name: &'static str,
    of: fn(&mut Doc) -> &mut Option<f64>,
    range: &'static Allowed,
) -> Column {
    Column { name, holds: Holds::Number(of, range) }
}

const fn measure(
    name: &'static str,
    of: fn(&mut Doc) -> &mut Option<f64>,
    measure: Measure,
    range: &'static Allowed,
) -> Column {
    Column { name, holds: Holds::Measure(of, measure, range) }
}

const fn text(name: &'static str, of: fn(&mut Doc) -> &mut Option<String>) -> Column {
    Column { name, holds: Holds::Text(of) }
}

const fn flag(name: &'static str, of: fn(&mut Doc) -> &mut Option<bool>) -> Column {
    Column { name, holds: Holds::Flag(of) }
}

const fn own(
    name: &'static str,
    get: fn(&Doc) -> String,
    set: fn(&mut Doc, &str) -> Result<(), String>,
) -> Column {
    Column { name, holds: Holds::Own(get, set) }
}

/// All columns, in the order they are written.
pub(super) const COLUMNS: &[Column] = &[
    text("name", |d| &mut d.battery.name),
    own(
        "chemistry",
        |d| d.battery.chemistry.clone(),
        |d, cell| {
            d.battery.chemistry = cell.to_lowercase();
            Ok(())
        },
    ),
    text("build", |d| &mut d.build),
    text("purpose", |d| &mut d.purpose),
    text("size_class", |d| &mut d.size_class),
    own(
        "nominal_voltage_v",
        |d| d.battery.nominal_voltage_v.to_string(),
        |d, cell| {
            d.battery.nominal_voltage_v = read_number(cell, &allowed::UNIT_VOLTAGE)?;
            Ok(())
        },
    ),
    number("capacity_ah", |d| &mut d.battery.capacity_ah, &allowed::CAPACITY),
    number("capacity_hours", |d| &mut d.battery.capacity_hours, &allowed::RATED_HOURS),
    number("reserve_minutes_25a", |d| &mut d.battery.reserve_minutes_25a, &allowed::RATED_MINUTES),
    own(
        "ratings",
        |d| words::ratings(&d.battery.ratings.iter().map(rating).collect::<Vec<_>>()),
        |d, cell| {
            d.battery.ratings = words::read_ratings(cell)?.into_iter().map(document).collect();
            Ok(())
        },
    ),
    number("energy_wh", |d| &mut d.energy_wh, &allowed::LABEL_ENERGY),
    number("lead_equivalent_ah", |d| &mut d.lead_equivalent_ah, &allowed::CAPACITY),
    number("cranking_a", |d| &mut d.battery.cranking_a, &allowed::CRANKING),
    number(
        "max_continuous_current_a",
        |d| &mut d.battery.max_continuous_current_a,
        &allowed::LIMIT_CURRENT,
    ),
    number("peak_current_a", |d| &mut d.battery.peak_current_a, &allowed::LIMIT_CURRENT),
    number("peak_seconds", |d| &mut d.battery.peak_seconds, &allowed::PEAK_SECONDS),
    number("low_voltage_cutoff_v", |d| &mut d.battery.low_voltage_cutoff_v, &allowed::VOLTAGE),
    number("charge_voltage_v", |d| &mut d.charge_voltage_v, &allowed::VOLTAGE),
    number("resistance_ohm", |d| &mut d.battery.resistance_ohm, &allowed::RESISTANCE),
    measure("mass_kg", |d| &mut d.battery.mass_kg, Measure::Mass, &allowed::UNIT_MASS),
    measure("length_mm", |d| &mut d.battery.length_mm, Measure::Side, &allowed::BATTERY_SIDE),
    measure("width_mm", |d| &mut d.battery.width_mm, Measure::Side, &allowed::BATTERY_SIDE),
    measure("height_mm", |d| &mut d.battery.height_mm, Measure::Side, &allowed::BATTERY_SIDE),
    number("price", |d| &mut d.battery.price, &allowed::PRICE),
    own(
        "cycles",
        |d| {
            let of = |p: &CyclesDocument| CyclePoint { depth: p.depth, cycles: p.cycles };
            words::cycles(&d.battery.cycles.iter().map(of).collect::<Vec<_>>())
        },
        |d, cell| {
            let of = |p: CyclePoint| CyclesDocument { depth: p.depth, cycles: p.cycles };
            d.battery.cycles = words::read_cycles(cell)?.into_iter().map(of).collect();
            Ok(())
        },
    ),
    number("calendar_years", |d| &mut d.battery.calendar_years, &allowed::YEARS),
    number("self_discharge_month", |d| &mut d.self_discharge_month, &allowed::SELF_DISCHARGE),
    measure("cold_cutoff_c", |d| &mut d.cold_cutoff_c, Measure::Temperature, &allowed::TEMPERATURE),
    flag("heater", |d| &mut d.heater),
    flag("monitor", |d| &mut d.monitor),
    text("ingress", |d| &mut d.ingress),
    text("terminals", |d| &mut d.terminals),
    number("warranty_full_years", |d| &mut d.warranty_full_years, &allowed::WARRANTY),
    number("warranty_total_years", |d| &mut d.warranty_total_years, &allowed::WARRANTY),
    number("max_series", |d| &mut d.max_series, &allowed::SERIES),
    own(
        "origins",
        |d| {
            let words = d.battery.origins.iter().map(|(figure, v)| {
                let on = v.on.as_ref().map(|day| format!(" {day}")).unwrap_or_default();
                format!("{figure}: {}{on}", v.by)
            });
            words.collect::<Vec<_>>().join("; ")
        },
        |d, cell| {
            let of = |v: lake_hour_core::source::Vouched| VouchedDocument {
                by: v.by.key().to_owned(),
                on: v.on.map(|day| day.to_string()),
            };
            let origins = words::read_origins(cell)?.into_iter();
            d.battery.origins =
                origins.map(|(detail, v)| (detail.key().to_owned(), of(v))).collect();
            Ok(())
        },
    ),
    own(
        "corrected",
        |d| {
            let words = d.battery.corrected.iter().map(|c| {
                let figure = words::figure;
                format!("{}: {} is {}", c.figure, figure(c.label_said), figure(c.used))
            });
            words.collect::<Vec<_>>().join("; ")
        },
        |d, cell| {
            let of = |c: lake_hour_core::shelf::Correction| CorrectedDocument {
                figure: c.detail.key().to_owned(),
                label_said: c.said,
                used: c.used,
            };
            d.battery.corrected = words::read_corrected(cell)?.into_iter().map(of).collect();
            Ok(())
        },
    ),
    own(
        "accepted",
        |d| d.accepted.join("; "),
        |d, cell| {
            let keys = cell.split(';').map(|k| k.trim().to_owned());
            d.accepted = keys.filter(|k| !k.is_empty()).collect();
            Ok(())
        },
    ),
    own(
        "hidden",
        |d| if d.hidden { "yes" } else { "" }.to_owned(),
        |d, cell| {
            d.hidden = !cell.is_empty() && read_flag(cell)?;
            Ok(())
        },
    ),
];

/// A number with at most a word on why not.
pub(super) fn read_number(cell: &str, range: &Allowed) -> Result<f64, String> {
    // The plain way first: it is the one of nearly every cell.
    let plain = cell.parse::<f64>().ok().filter(|v| v.is_finite() && cell.len() < 32);
    match plain {
        Some(value) => range.check(value).map_err(|bad| bad.to_string()),
        None => parse::number(cell, range).map_err(|bad| bad.to_string()),
    }
}

/// A measure, with whether it carried a unit other than the column's.
pub(super) fn read_measure(
    cell: &str,
    measure: Measure,
    range: &Allowed,
) -> Result<(f64, bool), String> {
    if let Ok(value) = cell.parse::<f64>() {
        return range.check(value).map(|v| (v, false)).map_err(|bad| bad.to_string());
    }
    let value = System::Metric.read(cell, measure, range).map_err(|bad| bad.to_string())?;
    let own = System::Metric.unit(measure);
    let named = cell.trim_end_matches(|c: char| !c.is_ascii_digit());
    let unit = cell[named.len()..].trim();
    Ok((value, !unit.is_empty() && unit != own.name && !own.also.contains(&unit)))
}

pub(super) fn read_flag(cell: &str) -> Result<bool, String> {
    match cell.to_ascii_lowercase().as_str() {
        "yes" | "y" | "true" | "1" => Ok(true),
        "no" | "n" | "false" | "0" => Ok(false),
        _ => Err("Write yes or no.".to_owned()),
    }
}

fn rating(doc: &RatingDocument) -> Rating {
    match *doc {
        RatingDocument::Runtime(r) => {
            Rating::Runtime { at: Amps::of(r.current_a), lasted: Hours::from_minutes(r.minutes) }
        }
        RatingDocument::Capacity(r) => {
            Rating::Capacity { ah: AmpHours::of(r.capacity_ah), over: Hours::of(r.hours) }
        }
        RatingDocument::Energy(r) => {
            Rating::Energy { wh: WattHours::of(r.energy_kwh * 1000.0), over: Hours::of(r.hours) }
        }
    }
}

fn document(rating: Rating) -> RatingDocument {
    match rating {
        Rating::Runtime { at, lasted } => RatingDocument::Runtime(RuntimeDocument {
            current_a: at.value(),
            minutes: lasted.minutes(),
        }),
        Rating::Capacity { ah, over } => RatingDocument::Capacity(CapacityDocument {
            capacity_ah: ah.value(),
            hours: over.value(),
        }),
        Rating::Energy { wh, over } => RatingDocument::Energy(EnergyDocument {
            energy_kwh: wh.value() / 1000.0,
            hours: over.value(),
        }),
    }
}
