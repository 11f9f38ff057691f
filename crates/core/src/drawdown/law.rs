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
//! and the unit is empty under its load when what is left is out of reach, `H = q - L Qm - a E^n <= 0`, with `L` what the
//! cold holds. Charge is conserved, rests bring back what was out of reach, no time is stepped through: one exponential a
//! stretch.
//!
//! **Charge share.** `s = 1 - u`, `u` = ampere-hours taken over the label's (times what wear has left of them): what a meter
//! that was set to the label shows. A cell holds more than its label, `Qm = C (1 + a 0.05^n)`: that stays inside the law. Slow
//! draws that give more than the label go below `s = 0`.
//!
//! **Volts of a lead cell.** With `x = a E^n / (q - L Qm)`, `h = x^(7/4)`, `b = (a - 0.4)/0.8` within 0 to 0.75,
//! `l = i/E` at most 1:
//!
//! ```text
//! V = (1 - g)(E0 - D u - r i) + g V_end,   g = h (1 - b + b h)(1 - 0.9 (1 - l)(1 - x²)),   r = 0.04 + 0.05 a
//! ```
//!
//! so that lead reaches the rated end just as it empties, at any current, and lets go of the knee at rest. The seventh
//! quarters, the 0.9 and `r` were chosen on three simulated builds and are judged on others: docs/model.md.
//!
//! **Volts of a lithium cell.** What cold slows is out of reach as well, `x = g E²`:
//!
//! ```text
//! V = OCV((q - L Qm - out)/((1 - L) Qm)) - r i - b asinh(i/0.02),   out = a E + (1 - L) x/(1 + x)
//! ```
//!
//! so that it runs down the steep end of its open-circuit curve, earlier at a higher current. With n = 1 and w = 1 the law is
//! the kinetic battery model's (Manwell & McGowan, Solar Energy 50 (1993) 399-405), with `a = (1 - c)/(c k)` and `τ = 1/k` of
//! its wells.

use crate::chemistry::{Chemistry, Ocv, Rates};
use crate::numeric::{Power, halved, rough_seventh_root};
use crate::pack::Taught;
use crate::units::{Celsius, Kilograms};

pub use crate::chemistry::Cell as CellParameters;

/// Current, as a share of the 20-hour ampere-hours, below which charge transfer is nearly ohmic. [1/h]
const TRANSFER_SCALE: f64 = 0.02;
/// How much of lead's knee a current that is only remembered lets go of. Chosen on three simulated builds.
const LETS_GO: f64 = 0.9;
/// Heat that a kilogram of battery takes for a degree. [J/(kg K)] From memory.
const SPECIFIC_HEAT: f64 = 1000.0;

impl CellParameters {
    /// What is typical for the chemistry, for a unit of 100 Ah.
    pub const fn typical(chemistry: Chemistry) -> Self {
        chemistry.facts().cell
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
    /// The label's ampere-hours, times what wear has left of them: what a charge share is a share of. [Ah]
    rated: f64,
    per_rated: f64,
    /// Charge that the cold holds, whatever the current. [Ah]
    locked: f64,
    /// One over the charge that it leaves. [1/Ah]
    per_reach: f64,
    /// How much the cold slows lithium: `g`, and the share that it does not lock. [h²]
    slowed: (f64, f64),
    a: f64,
    /// The same in ampere-hours.
    a_ah: f64,
    power: Power,
    /// Whether the knee's power and the law's take no root together.
    rootless: bool,
    /// How much of lead's knee comes late: `b`.
    late: f64,
    per_tau: f64,
    w: f64,
    /// At the law's temperature, BMS and leads included. [V h]
    r: f64,
    v_end: f64,
    /// Ampere-hours stored for each put in, and the charge share up to which it takes all it is given.
    stores: (f64, f64),
    /// Voltage that a charger does not exceed. [V]
    top: f64,
    /// How its own losses warm it.
    warms: Option<Warms>,
}

/// How a unit's own losses warm it above the air: `dW/dt = by i² - W/τ`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Warms {
    /// At 25 °C; grows with the resistance. [K h]
    pub(super) by: f64,
    /// How fast that is lost. [h]
    pub(super) tau: f64,
}

