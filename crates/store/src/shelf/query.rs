//! One page of the shelf: searched, filtered, sorted; only what is seen is read.

use super::{BatteryId, history, row};
use crate::board::{Undo, Unreadable};
use crate::error::StoreError;
use lake_hour_core::shelf::{Candidate, Chemistry, Rest, SizeClass};
use rusqlite::types::Value;
use rusqlite::{Connection, OptionalExtension, params_from_iter};
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Mutex, PoisonError};

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
    /// By a figure that the shelf does not keep; the least first, see [`ShelfQuery::page`].
    Reckoned,
}

impl Order {
    const fn sql(self) -> &'static str {
        match self {
            Self::Name | Self::Reckoned => "name_key",
            Self::Volts => "volts, wh, name_key",
            Self::Capacity => "ah DESC NULLS LAST, name_key",
            Self::Energy => "wh DESC NULLS LAST, name_key",
            Self::Weight => "kg ASC NULLS LAST, name_key",
            Self::Price => "price ASC NULLS LAST, name_key",
            Self::PerAh => "price_ah ASC NULLS LAST, name_key",
            Self::PerWh => "price_wh ASC NULLS LAST, name_key",
            Self::Amps => "amps DESC NULLS LAST, name_key",
            Self::Cycles => "cycles DESC NULLS LAST, name_key",
            Self::Newest => "id DESC",
        }
    }
}

/// What of the shelf is wanted.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct ShelfQuery {
    /// Words that must all stand in the name, the chemistry or the standard size.
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
    /// What is usual of lead here.
    pub lead: Rest,
    /// What is usual of lithium here.
    pub lithium: Rest,
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
        if chemistry.is_lead() { &self.lead } else { &self.lithium }
    }
}

/// The conditions of a query, and what stands in them.
struct Conditions {
    sql: String,
    values: Vec<Value>,
}

impl Conditions {
    fn and(&mut self, sql: &str, values: impl IntoIterator<Item = Value>) {
        self.sql.push_str(" AND ");
        self.sql.push_str(sql);
        self.values.extend(values);
    }

    fn of(query: &ShelfQuery, lead: &Rest, lithium: &Rest) -> Self {
        let mut all = Self { sql: "hidden = ?".to_owned(), values: vec![query.hidden.into()] };
        for word in query.words.split_whitespace().take(8) {
            let mut like = String::from("%");
            for c in word.chars().take(80) {
                if matches!(c, '%' | '_' | '\\') {
                    like.push('\\');
                }
                like.push(c);
            }
            like.push('%');
            all.and(
                "(name || ' ' || chemistry || ' ' || coalesce(size_class, '')) LIKE ? ESCAPE '\\'",
                [like.into()],
            );
        }
        if let Some(chemistry) = query.chemistry {
            all.and("chemistry = ?", [chemistry.key().to_owned().into()]);
        }
        match query.system {
            Some(0) => all.and("system_v IS NULL", []),
            Some(volts) => all.and("system_v = ?", [i64::from(volts).into()]),
            None => {}
        }
        if let Some(class) = query.size_class {
            all.and("size_class = ?", [class.name().to_owned().into()]);
        }
        if query.heater {
            all.and("heater = 1", []);
        }
        if query.monitor {
            all.and("monitor = 1", []);
        }
        if let Some(doubtful) = query.doubtful {
            let (mut sql, mut values) = ("doubts > 0".to_owned(), Vec::new());
            for (family, rest) in [(1_i64, lead), (0, lithium)] {
                for (column, ok, usual) in [
                    ("price_wh", "price_ok", rest.prices()),
                    ("kg_wh", "weight_ok", rest.weights()),
                ] {
                    let Some((low, high)) = usual else { continue };
                    sql.push_str(&format!(
                        " OR (lead = ? AND {ok} = 0 AND {column} NOT BETWEEN ? AND ?)"
                    ));
                    values.extend([family.into(), low.into(), high.into()]);
                }
            }
            let not = if doubtful { "" } else { "NOT " };
            // A battery without a price has no doubtful one: no answer counts as none.
            all.and(&format!("{not}coalesce({sql}, 0)"), values);
        }
        all
    }
}

/// The middle of a column among lead or lithium, where there are enough to compare with.
fn middle(c: &Connection, lead: bool, column: &'static str) -> Result<Option<f64>, StoreError> {
    let count: i64 = c
        .prepare_cached(&format!(
            "SELECT count(*) FROM battery WHERE lead = ?1 AND {column} IS NOT NULL"
        ))?
        .query_row([lead], |r| r.get(0))?;
    if (count as usize) < Rest::ENOUGH {
        return Ok(None);
    }
    let mut middle = c.prepare_cached(&format!(
        "SELECT {column} FROM battery WHERE lead = ?1 AND {column} IS NOT NULL
         ORDER BY {column} LIMIT 1 OFFSET ?2"
    ))?;
    Ok(middle.query_row((lead, count / 2), |r| r.get(0)).optional()?)
}

/// What is known of the shelf as a whole.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Overview {
    lead: Rest,
    lithium: Rest,
    shown: usize,
    hidden: usize,
}

