//! Do they go in: the units of a pack set out in the battery bays, to the millimetre.
//!
//! The units turned as room is best used, several bays at once; never upside down. A unit may lie on a side only where it
//! is sealed and the bay allows it, and stand on another only where its label and the bay allow that, in whole layers:
//! each as high as its highest unit, with room above it.

mod search;

use super::Pack;
use crate::propulsion::hull::WATER;
use crate::rig::{Bay, Rig};
use crate::shelf::{Battery, Chemistry, Size};
use crate::units::system::{Measure, System};
use crate::units::{Kilograms, Metres, Millimetres};
use search::{Placed, Search};
use std::collections::HashMap;
use std::sync::{LazyLock, Mutex, PoisonError};

/// Room left free around every unit, for air and for fingers. Common practice, no source. [mm]
pub const AIR: f64 = 5.0;
/// Room left free above, for terminal covers, cable lugs and the strap. Common practice, no source. [mm]
pub const ABOVE: f64 = 20.0;

/// Which way round a unit stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Way {
    /// Upright, its length along the craft.
    Along,
    /// Upright, its length across the craft.
    Across,
    /// On its long side.
    OnLongSide,
    /// On its long side, turned across.
    OnLongSideAcross,
    /// On its short side.
    OnShortSide,
    /// On its short side, turned across.
    OnShortSideAcross,
}

impl Way {
    /// Lids up: for what may spill, and for any battery whose maker says so.
    const UPRIGHT: [Self; 2] = [Self::Along, Self::Across];
    /// Every way of lying square in a bay.
    const ALL: [Self; 6] = [
        Self::Along,
        Self::Across,
        Self::OnLongSide,
        Self::OnLongSideAcross,
        Self::OnShortSide,
        Self::OnShortSideAcross,
    ];

    /// As it is said.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Along => "upright, lengthwise",
            Self::Across => "upright, crosswise",
            Self::OnLongSide => "on its long side, lengthwise",
            Self::OnLongSideAcross => "on its long side, crosswise",
            Self::OnShortSide => "on its short side, lengthwise",
            Self::OnShortSideAcross => "on its short side, crosswise",
        }
    }

    /// Extent along the craft, across it and upwards. [mm]
    fn extent(self, size: &Size) -> [f64; 3] {
        let (l, w, h) = (size.length.value(), size.width.value(), size.height.value());
        match self {
            Self::Along => [l, w, h],
            Self::Across => [w, l, h],
            Self::OnLongSide => [l, h, w],
            Self::OnLongSideAcross => [h, l, w],
            Self::OnShortSide => [h, w, l],
            Self::OnShortSideAcross => [w, h, l],
        }
    }
}

/// Where a unit stands in its bay: its corner nearest the bow and the left side, and its extent. [mm]
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spot {
    /// Which way round.
    pub way: Way,
    /// From the bay's fore end.
    pub along: f64,
    /// From the bay's left side.
    pub across: f64,
    /// Extent along, across and upwards.
    pub extent: [f64; 3],
    /// From the bay's floor to its own: units in higher layers stand on others.
    pub up: f64,
}

/// Why no more go in.
#[derive(Debug, Clone, PartialEq)]
pub enum Refusal {
    /// Flooded batteries gas: never in a closed-off bay.
    Gasses,
    /// Short of room, by so much, for so many units.
    Short {
        /// Which way: "long", "wide" or "high".
        way: &'static str,
        /// How many would have to go in.
        units: u32,
        /// What they need, clearance included. [mm]
        needs: f64,
        /// What the bay has. [mm]
        has: f64,
        /// Whether they could lie on a side but for the bay.
        upright: bool,
    },
    /// Heavier than the bay carries.
    TooHeavy {
        /// So many units.
        units: u32,
        /// What they weigh.
        mass: Kilograms,
        /// What the bay carries.
        limit: Kilograms,
    },
}

