//! A pack: units in series for volts, in parallel for ampere-hours.

pub mod air;
mod extras;
mod had;
pub mod limits;
pub mod stow;
mod taken;
mod taught;

pub use extras::Extras;
pub use had::{Had, Symptom};
pub use taken::Taken;
pub use taught::Taught;

use crate::keyed::keyed;
use crate::shelf::{Battery, Chemistry, Detail, NotForTraction};
use crate::source::Origin;
use crate::units::{AmpHours, Amps, Kilograms, Money, Volts, WattHours};

/// S units in series, P such strings in parallel, all of one model.
#[derive(Debug, Clone, PartialEq)]
pub struct Pack {
    /// What it is called on the board.
    pub name: String,
    /// The unit it is built of.
    pub battery: Battery,
    /// Units in each string.
    pub series: u32,
    /// Strings side by side.
    pub parallel: u32,
    /// What it takes beside the batteries, and what that costs.
    pub extras: Extras,
    /// The battery of the shelf that it is built of: what is changed there can be taken over here.
    pub from: Option<Taken>,
    /// One unit that is not like the others.
    pub weak_unit: Option<WeakUnit>,
    /// What is left of it: as new when not told.
    pub health: Health,
    /// What its rests and counts have taught of its units' volts, where they are lead.
    pub taught: Option<Taught>,
    /// What its owner says of its age and of what is the matter with it; `None` of one that is new.
    pub had: Option<Had>,
    /// Aboard today: what the others are compared with.
    pub aboard: bool,
    /// How much of it the Board shows.
    pub shown: Shown,
    /// The one that is to be built: of a plan's packs one at the most.
    pub chosen: bool,
}

keyed! {
    /// How much of a pack is shown.
    pub enum Shown {
        /// Its whole lane.
        Full,
        /// Its verdict on one line.
        Slim,
        /// Its name only, below the others.
        Hidden,
    }
}

/// What wear has left of a pack, all its units alike.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Health {
    /// Its capacity as a share of its label's, above 0 to 1.2: some give more.
    pub capacity_share: f64,
    /// Its resistance as a multiple of what it was when new.
    pub resistance_factor: f64,
    /// How much of the doubt about its capacity is left, as a share of what it was before anything was logged: 0 to 1.
    pub doubt: f64,
}

/// How much more a battery resists for each share of its capacity that it has lost. Estimate.
pub(crate) const RESISTS_MORE: f64 = 2.5;

impl Health {
    /// As new.
    pub const NEW: Self = Self { capacity_share: 1.0, resistance_factor: 1.0, doubt: 1.0 };

    /// Worn to a share of its capacity: with 80 % of it left, half as much resistance again. Common practice, no source.
    pub fn at(capacity_share: f64) -> Self {
        let worn = 1.0 - capacity_share.min(1.0);
        Self { capacity_share, resistance_factor: 1.0 + RESISTS_MORE * worn, doubt: 1.0 }
    }
}

/// One worn or unequal unit in a pack; it limits the string it sits in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WeakUnit {
    /// Its capacity as a share of a sound unit's, 0 to 1.
    pub capacity_share: f64,
    /// Its resistance as a multiple of a sound unit's.
    pub resistance_factor: f64,
}

/// Share of its capacity at which labels call a pack worn: IEEE 450, IEEE 1188.
const WORN: f64 = 0.8;

impl Pack {
    /// Who vouches for what it holds: a test or a log that measured it, who typed what wear has left, else the label.
    pub fn capacity_origin(&self) -> Origin {
        let is_worn = (self.health.capacity_share - 1.0).abs() > 1e-9;
        match (self.health.doubt < 1.0, is_worn) {
            (true, _) => Origin::Measured,
            // What its age makes of it is nobody's measurement.
            (false, true) if self.is_worn_by_age() => Origin::Typical,
            (false, true) => Origin::SetByYou,
            (false, false) => self.battery.origin(Detail::CAPACITY),
        }
    }

    /// Share of its life that is left by what wear has left of its capacity: all of it at 100 %, none at 80 %, where labels end it; by
    /// its worst unit. 1 where it is new.
    pub fn life_left(&self) -> f64 {
        let worst = self.weak_unit.map_or(1.0, |weak| weak.capacity_share);
        let has = self.health.capacity_share * worst;
        // 80 % to 100 %; a pack that gives more than its label is as new.
        ((has - WORN) / (1.0 - WORN)).clamp(0.0, 1.0)
    }

