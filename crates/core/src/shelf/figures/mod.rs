//! The one list of what a label and its seller can say of a battery.
//!
//! Files, forms, the shelf's rows, pasted text and the label check go through [`FIGURES`]: a figure that is
//! added there is read, written, shown, searched for in pasted text and vouched for everywhere.

mod label;
mod table;

pub use label::{Label, Wrong};
pub use table::FIGURES;

use super::{Battery, CyclePoint, Detail, Rating};
use crate::allowed::Allowed;
use crate::units::Celsius;
use crate::units::system::Measure;
use std::collections::HashMap;
use std::sync::LazyLock;

/// One figure of a label, vouched for as a whole: its weight, or its three sides.
#[derive(Debug)]
pub struct Figure {
    /// What stands for it where it is vouched for or corrected.
    pub detail: Detail,
    /// What it is called in a sentence: "peak current".
    pub words: &'static str,
    /// Where it stands in a form.
    pub group: Group,
    /// On which labels it is found, so that forms ask for it.
    pub on: On,
    /// Whether the Board reckons with it or tells it, so that a pack's form asks for it.
    pub reckoned: bool,
    /// What it is written as: one value or several.
    pub fields: &'static [Field],
}

/// One value of a figure under the key it has in files and forms.
#[derive(Debug)]
pub struct Field {
    /// As in files and forms: "mass_kg".
    pub key: &'static str,
    /// What stands beside it in a form: "Weight".
    pub label: &'static str,
    /// What may help who types it; may be empty.
    pub hint: &'static str,
    /// Its meaning, for those who read files: "Weight of one unit. [kg]".
    pub meaning: &'static str,
    /// What it holds.
    pub holds: Holds,
}

/// Where a figure stands in a form.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Group {
    /// What it is.
    Kind,
    /// Volts and capacity.
    Energy,
    /// What its protection and its maker allow.
    Limits,
    /// Size, weight, money and promises.
    Body,
    /// Who sells it, and what else is to be remembered.
    Trade,
}

/// On which labels a figure is found.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum On {
    /// On all.
    All,
    /// On lead's.
    Lead,
    /// On lithium's.
    Lithium,
}

/// A value read from a battery, and put into it.
pub type Slot<T> = (fn(&Battery) -> Option<T>, fn(&mut Battery, Option<T>));

/// Where a value is kept.
#[derive(Debug)]
pub enum Kept<T: 'static> {
    /// In a field of its own.
    In(Slot<T>),
    /// Among [`Battery::others`], under its key: nothing reckons with it, or only by its key.
    Aside,
    /// With other values in one field; see `label`.
    Joined,
}

/// What a field holds, how it is read, and what is allowed.
#[derive(Debug)]
pub enum Holds {
    /// A number.
    Number(Number),
    /// Words on one line.
    Text(Kept<String>),
    /// Words on one line as long as a web address or a sentence.
    Long(Kept<String>),
    /// Yes or no.
    Flag(Kept<bool>),
    /// One of some keys.
    Choice(Choice),
    /// Ratings beside the first one.
    Ratings,
    /// Cycles at depths.
    Cycles,
}

/// A choice: its keys with their words, and how it is read and written.
#[derive(Debug)]
pub struct Choice {
    /// Keys, and what they are called in a form.
    pub options: &'static [(&'static str, &'static str)],
    /// The key of what is chosen.
    pub get: fn(&Battery) -> Option<&'static str>,
    /// Chooses by key, or nothing; false where no choice has this key.
    pub set: fn(&mut Battery, Option<&str>) -> bool,
}

/// A number: its range in the unit of its key, and how people type it.
#[derive(Debug)]
pub struct Number {
    /// What is allowed, in the unit of the key.
    pub allowed: Allowed,
    /// Whether it is a count.
    pub whole: bool,
    /// What people measure it in, where they differ.
    pub measure: Option<Measure>,
    /// Unit in a form, where it has another than `allowed`: "%" with 100 to the unit of the key.
    pub typed: Option<(&'static str, f64)>,
    /// Where it is kept.
    pub kept: Kept<f64>,
}

/// What stands in a field.
#[derive(Debug, Clone, PartialEq)]
pub enum Value {
    /// A number, in the unit of the field's key.
    Number(f64),
    /// Words, or the key of a choice.
    Text(String),
    /// Yes or no.
    Flag(bool),
    /// Further ratings.
    Ratings(Vec<Rating>),
    /// Cycles at depths.
    Cycles(Vec<CyclePoint>),
}

impl Number {
    /// What is allowed as it is typed, and how many typed units make one of the key's.
    pub fn typed(&self) -> (Allowed, f64) {
        match self.typed {
            Some((unit, times)) => {
                let Allowed { low, high, .. } = self.allowed;
                // Rounded: a share of 0.01 is 1 %, not 1.0000000000000002.
                let turned = |v: f64| (v * times * 1e9).round() / 1e9;
                (Allowed { low: turned(low), high: turned(high), unit }, times)
            }
            None => (self.allowed, 1.0),
        }
    }
}

/// Each field by its key: files of thousands of batteries look up every cell.
static BY_KEY: LazyLock<HashMap<&'static str, &'static Field>> =
    LazyLock::new(|| fields().map(|(_, field)| (field.key, field)).collect());

/// Every field with its figure, in the order they are written.
pub fn fields() -> impl Iterator<Item = (&'static Figure, &'static Field)> {
    FIGURES.iter().flat_map(|figure| figure.fields.iter().map(move |field| (figure, field)))
}

/// The field of this key.
pub fn field(key: &str) -> Option<&'static Field> {
    BY_KEY.get(key).copied()
}

/// The figure of this detail.
pub fn figure(detail: Detail) -> Option<&'static Figure> {
    FIGURES.iter().find(|f| f.detail == detail)
}

impl Battery {
    /// From how cold to how warm its maker lets it be used. [°C]
    pub fn discharge_window(&self) -> (Option<Celsius>, Option<Celsius>) {
        (self.aside("discharge_low_c"), self.aside("discharge_high_c"))
    }

    /// From how cold to how warm its maker lets it be charged. [°C]
    pub fn charge_window(&self) -> (Option<Celsius>, Option<Celsius>) {
        (self.cold_cutoff, self.aside("charge_high_c"))
    }

    /// A temperature among the figures that nothing reckons with. [°C]
    fn aside(&self, key: &str) -> Option<Celsius> {
        match self.others.get(key) {
            Some(Value::Number(value)) => Celsius::try_new(*value).ok(),
            _ => None,
        }
    }
}
