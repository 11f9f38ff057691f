//! A test on the bench in what a monitor recorded: one discharge at a steady current.

use super::{Recorded, Trip};

/// A steady discharge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bench {
    /// The current, in the middle. [A]
    pub amps: f64,
    /// How long it lasted. [h]
    pub hours: f64,
    /// Volts at its end. [V]
    pub stop: f64,
    /// Energy. [Wh]
    pub energy: f64,
    /// How warm it was, where that is told. [°C]
    pub warm: Option<f64>,
}

/// Why it is none.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum NoBench {
    /// Several discharges.
    #[error("there are {0} discharges in it: a capacity test is one, without a pause")]
    Several(usize),
    /// The volts are missing.
    #[error("it tells no volts, and a capacity test ends by them")]
    NoVolts,
    /// The current is not steady.
    #[error(
        "its current is not steady, {0:.1} to {1:.1} A: a capacity test wants one load from full to its stop voltage"
    )]
    Unsteady(f64, f64),
}

/// The current may go up and down by this share, nine rows in ten. Common practice, no source: as loads with resistors do.
const STEADY: f64 = 0.15;

/// The test in a record whose discharges these are.
///
/// # Errors
/// [`NoBench`].
pub fn bench(recorded: &Recorded, trips: &[Trip]) -> Result<Bench, NoBench> {
    let [trip] = trips else { return Err(NoBench::Several(trips.len())) };
    let rows = &recorded.samples[trip.rows.clone()];
    let mut amps: Vec<f64> =
        rows.iter().map(|s| f64::from(s.amps)).filter(|a| a.is_finite()).collect();
    amps.sort_by(f64::total_cmp);
    let at = |share: f64| amps[((amps.len() - 1) as f64 * share).round() as usize];
    let (low, middle, high) = (at(0.05), at(0.5), at(0.95));
    if high - low > STEADY * 2.0 * middle {
        return Err(NoBench::Unsteady(low, high));
    }
    let stop = rows.iter().rev().map(|s| s.volts).find(|v| v.is_finite());
    let (stop, energy) = stop.zip(trip.used_wh).ok_or(NoBench::NoVolts)?;
    let warm: Vec<f64> = rows.iter().map(|s| f64::from(s.warm)).filter(|t| t.is_finite()).collect();
    let warm = (!warm.is_empty()).then(|| warm.iter().sum::<f64>() / warm.len() as f64);
    // By what was counted, so that amp-hours are the monitor's.
    let amps = trip.used_ah / trip.hours;
    Ok(Bench { amps, hours: trip.hours, stop: f64::from(stop), energy, warm })
}
