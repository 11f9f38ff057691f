//! The law one battery unit follows while it is discharged: a remembered current, and a voltage.
//!
//! Per unit of fitted 20-hour capacity C: current `i = I/C` [1/h], charge left `q = Q/C`, remembered current `F`
//! [1/h], nothing when rested. Over a stretch of steady current
//!
//! ```text
//! y = e^(-t/τ)      F <- i + (F - i) y      q <- q - i t
//! E = (1 - w) i + w F,  0 where that is below      out of reach: a E^n
//! ```
//!
//! and the unit is empty under its load when what is left is out of reach, `q <= a E^n`. Charge is conserved, rests
//! bring back what was out of reach, no time is stepped through: one exponential a stretch. `u = a E^n / q` says how
//! far it is from that, and the voltage of a cell is
//!
//! ```text
//! V = (1 - g) (OCV(Q/Qm) - r i) + g V_end,  g = u^7       lead: the acid between the plates thins as u rises
//! V = OCV((q - a E^n) C/Qm) - r i - b asinh(i/0.02)       lithium: the particles' surface decides
//! ```
//!
//! so that lead reaches the rated end just as it empties, at any current, and lithium runs down the steep end of its
//! open-circuit curve, earlier at a higher current. Found by a study of simulated porous electrodes, for lead with
//! n = 4/7; with n = 1 and w = 1 the law is the kinetic battery model's (Manwell & McGowan, Solar Energy 50 (1993)
//! 399-405), with `a = (1 - c)/(c k)` and `τ = 1/k` of its wells. docs/model.md says what was fitted to what.

use crate::chemistry::{Chemistry, Knee, Rates};
use crate::numeric::Power;

pub use crate::chemistry::Cell as CellParameters;

/// Current, as a share of the 20-hour ampere-hours, below which charge transfer is nearly ohmic. [1/h]
const TRANSFER_SCALE: f64 = 0.02;

impl CellParameters {
    /// What is typical for the chemistry, for a unit of 100 Ah.
    pub const fn typical(chemistry: Chemistry) -> Self {
        chemistry.facts().cell
    }

    /// The same for a unit of some 20-hour ampere-hours, by [`Facts::small_unit`]. [Ah]
    ///
    /// Lead keeps its `r`; lithium `r = r100 (100/Q)^0.43`, 0.05 to 0.16 V h.
    ///
    /// [`Facts::small_unit`]: crate::chemistry::Facts::small_unit
    pub fn sized(self, chemistry: Chemistry, q20: f64) -> Self {
        let (exponent, least, most) = chemistry.facts().small_unit;
        Self { r: (self.r * (100.0 / q20).powf(exponent)).clamp(least, most), ..self }
    }
}

/// Charge state of one unit. Moved through time by [`UnitLaw::rest_or_draw`], never changed in place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct State {
    /// Charge left, `Q`. [Ah]
    pub charge: f64,
    /// Remembered current, `F C`: as high as the current after long use, nothing after a long rest. [A]
    pub recent: f64,
}

/// The law of one unit at one temperature: everything a stretch needs, nothing that allocates.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct UnitLaw {
    cell: CellParameters,
    cells: f64,
    /// One over the 20-hour capacity. [1/Ah]
    per_size: f64,
    q_max: f64,
    per_q_max: f64,
    /// Charge that the cold holds, whatever the current. [Ah]
    locked: f64,
    /// One over the charge that it leaves. [1/Ah]
    per_reach: f64,
    a: f64,
    /// The same in ampere-hours.
    a_ah: f64,
    power: Power,
    /// Whether the knee's power and the law's take no root together.
    rootless: bool,
    per_tau: f64,
    w: f64,
    r: f64,
    v_end: f64,
    /// Ampere-hours stored for each put in, and the charge share up to which it takes all it is given.
    stores: (f64, f64),
    /// Voltage that a charger does not exceed. [V]
    top: f64,
}

/// What a temperature does to a unit, see [`temperature`](super::temperature).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cold {
    /// Share of the charge that stays within reach of a vanishing current, above 0 to 1.
    pub reach: f64,
    /// Factor on the ohmic resistance.
    pub resistance: f64,
    /// How far `reach` may be off, either way.
    pub unsure: f64,
}

impl Cold {
    /// As rated.
    pub const NONE: Self = Self { reach: 1.0, resistance: 1.0, unsure: 0.0 };
}

impl UnitLaw {
    /// The law of a unit of `cells` cells and a 20-hour capacity `q20` [Ah], as rated.
    pub fn new(cell: CellParameters, cells: u32, q20: f64) -> Self {
        let rates: &Rates = &cell.rates;
        let q_max = q20 * rates.q_max_over_q20();
        Self {
            cell,
            cells: f64::from(cells),
            per_size: 1.0 / q20,
            q_max,
            per_q_max: 1.0 / q_max,
            locked: 0.0,
            per_reach: 1.0 / q_max,
            a: rates.a,
            a_ah: rates.a * q20,
            power: Power::of(rates.n),
            rootless: Power::of(rates.n) == Power::FourSevenths && cell.knee == Knee::Late,
            per_tau: 1.0 / rates.tau(),
            w: rates.w(),
            r: cell.r,
            v_end: cell.v_end * f64::from(cells),
            stores: (1.0, 1.0),
            top: f64::INFINITY,
        }
    }

