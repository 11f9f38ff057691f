//! Entries of a log as equations in what is not known.

use super::{FACTORS, Factor, Four, TIMING, WIND_GUESSED, WIND_OF_DAY};

/// What an outing takes by label and typical figures, as shares of the label's capacity.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Parts {
    /// Driven at settings of the motor, or by amps that were told.
    pub at_settings: f64,
    /// Driven at a speed.
    pub at_speed: f64,
    /// Holding a place in the wind.
    pub holding: f64,
    /// Sonar, lights and the like.
    pub devices: f64,
    /// Of settings, speeds and holding each the sum of the squares of what its stretches take: as much as their lengths may be
    /// off together.
    pub squares: [f64; 3],
}

/// How a charge was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Meter {
    /// Amp-hours of a meter with a shunt: to a fiftieth. It sees the draw, not the capacity.
    Shunt,
    /// The percent of a battery that counts: to six hundredths.
    Percent,
    /// Volts of lead after a rest: to so many hundredths, see [`charge_by_volts`](crate::drawdown::charge_by_volts).
    Volts {
        /// One standard deviation, in hundredths of the capacity.
        points: u8,
    },
    /// By feel: to an eighth.
    Feel,
}

impl Meter {
    /// Standard deviation of what it reads, as a share of the capacity. Estimates, but of volts.
    pub fn unsure(self) -> f64 {
        match self {
            Self::Shunt => 0.02,
            Self::Percent => 0.06,
            Self::Volts { points } => f64::from(points) / 100.0,
            Self::Feel => 0.12,
        }
    }
}

/// What was observed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Told {
    /// What an outing used, as a share of the label's capacity.
    Used {
        /// What it was expected to take.
        parts: Parts,
        /// What it took.
        used: f64,
        /// How that is known.
        meter: Meter,
        /// Nobody measured the wind.
        wind_guessed: bool,
    },
    /// Amps read at a setting, over those of the draw curve.
    Amps(f64),
    /// Amps read at a speed, over those of the model.
    AmpsAtSpeed(f64),
    /// A capacity that was measured, over the label's.
    Capacity(f64),
}

/// An entry of a log.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Entry {
    /// Which one, for its owner.
    pub id: i64,
    /// When, in years since some day. [a]
    pub years: f64,
    /// What was observed.
    pub told: Told,
}

/// Why nothing is learnt from an entry.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// It came back with more than it left with.
    #[error("it ended fuller than it began: are start and end swapped?")]
    Swapped,
    /// More than there is.
    #[error("it used more than a full pack")]
    TooMuch,
    /// Nothing was driven.
    #[error("nothing was to be driven that day")]
    NothingDriven,
    /// Amps that are not of this motor.
    #[error("the amps are less than half, or more than twice, of what the motor draws there")]
    OtherAmps,
    /// A capacity that is not of this pack.
    #[error("the capacity is far from the label's: 62 to 160 % of it can be believed")]
    OtherCapacity,
}

/// Most that a day can use, with a meter that is a little off.
const MOST_USED: f64 = 1.02;
/// From here on nobody knows how much more it would have used.
pub(super) const EMPTIED: f64 = 0.97;

/// One equation at some place: what is expected, how that changes with each factor, what was read less that, and how far
/// reading and day may be off.
#[derive(Debug, Clone, Copy)]
pub(super) struct Equation {
    pub(super) expected: f64,
    pub(super) slope: Four,
    pub(super) residual: f64,
    /// Of the reading, of the stretches' lengths, of the day's wind.
    pub(super) variances: [f64; 3],
    /// The pack was emptied: it used that much at least.
    pub(super) at_least: bool,
    /// Density of a wild entry.
    pub(super) wild: f64,
}

/// Standard deviations of what is read, as shares. Estimates: a clamp meter in waves; a speed by GPS both ways; a capacity test.
pub(super) const AMPS: f64 = 0.04;
pub(super) const AMPS_AT_SPEED: f64 = 0.05;
pub(super) const CAPACITY: f64 = 0.015;

