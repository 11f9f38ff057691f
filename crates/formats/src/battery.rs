//! A battery as a document: one field for each of the core's figures, read and written by their list.

use crate::fault::{At, Checker};
use lake_hour_core::allowed;
use lake_hour_core::shelf::figures::{self, Field, Holds, Label, Value, Wrong};
use lake_hour_core::shelf::{Battery, Chemistry, Correction, CyclePoint, Detail, Rating};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::{AmpHours, Amps, Hours, Volts, WattHours};
use schemars::{JsonSchema, Schema, SchemaGenerator};
use serde::de::{Error, MapAccess, Visitor};
use serde::ser::SerializeMap;
use serde::{Deserialize, Deserializer, Serialize, Serializer};
use std::borrow::Cow;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// A battery unit: what its label says, field by field and not looked at yet.
#[derive(Debug, Clone, Default)]
pub struct BatteryDocument {
    cells: Vec<(&'static Field, Cell)>,
    /// Who vouches for a figure, by its name; the label, where it is not named.
    pub origins: BTreeMap<String, VouchedDocument>,
    /// Figures of the label that were replaced by plausible ones.
    pub corrected: Vec<CorrectedDocument>,
}

/// What stands in a field.
#[derive(Debug, Clone)]
enum Cell {
    Number(f64),
    Text(String),
    Flag(bool),
    Ratings(Vec<RatingDocument>),
    Cycles(Vec<CyclesDocument>),
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
    #[schemars(range(min = allowed::DEPTH.low, max = allowed::DEPTH.high))]
    pub depth: f64,
    /// Cycles.
    #[schemars(range(min = allowed::CYCLES.low, max = allowed::CYCLES.high))]
    pub cycles: f64,
}

/// Fields that every battery has.
const NEEDED: [&str; 2] = ["chemistry", "nominal_voltage_v"];
/// Fields beside the figures.
const ORIGINS: &str = "origins";
const CORRECTED: &str = "corrected";

/// The names of all fields, for who wrote another.
static NAMES: LazyLock<Vec<&'static str>> = LazyLock::new(|| {
    figures::fields().map(|(_, field)| field.key).chain([ORIGINS, CORRECTED]).collect()
});

impl Serialize for BatteryDocument {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let mut map = to.serialize_map(None)?;
        for (field, cell) in &self.cells {
            match cell {
                Cell::Number(v) => map.serialize_entry(field.key, v)?,
                Cell::Text(text) => map.serialize_entry(field.key, text)?,
                Cell::Flag(yes) => map.serialize_entry(field.key, yes)?,
                Cell::Ratings(all) => map.serialize_entry(field.key, all)?,
                Cell::Cycles(all) => map.serialize_entry(field.key, all)?,
            }
        }
        if !self.origins.is_empty() {
            map.serialize_entry(ORIGINS, &self.origins)?;
        }
        if !self.corrected.is_empty() {
            map.serialize_entry(CORRECTED, &self.corrected)?;
        }
        map.end()
    }
}

impl<'de> Deserialize<'de> for BatteryDocument {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_map(Fields)
    }
}

struct Fields;

impl<'de> Visitor<'de> for Fields {
    type Value = BatteryDocument;

    fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str("a battery: an object with \"chemistry\" and \"nominal_voltage_v\"")
    }

    fn visit_map<A: MapAccess<'de>>(self, mut map: A) -> Result<BatteryDocument, A::Error> {
        let mut doc = BatteryDocument::default();
        let (mut origins, mut corrected) = (false, false);
        while let Some(key) = map.next_key::<Cow<'_, str>>()? {
            let again = match &*key {
                ORIGINS => {
                    doc.origins = map.next_value()?;
                    std::mem::replace(&mut origins, true)
                }
                CORRECTED => {
                    doc.corrected = map.next_value()?;
                    std::mem::replace(&mut corrected, true)
                }
                key => {
                    let Some(field) = figures::field(key) else {
                        return Err(A::Error::unknown_field(key, &NAMES));
                    };
                    let again = doc.cells.iter().any(|(other, _)| std::ptr::eq(*other, field));
                    if let Some(cell) = cell(field, &mut map)? {
                        doc.cells.push((field, cell));
                    }
                    again
                }
            };
            if again {
                return Err(A::Error::custom(format_args!("duplicate field `{key}`")));
            }
        }
        for key in NEEDED {
            if !doc.cells.iter().any(|(field, _)| field.key == key) {
                return Err(A::Error::missing_field(key));
            }
        }
        Ok(doc)
    }
}

