//! Open-circuit voltage of a cell by state of charge.

/// Points every hundredth of the charge, so that a look-up is one multiplication.
const STEPS: usize = 100;

/// How a cell's resting voltage follows its charge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Ocv {
    /// `E0 - a (1 - s)`: lead-acid, whose acid thins evenly. [V]
    Linear {
        /// Full. [V]
        e0: f64,
        /// From full to empty. [V]
        a: f64,
    },
    /// A table at even hundredths of the charge from empty to full. [V]
    Table(&'static [f64; STEPS + 1]),
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

/// NMC, (charge, volts). From memory.
const NMC_POINTS: [(f64, f64); 12] = [
    (0.0, 3.00),
    (0.05, 3.35),
    (0.1, 3.45),
    (0.2, 3.55),
    (0.3, 3.60),
    (0.4, 3.64),
    (0.5, 3.68),
    (0.6, 3.76),
    (0.7, 3.86),
    (0.8, 3.96),
    (0.9, 4.06),
    (1.0, 4.18),
];

/// Lithium iron phosphate on graphite. [V]
pub(super) static LFP: [f64; STEPS + 1] = even(&LFP_POINTS);
/// Lithium NMC on graphite, a typical one. [V]
pub(super) static NMC: [f64; STEPS + 1] = even(&NMC_POINTS);

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
            Self::Table(table) => read(table, share),
        }
    }
}

impl Ocv {
    /// How fast the resting voltage rises with the charge share. [V]
    #[inline(always)]
    pub(crate) fn slope(&self, share: f64) -> f64 {
        match self {
            Self::Linear { a, .. } => *a,
            Self::Table(table) => {
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
            Self::Table(table) => {
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
