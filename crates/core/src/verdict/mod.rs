//! One pack against one day: the verdict, the moments it turns on, and what it costs.

use crate::keyed::keyed;
pub mod band;
pub mod demand;
mod judge;
mod notes;
mod spare;
mod told;
mod work;
pub mod working;

pub use band::{Band, BandPoint, Unknown};
pub use demand::{NoDrawCurve, devices_draw, is_converted};
pub use judge::{Judge, Judged, Model, Survey, evaluate};
pub use notes::Note;
pub use spare::{Course, Spare, course};
pub use told::{Limit, Verdict, What};
pub use work::{Does, How, Otherwise, Work};
pub use working::{Line, Term, working};

use crate::day::Day;
use crate::drawdown::{Bank, Ended, Fit, Guard, Leg, Point, Summary, UnitLaw, fit};
use crate::house::HouseRules;
use crate::life::Life;
use crate::money::{Cost, Terms};
use crate::pack::{Pack, limits};
use crate::refill::Refill;
use crate::rig::Rig;
use crate::units::{AmpHours, Amps, Hours, Kilograms, Money, Volts, WattHours};
use crate::wiring::MotorCable;

keyed! {
    /// The verdict on a pack, best first.
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
    /// Ampere-hours of the fitted battery over twenty hours at 25 °C, whatever the label rates over; absent without any
    /// on the label.
    pub capacity: Option<AmpHours>,
    /// The same as watt-hours at nominal voltage.
    pub energy: Option<WattHours>,
    /// What the label says, and over how long.
    pub label_capacity: Option<(AmpHours, Hours)>,
    /// Weight of all units.
    pub mass: Option<Kilograms>,
    /// All that is paid now: batteries, extras, labour, less what is sold of what is aboard.
    pub price_total: Option<Money>,
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
    /// Who vouches for what it draws: the weakest of its stretches.
    pub draws_by: crate::source::Origin,
    /// What of the day's work is done.
    pub work: std::sync::Arc<Work>,
    /// How many times as long as planned the day takes on this pack; 1 where it goes as planned.
    pub takes: f64,
    /// The day as it is driven on this pack, where that takes longer than planned.
    pub driven: Option<std::sync::Arc<Day>>,
    /// The day as the bank felt it.
    pub legs: std::sync::Arc<[Leg]>,
    /// What the day came to.
    pub summary: Summary,
    /// The charge through the day: straight lines between these points.
    pub points: Vec<Point>,
    /// From a bad day to a good one.
    pub band: Band,
    /// Charge share that the day begins with.
    pub starts_at: f64,
    /// What the craft draws while it stands and cannot be switched off. [A]
    pub standing_drain: Option<Amps>,
    /// The cable to the motor, if its length is told: the motor has the pack's volts less `I R`.
    pub cable: Option<MotorCable>,
    /// How much heavier the craft is for this pack than with the one aboard, which it was weighed with. [kg]
    pub heavier_by: Kilograms,
    /// Charge share that stays for the battery's life.
    pub floor: f64,
    /// Charge share below which the reserve is touched: the house rules', over what is out of reach that day.
    pub reserve: f64,
    /// Charge share below which nothing is within reach of the way home's draw in the cold of its end, 0 to 1.
    pub out_of_reach: f64,
    /// The same at the draw and in the cold of every point of the day.
    pub ice: Vec<(Hours, f64)>,
    /// Hours until floor or end when the day is repeated over and over; `None` when nothing is drawn.
    pub hours_at_this_pace: Option<Hours>,
    /// Hours from the end of the day until floor or end if it went on in the same way, negative when
    /// they came before; `None` when nothing is drawn. [h]
    pub hours_to_spare: Option<Hours>,
    /// Highest control setting it carries on a bad day, 0 to 10; `None` when the motor's draw is not
    /// known.
    pub highest_safe_setting: Option<f64>,
    /// The same where the day asks for more than that; `None` where it does not.
    pub keep_to: Option<f64>,
    /// The lowest and the highest charge of the day, between which it is cycled.
    pub between: (f64, f64),
    /// How long it lives at this use.
    pub life: Life,
    /// What it costs, if priced.
    pub cost: Option<Cost>,
    /// How it gets full again.
    pub refill: Refill,
}

