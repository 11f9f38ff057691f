//! An outing as it went, and what it says in equations.

use super::parts::parts;
use crate::drawdown::{Rest, charge_by_volts};
use crate::learn::{Entry, Meter, Told};
use crate::pack::{Health, Pack};
use crate::plan::Plan;
use crate::units::{AmpHours, Amps, Hours, Metres, MetresPerSecond, Volts};
use crate::verdict::{Evaluation, told_capacity};
use jiff::civil::Date;

/// A charge, as its owner knows it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Charge {
    /// The charger ended by itself.
    Full,
    /// The percent of a meter, 0 to 1.
    Meter(f64),
    /// Volts of the whole pack after a rest, and how long that was: of lead only. [V]
    Rested(Volts, Rest),
    /// By feel, 0 to 1.
    Feel(f64),
}

/// What was used.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Used {
    /// The charge at the end.
    Left(Charge),
    /// Amp-hours of a meter with a shunt. [Ah]
    AmpHours(AmpHours),
}

/// Amps that were read at a setting.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reading {
    /// The setting, 0 to 10.
    pub setting: f64,
    /// What one motor drew there. [A]
    pub current: Amps,
}

/// From here on a battery is hot: at rest lithium ages twice as fast as at room temperature, and more. From memory; by the
/// common rule of 10 °C. [°C]
pub const HOT: f64 = 35.0;

/// An outing as it went.
#[derive(Debug, Clone, PartialEq)]
pub struct Outing {
    /// When.
    pub date: Date,
    /// What the day is called.
    pub name: String,
    /// How long it lasted; as planned where not told. [h]
    pub hours: Option<Hours>,
    /// How far it went. [m]
    pub distance: Option<Metres>,
    /// Charge at the start.
    pub start: Charge,
    /// What it took.
    pub used: Used,
    /// Wind that was measured. [m/s]
    pub wind: Option<MetresPerSecond>,
    /// Amps read at one setting.
    pub reading: Option<Reading>,
    /// Whatever else.
    pub note: String,
    /// The owned pack that it was driven with, by its number in the log.
    pub of: Option<i64>,
    /// What a monitor recorded of it, by the number it is kept under.
    pub recorded: Option<i64>,
    /// Hours of it above [`HOT`], where a monitor told how warm the battery was. [h]
    pub hot: Option<Hours>,
    /// Whether anything is to be learnt from it.
    pub counts: bool,
    /// It was played, and no pack was drawn down: kept on a list of its own, and counted nowhere.
    pub practice: bool,
    /// The plan that it was driven by: its first pack is the one that it was driven with, see [`as_driven_with`].
    pub plan: Plan,
}

/// Why an outing says nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum Unclear {
    /// Its plan has no pack, or one that cannot be used.
    #[error("the pack of that day cannot be used on that rig")]
    NoPack,
    /// Volts of lithium.
    #[error("volts tell the charge of lead only: type what a meter says, or how it felt")]
    VoltsOfLithium,
    /// A charge that no battery has.
    #[error("a charge lies between 0 and 100 %, and an outing begins above 0")]
    NoCharge,
    /// Something was charged under way.
    #[error(
        "the sun or a charger gave something on the way: what it took cannot be told from that"
    )]
    Charged,
    /// It was driven by another craft or motor than is looked at.
    #[error("it was driven on another kind of craft, or at other volts")]
    OtherRig,
    /// What the day takes is not known.
    #[error("what that day draws is not known: its motor's amps are not told")]
    NoDraw,
}

impl Charge {
    /// As a share of the capacity, and how it is known. A full one is known as well as anything.
    pub(super) fn share(self, pack: &Pack) -> Result<(f64, Meter), Unclear> {
        let (share, meter) = match self {
            Self::Full => (1.0, Meter::Shunt),
            Self::Meter(share) => (share, Meter::Percent),
            Self::Feel(share) => (share, Meter::Feel),
            Self::Rested(volts, rest) => {
                let read = charge_by_volts(pack, volts, rest).ok_or(Unclear::VoltsOfLithium)?;
                (read.charge, Meter::Volts { points: (read.unsure * 100.0).round() as u8 })
            }
        };
        if (0.0..=1.0).contains(&share) { Ok((share, meter)) } else { Err(Unclear::NoCharge) }
    }
}

/// A pack as its owner told it: without what a log taught of its capacity.
pub fn unlearned(pack: &Pack) -> Pack {
    let taught = pack.health.doubt < 1.0;
    let health = if taught { Health::NEW } else { pack.health };
    Pack { health, ..pack.clone() }
}

