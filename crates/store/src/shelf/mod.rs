//! The shelf: candidate batteries looked up page by page, changed, filled from files, taken back.

mod history;
mod import;
mod index;
mod query;
mod row;

pub use import::{Progress, Report, Told};
pub use index::Figure;
pub use query::{Order, ShelfPage, ShelfQuery, Shelved, Usual};

pub(crate) use history::{Begun, Way, begin_turn, offers, recover, take_back, tidy, turn};
pub(crate) use import::{Taking, understand};
pub(crate) use index::Known;
pub(crate) use query::{page, usual};
pub(crate) use row::{key, named, refresh};

use crate::error::StoreError;
use lake_hour_core::allowed;
use lake_hour_core::shelf::{Battery, Candidate};
use lake_hour_formats::shelf::MOST_BATTERIES;
use row::BatteryRow;
use rusqlite::{Connection, OptionalExtension, Transaction};

/// Which battery.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct BatteryId(pub i64);

/// One change of the shelf, made and taken back as a whole.
#[derive(Debug, Clone, PartialEq)]
pub enum ShelfChange {
    /// A new battery.
    Add(Box<Candidate>),
    /// Other figures.
    Edit(BatteryId, Box<Candidate>),
    /// The same once more, under a name of its own.
    Copy(BatteryId),
    /// One battery less.
    Remove(BatteryId),
}

/// Makes a change; returns what was done, and the id of what is new.
pub(crate) fn change(
    t: &Transaction<'_>,
    change: &ShelfChange,
) -> Result<(String, Option<i64>), StoreError> {
    match change {
        ShelfChange::Add(candidate) => {
            let (sentence, id) = add(t, candidate, "Added")?;
            Ok((sentence, Some(id)))
        }
        ShelfChange::Copy(BatteryId(id)) => {
            let mut copy = BatteryRow::find(t, *id)?.candidate()?;
            copy.battery.name = free_name(t, &copy.battery.name)?;
            copy.hidden = false;
            let (sentence, id) = add(t, &copy, "Copied to")?;
            Ok((sentence, Some(id)))
        }
        ShelfChange::Edit(BatteryId(id), candidate) => {
            let before = BatteryRow::find(t, *id)?;
            let name = &candidate.battery.name;
            // Its own name it may keep, though another one from before has it too.
            let renamed = key(&before.name) != key(name);
            if renamed && named(t, name)?.is_some() {
                return Err(StoreError::Taken(name.clone()));
            }
            let hidden = before.candidate().is_ok_and(|before| before.hidden);
            let did = match (hidden, candidate.hidden) {
                (false, true) => "Hid",
                (true, false) => "Showed again",
                _ => "Changed",
            };
            let sentence =
                remembered(t, format!("{did} {}", before.name), *id, Some(&before.body))?;
            readable(*id, candidate)?.put(t)?;
            Ok((sentence, None))
        }
        ShelfChange::Remove(BatteryId(id)) => {
            let before = BatteryRow::find(t, *id)?;
            let sentence =
                remembered(t, format!("Removed {}", before.name), *id, Some(&before.body))?;
            BatteryRow::remove(t, *id)?;
            Ok((sentence, None))
        }
    }
}

fn add(t: &Transaction<'_>, candidate: &Candidate, did: &str) -> Result<(String, i64), StoreError> {
    let name = &candidate.battery.name;
    if named(t, name)?.is_some() {
        return Err(StoreError::Taken(name.clone()));
    }
    if count(t)? >= MOST_BATTERIES {
        return Err(StoreError::Full { what: "batteries", most: MOST_BATTERIES });
    }
    let id = readable(0, candidate)?.put(t)?;
    Ok((remembered(t, format!("{did} {name}"), id, None)?, id))
}

/// Remembers a change of one battery; what is said of it then.
fn remembered(
    t: &Transaction<'_>,
    sentence: String,
    id: i64,
    was: Option<&str>,
) -> Result<String, StoreError> {
    Ok(match history::remember(t, &sentence, &[(id, was)])? {
        true => format!("{sentence}. {}", history::FORGOT),
        false => sentence,
    })
}

