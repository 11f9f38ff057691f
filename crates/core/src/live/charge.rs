//! What is left, counted and weighed.

use super::guesses::{
    BIAS, CAPACITY, COUNT, GAP, Guess, RESISTANCE, SHARE, ZERO, chosen, effective, moments, spread,
};
use crate::drawdown::temperature::cold;
use crate::drawdown::{State, UnitLaw, fit};
use crate::numeric::halved;
use crate::pack::Pack;
use crate::units::{AmpHours, Amps, Celsius, Hours, Volts};

/// How full it was when the count began.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Begins {
    /// Its charger ended by itself.
    Full,
    /// A charge, 0 to 1, as somebody guesses.
    About(f64),
}

/// What a monitor tells at a moment.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Heard {
    /// Volts of the pack under its load.
    pub volts: Option<Volts>,
    /// Positive when it is discharged.
    pub current: Option<Amps>,
}

/// What is left.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Left {
    /// Likely, 0 to 1.
    pub charge: f64,
    /// It lies between these eight times in ten.
    pub between: (f64, f64),
}

/// Standard deviations before anything is heard: of a start that is called full, and guessed; of what the pack holds over its label
/// or what was learnt, of lithium and lead, half as much again below; of the meter's zero [A]; of what flows in gaps; of the
/// resistance; of volts a cell, of lithium and lead [V]. Estimates.
const FULL: f64 = 0.02;
const GUESSED: f64 = 0.10;
const HOLDS: (f64, f64) = (0.06, 0.10);
const ADDS: f64 = 0.05;
const IN_GAPS: f64 = 0.4;
const RESISTS: f64 = 0.3;
const VOLTS: (f64, f64) = (0.006, 0.010);
/// How far a law's volts a cell are off for a quarter of an hour together, of lithium and lead: wide for that reason. [V]
const OFF: (f64, f64) = (0.039, 0.08);
/// Above this many volts a cell lithium's curve is flat, and says nothing of the charge.
const FLAT: f64 = 3.21;
/// Volts are weighed so often, by the mean of as many readings at least. [s]
const OFTEN: f64 = 30.0;
const LEAST_HEARD: f64 = 20.0;
/// Longer than this without a word is no gap but a switch: nothing is counted. [s]
const SWITCHED: f64 = 600.0;
/// A gap is bridged by the current of the last so many seconds. [s]
const HELD: f64 = 30.0;
/// Under so many that count guesses are chosen anew, drawn towards their mean so far, and spread by the rest.
const FEW: f64 = 60.0;
const DRAWN: f64 = 0.97;
/// Halvings of a time that is looked for: of a day to a tenth of a second.
const HALVINGS: usize = 20;
/// A meter's percent is off by so much. [charge] Estimate.
const METER: f64 = 0.07;
/// Nothing is told more closely than this. [charge]
const CLOSEST: f64 = 0.02;

/// A pack under way.
#[derive(Debug, Clone)]
pub struct Live {
    law: UnitLaw,
    series: f64,
    parallel: f64,
    cells: f64,
    lead: bool,
    guesses: Vec<Guess>,
    states: Vec<State>,
    weights: Vec<f64>,
    stage: usize,
    /// The current of the last half minute. [A]
    held: f64,
    /// What was drawn by the meter, gaps bridged, and for how long. [Ah], [h]
    drawn: (f64, f64),
    /// Since volts were weighed last: seconds, seconds heard, sums of volts and amps by seconds.
    since: (f64, f64, f64, f64),
}

