//! One trip under way: what is heard of it, second by second or by hand, and where it is.

use super::doubt::{Basis, Doubt, KnownBy};
use super::joined::{Clue, Gauge};
use super::pace::Pace;
use super::place::{Path, Place, Track};
use super::ways::{Gear, Ways};
use super::{Begins, Heard, Live, Watch};
use crate::pack::{Pack, Taught};
use crate::plan::{Plan, leads_back};
use crate::units::{Amps, Celsius, Hours, Metres, MetresPerSecond, Volts, Watts};
use crate::verdict::devices_draw;
use std::collections::VecDeque;

/// The way home.
#[derive(Debug, Clone, PartialEq, Default)]
pub enum WayBack {
    /// Straight to where it began.
    #[default]
    Straight,
    /// Back along the way it came.
    Track,
    /// Along a way that was drawn, to its end.
    Route(Path),
}

/// What a trip begins with.
#[derive(Debug, Clone, PartialEq)]
pub struct Setup {
    /// Rig, day and rules; its first pack is the one under way.
    pub plan: Plan,
    /// How full it was.
    pub begins: Begins,
    /// How warm the battery is. [°C]
    pub warm: Celsius,
    /// The launch, where it is known before the first position is heard.
    pub launch: Option<Place>,
    /// The way home.
    pub back: WayBack,
    /// Whether a monitor is listened to.
    pub sensed: bool,
}

/// Why there is nothing to count.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NoTrip {
    /// Its plan has no pack, or one whose label tells no capacity.
    #[error("there is no pack whose label tells its amp-hours")]
    NoPack,
    /// A start that no battery has.
    #[error("a charge lies between 1 and 100 %")]
    NoCharge,
}

/// What a monitor tells at a moment; whatever it does not tell is `None`.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Told {
    /// Volts and amps of the pack.
    pub pack: Heard,
    /// The meter's own charge, 0 to 1.
    pub meter: Option<f64>,
    /// How warm the battery is. [°C]
    pub warm: Option<Celsius>,
    /// Speed over ground. [m/s]
    pub speed: Option<MetresPerSecond>,
    /// Where it is.
    pub place: Option<Place>,
    /// Volts of each unit in series, where it tells them. [V]
    pub units: Vec<Volts>,
}

/// What somebody reads off.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ByHand {
    /// [V]
    pub volts: Option<Volts>,
    /// Positive when it is discharged. [A]
    pub current: Option<Amps>,
    /// The meter's charge, 0 to 1.
    pub meter: Option<f64>,
    /// What kind of meter it is; as said before where it is not said.
    pub gauge: Option<Gauge>,
    /// How far it is home. [m]
    pub far: Option<Metres>,
}

/// Volts over or under this share of a pack's nominal are of another system. Lithium stands no higher than 1.2 of it on its charger,
/// and lead no higher than 1.3; one that has shut off gives next to none.
const OTHER_SYSTEM: (f64, f64) = (0.30, 1.35);
/// Fewer volts than this are of a pack that has shut off. [V]
const SHUT_OFF: f64 = 0.5;

/// Whether volts are those of another system than a pack of so many nominal volts: whoever read them so has to say it twice, and then
/// they are shown, and nothing of the charge is taken from them.
pub fn is_of_another_system(volts: Volts, nominal: Volts) -> bool {
    let share = volts / nominal;
    volts.value() > SHUT_OFF && !(OTHER_SYSTEM.0..=OTHER_SYSTEM.1).contains(&share)
}

/// How it is known how far it is home.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FarBy {
    /// By where it is.
    Position,
    /// By speed and time.
    Speed,
    /// By what somebody typed, and speed and time since.
    Hand,
    /// By the plan.
    Plan,
}

/// How a figure on the screen is known.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum KnownAs {
    /// A monitor tells it.
    Measured,
    /// Somebody read and typed it.
    Typed,
    /// Nobody did: by the plan, or by what the battery's law makes of it.
    Assumed,
}

