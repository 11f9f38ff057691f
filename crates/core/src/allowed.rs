//! What may be typed or filed: one range for every input, used by forms and files alike.

use crate::units::parse::BadNumber;

/// A range of numbers with its unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Allowed {
    /// Smallest, allowed itself.
    pub low: f64,
    /// Largest, allowed itself.
    pub high: f64,
    /// Unit as printed, or nothing.
    pub unit: &'static str,
}

/// Smallest size of a figure that is not zero.
const SMALLEST: f64 = 1e-9;

impl Allowed {
    /// A range with both ends allowed, in the unit that files carry.
    const fn new(low: f64, high: f64, unit: &'static str) -> Self {
        Self { low, high, unit }
    }

    /// A number that is accepted, to show how one is typed: one digit, in the middle of the range as its
    /// sizes go.
    pub fn example(&self) -> f64 {
        let middle = if self.low > 0.0 { (self.low * self.high).sqrt() } else { self.high.cbrt() };
        let size = 10_f64.powf(middle.log10().floor());
        // Divided, since tenths have no exact value to multiply with.
        let one_digit = if size < 1.0 {
            (middle / size).round() / (1.0 / size).round()
        } else {
            (middle / size).round() * size
        };
        if (self.low..=self.high).contains(&one_digit) { one_digit } else { self.high }
    }

    /// Lets a number through that lies in the range.
    ///
    /// # Errors
    /// [`BadNumber::OutOfRange`], also for NaN, the infinities, and what is nearly nothing but not nothing:
    /// no figure here is, and not every reader brings one back.
    pub fn check(&self, value: f64) -> Result<f64, BadNumber> {
        if (self.low..=self.high).contains(&value) && (value == 0.0 || value.abs() >= SMALLEST) {
            Ok(value)
        } else {
            Err(BadNumber::OutOfRange(*self))
        }
    }

    /// As [`Self::check`] for a count without a fraction.
    ///
    /// # Errors
    /// [`BadNumber::OutOfRange`], or [`BadNumber::Fraction`].
    pub fn check_count(&self, value: f64) -> Result<u32, BadNumber> {
        let value = self.check(value)?;
        // In range and whole, so the cast is exact: every count's range lies within u32.
        if value.fract() == 0.0 { Ok(value as u32) } else { Err(BadNumber::Fraction(*self)) }
    }
}

impl std::fmt::Display for Allowed {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let space = if self.unit.is_empty() || self.unit == "%" { "" } else { " " };
        write!(f, "from {} to {}{space}{}", self.low, self.high, self.unit)
    }
}

