//! Getting the pack full again: which charger fits, how long it takes, whether it is ready in time.

pub mod charge;

use crate::chemistry::Acceptance;
use crate::day::Day;
use crate::pack::Pack;
use crate::rig::{Charger, Rig, Supply};
use crate::shelf::{Battery, Chemistry};
use crate::units::{AmpHours, Amps, Hours, Money, Volts, WattHours, Watts};
use charge::in_turn;
pub(crate) use charge::wall_energy;
pub use charge::{Charge, ChargeTime};

/// Energy into the charger that comes out of it. Common practice, no source: 0.85 to 0.92.
pub(crate) const CHARGER_EFFICIENCY: f64 = 0.88;
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
    /// It holds more or fewer volts in absorption than is good for one of its banks.
    Absorption {
        /// The charger.
        charger: String,
        /// What it holds. [V]
        holds: Volts,
        /// From what fills it to what is never passed. [V]
        good: (Volts, Volts),
        /// What the bank is.
        chemistry: Chemistry,
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
            Self::Absorption { charger, holds, good: (low, high), chemistry } => {
                let does = match (holds > high, chemistry) {
                    (false, _) => "it never gets full",
                    (true, Chemistry::Gel) => "its bubbles stay in the gel",
                    (true, Chemistry::Lfp | Chemistry::Nmc) => "its BMS shuts off",
                    (true, Chemistry::Agm | Chemistry::Flooded) => "it gasses its water away",
                };
                let name = chemistry.name();
                write!(
                    f,
                    "Needs another setting: {charger} holds {holds:.1} in absorption, {name} of those volts wants {low:.1} to {high:.1}; {does}."
                )
            }
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
    /// The charger, or the pair of them; `None` when none aboard suits and a usual one is assumed.
    pub by: Option<String>,
    /// Charge it starts from, 0 to 1.
    pub from: f64,
    /// Charge it ends at: the ceiling of the house, 0 to 1.
    pub to: f64,
    /// Current into the bank, or into each unit. [A]
    pub amps: Amps,
    /// At full current. [h]
    pub bulk: Hours,
    /// Tapering. [h]
    pub tail: Hours,
    /// From take-out until it is done, the hours of each day left out in which the charger may not run. [h]
    pub elapsed: Hours,
    /// Charge reached in the hours the charger may run, 0 to 1.
    pub reached: f64,
    /// Ampere-hours put in. [Ah]
    pub amp_hours_in: AmpHours,
    /// Energy from the wall. [Wh]
    pub wall: WattHours,
    /// Whether it is full at the clock time it must be ready by.
    pub ready: Option<bool>,
    /// From when it is done until it must be ready, negative when that comes first; told with [`Self::ready`]. [h]
    pub early: Option<Hours>,
    /// The charge that is made, of the bank or of each unit; `None` when nothing gives any.
    pub charge: Option<Charge>,
    /// Chargers that are there and do not fit.
    pub misfits: Vec<Misfit>,
    /// Unit after unit, where none fits the pack as it is wired.
    pub by_turns: Option<ByTurns>,
}

impl Refill {
    /// Nothing to do.
    pub const NONE: Self = Self {
        by: None,
        from: 1.0,
        to: 1.0,
        amps: Amps::ZERO,
        bulk: Hours::ZERO,
        tail: Hours::ZERO,
        elapsed: Hours::ZERO,
        reached: 1.0,
        amp_hours_in: AmpHours::ZERO,
        wall: WattHours::ZERO,
        ready: None,
        early: None,
        charge: None,
        misfits: Vec::new(),
        by_turns: None,
    };

    /// How long the charger runs until a charge share is reached, from where the day left it; `None` when it never is. [h]
    pub fn until(&self, share: f64) -> Option<Hours> {
        Some(self.charge?.hours(self.from, share)?.total())
    }

    /// Charge share reached when the charger has run for some hours, 0 to 1.
    pub fn after(&self, hours: Hours) -> Option<f64> {
        Some(self.charge?.reached(self.from, hours).min(self.to.max(self.from)))
    }

    /// At full current and tapering. [h]
    pub fn hours(&self) -> Hours {
        self.bulk + self.tail
    }
}

/// Whether an output of a charger is made for a battery of so many volts.
fn is_for(charger: &Charger, volts: Volts) -> bool {
    crate::pack::limits::VOLTAGE_MATCH.contains(&(volts / charger.bank_voltage))
}

