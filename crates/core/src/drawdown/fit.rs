//! From a label's ratings to one fitted battery, with the size of their disagreement.

use super::law::{CellParameters, UnitLaw};
use super::peukert::Peukert;
use crate::numeric::halved;
use crate::shelf::{Battery, Chemistry, Detail, NotForTraction, Rating};
use crate::source::Origin;

/// Disagreement up to which labels are taken to mean the same battery.
///
/// Published ratings of one and the same battery disagree by 6 to 9 % by nature: a generic golf-car
/// table gives 186 Ah in 7.45 h and 185 Ah in 5 h.
pub const NATURAL_CONFLICT: f64 = 0.10;

/// Spread of one rating about the truth, as a share. Estimate from the same tables.
const RATING_SPREAD: f64 = 0.04;
/// How far the chemistry's recovery rate is trusted: one standard deviation of its logarithm.
const RECOVERY_SPREAD: f64 = 0.25;
/// How far the chemistry's available share is trusted: one standard deviation.
const AVAILABLE_SPREAD: f64 = 0.03;

/// A battery as the ratings describe it.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// The law of one unit at 25 °C.
    pub law: UnitLaw,
    /// The cell parameters it was built from.
    pub cell: CellParameters,
    /// 20-hour ampere-hours of the fitted battery. [Ah]
    pub q20: f64,
    /// How each rating compares, in the label's order.
    pub ratings: Vec<RatingFit>,
    /// Whether the recovery rate was moved by the ratings or is the chemistry's.
    pub recovery: Origin,
    /// Where the resistance comes from.
    pub resistance: Origin,
    /// Peukert's law through the same ratings.
    pub peukert: Peukert,
    /// Longest and shortest rated discharge: outside it the prediction leans on the chemistry. [h]
    pub rated_hours: (f64, f64),
}

/// One rating beside what the fitted battery gives.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RatingFit {
    /// The label's statement.
    pub rating: Rating,
    /// The label's ampere-hours over the fitted ones, less one.
    pub off: f64,
}

impl Fit {
    /// Largest disagreement between any two ratings, as a share.
    pub fn conflict(&self) -> f64 {
        let off =
            |pick: fn(f64, f64) -> f64, from| self.ratings.iter().map(|r| r.off).fold(from, pick);
        (off(f64::max, f64::NEG_INFINITY) - off(f64::min, f64::INFINITY)).max(0.0)
    }

    /// Whether the ratings disagree by more than labels do by nature.
    pub fn in_conflict(&self) -> bool {
        self.conflict() > NATURAL_CONFLICT
    }
}

/// Fits one battery to every rating on its label.
///
/// One rating gives the size; its shape is the chemistry's. Two or more also move the available
/// share and the recovery rate, held back by how far the chemistry's are trusted. Two ratings
/// cannot identify the recovery rate: it stays near its prior, and the band says so.
///
/// # Errors
/// [`NotForTraction`] when the label has no capacity: cranking amps are never turned into Ah.
pub fn fit(battery: &Battery) -> Result<Fit, NotForTraction> {
    let (headline, headline_hours) = battery.headline()?;
    let cells = battery.cells();
    let points: Vec<(f64, f64)> = battery
        .ratings
        .iter()
        .map(|r| (r.hours().value(), r.amp_hours(battery.nominal_voltage).value()))
        .collect();
    let mut cell =
        CellParameters::typical(battery.chemistry).sized(battery.chemistry, headline.value());
    let recovery = if points.len() > 1 && battery.chemistry.is_lead() {
        (cell.c, cell.k) = shape(&cell, &points);
        Origin::Label
    } else {
        Origin::Typical
    };
    // The size each rating implies on its own; their geometric middle is the battery.
    let implied: Vec<f64> = points.iter().map(|&(t, q)| implied_q20(cell, cells, t, q)).collect();
    let q20 = (implied.iter().map(|q| q.ln()).sum::<f64>() / implied.len() as f64).exp();
    let mut resistance = Origin::Typical;
    if let Some(ohms) = battery.resistance {
        cell.r = ohms.value() * q20 / f64::from(cells);
        resistance = battery.origin(Detail::RESISTANCE);
    }
    let mut law = UnitLaw::new(cell, cells, q20);
    if battery.low_voltage_cutoff.is_some() {
        law = law.ending_at(battery.end_voltage().value());
    }
    let hours = points.iter().map(|p| p.0);
    Ok(Fit {
        law,
        cell,
        q20,
        ratings: std::iter::zip(&battery.ratings, &implied)
            .map(|(rating, q)| RatingFit { rating: *rating, off: q / q20 - 1.0 })
            .collect(),
        recovery,
        resistance,
        peukert: peukert(battery.chemistry, &points, headline.value(), headline_hours.value()),
        rated_hours: (hours.clone().fold(f64::INFINITY, f64::min), hours.fold(0.0, f64::max)),
    })
}

