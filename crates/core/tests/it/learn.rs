//! What a log teaches, tried on invented owners whose truth is known.

use crate::dice::Dice;
use lake_hour_core::learn::{
    Ageing, Band, Day, Difference, Entry, Factor, Learned, Measure, Meter, Parts, Reason, Refused,
    Told,
};

/// Somebody with a boat: what nobody knows of it, and the kind of day it is used for.
struct Owner {
    dice: Dice,
    truth: [f64; 4],
    /// Shares of the day's use driven at settings, at speeds, holding, and for devices.
    mix: [f64; 4],
}

const SEASON: f64 = 0.5;

impl Owner {
    fn new(n: u64) -> Self {
        let mut dice = Dice(n.wrapping_mul(7919) + 17);
        let truth = Factor::ALL.map(|f| f.prior().sd * dice.normal());
        let mix = match n % 3 {
            0 => [0.75, 0.0, 0.15, 0.10],
            1 => [0.15, 0.70, 0.05, 0.10],
            _ => [0.35, 0.30, 0.25, 0.10],
        };
        Self { dice, truth, mix }
    }

    /// A day's parts by label: four stretches a kind.
    fn parts(&mut self) -> Parts {
        let size = 0.25 + 0.3 * self.dice.flat();
        let of = |n: usize| size * self.mix[n];
        let squares = [of(0), of(1), of(2)].map(|part| part * part / 4.0);
        Parts {
            at_settings: of(0),
            at_speed: of(1),
            holding: of(2),
            devices: of(3),
            squares,
            between: [squares[0], squares[1]],
        }
    }

    /// What such a day really takes of the label's capacity.
    fn takes(&mut self, parts: &Parts, years: f64) -> f64 {
        let [d, h, w, c] = self.truth;
        let c = c - Factor::Capacity.prior().ages * years;
        // The told wind is its mean: the push of it, by the cube, too.
        let wind = 0.375 * self.dice.normal() - 0.375 * 0.375 / 2.0;
        let mut late = |part: f64, off: f64, squares: f64| {
            part + (off * off + 0.01).sqrt() * squares.sqrt() * self.dice.normal()
        };
        let a = late(parts.at_settings, 0.06, parts.squares[0]) * (d - c).exp();
        let b = late(parts.at_speed, 0.12, parts.squares[1]) * (d + h - c).exp();
        let e = late(parts.holding, 0.0, parts.squares[2]) * (d + 1.5 * w - c + wind).exp();
        a + b + e + parts.devices * (-c).exp()
    }

    fn outing(&mut self, id: i64, years: f64) -> Entry {
        let parts = self.parts();
        let took = self.takes(&parts, years);
        let meter = [Meter::Shunt, Meter::Percent, Meter::Percent][(id % 3) as usize];
        let seen = match meter {
            Meter::Shunt => took * (self.truth[3] - 0.02 * years).exp(),
            _ => took,
        };
        let used = (seen + meter.unsure() * self.dice.normal()).clamp(0.01, 1.0);
        Entry { id, years, told: Told::Used { parts, used, meter, wind_guessed: false } }
    }
}

fn day(parts: Parts) -> Day {
    Day { parts, wind_guessed: false }
}

fn holds(band: &Band, took: f64) -> bool {
    (band.low..=band.high).contains(&took)
}

