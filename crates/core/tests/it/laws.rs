//! Laws that hold for every pack and every day.

use lake_hour_core::day::{Day, Duty, Stretch};
use lake_hour_core::drawdown::law::CellParameters;
use lake_hour_core::drawdown::{Bank, Demand, Ended, Guard, Leg, UnitLaw, fit, run};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Amps, Hours, Volts, Watts};
use lake_hour_core::verdict;
use proptest::prelude::*;

fn chemistry() -> impl Strategy<Value = Chemistry> {
    prop::sample::select(Chemistry::ALL.to_vec())
}

fn battery(chemistry: Chemistry, ah: f64) -> Battery {
    let volts = if chemistry.is_lead() { 12.0 } else { 4.0 * chemistry.nominal_cell().value() };
    let over = Hours::of(chemistry.usual_rating_hours());
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over };
    Battery::new("b", chemistry, Volts::of(volts), rating)
}

fn duty(most: f64) -> impl Strategy<Value = Duty> {
    prop_oneof![
        Just(Duty::Off),
        (0.0..most).prop_map(|a| Duty::Current(Amps::of(a))),
        (0.0..most * 12.0).prop_map(|w| Duty::Power(Watts::of(w))),
    ]
}

fn day(most: f64) -> impl Strategy<Value = Day> {
    prop::collection::vec((duty(most), 0.05..2.0_f64), 1..8).prop_map(|stretches| {
        let mut day = Day::starting_at(420);
        day.stretches =
            stretches.into_iter().map(|(duty, h)| Stretch::new("s", Hours::of(h), duty)).collect();
        day
    })
}

fn rig(volts: f64) -> Rig {
    Rig::new("r", CraftKind::VHull, Volts::of(volts))
}

fn evaluate(rig: &Rig, day: &Day, pack: &Pack) -> verdict::Drawn {
    verdict::evaluate(rig, day, &HouseRules::default(), pack).unwrap().drawn.unwrap()
}

fn ended(drawn: &verdict::Drawn) -> f64 {
    drawn.ended_early_at().map_or(f64::INFINITY, Hours::value)
}

