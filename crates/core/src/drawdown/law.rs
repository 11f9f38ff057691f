//! The law one battery unit follows while it is discharged: two wells and a voltage.
//!
//! Charge sits in an available well and a bound one that feeds it (kinetic battery model:
//! Manwell & McGowan, Solar Energy 50 (1993) 399-405). With `q` the charge left and `d` the
//! difference of the wells' heads,
//!
//! ```text
//! q' = -I        d' = I/c - k d
//! s = q/Qm       h = (q - (1-c) d)/Qm        empty at h = 0
//! ```
//!
//! so over a stretch of steady current both have a closed form and no time is stepped through.
//! The voltage of a cell, with i = I/Q20 in 1/h, is
//!
//! ```text
//! V = OCV(s) - b asinh(i/0.02) - r i - (k0 + k1 i) [1/(h+e) - 1/(1+e)]     lead
//! V = OCV(h) - b asinh(i/0.02) - r i                                       lithium
//! ```
//!
//! an equilibrium part, a charge-transfer part (the inverse of Butler-Volmer's sinh), an ohmic
//! part and, in lead, a knee as the acid between the plates runs out. `k0` is not free: it is chosen
//! so that the knee reaches the end voltage just as the well empties at a vanishing current. In
//! lithium the particles' surface decides, and the available head stands for it: the end comes as the
//! steep end of the open-circuit curve, earlier at a higher current.

use crate::chemistry::Chemistry;

/// Current, as a share of the 20-hour ampere-hours, below which charge transfer is nearly ohmic. [1/h]
const ASINH_SCALE: f64 = 0.02;

pub use crate::chemistry::Cell as CellParameters;

impl CellParameters {
    /// What is typical for the chemistry, for a unit of 100 Ah: smaller ones have more resistance for their
    /// size, see [`sized`](Self::sized).
    pub const fn typical(chemistry: Chemistry) -> Self {
        chemistry.facts().cell
    }

    /// The same for a unit of some 20-hour ampere-hours, by [`Facts::small_unit`]. [Ah]
    ///
    /// Lead `r = r100 (100/Q)^0.52` below 100 Ah, at most 2.7 times; lithium `(100/Q)^0.43`, 0.05 to
    /// 0.16 V h.
    ///
    /// [`Facts::small_unit`]: crate::chemistry::Facts::small_unit
    pub fn sized(self, chemistry: Chemistry, q20: f64) -> Self {
        let (exponent, least, most) = chemistry.facts().small_unit;
        let factor = (100.0 / q20).powf(exponent);
        let r = if chemistry.is_lead() {
            self.r * factor.clamp(least, most)
        } else {
            (self.r * factor).clamp(least, most)
        };
        Self { r, ..self }
    }

    /// The knee's base strength that makes it reach `v_end` as the available well empties. [V]
    fn k0(&self) -> f64 {
        if !self.knee {
            return 0.0;
        }
        let full_to_end = self.ocv.at(0.0) - self.v_end;
        (full_to_end / (1.0 / self.eps - 1.0 / (1.0 + self.eps))).max(0.0)
    }
}

/// Charge state of one unit. Moved through time by [`UnitLaw::rest_or_draw`], never changed in place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct State {
    /// Charge left, `q`. [Ah]
    pub charge: f64,
    /// Difference of the wells' heads, `d`: large while and after heavy use. [Ah]
    pub gap: f64,
}

/// What a current takes from a unit's cells.
#[derive(Debug, Clone, Copy)]
pub(super) struct Sag {
    /// By charge transfer and resistance. [V]
    volts: f64,
    /// Strength of the knee at this current. [V]
    knee: f64,
    /// How fast `volts` and `knee` grow with the unit's current. [V/A]
    slope: f64,
    knee_slope: f64,
}

impl Sag {
    /// The sag at a current `by` amperes higher, along the tangent. Over a step a current changes by a
    /// few percent: the charge-transfer part is then right to some microvolts.
    #[inline(always)]
    pub(super) fn shifted(self, by: f64) -> Self {
        Self { volts: self.volts + self.slope * by, knee: self.knee + self.knee_slope * by, ..self }
    }
}

/// The law of one unit at one temperature: everything a stretch needs, nothing that allocates.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct UnitLaw {
    cell: CellParameters,
    k0: f64,
    cells: f64,
    per_q20: f64,
    q_max: f64,
    per_q_max: f64,
    knee_full: f64,
    q_locked: f64,
    per_q_reach: f64,
    per_ck: f64,
    r: f64,
    v_end: f64,
}

