//! Getting the charge back in: bulk at the charger's current, then a tail that tapers.

use crate::chemistry::Acceptance;
use crate::numeric::halved;
use crate::units::{AmpHours, Amps, Hours, WattHours};

/// A charge to be made: one bank on one charger.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Charge {
    /// Capacity of the bank. [Ah]
    pub capacity: AmpHours,
    /// Current the charger gives this bank. [A]
    pub current: Amps,
    /// How it takes charge.
    pub accepts: Acceptance,
}

/// How long a charge takes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ChargeTime {
    /// At the charger's full current. [h]
    pub bulk: Hours,
    /// Tapering. [h]
    pub tail: Hours,
}

impl ChargeTime {
    /// Both together. [h]
    pub fn total(self) -> Hours {
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
    /// A charger so small that its full current is already below the tail's end never tapers. `None`
    /// when there is something to charge and no current to do it.
    pub fn hours(&self, from: f64, to: f64) -> Option<ChargeTime> {
        let a = &self.accepts;
        let (from, to) = (from.clamp(0.0, 1.0), to.clamp(0.0, 1.0));
        if to <= from {
            return Some(ChargeTime { bulk: Hours::ZERO, tail: Hours::ZERO });
        }
        if self.current <= Amps::ZERO {
            return None;
        }
        // Amperes for each ampere-hour, as the acceptance is given. [1/h]
        let end = self.capacity / Hours::of(1.0) * a.tail_end;
        if self.current <= end {
            return Some(ChargeTime { bulk: self.in_bulk(from, to), tail: Hours::ZERO });
        }
        let bulk = self.in_bulk(from, to.min(a.bulk_to).max(from));
        // The taper begins where bulk ends, or at once when the battery comes fuller than that.
        let whole_tail = self.amp_hours_in(a.bulk_to, 1.0);
        let tau = whole_tail / (self.current - end);
        let into = |share: f64| {
            let q = self.amp_hours_in(a.bulk_to, share);
            tau * -(1.0 - q / (self.current * tau)).max(end / self.current).ln()
        };
        Some(ChargeTime { bulk, tail: into(to) - into(from) })
    }

    /// Hours at full current: `t = (s - s0) C / (η I)`. [h]
    fn in_bulk(&self, from: f64, to: f64) -> Hours {
        self.amp_hours_in(from, to) / self.current
    }

    /// Charge share reached after some hours from `from`; the inverse of [`Self::hours`].
    pub fn reached(&self, from: f64, hours: Hours) -> f64 {
        let from = from.clamp(0.0, 1.0);
        let in_time = |to| self.hours(from, to).is_some_and(|t| t.total() <= hours);
        if in_time(1.0) {
            return 1.0;
        }
        halved((from, 1.0), 60, in_time).0
    }

    /// Whether the charger's current is more than the chemistry should be charged at.
    pub fn too_strong(&self) -> bool {
        self.current > self.most()
    }

    /// The most current the chemistry should be charged at. [A]
    pub fn most(&self) -> Amps {
        self.capacity / Hours::of(1.0) * self.accepts.most
    }

    /// Ampere-hours the charger puts in, more than are stored. [Ah]
    pub fn amp_hours_in(&self, from: f64, to: f64) -> AmpHours {
        self.capacity * (to - from).max(0.0) / self.accepts.coulombic
    }
}

/// Energy from the wall for energy delivered: `E / (η_battery η_charger)`. [Wh]
pub fn wall_energy(delivered: WattHours, round_trip: f64, charger: f64) -> WattHours {
    delivered / (round_trip * charger)
}

/// Hours with two sources in turn: a strong one (generator) up to `change_at`, then a weak one
/// (solar) for the tail, each with its own hours. [h] `None` as [`Charge::hours`].
pub fn in_turn(
    strong: &Charge,
    weak: &Charge,
    from: f64,
    change_at: f64,
    to: f64,
) -> Option<(Hours, Hours)> {
    let change_at = change_at.clamp(from, to.max(from));
    Some((strong.hours(from, change_at)?.total(), weak.hours(change_at, to)?.total()))
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
        Charge { capacity: AmpHours::of(225.0), current: Amps::of(22.5), accepts }
    }

    fn lfp() -> Charge {
        let accepts = Acceptance {
            bulk_to: 0.95,
            tail_end: 0.05,
            coulombic: 0.995,
            round_trip: 0.95,
            most: 0.5,
        };
        Charge { capacity: AmpHours::of(100.0), current: Amps::of(20.0), accepts }
    }