/// One charger's work on a pack: ampere-hours of one bank, and the current into it; `unit` is one unit's capacity, at
/// vanishing current and over twenty hours.
fn fit(
    charger: &Charger,
    pack: &Pack,
    unit: (AmpHours, AmpHours),
    accepts: Acceptance,
) -> Result<Charge, Misfit> {
    let battery = &pack.battery;
    let chemistry = battery.chemistry;
    if !charger.profiles.is_empty() && !charger.profiles.contains(&chemistry) {
        let chemistry = chemistry.name();
        return Err(Misfit::Profile { charger: charger.name.clone(), chemistry });
    }
    let matches = |volts: Volts| is_for(charger, volts);
    let current = charger.current;
    let charge = if matches(pack.voltage()) {
        // The outputs may all be joined to the one string only where the charger is made for it.
        Charge { capacity: unit.0 * f64::from(pack.parallel), current, accepts }
    } else if matches(battery.nominal_voltage) && charger.banks >= pack.units() {
        Charge { capacity: unit.0, current, accepts }
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
    let cells =
        if matches(pack.voltage()) { battery.cells() * pack.series } else { battery.cells() };
    let good = absorbs(battery, cells);
    if let Some(holds) = charger.absorption
        && !(good.0.value() * 0.999..=good.1.value() * 1.001).contains(&holds.value())
    {
        return Err(Misfit::Absorption { charger: charger.name.clone(), holds, good, chemistry });
    }
    // What is good for it is a share of its 20-hour ampere-hours.
    let most = charge.most() * (unit.1 / unit.0);
    // A label's figure and a worked one differ in the last digits.
    if charge.current > most * 1.001 {
        let (charger, gives) = (charger.name.clone(), charger.current);
        return Err(Misfit::TooStrong { charger, gives, most });
    }
    Ok(charge)
}

/// Volts at which so many cells of a battery are filled, and which are never passed: the chemistry's, and the label's
/// own most where that is less. [V]
fn absorbs(battery: &Battery, cells: u32) -> (Volts, Volts) {
    let (low, high) = battery.chemistry.facts().absorption_cell;
    let of = |cell: f64| Volts::of(cell * f64::from(cells));
    let label = battery.charge_voltage.map(|v| v * (f64::from(cells) / f64::from(battery.cells())));
    let most = label.filter(|v| *v > of(low) && *v < of(high)).unwrap_or(of(high));
    (of(low), most)
}

/// The units of a pack one after another on a charger that has too few outputs for them, moved by hand.
#[derive(Debug, Clone, PartialEq)]
pub struct ByTurns {
    /// The charger.
    pub charger: String,
    /// How often it is moved, the first time counted.
    pub rounds: u32,
    /// Each time. [h]
    pub each: Hours,
}

/// As many units at a time as a charger has outputs, `rounds = units / outputs`; `None` where none has an output that
/// suits one unit.
fn by_turns(rig: &Rig, pack: &Pack, taken: &Taken, to: f64) -> Option<ByTurns> {
    let accepts = pack.battery.chemistry.facts().acceptance;
    let alone = Pack { series: 1, parallel: 1, ..pack.clone() };
    let turns = rig.chargers.iter().filter_map(|charger| {
        let charge = fit(charger, &alone, (taken.unit, taken.rated), accepts).ok()?;
        let each = charge.hours(taken.left, to)?.total();
        let rounds = pack.units().div_ceil(charger.banks);
        Some(ByTurns { charger: charger.name.clone(), rounds, each })
    });
    let whole = |t: &ByTurns| t.each.value() * f64::from(t.rounds);
    turns.min_by(|a, b| whole(a).total_cmp(&whole(b)))
}

/// What the wall's plug gives for hours on end: four fifths of its circuit (National Electrical Code 210.20(A), from
/// memory).
pub const FOR_HOURS: f64 = 0.8;

/// What all chargers on the mains take from one inlet when they run together; `None` where there are not two. [W]
///
/// `W = outputs x A x V in absorption / efficiency`, with 1.2 times the nominal volts where they are not told.
pub fn from_one_inlet(rig: &Rig) -> Option<Watts> {
    let mains: Vec<&Charger> = rig.chargers.iter().filter(|c| c.supply == Supply::Mains).collect();
    let takes = |c: &&Charger| {
        let volts = c.absorption.unwrap_or(c.bank_voltage * 1.2);
        volts * c.current * (f64::from(c.banks) / CHARGER_EFFICIENCY)
    };
    (mains.len() > 1).then(|| mains.iter().map(takes).sum())
}

/// One way of getting full: who does it, and how long it takes.
struct Way {
    by: Option<String>,
    charge: Charge,
    bulk: Hours,
    tail: Hours,
    elapsed: Hours,
    reached: f64,
}

/// From take-out until a charger has run so many hours that may run only so many of a day. [h]
fn elapsed(runs: Hours, may: Option<Hours>) -> Hours {
    let Some(may) = may.filter(|m| *m > Hours::ZERO && *m < runs) else { return runs };
    let days = (runs / may).ceil() - 1.0;
    Hours::of(24.0 * days) + (runs - may * days)
}

impl Way {
    /// One charger alone, from a charge share to another, in the hours it may run; `None` when it never gets there.
    fn alone(
        by: Option<String>,
        charge: Charge,
        may: Option<Hours>,
        from: f64,
        to: f64,
    ) -> Option<Self> {
        let ChargeTime { bulk, tail } = charge.hours(from, to)?;
        let reached = may.map_or(to, |hours| charge.reached(from, hours).min(to));
        Some(Self { by, charge, bulk, tail, elapsed: elapsed(bulk + tail, may), reached })
    }

    /// A generator for the bulk, then the sun for the tail.
    fn in_turn(
        generator: (&Charger, Charge),
        sun: (&Charger, Charge),
        from: f64,
        to: f64,
    ) -> Option<Self> {
        let ((strong, charge), (weak, slow)) = (generator, sun);
        let change_at = charge.accepts.bulk_to;
        let (bulk, tail) = in_turn(&charge, &slow, from, change_at, to)?;
        let reached = weak.hours.map_or(to, |h| slow.reached(change_at.max(from), h).min(to));
        let by = Some(format!("{}, then {}", strong.name, weak.name));
        let elapsed = elapsed(bulk, strong.hours) + elapsed(tail, weak.hours);
        Some(Self { by, charge, bulk, tail, elapsed, reached })
    }
}

/// Which chargers fit a pack, with what each does, and why the others do not.
fn sorted_out<'a>(
    rig: &'a Rig,
    pack: &Pack,
    unit: (AmpHours, AmpHours),
) -> (Vec<(&'a Charger, Charge)>, Vec<Misfit>) {
    let accepts = pack.battery.chemistry.facts().acceptance;
    let (mut fitting, mut misfits) = (Vec::new(), Vec::new());
    for charger in &rig.chargers {
        match fit(charger, pack, unit, accepts) {
            Ok(charge) => fitting.push((charger, charge)),
            Err(misfit) => misfits.push(misfit),
        }
    }
    (fitting, misfits)
}

/// An output of a charger that fits a pack.
#[derive(Debug, Clone, PartialEq)]
pub struct Output<'a> {
    /// The charger.
    pub charger: &'a Charger,
    /// Current of one output. [A]
    pub current: Amps,
    /// Every unit hangs on an output of its own, and not the pack as a whole on one.
    pub each_unit: bool,
}

