//! One pack's lane: its name, its picture, its verdict and figures, its panel.

use super::picture::Picture;
use crate::asked::Scene;
use crate::figures;
use crate::forms::{self, Group, Problems, Shown};
use crate::view::{Open, Page};
use lake_hour_core::compare::{self, Drawn, Evaluation, Outcome};
use lake_hour_core::drawdown::Ended;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::system::System;

/// A figure with its label.
#[derive(Debug, Clone)]
pub(crate) struct Figure {
    pub(crate) label: &'static str,
    pub(crate) value: String,
    /// More of it, for who looks closer.
    pub(crate) more: String,
}

/// One moment of the day in the table.
#[derive(Debug, Clone)]
pub(crate) struct Moment {
    pub(crate) clock: String,
    pub(crate) after: String,
    pub(crate) amps: String,
    pub(crate) volts: String,
    pub(crate) charge: String,
    pub(crate) band: String,
}

/// The panel with the working.
#[derive(Debug, Clone)]
pub(crate) struct Working {
    pub(crate) lines: Vec<compare::Line>,
    pub(crate) moments: Vec<Moment>,
    pub(crate) assumed: Vec<&'static str>,
}

/// A lane of the board.
#[derive(Debug, Clone)]
pub(crate) struct Lane {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) build: String,
    pub(crate) chemistry: &'static str,
    pub(crate) outcome: Outcome,
    /// `full`, `half` or `open`: goes with the words.
    pub(crate) disc: &'static str,
    pub(crate) verdict: String,
    pub(crate) range: String,
    pub(crate) figures: Vec<Figure>,
    pub(crate) picture: Option<Picture>,
    pub(crate) notes: Vec<String>,
    /// Chargers aboard, when none of them fits.
    pub(crate) misfits: Vec<String>,
    pub(crate) reasons: Vec<String>,
    pub(crate) short_reason: &'static str,
    pub(crate) pinned: bool,
    /// The pack that is aboard today.
    pub(crate) aboard: bool,
    /// What it was without the what-ifs.
    pub(crate) was: Option<String>,
    pub(crate) working: Option<Working>,
    pub(crate) form: Option<Vec<Group>>,
    /// For sorting: weight [kg] and cost of an hour; infinite when not known.
    pub(crate) mass: f64,
    pub(crate) hourly: f64,
}

/// The lanes of all packs on a plan, what-ifs included, in the owner's order.
pub(crate) fn lanes(scene: &Scene, plan: &Plan) -> Vec<Lane> {
    // Forms refuse a setting without a draw curve, so an error here can only be an empty board.
    let evaluations = plan.evaluate().unwrap_or_default();
    let kept = &scene.board.plan;
    let before = scene.view.nudges.any().then(|| kept.evaluate().unwrap_or_default());
    std::iter::zip(&scene.board.packs, &plan.packs)
        .zip(&evaluations)
        .enumerate()
        .map(|(n, ((id, pack), evaluation))| {
            let was = before.as_ref().and_then(|all| all.get(n)).map(|e| verdict(kept, e));
            let mut lane = Lane::new(scene, plan, id.0, pack, evaluation);
            lane.was = was.filter(|was| *was != lane.verdict);
            lane
        })
        .collect()
}

