//! The order of work of a build: steps, what each waits for, and how far one is.

use super::reading::{Read, Reading};
use super::{Build, Job, StepKept, StepKey, StepState};
use crate::keyed::keyed;
use crate::proposals::weight::{LOAD_CONSTANT, lifting_index};
use crate::units::Kilograms;

keyed! {
    /// What steps are gathered under.
    pub enum Phase {
        /// Before anything is touched.
        Before,
        /// The old pack out.
        TakeOut,
        /// The tray.
        Tray,
        /// The new units in.
        Fit,
        /// The circuit.
        Wire,
        /// Charging.
        Charge,
        /// Trying it.
        Trial,
    }
}

keyed! {
    /// What may hurt at a step.
    pub enum Caution {
        /// A tool across two posts.
        Short,
        /// Acid in eyes and on skin.
        Acid,
        /// Gas that burns.
        Gas,
        /// Too heavy for one.
        Lift,
        /// Lead on hands.
        LeadHands,
        /// It may roll or drive off.
        Rolls,
        /// Never bridged.
        NeverBridged,
        /// Never charged below freezing.
        NoColdCharge,
        /// The wrong charger ruins or burns it.
        RightCharger,
        /// Above 60 V.
        Deadly,
        /// Reversed leads destroy the controller.
        ReversedKills,
        /// A spark that cracks.
        Spark,
        /// Cells that are not alike drive each other.
        Unlike,
        /// On the water or the road for the first time.
        FirstRun,
    }
}

keyed! {
    /// What is needed in the hand.
    pub enum Tool {
        /// Wrench with an insulated handle.
        Wrench,
        /// Torque wrench.
        TorqueWrench,
        /// Multimeter.
        Meter,
        /// Goggles and gloves.
        Goggles,
        /// Camera, tape and marker.
        Marker,
        /// Chocks.
        Chocks,
        /// Lifting strap or hoist.
        Hoist,
        /// Baking soda, brush, water.
        Soda,
        /// Crimping tool and heat gun.
        Crimper,
        /// Drill and screws.
        Drill,
        /// A charger for one unit.
        UnitCharger,
        /// Distilled water.
        Water,
    }
}

/// A step of a job.
#[derive(Debug, Clone, PartialEq)]
pub struct Step {
    /// Which one.
    pub key: StepKey,
    /// Its place in the order, from 1.
    pub number: usize,
    /// Steps of this job that must be done before it.
    pub needs: Vec<StepKey>,
    /// What may hurt.
    pub cautions: Vec<Caution>,
    /// What is to be read.
    pub reading: Option<Reading>,
    /// It cannot be put off: what comes after it would hurt someone.
    pub firm: bool,
    /// What is kept of it, where that still holds.
    pub kept: StepKept,
    /// It was done with another pack.
    pub was: Option<String>,
}

/// How far one is with a step, its reading looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Standing {
    /// It may be done now.
    Ready,
    /// Another has to be done before it.
    Waits(StepKey),
    /// Done.
    Done,
    /// Put off.
    PutOff,
    /// What was read is out of its limits.
    Stopped(Read),
}

impl StepKey {
    /// What it is gathered under.
    pub const fn phase(self) -> Phase {
        match self {
            Self::LayOut | Self::Licensed | Self::Park | Self::Unplug | Self::Guard => {
                Phase::Before
            }
            Self::PictureOld
            | Self::FindTaps
            | Self::SwitchOff
            | Self::OldNegative
            | Self::OldPositive
            | Self::OldTaps
            | Self::OldJumpers
            | Self::LiftOut
            | Self::Recycle => Phase::TakeOut,
            Self::Neutralize | Self::LookOver | Self::Paint | Self::CutVent => Phase::Tray,
            Self::UnitVolts
            | Self::ChargeEach
            | Self::Alike
            | Self::LayPad
            | Self::PlaceUnits
            | Self::HoldDown
            | Self::MountParts
            | Self::MakeCables => Phase::Fit,
            Self::FuseOut
            | Self::JoinUnits
            | Self::StringVolts
            | Self::JoinStrings
            | Self::Positive
            | Self::NegativeSide
            | Self::WireDevices
            | Self::WireCharger
            | Self::Tighten
            | Self::Polarity
            | Self::NegativeLast
            | Self::CoverPosts
            | Self::FuseIn
            | Self::FillCapacitors
            | Self::SwitchOn => Phase::Wire,
            Self::SetLimits
            | Self::SetProfile
            | Self::Interlock
            | Self::FirstCharge
            | Self::Balance
            | Self::Water
            | Self::SetMeter => Phase::Charge,
            Self::Ride | Self::TrialRun | Self::FeelLugs | Self::AfterFirst | Self::AfterMonth => {
                Phase::Trial
            }
        }
    }

