//! Opening the file: the lock, the settings, the migrations.

use crate::error::{OpenError, StoreError, in_words};
use crate::shelf;
use crate::trouble::{self, Trouble};
use rusqlite::functions::FunctionFlags;
use rusqlite::{Connection, OpenFlags};
use rusqlite_migration::{M, MigrationDefinitionError, Migrations};
use std::fs::{File, TryLockError};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// Never edited once released: a change is a new file at the end.
const STEPS: &[M<'static>] = &[
    M::up(include_str!("../migrations/0001_board.sql")),
    M::up(include_str!("../migrations/0002_shelf.sql")),
    M::up(include_str!("../migrations/0003_nothing_lost.sql")),
    M::up(include_str!("../migrations/0004_found.sql")),
    M::up(include_str!("../migrations/0005_numbers.sql")),
    M::up(include_str!("../migrations/0006_log.sql")),
    M::up(include_str!("../migrations/0007_columns.sql")),
    M::up(include_str!("../migrations/0008_trips.sql")),
    M::up(include_str!("../migrations/0009_roles.sql")),
];
const MIGRATIONS: Migrations<'static> = Migrations::from_slice(STEPS);

/// "LkHr": by this number SQLite files say whose they are.
pub(crate) const OURS: i32 = 0x4c6b_4872;
/// The last version that did not write it.
const LAST_WITHOUT: i32 = 2;
/// Pages that may lie empty, and pages given back at once: some 20 ms of work.
const EMPTY_PAGES: i64 = 256;
const PAGES_AT_ONCE: i64 = 512;

/// What keeps a second program from the file, by whatever name it calls it.
#[derive(Debug)]
pub(crate) struct Lock {
    _beside: File,
    _file: Option<File>,
}

/// Takes the locks for as long as what is returned lives, and says what the file is really called.
pub(crate) fn lock(path: &Path) -> Result<(PathBuf, Lock), OpenError> {
    let path = real(path)?;
    let lock_path = beside(&path, ".lock");
    let mut options = private();
    options.create(true).truncate(false).write(true);
    let beside = held(&path, &lock_path, &options)?;
    // A hard link has no one name: the file itself is held too. Elsewhere than on Linux such a hold may
    // keep our own connections out.
    let file = if cfg!(target_os = "linux") {
        let mut options = private();
        options.create(true).truncate(false).read(true).write(true);
        let file = held(&path, &path, &options)?;
        make_private(&file);
        Some(file)
    } else {
        None
    };
    Ok((path, Lock { _beside: beside, _file: file }))
}

/// The file beside another whose name goes on so.
pub(crate) fn beside(path: &Path, end: &str) -> PathBuf {
    let mut name = path.as_os_str().to_owned();
    name.push(end);
    PathBuf::from(name)
}

/// A file that is made so may be read by its owner only.
pub(crate) fn private() -> std::fs::OpenOptions {
    let mut options = File::options();
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options
}

/// One that was made before may be read by its owner only from now on. Whoever does not own it leaves it as it is.
fn make_private(file: &File) {
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        let others = |may: u32| may & 0o077 != 0;
        if file.metadata().is_ok_and(|about| others(about.permissions().mode())) {
            let _ = file.set_permissions(std::fs::Permissions::from_mode(0o600));
        }
    }
    #[cfg(not(unix))]
    let _ = file;
}

/// The file's own name: links followed, and never one that SQLite takes for something special.
fn real(path: &Path) -> Result<PathBuf, OpenError> {
    if let Ok(real) = path.canonicalize() {
        return Ok(real);
    }
    let file_error = |source| OpenError::File { path: path.to_owned(), source };
    let folder = path.parent().filter(|f| !f.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let folder = folder.canonicalize().map_err(file_error)?;
    let name =
        path.file_name().ok_or_else(|| file_error(std::io::ErrorKind::InvalidFilename.into()))?;
    Ok(folder.join(name))
}

fn held(database: &Path, path: &Path, options: &std::fs::OpenOptions) -> Result<File, OpenError> {
    let file_error = |source| OpenError::File { path: path.to_owned(), source };
    let file = options.open(path).map_err(file_error)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(OpenError::InUse(database.to_owned())),
        Err(TryLockError::Error(source)) => Err(file_error(source)),
    }
}

