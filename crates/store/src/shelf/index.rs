//! What the shelf is searched and sorted by, held in memory.
//!
//! The file is what counts: what a change has touched is read from there again before anybody looks. A
//! hundred thousand batteries take some 25 MB; going through all of them takes a few milliseconds, whatever
//! is asked, where an index of the database for each question would make every write slower.

use super::query::Usual;
use super::row::{Mark, read_promises};
use crate::error::StoreError;
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Rating, Rest, SizeClass};
use lake_hour_core::units::{AmpHours, Hours, Money, Volts};
use rusqlite::{Connection, Row};
use std::collections::{HashMap, HashSet};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

/// So many changes are put in their places one by one; of more, all of the shelf is read again.
const ONE_BY_ONE: usize = 50;
/// Rules whose figures are kept: one set for each rig that is being looked at.
const MOST_FIGURES: usize = 4;

/// One battery, as far as it is searched and sorted by.
#[derive(Debug)]
pub(super) struct Entry {
    pub(super) id: i64,
    /// Where the figures of its own are kept.
    slot: usize,
    /// Its name in folded letters, its chemistry, family and standard size.
    pub(super) words: Arc<str>,
    /// `None` for a battery that cannot be read.
    pub(super) chemistry: Option<Chemistry>,
    pub(super) system: Option<u32>,
    pub(super) volts: f64,
    pub(super) ah: Option<f64>,
    pub(super) kg: Option<f64>,
    pub(super) price: Option<f64>,
    pub(super) amps: Option<f64>,
    years: Option<f64>,
    promises: Box<[CyclePoint]>,
    pub(super) class: Option<SizeClass>,
    pub(super) doubts: u32,
    marks: u8,
}

/// What is read of each battery, in the order it is asked for.
const COLUMNS: [&str; 14] = [
    "id",
    "words",
    "chemistry",
    "system_v",
    "volts",
    "ah",
    "kg",
    "price",
    "amps",
    "years",
    "promises",
    "size_class",
    "marks",
    "doubts",
];

/// Where a column stands in what is read, found when this is compiled: by its name, at no cost for each of a
/// hundred thousand rows.
const fn at(name: &str) -> usize {
    let mut n = 0;
    while n < COLUMNS.len() {
        if same(COLUMNS[n].as_bytes(), name.as_bytes()) {
            return n;
        }
        n += 1;
    }
    panic!("no such column");
}

const fn same(one: &[u8], other: &[u8]) -> bool {
    if one.len() != other.len() {
        return false;
    }
    let mut n = 0;
    while n < one.len() {
        if one[n] != other[n] {
            return false;
        }
        n += 1;
    }
    true
}

/// The question for them.
fn select() -> String {
    format!("SELECT {} FROM found", COLUMNS.join(", "))
}

impl Entry {
    fn of(row: &Row<'_>) -> Result<Self, rusqlite::Error> {
        let text = |n: usize| -> Result<Option<&str>, rusqlite::Error> {
            Ok(row.get_ref(n)?.as_str_or_null()?)
        };
        Ok(Self {
            id: row.get(const { at("id") })?,
            slot: 0,
            words: text(const { at("words") })?.unwrap_or_default().into(),
            chemistry: text(const { at("chemistry") })?.and_then(Chemistry::from_key),
            system: row.get(const { at("system_v") })?,
            volts: row.get(const { at("volts") })?,
            ah: row.get(const { at("ah") })?,
            kg: row.get(const { at("kg") })?,
            price: row.get(const { at("price") })?,
            amps: row.get(const { at("amps") })?,
            years: row.get(const { at("years") })?,
            promises: read_promises(row.get_ref(const { at("promises") })?.as_blob()?),
            class: text(const { at("size_class") })?.and_then(SizeClass::from_name),
            marks: row.get(const { at("marks") })?,
            doubts: row.get(const { at("doubts") })?,
        })
    }

    fn by_name(&self, other: &Self) -> std::cmp::Ordering {
        self.words.cmp(&other.words).then(self.id.cmp(&other.id))
    }

    pub(super) const fn is(&self, mark: Mark) -> bool {
        self.marks & mark as u8 != 0
    }

    /// Volts times the headline capacity, as [`Battery::energy`]. [Wh]
    pub(super) fn energy(&self) -> Option<f64> {
        self.ah.map(|ah| ah * self.volts)
    }

    /// The most cycles promised at any depth.
    pub(super) fn cycles(&self) -> Option<f64> {
        self.promises.iter().map(|p| p.cycles).reduce(f64::max)
    }

