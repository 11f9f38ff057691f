//! The five chemistries, and all that is true of each where a label says nothing: one file a chemistry.
//!
//! A value's source stands at its field in [`Facts`] where it is the same for all, else in the chemistry's
//! file. [M] means from memory, not looked up; (cp) common practice, no published source. A label or a
//! measurement replaces any of them.

mod agm;
mod flooded;
mod gel;
pub(crate) mod lead;
mod lfp;
pub(crate) mod nmc;
mod ocv;

pub use ocv::Ocv;

use crate::keyed::keyed;
use crate::numeric::{FOUR_SEVENTHS, Power};
use crate::units::Volts;

keyed! {
    /// What the battery is made of.
    pub enum Chemistry {
        /// Flooded (vented) lead-acid.
        Flooded,
        /// Absorbed glass mat, a sealed lead-acid.
        Agm,
        /// Gelled electrolyte, a sealed lead-acid.
        Gel,
        /// Lithium iron phosphate, LiFePO4.
        Lfp,
        /// Lithium nickel manganese cobalt oxide; every default here is typical only.
        Nmc,
    }
}

impl Chemistry {
    /// All that is true of it.
    pub const fn facts(self) -> &'static Facts {
        match self {
            Self::Flooded => &flooded::FACTS,
            Self::Agm => &agm::FACTS,
            Self::Gel => &gel::FACTS,
            Self::Lfp => &lfp::FACTS,
            Self::Nmc => &nmc::FACTS,
        }
    }

    /// The short name owners use.
    pub const fn name(self) -> &'static str {
        self.facts().name
    }

    /// Lead-acid of any build.
    pub const fn is_lead(self) -> bool {
        self.facts().lead
    }

    /// The nominal voltage of one cell. [V]
    pub const fn nominal_cell(self) -> Volts {
        self.facts().nominal_cell
    }

    /// The voltage per cell when freshly charged, which a controller must bear. [V]
    pub const fn full_charge_cell(self) -> Volts {
        self.facts().full_charge_cell
    }

    /// The share of the charge that stays in the battery for its life, by default. The house rules change it.
    pub const fn default_floor(self) -> f64 {
        self.facts().floor
    }

    /// Peukert's exponent, the middle of what textbooks give.
    pub const fn peukert_exponent(self) -> f64 {
        self.facts().peukert
    }

    /// The voltage per cell at which a discharge is over. [V]
    pub const fn end_cell(self) -> Volts {
        self.facts().end_cell
    }

    /// Hours over which a bare "Ah" on the label is meant. [h]
    pub const fn usual_rating_hours(self) -> f64 {
        self.facts().rating_hours
    }

    /// Full-size cycles until 80 % of the capacity is left, as (depth, cycles), shallow first.
    pub const fn typical_cycles(self) -> &'static [(f64, f64)] {
        self.facts().cycles
    }

    /// The same at any depth, 0 to 1: straight on log-log axes between the points, and on beyond them.
    pub fn typical_cycles_at(self, depth: f64) -> f64 {
        crate::numeric::log_log(self.typical_cycles(), depth.max(0.01))
    }

    /// Years until the calendar ends it in ordinary keeping near 25 °C.
    pub const fn typical_years(self) -> f64 {
        self.facts().years
    }
}

