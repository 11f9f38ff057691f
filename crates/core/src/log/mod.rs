//! What was logged: outings as they went beside the day as it was planned, tests on the bench, charging, and the packs that all
//! of it is about.
//!
//! An outing bears the plan that it was driven by, with its one pack: nothing that is changed or taken back later changes what
//! was expected of it. From it come its [`Parts`](crate::learn::Parts) and [`Entry`](crate::learn::Entry)s, which
//! [`learn`](crate::learn) takes.

mod bench;
mod charge;
mod chore;
mod doctor;
mod measured;
mod outing;
mod owned;
mod parts;
mod season;
mod taught;
mod thinned;
mod went;

pub use crate::verdict::told_capacity;
pub use bench::{CapacityFound, CapacityTest, LoadFound, LoadTest, LoadVerdict, NotFound, TestEnd};
pub use charge::{Known, LeftNow};
pub use chore::{BALANCE_DAYS, Chore};
pub use doctor::{Charges, Doctor, Straying, doctor};
pub use measured::{Measured, SHORTEST_TEST, Tested};
pub use outing::{Charge, HOT, Outing, Reading, Unclear, Used, as_driven_with, unlearned, years};
pub use owned::{MOST_UNITS, Next, Owned, OwnedUnit, Warranty};
pub use parts::parts;
pub use season::{Season, Spent};
pub use thinned::thinned;
pub use went::{Cause, Went};

use crate::learn::{Entry, Told};
use crate::plan::Plan;
use crate::units::{Ohms, Volts};
use jiff::civil::Date;

/// What is logged.
#[derive(Debug, Clone, PartialEq)]
pub enum Logged {
    /// A pack that is owned.
    Owned(Box<Owned>),
    /// An outing.
    Outing(Box<Outing>),
    /// A test on the bench, or volts and charge that were read ashore.
    Test(Box<Test>),
}

/// A test on the bench, or something read ashore.
#[derive(Debug, Clone, PartialEq)]
pub struct Test {
    /// When.
    pub date: Date,
    /// The owned pack, by its number in the log.
    pub of: Option<i64>,
    /// Its unit, counted from 1; the pack as a whole where not told.
    pub unit: Option<u32>,
    /// What was done.
    pub did: Did,
    /// What a monitor recorded of it, by the number it is kept under.
    pub recorded: Option<i64>,
    /// Whatever else.
    pub note: String,
}

/// What was done on the bench.
#[derive(Debug, Clone, PartialEq)]
pub enum Did {
    /// Charged, or its charge read.
    Charged(Charge),
    /// Discharged at a steady current.
    Capacity(CapacityTest),
    /// A load for some seconds.
    Load(LoadTest),
    /// Volts of each unit after hours of rest.
    Volts(Vec<Volts>),
    /// Charge of each unit by meters of their own, 0 to 1.
    Charges(Vec<f64>),
    /// Resistance of each unit by a meter.
    Resistances(Vec<Ohms>),
    /// A chore that was done, or put off to a day.
    Care(Chore, Option<Date>),
}

impl Logged {
    /// When it was; of an owned pack, when it was bought.
    pub fn date(&self) -> Date {
        match self {
            Self::Owned(owned) => owned.bought,
            Self::Outing(outing) => outing.date,
            Self::Test(test) => test.date,
        }
    }
}

/// A whole log of a rig.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Log {
    /// All entries with their numbers, the earliest first.
    pub all: Vec<(i64, Logged)>,
}

impl Log {
    /// Of entries in any order.
    pub fn of(mut all: Vec<(i64, Logged)>) -> Self {
        all.sort_by(|a, b| a.1.date().cmp(&b.1.date()).then(a.0.cmp(&b.0)));
        Self { all }
    }

    /// Outings and what was played, the earliest first.
    fn driven(&self) -> impl DoubleEndedIterator<Item = (i64, &Outing)> {
        self.all.iter().filter_map(|(id, logged)| match logged {
            Logged::Outing(outing) => Some((*id, &**outing)),
            _ => None,
        })
    }

