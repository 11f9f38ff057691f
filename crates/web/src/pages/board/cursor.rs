//! The line that is moved through the day: what every pack has at each of its moments, for the page's own script.

use crate::figures;
use crate::frame::look::Look;
use crate::frame::weighed::{OnBoard, Weighed};
use crate::parts::lane::Fade;
use lake_hour_core::decide::moments::Moment;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::Mark;
use lake_hour_core::units::system::Measure;
use serde::Serialize;
use std::fmt::Write as _;

/// All lanes through the day; figures in the units shown.
#[derive(Serialize)]
pub(crate) struct CursorDocument {
    /// Hours from the start.
    times: Vec<f64>,
    clocks: Vec<String>,
    speeds: Vec<Option<f64>>,
    speed_unit: &'static str,
    far_unit: &'static str,
    boat: bool,
    lanes: Vec<LaneDocument>,
}

/// One lane. Its lists end where the pack does.
#[derive(Serialize)]
struct LaneDocument {
    id: i64,
    name: String,
    floor: f64,
    charge: Vec<f64>,
    volts: Vec<Option<f64>>,
    amps: Vec<f64>,
    left: Vec<Option<f64>>,
    home: Vec<Option<f64>>,
    setting: Vec<Option<f64>>,
    /// The last clock time at which the way home still ends above the floor, where there is one that is too late.
    turn_by: Option<String>,
}

fn tidy(value: f64, digits: i32) -> f64 {
    let ten = 10_f64.powi(digits);
    (value * ten).round() / ten
}

/// The document of what was weighed.
pub(crate) fn document(board: &OnBoard, weighed: &Weighed, look: Look) -> CursorDocument {
    let plan = &board.plan;
    let clock = |t| crate::figures::clock(&plan.day, t, look.clock);
    let speed = look.units.unit(Measure::Speed);
    let lanes = std::iter::zip(&board.ids, &plan.packs).zip(&weighed.moments);
    let lanes = lanes.filter(|(_, moments)| !moments.is_empty()).map(|((id, pack), moments)| {
        let floor = plan.rules.floor(pack.battery.chemistry);
        let of = |pick: fn(&Moment) -> Option<f64>, digits| {
            moments.iter().map(|m| pick(m).map(|v| tidy(v, digits))).collect::<Vec<_>>()
        };
        let home = |m: &Moment| m.home_with.is_some_and(|left| left >= floor);
        // Too late to turn: from then on until the way home begins.
        let begins = way_home_begins(plan);
        let too_late = std::iter::zip(&weighed.times, moments)
            .position(|(t, m)| t.value() <= begins + 1e-9 && !home(m));
        LaneDocument {
            id: id.0,
            name: pack.name.clone(),
            floor,
            charge: moments.iter().map(|m| tidy(m.charge, 4)).collect(),
            volts: of(|m| m.volts.map(lake_hour_core::units::Volts::value), 1),
            amps: moments.iter().map(|m| tidy(m.amps.value(), 1)).collect(),
            left: of(|m| m.hours_left.map(lake_hour_core::units::Hours::value), 2),
            home: of(|m| m.home_with, 3),
            setting: of(|m| m.home_setting, 1),
            turn_by: too_late.and_then(|n| n.checked_sub(1)).map(|n| clock(weighed.times[n])),
        }
    });
    CursorDocument {
        times: weighed.times.iter().map(|t| tidy(t.value(), 4)).collect(),
        clocks: weighed.times.iter().map(|t| clock(*t)).collect(),
        speeds: weighed
            .speeds
            .iter()
            .map(|v| v.map(|v| tidy(look.units.figure(Measure::Speed, v.value()), 2)))
            .collect(),
        speed_unit: speed.name,
        far_unit: look.units.unit(Measure::Distance).name,
        boat: plan.rig.craft.kind.is_boat(),
        lanes: lanes.collect(),
    }
}

/// When the way home is planned to begin on the first day. [h]
fn way_home_begins(plan: &Plan) -> f64 {
    let home = lake_hour_core::plan::leads_back(&plan.rig, &plan.day).map_or(0, |home| home.start);
    plan.day.stretches[..home].iter().map(|s| s.lasts.value()).sum()
}

/// The setting that the way home takes as a lead pack's voltage falls; nothing where it is not known or hardly rises.
pub(crate) fn fade(plan: &Plan, weighed: &Weighed, n: usize) -> Option<Fade> {
    /// Less than this nobody feels.
    const FELT: f64 = 0.25;
    let moments = weighed.moments.get(n).filter(|_| plan.packs[n].battery.chemistry.is_lead())?;
    let span = weighed.times.last()?.value();
    let told: Vec<(f64, f64)> = std::iter::zip(&weighed.times, moments)
        .filter_map(|(t, m)| Some((t.value(), m.home_setting?)))
        .collect();
    let (first, last) = (told.first()?.1, told.last()?.1);
    if last - first < FELT {
        return None;
    }
    let mut line = String::new();
    for (t, setting) in &told {
        // Writing to a string cannot fail.
        let _ = write!(line, "{:.1},{:.1} ", t / span * 1000.0, 95.0 - setting.min(10.0) * 9.0);
    }
    let says = |setting: f64| match plan.rig.motor.dial.mark(setting) {
        Mark::Number(number) => format!("{number:.1}"),
        _ => figures::setting(&plan.rig.motor.dial, setting),
    };
    let first = says(first);
    let later = if last > 10.0 { "more than it has".to_owned() } else { says(last) };
    let way = if plan.rig.craft.kind.is_boat() { "Home" } else { "The last way" };
    let words = format!("{way} takes setting {first} in the morning, {later} at the end");
    Some(Fade { line, words })
}
