//! Going through a day piece by piece: what happens inside each is found, and taken into the account.

use super::flow::{Flow, Step, settle, take};
use super::told::{Ended, Guard, Leg, Point, Summary};
use crate::drawdown::bank::{BankState, Cells};
use crate::drawdown::law::Warms;
use crate::drawdown::law::{LONG_WAY, bends, winds};
use crate::drawdown::load::Demand;
use crate::drawdown::temperature::RATED;
use crate::numeric::last_positive;
use crate::units::{AmpHours, Amps, Hours, Volts, WattHours, Watts};

/// How finely a stretch is cut where the current follows the voltage.
#[derive(Debug, Clone, Copy)]
pub(super) struct Fineness {
    /// Largest share of the bank's charge covered by one step.
    piece: f64,
    /// Largest share by which the voltage may fall in one.
    steep: f64,
    /// How much warmer a battery may get by its own losses in one. [K]
    warmed: f64,
}

/// Run times agree with a 0.1 s integration within 0.2 %.
pub(super) const FINE: Fineness = Fineness { piece: 0.08, steep: 0.01, warmed: 0.25 };
/// Where a band is wanted and not a moment: within 0.5 %.
pub(super) const ROUGH: Fineness = Fineness { piece: 0.25, steep: 0.06, warmed: 2.0 };
/// Shortest step that is halved for it. [h]
const SHORTEST: f64 = 0.000_4;
/// Longest piece of a stretch in which a battery that warms itself is taken to be at one temperature. [h]
const LONGEST_PIECE: f64 = 1.0;
/// Warmer by less than this it is taken to be as warm as the air makes it: a twentieth of a point of the charge at freezing. [K]
const NOTHING_WARMER: f64 = 0.1;

/// Progress through a day.
pub(super) struct Walk<'a, C: Cells, F> {
    guard: &'a Guard,
    /// Current one string may carry without end; infinite when nothing opens. [A]
    continuous: f64,
    /// Current at which a string opens at once, likewise. [A]
    peak: f64,
    pub(super) fineness: Fineness,
    pub(super) time: f64,
    state: C::State,
    share: f64,
    /// Last known pack voltage, from which the next current is guessed. [V]
    volts: f64,
    pub(super) ended: Ended,
    pub(super) floor_at: Option<f64>,
    floor_volts: f64,
    reserve_at: Option<f64>,
    string_out_at: Option<f64>,
    over_since: Option<f64>,
    /// How much warmer its own losses have made it than the air alone would. [K]
    pub(super) warmer: f64,
    pub(super) drawn: f64,
    energy: f64,
    charged: f64,
    energy_in: f64,
    lowest: f64,
    observe: F,
}
impl<'a, C: Cells, F: FnMut(Point)> Walk<'a, C, F> {
    /// At the start, with the bank at rest observed.
    pub(super) fn new(cells: &C, from: &BankState, guard: &'a Guard, mut observe: F) -> Self {
        let state = cells.from(from);
        let share = cells.charge_share(&state);
        let volts = cells.volts(&state, 0.0);
        observe(Point::of(0.0, share, volts, 0.0));
        Self {
            guard,
            continuous: guard.continuous.map_or(f64::INFINITY, Amps::value),
            peak: guard.peak.map_or(f64::INFINITY, Amps::value),
            fineness: FINE,
            time: 0.0,
            state,
            share,
            volts,
            ended: Ended::DayDone,
            floor_at: None,
            floor_volts: f64::NAN,
            reserve_at: None,
            string_out_at: None,
            over_since: None,
            warmer: from.warmer,
            drawn: 0.0,
            energy: 0.0,
            charged: 0.0,
            energy_in: 0.0,
            lowest: f64::INFINITY,
            observe,
        }
    }

    /// The state that it is in.
    pub(super) const fn state(&self) -> C::State {
        self.state
    }

