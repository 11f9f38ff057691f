//! The changes a user makes to a rig, its day and its packs.

use crate::board::{self, PackId, RigId, StretchId};
use crate::error::StoreError;
use crate::rows::{PackRow, RigRow, StretchRow};
use lake_hour_core::day::{MOST_STRETCHES, Stretch};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::rig::Rig;
use lake_hour_core::units::Celsius;
use rusqlite::Transaction;

/// Most packs on one board: more are compared by the command line.
pub(crate) const MOST_PACKS: usize = 200;

/// Where something new goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    /// After all others.
    Last,
    /// Before all others.
    First,
}

/// Which way something is moved in its list.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Direction {
    /// Towards the start.
    Earlier,
    /// Towards the end.
    Later,
}

/// One change, made and taken back as a whole.
#[derive(Debug, Clone, PartialEq)]
pub enum Change {
    /// A new stretch.
    AddStretch(Stretch, Place),
    /// Another name, length or duty.
    EditStretch(StretchId, Stretch),
    /// The same stretch once more, right after it.
    CopyStretch(StretchId),
    /// One stretch less.
    RemoveStretch(StretchId),
    /// One step along the day.
    MoveStretch(StretchId, Direction),
    /// A new pack.
    AddPack(Box<Pack>, Place),
    /// Other figures.
    EditPack(PackId, Box<Pack>),
    /// The same pack once more, right after it.
    CopyPack(PackId),
    /// One pack less.
    RemovePack(PackId),
    /// One step along the board.
    MovePack(PackId, Direction),
    /// When the day starts, how warm it is, and how often there is one.
    EditDay {
        /// Minute of the day, 0 to 1439.
        start_minute: u16,
        /// Around the batteries, if told.
        ambient: Option<Celsius>,
        /// Days like this in a year.
        outings_per_year: f64,
    },
    /// Floors, reserve, horizon.
    EditRules(HouseRules),
    /// The craft and its motor.
    EditRig(Box<Rig>),
}

/// What a change is called, before it is made.
pub(crate) fn sentence(
    t: &Transaction<'_>,
    rig: RigId,
    change: &Change,
) -> Result<String, StoreError> {
    let stretch = |id: &StretchId| -> Result<String, StoreError> {
        Ok(find_stretch(t, rig, *id)?.stretch()?.name)
    };
    let pack =
        |id: &PackId| -> Result<String, StoreError> { Ok(find_pack(t, rig, *id)?.pack()?.name) };
    Ok(match change {
        Change::AddStretch(s, _) => format!("Added the stretch {}", s.name),
        Change::EditStretch(id, _) => format!("Changed the stretch {}", stretch(id)?),
        Change::CopyStretch(id) => format!("Copied the stretch {}", stretch(id)?),
        Change::RemoveStretch(id) => format!("Removed the stretch {}", stretch(id)?),
        Change::MoveStretch(id, _) => format!("Moved the stretch {}", stretch(id)?),
        Change::AddPack(p, _) => format!("Added the pack {}", p.name),
        Change::EditPack(id, _) => format!("Changed the pack {}", pack(id)?),
        Change::CopyPack(id) => format!("Copied the pack {}", pack(id)?),
        Change::RemovePack(id) => format!("Removed the pack {}", pack(id)?),
        Change::MovePack(id, _) => format!("Moved the pack {}", pack(id)?),
        Change::EditDay { .. } => "Changed the day".to_owned(),
        Change::EditRules(_) => "Changed the house rules".to_owned(),
        Change::EditRig(_) => "Changed the rig".to_owned(),
    })
}

