//! When to replace what is aboard: the month in which it no longer does the planned day on a bad day.

use crate::numeric::halved;
use crate::pack::{Health, Pack};
use crate::plan::Plan;
use crate::verdict::Judge;

/// When a pack no longer does its day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Replace {
    /// Share of the label's capacity below which it does not, 0 to 1.2; what it has now where it does not today.
    pub below: f64,
    /// Years from now, by its life at this use: on its short side, likely, on its long side; 0 where it does not today.
    pub within: [f64; 3],
}

/// A bad day is worse than nine in ten.
const BAD: f64 = 0.9;
/// Halvings of what it may have: to a ten-thousandth of it.
const HALVINGS: usize = 13;
/// Less than this nobody drives with.
const LEAST: f64 = 0.05;
/// Farther ahead than this nobody plans. [years]
pub const FARTHEST: f64 = 25.0;

/// When a pack of a plan no longer does the planned day on a bad day. It loses capacity as labels count it, a fifth in its life at this
/// use, on a straight line. `None` where it cannot be used, or where even new it would not.
pub fn replace(plan: &Plan, pack: &Pack) -> Option<Replace> {
    let judge = plan.judge().ok()?;
    let drawn = judge.in_full(pack).drawn?;
    let has = pack.health.capacity_share;
    // New it would have no unit that strays.
    let new = Pack { weak_unit: None, ..pack.clone() };
    if !does(&judge, &new, has.max(1.0)) {
        return None;
    }
    let per_year = plan.day.outings_per_year;
    let (short, long) = drawn.life.lasts_between(per_year);
    let lasts = [short, drawn.life.lasts(per_year), long];
    if !does(&judge, pack, has) {
        return Some(Replace { below: has, within: [0.0; 3] });
    }
    let below = if does(&judge, pack, LEAST) {
        LEAST
    } else {
        // From the least, with which it does not, to what it has, with which it does.
        halved((LEAST, has), HALVINGS, |share| !does(&judge, pack, share)).1
    };
    let within = lasts.map(|lasts| ((has - below) / 0.2 * lasts).min(FARTHEST));
    Some(Replace { below, within })
}

/// Whether a pack with so much of its capacity does the day on nine days in ten.
fn does(judge: &Judge, pack: &Pack, share: f64) -> bool {
    let doubt = pack.health.doubt;
    let worn = Pack { health: Health { doubt, ..Health::at(share) }, ..pack.clone() };
    let told = judge.in_full(&worn);
    told.covers_the_distance() && told.drawn.is_some_and(|drawn| drawn.band.days_finished >= BAD)
}
