//! Where a user's rigs, days and packs are kept: one SQLite file.
//!
//! One connection writes, each change in a transaction of its own that is on the disk before it is
//! reported as saved; a few others only read. A second program cannot open the same file for
//! writing. SQL stands in this crate and nowhere else.

mod board;
mod change;
mod error;
mod history;
mod open;
mod rows;
mod shelf;

pub use board::{Board, Kept, PackId, RigId, RigName, StretchId};
pub use change::{Change, Direction, Place};
pub use error::{OpenError, StoreError};
pub use shelf::{
    BatteryId, Order, Progress, Report, ShelfChange, ShelfPage, ShelfQuery, Shelved, Told,
};

use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Candidate;
use rusqlite::{Connection, Transaction, TransactionBehavior};
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Connections that only read.
const READERS: usize = 2;

/// A handle on the database; cheap to clone.
#[derive(Debug, Clone)]
pub struct Store {
    writer: tokio_rusqlite::Connection,
    readers: Arc<[tokio_rusqlite::Connection]>,
    next_reader: Arc<AtomicUsize>,
    shelf: Arc<shelf::Known>,
    /// Held for as long as the store is in use, so that no second program writes.
    _lock: Arc<std::fs::File>,
}

impl Store {
    /// Opens the file, creating or migrating it as needed.
    ///
    /// # Errors
    /// [`OpenError`] when another program holds it, when it comes from a newer version, or when it
    /// is no database of this program.
    pub async fn open(path: &Path) -> Result<Self, OpenError> {
        let lock = open::lock(path)?;
        let owned = path.to_owned();
        let writer = tokio::task::spawn_blocking(move || open::writer(&owned))
            .await
            .map_err(|e| OpenError::Unusable(e.to_string()))??;
        let mut readers = Vec::with_capacity(READERS);
        for _ in 0..READERS {
            readers.push(tokio_rusqlite::Connection::from(open::reader(path)?));
        }
        Ok(Self {
            writer: tokio_rusqlite::Connection::from(writer),
            readers: readers.into(),
            next_reader: Arc::default(),
            shelf: Arc::default(),
            _lock: Arc::new(lock),
        })
    }

