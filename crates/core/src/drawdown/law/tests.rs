//! The law against published figures of the kinetic model and of the trade.
#![allow(clippy::print_stdout)]

use super::*;

/// The kinetic model's c = 0.4, k = 0.6/h, q = 250 Ah, as this law has it: `a = (1 - c)/(c k)`, `τ = 1/k`, all of it
/// remembered, and growing with the current itself.
const C: f64 = 0.4;
const K: f64 = 0.6;

fn worked() -> UnitLaw {
    let a = (1.0 - C) / (C * K);
    let rates = Rates { memory: 1.0 / (K * 0.6 * a), at_once: 0.0, ..Rates::particles(a) };
    let cell = CellParameters { rates, ..CellParameters::typical(Chemistry::Lfp) };
    UnitLaw::new(cell, 6, 250.0 / rates.q_max_over_q20())
}

/// The wells' contents, (available, bound). [Ah]
fn wells(_: &UnitLaw, s: State) -> (f64, f64) {
    // The gap of the wells is the remembered current over c k.
    let available = C * (s.charge - (1.0 - C) * s.recent / (C * K));
    (available, s.charge - available)
}

/// Manwell & McGowan, Solar Energy 50 (1993) 399-405, closed form worked for 50 A over 2 h.
#[test]
fn two_hours_at_50_amps_leave_the_wells_as_worked() {
    let law = worked();
    let (q1, q2) = wells(&law, law.rest_or_draw(law.full(), 50.0, 2.0));
    assert!((q1 - 25.0597).abs() < 1e-4 && (q2 - 124.9403).abs() < 1e-4, "{q1} {q2}");
    assert!((q1 + q2 - 150.0).abs() < 1e-9, "charge is conserved");
}

/// Ampere-hours a full unit gives over `hours` until its available well is empty, by the law's own steps. [Ah]
fn emptied(law: &UnitLaw, hours: f64) -> f64 {
    let left = |amps: f64| wells(law, law.rest_or_draw(law.full(), amps, hours)).0;
    let most = law.q_max() / hours;
    crate::numeric::halved((0.0, most), 60, |amps| left(amps) > 0.0).0 * hours
}

/// The same model's capacity formula over the hours, `Q(T) = Qm k c T / (k c T + (1-c)(1 - e^(-kT)))`, worked,
/// and its limits c Qm and Qm.
#[test]
fn the_kinetic_capacity_table_comes_out() {
    let law = worked();
    for (hours, ah) in [
        (100.0, 243.90),
        (20.0, 222.22),
        (10.0, 200.10),
        (5.0, 169.48),
        (2.0, 133.44),
        (1.0, 117.48),
    ] {
        let got = emptied(&law, hours);
        assert!((got - ah).abs() < 0.006, "{hours} h: {got}, worked {ah}");
    }
    assert!((emptied(&law, 1e-6) - 100.0).abs() < 1e-3);
    assert!((emptied(&law, 1e6) - 250.0).abs() < 1e-3);
}

/// The same model: emptied in 2 h at 66.72 A, two hours of rest bring 32.58 Ah back within reach.
#[test]
fn a_rest_brings_charge_back_within_reach() {
    let law = worked();
    let empty = law.rest_or_draw(law.full(), 66.72, 2.0);
    assert!(wells(&law, empty).0.abs() < 0.01);
    let rested = law.rest_or_draw(empty, 0.0, 2.0);
    assert!((wells(&law, rested).0 - 32.58).abs() < 0.02, "{:?}", wells(&law, rested));
    let settled = law.rest_or_draw(empty, 0.0, 1000.0);
    assert!((wells(&law, settled).0 - 46.62).abs() < 0.02);
}

/// Runs one unit down at a steady current; (start volts, Ah and Wh until `volts`, volts after `hours`).
fn bench(law: &UnitLaw, amps: f64, volts: f64, hours: f64) -> (f64, f64, f64, f64) {
    let at = |t: f64| law.volts(law.rest_or_draw(law.full(), amps, t), amps);
    let (mut t, mut energy, step) = (0.0, 0.0, 1e-4);
    while at(t) >= volts {
        energy += at(t) * amps * step;
        t += step;
    }
    (at(0.0), amps * t, energy, at(hours))
}

