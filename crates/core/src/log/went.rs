//! How an outing went over what was planned, step by step.

use super::{Outing, Unclear};
use crate::learn::{Ageing, Difference, Entry, Meter};
use crate::plan::Plan;
use crate::verdict::Evaluation;

/// Why an outing used more than was planned, or less.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cause {
    /// It lasted longer, or less long.
    Length,
    /// The wind that was measured was another one.
    Wind,
    /// What the log had taught until then, and no plan had taken over yet.
    Known,
    /// What is left.
    Rest,
}

/// An outing beside its plan.
#[derive(Debug, Clone, PartialEq)]
pub struct Went {
    /// The day as it was planned, with the charge that it began with; as long as it was, where that is another day altogether.
    pub planned: Evaluation,
    /// The plan of that.
    pub plan: Plan,
    /// Charge at launch, and what was to be left, 0 to 1.
    pub starts_at: f64,
    /// Charge that was to be left, 0 to 1.
    pub left_planned: f64,
    /// Charge that was left, 0 to 1.
    pub left: f64,
    /// How that is known.
    pub by: Meter,
    /// What each cause took more, as a share of the capacity; below zero less. Together they are what was used more than planned.
    pub causes: Vec<(Cause, f64)>,
    /// Why what is left differs, as far as entries can tell.
    pub difference: Option<Difference>,
}

impl Went {
    /// What was used more than planned, as a share of the capacity; below zero less.
    pub fn more(&self) -> f64 {
        self.left_planned - self.left
    }
}

/// Shorter by this is the same. [h]
const SAME: f64 = 0.02;
/// A day that lasted so much longer or less long, as a share, was another day than the planned one: it is held against a plan as
/// long as it was. Estimate.
const ANOTHER_DAY: f64 = 0.25;

/// Charge that a plan leaves of its one pack.
fn left_by(plan: &Plan) -> Result<f64, Unclear> {
    let pack = plan.packs.first().ok_or(Unclear::NoPack)?;
    let judge = plan.judge().map_err(|_| Unclear::NoDraw)?;
    if !judge.in_use(pack) {
        return Err(Unclear::NoPack);
    }
    let model = judge.model(&pack.battery).map_err(|_| Unclear::NoPack)?;
    Ok(judge.ran(pack, &model).1.charge_left)
}

impl Outing {
    /// Its day as it was planned, but for the charge that it began with.
    fn as_planned(&self, driven: &Plan) -> Plan {
        let mut plan = self.plan.clone();
        (plan.day.start_charge, plan.day.days_without_charging) = (driven.day.start_charge, 1);
        let lasted = driven.day.lasts() / plan.day.lasts();
        if (lasted - 1.0).abs() > ANOTHER_DAY {
            plan.day = plan.day.as_long(lasted);
        }
        plan
    }

    /// Charge that was to be left, and that was: the same as [`Went`] has, without its causes.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn left(&self) -> Result<(f64, f64), Unclear> {
        let (used, _) = self.share_used()?;
        let driven = self.as_driven()?;
        let starts_at = driven.day.start_charge.unwrap_or(1.0);
        Ok((left_by(&self.as_planned(&driven))?, starts_at - used))
    }

    /// How it went over what was planned; `entries` are the log's, of a pack that ages so.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn went(&self, id: i64, entries: &[Entry], ageing: Ageing) -> Result<Went, Unclear> {
        let (used, by) = self.share_used()?;
        let driven = self.as_driven()?;
        let starts_at = driven.day.start_charge.unwrap_or(1.0);
        let plan = self.as_planned(&driven);
        let pack = plan.packs.first().ok_or(Unclear::NoPack)?.clone();
        let judge = plan.judge().map_err(|_| Unclear::NoDraw)?;
        let planned = judge.in_full(&pack);
        let left_planned = planned.drawn.as_ref().ok_or(Unclear::NoPack)?.summary.charge_left;
        let takes = |plan: &Plan| Ok::<_, Unclear>(starts_at - left_by(plan)?);
        let mut causes = Vec::new();
        let mut taken = starts_at - left_planned;
        let mut step = plan.clone();
        if (driven.day.lasts() - step.day.lasts()).value().abs() > SAME {
            let (conditions, hourly) = (step.day.conditions, step.day.hourly.clone());
            step.day = driven.day.clone();
            (step.day.conditions, step.day.hourly) = (conditions, hourly);
            let then = takes(&step)?;
            causes.push((Cause::Length, then - taken));
            taken = then;
        }
        if driven.day.conditions.wind != step.day.conditions.wind {
            step.day = driven.day.clone();
            let then = takes(&step)?;
            causes.push((Cause::Wind, then - taken));
            taken = then;
        }
        let difference = if self.counts { Difference::of(entries, id, ageing) } else { None };
        if let Some(d) = &difference
            && (d.expected - taken).abs() > 0.005
        {
            causes.push((Cause::Known, d.expected - taken));
            taken = d.expected;
        }
        causes.push((Cause::Rest, used - taken));
        Ok(Went {
            planned,
            plan,
            starts_at,
            left_planned,
            left: starts_at - used,
            by,
            causes,
            difference,
        })
    }
}
