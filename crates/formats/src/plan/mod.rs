//! `lake-hour/plan`, version 1.
//!
//! The structs are the document's shape; [`read()`] turns one into the core's [`Plan`] or into every
//! fault it has.

mod build;
mod day;
mod money;
pub(crate) mod pack;
mod part;
mod rig;
#[cfg(test)]
mod tests;
mod want;

pub use build::BuildDocument;
pub use day::{AccessoryDocument, DayDocument, HourlyDocument, LoadDocument, StretchDocument};
pub use money::MoneyDocument;
pub use pack::{PackDocument, WeakUnitDocument};
pub use part::{
    Frame, read_frame, read_pack, read_stretch, write_frame, write_pack, write_stretch,
};
pub use rig::{
    BayDocument, ChargerDocument, CraftDocument, MeasuredSpeedDocument, MotorDocument, RigDocument,
    SettingDocument,
};
pub use want::WantDocument;

use crate::fault::{Checker, Faults};
use lake_hour_core::allowed;
use lake_hour_core::house::HouseRules;
use lake_hour_core::life::School;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::Celsius;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Largest document looked at. [bytes]
pub const LARGEST: usize = 16 * 1024 * 1024;

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/plan";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;

/// A plan: a rig, its day, the house rules, and the packs to compare.
#[derive(Debug, Clone, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PlanDocument {
    /// Always `lake-hour/plan`.
    #[schemars(extend("const" = FORMAT))]
    pub format: String,
    /// Always 1.
    #[schemars(extend("const" = VERSION))]
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
    #[schemars(length(max = allowed::MOST_PACKS))]
    pub packs: Vec<PackDocument>,
    /// What is wanted of a pack, each kind once.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub wants: Vec<WantDocument>,
    /// What is kept of the build of the chosen pack, and that lists of parts count for all packs.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub build: Option<BuildDocument>,
}

/// The rules of the house.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HouseRulesDocument {
    /// Share of the charge that stays in the battery, by chemistry.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub floor: Option<std::collections::BTreeMap<String, f64>>,
    /// Share of the charge that it is charged to, by chemistry; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ceiling: Option<std::collections::BTreeMap<String, f64>>,
    /// Which school of ageing counts for lithium: `calendar` or `window`; calendar if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ageing_school: Option<String>,
    /// Share of what may be used that is kept for the way home.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::RESERVE.low, max = allowed::RESERVE.high))]
    pub reserve: Option<f64>,
    /// Years looked ahead.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::HORIZON.low, max = allowed::HORIZON.high))]
    pub horizon_years: Option<f64>,
    /// Temperature the batteries are kept at between outings; 25 if absent. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::TEMPERATURE.low, max = allowed::TEMPERATURE.high))]
    pub kept_at_c: Option<f64>,
    /// Charge the batteries rest at between outings; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::DEPTH.low, max = allowed::DEPTH.high))]
    pub resting_charge: Option<f64>,
    /// What money is reckoned with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub money: Option<MoneyDocument>,
    /// A charger's missing profile is not held against it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub drop_in: bool,
    /// Nothing but the BMS breaks a fault of lithium.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub bms_is_enough: bool,
    /// A charger for each battery, where one has to be bought.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub charger_each: bool,
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
    /// A plan that stands in a file with its result.
    #[derive(Deserialize)]
    struct Shared {
        format: String,
        version: u32,
        plan: serde_json::Value,
    }
    let document_bytes;
    let shared =
        serde_json::from_slice::<Shared>(bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes));
    let bytes = match shared {
        Ok(shared) if shared.format == crate::decision::SHARED => {
            if shared.version != 1 {
                let says =
                    format!("this program reads version 1, the file is version {}", shared.version);
                return Err(Faults::one("version", says));
            }
            document_bytes = shared.plan.to_string().into_bytes();
            document_bytes.as_slice()
        }
        _ => bytes,
    };
    check(&document(bytes)?)
}

/// Reads any document: UTF-8 text, with or without a byte-order mark, that holds one JSON value.
pub(crate) fn document<D: serde::de::DeserializeOwned>(bytes: &[u8]) -> Result<D, Faults> {
    let text = std::str::from_utf8(bytes).map_err(|e| {
        Faults::one("", format!("not UTF-8 text: byte {} cannot be read", e.valid_up_to()))
    })?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut json = serde_json::Deserializer::from_str(text);
    let document = serde_path_to_error::deserialize(&mut json).map_err(|e| {
        let at = e.path().to_string();
        let at = if at == "." { String::new() } else { at };
        Faults::one(at, e.into_inner().to_string())
    })?;
    json.end().map_err(|e| Faults::one("", e.to_string()))?;
    Ok(document)
}

