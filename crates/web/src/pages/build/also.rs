//! What else must change, in words.

use super::words::area_of;
use crate::figures;
use lake_hour_core::build::Job;
use lake_hour_core::build::changes::Also;
use lake_hour_core::units::Kilograms;
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};

/// Something that must change beside the batteries.
#[derive(Debug, Clone)]
pub(super) struct AlsoView {
    pub(super) name: &'static str,
    pub(super) words: String,
    /// It hurts people where it is forgotten.
    pub(super) grave: bool,
}

pub(super) fn also(job: &Job<'_>, say: Say<'_>) -> Vec<AlsoView> {
    job.also().iter().map(|also| view(job, also, say)).collect()
}

fn view(job: &Job<'_>, also: &Also, say: Say<'_>) -> AlsoView {
    let v = |volts: lake_hour_core::units::Volts| format!("{:.1}", volts.value());
    let chemistry = job.pack.battery.chemistry.name();
    let leans = job.leans();
    let (name, words) = match also {
        Also::Interlock => ("Interlock", format!(
            "A plugged-in {} must not drive: keep the socket's interlock, never bridge it. Step \"plug in, try to drive\" proves it.",
            if leans { "motorbike" } else { "cart" }
        )),
        Also::MotorTypical { most } => ("Motor amps", format!(
            "{} A is assumed: cables, fuse, switch and plug hang on it. Read the most it draws on motor or controller and type it on Rig before you buy.",
            figures::amount(most.value())
        )),
        Also::LimitBelow { limit, most, setting } => ("BMS limit", format!(
            "It shuts off above {} A; the motor draws up to {} A. {}",
            figures::amount(limit.value()),
            figures::amount(most.value()),
            match setting {
                None => "Ask for a pack that gives it.".to_owned(),
                Some(s) if job.plan.rig.craft.kind.is_boat() => format!("Stay at setting {} or below.", figures::setting(&job.plan.rig.motor.dial, *s)),
                Some(s) => format!("Stay below {} throttle.", figures::percent(*s / 10.0)),
            }
        )),
        Also::ChargerSet { charger, volts } => ("Charger", format!(
            "{charger} fits: set it to {chemistry}, {} to {} V while it holds.", v(volts.0), v(volts.1)
        )),
        Also::ChargerNew(wanted) => ("Charger", format!(
            "None aboard suits. One for {} V {chemistry}, {} to {} A.",
            figures::typed(wanted.volts.value()), figures::amount(wanted.amps.0.value()), figures::amount(wanted.amps.1.value())
        )),
        Also::NoEqualizing => ("Equalizing", "Off for good: its volts make the BMS shut off. Desulfating pulses too.".to_owned()),
        Also::LeadGauge => ("Old charge gauge", format!(
            "It reads lead's volts and will say full until {chemistry} stops. Take it off or cover it: the meter replaces it."
        )),
        Also::Taps => ("12 V taps", "What hung on one battery of the set goes to the converter's fuse block, none to a battery.".to_owned()),
        Also::Converter { amps } => ("Converter", format!(
            "The 12 V things draw {} A on the pack through it; it draws a little while they are off: behind the main switch.",
            figures::amount(amps.value())
        )),
        Also::HighLimit { full, limit } => ("High-volt limit", match limit {
            Some(limit) => format!("Freshly charged it stands at {} V; the controller bears {} V.", v(*full), v(*limit)),
            None => format!("Freshly charged it stands at {} V: look on the controller's plate that it bears that.", v(*full)),
        }),
        Also::LowCutOff { volts } => ("Low-volt cut-off", format!(
            "Set for the old chemistry. For {chemistry}: between {} and {} V.", v(volts.0), v(volts.1)
        )),
        Also::Regeneration => ("Braking", "A full lithium pack takes no current: downhill from the charger its BMS may shut off and the brake is gone. Lower the braking current; use the wheel brakes.".to_owned()),
        Also::Capacitors => ("Solenoid, capacitors", "Fill the capacitors through the resistor before the contacts close; without it they weld.".to_owned()),
        Also::Ride { by, trim, boat } => ("Weight", ride(*by, *trim, *boat, say.units)),
        Also::StandingDrain { amps, lasts } => ("Standing drain", format!(
            "{:.0} mA all the time empty it in {}. Pull the main switch when you put it away.",
            amps.value() * 1000.0, days(lasts.value())
        )),
        Also::Vent { openings } => ("Vent", format!("Two openings, low and high, {} each: lead gasses while it charges.", area_of(*openings, say.units))),
        Also::Alternator => ("Alternator", "An engine's alternator gives lithium all it has until it burns out: charge through a limiter, never straight.".to_owned()),
        Also::ColdCharge => ("Cold", format!(
            "Below {} use it, do not charge it, unless its BMS says it warms itself.",
            figures::measure(say.units, Measure::Temperature, 0.0, 0)
        )),
        Also::Drift => ("Drift", "Units in series drift apart: charge each to full once a season, or with a charger for each.".to_owned()),
    };
    AlsoView {
        name,
        words,
        grave: matches!(
            also,
            Also::Interlock
                | Also::MotorTypical { .. }
                | Also::LimitBelow { .. }
                | Also::ChargerNew(_)
                | Also::NoEqualizing
        ),
    }
}

/// "61 days", "3 years".
fn days(hours: f64) -> String {
    let days = hours / 24.0;
    if days >= 730.0 { format!("{:.0} years", days / 365.25) } else { format!("{days:.0} days") }
}

fn ride(
    by: Kilograms,
    trim: Option<lake_hour_core::pack::stow::Trim>,
    boat: bool,
    units: System,
) -> String {
    let much = figures::mass(Kilograms::of(by.value().abs()), units);
    let way = if by.value() < 0.0 { "lighter" } else { "heavier" };
    let rest = match trim {
        Some(trim) if boat => {
            let bow = trim.bow().value() * 1000.0;
            let digits = usize::from(units != System::Metric);
            let deep = figures::measure(units, Measure::Side, bow.abs(), digits);
            if bow.abs() < 2.0 {
                String::new()
            } else {
                format!("; the bow rides {deep} {}", if bow < 0.0 { "higher" } else { "lower" })
            }
        }
        Some(trim) => {
            let (front, rear) = trim.axles();
            let axle = |kg: f64| {
                let much = figures::mass(Kilograms::of(kg.abs()), units);
                format!("{much} {} ", if kg < 0.0 { "less" } else { "more" })
            };
            format!("; front axle {}, rear {}", axle(front).trim(), axle(rear).trim())
        }
        None => String::new(),
    };
    let then = match (boat, by.value() < 0.0) {
        (true, _) => "",
        (false, true) => ". Stiffer ride: softer springs or less air, as its manual allows",
        (false, false) => ". More air in the tires, as its manual allows",
    };
    format!("{much} {way}{rest}{then}.")
}
