//! A plan: one rig on one day under the house rules, and the packs in question.

use crate::compare::{self, Evaluation, NoDrawCurve};
use crate::day::Day;
use crate::house::HouseRules;
use crate::pack::Pack;
use crate::rig::Rig;

/// Everything a verdict needs.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Three-letter code of the currency that prices are in.
    pub currency: String,
    /// The rig.
    pub rig: Rig,
    /// The day.
    pub day: Day,
    /// The rules of the house.
    pub rules: HouseRules,
    /// The packs to compare, in the owner's order.
    pub packs: Vec<Pack>,
}

impl Plan {
    /// The verdict on every pack, in their order.
    ///
    /// # Errors
    /// [`NoDrawCurve`] when a stretch is given by a setting and the motor's draw is not known.
    pub fn evaluate(&self) -> Result<Vec<Evaluation>, NoDrawCurve> {
        self.packs
            .iter()
            .map(|pack| compare::evaluate(&self.rig, &self.day, &self.rules, pack))
            .collect()
    }
}
