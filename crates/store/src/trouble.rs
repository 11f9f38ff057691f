//! Why nothing can be changed, and what is looked at meanwhile.
//!
//! A folder that may only be read, a full disk, a damaged file: none of them is a reason to show nothing. What is there is copied
//! aside and read from there; where it cannot be read at all, the newest copy that is sound is.

use crate::backup::{self, Kind};
use crate::error::OpenError;
use crate::open;
use rusqlite::ErrorCode;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};
use tempfile::TempDir;

/// Why nothing can be changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Trouble {
    /// The file, or its folder, may only be read.
    ReadOnly,
    /// The disk is full.
    Full,
    /// The file is damaged.
    Damaged,
}

impl Trouble {
    /// What is the matter and what to do, after a colon.
    pub const fn words(self) -> &'static str {
        match self {
            Self::ReadOnly => {
                "the file, or the folder it is in, may only be read; allow writing, or name another file with --db"
            }
            Self::Full => "the disk is full; free some space and try once more",
            Self::Damaged => {
                "the file is damaged; put a copy of it in its place, or name another file with --db"
            }
        }
    }

    pub(crate) fn of(error: &rusqlite::Error) -> Option<Self> {
        match error.sqlite_error_code()? {
            ErrorCode::DiskFull => Some(Self::Full),
            ErrorCode::ReadOnly => Some(Self::ReadOnly),
            ErrorCode::DatabaseCorrupt | ErrorCode::NotADatabase => Some(Self::Damaged),
            _ => None,
        }
    }

    /// The same where a file could not be opened: a disk without room says so in several ways.
    pub(crate) fn of_opening(path: &Path, error: &rusqlite::Error) -> Option<Self> {
        let code = error.sqlite_error_code()?;
        match code {
            ErrorCode::SystemIoFailure | ErrorCode::CannotOpen if has_no_room(path) => {
                Some(Self::Full)
            }
            ErrorCode::CannotOpen | ErrorCode::PermissionDenied => Some(Self::ReadOnly),
            _ => Self::of(error),
        }
    }

    pub(crate) fn of_file(error: &io::Error) -> Option<Self> {
        match error.kind() {
            io::ErrorKind::PermissionDenied | io::ErrorKind::ReadOnlyFilesystem => {
                Some(Self::ReadOnly)
            }
            io::ErrorKind::StorageFull | io::ErrorKind::QuotaExceeded => Some(Self::Full),
            _ => None,
        }
    }
}

/// Too little for SQLite to begin. [bytes]
const NO_ROOM: u64 = 256 << 10;

fn has_no_room(path: &Path) -> bool {
    room(path).is_some_and(|room| room < NO_ROOM)
}

