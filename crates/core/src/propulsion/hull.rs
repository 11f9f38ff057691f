//! What the water and the wind ask of a boat.

use crate::rig::{Craft, CraftKind};
use crate::units::{Metres, MetresPerSecond, Newtons, Watts};

/// Standard gravity. [m/s²] Exact: NIST SP 811 B.8.
pub const GRAVITY: f64 = 9.806_65;
/// Density of fresh water. [kg/m³] Within 0.3 % from 0 to 25 °C; sea water is 2.5 % denser.
pub const WATER: f64 = 1000.0;
/// Density of air at 15 °C. [kg/m³] International Standard Atmosphere, sea level.
pub const AIR: f64 = 1.225;
/// Disc of a one-kilowatt trolling motor's propeller, 0.25 m across. [m²]
const DISC: f64 = 0.049_087;

/// Drag coefficient of a hull at its usual load, `R = kh v² [1 + (v/vh)^6]`. [N s²/m²]
/// From memory, 40 % either way; one measured speed replaces it.
pub const fn drag_coefficient(kind: CraftKind) -> f64 {
    match kind {
        CraftKind::Kayak => 8.0,
        CraftKind::Canoe => 9.0,
        CraftKind::RowingSkiff => 25.0,
        CraftKind::JonBoat => 45.0,
        CraftKind::Sailboat => 55.0,
        CraftKind::Bass => 85.0,
        CraftKind::Pontoon => 130.0,
        // Carts have no hull: the figure is not asked for.
        _ => 60.0,
    }
}

/// Hull speed of a waterline length: `v² = g L / 2π`, where the bow wave is as long as the boat. [m/s]
pub fn hull_speed(waterline: Metres) -> MetresPerSecond {
    MetresPerSecond::of((GRAVITY * waterline.value() / std::f64::consts::TAU).sqrt())
}

/// Waterline of a boat of some length over all: 0.92 of it. Common practice, no source. [m]
pub fn waterline(craft: &Craft) -> Metres {
    craft.length().value * 0.92
}

/// Drag of the hull at a speed through the water. [N]
///
/// Grows with the square of the speed, and steeply near the hull speed; scaled by the wetted surface,
/// as the two-thirds power of the displacement.
pub fn resistance(craft: &Craft, speed: MetresPerSecond) -> Newtons {
    let v = speed.value().max(0.0);
    let usual = craft.kind.usual();
    let usual = usual.empty_mass + crate::rig::PERSON + usual.gear;
    let load = (craft.mass().value / usual).powf(2.0 / 3.0);
    let steep = v / hull_speed(waterline(craft)).value();
    Newtons::of(drag_coefficient(craft.kind) * load * v * v * (1.0 + steep.powi(6)))
}

/// Force of wind on a drag area `Cd A`: `½ ρ Cd A W²`, with the sign of the wind. [N]
pub fn wind_force(windage: f64, wind: MetresPerSecond) -> Newtons {
    let w = wind.value();
    Newtons::of(0.5 * AIR * windage * w * w.abs())
}

/// What gusts add to the power for holding a place: the mean of W³ is `1 + 3 Iu²` times the cube of the
/// mean, with a turbulence intensity Iu of 0.25 over a lake (0.2 to 0.3, from memory).
pub const GUSTS: f64 = 1.0 + 3.0 * 0.25 * 0.25;

/// Ideal power for a thrust at a speed: momentum theory of an actuator disc (Rankine, Froude). [W]
///
/// `P = T (v/2 + √(v²/4 + T/(2 ρ A)))`; at rest `T = (2 ρ A P²)^(1/3)`. No propeller without a duct does
/// better.
pub fn ideal_power(thrust: Newtons, speed: MetresPerSecond, disc: f64) -> Watts {
    let (t, v) = (thrust.value().max(0.0), speed.value().max(0.0));
    Watts::of(t * (0.5 * v + (0.25 * v * v + t / (2.0 * WATER * disc)).sqrt()))
}