/// What is true of a chemistry.
#[derive(Debug, Clone, Copy)]
pub struct Facts {
    /// The short name owners use.
    pub name: &'static str,
    /// Lead-acid of any build.
    pub lead: bool,
    /// Nominal voltage of one cell, as battery voltages are counted in. [V]
    ///
    /// Lead 2.0 and LFP 3.2 are the convention behind 12 V = 6 cells and 12.8 V = 4 cells; NMC 3.6 (3.6 to
    /// 3.7 in use) (cp).
    pub nominal_cell: Volts,
    /// Cells in series that units are sold with, few first; empty where any number is. (cp)
    pub sold_cells: &'static [u32],
    /// Every voltage that one cell is named by. [V]
    pub named_cells: &'static [f64],
    /// Voltage of a cell in the middle of a day under a light load, at which currents are read off. [V]
    ///
    /// Lead 2.06 (12.4 V on six cells), LFP 3.28 (13.1 V on four), NMC 3.7 (cp).
    pub loaded_cell: Volts,
    /// Voltage of a cell when freshly charged, which a controller must bear. [V]
    ///
    /// Lead 2.45 (absorption, 14.7 V on six cells) and LFP 3.65 (14.6 V on four): in chargers' tables (cp).
    /// NMC 4.20 (cp).
    pub full_charge_cell: Volts,
    /// Lowest and highest voltage a cell may be charged to. [V]
    ///
    /// Chargers' tables: flooded 2.40 to 2.47 and equalised at 2.58 to 2.70, AGM 2.40 to 2.45, gel 2.35 to
    /// 2.37 and never above 2.40, LFP 3.55 to 3.65, NMC 4.2 (cp); with a little room either way.
    pub charge_cell: (f64, f64),
    /// Lowest and highest voltage of a cell that a charger holds in absorption: below it never gets full, above it is
    /// harmed. [V]
    ///
    /// Chargers' tables: flooded 2.40 to 2.47 (some makers 2.50), AGM 2.40 to 2.45, gel 2.35 to 2.37, LFP 3.55 to 3.65, NMC
    /// 4.2 (cp); a tenth of a volt of room for a 12 V battery, none above for gel and lithium.
    pub absorption_cell: (f64, f64),
    /// Voltage of a cell at which a discharge is over. [V]
    ///
    /// Lead 1.75 (10.5 V on six cells): EN 50342-1, IEC 61056-1, BCI. LFP 2.5 (10.0 V on four cells, where a
    /// BMS opens) and NMC 3.0 (cp).
    pub end_cell: Volts,
    /// Share of the charge that stays in the battery for its life, by default.
    ///
    /// Lead: half, the most usual school; LFP: a tenth, since its protection opens without a warning below
    /// that (cp).
    pub floor: f64,
    /// Hours over which a bare "Ah" on the label is meant. [h]
    ///
    /// 20 h is the rule for lead (EN 50342-1, BCI); lithium labels mean about 5 h (cp), which matters little
    /// because it hardly depends on it.
    pub rating_hours: f64,
    /// Peukert's exponent, the middle of what textbooks give; no standard.
    pub peukert: f64,
    /// Peukert exponents that are seen between two ratings of one battery: textbooks and handbook tables.
    pub peukert_seen: (f64, f64),
    /// Parameters of the discharge law for a unit of 100 Ah.
    pub cell: Cell,
    /// Factor on the ohmic resistance at freezing. [M]
    pub resistance_at_freezing: f64,
    /// How much of that rate of change is left above 25 °C: lithium's falls by a tenth at 40 °C, measured and simulated.
    pub resistance_warm: f64,
    /// What the cold keeps out of reach.
    pub cold: ColdLaw,
    /// How its own losses warm it; `None` where that is not counted.
    pub heat: Option<Heat>,
    /// How far the resting volts of units of the kind differ.
    pub spread: Spread,
    /// Temperatures at which makers allow a discharge. [°C]
    pub discharge_window: (f64, f64),
    /// Temperatures at which makers allow a charge: below freezing lithium plates and is ruined. [°C]
    pub charge_window: (f64, f64),
    /// Cycles until 80 % of the capacity is left, as (depth, cycles), shallow first: the middle of makers'
    /// curves at 25 °C for good deep-cycle units; a cheap 12 V "marine" one gives half or less. NMC: [M].
    pub cycles: &'static [(f64, f64)],
    /// Years until the calendar ends it near 25 °C (cp: flooded 2 to 7, AGM 4 to 8, gel 5 to 10, LFP 8 to 15).
    pub years: f64,
    /// Share of the charge lost in a month of rest at 25 °C (handbooks: flooded 5 to 15 %, sealed lead 1 to
    /// 4 %, lithium with its BMS 1 to 3 %), and the most that a sound one loses.
    pub self_discharge: (f64, f64),
    /// How it takes charge.
    pub acceptance: Acceptance,
    /// Times its ampere-hours that it gives without end: usual, worth asking, never. (cp) [1/h]
    pub continuous_rates: (f64, f64, f64),
    /// Times its ampere-hours that it gives for some seconds. (cp) [1/h]
    pub burst_rate: f64,
    /// What complete batteries hold for their weight, from and to, by the 20-hour figure: from datasheets.
    /// [Wh/kg]
    pub energy_per_kg: (f64, f64),
    /// Above this it is against physics, or nobody builds it. [Wh/kg]
    pub energy_ceiling: f64,
    /// Most of it in a litre: from datasheets; NMC's is [M]. [Wh/L]
    pub energy_per_litre: f64,
    /// How far a label's ampere-hours are off by nature, whatever its ratings say of each other: one standard deviation of the
    /// logarithm of what all have in common, and of each rating's own. Lead's ratings disagree by 6 to 9 %; LFP units give 97 to
    /// 104 % (cp).
    pub label_spread: (f64, f64),
}

