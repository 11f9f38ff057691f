//! A pack with its battery as a row.

use crate::error::StoreError;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Peak, Rating, Size};
use lake_hour_core::units::{
    AmpHours, Amps, Hours, Kilograms, Millimetres, Ohms, Volts, WattHours,
};
use rusqlite::{Connection, Row, named_params};
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct PackRow {
    pub(crate) id: i64,
    pub(crate) position: i64,
    name: String,
    series: u32,
    parallel: u32,
    extra_cost: f64,
    weak_capacity_share: Option<f64>,
    weak_resistance_factor: Option<f64>,
    battery_name: String,
    chemistry: String,
    nominal_voltage_v: f64,
    ratings: Vec<RatingEntry>,
    cranking_a: Option<f64>,
    mass_kg: Option<f64>,
    length_mm: Option<f64>,
    width_mm: Option<f64>,
    height_mm: Option<f64>,
    price: Option<f64>,
    max_continuous_a: Option<f64>,
    peak_a: Option<f64>,
    peak_seconds: Option<f64>,
    low_voltage_cutoff_v: Option<f64>,
    resistance_ohm: Option<f64>,
    cycles: Vec<(f64, f64)>,
    calendar_years: Option<f64>,
}

/// A rating as kept in the list.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum RatingEntry {
    Capacity { ah: f64, hours: f64 },
    Runtime { current_a: f64, minutes: f64 },
    Energy { wh: f64, hours: f64 },
}

impl PackRow {
    pub(crate) fn new(id: i64, position: i64, pack: &Pack) -> Self {
        let b = &pack.battery;
        let side = |pick: fn(&Size) -> Millimetres| b.size.as_ref().map(|s| pick(s).value());
        Self {
            id,
            position,
            name: pack.name.clone(),
            series: pack.series,
            parallel: pack.parallel,
            extra_cost: pack.extra_cost,
            weak_capacity_share: pack.weak_unit.map(|w| w.capacity_share),
            weak_resistance_factor: pack.weak_unit.map(|w| w.resistance_factor),
            battery_name: b.name.clone(),
            chemistry: b.chemistry.key().to_owned(),
            nominal_voltage_v: b.nominal_voltage.value(),
            ratings: b
                .ratings
                .iter()
                .map(|r| match *r {
                    Rating::Capacity { ah, over } => {
                        RatingEntry::Capacity { ah: ah.value(), hours: over.value() }
                    }
                    Rating::Runtime { at, lasted } => {
                        RatingEntry::Runtime { current_a: at.value(), minutes: lasted.minutes() }
                    }
                    Rating::Energy { wh, over } => {
                        RatingEntry::Energy { wh: wh.value(), hours: over.value() }
                    }
                })
                .collect(),
            cranking_a: b.cranking.map(Amps::value),
            mass_kg: b.mass.map(Kilograms::value),
            length_mm: side(|s| s.length),
            width_mm: side(|s| s.width),
            height_mm: side(|s| s.height),
            price: b.price,
            max_continuous_a: b.max_continuous.map(Amps::value),
            peak_a: b.peak.map(|p| p.current.value()),
            peak_seconds: b.peak.map(|p| p.seconds),
            low_voltage_cutoff_v: b.low_voltage_cutoff.map(Volts::value),
            resistance_ohm: b.resistance.map(Ohms::value),
            cycles: b.cycles.iter().map(|p| (p.depth, p.cycles)).collect(),
            calendar_years: b.calendar_years,
        }
    }

