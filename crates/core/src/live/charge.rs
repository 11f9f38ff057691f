//! What is left, counted and weighed.

use super::guesses::{
    BIAS, CAPACITY, COUNT, FALL, FULL_VOLTS, GAP, Guess, REACH, RESISTANCE, SHARE, ZERO, chosen,
    effective, moments, spread,
};
use super::joined::Density;
use crate::drawdown::temperature::cold;
use crate::drawdown::{Cold, State, UnitLaw, fit};
use crate::numeric::halved;
use crate::pack::{Pack, Taught};
use crate::units::{AmpHours, Amps, Celsius, Hours, Volts};
use std::sync::Arc;

/// How full it was when the count began.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Begins {
    /// Its charger ended by itself.
    Full,
    /// A charge, 0 to 1, as somebody guesses.
    About(f64),
    /// What a log makes likely by now.
    Logged {
        /// Likely, 0 to 1.
        charge: f64,
        /// One standard deviation.
        unsure: f64,
    },
    /// Nobody said: full as often as not, else anything.
    NotSaid,
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
/// or what was learnt, of lithium and lead, half as much again below; of the meter's zero, of lithium [A] and of lead for each
/// ampere-hour [A/Ah]; of what flows in gaps; of the resistance; of lithium's volts a cell [V]. Estimates.
const FULL: f64 = 0.02;
const GUESSED: f64 = 0.10;
const HOLDS: (f64, f64) = (0.06, 0.08);
const ADDS: (f64, f64) = (0.05, 0.000_5);
const IN_GAPS: f64 = 0.4;
/// The same of what flows by a plan that nobody listens to. Estimate.
const BY_PLAN: f64 = 0.15;
const RESISTS: f64 = 0.3;
const VOLTS: f64 = 0.006;
/// What one rating leaves open of lead's reach, and two or more: mean and standard deviation of its logarithm. Simulated cells lose
/// less by a hard draw than makers' tables say of their kind.
const REACH_BY_ONE: (f64, f64) = (-0.25, 0.45);
const REACH_BY_MORE: f64 = 0.15;
/// How far lithium's law is off in its volts a cell for a quarter of an hour together: wide for that reason. [V]
const OFF: f64 = 0.039;
/// What lead's law misses of its volts a cell wanders so far [V], is forgotten so fast [h], and is so small at first [V]: one that
/// decays from the start would look like charge. Chosen on a simulated cell of thin plates.
const WANDERS: f64 = 0.030;
const FORGOTTEN: f64 = 1.5;
const AT_FIRST: f64 = 0.009;
/// How far the mean of a minute is read off. [V a cell]
const READ: f64 = 0.004;
/// Farther than so many standard deviations one reading moves what the law is believed to miss no further.
const WILD: f64 = 3.0;
/// Volts of a lead cell that is empty under its load, and how fast they fall below that. [V]
const EMPTY: (f64, f64) = (1.70, 0.5);
/// Above this many volts a cell lithium's curve is flat, and says nothing of the charge.
const FLAT: f64 = 3.21;
/// Volts are weighed so often, lithium's and lead's, by the mean of as many readings at least. [s]
const OFTEN: (f64, f64) = (30.0, 60.0);
const LEAST_HEARD: (f64, f64) = (20.0, 40.0);
/// Lead's volts say nothing while they move: at most so far about their mean. [V a cell]
const STEADY: f64 = 0.020;
/// Fresh from its charger lead stands on surface charge: its volts say nothing until so much of it is drawn. [charge]
const SURFACE: f64 = 0.03;
/// Longer than this without a word is no gap but a switch: nothing is counted. [s]
const SWITCHED: f64 = 600.0;
/// A gap is bridged by the current of the last so many seconds. [s]
const HELD: f64 = 30.0;
/// Under so many that count guesses are chosen anew, of lithium and lead, drawn towards their mean so far, and spread by the rest.
const FEW: (f64, f64) = (60.0, 70.0);
const DRAWN: f64 = 0.97;
/// Halvings of a time that is looked for: of a day to a tenth of a second.
const HALVINGS: usize = 20;
/// Nothing is told more closely than this. [charge]
const CLOSEST: f64 = 0.02;

