//! A rig with its day and its house rules as a row.

use crate::error::StoreError;
use lake_hour_core::day::{Accessory, Day, Stretch};
use lake_hour_core::house::HouseRules;
use lake_hour_core::life::Keeping;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{Craft, CraftKind, Motor, Rig, SettingPoint};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::{Amps, Celsius, Kilograms, Volts, Watts};
use rusqlite::{Connection, OptionalExtension, Row, named_params};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct RigRow {
    pub(crate) id: i64,
    name: String,
    currency: String,
    craft_kind: String,
    length_m: Option<f64>,
    loaded_mass_kg: Option<f64>,
    motor_name: String,
    system_voltage_v: f64,
    max_current_a: Option<f64>,
    draw_curve: Vec<(f64, f64)>,
    controller_max_v: Option<f64>,
    controller_min_v: Option<f64>,
    battery_mass_limit_kg: Option<f64>,
    day_start_minute: u16,
    ambient_c: Option<f64>,
    battery_start_c: Option<f64>,
    outings_per_year: f64,
    devices: Vec<(String, f64)>,
    floors: BTreeMap<String, f64>,
    reserve: f64,
    horizon_years: f64,
    kept_at_c: f64,
    resting_charge: f64,
}

impl RigRow {
    /// Of a plan, without its stretches and packs.
    pub(crate) fn new(id: i64, plan: &Plan) -> Self {
        let (rig, day, rules) = (&plan.rig, &plan.day, &plan.rules);
        let floors = Chemistry::ALL.map(|c| (c.key().to_owned(), rules.floor(c)));
        Self {
            id,
            name: rig.name.clone(),
            currency: plan.currency.clone(),
            craft_kind: rig.craft.kind.key().to_owned(),
            length_m: rig.craft.length_m,
            loaded_mass_kg: rig.craft.loaded_mass.map(Kilograms::value),
            motor_name: rig.motor.name.clone(),
            system_voltage_v: rig.motor.system_voltage.value(),
            max_current_a: rig.motor.max_current.map(Amps::value),
            draw_curve: rig.motor.settings.iter().map(|p| (p.setting, p.current.value())).collect(),
            controller_max_v: rig.controller_max.map(Volts::value),
            controller_min_v: rig.controller_min.map(Volts::value),
            battery_mass_limit_kg: rig.battery_mass_limit.map(Kilograms::value),
            day_start_minute: day.start_minute,
            ambient_c: day.ambient.map(Celsius::value),
            battery_start_c: day.battery_start.map(Celsius::value),
            outings_per_year: day.outings_per_year,
            devices: day.accessories.iter().map(|a| (a.name.clone(), a.power.value())).collect(),
            floors: floors.into(),
            reserve: rules.reserve,
            horizon_years: rules.horizon_years,
            kept_at_c: rules.keeping.temperature.value(),
            resting_charge: rules.keeping.resting_charge,
        }
    }

    /// The plan of this row with its stretches and packs.
    pub(crate) fn plan(
        &self,
        stretches: Vec<Stretch>,
        packs: Vec<Pack>,
    ) -> Result<Plan, StoreError> {
        let kind = CraftKind::from_key(&self.craft_kind).ok_or(StoreError::Unknown("craft"))?;
        let mut rules = HouseRules {
            reserve: self.reserve,
            horizon_years: self.horizon_years,
            keeping: Keeping {
                temperature: Celsius::of(self.kept_at_c),
                resting_charge: self.resting_charge,
            },
            ..HouseRules::default()
        };
        for chemistry in Chemistry::ALL {
            if let Some(&floor) = self.floors.get(chemistry.key()) {
                rules = rules.with_floor(chemistry, floor);
            }
        }
        let settings = self
            .draw_curve
            .iter()
            .map(|&(setting, amps)| SettingPoint { setting, current: Amps::of(amps) })
            .collect();
        Ok(Plan {
            currency: self.currency.clone(),
            rig: Rig {
                name: self.name.clone(),
                craft: Craft {
                    kind,
                    length_m: self.length_m,
                    loaded_mass: self.loaded_mass_kg.map(Kilograms::of),
                },
                motor: Motor {
                    name: self.motor_name.clone(),
                    system_voltage: Volts::of(self.system_voltage_v),
                    max_current: self.max_current_a.map(Amps::of),
                    settings,
                },
                controller_max: self.controller_max_v.map(Volts::of),
                controller_min: self.controller_min_v.map(Volts::of),
                battery_mass_limit: self.battery_mass_limit_kg.map(Kilograms::of),
            },
            day: Day {
                start_minute: self.day_start_minute,
                ambient: self.ambient_c.map(Celsius::of),
                battery_start: self.battery_start_c.map(Celsius::of),
                outings_per_year: self.outings_per_year,
                stretches,
                accessories: self
                    .devices
                    .iter()
                    .map(|(name, watts)| Accessory { name: name.clone(), power: Watts::of(*watts) })
                    .collect(),
            },
            rules,
            packs,
        })
    }

