//! Getting the pack full again: which charger fits, how long it takes, whether it is ready in time.

pub mod charge;

use crate::chemistry::Acceptance;
use crate::day::Day;
use crate::pack::Pack;
use crate::rig::{Charger, Rig, Supply};
use crate::units::{AmpHours, Amps, Hours, Volts, WattHours};
use charge::{Charge, ChargeTime, in_turn, wall_energy};

/// Energy into the charger that comes out of it. Common practice, no source: 0.85 to 0.92.
const CHARGER_EFFICIENCY: f64 = 0.88;
/// What the ampere-hours over the current make with a charger that is usual, when none was told. [h]
const USUAL_TIME: Hours = Hours::of(5.0);

/// Why a charger does not fit a pack.
#[derive(Debug, Clone, PartialEq)]
pub enum Misfit {
    /// It has no profile for the chemistry.
    Profile {
        /// The charger.
        charger: String,
        /// The pack's chemistry, in its short name.
        chemistry: &'static str,
    },
    /// Neither the whole string nor its units one by one match its outputs.
    Banks {
        /// The charger.
        charger: String,
        /// Its outputs.
        banks: u32,
        /// Volts of each.
        volts: Volts,
        /// Units in the string.
        series: u32,
        /// Volts of one unit.
        unit: Volts,
        /// Units side by side.
        parallel: u32,
    },
    /// More current than the chemistry should be charged at.
    TooStrong {
        /// The charger.
        charger: String,
        /// What it gives. [A]
        gives: Amps,
        /// What is allowed. [A]
        most: Amps,
    },
}

impl std::fmt::Display for Misfit {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Profile { charger, chemistry } => {
                write!(f, "Needs a charger for {chemistry}: {charger} has no such profile.")
            }
            Self::Banks { charger, banks, volts, series, unit, parallel: 1 } => write!(
                f,
                "Needs another charger: {charger} gives {banks} x {volts:.0}, this takes {series} x {unit:.1}."
            ),
            Self::Banks { charger, banks, volts, series, unit, parallel } => write!(
                f,
                "Needs another charger: {charger} gives {banks} x {volts:.0}, this is {parallel} strings of {series} x {unit:.1}."
            ),
            Self::TooStrong { charger, gives, most } => {
                write!(
                    f,
                    "Needs a smaller charger: {charger} gives {gives:.0}, at most {most:.0} is good for it."
                )
            }
        }
    }
}

/// How the pack gets full again after the day.
#[derive(Debug, Clone, PartialEq)]
pub struct Refill {
    /// The charger, or the pair of them; `None` when none was told and a usual one is assumed.
    pub by: Option<String>,
    /// Charge it starts from, 0 to 1.
    pub from: f64,
    /// Current into the bank, or into each unit. [A]
    pub amps: Amps,
    /// At full current. [h]
    pub bulk: Hours,
    /// Tapering. [h]
    pub tail: Hours,
    /// Charge reached in the hours the charger may run, 0 to 1.
    pub reached: f64,
    /// Ampere-hours put in. [Ah]
    pub amp_hours_in: AmpHours,
    /// Energy from the wall. [Wh]
    pub wall: WattHours,
    /// Whether it is full at the clock time it must be ready by.
    pub ready: Option<bool>,
    /// Chargers that are there and do not fit.
    pub misfits: Vec<Misfit>,
}

impl Refill {
    /// Nothing to do.
    pub const NONE: Self = Self {
        by: None,
        from: 1.0,
        amps: Amps::ZERO,
        bulk: Hours::ZERO,
        tail: Hours::ZERO,
        reached: 1.0,
        amp_hours_in: AmpHours::ZERO,
        wall: WattHours::ZERO,
        ready: None,
        misfits: Vec::new(),
    };

    /// At full current and tapering. [h]
    pub fn hours(&self) -> Hours {
        self.bulk + self.tail
    }
}

