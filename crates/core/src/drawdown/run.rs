//! A day, stretch by stretch: each in closed form, with what happens *inside* it found exactly.
//!
//! At a steady current a stretch is one step, since both wells are known in closed form. Where the current follows
//! the voltage it is cut into pieces, each at the mean current of its ends, which are solved for by Newton's
//! method. A voltage that reaches its end, a level that is crossed and a current that opens a BMS are looked for
//! inside the piece, so that a moment does not hang on how a day is cut.

use super::bank::{Bank, Cells};
use super::load::Demand;
use crate::numeric::{halved, last_positive};
use crate::units::{AmpHours, Amps, Hours, Volts, WattHours};

/// How finely a stretch is cut where the current follows the voltage.
#[derive(Debug, Clone, Copy)]
struct Fineness {
    /// Largest share of the bank's charge covered by one step.
    piece: f64,
    /// Largest share by which the voltage may fall in one.
    steep: f64,
}

/// Run times agree with a 0.1 s integration within 0.2 %.
const FINE: Fineness = Fineness { piece: 0.08, steep: 0.01 };
/// Where a band is wanted and not a moment: within 0.5 %.
const ROUGH: Fineness = Fineness { piece: 0.25, steep: 0.06 };
/// Shortest step that is halved for it. [h]
const SHORTEST: f64 = 0.000_4;
/// Most steps in one stretch, so that an absurd demand stays cheap.
const MOST_PIECES: f64 = 64.0;

/// One stretch as the bank feels it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leg {
    /// How long. [h]
    pub hours: Hours,
    /// What is asked.
    pub demand: Demand,
    /// Share of the charge that the temperature leaves in reach.
    pub reach: f64,
    /// Factor on the ohmic resistance at the temperature.
    pub resistance: f64,
}

/// Levels to watch and limits that end the day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Guard {
    /// Charge share that stays in the battery for its life.
    pub floor: f64,
    /// Charge share below which the reserve for the way home is touched.
    pub reserve: f64,
    /// Current one string may carry without end; `None` when nothing opens. [A]
    pub continuous: Option<Amps>,
    /// Current at which a string opens at once; `None` when nothing opens. [A]
    pub peak: Option<Amps>,
    /// How long a current between the two is borne. [h]
    pub peak_for: Hours,
}

impl Guard {
    /// Nothing watched, nothing opens.
    pub const NONE: Self = Self {
        floor: f64::NEG_INFINITY,
        reserve: f64::NEG_INFINITY,
        continuous: None,
        peak: None,
        peak_for: Hours::ZERO,
    };
}

/// How the day ended. A day that ends early is a result, not an error.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Ended {
    /// All stretches were done.
    DayDone,
    /// Empty, or at the voltage where a BMS or controller opens.
    Stopped {
        /// When. [h]
        at: Hours,
    },
    /// The BMS opened on current.
    Tripped {
        /// When. [h]
        at: Hours,
        /// Current in one string. [A]
        amps: Amps,
    },
}

/// The bank at one moment.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// When. [h]
    pub at: Hours,
    /// Share of the charge left.
    pub charge: f64,
    /// Pack voltage under the load just before; `None` while the cold holds all that is left. [V]
    pub volts: Option<Volts>,
    /// Mean pack current since the last point. [A]
    pub amps: Amps,
}

impl Point {
    #[inline(always)]
    fn of(at: f64, charge: f64, volts: f64, amps: f64) -> Self {
        Self { at: Hours::of(at), charge, volts: Volts::try_new(volts).ok(), amps: Amps::of(amps) }
    }
}

/// What a day came to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Summary {
    /// How it ended.
    pub ended: Ended,
    /// Share of the charge left at the end.
    pub charge_left: f64,
    /// When the floor was reached. [h]
    pub floor_at: Option<Hours>,
    /// When the reserve was touched. [h]
    pub reserve_at: Option<Hours>,
    /// When the string of a weak unit opened and the others carried on. [h]
    pub string_out_at: Option<Hours>,
    /// Charge delivered. [Ah]
    pub delivered: AmpHours,
    /// Energy delivered. [Wh]
    pub energy: WattHours,
    /// Lowest voltage under load; `None` when nothing was drawn. [V]
    pub lowest_voltage: Option<Volts>,
}

