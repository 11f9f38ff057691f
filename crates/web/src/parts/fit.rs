//! Do they fit: the units of a pack over the rig's bays, from above and from the side, to one scale.

use crate::figures;
use lake_hour_core::pack::Pack;
use lake_hour_core::pack::stow::{ABOVE, AIR, Spot, Stowed, Way, stow};
use lake_hour_core::rig::{Bay, Rig};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::system::{Measure, System};

/// A unit in a view of its bay. [mm]
#[derive(Debug, Clone)]
pub(crate) struct Box2 {
    pub(crate) x: f64,
    pub(crate) y: f64,
    pub(crate) width: f64,
    pub(crate) height: f64,
    /// Which unit of the pack it is, from 1, with those that stand on it: "1, 3".
    pub(crate) number: String,
    /// Middles of its terminals, where they are seen.
    pub(crate) terminals: Option<[(f64, f64); 2]>,
}

/// A bay with what goes in it.
#[derive(Debug, Clone)]
pub(crate) struct BayView {
    pub(crate) name: String,
    pub(crate) inside: String,
    pub(crate) long: f64,
    pub(crate) wide: f64,
    pub(crate) high: f64,
    /// The same on the screen: length, width, height. [px]
    pub(crate) px: [f64; 3],
    pub(crate) from_above: Vec<Box2>,
    pub(crate) from_the_side: Vec<Box2>,
    pub(crate) says: String,
    pub(crate) sentence: String,
}

impl Box2 {
    /// Its middle, and letters that it holds. [mm]
    pub(crate) fn middle(&self) -> (f64, f64, f64) {
        let letters = (self.width.min(self.height) * 0.4).min(90.0);
        let letters = letters.min(self.width * 1.6 / self.number.len().max(1) as f64);
        (self.x + self.width / 2.0, self.y + self.height / 2.0 + letters * 0.36, letters)
    }
}

impl BayView {
    /// Height of the room kept free above the units. [mm]
    pub(crate) const fn above(&self) -> f64 {
        ABOVE
    }

    /// Room kept free around the units. [mm]
    pub(crate) const fn air(&self) -> f64 {
        AIR
    }
}

/// A pack and its place aboard.
#[derive(Debug, Clone)]
pub(crate) struct FitView {
    pub(crate) name: String,
    pub(crate) build: String,
    pub(crate) goes: bool,
    pub(crate) sentence: String,
    pub(crate) bays: Vec<BayView>,
}

/// Most units that are drawn in one view of a bay, and packs that are drawn at all: a page is to be read.
const MOST_DRAWN: usize = 24;
pub(crate) const MOST_PACKS: usize = 30;

/// The longest bay on the screen. [px]
const LONGEST: f64 = 272.0;

impl FitView {
    /// `None` when the rig has no bays.
    pub(crate) fn of(rig: &Rig, pack: &Pack, units: System) -> Option<Self> {
        let longest = rig.bays.iter().map(|b| b.length.value()).reduce(f64::max)?;
        let scale = LONGEST / longest.max(1.0);
        let build = match (pack.series, pack.parallel) {
            (1, 1) => "one".to_owned(),
            (s, 1) => format!("{s} in series"),
            (1, p) => format!("{p} in parallel"),
            (s, p) => format!("{s} in series, {p} in parallel"),
        };
        let name = pack.name.clone();
        let Some(stowage) = stow(rig, pack) else {
            let sentence = "Its dimensions are not known: type them, or choose a standard size.";
            return Some(Self {
                name,
                build,
                goes: false,
                sentence: sentence.into(),
                bays: Vec::new(),
            });
        };
        let (wanted, placed) = (pack.units(), stowage.placed());
        let goes = placed >= wanted;
        let upright = if pack.battery.chemistry == Chemistry::Flooded {
            " Flooded: upright, and never in a closed-off bay."
        } else {
            ""
        };
        let sentence = if goes {
            let only = if wanted == 1 { "It fits".to_owned() } else { format!("All {wanted} fit") };
            format!("{only}: {}.{upright}", stowage.held_by().join(" and "))
        } else {
            format!("{placed} of {wanted} fit.{upright}")
        };
        let mut before = 0;
        let bays = stowage.bays.iter().map(|b| {
            let view = bay_view(&rig.bays[b.place], &b.stowed, scale, units, before);
            before += b.stowed.spots.len();
            view
        });
        let bays = bays.collect();
        Some(Self { name, build, goes, sentence, bays })
    }
}