/// Makes the change; returns the id of what is new.
pub(crate) fn apply(
    t: &Transaction<'_>,
    rig: RigId,
    change: &Change,
) -> Result<Option<i64>, StoreError> {
    match change {
        Change::AddStretch(stretch, place) => {
            let rows = room_for_stretch(t, rig)?;
            let at = edge(rows.iter().map(|r| r.position), *place);
            return StretchRow::new(0, at, stretch).put(t, rig.0).map(Some);
        }
        Change::EditStretch(id, stretch) => {
            let row = find_stretch(t, rig, *id)?;
            StretchRow::new(row.id, row.position, stretch).put(t, rig.0)?;
        }
        Change::CopyStretch(id) => {
            let rows = room_for_stretch(t, rig)?;
            let mut row = find_stretch(t, rig, *id)?;
            row.id = 0;
            let made = row.put(t, rig.0)?;
            let mut order: Vec<i64> = rows.iter().map(|r| r.id).collect();
            put_after(&mut order, id.0, made);
            renumber(t, "UPDATE stretch SET position = ?1 WHERE id = ?2", &order)?;
            return Ok(Some(made));
        }
        Change::RemoveStretch(id) => {
            find_stretch(t, rig, *id)?;
            t.execute("DELETE FROM stretch WHERE id = ?1", [id.0])?;
        }
        Change::MoveStretch(id, direction) => {
            find_stretch(t, rig, *id)?;
            let mut order: Vec<i64> = StretchRow::all(t, rig.0)?.iter().map(|r| r.id).collect();
            step(&mut order, id.0, *direction);
            renumber(t, "UPDATE stretch SET position = ?1 WHERE id = ?2", &order)?;
        }
        Change::AddPack(pack, place) => {
            let rows = room_for_pack(t, rig)?;
            let at = edge(rows.iter().map(|r| r.position), *place);
            return PackRow::new(0, at, pack).put(t, rig.0).map(Some);
        }
        Change::EditPack(id, pack) => {
            let row = find_pack(t, rig, *id)?;
            PackRow::new(row.id, row.position, pack).put(t, rig.0)?;
        }
        Change::CopyPack(id) => {
            let rows = room_for_pack(t, rig)?;
            let mut row = find_pack(t, rig, *id)?;
            row.id = 0;
            let made = row.put(t, rig.0)?;
            let mut order: Vec<i64> = rows.iter().map(|r| r.id).collect();
            put_after(&mut order, id.0, made);
            renumber(t, "UPDATE pack SET position = ?1 WHERE id = ?2", &order)?;
            return Ok(Some(made));
        }
        Change::RemovePack(id) => {
            find_pack(t, rig, *id)?;
            t.execute("DELETE FROM pack WHERE id = ?1", [id.0])?;
        }
        Change::MovePack(id, direction) => {
            find_pack(t, rig, *id)?;
            let mut order: Vec<i64> = PackRow::all(t, rig.0)?.iter().map(|r| r.id).collect();
            step(&mut order, id.0, *direction);
            renumber(t, "UPDATE pack SET position = ?1 WHERE id = ?2", &order)?;
        }
        Change::EditDay { .. } | Change::EditRules(_) | Change::EditRig(_) => {
            let mut plan = board::load_within(t, rig)?.plan;
            match change {
                Change::EditDay { start_minute, ambient, outings_per_year } => {
                    plan.day.start_minute = *start_minute;
                    plan.day.ambient = *ambient;
                    plan.day.outings_per_year = *outings_per_year;
                }
                Change::EditRules(rules) => plan.rules = *rules,
                Change::EditRig(new) => plan.rig = (**new).clone(),
                _ => {}
            }
            RigRow::new(rig.0, &plan).put(t)?;
        }
    }
    Ok(None)
}

fn find_stretch(t: &Transaction<'_>, rig: RigId, id: StretchId) -> Result<StretchRow, StoreError> {
    let rows = StretchRow::all(t, rig.0)?;
    rows.into_iter().find(|r| r.id == id.0).ok_or(StoreError::NotFound("stretch"))
}

fn find_pack(t: &Transaction<'_>, rig: RigId, id: PackId) -> Result<PackRow, StoreError> {
    let rows = PackRow::all(t, rig.0)?;
    rows.into_iter().find(|r| r.id == id.0).ok_or(StoreError::NotFound("pack"))
}

fn room_for_stretch(t: &Transaction<'_>, rig: RigId) -> Result<Vec<StretchRow>, StoreError> {
    let rows = StretchRow::all(t, rig.0)?;
    if rows.len() >= MOST_STRETCHES {
        return Err(StoreError::Full { what: "stretches", most: MOST_STRETCHES });
    }
    Ok(rows)
}

fn room_for_pack(t: &Transaction<'_>, rig: RigId) -> Result<Vec<PackRow>, StoreError> {
    let rows = PackRow::all(t, rig.0)?;
    if rows.len() >= MOST_PACKS {
        return Err(StoreError::Full { what: "packs", most: MOST_PACKS });
    }
    Ok(rows)
}

/// A position before or after all others.
fn edge(positions: impl Iterator<Item = i64>, place: Place) -> i64 {
    match place {
        Place::Last => positions.max().map_or(0, |p| p + 1),
        Place::First => positions.min().map_or(0, |p| p - 1),
    }
}

fn put_after(order: &mut Vec<i64>, id: i64, new: i64) {
    order.retain(|o| *o != new);
    let at = order.iter().position(|o| *o == id).map_or(order.len(), |n| n + 1);
    order.insert(at, new);
}

fn step(order: &mut [i64], id: i64, direction: Direction) {
    let Some(at) = order.iter().position(|o| *o == id) else { return };
    match direction {
        Direction::Earlier if at > 0 => order.swap(at, at - 1),
        Direction::Later if at + 1 < order.len() => order.swap(at, at + 1),
        Direction::Earlier | Direction::Later => {}
    }
}

fn renumber(t: &Transaction<'_>, update: &str, order: &[i64]) -> Result<(), StoreError> {
    let mut update = t.prepare_cached(update)?;
    for (position, id) in (0_i64..).zip(order) {
        update.execute([position, *id])?;
    }
    Ok(())
}
