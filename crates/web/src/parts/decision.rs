//! What a lane says first, in the order owners ask: home or not and with how much to spare, how hard it
//! may be driven, what does not fit. Percent comes second and says of what.

use crate::figures;
use lake_hour_core::drawdown::Ended;
use lake_hour_core::pack::Pack;
use lake_hour_core::pack::stow::Refusal;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::Dial;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Hours, Metres};
use lake_hour_core::verdict::{Course, Drawn, Evaluation, Note, Outcome, Spare, What};

/// More hours than this are as good as endless on the water. [h]
const ENDLESS: f64 = 100.0;

/// What stands around a decision.
#[derive(Debug, Clone, Copy)]
pub(crate) struct About<'a> {
    pub(crate) plan: &'a Plan,
    pub(crate) pack: &'a Pack,
    pub(crate) course: &'a Course,
    pub(crate) say: Say<'a>,
}

impl About<'_> {
    pub(crate) const fn is_boat(&self) -> bool {
        self.plan.rig.craft.kind.is_boat()
    }

    fn clock(&self, at: Hours) -> String {
        figures::clock(&self.plan.day, at, self.say.clock)
    }

    fn spare(&self, drawn: &Drawn) -> Option<Spare> {
        drawn.spare(self.course)
    }

    /// How far a full charge goes at the day's pace, where it goes anywhere. [m]
    pub(crate) fn range(&self, drawn: &Drawn) -> Option<Metres> {
        drawn.range(self.course)
    }

    /// "2.9 h (6.4 mi)"; on wheels "8.1 mi (0.6 of a round)".
    fn spare_words(&self, spare: Spare) -> String {
        let hours = spare.hours.value();
        if self.is_boat() {
            let far = spare.distance.map(|d| format!(" ({})", figures::far(d, self.say.units)));
            return format!("{}{}", figures::hours(hours), far.unwrap_or_default());
        }
        let rounds = self.plan.day.rounds() as f64;
        match spare.distance {
            Some(d) => {
                let rounds = rounds * d.value() / self.course.distance().value();
                format!("{} ({})", figures::far(d, self.say.units), figures::rounds(rounds))
            }
            None => figures::rounds(rounds * hours / self.plan.day.lasts().value()),
        }
    }
}

/// Goes with the words of a verdict: `full`, `half` or `open`.
pub(crate) const fn disc(outcome: Outcome) -> &'static str {
    match outcome {
        Outcome::Home => "full",
        Outcome::BelowReserve => "half",
        _ => "open",
    }
}

/// The verdict in one plain sentence, without its full stop: the same on every page.
pub(crate) fn verdict(about: &About<'_>, evaluation: &Evaluation) -> String {
    let Some(drawn) = &evaluation.drawn else { return "Set aside".to_owned() };
    let gets = if about.is_boat() { "Gets home" } else { "Gets back" };
    let told = evaluation.verdict(&about.plan.day);
    let otherwise = drawn.work.otherwise.iter().find(|o| Some(o.stretch) == told.stretch);
    let speed = |v| figures::speed(v, about.say.units);
    let name = |n: usize| about.plan.day.stretches.get(n).map_or("", |s| &*s.name);
    match (told.what, drawn.summary.ended) {
        (What::CannotHold, _) => {
            let at = told.stretch.unwrap_or(0);
            let wind = speed(about.plan.day.windiest(at));
            format!("Cannot hold in {wind} of wind: {}", name(at))
        }
        (What::CannotMake, _) => otherwise.map_or_else(String::new, |o| {
            format!(
                "Cannot make {}, {} at most: {}",
                speed(o.planned),
                speed(o.reached),
                name(o.stretch)
            )
        }),
        (_, Ended::Stopped { at, .. }) => {
            let span = drawn.day(&about.plan.day).span();
            let short = figures::duration(span.value() - at.value());
            format!("Stops at {}, {short} short", about.clock(at))
        }
        (_, Ended::Tripped { at, amps }) => trips(about, drawn, at, amps),
        (What::HomeTooDeep, _) => {
            let deep = figures::percent(drawn.floor - drawn.between.0);
            format!("{gets}, but {deep} too deep")
        }
        (What::HomeSlower, _) => {
            let longer = drawn.work.longer();
            match otherwise {
                Some(_) if longer > Hours::ZERO => {
                    format!("{gets}, {} later than planned", figures::duration(longer.value()))
                }
                Some(o) => format!(
                    "{gets}, slower: {} at {} instead of {}",
                    name(o.stretch),
                    speed(o.reached),
                    speed(o.planned)
                ),
                None => gets.to_owned(),
            }
        }
        _ => match about.spare(drawn) {
            Some(spare) if spare.hours.value() < ENDLESS => {
                format!("{gets} with {} to spare", about.spare_words(spare))
            }
            _ => format!("{gets} with days to spare"),
        },
    }
}

/// Which current its BMS ends the day on, at which volts, and what it allows.
fn trips(about: &About<'_>, drawn: &Drawn, at: Hours, in_a_string: Amps) -> String {
    let amps = in_a_string * f64::from(about.pack.parallel);
    let point = drawn.points.iter().rev().find(|p| p.at.value() <= at.value() + 1e-9);
    let volts = point.and_then(|p| p.volts).map(|v| format!(" at {v:.1}")).unwrap_or_default();
    format!("BMS shuts off at {}: {} A{volts}", about.clock(at), figures::amount(amps.value()))
}

