//! The year so far, and what a lake hour or a mile cost: so far, used on like that, and by the plan.

use super::today;
use crate::figures;
use crate::frame::weighed::OnBoard;
use lake_hour_core::allowed;
use lake_hour_core::decide::Contest;
use lake_hour_core::decide::tipping::{Driver, Tip, tipping};
use lake_hour_core::life::Life;
use lake_hour_core::log::{Log, Owned, Season, Spent};
use lake_hour_core::money::Cost;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_core::units::{Metres, Money};
use lake_hour_store::Board;

/// The season as it is told.
#[derive(Debug, Clone, Default)]
pub(super) struct SeasonView {
    pub(super) sums: Vec<(&'static str, String)>,
    /// What it cost so far, used on so, by the plan.
    pub(super) money: Vec<String>,
    /// What comes first on the Board at that use, and where that turns.
    pub(super) turns: Option<String>,
    /// Outings a year to plan with, where the plan has another figure.
    pub(super) offered: Option<String>,
}

/// What is counted by: an hour of a boat, a mile or kilometre of a cart.
struct Each {
    boat: bool,
    metres: f64,
    words: String,
}

impl Each {
    fn of(plan: &Plan, say: Say<'_>) -> Self {
        let boat = plan.rig.craft.kind.is_boat();
        let unit = say.units.unit(Measure::Distance);
        let name = if unit.name == "km" { "a km" } else { "a mile" };
        let words = if boat { "a lake hour" } else { name };
        Self { boat, metres: unit.factor, words: words.to_owned() }
    }

    fn so_far(&self, spent: &Spent) -> Option<Money> {
        if self.boat { spent.per_hour() } else { Some(spent.per_metre()? * self.metres) }
    }

    /// `far` is how far an outing goes, where that is known.
    fn of_cost(&self, cost: &Cost, far: Option<Metres>) -> Option<Money> {
        if self.boat {
            cost.per_lake_hour
        } else {
            far.filter(|far| far.value() > 0.0)
                .map(|far| cost.per_cycle * (self.metres / far.value()))
        }
    }
}

impl SeasonView {
    /// `life` is what the pack lives, used on as so far.
    pub(super) fn of(board: &Board, log: &Log, life: Option<&Life>, say: Say<'_>) -> Option<Self> {
        let (id, owned) = log.about()?;
        let year = jiff::civil::date(today().year(), 1, 1);
        let season = log.season(id, year, today());
        let since = log.season(id, owned.bought, today());
        if since.outings == 0 {
            return None;
        }
        let planned = board.plan.day.outings_per_year;
        Some(Self {
            sums: sums(&season, say),
            money: money(board, log, (id, owned, life), say),
            turns: turns(board, log, id),
            offered: in_a_year(log, id).filter(|n| (n - planned).abs() >= 0.5).map(figures::amount),
        })
    }
}

/// Outings a year so far, as they can be planned with; `None` for more than any day can be.
pub(super) fn in_a_year(log: &Log, id: i64) -> Option<f64> {
    let pace = log.per_year(id, today());
    let said = if pace < 1.0 { (pace * 10.0).round() / 10.0 } else { pace.round() };
    (said > 0.0 && allowed::OUTINGS.check(said).is_ok()).then_some(said)
}

fn sums(season: &Season, say: Say<'_>) -> Vec<(&'static str, String)> {
    let mut sums = vec![
        ("outings", season.outings.to_string()),
        ("hours", format!("{:.0}", season.hours.value())),
        ("energy", figures::energy(season.energy.value())),
    ];
    if season.distance.value() > 0.0 {
        sums.push(("distance", figures::far(season.distance, say.units)));
    }
    sums
}

fn money(
    board: &Board,
    log: &Log,
    (id, owned, life): (i64, &Owned, Option<&Life>),
    say: Say<'_>,
) -> Vec<String> {
    let plan = board.plan.with_parts_counted();
    let (rules, each) = (plan.rules_filled(), Each::of(&plan, say));
    let mut said = Vec::new();
    let Some(spent) = log.spent(id, &rules, today()) else {
        return vec!["Type what was paid for the pack to see what an hour costs".to_owned()];
    };
    if let Some(so_far) = each.so_far(&spent) {
        said.push(format!(
            "{} {} so far: {} paid and {} of electricity; every outing makes it less",
            say.money(so_far),
            each.words,
            say.money(spent.paid),
            say.money(spent.energy),
        ));
    }
    let season = spent.season;
    let cost = life.and_then(|life| log.cost_as_used(id, &rules, life, today()));
    let as_used = cost.and_then(|cost| each.of_cost(&cost, season.each_goes()));
    let pack = plan.built_like(&owned.pack).unwrap_or(&owned.pack);
    // As it was bought: aboard it is paid for.
    let bought = Pack { aboard: false, ..pack.clone() };
    let by_plan = plan.judge().ok().and_then(|judge| judge.in_full(&bought).drawn?.cost);
    let course = lake_hour_core::verdict::course(&plan.rig_as_measured(), &plan.day);
    let days = f64::from(plan.day.days_without_charging);
    let by_plan = by_plan.and_then(|cost| each.of_cost(&cost, Some(course.distance() * days)));
    let of = |outings: f64, hours: f64| {
        format!("{} outings a year of {}", figures::amount(outings.round()), figures::hours(hours))
    };
    if let Some(as_used) = as_used {
        let hours = season.hours.value() / f64::from(season.outings.max(1));
        said.push(format!(
            "{} over its life, used on as so far ({})",
            say.money(as_used),
            of(log.per_year(id, today()), hours)
        ));
    }
    if let Some(by_plan) = by_plan {
        said.push(format!(
            "{} by the plan ({})",
            say.money(by_plan),
            of(plan.day.outings_per_year, plan.day.lasts().value())
        ));
    }
    said
}

/// What comes first on the Board at the use that was logged, and at how many outings that turns.
fn turns(board: &Board, log: &Log, id: i64) -> Option<String> {
    let plan = log.as_used(id, &board.plan, today())?;
    let planned = OnBoard::shown(&board.plan, board).plan;
    let used = OnBoard::shown(&plan, board).plan;
    if used.packs.len() < 2 {
        return None;
    }
    let contest = Contest::of(&used).ok()?;
    let name = |n: Option<usize>| n.map(|n| used.packs[n].name.as_str());
    let (first, before) = (contest.best(), Contest::of(&planned).ok()?.best());
    let first_words = match (name(first), name(before)) {
        (None, None) => return None,
        (None, Some(_)) => "used like this no pack on the Board does its day".to_owned(),
        (Some(first), before) if before == Some(first) => {
            format!("used like this {first} comes first on the Board, as by the plan")
        }
        (Some(first), Some(before)) => {
            format!("used like this {first} comes first on the Board, not {before}")
        }
        (Some(first), None) => format!("used like this {first} comes first on the Board"),
    };
    let tips = tipping(&contest, Driver::Outings)?;
    let tip = |tip: &Option<Tip>, words: &str| {
        let tip = tip.as_ref()?;
        let then = name(tip.then).unwrap_or("none");
        Some(format!(
            "{words} {} outings a year {then} does",
            figures::amount(tip.between.1.round())
        ))
    };
    let tips: Vec<String> =
        [tip(&tips.below, "under"), tip(&tips.above, "over")].into_iter().flatten().collect();
    Some(match tips.as_slice() {
        [] => format!("{first_words}, however often you go"),
        tips => format!("{first_words}; {}", tips.join(", ")),
    })
}
