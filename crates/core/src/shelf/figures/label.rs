//! What stands on a label, field by field, before it makes a battery.

use super::{Field, Holds, Kept, Value, field, fields};
use crate::shelf::{Battery, Chemistry, CyclePoint, Peak, Rating, Size, rating};
use crate::units::{AmpHours, Amps, Hours, Millimetres, Volts};

/// What stands in each field. Every value is one its field allows; that together they make a battery is
/// seen in [`Label::battery`].
#[derive(Debug, Clone, Default)]
pub struct Label {
    values: Vec<(&'static Field, Value)>,
}

impl PartialEq for Label {
    fn eq(&self, other: &Self) -> bool {
        let same = |(field, value): &(&Field, Value)| other.get(field.key) == Some(value);
        self.values.len() == other.values.len() && self.values.iter().all(same)
    }
}

/// Why fields that are good by themselves make no battery.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum Wrong {
    /// It cannot be left out.
    #[error("Give the {1}.")]
    Missing(&'static str, &'static str),
    /// No capacity, and no cranking amps that would tell a starting battery.
    #[error("Give the Ah or the reserve minutes.")]
    NoCapacity,
    /// Protection that opens at or above the nominal voltage.
    #[error("Must be below the battery's {} V.", .nominal.value())]
    CutoffTooHigh {
        /// Nominal voltage. [V]
        nominal: Volts,
    },
    /// One or two sides of three.
    #[error("Give all three sides, or none.")]
    SideMissing(&'static str),
    /// A value that says nothing without that of another field.
    #[error("Give the {} that this belongs to, or leave it empty.", words(.1))]
    Alone(&'static str, &'static str),
    /// A range that ends before it begins.
    #[error("Must be above the one it begins at.")]
    Crossed(&'static str),
}

impl Wrong {
    /// The field beside which it is said.
    pub const fn key(&self) -> &'static str {
        match self {
            Self::Missing(key, _)
            | Self::SideMissing(key)
            | Self::Alone(key, _)
            | Self::Crossed(key) => key,
            Self::NoCapacity => "capacity_ah",
            Self::CutoffTooHigh { .. } => "low_voltage_cutoff_v",
        }
    }

    /// Whether it may follow from this field's being wrong.
    pub fn follows(&self, key: &str) -> bool {
        match self {
            Self::NoCapacity => {
                ["capacity_ah", "reserve_minutes_25a", "ratings", "cranking_a"].contains(&key)
            }
            Self::Alone(_, with) => *with == key,
            _ => self.key() == key,
        }
    }
}

/// What a field is called in a sentence.
fn words(key: &str) -> String {
    field(key).map_or(key.to_owned(), |field| field.label.to_lowercase())
}

/// The three fields of the size, which stand together or not at all.
const SIDES: [&str; 3] = ["length_mm", "width_mm", "height_mm"];

impl Label {
    /// What stands in a field.
    pub fn get(&self, key: &str) -> Option<&Value> {
        self.values.iter().find(|(field, _)| field.key == key).map(|(_, value)| value)
    }

    /// The number in a field.
    pub fn number(&self, key: &str) -> Option<f64> {
        match self.get(key) {
            Some(Value::Number(value)) => Some(*value),
            _ => None,
        }
    }

    /// The words in a field, or the key of what is chosen.
    pub fn text(&self, key: &str) -> Option<&str> {
        match self.get(key) {
            Some(Value::Text(text)) => Some(text),
            _ => None,
        }
    }

    /// Every field that something stands in.
    pub fn iter(&self) -> impl Iterator<Item = (&'static Field, &Value)> {
        self.values.iter().map(|(field, value)| (*field, value))
    }

    /// Writes into a field, or empties it.
    pub fn set(&mut self, field: &'static Field, value: Option<Value>) {
        let at = self.values.iter().position(|(other, _)| std::ptr::eq(*other, field));
        match (at, value) {
            (Some(at), Some(value)) => self.values[at].1 = value,
            (Some(at), None) => drop(self.values.remove(at)),
            (None, Some(value)) => self.values.push((field, value)),
            (None, None) => {}
        }
    }

