//! Power, and not energy: how fast a pack holds a hill, fresh and near its floor, and what getting up to speed asks.
//!
//! A pack with enough ampere-hours may still be too weak for a hill: lead sags under a load, a BMS shuts off on it.

use crate::drawdown;
use crate::numeric::halved;
use crate::pack::Pack;
use crate::plan::Plan;
use crate::propulsion::road::{self, DRIVELINE};
use crate::rig::Craft;
use crate::units::{Amps, Kilograms, MetresPerSecond, Volts, Watts};
use crate::verdict;

/// What holds a pack's power back.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HeldBy {
    /// The motor takes no more.
    Motor,
    /// Its BMS or its label.
    Label,
    /// Its voltage falls to its end.
    Voltage,
}

/// The power that a pack gives at one charge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Power {
    /// So much. [W]
    pub watts: Watts,
    /// At this current. [A]
    pub amps: Amps,
    /// And this voltage. [V]
    pub volts: Volts,
    /// Why not more.
    pub held_by: HeldBy,
}

/// The most power that a pack gives to the motor when it has rested at a charge share; `None` without a capacity on the
/// label or a current of the motor.
///
/// The highest current that motor and label allow and at which every unit stays above its end voltage.
pub fn power(plan: &Plan, pack: &Pack, share: f64) -> Option<Power> {
    let rig = &plan.rig_as_measured();
    let motor = rig.motor.full_current()?;
    let bank = verdict::bank(pack, rig, drawdown::fit(&pack.battery).ok()?.law);
    let now = bank.at(share);
    let label = pack.max_continuous().filter(|label| *label < motor);
    let (limit, held_by) = match label {
        Some(label) => (label, HeldBy::Label),
        None => (motor, HeldBy::Motor),
    };
    let stands = |amps: f64| bank.margin(&now, amps) >= 0.0;
    let (amps, held_by) = if stands(limit.value()) {
        (limit.value(), held_by)
    } else {
        (halved((0.0, limit.value()), 60, stands).0, HeldBy::Voltage)
    };
    let volts = bank.volts(&now, amps);
    let watts = Watts::of(amps * volts);
    Some(Power { watts, amps: Amps::of(amps), volts: Volts::of(volts), held_by })
}

/// The craft with this pack in place of the one aboard.
fn loaded(plan: &Plan, pack: &Pack) -> Craft {
    let mut craft = plan.rig.craft;
    if let (Some(aboard), Some(mass)) = (plan.aboard().and_then(Pack::mass), pack.mass()) {
        craft.heavier_by = mass - aboard;
    }
    craft
}

/// Fastest speed looked at: a low-speed vehicle may go 25 mph, 49 CFR 571.500. [m/s]
pub const FASTEST: MetresPerSecond = MetresPerSecond::of(11.176);

/// The speed that a power holds on a grade of the road, up to [`FASTEST`]: where `F v / η` is all of it. [m/s]
pub fn held(craft: &Craft, rolling: f64, grade: f64, watts: Watts) -> MetresPerSecond {
    let (mass, windage) = (craft.mass().value, craft.windage().value);
    let gives = |v: f64| {
        let v = MetresPerSecond::of(v);
        let force = road::force(mass, rolling, grade, windage, v);
        force.value() * v.value() / DRIVELINE <= watts.value()
    };
    if gives(FASTEST.value()) {
        return FASTEST;
    }
    MetresPerSecond::of(halved((0.0, FASTEST.value()), 60, gives).0)
}

/// The speed that a pack holds on a hill of asphalt at a charge share; `None` as [`power`]. [m/s]
pub fn on_a_hill(
    plan: &Plan,
    pack: &Pack,
    grade: f64,
    share: f64,
) -> Option<(MetresPerSecond, Power)> {
    let power = power(plan, pack, share)?;
    let rolling = crate::day::Surface::Asphalt.rolling().0;
    Some((held(&loaded(plan, pack), rolling, grade, power.watts), power))
}

/// The power from the battery at the end of a sprint on level asphalt, speed rising evenly: `(m a + F) v / η`. [W]
pub fn sprint(plan: &Plan, pack: &Pack, to: MetresPerSecond, seconds: f64) -> Watts {
    let craft = loaded(plan, pack);
    let mass: Kilograms = craft.mass().value;
    let rolling = crate::day::Surface::Asphalt.rolling().0;
    let road = road::force(mass, rolling, 0.0, craft.windage().value, to);
    let push = mass.value() * road::TURNING * to.value() / seconds;
    Watts::of((push + road.value()) * to.value() / DRIVELINE)
}

/// Power that cranking amps tell of: so long as a starter runs, at 0 °F and 1.2 V a cell, SAE J537. Nothing of its
/// energy: never turned into ampere-hours. [W]
pub fn cranking(pack: &Pack) -> Option<Watts> {
    let amps = pack.battery.cranking? * f64::from(pack.parallel);
    let cells = f64::from(pack.battery.cells() * pack.series);
    Some(Watts::of(1.2 * cells * amps.value()))
}

/// The steepest climb of a plan's day, as rise over run; `None` where none climbs.
pub fn steepest(plan: &Plan) -> Option<f64> {
    plan.day.stretches.iter().map(|s| s.grade).reduce(f64::max).filter(|grade| *grade > 0.0)
}
