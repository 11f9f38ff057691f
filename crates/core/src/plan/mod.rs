//! A plan: one rig on one day under the house rules, and the packs in question.

mod measured;
pub mod schools;
mod what_if;

pub use what_if::{WhatIf, leads_back, way_home};

use crate::day::Day;
use crate::house::HouseRules;
use crate::kept::Build;
use crate::pack::Pack;
use crate::rig::{Charger, Rig, Supply};
use crate::verdict::{Evaluation, Judge, NoDrawCurve};
use crate::wants::Want;

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
    /// What its owner wants of a pack, each kind once.
    pub wants: Vec<Want>,
    /// What is kept of the build of the chosen pack.
    pub build: Build,
}

impl Plan {
    /// What judges its packs, and any other.
    ///
    /// # Errors
    /// [`NoDrawCurve`] when a stretch is given by a setting and the motor's draw is not known.
    pub fn judge(&self) -> Result<Judge, NoDrawCurve> {
        Judge::beside(&self.rig, &self.day, &self.rules_filled(), self.aboard())
    }

    /// The house rules, with the price of a kilowatt-hour that is typical for the currency where none is told.
    pub fn rules_filled(&self) -> HouseRules {
        HouseRules { money: self.rules.money.in_currency(&self.currency), ..self.rules }
    }

    /// The first of its packs that is built like one: what is told of that holds for this.
    pub fn built_like(&self, pack: &Pack) -> Option<&Pack> {
        self.packs.iter().find(|p| p.is_built_like(pack))
    }

    /// What of the rig makes charge under way, a generator or the sun, and is not told when it does on this day: verdicts count
    /// nothing of it.
    pub fn idle_sources(&self) -> impl Iterator<Item = &Charger> {
        let Day { solar, charging, .. } = &self.day;
        let overnight = self.day.is_charged_overnight();
        self.rig.chargers.iter().filter(move |charger| match charger.supply {
            Supply::Mains => false,
            Supply::Solar => solar.is_empty() && !overnight,
            Supply::Generator => charging.is_empty() && !overnight,
        })
    }

    /// The pack that is aboard today, if one is said to be.
    pub fn aboard(&self) -> Option<&Pack> {
        self.packs.iter().find(|pack| pack.aboard)
    }

    /// The rig as it was measured and weighed, with the pack that is aboard.
    pub fn rig_as_measured(&self) -> Rig {
        self.rig.read_at(self.aboard().map(Pack::loaded_voltage))
    }

    /// All that is to be told of every pack, in their order, one after another: whoever has threads to spare
    /// shares [`Self::judge`] among them.
    ///
    /// # Errors
    /// As [`Self::judge`].
    pub fn evaluate(&self) -> Result<Vec<Evaluation>, NoDrawCurve> {
        let judge = self.judge()?;
        Ok(self.with_parts_counted().packs.iter().map(|pack| judge.in_full(pack)).collect())
    }
}