impl UnitLaw {
    /// The law of a unit of `cells` cells and a 20-hour capacity `q20` [Ah].
    pub fn new(cell: CellParameters, cells: u32, q20: f64) -> Self {
        let q_max = q20 * cell.q_max_over_q20;
        Self {
            cell,
            k0: cell.k0(),
            cells: f64::from(cells),
            per_q20: 1.0 / q20,
            q_max,
            per_q_max: 1.0 / q_max,
            knee_full: 1.0 / (1.0 + cell.eps),
            q_locked: 0.0,
            per_q_reach: 1.0 / q_max,
            per_ck: 1.0 / (cell.c * cell.k),
            r: cell.r,
            v_end: cell.v_end * f64::from(cells),
        }
    }

    /// The same unit in the cold: `reach` is the share of the charge that can still be drawn and
    /// `resistance` the factor on the ohmic part. Charge out of reach is not lost.
    pub fn at_temperature(self, reach: f64, resistance: f64) -> Self {
        let reach = reach.clamp(0.05, 1.5);
        Self {
            q_locked: (1.0 - reach) * self.q_max,
            per_q_reach: 1.0 / (reach * self.q_max),
            r: self.cell.r * resistance,
            ..self
        }
    }

    /// The same unit ending at `volts` (a BMS, a controller) instead of the chemistry's end. [V]
    pub fn ending_at(self, volts: f64) -> Self {
        Self { v_end: volts, ..self }
    }

    /// A unit with other capacity and resistance, as a worn one has.
    pub fn worn(self, capacity_share: f64, resistance_factor: f64) -> Self {
        // A fixed ohmic resistance is r over Q20, so a smaller Q20 alone would raise it.
        let cell =
            CellParameters { r: self.cell.r * capacity_share * resistance_factor, ..self.cell };
        let worn = Self::new(cell, self.cells as u32, capacity_share / self.per_q20);
        Self { v_end: self.v_end, ..worn }
    }

    /// Fully charged and rested.
    pub fn full(&self) -> State {
        State { charge: self.q_max, gap: 0.0 }
    }

    /// Capacity at vanishing current. [Ah]
    pub const fn q_max(&self) -> f64 {
        self.q_max
    }

    /// Voltage of the unit at which it stops. [V]
    pub const fn v_end(&self) -> f64 {
        self.v_end
    }

    /// The unit's ohmic resistance at the law's temperature. [Ω]
    pub fn ohms(&self) -> f64 {
        self.r * self.cells * self.per_q20
    }

    /// State of charge: the share of the charge that is left, 0 to 1.
    pub fn charge_share(&self, now: State) -> f64 {
        now.charge * self.per_q_max
    }

    /// Head of the available well, 1 when full and rested; empty at 0.
    #[inline(always)]
    pub fn head(&self, now: State) -> f64 {
        (now.charge - self.q_locked - (1.0 - self.cell.c) * now.gap) * self.per_q_reach
    }

    /// The state after `hours` at a steady current of `amps`; both wells in closed form.
    #[inline(always)]
    pub fn rest_or_draw(&self, now: State, amps: f64, hours: f64) -> State {
        self.draw_decayed(now, amps, hours, (-self.cell.k * hours).exp())
    }

    /// As [`Self::rest_or_draw`] with `e^(-k t)` known, so that half steps need not take it again.
    #[inline(always)]
    pub(super) fn draw_decayed(&self, now: State, amps: f64, hours: f64, decay: f64) -> State {
        let settled = amps * self.per_ck;
        State { charge: now.charge - amps * hours, gap: settled + (now.gap - settled) * decay }
    }

    /// `e^(-k t)`.
    ///
    /// For short times by Padé's approximant of third order, whose error is x^7/100,800: below 3e-11
    /// here, and a quarter of the cost.
    #[inline(always)]
    pub(super) fn decay(&self, hours: f64) -> f64 {
        let x = self.cell.k * hours;
        if x > 0.15 {
            return (-x).exp();
        }
        let (even, odd) = (120.0 + 12.0 * x * x, x * (60.0 + x * x));
        (even - odd) / (even + odd)
    }

