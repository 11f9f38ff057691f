//! One pack against one day: the verdict, the moments it turns on, and what it costs.

pub mod band;
pub mod demand;
mod notes;
pub mod refill;
mod spare;
pub mod working;

pub use band::{Band, BandPoint, Unknown};
pub use demand::NoDrawCurve;
pub use notes::Note;
pub use refill::Refill;
pub use spare::{Course, Spare, course};
pub use working::{Line, Term, working};

use crate::day::{self, Day};
use crate::drawdown::{self, Bank, Ended, Fit, Guard, Leg, Point, Summary, UnitLaw};
use crate::house::HouseRules;
use crate::life::{self, Cost, Life};
use crate::pack::{Pack, limits};
use crate::rig::Rig;
use crate::units::{AmpHours, Hours, Kilograms, Volts, WattHours};

/// The verdict on a pack, best first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Outcome {
    /// Home, the reserve untouched.
    Home,
    /// Home, inside the reserve.
    BelowReserve,
    /// Home, below the floor: it costs life.
    BelowFloor,
    /// Empty or cut off before the day was done.
    Stops,
    /// The BMS opens on current.
    Trips,
    /// Cannot be used; the reasons say by which figure.
    SetAside,
}

impl Outcome {
    /// The key used in results.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Home => "home",
            Self::BelowReserve => "below_reserve",
            Self::BelowFloor => "below_floor",
            Self::Stops => "stops",
            Self::Trips => "trips",
            Self::SetAside => "set_aside",
        }
    }
}

/// Everything known about a pack on a day.
#[derive(Debug, Clone, PartialEq)]
pub struct Evaluation {
    /// The verdict.
    pub outcome: Outcome,
    /// Why it was set aside; empty otherwise.
    pub reasons: Vec<limits::SetAside>,
    /// What to know beside the verdict.
    pub notes: Vec<Note>,
    /// Nominal voltage.
    pub voltage: Volts,
    /// Label ampere-hours, absent without any on the label.
    pub capacity: Option<AmpHours>,
    /// Label watt-hours.
    pub energy: Option<WattHours>,
    /// Weight of all units.
    pub mass: Option<Kilograms>,
    /// Price of batteries and extras.
    pub price_total: Option<f64>,
    /// How the day went; absent when set aside.
    pub drawn: Option<Drawn>,
    /// Names of the figures that were filled in with what is typical.
    pub assumed: Vec<&'static str>,
}

/// How a day went for a pack that could be used.
#[derive(Debug, Clone, PartialEq)]
pub struct Drawn {
    /// The fitted battery.
    pub fit: Fit,
    /// The day as the bank felt it.
    pub legs: Vec<Leg>,
    /// What the day came to.
    pub summary: Summary,
    /// The charge through the day: straight lines between these points.
    pub points: Vec<Point>,
    /// From a bad day to a good one.
    pub band: Band,
    /// Charge share that stays for the battery's life.
    pub floor: f64,
    /// Charge share below which the reserve is touched.
    pub reserve: f64,
    /// Hours until floor or end when the day is repeated over and over; `None` when nothing is drawn.
    pub hours_at_this_pace: Option<Hours>,
    /// Hours from the end of the day until floor or end if it went on in the same way, negative when
    /// they came before; `None` when nothing is drawn. [h]
    pub hours_to_spare: Option<Hours>,
    /// Highest control setting it carries on a bad day, 0 to 10; `None` when the motor's draw is not
    /// known.
    pub highest_safe_setting: Option<f64>,
    /// How long it lives at this use.
    pub life: Life,
    /// What it costs, if priced.
    pub cost: Option<Cost>,
    /// How it gets full again.
    pub refill: Refill,
}

impl Evaluation {
    /// What the label alone tells of a pack that is set aside for these reasons.
    pub fn set_aside(pack: &Pack, reasons: Vec<limits::SetAside>) -> Self {
        Self {
            outcome: Outcome::SetAside,
            reasons,
            notes: Vec::new(),
            voltage: pack.voltage(),
            capacity: pack.capacity().ok(),
            energy: pack.energy().ok(),
            mass: pack.mass(),
            price_total: pack.price_total(),
            drawn: None,
            assumed: Vec::new(),
        }
    }
}

impl Drawn {
    /// When the day ended early: stopped or tripped. [h]
    pub const fn ended_early_at(&self) -> Option<f64> {
        match self.summary.ended {
            Ended::DayDone => None,
            Ended::Stopped { at } | Ended::Tripped { at, .. } => Some(at),
        }
    }
}

/// Works out one pack on one day.
///
/// # Errors
/// [`NoDrawCurve`] when a stretch is given by a motor setting and neither points nor a maximum
/// current are known. A flat battery is a result, never an error.
pub fn evaluate(
    rig: &Rig,
    day: &Day,
    rules: &HouseRules,
    pack: &Pack,
) -> Result<Evaluation, NoDrawCurve> {
    let legs = demand::legs(rig, day, pack)?;
    let reasons = limits::set_aside(pack, rig);
    let fitted = if reasons.is_empty() { drawdown::fit(&pack.battery).ok() } else { None };
    let mut evaluation = Evaluation::set_aside(pack, reasons);
    if let Some(fit) = fitted {
        let drawn = draw(day, rules, pack, rig, fit, &legs);
        evaluation.outcome = verdict(&drawn);
        evaluation.notes = notes::notes(rig, day, pack, &drawn);
        evaluation.assumed = assumed(pack, day, &drawn);
        evaluation.drawn = Some(drawn);
    }
    Ok(evaluation)
}

