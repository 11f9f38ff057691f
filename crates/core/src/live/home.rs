//! Getting home from here: how likely, until when to turn, and at what speed against a current.
//!
//! Guesses that arrive are counted; no distance is divided by a ground speed that may be nothing.

use super::Live;
use crate::numeric::halved;
use crate::units::{Amps, Hours, Metres, MetresPerSecond};

/// A way to drive: what it draws, and how fast it goes over ground.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Way {
    /// Of the pack. [A]
    pub current: Amps,
    /// Over ground, wind and current in it; below zero it is driven back. [m/s]
    pub speed: MetresPerSecond,
    /// How far that may be off: one standard deviation. [m/s]
    pub unsure: MetresPerSecond,
}

/// Seven speeds that are equally likely, in standard deviations: the middles of sevenths of a normal distribution. Abramowitz and
/// Stegun, *Handbook of Mathematical Functions*, table 26.5.
const LIKELY: [f64; 7] = [-1.4652, -0.7916, -0.3661, 0.0, 0.3661, 0.7916, 1.4652];
/// Halvings of a time that is looked for: of a day to five seconds.
const HALVINGS: usize = 14;
/// So far anyone looks ahead. [h]
const MOST: f64 = 24.0;

impl Live {
    /// The chance to arrive so far away with a floor left, 0 to 1.
    pub fn arrives(&self, far: Metres, way: Way, floor: f64) -> f64 {
        if far.value() <= 0.0 {
            return 1.0;
        }
        let at = |z: f64| {
            let speed = way.speed.value() + z * way.unsure.value();
            if speed <= 0.0 {
                return 0.0;
            }
            self.holds(way.current, floor, Hours::of(far.value() / speed / 3600.0))
        };
        LIKELY.into_iter().map(at).sum::<f64>() / LIKELY.len() as f64
    }

    /// How long it may go on outward, from so far away, until the surest of the ways home is no surer than asked; nothing where it
    /// is not any more, at the most a day.
    ///
    /// The guesses are carried outward, so that what is unsure grows on the way.
    pub fn turns_within(
        &self,
        (far, outward): (Metres, Way),
        home: &[Way],
        floor: f64,
        sure: f64,
    ) -> Hours {
        let still = |hours: f64| {
            let then = self.after(outward.current, Hours::of(hours));
            let gone = outward.speed.value().max(0.0) * hours * 3600.0;
            let far = Metres::of(far.value() + gone);
            home.iter().any(|way| then.arrives(far, *way, floor) >= sure)
        };
        Hours::of(match (still(0.0), still(MOST)) {
            (false, _) => 0.0,
            (true, true) => MOST,
            (true, false) => halved((0.0, MOST), HALVINGS, still).0,
        })
    }
}
