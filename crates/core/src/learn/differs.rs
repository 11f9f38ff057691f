//! Why an outing took more or less than was expected, as far as the figures can tell.

use super::entry::{Entry, Told};
use super::fit::belief;
use super::{Ageing, FACTORS, Factor, Four, Learned};

/// Where a difference comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reason {
    /// A factor that is not as was thought.
    Factor(Factor),
    /// More wind that day, or less.
    WindOfDay,
    /// Longer or shorter stretches than planned.
    Timing,
    /// The curves themselves, at settings and speeds that nobody measured.
    Between,
    /// The reading.
    Meter,
}

/// A reason's share of a difference.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Share {
    /// Which.
    pub reason: Reason,
    /// What it most likely made, as a share of the capacity; above zero took more.
    pub made: f64,
    /// How far that may be off.
    pub unsure: f64,
}

/// What an outing took over what was expected of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Difference {
    /// Expected by all that was known until then, as a share of the capacity.
    pub expected: f64,
    /// What it took more; below zero less.
    pub more: f64,
    /// As far as that is usual: one standard deviation.
    pub usual: f64,
    /// Every reason's share, the largest first.
    pub shares: Vec<Share>,
    /// What none of them explains.
    pub rest: f64,
}

/// A reason is named where it makes most of the difference and is surer than this many standard deviations.
const MOST: f64 = 0.6;
const SURE: f64 = 1.6;

impl Difference {
    /// It went as such days go.
    pub fn is_usual(&self) -> bool {
        self.more.abs() < self.usual
    }

    /// The one reason that can be named; `None` where it is as usual, or they cannot be told apart.
    pub fn named(&self) -> Option<Share> {
        let told = |s: &&Share| {
            s.made * self.more > 0.0
                && s.made.abs() >= MOST * self.more.abs()
                && s.made.abs() > SURE * s.unsure
        };
        if self.is_usual() { None } else { self.shares.iter().find(told).copied() }
    }
}

/// Of so many last outings so many must lie off the same way, each by so many times what is usual, for something to have changed.
/// Estimates: of owners to whom nothing happened few are asked.
const LATEST: usize = 3;
const OFF: usize = 2;
const FAR: f64 = 2.0;

impl Difference {
    /// Whether something seems to have changed: of the last three outings two took more than all before them made likely, or two
    /// less, by more than twice what is usual. `Some(true)` for more; `None` where they went as such days go.
    pub fn changed(entries: &[Entry], ageing: Ageing) -> Option<bool> {
        let is_outing = |e: &&Entry| matches!(e.told, Told::Used { .. }) && e.check().is_ok();
        let mut outings: Vec<&Entry> = entries.iter().filter(is_outing).collect();
        outings.sort_by(|a, b| a.years.total_cmp(&b.years).then(a.id.cmp(&b.id)));
        let last = outings.len().checked_sub(LATEST)?;
        let last = outings[last..].iter().filter_map(|e| Self::of(entries, e.id, ageing));
        let far: Vec<bool> =
            last.filter(|d| d.more.abs() > FAR * d.usual).map(|d| d.more > 0.0).collect();
        let more = far.iter().filter(|more| **more).count();
        match (more >= OFF, far.len() - more >= OFF) {
            (true, _) => Some(true),
            (_, true) => Some(false),
            _ => None,
        }
    }

    /// Why an outing differs from what the entries until that day made one expect; `None` for what is no outing, or is refused.
    pub fn of(entries: &[Entry], outing: i64, ageing: Ageing) -> Option<Self> {
        let entry = entries.iter().find(|e| e.id == outing)?;
        entry.check().ok()?;
        let Told::Used { used, .. } = entry.told else { return None };
        let earlier = |e: &&Entry| e.id != outing && e.years <= entry.years;
        let before: Vec<Entry> = entries.iter().filter(earlier).copied().collect();
        let known = Learned::of_pack(&before, entry.years, ageing);
        let e = entry.at(&known.mean);
        let through = |p: usize| -> Four {
            Four::from_fn(|q, _| e.slope[p] * known.covariance[(p, q)] * e.slope[q])
        };
        let [by_meter, by_timing, by_curve, by_wind] = e.variances;
        let alone = [
            (Reason::WindOfDay, by_wind),
            (Reason::Timing, by_timing),
            (Reason::Between, by_curve),
            (Reason::Meter, by_meter),
        ];
        let rows: Vec<(Reason, f64, f64)> = (0..FACTORS)
            .map(|p| {
                let row = through(p);
                (Reason::Factor(Factor::ALL[p]), row.sum(), row[p])
            })
            .chain(alone.map(|(reason, own)| (reason, own, own)))
            .collect();
        let whole: f64 = rows.iter().map(|(_, row, _)| row).sum();
        let more = used - e.expected;
        // What is likelier a wild entry is explained by nothing.
        let believed = belief(more, whole, e.wild);
        let mut shares: Vec<Share> = rows
            .iter()
            .map(|(reason, row, own)| Share {
                reason: *reason,
                made: believed * more * row / whole,
                unsure: (own - row * row / whole).max(0.0).sqrt(),
            })
            .collect();
        shares.sort_by(|a, b| b.made.abs().total_cmp(&a.made.abs()));
        let explained: f64 = shares.iter().map(|s| s.made).sum();
        Some(Self {
            expected: e.expected,
            more,
            usual: whole.sqrt(),
            shares,
            rest: more - explained,
        })
    }
}
