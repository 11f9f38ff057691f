//! Figures as people read them: two or three digits that count, and always a unit.

use lake_hour_core::day;
use lake_hour_core::drawdown::Rest;
use lake_hour_core::rig::{Dial, Mark};
pub(crate) use lake_hour_core::units::say::trimmed;
use lake_hour_core::units::say::{Clock, Say, grouped};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Hours, Kilograms, Metres, MetresPerSecond, Money};

/// A figure with its label and its working: the formula, the numbers in it, and who says so.
#[derive(Debug, Clone)]
pub(crate) struct Told {
    pub(crate) label: &'static str,
    pub(crate) value: String,
    pub(crate) why: String,
}

impl Told {
    pub(crate) fn new(label: &'static str, value: String, why: impl Into<String>) -> Self {
        Self { label, value, why: why.into() }
    }
}

/// Words that begin a sentence.
pub(crate) fn capital(words: &str) -> String {
    let mut letters = words.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}

/// "7 h 20 min".
pub(crate) fn duration(hours: f64) -> String {
    let minutes = (hours * 60.0).round() as i64;
    match (minutes / 60, minutes % 60) {
        (0, m) => format!("{m} min"),
        (h, 0) => format!("{h} h"),
        (h, m) => format!("{h} h {m} min"),
    }
}

/// "10.4 h", "40 min", and no more digits than an estimate has.
pub(crate) fn hours(hours: f64) -> String {
    if hours.abs() < 0.95 {
        let minutes = (hours * 60.0 / 5.0).round() * 5.0;
        return if minutes.abs() < 5.0 {
            "a few min".to_owned()
        } else {
            format!("{minutes:.0} min")
        };
    }
    if hours < 9.95 { format!("{hours:.1} h") } else { format!("{hours:.0} h") }
}

/// "37 %".
pub(crate) fn days_in_100(share: f64, assumed: bool) -> String {
    match share * 100.0 {
        days if assumed && days > 95.0 => "over 95".to_owned(),
        days if assumed && days < 5.0 => "under 5".to_owned(),
        days => format!("{days:.0}"),
    }
}

/// A share as a percentage.
pub(crate) fn percent(share: f64) -> String {
    format!("{:.0} %", share * 100.0)
}

/// A current or charge with three digits that count: "0.9", "22", "9.4".
pub(crate) fn amount(value: f64) -> String {
    let magnitude = value.abs();
    if magnitude >= 9.95 || (value - value.round()).abs() < 0.005 {
        grouped(value, 0)
    } else if magnitude >= 0.95 {
        trimmed(format!("{value:.1}"))
    } else {
        trimmed(format!("{value:.2}"))
    }
}

/// A figure put back into its field: all of it, without noise from conversions.
pub(crate) fn typed(value: f64) -> String {
    trimmed(format!("{value:.3}"))
}

/// A setting by the marks of the motor's own dial: "7", "60 %", "mid".
pub(crate) fn setting(dial: &Dial, setting: f64) -> String {
    match dial.mark(setting) {
        Mark::Number(number) => amount(number),
        Mark::Percent(share) => percent(share / 100.0),
        Mark::Named(name) => name.to_owned(),
        Mark::Off => "0".to_owned(),
    }
}

/// The highest mark that is no higher than a setting: halves of ten, or its own.
pub(crate) fn setting_below(dial: &Dial, at: f64) -> String {
    let steps = dial.steps().map_or(20.0, f64::from);
    setting(dial, (at / 10.0 * steps + 1e-9).floor() / steps * 10.0)
}

/// How a setting stands in its field, and is read back.
pub(crate) fn typed_setting(dial: &Dial, setting: f64) -> String {
    match dial.mark(setting) {
        Mark::Number(number) => typed(number),
        Mark::Percent(share) => typed(share),
        Mark::Named(name) => name.to_owned(),
        Mark::Off => "0".to_owned(),
    }
}

/// What stands behind a setting in its field.
pub(crate) const fn setting_unit(dial: &Dial) -> &'static str {
    match dial {
        Dial::Tenths => "of 10",
        Dial::Percent => "%",
        Dial::Marks { .. } => "on your dial",
    }
}

/// How long volts have rested, as it is typed back after them.
pub(crate) const fn rested(rest: Rest) -> &'static str {
    match rest {
        Rest::HalfHour | Rest::HalfHourCharged => "30 min",
        Rest::FourHours | Rest::FourHoursCharged => "4 h",
        Rest::Overnight | Rest::OvernightCharged => "overnight",
    }
}

