//! Files brought to the shelf: looked at, or taken piece by piece.

use crate::error::StoreError;
use crate::shelf::{self, Progress, Report, Taking};
use crate::{Store, open, trouble};
use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::time::Duration;

/// What one battery of a file takes, with its indexes and what undo keeps, at most. [bytes] Measured: five files of 100,000 leave 79 MB.
const EACH: u64 = 2 << 10;
/// What taking a file back takes, whatever its size: pieces go through the log, which begins anew again and again. [bytes]
const RESERVE: u64 = 16 << 20;

/// What could not be taken back is tried again so often.
const AGAIN: Duration = Duration::from_secs(2);

/// Room that is held while a file is taken, so that it can be taken back on a full disk.
struct Reserve(PathBuf);

impl Reserve {
    /// Held beside a database that is to take so many batteries.
    fn take(db: &Path, rows: u64) -> Result<Self, StoreError> {
        let needs = RESERVE + rows * EACH;
        if let Some(free) = trouble::room(db)
            && free < needs
        {
            return Err(StoreError::NoRoom { needs, free });
        }
        let held = Self(open::beside(db, ".room"));
        let written = (|| {
            let mut file = open::private().create(true).truncate(true).write(true).open(&held.0)?;
            // Real pages: an empty file that only says how long it is holds none.
            let page = [1_u8; 1 << 16];
            for _ in 0..RESERVE / page.len() as u64 {
                file.write_all(&page)?;
            }
            file.sync_all()
        })();
        match written {
            Ok(()) => Ok(held),
            Err(error) if error.kind() == std::io::ErrorKind::StorageFull => {
                Err(StoreError::NoRoom { needs, free: trouble::room(db).unwrap_or(0) })
            }
            Err(error) => Err(StoreError::Disk(error.to_string())),
        }
    }
}

/// What a program that was killed has left of it.
pub(crate) fn forget_reserve(db: &Path) {
    let _ = std::fs::remove_file(open::beside(db, ".room"));
}

impl Drop for Reserve {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.0);
    }
}

impl Store {
    /// Says what a file (CSV or JSON) would do to the shelf. It reads over a connection of its own, and
    /// keeps nobody waiting.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read; what is wrong with the file stands in the report.
    pub async fn look_at_file(
        &self,
        file: File,
        progress: Arc<Progress>,
    ) -> Result<Report, StoreError> {
        let path = self.file();
        let looked = tokio::task::spawn_blocking(move || {
            let c = open::reader(&path).map_err(|_| StoreError::Closed)?;
            // One look at the shelf, whatever is changed meanwhile.
            let t = c.unchecked_transaction()?;
            let mut pieces = shelf::understand(file, false, progress.clone());
            let mut looking = Taking::look(progress);
            while let Some(piece) = pieces.blocking_recv() {
                if !looking.piece(&t, piece)? {
                    break;
                }
            }
            Ok(looking.report)
        });
        looked.await.map_err(|_| StoreError::Panicked)?
    }

    /// Takes a file (CSV or JSON) onto the shelf as one change, or, if it is broken or called off, not
    /// at all. Others write in between; what they changed of it stays theirs even then.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written: what was written of it is taken back then too.
    pub async fn take_file(
        &self,
        file: File,
        progress: Arc<Progress>,
    ) -> Result<Report, StoreError> {
        let rows =
            progress.rows.load(Ordering::Relaxed).max(progress.looked.load(Ordering::Relaxed));
        let reserve = Reserve::take(&self.path, rows)?;
        let of = progress.clone();
        let mut taking = self.write(move |t| Taking::begin(t, of)).await?;
        let change = taking.change();
        let mut pieces = shelf::understand(file, true, progress);
        let mut failed = None;
        while let Some(piece) = pieces.recv().await {
            let done = self
                .write(move |t| {
                    let goes_on = taking.piece(t, piece)?;
                    Ok((taking, goes_on))
                })
                .await;
            match done {
                Ok((back, true)) => taking = back,
                Ok((back, false)) => {
                    taking = back;
                    break;
                }
                Err(error) => {
                    failed = Some(error);
                    taking = Taking::look(Arc::default());
                    break;
                }
            }
        }
        drop(pieces);
        let done = match failed {
            Some(error) => Err(error),
            None => {
                self.write(move |t| {
                    let kept = taking.finish(t)?;
                    Ok((kept, taking.report))
                })
                .await
            }
        };
        // Taking it back needs room as well: where the disk is full by now, this is it.
        drop(reserve);
        if !matches!(done, Ok((true, _))) {
            let mut back = self.write(move |t| shelf::take_back(t, change)).await;
            while matches!(back, Ok(true)) {
                back = self.write(move |t| shelf::take_back(t, change)).await;
            }
            if let Err(error) = back {
                self.take_back_later(change);
                return Err(StoreError::HalfTaken(error.to_string()));
            }
        }
        self.tidy();
        done.map(|(_, report)| report)
    }

    /// What could not be taken back yet is tried again until it can be.
    fn take_back_later(&self, change: i64) {
        let store = self.clone();
        tokio::spawn(async move {
            loop {
                tokio::time::sleep(AGAIN).await;
                match store.write(move |t| shelf::take_back(t, change)).await {
                    Ok(false) | Err(StoreError::Closed) => break,
                    Ok(true) | Err(_) => {}
                }
            }
        });
    }
}
