//! The motor as its owner knows it: volts, highest amps, and amps by setting.

use super::brushed::brushed;
use super::dial::Dial;
use super::lesson::Lesson;
use crate::source::Origin;
use crate::units::{Amps, Newtons, Volts, Watts};

/// Electrical power for static thrust, `P = k T^1.5`, of a trolling motor. [W/N^1.5]
/// From memory: 0.16 to 0.23 at the bollard.
pub const BOLLARD: f64 = 0.19;

/// A motor, or some alike that share one bank. Figures are for one of them.
#[derive(Debug, Clone, PartialEq)]
pub struct Motor {
    /// Its name.
    pub name: String,
    /// Nominal voltage of the system. [V]
    pub system_voltage: Volts,
    /// Highest current it draws. [A]
    pub max_current: Option<Amps>,
    /// Nobody has told that current: it is what is usual for such a craft.
    pub max_is_typical: bool,
    /// Other nominal voltages it can be wired for. [V]
    pub also_accepts: Vec<Volts>,
    /// Highest static thrust, from the label. [N]
    pub thrust: Option<Newtons>,
    /// Brushless: 20 to 30 % less draw for the same push at part load is claimed, none independent.
    pub brushless: bool,
    /// Whether its controller gives energy back when it brakes.
    pub regenerates: bool,
    /// What stands on its dial.
    pub dial: Dial,
    /// How many of them run together.
    pub count: u32,
    /// Known points of its draw curve, by rising setting.
    pub settings: Vec<SettingPoint>,
    /// Whether the points were measured, not taken from the maker.
    pub settings_measured: bool,
    /// Voltage at which amps were read that were measured and do not say: the loaded voltage of the pack that is aboard;
    /// the nominal one when none is. [V]
    pub read_at: Option<Volts>,
    /// What its log taught of what it draws, taken over: at settings, and where amps or watts were typed.
    pub learned: Option<Lesson>,
}

/// One point of the draw curve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SettingPoint {
    /// Control setting, 0 to 10.
    pub setting: f64,
    /// Current drawn there. [A]
    pub current: Amps,
    /// Voltage at which it was read; see [`Motor::reads_at`] when not told. [V]
    pub at: Option<Volts>,
}

impl Motor {
    /// A motor of which only the voltage is known.
    pub fn of(system_voltage: Volts) -> Self {
        Self {
            name: "Motor".to_owned(),
            system_voltage,
            max_current: None,
            max_is_typical: false,
            also_accepts: Vec::new(),
            thrust: None,
            brushless: false,
            regenerates: false,
            dial: Dial::Tenths,
            count: 1,
            settings: Vec::new(),
            settings_measured: false,
            read_at: None,
            learned: None,
        }
    }

    /// Voltage at which its draw curve is meant: where measured amps were read, else the nominal one. [V]
    pub fn reads_at(&self) -> Volts {
        match self.read_at {
            Some(volts) if self.settings_measured => volts,
            _ => self.system_voltage,
        }
    }

    /// Known points of its draw curve, (setting, amps of one motor at [`Self::reads_at`]), by rising setting: those read
    /// at another voltage are carried over by the motor's own law. A point at setting 0 says nothing of how it pushes.
    fn points(&self) -> Vec<(f64, f64)> {
        let at = self.reads_at();
        let carried = |p: &SettingPoint| {
            let read = p.at.unwrap_or(at);
            p.current.value() * brushed(at / read)
        };
        let pushing = self.settings.iter().filter(|p| p.setting > 0.0);
        let mut points: Vec<(f64, f64)> = pushing.map(|p| (p.setting, carried(p))).collect();
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        points.dedup_by(|later, kept| later.0 <= kept.0);
        points
    }

    /// What was read off a meter at a setting: amps of all of them, and the volts at which they were read; `None` where nobody measured
    /// there. [A], [V]
    pub fn read_at_setting(&self, setting: f64) -> Option<(Amps, Volts)> {
        let setting = self.nearest_setting(setting);
        let here = |p: &&SettingPoint| (p.setting - setting).abs() < 1e-9;
        let point = self.settings.iter().find(here).filter(|_| self.settings_measured)?;
        Some((point.current * f64::from(self.count), point.at.unwrap_or(self.reads_at())))
    }

    /// Highest current of one by its label, or by what the label's thrust takes. [A]
    fn labelled(&self) -> Option<f64> {
        let by_thrust = || {
            let power = Watts::of(BOLLARD * self.thrust?.value().powf(1.5));
            Some(power / self.system_voltage)
        };
        self.max_current.or_else(by_thrust).map(Amps::value)
    }

