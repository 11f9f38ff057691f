//! The smallest single change that gets a pack home above its floor; and of one that gets there, how much more it bears.

use crate::day::Duty;
use crate::house::sold_from;
use crate::numeric::halved;
use crate::pack::{Pack, limits};
use crate::plan::{Plan, WhatIf, way_home};
pub use crate::proposals::near::gets_home;
use crate::proposals::near::gets_home_after as after;
use crate::units::{AmpHours, Hours, MetresPerSecond};

/// One change that gets a pack home. Each is found on this plan and tried on it as it is told.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Change {
    /// So much less of a stretch, by its place in the day, in steps of five minutes. [h]
    Fewer(usize, Hours),
    /// Home at such a share of the speed, in steps of a twentieth, and so much longer; at a setting, that share of it.
    HomeAt(f64),
    /// For home so long after launch at the latest, in whole steps of five minutes. [h]
    TurnAt(Hours),
    /// No more wind than this at its least. [m/s]
    Wind(MetresPerSecond),
    /// Units of this size, the next that is sold. [Ah]
    Size(AmpHours),
    /// One more string beside those there are.
    OneMoreString,
}

impl Change {
    /// The same as a what-if of the day; `None` for another pack.
    pub const fn what_if(self) -> Option<WhatIf> {
        Some(match self {
            Self::Fewer(at, less) => WhatIf::Fewer(at, less),
            Self::HomeAt(share) => WhatIf::HomeAt(share),
            Self::TurnAt(at) => WhatIf::TurnAt(at),
            Self::Wind(wind) => WhatIf::Wind(wind),
            Self::Size(_) | Self::OneMoreString => return None,
        })
    }
}

/// What a pack that gets home bears besides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Margin {
    /// So much longer on a stretch, by its place in the day: the longest at which it works and that is not the way home. [h]
    pub longer: Option<(usize, Hours)>,
    /// The most wind, where the day answers to it; what is within reason where no more than that was looked at. [m/s]
    pub wind: Option<MetresPerSecond>,
}

/// Steps in which stretches are shortened. [min]
const STEP: f64 = 5.0;
/// Steps of a share of the speed home.
const SHARE: f64 = 0.05;
/// Slower than this nobody goes home.
const SLOWEST: f64 = 0.4;
/// 30 mph, in which nobody is out; from memory. [m/s]
pub const MOST_WIND: f64 = 13.4;
/// Less than this is a dead calm. [m/s]
const LEAST_WIND: f64 = 0.2;
/// Halvings where the answer is told as it is found.
const HALVINGS: usize = 14;
/// Longer than this nobody stays. [h]
const LONGEST_STAY: f64 = 24.0;

/// Whether its wind is waited out: nobody puts off a cart's rounds for it.
fn waits_for_wind(plan: &Plan) -> bool {
    plan.rig.craft.kind.is_boat() && plan.day.hangs_on_wind()
}

/// The fewest steps, from one to `most`, that do; `None` where not even all of them do.
fn fewest(most: u32, does: impl Fn(u32) -> bool) -> Option<u32> {
    if most == 0 || !does(most) {
        return None;
    }
    let (mut fails, mut passes) = (0, most);
    while passes - fails > 1 {
        let mid = fails + (passes - fails) / 2;
        if does(mid) { passes = mid } else { fails = mid }
    }
    Some(passes)
}

/// What would get a pack of this plan home above its floor, one change each, those that only ask for patience first. Empty
/// where it gets there, is set aside, or nothing small does.
pub fn get_home(plan: &Plan, pack: &Pack) -> Vec<Change> {
    if gets_home(plan, pack) || !limits::set_aside(pack, &plan.rig_as_measured()).is_empty() {
        return Vec::new();
    }
    let changes = [
        fewer(plan, pack),
        home_at(plan, pack),
        turn_at(plan, pack),
        wind(plan, pack),
        size(plan, pack),
        one_more_string(plan, pack),
    ];
    changes.into_iter().flatten().collect()
}

/// The stretch of which the fewest minutes less are enough; never the way home.
fn fewer(plan: &Plan, pack: &Pack) -> Option<Change> {
    let home = way_home(&plan.day)?;
    let stretches = plan.day.stretches.iter().enumerate().take(home);
    // A given distance in less time is faster, not less.
    let works = stretches.filter(|(_, s)| !matches!(s.duty, Duty::Off | Duty::Distance(_)));
    let enough = works.filter_map(|(at, stretch)| {
        let most = ((stretch.lasts.minutes() - 1.0) / STEP).floor() as u32;
        let less = |n: u32| Hours::from_minutes(STEP * f64::from(n));
        let steps = fewest(most, |n| after(plan, pack, WhatIf::Fewer(at, less(n))))?;
        Some((steps, Change::Fewer(at, less(steps))))
    });
    enough.min_by_key(|(steps, _)| *steps).map(|(_, change)| change)
}

