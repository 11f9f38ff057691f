//! House and electronics on a battery of their own: the sum in the practitioner's way, the size to buy, what of the shelf
//! would do.

use super::cranking::{Starts, cranking};
use crate::day::{Day, Duty};
use crate::drawdown;
use crate::house::{HouseRules, NextSize};
use crate::plan::Plan;
use crate::rig::Rig;
use crate::shelf::{Battery, Chemistry};
use crate::units::{AmpHours, Amps, Hours, Kilograms, Money, Volts, Watts};

/// What devices are meant for: 12 V. Some take 16 V for a cleaner picture; theirs is the same energy at fewer amps.
pub const VOLTS: [Volts; 2] = [Volts::of(12.0), Volts::of(16.0)];
/// A battery is for 16 V that is named within these of it: five LFP cells have 16.0 V, eight lead ones too.
const NEAR_16: std::ops::RangeInclusive<f64> = 0.95..=1.1;
/// Longest time between charges whose run is drawn: longer ones are told by the sum. [days]
pub const MOST_DRAWN: f64 = 7.0;
/// Most units side by side. A choice.
const MOST: u32 = 2;

/// A device of the sum.
#[derive(Debug, Clone, PartialEq)]
pub struct Item {
    /// What it is.
    pub name: String,
    /// What it draws. [W]
    pub watts: Watts,
    /// The same at the ledger's volts. [A]
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
    /// What starting an engine asks of it besides.
    pub starts: Option<Starts>,
    /// Devices and starts in a day. [Ah]
    pub a_day: AmpHours,
    /// What it is reckoned at, one of [`VOLTS`]. [V]
    pub volts: Volts,
}

/// The devices of a day that have a battery of their own: `Ah = W / V x h` of each; `None` where none has, or all of
/// them together draw nothing. What starts an engine as well gives `amps x seconds` for each start.
pub fn ledger(day: &Day, volts: Volts, starts: Option<Starts>) -> Option<Ledger> {
    let all = day.accessories.iter().filter(|a| a.on_house);
    let items: Vec<Item> = all
        .map(|a| {
            let hours = a.hours.unwrap_or(day.lasts());
            let amps = a.power / volts;
            let name = a.name.clone();
            Item { name, watts: a.power, amps, hours, amp_hours: amps * hours }
        })
        .collect();
    let devices: AmpHours = items.iter().map(|i| i.amp_hours).sum();
    let a_day = devices + starts.map_or(AmpHours::ZERO, |s| s.charge());
    (devices > AmpHours::ZERO).then_some(Ledger { items, starts, a_day, volts })
}

/// Whether a battery is sold for devices of so many volts.
pub fn is_for(battery: &Battery, volts: Volts) -> bool {
    if volts == VOLTS[0] {
        battery.system_volts() == Some(volts.value() as u32)
    } else {
        NEAR_16.contains(&(battery.nominal_voltage / volts))
    }
}

