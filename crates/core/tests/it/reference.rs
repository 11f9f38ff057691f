//! The law against porous-electrode simulations: fitted on half of the rates, asked for the others.
//!
//! Oracles: pybamm 26.10.1.1, lead-acid `Full` with Sulzer2019 and DFN with Prada2013 (LFP), by
//! `tests/oracle/discharge_curves.py`; see `tests/data/SOURCES.md`.

use lake_hour_core::chemistry::{Ocv, Rates};
use lake_hour_core::drawdown::UnitLaw;
use lake_hour_core::drawdown::law::CellParameters;
use lake_hour_core::shelf::Chemistry;
use std::collections::BTreeMap;

/// One row of a run: hours, charge drawn and current per 20-hour ampere-hour, volts of a cell.
#[derive(Clone, Copy)]
struct Row {
    hours: f64,
    drawn: f64,
    current: f64,
    volts: f64,
}

type Curves = BTreeMap<String, Vec<Row>>;

/// Reads a file of curves; `capacity` turns ampere-hours and amperes into shares.
fn curves(text: &str, capacity: f64) -> (Curves, Vec<(f64, f64)>) {
    let (mut all, mut rest) = (Curves::new(), Vec::new());
    for line in text.lines().filter(|l| !l.starts_with('#')).skip(1) {
        let cells: Vec<&str> = line.split(',').collect();
        let n = |i: usize| cells[i].parse::<f64>().unwrap();
        let row = Row {
            hours: n(1) / 3600.0,
            drawn: n(2) / capacity,
            current: n(3) / capacity,
            volts: n(4),
        };
        if cells[0] == "C/20" && cells.len() > 5 {
            rest.push((row.drawn, n(5)));
        }
        all.entry(cells[0].to_owned()).or_default().push(row);
    }
    (all, rest)
}

/// What the law makes of a run: (rms volts between 1 % and 97 % of it, capacity less one).
fn compared(law: &UnitLaw, run: &[Row]) -> (f64, f64) {
    let last = run.last().unwrap();
    let (mut state, mut squares, mut count) = (law.full(), 0.0, 0.0);
    let mut ended = None;
    for pair in run.windows(2) {
        let (from, to) = (pair[0], pair[1]);
        // The simulator writes the current of a step at its end.
        let amps = to.current;
        let next = law.rest_or_draw(state, amps, to.hours - from.hours);
        let volts = law.volts(next, amps);
        if volts <= law.v_end() && ended.is_none() {
            let before = law.volts(state, amps);
            let part =
                if volts.is_finite() { (before - law.v_end()) / (before - volts) } else { 0.5 };
            ended = Some(from.drawn + (to.drawn - from.drawn) * part.clamp(0.0, 1.0));
        }
        if ended.is_none()
            && amps > 0.0
            && to.drawn > 0.01 * last.drawn
            && to.drawn < 0.97 * last.drawn
        {
            squares += (volts - to.volts).powi(2);
            count += 1.0;
        }
        state = next;
    }
    // A run the law would carry on with: at the last current, to its end.
    let ended = ended.unwrap_or_else(|| {
        let (mut drawn, step) = (last.drawn, 1e-4);
        while law.volts(state, last.current) > law.v_end() && drawn < 1.3 {
            state = law.rest_or_draw(state, last.current, step / last.current);
            drawn += step;
        }
        drawn
    });
    ((squares / f64::max(count, 1.0)).sqrt(), ended / last.drawn - 1.0)
}

