//! What cold does to a discharge, and how a battery cools through the day.

use super::law::Cold;
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

/// How unsure lead's capacity in the cold is either way, as a share of the charge: half of what deep-cycle practice
/// gives at 0 °C (70 to 85 %) and at -18 °C (45 to 60 %), common practice, no source.
const LEAD_UNSURE: [(f64, f64); 3] = [(-18.0, 0.075), (0.0, 0.075), (25.0, 0.0)];
/// How unsure lithium's is, as a factor on what is locked (1 and 1.05 either way), and on how much it is slowed. With two points
/// of its size it holds 54 of 64 steady runs of seven cells in the cold.
const LITHIUM_UNSURE: (f64, f64) = (1.05, 3.5);
/// No battery gives less than this of its charge within [`ASKED`]. Estimate.
const LEAST_REACH: f64 = 0.02;

/// Coldest and warmest that the formulas are asked for; beyond, these. [°C] Estimate.
const ASKED: (f64, f64) = (-45.0, 50.0);

/// Cell-size factor Kc at a temperature, straight between the table's rows, its end rows outside.
pub fn cell_size_factor(t: Celsius) -> f64 {
    along(&KC, convert::fahrenheit(t))
}

/// What a temperature does to a battery of this chemistry. Warmth gives no bonus.
///
/// With `d` the degrees under 25 °C over 25, a share `λ d^p` of the charge stays out of reach of any current
/// ([`ColdLaw`](crate::chemistry::ColdLaw)).
///
/// Lead: `0.138 d^1.66`. Hard rates lose more of theirs by it, as they do in the tables. Fitted to IEC 60896's linear correction
/// at 0 °C (0.6 % a degree at slow rates, 1 % at the one-hour rate) and to deep-cycle practice at -18 °C (45 to 60 %, no source).
/// The resistance rises besides, but it is the volts that show it: the moment lead is empty does not hang on it, so that the cold
/// is counted once.
///
/// Lithium: besides what is locked, the cold slows it, `g = 0.03 (2^((25 - T)/10) - 1)`, chosen on three simulated cells; nickel
/// is locked by what a measured NCA cell keeps back, LFP by the middle of datasheets. The resistance doubles at 0 °C (lead's rises
/// by half), from memory, and falls by less when it is warm: measured and simulated.
pub fn cold(chemistry: Chemistry, t: Celsius) -> Cold {
    cold_on(chemistry, t, 0.0)
}

/// The same with what is not known of it on one side, -1 (it keeps back more) to 1.
fn cold_on(chemistry: Chemistry, at: Celsius, side: f64) -> Cold {
    let t = at.value().clamp(ASKED.0, ASKED.1);
    let facts = chemistry.facts();
    let under = (RATED.value() - t) / RATED.value();
    let follows = if under < 0.0 { facts.resistance_warm * under } else { under };
    let resistance = facts.resistance_at_freezing.powf(follows);
    let d = under.max(0.0);
    let (most, power) = facts.cold.locked;
    let locked = most * d.powf(power);
    let (reach, slows) = if chemistry.is_lead() {
        let off = if d > 0.0 { along(&LEAD_UNSURE, t) * side } else { 0.0 };
        (1.0 - locked + off, 0.0)
    } else {
        let slows = facts.cold.slows * (2.0_f64.powf(d * RATED.value() / 10.0) - 1.0);
        (1.0 - locked * (1.0 - LITHIUM_UNSURE.0 * side), slows * LITHIUM_UNSURE.1.powf(-side))
    };
    // No battery gives more in the cold than warm, and none gives nothing.
    Cold { chemistry, at, reach: reach.clamp(LEAST_REACH, 1.0), slows, resistance, side }
}

impl Cold {
    /// The same with what is not known of it on one side, -1 (it keeps back more) to 1.
    pub(crate) fn leaning(self, side: f64) -> Self {
        if self.is_none() { self } else { cold_on(self.chemistry, self.at, side) }
    }

    /// The same so many degrees warmer.
    pub(super) fn warmed(self, by: f64) -> Self {
        cold_on(self.chemistry, Celsius::of(self.at.value() + by), self.side)
    }
}

/// Charge share of lead-acid and where its acid freezes. [°C]
///
/// By the acid's specific gravity: 1.120 flat, 1.155, 1.190, 1.225, 1.265 full (BCI), and freezing points of tables of
/// the BCI's kind, from memory, 3 °C either way.
const FREEZES: [(f64, f64); 5] =
    [(0.0, -7.0), (0.25, -16.0), (0.50, -24.0), (0.75, -37.0), (1.0, -57.0)];

/// Temperature at which the acid of a lead-acid battery freezes, by its charge share. [°C]
pub fn freezes_at(charge: f64) -> Celsius {
    Celsius::of(along(&FREEZES, charge))
}

