//! What a pack needs beside its batteries: the list of parts, how large each is, and what it costs. One list for every pack, so that
//! none is cheaper because less of it was counted.

mod needs;
pub mod prices;
pub mod terminal;

pub use needs::{Needs, NotBuilt, breaker_by_rule, circuit};

use crate::house::HouseRules;
use crate::kept::{ChargerPlace, OwnPart, PartKept, PartKey, PartState};
use crate::keyed::keyed;
use crate::pack::{Extras, Pack, air};
use crate::plan::Plan;
use crate::refill::{self, Wanted};
use crate::rig::{Owned, Rig};
use crate::source::Origin;
use crate::units::{AmpHours, Amps, Kilograms, Money, Volts, Watts};
use crate::verdict::Judge;
use crate::wiring::Run;
use crate::wiring::cable::Fuse;
use prices::piece;
use std::borrow::Cow;
use terminal::Terminal;

keyed! {
    /// Which sum of a pack's extras a part belongs to.
    pub enum Group {
        /// The batteries themselves.
        Batteries,
        /// Cables, fuses, breaker, switch, plugs.
        Cables,
        /// The charger and what belongs to it.
        Charger,
        /// A meter.
        Meter,
        /// A converter and what hangs on it.
        Converter,
        /// What holds and houses.
        Holder,
    }
}

/// How large a part is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Size {
    /// There is one size.
    Plain,
    /// A unit of the pack.
    Unit,
    /// A cable, with the hole of its lugs where the label tells.
    Cable {
        /// The run it is of.
        run: Run,
        /// The posts it goes on.
        lug: Option<&'static Terminal>,
    },
    /// A fuse, with the volts it must break.
    Fuse(Fuse, Volts),
    /// It carries so much. [A]
    Amps(Amps),
    /// It carries so much at these volts.
    Breaks(Amps, Volts),
    /// A charger.
    Charger(Wanted),
    /// It gives so much. [W]
    Watts(Watts),
    /// So many ways.
    Ways(u32),
    /// Free area of each of two openings. [cm²]
    Openings(f64),
    /// It holds so much weight. [kg]
    Holds(Kilograms),
}

/// A part of the list.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// Which one.
    pub key: PartKey,
    /// How many.
    pub count: u32,
    /// How large.
    pub size: Size,
    /// Price of one, and who vouches for it; `None` where nobody told.
    pub each: Option<(Money, Origin)>,
    /// How far one is with it.
    pub state: PartState,
    /// The rig says that it is there already.
    pub owned: bool,
    /// It was bought for a build that wanted another size: this is what it was.
    pub was: Option<String>,
    /// A note of one's own.
    pub note: String,
}

impl PartKey {
    /// The sum that it belongs to.
    pub const fn group(self) -> Group {
        match self {
            Self::Batteries => Group::Batteries,
            Self::Charger | Self::ChargerLeads | Self::Inlet | Self::ChargePlug => Group::Charger,
            Self::Meter => Group::Meter,
            Self::Converter | Self::DeviceLeads | Self::FuseBlock => Group::Converter,
            Self::HoldDowns | Self::Pad | Self::TrayPaint | Self::Vent | Self::Covers => {
                Group::Holder
            }
            Self::Jumpers
            | Self::StringLeads
            | Self::Bars
            | Self::StringFuses
            | Self::MainCables
            | Self::MainFuse
            | Self::Breaker
            | Self::Switch
            | Self::MotorPlug
            | Self::Precharge => Group::Cables,
        }
    }
}

impl PartKey {
    /// What of a rig's own things it is.
    pub const fn owned_as(self) -> Option<Owned> {
        match self {
            Self::Charger => Some(Owned::Charger),
            Self::MainFuse | Self::StringFuses => Some(Owned::Fuse),
            Self::Breaker => Some(Owned::Breaker),
            Self::MainCables | Self::Jumpers | Self::StringLeads => Some(Owned::Cables),
            Self::Meter => Some(Owned::Meter),
            _ => None,
        }
    }
}

