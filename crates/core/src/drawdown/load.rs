//! What the motor and the devices ask of the pack, as a current that follows the voltage.

use crate::rig::brushed::{brushed, fading};
use crate::units::{Amps, Ohms, Volts, Watts};

/// Efficiency of the converter that feeds 12 V devices from a higher bus. Common practice, no source.
pub const CONVERTER_EFFICIENCY: f64 = 0.88;

/// Newton steps for what flows through a cable: it drops a few percent, and each step doubles the digits.
const CABLE_CORRECTIONS: usize = 4;

/// A demand on the pack during one stretch. The current is a function of the pack's voltage.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Demand {
    /// A current that does not care about the voltage. [A]
    steady: f64,
    /// Power drawn whatever the voltage, by devices behind a converter. [W]
    power: f64,
    motor: MotorPart,
    /// The motor draws no more than this at any voltage; infinite where nobody stated it. [A]
    most: f64,
    /// Between pack and motor, both ways. [Ω]
    cable: f64,
    /// What charges at the same time: a current, and a power whatever the voltage. [A], [W]
    fed: (f64, f64),
    /// How far the motor's part may be off, either way, as a share.
    unsure: f64,
}

/// How the motor follows the voltage.
#[derive(Debug, Clone, Copy, PartialEq)]
enum MotorPart {
    /// Off, or already in `steady`.
    None,
    /// At a fixed setting: fades as the voltage falls.
    Setting { amps: f64, at_volts: f64 },
    /// Holding a speed or a place: power stays until the full setting cannot give more.
    Hold { watts: f64, full_amps: f64, at_volts: f64 },
}

impl Demand {
    /// Nothing drawn.
    pub const OFF: Self = Self {
        steady: 0.0,
        power: 0.0,
        motor: MotorPart::None,
        most: f64::INFINITY,
        cable: 0.0,
        fed: (0.0, 0.0),
        unsure: 0.1,
    };

    /// A steady current.
    pub const fn current(amps: Amps) -> Self {
        Self { steady: amps.value(), ..Self::OFF }
    }

    /// A steady power, however high the current must go.
    pub const fn power(watts: Watts) -> Self {
        Self { power: watts.value(), ..Self::OFF }
    }

    /// A motor at a fixed setting that draws `amps` at `at`.
    pub const fn setting(amps: Amps, at: Volts) -> Self {
        Self { motor: MotorPart::Setting { amps: amps.value(), at_volts: at.value() }, ..Self::OFF }
    }

    /// A motor that is turned up as the voltage falls, so that its power stays, until it is at its
    /// full setting, which draws `full` at `at`; from there it fades.
    pub const fn hold(watts: Watts, full: Amps, at: Volts) -> Self {
        Self {
            motor: MotorPart::Hold {
                watts: watts.value(),
                full_amps: full.value(),
                at_volts: at.value(),
            },
            ..Self::OFF
        }
    }

    /// The same with a motor that draws no more than was stated of it, at any voltage.
    pub fn capped(self, most: Option<Amps>) -> Self {
        Self { most: most.map_or(f64::INFINITY, Amps::value), ..self }
    }

    /// The same with devices of `power` beside the motor, behind a converter of the given efficiency.
    pub fn with_devices(self, power: Watts, efficiency: f64) -> Self {
        Self { power: self.power + power.value() / efficiency, ..self }
    }

    /// The same with something that charges at the same time: a current, and a power whatever the voltage.
    pub const fn fed(self, amps: Amps, power: Watts) -> Self {
        Self { fed: (amps.value(), power.value()), ..self }
    }

    /// The same with the motor behind a cable, which takes `I R` of the pack's volts from it. What it draws at its own
    /// ends stays; a draw that was `read_before` the cable, at the pack, is what flows there with the cable in the way.
    pub fn behind(self, cable: Ohms, read_before: bool) -> Self {
        let ohms = cable.value();
        let lost = if read_before { ohms } else { 0.0 };
        let motor = match self.motor {
            MotorPart::None => MotorPart::None,
            MotorPart::Setting { amps, at_volts } => {
                MotorPart::Setting { amps, at_volts: at_volts - amps * lost }
            }
            MotorPart::Hold { watts, full_amps, at_volts } => {
                let amps = watts / at_volts;
                MotorPart::Hold {
                    watts: watts - amps * amps * lost,
                    full_amps,
                    at_volts: at_volts - full_amps * lost,
                }
            }
        };
        Self { motor, cable: ohms, ..self }
    }

