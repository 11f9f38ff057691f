//! What a pack takes beside its batteries.

use crate::units::Money;

/// What a pack takes beside its batteries, item by item, in the plan's currency; what is not told is not counted.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Extras {
    /// Whatever has no line of its own.
    pub other: Option<Money>,
    /// A charger.
    pub charger: Option<Money>,
    /// Cables, lugs, fuse, breaker, switch.
    pub cables: Option<Money>,
    /// A converter for what hung on one 12 V battery.
    pub converter: Option<Money>,
    /// A meter of charge.
    pub meter: Option<Money>,
    /// Hold-downs, straps, box.
    pub holder: Option<Money>,
    /// Labour, each time a set is put in.
    pub labour: Option<Money>,
    /// To be rid of a worn set; negative where it brings money. Paid each time but the first.
    pub disposal: Option<Money>,
    /// Of all these what stands at usual prices that nobody told: part of them, no sum of its own.
    pub assumed: Money,
}

impl Extras {
    /// Those that outlive the batteries, with what each is.
    pub const fn lasting(&self) -> [(&'static str, Option<Money>); 6] {
        [
            ("charger", self.charger),
            ("cables and fuse", self.cables),
            ("converter", self.converter),
            ("meter", self.meter),
            ("hold-downs", self.holder),
            ("other", self.other),
        ]
    }

    /// What is paid with the first set, labour included; `None` when nothing is told.
    pub fn now(&self) -> Option<Money> {
        let told = self.lasting().into_iter().map(|(_, m)| m).chain([self.labour]);
        told.flatten().fold(None, |sum, m| Some(sum.unwrap_or(Money::ZERO) + m))
    }
}
