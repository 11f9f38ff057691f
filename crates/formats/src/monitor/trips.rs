//! The outings in what a monitor recorded.

use super::{GAP, Recorded, Sample};
use jiff::ToSpan;
use jiff::civil::DateTime;
use std::ops::Range;

/// An outing in a record.
#[derive(Debug, Clone)]
pub struct Trip {
    /// When it began, by the clock of the place.
    pub begins: DateTime,
    /// Its rows.
    pub rows: Range<usize>,
    /// How long it lasted. [h]
    pub hours: f64,
    /// Amp-hours that were used: drawn, less what came back. [Ah]
    pub used_ah: f64,
    /// Watt-hours, where volts are told. [Wh]
    pub used_wh: Option<f64>,
    /// Charge at its start and its end by the monitor, 0 to 1.
    pub share: Option<(f64, f64)>,
    /// The least volts. [V]
    pub least_volts: Option<f64>,
    /// The most amps. [A]
    pub most_amps: f64,
}

/// More than this share of the most amps, and at the least so many, is driving. [A]
const DRIVES: (f32, f32) = (0.03, 0.8);
/// Whether so many amps are none of driving. [A]
pub(super) fn rests(amps: f32) -> bool {
    amps.abs() <= DRIVES.1
}

/// A pause longer than this ends an outing. [s]
const PAUSE: u32 = 3 * 3600;
/// Shorter, or of less, is none. [s], [Ah]
const SHORTEST: u32 = 300;
const LEAST: f64 = 0.3;

/// The outings: from the first row that drives to the last before a long pause, or before it is charged for long.
pub fn trips(recorded: &Recorded) -> Vec<Trip> {
    let samples = &recorded.samples;
    let most = samples.iter().map(|s| s.amps).filter(|a| a.is_finite()).fold(0.0_f32, f32::max);
    let drives = |s: &Sample| s.amps > (most * DRIVES.0).max(DRIVES.1);
    let mut all: Vec<Range<usize>> = Vec::new();
    for (n, _) in samples.iter().enumerate().filter(|(_, s)| drives(s)) {
        match all.last_mut() {
            Some(last) if samples[n].at - samples[last.end - 1].at <= PAUSE => last.end = n + 1,
            _ => all.push(n..n + 1),
        }
    }
    all.into_iter().filter_map(|rows| trip(recorded, rows)).collect()
}

impl Trip {
    /// Hours of it above a temperature [°C]; `None` where none was told. [h]
    pub fn above(&self, recorded: &Recorded, warm: f64) -> Option<f64> {
        let rows = &recorded.samples[self.rows.clone()];
        rows.iter().any(|s| s.warm.is_finite()).then(|| {
            let pairs = rows.windows(2).map(|p| (f64::from(p[0].warm), p[1].at - p[0].at));
            let above = pairs.filter(|(t, dt)| *t > warm && *dt <= GAP);
            f64::from(above.map(|(_, dt)| dt).sum::<u32>()) / 3600.0
        })
    }
}

fn trip(recorded: &Recorded, rows: Range<usize>) -> Option<Trip> {
    let samples = &recorded.samples[rows.clone()];
    let (first, last) = (samples.first()?, samples.last()?);
    if last.at - first.at < SHORTEST {
        return None;
    }
    let (mut ah, mut wh, mut volts_told) = (0.0, 0.0, true);
    for pair in samples.windows(2) {
        let dt = pair[1].at - pair[0].at;
        if dt > GAP || pair[0].amps.is_nan() {
            continue;
        }
        let charge = f64::from(pair[0].amps) * f64::from(dt) / 3600.0;
        ah += charge;
        volts_told &= pair[0].volts.is_finite();
        wh += charge * f64::from(pair[0].volts);
    }
    if ah < LEAST {
        return None;
    }
    let told = |mut of: Box<dyn Iterator<Item = f32> + '_>| of.find(|v| v.is_finite());
    let from = told(Box::new(samples.iter().map(|s| s.share)));
    let to = told(Box::new(samples.iter().rev().map(|s| s.share)));
    let least = samples.iter().map(|s| s.volts).filter(|v| v.is_finite()).reduce(f32::min);
    let most = samples.iter().map(|s| s.amps).filter(|a| a.is_finite()).fold(0.0, f32::max);
    Some(Trip {
        begins: recorded.begins.checked_add(i64::from(first.at).seconds()).ok()?,
        hours: f64::from(last.at - first.at) / 3600.0,
        used_ah: ah,
        used_wh: volts_told.then_some(wh),
        share: from.zip(to).map(|(a, b)| (f64::from(a), f64::from(b))),
        least_volts: least.map(f64::from),
        most_amps: f64::from(most),
        rows,
    })
}
