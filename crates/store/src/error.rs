//! What can go wrong with the database.

use crate::trouble::Trouble;
use std::path::PathBuf;

/// The file cannot be used.
#[derive(Debug, thiserror::Error)]
pub enum OpenError {
    /// Another program has it open for writing.
    #[error(
        "{} is in use by another running Lake Hour: close that one, or name another file with --db", .0.display()
    )]
    InUse(PathBuf),
    /// Written by a newer version than this.
    #[error(
        "{} was written by a newer version of Lake Hour: start that version, or name another file with --db. Nothing was changed", .0.display()
    )]
    Newer(PathBuf),
    /// The file system refused.
    #[error("{} cannot be opened: {source}", path.display())]
    File {
        /// The file.
        path: PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// Not this program's: another has made it.
    #[error(
        "{} belongs to another program and was left alone: name another file with --db", .0.display()
    )]
    Foreign(PathBuf),
    /// Not a database, damaged, or not to be read.
    #[error("{} cannot be used: {says}", path.display())]
    Database {
        /// The file.
        path: PathBuf,
        /// Why, and what to do.
        says: String,
        /// Why it can be looked at all the same, if so.
        trouble: Option<Trouble>,
    },
    /// The opening itself broke off.
    #[error("the database could not be opened: {0}")]
    Unusable(String),
}

/// A read or a write failed.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// What was named is not (or no longer) there.
    #[error("there is no such {0}: it may have been removed")]
    NotFound(&'static str),
    /// Another battery is called that.
    #[error("a battery called {0} stands on the shelf already")]
    Taken(String),
    /// A list is at its limit.
    #[error("there are {most} {what} already, and no more fit")]
    Full {
        /// What they are.
        what: &'static str,
        /// How many fit.
        most: usize,
    },
    /// Others write without end; this was not begun.
    #[error("the database is busy with other changes")]
    Busy,
    /// What is kept of a rig cannot be read any more.
    #[error("a stored rig cannot be read: {why}")]
    Unreadable {
        /// Its text.
        text: String,
        /// What is wrong with it.
        why: String,
    },
    /// SQLite said no.
    #[error("the database failed: {}", in_words(.0))]
    Database(#[from] rusqlite::Error),
    /// A stored list cannot be read.
    #[error("a stored list cannot be read")]
    Stored(#[from] serde_json::Error),
    /// A stored document is outside what the program knows.
    #[error("a stored document cannot be read")]
    Unknown(#[from] lake_hour_formats::Faults),
    /// Nothing can be changed for now.
    #[error("nothing can be changed: {}", .0.words())]
    LooksOnly(Trouble),
    /// A file could not be taken, and not yet taken back either.
    #[error(
        "some of the file is on the shelf still, and is taken off by itself as soon as that can be: {0}"
    )]
    HalfTaken(String),
    /// A file would need more room than the disk has.
    #[error("the disk has no room for it: it needs about {} MB, and {} MB are free", .needs >> 20, .free >> 20)]
    NoRoom {
        /// What it needs. [bytes]
        needs: u64,
        /// What is free. [bytes]
        free: u64,
    },
    /// The disk said no.
    #[error("a copy cannot be written: {0}")]
    Disk(String),
    /// The job broke off; nothing was written.
    #[error("the database job broke off; nothing was written")]
    Panicked,
    /// The connection's thread is gone.
    #[error("the database connection is closed")]
    Closed,
}

impl StoreError {
    /// What to do about it, where it is the disk that refuses.
    pub fn of_disk(&self) -> Option<String> {
        use rusqlite::ErrorCode::{DiskFull, ReadOnly, SystemIoFailure};
        match self {
            Self::Database(e) => {
                let code = e.sqlite_error_code()?;
                matches!(code, DiskFull | ReadOnly | SystemIoFailure).then(|| in_words(e))
            }
            Self::Disk(says) => Some(says.clone()),
            Self::LooksOnly(trouble) => Some(trouble.words().to_owned()),
            Self::NoRoom { .. } => Some(self.to_string()),
            _ => None,
        }
    }
}

/// What SQLite says, as a sentence with what to do; never its own SQL.
pub(crate) fn in_words(error: &rusqlite::Error) -> String {
    use rusqlite::ErrorCode;
    let says = match error.sqlite_error_code() {
        Some(ErrorCode::DiskFull) => Trouble::Full.words(),
        Some(ErrorCode::ReadOnly) => Trouble::ReadOnly.words(),
        Some(ErrorCode::CannotOpen | ErrorCode::PermissionDenied) => {
            "it cannot be opened; look at its folder and its permissions, or name another file with --db"
        }
        Some(ErrorCode::DatabaseCorrupt) => Trouble::Damaged.words(),
        Some(ErrorCode::NotADatabase) => "it is no Lake Hour database; name another file with --db",
        Some(ErrorCode::DatabaseBusy | ErrorCode::DatabaseLocked) => {
            "another program is writing to it; close that one"
        }
        Some(ErrorCode::SystemIoFailure) => {
            "the disk could not be read or written; look at the drive and its free space"
        }
        _ => "it could not do what was asked",
    };
    says.to_owned()
}

pub(crate) fn from_thread(error: tokio_rusqlite::Error<StoreError>) -> StoreError {
    match error {
        tokio_rusqlite::Error::Error(e) => e,
        _ => StoreError::Closed,
    }
}
