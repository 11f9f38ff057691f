//! A battery on the shelf: the unit itself, and what else a shop says of it.

use super::check::{self, Doubt, DoubtKind, Rest, Suggestion};
use super::{Battery, Correction, Detail, Rating, SizeClass};
use crate::source::{Origin, Vouched};
use crate::units::say::Say;
use crate::units::{AmpHours, Amps, Celsius, Hours, Volts, WattHours};
use std::collections::BTreeSet;

/// How a unit is built inside, where that matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Build {
    /// Flat pouch or box cells.
    Prismatic,
    /// Round cells.
    Cylindrical,
    /// Wound lead plates with glass mat.
    Spiral,
    /// "Semi-solid": a lithium cell with less liquid in it.
    SemiSolid,
}

impl Build {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Prismatic, Self::Cylindrical, Self::Spiral, Self::SemiSolid];

    /// The key used in files and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Prismatic => "prismatic",
            Self::Cylindrical => "cylindrical",
            Self::Spiral => "spiral",
            Self::SemiSolid => "semi_solid",
        }
    }

    /// The build with this [`key`](Self::key).
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|b| b.key() == key)
    }

    /// As it is said.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Prismatic => "prismatic",
            Self::Cylindrical => "cylindrical",
            Self::Spiral => "spiral",
            Self::SemiSolid => "semi-solid",
        }
    }
}

/// What its maker made it for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Purpose {
    /// Many deep discharges.
    DeepCycle,
    /// Some of both.
    DualPurpose,
    /// Starting an engine.
    Starting,
}

impl Purpose {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::DeepCycle, Self::DualPurpose, Self::Starting];

    /// The key used in files and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::DeepCycle => "deep_cycle",
            Self::DualPurpose => "dual_purpose",
            Self::Starting => "starting",
        }
    }

    /// The purpose with this [`key`](Self::key).
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|p| p.key() == key)
    }

    /// As it is said.
    pub const fn name(self) -> &'static str {
        match self {
            Self::DeepCycle => "deep-cycle",
            Self::DualPurpose => "dual-purpose",
            Self::Starting => "starting",
        }
    }
}

/// A candidate: what could be bought, as it is offered.
#[derive(Debug, Clone, PartialEq)]
pub struct Candidate {
    /// The unit.
    pub battery: Battery,
    /// How it is built.
    pub build: Option<Build>,
    /// What it is made for.
    pub purpose: Option<Purpose>,
    /// Its standard size.
    pub size_class: Option<SizeClass>,
    /// Watt-hours as printed, which need not be volts times ampere-hours. [Wh]
    pub energy: Option<WattHours>,
    /// "Lead-equivalent" ampere-hours as printed: never reckoned with. [Ah]
    pub lead_equivalent: Option<AmpHours>,
    /// Highest charging voltage the label gives. [V]
    pub charge_voltage: Option<Volts>,
    /// Temperature under which it refuses a charge by itself. [°C]
    pub cold_cutoff: Option<Celsius>,
    /// Whether it warms itself before charging.
    pub heater: Option<bool>,
    /// Whether it tells its charge (a display, a radio, a wire).
    pub monitor: Option<bool>,
    /// Ingress rating, as "IP65".
    pub ingress: Option<String>,
    /// Terminals, as "M8" or "post".
    pub terminals: Option<String>,
    /// Years of full warranty.
    pub warranty_full: Option<f64>,
    /// Years of warranty in all, the prorated ones included.
    pub warranty_total: Option<f64>,
    /// Share of the charge lost in a month of rest, 0 to 1.
    pub self_discharge: Option<f64>,
    /// Most units its maker allows in series.
    pub max_series: Option<u32>,
    /// Doubts its owner knows of and lives with.
    pub accepted: BTreeSet<DoubtKind>,
    /// Kept, but not shown.
    pub hidden: bool,
}

impl Candidate {
    /// A candidate of which only the unit is known.
    pub fn of(battery: Battery) -> Self {
        Self {
            battery,
            build: None,
            purpose: None,
            size_class: None,
            energy: None,
            lead_equivalent: None,
            charge_voltage: None,
            cold_cutoff: None,
            heater: None,
            monitor: None,
            ingress: None,
            terminals: None,
            warranty_full: None,
            warranty_total: None,
            self_discharge: None,
            max_series: None,
            accepted: BTreeSet::new(),
            hidden: false,
        }
    }