    /// The same with what another asks beside it, of which only steady amps and powers count.
    pub fn beside(self, other: Self) -> Self {
        Self { steady: self.steady + other.steady, power: self.power + other.power, ..self }
    }

    /// The same with the motor's part `times` as large: how unsure a draw is.
    pub fn scaled(self, times: f64) -> Self {
        let motor = match self.motor {
            MotorPart::None => MotorPart::None,
            MotorPart::Setting { amps, at_volts } => {
                MotorPart::Setting { amps: amps * times, at_volts }
            }
            MotorPart::Hold { watts, full_amps, at_volts } => {
                MotorPart::Hold { watts: watts * times, full_amps, at_volts }
            }
        };
        Self { steady: self.steady * times, power: self.power * times, motor, ..self }
    }

    /// The same, with another doubt about it.
    pub const fn unsure_by(self, share: f64) -> Self {
        Self { unsure: share, ..self }
    }

    /// How far it may be off, either way, as a share.
    pub const fn unsure(&self) -> f64 {
        self.unsure
    }

    /// The same on a day that goes some part of the doubt one way, from -1 to 1.
    pub fn leaning(self, towards: f64) -> Self {
        self.scaled(1.0 + self.unsure * towards)
    }

    /// Whether the current is the same at every voltage, so that one step covers the stretch.
    #[inline]
    pub fn is_steady(&self) -> bool {
        self.power == 0.0 && self.fed.1 == 0.0 && matches!(self.motor, MotorPart::None)
    }

    /// Current at a pack voltage. [A]
    #[inline]
    pub fn amps(&self, volts: f64) -> f64 {
        let motor = match self.motor {
            MotorPart::None => 0.0,
            _ if self.cable > 0.0 => self.motor_amps_and_slope(volts).0,
            MotorPart::Setting { amps, at_volts } => amps * brushed(volts / at_volts),
            MotorPart::Hold { watts, full_amps, at_volts } => {
                (watts / volts).min(full_amps * brushed(volts / at_volts))
            }
        }
        .min(self.most);
        self.steady - self.fed.0 + (self.power - self.fed.1) / volts + motor
    }
}

impl Demand {
    /// The motor's current at a pack voltage [A], and how fast it grows with the voltage [A/V].
    #[inline]
    fn motor_amps_and_slope(&self, volts: f64) -> (f64, f64) {
        let (amps, slope) = self.uncapped(volts);
        if amps > self.most { (self.most, 0.0) } else { (amps, slope) }
    }

    #[inline]
    fn uncapped(&self, volts: f64) -> (f64, f64) {
        match self.motor {
            MotorPart::None => (0.0, 0.0),
            MotorPart::Setting { amps, at_volts } => self.faded(amps, volts, at_volts),
            MotorPart::Hold { watts, full_amps, at_volts } => {
                let (full, slope) = self.faded(full_amps, volts, at_volts);
                match self.held(watts, volts) {
                    Some((held, held_slope)) if held < full => (held, held_slope),
                    _ => (full, slope),
                }
            }
        }
    }

    /// A fading motor behind the cable: `I = f(V - I R)`, by Newton's method on a curve that bends one way only.
    #[inline]
    fn faded(&self, amps: f64, volts: f64, at_volts: f64) -> (f64, f64) {
        let (mut now, mut slope) = fading(amps, volts, at_volts);
        if self.cable > 0.0 {
            for _ in 0..CABLE_CORRECTIONS {
                let (wanted, per_volt) = fading(amps, volts - now * self.cable, at_volts);
                let weight = 1.0 / (1.0 + per_volt * self.cable);
                now += (wanted - now) * weight;
                slope = per_volt * weight;
            }
        }
        (now, slope)
    }

    /// A power held behind the cable: `W = v I` with `v = V - I R`, the higher of its two roots; `None` where the cable
    /// lets no such power through.
    #[inline]
    fn held(&self, watts: f64, volts: f64) -> Option<(f64, f64)> {
        if self.cable <= 0.0 {
            let held = watts / volts;
            return Some((held, -held / volts));
        }
        let under = volts * volts - 4.0 * watts * self.cable;
        let at_motor = (under > 0.0).then(|| 0.5 * (volts + under.sqrt()))?;
        let (held, per_volt) = (watts / at_motor, watts / (at_motor * at_motor));
        Some((held, -per_volt / (1.0 - per_volt * self.cable)))
    }