impl Part {
    /// What all of it costs; nothing where it is at hand, `None` where its price is not told. Batteries cost what the pack says, had
    /// or not: what is paid for is the pack.
    pub fn sum(&self) -> Option<Money> {
        match self.state {
            PartState::Have if self.key != PartKey::Batteries => Some(Money::ZERO),
            _ => self.each.map(|(each, _)| each * f64::from(self.count)),
        }
    }
}

impl OwnPart {
    /// What all of it costs; `None` where its price is not told.
    pub fn sum(&self) -> Option<Money> {
        match self.state {
            PartState::Have => Some(Money::ZERO),
            _ => self.price.map(|each| each * f64::from(self.count)),
        }
    }
}

/// The whole list.
#[derive(Debug, Clone, PartialEq)]
pub struct List {
    /// What this build takes.
    pub parts: Vec<Part>,
    /// The owner's own, as they are kept.
    pub own: Vec<OwnPart>,
}

/// Watts above which a 12 V converter is not sold in one piece for small craft; the next sizes are steps of this. [W]
const CONVERTER_STEP: f64 = 60.0;
/// Room that a converter has above what the devices draw. Common practice, no source.
const CONVERTER_ROOM: f64 = 1.25;
/// A unit above this wants two straps, about 100 lb: common practice, no source. [kg]
const TWO_STRAPS: f64 = 45.0;
/// Packs of so many volts feed controllers with large capacitors. Common practice, no source. [V]
pub(crate) const CAPACITORS: Volts = Volts::of(36.0);
/// A boat's batteries are held against twice their weight: 33 CFR 183.420, ABYC E-10.
const HELD: f64 = 2.0;

impl List {
    /// The list of what a pack needs, with what its owner keeps of it.
    pub fn of(job: &Needs<'_>) -> Self {
        let build = &job.plan.build;
        let mut parts = Maker { job, parts: Vec::new() };
        parts.all();
        for part in &mut parts.parts {
            if let Some(kept) = build.part(part.key) {
                keep_over(part, kept);
            }
        }
        Self { parts: parts.parts, own: build.own.clone() }
    }

    /// What the list comes to, and how many prices are missing in it.
    pub fn total(&self) -> (Money, usize) {
        self.sum_of(|_| true)
    }

    /// What is still to be bought, and how many prices are missing in it.
    pub fn left_to_buy(&self) -> (Money, usize) {
        self.sum_of(|state| state == PartState::ToBuy)
    }

    fn sum_of(&self, counts: impl Fn(PartState) -> bool) -> (Money, usize) {
        let parts = self.parts.iter().map(|p| (p.state, p.sum()));
        let all = parts.chain(self.own.iter().map(|p| (p.state, p.sum())));
        let mut sums = (Money::ZERO, 0);
        for (_, sum) in all.filter(|(state, _)| counts(*state)) {
            match sum {
                Some(money) => sums.0 += money,
                None => sums.1 += 1,
            }
        }
        sums
    }

    /// What a pack takes beside its batteries, item by item: what was typed of it, and by this list what was not. Where
    /// "anything else" is typed it stands for all that is not typed by itself.
    pub fn extras(&self, told: &Extras) -> Extras {
        if told.other.is_some() {
            return *told;
        }
        let of = |group: Group, told: Option<Money>| {
            let parts = self.parts.iter().filter(|p| p.key.group() == group);
            told.or_else(|| sum(parts.filter_map(Part::sum)))
        };
        let blank = |group: Group| match group {
            Group::Batteries => false,
            Group::Cables => told.cables.is_none(),
            Group::Charger => told.charger.is_none(),
            Group::Meter => told.meter.is_none(),
            Group::Converter => told.converter.is_none(),
            Group::Holder => told.holder.is_none(),
        };
        let usual = (self.parts.iter())
            .filter(|p| blank(p.key.group()))
            .filter(|p| matches!(p.each, Some((_, Origin::Typical))))
            .filter_map(Part::sum);
        Extras {
            other: sum(self.own.iter().filter_map(OwnPart::sum)),
            charger: of(Group::Charger, told.charger),
            cables: of(Group::Cables, told.cables),
            converter: of(Group::Converter, told.converter),
            meter: of(Group::Meter, told.meter),
            holder: of(Group::Holder, told.holder),
            assumed: told.assumed + usual.sum::<Money>(),
            ..*told
        }
    }
}

