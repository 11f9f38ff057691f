//! What if: a plan with one thing changed, as owners ask it.

use super::Plan;
use crate::day::{Day, Duty};
use crate::life;
use crate::pack::Health;
use crate::rig::{PERSON, Rig};
use crate::units::{Hours, MetresPerSecond};

/// One thing to change.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum WhatIf {
    /// So much more wind, all day. [m/s]
    MoreWind(MetresPerSecond),
    /// So many more people aboard.
    MorePeople(u32),
    /// One setting slower, or a fifth slower, on the last stretch that is driven.
    SlowerHome,
    /// No setting above this one, 0 to 10: as far as before, and so much longer.
    NoFaster(f64),
    /// Every pack so many years older, at this use.
    Older(f64),
    /// That wind, at its least; hours that were windier or calmer stay so by as much. [m/s]
    Wind(MetresPerSecond),
    /// So much shorter on a stretch, by its place in the day; half a minute of it is left. [h]
    Fewer(usize, Hours),
    /// The last stretch that is driven at such a share of its speed.
    HomeAt(f64),
    /// The last stretch that is driven begins so long after launch: what would come between is left out. [h]
    TurnAt(Hours),
}

/// Speed kept of what it was when one goes slower.
const SLOWER: f64 = 0.8;

impl WhatIf {
    /// Makes the change.
    pub fn apply(self, plan: &mut Plan) {
        self.change(plan);
        // What is so far away is farther in the wind, and at another speed.
        plan.measured_out();
    }

    fn change(self, plan: &mut Plan) {
        match self {
            Self::MoreWind(more) => Self::Wind(plan.day.conditions.wind + more).change(plan),
            Self::MorePeople(more) => {
                plan.rig.craft.people += more;
                if let Some(mass) = &mut plan.rig.craft.loaded_mass {
                    *mass += PERSON * f64::from(more);
                }
            }
            Self::SlowerHome => slower_home(plan),
            Self::NoFaster(setting) => {
                for at in 0..plan.day.stretches.len() {
                    at_setting(plan, at, setting, true);
                }
            }
            Self::Older(years) => older(plan, years),
            Self::Wind(wind) => {
                let more = wind - plan.day.conditions.wind;
                plan.day.conditions.wind = wind;
                for hour in &mut plan.day.hourly {
                    // It cannot blow less than not at all.
                    hour.wind = hour.wind.map(|w| (w + more).max(MetresPerSecond::ZERO));
                }
            }
            Self::Fewer(at, less) => {
                if let Some(stretch) = plan.day.stretches.get_mut(at) {
                    let lasts = (stretch.lasts - less).max(SHORTEST);
                    stretch.far = stretch.far.map(|far| far * (lasts / stretch.lasts));
                    stretch.lasts = lasts;
                }
            }
            Self::HomeAt(share) => home_at(plan, share),
            Self::TurnAt(at) => turn_at(plan, at),
        }
    }
}

/// Each pack worn by some years of this day: by its cycles or its calendar, whichever is nearer, down to what a form may
/// say of a worn pack at the least.
fn older(plan: &mut Plan, years: f64) {
    let Ok(judge) = plan.judge() else { return };
    let per_year = plan.day.outings_per_year;
    for pack in &mut plan.packs {
        let Ok(model) = judge.model(&pack.battery) else { continue };
        let Some(life) = judge.life_at(pack, &model) else { continue };
        let left = life::ageing::capacity_after(&life, per_year, years);
        let share = pack.health.capacity_share * left;
        pack.health = Health::at(share.max(crate::allowed::WEAK_SHARE.low));
    }
}

/// The last stretch that is driven: the way home.
pub fn way_home(day: &Day) -> Option<usize> {
    day.stretches.iter().rposition(|s| s.duty != Duty::Off)
}

/// The stretches that lead back, by their places: a boat's way home; on wheels the last round, which is all since the last
/// pause, or the last stretch of a day without one.
pub fn leads_back(rig: &Rig, day: &Day) -> Option<std::ops::Range<usize>> {
    let last = way_home(day)?;
    let pause = day.stretches[..last].iter().rposition(|s| s.duty == Duty::Off);
    let from = match pause {
        Some(pause) if !rig.craft.kind.is_boat() => pause + 1,
        _ => last,
    };
    Some(from..last + 1)
}