impl Lane {
    fn new(scene: &Scene, plan: &Plan, id: i64, pack: &Pack, evaluation: &Evaluation) -> Self {
        let (view, units) = (scene.view, scene.look.units);
        let drawn = evaluation.drawn.as_ref();
        let draft = scene.draft_of(Open::Pack(id));
        let none = Problems::default();
        let open = view.open == Open::Pack(id) && view.page == Page::Board;
        Self {
            id,
            name: pack.name.clone(),
            build: build(pack),
            chemistry: pack.battery.chemistry.name(),
            outcome: evaluation.outcome,
            disc: match evaluation.outcome {
                Outcome::Home => "full",
                Outcome::BelowReserve => "half",
                _ => "open",
            },
            verdict: verdict(plan, evaluation),
            range: drawn.map(range).unwrap_or_default(),
            figures: figures(plan, pack, evaluation, units),
            picture: drawn.map(|d| Picture::of(d, evaluation.outcome, &plan.day, &pack.name)),
            notes: evaluation
                .notes
                .iter()
                .filter(|n| !matches!(n, compare::Note::Misfit(_)))
                .map(ToString::to_string)
                .collect(),
            misfits: evaluation
                .notes
                .iter()
                // A charger that does not fit matters only where no other does.
                .filter(|n| matches!(n, compare::Note::Misfit(_)))
                .filter(|_| drawn.is_some_and(|d| d.refill.by.is_none()))
                .map(ToString::to_string)
                .collect(),
            reasons: evaluation.reasons.iter().map(ToString::to_string).collect(),
            short_reason: evaluation.reasons.first().map_or("", |r| r.short()),
            pinned: view.pin == Some(id),
            aboard: pack.aboard,
            was: None,
            working: drawn.filter(|_| view.open == Open::Working(id)).map(|d| Working {
                lines: compare::working(pack, &plan.day, &plan.rules, d),
                moments: moments(plan, d),
                assumed: evaluation.assumed.iter().map(|key| assumed_words(key)).collect(),
            }),
            form: open.then(|| {
                let kept = &scene.board.plan.packs;
                let at = scene.board.packs.iter().position(|p| p.0 == id).unwrap_or(0);
                let typed =
                    draft.map_or_else(|| forms::pack::typed(&kept[at], units), |d| d.typed.clone());
                let problems = draft.map_or(&none, |d| &d.problems);
                let form = Shown { typed: &typed, problems, units };
                forms::pack::groups(&format!("pack{id}"), form)
            }),
            mass: evaluation.mass.map_or(f64::INFINITY, lake_hour_core::units::Kilograms::value),
            hourly: drawn
                .and_then(|d| d.cost)
                .and_then(|c| c.per_lake_hour)
                .unwrap_or(f64::INFINITY),
        }
    }

    pub(crate) fn is_set_aside(&self) -> bool {
        self.outcome == Outcome::SetAside
    }
}

/// "2 in series, 12.8 V 100 Ah each".
fn build(pack: &Pack) -> String {
    let b = &pack.battery;
    let wired = match (pack.series, pack.parallel) {
        (1, 1) => "1 battery".to_owned(),
        (s, 1) => format!("{s} in series"),
        (1, p) => format!("{p} in parallel"),
        (s, p) => format!("{} in {s} x {p}", s * p),
    };
    let each = if pack.units() > 1 { " each" } else { "" };
    let volts = figures::typed(b.nominal_voltage.value());
    match b.headline() {
        Ok((ah, _)) => format!("{wired}, {volts} V {} Ah{each}", figures::amount(ah.value())),
        Err(_) => format!("{wired}, {volts} V, no Ah on the label"),
    }
}

fn verdict(plan: &Plan, evaluation: &Evaluation) -> String {
    let Some(drawn) = &evaluation.drawn else { return "Set aside".to_owned() };
    let left = drawn.summary.charge_left;
    let clock = |t: f64| figures::clock(&plan.day, t);
    match (evaluation.outcome, drawn.summary.ended) {
        (_, Ended::Stopped { at }) => {
            let short = figures::duration(plan.day.span().value() - at);
            format!("Stops at {}, {short} short", clock(at))
        }
        (_, Ended::Tripped { at, amps }) => {
            format!("Opens on {} A at {}", figures::amount(amps), clock(at))
        }
        (Outcome::BelowFloor, _) => {
            format!("Home, {} below the floor", figures::percent(drawn.floor - left))
        }
        (Outcome::BelowReserve, _) => {
            format!("Home with {}, inside reserve", figures::percent(left))
        }
        _ => format!("Home with {}", figures::percent(left)),
    }
}

