//! A battery on the shelf: the unit itself, and what else a shop says of it.

use super::check::{self, Doubt, DoubtKind, Rest, Suggestion};
use super::{Battery, Correction, Detail, Rating};
use crate::source::{Origin, Vouched};
use crate::units::say::Say;
use crate::units::{AmpHours, Amps, Hours, Volts, WattHours};
use std::collections::BTreeSet;

/// A candidate: what could be bought, as it is offered.
#[derive(Debug, Clone, PartialEq)]
pub struct Candidate {
    /// The unit, with all that its label says.
    pub battery: Battery,
    /// Doubts its owner knows of and lives with.
    pub accepted: BTreeSet<DoubtKind>,
    /// Kept, but not shown.
    pub hidden: bool,
}

impl Candidate {
    /// A candidate that is shown, with every doubt about it.
    pub fn of(battery: Battery) -> Self {
        Self { battery, accepted: BTreeSet::new(), hidden: false }
    }

    /// What is doubtful about its label and not accepted. `rest` is the shelf it stands on.
    pub fn doubts(&self, rest: Option<&Rest>) -> Vec<Doubt> {
        self.doubts_in(Say::plain("USD"), rest)
    }

    /// The same with its figures in other units and money.
    pub fn doubts_in(&self, say: Say<'_>, rest: Option<&Rest>) -> Vec<Doubt> {
        let mut doubts = check::doubts(&self.battery, rest, say);
        doubts.retain(|d| !self.accepted.contains(&d.kind));
        doubts
    }

    /// Takes a plausible figure in place of the label's, and remembers what the label said.
    pub fn replace(&mut self, suggestion: Suggestion) {
        let (detail, used) = (suggestion.detail, suggestion.value);
        let said = self.battery.figure(detail).unwrap_or(0.0);
        self.battery.set_figure(detail, used, suggestion.scales_ratings);
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
        self.battery.set_figure(detail, was.said, false);
        self.battery.origins.remove(&detail);
        true
    }
}

impl Battery {
    /// A figure of the label that the check may replace.
    pub fn figure(&self, detail: Detail) -> Option<f64> {
        match detail {
            Detail::VOLTS => Some(self.nominal_voltage.value()),
            Detail::CAPACITY => self.headline().ok().map(|(ah, _)| ah.value()),
            Detail::ENERGY => self.printed_energy.map(WattHours::value),
            Detail::CONTINUOUS => self.max_continuous.map(Amps::value),
            Detail::PEAK => self.peak.map(|p| p.current.value()),
            Detail::CHARGE_VOLTAGE => self.charge_voltage.map(Volts::value),
            Detail::CYCLES => self.cycles.iter().map(|p| p.cycles).reduce(f64::max),
            _ => None,
        }
    }

    /// Writes a figure that replaces the label's; `whole` shrinks its ratings in the same measure.
    fn set_figure(&mut self, detail: Detail, value: f64, whole: bool) {
        let before = self.figure(detail);
        match detail {
            Detail::VOLTS => self.nominal_voltage = Volts::of(value),
            Detail::CAPACITY if value <= 0.0 => self.ratings.clear(),
            Detail::CAPACITY => match before {
                None => self.ratings.push(Rating::Capacity {
                    ah: AmpHours::of(value),
                    over: Hours::of(self.chemistry.usual_rating_hours()),
                }),
                Some(before) => {
                    let factor = value / before;
                    for rating in &mut self.ratings {
                        match rating {
                            Rating::Capacity { ah, .. } => *ah = *ah * factor,
                            Rating::Energy { wh, .. } => *wh = *wh * factor,
                            Rating::Runtime { lasted, .. } if whole => *lasted = *lasted * factor,
                            Rating::Runtime { .. } => {}
                        }
                    }
                }
            },
            Detail::ENERGY => self.printed_energy = (value > 0.0).then_some(WattHours::of(value)),
            Detail::CONTINUOUS => {
                self.max_continuous = (value > 0.0).then_some(Amps::of(value));
            }
            Detail::PEAK => {
                if let Some(peak) = &mut self.peak {
                    peak.current = Amps::of(value);
                }
            }
            Detail::CHARGE_VOLTAGE => {
                self.charge_voltage = (value > 0.0).then_some(Volts::of(value));
            }
            Detail::CYCLES => {
                let factor = before.map_or(1.0, |most| value / most);
                for point in &mut self.cycles {
                    point.cycles *= factor;
                }
            }
            _ => {}
        }
    }
}