/// The same for figures turned from another unit: a tenth is as close as they were given.
pub(crate) fn typed_coarse(value: f64) -> String {
    trimmed(format!("{value:.1}"))
}

/// A measure in the units shown, with so many decimals: "1.8 mph".
pub(crate) fn measure(units: System, of: Measure, si: f64, decimals: usize) -> String {
    units.say(of, si, decimals)
}

/// "58 lb".
pub(crate) fn mass(mass: Kilograms, units: System) -> String {
    let light = units.figure(Measure::Mass, mass.value()) < 9.95;
    measure(units, Measure::Mass, mass.value(), usize::from(light))
}

/// "1.8 mph".
pub(crate) fn speed(speed: MetresPerSecond, units: System) -> String {
    measure(units, Measure::Speed, speed.value(), 1)
}

/// "2.4 mi".
pub(crate) fn distance(distance: Metres, units: System) -> String {
    let far = units.figure(Measure::Distance, distance.value()).abs();
    measure(units, Measure::Distance, distance.value(), if far < 1.0 { 2 } else { 1 })
}

/// "6.4 mi", "12 mi": no more digits than an estimate has.
pub(crate) fn far(distance: Metres, units: System) -> String {
    let figure = units.figure(Measure::Distance, distance.value()).abs();
    measure(units, Measure::Distance, distance.value(), usize::from(figure < 9.95))
}

/// "0.6 of a round", "2.4 rounds".
pub(crate) fn rounds(rounds: f64) -> String {
    match rounds {
        r if (0.0..0.05).contains(&r) => "under 0.1 of a round".to_owned(),
        r if r < 0.95 => format!("{r:.1} of a round"),
        r if r < 9.95 => format!("{r:.1} rounds"),
        r => format!("{r:.0} rounds"),
    }
}

/// "2.1 kWh" or "640 Wh".
pub(crate) fn energy(watt_hours: f64) -> String {
    if watt_hours >= 1000.0 {
        format!("{:.1} kWh", watt_hours / 1000.0)
    } else {
        format!("{watt_hours:.0} Wh")
    }
}

/// "$1,118", or "$0.21" for small sums.
pub(crate) fn money(amount: Money, currency: &str) -> String {
    Say::plain(currency).money(amount)
}

/// The clock some hours after the start, with the day when it is a later one.
pub(crate) fn clock(day: &day::Day, after: Hours, face: Clock) -> String {
    let minute = day.clock_minute(after);
    let days = ((f64::from(day.start_minute) + after.minutes()).round() / 1440.0).floor();
    let clock = face.words(minute);
    if days >= 1.0 { format!("{clock}, day {:.0}", days + 1.0) } else { clock }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_have_as_many_digits_as_count() {
        for (got, want) in [
            (duration(7.333_333), "7 h 20 min"),
            (duration(0.5), "30 min"),
            (duration(2.0), "2 h"),
            (hours(9.96), "10 h"),
            (hours(4.04), "4.0 h"),
            (hours(0.66), "40 min"),
            (hours(0.001), "a few min"),
            (rounds(0.62), "0.6 of a round"),
            (rounds(0.02), "under 0.1 of a round"),
            (amount(0.9), "0.9"),
            (amount(22.4), "22"),
            (amount(6.25), "6.2"),
            (amount(5.0), "5"),
            (amount(1234.0), "1,234"),
            (typed(25.4), "25.4"),
            (typed(0.1 + 0.2), "0.3"),
            (typed(100.0), "100"),
            (mass(Kilograms::of(11.5), System::Us), "25 lb"),
            (mass(Kilograms::of(11.5), System::Metric), "12 kg"),
            (speed(MetresPerSecond::of(0.8), System::Us), "1.8 mph"),
            (distance(Metres::of(500.0), System::Metric), "0.5 km"),
            (energy(2560.0), "2.6 kWh"),
            (energy(640.0), "640 Wh"),
            (money(Money::of(1118.4), "USD"), "$1,118"),
            (money(Money::of(0.214), "USD"), "$0.21"),
            (money(Money::of(1_234_567.0), "CAD"), "1,234,567 CAD"),
            (percent(0.374), "37 %"),
        ] {
            assert_eq!(got, want);
        }
        let day = day::Day::starting_at(22 * 60);
        assert_eq!(clock(&day, Hours::of(1.0), Clock::Hours24), "23:00");
        assert_eq!(clock(&day, Hours::of(3.5), Clock::Hours12), "1:30 AM, day 2");
    }
}