    /// Current at a pack voltage [A], and how fast it grows with the voltage [A/V].
    #[inline]
    pub(super) fn amps_and_slope(&self, volts: f64) -> (f64, f64) {
        let (motor, motor_slope) = self.motor_amps_and_slope(volts);
        let steady = self.steady - self.fed.0 + motor;
        let power = self.power - self.fed.1;
        if power == 0.0 {
            return (steady, motor_slope);
        }
        let devices = power / volts;
        (steady + devices, motor_slope - devices / volts)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rig::brushed::brushed_speed;

    /// Worked from the motor equation: from 12 to 11 V at φ = 0.25 the current falls 12.7 % and the
    /// thrust 13.3 %.
    #[test]
    fn a_motor_at_a_fixed_setting_fades_with_the_voltage() {
        let motor = Demand::setting(Amps::of(30.0), Volts::of(12.0));
        assert!((motor.amps(12.0) - 30.0).abs() < 1e-9);
        assert!((motor.amps(11.0) / 30.0 - (1.0 - 0.127)).abs() < 5e-4);
        assert!((brushed_speed(11.0 / 12.0).0.powi(2) - (1.0 - 0.133)).abs() < 5e-4);
    }

    /// Arithmetic: the same power at 11 V takes 12/11 of the current, +9.1 %.
    #[test]
    fn a_motor_holding_a_place_draws_more_until_it_is_at_its_full_setting() {
        let hold = Demand::hold(Watts::of(240.0), Amps::of(30.0), Volts::of(12.0));
        assert!((hold.amps(12.0) - 20.0).abs() < 1e-9);
        assert!((hold.amps(11.0) / 20.0 - 1.0909).abs() < 1e-4);
        // At 8 V it would want 30 A, but its full setting gives less there.
        assert!(hold.amps(8.0) < 20.0);
        // The slope that the solver uses is the slope of the current.
        for (demand, at) in
            [(hold, 11.0), (hold, 8.0), (Demand::setting(Amps::of(30.0), Volts::of(12.0)), 10.5)]
        {
            let (amps, slope) = demand.amps_and_slope(at);
            let nearby = (demand.amps(at + 1e-6) - demand.amps(at - 1e-6)) / 2e-6;
            assert!((amps - demand.amps(at)).abs() < 1e-12 && (slope - nearby).abs() < 1e-5);
        }
    }

    /// Ohm's law, in both directions: what flows at the pack's volts is what the motor draws at the volts that the cable
    /// leaves it, found here by halving.
    #[test]
    fn a_cable_takes_its_volts_from_the_motor() {
        let ohms = 0.02;
        let (setting, hold) = (
            Demand::setting(Amps::of(50.0), Volts::of(12.0)),
            Demand::hold(Watts::of(300.0), Amps::of(50.0), Volts::of(12.0)),
        );
        for (bare, volts) in
            [setting, hold].into_iter().flat_map(|d| [13.0, 12.0, 10.5, 7.0].map(|v| (d, v)))
        {
            let behind = bare.behind(Ohms::of(ohms), false);
            let (low, high) = crate::numeric::halved((0.0, 60.0), 60, |amps| {
                bare.amps(volts - amps * ohms) > amps
            });
            let (amps, slope) = behind.amps_and_slope(volts);
            assert!((amps - 0.5 * (low + high)).abs() < 1e-6, "{amps} {low}");
            assert!((amps - behind.amps(volts)).abs() < 1e-12);
            let nearby = (behind.amps(volts + 1e-5) - behind.amps(volts - 1e-5)) / 2e-5;
            assert!((slope - nearby).abs() < 1e-3 * nearby.abs().max(1.0), "{slope} {nearby}");
        }
        // What was read at the pack flows there, cable or none; what the label says of the motor is less behind one.
        let at = |d: Demand| d.behind(Ohms::of(ohms), true).amps(12.0);
        assert!((at(setting) - 50.0).abs() < 1e-6 && (at(hold) - 25.0).abs() < 1e-6);
        assert!(setting.behind(Ohms::of(ohms), false).amps(12.0) < 46.5);
        assert!(hold.behind(Ohms::of(ohms), false).amps(12.0) > 26.0, "more is drawn to hold");
    }

    /// Ohm's and Joule's laws: 18 W at 12 V is 1.5 A; through a converter of 90 % it is more.
    #[test]
    fn devices_draw_their_watts_at_the_bus_voltage() {
        let bare = Demand::OFF.with_devices(Watts::of(18.0), 1.0);
        assert!((bare.amps(12.0) - 1.5).abs() < 1e-12);
        let converted = Demand::OFF.with_devices(Watts::of(18.0), 0.9);
        assert!((converted.amps(24.0) - 0.8333).abs() < 1e-4);
    }
}