/// A pack under way.
#[derive(Debug, Clone)]
pub struct Live {
    /// What is believed of one unit, and each guess's own.
    law: UnitLaw,
    laws: Arc<[UnitLaw]>,
    cold: Cold,
    series: f64,
    parallel: f64,
    cells: f64,
    lead: bool,
    guesses: Vec<Guess>,
    states: Vec<State>,
    weights: Vec<f64>,
    /// What each guess's law misses of lead's volts [V a cell], and how far that is unsure, the same for all. [V²]
    misses: Vec<f64>,
    missing: f64,
    /// Hours since that was looked at last.
    looked: f64,
    stage: usize,
    /// The current of the last half minute. [A]
    held: f64,
    /// What was drawn by the meter, gaps bridged, and for how long. [Ah], [h]
    drawn: (f64, f64),
    /// Drawn since it was called full; infinite where nobody called it that. [Ah]
    since_full: f64,
    since: Since,
}

/// Since volts were weighed last: seconds, seconds heard, sums of volts, of amps and of the squares of volts by seconds.
#[derive(Debug, Clone, Copy, Default)]
struct Since {
    seconds: f64,
    heard: f64,
    volts: f64,
    amps: f64,
    squares: f64,
}

/// What of a unit's cell a guess is at, in the order of [`Taught`].
const OF_CELL: [usize; 5] = [FULL_VOLTS, FALL, RESISTANCE, REACH, CAPACITY];

impl Live {
    /// A pack at its start, at a temperature; `None` for one whose label tells no capacity.
    pub fn of(pack: &Pack, begins: Begins, warm: Celsius) -> Option<Self> {
        let battery = &pack.battery;
        let chemistry = battery.chemistry;
        let fit = fit(battery).ok()?;
        // The weakest unit ends the pack; the percent is that of all of them.
        let weak = pack.weak_unit.map_or((1.0, 1.0), |w| (w.capacity_share, w.resistance_factor));
        let (health, units) = (pack.health, f64::from(pack.units()));
        let sound = fit.law.worn(health.capacity_share, health.resistance_factor);
        let all = sound.rated() * (units - 1.0 + weak.0) / units;
        let law = sound.worn(weak.0, weak.1).counted_in(all);
        let cold = cold(chemistry, warm);
        let lead = chemistry.is_lead();
        let of = |pair: (f64, f64)| if lead { pair.1 } else { pair.0 };
        let mut mean = Guess::zeros();
        let mut sd = Guess::zeros();
        (sd[CAPACITY], sd[GAP], sd[RESISTANCE]) = (of(HOLDS) * health.doubt, IN_GAPS, RESISTS);
        sd[ZERO] = if lead { ADDS.1 * law.rated() } else { ADDS.0 / f64::from(pack.parallel) };
        if lead {
            let spread = chemistry.facts().spread;
            (sd[FULL_VOLTS], sd[FALL]) = (spread.e0, spread.fall);
            (mean[REACH], sd[REACH]) =
                if fit.ratings.len() > 1 { (0.0, REACH_BY_MORE) } else { REACH_BY_ONE };
        } else {
            sd[BIAS] = VOLTS;
        }
        let taught = pack.taught.filter(|_| lead).map(|t| t.over(health.capacity_share));
        let mut guesses: Vec<Guess> = (0..COUNT)
            .map(|n| {
                let z = spread(n, 0);
                let share = match begins {
                    Begins::Full => 1.0 - FULL * z[SHARE].abs(),
                    Begins::About(share) => share + GUESSED * z[SHARE],
                    Begins::Logged { charge, unsure } => charge + unsure * z[SHARE],
                    // In the order of their draws; see below.
                    Begins::NotSaid => 0.5 + 0.1 * z[SHARE],
                };
                // Packs age: they hold less rather than more.
                let below = if z[CAPACITY] < 0.0 { 1.5 } else { 1.0 };
                let mut guess = mean + sd.component_mul(&z);
                guess[CAPACITY] *= below;
                if let Some((mean, root)) = &taught {
                    let told = mean + root * nalgebra::SVector::from_fn(|d, _| z[OF_CELL[d]]);
                    OF_CELL.iter().zip(told.iter()).for_each(|(d, value)| guess[*d] = *value);
                }
                guess[SHARE] = share.clamp(0.0, 1.0);
                guess
            })
            .collect();
        // Until volts say otherwise a count is the label's: what was drawn over it, in the mean of all guesses.
        let counts = guesses.iter().map(|g| (-g[CAPACITY]).exp()).sum::<f64>() / COUNT as f64;
        if taught.is_none() {
            guesses.iter_mut().for_each(|g| g[CAPACITY] += counts.ln());
        }
        let laws: Arc<[UnitLaw]> = guesses.iter().map(|g| guessed(&law, g, cold)).collect();
        let states = laws.iter().zip(&guesses).map(|(law, g)| law.at(g[SHARE])).collect();
        let mut live = Self {
            law: law.at_temperature(cold),
            laws,
            cold,
            series: f64::from(pack.series),
            parallel: f64::from(pack.parallel),
            cells: f64::from(battery.cells()),
            lead,
            guesses,
            states,
            weights: vec![1.0 / COUNT as f64; COUNT],
            misses: vec![0.0; COUNT],
            missing: AT_FIRST * AT_FIRST,
            looked: 0.0,
            stage: 0,
            held: 0.0,
            drawn: (0.0, 0.0),
            since_full: if begins == Begins::Full { 0.0 } else { f64::INFINITY },
            since: Since::default(),
        };
        if begins == Begins::NotSaid {
            live.stand(&Density::not_said());
        }
        Some(live)
    }