    /// Whether what wear has left of it is what its age and symptom make likely.
    pub fn is_worn_by_age(&self) -> bool {
        self.had.is_some_and(|had| had.health(&self.battery) == self.health)
    }

    /// The same pack as its owner says of it: what its age and symptom make likely, where no test tells.
    #[must_use]
    pub fn had(mut self, had: Had) -> Self {
        self.health = had.health(&self.battery);
        self.weak_unit = had.weak_unit();
        self.had = Some(had);
        self
    }

    /// A pack named after its battery, without extras.
    pub fn of(battery: Battery, series: u32, parallel: u32) -> Self {
        let name = battery.name.clone();
        Self {
            name,
            battery,
            series,
            parallel,
            extras: Extras::default(),
            from: None,
            weak_unit: None,
            health: Health::NEW,
            taught: None,
            had: None,
            aboard: false,
            shown: Shown::Full,
            chosen: false,
        }
    }

    /// Whether another one is of the same battery and wired the same: of one that is owned it is the same pack.
    pub fn is_built_like(&self, other: &Self) -> bool {
        self.battery.name == other.battery.name
            && (self.series, self.parallel) == (other.series, other.parallel)
    }

    /// How many units it takes.
    pub const fn units(&self) -> u32 {
        self.series * self.parallel
    }

    /// Nominal voltage: series adds volts. [V]
    pub fn voltage(&self) -> Volts {
        self.battery.nominal_voltage * f64::from(self.series)
    }

    /// Label ampere-hours: parallel adds them, series does not. [Ah]
    ///
    /// # Errors
    /// [`NotForTraction`] when the label gives no capacity.
    pub fn capacity(&self) -> Result<AmpHours, NotForTraction> {
        Ok(self.battery.headline()?.0 * f64::from(self.parallel))
    }

    /// Label watt-hours, the same however the units are arranged. [Wh]
    ///
    /// # Errors
    /// [`NotForTraction`] when the label gives no capacity.
    pub fn energy(&self) -> Result<WattHours, NotForTraction> {
        Ok(self.voltage() * self.capacity()?)
    }

    /// Weight of all units. [kg]
    pub fn mass(&self) -> Option<Kilograms> {
        self.battery.mass.map(|m| m * f64::from(self.units()))
    }

    /// Price of all units, without the extras.
    pub fn price_of_batteries(&self) -> Option<Money> {
        self.battery.price.map(|p| p * f64::from(self.units()))
    }

    /// Price of all units with the extras and the labour of the first time.
    pub fn price_total(&self) -> Option<Money> {
        self.price_of_batteries().map(|p| p + self.extras.now().unwrap_or(Money::ZERO))
    }

    /// The figure that sells: price of the batteries over the most cycles on the label, whatever their
    /// depth and however often anyone goes out. `None` without a price or cycles.
    pub fn naive_cost_per_cycle(&self) -> Option<Money> {
        Some(self.battery.price_per_rated_cycle()? * f64::from(self.units()))
    }

    /// The most cycles on the label, at whatever depth; `None` when none are given.
    pub fn label_cycles(&self) -> Option<f64> {
        self.battery.label_cycles()
    }

    /// Highest current without end: parallel strings add, series units do not. [A]
    pub fn max_continuous(&self) -> Option<Amps> {
        self.battery.max_continuous.map(|a| a * f64::from(self.parallel))
    }

    /// What its BMS lets through without end; `None` where it has none or its label is silent: lead only sags. [A]
    pub fn bms_limit(&self) -> Option<Amps> {
        self.max_continuous().filter(|_| !self.battery.chemistry.is_lead())
    }

    /// Voltage in the middle of a day under a light load, at which currents are read off. [V]
    pub fn loaded_voltage(&self) -> Volts {
        self.battery.chemistry.facts().loaded_cell * f64::from(self.battery.cells() * self.series)
    }

    /// Voltage while it is equalized, which is done to flooded lead now and then; `None` for what is never. [V]
    pub fn equalizing_voltage(&self) -> Option<Volts> {
        let chemistry = self.battery.chemistry;
        let cells = f64::from(self.battery.cells() * self.series);
        (chemistry == Chemistry::Flooded)
            .then(|| Volts::of(chemistry.facts().charge_cell.1 * cells))
    }

    /// Voltage when freshly charged, which the controller must bear. [V]
    pub fn full_charge_voltage(&self) -> Volts {
        self.battery.chemistry.full_charge_cell() * f64::from(self.battery.cells() * self.series)
    }
}
