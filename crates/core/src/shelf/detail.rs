//! The figures a label can carry, by name.

use super::figures::{self, FIGURES, Group, Holds};

/// One figure of a label, by the key under which it is vouched for or corrected.
///
/// Those that code speaks of have a name here; every figure has its row in
/// [`FIGURES`](super::figures::FIGURES).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Detail(&'static str);

macro_rules! details {
    ($($name:ident = $key:literal),* $(,)?) => {
        impl Detail {
            $(#[doc = concat!("`", $key, "`; see its row.")]
            pub const $name: Self = Self($key);)*
        }
    };
}

details! {
    NAME = "name",
    CHEMISTRY = "chemistry",
    BUILD = "build",
    PURPOSE = "purpose",
    SIZE_CLASS = "size_class",
    VOLTS = "volts",
    CAPACITY = "capacity",
    ENERGY = "energy",
    RESERVE = "reserve",
    RATINGS = "ratings",
    LEAD_EQUIVALENT = "lead_equivalent",
    CRANKING = "cranking",
    CONTINUOUS = "continuous",
    PEAK = "peak",
    CUTOFF = "cutoff",
    CHARGE_VOLTAGE = "charge_voltage",
    RESISTANCE = "resistance",
    MASS = "mass",
    SIZE = "size",
    PRICE = "price",
    CYCLES = "cycles",
    YEARS = "years",
    SELF_DISCHARGE = "self_discharge",
    COLD_CUTOFF = "cold_cutoff",
    HEATER = "heater",
    MONITOR = "monitor",
    INGRESS = "ingress",
    TERMINALS = "terminals",
    WARRANTY = "warranty",
    MAX_SERIES = "max_series",
    DISCHARGE_WINDOW = "discharge_window",
}

impl Detail {
    /// A figure that no code speaks of.
    pub(super) const fn named(key: &'static str) -> Self {
        Self(key)
    }

    /// Those that somebody vouches for, as they stand on the shelf.
    pub fn vouched() -> impl Iterator<Item = Self> {
        FIGURES.iter().filter(|f| f.group != Group::Kind).map(|f| f.detail)
    }

    /// The key used in files and forms.
    pub const fn key(self) -> &'static str {
        self.0
    }

    /// The one of this [`key`](Self::key) that somebody vouches for.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::vouched().find(|d| d.key() == key)
    }

    /// What it is called on the shelf.
    pub fn words(self) -> &'static str {
        figures::figure(self).map_or(self.0, |f| f.words)
    }

    /// The unit of its figure; empty for what is no single figure.
    pub fn unit(self) -> &'static str {
        let first = figures::figure(self).and_then(|f| f.fields.first());
        match first.map(|field| &field.holds) {
            Some(Holds::Number(n)) if n.measure.is_none() => n.typed().0.unit,
            _ => "",
        }
    }
}

/// A figure of the label that was replaced, so that every result can say so.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Correction {
    /// Which figure.
    pub detail: Detail,
    /// What the label says; zero where it says nothing.
    pub said: f64,
    /// What is used instead.
    pub used: f64,
}

impl std::fmt::Display for Correction {
    /// "capacity: the label says 300 Ah, used here: 100 Ah".
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let unit = self.detail.unit();
        let tidy = |v: f64| (v * 100.0).round() / 100.0;
        let (said, used) = (tidy(self.said), tidy(self.used));
        let space = if unit.is_empty() { "" } else { " " };
        write!(f, "{}: ", self.detail.words())?;
        if said > 0.0 {
            write!(f, "the label says {said}{space}{unit}")?;
        } else {
            write!(f, "the label says nothing")?;
        }
        write!(f, ", used here: {used}{space}{unit}")
    }
}
