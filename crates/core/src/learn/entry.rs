//! Entries of a log as equations in what is not known.

use super::{BETWEEN, FACTORS, Factor, Four, TIMING, wind_of_day};

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
    /// Of settings and of speeds that nobody measured there, the sum of the squares of what is driven at each: as much as the
    /// curve may be off there by itself, however well it is known elsewhere.
    pub between: [f64; 2],
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

    /// The parts of that which every reading of it has alike, however often it is read: one that is the same at every charge, and one
    /// that grows with what is used. The rest is new each time. Estimates; of volts, by how far the kind's units differ when full
    /// and in their fall.
    ///
    /// What grows is taken by what is expected to be used, not by what was read: else high readings, being less sure, would pull what
    /// is learnt below all of them (R. W. Peelle, *Peelle's Pertinent Puzzle*, ORNL memorandum 1987).
    fn always_off(self, read: f64, expected: f64) -> [f64; 2] {
        match self {
            Self::Shunt => [0.0, 0.015 * expected],
            Self::Percent => [0.03, 0.0],
            Self::Volts { .. } => {
                let off = (self.unsure().powi(2) - NEW_EACH_TIME.powi(2)).max(0.0).sqrt();
                let when_full = off / libm::hypot(1.0, FALL_TO_FULL * read);
                [when_full, when_full * FALL_TO_FULL * expected]
            }
            Self::Feel => [0.06, 0.0],
        }
    }

    /// Variance of a reading where so much is expected to be used.
    fn variance(self, always: [f64; 2]) -> f64 {
        match self {
            Self::Volts { .. } => {
                NEW_EACH_TIME.powi(2) + always.iter().map(|off| off * off).sum::<f64>()
            }
            _ => self.unsure() * self.unsure(),
        }
    }

    /// Whether both read the same way.
    fn is_like(self, other: Self) -> bool {
        std::mem::discriminant(&self) == std::mem::discriminant(&other)
    }
}

/// Over how far units of lead differ when full, how far they do by the charge's last ampere-hour: of kinds nobody has taught 2.4, of
/// taught units 2.7.
const FALL_TO_FULL: f64 = 2.4;
/// How far two readings of one unit's volts differ, as a share of the capacity: what a rest of hours leaves. [1]
const NEW_EACH_TIME: f64 = 0.03;

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
    /// Of the reading, of the stretches' lengths, of the curves between what was measured, of the day's wind.
    pub(super) variances: [f64; 4],
    /// The pack was emptied: it used that much at least.
    pub(super) at_least: bool,
    /// Density of a wild entry.
    pub(super) wild: f64,
    /// What it was read by, and what all its readings are off by.
    meter: Option<(Meter, [f64; 2])>,
}

/// Standard deviations of what is read, as shares. Estimates: a clamp meter in waves; a speed by GPS both ways; a capacity test.
pub(super) const AMPS: f64 = 0.04;
pub(super) const AMPS_AT_SPEED: f64 = 0.05;
pub(crate) const CAPACITY: f64 = 0.015;

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

    /// How what is read here hangs together with what is read there, beside the factors: the same meter is off alike.
    pub(super) fn alike(&self, other: &Self) -> f64 {
        match (self.meter, other.meter) {
            (Some((a, off)), Some((b, other))) if a.is_like(b) => {
                std::iter::zip(off, other).map(|(a, b)| a * b).sum()
            }
            _ => 0.0,
        }
    }
}

impl Parts {
    /// All of it.
    pub fn sum(&self) -> f64 {
        self.at_settings + self.at_speed + self.holding + self.devices
    }

    /// Variance of what the curves may be off by themselves.
    fn by_themselves(&self) -> f64 {
        std::iter::zip(self.between, BETWEEN).map(|(squares, sd)| squares * sd * sd).sum()
    }

    /// Variance that each part has of its own beside the factors', as [`terms`](Self::terms) has them.
    pub(super) fn own(&self, wind_guessed: bool) -> [f64; 4] {
        let timing = |n: usize| TIMING * TIMING * self.squares[n];
        let between = |n: usize| BETWEEN[n] * BETWEEN[n] * self.between[n];
        let of = |part: f64, variance: f64| {
            if part > 0.0 { variance / (part * part) } else { 0.0 }
        };
        [
            of(self.at_settings, timing(0) + between(0)),
            of(self.at_speed, timing(1) + between(1)),
            of(self.holding, timing(2)) + wind_of_day(wind_guessed),
            0.0,
        ]
    }

    /// Each with how it goes with the factors.
    pub(super) fn terms(&self, sees_capacity: bool) -> [(f64, Four); 4] {
        let less = if sees_capacity { unit(Factor::Capacity) } else { Four::zeros() };
        let draw = unit(Factor::Draw);
        [
            (self.at_settings, draw - less),
            (self.at_speed, draw + unit(Factor::Drag) - less),
            (self.holding, draw + unit(Factor::Wind) * 1.5 - less),
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
                variances: [sd * sd, 0.0, 0.0, 0.0],
                at_least: false,
                wild: 0.6,
                meter: None,
            }
        };
        match self.told {
            Told::Amps(ratio) => log(ratio, unit(Factor::Draw), libm::hypot(AMPS, BETWEEN[0])),
            Told::AmpsAtSpeed(ratio) => {
                let sd = libm::hypot(AMPS_AT_SPEED, BETWEEN[1]);
                log(ratio, unit(Factor::Draw) + unit(Factor::Drag), sd)
            }
            Told::Capacity(share) => log(share, unit(Factor::Capacity), CAPACITY),
            Told::Used { parts, used, meter, wind_guessed } => {
                let wind = wind_of_day(wind_guessed);
                let (mut expected, mut slope, mut holding) = (0.0, Four::zeros(), 0.0);
                for (n, (part, row)) in parts.terms(meter != Meter::Shunt).into_iter().enumerate() {
                    let takes = part * libm::exp(row.dot(state));
                    expected += takes;
                    slope += row * takes;
                    if n == 2 {
                        holding = takes;
                    }
                }
                let always = meter.always_off(used, expected);
                let variances = [
                    meter.variance(always),
                    TIMING * TIMING * parts.squares.iter().sum::<f64>(),
                    parts.by_themselves(),
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
                    meter: Some((meter, always)),
                }
            }
        }
    }
}
