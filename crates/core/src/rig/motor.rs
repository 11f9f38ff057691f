//! The motor as its owner knows it: volts, highest amps, and amps by setting.

use crate::units::{Amps, Volts};

/// A motor, or the pair of motors that share one bank.
#[derive(Debug, Clone, PartialEq)]
pub struct Motor {
    /// Its name.
    pub name: String,
    /// Nominal voltage of the system. [V]
    pub system_voltage: Volts,
    /// Highest current it draws. [A]
    pub max_current: Option<Amps>,
    /// Known points of its draw curve, by rising setting.
    pub settings: Vec<SettingPoint>,
}

/// One point of the draw curve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SettingPoint {
    /// Control setting, 0 to 10.
    pub setting: f64,
    /// Current drawn there at nominal voltage. [A]
    pub current: Amps,
}

impl Motor {
    /// Current at a control setting, at nominal voltage. [A]
    ///
    /// Monotone cubic interpolation (Fritsch and Carlson, SIAM J. Numer. Anal. 17 (1980) 238)
    /// through the known points and zero; beyond the last point its current. Without points the
    /// typical curve to `max_current`; without either, `None`.
    pub fn current_at(&self, setting: f64) -> Option<Amps> {
        if setting <= 0.0 {
            return Some(Amps::ZERO);
        }
        if self.settings.is_empty() {
            return self.max_current.map(|max| typical_current(setting, max));
        }
        let mut points = vec![(0.0, 0.0)];
        points.extend(self.settings.iter().map(|p| (p.setting, p.current.value())));
        Some(Amps::of(monotone_cubic(&points, setting)))
    }
}

/// The typical draw curve, `I = I1 + (Imax - I1) (s/10)^2.2` with `I1` = 1 A. [A]
///
/// Common practice, no source: setting 1 draws 0.5 to 1.5 A, and draw rises far faster than speed.
pub fn typical_current(setting: f64, max: Amps) -> Amps {
    let least = Amps::of(1.0).min(max);
    least + (max - least) * (setting / 10.0).clamp(0.0, 1.0).powf(2.2)
}

/// PCHIP through points of rising x; constant outside them.
fn monotone_cubic(points: &[(f64, f64)], x: f64) -> f64 {
    let last = points.len() - 1;
    if x <= points[0].0 {
        return points[0].1;
    }
    if x >= points[last].0 {
        return points[last].1;
    }
    let secant = |i: usize| (points[i + 1].1 - points[i].1) / (points[i + 1].0 - points[i].0);
    // The harmonic mean of the neighbouring secants keeps the curve from overshooting.
    let slope = |i: usize| {
        if i == 0 {
            return secant(0);
        }
        if i == last {
            return secant(last - 1);
        }
        let (before, after) = (secant(i - 1), secant(i));
        if before * after <= 0.0 { 0.0 } else { 2.0 * before * after / (before + after) }
    };
    let i = points.iter().rposition(|p| p.0 <= x).unwrap_or(0).min(last - 1);
    let width = points[i + 1].0 - points[i].0;
    let t = (x - points[i].0) / width;
    let (t2, t3) = (t * t, t * t * t);
    points[i].1 * (2.0 * t3 - 3.0 * t2 + 1.0)
        + width * slope(i) * (t3 - 2.0 * t2 + t)
        + points[i + 1].1 * (3.0 * t2 - 2.0 * t3)
        + width * slope(i + 1) * (t3 - t2)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// One 12 V kayak-size motor, measured: common practice, no source.
    #[test]
    fn a_measured_draw_curve_is_met_at_its_points_and_rises_between() {
        let motor = Motor {
            name: "12 V".into(),
            system_voltage: Volts::of(12.0),
            max_current: None,
            settings: [(1.0, 1.0), (3.0, 3.0), (7.5, 20.0), (10.0, 35.0)]
                .map(|(setting, amps)| SettingPoint { setting, current: Amps::of(amps) })
                .to_vec(),
        };
        let at = |s: f64| motor.current_at(s).expect("has points").value();
        for (setting, amps) in [(0.0, 0.0), (1.0, 1.0), (3.0, 3.0), (7.5, 20.0), (10.0, 35.0)] {
            assert!((at(setting) - amps).abs() < 1e-12, "setting {setting}: {}", at(setting));
        }
        let mut before = 0.0;
        for tenth in 1..=100 {
            let now = at(f64::from(tenth) / 10.0);
            assert!(now >= before, "the curve falls at {tenth} tenths");
            before = now;
        }
    }
}
