//! Health: what is left of a pack, what wears it, what its units say of each other.

use super::doctor::{DoctorView, NamedView};
use super::rows::day;
use super::today;
use crate::figures;
use lake_hour_core::care::{HABIT, Health, by_volts, health};
use lake_hour_core::learn::{Factor, Learned};
use lake_hour_core::log::{Did, HOT, LoadVerdict, Log, Measured, Owned, years};
use lake_hour_core::plan::Plan;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_store::Board;

/// Health of the pack that the log is about.
#[derive(Debug, Clone)]
pub(super) struct HealthView {
    pub(super) name: String,
    /// "86 % of its label, 83 to 89".
    pub(super) now: String,
    /// For its age; when 80 and 60 %.
    pub(super) words: Vec<String>,
    pub(super) wear: Vec<(&'static str, String)>,
    pub(super) use_words: Vec<String>,
    pub(super) band: String,
    pub(super) line: String,
    pub(super) dots: Vec<(String, String)>,
    pub(super) here: (String, String, String),
    pub(super) ticks: Vec<(String, String)>,
    pub(super) rules: Vec<(String, &'static str)>,
    pub(super) sentence: String,
    /// The unit that is named, where one is.
    pub(super) named: Option<NamedView>,
    /// What the units say of each other.
    pub(super) units: Vec<(String, bool)>,
}

/// Width and height of the health picture, and what it shows of the capacity.
const WIDE: f64 = 520.0;
const HIGH: f64 = 150.0;
const LEFT: f64 = 46.0;

/// The capacity that an owned pack has, as a share of its label's: likely, and the ends of it. What was measured wins.
fn has(learned: &Learned, o: &Owned, measured: Option<&Measured>) -> [f64; 3] {
    measured.and_then(|m| m.capacity).unwrap_or_else(|| {
        learned.factor(Factor::Capacity).map(|f| f * o.pack.health.capacity_share)
    })
}

/// How the pack is that the log is about.
pub(super) fn health_of(board: &Board, log: &Log, learned: &Learned) -> Option<Health> {
    let (id, o) = log.about()?;
    let measured = log.measured(&board.plan, id, today());
    health(log, id, today(), &board.plan.rules, has(learned, o, measured.as_ref()))
}

pub(super) fn health_view(
    log: &Log,
    learned: &Learned,
    (id, o): (i64, &Owned),
    h: &Health,
    (plan, say): (&Plan, Say<'_>),
) -> HealthView {
    let measured = log.measured(plan, id, today());
    let has = has(learned, o, measured.as_ref());
    let now = years(today());
    let bought = years(o.bought);
    let age = now - bought;
    let [short, lasts, long] = h.lasts;
    let end = (age * 1.6).max(lasts.min(age + 12.0)).max(1.0);
    let lowest = 0.5;
    let x = |year: f64| LEFT + (year / end).clamp(0.0, 1.0) * (WIDE - LEFT - 10.0);
    let y = |share: f64| 8.0 + (1.05 - share.clamp(lowest, 1.05)) / (1.05 - lowest) * (HIGH - 30.0);
    let at = |year: f64, lasts: f64| (1.0 - 0.2 * year / lasts).max(lowest);
    let edge = |lasts: f64| -> Vec<String> {
        (0..=24)
            .map(|n| end * f64::from(n) / 24.0)
            .map(|year| format!("{:.1},{:.1}", x(year), y(at(year, lasts))))
            .collect()
    };
    let band: Vec<String> = edge(short).into_iter().chain(edge(long).into_iter().rev()).collect();
    let tests = log.tests().filter(|(_, t)| t.of == Some(id) && t.unit.is_none());
    let dots: Vec<(String, String)> = tests
        .filter_map(|(_, t)| match &t.did {
            Did::Capacity(test) => Some((years(t.date), test.found(&o.pack, 1.0).ok()?.share?)),
            _ => None,
        })
        .map(|(at, share)| (format!("{:.1}", x(at - bought)), format!("{:.1}", y(share))))
        .collect();
    let ends = |b: [f64; 3]| format!("{} to {}", figures::percent(b[0]), figures::percent(b[2]));
    let year = today().year();
    let in_years =
        |y: f64| i32::from(year) + (y + f64::from(today().day_of_year()) / 366.0).floor() as i32;
    let mut words = vec![format!("For its age and use {} is likely", ends(h.predicted))];
    for (at, until) in [(80, h.until[0]), (60, h.until[1])] {
        words.push(match until {
            Some([short, likely, long]) => format!(
                "{at} % in {} ({} to {})",
                in_years(likely),
                in_years(short),
                in_years(long)
            ),
            None => format!(
                "it is below {at} %{}",
                if at == 80 { ": replace it when it no longer does its day" } else { "" }
            ),
        });
    }
    let points = |share: f64| format!("{:.1}", share * 100.0);
    let wear = vec![
        ("years as such", points(h.wear.resting)),
        ("warm or full at rest", points(h.wear.full_or_warm)),
        ("cycling", points(h.wear.cycling)),
    ];
    let hours = |h: f64| figures::amount(h.round());
    let depths: Vec<String> = ["to 20 %", "to 40 %", "to 60 %", "to 80 %", "deeper"]
        .into_iter()
        .zip(h.depths)
        .filter(|(_, n)| *n > 0.0)
        .map(|(depth, n)| format!("{} {depth}", figures::amount(n)))
        .collect();
    let mut use_words = vec![
        format!("{} full cycles in all", figures::amount(h.full_cycles)),
        format!("cycles by depth: {}", depths.join(", ")),
        format!("{} h above 90 %, {} h below 20 %", hours(h.hours.0), hours(h.hours.1)),
    ];
    if let Some(hot) = h.hot {
        let from = figures::measure(say.units, Measure::Temperature, HOT, 0);
        use_words.push(format!("{hot:.1} h of its outings above {from}"));
    }
    if let Some(more) = h.wear.habit_gives {
        use_words.push(format!(
            "its outings leave room: charged to {} instead of full it would last {more:.1} years more",
            figures::percent(HABIT)
        ));
    }
    if let Some(more) = h.wear.half_gives {
        use_words.push(format!("resting at half would give {more:.1} more years"));
    }
    let tested = measured.and_then(|m| m.found);
    let known = tested.is_some() || learned.knows_capacity();
    let now_words = match &tested {
        Some((found, on)) if (found - has[1]).abs() >= 0.01 => format!(
            "{} of its label ({}): {} measured {}, and its outings and age since",
            figures::percent(has[1]),
            ends(has),
            figures::percent(*found),
            day(*on)
        ),
        Some((_, on)) => format!(
            "{} of its label, measured {} ({})",
            figures::percent(has[1]),
            day(*on),
            ends(has)
        ),
        None if known => {
            format!("{} of its label by its outings, {}", figures::percent(has[1]), ends(has))
        }
        None => "its capacity is not tested yet".to_owned(),
    };
    let doctor = DoctorView::of(log, plan, (id, o));
    let is_named = doctor.named.is_some();
    HealthView {
        name: o.pack.name.clone(),
        sentence: format!(
            "{}: {now_words} after {age:.1} years. {}.",
            o.pack.name,
            words.join("; ")
        ),
        now: now_words,
        words,
        wear,
        use_words,
        band: band.join(" "),
        line: edge(lasts).join(" "),
        dots,
        here: (
            format!("{:.1}", x(age)),
            format!("{:.1}", y(has[1])),
            if known { figures::percent(has[1]) } else { "likely".to_owned() },
        ),
        ticks: (0..=4)
            .map(|n| end * f64::from(n) / 4.0)
            .map(|year| {
                let calendar =
                    f64::from(o.bought.year()) + (f64::from(o.bought.day_of_year()) / 366.0) + year;
                (format!("{:.1}", x(year)), format!("{calendar:.0}"))
            })
            .collect(),
        rules: [(1.0, "100 %"), (0.8, "80 %"), (0.6, "60 %")]
            .map(|(share, words)| (format!("{:.1}", y(share)), words))
            .to_vec(),
        named: doctor.named,
        units: doctor.says.into_iter().chain(units(log, (id, o), is_named)).collect(),
    }
}

/// What the units say of each other, and whether something is to be done.
fn units(log: &Log, (id, o): (i64, &Owned), is_named: bool) -> Vec<(String, bool)> {
    let mut said = Vec::new();
    let of = |t: &&lake_hour_core::log::Test| t.of == Some(id);
    let latest = log.tests().rev().map(|(_, t)| t).filter(of).find_map(|t| match &t.did {
        Did::Volts(volts) if volts.len() > 1 => Some((t.date, volts)),
        _ => None,
    });
    // Where a unit is named, volts of one day say nothing besides.
    if let Some((date, volts)) = latest.filter(|_| !is_named) {
        let ranked = by_volts(&o.pack, volts);
        if let Some(lowest) = ranked.first() {
            let below = format!("{:.0} mV", lowest.below * 1000.0);
            let points = lowest.charge_below.map_or_else(String::new, |p| {
                format!(", about {} points of charge", figures::amount((p * 100.0).round()))
            });
            let words = match (lowest.strays, volts.len()) {
                (false, _) => {
                    format!("rested {}: the units lie within {below}, as sound ones do", day(date))
                }
                (true, 2) => format!(
                    "rested {}: unit {} lies {below} below the other{points}. Charge both full and read again; of two, volts cannot tell which is the odd one",
                    day(date),
                    lowest.unit
                ),
                (true, _) => format!(
                    "rested {}: unit {} lies {below} below the middle of the others{points}. Charge it alone and read again; if it falls back, replace it: it pulls the string down",
                    day(date),
                    lowest.unit
                ),
            };
            said.push((words, lowest.strays));
        }
    }
    let mut loads: Vec<(u32, jiff::civil::Date, LoadVerdict, f64)> = Vec::new();
    for (_, t) in log.tests().rev() {
        if let (Some(unit), Did::Load(load)) = (t.unit, &t.did)
            && t.of == Some(id)
            && loads.iter().all(|l| l.0 != unit)
            && let Ok(found) = load.found(&o.pack, 1, 1)
        {
            loads.push((unit, t.date, found.verdict, found.resistance.value()));
        }
    }
    loads.sort_by_key(|l| l.0);
    for (unit, date, verdict, ohms) in loads {
        let words = match verdict {
            LoadVerdict::Pass => "bears its load",
            LoadVerdict::Weak => "is weak under load: test its capacity",
            LoadVerdict::Dead => "collapses under load: replace it",
            LoadVerdict::NotCharged => "was not charged for its load test",
        };
        let asks = matches!(verdict, LoadVerdict::Weak | LoadVerdict::Dead);
        said.push((format!("unit {unit} {words} ({:.0} mΩ, {})", ohms * 1000.0, day(date)), asks));
    }
    said
}
