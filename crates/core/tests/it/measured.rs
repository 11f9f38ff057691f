//! The law against cells that were measured: LMO/NCA on graphite, 33.1 Ah, seven of them in series as a plan would have them.
//!
//! Source: `pouch-lmo-nca-33ah-*.csv`, see `tests/data/SOURCES.md` (Wiggins, Allu, Wang, Oak Ridge National Laboratory, 2019, doi
//! 10.5281/zenodo.2580327). Nothing of the law was fitted to them. They are no cells of a boat's first choice, but they are measured.

use lake_hour_core::drawdown::{Bank, BankState, Demand, Ended, Guard, Leg, Summary, fit, run_on};
use lake_hour_core::shelf::{Battery, Chemistry, Detail, Rating};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::{AmpHours, Amps, Hours, Volts};

/// Cells in series: 25.9 V.
const SERIES: f64 = 7.0;
/// Where the discharges end. [V a cell]
const END: f64 = 3.0;

/// Seconds, amps (positive while charging), volts of a cell.
fn rows(text: &str) -> Vec<[f64; 3]> {
    let lines = text.lines().filter(|l| !l.starts_with('#')).skip(1);
    lines
        .map(|line| {
            let mut n = line.split(',').map(|c| c.parse::<f64>().unwrap_or(f64::NAN));
            std::array::from_fn(|_| n.next().unwrap())
        })
        .collect()
}

/// A discharge as measured: amps, hours, ampere-hours and watt-hours of a cell.
#[derive(Debug, Clone, Copy)]
struct Run {
    amps: f64,
    hours: f64,
    ah: f64,
    wh: f64,
}

/// The discharges of a file, each from full to its end.
fn discharges(text: &str) -> Vec<Run> {
    let mut all: Vec<Run> = Vec::new();
    let mut now: Option<Run> = None;
    for pair in rows(text).windows(2) {
        let hours = (pair[1][0] - pair[0][0]) / 3600.0;
        if pair[1][1] < -1.0 {
            let run = now.get_or_insert(Run { amps: 0.0, hours: 0.0, ah: 0.0, wh: 0.0 });
            run.hours += hours;
            run.ah -= pair[1][1] * hours;
            run.wh -= pair[1][1] * pair[1][2] * hours;
        } else if let Some(run) = now.take() {
            all.push(Run { amps: run.ah / run.hours, ..run });
        }
    }
    all.into_iter().filter(|r| r.ah > 5.0).collect()
}

/// The middle of several runs of the same kind.
fn middle(runs: &[Run]) -> Run {
    let mut sorted = runs.to_vec();
    sorted.sort_by(|a, b| a.ah.total_cmp(&b.ah));
    sorted[sorted.len() / 2]
}

fn unit(measured: &[Run]) -> Battery {
    let label = Rating::Capacity { ah: AmpHours::of(33.1), over: Hours::of(5.0) };
    let mut battery = Battery::new("pouch", Chemistry::Nmc, Volts::of(25.9), label);
    battery.max_continuous = Some(Amps::of(100.0));
    if !measured.is_empty() {
        battery.ratings = measured
            .iter()
            .map(|r| Rating::Runtime { at: Amps::of(r.amps), lasted: Hours::of(r.hours) })
            .collect();
        let by = Vouched { by: Origin::Measured, on: None };
        battery.origins.extend([(Detail::CAPACITY, by), (Detail::RATINGS, by)]);
    }
    battery
}

/// Seven cells gone through these legs from full, to their end.
fn gone_through(battery: &Battery, legs: &[Leg]) -> (Summary, BankState) {
    assert!((battery.end_voltage().value() - SERIES * END).abs() < 1e-9);
    let bank = Bank::uniform(fit(battery).unwrap().law, 1, 1);
    run_on(&bank, &bank.full(), legs, &Guard::NONE)
}

fn steady(battery: &Battery, amps: f64) -> Summary {
    let leg = Leg::rated(Hours::of(100.0), Demand::current(Amps::of(amps)));
    let (summary, _) = gone_through(battery, &[leg]);
    assert!(matches!(summary.ended, Ended::Stopped { .. }));
    summary
}

/// How far run time and energy are off those measured.
fn off(battery: &Battery, run: &Run) -> (f64, f64) {
    let s = steady(battery, run.amps);
    (s.delivered.value() / run.ah - 1.0, s.energy.value() / (SERIES * run.wh) - 1.0)
}

