//! What is read on the way is joined with the count; where the two clash it is asked which is right, and the lower one counts until
//! that is said.

use super::charge::Live;
use super::joined::{Clash, Clue, Density, Gauge, Reading, join};
use super::trip::{ByHand, Trip, is_of_another_system};
use super::{Begins, Left};
use crate::pack::Pack;
use crate::units::{Amps, Volts};

/// What may be off of what was drawn since two readings, as a share of it: by a monitor, and by the plan. Estimates.
const HEARD: f64 = 0.03;
const PLANNED: f64 = 0.15;

/// What readings are joined with: the count as it was before any of them, and the last reading of each kind. A second reading of the
/// same instrument is off the same way as the first: it takes its place, and makes nothing surer.
#[derive(Debug, Clone)]
pub(super) struct Basis {
    count: Density,
    readings: Vec<Reading>,
    /// What was drawn by then. [Ah]
    drawn: f64,
}

/// Two that clash.
#[derive(Debug, Clone)]
pub(super) struct Doubt {
    clash: Clash,
    /// What was drawn by then. [Ah]
    drawn: f64,
    /// Its owner is not sure either.
    unsure: bool,
}

/// What is to be asked.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Question {
    /// The lower of the two, with which it is counted, and what it said, 0 to 1.
    pub lower: (Clue, f64),
    /// The higher one.
    pub higher: (Clue, f64),
    /// Its owner is not sure either: nothing is asked any more, the lower one counts.
    pub unsure: bool,
}

/// What the charge is known by.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum KnownBy {
    /// A charger that ended by itself.
    Full,
    /// A charge that was guessed at the start.
    Guess,
    /// What the log knows.
    Log,
    /// Nothing yet.
    Nothing,
    /// A percent or volts that were read on the way.
    Read(Clue),
}

impl From<Begins> for KnownBy {
    fn from(begins: Begins) -> Self {
        match begins {
            Begins::Full => Self::Full,
            Begins::About(_) => Self::Guess,
            Begins::Logged { .. } => Self::Log,
            Begins::NotSaid => Self::Nothing,
        }
    }
}

impl Doubt {
    fn question(&self) -> Question {
        let Clash { lower, higher } = &self.clash;
        Question { lower: (lower.0, lower.2), higher: (higher.0, higher.2), unsure: self.unsure }
    }

    /// What is left by the lower, so much later drawn, with a band over both.
    fn left(&self, lower: Left, used: f64) -> Left {
        let higher = (self.clash.higher.2 - used).clamp(0.0, 1.0);
        Left { between: (lower.between.0, lower.between.1.max(higher)), ..lower }
    }
}

/// Volts of a pack under a current as they bear on its charge; `None` of lead on the surface charge of its charger.
fn of_volts(pack: &Pack, live: &Live, volts: Volts, told: Option<Amps>) -> Option<Reading> {
    if live.is_on_surface() {
        return None;
    }
    let amps = live.unit(told.unwrap_or_else(|| live.draws()).value());
    let law = live.believed(pack.taught.as_ref());
    Some(Reading::volts(pack, &law, volts.value(), amps, told.is_none()))
}

impl Trip {
    /// Joins what was read by hand.
    pub(super) fn joins(&mut self, hand: &ByHand) {
        let lead = self.pack.battery.chemistry.is_lead();
        self.gauge = hand.gauge.or(self.gauge);
        let gauge = self.gauge.unwrap_or(Gauge::Unknown);
        let believed = |source: Clue| !self.disbelieved.contains(&source);
        let percent = hand.meter.filter(|_| believed(Clue::Percent));
        let percent = percent.map(|m| Reading::percent(m.clamp(0.0, 1.0), gauge, lead));
        // Those of an opened switch say nothing of the charge.
        let volts = hand.volts.filter(|_| believed(Clue::Volts) && !self.has_shut_off());
        let volts = volts.filter(|v| !is_of_another_system(*v, self.pack.voltage()));
        let volts = volts.and_then(|v| of_volts(&self.pack, &self.live, v, hand.current));
        let read: Vec<Reading> = percent.into_iter().chain(volts).collect();
        if !read.is_empty() {
            self.join(read, true);
        }
    }

