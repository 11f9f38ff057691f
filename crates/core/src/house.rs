//! House rules: how low to go, what to keep for the way home, how far to look ahead.

use crate::shelf::Chemistry;
use crate::units::AmpHours;

/// A floor for each chemistry, 0 to below 1.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Floors {
    flooded: f64,
    agm: f64,
    gel: f64,
    lfp: f64,
    nmc: f64,
}

impl Default for Floors {
    fn default() -> Self {
        let usual = Chemistry::default_floor;
        Self {
            flooded: usual(Chemistry::Flooded),
            agm: usual(Chemistry::Agm),
            gel: usual(Chemistry::Gel),
            lfp: usual(Chemistry::Lfp),
            nmc: usual(Chemistry::Nmc),
        }
    }
}

/// A ceiling for each chemistry: what it is charged to for an outing, 1 by default.
///
/// Lead wants to be full. Lithium is charged to 80 or 90 % by one school, which says that the top of the charge wears
/// it most; to 100 % by the other.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ceilings(Floors);

impl Default for Ceilings {
    fn default() -> Self {
        Self(Floors { flooded: 1.0, agm: 1.0, gel: 1.0, lfp: 1.0, nmc: 1.0 })
    }
}

impl Floors {
    /// The floor of a chemistry, 0 to below 1.
    const fn of(&self, chemistry: Chemistry) -> f64 {
        match chemistry {
            Chemistry::Flooded => self.flooded,
            Chemistry::Agm => self.agm,
            Chemistry::Gel => self.gel,
            Chemistry::Lfp => self.lfp,
            Chemistry::Nmc => self.nmc,
        }
    }

    /// The same, to be changed.
    const fn of_mut(&mut self, chemistry: Chemistry) -> &mut f64 {
        match chemistry {
            Chemistry::Flooded => &mut self.flooded,
            Chemistry::Agm => &mut self.agm,
            Chemistry::Gel => &mut self.gel,
            Chemistry::Lfp => &mut self.lfp,
            Chemistry::Nmc => &mut self.nmc,
        }
    }
}

/// The user's own rules; they hold everywhere.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HouseRules {
    /// Share of the charge that stays in the battery, by chemistry.
    pub floors: Floors,
    /// Share of the charge that it is charged to, by chemistry.
    pub ceilings: Ceilings,
    /// Reserve for the way home, as a share of what may be used (full down to the floor).
    pub reserve: f64,
    /// Years looked ahead.
    pub horizon_years: f64,
    /// How the packs are kept.
    pub keeping: crate::life::Keeping,
    /// What money is reckoned with.
    pub money: crate::money::Terms,
    /// A charger's missing profile is not held against it.
    pub drop_in: bool,
    /// Nothing but the BMS breaks a fault of lithium.
    pub bms_is_enough: bool,
    /// A charger for each battery, where one has to be bought.
    pub charger_each: bool,
}

impl Default for HouseRules {
    fn default() -> Self {
        Self {
            floors: Floors::default(),
            ceilings: Ceilings::default(),
            reserve: 0.2,
            horizon_years: 10.0,
            keeping: crate::life::Keeping::AS_RATED,
            money: crate::money::Terms::default(),
            drop_in: false,
            bms_is_enough: false,
            charger_each: false,
        }
    }
}

impl HouseRules {
    /// Floor of a chemistry, 0 to below 1.
    pub const fn floor(&self, chemistry: Chemistry) -> f64 {
        self.floors.of(chemistry)
    }

    /// Ceiling of a chemistry, above its floor to 1.
    pub const fn ceiling(&self, chemistry: Chemistry) -> f64 {
        self.ceilings.0.of(chemistry)
    }

    /// The same rules with another ceiling for one chemistry.
    pub fn with_ceiling(mut self, chemistry: Chemistry, ceiling: f64) -> Self {
        *self.ceilings.0.of_mut(chemistry) = ceiling;
        self
    }

    /// The same rules with another floor for one chemistry.
    pub fn with_floor(mut self, chemistry: Chemistry, floor: f64) -> Self {
        *self.floors.of_mut(chemistry) = floor;
        self
    }

    /// Charge below which the reserve is touched: `floor + reserve x (1 - floor)`, whatever it is charged to.
    pub fn reserve_level(&self, chemistry: Chemistry) -> f64 {
        self.reserve_level_over(chemistry, self.floor(chemistry))
    }

    /// The same on a day on which cold and draw keep the charge below a share out of reach: the reserve is what can be drawn. The
    /// floor saves life, so what is out of reach lies inside it, or above it where it is more:
    /// `max(floor, unreachable) + reserve x (1 - floor)`.
    pub fn reserve_level_over(&self, chemistry: Chemistry, unreachable: f64) -> f64 {
        let floor = self.floor(chemistry);
        floor.max(unreachable) + self.reserve * (1.0 - floor)
    }
}

/// What to look for in a shop.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NextSize {
    /// Ampere-hours that the rules ask for. [Ah]
    pub wanted: AmpHours,
    /// The next size that is sold. [Ah]
    pub sold: AmpHours,
}

/// The smallest size that is sold of so many ampere-hours at least: by the tens up to 120 Ah and by twenties above. Common
/// practice, no source.
pub fn sold_from(wanted: AmpHours) -> AmpHours {
    let step = if wanted.value() <= 120.0 { 10.0 } else { 20.0 };
    // A size that is wanted to the last digit is sold.
    AmpHours::of((wanted.value() / step - 1e-9).ceil() * step)
}

impl HouseRules {
    /// The size on a label that a charge asks for: what is used is all that may be, from the ceiling down to the reserve.
    ///
    /// `wanted = used / (ceiling - reserve level)`, which is `used / ((1 - floor) (1 - reserve))` from full.
    pub fn next_size(&self, used: AmpHours, chemistry: Chemistry) -> NextSize {
        let wanted = used / (self.ceiling(chemistry) - self.reserve_level(chemistry));
        NextSize { wanted, sold: sold_from(wanted) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_reserve_is_a_share_of_what_may_be_used() {
        let rules = HouseRules::default();
        assert!((rules.reserve_level(Chemistry::Agm) - 0.6).abs() < 1e-12);
        assert!((rules.reserve_level(Chemistry::Lfp) - 0.28).abs() < 1e-12);
        let deeper = rules.with_floor(Chemistry::Agm, 0.2);
        assert!((deeper.floor(Chemistry::Agm) - 0.2).abs() < 1e-12);
        assert!((deeper.floor(Chemistry::Gel) - 0.5).abs() < 1e-12);
    }

    /// Arithmetic of the default rules: 40 Ah of lead to half with a fifth kept are 100 Ah, of LFP to a tenth
    /// 55.6 Ah.
    #[test]
    fn the_next_size_leaves_floor_and_reserve() {
        let rules = HouseRules::default();
        for (used, chemistry, wanted, sold) in [
            (40.0, Chemistry::Agm, 100.0, 100.0),
            (40.0, Chemistry::Lfp, 55.555_555_6, 60.0),
            (49.0, Chemistry::Agm, 122.5, 140.0),
            (0.0, Chemistry::Lfp, 0.0, 0.0),
        ] {
            let size = rules.next_size(AmpHours::of(used), chemistry);
            assert!((size.wanted.value() - wanted).abs() < 1e-6, "{used}: {size:?}");
            assert!((size.sold.value() - sold).abs() < 1e-9, "{used}: {size:?}");
        }
    }
}
