//! A battery as SQLite keeps it.

use crate::error::StoreError;
use lake_hour_core::shelf::{Candidate, DoubtKind, SizeClass};
use lake_hour_core::units::{Amps, Kilograms, WattHours};
use lake_hour_formats::shelf;
use rusqlite::{Connection, OptionalExtension, params};
use unicase::UniCase;

/// A name as it is compared: the case of its letters folded, in every script.
pub(crate) fn key(name: &str) -> String {
    UniCase::unicode(name).to_folded_case()
}

/// The document as a battery.
pub(super) fn read(body: &str) -> Result<Candidate, StoreError> {
    Ok(shelf::read_candidate(body)?)
}

/// The row of a battery: its document, and what of it is looked up by.
#[derive(Debug, Clone)]
pub(super) struct BatteryRow {
    pub(super) id: i64,
    pub(super) name: String,
    pub(super) body: String,
    columns: Columns,
}

/// What is sorted, filtered and compared by.
#[derive(Debug, Clone)]
struct Columns {
    chemistry: &'static str,
    lead: bool,
    system: Option<u32>,
    volts: f64,
    ah: Option<f64>,
    wh: Option<f64>,
    kg: Option<f64>,
    price: Option<f64>,
    amps: Option<f64>,
    cycles: Option<f64>,
    size_class: Option<&'static str>,
    heater: bool,
    monitor: bool,
    hidden: bool,
    doubts: usize,
    price_ok: bool,
    weight_ok: bool,
}

impl Columns {
    /// Of a battery that cannot be read: nothing is known.
    const UNREADABLE: Self = Self {
        chemistry: "",
        lead: false,
        system: None,
        volts: 0.0,
        ah: None,
        wh: None,
        kg: None,
        price: None,
        amps: None,
        cycles: None,
        size_class: None,
        heater: false,
        monitor: false,
        hidden: false,
        doubts: 0,
        price_ok: false,
        weight_ok: false,
    };
}

/// What a battery that cannot be read may be called all the same.
fn name_in(body: &str) -> String {
    let document: Option<serde_json::Value> = serde_json::from_str(body).ok();
    let name = document.as_ref().and_then(|d| d["battery"]["name"].as_str());
    name.unwrap_or("Unreadable battery").to_owned()
}

const INSERT: &str =
    "INSERT INTO battery (id, name, chemistry, lead, system_v, volts, ah, wh, kg, price, amps, cycles,
    price_ah, price_wh, kg_wh, size_class, heater, monitor, hidden, doubts, price_ok, weight_ok, body,
    name_key) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18,
    ?19, ?20, ?21, ?22, ?23, ?24)";

impl BatteryRow {
    pub(super) fn of(id: i64, c: &Candidate) -> Self {
        let b = &c.battery;
        Self {
            id,
            name: b.name.clone(),
            body: shelf::write_candidate(c),
            columns: Columns {
                chemistry: b.chemistry.key(),
                lead: b.chemistry.is_lead(),
                system: b.system_volts(),
                volts: b.nominal_voltage.value(),
                ah: b.headline().ok().map(|(ah, _)| ah.value()),
                wh: b.energy().ok().map(WattHours::value),
                kg: b.mass.map(Kilograms::value),
                price: b.price,
                amps: b.max_continuous.map(Amps::value),
                cycles: b.cycles.iter().map(|p| p.cycles).reduce(f64::max),
                size_class: c.size_class.map(SizeClass::name),
                heater: c.heater == Some(true),
                monitor: c.monitor == Some(true),
                hidden: c.hidden,
                doubts: c.doubts(None).len(),
                price_ok: c.accepted.contains(&DoubtKind::PriceForShelf),
                weight_ok: c.accepted.contains(&DoubtKind::WeightForShelf),
            },
        }
    }

    /// A battery as it was kept; one whose text cannot be read any more keeps its text and its name.
    pub(super) fn kept(id: i64, body: &str) -> Self {
        match read(body) {
            Ok(candidate) => Self::of(id, &candidate),
            Err(_) => Self {
                id,
                name: name_in(body),
                body: body.to_owned(),
                columns: Columns::UNREADABLE,
            },
        }
    }

    pub(super) fn candidate(&self) -> Result<Candidate, StoreError> {
        read(&self.body)
    }

    pub(super) fn find(c: &Connection, id: i64) -> Result<Self, StoreError> {
        Self::find_if(c, id)?.ok_or(StoreError::NotFound("battery"))
    }

    pub(super) fn find_if(c: &Connection, id: i64) -> Result<Option<Self>, StoreError> {
        let mut find = c.prepare_cached("SELECT body FROM battery WHERE id = ?1")?;
        let body: Option<String> = find.query_row([id], |r| r.get(0)).optional()?;
        Ok(body.map(|body| Self::kept(id, &body)))
    }

    /// Writes it; an id of 0 is given a new one, which is returned.
    pub(super) fn put(&self, c: &Connection) -> Result<i64, StoreError> {
        let k = &self.columns;
        let per = |of: Option<f64>| Some(k.price? / of.filter(|v| *v > 0.0)?);
        let kg_wh = k.kg.zip(k.wh.filter(|wh| *wh > 0.0)).map(|(kg, wh)| kg / wh);
        let id = (self.id != 0).then_some(self.id);
        if id.is_some() {
            // Not "or replace": that would take the battery of the same name away without a word.
            Self::remove(c, self.id)?;
        }
        c.prepare_cached(INSERT)?.execute(params![
            id,
            self.name,
            k.chemistry,
            k.lead,
            k.system,
            k.volts,
            k.ah,
            k.wh,
            k.kg,
            k.price,
            k.amps,
            k.cycles,
            per(k.ah),
            per(k.wh),
            kg_wh,
            k.size_class,
            k.heater,
            k.monitor,
            k.hidden,
            k.doubts as i64,
            k.price_ok,
            k.weight_ok,
            self.body,
            key(&self.name),
        ])?;
        Ok(id.unwrap_or_else(|| c.last_insert_rowid()))
    }

    pub(super) fn remove(c: &Connection, id: i64) -> Result<(), StoreError> {
        c.prepare_cached("DELETE FROM battery WHERE id = ?1")?.execute([id])?;
        Ok(())
    }
}