    /// A monitor's own percent: it is never averaged with the count, but asked about where both clash.
    pub(super) fn doubts_monitor(&mut self, percent: f64) {
        if self.doubt.is_none() && !self.disbelieved.contains(&Clue::Percent) {
            let lead = self.pack.battery.chemistry.is_lead();
            let gauge = self.gauge.unwrap_or(Gauge::Unknown);
            self.join(vec![Reading::percent(percent.clamp(0.0, 1.0), gauge, lead)], false);
        }
    }

    fn join(&mut self, read: Vec<Reading>, takes: bool) {
        let (count, mut readings) = match self.basis.take() {
            Some(basis) => {
                let (used, sd) = self.used_since(basis.drawn);
                let newer = |old: &Reading| read.iter().any(|new| new.is_as(old));
                let kept = basis.readings.iter().filter(|old| !newer(old));
                let kept = kept.map(|old| old.later(used)).collect();
                (basis.count.spent(used, sd), kept)
            }
            None => (self.live.density(), Vec::new()),
        };
        let clue = read.last().map(Reading::source);
        readings.extend(read);
        let joined = join(&count, &readings);
        let was = self.doubt.take().map(|doubt| doubt.question());
        let drawn = self.live.drawn().0.value();
        // A monitor's count goes on by itself: only where it is in doubt is it kept as it was.
        if !self.setup.sensed || joined.clash.is_some() {
            self.basis = Some(Basis { count, readings, drawn });
        }
        let Some(clash) = joined.clash else {
            if takes {
                self.live.stand(&joined.density);
                self.known_by = clue.map_or(self.known_by, KnownBy::Read);
            }
            return;
        };
        self.live.stand(&joined.density);
        let same = |was: Question| {
            (was.lower.0, was.higher.0) == (clash.lower.0, clash.higher.0) && was.unsure
        };
        self.doubt = Some(Doubt { unsure: was.is_some_and(same), clash, drawn });
    }

    /// What was drawn since then, as a share of the rated ampere-hours, and how far that may be off.
    fn used_since(&self, drawn: f64) -> (f64, f64) {
        let used = (self.live.drawn().0.value() - drawn) / self.live.rated();
        (used, used.abs() * if self.setup.sensed { HEARD } else { PLANNED })
    }

    /// Somebody said which is right; `None` where they are not sure: the lower one counts on.
    pub fn answer(&mut self, right: Option<Clue>) {
        let Some(mut doubt) = self.doubt.take() else { return };
        let (used, sd) = self.used_since(doubt.drawn);
        let Clash { lower, higher } = &doubt.clash;
        let (right, wrong) = match right {
            Some(source) if source == lower.0 => (lower, higher),
            Some(source) if source == higher.0 => (higher, lower),
            _ => {
                doubt.unsure = true;
                self.doubt = Some(doubt);
                return;
            }
        };
        let count = right.1.spent(used, sd);
        self.live.stand(&count);
        let drawn = self.live.drawn().0.value();
        self.basis = (!self.setup.sensed).then_some(Basis { count, readings: Vec::new(), drawn });
        if wrong.0 != Clue::Count {
            self.disbelieved.push(wrong.0);
        }
        if right.0 != Clue::Count {
            self.known_by = KnownBy::Read(right.0);
        }
    }

    /// What is to be asked, where two clash.
    pub fn question(&self) -> Option<Question> {
        self.doubt.as_ref().map(Doubt::question)
    }

    /// What is left by its count and all that was read; where two clash, by the lower with a band over both.
    pub fn left(&self) -> Left {
        let left = self.live.left();
        match &self.doubt {
            Some(doubt) => doubt.left(left, self.used_since(doubt.drawn).0),
            None => left,
        }
    }

    /// What the charge is known by.
    pub const fn known_by(&self) -> KnownBy {
        self.known_by
    }

    /// The kind of meter that was named last on this trip.
    pub const fn gauge(&self) -> Option<Gauge> {
        self.gauge
    }
}
