//! The changes a user makes to a rig, its day and its packs.

use crate::board::{self, Board, Kept, PackId, RigId, StretchId, Unreadable};
use crate::error::StoreError;
use crate::history;
use crate::log::{self, LogId};
use crate::rows::{Item, List, RigRow};
use lake_hour_core::day::{Day, MOST_STRETCHES, Stretch};
use lake_hour_core::house::HouseRules;
use lake_hour_core::kept::Build;
use lake_hour_core::log::{Did, Log, Logged};
use lake_hour_core::money::Terms;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::Rig;
use lake_hour_core::units::Money;
use lake_hour_core::wants::Want;
use lake_hour_formats::plan;
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
    /// Two halves in its place.
    SplitStretch(StretchId),
    /// One stretch less.
    RemoveStretch(StretchId),
    /// One step along the day.
    MoveStretch(StretchId, Direction),
    /// To a place in the day, counted from 0.
    PutStretch(StretchId, usize),
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
    /// All of the day but its stretches.
    EditDay(Box<Day>),
    /// Another day, stretches and all, with what it is called; and with it another rig, if told.
    UseDay(String, Box<Day>, Option<Box<Rig>>),
    /// Another plan in the place of all of it.
    UsePlan(Box<Plan>),
    /// Floors, reserve, horizon.
    EditRules(HouseRules),
    /// The currency, and what money is reckoned with.
    EditMoney(String, Terms),
    /// What is wanted of a pack.
    EditWants(Vec<Want>),
    /// The craft and its motor.
    EditRig(Box<Rig>),
    /// What is aboard, another text of it or a new pack, and what it would sell for.
    Have(Option<PackId>, Box<Pack>, Money),
    /// The pack that is to be built.
    ChoosePack(PackId),
    /// What is kept of the build, with what is said of it; and the chosen pack, where its price is another one.
    EditBuild(String, Box<Build>, Option<(PackId, Box<Pack>)>),
    /// A new entry of the log, with what is said of it.
    AddLogged(String, Box<Logged>),
    /// Another log's entries: those that name each other go on doing so.
    AddLog(String, Log),
    /// Entries that name packs of this log by their numbers.
    AddSame(String, Log),
    /// Another text of an entry.
    EditLogged(String, LogId, Box<Logged>),
    /// One entry of the log less.
    RemoveLogged(String, LogId),
    /// What a log taught, into the rig and into packs, with what is said of it.
    TakeOver(String, Box<Rig>, Vec<(PackId, Pack)>),
}

impl Change {
    /// The entry of the log that it touches, where that is there before.
    const fn logged(&self) -> Option<LogId> {
        match self {
            Self::EditLogged(_, id, _) | Self::RemoveLogged(_, id) => Some(*id),
            _ => None,
        }
    }
}

/// Makes a change and remembers how to take it back. `before` is the rig as it is, where it was read already.
pub(crate) fn make(
    t: &Transaction<'_>,
    rig: RigId,
    change: &Change,
    before: Option<&Board>,
) -> Result<Kept, StoreError> {
    let sentence = sentence(t, rig, change)?;
    let before_log = match change.logged() {
        Some(id) => log::was(t, rig, &[id.0])?,
        None => Vec::new(),
    };
    let picture = history::picture(t, rig, Vec::new())?;
    let read;
    let damaged: &[_] = match before {
        Some(board) => &board.unreadable,
        None => {
            read = match board::load_within(t, rig) {
                Ok(board) => board.unreadable,
                // Another plan may still be put in its place.
                Err(StoreError::Unreadable { .. }) => Vec::new(),
                Err(error) => return Err(error),
            };
            &read
        }
    };
    let made = apply(t, rig, change)?;
    // What changes nothing is nothing to take back.
    let touched = match (change, change.logged()) {
        (Change::AddLogged(..), _) => made.into_iter().map(log::Was::none).collect(),
        (Change::AddLog(_, other) | Change::AddSame(_, other), _) => {
            log::newest(t, rig, other.all.len())?
        }
        (_, Some(id)) if log::was(t, rig, &[id.0])? != before_log => before_log,
        _ => Vec::new(),
    };
    if !touched.is_empty() || history::picture(t, rig, Vec::new())? != picture {
        history::remember(t, rig, &sentence, &history::with_logged(picture, touched)?)?;
    }
    // What could not be read back is not written.
    let board = board::load_within(t, rig)?;
    match board.unreadable.iter().find(|one| !damaged.contains(one)) {
        Some((_, Unreadable { text, why, .. })) => {
            Err(StoreError::Unreadable { text: text.clone(), why: why.clone() })
        }
        None => Ok(Kept { sentence, made, board: Some(Box::new(board)) }),
    }
}