impl Refusal {
    /// The refusal as the end of a sentence, with its figures.
    pub fn sentence(&self, units: System) -> String {
        let side = |mm: f64| units.say(Measure::Side, mm, usize::from(units != System::Metric));
        let mass = |kg: &Kilograms| units.say(Measure::Mass, kg.value(), 0);
        match self {
            Self::Gasses => "flooded batteries gas and never go in a closed-off bay".to_owned(),
            Self::Short { way, units: count, needs, has, upright } => {
                let what =
                    if *count == 1 { "one needs".to_owned() } else { format!("{count} need") };
                let upright = if *upright { ", and it must stand upright" } else { "" };
                format!(
                    "{what} {} with clearance, the bay is {} {way}: {} short{upright}",
                    side(*needs),
                    side(*has),
                    side((needs - has).ceil())
                )
            }
            Self::TooHeavy { units: count, mass: weighs, limit } => {
                format!("{count} weigh {}, the bay carries {}", mass(weighs), mass(limit))
            }
        }
    }
}

/// What a bay takes of one unit.
#[derive(Debug, Clone, PartialEq)]
pub struct Stowed {
    /// Where each stands; as many as were wanted, or as many as go in.
    pub spots: Vec<Spot>,
    /// Most that go in.
    pub most: u32,
    /// Why not all that were wanted go in.
    pub refusal: Option<Refusal>,
    /// Whether no other way of setting them out takes more: every one was searched, or there is no room for more.
    pub exact: bool,
}

/// As many units as a bay's room takes, and the ways round that were looked at; by weight only so many may.
struct Laid {
    spots: Vec<Spot>,
    ways: &'static [Way],
    by_weight: u32,
    exact: bool,
}

impl Laid {
    /// `None` for flooded ones in a closed-off bay.
    fn of(battery: &Battery, size: &Size, bay: &Bay) -> Option<Self> {
        let flooded = battery.chemistry == Chemistry::Flooded;
        if flooded && bay.sealed {
            return None;
        }
        let upright = flooded || bay.upright_only;
        let ways: &[Way] = if upright { &Way::UPRIGHT } else { &Way::ALL };
        // Flooded ones are topped up with water: nothing stands on them.
        let layers = if battery.stackable() && !flooded { bay.layers } else { 1 };
        let (spots, exact) = stacked(ways, size, bay, layers);
        let by_weight = match (bay.mass_limit, battery.mass) {
            (Some(limit), Some(each)) => (limit / each + 1e-9).floor() as u32,
            _ => u32::MAX,
        };
        Some(Self { spots, ways, by_weight, exact })
    }

    fn most(&self) -> u32 {
        (self.spots.len() as u32).min(self.by_weight)
    }
}

/// Sets out `wanted` units in a bay. `None` when the unit's dimensions are not known.
pub fn in_bay(battery: &Battery, bay: &Bay, wanted: u32) -> Option<Stowed> {
    let size = battery.size?;
    let Some(laid) = Laid::of(battery, &size, bay) else {
        let refusal = Some(Refusal::Gasses);
        return Some(Stowed { spots: Vec::new(), most: 0, refusal, exact: true });
    };
    let (most, by_room) = (laid.most(), laid.spots.len() as u32);
    let refusal = (most < wanted).then(|| {
        if laid.by_weight < by_room.min(wanted) {
            let units = most + 1;
            let each = battery.mass.unwrap_or(Kilograms::ZERO);
            let limit = bay.mass_limit.unwrap_or(Kilograms::ZERO);
            Refusal::TooHeavy { units, mass: each * f64::from(units), limit }
        } else {
            let may_lie = bay.upright_only && battery.chemistry != Chemistry::Flooded;
            let mut ups: Vec<f64> = laid.spots.iter().map(|spot| spot.up).collect();
            ups.dedup();
            let layers = (ups.len() as u32).max(1);
            let layer = Bay { height: bay.height / f64::from(layers), ..bay.clone() };
            let short = shortest(&size, &layer, laid.ways, (by_room + 1, layers), may_lie);
            whole_height(short, layers)
        }
    });
    let exact = laid.exact || most >= wanted;
    let mut spots = laid.spots;
    spots.truncate(wanted.min(most) as usize);
    Some(Stowed { spots, most, refusal, exact })
}