/// Works a day through from a full, rested bank.
///
/// `observe` is given the start and the end of every piece: as many points as the picture needs,
/// since charge falls along straight lines between them. Nothing is allocated.
pub fn run(bank: &Bank, legs: &[Leg], guard: &Guard, observe: impl FnMut(Point)) -> Summary {
    run_in(FINE, bank, legs, guard, observe)
}

/// As [`run`], in fewer steps where the current follows the voltage: for the many runs of a band, whose
/// own width is a hundred times the error.
pub fn run_roughly(
    bank: &Bank,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    run_in(ROUGH, bank, legs, guard, observe)
}

/// As [`run`], as finely as asked. Units all alike cost as much as one of them.
fn run_in(
    fineness: Fineness,
    bank: &Bank,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    match bank.alike() {
        Some(alike) => day(fineness, alike, legs, guard, observe),
        None => day(fineness, *bank, legs, guard, observe),
    }
}

/// Goes through the stretches until the day or the bank ends.
fn day<C: Cells>(
    fineness: Fineness,
    cells: C,
    legs: &[Leg],
    guard: &Guard,
    observe: impl FnMut(Point),
) -> Summary {
    let mut walk = Walk::new(&cells, guard, observe);
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
    legs: &[Leg],
    guard: &Guard,
    longest: Hours,
) -> Option<Hours> {
    hours_until_floor(bank, &[], legs, guard, longest)
}

/// The same when something else comes `first`, once; the hours count from its beginning. [h]
pub fn hours_until_floor(
    bank: &Bank,
    first: &[Leg],
    legs: &[Leg],
    guard: &Guard,
    longest: Hours,
) -> Option<Hours> {
    let longest = longest.value();
    match bank.alike() {
        Some(alike) => until_floor(alike, first, legs, guard, longest),
        None => until_floor(*bank, first, legs, guard, longest),
    }
    .map(Hours::of)
}

/// Goes through `first` and then `legs` over and over, to the floor, the end or the limit. [h]
fn until_floor<C: Cells>(
    cells: C,
    first: &[Leg],
    legs: &[Leg],
    guard: &Guard,
    longest: f64,
) -> Option<f64> {
    let day: f64 = legs.iter().map(|l| l.hours.value()).sum();
    if day <= 0.0 {
        return None;
    }
    let mut walk = Walk::new(&cells, guard, |_| {});
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

/// Progress through a day.
struct Walk<'a, C: Cells, F> {
    guard: &'a Guard,
    /// Current one string may carry without end; infinite when nothing opens. [A]
    continuous: f64,
    /// Current at which a string opens at once, likewise. [A]
    peak: f64,
    fineness: Fineness,
    time: f64,
    state: C::State,
    share: f64,
    /// Last known pack voltage, from which the next current is guessed. [V]
    volts: f64,
    ended: Ended,
    floor_at: Option<f64>,
    reserve_at: Option<f64>,
    string_out_at: Option<f64>,
    over_since: Option<f64>,
    drawn: f64,
    energy: f64,
    lowest: f64,
    observe: F,
}

/// A current and the voltage it agrees with.
#[derive(Clone, Copy)]
struct Flow<S> {
    amps: f64,
    volts: f64,
    sag: S,
}

/// One step at the mean current, with what is needed to judge it.
struct Step<C: Cells> {
    mid: C::State,
    next: C::State,
    amps: f64,
    volts_mid: f64,
    end: Flow<C::Sag>,
}

