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

/// A cause with what it made, in points of charge.
#[derive(Debug, Clone)]
pub(super) struct CauseView {
    pub(super) words: String,
    pub(super) points: String,
}

/// One outing as it is drawn.
#[derive(Debug, Clone)]
pub(super) struct OutingView {
    pub(super) title: String,
    pub(super) pack: String,
    pub(super) picture: Picture,
    /// How it went: only its two ends are known.
    pub(super) line: String,
    pub(super) planned: String,
    /// Where the words about plan and truth stand, down, in percent.
    pub(super) planned_at: String,
    pub(super) went: String,
    pub(super) went_at: String,
    /// "14 points lower than planned".
    pub(super) more: String,
    pub(super) causes: Vec<CauseView>,
    /// Why what is left differs, or that it cannot be told.
    pub(super) why: String,
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
        let span = went.plan.day.span().value();
        let planned_use = went.starts_at - went.left_planned;
        let used = went.starts_at - went.left;
        let times = if planned_use > 1e-6 { used / planned_use } else { 0.0 };
        let x = |at: f64| if span > 0.0 { at / span * 1000.0 } else { 0.0 };
        // The way there is drawn as the plan's, to the end that is known.
        let mut line = vec![(0.0, went.starts_at)];
        let told = charge_line(o, recorded, went.starts_at);
        if let Some(last) = told.last().map(|p| p.0).filter(|last| *last > 0.0) {
            line.extend(told.iter().map(|(at, charge)| (at / last * 1000.0, *charge)));
        } else if planned_use > 1e-6 {
            line.extend(
                drawn.points.iter().map(|p| {
                    (x(p.at.value()), went.starts_at - (went.starts_at - p.charge) * times)
                }),
            );
        }
        line.push((1000.0, went.left));
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
            p if p.abs() < 3.0 => "As planned".to_owned(),
            p if p > 0.0 => format!("{p:.0} points lower than planned"),
            p => format!("{:.0} points higher than planned", -p),
        };
        let day = &went.plan.day;
        let clocks = (0..=4).map(|n| {
            let at = lake_hour_core::units::Hours::of(span * f64::from(n) / 4.0);
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
            planned_at: within(planned_at),
            went_at: within(went_at),
            causes: causes(o, &went, say),
            why: why(&went),
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

fn causes(o: &Outing, went: &Went, say: Say<'_>) -> Vec<CauseView> {
    let shown = went.causes.iter().filter(|(_, made)| made.abs() >= 0.005);
    shown
        .map(|(cause, made)| {
            let more = if *made > 0.0 { "more" } else { "less" };
            let words = match cause {
                Cause::Length => {
                    let hours = o.lasted().value();
                    format!(
                        "{} instead of {}",
                        figures::hours(hours),
                        figures::hours(o.plan.day.lasts().value())
                    )
                }
                Cause::Wind => {
                    let speed = |v: f64| figures::measure(say.units, Measure::Speed, v, 0);
                    let was = o.wind.map_or(0.0, MetresPerSecond::value);
                    let told = o.plan.day.conditions.wind.value();
                    format!("wind {} instead of {}", speed(was), speed(told))
                }
                Cause::Known => format!("{more} than typical, as the log knew by then"),
                Cause::Rest => match named(went.difference.as_ref(), *made) {
                    Some(words) => words,
                    None => format!("{more}, not explained"),
                },
            };
            CauseView {
                words,
                points: format!("{}{}", if *made > 0.0 { "" } else { "-" }, points(*made)),
            }
        })
        .collect()
}

/// The one reason that can be named.
fn named(difference: Option<&Difference>, made: f64) -> Option<String> {
    let share = difference?.named()?;
    Some(reason(share.reason, made > 0.0))
}

fn reason(reason: Reason, more: bool) -> String {
    let than = if more { "more" } else { "less" };
    match reason {
        Reason::Factor(Factor::Draw) => format!("the motor draws {than} than its curve says"),
        Reason::Factor(Factor::Drag) => format!("it takes {than} for its speed"),
        Reason::Factor(Factor::Wind) => format!("the wind pushes {than}"),
        Reason::Factor(Factor::Capacity) => {
            let than = if more { "less" } else { "more" };
            format!("the pack holds {than}")
        }
        Reason::WindOfDay => {
            format!("{} wind than was told", if more { "more" } else { "less" })
        }
        Reason::Timing => {
            format!("{} time at it than planned", if more { "more" } else { "less" })
        }
        Reason::Meter => "the reading itself".to_owned(),
    }
}

fn why(went: &Went) -> String {
    let Some(d) = &went.difference else {
        return String::new();
    };
    if d.is_usual() {
        return format!(
            "What is not explained is usual: such days differ by {} points",
            points(d.usual).max("1".to_owned())
        );
    }
    match d.named() {
        Some(_) => String::new(),
        None => {
            let two: Vec<String> =
                d.shares.iter().take(2).map(|s| reason(s.reason, d.more > 0.0)).collect();
            format!("It cannot be told apart: {}", two.join(", or "))
        }
    }
}
