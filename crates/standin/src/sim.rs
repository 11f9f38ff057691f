//! A day as it really goes.

use crate::truth::{Battery, Dice, Truth};
use crate::unit::{Curves, Unit};
use lake_hour_core::day::{Conditions, Duty, Stretch};
use lake_hour_core::drawdown::temperature::cold;
use lake_hour_core::drawdown::{UnitLaw, fit};
use lake_hour_core::live::{EARTH, Place};
use lake_hour_core::plan::{Plan, leads_back};
use lake_hour_core::propulsion;
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Metres, MetresPerSecond, Volts, Watts,
};
use lake_hour_core::verdict::devices_draw;

/// Why a plan cannot be played.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoDay {
    /// It has no pack, or one of no capacity.
    NoPack,
    /// It has no stretch.
    NoStretch,
}

impl std::fmt::Display for NoDay {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::NoPack => "packs: a pack whose label tells its amp-hours is needed to play a day",
            Self::NoStretch => "day.stretches: at least one is needed to play a day",
        })
    }
}

impl std::error::Error for NoDay {}

/// A second of the day: what is true, and what a monitor tells of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Moment {
    /// Since it began. [s]
    pub at: f64,
    /// What is left of its weakest unit, 0 to 1.
    pub charge: f64,
    /// What is drawn. [A]
    pub amps: f64,
    /// Of the pack; nothing once its switch has opened. [V]
    pub volts: f64,
    /// Where it is.
    pub place: Place,
    /// Distance to the launch. [m]
    pub far: Metres,
    /// Over ground. [m/s]
    pub speed: f64,
    /// Home again.
    pub home: bool,
    /// Its switch has opened, or it is empty.
    pub stopped: bool,
    /// What the monitor tells; nothing while it is silent.
    pub told: Option<Reads>,
}

/// What a monitor reads.
#[derive(Debug, Clone, PartialEq)]
pub struct Reads {
    /// [V]
    pub volts: f64,
    /// Positive when it is discharged. [A]
    pub amps: f64,
    /// Each unit's. [V]
    pub units: Vec<f64>,
    /// The meter's own count, which knows nothing of wear. 0 to 1
    pub meter: f64,
    /// [°C]
    pub warm: f64,
    /// By its receiver.
    pub place: Place,
    /// By its receiver. [m/s]
    pub speed: f64,
}

/// Where invented days begin: on no water that is. [°]
const LAUNCH: (f64, f64) = (44.213, -72.604);
/// A monitor is silent for so long at a time. [s]
const SILENT: f64 = 240.0;
/// Closer than this it is home. [m]
const HOME: f64 = 25.0;
/// What a monitor's readings scatter by: amps, volts, meters.
const SCATTERS: (f64, f64, f64) = (0.1, 0.01, 3.0);
/// How far the law is off for a quarter of an hour together. [V a cell]
const DRIFTS: f64 = 0.006;

/// A day as it really goes.
#[derive(Debug)]
pub struct Sim {
    plan: Plan,
    truth: Truth,
    units: Vec<Unit>,
    parallel: f64,
    cells: f64,
    dice: Dice,
    at: f64,
    /// North and east of the launch. [m]
    here: (f64, f64),
    /// Which way it goes out. [rad]
    course: f64,
    turned: Option<Option<f64>>,
    silent_until: f64,
    drift: f64,
    counted: f64,
    stopped: bool,
    was_out: bool,
}

impl Sim {
    /// A plan's day with its first pack.
    ///
    /// # Errors
    /// [`NoDay`].
    pub fn of(plan: &Plan, truth: Truth, seed: u64) -> Result<Self, NoDay> {
        let pack = plan.packs.first().ok_or(NoDay::NoPack)?;
        if plan.day.stretches.is_empty() {
            return Err(NoDay::NoStretch);
        }
        let fit = fit(&pack.battery).map_err(|_| NoDay::NoPack)?;
        let mut cell = fit.cell;
        cell.rates.a *= (fit.open.a * truth.shape.0).exp();
        cell.rates.memory *= (fit.open.memory * truth.shape.1).exp();
        let law = UnitLaw::new(cell, pack.battery.cells(), fit.q20)
            .ending_at(fit.law.v_end())
            .counted_in(fit.law.rated());
        let warm = plan.day.battery_start.or(plan.day.ambient).unwrap_or(Celsius::of(20.0));
        let law = law
            .worn(pack.health.capacity_share, pack.health.resistance_factor)
            .at_temperature(cold(pack.battery.chemistry, warm));
        let chemistry = pack.battery.chemistry;
        let other = (truth.battery == Battery::OtherModel)
            .then(|| std::sync::Arc::new(Curves::of(chemistry.is_lead())));
        let unit = |share: &f64| match &other {
            None => {
                let law = law.worn(*share, truth.resistance);
                Unit::Law(Box::new(law), law.at(truth.charge))
            }
            Some(curves) => Unit::Curves {
                curves: std::sync::Arc::clone(curves),
                cells: f64::from(pack.battery.cells()),
                holds: law.rated() * share,
                ends: chemistry.end_cell().value(),
                now: (1.0 - truth.charge, 0.0),
            },
        };
        let units = truth.units.iter().map(unit).collect();
        let mut dice = Dice::of(seed ^ 0x5eed);
        Ok(Self {
            course: dice.flat() * std::f64::consts::TAU,
            plan: plan.clone(),
            units,
            parallel: f64::from(pack.parallel),
            cells: f64::from(pack.battery.cells()),
            counted: truth.charge,
            truth,
            dice,
            at: 0.0,
            here: (0.0, 0.0),
            turned: None,
            silent_until: 0.0,
            drift: 0.0,
            stopped: false,
            was_out: false,
        })
    }

