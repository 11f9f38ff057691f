//! What was learnt: grey before, blue now, and what it is worth on the planned day.

use crate::figures;
use lake_hour_core::day::Duty;
use lake_hour_core::learn::{Day, Difference, Driven, Entry, Learned, Measure as Next, Told};
use lake_hour_core::log::{Log, as_driven_with, parts, told_capacity};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion;
use lake_hour_core::units::MetresPerSecond;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;

/// One thing that is learnt.
#[derive(Debug, Clone)]
pub(super) struct Bell {
    pub(super) title: String,
    /// The curves before and now.
    pub(super) before: String,
    pub(super) now: String,
    /// "typical: 11 A, 9 to 13".
    pub(super) was: String,
    /// "12.6 A, 11.9 to 13.2"; "not learned yet".
    pub(super) is: String,
    pub(super) known: bool,
}

/// What a log taught.
#[derive(Debug, Clone)]
pub(super) struct LearnedView {
    pub(super) bells: Vec<Bell>,
    /// "from 4 outings and 1 reading".
    pub(super) from: String,
    /// "The planned day's band narrows from 21 points to 8."
    pub(super) narrows: Option<String>,
    /// "Next: note amps at setting 8."
    pub(super) next: Option<String>,
    /// Whether there is something that no plan uses yet.
    pub(super) offered: bool,
    /// Whether plans use something now.
    pub(super) used: Option<String>,
    pub(super) doubted: usize,
    /// Something seems to have changed: the last outings took more, or less.
    pub(super) changed: Option<&'static str>,
}

/// Width and height of a bell. [px]
const WIDE: f64 = 168.0;
const HIGH: f64 = 58.0;

/// A factor as it is said: its middle and its ends four times in five.
type Between = [f64; 3];

/// Curves of two log-normal distributions on one scale.
fn curves(before: Between, now: Between) -> (String, String) {
    let sd = |b: Between| ((b[2] / b[1]).ln() / lake_hour_core::learn::FOUR_IN_FIVE).max(1e-4);
    let (s0, s1) = (sd(before), sd(now));
    let (m0, m1) = (before[1].ln(), now[1].ln());
    let low = (m0 - 2.6 * s0).min(m1 - 2.6 * s1);
    let high = (m0 + 2.6 * s0).max(m1 + 2.6 * s1);
    let highest = (1.0 / s0).max(1.0 / s1);
    let path = |m: f64, s: f64| {
        let points: Vec<String> = (0..=84)
            .map(|n| {
                let at = low + (high - low) * f64::from(n) / 84.0;
                let density = (-0.5 * ((at - m) / s).powi(2)).exp() / s / highest;
                format!(
                    "{:.1},{:.1}",
                    f64::from(n) * WIDE / 84.0,
                    HIGH - 4.0 - density * (HIGH - 8.0)
                )
            })
            .collect();
        points.join(" ")
    };
    (path(m0, s0), path(m1, s1))
}

