//! Units that are not alike in one pack: what comes of it, and what is dangerous.

use super::netlist::{Kind, Netlist};
use crate::drawdown;
use crate::pack::{Health, Pack, WeakUnit};
use crate::shelf::{Battery, Chemistry};
use crate::units::{AmpHours, Amps, Volts};

/// Why units must not be joined.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Danger {
    /// Two chemistries in one string: the same charge overfills one and leaves the other empty.
    InOneString {
        /// The pack's.
        ours: Chemistry,
        /// The other one.
        other: Chemistry,
    },
    /// A unit of other volts in the place of one.
    OddVolts {
        /// A unit of the pack. [V]
        ours: Volts,
        /// The other one. [V]
        other: Volts,
    },
    /// Two chemistries side by side: they want other volts, empty and full.
    SideBySide {
        /// The pack's.
        ours: Chemistry,
        /// The other one.
        other: Chemistry,
    },
    /// Packs of other volts side by side: the higher one drives a current into the lower one.
    VoltsSideBySide {
        /// The pack's. [V]
        ours: Volts,
        /// The other one's. [V]
        other: Volts,
        /// The current that runs from one to the other as they are joined. [A]
        amps: Amps,
    },
}

/// What comes of an odd unit in a string.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Odd {
    /// Its capacity against a sound unit's.
    pub share: f64,
    /// Capacity of a sound unit. [Ah]
    pub sound: AmpHours,
    /// What the string gives: the least of its units. [Ah]
    pub string: AmpHours,
    /// The same as the unit of a pack that is judged with it; `None` where it is no worse than the others.
    pub weak: Option<WeakUnit>,
}

/// What comes of another pack side by side with this one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Beside {
    /// Both together. [Ah]
    pub together: AmpHours,
    /// Share of a current that the other one gives while both are full, 0 to 1.
    pub other_gives: f64,
    /// Its share of the ampere-hours, 0 to 1: what it should give.
    pub other_has: f64,
}

/// A worn unit of the same model in a string.
pub fn worn(pack: &Pack, share: f64) -> Option<Odd> {
    let sound = pack.battery.headline().ok()?.0;
    let Health { resistance_factor, .. } = Health::at(share);
    let weak = (share < 1.0).then_some(WeakUnit { capacity_share: share, resistance_factor });
    Some(Odd { share, sound, string: sound * share.min(1.0), weak })
}

/// Another battery in the place of one unit; `None` where a label gives no capacity.
///
/// # Errors
/// [`Danger`] where that must not be.
pub fn odd(pack: &Pack, other: &Battery) -> Result<Option<Odd>, Danger> {
    let ours = &pack.battery;
    if ours.chemistry != other.chemistry {
        return Err(Danger::InOneString { ours: ours.chemistry, other: other.chemistry });
    }
    if ours.cells() != other.cells() {
        let (ours, other) = (ours.nominal_voltage, other.nominal_voltage);
        return Err(Danger::OddVolts { ours, other });
    }
    let (Ok(sound), Ok(odd)) = (drawdown::fit(ours), drawdown::fit(other)) else { return Ok(None) };
    let share = odd.q20 / sound.q20;
    let sound_ah = AmpHours::of(sound.q20);
    // A bank knows units up to as good as the others: what a larger one has beyond that stays in it.
    let weak = WeakUnit {
        capacity_share: share.min(1.0),
        resistance_factor: odd.law.ohms() / sound.law.ohms(),
    };
    let weak = (share < 1.0).then_some(weak);
    Ok(Some(Odd { share, sound: sound_ah, string: sound_ah * share.min(1.0), weak }))
}