/// What a change is called, before it is made.
fn sentence(t: &Transaction<'_>, rig: RigId, change: &Change) -> Result<String, StoreError> {
    // One that cannot be read any more can be removed all the same.
    let named = |list: List, id: i64, name: fn(&str) -> Option<String>| {
        let body = Item::find(t, list, rig.0, id)?.body;
        Ok::<_, StoreError>(name(&body).unwrap_or_else(|| "that cannot be read".to_owned()))
    };
    let stretch = |id: &StretchId| {
        named(List::Stretches, id.0, |text| Some(plan::read_stretch(text).ok()?.name))
    };
    let pack =
        |id: &PackId| named(List::Packs, id.0, |text| Some(plan::read_pack(text).ok()?.0.name));
    Ok(match change {
        Change::AddStretch(s, _) => format!("Added the stretch {}", s.name),
        Change::EditStretch(id, _) => format!("Changed the stretch {}", stretch(id)?),
        Change::CopyStretch(id) => format!("Copied the stretch {}", stretch(id)?),
        Change::SplitStretch(id) => format!("Split the stretch {}", stretch(id)?),
        Change::RemoveStretch(id) => format!("Removed the stretch {}", stretch(id)?),
        Change::MoveStretch(id, _) | Change::PutStretch(id, _) => {
            format!("Moved the stretch {}", stretch(id)?)
        }
        Change::AddPack(p, _) => format!("Added the pack {}", p.name),
        Change::EditPack(id, _) => format!("Changed the pack {}", pack(id)?),
        Change::CopyPack(id) => format!("Copied the pack {}", pack(id)?),
        Change::RemovePack(id) => format!("Removed the pack {}", pack(id)?),
        Change::MovePack(id, _) => format!("Moved the pack {}", pack(id)?),
        Change::EditDay(_) => "Changed the day".to_owned(),
        Change::UseDay(name, ..) => format!("Took the day {name}"),
        Change::UsePlan(plan) => format!("Took the plan {}", plan.rig.name),
        Change::EditRules(_) => "Changed the house rules".to_owned(),
        Change::EditMoney(..) => "Changed the terms of money".to_owned(),
        Change::EditWants(_) => "Changed what you want".to_owned(),
        Change::EditRig(_) => "Changed the rig".to_owned(),
        Change::Have(..) => "Changed what you have now".to_owned(),
        Change::ChoosePack(id) => format!("Chose the pack {}", pack(id)?),
        Change::EditBuild(sentence, ..)
        | Change::AddLogged(sentence, _)
        | Change::AddLog(sentence, _)
        | Change::AddSame(sentence, _)
        | Change::EditLogged(sentence, ..)
        | Change::RemoveLogged(sentence, _)
        | Change::TakeOver(sentence, ..) => sentence.clone(),
    })
}