/// Pack volts below this share of the nominal are those of an opened switch.
const OPENED: f64 = 0.6;
/// Positions and speeds are taken together over so long. [s]
const TOGETHER: f64 = 30.0;
/// Slower than this it stands: a receiver's error moves it as fast. [m/s]
const STANDS: f64 = 0.3;
/// How fast it goes out is looked at over so many of these.
const LATELY: usize = 6;
/// Held for so long it is full: the volts of its charge while it takes hardly anything, lithium and lead, as a share of its
/// amp-hours. [s], [1/h] Common practice, no source.
const FULL_AFTER: f64 = 600.0;
const TAKES: (f64, f64) = (0.04, 0.02);
/// Less far than the farthest by this share, and so many meters: on its way home.
const NEARER: (f64, f64) = (0.2, 200.0);
/// What a cart took is believed against what was expected as if these miles had gone before as expected. [m]
const EXPECTED_FIRST: f64 = 3200.0;
/// Units are apart when one is lower than the middle of them by this share. Common practice, no source: 0.3 V of 12.
const APART: f64 = 0.025;

/// A monitor's own percent is held against the count so often. [h]
const EVERY: f64 = 1.0 / 60.0;
/// Less drawn than this share of its ampere-hours teaches nothing. Estimate.
const TEACHES: f64 = 0.2;

/// One trip under way.
#[derive(Debug, Clone)]
pub struct Trip {
    pub(super) setup: Setup,
    pub(super) pack: Pack,
    pub(super) live: Live,
    pub(super) ways: Ways,
    pub(super) pace: Pace,
    pub(super) watch: Watch,
    track: Track,
    launch: Option<Place>,
    /// Since it began. [h]
    at: f64,
    /// When anything, and when amps, were heard last. [h]
    heard_at: Option<f64>,
    amps_at: Option<f64>,
    /// Since when its charge is counted, and what of that was silent. [h]
    counted_from: f64,
    silent: f64,
    full: bool,
    full_for: f64,
    pub(super) last: Told,
    /// Distance home where no position tells it. [m]
    far: f64,
    far_by: FarBy,
    farthest: f64,
    turned: bool,
    /// Amps typed by hand, and the stretch of the plan in which they were.
    by_hand: Option<(Amps, usize)>,
    /// Means of the last half minute: seconds, metres by speed, watt-hours, where it began.
    since: Since,
    /// How far it was home at each half minute of late. [h], [m]
    lately: VecDeque<(f64, f64)>,
    /// What the cart took, and what was expected of the way. [Wh]
    took: (f64, f64),
    /// Which unit falls behind, by its place, and by how much. [V]
    pub(super) behind: Option<(usize, f64)>,
    /// What readings are joined with, two figures that clash, and those of which somebody said that they are wrong.
    pub(super) basis: Option<Basis>,
    pub(super) doubt: Option<Doubt>,
    pub(super) disbelieved: Vec<Clue>,
    pub(super) known_by: KnownBy,
    pub(super) gauge: Option<Gauge>,
    /// When its monitor's own percent was held against the count last. [h]
    percent_at: f64,
}

#[derive(Debug, Clone, Copy, Default)]
struct Since {
    seconds: f64,
    metres: f64,
    told: f64,
    energy: f64,
    /// Where it was first, and so many seconds into it.
    from: Option<(Place, f64)>,
}