    /// Writes into the field of this key; nothing happens where there is none.
    pub fn put(&mut self, key: &str, value: impl Into<Value>) {
        debug_assert!(field(key).is_some(), "{key} is no figure");
        if let Some(field) = field(key) {
            self.set(field, Some(value.into()));
        }
    }

    /// Adds a further rating.
    pub fn add_rating(&mut self, rating: Rating) {
        let mut all = match self.get("ratings") {
            Some(Value::Ratings(all)) => all.clone(),
            _ => Vec::new(),
        };
        all.push(rating);
        self.put("ratings", Value::Ratings(all));
    }

    /// Adds to the cycles promised.
    pub fn add_cycles(&mut self, point: CyclePoint) {
        let mut all = match self.get("cycles") {
            Some(Value::Cycles(all)) => all.clone(),
            _ => Vec::new(),
        };
        all.push(point);
        self.put("cycles", Value::Cycles(all));
    }

    /// What a battery says of itself.
    pub fn of(b: &Battery) -> Self {
        let stated = rating::Stated::of(&b.ratings);
        let joined = |key: &str| match key {
            "capacity_ah" => stated.capacity.map(|(ah, _)| ah.value()),
            "capacity_hours" if b.hours_assumed => None,
            "capacity_hours" => stated.capacity.map(|(_, over)| over.value()),
            "reserve_minutes_25a" => stated.reserve,
            "peak_current_a" => b.peak.map(|p| p.current.value()),
            "peak_seconds" => b.peak.map(|p| p.seconds),
            "length_mm" => b.size.map(|s| s.length.value()),
            "width_mm" => b.size.map(|s| s.width.value()),
            "height_mm" => b.size.map(|s| s.height.value()),
            _ => None,
        };
        let values = fields().filter_map(|(_, field)| {
            let aside = || b.others.get(field.key).cloned();
            let value = match &field.holds {
                Holds::Number(n) => match &n.kept {
                    Kept::In((get, _)) => get(b).map(Value::Number),
                    Kept::Aside => aside(),
                    Kept::Joined => joined(field.key).map(Value::Number),
                },
                Holds::Text(Kept::In((get, _))) | Holds::Long(Kept::In((get, _))) => {
                    get(b).map(Value::Text)
                }
                Holds::Flag(Kept::In((get, _))) => get(b).map(Value::Flag),
                Holds::Text(_) | Holds::Long(_) | Holds::Flag(_) => aside(),
                Holds::Choice(choice) => (choice.get)(b).map(|key| Value::Text(key.to_owned())),
                Holds::Ratings => {
                    (!stated.further.is_empty()).then(|| Value::Ratings(stated.further.to_vec()))
                }
                Holds::Cycles => (!b.cycles.is_empty()).then(|| Value::Cycles(b.cycles.clone())),
            };
            value.map(|value| (field, value))
        });
        Self { values: values.collect() }
    }

    /// The battery it makes, without word on who vouches for it.
    ///
    /// # Errors
    /// Each [`Wrong`] that is found.
    pub fn battery(&self) -> Result<Battery, Vec<Wrong>> {
        let mut wrong = self.missing();
        let chemistry = self.text("chemistry").and_then(Chemistry::from_key);
        let (Some(chemistry), Some(volts)) = (chemistry, self.number("nominal_voltage_v")) else {
            return Err(wrong);
        };
        let nominal = Volts::of(volts);
        let name = match self.text("name") {
            Some(name) => name.to_owned(),
            None => format!("{} {volts} V", chemistry.name()),
        };
        let mut b = Battery::new(name, chemistry, nominal, Rating::reserve(1.0));
        b.ratings = self.ratings(chemistry);
        b.hours_assumed =
            self.number("capacity_ah").is_some() && self.number("capacity_hours").is_none();
        for (field, value) in &self.values {
            put(&mut b, field, value);
        }
        b.peak = self.number("peak_current_a").map(|current| Peak {
            current: Amps::of(current),
            seconds: self.number("peak_seconds").unwrap_or(Peak::USUAL_SECONDS),
        });
        if let [Some(length), Some(width), Some(height)] =
            SIDES.map(|key| self.number(key).map(Millimetres::of))
        {
            b.size = Some(Size { length, width, height });
        }
        if b.ratings.is_empty() && b.cranking.is_none() {
            wrong.push(Wrong::NoCapacity);
        }
        if b.low_voltage_cutoff.is_some_and(|cutoff| cutoff >= nominal) {
            wrong.push(Wrong::CutoffTooHigh { nominal });
        }
        if wrong.is_empty() { Ok(b) } else { Err(wrong) }
    }

