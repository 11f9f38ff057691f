//! Tipping points: the value of each thing at which another pack comes first.

use super::contest::{Contest, Decided};
use super::get_home::MOST_WIND;
use crate::keyed::keyed;
use crate::numeric::halved;
use crate::plan::WhatIf;
use crate::shelf::Chemistry;
use crate::units::{Celsius, Kilograms, MetresPerSecond, Money};

keyed! {
    /// What may be other than it is taken to be.
    pub enum Driver {
        /// Outings a year.
        Outings,
        /// How long every stretch lasts, as a multiple.
        Hours,
        /// Wind all day. [m/s]
        Wind,
        /// Weight more or less aboard than today. [kg]
        Weight,
        /// The price of a unit of the first pack.
        PriceFirst,
        /// The price of a unit of the second pack.
        PriceSecond,
        /// What the first pack needs besides, where some of it stands at usual prices.
        NeedsFirst,
        /// The same of the second.
        NeedsSecond,
        /// What the first pack holds, as a share of its label's, where nobody measured it.
        HoldsFirst,
        /// The same of the second.
        HoldsSecond,
        /// The price of a kilowatt-hour.
        Energy,
        /// Years looked ahead.
        Horizon,
        /// The air. [°C]
        Temperature,
        /// What stays in lead, as a share.
        LeadFloor,
        /// What stays in LFP, as a share.
        LfpFloor,
        /// What LFP is charged to, as a share.
        LfpCeiling,
        /// How long the first pack lives, as a multiple of what is told.
        LifeFirst,
        /// The same of the second.
        LifeSecond,
        /// Interest a year, as a share.
        Interest,
    }
}

/// Steps looked at from one end of what is within reason to the other. Two changes that lie closer together than one step
/// may be passed over; what is found is a change.
const STEPS: u32 = 24;
/// Halvings of a step: to a hundred-thousandth of it.
const HALVINGS: usize = 17;

/// Where the answer turns.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tip {
    /// The last value found at which the first pack stays first, and the first at which another one does.
    pub between: (f64, f64),
    /// The pack that comes first from there on, by its place in the plan; `None` where none gets home any more.
    pub then: Option<usize>,
    /// By what it comes first there, before the one that does today.
    pub by: Decided,
}

/// What one driver does to the answer.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tipping {
    /// Which.
    pub driver: Driver,
    /// Its value today.
    pub today: f64,
    /// What is within reason.
    pub range: (f64, f64),
    /// The nearest change below today's value.
    pub below: Option<Tip>,
    /// The nearest change above it.
    pub above: Option<Tip>,
}

impl Tipping {
    /// How near the nearest change is: as a share of all that is within reason; `None` where there is none.
    pub fn distance(&self) -> Option<f64> {
        let width = self.range.1 - self.range.0;
        let to = |tip: &Tip| (tip.between.1 - self.today).abs() / width;
        let both = [self.below.as_ref().map(to), self.above.as_ref().map(to)];
        both.into_iter().flatten().reduce(f64::min)
    }
}

impl Driver {
    /// Whether packs have to be judged anew when it changes; money and age are heard without.
    pub const fn is_of_the_day(self) -> bool {
        matches!(
            self,
            Self::Hours
                | Self::Wind
                | Self::Weight
                | Self::Temperature
                | Self::LeadFloor
                | Self::LfpFloor
                | Self::LfpCeiling
                | Self::HoldsFirst
                | Self::HoldsSecond
        )
    }

