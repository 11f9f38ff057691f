//! One pack's money from today to the end of the years looked ahead.

use super::finance::{annuity, geometric};
use super::terms::Terms;
use crate::pack::Pack;
use crate::shelf::Battery;
use crate::units::{Money, WattHours};

/// How a pack is used, as far as money goes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Use {
    /// Outings a year.
    pub per_year: f64,
    /// Years until a set is worn, by cycles or calendar, however far anyone looks ahead.
    pub lasts: f64,
    /// The same of the first set: less where it has been used before, 0 where it is worn.
    pub first: f64,
    /// Energy from the wall for an outing. [Wh]
    pub wall: WattHours,
    /// Years looked ahead.
    pub horizon: f64,
}

/// Money of one pack over the years looked ahead.
///
/// `total = bought + again x Σ q^(first + k x lasts) + running x Σ (1 + r)^-t - left`, with `q = (1 + trend) / (1 + r)`, one term for
/// each set that is bought after the first, k from 0, and a term at the end of every year. Sums later than today are in today's
/// worth; without interest and trend they are as they are paid. `left` is what the last set's unused years are worth, by
/// their share of its price: all of it for one bought on the way, so that nothing hangs on where the years end, and what
/// the terms count of it for a first one that outlasts them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Account {
    /// The use it is of.
    pub used: Use,
    /// Paid now: batteries, extras, labour, less what the pack aboard brings.
    pub bought: Money,
    /// Of it the batteries.
    pub batteries: Money,
    /// A set bought again, at today's prices: batteries, labour, and what it costs to be rid of the old one.
    pub again: Money,
    /// How many sets are bought after the first.
    pub sets: u32,
    /// What those come to.
    pub replaced: Money,
    /// Energy in a year.
    pub energy: Money,
    /// Water and own time in a year.
    pub upkeep: Money,
    /// Units that fail before their time, less what their warranty pays, in a year.
    pub failures: Money,
    /// What the warranty pays in a year, on average over a set's life: part of no sum.
    pub warranty: Money,
    /// What an unfinished set is worth at the end.
    pub left: Money,
    /// All of it together.
    pub total: Money,
    rate: f64,
    /// Growth of a set's price in today's worth, a year.
    growth: f64,
}

impl Account {
    /// The money of a pack used so; `None` without a price, a use or a life.
    pub fn of(pack: &Pack, terms: &Terms, used: Use) -> Option<Self> {
        let Use { per_year, lasts, first, wall, horizon } = used;
        if !(per_year > 0.0 && lasts > 0.0 && first >= 0.0 && horizon > 0.0) {
            return None;
        }
        let batteries = pack.price_of_batteries()?;
        let bought = terms.paid_now(pack)?;
        let extras = &pack.extras;
        let each_time = extras.labour.unwrap_or(Money::ZERO);
        let again = batteries + each_time + extras.disposal.unwrap_or(Money::ZERO);
        // A set that is worn on the last day is not bought again.
        let sets = ((horizon - first) / lasts - 1e-9).ceil().max(0.0);
        let growth = (1.0 + terms.trend(&pack.battery)) / (1.0 + terms.discount);
        let replaced = again * (growth.powf(first - lasts) * geometric(growth.powf(lasts), sets));
        let unused = sets + (first - horizon) / lasts;
        // Of a later set only the years count in which it is used; the first is paid for today, whatever comes.
        let counted = if sets > 0.0 { 1.0 } else { terms.resale };
        let left = batteries * (unused.max(0.0) * counted * growth.powf(horizon));
        let lived = lasts.min(horizon);
        let (bare, covered) = early_failures(&pack.battery, lived);
        let of_units = batteries * (terms.failing / lived);
        let energy =
            terms.energy_price.map_or(Money::ZERO, |kwh| kwh * (wall.value() / 1000.0) * per_year);
        let (upkeep, failures) = (terms.upkeep_of(&pack.battery), of_units * bare);
        let running = energy + upkeep + failures;
        let total = bought + replaced + running * annuity(terms.discount, horizon) - left;
        let warranty = of_units * covered;
        let (sets, rate) = (sets as u32, terms.discount);
        Some(Self {
            used,
            bought,
            batteries,
            again,
            sets,
            replaced,
            energy,
            upkeep,
            failures,
            warranty,
            left,
            total,
            rate,
            growth,
        })
    }

