//! The steps of a build in words: what is done, why, and what may hurt.

use crate::figures;
use crate::parts::circuit;
use lake_hour_core::build::reading::{Read, Reading};
use lake_hour_core::build::{Caution, Job, Phase, StepKey, Tool};
use lake_hour_core::pack::Pack;
use lake_hour_core::rig::CraftKind;
use lake_hour_core::units::Volts;
use lake_hour_core::units::convert::MM_PER_INCH;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};

/// What a step says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct StepWords {
    /// What is done, in a line.
    pub(super) title: String,
    /// How, in a sentence or two.
    pub(super) how: String,
    /// Why it is done, and why then.
    pub(super) why: String,
}

/// A job in the reader's units.
#[derive(Clone, Copy)]
pub(super) struct Words<'a> {
    pub(super) job: &'a Job<'a>,
    pub(super) say: Say<'a>,
}

pub(super) const fn phase(phase: Phase) -> &'static str {
    match phase {
        Phase::Before => "Before you start",
        Phase::TakeOut => "Take out",
        Phase::Tray => "The tray",
        Phase::Fit => "Fit and hold down",
        Phase::Wire => "Wire",
        Phase::Charge => "Settings and first charge",
        Phase::Trial => "Try it, and after",
    }
}

pub(super) const fn tool(tool: Tool) -> &'static str {
    match tool {
        Tool::Wrench => "insulated wrench",
        Tool::TorqueWrench => "torque wrench",
        Tool::Meter => "multimeter",
        Tool::Goggles => "goggles, gloves",
        Tool::Marker => "camera, tape, marker",
        Tool::Chocks => "chocks",
        Tool::Hoist => "lifting strap or hoist",
        Tool::Soda => "baking soda, brush, water",
        Tool::Crimper => "crimper, heat gun",
        Tool::Drill => "drill, screws",
        Tool::UnitCharger => "charger for one unit",
        Tool::Water => "distilled water",
    }
}

/// "26.3".
pub(super) fn volts(volts: Volts) -> String {
    let digits = if volts.value() < 2.0 { 2 } else { 1 };
    format!("{:.digits$}", volts.value())
}

