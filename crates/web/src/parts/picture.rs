//! A lane as a drawing: water over a bed, along the day.
//!
//! Everything is in parts of a thousand across and of a hundred down; the drawing is stretched to
//! its place, with lines that keep their width.

use super::decision::About;
use crate::figures;
use lake_hour_core::day::Day;
use lake_hour_core::drawdown::{Ended, Point};
use lake_hour_core::units::Hours;
use lake_hour_core::units::say::Clock;
use lake_hour_core::verdict::{BandPoint, Drawn, Outcome};
use std::fmt::Write as _;

/// Where a full charge and an empty one stand.
const FULL_AT: f64 = 5.0;
const EMPTY_AT: f64 = 97.0;

/// A mark on the lane at its time.
#[derive(Debug, Clone)]
pub(crate) struct Mark {
    /// Across, in percent.
    pub(crate) at: String,
    pub(crate) text: String,
    /// Whether the text stands left of the mark, for want of room.
    pub(crate) left: bool,
    /// How far down the text stands: marks of an ended day share the top row with nothing else. [px]
    pub(crate) down: u32,
    /// Heavier: the day ended here.
    pub(crate) ends: bool,
}

/// The drawing of one lane.
#[derive(Debug, Clone)]
pub(crate) struct Picture {
    /// The charge through the day.
    pub(crate) line: String,
    /// All below the charge, down to the bed.
    pub(crate) water: String,
    /// The depth tints, light to deep: (top, height).
    pub(crate) tints: [(String, String); 3],
    /// Top of the bed and its height.
    pub(crate) bed: (String, String),
    pub(crate) reserve_at: String,
    /// From a bad day to a good one.
    pub(crate) band: String,
    /// Where the charge has gone below the bed's top.
    pub(crate) below: Option<String>,
    /// What cold and draw keep out of reach, from the bottom up: ice on the bed, where there is any to see.
    pub(crate) ice: Option<String>,
    /// Where the day goes on without this pack: (from, width).
    pub(crate) dry: Option<(String, String)>,
    pub(crate) marks: Vec<Mark>,
    /// The drawing in a sentence.
    pub(crate) sentence: String,
}

fn x(at: f64, day: f64) -> f64 {
    if day > 0.0 { (at / day * 1000.0).clamp(0.0, 1000.0) } else { 0.0 }
}

fn y(charge: f64) -> f64 {
    FULL_AT + (1.0 - charge.clamp(0.0, 1.0)) * (EMPTY_AT - FULL_AT)
}

fn path(points: impl IntoIterator<Item = (f64, f64)>) -> String {
    let mut out = String::new();
    for (x, y) in points {
        // Writing to a string cannot fail.
        let _ = write!(out, "{x:.1},{y:.1} ");
    }
    out.truncate(out.trim_end().len());
    out
}

/// The points of a line up to some hours, the last one on the way to the next.
fn within(points: &[Point], hours: f64) -> impl Iterator<Item = (f64, f64)> {
    let told = points.iter().take_while(move |p| p.at.value() <= hours + 1e-9);
    let beyond = points.iter().position(move |p| p.at.value() > hours + 1e-9).filter(|n| *n > 0);
    let edge = beyond.map(|n| {
        let (a, b) = (&points[n - 1], &points[n]);
        let share = (hours - a.at.value()) / (b.at - a.at).value();
        (hours, a.charge + share * (b.charge - a.charge))
    });
    told.map(|p| (p.at.value(), p.charge)).chain(edge)
}

impl Picture {
    pub(crate) fn of(drawn: &Drawn, outcome: Outcome, about: About<'_>) -> Self {
        let (day, name, face) = (&about.plan.day, &about.pack.name, about.say.clock);
        let length = day.span().value();
        let at = |t: Hours| x(t.value(), length);
        // What takes longer than planned goes on beyond the picture's edge.
        let line: Vec<(f64, f64)> =
            within(&drawn.points, length).map(|(t, charge)| (x(t, length), y(charge))).collect();
        let last = line.last().copied().unwrap_or((0.0, FULL_AT));
        let floor = y(drawn.floor);
        let mut water = line.clone();
        water.extend([(last.0, 100.0), (0.0, 100.0)]);
        let band_points = &drawn.band.points;
        // The band ends where the likely day does.
        let end = drawn.ended_early_at().unwrap_or(day.span());
        let low = clipped(band_points, end, |p| p.low);
        let high = clipped(band_points, end, |p| p.high);
        let edge = low.into_iter().chain(high.into_iter().rev()).map(|(t, c)| (at(t), y(c)));
        let third = (floor - y(1.0)) / 3.0;
        let tints = [0.0, 1.0, 2.0]
            .map(|n| (format!("{:.2}", y(1.0) + third * n), format!("{:.2}", third + 0.2)));
        let below = drawn.summary.floor_at.map(|from| {
            let mut under = vec![(at(from), floor)];
            under.extend(line.iter().copied().filter(|p| p.1 > floor));
            under.push((last.0, floor));
            path(under)
        });
        let dry = drawn
            .ended_early_at()
            .map(|t| (format!("{:.1}", at(t)), format!("{:.1}", 1000.0 - at(t))));
        Self {
            water: path(water),
            line: path(line),
            tints,
            bed: (format!("{floor:.2}"), format!("{:.2}", 100.0 - floor)),
            reserve_at: format!("{:.2}", y(drawn.reserve)),
            band: path(edge),
            below,
            ice: ice(drawn, at),
            dry,
            marks: marks(drawn, day, length, face),
            sentence: sentence(drawn, outcome, day, name, face),
        }
    }
}

