//! The day above the lanes: its stretches as blocks, and as rows to edit.

use super::Draft;
use super::view::{Open, View};
use crate::figures;
use crate::forms::{self, Field, Problems, Typed};
use lake_hour_core::day::{self, Day, Duty};
use lake_hour_core::rig::Rig;
use lake_hour_store::Board;

/// A stretch as a block on the time axis.
#[derive(Debug, Clone)]
pub(crate) struct Block {
    /// Across, in percent: where it starts and how wide it is.
    pub(crate) x: String,
    pub(crate) width: String,
    /// Whether there is room for its words.
    pub(crate) roomy: bool,
    /// Down, in pixels: where its top is and how high it is.
    pub(crate) top: String,
    pub(crate) height: String,
    /// What its texture tells: `steady`, `holds`, `setting`, `off`.
    pub(crate) kind: &'static str,
    pub(crate) amps: String,
    pub(crate) name: String,
    pub(crate) sentence: String,
}

/// An hour on the time axis.
#[derive(Debug, Clone)]
pub(crate) struct Tick {
    pub(crate) at: String,
    pub(crate) text: String,
}

/// A stretch as a row of fields.
#[derive(Debug, Clone)]
pub(crate) struct Row {
    /// Zero for the row of a new one.
    pub(crate) id: i64,
    pub(crate) typed: Typed,
    pub(crate) problems: Problems,
    /// Clock times, ampere-hours and watt-hours it comes to.
    pub(crate) when: String,
    pub(crate) comes_to: String,
    pub(crate) first: bool,
    pub(crate) last: bool,
}

impl Row {
    pub(crate) fn value(&self, name: &str) -> &str {
        self.typed.get(name)
    }

    pub(crate) fn problem(&self, name: &str) -> Option<&str> {
        self.problems.get(name)
    }

    pub(crate) fn is(&self, kind: &str) -> bool {
        self.typed.get("kind") == kind
    }

    pub(crate) const fn kinds(&self) -> &'static [(&'static str, &'static str)] {
        forms::stretch::KINDS
    }
}

/// The day above the lanes.
#[derive(Debug, Clone)]
pub(crate) struct DayView {
    pub(crate) blocks: Vec<Block>,
    pub(crate) ticks: Vec<Tick>,
    pub(crate) take_out: String,
    pub(crate) lasts: String,
    pub(crate) stretches: usize,
    /// Open for editing.
    pub(crate) rows: Option<Vec<Row>>,
    pub(crate) fields: Vec<Field>,
    pub(crate) totals: String,
}

/// Pixels between the top of the tallest block and the axis.
const TALLEST: f64 = 46.0;
/// Pixels from the top to the axis.
const AXIS_AT: f64 = 96.0;

impl DayView {
    pub(crate) fn new(board: &Board, view: View, draft: Option<&Draft>) -> Self {
        let (day, rig) = (&board.plan.day, &board.plan.rig);
        let open = view.open == Open::Day;
        let hours = day.lasts().value();
        let amps: Vec<f64> = day.stretches.iter().map(|s| nominal_amps(rig, s.duty)).collect();
        let charge: f64 =
            std::iter::zip(&day.stretches, &amps).map(|(s, amps)| s.lasts.value() * amps).sum();
        let volts = rig.motor.system_voltage.value();
        let none = Problems::default();
        let (typed, problems) = match draft {
            Some(d) if d.of == Open::Day => (d.typed.clone(), &d.problems),
            _ => (forms::settings::day_typed(day), &none),
        };
        Self {
            blocks: blocks(day, &amps, hours),
            ticks: ticks(day, hours),
            take_out: figures::clock(day, hours),
            lasts: figures::duration(hours),
            stretches: day.stretches.len(),
            rows: open.then(|| rows(board, &amps, draft)),
            fields: forms::settings::day_fields(&typed, problems),
            totals: format!(
                "{}, {} Ah, {} at {} V",
                figures::duration(hours),
                figures::amount(charge),
                figures::energy(charge * volts),
                figures::amount(volts)
            ),
        }
    }
}

