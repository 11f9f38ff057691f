//! Judging in stages, each done once for all that it is the same for: a day for every pack, a model for every
//! way of wiring it, the outcome before anything else that is to be told of a pack.
//!
//! 1. [`Judge::new`]: what each stretch asks, whatever pack is aboard (`DayAsked`).
//! 2. [`Judge::model`]: the battery's law from its label, and the stretches as a bank of it feels them in the cold:
//!    once for each chemistry, or for each weight where batteries cool on the way.
//! 3. [`Judge::outcome`]: set aside by its figures, or the day run to its verdict.
//! 4. [`Judge::in_full`]: besides, the band, the notes, the life, the money, the refill.
//!
//! It starts no threads: a judge may be shared by as many as the caller has.

use super::demand::{DayAsked, NoDrawCurve, days_in_a_row};
use super::{Drawn, Evaluation, Outcome, assumed, band, bank, guard, notes, outcome, spare};
use crate::day::{self, Day};
use crate::drawdown::{self, Fit, Leg, Summary};
use crate::house::HouseRules;
use crate::life;
use crate::pack::Pack;
use crate::pack::limits::{self, SetAside};
use crate::refill;
use crate::rig::Rig;
use crate::shelf::{Battery, Chemistry, NotForTraction};
use crate::units::{Hours, Money};
use std::sync::{Arc, OnceLock};

/// One rig on one day under the house rules, for any number of packs.
#[derive(Debug)]
pub struct Judge {
    rig: Rig,
    day: Day,
    rules: HouseRules,
    asked: DayAsked,
    /// The days as banks of a chemistry feel them, where the weight of a battery makes no difference.
    settled: Option<[OnceLock<Days>; Chemistry::ALL.len()]>,
}

/// One day, and all of those in a row, as a bank feels them.
#[derive(Debug, Clone, PartialEq)]
struct Days {
    one: Arc<[Leg]>,
    all: Arc<[Leg]>,
}

/// A battery fitted, and the days as a bank of it feels them: the same however many are wired together.
#[derive(Debug, Clone, PartialEq)]
pub struct Model {
    fit: Fit,
    days: Days,
}

/// The verdict on a pack and nothing more.
#[derive(Debug, Clone, PartialEq)]
pub struct Judged {
    /// The verdict.
    pub outcome: Outcome,
    /// Why it was set aside; empty otherwise.
    pub reasons: Vec<SetAside>,
    /// How the day went; absent when set aside.
    pub summary: Option<Summary>,
}

impl Judge {
    /// Works out what the day asks.
    ///
    /// # Errors
    /// [`NoDrawCurve`] when a stretch is given by a motor setting and neither points nor a maximum current
    /// are known.
    pub fn new(rig: &Rig, day: &Day, rules: &HouseRules) -> Result<Self, NoDrawCurve> {
        let asked = DayAsked::of(rig, day)?;
        let settled = asked.is_settled().then(Default::default);
        Ok(Self { rig: rig.clone(), day: day.clone(), rules: *rules, asked, settled })
    }

    /// Fits a battery and works out how its banks feel the day.
    ///
    /// # Errors
    /// [`NotForTraction`] when its label gives no capacity.
    pub fn model(&self, battery: &Battery) -> Result<Model, NotForTraction> {
        let fit = drawdown::fit(battery)?;
        let chemistry = battery.chemistry;
        let days = |mass| {
            let one = self.asked.legs(chemistry, mass);
            let all: Arc<[Leg]> = days_in_a_row(&self.day, &one).into();
            // A day alone is both.
            let one = if all.len() == one.len() { Arc::clone(&all) } else { one.into() };
            Days { one, all }
        };
        let days = match &self.settled {
            Some(by_chemistry) => {
                by_chemistry[chemistry as usize].get_or_init(|| days(None)).clone()
            }
            None => days(battery.mass),
        };
        Ok(Model { fit, days })
    }

