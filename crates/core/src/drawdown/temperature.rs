//! What cold does to a discharge, and how a battery cools through the day.

use crate::numeric::along;
use crate::shelf::{Battery, Chemistry};
use crate::source::Origin;
use crate::units::{Celsius, Hours, Kilograms, convert};

/// Temperature at which labels are rated. [°C] Source: EN 50342-1 (25 °C); BCI rates at 80 °F.
pub const RATED: Celsius = Celsius::of(25.0);

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
    chemistry
        .facts()
        .resistance_at_freezing
        .powf((RATED.value() - t.value().clamp(-30.0, 50.0)) / RATED.value())
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

/// Temperatures between which something may be done, with who says so.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Window {
    /// Coldest. [°C]
    pub low: Celsius,
    /// Warmest. [°C]
    pub high: Celsius,
    /// The label, or what makers of the chemistry allow.
    pub origin: Origin,
}

impl Window {
    /// Whether it may be done at a temperature.
    pub fn allows(&self, t: Celsius) -> bool {
        (self.low..=self.high).contains(&t)
    }

    /// What the label tells, and for an end that it does not tell what makers of the chemistry allow. [°C]
    fn of(told: (Option<Celsius>, Option<Celsius>), usual: (f64, f64)) -> Self {
        let origin = if told == (None, None) { Origin::Typical } else { Origin::Label };
        let (low, high) = (Celsius::of(usual.0), Celsius::of(usual.1));
        Self { low: told.0.unwrap_or(low), high: told.1.unwrap_or(high), origin }
    }
}

/// Temperatures at which a battery may be discharged: its label's, or makers' of its chemistry.
pub fn discharge_window(battery: &Battery) -> Window {
    Window::of(battery.discharge_window(), battery.chemistry.facts().discharge_window)
}

/// Temperatures at which a battery may be charged. Lithium below freezing plates and is ruined, whatever the
/// label allows its heater: only a window that is narrower than the chemistry's is taken from it.
pub fn charge_window(battery: &Battery) -> Window {
    let (low, high) = battery.charge_window();
    let usual = battery.chemistry.facts().charge_window;
    let narrower = (low.filter(|t| t.value() > usual.0), high.filter(|t| t.value() < usual.1));
    Window::of(narrower, usual)
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
        let battery = |chemistry| {
            let rating = crate::shelf::Rating::reserve(100.0);
            Battery::new("b", chemistry, crate::units::Volts::of(12.0), rating)
        };
        let (mut lfp, agm) = (battery(Chemistry::Lfp), battery(Chemistry::Agm));
        let at = Celsius::of;
        assert!(!charge_window(&lfp).allows(at(-0.1)) && charge_window(&lfp).allows(at(0.0)));
        assert!(charge_window(&agm).allows(at(-5.0)));
        assert!(!discharge_window(&lfp).allows(at(-25.0)));
        assert_eq!(discharge_window(&lfp).origin, Origin::Typical);
        // A label's own window comes first; one that would charge it frozen does not.
        lfp.others.insert("discharge_low_c", (-10.0).into());
        (lfp.cold_cutoff, _) = (Some(at(-20.0)), lfp.others.insert("charge_high_c", 40.0.into()));
        let window = discharge_window(&lfp);
        assert!(!window.allows(at(-15.0)) && window.allows(at(60.0)));
        assert_eq!(window.origin, Origin::Label);
        let window = charge_window(&lfp);
        assert!(!window.allows(at(-1.0)) && !window.allows(at(42.0)) && window.allows(at(40.0)));
    }

    #[test]
    fn a_battery_from_indoors_cools_towards_the_lake_and_never_past_it() {
        let at = |h: f64| after(Celsius::of(20.0), Celsius::of(2.0), None, Hours::of(h)).value();
        assert!((at(0.0) - 20.0).abs() < 1e-9);
        assert!(at(1.0) > at(3.0) && at(3.0) > at(24.0) && at(24.0) >= 2.0);
        assert!((at(3.0) - (2.0 + 18.0 / std::f64::consts::E)).abs() < 1e-9, "one time constant");
    }
}
