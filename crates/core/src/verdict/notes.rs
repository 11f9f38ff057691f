//! What to know beside the verdict: each a sentence with its figures.

use super::Drawn;
use crate::day::Day;
use crate::drawdown::temperature::{self, Window};
use crate::pack::{Pack, stow};
use crate::rig::Rig;
use crate::shelf::Correction;
use crate::source::Origin;
use crate::units::system::{Measure, System};
use crate::units::{AmpHours, Amps, Celsius, Hours, Volts};

/// Something the owner should know about a pack that can be used.
#[derive(Debug, Clone, PartialEq)]
pub enum Note {
    /// The day is within the BMS's limit but the motor's full throttle is not.
    NoFullThrottle {
        /// What the BMS carries. [A]
        limit: Amps,
        /// What the motor can draw. [A]
        motor: Amps,
    },
    /// The ratings cannot all be true of one battery.
    RatingsDisagree {
        /// By how much, as a share.
        by: f64,
    },
    /// The day draws harder than any rating on the label.
    OutsideRatings {
        /// What the pack would last at the day's mean current. [h]
        would_last: Hours,
        /// Shortest rated discharge. [h]
        shortest: Hours,
    },
    /// Too cold or too hot to discharge.
    OutsideDischargeWindow {
        /// The temperature. [°C]
        at: Celsius,
        /// What is allowed.
        window: Window,
    },
    /// It may not be charged at the lake's temperature.
    NoChargingHere {
        /// The temperature. [°C]
        at: Celsius,
        /// What is allowed.
        window: Window,
    },
    /// A weak unit opened its string; the others carried on.
    StringOut {
        /// When. [h]
        at: Hours,
    },
    /// The cut-off comes without a warning.
    StopsWithoutWarning,
    /// Lead goes on below its floor: someone has to switch it off.
    CutByHand {
        /// When the floor is reached. [h]
        at: Hours,
        /// Voltage under load at that time. [V]
        volts: Volts,
    },
    /// A charger that does not fit.
    Misfit(crate::refill::Misfit),
    /// Not full again at the time it must be.
    NotReady {
        /// What it takes. [h]
        takes: Hours,
        /// Charge reached in the hours the charger may run, 0 to 1.
        reached: f64,
    },
    /// A figure of the label was replaced by a plausible one.
    Corrected(Correction),
    /// No bay, nor all together, take the pack's units.
    DoesNotFit {
        /// Units that find a place.
        placed: u32,
        /// Units there are.
        units: u32,
        /// Why no more go in, bay by bay.
        why: Vec<(String, stow::Refusal)>,
    },
    /// A stretch asks for more than the motor gives.
    TooMuchForTheMotor {
        /// The first such stretch.
        stretch: String,
    },
}

impl Note {
    /// The note in a sentence with its figures.
    pub fn sentence(&self, units: System) -> String {
        let warmth = |t: &Celsius| units.say(Measure::Temperature, t.value(), 0);
        match self {
            Self::NoFullThrottle { limit, motor } => format!(
                "Its BMS shuts off above {limit:.0}; the motor at full setting draws {motor:.0}. Never full throttle."
            ),
            Self::RatingsDisagree { by } => format!(
                "The ratings on its label disagree by {:.0} %; labels usually agree within 10 %. The band is wider for it.",
                by * 100.0
            ),
            Self::OutsideRatings { would_last, shortest } => format!(
                "This day draws it down in about {would_last:.1}; the shortest rating on its label is over {shortest:.1}. Beyond that the estimate leans on what is typical for the chemistry."
            ),
            Self::OutsideDischargeWindow { at, window } => match window.origin {
                Origin::Typical => format!("Makers do not allow discharging it at {}.", warmth(at)),
                _ => format!(
                    "Its BMS shuts off at {}: its label allows {} to {}.",
                    warmth(at),
                    warmth(&window.low),
                    warmth(&window.high)
                ),
            },
            Self::NoChargingHere { at, window } if *at < window.low => format!(
                "Do not charge it at {}: charging ruins lithium below {}. Warm it first.",
                warmth(at),
                warmth(&window.low)
            ),
            Self::NoChargingHere { at, window } => format!(
                "Do not charge it at {}: above {} its BMS refuses. Let it cool first.",
                warmth(at),
                warmth(&window.high)
            ),
            Self::StringOut { at } => format!(
                "The string with the weak unit shuts off after {at:.1}; the others carry the load from there."
            ),
            Self::CutByHand { at, volts } => format!(
                "Lead has no switch inside: stop by hand after {at:.1}, when it is down to about {volts:.1} under load."
            ),
            Self::Misfit(misfit) => misfit.to_string(),
            Self::NotReady { takes, reached } => {
                let hours = if *reached < 0.995 {
                    format!(", and the charger's hours bring it to {:.0} %", reached * 100.0)
                } else {
                    String::new()
                };
                format!("Not full again in time: it takes {takes:.1}{hours}.")
            }
            Self::TooMuchForTheMotor { stretch } => format!(
                "{stretch} asks for more than the motor can give: the place or the speed is not held."
            ),
            Self::Corrected(correction) => {
                format!("Not as labeled, since the label check doubts it: {correction}.")
            }
            Self::DoesNotFit { placed, units: all, why } => {
                let why: Vec<String> =
                    why.iter().map(|(bay, r)| format!("{bay}: {}", r.sentence(units))).collect();
                format!("The battery bays take {placed} of its {all}. {}.", why.join("; "))
            }
            Self::StopsWithoutWarning => {
                "Its BMS shuts off with hardly a warning. A reset may give some seconds, then it shuts off again: do not count on it.".to_owned()
            }
        }
    }
}

