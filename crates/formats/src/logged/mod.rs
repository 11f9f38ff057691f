//! `lake-hour/log`, version 1: outings, tests, and the packs that are owned. An entry on its own is what a database keeps.

mod documents;
#[cfg(test)]
mod tests;

pub use documents::{
    CapacityDocument, CareDocument, ChargeDocument, DidDocument, LoadTestDocument, LogDocument,
    LoggedDocument, NumberedDocument, OutingDocument, OwnedDocument, OwnedUnitDocument,
    TestDocument,
};

use crate::fault::{Checker, Faults};
use crate::lift::{self, Kind};
use crate::plan;
use lake_hour_core::allowed::{self, Allowed};
use lake_hour_core::drawdown::Rest;
use lake_hour_core::log::{
    CapacityTest, Charge, Chore, Did, LoadTest, Log, Logged, MOST_UNITS, Next, Outing, Owned,
    OwnedUnit, Reading, Test, TestEnd, Used,
};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Metres, MetresPerSecond, Money, Ohms, Volts, WattHours,
};

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/log";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;
/// Most entries of one log.
pub const MOST_ENTRIES: usize = 20_000;

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
        since: unit.since,
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

fn check_charge(c: &mut Checker, at: &str, doc: &ChargeDocument) -> Charge {
    let mut share = |charge| c.number(format!("{at}.charge"), charge, &SHARE);
    match *doc {
        ChargeDocument::Full => Charge::Full,
        ChargeDocument::Meter { charge } => Charge::Meter(share(charge)),
        ChargeDocument::Feel { charge } => Charge::Feel(share(charge)),
        ChargeDocument::Rested { volts_v, ref rest } => {
            let volts = c.number(format!("{at}.volts_v"), volts_v, &allowed::VOLTAGE);
            let rest = rest.as_ref().map_or(Rest::FourHours, |key| {
                Rest::from_key(key).unwrap_or_else(|| {
                    c.fault(format!("{at}.rest"), format!("must be one of: {}", Rest::keys()));
                    Rest::FourHours
                })
            });
            Charge::Rested(Volts::of(volts), rest)
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
    let used = match (&doc.end, doc.used_ah) {
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
        start: check_charge(c, &field("start"), &doc.start),
        used,
        wind: c.optional(field("wind_ms"), doc.wind_ms, &allowed::SPEED).map(MetresPerSecond::of),
        reading,
        note: words(c, field("note"), &doc.note),
        of: doc.owned,
        recorded: doc.recorded,
        hot: c.optional(field("hot_hours"), doc.hot_hours, &allowed::OUTING_HOURS).map(Hours::of),
        counts: !doc.left_out,
        practice: doc.practice,
        plan,
    })
}

/// One figure of each unit.
fn check_each(c: &mut Checker, at: &str, all: &[f64], allowed: &Allowed) -> Vec<f64> {
    c.at_most(at, all.len(), MOST_UNITS);
    let all = all.iter().take(MOST_UNITS).enumerate();
    all.map(|(n, v)| c.number(format!("{at}[{n}]"), *v, allowed)).collect()
}

fn check_test(c: &mut Checker, at: &str, doc: &TestDocument) -> Test {
    let field = |name: &str| format!("{at}{name}");
    let did = match &doc.did {
        DidDocument::Charged(charge) => Did::Charged(check_charge(c, &field("did"), charge)),
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
            let volts = check_each(c, &field("did.volts"), volts, &allowed::VOLTS_UNDER_LOAD);
            Did::Volts(volts.into_iter().map(Volts::of).collect())
        }
        DidDocument::Charges(charges) => {
            Did::Charges(check_each(c, &field("did.charges"), charges, &allowed::SHARE))
        }
        DidDocument::ResistancesOhm(ohms) => {
            let at = field("did.resistances_ohm");
            let ohms = check_each(c, &at, ohms, &allowed::RESISTANCE);
            Did::Resistances(ohms.into_iter().map(Ohms::of).collect())
        }
    };
    Test {
        date: doc.date,
        of: doc.owned,
        unit: doc.unit.map(|n| c.count(field("unit"), n, &allowed::UNIT_NUMBER)),
        did,
        recorded: doc.recorded,
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
                since: u.since,
                retired: u.retired,
            })
            .collect(),
        pack: plan::pack::write(&owned.pack),
    }
}

fn charge_document(charge: Charge) -> ChargeDocument {
    match charge {
        Charge::Full => ChargeDocument::Full,
        Charge::Meter(charge) => ChargeDocument::Meter { charge },
        Charge::Feel(charge) => ChargeDocument::Feel { charge },
        Charge::Rested(volts, rest) => {
            ChargeDocument::Rested { volts_v: volts.value(), rest: Some(rest.key().to_owned()) }
        }
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
        practice: outing.practice,
        hot_hours: outing.hot.map(Hours::value),
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
        Did::Charges(charges) => DidDocument::Charges(charges.clone()),
        Did::Resistances(ohms) => {
            DidDocument::ResistancesOhm(ohms.iter().map(|r| r.value()).collect())
        }
    };
    TestDocument {
        date: test.date,
        owned: test.of,
        unit: test.unit.map(f64::from),
        note: test.note.clone(),
        recorded: test.recorded,
        did,
    }
}
