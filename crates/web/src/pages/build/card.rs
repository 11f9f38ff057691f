//! The card for the pocket: on paper, and as one file that a phone opens without a server.

use crate::figures;
use crate::parts::source;
use lake_hour_core::build::Job;
use lake_hour_core::build::card::{self, Card, LEVELS, Left, PRINTED, Pace};
use lake_hour_core::day::Duty;
use lake_hour_core::rig::Dial;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::Measure;
use serde::Serialize;

/// A row of the printed card.
#[derive(Debug, Clone)]
pub(super) struct CardRow {
    /// "80 %".
    pub(super) charge: String,
    /// Below what stays for the way home.
    pub(super) inside: bool,
    pub(super) cells: Vec<CardCell>,
}

/// A cell of it.
#[derive(Debug, Clone)]
pub(super) struct CardCell {
    pub(super) hours: String,
    pub(super) miles: String,
    pub(super) volts: String,
}

/// The card in words.
#[derive(Debug, Clone)]
pub(super) struct CardView {
    /// "set 10", "8 mph".
    pub(super) paces: Vec<String>,
    pub(super) rows: Vec<CardRow>,
    pub(super) by_volts: bool,
    /// Where today's route turns.
    pub(super) turn: String,
    /// What to do when it stops.
    pub(super) stops: [String; 3],
    /// What the figures are of.
    pub(super) basis: String,
    /// Below this charge one goes home.
    pub(super) reserve: String,
}

/// Columns that are printed.
const COLUMNS: usize = 5;

fn pace(pace: Pace, dial: &Dial, say: Say<'_>) -> String {
    match pace {
        Pace::Setting(setting) => figures::setting(dial, setting),
        Pace::Speed(speed) => figures::measure(say.units, Measure::Speed, speed.value(), 0),
    }
}

/// No time at all. [h]
const NOTHING: f64 = 1e-6;

fn hours(left: &Left) -> String {
    match left.hours.map(lake_hour_core::units::Hours::value) {
        None => "days".to_owned(),
        Some(hours) if hours < NOTHING => "-".to_owned(),
        Some(hours) => figures::hours(hours),
    }
}

fn miles(left: &Left, say: Say<'_>) -> String {
    match left.distance {
        Some(distance) if distance.value() > 1.0 => figures::far(distance, say.units),
        _ => String::new(),
    }
}

/// Some of all, the first and the last among them.
fn some<T: Copy>(all: &[T], most: usize) -> Vec<T> {
    if all.len() <= most {
        return all.to_vec();
    }
    let step = (all.len() - 1) as f64 / (most - 1) as f64;
    (0..most).filter_map(|n| all.get((n as f64 * step).round() as usize).copied()).collect()
}

impl CardView {
    pub(super) fn of(job: &Job<'_>, say: Say<'_>) -> Option<Self> {
        let card = card::card(job.plan, job.pack)?;
        let lines: Vec<&card::Line> = some(&card.lines.iter().collect::<Vec<_>>(), COLUMNS);
        let rows = PRINTED.iter().filter_map(|percent| {
            let at = LEVELS.iter().position(|level| level == percent)?;
            let cells = lines.iter().map(|line| CardCell {
                hours: hours(&line.left[at]),
                miles: miles(&line.left[at], say),
                volts: volts(&line.left[at]),
            });
            Some(CardRow {
                charge: format!("{percent} %"),
                inside: f64::from(*percent) / 100.0 <= card.reserve,
                cells: cells.collect(),
            })
        });
        Some(Self {
            paces: lines
                .iter()
                .map(|line| pace(line.pace, &job.plan.rig.motor.dial, say))
                .collect(),
            rows: rows.collect(),
            by_volts: card.by_volts,
            turn: turn(&card, job, say),
            stops: stops(job),
            basis: basis(job, &card, say),
            reserve: figures::percent(card.reserve),
        })
    }
}

fn volts(left: &Left) -> String {
    left.volts.map_or_else(String::new, |v| format!("{:.1} V", v.value()))
}

