//! What has worn a pack so far, what is left of it, and when it is worn out.

use super::rainflow::rainflow;
use crate::house::HouseRules;
use crate::life::ageing::calendar_factor;
use crate::life::{Keeping, Life, life_between};
use crate::log::{Charge, Did, Log, years};
use crate::units::Celsius;
use jiff::civil::Date;

/// What wears a pack, in shares of its capacity a year.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wear {
    /// Years as such, at half charge and 25 °C.
    pub resting: f64,
    /// That it rests full, or warm, on top of it.
    pub full_or_warm: f64,
    /// Cycles.
    pub cycling: f64,
    /// Years more that it would last if it rested at half; none where it cannot, as lead.
    pub half_gives: Option<f64>,
    /// Years more that it would last if it were charged to [`HABIT`] and no further; none where its outings need more, or it is
    /// lead.
    pub habit_gives: Option<f64>,
}

/// How a pack is.
#[derive(Debug, Clone, PartialEq)]
pub struct Health {
    /// Its charge as it went: years since some day, and charge.
    pub history: Vec<(f64, f64)>,
    /// Full cycles it was used for, as if each had been from full to empty.
    pub full_cycles: f64,
    /// Cycles by depth, in fifths: to 20 %, to 40 % and so on.
    pub depths: [f64; 5],
    /// Hours above 90 %, and below 20 %. [h]
    pub hours: (f64, f64),
    /// Hours of its outings above [`HOT`](crate::log::HOT), where that was recorded; `None` where it never was. [h]
    pub hot: Option<f64>,
    /// Outings a year.
    pub per_year: f64,
    /// Its life at that use, from new.
    pub life: Life,
    /// Capacity that its age and use make likely now, as a share of its label's: at the low end, likely, at the high end. At the
    /// low end years and cycles add up.
    pub predicted: [f64; 3],
    /// Years from now until 80 % and 60 % by what it has now, likely and the ends; none where it is below.
    pub until: [Option<[f64; 3]>; 2],
    /// Years from new until 80 % at that use: at the low end, likely, at the high end.
    pub lasts: [f64; 3],
    /// What wears it.
    pub wear: Wear,
}

/// What lithium is charged to by who keeps it from resting full. Common practice, no source.
pub const HABIT: f64 = 0.8;

/// Hours of a year. [h]
const YEAR: f64 = 365.25 * 24.0;