    /// It is done with the old pack, the new one, or any: `None`. A tick holds while that pack is the same.
    const fn done_with(self) -> Option<Which> {
        match self.phase() {
            Phase::TakeOut => Some(Which::Old),
            Phase::Fit | Phase::Wire | Phase::Charge | Phase::Trial => match self {
                // What belongs to the craft stays as it is.
                Self::LayPad | Self::MountParts => None,
                _ => Some(Which::New),
            },
            Phase::Before | Phase::Tray => None,
        }
    }

    /// What is needed in the hand.
    pub const fn tools(self) -> &'static [Tool] {
        match self {
            Self::Guard => &[Tool::Goggles, Tool::Soda],
            Self::Park => &[Tool::Chocks],
            Self::PictureOld | Self::FindTaps => &[Tool::Marker],
            Self::OldNegative | Self::OldPositive | Self::OldTaps | Self::OldJumpers => {
                &[Tool::Wrench, Tool::Marker]
            }
            Self::LiftOut | Self::PlaceUnits => &[Tool::Hoist],
            Self::Neutralize => &[Tool::Soda, Tool::Goggles],
            Self::UnitVolts
            | Self::Alike
            | Self::StringVolts
            | Self::Polarity
            | Self::SwitchOn
            | Self::SetProfile
            | Self::Balance
            | Self::TrialRun => &[Tool::Meter],
            Self::ChargeEach => &[Tool::UnitCharger, Tool::Meter],
            Self::CutVent | Self::MountParts | Self::HoldDown => &[Tool::Drill],
            Self::MakeCables => &[Tool::Crimper],
            Self::JoinUnits
            | Self::JoinStrings
            | Self::Positive
            | Self::NegativeSide
            | Self::WireDevices
            | Self::WireCharger
            | Self::NegativeLast => &[Tool::Wrench],
            Self::Tighten | Self::AfterFirst | Self::AfterMonth => &[Tool::TorqueWrench],
            Self::Water => &[Tool::Water, Tool::Goggles],
            _ => &[],
        }
    }

    /// It cannot be put off, nor passed by: what comes after it would hurt someone or destroy the controller.
    pub const fn is_firm(self) -> bool {
        matches!(
            self,
            Self::Licensed
                | Self::Park
                | Self::Unplug
                | Self::Guard
                | Self::SwitchOff
                | Self::OldNegative
                | Self::OldPositive
                | Self::OldTaps
                | Self::OldJumpers
                | Self::LiftOut
                | Self::Alike
                | Self::HoldDown
                | Self::FuseOut
                | Self::StringVolts
                | Self::Tighten
                | Self::Polarity
                | Self::CoverPosts
                | Self::Interlock
                | Self::SetProfile
        )
    }
}

/// Which pack.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Which {
    Old,
    New,
}

