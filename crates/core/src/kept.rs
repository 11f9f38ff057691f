//! What the owner keeps of a build: ticks, prices, notes, readings; and the parts and steps that they are of.
//!
//! What each is, and when it is wanted, is said by [`build`](crate::build).

use crate::keyed::keyed;
use crate::units::Money;

keyed! {
    /// Where the charger is.
    pub enum ChargerPlace {
        /// Fixed in the craft, with an inlet.
        Aboard,
        /// Carried, and clipped or plugged on.
        Carried,
    }
}

keyed! {
    /// A part that a build may take, in the order of the list.
    pub enum PartKey {
        /// The batteries.
        Batteries,
        /// From unit to unit.
        Jumpers,
        /// From each string to the bars.
        StringLeads,
        /// What strings are joined on.
        Bars,
        /// A fuse in each string.
        StringFuses,
        /// The pair to the motor.
        MainCables,
        /// The main fuse with its holder.
        MainFuse,
        /// A breaker that is reset by hand.
        Breaker,
        /// The main switch.
        Switch,
        /// Plug and socket of the motor.
        MotorPlug,
        /// What fills a controller's capacitors slowly.
        Precharge,
        /// A charger.
        Charger,
        /// Leads of the charger.
        ChargerLeads,
        /// Where shore power comes in.
        Inlet,
        /// What a carried charger is plugged on to.
        ChargePlug,
        /// A meter of charge.
        Meter,
        /// A converter to 12 V.
        Converter,
        /// Leads to the 12 V devices.
        DeviceLeads,
        /// A block of small fuses.
        FuseBlock,
        /// Straps or clamps.
        HoldDowns,
        /// A soft pad under the units.
        Pad,
        /// What a lead tray is cleaned and painted with.
        TrayPaint,
        /// Openings for air.
        Vent,
        /// Boots over the posts.
        Covers,
    }
}

keyed! {
    /// A step of the work, in the order in which steps are begun where nothing else speaks against it.
    pub enum StepKey {
        /// Parts, manuals, tools laid out and checked.
        LayOut,
        /// Licensed help wires what stands above 60 V.
        Licensed,
        /// The craft made fast: chocks, tow switch, trailer.
        Park,
        /// Charger and motor unplugged.
        Unplug,
        /// Eyes, gloves, no rings, air.
        Guard,
        /// The old wiring photographed and labelled.
        PictureOld,
        /// What is tapped off one battery found.
        FindTaps,
        /// All switched off.
        SwitchOff,
        /// The negative of the old pack off, first of all.
        OldNegative,
        /// Its positive.
        OldPositive,
        /// Taps off.
        OldTaps,
        /// Jumpers off.
        OldJumpers,
        /// The old units out.
        LiftOut,
        /// Where they go.
        Recycle,
        /// Acid neutralized and washed out.
        Neutralize,
        /// The tray looked over.
        LookOver,
        /// Bare metal painted.
        Paint,
        /// Openings for air.
        CutVent,
        /// Volts of each new unit.
        UnitVolts,
        /// Each unit charged to full.
        ChargeEach,
        /// Units told to be alike.
        Alike,
        /// A soft pad.
        LayPad,
        /// Units in their places.
        PlaceUnits,
        /// Straps.
        HoldDown,
        /// Fuse holder, switch, shunt, converter in their places.
        MountParts,
        /// Cables cut, crimped, led.
        MakeCables,
        /// Fuse out, switch off.
        FuseOut,
        /// Jumpers on.
        JoinUnits,
        /// Volts of each string.
        StringVolts,
        /// Strings on their bars.
        JoinStrings,
        /// The positive side.
        Positive,
        /// The negative side but for its last lug.
        NegativeSide,
        /// 12 V devices.
        WireDevices,
        /// The charger's leads.
        WireCharger,
        /// Every lug drawn tight.
        Tighten,
        /// Volts and polarity on the open ends.
        Polarity,
        /// The last connection.
        NegativeLast,
        /// Boots and lid.
        CoverPosts,
        /// The fuse in.
        FuseIn,
        /// Capacitors filled slowly.
        FillCapacitors,
        /// Switched on for the first time.
        SwitchOn,
        /// The controller's limits.
        SetLimits,
        /// The charger's profile.
        SetProfile,
        /// It does not drive while it is plugged in.
        Interlock,
        /// The first charge.
        FirstCharge,
        /// Units at the same volts when full.
        Balance,
        /// Water of flooded cells.
        Water,
        /// The meter.
        SetMeter,
        /// How it sits: trim, tires, springs.
        Ride,
        /// A short run.
        TrialRun,
        /// No lug is warm.
        FeelLugs,
        /// After the first outing.
        AfterFirst,
        /// After a month.
        AfterMonth,
    }
}

