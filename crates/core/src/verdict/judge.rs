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
use super::work::{Does, Work, other_volts, work};
use super::{
    Drawn, Evaluation, Outcome, assumed, band, bank, guard, notes, outcome, spare, unreachable,
};
use crate::day::{self, Day};
use crate::drawdown::{self, Bank, BankState, Ended, Fit, Guard, Leg, Point, Summary};
use crate::house::HouseRules;
use crate::life::{self, Life};
use crate::money::{Account, Cost, Use};
use crate::pack::Pack;
use crate::pack::limits::{self, SetAside};
use crate::refill::{self, Refill, Taken};
use crate::rig::Rig;
use crate::shelf::{Battery, Chemistry, NotForTraction};
use crate::units::{AmpHours, Amps, Hours, Kilograms, Volts, WattHours};
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// One rig on one day under the house rules, for any number of packs.
#[derive(Debug)]
pub struct Judge {
    rig: Rig,
    day: Day,
    rules: HouseRules,
    asked: DayAsked,
    /// The days as banks of a chemistry feel them, where the weight of a battery makes no difference.
    settled: Option<[OnceLock<Days>; Chemistry::ALL.len()]>,
    /// What is aboard today weighs this, where the day's load hangs on the weight. [kg]
    aboard: Option<Kilograms>,
    /// Whether what a day asks hangs on the pack itself: its weight, or what a charger gives it overnight.
    by_pack: bool,
    /// Days on other volts than the motor's usual, and on those where the motor has too little for what is asked: worked out once
    /// for all packs of these volts.
    otherwise: Mutex<Vec<(Option<u64>, Arc<AskedOtherwise>)>>,
}

/// A day that goes otherwise than planned.
#[derive(Debug)]
struct AskedOtherwise {
    work: Arc<Work>,
    driven: Option<Arc<Day>>,
    asked: Option<DayAsked>,
}

/// One day, and all of those in a row, as a bank feels them.
#[derive(Debug, Clone, PartialEq)]
struct Days {
    one: Arc<[Leg]>,
    all: Arc<[Leg]>,
    /// The first stretch that asks for more than the motor gives.
    too_much: Option<String>,
    /// What of the day's work is done.
    work: Arc<Work>,
    /// The day as it is driven, where that takes longer than planned.
    driven: Option<Arc<Day>>,
    /// How much heavier the craft is for this pack than it was measured. [kg]
    heavier_by: Kilograms,
}

/// A battery fitted, and the days as a bank of it feels them: the same however many are wired together, but where they
/// hang on the pack itself.
#[derive(Debug, Clone, PartialEq)]
pub struct Model {
    fit: Fit,
    days: Option<Days>,
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

/// The verdict on a pack that can be used, and what its outings cost: enough to order many by.
#[derive(Debug, Clone, PartialEq)]
pub struct Survey {
    /// The verdict.
    pub outcome: Outcome,
    /// How the day went.
    pub summary: Summary,
    /// Charge above the floor that is out of reach of the way home: what is left with it cannot be used. [1]
    pub kept_back: f64,
    /// The lowest and the highest charge of the day, between which it is cycled.
    pub between: (f64, f64),
    /// The highest current of the day. [A]
    pub highest: Amps,
    /// How much of the day's work is done.
    pub does: Does,
    /// How long the days in a row take on it, nights included. [h]
    pub span: Hours,
    /// Energy from the wall for an outing. [Wh]
    pub wall: WattHours,
    /// How long the outing is. [h]
    pub hours: Hours,
    /// How long the pack lives at this use.
    pub life: Life,
    /// What it costs, if priced.
    pub cost: Option<Cost>,
}

impl Model {
    /// Ampere-hours of the fitted battery over twenty hours at 25 °C. [Ah]
    pub fn capacity(&self) -> AmpHours {
        AmpHours::of(self.fit.q20)
    }
}

impl Survey {
    /// The same run lived by other rules of money and age, so many times a year, the life so many times as long as told.
    #[must_use]
    pub fn lived(mut self, pack: &Pack, rules: &HouseRules, per_year: f64, times: f64) -> Self {
        let HouseRules { keeping, horizon_years, .. } = *rules;
        let life =
            life::life_between(&pack.battery, self.between, per_year, keeping, horizon_years);
        self.life = left_of(pack, life, per_year, horizon_years);
        self.cost = self.priced(pack, rules, per_year, times);
        self
    }

