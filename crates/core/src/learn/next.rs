//! What to measure next, and what it would narrow.

use super::entry::{AMPS, AMPS_AT_SPEED, CAPACITY, unit};
use super::{BETWEEN, Day, Factor, Four, Learned};

/// Something that an owner can measure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Measure {
    /// Amps at one setting, with a clamp or the meter's display.
    AmpsAtSetting,
    /// A capacity test on the bench.
    CapacityTest,
    /// Amps at a speed by GPS, both ways.
    AmpsAtSpeed,
    /// Amps while a place is held, with a wind meter.
    AmpsHolding,
}

/// Standard deviation of amps read while a place is held, the wind measured. Estimate.
const AMPS_HOLDING: f64 = 0.12;

impl Measure {
    /// All of them.
    pub const ALL: [Self; 4] =
        [Self::AmpsAtSetting, Self::CapacityTest, Self::AmpsAtSpeed, Self::AmpsHolding];

    /// What it tells of, and how far it may be off.
    fn tells(self) -> (Four, f64) {
        let draw = unit(Factor::Draw);
        match self {
            Self::AmpsAtSetting => (draw, libm::hypot(AMPS, BETWEEN[0])),
            Self::CapacityTest => (unit(Factor::Capacity), CAPACITY),
            Self::AmpsAtSpeed => {
                (draw + unit(Factor::Drag), libm::hypot(AMPS_AT_SPEED, BETWEEN[1]))
            }
            Self::AmpsHolding => (draw + unit(Factor::Wind) * 1.5, AMPS_HOLDING),
        }
    }
}

/// What a measurement is worth.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Worth {
    /// Which.
    pub measure: Measure,
    /// How wide a day's band would be after it, as a share of the capacity.
    pub width: f64,
}

impl Learned {
    /// All that could be measured, what narrows a day's band most first. A measurement takes from what is not known as the
    /// update of a normal distribution does, whatever it reads.
    pub fn next(&self, day: &Day) -> Vec<Worth> {
        let mut all = Measure::ALL.map(|measure| {
            let (row, sd) = measure.tells();
            let towards = self.covariance * row;
            let known =
                self.covariance - towards * towards.transpose() / (row.dot(&towards) + sd * sd);
            Worth { measure, width: self.day_if(day, &known).width() }
        });
        all.sort_by(|a, b| a.width.total_cmp(&b.width).then(a.measure.cmp(&b.measure)));
        all.to_vec()
    }
}
