//! From the owner's words for a stretch to what the bank feels.

use crate::day::{Conditions, Day, Duty, Stretch};
use crate::drawdown::load::CONVERTER_EFFICIENCY;
use crate::drawdown::{Demand, Leg, temperature};
use crate::pack::Pack;
use crate::propulsion;
use crate::rig::Rig;
use crate::units::{Hours, Volts};

/// What 12 V devices lose on their way from the bus.
pub(super) struct Converted {
    /// System voltage up to which they run without a converter. [V]
    up_to: Volts,
}

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

/// What the motor asks for during a stretch.
fn demand(rig: &Rig, stretch: &Stretch, now: &Conditions) -> Option<Demand> {
    let at = rig.motor.system_voltage;
    let full = rig.motor.full_current();
    // Turned up as the voltage falls, until it is at its full setting.
    let held = |watts| match full {
        Some(full) => Demand::hold(watts, full, at),
        None => Demand::power(watts),
    };
    let implied = propulsion::drawn(rig, stretch, now)?;
    let demand = match stretch.duty {
        Duty::Off => Demand::OFF,
        Duty::Current(amps) => Demand::current(amps),
        Duty::Power(watts) => held(watts),
        Duty::Setting(setting) => Demand::setting(rig.motor.current_at(setting)?, at),
        Duty::Speed(_) | Duty::Distance(_) | Duty::HoldPlace => held(implied.watts),
    };
    Some(demand.unsure_by(implied.unsure))
}

/// One day as the bank of `pack` feels it: devices behind their converter, and the battery cooling
/// from where it was kept to the lake's air. One temperature per stretch, at its middle.
pub(super) fn legs(rig: &Rig, day: &Day, pack: &Pack) -> Result<Vec<Leg>, NoDrawCurve> {
    let chemistry = pack.battery.chemistry;
    let efficiency = CONVERTED.efficiency(rig.motor.system_voltage);
    let devices = day.accessory_power();
    let mut clock = Hours::ZERO;
    let mut legs = Vec::with_capacity(day.stretches.len());
    for (index, stretch) in day.stretches.iter().enumerate() {
        let middle = clock + stretch.lasts * 0.5;
        let now = day.conditions_at(middle);
        let motor = demand(rig, stretch, &now)
            .ok_or_else(|| NoDrawCurve { index, name: stretch.name.clone() })?;
        let ambient = now.air.unwrap_or(temperature::RATED);
        let start = day.battery_start.unwrap_or(ambient);
        let t = temperature::after(start, ambient, pack.battery.mass, middle);
        let leg = |hours: Hours, demand: Demand| Leg {
            hours: hours.value(),
            demand: demand.with_devices(devices, efficiency),
            reach: temperature::reach(chemistry, t),
            resistance: temperature::resistance_factor(chemistry, t),
        };
        if stretch.share < 1.0 && stretch.duty != Duty::Off {
            let slices = (stretch.lasts.minutes() / SLICE_MINUTES).ceil().clamp(1.0, MOST_SLICES);
            let slice = stretch.lasts / slices;
            for _ in 0..slices as usize {
                legs.push(leg(slice * stretch.share, motor));
                legs.push(leg(slice * (1.0 - stretch.share), Demand::OFF));
            }
        } else {
            legs.push(leg(stretch.lasts, motor));
        }
        clock += stretch.lasts;
    }
    Ok(legs)
}

/// From the end of a day to the start of the next, none when the day lasts 24 hours or more. [h]
pub(super) fn night(day: &Day) -> f64 {
    (24.0 - day.lasts().value()).max(0.0)
}

/// The days in a row without charging, with the nights between them.
pub(super) fn days_in_a_row(day: &Day, one: &[Leg]) -> Vec<Leg> {
    let night = night(day);
    let mut all = one.to_vec();
    for _ in 1..day.days_without_charging {
        if night > 0.0 {
            let rest = Leg { hours: night, demand: Demand::OFF, reach: 1.0, resistance: 1.0 };
            all.push(rest);
        }
        all.extend_from_slice(one);
    }
    all
}
