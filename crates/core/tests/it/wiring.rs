//! Circuits of packs: every one that is drawn passes the check, and the check finds what is wrong with a bad one.

use lake_hour_core::day::{Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::rig::{CraftKind, Rig};
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::say::Say;
use lake_hour_core::units::{AmpHours, Amps, Hours, Metres, Ohms, Volts};
use lake_hour_core::verdict::{evaluate, working};
use lake_hour_core::wiring::cable::{Insulation, NoCable, Place};
use lake_hour_core::wiring::check::{self, Finding};
use lake_hour_core::wiring::netlist::{Kind, Netlist};
use lake_hour_core::wiring::{Asked, Charging, Wiring, sharing, wire};
use proptest::prelude::*;

fn pack(chemistry: Chemistry, volts: f64, ah: f64, series: u32, parallel: u32) -> Pack {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    Pack::of(Battery::new("Sedge", chemistry, Volts::of(volts), rating), series, parallel)
}

fn asked(most: f64, charging: Charging) -> Asked {
    Asked {
        most: Amps::of(most),
        today: Amps::of(most * 0.7),
        breaker: true,
        devices: Amps::of(3.0),
        charging,
        insulation: Insulation::C105,
        place: Place::Open,
    }
}

fn rig(volts: f64) -> Rig {
    let skiff = Rig::new("skiff", CraftKind::VHull, Volts::of(volts));
    Rig { lead: Some(Metres::of(2.0)), ..skiff }
}

fn wired(pack: &Pack, asked: &Asked) -> Result<Wiring, NoCable> {
    wire(&rig(pack.voltage().value()), pack, asked)
}

/// Each finding of a circuit that was drawn here is one that cannot be helped: more than any fuse breaks, a share that
/// the bars make uneven.
fn only_what_cannot_be_helped(w: &Wiring, pack: &Pack) -> Result<(), String> {
    for finding in &w.findings {
        let helped = match finding {
            Finding::CannotBreak { fault, .. } => {
                fault.value() <= 2_000.0 && w.full.value() <= 80.0
            }
            // No fuse that is known breaks more volts.
            Finding::Unprotected { .. } => w.full.value() <= 160.0,
            Finding::Uneven { share, .. } => pack.parallel < 3 || (share - 1.0).abs() <= 0.1,
            _ => true,
        };
        if helped {
            return Err(format!("{}S{}P {finding:?}", pack.series, pack.parallel));
        }
    }
    Ok(())
}

/// Every S x P up to 8 x 4, charged as a whole, unit by unit, or not at all, with the breaker and without.
#[test]
fn every_pack_up_to_eight_by_four_passes_the_check() {
    let mut drawn = 0;
    for (chemistry, volts, ah) in [
        (Chemistry::Flooded, 6.0, 225.0),
        (Chemistry::Agm, 12.0, 105.0),
        (Chemistry::Lfp, 12.8, 100.0),
        (Chemistry::Lfp, 25.6, 50.0),
    ] {
        for (s, p) in (1..=8).flat_map(|s| (1..=4).map(move |p| (s, p))) {
            let pack = pack(chemistry, volts, ah, s, p);
            for charging in
                [Charging::Nothing, Charging::Whole(Amps::of(15.0)), Charging::Each(Amps::of(10.0))]
            {
                for breaker in [true, false] {
                    let asked = Asked { breaker, ..asked(50.0, charging) };
                    let w = wired(&pack, &asked).expect("50 A over 2 m");
                    only_what_cannot_be_helped(&w, &pack).unwrap();
                    let idle = w.net.solved().idle;
                    let found = idle[w.motor.0] - idle[w.motor.1];
                    assert!((found / pack.voltage().value() - 1.0).abs() < 1e-6, "{found}");
                    assert_eq!(w.shares.len(), p as usize);
                    assert!((w.shares.iter().sum::<f64>() - f64::from(p)).abs() < 1e-6);
                    drawn += 1;
                }
            }
        }
    }
    assert_eq!(drawn, 768);
}

/// Ohm's law: what the leads lose is current times resistance there and back, as the formula of ABYC E-11 gives it, and
/// the current that a short draws is bounded by the units' own resistance.
#[test]
fn drops_and_faults_are_ohms_law() {
    let mut pack = pack(Chemistry::Lfp, 12.8, 100.0, 2, 1);
    pack.battery.resistance = Some(Ohms::of(0.002));
    let w = wired(&pack, &asked(50.0, Charging::Nothing)).unwrap();
    let cm = w.lead.gauge.circular_mils;
    assert!((w.drop.value() - 10.75 * 35.0 * (4.0 / 0.3048) / cm).abs() < 1e-9);
    assert!(w.drop_share(&pack) < 0.03);
    let loaded = w.net.solved().with_load(w.motor, 35.0);
    let fell = pack.voltage().value() - (loaded[w.motor.0] - loaded[w.motor.1]);
    // Two units of 2 mΩ, the leads, and a few parts of a milliohm each.
    assert!(fell > w.drop.value() + 35.0 * 0.004 && fell < w.drop.value() + 35.0 * 0.008, "{fell}");
    // Published order of size: four LFP cells with their leads have some 2 mΩ, so 6 to 7 kA.
    assert!((6_000.0..7_500.0).contains(&w.fault.value()), "{}", w.fault);
}

/// Currents in parallel units by another method than the one in use: the voltages of the nodes let settle one by one.
#[test]
fn currents_side_by_side_are_those_that_settle() {
    let settle = |n: usize, unit: f64, link: f64, total: f64, opposite: bool| -> Vec<f64> {
        let (mut plus, mut minus) = (vec![0.0; n], vec![0.0; n]);
        let back = if opposite { n - 1 } else { 0 };
        for _ in 0..40_000 {
            for i in 0..n {
                for bar in [true, false] {
                    let (mine, other) = if bar { (&plus, &minus) } else { (&minus, &plus) };
                    let (mut sum, mut of) = (other[i] / unit, 1.0 / unit);
                    for next in
                        [i.checked_sub(1), (i + 1 < n).then_some(i + 1)].into_iter().flatten()
                    {
                        sum += mine[next] / link;
                        of += 1.0 / link;
                    }
                    let drawn = match bar {
                        true if i == 0 => -total,
                        false if i == back => total,
                        _ => 0.0,
                    };
                    let settled = (sum + drawn) / of;
                    if bar { plus[i] = settled } else { minus[i] = settled }
                }
            }
        }
        (0..n).map(|i| (minus[i] - plus[i]) / unit).collect()
    };
    for (n, unit, link) in
        [(2, 0.005, 0.0005), (3, 0.002, 0.0004), (4, 0.005, 0.0005), (6, 0.01, 0.001)]
    {
        for opposite in [true, false] {
            let got = sharing::currents(n, unit, link, Amps::of(100.0), opposite);
            let want = settle(n, unit, link, 100.0, opposite);
            for (got, want) in got.iter().zip(want) {
                assert!((got.value() - want).abs() < 0.02, "{n} {opposite}: {got} {want}");
            }
        }
    }
}

/// A short worked by Thévenin's theorem is the short that is really laid.
#[test]
fn a_fault_is_what_a_piece_of_wire_would_make_of_it() {
    let (_, w) = good(2);
    let solved = w.net.solved();
    for at in 1..w.net.nodes {
        let mut shorted = w.net.clone();
        shorted.join(Kind::Jumper, at, 0, 1e-6);
        let (by_theorem, laid) = (solved.with_fault(at), shorted.solved().idle);
        for (a, b) in by_theorem.iter().zip(&laid) {
            assert!((a - b).abs() < 1e-4, "{at}: {a} {b}");
        }
    }
}

/// A circuit as SPICE reads it: resistors, voltage sources, one load. What is joined to what stands in the file alone.
fn from_spice(text: &str) -> (Netlist, Vec<String>, Option<(usize, f64)>) {
    let (mut net, mut names) = (Netlist::default(), vec!["0".to_owned()]);
    net.node();
    let (mut load, mut sources) = (None, Vec::new());
    for line in text.lines() {
        let words: Vec<&str> = line.split_whitespace().collect();
        let [part, from, to, value] = words[..] else { continue };
        let Ok(value) = value.parse::<f64>() else { continue };
        let mut node = |name: &str| {
            names.iter().position(|n| n == name).unwrap_or_else(|| {
                names.push(name.to_owned());
                net.node()
            })
        };
        let ends = (node(from), node(to));
        match part.chars().next() {
            Some('V') => sources.push((ends.0, ends.1, value)),
            // A source with the resistor behind it is a unit.
            Some('R') => match sources.iter().find(|(plus, ..)| *plus == ends.1) {
                Some((_, minus, volts)) => {
                    net.unit(Kind::Unit { string: 0, place: 0 }, (ends.0, *minus), value, *volts);
                }
                None => net.join(Kind::Lead, ends.0, ends.1, value),
            },
            Some('I') => load = Some((ends.0, value)),
            _ => {}
        }
    }
    (net, names, load)
}

/// Three strings of two, one unit worn, against ngspice 39: with 50 A drawn, and with a short behind the fuse.
#[test]
fn voltages_are_those_of_a_spice_run() {
    let cases = [
        (include_str!("../data/spice/bank-load.cir"), include_str!("../data/spice/bank-load.out")),
        (
            include_str!("../data/spice/bank-short.cir"),
            include_str!("../data/spice/bank-short.out"),
        ),
    ];
    for (circuit, told) in cases {
        let (net, names, load) = from_spice(circuit);
        let solved = net.solved();
        let volts = load.map_or(solved.idle.clone(), |(at, amps)| solved.with_load((at, 0), amps));
        let mut compared = 0;
        for line in told.lines().filter(|l| !l.starts_with('*')) {
            let (node, value) = line.split_once(' ').expect("a node and its volts");
            let at = names.iter().position(|n| n == node).expect("in the circuit");
            let want: f64 = value.parse().expect("volts");
            assert!(
                (volts[at] - want).abs() < 1e-4 * want.abs().max(1.0),
                "{node}: {} {want}",
                volts[at]
            );
            compared += 1;
        }
        assert_eq!(compared, 19);
    }
}

fn good(parallel: u32) -> (Pack, Wiring) {
    let pack = pack(Chemistry::Agm, 12.0, 100.0, 2, parallel);
    let asked = Asked { breaker: false, ..asked(50.0, Charging::Each(Amps::of(10.0))) };
    let w = wired(&pack, &asked).unwrap();
    assert_eq!(w.findings, []);
    (pack, w)
}

/// The circuit of [`good`] with two strings and something done to it, checked again.
fn spoiled(spoil: impl FnOnce(&mut Netlist)) -> Vec<Finding> {
    again(2, spoil)
}

fn again(parallel: u32, spoil: impl FnOnce(&mut Netlist)) -> Vec<Finding> {
    let (pack, w) = good(parallel);
    let mut net = w.net.clone();
    spoil(&mut net);
    check::check(&net, pack.voltage(), w.motor, Amps::of(50.0)).findings
}

#[test]
fn the_check_finds_what_is_wrong() {
    let unit = |net: &Netlist, string, place| {
        let is = |kind| kind == Kind::Unit { string, place };
        net.parts.iter().position(|p| is(p.kind)).unwrap()
    };
    // A unit the wrong way round.
    let found = spoiled(|net| {
        let n = unit(net, 0, 1);
        let part = &mut net.parts[n];
        (part.from, part.to) = (part.to, part.from);
    });
    assert!(found.iter().any(|f| matches!(f, Finding::RunsRound { amps } if amps.value() > 100.0)));
    // A string of other volts beside the first.
    let found = spoiled(|net| {
        let n = unit(net, 1, 0);
        net.parts[n].volts = 6.0;
    });
    assert!(found.iter().any(|f| matches!(f, Finding::RunsRound { .. })));
    // A jumper across a unit.
    let found = spoiled(|net| {
        let part = net.parts[unit(net, 0, 0)];
        net.join(Kind::Jumper, part.from, part.to, 0.0005);
    });
    assert!(found.iter().any(|f| matches!(f, Finding::RunsRound { amps } if amps.value() > 500.0)));
    assert!(found.iter().any(|f| matches!(f, Finding::Volts { .. })));
    // Every fuse forgotten in turn: something is found each time. Where there are two strings, their own fuses protect
    // what the main one does.
    let kind = |f: &Finding| matches!(f, Finding::Unprotected { .. });
    for (parallel, spared, least) in [(1, 0, 5), (2, 1, 10)] {
        let (_, w) = good(parallel);
        let fuses: Vec<usize> =
            (0..w.net.parts.len()).filter(|n| w.net.parts[*n].kind == Kind::Fuse).collect();
        assert!(fuses.len() >= least, "{}", fuses.len());
        let (mut without, mut too_big) = (0, 0);
        for n in &fuses {
            without += usize::from(
                again(parallel, |net| net.parts[*n].kind = Kind::Switch).iter().any(kind),
            );
            too_big +=
                usize::from(again(parallel, |net| net.parts[*n].rating = 900.0).iter().any(kind));
            let too_weak = again(parallel, |net| net.parts[*n].breaks = 100.0);
            assert!(too_weak.iter().any(|f| matches!(f, Finding::CannotBreak { .. })), "{n}");
        }
        assert_eq!((without, too_big), (fuses.len() - spared, fuses.len() - spared));
    }
    let (pack, w) = good(2);
    // The fuse three feet from the battery.
    let before = w.net.parts.iter().position(|p| p.kind == Kind::Lead && p.metres < 0.178).unwrap();
    let far = spoiled(|net| net.parts[before].metres = 0.9);
    assert!(far.is_empty(), "the strings' own fuses protect it: {far:?}");
    let (_, one) = good(1);
    let before =
        one.net.parts.iter().position(|p| p.kind == Kind::Lead && p.metres < 0.178).unwrap();
    let far = again(1, |net| net.parts[before].metres = 0.9);
    assert!(far.iter().any(|f| matches!(f, Finding::Unprotected { kind: Kind::Lead, .. })));
    // A string behind a poor joint.
    let lead = w.net.parts.iter().position(|p| p.kind == Kind::StringLead).unwrap();
    let poor = spoiled(|net| net.parts[lead].ohms += 0.02);
    assert_eq!(poor.iter().filter(|f| matches!(f, Finding::Uneven { .. })).count(), 2, "{poor:?}");
    // Other volts than is claimed.
    let found = check::check(&w.net, pack.voltage() * 2.0, w.motor, Amps::of(50.0)).findings;
    assert!(found.iter().any(|f| matches!(f, Finding::Volts { .. })));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Any pack, any length, any current: a circuit that passes, or a word why there is none; no figure out of bounds.
    #[test]
    fn any_pack_is_wired_or_it_is_said_why_not(
        chemistry in prop::sample::select(Chemistry::ALL.to_vec()),
        volts in 2.0_f64..100.0, ah in 5.0_f64..1_000.0, s in 1_u32..16, p in 1_u32..6,
        most in 0.5_f64..900.0, lead in 0.0_f64..500.0, devices in 0.0_f64..60.0,
        engine in any::<bool>(), cool in any::<bool>(),
    ) {
        let pack = pack(chemistry, volts, ah, s, p);
        let mut asked = asked(most, Charging::Each(Amps::of(10.0)));
        asked.devices = Amps::of(devices);
        asked.place = if engine { Place::EngineSpace } else { Place::Open };
        asked.insulation = if cool { Insulation::C60 } else { Insulation::C105 };
        let rig = Rig { lead: Some(Metres::of(lead)), ..rig(pack.voltage().value()) };
        if let Ok(w) = wire(&rig, &pack, &asked) {
            prop_assert!(w.lead.carries.value() >= most);
            prop_assert!(w.drop_share(&pack) <= 0.03 + 1e-9);
            for run in [Some(w.lead), w.jumper, w.string, w.devices, w.charger].into_iter().flatten() {
                if let Some(fuse) = run.fuse {
                    prop_assert!(fuse.rating.value() <= 1.5 * run.carries.value() + 1e-9);
                    prop_assert!(fuse.rating.value() >= run.amps.value() - 1e-9);
                }
            }
            // Above what any fuse can break in volts there is none to protect it: it is found, never passed over.
            let unfused = w.lead.fuse.is_none();
            let found = w.findings.iter().any(|f| matches!(f, Finding::Unprotected { .. }));
            prop_assert!(!unfused || found || lead < 0.2, "{:?}", w.findings);
            prop_assert!(w.shares.iter().all(|s| *s > 0.0 && *s < f64::from(p) + 1e-6));
        }
    }
}

/// The cable to the motor that a rig tells of takes its volts in the day's run, is the cable that is drawn, and stands in
/// the working. 33 CFR 183 and ABYC E-11 size it; what comes of it is Ohm's law.
#[test]
fn the_motor_stands_behind_its_cable_all_day() {
    let pack = pack(Chemistry::Agm, 12.0, 100.0, 1, 1);
    let day = Day::starting_at(420).then("Out", Hours::of(1.0), Duty::Setting(10.0));
    let rules = HouseRules::default();
    let with = |lead: Option<f64>, measured: bool| {
        let mut rig = Rig { lead: lead.map(Metres::of), ..rig(12.0) };
        rig.motor.max_current = Some(Amps::of(50.0));
        // Nothing caps it: it follows the volts at its own ends.
        rig.motor.max_is_typical = true;
        rig.motor.settings_measured = measured;
        (evaluate(&rig, &day, &rules, &pack).unwrap().drawn.unwrap(), rig)
    };
    let ((bare, _), (behind, rig)) = (with(None, false), with(Some(6.0), false));
    assert!(bare.cable.is_none());
    let cable = behind.cable.unwrap();
    let w = wire(&rig, &pack, &asked(50.0, Charging::Nothing)).unwrap();
    assert_eq!((w.lead.gauge, w.lead.length), (cable.gauge, cable.length));
    // 3 % of 12 V at most: the motor turns slower by that, and draws less, about 1.6 % for each 1 % (its own equation).
    let drop = cable.ohms * Amps::of(50.0);
    assert!((0.2..0.361).contains(&drop.value()), "{drop:?}");
    let less = 1.0 - behind.summary.delivered / bare.summary.delivered;
    let told = 1.6 * (drop / Volts::of(12.0));
    assert!((less / told - 1.0).abs() < 0.25, "{less} {told}");
    // Twice as far is a thicker cable, not twice the drop.
    let far = with(Some(12.0), false).0.cable.unwrap();
    assert!(far.gauge.area() > cable.gauge.area() && far.ohms * Amps::of(50.0) <= Volts::of(0.361));
    // Amps that were measured were measured through the cable: at those volts they stay.
    let (read, read_behind) = (with(None, true).0, with(Some(6.0), true).0);
    let off = read_behind.summary.delivered / read.summary.delivered - 1.0;
    assert!(off.abs() < 0.01, "{off}");
    let told = working(&pack, &day, &rules, &behind, Say::plain("USD"));
    let term = told.iter().flat_map(|l| &l.terms).find(|t| t.name == "cable to the motor").unwrap();
    assert!(
        term.value.contains("AWG") && term.value.contains("less at the motor"),
        "{}",
        term.value
    );
}
