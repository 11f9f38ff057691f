//! The Board page put together.

use super::Draft;
use super::day::{self, DayView};
use super::lane::Lane;
use super::view::{Open, Order, View};
use crate::error::PageError;
use crate::figures;
use crate::forms::{self, Field, Group, Problems};
use crate::layout::{Frame, Theme};
use crate::render::Render;
use askama::Template;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Chemistry;
use lake_hour_store::{Board, RigId};
use std::collections::BTreeMap;

/// A link to another order of the lanes.
pub(crate) struct OrderLink {
    pub(crate) words: &'static str,
    pub(crate) href: String,
    pub(crate) current: bool,
}

#[derive(Template)]
#[template(path = "board/page.html", blocks = ["page"])]
pub(crate) struct BoardPage {
    frame: Frame,
    rig: RigId,
    view: View,
    /// What was just done.
    said: Option<String>,
    undo: Option<String>,
    redo: Option<String>,
    summary: String,
    reserve: String,
    floors: String,
    orders: Vec<OrderLink>,
    day: DayView,
    lanes: Vec<Lane>,
    set_aside: Vec<Lane>,
    /// How many are set aside for which reason.
    aside_counts: Vec<(usize, &'static str)>,
    rules: Option<Vec<Field>>,
    rig_fields: Option<Vec<Field>>,
    new_pack: Option<Vec<Group>>,
    /// Fields to look at again.
    problems: usize,
}

impl BoardPage {
    pub(crate) fn new(
        board: &Board,
        view: View,
        theme: Theme,
        draft: Option<&Draft>,
        said: Option<String>,
    ) -> Self {
        let plan = &board.plan;
        // Forms refuse a setting without a draw curve, so an error here can only be an empty board.
        let evaluations = plan.evaluate().unwrap_or_default();
        let all = std::iter::zip(&board.packs, &plan.packs)
            .zip(&evaluations)
            .map(|((id, pack), e)| Lane::new(plan, id.0, pack, e, view, draft));
        let (set_aside, mut lanes): (Vec<Lane>, Vec<Lane>) = all.partition(Lane::is_set_aside);
        sort(&mut lanes, view);
        let none = Problems::default();
        let of = |open: Open| draft.filter(|d| d.of == open);
        let problems_of = |open: Open| of(open).map_or(&none, |d| &d.problems);
        let frame = Frame {
            title: format!("{}: Board", plan.rig.name),
            theme,
            rig: Some((plan.rig.name.clone(), view.opening(Open::Rig).address(board.rig))),
        };
        Self {
            frame,
            rig: board.rig,
            view,
            said,
            undo: board.undo.clone(),
            redo: board.redo.clone(),
            summary: summary(plan),
            reserve: figures::percent(plan.rules.reserve),
            floors: floors(plan),
            orders: Order::ALL
                .map(|(order, words)| OrderLink {
                    words,
                    href: View { order, ..view }.address(board.rig),
                    current: order == view.order,
                })
                .into(),
            day: DayView::new(board, view, draft),
            aside_counts: counts(&set_aside),
            lanes,
            set_aside,
            rules: (view.open == Open::Rules).then(|| {
                let typed = of(Open::Rules)
                    .map_or_else(|| forms::settings::rules_typed(&plan.rules), |d| d.typed.clone());
                forms::settings::rules_fields(&typed, problems_of(Open::Rules))
            }),
            rig_fields: (view.open == Open::Rig).then(|| {
                let typed = of(Open::Rig)
                    .map_or_else(|| forms::settings::rig_typed(&plan.rig), |d| d.typed.clone());
                forms::settings::rig_fields(&typed, problems_of(Open::Rig))
            }),
            new_pack: (view.open == Open::NewPack).then(|| {
                let typed = of(Open::NewPack).map_or_else(forms::pack::blank, |d| d.typed.clone());
                forms::pack::groups("new", &typed, problems_of(Open::NewPack))
            }),
            problems: draft.map_or(0, |d| d.problems.count()),
        }
    }

    pub(crate) fn html(&self, render: Render) -> Result<String, PageError> {
        let html = match render {
            Render::Page => self.render(),
            Render::Fragment => self.as_page().render(),
        };
        html.map_err(|_| PageError::Broken)
    }

