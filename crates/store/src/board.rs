//! Rigs read and kept whole.

use crate::error::StoreError;
use crate::history;
use crate::rows::{PackRow, RigRow, StretchRow};
use lake_hour_core::plan::Plan;
use rusqlite::{Connection, Transaction};

/// Which rig.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct RigId(pub i64);

/// Which stretch of the day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct StretchId(pub i64);

/// Which pack.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct PackId(pub i64);

/// A rig by name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RigName {
    /// Which one.
    pub id: RigId,
    /// What it is called.
    pub name: String,
}

/// A rig with its day, rules and packs, and the ids to change them by.
#[derive(Debug, Clone, PartialEq)]
pub struct Board {
    /// Which rig.
    pub rig: RigId,
    /// The plan.
    pub plan: Plan,
    /// Ids of the day's stretches, in their order.
    pub stretches: Vec<StretchId>,
    /// Ids of the packs, in their order.
    pub packs: Vec<PackId>,
    /// What undo would take back.
    pub undo: Option<String>,
    /// What redo would make again.
    pub redo: Option<String>,
}

/// A change that is on the disk.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Kept {
    /// What was done, as a sentence.
    pub sentence: String,
    /// Id of what was added or copied.
    pub made: Option<i64>,
}

pub(crate) fn rigs(c: &Connection) -> Result<Vec<RigName>, StoreError> {
    let mut select = c.prepare_cached("SELECT id, name FROM rig ORDER BY id")?;
    let rows = select.query_map([], |r| Ok(RigName { id: RigId(r.get(0)?), name: r.get(1)? }))?;
    Ok(rows.collect::<Result<_, _>>()?)
}

pub(crate) fn load(c: &Connection, rig: RigId) -> Result<Board, StoreError> {
    // One read transaction: a change between the queries must not be seen in half.
    load_within(&*c.unchecked_transaction()?, rig)
}

/// As [`load`], inside a transaction that is already open.
pub(crate) fn load_within(c: &Connection, rig: RigId) -> Result<Board, StoreError> {
    let row = RigRow::get(c, rig.0)?;
    let stretches = StretchRow::all(c, rig.0)?;
    let packs = PackRow::all(c, rig.0)?;
    let (undo, redo) = history::offers(c, rig)?;
    Ok(Board {
        rig,
        stretches: stretches.iter().map(|s| StretchId(s.id)).collect(),
        packs: packs.iter().map(|p| PackId(p.id)).collect(),
        plan: row.plan(
            stretches.iter().map(StretchRow::stretch).collect::<Result<_, _>>()?,
            packs.iter().map(PackRow::pack).collect::<Result<_, _>>()?,
        )?,
        undo,
        redo,
    })
}

pub(crate) fn insert(t: &Transaction<'_>, plan: &Plan) -> Result<RigId, StoreError> {
    let rig = RigRow::new(0, plan).put(t)?;
    for (position, stretch) in (0..).zip(&plan.day.stretches) {
        StretchRow::new(0, position, stretch).put(t, rig)?;
    }
    for (position, pack) in (0..).zip(&plan.packs) {
        PackRow::new(0, position, pack).put(t, rig)?;
    }
    Ok(RigId(rig))
}
