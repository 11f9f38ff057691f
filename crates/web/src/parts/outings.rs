//! Outings that are begun with: whose pack, by which plan.

use crate::forms::log::as_owned;
use lake_hour_core::log::{Charge, Log, Logged, Outing, Owned, Used, as_driven_with};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
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