/// Nelder and Mead's simplex search (Computer Journal 7 (1965) 308), for a handful of parameters.
fn fit(start: &[f64], badness: impl Fn(&[f64]) -> f64) -> Vec<f64> {
    let n = start.len();
    let mut simplex: Vec<(f64, Vec<f64>)> = (0..=n)
        .map(|i| {
            let mut p = start.to_vec();
            if i > 0 {
                p[i - 1] *= 1.15;
            }
            (badness(&p), p)
        })
        .collect();
    for _ in 0..1200 {
        simplex.sort_by(|a, b| a.0.total_cmp(&b.0));
        let centre: Vec<f64> =
            (0..n).map(|d| simplex[..n].iter().map(|s| s.1[d]).sum::<f64>() / n as f64).collect();
        let worst = simplex[n].clone();
        let along = |t: f64| {
            let p: Vec<f64> = (0..n).map(|d| centre[d] + t * (worst.1[d] - centre[d])).collect();
            (badness(&p), p)
        };
        let reflected = along(-1.0);
        if reflected.0 < simplex[0].0 {
            let further = along(-2.0);
            simplex[n] = if further.0 < reflected.0 { further } else { reflected };
        } else if reflected.0 < simplex[n - 1].0 {
            simplex[n] = reflected;
        } else {
            let nearer = along(0.5);
            if nearer.0 < worst.0 {
                simplex[n] = nearer;
            } else {
                let best = simplex[0].1.clone();
                for s in &mut simplex[1..] {
                    s.1 = std::iter::zip(&s.1, &best).map(|(a, b)| 0.5 * (a + b)).collect();
                    s.0 = badness(&s.1);
                }
            }
        }
    }
    simplex.swap_remove(0).1
}

/// Squared errors over the runs named, 10 mV and 0.5 % of capacity weighing the same.
fn total(law: Option<UnitLaw>, all: &Curves, names: &[&str]) -> f64 {
    let Some(law) = law else { return 1e9 };
    names
        .iter()
        .map(|name| {
            let (rms, capacity) = compared(&law, &all[*name]);
            (rms / 0.010).powi(2) + (capacity / 0.005).powi(2)
        })
        .sum()
}

#[test]
fn lead_acid_simulations_are_met_at_rates_the_law_was_not_fitted_to() {
    let (all, _) = curves(include_str!("../data/lead-acid-pybamm-26.10-sulzer2019-full.csv"), 1.0);
    let law = |p: &[f64]| {
        let [e0, fall, r, a, memory, at_once, size] = *p else { return None };
        let sane = r > 0.0 && a > 0.01 && memory > 0.05 && at_once > 0.0 && size > 0.5;
        (sane && e0 - fall > 1.75).then(|| {
            let rates = Rates { memory, at_once, ..Rates::acid(a) };
            let ocv = Ocv::Linear { e0, a: fall };
            let cell = CellParameters { ocv, r, leads: 0.0, b: 0.0, rates, v_end: 1.75 };
            UnitLaw::new(cell, 1, size)
        })
    };
    let fitted_to = ["C/20", "C/5", "C/2", "1C"];
    let start = [2.18, 0.28, 0.024, 0.28, 1.0, 0.35, 1.0];
    // The search is begun anew from where it came to, since a simplex may collapse on its way.
    let search = |from: Vec<f64>, _| fit(&from, |p| total(law(p), &all, &fitted_to));
    let best = law(&(0..3).fold(start.to_vec(), search)).unwrap();
    for (name, run) in &all {
        let (rms, capacity) = compared(&best, run);
        let asked = if fitted_to.contains(&name.as_str()) { "fitted" } else { "predicted" };
        println!(
            "lead {name:14} {asked:9} {:5.1} mV rms, capacity {:+.2} %",
            rms * 1e3,
            capacity * 1e2
        );
        let allowed = if name.contains("on10off") { 0.05 } else { 0.02 };
        assert!(capacity.abs() < allowed, "{name}: capacity {capacity:+.4}");
        assert!(rms < 0.015, "{name}: {rms} V rms");
    }
}