/// After so many outings: shares of true factors and of next days' uses within their bands, and the bands' width over what it
/// was before anything was logged.
fn tried(owners: u64, outings: i64, with_amps: bool) -> ([f64; 4], f64, f64) {
    let (mut factors, mut days, mut width) = ([0.0; 4], 0.0, 0.0);
    for n in 0..owners {
        let mut owner = Owner::new(n);
        let mut entries: Vec<Entry> = (0..outings)
            .map(|id| owner.outing(id, SEASON * id as f64 / outings.max(2) as f64))
            .collect();
        if with_amps {
            // What such a day makes worth most, and no day to come: amps at a setting or at a speed.
            let usual = owner.parts();
            let [d, h, ..] = owner.truth;
            let told = match Learned::from(&entries, SEASON).next(&day(usual))[0].measure {
                Measure::AmpsAtSetting => Told::Amps((d + 0.04 * owner.dice.normal()).exp()),
                _ => Told::AmpsAtSpeed((d + h + 0.05 * owner.dice.normal()).exp()),
            };
            entries.push(Entry { id: 99, years: 0.0, told });
        }
        let learned = Learned::from(&entries, SEASON);
        for (p, factor) in Factor::ALL.into_iter().enumerate() {
            let [low, _, high] = learned.factor(factor);
            let aged = if factor == Factor::Capacity { 0.02 * SEASON } else { 0.0 };
            let truth = (owner.truth[p] - aged).exp();
            factors[p] += f64::from(u8::from((low..=high).contains(&truth)));
        }
        let parts = owner.parts();
        let took = owner.takes(&parts, SEASON);
        let (after, before) = (learned.day(&day(parts)), learned.day_before(&day(parts)));
        days += f64::from(u8::from(holds(&after, took)));
        width += after.width() / before.width();
    }
    let share = |sum: f64| sum / owners as f64;
    (factors.map(share), share(days), share(width))
}

/// Synthetic truth, as no published log of such outings is known to us: 300 invented owners; what four in five are promised
/// holds for 75 to 85 in a hundred, whatever was logged. Of a day's use it holds for 85 in a hundred where many are tried: a sum
/// with the wind's long tail in it lies closer about its middle than its variance says.
#[test]
#[allow(clippy::print_stdout)]
fn bands_hold_what_they_promise() {
    for (outings, narrower) in [(3, 0.60), (6, 0.55), (12, 0.48)] {
        let (factors, days, width) = tried(300, outings, false);
        println!("after {outings}: {factors:.3?} {days:.3}, {width:.3} as wide");
        for (factor, share) in Factor::ALL.iter().zip(factors) {
            assert!((0.75..=0.85).contains(&share), "{factor:?} after {outings}: {share}");
        }
        assert!((0.75..=0.88).contains(&days), "next day after {outings}: {days}");
        assert!(width <= narrower, "after {outings} the band is {width} of what it was");
    }
    let (_, days, width) = tried(300, 3, true);
    assert!((0.75..=0.88).contains(&days) && width <= 0.55, "with amps: {days}, {width}");
}

fn steady(id: i64, used: f64) -> Entry {
    let parts =
        Parts { at_settings: 0.35, devices: 0.05, squares: [0.03, 0.0, 0.0], ..Parts::default() };
    let told = Told::Used { parts, used, meter: Meter::Percent, wind_guessed: false };
    Entry { id, years: 0.02 * id as f64, told }
}

#[test]
fn nothing_logged_teaches_nothing() {
    let none = Learned::from(&[], 0.0);
    assert_eq!((none.count(), none.factor(Factor::Draw)), (0, none.factor_before(Factor::Draw)));
    assert!((none.still(Factor::Drag) - 1.0).abs() < 1e-12);
    let d = day(Parts { at_settings: 0.4, squares: [0.04, 0.0, 0.0], ..Parts::default() });
    assert_eq!(none.day(&d), none.day_before(&d));
    assert_eq!(none.day(&day(Parts::default())).width(), 0.0);
}

/// The same log gives the same answer in whatever order it is read, and says what is logged twice as much more surely.
#[test]
fn order_does_not_matter_and_more_is_surer() {
    let all: Vec<Entry> = (0..8).map(|n| steady(n, 0.44 + 0.01 * (n % 3) as f64)).collect();
    let mut other = all.clone();
    other.reverse();
    assert_eq!(Learned::from(&all, 1.0), Learned::from(&other, 1.0));
    let few = Learned::from(&all[..3], 1.0);
    let many = Learned::from(&all, 1.0);
    assert!(many.unsure(Factor::Draw) < few.unsure(Factor::Draw));
    // 0.44 to 0.46 of what should be 0.40: it draws more than the curve says.
    assert!(many.factor(Factor::Draw)[1] > 1.05);
    // Only settings were driven: of drag and wind nothing is known.
    assert!(many.still(Factor::Drag) > 0.95 && many.still(Factor::Wind) > 0.95);
}