/// The one connection that writes, its file brought to this version. It says which batteries it touches.
pub(crate) fn writer(path: &Path, known: Arc<shelf::Known>) -> Result<Connection, OpenError> {
    let sql = |e: rusqlite::Error| refused(path, &e);
    // Not by an address: a name that begins with "file:" is a name.
    let flags = OpenFlags::SQLITE_OPEN_READ_WRITE
        | OpenFlags::SQLITE_OPEN_CREATE
        | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let mut connection = Connection::open_with_flags(path, flags).map_err(sql)?;
    connection
        .execute_batch("PRAGMA busy_timeout = 5000; PRAGMA trusted_schema = OFF;")
        .map_err(sql)?;
    let before = ours(&connection).map_err(sql)?;
    let Some(before) = before else { return Err(OpenError::Foreign(path.to_owned())) };
    // What is damaged is not written to.
    if !trouble::is_sound(&connection, path) {
        return Err(damaged(path));
    }
    // A file of a hundred thousand batteries is thousands of rows at once: 32 MB of cache hold its
    // indexes. FULL: what a page reports as saved survives a lost power line, not only a killed process.
    connection
        .execute_batch(
            "PRAGMA auto_vacuum = INCREMENTAL;
             PRAGMA journal_mode = WAL;
             PRAGMA synchronous = FULL;
             PRAGMA foreign_keys = ON;
             PRAGMA journal_size_limit = 16777216;
             PRAGMA cache_size = -32768;",
        )
        .map_err(sql)?;
    with_functions(&connection).map_err(sql)?;
    MIGRATIONS.to_latest(&mut connection).map_err(|e| match e {
        rusqlite_migration::Error::MigrationDefinition(
            MigrationDefinitionError::DatabaseTooFarAhead,
        ) => OpenError::Newer(path.to_owned()),
        rusqlite_migration::Error::RusqliteError { err, .. } => refused(path, &err),
        other => {
            OpenError::Database { path: path.to_owned(), says: other.to_string(), trouble: None }
        }
    })?;
    connection.pragma_update(None, "application_id", OURS).map_err(sql)?;
    if before > 0 && before <= LAST_WITHOUT {
        // Only then does an older file begin to give space back.
        connection.execute_batch("VACUUM").map_err(sql)?;
    }
    let recovered = (|| {
        let t = connection.transaction()?;
        shelf::refresh(&t)?;
        let recovered = shelf::recover(&t)?;
        t.commit()?;
        Ok::<_, StoreError>(recovered)
    })();
    match recovered {
        Ok(0) => {}
        Ok(changes) => tracing::info!(changes, "a change of the shelf that was cut off is settled"),
        Err(StoreError::Database(e)) => return Err(sql(e)),
        Err(e) => return Err(OpenError::Unusable(e.to_string())),
    }
    let touch = move |_, _: &str, table: &str, id| {
        if table == "battery" {
            known.touch(id);
        }
    };
    connection.update_hook(Some(touch)).map_err(sql)?;
    Ok(connection)
}

/// What the migrations need that SQLite lacks: `folded`, a name as it is compared.
fn with_functions(c: &Connection) -> rusqlite::Result<()> {
    let flags = FunctionFlags::SQLITE_UTF8 | FunctionFlags::SQLITE_DETERMINISTIC;
    c.create_scalar_function("folded", 1, flags, |c| {
        Ok(shelf::key(c.get_raw(0).as_str().unwrap_or_default()))
    })
}

