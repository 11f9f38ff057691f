//! Amps against setting, and amps against speed, as pictures.

use crate::figures;
use lake_hour_core::day::{Conditions, Duty, Heading, Stretch};
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Hours, MetresPerSecond};
use std::fmt::Write as _;

/// Size of the plot inside its axes. [px]
const WIDE: f64 = 460.0;
const HIGH: f64 = 200.0;
const LEFT: f64 = 44.0;
const TOP: f64 = 12.0;

/// A mark on an axis.
#[derive(Debug, Clone)]
pub(crate) struct AxisMark {
    pub(crate) at: String,
    pub(crate) text: String,
}

/// A point that can be dragged.
#[derive(Debug, Clone)]
pub(crate) struct Handle {
    pub(crate) index: usize,
    pub(crate) x: String,
    pub(crate) y: String,
    pub(crate) words: String,
}

/// A curve with its axes.
#[derive(Debug, Clone)]
pub(crate) struct Curve {
    pub(crate) lines: Vec<(&'static str, String)>,
    pub(crate) handles: Vec<Handle>,
    pub(crate) across: Vec<AxisMark>,
    pub(crate) up: Vec<AxisMark>,
    pub(crate) most_amps: f64,
    pub(crate) sentence: String,
    /// What stands across.
    pub(crate) across_words: &'static str,
    /// The picture as rows: what stands across, then amps for each line.
    pub(crate) table: Vec<Vec<String>>,
}

fn x(part: f64) -> f64 {
    LEFT + part.clamp(0.0, 1.0) * WIDE
}

fn y(part: f64) -> f64 {
    TOP + (1.0 - part.clamp(0.0, 1.0)) * HIGH
}

fn path(points: impl Iterator<Item = (f64, f64)>) -> String {
    let mut out = String::new();
    for (px, py) in points {
        // Writing to a string cannot fail.
        let _ = write!(out, "{:.1},{:.1} ", x(px), y(py));
    }
    out
}

/// A round top for an axis: 1, 2 or 5 times a power of ten.
fn round_up(value: f64) -> f64 {
    let power = 10_f64.powf(value.max(0.1).log10().floor());
    let steps = [1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0];
    steps.into_iter().map(|s| s * power).find(|top| *top >= value).unwrap_or(10.0 * power)
}

fn amp_marks(most: f64) -> Vec<AxisMark> {
    [0.0, 0.2, 0.4, 0.6, 0.8, 1.0]
        .map(|part| AxisMark { at: format!("{:.1}", y(part)), text: figures::amount(most * part) })
        .into()
}

/// Amps against setting; `None` when the motor's draw is not known.
pub(crate) fn draw(plan: &Plan) -> Option<Curve> {
    let motor = &plan.rig_as_measured().motor;
    let at = |setting: f64| motor.current_at(setting).map(Amps::value);
    let most = round_up(at(10.0)?.max(motor.full_current().map_or(0.0, Amps::value)));
    let count = f64::from(motor.count);
    let handles = motor.settings.iter().enumerate().map(|(index, p)| Handle {
        index,
        x: format!("{:.1}", x(p.setting / 10.0)),
        y: format!("{:.1}", y(p.current.value() * count / most)),
        words: format!(
            "setting {}: {} A",
            figures::setting(&motor.dial, p.setting),
            figures::amount(p.current.value())
        ),
    });
    let settings = || (0..=100).map(|n| f64::from(n) / 10.0);
    let line = path(settings().map(|s| (s / 10.0, at(s).unwrap_or(0.0) / most)));
    // By its own marks, where it has any.
    let marks = motor.steps().unwrap_or(10);
    let mark = |n: u32| f64::from(n) / f64::from(marks) * 10.0;
    let table = (1..=marks).map(|n| {
        let amps = at(mark(n)).unwrap_or(0.0);
        vec![figures::setting(&motor.dial, mark(n)), format!("{} A", figures::amount(amps))]
    });
    let every = if motor.steps().is_some() { 1 } else { 2 };
    let said = [0.3, 0.7, 1.0].map(|share| motor.nearest_setting(share * 10.0));
    let said = said.map(|s| {
        let amps = figures::amount(at(s).unwrap_or(0.0));
        format!("{amps} A at {}", figures::setting(&motor.dial, s))
    });
    Some(Curve {
        lines: vec![("likely", line)],
        handles: handles.collect(),
        across: (0..=marks)
            .step_by(every)
            .map(|n| AxisMark {
                at: format!("{:.1}", x(mark(n) / 10.0)),
                text: figures::setting(&motor.dial, mark(n)),
            })
            .collect(),
        up: amp_marks(most),
        most_amps: most / count,
        across_words: "setting",
        sentence: format!("Amps by motor setting: {}", said.join(", ")),
        table: table.collect(),
    })
}

/// Amps against speed over the ground, in a calm and in the day's wind and current.
pub(crate) fn speed(plan: &Plan, units: System) -> Curve {
    let rig = &plan.rig_as_measured();
    let boat = rig.craft.kind.is_boat();
    let step = if boat { 0.5 } else { 2.5 };
    let factor = units.unit(Measure::Speed).factor;
    let fastest = round_up(if boat { 5.0 } else { 20.0 });
    let volts = rig.motor.reads_at().value();
    // Without the motor's limit: the curve shows what the water asks.
    let mut free = rig.clone();
    free.motor.max_current = None;
    free.motor.thrust = None;
    free.motor.settings.clear();
    let asked = |v: f64, now: &Conditions| {
        let duty = Duty::Speed(MetresPerSecond::of(v * factor));
        let stretch = Stretch { heading: Heading::Into, ..Stretch::new("", Hours::of(1.0), duty) };
        propulsion::implied(&free, &stretch, now).map_or(0.0, |i| i.watts.value() / volts)
    };
    let windy = plan.day.conditions;
    let blows = windy.wind.value() > 0.0 || windy.current.value() > 0.0;
    let full = rig.motor.full_current().map(Amps::value);
    let most = round_up(full.unwrap_or_else(|| asked(fastest * 0.7, &Conditions::CALM)) * 1.1);
    let speeds = || (0..=100).map(move |n| fastest * f64::from(n) / 100.0);
    let line = |now: &Conditions| {
        let points = speeds().map(|v| (v / fastest, asked(v, now) / most));
        // A curve that leaves the plot ends where it leaves it.
        path(points.take_while(|(_, up)| *up <= 1.0))
    };
    let mut lines = vec![("likely", line(&Conditions::CALM))];
    if blows {
        lines.push(("windy", line(&windy)));
    }
    if let Some(full) = full {
        lines.push(("limit", path([(0.0, full / most), (1.0, full / most)].into_iter())));
    }
    let handles = rig.measured.iter().enumerate().map(|(index, p)| Handle {
        index,
        x: format!("{:.1}", x(p.speed.value() / factor / fastest)),
        y: format!("{:.1}", y(p.current.value() / most)),
        words: format!(
            "measured: {} at {} A",
            figures::speed(p.speed, units),
            figures::amount(p.current.value())
        ),
    });
    let name = units.unit(Measure::Speed).name;
    let count = (fastest / step) as u32;
    let table = (1..=count).map(|n| {
        let v = f64::from(n) * step;
        let amps = |now: &Conditions| format!("{} A", figures::amount(asked(v, now)));
        let mut row = vec![format!("{} {name}", figures::amount(v)), amps(&Conditions::CALM)];
        if blows {
            row.push(amps(&windy));
        }
        row
    });
    Curve {
        lines,
        handles: handles.collect(),
        across: (0..=5)
            .map(|n| {
                let part = f64::from(n) / 5.0;
                let text = figures::amount(fastest * part);
                AxisMark { at: format!("{:.1}", x(part)), text }
            })
            .collect(),
        up: amp_marks(most),
        most_amps: most,
        across_words: name,
        sentence: format!(
            "Amps by speed in {name}, in a calm{}",
            if blows { " and into the day's wind and current" } else { "" }
        ),
        table: table.collect(),
    }
}
