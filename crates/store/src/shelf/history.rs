//! Undo and redo of the shelf: for each change, what every battery in it was before.
//!
//! Not a picture of the whole, as for a rig: a shelf may hold a hundred thousand batteries.

use super::row::BatteryRow;
use crate::error::StoreError;
use rusqlite::{Connection, OptionalExtension, Transaction, params};

/// Changes that can be taken back.
const MOST_REMEMBERED: i64 = 50;
/// Batteries put back between two looks at the table. Bounds memory.
const AT_ONCE: usize = 500;

/// Begins a change. What had been taken back can't be redone any more.
pub(super) fn begin(t: &Transaction<'_>, sentence: &str) -> Result<i64, StoreError> {
    t.execute("DELETE FROM shelf_change WHERE undone = 1", [])?;
    t.execute("INSERT INTO shelf_change (sentence) VALUES (?1)", [sentence])?;
    let change = t.last_insert_rowid();
    t.execute(
        "DELETE FROM shelf_change WHERE undone = 0 AND id NOT IN
            (SELECT id FROM shelf_change WHERE undone = 0 ORDER BY id DESC LIMIT ?1)",
        [MOST_REMEMBERED],
    )?;
    Ok(change)
}

/// Says what the change did.
pub(super) fn name(t: &Transaction<'_>, change: i64, sentence: &str) -> Result<(), StoreError> {
    t.execute("UPDATE shelf_change SET sentence = ?2 WHERE id = ?1", params![change, sentence])?;
    Ok(())
}

/// Notes what one battery was before the change; `None` if it was not there.
pub(super) fn note(
    t: &Transaction<'_>,
    change: i64,
    battery: i64,
    was: Option<&str>,
) -> Result<(), StoreError> {
    t.prepare_cached("INSERT INTO shelf_was (change_id, battery_id, body) VALUES (?1, ?2, ?3)")?
        .execute(params![change, battery, was])?;
    Ok(())
}

/// A whole change: its sentence, and what each battery in it was.
pub(super) fn remember(
    t: &Transaction<'_>,
    sentence: &str,
    were: &[(i64, Option<&str>)],
) -> Result<(), StoreError> {
    let change = begin(t, sentence)?;
    were.iter().try_for_each(|(battery, was)| note(t, change, *battery, *was))
}

/// The newest change taken back.
pub(crate) fn undo(t: &Transaction<'_>) -> Result<Option<String>, StoreError> {
    swap(t, 0, "ORDER BY id DESC")
}

/// The change taken back last made once more.
pub(crate) fn redo(t: &Transaction<'_>) -> Result<Option<String>, StoreError> {
    swap(t, 1, "ORDER BY id ASC")
}

/// Every battery of the change next to the border changes places with what it was.
fn swap(t: &Transaction<'_>, from: i64, order: &str) -> Result<Option<String>, StoreError> {
    let sql = format!("SELECT id, sentence FROM shelf_change WHERE undone = ?1 {order} LIMIT 1");
    let next = t.query_row(&sql, [from], |r| Ok((r.get::<_, i64>(0)?, r.get(1)?))).optional()?;
    let Some((change, sentence)) = next else { return Ok(None) };
    let mut after = i64::MIN;
    loop {
        let were: Vec<(i64, Option<String>)> = t
            .prepare_cached(
                "SELECT battery_id, body FROM shelf_was WHERE change_id = ?1 AND battery_id > ?2
                 ORDER BY battery_id LIMIT ?3",
            )?
            .query_map(params![change, after, AT_ONCE as i64], |r| Ok((r.get(0)?, r.get(1)?)))?
            .collect::<Result<_, _>>()?;
        for (id, was) in &were {
            let present = BatteryRow::find_if(t, *id)?.map(|row| row.body);
            match was {
                Some(body) => {
                    BatteryRow::of(*id, &super::row::read(body)?).put(t)?;
                }
                None => BatteryRow::remove(t, *id)?,
            }
            t.prepare_cached(
                "UPDATE shelf_was SET body = ?3 WHERE change_id = ?1 AND battery_id = ?2",
            )?
            .execute(params![change, id, present])?;
        }
        match were.last() {
            Some((id, _)) => after = *id,
            None => break,
        }
    }
    t.execute("UPDATE shelf_change SET undone = ?2 WHERE id = ?1", [change, 1 - from])?;
    Ok(Some(sentence))
}

/// What undo and redo would do.
pub(super) fn offers(c: &Connection) -> Result<(Option<String>, Option<String>), StoreError> {
    let newest = |sql: &str| c.prepare_cached(sql)?.query_row([], |r| r.get(0)).optional();
    Ok((
        newest("SELECT sentence FROM shelf_change WHERE undone = 0 ORDER BY id DESC LIMIT 1")?,
        newest("SELECT sentence FROM shelf_change WHERE undone = 1 ORDER BY id ASC LIMIT 1")?,
    ))
}
