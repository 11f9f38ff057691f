//! The craft from above, to scale, with its battery bays.

use crate::figures;
use lake_hour_core::rig::{Bay, Rig};
use lake_hour_core::units::Millimetres;
use lake_hour_core::units::system::{Measure, System};

/// Width of the drawing and room around the craft. [px]
const WIDE: f64 = 1000.0;
const AROUND: f64 = 24.0;
/// Most the craft may be high in the drawing. [px]
const HIGH: f64 = 250.0;

/// A bay on the drawing.
#[derive(Debug, Clone)]
pub(crate) struct BayMark {
    pub(crate) index: usize,
    pub(crate) x: String,
    pub(crate) y: String,
    pub(crate) width: String,
    pub(crate) height: String,
    pub(crate) middle: String,
    pub(crate) below: String,
    pub(crate) name: String,
    pub(crate) size: String,
    pub(crate) sealed: bool,
    pub(crate) sentence: String,
}

/// The drawing. All in pixels of a drawing [`WIDE`] wide.
#[derive(Debug, Clone)]
pub(crate) struct Sketch {
    pub(crate) outline: String,
    pub(crate) wheels: Vec<(String, String)>,
    pub(crate) boat: bool,
    pub(crate) height: String,
    pub(crate) bays: Vec<BayMark>,
    /// Where the bow and the stern are, for dragging.
    pub(crate) bow: String,
    pub(crate) stern: String,
    pub(crate) length: String,
    pub(crate) scale_to: String,
    pub(crate) scale: String,
    pub(crate) middle: String,
    pub(crate) sentence: String,
}

/// Where things are in the drawing. [px]
struct Place {
    /// Left end of the craft, and its length.
    bow: f64,
    long: f64,
    /// Its middle line, and its width.
    middle: f64,
    wide: f64,
    /// Pixels for a metre.
    scale: f64,
}

impl Place {
    /// At a share of its length.
    fn at(&self, part: f64) -> f64 {
        self.bow + part * self.long
    }

    /// A hull that is pointed at both ends.
    fn canoe(&self) -> String {
        let Self { middle, wide, .. } = self;
        let (top, bottom, stern) = (middle - wide / 2.0, middle + wide / 2.0, self.at(1.0));
        let [a, b, c, d] = [0.0, 0.2, 0.5, 0.8].map(|part| self.at(part));
        format!(
            "M{a:.1} {middle:.1} Q{b:.1} {top:.1} {c:.1} {top:.1} Q{d:.1} {top:.1} {stern:.1} {middle:.1} Q{d:.1} {bottom:.1} {c:.1} {bottom:.1} Q{b:.1} {bottom:.1} {a:.1} {middle:.1}Z"
        )
    }

    /// A hull with a transom.
    fn hull(&self) -> String {
        let Self { middle, wide, .. } = self;
        let (top, bottom, stern) = (middle - wide / 2.0, middle + wide / 2.0, self.at(1.0));
        let [a, b, c] = [0.0, 0.18, 0.45].map(|part| self.at(part));
        let (left, right) = (middle - wide * 0.45, middle + wide * 0.45);
        format!(
            "M{a:.1} {middle:.1} Q{b:.1} {top:.1} {c:.1} {top:.1} L{stern:.1} {left:.1} L{stern:.1} {right:.1} L{c:.1} {bottom:.1} Q{b:.1} {bottom:.1} {a:.1} {middle:.1}Z"
        )
    }

    /// A body on wheels, its corners rounded.
    fn body(&self) -> String {
        let (top, r) = (self.middle - self.wide / 2.0, self.wide * 0.16);
        let (left, across, down) = (self.bow + r, self.long - 2.0 * r, self.wide - 2.0 * r);
        format!(
            "M{left:.1} {top:.1} h{across:.1} a{r:.1} {r:.1} 0 0 1 {r:.1} {r:.1} v{down:.1} a{r:.1} {r:.1} 0 0 1 -{r:.1} {r:.1} h-{across:.1} a{r:.1} {r:.1} 0 0 1 -{r:.1} -{r:.1} v-{down:.1} a{r:.1} {r:.1} 0 0 1 {r:.1} -{r:.1}Z"
        )
    }

    fn wheels(&self) -> Vec<(String, String)> {
        let wheel = |(along, side): (f64, f64)| {
            (format!("{:.1}", self.at(along)), format!("{:.1}", self.middle + side * self.wide))
        };
        [(0.2, -0.5), (0.2, 0.5), (0.8, -0.5), (0.8, 0.5)].map(wheel).into()
    }

    fn bay(&self, index: usize, bay: &Bay, units: System) -> BayMark {
        let px = |mm: Millimetres| mm.value() / 1000.0 * self.scale;
        let (l, w, x) = (px(bay.length), px(bay.width), self.at(bay.position));
        let side = |mm: Millimetres| figures::measure(units, Measure::Side, mm.value(), 1);
        let size = format!("{} x {} x {}", side(bay.length), side(bay.width), side(bay.height));
        let closed = match (bay.sealed, bay.upright_only) {
            (true, true) => ", closed off: nothing that gasses; upright only",
            (true, false) => ", closed off: nothing that gasses",
            (false, true) => ", upright only",
            (false, false) => "",
        };
        BayMark {
            index,
            x: format!("{:.1}", x - l / 2.0),
            y: format!("{:.1}", self.middle - w / 2.0),
            width: format!("{l:.1}"),
            height: format!("{w:.1}"),
            middle: format!("{x:.1}"),
            below: format!("{:.1}", self.middle + (w / 2.0).max(self.wide * 0.08) + 5.0),
            sentence: format!("{}: {size}{closed}", bay.name),
            name: bay.name.clone(),
            size,
            sealed: bay.sealed,
        }
    }
}

impl Sketch {
    pub(crate) fn of(rig: &Rig, units: System) -> Self {
        let craft = &rig.craft;
        let length = craft.length().value.value();
        let usual = craft.kind.usual();
        let width = usual.width.value() * (length / usual.length.value()).sqrt();
        // So that the craft fits both ways.
        let scale = ((WIDE - 2.0 * AROUND - 40.0) / length).min(HIGH / width);
        let (long, wide) = (length * scale, width * scale);
        let middle = AROUND + 20.0 + wide / 2.0;
        let place = Place { bow: (WIDE - long) / 2.0, long, middle, wide, scale };
        let boat = craft.kind.is_boat();
        let bays = rig.bays.iter().enumerate().map(|(n, bay)| place.bay(n, bay, units));
        let bays: Vec<BayMark> = bays.collect();
        // A foot or half a metre, as a scale.
        let foot = if units == System::Metric { 0.5 } else { 0.3048 };
        let told = figures::measure(units, Measure::Length, length, 1);
        Self {
            outline: match boat {
                true if usual.width.value() < 1.0 => place.canoe(),
                true => place.hull(),
                false => place.body(),
            },
            wheels: if boat { Vec::new() } else { place.wheels() },
            boat,
            height: format!("{:.0}", wide + 2.0 * AROUND + 56.0),
            bow: format!("{:.1}", place.at(0.0)),
            stern: format!("{:.1}", place.at(1.0)),
            scale_to: format!("{:.1}", place.at(0.0) + foot * scale),
            scale: if units == System::Metric { "0.5 m" } else { "1 ft" }.to_owned(),
            middle: format!("{middle:.1}"),
            sentence: format!(
                "{} from above, {told} long, {} {}",
                rig.name,
                bays.len(),
                if bays.len() == 1 { "battery bay" } else { "battery bays" }
            ),
            length: told,
            bays,
        }
    }
}