/// What of a plan is driven how: a setting, a speed, or held.
fn example(plan: &Plan, driven: Driven) -> Option<(String, Option<(f64, &'static str)>)> {
    let rig = plan.rig_as_measured().unlearned();
    let day = &plan.day;
    let all = propulsion::of_day(&rig, day);
    let find =
        |of: &dyn Fn(&Duty) -> bool| day.stretches.iter().zip(&all).find(|(s, _)| of(&s.duty));
    match driven {
        Driven::AtSettings => {
            if let Some((stretch, _)) = find(&|d| matches!(d, Duty::Setting(_))) {
                let Duty::Setting(setting) = stretch.duty else { return None };
                let amps = rig.motor.current_at(setting)?.value();
                let title =
                    format!("Amps at setting {}", figures::setting(&rig.motor.dial, setting));
                return Some((title, Some((amps, "A"))));
            }
            find(&|d| matches!(d, Duty::Current(_) | Duty::Power(_)))?;
            Some(("Amps and watts you set".to_owned(), None))
        }
        Driven::AtSpeed => {
            let (_, implied) = find(&|d| matches!(d, Duty::Speed(_) | Duty::Distance(_)))?;
            let watts = implied.as_ref()?.watts.value();
            Some(("Watts at its speed".to_owned(), Some((watts, "W"))))
        }
        Driven::Holding => {
            find(&|d| matches!(d, Duty::HoldPlace))?;
            Some(("Holding in the wind".to_owned(), None))
        }
    }
}

/// "12.6 A, 11.9 to 13.2", or "1.3 times typical, 1.1 to 1.5".
fn words(between: Between, of: Option<(f64, &'static str)>) -> String {
    let [low, middle, high] = between;
    match of {
        Some((base, unit)) => format!(
            "{} {unit}, {} to {}",
            figures::amount(base * middle),
            figures::amount(base * low),
            figures::amount(base * high)
        ),
        None => format!("{middle:.2} times, {low:.2} to {high:.2}"),
    }
}

fn bell(
    title: String,
    of: Option<(f64, &'static str)>,
    (before, now): (Between, Between),
    known: bool,
    who: &str,
) -> Bell {
    let (was_path, now_path) = curves(before, now);
    Bell {
        title,
        before: was_path,
        now: now_path,
        was: format!("{who}: {}", words(before, of)),
        is: if known { words(now, of) } else { "not learned yet".to_owned() },
        known,
    }
}

fn count(n: usize, one: &str, many: &str) -> Option<String> {
    match n {
        0 => None,
        1 => Some(format!("1 {one}")),
        n => Some(format!("{n} {many}")),
    }
}

impl LearnedView {
    pub(super) fn of(
        plan: &Plan,
        log: &Log,
        (entries, learned): (&[Entry], &Learned),
        taught: &Plan,
        say: Say<'_>,
    ) -> Option<Self> {
        let (_, owned) = log.about()?;
        let mut bells = Vec::new();
        for driven in Driven::ALL {
            let Some((title, of)) = example(plan, driven) else { continue };
            let both = (learned.takes_before(driven), learned.takes(driven));
            let who = if driven == Driven::AtSettings { "told" } else { "assumed" };
            let title = match (driven, speed(plan)) {
                (Driven::AtSpeed, Some(v)) => {
                    format!("Watts at {}", figures::measure(say.units, Measure::Speed, v, 1))
                }
                _ => title,
            };
            bells.push(bell(title, of, both, learned.knows(driven), who));
        }
        let capacity = told_capacity(&owned.pack).map(|ah| (ah.value(), "Ah"));
        let factor = lake_hour_core::learn::Factor::Capacity;
        let both = (learned.factor_before(factor), learned.factor(factor));
        bells.push(bell(
            "Capacity".to_owned(),
            capacity,
            both,
            learned.knows_capacity(),
            "for its age",
        ));
        let used = plan.rig.motor.learned.or(plan.rig.craft.learned.at_speed).or(plan
            .rig
            .craft
            .learned
            .holding);
        let healthy = plan.built_like(&owned.pack).is_some_and(|p| p.health.doubt < 1.0);
        let differs = taught.rig != plan.rig || taught.packs != plan.packs;
        let anything = bells.iter().any(|b| b.known);
        // Those that something was learnt from.
        let of = |is: fn(&Told) -> bool| {
            entries.iter().filter(|e| e.check().is_ok() && is(&e.told)).count()
        };
        let outings = of(|told| matches!(told, Told::Used { .. }));
        let readings = of(|told| matches!(told, Told::Amps(_) | Told::AmpsAtSpeed(_)));
        let tests = of(|told| matches!(told, Told::Capacity(_)));
        let from: Vec<String> = [
            count(outings, "outing", "outings"),
            count(readings, "reading of amps", "readings of amps"),
            count(tests, "capacity test", "capacity tests"),
        ]
        .into_iter()
        .flatten()
        .collect();
        Some(Self {
            narrows: narrows(plan, log, taught, &owned.pack),
            next: next(plan, &owned.pack, learned),
            offered: anything && differs && fresh(plan, taught),
            used: (used.is_some() || healthy).then(|| {
                used.map_or_else(
                    || "in use".to_owned(),
                    |l| format!("in use since {}", super::rows::day(l.on)),
                )
            }),
            changed: Difference::changed(entries, log.ageing()).map(changed_words),
            doubted: learned.doubted().len(),
            from: from.join(", "),
            bells,
        })
    }
}

/// What is asked where something seems to have changed. Nothing is reset unasked.
const fn changed_words(more: bool) -> &'static str {
    match more {
        true => {
            "The last outings took more than all before them made likely: has something changed? Weed on the propeller, a fouled hull, a soft tire, wear. Another motor or hull is told on the Rig, another battery is another pack; a capacity test tells wear"
        }
        false => {
            "The last outings took less than all before them made likely: has something changed? A cleaned hull, another propeller, a lighter load. Another motor or hull is told on the Rig, another battery is another pack"
        }
    }
}

/// The speed of the first stretch that has one.
fn speed(plan: &Plan) -> Option<f64> {
    let rig = plan.rig_as_measured();
    let all = propulsion::of_day(&rig, &plan.day);
    plan.day.stretches.iter().zip(all).find_map(|(s, implied)| match s.duty {
        Duty::Speed(v) => Some(v.value()),
        Duty::Distance(_) => implied?.speed.map(MetresPerSecond::value),
        _ => None,
    })
}

/// Whether what was learnt differs from what is in use by more than the day it was taken over.
fn fresh(plan: &Plan, taught: &Plan) -> bool {
    let of = |plan: &Plan| {
        let l = [
            plan.rig.motor.learned,
            plan.rig.craft.learned.at_speed,
            plan.rig.craft.learned.holding,
        ];
        let health: Vec<(f64, f64)> =
            plan.packs.iter().map(|p| (p.health.capacity_share, p.health.doubt)).collect();
        (l.map(|l| l.map(|l| (l.times, l.doubt))), health)
    };
    let ((a, ha), (b, hb)) = (of(plan), of(taught));
    let near =
        |a: (f64, f64), b: (f64, f64)| (a.0 / b.0 - 1.0).abs() < 0.005 && (a.1 - b.1).abs() < 0.02;
    let differ = a.iter().zip(b).any(|pair| match pair {
        (Some(a), Some(b)) => !near(*a, b),
        (None, None) => false,
        _ => true,
    });
    differ || ha.into_iter().zip(hb).any(|(a, b)| !near(a, b))
}

/// The band of the planned day before and with all that was learnt, in points.
fn narrows(plan: &Plan, log: &Log, taught: &Plan, owned: &Pack) -> Option<String> {
    let width = |plan: &Plan| {
        let drawn = plan.judge().ok()?.in_full(plan.built_like(owned)?).drawn?;
        Some((drawn.band.high - drawn.band.low) * 100.0)
    };
    let (before, after) = (width(&log.untaught(plan))?, width(taught)?);
    Some(match (before.round() as i64, after.round() as i64) {
        (b, a) if b == a => format!("The planned day's band stays {a} points wide"),
        (b, a) if b > a => format!("The planned day's band narrows from {b} points to {a}"),
        (b, a) => format!("The planned day's band goes from {b} points to {a}"),
    })
}

/// What to measure next, and what it would narrow.
fn next(plan: &Plan, pack: &Pack, learned: &Learned) -> Option<String> {
    let driven = as_driven_with(plan, pack);
    let plan = Plan { rig: driven.rig.unlearned(), ..driven };
    let parts = parts(&plan, pack).ok()?;
    let day = Day { parts, wind_guessed: false };
    let now = learned.day(&day).width();
    let best = learned.next(&day).into_iter().next()?;
    let less = (1.0 - best.width / now) * 100.0;
    if less < 3.0 {
        return None;
    }
    let setting = example(&plan, Driven::AtSettings)
        .map(|(title, _)| title.replace("Amps at setting ", ""))
        .filter(|s| s.parse::<f64>().is_ok());
    let what = match best.measure {
        Next::AmpsAtSetting => match setting {
            Some(setting) => format!("note the amps at setting {setting}"),
            None => "note the amps at one setting".to_owned(),
        },
        Next::CapacityTest => "test its capacity".to_owned(),
        Next::AmpsAtSpeed => "note the amps at a speed by GPS, there and back".to_owned(),
        Next::AmpsHolding => "note the amps while you hold, and the wind by a meter".to_owned(),
    };
    Some(format!("Next: {what}; that narrows it by {less:.0} % more"))
}