fn steady(amps: f64, hours: f64) -> Leg {
    Leg::rated(Hours::of(hours), Demand::current(Amps::of(amps)))
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, failure_persistence: None, ..ProptestConfig::default() })]

    /// More load never lengthens the day and never leaves more charge.
    #[test]
    fn more_load_never_lengthens_the_day(c in chemistry(), d in day(60.0), more in 1.0..1.6_f64) {
        let pack = Pack::of(battery(c, 100.0), 1, 1);
        let rig = rig(pack.voltage().value());
        let mut harder = d.clone();
        for s in &mut harder.stretches {
            s.duty = match s.duty {
                Duty::Current(a) => Duty::Current(a * more),
                Duty::Power(w) => Duty::Power(w * more),
                other => other,
            };
        }
        let (light, heavy) = (evaluate(&rig, &d, &pack), evaluate(&rig, &harder, &pack));
        prop_assert!(ended(&heavy) <= ended(&light) + 1e-6);
        if ended(&heavy).is_infinite() {
            prop_assert!(heavy.summary.charge_left <= light.summary.charge_left + 1e-9);
        }
    }

    /// Two in series double the volts and keep the ampere-hours; two in parallel the other way; the
    /// charge left by the same current for each unit is the same.
    #[test]
    fn series_and_parallel_scale_exactly(c in chemistry(), s in 1_u32..5, p in 1_u32..5, d in day(40.0)) {
        let unit = battery(c, 100.0);
        let mut day = d;
        // A power is shared by voltage as well: steady currents scale exactly.
        day.stretches.retain(|s| matches!(s.duty, Duty::Current(_) | Duty::Off));
        prop_assume!(!day.stretches.is_empty());
        let one = Pack::of(unit.clone(), 1, 1);
        let many = Pack::of(unit, s, p);
        prop_assert!((many.voltage().value() - one.voltage().value() * f64::from(s)).abs() < 1e-9);
        prop_assert_eq!(many.capacity().unwrap(), one.capacity().unwrap() * f64::from(p));
        let mut scaled = day.clone();
        for stretch in &mut scaled.stretches {
            if let Duty::Current(a) = stretch.duty {
                stretch.duty = Duty::Current(a * f64::from(p));
            }
        }
        let alone = evaluate(&rig(one.voltage().value()), &day, &one).summary;
        let together = evaluate(&rig(many.voltage().value()), &scaled, &many).summary;
        prop_assert!((alone.charge_left - together.charge_left).abs() < 1e-9);
        prop_assert_eq!(alone.lowest_voltage.is_some(), together.lowest_voltage.is_some());
        if let (Some(one), Some(all)) = (alone.lowest_voltage, together.lowest_voltage) {
            prop_assert!((one.value() * f64::from(s) - all.value()).abs() < 1e-6);
        }
        let energy = alone.energy.value() * f64::from(s * p);
        prop_assert!((energy - together.energy.value()).abs() <= 1e-6 * energy.max(1.0));
    }

    /// Charge is conserved: what left the units is what was delivered.
    #[test]
    fn charge_is_conserved(c in chemistry(), d in day(50.0)) {
        let pack = Pack::of(battery(c, 100.0), 1, 2);
        let drawn = evaluate(&rig(pack.voltage().value()), &d, &pack);
        let gone = (1.0 - drawn.summary.charge_left + drawn.summary.past_label) * drawn.fit.law.rated() * 2.0;
        prop_assert!((gone - drawn.summary.delivered.value()).abs() < 1e-6);
        prop_assert!(drawn.band.low <= drawn.summary.charge_left && drawn.summary.charge_left <= drawn.band.high);
    }

    /// Voltage falls with current, at any state.
    #[test]
    fn voltage_falls_with_current(c in chemistry(), drawn in 0.0..60.0_f64, a in 0.0..80.0_f64, b in 0.1..40.0_f64) {
        let law = fit(&battery(c, 100.0)).unwrap().law;
        let state = law.rest_or_draw(law.full(), drawn / 3.0, 3.0);
        prop_assert!(law.volts(state, a + b) <= law.volts(state, a));
    }

    /// A longer rest never hurts: what can be drawn after it is no less.
    #[test]
    fn a_longer_rest_never_hurts(c in chemistry(), amps in 5.0..60.0_f64, rest in 0.0..3.0_f64, more in 0.0..3.0_f64) {
        let law = fit(&battery(c, 100.0)).unwrap().law;
        let bank = Bank::uniform(law, 1, 1);
        let lasts = |rest: f64| {
            let legs = [steady(amps, 0.5), steady(0.0, rest), steady(amps, 30.0)];
            match run(&bank, &legs, &Guard::NONE, |_| {}).ended {
                Ended::Stopped { at, .. } if at.value() > 0.5 + rest => at.value() - 0.5 - rest,
                _ => 0.0,
            }
        };
        prop_assert!(lasts(rest + more) >= lasts(rest) - 1e-6);
    }

    /// Splitting a stretch in two changes nothing at a steady current.
    #[test]
    fn splitting_a_stretch_changes_nothing(c in chemistry(), amps in 0.5..60.0_f64, hours in 0.1..6.0_f64, at in 0.01..0.99_f64) {
        let bank = Bank::uniform(fit(&battery(c, 100.0)).unwrap().law, 2, 1);
        let whole = run(&bank, &[steady(amps, hours)], &Guard::NONE, |_| {});
        let parts = [steady(amps, hours * at), steady(amps, hours * (1.0 - at))];
        let split = run(&bank, &parts, &Guard::NONE, |_| {});
        prop_assert!((whole.charge_left - split.charge_left).abs() < 1e-7);
        let when = |e| match e { Ended::Stopped { at, .. } => at.value(), _ => -1.0 };
        prop_assert!((when(whole.ended) - when(split.ended)).abs() < 1e-6);
    }

    /// Energy out and energy lost to resistance and overpotential make up the energy that left the
    /// chemistry: with a straight open-circuit line the latter is `Q (OCV(start) + OCV(end)) / 2`.
    #[test]
    fn energy_out_and_losses_are_the_energy_fallen(amps in 1.0..25.0_f64, hours in 0.2..1.5_f64) {
        let cell = CellParameters::typical(Chemistry::Agm);
        let bank = Bank::uniform(UnitLaw::new(cell, 6, 100.0), 1, 1);
        let (mut lost, mut before) = (0.0, None);
        let legs: Vec<Leg> = (0..200).map(|_| steady(amps, hours / 200.0)).collect();
        let ocv = |charge: f64| 6.0 * cell.ocv.at(charge);
        let s = run(&bank, &legs, &Guard::NONE, |p| {
            let drop = ocv(p.charge) - p.volts.expect("in reach").value();
            let (now, amps) = (p.at.value(), p.amps.value());
            if let Some((at, earlier)) = before.replace((now, drop)) && amps > 0.0 {
                // The first point is at rest: its drop is that of the next.
                let earlier: f64 = if at == 0.0 { drop } else { earlier };
                lost += 0.5 * (drop + earlier) * amps * (now - at);
            }
        });
        prop_assume!(s.ended == Ended::DayDone);
        let (delivered, energy) = (s.delivered.value(), s.energy.value());
        let fallen = delivered * 0.5 * (ocv(1.0) + ocv(s.charge_left));
        prop_assert!(((energy + lost) / fallen - 1.0).abs() < 1e-3, "{energy} + {lost} is not {fallen}");
    }
}