/// The charger that a pack of so many ampere-hours wants where none aboard suits it, and how many of them: one for the pack, or by the
/// house's rule one for each battery.
pub fn chargers(
    rules: &HouseRules,
    rig: &Rig,
    pack: &Pack,
    whole: AmpHours,
) -> Option<(u32, Wanted)> {
    if refill::suits(rig, pack) {
        return None;
    }
    let units = pack.units();
    Some(if rules.charger_each && units > 1 {
        let one = Pack::of(pack.battery.clone(), 1, 1);
        (units, Wanted::of(&one, whole / f64::from(pack.parallel)))
    } else {
        (1, Wanted::of(pack, whole))
    })
}

/// The typical price of the charger, or of the chargers, that a pack wants; nothing where one aboard suits.
pub fn charger(rules: &HouseRules, rig: &Rig, pack: &Pack) -> Option<Money> {
    let (count, wanted) = chargers(rules, rig, pack, crate::verdict::capacity(pack)?)?;
    Some(wanted.typical_price() * f64::from(count))
}

/// Nothing where there is nothing to add up.
fn sum(all: impl Iterator<Item = Money>) -> Option<Money> {
    all.fold(None, |sum, money| Some(sum.map_or(money, |sum| sum + money)))
}

impl Plan {
    /// The plan as its money counts. What every pack takes beside its batteries is what was typed of it, and what was not typed comes
    /// from its list of parts; the one that is aboard has its parts. So what is built, ticked, bought or priced changes every pack
    /// alike. Where lists are not to count, only what was typed does.
    pub fn with_parts_counted(&self) -> Cow<'_, Self> {
        let judge = self.judge().ok().filter(|_| self.build.counted);
        let Some(judge) = judge else { return Cow::Borrowed(self) };
        let mut plan = self.clone();
        for (pack, counted) in std::iter::zip(&self.packs, &mut plan.packs) {
            counted.extras = self.needs_of(pack, &judge);
        }
        Cow::Owned(plan)
    }

    /// What a pack takes beside its batteries with its list of parts counted, whether the plan's lists count or not.
    pub fn needs_of(&self, pack: &Pack, judge: &Judge) -> Extras {
        if pack.aboard {
            return pack.extras;
        }
        self.counted_by(pack, Needs::of(self, pack, judge))
    }

    /// The same where the highest current of its day and its ampere-hours over twenty hours are known already.
    pub fn needs_drawn(&self, pack: &Pack, highest: Amps, capacity: AmpHours) -> Extras {
        self.counted_by(pack, Needs::drawn(self, pack, highest, capacity))
    }

    /// Without a circuit nothing is told of cables: a charger is wanted all the same.
    fn counted_by(&self, pack: &Pack, needs: Result<Needs<'_>, NotBuilt>) -> Extras {
        match needs {
            Ok(needs) => List::of(&needs).extras(&pack.extras),
            Err(NotBuilt::SetAside(_)) => pack.extras,
            Err(_) if pack.extras.other.is_some() || self.rig.owned.contains(&Owned::Charger) => {
                pack.extras
            }
            Err(_) => {
                let told = pack.extras;
                let usual =
                    charger(&self.rules, &self.rig, pack).filter(|_| told.charger.is_none());
                let assumed = told.assumed + usual.unwrap_or(Money::ZERO);
                Extras { charger: told.charger.or(usual), assumed, ..told }
            }
        }
    }
}