/// Less ice than this is not seen. [charge]
const SEEN: f64 = 0.04;

/// What is out of reach through the day, as an area from the bottom up; it steps where the draw does.
fn ice(drawn: &Drawn, at: impl Fn(Hours) -> f64) -> Option<String> {
    if drawn.ice.iter().all(|(_, share)| *share < SEEN) {
        return None;
    }
    let (first, last) = (drawn.ice.first()?, drawn.ice.last()?);
    let mut edge = vec![(at(first.0), 100.0), (at(first.0), y(first.1))];
    for pair in drawn.ice.windows(2) {
        // What is drawn until a point has been drawn since the one before.
        edge.extend([(at(pair[0].0), y(pair[1].1)), (at(pair[1].0), y(pair[1].1))]);
    }
    edge.push((at(last.0), 100.0));
    edge.dedup();
    Some(path(edge))
}

/// One edge of the band up to a time, cut there between its points.
fn clipped(band: &[BandPoint], end: Hours, edge: impl Fn(&BandPoint) -> f64) -> Vec<(Hours, f64)> {
    let mut out: Vec<(Hours, f64)> =
        band.iter().take_while(|p| p.at <= end).map(|p| (p.at, edge(p))).collect();
    if let (Some(&(t0, c0)), Some(next)) = (out.last(), band.get(out.len())) {
        out.push((end, c0 + (edge(next) - c0) * ((end - t0) / (next.at - t0))));
    }
    out
}

/// Events as marks, those that end the day last.
fn marks(drawn: &Drawn, day: &Day, length: f64, face: Clock) -> Vec<Mark> {
    let ended = drawn.ended_early_at();
    let day_is_done = ended.is_none();
    let across = |t: Hours| x(t.value(), length);
    let mark = |at: Hours, text: String, ends: bool| Mark {
        at: format!("{:.2}%", across(at) / 10.0),
        text,
        // Text of an earlier event must not run into the mark where the day ends.
        left: across(at) > 660.0 || ended.is_some_and(|e| at < e && across(e - at) < 220.0),
        down: if ends || day_is_done { 18 } else { 36 },
        ends,
    };
    let clock = |t: Hours| figures::clock(day, t, face);
    let mut marks = Vec::new();
    if let Some(t) = drawn.summary.floor_at
        // Two marks on one spot can't be read.
        && ended.is_none_or(|e| (e - t).value().abs() > 0.02 * length)
    {
        marks.push(mark(t, format!("floor at {}", clock(t)), false));
    }
    if let Some(t) = drawn.summary.string_out_at {
        marks.push(mark(t, format!("weak string shuts off {}", clock(t)), false));
    }
    match drawn.summary.ended {
        Ended::DayDone => {}
        Ended::Stopped { at, .. } => marks.push(mark(at, format!("stops at {}", clock(at)), true)),
        Ended::Tripped { at, .. } => {
            marks.push(mark(at, format!("BMS shuts off at {}", clock(at)), true));
        }
    }
    marks
}

fn sentence(drawn: &Drawn, outcome: Outcome, day: &Day, name: &str, face: Clock) -> String {
    let clock = |t: Hours| figures::clock(day, t, face);
    let mut out = format!(
        "{name}: charge falls from 100 % to {}",
        figures::percent(drawn.summary.charge_left)
    );
    let (low, high) = (figures::percent(drawn.band.low), figures::percent(drawn.band.high));
    let _ = write!(out, " ({low} on a bad day, {high} on a good one).");
    let _ = write!(out, " {} stays in the battery.", figures::percent(drawn.floor));
    if drawn.out_of_reach >= SEEN {
        let share = figures::percent(drawn.out_of_reach);
        let _ = write!(out, " At the end {share} of the charge is out of reach of the way home.");
    }
    if let Some(t) = drawn.summary.reserve_at {
        let _ = write!(out, " Reserve touched at {}.", clock(t));
    }
    if let Some(t) = drawn.summary.floor_at {
        let _ = write!(out, " Floor reached at {}.", clock(t));
    }
    if let Some(t) = drawn.ended_early_at() {
        let word = if outcome == Outcome::Trips { "Its BMS shuts off on current" } else { "Stops" };
        let _ = write!(out, " {word} at {}.", clock(t));
    }
    out
}
