//! Copies of the database: made while it is in use, checked before one takes its place, kept by night.
//!
//! A copy is one SQLite file. It is whole at the moment it was begun, whatever is written meanwhile: SQLite's own backup
//! within one read transaction. What is brought back is never run as it comes: its tables must be those that this program
//! makes, to the letter, with no triggers or views, and all of its pages sound.

use crate::error::{OpenError, StoreError, in_words};
use crate::trouble::Trouble;
use crate::{Store, error, open};
use rusqlite::backup::{Backup, StepResult};
use rusqlite::{Connection, OpenFlags, Transaction, TransactionBehavior};
use std::io::Read;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

/// Largest copy that is brought back: ten times what a shelf of a hundred thousand batteries takes. [bytes]
pub const LARGEST: u64 = 1 << 30;
/// What nightly copies may hold between them; the newest is kept however large it is. [bytes]
pub const MOST_HELD: u64 = 2 << 30;
/// Longest that a file is looked at: the largest takes a third of it.
const LONGEST: Duration = Duration::from_secs(30);
/// Nightly copies, weekly copies and replaced databases that are kept.
const KEPT: [(Kind, usize); 3] = [(Kind::Daily, 7), (Kind::Weekly, 4), (Kind::Replaced, 5)];

/// Why a file is not taken for a copy. Nothing was changed.
#[derive(Debug, thiserror::Error)]
pub enum BadCopy {
    /// It is not there, or cannot be read.
    #[error("it cannot be read: {0}. Choose a file that \"backup\" has saved, as in lake-hour.db")]
    Unread(std::io::Error),
    /// It is none.
    #[error(
        "it is not a backup of Lake Hour{0}. Choose a file that \"backup\" has saved, as in lake-hour.db"
    )]
    Other(&'static str),
    /// It is larger than any backup.
    #[error("it has {} MB; a backup has at most {} MB", .0 >> 20, LARGEST >> 20)]
    TooLarge(u64),
    /// Written by a newer program.
    #[error("it was saved by a newer version of Lake Hour: install that one first")]
    Newer,
    /// Cut off or damaged.
    #[error("it is damaged or cut off ({0}): use another copy")]
    Damaged(String),
    /// It holds what this program never makes.
    #[error("it holds something that Lake Hour never made (the {0}), and is not opened")]
    Foreign(String),
    /// The disk refused.
    #[error("it could not be copied: {0}")]
    Disk(String),
}

/// A copy that was looked at and is sound.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sound {
    /// Names of its rigs.
    pub rigs: Vec<String>,
    /// Batteries on its shelf.
    pub batteries: usize,
    /// Its size. [bytes]
    pub size: u64,
}

/// Why a copy was kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// By night.
    Daily,
    /// By night, once a week.
    Weekly,
    /// It stood in the place that another copy took.
    Replaced,
}

impl Kind {
    const fn stem(self) -> &'static str {
        match self {
            Self::Daily => "daily-",
            Self::Weekly => "weekly-",
            Self::Replaced => "replaced-",
        }
    }
}

/// A copy in the folder of copies.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeptCopy {
    /// Its file name, which tells its day.
    pub name: String,
    /// Why it was kept.
    pub kind: Kind,
    /// Its size. [bytes]
    pub size: u64,
}

/// Where copies of a database are kept: a folder beside it.
pub fn folder(db: &Path) -> PathBuf {
    let mut name = db.file_name().unwrap_or_default().to_owned();
    name.push(".backups");
    db.with_file_name(name)
}

/// Copies a database, in use or not, to a file that appears when it is whole. One that is there already is replaced.
///
/// # Errors
/// [`StoreError`] when it cannot be read or written.
pub fn copy(db: &Path, to: &Path) -> Result<(), StoreError> {
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY | OpenFlags::SQLITE_OPEN_NO_MUTEX;
    let source = Connection::open_with_flags(db, flags)?;
    source.execute_batch("PRAGMA busy_timeout = 5000; PRAGMA trusted_schema = OFF;")?;
    copy_from(&source, to)
}

