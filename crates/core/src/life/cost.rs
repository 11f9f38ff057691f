//! Money: all-in, spread over the life the pack really has at this use.

use super::{EndedBy, Keeping, Life};
use crate::shelf::Battery;
use crate::units::{Hours, Money, WattHours};

/// What an outing costs, in the plan's currency.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cost {
    /// All that is bought at the start: batteries and extras.
    pub total: Money,
    /// Per outing.
    pub per_cycle: Money,
    /// Per kilowatt-hour delivered; `None` when nothing is delivered.
    pub per_kwh: Option<Money>,
    /// Per hour of the day out, motor stops included; `None` for an empty day.
    pub per_lake_hour: Option<Money>,
}

/// Cost per outing, kWh and hour.
///
/// The batteries are spread over the outings of their own life: `price / life.outings`. The extras
/// (charger, meter, cables) outlive them and are spread over the horizon: `extras / (horizon x
/// outings a year)`. Electricity is not counted. `None` when there are no outings.
pub fn cost(
    batteries: Money,
    extras: Money,
    life: &Life,
    per_year: f64,
    horizon: f64,
    delivered: WattHours,
    hours: Hours,
) -> Option<Cost> {
    if life.outings <= 0.0 || per_year <= 0.0 || horizon <= 0.0 {
        return None;
    }
    let per_cycle = batteries / life.outings + extras / (horizon * per_year);
    let per = |amount: f64| (amount > 0.0).then(|| per_cycle / amount);
    Some(Cost {
        total: batteries + extras,
        per_cycle,
        per_kwh: per(delivered.value() / 1000.0),
        per_lake_hour: per(hours.value()),
    })
}

/// Why an outing costs something else than `price / label cycles`: the label's is the figure that sells.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotTheLabels {
    /// Shallower outings than the label's give more of them.
    Shallower,
    /// Deeper outings than the label's give fewer of them.
    Deeper,
    /// It is too old before its cycles are used up.
    Age,
    /// No more outings are looked at.
    Horizon,
    /// As many as the label's, but charger, meter and cables come on top.
    Extras,
}

impl NotTheLabels {
    /// In few words.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Shallower => "your outings are less deep",
            Self::Deeper => "your outings are deeper",
            Self::Age => "age ends it first",
            Self::Horizon => "you look ahead fewer years",
            Self::Extras => "the extras come on top",
        }
    }
}

/// Why the outings of this life cost something else than the label's cycles make of the price; `None`
/// where they are the same to one part in two hundred and no extras are added.
pub fn not_the_labels(label_cycles: f64, life: &Life, extras: Money) -> Option<NotTheLabels> {
    /// A share by which two counts of outings are the same to anyone. A choice.
    const SAME: f64 = 0.005;
    let share = life.outings / label_cycles;
    Some(match life.ended_by {
        _ if share > 1.0 + SAME => NotTheLabels::Shallower,
        _ if share >= 1.0 - SAME => return (extras > Money::ZERO).then_some(NotTheLabels::Extras),
        EndedBy::Cycles => NotTheLabels::Deeper,
        EndedBy::Calendar => NotTheLabels::Age,
        EndedBy::Horizon => NotTheLabels::Horizon,
    })
}

/// Price of a usable kilowatt-hour over the life a unit has at this use, for comparing units of any
/// size, voltage and chemistry: `price / (outings of its life x usable share x label kWh)`.
///
/// Every outing is taken to use all that may be used, down to the floor. `None` without a price, a
/// capacity or outings.
pub fn per_usable_kwh(
    battery: &Battery,
    floor: f64,
    per_year: f64,
    keeping: Keeping,
    horizon: f64,
) -> Option<Money> {
    let usable = battery.energy().ok()?.value() / 1000.0 * (1.0 - floor);
    let life = super::life(battery, 1.0 - floor, per_year, keeping, horizon);
    let delivered = usable * life.outings;
    (delivered > 0.0).then_some(battery.price? / delivered)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::{Figure, Origin};

    fn lived(outings: f64, years: f64) -> Life {
        let typical = |value| Figure { value, origin: Origin::Typical };
        Life {
            years,
            outings,
            ended_by: EndedBy::Cycles,
            cycles: typical(outings),
            calendar_years: typical(years),
            other_school_years: years,
        }
    }

    /// Arithmetic: $180 over 500 cycles is 36 cents, $350 over 3,000 is 11.7; per kWh at half of
    /// 1.26 kWh 57.1 cents, at 80 % of 1.28 kWh 11.4 cents.
    #[test]
    fn the_price_is_spread_over_the_cycles_it_really_serves() {
        let lead = cost(
            Money::of(180.0),
            Money::of(0.0),
            &lived(500.0, 5.0),
            100.0,
            10.0,
            WattHours::of(0.5 * 1260.0),
            Hours::of(4.0),
        )
        .expect("used");
        assert!((lead.per_cycle.value() - 0.360).abs() < 5e-4);
        assert!((lead.per_kwh.expect("delivers").value() - 0.571).abs() < 5e-4);
        assert!((lead.per_lake_hour.expect("hours").value() - 0.09).abs() < 1e-9);
        let lfp = cost(
            Money::of(350.0),
            Money::of(0.0),
            &lived(3000.0, 10.0),
            300.0,
            10.0,
            WattHours::of(0.8 * 1280.0),
            Hours::of(4.0),
        )
        .expect("used");
        assert!((lfp.per_cycle.value() - 0.117).abs() < 5e-4);
        assert!((lfp.per_kwh.expect("delivers").value() - 0.114).abs() < 5e-4);
    }

    /// 700 cycles on the label: what an outing costs more or less than their price has one reason.
    #[test]
    fn the_label_and_the_life_differ_for_one_reason() {
        let lived = |outings, ended_by| Life { ended_by, ..lived(outings, 5.0) };
        for (outings, ended_by, extras, why) in [
            (750.0, EndedBy::Calendar, 0.0, Some(NotTheLabels::Shallower)),
            (400.0, EndedBy::Cycles, 0.0, Some(NotTheLabels::Deeper)),
            (150.0, EndedBy::Calendar, 0.0, Some(NotTheLabels::Age)),
            (300.0, EndedBy::Horizon, 90.0, Some(NotTheLabels::Horizon)),
            (701.0, EndedBy::Calendar, 90.0, Some(NotTheLabels::Extras)),
            (700.0, EndedBy::Cycles, 0.0, None),
        ] {
            assert_eq!(
                not_the_labels(700.0, &lived(outings, ended_by), Money::of(extras)),
                why,
                "{outings}"
            );
        }
    }

    #[test]
    fn a_charger_outlives_the_batteries_it_charges() {
        let (kwh, hours) = (WattHours::of(1000.0), Hours::of(5.0));
        let of = |extras, life: &Life, per_year| {
            cost(Money::of(300.0), Money::of(extras), life, per_year, 10.0, kwh, hours)
        };
        let c = of(100.0, &lived(60.0, 2.0), 30.0).expect("used");
        assert!((c.per_cycle.value() - (300.0 / 60.0 + 100.0 / 300.0)).abs() < 1e-9);
        assert_eq!(of(0.0, &lived(0.0, 2.0), 0.0), None);
    }
}
