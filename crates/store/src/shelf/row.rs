//! A battery as SQLite keeps it.

use crate::error::StoreError;
use lake_hour_core::shelf::{Candidate, DoubtKind, SizeClass};
use lake_hour_core::units::{Amps, Kilograms, WattHours};
use lake_hour_formats::shelf;
use rusqlite::{Connection, OptionalExtension, params};

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
    columns: Option<Columns>,
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

const INSERT: &str =
    "INSERT INTO battery VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12,
    ?13, ?14, ?15, ?16, ?17, ?18, ?19, ?20, ?21, ?22, ?23)";

impl BatteryRow {
    pub(super) fn of(id: i64, c: &Candidate) -> Self {
        let b = &c.battery;
        Self {
            id,
            name: b.name.clone(),
            body: shelf::write_candidate(c),
            columns: Some(Columns {
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
            }),
        }
    }

    pub(super) fn candidate(&self) -> Result<Candidate, StoreError> {
        read(&self.body)
    }

    pub(super) fn find(c: &Connection, id: i64) -> Result<Self, StoreError> {
        Self::find_if(c, id)?.ok_or(StoreError::NotFound("battery"))
    }

    pub(super) fn find_if(c: &Connection, id: i64) -> Result<Option<Self>, StoreError> {
        let mut find = c.prepare_cached("SELECT name, body FROM battery WHERE id = ?1")?;
        let row = find.query_row([id], |r| {
            Ok(Self { id, name: r.get("name")?, body: r.get("body")?, columns: None })
        });
        Ok(row.optional()?)
    }

    /// Writes it; an id of 0 is given a new one, which is returned.
    pub(super) fn put(&self, c: &Connection) -> Result<i64, StoreError> {
        let read;
        let k = match &self.columns {
            Some(columns) => columns,
            None => {
                read = Self::of(self.id, &self.candidate()?).columns;
                read.as_ref().ok_or(StoreError::NotFound("battery"))?
            }
        };
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
        ])?;
        Ok(id.unwrap_or_else(|| c.last_insert_rowid()))
    }

    pub(super) fn remove(c: &Connection, id: i64) -> Result<(), StoreError> {
        c.prepare_cached("DELETE FROM battery WHERE id = ?1")?.execute([id])?;
        Ok(())
    }
}
