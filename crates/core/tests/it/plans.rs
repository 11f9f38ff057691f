//! Laws of whole plans, hostile ones among them: whatever is asked of whatever is aboard.
//!
//! Each runs on 48 plans; `LAKE_HOUR_PLANS=20000 cargo test --release -p lake-hour-core --test it plans::` on as many as
//! are asked for.

use lake_hour_core::build::{PartKept, PartKey, PartState};
use lake_hour_core::day::{Accessory, Charging, Day, Duty, HourConditions, SolarHour, Stretch};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Extras, Health, Pack, WeakUnit};
use lake_hour_core::parts::{List, Needs};
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{CraftKind, Owned, Rig, SettingPoint, SpeedPoint};
use lake_hour_core::shelf::{Battery, Chemistry, Peak, Rating};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Metres, MetresPerSecond, Money, Volts, Watts,
};
use lake_hour_core::verdict::{Drawn, Evaluation, Outcome};
use proptest::prelude::*;

fn cases() -> u32 {
    std::env::var("LAKE_HOUR_PLANS").ok().and_then(|n| n.parse().ok()).unwrap_or(48)
}

fn duty() -> impl Strategy<Value = Duty> {
    prop_oneof![
        Just(Duty::Off),
        (0.0..1.0_f64).prop_map(|x| Duty::Current(Amps::of(800.0 * x.powi(4)))),
        (0.0..1.0_f64).prop_map(|x| Duty::Power(Watts::of(60_000.0 * x.powi(5)))),
        (0.0..10.0_f64).prop_map(Duty::Setting),
        (0.0..6.0_f64).prop_map(|v| Duty::Speed(MetresPerSecond::of(v))),
        (0.0..30_000.0_f64).prop_map(|d| Duty::Distance(Metres::of(d))),
        Just(Duty::HoldPlace),
    ]
}

fn day() -> impl Strategy<Value = Day> {
    let stretch = (duty(), 0.02..6.0_f64, prop::option::of(0.05..1.0_f64), -0.1..0.1_f64);
    (
        prop::collection::vec(stretch, 1..6),
        // Round figures, as they are typed, or any.
        (
            prop_oneof![-40.0..50.0_f64, (-40..50_i32).prop_map(f64::from)],
            prop::option::of(prop_oneof![-30.0..45.0_f64, (-30..45_i32).prop_map(f64::from)]),
        ),
        (0.0..15.0_f64, prop::option::of((430_u32..900, 0.0..15.0_f64, -30.0..45.0_f64))),
        prop::option::of(0.05..1.0_f64),
        prop::option::of((400_u32..800, 0.0..600.0_f64)),
        prop::option::of((400_u32..800, 0.1..5.0_f64, 0.5..200.0_f64)),
        (1_u32..4, prop::option::of(0.0..200.0_f64)),
    )
        .prop_map(|(stretches, (air, start), (wind, hour), charge, sun, charging, rest)| {
            let mut day = Day::starting_at(420);
            let told = stretches.into_iter().map(|(duty, hours, share, grade)| Stretch {
                share: share.unwrap_or(1.0),
                grade,
                ..Stretch::new("s", Hours::of(hours), duty)
            });
            day.stretches = told.collect();
            (day.ambient, day.battery_start) = (Some(Celsius::of(air)), start.map(Celsius::of));
            day.conditions.wind = MetresPerSecond::of(wind);
            day.hourly.extend(hour.map(|(from_minute, wind, air)| HourConditions {
                from_minute,
                wind: Some(MetresPerSecond::of(wind)),
                current: None,
                air: Some(Celsius::of(air)),
            }));
            day.start_charge = charge;
            day.solar
                .extend(sun.map(|(from_minute, w)| SolarHour { from_minute, power: Watts::of(w) }));
            day.charging.extend(charging.map(|(from_minute, hours, a)| Charging {
                from_minute,
                lasts: Hours::of(hours),
                current: Amps::of(a),
            }));
            day.days_without_charging = rest.0;
            day.accessories.extend(rest.1.map(|w| Accessory {
                name: "d".into(),
                power: Watts::of(w),
                hours: Some(Hours::of(w / 8.0)),
                on_house: false,
            }));
            day
        })
}