/// Makes the change; returns the id of what is new.
fn apply(t: &Transaction<'_>, rig: RigId, change: &Change) -> Result<Option<i64>, StoreError> {
    match change {
        Change::AddStretch(stretch, place) => {
            return add(t, List::Stretches, rig, *place, plan::write_stretch(stretch)).map(Some);
        }
        Change::AddPack(pack, place) => {
            if pack.chosen {
                choose(t, rig, None)?;
            }
            let body = plan::write_pack(pack, board::on_shelf(t, pack, None)?);
            return add(t, List::Packs, rig, *place, body).map(Some);
        }
        Change::EditStretch(id, stretch) => {
            edit(t, List::Stretches, rig, id.0, plan::write_stretch(stretch))?;
        }
        Change::EditPack(id, pack) => edit_pack(t, rig, *id, pack)?,
        Change::CopyStretch(id) => return copy(t, List::Stretches, rig, id.0).map(Some),
        Change::CopyPack(id) => {
            let made = copy(t, List::Packs, rig, id.0)?;
            // There is one aboard, and one is built: its copy is neither.
            let body = Item::find(t, List::Packs, rig.0, made)?.body;
            if let Ok((mut pack, number)) = plan::read_pack(&body)
                && (pack.aboard || pack.chosen)
            {
                (pack.aboard, pack.chosen) = (false, false);
                edit(t, List::Packs, rig, made, plan::write_pack(&pack, number))?;
            }
            return Ok(Some(made));
        }
        Change::Have(id, pack, worth) => {
            edit_frame(t, rig, |p| p.rules.money.sale = *worth)?;
            match id {
                Some(id) => edit_pack(t, rig, *id, pack)?,
                None => {
                    let body = plan::write_pack(pack, board::on_shelf(t, pack, None)?);
                    return add(t, List::Packs, rig, Place::First, body).map(Some);
                }
            }
        }
        Change::ChoosePack(id) => {
            Item::find(t, List::Packs, rig.0, id.0)?;
            choose(t, rig, Some(*id))?;
        }
        Change::EditBuild(_, build, pack) => {
            edit_frame(t, rig, |p| p.build = (**build).clone())?;
            if let Some((id, pack)) = pack {
                edit_pack(t, rig, *id, pack)?;
            }
        }
        Change::SplitStretch(id) => {
            let mut half = plan::read_stretch(&Item::find(t, List::Stretches, rig.0, id.0)?.body)?;
            half = half.lengthened(0.5);
            edit(t, List::Stretches, rig, id.0, plan::write_stretch(&half))?;
            return copy(t, List::Stretches, rig, id.0).map(Some);
        }
        Change::RemoveStretch(id) => Item::remove(t, List::Stretches, rig.0, id.0)?,
        Change::RemovePack(id) => Item::remove(t, List::Packs, rig.0, id.0)?,
        Change::MoveStretch(id, way) => step(t, List::Stretches, rig, id.0, *way)?,
        Change::MovePack(id, way) => step(t, List::Packs, rig, id.0, *way)?,
        Change::PutStretch(id, at) => {
            Item::find(t, List::Stretches, rig.0, id.0)?;
            let mut order = order(t, List::Stretches, rig)?;
            order.retain(|o| *o != id.0);
            order.insert((*at).min(order.len()), id.0);
            Item::arrange(t, List::Stretches, &order)?;
        }
        Change::EditDay(day) => edit_frame(t, rig, |p| p.day = (**day).clone())?,
        Change::EditRules(rules) => edit_frame(t, rig, |p| p.rules = *rules)?,
        Change::EditMoney(currency, terms) => edit_frame(t, rig, |p| {
            p.currency.clone_from(currency);
            p.rules.money = *terms;
        })?,
        Change::EditWants(wants) => edit_frame(t, rig, |p| p.wants.clone_from(wants))?,
        Change::EditRig(new) => edit_frame(t, rig, |p| p.rig = new.clone().forgetting(&p.rig))?,
        Change::UseDay(_, day, new) => {
            edit_frame(t, rig, |p| {
                p.day = (**day).clone();
                if let Some(new) = new {
                    p.rig = (**new).clone();
                }
            })?;
            Item::clear(t, List::Stretches, rig.0)?;
            board::put_stretches(t, rig.0, &day.stretches)?;
        }
        Change::AddLogged(_, entry) => {
            teach(t, rig, entry)?;
            let made = log::add(t, rig, entry)?;
            if is_of_the_bench(entry) {
                measure(t, rig, false)?;
            }
            return Ok(Some(made));
        }
        Change::AddLog(_, other) | Change::AddSame(_, other) => {
            for (_, entry) in &other.all {
                teach(t, rig, entry)?;
            }
            let last = match change {
                Change::AddLog(..) => log::add_all(t, rig, other)?,
                _ => log::add_same(t, rig, other)?,
            };
            if other.all.iter().any(|(_, entry)| is_of_the_bench(entry)) {
                measure(t, rig, false)?;
            }
            return Ok(last);
        }
        Change::EditLogged(_, id, entry) => {
            let before = log::find(t, rig, *id);
            log::edit(t, rig, *id, entry)?;
            let before = before.ok();
            let any = |is: fn(&Logged) -> bool| is(entry) || before.as_ref().is_some_and(is);
            if any(is_of_the_bench) {
                measure(t, rig, before.as_ref().is_some_and(was_found))?;
            }
            if any(teaches) {
                teach_again(t, rig)?;
            }
        }
        Change::RemoveLogged(_, id) => {
            let before = log::find(t, rig, *id);
            log::remove(t, rig, *id)?;
            if before.as_ref().is_ok_and(is_of_the_bench) {
                measure(t, rig, before.as_ref().is_ok_and(was_found))?;
            }
            if before.is_ok_and(|before| teaches(&before)) {
                teach_again(t, rig)?;
            }
        }
        Change::TakeOver(_, new, packs) => {
            edit_frame(t, rig, |p| p.rig = (**new).clone())?;
            for (id, pack) in packs {
                edit_pack(t, rig, *id, pack)?;
            }
        }
        Change::UsePlan(plan) => {
            board::with_room(plan)?;
            edit_frame(t, rig, |p| p.clone_from(plan))?;
            Item::clear(t, List::Stretches, rig.0)?;
            Item::clear(t, List::Packs, rig.0)?;
            board::put_stretches(t, rig.0, &plan.day.stretches)?;
            board::put_packs(t, rig.0, &plan.packs)?;
        }
    }
    Ok(None)
}