    /// What is missing, or says nothing alone.
    fn missing(&self) -> Vec<Wrong> {
        let has = |key: &str| self.get(key).is_some();
        let mut wrong = Vec::new();
        for (key, words) in [("chemistry", "chemistry"), ("nominal_voltage_v", "volts")] {
            if !has(key) {
                wrong.push(Wrong::Missing(key, words));
            }
        }
        let given = SIDES.iter().filter(|key| has(key)).count();
        if (1..SIDES.len()).contains(&given) {
            wrong.extend(SIDES.iter().filter(|key| !has(key)).map(|key| Wrong::SideMissing(key)));
        }
        for (key, with) in [("capacity_hours", "capacity_ah"), ("peak_seconds", "peak_current_a")] {
            if has(key) && !has(with) {
                wrong.push(Wrong::Alone(key, with));
            }
        }
        for (low, high) in
            [("discharge_low_c", "discharge_high_c"), ("cold_cutoff_c", "charge_high_c")]
        {
            if let (Some(low), Some(above)) = (self.number(low), self.number(high))
                && above <= low
            {
                wrong.push(Wrong::Crossed(high));
            }
        }
        wrong
    }

    /// Every statement of capacity.
    fn ratings(&self, chemistry: Chemistry) -> Vec<Rating> {
        let over = self.number("capacity_hours").unwrap_or(chemistry.usual_rating_hours());
        let capacity = self.number("capacity_ah").map(|ah| (AmpHours::of(ah), Hours::of(over)));
        let further = match self.get("ratings") {
            Some(Value::Ratings(all)) => all.as_slice(),
            _ => &[],
        };
        rating::Stated { capacity, reserve: self.number("reserve_minutes_25a"), further }.ratings()
    }
}

/// Puts a value that stands for itself into a battery.
fn put(b: &mut Battery, field: &'static Field, value: &Value) {
    match (&field.holds, value) {
        (Holds::Number(n), Value::Number(value)) => match &n.kept {
            Kept::In((_, set)) => set(b, Some(*value)),
            Kept::Aside => drop(b.others.insert(field.key, Value::Number(*value))),
            Kept::Joined => {}
        },
        (Holds::Text(Kept::In((_, set))) | Holds::Long(Kept::In((_, set))), Value::Text(text)) => {
            set(b, Some(text.clone()));
        }
        (Holds::Flag(Kept::In((_, set))), Value::Flag(yes)) => set(b, Some(*yes)),
        (Holds::Choice(choice), Value::Text(key)) => {
            // A value is one its field allows.
            let known = (choice.set)(b, Some(key));
            debug_assert!(known, "{key} is no choice of {}", field.key);
        }
        (Holds::Cycles, Value::Cycles(all)) => b.cycles.clone_from(all),
        (Holds::Text(_) | Holds::Long(_) | Holds::Flag(_), value) => {
            b.others.insert(field.key, value.clone());
        }
        _ => {}
    }
}

impl From<f64> for Value {
    fn from(value: f64) -> Self {
        Self::Number(value)
    }
}

impl From<bool> for Value {
    fn from(value: bool) -> Self {
        Self::Flag(value)
    }
}

impl From<&str> for Value {
    fn from(value: &str) -> Self {
        Self::Text(value.to_owned())
    }
}

impl From<String> for Value {
    fn from(value: String) -> Self {
        Self::Text(value)
    }
}
