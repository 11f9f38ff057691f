//! The closed forms against small steps: another way to the same day, in other code.

use lake_hour_core::drawdown::law::CellParameters;
use lake_hour_core::drawdown::{Bank, Demand, Ended, Guard, Leg, UnitLaw, run};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::{Amps, Hours, Volts, Watts};

/// Seconds of one explicit Euler step.
const STEP: f64 = 0.1;

/// What is asked of the unit, as the stepper knows it.
#[derive(Debug, Clone, Copy)]
enum Ask {
    Current(f64),
    Power(f64),
    Setting { amps: f64, at: f64 },
}

impl Ask {
    fn demand(self) -> Demand {
        match self {
            Self::Current(a) => Demand::current(Amps::of(a)),
            Self::Power(w) => Demand::power(Watts::of(w)),
            Self::Setting { amps, at } => Demand::setting(Amps::of(amps), Volts::of(at)),
        }
    }

    /// Current at a voltage; the motor's by bisection of its own equation `v = .75 n + .25 i`.
    fn amps(self, volts: f64) -> f64 {
        match self {
            Self::Current(a) => a,
            Self::Power(w) => w / volts,
            Self::Setting { amps, at } => {
                let current = |n: f64| 0.045 + 0.955 * n * n;
                let (mut low, mut high) = (0.0, 2.0);
                for _ in 0..24 {
                    let n = 0.5 * (low + high);
                    if 0.75 * n + 0.25 * current(n) < volts / at { low = n } else { high = n }
                }
                amps * current(low)
            }
        }
    }
}

/// Steps through the day: hours until the unit is at its end, or `None`, and the charge share left.
fn step_through(
    cell: &CellParameters,
    cells: f64,
    q20: f64,
    day: &[(f64, Ask)],
) -> (Option<f64>, f64) {
    let rates = &cell.rates;
    let all = 1.0 + rates.a * 0.05_f64.powf(rates.n);
    let (mut left, mut felt, mut clock, hour) = (all, 0.0, 0.0, STEP / 3600.0);
    let mut volts = cells * cell.ocv.at(1.0);
    for (hours, ask) in day {
        let steps = (hours / hour).round() as u64;
        for _ in 0..steps {
            let mut amps = ask.amps(volts.max(cells * cell.v_end));
            // The voltage that current and battery agree on, from where it was a step ago.
            for _ in 0..2 {
                let i = amps / q20;
                let feels = (1.0 - rates.w()) * i + rates.w() * felt;
                let out = rates.a * feels.powf(rates.n);
                if out >= left && amps > 0.0 {
                    return (Some(clock), left - all + 1.0);
                }
                volts = cells
                    * if rates.acid {
                        // The charge share counts what was taken; the knee what is left of all there is.
                        let x = (out / left).min(1.0);
                        let h = x.powf(1.75);
                        let b = ((rates.a - 0.4) / 0.8).clamp(0.0, 0.75);
                        let l = if feels > 0.0 { (i / feels).min(1.0) } else { 1.0 };
                        let held = 1.0 - 0.9 * (1.0 - l) * (1.0 - x * x);
                        let rest = cell.ocv.at(1.0 - (all - left)) - cell.r * i;
                        rest + h * (1.0 - b + b * h) * held * (cell.v_end - rest).min(0.0)
                    } else {
                        cell.ocv.at((left - out) / all) - cell.r * i
                    };
                amps = ask.amps(volts.max(cells * cell.v_end));
            }
            if amps > 0.0 && volts <= cells * cell.v_end {
                return (Some(clock), left - all + 1.0);
            }
            left -= amps / q20 * hour;
            felt += (amps / q20 - felt) / rates.tau() * hour;
            clock += hour;
        }
    }
    (None, left - all + 1.0)
}

/// A small generator of evenly spread numbers from 0 to 1: the same days every time.
struct Spread(u64);

impl Spread {
    fn next(&mut self) -> f64 {
        self.0 =
            self.0.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 33) as f64 / (1_u64 << 31) as f64
    }
}

/// Run times of 500 random days within 0.2 % of explicit Euler steps of 0.1 s.
#[test]
fn five_hundred_random_days_agree_with_small_steps() {
    let mut spread = Spread(7);
    let (mut worst, mut ended) = (0.0_f64, 0);
    for n in 0..500 {
        let chemistry = Chemistry::ALL[n % 5];
        let cell = CellParameters::typical(chemistry);
        let cells = if chemistry.is_lead() { 6 } else { 4 };
        let q20 = 50.0 + 100.0 * spread.next();
        let nominal = f64::from(cells) * chemistry.nominal_cell().value();
        let day: Vec<(f64, Ask)> = (0..6)
            .map(|_| {
                // Whole tenths of seconds, so that both days are equally long.
                let hours = (360.0 + 3200.0 * spread.next()).round() / 3600.0;
                let amps = q20 * (0.05 + 0.55 * spread.next());
                let ask = match (spread.next() * 4.0) as u32 {
                    0 => Ask::Current(0.0),
                    1 => Ask::Current(amps),
                    2 => Ask::Power(amps * nominal),
                    _ => Ask::Setting { amps, at: nominal },
                };
                (hours, ask)
            })
            .collect();
        let bank = Bank::uniform(UnitLaw::new(cell, cells, q20), 1, 1);
        let legs: Vec<Leg> =
            day.iter().map(|(hours, ask)| Leg::rated(Hours::of(*hours), ask.demand())).collect();
        let ours = run(&bank, &legs, &Guard::NONE, |_| {});
        let (stopped, left) = step_through(&cell, f64::from(cells), q20, &day);
        match (ours.ended, stopped) {
            (Ended::Stopped { at, .. }, Some(theirs)) => {
                ended += 1;
                let at = at.value();
                let off = (at - theirs).abs() / theirs.max(0.05);
                worst = worst.max(off);
                assert!(off < 0.002, "day {n}, {}: {at} h, stepped {theirs} h", chemistry.name());
            }
            (Ended::DayDone, None) => {
                assert!(
                    (ours.charge_left - ours.past_label - left).abs() < 0.002,
                    "day {n}: {} {left}",
                    ours.charge_left
                );
            }
            (ours, theirs) => panic!("day {n}, {}: {ours:?}, stepped {theirs:?}", chemistry.name()),
        }
    }
    println!("500 days, {ended} ended early; worst run time off by {:.3} %", worst * 100.0);
    assert!(ended > 100, "the days must be long enough to end some batteries");
}
