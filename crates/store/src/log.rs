//! What is logged of a rig: rows that only the log itself changes.
//!
//! Undo keeps of each changed row what it was before, not a picture of the whole log, which may be years long.

use crate::board::{RigId, Unreadable};
use crate::error::StoreError;
use flate2::Compression;
use flate2::read::DeflateDecoder;
use flate2::write::DeflateEncoder;
use lake_hour_core::log::{Log, Logged};
use lake_hour_formats::logged;
use lake_hour_formats::monitor::{self, Column, Said, Sample};
use rusqlite::{Connection, OptionalExtension, params};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::io::{Read, Write};

/// Which entry of a log.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct LogId(pub i64);

/// A log as it is kept.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct KeptLog {
    /// All that can be read.
    pub log: Log,
    /// The rest, as text.
    pub unreadable: Vec<Unreadable>,
}

/// What an entry was before a change; nothing if it was not there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct Was {
    id: i64,
    body: Option<String>,
}

impl Was {
    /// Of an entry that was not there.
    pub(crate) const fn none(id: i64) -> Self {
        Self { id, body: None }
    }
}

/// Most entries of one log.
const MOST: i64 = logged::MOST_ENTRIES as i64;

/// The whole log of a rig.
pub(crate) fn all(c: &Connection, rig: RigId) -> Result<KeptLog, StoreError> {
    let mut select =
        c.prepare_cached("SELECT id, body FROM logged WHERE rig_id = ?1 ORDER BY day, id")?;
    let rows = select.query_map([rig.0], |r| Ok((r.get("id")?, r.get::<_, String>("body")?)))?;
    let (mut entries, mut unreadable) = (Vec::new(), Vec::new());
    for row in rows {
        let (id, text) = row?;
        match logged::read_logged(&text) {
            Ok(logged) => entries.push((id, logged)),
            Err(faults) => unreadable.push(Unreadable { id, text, why: faults.first() }),
        }
    }
    Ok(KeptLog { log: Log::of(entries), unreadable })
}

fn body(c: &Connection, rig: RigId, id: i64) -> Result<Option<String>, StoreError> {
    let mut select = c.prepare_cached("SELECT body FROM logged WHERE rig_id = ?1 AND id = ?2")?;
    Ok(select.query_row([rig.0, id], |r| r.get("body")).optional()?)
}

/// One entry.
pub(crate) fn find(c: &Connection, rig: RigId, id: LogId) -> Result<Logged, StoreError> {
    let text = body(c, rig, id.0)?.ok_or(StoreError::NotFound("entry"))?;
    match logged::read_logged(&text) {
        Ok(logged) => Ok(logged),
        Err(faults) => Err(StoreError::Unreadable { text, why: faults.first() }),
    }
}

/// What entries are now, so that they can be put back.
pub(crate) fn was(c: &Connection, rig: RigId, ids: &[i64]) -> Result<Vec<Was>, StoreError> {
    ids.iter().map(|&id| Ok(Was { id, body: body(c, rig, id)? })).collect()
}

/// Makes entries what they were; what they were until now.
pub(crate) fn put_back(c: &Connection, rig: RigId, before: &[Was]) -> Result<Vec<Was>, StoreError> {
    let now = was(c, rig, &before.iter().map(|w| w.id).collect::<Vec<_>>())?;
    for Was { id, body } in before {
        match body {
            Some(body) => write(c, rig, *id, body)?,
            None => delete(c, rig, *id)?,
        }
    }
    Ok(now)
}

fn write(c: &Connection, rig: RigId, id: i64, body: &str) -> Result<(), StoreError> {
    // By what it says itself; what cannot be read any more stays where it stood.
    let day = logged::read_logged(body).map(|l| l.date().to_string()).ok();
    c.prepare_cached(
        "INSERT INTO logged (id, rig_id, day, body) VALUES (?1, ?2, coalesce(?3, ''), ?4)
         ON CONFLICT (id) DO UPDATE SET day = coalesce(?3, day), body = excluded.body",
    )?
    .execute(params![id, rig.0, day, body])?;
    Ok(())
}

fn delete(c: &Connection, rig: RigId, id: i64) -> Result<(), StoreError> {
    c.execute("DELETE FROM logged WHERE rig_id = ?1 AND id = ?2", [rig.0, id])?;
    Ok(())
}

/// A new entry; its number.
pub(crate) fn add(c: &Connection, rig: RigId, entry: &Logged) -> Result<i64, StoreError> {
    let there: i64 =
        c.query_row("SELECT count(*) FROM logged WHERE rig_id = ?1", [rig.0], |r| r.get(0))?;
    if there >= MOST {
        return Err(StoreError::Full { what: "entries of a log", most: MOST as usize });
    }
    c.prepare_cached("INSERT INTO logged (rig_id, day, body) VALUES (?1, ?2, ?3)")?
        .execute(params![rig.0, entry.date().to_string(), logged::write_logged(entry)])?;
    Ok(c.last_insert_rowid())
}

/// The entries of another log, under numbers of their own; packs that are named are named by their new ones.
/// The number of the last of them.
pub(crate) fn add_all(c: &Connection, rig: RigId, other: &Log) -> Result<Option<i64>, StoreError> {
    let mut last = None;
    let mut known = BTreeMap::new();
    let owned = |l: &&(i64, Logged)| matches!(l.1, Logged::Owned(_));
    for (id, pack) in other.all.iter().filter(owned) {
        known.insert(*id, add(c, rig, pack)?);
    }
    for (_, entry) in other.all.iter().filter(|l| !owned(l)) {
        let mut entry = entry.clone();
        match &mut entry {
            Logged::Outing(outing) => outing.of = outing.of.and_then(|of| known.get(&of).copied()),
            Logged::Test(test) => test.of = test.of.and_then(|of| known.get(&of).copied()),
            Logged::Owned(_) => {}
        }
        last = Some(add(c, rig, &entry)?);
    }
    Ok(last)
}

