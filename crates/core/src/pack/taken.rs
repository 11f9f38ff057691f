//! A pack's battery and the label on the shelf that it was taken from: what was changed there since, and
//! what its owner changed here.

use super::Pack;
use crate::shelf::Battery;
use crate::shelf::figures::{FIGURES, Figure, Label, Wrong};

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
    /// unless with them the label made no battery: those give way.
    pub fn with_label(mut self, now: &Battery) -> Self {
        let mine = self.label_taken().and_then(|taken| merged(taken, &self.battery, now));
        let battery = mine.unwrap_or_else(|| now.clone());
        let label = (battery != *now).then(|| Box::new(now.clone()));
        self.from = Some(Taken { name: now.name.clone(), label });
        self.battery = battery;
        self
    }
}

/// Figure by figure: what differs in `mine` from what was `taken` stays, the others are as they are `now`. Of
/// those that stay, what makes no battery together with the others gives way to the shelf's.
fn merged(taken: &Battery, mine: &Battery, now: &Battery) -> Option<Battery> {
    let [was, own] = [taken, mine].map(Label::of);
    let changed = |figure: &&Figure| {
        figure.fields.iter().any(|f| was.get(f.key) != own.get(f.key))
            || taken.origins.get(&figure.detail) != mine.origins.get(&figure.detail)
    };
    let mut stays: Vec<&Figure> = FIGURES.iter().filter(changed).collect();
    loop {
        let wrong = match with_figures(&stays, mine, now) {
            Ok(battery) => return Some(battery),
            Err(wrong) => wrong,
        };
        let before = stays.len();
        let gives_way = |f: &Figure| {
            f.fields
                .iter()
                .any(|field| wrong.iter().any(|w| w.key() == field.key || w.follows(field.key)))
        };
        stays.retain(|figure| !gives_way(figure));
        if stays.len() == before {
            return None;
        }
    }
}

/// The label of `now`, with these figures as they are in `mine`.
fn with_figures(stays: &[&Figure], mine: &Battery, now: &Battery) -> Result<Battery, Vec<Wrong>> {
    let (own, mut both) = (Label::of(mine), Label::of(now));
    let (mut origins, mut corrected) = (now.origins.clone(), now.corrected.clone());
    for figure in stays {
        let detail = figure.detail;
        for field in figure.fields {
            both.set(field, own.get(field.key).cloned());
        }
        origins.remove(&detail);
        origins.extend(mine.origins.get_key_value(&detail).map(|(d, v)| (*d, *v)));
        corrected.retain(|c| c.detail != detail);
        corrected.extend(mine.corrected.iter().filter(|c| c.detail == detail));
    }
    both.battery().map(|battery| Battery { origins, corrected, ..battery })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shelf::{Chemistry, Rating};
    use crate::units::{AmpHours, Hours, Money, Volts};

    /// A cut-off of 23 V was typed on a battery of 25.6 V, which the shelf now says is one of 12.8 V: the cut-off
    /// gives way, and the price typed beside it stays.
    #[test]
    fn only_what_makes_no_battery_gives_way() {
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(5.0) };
        let label = Battery::new("Tern", Chemistry::Lfp, Volts::of(25.6), rating);
        let mut pack = Pack::of(label.clone(), 1, 1);
        pack.from = Some(Taken::of("Tern"));
        let mut own = label.clone();
        own.low_voltage_cutoff = Some(Volts::of(23.0));
        own.price = Some(Money::of(999.0));
        let mut now = label;
        now.nominal_voltage = Volts::of(12.8);
        now.low_voltage_cutoff = Some(Volts::of(10.0));
        now.price = Some(Money::of(890.0));
        let pack = pack.with_battery(own).with_label(&now);
        assert_eq!(pack.battery.nominal_voltage, Volts::of(12.8));
        assert_eq!(pack.battery.low_voltage_cutoff, Some(Volts::of(10.0)));
        assert_eq!(pack.battery.price, Some(Money::of(999.0)));
        assert!(!pack.is_outdated(&now));
    }
}