    pub(crate) fn pack(&self) -> Result<Pack, StoreError> {
        let chemistry =
            Chemistry::from_key(&self.chemistry).ok_or(StoreError::Unknown("chemistry"))?;
        let size = match (self.length_mm, self.width_mm, self.height_mm) {
            (Some(l), Some(w), Some(h)) => Some(Size {
                length: Millimetres::of(l),
                width: Millimetres::of(w),
                height: Millimetres::of(h),
            }),
            _ => None,
        };
        let peak = self
            .peak_a
            .map(|a| Peak { current: Amps::of(a), seconds: self.peak_seconds.unwrap_or(0.0) });
        let ratings = self.ratings.iter().map(|r| match *r {
            RatingEntry::Capacity { ah, hours } => {
                Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(hours) }
            }
            RatingEntry::Runtime { current_a, minutes } => {
                Rating::Runtime { at: Amps::of(current_a), lasted: Hours::from_minutes(minutes) }
            }
            RatingEntry::Energy { wh, hours } => {
                Rating::Energy { wh: WattHours::of(wh), over: Hours::of(hours) }
            }
        });
        Ok(Pack {
            name: self.name.clone(),
            series: self.series,
            parallel: self.parallel,
            extra_cost: self.extra_cost,
            weak_unit: self.weak_capacity_share.map(|capacity_share| WeakUnit {
                capacity_share,
                resistance_factor: self.weak_resistance_factor.unwrap_or(1.0),
            }),
            battery: Battery {
                name: self.battery_name.clone(),
                chemistry,
                nominal_voltage: Volts::of(self.nominal_voltage_v),
                ratings: ratings.collect(),
                cranking: self.cranking_a.map(Amps::of),
                mass: self.mass_kg.map(Kilograms::of),
                size,
                price: self.price,
                max_continuous: self.max_continuous_a.map(Amps::of),
                peak,
                low_voltage_cutoff: self.low_voltage_cutoff_v.map(Volts::of),
                resistance: self.resistance_ohm.map(Ohms::of),
                cycles: self
                    .cycles
                    .iter()
                    .map(|&(depth, cycles)| CyclePoint { depth, cycles })
                    .collect(),
                calendar_years: self.calendar_years,
            },
        })
    }

    fn from_row(row: &Row<'_>) -> Result<Self, StoreError> {
        Ok(Self {
            id: row.get("id")?,
            position: row.get("position")?,
            name: row.get("name")?,
            series: row.get("series")?,
            parallel: row.get("parallel")?,
            extra_cost: row.get("extra_cost")?,
            weak_capacity_share: row.get("weak_capacity_share")?,
            weak_resistance_factor: row.get("weak_resistance_factor")?,
            battery_name: row.get("battery_name")?,
            chemistry: row.get("chemistry")?,
            nominal_voltage_v: row.get("nominal_voltage_v")?,
            ratings: serde_json::from_str(&row.get::<_, String>("ratings")?)?,
            cranking_a: row.get("cranking_a")?,
            mass_kg: row.get("mass_kg")?,
            length_mm: row.get("length_mm")?,
            width_mm: row.get("width_mm")?,
            height_mm: row.get("height_mm")?,
            price: row.get("price")?,
            max_continuous_a: row.get("max_continuous_a")?,
            peak_a: row.get("peak_a")?,
            peak_seconds: row.get("peak_seconds")?,
            low_voltage_cutoff_v: row.get("low_voltage_cutoff_v")?,
            resistance_ohm: row.get("resistance_ohm")?,
            cycles: serde_json::from_str(&row.get::<_, String>("cycles")?)?,
            calendar_years: row.get("calendar_years")?,
        })
    }

    pub(crate) fn all(c: &Connection, rig: i64) -> Result<Vec<Self>, StoreError> {
        let mut select =
            c.prepare_cached("SELECT * FROM pack WHERE rig_id = ?1 ORDER BY position, id")?;
        let mut rows = select.query([rig])?;
        let mut all = Vec::new();
        while let Some(row) = rows.next()? {
            all.push(Self::from_row(row)?);
        }
        Ok(all)
    }

    /// Writes the row; an id of 0 is given a new one, which is returned.
    pub(crate) fn put(&self, c: &Connection, rig: i64) -> Result<i64, StoreError> {
        c.prepare_cached(
            "INSERT OR REPLACE INTO pack VALUES (nullif(:id, 0), :rig, :position, :name, :series,
                :parallel, :extra_cost, :weak_capacity_share, :weak_resistance_factor,
                :battery_name, :chemistry, :nominal_voltage_v, :ratings, :cranking_a, :mass_kg,
                :length_mm, :width_mm, :height_mm, :price, :max_continuous_a, :peak_a,
                :peak_seconds, :low_voltage_cutoff_v, :resistance_ohm, :cycles, :calendar_years)",
        )?
        .execute(named_params! {
            ":id": self.id,
            ":rig": rig,
            ":position": self.position,
            ":name": self.name,
            ":series": self.series,
            ":parallel": self.parallel,
            ":extra_cost": self.extra_cost,
            ":weak_capacity_share": self.weak_capacity_share,
            ":weak_resistance_factor": self.weak_resistance_factor,
            ":battery_name": self.battery_name,
            ":chemistry": self.chemistry,
            ":nominal_voltage_v": self.nominal_voltage_v,
            ":ratings": serde_json::to_string(&self.ratings)?,
            ":cranking_a": self.cranking_a,
            ":mass_kg": self.mass_kg,
            ":length_mm": self.length_mm,
            ":width_mm": self.width_mm,
            ":height_mm": self.height_mm,
            ":price": self.price,
            ":max_continuous_a": self.max_continuous_a,
            ":peak_a": self.peak_a,
            ":peak_seconds": self.peak_seconds,
            ":low_voltage_cutoff_v": self.low_voltage_cutoff_v,
            ":resistance_ohm": self.resistance_ohm,
            ":cycles": serde_json::to_string(&self.cycles)?,
            ":calendar_years": self.calendar_years,
        })?;
        Ok(c.last_insert_rowid())
    }
}