    /// What is doubtful about its label and not accepted. `rest` is the shelf it stands on.
    pub fn doubts(&self, rest: Option<&Rest>) -> Vec<Doubt> {
        self.doubts_in(Say::plain("USD"), rest)
    }

    /// The same with its figures in other units and money.
    pub fn doubts_in(&self, say: Say<'_>, rest: Option<&Rest>) -> Vec<Doubt> {
        let mut doubts = check::doubts(self, rest, say);
        doubts.retain(|d| !self.accepted.contains(&d.kind));
        doubts
    }

    /// Takes a plausible figure in place of the label's, and remembers what the label said.
    pub fn replace(&mut self, suggestion: Suggestion) {
        let (detail, used) = (suggestion.detail, suggestion.value);
        let said = self.figure(detail).unwrap_or(0.0);
        self.set_figure(detail, used, suggestion.scales_ratings);
        let first = self.battery.corrected.iter().find(|c| c.detail == detail).map(|c| c.said);
        self.battery.corrected.retain(|c| c.detail != detail);
        self.battery.corrected.push(Correction { detail, said: first.unwrap_or(said), used });
        self.battery.origins.insert(detail, Vouched { by: Origin::SetByYou, on: None });
    }

    /// Takes the label's own figure again. False where it was never replaced.
    pub fn restore(&mut self, detail: Detail) -> bool {
        let Some(at) = self.battery.corrected.iter().position(|c| c.detail == detail) else {
            return false;
        };
        let was = self.battery.corrected.remove(at);
        self.set_figure(detail, was.said, false);
        self.battery.origins.remove(&detail);
        true
    }

    /// A figure of the label that the check may replace.
    pub fn figure(&self, detail: Detail) -> Option<f64> {
        let b = &self.battery;
        match detail {
            Detail::Volts => Some(b.nominal_voltage.value()),
            Detail::Capacity => b.headline().ok().map(|(ah, _)| ah.value()),
            Detail::Energy => self.energy.map(WattHours::value),
            Detail::Continuous => b.max_continuous.map(Amps::value),
            Detail::Peak => b.peak.map(|p| p.current.value()),
            Detail::ChargeVoltage => self.charge_voltage.map(Volts::value),
            Detail::Cycles => b.cycles.iter().map(|p| p.cycles).reduce(f64::max),
            _ => None,
        }
    }

    fn set_figure(&mut self, detail: Detail, value: f64, whole: bool) {
        let before = self.figure(detail);
        let b = &mut self.battery;
        match detail {
            Detail::Volts => b.nominal_voltage = Volts::of(value),
            Detail::Capacity if value <= 0.0 => b.ratings.clear(),
            Detail::Capacity => match before {
                None => b.ratings.push(Rating::Capacity {
                    ah: AmpHours::of(value),
                    over: Hours::of(b.chemistry.usual_rating_hours()),
                }),
                Some(before) => {
                    let factor = value / before;
                    for rating in &mut b.ratings {
                        match rating {
                            Rating::Capacity { ah, .. } => *ah = *ah * factor,
                            Rating::Energy { wh, .. } => *wh = *wh * factor,
                            Rating::Runtime { lasted, .. } if whole => *lasted = *lasted * factor,
                            Rating::Runtime { .. } => {}
                        }
                    }
                }
            },
            Detail::Energy => self.energy = (value > 0.0).then_some(WattHours::of(value)),
            Detail::Continuous => {
                b.max_continuous = (value > 0.0).then_some(Amps::of(value));
            }
            Detail::Peak => {
                if let Some(peak) = &mut b.peak {
                    peak.current = Amps::of(value);
                }
            }
            Detail::ChargeVoltage => {
                self.charge_voltage = (value > 0.0).then_some(Volts::of(value));
            }
            Detail::Cycles => {
                let factor = before.map_or(1.0, |most| value / most);
                for point in &mut b.cycles {
                    point.cycles *= factor;
                }
            }
            _ => {}
        }
    }
}
