//! What an outing costs: all the money of the years looked ahead over all their outings.

use super::Account;
use crate::life::{EndedBy, Keeping, Life};
use crate::shelf::Battery;
use crate::units::{Hours, Money, WattHours};

/// What an outing costs, in the plan's currency.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cost {
    /// The money behind it.
    pub account: Account,
    /// Per outing.
    pub per_cycle: Money,
    /// Per kilowatt-hour delivered; `None` when nothing is delivered.
    pub per_kwh: Option<Money>,
    /// Per hour of the day out, motor stops included; `None` for an empty day.
    pub per_lake_hour: Option<Money>,
}

impl Cost {
    /// Cost per outing, kWh and hour: `total / outings`, over what an outing delivers and how long it is.
    ///
    /// With interest both sums are in today's worth, which is the levelised cost.
    pub fn of(account: Account, delivered: WattHours, hours: Hours) -> Self {
        let per_cycle = account.per_outing();
        let cost = Self { account, per_cycle, per_kwh: None, per_lake_hour: None };
        let (per_kwh, per_lake_hour) =
            (cost.per(delivered.value() / 1000.0), cost.per(hours.value()));
        Self { per_kwh, per_lake_hour, ..cost }
    }

    /// Per unit of what an outing comes to, kilowatt-hours, hours or miles: `per outing / amount`; `None` where it comes to none.
    pub fn per(&self, amount: f64) -> Option<Money> {
        (amount > 0.0).then(|| self.per_cycle / amount)
    }
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
    let life = crate::life::life(battery, 1.0 - floor, per_year, keeping, horizon);
    let delivered = usable * life.outings;
    (delivered > 0.0).then_some(battery.price? / delivered)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::{Figure, Origin};

    /// 700 cycles on the label: what an outing costs more or less than their price has one reason.
    #[test]
    fn the_label_and_the_life_differ_for_one_reason() {
        let typical = |value| Figure { value, origin: Origin::Typical };
        let lived = |outings, ended_by| Life {
            years: 5.0,
            outings,
            ended_by,
            cycles: typical(outings),
            calendar_years: typical(5.0),
            other_school_years: 5.0,
            left: 1.0,
        };
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
}
