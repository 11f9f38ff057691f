//! What an owner decides by: how long and how far it would still go, and how hard it may be driven.

use super::Drawn;
use super::demand::{CONVERTED, behind_the_cable};
use crate::day::Day;
use crate::drawdown::{self, Bank, BankState, Cold, Demand, Guard, Leg};
use crate::numeric::halved;
use crate::propulsion::{self, Implied};
use crate::rig::Rig;
use crate::units::{Hours, Metres};
use crate::wiring::MotorCable;

/// What is to spare when the day is done.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spare {
    /// How much longer the day could go on in the same way until the floor or the end; negative by as
    /// much as the floor or the end came too early. [h]
    pub hours: Hours,
    /// How far the day's stretches lead in these hours, negative by what was left to go; `None` where
    /// the day covers no distance that can be told. [m]
    pub distance: Option<Metres>,
}

/// Where one day's stretches lead: how long each lasts [h], and the distance over the ground it goes
/// forward [m], zero where none can be told; and the same for the whole outing, nights included.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Course {
    day: Vec<(f64, f64)>,
    outing: Vec<(f64, f64)>,
}

impl Course {
    /// The course of a day whose stretches come to this, see [`propulsion::of_day`].
    pub fn of(day: &Day, implied: &[Option<Implied>]) -> Self {
        let stretches = std::iter::zip(&day.stretches, implied).map(|(stretch, implied)| {
            let covered = implied.as_ref().and_then(|i| i.distance);
            // A boat that is blown back has not come nearer to anything.
            (stretch.lasts.value(), covered.map_or(0.0, Metres::value).max(0.0))
        });
        let one: Vec<_> = stretches.collect();
        let night = (day.night().value(), 0.0);
        let mut outing = one.clone();
        for n in 1..=day.nights() {
            outing.push(night);
            if n < day.days_without_charging {
                outing.extend(&one);
            }
        }
        Self { day: one, outing }
    }

    /// Distance of one day. [m]
    pub fn distance(&self) -> Metres {
        Metres::of(self.day.iter().map(|(_, gone)| gone).sum())
    }

    /// Distance gone in the hours that follow the outing, its day repeated over and over: parked hours
    /// add nothing. Hours below zero count back from its end, over its nights, and give a distance below
    /// zero; never farther back than its beginning. [m]
    pub fn within(&self, hours: Hours) -> Metres {
        let lasts = |of: &[(f64, f64)]| of.iter().map(|(lasts, _)| lasts).sum::<f64>();
        let (day, hours) = (lasts(&self.day), hours.value());
        if day <= 0.0 {
            return Metres::of(0.0);
        }
        if hours < 0.0 {
            let whole: f64 = self.outing.iter().map(|(_, gone)| gone).sum();
            return Metres::of(gone_by(&self.outing, lasts(&self.outing) + hours) - whole);
        }
        let days = (hours / day).floor();
        Metres::of(days * self.distance().value() + gone_by(&self.day, hours - days * day))
    }
}

/// Distance gone after so many hours of these stretches. [m]
fn gone_by(stretches: &[(f64, f64)], hours: f64) -> f64 {
    let (mut rest, mut gone) = (hours, 0.0);
    for (lasts, far) in stretches {
        if rest < *lasts {
            return if rest > 0.0 { gone + rest / lasts * far } else { gone };
        }
        gone += far;
        rest -= lasts;
    }
    gone
}

/// The course of a day, and of the outing that it is part of.
pub fn course(rig: &Rig, day: &Day) -> Course {
    Course::of(day, &propulsion::of_day(rig, day))
}

/// Farther than this a distance is worth telling. [m]
const WORTH_TELLING: f64 = 100.0;

impl Drawn {
    /// How far the pack goes on this day repeated until its floor or its end; `None` where the day covers no distance
    /// that can be told, or nothing is drawn. [m]
    pub fn range(&self, course: &Course) -> Option<Metres> {
        let hours = self.hours_at_this_pace?;
        (course.distance().value() > WORTH_TELLING).then(|| course.within(hours / self.takes))
    }

    /// What is to spare on a day of this course; `None` when nothing is drawn.
    ///
    /// `miles to spare = miles of the day begun anew, as far as the hours to spare lead`; hours too few
    /// count back from the end of the day in the same way.
    pub fn spare(&self, course: &Course) -> Option<Spare> {
        let hours = self.hours_to_spare?;
        let told = course.distance().value() > WORTH_TELLING;
        Some(Spare { hours, distance: told.then(|| course.within(hours / self.takes)) })
    }
}