    /// What its outings cost, if it is priced.
    fn priced(&self, pack: &Pack, rules: &HouseRules, per_year: f64, times: f64) -> Option<Cost> {
        let lasts = self.life.lasts(per_year) * times;
        let first = lasts * self.life.left;
        let used = Use { per_year, lasts, first, wall: self.wall, horizon: rules.horizon_years };
        let account = Account::of(pack, &rules.money, used)?;
        Some(Cost::of(account, self.summary.energy, self.hours))
    }

    /// The same with the money of what it takes beside its batteries.
    #[must_use]
    pub fn with_extras(mut self, pack: &Pack, rules: &HouseRules, per_year: f64) -> Self {
        self.cost = self.priced(pack, rules, per_year, 1.0);
        self
    }

    /// By how much the current that opened its BMS is over what the label allows without end, as a share; 0 where none
    /// did or the label does not say.
    pub fn over_the_limit(&self, pack: &Pack) -> f64 {
        match (self.summary.ended, pack.battery.max_continuous) {
            (Ended::Tripped { amps, .. }, Some(limit)) => amps / limit - 1.0,
            _ => 0.0,
        }
    }

    /// By how much of the day it ends early, as a share; 0 where it does not.
    pub fn hours_short(&self) -> f64 {
        match self.summary.ended {
            Ended::DayDone => 0.0,
            Ended::Stopped { at, .. } | Ended::Tripped { at, .. } => 1.0 - at / self.span,
        }
    }
}

impl Judge {
    /// The rig, as its figures are read with the pack that is aboard.
    pub const fn rig(&self) -> &Rig {
        &self.rig
    }

    /// The day.
    pub const fn day(&self) -> &Day {
        &self.day
    }

    /// The rules of the house.
    pub const fn rules(&self) -> &HouseRules {
        &self.rules
    }

    /// The verdict on a pack of a model that nothing sets aside, and its money.
    pub fn survey(&self, pack: &Pack, model: &Model) -> Survey {
        let from = self.starts_at(pack);
        let mut between = (from, from);
        let mut highest = Amps::ZERO;
        let summary = self.run(pack, model, |p| {
            between = (between.0.min(p.charge), between.1.max(p.charge));
            highest = highest.max(p.amps);
        });
        let bank = bank(pack, &self.rig, model.fit.law);
        let days = self.days(pack, model);
        let guard = self.guard(pack, &bank, &days.all);
        self.surveyed(pack, &model.fit, (&guard, &days), summary, (between, highest))
    }

    /// How the days go on a pack of a model that nothing sets aside: the charge they start at, what they come to, their points.
    pub fn ran(&self, pack: &Pack, model: &Model) -> (f64, Summary, Vec<Point>) {
        let mut points = Vec::new();
        let summary = self.run(pack, model, |p| points.push(p));
        (self.starts_at(pack), summary, points)
    }

    /// What a run comes to in verdict, life and money.
    fn surveyed(
        &self,
        pack: &Pack,
        fit: &Fit,
        (guard, days): (&Guard, &Days),
        summary: Summary,
        (between, highest): ((f64, f64), Amps),
    ) -> Survey {
        let taken = taken(pack, fit, &summary);
        let ceiling = self.rules.ceiling(pack.battery.chemistry);
        let mut survey = Survey {
            outcome: outcome(&summary),
            kept_back: guard.reserve - self.rules.reserve_level(pack.battery.chemistry),
            between,
            highest,
            does: days.work.does(),
            span: days.driven.as_deref().unwrap_or(&self.day).span(),
            wall: refill::from_the_wall(pack, &taken, ceiling),
            hours: super::summary_hours(days.driven.as_deref().unwrap_or(&self.day), &summary),
            life: self.life(pack, between),
            cost: None,
            summary,
        };
        survey.cost = survey.priced(pack, &self.rules, self.day.outings_per_year, 1.0);
        survey
    }