/// Entries that name packs of this log by their numbers. The number of the last of them.
pub(crate) fn add_same(c: &Connection, rig: RigId, other: &Log) -> Result<Option<i64>, StoreError> {
    let mut last = None;
    for (_, entry) in &other.all {
        last = Some(add(c, rig, entry)?);
    }
    Ok(last)
}

/// The newest entries, as not there.
pub(crate) fn newest(c: &Connection, rig: RigId, count: usize) -> Result<Vec<Was>, StoreError> {
    let mut select =
        c.prepare_cached("SELECT id FROM logged WHERE rig_id = ?1 ORDER BY id DESC LIMIT ?2")?;
    let count = i64::try_from(count).unwrap_or(i64::MAX);
    let rows = select.query_map([rig.0, count], |r| Ok(Was::none(r.get("id")?)))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Rows of one part.
const PART: usize = 4096;
/// The largest part when it is inflated again: what is larger is none of ours. [bytes]
const LARGEST_PART: u64 = 1 << 20;

/// Keeps what a monitor recorded; its number.
pub(crate) fn keep_recorded(c: &Connection, rig: RigId, all: &[Sample]) -> Result<i64, StoreError> {
    c.execute("INSERT INTO recorded (rig_id) VALUES (?1)", [rig.0])?;
    let id = c.last_insert_rowid();
    let mut insert = c.prepare_cached(
        "INSERT INTO recorded_part (recorded_id, part, body) VALUES (?1, ?2, ?3)",
    )?;
    for (n, part) in (0_i64..).zip(all.chunks(PART)) {
        let mut deflated = DeflateEncoder::new(Vec::new(), Compression::default());
        deflated.write_all(&monitor::pack(part)).map_err(|_| StoreError::Panicked)?;
        let body = deflated.finish().map_err(|_| StoreError::Panicked)?;
        insert.execute(params![id, n, body])?;
    }
    Ok(id)
}

/// What a monitor recorded. Parts that cannot be read any more are left out.
pub(crate) fn recorded(c: &Connection, rig: RigId, id: i64) -> Result<Vec<Sample>, StoreError> {
    let mut select = c.prepare_cached(
        "SELECT body FROM recorded_part JOIN recorded ON recorded.id = recorded_id
         WHERE recorded_id = ?1 AND rig_id = ?2 ORDER BY part",
    )?;
    let parts = select.query_map([id, rig.0], |r| r.get::<_, Vec<u8>>("body"))?;
    let mut all = Vec::new();
    for part in parts {
        let mut bytes = Vec::new();
        let part = part?;
        let mut inflated = DeflateDecoder::new(part.as_slice()).take(LARGEST_PART);
        if inflated.read_to_end(&mut bytes).is_ok()
            && let Some(samples) = monitor::unpack(&bytes)
        {
            all.extend(samples);
        }
    }
    Ok(all)
}

/// Another text of an entry that is there.
pub(crate) fn edit(
    c: &Connection,
    rig: RigId,
    id: LogId,
    entry: &Logged,
) -> Result<(), StoreError> {
    if body(c, rig, id.0)?.is_none() {
        return Err(StoreError::NotFound("entry"));
    }
    write(c, rig, id.0, &logged::write_logged(entry))
}

/// One entry less.
pub(crate) fn remove(c: &Connection, rig: RigId, id: LogId) -> Result<(), StoreError> {
    if body(c, rig, id.0)?.is_none() {
        return Err(StoreError::NotFound("entry"));
    }
    delete(c, rig, id.0)
}

/// Monitors that are remembered; the headings of one are no longer than this. [bytes]
const MOST_MONITORS: i64 = 200;
const LONGEST_HEADINGS: usize = 4096;

/// Headings as one text, each on a line of its own.
pub(crate) fn headings_key(headings: &[String]) -> String {
    headings.join("\n").chars().take(LONGEST_HEADINGS).collect()
}

/// What was said of such headings. What cannot be read any more was never said.
pub(crate) fn said_of(c: &Connection, headings: &str) -> Result<Option<Said>, StoreError> {
    let mut select = c.prepare_cached("SELECT said FROM monitor_columns WHERE headings = ?1")?;
    let text: Option<String> = select.query_row([headings], |r| r.get("said")).optional()?;
    let read = |text: String| -> Option<Said> {
        let all: Vec<(String, usize)> = serde_json::from_str(&text).ok()?;
        all.into_iter().map(|(key, n)| Some((Column::from_key(&key)?, n))).collect()
    };
    Ok(text.and_then(read))
}

/// Keeps it. Of too many monitors one is forgotten, and never the one that was told of now.
pub(crate) fn keep_said(c: &Connection, headings: &str, said: &Said) -> Result<(), StoreError> {
    let all: Vec<(&str, usize)> = said.iter().map(|(column, n)| (column.key(), *n)).collect();
    let text = serde_json::to_string(&all).map_err(|_| StoreError::Panicked)?;
    c.execute(
        "INSERT INTO monitor_columns (headings, said) VALUES (?1, ?2)
         ON CONFLICT (headings) DO UPDATE SET said = excluded.said",
        params![headings, text],
    )?;
    c.execute(
        "DELETE FROM monitor_columns WHERE headings NOT IN
         (SELECT headings FROM monitor_columns ORDER BY headings = ?1 DESC LIMIT ?2)",
        params![headings, MOST_MONITORS],
    )?;
    Ok(())
}