    /// What one of a quantity costs.
    pub(super) fn price_per(&self, of: Option<f64>) -> Option<f64> {
        Some(self.price? / of.filter(|of| *of > 0.0)?)
    }

    /// Weight of a watt-hour. [kg/Wh]
    pub(super) fn weight_per_wh(&self) -> Option<f64> {
        Some(self.kg? / self.energy().filter(|wh| *wh > 0.0)?)
    }

    /// Makes of `unit` this battery, as far as it is known here: chemistry, volts, headline capacity, price,
    /// years and promised cycles, and nothing else. False for one that cannot be read.
    fn write_to(&self, unit: &mut Battery) -> bool {
        let Some(chemistry) = self.chemistry else { return false };
        unit.chemistry = chemistry;
        unit.nominal_voltage = Volts::of(self.volts);
        unit.ratings.clear();
        unit.ratings.extend(self.ah.map(capacity));
        unit.price = self.price.map(Money::of);
        unit.calendar_years = self.years;
        unit.cycles.clear();
        unit.cycles.extend_from_slice(&self.promises);
        true
    }
}

const fn capacity(ah: f64) -> Rating {
    Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) }
}

/// A figure that the shelf does not keep, worked out for each battery.
#[derive(Debug, Clone, PartialEq)]
pub struct Figure<F> {
    /// All that the figure depends on beside the battery, as a text: for the same rules it is the same.
    pub rules: String,
    /// The figure, from a battery's chemistry, volts, headline capacity, price, years and promised cycles;
    /// nothing else of it is known then.
    pub of: F,
}

/// The shelf as a whole.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Overview {
    pub(super) usual: Usual,
    pub(super) shown: usize,
    pub(super) hidden: usize,
}

/// Prices and weights of a watt-hour in one family, each in order.
#[derive(Debug, Default)]
struct Family {
    prices: Vec<f64>,
    weights: Vec<f64>,
}

impl Family {
    fn rest(&self) -> Rest {
        let middle = |all: &[f64]| (all.len() >= Rest::ENOUGH).then(|| all[all.len() / 2]);
        Rest { price_per_wh: middle(&self.prices).map(Money::of), kg_per_wh: middle(&self.weights) }
    }
}

/// All batteries.
#[derive(Debug, Default)]
pub(super) struct Index {
    /// In the order of their names, and of their ids where these are the same.
    pub(super) entries: Vec<Entry>,
    words: HashMap<i64, Arc<str>>,
    /// Lithium and lead.
    families: [Family; 2],
    hidden: usize,
    /// Whether all above is so; where something failed, all is read again.
    read: bool,
    free: Vec<usize>,
    /// By their rules, those last asked for at the end: for each slot the figure, once it was asked for,
    /// and infinity where there is none.
    figures: Vec<(String, Vec<Option<f64>>)>,
}

impl Index {
    fn whole(c: &Connection) -> Result<Self, StoreError> {
        let count = super::count(c)?;
        let mut index = Self::default();
        index.entries.reserve_exact(count);
        let mut all = c.prepare_cached(&select())?;
        for (entry, slot) in all.query_map([], Entry::of)?.zip(0..) {
            let entry = Entry { slot, ..entry? };
            index.count(&entry, 1, Vec::push);
            index.words.insert(entry.id, entry.words.clone());
            index.entries.push(entry);
        }
        index.entries.sort_unstable_by(Entry::by_name);
        for family in &mut index.families {
            family.prices.sort_unstable_by(f64::total_cmp);
            family.weights.sort_unstable_by(f64::total_cmp);
        }
        Ok(index)
    }

    /// Reads again what these changes touched.
    fn renew(&mut self, c: &Connection, changed: &HashSet<i64>) -> Result<(), StoreError> {
        let mut one = c.prepare_cached(&format!("{} WHERE id = ?1", select()))?;
        for id in changed {
            self.take_out(*id);
            for entry in one.query_map([id], Entry::of)? {
                self.put_in(entry?);
            }
        }
        Ok(())
    }

    fn take_out(&mut self, id: i64) {
        let Some(words) = self.words.remove(&id) else { return };
        let place = self.entries.binary_search_by(|e| (&e.words, e.id).cmp(&(&words, id)));
        let Ok(place) = place else { return };
        let entry = self.entries.remove(place);
        self.count(&entry, -1, |all, figure| {
            if let Ok(n) = all.binary_search_by(|f| f.total_cmp(&figure)) {
                all.remove(n);
            }
        });
        for (_, figures) in &mut self.figures {
            if let Some(figure) = figures.get_mut(entry.slot) {
                *figure = None;
            }
        }
        self.free.push(entry.slot);
    }

