//! What can go wrong with the database.

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
    /// Not a database, damaged, or not to be read.
    #[error("{} cannot be used as a database: {source}", path.display())]
    Database {
        /// The file.
        path: PathBuf,
        /// Why.
        source: Box<dyn std::error::Error + Send + Sync>,
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
    /// SQLite said no.
    #[error("the database failed")]
    Database(#[from] rusqlite::Error),
    /// A stored list cannot be read.
    #[error("a stored list cannot be read")]
    Stored(#[from] serde_json::Error),
    /// A stored document is outside what the program knows.
    #[error("a stored document cannot be read")]
    Unknown(#[from] lake_hour_formats::Faults),
    /// The job broke off; nothing was written.
    #[error("the database job broke off; nothing was written")]
    Panicked,
    /// The connection's thread is gone.
    #[error("the database connection is closed")]
    Closed,
}

pub(crate) fn from_thread(error: tokio_rusqlite::Error<StoreError>) -> StoreError {
    match error {
        tokio_rusqlite::Error::Error(e) => e,
        _ => StoreError::Closed,
    }
}
