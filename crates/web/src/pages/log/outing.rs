//! One outing beside its plan: what was predicted as water, how it went as a line, and why.

use super::rows;
use crate::figures;
use crate::parts::decision::About;
use crate::parts::picture::Picture;
use lake_hour_core::learn::{Ageing, Difference, Entry, Factor, Meter, Reason};
use lake_hour_core::log::{Cause, Outing, Went, thinned, told_capacity};
use lake_hour_core::units::MetresPerSecond;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use lake_hour_core::verdict;
use lake_hour_formats::monitor::{GAP, Sample};

/// One outing as it is drawn.
#[derive(Debug, Clone)]
pub(super) struct OutingView {
    pub(super) title: String,
    pub(super) pack: String,
    pub(super) picture: Picture,
    /// How it went: only its two ends are known.
    pub(super) line: String,
    /// How much of the width the planned day takes.
    pub(super) wide: String,
    /// How far the line may go, where the planned day is 1000.
    pub(super) axis: String,
    pub(super) planned: String,
    /// Where the words about plan and truth stand, down, in percent.
    pub(super) planned_at: String,
    pub(super) went: String,
    pub(super) went_at: String,
    /// "14 points lower than planned".
    pub(super) more: String,
    /// Why, in sentences.
    pub(super) causes: Vec<String>,
    pub(super) known: String,
    /// Times of the day.
    pub(super) clocks: Vec<(String, String)>,
    pub(super) sentence: String,
    /// The line is what a monitor recorded.
    pub(super) recorded: bool,
}

/// Points of a line.
const POINTS: usize = 480;

/// Charge along an outing as a monitor recorded it, few points of it: seconds and charge. What it counted less a row's share of
/// the capacity; gaps count nothing.
fn charge_line(o: &Outing, recorded: &[Sample], starts_at: f64) -> Vec<(f64, f64)> {
    let Some(whole) = o.pack().and_then(told_capacity) else { return Vec::new() };
    let mut used = 0.0;
    let mut line = Vec::with_capacity(recorded.len());
    for (n, s) in recorded.iter().enumerate() {
        if let Some(before) = n.checked_sub(1).map(|n| recorded[n])
            && before.amps.is_finite()
            && s.at - before.at <= GAP
        {
            used += f64::from(before.amps) * f64::from(s.at - before.at) / 3600.0;
        }
        line.push((f64::from(s.at), starts_at - used / whole.value()));
    }
    thinned(&line, POINTS)
}

/// Within this it went as planned. [charge]
const AS_PLANNED: f64 = 0.03;
/// How far a text stands from its line, in percent of the height.
const APART: f64 = 8.0;

impl OutingView {
    pub(super) fn of(
        (id, o): (i64, &Outing),
        (entries, ageing): (&[Entry], Ageing),
        recorded: &[Sample],
        say: Say<'_>,
    ) -> Option<Self> {
        let went = o.went(id, entries, ageing).ok()?;
        let drawn = went.planned.drawn.as_ref()?;
        let course = verdict::course(&went.plan.rig_as_measured(), &went.plan.day);
        let pack = o.pack()?;
        let about = About { plan: &went.plan, pack, course: &course, say };
        let picture = Picture::of(drawn, went.planned.outcome, about);
        let span = went.plan.day.span().value().max(1e-3);
        let planned_use = went.starts_at - went.left_planned;
        let used = went.starts_at - went.left;
        let times = if planned_use > 1e-6 { used / planned_use } else { 0.0 };
        // Both are drawn by one clock: as long as the longer of them.
        let x = |at: f64| at / span * 1000.0;
        // The way there is drawn as the plan's, to the end that is known.
        let mut line = vec![(0.0, went.starts_at)];
        let told = charge_line(o, recorded, went.starts_at);
        let lasted = told.last().map(|p| p.0 / 3600.0).filter(|last| *last > 0.0);
        let ends = lasted.unwrap_or_else(|| o.lasted().value());
        if lasted.is_some() {
            line.extend(told.iter().map(|(at, charge)| (x(at / 3600.0), *charge)));
        } else if planned_use > 1e-6 {
            let stretched = ends / span;
            line.extend(drawn.points.iter().map(|p| {
                let at = x(p.at.value() * stretched);
                (at, went.starts_at - (went.starts_at - p.charge) * times)
            }));
        }
        line.push((x(ends), went.left));
        let axis = span.max(ends);
        let y = |charge: f64| 5.0 + (1.0 - charge.clamp(0.0, 1.0)) * 92.0;
        let line: Vec<String> =
            line.into_iter().map(|(x, charge)| format!("{x:.1},{:.1}", y(charge))).collect();
        let (planned_at, went_at) = (y(went.left_planned), y(went.left));
        // The text of the higher line stands above it, that of the lower one below: neither on a line nor on the other.
        let (planned_at, went_at) = if went_at > planned_at {
            (planned_at - APART, went_at + APART)
        } else {
            (planned_at + APART, went_at - APART)
        };
        let within = |y: f64| format!("{:.1}%", y.clamp(8.0, 96.0));
        let points = (went.more() * 100.0).round();
        let more = match points {
            p if p.abs() < AS_PLANNED * 100.0 => "As planned".to_owned(),
            p => format!(
                "Ended at {}, {} points {} plan",
                figures::percent(went.left),
                p.abs(),
                if p > 0.0 { "below" } else { "above" }
            ),
        };
        let day = &went.plan.day;
        let clocks = (0..=4).map(|n| {
            let at = lake_hour_core::units::Hours::of(axis * f64::from(n) / 4.0);
            (format!("{}%", n * 25), figures::clock(day, at, say.clock))
        });
        let planned = format!("as planned: {}", figures::percent(went.left_planned));
        let end = format!("as it went: {}", figures::percent(went.left));
        Some(Self {
            title: format!("{}, {}", rows::day(o.date), o.name),
            pack: pack.name.clone(),
            sentence: format!(
                "{} {}. {}; {}.",
                picture.sentence,
                more,
                figures::capital(&planned),
                end
            ),
            line: line.join(" "),
            wide: format!("{:.1}%", span / axis * 100.0),
            axis: format!("{:.1}", axis / span * 1000.0),
            planned_at: within(planned_at),
            went_at: within(went_at),
            causes: causes(o, &went, say),
            known: match went.by {
                Meter::Shunt => "Known by the amp-hours of a meter".to_owned(),
                Meter::Percent => "Known by a meter's percent, to 6 points".to_owned(),
                Meter::Volts { points } => format!("Known by rested volts, to {points} points"),
                Meter::Feel => "Known by feel, to 12 points".to_owned(),
            },
            planned,
            went: end,
            more,
            clocks: clocks.collect(),
            recorded: !told.is_empty(),
            picture,
        })
    }
}