    /// The rigs that are kept, oldest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn rigs(&self) -> Result<Vec<RigName>, StoreError> {
        self.read(board::rigs).await
    }

    /// A rig with its day, rules and packs.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig.
    pub async fn board(&self, rig: RigId) -> Result<Board, StoreError> {
        self.read(move |c| board::load(c, rig)).await
    }

    /// Keeps a whole plan as a new rig.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn import(&self, plan: Plan) -> Result<RigId, StoreError> {
        self.write(move |t| board::insert(t, &plan)).await
    }

    /// The same rig once more, under a name of its own.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig.
    pub async fn duplicate(&self, rig: RigId) -> Result<RigId, StoreError> {
        self.write(move |t| board::duplicate(t, rig)).await
    }

    /// Puts a rig away, or brings it back; nothing of it is lost.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig.
    pub async fn archive(&self, rig: RigId, archived: bool) -> Result<(), StoreError> {
        self.write(move |t| board::archive(t, rig, archived)).await
    }

    /// Makes one change to a rig and remembers how to take it back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when what it names is gone, [`StoreError::Full`] when no more fit.
    pub async fn change(&self, rig: RigId, change: Change) -> Result<Kept, StoreError> {
        self.write(move |t| {
            let sentence = change::sentence(t, rig, &change)?;
            history::remember(t, rig, &sentence)?;
            let made = change::apply(t, rig, &change)?;
            Ok(Kept { sentence, made })
        })
        .await
    }

    /// Takes the newest change back; says which, or `None` when there is none left.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn undo(&self, rig: RigId) -> Result<Option<String>, StoreError> {
        self.write(move |t| history::undo(t, rig)).await
    }

    /// Makes the change that was taken back last once more.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn redo(&self, rig: RigId) -> Result<Option<String>, StoreError> {
        self.write(move |t| history::redo(t, rig)).await
    }

    /// One page of the shelf. `reckoned` is the figure to sort by where [`Order::Reckoned`] is wanted.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn shelf(
        &self,
        query: ShelfQuery,
        reckoned: impl Fn(&Candidate) -> Option<f64> + Send + 'static,
    ) -> Result<ShelfPage, StoreError> {
        let known = self.shelf.clone();
        self.read(move |c| shelf::page(c, &known, &query, reckoned)).await
    }

    /// One battery of the shelf.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such battery.
    pub async fn battery(&self, id: BatteryId) -> Result<Shelved, StoreError> {
        self.read(move |c| shelf::battery(c, id)).await
    }

    /// The battery of this name on the shelf, whatever the case of its letters.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn battery_named(&self, name: String) -> Result<Option<BatteryId>, StoreError> {
        self.read(move |c| Ok(shelf::named(c, &name)?.map(BatteryId))).await
    }

    /// Hands every battery of the shelf over in order of name, until `take` says no more.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn each_battery(
        &self,
        take: impl FnMut(&Candidate) -> bool + Send + 'static,
    ) -> Result<(), StoreError> {
        self.read(move |c| shelf::each(c, take)).await
    }

    /// Makes one change to the shelf and remembers how to take it back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when what it names is gone, [`StoreError::Taken`] when its name is.
    pub async fn change_shelf(&self, change: ShelfChange) -> Result<Kept, StoreError> {
        self.write_shelf(move |t| {
            let (sentence, made) = shelf::change(t, &change)?;
            Ok(Kept { sentence, made })
        })
        .await
    }

    /// Puts these on the shelf where it is empty and always was: what was taken off stays off.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn stock(&self, batteries: Vec<Candidate>) -> Result<(), StoreError> {
        self.write_shelf(move |t| shelf::stock(t, &batteries)).await
    }

    /// Takes the shelf's newest change back; says which, or `None` when there is none left.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn undo_shelf(&self) -> Result<Option<String>, StoreError> {
        self.write_shelf(shelf::undo).await
    }

    /// Makes the shelf's change that was taken back last once more.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn redo_shelf(&self) -> Result<Option<String>, StoreError> {
        self.write_shelf(shelf::redo).await
    }

    /// Says what a file (CSV or JSON) would do to the shelf.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read; what is wrong with the file stands in the report.
    pub async fn look_at_file(
        &self,
        file: std::fs::File,
        progress: Arc<Progress>,
    ) -> Result<Report, StoreError> {
        self.read(move |c| shelf::import(c, None, &file, &progress)).await
    }

    /// Takes a file (CSV or JSON) onto the shelf as one change, or, if it is broken or called off, not
    /// at all.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn take_file(
        &self,
        file: std::fs::File,
        progress: Arc<Progress>,
    ) -> Result<Report, StoreError> {
        let done = self
            .write_if(
                move |t| shelf::import(t, Some(t), &file, &progress),
                |report| {
                    !report.cancelled
                        && report.broken.is_none()
                        && report.added + report.changed > 0
                },
            )
            .await;
        self.shelf.forget();
        done
    }

    /// Runs `job` in a transaction that is committed if it succeeds and rolled back if not.
    async fn write<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        self.write_if(job, |_| true).await
    }

    /// As [`write`](Self::write), when the job changes the shelf.
    async fn write_shelf<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        let done = self.write(job).await;
        self.shelf.forget();
        done
    }

    /// As [`write`](Self::write), and rolled back too when `keep` says no to what came out.
    async fn write_if<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static,
        keep: impl FnOnce(&T) -> bool + Send + 'static,
    ) -> Result<T, StoreError> {
        let done = self.writer.call(move |connection| -> Result<T, StoreError> {
            // A panic would end the writing thread and with it every later change.
            std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
                let t = connection.transaction_with_behavior(TransactionBehavior::Immediate)?;
                let value = job(&t)?;
                if keep(&value) {
                    t.commit()?;
                } else {
                    t.rollback()?;
                }
                Ok(value)
            }))
            .unwrap_or(Err(StoreError::Panicked))
        });
        done.await.map_err(error::from_thread)
    }

    async fn read<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Connection) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        let n = self.next_reader.fetch_add(1, Ordering::Relaxed) % self.readers.len();
        let done = self.readers[n].call(move |connection| -> Result<T, StoreError> {
            std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| job(connection)))
                .unwrap_or(Err(StoreError::Panicked))
        });
        done.await.map_err(error::from_thread)
    }
}
