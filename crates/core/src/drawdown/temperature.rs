//! What cold does to a discharge, and how a battery cools through the day.

use crate::shelf::Chemistry;
use crate::units::{Celsius, Hours, Kilograms, convert};

/// Temperature at which labels are rated. [°C] Source: EN 50342-1 (25 °C); BCI rates at 80 °F.
pub const RATED: Celsius = Celsius::of(25.0);

/// Coldest and warmest surroundings that are taken. [°C]
pub const ALLOWED: std::ops::RangeInclusive<f64> = -40.0..=60.0;

/// Cell-size factor Kc of vented lead-acid by °F: the capacity is about 1/Kc of that at 77 °F.
/// Source: IEEE 485, temperature correction for vented cells of 1.215 specific gravity.
const KC: [(f64, f64); 18] = [
    (25.0, 1.52),
    (30.0, 1.43),
    (35.0, 1.35),
    (40.0, 1.30),
    (45.0, 1.25),
    (50.0, 1.19),
    (55.0, 1.15),
    (60.0, 1.11),
    (65.0, 1.08),
    (70.0, 1.04),
    (77.0, 1.00),
    (80.0, 0.98),
    (85.0, 0.96),
    (90.0, 0.94),
    (95.0, 0.93),
    (100.0, 0.91),
    (110.0, 0.88),
    (120.0, 0.86),
];

/// LFP capacity by °C as a share of that at 25 °C, with how unsure it is either way. The middle of
/// datasheets: 0 °C 80 to 95 %, -10 °C 65 to 85 %, -20 °C 50 to 70 %; heated packs excepted.
const LFP_COLD: [(f64, f64, f64); 4] =
    [(-20.0, 0.60, 0.10), (-10.0, 0.75, 0.10), (0.0, 0.875, 0.075), (25.0, 1.0, 0.0)];

/// Cell-size factor Kc at a temperature, straight between the table's rows, its end rows outside.
pub fn cell_size_factor(t: Celsius) -> f64 {
    along(&KC, convert::fahrenheit(t))
}

/// Share of the rated charge that can be drawn at a temperature. Warmth gives no bonus here.
pub fn reach(chemistry: Chemistry, t: Celsius) -> f64 {
    if chemistry.is_lead() {
        (1.0 / cell_size_factor(t)).min(1.0)
    } else {
        along(&LFP_COLD.map(|(t, share, _)| (t, share)), t.value())
    }
}

/// How far [`reach`] may be off, either way, as a share of the rated charge.
///
/// Lead: a tenth of what the cold takes away (IEEE 485 is for slow rates of one build; estimate).
pub fn reach_unsure(chemistry: Chemistry, t: Celsius) -> f64 {
    if chemistry.is_lead() {
        0.1 * (1.0 - reach(chemistry, t))
    } else {
        along(&LFP_COLD.map(|(t, _, off)| (t, off)), t.value())
    }
}

/// Factor on the ohmic resistance at a temperature.
///
/// Exponential through 1 at 25 °C: lead rises by half at 0 °C, lithium doubles. From memory.
pub fn resistance_factor(chemistry: Chemistry, t: Celsius) -> f64 {
    let at_freezing: f64 = if chemistry.is_lead() { 1.5 } else { 2.0 };
    at_freezing.powf((RATED.value() - t.value().clamp(-30.0, 50.0)) / RATED.value())
}

/// Temperature of a battery some time after it left a place at `start` for one at `ambient`. [°C]
///
/// Newton's law of cooling. The time constant grows with the cube root of the mass (heat goes with
/// volume, loss with surface): 3 h at 12 kg in a box. From memory.
pub fn after(start: Celsius, ambient: Celsius, mass: Option<Kilograms>, time: Hours) -> Celsius {
    let kilograms = mass.map_or(12.0, Kilograms::value).max(0.5);
    let constant = 3.0 * (kilograms / 12.0).cbrt();
    let left = (-time.value() / constant).exp();
    Celsius::of(ambient.value() + (start.value() - ambient.value()) * left)
}

/// Why a battery must not be discharged at this temperature, if so.
///
/// Lead -30 to 50 °C, lithium -20 to 60 °C: makers' windows.
pub fn too_extreme(chemistry: Chemistry, t: Celsius) -> bool {
    let window = if chemistry.is_lead() { -30.0..=50.0 } else { -20.0..=60.0 };
    !window.contains(&t.value())
}

