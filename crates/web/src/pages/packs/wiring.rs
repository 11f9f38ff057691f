//! The wiring on the page: its drawings, and its cables, drops and findings in words.

use super::opened::Line;
use super::view::PacksView;
use crate::figures;
use crate::frame::look::Look;
use crate::parts::circuit::{cable, drawings, finding, fuse, laid, parts, sentence, torque};
use crate::parts::decision::About;
use crate::parts::drawing::Drawing;
use lake_hour_core::allowed;
use lake_hour_core::pack::Pack;
use lake_hour_core::parts::terminal::Terminal;
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::figures::Value;
use lake_hour_core::units::Metres;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::verdict::Evaluation;
use lake_hour_core::wiring::{Asked, DANGEROUS, Run, Wiring, lead_length};

/// A cable in the table.
#[derive(Debug, Clone)]
pub(super) struct RunView {
    pub(super) name: String,
    pub(super) cable: String,
    pub(super) length: String,
    pub(super) carries: String,
    pub(super) fuse: String,
}

/// The wiring on the page.
#[derive(Debug, Clone)]
pub(super) struct WiringView {
    pub(super) drawings: Vec<Drawing>,
    pub(super) sentence: String,
    pub(super) runs: Vec<RunView>,
    pub(super) lines: Vec<Line>,
    /// "5 cables, 3 fuses".
    pub(super) parts: String,
    /// What is wrong with it, in sentences.
    pub(super) findings: Vec<String>,
    /// "25.6 V, no loop, every wire protected".
    pub(super) checked: String,
    /// Above the volts that may be touched.
    pub(super) dangerous: Option<String>,
    /// Why there is no picture.
    pub(super) refused: Option<String>,
    /// The length that the leads have where nothing is typed, in the units shown.
    pub(super) usual_lead: String,
    pub(super) lead_problem: Option<String>,
    /// The length is told, and the day run with it.
    pub(super) counted: bool,
}

impl WiringView {
    pub(super) fn of(about: &About<'_>, evaluation: &Evaluation, view: &PacksView) -> Option<Self> {
        let (plan, pack, say) = (about.plan, about.pack, about.say);
        let (asked, laid) = laid(about, evaluation, view.breaker)?;
        let lead_problem = lead(view, say.units).err();
        let mut view = Self {
            drawings: Vec::new(),
            sentence: String::new(),
            runs: Vec::new(),
            lines: Vec::new(),
            parts: String::new(),
            findings: Vec::new(),
            checked: String::new(),
            dangerous: None,
            refused: None,
            usual_lead: String::new(),
            lead_problem,
            counted: evaluation.drawn.as_ref().is_some_and(|d| d.cable.is_some()),
        };
        let full = pack.full_charge_voltage();
        let highest = pack.equalizing_voltage().map_or(full, |v| v.max(full));
        view.dangerous = (highest > DANGEROUS).then(|| {
            let when = if full > DANGEROUS { "Freshly charged" } else { "While it is equalized" };
            format!(
                "{when} it stands at {:.0} V. Above 60 V DC a pack can kill: have it wired by someone licensed for it.",
                highest.value()
            )
        });
        let w = match laid {
            Ok(w) => w,
            Err(none) => {
                view.refused = Some(format!(
                    "No cable for {} A over {} one way: {none}.",
                    figures::amount(asked.most.value()),
                    figures::measure(
                        say.units,
                        Measure::Length,
                        plan.rig.lead.unwrap_or_else(|| lead_length(&plan.rig, pack)).value(),
                        1
                    )
                ));
                return Some(view);
            }
        };
        view.usual_lead =
            figures::typed_coarse(say.units.figure(Measure::Length, w.lead.length.value()));
        view.parts = parts(&w);
        view.runs = runs(&w, say);
        view.lines = lines(&w, &asked, pack, say);
        view.findings = w.findings.iter().map(finding).collect();
        if plan.rig.motor.full_current().is_none() {
            view.findings.push(format!(
                "Laid for the day's highest {} A: the most that the motor draws is not told on Rig.",
                figures::amount(asked.most.value())
            ));
        }
        view.checked = format!(
            "Checked as a circuit: {} V, no loop, every wire protected within its distance, the worst fault ({} kA) cleared",
            figures::typed(pack.voltage().value()),
            figures::amount(w.fault.value() / 1000.0)
        );
        view.sentence = sentence(pack, &w);
        view.drawings = drawings(about, &asked, &w, &[("wide", 780.0, 8), ("narrow", 366.0, 3)]);
        Some(view)
    }
}

