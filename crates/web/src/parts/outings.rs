//! Outings that are begun with: whose pack, by which plan.

use crate::forms::log::{Which, as_owned};
use lake_hour_core::log::{Charge, Log, Logged, Outing, Owned, Used, as_driven_with};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::{Amps, Celsius};
use lake_hour_store::{Board, Change};

/// The pack that a record is of: the one the log is about, else what the Board has aboard or begins with.
pub(crate) fn whose(board: &Board, log: &Log) -> Option<(Option<i64>, Pack)> {
    let today = jiff::ZonedDateTime::now().date();
    if let Some((id, owned)) = log.about() {
        let taught = log.taught_of(&owned.pack, today);
        return Some((Some(id), Pack { taught, ..owned.pack.clone() }));
    }
    let packs = &board.plan.packs;
    let pack = packs.iter().find(|p| p.aboard || p.chosen).or_else(|| packs.first())?;
    Some((None, as_owned(pack)))
}

/// The pack that a form chose: one that is owned, as its trips have taught it, or one of the Board's.
pub(crate) fn chosen(board: &Board, log: &Log, which: Which) -> Option<(Option<i64>, Pack)> {
    match which {
        Which::Owned(id) => {
            let owned = log.pack(id)?;
            let taught = log.taught_of(&owned.pack, jiff::ZonedDateTime::now().date());
            Some((Some(id), Pack { taught, ..owned.pack.clone() }))
        }
        Which::OnBoard(n) => Some((None, as_owned(board.plan.packs.get(n)?))),
    }
}

/// Whose a pack is that was driven with: the owned one of its name and kind, else one of the Board's, else as [`whose`].
pub(crate) fn driven_with(board: &Board, log: &Log, pack: &Pack) -> Option<(Option<i64>, Pack)> {
    let same = |p: &Pack| p.name == pack.name && p.is_built_like(pack);
    let owned = log.owned().filter(|(_, o)| o.retired.is_none() && same(&o.pack));
    let on_board = || board.plan.packs.iter().position(same).map(Which::OnBoard);
    let which = owned.map(|(id, _)| Which::Owned(id)).next_back().or_else(on_board);
    which.and_then(|which| chosen(board, log, which)).or_else(|| whose(board, log))
}

/// Where an owned pack is kept, as warm as it is told or the house has it. [°C]
pub(crate) fn kept_at(owned: &Owned, board: &Board) -> Celsius {
    owned.kept_at.unwrap_or(board.plan.rules.keeping.temperature)
}

pub(crate) fn drain(board: &Board) -> Amps {
    board.plan.rig.standing_drain.unwrap_or(Amps::ZERO)
}

/// An outing with a pack by a plan as it stands, of which nothing is told yet.
pub(crate) fn as_it_stands(plan: &Plan, pack: &Pack, date: jiff::civil::Date) -> Outing {
    Outing {
        date,
        name: "Outing".to_owned(),
        hours: None,
        distance: None,
        start: Charge::Full,
        used: Used::Left(Charge::Full),
        wind: None,
        reading: None,
        note: String::new(),
        of: None,
        recorded: None,
        hot: None,
        counts: true,
        practice: false,
        plan: as_driven_with(plan, pack),
    }
}

/// An entry with the pack that it is about, numbered for one another.
pub(crate) fn both(owned: Owned, mut logged: Logged) -> Log {
    match &mut logged {
        Logged::Outing(o) => o.of = Some(1),
        Logged::Test(t) => t.of = Some(1),
        Logged::Owned(_) => {}
    }
    Log::of(vec![(1, Logged::Owned(Box::new(owned))), (2, logged)])
}

/// A new outing: of a pack that is owned, or one that becomes owned with it.
pub(crate) fn added(sentence: String, outing: Outing, of: Option<i64>, pack: Pack) -> Change {
    let date = outing.date;
    let logged = Logged::Outing(Box::new(outing));
    match of {
        Some(_) => Change::AddLogged(sentence, Box::new(logged)),
        None => Change::AddLog(sentence, both(Owned::of(pack, date), logged)),
    }
}