/// The pulse duty as legs, from full, and the hours it lasted: 30 A for 30 s, a rest, a charge of 22.5 A for 10 s, 10 A for 18 min,
/// an hour's rest, over and over.
fn duty() -> (Vec<Leg>, f64) {
    let rows = rows(include_str!("../data/pouch-lmo-nca-33ah-duty-25c.csv"));
    let mut legs: Vec<(f64, f64)> = Vec::new();
    let (mut ended, mut clock) = (0.0, 0.0);
    for pair in rows.windows(2) {
        let (hours, amps) = ((pair[1][0] - pair[0][0]) / 3600.0, -pair[1][1]);
        clock += hours;
        if amps > 1.0 {
            ended = clock;
        }
        match legs.last_mut() {
            Some(last) if (last.1 - amps).abs() < 0.3 => last.0 += hours,
            _ => legs.push((hours, amps)),
        }
    }
    // It goes on as it ended, so that the law may be found too hopeful.
    legs.retain(|leg| leg.0 > 0.0);
    let leg = |(hours, amps): (f64, f64)| {
        let asks = if amps < 0.0 {
            Demand::OFF.fed(Amps::of(-amps), lake_hour_core::units::Watts::ZERO)
        } else {
            Demand::current(Amps::of(amps))
        };
        Leg::rated(Hours::of(hours), asks)
    };
    (legs.into_iter().map(leg).collect(), ended)
}

/// By the label alone, whose 33.1 Ah no run gives, 1C and 3C last 8 and 12 % too long; with what was measured at 1C alone 3C within 4 %; with 1C and 3C
/// both are met and what they give in watt-hours within 3 %.
#[test]
fn measured_cells_are_met_from_a_label_and_from_a_measurement() {
    let one = middle(&discharges(include_str!("../data/pouch-lmo-nca-33ah-1c.csv")));
    let three = middle(&discharges(include_str!("../data/pouch-lmo-nca-33ah-3c.csv")));
    println!("measured: {one:?} {three:?}");
    let told = |what: &str, battery: &Battery| {
        let all = [off(battery, &one), off(battery, &three)];
        for (rate, (ah, wh)) in ["1C", "3C"].iter().zip(all) {
            println!("{what}, {rate}: run time {:+.1} %, Wh {:+.1} %", ah * 100.0, wh * 100.0);
        }
        all
    };
    let label = told("by its label", &unit(&[]));
    assert!(label.iter().all(|(ah, wh)| ah.abs() < 0.13 && wh.abs() < 0.14), "{label:?}");
    let measured = told("measured at 1C", &unit(&[one]));
    assert!(measured[0].0.abs() < 0.01 && measured[1].0.abs() < 0.04, "{measured:?}");
    let both = told("measured at 1C and 3C", &unit(&[one, three]));
    assert!(both.iter().all(|(ah, wh)| ah.abs() < 0.01 && wh.abs() < 0.04), "{both:?}");
}

/// The pulse duty at 25 °C by what was measured at 1C alone: the ampere-hours it takes until its end, within 3 %.
#[test]
fn a_measured_pulse_duty_is_met_from_one_measured_rating() {
    let one = middle(&discharges(include_str!("../data/pouch-lmo-nca-33ah-1c.csv")));
    let three = middle(&discharges(include_str!("../data/pouch-lmo-nca-33ah-3c.csv")));
    let (legs, lasted) = duty();
    for (what, battery) in [("1C", unit(&[one])), ("1C and 3C", unit(&[one, three]))] {
        let all: Vec<Leg> = legs
            .iter()
            .copied()
            .chain([Leg::rated(Hours::of(20.0), Demand::current(Amps::of(10.0)))])
            .collect();
        let (summary, _) = gone_through(&battery, &all);
        let Ended::Stopped { at, .. } = summary.ended else { panic!("{:?}", summary.ended) };
        let net = summary.delivered.value() - summary.charged.value();
        println!(
            "pulse duty, measured at {what}: {:.2} h of {lasted:.2}, {net:.2} Ah in all",
            at.value()
        );
        // Only the last stretch of 10 A is in question: its rest is an hour long.
        assert!((at.value() / lasted - 1.0).abs() < 0.05, "{what}: {at} of {lasted}");
    }
}