    /// Home from now on, at a setting, or as planned where none is given.
    pub fn turn_home(&mut self, setting: Option<f64>) {
        self.turned = Some(setting);
    }

    /// On its way home.
    pub const fn is_homeward(&self) -> bool {
        self.turned.is_some()
    }

    /// What is true of it.
    pub const fn truth(&self) -> &Truth {
        &self.truth
    }

    fn stretch(&self) -> (usize, Stretch) {
        let day = &self.plan.day;
        let back = leads_back(&self.plan.rig, day).map_or(day.stretches.len() - 1, |b| b.end - 1);
        if let Some(setting) = self.turned {
            let mut home = day.stretches[back].clone();
            if let Some(setting) = setting {
                home.duty = Duty::Setting(setting);
                home.share = 1.0;
            }
            return (back, home);
        }
        let mut ends = 0.0;
        for (n, stretch) in day.stretches.iter().enumerate() {
            ends += stretch.lasts.value() * 3600.0;
            if self.at < ends {
                return (n, stretch.clone());
            }
        }
        (back, day.stretches[back].clone())
    }

    /// What its motor takes, and how fast that goes over ground in the true wind.
    fn drives(&self, stretch: &Stretch, back: bool) -> (f64, f64) {
        let now = self.plan.day.conditions_at(Hours::of(self.at / 3600.0));
        let Some(planned) = propulsion::implied(&self.plan.rig, stretch, &now) else {
            return (0.0, 0.0);
        };
        let watts = planned.watts.value() * self.truth.draw;
        if watts <= 0.0 {
            return (0.0, 0.0);
        }
        if !self.plan.rig.craft.kind.is_boat() {
            let speed = planned.speed.map_or(0.0, MetresPerSecond::value);
            return (watts * self.truth.drag, speed);
        }
        let real = Conditions { wind: now.wind * self.truth.wind, ..now };
        // Where a heading is told the way home has it; the way out has the other one.
        let heading = stretch.heading;
        let duty = Duty::Power(Watts::of(watts / self.truth.drag));
        let reached = Stretch { duty, heading, ..stretch.clone() };
        let speed = match stretch.duty {
            Duty::HoldPlace => 0.0,
            _ => propulsion::implied(&self.plan.rig, &reached, &real)
                .and_then(|i| i.speed)
                .map_or(0.0, MetresPerSecond::value),
        };
        // A skipper who does not get nearer gives what there is.
        if back && speed < 0.15 && !matches!(stretch.duty, Duty::Setting(s) if s >= 10.0) {
            return self.drives(&Stretch { duty: Duty::Setting(10.0), ..stretch.clone() }, false);
        }
        (watts, speed)
    }

    /// The next so many seconds.
    pub fn step(&mut self, seconds: f64) -> Moment {
        self.at += seconds;
        let (n, stretch) = self.stretch();
        let far = self.here.0.hypot(self.here.1);
        let back = leads_back(&self.plan.rig, &self.plan.day).is_some_and(|b| b.contains(&n));
        let is_home = far < HOME && self.was_out && (back || self.turned.is_some());
        let (mut watts, mut speed) = if is_home { (0.0, 0.0) } else { self.drives(&stretch, back) };
        // A part of the time only: a stretch is driven in minutes on and off.
        if (self.at / 60.0 % 10.0) >= 10.0 * stretch.share {
            (watts, speed) = (0.0, 0.0);
        }
        let beside = devices_draw(&self.plan.rig, &self.plan.day).value();
        let amps = self.settle(watts + beside);
        self.stopped |= amps.is_none();
        let amps = if self.stopped { 0.0 } else { amps.unwrap_or(0.0) };
        if self.stopped {
            speed = 0.0;
        }
        let unit = amps / self.parallel;
        self.units.iter_mut().for_each(|u| u.draw(unit, seconds / 3600.0));
        self.goes(speed * seconds, back || self.turned.is_some());
        self.tells(amps, speed, is_home, seconds)
    }

