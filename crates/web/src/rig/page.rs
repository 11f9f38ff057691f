//! The Rig page put together.

use super::curve::{self, Curve};
use super::sketch::Sketch;
use crate::asked::Scene;
use crate::error::PageError;
use crate::figures;
use crate::forms::list::ListView;
use crate::forms::{Field, Problems, Shown, Typed, rig as forms};
use crate::layout::Frame;
use crate::render::{Render, block};
use crate::view::{Open, Page, Part, View};
use askama::Template;
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion::{self, hull};
use lake_hour_core::rig::MOST_PARTS;
use lake_hour_core::units::Watts;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_store::RigId;

#[derive(Template)]
#[template(path = "rig/page.html", blocks = ["page"])]
pub(crate) struct RigPage {
    frame: Frame,
    rig: RigId,
    view: View,
    said: Option<String>,
    undo: Option<String>,
    redo: Option<String>,
    problems: usize,
    summary: String,
    sketch: Sketch,
    craft: Vec<Field>,
    motor: Vec<Field>,
    draw: ListView,
    measured: ListView,
    bays: ListView,
    chargers: ListView,
    draw_curve: Option<Curve>,
    speed_curve: Curve,
    draw_origin: &'static str,
    /// What the water or the road says: (what, figure).
    tells: Vec<(&'static str, String)>,
    boat: bool,
    brushless: bool,
    dangerous: bool,
}

/// Above this a battery can kill: ISO 6469-3, UNECE R100, IEC 62368-1 put the line at 60 V DC. [V]
const DANGEROUS: f64 = 60.0;

impl RigPage {
    pub(crate) fn new(scene: &Scene) -> Self {
        let (board, view, units) = (&scene.board, scene.view, scene.look.units);
        let plan = &board.plan;
        let rig = &plan.rig;
        let list = |id, what, part: Part, typed: Typed, rows: &dyn Fn(Shown<'_>) -> _| ListView {
            id,
            what,
            most: if part == Part::Measured { forms::MOST_SPEEDS } else { MOST_PARTS },
            action: action(board.rig, view, id),
            rows: shown(scene, part, typed, rows),
            tick: None,
        };
        Self {
            frame: Frame::of_rig(&rig.name, board.rig, view, scene.look),
            rig: board.rig,
            view,
            said: scene.said.clone(),
            undo: board.undo.clone(),
            redo: board.redo.clone(),
            problems: scene.draft.as_ref().map_or(0, |d| d.problems.count()),
            summary: summary(plan, units),
            sketch: Sketch::of(rig, units),
            craft: shown(scene, Part::Craft, forms::craft_typed(rig, units), &forms::craft_fields),
            motor: shown(scene, Part::Motor, forms::motor_typed(rig, units), &forms::motor_fields),
            draw: ListView {
                tick: Some((
                    "measured",
                    "I measured these with a meter",
                    rig.motor.settings_measured,
                )),
                ..list("draw", "point", Part::Draw, forms::draw_typed(rig), &|s| {
                    forms::draw_rows(s, rig.motor.settings.len())
                })
            },
            measured: list(
                "measured",
                "speed",
                Part::Measured,
                forms::measured_typed(rig, units),
                &|s| forms::measured_rows(s, rig.measured.len()),
            ),
            bays: list("bays", "bay", Part::Bays, forms::bays_typed(rig, units), &|s| {
                forms::bay_rows(s, rig.bays.len())
            }),
            chargers: list(
                "chargers",
                "charger",
                Part::Chargers,
                forms::chargers_typed(rig),
                &|s| forms::charger_rows(s, rig.chargers.len()),
            ),
            draw_curve: curve::draw(plan),
            speed_curve: curve::speed(plan, units),
            draw_origin: rig.motor.draw_origin().words(),
            tells: tells(plan, units),
            boat: rig.craft.kind.is_boat(),
            brushless: rig.motor.brushless,
            dangerous: rig.motor.system_voltage.value() * 1.2 > DANGEROUS,
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.frame.title, self.as_page().render()),
        }
    }

    fn action(&self, path: &str) -> String {
        action(self.rig, self.view, path)
    }

    fn day_page(&self) -> String {
        self.view.on(Page::Day).address(self.rig)
    }
}

fn action(rig: RigId, view: View, path: &str) -> String {
    format!("/rigs/{}/{path}{}", rig.0, view.query())
}

/// A form with what is kept in it, or with what was typed and is wrong.
fn shown<T>(scene: &Scene, part: Part, kept: Typed, show: &dyn Fn(Shown<'_>) -> T) -> T {
    let draft = scene.draft_of(Open::Part(part));
    let none = Problems::default();
    let typed = draft.map_or(kept, |d| d.typed.clone());
    let problems = draft.map_or(&none, |d| &d.problems);
    show(Shown { typed: &typed, problems, units: scene.look.units })
}

/// "V-hull · 14 ft · 926 lb loaded · 24 V, 50 A".
fn summary(plan: &Plan, units: System) -> String {
    let (craft, motor) = (&plan.rig.craft, &plan.rig.motor);
    let mass = craft.mass();
    let mut parts = vec![
        figures::measure(units, Measure::Length, craft.length().value.value(), 1),
        format!("{} loaded, {}", figures::mass(mass.value, units), mass.origin.words()),
    ];
    let full = motor.full_current().map_or_else(
        || "draw not told".to_owned(),
        |a| format!("{} A at most", figures::amount(a.value())),
    );
    parts.push(format!("{} V, {full}", figures::amount(motor.system_voltage.value())));
    parts.join(" \u{b7} ")
}

/// What the hull says of itself.
fn tells(plan: &Plan, units: System) -> Vec<(&'static str, String)> {
    let rig = &plan.rig;
    let craft = &rig.craft;
    if !craft.kind.is_boat() {
        return vec![
            ("loaded", figures::mass(craft.mass().value, units)),
            ("air drag area", figures::measure(units, Measure::Area, craft.windage().value, 1)),
        ];
    }
    let waterline = hull::waterline(craft);
    let mut tells = vec![("hull speed", figures::speed(hull::hull_speed(waterline), units))];
    let three = lake_hour_core::units::MetresPerSecond::of(
        3.0 * lake_hour_core::units::convert::MS_PER_MPH,
    );
    let force = |n: f64| figures::measure(units, Measure::Force, n, 1);
    tells.push(("drag at 3 mph in a calm", force(hull::resistance(craft, three).value())));
    let wind = plan.day.conditions.wind;
    if wind.value() > 0.0 {
        let push = hull::wind_force(craft.windage().value, wind);
        tells.push(("push of the day's wind", force(push.value())));
    }
    let current = plan.day.conditions.current;
    if current.value() > 0.05 {
        let besides: Watts = plan.day.accessory_power();
        let best = propulsion::best_speed_against(rig, current, besides);
        tells.push(("most miles against the current at", figures::speed(best, units)));
    }
    tells
}