/// Halvings of the bracket of sizes that leave it narrower than a billionth.
const HALVINGS: usize = 35;

/// The 20-hour size of a unit that gives `ah` over `hours`. [Ah]
///
/// Run time depends on current and size only through their ratio, so one search over that ratio
/// does for every size.
fn implied_q20(cell: CellParameters, cells: u32, hours: f64, ah: f64) -> f64 {
    let one = UnitLaw::new(cell, cells, 1.0);
    let bracket = (1e-6_f64.ln(), 1e3_f64.ln());
    let (low, high) = halved(bracket, HALVINGS, |x| one.runtime(x.exp()) > hours);
    (ah / hours) / (0.5 * (low + high)).exp()
}

/// Available share and recovery rate that bring the ratings closest together, against the
/// chemistry's own as a prior. A coarse grid made finer around its best point: safe, and always
/// the same answer.
fn shape(prior: &CellParameters, points: &[(f64, f64)]) -> (f64, f64) {
    let badness = |dc: f64, dk: f64| {
        let (c, k) = (prior.c + dc, prior.k * dk.exp());
        let sizes: Vec<f64> = points
            .iter()
            .map(|&(t, q)| {
                let kt = k * t;
                (q * (kt * c + (1.0 - c) * -(-kt).exp_m1()) / (kt * c)).ln()
            })
            .collect();
        let mean = sizes.iter().sum::<f64>() / sizes.len() as f64;
        let misfit: f64 = sizes.iter().map(|s| ((s - mean) / RATING_SPREAD).powi(2)).sum();
        misfit + (dc / AVAILABLE_SPREAD).powi(2) + (dk / RECOVERY_SPREAD).powi(2)
    };
    let (mut best, mut reach) = ((0.0, 0.0), (0.18, 1.2));
    for _ in 0..6 {
        let centre = best;
        let mut least = badness(best.0, best.1);
        for a in -4..=4 {
            for b in -4..=4 {
                let at = (
                    (centre.0 + reach.0 * f64::from(a) / 4.0).clamp(-0.25, 0.25),
                    centre.1 + reach.1 * f64::from(b) / 4.0,
                );
                let now = badness(at.0, at.1);
                if now < least {
                    (least, best) = (now, at);
                }
            }
        }
        reach = (reach.0 * 0.3, reach.1 * 0.3);
    }
    (prior.c + best.0, prior.k * best.1.exp())
}