    /// Amps at which what is asked is given; `None` where it gives it at no voltage any more.
    fn settle(&self, watts: f64) -> Option<f64> {
        let nominal = self.plan.rig.motor.system_voltage.value();
        let mut amps = watts / nominal;
        for _ in 0..6 {
            let volts = self.volts(amps);
            if volts.is_nan() || volts <= 0.5 * nominal {
                return None;
            }
            amps = watts / volts;
        }
        let unit = amps / self.parallel;
        self.units.iter().all(|u| u.gives(unit)).then_some(amps)
    }

    fn volts(&self, amps: f64) -> f64 {
        let unit = amps / self.parallel;
        self.units.iter().map(|u| u.volts(unit)).sum()
    }

    fn goes(&mut self, metres: f64, home: bool) {
        let far = self.here.0.hypot(self.here.1);
        if home {
            let left = (far - metres.min(far)) / far.max(1e-9);
            // Blown back it gets farther.
            let times = if metres < 0.0 { 1.0 - metres / far.max(1.0) } else { left };
            self.here = (self.here.0 * times, self.here.1 * times);
        } else {
            self.course += 0.002 * self.dice.normal();
            self.here.0 += metres * self.course.cos();
            self.here.1 += metres * self.course.sin();
        }
        self.was_out |= self.here.0.hypot(self.here.1) > 4.0 * HOME;
    }

    fn place(here: (f64, f64)) -> Place {
        let per_degree = EARTH.to_radians();
        let lat = LAUNCH.0 + here.0 / per_degree;
        let lon = LAUNCH.1 + here.1 / per_degree / LAUNCH.0.to_radians().cos();
        // A day does not leave the earth.
        Place::of(lat.clamp(-90.0, 90.0), lon.clamp(-180.0, 180.0)).unwrap_or(launch())
    }

    fn tells(&mut self, amps: f64, speed: f64, home: bool, seconds: f64) -> Moment {
        let step = (2.0 * seconds / 900.0).sqrt();
        self.drift +=
            -self.drift * (seconds / 900.0).min(1.0) + DRIFTS * step.min(1.0) * self.dice.normal();
        let (cells, unit) = (self.cells, amps / self.parallel);
        let off = cells * (self.truth.bias + self.drift);
        let units: Vec<f64> = self
            .units
            .iter()
            .map(|u| u.volts(unit) + off + SCATTERS.1 * self.dice.normal())
            .map(|volts| if self.stopped || !volts.is_finite() { 0.0 } else { volts })
            .collect();
        let volts: f64 = units.iter().sum();
        let charge = self.units.iter().map(Unit::charge).fold(1.0, f64::min);
        let q = self.plan.packs[0].capacity().map_or(1.0, AmpHours::value);
        let read = amps + self.truth.zero + SCATTERS.0 * self.dice.normal();
        self.counted = (self.counted - read * seconds / 3600.0 / q).clamp(0.0, 1.0);
        if self.dice.flat() < self.truth.silent * seconds / SILENT {
            self.silent_until = self.at + SILENT;
        }
        let jitter = (SCATTERS.2 * self.dice.normal(), SCATTERS.2 * self.dice.normal());
        let warm = self.plan.day.ambient.map_or(20.0, Celsius::value);
        let told = (self.at >= self.silent_until).then(|| Reads {
            volts,
            amps: if self.stopped { 0.0 } else { read },
            units: units.clone(),
            meter: self.counted,
            warm: warm + 3.0,
            place: Self::place((self.here.0 + jitter.0, self.here.1 + jitter.1)),
            speed: (speed + 0.05 * self.dice.normal()).max(0.0),
        });
        let far = self.here.0.hypot(self.here.1);
        Moment {
            at: self.at,
            charge,
            amps,
            volts,
            place: Self::place(self.here),
            far: Metres::of(far),
            speed,
            home,
            stopped: self.stopped,
            told,
        }
    }

    /// Volts and amps as a monitor's quantities.
    pub fn heard(reads: &Reads) -> lake_hour_core::live::Heard {
        lake_hour_core::live::Heard {
            volts: Volts::try_new(reads.volts).ok(),
            current: Amps::try_new(reads.amps).ok(),
        }
    }
}

/// Where invented days begin.
#[allow(clippy::expect_used)]
fn launch() -> Place {
    Place::of(LAUNCH.0, LAUNCH.1).expect("a place on earth")
}