    /// The verdict on a pack of a model, and nothing more: no band, no notes, no working.
    pub fn outcome(&self, pack: &Pack, model: &Model) -> Judged {
        let reasons = limits::set_aside(pack, &self.rig);
        if !reasons.is_empty() {
            return Judged { outcome: Outcome::SetAside, reasons, summary: None };
        }
        let bank = bank(pack, &self.rig, model.fit.law);
        let summary = drawdown::run(&bank, &model.days.all, &guard(pack, &self.rules), |_| {});
        Judged { outcome: outcome(&summary), reasons, summary: Some(summary) }
    }

    /// All that is to be told of a pack. A flat battery is a result, never an error.
    pub fn in_full(&self, pack: &Pack) -> Evaluation {
        let mut evaluation = Evaluation::set_aside(pack, limits::set_aside(pack, &self.rig));
        if !evaluation.reasons.is_empty() {
            return evaluation;
        }
        if let Ok(model) = self.model(&pack.battery) {
            let drawn = self.draw(pack, model);
            evaluation.outcome = outcome(&drawn.summary);
            evaluation.notes =
                notes::notes(&self.rig, &self.day, pack, &drawn, self.asked.too_much.as_deref());
            evaluation.assumed = assumed(pack, &self.day, &drawn);
            evaluation.drawn = Some(drawn);
        }
        evaluation
    }

    /// The day of a pack that can be used, with all that is told of it: the day itself, the band around it, what is
    /// to spare, the life, the money, the refill. One fit and one set of legs serve them all.
    fn draw(&self, pack: &Pack, model: Model) -> Drawn {
        let Self { rig, day, rules, .. } = self;
        let Model { fit, days: Days { one, all: legs } } = model;
        let bank = bank(pack, rig, fit.law);
        let guard = guard(pack, rules);
        let mut points = Vec::with_capacity(legs.len() + 2);
        let longest = day::LONGEST;
        let pace = drawdown::hours_at_this_pace(&bank, &one, &guard, longest);
        let summary = drawdown::run(&bank, &legs, &guard, |p| points.push(p));
        let depth = 1.0 - summary.charge_left;
        let per_year = day.outings_per_year;
        let life = life::life(&pack.battery, depth, per_year, rules.keeping, rules.horizon_years);
        let cost = pack.price_of_batteries().and_then(|batteries| {
            life::cost(
                batteries,
                pack.extra_cost.unwrap_or(Money::ZERO),
                &life,
                per_year,
                rules.horizon_years,
                summary.energy,
                super::summary_hours(day, &summary),
            )
        });
        let band = band::band(rig, pack, &fit, &legs, &guard, &summary);
        let span: Hours = legs.iter().map(|l| l.hours).sum();
        // A single day repeated is the pace itself; nights between days make the rest of it another run.
        let spare = if day.days_without_charging <= 1 {
            pace.map(|until| until - span)
        } else {
            spare::hours_to_spare(&bank, &legs, &one, &guard, longest)
        };
        let devices = spare::devices(rig, day);
        let setting = spare::highest_safe_setting(rig, &bank, &guard, &legs, devices, band.low);
        Drawn {
            floor: guard.floor,
            reserve: guard.reserve,
            hours_at_this_pace: pace,
            hours_to_spare: spare,
            highest_safe_setting: setting,
            fit,
            legs,
            refill: refill::refill(rig, day, pack, summary.charge_left),
            summary,
            points,
            band,
            life,
            cost,
        }
    }
}

/// All that is to be told of one pack on one day.
///
/// # Errors
/// [`NoDrawCurve`] as [`Judge::new`].
pub fn evaluate(
    rig: &Rig,
    day: &Day,
    rules: &HouseRules,
    pack: &Pack,
) -> Result<Evaluation, NoDrawCurve> {
    Ok(Judge::new(rig, day, rules)?.in_full(pack))
}