    /// What it came to so far.
    pub(super) fn summary(&self) -> Summary {
        Summary {
            ended: self.ended,
            charge_left: self.share.max(0.0),
            past_label: (-self.share).max(0.0),
            floor_at: self.floor_at.map(Hours::of),
            floor_volts: self.floor_at.and_then(|_| Volts::try_new(self.floor_volts).ok()),
            reserve_at: self.reserve_at.map(Hours::of),
            string_out_at: self.string_out_at.map(Hours::of),
            delivered: AmpHours::of(self.drawn),
            energy: WattHours::of(self.energy),
            charged: AmpHours::of(self.charged),
            energy_in: WattHours::of(self.energy_in),
            lowest_voltage: Volts::try_new(self.lowest).ok(),
        }
    }

    /// Goes through one stretch; false when the day ended in it.
    #[inline(always)]
    pub(super) fn through(&mut self, cells: &C, leg: &Leg) -> bool {
        if leg.cold.is_none() {
            return self.stretch(cells, leg);
        }
        match cells.warms() {
            Some(warms) if leg.cold.at < RATED => self.warming(cells, leg, warms),
            _ => self.stretch(&cells.at_temperature(leg.cold), leg),
        }
    }

    /// A stretch in the cold in which its own losses warm it: in pieces of an hour or two degrees at the most, each at the warmth
    /// of its middle. What warms comes back within reach. False when the day ended in it.
    fn warming(&mut self, cells: &C, leg: &Leg, warms: Warms) -> bool {
        let mut left = leg.hours.value();
        while left > 0.0 {
            let now =
                if self.warmer < NOTHING_WARMER { leg.cold } else { leg.cold.warmed(self.warmer) };
            // By the volts it has: what a motor asks hardly follows two degrees.
            let amps = leg.demand.amps(self.volts);
            let rate = cells.string_amps(&self.state, amps) * cells.per_size();
            let heats = warms.by * rate * rate;
            let climbs = heats * now.resistance - self.warmer / warms.tau;
            let longest = if self.warmer < NOTHING_WARMER { left } else { left.min(LONGEST_PIECE) };
            let piece = longest.min(self.fineness.warmed / climbs.abs().max(1e-9));
            let warmer = (self.warmer + 0.5 * climbs * piece).max(0.0);
            let middle = if warmer < NOTHING_WARMER { leg.cold } else { leg.cold.warmed(warmer) };
            if !self
                .stretch(&cells.at_temperature(middle), &Leg { hours: Hours::of(piece), ..*leg })
            {
                return false;
            }
            let settled = heats * middle.resistance * warms.tau;
            self.warmer = settled + (self.warmer - settled) * (-piece / warms.tau).exp();
            left -= piece;
        }
        true
    }

    /// A stretch at one temperature: in one step where the current is steady and nothing ends, else piece by
    /// piece. False when the day ended in it.
    fn stretch(&mut self, cells: &C, leg: &Leg) -> bool {
        let demand = &leg.demand;
        let (steady, hours) = (demand.is_steady(), leg.hours.value());
        if steady && demand.amps(1.0) >= 0.0 {
            let amps = demand.amps(1.0);
            let within = cells.string_amps(&self.state, amps) <= self.continuous;
            if within && let Some(all) = cells.steady(&self.state, amps, hours) {
                self.over_since = None;
                let [begin, mid, end] = all.volts;
                self.record(cells, all.next, hours, amps, [begin, mid, end]);
                return true;
            }
        }
        let mut begin = settle(cells, demand, &self.state, demand.amps(self.volts));
        let mut left = hours;
        while left > 0.0 {
            if begin.amps < 0.0 {
                let taken = self.take_in(cells, leg, begin, left);
                left -= taken;
                begin = settle(cells, demand, &self.state, demand.amps(self.volts));
                continue;
            }
            let mut piece = left;
            if !steady {
                // However much is asked, the charge is gone after so many pieces of it.
                let whole = begin.amps * left / cells.amp_hours(self.fineness.piece);
                if whole > 1.0 {
                    piece = left / whole.ceil();
                }
            }
            match self.piece(cells, demand, begin, piece) {
                Some((taken, end)) => {
                    left -= taken;
                    begin = end;
                }
                None => return false,
            }
            if left < 1e-12 {
                break;
            }
        }
        true
    }

