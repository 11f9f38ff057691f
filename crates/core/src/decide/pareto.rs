//! Which packs nothing beats.

use super::contest::Standing;
use crate::wants::{Kind, Want};

/// For each pack the first other one that beats it on everything wanted; `None` where nothing does, or where it is out of
/// the running.
///
/// One beats another that is at least as good in every want that counts, and in getting home, and better in one of them. What
/// nobody knows of a pack is worse than anything known of another.
pub(super) fn beaten(wants: &[Want], all: &[Standing]) -> Vec<Option<usize>> {
    let worths: Vec<Option<Vec<f64>>> = all.iter().map(|s| worth(wants, s)).collect();
    worths
        .iter()
        .map(|mine| {
            let mine = mine.as_ref()?;
            worths.iter().position(|other| other.as_ref().is_some_and(|o| beats(o, mine)))
        })
        .collect()
}

/// How good it is in each want that counts, more being better, the way home first.
fn worth(wants: &[Want], standing: &Standing) -> Option<Vec<f64>> {
    if !standing.is_in_the_running() || !wants.iter().any(Want::counts) {
        return None;
    }
    let home = -f64::from(standing.arrives());
    let answers = std::iter::zip(wants, &standing.answers).filter(|(want, _)| want.counts());
    let worths = answers.map(|(want, answer)| match answer.value {
        // Hours on the charger: fewer are better.
        Some(value) if want.kind.more_is_better() && want.kind != Kind::FullBy => value,
        Some(value) => -value,
        None => f64::NEG_INFINITY,
    });
    Some(std::iter::once(home).chain(worths).collect())
}

/// At least as good in everything, and better in something.
fn beats(one: &[f64], other: &[f64]) -> bool {
    let mut better = false;
    for (a, b) in std::iter::zip(one, other) {
        if a < b {
            return false;
        }
        better |= a > b;
    }
    better
}