/// Ampere-hours of a pack's fitted battery over twenty hours at 25 °C; `None` without any on its label. [Ah]
pub fn capacity(pack: &Pack) -> Option<AmpHours> {
    let fit = fit(&pack.battery).ok()?;
    Some(AmpHours::of(fit.q20 * f64::from(pack.parallel)))
}

/// The ampere-hours that a charge share of a pack is a share of, as new: its label's, lead's over twenty hours, fitted where the
/// label rates over other times; `None` without any on its label. What wear has left of them is [`Health`]'s. [Ah]
///
/// [`Health`]: crate::pack::Health
pub fn rated(pack: &Pack) -> Option<AmpHours> {
    let fit = fit(&pack.battery).ok()?;
    Some(AmpHours::of(fit.law.rated() * f64::from(pack.parallel)))
}

/// What a pack holds as its owner told it: its label's, times what wear has left of it. What a log teaches of a capacity is over
/// this. [Ah]
pub fn told_capacity(pack: &Pack) -> Option<AmpHours> {
    Some(rated(pack)? * pack.health.capacity_share)
}

impl Evaluation {
    /// What the label alone tells of a pack that is set aside for these reasons.
    pub fn set_aside(pack: &Pack, reasons: Vec<limits::SetAside>, terms: &Terms) -> Self {
        let strings = f64::from(pack.parallel);
        let capacity = capacity(pack);
        Self {
            outcome: Outcome::SetAside,
            reasons,
            notes: Vec::new(),
            voltage: pack.voltage(),
            capacity,
            energy: capacity.map(|ah| pack.voltage() * ah),
            label_capacity: pack.battery.headline().ok().map(|(ah, over)| (ah * strings, over)),
            mass: pack.mass(),
            price_total: terms.paid_now(pack),
            drawn: None,
            assumed: Vec::new(),
        }
    }
}

impl Drawn {
    /// The day as it is driven on this pack: as planned, or longer.
    pub fn day<'a>(&'a self, planned: &'a Day) -> &'a Day {
        self.driven.as_deref().unwrap_or(planned)
    }

    /// When the day ended early: stopped or tripped. [h]
    pub const fn ended_early_at(&self) -> Option<Hours> {
        match self.summary.ended {
            Ended::DayDone => None,
            Ended::Stopped { at, .. } | Ended::Tripped { at, .. } => Some(at),
        }
    }
}

/// The bank of a pack with the given law of one sound unit, ending where unit or controller ends.
pub(crate) fn bank(pack: &Pack, rig: &Rig, unit: UnitLaw) -> Bank {
    let controller = rig.controller_min.map(|v| v.value() / f64::from(pack.series));
    let unit = match controller {
        Some(v) if v > unit.v_end() => unit.ending_at(v),
        _ => unit,
    };
    let accepts = pack.battery.chemistry.facts().acceptance;
    let unit = pack.taught.as_ref().map_or(unit, |taught| unit.taught(taught));
    let unit = unit.worn(pack.health.capacity_share, pack.health.resistance_factor).storing(
        accepts.coulombic,
        accepts.bulk_to,
        pack.battery.chemistry.full_charge_cell().value(),
    );
    let bank = Bank::uniform(unit, pack.series, pack.parallel);
    match pack.weak_unit {
        Some(w) => bank.with_odd_unit(unit.worn(w.capacity_share, w.resistance_factor)),
        None => bank,
    }
}

/// Levels and limits of a pack under the house rules. Lead has no switch inside: it never trips.
///
/// What lies below `unreachable` is out of reach at the end of the day: the reserve counts from there.
pub(crate) fn guard(pack: &Pack, rules: &HouseRules, unreachable: f64) -> Guard {
    let chemistry = pack.battery.chemistry;
    let opens = |amps: Option<Amps>| match amps {
        Some(a) if !chemistry.is_lead() => Some(a),
        _ => None,
    };
    let continuous = opens(pack.battery.max_continuous);
    let peak = pack.battery.peak;
    // A peak without a continuous current opens as well: above it nothing is borne.
    let opens_at_once = opens(peak.map(|p| p.current));
    Guard {
        floor: rules.floor(chemistry),
        reserve: rules.reserve_level_over(chemistry, unreachable),
        continuous,
        peak: opens_at_once.map(|p| continuous.map_or(p, |c| p.max(c))),
        peak_for: peak.map_or(Hours::ZERO, |p| Hours::of(p.seconds / 3600.0)),
    }
}

