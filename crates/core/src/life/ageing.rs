//! Life ends at the first of: the cycles at *this* depth, the calendar, or the horizon looked at.

use crate::keyed::keyed;
use crate::shelf::{Battery, Chemistry, CyclePoint, Detail, Purpose};
use crate::source::{Figure, Origin};
use crate::units::{AmpHours, Amps, Celsius};

/// How the pack is kept between outings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Keeping {
    /// Temperature it spends most of its life at. [°C]
    pub temperature: Celsius,
    /// Charge it rests at, 0 to 1.
    pub resting_charge: f64,
    /// Which school of ageing counts.
    pub school: School,
}

keyed! {
    /// What wears lithium most: two schools, neither settled. Lead knows the first only.
    pub enum School {
        /// Years, warmth and the charge it rests at, as storage models have it; where in the charge it is cycled does
        /// not count.
        Calendar,
        /// Cycles near full as well: those in the top quarter wear most, in the bottom quarter least.
        Window,
    }
}

/// Cycles near full by the second school: a middle of the cycles that lies this much higher halves their number.
///
/// Only the order is published: a window of 75 to 100 % worst, 0 to 25 % best (S. Zsoldos et al., J. Electrochem. Soc.
/// 171 (2024) 080527). Half as many and twice as many at these ends: estimate.
const HALVES_AT: f64 = 0.375;

impl Keeping {
    /// At 25 °C, charged full after each outing: what labels mean.
    pub const AS_RATED: Self =
        Self { temperature: Celsius::of(25.0), resting_charge: 1.0, school: School::Calendar };
}

keyed! {
    /// What ends a pack's life first.
    pub enum EndedBy {
        /// Its cycles at this depth are used up.
        Cycles,
        /// It is too old.
        Calendar,
        /// Neither within the years looked at.
        Horizon,
    }
}

/// The life of a pack at one use.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Life {
    /// Years until it is replaced, or the horizon.
    pub years: f64,
    /// Outings it serves in them.
    pub outings: f64,
    /// What ended it.
    pub ended_by: EndedBy,
    /// Full cycles it would bear at this depth.
    pub cycles: Figure<f64>,
    /// Years the calendar allows, as kept.
    pub calendar_years: Figure<f64>,
    /// Years by the other school; the same for lead. Both together are the band.
    pub other_school_years: f64,
    /// Share of it that is left: 1 of a new pack, 0 of one that is worn.
    pub left: f64,
}

/// How far cycles and years may lie off what is told, as shares. Cycles: the ampere-hours of a whole life, which makers'
/// curves put on one line, scatter by so much; years: the spread that owners report of one chemistry (flooded 4 to 7, AGM 4
/// to 8, LFP 8 to 15). Common practice, no source.
const UNSURE: (f64, f64) = (0.35, UNSURE_YEARS);
/// See above.
pub const UNSURE_YEARS: f64 = 0.30;

impl Life {
    /// What is left of it, as a share: of a pack that has been used before.
    #[must_use]
    pub fn with_left(self, left: f64, per_year: f64, horizon: f64) -> Self {
        let years = self.lasts(per_year) * left;
        let (years, ended_by) = if years < horizon {
            let by_cycles =
                per_year > 0.0 && self.cycles.value / per_year < self.calendar_years.value;
            (years, if by_cycles { EndedBy::Cycles } else { EndedBy::Calendar })
        } else {
            (horizon, EndedBy::Horizon)
        };
        let other_school_years = (self.other_school_years * left).min(horizon);
        Self { years, outings: years * per_year, ended_by, other_school_years, left, ..self }
    }

    /// Years until it is worn, however far anyone looks ahead: by cycles or by the calendar, whichever is nearer.
    pub fn lasts(&self, per_year: f64) -> f64 {
        let by_cycles = if per_year > 0.0 { self.cycles.value / per_year } else { f64::INFINITY };
        by_cycles.min(self.calendar_years.value)
    }

    /// The same on the short side and on the long one, the other school of ageing among what is not known.
    pub fn lasts_between(&self, per_year: f64) -> (f64, f64) {
        let by_cycles = if per_year > 0.0 { self.cycles.value / per_year } else { f64::INFINITY };
        let at = |way: f64| {
            let (cycles, years) = (1.0 + way * UNSURE.0, 1.0 + way * UNSURE.1);
            (by_cycles * cycles).min(self.calendar_years.value * years)
        };
        (at(-1.0), at(1.0))
    }

