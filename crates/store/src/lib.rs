//! Where a user's rigs, days and packs are kept: one SQLite file.
//!
//! One connection writes, each change in a transaction of its own that is on the disk before it is
//! reported as saved; a few others only read. A second program cannot open the same file for
//! writing. SQL stands in this crate and nowhere else.

pub mod backup;
mod board;
mod change;
mod device;
mod error;
mod files;
mod history;
mod log;
mod open;
mod queue;
mod rows;
mod seen;
mod shelf;
mod trip;
mod trouble;

pub use board::{Board, Kept, PackId, Part, RigId, RigName, StretchId, Undo, Unreadable};
pub use change::{Change, Direction, Place};
pub use device::{Device, Role};
pub use error::{OpenError, StoreError};
pub use history::Turned;
pub use log::{KeptLog, LogId};
pub use shelf::{
    BatteryId, Figure, Order, Progress, Report, ShelfChange, ShelfPage, ShelfQuery, Shelved, Slice,
    Told, Usual,
};
pub use trip::{KeptTrip, TripId};
pub use trouble::{Trouble, room};

use lake_hour_core::log::{Log, Logged};
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::{Battery, Candidate};
use lake_hour_formats::monitor::{Said, Sample};
use rusqlite::{Connection, Transaction};
use seen::Seen;
use shelf::{Begun, Way};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use trouble::Health;

/// Connections that only read.
const READERS: usize = 2;

/// A handle on the database; cheap to clone.
#[derive(Debug, Clone)]
pub struct Store {
    writer: tokio_rusqlite::Connection,
    readers: Arc<[tokio_rusqlite::Connection]>,
    /// For those who go through all of the shelf: no page waits behind them.
    through: tokio_rusqlite::Connection,
    next_reader: Arc<AtomicUsize>,
    /// What each of them has read already.
    seen: [Seen; READERS],
    shelf: Arc<shelf::Known>,
    health: Health,
    path: Arc<PathBuf>,
    /// Held until the store is closed, so that no second program writes.
    lock: Arc<Mutex<Option<open::Lock>>>,
}

/// All that is open of a file.
struct Opened {
    writer: Connection,
    readers: Vec<Connection>,
    through: Connection,
}

impl Opened {
    fn of(path: &Path, known: Arc<shelf::Known>) -> Result<Self, OpenError> {
        let writer = open::writer(path, known)?;
        let readers = (0..READERS).map(|_| open::reader(path)).collect::<Result<_, _>>()?;
        Ok(Self { writer, readers, through: open::reader(path)? })
    }

    /// Of nothing, for as long as a file is moved.
    fn nothing() -> rusqlite::Result<Self> {
        let readers =
            (0..READERS).map(|_| Connection::open_in_memory()).collect::<Result<_, _>>()?;
        let (writer, through) = (Connection::open_in_memory()?, Connection::open_in_memory()?);
        Ok(Self { writer, readers, through })
    }
}

impl Store {
    /// Opens the file, creating or migrating it as needed. One that is there and cannot be written is opened to be looked at, see
    /// [`trouble`](Self::trouble).
    ///
    /// # Errors
    /// [`OpenError`] when another program holds it, when it comes from a newer version, or when it
    /// is no database of this program.
    pub async fn open(path: &Path) -> Result<Self, OpenError> {
        let shelf = Arc::new(shelf::Known::default());
        let health = Health::default();
        let (wanted, known, well) = (path.to_owned(), shelf.clone(), health.clone());
        let opened = tokio::task::spawn_blocking(move || {
            let (error, path, lock) = match open::lock(&wanted) {
                Ok((path, lock)) => {
                    files::forget_reserve(&path);
                    match Opened::of(&path, known.clone()) {
                        Ok(all) => return Ok((path, Some(lock), all)),
                        Err(error) => (error, path, Some(lock)),
                    }
                }
                Err(error) => (error, wanted.canonicalize().unwrap_or(wanted), None),
            };
            let there = std::fs::metadata(&path).is_ok_and(|about| about.len() > 0);
            let Some(trouble) = error.trouble().filter(|_| there) else { return Err(error) };
            let Some(instead) = trouble::aside(&path) else { return Err(error) };
            tracing::warn!(%error, "nothing can be changed: it is opened to be looked at");
            let all = Opened::of(&instead.file, known)?;
            well.looks_at(trouble, instead);
            Ok((path, lock, all))
        });
        let (path, lock, all) = opened.await.map_err(|e| OpenError::Unusable(e.to_string()))??;
        Ok(Self {
            writer: tokio_rusqlite::Connection::from(all.writer),
            readers: all.readers.into_iter().map(tokio_rusqlite::Connection::from).collect(),
            through: tokio_rusqlite::Connection::from(all.through),
            next_reader: Arc::default(),
            seen: Default::default(),
            shelf,
            health,
            path: Arc::new(path),
            lock: Arc::new(Mutex::new(lock)),
        })
    }