impl<'a, C: Cells, F: FnMut(Point)> Walk<'a, C, F> {
    /// At the start, with the full bank at rest observed.
    fn new(cells: &C, guard: &'a Guard, mut observe: F) -> Self {
        let state = cells.full();
        let share = cells.charge_share(&state);
        let volts = cells.volts(&state, &cells.sag(&state, 0.0));
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
            reserve_at: None,
            string_out_at: None,
            over_since: None,
            drawn: 0.0,
            energy: 0.0,
            lowest: f64::INFINITY,
            observe,
        }
    }

    /// What it came to so far.
    fn summary(&self) -> Summary {
        Summary {
            ended: self.ended,
            charge_left: self.share.max(0.0),
            floor_at: self.floor_at.map(Hours::of),
            reserve_at: self.reserve_at.map(Hours::of),
            string_out_at: self.string_out_at.map(Hours::of),
            delivered: AmpHours::of(self.drawn),
            energy: WattHours::of(self.energy),
            lowest_voltage: Volts::try_new(self.lowest).ok(),
        }
    }

    /// Goes through one stretch; false when the day ended in it.
    #[inline(always)]
    fn through(&mut self, cells: &C, leg: &Leg) -> bool {
        // Exactly one stands for "as rated"; a hair from it may well be worked out.
        #[allow(clippy::float_cmp)]
        if leg.reach == 1.0 && leg.resistance == 1.0 {
            self.stretch(cells, leg)
        } else {
            self.stretch(&cells.at_temperature(leg.reach, leg.resistance), leg)
        }
    }

    /// A stretch at one temperature: in one step where the current is steady and nothing ends, else piece by
    /// piece. False when the day ended in it.
    fn stretch(&mut self, cells: &C, leg: &Leg) -> bool {
        let demand = &leg.demand;
        let (steady, hours) = (demand.is_steady(), leg.hours.value());
        if steady {
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
            let mut piece = left;
            if !steady {
                let whole = begin.amps * left / (cells.amp_hours(self.fineness.piece)).max(1e-9);
                if whole > 1.0 {
                    piece = left / whole.ceil().min(MOST_PIECES);
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
        begin: Flow<C::Sag>,
        hours: f64,
    ) -> Option<(f64, Flow<C::Sag>)> {
        if begin.amps > 0.0 {
            if cells.margin(&self.state, begin.amps, begin.volts) <= 0.0 {
                self.ended = Ended::Stopped { at: Hours::of(self.time) };
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
        }
        let mut then = Then::GoOn;
        if step.end.amps > 0.0 {
            // V(t) is monotone or concave at steady current: its end tells whether it went under. But where the
            // current falls with the voltage, a step may run dry in its middle and seem to be well at its end.
            let dry = |s: &Step<C>| s.volts_mid == f64::NEG_INFINITY;
            let margin = |s: &Step<C>| {
                let mid =
                    if dry(s) { cells.margin(&s.mid, s.amps, s.volts_mid) } else { f64::INFINITY };
                cells.margin(&s.next, s.end.amps, s.end.volts).min(mid)
            };
            if margin(&step) <= 0.0 {
                let after = |t: f64| margin(&take(cells, demand, &self.state, &begin, t));
                hours = last_positive(after, hours);
                step = take(cells, demand, &self.state, &begin, hours);
                then = Then::Stop;
            }
            let odd_margin = |s: &Step<C>| {
                let mid = if dry(s) { cells.odd_margin(&s.mid, s.amps) } else { f64::INFINITY };
                cells.odd_margin(&s.next, s.end.amps).min(mid)
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
            Then::Stop => self.ended = Ended::Stopped { at: Hours::of(self.time) },
            Then::Trip { amps } => {
                self.ended = Ended::Tripped { at: Hours::of(self.time), amps: Amps::of(amps) };
            }
        }
        None
    }

    /// The odd unit's string opens; the others carry on, at what flows then.
    fn open_odd_string(&mut self, cells: &C, demand: &Demand, amps: f64) -> Flow<C::Sag> {
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
        from: &Flow<C::Sag>,
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
            self.floor_at = Some(self.crossed(self.guard.floor, share, hours));
        }
        self.time += hours;
        self.state = next;
        self.share = share;
        self.volts = volts[2].max(cells.least_volts());
        if amps > 0.0 {
            let drawn = amps * hours;
            self.drawn += drawn;
            // Simpson's rule: exact for the straight parts, and the knee is short.
            self.energy += (volts[0] + 4.0 * volts[1] + volts[2]) * (drawn * (1.0 / 6.0));
            self.lowest = self.lowest.min(volts[0].min(volts[2]));
        }
        let charge = share.max(0.0);
        (self.observe)(Point::of(self.time, charge, volts[2], amps));
    }

    /// When a level is crossed in the coming `hours`, which leave `share`: charge falls straight.
    fn crossed(&self, level: f64, share: f64, hours: f64) -> f64 {
        self.time + hours * ((self.share - level) / (self.share - share)).clamp(0.0, 1.0)
    }
}

/// What follows a step.
enum Then {
    GoOn,
    Stop,
    OpenOddString,
    Trip { amps: f64 },
}

/// Most corrections of a current. Newton's method doubles the digits each time; a good guess takes
/// one, and a bad one three.
const MOST_CORRECTIONS: usize = 6;
/// A correction below this share of the current is the last one needed.
const CLOSE_ENOUGH: f64 = 0.02;

/// What flows in a state, from a guess of the current.
#[inline(always)]
fn settle<C: Cells>(cells: &C, demand: &Demand, now: &C::State, guess: f64) -> Flow<C::Sag> {
    let sag = cells.sag(now, guess);
    let flow = Flow { amps: guess, volts: cells.volts(now, &sag), sag };
    if demand.is_steady() { flow } else { agreed(cells, demand, now, flow) }
}

/// The current that demand and voltage agree on, from a flow near it: Newton's method on
/// `demand(V(I)) - I`.
#[inline(always)]
fn agreed<C: Cells>(
    cells: &C,
    demand: &Demand,
    now: &C::State,
    mut flow: Flow<C::Sag>,
) -> Flow<C::Sag> {
    let least = cells.least_volts();
    for _ in 0..MOST_CORRECTIONS {
        let (wanted, per_volt) = demand.amps_and_slope(flow.volts.max(least));
        let slope = cells.slope(now, &flow.sag);
        // Near the most power a battery can give the slopes cancel: small steps there.
        let by = (wanted - flow.amps) / (1.0 - per_volt * slope).max(0.2);
        let amps = flow.amps + by;
        if by.abs() <= CLOSE_ENOUGH * amps {
            return Flow { amps, volts: flow.volts + slope * by, sag: cells.shifted(flow.sag, by) };
        }
        let sag = cells.sag(now, amps);
        flow = Flow { amps, volts: cells.volts(now, &sag), sag };
    }
    // More is asked than there is, or nearly: what is asked and what flows meet once, or nowhere above the end.
    let at = |amps: f64| {
        let sag = cells.sag(now, amps);
        Flow { amps, volts: cells.volts(now, &sag), sag }
    };
    let asked = |amps: f64| demand.amps(at(amps).volts.max(least));
    let most = asked(0.0).max(demand.amps(least));
    at(halved((0.0, most), 30, |amps| asked(amps) > amps).1)
}

/// One step of `hours`, at the current found in its middle.
#[inline(always)]
fn take<C: Cells>(
    cells: &C,
    demand: &Demand,
    now: &C::State,
    begin: &Flow<C::Sag>,
    hours: f64,
) -> Step<C> {
    let half = cells.decay(0.5 * hours);
    let mid = cells.draw(now, begin.amps, 0.5 * hours, half);
    if demand.is_steady() {
        let next = cells.draw(now, begin.amps, hours, half * half);
        let volts_mid = cells.volts(&mid, &begin.sag);
        let end = Flow { volts: cells.volts(&next, &begin.sag), ..*begin };
        return Step { mid, next, amps: begin.amps, volts_mid, end };
    }
    let middle =
        agreed(cells, demand, &mid, Flow { volts: cells.volts(&mid, &begin.sag), ..*begin });
    let next = cells.draw(now, middle.amps, hours, half * half);
    // The current goes on changing as it did.
    let by = (middle.amps - begin.amps).max(-middle.amps);
    let sag = cells.shifted(middle.sag, by);
    let onward = Flow { amps: middle.amps + by, volts: cells.volts(&next, &sag), sag };
    let end = agreed(cells, demand, &next, onward);
    Step { mid, next, amps: middle.amps, volts_mid: middle.volts, end }
}
