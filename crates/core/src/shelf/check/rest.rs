//! A candidate against its standard size and against the rest of the shelf.

use super::{Doubt, DoubtKind, Sureness, tidy};
use crate::shelf::{Battery, Size};
use crate::units::Money;
use crate::units::say::Say;
use crate::units::system::{Measure, System};

/// What is usual on the shelf, of the same family: lead or lithium.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Rest {
    /// The middle price of a watt-hour.
    pub price_per_wh: Option<Money>,
    /// The middle weight of a watt-hour. [kg/Wh]
    pub kg_per_wh: Option<f64>,
}

impl Rest {
    /// Fewest batteries that make a shelf to compare with.
    pub const ENOUGH: usize = 6;
    /// Times the middle price between which nobody wonders. A choice.
    const PRICES: (f64, f64) = (0.45, 2.5);
    /// Times the middle weight, likewise: the same energy of one family differs less in weight than in price.
    const WEIGHTS: (f64, f64) = (0.6, 1.75);

    /// Prices of a watt-hour between which there is no doubt.
    pub fn prices(&self) -> Option<(Money, Money)> {
        self.price_per_wh.map(|p| (p * Self::PRICES.0, p * Self::PRICES.1))
    }

    /// Weights of a watt-hour between which there is no doubt. [kg/Wh]
    pub fn weights(&self) -> Option<(f64, f64)> {
        self.kg_per_wh.map(|w| (w * Self::WEIGHTS.0, w * Self::WEIGHTS.1))
    }

    /// A price out of all proportion.
    ///
    /// The price of a watt-hour against the middle of the shelf's, between [`Self::prices`]: a shelf is no law of
    /// nature, so it only asks.
    pub(super) fn price(&self, b: &Battery, say: Say<'_>) -> Option<Doubt> {
        let usual = self.price_per_wh?;
        let mine = b.price_per_wh()?;
        let times = mine / usual;
        if self.prices().is_some_and(|(low, high)| (low..=high).contains(&mine)) {
            return None;
        }
        let (how, hint) = if times < 1.0 {
            (
                format!("{} % of", tidy(times * 100.0)),
                "Is the Ah figure real, or is this the price of a part?",
            )
        } else {
            (format!("{} times", tidy(times)), "What else is in the price?")
        };
        let sentence = format!(
            "{} a Wh is {how} the {} that is usual on this shelf. {hint}",
            say.money(mine),
            say.money(usual)
        );
        Some(Doubt::new(DoubtKind::PriceForShelf, Sureness::Ask, sentence))
    }

    /// A weight out of all proportion.
    ///
    /// The weight of a watt-hour likewise, between [`Self::weights`].
    pub(super) fn weight(&self, b: &Battery) -> Option<Doubt> {
        let usual = self.kg_per_wh?;
        let mine = b.mass?.value() / b.energy().ok()?.value();
        let times = mine / usual;
        if self.weights().is_some_and(|(low, high)| (low..=high).contains(&mine)) {
            return None;
        }
        let sentence = format!(
            "{} the usual weight on this shelf for this energy.",
            if times < 1.0 {
                format!("Only {} % of", tidy(times * 100.0))
            } else {
                format!("{} times", tidy(times))
            }
        );
        Some(Doubt::new(DoubtKind::WeightForShelf, Sureness::Ask, sentence))
    }
}

impl Size {
    /// Room it takes. [L] A cubic decimetre is a litre: SI Brochure, 9th ed., table 8.
    pub fn litres(&self) -> f64 {
        [self.length, self.width, self.height].map(|s| s.value() / 100.0).iter().product()
    }
}

/// Larger than its standard size allows, or far smaller.
///
/// A side more than 3.2 mm (an eighth of an inch) over the group's greatest overall size: cannot be. A side below
/// four fifths of it: ask, for the hold-downs' sake.
pub(super) fn size_class(b: &Battery, units: System) -> Option<Doubt> {
    let (class, size) = (b.size_class?, b.size?);
    let said = |mm: f64| units.say(Measure::Side, mm, usize::from(units != System::Metric));
    let most = class.size();
    let sides = [
        ("long", size.length.value(), most.length.value()),
        ("wide", size.width.value(), most.width.value()),
        ("high", size.height.value(), most.height.value()),
    ];
    // A sixteenth of an inch of rounding, and as much of a bulging side.
    if let Some((how, side, most)) = sides.iter().find(|(_, side, most)| *side > most + 3.2) {
        let sentence = format!(
            "{} {how}: group {} measures at most {}. It may not fit where that group does.",
            said(*side),
            class.name(),
            said(*most)
        );
        return Some(Doubt::new(DoubtKind::SizeForClass, Sureness::CannotBe, sentence));
    }
    let small = sides.iter().any(|(_, side, most)| *side < most * 0.8);
    small.then(|| {
        let sentence = format!(
            "It is called group {} but is far smaller than that: {} x {} x {}. Hold-downs made for the group may not grip it.",
            class.name(),
            said(size.length.value()),
            said(size.width.value()),
            said(size.height.value())
        );
        Doubt::new(DoubtKind::SizeForClass, Sureness::Ask, sentence)
    })
}
