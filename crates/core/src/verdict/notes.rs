//! What to know beside the verdict: each a sentence with its figures.

use super::work::{How, Otherwise};
use super::{Drawn, summary_hours};
use crate::day::Day;
use crate::drawdown::Ended;
use crate::drawdown::temperature::{self, Window};
use crate::pack::{Pack, limits, stow};
use crate::propulsion;
use crate::refill;
use crate::rig::Rig;
use crate::shelf::{Correction, Purpose};
use crate::source::Origin;
use crate::units::system::{Measure, System};
use crate::units::{AmpHours, Amps, Celsius, Hours, MetresPerSecond, Volts, Watts};

/// Less than this out of reach is not worth a sentence. [charge]
const WORTH_SAYING: f64 = 0.05;
/// From here down the cold has to do with what is out of reach. [°C]
const COLD: Celsius = Celsius::of(15.0);

/// Something the owner should know about a pack that can be used.
#[derive(Debug, Clone, PartialEq)]
pub enum Note {
    /// The day is within the BMS's limit but the motor's full throttle is not.
    NoFullThrottle {
        /// What the BMS carries. [A]
        limit: Amps,
        /// What the motor can draw. [A]
        motor: Amps,
    },
    /// Its label says that it starts engines.
    MadeForStarting,
    /// How many its maker allows to be joined is not on the label: to be asked.
    AskTheMaker {
        /// In series, where more than one is and nothing is told.
        series: Option<u32>,
        /// Side by side, likewise.
        parallel: Option<u32>,
    },
    /// The ratings cannot all be true of one battery.
    RatingsDisagree {
        /// By how much, as a share.
        by: f64,
    },
    /// The day draws harder than any rating on the label.
    OutsideRatings {
        /// What the pack would last at the day's mean current. [h]
        would_last: Hours,
        /// Shortest rated discharge. [h]
        shortest: Hours,
    },
    /// Too cold or too hot to discharge.
    OutsideDischargeWindow {
        /// The temperature. [°C]
        at: Celsius,
        /// What is allowed.
        window: Window,
    },
    /// It may not be charged at the lake's temperature.
    NoChargingHere {
        /// The temperature. [°C]
        at: Celsius,
        /// What is allowed.
        window: Window,
    },
    /// A weak unit opened its string; the others carried on.
    StringOut {
        /// When. [h]
        at: Hours,
    },
    /// The cut-off comes without a warning.
    StopsWithoutWarning,
    /// Lead goes on below its floor: someone has to switch it off.
    CutByHand {
        /// When the floor is reached. [h]
        at: Hours,
        /// Voltage under the load of that moment. [V]
        loaded: Volts,
        /// Voltage at the same charge after hours of rest. [V]
        rested: Volts,
    },
    /// The load is more than it can give at any voltage, from the first moment on.
    MoreThanItGives {
        /// When. [h]
        at: Hours,
        /// What is asked. [W]
        asks: Watts,
    },
    /// Its acid freezes at the charge that is left.
    MayFreeze {
        /// How cold it gets. [°C]
        at: Celsius,
        /// Where it freezes at the end of the day. [°C]
        freezes: Celsius,
        /// Charge left then, 0 to 1.
        left: f64,
    },
    /// Equalizing takes it above what the controller bears.
    EqualizesTooHigh {
        /// What it stands at then. [V]
        volts: Volts,
        /// The controller's maximum. [V]
        limit: Volts,
    },
    /// The motor runs on less than its usual voltage.
    LowerVoltage {
        /// The pack's. [V]
        pack: Volts,
        /// The motor's usual. [V]
        system: Volts,
        /// Top speed of the motor as a share of the usual.
        speed: f64,
    },
    /// No charger aboard suits.
    NoCharger {
        /// Volts that one for the whole pack must have. [V]
        volts: Volts,
        /// Its current, from an overnight charge to the most that is good for the battery. [A]
        amps: (Amps, Amps),
        /// The pack's chemistry, in its short name.
        chemistry: &'static str,
    },
    /// Cold and draw keep a part of the charge out of reach at the end of the day.
    OutOfReach {
        /// Share of the charge, 0 to 1.
        share: f64,
        /// What is left by the meter, 0 to 1.
        left: f64,
        /// How cold the battery is then, where that has to do with it. [°C]
        cold: Option<Celsius>,
    },
    /// A slow draw took more than the label promises.
    PastLabel {
        /// How much more. [Ah]
        more: AmpHours,
    },
    /// What charges on the way is more than is good for it.
    ChargedTooHard {
        /// What it gets at the most. [A]
        gets: Amps,
        /// What is good for its chemistry. [A]
        most: Amps,
    },
    /// A measured speed says nothing, since it drew no more than idling takes.
    SpeedNotUsed {
        /// The speed. [m/s]
        speed: MetresPerSecond,
        /// What it drew. [A]
        current: Amps,
    },
    /// A charger that does not fit.
    Misfit(refill::Misfit),
    /// Not full again at the time it must be.
    NotReady {
        /// What it takes. [h]
        takes: Hours,
        /// Charge reached in the hours the charger may run, 0 to 1.
        reached: f64,
    },
    /// A figure of the label was replaced by a plausible one.
    Corrected(Correction),
    /// No bay, nor all together, take the pack's units.
    DoesNotFit {
        /// Units that find a place.
        placed: u32,
        /// Units there are.
        units: u32,
        /// Why no more go in, bay by bay.
        why: Vec<(String, stow::Refusal)>,
    },
    /// A stretch goes otherwise than planned.
    GoesOtherwise {
        /// Its name.
        stretch: String,
        /// How.
        otherwise: Otherwise,
    },
}

