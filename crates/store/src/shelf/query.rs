//! One page of the shelf: searched, filtered, sorted; only what is seen is read.

use super::index::{Entry, Figure, Index, Known, Overview};
use super::row::{self, Mark, key};
use super::{BatteryId, history};
use crate::board::{Undo, Unreadable};
use crate::error::StoreError;
use lake_hour_core::shelf::{Battery, Candidate, Chemistry, Rest, SizeClass};
use memchr::memmem::Finder;
use rusqlite::{Connection, OptionalExtension};
use std::ops::Range;

/// In which order.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Order {
    /// By name.
    #[default]
    Name,
    /// The lowest voltage first.
    Volts,
    /// The most ampere-hours first.
    Capacity,
    /// The most watt-hours first.
    Energy,
    /// The lightest first.
    Weight,
    /// The cheapest first.
    Price,
    /// The cheapest ampere-hour first.
    PerAh,
    /// The cheapest watt-hour first.
    PerWh,
    /// The most continuous amps first.
    Amps,
    /// The most cycles first.
    Cycles,
    /// What was added last first.
    Newest,
    /// By a figure that the shelf does not keep, see [`Figure`]; the least first.
    Reckoned,
}

impl Order {
    /// What is least for the battery that comes first.
    fn of(self, e: &Entry) -> Option<f64> {
        match self {
            // In whose order they are already.
            Self::Name | Self::Reckoned => Some(0.0),
            Self::Volts => Some(e.volts),
            Self::Capacity => e.ah.map(|ah| -ah),
            Self::Energy => e.energy().map(|wh| -wh),
            Self::Weight => e.kg,
            Self::Price => e.price,
            Self::PerAh => e.price_per(e.ah),
            Self::PerWh => e.price_per(e.energy()),
            Self::Amps => e.amps.map(|amps| -amps),
            Self::Cycles => e.cycles().map(|cycles| -cycles),
            Self::Newest => Some(-(e.id as f64)),
        }
    }
}

/// What of the shelf is wanted.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct ShelfQuery {
    /// Words that must all stand in the name, the chemistry, its family or the standard size, or in a part
    /// of them.
    pub words: String,
    /// One chemistry.
    pub chemistry: Option<Chemistry>,
    /// Units for this system voltage; 0 for those that belong to none.
    pub system: Option<u32>,
    /// One standard size.
    pub size_class: Option<SizeClass>,
    /// With doubts, or without any.
    pub doubtful: Option<bool>,
    /// Warmed from inside.
    pub heater: bool,
    /// Tells its charge.
    pub monitor: bool,
    /// Those put out of sight instead of the others.
    pub hidden: bool,
    /// Standard sizes together.
    pub grouped: bool,
    /// In which order.
    pub order: Order,
    /// Which page, counted from 0.
    pub page: usize,
    /// Batteries on a page.
    pub page_size: usize,
}

/// A battery on the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct Shelved {
    /// Which one.
    pub id: BatteryId,
    /// What it is.
    pub candidate: Candidate,
}

/// One page of the shelf.
#[derive(Debug, Clone, PartialEq)]
pub struct ShelfPage {
    /// The batteries of this page.
    pub rows: Vec<Shelved>,
    /// Which page it is: the last one where a later one was asked for.
    pub page: usize,
    /// How many there are on all pages.
    pub matching: usize,
    /// How many stand on the shelf in sight.
    pub shown: usize,
    /// How many are put out of sight.
    pub hidden: usize,
    /// What is usual here.
    pub usual: Usual,
    /// Batteries of this page that cannot be read any more.
    pub unreadable: Vec<Unreadable>,
    /// What undo would take back.
    pub undo: Option<Undo>,
    /// What redo would make again.
    pub redo: Option<Undo>,
}

impl ShelfPage {
    /// What is usual on this shelf of the family a battery belongs to.
    pub const fn rest(&self, chemistry: Chemistry) -> &Rest {
        self.usual.of(chemistry)
    }
}

/// What is usual on the shelf.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Usual {
    /// Of lead.
    pub lead: Rest,
    /// Of lithium.
    pub lithium: Rest,
}

impl Usual {
    /// Of the family a battery belongs to.
    pub const fn of(&self, chemistry: Chemistry) -> &Rest {
        if chemistry.is_lead() { &self.lead } else { &self.lithium }
    }
}

/// What is usual on the shelf now.
pub(crate) fn usual(c: &Connection, known: &Known) -> Result<Usual, StoreError> {
    Ok(known.index(c)?.overview().usual)
}

/// Whether a battery is wanted.
struct Wanted<'a> {
    query: &'a ShelfQuery,
    words: Vec<Finder<'static>>,
    overview: Overview,
}

impl<'a> Wanted<'a> {
    fn of(query: &'a ShelfQuery, overview: Overview) -> Self {
        let words = query.words.split_whitespace().take(8);
        let word = |word: &str| key(&word.chars().take(80).collect::<String>());
        let words = words.map(|w| Finder::new(&word(w)).into_owned()).collect();
        Self { query, words, overview }
    }