/// Parameters of one cell, before the size of the unit is known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cell {
    /// Open-circuit voltage by charge.
    pub ocv: Ocv,
    /// Ohmic coefficient, lead's charge transfer included: ohms are `r x cells / Q20`. Follows the temperature. [V h]
    pub r: f64,
    /// The part of BMS and leads in the same measure, which does not. [V h]
    pub leads: f64,
    /// Charge-transfer coefficient of lithium, where it is known apart from `r`. [V]
    pub b: f64,
    /// How the charge within reach shrinks with the current, and comes back.
    pub rates: Rates,
    /// Voltage at which the discharge is over. [V]
    pub v_end: f64,
}

/// What the cold keeps out of reach. With `d` the degrees under 25 °C over 25:
///
/// ```text
/// locked, of any current:  L = λ d^p          slowed:  g = slows (2^((25 - T)/10) - 1)
/// ```
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ColdLaw {
    /// λ and p.
    pub locked: (f64, f64),
    /// How much a degree of cold slows lithium in its particles; nothing for lead, whose acid freezes first. [h²]
    pub slows: f64,
}

/// How a battery's own losses warm it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Heat {
    /// Heat that an ampere-hour of a cell takes for a degree, where the label tells no weight: `m c / (n Q)`, c = 1000 J/(kg K)
    /// from memory. [J/(K Ah)]
    pub joules: f64,
}

/// How far units of one kind differ in their resting volts: no label tells them. Published tables lie within it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spread {
    /// Standard deviation of the volts of a full, rested cell. [V]
    pub e0: f64,
    /// Standard deviation of the logarithm of how far they fall.
    pub fall: f64,
}

/// How the charge within reach shrinks with the current, and comes back in a rest: the law of remembered
/// current, see [`drawdown::law`](crate::drawdown::law).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rates {
    /// What a current of one 20-hour capacity an hour, felt for long, puts out of reach, as a share of that
    /// capacity. [h^n]
    pub a: f64,
    /// Exponent of the current in it.
    pub n: f64,
    /// How long a current is remembered, times what is usual for the kind of cell and its `a`.
    pub memory: f64,
    /// How much is felt at once and not remembered: acid by `w = a / (a + at_once)`, lithium by `w = 1 - at_once`.
    pub at_once: f64,
    /// Acid between plates is what runs out, and the open-circuit voltage follows the whole charge (lead); or lithium
    /// in particles, and that voltage follows the charge within reach.
    pub acid: bool,
}

impl Rates {
    /// Acid that has to find its way between the plates.
    ///
    /// The exponent, [`Self::tau`] and [`Self::w`] were found on simulated porous electrodes of eight builds, see
    /// docs/model.md.
    pub const fn acid(a: f64) -> Self {
        Self { a, n: FOUR_SEVENTHS, memory: 1.0, at_once: 0.35, acid: true }
    }

    /// Lithium that has to find its way into the particles: what a current puts out of reach goes with the current
    /// (steady diffusion into a sphere).
    ///
    /// [`Self::tau`] and [`Self::w`] chosen on simulated cells of slow particles, see docs/model.md.
    pub const fn particles(a: f64) -> Self {
        Self { a, n: 1.0, memory: 1.0, at_once: 0.1, acid: false }
    }

    /// How fast a current is remembered and forgotten: acid `0.8 a^1.5`, lithium `0.6 a`, times [`Self::memory`]. [h]
    pub fn tau(&self) -> f64 {
        let usual = if self.acid { 0.8 * self.a * self.a.sqrt() } else { 0.6 * self.a };
        usual * self.memory
    }

    /// Share of the effect that is remembered, 0 to 1; the rest is felt at once.
    pub fn w(&self) -> f64 {
        if self.acid { self.a / (self.a + self.at_once) } else { 1.0 - self.at_once }
    }

    /// Capacity at vanishing current over the 20-hour one: `1 + a (1/20)^n`.
    pub fn q_max_over_q20(&self) -> f64 {
        1.0 + self.a * Power::of(self.n).raise(0.05)
    }
}

/// How a chemistry takes charge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Acceptance {
    /// Charge share up to which it takes whatever the charger gives: 0.82 for lead, 0.95 for lithium, the
    /// middle of handbook ranges.
    pub bulk_to: f64,
    /// Current at which the tail counts as over, as a share of the capacity per hour: 2 % (flooded), 0.75 %
    /// (sealed lead), 5 % (lithium), as handbooks give it. [1/h]
    pub tail_end: f64,
    /// Ampere-hours stored per ampere-hour put in: the middle of handbook ranges.
    pub coulombic: f64,
    /// Energy out over energy in, battery alone, there and back: the middle of handbook ranges.
    pub round_trip: f64,
    /// Highest current it should be charged at, as a share of the capacity per hour, as handbooks give it:
    /// flooded 20 %, AGM 40 %, gel 30 %, lithium 50 %. [1/h]
    pub most: f64,
}