pub(crate) fn check(doc: &PlanDocument) -> Result<Plan, Faults> {
    let mut c = Checker::default();
    if doc.format != FORMAT {
        c.fault("format", format!("must be \"{FORMAT}\""));
    }
    if doc.version != VERSION {
        c.fault("version", format!("this program reads version {VERSION}"));
    }
    if doc.day.stretches.is_empty() {
        c.fault("day.stretches", "give at least one stretch");
    }
    let currency = doc.currency.clone().unwrap_or_else(|| "USD".to_owned());
    if currency.len() != 3 || !currency.bytes().all(|b| b.is_ascii_uppercase()) {
        c.fault("currency", "must be three capital letters, as in USD");
    }
    c.at_most("packs", doc.packs.len(), allowed::MOST_PACKS);
    let mut plan = Plan {
        currency,
        rig: rig::check(&mut c, &doc.rig),
        day: day::check(&mut c, &doc.day, day::draw_is_known(&doc.rig)),
        rules: check_rules(&mut c, doc.house_rules.as_ref()),
        packs: doc
            .packs
            .iter()
            .take(allowed::MOST_PACKS)
            .enumerate()
            .map(|(n, p)| pack::check(&mut c, &format!("packs[{n}]"), p))
            .collect(),
        wants: want::check(&mut c, &doc.wants),
        build: build::check(&mut c, doc.build.as_ref()),
    };
    for (n, _) in plan.packs.iter().enumerate().filter(|(_, pack)| pack.chosen).skip(1) {
        c.fault(format!("packs[{n}].chosen"), "one pack is chosen at the most");
    }
    plan.measured_out();
    c.finish(plan)
}

fn check_rules(c: &mut Checker, doc: Option<&HouseRulesDocument>) -> HouseRules {
    let mut rules = HouseRules::default();
    let Some(doc) = doc else { return rules };
    for (key, &floor) in doc.floor.iter().flatten() {
        let at = format!("house_rules.floor.{key}");
        match Chemistry::from_key(key) {
            Some(chemistry) => {
                rules = rules.with_floor(chemistry, c.number(at, floor, &allowed::FLOOR));
            }
            None => c.fault(at, "not a chemistry: flooded, agm, gel, lfp or nmc"),
        }
    }
    for (key, &ceiling) in doc.ceiling.iter().flatten() {
        let at = format!("house_rules.ceiling.{key}");
        let Some(chemistry) = Chemistry::from_key(key) else {
            c.fault(at, "not a chemistry: flooded, agm, gel, lfp or nmc");
            continue;
        };
        let ceiling = c.number(&at, ceiling, &allowed::CEILING);
        if ceiling <= rules.floor(chemistry) + 0.05 {
            c.fault(at, "must lie above the floor by 0.05 at least, or nothing is left to use");
        }
        rules = rules.with_ceiling(chemistry, ceiling);
    }
    if let Some(key) = &doc.ageing_school {
        match School::from_key(key) {
            Some(school) => rules.keeping.school = school,
            None => c.fault("house_rules.ageing_school", "must be calendar or window"),
        }
    }
    rules.money = money::check(c, doc.money.as_ref());
    (rules.drop_in, rules.bms_is_enough) = (doc.drop_in, doc.bms_is_enough);
    rules.charger_each = doc.charger_each;
    let at = "house_rules.reserve";
    rules.reserve = c.optional(at, doc.reserve, &allowed::RESERVE).unwrap_or(rules.reserve);
    let at = "house_rules.horizon_years";
    let horizon = c.optional(at, doc.horizon_years, &allowed::HORIZON);
    rules.horizon_years = horizon.unwrap_or(rules.horizon_years);
    let at = "house_rules.kept_at_c";
    if let Some(t) = c.optional(at, doc.kept_at_c, &allowed::TEMPERATURE) {
        rules.keeping.temperature = Celsius::of(t);
    }
    let at = "house_rules.resting_charge";
    if let Some(share) = c.optional(at, doc.resting_charge, &allowed::DEPTH) {
        rules.keeping.resting_charge = share;
    }
    rules
}

/// A plan as a document.
pub fn write(plan: &Plan) -> PlanDocument {
    PlanDocument {
        format: FORMAT.to_owned(),
        version: VERSION,
        currency: Some(plan.currency.clone()),
        rig: rig::write(&plan.rig),
        day: day::write(&plan.day),
        house_rules: Some(write_rules(&plan.rules)),
        packs: plan.packs.iter().map(pack::write).collect(),
        wants: plan.wants.iter().map(want::write).collect(),
        build: build::write(&plan.build),
    }
}

fn write_rules(rules: &HouseRules) -> HouseRulesDocument {
    let floor = Chemistry::ALL.map(|c| (c.key().to_owned(), rules.floor(c)));
    let lowered = Chemistry::ALL.into_iter().filter(|c| rules.ceiling(*c) < 1.0);
    let ceiling: std::collections::BTreeMap<String, f64> =
        lowered.map(|c| (c.key().to_owned(), rules.ceiling(c))).collect();
    let school = rules.keeping.school;
    HouseRulesDocument {
        floor: Some(floor.into()),
        ceiling: (!ceiling.is_empty()).then_some(ceiling),
        ageing_school: (school != School::Calendar).then(|| school.key().to_owned()),
        reserve: Some(rules.reserve),
        horizon_years: Some(rules.horizon_years),
        kept_at_c: Some(rules.keeping.temperature.value()),
        resting_charge: Some(rules.keeping.resting_charge),
        money: money::write(&rules.money),
        drop_in: rules.drop_in,
        bms_is_enough: rules.bms_is_enough,
        charger_each: rules.charger_each,
    }
}