/// One charger's work on a pack: ampere-hours of one bank, and the current into it.
fn fit(charger: &Charger, pack: &Pack, accepts: Acceptance) -> Result<Charge, Misfit> {
    let battery = &pack.battery;
    let chemistry = battery.chemistry;
    if !charger.profiles.is_empty() && !charger.profiles.contains(&chemistry) {
        let chemistry = chemistry.name();
        return Err(Misfit::Profile { charger: charger.name.clone(), chemistry });
    }
    let unit_ah = battery.headline().map_or(AmpHours::ZERO, |(ah, _)| ah);
    let matches =
        |volts: Volts| crate::pack::limits::VOLTAGE_MATCH.contains(&(volts / charger.bank_voltage));
    let current = charger.current;
    let charge = if matches(pack.voltage()) {
        // The outputs may all be joined to the one string only where the charger is made for it.
        Charge { capacity: unit_ah * f64::from(pack.parallel), current, accepts }
    } else if matches(battery.nominal_voltage) && charger.banks >= pack.units() {
        Charge { capacity: unit_ah, current, accepts }
    } else {
        return Err(Misfit::Banks {
            charger: charger.name.clone(),
            banks: charger.banks,
            volts: charger.bank_voltage,
            series: pack.series,
            unit: battery.nominal_voltage,
            parallel: pack.parallel,
        });
    };
    if charge.too_strong() {
        return Err(Misfit::TooStrong {
            charger: charger.name.clone(),
            gives: charger.current,
            most: charge.most(),
        });
    }
    Ok(charge)
}

/// One way of getting full: who does it, and how long it takes.
struct Way {
    by: Option<String>,
    charge: Charge,
    bulk: Hours,
    tail: Hours,
    reached: f64,
}

impl Way {
    /// One charger alone, from a charge share, in the hours it may run; `None` when it never gets there.
    fn alone(by: Option<String>, charge: Charge, may: Option<Hours>, from: f64) -> Option<Self> {
        let ChargeTime { bulk, tail } = charge.hours(from, 1.0)?;
        let reached = may.map_or(1.0, |hours| charge.reached(from, hours));
        Some(Self { by, charge, bulk, tail, reached })
    }

    /// A generator for the bulk, then the sun for the tail.
    fn in_turn(generator: (&Charger, Charge), sun: (&Charger, Charge), from: f64) -> Option<Self> {
        let ((strong, charge), (weak, slow)) = (generator, sun);
        let change_at = charge.accepts.bulk_to;
        let (bulk, tail) = in_turn(&charge, &slow, from, change_at, 1.0)?;
        let reached = weak.hours.map_or(1.0, |h| slow.reached(change_at.max(from), h));
        let by = Some(format!("{}, then {}", strong.name, weak.name));
        Some(Self { by, charge, bulk, tail, reached })
    }
}