    /// Years until it is worn where years and cycles add up, on the short side of both: `1 / L = 1 / L_years + 1 / L_cycles`.
    ///
    /// Labels promise each as if the other did nothing, and [`lasts`](Self::lasts) takes them at their word. A cell model has them
    /// add (BLAST-Lite 1.1.0): who follows a pack through its years wants to know that edge.
    pub fn lasts_adding(&self, per_year: f64) -> f64 {
        let years = 1.0 / (self.calendar_years.value * (1.0 - UNSURE.1));
        let cycles = per_year / (self.cycles.value * (1.0 - UNSURE.0));
        1.0 / (years + cycles)
    }
}

/// Life at a depth of discharge used so many times a year.
///
/// 300 outings of a pack promised 5,000 cycles are 300, not 5,000: the calendar and the horizon
/// cap them, however good the cell.
pub fn life(battery: &Battery, depth: f64, per_year: f64, keeping: Keeping, horizon: f64) -> Life {
    life_between(battery, (1.0 - depth, 1.0), per_year, keeping, horizon)
}

/// The same at a use between two charge shares, low and high.
pub fn life_between(
    battery: &Battery,
    between: (f64, f64),
    per_year: f64,
    keeping: Keeping,
    horizon: f64,
) -> Life {
    let by = |school| by_school(battery, between, per_year, Keeping { school, ..keeping }, horizon);
    let other = match keeping.school {
        School::Calendar => School::Window,
        School::Window => School::Calendar,
    };
    Life { other_school_years: by(other).years, ..by(keeping.school) }
}

/// How many times as many cycles as its label's a battery bears between two charge shares, by a school. A label means
/// cycles about the middle of the charge.
fn window_factor(chemistry: Chemistry, (low, high): (f64, f64), school: School) -> f64 {
    if chemistry.is_lead() || school == School::Calendar {
        return 1.0;
    }
    0.5_f64.powf((0.5 * (low + high) - 0.5) / HALVES_AT)
}

/// Life by one school.
fn by_school(
    battery: &Battery,
    between: (f64, f64),
    per_year: f64,
    keeping: Keeping,
    horizon: f64,
) -> Life {
    let at_depth = cycles_at(battery, between.1 - between.0);
    let factor = window_factor(battery.chemistry, between, keeping.school);
    let cycles = Figure { value: at_depth.value * factor, ..at_depth };
    let rated = match battery.calendar_years {
        Some(value) => Figure { value, origin: battery.origin(Detail::YEARS) },
        None => Figure { value: battery.chemistry.typical_years(), origin: Origin::Typical },
    };
    let calendar_years =
        Figure { value: rated.value * calendar_factor(battery.chemistry, keeping), ..rated };
    let by_cycles = if per_year > 0.0 { cycles.value / per_year } else { f64::INFINITY };
    let (years, ended_by) = [
        (by_cycles, EndedBy::Cycles),
        (calendar_years.value, EndedBy::Calendar),
        (horizon, EndedBy::Horizon),
    ]
    .into_iter()
    .min_by(|a, b| a.0.total_cmp(&b.0))
    .unwrap_or((horizon, EndedBy::Horizon));
    Life {
        years,
        outings: years * per_year,
        ended_by,
        cycles,
        calendar_years,
        other_school_years: years,
        left: 1.0,
    }
}

/// Of a deep-cycle battery's cycles what one made for something else bears: thin lead plates that start engines a few dozen deep
/// ones, dual-purpose ones half. Common practice, no source.
fn made_for(battery: &Battery) -> f64 {
    match battery.purpose {
        Some(Purpose::Starting) if battery.chemistry.is_lead() => 0.08,
        Some(Purpose::DualPurpose) if battery.chemistry.is_lead() => 0.5,
        _ => 1.0,
    }
}