/// How many of a unit all bays of a rig take together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Room {
    /// So many.
    pub most: u32,
    /// Flooded ones, and every bay is closed off.
    pub gasses: bool,
}

/// The room that a rig has for a unit; `None` when the rig has no bays or the unit's dimensions are not known. A pack
/// [goes in](stow) where it has no more units than that.
pub fn room(rig: &Rig, battery: &Battery) -> Option<Room> {
    let size = battery.size?;
    if rig.bays.is_empty() {
        return None;
    }
    let laid: Vec<Laid> = rig.bays.iter().filter_map(|bay| Laid::of(battery, &size, bay)).collect();
    Some(Room { most: laid.iter().map(Laid::most).sum(), gasses: laid.is_empty() })
}

/// Most units for which every way of setting them out is searched.
pub const SEARCHED: u32 = 12;

/// As many units as stand in a bay in at most so many layers, and whether no more can: layers may be of several heights,
/// each taking what is low enough for it.
///
/// What was searched once is kept: a Board asks of the same units and bays again for weight, wiring, parts and picture.
fn stacked(ways: &[Way], size: &Size, bay: &Bay, layers: u32) -> (Vec<Spot>, bool) {
    let sides = [size.length, size.width, size.height, bay.length, bay.width, bay.height];
    let key = (ways.len(), sides.map(|side| side.value().to_bits()), layers);
    let known = || KNOWN.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(laid) = known().get(&key) {
        return laid.clone();
    }
    let laid = searched(ways, size, bay, layers);
    let mut known = known();
    if known.len() >= MOST_KNOWN {
        known.clear();
    }
    known.insert(key, laid.clone());
    laid
}

/// Ways round, unit and bay, layers.
type Asked = (usize, [u64; 6], u32);

/// Where they stand, and whether no more can.
type SetOut = (Vec<Spot>, bool);

/// Units set out already.
static KNOWN: LazyLock<Mutex<HashMap<Asked, SetOut>>> = LazyLock::new(Mutex::default);

/// Most of them that are kept: a large shelf in a few bays.
const MOST_KNOWN: usize = 4096;

/// The same, searched.
fn searched(ways: &[Way], size: &Size, bay: &Bay, layers: u32) -> (Vec<Spot>, bool) {
    let one = floor(ways, size, bay);
    if layers <= 1 {
        return one;
    }
    let mut heights: Vec<f64> = ways.iter().map(|way| way.extent(size)[2] + ABOVE).collect();
    heights.sort_by(f64::total_cmp);
    heights.dedup();
    // What one layer of each height takes.
    let takes: Vec<(f64, (Vec<Spot>, bool))> = (heights.into_iter())
        .filter(|high| *high <= bay.height.value() + 1e-9)
        .map(|high| {
            let layer = Bay { height: Millimetres::of(high), ..bay.clone() };
            (high, floor(ways, size, &layer))
        })
        .collect();
    let exact = one.1 && takes.iter().all(|(_, (_, exact))| *exact);
    let mut best: Vec<usize> = Vec::new();
    fill(&takes, bay.height.value() + 1e-9, layers, &mut Vec::new(), &mut best);
    let (mut up, mut spots) = (0.0, Vec::new());
    for layer in best {
        let (high, (laid, _)) = &takes[layer];
        spots.extend(laid.iter().map(|spot| Spot { up, ..*spot }));
        up += high;
    }
    (if spots.len() > one.0.len() { spots } else { one.0 }, exact)
}

/// The layers that together hold the most in the height that is left, the fullest at the bottom; each is as high as one
/// before it or lower.
fn fill(
    takes: &[(f64, (Vec<Spot>, bool))],
    left: f64,
    layers: u32,
    chosen: &mut Vec<usize>,
    best: &mut Vec<usize>,
) {
    let count = |of: &[usize]| of.iter().map(|n| takes[*n].1.0.len()).sum::<usize>();
    if count(chosen) > count(best) {
        best.clone_from(chosen);
    }
    let highest = chosen.last().copied().unwrap_or(takes.len().saturating_sub(1));
    if layers == 0 || takes.is_empty() {
        return;
    }
    for n in (0..=highest).rev().filter(|n| takes[*n].0 <= left) {
        chosen.push(n);
        fill(takes, left - takes[n].0, layers - 1, chosen, best);
        chosen.pop();
    }
}