/// Losses over `r i²`: what polarises past the resistance. Estimate, on four simulated cells.
const LOSSES: f64 = 1.5;

/// What a temperature does to a unit, see [`temperature`](super::temperature).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cold {
    /// Of what.
    pub chemistry: Chemistry,
    /// How warm the battery is. [°C]
    pub at: Celsius,
    /// Share of the charge that stays within reach of a vanishing current, above 0 to 1.
    pub reach: f64,
    /// How much lithium is slowed, `g`. [h²]
    pub slows: f64,
    /// Factor on the ohmic resistance.
    pub resistance: f64,
    /// Which side of what is not known of it, -1 (it keeps back more) to 1; 0 likely.
    pub side: f64,
}

impl Cold {
    /// As rated.
    pub const NONE: Self = Self {
        chemistry: Chemistry::Flooded,
        at: Celsius::of(25.0),
        reach: 1.0,
        slows: 0.0,
        resistance: 1.0,
        side: 0.0,
    };

    /// Whether it changes nothing.
    #[allow(clippy::float_cmp)]
    pub(super) fn is_none(&self) -> bool {
        // Bit by bit: one that is nearly nothing is not nothing.
        self.reach == 1.0 && self.slows == 0.0 && self.resistance == 1.0
    }
}

impl UnitLaw {
    /// The law of a unit of `cells` cells and a 20-hour capacity `q20` [Ah], as rated, its charge counted in these.
    pub fn new(cell: CellParameters, cells: u32, q20: f64) -> Self {
        let rates: &Rates = &cell.rates;
        let q_max = q20 * rates.q_max_over_q20();
        Self {
            cell,
            cells: f64::from(cells),
            per_size: 1.0 / q20,
            q_max,
            rated: q20,
            per_rated: 1.0 / q20,
            locked: 0.0,
            per_reach: 1.0 / q_max,
            slowed: (0.0, 1.0),
            a: rates.a,
            a_ah: rates.a * q20,
            power: Power::of(rates.n),
            rootless: Power::of(rates.n) == Power::FourSevenths,
            late: ((rates.a - 0.4) / 0.8).clamp(0.0, 0.75),
            per_tau: 1.0 / rates.tau(),
            w: rates.w(),
            r: cell.r + cell.leads,
            v_end: cell.v_end * f64::from(cells),
            stores: (1.0, 1.0),
            top: f64::INFINITY,
            warms: None,
        }
    }

    /// The same unit with its charge counted in other ampere-hours: its label's. [Ah]
    pub fn counted_in(self, rated: f64) -> Self {
        Self { rated, per_rated: 1.0 / rated, ..self }
    }

    /// The same unit with other parameters of its cells: what is believed of one under way. What ends it, what charges it and what
    /// its charge is counted in stay.
    pub(crate) fn with_cell(self, cell: CellParameters) -> Self {
        let Self { rated, per_rated, v_end, stores, top, warms, .. } = self;
        let other = Self::new(cell, self.cells as u32, 1.0 / self.per_size);
        Self { rated, per_rated, v_end, stores, top, warms, ..other }
    }

    /// The same unit as its rests and counts have taught it: its volts at rest, its resistance and its reach, over what label and
    /// kind say. Its capacity is [`Self::worn`]'s.
    pub(crate) fn taught(self, by: &Taught) -> Self {
        let [full, fall, resists, reach, _] = by.mean;
        let mut cell = self.cell;
        if let Ocv::Linear { e0, a } = &mut cell.ocv {
            *e0 += full;
            *a *= fall.exp();
        }
        let resists = resists.exp();
        (cell.r, cell.leads) = (cell.r * resists, cell.leads * resists);
        cell.rates.a *= reach.exp();
        self.with_cell(cell)
    }

