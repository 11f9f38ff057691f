//! What else must change when a pack does.

use super::reading::Reading;
use super::{Change, Job, StepKey};
use crate::pack::limits;
use crate::pack::stow::{self, Trim};
use crate::refill::{self, Wanted};
use crate::source::Origin;
use crate::units::{Amps, Hours, Kilograms, Volts};

/// Something beside the batteries that must be changed, set, or watched.
#[derive(Debug, Clone, PartialEq)]
pub enum Also {
    /// The most that the motor draws is typical of such craft, and told by nobody.
    MotorTypical {
        /// What. [A]
        most: Amps,
    },
    /// The pack gives less than the motor draws at most.
    LimitBelow {
        /// What its BMS gives for long. [A]
        limit: Amps,
        /// What the motor draws at most. [A]
        most: Amps,
        /// The highest setting that it carries, 0 to 10, as [`Job::setting_borne`].
        setting: Option<f64>,
    },
    /// The charger: one that suits is there, and needs its profile set.
    ChargerSet {
        /// Its name.
        charger: String,
        /// Volts in absorption, from and to. [V]
        volts: (Volts, Volts),
    },
    /// None that is there suits: one to buy.
    ChargerNew(Wanted),
    /// A charger that stays must never equalize lithium.
    NoEqualizing,
    /// A gauge that reads lead's volts tells nothing of lithium.
    LeadGauge,
    /// 12 V devices that were tapped off one battery of several.
    Taps,
    /// What is plugged in must not drive.
    Interlock,
    /// 12 V devices on a pack of more volts.
    Converter {
        /// What they draw on the pack. [A]
        amps: Amps,
    },
    /// It sits and rides otherwise.
    Ride {
        /// Heavier by this, lighter where negative. [kg]
        by: Kilograms,
        /// Where that goes, if the bays are told.
        trim: Option<Trim>,
        /// It floats.
        boat: bool,
    },
    /// A controller must bear the pack when it is full.
    HighLimit {
        /// Freshly charged. [V]
        full: Volts,
        /// What the controller bears, if told. [V]
        limit: Option<Volts>,
    },
    /// A controller's cut-off that is set for the other chemistry.
    LowCutOff {
        /// Where it belongs, from and to. [V]
        volts: (Volts, Volts),
    },
    /// Braking gives current back, which a full lithium pack does not take.
    Regeneration,
    /// Capacitors and a solenoid's contacts.
    Capacitors,
    /// What is drawn while it stands.
    StandingDrain {
        /// What. [A]
        amps: Amps,
        /// How long the whole pack lasts at it. [h]
        lasts: Hours,
    },
    /// Lead that gasses goes where air must come in.
    Vent {
        /// Free area of each of two openings. [cm²]
        openings: f64,
    },
    /// An engine's alternator gives a lithium pack more than it bears for long.
    Alternator,
    /// It may be used below freezing, and never charged.
    ColdCharge,
    /// Several units in series drift apart: each is charged to full now and then.
    Drift,
}

impl Job<'_> {
    /// What else must change, the gravest first.
    pub fn also(&self) -> Vec<Also> {
        let (plan, pack) = (self.plan, self.pack);
        let rig = &plan.rig;
        let lead_in = pack.battery.chemistry.is_lead();
        let boat = rig.craft.kind.is_boat();
        let change = self.change();
        let other_kind = matches!(change, Change::LeadToLithium | Change::LithiumToLead);
        let mut all = Vec::new();
        let mut if_so = |so: bool, also: Also| {
            if so {
                all.push(also);
            }
        };
        if_so(!boat, Also::Interlock);
        if let Some(most) = rig.motor.full_current() {
            if_so(rig.motor.full_origin() == Origin::Typical, Also::MotorTypical { most });
        }
        if let Some((limit, most)) = limits::below_full_throttle(pack, &rig.motor) {
            let setting = self.setting_borne();
            if_so(true, Also::LimitBelow { limit, most, setting });
        }
        match refill::strongest(rig, pack) {
            Some(output) => {
                if let Some(Reading::Volts(low, high)) = self.reading(StepKey::SetProfile) {
                    let charger = output.charger.name.clone();
                    if_so(true, Also::ChargerSet { charger, volts: (low, high) });
                }
            }
            None => {
                if_so(true, Also::ChargerNew(Wanted::of(pack, self.capacity)));
            }
        }
        if_so(change == Change::LeadToLithium, Also::NoEqualizing);
        if_so(!lead_in, Also::ColdCharge);
        if_so(change == Change::LeadToLithium, Also::LeadGauge);
        if_so(self.may_be_tapped(), Also::Taps);
        if_so(self.needs_converter(), Also::Converter { amps: self.asked.devices });
        let controlled = pack.voltage() >= crate::parts::CAPACITORS;
        let full = pack.full_charge_voltage();
        let limit = rig.controller_max;
        if_so(limit.is_some() || controlled, Also::HighLimit { full, limit });
        if let Some(volts) = self.cut_off().filter(|_| other_kind && (controlled || !boat)) {
            if_so(true, Also::LowCutOff { volts });
        }
        if_so(rig.motor.regenerates && !lead_in, Also::Regeneration);
        if_so(controlled, Also::Capacitors);
        if let Some(by) = self.heavier_by().filter(|_| self.aboard.is_some()) {
            let trim = stow::trim(rig, pack, self.aboard);
            if_so(
                self.is_felt() || by.value().abs() >= WORTH_SAYING,
                Also::Ride { by, trim, boat },
            );
        }
        if let Some(amps) = rig.standing_drain.filter(|amps| *amps > Amps::ZERO) {
            if_so(true, Also::StandingDrain { amps, lasts: self.capacity / amps });
        }
        if let Some(air) = crate::pack::air::air(pack).filter(|_| self.needs_vent()) {
            if_so(true, Also::Vent { openings: air.openings });
        }
        if_so(rig.main_engine && !lead_in, Also::Alternator);
        if_so(pack.series > 1 && !lead_in, Also::Drift);
        all
    }
}

impl Job<'_> {
    /// The highest setting that the pack carries, as the verdict on its day has it; `None` where it carries none, or none can
    /// be told.
    pub fn setting_borne(&self) -> Option<f64> {
        let drawn = self.evaluation().drawn.as_ref()?;
        drawn.highest_safe_setting.filter(|setting| *setting > 0.0)
    }
}

/// A change of weight that is worth a line. A choice. [kg]
const WORTH_SAYING: f64 = 5.0;