/// As many units as stand on a bay's floor, and whether no more can: rows one way round, with a block of others turned
/// beside them, or any mixture of ways where that may hold more.
fn floor(ways: &[Way], size: &Size, bay: &Bay) -> (Vec<Spot>, bool) {
    let best = rows(ways, size, bay);
    let low: Vec<Way> = ways.iter().copied().filter(|w| is_low(*w, size, bay)).collect();
    let footprints: Vec<[f64; 2]> = (low.iter().map(|way| way.extent(size)))
        .map(|[along, across, _]| [along + AIR, across + AIR])
        .collect();
    let room = [bay.length.value() - AIR, bay.width.value() - AIR];
    let least = footprints.iter().map(|[a, b]| a * b).fold(f64::INFINITY, f64::min);
    let bound = (room[0] * room[1] / least + 1e-9).floor().max(0.0);
    if best.len() as f64 >= bound {
        return (best, true);
    }
    // Too many to search every mixture: at least no fewer than standing, or lying on one side, takes alone.
    let not_searched = |best: Vec<Spot>| {
        let alone = ways.chunks(2).filter(|_| ways.len() > 2).map(|pair| floor(pair, size, bay).0);
        let best = alone.fold(best, |best, one| if one.len() > best.len() { one } else { best });
        (best, false)
    };
    if best.len() as u32 >= SEARCHED {
        return not_searched(best);
    }
    let Some(mut search) = Search::new(room, &footprints) else { return not_searched(best) };
    if search.most(room) <= best.len() as u32 {
        return (best, true);
    }
    let spot = |placed: Placed| {
        let way = low[placed.footprint];
        let [along, across] = placed.at.map(|at| at + AIR);
        Spot { way, along, across, extent: way.extent(size), up: 0.0 }
    };
    let mut spots: Vec<Spot> = search.placed(room).into_iter().map(spot).collect();
    spots.sort_by(|a, b| a.along.total_cmp(&b.along).then(a.across.total_cmp(&b.across)));
    (spots, true)
}

/// Whether a unit stands under the bay's lid this way round.
fn is_low(way: Way, size: &Size, bay: &Bay) -> bool {
    way.extent(size)[2] + ABOVE <= bay.height.value() + 1e-9
}

/// Rows one way round, and a block of others turned in what is left along the bay.
fn rows(ways: &[Way], size: &Size, bay: &Bay) -> Vec<Spot> {
    let mut best: Vec<Spot> = Vec::new();
    for way in ways {
        let spots = block(*way, size, bay, 0.0);
        // What is left along the bay may still take units turned round.
        let end = spots.iter().map(|s| s.along + s.extent[0]).fold(0.0, f64::max);
        for turned in ways.iter().filter(|w| *w != way) {
            let rest = block(*turned, size, bay, end);
            if spots.len() + rest.len() > best.len() {
                best = spots.iter().copied().chain(rest).collect();
            }
        }
        if spots.len() > best.len() {
            best = spots;
        }
    }
    best
}

/// Most rows or columns looked at; a bay of 5 m takes no more of the smallest unit that matters.
const MOST_IN_ROW: u32 = 64;

/// How many sides go into a room, both with the clearances counted. [mm]
fn count(room: f64, side: f64) -> u32 {
    // n units need n sides and n + 1 gaps.
    (((room - AIR) / (side + AIR) + 1e-9).floor().max(0.0) as u32).min(MOST_IN_ROW)
}