    /// Outings, the earliest first; what was played is none.
    pub fn outings(&self) -> impl DoubleEndedIterator<Item = (i64, &Outing)> {
        self.driven().filter(|(_, o)| !o.practice)
    }

    /// What was played, the earliest first.
    pub fn practice(&self) -> impl DoubleEndedIterator<Item = (i64, &Outing)> {
        self.driven().filter(|(_, o)| o.practice)
    }

    /// The outing of a number, or what was played.
    pub fn outing(&self, id: i64) -> Option<(i64, &Outing)> {
        self.driven().find(|(n, _)| *n == id)
    }

    /// Tests, the earliest first.
    pub fn tests(&self) -> impl DoubleEndedIterator<Item = (i64, &Test)> {
        self.all.iter().filter_map(|(id, logged)| match logged {
            Logged::Test(test) => Some((*id, &**test)),
            _ => None,
        })
    }

    /// Packs that are owned, the earliest bought first.
    pub fn owned(&self) -> impl DoubleEndedIterator<Item = (i64, &Owned)> {
        self.all.iter().filter_map(|(id, logged)| match logged {
            Logged::Owned(owned) => Some((*id, &**owned)),
            _ => None,
        })
    }

    /// Full cycles that an owned pack was used for, as if each had been from full to empty: its outings and capacity tests.
    pub fn full_cycles(&self, pack: i64) -> f64 {
        let outings = self.outings().filter(|(_, o)| o.of == Some(pack));
        let driven: f64 = outings.filter_map(|(_, o)| Some(o.share_used().ok()?.0.max(0.0))).sum();
        let whole = |t: &Test| t.of == Some(pack) && t.unit.is_none();
        let tested = self.tests().filter(|(_, t)| whole(t) && matches!(t.did, Did::Capacity(_)));
        driven + tested.count() as f64
    }

    /// Whether the same is logged already: of the same day and pack, with all that its owner says of it.
    pub fn has(&self, new: &Logged) -> bool {
        self.all.iter().any(|(_, there)| match (there, new) {
            (Logged::Outing(there), Logged::Outing(new)) => {
                let told =
                    |o: &Outing| Outing { plan: new.plan.clone(), recorded: None, ..o.clone() };
                told(there) == told(new)
            }
            (Logged::Test(there), Logged::Test(new)) => {
                let told = |t: &Test| Test { recorded: None, ..t.clone() };
                told(there) == told(new)
            }
            _ => false,
        })
    }

    /// The owned pack of a number.
    pub fn pack(&self, id: i64) -> Option<&Owned> {
        self.owned().find(|(n, _)| *n == id).map(|(_, owned)| owned)
    }

    /// All that it says of the rig of a plan as it is described now and of one of its packs, as equations: outings with that
    /// pack, or with any where none is given; and tests of the pack as a whole that are not passed over.
    ///
    /// Entries that say nothing are passed over; [`Outing::entries`] says why.
    pub fn entries(&self, now: &Plan, pack: Option<i64>) -> Vec<Entry> {
        let outings = self
            .outings()
            .filter(|(_, o)| o.counts && (pack.is_none() || o.of == pack))
            .filter_map(|(id, o)| o.on(now).ok()?.entries(id).ok())
            .flatten();
        let of = self.owned().filter(|(id, _)| pack.is_none_or(|pack| pack == *id));
        let tests = of.flat_map(|(id, owned)| {
            let whole = self.tested(id).into_iter().filter(|t| t.unit.is_none() && !t.passed_over);
            let told = owned.pack.health.capacity_share;
            whole.map(move |t| Entry {
                id: t.id,
                years: years(t.date),
                told: Told::Capacity(t.share / told),
            })
        });
        outings.chain(tests).collect()
    }
}