    /// Whether it still gives a current.
    #[inline(always)]
    pub(crate) fn gives(&self, now: State, amps: f64) -> bool {
        if self.cell.rates.acid {
            self.head(now, amps) > 0.0
        } else {
            self.volts(now, amps) > self.v_end
        }
    }

    /// The same unit, warmed by its own losses: heat that it takes for a degree by its weight, else what is usual. [J/(K Ah of a
    /// cell)]
    pub(super) fn warmed_by_use(self, joules: f64, mass: Option<Kilograms>) -> Self {
        let usual = joules * self.rated * self.cells;
        let all = mass.map_or(usual, |m| m.value() * SPECIFIC_HEAT);
        let by = 3600.0 * LOSSES * self.cell.r * self.cells / (all * self.per_size);
        let tau = super::temperature::time_constant(mass);
        Self { warms: Some(Warms { by, tau }), ..self }
    }

    /// One over the 20-hour capacity. [1/Ah]
    pub(super) const fn per_size(&self) -> f64 {
        self.per_size
    }

    /// How its own losses warm it.
    pub(super) const fn warms(&self) -> Option<Warms> {
        self.warms
    }

    /// The same unit at a temperature. Charge out of reach is not lost.
    pub fn at_temperature(self, cold: Cold) -> Self {
        Self {
            locked: (1.0 - cold.reach) * self.q_max,
            per_reach: 1.0 / (self.q_max * cold.reach),
            slowed: (cold.slows, cold.reach),
            r: self.cell.r * cold.resistance + self.cell.leads,
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
        let by = capacity_share * resistance_factor;
        let cell = CellParameters { r: self.cell.r * by, leads: self.cell.leads * by, ..self.cell };
        let worn = Self::new(cell, self.cells as u32, capacity_share / self.per_size)
            .counted_in(self.rated * capacity_share);
        let warms = self
            .warms
            .map(|w| Warms { by: w.by * resistance_factor * capacity_share * capacity_share, ..w });
        Self { v_end: self.v_end, stores: self.stores, top: self.top, warms, ..worn }
    }

    /// Fully charged and rested.
    pub fn full(&self) -> State {
        self.at(1.0)
    }

    /// Rested at a charge share: 1 full, 0 with the label's ampere-hours taken.
    pub fn at(&self, share: f64) -> State {
        State { charge: self.q_max - self.rated * (1.0 - share), recent: 0.0 }
    }

    /// Capacity at vanishing current: more than the label's. [Ah]
    pub const fn q_max(&self) -> f64 {
        self.q_max
    }

    /// The ampere-hours that its charge is counted in: the label's, times what wear has left of them. [Ah]
    pub const fn rated(&self) -> f64 {
        self.rated
    }

    /// Voltage of the unit at which it stops. [V]
    pub const fn v_end(&self) -> f64 {
        self.v_end
    }

    /// The unit's ohmic resistance at the law's temperature. [Ω]
    pub fn ohms(&self) -> f64 {
        self.r * self.cells * self.per_size
    }

    /// What the volts of a full, rested unit fall by for each ampere of a load within some hours. [Ω]
    ///
    /// At once about `r + (1 - w)(E0 - V_end)(a C/Qm)^(7/4)` of a lead cell. Infinite where it cannot give that current.
    pub fn drop(&self, amps: f64, hours: f64) -> f64 {
        let full = self.full();
        let under = self.volts(self.rest_or_draw(full, amps, hours), amps);
        (self.volts(full, 0.0) - under) / amps
    }

    /// State of charge: 1 less the ampere-hours taken, as a share of the label's. Below zero a slow draw has taken more than the
    /// label promises.
    #[inline(always)]
    pub fn charge_share(&self, now: State) -> f64 {
        // Full is one, to the last digit.
        (1.0 - (self.q_max - now.charge) * self.per_rated).min(1.0)
    }

    /// Open-circuit volts of a cell with so much charge in all. [V]
    #[inline(always)]
    fn ocv(&self, charge: f64) -> f64 {
        self.cell.ocv.at(1.0 - (self.q_max - charge) * self.per_rated)
    }

    /// The charge share at which it is empty under a current that it has given for long, at its temperature: what lies below is
    /// out of reach today. Below zero where it gives more than its label. [1]
    pub fn unreachable(&self, amps: f64) -> f64 {
        let gives = |share: f64| {
            let now = State { recent: amps, ..self.at(share) };
            self.volts(now, amps) > self.v_end
        };
        let least = 1.0 - self.q_max * self.per_rated;
        if !gives(1.0) {
            return 1.0;
        }
        halved((1.0, least), 24, gives).0
    }

    /// The current as it is felt, `E`. [1/h]
    #[inline(always)]
    fn felt(&self, now: State, amps: f64) -> f64 {
        (amps + self.w * (now.recent - amps)) * self.per_size
    }

    /// Share of the 20-hour capacity that a current puts out of reach now: `a E^n`, of cold lithium more.
    #[inline(always)]
    fn out_of_reach(&self, now: State, amps: f64) -> f64 {
        let felt = self.felt(now, amps);
        let out = self.a * self.power.raise(felt);
        let (g, reach) = self.slowed;
        if g > 0.0 && felt > 0.0 {
            let x = g * felt * felt;
            return out + reach * x / (1.0 + x);
        }
        out
    }

    /// How far lead is from empty under its load, `h = x^(7/4)`, with `left` ampere-hours within the cold's reach; empty at 1.
    ///
    /// `h = E (a/q)^(7/4)` with n = 4/7: the current takes no root.
    #[inline(always)]
    fn knee(&self, felt: f64, left: f64) -> f64 {
        let p = self.a_ah / left;
        if self.rootless {
            let root = p.sqrt();
            return felt * p * root * root.sqrt();
        }
        let x = p * self.power.raise(felt);
        let root = x.sqrt();
        x * root * root.sqrt()
    }

    /// How far lead's voltage is down to its end, `g`, and how fast that grows with the current, `dg/di`; `None` once nothing is
    /// within reach. The slope is worked out only where it is asked for.
    #[inline(always)]
    fn down<const SLOPE: bool>(&self, felt: f64, i: f64, left: f64) -> Option<(f64, f64)> {
        if left <= 0.0 {
            return None;
        }
        if felt <= 0.0 {
            return Some((0.0, 0.0));
        }
        let h = self.knee(felt, left);
        if !(0.0..1.0).contains(&h) {
            return None;
        }
        let (b, l) = (self.late, if i >= felt { 1.0 } else { (i / felt).max(0.0) });
        let bent = 1.0 - b + b * h;
        // At a steady draw all of what is felt flows; what is only remembered lets go of the knee.
        let (held, x2) = if l < 1.0 {
            // x² = h^(8/7).
            let x2 = h * rough_seventh_root(h);
            (1.0 - LETS_GO * (1.0 - l) * (1.0 - x2), x2)
        } else {
            (1.0, 1.0)
        };
        let g = h * bent * held;
        if !SLOPE {
            return Some((g, 0.0));
        }
        let now = 1.0 - self.w;
        let dh = h / felt * (1.75 * self.power.exponent()) * now;
        let dx2 = x2 / h * (8.0 / 7.0) * dh;
        let dl = if l > 0.0 && l < 1.0 { (felt - i * now) / (felt * felt) } else { 0.0 };
        let dheld = if l < 1.0 { LETS_GO * (dl * (1.0 - x2) + (1.0 - l) * dx2) } else { 0.0 };
        Some((g, dh * (bent + b * h) * held + h * bent * dheld))
    }

    /// Charge within reach of a current from now on, as a share of the label's ampere-hours; empty under it at 0.
    pub fn head(&self, now: State, amps: f64) -> f64 {
        (now.charge - self.locked - self.out_of_reach(now, amps) / self.per_size) * self.per_rated
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
        if bends([begin, middle, end]) {
            return None;
        }
        // A long way down an open-circuit curve may pass its own chord in the middle: the quarters tell.
        if !self.cell.rates.acid && amps * hours * self.per_size > 3.0 * LONG_WAY {
            let quarter = half.sqrt();
            let at = |part: f64, decay: f64| {
                self.volts(self.draw_decayed(now, amps, part * hours, decay), amps)
            };
            if winds([begin, at(0.25, quarter), middle, at(0.75, half * quarter), end]) {
                return None;
            }
        }
        Some((next, [begin, middle, end]))
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
            let Some((g, _)) = self.down::<false>(self.felt(now, amps), i, left) else {
                return self.at_the_end(amps, left);
            };
            let rest = self.ocv(now.charge) - self.r * i;
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

    /// [`Self::volts`] and [`Self::slope`] at once, for the price of little more than one of them. [V], [V/A]
    #[inline(always)]
    pub(super) fn volts_and_slope(&self, now: State, amps: f64) -> (f64, f64) {
        if !self.cell.rates.acid || amps < 0.0 {
            return (self.volts(now, amps), self.slope(now, amps));
        }
        let (i, left) = (amps * self.per_size, now.charge - self.locked);
        let Some((g, grows)) = self.down::<true>(self.felt(now, amps), i, left) else {
            return (self.at_the_end(amps, left), self.slope(now, amps));
        };
        let rest = self.ocv(now.charge) - self.r * i;
        let volts = (rest + g * (self.cell.v_end - rest).min(0.0)) * self.cells;
        let per_i = -(1.0 - g) * self.r - (rest - self.cell.v_end).max(0.0) * grows;
        (volts, per_i * self.per_size * self.cells)
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
            let i = amps * self.per_size;
            let (g, grows) = self.down::<true>(felt, i, left).unwrap_or((1.0, 0.0));
            let rest = self.ocv(now.charge) - self.r * i;
            -(1.0 - g) * self.r - (rest - self.cell.v_end).max(0.0) * grows
        } else {
            let out = self.a * self.power.raise(felt);
            let (g, reach) = self.slowed;
            let x = g * felt * felt;
            let slowed = reach * x / (1.0 + x);
            // d/dE of what is out of reach, times what of the current is felt at once.
            let per_felt = (out * self.power.exponent() + 2.0 * slowed / (1.0 + x)) / felt;
            let (out, grows) = (out + slowed, per_felt * (1.0 - self.w));
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

/// Share of the capacity from which on an open-circuit curve may wind about its chord within a stretch.
pub(super) const LONG_WAY: f64 = 0.02;

/// Whether a voltage at the quarters of a time winds so much that Simpson's rule over all of it is off by more than some
/// hundredths of a percent: it differs by 0.02 % from the same rule over both halves. [V]
#[inline(always)]
pub(super) fn winds([begin, first, middle, third, end]: [f64; 5]) -> bool {
    let whole = (begin + 4.0 * middle + end) / 6.0;
    let halves = (begin + 4.0 * first + 2.0 * middle + 4.0 * third + end) / 12.0;
    let off = (whole - halves).abs();
    // What is not within reach at a quarter has no mean.
    off.is_nan() || off > 0.000_2 * middle
}

/// Whether a voltage at the start, middle and end of a time bends so much that Simpson's rule may be off by more than
/// some hundredths of a percent: its middle lies 0.2 % from the chord. [V]
#[inline(always)]
pub(super) fn bends([begin, middle, end]: [f64; 3]) -> bool {
    (0.5 * (begin + end) - middle).abs() > 0.002 * middle
}

#[cfg(test)]
mod tests;
