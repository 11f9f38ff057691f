//! How a brushed motor follows the voltage: `V = ke n + R (I0 + g n²)`.

/// Ohmic share of a brushed motor's voltage at full load, `φ = I R / V`. Typical, from memory.
const MOTOR_PHI: f64 = 0.25;
/// Share of a motor's current that turns it without thrust. Typical, from memory.
const MOTOR_IDLE_SHARE: f64 = 0.045;

/// Current of a brushed motor that draws `amps` at `at_volts`, and how it grows with the voltage.
#[inline]
pub(crate) fn fading(amps: f64, volts: f64, at_volts: f64) -> (f64, f64) {
    let per_volt = 1.0 / at_volts;
    let (n, root) = brushed_speed(volts * per_volt);
    let thrust = (1.0 - MOTOR_IDLE_SHARE) * n;
    // dn/dv of the quadratic is one over its root.
    (amps * (MOTOR_IDLE_SHARE + thrust * n), amps * thrust * 2.0 * per_volt / root)
}

/// Current of a motor at a fixed setting as a share of that at its reference voltage.
///
/// `V = ke n + R (I0 + g n²)`: the back-EMF, and the drop of the idle and the thrust current. With
/// the voltage as a share `v` of the reference this is a quadratic in the speed; the current is
/// `i0 + (1-i0) n²`, and `dlnI/dlnV = 2/(1+φ)` at the reference.
#[inline]
pub(crate) fn brushed(v: f64) -> f64 {
    let (n, _) = brushed_speed(v);
    MOTOR_IDLE_SHARE + (1.0 - MOTOR_IDLE_SHARE) * n * n
}

/// Speed of the same motor as a share of that at its reference voltage, and the root of the quadratic;
/// thrust goes with the speed's square.
#[inline]
pub(crate) fn brushed_speed(v: f64) -> (f64, f64) {
    /// Back-EMF's share of the reference voltage, `1 - φ`.
    const LINEAR: f64 = 1.0 - MOTOR_PHI;
    /// Drop of the thrust current at full speed, `φ (1 - i0)`.
    const SQUARE: f64 = MOTOR_PHI * (1.0 - MOTOR_IDLE_SHARE);
    const PER_SQUARE: f64 = 0.5 / SQUARE;
    let beyond_idle = (v - MOTOR_PHI * MOTOR_IDLE_SHARE).max(0.0);
    let root = (LINEAR * LINEAR + 4.0 * SQUARE * beyond_idle).sqrt();
    ((root - LINEAR) * PER_SQUARE, root)
}