/// Temperature of a battery some time after it was at `start`, in air of `ambient`. [°C]
///
/// Newton's law of cooling. The time constant grows with the cube root of the mass (heat goes with
/// volume, loss with surface): 3 h at 12 kg in a box. From memory.
pub fn after(start: Celsius, ambient: Celsius, mass: Option<Kilograms>, time: Hours) -> Celsius {
    let left = (-time.value() / time_constant(mass)).exp();
    Celsius::of(ambient.value() + (start.value() - ambient.value()) * left)
}

/// Time constant of a battery's cooling. [h]
pub(super) fn time_constant(mass: Option<Kilograms>) -> f64 {
    3.0 * (mass.map_or(12.0, Kilograms::value).max(0.5) / 12.0).cbrt()
}

/// Time until a battery that was at `start` is at `mark`, which lies between that and the air of `ambient`: the inverse
/// of [`after`]. [h]
pub fn until(start: Celsius, ambient: Celsius, mass: Option<Kilograms>, mark: Celsius) -> Hours {
    let air = ambient.value();
    Hours::of(time_constant(mass) * ((start.value() - air) / (mark.value() - air)).ln())
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
#[allow(clippy::print_stdout)]
mod tests {
    use super::*;

    fn f(degrees: f64) -> Celsius {
        convert::from_fahrenheit(degrees)
    }

    /// Share of the 25 °C capacity that a unit gives at a temperature, from full, at the current that empties it in
    /// `hours` when warm.
    fn share(chemistry: Chemistry, degrees: f64, hours: f64) -> f64 {
        use crate::drawdown::law::{CellParameters, UnitLaw};
        let cells = if chemistry.is_lead() { 6 } else { 4 };
        let warm = UnitLaw::new(CellParameters::typical(chemistry), cells, 100.0);
        let (mut low, mut high) = (0.1, 1000.0);
        for _ in 0..60 {
            let mid = 0.5 * (low + high);
            if warm.runtime(mid) > hours { low = mid } else { high = mid }
        }
        let cold = warm.at_temperature(cold(chemistry, Celsius::of(degrees)));
        cold.runtime(low) / warm.runtime(low)
    }

    /// IEC 60896: capacity falls by 0.6 % a degree at slow rates, 1 % at the one-hour rate: at 0 °C 85 and 75 %, which
    /// the parameters were fitted to, as to -18 °C (45 to 60 %, deep-cycle practice, no source). Judged on: the same at
    /// 10 °C (91 and 85 %); IEEE 485's cell-size factors, made for rates of some hours and cautious, at 50 °F (84 %) and
    /// 32 °F (71.5 %), within a tenth at the three-hour rate.
    #[test]
    fn cold_lead_gives_what_the_standards_say() {
        for chemistry in [Chemistry::Flooded, Chemistry::Agm, Chemistry::Gel] {
            let at = |t, hours| share(chemistry, t, hours);
            for (t, hours, want, off) in [
                (0.0, 20.0, 0.85, 0.03),
                (0.0, 1.0, 0.75, 0.03),
                (10.0, 20.0, 0.91, 0.03),
                (10.0, 1.0, 0.85, 0.06),
                (10.0, 3.0, 0.84, 0.10),
                (0.0, 3.0, 0.715, 0.10),
                (-18.0, 20.0, 0.60, 0.04),
                (-18.0, 1.0, 0.45, 0.05),
            ] {
                let got = at(t, hours);
                println!("{} {t} °C over {hours} h: {got:.3}, told {want}", chemistry.name());
                assert!((got - want).abs() < off, "{chemistry:?} {t} °C, {hours} h: {got}");
            }
            // Colder is always less, also beyond every table.
            let falls: Vec<f64> =
                [25.0, 15.0, 5.0, -5.0, -15.0, -25.0, -35.0, -44.0].map(|t| at(t, 5.0)).into();
            assert!(falls.windows(2).all(|w| w[1] < w[0] - 0.02 && w[1] >= 0.0), "{falls:?}");
        }
        // IEEE 485's table, its interpolation at 32 °F, and the cross-check with IEEE 450's time factor.
        assert!((cell_size_factor(f(32.0)) - 1.398).abs() < 1e-9);
        assert!((cell_size_factor(Celsius::of(15.0)).powf(-1.25) - 0.873).abs() < 0.005);
    }

    /// Tables of the BCI's kind, from memory: flat near -7 °C, full near -57 °C, half near -24 °C.
    #[test]
    fn flat_lead_freezes_long_before_full() {
        for (charge, degrees) in [(0.0, -7.0), (0.5, -24.0), (1.0, -57.0)] {
            assert!((freezes_at(charge).value() - degrees).abs() < 0.1);
        }
    }

    /// Datasheet ranges for LFP, and the windows that protect it.
    #[test]
    fn cold_lithium_gives_less_and_takes_no_charge_below_freezing() {
        // At a fifth of its capacity an hour, where datasheets rate it, from memory.
        for (t, low, high) in [(0.0, 0.80, 0.95), (-10.0, 0.65, 0.85), (-20.0, 0.50, 0.75)] {
            let got = share(Chemistry::Lfp, t, 5.0);
            println!("LFP at {t} °C over 5 h: {got:.3}");
            assert!((low..=high).contains(&got), "{t} °C: {got}");
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