#[test]
fn one_wild_entry_is_not_believed() {
    let mut all: Vec<Entry> = (0..8).map(|n| steady(n, 0.40)).collect();
    let without = Learned::from(&all, 0.3).factor(Factor::Draw)[1];
    all.push(steady(8, 0.93));
    let with = Learned::from(&all, 0.3);
    assert_eq!(with.doubted(), [8]);
    assert!((with.factor(Factor::Draw)[1] / without - 1.0).abs() < 0.02);
    // Two in a row are no accident.
    all.extend([
        steady(9, 0.62),
        steady(10, 0.60),
        steady(11, 0.61),
        steady(12, 0.61),
        steady(13, 0.6),
    ]);
    assert!(Learned::from(&all, 0.3).factor(Factor::Draw)[1] > without * 1.05);
}

/// A pack that came home empty used what there was, and may have wanted more.
#[test]
fn an_emptied_pack_tells_at_least() {
    let parts = Parts { at_settings: 0.80, squares: [0.1, 0.0, 0.0], ..Parts::default() };
    let used = |used| {
        let told = Told::Used { parts, used, meter: Meter::Percent, wind_guessed: false };
        let entries: Vec<Entry> = (0..3).map(|id| Entry { id, years: 0.1, told }).collect();
        Learned::from(&entries, 0.1).factor(Factor::Draw)[1]
    };
    assert!(used(1.0) > 1.0 && used(1.0) > used(0.90));
    assert!((used(0.98) - used(1.0)).abs() < 1e-12);
}

/// Who drives by speed only knows draw times drag well, and neither alone.
#[test]
fn what_cannot_be_told_apart_is_told_together() {
    let parts = Parts { at_speed: 0.4, squares: [0.0, 0.01, 0.0], ..Parts::default() };
    let told = Told::Used { parts, used: 0.44, meter: Meter::Shunt, wind_guessed: false };
    let entries: Vec<Entry> =
        (0..12).map(|id| Entry { id, years: 0.03 * id as f64, told }).collect();
    let learned = Learned::from(&entries, 0.4);
    assert!(learned.tangled(Factor::Draw, Factor::Drag));
    let [low, middle, high] = learned.product(&[Factor::Draw, Factor::Drag]);
    assert!(low < 1.1 && 1.1 < high && (high - low) / middle < 0.2, "{low} {middle} {high}");
    assert!(learned.still(Factor::Draw) > 0.8);
}

/// What is measured narrows as was promised, and the first of the list most.
#[test]
fn what_to_measure_next_is_worth_what_it_says() {
    let entries: Vec<Entry> = (0..2).map(|n| steady(n, 0.42)).collect();
    let learned = Learned::from(&entries, 0.1);
    let tomorrow = day(Parts { at_settings: 0.5, squares: [0.06, 0.0, 0.0], ..Parts::default() });
    let worth = learned.next(&tomorrow);
    assert!(worth.windows(2).all(|w| w[0].width <= w[1].width));
    assert_eq!(worth[0].measure, Measure::AmpsAtSetting);
    let mut measured = entries;
    let draw = learned.factor(Factor::Draw)[1];
    measured.push(Entry { id: 9, years: 0.1, told: Told::Amps(draw) });
    let width = Learned::from(&measured, 0.1).day(&tomorrow).width();
    assert!((width / worth[0].width - 1.0).abs() < 0.03, "{width} {:?}", worth[0]);
    assert!(width < learned.day(&tomorrow).width());
}