/// Amps of a duty at the system's nominal voltage, devices not counted: what the day's picture and
/// sums show. Each lane counts at its own voltage.
pub(crate) fn nominal_amps(rig: &Rig, duty: Duty) -> f64 {
    match duty {
        Duty::Off => 0.0,
        Duty::Current(a) => a.value(),
        Duty::Power(w) => (w / rig.motor.system_voltage).value(),
        Duty::Setting(s) => rig.motor.current_at(s).map_or(0.0, lake_hour_core::units::Amps::value),
    }
}

fn blocks(day: &Day, amps: &[f64], hours: f64) -> Vec<Block> {
    let most = amps.iter().copied().fold(1.0, f64::max);
    let mut clock = 0.0;
    std::iter::zip(&day.stretches, amps)
        .map(|(stretch, &amps)| {
            let (start, lasts) = (clock, stretch.lasts.value());
            clock += lasts;
            let part = if hours > 0.0 { lasts / hours } else { 0.0 };
            let height = (amps / most * TALLEST).max(2.0);
            let kind = match stretch.duty {
                Duty::Off => "off",
                Duty::Current(_) => "steady",
                Duty::Power(_) => "holds",
                Duty::Setting(_) => "setting",
            };
            let draw = match stretch.duty {
                Duty::Off => "off".to_owned(),
                _ => format!("{} A", figures::amount(amps)),
            };
            Block {
                x: format!("{:.3}%", if hours > 0.0 { start / hours * 100.0 } else { 0.0 }),
                // A hair of space between neighbours.
                width: format!("{:.3}%", (part * 100.0 - 0.15).max(0.1)),
                roomy: part > 0.045,
                top: format!("{:.1}", AXIS_AT - height),
                height: format!("{height:.1}"),
                kind,
                sentence: format!(
                    "{}: {draw} for {} from {}",
                    stretch.name,
                    figures::duration(lasts),
                    figures::clock(day, start)
                ),
                amps: draw,
                name: stretch.name.clone(),
            }
        })
        .collect()
}

/// Round clock times, at most some nine of them.
fn ticks(day: &Day, hours: f64) -> Vec<Tick> {
    let step = [0.25, 0.5, 1.0, 2.0, 3.0, 4.0, 6.0, 12.0, 24.0]
        .into_iter()
        .find(|step| hours / step <= 9.0)
        .unwrap_or(48.0);
    let start = f64::from(day.start_minute) / 60.0;
    let mut at = (start / step).ceil() * step - start;
    let mut ticks = Vec::new();
    while at <= hours + 1e-9 && hours > 0.0 {
        // The last words would stick out.
        if at / hours < 0.94 {
            let minute = day.clock_minute(lake_hour_core::units::Hours::of(at));
            ticks.push(Tick {
                at: format!("{:.3}%", at / hours * 100.0),
                text: day::clock_words(minute),
            });
        }
        at += step;
    }
    ticks
}

fn rows(board: &Board, amps: &[f64], draft: Option<&Draft>) -> Vec<Row> {
    let day = &board.plan.day;
    let volts = board.plan.rig.motor.system_voltage.value();
    let count = day.stretches.len();
    let mut clock = 0.0;
    let mut rows: Vec<Row> = (0..count)
        .map(|n| {
            let (stretch, id) = (&day.stretches[n], board.stretches[n].0);
            let (start, lasts) = (clock, stretch.lasts.value());
            clock += lasts;
            let mine = draft.filter(|d| d.of == Open::Stretch(id));
            let ah = amps[n] * lasts;
            Row {
                id,
                typed: mine.map_or_else(|| forms::stretch::typed(stretch), |d| d.typed.clone()),
                problems: mine.map(|d| d.problems.clone()).unwrap_or_default(),
                when: format!(
                    "{} to {}",
                    figures::clock(day, start),
                    figures::clock(day, start + lasts)
                ),
                comes_to: format!("{} Ah, {}", figures::amount(ah), figures::energy(ah * volts)),
                first: n == 0,
                last: n + 1 == count,
            }
        })
        .collect();
    let new = draft.filter(|d| d.of == Open::NewStretch);
    rows.push(Row {
        id: 0,
        typed: new.map_or_else(|| Typed::default().with("kind", "current"), |d| d.typed.clone()),
        problems: new.map(|d| d.problems.clone()).unwrap_or_default(),
        when: format!("from {}", figures::clock(day, clock)),
        comes_to: String::new(),
        first: true,
        last: true,
    });
    rows
}
