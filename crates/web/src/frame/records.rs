//! Tables of monitors that were sent, and wait to be told which column is what.

use super::error::PageError;
use super::upload::Upload;
use lake_hour_formats::monitor::Top;
use lake_hour_store::RigId;
use std::collections::VecDeque;
use std::fs::File;
use std::io::{Seek, SeekFrom};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// Tables that are held at once; the oldest goes first.
const MOST_HELD: usize = 4;

/// A table that waits.
#[derive(Debug)]
pub(crate) struct Record {
    pub(crate) id: u64,
    pub(crate) rig: RigId,
    pub(crate) name: String,
    pub(crate) top: Top,
    file: Mutex<File>,
}

impl Record {
    /// Its bytes, from the start. Whoever reads them has them alone.
    pub(crate) fn read<T>(&self, read: impl FnOnce(&File) -> T) -> Result<T, PageError> {
        let mut file = self.file.lock().unwrap_or_else(PoisonError::into_inner);
        file.seek(SeekFrom::Start(0)).map_err(|_| PageError::Broken)?;
        Ok(read(&file))
    }
}

/// The tables that wait.
#[derive(Debug, Clone, Default)]
pub(crate) struct Records {
    held: Arc<Mutex<VecDeque<Arc<Record>>>>,
    next: Arc<AtomicU64>,
}

impl Records {
    pub(crate) fn hold(&self, rig: RigId, upload: Upload, top: Top) -> Arc<Record> {
        let id = self.next.fetch_add(1, Ordering::Relaxed) + 1;
        let record =
            Arc::new(Record { id, rig, name: upload.name, top, file: Mutex::new(upload.file) });
        let mut all = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        all.push_back(Arc::clone(&record));
        while all.len() > MOST_HELD {
            all.pop_front();
        }
        record
    }

    /// One of a rig's.
    pub(crate) fn get(&self, rig: RigId, id: u64) -> Option<Arc<Record>> {
        let all = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        all.iter().find(|r| r.id == id && r.rig == rig).cloned()
    }

    /// It is done with.
    pub(crate) fn let_go(&self, id: u64) {
        self.held.lock().unwrap_or_else(PoisonError::into_inner).retain(|r| r.id != id);
    }
}
