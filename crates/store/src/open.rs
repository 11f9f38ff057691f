//! Opening the file: the lock, the settings, the migrations.

use crate::error::OpenError;
use rusqlite::{Connection, OpenFlags};
use rusqlite_migration::{M, MigrationDefinitionError, Migrations};
use std::fs::{File, TryLockError};
use std::path::{Path, PathBuf};

/// Never edited once released: a change is a new file at the end.
const STEPS: &[M<'static>] = &[
    M::up(include_str!("../migrations/0001_board.sql")),
    M::up(include_str!("../migrations/0002_shelf.sql")),
];
const MIGRATIONS: Migrations<'static> = Migrations::from_slice(STEPS);

/// Takes the lock file beside the database, for as long as the returned file lives.
pub(crate) fn lock(path: &Path) -> Result<File, OpenError> {
    let mut name = path.as_os_str().to_owned();
    name.push(".lock");
    let lock_path = PathBuf::from(name);
    let file_error = |source| OpenError::File { path: lock_path.clone(), source };
    let file = File::options()
        .create(true)
        .truncate(false)
        .write(true)
        .open(&lock_path)
        .map_err(file_error)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(OpenError::InUse(path.to_owned())),
        Err(TryLockError::Error(source)) => Err(file_error(source)),
    }
}

/// The one connection that writes, its file brought to this version.
pub(crate) fn writer(path: &Path) -> Result<Connection, OpenError> {
    let mut connection = Connection::open(path).map_err(|e| refused(path, e))?;
    // A file of a hundred thousand batteries is one transaction: 32 MB of cache hold its indexes.
    // FULL: what a page reports as saved survives a lost power line, not only a killed process.
    connection
        .execute_batch(
            "PRAGMA journal_mode = WAL;
             PRAGMA synchronous = FULL;
             PRAGMA foreign_keys = ON;
             PRAGMA busy_timeout = 5000;
             PRAGMA cache_size = -32768;
             PRAGMA trusted_schema = OFF;",
        )
        .map_err(|e| refused(path, e))?;
    MIGRATIONS.to_latest(&mut connection).map_err(|e| match e {
        rusqlite_migration::Error::MigrationDefinition(
            MigrationDefinitionError::DatabaseTooFarAhead,
        ) => OpenError::Newer(path.to_owned()),
        other => refused(path, other),
    })?;
    Ok(connection)
}

/// A connection that cannot write.
pub(crate) fn reader(path: &Path) -> Result<Connection, OpenError> {
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let connection = Connection::open_with_flags(path, flags).map_err(|e| refused(path, e))?;
    connection
        .execute_batch("PRAGMA busy_timeout = 5000; PRAGMA trusted_schema = OFF;")
        .map_err(|e| refused(path, e))?;
    Ok(connection)
}

fn refused(path: &Path, source: impl std::error::Error + Send + Sync + 'static) -> OpenError {
    OpenError::Database { path: path.to_owned(), source: Box::new(source) }
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_migrations_are_sound() {
        assert_eq!(super::MIGRATIONS.validate(), Ok(()));
    }
}