/// The charge share below which nothing is within reach of the way home: at the draw of the last stretch that is driven and at the
/// temperature that the day ends at. Below zero where a pack gives more than its label.
///
/// The temperature is that of the air's cooling alone: what use warms is gone after a rest.
pub(crate) fn unreachable(bank: &Bank, legs: &[Leg]) -> f64 {
    let Some(last) = legs.last() else { return 0.0 };
    let bank = bank.map_units(|u| u.at_temperature(last.cold));
    let volts = bank.volts(&bank.at(0.5), 0.0).max(bank.least_volts());
    let asks = |leg: &Leg| leg.demand.amps(volts);
    let most = legs.iter().map(asks).fold(0.0, f64::max);
    let drives = |leg: &&Leg| asks(leg) > 0.0 && asks(leg) >= DRIVES * most;
    let Some(home) = legs.iter().rev().find(drives) else { return bank.unreachable(0.0) };
    // At the volts that it has under that current, once more.
    let amps = asks(home);
    let under = bank.volts(&bank.draw(&bank.at(0.5), amps, 0.1), amps).max(bank.least_volts());
    bank.unreachable(home.demand.amps(under))
}

/// A stretch that asks for less than this share of the most is no way home: drifting, with the devices on. Estimate.
const DRIVES: f64 = 0.25;

/// Hours really spent under way: the day's, or fewer when it ended early; nights left out. [h]
pub(crate) fn summary_hours(day: &Day, summary: &Summary) -> Hours {
    day.hours_out(match summary.ended {
        Ended::DayDone => day.span(),
        Ended::Stopped { at, .. } | Ended::Tripped { at, .. } => at,
    })
}

/// The lowest and the highest charge that a day knows: how deep its cycle is, and where it lies.
fn between(starts_at: f64, points: &[Point]) -> (f64, f64) {
    let shares = points.iter().map(|p| p.charge);
    shares.fold((starts_at, starts_at), |(low, high), s| (low.min(s), high.max(s)))
}

/// The highest current of a day. [A]
pub(crate) fn highest(points: &[Point]) -> Amps {
    points.iter().map(|p| p.amps).fold(Amps::ZERO, Amps::max)
}

/// The verdict on a day, the worst that happened first: tripped or stopped on the way, below the floor at the
/// end, into the reserve, home. The only place that says so: lanes, results and what-ifs all ask here.
fn outcome(summary: &Summary) -> Outcome {
    match summary.ended {
        Ended::Tripped { .. } => Outcome::Trips,
        Ended::Stopped { .. } => Outcome::Stops,
        Ended::DayDone if summary.floor_at.is_some() => Outcome::BelowFloor,
        Ended::DayDone if summary.reserve_at.is_some() => Outcome::BelowReserve,
        Ended::DayDone => Outcome::Home,
    }
}

/// Which inputs were not given and stand at what is typical, by their names in a plan.
fn assumed(pack: &Pack, day: &Day, drawn: &Drawn) -> Vec<&'static str> {
    use crate::source::Origin::Typical;
    let battery = &pack.battery;
    [
        (drawn.fit.resistance == Typical, "battery.resistance"),
        (drawn.fit.shape == Typical, "battery.recovery"),
        (drawn.life.cycles.origin == Typical, "battery.cycles"),
        (drawn.life.calendar_years.origin == Typical, "battery.calendar_years"),
        (
            battery.max_continuous.is_none() && !battery.chemistry.is_lead(),
            "battery.max_continuous_current_a",
        ),
        (battery.low_voltage_cutoff.is_none(), "battery.low_voltage_cutoff_v"),
        (battery.hours_assumed, "battery.capacity_hours"),
        (day.ambient.is_none(), "day.ambient_c"),
    ]
    .into_iter()
    .filter_map(|(filled_in, name)| filled_in.then_some(name))
    .collect()
}