#[test]
fn a_difference_is_named_only_as_far_as_it_can_be_told() {
    let holding = Parts { holding: 0.4, squares: [0.0, 0.0, 0.01], ..Parts::default() };
    let mut entries: Vec<Entry> = (0..6).map(|n| steady(n, 0.40)).collect();
    let hold = |id, used| Entry {
        id,
        years: 0.3,
        told: Told::Used { parts: holding, used, meter: Meter::Shunt, wind_guessed: false },
    };
    entries.extend([hold(10, 0.44), hold(11, 0.43), hold(12, 0.45), hold(13, 0.85)]);
    let usual = Difference::of(&entries, 5, Ageing::UNTOLD).unwrap();
    assert!(usual.is_usual() && usual.named().is_none());
    // Twice as much to hold a place, after three such days that went well: the wind of that day.
    let blown = Difference::of(&entries, 13, Ageing::UNTOLD).unwrap();
    assert!(blown.more > 0.2 && !blown.is_usual());
    assert_eq!(blown.shares[0].reason, Reason::WindOfDay);
    let told: f64 = blown.shares.iter().map(|s| s.made).sum();
    assert!((told + blown.rest - blown.more).abs() < 1e-12);
    // Nothing known beforehand: draw or capacity, nobody can tell.
    let first = Difference::of(&[steady(1, 0.62)], 1, Ageing::UNTOLD).unwrap();
    assert!(!first.is_usual() && first.expected < 0.45);
    // Not an outing, and none at all.
    let amps = Entry { id: 1, years: 0.0, told: Told::Amps(1.0) };
    assert!(Difference::of(&[amps], 1, Ageing::UNTOLD).is_none());
    assert!(Difference::of(&entries, 77, Ageing::UNTOLD).is_none());
}

/// Rubbish teaches nothing, and says why.
#[test]
fn rubbish_is_refused_and_teaches_nothing() {
    let entry = |told| Entry { id: 1, years: 0.0, told };
    let used = |used, parts| Told::Used { parts, used, meter: Meter::Percent, wind_guessed: false };
    let some = Parts { at_settings: 0.4, ..Parts::default() };
    for (told, why) in [
        (used(0.0, some), Refused::Swapped),
        (used(-0.2, some), Refused::Swapped),
        (used(f64::NAN, some), Refused::Swapped),
        (used(1.03, some), Refused::TooMuch),
        (used(0.4, Parts::default()), Refused::NothingDriven),
        (Told::Amps(0.3), Refused::OtherAmps),
        (Told::AmpsAtSpeed(f64::INFINITY), Refused::OtherAmps),
        (Told::Capacity(0.5), Refused::OtherCapacity),
    ] {
        let bad = entry(told);
        assert_eq!(bad.check(), Err(why), "{told:?}");
        assert_eq!(Learned::from(&[bad], 1.0), Learned::from(&[], 1.0));
    }
    assert!(entry(Told::Capacity(0.92)).check().is_ok());
    // A great many entries, and absurd ones among them, still give figures.
    let mut many: Vec<Entry> =
        (0..60).map(|n| steady(n, if n % 7 == 0 { 1.0 } else { 0.01 })).collect();
    many.push(entry(Told::Amps(2.0)));
    let learned = Learned::from(&many, 5.0);
    assert!(
        Factor::ALL.iter().all(|f| learned.factor(*f).iter().all(|v| v.is_finite() && *v > 0.0))
    );
}

/// A change is asked about where it shows, and hardly where there is none: of 600 owners to whom nothing happened after nine
/// outings, and of 600 whose motor draws half as much again from then on.
#[test]
fn a_change_is_asked_about_where_it_shows() {
    let asked = |times: f64| -> (f64, f64) {
        let (mut more, mut less) = (0.0, 0.0);
        for n in 0..600 {
            let mut owner = Owner::new(n);
            let mut entries: Vec<Entry> =
                (0..9).map(|id| owner.outing(id, 0.02 * id as f64)).collect();
            owner.truth[0] += times.ln();
            entries.extend((9..12).map(|id| owner.outing(id, 0.02 * id as f64)));
            match Difference::changed(&entries, Ageing::UNTOLD) {
                Some(true) => more += 1.0 / 600.0,
                Some(false) => less += 1.0 / 600.0,
                None => {}
            }
        }
        (more, less)
    };
    let (more, less) = asked(1.0);
    println!("nothing changed: {more:.3} {less:.3}");
    assert!(more + less < 0.03, "{more} {less}");
    let (more, less) = asked(1.5);
    println!("half as much again: {more:.3} {less:.3}");
    assert!(more > 0.5 && less < 0.01, "{more} {less}");
    let (more, less) = asked(0.6);
    println!("less: {more:.3} {less:.3}");
    assert!(less > 0.4 && more < 0.01, "{more} {less}");
    assert_eq!(Difference::changed(&[steady(1, 0.3), steady(2, 0.3)], Ageing::UNTOLD), None);
}