fn edit_frame(
    t: &Transaction<'_>,
    rig: RigId,
    change: impl FnOnce(&mut lake_hour_core::plan::Plan),
) -> Result<(), StoreError> {
    let mut plan = board::load_within(t, rig)?.plan;
    change(&mut plan);
    RigRow::new(rig.0, &plan).put(t)?;
    Ok(())
}

fn order(t: &Transaction<'_>, list: List, rig: RigId) -> Result<Vec<i64>, StoreError> {
    Ok(Item::all(t, list, rig.0)?.iter().map(|i| i.id).collect())
}

fn with_room(t: &Transaction<'_>, list: List, rig: RigId) -> Result<Vec<Item>, StoreError> {
    let (what, most) = match list {
        List::Stretches => ("stretches", MOST_STRETCHES),
        List::Packs => ("packs", MOST_PACKS),
    };
    let all = Item::all(t, list, rig.0)?;
    if all.len() >= most { Err(StoreError::Full { what, most }) } else { Ok(all) }
}

fn add(
    t: &Transaction<'_>,
    list: List,
    rig: RigId,
    place: Place,
    body: String,
) -> Result<i64, StoreError> {
    let mut positions = with_room(t, list, rig)?.into_iter().map(|i| i.position);
    let position = match place {
        Place::Last => positions.max().map_or(0, |p| p + 1),
        Place::First => positions.next().map_or(0, |p| p - 1),
    };
    Item { id: 0, position, body }.put(t, list, rig.0)
}

fn edit(
    t: &Transaction<'_>,
    list: List,
    rig: RigId,
    id: i64,
    body: String,
) -> Result<(), StoreError> {
    let before = Item::find(t, list, rig.0, id)?;
    Item { body, ..before }.put(t, list, rig.0)?;
    Ok(())
}

/// The same once more, right behind it.
/// Makes this pack the one that is built, and no other.
fn choose(t: &Transaction<'_>, rig: RigId, id: Option<PackId>) -> Result<(), StoreError> {
    for item in Item::all(t, List::Packs, rig.0)? {
        let chosen = id.is_some_and(|id| id.0 == item.id);
        let Ok((mut pack, number)) = plan::read_pack(&item.body) else { continue };
        if pack.chosen != chosen {
            pack.chosen = chosen;
            edit(t, List::Packs, rig, item.id, plan::write_pack(&pack, number))?;
        }
    }
    Ok(())
}

/// What an outing has taught of its pack's units is kept with the packs of the rig that are built like it.
fn teach(t: &Transaction<'_>, rig: RigId, entry: &Logged) -> Result<(), StoreError> {
    let Logged::Outing(outing) = entry else { return Ok(()) };
    let Some(driven) = outing.pack().filter(|p| p.taught.is_some_and(|t| t.on.is_some())) else {
        return Ok(());
    };
    for item in Item::all(t, List::Packs, rig.0)? {
        let Ok((mut pack, number)) = plan::read_pack(&item.body) else { continue };
        // A second trip of a day knows more than the first.
        let no_newer = pack.taught.and_then(|t| t.on) <= driven.taught.and_then(|t| t.on);
        if pack.is_built_like(driven) && no_newer {
            pack.taught = driven.taught;
            edit(t, List::Packs, rig, item.id, plan::write_pack(&pack, number))?;
        }
    }
    Ok(())
}

