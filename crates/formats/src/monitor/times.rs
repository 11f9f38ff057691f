//! Times as monitors write them.

use jiff::civil::{Date, DateTime, Time};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};

/// Reads times, all of a file in the same way.
pub(super) struct Times {
    place: TimeZone,
    /// In "03/04/2026" the day stands first: some row has told so.
    day_first: bool,
    /// Some row might be read either way.
    unsure: bool,
}

impl Times {
    pub(super) const fn new(place: TimeZone) -> Self {
        Self { place, day_first: false, unsure: false }
    }

    /// Seconds since some moment, and the clock of the place.
    pub(super) fn read(&mut self, text: &str) -> Option<(i64, DateTime)> {
        let text = text.trim();
        if let Ok(number) = text.parse::<f64>() {
            return self.counted(number);
        }
        let bytes = text.as_bytes();
        // With an offset, or Z.
        if bytes.len() > 10
            && (text.ends_with('Z') || text[10..].contains('+') || text[10..].contains('-'))
            && let Ok(moment) = text.replacen(' ', "T", 1).parse::<Timestamp>()
        {
            return Some((
                moment.as_second(),
                moment.to_zoned_datetime(self.place.clone()).datetime(),
            ));
        }
        let civil = self.civil(text)?;
        Some((seconds(civil), civil))
    }

    /// Seconds or milliseconds since 1970; fewer are seconds since it was switched on, from midnight of some day.
    fn counted(&self, number: f64) -> Option<(i64, DateTime)> {
        if !(0.0..4e12).contains(&number) {
            return None;
        }
        let second = if number > 1e11 { number / 1000.0 } else { number } as i64;
        if second < 100_000_000 {
            let day = jiff::civil::date(2000, 1, 1).at(0, 0, 0, 0);
            return Some((second, day.checked_add(second.seconds()).ok()?));
        }
        let moment = Timestamp::from_second(second).ok()?;
        Some((second, moment.to_zoned_datetime(self.place.clone()).datetime()))
    }

    fn civil(&mut self, text: &str) -> Option<DateTime> {
        if let Ok(civil) = text.replacen(' ', "T", 1).parse::<DateTime>() {
            return Some(civil);
        }
        let (date, time) = text.split_once([' ', 'T']).unwrap_or((text, ""));
        Some(self.date(date)?.to_datetime(clock(time.trim())?))
    }

    fn date(&mut self, text: &str) -> Option<Date> {
        let parts: Vec<i16> =
            text.split(['/', '.', '-']).map(|p| p.trim().parse().ok()).collect::<Option<_>>()?;
        let [a, b, c] = parts[..] else { return None };
        if a > 1900 {
            return Date::new(a, b as i8, c as i8).ok();
        }
        let year = if c < 100 { 2000 + c } else { c };
        // Points are written by those who put the day first.
        if a > 12 || text.contains('.') {
            self.day_first = true;
        } else if b > 12 {
            self.day_first = false;
        } else if a != b {
            self.unsure = true;
        }
        let (month, day) = if self.day_first { (b, a) } else { (a, b) };
        Date::new(year, month as i8, day as i8).ok()
    }

    /// What its owner should know.
    pub(super) fn odd(&self) -> Option<String> {
        (self.unsure && !self.day_first)
            .then(|| "dates as in 03/04 are read month first, as March 4".to_owned())
    }
}

/// "7:00:05 AM", "07:00", "19:00:05.3".
fn clock(text: &str) -> Option<Time> {
    if text.is_empty() {
        return Some(Time::midnight());
    }
    let lower = text.to_ascii_lowercase();
    let (bare, half) = match (lower.strip_suffix("am"), lower.strip_suffix("pm")) {
        (Some(bare), _) => (bare.trim().to_owned(), Some(0)),
        (_, Some(bare)) => (bare.trim().to_owned(), Some(12)),
        _ => (lower, None),
    };
    let mut parts = bare.split(':');
    let hour: i8 = parts.next()?.parse().ok()?;
    let minute: i8 = parts.next()?.parse().ok()?;
    let second = parts.next().map_or(Some(0.0), |s| s.parse::<f64>().ok())?;
    let hour = half.map_or(hour, |half| hour % 12 + half);
    Time::new(hour, minute, second as i8, 0).ok()
}

/// Seconds of the clock of a place since some day: good for what lies between two rows.
fn seconds(at: DateTime) -> i64 {
    let first = jiff::civil::date(1970, 1, 1).at(0, 0, 0, 0);
    at.duration_since(first).as_secs()
}
