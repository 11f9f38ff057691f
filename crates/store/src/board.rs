//! Rigs read and kept whole.

use crate::change;
use crate::error::StoreError;
use crate::history;
use crate::rows::{Item, List, RigRow};
use crate::shelf::{self, BatteryId};
use lake_hour_core::build::Build;
use lake_hour_core::day::{Day, MOST_STRETCHES, Stretch};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::units::Volts;
use lake_hour_formats::{Faults, plan as formats};
use rusqlite::{Connection, Transaction};

/// Which rig.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct RigId(pub i64);

/// Which stretch of the day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct StretchId(pub i64);

/// Which pack.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct PackId(pub i64);

/// A rig by name.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct RigName {
    /// Which one.
    pub id: RigId,
    /// What it is called.
    pub name: String,
    /// Put away: kept, but not offered.
    pub archived: bool,
}

/// A rig with its day, rules and packs, and the ids to change them by.
#[derive(Debug, Clone, PartialEq)]
pub struct Board {
    /// Which rig.
    pub rig: RigId,
    /// The plan.
    pub plan: Plan,
    /// Ids of the day's stretches, in their order.
    pub stretches: Vec<StretchId>,
    /// Ids of the packs, in their order.
    pub packs: Vec<PackId>,
    /// The batteries on the shelf that the packs are built of, in their order; whether they stand there still
    /// is not said.
    pub built_of: Vec<Option<BatteryId>>,
    /// Packs and stretches that cannot be read any more; all else is as it was.
    pub unreadable: Vec<(&'static str, Unreadable)>,
    /// What undo would take back.
    pub undo: Option<Undo>,
    /// What redo would make again.
    pub redo: Option<Undo>,
    /// Another text after every change of the rig or the shelf, see [`now`].
    pub now: String,
}

/// Something kept whose text says nothing any more: damaged, or from elsewhere.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unreadable {
    /// Which one.
    pub id: i64,
    /// Its text, as it is kept.
    pub text: String,
    /// What is wrong with it: where, and what is allowed.
    pub why: String,
}

/// A change that can be taken back, or made again.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Undo {
    /// Which one.
    pub id: i64,
    /// What was done.
    pub sentence: String,
}

/// A change that is on the disk.
#[derive(Debug, Clone, PartialEq)]
pub struct Kept {
    /// What was done, as a sentence.
    pub sentence: String,
    /// Id of what was added or copied.
    pub made: Option<i64>,
    /// The rig as it is then, where it was a rig that changed: whoever shows it need not read it again.
    pub board: Option<Box<Board>>,
}

pub(crate) fn rigs(c: &Connection) -> Result<Vec<RigName>, StoreError> {
    let mut select =
        c.prepare_cached("SELECT id, name, archived FROM rig ORDER BY archived, id")?;
    let rows = select.query_map([], |r| {
        Ok(RigName { id: RigId(r.get("id")?), name: r.get("name")?, archived: r.get("archived")? })
    })?;
    Ok(rows.collect::<Result<_, _>>()?)
}

/// Puts a rig away, or brings it back.
pub(crate) fn archive(t: &Transaction<'_>, rig: RigId, archived: bool) -> Result<(), StoreError> {
    match t.execute("UPDATE rig SET archived = ?1 WHERE id = ?2", (archived, rig.0))? {
        0 => Err(StoreError::NotFound("rig")),
        _ => Ok(()),
    }
}

/// The same rig once more, under a name of its own.
pub(crate) fn duplicate(t: &Transaction<'_>, rig: RigId) -> Result<RigId, StoreError> {
    let mut plan = load_within(t, rig)?.plan;
    let most = lake_hour_core::allowed::NAME_LENGTH - 6;
    plan.rig.name = plan.rig.name.chars().take(most).chain(" (2)".chars()).collect();
    insert(t, &plan)
}

/// A rig as it is, inside a transaction that is already open.
pub(crate) fn load_within(c: &Connection, rig: RigId) -> Result<Board, StoreError> {
    load_or_bare(c, rig, false)
}

/// A rig of which its name alone is known, at the volts that are commonest.
fn nothing_known(name: String) -> Plan {
    Plan {
        currency: "USD".to_owned(),
        rig: Rig::new(name, CraftKind::JonBoat, Volts::of(12.0)),
        day: Day::starting_at(7 * 60),
        rules: HouseRules::default(),
        packs: Vec::new(),
        wants: Vec::new(),
        build: Build::default(),
    }
}

/// The same; where the rig itself cannot be read and `bare` is asked for, its name and what cannot be read.
pub(crate) fn load_or_bare(c: &Connection, rig: RigId, bare: bool) -> Result<Board, StoreError> {
    let row = RigRow::get(c, rig.0)?;
    let stretches = Item::all(c, List::Stretches, rig.0)?;
    let packs = Item::all(c, List::Packs, rig.0)?;
    let (undo, redo) = history::offers(c, rig)?;
    let now = now(c, rig)?;
    let mut unreadable = Vec::new();
    let (mut stretch_ids, stretches) =
        readable(List::Stretches, stretches, &mut unreadable, formats::read_stretch);
    let (mut pack_ids, packs) = readable(List::Packs, packs, &mut unreadable, formats::read_pack);
    let (packs, numbers): (Vec<Pack>, Vec<Option<i64>>) = packs.into_iter().unzip();
    let mut built_of = Vec::with_capacity(packs.len());
    for (pack, number) in packs.iter().zip(numbers) {
        built_of.push(on_shelf(c, pack, number)?.map(BatteryId));
    }
    let plan = match formats::read_frame(&row.frame, stretches, packs) {
        Ok(plan) => plan,
        Err(faults) if bare => {
            let (text, why) = (row.frame, faults.first());
            unreadable.push(("rig", Unreadable { id: rig.0, text, why }));
            stretch_ids.clear();
            pack_ids.clear();
            built_of.clear();
            nothing_known(row.name)
        }
        Err(faults) => {
            return Err(StoreError::Unreadable { text: row.frame, why: faults.first() });
        }
    };
    Ok(Board {
        rig,
        plan,
        stretches: stretch_ids.into_iter().map(StretchId).collect(),
        packs: pack_ids.into_iter().map(PackId).collect(),
        built_of,
        unreadable,
        undo,
        redo,
        now,
    })
}