    /// The same unit at a temperature. Charge out of reach is not lost.
    pub fn at_temperature(self, cold: Cold) -> Self {
        Self {
            locked: (1.0 - cold.reach) * self.q_max,
            per_reach: self.per_q_max / cold.reach,
            r: self.cell.r * cold.resistance,
            ..self
        }
    }

    /// The same unit ending at `volts` (a BMS, a controller) instead of the chemistry's end. [V]
    ///
    /// Empty is empty: a cut-off below the chemistry's end gets no more out of it.
    pub fn ending_at(self, volts: f64) -> Self {
        Self { v_end: volts.max(self.cell.v_end * self.cells), ..self }
    }

    /// The same unit storing `coulombic` ampere-hours for each that is put in, taking all of a current up to a charge
    /// share of `bulk_to`, and never charged above `top` volts a cell. [V]
    pub fn storing(self, coulombic: f64, bulk_to: f64, top: f64) -> Self {
        Self { stores: (coulombic, bulk_to), top: top * self.cells, ..self }
    }

    /// Ampere-hours stored for each put in, and the charge share up to which it takes all it is given.
    pub(super) const fn stores(&self) -> (f64, f64) {
        self.stores
    }

    /// A unit with other capacity and resistance, as a worn one has.
    pub fn worn(self, capacity_share: f64, resistance_factor: f64) -> Self {
        // A fixed ohmic resistance is r over Q20, so a smaller Q20 alone would raise it.
        let cell =
            CellParameters { r: self.cell.r * capacity_share * resistance_factor, ..self.cell };
        let worn = Self::new(cell, self.cells as u32, capacity_share / self.per_size);
        Self { v_end: self.v_end, stores: self.stores, top: self.top, ..worn }
    }

    /// Fully charged and rested.
    pub fn full(&self) -> State {
        self.at(1.0)
    }

    /// Rested at a charge share, 0 to 1.
    pub fn at(&self, share: f64) -> State {
        State { charge: self.q_max * share, recent: 0.0 }
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
        self.r * self.cells * self.per_size
    }

    /// State of charge: the share of the charge that is left, 0 to 1.
    #[inline(always)]
    pub fn charge_share(&self, now: State) -> f64 {
        // Full is one, to the last digit.
        (now.charge * self.per_q_max).min(1.0)
    }

    /// The current as it is felt, `E`. [1/h]
    #[inline(always)]
    fn felt(&self, now: State, amps: f64) -> f64 {
        (amps + self.w * (now.recent - amps)) * self.per_size
    }

    /// Share of the 20-hour capacity that a current puts out of reach now, `a E^n`.
    #[inline(always)]
    fn out_of_reach(&self, now: State, amps: f64) -> f64 {
        self.a * self.power.raise(self.felt(now, amps))
    }

    /// How far lead's voltage is down to its end, `g`, with `left` ampere-hours; empty at 1.
    ///
    /// `u^7 = (a/q)^7 E^4` with n = 4/7: no root has to be taken.
    #[inline(always)]
    fn down(&self, felt: f64, left: f64) -> f64 {
        if felt <= 0.0 {
            return if left > 0.0 { 0.0 } else { 1.0 };
        }
        if self.rootless {
            let (p, e) = (self.a_ah / left, felt * felt);
            let p3 = p * p * p;
            return p3 * p3 * p * (e * e);
        }
        let u = self.a_ah * self.power.raise(felt) / left;
        match self.cell.knee {
            Knee::Even => u,
            Knee::Late => u.powi(7),
        }
    }

    /// Charge within reach of a current from now on, as a share of all there is when full; empty under it at 0.
    pub fn head(&self, now: State, amps: f64) -> f64 {
        ((now.charge - self.locked) * self.per_size - self.out_of_reach(now, amps))
            / (self.q_max * self.per_size)
    }

    /// The state after `hours` at a steady current of `amps`, in closed form; below zero it is charged, up to full.
    #[inline(always)]
    pub fn rest_or_draw(&self, now: State, amps: f64, hours: f64) -> State {
        self.draw_decayed(now, amps, hours, self.decay(hours))
    }

    /// As [`Self::rest_or_draw`] with `e^(-t/τ)` known, so that half steps need not take it again.
    #[inline(always)]
    pub(super) fn draw_decayed(&self, now: State, amps: f64, hours: f64, decay: f64) -> State {
        let drawn = amps * hours;
        let charge = if drawn < 0.0 {
            // Where a battery is full is here and nowhere else.
            (now.charge - drawn * self.stores.0).min(self.q_max)
        } else {
            now.charge - drawn
        };
        State { charge, recent: amps + (now.recent - amps) * decay }
    }

