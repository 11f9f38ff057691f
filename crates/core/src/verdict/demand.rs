//! From the owner's words for a stretch to what the bank feels.

use crate::day::{Day, Duty, Part, Stretch};
use crate::drawdown::load::CONVERTER_EFFICIENCY;
use crate::drawdown::{Demand, Leg, temperature};
use crate::propulsion::{self, Implied};
use crate::rig::Rig;
use crate::shelf::Battery;
use crate::units::{Amps, Celsius, Hours, Kilograms, Volts, Watts};
use crate::wiring::{self, MotorCable};

/// What 12 V devices lose on their way from the bus.
pub(super) struct Converted {
    /// System voltage up to which they run without a converter. [V]
    up_to: Volts,
}

/// Devices for 12 V run from a 12 V bus, which is below 15 V even while it is charged. Common practice, no source.
pub(super) const CONVERTED: Converted = Converted { up_to: Volts::of(15.0) };

impl Converted {
    /// Share of what is drawn that reaches them.
    pub(super) fn efficiency(&self, system: Volts) -> f64 {
        if is_converted(system) { CONVERTER_EFFICIENCY } else { 1.0 }
    }
}

/// Whether 12 V devices run on so many volts through a converter only.
pub fn is_converted(system: Volts) -> bool {
    system > CONVERTED.up_to
}

/// What the devices on the traction pack take out of it on average through the day, the converter's loss included. [W]
pub fn devices_draw(rig: &Rig, day: &Day) -> Watts {
    day.accessory_power() / CONVERTED.efficiency(rig.motor.system_voltage)
}

/// A stretch is given by a motor setting, but what the motor draws there is not known.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "stretch {} (\"{name}\") is given by a motor setting: give the motor's maximum current or some (setting, amps) points",
    index + 1
)]
pub struct NoDrawCurve {
    /// Which stretch, from 0.
    pub index: usize,
    /// Its name.
    pub name: String,
}

/// Slices that a stretch worked at for a share of its time is cut into: as many minutes long. Finer ones change nothing
/// that can be read off.
const SLICE_MINUTES: f64 = 12.0;
/// Most such slices in a part.
const MOST_SLICES: f64 = 60.0;
/// A battery that cools or warms is taken to be at one temperature while it is between two of these marks. [°C]
const MARKS: f64 = 0.5;

/// A time in which a battery is taken to be at one temperature.
struct Steady {
    lasts: Hours,
    at: Celsius,
}

/// The times between the marks that a battery passes on its way from `start` towards the air of `ambient`; marks are
/// fixed on the scale, so that a stretch told in two is cut at the same moments. The last time is at the air's own.
fn between_marks(
    start: Celsius,
    ambient: Celsius,
    mass: Option<Kilograms>,
    lasts: Hours,
) -> Vec<Steady> {
    let air = ambient.value();
    let cell = |t: f64| (t / MARKS).floor() as i32;
    let (mut now, mut left, mut all) = (start.value(), lasts.value(), Vec::new());
    while left > 0.0 {
        // From a mark itself the next cell lies towards the air.
        let towards = (air - now).signum();
        let here = cell(now + 1e-9 * towards);
        let mark = MARKS * f64::from(if towards > 0.0 { here + 1 } else { here });
        // The air lies before the next mark, or on it, which is never reached.
        if (air - mark) * towards < 1e-6 {
            all.push(Steady { lasts: Hours::of(left), at: ambient });
            break;
        }
        let takes = temperature::until(Celsius::of(now), ambient, mass, Celsius::of(mark));
        let passes = takes.value().min(left);
        all.push(Steady {
            lasts: Hours::of(passes),
            at: Celsius::of(MARKS * (f64::from(here) + 0.5)),
        });
        (now, left) = (mark, left - passes);
    }
    all
}

/// What the motor asks behind its cable: what was `measured` was read at the pack, what a label says is meant at the motor.
pub(super) fn behind_the_cable(cable: Option<MotorCable>, asks: Demand, measured: bool) -> Demand {
    cable.map_or(asks, |cable| asks.behind(cable.ohms, measured))
}

/// What the motor asks for during a stretch that comes to this.
pub(super) fn demand_of(
    rig: &Rig,
    stretch: &Stretch,
    implied: &Implied,
    cable: Option<MotorCable>,
) -> Option<Demand> {
    let at = rig.motor.reads_at();
    let full = rig.motor.full_current();
    // Turned up as the voltage falls, until it is at its full setting.
    let held = |watts| match full {
        Some(full) => Demand::hold(watts, full, at),
        None => Demand::power(watts),
    };
    let demand = match stretch.duty {
        Duty::Off => Demand::OFF,
        Duty::Current(amps) => Demand::current(amps * rig.motor.draws()),
        Duty::Power(watts) => held(watts * rig.motor.draws()),
        Duty::Setting(setting) => Demand::setting(rig.motor.current_at(setting)?, at),
        Duty::Speed(_) | Duty::Distance(_) | Duty::HoldPlace => held(implied.watts),
    };
    let measured = match stretch.duty {
        Duty::Setting(_) => rig.motor.settings_measured,
        _ => !rig.measured.is_empty(),
    };
    let asked = behind_the_cable(cable, demand, measured).unsure_by(implied.unsure);
    Some(asked.capped(rig.motor.stated_most()))
}

/// What is asked in each part of a day, whatever pack is aboard: worked out once for all of them.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct DayAsked {
    parts: Vec<Asked>,
    /// Where the batteries come from. [°C]
    start: Option<Celsius>,
    /// The cable to the motor, if its length is told.
    pub(super) cable: Option<MotorCable>,
    /// The first stretch that asks for more than the motor gives.
    pub(super) too_much: Option<String>,
}

