//! What a decision rests on that nobody told, and which of it to settle first.

use super::contest::Contest;
use super::sure::UNSURE_PRICE;
use crate::day::Duty;
use crate::keyed::keyed;
use crate::life::UNSURE_YEARS;
use crate::source::Origin;
use crate::units::Money;

keyed! {
    /// What nobody told.
    pub enum Assumed {
        /// What the motor draws.
        Draw,
        /// Over which time the label's ampere-hours are rated.
        RatedHours,
        /// What a unit costs.
        Price,
        /// What it needs besides, at usual prices.
        Needs,
        /// How long it lives.
        Life,
    }
}

/// A figure that nobody told and on which the decision rests.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Settle {
    /// Whose it is, by its place in the plan.
    pub pack: usize,
    /// Which.
    pub what: Assumed,
    /// By how much it moves the money of all the years, either way; `None` of what moves the day.
    pub moves: Option<Money>,
}

/// What nobody told of the pack that comes first and of the one behind it, what to settle first in front: what moves the day
/// before what moves the money, and of that what moves the most. Empty where every figure was told, or none is first.
///
/// Either way: [`UNSURE_PRICE`] of a usual price, the spread of years that owners report of a life.
pub fn settle(contest: &Contest) -> Vec<Settle> {
    let standings = contest.standings();
    let order = Contest::order(&standings);
    let Some(first) = Contest::first(&standings) else { return Vec::new() };
    let second = order.iter().copied().find(|n| *n != first);
    let plan = &contest.plan;
    let mut all = Vec::new();
    let by_motor =
        plan.day.stretches.iter().any(|s| !matches!(s.duty, Duty::Off | Duty::Current(_)));
    if by_motor && plan.rig.motor.draw_origin() == Origin::Typical && plan.rig.craft.kind.is_boat()
    {
        all.push(Settle { pack: first, what: Assumed::Draw, moves: None });
    }
    for n in std::iter::once(first).chain(second) {
        let (pack, Some(survey)) = (&plan.packs[n], &standings[n].survey) else { continue };
        if pack.battery.hours_assumed {
            all.push(Settle { pack: n, what: Assumed::RatedHours, moves: None });
        }
        let total = |contest: &Contest| -> Option<Money> {
            let survey = contest.standings().swap_remove(n).survey?;
            survey.cost.map(|cost| cost.account.total)
        };
        let mut try_it = |what, change: &dyn Fn(&mut Contest, f64)| {
            let at = |way: f64| {
                let mut other = contest.clone();
                change(&mut other, way);
                total(&other)
            };
            let (Some(low), Some(high)) = (at(-1.0), at(1.0)) else { return };
            let half = (high - low).value().abs() / 2.0;
            if half > 0.0 {
                all.push(Settle { pack: n, what, moves: Some(Money::of(half)) });
            }
        };
        try_it(Assumed::Price, &|other, way| other.paid(n, pack, UNSURE_PRICE * way, 0.0));
        try_it(Assumed::Needs, &|other, way| other.paid(n, pack, 0.0, UNSURE_PRICE * way));
        let life = &survey.life;
        if [life.cycles.origin, life.calendar_years.origin].contains(&Origin::Typical) {
            try_it(Assumed::Life, &|other, way| {
                other.lives[n] = contest.lives[n] * (1.0 + UNSURE_YEARS * way);
            });
        }
    }
    all.sort_by(|a, b| {
        let key = |s: &Settle| s.moves.map_or(f64::INFINITY, Money::value);
        key(b).total_cmp(&key(a))
    });
    all
}
