//! The sums that people do in a shop: a battery's price by what its label says it holds. Each is defined here and nowhere else; what
//! a pack really costs by its life is [`Cost`](crate::money::Cost).

use super::Battery;
use crate::units::Money;

impl Battery {
    /// The most cycles on the label, at whatever depth; `None` when none are given.
    pub fn label_cycles(&self) -> Option<f64> {
        let most = self.cycles.iter().map(|p| p.cycles).reduce(f64::max)?;
        (most > 0.0).then_some(most)
    }

    /// Price of a rated cycle: `price / the most cycles on the label`, whatever their depth and however often anyone goes out. The
    /// figure that sells. `None` without a price or cycles.
    pub fn price_per_rated_cycle(&self) -> Option<Money> {
        Some(self.price? / self.label_cycles()?)
    }

    /// Price of an ampere-hour: `price / label Ah`, good among batteries of the same volts. `None` without a price or a capacity.
    pub fn price_per_ah(&self) -> Option<Money> {
        let (ah, _) = self.headline().ok()?;
        (ah.value() > 0.0).then_some(self.price? / ah.value())
    }

    /// Price of a watt-hour: `price / label Wh`, the label's ampere-hours times its nominal volts. `None` without a price or a
    /// capacity.
    pub fn price_per_wh(&self) -> Option<Money> {
        let energy = self.energy().ok()?.value();
        (energy > 0.0).then_some(self.price? / energy)
    }
}
