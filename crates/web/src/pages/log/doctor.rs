//! Which unit is the weak one, by everything that was read and tested of the units; what it costs, and who pays.

use super::rows::day;
use super::today;
use crate::figures;
use lake_hour_core::care::RISEN;
use lake_hour_core::log::{Did, Doctor, Log, Owned, Straying, Warranty, told_capacity};
use lake_hour_core::pack::{Health, Pack, WeakUnit};
use lake_hour_core::plan::Plan;

/// A unit that is named.
#[derive(Debug, Clone)]
pub(super) struct NamedView {
    /// "Unit 3 is weak: it holds 83 % of what the others do (78 to 88 %)."
    pub(super) title: String,
    /// What it costs, what the pack still does, who pays, by what it is known.
    pub(super) words: Vec<String>,
    /// A letter to who sold it.
    pub(super) letter: String,
}

/// What the units say together.
#[derive(Debug, Clone, Default)]
pub(super) struct DoctorView {
    pub(super) named: Option<NamedView>,
    /// Other sentences, and whether something is to be done.
    pub(super) says: Vec<(String, bool)>,
}

/// Evidence on the units of a pack.
struct Seen {
    doctor: Doctor,
    readings: usize,
    /// Units that were tested.
    tested: usize,
}

fn seen(log: &Log, id: i64) -> Seen {
    Seen {
        doctor: log.doctor(id),
        readings: log.unit_charges(id).len(),
        tested: log.tested_units(id).len(),
    }
}

impl DoctorView {
    pub(super) fn of(log: &Log, plan: &Plan, (id, o): (i64, &Owned)) -> Self {
        let seen = seen(log, id);
        let mut says = tests_apart(log, id);
        let named = seen.doctor.weak().map(|weak| named(log, plan, (id, o), &seen, weak));
        let all = &seen.doctor.units;
        if named.is_none() {
            says.extend(none_named(&seen));
        }
        for low in all.iter().filter(|s| s.low) {
            let points = figures::amount((low.below_full * 100.0).round());
            says.push((
                format!(
                    "unit {} reads {points} points below the others even when all are full: charge it alone until it is full. If its gauge still reads low, the gauge is off",
                    low.unit
                ),
                true,
            ));
        }
        says.extend(resistances(log, id));
        Self { named, says }
    }
}

/// Where nobody can be named, why.
fn none_named(seen: &Seen) -> Option<(String, bool)> {
    let all = &seen.doctor.units;
    let lowest = all.first()?;
    let [likely, low, high] = lowest.capacity;
    let between = format!("{} to {}", figures::percent(low), figures::percent(high));
    if seen.doctor.asks_for_full {
        return Some((
            "before we name a unit, read all of them once when they are full and rested overnight: gauges differ, and that reading tells by how much"
                .to_owned(),
            true,
        ));
    }
    if all.len() == 2 && seen.readings > 1 && 1.0 - likely >= 0.08 {
        return Some((
            format!(
                "unit {} holds {} of what the other does ({between}); with two units, readings cannot tell which one is weak. Test both",
                lowest.unit,
                figures::percent(likely)
            ),
            true,
        ));
    }
    (seen.readings > 1 || seen.tested > 1).then(|| {
        let words = format!(
            "no unit falls behind: the lowest, unit {}, holds {} of what the others do ({between})",
            lowest.unit,
            figures::percent(likely)
        );
        (words, false)
    })
}

fn named(
    log: &Log,
    plan: &Plan,
    (id, o): (i64, &Owned),
    seen: &Seen,
    weak: &Straying,
) -> NamedView {
    let [likely, low, high] = weak.capacity;
    let unit = weak.unit;
    let percent = figures::percent;
    let mut words = Vec::new();
    // Of one string; beside others in parallel it holds back its own alone.
    let string = told_capacity(&o.pack).map(|ah| ah.value() / f64::from(o.pack.parallel));
    let gives = string.map(|whole| (whole, whole * likely.min(1.0)));
    if let Some((whole, gives)) = gives {
        words.push(format!(
            "{} Ah are lost to it: its string gives {} Ah instead of {}.",
            figures::amount(whole - gives),
            figures::amount(gives),
            figures::amount(whole)
        ));
    }
    words.extend(still_does(log, plan, (id, o), weak));
    words.push(pays(o));
    let mut by: Vec<String> = Vec::new();
    let count = |n: usize, one: &str, many: &str| match n {
        0 => None,
        1 => Some(format!("1 {one}")),
        n => Some(format!("{n} {many}")),
    };
    by.extend(count(seen.tested, "unit test", "unit tests"));
    by.extend(count(seen.readings, "reading of all units", "readings of all units"));
    words.push(format!(
        "Known by {}. Charge it alone once and read again; if it still falls behind, replace it.",
        by.join(" and ")
    ));
    NamedView {
        title: format!(
            "Unit {unit} is weak: it holds {} of what the others do ({} to {}).",
            percent(likely),
            percent(low),
            percent(high)
        ),
        letter: letter(log, (id, o), unit, likely),
        words,
    }
}