impl Note {
    /// The note in a sentence with its figures.
    pub fn sentence(&self, units: System) -> String {
        let warmth = |t: &Celsius| units.say(Measure::Temperature, t.value(), 0);
        match self {
            Self::NoFullThrottle { limit, motor } => format!(
                "Its BMS shuts off above {limit:.0}; the motor at full setting draws {motor:.0}. Never full throttle."
            ),
            Self::MadeForStarting => "Made to start engines: deep discharges wear it out in a season. For a motor, buy a deep-cycle battery.".to_owned(),
            Self::AskTheMaker { series, parallel } => {
                let joined = match (series, parallel) {
                    (Some(s), Some(p)) => format!("{s} in series and {p} in parallel"),
                    (Some(s), None) => format!("{s} in series"),
                    (None, p) => format!("{} in parallel", p.unwrap_or(2)),
                };
                format!(
                    "Its label does not say how many may be joined. Ask the maker before buying: \"May I join {joined} and charge them as one pack? What must I do before joining them?\""
                )
            }
            Self::RatingsDisagree { by } => format!(
                "The ratings on its label disagree by {:.0} %; labels usually agree within 10 %. The band is wider for it.",
                by * 100.0
            ),
            Self::OutsideRatings { would_last, shortest } => format!(
                "This day draws it down in about {would_last:.1}; the shortest rating on its label is over {shortest:.1}. Beyond that the estimate leans on what is typical for the chemistry."
            ),
            Self::OutsideDischargeWindow { at, window } => match window.origin {
                Origin::Typical => format!("Makers do not allow discharging it at {}.", warmth(at)),
                _ => format!(
                    "Its BMS shuts off at {}: its label allows {} to {}.",
                    warmth(at),
                    warmth(&window.low),
                    warmth(&window.high)
                ),
            },
            Self::NoChargingHere { at, window } if *at < window.low => format!(
                "Do not charge it at {}: charging ruins lithium below {}. Warm it first.",
                warmth(at),
                warmth(&window.low)
            ),
            Self::NoChargingHere { at, window } => format!(
                "Do not charge it at {}: above {} its BMS refuses. Let it cool first.",
                warmth(at),
                warmth(&window.high)
            ),
            Self::OutOfReach { share, left, cold } => format!(
                "{:.0} % of the charge is out of reach {} on the way home: of {:.0} % left it can use {:.0} %. Reserve and time to spare leave it out.",
                share * 100.0,
                match cold {
                    Some(t) => format!("in this cold ({}) and at the draw", warmth(t)),
                    None => "at the draw".to_owned(),
                },
                left * 100.0,
                (left - share).max(0.0) * 100.0
            ),
            Self::PastLabel { more } => format!(
                "A slow draw takes {more:.1} past its label: a meter set to the label shows 0 % by then. Do not count on it."
            ),
            Self::StringOut { at } => format!(
                "The string with the weak unit shuts off after {at:.1}; the others carry the load from there."
            ),
            Self::CutByHand { at, loaded, rested } => format!(
                "Lead has no switch inside: stop by hand after {at:.1}, when it is down to about {loaded:.1} under that load ({rested:.1} after hours of rest)."
            ),
            Self::MoreThanItGives { at, asks } => format!(
                "After {at:.1} it is asked for {:.1} kW: it cannot give that at any voltage.",
                asks.value() / 1000.0
            ),
            Self::MayFreeze { at, freezes, left } => format!(
                "It may freeze and burst: with {:.0} % left its acid freezes near {}, and it gets {}. Full it stands far colder: charge it at once.",
                left * 100.0,
                warmth(freezes),
                warmth(at)
            ),
            Self::LowerVoltage { pack, system, speed } => format!(
                "Your motor takes this voltage too, but runs slower on {pack:.1} than on {system:.0}: about {:.0} % of its top speed.",
                speed * 100.0
            ),
            Self::EqualizesTooHigh { volts, limit } => format!(
                "Equalizing takes it up to {volts:.1}; the controller's max is {limit:.1}: disconnect the controller first."
            ),
            Self::ChargedTooHard { gets, most } => format!(
                "Charged on the way with {gets:.0}: more than {most:.0} is hard on it, and its charging may cut out."
            ),
            Self::NoCharger { volts, amps: (low, high), chemistry } => format!(
                "No charger aboard suits. One that would: {volts:.0} with a profile for {chemistry}, {low:.0} to {high:.0}."
            ),
            Self::SpeedNotUsed { speed, current } => format!(
                "The speed you measured at {} is not used: {current:.1} is no more than the motor takes idling.",
                units.say(Measure::Speed, speed.value(), 1)
            ),
            Self::Misfit(misfit) => misfit.to_string(),
            Self::NotReady { takes, reached } => {
                let hours = if *reached < 0.995 {
                    format!(", and the charger's hours bring it to {:.0} %", reached * 100.0)
                } else {
                    String::new()
                };
                format!("Not full again in time: it takes {takes:.1}{hours}.")
            }
            Self::GoesOtherwise { stretch, otherwise: Otherwise { planned, reached, how, .. } } => {
                let speed = |v: MetresPerSecond| units.say(Measure::Speed, v.value(), 1);
                match how {
                    How::Longer(more) => format!(
                        "{stretch} takes {:.0} min longer: {} instead of {}.",
                        more.minutes(),
                        speed(*reached),
                        speed(*planned),
                    ),
                    How::Slower => {
                        format!("{stretch} at {} instead of {}.", speed(*reached), speed(*planned))
                    }
                    How::CannotHold => {
                        format!("{stretch}: the motor cannot hold the place, it is blown off.")
                    }
                    How::CannotMake => format!(
                        "{stretch} cannot make {}: {} at most.",
                        speed(*planned),
                        speed(*reached),
                    ),
                }
            }
            Self::Corrected(correction) => {
                format!("Not as labeled, since the label check doubts it: {correction}.")
            }
            Self::DoesNotFit { placed, units: all, why } => {
                let why: Vec<String> =
                    why.iter().map(|(bay, r)| format!("{bay}: {}", r.sentence(units))).collect();
                format!("The battery bays take {placed} of its {all}. {}.", why.join("; "))
            }
            Self::StopsWithoutWarning => {
                "Its BMS shuts off with hardly a warning. A reset may give some seconds, then it shuts off again: do not count on it.".to_owned()
            }
        }
    }
}

