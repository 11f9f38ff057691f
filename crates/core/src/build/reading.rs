//! What a meter, a wrench or a look must tell at a step, with its limits.

use super::{Job, StepKey};
use crate::parts::terminal::Terminal;
use crate::shelf::Battery;
use crate::units::{AmpHours, Amps, Volts};

/// What is read, and within which limits it is right.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Reading {
    /// Volts, signed: red lead on what should be positive. [V]
    Volts(Volts, Volts),
    /// Volts between the highest and the lowest unit or string, at most. [V]
    Apart(Volts),
    /// Torque; without limits where the label does not name its posts. [N m]
    Torque(Option<(f64, f64)>),
    /// How far it moves when it is pulled, at most. [mm]
    Moves(f64),
    /// Charge that an outing took. [Ah]
    AmpHours(AmpHours, AmpHours),
    /// A question that is to be answered with yes.
    Yes,
}

/// What comes of a reading.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Read {
    /// Within its limits.
    Right,
    /// Below them.
    Low,
    /// Above them.
    High,
    /// Of the wrong sign: the two leads are changed.
    Reversed,
    /// Answered with no.
    No,
}

impl Reading {
    /// Whether anything can be wrong with it.
    pub const fn has_limits(&self) -> bool {
        !matches!(self, Self::Torque(None))
    }

    /// What comes of a value.
    pub fn judge(&self, value: f64) -> Read {
        let within = |low: f64, high: f64| {
            if value < low {
                Read::Low
            } else if value > high {
                Read::High
            } else {
                Read::Right
            }
        };
        match *self {
            // A volt the other way may be a meter's lead; as much as is meant is not.
            Self::Volts(low, _) if value <= -0.5 * low.value() => Read::Reversed,
            Self::Volts(low, high) => within(low.value(), high.value()),
            Self::Apart(most) => within(0.0, most.value()),
            Self::Torque(Some((low, high))) => within(low, high),
            Self::Torque(None) => Read::Right,
            Self::Moves(most) => within(0.0, most),
            Self::AmpHours(low, high) => within(low.value(), high.value()),
            // Yes is kept as 1, no as 0.
            Self::Yes if value > 0.5 => Read::Right,
            Self::Yes => Read::No,
        }
    }
}

/// Units or strings that are joined may be so far apart, as a share of their nominal volts: 0.1 V of 12.8. Common practice,
/// no source.
const ALIKE: f64 = 0.1 / 12.8;
/// A battery moves no more than this when it is pulled with 90 lbf for a minute: 33 CFR 183.420, ABYC E-10. [mm]
pub const MOST_MOVED: f64 = 25.4;
/// The same force. [N]
pub const PULLED_WITH: f64 = 400.0;
/// Charge with which sound units come from a shop, at least: lead below this has stood too long (12.2 to 12.3 V of six
/// cells; handbooks recharge it below 12.4); lithium is shipped near a third. Common practice, no source.
const COMES_WITH: (f64, f64) = (0.6, 0.2);
/// The lowest charge at which a set is joined: tables of lead's rest volts differ by as much as half of it is worth.
const JOINED_WITH: (f64, f64) = (0.1, 0.1);
/// After so long at full draw volts are read. [h]
const SETTLED: f64 = 0.05;
/// How many times the drop that is worked out is still right: resistances of labels are known to about that.
const DROP: f64 = 2.0;

/// Volts of a battery between a charge at rest and just charged. [V]
fn volts_from(battery: &Battery, (lead, lithium): (f64, f64)) -> (Volts, Volts) {
    let chemistry = battery.chemistry;
    let cells = f64::from(battery.cells());
    let share = if chemistry.is_lead() { lead } else { lithium };
    let low = chemistry.facts().cell.ocv.at(share) * cells;
    (Volts::of(low), chemistry.full_charge_cell() * cells)
}

