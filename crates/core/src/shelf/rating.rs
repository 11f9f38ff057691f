//! The many ways a label states capacity, each as one point: so many hours, so many ampere-hours.

use crate::units::{AmpHours, Amps, Hours, Volts, WattHours};

/// One statement of capacity. A battery has at least one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Rating {
    /// Ampere-hours over a given number of hours at a steady current ("100 Ah at 20 h").
    Capacity {
        /// The ampere-hours.
        ah: AmpHours,
        /// The hours they were drawn over.
        over: Hours,
    },
    /// A run time at a steady current. Reserve capacity is this at 25 A (SAE J537).
    Runtime {
        /// The steady current.
        at: Amps,
        /// How long it ran.
        lasted: Hours,
    },
    /// Watt-hours over a given number of hours, as golf-car tables print them.
    Energy {
        /// The watt-hours, counted at nominal voltage.
        wh: WattHours,
        /// The hours they were drawn over.
        over: Hours,
    },
}

/// The current of the reserve-capacity test. [A] Source: SAE J537; BCI.
pub const RESERVE_CURRENT: Amps = Amps::of(25.0);

impl Rating {
    /// The same statement of a battery so many times as large: so many times the current for the same time.
    #[must_use]
    pub fn times(self, factor: f64) -> Self {
        match self {
            Self::Capacity { ah, over } => Self::Capacity { ah: ah * factor, over },
            Self::Runtime { at, lasted } => Self::Runtime { at: at * factor, lasted },
            Self::Energy { wh, over } => Self::Energy { wh: wh * factor, over },
        }
    }

    /// Reserve capacity: minutes at 25 A.
    pub const fn reserve(minutes: f64) -> Self {
        Self::Runtime { at: RESERVE_CURRENT, lasted: Hours::from_minutes(minutes) }
    }

    /// Whether it is a reserve capacity: a run time at 25 A.
    pub fn is_reserve(&self) -> bool {
        matches!(self, Self::Runtime { at, .. } if (*at - RESERVE_CURRENT).value().abs() < 1e-9)
    }

    /// Hours the rated discharge lasts. [h]
    pub fn hours(self) -> Hours {
        match self {
            Self::Capacity { over, .. } | Self::Energy { over, .. } => over,
            Self::Runtime { lasted, .. } => lasted,
        }
    }

    /// Ampere-hours the rated discharge gives. [Ah]
    ///
    /// For reserve capacity that is the charge delivered *at 25 A* (RC 180 gives 75 Ah), which
    /// is not the 20-hour capacity.
    pub fn amp_hours(self, nominal: Volts) -> AmpHours {
        match self {
            Self::Capacity { ah, .. } => ah,
            Self::Runtime { at, lasted } => at * lasted,
            Self::Energy { wh, .. } => wh / nominal,
        }
    }

    /// As it is said: "100 Ah over 20 h", "180 min at 25 A".
    pub fn words(self) -> String {
        match self {
            Self::Capacity { ah, over } => format!("{ah} over {over}"),
            Self::Runtime { at, lasted } => format!("{:.0} min at {at}", lasted.minutes()),
            Self::Energy { wh, over } => format!("{wh:.0} over {over}"),
        }
    }
}

/// Ratings as labels put them: the headline and the reserve on lines of their own, the others below.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stated<'a> {
    /// Ampere-hours, and the hours they are over.
    pub capacity: Option<(AmpHours, Hours)>,
    /// Minutes at 25 A.
    pub reserve: Option<f64>,
    /// The others.
    pub further: &'a [Rating],
}

impl<'a> Stated<'a> {
    /// Reads a list: a capacity that stands first, and a reserve that stands first or right behind it. All
    /// others stay in their order, so that [`Self::ratings`] gives the same list again.
    pub fn of(all: &'a [Rating]) -> Self {
        let (capacity, rest) = match all {
            [Rating::Capacity { ah, over }, rest @ ..] => (Some((*ah, *over)), rest),
            all => (None, all),
        };
        let (reserve, further) = match rest {
            // To a billionth of a minute: sixtieths of an hour are no binary numbers.
            [first, rest @ ..] if first.is_reserve() => {
                (Some((first.hours().minutes() * 1e9).round() / 1e9), rest)
            }
            rest => (None, rest),
        };
        Self { capacity, reserve, further }
    }

    /// The list again.
    pub fn ratings(&self) -> Vec<Rating> {
        let capacity = self.capacity.map(|(ah, over)| Rating::Capacity { ah, over });
        let reserve = self.reserve.map(Rating::reserve);
        capacity.into_iter().chain(reserve).chain(self.further.iter().copied()).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Arithmetic of SAE J537's definition (25 A): RC 180 is 75.0 Ah, RC 447 is 186.25 Ah.
    #[test]
    fn reserve_minutes_give_the_charge_delivered_at_25_amps() {
        for (minutes, ah) in [(180.0, 75.0), (447.0, 186.25)] {
            let got = Rating::reserve(minutes).amp_hours(Volts::of(12.0)).value();
            assert!((got - ah).abs() < 1e-9, "{minutes} min gave {got}");
        }
    }
}