/// Nominal voltage of a motor's system.
pub const SYSTEM_VOLTAGE: Allowed = Allowed::new(6.0, 400.0, "V");
/// Nominal voltage of one battery unit.
pub const UNIT_VOLTAGE: Allowed = Allowed::new(1.0, 400.0, "V");
/// A controller's or protection's voltage.
pub const VOLTAGE: Allowed = Allowed::new(0.5, 500.0, "V");
/// A current drawn.
pub const CURRENT: Allowed = Allowed::new(0.0, 2000.0, "A");
/// A current some part can bear.
pub const LIMIT_CURRENT: Allowed = Allowed::new(0.1, 20_000.0, "A");
/// A power drawn.
pub const POWER: Allowed = Allowed::new(0.0, 200_000.0, "W");
/// Length of a stretch: up to seven days.
pub const MINUTES: Allowed = Allowed::new(0.5, 10_080.0, "min");
/// A motor's control setting.
pub const SETTING: Allowed = Allowed::new(0.0, 10.0, "");
/// Units in series.
pub const SERIES: Allowed = Allowed::new(1.0, 64.0, "");
/// Strings in parallel.
pub const PARALLEL: Allowed = Allowed::new(1.0, 64.0, "");
/// Ampere-hours of a unit.
pub const CAPACITY: Allowed = Allowed::new(0.1, 10_000.0, "Ah");
/// Hours a rating is taken over.
pub const RATED_HOURS: Allowed = Allowed::new(0.1, 200.0, "h");
/// Minutes of a rated discharge, reserve capacity among them.
pub const RATED_MINUTES: Allowed = Allowed::new(1.0, 12_000.0, "min");
/// Kilowatt-hours of a unit.
pub const UNIT_ENERGY: Allowed = Allowed::new(0.001, 500.0, "kWh");
/// Weight of a battery unit.
pub const UNIT_MASS: Allowed = Allowed::new(0.05, 2000.0, "kg");
/// Weight of a loaded craft, or of the batteries it may carry.
pub const CRAFT_MASS: Allowed = Allowed::new(1.0, 50_000.0, "kg");
/// Length of a craft.
pub const CRAFT_LENGTH: Allowed = Allowed::new(0.5, 40.0, "m");
/// A side of a battery.
pub const BATTERY_SIDE: Allowed = Allowed::new(5.0, 3000.0, "mm");
/// A price.
pub const PRICE: Allowed = Allowed::new(0.0, 1_000_000.0, "");
/// Seconds a peak current is borne.
pub const PEAK_SECONDS: Allowed = Allowed::new(0.0, 3600.0, "s");
/// Internal resistance.
pub const RESISTANCE: Allowed = Allowed::new(0.000_01, 10.0, "ohm");
/// Depth of discharge.
pub const DEPTH: Allowed = Allowed::new(0.01, 1.0, "");
/// Cycles promised.
pub const CYCLES: Allowed = Allowed::new(1.0, 100_000.0, "");
/// Years of calendar life.
pub const YEARS: Allowed = Allowed::new(0.5, 50.0, "years");
/// Outings a year.
pub const OUTINGS: Allowed = Allowed::new(0.0, 2000.0, "");
/// A floor, as a share of the charge.
pub const FLOOR: Allowed = Allowed::new(0.0, 0.95, "");
/// Layers of batteries in a bay.
pub const LAYERS: Allowed = Allowed::new(1.0, 4.0, "");
/// What a vehicle draws while it stands.
pub const STANDING_DRAIN: Allowed = Allowed::new(0.0, 2000.0, "mA");
/// A ceiling, as a share of the charge.
pub const CEILING: Allowed = Allowed::new(0.5, 1.0, "");
/// The charge that a day starts with.
pub const START_CHARGE: Allowed = Allowed::new(0.05, 1.0, "");
/// The reserve, as a share of what may be used.
pub const RESERVE: Allowed = Allowed::new(0.0, 0.9, "");
/// A floor or reserve typed as a percentage.
pub const PERCENT: Allowed = Allowed::new(0.0, 90.0, "%");
/// Years looked ahead.
pub const HORIZON: Allowed = Allowed::new(1.0, 50.0, "years");
/// A kilowatt-hour's price.
pub const ENERGY_PRICE: Allowed = Allowed::new(0.0, 1000.0, "");
/// Interest a year, as a share.
pub const DISCOUNT: Allowed = Allowed::new(0.0, 0.5, "");
/// A change of prices a year, as a share.
pub const TREND: Allowed = Allowed::new(-0.2, 0.2, "");
/// What is paid or got to be rid of a set.
pub const DISPOSAL: Allowed = Allowed::new(-1_000_000.0, 1_000_000.0, "");
/// Hours of upkeep in a year.
pub const UPKEEP: Allowed = Allowed::new(0.0, 1000.0, "h");
/// A share from nothing to all.
pub const SHARE: Allowed = Allowed::new(0.0, 1.0, "");
/// Units that fail in a year, as a share.
pub const FAILING_SHARE: Allowed = Allowed::new(0.0, 0.5, "");
/// A charge that is wanted at the end.
pub const WANTED_SHARE: Allowed = Allowed::new(0.0, 1.0, "");
/// Hours to spare that are wanted.
pub const WANTED_HOURS: Allowed = Allowed::new(0.0, 200.0, "h");
/// A minute of the day.
pub const MINUTE_OF_DAY: Allowed = Allowed::new(0.0, 1439.0, "min");
/// A temperature that a battery's protection lets pass: its upper end lies above any weather.
pub const BMS_TEMPERATURE: Allowed = Allowed::new(-40.0, 120.0, "°C");
/// Cells in one unit.
pub const CELLS: Allowed = Allowed::new(1.0, 20_000.0, "");
/// A temperature.
pub const TEMPERATURE: Allowed = Allowed::new(-40.0, 60.0, "°C");
/// A weak unit's capacity as a share of a sound one's.
pub const WEAK_SHARE: Allowed = Allowed::new(0.05, 1.0, "");
/// Years that batteries have been had.
pub const HAD_YEARS: Allowed = Allowed::new(0.0, 40.0, "years");
/// What a pack has of its label's capacity: worn, or a little more than promised.
pub const CAPACITY_LEFT: Allowed = Allowed::new(0.05, 1.2, "");
/// What a log may teach of a draw or a push, times what was told.
pub const LEARNED_TIMES: Allowed = Allowed::new(0.1, 10.0, "");
/// A share of a doubt that is left.
pub const DOUBT: Allowed = Allowed::new(0.0, 1.0, "");
/// How long an outing lasted.
pub const OUTING_HOURS: Allowed = Allowed::new(0.02, 240.0, "h");
/// How far an outing went.
pub const OUTING_DISTANCE: Allowed = Allowed::new(0.0, 1_000_000.0, "m");
/// How long a test on the bench lasted.
pub const TEST_HOURS: Allowed = Allowed::new(0.01, 400.0, "h");
/// What a meter says while a battery is loaded, a dead one too.
pub const VOLTS_UNDER_LOAD: Allowed = Allowed::new(0.0, 1000.0, "V");
/// How long a load is held for a test.
pub const LOAD_SECONDS: Allowed = Allowed::new(1.0, 120.0, "s");
/// Energy by a meter.
pub const METERED_ENERGY: Allowed = Allowed::new(0.0, 1_000_000.0, "Wh");
/// Which unit of a pack, counted from 1.
pub const UNIT_NUMBER: Allowed = Allowed::new(1.0, 64.0, "");
/// Entries of a log.
pub const LOG_ENTRIES: Allowed = Allowed::new(0.0, 100_000.0, "");
/// A weak unit's resistance as a multiple of a sound one's.
pub const WEAK_RESISTANCE: Allowed = Allowed::new(0.5, 20.0, "");
/// Cold cranking amps.
pub const CRANKING: Allowed = Allowed::new(1.0, 5000.0, "A");

