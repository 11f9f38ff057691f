//! Packs and their batteries: the document, its check, its writing.

use crate::fault::{At, Checker};
use lake_hour_core::allowed;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::shelf::{
    Battery, Chemistry, Correction, CyclePoint, Detail, Peak, Rating, Size,
};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::{
    AmpHours, Amps, Hours, Kilograms, Millimetres, Ohms, Volts, WattHours,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Seconds a peak current is borne when the label does not say. Common practice, no source.
const USUAL_PEAK_SECONDS: f64 = 5.0;

/// Units in series and parallel.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PackDocument {
    /// Its name; the battery's if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Units in each string; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub series: Option<f64>,
    /// Strings side by side; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub parallel: Option<f64>,
    /// Charger, meter, cables, converter: what it takes beside the batteries.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub extra_cost: Option<f64>,
    /// Name of the battery of the shelf that it was built of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<String>,
    /// One unit that is worn or unequal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weak_unit: Option<WeakUnitDocument>,
    /// Aboard today: the pack the others are compared with.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub aboard: bool,
    /// The unit it is built of.
    pub battery: BatteryDocument,
}

/// One worn or unequal unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WeakUnitDocument {
    /// Its capacity as a share of a sound one's.
    pub capacity_share: f64,
    /// Its resistance as a multiple of a sound one's; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub resistance_factor: Option<f64>,
}

/// A battery unit: what its label says.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct BatteryDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// `flooded`, `agm`, `gel`, `lfp` or `nmc`.
    pub chemistry: String,
    /// Nominal voltage. [V]
    pub nominal_voltage_v: f64,
    /// Ampere-hours. [Ah]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub capacity_ah: Option<f64>,
    /// Hours the ampere-hours are rated over; what is usual for the chemistry if absent. [h]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub capacity_hours: Option<f64>,
    /// Reserve capacity: minutes at 25 A.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reserve_minutes_25a: Option<f64>,
    /// Further ratings.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ratings: Vec<RatingDocument>,
    /// Cold cranking amps; never turned into ampere-hours. [A]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cranking_a: Option<f64>,
    /// Weight. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mass_kg: Option<f64>,
    /// Length. [mm]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_mm: Option<f64>,
    /// Width. [mm]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub width_mm: Option<f64>,
    /// Height with terminals. [mm]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub height_mm: Option<f64>,
    /// Price of one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<f64>,
    /// Highest current it may give without end. [A]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub max_continuous_current_a: Option<f64>,
    /// Highest current it may give for a moment. [A]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub peak_current_a: Option<f64>,
    /// How long that moment is; 5 if absent. [s]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub peak_seconds: Option<f64>,
    /// Voltage at which its protection opens. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low_voltage_cutoff_v: Option<f64>,
    /// Internal resistance. [ohm]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub resistance_ohm: Option<f64>,
    /// Cycles promised at depths of discharge.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cycles: Vec<CyclesDocument>,
    /// Years until the calendar ends it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub calendar_years: Option<f64>,
    /// Who vouches for a figure, by its name; the label, where it is not named.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub origins: BTreeMap<String, VouchedDocument>,
    /// Figures of the label that were replaced by plausible ones.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub corrected: Vec<CorrectedDocument>,
}

/// Who vouches for a figure, and since when.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct VouchedDocument {
    /// `measured`, `label`, `set`, `told` or `typical`.
    pub by: String,
    /// The day it was noted, as 2026-05-01.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub on: Option<String>,
}

/// A figure of the label that was replaced.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CorrectedDocument {
    /// Name of the figure.
    pub figure: String,
    /// What the label says; 0 where it says nothing.
    pub label_said: f64,
    /// What is reckoned with.
    pub used: f64,
}

/// A rating beside the main one: minutes at a current, ampere-hours over hours, or kilowatt-hours
/// over hours.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(
    untagged,
    expecting = "a rating is {current_a, minutes}, {capacity_ah, hours} or {energy_kwh, hours}"
)]
pub enum RatingDocument {
    /// Minutes at a steady current.
    Runtime(RuntimeDocument),
    /// Ampere-hours over some hours.
    Capacity(CapacityDocument),
    /// Kilowatt-hours over some hours.
    Energy(EnergyDocument),
}