    fn put_in(&mut self, entry: Entry) {
        let slot = self.free.pop().unwrap_or(self.entries.len());
        let entry = Entry { slot, ..entry };
        self.count(&entry, 1, |all, figure| {
            all.insert(all.partition_point(|f| f.total_cmp(&figure).is_lt()), figure);
        });
        self.words.insert(entry.id, entry.words.clone());
        let place = self.entries.partition_point(|e| Entry::by_name(e, &entry).is_lt());
        if self.entries.len() == self.entries.capacity() {
            // Not twice as much, as a list would take that grows by itself.
            self.entries.reserve_exact(self.entries.len() / 8 + 16);
        }
        self.entries.insert(place, entry);
    }

    /// One battery more or less in what is known of all.
    fn count(&mut self, e: &Entry, by: isize, with: impl Fn(&mut Vec<f64>, f64)) {
        if e.is(Mark::Hidden) {
            self.hidden = self.hidden.saturating_add_signed(by);
        }
        let Some(chemistry) = e.chemistry else { return };
        let family = &mut self.families[usize::from(chemistry.is_lead())];
        if let Some(price) = e.price_per(e.energy()) {
            with(&mut family.prices, price);
        }
        if let Some(weight) = e.weight_per_wh() {
            with(&mut family.weights, weight);
        }
    }

    pub(super) fn overview(&self) -> Overview {
        let [lithium, lead] = &self.families;
        Overview {
            usual: Usual { lead: lead.rest(), lithium: lithium.rest() },
            shown: self.entries.len() - self.hidden,
            hidden: self.hidden,
        }
    }

    /// The figure of each of these batteries: what was worked out under these rules before is not again.
    pub(super) fn figures(
        &mut self,
        figure: &Figure<impl Fn(&Battery) -> Option<f64>>,
        places: &[usize],
    ) -> Vec<Option<f64>> {
        let known = self.figures.iter().position(|(rules, _)| *rules == figure.rules);
        let mut kept = match known {
            Some(n) => self.figures.remove(n),
            None => (figure.rules.clone(), Vec::new()),
        };
        kept.1.resize(self.entries.len() + self.free.len(), None);
        let mut unit = Battery::new("", Chemistry::Agm, Volts::of(12.0), capacity(0.0));
        let figures = places.iter().map(|n| {
            let entry = &self.entries[*n];
            let mut of = || entry.write_to(&mut unit).then(|| (figure.of)(&unit)).flatten();
            let one = kept.1[entry.slot].get_or_insert_with(|| of().unwrap_or(f64::INFINITY));
            Some(*one).filter(|f| f.is_finite())
        });
        let figures = figures.collect();
        self.figures.push(kept);
        if self.figures.len() > MOST_FIGURES {
            self.figures.remove(0);
        }
        figures
    }
}

/// The index, and what it does not know yet.
#[derive(Debug, Default)]
pub(crate) struct Known {
    /// Batteries touched by what is being written.
    touched: Mutex<HashSet<i64>>,
    /// Batteries touched by what is written, and not yet read again.
    changed: Mutex<HashSet<i64>>,
    index: Mutex<Index>,
}

/// A panic leaves nothing here that would be taken for whole.
fn held<T>(of: &Mutex<T>) -> MutexGuard<'_, T> {
    of.lock().unwrap_or_else(PoisonError::into_inner)
}

impl Known {
    /// Another file is read from now on.
    pub(crate) fn forget(&self) {
        held(&self.changed).clear();
        *held(&self.index) = Index::default();
    }

    /// A battery is being written or removed: called by the database.
    pub(crate) fn touch(&self, id: i64) {
        held(&self.touched).insert(id);
    }

    /// What was being written can be read from now on, or was not written: called before anybody is told.
    pub(crate) fn written(&self) {
        held(&self.changed).extend(held(&self.touched).drain());
    }

    /// The index as the shelf is now, or was at a moment after this was called.
    pub(super) fn index(&self, c: &Connection) -> Result<MutexGuard<'_, Index>, StoreError> {
        let mut index = held(&self.index);
        // Taken before anything is read: what is read then is at least as new.
        let changed = std::mem::take(&mut *held(&self.changed));
        let whole = !std::mem::take(&mut index.read);
        if whole || changed.len() > ONE_BY_ONE {
            // The old one goes first: two would take twice the memory.
            *index = Index::default();
            *index = Index::whole(&*c.unchecked_transaction()?)?;
        } else if !changed.is_empty() {
            index.renew(&*c.unchecked_transaction()?, &changed)?;
        }
        index.read = true;
        Ok(index)
    }
}