    /// Its value as the plan has it, and what is within reason; `None` where it means nothing there. `places` are the packs
    /// that come first and second.
    pub fn today(self, contest: &Contest, places: &[usize]) -> Option<(f64, (f64, f64))> {
        let plan = &contest.plan;
        let has = |is: fn(Chemistry) -> bool| plan.packs.iter().any(|p| is(p.battery.chemistry));
        let is_lfp = |c| c == Chemistry::Lfp;
        let price = |place: usize| {
            let price = plan.packs.get(*places.get(place)?)?.battery.price?.value();
            (price > 0.0).then_some((price, (price / 4.0, price * 4.0)))
        };
        let lives = |place: usize| {
            let at = *places.get(place)?;
            plan.packs[at].battery.price?;
            Some((contest.lives[at], (1.0 / 3.0, 3.0)))
        };
        // What is typed is the owner's own; the rest may cost from half to twice as much.
        let needs = |place: usize| {
            let extras = plan.packs.get(*places.get(place)?)?.extras;
            let (now, usual) = (extras.now()?.value(), extras.assumed.value());
            (usual > 0.0).then_some((now, (now - usual / 2.0, now + usual)))
        };
        let holds = |place: usize| {
            let health = plan.packs.get(*places.get(place)?)?.health;
            let now = health.capacity_share;
            (health.doubt >= 1.0).then_some((now, (now * 0.7, (now * 1.2).min(1.2))))
        };
        match self {
            Self::NeedsFirst => needs(0),
            Self::NeedsSecond => needs(1),
            Self::HoldsFirst => holds(0),
            Self::HoldsSecond => holds(1),
            Self::Outings => Some((plan.day.outings_per_year, (1.0, 365.0))),
            Self::Hours => Some((1.0, (0.25, 3.0))),
            Self::Wind => plan
                .day
                .hangs_on_wind()
                .then_some((plan.day.conditions.wind.value(), (0.0, MOST_WIND))),
            Self::Weight => {
                let lightest = -0.5 * plan.rig.craft.mass().value.value();
                plan.day.hangs_on_weight().then_some((0.0, (lightest.max(-100.0), 300.0)))
            }
            Self::PriceFirst => price(0),
            Self::PriceSecond => price(1),
            Self::Energy => {
                let kwh = plan.rules_filled().money.energy_price?.value();
                Some((kwh, (0.0, (kwh * 10.0).max(1.0))))
            }
            Self::Horizon => Some((plan.rules.horizon_years, (1.0, 25.0))),
            Self::Temperature => {
                Some((plan.day.ambient.map_or(25.0, Celsius::value), (-10.0, 45.0)))
            }
            Self::LeadFloor => {
                has(Chemistry::is_lead).then(|| (plan.rules.floor(Chemistry::Agm), (0.0, 0.8)))
            }
            Self::LfpFloor => has(is_lfp).then(|| (plan.rules.floor(Chemistry::Lfp), (0.0, 0.5))),
            Self::LfpCeiling => {
                let floor = plan.rules.floor(Chemistry::Lfp);
                let low = (floor + 0.06).max(0.5);
                has(is_lfp).then(|| (plan.rules.ceiling(Chemistry::Lfp), (low, 1.0)))
            }
            Self::LifeFirst => lives(0),
            Self::LifeSecond => lives(1),
            Self::Interest => Some((plan.rules.money.discount, (0.0, 0.3))),
        }
    }

    /// Sets it; a contest of the day is to be run anew then.
    pub fn set(self, contest: &mut Contest, places: &[usize], value: f64, today: f64) {
        let plan = &mut contest.plan;
        match self {
            Self::NeedsFirst => set_needs(contest, places.first(), value - today),
            Self::NeedsSecond => set_needs(contest, places.get(1), value - today),
            Self::HoldsFirst => set_holds(contest, places.first(), value),
            Self::HoldsSecond => set_holds(contest, places.get(1), value),
            Self::Outings => plan.day.outings_per_year = value,
            Self::Hours => {
                for stretch in &mut plan.day.stretches {
                    // As fast as before, so farther.
                    *stretch = stretch.clone().lengthened(value / today);
                }
            }
            Self::Wind => {
                WhatIf::Wind(MetresPerSecond::of(value)).apply(plan);
            }
            Self::Weight => {
                plan.rig.craft.heavier_by += Kilograms::of(value - today);
                plan.measured_out();
            }
            Self::PriceFirst => set_price(contest, places.first(), value),
            Self::PriceSecond => set_price(contest, places.get(1), value),
            Self::Energy => plan.rules.money.energy_price = Some(Money::of(value)),
            Self::Horizon => plan.rules.horizon_years = value,
            Self::Temperature => {
                let more = value - today;
                plan.day.ambient = Some(Celsius::of(value));
                for hour in &mut plan.day.hourly {
                    hour.air = hour.air.map(|air| Celsius::of(air.value() + more));
                }
            }
            Self::LeadFloor => {
                for chemistry in Chemistry::ALL.into_iter().filter(|c| c.is_lead()) {
                    plan.rules = plan.rules.with_floor(chemistry, value);
                }
            }
            Self::LfpFloor => plan.rules = plan.rules.with_floor(Chemistry::Lfp, value),
            Self::LfpCeiling => plan.rules = plan.rules.with_ceiling(Chemistry::Lfp, value),
            Self::LifeFirst => set_life(contest, places.first(), value),
            Self::LifeSecond => set_life(contest, places.get(1), value),
            Self::Interest => plan.rules.money.discount = value,
        }
    }
}