/// Whether an entry is a trip that taught something of its units.
fn teaches(entry: &Logged) -> bool {
    let Logged::Outing(outing) = entry else { return false };
    outing.pack().is_some_and(|p| p.taught.is_some_and(|t| t.on.is_some()))
}

/// What trips have taught, by those that are still in the log.
fn teach_again(t: &Transaction<'_>, rig: RigId) -> Result<(), StoreError> {
    let log = log::all(t, rig)?.log;
    for item in Item::all(t, List::Packs, rig.0)? {
        let Ok((mut pack, number)) = plan::read_pack(&item.body) else { continue };
        let taught = log.taught_last(&pack);
        if pack.taught != taught {
            pack.taught = taught;
            edit(t, List::Packs, rig, item.id, plan::write_pack(&pack, number))?;
        }
    }
    Ok(())
}

/// Whether an entry says how a pack is: then every plan counts with it at once.
const fn is_of_the_bench(entry: &Logged) -> bool {
    let Logged::Test(test) = entry else { return false };
    matches!(test.did, Did::Capacity(_) | Did::Load(_) | Did::Resistances(_))
}

/// Whether an entry was a finding of the pack as a whole, which is taken back with it.
const fn was_found(entry: &Logged) -> bool {
    let Logged::Test(test) = entry else { return false };
    matches!(test.did, Did::Capacity(_) | Did::Load(_))
}

/// What the bench found of packs that are owned is the health of the rig's packs that are built like them; where no test is left,
/// what their owner told of them.
fn measure(t: &Transaction<'_>, rig: RigId, taken_back: bool) -> Result<(), StoreError> {
    let log = log::all(t, rig)?.log;
    let plan = board::load_within(t, rig)?.plan;
    let today = jiff::ZonedDateTime::now().date();
    let taught = log.taught(&plan, &log.learned(&plan, today), today);
    let owned: Vec<_> =
        log.owned().map(|(id, o)| (o, log.measured(&plan, id, today).is_some())).collect();
    for item in Item::all(t, List::Packs, rig.0)? {
        let Ok((mut pack, number)) = plan::read_pack(&item.body) else { continue };
        let Some((of, measured)) = owned.iter().rfind(|(o, _)| pack.is_built_like(&o.pack)) else {
            continue;
        };
        // What somebody typed of a pack that nothing was ever found of stays.
        if !*measured && !taken_back {
            continue;
        }
        let known = if *measured { taught.built_like(&pack) } else { None };
        let known = known.unwrap_or(&of.pack);
        if (pack.health, pack.weak_unit) != (known.health, known.weak_unit) {
            (pack.health, pack.weak_unit) = (known.health, known.weak_unit);
            edit(t, List::Packs, rig, item.id, plan::write_pack(&pack, number))?;
        }
    }
    Ok(())
}

fn edit_pack(t: &Transaction<'_>, rig: RigId, id: PackId, pack: &Pack) -> Result<(), StoreError> {
    let before = Item::find(t, List::Packs, rig.0, id.0)?.body;
    let number = plan::read_pack(&before).ok().and_then(|(_, number)| number);
    let body = plan::write_pack(pack, board::on_shelf(t, pack, number)?);
    edit(t, List::Packs, rig, id.0, body)
}

fn copy(t: &Transaction<'_>, list: List, rig: RigId, id: i64) -> Result<i64, StoreError> {
    let mut order: Vec<i64> = with_room(t, list, rig)?.iter().map(|i| i.id).collect();
    let original = Item::find(t, list, rig.0, id)?;
    let made = Item { id: 0, ..original }.put(t, list, rig.0)?;
    let at = order.iter().position(|o| *o == id).map_or(order.len(), |n| n + 1);
    order.insert(at, made);
    Item::arrange(t, list, &order)?;
    Ok(made)
}

fn step(
    t: &Transaction<'_>,
    list: List,
    rig: RigId,
    id: i64,
    way: Direction,
) -> Result<(), StoreError> {
    let mut order = order(t, list, rig)?;
    let at = order.iter().position(|o| *o == id).ok_or(StoreError::NotFound(list.one()))?;
    match way {
        Direction::Earlier if at > 0 => order.swap(at, at - 1),
        Direction::Later if at + 1 < order.len() => order.swap(at, at + 1),
        Direction::Earlier | Direction::Later => {}
    }
    Item::arrange(t, list, &order)
}
