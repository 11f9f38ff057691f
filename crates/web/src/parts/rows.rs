//! The day above the lanes: its stretches as blocks, and as rows to edit.

use crate::figures;
use crate::forms::{self, Field, Problems, Shown, Typed};
use crate::frame::asked::Scene;
use crate::frame::view::Open;
use crate::parts::strip::{self, Asks, Strip};
use lake_hour_core::day::{Duty, Keeps, Stretch};
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion::Implied;
use lake_hour_core::rig::Dial;
use lake_hour_core::units::Hours;
use lake_hour_core::units::system::System;

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
    boat: bool,
    units: System,
    dial: Dial,
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

    /// The unit of its amount.
    pub(crate) fn unit(&self) -> &'static str {
        forms::stretch::amount_unit(self.typed.get("kind"), self.units, &self.dial)
    }

    /// Whether that unit is another one when others are chosen.
    pub(crate) fn follows_units(&self) -> bool {
        self.is("speed") || self.is("distance")
    }

    pub(crate) const fn kinds(&self) -> &'static [(&'static str, &'static str)] {
        forms::stretch::kinds(self.boat)
    }
}

/// The day above the lanes.
#[derive(Debug, Clone)]
pub(crate) struct DayView {
    pub(crate) strip: Strip,
    /// What a day is called: carts go on rounds.
    pub(crate) title: &'static str,
    /// What its end is called.
    pub(crate) ends: &'static str,
    /// The volts that its amps are said at.
    pub(crate) volts: String,
    pub(crate) take_out: String,
    /// When it begins.
    pub(crate) starts: String,
    pub(crate) lasts: String,
    pub(crate) stretches: usize,
    /// Open for editing.
    pub(crate) rows: Option<Vec<Row>>,
    pub(crate) fields: Vec<Field>,
    pub(crate) totals: String,
}

impl DayView {
    /// `plan` is what is shown, with what-ifs; the rows are what is kept.
    pub(crate) fn new(scene: &Scene, plan: &Plan, asks: &Asks) -> Self {
        let day = &plan.day;
        let boat = plan.rig.craft.kind.is_boat();
        let open = scene.view.open == Open::Day;
        let draft = scene.draft_of(Open::Day);
        let none = Problems::default();
        let kept = &scene.board.plan.day;
        let typed =
            draft.map_or_else(|| forms::day_frame::typed(kept, scene.look), |d| d.typed.clone());
        let shown = Shown {
            typed: &typed,
            problems: draft.map_or(&none, |d| &d.problems),
            units: scene.look.units,
        };
        Self {
            strip: Strip::new(plan, asks, &scene.board.stretches, scene.look, 46.0, 96.0),
            title: if boat { "The day" } else { "The day's rounds" },
            ends: if boat { "At take-out" } else { "Back" },
            volts: strip::volts(plan),
            take_out: figures::clock(day, day.span(), scene.look.clock),
            starts: figures::clock(day, Hours::ZERO, scene.look.clock),
            lasts: figures::duration(day.lasts().value()),
            stretches: day.stretches.len(),
            rows: open.then(|| rows(scene, asks)),
            fields: forms::day_frame::fields(shown, boat),
            totals: strip::totals(plan, asks),
        }
    }
}

fn rows(scene: &Scene, asks: &Asks) -> Vec<Row> {
    let plan = &scene.board.plan;
    let day = &plan.day;
    let volts = plan.rig.motor.system_voltage.value();
    let boat = plan.rig.craft.kind.is_boat();
    let count = day.stretches.len();
    // The fields hold the day as it is kept, what-ifs aside.
    let kept = scene.view.nudges.any().then(|| Asks::of(plan));
    let implied = &kept.as_ref().unwrap_or(asks).implied;
    let mut clock = Hours::ZERO;
    let mut rows: Vec<Row> = (0..count)
        .map(|n| {
            let (stretch, id) = (&day.stretches[n], scene.board.stretches[n].0);
            let (start, lasts) = (clock, stretch.lasts);
            clock += lasts;
            let mine = scene.draft_of(Open::Stretch(id));
            let ah = (implied[n].amps * lasts * stretch.share).value();
            Row {
                id,
                typed: mine.map_or_else(
                    || forms::stretch::typed(stretch, scene.look.units, &plan.rig.motor.dial),
                    |d| d.typed.clone(),
                ),
                problems: mine.map(|d| d.problems.clone()).unwrap_or_default(),
                when: format!(
                    "{} to {}",
                    figures::clock(day, start, scene.look.clock),
                    figures::clock(day, start + lasts, scene.look.clock)
                ),
                comes_to: format!(
                    "{} Ah, {}{}",
                    figures::amount(ah),
                    figures::energy(ah * volts),
                    far(stretch, &implied[n], boat, scene.look.units)
                ),
                first: n == 0,
                last: n + 1 == count,
                boat,
                units: scene.look.units,
                dial: plan.rig.motor.dial.clone(),
            }
        })
        .collect();
    let new = scene.draft_of(Open::NewStretch);
    rows.push(Row {
        id: 0,
        typed: new.map_or_else(|| forms::stretch::blank(day, boat), |d| d.typed.clone()),
        problems: new.map(|d| d.problems.clone()).unwrap_or_default(),
        when: format!("from {}", figures::clock(day, clock, scene.look.clock)),
        comes_to: String::new(),
        first: true,
        last: true,
        boat,
        units: scene.look.units,
        dial: plan.rig.motor.dial.clone(),
    });
    rows
}

/// ", 2.1 mi": minutes of what gets somewhere are a distance, which any pack has to go.
fn far(stretch: &Stretch, implied: &Implied, boat: bool, units: System) -> String {
    let goes = stretch.keeps_on(boat) == Keeps::Distance && stretch.duty != Duty::Off;
    let far = implied.distance.filter(|far| goes && far.value() > 0.0);
    far.map_or_else(String::new, |far| format!(", {}", figures::far(far, units)))
}