impl Output<'_> {
    /// What the pack gets: a charger on each unit gives every string its current. [A]
    fn to_the_pack(&self, pack: &Pack) -> Amps {
        self.current * if self.each_unit { f64::from(pack.parallel) } else { 1.0 }
    }
}

/// The outputs of the chargers that fit a pack, in the rig's order.
fn outputs<'a>(rig: &'a Rig, pack: &Pack) -> Vec<Output<'a>> {
    let Ok((unit_ah, _)) = pack.battery.headline() else { return Vec::new() };
    let (fitting, _) = sorted_out(rig, pack, (unit_ah, unit_ah));
    let output = |(charger, charge): (&'a Charger, Charge)| Output {
        charger,
        current: charge.current,
        each_unit: pack.units() > 1 && !is_for(charger, pack.voltage()),
    };
    fitting.into_iter().map(output).collect()
}

/// That of the strongest charger that fits a pack; `None` when none does.
pub fn strongest<'a>(rig: &'a Rig, pack: &Pack) -> Option<Output<'a>> {
    let by_amps = |o: &Output<'_>| o.to_the_pack(pack).value();
    outputs(rig, pack).into_iter().max_by(|a, b| by_amps(a).total_cmp(&by_amps(b)))
}

/// The same of those that live on one supply, with the current that the pack gets. [A]
pub fn strongest_on<'a>(rig: &'a Rig, pack: &Pack, supply: Supply) -> Option<(&'a Charger, Amps)> {
    let on = outputs(rig, pack).into_iter().filter(|o| o.charger.supply == supply);
    let given = on.map(|o| (o.charger, o.to_the_pack(pack)));
    given.max_by(|a, b| a.1.value().total_cmp(&b.1.value()))
}

