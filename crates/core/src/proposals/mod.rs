//! Which packs to think of: every way of wiring a battery that the voltage allows, judged, with the figure that
//! refuses those which cannot do it.
//!
//! [`Judge::proposals`] goes through one battery; whoever has many shares them among threads. Each proposal is small, so
//! that a hundred thousand may be kept and ordered; all else is told by [`Judge::in_full`] of the few that are looked
//! at.

pub mod cranking;
pub mod failing;
pub mod house_battery;
pub mod near;
pub mod power;
pub mod reason;
pub mod two_banks;
pub mod weight;

use crate::keyed::keyed;
use crate::pack::Pack;
use crate::pack::limits::{self, SetAside, VOLTAGE_MATCH};
use crate::pack::stow;
use crate::parts;
use crate::plan::Plan;
use crate::refill;
use crate::rig::Rig;
use crate::shelf::{Battery, Chemistry};
use crate::units::{Kilograms, Money};
use crate::verdict::{Does, Judge, Outcome};
use failing::one_fails;

/// Most strings side by side that are looked at. A choice.
pub const MOST_PARALLEL: u32 = 4;
/// Most of them while no fewer get home. A choice.
pub const MOST_OF_SMALL: u32 = 8;
/// Most units of one pack, as a plan allows in one string.
pub const MOST_UNITS: u32 = crate::allowed::SERIES.high as u32;

keyed! {
    /// The figure that refuses a pack, the plainest first.
    pub enum Hurdle {
        /// Cranking amps and no ampere-hours.
        Starting,
        /// No number of them gives a voltage that the motor takes.
        Volts,
        /// Freshly charged too many volts for the controller.
        FullVolts,
        /// More units than its maker allows.
        Label,
        /// Heavier than the craft may carry.
        Weight,
        /// Flooded, on two wheels.
        Spills,
        /// Flooded, and every bay is closed off.
        Gasses,
        /// No room in the bays.
        Room,
        /// Its BMS shuts off on current.
        Bms,
        /// Empty before the day is done.
        Empty,
        /// A place is not held or a speed not made on it, however much it holds.
        Work,
        /// The motor's draw is not known, so no pack can be judged.
        NoDraw,
    }
}

impl Hurdle {
    /// The figure in a few words, to be counted by.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Starting => "starting batteries",
            Self::Volts => "wrong volts",
            Self::FullVolts => "too many volts when full",
            Self::Label => "more than the label allows",
            Self::Weight => "too heavy for the craft",
            Self::Spills => "flooded on two wheels",
            Self::Gasses => "flooded in closed bays",
            Self::Room => "no room in the bays",
            Self::Bms => "BMS shuts off",
            Self::Empty => "empty on the way",
            Self::Work => "cannot hold a place or make a speed",
            Self::NoDraw => "draw not known",
        }
    }

    /// Whether more of the same units side by side are refused by it too.
    const fn stays(self) -> bool {
        !matches!(self, Self::Bms | Self::Empty)
    }

    fn of(reason: &SetAside) -> Self {
        match reason {
            SetAside::StartingBattery => Self::Starting,
            SetAside::WrongVoltage { .. } => Self::Volts,
            SetAside::TooHighWhenFull { .. } => Self::FullVolts,
            SetAside::TooHeavy { .. } => Self::Weight,
            SetAside::BeyondLabel { .. } => Self::Label,
            SetAside::Spills => Self::Spills,
            SetAside::NoDraw { .. } => Self::NoDraw,
        }
    }
}

/// One way of wiring a battery, as far as packs are ordered and sorted out by.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Proposal {
    /// Units in each string.
    pub series: u32,
    /// Strings side by side.
    pub parallel: u32,
    /// What it is made of.
    pub chemistry: Chemistry,
    /// What refuses it; `None` for one that gets home, however deep.
    pub hurdle: Option<Hurdle>,
    /// The verdict on its day.
    pub outcome: Outcome,
    /// Charge left at the end of the day, 0 to 1; 0 where it has none.
    pub charge_left: f64,
    /// By how much it fails, as a share of what is asked; 0 where it does not fail or that cannot be told.
    pub short: f64,
    /// Whether the bays take it; `None` where there are none, or its size is not known.
    pub fits: Option<bool>,
    /// Whether a charger aboard suits.
    pub charger: bool,
    /// Whether its BMS carries the motor's full current.
    pub full_throttle: bool,
    /// Whether something still moves the craft when one unit is dead.
    pub moves_on: bool,
    /// Whether it is what an owner would build into such a craft, see [`reason`].
    pub within_reason: bool,
    /// How much of the day's work is done.
    pub does: Does,
    /// Weight of all units.
    pub mass: Option<Kilograms>,
    /// Price of all units with what they need, less what is sold of what is aboard.
    pub price: Option<Money>,
    /// What an hour of the day costs over its life.
    pub hourly: Option<Money>,
    /// Room it takes. [L]
    pub litres: Option<f64>,
}