impl Trip {
    /// A trip that begins now.
    ///
    /// # Errors
    /// [`NoTrip`].
    pub fn begin(setup: Setup) -> Result<Self, NoTrip> {
        let pack = setup.plan.packs.first().ok_or(NoTrip::NoPack)?.clone();
        if let Begins::About(share) = setup.begins
            && !(0.01..=1.0).contains(&share)
        {
            return Err(NoTrip::NoCharge);
        }
        if let Begins::Logged { charge, unsure } = setup.begins
            && !((0.0..=1.0).contains(&charge) && (0.0..=1.0).contains(&unsure))
        {
            return Err(NoTrip::NoCharge);
        }
        let live = Live::of(&pack, setup.begins, setup.warm).ok_or(NoTrip::NoPack)?;
        let live = if setup.sensed { live } else { live.by_plan() };
        let ways = Ways::of(&setup.plan);
        let pace = Pace::expecting(ways.push());
        let launch = setup.launch;
        let full = setup.begins == Begins::Full;
        let far_by = FarBy::Plan;
        Ok(Self {
            pack,
            live,
            ways,
            pace,
            watch: Watch::default(),
            track: Track::default(),
            launch,
            at: 0.0,
            heard_at: None,
            amps_at: None,
            counted_from: 0.0,
            silent: 0.0,
            full,
            full_for: 0.0,
            last: Told::default(),
            far: 0.0,
            far_by,
            farthest: 0.0,
            turned: false,
            by_hand: None,
            since: Since::default(),
            lately: VecDeque::new(),
            took: (0.0, 0.0),
            behind: None,
            basis: None,
            doubt: None,
            disbelieved: Vec::new(),
            known_by: setup.begins.into(),
            gauge: None,
            percent_at: 0.0,
            setup,
        })
    }

    /// So much later this was heard; nothing of it where it was silent.
    ///
    /// A clock that went back, or stood for long, moves nothing: see [`Live::heard`].
    pub fn hear(&mut self, later: Hours, told: &Told) {
        let hours = later.value().max(0.0);
        self.at += hours;
        let stretch = self.ways.stretch_at(self.at, self.turned);
        if told.pack.current.is_none() && self.is_unheard() {
            // Nothing has ever told what flows, or not for long: by the plan, or by what was typed.
            let typed = self.by_hand.filter(|(_, of)| *of == stretch).map(|(amps, _)| amps);
            self.live.bridge(typed.unwrap_or_else(|| self.ways.draws_at(stretch)));
        }
        self.live.heard(later, told.pack);
        if told.pack.current.is_none() {
            self.silent += hours;
        } else {
            self.amps_at = Some(self.at);
        }
        if *told != Told::default() {
            self.heard_at = Some(self.at);
        }
        self.remember(told);
        self.fills(later, told.pack);
        if let Some(percent) = told.meter
            && self.at - self.percent_at >= EVERY
        {
            self.percent_at = self.at;
            self.doubts_monitor(percent);
        }
        self.goes(hours, told, stretch);
        self.stray(told);
    }

    /// No monitor has told amps for so long that the plan knows better.
    fn is_unheard(&self) -> bool {
        !self.setup.sensed || self.amps_at.is_none_or(|at| self.at - at > 600.0 / 3600.0)
    }

    /// What was told stays until another figure comes.
    fn remember(&mut self, told: &Told) {
        let last = &mut self.last;
        last.pack.volts = told.pack.volts.or(last.pack.volts);
        last.pack.current = told.pack.current.or(last.pack.current);
        last.meter = told.meter.or(last.meter);
        last.warm = told.warm.or(last.warm);
        last.speed = told.speed.or(last.speed);
        last.place = told.place.or(last.place);
        if !told.units.is_empty() {
            last.units.clone_from(&told.units);
        }
    }

    /// Full is when its charger holds its volts and it takes hardly anything, for ten minutes together: a cloud over a panel takes
    /// the volts down, too.
    fn fills(&mut self, later: Hours, heard: Heard) {
        let (Some(volts), Some(amps)) = (heard.volts, heard.current) else { return };
        let facts = self.pack.battery.chemistry.facts();
        let cells = f64::from(self.pack.battery.cells() * self.pack.series);
        let takes = if facts.lead { TAKES.1 } else { TAKES.0 };
        let most = self.pack.capacity().map_or(0.0, |ah| ah.value() * takes);
        let holds = volts.value() / cells >= facts.charge_cell.0;
        let hardly = (-most..=0.0).contains(&amps.value());
        self.full_for = if holds && hardly { self.full_for + later.value() * 3600.0 } else { 0.0 };
        if self.full_for >= FULL_AFTER {
            self.full_for = 0.0;
            self.live.is_full();
            (self.basis, self.doubt, self.known_by) = (None, None, KnownBy::Full);
            (self.counted_from, self.silent, self.full) = (self.at, 0.0, true);
        }
    }