/// The length that is typed for the leads to the motor, if one is.
fn lead(view: &PacksView, units: System) -> Result<Option<Metres>, String> {
    if view.lead.is_empty() {
        return Ok(None);
    }
    let read = units.read(&view.lead, Measure::Length, &allowed::LEAD);
    read.map(|m| Some(Metres::of(m))).map_err(|wrong| wrong.to_string())
}

/// The plan with the length of the leads that is typed: every pack on the page is reckoned with it.
pub(super) fn with_lead(mut plan: Plan, view: &PacksView, look: Look) -> Plan {
    if let Ok(Some(typed)) = lead(view, look.units) {
        plan.rig.lead = Some(typed);
    }
    plan
}

fn runs(w: &Wiring, say: Say<'_>) -> Vec<RunView> {
    let row = |name: &str, run: &Run, unfused: &str| RunView {
        name: name.to_owned(),
        cable: cable(run.gauge),
        length: format!(
            "{} x {}",
            run.count,
            figures::measure(say.units, Measure::Length, run.length.value(), 1)
        ),
        carries: format!("{} A", figures::amount(run.carries.value())),
        fuse: run.fuse.as_ref().map_or_else(|| unfused.to_owned(), fuse),
    };
    let none = "none that breaks its volts";
    let mut rows = vec![row("to the motor", &w.lead, none)];
    rows.extend(w.jumper.map(|run| row("jumpers", &run, "covered, as short as they go")));
    rows.extend(w.string.map(|run| row("strings to the bars", &run, none)));
    rows.extend(w.charger.map(|run| row("charger", &run, none)));
    rows.extend(w.devices.map(|run| row("12 V devices", &run, none)));
    rows
}

fn lines(w: &Wiring, asked: &Asked, pack: &Pack, say: Say<'_>) -> Vec<Line> {
    let amps = figures::amount(asked.today.value());
    let drop = format!(
        "{:.2} V, {:.1} % at the day's highest {amps} A",
        w.drop.value(),
        w.drop_share(pack) * 100.0
    );
    let there_and_back =
        figures::measure(say.units, Measure::Length, w.lead.length.value() * 2.0, 1);
    let mut lines = vec![Line::new(format!("drop over {there_and_back} there and back"), drop)];
    let terminals = match pack.battery.others.get("terminals") {
        Some(Value::Text(text)) => Some(text.as_str()),
        _ => None,
    };
    lines.push(Line::new(
        "terminals",
        match (terminals, Terminal::of(pack)) {
            (Some(t), Some(known)) => format!(
                "{t}, {} (typical; its manual comes first)",
                torque(known.torque, say.units)
            ),
            (Some(t), None) => format!("{t}; torque by its manual"),
            (None, _) => "not on its label; torque by its manual".to_owned(),
        },
    ));
    if let Some(amps) = w.breaker {
        lines.push(Line::new(
            "breaker",
            format!("{} A, reset by hand", figures::typed(amps.value())),
        ));
    }
    lines.push(Line::new("all cables weigh about", figures::mass(w.cable_mass(), say.units)));
    if w.shares.len() > 1 {
        let all: Vec<String> = w.shares.iter().map(|s| format!("{:.0} %", s * 100.0)).collect();
        lines.push(Line::new("each string's share of an even one", all.join(", ")));
    }
    lines
}
