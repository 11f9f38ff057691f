//! What is due when.

use crate::log::{Charge, Chore, Did, Log};
use jiff::ToSpan;
use jiff::civil::Date;

/// Something that is due.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Due {
    /// What.
    pub chore: Chore,
    /// When.
    pub on: Date,
    /// Days to the next time.
    pub every: i32,
    /// When it was done last; counted from the purchase where never.
    pub last: Option<Date>,
}

/// When everything of an owned pack is due next, the soonest first; nothing of one that is retired, or not in the log.
pub fn due(log: &Log, pack: i64) -> Vec<Due> {
    let Some(owned) = log.pack(pack).filter(|o| o.retired.is_none()) else { return Vec::new() };
    let chemistry = owned.pack.battery.chemistry;
    let latest = |of: &dyn Fn(&Did) -> bool| {
        log.tests()
            .filter(|(_, t)| t.of == Some(pack) && t.unit.is_none() && of(&t.did))
            .map(|(_, t)| t.date)
            .max()
    };
    let used = log.outings().filter(|(_, o)| o.of == Some(pack)).map(|(_, o)| o.date).max();
    let mut all: Vec<Due> = Chore::ALL
        .into_iter()
        .filter_map(|chore| {
            let every = chore.every(chemistry)?;
            let cared = latest(&|did| matches!(did, Did::Care(c, None) if *c == chore));
            let done = match chore {
                Chore::Balance => cared.max(latest(&|d| matches!(d, Did::Charged(Charge::Full)))),
                // Use and charging are as good.
                Chore::TopUp => cared.max(used).max(latest(&|d| matches!(d, Did::Charged(_)))),
                Chore::Test => cared.max(latest(&|d| matches!(d, Did::Capacity(_)))),
                Chore::Water | Chore::Equalize | Chore::Clean => cared,
            };
            let after = |date: Date| date.checked_add(i64::from(every).days()).unwrap_or(date);
            let on = after(done.unwrap_or(owned.bought));
            // Put off to a day, once.
            let put_off = log
                .tests()
                .filter(|(_, t)| t.of == Some(pack) && done.is_none_or(|d| t.date >= d))
                .filter_map(|(_, t)| match t.did {
                    Did::Care(c, Some(to)) if c == chore => Some(to),
                    _ => None,
                })
                .max();
            let on = put_off.map_or(on, |to| on.max(to));
            Some(Due { chore, on, every, last: done })
        })
        .collect();
    all.sort_by(|a, b| a.on.cmp(&b.on).then(a.chore.cmp(&b.chore)));
    all
}
