//! A day looked at from any of its moments: what is left then, how long and far that goes, whether it still brings one home.

use crate::day::{self, Day, Duty};
use crate::drawdown::{self, Ended, Leg};
use crate::numeric::halved;
use crate::pack::Pack;
use crate::plan::way_home;
use crate::propulsion::{self, Implied};
use crate::rig::Motor;
use crate::shelf::NotForTraction;
use crate::units::{Amps, Hours, MetresPerSecond, Volts, Watts};
use crate::verdict::Judge;

/// A pack at one moment of the day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Moment {
    /// Share of the charge left.
    pub charge: f64,
    /// Pack voltage under the load just before; `None` while the cold holds all that is left. [V]
    pub volts: Option<Volts>,
    /// Mean pack current since the moment before. [A]
    pub amps: Amps,
    /// Hours until floor or end if it went on as it goes then; `None` when that comes in no hours that count. [h]
    pub hours_left: Option<Hours>,
    /// Charge with which the way home would end that begins now, as planned or what is left of it; `None` where it would not
    /// end, or where nobody has to go home any more.
    pub home_with: Option<f64>,
    /// Control setting that keeps the stretch's power at this voltage, from 0 to 10, above where the motor cannot; `None`
    /// while it stands or where its draw is not known.
    pub setting: Option<f64>,
}

/// The moments of a day: its stretches' ends, and evenly between them about `count` in all. [h]
pub fn times(day: &Day, count: usize) -> Vec<Hours> {
    let span = day.span().value();
    let mut ends = vec![0.0];
    for _ in 0..day.days_without_charging {
        for stretch in &day.stretches {
            ends.push(ends[ends.len() - 1] + stretch.lasts.value());
        }
        if ends[ends.len() - 1] + 1e-9 < span {
            ends.push(ends[ends.len() - 1] + day.night().value());
        }
    }
    let mut times = vec![Hours::ZERO];
    for pair in ends.windows(2) {
        let (from, lasts) = (pair[0], pair[1] - pair[0]);
        let pieces = (lasts / span * count as f64).ceil().max(1.0);
        times.extend((1..=pieces as u32).map(|n| Hours::of(from + lasts * f64::from(n) / pieces)));
    }
    times
}

/// Speed over the ground at each moment, just before it; `None` where it cannot be told. [m/s]
pub fn speeds(judge: &Judge, times: &[Hours]) -> Vec<Option<MetresPerSecond>> {
    let implied = propulsion::of_day(judge.rig(), judge.day());
    times.iter().map(|t| implied.get(stretch_at(judge.day(), *t)?)?.as_ref()?.speed).collect()
}

/// The stretch of a moment, which belongs to the one it ends; `None` by night.
fn stretch_at(day: &Day, at: Hours) -> Option<usize> {
    let every = day.lasts() + day.night();
    let turn =
        if day.days_without_charging > 1 { (at / every - 1e-9).floor().max(0.0) } else { 0.0 };
    let within = at - every * turn;
    let mut clock = Hours::ZERO;
    day.stretches.iter().position(|s| {
        clock += s.lasts;
        within.value() <= clock.value() + 1e-9
    })
}