/// Minutes at a steady current.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RuntimeDocument {
    /// The current. [A]
    pub current_a: f64,
    /// The minutes.
    pub minutes: f64,
}

/// Ampere-hours over some hours.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CapacityDocument {
    /// The ampere-hours. [Ah]
    pub capacity_ah: f64,
    /// The hours. [h]
    pub hours: f64,
}

/// Kilowatt-hours over some hours.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct EnergyDocument {
    /// The kilowatt-hours. [kWh]
    pub energy_kwh: f64,
    /// The hours. [h]
    pub hours: f64,
}

/// Cycles promised at a depth of discharge.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CyclesDocument {
    /// Depth of discharge, 0.01 to 1.
    pub depth: f64,
    /// Cycles.
    pub cycles: f64,
}

pub(super) fn check(c: &mut Checker, at: &str, doc: &PackDocument) -> Pack {
    let battery = battery(c, &format!("{at}.battery"), &doc.battery);
    Pack {
        name: match &doc.name {
            Some(name) => c.name(format!("{at}.name"), name),
            None => battery.name.clone(),
        },
        series: c.count(format!("{at}.series"), doc.series.unwrap_or(1.0), &allowed::SERIES),
        parallel: c.count(
            format!("{at}.parallel"),
            doc.parallel.unwrap_or(1.0),
            &allowed::PARALLEL,
        ),
        extra_cost: c.optional(format!("{at}.extra_cost"), doc.extra_cost, &allowed::PRICE),
        from: doc.from.as_ref().map(|name| c.name(format!("{at}.from"), name)),
        weak_unit: doc.weak_unit.map(|w| WeakUnit {
            capacity_share: c.number(
                format!("{at}.weak_unit.capacity_share"),
                w.capacity_share,
                &allowed::WEAK_SHARE,
            ),
            resistance_factor: c.number(
                format!("{at}.weak_unit.resistance_factor"),
                w.resistance_factor.unwrap_or(1.0),
                &allowed::WEAK_RESISTANCE,
            ),
        }),
        aboard: doc.aboard,
        battery,
    }
}

pub(crate) fn battery(c: &mut Checker, at: &str, doc: &BatteryDocument) -> Battery {
    let chemistry = Chemistry::from_key(&doc.chemistry).unwrap_or_else(|| {
        c.fault(At(at, "chemistry"), "must be one of flooded, agm, gel, lfp, nmc");
        Chemistry::Agm
    });
    let ratings = ratings(c, at, doc, chemistry);
    if ratings.is_empty() && doc.cranking_a.is_none() {
        c.fault(at, "give capacity_ah, reserve_minutes_25a or a rating");
    }
    let mut optional =
        |name: &str, value, allowed: &allowed::Allowed| c.optional(At(at, name), value, allowed);
    let sides = [
        optional("length_mm", doc.length_mm, &allowed::BATTERY_SIDE),
        optional("width_mm", doc.width_mm, &allowed::BATTERY_SIDE),
        optional("height_mm", doc.height_mm, &allowed::BATTERY_SIDE),
    ];
    let peak = optional("peak_current_a", doc.peak_current_a, &allowed::LIMIT_CURRENT);
    let seconds = optional("peak_seconds", doc.peak_seconds, &allowed::PEAK_SECONDS);
    let battery = Battery {
        name: String::new(),
        chemistry,
        nominal_voltage: Volts::ZERO,
        ratings,
        cranking: optional("cranking_a", doc.cranking_a, &allowed::CRANKING).map(Amps::of),
        mass: optional("mass_kg", doc.mass_kg, &allowed::UNIT_MASS).map(Kilograms::of),
        size: match sides.map(|s| s.map(Millimetres::of)) {
            [Some(length), Some(width), Some(height)] => Some(Size { length, width, height }),
            _ => None,
        },
        price: optional("price", doc.price, &allowed::PRICE),
        max_continuous: optional(
            "max_continuous_current_a",
            doc.max_continuous_current_a,
            &allowed::LIMIT_CURRENT,
        )
        .map(Amps::of),
        peak: peak.map(|current| Peak {
            current: Amps::of(current),
            seconds: seconds.unwrap_or(USUAL_PEAK_SECONDS),
        }),
        low_voltage_cutoff: optional(
            "low_voltage_cutoff_v",
            doc.low_voltage_cutoff_v,
            &allowed::VOLTAGE,
        )
        .map(Volts::of),
        resistance: optional("resistance_ohm", doc.resistance_ohm, &allowed::RESISTANCE)
            .map(Ohms::of),
        cycles: Vec::new(),
        calendar_years: optional("calendar_years", doc.calendar_years, &allowed::YEARS),
        origins: BTreeMap::new(),
        corrected: Vec::new(),
    };
    let (origins, corrected) = (origins(c, at, &doc.origins), corrected(c, at, &doc.corrected));
    let nominal =
        c.number(At(at, "nominal_voltage_v"), doc.nominal_voltage_v, &allowed::UNIT_VOLTAGE);
    if let Some(v) = doc.low_voltage_cutoff_v
        && v >= nominal
    {
        c.fault(At(at, "low_voltage_cutoff_v"), format!("must be below the nominal {nominal} V"));
    }
    c.at_most(&String::from(At(at, "cycles")), doc.cycles.len(), allowed::MOST_POINTS);
    let cycles =
        doc.cycles.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, p)| CyclePoint {
            depth: c.number(At(at, &format!("cycles[{n}].depth")), p.depth, &allowed::DEPTH),
            cycles: c.number(At(at, &format!("cycles[{n}].cycles")), p.cycles, &allowed::CYCLES),
        });
    let cycles = cycles.collect();
    let name = match &doc.name {
        Some(name) => c.name(At(at, "name"), name),
        None => format!("{} {nominal} V", chemistry.name()),
    };
    Battery { name, nominal_voltage: Volts::of(nominal), cycles, origins, corrected, ..battery }
}

