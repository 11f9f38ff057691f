//! One unit of a pack as it really is: by the program's own law with other figures, or by the curves of another model.

use lake_hour_core::drawdown::{State, UnitLaw};

/// Curves of steady discharges as data: volts of a cell by charge used, at some rates. [1/h], [V]
#[derive(Debug)]
pub(crate) struct Curves {
    rates: Vec<f64>,
    /// A row for each of even steps of the charge used.
    rows: Vec<Vec<f64>>,
    step: f64,
    /// How much of a current is felt at once, and how long the rest takes to be felt. [h]
    felt: (f64, f64),
}

impl Curves {
    /// The curves of a porous-electrode model of lead, or of LFP.
    pub(crate) fn of(lead: bool) -> Self {
        let (text, felt) = if lead {
            (include_str!("../data/lead-curves-pybamm-26.10.csv"), (0.6, 0.3))
        } else {
            (include_str!("../data/lfp-curves-pybamm-26.10.csv"), (0.9, 0.02))
        };
        let mut lines = text.lines().filter(|l| !l.starts_with('#')).map(|line| {
            line.split(',').map(|cell| cell.parse().unwrap_or(f64::NAN)).collect::<Vec<f64>>()
        });
        let rates = lines.next().map_or_else(Vec::new, |head| head[1..].to_vec());
        let rows: Vec<Vec<f64>> = lines.collect();
        let step = rows[1][0] - rows[0][0];
        Self { rates, rows: rows.into_iter().map(|r| r[1..].to_vec()).collect(), step, felt }
    }

    /// Volts of a cell, straight between the rates and the rows; beyond them their last slope goes on.
    fn volts(&self, used: f64, rate: f64) -> f64 {
        let at = |row: &[f64]| {
            let n = self.rates.partition_point(|r| *r < rate).clamp(1, self.rates.len() - 1);
            let (low, high) = (self.rates[n - 1], self.rates[n]);
            row[n - 1] + (row[n] - row[n - 1]) * (rate - low) / (high - low)
        };
        let x = (used / self.step).max(0.0);
        let n = (x as usize).min(self.rows.len() - 2);
        let (a, b) = (at(&self.rows[n]), at(&self.rows[n + 1]));
        a + (b - a) * (x - n as f64)
    }
}

/// A unit as it really is.
#[derive(Debug)]
pub(crate) enum Unit {
    /// By the program's own law.
    Law(Box<UnitLaw>, State),
    /// By another model's curves.
    Curves {
        /// What it is like.
        curves: std::sync::Arc<Curves>,
        /// Cells in series.
        cells: f64,
        /// What it holds over twenty hours. [Ah]
        holds: f64,
        /// Volts of a cell at which it ends. [V]
        ends: f64,
        /// Charge used, as a share of that, and the rate that is felt. [1/h]
        now: (f64, f64),
    },
}

impl Unit {
    pub(crate) fn draw(&mut self, amps: f64, hours: f64) {
        match self {
            Self::Law(law, state) => *state = law.rest_or_draw(*state, amps, hours),
            Self::Curves { curves, holds, now, .. } => {
                let rate = amps / *holds;
                now.0 = (now.0 + rate * hours).max(0.0);
                now.1 = rate + (now.1 - rate) * (-hours / curves.felt.1).exp();
            }
        }
    }

    pub(crate) fn volts(&self, amps: f64) -> f64 {
        match self {
            Self::Law(law, state) => law.volts(*state, amps),
            Self::Curves { curves, cells, holds, now, .. } => {
                let rate = curves.felt.0 * amps / holds + (1.0 - curves.felt.0) * now.1;
                curves.volts(now.0, rate) * cells
            }
        }
    }

    /// Whether it still gives a current.
    pub(crate) fn gives(&self, amps: f64) -> bool {
        match self {
            Self::Law(law, state) => law.head(*state, amps) > 0.0,
            Self::Curves { cells, ends, .. } => self.volts(amps) > ends * cells,
        }
    }

    /// What is left of it, 0 to 1.
    pub(crate) fn charge(&self) -> f64 {
        match self {
            Self::Law(law, state) => law.charge_share(*state).max(0.0),
            Self::Curves { now, .. } => (1.0 - now.0).max(0.0),
        }
    }
}