    /// The days of a pack of a model with every unknown at a place of one's own choosing, see [`band`](super::band): the
    /// verdict on each, and how it went.
    pub fn tried(
        &self,
        pack: &Pack,
        model: &Model,
        draws: impl Iterator<Item = band::Draws>,
    ) -> Vec<(Outcome, Summary)> {
        let mut points = Vec::new();
        self.run(pack, model, |p| points.push(p));
        let (starts_at, legs) = (self.starts_at(pack), self.days(pack, model).all);
        let rig = &self.rig;
        let guard = self.guard(pack, &bank(pack, rig, model.fit.law), &legs);
        let all = band::tried(rig, pack, &model.fit, starts_at, &legs, &guard, &points, draws);
        all.into_iter().map(|summary| (outcome(&summary), summary)).collect()
    }

    /// How a pack of a model gets full again after a day that went so.
    pub fn refill(&self, pack: &Pack, model: &Model, summary: &Summary) -> Refill {
        self.refilled(pack, &model.fit, summary)
    }

    fn refilled(&self, pack: &Pack, fit: &Fit, summary: &Summary) -> Refill {
        let taken = taken(pack, fit, summary);
        let ceiling = self.rules.ceiling(pack.battery.chemistry);
        refill::refill(&self.rig, &self.day, pack, &taken, ceiling)
    }

    /// Hours from the end of the day until floor or end if it went on in the same way, see
    /// [`Drawn::hours_to_spare`](super::Drawn::hours_to_spare).
    pub fn hours_to_spare(&self, pack: &Pack, model: &Model) -> Option<Hours> {
        let days = self.days(pack, model);
        let bank = bank(pack, &self.rig, model.fit.law);
        let guard = self.guard(pack, &bank, &days.all);
        self.pace_and_spare(&bank, &bank.at(self.starts_at(pack)), &guard, &days).1
    }

    /// Hours until floor or end at the day's pace, and how many of them are to spare.
    fn pace_and_spare(
        &self,
        bank: &Bank,
        from: &BankState,
        guard: &Guard,
        days: &Days,
    ) -> (Option<Hours>, Option<Hours>) {
        let (one, legs, longest) = (&days.one, &days.all, day::LONGEST);
        let pace = drawdown::hours_at_this_pace(bank, from, one, guard, longest);
        let span: Hours = legs.iter().map(|l| l.hours).sum();
        // A single day repeated is the pace itself; nights between days make the rest of it another run.
        let spare = if self.day.days_without_charging <= 1 {
            pace.map(|until| until - span)
        } else {
            spare::hours_to_spare(bank, from, legs, one, guard, longest)
        };
        (pace, spare)
    }

    /// Works out what the day asks.
    ///
    /// # Errors
    /// [`NoDrawCurve`] when a stretch is given by a motor setting and neither points nor a maximum current
    /// are known.
    pub fn new(rig: &Rig, day: &Day, rules: &HouseRules) -> Result<Self, NoDrawCurve> {
        Self::beside(rig, day, rules, None)
    }

    /// The same, with the pack that is aboard today: what was measured was measured on it, and the craft was weighed
    /// with it.
    ///
    /// # Errors
    /// As [`Self::new`].
    pub fn beside(
        rig: &Rig,
        day: &Day,
        rules: &HouseRules,
        aboard: Option<&Pack>,
    ) -> Result<Self, NoDrawCurve> {
        let mut rig = rig.read_at(aboard.map(Pack::loaded_voltage));
        if rules.drop_in {
            // One that says of no chemistry that it is for it is for all.
            for charger in &mut rig.chargers {
                charger.profiles.clear();
            }
        }
        let asked = DayAsked::of(&rig, day)?;
        let settled = (asked.is_settled() && !day.is_charged()).then(Default::default);
        let aboard = aboard.and_then(Pack::mass).filter(|_| day.hangs_on_weight());
        let by_pack = aboard.is_some() || day.is_charged_overnight();
        let otherwise = Mutex::default();
        let day = day.clone();
        Ok(Self { rig, day, rules: *rules, asked, settled, aboard, by_pack, otherwise })
    }

    /// Whether a pack can be used on this rig: nothing sets it aside.
    pub fn in_use(&self, pack: &Pack) -> bool {
        limits::set_aside(pack, &self.rig).is_empty()
    }

    /// Fits a battery and works out how its banks feel the day.
    ///
    /// # Errors
    /// [`NotForTraction`] when its label gives no capacity.
    pub fn model(&self, battery: &Battery) -> Result<Model, NotForTraction> {
        Ok(self.model_of(drawdown::fit(battery)?, battery))
    }