fn home_at(plan: &Plan, pack: &Pack) -> Option<Change> {
    let share = |n: u32| 1.0 - SHARE * f64::from(n);
    let most = ((1.0 - SLOWEST) / SHARE).round() as u32;
    let steps = fewest(most, |n| after(plan, pack, WhatIf::HomeAt(share(n))))?;
    Some(Change::HomeAt(share(steps)))
}

fn turn_at(plan: &Plan, pack: &Pack) -> Option<Change> {
    let home = way_home(&plan.day)?;
    let planned: Hours = plan.day.stretches[..home].iter().map(|s| s.lasts).sum();
    let most = (planned.minutes() / STEP).floor() as u32;
    // So many steps before the last whole one.
    let at = |n: u32| Hours::from_minutes(STEP * f64::from(most - n));
    let steps = fewest(most, |n| after(plan, pack, WhatIf::TurnAt(at(n))))?;
    Some(Change::TurnAt(at(steps)))
}

fn wind(plan: &Plan, pack: &Pack) -> Option<Change> {
    let today = plan.day.conditions.wind;
    let calm = MetresPerSecond::ZERO;
    if !waits_for_wind(plan) || today <= calm || !after(plan, pack, WhatIf::Wind(calm)) {
        return None;
    }
    let holds = |wind: f64| after(plan, pack, WhatIf::Wind(MetresPerSecond::of(wind)));
    let (borne, _) = halved((0.0, today.value()), HALVINGS, holds);
    // A dead calm is no day to wait for.
    (borne >= LEAST_WIND).then(|| Change::Wind(MetresPerSecond::of(borne)))
}

/// A pack of units so many times as large, all else but its price as it is.
pub fn sized(pack: &Pack, factor: f64) -> Pack {
    let mut larger = pack.clone();
    let battery = &mut larger.battery;
    battery.ratings = battery.ratings.iter().map(|r| r.times(factor)).collect();
    battery.mass = battery.mass.map(|m| m * factor);
    battery.resistance = battery.resistance.map(|r| r / factor);
    battery.max_continuous = battery.max_continuous.map(|a| a * factor);
    if let Some(peak) = &mut battery.peak {
        peak.current = peak.current * factor;
    }
    // Of another size, so in another box: whether it fits is for its own label to say.
    (battery.size, battery.price, battery.printed_energy) = (None, None, None);
    larger
}

/// Sizes up to four times as large.
fn size(plan: &Plan, pack: &Pack) -> Option<Change> {
    let (label, _) = pack.battery.headline().ok()?;
    let home = |factor: f64| gets_home(plan, &sized(pack, factor));
    if !home(4.0) {
        return None;
    }
    let (_, enough) = halved((1.0, 4.0), HALVINGS, |factor| !home(factor));
    let sold = sold_from(label * enough);
    home(sold / label).then_some(Change::Size(sold))
}

/// The same pack with one string more.
pub fn with_one_more_string(pack: &Pack) -> Pack {
    Pack { parallel: pack.parallel + 1, ..pack.clone() }
}

fn one_more_string(plan: &Plan, pack: &Pack) -> Option<Change> {
    gets_home(plan, &with_one_more_string(pack)).then_some(Change::OneMoreString)
}

/// How much more a pack that gets home bears; `None` where it does not.
pub fn margin(plan: &Plan, pack: &Pack) -> Option<Margin> {
    if !gets_home(plan, pack) {
        return None;
    }
    let wind = waits_for_wind(plan).then(|| {
        let holds = |wind: f64| after(plan, pack, WhatIf::Wind(MetresPerSecond::of(wind)));
        let today = plan.day.conditions.wind.value();
        if today >= MOST_WIND || holds(MOST_WIND) {
            return MetresPerSecond::of(today.max(MOST_WIND));
        }
        MetresPerSecond::of(halved((today, MOST_WIND), HALVINGS, holds).0)
    });
    Some(Margin { longer: longer(plan, pack), wind })
}

/// How much longer it may stay on the longest stretch that is worked on before the way home.
fn longer(plan: &Plan, pack: &Pack) -> Option<(usize, Hours)> {
    let home = way_home(&plan.day)?;
    let stretches = plan.day.stretches.iter().enumerate().take(home);
    let works = stretches.filter(|(_, s)| !matches!(s.duty, Duty::Off | Duty::Distance(_)));
    let (at, _) = works.max_by(|a, b| a.1.lasts.value().total_cmp(&b.1.lasts.value()))?;
    let holds = |more: f64| after(plan, pack, WhatIf::Fewer(at, Hours::of(-more)));
    let more = if holds(LONGEST_STAY) {
        LONGEST_STAY
    } else {
        halved((0.0, LONGEST_STAY), HALVINGS, holds).0
    };
    Some((at, Hours::of(more)))
}