/// A plan with one pack in the place of all others. Behind it stands the one that is aboard, where that is another: with it the
/// craft was weighed and its amps were read.
pub fn as_driven_with(plan: &Plan, pack: &Pack) -> Plan {
    let aboard = plan.aboard();
    let is_aboard = aboard.is_some_and(|a| a.is_built_like(pack));
    let driven = Pack { aboard: is_aboard, chosen: false, ..pack.clone() };
    let other = aboard.filter(|_| !is_aboard).map(|a| Pack { chosen: false, ..a.clone() });
    let mut day = plan.day.clone();
    // Its times are those of the day as it went: no speed makes them anew.
    for stretch in &mut day.stretches {
        stretch.far = None;
    }
    Plan {
        day,
        packs: std::iter::once(driven).chain(other).collect(),
        wants: Vec::new(),
        build: crate::kept::Build::default(),
        ..plan.clone()
    }
}

/// Days of a year. [d]
const YEAR: f64 = 365.25;
/// Years are counted from here; any day would do.
const FIRST: Date = jiff::civil::date(2020, 1, 1);

/// A date in years since some day. [a]
pub fn years(date: Date) -> f64 {
    let days = date.duration_since(FIRST).as_hours() as f64 / 24.0;
    days / YEAR
}

impl Outing {
    /// Its pack.
    pub fn pack(&self) -> Option<&Pack> {
        self.plan.packs.first()
    }

    /// How long it lasted, stops included; as planned where not told. [h]
    pub fn lasted(&self) -> Hours {
        self.hours.unwrap_or_else(|| self.plan.day.lasts())
    }

    /// The share of the capacity that it used, and how that is known.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn share_used(&self) -> Result<(f64, Meter), Unclear> {
        let pack = self.pack().ok_or(Unclear::NoPack)?;
        let (start, by) = self.start.share(pack)?;
        match self.used {
            Used::AmpHours(ah) => {
                let whole = told_capacity(pack).ok_or(Unclear::NoPack)?;
                Ok((ah / whole, Meter::Shunt))
            }
            Used::Left(charge) => {
                let (left, with) = charge.share(pack)?;
                // As sure as the worse of the two, and never surer than a charge can be read.
                let worse = if by.unsure() > with.unsure() { by } else { with };
                let meter = if worse == Meter::Shunt { Meter::Percent } else { worse };
                Ok((start - left, meter))
            }
        }
    }

    /// The plan with the day as long as it was, in the wind that was measured, begun at the charge it had.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn as_driven(&self) -> Result<Plan, Unclear> {
        let mut plan = self.plan.clone();
        if let Some(hours) = self.hours {
            let times = hours / plan.day.lasts();
            if times.is_finite() && times > 0.0 {
                plan.day = plan.day.as_long(times);
            }
        }
        if let Some(wind) = self.wind {
            plan.day.conditions.wind = wind;
            plan.day.hourly.iter_mut().for_each(|hour| hour.wind = None);
        }
        let pack = self.pack().ok_or(Unclear::NoPack)?;
        let (start, _) = self.start.share(pack)?;
        if start <= 0.0 {
            return Err(Unclear::NoCharge);
        }
        plan.day.start_charge = Some(start);
        plan.day.days_without_charging = 1;
        Ok(plan)
    }

    /// What was to be expected of it by label and typical figures.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn expected(&self) -> Result<Evaluation, Unclear> {
        let plan = self.as_driven()?;
        let pack = plan.packs.first().ok_or(Unclear::NoPack)?;
        let judge = plan.judge().map_err(|_| Unclear::NoDraw)?;
        let evaluation = judge.in_full(pack);
        if evaluation.drawn.is_none() { Err(Unclear::NoPack) } else { Ok(evaluation) }
    }

    /// The same day and pack on the rig of a plan as it is described now, by its labels and what is typical: what is learnt is
    /// learnt of that description.
    ///
    /// # Errors
    /// [`Unclear::OtherRig`].
    pub fn on(&self, now: &Plan) -> Result<Self, Unclear> {
        let (rig, was) = (&now.rig, &self.plan.rig);
        let same = was.craft.kind == rig.craft.kind
            && was.motor.system_voltage == rig.motor.system_voltage;
        if !same {
            return Err(Unclear::OtherRig);
        }
        let packs = match self.pack() {
            Some(pack) => as_driven_with(now, &unlearned(pack)).packs,
            None => Vec::new(),
        };
        let plan = Plan { rig: rig.unlearned(), packs, ..self.plan.clone() };
        Ok(Self { plan, ..self.clone() })
    }

    /// What it tells, as equations; their id is the outing's.
    ///
    /// # Errors
    /// [`Unclear`].
    pub fn entries(&self, id: i64) -> Result<Vec<Entry>, Unclear> {
        let plan = self.as_driven()?;
        let pack = plan.packs.first().ok_or(Unclear::NoPack)?;
        let years = years(self.date);
        let (used, meter) = self.share_used()?;
        let parts = parts(&plan, pack)?;
        let told = Told::Used { parts, used, meter, wind_guessed: self.wind.is_none() };
        let mut all = vec![Entry { id, years, told }];
        if let Some(read) = self.reading
            && let Some(says) = plan.rig.motor.current_at(read.setting)
        {
            let motors = f64::from(plan.rig.motor.count);
            all.push(Entry { id, years, told: Told::Amps(read.current * motors / says) });
        }
        Ok(all)
    }
}
