//! From a label's ratings to one fitted battery, with the size of their disagreement.
//!
//! A rating of Q Ah over T hours fixes `z = Q/C`, the share of the 20-hour capacity C that the law gives in that time:
//!
//! ```text
//! z + a (z φ/T)^n + Qm h_end = Qm/C,   φ = 1 - w e^(-T/τ)
//! ```
//!
//! with `h_end` the charge at which lithium's open-circuit curve is down to its end for the resistance, nothing for
//! lead. One rating gives C. Two or more also move `a`, three or more how long a current is remembered, four or more
//! the exponent, by least squares against what is usual (Gauss and Newton), weighed by how far each rating is
//! trusted; C is then the mean of what they say. What is left open comes out beside it and widens the band.

use super::law::{CellParameters, UnitLaw};
use super::peukert::Peukert;
use crate::numeric::{Moved, Power, last_positive, least_squares};
use crate::shelf::{Battery, Chemistry, Detail, NotForTraction, Rating};
use crate::source::Origin;

/// Disagreement up to which labels are taken to mean the same battery.
///
/// Published ratings of one and the same battery disagree by 6 to 9 % by nature: a generic golf-car
/// table gives 186 Ah in 7.45 h and 185 Ah in 5 h.
pub const NATURAL_CONFLICT: f64 = 0.10;

/// How far a rating of a label is trusted against the others: one standard deviation of its logarithm. Estimate.
const LABEL_SPREAD: f64 = 0.02;
/// The same for one that was measured: a meter and a clock. Estimate.
const MEASURED_SPREAD: f64 = 0.003;
/// How far two ratings of a label may move lead's `a` (their own 2 % weigh less than what eight builds of a kind have
/// in common): one standard deviation of its logarithm.
const A_BY_TWO_LABELS: f64 = 0.6;
/// How far measured ratings, or three of a label, may move lead's `a`.
const A_SPREAD: f64 = 1.0;
/// How far any two ratings may move lithium's, which is next to nothing in most cells and large in a few.
const A_OF_LITHIUM: f64 = 2.5;
/// How far three ratings may move how long a current is remembered: of its logarithm.
const MEMORY_SPREAD: f64 = 0.5;
/// How far four ratings may move the exponent.
const EXPONENT_SPREAD: f64 = 0.1;
/// How unsure `a` is when one rating says nothing of it: makers' tables of a kind differ by a fifth.
const A_UNTOLD: f64 = 0.2;

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
    /// Whether what a current puts out of reach was moved by the ratings or is the chemistry's.
    pub shape: Origin,
    /// What the ratings leave open.
    pub open: Open,
    /// Whether a rating among them was measured.
    pub measured: bool,
    /// Where the resistance comes from.
    pub resistance: Origin,
    /// Peukert's law through the same ratings.
    pub peukert: Peukert,
    /// Longest and shortest rated discharge: outside it the prediction leans on the chemistry. [h]
    pub rated_hours: (f64, f64),
}

/// What the ratings leave open: one standard deviation each.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Open {
    /// Of the logarithm of the size.
    pub size: f64,
    /// Of the logarithm of what a current puts out of reach.
    pub a: f64,
    /// Of the logarithm of how long a current is remembered.
    pub memory: f64,
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

/// A rating as the fit sees it.
#[derive(Clone, Copy)]
struct Told {
    /// Over how long. [h]
    hours: f64,
    /// How much. [Ah]
    ah: f64,
    /// How far it is trusted: one standard deviation of its logarithm.
    spread: f64,
}