/// Peukert's law through the longest and the shortest rating, or with the chemistry's exponent.
fn peukert(chemistry: Chemistry, points: &[(f64, f64)], capacity: f64, hours: f64) -> Peukert {
    let shortest = points.iter().min_by(|a, b| a.0.total_cmp(&b.0)).copied();
    let through = shortest.filter(|s| s.0 < hours * 0.95).and_then(|(t, q)| {
        Peukert::through([capacity / hours, q / t], [hours, t])
            .filter(|p| (1.0..1.7).contains(&p.exponent))
    });
    through.unwrap_or(Peukert { capacity, hours, exponent: chemistry.peukert_exponent() })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::{AmpHours, Amps, Hours, Ohms, Volts};

    fn ah(ah: f64, hours: f64) -> Rating {
        Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(hours) }
    }

    fn at(amps: f64, minutes: f64) -> Rating {
        Rating::Runtime { at: Amps::of(amps), lasted: Hours::from_minutes(minutes) }
    }

    fn flooded(volts: f64, ratings: &[Rating]) -> Battery {
        let mut b = Battery::new("unit", Chemistry::Flooded, Volts::of(volts), ratings[0]);
        b.ratings = ratings.to_vec();
        b
    }

    /// A generic 6 V golf-car table from datasheets: 225 Ah at 20 h, 207 at 10 h, 185 at 5 h,
    /// 447 min at 25 A, 115 min at 75 A. They disagree among themselves by 6 to 9 %.
    #[test]
    fn the_golf_car_table_is_met_within_ten_percent_at_every_rate() {
        let table =
            [ah(225.0, 20.0), ah(207.0, 10.0), ah(185.0, 5.0), at(25.0, 447.0), at(75.0, 115.0)];
        for given in [&table[..1], &table[..2], &table[..]] {
            let fitted = fit(&flooded(6.0, given)).expect("has ratings");
            for rating in table {
                let (hours, ah) =
                    (rating.hours().value(), rating.amp_hours(Volts::of(6.0)).value());
                let lasts = fitted.law.runtime(ah / hours);
                let off = lasts / hours - 1.0;
                assert!(
                    off.abs() < 0.10,
                    "{} ratings given, {}: {off:+.3}",
                    given.len(),
                    rating.words()
                );
            }
        }
        let all = fit(&flooded(6.0, &table)).expect("has ratings");
        assert!((0.03..0.10).contains(&all.conflict()), "conflict {}", all.conflict());
        assert!(!all.in_conflict());
    }

    /// SAE J537 reserve capacity with Peukert's exponents 1.15 to 1.25: 180 min is 96 to 110 Ah at
    /// the 20-hour rate, 120 min is 67 to 79 Ah (algebra of the rated-hours form).
    #[test]
    fn reserve_minutes_alone_give_a_twenty_hour_size_inside_the_published_band() {
        for (minutes, low, high) in [(180.0, 96.1, 109.6), (120.0, 67.5, 79.2)] {
            let fitted = fit(&flooded(12.0, &[Rating::reserve(minutes)])).expect("has a rating");
            assert!((low..=high).contains(&fitted.q20), "RC {minutes}: {}", fitted.q20);
        }
    }

    #[test]
    fn ratings_that_cannot_be_one_battery_are_reported_with_the_size_of_the_conflict() {
        let lying = fit(&flooded(12.0, &[ah(140.0, 20.0), Rating::reserve(150.0)])).expect("fits");
        assert!(lying.in_conflict(), "{}", lying.conflict());
        assert!(lying.ratings[0].off > 0.0 && lying.ratings[1].off < 0.0);
        let honest = fit(&flooded(12.0, &[ah(105.0, 20.0), Rating::reserve(185.0)])).expect("fits");
        assert!(!honest.in_conflict(), "{}", honest.conflict());
    }

    #[test]
    fn a_starting_battery_is_never_given_ampere_hours() {
        let mut cranker = flooded(12.0, &[ah(1.0, 20.0)]);
        cranker.ratings.clear();
        cranker.cranking = Some(Amps::of(650.0));
        assert_eq!(fit(&cranker), Err(NotForTraction));
    }

    #[test]
    fn a_measured_resistance_replaces_the_typical_one() {
        let mut b = Battery::new("unit", Chemistry::Lfp, Volts::of(12.8), ah(100.0, 5.0));
        b.resistance = Some(Ohms::of(0.012));
        let fitted = fit(&b).expect("fits");
        assert!((fitted.law.ohms() - 0.012).abs() < 1e-9);
        assert_eq!(fitted.resistance, Origin::Label);
    }
}
