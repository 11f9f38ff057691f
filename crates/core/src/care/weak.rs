//! Which unit strays: by volts of all units at one moment.

use crate::pack::Pack;
use crate::units::Volts;

/// A unit by how far it lies below the others.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Ranked {
    /// Which unit, counted from 1.
    pub unit: u32,
    /// Its volts. [V]
    pub volts: Volts,
    /// How far below the middle of the others. [V]
    pub below: f64,
    /// The same in points of charge, 0 to 1; of lead only.
    pub charge_below: Option<f64>,
    /// Whether that is more than readings and sound units differ by.
    pub strays: bool,
}

/// Rested volts of two sound 12 V units differ by less than this. [V] Common practice, no source; in proportion to the volts.
const APART: f64 = 0.15;

/// The units of a pack by volts that were read after the same rest, the lowest first. Two units are ranked; which of them is
/// the odd one, two alone cannot tell.
pub fn by_volts(pack: &Pack, volts: &[Volts]) -> Vec<Ranked> {
    let facts = pack.battery.chemistry.facts();
    let cells = f64::from(pack.battery.cells());
    let apart = APART * pack.battery.nominal_voltage.value() / 12.0;
    let mut all: Vec<Ranked> = volts
        .iter()
        .enumerate()
        .map(|(n, v)| {
            let mut others: Vec<f64> =
                volts.iter().enumerate().filter(|(m, _)| *m != n).map(|(_, v)| v.value()).collect();
            others.sort_by(f64::total_cmp);
            let middle = match others.len() {
                0 => v.value(),
                len if len % 2 == 1 => others[len / 2],
                len => 0.5 * (others[len / 2 - 1] + others[len / 2]),
            };
            let share = |v: f64| facts.cell.ocv.share_at(v / cells);
            let below = middle - v.value();
            Ranked {
                unit: n as u32 + 1,
                volts: *v,
                below,
                charge_below: facts.lead.then(|| share(middle) - share(v.value())),
                strays: below > apart,
            }
        })
        .collect();
    all.sort_by(|a, b| b.below.total_cmp(&a.below).then(a.unit.cmp(&b.unit)));
    all
}
