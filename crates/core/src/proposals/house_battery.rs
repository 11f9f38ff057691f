//! House and electronics on a battery of their own: the sum in the practitioner's way, the size to buy, what of the shelf
//! would do.

use crate::day::Day;
use crate::drawdown;
use crate::house::{HouseRules, NextSize};
use crate::shelf::{Battery, Chemistry};
use crate::units::{AmpHours, Amps, Hours, Kilograms, Money, Volts, Watts};

/// What devices are meant for: 12 V. Some take 16 V for a cleaner picture; theirs is the same energy at fewer amps.
pub const VOLTS: Volts = Volts::of(12.0);
/// Most units side by side. A choice.
const MOST: u32 = 2;

/// A device of the sum.
#[derive(Debug, Clone, PartialEq)]
pub struct Item {
    /// What it is.
    pub name: String,
    /// What it draws. [W]
    pub watts: Watts,
    /// The same at [`VOLTS`]. [A]
    pub amps: Amps,
    /// How long it runs in a day. [h]
    pub hours: Hours,
    /// Amps times hours. [Ah]
    pub amp_hours: AmpHours,
}

/// The sum of the devices on a house battery.
#[derive(Debug, Clone, PartialEq)]
pub struct Ledger {
    /// Device by device.
    pub items: Vec<Item>,
    /// All of them in a day. [Ah]
    pub a_day: AmpHours,
}

/// The devices of a day that have a battery of their own: `Ah = W / V x h` of each; `None` where none has, or all of
/// them together draw nothing.
pub fn ledger(day: &Day) -> Option<Ledger> {
    let all = day.accessories.iter().filter(|a| a.on_house);
    let items: Vec<Item> = all
        .map(|a| {
            let hours = a.hours.unwrap_or(day.lasts());
            let amps = a.power / VOLTS;
            let name = a.name.clone();
            Item { name, watts: a.power, amps, hours, amp_hours: amps * hours }
        })
        .collect();
    let a_day = items.iter().map(|i| i.amp_hours).sum();
    (a_day > AmpHours::ZERO).then_some(Ledger { items, a_day })
}

impl Ledger {
    /// The size on a label that so many days between charges ask for.
    pub fn size(&self, rules: &HouseRules, chemistry: Chemistry, days: f64) -> NextSize {
        rules.next_size(self.a_day * days, chemistry)
    }

    /// The amps of all of them together. [A]
    pub fn together(&self) -> Amps {
        self.items.iter().map(|i| i.amps).sum()
    }

    /// What a battery of the shelf would be as a house battery: one, or two side by side where one does not last;
    /// `None` for one of another voltage, without a capacity, that gives fewer amps, or does not last.
    pub fn offer(&self, rules: &HouseRules, battery: &Battery, days: f64) -> Option<Offer> {
        if battery.system_volts() != Some(VOLTS.value() as u32) {
            return None;
        }
        let law = drawdown::fit(battery).ok()?.law;
        let chemistry = battery.chemistry;
        let may = rules.ceiling(chemistry) - rules.reserve_level(chemistry);
        let of = |parallel: u32| {
            let count = f64::from(parallel);
            let limit = battery.max_continuous.map(|a| a * count);
            if limit.is_some_and(|limit| limit < self.together()) {
                return None;
            }
            // At the mean of all of them together: slower than any rating, so the law's own figure at that pace.
            let each = (self.together() / count).value();
            let gives = each * law.runtime(each);
            let lasts = AmpHours::of(gives * may) * count / self.a_day;
            (lasts >= days).then(|| Offer {
                parallel,
                days: lasts,
                price: battery.price.map(|p| p * count),
                mass: battery.mass.map(|m| m * count),
            })
        };
        (1..=MOST).find_map(of)
    }
}

