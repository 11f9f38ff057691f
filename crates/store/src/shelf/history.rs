//! Undo and redo of the shelf: for each change, what every battery in it was before.
//!
//! Not a picture of the whole, as for a rig: a shelf may hold a hundred thousand batteries. What takes
//! long is done in pieces, each a transaction of its own, and goes on where it was after a crash.

use super::row::BatteryRow;
use crate::board::Undo;
use crate::error::StoreError;
use rusqlite::{Connection, OptionalExtension, Transaction, params};

/// Changes that can be taken back.
const MOST_REMEMBERED: i64 = 50;
/// What they may hold between them; the newest is kept however large it is. [bytes]
const MOST_BYTES: i64 = 48 << 20;
/// What one battery costs beside its text. Estimate. [bytes]
const EACH: i64 = 24;
/// Batteries put back, or forgotten, at once: some 20 ms of work, for which an edit may have to wait.
const AT_ONCE: i64 = 250;

/// What `undone` says of a change.
const DONE: i64 = 0;
const UNDONE: i64 = 1;
/// Begun, and not yet whole.
const UNFINISHED: i64 = 2;
/// No more to be taken back; what it holds is on its way out.
const FORGOTTEN: i64 = 3;

/// A change whose batteries are still to come.
pub(super) fn begin_unfinished(t: &Transaction<'_>, sentence: &str) -> Result<i64, StoreError> {
    t.execute(
        "INSERT INTO shelf_change (undone, sentence) VALUES (?1, ?2)",
        params![UNFINISHED, sentence],
    )?;
    Ok(t.last_insert_rowid())
}

/// The change is whole. What had been taken back can't be redone any more. True where older changes had to be
/// forgotten because they held too much.
pub(super) fn finish(t: &Transaction<'_>, change: i64, sentence: &str) -> Result<bool, StoreError> {
    t.execute("UPDATE shelf_change SET undone = ?1 WHERE undone = ?2", [FORGOTTEN, UNDONE])?;
    t.execute(
        "UPDATE shelf_change SET undone = ?1, sentence = ?3 WHERE id = ?2",
        params![DONE, change, sentence],
    )?;
    weigh(t, change)?;
    let forget = |too_much: &str, most: i64| {
        let sql = format!(
            "UPDATE shelf_change SET undone = ?1 WHERE id IN (
                SELECT id FROM (
                    SELECT id, row_number() OVER newest AS place, sum(bytes) OVER newest AS held
                    FROM shelf_change WHERE undone = ?2
                    WINDOW newest AS (ORDER BY id DESC)
                ) WHERE place > 1 AND {too_much} > ?3)"
        );
        t.execute(&sql, [FORGOTTEN, DONE, most])
    };
    forget("place", MOST_REMEMBERED)?;
    Ok(forget("held", MOST_BYTES)? > 0)
}

fn weigh(t: &Transaction<'_>, change: i64) -> Result<(), StoreError> {
    t.execute(
        "UPDATE shelf_change SET bytes =
            (SELECT coalesce(sum(length(body)), 0) + ?2 * count(*) FROM shelf_was WHERE change_id = ?1)
         WHERE id = ?1",
        [change, EACH],
    )?;
    Ok(())
}

/// Notes what one battery was before the change; `None` if it was not there.
pub(super) fn note(
    c: &Connection,
    change: i64,
    battery: i64,
    was: Option<&str>,
) -> Result<(), StoreError> {
    c.prepare_cached("INSERT INTO shelf_was (change_id, battery_id, body) VALUES (?1, ?2, ?3)")?
        .execute(params![change, battery, was])?;
    Ok(())
}

/// What is said when older changes had to go.
pub(super) const FORGOT: &str =
    "Older changes hold too much to be kept and can no longer be taken back";

/// A whole change: its sentence, and what each battery in it was. As [`finish`].
pub(super) fn remember(
    t: &Transaction<'_>,
    sentence: &str,
    were: &[(i64, Option<&str>)],
) -> Result<bool, StoreError> {
    let change = begin_unfinished(t, sentence)?;
    were.iter().try_for_each(|(battery, was)| note(t, change, *battery, *was))?;
    finish(t, change, sentence)
}

/// Which way a change is turned.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Way {
    /// The newest change is taken back.
    Undo,
    /// The change taken back last is made once more.
    Redo,
}

impl Way {
    /// What the change next to the border is now, and how it is found.
    const fn next(self) -> (i64, &'static str) {
        match self {
            Self::Undo => (DONE, "ORDER BY id DESC"),
            Self::Redo => (UNDONE, "ORDER BY id ASC"),
        }
    }
}

/// What came of the wish to turn a change.
#[derive(Debug, Clone)]
pub(crate) enum Begun {
    /// There is none.
    Nothing,
    /// This is being turned now.
    Turning(Undo),
    /// It is not the one that was asked for.
    Other(String),
}

/// Begins to turn the change next to the border; with an `expected` id only if it is that one.
pub(crate) fn begin_turn(
    t: &Transaction<'_>,
    way: Way,
    expected: Option<i64>,
) -> Result<Begun, StoreError> {
    let (undo, redo) = offers(t)?;
    let Some(next) = (if way == Way::Undo { undo } else { redo }) else {
        return Ok(Begun::Nothing);
    };
    if expected.is_some_and(|expected| expected != next.id) {
        return Ok(Begun::Other(next.sentence));
    }
    t.execute(
        "UPDATE shelf_change SET turned_to = coalesce(turned_to, ?2) WHERE id = ?1",
        [next.id, i64::MIN],
    )?;
    Ok(Begun::Turning(next))
}