/// A block of units one way round, from `start` along the bay on.
fn block(way: Way, size: &Size, bay: &Bay, start: f64) -> Vec<Spot> {
    let extent = way.extent(size);
    let [along, across, _] = extent;
    if !is_low(way, size, bay) {
        return Vec::new();
    }
    let (long, wide) = (count(bay.length.value() - start, along), count(bay.width.value(), across));
    let mut spots = Vec::new();
    for n in 0..long {
        for m in 0..wide {
            spots.push(Spot {
                way,
                along: start + AIR + f64::from(n) * (along + AIR),
                across: AIR + f64::from(m) * (across + AIR),
                extent,
                up: 0.0,
            });
        }
    }
    spots
}

/// A refusal of a layer as one of the bay: short of height in each layer is short of it in all of them.
fn whole_height(refusal: Refusal, layers: u32) -> Refusal {
    match refusal {
        Refusal::Short { way: "high", units, needs, has, upright } => {
            let (needs, has) = (needs * f64::from(layers), has * f64::from(layers));
            Refusal::Short { way: "high", units, needs, has, upright }
        }
        other => other,
    }
}

/// By how little `units` of them do not go in so many layers, each in a bay of this height, over every way round and
/// every grid.
fn shortest(
    size: &Size,
    bay: &Bay,
    ways: &[Way],
    (units, layers): (u32, u32),
    upright: bool,
) -> Refusal {
    let in_a_layer = units.div_ceil(layers);
    let has = [bay.length.value(), bay.width.value(), bay.height.value()];
    let mut least: Option<(f64, Refusal)> = None;
    for way in ways {
        let [along, across, up] = way.extent(size);
        for rows in 1..=in_a_layer.min(MOST_IN_ROW) {
            let columns = in_a_layer.div_ceil(rows);
            let side = |n: u32, side: f64| f64::from(n) * (side + AIR) + AIR;
            let needs = [side(columns, along), side(rows, across), up + ABOVE];
            // The worst of the three decides; of all ways the one that fails by least is told.
            let worst =
                (0..3).max_by(|a, b| (needs[*a] - has[*a]).total_cmp(&(needs[*b] - has[*b])));
            let Some(worst) = worst else { continue };
            let short = needs[worst] - has[worst];
            if least.as_ref().is_none_or(|(l, _)| short < *l) {
                let words = ["long", "wide", "high"][worst];
                let refusal = Refusal::Short {
                    way: words,
                    units,
                    needs: needs[worst],
                    has: has[worst],
                    upright: upright && worst == 2,
                };
                least = Some((short, refusal));
            }
        }
    }
    least.map_or(Refusal::Gasses, |(_, refusal)| refusal)
}

/// What goes into one bay.
#[derive(Debug, Clone, PartialEq)]
pub struct Filled {
    /// The bay's place in the rig's list: two may have one name.
    pub place: usize,
    /// Its name.
    pub bay: String,
    /// What goes in.
    pub stowed: Stowed,
}

/// A pack set out over the bays of a rig.
#[derive(Debug, Clone, PartialEq)]
pub struct Stowage {
    /// The bays that were tried, in the order in which they were filled.
    pub bays: Vec<Filled>,
}

impl Stowage {
    /// Units that found a place.
    pub fn placed(&self) -> u32 {
        self.bays.iter().map(|b| b.stowed.spots.len() as u32).sum()
    }

    /// Names of the bays that hold some.
    pub fn held_by(&self) -> Vec<&str> {
        let holding = self.bays.iter().filter(|b| !b.stowed.spots.is_empty());
        holding.map(|b| b.bay.as_str()).collect()
    }

    /// Why no more went in, bay by bay.
    pub fn refusals(&self) -> Vec<(String, Refusal)> {
        let why = self.bays.iter();
        why.filter_map(|b| Some((b.bay.clone(), b.stowed.refusal.clone()?))).collect()
    }
}

