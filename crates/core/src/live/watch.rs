//! Warnings that can't be missed and don't nag: each stands when it has held for a while, goes when it has not for longer, and is
//! not said again for some minutes.

use crate::keyed::keyed;

keyed! {
    /// What is warned of, the gravest first.
    pub enum Warning {
        /// It gives nothing any more.
        ShutOff,
        /// No way to drive is likely to get home.
        NotHome,
        /// The switch inside is about to open.
        SwitchNear,
        /// Its floor is reached.
        Floor,
        /// It may give out at any moment: near the end of lithium's curve.
        Knee,
        /// Home is not sure any more at this pace, or it is time to turn.
        Turn,
        /// The reserve is touched.
        Reserve,
        /// One unit falls behind the others.
        Strays,
        /// Too hot.
        Hot,
        /// Too cold.
        Cold,
        /// Nothing is heard.
        Silent,
    }
}

impl Warning {
    /// How long it must hold until it stands, and not hold until it goes; how long until it is said again. [s]
    const fn patience(self) -> (f64, f64, f64) {
        match self {
            Self::ShutOff => (5.0, 10.0, 60.0),
            Self::NotHome | Self::Knee => (60.0, 60.0, 600.0),
            Self::Turn => (60.0, 180.0, 600.0),
            Self::SwitchNear => (10.0, 30.0, 300.0),
            Self::Floor | Self::Reserve | Self::Strays | Self::Hot | Self::Cold => {
                (60.0, 300.0, 1800.0)
            }
            Self::Silent => (30.0, 0.0, 600.0),
        }
    }
}

/// Whether something is so, or so little that a warning of it goes: between them it stays as it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Is {
    /// It is so.
    So,
    /// Neither.
    Between,
    /// It is not.
    Not,
}

impl Is {
    /// So from `from` on downwards, not from `clear` on upwards.
    pub fn below(figure: f64, from: f64, clear: f64) -> Self {
        match figure {
            f if f <= from => Self::So,
            f if f >= clear => Self::Not,
            _ => Self::Between,
        }
    }

    /// So or not.
    pub const fn of(so: bool) -> Self {
        if so { Self::So } else { Self::Not }
    }
}

/// One warning's state. Times are since the trip began. [s]
#[derive(Debug, Clone, Copy, PartialEq, Default)]
struct Latch {
    stands: bool,
    /// Since when it is what it has to be, to change.
    since: Option<f64>,
    said: Option<f64>,
}

/// All warnings.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Watch {
    latches: [Latch; Warning::ALL.len()],
    /// Those that were said, in order, with when. [s]
    said: Vec<(Warning, f64)>,
}

/// Most that are remembered.
const MOST: usize = 500;

impl Watch {
    /// How it is with a warning at a time since the trip began. [s] What was `typed` comes once: neither it nor
    /// what is typed after it is waited for to hold.
    pub fn look(&mut self, warning: Warning, is: Is, at: f64, typed: bool) {
        let (hold, clear, again) = warning.patience();
        let (hold, clear) = if typed { (0.0, 0.0) } else { (hold, clear) };
        let n = Warning::ALL.iter().position(|w| *w == warning);
        let Some(latch) = n.and_then(|n| self.latches.get_mut(n)) else { return };
        let turns = match is {
            Is::So => !latch.stands,
            Is::Not => latch.stands,
            Is::Between => false,
        };
        if !turns {
            latch.since = None;
            return;
        }
        let since = *latch.since.get_or_insert(at);
        if at - since < if latch.stands { clear } else { hold } {
            return;
        }
        latch.since = None;
        latch.stands = !latch.stands;
        if latch.stands && latch.said.is_none_or(|said| at - said >= again) {
            latch.said = Some(at);
            if self.said.len() < MOST {
                self.said.push((warning, at));
            }
        }
    }

    /// Those that stand, the gravest first.
    pub fn standing(&self) -> impl Iterator<Item = Warning> + '_ {
        Warning::ALL.into_iter().zip(&self.latches).filter(|(_, l)| l.stands).map(|(w, _)| w)
    }

    /// Those that were said so far, with when. [s]
    pub fn said(&self) -> &[(Warning, f64)] {
        &self.said
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_warning_waits_until_it_holds_and_is_not_said_again_at_once() {
        let mut watch = Watch::default();
        let mut said = 0;
        let mut stood = 0;
        // A chance that swings about the limit for an hour: below for two minutes, above for four.
        for s in 0..3600 {
            let at = f64::from(s);
            let chance = if s % 360 < 120 { 0.89 } else { 0.96 };
            watch.look(Warning::Turn, Is::below(chance, 0.90, 0.95), at, false);
            said = watch.said().len();
            stood += usize::from(watch.standing().count() == 1);
        }
        assert_eq!(said, 5, "ten times below, and no more than once in ten minutes");
        assert!((2000..2600).contains(&stood), "{stood}");
        // Less than a minute is nothing; between the limits it stays.
        let mut watch = Watch::default();
        for s in 0..600 {
            let chance = if s % 60 < 50 { 0.5 } else { 0.97 };
            watch.look(Warning::Turn, Is::below(chance, 0.90, 0.95), f64::from(s), false);
        }
        assert_eq!(watch.standing().count(), 0);
        for s in 600..700 {
            watch.look(Warning::Turn, Is::So, f64::from(s), false);
        }
        for s in 700..2000 {
            watch.look(Warning::Turn, Is::below(0.93, 0.90, 0.95), f64::from(s), false);
        }
        assert_eq!(watch.standing().collect::<Vec<_>>(), [Warning::Turn]);
    }
}