    fn from_row(row: &Row<'_>) -> Result<Self, StoreError> {
        let json = |column: &str| row.get::<_, String>(column);
        Ok(Self {
            id: row.get("id")?,
            name: row.get("name")?,
            currency: row.get("currency")?,
            craft_kind: row.get("craft_kind")?,
            length_m: row.get("length_m")?,
            loaded_mass_kg: row.get("loaded_mass_kg")?,
            motor_name: row.get("motor_name")?,
            system_voltage_v: row.get("system_voltage_v")?,
            max_current_a: row.get("max_current_a")?,
            draw_curve: serde_json::from_str(&json("draw_curve")?)?,
            controller_max_v: row.get("controller_max_v")?,
            controller_min_v: row.get("controller_min_v")?,
            battery_mass_limit_kg: row.get("battery_mass_limit_kg")?,
            day_start_minute: row.get("day_start_minute")?,
            ambient_c: row.get("ambient_c")?,
            battery_start_c: row.get("battery_start_c")?,
            outings_per_year: row.get("outings_per_year")?,
            devices: serde_json::from_str(&json("devices")?)?,
            floors: serde_json::from_str(&json("floors")?)?,
            reserve: row.get("reserve")?,
            horizon_years: row.get("horizon_years")?,
            kept_at_c: row.get("kept_at_c")?,
            resting_charge: row.get("resting_charge")?,
        })
    }

    pub(crate) fn get(c: &Connection, id: i64) -> Result<Self, StoreError> {
        c.prepare_cached("SELECT * FROM rig WHERE id = ?1")?
            .query_row([id], |row| Ok(Self::from_row(row)))
            .optional()?
            .ok_or(StoreError::NotFound("rig"))?
    }

    /// Writes the row; an id of 0 is given a new one, which is returned.
    pub(crate) fn put(&self, c: &Connection) -> Result<i64, StoreError> {
        // An upsert, not a replacement: replacing would delete the row first, and with it, by the
        // foreign keys, everything that hangs on it.
        let sql =
            "INSERT INTO rig VALUES (nullif(:id, 0), :name, :currency, :craft_kind, :length_m,
                :loaded_mass_kg, :motor_name, :system_voltage_v, :max_current_a, :draw_curve,
                :controller_max_v, :controller_min_v, :battery_mass_limit_kg, :day_start_minute,
                :ambient_c, :battery_start_c, :outings_per_year, :devices, :floors, :reserve,
                :horizon_years, :kept_at_c, :resting_charge)
            ON CONFLICT (id) DO UPDATE SET name = excluded.name, currency = excluded.currency,
                craft_kind = excluded.craft_kind, length_m = excluded.length_m,
                loaded_mass_kg = excluded.loaded_mass_kg, motor_name = excluded.motor_name,
                system_voltage_v = excluded.system_voltage_v,
                max_current_a = excluded.max_current_a, draw_curve = excluded.draw_curve,
                controller_max_v = excluded.controller_max_v,
                controller_min_v = excluded.controller_min_v,
                battery_mass_limit_kg = excluded.battery_mass_limit_kg,
                day_start_minute = excluded.day_start_minute, ambient_c = excluded.ambient_c,
                battery_start_c = excluded.battery_start_c,
                outings_per_year = excluded.outings_per_year, devices = excluded.devices,
                floors = excluded.floors, reserve = excluded.reserve,
                horizon_years = excluded.horizon_years, kept_at_c = excluded.kept_at_c,
                resting_charge = excluded.resting_charge";
        c.prepare_cached(sql)?.execute(named_params! {
            ":id": self.id,
            ":name": self.name,
            ":currency": self.currency,
            ":craft_kind": self.craft_kind,
            ":length_m": self.length_m,
            ":loaded_mass_kg": self.loaded_mass_kg,
            ":motor_name": self.motor_name,
            ":system_voltage_v": self.system_voltage_v,
            ":max_current_a": self.max_current_a,
            ":draw_curve": serde_json::to_string(&self.draw_curve)?,
            ":controller_max_v": self.controller_max_v,
            ":controller_min_v": self.controller_min_v,
            ":battery_mass_limit_kg": self.battery_mass_limit_kg,
            ":day_start_minute": self.day_start_minute,
            ":ambient_c": self.ambient_c,
            ":battery_start_c": self.battery_start_c,
            ":outings_per_year": self.outings_per_year,
            ":devices": serde_json::to_string(&self.devices)?,
            ":floors": serde_json::to_string(&self.floors)?,
            ":reserve": self.reserve,
            ":horizon_years": self.horizon_years,
            ":kept_at_c": self.kept_at_c,
            ":resting_charge": self.resting_charge,
        })?;
        Ok(if self.id == 0 { c.last_insert_rowid() } else { self.id })
    }
}