/// What could not be read back is not written.
fn readable(id: i64, candidate: &Candidate) -> Result<BatteryRow, StoreError> {
    let row = BatteryRow::of(id, candidate);
    row.candidate()?;
    Ok(row)
}

/// Puts these on a shelf that is empty and was never changed.
pub(crate) fn stock(t: &Transaction<'_>, batteries: &[Candidate]) -> Result<(), StoreError> {
    let changes: i64 = t.query_row("SELECT count(*) FROM shelf_change", [], |r| r.get(0))?;
    if count(t)? == 0 && changes == 0 {
        for candidate in batteries {
            BatteryRow::of(0, candidate).put(t)?;
        }
    }
    Ok(())
}

/// "Marl Point (2)", or the next number that is free.
fn free_name(c: &Connection, name: &str) -> Result<String, StoreError> {
    let most = allowed::NAME_LENGTH - 9;
    let stem: String = name.chars().take(most).collect();
    for n in 2..=MOST_BATTERIES {
        let name = format!("{stem} ({n})");
        if named(c, &name)?.is_none() {
            return Ok(name);
        }
    }
    Err(StoreError::Full { what: "batteries", most: MOST_BATTERIES })
}

pub(crate) fn count(c: &Connection) -> Result<usize, StoreError> {
    Ok(c.query_row("SELECT count(*) FROM battery", [], |r| r.get::<_, i64>(0))? as usize)
}

/// The first batteries by name: their numbers and names.
pub(crate) fn names(c: &Connection, most: usize) -> Result<Vec<(BatteryId, String)>, StoreError> {
    let mut select = c.prepare_cached("SELECT id, name FROM battery ORDER BY name, id LIMIT ?1")?;
    let rows =
        select.query_map([most as i64], |r| Ok((BatteryId(r.get("id")?), r.get("name")?)))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// One battery.
pub(crate) fn battery(c: &Connection, id: BatteryId) -> Result<Shelved, StoreError> {
    Ok(Shelved { id, candidate: BatteryRow::find(c, id.0)?.candidate()? })
}

/// The text of a battery, as it is kept.
pub(crate) fn raw(c: &Connection, id: BatteryId) -> Result<String, StoreError> {
    Ok(BatteryRow::find(c, id.0)?.body)
}

/// The label of a battery; `None` where it is gone, or says nothing any more.
pub(crate) fn label(c: &Connection, id: BatteryId) -> Result<Option<Battery>, StoreError> {
    let mut find = c.prepare_cached("SELECT body FROM battery WHERE id = ?1")?;
    let body: Option<String> = find.query_row([id.0], |r| r.get("body")).optional()?;
    Ok(body.and_then(|body| Some(row::read(&body).ok()?.battery)))
}

/// Some batteries of the shelf, for one who goes through all of it.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Slice {
    /// They.
    pub batteries: Vec<Shelved>,
    /// Names of those that cannot be read.
    pub unreadable: Vec<String>,
    /// The last of them; `None` when there are no more.
    pub last: Option<BatteryId>,
}

/// The batteries that came to the shelf next after one.
///
/// By their ids, which never change: whoever goes on from the last one misses none that stood there all
/// the while, and meets none twice, whatever is renamed meanwhile.
pub(crate) fn after(c: &Connection, after: i64, most: usize) -> Result<Slice, StoreError> {
    let mut some = Slice::default();
    let mut select =
        c.prepare_cached("SELECT id, name, body FROM battery WHERE id > ?1 ORDER BY id LIMIT ?2")?;
    let mut rows = select.query([after, most as i64])?;
    while let Some(row) = rows.next()? {
        let id = BatteryId(row.get("id")?);
        some.last = Some(id);
        match row::read(row.get_ref("body")?.as_str().unwrap_or_default()) {
            Ok(candidate) => some.batteries.push(Shelved { id, candidate }),
            Err(_) => some.unreadable.push(row.get("name")?),
        }
    }
    Ok(some)
}