    /// Why nothing can be changed, if so: as the last change that was tried tells it.
    pub fn trouble(&self) -> Option<Trouble> {
        self.health.trouble()
    }

    /// Whether the file was opened to be looked at only: [`try_again`](Self::try_again) may end that.
    pub fn looks_only(&self) -> bool {
        self.health.instead().is_some()
    }

    /// The kept copy that is looked at, where the file itself cannot be read.
    pub fn looks_at(&self) -> Option<String> {
        self.health.instead()?.copy.clone()
    }

    /// The file that is kept in.
    pub fn path(&self) -> &Path {
        &self.path
    }

    /// The file that is read.
    fn file(&self) -> Arc<PathBuf> {
        self.health.instead().map_or_else(|| self.path.clone(), |i| Arc::new(i.file.clone()))
    }

    /// Opens the file once more, to be written: when what was in the way has gone.
    ///
    /// # Errors
    /// [`OpenError`] as [`open`](Self::open): all is as it was then.
    pub async fn try_again(&self) -> Result<(), OpenError> {
        let (path, known, held) = (self.path.clone(), self.shelf.clone(), self.lock.clone());
        let opened = tokio::task::spawn_blocking(move || {
            let mut held = held.lock().unwrap_or_else(PoisonError::into_inner);
            // A file that was put in another's place is held anew.
            drop(held.take());
            let (path, lock) = open::lock(&path)?;
            // Held whatever comes of it: nobody else writes to what cannot be opened yet.
            *held = Some(lock);
            Opened::of(&path, known)
        });
        let all = opened.await.map_err(|e| OpenError::Unusable(e.to_string()))??;
        self.take_up(all).await.map_err(|e| OpenError::Unusable(e.to_string()))?;
        self.health.is_well();
        Ok(())
    }

    /// The file could not be opened again: what can be read of it, or of a copy, is looked at.
    async fn look_instead(&self, trouble: Trouble) -> Result<(), StoreError> {
        let (path, known, health) = (self.path.clone(), self.shelf.clone(), self.health.clone());
        let opened = tokio::task::spawn_blocking(move || {
            if health.instead().is_none() {
                health.looks_at(trouble, trouble::aside(&path)?);
            }
            Opened::of(&health.instead()?.file, known).ok()
        });
        let all = opened.await.map_err(|_| StoreError::Panicked)?;
        self.take_up(all.ok_or(StoreError::LooksOnly(trouble))?).await
    }

    /// Nothing has the file open any more, until it is opened again.
    async fn let_go(&self) -> Result<(), StoreError> {
        self.take_up(Opened::nothing()?).await
    }

    /// Each thread goes on with another connection.
    async fn take_up(&self, all: Opened) -> Result<(), StoreError> {
        async fn swap(of: &tokio_rusqlite::Connection, by: Connection) -> Result<(), StoreError> {
            let swapped = of.call(move |c| {
                *c = by;
                Ok::<_, StoreError>(())
            });
            swapped.await.map_err(error::from_thread)
        }
        swap(&self.writer, all.writer).await?;
        for (reader, by) in std::iter::zip(&*self.readers, all.readers) {
            swap(reader, by).await?;
        }
        swap(&self.through, all.through).await?;
        self.shelf.forget();
        self.seen.iter().for_each(Seen::forget);
        Ok(())
    }

    /// Brings all that was written into the one file, so that a copy of it is whole, and closes it. What
    /// is asked of the store afterwards fails.
    ///
    /// # Errors
    /// [`StoreError`] when it could not be; nothing is lost then, but the file beside it is needed too.
    pub async fn close(&self) -> Result<(), StoreError> {
        for reader in self.readers.iter().chain([&self.through]) {
            // Closed already is closed too.
            let _ = reader.clone().close().await;
        }
        let whole = if self.looks_only() {
            Ok(())
        } else {
            self.writer.call(|c| open::into_one_file(c)).await
        };
        let _ = self.writer.clone().close().await;
        drop(self.lock.lock().unwrap_or_else(PoisonError::into_inner).take());
        whole.map_err(error::from_thread)
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
        self.read_again(move |c, seen| seen.board(c, rig)).await
    }