/// How an owned pack is today; `has` is its capacity as a share of the label's, likely and its ends, as far as the log tells.
/// `None` for one that is not in the log.
pub fn health(
    log: &Log,
    pack: i64,
    today: Date,
    rules: &HouseRules,
    has: [f64; 3],
) -> Option<Health> {
    let owned = log.pack(pack)?;
    let battery = &owned.pack.battery;
    let mut history: Vec<(f64, f64)> = vec![(years(owned.bought), 1.0)];
    let (mut outings, mut reached) = (0, (0.0, 0.0));
    for (_, entry) in &log.all {
        match entry {
            crate::log::Logged::Outing(o) if o.of == Some(pack) && !o.practice => {
                let Ok((used, _)) = o.share_used() else { continue };
                let Ok(start) = o.as_driven().map(|p| p.day.start_charge.unwrap_or(1.0)) else {
                    continue;
                };
                let at = years(o.date);
                history.extend([(at, start), (at, start - used)]);
                outings += 1;
                reached = (reached.0 + start - used, reached.1 + start);
            }
            crate::log::Logged::Test(t) if t.of == Some(pack) => match &t.did {
                Did::Charged(Charge::Full) => history.push((years(t.date), 1.0)),
                Did::Charged(Charge::Meter(charge) | Charge::Feel(charge)) => {
                    history.push((years(t.date), *charge));
                }
                Did::Capacity(_) if t.unit.is_none() => {
                    history.extend([(years(t.date), 1.0), (years(t.date), 0.0)]);
                }
                _ => {}
            },
            _ => {}
        }
    }
    let now = years(today);
    let mut by_depth = [0.0; 5];
    let charges: Vec<f64> = history.iter().map(|h| h.1).collect();
    for cycle in rainflow(&charges) {
        let fifth = ((cycle.range * 5.0).ceil() as usize).clamp(1, 5) - 1;
        by_depth[fifth] += cycle.count;
    }
    let mut hours = (0.0, 0.0);
    let ends = history.iter().skip(1).map(|h| h.0).chain([now]);
    for ((from, charge), to) in history.iter().zip(ends) {
        let rests = (to - from).max(0.0) * YEAR;
        if *charge > 0.9 {
            hours.0 += rests;
        }
        if *charge < 0.2 {
            hours.1 += rests;
        }
    }
    let per_year = log.per_year(pack, today);
    let kept = owned.kept_at.unwrap_or(rules.keeping.temperature);
    let keeping = Keeping { temperature: kept, ..rules.keeping };
    // The middle of its outings is what it is cycled between.
    let middle = |sum: f64| sum / f64::from(outings.max(1));
    let between = match outings {
        0 => (0.5, 1.0),
        _ => (middle(reached.0).clamp(0.0, 0.98), middle(reached.1).clamp(0.02, 1.0)),
    };
    let life = life_between(battery, between, per_year, keeping, rules.horizon_years);
    let age = now - years(owned.bought);
    let (short, (_, long)) = (life.lasts_adding(per_year), life.lasts_between(per_year));
    let lasts = life.lasts(per_year);
    let after = |lasts: f64| (1.0 - 0.2 * age / lasts).max(0.0);
    let until = [0.8, 0.6].map(|at| {
        (has[1] > at).then(|| {
            let years = |has: f64, lasts: f64| ((has - at) / 0.2 * lasts).max(0.0);
            [years(has[0], short), years(has[1], lasts), years(has[2], long)]
        })
    });
    Some(Health {
        full_cycles: log.full_cycles(pack),
        depths: by_depth,
        hours,
        per_year,
        predicted: [after(short), after(lasts), after(long)],
        until,
        hot: log
            .outings()
            .filter(|(_, o)| o.of == Some(pack))
            .filter_map(|(_, o)| o.hot)
            .map(crate::units::Hours::value)
            .reduce(|a, b| a + b),
        lasts: [short, lasts, long],
        wear: wear(owned, rules, (kept, between.1 - between.0), per_year, &life),
        life,
        history,
    })
}

fn wear(
    owned: &crate::log::Owned,
    rules: &HouseRules,
    (kept, takes): (Celsius, f64),
    per_year: f64,
    life: &Life,
) -> Wear {
    let battery = &owned.pack.battery;
    let chemistry = battery.chemistry;
    let years = battery.calendar_years.unwrap_or(chemistry.typical_years());
    let factor = |temperature, resting_charge| {
        calendar_factor(chemistry, Keeping { temperature, resting_charge, ..rules.keeping })
    };
    // Lead wants to be full: its rest as such is that.
    let best = if chemistry.is_lead() { 1.0 } else { super::tonight::RESTS_AT };
    let room = Celsius::of(25.0);
    let as_kept = factor(kept, rules.keeping.resting_charge);
    let resting = 0.2 / (years * factor(room, best));
    let all = 0.2 / (years * as_kept);
    Wear {
        resting: resting.min(all),
        full_or_warm: (all - resting).max(0.0),
        cycling: 0.2 * per_year / life.cycles.value,
        half_gives: (!chemistry.is_lead())
            .then(|| years * (factor(kept, best) - as_kept))
            .filter(|more| *more > 0.05),
        // A pack that is twice as large as its outings ask for, and more.
        habit_gives: (!chemistry.is_lead() && takes < HABIT - rules.reserve_level(chemistry))
            .then(|| years * (factor(kept, HABIT) - as_kept))
            .filter(|more| *more > 0.05),
    }
}