fn set_price(contest: &mut Contest, place: Option<&usize>, value: f64) {
    if let Some(pack) = place.and_then(|at| contest.plan.packs.get_mut(*at)) {
        pack.battery.price = Some(Money::of(value));
    }
}

fn set_needs(contest: &mut Contest, place: Option<&usize>, more: f64) {
    if let Some(pack) = place.and_then(|at| contest.plan.packs.get_mut(*at)) {
        let other = pack.extras.other.unwrap_or(Money::ZERO);
        pack.extras.other = Some(other + Money::of(more));
    }
}

fn set_holds(contest: &mut Contest, place: Option<&usize>, share: f64) {
    if let Some(pack) = place.and_then(|at| contest.plan.packs.get_mut(*at)) {
        pack.health.capacity_share = share;
    }
}

fn set_life(contest: &mut Contest, place: Option<&usize>, value: f64) {
    if let Some(life) = place.and_then(|at| contest.lives.get_mut(*at)) {
        *life = value;
    }
}

/// The contest with one thing at another value.
///
/// What cannot be worked out at that value, a stretch that no motor drives at, is `None`.
pub fn at(
    contest: &Contest,
    driver: Driver,
    places: &[usize],
    value: f64,
    today: f64,
) -> Option<Contest> {
    let mut other = contest.clone();
    driver.set(&mut other, places, value, today);
    if driver.is_of_the_day() {
        other.run().ok()?;
    }
    Some(other)
}

/// What a driver does to the answer: walked from today's value to both ends of what is within reason, the first change on
/// either side halved down. `None` where the driver means nothing, or no pack is in the running today.
pub fn tipping(contest: &Contest, driver: Driver) -> Option<Tipping> {
    let standings = contest.standings();
    let places = Contest::order(&standings);
    let first = Contest::first(&standings);
    let (today, range) = driver.today(contest, &places)?;
    let best = |value: f64| at(contest, driver, &places, value, today).map(|c| c.best());
    let stays = |value: f64| best(value).is_none_or(|best| best == first);
    let look = |end: f64| -> Option<Tip> {
        let width = range.1 - range.0;
        let steps = (f64::from(STEPS) * ((end - today).abs() / width)).ceil();
        if steps < 1.0 || (end - today) * (end - today) < 1e-18 {
            return None;
        }
        let value = |n: f64| today + (end - today) * n / steps;
        let turned = (1..=steps as u32).map(f64::from).find(|n| !stays(value(*n)))?;
        // The share of the way, so that halving goes from small to large on either side.
        let (kept, turned) = halved((value(turned - 1.0), value(turned)), HALVINGS, stays);
        let other = at(contest, driver, &places, turned, today)?;
        let standings = other.standings();
        let then = Contest::first(&standings);
        let by = match (then, first) {
            (Some(then), Some(first)) => standings[then].compare(&standings[first]).1,
            _ => Decided::Home,
        };
        Some(Tip { between: (kept, turned), then, by })
    };
    let inside = (range.0.min(today), range.1.max(today));
    Some(Tipping { driver, today, range: inside, below: look(inside.0), above: look(inside.1) })
}

/// Who comes first over two drivers: a grid, row by row, each a pack by its place in the plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Map {
    /// Across, and its values at the middles of the columns.
    pub across: (Driver, Vec<f64>),
    /// Down, and its values at the middles of the rows.
    pub down: (Driver, Vec<f64>),
    /// The first pack of each cell; `None` where none gets home or the day cannot be worked out.
    pub first: Vec<Vec<Option<usize>>>,
}

/// The cells first looked at, one in so many either way; those between like neighbours are theirs.
const COARSE: usize = 6;