/// Hours from the end of the day, repeated as it is, until the floor or the end; negative when they came
/// before. `None` when nothing is drawn.
pub(super) fn hours_to_spare(
    bank: &Bank,
    from: &BankState,
    days: &[Leg],
    one: &[Leg],
    guard: &Guard,
    longest: Hours,
) -> Option<Hours> {
    let span: Hours = days.iter().map(|l| l.hours).sum();
    let until = drawdown::hours_until_floor(bank, from, days, one, guard, span + longest)?;
    Some(until - span)
}

/// A bad day's draw lies this far towards the edge of what is not known: nine in ten are better.
const BAD_DAY: f64 = 0.8;

/// The last run home, for which a setting must hold at the end of a bad day. Estimate. [h]
const LAST_RUN: f64 = 10.0 / 60.0;

/// Highest control setting that a pack carries on a bad day, 0 to 10: on the full pack its current is
/// within what the BMS carries, and on the charge that a bad day leaves it holds the voltage above the
/// end for another ten minutes. Zero when not even the lowest does; `None` when the motor's draw is not
/// known.
///
/// Settings are whole numbers, or the motor's own steps.
pub(super) fn highest_safe_setting(
    rig: &Rig,
    bank: &Bank,
    guard: &Guard,
    days: &[Leg],
    (devices, cable): (Demand, Option<MotorCable>),
    left_on_a_bad_day: f64,
) -> Option<f64> {
    if !rig.motor.draw_is_known() {
        return None;
    }
    let span: Hours = days.iter().map(|l| l.hours).sum();
    if span <= Hours::ZERO {
        return None;
    }
    let cold = days.last().map_or(Cold::NONE, |l| l.cold);
    let bank = bank.map_units(|u| u.at_temperature(cold));
    let full = bank.full();
    let empty = bank.at(left_on_a_bad_day);
    let carries = |setting: f64| {
        let amps = rig.motor.current_at(setting)?;
        let read = Demand::setting(amps, rig.motor.reads_at());
        let asks = behind_the_cable(cable, read, rig.motor.settings_measured)
            .unsure_by(devices.unsure())
            .leaning(BAD_DAY)
            .capped(rig.motor.stated_most())
            .beside(devices);
        let at_full = settles(&bank, &full, &asks);
        let at_the_end = settles(&bank, &empty, &asks);
        let within =
            guard.continuous.is_none_or(|most| bank.string_amps(&full, at_full) <= most.value());
        let later = bank.draw(&empty, at_the_end, LAST_RUN);
        Some(within && bank.margin(&later, at_the_end) > 0.0)
    };
    let steps = rig.motor.steps().unwrap_or(10);
    let mut highest = 0.0;
    for step in 1..=steps {
        let setting = f64::from(step) / f64::from(steps) * 10.0;
        if !carries(setting)? {
            break;
        }
        highest = setting;
    }
    Some(highest)
}

/// Current that a demand and a bank agree on. [A]
///
/// The voltage falls with the current, and what a motor asks falls with the voltage: what is asked and
/// what flows meet once, or where the bank can give no more.
/// Found by halving, between nothing and what is asked at the highest or the lowest voltage.
fn settles(bank: &Bank, now: &BankState, asks: &Demand) -> f64 {
    let least = bank.least_volts();
    let asked = |amps: f64| asks.amps(bank.volts(now, amps).max(least));
    let most = asked(0.0).max(asks.amps(least));
    halved((0.0, most), 24, |amps| asked(amps) > amps).1
}

/// What the devices ask, with how unsure a motor setting is that was not measured.
pub(super) fn devices(rig: &Rig, day: &Day) -> Demand {
    let efficiency = CONVERTED.efficiency(rig.motor.system_voltage);
    let doubt = rig.motor.learned.map_or(1.0, |l| l.doubt);
    let unsure = if rig.motor.settings_measured { 0.0 } else { SETTING_UNSURE * doubt };
    Demand::OFF.unsure_by(unsure).with_devices(day.accessory_power(), efficiency)
}

/// How far a motor's draw at a setting may be off where nobody measured it. Estimate.
const SETTING_UNSURE: f64 = 0.10;