/// Most parts of one's own.
pub const MOST_OWN: usize = 40;

/// All that is kept of a build.
#[derive(Debug, Clone, PartialEq)]
pub struct Build {
    /// Lists of parts count in what packs cost, for every pack alike; else only what was typed of each.
    pub counted: bool,
    /// Where the charger is, if the owner says.
    pub charger: Option<ChargerPlace>,
    /// What is kept of generated parts, each once.
    pub parts: Vec<PartKept>,
    /// Parts of one's own, in their order.
    pub own: Vec<OwnPart>,
    /// What is kept of steps, each once.
    pub steps: Vec<StepKept>,
}

impl Default for Build {
    fn default() -> Self {
        Self { counted: true, charger: None, parts: Vec::new(), own: Vec::new(), steps: Vec::new() }
    }
}

keyed! {
    /// How far one is with a part.
    pub enum PartState {
        /// Still to be bought.
        ToBuy,
        /// Bought for this.
        Bought,
        /// At hand already, or not wanted: it costs nothing.
        Have,
    }
}

/// What is kept of a generated part.
#[derive(Debug, Clone, PartialEq)]
pub struct PartKept {
    /// Which one.
    pub key: PartKey,
    /// How far one is with it.
    pub state: PartState,
    /// What it was when that was said: a part of another size is not bought yet.
    pub of: String,
    /// Price of one, if told.
    pub price: Option<Money>,
    /// Where to get it, or what to mind.
    pub note: String,
}

/// A part of one's own.
#[derive(Debug, Clone, PartialEq)]
pub struct OwnPart {
    /// What it is.
    pub name: String,
    /// How many.
    pub count: u32,
    /// Price of one, if told.
    pub price: Option<Money>,
    /// How far one is with it.
    pub state: PartState,
    /// Where to get it, or what to mind.
    pub note: String,
}

keyed! {
    /// How far one is with a step.
    pub enum StepState {
        /// Not done yet.
        Open,
        /// Done.
        Done,
        /// Put off, with a reason.
        PutOff,
    }
}

/// What is kept of a step.
#[derive(Debug, Clone, PartialEq)]
pub struct StepKept {
    /// Which one.
    pub key: StepKey,
    /// How far one is with it.
    pub state: StepState,
    /// The pack that it was done with; empty where any would do.
    pub of: String,
    /// What was read; yes is 1 and no 0. Volts, N m, mm, Ah or A, as the step asks.
    pub reading: Option<f64>,
    /// A note of one's own.
    pub note: String,
    /// Why it is put off.
    pub reason: String,
}

impl StepKept {
    /// Nothing kept yet.
    pub const fn new(key: StepKey) -> Self {
        Self {
            key,
            state: StepState::Open,
            of: String::new(),
            reading: None,
            note: String::new(),
            reason: String::new(),
        }
    }

    /// Whether it says nothing that is worth keeping.
    pub fn is_empty(&self) -> bool {
        *self == Self { of: self.of.clone(), ..Self::new(self.key) }
    }
}

impl Build {
    /// What is kept of a part.
    pub fn part(&self, key: PartKey) -> Option<&PartKept> {
        self.parts.iter().find(|p| p.key == key)
    }

    /// What is kept of a step.
    pub fn step(&self, key: StepKey) -> Option<&StepKept> {
        self.steps.iter().find(|s| s.key == key)
    }

    /// The same with this kept of a part.
    #[must_use]
    pub fn with_part(mut self, kept: PartKept) -> Self {
        self.parts.retain(|p| p.key != kept.key);
        self.parts.push(kept);
        self.parts.sort_by_key(|p| p.key);
        self
    }

    /// The same with this kept of a step.
    #[must_use]
    pub fn with_step(mut self, kept: StepKept) -> Self {
        self.steps.retain(|s| s.key != kept.key);
        if !kept.is_empty() {
            self.steps.push(kept);
            self.steps.sort_by_key(|s| s.key);
        }
        self
    }
}
