//! What each step must wait for, and when it is wanted at all.

use super::StepKey::{self, *};
use super::{Change, ChargerPlace, Job};
use crate::rig::CraftKind;

impl StepKey {
    /// Steps that must be done before it. What is not wanted on a job is passed over: its own needs hold in its place.
    ///
    /// Negative first off and last on, a meter on the open ends before the last connection, the charger proven by the
    /// interlock before it is left alone: OSHA 29 CFR 1910.178(g), ANSI/ILTVA Z130.1 and Z135, ABYC E-10 and E-11 say so of
    /// batteries in general; the rest is common practice, no source.
    pub const fn needs(self) -> &'static [Self] {
        match self {
            LayOut | Park | Guard => &[],
            Licensed => &[LayOut],
            Unplug => &[Park],
            PictureOld => &[Park],
            FindTaps => &[PictureOld],
            SwitchOff => &[Unplug, PictureOld, FindTaps],
            OldNegative => &[SwitchOff, Guard],
            OldPositive => &[OldNegative],
            OldTaps => &[OldNegative],
            OldJumpers => &[OldPositive, OldTaps],
            LiftOut => &[OldPositive, OldTaps, OldJumpers],
            Recycle => &[LiftOut],
            Neutralize => &[LiftOut, Guard],
            LookOver => &[LiftOut, Neutralize, Park],
            Paint => &[LookOver],
            CutVent => &[LookOver],
            UnitVolts => &[LayOut, Guard],
            ChargeEach => &[UnitVolts],
            Alike => &[UnitVolts, ChargeEach],
            LayPad => &[LookOver, Paint, CutVent],
            PlaceUnits => &[LayPad, UnitVolts, Alike, Guard],
            HoldDown => &[PlaceUnits],
            MountParts => &[LookOver, Paint],
            MakeCables => &[MountParts, HoldDown],
            FuseOut => &[MountParts, Unplug],
            JoinUnits => &[HoldDown, MakeCables, FuseOut, Alike, Guard],
            StringVolts => &[JoinUnits, HoldDown, FuseOut],
            JoinStrings => &[StringVolts],
            Positive => &[JoinUnits, JoinStrings, MakeCables, FuseOut, HoldDown],
            NegativeSide => &[MakeCables, FuseOut],
            WireDevices => &[Positive, NegativeSide],
            WireCharger => &[Positive, NegativeSide],
            Tighten => &[JoinUnits, JoinStrings, Positive, NegativeSide, WireDevices, WireCharger],
            Polarity => &[Tighten],
            NegativeLast => &[Polarity],
            CoverPosts => &[NegativeLast],
            FuseIn => &[NegativeLast, CoverPosts],
            FillCapacitors => &[FuseIn],
            SwitchOn => &[FuseIn, FillCapacitors],
            SetLimits => &[SwitchOn],
            SetProfile => &[SwitchOn],
            Interlock => &[SwitchOn, SetProfile, Licensed],
            FirstCharge => &[SetProfile, Interlock, Licensed],
            Balance => &[FirstCharge],
            Water => &[FirstCharge],
            SetMeter => &[FirstCharge, Balance],
            Ride => &[HoldDown, SwitchOn, Licensed],
            TrialRun => &[SetMeter, SetLimits, Interlock, FirstCharge, Ride, CoverPosts],
            FeelLugs => &[TrialRun],
            AfterFirst => &[TrialRun, FeelLugs],
            AfterMonth => &[AfterFirst],
        }
    }

    /// Whether a job takes it.
    pub(super) fn wanted(self, job: &Job<'_>) -> bool {
        let pack = job.pack;
        let lead_in = pack.battery.chemistry.is_lead();
        let several = pack.units() > 1;
        let boat = job.plan.rig.craft.kind.is_boat();
        // Above 60 V nobody is told how to wire it: licensed help does all that a wrench is needed for.
        if job.is_dangerous() {
            return match self {
                LayOut | Licensed | SetProfile | FirstCharge | SetMeter | TrialRun | AfterFirst
                | AfterMonth => true,
                Interlock => !boat,
                Ride => job.is_felt(),
                _ => false,
            };
        }
        match self {
            Licensed => false,
            LayOut | Park | Unplug | Guard | LookOver | UnitVolts | LayPad | PlaceUnits
            | HoldDown | MountParts | MakeCables | FuseOut | Positive | NegativeSide | Tighten
            | Polarity | NegativeLast | FuseIn | CoverPosts | SwitchOn | SetProfile
            | FirstCharge | SetMeter | TrialRun | FeelLugs | AfterFirst | AfterMonth => true,
            PictureOld | SwitchOff | OldNegative | OldPositive | LiftOut | Recycle => {
                job.aboard.is_some()
            }
            FindTaps | OldTaps => job.may_be_tapped(),
            OldJumpers => job.aboard.is_some_and(|p| p.units() > 1),
            Neutralize | Paint => job.takes_lead_out(),
            CutVent => job.needs_vent(),
            // Lead is charged as a set; units with a BMS each stop at their own volts, and are charged each to full.
            ChargeEach => several && !lead_in,
            Alike => several,
            JoinUnits => pack.series > 1,
            StringVolts | JoinStrings => pack.parallel > 1,
            WireDevices => job.plan.day.accessories.iter().any(|a| !a.on_house),
            WireCharger => job.charger_place() == ChargerPlace::Aboard,
            FillCapacitors => pack.voltage() >= crate::parts::CAPACITORS,
            Interlock => !boat,
            Balance => pack.series > 1 && !lead_in,
            Water => pack.battery.chemistry == crate::shelf::Chemistry::Flooded,
            SetLimits => {
                matches!(job.change(), Change::LeadToLithium | Change::LithiumToLead)
                    || job.change() == Change::FirstFit
                        && pack.voltage() >= crate::parts::CAPACITORS
            }
            Ride => job.is_felt(),
        }
    }
}

/// A change of weight that is felt in how a craft sits: a twentieth of its load. A choice.
const FELT: f64 = 0.05;

impl Job<'_> {
    /// The change of weight is felt.
    pub fn is_felt(&self) -> bool {
        let by = self.heavier_by();
        by.is_some_and(|by| (by / self.plan.rig.craft.mass_told().value).abs() >= FELT)
    }

    /// It is driven on two wheels.
    pub fn leans(&self) -> bool {
        matches!(self.plan.rig.craft.kind, CraftKind::Motorbike)
    }
}