/// `too_much` is the first stretch that asks for more than the motor gives.
pub(super) fn notes(
    rig: &Rig,
    day: &Day,
    pack: &Pack,
    drawn: &Drawn,
    too_much: Option<&str>,
) -> Vec<Note> {
    let mut notes: Vec<Note> =
        pack.battery.corrected.iter().copied().map(Note::Corrected).collect();
    if let Some(short) = stow::stow(rig, pack).filter(|s| s.placed() < pack.units()) {
        let (placed, units) = (short.placed(), pack.units());
        notes.push(Note::DoesNotFit { placed, units, why: short.refusals() });
    }
    let chemistry = pack.battery.chemistry;
    let opens_above = pack.max_continuous().filter(|_| !chemistry.is_lead());
    if let (Some(limit), Some(motor)) = (opens_above, rig.motor.max_current)
        && motor > limit
    {
        notes.push(Note::NoFullThrottle { limit, motor });
    }
    if drawn.fit.in_conflict() {
        notes.push(Note::RatingsDisagree { by: drawn.fit.conflict() });
    }
    let hours = drawn.ended_early_at().unwrap_or(day.lasts());
    if hours > Hours::ZERO && drawn.summary.delivered > AmpHours::ZERO && chemistry.is_lead() {
        let mean = drawn.summary.delivered / hours / f64::from(pack.parallel);
        let would_last = Hours::of(drawn.fit.law.runtime(mean.value()));
        let shortest = Hours::of(drawn.fit.rated_hours.0);
        // Half the shortest rating is as far as a rating reaches on its own.
        if would_last < shortest * 0.5 {
            notes.push(Note::OutsideRatings { would_last, shortest });
        }
    }
    if let Some(at) = day.ambient {
        let window = temperature::discharge_window(&pack.battery);
        if !window.allows(at) {
            notes.push(Note::OutsideDischargeWindow { at, window });
        }
        let window = temperature::charge_window(&pack.battery);
        if !chemistry.is_lead() && !window.allows(at) {
            notes.push(Note::NoChargingHere { at, window });
        }
    }
    if let Some(at) = drawn.summary.string_out_at {
        notes.push(Note::StringOut { at });
    }
    if let (true, Some(at)) = (chemistry.is_lead(), drawn.summary.floor_at) {
        let under_load = drawn.points.iter().find(|p| p.at >= at && p.amps > Amps::ZERO);
        let volts = under_load.and_then(|p| p.volts);
        if let Some(volts) = volts {
            notes.push(Note::CutByHand { at, volts });
        }
    }
    notes.extend(drawn.refill.misfits.iter().cloned().map(Note::Misfit));
    if drawn.refill.ready == Some(false) {
        let (takes, reached) = (drawn.refill.hours(), drawn.refill.reached);
        notes.push(Note::NotReady { takes, reached });
    }
    notes.extend(too_much.map(|name| Note::TooMuchForTheMotor { stretch: name.to_owned() }));
    if matches!(drawn.summary.ended, crate::drawdown::Ended::Stopped { .. }) && !chemistry.is_lead()
    {
        notes.push(Note::StopsWithoutWarning);
    }
    notes
}
