//! A pack that is owned: its units, what was paid, what is left of its warranty.

use crate::learn::Ageing;
use crate::pack::Pack;
use crate::units::{Celsius, Money};
use jiff::ToSpan;
use jiff::civil::Date;

/// Most units of one owned pack, retired ones included.
pub const MOST_UNITS: usize = 64;

/// A pack that is owned.
#[derive(Debug, Clone, PartialEq)]
pub struct Owned {
    /// The pack as it was bought, with its label.
    pub pack: Pack,
    /// When.
    pub bought: Date,
    /// Where; empty where not told.
    pub shop: String,
    /// What was paid for all of it.
    pub paid: Option<Money>,
    /// Years of full warranty; none where not told. [a]
    pub full_years: Option<f64>,
    /// Years until the end of a warranty that pays less every month. [a]
    pub prorated_years: Option<f64>,
    /// How warm it is where it is kept; the house rules' where not told. [°C]
    pub kept_at: Option<Celsius>,
    /// The next outing, where one is planned.
    pub next: Option<Next>,
    /// Its units.
    pub units: Vec<OwnedUnit>,
    /// Given away or dead, since when: it keeps its history.
    pub retired: Option<Date>,
    /// Whatever else.
    pub note: String,
}

/// When it goes out next.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Next {
    /// The day.
    pub date: Date,
    /// Minute of the day.
    pub minute: u16,
}

/// One unit of an owned pack.
#[derive(Debug, Clone, PartialEq)]
pub struct OwnedUnit {
    /// Its number, as it is painted on it.
    pub number: String,
    /// Its serial number; empty where not told.
    pub serial: String,
    /// Where it sits, counted from the pack's positive end; `None` for one that is out.
    pub place: Option<u32>,
    /// Since when it sits there; since the purchase where not told.
    pub since: Option<Date>,
    /// Since when it is out, where it is.
    pub retired: Option<Date>,
}

/// What is left of a warranty.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Warranty {
    /// Nothing was told.
    Untold,
    /// All of it is paid, until a day.
    Full(Date),
    /// A share of it is paid, until a day.
    Prorated(f64, Date),
    /// It is over, since a day.
    Over(Date),
}

impl Owned {
    /// A pack bought on a day, its units numbered.
    pub fn of(pack: Pack, bought: Date) -> Self {
        let units = (1..=pack.units())
            .take(MOST_UNITS)
            .map(|n| OwnedUnit {
                number: n.to_string(),
                serial: String::new(),
                place: Some(n),
                since: None,
                retired: None,
            })
            .collect();
        Self {
            pack,
            bought,
            shop: String::new(),
            paid: None,
            full_years: None,
            prorated_years: None,
            kept_at: None,
            next: None,
            units,
            retired: None,
            note: String::new(),
        }
    }

    /// How it ages before anything is logged: to 80 % in the years of its label, or typical.
    pub fn ageing(&self) -> Ageing {
        let battery = &self.pack.battery;
        let lasts = battery.calendar_years.unwrap_or(battery.chemistry.typical_years());
        // Where its owner told what wear has left of it, that is where it begins.
        let told = self.pack.health.capacity_share < 1.0;
        let since = if told { None } else { Some(super::years(self.bought)) };
        Ageing { a_year: 0.2 / lasts.max(0.5), since }
    }

    /// What is left of its warranty on a day. A prorated one pays the share of its time, counted from the day of purchase, that
    /// is not over yet.
    pub fn warranty(&self, today: Date) -> Warranty {
        let after = |years: f64| {
            let months = (years * 12.0).round() as i64;
            self.bought.checked_add(months.months()).unwrap_or(Date::MAX)
        };
        let full = self.full_years.map(after);
        let prorated = self.prorated_years.map(after).filter(|to| full.is_none_or(|f| *to > f));
        match (full, prorated) {
            (Some(to), _) if today < to => Warranty::Full(to),
            (_, Some(to)) if today < to => {
                let days = |from: Date, to: Date| to.duration_since(from).as_hours() as f64;
                Warranty::Prorated(days(today, to) / days(self.bought, to), to)
            }
            (_, Some(to)) | (Some(to), None) => Warranty::Over(to),
            (None, None) => Warranty::Untold,
        }
    }
}