/// Electrical power for a thrust at a speed: the ideal over the efficiency that gives `0.19 W/N^1.5` at
/// the bollard for a one-kilowatt motor. The disc grows with the motor. [W]
pub fn electrical_power(thrust: Newtons, speed: MetresPerSecond, full: Watts) -> Watts {
    let disc = DISC * (full.value() / 1000.0).max(1.0).powf(2.0 / 3.0);
    let ideal_at_bollard = 1.0 / (2.0 * WATER * DISC).sqrt();
    ideal_power(thrust, speed, disc) * (crate::rig::BOLLARD / ideal_at_bollard)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::convert;

    /// Froude; deep-water waves: 14, 16 and 18 ft give 5.01, 5.36 and 5.69 kn.
    #[test]
    fn hull_speeds_are_as_published() {
        for (feet, knots) in [(14.0, 5.01), (16.0, 5.36), (18.0, 5.69)] {
            let speed = hull_speed(Metres::of(feet * convert::M_PER_FOOT));
            assert!((speed.value() / convert::MS_PER_KNOT - knots).abs() < 0.01, "{feet} ft");
        }
    }

    /// ITTC 1957 correlation line, `Cf = 0.075 / (log10 Re - 2)²`: 4.5 m at 1.5 m/s in fresh water at 15 °C
    /// (ν 1.139e-6) has Re 5.93e6 and Cf 0.003292; on 6.5 m² that is 24.1 N. A whole hull drags more.
    #[test]
    fn a_hull_drags_more_than_its_skin() {
        let reynolds: f64 = 4.5 * 1.5 / 1.139e-6;
        let friction = 0.075 / (reynolds.log10() - 2.0).powi(2);
        let skin = 0.5 * WATER * 1.5 * 1.5 * 6.5 * friction;
        assert!((skin - 24.1).abs() < 0.1, "{skin}");
        let skiff = Craft::of(CraftKind::VHull);
        assert!(resistance(&skiff, MetresPerSecond::of(1.5)).value() > skin);
    }

    /// Actuator disc: 0.25 m across and 500 W at the shaft give 290.6 N (65.3 lbf) in fresh water.
    #[test]
    fn no_thrust_is_above_the_ideal_disc() {
        let thrust = Newtons::of((2.0 * WATER * DISC * 500.0 * 500.0_f64).cbrt());
        assert!((thrust.value() - 290.6).abs() < 0.1);
        assert!((thrust.value() / convert::N_PER_LBF - 65.3).abs() < 0.05);
        assert!((ideal_power(thrust, MetresPerSecond::ZERO, DISC).value() - 500.0).abs() < 0.1);
        for newtons in [5.0, 50.0, 200.0, 500.0] {
            for v in [0.0, 1.0, 2.5] {
                let (t, v) = (Newtons::of(newtons), MetresPerSecond::of(v));
                let power = electrical_power(t, v, Watts::of(600.0));
                assert!(power > ideal_power(t, v, DISC) && power > t * v);
            }
        }
        // Half the thrust needs 35.4 % of the power at the bollard, a quarter 12.5 %: P ~ T^1.5.
        let at = |t: f64| {
            electrical_power(Newtons::of(t), MetresPerSecond::ZERO, Watts::of(600.0)).value()
        };
        assert!((at(100.0) / at(200.0) - 0.354).abs() < 1e-3);
        assert!((at(50.0) / at(200.0) - 0.125).abs() < 1e-3);
    }

    /// Affinity: well below hull speed drag goes with the square of the speed and towing power with its
    /// cube; near it both rise more steeply.
    #[test]
    fn drag_goes_with_the_square_of_the_speed_until_the_hull_speed() {
        let craft = Craft::of(CraftKind::Canoe);
        let drag = |v: f64| resistance(&craft, MetresPerSecond::of(v)).value();
        assert!((drag(0.8) / drag(0.4) - 4.0).abs() < 0.02, "{}", drag(0.8) / drag(0.4));
        let fast = hull_speed(waterline(&craft)).value();
        assert!(drag(fast) / drag(fast / 2.0) > 7.0);
    }

    /// Physics: 15 mph on 2 m² with Cd 0.8 at 1.225 kg/m³ is 44.1 N, 20 mph 78.3 N.
    #[test]
    fn wind_pushes_as_worked() {
        for (mph, newtons) in [(15.0, 44.1), (20.0, 78.3)] {
            let force = wind_force(1.6, MetresPerSecond::of(mph * convert::MS_PER_MPH));
            assert!((force.value() - newtons).abs() < 0.1, "{mph} mph: {force}");
        }
    }
}