/// How the pack gets full again: by the fastest charger on the mains that fits, else by generator up to
/// where the tail begins and by the sun from there, else by either alone, else by a usual charger.
pub fn refill(rig: &Rig, day: &Day, pack: &Pack, charge_left: f64) -> Refill {
    let accepts = pack.battery.chemistry.facts().acceptance;
    let from = charge_left.clamp(0.0, 1.0);
    let mut misfits = Vec::new();
    let mut fitting: Vec<(&Charger, Charge)> = Vec::new();
    for charger in &rig.chargers {
        match fit(charger, pack, accepts) {
            Ok(charge) => fitting.push((charger, charge)),
            Err(misfit) => misfits.push(misfit),
        }
    }
    let hours = |charge: &Charge| charge.hours(from, 1.0).map_or(f64::MAX, |t| t.total().value());
    let fastest = |supply: Supply| {
        let fit = fitting.iter().filter(|(c, _)| c.supply == supply).copied();
        fit.min_by(|a, b| hours(&a.1).total_cmp(&hours(&b.1)))
    };
    let alone =
        |(c, charge): (&Charger, Charge)| Way::alone(Some(c.name.clone()), charge, c.hours, from);
    let usual = || {
        let capacity = pack.capacity().ok()?;
        let charge = Charge { capacity, current: capacity / USUAL_TIME, accepts };
        Way::alone(None, charge, None, from)
    };
    let way = match (fastest(Supply::Mains), fastest(Supply::Generator), fastest(Supply::Solar)) {
        (Some(mains), _, _) => alone(mains),
        (None, Some(generator), Some(sun)) => Way::in_turn(generator, sun, from),
        (None, Some(one), None) | (None, None, Some(one)) => alone(one),
        (None, None, None) => usual(),
    };
    let Some(Way { by, charge, bulk, tail, reached }) = way else {
        return Refill { from, reached: from, misfits, ..Refill::NONE };
    };
    let take_out = f64::from(day.start_minute) + day.span().minutes();
    let ready = day.ready_by.map(|by| {
        let wait = (f64::from(by) - take_out).rem_euclid(1440.0);
        reached >= 0.995 && (bulk + tail).minutes() <= wait
    });
    let stored = pack.energy().unwrap_or(WattHours::ZERO) * (1.0 - from);
    Refill {
        by,
        from,
        amps: charge.current,
        bulk,
        tail,
        reached,
        amp_hours_in: charge.amp_hours_in(from, 1.0),
        wall: wall_energy(stored, accepts.round_trip.sqrt(), CHARGER_EFFICIENCY),
        ready,
        misfits,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::day::Duty;
    use crate::house::HouseRules;
    use crate::rig::CraftKind;
    use crate::shelf::{Battery, Chemistry, Rating};
    use crate::units::{AmpHours, Hours};
    use crate::verdict::evaluate;

    fn charger(name: &str, supply: Supply, banks: u32, volts: f64, amps: f64) -> Charger {
        Charger {
            name: name.into(),
            supply,
            banks,
            bank_voltage: Volts::of(volts),
            current: Amps::of(amps),
            profiles: Vec::new(),
            hours: None,
        }
    }

    fn refilled(rig: &Rig, series: u32, volts: f64, chemistry: Chemistry) -> Refill {
        let over = Hours::of(20.0);
        let rating = Rating::Capacity { ah: AmpHours::of(100.0), over };
        let pack = Pack::of(Battery::new("b", chemistry, Volts::of(volts), rating), series, 1);
        let mut day =
            Day::starting_at(7 * 60).then("on", Hours::of(6.0), Duty::Current(Amps::of(8.0)));
        day.ready_by = Some(5 * 60 + 30);
        let e = evaluate(rig, &day, &HouseRules::default(), &pack).expect("no setting");
        e.drawn.expect("fits").refill
    }

    #[test]
    fn one_36_v_battery_cannot_hang_on_three_12_v_banks_but_three_12_v_ones_can() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(36.0));
        rig.chargers = vec![charger("Three-bank", Supply::Mains, 3, 12.0, 10.0)];
        let single = refilled(&rig, 1, 38.4, Chemistry::Lfp);
        assert_eq!(single.by, None);
        let says = single.misfits[0].to_string();
        assert_eq!(
            says,
            "Needs another charger: Three-bank gives 3 x 12 V, this takes 1 x 38.4 V."
        );
        let three = refilled(&rig, 3, 12.8, Chemistry::Lfp);
        assert_eq!((three.by.as_deref(), three.misfits.len()), (Some("Three-bank"), 0));
        // 48 Ah drawn of each, 10 A into each: about five hours and a short tail, long before 05:30.
        assert!((4.5..6.0).contains(&three.hours().value()), "{}", three.hours());
        assert_eq!(three.ready, Some(true));
        rig.chargers[0].profiles = vec![Chemistry::Flooded];
        assert!(refilled(&rig, 3, 12.8, Chemistry::Lfp).misfits[0].to_string().contains("for LFP"));
    }

    #[test]
    fn a_small_charger_is_not_ready_in_the_morning_and_a_strong_one_is_refused() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(12.0));
        rig.chargers = vec![charger("Little", Supply::Mains, 1, 12.0, 3.0)];
        assert_eq!(refilled(&rig, 1, 12.0, Chemistry::Agm).ready, Some(false));
        rig.chargers[0].hours = Some(Hours::of(8.0));
        assert!(refilled(&rig, 1, 12.0, Chemistry::Agm).reached < 0.9);
        rig.chargers = vec![charger("Strong", Supply::Mains, 1, 12.0, 60.0)];
        let refused = refilled(&rig, 1, 12.0, Chemistry::Gel);
        assert!(refused.misfits[0].to_string().contains("at most 30 A"), "{:?}", refused.misfits);
    }

    #[test]
    fn a_generator_does_the_bulk_and_the_sun_the_tail() {
        let mut rig = Rig::new("r", CraftKind::Sailboat, Volts::of(12.0));
        rig.chargers = vec![
            charger("Generator", Supply::Generator, 1, 12.0, 20.0),
            charger("Panels", Supply::Solar, 1, 12.0, 6.0),
        ];
        let both = refilled(&rig, 1, 12.0, Chemistry::Flooded);
        assert_eq!(both.by.as_deref(), Some("Generator, then Panels"));
        assert!(both.bulk < Hours::of(2.0) && both.tail > Hours::of(3.0), "{both:?}");
    }
}