/// The same over a connection that is open.
pub(crate) fn copy_from(source: &Connection, to: &Path) -> Result<(), StoreError> {
    let part = open::beside(to, ".part");
    let _ = std::fs::remove_file(&part);
    let done = (|| {
        let private = open::private().create_new(true).write(true).open(&part);
        drop(private.map_err(|e| StoreError::Disk(e.to_string()))?);
        let mut copy = Connection::open(&part)?;
        // All pages in one step: within one read transaction, so of one moment.
        match Backup::new(source, &mut copy)?.step(i32::MAX)? {
            StepResult::Done => {}
            _ => return Err(StoreError::Busy),
        }
        // One file by itself, without a log beside it. What lets devices in stays on this machine: not even in empty pages.
        copy.execute_batch(
            "PRAGMA journal_mode = DELETE; PRAGMA synchronous = FULL; PRAGMA secure_delete = ON;",
        )?;
        if has_devices(&copy)? {
            copy.execute_batch("DELETE FROM device")?;
        }
        copy.close().map_err(|(_, e)| StoreError::Database(e))?;
        let disk = |e: std::io::Error| StoreError::Disk(e.to_string());
        let file = std::fs::File::options().read(true).write(true).open(&part).map_err(disk)?;
        file.sync_all().map_err(disk)?;
        std::fs::rename(&part, to).map_err(disk)?;
        if let Some(folder) = to.parent().and_then(|f| std::fs::File::open(f).ok()) {
            // Where a folder cannot be synced the file is there all the same.
            let _ = folder.sync_all();
        }
        Ok(())
    })();
    if done.is_err() {
        let _ = std::fs::remove_file(&part);
    }
    done
}

fn has_devices(c: &Connection) -> rusqlite::Result<bool> {
    let table = "SELECT EXISTS (SELECT 1 FROM sqlite_schema WHERE type = 'table' AND name = ?1)";
    c.query_row(table, [NOT_COPIED], |r| r.get(0))
}

/// The folder of copies, made where it is not there; nobody else looks into it.
fn make_folder(folder: &Path) -> std::io::Result<()> {
    let mut builder = std::fs::DirBuilder::new();
    builder.recursive(true);
    #[cfg(unix)]
    std::os::unix::fs::DirBuilderExt::mode(&mut builder, 0o700);
    builder.create(folder)
}

/// Looks at a file that is to be brought back, and brings it to this version. Nothing else is touched.
///
/// # Errors
/// [`BadCopy`], in words.
pub fn look_at(file: &Path) -> Result<Sound, BadCopy> {
    let size = is_sqlite(file)?;
    let version = is_ours(file)?;
    // Only now, when it is known to hold nothing but our tables, is it opened to be written to.
    let writer = open::writer(file, Default::default()).map_err(|e| match e {
        OpenError::Newer(_) => BadCopy::Newer,
        other => BadCopy::Damaged(other.to_string()),
    })?;
    let told = (|| {
        let mut names = writer.prepare("SELECT name FROM rig ORDER BY archived, id")?;
        let rigs = names.query_map([], |r| r.get(0))?.collect::<Result<Vec<String>, _>>()?;
        let batteries: i64 = writer.query_row("SELECT count(*) FROM battery", [], |r| r.get(0))?;
        Ok::<_, rusqlite::Error>((rigs, batteries))
    })();
    let (rigs, batteries) = told.map_err(|e| BadCopy::Damaged(in_words(&e)))?;
    open::into_one_file(&writer).map_err(|e| BadCopy::Damaged(e.to_string()))?;
    tracing::debug!(version, size, "a copy was looked at");
    Ok(Sound { rigs, batteries: batteries as usize, size })
}

/// Whether it begins as SQLite files do, and is of a size that a backup has.
fn is_sqlite(file: &Path) -> Result<u64, BadCopy> {
    let mut opened = std::fs::File::open(file).map_err(BadCopy::Unread)?;
    let about = opened.metadata().map_err(BadCopy::Unread)?;
    if !about.is_file() {
        return Err(BadCopy::Other(", but a folder or a device"));
    }
    if about.len() > LARGEST {
        return Err(BadCopy::TooLarge(about.len()));
    }
    let mut head = [0_u8; 16];
    let read = opened.read(&mut head).map_err(BadCopy::Unread)?;
    match &head[..read] {
        b"SQLite format 3\0" => Ok(about.len()),
        [b'P', b'K', ..] => Err(BadCopy::Other(": a zip of open files is opened, not restored")),
        [b'{', ..] => Err(BadCopy::Other(": a plan or a shelf is opened on its own page")),
        _ => Err(BadCopy::Other("")),
    }
}