impl Job<'_> {
    /// The name of the pack that a step is done with; empty where any would do.
    pub fn done_with(&self, step: StepKey) -> String {
        match step.done_with() {
            Some(Which::Old) => self.old_id(),
            Some(Which::New) => self.new_id(),
            None => String::new(),
        }
    }

    /// The order of work.
    ///
    /// Those steps that the job wants, each after all it waits for, and otherwise as they stand in [`StepKey`]: the first
    /// that may be done comes next (Kahn, Communications of the ACM 5 (1962) 558).
    pub fn steps(&self) -> Vec<Step> {
        let wanted: Vec<StepKey> =
            StepKey::ALL.into_iter().filter(|step| step.wanted(self)).collect();
        let mut left = wanted.clone();
        let mut placed: Vec<StepKey> = Vec::with_capacity(wanted.len());
        while let Some(next) = left.iter().position(|step| {
            needs_among(*step, &wanted).iter().all(|needed| placed.contains(needed))
        }) {
            placed.push(left.remove(next));
        }
        let step = |(key, number): (StepKey, usize)| {
            let (kept, was) = self.kept_of(key);
            Step {
                key,
                number,
                needs: needs_among(key, &wanted),
                cautions: self.cautions(key),
                reading: self.reading(key),
                firm: key.is_firm(),
                kept,
                was,
            }
        };
        placed.into_iter().zip(1..).map(step).collect()
    }

    /// What is kept of a step; where it was done with another pack, only its note, and which pack that was.
    fn kept_of(&self, key: StepKey) -> (StepKept, Option<String>) {
        let Some(kept) = self.plan.build.step(key) else { return (StepKept::new(key), None) };
        let with = self.done_with(key);
        if kept.of == with || kept.of.is_empty() && kept.state == StepState::Open {
            return (kept.clone(), None);
        }
        let anew = StepKept { of: with, note: kept.note.clone(), ..StepKept::new(key) };
        (anew, Some(kept.of.clone()))
    }

    /// What may hurt at a step.
    fn cautions(&self, step: StepKey) -> Vec<Caution> {
        let lead = self.handles_lead();
        let lithium_in = !self.pack.battery.chemistry.is_lead();
        let boat = self.plan.rig.craft.kind.is_boat();
        let heavy = |mass: Option<Kilograms>| mass.is_none_or(is_heavy);
        let old = self.aboard.and_then(|p| p.battery.mass);
        let mut all = Vec::new();
        let mut if_so = |so: bool, caution: Caution| {
            if so {
                all.push(caution);
            }
        };
        match step {
            StepKey::Licensed => if_so(true, Caution::Deadly),
            StepKey::Park => if_so(!boat, Caution::Rolls),
            StepKey::Guard => {
                if_so(lead, Caution::Acid);
                if_so(true, Caution::Short);
            }
            StepKey::OldNegative
            | StepKey::OldJumpers
            | StepKey::JoinUnits
            | StepKey::JoinStrings
            | StepKey::Positive => if_so(true, Caution::Short),
            StepKey::LiftOut => {
                if_so(heavy(old), Caution::Lift);
                if_so(self.takes_lead_out(), Caution::LeadHands);
            }
            StepKey::Neutralize | StepKey::Water => if_so(true, Caution::Acid),
            StepKey::ChargeEach => if_so(true, Caution::NoColdCharge),
            StepKey::Alike | StepKey::StringVolts => if_so(true, Caution::Unlike),
            StepKey::PlaceUnits => if_so(heavy(self.pack.battery.mass), Caution::Lift),
            StepKey::Polarity => if_so(true, Caution::ReversedKills),
            StepKey::NegativeLast => if_so(true, Caution::Spark),
            StepKey::SetProfile => if_so(true, Caution::RightCharger),
            StepKey::Interlock => {
                if_so(true, Caution::NeverBridged);
                if_so(true, Caution::Rolls);
            }
            StepKey::FirstCharge => {
                if_so(lithium_in, Caution::NoColdCharge);
                if_so(!lithium_in, Caution::Gas);
            }
            StepKey::TrialRun => if_so(true, Caution::FirstRun),
            _ => {}
        }
        all
    }
}

