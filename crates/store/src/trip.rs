//! Trips under way, and what was heard of them.

use crate::board::RigId;
use crate::error::StoreError;
use flate2::Compression;
use flate2::read::DeflateDecoder;
use flate2::write::DeflateEncoder;
use rusqlite::{Connection, OptionalExtension, Row, params};
use std::io::{Read, Write};

/// Which trip.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct TripId(pub i64);

/// A trip as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptTrip {
    /// Which.
    pub id: TripId,
    /// Of which rig.
    pub rig: RigId,
    /// What it began with, as text.
    pub body: String,
    /// Seconds since 1970.
    pub began: i64,
    /// When it ended; `None` while it is under way.
    pub ended: Option<i64>,
    /// The recorded rows that the log's entry of it names.
    pub recorded: Option<i64>,
}

/// A whole trip when it is inflated again: what is larger is none of ours. [bytes]
const LARGEST: u64 = 64 << 20;

fn of_row(r: &Row<'_>) -> rusqlite::Result<KeptTrip> {
    Ok(KeptTrip {
        id: TripId(r.get("id")?),
        rig: RigId(r.get("rig_id")?),
        body: r.get("body")?,
        began: r.get("began")?,
        ended: r.get("ended")?,
        recorded: r.get("recorded_id")?,
    })
}

/// A trip that begins; one that is under way already is a fault.
pub(crate) fn begin(
    c: &Connection,
    rig: RigId,
    body: &str,
    began: i64,
) -> Result<TripId, StoreError> {
    if under_way(c, rig)?.is_some() {
        return Err(StoreError::Full { what: "trips under way at once", most: 1 });
    }
    c.execute(
        "INSERT INTO trip (rig_id, body, began) VALUES (?1, ?2, ?3)",
        params![rig.0, body, began],
    )?;
    Ok(TripId(c.last_insert_rowid()))
}

/// What it began with, told again: another way home, another source.
pub(crate) fn retell(c: &Connection, id: TripId, body: &str) -> Result<(), StoreError> {
    c.execute("UPDATE trip SET body = ?2 WHERE id = ?1", params![id.0, body])?;
    Ok(())
}

/// Lines that were heard.
pub(crate) fn heard(c: &Connection, id: TripId, lines: &str) -> Result<(), StoreError> {
    let mut deflated = DeflateEncoder::new(Vec::new(), Compression::default());
    deflated.write_all(lines.as_bytes()).map_err(|_| StoreError::Panicked)?;
    let body = deflated.finish().map_err(|_| StoreError::Panicked)?;
    c.prepare_cached(
        "INSERT INTO trip_part (trip_id, part, body)
         SELECT ?1, coalesce(max(part), 0) + 1, ?2 FROM trip_part WHERE trip_id = ?1",
    )?
    .execute(params![id.0, body])?;
    Ok(())
}

/// All that was heard of it. Parts that cannot be read any more are left out.
pub(crate) fn lines(c: &Connection, rig: RigId, id: TripId) -> Result<String, StoreError> {
    let mut select = c.prepare_cached(
        "SELECT trip_part.body FROM trip_part JOIN trip ON trip.id = trip_id
         WHERE trip_id = ?1 AND rig_id = ?2 ORDER BY part",
    )?;
    let parts = select.query_map([id.0, rig.0], |r| r.get::<_, Vec<u8>>(0))?;
    let mut all = Vec::new();
    for part in parts {
        let part = part?;
        let left = LARGEST.saturating_sub(all.len() as u64);
        let before = all.len();
        if DeflateDecoder::new(part.as_slice()).take(left).read_to_end(&mut all).is_err() {
            all.truncate(before);
        }
    }
    Ok(String::from_utf8_lossy(&all).into_owned())
}

/// The one that is under way.
pub(crate) fn under_way(c: &Connection, rig: RigId) -> Result<Option<KeptTrip>, StoreError> {
    let mut select = c.prepare_cached("SELECT * FROM trip WHERE rig_id = ?1 AND ended IS NULL")?;
    Ok(select.query_row([rig.0], of_row).optional()?)
}

/// All that are under way.
pub(crate) fn all_under_way(c: &Connection) -> Result<Vec<KeptTrip>, StoreError> {
    let mut select = c.prepare_cached("SELECT * FROM trip WHERE ended IS NULL")?;
    Ok(select.query_map([], of_row)?.collect::<Result<_, _>>()?)
}

/// The trips of a rig, the newest first.
pub(crate) fn all(c: &Connection, rig: RigId, most: i64) -> Result<Vec<KeptTrip>, StoreError> {
    let mut select =
        c.prepare_cached("SELECT * FROM trip WHERE rig_id = ?1 ORDER BY id DESC LIMIT ?2")?;
    Ok(select.query_map([rig.0, most], of_row)?.collect::<Result<_, _>>()?)
}

/// It is over.
pub(crate) fn end(
    c: &Connection,
    id: TripId,
    ended: i64,
    recorded: Option<i64>,
) -> Result<(), StoreError> {
    c.execute(
        "UPDATE trip SET ended = ?2, recorded_id = ?3 WHERE id = ?1 AND ended IS NULL",
        params![id.0, ended, recorded],
    )?;
    Ok(())
}

/// A trip that is not kept after all.
pub(crate) fn forget(c: &Connection, rig: RigId, id: TripId) -> Result<(), StoreError> {
    c.execute("DELETE FROM trip WHERE id = ?1 AND rig_id = ?2", [id.0, rig.0])?;
    Ok(())
}
