//! The schools of practice: which one the house follows, why, and what the others would say of this Board.

use crate::frame::weighed::OnBoard;
use lake_hour_core::decide::{Contest, Standing};
use lake_hour_core::plan::Plan;
use lake_hour_core::plan::schools::Question;
use lake_hour_core::verdict::{Does, Outcome};

/// One school's answer as a button.
pub(crate) struct SchoolView {
    pub(crate) place: usize,
    pub(crate) says: &'static str,
    pub(crate) why: &'static str,
    pub(crate) chosen: bool,
    /// What it would make of the Board; nothing of the one that is followed.
    pub(crate) would_say: String,
}

/// A question with its schools.
pub(crate) struct QuestionView {
    pub(crate) key: &'static str,
    pub(crate) asks: &'static str,
    pub(crate) schools: Vec<SchoolView>,
}

/// Which pack comes first, and how many get home above their floor.
fn answer(plan: &Plan) -> Option<(Option<usize>, usize)> {
    let standings = Contest::of(plan).ok()?.standings();
    let home = |s: &&Standing| {
        s.survey.as_ref().is_some_and(|survey| {
            survey.does < Does::NotAll
                && matches!(survey.outcome, Outcome::Home | Outcome::BelowReserve)
        })
    };
    Some((Contest::first(&standings), standings.iter().filter(home).count()))
}

/// All questions, with what each other school would say.
pub(crate) fn questions(board: &OnBoard) -> Vec<QuestionView> {
    let plan = &board.plan;
    let now = answer(plan);
    let all = Question::ALL.into_iter().map(|question| {
        let chosen = question.chosen(plan);
        let schools = question.choices().iter().enumerate().map(|(place, choice)| SchoolView {
            place,
            says: choice.says,
            why: choice.why,
            chosen: chosen == Some(place),
            would_say: match (chosen == Some(place), now) {
                (false, Some(now)) => would_say(plan, question, place, now),
                _ => String::new(),
            },
        });
        QuestionView { key: question.key(), asks: question.asks(), schools: schools.collect() }
    });
    all.collect()
}

fn would_say(
    plan: &Plan,
    question: Question,
    place: usize,
    (first, home): (Option<usize>, usize),
) -> String {
    let mut other = plan.clone();
    question.choose(&mut other, place);
    let Some((then, then_home)) = answer(&other) else { return String::new() };
    let name = |n: Option<usize>| n.map_or("none", |n| plan.packs[n].name.as_str());
    let first_words = (then != first).then(|| format!("{} would come first", name(then)));
    let home_words = (then_home != home).then(|| {
        let boat = plan.rig.craft.kind.is_boat();
        format!("{then_home} instead of {home} get {}", if boat { "home" } else { "back" })
    });
    let said: Vec<String> = first_words.into_iter().chain(home_words).collect();
    if said.is_empty() { "the same answer".to_owned() } else { said.join(", ") }
}

/// Where the house follows another school than the usual one: "LFP charged 80 %"; floors are told apart.
pub(crate) fn unusual(plan: &Plan) -> Vec<String> {
    let told = |q: &Question| {
        !matches!(
            q,
            Question::LeadFloor
                | Question::LfpFloor
                | Question::LfpCeiling
                | Question::Devices
                // Told by the wants.
                | Question::Size
                | Question::Parts
                | Question::Brand
        )
    };
    let all = Question::ALL.into_iter().filter(told);
    all.filter_map(|question| {
        let chosen = question.chosen(plan).filter(|n| *n > 0)?;
        let says = question.choices()[chosen].says;
        Some(match question {
            Question::Charge => format!("charged {says}"),
            Question::Ageing => format!("ageing: {says}"),
            Question::Chargers => format!("chargers: {says}"),
            _ => says.to_owned(),
        })
    })
    .collect()
}