pub(super) const fn unit(factor: Factor) -> Four {
    let mut all = [0.0; FACTORS];
    all[factor as usize] = 1.0;
    Four::from_array_storage(nalgebra::ArrayStorage([all]))
}

impl Equation {
    /// How far reading and day may be off together.
    pub(super) fn variance(&self) -> f64 {
        self.variances.iter().sum()
    }
}

impl Parts {
    /// All of it.
    pub fn sum(&self) -> f64 {
        self.at_settings + self.at_speed + self.holding + self.devices
    }

    /// Each with how it goes with the factors, the wind of the day's own middle and whether timing counts.
    pub(super) fn terms(&self, sees_capacity: bool, wind: f64) -> [(f64, Four); 4] {
        let less = if sees_capacity { unit(Factor::Capacity) } else { Four::zeros() };
        let draw = unit(Factor::Draw);
        [
            (self.at_settings, draw - less),
            (self.at_speed, draw + unit(Factor::Drag) - less),
            // The mean of a log-normal push.
            (self.holding * libm::exp(wind / 2.0), draw + unit(Factor::Wind) * 1.5 - less),
            (self.devices, -less),
        ]
    }
}

impl Entry {
    /// Whether anything can be learnt from it.
    ///
    /// # Errors
    /// [`Refused`], in words.
    pub fn check(&self) -> Result<(), Refused> {
        let within = |v: f64, low: f64, high: f64| v.is_finite() && (low..=high).contains(&v);
        match self.told {
            Told::Used { parts, .. } if !(parts.sum() > 1e-6 && parts.sum().is_finite()) => {
                Err(Refused::NothingDriven)
            }
            Told::Used { used, .. } if used.is_nan() || used <= 0.0 => Err(Refused::Swapped),
            Told::Used { used, .. } if used > MOST_USED => Err(Refused::TooMuch),
            Told::Amps(ratio) | Told::AmpsAtSpeed(ratio) if !within(ratio, 0.5, 2.0) => {
                Err(Refused::OtherAmps)
            }
            Told::Capacity(share) if !within(share, 1.0 / 1.6, 1.6) => Err(Refused::OtherCapacity),
            _ => Ok(()),
        }
    }

    /// The equation at a place.
    pub(super) fn at(&self, state: &Four) -> Equation {
        let log = |ratio: f64, slope: Four, sd: f64| {
            let expected = slope.dot(state);
            Equation {
                expected,
                slope,
                residual: ratio.ln() - expected,
                variances: [sd * sd, 0.0, 0.0],
                at_least: false,
                wild: 0.6,
            }
        };
        match self.told {
            Told::Amps(ratio) => log(ratio, unit(Factor::Draw), AMPS),
            Told::AmpsAtSpeed(ratio) => {
                log(ratio, unit(Factor::Draw) + unit(Factor::Drag), AMPS_AT_SPEED)
            }
            Told::Capacity(share) => log(share, unit(Factor::Capacity), CAPACITY),
            Told::Used { parts, used, meter, wind_guessed } => {
                let wind = if wind_guessed { WIND_GUESSED } else { WIND_OF_DAY };
                let (mut expected, mut slope, mut holding) = (0.0, Four::zeros(), 0.0);
                for (n, (part, row)) in
                    parts.terms(meter != Meter::Shunt, wind).into_iter().enumerate()
                {
                    let takes = part * libm::exp(row.dot(state));
                    expected += takes;
                    slope += row * takes;
                    if n == 2 {
                        holding = takes;
                    }
                }
                let variances = [
                    meter.unsure() * meter.unsure(),
                    TIMING * TIMING * parts.squares.iter().sum::<f64>(),
                    holding * holding * (libm::exp(wind) - 1.0),
                ];
                let at_least = used >= EMPTIED && meter != Meter::Shunt;
                let read = if at_least { EMPTIED } else { used };
                Equation {
                    expected,
                    slope,
                    residual: read - expected,
                    variances,
                    at_least,
                    wild: 1.0,
                }
            }
        }
    }
}
