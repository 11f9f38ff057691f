//! Files that were sent, and wait to be taken or are on their way to the shelf.

use super::error::PageError;
use super::upload::Upload;
use lake_hour_store::{Progress, Report};
use std::collections::VecDeque;
use std::fs::File;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};

/// Files that are held at once, waiting to be taken; the oldest that nobody is taking goes first.
const MOST_HELD: usize = 4;

/// How far a file is.
#[derive(Debug, Clone)]
pub(crate) enum Stage {
    /// Being compared with the shelf.
    Looking,
    /// What it would do.
    Looked(Report),
    /// Being put on the shelf.
    Taking,
    /// What it did.
    Taken(Report),
    /// Called off before it was taken.
    Off,
    /// The database could not: why, and what became of the file.
    Failed(String),
}

/// A file on its way to the shelf.
#[derive(Debug)]
pub(crate) struct Held {
    pub(crate) id: u64,
    pub(crate) name: String,
    pub(crate) progress: Arc<Progress>,
    file: File,
    stage: Mutex<Stage>,
}

impl Held {
    pub(crate) fn stage(&self) -> Stage {
        self.stage.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    pub(crate) fn set(&self, stage: Stage) {
        *self.stage.lock().unwrap_or_else(PoisonError::into_inner) = stage;
    }

    /// How much of it is read. [%]
    pub(crate) fn percent(&self) -> u64 {
        let of = |n: &AtomicU64| n.load(Ordering::Relaxed);
        (of(&self.progress.read) * 100 / of(&self.progress.size).max(1)).min(100)
    }

    pub(crate) fn rows(&self) -> u64 {
        self.progress.rows.load(Ordering::Relaxed)
    }

    /// From looked at to being taken; false where it is not there to be taken, or is already.
    pub(crate) fn start(&self) -> bool {
        let mut stage = self.stage.lock().unwrap_or_else(PoisonError::into_inner);
        let ready = matches!(*stage, Stage::Looked(_));
        if ready {
            let rows = self.progress.rows.load(Ordering::Relaxed);
            self.progress.looked.store(rows, Ordering::Relaxed);
            self.progress.read.store(0, Ordering::Relaxed);
            self.progress.rows.store(0, Ordering::Relaxed);
            *stage = Stage::Taking;
        }
        ready
    }

    /// Whoever is at work on it stops.
    pub(crate) fn call_off(&self) {
        self.progress.cancelled.store(true, Ordering::Relaxed);
    }

    /// Nobody has said that it is to be taken.
    fn only_looked_at(&self) -> bool {
        matches!(self.stage(), Stage::Looking | Stage::Looked(_) | Stage::Off)
    }

    /// Nothing more comes of it.
    fn is_done(&self) -> bool {
        matches!(self.stage(), Stage::Taken(_) | Stage::Off | Stage::Failed(_))
    }

    pub(crate) fn open(&self) -> Result<File, PageError> {
        self.file.try_clone().map_err(|_| PageError::Broken)
    }
}

/// The files that wait.
#[derive(Debug, Clone, Default)]
pub(crate) struct Files {
    held: Arc<Mutex<VecDeque<Arc<Held>>>>,
    next: Arc<AtomicU64>,
    left_out: Arc<Mutex<Vec<String>>>,
}

impl Files {
    pub(crate) fn get(&self, id: u64) -> Option<Arc<Held>> {
        let held = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        held.iter().find(|h| h.id == id).cloned()
    }

    pub(crate) fn hold(&self, upload: Upload) -> Arc<Held> {
        let id = self.next.fetch_add(1, Ordering::Relaxed) + 1;
        let progress = Progress { size: AtomicU64::new(upload.size), ..Progress::default() };
        let (name, file) = (upload.name, upload.file);
        let stage = Mutex::new(Stage::Looking);
        let held = Arc::new(Held { id, name, progress: Arc::new(progress), file, stage });
        let mut all = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        all.push_back(held.clone());
        // One that is being taken stays, and so does what is said of one that was.
        while all.iter().filter(|h| h.only_looked_at()).count() > MOST_HELD
            && let Some(at) = all.iter().position(|h| h.only_looked_at())
            && let Some(old) = all.remove(at)
        {
            old.call_off();
        }
        while all.len() > 4 * MOST_HELD
            && let Some(at) = all.iter().position(|h| h.is_done())
        {
            all.remove(at);
        }
        held
    }

    /// Names that the shelf's last file had to leave out.
    pub(crate) fn left_out(&self) -> Vec<String> {
        self.left_out.lock().unwrap_or_else(PoisonError::into_inner).clone()
    }

    pub(crate) fn leave_out(&self, names: Vec<String>) {
        *self.left_out.lock().unwrap_or_else(PoisonError::into_inner) = names;
    }

    /// All are called off: the program ends.
    pub(crate) fn call_off(&self) {
        for held in self.held.lock().unwrap_or_else(PoisonError::into_inner).iter() {
            held.call_off();
        }
    }
}