/// What one part of a stretch asks, whatever pack is aboard.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Asked {
    lasts: Hours,
    demand: Demand,
    devices: Demand,
    ambient: Celsius,
    /// Slices that it is cut into where the motor works for a share of it only.
    slices: Option<(u32, f64)>,
}

impl DayAsked {
    /// What a day asks: devices behind their converter, what charges at the same time, and the air around the
    /// batteries; cut wherever one of them changes.
    ///
    /// # Errors
    /// [`NoDrawCurve`] for a stretch whose draw is not known.
    pub(super) fn of(rig: &Rig, day: &Day) -> Result<Self, NoDrawCurve> {
        let efficiency = CONVERTED.efficiency(rig.motor.system_voltage);
        let power = day.accessory_power();
        let cable = wiring::motor_cable(rig, devices_draw(rig, day));
        let (mut clock, mut too_much) = (Hours::ZERO, None);
        let mut parts = Vec::with_capacity(day.stretches.len());
        for (index, stretch) in day.stretches.iter().enumerate() {
            let ends = clock + stretch.lasts;
            for part in day.parts(clock, ends) {
                let unknown = || NoDrawCurve { index, name: stretch.name.clone() };
                let implied =
                    propulsion::drawn(rig, stretch, &part.conditions).ok_or_else(unknown)?;
                if implied.too_much && too_much.is_none() {
                    too_much = Some(stretch.name.clone());
                }
                let motor = demand_of(rig, stretch, &implied, cable).ok_or_else(unknown)?;
                let Part { lasts, sun, charging, conditions } = part;
                let besides =
                    |motor: Demand| motor.with_devices(power, efficiency).fed(charging, sun);
                let shared = stretch.share < 1.0 && stretch.duty != Duty::Off;
                let slices = (lasts.minutes() / SLICE_MINUTES).ceil().clamp(1.0, MOST_SLICES);
                parts.push(Asked {
                    lasts,
                    demand: besides(motor),
                    devices: besides(Demand::OFF),
                    ambient: conditions.air.unwrap_or(temperature::RATED),
                    slices: shared.then_some((slices as u32, stretch.share)),
                });
            }
            clock = ends;
        }
        Ok(Self { parts, start: day.battery_start, cable, too_much })
    }

    /// Whether a battery is as warm as the air all day, so that its weight makes no difference.
    pub(super) fn is_settled(&self) -> bool {
        let first = self.parts.first().map(|s| s.ambient);
        let alike = self.parts.iter().all(|s| Some(s.ambient) == first);
        alike && (self.start.is_none() || self.start == first)
    }

    /// One day as a bank built of this battery feels it: it cools from where it was kept to the air around it, from mark
    /// to mark of the scale.
    pub(super) fn legs(&self, battery: &Battery, mass: Option<Kilograms>) -> Vec<Leg> {
        let mut legs = Vec::with_capacity(self.parts.len());
        let Some(first) = self.parts.first() else { return legs };
        let window = temperature::charge_window(battery);
        let mut now = self.start.unwrap_or(first.ambient);
        for asked in &self.parts {
            let feels = |t| (temperature::cold(battery.chemistry, t), window.allows(t));
            let mut push = |hours, demand, t| {
                let (cold, takes_charge) = feels(t);
                legs.push(Leg { hours, demand, cold, takes_charge });
            };
            match asked.slices {
                Some((slices, share)) => {
                    let lasts = asked.lasts / f64::from(slices);
                    for n in 0..slices {
                        let middle = lasts * (f64::from(n) + 0.5);
                        let t = temperature::after(now, asked.ambient, mass, middle);
                        push(lasts * share, asked.demand, t);
                        push(lasts * (1.0 - share), asked.devices, t);
                    }
                }
                None => {
                    for piece in between_marks(now, asked.ambient, mass, asked.lasts) {
                        push(piece.lasts, asked.demand, piece.at);
                    }
                }
            }
            now = temperature::after(now, asked.ambient, mass, asked.lasts);
        }
        legs
    }

    /// The coldest and the warmest that a battery gets through the day. [°C]
    pub(super) fn extremes(&self, mass: Option<Kilograms>) -> Option<(Celsius, Celsius)> {
        let first = self.parts.first()?;
        let mut now = self.start.unwrap_or(first.ambient);
        let (mut coldest, mut warmest) = (now, now);
        for asked in &self.parts {
            now = temperature::after(now, asked.ambient, mass, asked.lasts);
            coldest = if now < coldest { now } else { coldest };
            warmest = if now > warmest { now } else { warmest };
        }
        Some((coldest, warmest))
    }
}

/// The days in a row without charging, with the nights that they last; `overnight` is what a charger gives then, and for
/// how long.
pub(super) fn days_in_a_row(
    rig: &Rig,
    day: &Day,
    one: &[Leg],
    overnight: Option<(Amps, Hours)>,
) -> Vec<Leg> {
    let night = day.night();
    let efficiency = CONVERTED.efficiency(rig.motor.system_voltage);
    let asks = Demand::OFF.with_devices(day.night_power(), efficiency);
    let (days, nights) = (day.days_without_charging, day.nights());
    let mut all = one.to_vec();
    for n in 1..=nights {
        let charged = overnight.map_or(Hours::ZERO, |(_, hours)| hours.min(night));
        if let Some((amps, _)) = overnight.filter(|_| charged > Hours::ZERO) {
            all.push(Leg::rated(charged, asks.fed(amps, Watts::ZERO)));
        }
        if night > charged {
            all.push(Leg::rated(night - charged, asks));
        }
        if n < days {
            all.extend_from_slice(one);
        }
    }
    all
}
