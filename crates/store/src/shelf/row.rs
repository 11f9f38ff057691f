//! A battery as SQLite keeps it: its document, and beside it what it is looked up by.

use crate::error::StoreError;
use lake_hour_core::shelf::{Battery, Candidate, Chemistry, CyclePoint, DoubtKind, SizeClass};
use lake_hour_core::units::{Amps, Kilograms, Money};
use lake_hour_formats::shelf;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use unicase::UniCase;

/// By which rules batteries are looked up: one more whenever [`BatteryRow::of`] makes other columns of the
/// same document, and every shelf is gone over when it is next opened.
const RULES: i64 = 1;

/// A name as it is compared: the case of its letters folded, in every script.
pub(crate) fn key(name: &str) -> String {
    UniCase::unicode(name).to_folded_case()
}

/// Ends the name in what words are looked for in. It sorts before all that a name can hold: in the order of
/// words, names are in theirs.
const END: char = '\u{1f}';

/// The battery of this name, whatever the case of its letters.
pub(crate) fn named(c: &Connection, name: &str) -> Result<Option<i64>, StoreError> {
    // From its end to the next sign there is: nothing else begins so.
    let (from, to) = (format!("{}{END}", key(name)), format!("{} ", key(name)));
    let mut find =
        c.prepare_cached("SELECT id FROM found WHERE words >= ?1 AND words < ?2 LIMIT 1")?;
    Ok(find.query_row([from, to], |r| r.get(0)).optional()?)
}

/// The document as a battery.
pub(super) fn read(body: &str) -> Result<Candidate, StoreError> {
    Ok(shelf::read_candidate(body)?)
}

/// The row of a battery.
#[derive(Debug, Clone)]
pub(super) struct BatteryRow {
    pub(super) id: i64,
    pub(super) name: String,
    pub(super) body: String,
    columns: Columns,
}

/// What is searched, sorted, filtered and compared by. Of a battery that cannot be read, nothing is known.
#[derive(Debug, Clone, Default)]
struct Columns {
    chemistry: Option<Chemistry>,
    system: Option<u32>,
    volts: f64,
    ah: Option<f64>,
    kg: Option<f64>,
    price: Option<f64>,
    amps: Option<f64>,
    years: Option<f64>,
    promises: Vec<u8>,
    size_class: Option<&'static str>,
    marks: u8,
    doubts: usize,
}

/// What is true of a battery or not, each a bit.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Mark {
    Heater = 1,
    Monitor = 2,
    Hidden = 4,
    PriceOk = 8,
    WeightOk = 16,
}

/// What a battery that cannot be read may be called all the same.
fn name_in(body: &str) -> String {
    let document: Option<serde_json::Value> = serde_json::from_str(body).ok();
    let name = document.as_ref().and_then(|d| d["battery"]["name"].as_str());
    name.unwrap_or("Unreadable battery").to_owned()
}

const FOUND: &str =
    "INSERT OR REPLACE INTO found (id, words, chemistry, system_v, volts, ah, kg, price,
    amps, years, promises, size_class, marks, doubts)
    VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14)";

impl BatteryRow {
    pub(super) fn of(id: i64, c: &Candidate) -> Self {
        let b = &c.battery;
        let marks = [
            (Mark::Heater, c.battery.heater == Some(true)),
            (Mark::Monitor, c.battery.monitor == Some(true)),
            (Mark::Hidden, c.hidden),
            (Mark::PriceOk, c.accepted.contains(&DoubtKind::PriceForShelf)),
            (Mark::WeightOk, c.accepted.contains(&DoubtKind::WeightForShelf)),
        ];
        Self {
            id,
            name: b.name.clone(),
            body: shelf::write_candidate(c),
            columns: Columns {
                chemistry: Some(b.chemistry),
                system: b.system_volts(),
                volts: b.nominal_voltage.value(),
                ah: b.headline().ok().map(|(ah, _)| ah.value()),
                kg: b.mass.map(Kilograms::value),
                price: b.price.map(Money::value),
                amps: b.max_continuous.map(Amps::value),
                years: b.calendar_years,
                promises: write_promises(b),
                size_class: c.battery.size_class.map(SizeClass::name),
                marks: marks.iter().filter(|(_, is)| *is).map(|(mark, _)| *mark as u8).sum(),
                doubts: c.doubts(None).len(),
            },
        }
    }

