//! From the owner's words for a stretch to what the bank feels.

use crate::day::{Day, Duty, Stretch};
use crate::drawdown::load::CONVERTER_EFFICIENCY;
use crate::drawdown::{Demand, Leg, temperature};
use crate::propulsion::{self, Implied};
use crate::rig::Rig;
use crate::shelf::Chemistry;
use crate::units::{Celsius, Hours, Kilograms, Volts};

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
        if system > self.up_to { CONVERTER_EFFICIENCY } else { 1.0 }
    }
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

/// Slices that a stretch worked at for a share of its time is cut into: as many minutes long.
const SLICE_MINUTES: f64 = 20.0;
/// Most such slices in a stretch.
const MOST_SLICES: f64 = 24.0;

/// What the motor asks for during a stretch that comes to this.
fn demand(rig: &Rig, stretch: &Stretch, implied: &Implied) -> Option<Demand> {
    let at = rig.motor.system_voltage;
    let full = rig.motor.full_current();
    // Turned up as the voltage falls, until it is at its full setting.
    let held = |watts| match full {
        Some(full) => Demand::hold(watts, full, at),
        None => Demand::power(watts),
    };
    let demand = match stretch.duty {
        Duty::Off => Demand::OFF,
        Duty::Current(amps) => Demand::current(amps),
        Duty::Power(watts) => held(watts),
        Duty::Setting(setting) => Demand::setting(rig.motor.current_at(setting)?, at),
        Duty::Speed(_) | Duty::Distance(_) | Duty::HoldPlace => held(implied.watts),
    };
    Some(demand.unsure_by(implied.unsure))
}

/// What is asked in each stretch of a day, whatever pack is aboard: worked out once for all of them.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct DayAsked {
    stretches: Vec<Asked>,
    /// Where the batteries come from. [°C]
    start: Option<Celsius>,
    /// The first stretch that asks for more than the motor gives.
    pub(super) too_much: Option<String>,
}

/// What one stretch asks, whatever pack is aboard.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Asked {
    lasts: Hours,
    /// From the start of the day to the middle of the stretch. [h]
    middle: Hours,
    demand: Demand,
    devices: Demand,
    ambient: Celsius,
    /// Slices that it is cut into where the motor works for a share of it only.
    slices: Option<(u32, f64)>,
}

impl DayAsked {
    /// What a day asks: devices behind their converter, and the air around the batteries.
    ///
    /// # Errors
    /// [`NoDrawCurve`] for a stretch whose draw is not known.
    pub(super) fn of(rig: &Rig, day: &Day) -> Result<Self, NoDrawCurve> {
        let efficiency = CONVERTED.efficiency(rig.motor.system_voltage);
        let power = day.accessory_power();
        let (mut clock, mut too_much) = (Hours::ZERO, None);
        let mut stretches = Vec::with_capacity(day.stretches.len());
        for (index, stretch) in day.stretches.iter().enumerate() {
            let middle = clock + stretch.lasts * 0.5;
            let now = day.conditions_at(middle);
            let unknown = || NoDrawCurve { index, name: stretch.name.clone() };
            let implied = propulsion::drawn(rig, stretch, &now).ok_or_else(unknown)?;
            if implied.too_much && too_much.is_none() {
                too_much = Some(stretch.name.clone());
            }
            let motor = demand(rig, stretch, &implied).ok_or_else(unknown)?;
            let shared = stretch.share < 1.0 && stretch.duty != Duty::Off;
            let slices = (stretch.lasts.minutes() / SLICE_MINUTES).ceil().clamp(1.0, MOST_SLICES);
            stretches.push(Asked {
                lasts: stretch.lasts,
                middle,
                demand: motor.with_devices(power, efficiency),
                devices: Demand::OFF.with_devices(power, efficiency),
                ambient: now.air.unwrap_or(temperature::RATED),
                slices: shared.then_some((slices as u32, stretch.share)),
            });
            clock += stretch.lasts;
        }
        Ok(Self { stretches, start: day.battery_start, too_much })
    }

    /// Whether a battery is as warm as the air all day, so that its weight makes no difference.
    pub(super) fn is_settled(&self) -> bool {
        let first = self.stretches.first().map(|s| s.ambient);
        let alike = self.stretches.iter().all(|s| Some(s.ambient) == first);
        alike && (self.start.is_none() || self.start == first)
    }

    /// One day as the bank feels it that is built of batteries of this chemistry and weight: they cool from
    /// where they were kept to the lake's air. One temperature per stretch, at its middle.
    pub(super) fn legs(&self, chemistry: Chemistry, mass: Option<Kilograms>) -> Vec<Leg> {
        let mut legs = Vec::with_capacity(self.stretches.len());
        for asked in &self.stretches {
            let start = self.start.unwrap_or(asked.ambient);
            let t = temperature::after(start, asked.ambient, mass, asked.middle);
            let (reach, resistance) =
                (temperature::reach(chemistry, t), temperature::resistance_factor(chemistry, t));
            let leg = |hours, demand| Leg { hours, demand, reach, resistance };
            match asked.slices {
                Some((slices, share)) => {
                    let slice = asked.lasts / f64::from(slices);
                    for _ in 0..slices {
                        legs.push(leg(slice * share, asked.demand));
                        legs.push(leg(slice * (1.0 - share), asked.devices));
                    }
                }
                None => legs.push(leg(asked.lasts, asked.demand)),
            }
        }
        legs
    }
}

/// From the end of a day to the start of the next, none when the day lasts 24 hours or more. [h]
pub(super) fn night(day: &Day) -> Hours {
    (Hours::of(24.0) - day.lasts()).max(Hours::ZERO)
}

/// The days in a row without charging, with the nights between them.
pub(super) fn days_in_a_row(day: &Day, one: &[Leg]) -> Vec<Leg> {
    let night = night(day);
    let mut all = one.to_vec();
    for _ in 1..day.days_without_charging {
        if night > Hours::ZERO {
            let rest = Leg { hours: night, demand: Demand::OFF, reach: 1.0, resistance: 1.0 };
            all.push(rest);
        }
        all.extend_from_slice(one);
    }
    all
}