/// A 12.8 V 18 Ah LFP at 25 A starts near 12.2 V and gives about 17 Ah, 211 Wh (common practice,
/// no source). Ampere-hours within 5 %, volts and watt-hours within 5 %.
#[test]
fn a_small_lfp_behaves_as_on_the_bench() {
    use crate::shelf::{Battery, Rating};
    use crate::units::{AmpHours, Hours, Volts};
    let rating = Rating::Capacity { ah: AmpHours::of(18.0), over: Hours::of(5.0) };
    let unit = Battery::new("18 Ah", Chemistry::Lfp, Volts::of(12.8), rating);
    let law = crate::drawdown::fit(&unit).expect("has a rating").law;
    let (start, ah, wh, _) = bench(&law, 25.0, law.v_end(), 0.0);
    // A fresh cell's first seconds stand on surface charge: "near 12.2 V" is read a minute in.
    let settled = law.volts(law.rest_or_draw(law.full(), 25.0, 1.0 / 60.0), 25.0);
    assert!(start > settled && (settled / 12.2 - 1.0).abs() < 0.05, "{settled} V");
    assert!((ah / 17.0 - 1.0).abs() < 0.05, "{ah} Ah");
    assert!((wh / 211.0 - 1.0).abs() < 0.05, "{wh} Wh");
}

/// A 12 V 18 Ah AGM at 25 A gives about 8 Ah, 99 Wh down to 11.25 V, from 11.67 V at the start, and about 9.3 Ah in all (common
/// practice, no source; 99 Wh are 8.4 Ah at the voltages that are told with them). Known by its two ratings, 18 Ah over 20 h and
/// the 9.3 Ah, the rest is judged: amp-hours and watt-hours within 35 %, too few, the start within 0.4 V. By its label alone it is told too
/// little: a unit of so thin plates loses less by a hard draw than is typical.
#[test]
fn a_small_agm_behaves_as_on_the_bench() {
    use crate::shelf::{Battery, Rating};
    use crate::units::{AmpHours, Amps, Hours, Volts};
    let rating = Rating::Capacity { ah: AmpHours::of(18.0), over: Hours::of(20.0) };
    let mut unit = Battery::new("18 Ah", Chemistry::Agm, Volts::of(12.0), rating);
    let alone = crate::drawdown::fit(&unit).expect("has a rating").law;
    let all = Rating::Runtime { at: Amps::of(25.0), lasted: Hours::of(9.3 / 25.0) };
    unit.ratings.push(all);
    let law = crate::drawdown::fit(&unit).expect("has ratings").law;
    let told = bench(&law, 25.0, 11.25, 1.0 / 3.0);
    for (what, (start, ah, wh, after)) in
        [("by its label", bench(&alone, 25.0, 11.25, 1.0 / 3.0)), ("by two ratings", told)]
    {
        println!(
            "18 Ah AGM at 25 A, {what}: {start:.2} V at the start, {after:.2} V after 20 min, {ah:.2} Ah, {wh:.1} Wh to 11.25 V"
        );
    }
    let (start, ah, wh, _) = told;
    assert!((start - 11.67).abs() < 0.4, "{start} V");
    assert!((ah / 8.0 - 1.0).abs() < 0.35, "{ah} Ah");
    assert!((wh / 99.0 - 1.0).abs() < 0.35, "{wh} Wh");
    assert!(bench(&alone, 25.0, 11.25, 0.0).1 < ah, "by its label alone less");
}

/// Makers' handbook tables of capacity by discharge time, as shares of the 20-hour figure. The
/// tables are from memory of such handbooks; 8 % is their own scatter from maker to maker.
#[test]
fn capacity_by_discharge_time_follows_the_handbook_tables() {
    for (chemistry, table) in [
        (Chemistry::Agm, &[(10.0, 0.92), (5.0, 0.85), (3.0, 0.78), (1.0, 0.65), (0.5, 0.55)][..]),
        (Chemistry::Gel, &[(10.0, 0.93), (5.0, 0.86), (3.0, 0.79), (1.0, 0.61), (0.5, 0.51)][..]),
        (Chemistry::Flooded, &[(10.0, 0.92), (5.0, 0.82), (1.0, 0.54)][..]),
    ] {
        // The rule for small units must not spoil what holds for large ones.
        for size in [18.0, 50.0, 100.0, 225.0] {
            let cell = CellParameters::typical(chemistry);
            let law = UnitLaw::new(cell, 6, size);
            let at20 = law.runtime(size / 20.0) * size / 20.0;
            for (hours, share) in table {
                let amps = size * share / hours;
                let off = law.runtime(amps) * amps / at20 / share - 1.0;
                let what = chemistry.name();
                println!("{what} {size} Ah over {hours} h: {:+.1} %", off * 100.0);
                // A small gel or flooded unit at its one-hour rate and beyond is outside the tables.
                let allowed = if size < 80.0 && chemistry != Chemistry::Agm { 0.12 } else { 0.08 };
                assert!(off.abs() < allowed, "{what} {size} Ah over {hours} h: {off:+.3}");
            }
        }
    }
}