/// What the strongest charger that fits gives a pack in a night, and for how long; `None` when none fits.
pub fn overnight(rig: &Rig, day: &Day, pack: &Pack) -> Option<(Amps, Hours)> {
    let output = strongest(rig, pack)?;
    Some((output.to_the_pack(pack), output.charger.hours.unwrap_or(day.night())))
}

/// Whether a charger aboard suits a pack.
pub fn suits(rig: &Rig, pack: &Pack) -> bool {
    !outputs(rig, pack).is_empty()
}

/// A charger that would suit a pack.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Wanted {
    /// Volts of an output for the whole pack. [V]
    pub volts: Volts,
    /// From what fills it in a night to the most that is good for it. [A]
    pub amps: (Amps, Amps),
}

impl Wanted {
    /// For a pack of so many ampere-hours. A tenth of them fills it in a night: common practice, no source.
    pub fn of(pack: &Pack, whole: AmpHours) -> Self {
        let each_hour = whole / Hours::of(1.0);
        let most = pack.battery.chemistry.facts().acceptance.most;
        Self { volts: pack.voltage(), amps: (each_hour * 0.1, each_hour * most) }
    }

    /// What the smallest such charger costs, about: $40 and $0.45 a watt, to the next ten. Typical, from memory.
    pub fn typical_price(&self) -> Money {
        let watts = self.volts.value() * self.amps.0.value();
        Money::of(((40.0 + 0.45 * watts) / 10.0).ceil() * 10.0)
    }
}

/// What a day took out of a pack and left in it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Taken {
    /// Capacity of one unit as fitted and as worn, at vanishing current. [Ah]
    pub unit: AmpHours,
    /// The same over twenty hours. [Ah]
    pub rated: AmpHours,
    /// Charge left, 0 to 1.
    pub left: f64,
    /// Mean voltage at which it gave its charge. [V]
    pub mean_volts: Volts,
}

/// Charge that is missing to a share. [Ah]
fn missing(pack: &Pack, taken: &Taken, to: f64) -> AmpHours {
    taken.unit * f64::from(pack.parallel) * (to - taken.left).max(0.0)
}

/// Energy that it takes from the wall to get a pack to a share of its charge, whatever charges it. [Wh]
pub fn from_the_wall(pack: &Pack, taken: &Taken, to: f64) -> WattHours {
    let round_trip = pack.battery.chemistry.facts().acceptance.round_trip;
    wall_energy(missing(pack, taken, to) * taken.mean_volts, round_trip, CHARGER_EFFICIENCY)
}