impl Words<'_> {
    pub(super) fn boat(&self) -> bool {
        self.job.plan.rig.craft.kind.is_boat()
    }

    /// "boat", "cart", "motorbike".
    pub(super) fn craft(&self) -> &'static str {
        match self.job.plan.rig.craft.kind {
            kind if kind.is_boat() => "boat",
            CraftKind::Motorbike => "motorbike",
            CraftKind::GoKart => "kart",
            CraftKind::Conversion => "vehicle",
            _ => "cart",
        }
    }

    /// A length that rules give in inches: "7 in", "18 cm".
    pub(super) fn inches(&self, inches: f64) -> String {
        match self.say.units {
            System::Metric => format!("{:.0} cm", inches * MM_PER_INCH / 10.0),
            System::Us | System::Nautical => format!("{inches:.0} in"),
        }
    }

    pub(super) fn unit(&self, pack: &Pack) -> String {
        if pack.units() > 1 { "units".to_owned() } else { "battery".to_owned() }
    }

    /// "70 lb each", or nothing where no label tells.
    pub(super) fn weighs(&self, pack: &Pack) -> String {
        let each = if pack.units() > 1 { " each" } else { "" };
        match pack.battery.mass {
            Some(mass) => format!("{}{each}", figures::mass(mass, self.say.units)),
            None => "weight not on its label".to_owned(),
        }
    }

    pub(super) fn caution(&self, caution: Caution, step: StepKey) -> String {
        let cart = self.craft();
        match caution {
            Caution::Short => "No rings, insulated wrench, one terminal at a time.".to_owned(),
            Caution::Acid => {
                "Goggles, gloves. Acid in an eye: rinse 15 min, see a doctor.".to_owned()
            }
            Caution::Gas => "Hydrogen: lids and doors open, no flame, no spark.".to_owned(),
            Caution::Lift => {
                let pack =
                    if step == StepKey::LiftOut { self.job.aboard } else { Some(self.job.pack) };
                let weighs = pack.map_or_else(String::new, |pack| self.weighs(pack));
                format!("{}: two people or a hoist.", figures::capital(&weighs))
            }
            Caution::LeadHands => "Lead: wash hands before you eat.".to_owned(),
            Caution::Rolls => {
                format!("A {cart} can drive off: chocks, nobody before or behind it.")
            }
            Caution::NeverBridged => "Never bridge the interlock.".to_owned(),
            Caution::NoColdCharge => format!(
                "Never charge lithium below {}: it is ruined.",
                figures::measure(self.say.units, Measure::Temperature, 0.0, 0)
            ),
            Caution::RightCharger => {
                "A wrong profile or wrong volts can set it on fire.".to_owned()
            }
            Caution::Deadly => "Above 60 V DC a pack can kill. Licensed help only.".to_owned(),
            Caution::ReversedKills => "Reversed leads destroy the controller at once.".to_owned(),
            Caution::Spark => "A small tick is normal; a crack is a short: take it off.".to_owned(),
            Caution::Unlike => {
                "Unlike batteries, once joined, short through each other.".to_owned()
            }
            Caution::FirstRun if self.boat() => {
                "Life jacket on, close to shore, somebody told.".to_owned()
            }
            Caution::FirstRun => "An empty lot, slow, nobody in front.".to_owned(),
        }
    }

    /// What is to be read, with its limits.
    pub(super) fn reading(&self, reading: Reading) -> String {
        match reading {
            Reading::Volts(low, high) => format!("{} to {} V", volts(low), volts(high)),
            Reading::Apart(most) => format!("at most {} V apart", volts(most)),
            Reading::Torque(Some(limits)) => circuit::torque(limits, self.say.units),
            Reading::Torque(None) => "as the battery's manual says".to_owned(),
            Reading::Moves(most) => {
                let digits = usize::from(self.say.units != System::Metric);
                format!("at most {}", figures::measure(self.say.units, Measure::Side, most, digits))
            }
            Reading::AmpHours(low, high) => {
                format!("{} to {} Ah", figures::amount(low.value()), figures::amount(high.value()))
            }
            Reading::Yes => "yes".to_owned(),
        }
    }

    /// What to do about a reading that is out of its limits.
    pub(super) fn wrong(&self, step: StepKey, read: Read) -> &'static str {
        match (step, read) {
            (_, Read::Reversed) => {
                "Reversed. Join nothing. Check the meter's leads first, then every jumper against the picture: + of one to - of the next."
            }
            (StepKey::UnitVolts, Read::Low) => {
                "Too low: charge it at once, alone, with its own kind of charger. Lithium that shows nothing is asleep: a charger with a lithium profile wakes it. Still low after that: send it back."
            }
            (StepKey::UnitVolts, _) => {
                "Too high for one unit of this kind: check that it is the right battery and that the meter stands on DC volts."
            }
            (StepKey::Alike | StepKey::Balance, _) => {
                "Too far apart: charge the lowest alone to full, let all rest for some hours, and measure again. One that falls behind again is weak: send it back."
            }
            (StepKey::StringVolts, _) => {
                "Too far apart: do not join them. Charge each string alone to full, let them rest, and measure again."
            }
            (StepKey::HoldDown, _) => {
                "It moves too much: another strap, a cleat before it, or a tray that fits."
            }
            (StepKey::Tighten, Read::Low) => {
                "Too loose: a lug that is not tight gets hot. Draw it to the figure."
            }
            (StepKey::Tighten, _) => {
                "Too tight: posts and inserts strip. Take the nut off, look at the thread, draw it to the figure."
            }
            (StepKey::Polarity | StepKey::SwitchOn, Read::Low) => {
                "Too low: a jumper is missing, a unit is reversed or empty, or a switch is off. Join nothing more. Measure unit by unit."
            }
            (StepKey::Polarity | StepKey::SwitchOn, _) => {
                "Too high: more units stand in series than are meant. Join nothing more. Compare with the picture."
            }
            (StepKey::SetProfile, Read::Low) => {
                "Too low: it never gets full. Choose the profile for this chemistry and these volts."
            }
            (StepKey::SetProfile, _) => {
                "Too high: unplug it now. Choose the profile for this chemistry, equalizing off."
            }
            (StepKey::SetLimits, Read::Low) => {
                "Too low: the battery ends before the controller does. Set it higher."
            }
            (StepKey::SetLimits, _) => "Too high: it stops with charge left. Set it lower.",
            (StepKey::TrialRun, Read::Low) => {
                "It sags too far: feel for a warm lug (switched off), draw it tight; else a cable is too thin, or a unit weak."
            }
            (StepKey::TrialRun, _) => {
                "No sag at all: the motor hardly drew anything. Full throttle, for three minutes, then read again."
            }
            (StepKey::Interlock, _) => {
                "STOP. Leave it unplugged and the tow switch set. The interlock's two wires belong to the charge socket and the controller: have it made right before anyone drives."
            }
            (StepKey::FeelLugs, _) => {
                "Switch off, pull the fuse, clean and tighten the warm one; crimp it anew if it gets warm again."
            }
            (StepKey::AfterFirst, Read::Low) => {
                "Less than planned: a calmer day, or a slower one. If the day went as planned, measure amps at your settings and put them on the Rig page."
            }
            (StepKey::AfterFirst, _) => {
                "More than planned: keep a larger reserve, measure amps at your settings, and put them on the Rig page."
            }
            _ => "Out of its limits: stop here and find out why.",
        }
    }

    /// What the value's field is called.
    pub(super) fn asks(&self, step: StepKey, reading: Reading) -> &'static str {
        match (step, reading) {
            (StepKey::UnitVolts, _) => "Lowest unit",
            (_, Reading::Apart(_)) => "Highest less lowest",
            (StepKey::SetLimits, _) => "Low cut-off set to",
            (_, Reading::Volts(..)) => "Volts read",
            (_, Reading::Torque(_)) => "Torque set to",
            (_, Reading::Moves(_)) => "Moves by",
            (_, Reading::AmpHours(..)) => "Taken",
            (StepKey::Interlock, Reading::Yes) => "It stayed put",
            (_, Reading::Yes) => "None is warm",
        }
    }

    /// The step in words.
    pub(super) fn step(&self, key: StepKey) -> StepWords {
        let (title, how, why) = self.told(key);
        StepWords { title, how, why: why.to_owned() }
    }
}

/// An area in the reader's units: "23 in²".
pub(super) fn area_of(cm2: f64, units: System) -> String {
    if units == System::Metric {
        format!("{cm2:.0} cm²")
    } else {
        // Exact: 6.4516 cm² to the square inch.
        format!("{:.0} in²", (cm2 / 6.451_6).ceil())
    }
}