#[test]
fn a_worn_unit_has_less_charge_and_the_resistance_it_was_given() {
    let sound = UnitLaw::new(CellParameters::typical(Chemistry::Agm), 6, 100.0);
    let worn = sound.worn(0.7, 1.5);
    assert!((worn.q_max() / sound.q_max() - 0.7).abs() < 1e-12);
    assert!((worn.ohms() / sound.ohms() - 1.5).abs() < 1e-12);
}

/// The slope is the voltage's own, by central differences: for acid and lithium, warm and cold, full and half empty, rested and used.
#[test]
fn the_slope_is_how_the_voltage_falls_with_the_current() {
    let cold = Cold { reach: 0.8, slows: 0.4, resistance: 1.7, ..Cold::NONE };
    let mut looked = 0;
    for chemistry in [Chemistry::Flooded, Chemistry::Agm, Chemistry::Lfp, Chemistry::Nmc] {
        let sound = UnitLaw::new(CellParameters::typical(chemistry), 6, 100.0);
        for law in [sound, sound.at_temperature(cold), sound.worn(0.7, 1.6)] {
            for (share, recent) in [(1.0, 0.0), (0.6, 0.0), (0.6, 20.0)] {
                let now = State { recent, ..law.at(share) };
                for amps in [0.5, 10.0, 40.0] {
                    if !law.gives(now, amps * 1.2) {
                        continue;
                    }
                    let h = 1e-4 * amps;
                    let measured =
                        (law.volts(now, amps + h) - law.volts(now, amps - h)) / (2.0 * h);
                    let told = law.slope(now, amps);
                    assert!(
                        (told - measured).abs() < 1e-3 * measured.abs() + 1e-7,
                        "{chemistry:?} {share} {recent} {amps} A: {told}, measured {measured}"
                    );
                    let (volts, slope) = law.volts_and_slope(now, amps);
                    assert!((volts - law.volts(now, amps)).abs() < 1e-9);
                    assert!((slope - told).abs() < 1e-9 * told.abs());
                    looked += 1;
                }
            }
        }
    }
    assert!(looked > 60, "{looked} moments");
}

/// Cold takes what it says and nothing else: of the charge within reach its share, of the cells' resistance its factor, of the leads
/// none. By hand.
#[test]
fn the_cold_holds_back_its_share_and_resists_by_its_factor() {
    let cell = CellParameters { leads: 0.02, ..CellParameters::typical(Chemistry::Lfp) };
    let warm = UnitLaw::new(cell, 4, 100.0);
    let half = Cold { reach: 0.5, ..Cold::NONE };
    let stiff = Cold { resistance: 3.0, ..Cold::NONE };
    // A vanishing current gets out what is within reach.
    let gives = |law: &UnitLaw| {
        let out = |t: f64| law.gives(law.rest_or_draw(law.full(), 0.01, t), 0.01);
        crate::numeric::halved((0.0, 40_000.0), 60, out).0 * 0.01
    };
    let (all, left) = (gives(&warm), gives(&warm.at_temperature(half)));
    assert!((left / all - 0.5).abs() < 0.005, "{left} of {all} Ah");
    // 10 A of 100 Ah are 0.1 of it; two more of the cells' own resistances, in four cells.
    let now = warm.at(0.9);
    let falls = warm.volts(now, 10.0) - warm.at_temperature(stiff).volts(now, 10.0);
    assert!((falls - 0.1 * 2.0 * cell.r * 4.0).abs() < 1e-9, "{falls} V");
    // As rated it is the same law, and warm again it has lost nothing.
    assert_eq!(warm.at_temperature(Cold::NONE), warm);
    assert_eq!(warm.at_temperature(half).at_temperature(Cold::NONE), warm);
    assert_eq!(warm.at_temperature(half).full(), warm.full());
}
