//! Ways to drive home, and what the plan says of where it would be by now.

use super::place::Graded;
use crate::day::{Conditions, Duty, Heading, Stretch};
use crate::numeric::along;
use crate::plan::{Plan, leads_back};
use crate::propulsion::{self, Implied};
use crate::rig::CraftKind;
use crate::units::convert::MS_PER_MPH;
use crate::units::{Amps, Hours, Metres, MetresPerSecond, WattHours, Watts};
use crate::verdict::devices_draw;

/// How the motor is driven.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Gear {
    /// At a control setting, 0 to 10.
    Setting(f64),
    /// At a speed, held.
    Speed(MetresPerSecond),
}

/// A gear, what all takes of the pack there, and how fast still water lets it go.
pub(super) type Geared = (Gear, Amps, MetresPerSecond);

/// Settings that are looked at.
const SETTINGS: [f64; 4] = [10.0, 7.0, 5.0, 3.0];
/// Speeds that are looked at where no draw is known: of boats, carts, and carts for the street. [mph]
const SPEEDS: [[f64; 4]; 3] =
    [[4.0, 3.0, 2.0, 1.5], [15.0, 12.0, 9.0, 6.0], [25.0, 20.0, 15.0, 10.0]];
/// Slower than this it stands. [m/s]
const STANDS: f64 = 0.1;
/// Speed of a way whose own nobody told. [m/s]
const UNTOLD: f64 = 3.0;

/// What there is to drive by.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Ways {
    all: Vec<Geared>,
    /// Each stretch of the plan: when it ends [h], amps of the pack, speed [m/s].
    planned: Vec<(f64, f64, f64)>,
    /// How far out at which hour. [h], [m]
    out: Vec<(f64, f64)>,
    /// The stretch that leads home.
    home: usize,
    push: f64,
    plan: Plan,
    road: Stretch,
}

impl Ways {
    pub(super) fn of(plan: &Plan) -> Self {
        let (rig, day) = (&plan.rig, &plan.day);
        let implied = propulsion::of_day(rig, day);
        let beside = devices_draw(rig, day) / rig.motor.system_voltage;
        let mut clock = 0.0;
        let each = std::iter::zip(&day.stretches, &implied).map(|(stretch, implied)| {
            clock += stretch.lasts.value();
            let amps = implied.map_or(0.0, |i| i.amps.value() * stretch.share);
            let speed = implied.and_then(|i| i.speed).map_or(0.0, MetresPerSecond::value);
            (clock, amps + beside.value(), speed * stretch.share)
        });
        let planned: Vec<(f64, f64, f64)> = each.collect();
        let back = leads_back(rig, day).unwrap_or(0..0);
        let lasts = |n: usize| day.stretches[n].lasts.value();
        let far = |n: usize| (planned[n].2 * lasts(n) * 3600.0).max(0.0);
        let all_home: f64 = back.clone().map(far).sum();
        let all_out: f64 = (0..back.start).map(far).sum();
        let times = if all_out > 0.0 { all_home / all_out } else { 0.0 };
        let mut out = vec![(0.0, 0.0)];
        for n in 0..planned.len() {
            let before = out[n].1;
            let after = if n < back.start {
                before + far(n) * times
            } else if back.contains(&n) {
                before - far(n)
            } else {
                before
            };
            out.push((planned[n].0, after));
        }
        let home = back.end.saturating_sub(1);
        let road = match day.stretches.get(home) {
            Some(stretch) => Stretch { grade: 0.0, ..stretch.clone() },
            None => Stretch::new("", Hours::of(1.0), Duty::Off),
        };
        let push = pushed(plan, home, implied.get(home).copied().flatten());
        let mut ways = Self { all: Vec::new(), planned, out, home, push, plan: plan.clone(), road };
        ways.all = ways.geared();
        ways
    }

    fn geared(&self) -> Vec<Geared> {
        let (rig, day) = (&self.plan.rig, &self.plan.day);
        let beside = devices_draw(rig, day);
        let kind = rig.craft.kind;
        let gears: Vec<Gear> = if kind.is_boat() && rig.motor.draw_is_known() {
            match rig.motor.steps() {
                Some(steps @ 1..=5) => {
                    let step = |n: u32| Gear::Setting(f64::from(n) / f64::from(steps) * 10.0);
                    (1..=steps).rev().map(step).collect()
                }
                _ => SETTINGS.map(Gear::Setting).to_vec(),
            }
        } else {
            let of = match kind {
                kind if kind.is_boat() => SPEEDS[0],
                CraftKind::Lsv => SPEEDS[2],
                _ => SPEEDS[1],
            };
            of.map(|mph| Gear::Speed(MetresPerSecond::of(mph * MS_PER_MPH))).to_vec()
        };
        let each = gears.into_iter().filter_map(|gear| self.at(gear, beside));
        // A motor that cannot go so fast goes as fast as it can: once.
        let mut all: Vec<Geared> = each.collect();
        all.dedup_by(|slower, faster| (slower.1 - faster.1).value().abs() < 1e-9);
        all
    }

    /// What a gear takes and how fast it goes on still water or a level road.
    pub(super) fn at(&self, gear: Gear, beside: Watts) -> Option<Geared> {
        let duty = match gear {
            Gear::Setting(s) => Duty::Setting(s),
            Gear::Speed(v) => Duty::Speed(v),
        };
        let implied = self.implied(duty, 0.0)?;
        let speed = implied.speed?;
        let gear = if matches!(gear, Gear::Speed(_)) { Gear::Speed(speed) } else { gear };
        Some((gear, implied.amps + beside / self.plan.rig.motor.system_voltage, speed))
    }

