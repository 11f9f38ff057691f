//! The craft from above, to scale, with its battery bays.

use crate::figures;
use lake_hour_core::rig::Rig;
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

impl Sketch {
    pub(crate) fn of(rig: &Rig, units: System) -> Self {
        let craft = &rig.craft;
        let length = craft.length().value.value();
        let usual = craft.kind.usual();
        let width = usual.width.value() * (length / usual.length.value()).sqrt();
        // Pixels for a metre, so that the craft fits both ways.
        let scale = ((WIDE - 2.0 * AROUND - 40.0) / length).min(HIGH / width);
        let (long, wide) = (length * scale, width * scale);
        let bow = (WIDE - long) / 2.0;
        let height = wide + 2.0 * AROUND + 56.0;
        let middle = AROUND + 20.0 + wide / 2.0;
        let boat = craft.kind.is_boat();
        let at = |part: f64| bow + part * long;
        let outline = if boat {
            let (top, bottom, stern) = (middle - wide / 2.0, middle + wide / 2.0, at(1.0));
            // Pointed at both ends, or with a transom.
            let pointed = usual.width.value() < 1.0;
            if pointed {
                format!(
                    "M{:.1} {middle:.1} Q{:.1} {top:.1} {:.1} {top:.1} Q{:.1} {top:.1} {stern:.1} {middle:.1} Q{:.1} {bottom:.1} {:.1} {bottom:.1} Q{:.1} {bottom:.1} {:.1} {middle:.1}Z",
                    at(0.0),
                    at(0.2),
                    at(0.5),
                    at(0.8),
                    at(0.8),
                    at(0.5),
                    at(0.2),
                    at(0.0)
                )
            } else {
                format!(
                    "M{:.1} {middle:.1} Q{:.1} {top:.1} {:.1} {top:.1} L{stern:.1} {:.1} L{stern:.1} {:.1} L{:.1} {bottom:.1} Q{:.1} {bottom:.1} {:.1} {middle:.1}Z",
                    at(0.0),
                    at(0.18),
                    at(0.45),
                    middle - wide * 0.45,
                    middle + wide * 0.45,
                    at(0.45),
                    at(0.18),
                    at(0.0)
                )
            }
        } else {
            let (top, r) = (middle - wide / 2.0, wide * 0.16);
            format!(
                "M{:.1} {top:.1} h{:.1} a{r:.1} {r:.1} 0 0 1 {r:.1} {r:.1} v{:.1} a{r:.1} {r:.1} 0 0 1 -{r:.1} {r:.1} h-{:.1} a{r:.1} {r:.1} 0 0 1 -{r:.1} -{r:.1} v-{:.1} a{r:.1} {r:.1} 0 0 1 {r:.1} -{r:.1}Z",
                bow + r,
                long - 2.0 * r,
                wide - 2.0 * r,
                long - 2.0 * r,
                wide - 2.0 * r
            )
        };
        let wheels = if boat {
            Vec::new()
        } else {
            [(0.2, -0.5), (0.2, 0.5), (0.8, -0.5), (0.8, 0.5)]
                .map(|(along, side)| {
                    (format!("{:.1}", at(along)), format!("{:.1}", middle + side * wide))
                })
                .into()
        };
        let side = |mm: f64| figures::measure(units, Measure::Side, mm, 1);
        let bays = rig.bays.iter().enumerate().map(|(index, bay)| {
            let (l, w) = (bay.length.value() / 1000.0 * scale, bay.width.value() / 1000.0 * scale);
            let x = at(bay.position);
            let size = format!(
                "{} x {} x {}",
                side(bay.length.value()),
                side(bay.width.value()),
                side(bay.height.value())
            );
            BayMark {
                index,
                x: format!("{:.1}", x - l / 2.0),
                y: format!("{:.1}", middle - w / 2.0),
                width: format!("{l:.1}"),
                height: format!("{w:.1}"),
                middle: format!("{x:.1}"),
                below: format!("{:.1}", middle + (w / 2.0).max(wide * 0.08) + 5.0),
                sentence: format!(
                    "{}: {size}{}",
                    bay.name,
                    match (bay.sealed, bay.upright_only) {
                        (true, true) => ", closed off: nothing that gasses; upright only",
                        (true, false) => ", closed off: nothing that gasses",
                        (false, true) => ", upright only",
                        (false, false) => "",
                    }
                ),
                name: bay.name.clone(),
                size,
                sealed: bay.sealed,
            }
        });
        let bays: Vec<BayMark> = bays.collect();
        // A foot or half a metre, as a scale.
        let foot = if units == System::Metric { 0.5 } else { 0.3048 };
        let told = figures::measure(units, Measure::Length, length, 1);
        Self {
            outline,
            wheels,
            boat,
            height: format!("{height:.0}"),
            bow: format!("{bow:.1}"),
            stern: format!("{:.1}", bow + long),
            scale_to: format!("{:.1}", bow + foot * scale),
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