fn range(drawn: &Drawn) -> String {
    let (low, high) = (drawn.band.low * 100.0, drawn.band.high * 100.0);
    let finished = drawn.band.days_finished;
    if drawn.ended_early_at().is_some() && finished > 0.0 {
        format!("gets through {:.0} days in 100", finished * 100.0)
    } else if drawn.ended_early_at().is_some() {
        "so it does on a good day".to_owned()
    } else if finished < 1.0 {
        format!("{low:.0} to {high:.0} %; stops short {:.0} days in 100", (1.0 - finished) * 100.0)
    } else {
        format!("{low:.0} % on a bad day, {high:.0} % on a good one")
    }
}

fn figures(plan: &Plan, pack: &Pack, evaluation: &Evaluation, units: System) -> Vec<Figure> {
    let unknown = || "-".to_owned();
    let drawn = evaluation.drawn.as_ref();
    let cost = drawn.and_then(|d| d.cost);
    let money = |v: Option<f64>| v.map_or_else(unknown, |v| figures::money(v, &plan.currency));
    let missing = |known: bool, what: &str| if known { String::new() } else { what.to_owned() };
    vec![
        Figure {
            label: "at this pace",
            value: drawn
                .and_then(|d| d.hours_at_this_pace)
                .map_or_else(unknown, |h| figures::hours(h.value())),
            more: "until the floor is reached or it stops".to_owned(),
        },
        Figure {
            label: "weight",
            value: evaluation.mass.map_or_else(unknown, |m| figures::mass(m, units)),
            more: evaluation
                .mass
                .map_or_else(|| "no weight given".to_owned(), |m| format!("{:.1} kg", m.value())),
        },
        Figure {
            label: "all in",
            value: money(evaluation.price_total),
            more: missing(pack.battery.price.is_some(), "no price given"),
        },
        Figure {
            label: "an outing",
            value: money(cost.map(|c| c.per_cycle)),
            more: drawn.map_or_else(String::new, |d| {
                format!("{:.0} outings in {:.1} years", d.life.outings, d.life.years)
            }),
        },
        Figure {
            label: "an hour",
            value: money(cost.and_then(|c| c.per_lake_hour)),
            more: missing(cost.is_some(), "needs a price"),
        },
    ]
}

fn moments(plan: &Plan, drawn: &Drawn) -> Vec<Moment> {
    let band = |at: f64| {
        drawn
            .band
            .points
            .iter()
            .find(|b| b.at > 0.0 && (b.at - at).abs() < 1e-6)
            .map_or_else(String::new, |b| {
                format!("{:.0} to {:.0} %", b.low * 100.0, b.high * 100.0)
            })
    };
    let mut ends = Vec::new();
    let mut clock;
    for turn in 0..plan.day.days_without_charging {
        clock = f64::from(turn) * plan.day.lasts().value().max(24.0);
        for stretch in &plan.day.stretches {
            clock += stretch.lasts.value();
            ends.push((clock, stretch.name.as_str()));
        }
    }
    drawn
        .points
        .iter()
        .map(|p| {
            let after = if p.at <= 0.0 {
                "start"
            } else {
                ends.iter().find(|(t, _)| *t >= p.at - 1e-6).map_or("", |(_, name)| name)
            };
            Moment {
                clock: figures::clock(&plan.day, p.at),
                after: after.to_owned(),
                amps: format!("{} A", figures::amount(p.amps)),
                volts: format!("{:.1} V", p.volts),
                charge: figures::percent(p.charge),
                band: band(p.at),
            }
        })
        .collect()
}

/// What was filled in, in words.
fn assumed_words(key: &str) -> &'static str {
    match key {
        "battery.resistance" => "internal resistance",
        "battery.recovery" => "recovery in rests",
        "battery.cycles" => "cycles",
        "battery.calendar_years" => "calendar life",
        "battery.max_continuous_current_a" => "no current limit",
        "battery.low_voltage_cutoff_v" => "end voltage",
        "day.ambient_c" => "77 °F (25 °C)",
        _ => "a typical figure",
    }
}
