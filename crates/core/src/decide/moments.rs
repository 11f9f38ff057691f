//! A day looked at from any of its moments: what is left then, how long and far that goes, whether it still brings one home.

use crate::day::{self, Day, Duty};
use crate::drawdown::{self, Bank, BankState, Ended, Leg};
use crate::numeric::halved;
use crate::pack::Pack;
use crate::plan::{leads_back, way_home};
use crate::propulsion::{self, Implied};
use crate::rig::{Motor, Rig};
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
    /// Control setting that the way home takes if it is begun now, from 0 to 10 and above where the motor cannot: what it takes
    /// falls with the voltage under that load. `None` where its draw is not known.
    pub home_setting: Option<f64>,
}

/// Moments of a night between two days: little happens.
const OF_A_NIGHT: f64 = 4.0;

/// The moments of a day: its stretches' ends, and evenly between them about `count` in all, nights besides. [h]
pub fn times(day: &Day, count: usize) -> Vec<Hours> {
    let span = day.span().value();
    let under_way = (day.lasts() * f64::from(day.days_without_charging)).value();
    let mut times = vec![Hours::ZERO];
    let mut clock = 0.0;
    let mut go_on = |lasts: f64, pieces: f64| {
        if lasts > 0.0 {
            let at = |n: u32| Hours::of(clock + lasts * f64::from(n) / pieces);
            times.extend((1..=pieces as u32).map(at));
            clock += lasts;
        }
        clock
    };
    for _ in 0..day.days_without_charging {
        let mut at = 0.0;
        for stretch in &day.stretches {
            let lasts = stretch.lasts.value();
            at = go_on(lasts, (lasts / under_way * count as f64).ceil().max(1.0));
        }
        if at + 1e-9 < span {
            go_on(day.night().value(), OF_A_NIGHT);
        }
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
    let takes = HomePower::of(judge, &implied, &bank, &state);
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
        let goes_on = between(&legs, *at, *at + Hours::of(1.0 / 60.0));
        // In one piece however long: begun anew every minute it would take as many steps.
        let now = goes_on.first().or(piece.last()).map(|leg| Leg { hours: day::LONGEST, ..*leg });
        let now: Vec<Leg> = now.into_iter().collect();
        let hours_left =
            drawdown::hours_until_floor(&bank, &state, &[], &now, &guard, day::LONGEST);
        let home_with = home_from(judge.rig(), day, *at).and_then(|(from, to)| {
            let (summary, _) = drawdown::run_on(&bank, &state, &between(&legs, from, to), &guard);
            (summary.ended == Ended::DayDone).then_some(summary.charge_left)
        });
        told.push(Moment {
            charge: bank.charge_share(&state).max(0.0),
            volts,
            amps: if passed > Hours::ZERO {
                Amps::of(amp_hours / passed.value())
            } else {
                Amps::ZERO
            },
            hours_left,
            home_with,
            home_setting: takes.as_ref().and_then(|takes| takes.setting(&bank, &state)),
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
fn home_from(rig: &Rig, day: &Day, at: Hours) -> Option<(Hours, Hours)> {
    let home = leads_back(rig, day)?;
    let until = |to: usize| day.stretches[..to].iter().map(|s| s.lasts).sum::<Hours>();
    let every = day.lasts() + day.night();
    let last = f64::from(day.days_without_charging.saturating_sub(1));
    let turn = (at / every + 1e-9).floor().min(last);
    let (begins, ends) = (every * turn + until(home.start), every * turn + until(home.end));
    (at.value() < ends.value() - 1e-9).then(|| (begins.max(at), ends))
}

/// What the way home takes of the motor.
struct HomePower<'a> {
    motor: &'a Motor,
    watts: Watts,
}

/// A setting above the highest: the motor cannot.
const TOO_MUCH: f64 = 11.0;

impl<'a> HomePower<'a> {
    /// The power of the way home; one that is given by its setting takes what that gives in the morning.
    fn of(
        judge: &'a Judge,
        implied: &[Option<Implied>],
        bank: &Bank,
        morning: &BankState,
    ) -> Option<Self> {
        let (motor, home) = (&judge.rig().motor, way_home(judge.day())?);
        if !motor.draw_is_known() {
            return None;
        }
        let home_implied = implied[home].as_ref()?;
        let mut this = Self { motor, watts: home_implied.watts };
        if let Duty::Setting(setting) = judge.day().stretches[home].duty {
            let volts = this.volts(bank, morning)?;
            this.watts = this.takes(motor.nearest_setting(setting), volts)?;
        }
        Some(this)
    }

    /// Pack volts while that power is drawn: what is drawn and what is left under it, until they agree. `None` where a bank
    /// cannot give it.
    fn volts(&self, bank: &Bank, now: &BankState) -> Option<Volts> {
        let mut volts = bank.volts(now, 0.0);
        for _ in 0..8 {
            volts = bank.volts(now, self.watts.value() / volts);
            if !(volts.is_finite() && volts > 0.0) {
                return None;
            }
        }
        Volts::try_new(volts).ok()
    }

    /// What the motor takes at a setting and a voltage.
    fn takes(&self, setting: f64, volts: Volts) -> Option<Watts> {
        let amps = self.motor.current_at(setting)?;
        let asks =
            drawdown::Demand::setting(amps, self.motor.reads_at()).capped(self.motor.stated_most());
        Some(volts * Amps::of(asks.amps(volts.value())))
    }

    fn setting(&self, bank: &Bank, now: &BankState) -> Option<f64> {
        let Some(volts) = self.volts(bank, now) else { return Some(TOO_MUCH) };
        let enough =
            |setting: f64| self.takes(setting, volts).is_some_and(|takes| takes >= self.watts);
        if !enough(10.0) {
            return Some(TOO_MUCH);
        }
        Some(halved((0.0, 10.0), 24, |setting| !enough(setting)).1)
    }
}
