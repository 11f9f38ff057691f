//! The day as its owner tells it: stretches of duty, one after another.

use crate::units::{Amps, Celsius, Hours, Watts};

/// Longest day that can be worked out, motor stops included. [h]
pub const LONGEST: Hours = Hours::of(7.0 * 24.0);
/// Days out in a year, when not told.
pub const DEFAULT_OUTINGS: f64 = 30.0;
/// Most stretches a day may have.
pub const MOST_STRETCHES: usize = 400;

/// A day on the water or the road.
#[derive(Debug, Clone, PartialEq)]
pub struct Day {
    /// Minute of the day at which it starts, 0 to 1439.
    pub start_minute: u16,
    /// Temperature around the batteries, if told. [°C]
    pub ambient: Option<Celsius>,
    /// Temperature the batteries start the day at, when kept elsewhere. [°C]
    pub battery_start: Option<Celsius>,
    /// Days like this in a year.
    pub outings_per_year: f64,
    /// What happens, in order.
    pub stretches: Vec<Stretch>,
    /// What runs all day beside the motor.
    pub accessories: Vec<Accessory>,
}

/// One stretch of the day at one duty.
#[derive(Debug, Clone, PartialEq)]
pub struct Stretch {
    /// What it is called.
    pub name: String,
    /// How long it lasts. [h]
    pub lasts: Hours,
    /// What the motor does.
    pub duty: Duty,
}

/// What the motor is asked to do during a stretch.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Duty {
    /// Motor off.
    Off,
    /// A steady current, whatever the voltage. [A]
    Current(Amps),
    /// A steady power: the current rises as the voltage falls. [W]
    Power(Watts),
    /// A control setting, 0 to 10: the motor fades as the voltage falls.
    Setting(f64),
}

/// A device that draws power through the whole day.
#[derive(Debug, Clone, PartialEq)]
pub struct Accessory {
    /// What it is.
    pub name: String,
    /// What it draws. [W]
    pub power: Watts,
}

impl Day {
    /// An empty day, with 30 like it in a year.
    pub const fn starting_at(start_minute: u16) -> Self {
        Self {
            start_minute,
            ambient: None,
            battery_start: None,
            outings_per_year: DEFAULT_OUTINGS,
            stretches: Vec::new(),
            accessories: Vec::new(),
        }
    }

    /// The day with one stretch more at its end.
    #[must_use]
    pub fn then(mut self, name: impl Into<String>, lasts: Hours, duty: Duty) -> Self {
        self.stretches.push(Stretch { name: name.into(), lasts, duty });
        self
    }

    /// How long the day lasts. [h]
    pub fn lasts(&self) -> Hours {
        self.stretches.iter().map(|s| s.lasts).sum()
    }

    /// What all accessories draw together. [W]
    pub fn accessory_power(&self) -> Watts {
        self.accessories.iter().map(|a| a.power).sum()
    }

    /// The clock at some time after the start, as minutes of the day; days wrap at midnight.
    pub fn clock_minute(&self, after: Hours) -> u16 {
        let minute = f64::from(self.start_minute) + after.minutes();
        minute.round().rem_euclid(1440.0) as u16
    }
}

/// Reads a clock time, `HH:MM`, as minutes of the day.
pub fn clock(text: &str) -> Option<u16> {
    let (hours, minutes) = text.trim().split_once(':')?;
    let digits = |s: &str| s.len() <= 2 && !s.is_empty() && s.bytes().all(|b| b.is_ascii_digit());
    if !digits(hours) || !digits(minutes) || minutes.len() != 2 {
        return None;
    }
    let (h, m): (u16, u16) = (hours.parse().ok()?, minutes.parse().ok()?);
    (h < 24 && m < 60).then_some(h * 60 + m)
}

/// Minutes of the day as a clock shows them, `HH:MM`.
pub fn clock_words(minute: u16) -> String {
    format!("{:02}:{:02}", minute / 60 % 24, minute % 60)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn clock_times_are_read_as_people_write_them() {
        for (text, minute) in [("07:00", 420), ("7:05", 425), (" 23:59 ", 1439), ("00:00", 0)] {
            assert_eq!(clock(text), Some(minute), "{text}");
        }
        for text in ["", "7", "24:00", "12:60", "7:5", "-1:00", "7:00:00", "７:00", "99999:00"] {
            assert_eq!(clock(text), None, "{text}");
        }
        assert_eq!(clock_words(425), "07:05");
        let day = Day::starting_at(23 * 60);
        assert_eq!(clock_words(day.clock_minute(Hours::of(2.5))), "01:30");
    }
}