impl Job<'_> {
    /// What is to be read at a step; `None` where nothing is.
    pub fn reading(&self, step: StepKey) -> Option<Reading> {
        let pack = self.pack;
        let whole = |(low, high): (Volts, Volts)| {
            let series = f64::from(pack.series);
            Reading::Volts(low * series, high * series)
        };
        Some(match step {
            StepKey::UnitVolts => {
                let (low, high) = volts_from(&pack.battery, COMES_WITH);
                Reading::Volts(low, high)
            }
            StepKey::Alike | StepKey::Balance => {
                Reading::Apart(pack.battery.nominal_voltage * ALIKE)
            }
            StepKey::StringVolts => Reading::Apart(pack.voltage() * ALIKE),
            StepKey::HoldDown => Reading::Moves(MOST_MOVED),
            StepKey::Tighten => Reading::Torque(Terminal::of(pack).map(|t| t.torque)),
            StepKey::Polarity | StepKey::SwitchOn => whole(volts_from(&pack.battery, JOINED_WITH)),
            StepKey::SetProfile => {
                let (low, high) = pack.battery.chemistry.facts().absorption_cell;
                let cells = f64::from(pack.battery.cells());
                let banks = if self.charges_each() { 1.0 } else { f64::from(pack.series) };
                Reading::Volts(Volts::of(low * cells * banks), Volts::of(high * cells * banks))
            }
            StepKey::SetLimits => {
                let (low, high) = self.cut_off()?;
                Reading::Volts(low, high)
            }
            StepKey::TrialRun => {
                let (low, high) = self.loaded()?;
                Reading::Volts(low, high)
            }
            StepKey::AfterFirst => {
                let (low, high) = self.day_takes()?;
                Reading::AmpHours(low, high)
            }
            StepKey::Interlock | StepKey::FeelLugs => Reading::Yes,
            _ => return None,
        })
    }

    /// Each unit hangs on an output of its own.
    pub fn charges_each(&self) -> bool {
        matches!(self.asked.charging, crate::wiring::Charging::Each(_))
    }

    /// Where a controller's low-volt cut-off belongs: from the pack's own end to its rest volts at a tenth of the charge,
    /// for lithium, or at the floor of the house, for lead. [V]
    pub fn cut_off(&self) -> Option<(Volts, Volts)> {
        let pack = self.pack;
        let chemistry = pack.battery.chemistry;
        let series = f64::from(pack.series);
        let low = pack.battery.low_voltage_cutoff.unwrap_or(pack.battery.end_voltage()) * series;
        let share = if chemistry.is_lead() { self.plan.rules.floor(chemistry) } else { 0.1 };
        let cells = f64::from(pack.battery.cells()) * series;
        let high = Volts::of(chemistry.facts().cell.ocv.at(share) * cells);
        (low < high).then_some((low, high))
    }

    /// Pack volts after some minutes at the highest current, full: from twice the drop that the law works out to no drop at
    /// all. `None` where the law cannot give that current. [V]
    pub fn loaded(&self) -> Option<(Volts, Volts)> {
        let judge = &self.judge;
        let (bank, ..) = judge.bank_and_legs(self.pack, self.pack).ok()?;
        let amps = self.most_borne()?.value();
        let full = bank.at(judge.rules().ceiling(self.pack.battery.chemistry));
        let open = bank.volts(&full, 0.0);
        let loaded = bank.volts(&bank.draw(&full, amps, SETTLED), amps);
        let low = open - DROP * (open - loaded);
        (low.is_finite() && low > 0.0 && low <= open).then(|| (Volts::of(low), Volts::of(open)))
    }

    /// The highest current that is tried: the motor's, but no more than the BMS lets through. [A]
    pub fn most_borne(&self) -> Option<Amps> {
        let most = self.asked.most;
        Some(self.pack.bms_limit().map_or(most, |limit| most.min(limit)))
    }

    /// What the planned day takes on a good day and on a bad one. [Ah]
    pub fn day_takes(&self) -> Option<(AmpHours, AmpHours)> {
        let drawn = self.evaluation().drawn.as_ref()?;
        let whole = crate::verdict::told_capacity(self.pack)?;
        let taken = |left: f64| whole * (drawn.starts_at - left);
        let (low, high) = (taken(drawn.band.high), taken(drawn.band.low));
        (low > AmpHours::ZERO).then_some((low, high))
    }
}