/// Fits one battery to every rating on its label.
///
/// # Errors
/// [`NotForTraction`] when the label has no capacity: cranking amps are never turned into Ah.
pub fn fit(battery: &Battery) -> Result<Fit, NotForTraction> {
    let (headline, headline_hours) = battery.headline()?;
    let (chemistry, cells) = (battery.chemistry, battery.cells());
    let told: Vec<Told> = battery.ratings.iter().map(|r| Told::of(battery, r)).collect();
    let mut cell = CellParameters { ocv: rests(battery), ..CellParameters::typical(chemistry) };
    let resistance = if battery.resistance.is_some() {
        battery.origin(Detail::RESISTANCE)
    } else {
        Origin::Typical
    };
    // Ohms are r x cells / C; the label's figure for C is near enough for what they take from the end.
    resist(&mut cell, battery, headline.value());
    let (shape, open) = shape(&mut cell, &told);
    // The size each rating implies on its own; their weighed geometric middle is the battery.
    let implied: Vec<f64> = told.iter().map(|t| t.ah / share_given(&cell, t.hours)).collect();
    let q20 = middle(&told, &implied).exp();
    resist(&mut cell, battery, q20);
    let mut law = UnitLaw::new(cell, cells, q20).counted_in(counted_in(battery, q20));
    if let Some(heat) = chemistry.facts().heat {
        law = law.warmed_by_use(heat.joules, battery.mass);
    }
    if battery.low_voltage_cutoff.is_some() {
        law = law.ending_at(battery.end_voltage().value());
    }
    let hours = told.iter().map(|t| t.hours);
    Ok(Fit {
        law,
        cell,
        q20,
        ratings: std::iter::zip(&battery.ratings, &implied)
            .map(|(rating, q)| RatingFit { rating: *rating, off: q / q20 - 1.0 })
            .collect(),
        shape,
        open,
        measured: told.iter().any(|t| t.spread <= MEASURED_SPREAD),
        resistance,
        peukert: peukert(chemistry, &told, headline.value(), headline_hours.value()),
        rated_hours: (hours.clone().fold(f64::INFINITY, f64::min), hours.fold(0.0, f64::max)),
    })
}

/// The ampere-hours that a charge share is a share of: a lead label's over twenty hours, or the fitted ones where it rates over
/// other times; a lithium label's own. [Ah]
fn counted_in(battery: &Battery, q20: f64) -> f64 {
    let over_twenty = |r: &&Rating| (r.hours().value() - 20.0).abs() < 0.01;
    let told = if battery.chemistry.is_lead() {
        battery.ratings.iter().find(over_twenty).map(|r| r.amp_hours(battery.nominal_voltage))
    } else {
        battery.headline().ok().map(|(ah, _)| ah)
    };
    // A label that its other ratings, or what was measured, contradict is not what a charge is counted in.
    let told = told.map(crate::units::AmpHours::value);
    told.filter(|ah| (ah / q20).ln().abs() <= NATURAL_CONFLICT).unwrap_or(q20)
}

/// How the cells of a battery rest by their charge. Nickel by the family that its nominal volts a cell name, and moved so that its
/// mean is what the label's watt-hours over its ampere-hours say, up to a tenth of a volt a cell.
fn rests(battery: &Battery) -> crate::chemistry::Ocv {
    let usual = battery.chemistry.facts().cell.ocv;
    if battery.chemistry != Chemistry::Nmc {
        return usual;
    }
    let cells = f64::from(battery.cells());
    let family = crate::chemistry::nmc::family(battery.nominal_voltage.value() / cells);
    let told = battery.printed_energy.zip(battery.headline().ok());
    let mean = told.map(|(energy, (ah, hours))| {
        // What the resistance took of it at that current comes back on top.
        let i = 1.0 / hours.value();
        energy.value() / ah.value() / cells + battery.chemistry.facts().cell.r * i
    });
    let by = mean.map_or(0.0, |mean| mean - family.mean());
    if by.abs() <= MOST_SHIFTED { family.shifted(by) } else { family }
}

/// A label's energy that asks for more than this says something else. [V a cell] Estimate: blends differ by as much.
const MOST_SHIFTED: f64 = 0.15;
/// What BMS and leads of a lithium unit take: so many volts at its continuous current, at the most so many ohms. Estimates; with
/// them twelve volts' worth of 7 to 280 Ah meet what bench figures say.
const BMS_TAKES: (f64, f64) = (0.2, 0.030);

/// Sets the resistance of the cells of a battery of a size: as given, else what is usual. [Ah]
fn resist(cell: &mut CellParameters, battery: &Battery, size: f64) {
    let per_cell = |ohms: f64| ohms * size / f64::from(battery.cells());
    if let Some(ohms) = battery.resistance {
        // What was given is all of it.
        (cell.r, cell.leads) = (per_cell(ohms.value()), 0.0);
    } else if cell.rates.acid {
        cell.r = crate::chemistry::lead::resists(cell.rates.a);
    } else {
        // Where the label does not tell it carries its own ampere-hours in an hour.
        let amps = battery.max_continuous.map_or(size, crate::units::Amps::value);
        cell.leads = per_cell((BMS_TAKES.0 / amps).min(BMS_TAKES.1));
    }
}