    /// A whole stretch at a steady current: the state after it, and the voltage at its start, middle and
    /// end. `None` when the unit is at its end voltage at either end of the stretch: then the moment has
    /// to be looked for.
    #[inline(always)]
    pub(super) fn steady(&self, now: State, amps: f64, hours: f64) -> Option<(State, [f64; 3])> {
        let half = self.decay(0.5 * hours);
        let mid = self.draw_decayed(now, amps, 0.5 * hours, half);
        let next = self.draw_decayed(now, amps, hours, half * half);
        let sag = self.sag(amps);
        let (h0, h1, h2) = (self.head(now), self.head(mid), self.head(next));
        if h0 <= 0.0 || h2 <= 0.0 {
            return None;
        }
        let begin = self.volts_at(now.charge, h0, &sag);
        let end = self.volts_at(next.charge, h2, &sag);
        if amps > 0.0 && begin.min(end) <= self.v_end {
            return None;
        }
        Some((next, [begin, self.volts_at(mid.charge, h1, &sag), end]))
    }

    /// Terminal voltage of the unit. [V]
    ///
    /// Minus infinity once the available well is empty: no current can be drawn then.
    #[inline(always)]
    pub fn volts(&self, now: State, amps: f64) -> f64 {
        self.volts_sagging(now, &self.sag(amps))
    }

    /// What a current takes from the voltage, apart from the state: worked out once for all moments
    /// at that current.
    #[inline(always)]
    pub(super) fn sag(&self, amps: f64) -> Sag {
        let i = amps * self.per_q20;
        let (mut volts, mut slope) = (self.r * i, self.r);
        if self.cell.b > 0.0 && i > 0.0 {
            // The inverse hyperbolic sine, written out: discharge currents are never negative.
            let x = i * (1.0 / ASINH_SCALE);
            let root = (x * x + 1.0).sqrt();
            volts += self.cell.b * (x + root).ln();
            slope += self.cell.b * (1.0 / ASINH_SCALE) / root;
        }
        Sag {
            volts,
            knee: self.k0 + self.cell.k1 * i,
            slope: slope * self.per_q20,
            knee_slope: self.cell.k1 * self.per_q20,
        }
    }

    /// As [`Self::volts`], the current's part being known.
    #[inline(always)]
    pub(super) fn volts_sagging(&self, now: State, sag: &Sag) -> f64 {
        let h = self.head(now);
        if h <= 0.0 {
            return f64::NEG_INFINITY;
        }
        self.volts_at(now.charge, h, sag)
    }

    /// `V = cells x (OCV(share) - sag - knee(head))`: lead's open-circuit voltage follows the charge and its end
    /// is the knee; lithium's follows the available head, and the end is the curve's own. [V]
    #[inline(always)]
    fn volts_at(&self, charge: f64, head: f64, sag: &Sag) -> f64 {
        if !self.cell.knee {
            return (self.cell.ocv.at(head) - sag.volts) * self.cells;
        }
        let rest = self.cell.ocv.at(charge * self.per_q_max) - sag.volts;
        // A cell warmer than 25 °C may hold a head a little over 1: no bonus for that.
        (rest - sag.knee * self.knee_at(head)) * self.cells
    }

    /// How fast the terminal voltage falls with the current at one moment; below zero. [V/A]
    #[inline(always)]
    pub(super) fn slope(&self, now: State, sag: &Sag) -> f64 {
        let knee = if self.cell.knee { sag.knee_slope * self.knee_at(self.head(now)) } else { 0.0 };
        -(sag.slope + knee) * self.cells
    }

    /// Shape of the knee: `1/(h + ε) - 1/(1 + ε)`, nothing at a full head and steep as it empties.
    #[inline(always)]
    fn knee_at(&self, head: f64) -> f64 {
        (1.0 / (head.max(0.0) + self.cell.eps) - self.knee_full).max(0.0)
    }

    /// Hours a full, rested unit lasts at a steady current, to its end voltage. [h]
    pub fn runtime(&self, amps: f64) -> f64 {
        if amps <= 0.0 {
            return f64::INFINITY;
        }
        let longest = self.q_max / amps;
        let over = |t: f64| self.volts(self.rest_or_draw(self.full(), amps, t), amps) - self.v_end;
        if over(0.0) <= 0.0 { 0.0 } else { crate::numeric::last_positive(over, longest) }
    }
}

#[cfg(test)]
mod tests;