    /// One step of at most `hours`: returns how much of it was done and what flows at its end, or
    /// `None` at the end of the day.
    #[inline(always)]
    fn piece(
        &mut self,
        cells: &C,
        demand: &Demand,
        begin: Flow,
        hours: f64,
    ) -> Option<(f64, Flow)> {
        if begin.amps > 0.0 {
            if cells.margin(&self.state, begin.amps, begin.volts) <= 0.0 {
                let asks = Watts::of(begin.amps * cells.least_volts());
                self.ended = Ended::Stopped { at: Hours::of(self.time), too_much: Some(asks) };
                return None;
            }
            if cells.odd_margin(&self.state, begin.amps) <= 0.0 {
                return Some((0.0, self.open_odd_string(cells, demand, begin.amps)));
            }
        }
        let mut hours = hours;
        let mut step = take(cells, demand, &self.state, &begin, hours);
        if !demand.is_steady() {
            // Down the knee the current runs away with the voltage: shorter steps there.
            let steep =
                |s: &Step<C>| (begin.volts - s.end.volts) > self.fineness.steep * begin.volts;
            while hours > SHORTEST && steep(&step) {
                hours *= 0.5;
                step = take(cells, demand, &self.state, &begin, hours);
            }
        } else {
            // The energy is told from three voltages: they must not lie too far from a parabola.
            while hours > SHORTEST && self.is_curved(cells, &begin, &step, hours) {
                hours *= 0.5;
                step = take(cells, demand, &self.state, &begin, hours);
            }
        }
        let mut then = Then::GoOn;
        if begin.amps > 0.0 || step.end.amps > 0.0 {
            // V(t) is monotone or concave at steady current: its end tells whether it went under. But where the
            // current falls with the voltage, a step may run dry in its middle and seem to be well at its end.
            let dry = |s: &Step<C>| s.volts_mid == f64::NEG_INFINITY;
            // What is charged at its end has come through what it gave until then.
            let at_end = |s: &Step<C>| if s.end.amps > 0.0 { s.end.amps } else { s.amps };
            let margin = |s: &Step<C>| {
                let mid =
                    if dry(s) { cells.margin(&s.mid, s.amps, s.volts_mid) } else { f64::INFINITY };
                let end = if s.end.amps > 0.0 {
                    cells.margin(&s.next, s.end.amps, s.end.volts)
                } else if s.amps <= 0.0 {
                    f64::INFINITY
                } else {
                    let amps = at_end(s);
                    cells.margin(&s.next, amps, cells.volts(&s.next, amps))
                };
                end.min(mid)
            };
            if margin(&step) <= 0.0 {
                let after = |t: f64| margin(&take(cells, demand, &self.state, &begin, t));
                hours = last_positive(after, hours);
                step = take(cells, demand, &self.state, &begin, hours);
                then = Then::Stop;
                // Down to the end the voltage may bend more than three points tell: half of the way first.
                while hours > SHORTEST && self.is_curved(cells, &begin, &step, hours) {
                    let half = take(cells, demand, &self.state, &begin, 0.5 * hours);
                    if margin(&half) <= 0.0 {
                        break;
                    }
                    (hours, step, then) = (0.5 * hours, half, Then::GoOn);
                }
            }
            let odd_margin = |s: &Step<C>| {
                let mid = if dry(s) { cells.odd_margin(&s.mid, s.amps) } else { f64::INFINITY };
                cells.odd_margin(&s.next, at_end(s)).min(mid)
            };
            if odd_margin(&step) <= 0.0 {
                let after = |t: f64| odd_margin(&take(cells, demand, &self.state, &begin, t));
                hours = last_positive(after, hours);
                step = take(cells, demand, &self.state, &begin, hours);
                then = Then::OpenOddString;
            }
        }
        if let Some((at, amps)) = self.trips_within(cells, demand, &begin, &step, hours) {
            hours = at;
            step = take(cells, demand, &self.state, &begin, hours);
            then = Then::Trip { amps };
        }
        self.record(
            cells,
            step.next,
            hours,
            step.amps,
            [begin.volts, step.volts_mid, step.end.volts],
        );
        match then {
            Then::GoOn => return Some((hours, step.end)),
            Then::OpenOddString => {
                return Some((hours, self.open_odd_string(cells, demand, step.end.amps)));
            }
            Then::Stop => {
                self.ended = Ended::Stopped { at: Hours::of(self.time), too_much: None };
            }
            Then::Trip { amps } => {
                self.ended = Ended::Tripped { at: Hours::of(self.time), amps: Amps::of(amps) };
            }
        }
        None
    }

