//! `lake-hour/plan`, version 1.
//!
//! The structs are the document's shape; [`read()`] turns one into the core's [`Plan`] or into every
//! fault it has.

mod check;
#[cfg(test)]
mod tests;
mod write;

pub use write::write;

use crate::fault::Faults;
use lake_hour_core::plan::Plan;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Largest document looked at. [bytes]
pub const LARGEST: usize = 16 * 1024 * 1024;

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/plan";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;

/// A plan: a rig, its day, the house rules, and the packs to compare.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanDocument {
    /// Always `lake-hour/plan`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    /// Three-letter currency code of every price; USD if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub currency: Option<String>,
    /// The craft and its motor.
    pub rig: RigDocument,
    /// The day out.
    pub day: DayDocument,
    /// How low to go, what to keep, how far to look ahead.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub house_rules: Option<HouseRulesDocument>,
    /// The packs to compare.
    #[serde(default)]
    pub packs: Vec<PackDocument>,
}

/// The craft and its motor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RigDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// The boat or cart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub craft: Option<CraftDocument>,
    /// The motor.
    pub motor: MotorDocument,
    /// Highest voltage the controller bears. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub controller_max_voltage_v: Option<f64>,
    /// Lowest voltage at which the controller still works. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub controller_min_voltage_v: Option<f64>,
    /// Weight of battery the craft may carry. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub battery_mass_limit_kg: Option<f64>,
}

/// The boat or cart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CraftDocument {
    /// `kayak`, `canoe`, `jon_boat`, `v_hull`, `bass`, `pontoon`, `sailboat`, `rowing_skiff`,
    /// `golf_cart`, `utility_cart`, `lsv`, `go_kart`, `motorbike` or `conversion`.
    pub kind: String,
    /// Length. [m]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_m: Option<f64>,
    /// Mass with people, gear and batteries. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub loaded_mass_kg: Option<f64>,
}

/// The motor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MotorDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Nominal voltage of the system. [V]
    pub system_voltage_v: f64,
    /// Highest current it draws. [A]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub max_current_a: Option<f64>,
    /// Known points of its draw curve, by rising setting.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub settings: Vec<SettingDocument>,
}

/// One point of a draw curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SettingDocument {
    /// Control setting, 0 to 10.
    pub setting: f64,
    /// Current drawn there. [A]
    pub current_a: f64,
}

/// The day out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct DayDocument {
    /// Clock time of the start, `HH:MM`; 07:00 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub start: Option<String>,
    /// Temperature around the batteries. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_c: Option<f64>,
    /// Temperature the batteries start at, when kept elsewhere. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub battery_start_c: Option<f64>,
    /// Days like this in a year; 30 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub outings_per_year: Option<f64>,
    /// What happens, in order.
    pub stretches: Vec<StretchDocument>,
    /// Devices that draw all day.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub accessories: Vec<AccessoryDocument>,
}

/// One stretch of the day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StretchDocument {
    /// What it is called.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// How long. [min]
    pub minutes: f64,
    /// What the motor does.
    pub load: LoadDocument,
}

/// What the motor does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum LoadDocument {
    /// Motor off.
    Off {},
    /// A steady current.
    Current {
        /// The current. [A]
        current_a: f64,
    },
    /// A steady power, until the motor is at its full setting.
    Power {
        /// The power. [W]
        power_w: f64,
    },
    /// A control setting; the motor fades as the voltage falls.
    Setting {
        /// The setting, 0 to 10.
        setting: f64,
    },
}

/// A device that draws all day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct AccessoryDocument {
    /// What it is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What it draws. [W]
    pub power_w: f64,
}

/// The rules of the house.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HouseRulesDocument {
    /// Share of the charge that stays in the battery, by chemistry.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub floor: Option<std::collections::BTreeMap<String, f64>>,
    /// Share of what may be used that is kept for the way home.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reserve: Option<f64>,
    /// Years looked ahead.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub horizon_years: Option<f64>,
    /// Temperature the batteries are kept at between outings; 25 if absent. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kept_at_c: Option<f64>,
    /// Charge the batteries rest at between outings; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub resting_charge: Option<f64>,
}

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
    /// One unit that is worn or unequal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weak_unit: Option<WeakUnitDocument>,
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

/// Reads a plan.
///
/// # Errors
/// [`Faults`], every one that was found: not JSON, another format or version, unknown fields,
/// figures outside what is allowed.
pub fn read(bytes: &[u8]) -> Result<Plan, Faults> {
    if bytes.len() > LARGEST {
        let says = format!("{} MB; at most {} MB are read", bytes.len() >> 20, LARGEST >> 20);
        return Err(Faults::one("", says));
    }
    let text = std::str::from_utf8(bytes).map_err(|e| {
        Faults::one("", format!("not UTF-8 text: byte {} cannot be read", e.valid_up_to()))
    })?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut json = serde_json::Deserializer::from_str(text);
    let document: PlanDocument = serde_path_to_error::deserialize(&mut json).map_err(|e| {
        let at = e.path().to_string();
        let at = if at == "." { String::new() } else { at };
        Faults::one(at, e.into_inner().to_string())
    })?;
    json.end().map_err(|e| Faults::one("", e.to_string()))?;
    check::plan(&document)
}