/// A generated part with what is kept of it. A tick holds while the part is of the size that it was ticked at.
fn keep_over(part: &mut Part, kept: &PartKept) {
    let same =
        kept.of.is_empty() || kept.of == part.size.id(part.key) || kept.state == PartState::ToBuy;
    if same {
        if !(part.owned && kept.state == PartState::ToBuy) {
            part.state = kept.state;
        }
    } else {
        part.was = Some(kept.of.clone());
    }
    // The price of the batteries is the pack's own, in one place.
    if let Some(price) = kept.price.filter(|_| part.key != PartKey::Batteries) {
        part.each = Some((price, Origin::SetByYou));
    }
    part.note.clone_from(&kept.note);
}

impl Size {
    /// What it is called where a tick is kept: the same for parts that do the same.
    pub fn id(&self, key: PartKey) -> String {
        let amps = |a: &Amps| format!("{} A", a.value());
        match self {
            Self::Cable { run, .. } => format!("AWG {}", run.gauge.awg),
            Self::Fuse(fuse, _) => format!("{} {}", amps(&fuse.rating), fuse.kind.key()),
            // Of a switch and a plug a stronger one does, but that is for its owner to say.
            Self::Amps(a) | Self::Breaks(a, _) => amps(a),
            Self::Charger(wanted) => format!("{} V", wanted.volts.value()),
            Self::Watts(w) => format!("{} W", w.value()),
            Self::Plain | Self::Unit | Self::Ways(_) | Self::Openings(_) | Self::Holds(_) => {
                key.key().to_owned()
            }
        }
    }
}

struct Maker<'a> {
    job: &'a Needs<'a>,
    parts: Vec<Part>,
}