/// "Turn home at 38 % at the latest".
fn turn(card: &Card, job: &Job<'_>, say: Say<'_>) -> String {
    let boat = job.plan.rig.craft.kind.is_boat();
    let Some(turn) = &card.turn else {
        return if boat {
            "The planned way home takes more than it has: plan another day.".to_owned()
        } else {
            "The last round takes more than it has: plan another day.".to_owned()
        };
    };
    let clock = figures::clock(&job.plan.day, turn.at, say.clock);
    let at = figures::percent(turn.turn_at);
    let (begin, way) =
        if boat { ("Turn home", "the way home") } else { ("Begin the last round", "it") };
    let planned = figures::percent(turn.charge);
    if turn.turn_at > 1.0 {
        return format!(
            "{way} takes {} and does not leave the reserve even from full.",
            figures::percent(turn.takes)
        );
    }
    format!(
        "{begin} at {at} or more: {way} takes {}. By the plan it is {planned} at {clock}.",
        figures::percent(turn.takes)
    )
}

fn stops(job: &Job<'_>) -> [String; 3] {
    let boat = job.plan.rig.craft.kind.is_boat();
    let last = if boat {
        "Paddle, anchor, call. Do not count on a second try."
    } else {
        "Brake, pull off, call. Do not count on a second try."
    };
    if job.pack.battery.chemistry.is_lead() {
        [
            format!(
                "Lead fades, it does not switch off: go on {}.",
                if boat { "at setting 3 or less" } else { "at a walk" }
            ),
            "Ten minutes' rest bring some back. What is drawn below its floor costs life."
                .to_owned(),
            last.to_owned(),
        ]
    } else {
        [
            "Its BMS shut off. Throttle to zero, main switch off, wait a minute.".to_owned(),
            "Switch on: too much current comes back for good; an empty pack gives some seconds."
                .to_owned(),
            last.to_owned(),
        ]
    }
}

fn basis(job: &Job<'_>, card: &Card, say: Say<'_>) -> String {
    let boat = job.plan.rig.craft.kind.is_boat();
    let air = job.plan.day.ambient.map_or_else(String::new, |t| {
        format!(", {}", figures::measure(say.units, Measure::Temperature, t.value(), 0))
    });
    let devices = if job.plan.day.accessory_power().value() > 0.0 { ", devices on" } else { "" };
    let rounds =
        job.plan.day.stretches.iter().any(|s| matches!(s.duty, Duty::Distance(_) | Duty::Speed(_)));
    let (place, more) = match (boat, rounds) {
        (true, _) => ("calm water", " Wind and current take more."),
        (false, true) => ("on your rounds, with their hills, stops and ground", ""),
        (false, false) => ("level asphalt", " Hills, stops and soft ground take more."),
    };
    let full = |line: &card::Line| line.left[0].hours.is_some_and(|h| h.value() < NOTHING);
    let beyond =
        if card.lines.iter().any(full) { " A dash: more than it gives, it shuts off." } else { "" };
    let kept = if card.out_of_reach > card.floor {
        let share = figures::percent(card.out_of_reach);
        format!(" On the planned day the last {share} is out of reach.")
    } else {
        String::new()
    };
    let rests = source::sentence(&source::of_trip(job.plan, job.pack, say.units));
    format!(
        "Until {} is left, which stays in the battery: {place}{devices}{air}.{more}{kept}{beyond} {rests}",
        figures::percent(card.floor),
    )
}

/// What the file's script reads.
#[derive(Serialize)]
struct Data {
    levels: Vec<u32>,
    lines: Vec<DataLine>,
    floor: f64,
    reserve: f64,
}

#[derive(Serialize)]
struct DataLine {
    name: String,
    speed: String,
    hours: Vec<Option<f64>>,
    told: Vec<[String; 3]>,
}

/// The card's figures as its script reads them.
pub(super) fn data(job: &Job<'_>, say: Say<'_>) -> Option<String> {
    let card = card::card(job.plan, job.pack)?;
    let lines = card.lines.iter().map(|line| DataLine {
        name: pace(line.pace, &job.plan.rig.motor.dial, say),
        speed: match line.pace {
            Pace::Setting(_) => {
                line.speed.map_or_else(String::new, |v| figures::speed(v, say.units))
            }
            Pace::Speed(_) => String::new(),
        },
        hours: line
            .left
            .iter()
            .map(|left| left.hours.map(|h| (h.value() * 1e4).round() / 1e4))
            .collect(),
        told: line
            .left
            .iter()
            .map(|left| {
                [
                    hours(left),
                    miles(left, say),
                    if card.by_volts { volts(left) } else { String::new() },
                ]
            })
            .collect(),
    });
    let data = Data {
        levels: LEVELS.to_vec(),
        lines: lines.collect(),
        floor: card.floor,
        reserve: card.reserve,
    };
    // "<" would end the script that it stands in.
    Some(serde_json::to_string(&data).ok()?.replace('<', "\\u003c"))
}