/// [`now`] of a rig that is there.
pub(crate) fn now_of(c: &Connection, rig: RigId) -> Result<String, StoreError> {
    let t = c.unchecked_transaction()?;
    RigRow::get(&t, rig.0)?;
    now(&t, rig)
}

/// A text that differs after every change of the rig or the shelf, and is the same while there is none:
/// by it a window learns that another one was at work.
pub(crate) fn now(c: &Connection, rig: RigId) -> Result<String, StoreError> {
    let id = |undo: Option<Undo>| undo.map_or(0, |undo| undo.id);
    let (undo, redo) = history::offers(c, rig)?;
    let (shelf_undo, shelf_redo) = shelf::offers(c)?;
    Ok(format!("{}.{}.{}.{}", id(undo), id(redo), id(shelf_undo), id(shelf_redo)))
}

/// Something that is kept as one text.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// A rig without its stretches and packs.
    Rig,
    /// A stretch of a rig's day.
    Stretch(i64),
    /// A pack of a rig.
    Pack(i64),
    /// A battery of the shelf.
    Battery(BatteryId),
}

/// The text of a part as it is kept, whether it can be read or not.
pub(crate) fn raw(c: &Connection, rig: RigId, part: Part) -> Result<String, StoreError> {
    match part {
        Part::Rig => Ok(RigRow::get(c, rig.0)?.frame),
        Part::Stretch(id) => Ok(Item::find(c, List::Stretches, rig.0, id)?.body),
        Part::Pack(id) => Ok(Item::find(c, List::Packs, rig.0, id)?.body),
        Part::Battery(id) => shelf::raw(c, id),
    }
}

/// The number on the shelf of the battery that a pack is built of: the one it was kept with, or else the one
/// of that name.
pub(crate) fn on_shelf(
    c: &Connection,
    pack: &Pack,
    kept: Option<i64>,
) -> Result<Option<i64>, StoreError> {
    match (&pack.from, kept) {
        (None, _) => Ok(None),
        (Some(_), Some(kept)) => Ok(Some(kept)),
        (Some(from), None) => shelf::named(c, &from.name),
    }
}

/// Those of a list that can be read, with their ids; the others go to `unreadable`.
fn readable<T>(
    list: List,
    items: Vec<Item>,
    unreadable: &mut Vec<(&'static str, Unreadable)>,
    read: impl Fn(&str) -> Result<T, Faults>,
) -> (Vec<i64>, Vec<T>) {
    let (mut ids, mut all) = (Vec::new(), Vec::new());
    for item in items {
        match read(&item.body) {
            Ok(one) => {
                ids.push(item.id);
                all.push(one);
            }
            Err(faults) => {
                let (id, text, why) = (item.id, item.body, faults.first());
                unreadable.push((list.one(), Unreadable { id, text, why }));
            }
        }
    }
    (ids, all)
}

/// Most rigs that are kept.
const MOST_RIGS: i64 = 200;

pub(crate) fn insert(t: &Transaction<'_>, plan: &Plan) -> Result<RigId, StoreError> {
    let rigs: i64 = t.query_row("SELECT count(*) FROM rig", [], |r| r.get(0))?;
    if rigs >= MOST_RIGS {
        return Err(StoreError::Full { what: "rigs", most: MOST_RIGS as usize });
    }
    with_room(plan)?;
    let rig = RigRow::new(0, plan).put(t)?;
    put_stretches(t, rig, &plan.day.stretches)?;
    put_packs(t, rig, &plan.packs)?;
    Ok(RigId(rig))
}

/// Whether all of a plan's packs can be kept.
pub(crate) fn with_room(plan: &Plan) -> Result<(), StoreError> {
    if plan.packs.len() > change::MOST_PACKS {
        return Err(StoreError::Full { what: "packs", most: change::MOST_PACKS });
    }
    Ok(())
}

pub(crate) fn put_stretches(
    t: &Transaction<'_>,
    rig: i64,
    all: &[Stretch],
) -> Result<(), StoreError> {
    for (position, stretch) in (0..).zip(all.iter().take(MOST_STRETCHES)) {
        let body = formats::write_stretch(stretch);
        Item { id: 0, position, body }.put(t, List::Stretches, rig)?;
    }
    Ok(())
}

pub(crate) fn put_packs(t: &Transaction<'_>, rig: i64, all: &[Pack]) -> Result<(), StoreError> {
    for (position, pack) in (0..).zip(all) {
        let body = formats::write_pack(pack, on_shelf(t, pack, None)?);
        Item { id: 0, position, body }.put(t, List::Packs, rig)?;
    }
    Ok(())
}