    /// The same where nobody listens: what flows is the plan's, or what was typed.
    pub fn by_plan(mut self) -> Self {
        self.guesses.iter_mut().for_each(|guess| guess[GAP] *= BY_PLAN / IN_GAPS);
        self
    }

    /// How likely each charge is by now.
    pub(super) fn density(&self) -> Density {
        let each = self.laws.iter().zip(&self.states).zip(&self.weights);
        let each: Vec<(f64, f64)> = each
            .map(|((law, state), weight)| (law.charge_share(*state).clamp(0.0, 1.0), *weight))
            .collect();
        Density::of_guesses(&each)
    }

    /// All guesses at charges of which each is as likely, in the order they stand in.
    pub(super) fn stand(&mut self, density: &Density) {
        let share = |n: &usize| self.laws[*n].charge_share(self.states[*n]);
        let mut order: Vec<usize> = (0..COUNT).collect();
        order.sort_by(|a, b| share(a).total_cmp(&share(b)));
        for (rank, n) in order.into_iter().enumerate() {
            let share = density.below((rank as f64 + 0.5) / COUNT as f64);
            self.states[n] = State { recent: self.states[n].recent, ..self.laws[n].at(share) };
        }
        self.weights = vec![1.0 / COUNT as f64; COUNT];
    }

    /// The law of one unit as it is believed before its volts are read, in the cold of the start.
    pub(super) fn believed(&self, taught: Option<&Taught>) -> UnitLaw {
        match taught.filter(|_| self.lead) {
            Some(taught) => self.law_as_rated().taught(taught).at_temperature(self.cold),
            None => self.law,
        }
    }

    /// Ampere-hours of the pack by its label and what is known of its health. [Ah]
    pub(super) fn rated(&self) -> f64 {
        self.law.rated() * self.parallel
    }

    /// Whether lead stands on the surface charge of its charger, so that its volts say nothing.
    pub(super) fn is_on_surface(&self) -> bool {
        self.lead && self.since_full < SURFACE * self.rated()
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
        let hours = seconds / 3600.0;
        self.drawn.0 += amps * hours;
        self.drawn.1 += hours;
        self.since_full += amps * hours;
        self.looked += hours;
        let parallel = self.parallel;
        for ((guess, state), law) in self.guesses.iter().zip(&mut self.states).zip(self.laws.iter())
        {
            let flows = if told.is_some() { amps } else { amps * (1.0 + guess[GAP]) };
            *state = law.rest_or_draw(*state, flows / parallel - guess[ZERO], hours);
        }
        self.since.seconds += seconds;
        if let (Some(amps), Some(volts)) = (told, heard.volts.map(Volts::value)) {
            let since = &mut self.since;
            since.heard += seconds;
            since.volts += volts * seconds;
            since.amps += amps * seconds;
            since.squares += volts * volts * seconds;
        }
        if self.since.seconds >= self.by_kind(OFTEN) {
            let Since { heard, volts, amps, squares, .. } = std::mem::take(&mut self.since);
            if heard >= self.by_kind(LEAST_HEARD) {
                let mean = volts / heard;
                // Rounding may leave a hair below nothing.
                let moved = (squares / heard - mean * mean).max(0.0).sqrt();
                if !self.lead || moved / self.series / self.cells < STEADY {
                    self.weigh(mean, amps / heard);
                }
            }
        }
    }

