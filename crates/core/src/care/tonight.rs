//! Charge now or not, to how much, by when, and why.

use crate::drawdown::temperature::charge_window;
use crate::house::HouseRules;
use crate::life::ageing::calendar_factor;
use crate::life::{Keeping, Stored};
use crate::log::{BALANCE_DAYS, LeftNow, Next, Owned};
use crate::refill::{Charge, ChargeTime};
use crate::units::{Amps, Celsius, Hours};
use jiff::civil::Date;

/// What a planned day takes, as shares of the capacity.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DayUse {
    /// On a likely day.
    pub likely: f64,
    /// On a bad one.
    pub high: f64,
    /// Days in a row without charging.
    pub days: u32,
}

/// What stands around the question.
#[derive(Debug, Clone, Copy)]
pub struct Evening<'a> {
    /// The pack.
    pub owned: &'a Owned,
    /// The day.
    pub today: Date,
    /// Its charge; `None` where none was ever known.
    pub left: Option<LeftNow>,
    /// The house rules.
    pub rules: &'a HouseRules,
    /// What the planned day takes of it; `None` where that cannot be told.
    pub uses: Option<DayUse>,
    /// What charges it; `None` where nothing does.
    pub charge: Option<Charge>,
    /// How warm it is where it is kept. [°C]
    pub kept_at: Celsius,
    /// What drains it while it stands. [A]
    pub drain: Amps,
    /// When it was last full.
    pub last_full: Option<Date>,
}

/// What to do.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Act {
    /// Nobody knows its charge: read it.
    Read,
    /// Leave it as it is.
    Leave,
    /// Charge it at once.
    ChargeNow {
        /// To this charge, 0 to 1.
        to: f64,
        /// That takes so long; `None` where nothing charges it. [h]
        takes: Option<Hours>,
    },
    /// Charge it so that it is ready when it leaves.
    ChargeBy {
        /// To this charge, 0 to 1.
        to: f64,
        /// That takes so long. [h]
        takes: Option<Hours>,
        /// Plug in by then; earlier is no harm but for lithium kept full.
        by: Option<Next>,
        /// Whether it can still be ready.
        in_time: bool,
    },
    /// Nothing is planned: it rests best at this charge, 0 to 1.
    RestAt(f64),
}

/// Why.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reason {
    /// Nothing is known.
    Unknown,
    /// Lead is charged after every outing, at once.
    Lead,
    /// It is full.
    Full,
    /// It has what the next outing takes, reserve and all.
    Enough,
    /// It has not what the next outing takes.
    Needed,
    /// More than one day in a row is planned: it begins full.
    DaysInARow,
    /// The rule of the house: full after every outing.
    HouseRule,
    /// Its cells are balanced at full now and then.
    Balance,
    /// Near empty lithium must not stand.
    NearEmpty,
    /// Nothing is planned, and full and warm it ages.
    Rests,
    /// Nothing is planned, and it rests well as it is.
    RestsWell,
}

/// The line for one pack.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tonight {
    /// What to do.
    pub act: Act,
    /// Why.
    pub why: Reason,
    /// Charge that the next outing asks for, 0 to 1, reserve and all.
    pub needs: Option<f64>,
    /// It is too cold where it stands to be charged: bring it above this first. [°C]
    pub too_cold: Option<Celsius>,
    /// Years more that it lasts where it rests at half and not full; of lithium.
    pub half_gives: Option<f64>,
}

/// Lead counts as full above this.
const FULL: f64 = 0.97;
/// Lithium below this is charged before it stands. Common practice, no source.
const NEAR_EMPTY: f64 = 0.20;
/// Charge at which lithium rests: storage between 30 and 60 %. Common practice, no source.
pub(super) const RESTS_AT: f64 = 0.5;
/// Above this it is said to rest too full.
const TOO_FULL: f64 = 0.85;
/// What is left as room before it leaves. [h]
const EARLY: Hours = Hours::of(0.5);