/// How hard it may be driven, where that is not as hard as one likes.
pub(crate) fn drive(about: &About<'_>, evaluation: &Evaluation) -> Option<String> {
    let drawn = evaluation.drawn.as_ref()?;
    let setting = drawn.keep_to?;
    if drawn.ended_early_at().is_some() && setting < 0.01 {
        return None;
    }
    let limit = about.pack.bms_limit();
    let full = about.plan.rig.motor.full_current();
    let why = match limit.filter(|l| full.is_none_or(|full| full.value() * 1.05 > l.value())) {
        Some(limit) => format!("its BMS shuts off above {} A", figures::amount(limit.value())),
        None => "little is left at the end of a bad day".to_owned(),
    };
    if setting < 0.01 {
        return Some("On a bad day nothing is left for the motor at the end.".to_owned());
    }
    let dial = &about.plan.rig.motor.dial;
    Some(if about.is_boat() || *dial != Dial::Tenths {
        format!("Stay at setting {} or below: {why}.", figures::setting(dial, setting))
    } else {
        format!("Stay below {} throttle: {why}.", figures::percent(setting / 10.0))
    })
}

/// What does not fit: the charger where no other does, the bays. Each a sentence.
pub(crate) fn misfits(about: &About<'_>, evaluation: &Evaluation) -> Vec<String> {
    let Some(drawn) = &evaluation.drawn else { return Vec::new() };
    let no_charger = drawn.refill.by.is_none();
    let said = evaluation.notes.iter().filter_map(|note| match note {
        Note::Misfit(misfit) if no_charger => Some(misfit.to_string()),
        Note::DoesNotFit { placed, units, why } => {
            Some(format!("Bays take {placed} of its {units}{}.", shortest(why, about.say.units)))
        }
        _ => None,
    });
    said.collect()
}

/// The bay that comes nearest, and what it is short of: ": Bow box is 2.6 in short".
fn shortest(why: &[(String, Refusal)], units: System) -> String {
    let short = why.iter().find_map(|(bay, refusal)| match refusal {
        Refusal::Short { needs, has, .. } => {
            let side = units.say(Measure::Side, needs - has, usize::from(units != System::Metric));
            Some(format!(": {bay} is {side} short"))
        }
        Refusal::TooHeavy { .. } => Some(format!(": too heavy for {bay}")),
        Refusal::Gasses => None,
    });
    short.unwrap_or_else(|| ": flooded ones never in a closed-off bay".to_owned())
}

/// Notes that the decision does not say already.
pub(crate) fn notes(about: &About<'_>, evaluation: &Evaluation) -> Vec<String> {
    let told = evaluation.verdict(&about.plan.day);
    let said = |n: &&Note| match n {
        Note::Misfit(_) | Note::DoesNotFit { .. } | Note::NoFullThrottle { .. } => false,
        Note::GoesOtherwise { otherwise, .. } => Some(otherwise.stretch) != told.stretch,
        _ => true,
    };
    evaluation.notes.iter().filter(said).map(|n| n.sentence(about.say.units)).collect()
}

/// What the lane says in short, at length.
pub(crate) fn in_full(about: &About<'_>, evaluation: &Evaluation) -> Vec<String> {
    let long = |n: &&Note| {
        matches!(n, Note::Misfit(_) | Note::DoesNotFit { .. } | Note::NoFullThrottle { .. })
    };
    evaluation.notes.iter().filter(long).map(|n| n.sentence(about.say.units)).collect()
}

/// What is left, of what, and from a bad day to a good one.
pub(crate) fn range(drawn: &Drawn) -> String {
    let (low, high) = (drawn.band.low * 100.0, drawn.band.high * 100.0);
    let finished = drawn.band.days_finished;
    if drawn.ended_early_at().is_some() {
        return if finished > 0.0 {
            format!("gets through {:.0} days in 100", finished * 100.0)
        } else {
            "even on a good day".to_owned()
        };
    }
    let (left, floor) = (drawn.summary.charge_left, drawn.floor);
    let above = (left - floor) * 100.0;
    let side = if above < 0.0 { "below" } else { "above" };
    let said = if drawn.out_of_reach > floor {
        // What lies below cannot be drawn today: the floor is under the ice.
        let kept = drawn.out_of_reach.min(left);
        format!("{} left, {} of it out of reach", figures::percent(left), figures::percent(kept))
    } else {
        format!(
            "{} left, {:.0} {side} its floor of {}",
            figures::percent(left),
            above.abs(),
            figures::percent(floor)
        )
    };
    if finished < 1.0 {
        let short = (1.0 - finished) * 100.0;
        return format!("{said}; stops short {short:.0} days in 100");
    }
    let said = format!("{said} ({low:.0} to {high:.0})");
    // Charged on the way it may have been lower than it ends.
    let lowest = drawn.between.0;
    if drawn.summary.reserve_at.is_some() && lowest + 0.005 < left {
        return format!("{said}, down to {} on the way", figures::percent(lowest));
    }
    let in_reserve = drawn.summary.reserve_at.is_some() && drawn.summary.floor_at.is_none();
    if in_reserve { format!("{said}, in reserve") } else { said }
}

/// Whether a pack's price counts what it needs besides.
pub(crate) fn has_needs(plan: &Plan, pack: &Pack, judged: &Evaluation) -> bool {
    pack.extras.now().is_some() || plan.build.counted && judged.reasons.is_empty()
}