/// As far as before at four fifths of the speed; at a setting, one less.
fn slower_home(plan: &mut Plan) {
    let home = way_home(&plan.day).map(|at| plan.day.stretches[at].duty);
    match home {
        Some(Duty::Setting(s)) => {
            let at = way_home(&plan.day).unwrap_or(0);
            at_setting(plan, at, (s - 1.0).max(0.5), false);
        }
        _ => home_at(plan, SLOWER),
    }
}

/// As far as before at a share of the speed, and so much longer: power goes with the cube of the speed.
fn home_at(plan: &mut Plan, share: f64) {
    let Some(at) = way_home(&plan.day) else { return };
    let home = &mut plan.day.stretches[at];
    let power = share * share * share;
    match &mut home.duty {
        // To a tenth of a setting.
        Duty::Setting(s) => {
            let slower = (*s * share * 10.0).round() / 10.0;
            return at_setting(plan, at, slower.max(0.5), false);
        }
        Duty::Speed(v) => *v = *v * share,
        Duty::Distance(_) => {}
        Duty::Current(a) => *a = *a * power,
        Duty::Power(w) => *w = *w * power,
        // Held places take as long as they take.
        Duty::Off | Duty::HoldPlace => return,
    }
    home.lasts = home.lasts / share;
}

/// A stretch at another setting, or at no higher one, as far as before: the speed goes with the cube root of the draw, where that
/// is known.
fn at_setting(plan: &mut Plan, at: usize, setting: f64, only_down: bool) {
    let motor = &plan.rig.motor;
    let home = &mut plan.day.stretches[at];
    let Duty::Setting(before) = home.duty else { return };
    if only_down && before <= setting {
        return;
    }
    if let (Some(was), Some(is)) = (motor.current_at(before), motor.current_at(setting))
        && is.value() > 0.0
    {
        home.lasts = home.lasts * (was / is).cbrt();
    }
    home.duty = Duty::Setting(setting);
}

/// The shortest that a stretch may be: what is left out keeps its place, so that every stretch is the same one as before.
const SHORTEST: Hours = Hours::from_minutes(crate::allowed::MINUTES.low);

