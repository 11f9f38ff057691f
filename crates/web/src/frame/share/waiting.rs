//! Those who typed the code, until somebody at the machine says yes or no.

/// Most that wait, and for how long. [s]
const MOST: usize = 5;
const WAITS: u64 = 600;
/// A no is told for so long. [s]
const TOLD: u64 = 60;

/// A device that waits.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Waiting {
    pub(crate) id: u64,
    /// As it calls itself.
    pub(crate) name: String,
    /// SHA-256 of what it shows.
    pub(crate) token: [u8; 32],
    since: u64,
    refused: bool,
}

/// All that wait.
#[derive(Debug, Default)]
pub(super) struct Line {
    all: Vec<Waiting>,
    next: u64,
}

/// How it stands with one.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Stands {
    Waits,
    Refused,
}

impl Line {
    /// One more; the oldest is forgotten where there are too many.
    pub(super) fn join(&mut self, name: String, token: [u8; 32], now: u64) {
        self.forget(now);
        if self.all.len() >= MOST {
            self.all.remove(0);
        }
        self.next += 1;
        self.all.push(Waiting { id: self.next, name, token, since: now, refused: false });
    }

    /// Those who wait still.
    pub(super) fn all(&mut self, now: u64) -> Vec<Waiting> {
        self.forget(now);
        self.all.iter().filter(|w| !w.refused).cloned().collect()
    }

    /// How it stands with whoever shows this.
    pub(super) fn stands(&mut self, token: [u8; 32], now: u64) -> Option<Stands> {
        self.forget(now);
        let one = self.all.iter().find(|w| w.token == token)?;
        Some(if one.refused { Stands::Refused } else { Stands::Waits })
    }

    /// Yes: it is out of the line. No: that is told for a while.
    pub(super) fn answer(&mut self, id: u64, yes: bool, now: u64) -> Option<Waiting> {
        self.forget(now);
        let at = self.all.iter().position(|w| w.id == id && !w.refused)?;
        if yes {
            return Some(self.all.remove(at));
        }
        let one = &mut self.all[at];
        (one.refused, one.since) = (true, now);
        Some(one.clone())
    }

    fn forget(&mut self, now: u64) {
        self.all.retain(|w| now - w.since < if w.refused { TOLD } else { WAITS });
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn whoever_waits_is_answered_once_or_forgotten() {
        let mut line = Line::default();
        for n in 0..7_u8 {
            line.join(format!("{n}"), [n; 32], u64::from(n));
        }
        let names =
            |line: &mut Line, now| line.all(now).into_iter().map(|w| w.name).collect::<Vec<_>>();
        assert_eq!(names(&mut line, 7), ["2", "3", "4", "5", "6"]);
        assert_eq!(line.answer(4, true, 8).map(|w| w.token), Some([3; 32]));
        assert_eq!((line.answer(4, true, 8), line.stands([3; 32], 8)), (None, None));
        assert!(line.answer(5, false, 9).is_some() && line.answer(5, true, 9).is_none());
        assert_eq!(line.stands([4; 32], 60), Some(Stands::Refused));
        assert_eq!(line.stands([4; 32], 70), None);
        assert_eq!(names(&mut line, 70), ["2", "5", "6"]);
        assert_eq!(names(&mut line, 605), ["6"]);
    }
}