impl Proposal {
    /// How many units it takes.
    pub const fn units(&self) -> u32 {
        self.series * self.parallel
    }

    /// The pack it proposes, of its battery.
    pub fn pack(&self, plan: &Plan, battery: &Battery) -> Pack {
        pack(plan, battery, self.series, self.parallel)
    }
}

/// So many of a battery as a pack, named as a person would; where lists of parts do not count, with a charger of a typical price if
/// none aboard suits.
pub fn pack(plan: &Plan, battery: &Battery, series: u32, parallel: u32) -> Pack {
    let mut pack = Pack::of(battery.clone(), series, parallel);
    pack.name = named(battery, series, parallel);
    if !plan.build.counted {
        pack.extras.charger = parts::charger(&plan.rules, &plan.rig, &pack);
    }
    pack
}

/// "Two Marl Point 12-100", as a person would call it.
fn named(battery: &Battery, series: u32, parallel: u32) -> String {
    let count = match series * parallel {
        1 => "One".to_owned(),
        2 => "Two".to_owned(),
        3 => "Three".to_owned(),
        4 => "Four".to_owned(),
        5 => "Five".to_owned(),
        6 => "Six".to_owned(),
        7 => "Seven".to_owned(),
        8 => "Eight".to_owned(),
        more => more.to_string(),
    };
    let room = crate::allowed::NAME_LENGTH - count.len() - 1;
    let name: String = battery.name.chars().take(room).collect();
    format!("{count} {name}")
}

/// By how much the nearest bay is too small or too weak for a unit more, as a share; the units beyond that one count
/// whole.
fn room_short(rig: &Rig, pack: &Pack, most: u32) -> f64 {
    let beyond = f64::from(pack.units() - most - 1);
    let refusals = stow::stow(rig, pack).map(|s| s.refusals()).unwrap_or_default();
    let short = refusals.iter().filter_map(|(_, refusal)| match refusal {
        stow::Refusal::Short { needs, has, .. } => Some(needs / has - 1.0),
        stow::Refusal::TooHeavy { mass, limit, .. } => Some(*mass / *limit - 1.0),
        stow::Refusal::Gasses => None,
    });
    beyond + short.fold(1.0, f64::min)
}

/// Numbers of units in series whose voltage the motor takes, few first.
pub fn series_of(battery: &Battery, rig: &Rig) -> Vec<u32> {
    let unit = battery.nominal_voltage;
    let motor = &rig.motor;
    let mut all = Vec::new();
    for volts in std::iter::once(&motor.system_voltage).chain(&motor.also_accepts) {
        let (fewest, most) =
            (VOLTAGE_MATCH.start() * (*volts / unit), VOLTAGE_MATCH.end() * (*volts / unit));
        let fewest = (fewest - 1e-9).ceil().max(1.0) as u32;
        all.extend(fewest..=((most + 1e-9).floor() as u32).min(MOST_UNITS));
    }
    all.sort_unstable();
    all.dedup();
    all
}

