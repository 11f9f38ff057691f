//! What a day takes, part by part.

use super::Unclear;
use crate::day::{Duty, Stretch};
use crate::drawdown::Ended;
use crate::learn::Parts;
use crate::numeric::along;
use crate::pack::Pack;
use crate::plan::Plan;
use crate::propulsion::{self, Implied};
use crate::rig::Rig;
use crate::units::Hours;
use crate::verdict::{Judge, devices_draw, told_capacity};

/// What a plan's day takes of a pack by label and typical figures, by what it is driven at: the charge that its run loses from
/// stretch to stretch, with the devices' share of it apart. What comes after an early end is taken in proportion to what such
/// stretches took before it.
///
/// # Errors
/// [`Unclear`].
pub fn parts(plan: &Plan, pack: &Pack) -> Result<Parts, Unclear> {
    let day = &plan.day;
    if !day.solar.is_empty() || !day.charging.is_empty() {
        return Err(Unclear::Charged);
    }
    let judge: Judge = plan.judge().map_err(|_| Unclear::NoDraw)?;
    let whole = told_capacity(pack).ok_or(Unclear::NoPack)?;
    if !judge.in_use(pack) {
        return Err(Unclear::NoPack);
    }
    let model = judge.model(&pack.battery).map_err(|_| Unclear::NoPack)?;
    let (starts_at, summary, points) = judge.ran(pack, &model);
    let until = match summary.ended {
        Ended::DayDone => day.lasts(),
        Ended::Stopped { at, .. } | Ended::Tripped { at, .. } => at,
    };
    let devices = devices_draw(judge.rig(), day) / pack.voltage() / whole.value();
    let nominal = |stretch: &Stretch, implied: &Implied| match stretch.duty {
        Duty::Off => 0.0,
        Duty::Setting(_) | Duty::Current(_) => {
            (implied.amps * stretch.lasts * stretch.share) / whole
        }
        _ => (implied.watts / pack.voltage() * stretch.lasts * stretch.share) / whole,
    };
    let run: Vec<(f64, f64)> = std::iter::once((0.0, starts_at))
        .chain(points.iter().map(|p| (p.at.value(), p.charge)))
        .collect();
    let charge = |at: Hours| along(&run, at.value());
    let implied = propulsion::of_day(judge.rig(), day);
    let mut parts = Parts::default();
    let mut by_curve: [Vec<(f64, f64)>; 2] = Default::default();
    let (mut clock, mut ran, mut reckoned) = (Hours::ZERO, 0.0, 0.0);
    for (stretch, implied) in day.stretches.iter().zip(&implied) {
        let implied = implied.as_ref().ok_or(Unclear::NoDraw)?;
        let by_amps = nominal(stretch, implied);
        let ends = clock + stretch.lasts;
        let by_devices = devices.value() * stretch.lasts.value();
        let motor = if ends.value() <= until.value() + 1e-9 {
            let took = charge(clock) - charge(ends) - by_devices;
            (ran, reckoned) = (ran + took, reckoned + by_amps);
            took
        } else if reckoned > 0.0 {
            by_amps * ran / reckoned
        } else {
            by_amps
        };
        clock = ends;
        parts.devices += by_devices;
        let (part, n) = match stretch.duty {
            // What recovers or creeps while nothing is driven is the devices'.
            Duty::Off => {
                parts.devices += motor;
                continue;
            }
            Duty::Setting(_) | Duty::Current(_) | Duty::Power(_) => (&mut parts.at_settings, 0),
            Duty::Speed(_) | Duty::Distance(_) => (&mut parts.at_speed, 1),
            Duty::HoldPlace => (&mut parts.holding, 2),
        };
        *part += motor;
        parts.squares[n] += motor * motor;
        if let Some((curve, at)) = between_measured(judge.rig(), stretch, implied) {
            match by_curve[curve].iter_mut().find(|(other, _)| (other - at).abs() < SAME) {
                Some((_, sum)) => *sum += motor,
                None => by_curve[curve].push((at, motor)),
            }
        }
    }
    parts.between = by_curve.map(|all| all.iter().map(|(_, sum)| sum * sum).sum());
    Ok(parts)
}

/// Settings, and speeds in m/s, nearer than this are one.
const SAME: f64 = 0.05;

/// The curve that a stretch is read off between what was measured, 0 for settings and 1 for speeds, and where; `None` where its draw was
/// typed or measured, or comes from the wind.
fn between_measured(rig: &Rig, stretch: &Stretch, implied: &Implied) -> Option<(usize, f64)> {
    match stretch.duty {
        Duty::Setting(setting) => {
            let setting = rig.motor.nearest_setting(setting);
            rig.motor.read_at_setting(setting).is_none().then_some((0, setting))
        }
        Duty::Speed(_) | Duty::Distance(_) => {
            let speed = implied.speed?.value();
            let measured = rig.measured.iter().any(|p| (p.speed.value() - speed).abs() < SAME);
            (!measured).then_some((1, speed))
        }
        Duty::Off | Duty::Current(_) | Duty::Power(_) | Duty::HoldPlace => None,
    }
}