    /// A battery as it was kept; one whose text cannot be read any more keeps its text and its name.
    pub(super) fn kept(id: i64, body: &str) -> Self {
        match read(body) {
            Ok(candidate) => Self::of(id, &candidate),
            Err(_) => {
                Self { id, name: name_in(body), body: body.to_owned(), columns: Columns::default() }
            }
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
        let id = if self.id == 0 {
            c.prepare_cached("INSERT INTO battery (name, body) VALUES (?1, ?2)")?
                .execute([&self.name, &self.body])?;
            c.last_insert_rowid()
        } else {
            c.prepare_cached(
                "INSERT INTO battery (id, name, body) VALUES (?1, ?2, ?3)
                 ON CONFLICT (id) DO UPDATE SET name = excluded.name, body = excluded.body",
            )?
            .execute(params![self.id, self.name, self.body])?;
            self.id
        };
        self.put_found(c, id)?;
        Ok(id)
    }

    fn put_found(&self, c: &Connection, id: i64) -> Result<(), StoreError> {
        let k = &self.columns;
        let chemistry = k.chemistry.map_or("", Chemistry::key);
        let family = match k.chemistry {
            None => "",
            Some(c) if c.is_lead() => "lead",
            Some(_) => "lithium",
        };
        let class = k.size_class.map(key).unwrap_or_default();
        c.prepare_cached(FOUND)?.execute(params![
            id,
            format!("{}{END}{chemistry} {family} {class}", key(&self.name)),
            chemistry,
            k.system,
            k.volts,
            k.ah,
            k.kg,
            k.price,
            k.amps,
            k.years,
            k.promises,
            k.size_class,
            k.marks,
            k.doubts as i64,
        ])?;
        Ok(())
    }

    pub(super) fn remove(c: &Connection, id: i64) -> Result<(), StoreError> {
        c.prepare_cached("DELETE FROM battery WHERE id = ?1")?.execute([id])?;
        Ok(())
    }
}

fn write_promises(b: &Battery) -> Vec<u8> {
    b.cycles.iter().flat_map(|p| [p.depth, p.cycles]).flat_map(f64::to_le_bytes).collect()
}

/// The promises of a row.
pub(super) fn read_promises(blob: &[u8]) -> Box<[CyclePoint]> {
    let number = |half: &[u8]| half.first_chunk().map(|bytes| f64::from_le_bytes(*bytes));
    let (pairs, _) = blob.as_chunks::<16>();
    let point = |pair: &[u8; 16]| {
        Some(CyclePoint { depth: number(&pair[..8])?, cycles: number(&pair[8..])? })
    };
    pairs.iter().filter_map(point).collect()
}

/// What batteries are looked up by is made anew where other rules made it.
pub(crate) fn refresh(t: &Transaction<'_>) -> Result<(), StoreError> {
    let rules: i64 = t.query_row("SELECT rules FROM found_by", [], |r| r.get(0))?;
    if rules == RULES {
        return Ok(());
    }
    t.execute("DELETE FROM found", [])?;
    let mut select = t.prepare("SELECT id, body FROM battery")?;
    let mut all = select.query([])?;
    while let Some(row) = all.next()? {
        let id = row.get("id")?;
        let body: String = row.get("body")?;
        BatteryRow::kept(id, &body).put_found(t, id)?;
    }
    t.execute("UPDATE found_by SET rules = ?1", [RULES])?;
    Ok(())
}
