//! The verdict as one value: what happens, and the first limit that fails. Every page, file and answer says this one.

use super::work::{Does, How};
use super::{Evaluation, Outcome};
use crate::day::Day;
use crate::drawdown::Ended;
use crate::keyed::keyed;
use crate::units::Hours;

keyed! {
    /// What happens on a day.
    pub enum What {
        /// It gets home, the day done as planned.
        Home,
        /// It gets home, slower than planned.
        HomeSlower,
        /// It gets home on charge that its life wants left.
        HomeTooDeep,
        /// It stops on the way: nothing is left that it could give.
        Stops,
        /// Its BMS shuts off on current.
        ShutsOff,
        /// A place is not held.
        CannotHold,
        /// A speed is not made.
        CannotMake,
        /// It cannot be used.
        RuledOut,
    }
}

keyed! {
    /// What fails first.
    pub enum Limit {
        /// The motor's power on these volts.
        Motor,
        /// What is kept for the way home.
        Reserve,
        /// The lowest charge for its life.
        LowestCharge,
        /// What its BMS lets through.
        Bms,
        /// Its charge.
        Empty,
        /// A figure that rules it out.
        Figure,
    }
}

/// What happens, and the first limit that fails.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Verdict {
    /// What happens.
    pub what: What,
    /// The limit that fails first by the clock, and when; `None` where none does.
    pub limit: Option<(Limit, Option<Hours>)>,
    /// The place in the day of the stretch that is not done, where one is not.
    pub stretch: Option<usize>,
}

impl Evaluation {
    /// The verdict, on a day as it was planned. What cannot be done at all stands above any hours and what is left at the end; of limits
    /// that fail the earliest on the clock is told.
    pub fn verdict(&self, planned: &Day) -> Verdict {
        let Some(drawn) = &self.drawn else {
            return Verdict {
                what: What::RuledOut,
                limit: Some((Limit::Figure, None)),
                stretch: None,
            };
        };
        let undone = drawn.work.first_undone();
        let day = drawn.day(planned);
        let ended = match drawn.summary.ended {
            Ended::DayDone => None,
            Ended::Stopped { at, .. } => Some((Limit::Empty, at)),
            Ended::Tripped { at, .. } => Some((Limit::Bms, at)),
        };
        let slower = drawn.work.otherwise.first();
        let limits = [
            slower.map(|o| (Limit::Motor, day.begins(o.stretch))),
            drawn.summary.reserve_at.map(|at| (Limit::Reserve, at)),
            drawn.summary.floor_at.map(|at| (Limit::LowestCharge, at)),
            ended,
        ];
        let first = limits.into_iter().flatten().min_by(|a, b| a.1.value().total_cmp(&b.1.value()));
        // What ends the day before it comes to that is told first.
        let undone = undone.filter(|o| ended.is_none_or(|(_, at)| at >= day.begins(o.stretch)));
        let what = match (undone.map(|o| o.how), drawn.summary.ended, self.outcome) {
            (Some(How::CannotHold), ..) => What::CannotHold,
            (Some(_), ..) => What::CannotMake,
            (_, Ended::Tripped { .. }, _) => What::ShutsOff,
            (_, Ended::Stopped { .. }, _) => What::Stops,
            (.., Outcome::BelowFloor) => What::HomeTooDeep,
            _ if drawn.work.does() == Does::Slower => What::HomeSlower,
            _ => What::Home,
        };
        Verdict {
            what,
            limit: first.map(|(limit, at)| (limit, Some(at))),
            stretch: undone.or(slower).map(|o| o.stretch),
        }
    }

    /// The outcome that it counts as: where a place is not held or a speed not made nothing has got home, however much is left; what
    /// is done slower is at best what touches the reserve.
    pub fn counts_as(&self) -> Outcome {
        match self.drawn.as_ref().map(|drawn| drawn.work.does()) {
            Some(Does::NotAll) => self.outcome.max(Outcome::Stops),
            Some(Does::Slower) => self.outcome.max(Outcome::BelowReserve),
            _ => self.outcome,
        }
    }

    /// Whether the day is done to its end and all that gets somewhere gets there.
    pub fn covers_the_distance(&self) -> bool {
        self.drawn.as_ref().is_some_and(|drawn| {
            drawn.summary.ended == Ended::DayDone && drawn.work.does() < Does::NotAll
        })
    }
}