/// Whether charging is locked out: lithium iron phosphate below 0 °C (32 °F) plates lithium and is
/// ruined. Lead may be charged from -20 to 50 °C.
pub fn charging_locked(chemistry: Chemistry, t: Celsius) -> bool {
    let window = if chemistry.is_lead() { -20.0..=50.0 } else { 0.0..=45.0 };
    !window.contains(&t.value())
}

/// Capacity that would have been measured at 25 °C, from one measured at `t`: `C_T/(1+λ(T-25))`.
///
/// `λ` 0.006 per °C for rates of three hours and slower, 0.01 for the one-hour rate. Source:
/// IEC 60896.
pub fn to_25(capacity: f64, t: Celsius, lambda: f64) -> f64 {
    capacity / (1.0 + lambda * (t.value() - 25.0))
}

fn along(table: &[(f64, f64)], x: f64) -> f64 {
    let last = table.len() - 1;
    if x <= table[0].0 {
        return table[0].1;
    }
    for pair in table.windows(2) {
        if x <= pair[1].0 {
            let share = (x - pair[0].0) / (pair[1].0 - pair[0].0);
            return pair[0].1 + (pair[1].1 - pair[0].1) * share;
        }
    }
    table[last].1
}

#[cfg(test)]
mod tests {
    use super::*;

    fn f(degrees: f64) -> Celsius {
        convert::from_fahrenheit(degrees)
    }

    /// IEEE 485's table, its interpolation at 32 °F (1.398, 71.5 %) and at 50 °F (84.0 %), and the
    /// cross-check with IEEE 450's time factor 0.873 at 15 °C through a Peukert exponent of 1.25.
    #[test]
    fn cold_lead_follows_the_published_factors() {
        assert!((cell_size_factor(f(32.0)) - 1.398).abs() < 1e-9);
        assert!((reach(Chemistry::Flooded, f(32.0)) - 0.715).abs() < 5e-4);
        assert!((reach(Chemistry::Agm, f(50.0)) - 0.840).abs() < 5e-4);
        assert!((cell_size_factor(Celsius::of(15.0)).powf(-1.25) - 0.873).abs() < 0.005);
        assert!(reach(Chemistry::Flooded, f(100.0)) <= 1.0);
    }

    /// IEC 60896's linear correction, worked: 150 Ah at 15 °C is 159.6 Ah at 25 °C; at 0 °C a slow
    /// discharge gives 85 %, a fast one 75 %.
    #[test]
    fn a_cold_test_is_corrected_to_25_degrees() {
        assert!((to_25(150.0, Celsius::of(15.0), 0.006) - 159.6).abs() < 0.05);
        assert!((1.0 / to_25(1.0, Celsius::of(0.0), 0.006) - 0.85).abs() < 1e-9);
        assert!((1.0 / to_25(1.0, Celsius::of(0.0), 0.01) - 0.75).abs() < 1e-9);
    }

    /// Datasheet ranges for LFP, and the windows that protect it.
    #[test]
    fn cold_lithium_gives_less_and_takes_no_charge_below_freezing() {
        for (t, low, high) in [(0.0, 0.80, 0.95), (-10.0, 0.65, 0.85), (-20.0, 0.50, 0.70)] {
            let share = reach(Chemistry::Lfp, Celsius::of(t));
            let off = reach_unsure(Chemistry::Lfp, Celsius::of(t));
            assert!(
                (share - off - low).abs() < 1e-9 && (share + off - high).abs() < 1e-9,
                "{t} °C"
            );
        }
        assert!(charging_locked(Chemistry::Lfp, Celsius::of(-0.1)));
        assert!(!charging_locked(Chemistry::Lfp, Celsius::of(0.0)));
        assert!(!charging_locked(Chemistry::Agm, Celsius::of(-5.0)));
        assert!(too_extreme(Chemistry::Lfp, Celsius::of(-25.0)));
    }

    #[test]
    fn a_battery_from_indoors_cools_towards_the_lake_and_never_past_it() {
        let at = |h: f64| after(Celsius::of(20.0), Celsius::of(2.0), None, Hours::of(h)).value();
        assert!((at(0.0) - 20.0).abs() < 1e-9);
        assert!(at(1.0) > at(3.0) && at(3.0) > at(24.0) && at(24.0) >= 2.0);
        assert!((at(3.0) - (2.0 + 18.0 / std::f64::consts::E)).abs() < 1e-9, "one time constant");
    }
}