    /// Highest current of all of them together: that of the point at setting 10 where there is one, else the label's or
    /// what its thrust takes, but no less than any point; more where a log taught that it draws more. Nobody lays thinner cables
    /// because a log taught that it draws less. [A]
    pub fn full_current(&self) -> Option<Amps> {
        let full = self.told_full().map(|amps| amps * self.draws().max(1.0))?;
        Some(self.stated_most().map_or(full, |most| full.min(most)))
    }

    /// The most that all of them draw together at any voltage: as it was stated, or read above that; `None` where nobody stated it.
    /// Controllers limit their current; what a brushed motor without one would take at higher volts is not believed against a stated maximum. [A]
    pub fn stated_most(&self) -> Option<Amps> {
        let stated = self.max_current.filter(|_| !self.max_is_typical)?;
        let most = self.settings.iter().map(|p| p.current).fold(stated, Amps::max);
        Some(most * f64::from(self.count))
    }

    /// The same without what a log taught.
    fn told_full(&self) -> Option<Amps> {
        let points = self.points();
        let top = points.last().filter(|p| p.0 >= 10.0).map(|p| p.1);
        let highest = points.iter().map(|p| p.1).reduce(f64::max);
        let one = top.or_else(|| {
            let told = self.labelled()?;
            Some(highest.map_or(told, |h| h.max(told)))
        });
        one.map(|amps| Amps::of(amps * f64::from(self.count)))
    }

    /// Who vouches for the highest current: only a figure of the motor itself is laid cables for without a question.
    pub fn full_origin(&self) -> Origin {
        let top = self.points().last().is_some_and(|p| p.0 >= 10.0);
        match (top, self.max_current.is_some() && !self.max_is_typical) {
            (true, _) => self.draw_origin(),
            (false, true) => Origin::Label,
            (false, false) => Origin::Typical,
        }
    }

    /// Whether the current at a setting can be told.
    pub fn draw_is_known(&self) -> bool {
        self.full_current().is_some() || !self.settings.is_empty()
    }

    /// What it draws over its curve and over what was typed: 1 where no log has taught otherwise.
    pub fn draws(&self) -> f64 {
        self.learned.map_or(1.0, |l| l.times)
    }

    /// Who vouches for the draw curve.
    pub fn draw_origin(&self) -> Origin {
        match (self.settings.len(), self.settings_measured || self.learned.is_some()) {
            (_, true) if self.learned.is_some() => Origin::Measured,
            (0, _) => Origin::Typical,
            (_, true) => Origin::Measured,
            (_, false) => Origin::Label,
        }
    }

    /// Who vouches for the draw at a setting: one point says nothing for certain of another setting.
    pub fn origin_at(&self, setting: f64) -> Origin {
        let setting = self.nearest_setting(setting);
        let is_told = self.settings.iter().any(|p| (p.setting - setting).abs() < 1e-9);
        let is_top = setting >= 10.0 && self.settings.is_empty();
        match self.learned {
            Some(_) => Origin::Measured,
            None if is_top => self.full_origin(),
            None if is_told || self.settings.len() > 1 => self.draw_origin(),
            None => Origin::Typical,
        }
    }

    /// Speeds ahead of a stepped switch; `None` where it is stepless.
    pub fn steps(&self) -> Option<u32> {
        self.dial.steps()
    }

    /// The setting that a stepped switch really has nearest to one asked for, 0 to 10.
    pub fn nearest_setting(&self, setting: f64) -> f64 {
        match self.steps() {
            Some(steps) if setting > 0.0 => {
                let steps = f64::from(steps.max(1));
                (setting / 10.0 * steps).round().clamp(1.0, steps) / steps * 10.0
            }
            _ => setting,
        }
    }

    /// What is left of its power at a setting when the volts are others than its amps are read at: of a brushed one. [1]
    pub fn fades_to(&self, volts: Volts) -> f64 {
        let share = volts / self.reads_at();
        brushed(share) * share
    }

    /// Current of all of them at a control setting, at [`Self::reads_at`], times what a log taught. [A]
    ///
    /// Monotone cubic interpolation (Fritsch and Carlson, SIAM J. Numer. Anal. 17 (1980) 238) through zero, the known
    /// points and, at setting 10, the highest current. One point alone bends the typical curve through itself. Without
    /// points the typical curve to the highest current; without that, `None`.
    pub fn current_at(&self, setting: f64) -> Option<Amps> {
        let count = f64::from(self.count);
        let setting = self.nearest_setting(setting);
        if setting <= 0.0 {
            return Some(Amps::ZERO);
        }
        let full = self.told_full().map(|amps| amps.value() / count);
        let points = self.points();
        let one = match points.as_slice() {
            [] => typical_current(setting, Amps::of(full?)),
            [one] => bent(*one, setting, full),
            points => {
                let mut all = vec![(0.0, 0.0)];
                all.extend(points);
                all.extend(
                    full.filter(|_| points[points.len() - 1].0 < 10.0).map(|amps| (10.0, amps)),
                );
                Amps::of(crate::numeric::monotone_cubic(&all, setting))
            }
        };
        let all = one * count * self.draws();
        Some(self.stated_most().map_or(all, |most| all.min(most)))
    }
}

