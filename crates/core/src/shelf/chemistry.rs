//! The five chemistries, and what is typical of each where a label says nothing.
//!
//! Values marked [M] are from memory and were not looked up; a label or a measurement replaces
//! them. Values marked (cp) are common practice, no published source.

use crate::keyed::keyed;
use crate::units::Volts;

/// What the battery is made of.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    PartialOrd,
    Ord,
    strum::IntoStaticStr,
    strum::EnumString,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
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

keyed!(Chemistry);

impl Chemistry {
    /// The short name owners use.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Flooded => "Flooded",
            Self::Agm => "AGM",
            Self::Gel => "Gel",
            Self::Lfp => "LFP",
            Self::Nmc => "NMC",
        }
    }

    /// Lead-acid of any build.
    pub const fn is_lead(self) -> bool {
        matches!(self, Self::Flooded | Self::Agm | Self::Gel)
    }

    /// The nominal voltage of one cell. [V]
    ///
    /// Lead 2.0 and LFP 3.2 are the convention behind 12 V = 6 cells and 12.8 V = 4 cells;
    /// NMC 3.6 (3.6 to 3.7 in use) is common practice, no source.
    pub const fn nominal_cell(self) -> Volts {
        match self {
            Self::Flooded | Self::Agm | Self::Gel => Volts::of(2.0),
            Self::Lfp => Volts::of(3.2),
            Self::Nmc => Volts::of(3.6),
        }
    }

    /// The voltage per cell when freshly charged, which a controller must bear. [V]
    ///
    /// Lead 2.45 (absorption, 14.7 V on six cells) and LFP 3.65 (14.6 V on four): common practice
    /// in chargers' tables. NMC 4.20: common practice, no source.
    pub const fn full_charge_cell(self) -> Volts {
        match self {
            Self::Flooded | Self::Agm | Self::Gel => Volts::of(2.45),
            Self::Lfp => Volts::of(3.65),
            Self::Nmc => Volts::of(4.20),
        }
    }

    /// The share of the charge that stays in the battery for its life, by default.
    ///
    /// Lead: half, the most usual school; LFP: a tenth, since its protection opens without a
    /// warning below that (both common practice, no source). The house rules change it.
    pub const fn default_floor(self) -> f64 {
        match self {
            Self::Flooded | Self::Agm | Self::Gel => 0.5,
            Self::Lfp => 0.1,
            Self::Nmc => 0.15,
        }
    }

    /// Peukert's exponent, the middle of what textbooks give.
    ///
    /// Flooded 1.2 to 1.3, AGM 1.05 to 1.15, gel 1.1 to 1.25, LFP 1.01 to 1.05: textbooks, no
    /// standard. NMC as LFP [M].
    pub const fn peukert_exponent(self) -> f64 {
        match self {
            Self::Flooded => 1.25,
            Self::Agm => 1.10,
            Self::Gel => 1.17,
            Self::Lfp | Self::Nmc => 1.03,
        }
    }

    /// The voltage per cell at which a discharge is over. [V]
    ///
    /// Lead 1.75 (10.5 V on six cells): EN 50342-1, IEC 61056-1, BCI. LFP 2.5 (10.0 V on four
    /// cells, where a BMS opens) and NMC 3.0: common practice, no source.
    pub const fn end_cell(self) -> Volts {
        match self {
            Self::Flooded | Self::Agm | Self::Gel => Volts::of(1.75),
            Self::Lfp => Volts::of(2.5),
            Self::Nmc => Volts::of(3.0),
        }
    }

    /// Hours over which a bare "Ah" on the label is meant. [h]
    ///
    /// 20 h is the rule for lead (EN 50342-1, BCI); lithium labels mean about 5 h (common
    /// practice, no source), which matters little because LFP hardly depends on it.
    pub const fn usual_rating_hours(self) -> f64 {
        if self.is_lead() { 20.0 } else { 5.0 }
    }

    /// Full-size cycles until 80 % of the capacity is left, as (depth, cycles), shallow first.
    ///
    /// The middle of makers' curves at 25 °C for good deep-cycle units; a cheap 12 V "marine" one
    /// gives half or less. NMC: from memory.
    pub const fn typical_cycles(self) -> &'static [(f64, f64)] {
        match self {
            Self::Flooded => &[
                (0.1, 3500.0),
                (0.2, 2250.0),
                (0.3, 1650.0),
                (0.5, 1100.0),
                (0.8, 650.0),
                (1.0, 450.0),
            ],
            Self::Agm => &[(0.3, 1250.0), (0.5, 750.0), (0.8, 450.0), (1.0, 300.0)],
            Self::Gel => &[(0.3, 1500.0), (0.5, 850.0), (0.8, 525.0), (1.0, 375.0)],
            Self::Lfp => &[(0.5, 6500.0), (0.8, 4000.0), (1.0, 3000.0)],
            Self::Nmc => &[(0.5, 2000.0), (0.8, 1000.0), (1.0, 600.0)],
        }
    }

    /// Years until the calendar ends it in ordinary keeping near 25 °C (common practice, no
    /// source: flooded 2 to 7, AGM 4 to 8, gel 5 to 10, LFP 8 to 15).
    pub const fn typical_years(self) -> f64 {
        match self {
            Self::Flooded => 5.0,
            Self::Agm => 6.0,
            Self::Gel => 7.0,
            Self::Lfp => 10.0,
            Self::Nmc => 8.0,
        }
    }
}
