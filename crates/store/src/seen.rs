//! What a reading connection has read already, while nothing in the file has changed since.

use crate::board::{self, Board, RigId};
use crate::error::StoreError;
use crate::shelf::{self, BatteryId};
use lake_hour_core::shelf::Battery;
use rusqlite::Connection;
use std::collections::{BTreeMap, BTreeSet};
use std::sync::{Arc, Mutex, PoisonError};

/// Most rigs and labels that one connection remembers.
const MOST_RIGS: usize = 4;
const MOST_LABELS: usize = 400;

/// What one connection has read; of no use to another one.
#[derive(Debug, Clone, Default)]
pub(crate) struct Seen(Arc<Mutex<Read>>);

#[derive(Debug, Default)]
struct Read {
    /// SQLite's own count of what other connections have written, as this one sees it.
    version: Option<i64>,
    rigs: Vec<(RigId, Arc<Board>)>,
    labels: BTreeMap<BatteryId, Battery>,
}

impl Seen {
    /// Another file is read from now on.
    pub(crate) fn forget(&self) {
        *self.0.lock().unwrap_or_else(PoisonError::into_inner) = Read::default();
    }

    /// Works with what is remembered, after all of it was dropped if anything has changed.
    fn with<T>(
        &self,
        c: &Connection,
        work: impl FnOnce(&Connection, &mut Read) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let mut read = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        // One read transaction: what is remembered and what is read now are of one moment.
        let t = c.unchecked_transaction()?;
        let version = t.pragma_query_value(None, "data_version", |r| r.get(0))?;
        if read.version != Some(version) {
            *read = Read { version: Some(version), ..Read::default() };
        }
        work(&t, &mut read)
    }

    /// A rig as it is.
    pub(crate) fn board(&self, c: &Connection, rig: RigId) -> Result<Board, StoreError> {
        self.with(c, |c, read| {
            if let Some((_, board)) = read.rigs.iter().find(|(known, _)| *known == rig) {
                return Ok(Board::clone(board));
            }
            let board = board::load_within(c, rig)?;
            read.rigs.truncate(MOST_RIGS - 1);
            read.rigs.insert(0, (rig, Arc::new(board.clone())));
            Ok(board)
        })
    }

    /// The labels of some batteries: of those that stand on the shelf and can be read.
    pub(crate) fn labels(
        &self,
        c: &Connection,
        ids: &BTreeSet<BatteryId>,
    ) -> Result<BTreeMap<BatteryId, Battery>, StoreError> {
        self.with(c, |c, read| {
            let mut found = BTreeMap::new();
            for id in ids {
                if !read.labels.contains_key(id)
                    && let Some(label) = shelf::label(c, *id)?
                {
                    if read.labels.len() >= MOST_LABELS {
                        read.labels.clear();
                    }
                    read.labels.insert(*id, label);
                }
                found.extend(read.labels.get(id).map(|label| (*id, label.clone())));
            }
            Ok(found)
        })
    }
}
