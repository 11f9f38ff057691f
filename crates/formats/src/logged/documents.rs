//! The documents of a log, as they stand in files.

use crate::plan::{PackDocument, PlanDocument};
use jiff::civil::Date;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The log of a rig.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LogDocument {
    /// Always `lake-hour/log`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    /// The entries, each with its number.
    pub entries: Vec<NumberedDocument>,
}

/// An entry with its number, by which others name it.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct NumberedDocument {
    /// Its number.
    pub id: i64,
    /// What was logged.
    pub logged: LoggedDocument,
}

/// What was logged.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum LoggedDocument {
    /// A pack that is owned.
    Owned(Box<OwnedDocument>),
    /// An outing.
    Outing(Box<OutingDocument>),
    /// A test, or something read ashore.
    Test(Box<TestDocument>),
}

/// A pack that is owned.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnedDocument {
    /// When it was bought.
    #[schemars(with = "String")]
    pub bought: Date,
    /// Where.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub shop: String,
    /// What was paid for all of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub paid: Option<f64>,
    /// Years of full warranty.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warranty_full_years: Option<f64>,
    /// Years until the end of a warranty that pays less every month.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warranty_prorated_years: Option<f64>,
    /// How warm it is where it is kept. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kept_at_c: Option<f64>,
    /// The day of the next outing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub next_date: Option<Date>,
    /// When it leaves then, in minutes of the day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub next_minute: Option<u16>,
    /// Since when it is not used any more.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub retired: Option<Date>,
    /// A note.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// Its units.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub units: Vec<OwnedUnitDocument>,
    /// The pack as it was bought.
    pub pack: PackDocument,
}

/// One unit of an owned pack.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnedUnitDocument {
    /// As it is painted on it.
    pub number: String,
    /// Its serial number.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub serial: String,
    /// Where it sits, counted from the positive end; out if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<u32>,
    /// Since when it sits there; since the purchase if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub since: Option<Date>,
    /// Since when it is out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub retired: Option<Date>,
}

/// A charge, as its owner knows it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
pub enum ChargeDocument {
    /// The charger ended by itself.
    Full,
    /// The percent of a meter.
    Meter {
        /// 0 to 1.
        charge: f64,
    },
    /// By feel.
    Feel {
        /// 0 to 1.
        charge: f64,
    },
    /// Volts of the whole pack after a rest, of lead.
    Rested {
        /// [V]
        volts_v: f64,
        /// How long it rested: `half_hour`, `four_hours` or `overnight` after use, `half_hour_charged`, `four_hours_charged` or
        /// `overnight_charged` after a charge; four hours after use where not told.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        rest: Option<String>,
    },
}

/// An outing as it went.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OutingDocument {
    /// When.
    #[schemars(with = "String")]
    pub date: Date,
    /// What the day is called.
    pub name: String,
    /// How long it lasted. [h]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hours: Option<f64>,
    /// How far it went. [m]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub distance_m: Option<f64>,
    /// Charge at the start.
    pub start: ChargeDocument,
    /// Charge at the end; give it or `used_ah`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub end: Option<ChargeDocument>,
    /// Amp-hours of a meter with a shunt. [Ah]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub used_ah: Option<f64>,
    /// Wind that was measured. [m/s]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wind_ms: Option<f64>,
    /// The setting at which amps were read, 0 to 10.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_setting: Option<f64>,
    /// Amps of one motor there. [A]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub read_current_a: Option<f64>,
    /// A note.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// The number of the owned pack that it was driven with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub owned: Option<i64>,
    /// What a monitor recorded of it, by its number in the database; of no use elsewhere.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub recorded: Option<i64>,
    /// Nothing is to be learnt from it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub left_out: bool,
    /// It was played by a stand-in: counted nowhere.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub practice: bool,
    /// Hours of it above 35 °C, as a monitor told. [h]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hot_hours: Option<f64>,
    /// The plan that it was driven by: its first pack is the one it was driven with, a second the one it was weighed with.
    pub plan: PlanDocument,
}

/// A test, or something read ashore.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TestDocument {
    /// When.
    #[schemars(with = "String")]
    pub date: Date,
    /// The number of the owned pack.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub owned: Option<i64>,
    /// Its unit, counted from 1; the pack as a whole if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<f64>,
    /// A note.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// What a monitor recorded of it, by the number it is kept under here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub recorded: Option<i64>,
    /// What was done.
    pub did: DidDocument,
}

/// What was done on the bench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum DidDocument {
    /// Charged, or its charge read.
    Charged(ChargeDocument),
    /// Discharged at a steady current.
    Capacity(CapacityDocument),
    /// A load for some seconds.
    Load(LoadTestDocument),
    /// Volts of each unit. [V]
    Volts(Vec<f64>),
    /// Charge of each unit, 0 to 1.
    Charges(Vec<f64>),
    /// Resistance of each unit by a meter. [Ω]
    ResistancesOhm(Vec<f64>),
    /// A chore that was done, or put off.
    Care(CareDocument),
}

/// A chore that was done, or put off.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CareDocument {
    /// `water`, `equalize`, `balance`, `top_up`, `clean` or `test`.
    pub chore: String,
    /// Put off to that day; done if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub put_off_to: Option<Date>,
}

/// A discharge at a steady current.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CapacityDocument {
    /// The current. [A]
    pub current_a: f64,
    /// How long it lasted. [h]
    pub hours: f64,
    /// Volts at which it was stopped. [V]
    pub stop_v: f64,
    /// It was stopped before that.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub cut_short: bool,
    /// How warm the battery was. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temperature_c: Option<f64>,
    /// Energy by a meter. [Wh]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub energy_wh: Option<f64>,
}

/// A load for some seconds.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LoadTestDocument {
    /// Volts before. [V]
    pub before_v: f64,
    /// Volts at its end. [V]
    pub under_v: f64,
    /// The load. [A]
    pub current_a: f64,
    /// How long. [s]
    pub seconds: f64,
    /// How warm the battery was. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub temperature_c: Option<f64>,
}