impl Live {
    /// A pack at its start, at a temperature; `None` for one whose label tells no capacity.
    pub fn of(pack: &Pack, begins: Begins, warm: Celsius) -> Option<Self> {
        let battery = &pack.battery;
        let chemistry = battery.chemistry;
        let law = fit(battery).ok()?.law;
        // The weakest unit ends the pack.
        let weak = pack.weak_unit.map_or((1.0, 1.0), |w| (w.capacity_share, w.resistance_factor));
        let health = pack.health;
        let worn = law.worn(health.capacity_share * weak.0, health.resistance_factor * weak.1);
        let law = worn.at_temperature(cold(chemistry, warm));
        let lead = chemistry.is_lead();
        let of = |pair: (f64, f64)| if lead { pair.1 } else { pair.0 };
        let guesses: Vec<Guess> = (0..COUNT)
            .map(|n| {
                let z = spread(n, 0);
                let share = match begins {
                    Begins::Full => 1.0 - FULL * z[SHARE].abs(),
                    Begins::About(share) => share + GUESSED * z[SHARE],
                };
                let below = if z[CAPACITY] < 0.0 { 1.5 } else { 1.0 };
                let holds = of(HOLDS) * health.doubt * below * z[CAPACITY];
                let sd = [0.0, 0.0, ADDS, IN_GAPS, RESISTS, of(VOLTS)];
                let mut guess = Guess::from_fn(|d, _| sd[d] * z[d]);
                (guess[SHARE], guess[CAPACITY]) = (share.clamp(0.0, 1.0), holds);
                guess
            })
            .collect();
        let states = guesses.iter().map(|g| law.at(g[SHARE])).collect();
        Some(Self {
            law,
            series: f64::from(pack.series),
            parallel: f64::from(pack.parallel),
            cells: f64::from(battery.cells()),
            lead,
            guesses,
            states,
            weights: vec![1.0 / COUNT as f64; COUNT],
            stage: 0,
            held: 0.0,
            drawn: (0.0, 0.0),
            since: (0.0, 0.0, 0.0, 0.0),
        })
    }

    /// So much later this was heard; nothing where it was silent. A clock that went back, or stood for long, counts nothing.
    pub fn heard(&mut self, later: Hours, heard: Heard) {
        let seconds = later.value() * 3600.0;
        let seconds = if (0.0..=SWITCHED).contains(&seconds) { seconds } else { 0.0 };
        let told = heard.current.map(Amps::value);
        let amps = told.unwrap_or(self.held);
        if let Some(amps) = told.filter(|_| seconds > 0.0) {
            // At first it is the mean of all that was heard.
            let so_long = HELD.min(self.drawn.1 * 3600.0 + seconds);
            self.held += (amps - self.held) * (seconds / so_long).min(1.0);
        }
        let (hours, parallel) = (seconds / 3600.0, self.parallel);
        self.drawn.0 += amps * hours;
        self.drawn.1 += hours;
        for (guess, state) in self.guesses.iter().zip(&mut self.states) {
            let flows = if told.is_some() { amps } else { amps * (1.0 + guess[GAP]) };
            let unit = (flows - guess[ZERO]) / parallel / guess[CAPACITY].exp();
            *state = self.law.rest_or_draw(*state, unit, hours);
        }
        self.since.0 += seconds;
        if let (Some(amps), Some(volts)) = (told, heard.volts.map(Volts::value)) {
            self.since.1 += seconds;
            self.since.2 += volts * seconds;
            self.since.3 += amps * seconds;
        }
        if self.since.0 >= OFTEN {
            let (_, heard, volts, amps) = std::mem::take(&mut self.since);
            if heard >= LEAST_HEARD {
                self.weigh(volts / heard, amps / heard);
            }
        }
    }

    /// What flows while nothing is heard. [A]
    pub fn bridge(&mut self, current: Amps) {
        self.held = current.value();
    }

    /// What flowed in the last half minute, or what a gap is bridged by. [A]
    pub const fn draws(&self) -> Amps {
        Amps::of(self.held)
    }

    /// What was drawn so far by the meter, gaps bridged, and for how long. [Ah], [h]
    pub const fn drawn(&self) -> (AmpHours, Hours) {
        (AmpHours::of(self.drawn.0), Hours::of(self.drawn.1))
    }

    /// What it really drew between two moments, as a share of what it holds, by all that is believed of the meter and the pack now. [1]
    pub fn share_of(&self, drawn: AmpHours, over: Hours) -> f64 {
        let each = self.guesses.iter().zip(&self.weights);
        let shares = each.map(|(guess, weight)| {
            let whole = self.law.q_max() * self.parallel * guess[CAPACITY].exp();
            (drawn.value() - guess[ZERO] * over.value()) / whole * weight
        });
        shares.sum()
    }