/// Whether all of it is what this program makes, at the version that it says; which one that is.
fn is_ours(file: &Path) -> Result<i32, BadCopy> {
    let damaged = |e: rusqlite::Error| BadCopy::Damaged(in_words(&e));
    // Never written to, no log beside it is looked for.
    let flags = OpenFlags::SQLITE_OPEN_READ_ONLY
        | OpenFlags::SQLITE_OPEN_NO_MUTEX
        | OpenFlags::SQLITE_OPEN_URI;
    let address = format!("file:{}?immutable=1", escaped(file));
    let c = Connection::open_with_flags(address, flags).map_err(damaged)?;
    // Whatever it holds, looking at it comes to an end.
    let until = Instant::now() + LONGEST;
    c.progress_handler(10_000, Some(move || Instant::now() >= until)).map_err(damaged)?;
    c.execute_batch("PRAGMA trusted_schema = OFF; PRAGMA cell_size_check = ON;")
        .map_err(damaged)?;
    let number = |pragma: &str| c.pragma_query_value(None, pragma, |r| r.get::<_, i32>(0));
    let id = number("application_id").map_err(damaged)?;
    let version = number("user_version").map_err(damaged)?;
    if id != open::OURS {
        return Err(BadCopy::Other(""));
    }
    if version > open::newest() {
        return Err(BadCopy::Newer);
    }
    let found = schema(&c).map_err(damaged)?;
    let ours = open::schema_of(version).map_err(damaged)?;
    if let Some((what, _)) = found.iter().find(|one| !ours.contains(one)) {
        return Err(BadCopy::Foreign(what.clone()));
    }
    if let Some((what, _)) = ours.iter().find(|one| !found.contains(one)) {
        return Err(BadCopy::Damaged(format!("the {what} is missing")));
    }
    for check in ["integrity_check", "foreign_key_check"] {
        let mut rows = c.prepare(&format!("PRAGMA {check}")).map_err(damaged)?;
        let said: Vec<String> = rows
            .query_map([], |r| r.get_ref(0).map(|v| v.as_str().unwrap_or("a row").to_owned()))
            .and_then(Iterator::collect)
            .map_err(damaged)?;
        if said.iter().any(|line| line != "ok") {
            return Err(BadCopy::Damaged("its pages do not fit together".to_owned()));
        }
    }
    Ok(version)
}

/// A path in an address of SQLite's.
fn escaped(file: &Path) -> String {
    let path = file.to_string_lossy();
    path.replace('%', "%25").replace('?', "%3f").replace('#', "%23")
}

/// All that a database is made of: what and by which words.
pub(crate) fn schema(c: &Connection) -> rusqlite::Result<Vec<(String, String)>> {
    let mut all = c.prepare(
        // Only tables and their indexes have names of SQLite's own: a trigger called so is none.
        "SELECT type, name, coalesce(sql, '') FROM sqlite_schema
         WHERE type NOT IN ('table', 'index') OR name NOT LIKE 'sqlite\\_%' ESCAPE '\\' OR sql IS NOT NULL AND type = 'index'",
    )?;
    let rows = all.query_map([], |r| {
        let (kind, name): (String, String) = (r.get(0)?, r.get(1)?);
        let sql: String = r.get(2)?;
        Ok((format!("{kind} {name}"), sql.split_whitespace().collect::<Vec<_>>().join(" ")))
    })?;
    rows.collect()
}