/// A battery of the shelf as a house battery.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Offer {
    /// Units side by side.
    pub parallel: u32,
    /// Days that it lasts between charges, the reserve kept.
    pub days: f64,
    /// What it costs.
    pub price: Option<Money>,
    /// What it weighs.
    pub mass: Option<Kilograms>,
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::day::Accessory;
    use crate::shelf::Rating;

    fn day(devices: &[(f64, f64)]) -> Day {
        let mut day = Day::starting_at(0);
        day.accessories = (devices.iter())
            .map(|(watts, hours)| Accessory {
                name: "device".to_owned(),
                power: Watts::of(*watts),
                hours: Some(Hours::of(*hours)),
                on_house: true,
            })
            .collect();
        day
    }

    fn battery(chemistry: Chemistry, volts: f64, ah: f64) -> Battery {
        let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
        Battery::new("Fen", chemistry, Volts::of(volts), rating)
    }

    /// Common practice, no source: 18 W at 12 V are 1.5 A; 8 A for 12 h are 96 Ah.
    #[test]
    fn the_sum_is_done_in_the_practitioners_way() {
        let sonar = ledger(&day(&[(18.0, 8.0)])).unwrap();
        assert!((sonar.items[0].amps.value() - 1.5).abs() < 1e-12);
        assert!((sonar.a_day.value() - 12.0).abs() < 1e-12);
        let fridge = ledger(&day(&[(96.0, 12.0)])).unwrap();
        assert!((fridge.items[0].amps.value() - 8.0).abs() < 1e-12);
        assert!((fridge.a_day.value() - 96.0).abs() < 1e-12);
        assert_eq!(ledger(&day(&[])), None);
        assert_eq!(ledger(&day(&[(18.0, 0.0)])), None, "nothing to last for");
        let mut traction = day(&[(18.0, 8.0)]);
        traction.accessories[0].on_house = false;
        assert_eq!(ledger(&traction), None);
    }

    /// Common practice, no source: 12 Ah of LFP feeding 0.8 A is one day of 10 to 12 h, at 0.5 A two days of 8 h; 18 Ah two
    /// to three. Used down to its floor, no reserve kept.
    #[test]
    fn small_batteries_last_as_long_as_owners_say() {
        let rules = HouseRules { reserve: 0.0, ..HouseRules::default() };
        let days = |ah, amps: f64, hours| {
            let sum = ledger(&day(&[(amps * 12.0, hours)])).unwrap();
            sum.offer(&rules, &battery(Chemistry::Lfp, 12.8, ah), 0.5).unwrap().days
        };
        assert!((0.95..1.6).contains(&days(12.0, 0.8, 11.0)), "{}", days(12.0, 0.8, 11.0));
        assert!((2.0..3.1).contains(&days(12.0, 0.5, 8.0)), "{}", days(12.0, 0.5, 8.0));
        assert!((2.0..4.6).contains(&days(18.0, 0.5, 8.0)), "{}", days(18.0, 0.5, 8.0));
    }

    #[test]
    fn what_does_not_suit_is_not_offered() {
        let rules = HouseRules::default();
        let sum = ledger(&day(&[(120.0, 5.0)])).unwrap();
        let offer = |b: &Battery, days| sum.offer(&rules, b, days);
        assert!(offer(&battery(Chemistry::Lfp, 25.6, 200.0), 1.0).is_none(), "24 V");
        assert!(
            offer(&battery(Chemistry::Agm, 12.0, 50.0), 1.0).is_none(),
            "too small, two as well"
        );
        let two = offer(&battery(Chemistry::Agm, 12.0, 80.0), 1.0).unwrap();
        assert_eq!(two.parallel, 2);
        let mut weak = battery(Chemistry::Lfp, 12.8, 300.0);
        weak.max_continuous = Some(Amps::of(3.0));
        assert!(offer(&weak, 1.0).is_none(), "ten amps from two of three");
        // Longer between charges is never served by less, and the size to buy is what the rules ask for.
        let large = battery(Chemistry::Lfp, 12.8, 400.0);
        assert!(offer(&large, 1.0).unwrap().days >= 1.0 && offer(&large, 90.0).is_none());
        let size = sum.size(&rules, Chemistry::Agm, 1.0);
        assert!((size.wanted.value() - 50.0 / 0.4).abs() < 1e-9 && size.sold >= size.wanted);
    }
}