/// Cycles until 80 % of the capacity is left, at a depth of discharge from 0 to 1.
///
/// Straight on log-log axes between the label's points; beyond them, and from a single point, along
/// the chemistry's typical curve scaled to the nearest point.
pub fn cycles_at(battery: &Battery, depth: f64) -> Figure<f64> {
    let depth = depth.clamp(0.01, 1.0);
    let typical = |depth| battery.chemistry.typical_cycles_at(depth);
    if battery.cycles.is_empty() {
        return Figure { value: typical(depth) * made_for(battery), origin: Origin::Typical };
    }
    let mut points: Vec<(f64, f64)> =
        battery.cycles.iter().map(|CyclePoint { depth, cycles }| (*depth, *cycles)).collect();
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (first, last) = (points[0], points[points.len() - 1]);
    let anchored = |(d, n): (f64, f64)| n * typical(depth) / typical(d);
    let value = if depth <= first.0 {
        anchored(first)
    } else if depth >= last.0 {
        anchored(last)
    } else {
        crate::numeric::log_log(&points, depth)
    };
    Figure { value, origin: battery.origin(Detail::CYCLES) }
}

/// Capacity lost in ten years of storage by an LFP cell, (°C, stored full, stored half full).
/// Source: BLAST-Lite 1.1.0, its 250 Ah LFP/graphite model, run at constant temperature.
const LFP_STORAGE: [(f64, f64, f64); 3] =
    [(10.0, 0.022, 0.014), (25.0, 0.058, 0.037), (40.0, 0.140, 0.092)];

/// Factor on the label's calendar years for how the pack is kept; 1 at 25 °C and full.
///
/// Lead: halves for every 8.33 °C (15 °F) over 25 °C (IEEE 450, IEEE 1188); no gain below, where
/// other things end it. Lithium: by the modelled storage losses, but at most 1.5, since
/// electronics and seals age too (estimate).
pub fn calendar_factor(chemistry: Chemistry, keeping: Keeping) -> f64 {
    let t = keeping.temperature.value();
    if chemistry.is_lead() {
        return 0.5_f64.powf((t - 25.0).max(0.0) / (15.0 / 1.8));
    }
    let (full, half) = storage_loss(t);
    // Between half and full the loss is taken as straight; below half it stays.
    let part = ((keeping.resting_charge - 0.5) / 0.5).clamp(0.0, 1.0);
    (LFP_STORAGE[1].1 / (half + (full - half) * part)).min(1.5)
}

/// Ten-year storage loss of LFP, (full, half full): straight in its logarithm between the rows.
fn storage_loss(t: f64) -> (f64, f64) {
    let t = t.clamp(0.0, 55.0);
    let at = usize::from(t > LFP_STORAGE[1].0);
    let (low, high) = (LFP_STORAGE[at], LFP_STORAGE[at + 1]);
    let part = (t - low.0) / (high.0 - low.0);
    let between = |a: f64, b: f64| a * (b / a).powf(part);
    (between(low.1, high.1), between(low.2, high.2))
}

/// Share of the capacity left after some years of this use, straight down to 80 % at the end of
/// `life` by whichever of cycles and calendar is nearer. A straight line is the plain reading of
/// "so many until 80 %"; real cells lose a little more at first.
pub fn capacity_after(life: &Life, per_year: f64, years: f64) -> f64 {
    (1.0 - 0.2 * years / life.lasts(per_year)).max(0.0)
}

/// Share of the charge that a battery loses in a month of rest at 25 °C: its label's, or what is typical.
pub fn self_discharge(battery: &Battery) -> Figure<f64> {
    match battery.self_discharge {
        Some(value) => Figure { value, origin: battery.origin(Detail::SELF_DISCHARGE) },
        None => {
            Figure { value: battery.chemistry.facts().self_discharge.0, origin: Origin::Typical }
        }
    }
}

/// Share of the charge lost in a month of rest at a temperature: it doubles for every 10 °C, up to all of it.
fn lost_in_a_month(battery: &Battery, at: Celsius) -> f64 {
    (self_discharge(battery).value * 2_f64.powf((at.value() - 25.0) / 10.0)).min(1.0)
}

/// Charge left of a battery put away for some months, 0 to 1: the loss compounds, and doubles for every 10 °C.
pub fn charge_after_storage(battery: &Battery, charge: f64, months: f64, at: Celsius) -> f64 {
    charge * (1.0 - lost_in_a_month(battery, at)).powf(months)
}

/// Hours of a month of storage. [h]
const MONTH: f64 = 365.25 * 24.0 / 12.0;

/// What a time in storage leaves.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Stored {
    /// So much charge, 0 to 1.
    Left(f64),
    /// Flat: lithium's protection has opened, and not every charger wakes it.
    Flat,
    /// Flat, and lead left so is ruined.
    Ruined,
}

