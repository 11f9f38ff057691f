//! Getting the charge back in: bulk at the charger's current, then a tail that tapers.

use crate::chemistry::Acceptance;
use crate::numeric::halved;

/// A charge to be made: one bank on one charger.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Charge {
    /// Capacity of the bank. [Ah]
    pub capacity: f64,
    /// Current the charger gives this bank. [A]
    pub current: f64,
    /// How it takes charge.
    pub accepts: Acceptance,
}

/// How long a charge takes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChargeTime {
    /// At the charger's full current. [h]
    pub bulk: f64,
    /// Tapering. [h]
    pub tail: f64,
}

impl ChargeTime {
    /// Both together. [h]
    pub fn total(self) -> f64 {
        self.bulk + self.tail
    }
}

impl Charge {
    /// Hours from one charge share to another; `from` below `to`, both 0 to 1.
    ///
    /// Bulk `t = (s - s0) C / (η I)`. Then the current falls as `I e^(-t/τ)` so that the tail's
    /// whole integral is the charge that was missing when it began: `τ = Q_tail / (I - I_end)`,
    /// `t = τ ln(I/I_end)` to full, and `t = -τ ln(1 - Q/(I τ))` to a charge `Q` into the tail.
    ///
    /// A charger so small that its full current is already below the tail's end never tapers.
    pub fn hours(&self, from: f64, to: f64) -> ChargeTime {
        let a = &self.accepts;
        let (from, to) = (from.clamp(0.0, 1.0), to.clamp(0.0, 1.0));
        if to <= from || self.current <= 0.0 {
            return ChargeTime { bulk: if to <= from { 0.0 } else { f64::INFINITY }, tail: 0.0 };
        }
        let end = a.tail_end * self.capacity;
        if self.current <= end {
            return ChargeTime { bulk: self.in_bulk(from, to), tail: 0.0 };
        }
        let bulk = self.in_bulk(from, to.min(a.bulk_to).max(from));
        // The taper begins where bulk ends, or at once when the battery comes fuller than that.
        let whole_tail = (1.0 - a.bulk_to) * self.capacity / a.coulombic;
        let tau = whole_tail / (self.current - end);
        let into = |share: f64| {
            let q = (share - a.bulk_to).max(0.0) * self.capacity / a.coulombic;
            -tau * (1.0 - q / (self.current * tau)).max(end / self.current).ln()
        };
        ChargeTime { bulk, tail: into(to) - into(from) }
    }

    fn in_bulk(&self, from: f64, to: f64) -> f64 {
        (to - from) * self.capacity / (self.accepts.coulombic * self.current)
    }

    /// Charge share reached after some hours from `from`; the inverse of [`Self::hours`].
    pub fn reached(&self, from: f64, hours: f64) -> f64 {
        let from = from.clamp(0.0, 1.0);
        if self.hours(from, 1.0).total() <= hours {
            return 1.0;
        }
        halved((from, 1.0), 60, |to| self.hours(from, to).total() <= hours).0
    }

    /// Whether the charger's current is more than the chemistry should be charged at.
    pub fn too_strong(&self) -> bool {
        self.current > self.accepts.most * self.capacity
    }

    /// Ampere-hours the charger puts in, more than are stored. [Ah]
    pub fn amp_hours_in(&self, from: f64, to: f64) -> f64 {
        (to - from).max(0.0) * self.capacity / self.accepts.coulombic
    }
}

/// Energy from the wall for energy delivered: `E / (η_battery η_charger)`. [Wh]
pub fn wall_energy(delivered_wh: f64, round_trip: f64, charger: f64) -> f64 {
    delivered_wh / (round_trip * charger)
}

