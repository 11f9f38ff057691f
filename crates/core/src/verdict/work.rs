//! What of the day's work a pack does: as planned, slower, or not at all.
//!
//! A pack of other volts than the motor's usual leaves it less power, and a wind may be more than the motor has. Getting somewhere
//! then takes longer, and draws longer; spending time is slower; a place is not held, a speed not made.

use super::demand::demand_of;
use crate::day::{Day, Duty, Keeps, LONGEST};
use crate::pack::{Pack, limits};
use crate::propulsion;
use crate::rig::Rig;
use crate::units::{Hours, MetresPerSecond, Volts, Watts};
use crate::wiring::MotorCable;

/// How a pack does a day's work.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Work {
    /// What it does otherwise than planned, in the order of the day.
    pub otherwise: Vec<Otherwise>,
}

/// A stretch that goes otherwise than planned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Otherwise {
    /// Its place in the day.
    pub stretch: usize,
    /// Speed over the ground that is planned: typed, or what its draw reaches on the motor's usual volts. [m/s]
    pub planned: MetresPerSecond,
    /// What is reached; negative when blown back. [m/s]
    pub reached: MetresPerSecond,
    /// How it goes.
    pub how: How,
}

/// How a stretch goes that does not go as planned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum How {
    /// It gets as far, so much later. [h]
    Longer(Hours),
    /// It lasts as long, slower.
    Slower,
    /// The place is not held.
    CannotHold,
    /// The speed that was typed is not made.
    CannotMake,
}

/// How much of the work is done, the best first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Does {
    /// As planned.
    AsPlanned,
    /// All of it, slower.
    Slower,
    /// Not all of it: a place is not held, a speed not made.
    NotAll,
}

impl Work {
    /// How much of it is done.
    pub fn does(&self) -> Does {
        let worst = self.otherwise.iter().map(|o| match o.how {
            How::Longer(_) | How::Slower => Does::Slower,
            How::CannotHold | How::CannotMake => Does::NotAll,
        });
        worst.max().unwrap_or(Does::AsPlanned)
    }

    /// The first stretch that is not done, by the clock.
    pub fn first_undone(&self) -> Option<&Otherwise> {
        self.otherwise.iter().find(|o| matches!(o.how, How::CannotHold | How::CannotMake))
    }

    /// How much longer all of it takes. [h]
    pub fn longer(&self) -> Hours {
        let each = self.otherwise.iter().map(|o| match o.how {
            How::Longer(more) => more,
            _ => Hours::ZERO,
        });
        each.sum()
    }
}

/// A stretch that goes no more than this share otherwise goes as planned.
const SAME: f64 = 0.02;
/// Slower than this nothing gets anywhere. [m/s]
const STANDS: f64 = 0.05;

/// The volts at which a pack of other than the motor's usual feeds it; `None` on its usual ones, within which packs count alike.
pub(super) fn other_volts(pack: &Pack, rig: &Rig) -> Option<Volts> {
    limits::speed_on(pack, rig).map(|_| pack.loaded_voltage())
}

/// How a day goes on some volts, the motor's usual ones where `None`; and the day as it is driven, where that takes longer. What is
/// planned is planned with the rig as it was `weighed`.
pub(super) fn work(
    (weighed, rig): (&Rig, &Rig),
    day: &Day,
    volts: Option<Volts>,
    cable: Option<MotorCable>,
) -> (Work, Option<Day>) {
    let boat = rig.craft.kind.is_boat();
    let usual = rig.motor.reads_at();
    let (mut clock, mut work, mut driven) = (Hours::ZERO, Work::default(), day.clone());
    for (n, stretch) in day.stretches.iter().enumerate() {
        let parts = day.parts(clock, clock + stretch.lasts);
        clock += stretch.lasts;
        if stretch.duty == Duty::Off {
            continue;
        }
        // Means over the parts of the stretch, by their time.
        let (mut planned, mut reached, mut too_much) = (0.0, 0.0, false);
        for part in &parts {
            let now = &part.conditions;
            let Some(implied) = propulsion::drawn(rig, stretch, now) else { continue };
            let share = part.lasts / stretch.lasts;
            let on = |rig: &Rig, volts: Volts| {
                let amps = demand_of(rig, stretch, &implied, cable)
                    .map_or(0.0, |demand| demand.amps(volts.value()));
                propulsion::speed_with(rig, stretch, now, Watts::of(amps * volts.value())).value()
            };
            let wanted = match stretch.duty {
                Duty::Speed(v) => Some(v.value()),
                Duty::HoldPlace => Some(0.0),
                Duty::Distance(d) => {
                    Some(d.value() / (stretch.lasts.value() * 3600.0 * stretch.share).max(1e-6))
                }
                _ => None,
            };
            // What is asked is met where the motor has the power for it.
            let met = volts.is_none_or(|volts| {
                let asked = implied.watts.value();
                let gives = demand_of(rig, stretch, &implied, cable)
                    .map_or(0.0, |d| d.amps(volts.value()) * volts.value());
                gives >= asked * (1.0 - SAME)
            });
            let (plan, gets) = match (wanted, volts) {
                (Some(wanted), _) if !implied.too_much && met => (wanted, wanted),
                (Some(wanted), volts) => (wanted, on(rig, volts.unwrap_or(usual))),
                (None, volts) => match stretch.far {
                    // What is so far away in so much time has the speed for it.
                    Some(far) => {
                        let hours = stretch.lasts.value() * 3600.0 * stretch.share;
                        (far.value() / hours.max(1e-6), on(rig, volts.unwrap_or(usual)))
                    }
                    None => match volts {
                        None => (0.0, 0.0),
                        Some(volts) => (on(weighed, usual), on(rig, volts)),
                    },
                },
            };
            too_much |= wanted.is_some() && (implied.too_much || !met);
            planned += share * plan;
            reached += share * gets;
        }
        let mut tell = |how| {
            let [planned, reached] = [planned, reached].map(MetresPerSecond::of);
            work.otherwise.push(Otherwise { stretch: n, planned, reached, how });
        };
        if stretch.duty == Duty::HoldPlace {
            if too_much {
                tell(How::CannotHold);
            }
            continue;
        }
        let slower = planned > STANDS && reached < planned * (1.0 - SAME);
        if !slower {
            continue;
        }
        let speed_typed = matches!(stretch.duty, Duty::Speed(_));
        let keeps = stretch.keeps_on(boat) == Keeps::Distance;
        let lasts = stretch.lasts * (planned / reached.max(STANDS));
        let more = lasts - stretch.lasts;
        let longest = day.lasts() + more <= LONGEST && reached > STANDS;
        match (keeps, speed_typed) {
            (true, _) if !longest => tell(How::CannotMake),
            (true, false) => tell(How::Longer(more)),
            (_, true) => tell(How::CannotMake),
            (false, false) => tell(How::Slower),
        }
        if keeps && longest {
            driven.stretches[n].lasts = lasts;
        }
    }
    let takes_longer = driven.lasts() > day.lasts() && driven.lasts() <= LONGEST;
    (work, takes_longer.then_some(driven))
}