    /// Volts and amps that somebody read off at a moment.
    pub fn read(&mut self, volts: Volts, current: Amps) {
        self.weigh(volts.value(), current.value());
    }

    /// A charge that somebody read off a meter, 0 to 1: one in five is poor.
    pub fn told(&mut self, charge: f64) {
        let off = |s: &State| (self.law.charge_share(*s) - charge) / METER;
        let z: Vec<f64> = self.states.iter().map(off).collect();
        self.believe(z.into_iter());
    }

    /// Its charger has held its volts until it took no more: it is full, and every count begins anew.
    pub fn is_full(&mut self) {
        self.stage += 1;
        for (n, (guess, state)) in self.guesses.iter_mut().zip(&mut self.states).enumerate() {
            guess[SHARE] = 1.0 - FULL * spread(n, self.stage)[SHARE].abs();
            *state = self.law.at(guess[SHARE]);
        }
    }

    /// Volts of the pack that are to be expected at a current now. [V]
    pub fn volts_at(&self, current: Amps) -> Option<Volts> {
        let each = self.guesses.iter().zip(&self.states).zip(&self.weights);
        let sum = each.map(|((guess, state), weight)| {
            self.law.volts(*state, self.unit(current.value(), guess)) * weight
        });
        Volts::try_new(sum.sum::<f64>() * self.series).ok()
    }

    /// Believes guesses by how near the volts are to what they expect.
    fn weigh(&mut self, volts: f64, amps: f64) {
        let per_cell = volts / self.series / self.cells;
        let sd = if self.lead { OFF.1 } else { OFF.0 };
        let in_sight = |v: f64| if self.lead { v } else { v.min(FLAT) };
        let off = |(guess, state): (&Guess, &State)| {
            let unit = (amps - guess[ZERO]) / self.parallel;
            let scaled = unit / guess[CAPACITY].exp();
            // The law of the believed size has its own resistance in it: taken out, and put in as guessed.
            let more = self.law.ohms() * (unit * guess[RESISTANCE].exp() - scaled);
            // Held against each other at rest: on lithium's flat part neither the load nor the resistance says anything.
            let rest = self.law.volts(*state, 0.0) / self.cells;
            let drop = rest - (self.law.volts(*state, scaled) - more) / self.cells;
            (in_sight(per_cell - guess[BIAS] + drop) - in_sight(rest)) / sd
        };
        let z: Vec<f64> = self.guesses.iter().zip(&self.states).map(off).collect();
        self.believe(z.into_iter());
    }

    /// Believes guesses by how many standard deviations what was read is off what each expects.
    fn believe(&mut self, off: impl Iterator<Item = f64>) {
        for (weight, z) in self.weights.iter_mut().zip(off) {
            // One that is empty cannot give this: as far off as can be, and not beyond all belief.
            let z = if z.is_finite() { z } else { 10.0 };
            *weight *= (1.0 + z * z / 4.0).powf(-2.5);
        }
        let sum: f64 = self.weights.iter().sum();
        self.weights.iter_mut().for_each(|w| *w /= sum);
        if effective(&self.weights) < FEW {
            self.choose();
        }
    }

    fn choose(&mut self) {
        self.stage += 1;
        let share = |s: &State| s.charge / self.law.q_max();
        let now: Vec<Guess> = std::iter::zip(&self.guesses, &self.states)
            .map(|(guess, state)| {
                let mut guess = *guess;
                guess[SHARE] = share(state);
                guess
            })
            .collect();
        let (mean, covariance) = moments(&now, &self.weights);
        // Where nothing is unsure nothing is spread.
        let tiny = Guess::repeat(1e-12);
        let Some(root) =
            (covariance + nalgebra::SMatrix::from_diagonal(&tiny)).cholesky().map(|c| c.l())
        else {
            return;
        };
        let rest = (1.0 - DRAWN * DRAWN).sqrt();
        let of = chosen(&self.weights);
        self.states = of.iter().map(|n| self.states[*n]).collect();
        self.guesses = of
            .iter()
            .enumerate()
            .map(|(m, n)| mean + (now[*n] - mean) * DRAWN + root * spread(m, self.stage) * rest)
            .collect();
        for (guess, state) in self.guesses.iter_mut().zip(&mut self.states) {
            // Fuller than full, or emptier than empty, no guess is.
            guess[SHARE] = guess[SHARE].clamp(0.0, 1.0);
            state.charge = guess[SHARE] * self.law.q_max();
        }
        self.weights = vec![1.0 / COUNT as f64; COUNT];
    }

