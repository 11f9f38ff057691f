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
        let all = |packs: &[Pack]| -> Result<Vec<Evaluation>, NoDrawCurve> {
            packs
                .iter()
                .map(|pack| compare::evaluate(&self.rig, &self.day, &self.rules, pack))
                .collect()
        };
        let cores = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
        if cores < 2 || self.packs.len() < WORTH_SHARING {
            return all(&self.packs);
        }
        let share = self.packs.len().div_ceil(cores);
        let parts: Vec<_> = std::thread::scope(|scope| {
            let chunks = self.packs.chunks(share);
            let running: Vec<_> = chunks.map(|packs| scope.spawn(move || all(packs))).collect();
            running.into_iter().map(std::thread::ScopedJoinHandle::join).collect()
        });
        let mut evaluations = Vec::with_capacity(self.packs.len());
        for part in parts {
            // A panic in a part is a panic of the whole.
            evaluations.extend(part.unwrap_or_else(|panic| std::panic::resume_unwind(panic))?);
        }
        Ok(evaluations)
    }
}

/// Packs from which on the work is shared among the cores: an evaluation takes about half a
/// millisecond, a thread a twentieth of that to start.
const WORTH_SHARING: usize = 8;