    /// Address of the board with another panel open.
    fn open(&self, open: &str) -> String {
        let open = match open {
            "day" => Open::Day,
            "rules" => Open::Rules,
            "rig" => Open::Rig,
            "new-pack" => Open::NewPack,
            _ => Open::Nothing,
        };
        self.toggled(open)
    }

    fn open_pack(&self, id: &i64) -> String {
        self.toggled(Open::Pack(*id))
    }

    fn open_working(&self, id: &i64) -> String {
        self.toggled(Open::Working(*id))
    }

    /// A link to an open panel closes it.
    fn toggled(&self, open: Open) -> String {
        let open = if self.view.open == open { Open::Nothing } else { open };
        self.view.opening(open).address(self.rig)
    }

    fn pin(&self, lane: &Lane) -> String {
        let pin = (!lane.pinned).then_some(lane.id);
        View { pin, ..self.view }.address(self.rig)
    }

    /// Where a form is sent, so that the answer comes in the same view.
    fn action(&self, path: &str) -> String {
        format!("/rigs/{}/{path}{}", self.rig.0, self.view.query())
    }

    fn action_on(&self, what: &str, id: &i64, act: &str) -> String {
        let act = if act.is_empty() { String::new() } else { format!("/{act}") };
        self.action(&format!("{what}/{id}{act}"))
    }

    fn is_open(&self, open: &str) -> bool {
        match open {
            "day" => self.view.open == Open::Day,
            "rules" => self.view.open == Open::Rules,
            "rig" => self.view.open == Open::Rig,
            _ => self.view.open == Open::NewPack,
        }
    }
}

fn sort(lanes: &mut [Lane], view: View) {
    match view.order {
        Order::Own => {}
        Order::Best => {
            lanes.sort_by(|a, b| a.outcome.cmp(&b.outcome).then(a.hourly.total_cmp(&b.hourly)));
        }
        Order::Light => lanes.sort_by(|a, b| a.mass.total_cmp(&b.mass)),
        Order::Cheap => lanes.sort_by(|a, b| a.hourly.total_cmp(&b.hourly)),
    }
    lanes.sort_by_key(|lane| !lane.pinned);
}

/// "24 V · 7 h 20 min · 89 Ah · 2.1 kWh".
fn summary(plan: &Plan) -> String {
    let volts = plan.rig.motor.system_voltage.value();
    let charge: f64 = plan
        .day
        .stretches
        .iter()
        .map(|s| s.lasts.value() * day::nominal_amps(&plan.rig, s.duty))
        .sum();
    let mut parts = vec![
        format!("{} V", figures::amount(volts)),
        figures::duration(plan.day.lasts().value()),
        format!("{} Ah", figures::amount(charge)),
        figures::energy(charge * volts),
    ];
    if let Some(t) = plan.day.ambient {
        parts.push(format!("{:.0} °F", lake_hour_core::units::convert::fahrenheit(t)));
    }
    let devices = plan.day.accessory_power().value();
    if devices > 0.0 {
        parts.push(format!("devices {} W", figures::amount(devices)));
    }
    parts.push(format!("{} days a year", figures::amount(plan.day.outings_per_year)));
    parts.join(" · ")
}

/// Floors of the chemistries on the board, those alike together.
fn floors(plan: &Plan) -> String {
    let mut by_floor: BTreeMap<u64, Vec<&'static str>> = BTreeMap::new();
    for chemistry in Chemistry::ALL {
        if plan.packs.iter().any(|p| p.battery.chemistry == chemistry) {
            let percent = (plan.rules.floor(chemistry) * 100.0).round() as u64;
            by_floor.entry(percent).or_default().push(chemistry.name());
        }
    }
    let parts = by_floor.iter().rev().map(|(p, names)| format!("{} {p} %", names.join(", ")));
    parts.collect::<Vec<_>>().join(", ")
}

fn counts(set_aside: &[Lane]) -> Vec<(usize, &'static str)> {
    let mut counts: BTreeMap<&'static str, usize> = BTreeMap::new();
    for lane in set_aside {
        *counts.entry(lane.short_reason).or_default() += 1;
    }
    counts.into_iter().map(|(reason, n)| (n, reason)).collect()
}