    /// Of a pair of lithium's and lead's.
    const fn by_kind(&self, pair: (f64, f64)) -> f64 {
        if self.lead { pair.1 } else { pair.0 }
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
        let each = self.guesses.iter().zip(self.laws.iter()).zip(&self.weights);
        let shares = each.map(|((guess, law), weight)| {
            let unit = drawn.value() / self.parallel - guess[ZERO] * over.value();
            unit / law.rated() * weight
        });
        shares.sum()
    }

    /// The charge share below which nothing is within reach at a current of the pack for long, at the temperature that it began
    /// with. [1]
    pub fn unreachable(&self, current: Amps) -> f64 {
        self.law.unreachable(current.value().max(0.0) / self.parallel)
    }

    /// What this trip has taught of a lead unit, over what its label and kind say; `None` of lithium.
    pub fn teaches(&self, capacity_share: f64) -> Option<Taught> {
        let (mean, covariance) = moments(&self.guesses, &self.weights);
        let mean = OF_CELL.map(|d| mean[d]);
        let covariance = OF_CELL.map(|row| OF_CELL.map(|column| covariance[(row, column)]));
        self.lead.then(|| Taught { mean, covariance, on: None }.of_label(capacity_share))
    }

    /// Its charger has held its volts until it took no more: it is full, and every count begins anew.
    pub fn is_full(&mut self) {
        self.stage += 1;
        for (n, (guess, state)) in self.guesses.iter_mut().zip(&mut self.states).enumerate() {
            guess[SHARE] = 1.0 - FULL * spread(n, self.stage)[SHARE].abs();
            *state = self.laws[n].at(guess[SHARE]);
        }
        self.misses.iter_mut().for_each(|m| *m = 0.0);
        (self.missing, self.since_full) = (AT_FIRST * AT_FIRST, 0.0);
    }

    /// Volts of the pack that are to be expected at a current now. [V]
    pub fn volts_at(&self, current: Amps) -> Option<Volts> {
        let each = self.states.iter().zip(&self.weights).zip(self.laws.iter());
        let sum = each
            .map(|((state, weight), law)| law.volts(*state, self.unit(current.value())) * weight);
        Volts::try_new(sum.sum::<f64>() * self.series).ok()
    }

    /// Believes guesses by how near the volts are to what they expect.
    fn weigh(&mut self, volts: f64, amps: f64) {
        let per_cell = volts / self.series / self.cells;
        if self.lead {
            if !self.is_on_surface() {
                self.weigh_lead(per_cell, amps);
            }
            return;
        }
        let in_sight = |v: f64| v.min(FLAT);
        let off = |((guess, state), law): ((&Guess, &State), &UnitLaw)| {
            // Held against each other at rest: on lithium's flat part neither the load nor the resistance says anything.
            let rest = law.volts(*state, 0.0) / self.cells;
            let drop = rest - law.volts(*state, self.unit(amps) - guess[ZERO]) / self.cells;
            (in_sight(per_cell - guess[BIAS] + drop) - in_sight(rest)) / OFF
        };
        let each = self.guesses.iter().zip(&self.states).zip(self.laws.iter());
        let z: Vec<f64> = each.map(off).collect();
        self.believe(z.into_iter());
    }

    /// The same of lead: each guess carries what its law misses, a slow wandering of its own (Ornstein and Uhlenbeck's) that is
    /// filtered beside it, so that an error of the law that lasts is not taken for charge.
    fn weigh_lead(&mut self, per_cell: f64, amps: f64) {
        let kept = (-std::mem::take(&mut self.looked) / FORGOTTEN).exp();
        self.missing = self.missing * kept * kept + WANDERS * WANDERS * (1.0 - kept * kept);
        let variance = self.missing + READ * READ;
        let gain = self.missing / variance;
        let sd = variance.sqrt();
        let mut z = Vec::with_capacity(COUNT);
        for n in 0..COUNT {
            let (law, state) = (&self.laws[n], self.states[n]);
            let unit = self.unit(amps) - self.guesses[n][ZERO];
            let told = law.volts(state, unit);
            let expected =
                if told.is_finite() { told / self.cells } else { empty_cell(law, state, unit) };
            self.misses[n] *= kept;
            let off = per_cell - expected - self.misses[n];
            self.misses[n] += gain * off.clamp(-WILD * sd, WILD * sd);
            z.push(off / sd);
        }
        self.missing *= 1.0 - gain;
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
        if effective(&self.weights) < self.by_kind(FEW) {
            self.choose();
        }
    }

