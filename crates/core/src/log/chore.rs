//! What comes round with an owned pack.

use crate::keyed::keyed;
use crate::shelf::Chemistry;

/// Days between charges to full that balance lithium's cells. Common practice, no source.
pub const BALANCE_DAYS: i32 = 90;

keyed! {
    /// Something that comes round.
    pub enum Chore {
        /// Distilled water, after charging.
        Water,
        /// Equalize.
        Equalize,
        /// Charge to full, so that cells are balanced.
        Balance,
        /// Charge in storage.
        TopUp,
        /// Clean, dry, torque.
        Clean,
        /// A capacity test.
        Test,
    }
}

impl Chore {
    /// Days from one time to the next; `None` where a pack of that chemistry never needs it. Common practice, no source, but for
    /// the yearly test: IEEE 450 and IEEE 1188 ask for one a year once a battery is below 90 %.
    pub const fn every(self, chemistry: Chemistry) -> Option<i32> {
        let flooded = matches!(chemistry, Chemistry::Flooded);
        match self {
            Self::Water if flooded => Some(35),
            Self::Equalize if flooded => Some(90),
            Self::Balance if !chemistry.is_lead() => Some(BALANCE_DAYS),
            Self::TopUp => Some(90),
            Self::Clean => Some(365),
            Self::Test => Some(365),
            Self::Water | Self::Equalize | Self::Balance => None,
        }
    }
}