impl Judge {
    /// Every way of wiring a battery that the voltage allows, judged: strings side by side up to what label, bays and
    /// craft take, [`MOST_PARALLEL`] at the most, and up to [`MOST_OF_SMALL`] while none gets home.
    ///
    /// One that is refused by what more units cannot mend ends its row. A battery that fits no voltage gives one
    /// proposal, which says so.
    ///
    /// Each is priced with what it needs, as the plan's own packs are.
    pub fn proposals(&self, plan: &Plan, battery: &Battery) -> Vec<Proposal> {
        let rig = self.rig();
        let room = stow::room(rig, battery);
        let Ok(model) = self.model(battery) else {
            return vec![self.refused(battery, (1, 1), Hurdle::Starting)];
        };
        let series = series_of(battery, rig);
        if series.is_empty() {
            return vec![self.refused(battery, (1, 1), Hurdle::Volts)];
        }
        let mut all = Vec::new();
        for s in series {
            let mut home = false;
            for p in 1..=MOST_OF_SMALL {
                if s * p > MOST_UNITS || p > MOST_PARALLEL && home {
                    break;
                }
                let proposal = self.propose(plan, (battery, &model), (s, p), room.as_ref());
                home |= proposal.outcome == Outcome::Home;
                all.push(proposal);
                if proposal.hurdle.is_some_and(Hurdle::stays) {
                    break;
                }
            }
        }
        all
    }

    /// A way of wiring that is not judged any further.
    fn refused(&self, battery: &Battery, (series, parallel): (u32, u32), why: Hurdle) -> Proposal {
        let pack = Pack::of(battery.clone(), series, parallel);
        Proposal {
            series,
            parallel,
            chemistry: battery.chemistry,
            hurdle: Some(why),
            outcome: Outcome::SetAside,
            charge_left: 0.0,
            short: 0.0,
            fits: None,
            charger: false,
            full_throttle: false,
            moves_on: false,
            within_reason: reason::is_within_reason(
                self.rig().craft.kind,
                battery.chemistry,
                (series, parallel),
            ),
            does: Does::AsPlanned,
            mass: pack.mass(),
            price: pack.price_total(),
            hourly: None,
            litres: None,
        }
    }

    fn propose(
        &self,
        plan: &Plan,
        (battery, model): (&Battery, &crate::verdict::Model),
        wired: (u32, u32),
        room: Option<&stow::Room>,
    ) -> Proposal {
        let rig = self.rig();
        let mut pack = Pack::of(battery.clone(), wired.0, wired.1);
        let mut proposal = self.refused(battery, wired, Hurdle::Volts);
        proposal.litres = battery.size.map(|s| {
            let mm3 = s.length.value() * s.width.value() * s.height.value();
            mm3 * 1e-6 * f64::from(pack.units())
        });
        proposal.fits = room.map(|room| room.most >= pack.units());
        if let Some(reason) = limits::set_aside(&pack, rig).first() {
            proposal.hurdle = Some(Hurdle::of(reason));
            if let SetAside::TooHeavy { mass, limit } = reason {
                proposal.short = *mass / *limit - 1.0;
            }
            return proposal;
        }
        proposal.hurdle = None;
        if let Some(room) = room.filter(|room| room.most < pack.units()) {
            let why = if room.gasses { Hurdle::Gasses } else { Hurdle::Room };
            proposal.hurdle = Some(why);
            proposal.short = room_short(rig, &pack, room.most);
        }
        proposal.charger = refill::suits(rig, &pack);
        proposal.full_throttle = limits::below_full_throttle(&pack, &rig.motor).is_none();
        proposal.moves_on = one_fails(&pack, rig).is_some();
        let mut survey = self.survey(&pack, model);
        if plan.build.counted {
            let ah = model.capacity() * f64::from(pack.parallel);
            pack.extras = plan.needs_drawn(&pack, survey.highest, ah);
        } else {
            pack.extras.charger = parts::charger(self.rules(), rig, &pack);
        }
        survey = survey.with_extras(&pack, self.rules(), self.day().outings_per_year);
        proposal.price = self.rules().money.paid_now(&pack);
        proposal.outcome = survey.outcome;
        proposal.does = survey.does;
        proposal.charge_left = survey.summary.charge_left;
        proposal.hourly = survey.cost.and_then(|c| c.per_lake_hour);
        let (hurdle, short) = match survey.outcome {
            Outcome::Trips => (Some(Hurdle::Bms), survey.over_the_limit(&pack)),
            Outcome::Stops => (Some(Hurdle::Empty), survey.hours_short()),
            _ if survey.does == Does::NotAll => (Some(Hurdle::Work), 0.0),
            _ => (None, 0.0),
        };
        // Room can be made more easily than amps: what the battery itself cannot do is told first.
        if hurdle.is_some() || proposal.hurdle.is_none() {
            (proposal.hurdle, proposal.short) = (hurdle, short);
        }
        proposal
    }
}
