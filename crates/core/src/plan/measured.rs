//! Stretches that are told by how far they go: their time follows from the speed that they are driven at.

use super::Plan;
use crate::day::{Duty, LONGEST};
use crate::propulsion;
use crate::units::Hours;

/// Slower than this nothing gets anywhere. [m/s]
const STANDS: f64 = 0.05;

impl Plan {
    /// Gives each stretch that is told by how far it goes the time that takes: `far / (speed over the ground x share of the time)`, at
    /// its setting, speed, current or power, on the motor's usual volts, in the wind and current that it begins in. One at which
    /// nothing gets there, or not within the longest day, keeps the time that it was told; that it is not made is the verdict's.
    pub fn measured_out(&mut self) {
        if self.day.stretches.iter().all(|s| s.far.is_none()) {
            return;
        }
        let rig = self.rig_as_measured();
        let mut clock = Hours::ZERO;
        for n in 0..self.day.stretches.len() {
            let stretch = &self.day.stretches[n];
            let driven = !matches!(stretch.duty, Duty::Off | Duty::HoldPlace | Duty::Distance(_));
            if let Some(far) = stretch.far.filter(|far| driven && far.value() > 0.0) {
                let now = self.day.conditions_at(clock);
                let speed = propulsion::drawn(&rig, stretch, &now).map_or(0.0, |i| {
                    let by_power = || propulsion::speed_with(&rig, stretch, &now, i.watts);
                    i.speed.unwrap_or_else(by_power).value() * stretch.share
                });
                let others = self.day.lasts() - stretch.lasts;
                if speed > STANDS {
                    let lasts = Hours::of(far.value() / speed / 3600.0);
                    if others + lasts <= LONGEST {
                        self.day.stretches[n].lasts = lasts;
                    }
                }
            }
            clock += self.day.stretches[n].lasts;
        }
    }
}