fn pack() -> impl Strategy<Value = Pack> {
    (
        prop::sample::select(Chemistry::ALL.to_vec()),
        prop::sample::select(vec![0.5, 5.0, 60.0, 110.0, 400.0, 2000.0]),
        prop::collection::vec((0.2..30.0_f64, 0.3..1.2_f64), 0..4),
        (
            prop::option::of(1.0..400.0_f64),
            prop::option::of(1.0..900.0_f64),
            prop::option::of(0.4..0.98_f64),
        ),
        prop::option::of((0.05..1.0_f64, 0.5..10.0_f64)),
        (0.05..1.0_f64, 0.5..10.0_f64, prop::bool::ANY),
        (1_u32..4, 0.5..40.0_f64),
    )
        .prop_map(|(chemistry, ah, further, limits, weak, health, (parallel, mass))| {
            let volts = if chemistry.is_lead() { 12.0 } else { 12.8 };
            let rating = |share: f64, hours: f64| Rating::Capacity {
                ah: AmpHours::of(ah * share),
                over: Hours::of(hours),
            };
            let mut b = Battery::new("b", chemistry, Volts::of(volts), rating(1.0, 20.0));
            b.ratings.extend(further.iter().map(|&(hours, share)| rating(share, hours)));
            b.max_continuous = limits.0.map(Amps::of);
            b.peak = limits.1.map(|a| Peak { current: Amps::of(a), seconds: 5.0 });
            b.low_voltage_cutoff = limits.2.map(|share| Volts::of(volts * share));
            b.mass = Some(Kilograms::of(mass));
            let mut pack = Pack::of(b, 2, parallel);
            pack.weak_unit = weak.map(|(capacity_share, resistance_factor)| WeakUnit {
                capacity_share,
                resistance_factor,
            });
            if health.2 {
                pack.health =
                    Health { capacity_share: health.0, resistance_factor: health.1, ..Health::NEW };
            }
            pack
        })
}

fn rig() -> impl Strategy<Value = Rig> {
    (
        prop::sample::select(vec![CraftKind::VHull, CraftKind::Kayak, CraftKind::GolfCart]),
        prop::sample::select(vec![1.0, 50.0, 2000.0]),
        prop::option::of((0.0..10.0_f64, 0.0..60.0_f64)),
        prop::option::of((0.3..2.0_f64, 0.1..60.0_f64)),
        prop::bool::ANY,
    )
        .prop_map(|(kind, max, point, speed, regenerates)| {
            let mut rig = Rig::new("r", kind, Volts::of(24.0));
            rig.motor.max_current = Some(Amps::of(max));
            rig.motor.regenerates = regenerates;
            rig.motor.settings_measured = regenerates;
            rig.motor.settings.extend(point.map(|(setting, a)| SettingPoint {
                setting,
                current: Amps::of(a),
                at: Some(Volts::of(25.0)),
            }));
            rig.measured.extend(
                speed.map(|(v, a)| SpeedPoint {
                    speed: MetresPerSecond::of(v),
                    current: Amps::of(a),
                }),
            );
            rig
        })
}

fn plan(packs: Vec<Pack>, rig: Rig, day: Day) -> Plan {
    Plan {
        currency: "USD".into(),
        rig,
        day,
        rules: HouseRules::default(),
        packs,
        wants: Vec::new(),
        build: lake_hour_core::kept::Build::default(),
    }
}

fn judged(plan: &Plan) -> Vec<Evaluation> {
    plan.evaluate().expect("draws are known")
}

fn one(rig: &Rig, day: &Day, pack: &Pack) -> Option<Drawn> {
    judged(&plan(vec![pack.clone()], rig.clone(), day.clone())).remove(0).drawn
}

/// The pack with all its units alike where it is charged on the way: unequal ones even out in the charger's taper, which
/// is told for the bank.
fn evened_out(rig: &Rig, day: &Day, pack: Pack) -> Pack {
    let charged = !day.solar.is_empty() || !day.charging.is_empty() || rig.motor.regenerates;
    Pack { weak_unit: pack.weak_unit.filter(|_| !charged), ..pack }
}