/// How the pack gets full again, up to `to`: by the fastest charger on the mains that fits, else by generator up to
/// where the tail begins and by the sun from there, else by either alone, else by a usual charger.
///
/// What is missing is `(to - left) x capacity`; the charger puts in that over the coulombic efficiency, and the wall gives
/// what came out of it, `missing x mean volts`, over the battery's round trip and the charger's efficiency.
pub fn refill(rig: &Rig, day: &Day, pack: &Pack, taken: &Taken, to: f64) -> Refill {
    let accepts = pack.battery.chemistry.facts().acceptance;
    let from = taken.left;
    let (fitting, misfits) = sorted_out(rig, pack, (taken.unit, taken.rated));
    let hours = |charge: &Charge| charge.hours(from, to).map_or(f64::MAX, |t| t.total().value());
    let fastest = |supply: Supply| {
        let fit = fitting.iter().filter(|(c, _)| c.supply == supply).copied();
        fit.min_by(|a, b| hours(&a.1).total_cmp(&hours(&b.1)))
    };
    let alone = |(c, charge): (&Charger, Charge)| {
        Way::alone(Some(c.name.clone()), charge, c.hours, from, to)
    };
    let whole = taken.unit * f64::from(pack.parallel);
    let usual = || {
        let charge = Charge { capacity: whole, current: whole / USUAL_TIME, accepts };
        Way::alone(None, charge, None, from, to)
    };
    let way = match (fastest(Supply::Mains), fastest(Supply::Generator), fastest(Supply::Solar)) {
        (Some(mains), _, _) => alone(mains),
        (None, Some(generator), Some(sun)) => Way::in_turn(generator, sun, from, to),
        (None, Some(one), None) | (None, None, Some(one)) => alone(one),
        (None, None, None) => usual(),
    };
    let Some(Way { by, charge, bulk, tail, elapsed, reached }) = way else {
        return Refill { from, to, reached: from, misfits, ..Refill::NONE };
    };
    let by_turns = if by.is_none() { by_turns(rig, pack, taken, to) } else { None };
    let take_out = f64::from(day.start_minute) + day.span().minutes();
    let early = day.ready_by.filter(|_| by.is_some()).map(|by| {
        let wait = (f64::from(by) - take_out).rem_euclid(1440.0);
        Hours::from_minutes(wait) - elapsed
    });
    let ready = early.map(|early| reached >= to - 0.005 && early >= Hours::ZERO);
    let missing = missing(pack, taken, to);
    Refill {
        by,
        from,
        to,
        amps: charge.current,
        bulk,
        tail,
        elapsed,
        reached,
        amp_hours_in: missing / accepts.coulombic,
        wall: from_the_wall(pack, taken, to),
        ready,
        early,
        charge: Some(charge),
        misfits,
        by_turns,
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
            absorption: None,
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

    /// Chargers' tables, from memory: gel 14.1 to 14.2 V, AGM 14.4 to 14.7, LFP to
    /// 14.6, flooded 14.4 to 14.8, all for 12 V; an equalizing voltage is none to absorb at.
    #[test]
    fn absorption_volts_are_held_against_what_each_bank_bears() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(12.0));
        let mut with = |chemistry, unit: f64, units, bank, holds: f64| {
            rig.motor.system_voltage = Volts::of(12.0 * f64::from(units));
            rig.chargers = vec![charger("Reed", Supply::Mains, 2, bank, 10.0)];
            rig.chargers[0].absorption = Some(Volts::of(holds));
            refilled(&rig, units, unit, chemistry)
        };
        for (chemistry, volts, good, bad, says) in [
            (Chemistry::Gel, 12.0, 14.1, 14.4, "stay in the gel"),
            (Chemistry::Agm, 12.0, 14.7, 15.0, "gasses"),
            (Chemistry::Lfp, 12.8, 14.6, 15.5, "BMS shuts off"),
            (Chemistry::Flooded, 12.0, 14.6, 14.1, "never gets full"),
            (Chemistry::Flooded, 12.0, 14.8, 15.5, "gasses"),
        ] {
            assert!(with(chemistry, volts, 1, 12.0, good).by.is_some(), "{chemistry:?}");
            let refused = with(chemistry, volts, 1, 12.0, bad);
            let words = refused.misfits[0].to_string();
            assert!(refused.by.is_none() && words.contains(says), "{words}");
            // The same for a 24 V output on two of them, at twice the volts; and unit by unit.
            assert!(with(chemistry, volts, 2, 24.0, 2.0 * good).by.is_some());
            assert!(with(chemistry, volts, 2, 24.0, 2.0 * bad).by.is_none());
            assert!(with(chemistry, volts, 2, 12.0, good).by.is_some());
        }
    }

    #[test]
    fn a_charger_with_too_few_outputs_is_moved_by_hand() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(36.0));
        rig.chargers = vec![charger("Little", Supply::Mains, 1, 12.0, 10.0)];
        let refill = refilled(&rig, 3, 12.0, Chemistry::Agm);
        let turns = refill.by_turns.unwrap();
        assert_eq!((refill.by, turns.rounds), (None, 3));
        rig.motor.system_voltage = Volts::of(12.0);
        let alone = refilled(&rig, 1, 12.0, Chemistry::Agm);
        assert!((turns.each - alone.hours()).value().abs() < 1e-9 && alone.by_turns.is_none());
        rig.chargers[0].banks = 2;
        rig.motor.system_voltage = Volts::of(36.0);
        assert_eq!(refilled(&rig, 3, 12.0, Chemistry::Agm).by_turns.unwrap().rounds, 2);
    }

    /// Joule's law: 3 x 10 A x 14.4 V and 1 x 20 A x 1.2 x 24 V, at 88 %.
    #[test]
    fn chargers_on_one_inlet_add_up() {
        let mut rig = Rig::new("r", CraftKind::VHull, Volts::of(36.0));
        rig.chargers = vec![charger("Three", Supply::Mains, 3, 12.0, 10.0)];
        assert_eq!(from_one_inlet(&rig), None);
        rig.chargers[0].absorption = Some(Volts::of(14.4));
        rig.chargers.push(charger("Two", Supply::Mains, 1, 24.0, 20.0));
        rig.chargers.push(charger("Sun", Supply::Solar, 1, 24.0, 20.0));
        let watts = from_one_inlet(&rig).unwrap().value();
        assert!((watts - (432.0 + 576.0) / 0.88).abs() < 1e-9, "{watts}");
    }
}