/// Sets a pack out in the rig's bays: in one bay if one takes all, else spread from the roomiest on.
///
/// `None` when the rig has no bays or the unit's dimensions are not known.
pub fn stow(rig: &Rig, pack: &Pack) -> Option<Stowage> {
    let battery = &pack.battery;
    battery.size?;
    if rig.bays.is_empty() {
        return None;
    }
    let wanted = pack.units();
    let alone = |bay: &Bay| in_bay(battery, bay, wanted);
    let filled =
        |(place, bay): (usize, &Bay), stowed| Filled { place, bay: bay.name.clone(), stowed };
    let mut order: Vec<(usize, &Bay)> = rig.bays.iter().enumerate().collect();
    let takes_all = |(_, bay): &&(usize, &Bay)| alone(bay).is_some_and(|s| s.most >= wanted);
    if let Some(one) = order.iter().find(takes_all) {
        return Some(Stowage { bays: vec![filled(*one, alone(one.1)?)] });
    }
    order.sort_by_key(|(_, bay)| std::cmp::Reverse(alone(bay).map_or(0, |s| s.most)));
    let mut left = wanted;
    let mut bays = Vec::new();
    for one in order {
        let stowed = in_bay(battery, one.1, left)?;
        left -= stowed.spots.len() as u32;
        bays.push(filled(one, stowed));
        if left == 0 {
            break;
        }
    }
    Some(Stowage { bays })
}

/// What another pack aboard changes of a craft's weight and balance.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Trim {
    /// Heavier by this, lighter where negative. [kg]
    pub mass: Kilograms,
    /// Moment about the middle of its length, positive where the bow or front gets heavier. [kg m]
    pub moment: f64,
    length: f64,
    width: f64,
}

/// Share of a small boat's length by width that its waterplane fills, of its width at the rail that it has at the water,
/// and of a box's second moment that the waterplane has. Typical, from memory.
const WATERPLANE: (f64, f64, f64) = (0.75, 0.85, 0.6);
/// Where axles usually stand along a vehicle, 0 at its front: as it is drawn.
const AXLES: (f64, f64) = (0.2, 0.8);

/// How a pack changes the balance against the one aboard; `None` where either's weight, size or place is not known.
pub fn trim(rig: &Rig, pack: &Pack, aboard: Option<&Pack>) -> Option<Trim> {
    let length = rig.craft.length().value.value();
    let weighs = |pack: &Pack| -> Option<(f64, f64)> {
        let (each, stowage) = (pack.battery.mass?.value(), stow(rig, pack)?);
        if stowage.placed() < pack.units() {
            return None;
        }
        let mut moment = 0.0;
        for filled in &stowage.bays {
            let bay = rig.bays.get(filled.place)?;
            for spot in &filled.stowed.spots {
                let off = spot.along + spot.extent[0] / 2.0 - bay.length.value() / 2.0;
                moment += each * ((0.5 - bay.position) * length - off / 1000.0);
            }
        }
        Some((each * f64::from(pack.units()), moment))
    };
    let ((now, at_now), (new, at_new)) = (weighs(aboard?)?, weighs(pack)?);
    let usual = rig.craft.kind.usual();
    let width = usual.width.value() * (length / usual.length.value()).sqrt();
    Some(Trim { mass: Kilograms::of(new - now), moment: at_new - at_now, length, width })
}

impl Trim {
    /// How much more the front and the rear axle carry. [kg]
    ///
    /// Levers: `front = m/2 + M/a`, `rear = m/2 - M/a` with the axles `a` apart.
    pub fn axles(&self) -> (f64, f64) {
        let apart = (AXLES.1 - AXLES.0) * self.length;
        let shift = self.moment / apart;
        (self.mass.value() / 2.0 + shift, self.mass.value() / 2.0 - shift)
    }

    /// How much deeper the bow lies, about: it sinks by `m/(ρ A)` and trims by `M/(ρ I)` for every metre forward of the
    /// middle. [m]
    pub fn bow(&self) -> Metres {
        let (filled, at_water, second) = WATERPLANE;
        let wide = self.width * at_water;
        let area = filled * self.length * wide;
        let inertia = second * wide * self.length.powi(3) / 12.0;
        let sinks = self.mass.value() / (WATER * area);
        Metres::of(sinks + self.moment / (WATER * inertia) * self.length / 2.0)
    }
}
