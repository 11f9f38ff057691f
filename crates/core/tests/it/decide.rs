//! The decision: wants, what nothing beats, tipping points, what gets a pack home, how sure, a day from its moments.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::decide::get_home::{self, Change, get_home, gets_home, margin};
use lake_hour_core::decide::moments::{moments, speeds, times};
use lake_hour_core::decide::sure::{chances, chances_over, to_measure};
use lake_hour_core::decide::tipping::{self, Driver, tipping};
use lake_hour_core::decide::{Contest, Decided, Standing};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::{Plan, WhatIf};
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Rating};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, MetresPerSecond, Money, Volts, Watts,
};
use lake_hour_core::verdict::{Outcome, Unknown};
use lake_hour_core::wants::{Kind, Level, Preset, Want};
use proptest::prelude::*;

fn battery(name: &str, chemistry: Chemistry, volts: f64, ah: f64, kg: f64, price: f64) -> Battery {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    let mut battery = Battery::new(name, chemistry, Volts::of(volts), rating);
    battery.mass = Some(Kilograms::of(kg));
    battery.price = Some(Money::of(price));
    if !chemistry.is_lead() {
        battery.max_continuous = Some(Amps::of(ah));
        battery.monitor = Some(true);
        battery.warranty_total = Some(5.0);
    }
    battery
}

/// A skiff on a day in the wind, and five packs, all figures our own: a long dear LFP, a light short one, a cheap AGM pair, a
/// flooded foursome that limps on, and two LFP side by side.
fn plan() -> Plan {
    let mut rig = Rig::new("skiff", CraftKind::VHull, Volts::of(24.0));
    rig.motor.max_current = Some(Amps::of(50.0));
    let speed = |v: f64| Duty::Speed(MetresPerSecond::of(v));
    let mut day = Day::starting_at(7 * 60)
        .then("Out", Hours::of(0.75), speed(1.5))
        .then("Hold", Hours::of(2.0), Duty::HoldPlace)
        .then("Lunch", Hours::of(0.5), Duty::Off)
        .then("Drift back", Hours::of(1.0), Duty::Power(Watts::of(120.0)))
        .then("Home", Hours::of(0.75), speed(1.5));
    day.conditions.wind = MetresPerSecond::of(3.0);
    day.outings_per_year = 30.0;
    use Chemistry::{Agm, Flooded, Lfp};
    let packs = vec![
        Pack {
            name: "Long".into(),
            ..Pack::of(battery("Tern", Lfp, 25.6, 120.0, 24.5, 1000.0), 1, 1)
        },
        Pack {
            name: "Light".into(),
            ..Pack::of(battery("Heron", Lfp, 25.6, 60.0, 13.0, 620.0), 1, 1)
        },
        Pack {
            name: "AGM pair".into(),
            ..Pack::of(battery("Quarry", Agm, 12.0, 110.0, 32.0, 190.0), 2, 1)
        },
        Pack {
            name: "Four flooded".into(),
            ..Pack::of(battery("Fennel", Flooded, 12.0, 85.0, 23.6, 110.0), 2, 2)
        },
        Pack {
            name: "Twins".into(),
            ..Pack::of(battery("Grebe", Lfp, 25.6, 50.0, 11.0, 560.0), 1, 2)
        },
    ];
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs,
        wants: Vec::new(),
        // What is asked here is asked of the batteries alone.
        build: lake_hour_core::kept::Build { counted: false, ..Default::default() },
    }
}

fn wanting(wants: Vec<Want>) -> Plan {
    Plan { wants, ..plan() }
}

fn standings(plan: &Plan) -> Vec<Standing> {
    Contest::of(plan).expect("draws").standings()
}

fn first(plan: &Plan) -> &str {
    let best = Contest::of(plan).expect("draws").best().expect("one gets home");
    &plan.packs[best].name
}