/// What a pack has left at each of these moments, which begin with 0 and rise. Those after its end are not told.
///
/// # Errors
/// [`NotForTraction`] as [`Judge::model`].
pub fn moments(judge: &Judge, pack: &Pack, times: &[Hours]) -> Result<Vec<Moment>, NotForTraction> {
    let (bank, guard, legs) = judge.bank_and_legs(pack, pack)?;
    let day = judge.day();
    let implied = propulsion::of_day(judge.rig(), day);
    let mut state = bank.at(judge.starts_at(pack));
    let mut told: Vec<Moment> = Vec::with_capacity(times.len());
    let mut morning = None;
    for (n, at) in times.iter().enumerate() {
        let from = if n == 0 { Hours::ZERO } else { times[n - 1] };
        let piece = between(&legs, from, *at);
        let (mut last, mut amp_hours) = (None, 0.0);
        let mut before = Hours::ZERO;
        let (summary, next) = drawdown::run_watched(&bank, &state, &piece, &guard, |p| {
            amp_hours += (p.amps * (p.at - before)).value();
            (before, last) = (p.at, Some(p));
        });
        if summary.ended != Ended::DayDone {
            break;
        }
        let passed = *at - from;
        state = next;
        let volts = match last {
            Some(point) => point.volts,
            None => Volts::try_new(bank.volts(&state, 0.0)).ok(),
        };
        morning = morning.or(volts);
        let goes_on = between(&legs, *at, *at + Hours::of(1.0 / 60.0));
        let now: Vec<Leg> = goes_on.first().or(piece.last()).copied().into_iter().collect();
        let hours_left =
            drawdown::hours_until_floor(&bank, &state, &[], &now, &guard, day::LONGEST);
        let home_with = home_from(day, *at).and_then(|(from, to)| {
            let (summary, _) = drawdown::run_on(&bank, &state, &between(&legs, from, to), &guard);
            (summary.ended == Ended::DayDone).then_some(summary.charge_left)
        });
        let stretch = stretch_at(day, *at);
        let asked = stretch.and_then(|s| Some((day.stretches[s].duty, implied[s].as_ref()?)));
        let setting = match (asked, volts, morning) {
            (Some((duty, implied)), Some(volts), Some(morning)) => {
                setting_needed(&judge.rig().motor, duty, implied, volts, morning)
            }
            _ => None,
        };
        told.push(Moment {
            charge: bank.charge_share(&state),
            volts,
            amps: if passed > Hours::ZERO {
                Amps::of(amp_hours / passed.value())
            } else {
                Amps::ZERO
            },
            hours_left,
            home_with,
            setting,
        });
    }
    Ok(told)
}

/// What a bank feels from one time to another.
fn between(legs: &[Leg], from: Hours, to: Hours) -> Vec<Leg> {
    let mut clock = Hours::ZERO;
    let cut = legs.iter().filter_map(|leg| {
        let (begins, ends) = (clock, clock + leg.hours);
        clock = ends;
        let hours = ends.min(to) - begins.max(from);
        (hours.value() > 1e-12).then_some(Leg { hours, ..*leg })
    });
    cut.collect()
}

/// When the way home of this day begins and ends if it is begun now, or what is left of it; `None` where nobody goes home any
/// more that day.
fn home_from(day: &Day, at: Hours) -> Option<(Hours, Hours)> {
    let home = way_home(day)?;
    let every = day.lasts() + day.night();
    let turn = if day.days_without_charging > 1 { (at / every + 1e-9).floor() } else { 0.0 };
    let before: Hours = day.stretches[..home].iter().map(|s| s.lasts).sum();
    let begins = every * turn + before;
    let ends = begins + day.stretches[home].lasts;
    (at.value() < ends.value() - 1e-9).then(|| (begins.max(at), ends))
}

/// The setting that keeps a stretch's power at a voltage: what the motor takes at a setting falls with the voltage. A stretch
/// that is given by its setting keeps the power which that gave in the morning.
fn setting_needed(
    motor: &Motor,
    duty: Duty,
    implied: &Implied,
    volts: Volts,
    morning: Volts,
) -> Option<f64> {
    if duty == Duty::Off || !motor.draw_is_known() {
        return None;
    }
    let takes = |setting: f64, volts: Volts| -> Option<Watts> {
        let amps = motor.current_at(setting)?;
        let asks = drawdown::Demand::setting(amps, motor.reads_at());
        Some(volts * Amps::of(asks.amps(volts.value())))
    };
    let wanted = match duty {
        Duty::Setting(setting) => takes(motor.nearest_setting(setting), morning)?,
        _ => implied.watts,
    };
    let enough = |setting: f64| takes(setting, volts).is_some_and(|watts| watts >= wanted);
    let most = 11.0;
    if !enough(10.0) {
        return Some(most);
    }
    Some(halved((0.0, 10.0), 24, |setting| !enough(setting)).1)
}