/// What to do with a pack tonight.
pub fn tonight(e: &Evening<'_>) -> Tonight {
    let battery = &e.owned.pack.battery;
    let window = charge_window(battery);
    let line = |act, why| Tonight {
        act,
        why,
        needs: needs(e),
        too_cold: match act {
            Act::ChargeNow { .. } | Act::ChargeBy { .. } if !window.allows(e.kept_at) => {
                let low = Celsius::of(battery.chemistry.facts().charge_window.0);
                (e.kept_at < low).then_some(low)
            }
            _ => None,
        },
        half_gives: half_gives(e),
    };
    let Some(left) = e.left else { return line(Act::Read, Reason::Unknown) };
    let takes = |to: f64| e.charge.and_then(|c| c.hours(left.charge, to)).map(ChargeTime::total);
    if battery.chemistry.is_lead() {
        return match left.charge {
            charge if charge >= FULL => line(Act::Leave, Reason::Full),
            _ => line(Act::ChargeNow { to: 1.0, takes: takes(1.0) }, Reason::Lead),
        };
    }
    let top = e.rules.ceiling(battery.chemistry);
    if always_full(e.rules) && left.charge < top - 0.03 {
        return line(Act::ChargeNow { to: top, takes: takes(top) }, Reason::HouseRule);
    }
    if let (Some(next), Some(needs)) = (e.owned.next.filter(|n| n.date >= e.today), needs(e)) {
        let then = until(e, left.charge, next.date);
        let days = e.uses.map_or(1, |u| u.days);
        if days > 1 && then < FULL {
            return line(ready(e, left.charge, 1.0, next), Reason::DaysInARow);
        }
        if needs > then {
            // To the next twentieth above it, and no further than asked.
            let to = ((needs * 20.0).ceil() / 20.0).min(1.0);
            return line(ready(e, left.charge, to, next), Reason::Needed);
        }
        if balance_is_due(e) && left.charge < FULL {
            return line(ready(e, left.charge, 1.0, next), Reason::Balance);
        }
        return line(Act::Leave, Reason::Enough);
    }
    match left.charge {
        charge if charge < NEAR_EMPTY => {
            line(Act::ChargeNow { to: RESTS_AT, takes: takes(RESTS_AT) }, Reason::NearEmpty)
        }
        charge if charge > TOO_FULL => line(Act::RestAt(RESTS_AT), Reason::Rests),
        _ => line(Act::Leave, Reason::RestsWell),
    }
}

/// The school of the house: lithium rests full, or is charged to suit the next outing.
fn always_full(rules: &HouseRules) -> bool {
    rules.keeping.resting_charge > 0.95
}

/// Charge that the next outing asks for: what a bad day takes of it on top of floor and reserve.
fn needs(e: &Evening<'_>) -> Option<f64> {
    let uses = e.uses?;
    Some(e.rules.reserve_level(e.owned.pack.battery.chemistry) + uses.high)
}

/// What is left of a charge until a day.
fn until(e: &Evening<'_>, charge: f64, date: Date) -> f64 {
    let months = (crate::log::years(date) - crate::log::years(e.today)) * 12.0;
    match e.owned.stored(charge, months.max(0.0), e.kept_at, e.drain) {
        Stored::Left(charge) => charge,
        Stored::Flat | Stored::Ruined => 0.0,
    }
}

/// Charged so that it is ready when it leaves.
fn ready(e: &Evening<'_>, from: f64, to: f64, next: Next) -> Act {
    let takes = e.charge.and_then(|c| c.hours(from, to)).map(ChargeTime::total);
    let by = takes.map(|takes| {
        let minutes = ((takes + EARLY).minutes() / 5.0).ceil() as i64 * 5;
        let at = i64::from(next.minute) - minutes;
        let (days, minute) = (at.div_euclid(1440), at.rem_euclid(1440));
        let date = next.date.checked_add(jiff::Span::new().days(days)).unwrap_or(next.date);
        Next { date, minute: u16::try_from(minute).unwrap_or(0) }
    });
    let in_time = by.is_some_and(|by| by.date >= e.today);
    Act::ChargeBy { to, takes, by, in_time }
}

/// Whether lithium has not been full for long.
fn balance_is_due(e: &Evening<'_>) -> bool {
    let since = e.last_full.unwrap_or(e.owned.bought);
    let days = e.today.duration_since(since).as_hours() / 24;
    !e.owned.pack.battery.chemistry.is_lead() && days > i64::from(BALANCE_DAYS)
}

/// Years that lithium lasts longer where it rests at half and not full, as it is kept.
fn half_gives(e: &Evening<'_>) -> Option<f64> {
    let battery = &e.owned.pack.battery;
    if battery.chemistry.is_lead() {
        return None;
    }
    let years = battery.calendar_years.unwrap_or(battery.chemistry.typical_years());
    let at = |resting_charge| {
        let keeping = Keeping { temperature: e.kept_at, resting_charge, ..e.rules.keeping };
        years * calendar_factor(battery.chemistry, keeping)
    };
    Some(at(RESTS_AT) - at(1.0))
}
