//! Where no pack does all that is asked: the nearest that would, each tried.

use super::contest::{Contest, Standing};
use super::get_home::{self, Change};
use crate::plan::Plan;
use crate::wants::{Kind, Level};

/// A must that is given up or eased, by its place among the wants.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Eased {
    /// Which.
    pub want: usize,
    /// The limit that would do, in the want's unit; `None` where it can only be nice to have.
    pub limit: Option<f64>,
}

/// What would let a pack pass.
#[derive(Debug, Clone, PartialEq)]
pub enum Way {
    /// Asking less of it.
    Asking(Vec<Eased>),
    /// Another day, speed or size.
    Change(Change),
}

/// The nearest to what is asked.
#[derive(Debug, Clone, PartialEq)]
pub struct Nearest {
    /// Which pack, by its place in the plan.
    pub pack: usize,
    /// What would let it pass.
    pub way: Way,
}

/// Ways told at most. A choice.
const MOST: usize = 3;

/// What would let a pack of a plan pass, the least first: fewest musts eased and by the smallest share, then changes of the day.
/// Empty where one passes, or nothing of this does. Each way is tried on the whole plan before it is told.
pub fn nearest(contest: &Contest) -> Vec<Nearest> {
    let standings = contest.standings();
    if Contest::first(&standings).is_some() {
        return Vec::new();
    }
    let plan = &contest.plan;
    let mut eased: Vec<(usize, f64, Nearest)> = Vec::new();
    let mut changed = Vec::new();
    for (n, standing) in standings.iter().enumerate() {
        if standing.survey.is_none() || standing.fits == Some(false) {
            continue;
        }
        if let Some((musts, by, way)) =
            asking_less(plan, standing).filter(|(_, _, w)| passes(contest, n, w))
        {
            eased.push((musts, by, Nearest { pack: n, way }));
            continue;
        }
        let ways = get_home::get_home(plan, &plan.packs[n]).into_iter().map(Way::Change);
        if let Some(way) = ways.into_iter().find(|way| passes(contest, n, way)) {
            changed.push(Nearest { pack: n, way });
        }
    }
    eased.sort_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)));
    eased.into_iter().map(|(.., nearest)| nearest).chain(changed).take(MOST).collect()
}

/// The musts that a pack fails, each eased as far as it needs, how many, and by which share at the most.
fn asking_less(plan: &Plan, standing: &Standing) -> Option<(usize, f64, Way)> {
    if standing.fails.is_empty() {
        return None;
    }
    let mut by: f64 = 0.0;
    let eased = standing.fails.iter().map(|n| {
        let want = &plan.wants[*n];
        let limit = standing.answers[*n]
            .value
            .filter(|_| want.kind.limit().is_some() && want.kind != Kind::FullBy);
        let limit = limit.map(|value| told(want.kind, value));
        by = by.max(limit.map_or(1.0, |l| ((l - want.limit) / want.limit.abs().max(1e-6)).abs()));
        Eased { want: *n, limit }
    });
    let eased: Vec<Eased> = eased.collect();
    Some((eased.len(), by, Way::Asking(eased)))
}

/// A limit as it is told, to the side that lets the pack pass.
fn told(kind: Kind, value: f64) -> f64 {
    match kind {
        Kind::HomeWith => (value * 100.0).floor() / 100.0,
        Kind::Long => (value * 10.0).floor() / 10.0,
        Kind::CheapNow | Kind::CheapOverYears => value.ceil(),
        _ => value,
    }
}

/// Whether a pack is in the running and gets home that way.
fn passes(contest: &Contest, n: usize, way: &Way) -> bool {
    let mut other = contest.clone();
    match way {
        Way::Asking(eased) => {
            for one in eased {
                let want = &mut other.plan.wants[one.want];
                match one.limit {
                    Some(limit) => want.limit = limit,
                    None => want.level = Level::Nice,
                }
            }
        }
        Way::Change(change) => {
            let Some(what_if) = change.what_if() else { return false };
            what_if.apply(&mut other.plan);
            if other.run().is_err() {
                return false;
            }
        }
    }
    let standings = other.standings();
    Contest::first(&standings).is_some()
        && standings[n].is_in_the_running()
        && standings[n].arrives() < 3
}