/// Too heavy for one person: about 50 lb, or beyond what the lifting equation recommends; NIOSH 94-110.
pub fn is_heavy(mass: Kilograms) -> bool {
    mass >= LOAD_CONSTANT || lifting_index(mass) > 1.0
}

/// What a step waits for among those that are wanted: where one is not, what that one waits for.
fn needs_among(step: StepKey, wanted: &[StepKey]) -> Vec<StepKey> {
    let mut found: Vec<StepKey> = Vec::new();
    let mut looked: Vec<StepKey> = Vec::new();
    let mut waiting: Vec<StepKey> = step.needs().to_vec();
    while let Some(need) = waiting.pop() {
        if looked.contains(&need) {
            continue;
        }
        looked.push(need);
        if wanted.contains(&need) {
            found.push(need);
        } else {
            waiting.extend(need.needs());
        }
    }
    found.sort_unstable();
    found
}

impl Step {
    /// What comes of its reading; `None` without one.
    pub fn read(&self) -> Option<Read> {
        Some(self.reading?.judge(self.kept.reading?))
    }

    /// How far one is with it, given all steps of the job.
    pub fn standing(&self, all: &[Self]) -> Standing {
        if let Some(read) = self.read().filter(|read| *read != Read::Right) {
            return Standing::Stopped(read);
        }
        match self.kept.state {
            StepState::Done => Standing::Done,
            StepState::PutOff => Standing::PutOff,
            StepState::Open => match self.waits_for(all) {
                Some(step) => Standing::Waits(step),
                None => Standing::Ready,
            },
        }
    }

    /// The first step that must be done before it and is neither done nor put off.
    pub fn waits_for(&self, all: &[Self]) -> Option<StepKey> {
        let open = |key: &&StepKey| {
            let step = all.iter().find(|s| s.key == **key);
            step.is_some_and(|s| !s.is_past())
        };
        self.needs.iter().find(open).copied()
    }

    /// Done, or put off where it may be, and nothing that was read at it is wrong.
    fn is_past(&self) -> bool {
        let settled = match self.kept.state {
            StepState::Done => true,
            StepState::PutOff => !self.firm,
            StepState::Open => false,
        };
        settled && self.read().is_none_or(|read| read == Read::Right)
    }
}

/// Why a step is not taken as done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotDone {
    /// The job has no such step.
    Unknown,
    /// Another has to be done before it.
    Waits(StepKey),
    /// It must be read before it is ticked.
    Unread,
    /// It cannot be put off.
    Firm,
    /// A reason must be given.
    NoReason,
}

impl Job<'_> {
    /// What is kept of the build when so much is said of a step. Opening one again is always taken, and so is a note. One
    /// whose reading is out of its limits is kept open with it.
    ///
    /// # Errors
    /// [`NotDone`] where it cannot be said to be done, or to be put off.
    pub fn said(&self, mut kept: StepKept) -> Result<Build, NotDone> {
        let steps = self.steps();
        let step = steps.iter().find(|s| s.key == kept.key).ok_or(NotDone::Unknown)?;
        kept.of = self.done_with(kept.key);
        if kept.state != StepState::PutOff {
            kept.reason.clear();
        }
        match kept.state {
            StepState::Open => {}
            StepState::PutOff if step.firm => return Err(NotDone::Firm),
            StepState::PutOff if kept.reason.trim().is_empty() => return Err(NotDone::NoReason),
            StepState::PutOff => {}
            StepState::Done => {
                if let Some(needed) = step.waits_for(&steps) {
                    return Err(NotDone::Waits(needed));
                }
                match (step.reading, kept.reading) {
                    // What is wrong is kept, and stops the work there.
                    (Some(reading), Some(value)) if reading.judge(value) != Read::Right => {
                        kept.state = StepState::Open;
                    }
                    // A firm step is firm for what is read at it.
                    (Some(reading), None) if step.firm && reading.has_limits() => {
                        return Err(NotDone::Unread);
                    }
                    _ => {}
                }
            }
        }
        Ok(self.plan.build.clone().with_step(kept))
    }
}