/// Free space on the disk that holds a file, where the system tells it. [bytes]
pub fn room(path: &Path) -> Option<u64> {
    #[cfg(unix)]
    {
        let folder = path.parent().filter(|f| !f.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let about = rustix::fs::statvfs(folder).ok()?;
        Some(about.f_bavail.saturating_mul(about.f_frsize))
    }
    #[cfg(not(unix))]
    {
        let _ = path;
        None
    }
}

/// Whether a change can be made, as the last one that was tried tells it.
#[derive(Debug, Clone, Default)]
pub(crate) struct Health(Arc<Mutex<State>>);

#[derive(Debug, Default)]
struct State {
    trouble: Option<Trouble>,
    /// What is looked at in place of the file.
    instead: Option<Arc<Instead>>,
}

impl Health {
    fn with<T>(&self, work: impl FnOnce(&mut State) -> T) -> T {
        work(&mut self.0.lock().unwrap_or_else(PoisonError::into_inner))
    }

    pub(crate) fn trouble(&self) -> Option<Trouble> {
        self.with(|s| s.trouble)
    }

    /// What is looked at where nothing can be written at all.
    pub(crate) fn instead(&self) -> Option<Arc<Instead>> {
        self.with(|s| s.instead.clone())
    }

    pub(crate) fn looks_at(&self, trouble: Trouble, instead: Instead) {
        self.with(|s| (s.trouble, s.instead) = (Some(trouble), Some(Arc::new(instead))));
    }

    pub(crate) fn is_well(&self) {
        self.with(|s| (s.trouble, s.instead) = (None, None));
    }

    /// A change went well: what was in the way is gone, but for damage.
    pub(crate) fn wrote(&self) {
        self.with(|s| {
            if s.instead.is_none() && s.trouble != Some(Trouble::Damaged) {
                s.trouble = None;
            }
        });
    }

    /// Something failed.
    pub(crate) fn failed(&self, error: &rusqlite::Error) {
        if let Some(trouble) = Trouble::of(error) {
            tracing::warn!(?trouble, %error, "nothing can be changed");
            self.with(|s| s.trouble = s.trouble.or(Some(trouble)));
        }
    }
}

/// What is looked at in place of a file that cannot be written.
#[derive(Debug)]
pub(crate) struct Instead {
    pub(crate) file: PathBuf,
    /// The kept copy that it is, where the file itself cannot be read.
    pub(crate) copy: Option<String>,
    _folder: TempDir,
}

/// Copies what is there aside; where that is too damaged to be read, the newest sound copy of it. `None` where neither can be.
pub(crate) fn aside(path: &Path) -> Option<Instead> {
    let folder = tempfile::Builder::new().prefix("lake-hour-look-").tempdir().ok()?;
    let file = folder.path().join("look.db");
    let bring = |from: &Path| {
        for end in ["", "-wal"] {
            let to = open::beside(&file, end);
            let from = open::beside(from, end);
            backup::discard(&to);
            if end.is_empty() || from.exists() {
                std::fs::copy(&from, &to)?;
                writable(&to);
            }
        }
        Ok::<_, io::Error>(())
    };
    let reads = |from: &Path| {
        bring(from).is_ok() && open::writer(&file, Arc::default()).is_ok_and(|c| is_read(&c))
    };
    if reads(path) {
        return Some(Instead { file, copy: None, _folder: folder });
    }
    let copies = backup::folder(path);
    let mut kept = backup::kept(&copies);
    kept.retain(|copy| copy.kind != Kind::Replaced);
    // The newest of the days first, then of the weeks.
    kept.sort_by_key(|copy| copy.kind != Kind::Daily);
    let copy = kept.into_iter().find(|copy| reads(&copies.join(&copy.name)))?;
    Some(Instead { file, copy: Some(copy.name), _folder: folder })
}

/// What was copied from where it may only be read is one's own.
#[cfg(unix)]
fn writable(file: &Path) {
    use std::os::unix::fs::PermissionsExt;
    let _ = std::fs::set_permissions(file, std::fs::Permissions::from_mode(0o600));
}
#[cfg(not(unix))]
fn writable(file: &Path) {
    if let Ok(about) = std::fs::metadata(file) {
        let mut may = about.permissions();
        may.set_readonly(false);
        let _ = std::fs::set_permissions(file, may);
    }
}

/// Whether what the pages begin with can be read.
fn is_read(c: &rusqlite::Connection) -> bool {
    let count = |table: &str| {
        c.query_row(&format!("SELECT count(*), max(rowid) FROM {table}"), [], |r| {
            r.get::<_, i64>(0)
        })
    };
    ["rig", "pack", "stretch", "battery"].into_iter().all(|table| count(table).is_ok())
}

/// Largest file whose pages are all looked at whenever it is opened: some tenths of a second. [bytes]
const LOOKED_THROUGH: u64 = 32 << 20;

/// Whether the pages of a file fit together, where it is not too large to be looked through each time.
pub(crate) fn is_sound(c: &rusqlite::Connection, path: &Path) -> bool {
    if std::fs::metadata(path).is_ok_and(|about| about.len() > LOOKED_THROUGH) {
        return true;
    }
    let said = c.query_row("PRAGMA quick_check(1)", [], |r| r.get::<_, String>(0));
    said.is_ok_and(|said| said == "ok")
}

impl OpenError {
    /// Why it can be looked at all the same, if so.
    pub(crate) fn trouble(&self) -> Option<Trouble> {
        match self {
            Self::File { source, .. } => Trouble::of_file(source),
            Self::Database { trouble, .. } => *trouble,
            _ => None,
        }
    }
}