/// `warmth` are the coldest and the warmest that
/// the battery gets.
pub(super) fn notes(
    rig: &Rig,
    day: &Day,
    pack: &Pack,
    drawn: &Drawn,
    warmth: Option<(Celsius, Celsius)>,
) -> Vec<Note> {
    let mut notes: Vec<Note> =
        pack.battery.corrected.iter().copied().map(Note::Corrected).collect();
    if let Some(short) = stow::stow(rig, pack).filter(|s| s.placed() < pack.units()) {
        let (placed, units) = (short.placed(), pack.units());
        notes.push(Note::DoesNotFit { placed, units, why: short.refusals() });
    }
    let chemistry = pack.battery.chemistry;
    if let Some((limit, motor)) = limits::below_full_throttle(pack, &rig.motor) {
        notes.push(Note::NoFullThrottle { limit, motor });
    }
    if pack.battery.purpose == Some(Purpose::Starting) {
        notes.push(Note::MadeForStarting);
    }
    let asks = |wired: u32, told: Option<u32>| (wired > 1 && told.is_none()).then_some(wired);
    // Lead is joined as a matter of course; electronics bear the volts of all in series.
    if !chemistry.is_lead() && !pack.aboard {
        let series = asks(pack.series, pack.battery.max_series);
        let parallel = asks(pack.parallel, pack.battery.max_parallel());
        if series.or(parallel).is_some() {
            notes.push(Note::AskTheMaker { series, parallel });
        }
    }
    if drawn.fit.in_conflict() {
        notes.push(Note::RatingsDisagree { by: drawn.fit.conflict() });
    }
    let hours = summary_hours(day, &drawn.summary);
    if hours > Hours::ZERO && drawn.summary.delivered > AmpHours::ZERO && chemistry.is_lead() {
        let mean = drawn.summary.delivered / hours / f64::from(pack.parallel);
        let would_last = Hours::of(drawn.fit.law.runtime(mean.value()));
        let shortest = Hours::of(drawn.fit.rated_hours.0);
        // Half the shortest rating is as far as a rating reaches on its own.
        if would_last < shortest * 0.5 {
            notes.push(Note::OutsideRatings { would_last, shortest });
        }
    }
    if let Some((coldest, warmest)) = warmth {
        // Cold or hot, whichever is outside.
        let outside =
            |window: &Window| [coldest, warmest].into_iter().find(|at| !window.allows(*at));
        let window = temperature::discharge_window(&pack.battery);
        if let Some(at) = outside(&window) {
            notes.push(Note::OutsideDischargeWindow { at, window });
        }
        let window = temperature::charge_window(&pack.battery);
        if let Some(at) = outside(&window).filter(|_| !chemistry.is_lead()) {
            notes.push(Note::NoChargingHere { at, window });
        }
        let left = drawn.summary.charge_left;
        let freezes = temperature::freezes_at(left);
        if chemistry.is_lead() && coldest < freezes {
            notes.push(Note::MayFreeze { at: coldest, freezes, left });
        }
    }
    if let (Some(volts), Some(limit)) = (pack.equalizing_voltage(), rig.controller_max)
        && volts > limit
    {
        notes.push(Note::EqualizesTooHigh { volts, limit });
    }
    if let Ended::Stopped { at, too_much: Some(asks) } = drawn.summary.ended {
        notes.push(Note::MoreThanItGives { at, asks });
    }
    if let Some(speed) = limits::speed_on(pack, rig) {
        let (pack, system) = (pack.voltage(), rig.motor.system_voltage);
        notes.push(Note::LowerVoltage { pack, system, speed });
    }
    for p in propulsion::unused_speeds(rig) {
        notes.push(Note::SpeedNotUsed { speed: p.speed, current: p.current });
    }
    if let Some(at) = drawn.summary.string_out_at {
        notes.push(Note::StringOut { at });
    }
    let summary = &drawn.summary;
    if let (true, Some(at), Some(loaded)) =
        (chemistry.is_lead(), summary.floor_at, summary.floor_volts)
    {
        let cells = f64::from(pack.battery.cells() * pack.series);
        let rested = Volts::of(drawn.fit.cell.ocv.at(drawn.floor) * cells);
        notes.push(Note::CutByHand { at, loaded, rested });
    }
    let cold = drawn.legs.last().map(|leg| leg.cold.at).filter(|t| *t < COLD);
    // What a hard draw alone keeps back inside the floor takes nothing from anyone.
    if drawn.out_of_reach > drawn.floor || cold.is_some() && drawn.out_of_reach >= WORTH_SAYING {
        let (share, left) = (drawn.out_of_reach, summary.charge_left);
        notes.push(Note::OutOfReach { share, left, cold });
    }
    if summary.past_label > 0.002
        && let Some(rated) = crate::verdict::told_capacity(pack)
    {
        notes.push(Note::PastLabel { more: rated * summary.past_label });
    }
    notes.extend(drawn.refill.misfits.iter().cloned().map(Note::Misfit));
    let whole = drawn.fit.q20 * f64::from(pack.parallel);
    let most = Amps::of(chemistry.facts().acceptance.most * whole);
    let parts = day.parts(Hours::ZERO, day.lasts());
    let gets = parts.iter().map(|part| part.charging + part.sun / pack.voltage());
    if let Some(gets) = gets.max_by(|a, b| a.value().total_cmp(&b.value())).filter(|a| *a > most) {
        notes.push(Note::ChargedTooHard { gets, most });
    }
    let asked_for = !rig.chargers.is_empty() || day.ready_by.is_some();
    if drawn.refill.by.is_none() && asked_for {
        let refill::Wanted { volts, amps } = refill::Wanted::of(pack, AmpHours::of(whole));
        notes.push(Note::NoCharger { volts, amps, chemistry: chemistry.name() });
    }
    if drawn.refill.ready == Some(false) {
        let (takes, reached) = (drawn.refill.elapsed, drawn.refill.reached);
        notes.push(Note::NotReady { takes, reached });
    }
    notes.extend(drawn.work.otherwise.iter().filter_map(|otherwise| {
        let stretch = day.stretches.get(otherwise.stretch)?.name.clone();
        Some(Note::GoesOtherwise { stretch, otherwise: *otherwise })
    }));
    if matches!(drawn.summary.ended, crate::drawdown::Ended::Stopped { .. }) && !chemistry.is_lead()
    {
        notes.push(Note::StopsWithoutWarning);
    }
    notes
}