/// Who comes first over two drivers, `cells` by `cells`.
///
/// Where only one of them is of the day, each of its values is run once. Where both are, cells between corners that agree are
/// taken to agree, so that only the borders are looked at one by one: an island smaller than the sixth part of a side may be
/// missed. `None` where a driver means nothing here, or as soon as `goes_on` says no: a map of many packs takes seconds.
pub fn map(
    contest: &Contest,
    across: Driver,
    down: Driver,
    cells: usize,
    goes_on: &dyn Fn() -> bool,
) -> Option<Map> {
    let places = Contest::order(&contest.standings());
    let (x, y) = (across.today(contest, &places)?, down.today(contest, &places)?);
    let middles = |(low, high): (f64, f64)| -> Vec<f64> {
        (0..cells).map(|n| low + (high - low) * (n as f64 + 0.5) / cells as f64).collect()
    };
    let (xs, ys) = (middles(x.1), middles(y.1));
    let first = match (across.is_of_the_day(), down.is_of_the_day()) {
        (true, true) => both_of_the_day(cells, &|column, row| {
            if !goes_on() {
                return None;
            }
            let mut other = contest.clone();
            across.set(&mut other, &places, xs[column], x.0);
            down.set(&mut other, &places, ys[row], y.0);
            other.run().ok()?;
            other.best()
        }),
        (true, false) => {
            let mut first = vec![vec![None; cells]; cells];
            for (column, value) in xs.iter().enumerate() {
                if !goes_on() {
                    return None;
                }
                let Some(mut other) = at(contest, across, &places, *value, x.0) else { continue };
                for (row, value) in ys.iter().enumerate() {
                    down.set(&mut other, &places, *value, y.0);
                    first[row][column] = other.best();
                }
            }
            first
        }
        (false, _) => {
            let mut first = vec![vec![None; cells]; cells];
            for (row, value) in ys.iter().enumerate() {
                if !goes_on() {
                    return None;
                }
                let Some(mut other) = at(contest, down, &places, *value, y.0) else { continue };
                for (column, value) in xs.iter().enumerate() {
                    across.set(&mut other, &places, *value, x.0);
                    first[row][column] = other.best();
                }
            }
            first
        }
    };
    goes_on().then_some(Map { across: (across, xs), down: (down, ys), first })
}

/// A grid of which only the borders are looked at closely.
fn both_of_the_day(
    cells: usize,
    best: &dyn Fn(usize, usize) -> Option<usize>,
) -> Vec<Vec<Option<usize>>> {
    let mut known: Vec<Vec<Option<Option<usize>>>> = vec![vec![None; cells]; cells];
    let look = |column: usize, row: usize, known: &mut Vec<Vec<Option<Option<usize>>>>| {
        *known[row][column].get_or_insert_with(|| best(column, row))
    };
    let mut marks: Vec<usize> = (0..cells).step_by(COARSE).collect();
    if marks.last() != Some(&(cells - 1)) {
        marks.push(cells - 1);
    }
    let mut todo: Vec<(usize, usize, usize, usize)> = Vec::new();
    for w in marks.windows(2) {
        for h in marks.windows(2) {
            todo.push((w[0], w[1], h[0], h[1]));
        }
    }
    while let Some((left, right, top, bottom)) = todo.pop() {
        let corners = [(left, top), (right, top), (left, bottom), (right, bottom)]
            .map(|(column, row)| look(column, row, &mut known));
        if corners.iter().all(|c| *c == corners[0]) {
            for row in &mut known[top..=bottom] {
                for cell in &mut row[left..=right] {
                    cell.get_or_insert(corners[0]);
                }
            }
        } else if right - left > 1 || bottom - top > 1 {
            let (x, y) = ((left + right) / 2, (top + bottom) / 2);
            let columns =
                if right - left > 1 { vec![(left, x), (x, right)] } else { vec![(left, right)] };
            let rows =
                if bottom - top > 1 { vec![(top, y), (y, bottom)] } else { vec![(top, bottom)] };
            for (l, r) in &columns {
                todo.extend(rows.iter().map(|(t, b)| (*l, *r, *t, *b)));
            }
        }
    }
    let told = |row: Vec<Option<Option<usize>>>| row.into_iter().map(Option::flatten).collect();
    known.into_iter().map(told).collect()
}