/// Three users of one rig, each with wants of their own, get three answers that each can be told the reason of.
#[test]
fn the_best_of_five_packs_differs_by_what_is_wanted() {
    use Kind::*;
    use Level::{Must, Nice};
    let carries_it_home = wanting(vec![
        Want::of(HomeWith, Must).at(0.1),
        Want::of(Light, Nice).at(20.0),
        Want::of(CheapNow, Nice).at(700.0),
    ]);
    let never_stranded = wanting(vec![
        Want::of(HomeWith, Must).at(0.2),
        Want::of(MovesOn, Must),
        Want::of(NoLead, Nice),
    ]);
    let pays_little_now =
        wanting(vec![Want::of(CheapNow, Must).at(400.0), Want::of(Warranty, Nice)]);
    assert_eq!(first(&carries_it_home), "Light");
    assert_eq!(first(&never_stranded), "Twins");
    assert_eq!(first(&pays_little_now), "AGM pair");
    // Why the others are not: each must that fails says so.
    let told = standings(&never_stranded);
    let fails = |n: usize| told[n].fails.clone();
    assert_eq!((fails(0), fails(4)), (vec![1], vec![]));
    assert!(!told[1].is_in_the_running() && told[3].is_in_the_running());
    let (order, by) = told[4].compare(&told[3]);
    assert_eq!((order, by), (std::cmp::Ordering::Less, Decided::Nices));
}

/// What no label tells is not met, and what nobody can meet leaves nobody.
#[test]
fn a_must_that_is_not_told_sets_aside() {
    let asked = wanting(vec![Want::of(Kind::Monitor, Level::Must)]);
    let told = standings(&asked);
    assert_eq!(told[2].answers[0].met, None);
    assert_eq!(told[2].fails, [0]);
    assert_eq!(
        first(&asked),
        first(&Plan { packs: [0, 1, 4].map(|n| plan().packs[n].clone()).into(), ..plan() })
    );
    let nobody = wanting(vec![Want::of(Kind::CheapNow, Level::Must).at(1.0)]);
    assert_eq!(Contest::of(&nobody).unwrap().best(), None);
    assert!(Contest::order(&standings(&nobody)).is_empty());
    // Without any want the way home comes first, then money.
    let plain = plan();
    let told = standings(&plain);
    let order = Contest::order(&told);
    for pair in order.windows(2) {
        assert!(told[pair[0]].compare(&told[pair[1]]).0.is_le());
    }
    assert_eq!(order.len(), 5);
    for preset in Preset::ALL {
        let kinds: Vec<Kind> = preset.wants().iter().map(|w| w.kind).collect();
        assert!(kinds.iter().enumerate().all(|(n, k)| !kinds[..n].contains(k)), "{preset:?}");
    }
}

/// Figures of the contest are the verdict's own.
#[test]
fn standings_tell_what_the_verdict_tells() {
    let mut plan = plan();
    plan.wants = Kind::ALL.map(|kind| Want::of(kind, Level::Nice)).into();
    let told = standings(&plan);
    for (evaluation, standing) in std::iter::zip(plan.evaluate().unwrap(), &told) {
        let (drawn, survey) = (evaluation.drawn.unwrap(), standing.survey.as_ref().unwrap());
        assert_eq!(evaluation.outcome, survey.outcome);
        assert_eq!(drawn.cost.unwrap(), survey.cost.unwrap());
        let value = |kind: Kind| standing.answers[kind as usize].value;
        assert_eq!(value(Kind::HomeWith), Some(drawn.summary.charge_left - drawn.floor));
        assert_eq!(value(Kind::Light), evaluation.mass.map(Kilograms::value));
        assert_eq!(value(Kind::CheapNow), evaluation.price_total.map(Money::value));
        assert_eq!(value(Kind::Long), drawn.hours_to_spare.map(Hours::value));
        assert_eq!(value(Kind::FullBy), None, "no charger is aboard");
    }
}