fn bay_view(bay: &Bay, stowed: &Stowed, scale: f64, units: System, before: usize) -> BayView {
    let (long, wide, high) = (bay.length.value(), bay.width.value(), bay.height.value());
    let seen = |spot: &Spot, flat: [f64; 4], from_above: bool| {
        let [x, y, width, height] = flat;
        let upright = matches!(spot.way, Way::Along | Way::Across);
        let ends = if width >= height {
            [(x + width * 0.12, y + height / 2.0), (x + width * 0.88, y + height / 2.0)]
        } else {
            [(x + width / 2.0, y + height * 0.12), (x + width / 2.0, y + height * 0.88)]
        };
        let number = String::new();
        Box2 { x, y, width, height, number, terminals: (upright && from_above).then_some(ends) }
    };
    let above = |s: &Spot| seen(s, [s.along, s.across, s.extent[0], s.extent[1]], true);
    let side =
        |s: &Spot| seen(s, [s.along, high - s.up - s.extent[2], s.extent[0], s.extent[2]], false);
    let mut ways: Vec<&str> = stowed.spots.iter().map(|s| s.way.words()).collect();
    ways.dedup();
    let mut ups: Vec<f64> = stowed.spots.iter().map(|s| s.up).collect();
    ups.dedup();
    let layers = if ups.len() > 1 { format!(", in {} layers", ups.len()) } else { String::new() };
    let placed = stowed.spots.len();
    let room = match stowed.most {
        0 => String::new(),
        most if most as usize > placed && stowed.exact => format!("; room for {most} in all"),
        most if most as usize > placed => format!("; room for {most} or more in all"),
        _ if stowed.exact => "; no room for more".to_owned(),
        _ => "; no room for more was found, not every way was searched".to_owned(),
    };
    let mut says = match placed {
        0 => "None fit".to_owned(),
        n => format!("{n}, {}{layers}{room}", ways.join(" and ")),
    };
    if let Some(refusal) = &stowed.refusal {
        says = format!("{says}: {}", refusal.sentence(units));
    }
    if placed > MOST_DRAWN {
        says = format!("{says}; {MOST_DRAWN} of them are drawn");
    }
    let drawn = stowed.spots.iter().take(MOST_DRAWN);
    // Seen from above a unit hides those that it stands on: their numbers stand together.
    let mut from_above: Vec<Box2> = Vec::new();
    for (spot, number) in drawn.clone().zip(before + 1..) {
        let seen = above(spot);
        let middle = (seen.x + seen.width / 2.0, seen.y + seen.height / 2.0);
        let under = |b: &&mut Box2| {
            (b.x..b.x + b.width).contains(&middle.0) && (b.y..b.y + b.height).contains(&middle.1)
        };
        match from_above.iter_mut().find(under) {
            Some(below) => below.number = format!("{}, {number}", below.number),
            None => from_above.push(Box2 { number: number.to_string(), ..seen }),
        }
    }
    let of = |mm: f64| figures::measure(units, Measure::Side, mm, 1);
    BayView {
        name: bay.name.clone(),
        inside: format!("{} x {} x {} clear", of(long), of(wide), of(high)),
        long,
        wide,
        high,
        px: [long * scale, wide * scale, high * scale],
        from_above,
        from_the_side: drawn.map(side).collect(),
        sentence: format!("{}: {says}", bay.name),
        says,
    }
}