/// The typical curve bent through one known point, (setting, amps): another power where the top is known, another
/// height where it is not. Never more than the top.
fn bent((setting_known, known): (f64, f64), setting: f64, full: Option<f64>) -> Amps {
    let at = setting_known / 10.0;
    let share = (setting / 10.0).clamp(0.0, 1.0);
    match full {
        Some(max) if at < 1.0 && known < max => {
            let least = 1.0_f64.min(max).min(known * at);
            let power = ((known - least) / (max - least)).max(1e-6).ln() / at.max(1e-3).ln();
            // Whatever the curve does between, what was read is met where it was read.
            Amps::of(least + (max - least) * share.powf(power))
        }
        _ => {
            let amps = known * (share / at.max(1e-3)).powf(TYPICAL_POWER);
            Amps::of(full.map_or(amps, |max| amps.min(max)))
        }
    }
}

/// How draw rises with the setting, typically. Common practice, no source.
const TYPICAL_POWER: f64 = 2.2;

/// The typical draw curve, `I = I1 + (Imax - I1) (s/10)^2.2` with `I1` = 1 A. [A]
///
/// Common practice, no source: setting 1 draws 0.5 to 1.5 A, and draw rises far faster than speed.
pub fn typical_current(setting: f64, max: Amps) -> Amps {
    let least = Amps::of(1.0).min(max);
    least + (max - least) * (setting / 10.0).clamp(0.0, 1.0).powf(TYPICAL_POWER)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// One 12 V kayak-size motor, measured: common practice, no source.
    #[test]
    fn a_measured_draw_curve_is_met_at_its_points_and_rises_between() {
        let mut motor = Motor::of(Volts::of(12.0));
        let point = |(setting, amps)| SettingPoint { setting, current: Amps::of(amps), at: None };
        motor.settings = [(1.0, 1.0), (3.0, 3.0), (7.5, 20.0), (10.0, 35.0)].map(point).to_vec();
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

    #[test]
    fn one_known_point_bends_the_typical_curve_and_two_motors_draw_twice_as_much() {
        let mut motor = Motor::of(Volts::of(12.0));
        motor.max_current = Some(Amps::of(50.0));
        let typical = motor.current_at(5.0).expect("a maximum is known").value();
        motor.settings = vec![SettingPoint { setting: 5.0, current: Amps::of(18.0), at: None }];
        let at = |m: &Motor, s: f64| m.current_at(s).expect("known").value();
        assert!(typical < 13.0 && (at(&motor, 5.0) - 18.0).abs() < 0.1);
        assert!((at(&motor, 10.0) - 50.0).abs() < 1e-9 && at(&motor, 2.0) < 18.0);
        motor.count = 2;
        assert!((at(&motor, 10.0) - 100.0).abs() < 1e-9);
        motor.max_current = None;
        motor.count = 1;
        assert!((at(&motor, 10.0) - 18.0 * 2.0_f64.powf(TYPICAL_POWER)).abs() < 1e-9);
    }

    #[test]
    fn a_stepped_switch_gives_its_nearest_step() {
        let mut motor = Motor::of(Volts::of(12.0));
        motor.max_current = Some(Amps::of(40.0));
        motor.dial = Dial::steps_of(5);
        for (asked, has) in [(0.0, 0.0), (0.4, 2.0), (3.2, 4.0), (5.0, 6.0), (9.9, 10.0)] {
            assert!((motor.nearest_setting(asked) - has).abs() < 1e-9, "{asked}");
            assert_eq!(motor.current_at(asked), motor.current_at(has));
        }
        motor.dial = Dial::Tenths;
        assert!((motor.nearest_setting(3.2) - 3.2).abs() < 1e-9);
    }

    /// Common practice, no source: 55 lbf at 12 V takes about 50 A, 600 W.
    #[test]
    fn a_motor_known_by_its_thrust_draws_about_what_such_motors_do() {
        let mut motor = Motor::of(Volts::of(12.0));
        motor.thrust = Some(Newtons::of(55.0 * crate::units::convert::N_PER_LBF));
        let amps = motor.full_current().expect("by thrust").value();
        assert!((45.0..70.0).contains(&amps), "{amps}");
    }
}
