//! How figures are said: in which units, on which clock, in whose money.

use super::Money;
use super::system::{Measure, System};
use crate::keyed::keyed;

keyed! {
    /// How clock times are shown.
    #[derive(Default)]
    pub enum Clock {
        /// "14:10".
        #[default]
        #[strum(serialize = "24")]
        Hours24,
        /// "2:10 PM".
        #[strum(serialize = "12")]
        Hours12,
    }
}

impl Clock {
    /// What it is called where it is chosen.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Hours24 => "14:00",
            Self::Hours12 => "2 PM",
        }
    }

    /// A minute of the day as this clock shows it.
    pub fn words(self, minute: u16) -> String {
        let (hour, minute) = (minute / 60 % 24, minute % 60);
        match self {
            Self::Hours24 => format!("{hour:02}:{minute:02}"),
            Self::Hours12 => {
                let half = if hour < 12 { "AM" } else { "PM" };
                format!("{}:{minute:02} {half}", (hour + 11) % 12 + 1)
            }
        }
    }
}

/// Reads a time of day as people write it: "07:00", "7:05", "1300", "1:00 PM", "7 am", "13 h".
///
/// A bare "7" is refused: it might be seven hours. Minutes of the day.
///
/// ```
/// use lake_hour_core::units::say::clock;
/// assert_eq!(clock("1:00 PM"), Some(13 * 60));
/// assert_eq!(clock("1300"), Some(13 * 60));
/// ```
pub fn clock(text: &str) -> Option<u16> {
    let text = text.trim().to_ascii_lowercase();
    if text.len() > 16 {
        return None;
    }
    let bare = text.replace(['.', ' '], "");
    let (bare, half) = match (bare.strip_suffix("am"), bare.strip_suffix("pm")) {
        (Some(bare), _) => (bare.to_owned(), Some(0)),
        (_, Some(bare)) => (bare.to_owned(), Some(12)),
        _ => (text.clone(), None),
    };
    let digits = |s: &str, most: usize| {
        let fits = !s.is_empty() && s.len() <= most && s.bytes().all(|b| b.is_ascii_digit());
        fits.then(|| s.parse::<u16>().ok()).flatten()
    };
    let (hour, minute) = match bare.split_once([':', 'h']) {
        Some((h, "")) => (digits(h.trim(), 2)?, 0),
        Some((h, m)) if m.len() == 2 => (digits(h, 2)?, digits(m, 2)?),
        Some(_) => return None,
        // "1300", "730"; "7" only with its half of the day.
        None if bare.len() >= 3 => {
            let all = digits(&bare, 4)?;
            (all / 100, all % 100)
        }
        None if half.is_some() => (digits(&bare, 2)?, 0),
        None => return None,
    };
    let hour = match half {
        Some(_) if hour == 0 || hour > 12 => return None,
        Some(half) => hour % 12 + half,
        None => hour,
    };
    (hour < 24 && minute < 60).then_some(hour * 60 + minute)
}

/// Units, clock and money in which a page speaks.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Say<'a> {
    /// The set of units.
    pub units: System,
    /// The clock.
    pub clock: Clock,
    /// Three-letter code of the currency.
    pub currency: &'a str,
}

impl<'a> Say<'a> {
    /// In US units on a 24-hour clock: what files and the command line say.
    pub const fn plain(currency: &'a str) -> Self {
        Self { units: System::Us, clock: Clock::Hours24, currency }
    }

    /// "$1,118", or "$0.21" for small sums.
    pub fn money(&self, amount: Money) -> String {
        let amount = amount.value();
        let figure = if amount.abs() < 20.0 { format!("{amount:.2}") } else { grouped(amount, 0) };
        match self.currency {
            "USD" => format!("${figure}"),
            "EUR" => format!("€{figure}"),
            "GBP" => format!("£{figure}"),
            other => format!("{figure} {other}"),
        }
    }
}

impl System {
    /// A measure in the units of this set, with so many decimals and no needless zeros: "1.8 mph".
    pub fn say(self, of: Measure, si: f64, decimals: usize) -> String {
        let text = grouped(self.figure(of, si), decimals);
        let text = if decimals > 0 { trimmed(text) } else { text };
        format!("{text} {}", self.unit(of).name)
    }
}

/// A figure without needless zeros behind its point.
pub fn trimmed(text: String) -> String {
    if text.contains('.') {
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    } else {
        text
    }
}

/// Thousands set off by commas; nothing is ever "-0".
pub fn grouped(value: f64, decimals: usize) -> String {
    let plain = format!("{:.decimals$}", value.abs());
    let (whole, rest) = plain.split_at(plain.find('.').unwrap_or(plain.len()));
    let mut out = String::new();
    for (n, digit) in whole.chars().enumerate() {
        if n > 0 && (whole.len() - n).is_multiple_of(3) {
            out.push(',');
        }
        out.push(digit);
    }
    let nothing = plain.bytes().all(|b| b == b'0' || b == b'.');
    let sign = if value < 0.0 && !nothing { "-" } else { "" };
    format!("{sign}{out}{rest}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn clock_times_are_read_as_people_write_them() {
        for (text, minute) in [
            ("07:00", 420),
            ("7:05", 425),
            (" 23:59 ", 1439),
            ("00:00", 0),
            ("1300", 780),
            ("730", 450),
            ("1:00 PM", 780),
            ("1 pm", 780),
            ("12:30 a.m.", 30),
            ("12 PM", 720),
            ("13h", 780),
            ("7h05", 425),
        ] {
            assert_eq!(clock(text), Some(minute), "{text}");
        }
        for text in [
            "", "7", "24:00", "12:60", "7:5", "-1:00", "7:00:00", "７:00", "99999:00", "13 pm",
            "0 am", "2575", "pm", "noon",
        ] {
            assert_eq!(clock(text), None, "{text}");
        }
    }

    #[test]
    fn both_clocks_show_what_they_read() {
        assert_eq!(Clock::Hours12.words(0), "12:00 AM");
        assert_eq!(Clock::Hours12.words(850), "2:10 PM");
        for minute in 0..1440 {
            for face in Clock::ALL {
                assert_eq!(clock(&face.words(minute)), Some(minute), "{minute}");
            }
        }
    }

    #[test]
    fn nothing_is_said_to_be_minus_nothing() {
        assert_eq!(grouped(-0.04, 1), "0.0");
        assert_eq!(grouped(-1234.5, 1), "-1,234.5");
        assert_eq!(Say::plain("CAD").money(Money::of(1_234_567.0)), "1,234,567 CAD");
        assert_eq!(Say::plain("USD").money(Money::of(0.214)), "$0.21");
    }
}