/// What stands in a field; `None` for null.
fn cell<'de, A: MapAccess<'de>>(field: &Field, map: &mut A) -> Result<Option<Cell>, A::Error> {
    Ok(match field.holds {
        Holds::Number(_) => map.next_value::<Option<f64>>()?.map(Cell::Number),
        Holds::Text(_) | Holds::Long(_) | Holds::Choice(_) => {
            map.next_value::<Option<String>>()?.map(Cell::Text)
        }
        Holds::Flag(_) => map.next_value::<Option<bool>>()?.map(Cell::Flag),
        Holds::Ratings => Some(Cell::Ratings(map.next_value()?)),
        Holds::Cycles => Some(Cell::Cycles(map.next_value()?)),
    })
}

impl JsonSchema for BatteryDocument {
    fn schema_name() -> Cow<'static, str> {
        "BatteryDocument".into()
    }

    fn json_schema(generator: &mut SchemaGenerator) -> Schema {
        let mut properties = serde_json::Map::new();
        for (_, field) in figures::fields() {
            let mut schema = match &field.holds {
                Holds::Number(n) => {
                    let (low, high) = (n.allowed.low, n.allowed.high);
                    let kind = if n.whole { "integer" } else { "number" };
                    schemars::json_schema!({ "type": [kind, "null"], "minimum": low, "maximum": high })
                }
                Holds::Text(_) | Holds::Long(_) => {
                    let most = longest(&field.holds);
                    schemars::json_schema!({ "type": ["string", "null"], "maxLength": most })
                }
                Holds::Choice(choice) => {
                    let mut keys: Vec<Option<&str>> = choice
                        .options
                        .iter()
                        .map(|(key, _)| (!key.is_empty()).then_some(*key))
                        .collect();
                    keys.sort_by_key(Option::is_none);
                    schemars::json_schema!({ "enum": keys })
                }
                Holds::Flag(_) => schemars::json_schema!({ "type": ["boolean", "null"] }),
                Holds::Ratings => generator.subschema_for::<Vec<RatingDocument>>(),
                Holds::Cycles => generator.subschema_for::<Vec<CyclesDocument>>(),
            };
            schema.insert("description".to_owned(), field.meaning.into());
            properties.insert(field.key.to_owned(), schema.into());
        }
        let mut beside = |key: &str, mut schema: Schema, says: &str| {
            schema.insert("description".to_owned(), says.into());
            properties.insert(key.to_owned(), schema.into());
        };
        beside(
            ORIGINS,
            generator.subschema_for::<BTreeMap<String, VouchedDocument>>(),
            "Who vouches for a figure, by its name; the label, where it is not named.",
        );
        beside(
            CORRECTED,
            generator.subschema_for::<Vec<CorrectedDocument>>(),
            "Figures of the label that were replaced by plausible ones.",
        );
        schemars::json_schema!({
            "description": "A battery unit: what its label says.",
            "type": "object",
            "properties": properties,
            "required": NEEDED,
            "additionalProperties": false,
        })
    }
}

/// Most characters of words.
pub(crate) const fn longest(holds: &Holds) -> usize {
    match holds {
        Holds::Long(_) => allowed::TEXT_LENGTH,
        _ => allowed::NAME_LENGTH,
    }
}

/// The keys of a choice, as a sentence lists them.
pub(crate) fn offered(choice: &figures::Choice) -> String {
    let keys = choice.options.iter().map(|(key, _)| *key).filter(|key| !key.is_empty());
    keys.collect::<Vec<_>>().join(", ")
}

/// The key of a choice as it is kept, where it has this one or another way to write it.
pub(crate) fn chosen(choice: &figures::Choice, key: &str) -> Option<&'static str> {
    if let Some((known, _)) = choice.options.iter().find(|(known, _)| *known == key) {
        return Some(known).filter(|known| !known.is_empty()).copied();
    }
    let mut scratch = Battery::new("", Chemistry::Agm, Volts::of(12.0), Rating::reserve(1.0));
    (choice.set)(&mut scratch, Some(key)).then(|| (choice.get)(&scratch)).flatten()
}