fn origins(
    c: &mut Checker,
    at: &str,
    doc: &BTreeMap<String, VouchedDocument>,
) -> BTreeMap<Detail, Vouched> {
    let mut origins = BTreeMap::new();
    for (key, vouched) in doc.iter().take(Detail::ALL.len() * 2) {
        let at = format!("{at}.origins.{key}");
        let on = vouched.on.as_deref().map(str::parse::<jiff::civil::Date>);
        if matches!(on, Some(Err(_))) {
            c.fault(format!("{at}.on"), "must be a day as 2026-05-01");
        }
        match (Detail::from_key(key), Origin::from_key(&vouched.by)) {
            (Some(detail), Some(by)) => {
                origins.insert(detail, Vouched { by, on: on.and_then(Result::ok) });
            }
            (None, _) => c.fault(at, "is no figure of a label"),
            (_, None) => c.fault(at, "by must be measured, label, set, told or typical"),
        }
    }
    origins
}

fn corrected(c: &mut Checker, at: &str, doc: &[CorrectedDocument]) -> Vec<Correction> {
    c.at_most(&format!("{at}.corrected"), doc.len(), Detail::ALL.len());
    let mut all = Vec::new();
    for (n, d) in doc.iter().take(Detail::ALL.len()).enumerate() {
        let at = format!("{at}.corrected[{n}]");
        let range = &allowed::CORRECTED;
        let (said, used) = (
            c.number(format!("{at}.label_said"), d.label_said, range),
            c.number(format!("{at}.used"), d.used, range),
        );
        match Detail::from_key(&d.figure) {
            Some(detail) => all.push(Correction { detail, said, used }),
            None => c.fault(format!("{at}.figure"), "is no figure of a label"),
        }
    }
    all
}

