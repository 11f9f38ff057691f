//! What the road asks of a cart.

use super::hull::{AIR, GRAVITY};
use crate::day::Surface;
use crate::rig::Craft;
use crate::units::{Kilograms, MetresPerSecond, Newtons, WattHours};

/// Battery to wheel: controller, motor, gears. Common practice, no source: 0.62 to 0.78.
pub const DRIVELINE: f64 = 0.70;
/// What turns with the wheels adds this to the mass that is sped up. Estimate, from memory.
pub(crate) const TURNING: f64 = 1.12;

/// Force at the wheels at a steady speed: rolling, grade and air. [N]
///
/// `F = m g (Crr cos θ + sin θ) + ½ ρ Cd A v|v|`; negative downhill, where a cart without
/// regeneration gets nothing back. `airspeed` is the speed through the air.
pub fn force(
    mass: Kilograms,
    rolling: f64,
    grade: f64,
    windage: f64,
    airspeed: MetresPerSecond,
) -> Newtons {
    let slope = grade.atan();
    let v = airspeed.value();
    let weight = mass.value() * GRAVITY;
    Newtons::of(weight * (rolling * slope.cos() + slope.sin()) + 0.5 * AIR * windage * v * v.abs())
}

/// Force of a cart on a surface. [N]
pub fn on(craft: &Craft, surface: Surface, grade: f64, airspeed: MetresPerSecond) -> Newtons {
    force(craft.mass().value, surface.rolling().0, grade, craft.windage().value, airspeed)
}

/// Share of a stop's energy that a regenerating controller brings back into the battery. Common practice,
/// no source: the driveline takes its part twice, and the last of the speed goes into the brakes.
pub const REGENERATED: f64 = 0.30;

/// Share of what a slope gives a cart that a regenerating controller brings into the battery. Common practice, no
/// source: the driveline and the windings take theirs.
pub const DOWNHILL: f64 = 0.50;

/// Energy from the battery to get going again after one stop: `½ m v²`, the turning parts and the
/// driveline; the brakes keep what was there, unless the controller brings a part of it back. [Wh]
pub fn per_stop(mass: Kilograms, speed: MetresPerSecond, regenerates: bool) -> WattHours {
    let v = speed.value();
    let kept = if regenerates { 1.0 - REGENERATED } else { 1.0 };
    WattHours::of(0.5 * mass.value() * TURNING * v * v / DRIVELINE / 3600.0 * kept)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::convert::{M_PER_MILE, MS_PER_KMH, MS_PER_MPH};

    /// Road-load arithmetic, 500 kg at 15 mph, Cd A 1.4 m², efficiency 0.75 (air of 1.2 kg/m³ in the
    /// source, 1.225 here): asphalt 66 Wh a mile at Crr 0.015 and 81 at 0.02, gravel 110, turf 169,
    /// 5 % grade 212; 10 % at 10 mph 344.
    #[test]
    fn watt_hours_a_mile_are_as_worked() {
        for (rolling, grade, mph, wh) in [
            (0.015, 0.0, 15.0, 66.0),
            (0.02, 0.0, 15.0, 81.0),
            (0.03, 0.0, 15.0, 110.0),
            (0.05, 0.0, 15.0, 169.0),
            (0.015, 0.05, 15.0, 212.0),
            (0.015, 0.10, 10.0, 344.0),
        ] {
            let v = MetresPerSecond::of(mph * MS_PER_MPH);
            let f = force(Kilograms::of(500.0), rolling, grade, 1.4, v).value();
            let got = f * M_PER_MILE / 3600.0 / 0.75;
            assert!((got / wh - 1.0).abs() < 0.015, "Crr {rolling}, grade {grade}: {got} Wh");
        }
        // Climbing 30 m with 500 kg is 40.9 Wh of height.
        let climb = Kilograms::of(500.0).value() * GRAVITY * 30.0 / 3600.0;
        assert!((climb - 40.9).abs() < 0.1);
    }

    /// Common practice, no source: a stop from 20 km/h with 450 kg takes about 3.1 Wh, asphalt 35 Wh a
    /// kilometre (26 to 57), +3 % grade 88, grass 114.
    #[test]
    fn a_cart_takes_about_what_carts_take() {
        let v = MetresPerSecond::of(20.0 * MS_PER_KMH);
        assert!((per_stop(Kilograms::of(450.0), v, false).value() - 3.1).abs() < 0.1);
        assert!((per_stop(Kilograms::of(450.0), v, true).value() - 2.2).abs() < 0.1);
        for (rolling, grade, low, high) in
            [(0.015, 0.0, 26.0, 57.0), (0.015, 0.03, 80.0, 96.0), (0.06, 0.0, 64.0, 211.0)]
        {
            let f = force(Kilograms::of(450.0), rolling, grade, 1.2, v).value();
            let wh = f * 1000.0 / 3600.0 / DRIVELINE;
            assert!((low..=high).contains(&wh), "{wh} Wh a km");
        }
        assert!(force(Kilograms::of(450.0), 0.015, -0.1, 1.2, v).value() < 0.0);
    }
}
