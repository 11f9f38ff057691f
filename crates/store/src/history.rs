//! Undo and redo: a picture of the rig from before each change.
//!
//! A picture is a few kilobytes, and putting one back is the same for every kind of change, so no
//! change needs an inverse of its own.

use crate::board::{RigId, Undo};
use crate::error::StoreError;
use crate::log::{self, Was};
use crate::rows::{Item, List, RigRow};
use crate::shelf::Way;
use rusqlite::{Connection, OptionalExtension, Transaction, params};
use serde::{Deserialize, Serialize};

/// Changes that can be taken back.
const MOST_REMEMBERED: i64 = 50;
/// What a rig's pictures may hold between them; the newest is kept however large it is. [bytes]
const MOST_BYTES: i64 = 4 << 20;

/// A rig with all that hangs on it, ids included.
#[derive(Debug, Serialize, Deserialize)]
struct Snapshot {
    rig: RigRow,
    stretches: Vec<Item>,
    packs: Vec<Item>,
    /// What entries of the log were that the change touches; the log as a whole is in no picture.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    logged: Vec<Was>,
}

/// All of a rig as it is, and these entries of its log as they were.
pub(crate) fn picture(c: &Connection, rig: RigId, logged: Vec<Was>) -> Result<String, StoreError> {
    let snapshot = Snapshot {
        rig: RigRow::get(c, rig.0)?,
        stretches: Item::all(c, List::Stretches, rig.0)?,
        packs: Item::all(c, List::Packs, rig.0)?,
        logged,
    };
    Ok(serde_json::to_string(&snapshot)?)
}

/// What the entries of the log that it touches were until now is returned.
fn put_back(t: &Transaction<'_>, rig: RigId, picture: &str) -> Result<Vec<Was>, StoreError> {
    let snapshot: Snapshot = serde_json::from_str(picture)?;
    snapshot.rig.put(t)?;
    for (list, items) in [(List::Stretches, &snapshot.stretches), (List::Packs, &snapshot.packs)] {
        Item::restore(t, list, rig.0, items)?;
    }
    log::put_back(t, rig, &snapshot.logged)
}

/// A picture with entries of the log in it.
pub(crate) fn with_logged(picture: String, logged: Vec<Was>) -> Result<String, StoreError> {
    if logged.is_empty() {
        return Ok(picture);
    }
    let snapshot: Snapshot = serde_json::from_str(&picture)?;
    Ok(serde_json::to_string(&Snapshot { logged, ..snapshot })?)
}

/// Remembers how things were before a change. What had been taken back can't be redone any more.
pub(crate) fn remember(
    t: &Transaction<'_>,
    rig: RigId,
    sentence: &str,
    before: &str,
) -> Result<(), StoreError> {
    t.execute("DELETE FROM history WHERE rig_id = ?1 AND undone = 1", [rig.0])?;
    t.execute(
        "INSERT INTO history (rig_id, sentence, snapshot) VALUES (?1, ?2, ?3)",
        params![rig.0, sentence, before],
    )?;
    t.execute(
        "DELETE FROM history WHERE id IN (
            SELECT id FROM (
                SELECT id, row_number() OVER newest AS place, sum(length(snapshot)) OVER newest AS held
                FROM history WHERE rig_id = ?1 AND undone = 0
                WINDOW newest AS (ORDER BY id DESC)
            ) WHERE place > 1 AND (place > ?2 OR held > ?3))",
        [rig.0, MOST_REMEMBERED, MOST_BYTES],
    )?;
    Ok(())
}

/// What came of taking a change back, or of making it again.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Turned {
    /// There is none.
    Nothing,
    /// It was this one.
    Done(String),
    /// It is not the one that was asked for: this was changed since. Nothing was done.
    Other(String),
}

impl Turned {
    /// The change that was turned, if one was.
    pub fn done(self) -> Option<String> {
        match self {
            Self::Done(sentence) => Some(sentence),
            Self::Nothing | Self::Other(_) => None,
        }
    }
}

/// Changes done are a stack by rising id, changes undone one by falling id: either way the entry
/// next to the border crosses it, and takes the picture of the present with it.
/// With an `expected` id nothing is done unless it is that one.
pub(crate) fn turn(
    t: &Transaction<'_>,
    rig: RigId,
    way: Way,
    expected: Option<i64>,
) -> Result<Turned, StoreError> {
    let (from, order) = match way {
        Way::Undo => (0, "ORDER BY id DESC"),
        Way::Redo => (1, "ORDER BY id ASC"),
    };
    let newest = t
        .query_row(
            &format!(
                "SELECT id, sentence, snapshot FROM history
                 WHERE rig_id = ?1 AND undone = ?2 {order} LIMIT 1"
            ),
            [rig.0, from],
            |r| {
                let text = |name| r.get::<_, String>(name);
                Ok((r.get::<_, i64>("id")?, text("sentence")?, text("snapshot")?))
            },
        )
        .optional()?;
    let Some((id, sentence, before)) = newest else { return Ok(Turned::Nothing) };
    if expected.is_some_and(|expected| expected != id) {
        return Ok(Turned::Other(sentence));
    }
    let unlogged = picture(t, rig, Vec::new())?;
    let logged = put_back(t, rig, &before)?;
    let present = with_logged(unlogged, logged)?;
    t.execute(
        "UPDATE history SET undone = ?1, snapshot = ?2 WHERE id = ?3",
        params![1 - from, present, id],
    )?;
    Ok(Turned::Done(sentence))
}

/// What undo and redo would do.
pub(crate) fn offers(
    c: &Connection,
    rig: RigId,
) -> Result<(Option<Undo>, Option<Undo>), StoreError> {
    let newest = |undone: i64, order: &str| {
        let sql = format!(
            "SELECT id, sentence FROM history WHERE rig_id = ?1 AND undone = ?2 {order} LIMIT 1"
        );
        c.prepare_cached(&sql)?
            .query_row([rig.0, undone], |r| {
                Ok(Undo { id: r.get("id")?, sentence: r.get("sentence")? })
            })
            .optional()
    };
    Ok((newest(0, "ORDER BY id DESC")?, newest(1, "ORDER BY id ASC")?))
}
