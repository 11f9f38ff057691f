//! What flows: the current that demand and voltage agree on, and one step at it.

use crate::drawdown::bank::Cells;
use crate::drawdown::load::Demand;
use crate::numeric::halved;

/// A current and the voltage it agrees with.
#[derive(Clone, Copy)]
pub(super) struct Flow {
    pub(super) amps: f64,
    pub(super) volts: f64,
}

/// One step at the mean current, with what is needed to judge it.
pub(super) struct Step<C: Cells> {
    pub(super) mid: C::State,
    pub(super) next: C::State,
    pub(super) amps: f64,
    pub(super) volts_mid: f64,
    pub(super) end: Flow,
}

/// Most corrections of a current. Newton's method doubles the digits each time; a good guess takes
/// one, and a bad one three.
const MOST_CORRECTIONS: usize = 6;
/// A correction below this share of the current is the last one needed.
const CLOSE_ENOUGH: f64 = 0.02;

/// What flows in a state, from a guess of the current.
#[inline(always)]
pub(super) fn settle<C: Cells>(cells: &C, demand: &Demand, now: &C::State, guess: f64) -> Flow {
    if demand.is_steady() {
        return Flow { amps: guess, volts: cells.volts(now, guess) };
    }
    agreed(cells, demand, now, guess)
}

/// The current that demand and voltage agree on, from one near it: Newton's method on `demand(V(I)) - I`.
#[inline(always)]
fn agreed<C: Cells>(cells: &C, demand: &Demand, now: &C::State, mut amps: f64) -> Flow {
    let least = cells.least_volts();
    for _ in 0..MOST_CORRECTIONS {
        let (volts, slope) = cells.volts_and_slope(now, amps);
        let (wanted, per_volt) = demand.amps_and_slope(volts.max(least));
        // Near the most power a battery can give the slopes cancel: small steps there.
        let by = (wanted - amps) / (1.0 - per_volt * slope).max(0.2);
        amps += by;
        if by.abs() <= CLOSE_ENOUGH * amps.abs() {
            // From where nothing is within reach no tangent leads back.
            let near = volts + slope * by;
            let volts = if near > f64::NEG_INFINITY { near } else { cells.volts(now, amps) };
            return Flow { amps, volts };
        }
    }
    // More is asked than there is, or nearly: what is asked and what flows meet once, or nowhere above the end.
    let at = |amps: f64| Flow { amps, volts: cells.volts(now, amps) };
    let asked = |amps: f64| demand.amps(at(amps).volts.max(least));
    let most = asked(0.0).max(demand.amps(least));
    at(halved((0.0, most), 30, |amps| asked(amps) > amps).1)
}

/// One step of `hours`, at the current found in its middle.
#[inline(always)]
pub(super) fn take<C: Cells>(
    cells: &C,
    demand: &Demand,
    now: &C::State,
    begin: &Flow,
    hours: f64,
) -> Step<C> {
    let half = cells.decay(0.5 * hours);
    let mid = cells.draw(now, begin.amps, 0.5 * hours, half);
    if demand.is_steady() {
        let next = cells.draw(now, begin.amps, hours, half * half);
        let volts_mid = cells.volts(&mid, begin.amps);
        let end = Flow { volts: cells.volts(&next, begin.amps), ..*begin };
        return Step { mid, next, amps: begin.amps, volts_mid, end };
    }
    let middle = agreed(cells, demand, &mid, begin.amps);
    let next = cells.draw(now, middle.amps, hours, half * half);
    // The current goes on changing as it did.
    let amps = middle.amps + (middle.amps - begin.amps).max(-middle.amps);
    let end = agreed(cells, demand, &next, amps);
    Step { mid, next, amps: middle.amps, volts_mid: middle.volts, end }
}