/// Copies a file that is to be brought back beside a database, where it may be looked at without touching the one it came
/// from.
///
/// # Errors
/// [`BadCopy`] where it cannot be read, is too large, or the disk refuses.
pub fn set_aside(file: &Path, db: &Path) -> Result<PathBuf, BadCopy> {
    is_sqlite(file)?;
    let folder = folder(db);
    let disk = |e: std::io::Error| BadCopy::Disk(e.to_string());
    make_folder(&folder).map_err(disk)?;
    let aside = folder.join("restoring.part");
    discard(&aside);
    let mut to = open::private().create_new(true).write(true).open(&aside).map_err(disk)?;
    std::fs::File::open(file)
        .and_then(|mut from| std::io::copy(&mut from, &mut to))
        .map_err(disk)?;
    Ok(aside)
}

/// Removes a copy that was set aside, with what SQLite put beside it.
pub fn discard(aside: &Path) {
    for end in ["", "-wal", "-shm"] {
        let _ = std::fs::remove_file(open::beside(aside, end));
    }
}

/// Puts a copy that was looked at in the place of a database that nothing has open, and keeps the one that stood there.
///
/// # Errors
/// [`OpenError`] when the database is in use or cannot be written; [`StoreError`] when the copying fails.
pub fn replace(db: &Path, with: &Path, now: &str) -> Result<Option<PathBuf>, ReplaceError> {
    let (db, _lock) = open::lock(db)?;
    let disk = |e: std::io::Error| StoreError::Disk(e.to_string());
    let empty = std::fs::metadata(&db).map_or(true, |m| m.len() == 0);
    let kept = if empty {
        None
    } else {
        let folder = folder(&db);
        make_folder(&folder).map_err(disk)?;
        let kept = folder.join(free_name(&folder, now));
        copy(&db, &kept)?;
        Some(kept)
    };
    // Table by table within one transaction: a crash leaves one or the other.
    let mut writer = open::writer(&db, Default::default())?;
    take_over(&mut writer, with, Numbers::AsInTheCopy)?;
    open::into_one_file(&writer)?;
    bound(&folder(&db), &[]);
    Ok(kept)
}

/// A name for what is replaced at a moment that no copy has yet: two within a second are two.
fn free_name(folder: &Path, now: &str) -> String {
    let stem = Kind::Replaced.stem();
    let names = std::iter::once(format!("{stem}{now}.db"))
        .chain((2..).map(|n| format!("{stem}{now}-{n}.db")));
    let mut free = names.skip_while(|name| folder.join(name).exists());
    free.next().unwrap_or_default()
}

/// Why a database could not be replaced.
#[derive(Debug, thiserror::Error)]
pub enum ReplaceError {
    /// It could not be opened.
    #[error(transparent)]
    Open(#[from] OpenError),
    /// It could not be read or written.
    #[error(transparent)]
    Store(#[from] StoreError),
}

/// What becomes of the numbers that rows were given.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Numbers {
    /// As in the copy: nobody has it open.
    AsInTheCopy,
    /// None is given a second time, though its row has gone: an open window may still name it.
    StayGiven,
}

/// Who is let in is no data of a rig: it stays as it is, whoever's copy is brought back.
const NOT_COPIED: &str = "device";

/// All rows of another database in the place of one's own, in one transaction. Both have the same tables.
fn take_over(c: &mut Connection, from: &Path, numbers: Numbers) -> Result<(), StoreError> {
    c.execute("ATTACH DATABASE ?1 AS other", [from.to_string_lossy()])?;
    let done = (|| {
        let t = c.transaction_with_behavior(TransactionBehavior::Immediate)?;
        t.execute_batch("PRAGMA defer_foreign_keys = ON")?;
        let mut tables = tables(&t)?;
        tables.retain(|table| table != NOT_COPIED);
        for table in &tables {
            // With a condition, so that whoever watches the rows is told of each.
            t.execute_batch(&format!("DELETE FROM main.\"{table}\" WHERE true"))?;
        }
        for table in &tables {
            let columns = columns(&t, table)?;
            t.execute_batch(&format!(
                "INSERT INTO main.\"{table}\" ({columns}) SELECT {columns} FROM other.\"{table}\""
            ))?;
        }
        t.execute_batch(match numbers {
            Numbers::AsInTheCopy => {
                "DELETE FROM main.sqlite_sequence; INSERT INTO main.sqlite_sequence SELECT * FROM other.sqlite_sequence"
            }
            Numbers::StayGiven => {
                "UPDATE main.sqlite_sequence SET seq = max(seq, coalesce(
                    (SELECT o.seq FROM other.sqlite_sequence o WHERE o.name = sqlite_sequence.name), 0))"
            }
        })?;
        t.commit()?;
        Ok(())
    })();
    let detached = c.execute_batch("DETACH DATABASE other");
    done.and(detached.map_err(StoreError::from))
}