    fn includes(&self, e: &Entry) -> bool {
        let q = self.query;
        e.is(Mark::Hidden) == q.hidden
            && q.chemistry.is_none_or(|c| e.chemistry == Some(c))
            && q.system.is_none_or(|v| e.system == (v != 0).then_some(v))
            && q.size_class.is_none_or(|class| e.class == Some(class))
            && (!q.heater || e.is(Mark::Heater))
            && (!q.monitor || e.is(Mark::Monitor))
            && self.words.iter().all(|word| word.find(e.words.as_bytes()).is_some())
            && q.doubtful.is_none_or(|doubtful| self.doubted(e) == doubtful)
    }

    /// By itself, or against the rest of its family; without a price there is no doubtful one.
    fn doubted(&self, e: &Entry) -> bool {
        let rest = match e.chemistry {
            Some(c) => *self.overview.usual.of(c),
            None => self.overview.usual.lithium,
        };
        let unusual = |usual: Option<(f64, f64)>, mine: Option<f64>, ok: Mark| {
            let out = |((low, high), mine)| !(low..=high).contains(&mine);
            usual.zip(mine).is_some_and(out) && !e.is(ok)
        };
        let prices = rest.prices().map(|(low, high)| (low.value(), high.value()));
        e.doubts > 0
            || unusual(prices, e.price_per(e.energy()), Mark::PriceOk)
            || unusual(rest.weights(), e.weight_per_wh(), Mark::WeightOk)
    }
}

/// Reads one page.
pub(crate) fn page(
    c: &Connection,
    known: &Known,
    query: &ShelfQuery,
    figure: &Figure<impl Fn(&Battery) -> Option<f64>>,
) -> Result<ShelfPage, StoreError> {
    let mut index = known.index(c)?;
    let overview = index.overview();
    let Overview { usual, shown, hidden } = overview;
    let wanted = Wanted::of(query, overview);
    let mut places: Vec<usize> =
        (0..index.entries.len()).filter(|n| wanted.includes(&index.entries[*n])).collect();
    let matching = places.len();
    let size = query.page_size.max(1);
    let page = query.page.min(matching.saturating_sub(1) / size);
    let range = page * size..(page * size + size).min(matching);
    if query.order != Order::Name || query.grouped {
        places = sorted(&mut index, query, figure, &places, &range);
    }
    let ids: Vec<i64> = places[range].iter().map(|n| index.entries[*n].id).collect();
    drop(index);
    let (mut rows, mut unreadable) = (Vec::new(), Vec::new());
    let t = c.unchecked_transaction()?;
    let mut body = t.prepare_cached("SELECT body FROM battery WHERE id = ?1")?;
    for id in ids {
        let text: Option<String> = body.query_row([id], |r| r.get(0)).optional()?;
        // Removed a moment ago.
        let Some(text) = text else { continue };
        match row::read(&text) {
            Ok(candidate) => rows.push(Shelved { id: BatteryId(id), candidate }),
            Err(StoreError::Unknown(faults)) => {
                unreadable.push(Unreadable { id, text, why: faults.first() });
            }
            Err(error) => return Err(error),
        }
    }
    let (undo, redo) = history::offers(&t)?;
    Ok(ShelfPage { rows, page, matching, shown, hidden, usual, unreadable, undo, redo })
}

/// The same places, so that those of the page are in order and at their place.
fn sorted(
    index: &mut Index,
    query: &ShelfQuery,
    figure: &Figure<impl Fn(&Battery) -> Option<f64>>,
    places: &[usize],
    page: &Range<usize>,
) -> Vec<usize> {
    let figures = match query.order {
        Order::Reckoned => index.figures(figure, places),
        order => places.iter().map(|n| order.of(&index.entries[*n])).collect(),
    };
    // Those of no standard size come last, and so do those of which the figure is not known.
    let class = |n: usize| match index.entries[n].class.filter(|_| query.grouped) {
        Some(class) => class.name(),
        None => "~",
    };
    let second = |n: usize| match query.order {
        Order::Volts => index.entries[n].energy().unwrap_or(f64::NEG_INFINITY),
        _ => 0.0,
    };
    let mut keys: Vec<_> = places
        .iter()
        .zip(figures)
        .map(|(n, figure)| (class(*n), figure.unwrap_or(f64::INFINITY), second(*n), *n))
        .collect();
    // Places are in the order of the names.
    let by = |a: &(&str, f64, f64, usize), b: &(&str, f64, f64, usize)| {
        a.0.cmp(b.0).then(a.1.total_cmp(&b.1)).then(a.2.total_cmp(&b.2)).then(a.3.cmp(&b.3))
    };
    if page.end < keys.len() {
        keys.select_nth_unstable_by(page.end, by);
    }
    keys[..page.end].sort_unstable_by(by);
    keys.into_iter().map(|(.., n)| n).collect()
}