impl Overview {
    fn of(c: &Connection) -> Result<Self, StoreError> {
        let count = |hidden: bool| -> Result<usize, StoreError> {
            let mut count = c.prepare_cached("SELECT count(*) FROM battery WHERE hidden = ?1")?;
            Ok(count.query_row([hidden], |r| r.get::<_, i64>(0))? as usize)
        };
        Ok(Self {
            lead: rest(c, true)?,
            lithium: rest(c, false)?,
            shown: count(false)?,
            hidden: count(true)?,
        })
    }
}

/// The overview that was last worked out, for as long as the shelf is not changed.
#[derive(Debug, Default)]
pub(crate) struct Known {
    changes: AtomicU64,
    last: Mutex<Option<(u64, Overview)>>,
}

impl Known {
    /// The shelf may have changed: called when the change is on the disk.
    pub(crate) fn forget(&self) {
        self.changes.fetch_add(1, Ordering::SeqCst);
    }

    fn overview(&self, changes: u64, c: &Connection) -> Result<Overview, StoreError> {
        let last = || self.last.lock().unwrap_or_else(PoisonError::into_inner);
        let known = *last();
        if let Some((_, overview)) = known.filter(|(of, _)| *of == changes) {
            return Ok(overview);
        }
        let overview = Overview::of(c)?;
        *last() = Some((changes, overview));
        Ok(overview)
    }
}

/// What is usual on the shelf of one family.
fn rest(c: &Connection, lead: bool) -> Result<Rest, StoreError> {
    Ok(Rest { price_per_wh: middle(c, lead, "price_wh")?, kg_per_wh: middle(c, lead, "kg_wh")? })
}

/// Reads one page. `reckoned` gives the figure of [`Order::Reckoned`]: every battery that matches is
/// looked at for it, where else only those of the page are.
pub(crate) fn page(
    c: &Connection,
    known: &Known,
    query: &ShelfQuery,
    reckoned: impl Fn(&Candidate) -> Option<f64>,
) -> Result<ShelfPage, StoreError> {
    // Read before the database is: what is worked out from an older state is never taken for newer.
    let changes = known.changes.load(Ordering::SeqCst);
    let t = c.unchecked_transaction()?;
    let Overview { lead, lithium, shown, hidden } = known.overview(changes, &t)?;
    let conditions = Conditions::of(query, &lead, &lithium);
    let matching = if conditions.values.len() > 1 || conditions.sql.contains(" AND ") {
        let sql = format!("SELECT count(*) FROM battery WHERE {}", conditions.sql);
        let values = params_from_iter(&conditions.values);
        t.prepare_cached(&sql)?.query_row(values, |r| r.get::<_, i64>(0))? as usize
    } else if query.hidden {
        hidden
    } else {
        shown
    };
    let size = query.page_size.max(1);
    let page = query.page.min(matching.saturating_sub(1) / size);
    let group = if query.grouped { "size_class NULLS LAST, " } else { "" };
    let sql = format!(
        "SELECT id, body FROM battery WHERE {} ORDER BY {group}{}",
        conditions.sql,
        query.order.sql()
    );
    let read = |row: &rusqlite::Row<'_>| -> Result<Result<Shelved, Unreadable>, StoreError> {
        let (id, text) = (row.get(0)?, row.get_ref(1)?.as_str().unwrap_or_default());
        Ok(match row::read(text) {
            Ok(candidate) => Ok(Shelved { id: BatteryId(id), candidate }),
            Err(_) => Err(Unreadable { id, text: text.to_owned() }),
        })
    };
    let (mut rows, mut unreadable) = (Vec::new(), Vec::new());
    if query.order == Order::Reckoned {
        let mut select = t.prepare_cached(&sql)?;
        let mut found = select.query(params_from_iter(&conditions.values))?;
        // Only the keys of all are held; the batteries of the page are read again.
        let mut keys = Vec::new();
        while let Some(row) = found.next()? {
            let Ok(shelved) = read(row)? else { continue };
            let class = shelved.candidate.size_class.filter(|_| query.grouped);
            let group = class.map_or("~", |s| s.name());
            keys.push((group, reckoned(&shelved.candidate).unwrap_or(f64::INFINITY), shelved.id));
        }
        keys.sort_by(|a, b| a.0.cmp(b.0).then(a.1.total_cmp(&b.1)));
        for (_, _, id) in keys.into_iter().skip(page * size).take(size) {
            rows.push(super::battery(&t, id)?);
        }
    } else {
        let mut select = t.prepare_cached(&format!("{sql} LIMIT ? OFFSET ?"))?;
        let mut values = conditions.values.clone();
        values.extend([(size as i64).into(), ((page * size) as i64).into()]);
        let mut found = select.query(params_from_iter(&values))?;
        while let Some(row) = found.next()? {
            match read(row)? {
                Ok(shelved) => rows.push(shelved),
                Err(text) => unreadable.push(text),
            }
        }
    }
    let (undo, redo) = history::offers(&t)?;
    Ok(ShelfPage { rows, page, matching, shown, hidden, lead, lithium, unreadable, undo, redo })
}
