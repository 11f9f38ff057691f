//! When one unit fails: what is left of a pack, how far today's day gets with it, and how likely it is.

use crate::pack::Pack;
use crate::pack::limits;
use crate::rig::Rig;

/// How a pack goes on without one of its units.
#[derive(Debug, Clone, PartialEq)]
pub enum Remains {
    /// The other strings, at the same volts.
    Strings(Pack),
    /// The other units of its one string, at a lower voltage that the motor takes too.
    LowerVolts(Pack),
}

impl Remains {
    /// What is left.
    pub const fn pack(&self) -> &Pack {
        match self {
            Self::Strings(pack) | Self::LowerVolts(pack) => pack,
        }
    }
}

/// What is left of a pack when one unit is dead, taken off by hand; `None` when nothing moves any more.
///
/// A string is no better than its worst unit: it goes as a whole where there is another one. The only string may go on
/// without the unit where the motor takes the lower voltage.
pub fn one_fails(pack: &Pack, rig: &Rig) -> Option<Remains> {
    if pack.parallel > 1 {
        let rest = Pack { parallel: pack.parallel - 1, ..pack.clone() };
        return Some(Remains::Strings(rest));
    }
    if pack.series > 1 {
        let rest = Pack { series: pack.series - 1, ..pack.clone() };
        return limits::accepted(&rest, rig).map(|_| Remains::LowerVolts(rest));
    }
    None
}

/// Chances in a season with units that fail independently of each other, each with chance `rate`, 0 to 1.
///
/// They seldom are independent: one charger, one soaking, one bad batch takes several. A shorted one drags its parallel
/// mates down until it is taken off.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Chances {
    /// That any unit fails: `1 - (1 - p)^n`.
    pub any: f64,
    /// That nothing moves any more.
    pub stranded: f64,
}

/// The chances of `pack` on `rig`.
///
/// Every string is out where one of its units is, `1 - (1 - p)^S`; all are with the product of it. A lone string that
/// goes on at a lower voltage is lost with the second unit.
pub fn chances(pack: &Pack, rig: &Rig, rate: f64) -> Chances {
    let sound = |units: u32| (1.0 - rate).powi(units as i32);
    let any = 1.0 - sound(pack.units());
    let stranded = match one_fails(pack, rig) {
        None => any,
        Some(Remains::Strings(_)) => (1.0 - sound(pack.series)).powi(pack.parallel as i32),
        Some(Remains::LowerVolts(_)) => {
            any - f64::from(pack.series) * rate * sound(pack.series - 1)
        }
    };
    Chances { any, stranded }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rig::CraftKind;
    use crate::shelf::{Battery, Chemistry, Rating};
    use crate::units::{AmpHours, Hours, Volts};

    fn pack(volts: f64, series: u32, parallel: u32) -> Pack {
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        Pack::of(Battery::new("b", Chemistry::Lfp, Volts::of(volts), rating), series, parallel)
    }

    /// Probability, worked by hand for units that fail with chance 0.05: one 36 V battery .0500, three of 12 V in series
    /// .1426, two of 36 V in parallel both .0025 and any .0975, two strings of three both .0203; eight units at 0.02
    /// .1492.
    #[test]
    fn chances_are_as_worked() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(36.0));
        let told = |rig: &Rig, p: &Pack, rate| {
            let c = chances(p, rig, rate);
            (c.any, c.stranded)
        };
        let near = |(a, b): (f64, f64), (x, y): (f64, f64)| {
            assert!((a - x).abs() < 5e-5 && (b - y).abs() < 5e-5, "{a} {b}");
        };
        near(told(&rig, &pack(38.4, 1, 1), 0.05), (0.05, 0.05));
        near(told(&rig, &pack(12.8, 3, 1), 0.05), (0.1426, 0.1426));
        near(told(&rig, &pack(38.4, 1, 2), 0.05), (0.0975, 0.0025));
        near(told(&rig, &pack(12.8, 3, 2), 0.05), (0.2649, 0.0203));
        rig.motor.system_voltage = Volts::of(48.0);
        near(told(&rig, &pack(6.0, 8, 1), 0.02), (0.1492, 0.1492));
        rig.motor.system_voltage = Volts::of(36.0);
        // Three of 12 V limp home on two: stranded only when two of the three fail, 3 x .05² x .95 + .05³.
        rig.motor.also_accepts = vec![Volts::of(24.0)];
        near(told(&rig, &pack(12.8, 3, 1), 0.05), (0.1426, 0.00725));
        // From nothing to certain.
        near(told(&rig, &pack(12.8, 3, 2), 0.0), (0.0, 0.0));
        near(told(&rig, &pack(12.8, 3, 2), 1.0), (1.0, 1.0));
    }

    #[test]
    fn what_is_left_keeps_the_volts_or_goes_on_at_lower_ones_or_nothing_does() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(36.0));
        let left = |rig: &Rig, s, p| {
            one_fails(&pack(12.8, s, p), rig).map(|r| (r.pack().series, r.pack().parallel))
        };
        assert_eq!(left(&rig, 3, 2), Some((3, 1)));
        assert_eq!(left(&rig, 3, 1), None);
        assert_eq!(left(&rig, 1, 1), None);
        rig.motor.also_accepts = vec![Volts::of(24.0)];
        assert_eq!(left(&rig, 3, 1), Some((2, 1)));
        assert_eq!(left(&rig, 2, 1), None);
    }
}