impl Maker<'_> {
    fn put(&mut self, key: PartKey, count: u32, size: Size, each: Money) {
        self.priced(key, count, size, Some((each, Origin::Typical)));
    }

    fn priced(&mut self, key: PartKey, count: u32, size: Size, each: Option<(Money, Origin)>) {
        if count > 0 {
            let owned = key.owned_as().is_some_and(|o| self.job.plan.rig.owned.contains(&o));
            let state = if owned { PartState::Have } else { PartState::ToBuy };
            let (was, note) = (None, String::new());
            self.parts.push(Part { key, count, size, each, state, owned, was, note });
        }
    }

    fn all(&mut self) {
        let pack = self.job.pack;
        let price = pack.battery.price.map(|price| (price, Origin::Label));
        self.priced(PartKey::Batteries, pack.units(), Size::Unit, price);
        self.circuit();
        self.charging();
        self.devices();
        self.holding();
    }

    fn cable(&mut self, key: PartKey, run: Option<Run>) {
        let Some(run) = run else { return };
        let lug = Terminal::of(self.job.pack);
        self.put(key, run.count, Size::Cable { run, lug }, prices::cable(&run));
    }

    fn fuse(&mut self, key: PartKey, count: u32, fuse: Option<Fuse>) {
        let Some(fuse) = fuse else { return };
        let full = self.job.pack.full_charge_voltage();
        self.put(key, count, Size::Fuse(fuse, full), prices::fuse(fuse.kind));
    }

    fn circuit(&mut self) {
        let (pack, boat) = (self.job.pack, self.job.plan.rig.craft.kind.is_boat());
        let most = self.job.asked.most;
        let full = pack.full_charge_voltage();
        let wiring = &self.job.wiring;
        self.cable(PartKey::Jumpers, wiring.jumper);
        self.cable(PartKey::StringLeads, wiring.string);
        if pack.parallel > 1 {
            self.put(PartKey::Bars, 2, Size::Amps(most), piece::BAR);
            let fuse = wiring.string.and_then(|run| run.fuse);
            self.fuse(PartKey::StringFuses, pack.parallel, fuse);
        }
        self.cable(PartKey::MainCables, Some(wiring.lead));
        self.fuse(PartKey::MainFuse, 1, wiring.lead.fuse);
        if let Some(amps) = wiring.breaker {
            self.put(PartKey::Breaker, 1, Size::Breaks(amps, full), prices::breaker(amps));
        }
        let rated = crate::wiring::cable::fuse_for(most).unwrap_or(most);
        self.put(PartKey::Switch, 1, Size::Breaks(rated, full), prices::switch(rated));
        if boat {
            self.put(PartKey::MotorPlug, 1, Size::Breaks(rated, full), prices::plug(rated));
        }
        if pack.voltage() >= CAPACITORS {
            self.put(PartKey::Precharge, 1, Size::Plain, piece::PRECHARGE);
        }
    }

    fn charging(&mut self) {
        let Needs { plan, pack, .. } = *self.job;
        let aboard = self.job.charger_place() == ChargerPlace::Aboard;
        let chargers = chargers(&plan.rules, &plan.rig, pack, self.job.capacity);
        if let Some((count, wanted)) = chargers {
            self.put(PartKey::Charger, count, Size::Charger(wanted), wanted.typical_price());
        }
        let run = self.job.wiring.charger;
        if aboard {
            self.cable(PartKey::ChargerLeads, run);
            if plan.rig.chargers.is_empty() {
                self.put(PartKey::Inlet, 1, Size::Plain, piece::INLET);
            }
        } else {
            let amps = run.map_or(Amps::of(30.0), |run| run.amps);
            self.put(PartKey::ChargePlug, 1, Size::Amps(amps), prices::plug(amps));
        }
        // Who tells its charge without a meter on it has one inside.
        if pack.battery.monitor != Some(true) {
            let price = if pack.battery.chemistry.is_lead() && pack.voltage().value() < 15.0 {
                piece::VOLTMETER
            } else {
                piece::METER
            };
            self.put(PartKey::Meter, 1, Size::Amps(self.job.asked.most), price);
        }
    }

    fn devices(&mut self) {
        let plan = self.job.plan;
        let on_pack = plan.day.accessories.iter().filter(|a| !a.on_house);
        let (ways, watts) = on_pack.fold((0, Watts::ZERO), |(n, w), a| (n + 1, w + a.power));
        if ways == 0 {
            return;
        }
        if self.job.needs_converter() {
            let steps = (watts.value() * CONVERTER_ROOM / CONVERTER_STEP).ceil().max(1.0);
            let size = Watts::of(steps * CONVERTER_STEP);
            self.put(PartKey::Converter, 1, Size::Watts(size), prices::converter(size));
        }
        self.cable(PartKey::DeviceLeads, self.job.wiring.devices);
        self.put(PartKey::FuseBlock, 1, Size::Ways(ways), piece::FUSE_BLOCK);
    }

    fn holding(&mut self) {
        let Needs { plan, pack, .. } = *self.job;
        let unit = pack.battery.mass;
        let straps = if unit.is_some_and(|m| m.value() > TWO_STRAPS) { 2 } else { 1 };
        let size = match unit {
            Some(mass) if plan.rig.craft.kind.is_boat() => Size::Holds(mass * HELD),
            _ => Size::Plain,
        };
        self.put(PartKey::HoldDowns, straps * pack.units(), size, piece::STRAP);
        let bays = self.job.bays_used();
        self.put(PartKey::Pad, bays.max(1), Size::Plain, piece::PAD);
        if self.job.takes_lead_out() {
            self.put(PartKey::TrayPaint, 1, Size::Plain, piece::PAINT);
        }
        if self.job.needs_vent()
            && let Some(air) = air::air(pack)
        {
            self.put(PartKey::Vent, 1, Size::Openings(air.openings), piece::VENT);
        }
        self.put(PartKey::Covers, pack.units(), Size::Plain, piece::COVERS);
    }
}