    /// What is left now.
    pub fn left(&self) -> Left {
        let share = |s: &State| self.law.charge_share(*s).max(0.0);
        let (charge, [low, high]) = self.spread_of(self.states.iter().map(share));
        let (low, high) = (low.min(charge - CLOSEST), high.max(charge + CLOSEST));
        Left { charge, between: (low.max(0.0), high.min(1.0)) }
    }

    /// How long that lasts at a steady current of the pack, down to a floor, 0 to 1, or until it gives out: likely, and between
    /// which eight times in ten. No longer than `most`.
    pub fn lasts(&self, current: Amps, floor: f64, most: Hours) -> (Hours, [Hours; 2]) {
        let each = self.each_lasts(current, floor, most);
        let (likely, between) = self.spread_of(each);
        (Hours::of(likely), between.map(Hours::of))
    }

    /// The chance that it lasts so long at a steady current, down to a floor, 0 to 1.
    pub fn holds(&self, current: Amps, floor: f64, so_long: Hours) -> f64 {
        let each = self.guesses.iter().zip(&self.states).zip(&self.weights);
        each.filter(|((guess, state), _)| {
            let unit = self.unit(current.value(), guess);
            self.has(**state, unit, so_long.value(), floor)
        })
        .map(|(_, weight)| weight)
        .sum()
    }

    /// Each guess so much later at a steady current of the pack, nothing heard.
    pub(super) fn after(&self, current: Amps, later: Hours) -> Self {
        let mut then = self.clone();
        for (guess, state) in self.guesses.iter().zip(&mut then.states) {
            *state =
                self.law.rest_or_draw(*state, self.unit(current.value(), guess), later.value());
        }
        then
    }

    /// A current of the pack as a guess's unit of the believed size feels it. [A]
    fn unit(&self, amps: f64, guess: &Guess) -> f64 {
        amps / self.parallel / guess[CAPACITY].exp()
    }

    /// Whether a unit has more than a floor, and still gives, after so long at a current.
    fn has(&self, now: State, unit: f64, hours: f64, floor: f64) -> bool {
        let then = self.law.rest_or_draw(now, unit, hours);
        self.law.charge_share(then) > floor && self.law.head(then, unit) > 0.0
    }

    fn each_lasts(
        &self,
        current: Amps,
        floor: f64,
        most: Hours,
    ) -> impl Iterator<Item = f64> + use<'_> {
        let (amps, most) = (current.value(), most.value());
        self.guesses.iter().zip(&self.states).map(move |(guess, state)| {
            let unit = self.unit(amps, guess);
            let still = |hours: f64| self.has(*state, unit, hours, floor);
            if still(most) { most } else { halved((0.0, most), HALVINGS, still).0 }
        })
    }

    /// Mean of a figure of each guess, and between which it lies eight times in ten.
    fn spread_of(&self, of: impl Iterator<Item = f64>) -> (f64, [f64; 2]) {
        let mut all: Vec<(f64, f64)> = of.zip(self.weights.iter().copied()).collect();
        all.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mean = all.iter().map(|(figure, weight)| figure * weight).sum();
        let at = |wanted: f64| {
            let mut sum = 0.0;
            let found = all.iter().find(|(_, weight)| {
                sum += weight;
                sum >= wanted
            });
            found.map_or(mean, |(figure, _)| *figure)
        };
        (mean, [at(0.1), at(0.9)])
    }
}
