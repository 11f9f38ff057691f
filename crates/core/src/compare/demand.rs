//! From the owner's words for a stretch to what the bank feels.

use crate::day::{Day, Duty};
use crate::drawdown::load::CONVERTER_EFFICIENCY;
use crate::drawdown::{Demand, Leg, temperature};
use crate::pack::Pack;
use crate::rig::Rig;
use crate::units::{Hours, Volts};

/// System voltage up to which 12 V devices run without a converter. [V]
const NO_CONVERTER_UP_TO: Volts = Volts::of(15.0);

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

/// What the motor asks for during a duty.
pub(super) fn demand(rig: &Rig, duty: Duty) -> Option<Demand> {
    let at = rig.motor.system_voltage;
    Some(match duty {
        Duty::Off => Demand::OFF,
        Duty::Current(amps) => Demand::current(amps),
        Duty::Power(watts) => match rig.motor.max_current {
            // Turned up as the voltage falls, until it is at its full setting.
            Some(full) => Demand::hold(watts, full, at),
            None => Demand::power(watts),
        },
        Duty::Setting(setting) => Demand::setting(rig.motor.current_at(setting)?, at),
    })
}

/// The whole day as the bank of `pack` feels it: devices behind their converter, and the battery
/// cooling from where it was kept to the lake's air. One temperature per stretch, at its middle.
pub(super) fn legs(rig: &Rig, day: &Day, pack: &Pack) -> Result<Vec<Leg>, NoDrawCurve> {
    let chemistry = pack.battery.chemistry;
    let efficiency =
        if rig.motor.system_voltage > NO_CONVERTER_UP_TO { CONVERTER_EFFICIENCY } else { 1.0 };
    let devices = day.accessory_power();
    let mut clock = Hours::ZERO;
    let mut legs = Vec::with_capacity(day.stretches.len());
    for (index, stretch) in day.stretches.iter().enumerate() {
        let motor = demand(rig, stretch.duty)
            .ok_or_else(|| NoDrawCurve { index, name: stretch.name.clone() })?;
        let ambient = day.ambient.unwrap_or(temperature::RATED);
        let start = day.battery_start.unwrap_or(ambient);
        let middle = clock + stretch.lasts * 0.5;
        let t = temperature::after(start, ambient, pack.battery.mass, middle);
        legs.push(Leg {
            hours: stretch.lasts.value(),
            demand: motor.with_devices(devices, efficiency),
            reach: temperature::reach(chemistry, t),
            resistance: temperature::resistance_factor(chemistry, t),
        });
        clock += stretch.lasts;
    }
    Ok(legs)
}
