//! The Rig page put together.

use crate::figures::{self, Told};
use crate::forms::candidate::today;
use crate::forms::list::ListView;
use crate::forms::{Field, Shown, Typed, have, rig as forms};
use crate::frame::asked::Scene;
use crate::frame::error::PageError;
use crate::frame::head::Head;
use crate::frame::render::{Render, block};
use crate::frame::view::{Open, Page, Part, View};
use crate::parts::circuit;
use crate::parts::curve::{self, Curve};
use crate::parts::learned;
use crate::parts::sketch::Sketch;
use crate::parts::source::{self, Rests};
use askama::Template;
use lake_hour_core::decide::replace::{self, FARTHEST, Replace};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion::{self, hull};
use lake_hour_core::rig::MOST_PARTS;
use lake_hour_core::source::Origin;
use lake_hour_core::units::convert::MS_PER_MPH;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{MetresPerSecond, Watts};
use lake_hour_store::RigId;

#[derive(Template)]
#[template(path = "rig/page.html", blocks = ["page"])]
pub(crate) struct RigPage {
    head: Head,
    rig: RigId,
    view: View,
    summary: String,
    sketch: Sketch,
    craft: Vec<Field>,
    motor: Vec<Field>,
    draw: ListView,
    measured: ListView,
    bays: ListView,
    chargers: ListView,
    /// What is there already, whatever pack is chosen.
    have: Vec<Field>,
    /// What is aboard, where something is.
    has: Option<Has>,
    owned: Vec<Field>,
    draw_curve: Option<Curve>,
    /// What its log taught and plans use.
    learned: Vec<String>,
    speed_curve: Curve,
    /// Sign and word of who vouches for the draw curve, and for speeds.
    draw_origin: [&'static str; 2],
    speed_origin: [&'static str; 2],
    rests: Rests,
    /// What the water or the road says.
    tells: Vec<Told>,
    boat: bool,
    metric: bool,
    brushless: bool,
    dangerous: bool,
    /// Volts that are odd for such a craft: asked.
    odd_volts: Option<String>,
}

/// Above this a battery can kill: ISO 6469-3, UNECE R100, IEC 62368-1 put the line at 60 V DC. [V]
const DANGEROUS: f64 = 60.0;

impl RigPage {
    pub(crate) fn new(scene: &Scene) -> Self {
        let (board, view, units) = (&scene.board, scene.view, scene.look.units);
        let plan = &board.plan;
        let rig = &plan.rig;
        let boat = rig.craft.kind.is_boat();
        let list = |id, what, part: Part, typed: Typed, rows: &dyn Fn(Shown<'_>) -> _| ListView {
            id,
            what,
            most: MOST_PARTS,
            action: action(board.rig, view, id),
            rows: scene.form(Open::Part(part), || typed, rows),
            tick: None,
        };
        Self {
            head: Head::of_scene(scene),
            rig: board.rig,
            view,
            summary: summary(plan, units),
            sketch: Sketch::of(rig, units),
            craft: scene.form(
                Open::Part(Part::Craft),
                || forms::craft_typed(rig, units),
                |s| forms::craft_fields(s, boat),
            ),
            motor: scene.form(
                Open::Part(Part::Motor),
                || forms::motor_typed(rig, units),
                |s| forms::motor_fields(s, boat, rig.motor.max_is_typical),
            ),
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
                &|s| forms::measured_rows(s, rig.measured.len(), boat),
            ),
            bays: list("bays", "bay", Part::Bays, forms::bays_typed(rig, units), &|s| {
                forms::bay_rows(s, rig.bays.len(), boat)
            }),
            have: scene.form(
                Open::Part(Part::Have),
                || have::typed(&scene.board, units),
                |form| have::fields(form, plan.aboard().is_some()),
            ),
            has: plan.aboard().map(|pack| Has::of(plan, pack)),
            owned: scene.form(
                Open::Part(Part::Owned),
                || forms::owned_typed(rig),
                forms::owned_fields,
            ),
            chargers: list(
                "chargers",
                "charger",
                Part::Chargers,
                forms::chargers_typed(rig),
                &|s| forms::charger_rows(s, rig.chargers.len()),
            ),
            draw_curve: curve::draw(plan),
            learned: learned::words(&plan.rig),
            speed_curve: curve::speed(plan, units),
            draw_origin: marked(rig.motor.draw_origin()),
            speed_origin: marked(lake_hour_core::propulsion::origin_of_speeds(rig)),
            rests: Rests::on(
                source::of_plan(plan, units).into_iter().chain(source::untold(plan)).collect(),
                board.rig,
                view,
            ),
            tells: tells(plan, units),
            boat,
            metric: units == System::Metric,
            brushless: rig.motor.brushless,
            odd_volts: odd_volts(plan),
            dangerous: rig.motor.system_voltage.value() * 1.2 > DANGEROUS,
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        match render {
            Render::Page => self.render().map_err(|_| PageError::Broken),
            Render::Fragment => block(&self.head.title, self.as_page().render()),
        }
    }

    fn action(&self, path: &str) -> String {
        action(self.rig, self.view, path)
    }

    fn log(&self) -> String {
        self.view.on(Page::Log).address(self.rig)
    }

    fn parts_page(&self) -> String {
        self.view.on(Page::Build).address(self.rig)
    }

    fn day_page(&self) -> String {
        self.view.on(Page::Day).address(self.rig)
    }
}

fn action(rig: RigId, view: View, path: &str) -> String {
    format!("/rigs/{}/{path}{}", rig.0, view.query())
}

const fn marked(by: Origin) -> [&'static str; 2] {
    [source::sign(by), by.words()]
}

/// What is aboard, in words.
struct Has {
    name: String,
    /// What is left of it, and who says so.
    left: String,
    /// When to replace it.
    replace: String,
}

impl Has {
    fn of(plan: &Plan, pack: &Pack) -> Self {
        let share = figures::percent(pack.health.capacity_share);
        let left = match pack.capacity_origin() {
            Origin::Measured => format!("{share} of its label, as measured"),
            Origin::SetByYou => format!("{share} of its label, as you typed"),
            Origin::Typical if pack.is_worn_by_age() => {
                format!("about {share} of its label by its age and symptom, assumed")
            }
            _ => "all of its label, as nobody said otherwise".to_owned(),
        };
        let replace = match replace::replace(plan, pack) {
            None => "Even new, this pack would not do the day on a bad day.".to_owned(),
            Some(Replace { within: [_, 0.0, _], .. }) => {
                "Replace it now: on a bad day it would run out before this day is done.".to_owned()
            }
            Some(Replace { within: [early, likely, late], below }) => format!(
                "Replace it by about {} ({} to {}): below {} of its label's amp-hours it would run out before this day is done, on a bad day.",
                month(likely),
                month(early),
                month(late),
                figures::percent(below)
            ),
        };
        Self { name: pack.name.clone(), left, replace }
    }
}

/// "June 2028", so many years from today.
fn month(years: f64) -> String {
    if years >= FARTHEST {
        return "later than anyone plans".to_owned();
    }
    let months = (years * 12.0).floor() as i64;
    let then = today().checked_add(jiff::Span::new().months(months));
    then.map_or_else(|_| String::new(), |then| then.strftime("%B %Y").to_string())
}

/// "V-hull · 14 ft · 926 lb loaded · 24 V, 50 A".
fn summary(plan: &Plan, units: System) -> String {
    let (craft, motor) = (&plan.rig.craft, &plan.rig.motor);
    let mass = craft.mass();
    let mut parts = vec![
        figures::measure(units, Measure::Length, craft.length().value.value(), 1),
        format!("{} loaded, {}", figures::mass(mass.value, units), mass.origin.words()),
    ];
    let full = circuit::most(motor).unwrap_or_else(|| "draw not known yet".to_owned());
    parts.push(format!("{} V, {full}", figures::amount(motor.system_voltage.value())));
    parts.join(" \u{b7} ")
}

/// What the hull or the road says of itself, with the working.
fn tells(plan: &Plan, units: System) -> Vec<Told> {
    let rig = &plan.rig;
    let craft = &rig.craft;
    let measure = |of, si, digits| figures::measure(units, of, si, digits);
    let loaded = craft.mass();
    let windage = craft.windage();
    let area = measure(Measure::Area, windage.value, 1);
    if !craft.kind.is_boat() {
        let person = figures::mass(lake_hour_core::rig::PERSON, units);
        let parts = format!("empty + {person} a person + gear, unless it was weighed loaded");
        return vec![
            Told::new(
                "loaded",
                figures::mass(loaded.value, units),
                format!("{parts}; {}.", loaded.origin.words()),
            ),
            Told::new(
                "air drag area",
                area,
                format!("Cd x frontal area; {}.", windage.origin.words()),
            ),
        ];
    }
    let waterline = hull::waterline(craft);
    let mass = figures::mass(loaded.value, units);
    let mut tells = vec![Told::new(
        "hull speed",
        figures::speed(hull::hull_speed(waterline), units),
        format!(
            "v = sqrt(g L / 2 pi), the speed of a bow wave as long as the waterline: sqrt(9.81 x {:.2} / 6.28) = {:.2} m/s. The waterline is taken as 92 % of the length (common practice).",
            waterline.value(),
            hull::hull_speed(waterline).value()
        ),
    )];
    let three = MetresPerSecond::of(3.0 * MS_PER_MPH);
    let force = |n: f64| measure(Measure::Force, n, 1);
    tells.push(Told::new(
        if units == System::Metric { "drag at 4.8 km/h" } else { "drag at 3 mph" },
        force(hull::resistance(craft, three).value()),
        format!(
            "R = k x load^(2/3) x v^2 x (1 + (v / hull speed)^6) with k = {} N s2/m2 for this kind of hull, {mass} loaded; 40 % either way until you measure (no published source).",
            hull::drag_coefficient(craft.kind)
        ),
    ));
    let wind = plan.day.conditions.wind;
    if wind.value() > 0.0 {
        let push = hull::wind_force(windage.value, wind);
        tells.push(Told::new(
            "push of the day's wind",
            force(push.value()),
            format!(
                "F = 1/2 x air density x Cd A x W^2 = 0.5 x {} x {:.2} m2 x ({:.1} m/s)^2; Cd A of {area}, {}.",
                hull::AIR,
                windage.value,
                wind.value(),
                windage.origin.words()
            ),
        ));
    }
    let current = plan.day.conditions.current;
    if current.value() > 0.05 {
        let besides: Watts = plan.day.accessory_power();
        let best = propulsion::best_speed_against(rig, current, besides);
        tells.push(Told::new(
            "most miles against the current at",
            figures::speed(best, units),
            "The speed through the water that takes the fewest watt-hours a mile over the ground; about one and a half times the current.",
        ));
    }
    tells
}

/// A cart that still stands at a boat's 12 V is asked about.
fn odd_volts(plan: &Plan) -> Option<String> {
    let (kind, volts) = (plan.rig.craft.kind, plan.rig.motor.system_voltage.value());
    let usual = kind.usual_volts().value();
    (!kind.is_boat() && volts < 0.5 * usual).then(|| {
        format!(
            "Is it really {} V? Most of this kind run on {} V: set it under System.",
            figures::amount(volts),
            figures::amount(usual)
        )
    })
}