fn ended(d: &Drawn) -> f64 {
    d.ended_early_at().map_or(f64::INFINITY, Hours::value)
}

/// What a full pack may hold at the very most. [Wh]
fn most(d: &Drawn, pack: &Pack) -> f64 {
    d.fit.law.q_max() * f64::from(pack.parallel) * pack.full_charge_voltage().value()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: cases(), failure_persistence: None, max_shrink_iters: 2000, ..ProptestConfig::default() })]

    /// Shares stay shares, no more comes out than was in and went in, and nothing is no number.
    #[test]
    fn charge_and_energy_are_conserved(r in rig(), d in day(), p in pack()) {
        let Some(drawn) = one(&r, &d, &p) else { return Ok(()) };
        let s = &drawn.summary;
        let share = 0.0..=1.0;
        prop_assert!(share.contains(&s.charge_left), "{s:?}");
        prop_assert!(drawn.points.iter().all(|p| share.contains(&p.charge)), "{s:?}");
        let band = &drawn.band;
        prop_assert!(band.low <= s.charge_left && s.charge_left <= band.high, "likely {} of {band:?}", s.charge_left);
        prop_assert!(share.contains(&band.low) && share.contains(&band.high), "{band:?}");
        prop_assert!(band.points.iter().all(|b| share.contains(&b.low) && b.low <= b.high && b.high <= 1.0), "{band:?}");
        prop_assert!((0.0..=1.0).contains(&band.days_finished));
        // A cell holds more than its label, at whatever share of that it begins.
        let law = &drawn.fit.law;
        let had = (1.0 - (1.0 - drawn.starts_at) * law.rated() / law.q_max()).max(0.0) * most(&drawn, &p);
        prop_assert!(s.energy.value() <= had + s.energy_in.value() + 1e-6, "{s:?}, had {had}");
        prop_assert!(s.energy.value() >= 0.0 && s.energy_in.value() >= 0.0 && s.charged.value() >= -1e-9, "{s:?}");
        // Without a weak unit the books close: what is missing is what went out less what was stored.
        let all = drawn.fit.law.rated() * f64::from(p.parallel) * p.health.capacity_share;
        if p.weak_unit.is_none() {
            let stored = s.charged.value() * p.battery.chemistry.facts().acceptance.coulombic;
            let gone = (drawn.starts_at - s.charge_left + s.past_label) * all;
            // A charge that ends full may stop a hair before all of it is counted as stored.
            prop_assert!(gone >= s.delivered.value() - stored - 1e-6 * all, "{s:?}");
            prop_assert!(gone <= s.delivered.value() - stored + 1e-3 * all, "{s:?}");
        }
        let words = format!("{drawn:?}");
        prop_assert!(!words.contains("NaN"), "{words}");
        prop_assert!(drawn.ended_early_at().is_none_or(|at| at.value() <= drawn.day(&d).span().value() + 1e-9));
    }

    /// Splitting a stretch anywhere changes nothing, within 0.1 %.
    #[test]
    fn splitting_changes_nothing(r in rig(), d in day(), p in pack(), which in 0..6_usize, at in 0.02..0.98_f64) {
        // A share of the time is told in slices, which a split cuts anew.
        let mut d = d;
        d.stretches.iter_mut().for_each(|s| s.share = 1.0);
        let p = evened_out(&r, &d, p);
        // Cells of many times their resistance leave a motor two currents to choose from.
        if p.health.resistance_factor > 3.0 {
            return Ok(());
        }
        // Where the sun gives and the motor takes a hundred times what the battery is worth an hour, what is left between
        // them is told less finely.
        if p.capacity().is_ok_and(|ah| ah * p.health.capacity_share < AmpHours::of(60.0)) {
            d.solar.clear();
        }
        let mut split = d.clone();
        let n = which % split.stretches.len();
        let (first, rest) = (split.stretches[n].lasts * at, split.stretches[n].lasts * (1.0 - at));
        let mut second = split.stretches[n].clone();
        second.lasts = rest;
        split.stretches[n].lasts = first;
        if let (Duty::Distance(a), Duty::Distance(b)) = (&mut split.stretches[n].duty, &mut second.duty) {
            (*a, *b) = (*a * at, *b * (1.0 - at));
        }
        split.stretches.insert(n + 1, second);
        let (Some(a), Some(b)) = (one(&r, &d, &p), one(&r, &split, &p)) else { return Ok(()) };
        // Emptied in minutes, at the most power it has, a moment is told less finely.
        if ended(&a).min(ended(&b)) < 0.25 {
            return Ok(());
        }
        let (x, y) = (&a.summary, &b.summary);
        match (ended(&a), ended(&b)) {
            (x, y) if x.is_finite() && y.is_finite() => prop_assert!((x - y).abs() < 1e-3 * x + 2e-3, "{x} {y}"),
            (x, y) if x.is_infinite() && y.is_infinite() => {}
            // At the very end of the day one may stop a moment before it.
            (x, y) => prop_assert!(x.min(y) > d.span().value() * (1.0 - 2e-3), "{x} {y}"),
        }
        prop_assert!((x.charge_left - y.charge_left).abs() < 1e-3, "{x:?} {y:?}");
        prop_assert!((x.energy.value() - y.energy.value()).abs() < 2e-3 * most(&a, &p), "{x:?} {y:?}");
    }

    /// More load never ends later, and never leaves more.
    #[test]
    fn more_load_never_ends_later(r in rig(), d in day(), p in pack(), more in 1.02..2.0_f64) {
        let p = evened_out(&r, &d, p);
        let mut harder = d.clone();
        for s in &mut harder.stretches {
            s.duty = match s.duty {
                Duty::Current(a) => Duty::Current(a * more),
                Duty::Power(w) => Duty::Power(w * more),
                other => other,
            };
        }
        let (Some(light), Some(heavy)) = (one(&r, &d, &p), one(&r, &harder, &p)) else { return Ok(()) };
        // At the very end of the day one may stop a moment before it.
        let late = ended(&light) + 2e-3 * d.span().value();
        prop_assert!(ended(&heavy).min(d.span().value()) <= late, "{} {}", ended(&heavy), ended(&light));
        if ended(&heavy).is_infinite() {
            prop_assert!(heavy.summary.charge_left <= light.summary.charge_left + 1e-3);
        }
    }

    /// A bigger pack never does worse, from the same share of its charge, where nothing is put in on the way: what is put
    /// in fills a smaller one further.
    #[test]
    fn a_bigger_pack_never_does_worse(mut r in rig(), mut d in day(), p in pack()) {
        d.solar.clear();
        d.charging.clear();
        r.motor.regenerates = false;
        let small = Pack { weak_unit: None, ..p };
        let big = Pack { parallel: small.parallel + 1, ..small.clone() };
        let (Some(a), Some(b)) = (one(&r, &d, &small), one(&r, &d, &big)) else { return Ok(()) };
        prop_assert!(ended(&b) >= ended(&a) * 0.998 - 1e-9, "{} {}", ended(&a), ended(&b));
        if ended(&a).is_infinite() {
            prop_assert!(b.summary.charge_left >= a.summary.charge_left - 1e-3, "{:?} {:?}", a.summary, b.summary);
        }
    }

    /// The order of packs, the currency and a pack that nobody looks at change nothing.
    #[test]
    fn what_has_nothing_to_do_with_it_changes_nothing(r in rig(), d in day(), a in pack(), b in pack(), c in pack()) {
        let first = judged(&plan(vec![a.clone(), b.clone()], r.clone(), d.clone()));
        let mut other = plan(vec![b, c, a], r, d);
        other.currency = "EUR".into();
        let second = judged(&other);
        let plain = |e: &Evaluation| format!("{e:?}");
        prop_assert_eq!(plain(&first[0]), plain(&second[2]));
        prop_assert_eq!(plain(&first[1]), plain(&second[0]));
        for e in first.iter().chain(&second) {
            let early = e.drawn.as_ref().is_some_and(|d| d.ended_early_at().is_some());
            prop_assert_eq!(early, matches!(e.outcome, Outcome::Stops | Outcome::Trips));
        }
    }
}