/// Worth of a pack in one want, more being better, worked out apart from the program: what is not told is worst.
fn worth(kind: Kind, answer: Option<f64>) -> f64 {
    use Kind::*;
    let less = [Light, Liftable, CheapNow, CheapOverYears, FullBy, Few];
    match answer {
        None => f64::NEG_INFINITY,
        Some(v) if less.contains(&kind) => -v,
        Some(v) => v,
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Against going through all pairs: marked as beaten are those and only those that another one beats.
    #[test]
    fn what_nothing_beats_is_as_brute_force_finds_it(
        levels in prop::collection::vec(0..3_usize, Kind::ALL.len()),
        sizes in prop::collection::vec((20.0..150.0_f64, 5.0..60.0_f64, 50.0..900.0_f64), 2..7),
        weights in any::<bool>(),
    ) {
        let mut plan = plan();
        plan.packs = sizes.iter().enumerate().map(|(n, (ah, kg, price))| {
            let chemistry = [Chemistry::Lfp, Chemistry::Agm][n % 2];
            let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
            let mut b = battery("b", chemistry, volts, ah.round(), *kg, *price);
            if weights && n % 3 == 0 { b.mass = None; }
            Pack::of(b, 2, 1)
        }).collect();
        plan.wants = std::iter::zip(Kind::ALL, &levels)
            .map(|(kind, level)| Want::of(kind, [Level::Nice, Level::NoMatter, Level::NoMatter][*level]))
            .collect();
        let told = standings(&plan);
        let home = |s: &Standing| match s.survey.as_ref().unwrap().outcome {
            Outcome::Home | Outcome::BelowReserve => 2.0,
            Outcome::BelowFloor => 1.0,
            _ => 0.0,
        };
        let all = |s: &Standing| -> Vec<f64> {
            let each = std::iter::zip(&plan.wants, &s.answers).filter(|(w, _)| w.level != Level::NoMatter);
            std::iter::once(home(s)).chain(each.map(|(w, a)| worth(w.kind, a.value))).collect()
        };
        let any = plan.wants.iter().any(|w| w.level != Level::NoMatter);
        for (n, one) in told.iter().enumerate() {
            let mine = all(one);
            let beats = |other: &Standing| {
                let other = all(other);
                std::iter::zip(&other, &mine).all(|(o, m)| o >= m) && other != mine
            };
            let beaten = any && told.iter().any(beats);
            prop_assert_eq!(one.beaten_by.is_some(), beaten, "{}: {:?}", n, mine);
            if let Some(by) = one.beaten_by {
                prop_assert!(beats(&told[by]));
            }
        }
    }

    /// Each tipping point crossed from either side, the plan written anew and judged from nothing: before it today's pack is
    /// first, behind it the one that was told.
    #[test]
    fn a_tipping_point_is_crossed_and_the_winner_changes(
        wind in 0.0..5.0_f64,
        outings in 2.0..200.0_f64,
        prices in prop::collection::vec(60.0..900.0_f64, 5),
        driver in prop::sample::select(Driver::ALL.to_vec()),
        wanted in any::<bool>(),
    ) {
        let mut plan = plan();
        plan.day.conditions.wind = MetresPerSecond::of(wind);
        plan.day.outings_per_year = outings;
        for (pack, price) in std::iter::zip(&mut plan.packs, &prices) {
            pack.battery.price = Some(Money::of(*price));
        }
        if wanted {
            plan.wants = vec![Want::of(Kind::HomeWith, Level::Must), Want::of(Kind::Light, Level::Nice)];
        }
        let contest = Contest::of(&plan).unwrap();
        let (today_first, order) = (contest.best(), Contest::order(&contest.standings()));
        let Some(tip) = tipping(&contest, driver) else { return Ok(()) };
        // Nothing moved is nothing changed.
        let still = at(&plan, driver, &order, tip.today, tip.today);
        prop_assert_eq!(still, today_first);
        for turn in [tip.below, tip.above].into_iter().flatten() {
            let (stays, turns) = turn.between;
            prop_assert_eq!(at(&plan, driver, &order, stays, tip.today), today_first, "stays at {}", stays);
            let then = at(&plan, driver, &order, turns, tip.today);
            prop_assert_eq!(then, turn.then, "turns at {}", turns);
            prop_assert_ne!(then, today_first);
            prop_assert!((stays - turns).abs() <= (tip.range.1 - tip.range.0) * 1e-3);
            prop_assert!(turns >= tip.range.0 - 1e-9 && turns <= tip.range.1 + 1e-9);
        }
    }
}

/// Who is first with one thing at another value: the plan changed by hand, its contest held anew.
fn at(plan: &Plan, driver: Driver, order: &[usize], value: f64, today: f64) -> Option<usize> {
    let mut plan = plan.clone();
    let mut life = None;
    match driver {
        Driver::Outings => plan.day.outings_per_year = value,
        Driver::Hours => {
            for stretch in &mut plan.day.stretches {
                stretch.lasts = stretch.lasts * value;
            }
        }
        Driver::Wind => plan.day.conditions.wind = MetresPerSecond::of(value),
        Driver::Weight => plan.rig.craft.heavier_by = Kilograms::of(value - today),
        Driver::PriceFirst => plan.packs[order[0]].battery.price = Some(Money::of(value)),
        Driver::PriceSecond => plan.packs[order[1]].battery.price = Some(Money::of(value)),
        Driver::NeedsFirst | Driver::NeedsSecond => {
            let n = order[usize::from(driver == Driver::NeedsSecond)];
            plan = plan.with_parts_counted().into_owned();
            let other = plan.packs[n].extras.other.unwrap_or(Money::ZERO);
            plan.packs[n].extras.other = Some(other + Money::of(value - today));
        }
        Driver::HoldsFirst => plan.packs[order[0]].health.capacity_share = value,
        Driver::HoldsSecond => plan.packs[order[1]].health.capacity_share = value,
        Driver::Energy => plan.rules.money.energy_price = Some(Money::of(value)),
        Driver::Horizon => plan.rules.horizon_years = value,
        Driver::Temperature => plan.day.ambient = Some(Celsius::of(value)),
        Driver::LeadFloor => {
            for c in Chemistry::ALL.into_iter().filter(|c| c.is_lead()) {
                plan.rules = plan.rules.with_floor(c, value);
            }
        }
        Driver::LfpFloor => plan.rules = plan.rules.with_floor(Chemistry::Lfp, value),
        Driver::LfpCeiling => plan.rules = plan.rules.with_ceiling(Chemistry::Lfp, value),
        Driver::LifeFirst => life = Some((order[0], value)),
        Driver::LifeSecond => life = Some((order[1], value)),
        Driver::Interest => plan.rules.money.discount = value,
    }
    let mut contest = Contest::of(&plan).unwrap();
    if let Some((n, times)) = life {
        contest.lives[n] = times;
    }
    contest.best()
}

/// At few outings the calendar ends LFP and AGM alike and cheap lead is the better buy; at many its cycles are used up. By
/// hand: an AGM pair of 380 with six years and 400 cycles at half depth against an LFP of 900 with twelve, ten years looked
/// ahead, neither energy nor failures counted. LFP costs 900. Lead costs 380 x 10 / years, which passes 900 at 4.22 years: at
/// 400 / 4.22 = 94.7 outings a year.
#[test]
fn lead_wins_at_few_outings_and_loses_at_many() {
    let mut plan = plan();
    plan.rules.money.failing = 0.0;
    plan.rules.money.energy_price = Some(Money::ZERO);
    // Nothing but its cycles counts: they are told at the depth that the day goes to.
    plan.packs.truncate(1);
    plan.packs[0].battery.price = Some(Money::of(900.0));
    plan.packs[0].battery.calendar_years = Some(12.0);
    plan.packs[0].battery.cycles = vec![CyclePoint { depth: 0.8, cycles: 4_300.0 }];
    let mut agm = Pack::of(battery("Big", Chemistry::Agm, 12.0, 200.0, 50.0, 190.0), 2, 1);
    let depth = {
        let alone = Plan { packs: vec![agm.clone()], ..plan.clone() };
        let drawn = alone.evaluate().unwrap()[0].drawn.clone().unwrap();
        drawn.between.1 - drawn.between.0
    };
    agm.battery.cycles = vec![CyclePoint { depth, cycles: 400.0 }];
    agm.battery.calendar_years = Some(6.0);
    plan.packs.push(agm);
    plan.day.outings_per_year = 20.0;
    let contest = Contest::of(&plan).unwrap();
    assert_eq!(contest.best(), Some(1), "lead");
    let tip = tipping(&contest, Driver::Outings).unwrap().above.expect("it turns");
    assert_eq!((tip.then, tip.by), (Some(0), Decided::Money));
    assert!((tip.between.1 - 400.0 / (380.0 * 10.0 / 900.0)).abs() < 0.1, "{tip:?}");
}

/// Each cell against a contest of its own.
#[test]
fn a_map_says_of_each_cell_who_comes_first_there() {
    let plan = plan();
    let contest = Contest::of(&plan).unwrap();
    let order = Contest::order(&contest.standings());
    for (across, down) in [
        (Driver::Wind, Driver::Outings),
        (Driver::Outings, Driver::Wind),
        (Driver::Outings, Driver::Horizon),
        (Driver::Wind, Driver::Hours),
    ] {
        let map = tipping::map(&contest, across, down, 18, &|| true).expect("both mean something");
        assert!(tipping::map(&contest, across, down, 18, &|| false).is_none(), "called off");
        let mut wrong = 0;
        for (row, y) in map.down.1.iter().enumerate() {
            for (column, x) in map.across.1.iter().enumerate() {
                let today = |d: Driver| d.today(&contest, &order).unwrap().0;
                let mut other = contest.clone();
                across.set(&mut other, &order, *x, today(across));
                down.set(&mut other, &order, *y, today(down));
                other.run().unwrap();
                wrong += usize::from(other.best() != map.first[row][column]);
            }
        }
        // Where both are of the day, only borders are looked at closely.
        let may_miss = if across.is_of_the_day() && down.is_of_the_day() { 4 } else { 0 };
        assert!(wrong <= may_miss, "{across:?} {down:?}: {wrong} of 324");
    }
}

/// Each offered change brings the pack home above its floor, and a step less of it does not.
#[test]
fn every_offered_change_gets_home_and_a_little_less_does_not() {
    let mut plan = plan();
    plan.day.stretches[3].duty = Duty::Setting(6.0);
    let tried = |plan: &Plan, pack: &Pack, what_if: WhatIf| {
        let mut other = plan.clone();
        what_if.apply(&mut other);
        gets_home(&other, pack)
    };
    let five = Hours::from_minutes(5.0);
    let mut kinds = std::collections::BTreeSet::new();
    let mut most = 0;
    for ah in (8..60).map(|n| f64::from(n) * 2.0) {
        for chemistry in [Chemistry::Lfp, Chemistry::Agm] {
            let volts = if chemistry.is_lead() { 24.0 } else { 25.6 };
            let pack = Pack::of(battery("b", chemistry, volts, ah, 20.0, 400.0), 1, 1);
            let changes = get_home(&plan, &pack);
            assert!(
                changes.is_empty() || !gets_home(&plan, &pack),
                "nothing is offered to who gets home"
            );
            most = most.max(changes.len());
            for change in changes {
                if let Some(what_if) = change.what_if() {
                    assert!(tried(&plan, &pack, what_if), "{ah} {change:?}");
                }
                let less = match change {
                    Change::Fewer(at, less) => Some(WhatIf::Fewer(at, less - five)),
                    Change::HomeAt(share) => Some(WhatIf::HomeAt(share + 0.05)),
                    Change::TurnAt(at) => Some(WhatIf::TurnAt(at + five)),
                    Change::Wind(wind) => Some(WhatIf::Wind(wind * 1.01)),
                    Change::Size(sold) => {
                        assert!(gets_home(&plan, &get_home::sized(&pack, sold.value() / ah)));
                        let step = if sold.value() <= 120.0 { 10.0 } else { 20.0 };
                        let smaller = (sold.value() - step) / ah;
                        assert!(
                            smaller <= 1.0 || !gets_home(&plan, &get_home::sized(&pack, smaller))
                        );
                        None
                    }
                    Change::OneMoreString => {
                        assert!(gets_home(&plan, &get_home::with_one_more_string(&pack)));
                        None
                    }
                };
                if let Some(less) = less {
                    assert!(!tried(&plan, &pack, less), "{ah} {change:?} is more than it takes");
                }
                kinds.insert(format!("{change:?}").split('(').next().unwrap().to_owned());
            }
        }
    }
    assert_eq!(kinds.len(), 6, "each kind is offered to someone: {kinds:?}");
    let short = Pack::of(battery("b", Chemistry::Lfp, 25.6, 32.0, 20.0, 400.0), 1, 1);
    assert!(most >= 4, "at most {most} at once");
    assert_eq!(margin(&plan, &short), None);
}

/// What a pack bears besides it bears, and not more.
#[test]
fn what_it_bears_is_as_far_as_it_goes() {
    let plan = plan();
    for pack in &plan.packs {
        let Some(margin) = margin(&plan, pack) else { continue };
        let after = |what_if: WhatIf| {
            let mut other = plan.clone();
            what_if.apply(&mut other);
            gets_home(&other, pack)
        };
        let (at, more) = margin.longer.expect("it holds a place");
        assert_eq!(at, 1, "the longest that is worked on");
        assert!(after(WhatIf::Fewer(at, more * -0.999)), "{}", pack.name);
        assert!(
            more >= Hours::of(24.0) || !after(WhatIf::Fewer(at, more * -1.01)),
            "{}",
            pack.name
        );
        let wind = margin.wind.expect("the wind counts");
        assert!(after(WhatIf::Wind(wind * 0.999)));
        assert!(wind.value() >= get_home::MOST_WIND || !after(WhatIf::Wind(wind * 1.01)), "{wind}");
    }
    // A pack that is set aside gets nowhere, whatever is changed.
    let wrong = Pack::of(battery("b", Chemistry::Lfp, 51.2, 100.0, 40.0, 900.0), 1, 1);
    assert_eq!((get_home(&plan, &wrong), margin(&plan, &wrong)), (vec![], None));
}

/// A number between 0 and 1 for three others: splitmix64 (S. Vigna's public-domain mixing, from memory).
fn plain_random(day: usize, battery: usize, axis: usize) -> f64 {
    let mut z = ((day as u64) << 20 ^ (battery as u64) << 8 ^ axis as u64)
        .wrapping_mul(0x9e37_79b9_7f4a_7c15);
    for (shift, times) in [(30, 0xbf58_476d_1ce4_e5b9_u64), (27, 0x94d0_49bb_1331_11eb)] {
        z = (z ^ (z >> shift)).wrapping_mul(times);
    }
    ((z ^ (z >> 31)) >> 11) as f64 / (1_u64 << 53) as f64
}

/// The chance of being best over the few common days against ten thousand plain ones: a chance p of n days has a standard
/// error of sqrt(p (1 - p) / n); the few are evenly spread, so that six points are allowed where 128 plain ones would err by four
/// and a half.
#[test]
fn the_chance_of_being_best_is_that_of_ten_thousand_plain_samples() {
    let plan = plan();
    let contest = Contest::of(&plan).unwrap();
    let few = chances(&contest).unwrap();
    let many = chances_over(&contest, 10_000, &plain_random).unwrap();
    let mut sum = 0.0;
    for (few, many) in std::iter::zip(&few, &many) {
        let (few, many) = (few.unwrap(), many.unwrap());
        assert!((few.best - many.best).abs() < 0.06, "{few:?} {many:?}");
        assert!((few.reserve_kept - many.reserve_kept).abs() < 0.06, "{few:?} {many:?}");
        assert!((few.finished - many.finished).abs() < 0.06, "{few:?} {many:?}");
        assert!(few.reserve_kept <= few.finished);
        sum += few.best;
    }
    assert!(sum <= 1.0 + 1e-9, "one pack comes first on a day: {sum}");
    assert_eq!(few, chances(&contest).unwrap(), "always the same days");
}

/// One battery under two names is doubted once: the dearer of two alike is never the best.
#[test]
fn packs_of_one_battery_share_their_days() {
    let mut plan = plan();
    plan.packs.truncate(1);
    let mut dear = plan.packs[0].clone();
    dear.extras.other = Some(Money::of(1.0));
    plan.packs.push(dear);
    let told = chances(&Contest::of(&plan).unwrap()).unwrap();
    let (cheap, dear) = (told[0].unwrap(), told[1].unwrap());
    assert_eq!((cheap.best, dear.best), (1.0, 0.0));
    assert_eq!(cheap.finished, dear.finished);
}

#[test]
fn measuring_what_is_least_sure_narrows_the_band_most() {
    let plan = plan();
    let contest = Contest::of(&plan).unwrap();
    let all = to_measure(&contest, 0).unwrap();
    assert!(!all.is_empty());
    for m in &all {
        assert!(m.left < 0.9 * m.width && m.left >= 0.0, "{m:?}");
    }
    for pair in all.windows(2) {
        assert!(pair[0].left <= pair[1].left);
    }
    assert_eq!(all[0].what, Unknown::Draw, "a motor that nobody measured");
}

/// The moments of a day are the day: what is left at the end is the verdict's, the way home from where it begins ends as the
/// day does, a later turn never brings more home, and each moment's hours are run from its own state.
#[test]
fn moments_are_those_of_the_day() {
    let mut plan = plan();
    plan.day.conditions.wind = MetresPerSecond::of(2.0);
    let judge = plan.judge().unwrap();
    let times = times(&plan.day, 60);
    assert!(times.windows(2).all(|w| w[0] < w[1]));
    assert!((times[times.len() - 1] - plan.day.span()).value().abs() < 1e-9);
    assert_eq!(speeds(&judge, &times).len(), times.len());
    let begins = Hours::of(0.75 + 2.0 + 0.5 + 1.0);
    for pack in &plan.packs {
        let drawn = judge.in_full(pack).drawn.unwrap();
        let told = moments(&judge, pack, &times).unwrap();
        if drawn.ended_early_at().is_some() {
            assert!(told.len() < times.len());
            continue;
        }
        assert_eq!(told.len(), times.len());
        let last = told[told.len() - 1];
        assert!((last.charge - drawn.summary.charge_left).abs() < 2e-3, "{}", pack.name);
        assert_eq!(last.home_with, None, "one is home");
        let at = times.iter().position(|t| (*t - begins).value().abs() < 1e-9).unwrap();
        let home = told[at].home_with.expect("it gets home");
        assert!((home - drawn.summary.charge_left).abs() < 2e-3, "{}: {home}", pack.name);
        for (n, pair) in told[..=at].windows(2).enumerate() {
            assert!(pair[1].charge <= pair[0].charge + 1e-6);
            let (earlier, later) = (pair[0].home_with.unwrap(), pair[1].home_with.unwrap());
            assert!(later <= earlier + 2e-3, "{} at {}: {earlier} {later}", pack.name, times[n]);
        }
    }
}

/// Hours left at the first moment of a day that goes on as it begins are the verdict's hours at this pace.
#[test]
fn hours_left_are_those_of_the_pace() {
    let mut plan = plan();
    plan.day = Day::starting_at(420).then("On", Hours::of(2.0), Duty::Power(Watts::of(300.0)));
    let judge = plan.judge().unwrap();
    for pack in &plan.packs {
        let pace = judge.in_full(pack).drawn.unwrap().hours_at_this_pace.unwrap();
        let told = moments(&judge, pack, &times(&plan.day, 10)).unwrap();
        let left = told[0].hours_left.unwrap();
        assert!((left / pace - 1.0).abs() < 2e-3, "{}: {left} {pace}", pack.name);
        // An hour on, an hour less.
        let half = told[5].hours_left.unwrap();
        assert!((half.value() - (pace.value() - 1.0)).abs() < 0.02 * pace.value(), "{half} {pace}");
    }
}

/// Lead fades: the way home takes a higher setting late in the day than in the morning; LFP hardly asks for more.
#[test]
fn the_way_home_takes_more_of_a_fading_battery() {
    let plan = plan();
    let judge = plan.judge().unwrap();
    let times = times(&plan.day, 40);
    let rise = |pack: &Pack| {
        let told = moments(&judge, pack, &times).unwrap();
        let of = |n: usize| told[n].home_setting.expect("its draw is known");
        of(told.len() - 1) - of(0)
    };
    let (lfp, agm) = (rise(&plan.packs[0]), rise(&plan.packs[2]));
    assert!(agm > 0.2 && lfp < agm && lfp > -0.05, "{lfp} {agm}");
}

/// Days in a row: moments of the second day tell its own way home.
#[test]
fn moments_of_days_in_a_row_have_each_its_way_home() {
    let mut plan = plan();
    plan.day.days_without_charging = 2;
    plan.packs = vec![Pack::of(battery("b", Chemistry::Lfp, 25.6, 300.0, 60.0, 2000.0), 1, 1)];
    let judge = plan.judge().unwrap();
    let times = times(&plan.day, 80);
    let told = moments(&judge, &plan.packs[0], &times).unwrap();
    assert_eq!(told.len(), times.len());
    let home_by = |day: f64| {
        let all = std::iter::zip(&times, &told).filter(|(t, _)| (t.value() / 24.0).floor() == day);
        all.filter_map(|(_, m)| m.home_with).collect::<Vec<_>>()
    };
    let (one, two) = (home_by(0.0), home_by(1.0));
    assert!(one.len() > 20 && two.len() > 20);
    assert!(two[0] < one[0] - 0.1, "a day's charge less: {} {}", one[0], two[0]);
    let left = judge.in_full(&plan.packs[0]).drawn.unwrap().summary.charge_left;
    assert!((told[told.len() - 1].charge - left).abs() < 2e-3);
}