/// The version of a file that is ours, zero for an empty one; `None` for another program's.
fn ours(c: &Connection) -> rusqlite::Result<Option<i32>> {
    let number = |pragma: &str| c.pragma_query_value(None, pragma, |r| r.get::<_, i32>(0));
    let (id, version) = (number("application_id")?, number("user_version")?);
    let tables: i64 = c.query_row("SELECT count(*) FROM sqlite_schema", [], |r| r.get(0))?;
    if id == OURS || (id == 0 && version == 0 && tables == 0) {
        return Ok(Some(version));
    }
    // From before files said whose they are.
    let of_old: i64 = c.query_row(
        "SELECT count(*) FROM pragma_table_info('rig') WHERE name IN ('id', 'name', 'archived', 'frame')",
        [],
        |r| r.get(0),
    )?;
    Ok((id == 0 && (1..=LAST_WITHOUT).contains(&version) && of_old == 4).then_some(version))
}

/// A connection that cannot write.
pub(crate) fn reader(path: &Path) -> Result<Connection, OpenError> {
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let sql = |e: rusqlite::Error| refused(path, &e);
    let connection = Connection::open_with_flags(path, flags).map_err(sql)?;
    connection
        .execute_batch("PRAGMA busy_timeout = 5000; PRAGMA trusted_schema = OFF;")
        .map_err(sql)?;
    Ok(connection)
}

/// All that was written goes from the log beside the file into the file itself.
pub(crate) fn into_one_file(c: &Connection) -> Result<(), StoreError> {
    let busy: i64 = c.query_row("PRAGMA wal_checkpoint(TRUNCATE)", [], |r| r.get(0))?;
    if busy == 0 { Ok(()) } else { Err(StoreError::Busy) }
}

/// The version that this program writes.
pub(crate) const fn newest() -> i32 {
    STEPS.len() as i32
}

/// What a database of a version is made of, as this program makes it.
pub(crate) fn schema_of(version: i32) -> rusqlite::Result<Vec<(String, String)>> {
    let mut c = Connection::open_in_memory()?;
    with_functions(&c)?;
    MIGRATIONS.to_version(&mut c, version.max(0) as usize).map_err(|e| match e {
        rusqlite_migration::Error::RusqliteError { err, .. } => err,
        _ => rusqlite::Error::InvalidQuery,
    })?;
    crate::backup::schema(&c)
}

/// Some pages that lie empty go back to the disk; false when no more are to.
pub(crate) fn give_back(c: &Connection) -> Result<bool, StoreError> {
    let empty: i64 = c.query_row("PRAGMA freelist_count", [], |r| r.get(0))?;
    if empty <= EMPTY_PAGES {
        return Ok(false);
    }
    c.execute_batch(&format!("PRAGMA incremental_vacuum({PAGES_AT_ONCE})"))?;
    let left: i64 = c.query_row("PRAGMA freelist_count", [], |r| r.get(0))?;
    // Where nothing went, nothing will.
    Ok(left < empty)
}

fn refused(path: &Path, source: &rusqlite::Error) -> OpenError {
    tracing::debug!(error = %source, "the database was refused");
    let trouble = Trouble::of_opening(path, source);
    let says = match trouble {
        Some(Trouble::Full) => Trouble::Full.words().to_owned(),
        _ => in_words(source),
    };
    OpenError::Database { path: path.to_owned(), says, trouble }
}

fn damaged(path: &Path) -> OpenError {
    let trouble = Trouble::Damaged;
    let says = trouble.words().to_owned();
    OpenError::Database { path: path.to_owned(), says, trouble: Some(trouble) }
}

#[cfg(test)]
mod tests {
    #[test]
    fn the_migrations_are_sound() {
        let mut c = rusqlite::Connection::open_in_memory().expect("memory");
        super::with_functions(&c).expect("its function");
        super::MIGRATIONS.to_latest(&mut c).expect("every step");
        assert_eq!(super::ours(&c).expect("read"), None, "it does not say yet that it is ours");
    }
}