/// What the planned day leaves with the weak unit, and with a sound one in its place.
fn still_does(log: &Log, plan: &Plan, (id, o): (i64, &Owned), weak: &Straying) -> Option<String> {
    let health = log.measured(plan, id, today()).map_or(o.pack.health, |m| m.health);
    let judge = plan.judge().ok()?;
    let left = |weak_unit: Option<WeakUnit>| {
        let pack = Pack { weak_unit, health, ..o.pack.clone() };
        let drawn = judge.in_full(&pack).drawn?;
        Some(drawn.summary.charge_left)
    };
    let capacity_share = weak.capacity[0].min(1.0);
    let resistance_factor = Health::at(capacity_share).resistance_factor;
    let with = left(Some(WeakUnit { capacity_share, resistance_factor }))?;
    let without = left(None)?;
    Some(format!(
        "Your planned day leaves {} with it, {} with a sound unit in its place.",
        figures::percent(with.max(0.0)),
        figures::percent(without.max(0.0))
    ))
}

/// Whether the warranty still pays.
fn pays(o: &Owned) -> String {
    match o.warranty(today()) {
        Warranty::Full(until) => format!("The full warranty runs until {}: claim it.", day(until)),
        Warranty::Prorated(share, until) => format!(
            "The warranty still pays about {} of the price, until {}.",
            figures::percent(share),
            day(until)
        ),
        Warranty::Over(since) => format!("The warranty ended {}.", day(since)),
        Warranty::Untold => {
            "Type the warranty with the pack you own, and we say whether it still pays.".to_owned()
        }
    }
}

/// A letter to who sold it, to copy.
fn letter(log: &Log, (id, o): (i64, &Owned), unit: u32, likely: f64) -> String {
    let place = o.units.iter().find(|u| u.place == Some(unit) && u.retired.is_none());
    let serial = place.map(|u| u.serial.trim()).filter(|s| !s.is_empty());
    let serial =
        serial.map_or_else(|| "(serial number: )".to_owned(), |s| format!("(serial number {s})"));
    let shop = if o.shop.is_empty() { String::new() } else { format!(" from {}", o.shop) };
    let mut lines = vec![
        format!("Subject: warranty claim, {}, bought {}", o.pack.battery.name, day(o.bought)),
        String::new(),
        format!(
            "On {} I bought {} of {}{shop}. Unit {unit} {serial} holds about {} of what the others in the same string do.",
            day(o.bought),
            o.pack.units(),
            o.pack.battery.name,
            figures::percent(likely)
        ),
        String::new(),
        "What I measured:".to_owned(),
    ];
    for t in log.tested(id).into_iter().filter(|t| !t.passed_over) {
        let of = t.unit.map_or_else(|| "the whole pack".to_owned(), |n| format!("unit {n}"));
        lines.push(format!(
            "- {}: capacity test of {of}: {} of its label",
            day(t.date),
            figures::percent(t.share)
        ));
    }
    for r in log.unit_charges(id) {
        let all: Vec<String> =
            r.shares.iter().map(|s| figures::percent(s.clamp(0.0, 1.0))).collect();
        let by = if r.by_volts { "by rested volts" } else { "by meter" };
        lines.push(format!("- {}: charge of each unit {by}: {}", day(r.date), all.join(", ")));
    }
    for (_, t) in log.tests().filter(|(_, t)| t.of == Some(id)) {
        if let Did::Resistances(ohms) = &t.did {
            let all: Vec<String> =
                ohms.iter().map(|r| figures::amount(r.value() * 1000.0)).collect();
            lines.push(format!(
                "- {}: resistance of each unit: {} m\u{3a9}",
                day(t.date),
                all.join(", ")
            ));
        }
    }
    lines.extend([
        String::new(),
        "Please tell me how to return it and when I can expect a replacement.".to_owned(),
    ]);
    lines.join("\n")
}

/// Tests of the same that differ: which is passed over, and which counts.
fn tests_apart(log: &Log, id: i64) -> Vec<(String, bool)> {
    let all = log.tested(id);
    let over = all.iter().filter(|t| t.passed_over);
    over.filter_map(|t| {
        let counts = all.iter().rfind(|o| o.unit == t.unit && !o.passed_over)?;
        let what = t.unit.map_or_else(|| "the pack".to_owned(), |n| format!("unit {n}"));
        Some((
            format!(
                "two tests of {what} differ: {} on {}, {} on {}. We use {}; test it once more to settle it",
                figures::percent(t.share),
                day(t.date),
                figures::percent(counts.share),
                day(counts.date),
                figures::percent(counts.share)
            ),
            true,
        ))
    })
    .collect()
}

/// What the resistances of the units say.
fn resistances(log: &Log, id: i64) -> Vec<(String, bool)> {
    let mut said = Vec::new();
    let Some((date, units)) = log.unit_resistances(id) else { return said };
    for r in units.iter().filter(|r| r.times >= RISEN.0) {
        let of = if r.by_own { "its first reading" } else { "the others" };
        let then = if r.times >= RISEN.1 { "replace it" } else { "test its capacity" };
        said.push((
            format!(
                "unit {} has {:.2} times the resistance of {of} ({}): {then}",
                r.unit,
                r.times,
                day(date)
            ),
            true,
        ));
    }
    if said.is_empty() {
        said.push((format!("resistances of {}: none has risen by a quarter", day(date)), false));
    }
    said
}