    fn implied(&self, duty: Duty, grade: f64) -> Option<Implied> {
        let stretch = Stretch {
            duty,
            grade,
            share: 1.0,
            heading: Heading::Across,
            lasts: Hours::of(1.0),
            stops: 0,
            ..self.road.clone()
        };
        propulsion::implied(&self.plan.rig, &stretch, &Conditions::CALM)
    }

    pub(super) fn all(&self) -> impl Iterator<Item = Geared> + '_ {
        self.all.iter().copied()
    }

    /// What a speed takes of the pack over the parts of a way, on average by time, and on the steepest of them. [A]
    pub(super) fn over(
        &self,
        speed: MetresPerSecond,
        parts: &[Graded],
    ) -> Option<(Amps, (f64, Amps))> {
        let (rig, day) = (&self.plan.rig, &self.plan.day);
        let beside = devices_draw(rig, day) / rig.motor.system_voltage;
        let (mut sum, mut far) = (0.0, 0.0);
        let mut steepest = (0.0, Amps::ZERO);
        for (metres, grade) in parts.iter().filter(|p| p.0.value() > 0.0) {
            let amps = self.implied(Duty::Speed(speed), *grade)?.amps + beside;
            sum += amps.value() * metres.value();
            far += metres.value();
            if *grade > steepest.0 {
                steepest = (*grade, amps);
            }
        }
        Some((if far > 0.0 { Amps::of(sum / far) } else { beside }, steepest))
    }

    /// How fast still water lets it go for a power that its motor takes. [m/s]
    pub(super) fn still(&self, drives: Watts) -> MetresPerSecond {
        if drives.value() <= 0.0 {
            return MetresPerSecond::ZERO;
        }
        let implied = self.implied(Duty::Power(drives), 0.0);
        implied.and_then(|i| i.speed).unwrap_or(MetresPerSecond::ZERO)
    }

    /// The stretch of the plan that it is in by now.
    pub(super) fn stretch_at(&self, hours: f64, turned: bool) -> usize {
        if turned {
            return self.home;
        }
        let last = self.planned.len().saturating_sub(1);
        self.planned.iter().position(|p| hours < p.0).unwrap_or(last)
    }

    /// Whether the plan goes home in a stretch.
    pub(super) fn leads_home(&self, stretch: usize) -> bool {
        leads_back(&self.plan.rig, &self.plan.day).is_some_and(|back| back.contains(&stretch))
    }

    /// What the plan takes of the pack in a stretch. [A]
    pub(super) fn draws_at(&self, stretch: usize) -> Amps {
        Amps::of(self.planned.get(stretch).map_or(0.0, |p| p.1))
    }

    /// How fast the plan goes in a stretch. [m/s]
    pub(super) fn speed_at(&self, stretch: usize) -> f64 {
        self.planned.get(stretch).map_or(0.0, |p| p.2)
    }

    /// How far out it is by the plan. [m]
    pub(super) fn out_at(&self, hours: f64) -> f64 {
        along(&self.out, hours)
    }

    /// How fast wind and current carry it towards home by the plan. [m/s]
    pub(super) const fn push(&self) -> MetresPerSecond {
        MetresPerSecond::of(self.push)
    }

    /// Energy of a time at a speed on the level. [Wh]
    pub(super) fn energy(&self, speed: MetresPerSecond, lasts: Hours) -> WattHours {
        let beside = devices_draw(&self.plan.rig, &self.plan.day);
        if speed.value() < STANDS {
            return beside * lasts;
        }
        let level =
            Stretch { duty: Duty::Speed(speed), lasts, share: 1.0, stops: 0, ..self.road.clone() };
        let implied = propulsion::implied(&self.plan.rig, &level, &self.plan.day.conditions);
        implied.map_or(WattHours::ZERO, |i| (i.watts + beside) * lasts)
    }

    /// Energy of a distance as fast as the plan goes home. [Wh]
    pub(super) fn energy_of(&self, far: Metres) -> WattHours {
        let planned = self.speed_at(self.home);
        let speed = if planned > 0.3 { planned } else { UNTOLD };
        self.energy(MetresPerSecond::of(speed), Hours::of(far.value() / speed / 3600.0))
    }
}

/// What wind and current of the plan do to its way home at the power that it takes: how much faster it goes than on still water. [m/s]
fn pushed(plan: &Plan, home: usize, implied: Option<Implied>) -> f64 {
    let (Some(stretch), Some(implied)) = (plan.day.stretches.get(home), implied) else {
        return 0.0;
    };
    if !plan.rig.craft.kind.is_boat() {
        return 0.0;
    }
    let before: Hours = plan.day.stretches[..home].iter().map(|s| s.lasts).sum();
    let now = plan.day.conditions_at(before + stretch.lasts * 0.5);
    let at = |heading: Heading| {
        let drives = Stretch { duty: Duty::Power(implied.watts), heading, ..stretch.clone() };
        let reached = propulsion::implied(&plan.rig, &drives, &now).and_then(|i| i.speed);
        reached.map_or(0.0, MetresPerSecond::value)
    };
    at(stretch.heading) - at(Heading::Across)
}