#[test]
fn lfp_simulations_are_met_at_rates_the_law_was_not_fitted_to() {
    // 2.3 Ah is the cell's label; the runs end at 2.0 V.
    let (all, rest) = curves(include_str!("../data/lfp-pybamm-26.10-prada2013-dfn.csv"), 2.3);
    let law = |p: &[f64]| {
        let [r, b, a, memory, at_once, q] = *p else { return None };
        let sane = r > 0.0 && b >= 0.0 && a > 0.0 && memory > 0.01 && (0.0..1.0).contains(&at_once);
        if !(sane && q > 0.9 && q < 1.1) {
            return None;
        }
        let rates = Rates { memory, at_once, ..Rates::particles(a) };
        // What is left at the end of a very slow run is of no use to the law: q is all there is.
        let size = q / rates.q_max_over_q20();
        // The simulation's own equilibrium voltage, read at even hundredths of the charge.
        let mut table = [0.0; 101];
        for (n, volts) in table.iter_mut().enumerate() {
            let drawn = (1.0 - n as f64 / 100.0) * q;
            let at = rest.partition_point(|p| p.0 < drawn).clamp(1, rest.len() - 1);
            let ((d0, v0), (d1, v1)) = (rest[at - 1], rest[at]);
            *volts = v0 + (v1 - v0) * ((drawn - d0) / (d1 - d0)).clamp(0.0, 1.0);
        }
        let cell = CellParameters {
            ocv: Ocv::Table(Box::leak(Box::new(table)), 0.0),
            r,
            leads: 0.0,
            b,
            rates,
            v_end: 2.0,
        };
        Some(UnitLaw::new(cell, 1, size))
    };
    let fitted_to = ["C/20", "1C", "2C"];
    let start = [0.04, 0.005, 0.05, 1.0, 0.1, 1.0];
    // The search is begun anew from where it came to, since a simplex may collapse on its way.
    let search = |from: Vec<f64>, _| fit(&from, |p| total(law(p), &all, &fitted_to));
    let best = law(&(0..3).fold(start.to_vec(), search)).unwrap();
    for (name, run) in &all {
        let (rms, capacity) = compared(&best, run);
        let asked = if fitted_to.contains(&name.as_str()) { "fitted" } else { "predicted" };
        println!(
            "LFP {name:6} {asked:9} {:5.1} mV rms, capacity {:+.2} %",
            rms * 1e3,
            capacity * 1e2
        );
        assert!(rms < 0.020, "{name}: {rms} V rms");
        assert!(capacity.abs() < 0.01, "{name}: capacity {capacity:+.4}");
    }
}

/// Oracle: `lfp-blastlite-1.1.0-storage.csv`, capacity lost in ten years at rest. The factor on the
/// label's years is the loss at 25 °C and full over the loss as kept, at most 1.5: within 10 %.
#[test]
fn calendar_life_of_lfp_follows_the_storage_model() {
    use lake_hour_core::life::{Keeping, ageing::calendar_factor};
    use lake_hour_core::units::Celsius;
    let rows: Vec<(f64, f64, f64)> = include_str!("../data/lfp-blastlite-1.1.0-storage.csv")
        .lines()
        .filter(|l| !l.starts_with('#'))
        .skip(1)
        .map(|line| {
            let n: Vec<f64> = line.split(',').map(|c| c.parse().unwrap()).collect();
            (n[0], n[1], 1.0 - n[7])
        })
        .collect();
    let rated = rows.iter().find(|r| r.0 == 1.0 && r.1 == 25.0).unwrap().2;
    for (charge, degrees, lost) in rows.into_iter().filter(|r| r.0 >= 0.5) {
        let temperature = Celsius::of(degrees);
        let keeping = Keeping { temperature, resting_charge: charge, ..Keeping::AS_RATED };
        let (got, want) = (calendar_factor(Chemistry::Lfp, keeping), (rated / lost).min(1.5));
        println!("stored at {charge:.1}, {degrees} °C: factor {got:.2}, model {want:.2}");
        assert!((got / want - 1.0).abs() < 0.10, "{charge} {degrees} °C: {got}, model {want}");
    }
}
