//! Which unit strays, by volts of all units at one moment and by their resistances.

use crate::log::{Did, Log};
use crate::numeric::median;
use crate::pack::Pack;
use crate::units::{Ohms, Volts};
use jiff::civil::Date;

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
            let all: Vec<f64> = volts.iter().map(|v| v.value()).collect();
            let middle = middle_of_others(&all, n).unwrap_or(v.value());
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

/// The middle of all but one; `None` where there is no other.
fn middle_of_others(all: &[f64], but: usize) -> Option<f64> {
    let others = all.iter().enumerate().filter(|(n, _)| *n != but).map(|(_, v)| *v);
    median(others.collect())
}

/// A unit by its resistance.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Resisting {
    /// Which unit, counted from 1.
    pub unit: u32,
    /// What was read last.
    pub now: Ohms,
    /// Over its own first reading, or over the middle of the others where that is the only one.
    pub times: f64,
    /// It is held against its own first reading.
    pub by_own: bool,
}

/// Times its baseline from which a unit is looked into, and replaced. IEEE 1188, from memory: 25 % and 50 %.
pub const RISEN: (f64, f64) = (1.25, 1.5);

impl Log {
    /// The units of an owned pack by their resistance, as read last; with the day. `None` where none was read.
    pub fn unit_resistances(&self, pack: i64) -> Option<(Date, Vec<Resisting>)> {
        let since = self.units_since(pack);
        let read: Vec<(Date, &Vec<Ohms>)> = self
            .tests()
            .filter(|(_, t)| t.of == Some(pack) && since.is_none_or(|since| t.date >= since))
            .filter_map(|(_, t)| match &t.did {
                Did::Resistances(ohms) => Some((t.date, ohms)),
                _ => None,
            })
            .collect();
        let (date, last) = read.last()?;
        let first = read.first().filter(|(_, f)| read.len() > 1 && f.len() == last.len());
        let values: Vec<f64> = last.iter().map(|r| r.value()).collect();
        let all = last.iter().enumerate().map(|(n, now)| {
            let own = first.map(|(_, f)| f[n].value());
            let base = own.or_else(|| middle_of_others(&values, n)).unwrap_or(now.value());
            let times = now.value() / base;
            Resisting { unit: n as u32 + 1, now: *now, times, by_own: own.is_some() }
        });
        Some((*date, all.collect()))
    }
}