/// Parts as they are kept of a build: one bought, one at hand, one priced.
fn kept() -> impl Strategy<Value = Vec<PartKept>> {
    let one = (
        prop::sample::select(PartKey::ALL.to_vec()),
        prop::sample::select(PartState::ALL.to_vec()),
        prop::option::of(0.0..400.0_f64),
    );
    prop::collection::btree_map(one.0, (one.1, one.2), 0..5).prop_map(|all| {
        let of = |(key, (state, price)): (PartKey, (PartState, Option<f64>))| PartKept {
            key,
            state,
            of: String::new(),
            price: price.map(Money::of),
            note: String::new(),
        };
        all.into_iter().map(of).collect()
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: cases(), failure_persistence: None, max_shrink_iters: 2000, ..ProptestConfig::default() })]

    /// One list for all: building one of the packs changes what none of them costs; a part that is bought neither; one that is at
    /// hand or priced changes every pack by what its own list says, whichever is to be built. What was typed of a pack stays.
    #[test]
    fn what_is_built_bought_or_priced_changes_every_pack_alike(
        r in rig(), d in day(), packs in prop::collection::vec((pack(), 50.0..2000.0_f64), 2..5),
        parts in kept(), chosen in 0..5_usize, owned in prop::sample::subsequence(Owned::ALL.to_vec(), 0..5),
        typed in prop::option::of(0.0..300.0_f64), rest in prop::option::of(0.0..300.0_f64),
    ) {
        let packs = packs.into_iter().map(|(mut pack, price)| {
            pack.battery.price = Some(Money::of(price));
            pack
        });
        let mut plan = plan(packs.collect(), r, d);
        let n = chosen % plan.packs.len();
        plan.packs[n].extras = Extras { charger: typed.map(Money::of), other: rest.map(Money::of), ..Extras::default() };
        plan.rig.owned = owned;
        let prices = |plan: &Plan| -> Vec<Option<Money>> {
            plan.with_parts_counted().packs.iter().map(Pack::price_total).collect()
        };
        let before = prices(&plan);
        plan.build.parts = parts;
        let alike = prices(&plan);
        let judge = plan.judge().unwrap();
        for (n, pack) in plan.packs.iter().enumerate() {
            let total = pack.price_of_batteries().unwrap();
            let told = pack.extras;
            let expected = match Needs::of(&plan, pack, &judge) {
                _ if told.other.is_some() => total + told.other.unwrap() + told.charger.unwrap_or(Money::ZERO),
                Ok(needs) => {
                    let list = List::of(&needs);
                    let of_charger: Money = list.parts.iter()
                        .filter(|p| p.key.group() == lake_hour_core::parts::Group::Charger)
                        .filter_map(lake_hour_core::parts::Part::sum).sum();
                    list.total().0 + told.charger.map_or(Money::ZERO, |typed| typed - of_charger)
                }
                Err(_) => { prop_assert_eq!(alike[n], before[n]); continue }
            };
            prop_assert!((alike[n].unwrap() - expected).value().abs() < 1e-6, "{:?} {expected}", alike[n]);
        }
        plan.packs[n].chosen = true;
        prop_assert_eq!(&prices(&plan), &alike, "built");
        plan.build.parts.iter_mut().for_each(|kept| {
            if kept.state == PartState::ToBuy {
                kept.state = PartState::Bought;
            }
        });
        if plan.rig.owned.is_empty() {
            prop_assert_eq!(&prices(&plan), &alike, "bought");
        }
        let counted = plan.with_parts_counted().into_owned();
        prop_assert_eq!(&prices(&counted), &prices(&plan), "counted twice");
        plan.build.counted = false;
        prop_assert_eq!(&plan.with_parts_counted().packs, &plan.packs, "only what was typed");
    }
}
