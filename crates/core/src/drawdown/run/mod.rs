//! A day, stretch by stretch: each in closed form, with what happens *inside* it found exactly.
//!
//! At a steady current a stretch is one step, since the remembered current is known in closed form. Where the current follows
//! the voltage it is cut into pieces, each at the mean current of its ends, which are solved for by Newton's
//! method. A voltage that reaches its end, a level that is crossed and a current that opens a BMS are looked for
//! inside the piece, so that a moment does not hang on how a day is cut.

mod flow;
mod told;
mod walk;

pub use told::{Ended, Guard, Leg, Point, Summary};

use super::bank::{Bank, BankState, Cells};
use crate::units::Hours;
use walk::{FINE, Fineness, ROUGH, Walk};

/// Works a day through from a full, rested bank, see [`run_from`].
pub fn run(bank: &Bank, legs: &[Leg], guard: &Guard, observe: impl FnMut(Point)) -> Summary {
    run_from(bank, &bank.full(), legs, guard, observe)
}

/// Works a day through from any state of a bank.
///
/// `observe` is given the start and the end of every piece: as many points as the picture needs,
/// since charge falls along straight lines between them. Nothing is allocated.
pub fn run_from(
    bank: &Bank,
    from: &BankState,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    run_in(FINE, bank, from, legs, guard, observe)
}

/// As [`run_from`], with the state that it ends in, from which it may go on.
pub fn run_on(bank: &Bank, from: &BankState, legs: &[Leg], guard: &Guard) -> (Summary, BankState) {
    run_watched(bank, from, legs, guard, |_| {})
}

/// As [`run_on`], told point by point.
pub fn run_watched(
    bank: &Bank,
    from: &BankState,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> (Summary, BankState) {
    fn on<C: Cells>(
        cells: C,
        from: &BankState,
        legs: &[Leg],
        guard: &Guard,
        observe: impl FnMut(Point),
    ) -> (Summary, BankState) {
        let mut walk = Walk::new(&cells, from, guard, observe);
        for leg in legs {
            if !walk.through(&cells, leg) {
                break;
            }
        }
        let state = BankState { warmer: walk.warmer, ..cells.known_as(&walk.state()) };
        (walk.summary(), state)
    }
    match bank.alike() {
        Some(alike) => on(alike, from, legs, guard, observe),
        None => on(*bank, from, legs, guard, observe),
    }
}

/// As [`run_from`], in fewer steps where the current follows the voltage: for the many runs of a band, whose
/// own width is a hundred times the error.
pub fn run_roughly(
    bank: &Bank,
    from: &BankState,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    run_in(ROUGH, bank, from, legs, guard, observe)
}

/// As [`run_from`], as finely as asked. Units all alike cost as much as one of them.
fn run_in(
    fineness: Fineness,
    bank: &Bank,
    from: &BankState,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    match bank.alike() {
        Some(alike) => day(fineness, alike, from, legs, guard, observe),
        None => day(fineness, *bank, from, legs, guard, observe),
    }
}

/// Goes through the stretches until the day or the bank ends.
fn day<C: Cells>(
    fineness: Fineness,
    cells: C,
    from: &BankState,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    let mut walk = Walk::new(&cells, from, guard, observe);
    walk.fineness = fineness;
    for leg in legs {
        if !walk.through(&cells, leg) {
            break;
        }
    }
    walk.summary()
}

/// Hours until the floor or the end is reached when the day is repeated over and over, up to
/// `longest`; `None` when that never happens because nothing (or next to nothing) is drawn. [h]
pub fn hours_at_this_pace(
    bank: &Bank,
    from: &BankState,
    legs: &[Leg],
    guard: &Guard,
    longest: Hours,
) -> Option<Hours> {
    hours_until_floor(bank, from, &[], legs, guard, longest)
}

/// The same when something else comes `first`, once; the hours count from its beginning. [h]
pub fn hours_until_floor(
    bank: &Bank,
    from: &BankState,
    first: &[Leg],
    legs: &[Leg],
    guard: &Guard,
    longest: Hours,
) -> Option<Hours> {
    let longest = longest.value();
    match bank.alike() {
        Some(alike) => until_floor(alike, from, first, legs, guard, longest),
        None => until_floor(*bank, from, first, legs, guard, longest),
    }
    .map(Hours::of)
}

/// Goes through `first` and then `legs` over and over, to the floor, the end or the limit. [h]
fn until_floor<C: Cells>(
    cells: C,
    from: &BankState,
    first: &[Leg],
    legs: &[Leg],
    guard: &Guard,
    longest: f64,
) -> Option<f64> {
    let day: f64 = legs.iter().map(|l| l.hours.value()).sum();
    if day <= 0.0 {
        return None;
    }
    let mut walk = Walk::new(&cells, from, guard, |_| {});
    let mut turn = first;
    while walk.time < longest {
        let before = walk.time;
        for leg in turn {
            let goes_on = walk.through(&cells, leg);
            if let Some(at) = walk.floor_at {
                return Some(at);
            }
            if !goes_on {
                return Some(walk.time);
            }
        }
        // A day so short that time stands still would never end.
        if !turn.is_empty() && (walk.time <= before || walk.drawn <= 0.0) {
            return None;
        }
        turn = legs;
    }
    None
}
