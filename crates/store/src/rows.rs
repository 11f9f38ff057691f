//! Rows as SQLite keeps them: what is looked up by stands in columns, the rest is the same document
//! that a plan file holds, so that every figure has one name and one check.

use crate::error::StoreError;
use lake_hour_formats::plan;
use rusqlite::{Connection, OptionalExtension, Row, params};
use serde::{Deserialize, Serialize};

/// A rig with its day's frame and its house rules.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct RigRow {
    pub(crate) id: i64,
    pub(crate) name: String,
    /// [`plan::Frame`].
    pub(crate) frame: String,
}

impl RigRow {
    pub(crate) fn new(id: i64, plan: &lake_hour_core::plan::Plan) -> Self {
        Self { id, name: plan.rig.name.clone(), frame: plan::write_frame(plan) }
    }

    pub(crate) fn get(c: &Connection, id: i64) -> Result<Self, StoreError> {
        c.prepare_cached("SELECT id, name, frame FROM rig WHERE id = ?1")?
            .query_row([id], |r| {
                Ok(Self { id: r.get("id")?, name: r.get("name")?, frame: r.get("frame")? })
            })
            .optional()?
            .ok_or(StoreError::NotFound("rig"))
    }

    /// Writes the row; an id of 0 is given a new one, which is returned.
    pub(crate) fn put(&self, c: &Connection) -> Result<i64, StoreError> {
        // An upsert, not a replacement: replacing would delete the row first, and with it, by the
        // foreign keys, everything that hangs on it.
        c.prepare_cached(
            "INSERT INTO rig (id, name, frame) VALUES (nullif(?1, 0), ?2, ?3)
             ON CONFLICT (id) DO UPDATE SET name = excluded.name, frame = excluded.frame",
        )?
        .execute(params![self.id, self.name, self.frame])?;
        Ok(if self.id == 0 { c.last_insert_rowid() } else { self.id })
    }
}

/// Which of a rig's two lists.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum List {
    Stretches,
    Packs,
}

impl List {
    /// What one entry is called.
    pub(crate) const fn one(self) -> &'static str {
        match self {
            Self::Stretches => "stretch",
            Self::Packs => "pack",
        }
    }

    const fn all(self) -> &'static str {
        match self {
            Self::Stretches => {
                "SELECT id, position, body FROM stretch WHERE rig_id = ?1 ORDER BY position, id"
            }
            Self::Packs => {
                "SELECT id, position, body FROM pack WHERE rig_id = ?1 ORDER BY position, id"
            }
        }
    }

    const fn find(self) -> &'static str {
        match self {
            Self::Stretches => {
                "SELECT id, position, body FROM stretch WHERE rig_id = ?1 AND id = ?2"
            }
            Self::Packs => "SELECT id, position, body FROM pack WHERE rig_id = ?1 AND id = ?2",
        }
    }

    /// An upsert, as [`RigRow::put`]: what refers to a pack keeps it.
    const fn put(self) -> &'static str {
        match self {
            Self::Stretches => {
                "INSERT INTO stretch (id, rig_id, position, body) VALUES (nullif(?1, 0), ?2, ?3, ?4)
                 ON CONFLICT (id) DO UPDATE SET position = excluded.position, body = excluded.body"
            }
            Self::Packs => {
                "INSERT INTO pack (id, rig_id, position, body) VALUES (nullif(?1, 0), ?2, ?3, ?4)
                 ON CONFLICT (id) DO UPDATE SET position = excluded.position, body = excluded.body"
            }
        }
    }

    const fn renumber(self) -> &'static str {
        match self {
            Self::Stretches => "UPDATE stretch SET position = ?1 WHERE id = ?2",
            Self::Packs => "UPDATE pack SET position = ?1 WHERE id = ?2",
        }
    }

    const fn remove(self) -> &'static str {
        match self {
            Self::Stretches => "DELETE FROM stretch WHERE id = ?1 AND rig_id = ?2",
            Self::Packs => "DELETE FROM pack WHERE id = ?1 AND rig_id = ?2",
        }
    }

    const fn clear(self) -> &'static str {
        match self {
            Self::Stretches => "DELETE FROM stretch WHERE rig_id = ?1",
            Self::Packs => "DELETE FROM pack WHERE rig_id = ?1",
        }
    }
}

/// A stretch of the day, or a pack.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub(crate) struct Item {
    pub(crate) id: i64,
    pub(crate) position: i64,
    pub(crate) body: String,
}

impl Item {
    fn from_row(row: &Row<'_>) -> rusqlite::Result<Self> {
        Ok(Self { id: row.get("id")?, position: row.get("position")?, body: row.get("body")? })
    }

    pub(crate) fn all(c: &Connection, list: List, rig: i64) -> Result<Vec<Self>, StoreError> {
        let mut select = c.prepare_cached(list.all())?;
        let rows = select.query_map([rig], Self::from_row)?;
        Ok(rows.collect::<Result<_, _>>()?)
    }

    pub(crate) fn find(c: &Connection, list: List, rig: i64, id: i64) -> Result<Self, StoreError> {
        c.prepare_cached(list.find())?
            .query_row([rig, id], Self::from_row)
            .optional()?
            .ok_or(StoreError::NotFound(list.one()))
    }

    /// Writes it; an id of 0 is given a new one, which is returned.
    pub(crate) fn put(&self, c: &Connection, list: List, rig: i64) -> Result<i64, StoreError> {
        c.prepare_cached(list.put())?.execute(params![self.id, rig, self.position, self.body])?;
        Ok(if self.id == 0 { c.last_insert_rowid() } else { self.id })
    }

    pub(crate) fn remove(c: &Connection, list: List, rig: i64, id: i64) -> Result<(), StoreError> {
        match c.execute(list.remove(), [id, rig])? {
            0 => Err(StoreError::NotFound(list.one())),
            _ => Ok(()),
        }
    }

    pub(crate) fn clear(c: &Connection, list: List, rig: i64) -> Result<(), StoreError> {
        c.execute(list.clear(), [rig])?;
        Ok(())
    }

    /// Makes a rig's list these and no others; those that are there already stay in their place, and all that
    /// refers to them with them.
    pub(crate) fn restore(
        c: &Connection,
        list: List,
        rig: i64,
        items: &[Self],
    ) -> Result<(), StoreError> {
        for there in Self::all(c, list, rig)? {
            if items.iter().all(|item| item.id != there.id) {
                Self::remove(c, list, rig, there.id)?;
            }
        }
        for item in items {
            item.put(c, list, rig)?;
        }
        Ok(())
    }

    /// Puts the entries in this order.
    pub(crate) fn arrange(c: &Connection, list: List, order: &[i64]) -> Result<(), StoreError> {
        let mut update = c.prepare_cached(list.renumber())?;
        for (position, id) in (0_i64..).zip(order) {
            update.execute([position, *id])?;
        }
        Ok(())
    }
}
