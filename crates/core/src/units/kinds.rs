//! The quantities of the trade and the laws between them.

use super::quantity::{product, quantity};

quantity!(
    /// Electric potential. [V]
    Volts, "V");
quantity!(
    /// Electric current; positive while discharging. [A]
    Amps, "A");
quantity!(
    /// Electric resistance. [Ω]
    Ohms, "Ω");
quantity!(
    /// Power; positive while discharging. [W]
    Watts, "W");
quantity!(
    /// Time. [h]
    Hours, "h");
quantity!(
    /// Electric charge, as the trade counts it; positive when it has left the battery. [Ah]
    AmpHours, "Ah");
quantity!(
    /// Energy; positive when it has left the battery. [Wh]
    WattHours, "Wh");
quantity!(
    /// Mass. [kg]
    Kilograms, "kg");
quantity!(
    /// Length of a battery, a bay, a clearance. [mm]
    Millimetres, "mm");
quantity!(
    /// A temperature, not a difference of two. [°C]
    Celsius, "°C");

quantity!(
    /// Length of a craft, a distance gone. [m]
    Metres, "m");
quantity!(
    /// Speed of a craft, of wind or current. [m/s]
    MetresPerSecond, "m/s");
quantity!(
    /// Force: drag or thrust. [N]
    Newtons, "N");

quantity!(
    /// A sum of money, in the plan's currency: a price, or what an outing, an hour, a kilowatt-hour costs.
    Money, "");

product!(Amps * Hours = AmpHours);
product!(Watts * Hours = WattHours);
product!(Volts * Amps = Watts);
product!(Volts * AmpHours = WattHours);
product!(Ohms * Amps = Volts);
product!(Newtons * MetresPerSecond = Watts);

impl Hours {
    /// From minutes. Exact: 60 minutes to the hour (SI Brochure, 9th ed., table 8).
    pub const fn from_minutes(minutes: f64) -> Self {
        Self::of(minutes / 60.0)
    }

    /// The same time in minutes.
    pub const fn minutes(self) -> f64 {
        self.value() * 60.0
    }
}
