//! House rules: how low to go, what to keep for the way home, how far to look ahead.

use crate::shelf::Chemistry;

/// The user's own rules; they hold everywhere.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HouseRules {
    /// Share of the charge that stays in the battery, by chemistry in [`Chemistry::ALL`]'s order.
    pub floors: [f64; 5],
    /// Reserve for the way home, as a share of what may be used (full down to the floor).
    pub reserve: f64,
    /// Years looked ahead.
    pub horizon_years: f64,
    /// How the packs are kept.
    pub keeping: crate::life::Keeping,
}

impl Default for HouseRules {
    fn default() -> Self {
        Self {
            floors: Chemistry::ALL.map(Chemistry::default_floor),
            reserve: 0.2,
            horizon_years: 10.0,
            keeping: crate::life::Keeping::AS_RATED,
        }
    }
}

impl HouseRules {
    /// Floor of a chemistry, 0 to below 1.
    pub const fn floor(&self, chemistry: Chemistry) -> f64 {
        self.floors[chemistry as usize]
    }

    /// The same rules with another floor for one chemistry.
    pub fn with_floor(mut self, chemistry: Chemistry, floor: f64) -> Self {
        self.floors[chemistry as usize] = floor;
        self
    }

    /// Charge below which the reserve is touched: `floor + reserve x (1 - floor)`.
    pub fn reserve_level(&self, chemistry: Chemistry) -> f64 {
        let floor = self.floor(chemistry);
        floor + self.reserve * (1.0 - floor)
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
}