    /// The same for a battery that was fitted already: what a label gives hangs on no day.
    pub fn model_of(&self, fit: Fit, battery: &Battery) -> Model {
        if self.by_pack {
            return Model { fit, days: None };
        }
        let days = |mass| self.laid_out(&self.asked, battery, mass, None, Default::default());
        let days = match &self.settled {
            Some(by_chemistry) => {
                by_chemistry[battery.chemistry as usize].get_or_init(|| days(None)).clone()
            }
            None => days(battery.mass),
        };
        Model { fit, days: Some(days) }
    }

    /// What is asked, as a bank of a battery feels it through the days.
    fn laid_out(
        &self,
        asked: &DayAsked,
        battery: &Battery,
        mass: Option<Kilograms>,
        overnight: Option<(Amps, Hours)>,
        (work, driven): (Arc<Work>, Option<Arc<Day>>),
    ) -> Days {
        let one = asked.legs(battery, mass);
        let day = driven.as_deref().unwrap_or(&self.day);
        let all: Arc<[Leg]> = days_in_a_row(&self.rig, day, &one, overnight).into();
        // A day alone is both.
        let one = if all.len() == one.len() { Arc::clone(&all) } else { one.into() };
        let (too_much, heavier_by) = (asked.too_much.clone(), Kilograms::ZERO);
        Days { one, all, too_much, work, driven, heavier_by }
    }

    /// The days of a pack: its model's, or its own where its weight or its charger counts.
    fn days(&self, pack: &Pack, model: &Model) -> Days {
        let volts = other_volts(pack, &self.rig);
        let is_so_far = self.day.stretches.iter().any(|s| s.far.is_some());
        let goes_otherwise = volts.is_some() || self.asked.too_much.is_some() || is_so_far;
        if let Some(days) = model.days.as_ref().filter(|_| !goes_otherwise) {
            return days.clone();
        }
        if !self.by_pack {
            let known = self.otherwise(volts);
            let asked = known.asked.as_ref().unwrap_or(&self.asked);
            let how = (Arc::clone(&known.work), known.driven.clone());
            return self.laid_out(asked, &pack.battery, pack.battery.mass, None, how);
        }
        let overnight = if self.day.is_charged_overnight() {
            refill::overnight(&self.rig, &self.day, pack)
        } else {
            None
        };
        let mut rig = self.rig.clone();
        let heavier_by = match (self.aboard, pack.mass()) {
            (Some(aboard), Some(mass)) => mass - aboard,
            _ => Kilograms::ZERO,
        };
        rig.craft.heavier_by += heavier_by;
        let how = if goes_otherwise || heavier_by > Kilograms::ZERO {
            self.goes(&rig, volts)
        } else {
            Default::default()
        };
        // What could be worked out with the pack aboard can be with any.
        let asked = DayAsked::of(&rig, how.1.as_deref().unwrap_or(&self.day));
        let asked = asked.as_ref().unwrap_or(&self.asked);
        Days {
            heavier_by,
            ..self.laid_out(asked, &pack.battery, pack.battery.mass, overnight, how)
        }
    }

    /// How the day goes on some volts, and the day as it is driven.
    fn goes(&self, rig: &Rig, volts: Option<Volts>) -> (Arc<Work>, Option<Arc<Day>>) {
        let (work, driven) = work((&self.rig, rig), &self.day, volts, self.asked.cable);
        (Arc::new(work), driven.map(Arc::new))
    }

    /// The same with what is asked then, for all packs of these volts.
    fn otherwise(&self, volts: Option<Volts>) -> Arc<AskedOtherwise> {
        let key = volts.map(|v| v.value().to_bits());
        let known = || self.otherwise.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some((_, found)) = known().iter().find(|(of, _)| *of == key) {
            return Arc::clone(found);
        }
        let (work, driven) = self.goes(&self.rig, volts);
        let asked = driven.as_deref().and_then(|day| DayAsked::of(&self.rig, day).ok());
        let made = Arc::new(AskedOtherwise { work, driven, asked });
        known().push((key, Arc::clone(&made)));
        made
    }