/// The battery that a document tells of; a fault at each field that is not allowed.
pub(crate) fn check(c: &mut Checker, at: &str, doc: &BatteryDocument) -> Battery {
    let mut label = Label::default();
    for (field, cell) in &doc.cells {
        if let Some(value) = value(c, At(at, field.key), field, cell) {
            label.set(field, Some(value));
        }
    }
    let mut battery = label.battery().unwrap_or_else(|wrong| {
        for wrong in &wrong {
            match wrong {
                Wrong::NoCapacity => {
                    let place = if at.is_empty() { "battery" } else { at };
                    c.fault(place, "give capacity_ah, reserve_minutes_25a or a rating");
                }
                // What was refused is not missing.
                Wrong::Missing(key, _) if doc.cells.iter().any(|(f, _)| f.key == *key) => {}
                wrong => c.fault(At(at, wrong.key()), wrong),
            }
        }
        Battery::new("", Chemistry::Agm, Volts::of(12.0), Rating::reserve(1.0))
    });
    battery.origins = origins(c, at, &doc.origins);
    battery.corrected = corrected(c, at, &doc.corrected);
    battery
}

fn value(c: &mut Checker, at: At<'_>, field: &Field, cell: &Cell) -> Option<Value> {
    Some(match (&field.holds, cell) {
        (Holds::Number(n), Cell::Number(v)) if n.whole => {
            Value::Number(f64::from(c.count(at, *v, &n.allowed)))
        }
        (Holds::Number(n), Cell::Number(v)) => Value::Number(c.number(at, *v, &n.allowed)),
        (Holds::Text(_) | Holds::Long(_), Cell::Text(text)) => {
            Value::Text(c.text(at, text, longest(&field.holds)))
        }
        (Holds::Choice(choice), Cell::Text(key)) => match chosen(choice, key) {
            Some(key) => Value::Text(key.to_owned()),
            None => {
                c.fault(at, format_args!("must be one of {}", offered(choice)));
                return None;
            }
        },
        (Holds::Flag(_), Cell::Flag(yes)) => Value::Flag(*yes),
        (Holds::Ratings, Cell::Ratings(all)) => Value::Ratings(ratings(c, at, all)),
        (Holds::Cycles, Cell::Cycles(all)) => {
            let place = String::from(at);
            c.at_most(&place, all.len(), allowed::MOST_POINTS);
            let points =
                all.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, p)| CyclePoint {
                    depth: c.number(format!("{place}[{n}].depth"), p.depth, &allowed::DEPTH),
                    cycles: c.number(format!("{place}[{n}].cycles"), p.cycles, &allowed::CYCLES),
                });
            Value::Cycles(points.collect())
        }
        // Each field is read as what it holds.
        _ => return None,
    })
}

fn ratings(c: &mut Checker, at: At<'_>, all: &[RatingDocument]) -> Vec<Rating> {
    let place = String::from(at);
    c.at_most(&place, all.len(), allowed::MOST_POINTS);
    let hours = |c: &mut Checker, at: String, h| Hours::of(c.number(at, h, &allowed::RATED_HOURS));
    let read = all.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, rating)| {
        let at = |name: &str| format!("{place}[{n}].{name}");
        match *rating {
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
        }
    });
    read.collect()
}

fn origins(
    c: &mut Checker,
    at: &str,
    doc: &BTreeMap<String, VouchedDocument>,
) -> BTreeMap<Detail, Vouched> {
    let mut origins = BTreeMap::new();
    for (key, vouched) in doc.iter().take(NAMES.len()) {
        let at = format!("{}.{key}", String::from(At(at, ORIGINS)));
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
    let place = String::from(At(at, CORRECTED));
    c.at_most(&place, doc.len(), NAMES.len());
    let mut all = Vec::new();
    for (n, d) in doc.iter().take(NAMES.len()).enumerate() {
        let at = format!("{place}[{n}]");
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

/// A battery as a document.
pub(crate) fn document(b: &Battery) -> BatteryDocument {
    let cell = |value: &Value| match value {
        Value::Number(v) => Cell::Number(*v),
        Value::Text(text) => Cell::Text(text.clone()),
        Value::Flag(yes) => Cell::Flag(*yes),
        Value::Ratings(all) => Cell::Ratings(all.iter().map(rating_document).collect()),
        Value::Cycles(all) => {
            let of = |p: &CyclePoint| CyclesDocument { depth: p.depth, cycles: p.cycles };
            Cell::Cycles(all.iter().map(of).collect())
        }
    };
    BatteryDocument {
        cells: Label::of(b).iter().map(|(field, value)| (field, cell(value))).collect(),
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
    }
}

fn rating_document(rating: &Rating) -> RatingDocument {
    match *rating {
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
    }
}