/// A speed of wind, current or craft.
pub const SPEED: Allowed = Allowed::new(0.0, 60.0, "m/s");
/// A distance covered in one stretch.
pub const DISTANCE: Allowed = Allowed::new(0.0, 500_000.0, "m");
/// Static thrust of a motor.
pub const THRUST: Allowed = Allowed::new(1.0, 20_000.0, "N");
/// Drag area in the wind.
pub const WINDAGE: Allowed = Allowed::new(0.05, 30.0, "m2");
/// People aboard.
pub const PEOPLE: Allowed = Allowed::new(0.0, 40.0, "");
/// Motors that run together.
pub const MOTORS: Allowed = Allowed::new(1.0, 4.0, "");
/// Speeds of a stepped switch.
pub const STEPS: Allowed = Allowed::new(1.0, 20.0, "");
/// Gear, fuel and batteries.
pub const GEAR: Allowed = Allowed::new(0.0, 20_000.0, "kg");
/// A side of a bay: from a little more than a hand's breadth.
pub const BAY_SIDE: Allowed = Allowed::new(60.0, 5000.0, "mm");
/// Position along the craft.
pub const POSITION: Allowed = Allowed::new(0.0, 1.0, "");
/// Outputs of a charger.
pub const CHARGER_BANKS: Allowed = Allowed::new(1.0, 16.0, "");
/// Current of one output.
pub const CHARGER_CURRENT: Allowed = Allowed::new(0.1, 500.0, "A");
/// Hours out of a day.
pub const HOURS_OF_DAY: Allowed = Allowed::new(0.1, 24.0, "h");
/// Hours a device runs.
pub const DEVICE_HOURS: Allowed = Allowed::new(0.0, 168.0, "h");
/// Share of a stretch the motor works.
pub const WORKING_SHARE: Allowed = Allowed::new(0.01, 1.0, "");
/// Rise over run of a road.
pub const GRADE: Allowed = Allowed::new(-0.35, 0.35, "");
/// Stops on a stretch.
pub const STOPS: Allowed = Allowed::new(0.0, 500.0, "");
/// A lead from the pack to the motor, one way.
pub const LEAD: Allowed = Allowed::new(0.1, 60.0, "m");
/// Days that two banks in turn are gone through.
pub const TURN_DAYS: Allowed = Allowed::new(1.0, 7.0, "days");
/// Starts of an engine a day.
pub const STARTS: Allowed = Allowed::new(0.5, 200.0, "");
/// Charge that a meter shows under way. [%]
pub const METERED_PERCENT: Allowed = Allowed::new(0.0, 100.0, "%");
/// Current that a meter shows under way; below zero it is charged. [A]
pub const METERED_CURRENT: Allowed = Allowed::new(-2000.0, 2000.0, "A");
/// What a starter draws.
pub const STARTER: Allowed = Allowed::new(1.0, 3000.0, "A");
/// Seconds that a starter turns.
pub const STARTING: Allowed = Allowed::new(0.2, 60.0, "s");
/// Days between charges of a house battery.
pub const HOUSE_DAYS: Allowed = Allowed::new(0.5, 60.0, "days");
/// A hill, rise over run in percent.
pub const HILL: Allowed = Allowed::new(0.0, 35.0, "%");
/// Seconds to get up to speed.
pub const SPRINT: Allowed = Allowed::new(1.0, 120.0, "s");
/// A speed to get up to.
pub const ROAD_SPEED: Allowed = Allowed::new(0.5, 40.0, "m/s");
/// Units that fail in a season.
pub const FAILING: Allowed = Allowed::new(0.0, 50.0, "in 100");
/// Days in a row without charging.
pub const DAYS_WITHOUT_CHARGING: Allowed = Allowed::new(1.0, 7.0, "");

