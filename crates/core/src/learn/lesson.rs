//! What is taken over into a rig and its pack: by how much they differ, and how much of the doubt is left.

use super::entry::unit;
use super::{BETWEEN, Factor, Four, Learned, TIMING, wind_of_day};
use crate::keyed::keyed;
use crate::pack::Health;
use crate::rig::Lesson;
use jiff::civil::Date;

keyed! {
    /// How a stretch is driven: what it takes is a product of factors, and the product is often known where no factor is.
    pub enum Driven {
        /// By settings of the motor, or by amps or watts that were typed.
        AtSettings,
        /// At a speed.
        AtSpeed,
        /// Holding a place in the wind.
        Holding,
    }
}

/// Above this share of the doubt nothing is said to be learnt yet.
const NOT_YET: f64 = 0.8;

impl Driven {
    /// The factors in it, and the variance of its logarithm that no log takes away: stretches last longer than planned, and the
    /// wind is what it is that day.
    fn made_of(self) -> (Four, f64) {
        let draw = unit(Factor::Draw);
        let timing = TIMING * TIMING;
        match self {
            Self::AtSettings => (draw, timing + BETWEEN[0] * BETWEEN[0]),
            Self::AtSpeed => (draw + unit(Factor::Drag), timing + BETWEEN[1] * BETWEEN[1]),
            Self::Holding => (draw + unit(Factor::Wind) * 1.5, timing + wind_of_day(false)),
        }
    }
}

impl Learned {
    /// What such a stretch takes over what is told or typical: the middle, and the ends between which it lies four times in five.
    pub fn takes(&self, driven: Driven) -> [f64; 3] {
        self.between(&driven.made_of().0)
    }

    /// The same before anything was logged.
    pub fn takes_before(&self, driven: Driven) -> [f64; 3] {
        self.between_before(&driven.made_of().0)
    }

    /// Whether so much was learnt of it that it is worth saying.
    pub fn knows(&self, driven: Driven) -> bool {
        let (of, _) = driven.made_of();
        self.variance_of(&of).sqrt() <= NOT_YET * self.variance_before(&of).sqrt()
    }

    /// Whether the capacity is known better than before.
    pub fn knows_capacity(&self) -> bool {
        self.still(Factor::Capacity) <= NOT_YET
    }

    /// What a rig takes over of it on a day; `None` where nothing was learnt yet.
    ///
    /// `doubt = sqrt((s² + v) / (s0² + v))`, `s` and `s0` how unsure the product is now and was before, `v` what no log takes
    /// away.
    pub fn lesson(&self, driven: Driven, on: Date) -> Option<Lesson> {
        if !self.knows(driven) {
            return None;
        }
        let (of, besides) = driven.made_of();
        let left = (self.variance_of(&of) + besides) / (self.variance_before(&of) + besides);
        Some(Lesson {
            times: libm::exp(of.dot(&self.mean)),
            doubt: left.sqrt(),
            entries: u32::try_from(self.count()).unwrap_or(u32::MAX),
            on,
        })
    }

    /// What a pack that was told to be so takes over of it; `None` where nothing was learnt of its capacity yet.
    pub fn health(&self, told: Health) -> Option<Health> {
        self.knows_capacity().then(|| Health {
            doubt: self.still(Factor::Capacity),
            ..Health::at(told.capacity_share * self.factor(Factor::Capacity)[1])
        })
    }
}