    /// Whether the voltage of a step is told too roughly by its start, middle and end.
    fn is_curved(&self, cells: &C, begin: &Flow, step: &Step<C>, hours: f64) -> bool {
        let at = |part: f64| {
            let state = cells.draw(&self.state, step.amps, part * hours, cells.decay(part * hours));
            cells.volts(&state, step.amps)
        };
        let (first, mid, last) = (begin.volts, step.volts_mid, step.end.volts);
        bends([first, mid, last])
            || step.amps * hours > cells.amp_hours(LONG_WAY)
                && winds([first, at(0.25), mid, at(0.75), last])
    }

    /// Up to `most` hours of being charged: all of the current until the taper begins, which then falls with what is
    /// missing, `Q = Qm - (Qm - Q0) e^(-t/τ)`, `τ = (1 - bulk) Qm / (η I)`, so that full is never passed. What the
    /// battery does not take is lost. The hours done: to the end of bulk, or all.
    fn take_in(&mut self, cells: &C, leg: &Leg, begin: Flow, most: f64) -> f64 {
        let (coulombic, bulk_to) = cells.stores();
        let (whole, share) = (cells.amp_hours(1.0), self.share);
        // While it flows in the state that bulk ends in, the taper has begun.
        let missing = 1.0 - share;
        let given = -begin.amps * coulombic;
        let (mut hours, mut amps) = (most, begin.amps);
        if !leg.takes_charge || missing <= 0.0 {
            amps = 0.0;
        } else if share < bulk_to - 1e-9 {
            // Solar power gives other amperes as the voltage rises: by a twelfth of the charge at a time.
            let room = (bulk_to - share).min(if leg.demand.is_steady() { 1.0 } else { 1.0 / 12.0 });
            hours = hours.min(room * whole / given);
        } else if bulk_to < 1.0 {
            let tau = (1.0 - bulk_to) * whole / given;
            // The current falls on the way: remembered as it falls, until next to nothing is missing.
            if missing > 1e-5 {
                hours = hours.min(0.25 * tau);
            }
            let stored = missing * whole * -(-hours / tau).exp_m1();
            amps = -stored / (coulombic * hours);
        } else {
            hours = hours.min((missing * whole / given).max(SHORTEST));
            // Of its last moment it takes what is missing.
            amps = amps.max(-missing * whole / (coulombic * hours));
        }
        let half = cells.decay(0.5 * hours);
        let mid = cells.draw(&self.state, amps, 0.5 * hours, half);
        let next = cells.draw(&self.state, amps, hours, half * half);
        let volts = [self.state, mid, next].map(|at| cells.volts(&at, amps));
        self.record(cells, next, hours, amps, volts);
        hours
    }

    /// The odd unit's string opens; the others carry on, at what flows then.
    fn open_odd_string(&mut self, cells: &C, demand: &Demand, amps: f64) -> Flow {
        self.state = cells.without_odd(self.state);
        self.string_out_at = Some(self.time);
        settle(cells, demand, &self.state, amps)
    }