    fn choose(&mut self) {
        self.stage += 1;
        let each = self.guesses.iter().zip(&self.states).zip(self.laws.iter());
        let now: Vec<Guess> = each
            .map(|((guess, state), law)| {
                let mut guess = *guess;
                guess[SHARE] = law.charge_share(*state);
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
        let believed = self.law_as_rated();
        let states: Vec<State> = of.iter().map(|n| self.states[*n]).collect();
        self.misses = of.iter().map(|n| self.misses[*n]).collect();
        self.guesses = of
            .iter()
            .enumerate()
            .map(|(m, n)| {
                let mut guess =
                    mean + (now[*n] - mean) * DRAWN + root * spread(m, self.stage) * rest;
                // Fuller than full no guess is.
                guess[SHARE] = guess[SHARE].min(1.0);
                guess
            })
            .collect();
        self.laws = self.guesses.iter().map(|g| guessed(&believed, g, self.cold)).collect();
        let each = states.iter().zip(self.laws.iter()).zip(&self.guesses);
        self.states = each
            .map(|((state, law), guess)| State { recent: state.recent, ..law.at(guess[SHARE]) })
            .collect();
        self.weights = vec![1.0 / COUNT as f64; COUNT];
    }

    /// What is believed of one unit, at 25 °C.
    fn law_as_rated(&self) -> UnitLaw {
        self.law.at_temperature(Cold::NONE)
    }

    /// What is left now.
    pub fn left(&self) -> Left {
        // Below nothing a slow draw has taken more than the label: that is no charge to count on.
        let share = |(law, s): (&UnitLaw, &State)| law.charge_share(*s).max(0.0);
        let (charge, [low, high]) = self.spread_of(self.laws.iter().zip(&self.states).map(share));
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
        let unit = self.unit(current.value());
        let each = self.states.iter().zip(&self.weights).zip(self.laws.iter());
        each.filter(|((state, _), law)| has(law, **state, unit, so_long.value(), floor))
            .map(|((_, weight), _)| weight)
            .sum()
    }

    /// Each guess so much later at a steady current of the pack, nothing heard.
    pub(super) fn after(&self, current: Amps, later: Hours) -> Self {
        let mut then = self.clone();
        let unit = self.unit(current.value());
        for (state, law) in then.states.iter_mut().zip(self.laws.iter()) {
            *state = law.rest_or_draw(*state, unit, later.value());
        }
        then
    }

    /// A current of the pack as one unit feels it. [A]
    pub(super) fn unit(&self, amps: f64) -> f64 {
        amps / self.parallel
    }

    fn each_lasts(
        &self,
        current: Amps,
        floor: f64,
        most: Hours,
    ) -> impl Iterator<Item = f64> + use<'_> {
        let (unit, most) = (current.value() / self.parallel, most.value());
        self.laws.iter().zip(&self.states).map(move |(law, state)| {
            let still = |hours: f64| has(law, *state, unit, hours, floor);
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

/// Volts of a lead cell that is empty by a law, and still gives: the emptier the lower. [V]
pub(super) fn empty_cell(law: &UnitLaw, now: State, unit: f64) -> f64 {
    EMPTY.0 + EMPTY.1 * law.head(now, unit).min(0.0)
}

/// The law of one guess, over what is believed of a unit at 25 °C.
fn guessed(law: &UnitLaw, guess: &Guess, cold: Cold) -> UnitLaw {
    let told = Taught { mean: OF_CELL.map(|d| guess[d]), covariance: Default::default(), on: None };
    let [.., capacity] = told.mean;
    law.taught(&told).worn(capacity.exp(), 1.0).at_temperature(cold)
}

/// Whether a unit has more than a floor, and still gives, after so long at a current.
fn has(law: &UnitLaw, now: State, unit: f64, hours: f64, floor: f64) -> bool {
    let then = law.rest_or_draw(now, unit, hours);
    law.charge_share(then) > floor && law.gives(then, unit)
}