/// The plan of a house battery, which is judged as any pack: its own volts, the devices spread over the days between two
/// charges, no motor, no bays. The charger is the rig's. `None` where no device has a battery of its own, or the time is
/// longer than [`MOST_DRAWN`].
pub fn plan(of: &Plan, ledger: &Ledger, days: f64) -> Option<Plan> {
    if days > MOST_DRAWN {
        return None;
    }
    let mut plan = of.clone();
    plan.packs.clear();
    plan.rig = Rig {
        chargers: of.rig.chargers.clone(),
        ..Rig::new(&*of.rig.name, of.rig.craft.kind, ledger.volts)
    };
    // One draw for all of it: what the sum says, to the last ampere-hour.
    let lasts = Hours::of(24.0 * days);
    let amps = ledger.a_day * days / lasts;
    let mut day = Day::starting_at(of.day.start_minute).then("House", lasts, Duty::Current(amps));
    day.ready_by = of.day.ready_by;
    day.ambient = of.day.ambient;
    day.battery_start = of.day.battery_start;
    day.conditions.air = of.day.conditions.air;
    day.outings_per_year = of.day.outings_per_year / days;
    plan.day = day;
    Some(plan)
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
        if !is_for(battery, self.volts) {
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
            let starts =
                self.starts.is_none_or(|s| cranking(battery, parallel, &s).is_some_and(|c| c.does));
            if !starts {
                return None;
            }
            // From the ceiling down to the reserve, as far as the pace of all of them together reaches that: charge is a
            // share of the label's, here and in the run.
            let each = (self.together() / count).value();
            let reached = each * law.runtime(each) - law.rated() * (1.0 - rules.ceiling(chemistry));
            let lasts = AmpHours::of((law.rated() * may).min(reached)) * count / self.a_day;
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
        let sonar = ledger(&day(&[(18.0, 8.0)]), VOLTS[0], None).unwrap();
        assert!((sonar.items[0].amps.value() - 1.5).abs() < 1e-12);
        assert!((sonar.a_day.value() - 12.0).abs() < 1e-12);
        let fridge = ledger(&day(&[(96.0, 12.0)]), VOLTS[0], None).unwrap();
        assert!((fridge.items[0].amps.value() - 8.0).abs() < 1e-12);
        assert!((fridge.a_day.value() - 96.0).abs() < 1e-12);
        assert_eq!(ledger(&day(&[]), VOLTS[0], None), None);
        assert_eq!(ledger(&day(&[(18.0, 0.0)]), VOLTS[0], None), None, "nothing to last for");
        let mut traction = day(&[(18.0, 8.0)]);
        traction.accessories[0].on_house = false;
        assert_eq!(ledger(&traction, VOLTS[0], None), None);
    }

    /// Common practice, no source: 12 Ah of LFP feeding 0.8 A is one day of 10 to 12 h, at 0.5 A two days of 8 h; 18 Ah two
    /// to three. Used down to its floor, no reserve kept.
    #[test]
    fn small_batteries_last_as_long_as_owners_say() {
        let rules = HouseRules { reserve: 0.0, ..HouseRules::default() };
        let days = |ah, amps: f64, hours| {
            let sum = ledger(&day(&[(amps * 12.0, hours)]), VOLTS[0], None).unwrap();
            sum.offer(&rules, &battery(Chemistry::Lfp, 12.8, ah), 0.5).unwrap().days
        };
        assert!((0.95..1.6).contains(&days(12.0, 0.8, 11.0)), "{}", days(12.0, 0.8, 11.0));
        assert!((2.0..3.1).contains(&days(12.0, 0.5, 8.0)), "{}", days(12.0, 0.5, 8.0));
        assert!((2.0..4.6).contains(&days(18.0, 0.5, 8.0)), "{}", days(18.0, 0.5, 8.0));
    }

    #[test]
    fn what_does_not_suit_is_not_offered() {
        let rules = HouseRules::default();
        let sum = ledger(&day(&[(120.0, 5.0)]), VOLTS[0], None).unwrap();
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

    /// The house battery's own run is its sum: the same ampere-hours, at 12 V and at 16, with an engine started or not.
    #[test]
    fn what_its_run_draws_is_its_sum() {
        let starts = Starts { a_day: 10.0, amps: Amps::of(180.0), seconds: 4.0 };
        for (volts, unit, starts) in
            [(12.0, 12.8, None), (12.0, 12.0, Some(starts)), (16.0, 16.0, None)]
        {
            let chemistry = if starts.is_some() { Chemistry::Agm } else { Chemistry::Lfp };
            let devices = day(&[(18.0, 8.0), (96.0, 12.0)]);
            let sum = ledger(&devices, Volts::of(volts), starts).unwrap();
            let rig = Rig::new("r", crate::rig::CraftKind::VHull, Volts::of(36.0));
            let rules = HouseRules::default();
            let whole = Plan {
                currency: "USD".to_owned(),
                rig,
                day: devices,
                rules,
                packs: Vec::new(),
                wants: Vec::new(),
                build: Default::default(),
            };
            for days in [0.5, 1.0, 2.5, 7.0] {
                let own = plan(&whole, &sum, days).unwrap();
                let mut battery = battery(chemistry, unit, 2_000.0);
                battery.cranking = Some(Amps::of(500.0));
                let pack = crate::pack::Pack::of(battery.clone(), 1, 1);
                let drawn = own.judge().unwrap().in_full(&pack).drawn.unwrap();
                let off = drawn.summary.delivered / (sum.a_day * days) - 1.0;
                assert!(off.abs() < 1e-6, "{volts} {days} {off}");
                // What is left agrees with the days that the offer tells.
                let offer = sum.offer(&rules, &battery, days).unwrap();
                let may = rules.ceiling(chemistry) - rules.reserve_level(chemistry);
                let used = drawn.starts_at - drawn.summary.charge_left;
                assert!(
                    (offer.days / (days * may / used) - 1.0).abs() < 0.02,
                    "{} {used}",
                    offer.days
                );
            }
            assert!(plan(&whole, &sum, 7.5).is_none());
            assert_eq!(sum.offer(&rules, &battery(chemistry, 24.0, 2_000.0), 1.0), None);
        }
    }

    #[test]
    fn what_cannot_start_the_engine_is_not_offered() {
        let rules = HouseRules::default();
        let starts = |amps| Some(Starts { a_day: 2.0, amps: Amps::of(amps), seconds: 3.0 });
        let mut both = battery(Chemistry::Agm, 12.0, 200.0);
        let devices = day(&[(12.0, 10.0)]);
        let offered = |b: &Battery, amps| {
            ledger(&devices, VOLTS[0], starts(amps)).unwrap().offer(&rules, b, 1.0)
        };
        assert!(offered(&both, 150.0).is_none(), "its label is silent");
        both.cranking = Some(Amps::of(400.0));
        assert_eq!(offered(&both, 150.0).unwrap().parallel, 1);
        assert_eq!(offered(&both, 700.0).unwrap().parallel, 2);
        assert!(offered(&both, 900.0).is_none());
    }
}