/// Some batteries of the change change places with what they were; false when it is turned.
pub(crate) fn turn(t: &Transaction<'_>, change: i64) -> Result<bool, StoreError> {
    let at: Option<i64> = t
        .query_row("SELECT turned_to FROM shelf_change WHERE id = ?1", [change], |r| r.get(0))
        .optional()?
        .flatten();
    // Another, who asked for the same, has finished it.
    let Some(at) = at else { return Ok(false) };
    let were = noted(t, change, at)?;
    for (id, was) in &were {
        let present = BatteryRow::find_if(t, *id)?.map(|row| row.body);
        restore(t, *id, was.as_deref())?;
        t.prepare_cached(
            "UPDATE shelf_was SET body = ?3 WHERE change_id = ?1 AND battery_id = ?2",
        )?
        .execute(params![change, id, present])?;
    }
    if let Some((last, _)) = were.last() {
        t.execute("UPDATE shelf_change SET turned_to = ?2 WHERE id = ?1", [change, *last])?;
        return Ok(true);
    }
    // What was taken back while something newer was done can't be made again over that.
    t.execute(
        "UPDATE shelf_change SET turned_to = NULL, undone = CASE
            WHEN undone = ?2 THEN ?3
            WHEN EXISTS (SELECT 1 FROM shelf_change n WHERE n.undone = ?3 AND n.id > ?1) THEN ?4
            ELSE ?2 END
         WHERE id = ?1",
        [change, UNDONE, DONE, FORGOTTEN],
    )?;
    weigh(t, change)?;
    Ok(false)
}

/// Some batteries of an unfinished change are put back as they were, except those that were changed since:
/// what somebody typed meanwhile stays. False when all are.
pub(crate) fn take_back(t: &Transaction<'_>, change: i64) -> Result<bool, StoreError> {
    let were = noted(t, change, i64::MIN)?;
    for (id, was) in &were {
        let since: bool = t
            .prepare_cached(
                "SELECT EXISTS (SELECT 1 FROM shelf_was WHERE battery_id = ?1 AND change_id > ?2)",
            )?
            .query_row([*id, change], |r| r.get(0))?;
        if !since {
            restore(t, *id, was.as_deref())?;
        }
        t.prepare_cached("DELETE FROM shelf_was WHERE change_id = ?1 AND battery_id = ?2")?
            .execute([change, *id])?;
    }
    if were.is_empty() {
        t.execute("DELETE FROM shelf_change WHERE id = ?1", [change])?;
    }
    Ok(!were.is_empty())
}

/// The next batteries of a change, and what they were.
fn noted(
    t: &Transaction<'_>,
    change: i64,
    after: i64,
) -> Result<Vec<(i64, Option<String>)>, StoreError> {
    let mut select = t.prepare_cached(
        "SELECT battery_id, body FROM shelf_was WHERE change_id = ?1 AND battery_id > ?2
         ORDER BY battery_id LIMIT ?3",
    )?;
    let rows = select
        .query_map([change, after, AT_ONCE], |r| Ok((r.get("battery_id")?, r.get("body")?)))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

fn restore(t: &Transaction<'_>, id: i64, was: Option<&str>) -> Result<(), StoreError> {
    match was {
        Some(body) => BatteryRow::kept(id, body).put(t).map(drop),
        None => BatteryRow::remove(t, id),
    }
}

/// What a crash left half done: a change that was being turned is turned, an unfinished one taken back.
pub(crate) fn recover(t: &Transaction<'_>) -> Result<usize, StoreError> {
    let all = |sql: &str| -> Result<Vec<i64>, StoreError> {
        Ok(t.prepare(sql)?.query_map([], |r| r.get(0))?.collect::<Result<_, _>>()?)
    };
    let half = all("SELECT id FROM shelf_change WHERE turned_to IS NOT NULL")?;
    for change in &half {
        while turn(t, *change)? {}
    }
    let unfinished = all("SELECT id FROM shelf_change WHERE undone = 2")?;
    for change in &unfinished {
        while take_back(t, *change)? {}
    }
    Ok(half.len() + unfinished.len())
}

/// Some of what is forgotten goes, and the space it took is given back; false when nothing is left.
pub(crate) fn tidy(t: &Transaction<'_>) -> Result<bool, StoreError> {
    let gone = t.execute(
        "DELETE FROM shelf_was WHERE (change_id, battery_id) IN (
            SELECT w.change_id, w.battery_id FROM shelf_was w
            JOIN shelf_change c ON c.id = w.change_id WHERE c.undone = ?1 LIMIT ?2)",
        [FORGOTTEN, 4 * AT_ONCE],
    )?;
    if gone > 0 {
        return Ok(true);
    }
    t.execute("DELETE FROM shelf_change WHERE undone = ?1", [FORGOTTEN])?;
    Ok(false)
}

/// What undo and redo would do.
pub(crate) fn offers(c: &Connection) -> Result<(Option<Undo>, Option<Undo>), StoreError> {
    let newest = |way: Way| {
        let (from, order) = way.next();
        c.prepare_cached(&format!(
            "SELECT id, sentence FROM shelf_change WHERE undone = ?1 {order} LIMIT 1"
        ))?
        .query_row([from], |r| Ok(Undo { id: r.get("id")?, sentence: r.get("sentence")? }))
        .optional()
    };
    Ok((newest(Way::Undo)?, newest(Way::Redo)?))
}
