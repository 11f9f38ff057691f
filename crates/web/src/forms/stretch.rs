//! A stretch of the day as a row of fields.

use super::{Problems, Reader, Typed};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::day::{self, Duty, Stretch};
use lake_hour_core::units::{Amps, Hours, Watts};

/// How a stretch's draw can be given: (key, words, unit).
pub(crate) const KINDS: &[(&str, &str)] =
    &[("current", "amps"), ("power", "watts"), ("setting", "motor setting"), ("off", "motor off")];

/// The fields of a stretch that is there.
pub(crate) fn typed(stretch: &Stretch) -> Typed {
    let (kind, amount) = match stretch.duty {
        Duty::Off => ("off", String::new()),
        Duty::Current(a) => ("current", figures::typed(a.value())),
        Duty::Power(w) => ("power", figures::typed(w.value())),
        Duty::Setting(s) => ("setting", figures::typed(s)),
    };
    Typed::default()
        .with("name", &*stretch.name)
        .with("minutes", figures::typed(stretch.lasts.minutes()))
        .with("kind", kind)
        .with("amount", amount)
}

/// Reads a stretch. `settings_known` tells whether a motor setting has amps to it, `others` how long
/// the rest of the day is.
pub(crate) fn read(
    typed: &Typed,
    settings_known: bool,
    others: Hours,
) -> Result<Stretch, Problems> {
    let mut r = Reader::of(typed);
    let name = r.name("name");
    let minutes = r.number("minutes", &allowed::MINUTES);
    if let Some(minutes) = minutes
        && let day = others + Hours::from_minutes(minutes)
        && day > day::LONGEST
    {
        let (day, most) = (day.value(), day::LONGEST.value());
        let says = format!(
            "The day would last {day:.0} h; at most {most:.0} h (7 days) can be worked out."
        );
        r.problem("minutes", says);
    }
    let kind = r.choice("kind", |k| KINDS.iter().map(|(key, _)| *key).find(|key| *key == k));
    let duty = match kind {
        Some("current") => {
            r.number("amount", &allowed::CURRENT).map(|a| Duty::Current(Amps::of(a)))
        }
        Some("power") => r.number("amount", &allowed::POWER).map(|w| Duty::Power(Watts::of(w))),
        Some("setting") => {
            if !settings_known {
                r.problem("kind", "Tell the motor's highest amps under Rig first.");
            }
            r.number("amount", &allowed::SETTING).map(Duty::Setting)
        }
        Some(_) => Some(Duty::Off),
        None => None,
    };
    let stretch = match (name, minutes, duty) {
        (Some(name), Some(minutes), Some(duty)) => {
            Some(Stretch { name, lasts: Hours::from_minutes(minutes), duty })
        }
        _ => None,
    };
    r.finish(stretch)
}