    /// `e^(-t/τ)`.
    ///
    /// For short times by Padé's approximant of third order, whose error is x^7/100,800: below 3e-11
    /// here, and a quarter of the cost.
    #[inline(always)]
    pub(super) fn decay(&self, hours: f64) -> f64 {
        let x = self.per_tau * hours;
        if x > 0.15 {
            return (-x).exp();
        }
        let (even, odd) = (120.0 + 12.0 * x * x, x * (60.0 + x * x));
        (even - odd) / (even + odd)
    }

    /// A whole stretch at a steady current: the state after it, and the voltage at its start, middle and
    /// end. `None` when the unit is at its end voltage at either end of the stretch, so that the moment has
    /// to be looked for, or when its voltage bends so much that three points do not tell its mean.
    #[inline(always)]
    pub(super) fn steady(&self, now: State, amps: f64, hours: f64) -> Option<(State, [f64; 3])> {
        let half = self.decay(0.5 * hours);
        let mid = self.draw_decayed(now, amps, 0.5 * hours, half);
        let next = self.draw_decayed(now, amps, hours, half * half);
        let [begin, middle, end] = [now, mid, next].map(|at| self.volts(at, amps));
        if amps > 0.0 && begin.min(end) <= self.v_end {
            return None;
        }
        (!bends([begin, middle, end])).then_some((next, [begin, middle, end]))
    }

    /// Terminal voltage of the unit. [V]
    ///
    /// Minus infinity once what is left is out of a current's reach: it cannot be drawn then.
    #[inline(always)]
    pub fn volts(&self, now: State, amps: f64) -> f64 {
        let volts = self.volts_of_cells(now, amps);
        // A charger holds its voltage, and what flows then is the taper's.
        if amps < 0.0 { volts.min(self.top) } else { volts }
    }

    /// As [`Self::volts`], whatever a charger allows. [V]
    #[inline(always)]
    fn volts_of_cells(&self, now: State, amps: f64) -> f64 {
        let i = amps * self.per_size;
        let left = now.charge - self.locked;
        if self.cell.rates.acid {
            let g = self.down(self.felt(now, amps), left);
            if !(0.0..1.0).contains(&g) {
                return self.at_the_end(amps, left);
            }
            let rest = self.cell.ocv.at(now.charge * self.per_q_max) - self.r * i;
            // What resistance alone brings below the end is not lifted to it.
            return (rest + g * (self.cell.v_end - rest).min(0.0)) * self.cells;
        }
        let out = self.out_of_reach(now, amps);
        let head = (left - out / self.per_size) * self.per_reach;
        if head <= 0.0 {
            return self.at_the_end(amps, left);
        }
        // The inverse of Butler-Volmer's sinh.
        let transfer =
            if self.cell.b > 0.0 { self.cell.b * (i / TRANSFER_SCALE).asinh() } else { 0.0 };
        (self.cell.ocv.at(head) - self.r * i - transfer) * self.cells
    }

    /// The voltage once nothing is left within reach: the rated end while it rests or is charged, none under a load, nor at
    /// rest when the cold holds all that is left. [V]
    #[cold]
    fn at_the_end(&self, amps: f64, left: f64) -> f64 {
        if amps > 0.0 || (left < 0.0 && amps >= 0.0) {
            return f64::NEG_INFINITY;
        }
        (self.cell.v_end - self.r * amps * self.per_size) * self.cells
    }

    /// How fast the terminal voltage falls with the current at one moment; zero or below. [V/A]
    ///
    /// `dV/di` of the voltage above with `dE/di = 1 - w`.
    #[inline(always)]
    pub(super) fn slope(&self, now: State, amps: f64) -> f64 {
        let felt = self.felt(now, amps);
        if felt <= 0.0 {
            return -self.r * self.per_size * self.cells;
        }
        let left = now.charge - self.locked;
        let per_i = if self.cell.rates.acid {
            let g = self.down(felt, left).clamp(0.0, 1.0);
            let power = self.power.exponent() * self.cell.knee.power();
            let rest =
                self.cell.ocv.at(now.charge * self.per_q_max) - self.r * amps * self.per_size;
            let steep = (rest - self.cell.v_end).max(0.0) * g * power * (1.0 - self.w) / felt;
            -(1.0 - g) * self.r - steep
        } else {
            let out = self.a * self.power.raise(felt);
            let grows = out / felt * (self.power.exponent() * (1.0 - self.w));
            let per_reach = self.per_reach / self.per_size;
            let transfer = if self.cell.b > 0.0 {
                let x = amps * self.per_size / TRANSFER_SCALE;
                self.cell.b / (TRANSFER_SCALE * (x * x + 1.0).sqrt())
            } else {
                0.0
            };
            -self.r
                - transfer
                - self.cell.ocv.slope((left * self.per_size - out) * per_reach) * grows * per_reach
        };
        per_i * self.per_size * self.cells
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

/// Whether a voltage at the start, middle and end of a time bends so much that Simpson's rule may be off by more than
/// some hundredths of a percent: its middle lies 0.2 % from the chord. [V]
#[inline(always)]
pub(super) fn bends([begin, middle, end]: [f64; 3]) -> bool {
    (0.5 * (begin + end) - middle).abs() > 0.002 * middle
}

#[cfg(test)]
mod tests;
