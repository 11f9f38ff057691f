//! The order of work on the page and on paper.

use super::words::{self, Words};
use crate::forms::build::{StepFields, step_fields, step_typed};
use crate::forms::{Field, Problems, Shown};
use crate::frame::asked::Scene;
use crate::frame::view::{Open, Part};
use lake_hour_core::build::steps::Standing;
use lake_hour_core::build::{Phase, Step};

/// A step in words, with its form.
#[derive(Debug, Clone)]
pub(super) struct StepView {
    pub(super) key: &'static str,
    pub(super) number: usize,
    pub(super) title: String,
    pub(super) how: String,
    pub(super) why: String,
    pub(super) cautions: Vec<String>,
    pub(super) tools: String,
    /// "26.3 to 29.2 V".
    pub(super) right: Option<String>,
    pub(super) asks: &'static str,
    /// The unit that it is read in.
    pub(super) unit: &'static str,
    pub(super) state: &'static str,
    /// What it waits for, in words.
    pub(super) waits: Option<String>,
    /// What to do about a reading that is out of its limits.
    pub(super) wrong: Option<&'static str>,
    pub(super) reason: String,
    pub(super) was: Option<String>,
    /// It is the next one.
    pub(super) next: bool,
    pub(super) fields: Vec<Field>,
    pub(super) reason_field: Option<Field>,
    /// What is wrong with what was said of it.
    pub(super) problem: Option<String>,
}

impl StepView {
    pub(super) fn is(&self, state: &str) -> bool {
        self.state == state
    }

    /// It is worth being open: it is next, stopped, or looked at again.
    pub(super) fn opens(&self) -> bool {
        let bad = |f: &Field| f.problem.is_some();
        self.next
            || self.wrong.is_some()
            || self.problem.is_some()
            || self.fields.iter().chain(&self.reason_field).any(bad)
    }
}

/// Steps under their heading.
#[derive(Debug, Clone)]
pub(super) struct PhaseView {
    pub(super) name: &'static str,
    pub(super) steps: Vec<StepView>,
}

/// The steps as they stand, in their order; a phase is told where it begins.
pub(super) fn phases(scene: &Scene, words: &Words<'_>) -> Vec<PhaseView> {
    let steps = words.job.steps();
    let next = steps
        .iter()
        .position(|s| matches!(s.standing(&steps), Standing::Ready | Standing::Stopped(_)));
    let mut phases: Vec<(Phase, PhaseView)> = Vec::new();
    for (n, step) in steps.iter().enumerate() {
        let view = view(scene, words, step, &steps, next == Some(n));
        let phase = step.key.phase();
        match phases.last_mut() {
            Some((last, gathered)) if *last == phase => gathered.steps.push(view),
            _ => phases.push((phase, PhaseView { name: words::phase(phase), steps: vec![view] })),
        }
    }
    phases.into_iter().map(|(_, view)| view).collect()
}

fn view(scene: &Scene, words: &Words<'_>, step: &Step, all: &[Step], next: bool) -> StepView {
    let said = words.step(step.key);
    let standing = step.standing(all);
    let units = scene.look.units;
    let draft = scene.draft_of(Open::Part(Part::Step(step.key)));
    let none = Problems::default();
    let typed =
        draft.map_or_else(|| step_typed(&step.kept, step.reading, units), |d| d.typed.clone());
    let problems = draft.map_or(&none, |d| &d.problems);
    let asks = step.reading.map(|reading| (reading, words.asks(step.key, reading)));
    let shown = Shown { typed: &typed, problems, units };
    let StepFields { reading, note, reason } = step_fields(shown, step.key, asks);
    let unit = reading.as_ref().map_or("", |f| f.unit);
    let tools: Vec<&str> = step.key.tools().iter().map(|t| words::tool(*t)).collect();
    StepView {
        key: step.key.key(),
        number: step.number,
        title: said.title,
        how: said.how,
        why: said.why,
        cautions: step.cautions.iter().map(|c| words.caution(*c, step.key)).collect(),
        tools: tools.join("; "),
        right: step.reading.map(|reading| words.reading(reading)),
        asks: asks.map_or("", |(_, asks)| asks),
        unit,
        state: step.kept.state.key(),
        waits: match standing {
            Standing::Waits(key) => {
                all.iter().find(|s| s.key == key).map(|s| format!("after step {}", s.number))
            }
            _ => None,
        },
        wrong: match standing {
            Standing::Stopped(read) => Some(words.wrong(step.key, read)),
            _ => None,
        },
        reason: step.kept.reason.clone(),
        was: step.was.clone().filter(|was| !was.is_empty()),
        next,
        fields: reading.into_iter().chain(note).collect(),
        reason_field: reason,
        problem: problems.get("say").map(str::to_owned),
    }
}