fn points(share: f64) -> String {
    format!("{:.0}", (share * 100.0).abs().round())
}

/// Smaller than this is not spoken of. [charge]
const SMALL: f64 = 0.015;

/// Why it went otherwise: what is known to have been otherwise, what the log had learned, and what one reason explains of the rest;
/// of what goes the other way nothing is said, but what was measured.
fn causes(o: &Outing, went: &Went, say: Say<'_>) -> Vec<String> {
    let whole = went.more();
    if whole.abs() < AS_PLANNED {
        return Vec::new();
    }
    let mut said = Vec::new();
    let mut left = whole;
    let total = points(whole);
    for (cause, made) in went.causes.iter().filter(|(_, made)| made.abs() >= SMALL) {
        let with = made.signum() == whole.signum();
        // No more is explained than there is.
        let explained = made.abs().min(left.abs());
        let of = format!("{} of the {total} points", points(explained));
        let more = *made > 0.0;
        let words = match cause {
            Cause::Length => {
                let (was, planned) = (o.lasted().value(), o.plan.day.lasts().value());
                let (was, planned) = (figures::hours(was), figures::hours(planned));
                let makes = if with { format!("that explains {of}") } else { saved(more, *made) };
                format!("The outing lasted {was} instead of {planned}; {makes}")
            }
            Cause::Wind => {
                let speed = |v: f64| figures::measure(say.units, Measure::Speed, v, 0);
                let was = speed(o.wind.map_or(0.0, MetresPerSecond::value));
                let told = speed(o.plan.day.conditions.wind.value());
                let makes = if with { format!("that explains {of}") } else { saved(more, *made) };
                format!("Wind was {was} instead of {told}; {makes}")
            }
            _ if !with || explained < SMALL => continue,
            Cause::Known => {
                let than = if more { "more" } else { "less" };
                format!(
                    "Your earlier outings had taught that it takes {than} than we assumed; that explains {of}"
                )
            }
            Cause::Rest => match went.difference.as_ref() {
                Some(d) if d.is_usual() => format!(
                    "The last {} are as usual: such days differ by {} points",
                    points(explained),
                    points(d.usual).max("1".to_owned())
                ),
                d => match d.and_then(Difference::named) {
                    Some(share) => {
                        format!("{}; that explains {of}", reason(share.reason, more))
                    }
                    None => format!(
                        "{} points cannot be told from one outing: note the amps at one setting next time",
                        points(explained)
                    ),
                },
            },
        };
        if with {
            left -= made.signum() * explained;
        }
        said.push(words);
    }
    said
}

/// What went the other way.
fn saved(more: bool, made: f64) -> String {
    format!("that {} {} points", if more { "cost" } else { "saved" }, points(made))
}

/// A reason in plain words.
fn reason(reason: Reason, more: bool) -> String {
    let than = if more { "more" } else { "less" };
    match reason {
        Reason::Factor(Factor::Draw) => format!("Your motor draws {than} than we assumed"),
        Reason::Factor(Factor::Drag) if more => {
            "The hull is harder to push than we assumed".to_owned()
        }
        Reason::Factor(Factor::Drag) => "The hull is easier to push than we assumed".to_owned(),
        Reason::Factor(Factor::Wind) => format!("Wind pushes this craft {than} than we assumed"),
        Reason::Factor(Factor::Capacity) => {
            let than = if more { "less" } else { "more" };
            format!("The pack holds {than} than we assumed")
        }
        Reason::WindOfDay => format!("There was {than} wind than you typed"),
        Reason::Timing => format!("You spent {than} time under power than planned"),
        Reason::Between => {
            format!(
                "At the settings and speeds you did not measure it draws {than} than we assumed"
            )
        }
        Reason::Meter => "The reading itself may be off".to_owned(),
    }
}