fn ratings(c: &mut Checker, at: &str, doc: &BatteryDocument, chemistry: Chemistry) -> Vec<Rating> {
    let mut ratings = Vec::new();
    let hours = |c: &mut Checker, at: String, h| Hours::of(c.number(at, h, &allowed::RATED_HOURS));
    if let Some(ah) = doc.capacity_ah {
        let over = doc.capacity_hours.unwrap_or(chemistry.usual_rating_hours());
        ratings.push(Rating::Capacity {
            ah: AmpHours::of(c.number(format!("{at}.capacity_ah"), ah, &allowed::CAPACITY)),
            over: hours(c, format!("{at}.capacity_hours"), over),
        });
    }
    if let Some(minutes) = doc.reserve_minutes_25a {
        let at = format!("{at}.reserve_minutes_25a");
        ratings.push(Rating::reserve(c.number(at, minutes, &allowed::RATED_MINUTES)));
    }
    c.at_most(&format!("{at}.ratings"), doc.ratings.len(), allowed::MOST_POINTS);
    for (n, rating) in doc.ratings.iter().take(allowed::MOST_POINTS).enumerate() {
        let at = |name: &str| format!("{at}.ratings[{n}].{name}");
        ratings.push(match *rating {
            RatingDocument::Runtime(RuntimeDocument { current_a, minutes }) => Rating::Runtime {
                at: Amps::of(c.number(at("current_a"), current_a, &allowed::LIMIT_CURRENT)),
                lasted: Hours::from_minutes(c.number(
                    at("minutes"),
                    minutes,
                    &allowed::RATED_MINUTES,
                )),
            },
            RatingDocument::Capacity(CapacityDocument { capacity_ah, hours: over }) => {
                Rating::Capacity {
                    ah: AmpHours::of(c.number(at("capacity_ah"), capacity_ah, &allowed::CAPACITY)),
                    over: hours(c, at("hours"), over),
                }
            }
            RatingDocument::Energy(EnergyDocument { energy_kwh, hours: over }) => Rating::Energy {
                wh: WattHours::of(
                    c.number(at("energy_kwh"), energy_kwh, &allowed::UNIT_ENERGY) * 1000.0,
                ),
                over: hours(c, at("hours"), over),
            },
        });
    }
    ratings
}

pub(super) fn write(pack: &Pack) -> PackDocument {
    PackDocument {
        name: Some(pack.name.clone()),
        series: Some(f64::from(pack.series)),
        parallel: Some(f64::from(pack.parallel)),
        extra_cost: pack.extra_cost,
        from: pack.from.clone(),
        weak_unit: pack.weak_unit.map(|w| WeakUnitDocument {
            capacity_share: w.capacity_share,
            resistance_factor: Some(w.resistance_factor),
        }),
        aboard: pack.aboard,
        battery: battery_document(&pack.battery),
    }
}

pub(crate) fn battery_document(b: &Battery) -> BatteryDocument {
    BatteryDocument {
        name: Some(b.name.clone()),
        chemistry: b.chemistry.key().to_owned(),
        nominal_voltage_v: b.nominal_voltage.value(),
        ratings: b
            .ratings
            .iter()
            .map(|r| match *r {
                Rating::Capacity { ah, over } => RatingDocument::Capacity(CapacityDocument {
                    capacity_ah: ah.value(),
                    hours: over.value(),
                }),
                Rating::Runtime { at, lasted } => RatingDocument::Runtime(RuntimeDocument {
                    current_a: at.value(),
                    minutes: lasted.minutes(),
                }),
                Rating::Energy { wh, over } => RatingDocument::Energy(EnergyDocument {
                    energy_kwh: wh.value() / 1000.0,
                    hours: over.value(),
                }),
            })
            .collect(),
        cranking_a: b.cranking.map(Amps::value),
        mass_kg: b.mass.map(Kilograms::value),
        length_mm: b.size.map(|s| s.length.value()),
        width_mm: b.size.map(|s| s.width.value()),
        height_mm: b.size.map(|s| s.height.value()),
        price: b.price,
        max_continuous_current_a: b.max_continuous.map(Amps::value),
        peak_current_a: b.peak.map(|p| p.current.value()),
        peak_seconds: b.peak.map(|p| p.seconds),
        low_voltage_cutoff_v: b.low_voltage_cutoff.map(Volts::value),
        resistance_ohm: b.resistance.map(lake_hour_core::units::Ohms::value),
        cycles: b
            .cycles
            .iter()
            .map(|p| CyclesDocument { depth: p.depth, cycles: p.cycles })
            .collect(),
        calendar_years: b.calendar_years,
        origins: b
            .origins
            .iter()
            .map(|(detail, v)| {
                let on = v.on.map(|day| day.to_string());
                (detail.key().to_owned(), VouchedDocument { by: v.by.key().to_owned(), on })
            })
            .collect(),
        corrected: b
            .corrected
            .iter()
            .map(|c| CorrectedDocument {
                figure: c.detail.key().to_owned(),
                label_said: c.said,
                used: c.used,
            })
            .collect(),
        ..BatteryDocument::default()
    }
}