    /// The bank of a pack, what watches it, and the days as it feels them when so much battery is aboard as `weighs_as`.
    ///
    /// # Errors
    /// [`NotForTraction`] when its label gives no capacity.
    pub fn bank_and_legs(
        &self,
        pack: &Pack,
        weighs_as: &Pack,
    ) -> Result<(Bank, Guard, Arc<[Leg]>), NotForTraction> {
        let model = self.model(&pack.battery)?;
        let bank = bank(pack, &self.rig, model.fit.law);
        let legs = self.days(weighs_as, &model).all;
        Ok((bank, self.guard(pack, &bank, &legs), legs))
    }

    /// The charge that a pack starts the day with, 0 to 1: as told, else up to the ceiling of the house.
    pub fn starts_at(&self, pack: &Pack) -> f64 {
        self.day.start_charge.unwrap_or_else(|| self.rules.ceiling(pack.battery.chemistry))
    }

    /// The verdict on a pack of a model, and nothing more: no band, no notes, no working.
    pub fn outcome(&self, pack: &Pack, model: &Model) -> Judged {
        let reasons = limits::set_aside(pack, &self.rig);
        if !reasons.is_empty() {
            return Judged { outcome: Outcome::SetAside, reasons, summary: None };
        }
        let summary = self.run(pack, model, |_| {});
        Judged { outcome: outcome(&summary), reasons, summary: Some(summary) }
    }

    /// The highest current of a pack's day; `None` where it cannot be used. [A]
    pub fn highest(&self, pack: &Pack) -> Option<Amps> {
        let model = self.model(&pack.battery).ok().filter(|_| self.in_use(pack))?;
        let mut highest = Amps::ZERO;
        self.run(pack, &model, |p| highest = highest.max(p.amps));
        Some(highest)
    }

    /// The day of a pack of a model, told point by point.
    fn run(&self, pack: &Pack, model: &Model, observe: impl FnMut(Point)) -> Summary {
        let bank = bank(pack, &self.rig, model.fit.law);
        let (from, legs) = (bank.at(self.starts_at(pack)), self.days(pack, model).all);
        drawdown::run_from(&bank, &from, &legs, &self.guard(pack, &bank, &legs), observe)
    }

    /// Levels and limits of a pack on these legs.
    fn guard(&self, pack: &Pack, bank: &Bank, legs: &[Leg]) -> Guard {
        guard(pack, &self.rules, unreachable(bank, legs))
    }

    /// How long a pack lives that is cycled between two charge shares, low and high, as often as the day says.
    fn life(&self, pack: &Pack, between: (f64, f64)) -> Life {
        let HouseRules { keeping, horizon_years, .. } = self.rules;
        let per_year = self.day.outings_per_year;
        let life = life::life_between(&pack.battery, between, per_year, keeping, horizon_years);
        left_of(pack, life, per_year, horizon_years)
    }

    /// How long a pack of a model lives at this day; `None` where it is set aside.
    pub fn life_at(&self, pack: &Pack, model: &Model) -> Option<Life> {
        if !limits::set_aside(pack, &self.rig).is_empty() {
            return None;
        }
        let mut points = Vec::new();
        self.run(pack, model, |p| points.push(p));
        Some(self.life(pack, super::between(self.starts_at(pack), &points)))
    }

    /// All that is to be told of a pack. A flat battery is a result, never an error.
    pub fn in_full(&self, pack: &Pack) -> Evaluation {
        let mut evaluation =
            Evaluation::set_aside(pack, limits::set_aside(pack, &self.rig), &self.rules.money);
        if !evaluation.reasons.is_empty() {
            return evaluation;
        }
        if let Ok(model) = self.model(&pack.battery) {
            let days = self.days(pack, &model);
            let drawn = self.draw(pack, model.fit, &days);
            evaluation.outcome = outcome(&drawn.summary);
            let warmth = self.asked.extremes(pack.battery.mass);
            evaluation.notes = notes::notes(&self.rig, drawn.day(&self.day), pack, &drawn, warmth);
            evaluation.assumed = assumed(pack, &self.day, &drawn);
            evaluation.drawn = Some(drawn);
        }
        evaluation
    }