/// The bank of a pack with the given law of one sound unit, ending where unit or controller ends.
pub(crate) fn bank(pack: &Pack, rig: &Rig, unit: UnitLaw) -> Bank {
    let controller = rig.controller_min.map(|v| v.value() / f64::from(pack.series));
    let unit = match controller {
        Some(v) if v > unit.v_end() => unit.ending_at(v),
        _ => unit,
    };
    let bank = Bank::uniform(unit, pack.series, pack.parallel);
    match pack.weak_unit {
        Some(w) => bank.with_odd_unit(unit.worn(w.capacity_share, w.resistance_factor)),
        None => bank,
    }
}

/// Levels and limits of a pack under the house rules. Lead has no switch inside: it never trips.
pub(crate) fn guard(pack: &Pack, rules: &HouseRules) -> Guard {
    let chemistry = pack.battery.chemistry;
    let opens = |amps: Option<crate::units::Amps>| match amps {
        Some(a) if !chemistry.is_lead() => a.value(),
        _ => f64::INFINITY,
    };
    let continuous = opens(pack.battery.max_continuous);
    let peak = pack.battery.peak;
    Guard {
        floor: rules.floor(chemistry),
        reserve: rules.reserve_level(chemistry),
        continuous,
        peak: opens(peak.map(|p| p.current)).max(continuous),
        peak_hours: peak.map_or(0.0, |p| p.seconds / 3600.0),
    }
}

fn draw(day: &Day, rules: &HouseRules, pack: &Pack, rig: &Rig, fit: Fit, one: &[Leg]) -> Drawn {
    let bank = bank(pack, rig, fit.law);
    let guard = guard(pack, rules);
    let mut points = Vec::with_capacity(one.len() + 2);
    let pace = drawdown::hours_at_this_pace(&bank, one, &guard, day::LONGEST.value());
    let legs = demand::days_in_a_row(day, one);
    let summary = drawdown::run(&bank, &legs, &guard, |p| points.push(p));
    let depth = 1.0 - summary.charge_left;
    let life =
        life::life(&pack.battery, depth, day.outings_per_year, rules.keeping, rules.horizon_years);
    let hours = summary_hours(day, &summary);
    let cost = pack.price_of_batteries().and_then(|batteries| {
        life::cost(
            batteries,
            pack.extra_cost.unwrap_or(0.0),
            &life,
            day.outings_per_year,
            rules.horizon_years,
            summary.delivered_wh / 1000.0,
            hours,
        )
    });
    let band = band::band(rig, pack, &fit, &legs, &guard, &summary);
    let span: f64 = legs.iter().map(|l| l.hours).sum();
    // A single day repeated is the pace itself; nights between days make the rest of it another run.
    let spare = if day.days_without_charging <= 1 {
        pace.map(|until| Hours::of(until - span))
    } else {
        spare::hours_to_spare(&bank, &legs, one, &guard, day::LONGEST.value())
    };
    let devices = spare::devices(rig, day);
    let setting = spare::highest_safe_setting(rig, &bank, &guard, &legs, devices, band.low);
    let mut drawn = Drawn {
        floor: guard.floor,
        reserve: guard.reserve,
        hours_at_this_pace: pace.map(Hours::of),
        hours_to_spare: spare,
        highest_safe_setting: setting,
        fit,
        legs,
        summary,
        points,
        band,
        life,
        cost,
        refill: Refill::NONE,
    };
    drawn.refill = refill::refill(rig, day, pack, &drawn);
    drawn
}

/// Hours really spent under way: the day's, or fewer when it ended early. [h]
fn summary_hours(day: &Day, summary: &Summary) -> f64 {
    match summary.ended {
        Ended::DayDone => day.lasts().value() * f64::from(day.days_without_charging),
        Ended::Stopped { at } | Ended::Tripped { at, .. } => at,
    }
}

fn verdict(drawn: &Drawn) -> Outcome {
    match drawn.summary.ended {
        Ended::Tripped { .. } => Outcome::Trips,
        Ended::Stopped { .. } => Outcome::Stops,
        Ended::DayDone if drawn.summary.floor_at.is_some() => Outcome::BelowFloor,
        Ended::DayDone if drawn.summary.reserve_at.is_some() => Outcome::BelowReserve,
        Ended::DayDone => Outcome::Home,
    }
}

/// Which inputs were not given and stand at what is typical, by their names in a plan.
fn assumed(pack: &Pack, day: &Day, drawn: &Drawn) -> Vec<&'static str> {
    use crate::source::Origin::Typical;
    let battery = &pack.battery;
    [
        (drawn.fit.resistance == Typical, "battery.resistance"),
        (drawn.fit.recovery == Typical, "battery.recovery"),
        (drawn.life.cycles.origin == Typical, "battery.cycles"),
        (drawn.life.calendar_years.origin == Typical, "battery.calendar_years"),
        (
            battery.max_continuous.is_none() && !battery.chemistry.is_lead(),
            "battery.max_continuous_current_a",
        ),
        (battery.low_voltage_cutoff.is_none(), "battery.low_voltage_cutoff_v"),
        (day.ambient.is_none(), "day.ambient_c"),
    ]
    .into_iter()
    .filter_map(|(filled_in, name)| filled_in.then_some(name))
    .collect()
}
