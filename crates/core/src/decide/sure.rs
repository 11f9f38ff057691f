//! How sure the decision is: all packs on the same random days, and what to measure to be surer.
//!
//! A day is a draw of what is not known (see [`crate::verdict::band`]) and of how long batteries live. What belongs to the
//! rig and the weather, the motor's draw and the cold, is the same for all packs of a day; what belongs to a battery is its
//! own, and the same for all packs built of it. So a windy motor is no reason to doubt which pack is best, and two labels
//! are doubted apart. Prices that nobody told, of a battery or of what a pack needs besides, are drawn as its life is.

use super::contest::Contest;
use crate::life::UNSURE_YEARS;
use crate::numeric::halton;
use crate::verdict::band::{CENTRAL, Draws, percentiles};
use crate::verdict::{NoDrawCurve, Outcome, Unknown};

/// Days tried. Enough for a chance good to three in a hundred, few enough for an answer while one waits.
const DAYS: usize = 128;

/// Axes of a day: the unknowns of its run, how long the battery lives, what it costs and what it needs besides.
pub const AXES: usize = Unknown::ALL.len() + 3;
const LIFE: usize = Unknown::ALL.len();
const PRICE: usize = LIFE + 1;
const NEEDS: usize = LIFE + 2;

/// How far a usual price may lie off the one that is paid, as a share. Common practice, no source.
pub const UNSURE_PRICE: f64 = 0.30;

/// How sure one pack is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Chance {
    /// Share of the days that end home with the reserve untouched.
    pub reserve_kept: f64,
    /// Share of the days that are finished.
    pub finished: f64,
    /// Share of the days on which it comes first by what is wanted.
    pub best: f64,
}

/// The chance of each pack over [`DAYS`] days of an evenly spread sequence, always the same ones.
///
/// Each battery after the first goes through the same points in an order of its own, so that batteries are drawn apart
/// while each is spread evenly (padding by shuffled points: A. B. Owen, *Monte Carlo theory, methods and examples*, chapter 17,
/// from memory).
///
/// # Errors
/// [`NoDrawCurve`] as [`Contest::of`].
pub fn chances(contest: &Contest) -> Result<Vec<Option<Chance>>, NoDrawCurve> {
    let orders: Vec<Vec<usize>> = (0..contest.plan.packs.len()).map(shuffled).collect();
    chances_over(contest, DAYS, &|day, battery, axis| halton(orders[battery][day] + 1, axis))
}

/// All days in an order that belongs to a battery; the first has them as they are.
fn shuffled(battery: usize) -> Vec<usize> {
    let mut days: Vec<usize> = (0..DAYS).collect();
    if battery > 0 {
        days.sort_by_key(|day| mixed(((battery as u64) << 32) | *day as u64));
    }
    days
}

/// A number as unlike its neighbours' as can be: the finish of splitmix64 (G. L. Steele, D. Lea, C. H. Flood, OOPSLA 2014).
const fn mixed(number: u64) -> u64 {
    let mut z = number.wrapping_add(0x9e37_79b9_7f4a_7c15);
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^ (z >> 31)
}

/// The same over days of any sample: `draw` gives a value between 0 and 1 for a day, a battery and an axis. Battery 0 is
/// asked for what all share.
///
/// # Errors
/// As [`chances`].
pub fn chances_over(
    contest: &Contest,
    days: usize,
    draw: &dyn Fn(usize, usize, usize) -> f64,
) -> Result<Vec<Option<Chance>>, NoDrawCurve> {
    let (judge, models) = contest.judged()?;
    let packs = &contest.plan.packs;
    let battery: Vec<usize> = packs
        .iter()
        .map(|pack| packs.iter().position(|p| p.battery == pack.battery).unwrap_or(0))
        .collect();
    let tried: Vec<Option<Vec<_>>> = (models.iter().enumerate())
        .map(|(n, model)| {
            let draws = (0..days).map(|day| draws(day, battery[n], draw));
            Some(judge.tried(&packs[n], model.as_ref()?, draws))
        })
        .collect();
    let mut first = vec![0_usize; packs.len()];
    let mut other = contest.clone();
    for day in 0..days {
        for (n, tried) in tried.iter().enumerate() {
            let Some(tried) = tried else { continue };
            let (outcome, summary) = &tried[day];
            other.went(n, *outcome, summary);
            let either_way = |axis| 2.0 * draw(day, battery[n], axis) - 1.0;
            other.lives[n] = contest.lives[n] * (1.0 + UNSURE_YEARS * either_way(LIFE));
            other.paid(
                n,
                &packs[n],
                UNSURE_PRICE * either_way(PRICE),
                UNSURE_PRICE * either_way(NEEDS),
            );
        }
        if let Some(best) = other.best() {
            first[best] += 1;
        }
    }
    let share = |count: usize| count as f64 / days as f64;
    let undone = contest.not_all_done();
    let chances = std::iter::zip(tried, first).zip(undone).map(|((tried, first), undone)| {
        let tried = tried?;
        if undone {
            return Some(Chance { reserve_kept: 0.0, finished: 0.0, best: share(first) });
        }
        let of = |is: fn(Outcome) -> bool| share(tried.iter().filter(|(o, _)| is(*o)).count());
        Some(Chance {
            reserve_kept: of(|o| o == Outcome::Home),
            finished: of(|o| !matches!(o, Outcome::Stops | Outcome::Trips)),
            best: share(first),
        })
    });
    Ok(chances.collect())
}

fn draws(day: usize, battery: usize, draw: &dyn Fn(usize, usize, usize) -> f64) -> Draws {
    std::array::from_fn(|axis| {
        let shared = matches!(Unknown::ALL[axis], Unknown::Draw | Unknown::Cold);
        draw(day, if shared { 0 } else { battery }, axis)
    })
}

/// What measuring one unknown would do to the width of a pack's band at the end of the day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Measuring {
    /// What to measure.
    pub what: Unknown,
    /// Width of the band today, as a share of the charge.
    pub width: f64,
    /// What would be left of it, as a share of the charge.
    pub left: f64,
}

/// What to measure of a pack, that which narrows the band most first; nothing that narrows it by less than a tenth.
///
/// # Errors
/// As [`chances`].
pub fn to_measure(contest: &Contest, pack: usize) -> Result<Vec<Measuring>, NoDrawCurve> {
    let (judge, models) = contest.judged()?;
    let Some(model) = &models[pack] else { return Ok(Vec::new()) };
    let width = |known: Option<Unknown>| {
        let draws = (0..DAYS).map(|day| {
            let mut draws: Draws = std::array::from_fn(|axis| halton(day + 1, axis));
            if let Some(known) = known {
                draws[known as usize] = CENTRAL[known as usize];
            }
            draws
        });
        let tried = judge.tried(&contest.plan.packs[pack], model, draws);
        let mut left: Vec<f64> = tried.iter().map(|(_, s)| s.charge_left).collect();
        let (low, high) = percentiles(&mut left);
        high - low
    };
    let whole = width(None);
    let mut all: Vec<Measuring> = Unknown::ALL
        .into_iter()
        .map(|what| Measuring { what, width: whole, left: width(Some(what)) })
        .filter(|m| m.left < 0.9 * m.width)
        .collect();
    all.sort_by(|a, b| a.left.total_cmp(&b.left));
    Ok(all)
}
