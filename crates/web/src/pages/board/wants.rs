//! What is wanted: the chips, the panel, and how each lane answers.

use crate::forms::wants::{WantFields, fields, next, typed};
use crate::forms::{Problems, Shown};
use crate::frame::asked::Scene;
use crate::frame::view::Open;
use crate::parts::lane::{Had, Lane};
use crate::parts::wants as words;
use lake_hour_core::decide::Standing;
use lake_hour_core::plan::Plan;
use lake_hour_core::units::say::Say;
use lake_hour_core::wants::{Kind, Level, Preset, Want};

/// A want as a chip that goes round its three levels.
pub(crate) struct WantChip {
    pub(crate) key: &'static str,
    pub(crate) words: String,
    pub(crate) level: &'static str,
    pub(crate) level_words: &'static str,
    /// What a press makes of it.
    pub(crate) next: Level,
    pub(crate) next_words: &'static str,
}

/// The row of chips and, when open, the panel.
pub(crate) struct WantsView {
    pub(crate) chips: Vec<WantChip>,
    pub(crate) panel: Option<Vec<WantFields>>,
    pub(crate) presets: Vec<(&'static str, &'static str)>,
}

impl WantsView {
    pub(crate) fn new(scene: &Scene, plan: &Plan) -> Self {
        let kept = &scene.board.plan;
        let say = scene.look.say(&kept.currency);
        let chips = kept.wants.iter().map(|want| WantChip {
            key: want.kind.key(),
            words: words::words(want, say, plan.rules.horizon_years),
            level: want.level.key(),
            level_words: words::level(want.level),
            next: next(want.level),
            next_words: words::level(next(want.level)),
        });
        let panel = (scene.view.open == Open::Wants).then(|| {
            let draft = scene.draft_of(Open::Wants);
            let none = Problems::default();
            let typed = draft.map_or_else(|| typed(&kept.wants, scene.look), |d| d.typed.clone());
            let problems = draft.map_or(&none, |d| &d.problems);
            fields(Shown { typed: &typed, problems, units: scene.look.units })
        });
        let presets = Preset::ALL.map(|preset| (preset.key(), words::preset(preset)));
        Self { chips: chips.collect(), panel, presets: presets.into() }
    }
}

/// How a lane answers what is wanted.
pub(crate) fn stand(lane: &mut Lane, plan: &Plan, standing: Option<&Standing>, say: Say<'_>) {
    let Some(standing) = standing.filter(|s| s.survey.is_some()) else { return };
    let answers = std::iter::zip(&plan.wants, &standing.answers);
    let said = |want: &Want| words::words(want, say, plan.rules.horizon_years);
    lane.wants = answers
        .filter(|(want, _)| want.counts())
        .map(|(want, answer)| Had {
            disc: match answer.met {
                Some(true) => "full",
                Some(false) => "open",
                None => "half",
            },
            words: said(want),
            more: words::has(want, answer, say),
            met: answer.met == Some(true),
        })
        .collect();
    lane.fails_short = standing.fails.iter().map(|n| said(&plan.wants[*n])).collect();
    lane.fails = standing
        .fails
        .iter()
        .map(|n| {
            let (want, answer) = (&plan.wants[*n], &standing.answers[*n]);
            match words::has(want, answer, say) {
                _ if want.kind == Kind::HomeWith && answer.value.is_none() => {
                    format!("must be: {} ({})", said(want), lane.verdict)
                }
                has if has.is_empty() => format!("must be: {}", said(want)),
                has => format!("must be: {} ({has})", said(want)),
            }
        })
        .collect();
    let all = plan.wants.iter().filter(|w| w.level != Level::NoMatter).count();
    lane.unbeaten = all > 1 && standing.is_in_the_running() && standing.beaten_by.is_none();
}
