//! Near misses: what would let a refused pack pass.

use super::Hurdle;
use crate::drawdown::Ended;
use crate::pack::stow::{self, Refusal};
use crate::pack::{Pack, limits};
use crate::plan::{Plan, WhatIf};
use crate::rig::Rig;
use crate::units::{Amps, Kilograms, Millimetres};
use crate::verdict::{Does, Judge, Outcome};

/// The smallest change that lets a pack pass.
#[derive(Debug, Clone, PartialEq)]
pub enum Mend {
    /// A battery that carries so much more without end, or keeping to a setting. [A]
    Amps {
        /// More amps than the label allows for the whole pack. [A]
        more: Amps,
        /// What the label allows for the whole pack. [A]
        limit: Amps,
        /// The highest setting that stays under the limit on a bad day, 0 to 10; `None` where none does.
        setting: Option<f64>,
    },
    /// One bay, a little larger.
    Bay {
        /// Its name.
        bay: String,
        /// "longer", "wider", "higher".
        way: &'static str,
        /// By so much. [mm]
        by: f64,
    },
    /// A craft or bay that carries so much more. [kg]
    Carry {
        /// What carries it.
        what: String,
        /// By so much. [kg]
        by: Kilograms,
    },
    /// Going home slower.
    SlowerHome,
}

/// What would let a pack pass that this figure refuses; `None` where no small change does.
pub fn mend(plan: &Plan, judge: &Judge, pack: &Pack, hurdle: Hurdle) -> Option<Mend> {
    let rig = judge.rig();
    match hurdle {
        Hurdle::Bms => {
            let limit = pack.max_continuous()?;
            let drawn = judge.in_full(pack).drawn?;
            let Ended::Tripped { amps, .. } = drawn.summary.ended else { return None };
            let asked = most_asked(judge, pack)?.max(amps * f64::from(pack.parallel));
            let slower = |s: &f64| {
                let mut other = plan.clone();
                WhatIf::NoFaster(*s).apply(&mut other);
                *s >= 0.5 && arrives(&other, pack).is_some()
            };
            let setting = drawn.highest_safe_setting.filter(slower);
            // With amps enough it may still be empty on the way.
            let mut stronger = pack.clone();
            stronger.battery.max_continuous = Some(asked * 1.01 / f64::from(pack.parallel));
            let does = setting.is_some() || arrives(plan, &stronger).is_some();
            (asked > limit && does).then(|| Mend::Amps { more: asked - limit, limit, setting })
        }
        Hurdle::Room => {
            let stowage = stow::stow(rig, pack)?;
            let bays = stowage.bays.iter().map(|b| (b, b.stowed.refusal.as_ref()));
            let mut mends: Vec<(f64, Mend, Rig)> =
                bays.filter_map(|(filled, refusal)| widened(rig, filled.place, refusal?)).collect();
            mends.sort_by(|a, b| a.0.total_cmp(&b.0));
            let passes =
                |rig: &Rig| stow::room(rig, &pack.battery).is_some_and(|r| r.most >= pack.units());
            mends.into_iter().find(|(.., rig)| passes(rig)).map(|(_, mend, _)| mend)
        }
        Hurdle::Weight => {
            let by = pack.mass()? - rig.battery_mass_limit?;
            Some(Mend::Carry { what: "the craft".to_owned(), by })
        }
        Hurdle::Empty => {
            gets_home_after(plan, pack, WhatIf::SlowerHome).then_some(Mend::SlowerHome)
        }
        _ => None,
    }
}

/// Whether a pack gets home above its floor on a plan's day.
pub fn gets_home(plan: &Plan, pack: &Pack) -> bool {
    matches!(arrives(plan, pack), Some(Outcome::Home | Outcome::BelowReserve))
}

/// Whether it does after a what-if: what is said to let a pack pass is tried first.
pub fn gets_home_after(plan: &Plan, pack: &Pack, what_if: WhatIf) -> bool {
    let mut other = plan.clone();
    what_if.apply(&mut other);
    gets_home(&other, pack)
}

/// The verdict on a pack that does all of its day's work and gets home, however deep; `None` of others.
pub fn arrives(plan: &Plan, pack: &Pack) -> Option<Outcome> {
    let judge = plan.judge().ok()?;
    if !limits::set_aside(pack, judge.rig()).is_empty() {
        return None;
    }
    let survey = judge.survey(pack, &judge.model(&pack.battery).ok()?);
    let home = !matches!(survey.outcome, Outcome::Stops | Outcome::Trips | Outcome::SetAside);
    (home && survey.does < Does::NotAll).then_some(survey.outcome)
}

/// A rig with one of its bays as much larger or stronger as its refusal asks for, and by how much.
fn widened(rig: &Rig, place: usize, refusal: &Refusal) -> Option<(f64, Mend, Rig)> {
    let mut rig = rig.clone();
    let bay = rig.bays.get_mut(place)?;
    let name = bay.name.clone();
    let (by, mend) = match refusal {
        Refusal::Short { way, needs, has, .. } => {
            let (side, way) = match *way {
                "long" => (&mut bay.length, "longer"),
                "wide" => (&mut bay.width, "wider"),
                _ => (&mut bay.height, "higher"),
            };
            let by = needs - has;
            *side += Millimetres::of(by);
            (by, Mend::Bay { bay: name, way, by })
        }
        Refusal::TooHeavy { mass, limit, .. } => {
            bay.mass_limit = Some(*mass);
            let by = *mass - *limit;
            (by.value(), Mend::Carry { what: name, by })
        }
        Refusal::Gasses => return None,
    };
    Some((by, mend, rig))
}

/// The highest current that the day asks of a pack, were there no BMS; `None` where it cannot be judged. [A]
fn most_asked(judge: &Judge, pack: &Pack) -> Option<Amps> {
    if !limits::set_aside(pack, judge.rig()).is_empty() {
        return None;
    }
    let mut open = pack.clone();
    (open.battery.max_continuous, open.battery.peak) = (None, None);
    let drawn = judge.in_full(&open).drawn?;
    drawn.points.iter().map(|p| p.amps).max_by(|a, b| a.value().total_cmp(&b.value()))
}