    /// Where it is by now.
    fn goes(&mut self, hours: f64, told: &Told, stretch: usize) {
        let seconds = hours * 3600.0;
        if let Some(place) = told.place {
            self.launch.get_or_insert(place);
            self.track.at(place);
        }
        let planned = self.ways.speed_at(stretch);
        let speed = told.speed.or(self.last.speed).map(MetresPerSecond::value);
        let moved = speed.unwrap_or(planned).max(0.0) * seconds;
        // Where only the plan says which way it goes, it goes home when that does.
        let homeward = self.turned || speed.is_none() && self.ways.leads_home(stretch);
        let sign = if homeward { -1.0 } else { 1.0 };
        self.far = match (self.far_by, speed) {
            // By the plan: as far out as its way home is long, when the way out is done.
            (FarBy::Plan, None) if !self.turned => self.ways.out_at(self.at),
            (FarBy::Plan, Some(_)) => {
                self.far_by = FarBy::Speed;
                self.far + sign * moved
            }
            _ => self.far + sign * moved,
        }
        .max(0.0);
        let far = self.distance().0.value();
        self.farthest = self.farthest.max(far);
        if far < self.farthest * (1.0 - NEARER.0) - NEARER.1 {
            self.turned = true;
        }
        let power = self.live.draws().value() * self.volts().value();
        let since = &mut self.since;
        since.seconds += seconds;
        if told.speed.is_some() {
            since.metres += moved;
            since.told += seconds;
        }
        since.energy += power * hours;
        let after = since.seconds;
        since.from = since.from.or(told.place.map(|place| (place, after)));
        if since.seconds >= TOGETHER {
            let since = std::mem::take(&mut self.since);
            self.since.from = told.place.map(|place| (place, 0.0));
            self.learn(since, told.place);
            self.lately.push_back((self.at, far));
            if self.lately.len() > LATELY {
                self.lately.pop_front();
            }
        }
    }

    /// What half a minute tells of the pace.
    fn learn(&mut self, since: Since, now: Option<Place>) {
        let Since { seconds, metres, told, energy, from } = since;
        let beside = devices_draw(&self.setup.plan.rig, &self.setup.plan.day);
        let drives = Watts::of(energy * 3600.0 / seconds) - beside;
        let moved = from.zip(now).map(|((a, after), b)| (a.to(b).value(), seconds - after));
        let over = match moved {
            // What was seen of it only at its end is no mean of it.
            Some((_, seen)) if seen < 0.6 * seconds => return,
            Some((moved, seen)) => moved / seen,
            None if told > 0.5 * seconds => metres / told,
            None => return,
        };
        if !self.setup.plan.rig.craft.kind.is_boat() {
            let expected = self.ways.energy(MetresPerSecond::of(over), Hours::of(seconds / 3600.0));
            self.took.0 += energy;
            self.took.1 += expected.value();
            return;
        }
        // What lies about a place has no course, and what drifts no power that moves it.
        if over < STANDS {
            return;
        }
        let cosine = match (from, now, self.launch) {
            (Some((from, _)), Some(now), Some(launch)) if now.to(launch).value() > 100.0 => {
                (from.bearing(now) - now.bearing(launch)).cos()
            }
            _ if self.turned => 1.0,
            _ => -1.0,
        };
        let still = self.ways.still(drives);
        self.pace.seen(MetresPerSecond::of(over), still, cosine, seconds);
    }

