//! Bands by how much a label says: on batteries of another model, their labels and draws exact, so that only the law is judged.
//!
//! Oracles: those of `duty.rs`. How wide each number of ratings makes the band was chosen on such cells (docs/model.md); that a tenth
//! is left out at either end is judged here over all runs.

use crate::duty::{Run, runs};
use crate::trips::known_by;
use lake_hour_core::day::{Day, Duty};
use lake_hour_core::drawdown::fit;
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Health, Pack};
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Chemistry, Detail, Rating};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::{AmpHours, Amps, Hours, Volts};
use lake_hour_core::verdict::{Judge, band};

const DAYS: usize = 48;

/// The first so many figures of Halton's sequence in a base.
fn halton(mut n: usize, base: usize) -> f64 {
    let (mut sum, mut part) = (0.0, 1.0);
    while n > 0 {
        part /= base as f64;
        sum += part * (n % base) as f64;
        n /= base;
    }
    sum
}

/// The share of what is delivered in all that eight of ten days lie between.
fn band(chemistry: Chemistry, label: &[(f64, f64)], run: &Run) -> (f64, f64) {
    let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
    let rig = Rig::new("bench", CraftKind::JonBoat, Volts::of(volts));
    let mean: f64 = run.plan.iter().map(|(rate, minutes)| rate * minutes / 60.0).sum();
    // As often as it takes to empty any.
    let times = (1.6 * run.delivered.max(0.2) / mean).ceil() as usize + 1;
    let mut day = Day::starting_at(0);
    for _ in 0..times {
        for (rate, minutes) in &run.plan {
            let duty = if *rate > 0.0 { Duty::Current(Amps::of(rate * 100.0)) } else { Duty::Off };
            day = day.then("on", Hours::from_minutes(*minutes), duty);
        }
    }
    // What a label is off by nature is not judged.
    let health = Health { doubt: 0.0, ..Health::NEW };
    let mut battery = known_by(chemistry, label);
    // These are cells: no BMS and no leads.
    battery.max_continuous = Some(Amps::of(10_000.0));
    let pack = Pack { health, ..Pack::of(battery, 1, 1) };
    let judge = Judge::new(&rig, &day, &HouseRules::default()).unwrap();
    let model = judge.model(&pack.battery).unwrap();
    let draws = (1..=DAYS).map(|n| {
        let mut all = band::CENTRAL;
        for (axis, base) in [(0, 2), (1, 3), (2, 5), (5, 7)] {
            all[axis] = halton(n, base);
        }
        all
    });
    let tried = judge.tried(&pack, &model, draws);
    let mut delivered: Vec<f64> = tried.iter().map(|(_, s)| s.delivered.value() / 100.0).collect();
    delivered.sort_by(f64::total_cmp);
    (delivered[(DAYS - 1) / 10], delivered[(DAYS - 1) * 9 / 10])
}

/// How many runs of a file's cells a label of these ratings holds, of how many, and how wide its bands are in all.
fn held(chemistry: Chemistry, text: &str, ratings: &[f64]) -> (f64, f64, f64) {
    let (mut held, mut all, mut wide) = (0.0, 0.0, 0.0);
    for cell in runs(text).values() {
        let told = |rate: f64| format!("steady {rate}C");
        let label: Vec<(f64, f64)> =
            ratings.iter().map(|r| (*r, cell[&told(*r)].delivered)).collect();
        // What the label tells, and what gives all there is, is no question.
        let asked = |name: &str| {
            !ratings.iter().any(|r| name == told(*r))
                && ![told(0.01), told(0.1)].contains(&name.to_owned())
        };
        for (_, run) in cell.iter().filter(|(name, _)| asked(name)) {
            let (low, high) = band(chemistry, &label, run);
            let slack = 1e-3;
            held += f64::from(u8::from((low - slack..=high + slack).contains(&run.delivered)));
            all += 1.0;
            wide += high - low;
        }
    }
    (held, all, wide)
}

/// Steady rates and on-and-off duty on four builds of lead, four nickel cells and two of lithium whose particles are slow: known by
/// one, two and three ratings. Slow lithium is so rare that one rating does not ask for it: of that it holds next to nothing.
#[test]
fn bands_hold_eight_of_ten_runs_whatever_a_label_says() {
    let lead = include_str!("../data/lead-duty-pybamm-26.10.csv");
    let nickel = include_str!("../data/nickel-duty-pybamm-26.10.csv");
    let slow = include_str!("../data/lfp-slow-pybamm-26.10.csv");
    let mut widths = [Vec::new(), Vec::new()];
    for ratings in [&[0.05][..], &[0.05, 1.0], &[0.05, 0.2, 1.0]] {
        let by_lead = held(Chemistry::Agm, lead, ratings);
        let (n, s) = (held(Chemistry::Nmc, nickel, ratings), held(Chemistry::Lfp, slow, ratings));
        let lithium = if ratings.len() > 1 { (n.0 + s.0, n.1 + s.1, n.2 + s.2) } else { n };
        println!("of slow lithium {:.0} %", 100.0 * s.0 / s.1);
        for (kind, (held, all, wide)) in [("lead", by_lead), ("lithium", lithium)] {
            let (share, points) = (held / all, 100.0 * wide / all);
            println!(
                "{kind}, {} ratings: {:.0} % of {all} runs held, {points:.1} points wide",
                ratings.len(),
                share * 100.0
            );
            let most = if ratings.len() == 1 { 0.98 } else { 0.90 };
            assert!((0.70..=most).contains(&share), "{kind} {ratings:?}: {share}");
        }
        widths[0].push(by_lead.2 / by_lead.1);
        widths[1].push(n.2 / n.1);
    }
    for widths in widths {
        assert!(
            widths.windows(2).all(|w| w[1] < 1.05 * w[0]) && widths[2] < 0.5 * widths[0],
            "{widths:?}"
        );
    }
}

/// A rating that was measured is met within 1 %, also where the label's own figure over twenty hours is not measured.
#[test]
fn what_was_measured_is_met_within_a_hundredth() {
    for chemistry in Chemistry::ALL {
        for (amps, minutes) in [(25.0, 110.0), (25.0, 190.0), (50.0, 60.0), (10.0, 500.0)] {
            let mut battery = known_by(Chemistry::Agm, &[(0.05, 1.0)]);
            (battery.chemistry, battery.nominal_voltage) =
                (chemistry, if chemistry.is_lead() { Volts::of(12.0) } else { Volts::of(12.8) });
            battery.ratings = vec![
                Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) },
                Rating::Runtime { at: Amps::of(amps), lasted: Hours::from_minutes(minutes) },
            ];
            let by = Vouched { by: Origin::Measured, on: None };
            battery.origins.insert(Detail::RATINGS, by);
            let law = fit(&battery).unwrap().law;
            let off = law.runtime(amps) / (minutes / 60.0) - 1.0;
            println!(
                "{} measured {minutes} min at {amps} A: {:+.2} %",
                chemistry.name(),
                off * 100.0
            );
            assert!(off.abs() < 0.01, "{chemistry:?} {amps} A: {off}");
        }
    }
}