    /// A rig as the shelf needs it: one that cannot be read any more is known by its name, and what cannot be read stands in
    /// [`Board::unreadable`] as "rig".
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig.
    pub async fn board_or_bare(&self, rig: RigId) -> Result<Board, StoreError> {
        match self.board(rig).await {
            Err(StoreError::Unreadable { .. }) => {
                self.read(move |c| board::load_or_bare(c, rig, true)).await
            }
            other => other,
        }
    }

    /// All that is logged of a rig.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn log(&self, rig: RigId) -> Result<KeptLog, StoreError> {
        self.read(move |c| log::all(c, rig)).await
    }

    /// Entries for the log of a rig that was just made: nothing to take back.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn begin_log(&self, rig: RigId, log: Log) -> Result<(), StoreError> {
        self.write(move |t| log::add_all(t, rig, &log).map(|_| ())).await
    }

    /// Keeps what a monitor recorded, for an entry to name; its number.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn keep_recorded(&self, rig: RigId, all: Vec<Sample>) -> Result<i64, StoreError> {
        self.write(move |t| log::keep_recorded(t, rig, &all)).await
    }

    /// What a monitor recorded; nothing where there is none.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn recorded(&self, rig: RigId, id: i64) -> Result<Vec<Sample>, StoreError> {
        self.read(move |c| log::recorded(c, rig, id)).await
    }

    /// A trip that begins, with what it begins with; its number.
    ///
    /// # Errors
    /// [`StoreError::Full`] when one is under way already, others when it cannot be written.
    pub async fn begin_trip(
        &self,
        rig: RigId,
        body: String,
        began: i64,
    ) -> Result<TripId, StoreError> {
        self.write(move |t| trip::begin(t, rig, &body, began)).await
    }

    /// What a trip began with, told again.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn retell_trip(&self, id: TripId, body: String) -> Result<(), StoreError> {
        self.write(move |t| trip::retell(t, id, &body)).await
    }

    /// Lines that were heard of a trip.
    ///
    /// # Errors
    /// [`StoreError`] when they cannot be written.
    pub async fn heard_of_trip(&self, id: TripId, lines: String) -> Result<(), StoreError> {
        self.write(move |t| trip::heard(t, id, &lines)).await
    }

    /// All lines that were heard of a trip; none where there is no such one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn trip_lines(&self, rig: RigId, id: TripId) -> Result<String, StoreError> {
        self.read(move |c| trip::lines(c, rig, id)).await
    }

    /// All trips that are under way.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn trips_under_way(&self) -> Result<Vec<KeptTrip>, StoreError> {
        self.read(trip::all_under_way).await
    }

    /// The newest trips of a rig, the one under way among them.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn trips(&self, rig: RigId, most: i64) -> Result<Vec<KeptTrip>, StoreError> {
        self.read(move |c| trip::all(c, rig, most)).await
    }

    /// A trip is over.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn end_trip(
        &self,
        id: TripId,
        ended: i64,
        recorded: Option<i64>,
    ) -> Result<(), StoreError> {
        self.write(move |t| trip::end(t, id, ended, recorded)).await
    }

    /// A trip that is not kept.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn forget_trip(&self, rig: RigId, id: TripId) -> Result<(), StoreError> {
        self.write(move |t| trip::forget(t, rig, id)).await
    }

    /// Lets a device in that shows something whose SHA-256 is `token`.
    ///
    /// # Errors
    /// [`StoreError::Full`] when there are too many, others when it cannot be written.
    pub async fn let_in(
        &self,
        name: String,
        role: Role,
        token: [u8; 32],
        now: i64,
    ) -> Result<i64, StoreError> {
        self.write(move |t| device::let_in(t, &name, role, &token, now)).await
    }

    /// Devices that were let in.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn devices(&self) -> Result<Vec<Device>, StoreError> {
        self.read(device::devices).await
    }

    /// The device that shows something of this SHA-256, where it is let in still at `now`.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn device_of(&self, token: [u8; 32], now: i64) -> Result<Option<Device>, StoreError> {
        self.read(move |c| device::device_of(c, &token, now)).await
    }

    /// A device was seen: written down now and then, and by nobody waited for.
    pub fn seen_device(&self, device: &Device, now: i64) {
        if device::is_news(device, now) {
            let (store, id) = (self.clone(), device.id);
            tokio::spawn(async move { store.write(move |t| device::seen(t, id, now)).await });
        }
    }

    /// A device is called otherwise, or may do something else.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such device.
    pub async fn tell_device(&self, id: i64, name: String, role: Role) -> Result<(), StoreError> {
        self.write(move |t| device::tell(t, id, &name, role)).await
    }

    /// A device is not let in any more.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn shut_out(&self, id: i64) -> Result<(), StoreError> {
        self.write(move |t| device::shut_out(t, id)).await
    }

    /// Which column of a monitor's table is what, as it was said of these headings before.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn said_of(&self, headings: &[String]) -> Result<Option<Said>, StoreError> {
        let headings = log::headings_key(headings);
        self.read(move |c| log::said_of(c, &headings)).await
    }

    /// Keeps which column is what for the next table with these headings.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn keep_said(&self, headings: &[String], said: Said) -> Result<(), StoreError> {
        let headings = log::headings_key(headings);
        self.write(move |t| log::keep_said(t, &headings, &said)).await
    }

    /// One entry of a log.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such entry of that rig.
    pub async fn logged(&self, rig: RigId, id: LogId) -> Result<Logged, StoreError> {
        self.read(move |c| log::find(c, rig, id)).await
    }

    /// A text that differs after every change of the rig or the shelf: [`Board::now`] without the rest.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is no such rig.
    pub async fn now(&self, rig: RigId) -> Result<String, StoreError> {
        self.read(move |c| board::now_of(c, rig)).await
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
        self.write(move |t| change::make(t, rig, &change, None)).await
    }

    /// Makes the change that `read` finds for the rig as it is at that moment: nobody else can change it
    /// between the look and the write. What `read` refuses changes nothing.
    ///
    /// # Errors
    /// As [`change`](Self::change).
    pub async fn change_by<R: Send + 'static, E: Send + 'static>(
        &self,
        rig: RigId,
        read: impl FnOnce(&Board) -> Result<(Change, R), E> + Send + 'static,
    ) -> Result<Result<(Kept, R), E>, StoreError> {
        self.write(move |t| {
            let board = board::load_within(t, rig)?;
            Ok(match read(&board) {
                Ok((change, rest)) => Ok((change::make(t, rig, &change, Some(&board))?, rest)),
                Err(refused) => Err(refused),
            })
        })
        .await
    }

    /// Takes the newest change back, if it is still the `expected` one.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn undo(&self, rig: RigId, expected: Option<i64>) -> Result<Turned, StoreError> {
        self.write(move |t| history::turn(t, rig, Way::Undo, expected)).await
    }

    /// Makes the change that was taken back last once more, if it is still the `expected` one.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn redo(&self, rig: RigId, expected: Option<i64>) -> Result<Turned, StoreError> {
        self.write(move |t| history::turn(t, rig, Way::Redo, expected)).await
    }

    /// One page of the shelf. `figure` is what to sort by where [`Order::Reckoned`] is wanted.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn shelf(
        &self,
        query: ShelfQuery,
        figure: Figure<impl Fn(&Battery) -> Option<f64> + Send + 'static>,
    ) -> Result<ShelfPage, StoreError> {
        let known = self.shelf.clone();
        self.read(move |c| shelf::page(c, &known, &query, &figure)).await
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

    /// The text of something as it is kept, whether it can be read or not: to be saved before it is removed.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], or when the database cannot be read.
    pub async fn raw(&self, rig: RigId, part: Part) -> Result<String, StoreError> {
        self.read(move |c| board::raw(c, rig, part)).await
    }

    /// The labels of some batteries: of those that stand on the shelf and can be read.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn labels(
        &self,
        ids: BTreeSet<BatteryId>,
    ) -> Result<BTreeMap<BatteryId, Battery>, StoreError> {
        self.read_again(move |c, seen| seen.labels(c, &ids)).await
    }

    /// The batteries that came to the shelf next after `last`, at most so many: for one who goes through
    /// all of it, and keeps nobody waiting meanwhile.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn batteries_after(
        &self,
        last: Option<BatteryId>,
        most: usize,
    ) -> Result<Slice, StoreError> {
        read(&self.through, move |c| shelf::after(c, last.map_or(i64::MIN, |id| id.0), most)).await
    }

    /// The first batteries of the shelf by name, at most so many: their numbers and names, to choose from.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn names(&self, most: usize) -> Result<Vec<(BatteryId, String)>, StoreError> {
        self.read(move |c| shelf::names(c, most)).await
    }

    /// What is usual of prices and weights on the shelf.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn usual(&self) -> Result<Usual, StoreError> {
        let known = self.shelf.clone();
        self.read(move |c| shelf::usual(c, &known)).await
    }

    /// How many batteries stand on the shelf, those out of sight too.
    ///
    /// # Errors
    /// [`StoreError`] when the database cannot be read.
    pub async fn batteries(&self) -> Result<usize, StoreError> {
        self.read(shelf::count).await
    }

    /// Makes one change to the shelf and remembers how to take it back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when what it names is gone, [`StoreError::Taken`] when its name is.
    pub async fn change_shelf(&self, change: ShelfChange) -> Result<Kept, StoreError> {
        self.write_shelf(move |t| {
            let (sentence, made) = shelf::change(t, &change)?;
            Ok(Kept { sentence, made, board: None })
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

    /// Makes of one battery what `read` makes of it as it is at that moment; `None` leaves it so.
    ///
    /// # Errors
    /// As [`change_shelf`](Self::change_shelf).
    pub async fn edit_battery<R: Send + 'static, E: Send + 'static>(
        &self,
        id: BatteryId,
        read: impl FnOnce(&Candidate) -> Result<(Option<Candidate>, R), E> + Send + 'static,
    ) -> Result<Result<(Option<Kept>, R), E>, StoreError> {
        self.write_shelf(move |t| {
            let before = shelf::battery(t, id)?.candidate;
            let (after, rest) = match read(&before) {
                Ok((Some(after), rest)) if after != before => (after, rest),
                Ok((_, rest)) => return Ok(Ok((None, rest))),
                Err(refused) => return Ok(Err(refused)),
            };
            let (sentence, made) = shelf::change(t, &ShelfChange::Edit(id, Box::new(after)))?;
            Ok(Ok((Some(Kept { sentence, made, board: None }), rest)))
        })
        .await
    }

    /// Takes the shelf's newest change back, if it is still the `expected` one.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn undo_shelf(&self, expected: Option<i64>) -> Result<Turned, StoreError> {
        self.turn_shelf(Way::Undo, expected).await
    }

    /// Makes the shelf's change that was taken back last once more, if it is still the `expected` one.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be written.
    pub async fn redo_shelf(&self, expected: Option<i64>) -> Result<Turned, StoreError> {
        self.turn_shelf(Way::Redo, expected).await
    }

    /// A change of a hundred thousand batteries is turned piece by piece: others write in between.
    async fn turn_shelf(&self, way: Way, expected: Option<i64>) -> Result<Turned, StoreError> {
        let begun = self.write(move |t| shelf::begin_turn(t, way, expected)).await?;
        let undo = match begun {
            Begun::Nothing => return Ok(Turned::Nothing),
            Begun::Other(sentence) => return Ok(Turned::Other(sentence)),
            Begun::Turning(undo) => undo,
        };
        let store = self.clone();
        // What has begun goes on, even if nobody waits for it any more.
        let turned = tokio::spawn(async move {
            while store.write(move |t| shelf::turn(t, undo.id)).await? {}
            store.tidy();
            Ok::<_, StoreError>(undo.sentence)
        });
        Ok(Turned::Done(turned.await.map_err(|_| StoreError::Panicked)??))
    }

    /// Runs `job` in a transaction that is committed if it succeeds and rolled back if not.
    ///
    /// Whoever gives up waiting before it began has it withdrawn; once it has begun it comes to an end.
    async fn write<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        let known = self.shelf.clone();
        queue::write(&self.writer, &self.health, job, move || known.written()).await
    }

    /// As [`write`](Self::write), when the job changes the shelf.
    async fn write_shelf<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Transaction<'_>) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        let done = self.write(job).await;
        self.tidy();
        done
    }

    /// Gives back, piece by piece and later, what changes held that can't be taken back any more.
    fn tidy(&self) {
        let store = self.clone();
        tokio::spawn(async move {
            while matches!(store.write(shelf::tidy).await, Ok(true)) {}
            // Space that is not given back now is with the next change.
            while matches!(store.writer.call(|c| open::give_back(c)).await, Ok(true)) {}
        });
    }

    async fn read<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Connection) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        self.read_again(|c, _| job(c)).await
    }

    /// As [`Self::read`], with what the connection has read already.
    async fn read_again<T: Send + 'static>(
        &self,
        job: impl FnOnce(&Connection, &Seen) -> Result<T, StoreError> + Send + 'static,
    ) -> Result<T, StoreError> {
        let n = self.next_reader.fetch_add(1, Ordering::Relaxed) % READERS;
        let seen = self.seen[n].clone();
        let done = read(&self.readers[n], move |c| job(c, &seen)).await;
        if let Err(StoreError::Database(error)) = &done {
            self.health.failed(error);
        }
        done
    }
}

async fn read<T: Send + 'static>(
    reader: &tokio_rusqlite::Connection,
    job: impl FnOnce(&Connection) -> Result<T, StoreError> + Send + 'static,
) -> Result<T, StoreError> {
    let done = reader.call(move |connection| -> Result<T, StoreError> {
        std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| job(connection)))
            .unwrap_or(Err(StoreError::Panicked))
    });
    done.await.map_err(error::from_thread)
}
