//! On-and-off duty, and rates between a label's, against porous-electrode simulations that nothing was fitted to.
//!
//! Oracles: pybamm 26.10.1.1, lead-acid `Full` with Sulzer2019, its plates and acid changed, and DFN with Prada2013
//! (LFP), its particles slowed, by `tests/oracle/duty_runs.py`; see `tests/data/SOURCES.md`. A battery is known by three
//! ratings (C/20, C/5, 1C), as a label gives them; all other runs are only judged.

use lake_hour_core::drawdown::{Bank, Demand, Ended, Guard, Leg, fit, run};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, Volts};
use std::collections::BTreeMap;

/// Ampere-hours of the cells' 20-hour capacity here.
const SIZE: f64 = 100.0;
/// The ratings that a battery is known by.
const LABEL: [(&str, f64); 3] = [("steady 0.05C", 0.05), ("steady 0.2C", 0.2), ("steady 1C", 1.0)];

/// What was gone through over and over, as (rate, minutes), and the share delivered.
pub(crate) struct Run {
    pub(crate) plan: Vec<(f64, f64)>,
    pub(crate) delivered: f64,
}

/// Runs by cell and profile.
pub(crate) fn runs(text: &str) -> BTreeMap<String, BTreeMap<String, Run>> {
    let mut all: BTreeMap<String, BTreeMap<String, Run>> = BTreeMap::new();
    for line in text.lines().filter(|l| !l.starts_with('#')).skip(1) {
        let (cell, rest) = line.split_once(',').unwrap();
        let quoted: Vec<&str> = rest.split('"').collect();
        let words: Vec<f64> = quoted[3]
            .split_whitespace()
            .map(|w| w.trim_end_matches("min").trim_end_matches('C').parse().unwrap())
            .collect();
        let plan = words.chunks(2).map(|pair| (pair[0], pair[1])).collect();
        let delivered = quoted[4].trim_start_matches(',').parse().unwrap();
        let cell = all.entry(cell.to_owned()).or_default();
        cell.insert(quoted[1].to_owned(), Run { plan, delivered });
    }
    all
}

/// What the battery known by its ratings delivers on a plan, as a share of the true 20-hour capacity.
fn delivers(chemistry: Chemistry, cell: &BTreeMap<String, Run>, plan: &[(f64, f64)]) -> f64 {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rating = |(name, rate): (&str, f64)| {
        let share = cell[name].delivered;
        Rating::Capacity { ah: AmpHours::of(share * SIZE), over: Hours::of(share / rate) }
    };
    let mut battery = Battery::new("cell", chemistry, Volts::of(volts), rating(LABEL[0]));
    battery.ratings = LABEL.map(rating).to_vec();
    let fitted = fit(&battery).unwrap();
    for r in &fitted.ratings {
        assert!(r.off.abs() < 0.02, "a rating is met within 2 %: {r:?}");
    }
    let bank = Bank::uniform(fitted.law, 1, 1);
    let once = plan.iter().map(|&(rate, minutes)| {
        Leg::rated(Hours::from_minutes(minutes), Demand::current(Amps::of(rate * SIZE)))
    });
    let legs: Vec<Leg> = once.collect::<Vec<_>>().repeat(400);
    let summary = run(&bank, &legs, &Guard::NONE, |_| {});
    assert!(matches!(summary.ended, Ended::Stopped { .. }));
    summary.delivered.value() / SIZE
}

/// Root mean square of errors in percent of the 20-hour capacity, printed one by one.
fn rms(what: &str, errors: &[(String, f64)]) -> f64 {
    for (profile, error) in errors {
        println!("{what}: {profile:26} {:+.1} %", error * 100.0);
    }
    let rms = (errors.iter().map(|e| e.1 * e.1).sum::<f64>() / errors.len() as f64).sqrt();
    println!("{what}: {:.2} % rms of the 20-hour capacity", rms * 100.0);
    rms
}

/// Sixty runs of on-and-off duty on four builds: within 3 % rms of the 20-hour capacity each. Steady rates between and
/// beyond the label's: time to empty within 3 % at 0.3C and 0.7C, 6 % at 1.5C.
#[test]
fn lead_under_on_and_off_duty_is_met_from_three_ratings() {
    for (name, cell) in runs(include_str!("../data/lead-duty-pybamm-26.10.csv")) {
        let mut duty = Vec::new();
        for (profile, run) in &cell {
            let off = delivers(Chemistry::Agm, &cell, &run.plan) - run.delivered;
            if profile.starts_with("steady") {
                let off = off / run.delivered;
                println!("{name}: {profile:26} time to empty {:+.1} %", off * 100.0);
                let allowed = if profile == "steady 1.5C" { 0.06 } else { 0.03 };
                assert!(off.abs() < allowed, "{name} {profile}: {off:+.3}");
            } else {
                duty.push((profile.clone(), off));
            }
        }
        assert!(duty.len() == 15 && rms(&name, &duty) < 0.03);
        let mixed = duty.iter().find(|d| d.0 == "mixed drive").unwrap().1;
        assert!(mixed.abs() < 0.03 * cell["mixed drive"].delivered, "{name}: {mixed}");
    }
}

/// Lithium whose particles are slow: within 5 % at 0.7C and 8 % at 1.5C for the cell that loses a third of its charge at
/// 1C; the slower one, which loses more than half, within 6 % and 15 %.
#[test]
fn rate_limited_lithium_is_met_from_three_ratings() {
    for (name, cell) in runs(include_str!("../data/lfp-slow-pybamm-26.10.csv")) {
        let (at_07, at_15) = if name == "brisk" { (0.05, 0.08) } else { (0.06, 0.15) };
        let mut duty = Vec::new();
        for (profile, run) in &cell {
            let off = delivers(Chemistry::Lfp, &cell, &run.plan) - run.delivered;
            if profile.starts_with("steady") {
                let off = off / run.delivered;
                println!("LFP {name}: {profile:26} time to empty {:+.1} %", off * 100.0);
                let allowed = if profile == "steady 1.5C" { at_15 } else { at_07 };
                assert!(off.abs() < allowed, "{name} {profile}: {off:+.3}");
            } else {
                duty.push((profile.clone(), off));
            }
        }
        assert!(rms(&format!("LFP {name}"), &duty) < 0.06);
    }
}
