//! Tests on the bench: a discharge at a steady current, and a load for some seconds.

use crate::drawdown::fit;
use crate::drawdown::temperature::{cell_size_factor, cold};
use crate::numeric::{along, halved};
use crate::pack::Pack;
use crate::shelf::{Battery, Detail, Rating};
use crate::source::{Origin, Vouched};
use crate::units::{AmpHours, Amps, Celsius, Hours, Ohms, Volts, WattHours};
use jiff::civil::Date;

/// How a capacity test ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TestEnd {
    /// At its stop voltage, or a BMS shut off.
    Reached,
    /// Before that: what it gave is the least of what it has.
    CutShort,
}

/// A discharge at a steady current.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CapacityTest {
    /// The current, of the whole pack or of the one unit. [A]
    pub current: Amps,
    /// How long it lasted. [h]
    pub lasted: Hours,
    /// Volts at which it was stopped. [V]
    pub stop: Volts,
    /// How it ended.
    pub ended: TestEnd,
    /// How warm the battery was; 25 °C where not told. [°C]
    pub temperature: Option<Celsius>,
    /// Energy by a meter; else by the volts that the battery's law has on the way. [Wh]
    pub energy: Option<WattHours>,
}

/// What a capacity test found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CapacityFound {
    /// Amp-hours given, as read: `I t`. [Ah]
    pub given: AmpHours,
    /// Energy given, where a meter told. [Wh]
    pub delivered: Option<WattHours>,
    /// Energy of the label: nominal volts times amp-hours. [Wh]
    pub promised: WattHours,
    /// Time that an honest unit lasts at that current to that voltage at 25 °C, by its ratings. [h]
    pub rated: Hours,
    /// What the temperature makes of that time.
    pub by_warmth: f64,
    /// Its capacity as a share of the label's at 25 °C; `None` where the test was cut short.
    pub share: Option<f64>,
    /// Whether it is adjusted by time, as for an hour and more, or by current.
    pub by_time: bool,
    /// Whether it was warmer than anyone corrects for.
    pub warm: bool,
}

/// Why nothing is found.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NotFound {
    /// No capacity on its label.
    #[error("its label gives no amp-hours to hold this against")]
    NoLabel,
    /// At that current nothing of it can be told.
    #[error("at that current such a battery falls below the stop voltage at once")]
    AtOnce,
}

/// What the temperature makes of the time of a test of lead, by °C. IEEE 450 and IEEE 1188, from memory.
const TIME_FACTOR: [(f64, f64); 5] =
    [(5.0, 0.684), (10.0, 0.790), (15.0, 0.873), (20.0, 0.946), (25.0, 1.0)];
/// Tests shorter than this are adjusted by their current. IEEE 450. [h]
const BY_TIME: f64 = 1.0;

impl CapacityTest {
    /// What it found of a pack, or of one of its units: `parallel_share` is the share of the pack's strings that it loaded, 1
    /// for all of them. `C = T / (Ts Kt)`, or for less than an hour `C = I Kc / It`, `It` the current that lasts so long: IEEE
    /// 450.
    ///
    /// # Errors
    /// [`NotFound`].
    pub fn found(&self, pack: &Pack, parallel_share: f64) -> Result<CapacityFound, NotFound> {
        let fit = fit(&pack.battery).map_err(|_| NotFound::NoLabel)?;
        let strings = f64::from(pack.parallel) * parallel_share;
        let facts = pack.battery.chemistry.facts();
        let law = fit.law.ending_at(self.stop.value() / f64::from(pack.series));
        let amps = self.current.value() / strings;
        let rated = law.runtime(amps);
        let t = self.temperature.unwrap_or(Celsius::of(25.0));
        let warm = t.value() > 25.0;
        let by_warmth = match facts.lead {
            true => along(&TIME_FACTOR, t.value()),
            false => {
                (law.at_temperature(cold(pack.battery.chemistry, t)).runtime(amps) / rated).min(1.0)
            }
        };
        if rated <= 0.0 {
            return Err(NotFound::AtOnce);
        }
        let by_time = self.lasted.value() >= BY_TIME;
        let whole = if by_time {
            self.lasted.value() / (rated * by_warmth)
        } else {
            // The current at which an honest one lasts as long.
            let most = 100.0 * fit.q20;
            let lasts = |amps: f64| law.runtime(amps) > self.lasted.value();
            let same = halved((0.0, most), 60, lasts).0;
            let kc = if facts.lead { cell_size_factor(t).max(1.0) } else { 1.0 / by_warmth };
            amps * kc / same
        };
        let headline = pack.battery.headline().map_err(|_| NotFound::NoLabel)?.0;
        let volts = pack.battery.nominal_voltage * f64::from(pack.series);
        Ok(CapacityFound {
            given: self.current * self.lasted,
            delivered: self.energy,
            promised: volts * headline * strings,
            rated: Hours::of(rated),
            by_warmth,
            share: (self.ended == TestEnd::Reached).then_some(whole),
            by_time,
            warm,
        })
    }
}

