//! `lake-hour/log`, version 1: outings, tests, and the packs that are owned. An entry on its own is what a database keeps.

use crate::fault::{Checker, Faults};
use crate::lift::{self, Kind};
use crate::plan::{self, PackDocument, PlanDocument};
use jiff::civil::Date;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::log::{
    CapacityTest, Charge, Chore, Did, LoadTest, Log, Logged, MOST_UNITS, Next, Outing, Owned,
    OwnedUnit, Reading, Test, TestEnd, Used,
};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Metres, MetresPerSecond, Money, Volts, WattHours,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/log";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;
/// Most entries of one log.
pub const MOST_ENTRIES: usize = 20_000;

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
    /// Since when it is out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<String>")]
    pub retired: Option<Date>,
}

/// A charge, as its owner knows it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
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
    /// Volts of the whole pack after hours of rest, of lead.
    Rested {
        /// [V]
        volts_v: f64,
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

/// An entry, as text.
pub fn write_logged(logged: &Logged) -> String {
    lift::keep(&document(logged))
}

/// An entry from its text.
///
/// # Errors
/// [`Faults`] when the text is none or its figures are not allowed.
pub fn read_logged(text: &str) -> Result<Logged, Faults> {
    let doc: LoggedDocument = lift::read(Kind::Logged, text)?;
    let mut c = Checker::default();
    let logged = check(&mut c, "", &doc);
    c.finish(()).and(logged.ok_or_else(|| Faults::one("", "cannot be read")))
}

/// A whole log, as a document.
pub fn write(log: &Log) -> LogDocument {
    let entries = log.all.iter();
    LogDocument {
        format: FORMAT.to_owned(),
        version: VERSION,
        entries: entries
            .map(|(id, logged)| NumberedDocument { id: *id, logged: document(logged) })
            .collect(),
    }
}

/// Reads a whole log.
///
/// # Errors
/// [`Faults`], every one that was found.
pub fn read(bytes: &[u8]) -> Result<Log, Faults> {
    let doc: LogDocument = plan::document(bytes)?;
    let mut c = Checker::default();
    if doc.format != FORMAT {
        c.fault("format", format!("must be \"{FORMAT}\""));
    }
    if doc.version != VERSION {
        c.fault("version", format!("this program reads version {VERSION}"));
    }
    c.at_most("entries", doc.entries.len(), MOST_ENTRIES);
    let mut all = Vec::new();
    for (n, entry) in doc.entries.iter().take(MOST_ENTRIES).enumerate() {
        if let Some(logged) = check(&mut c, &format!("entries[{n}]."), &entry.logged) {
            all.push((entry.id, logged));
        }
    }
    let mut ids: Vec<i64> = all.iter().map(|(id, _)| *id).collect();
    ids.sort_unstable();
    if ids.windows(2).any(|pair| pair[0] == pair[1]) {
        c.fault("entries", "two entries have the same number");
    }
    c.finish(Log::of(all))
}

const SHARE: Allowed = Allowed { low: 0.0, high: 1.0, unit: "" };

fn check(c: &mut Checker, at: &str, doc: &LoggedDocument) -> Option<Logged> {
    Some(match doc {
        LoggedDocument::Owned(doc) => Logged::Owned(Box::new(check_owned(c, at, doc))),
        LoggedDocument::Outing(doc) => Logged::Outing(Box::new(check_outing(c, at, doc)?)),
        LoggedDocument::Test(doc) => Logged::Test(Box::new(check_test(c, at, doc))),
    })
}

/// Words that may be left out.
fn words(c: &mut Checker, at: String, text: &str) -> String {
    if text.is_empty() { String::new() } else { c.text(at, text, allowed::TEXT_LENGTH) }
}

fn check_owned(c: &mut Checker, at: &str, doc: &OwnedDocument) -> Owned {
    let field = |name: &str| format!("{at}{name}");
    c.at_most(&field("units"), doc.units.len(), MOST_UNITS);
    let years = &allowed::WARRANTY;
    let next = doc.next_date.map(|date| Next {
        date,
        minute: c.number(
            field("next_minute"),
            f64::from(doc.next_minute.unwrap_or(7 * 60)),
            &Allowed { low: 0.0, high: 1439.0, unit: "min" },
        ) as u16,
    });
    let units = doc.units.iter().take(MOST_UNITS).enumerate().map(|(n, unit)| OwnedUnit {
        number: c.name(format!("{at}units[{n}].number"), &unit.number),
        serial: words(c, format!("{at}units[{n}].serial"), &unit.serial),
        place: unit.place,
        retired: unit.retired,
    });
    let units = units.collect();
    Owned {
        bought: doc.bought,
        shop: words(c, field("shop"), &doc.shop),
        paid: c.optional(field("paid"), doc.paid, &allowed::PRICE).map(Money::of),
        full_years: c.optional(field("warranty_full_years"), doc.warranty_full_years, years),
        prorated_years: c.optional(
            field("warranty_prorated_years"),
            doc.warranty_prorated_years,
            years,
        ),
        kept_at: c
            .optional(field("kept_at_c"), doc.kept_at_c, &allowed::TEMPERATURE)
            .map(Celsius::of),
        next,
        units,
        retired: doc.retired,
        note: words(c, field("note"), &doc.note),
        pack: plan::pack::check(c, &field("pack"), &doc.pack),
    }
}

fn check_charge(c: &mut Checker, at: &str, doc: ChargeDocument) -> Charge {
    let mut share = |charge| c.number(format!("{at}.charge"), charge, &SHARE);
    match doc {
        ChargeDocument::Full => Charge::Full,
        ChargeDocument::Meter { charge } => Charge::Meter(share(charge)),
        ChargeDocument::Feel { charge } => Charge::Feel(share(charge)),
        ChargeDocument::Rested { volts_v } => {
            Charge::Rested(Volts::of(c.number(format!("{at}.volts_v"), volts_v, &allowed::VOLTAGE)))
        }
    }
}

fn check_outing(c: &mut Checker, at: &str, doc: &OutingDocument) -> Option<Outing> {
    let field = |name: &str| format!("{at}{name}");
    let plan = match plan::check(&doc.plan) {
        Ok(plan) => plan,
        Err(faults) => {
            for fault in faults.0 {
                c.fault(field(&format!("plan.{}", fault.at)), fault.says);
            }
            return None;
        }
    };
    if !(1..=2).contains(&plan.packs.len()) {
        c.fault(
            field("plan.packs"),
            "give the pack it was driven with, and the one aboard if another",
        );
    }
    let used = match (doc.end, doc.used_ah) {
        (Some(end), None) => Used::Left(check_charge(c, &field("end"), end)),
        (None, Some(ah)) => {
            Used::AmpHours(AmpHours::of(c.number(field("used_ah"), ah, &allowed::CAPACITY)))
        }
        _ => {
            c.fault(field("end"), "give the charge at the end, or used_ah, and not both");
            Used::Left(Charge::Full)
        }
    };
    let reading = match (doc.read_setting, doc.read_current_a) {
        (Some(setting), Some(amps)) => Some(Reading {
            setting: c.number(field("read_setting"), setting, &allowed::SETTING),
            current: Amps::of(c.number(field("read_current_a"), amps, &allowed::CURRENT)),
        }),
        (None, None) => None,
        _ => {
            c.fault(field("read_setting"), "a setting and its amps belong together");
            None
        }
    };
    Some(Outing {
        date: doc.date,
        name: c.name(field("name"), &doc.name),
        hours: c.optional(field("hours"), doc.hours, &allowed::OUTING_HOURS).map(Hours::of),
        distance: c
            .optional(field("distance_m"), doc.distance_m, &allowed::OUTING_DISTANCE)
            .map(Metres::of),
        start: check_charge(c, &field("start"), doc.start),
        used,
        wind: c.optional(field("wind_ms"), doc.wind_ms, &allowed::SPEED).map(MetresPerSecond::of),
        reading,
        note: words(c, field("note"), &doc.note),
        of: doc.owned,
        recorded: doc.recorded,
        counts: !doc.left_out,
        plan,
    })
}

fn check_test(c: &mut Checker, at: &str, doc: &TestDocument) -> Test {
    let field = |name: &str| format!("{at}{name}");
    let did = match &doc.did {
        DidDocument::Charged(charge) => Did::Charged(check_charge(c, &field("did"), *charge)),
        DidDocument::Capacity(d) => Did::Capacity(CapacityTest {
            current: Amps::of(c.number(field("did.current_a"), d.current_a, &allowed::CURRENT)),
            lasted: Hours::of(c.number(field("did.hours"), d.hours, &allowed::TEST_HOURS)),
            stop: Volts::of(c.number(field("did.stop_v"), d.stop_v, &allowed::VOLTAGE)),
            ended: if d.cut_short { TestEnd::CutShort } else { TestEnd::Reached },
            temperature: c
                .optional(field("did.temperature_c"), d.temperature_c, &allowed::TEMPERATURE)
                .map(Celsius::of),
            energy: c
                .optional(field("did.energy_wh"), d.energy_wh, &allowed::METERED_ENERGY)
                .map(WattHours::of),
        }),
        DidDocument::Load(d) => Did::Load(LoadTest {
            before: Volts::of(c.number(field("did.before_v"), d.before_v, &allowed::VOLTAGE)),
            under: Volts::of(c.number(field("did.under_v"), d.under_v, &allowed::VOLTS_UNDER_LOAD)),
            current: Amps::of(c.number(
                field("did.current_a"),
                d.current_a,
                &allowed::LIMIT_CURRENT,
            )),
            seconds: c.number(field("did.seconds"), d.seconds, &allowed::LOAD_SECONDS),
            temperature: c
                .optional(field("did.temperature_c"), d.temperature_c, &allowed::TEMPERATURE)
                .map(Celsius::of),
        }),
        DidDocument::Care(care) => {
            let chore = Chore::from_key(&care.chore).unwrap_or_else(|| {
                c.fault(field("did.chore"), format!("must be one of: {}", Chore::keys()));
                Chore::Clean
            });
            Did::Care(chore, care.put_off_to)
        }
        DidDocument::Volts(volts) => {
            c.at_most(&field("did.volts"), volts.len(), MOST_UNITS);
            let volts = volts.iter().take(MOST_UNITS).enumerate();
            Did::Volts(
                volts
                    .map(|(n, v)| {
                        Volts::of(c.number(
                            field(&format!("did.volts[{n}]")),
                            *v,
                            &allowed::VOLTS_UNDER_LOAD,
                        ))
                    })
                    .collect(),
            )
        }
    };
    Test {
        date: doc.date,
        of: doc.owned,
        unit: doc.unit.map(|n| c.count(field("unit"), n, &allowed::UNIT_NUMBER)),
        did,
        note: words(c, field("note"), &doc.note),
    }
}

/// An entry as a document.
pub fn document(logged: &Logged) -> LoggedDocument {
    match logged {
        Logged::Owned(owned) => LoggedDocument::Owned(Box::new(owned_document(owned))),
        Logged::Outing(outing) => LoggedDocument::Outing(Box::new(outing_document(outing))),
        Logged::Test(test) => LoggedDocument::Test(Box::new(test_document(test))),
    }
}

fn owned_document(owned: &Owned) -> OwnedDocument {
    OwnedDocument {
        bought: owned.bought,
        shop: owned.shop.clone(),
        paid: owned.paid.map(Money::value),
        warranty_full_years: owned.full_years,
        warranty_prorated_years: owned.prorated_years,
        kept_at_c: owned.kept_at.map(Celsius::value),
        next_date: owned.next.map(|next| next.date),
        next_minute: owned.next.map(|next| next.minute),
        retired: owned.retired,
        note: owned.note.clone(),
        units: owned
            .units
            .iter()
            .map(|u| OwnedUnitDocument {
                number: u.number.clone(),
                serial: u.serial.clone(),
                place: u.place,
                retired: u.retired,
            })
            .collect(),
        pack: plan::pack::write(&owned.pack),
    }
}

const fn charge_document(charge: Charge) -> ChargeDocument {
    match charge {
        Charge::Full => ChargeDocument::Full,
        Charge::Meter(charge) => ChargeDocument::Meter { charge },
        Charge::Feel(charge) => ChargeDocument::Feel { charge },
        Charge::Rested(volts) => ChargeDocument::Rested { volts_v: volts.value() },
    }
}

fn outing_document(outing: &Outing) -> OutingDocument {
    let (end, used_ah) = match outing.used {
        Used::Left(charge) => (Some(charge_document(charge)), None),
        Used::AmpHours(ah) => (None, Some(ah.value())),
    };
    OutingDocument {
        date: outing.date,
        name: outing.name.clone(),
        hours: outing.hours.map(Hours::value),
        distance_m: outing.distance.map(Metres::value),
        start: charge_document(outing.start),
        end,
        used_ah,
        wind_ms: outing.wind.map(MetresPerSecond::value),
        read_setting: outing.reading.map(|r| r.setting),
        read_current_a: outing.reading.map(|r| r.current.value()),
        note: outing.note.clone(),
        owned: outing.of,
        recorded: outing.recorded,
        left_out: !outing.counts,
        plan: plan::write(&outing.plan),
    }
}

fn test_document(test: &Test) -> TestDocument {
    let did = match &test.did {
        Did::Charged(charge) => DidDocument::Charged(charge_document(*charge)),
        Did::Capacity(t) => DidDocument::Capacity(CapacityDocument {
            current_a: t.current.value(),
            hours: t.lasted.value(),
            stop_v: t.stop.value(),
            cut_short: t.ended == TestEnd::CutShort,
            temperature_c: t.temperature.map(Celsius::value),
            energy_wh: t.energy.map(WattHours::value),
        }),
        Did::Load(t) => DidDocument::Load(LoadTestDocument {
            before_v: t.before.value(),
            under_v: t.under.value(),
            current_a: t.current.value(),
            seconds: t.seconds,
            temperature_c: t.temperature.map(Celsius::value),
        }),
        Did::Care(chore, to) => {
            DidDocument::Care(CareDocument { chore: chore.key().to_owned(), put_off_to: *to })
        }
        Did::Volts(volts) => DidDocument::Volts(volts.iter().map(|v| v.value()).collect()),
    };
    TestDocument {
        date: test.date,
        owned: test.of,
        unit: test.unit.map(f64::from),
        note: test.note.clone(),
        did,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;
    use lake_hour_core::log::Chore;

    const PLAN: &[u8] = include_bytes!("../../../demo/heron-pond.plan.json");

    fn entries() -> Vec<Logged> {
        let mut plan = crate::plan::read(PLAN).expect("the example");
        plan.packs.truncate(1);
        let outing = Outing {
            date: date(2026, 9, 22),
            name: "Two stations".to_owned(),
            hours: Some(Hours::of(7.1)),
            distance: Some(Metres::of(9_000.0)),
            start: Charge::Full,
            used: Used::AmpHours(AmpHours::of(64.0)),
            wind: Some(MetresPerSecond::of(6.7)),
            reading: Some(Reading { setting: 5.0, current: Amps::of(12.6) }),
            note: "gusts".to_owned(),
            of: Some(1),
            recorded: Some(9),
            counts: false,
            plan: plan.clone(),
        };
        let mut owned = Owned::of(plan.packs[0].clone(), date(2025, 4, 4));
        owned.paid = Some(Money::of(640.0));
        (owned.full_years, owned.prorated_years) = (Some(2.0), Some(5.0));
        owned.next = Some(Next { date: date(2026, 9, 26), minute: 425 });
        (owned.kept_at, owned.retired) = (Some(Celsius::of(12.0)), Some(date(2026, 10, 1)));
        owned.units[0].serial = "A-17".to_owned();
        let test = |did| {
            let (of, unit, note) = (Some(1), Some(1), "bench".to_owned());
            Logged::Test(Box::new(Test { date: date(2026, 9, 1), of, unit, did, note }))
        };
        let capacity = CapacityTest {
            current: Amps::of(5.0),
            lasted: Hours::of(18.5),
            stop: Volts::of(10.5),
            ended: TestEnd::CutShort,
            temperature: Some(Celsius::of(15.0)),
            energy: Some(WattHours::of(1_100.0)),
        };
        let load = LoadTest {
            before: Volts::of(12.7),
            under: Volts::of(9.7),
            current: Amps::of(250.0),
            seconds: 15.0,
            temperature: None,
        };
        vec![
            Logged::Owned(Box::new(owned)),
            Logged::Outing(Box::new(Outing {
                used: Used::Left(Charge::Feel(0.5)),
                start: Charge::Meter(0.9),
                reading: None,
                ..outing.clone()
            })),
            Logged::Outing(Box::new(outing)),
            test(Did::Charged(Charge::Rested(Volts::of(25.4)))),
            test(Did::Capacity(capacity)),
            test(Did::Load(load)),
            test(Did::Volts(vec![Volts::of(12.7), Volts::of(0.0)])),
            test(Did::Care(Chore::Water, Some(date(2026, 9, 15)))),
            test(Did::Care(Chore::Test, None)),
        ]
    }

    #[test]
    fn every_kind_of_entry_comes_back_as_it_was_kept() {
        for logged in entries() {
            let text = write_logged(&logged);
            assert!(text.starts_with("{\"kept\":2,\"kind\":"), "{}", &text[..60]);
            assert_eq!(read_logged(&text).expect("its own text"), logged);
        }
        let log = Log::of((1..).zip(entries()).collect());
        let text = serde_json::to_vec(&write(&log)).expect("a document");
        assert_eq!(read(&text).expect("its own document"), log);
    }

    #[test]
    fn what_is_wrong_with_an_entry_is_told_with_its_place() {
        let log = Log::of((1..).zip(entries()).collect());
        let good = serde_json::to_string(&write(&log)).expect("a document");
        for (from, to, at) in [
            ("\"used_ah\":64.0", "\"used_ah\":-1.0", ".used_ah"),
            ("\"used_ah\":64.0", "\"used_ah\":64.0,\"end\":{\"by\":\"full\"}", ".end"),
            ("\"read_setting\":5.0,", "", ".read_setting"),
            ("\"hours\":7.1", "\"hours\":9000.0", ".hours"),
            ("\"charge\":0.5", "\"charge\":1.5", ".end.charge"),
            ("\"chore\":\"water\"", "\"chore\":\"paint\"", ".did.chore"),
            ("\"stop_v\":10.5", "\"stop_v\":0.0", ".did.stop_v"),
            ("\"series\":1.0", "\"series\":0.0", ".series"),
            ("\"format\":\"lake-hour/log\"", "\"format\":\"x\"", "format"),
            ("\"id\":2", "\"id\":1", "entries"),
        ] {
            assert!(good.contains(from), "{from}");
            let faults = read(good.replacen(from, to, 1).as_bytes()).expect_err(to);
            assert!(faults.0.iter().any(|f| f.at.ends_with(at)), "{to}: {faults:?}");
        }
        for bad in ["", "{}", "[]", "{\"format\":\"lake-hour/log\",\"version\":1,\"entries\":[{}]}"]
        {
            assert!(read(bad.as_bytes()).is_err(), "{bad}");
        }
        let newer = write_logged(&entries()[0]).replacen("\"kept\":2", "\"kept\":9", 1);
        assert!(read_logged(&newer).expect_err("newer").first().contains("newer"));
    }
}