    /// The day of a pack that can be used, with all that is told of it: the day itself, the band around it, what is
    /// to spare, the life, the money, the refill. One fit and one set of legs serve them all.
    fn draw(&self, pack: &Pack, fit: Fit, days: &Days) -> Drawn {
        let Self { rig, day, .. } = self;
        let legs = Arc::clone(&days.all);
        let bank = bank(pack, rig, fit.law);
        let starts_at = self.starts_at(pack);
        let from = bank.at(starts_at);
        let guard = self.guard(pack, &bank, &legs);
        let mut points = Vec::with_capacity(legs.len() + 2);
        let (pace, spare) = self.pace_and_spare(&bank, &from, &guard, days);
        let summary = drawdown::run_from(&bank, &from, &legs, &guard, |p| points.push(p));
        let between = super::between(starts_at, &points);
        let Survey { life, cost, .. } =
            self.surveyed(pack, &fit, (&guard, days), summary, (between, super::highest(&points)));
        let band = band::band(rig, pack, &fit, starts_at, &legs, &guard, &summary, &points);
        let devices = spare::devices(rig, day);
        let setting = spare::highest_safe_setting(
            rig,
            &bank,
            &guard,
            &legs,
            (devices, self.asked.cable),
            band.low,
        );
        let volts = rig.motor.reads_at();
        let asked = legs.iter().map(|leg| leg.demand.amps(volts.value())).fold(0.0, f64::max);
        let keep_to = setting.filter(|setting| {
            let carried = rig.motor.current_at(*setting).map_or(0.0, Amps::value);
            asked > carried * MORE
        });
        Drawn {
            keep_to,
            work: Arc::clone(&days.work),
            takes: days.driven.as_ref().map_or(1.0, |driven| driven.lasts() / day.lasts()),
            driven: days.driven.clone(),
            draws_by: crate::propulsion::origin_of_day(rig, day),
            starts_at,
            standing_drain: rig.standing_drain,
            cable: self.asked.cable,
            heavier_by: days.heavier_by,
            between,
            floor: guard.floor,
            reserve: guard.reserve,
            out_of_reach: unreachable(&bank, &legs).max(0.0),
            ice: ice(&bank, &legs, &points),
            hours_at_this_pace: pace,
            hours_to_spare: spare,
            highest_safe_setting: setting,
            refill: self.refilled(pack, &fit, &summary),
            fit,
            legs,
            summary,
            points,
            band,
            life,
            cost,
        }
    }
}

/// What is out of reach at each point of a day, at what is drawn until then and in the cold of its leg: a share of the charge, none
/// where it gives more than its label.
fn ice(bank: &Bank, legs: &[Leg], points: &[Point]) -> Vec<(Hours, f64)> {
    let (mut n, mut ends, mut at) = (0, Hours::ZERO, f64::NAN);
    let mut cold = *bank;
    let mut told: Vec<(Hours, f64)> = Vec::with_capacity(points.len());
    for point in points {
        while let Some(leg) = legs.get(n).filter(|_| point.at.value() > ends.value() + 1e-9) {
            ends += leg.hours;
            if (leg.cold.at.value() - at).abs() > 0.0 || at.is_nan() {
                (cold, at) = (bank.map_units(|u| u.at_temperature(leg.cold)), leg.cold.at.value());
            }
            n += 1;
        }
        told.push((point.at, cold.unreachable(point.amps.value().max(0.0)).max(0.0)));
    }
    // Nothing has flowed before the first.
    if let [first, second, ..] = told.as_mut_slice() {
        first.1 = second.1;
    }
    told
}

/// The day asks for more than a setting where it asks for so many times its current.
const MORE: f64 = 1.02;

/// The life of a pack: all of it where it is bought new, what is left of it where it is aboard.
fn left_of(pack: &Pack, life: Life, per_year: f64, horizon: f64) -> Life {
    if pack.aboard { life.with_left(pack.life_left(), per_year, horizon) } else { life }
}

/// What a day took from a pack, as a charger finds it.
fn taken(pack: &Pack, fit: &Fit, summary: &Summary) -> Taken {
    let worn = fit.law.worn(pack.health.capacity_share, pack.health.resistance_factor);
    Taken {
        unit: AmpHours::of(worn.rated()),
        rated: AmpHours::of(fit.q20 * pack.health.capacity_share),
        left: summary.charge_left,
        mean_volts: if summary.delivered > AmpHours::ZERO {
            summary.energy / summary.delivered
        } else {
            pack.voltage()
        },
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