/// Another pack side by side with this one; `None` where a label gives no capacity.
///
/// Both are joined at their ends by their own resistance alone: Kirchhoff's laws, see [`Netlist::solved`].
///
/// # Errors
/// [`Danger`] where that must not be.
pub fn beside(pack: &Pack, other: &Pack) -> Result<Option<Beside>, Danger> {
    let fits = (drawdown::fit(&pack.battery), drawdown::fit(&other.battery));
    let (Ok(a), Ok(b)) = fits else { return Ok(None) };
    let of = |p: &Pack, ohms: f64| {
        let rest = p.full_charge_voltage().value();
        (rest, ohms * f64::from(p.series) / f64::from(p.parallel))
    };
    let ((va, ra), (vb, rb)) = (of(pack, a.law.ohms()), of(other, b.law.ohms()));
    let (ours, theirs) = (pack.battery.chemistry, other.battery.chemistry);
    let cells = |p: &Pack| p.battery.cells() * p.series;
    if cells(pack) != cells(other) && (va / vb - 1.0).abs() > 0.01 {
        let amps = Amps::of((va - vb).abs() / (ra + rb));
        let (ours, other) = (pack.voltage(), other.voltage());
        return Err(Danger::VoltsSideBySide { ours, other, amps });
    }
    if ours != theirs {
        return Err(Danger::SideBySide { ours, other: theirs });
    }
    let mut net = Netlist::default();
    let (minus, plus) = (net.node(), net.node());
    for (string, ohms) in [ra, rb].into_iter().enumerate() {
        net.unit(Kind::Unit { string, place: 0 }, (plus, minus), ohms, va);
    }
    let solved = net.solved();
    let each = solved.currents(&solved.with_load((plus, minus), 1.0));
    let ah = |p: &Pack, q20: f64| q20 * f64::from(p.parallel);
    let (mine, its) = (ah(pack, a.q20), ah(other, b.q20));
    Ok(Some(Beside {
        together: AmpHours::of(mine + its),
        other_gives: -each[1],
        other_has: its / (mine + its),
    }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shelf::Rating;
    use crate::units::{Hours, Ohms};

    fn pack(chemistry: Chemistry, volts: f64, ah: f64, series: u32, parallel: u32) -> Pack {
        let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
        Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), series, parallel)
    }

    /// Kirchhoff: 100 and 90 Ah in series give 90, side by side 190.
    #[test]
    fn series_keeps_the_lowest_and_parallel_adds() {
        let sound = pack(Chemistry::Lfp, 12.8, 100.0, 2, 1);
        let other = pack(Chemistry::Lfp, 12.8, 90.0, 1, 1);
        let odd = odd(&sound, &other.battery).unwrap().unwrap();
        assert!((odd.string.value() - 90.0).abs() < 0.5 && odd.weak.is_some(), "{odd:?}");
        let larger =
            super::odd(&sound, &pack(Chemistry::Lfp, 12.8, 140.0, 1, 1).battery).unwrap().unwrap();
        assert!((larger.string.value() - 100.0).abs() < 0.5 && larger.weak.is_none(), "{larger:?}");
        let worn = worn(&sound, 0.7).unwrap();
        assert!((worn.string.value() - 70.0).abs() < 1e-9);
        let one = pack(Chemistry::Lfp, 12.8, 100.0, 1, 1);
        let both = beside(&one, &other).unwrap().unwrap();
        assert!((both.together.value() - 190.0).abs() < 1.0, "{both:?}");
        assert!(both.other_gives > 0.3 && both.other_gives < 0.5);
    }

    /// The resistances decide who gives how much: twice as much gives half as much.
    #[test]
    fn side_by_side_the_stiffer_one_gives_more() {
        let mut one = pack(Chemistry::Agm, 12.0, 100.0, 2, 1);
        let mut other = one.clone();
        one.battery.resistance = Some(Ohms::of(0.004));
        other.battery.resistance = Some(Ohms::of(0.008));
        let both = beside(&one, &other).unwrap().unwrap();
        assert!((both.other_gives - 1.0 / 3.0).abs() < 1e-6, "{both:?}");
        assert!((both.other_has - 0.5).abs() < 1e-9);
    }

    #[test]
    fn what_is_dangerous_is_refused_and_nothing_else() {
        let lfp = pack(Chemistry::Lfp, 12.8, 100.0, 2, 1);
        let agm = pack(Chemistry::Agm, 12.0, 100.0, 2, 1);
        assert!(matches!(odd(&lfp, &agm.battery), Err(Danger::InOneString { .. })));
        let eight = pack(Chemistry::Agm, 8.0, 100.0, 1, 1);
        assert!(matches!(odd(&agm, &eight.battery), Err(Danger::OddVolts { .. })));
        let half = pack(Chemistry::Agm, 12.0, 100.0, 1, 1);
        let Err(Danger::VoltsSideBySide { amps, .. }) = beside(&agm, &half) else { panic!() };
        assert!(amps.value() > 300.0, "12 V into 12 V through some milliohms: {amps}");
        assert!(matches!(
            beside(&lfp, &agm),
            Err(Danger::SideBySide { .. } | Danger::VoltsSideBySide { .. })
        ));
        assert!(beside(&agm, &pack(Chemistry::Agm, 24.0, 60.0, 1, 1)).unwrap().is_some());
    }
}