impl Told {
    /// A rating with how far it is trusted.
    fn of(battery: &Battery, rating: &Rating) -> Self {
        let by = match rating {
            Rating::Runtime { .. } => Detail::RATINGS,
            Rating::Capacity { .. } | Rating::Energy { .. } => Detail::CAPACITY,
        };
        Self {
            hours: rating.hours().value(),
            ah: rating.amp_hours(battery.nominal_voltage).value(),
            spread: match battery.origin(by) {
                Origin::Measured => MEASURED_SPREAD,
                _ => LABEL_SPREAD,
            },
        }
    }
}

/// Share of its 20-hour capacity that a cell gives in some hours at a steady current, from full to its rated end.
pub fn share_given(cell: &CellParameters, hours: f64) -> f64 {
    let rates = &cell.rates;
    let (all, power) = (rates.q_max_over_q20(), Power::of(rates.n));
    let felt = (1.0 - rates.w() * (-hours / rates.tau()).exp()) / hours;
    let left = |z: f64| {
        let kept = if rates.acid {
            0.0
        } else {
            all * cell.ocv.share_at(cell.v_end + (cell.r + cell.leads) * z / hours)
        };
        all - kept - z - rates.a * power.raise(z * felt)
    };
    last_positive(left, all)
}

/// Logarithm of the weighed geometric middle of some sizes.
fn middle(told: &[Told], sizes: &[f64]) -> f64 {
    let weight = |t: &Told| t.spread.powi(-2);
    let whole: f64 = told.iter().map(weight).sum();
    std::iter::zip(told, sizes).map(|(t, q)| weight(t) * q.ln()).sum::<f64>() / whole
}

/// Moves the shape of a cell to where its ratings agree best, and says what they leave open: the logarithm of `a`, then
/// that of the memory, then the exponent.
fn shape(cell: &mut CellParameters, told: &[Told]) -> (Origin, Open) {
    let usual = cell.rates;
    let hours = |pick: fn(f64, f64) -> f64, from| told.iter().map(|t| t.hours).fold(from, pick);
    // Ratings over the same time say nothing of the shape.
    let told_apart = hours(f64::max, 0.0) > 1.2 * hours(f64::min, f64::INFINITY);
    let untold =
        Open { size: told.first().map_or(0.0, |t| t.spread), a: A_UNTOLD, memory: MEMORY_SPREAD };
    if told.len() < 2 || !told_apart {
        return (Origin::Typical, untold);
    }
    let measured = told.iter().any(|t| t.spread <= MEASURED_SPREAD);
    let a_spread = match (usual.acid, measured || told.len() > 2) {
        (true, true) => A_SPREAD,
        (true, false) => A_BY_TWO_LABELS,
        (false, _) => A_OF_LITHIUM,
    };
    let spreads = [a_spread, MEMORY_SPREAD, EXPONENT_SPREAD];
    let free = (told.len() - 1).min(spreads.len());
    let at = |moved: &Moved| {
        let rates = crate::chemistry::Rates {
            a: usual.a * moved[0].exp(),
            memory: usual.memory * moved[1].exp(),
            n: usual.n + moved[2],
            ..usual
        };
        CellParameters { rates, ..*cell }
    };
    // Each rating's distance from the middle, then each parameter's from the usual one, in standard deviations.
    let residuals = |moved: &Moved| -> Vec<f64> {
        let now = at(moved);
        let sizes: Vec<f64> = told.iter().map(|t| t.ah / share_given(&now, t.hours)).collect();
        let mean = middle(told, &sizes);
        let off = std::iter::zip(told, &sizes).map(|(t, q)| (q.ln() - mean) / t.spread);
        off.chain((0..free).map(|p| moved[p] / spreads[p])).collect()
    };
    // Ratings that ask for a shape that none of the kind has contradict each other.
    let (moved, spread) = least_squares(residuals, free, spreads.map(|s| 2.0 * s));
    let best = at(&moved);
    cell.rates = best.rates;
    let weights: f64 = told.iter().map(|t| t.spread.powi(-2)).sum();
    let open = Open {
        size: weights.powf(-0.5),
        a: spread[0],
        memory: if free > 1 { spread[1] } else { MEMORY_SPREAD },
    };
    (if measured { Origin::Measured } else { Origin::Label }, open)
}

/// Peukert's law through the longest and the shortest rating, or with the chemistry's exponent.
fn peukert(chemistry: Chemistry, told: &[Told], capacity: f64, hours: f64) -> Peukert {
    let shortest = told.iter().min_by(|a, b| a.hours.total_cmp(&b.hours));
    let through = shortest.filter(|s| s.hours < hours * 0.95).and_then(|s| {
        Peukert::through([capacity / hours, s.ah / s.hours], [hours, s.hours])
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