    /// What has been spent until some years from now, in today's worth; what is left at the end is not taken off.
    pub fn spent(&self, years: f64) -> Money {
        let Use { first, lasts, .. } = self.used;
        let bought_again = ((years - first) / lasts + 1.0 + 1e-9).floor();
        let bought_again = bought_again.clamp(0.0, f64::from(self.sets));
        let sets = geometric(self.growth.powf(lasts), bought_again);
        self.bought
            + self.again * (self.growth.powf(first - lasts) * sets)
            + self.running() * annuity(self.rate, years)
    }

    /// What a set costs some years from now, as a share of what it costs today.
    pub fn price_share(&self, years: f64) -> f64 {
        self.growth.powf(years)
    }

    /// What runs in a year.
    pub fn running(&self) -> Money {
        self.energy + self.upkeep + self.failures
    }

    /// Running costs of all the years, in today's worth.
    pub fn all_running(&self) -> Money {
        self.running() * annuity(self.rate, self.used.horizon)
    }

    /// Outings of all the years, each in today's worth: what the total is spread over.
    pub fn outings(&self) -> f64 {
        self.used.per_year * annuity(self.rate, self.used.horizon)
    }

    /// What an outing costs.
    pub fn per_outing(&self) -> Money {
        self.total / self.outings()
    }

    /// When sets are bought again [years], the first so many of them.
    pub fn replacements(&self, most: u32) -> impl Iterator<Item = f64> {
        let Use { first, lasts, .. } = self.used;
        (0..self.sets.min(most)).map(move |k| first + f64::from(k) * lasts)
    }
}

/// Years of a life of so many in which a failed unit is not paid for by its warranty, and in which it is.
///
/// Full years pay all; prorated ones the share of the whole term that is left. Common practice, no source.
fn early_failures(battery: &Battery, lived: f64) -> (f64, f64) {
    let full = battery.warranty_full.unwrap_or(0.0);
    let whole = battery.warranty_total.map_or(full, |t| t.max(full));
    let (a, b) = (full.min(lived), whole.min(lived));
    // In the prorated years the share a / whole is not paid: its integral.
    let prorated = if whole > 0.0 { (b * b - a * a) / (2.0 * whole) } else { 0.0 };
    let bare = prorated + (lived - b);
    (bare, lived - bare)
}

/// The first time from which one pack stays dearer than another until the end [years]; `None` where it is dearer from the
/// start, never, or not at the end.
///
/// Looked for at the steps of both and between them, where what is spent runs by the year.
pub fn crossing(dearer: &Account, than: &Account) -> Option<f64> {
    /// Steps looked at: more are not told apart in a picture.
    const STEPS: u32 = 200;
    let end = dearer.used.horizon.min(than.used.horizon);
    let gap = |t: f64| (dearer.spent(t) - than.spent(t)).value();
    if gap(0.0) >= 0.0 || gap(end) <= 0.0 {
        return None;
    }
    let mut times: Vec<f64> =
        dearer.replacements(STEPS).chain(than.replacements(STEPS)).filter(|t| *t < end).collect();
    times.extend((1..).map(f64::from).take_while(|year| *year < end));
    times.push(end);
    times.sort_by(f64::total_cmp);
    // From the end back to the last moment at which it was not dearer.
    let last = times.iter().rposition(|t| gap(*t) <= 0.0);
    let from = last.map_or(0.0, |n| times[n]);
    let to = times[last.map_or(0, |n| n + 1)];
    // Just before the next step it may have been passed by what runs.
    let before = to - 1e-7;
    if gap(before) <= 0.0 {
        return Some(to);
    }
    Some(crate::numeric::halved((from, before), 40, |t| gap(t) <= 0.0).1)
}