fn tables(t: &Transaction<'_>) -> Result<Vec<String>, StoreError> {
    let mut all = t.prepare(
        "SELECT name FROM main.sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\'",
    )?;
    let names = all.query_map([], |r| r.get(0))?;
    Ok(names.collect::<Result<_, _>>()?)
}

fn columns(t: &Transaction<'_>, table: &str) -> Result<String, StoreError> {
    let mut all = t.prepare("SELECT name FROM pragma_table_info(?1)")?;
    let names = all.query_map([table], |r| Ok(format!("\"{}\"", r.get::<_, String>(0)?)))?;
    Ok(names.collect::<Result<Vec<_>, _>>()?.join(", "))
}

/// The copies that are kept in a folder, newest first in each kind.
pub(crate) fn kept(folder: &Path) -> Vec<KeptCopy> {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    let mut all: Vec<KeptCopy> = entries
        .filter_map(|entry| {
            let name = entry.file_name().into_string().ok()?;
            let (kind, _) = KEPT.into_iter().find(|(kind, _)| name.starts_with(kind.stem()))?;
            let size = entry.metadata().ok()?.len();
            name.ends_with(".db").then_some(KeptCopy { name, kind, size })
        })
        .collect();
    all.sort_by(|a, b| b.name.cmp(&a.name));
    all
}

/// Removes copies beyond what is kept of each kind, and the oldest beyond what all may hold. Copies of days that are still to come, by the
/// name of today's, were made by a clock that was wrong: they go first, lest no new one is ever kept.
fn bound(folder: &Path, today: &[String]) {
    let mut all = kept(folder);
    let from_a_wrong_clock =
        |copy: &KeptCopy| today.iter().any(|t| t.starts_with(copy.kind.stem()) && copy.name > *t);
    all.sort_by_key(from_a_wrong_clock);
    let mut held = 0;
    for (kind, most) in KEPT {
        for (n, copy) in all.iter().filter(|c| c.kind == kind).enumerate() {
            held += copy.size;
            let over = n >= most || (n > 0 && held > MOST_HELD);
            if over && std::fs::remove_file(folder.join(&copy.name)).is_ok() {
                held -= copy.size;
            }
        }
    }
}

impl Store {
    /// Saves a copy of all that is kept, while others write, to a file that appears when it is whole.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be read or written.
    pub async fn back_up(&self, to: PathBuf) -> Result<(), StoreError> {
        let db = self.file();
        let done = tokio::task::spawn_blocking(move || copy(&db, &to)).await;
        done.map_err(|_| StoreError::Panicked)?
    }

    /// Where copies are kept.
    pub fn copies_folder(&self) -> PathBuf {
        folder(&self.path)
    }

    /// Copies that are kept: the nightly ones, and what others took the place of.
    pub fn copies(&self) -> Vec<KeptCopy> {
        kept(&self.copies_folder())
    }