impl CapacityFound {
    /// The label of a battery as it was measured on a day: each of its ratings times the share that was found, vouched for by the
    /// measurement. `None` where the test was cut short.
    pub fn as_measured(&self, battery: &Battery, on: Date) -> Option<Battery> {
        let share = self.share?;
        let mut measured = battery.clone();
        for rating in &mut measured.ratings {
            *rating = match *rating {
                Rating::Capacity { ah, over } => Rating::Capacity { ah: ah * share, over },
                Rating::Runtime { at, lasted } => Rating::Runtime { at, lasted: lasted * share },
                Rating::Energy { wh, over } => Rating::Energy { wh: wh * share, over },
            };
        }
        let by = Vouched { by: Origin::Measured, on: Some(on) };
        measured.origins.extend([(Detail::CAPACITY, by), (Detail::RATINGS, by)]);
        Some(measured)
    }
}

/// A load for some seconds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoadTest {
    /// Volts before, at rest. [V]
    pub before: Volts,
    /// Volts at its end. [V]
    pub under: Volts,
    /// The load. [A]
    pub current: Amps,
    /// How long. [s]
    pub seconds: f64,
    /// How warm the battery was; 25 °C where not told. [°C]
    pub temperature: Option<Celsius>,
}

/// What is to be said of a load test.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LoadVerdict {
    /// It bears its load.
    Pass,
    /// It sags more than it should: test its capacity.
    Weak,
    /// It collapses: a cell is dead.
    Dead,
    /// It was not charged: the test says nothing.
    NotCharged,
}

/// What a load test found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoadFound {
    /// What volts fell by for each amp: ohmic, and a little of what charges slowly. [Ω]
    pub resistance: Ohms,
    /// What such a unit has when new, by its label or typical. [Ω]
    pub usual: Ohms,
    /// The least volts that were asked for, where a table tells them. [V]
    pub least: Option<Volts>,
    /// What to say.
    pub verdict: LoadVerdict,
}

/// Least volts of a 12 V unit under half its cranking amps for fifteen seconds, by °F. From memory: the table of the
/// Battery Council International.
const LEAST: [(f64, f64); 8] = [
    (0.0, 8.5),
    (10.0, 8.7),
    (20.0, 8.9),
    (30.0, 9.1),
    (40.0, 9.3),
    (50.0, 9.4),
    (60.0, 9.5),
    (70.0, 9.6),
];
/// Rested volts under which such a unit is charged before it is tested. [V] As [`LEAST`].
const CHARGED: f64 = 12.4;
/// Times its usual resistance from which a unit is weak, and dead. Estimates: 25 % over the baseline is looked into and 50 %
/// replaced in standby service (IEEE 1188), where the baseline is the unit's own; ours is a typical one.
const SAGS: (f64, f64) = (2.0, 5.0);

impl LoadTest {
    /// What it found of one unit of a pack, or of the pack as a whole: `units` in series and `parallel` strings were loaded.
    ///
    /// # Errors
    /// [`NotFound`].
    pub fn found(&self, pack: &Pack, units: u32, parallel: u32) -> Result<LoadFound, NotFound> {
        let fit = fit(&pack.battery).map_err(|_| NotFound::NoLabel)?;
        let amps = self.current.value();
        if amps <= 0.0 {
            return Err(NotFound::AtOnce);
        }
        let series = f64::from(units);
        let resistance = ((self.before.value() - self.under.value()) / amps).max(0.0);
        // What such a unit, full and rested, falls by within so many seconds.
        let each = amps / f64::from(parallel.max(1));
        let usual = fit.law.drop(each, self.seconds / 3600.0) * series / f64::from(parallel.max(1));
        let one = |volts: Volts| volts.value() / series;
        let twelve = pack.battery.chemistry.is_lead() && pack.battery.cells() == 6;
        let half = pack.battery.cranking.map(|cca| cca.value() * 0.5 * f64::from(parallel.max(1)));
        let by_table = twelve && half.is_some_and(|half| (0.8..=1.25).contains(&(amps / half)));
        let least = by_table.then(|| {
            let f = self.temperature.map_or(77.0, |t| t.value() * 1.8 + 32.0);
            Volts::of(along(&LEAST, f) * series)
        });
        let dead = one(self.under) < 0.5 * pack.battery.nominal_voltage.value()
            || resistance > SAGS.1 * usual;
        let verdict = if twelve && one(self.before) < CHARGED && !dead {
            LoadVerdict::NotCharged
        } else if dead {
            LoadVerdict::Dead
        } else if least.map_or(resistance > SAGS.0 * usual, |least| self.under < least) {
            LoadVerdict::Weak
        } else {
            LoadVerdict::Pass
        };
        Ok(LoadFound { resistance: Ohms::of(resistance), usual: Ohms::of(usual), least, verdict })
    }
}