    /// Bulk and tail in hours.
    fn hours(charge: &Charge, from: f64, to: f64) -> (f64, f64) {
        let time = charge.hours(from, to).expect("has a current");
        (time.bulk.value(), time.tail.value())
    }

    fn total(charge: &Charge, from: f64, to: f64) -> f64 {
        let (bulk, tail) = hours(charge, from, to);
        bulk + tail
    }

    /// Calculus of the taper, worked: 225 Ah of lead from 50 % at 22.5 A takes 3.333 + 4.471 =
    /// 7.804 h where plain division says 5.56; 100 Ah of LFP from 20 % at 20 A 3.769 + 0.464 h.
    #[test]
    fn charge_times_are_as_worked() {
        let (bulk, tail) = hours(&lead(), 0.5, 1.0);
        assert!((bulk - 3.333).abs() < 1e-3 && (tail - 4.471).abs() < 1e-3, "{bulk} {tail}");
        let (bulk, tail) = hours(&lfp(), 0.2, 1.0);
        assert!((bulk - 3.769).abs() < 1e-3 && (tail - 0.464).abs() < 1e-3, "{bulk} {tail}");
    }

    /// Common practice, no source: at a fifth of its capacity lead takes 6 to 7 h; LFP 2 to 3 h
    /// at 40 %.
    #[test]
    fn typical_chargers_take_as_long_as_owners_say() {
        let of = |c: Chemistry, amps| Charge {
            capacity: AmpHours::of(100.0),
            current: Amps::of(amps),
            accepts: c.facts().acceptance,
        };
        let hours = total(&of(Chemistry::Agm, 20.0), 0.3, 1.0);
        assert!((5.0..8.0).contains(&hours), "{hours}");
        let hours = total(&of(Chemistry::Lfp, 40.0), 0.1, 1.0);
        assert!((2.0..3.0).contains(&hours), "{hours}");
    }

    #[test]
    fn stages_add_up_and_the_inverse_agrees() {
        for charge in [lead(), lfp()] {
            let whole = total(&charge, 0.3, 1.0);
            let parts = total(&charge, 0.3, 0.9) + total(&charge, 0.9, 1.0);
            assert!((whole - parts).abs() < 1e-9);
            let share = charge.reached(0.3, Hours::of(0.6 * whole));
            assert!((total(&charge, 0.3, share) - 0.6 * whole).abs() < 1e-6);
            assert!((charge.reached(0.3, Hours::of(10.0 * whole)) - 1.0).abs() < 1e-12);
            assert!(total(&charge, 0.9, 0.5) < 1e-12);
        }
    }

    /// Efficiencies multiplied: LFP .95 x .90 needs 1.170 kWh from the wall per kWh, lead .75 x .85
    /// needs 1.569.
    #[test]
    fn the_wall_gives_more_than_comes_out() {
        let wall = |battery, charger| wall_energy(WattHours::of(1000.0), battery, charger).value();
        assert!((wall(0.95, 0.90) - 1170.0).abs() < 1.0);
        assert!((wall(0.75, 0.85) - 1569.0).abs() < 1.0);
    }

    #[test]
    fn a_generator_does_the_bulk_and_the_sun_the_tail() {
        let generator = Charge { current: Amps::of(40.0), ..lead() };
        let solar = Charge { current: Amps::of(8.0), ..lead() };
        let (g, s) = in_turn(&generator, &solar, 0.4, 0.8, 1.0).expect("both give");
        assert!((g.value() - 0.4 * 225.0 / 0.9 / 40.0).abs() < 1e-9);
        assert!(s.value() > 5.0 && s.value() < total(&solar, 0.4, 1.0));
    }

    #[test]
    fn a_charger_too_strong_or_dead_is_noticed() {
        assert!(Charge { current: Amps::of(60.0), ..lead() }.too_strong());
        assert!(!lead().too_strong());
        let dead = Charge { current: Amps::ZERO, ..lead() };
        assert_eq!(dead.hours(0.5, 1.0), None);
        assert!(dead.hours(1.0, 1.0).is_some(), "nothing to do");
        assert!((dead.reached(0.5, Hours::of(9.0)) - 0.5).abs() < 1e-9);
        assert!(total(&Charge { current: Amps::of(2.0), ..lead() }, 0.5, 1.0) > 60.0);
    }
}