/// The same with a vehicle that draws `drain` all the time from `capacity` ampere-hours: the two losses together, in
/// closed form `q' = -λ q - d`.
pub fn after_storage(
    battery: &Battery,
    charge: f64,
    months: f64,
    at: Celsius,
    drain: Amps,
    capacity: AmpHours,
) -> Stored {
    let lost = lost_in_a_month(battery, at);
    if lost >= 1.0 {
        return flat(battery.chemistry);
    }
    let (rate, by_drain) = (-(1.0 - lost).ln(), drain.value() * MONTH / capacity.value());
    // Where nothing is lost by itself the drain alone is a straight line.
    let left = if rate > 1e-12 {
        (charge + by_drain / rate) * (-rate * months).exp() - by_drain / rate
    } else {
        charge - by_drain * months
    };
    if left > 0.0 { Stored::Left(left) } else { flat(battery.chemistry) }
}

/// What being flat means to a chemistry.
const fn flat(chemistry: Chemistry) -> Stored {
    if chemistry.is_lead() { Stored::Ruined } else { Stored::Flat }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shelf::Rating;
    use crate::units::{AmpHours, Hours, Volts};

    fn battery(chemistry: Chemistry, cycles: &[(f64, f64)]) -> Battery {
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        let mut b = Battery::new("b", chemistry, Volts::of(12.0), rating);
        b.cycles = cycles.iter().map(|&(depth, cycles)| CyclePoint { depth, cycles }).collect();
        b
    }

    /// Makers' curves for good flooded deep-cycle units: 50 % gives 1000 to 1200, 80 % 550 to 750.
    #[test]
    fn cycles_follow_the_label_between_its_points_and_the_chemistry_beyond() {
        let plain = battery(Chemistry::Flooded, &[]);
        assert!((1000.0..=1200.0).contains(&cycles_at(&plain, 0.5).value));
        assert!((550.0..=750.0).contains(&cycles_at(&plain, 0.8).value));
        let labelled = battery(Chemistry::Lfp, &[(0.8, 3500.0)]);
        assert!((cycles_at(&labelled, 0.8).value - 3500.0).abs() < 1e-9);
        assert!(
            cycles_at(&labelled, 0.5).value > 3500.0 && cycles_at(&labelled, 1.0).value < 3500.0
        );
        assert_eq!(cycles_at(&labelled, 0.5).origin, Origin::Label);
        let two = battery(Chemistry::Agm, &[(0.8, 400.0), (0.5, 900.0)]);
        let middle = cycles_at(&two, 0.632_455_532).value;
        assert!((middle - 600.0).abs() < 1.0, "the geometric middle: {middle}");
    }

    /// Arithmetic: 100 outings a year for 15 years is 1,500 cycles however good the cell is.
    #[test]
    fn the_calendar_caps_the_cycles() {
        let mut cell = battery(Chemistry::Lfp, &[(1.0, 5000.0)]);
        cell.calendar_years = Some(15.0);
        let rarely = life(&cell, 1.0, 100.0, Keeping::AS_RATED, 20.0);
        assert_eq!(rarely.ended_by, EndedBy::Calendar);
        assert!((rarely.outings - 1500.0).abs() < 1e-9);
        let daily = life(&cell, 1.0, 1000.0, Keeping::AS_RATED, 20.0);
        assert_eq!(daily.ended_by, EndedBy::Cycles);
        assert!((daily.years - 5.0).abs() < 1e-9);
        assert_eq!(life(&cell, 1.0, 10.0, Keeping::AS_RATED, 10.0).ended_by, EndedBy::Horizon);
        assert!(life(&cell, 1.0, 0.0, Keeping::AS_RATED, 10.0).years.is_finite());
    }

    /// IEEE 450 / IEEE 1188: life of lead halves per 15 °F (8.33 °C) over 25 °C; 35 °C leaves 43.5 %.
    #[test]
    fn heat_shortens_the_calendar() {
        let at = |t| Keeping { temperature: Celsius::of(t), ..Keeping::AS_RATED };
        assert!((calendar_factor(Chemistry::Agm, at(35.0)) - 0.435).abs() < 5e-4);
        assert!((calendar_factor(Chemistry::Agm, at(10.0)) - 1.0).abs() < 1e-12);
        assert!((calendar_factor(Chemistry::Lfp, at(25.0)) - 1.0).abs() < 1e-12);
        assert!(calendar_factor(Chemistry::Lfp, at(40.0)) < 0.5);
        let half = Keeping { resting_charge: 0.5, ..Keeping::AS_RATED };
        assert!(calendar_factor(Chemistry::Lfp, half) > 1.3);
    }

    /// Compound arithmetic (handbooks' 5 % a month): six months lose 26.5 %, not 30 %; 10 °C more
    /// doubles the rate, 10 °C less halves it.
    #[test]
    fn self_discharge_compounds_and_doubles_with_warmth() {
        let plain = battery(Chemistry::Flooded, &[]);
        let left = |months, t| charge_after_storage(&plain, 1.0, months, Celsius::of(t));
        assert!((left(6.0, 25.0) - (1.0 - 0.265)).abs() < 5e-4);
        assert!((left(1.0, 35.0) - 0.90).abs() < 1e-12);
        assert!((left(1.0, 15.0) - 0.975).abs() < 1e-12);
        // What the label says comes first.
        let told = Battery { self_discharge: Some(0.10), ..plain };
        let left = charge_after_storage(&told, 1.0, 1.0, Celsius::of(25.0));
        assert!((left - 0.90).abs() < 1e-12);
        assert_eq!(self_discharge(&told).origin, Origin::Label);
    }

    /// Arithmetic: 50 mA empty 100 Ah in 2,000 h, 2.7 months, whatever a label says of self-discharge; lead left flat is
    /// ruined. Without a drain it is the loss that compounds.
    #[test]
    fn what_cannot_be_switched_off_empties_its_bank() {
        let of = |chemistry, months, milliamps: f64| {
            let b = Battery { self_discharge: Some(0.0), ..battery(chemistry, &[]) };
            let (drain, capacity) = (Amps::of(milliamps / 1000.0), AmpHours::of(100.0));
            after_storage(&b, 1.0, months, Celsius::of(25.0), drain, capacity)
        };
        assert!(
            matches!(of(Chemistry::Flooded, 1.0, 50.0), Stored::Left(s) if (s - 0.635).abs() < 1e-3)
        );
        assert_eq!(of(Chemistry::Flooded, 3.0, 50.0), Stored::Ruined);
        assert_eq!(of(Chemistry::Lfp, 3.0, 50.0), Stored::Flat);
        let plain = battery(Chemistry::Flooded, &[]);
        let alone = charge_after_storage(&plain, 1.0, 6.0, Celsius::of(25.0));
        let none =
            after_storage(&plain, 1.0, 6.0, Celsius::of(25.0), Amps::ZERO, AmpHours::of(100.0));
        assert!(matches!(none, Stored::Left(s) if (s - alone).abs() < 1e-12));
    }

    /// Zsoldos et al. 2024: the order of the windows, 0 to 25 % best and 75 to 100 % worst; lead knows no windows.
    #[test]
    fn the_second_school_counts_where_in_the_charge_it_is_cycled() {
        let cell = battery(Chemistry::Lfp, &[(0.25, 4000.0)]);
        let years = |between, school, b: &Battery| {
            let keeping = Keeping { school, ..Keeping::AS_RATED };
            let life = life_between(b, between, 1000.0, keeping, 50.0);
            (life.years, life.other_school_years)
        };
        let windows = [(0.0, 0.25), (0.25, 0.5), (0.5, 0.75), (0.75, 1.0)];
        let second = windows.map(|w| years(w, School::Window, &cell).0);
        assert!(second.windows(2).all(|w| w[1] < w[0]), "{second:?}");
        let first = windows.map(|w| years(w, School::Calendar, &cell));
        assert!(first.iter().all(|f| (f.0 - first[0].0).abs() < 1e-12));
        assert!((first[3].1 - second[3]).abs() < 1e-12, "each tells the other's years");
        let lead = battery(Chemistry::Agm, &[(0.25, 4000.0)]);
        let (one, other) = years((0.75, 1.0), School::Window, &lead);
        assert!((one - other).abs() < 1e-12);
    }

    #[test]
    fn capacity_falls_to_eighty_percent_at_the_end_of_life() {
        let cell = battery(Chemistry::Agm, &[(0.5, 600.0)]);
        let used = life(&cell, 0.5, 200.0, Keeping::AS_RATED, 20.0);
        assert!((capacity_after(&used, 200.0, 3.0) - 0.8).abs() < 1e-9);
        assert!((capacity_after(&used, 200.0, 0.0) - 1.0).abs() < 1e-12);
    }
}