    /// A unit whose volts fall behind the others'.
    fn stray(&mut self, told: &Told) {
        if told.units.len() < 2 {
            return;
        }
        let mut sorted: Vec<f64> = told.units.iter().map(|v| v.value()).collect();
        sorted.sort_by(f64::total_cmp);
        let middle = sorted[sorted.len() / 2];
        let below = |v: &Volts| middle - v.value();
        let lowest = told.units.iter().enumerate().max_by(|a, b| below(a.1).total_cmp(&below(b.1)));
        self.behind =
            lowest.map(|(n, volts)| (n, below(volts))).filter(|(_, below)| *below > APART * middle);
    }

    /// What somebody reads off now.
    pub fn read(&mut self, hand: &ByHand) {
        self.last.meter = hand.meter.or(self.last.meter);
        if let Some(amps) = hand.current {
            self.by_hand = Some((amps, self.ways.stretch_at(self.at, self.turned)));
            self.last.pack.current = Some(amps);
            self.live.bridge(amps);
        }
        if let Some(volts) = hand.volts {
            self.last.pack.volts = Some(volts);
        }
        self.joins(hand);
        if let Some(far) = hand.far {
            (self.far, self.far_by) = (far.value(), FarBy::Hand);
            self.farthest = self.farthest.max(self.far);
        }
        self.heard_at = Some(self.at);
    }

    /// Another way home.
    pub fn way_back(&mut self, back: WayBack) {
        self.setup.back = back;
        self.lately.clear();
    }

    /// So much time of which nothing at all is known: nothing is counted in it. [h]
    pub fn passes(&mut self, hours: Hours) {
        self.at += hours.value();
        self.silent += hours.value();
    }

    /// On the way home from now on, or not after all.
    pub fn turn(&mut self, home: bool) {
        self.turned = home;
        if !home {
            self.farthest = self.distance().0.value();
        }
    }

    /// How far it is home, by its way back. [m]
    pub fn distance(&self) -> (Metres, FarBy) {
        let by_place = || {
            let (here, launch) = (self.last.place?, self.launch?);
            Some(match &self.setup.back {
                WayBack::Straight => here.to(launch),
                WayBack::Track => self.track.back(here)?,
                WayBack::Route(path) => path.left(here)?.0,
            })
        };
        by_place().map_or((Metres::of(self.far), self.far_by), |far| (far, FarBy::Position))
    }

    /// The parts of the way home with their grades, for carts: of a drawn way, else all of it as the plan's way home is.
    pub(super) fn graded(&self) -> Vec<(Metres, f64)> {
        if let (WayBack::Route(path), Some(here)) = (&self.setup.back, self.last.place)
            && let Some((_, parts)) = path.left(here)
        {
            return parts;
        }
        let grade = leads_back(&self.setup.plan.rig, &self.setup.plan.day)
            .map_or(0.0, |home| self.setup.plan.day.stretches[home.end - 1].grade);
        vec![(self.distance().0, grade)]
    }

    /// How fast it goes away from home of late, below zero nearer to it. [m/s]
    pub(super) fn outward(&self) -> MetresPerSecond {
        let (first, last) = (self.lately.front(), self.lately.back());
        let lately = first.zip(last).filter(|(a, b)| b.0 > a.0);
        let by = lately.map(|(a, b)| (b.1 - a.1) / (b.0 - a.0) / 3600.0);
        let stretch = self.ways.stretch_at(self.at, self.turned);
        MetresPerSecond::of(by.unwrap_or_else(|| self.ways.speed_at(stretch)))
    }

    /// What a cart takes over what was expected. [1]
    pub(super) fn thirst(&self) -> f64 {
        let first = self.ways.energy_of(Metres::of(EXPECTED_FIRST)).value();
        let (took, expected) = self.took;
        if first + expected > 0.0 { (took.max(0.0) + first) / (first + expected) } else { 1.0 }
    }

    /// Volts of the pack: heard last, else to be expected. [V]
    pub fn volts(&self) -> Volts {
        let heard = self.last.pack.volts;
        heard.or_else(|| self.live.volts_at(self.live.draws())).unwrap_or(self.pack.voltage())
    }

