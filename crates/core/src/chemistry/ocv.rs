//! Open-circuit voltage of a cell by state of charge.

/// Points every hundredth of the charge, so that a look-up is one multiplication.
const STEPS: usize = 100;

/// How a cell's resting voltage follows its charge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Ocv {
    /// `E0 - a (1 - s)`: lead-acid, whose acid thins evenly with the label's ampere-hours that are taken. [V]
    Linear {
        /// Full. [V]
        e0: f64,
        /// From full to empty. [V]
        a: f64,
    },
    /// A table at even hundredths of the charge from empty to full, moved up or down as a whole. [V]
    Table(&'static [f64; STEPS + 1], f64),
}

/// LFP, (charge, volts). From memory; a 2.3 Ah cell in simulation agrees within 20 mV.
const LFP_POINTS: [(f64, f64); 17] = [
    (0.0, 2.50),
    (0.01, 2.70),
    (0.02, 2.85),
    (0.05, 3.02),
    (0.1, 3.16),
    (0.15, 3.20),
    (0.2, 3.22),
    (0.3, 3.255),
    (0.4, 3.28),
    (0.5, 3.293),
    (0.6, 3.305),
    (0.7, 3.32),
    (0.8, 3.328),
    (0.9, 3.334),
    (0.95, 3.337),
    (0.98, 3.342),
    (1.0, 3.40),
];

/// Nickel-rich cells (NMC 811, NCA; 3.6 V nominal), (charge, volts) between 3.0 and 4.2 V: electrode potentials of pybamm
/// 26.10.1.1, parameter set Chen2020, by `tests/oracle/trips.py`. Rounded to a millivolt.
const NICKEL_RICH_POINTS: [(f64, f64); 26] = [
    (0.0, 3.000),
    (0.01, 3.070),
    (0.02, 3.123),
    (0.03, 3.164),
    (0.05, 3.233),
    (0.07, 3.299),
    (0.1, 3.392),
    (0.15, 3.467),
    (0.2, 3.507),
    (0.25, 3.554),
    (0.3, 3.605),
    (0.35, 3.646),
    (0.4, 3.682),
    (0.45, 3.721),
    (0.5, 3.767),
    (0.55, 3.812),
    (0.6, 3.852),
    (0.65, 3.904),
    (0.7, 3.958),
    (0.75, 4.002),
    (0.8, 4.048),
    (0.85, 4.083),
    (0.9, 4.097),
    (0.95, 4.125),
    (0.98, 4.166),
    (1.0, 4.200),
];

/// Mid-nickel cells (NMC 532 and blends with manganese; 3.7 V nominal), the same of parameter set Mohtat2020.
const MID_NICKEL_POINTS: [(f64, f64); 26] = [
    (0.0, 3.000),
    (0.01, 3.222),
    (0.02, 3.344),
    (0.03, 3.412),
    (0.05, 3.473),
    (0.07, 3.496),
    (0.1, 3.513),
    (0.15, 3.544),
    (0.2, 3.588),
    (0.25, 3.622),
    (0.3, 3.640),
    (0.35, 3.655),
    (0.4, 3.672),
    (0.45, 3.693),
    (0.5, 3.717),
    (0.55, 3.746),
    (0.6, 3.799),
    (0.65, 3.841),
    (0.7, 3.881),
    (0.75, 3.925),
    (0.8, 3.972),
    (0.85, 4.022),
    (0.9, 4.077),
    (0.95, 4.136),
    (0.98, 4.174),
    (1.0, 4.200),
];

/// Lithium iron phosphate on graphite. [V]
pub(super) static LFP: [f64; STEPS + 1] = even(&LFP_POINTS);
/// Nickel-rich oxides on graphite: NMC 811, NCA. [V]
pub(super) static NICKEL_RICH: [f64; STEPS + 1] = even(&NICKEL_RICH_POINTS);
/// NMC 532 and blends with manganese on graphite. [V]
pub(super) static MID_NICKEL: [f64; STEPS + 1] = even(&MID_NICKEL_POINTS);

/// The points' broken line read off at even hundredths.
const fn even(points: &[(f64, f64)]) -> [f64; STEPS + 1] {
    let mut table = [0.0; STEPS + 1];
    let (mut n, mut p) = (0, 0);
    while n <= STEPS {
        let s = n as f64 / STEPS as f64;
        while p + 2 < points.len() && points[p + 1].0 < s {
            p += 1;
        }
        let (s0, v0) = points[p];
        let (s1, v1) = points[p + 1];
        table[n] = v0 + (v1 - v0) * (s - s0) / (s1 - s0);
        n += 1;
    }
    table
}

impl Ocv {
    /// Resting voltage at a charge share; shares outside 0 to 1 give the ends. [V]
    #[inline(always)]
    pub fn at(&self, share: f64) -> f64 {
        match self {
            Self::Linear { e0, a } => e0 - a * (1.0 - share),
            Self::Table(table, shift) => read(table, share) + shift,
        }
    }
}

impl Ocv {
    /// How fast the resting voltage rises with the charge share. [V]
    #[inline(always)]
    pub(crate) fn slope(&self, share: f64) -> f64 {
        match self {
            Self::Linear { a, .. } => *a,
            Self::Table(table, _) => {
                let n = ((share.clamp(0.0, 1.0) * STEPS as f64) as usize).min(STEPS - 1);
                (table[n + 1] - table[n]) * STEPS as f64
            }
        }
    }
}

impl Ocv {
    /// Charge share at which the resting voltage is down to `volts`: nothing below the curve, all above it.
    pub(crate) fn share_at(&self, volts: f64) -> f64 {
        match self {
            Self::Linear { e0, a } => (1.0 - (e0 - volts) / a).clamp(0.0, 1.0),
            Self::Table(table, shift) => {
                let volts = volts - shift;
                let n = table.partition_point(|v| *v <= volts);
                if n == 0 || n > STEPS {
                    return if n == 0 { 0.0 } else { 1.0 };
                }
                let (low, high) = (table[n - 1], table[n]);
                ((n - 1) as f64 + (volts - low) / (high - low)) / STEPS as f64
            }
        }
    }
}

/// Straight between the even steps of a table, for a share of the charge from 0 to 1. Shares outside it
/// give the ends. [V]
#[inline(always)]
fn read(table: &[f64; STEPS + 1], share: f64) -> f64 {
    let x = share.clamp(0.0, 1.0) * STEPS as f64;
    let n = (x as usize).min(STEPS - 1);
    table[n] + (table[n + 1] - table[n]) * (x - n as f64)
}

impl Ocv {
    /// Mean of the resting voltage from full to empty: what a label's watt-hours over its ampere-hours come to, but for the
    /// resistance. [V]
    pub(crate) fn mean(&self) -> f64 {
        match self {
            Self::Linear { e0, a } => e0 - 0.5 * a,
            Self::Table(table, shift) => {
                let ends = 0.5 * (table[0] + table[STEPS]);
                shift + (ends + table[1..STEPS].iter().sum::<f64>()) / STEPS as f64
            }
        }
    }

    /// The same curve moved up or down as a whole; a straight line stays as it is. [V]
    pub(crate) fn shifted(self, by: f64) -> Self {
        match self {
            Self::Linear { .. } => self,
            Self::Table(table, shift) => Self::Table(table, shift + by),
        }
    }
}