/// Hours with two sources in turn: a strong one (generator) up to `change_at`, then a weak one
/// (solar) for the tail, each with its own hours. [h]
pub fn in_turn(strong: &Charge, weak: &Charge, from: f64, change_at: f64, to: f64) -> (f64, f64) {
    let change_at = change_at.clamp(from, to.max(from));
    (strong.hours(from, change_at).total(), weak.hours(change_at, to).total())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::chemistry::Chemistry;

    fn lead() -> Charge {
        let accepts = Acceptance {
            bulk_to: 0.80,
            tail_end: 4.5 / 225.0,
            coulombic: 0.9,
            round_trip: 0.75,
            most: 0.2,
        };
        Charge { capacity: 225.0, current: 22.5, accepts }
    }

    fn lfp() -> Charge {
        let accepts = Acceptance {
            bulk_to: 0.95,
            tail_end: 0.05,
            coulombic: 0.995,
            round_trip: 0.95,
            most: 0.5,
        };
        Charge { capacity: 100.0, current: 20.0, accepts }
    }

    /// Calculus of the taper, worked: 225 Ah of lead from 50 % at 22.5 A takes 3.333 + 4.471 =
    /// 7.804 h where plain division says 5.56; 100 Ah of LFP from 20 % at 20 A 3.769 + 0.464 h.
    #[test]
    fn charge_times_are_as_worked() {
        let t = lead().hours(0.5, 1.0);
        assert!((t.bulk - 3.333).abs() < 1e-3 && (t.tail - 4.471).abs() < 1e-3, "{t:?}");
        let t = lfp().hours(0.2, 1.0);
        assert!((t.bulk - 3.769).abs() < 1e-3 && (t.tail - 0.464).abs() < 1e-3, "{t:?}");
    }

    /// Common practice, no source: at a fifth of its capacity lead takes 6 to 7 h; LFP 2 to 3 h
    /// at 40 %.
    #[test]
    fn typical_chargers_take_as_long_as_owners_say() {
        let agm =
            Charge { capacity: 100.0, current: 20.0, accepts: Chemistry::Agm.facts().acceptance };
        let hours = agm.hours(0.3, 1.0).total();
        assert!((5.0..8.0).contains(&hours), "{hours}");
        let lfp =
            Charge { capacity: 100.0, current: 40.0, accepts: Chemistry::Lfp.facts().acceptance };
        let hours = lfp.hours(0.1, 1.0).total();
        assert!((2.0..3.0).contains(&hours), "{hours}");
    }

    #[test]
    fn stages_add_up_and_the_inverse_agrees() {
        for charge in [lead(), lfp()] {
            let whole = charge.hours(0.3, 1.0).total();
            let parts = charge.hours(0.3, 0.9).total() + charge.hours(0.9, 1.0).total();
            assert!((whole - parts).abs() < 1e-9);
            let share = charge.reached(0.3, 0.6 * whole);
            assert!((charge.hours(0.3, share).total() - 0.6 * whole).abs() < 1e-6);
            assert!((charge.reached(0.3, 10.0 * whole) - 1.0).abs() < 1e-12);
            assert!(charge.hours(0.9, 0.5).total() < 1e-12);
        }
    }

    /// Efficiencies multiplied: LFP .95 x .90 needs 1.170 kWh from the wall per kWh, lead .75 x .85
    /// needs 1.569.
    #[test]
    fn the_wall_gives_more_than_comes_out() {
        assert!((wall_energy(1000.0, 0.95, 0.90) - 1170.0).abs() < 1.0);
        assert!((wall_energy(1000.0, 0.75, 0.85) - 1569.0).abs() < 1.0);
    }

    #[test]
    fn a_generator_does_the_bulk_and_the_sun_the_tail() {
        let generator = Charge { current: 40.0, ..lead() };
        let solar = Charge { current: 8.0, ..lead() };
        let (g, s) = in_turn(&generator, &solar, 0.4, 0.8, 1.0);
        assert!((g - 0.4 * 225.0 / 0.9 / 40.0).abs() < 1e-9);
        assert!(s > 5.0 && s < solar.hours(0.4, 1.0).total());
    }

    #[test]
    fn a_charger_too_strong_or_dead_is_noticed() {
        assert!(Charge { current: 60.0, ..lead() }.too_strong());
        assert!(!lead().too_strong());
        assert!(Charge { current: 0.0, ..lead() }.hours(0.5, 1.0).total().is_infinite());
        assert!(Charge { current: 2.0, ..lead() }.hours(0.5, 1.0).total().is_finite());
    }
}
