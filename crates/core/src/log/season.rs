//! What a pack was used for and what that cost so far, beside the plan.

use super::{Log, Logged, told_capacity, years};
use crate::house::HouseRules;
use crate::life::Life;
use crate::money::{Account, Cost, Use};
use crate::pack::Pack;
use crate::plan::Plan;
use crate::refill::{CHARGER_EFFICIENCY, wall_energy};
use crate::units::{Hours, Metres, Money, WattHours};
use jiff::civil::Date;

/// What outings come to.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Season {
    /// How many.
    pub outings: u32,
    /// How long they were, stops included. [h]
    pub hours: Hours,
    /// How far they went, as far as that was told. [m]
    pub distance: Metres,
    /// Hours of those of which the distance is told. [h]
    pub hours_of_distance: Hours,
    /// What the pack gave, at its nominal volts. [Wh]
    pub energy: WattHours,
    /// What the wall gave for it. [Wh]
    pub wall: WattHours,
}

impl Season {
    /// How far one of them goes, by those of which it is told; `None` where none is. [m]
    pub fn each_goes(&self) -> Option<Metres> {
        let share = self.hours / self.hours_of_distance;
        share.is_finite().then(|| self.distance * (share / f64::from(self.outings)))
    }
}

/// What a pack cost so far.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spent {
    /// Paid for it.
    pub paid: Money,
    /// Paid for what charged it.
    pub energy: Money,
    /// What it was used for since.
    pub season: Season,
}

impl Spent {
    /// All of it.
    pub fn total(&self) -> Money {
        self.paid + self.energy
    }

    /// Per hour out; `None` before the first.
    pub fn per_hour(&self) -> Option<Money> {
        let hours = self.season.hours.value();
        (hours > 0.0).then(|| self.total() / hours)
    }

    /// Per metre: the hours of which the distance is told bear their share. `None` where none is told.
    pub fn per_metre(&self) -> Option<Money> {
        let metres = self.season.distance.value();
        let share = self.season.hours_of_distance / self.season.hours;
        (metres > 0.0 && share.is_finite()).then(|| self.total() * share / metres)
    }
}

/// So much use a year is made of a pack whose log is shorter than this. [a]
const SHORT: f64 = 0.25;

impl Log {
    /// Outings with an owned pack between two days, both of them in it.
    pub fn season(&self, pack: i64, from: Date, to: Date) -> Season {
        let mut season = Season::default();
        let of = self.outings().map(|(_, o)| o).filter(|o| o.of == Some(pack));
        for o in of.filter(|o| (from..=to).contains(&o.date)) {
            let hours = o.lasted();
            season.outings += 1;
            season.hours += hours;
            if let Some(distance) = o.distance {
                season.distance += distance;
                season.hours_of_distance += hours;
            }
            let Some(pack) = o.pack() else { continue };
            let (Ok((used, _)), Some(whole)) = (o.share_used(), told_capacity(pack)) else {
                continue;
            };
            let round_trip = pack.battery.chemistry.facts().acceptance.round_trip;
            // One that came back fuller than it left gave nothing that can be told.
            let gave = whole * pack.voltage() * used.max(0.0);
            season.energy += gave;
            season.wall += wall_energy(gave, round_trip, CHARGER_EFFICIENCY);
        }
        season
    }

    /// When an owned pack was first taken out or tested.
    fn first_used(&self, pack: i64) -> Option<Date> {
        let first = self.all.iter().find(|(_, entry)| match entry {
            Logged::Outing(o) => o.of == Some(pack),
            Logged::Test(t) => t.of == Some(pack),
            Logged::Owned(_) => false,
        });
        first.map(|(_, entry)| entry.date())
    }

    /// Outings a year with an owned pack, at the pace of the time since it was first taken out or tested.
    pub fn per_year(&self, pack: i64, today: Date) -> f64 {
        let logged = self.first_used(pack).map_or(0.0, |first| years(today) - years(first));
        let outings = self.outings().filter(|(_, o)| o.of == Some(pack)).count();
        outings as f64 / logged.max(SHORT)
    }

    /// What an owned pack cost so far; `None` where its price is not told.
    pub fn spent(&self, pack: i64, rules: &HouseRules, today: Date) -> Option<Spent> {
        let owned = self.pack(pack)?;
        let paid = owned.paid.or_else(|| owned.pack.price_total())?;
        let season = self.season(pack, owned.bought, today);
        let kwh = season.wall.value() / 1000.0;
        let energy = rules.money.energy_price.map_or(Money::ZERO, |price| price * kwh);
        Some(Spent { paid, energy, season })
    }

    /// What its outings cost over the years looked ahead, used on as it was so far: by the same account as the plan's. `life` is
    /// what it lives at that use. `None` without outings or a price.
    pub fn cost_as_used(
        &self,
        pack: i64,
        rules: &HouseRules,
        life: &Life,
        today: Date,
    ) -> Option<Cost> {
        let owned = self.pack(pack)?;
        let season = self.season(pack, owned.bought, today);
        if season.outings == 0 {
            return None;
        }
        let each = f64::from(season.outings);
        let per_year = self.per_year(pack, today);
        // What it cost when it was bought, whether it is aboard or not.
        let mut bought = Pack { aboard: false, ..owned.pack.clone() };
        if let Some(paid) = owned.paid {
            // It was paid for all of it: what was bought beside the batteries is in it.
            let beside = bought.extras.now().unwrap_or(Money::ZERO);
            let batteries = paid - beside;
            if batteries.value() > 0.0 {
                bought.battery.price = Some(batteries / f64::from(bought.units()));
            }
        }
        let used = Use {
            per_year,
            lasts: life.lasts(per_year),
            first: life.lasts(per_year),
            wall: season.wall / each,
            horizon: rules.horizon_years,
        };
        let account = Account::of(&bought, &rules.money, used)?;
        Some(Cost::of(account, season.energy / each, season.hours / each))
    }

    /// A plan whose day is as long, and comes as often, as the outings with an owned pack; `None` before the first one.
    pub fn as_used(&self, pack: i64, plan: &Plan, today: Date) -> Option<Plan> {
        let season = self.season(pack, self.pack(pack)?.bought, today);
        let times = season.hours.value() / f64::from(season.outings) / plan.day.lasts().value();
        (times.is_finite() && times > 0.0).then(|| {
            let mut plan = plan.clone();
            plan.day = plan.day.as_long(times);
            plan.day.outings_per_year = self.per_year(pack, today);
            plan
        })
    }
}