    /// When within this step a BMS opens on current, and at which current in one string.
    #[inline(always)]
    fn trips_within(
        &mut self,
        cells: &C,
        demand: &Demand,
        from: &Flow,
        step: &Step<C>,
        hours: f64,
    ) -> Option<(f64, f64)> {
        let (continuous, peak) = (self.continuous, self.peak);
        if continuous == f64::INFINITY && peak == f64::INFINITY {
            return None;
        }
        let begin = cells.string_amps(&self.state, from.amps);
        let end = cells.string_amps(&step.next, step.end.amps);
        let crossing = |limit: f64| {
            let under = |t: f64| {
                let s = take(cells, demand, &self.state, from, t);
                limit - cells.string_amps(&s.next, s.end.amps)
            };
            last_positive(under, hours)
        };
        if begin > peak {
            return Some((0.0, begin));
        }
        let peak_at = (end > peak).then(|| crossing(peak));
        let over_from = if begin > continuous {
            Some(self.over_since.unwrap_or(self.time))
        } else if end > continuous {
            Some(self.time + crossing(continuous))
        } else {
            None
        };
        self.over_since = over_from.filter(|_| end > continuous);
        let worn_at =
            over_from.map(|from| (from + self.guard.peak_for.value() - self.time).max(0.0));
        // What flows at that moment: the limit itself where it is crossed inside the step.
        let at_crossing = |limit: f64| if begin > limit { begin } else { limit };
        match (peak_at, worn_at.filter(|t| *t <= hours)) {
            (Some(p), Some(w)) if w < p => Some((w, at_crossing(continuous))),
            (Some(p), _) => Some((p, peak)),
            (None, Some(w)) => Some((w, at_crossing(continuous))),
            (None, None) => None,
        }
    }

    /// Takes a piece into the account: when a level was crossed, the charge `I t`, the energy by Simpson's rule
    /// from the voltage at its start, middle and end, the lowest voltage.
    #[inline(always)]
    fn record(&mut self, cells: &C, next: C::State, hours: f64, amps: f64, volts: [f64; 3]) {
        let share = cells.charge_share(&next);
        if share < self.guard.reserve && self.reserve_at.is_none() {
            self.reserve_at = Some(self.crossed(self.guard.reserve, share, hours));
        }
        if share < self.guard.floor && self.floor_at.is_none() {
            let at = self.crossed(self.guard.floor, share, hours);
            self.floor_at = Some(at);
            self.floor_volts =
                between(volts, if hours > 0.0 { (at - self.time) / hours } else { 0.0 });
        }
        self.time += hours;
        self.state = next;
        self.share = share;
        self.volts = volts[2].max(cells.least_volts());
        let moved = amps * hours;
        // Simpson's rule.
        let energy = (volts[0] + 4.0 * volts[1] + volts[2]) * (moved * (1.0 / 6.0));
        // A moment without length moves nothing, whatever its voltage.
        if moved > 0.0 {
            self.drawn += moved;
            self.energy += energy;
            self.lowest = self.lowest.min(volts[0].min(volts[2]));
        } else if moved < 0.0 {
            self.charged -= moved;
            self.energy_in -= energy;
        }
        (self.observe)(Point::of(self.time, share.max(0.0), volts[2], amps));
    }

    /// When a level is crossed in the coming `hours`, which leave `share`: charge falls straight.
    fn crossed(&self, level: f64, share: f64, hours: f64) -> f64 {
        self.time + hours * ((self.share - level) / (self.share - share)).clamp(0.0, 1.0)
    }
}

/// The voltage a share of the way through a piece, on the parabola through its start, middle and end. [V]
fn between([begin, middle, end]: [f64; 3], share: f64) -> f64 {
    let (rise, bend) = (end - begin, 2.0 * (begin + end) - 4.0 * middle);
    begin + share * (rise - bend) + share * share * bend
}

/// What follows a step.
enum Then {
    GoOn,
    Stop,
    OpenOddString,
    Trip { amps: f64 },
}