/// A figure of a label that was replaced, whatever it is.
pub const CORRECTED: Allowed = Allowed::new(0.0, 1_000_000.0, "");
/// Watt-hours as a label prints them.
pub const LABEL_ENERGY: Allowed = Allowed::new(1.0, 500_000.0, "Wh");
/// Share of the charge lost in a month of rest.
pub const SELF_DISCHARGE: Allowed = Allowed::new(0.0, 1.0, "");
/// Years of warranty.
pub const WARRANTY: Allowed = Allowed::new(0.0, 50.0, "years");

/// Longest name, in characters.
pub const NAME_LENGTH: usize = 80;
/// Pieces of a part of one's own.
pub const PIECES: Allowed = Allowed::new(1.0, 1000.0, "");
/// What is read at a step of a build: volts, N m, mm, Ah.
pub const READING: Allowed = Allowed::new(-1000.0, 100_000.0, "");
/// Longest note or web address, in characters.
pub const TEXT_LENGTH: usize = 400;
/// Most packs beside one another.
pub const MOST_PACKS: usize = 10_000;
/// Most ratings, draw-curve points or cycle promises in one list.
pub const MOST_POINTS: usize = 64;

/// Why a name was not taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum BadName {
    /// Nothing was typed.
    #[error("Give it a name.")]
    Empty,
    /// Too long: what it has, and what is allowed.
    #[error("Use at most {1} characters; this has {0}.")]
    TooLong(usize, usize),
    /// Line ends or other control characters.
    #[error("Use letters, digits and signs on one line.")]
    Control,
}

/// Lets a name through, without the space around it.
///
/// # Errors
/// [`BadName`] when it is empty, too long, or holds control characters.
pub fn name(typed: &str) -> Result<String, BadName> {
    text(typed, NAME_LENGTH)
}

/// Lets words on one line through, without the space around them.
///
/// # Errors
/// As [`name`], with another length.
pub fn text(typed: &str, most: usize) -> Result<String, BadName> {
    let text = typed.trim();
    let length = text.chars().count();
    if text.is_empty() {
        Err(BadName::Empty)
    } else if length > most {
        Err(BadName::TooLong(length, most))
    } else if text.chars().any(char::is_control) {
        Err(BadName::Control)
    } else {
        Ok(text.to_owned())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_outside_and_no_numbers_are_told_what_is_allowed() {
        assert_eq!(SERIES.check_count(2.0), Ok(2));
        for (value, says) in [
            (0.0, "Type a number from 1 to 64, as in 8."),
            (65.0, "Type a number from 1 to 64, as in 8."),
            (f64::NAN, "Type a number from 1 to 64, as in 8."),
            (f64::INFINITY, "Type a number from 1 to 64, as in 8."),
            (1.5, "Type a whole number from 1 to 64, as in 8."),
        ] {
            assert_eq!(SERIES.check_count(value).expect_err("refused").to_string(), says);
        }
    }

    #[test]
    fn names_are_trimmed_and_bounded() {
        assert_eq!(name("  Marl Point 12-100 "), Ok("Marl Point 12-100".to_owned()));
        assert_eq!(name(" \t "), Err(BadName::Empty));
        assert_eq!(name(&"x".repeat(100_000)), Err(BadName::TooLong(100_000, NAME_LENGTH)));
        assert_eq!(name("two\nlines"), Err(BadName::Control));
    }
}