    /// Makes the copies of a day and its week that are not there yet, and removes those that are too many. True where one
    /// was made.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn nightly(&self, day: &str, week: &str) -> Result<bool, StoreError> {
        // What is damaged takes no sound copy's place.
        if let Some(trouble) = self.trouble() {
            return Err(StoreError::LooksOnly(trouble));
        }
        let folder = self.copies_folder();
        make_folder(&folder).map_err(|e| StoreError::Disk(e.to_string()))?;
        let mut made = false;
        let today = [(Kind::Daily, day), (Kind::Weekly, week)]
            .map(|(kind, of)| format!("{}{of}.db", kind.stem()));
        for name in &today {
            let to = folder.join(name);
            if !to.exists() {
                self.back_up(to).await?;
                made = true;
            }
        }
        bound(&folder, &today);
        Ok(made)
    }

    /// Puts a copy that was looked at in the place of all that is kept, and keeps what stood there, if that was anything; the
    /// name of that. Numbers that were given stay given: windows that are open still know them.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written: all is as it was then.
    pub async fn bring_back(&self, copy: PathBuf, now: &str) -> Result<Option<String>, StoreError> {
        match self.trouble() {
            Some(Trouble::Damaged) => return self.put_in_place(copy, now).await.map(Some),
            Some(trouble) if self.looks_only() => return Err(StoreError::LooksOnly(trouble)),
            _ => {}
        }
        let folder = self.copies_folder();
        make_folder(&folder).map_err(|e| StoreError::Disk(e.to_string()))?;
        // What holds nothing is not kept: pressed again and again it would push out what does.
        let holds = !self.rigs().await?.is_empty() || self.batteries().await? > 0;
        let name = holds.then(|| free_name(&folder, now));
        if let Some(name) = &name {
            self.back_up(folder.join(name)).await?;
        }
        let known = self.shelf.clone();
        let done = self.writer.call(move |c| {
            let done = take_over(c, &copy, Numbers::StayGiven);
            known.written();
            done
        });
        done.await.map_err(error::from_thread)?;
        bound(&folder, &[]);
        Ok(name)
    }

    /// Sets a damaged file aside, whole, and puts a copy that was looked at in its place; the name that it has now among the copies.
    async fn put_in_place(&self, copy: PathBuf, now: &str) -> Result<String, StoreError> {
        let folder = self.copies_folder();
        let name = format!("damaged-{now}.db");
        let (db, to) = (self.path.clone(), folder.join(&name));
        let part = folder.join("taking-its-place.part");
        let disk = |e: std::io::Error| StoreError::Disk(e.to_string());
        // All that needs room is done while the other is still open.
        let made = {
            let part = part.clone();
            tokio::task::spawn_blocking(move || {
                make_folder(&folder)?;
                let mut file =
                    open::private().create(true).truncate(true).write(true).open(&part)?;
                std::io::copy(&mut std::fs::File::open(&copy)?, &mut file)?;
                file.sync_all()
            })
        };
        made.await.map_err(|_| StoreError::Panicked)?.map_err(disk)?;
        self.let_go().await?;
        let moved = tokio::task::spawn_blocking(move || {
            for end in ["", "-wal"] {
                let from = open::beside(&db, end);
                if from.exists() {
                    std::fs::rename(from, open::beside(&to, end))?;
                }
            }
            let _ = std::fs::remove_file(open::beside(&db, "-shm"));
            std::fs::rename(&part, &*db)
        });
        let moved = moved.await.map_err(|_| StoreError::Panicked)?;
        let again = self.try_again().await;
        if again.is_err() {
            self.look_instead(Trouble::Damaged).await?;
        }
        moved.map_err(disk)?;
        again.map_err(|e| StoreError::Disk(e.to_string()))?;
        Ok(name)
    }

    /// The path of a kept copy by its name; `None` for any other name.
    pub fn kept_copy(&self, name: &str) -> Option<PathBuf> {
        let there = self.copies().into_iter().any(|copy| copy.name == name);
        there.then(|| self.copies_folder().join(name))
    }

    /// Deletes all that is kept, after a copy of it was saved; the name of that copy, `None` where there was nothing.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written: all is as it was then.
    pub async fn delete_all(&self, now: &str) -> Result<Option<String>, StoreError> {
        let folder = self.copies_folder();
        make_folder(&folder).map_err(|e| StoreError::Disk(e.to_string()))?;
        let empty = folder.join("empty.part");
        discard(&empty);
        let made = {
            let path = empty.clone();
            tokio::task::spawn_blocking(move || {
                let writer = open::writer(&path, Default::default());
                writer
                    .map(|w| drop(open::into_one_file(&w)))
                    .map_err(|e| StoreError::Disk(e.to_string()))
            })
        };
        made.await.map_err(|_| StoreError::Panicked)??;
        let done = self.bring_back(empty.clone(), now).await;
        discard(&empty);
        done
    }
}