/// What lies between a time and the way home is left out.
fn turn_at(plan: &mut Plan, at: Hours) {
    let Some(home) = way_home(&plan.day) else { return };
    let mut clock = Hours::ZERO;
    for stretch in &mut plan.day.stretches[..home] {
        let left = at - clock;
        clock += stretch.lasts;
        if clock <= at {
            continue;
        }
        if left > SHORTEST {
            // As fast as before, so less far.
            if let Duty::Distance(far) = &mut stretch.duty {
                *far = *far * (left / stretch.lasts);
            }
            stretch.far = stretch.far.map(|far| far * (left / stretch.lasts));
            stretch.lasts = left;
        } else {
            (stretch.lasts, stretch.duty, stretch.far) = (SHORTEST, Duty::Off, None);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::house::HouseRules;
    use crate::rig::{CraftKind, Rig};
    use crate::units::{Amps, Metres, Volts, Watts};

    /// A last run home of one hour, and a drift behind it.
    fn plan(home: Duty) -> Plan {
        Plan {
            currency: "USD".to_owned(),
            rig: Rig::new("skiff", CraftKind::VHull, Volts::of(24.0)),
            day: Day::starting_at(420)
                .then("Out", Hours::of(2.0), Duty::Current(Amps::of(10.0)))
                .then("Home", Hours::of(1.0), home)
                .then("Drift", Hours::of(0.5), Duty::Off),
            rules: HouseRules::default(),
            packs: Vec::new(),
            wants: Vec::new(),
            build: Default::default(),
        }
    }

    /// Four fifths of the speed take five fourths of the time, and by the cube law 0.512 of the power: 0.64 of
    /// the energy.
    #[test]
    fn slower_home_goes_as_far_for_less() {
        for (home, slower, hours) in [
            (Duty::Current(Amps::of(20.0)), Duty::Current(Amps::of(10.24)), 1.25),
            (Duty::Power(Watts::of(500.0)), Duty::Power(Watts::of(256.0)), 1.25),
            (Duty::Speed(MetresPerSecond::of(2.0)), Duty::Speed(MetresPerSecond::of(1.6)), 1.25),
            (Duty::Distance(Metres::of(5000.0)), Duty::Distance(Metres::of(5000.0)), 1.25),
            (Duty::Setting(5.0), Duty::Setting(4.0), 1.0),
            (Duty::Setting(1.0), Duty::Setting(0.5), 1.0),
            (Duty::HoldPlace, Duty::HoldPlace, 1.0),
        ] {
            let mut changed = plan(home);
            WhatIf::SlowerHome.apply(&mut changed);
            let [out, last, drift] = changed.day.stretches.as_slice() else { panic!("three") };
            let plain = |duty: &Duty| format!("{duty:.9?}");
            assert_eq!(plain(&last.duty), plain(&slower));
            assert!((last.lasts.value() - hours).abs() < 1e-12, "{home:?}");
            assert_eq!((out, drift), (&plan(home).day.stretches[0], &plan(home).day.stretches[2]));
        }
        let mut parked = plan(Duty::Off);
        parked.day.stretches.remove(0);
        let before = parked.clone();
        WhatIf::SlowerHome.apply(&mut parked);
        assert_eq!(parked, before, "nothing is driven");
    }

    /// A calendar of six years loses 20 % in them: 10 % in three, whatever the few cycles say.
    #[test]
    fn years_wear_a_pack() {
        use crate::pack::Pack;
        use crate::shelf::{Battery, Chemistry, Rating};
        use crate::units::AmpHours;
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        let battery = Battery::new("b", Chemistry::Agm, Volts::of(12.0), rating);
        let mut plan = plan(Duty::Current(Amps::of(10.0)));
        plan.packs = vec![Pack::of(battery, 2, 1)];
        let left = |plan: &Plan| plan.evaluate().expect("draws")[0].drawn.clone().expect("fits");
        let before = left(&plan).summary.charge_left;
        WhatIf::Older(3.0).apply(&mut plan);
        let health = plan.packs[0].health;
        assert!((health.capacity_share - 0.9).abs() < 1e-9, "{health:?}");
        assert!((health.resistance_factor - 1.25).abs() < 1e-9);
        let after = left(&plan).summary.charge_left;
        assert!((1.0 - after - (1.0 - before) / 0.9).abs() < 1e-6, "{before} {after}");
    }

    /// What a charger gives back on the way does not undo the wear: the years are those that the Board tells.
    #[test]
    fn a_pack_charged_on_the_way_wears_by_the_depth_it_went_to() {
        use crate::day::Charging;
        use crate::life::ageing::capacity_after;
        use crate::pack::Pack;
        use crate::shelf::{Battery, Chemistry, Rating};
        use crate::units::AmpHours;
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
        let battery = Battery::new("b", Chemistry::Agm, Volts::of(12.0), rating);
        let mut plan = plan(Duty::Current(Amps::of(30.0)));
        plan.day.outings_per_year = 300.0;
        plan.day.stretches[2].lasts = Hours::of(4.0);
        let (from_minute, lasts, current) = (600, Hours::of(4.0), Amps::of(10.0));
        plan.day.charging = vec![Charging { from_minute, lasts, current }];
        plan.packs = vec![Pack::of(battery, 2, 1)];
        let told = plan.evaluate().expect("draws")[0].drawn.clone().expect("fits");
        assert!(
            told.between.0 + 0.2 < told.summary.charge_left,
            "charged back: {:?}",
            told.between
        );
        WhatIf::Older(1.0).apply(&mut plan);
        let worn = plan.packs[0].health.capacity_share;
        assert!((worn - capacity_after(&told.life, 300.0, 1.0)).abs() < 1e-12, "{worn}");
    }

    #[test]
    fn more_wind_and_people_add_to_what_is_there() {
        let mut changed = plan(Duty::Off);
        let people = changed.rig.craft.people;
        WhatIf::MoreWind(MetresPerSecond::of(2.0)).apply(&mut changed);
        WhatIf::MorePeople(2).apply(&mut changed);
        assert!((changed.day.conditions.wind.value() - 2.0).abs() < 1e-12);
        assert_eq!(changed.rig.craft.people, people + 2);
    }
}