    /// How what is drawn now is known.
    pub fn draw_known(&self) -> KnownAs {
        let stretch = self.ways.stretch_at(self.at, self.turned);
        if !self.is_unheard() {
            KnownAs::Measured
        } else if self.by_hand.is_some_and(|(_, of)| of == stretch) {
            KnownAs::Typed
        } else {
            KnownAs::Assumed
        }
    }

    /// How the volts of the pack are known.
    pub const fn volts_known(&self) -> KnownAs {
        match (self.last.pack.volts, self.setup.sensed) {
            (None, _) => KnownAs::Assumed,
            (Some(_), true) => KnownAs::Measured,
            (Some(_), false) => KnownAs::Typed,
        }
    }

    /// Whether its switch has opened.
    pub fn has_shut_off(&self) -> bool {
        self.last.pack.volts.is_some_and(|v| v < self.pack.voltage() * OPENED)
    }

    /// Since it began. [h]
    pub const fn at(&self) -> Hours {
        Hours::of(self.at)
    }

    /// On its way home.
    pub const fn is_homeward(&self) -> bool {
        self.turned
    }

    /// Since when nothing is heard; `None` where no monitor is listened to, and before it was heard first. [h]
    pub fn silent_for(&self) -> Option<Hours> {
        let heard = self.heard_at.filter(|_| self.setup.sensed)?;
        Some(Hours::of((self.at - heard).max(0.0)))
    }

    /// Since when it is counted, what of that was silent, and whether it was full then. [h]
    pub const fn counted(&self) -> (Hours, Hours, bool) {
        (Hours::of(self.at - self.counted_from), Hours::of(self.silent), self.full)
    }

    /// What was told last.
    pub const fn told(&self) -> &Told {
        &self.last
    }

    /// The pack.
    pub const fn pack(&self) -> &Pack {
        &self.pack
    }

    /// What it began with.
    pub const fn setup(&self) -> &Setup {
        &self.setup
    }

    /// How far it went in all by its positions. [m]
    pub const fn gone(&self) -> Metres {
        self.track.gone()
    }

    /// What it has taught of a lead pack's units: of one that began full, or became it, and gave a fifth of its charge by a monitor.
    pub fn teaches(&self) -> Option<Taught> {
        let (drawn, _) = self.live.drawn();
        let rated = crate::verdict::told_capacity(&self.pack)?;
        let enough = self.full && self.setup.sensed && drawn > rated * TEACHES;
        let taught = self.live.teaches(self.pack.health.capacity_share);
        taught.filter(|t| enough && t.is_sound())
    }

    /// Its count, for whoever tells it again.
    pub const fn count(&self) -> &Live {
        &self.live
    }

    /// Warnings that stand, and what was said so far.
    pub const fn warnings(&self) -> &Watch {
        &self.watch
    }

    /// Speed over ground: heard last, else where none is, by the plan. [m/s]
    pub fn speed(&self) -> MetresPerSecond {
        let planned = || self.ways.speed_at(self.ways.stretch_at(self.at, self.turned));
        self.last.speed.unwrap_or_else(|| MetresPerSecond::of(planned()))
    }

    /// Where it began, by the first position that was heard.
    pub const fn launch(&self) -> Option<Place> {
        self.launch
    }

    /// How fast wind and current carry it towards home today, below zero away from it. [m/s]
    pub fn push(&self) -> MetresPerSecond {
        self.pace.push()
    }

    /// What a cart takes today over what was expected. [1]
    pub fn takes(&self) -> f64 {
        self.thirst()
    }

    /// The unit that falls behind the others, counted from 0, and by how much. [V]
    pub const fn behind(&self) -> Option<(usize, f64)> {
        self.behind
    }

    /// Its ways to drive.
    pub fn gears(&self) -> impl Iterator<Item = Gear> + '_ {
        self.ways.all().map(|(gear, ..)| gear)
    }
}
