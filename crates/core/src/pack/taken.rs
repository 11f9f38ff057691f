//! A pack's battery and the label on the shelf that it was taken from: what was changed there since, and
//! what its owner changed here.

use super::Pack;
use crate::shelf::Battery;
use crate::shelf::figures::{FIGURES, Label};

/// The label that a pack was built with.
#[derive(Debug, Clone, PartialEq)]
pub struct Taken {
    /// Name of the battery on the shelf.
    pub name: String,
    /// The label as it was then; `None` while the pack's own figures are still those.
    pub label: Option<Box<Battery>>,
}

impl Taken {
    /// Taken as it stands.
    pub fn of(name: impl Into<String>) -> Self {
        Self { name: name.into(), label: None }
    }
}

impl Pack {
    /// The label that it was built with, where it was taken from the shelf.
    pub fn label_taken(&self) -> Option<&Battery> {
        self.from.as_ref().map(|from| from.label.as_deref().unwrap_or(&self.battery))
    }

    /// Whether the label on the shelf is another one than it was built with.
    pub fn is_outdated(&self, now: &Battery) -> bool {
        self.label_taken().is_some_and(|taken| taken != now)
    }

    /// The same pack with other figures of its owner's; which label it was built with stays known.
    pub fn with_battery(mut self, battery: Battery) -> Self {
        if let Some(from) = &mut self.from {
            let taken = from.label.take().map_or_else(|| self.battery.clone(), |label| *label);
            from.label = (taken != battery).then(|| Box::new(taken));
        }
        self.battery = battery;
        self
    }

    /// The same pack with the label that stands on the shelf now. Figures that its owner changed here stay,
    /// unless with them the label made no battery: then all are the shelf's.
    pub fn with_label(mut self, now: &Battery) -> Self {
        let mine = self.label_taken().and_then(|taken| merged(taken, &self.battery, now));
        let battery = mine.unwrap_or_else(|| now.clone());
        let label = (battery != *now).then(|| Box::new(now.clone()));
        self.from = Some(Taken { name: now.name.clone(), label });
        self.battery = battery;
        self
    }
}

/// Figure by figure: what differs in `mine` from what was `taken` stays, the others are as they are `now`.
fn merged(taken: &Battery, mine: &Battery, now: &Battery) -> Option<Battery> {
    let [was, own, new] = [taken, mine, now].map(Label::of);
    let mut both = new.clone();
    let (mut origins, mut corrected) = (now.origins.clone(), now.corrected.clone());
    for figure in FIGURES {
        let detail = figure.detail;
        let changed = figure.fields.iter().any(|f| was.get(f.key) != own.get(f.key))
            || taken.origins.get(&detail) != mine.origins.get(&detail);
        if !changed {
            continue;
        }
        for field in figure.fields {
            both.set(field, own.get(field.key).cloned());
        }
        origins.remove(&detail);
        origins.extend(mine.origins.get_key_value(&detail).map(|(d, v)| (*d, *v)));
        corrected.retain(|c| c.detail != detail);
        corrected.extend(mine.corrected.iter().filter(|c| c.detail == detail));
    }
    let battery = both.battery().ok()?;
    Some(Battery { origins, corrected, ..battery })
}
