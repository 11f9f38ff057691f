//! A stretch of the day as a row of fields.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::day::{self, Duty, Heading, Stretch, Surface};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Hours, Metres, MetresPerSecond, Watts};

/// How a stretch's draw can be given, on a boat: (key, words).
const BOAT: &[(&str, &str)] = &[
    ("setting", "at a motor setting"),
    ("current", "at so many amps"),
    ("power", "at so many watts"),
    ("speed", "at a speed"),
    ("distance", "so far in that time"),
    ("hold", "holding place"),
    ("off", "motor off"),
];
/// The same on wheels: there is no place to hold against anything.
const CART: &[(&str, &str)] = &[
    ("distance", "so far in that time"),
    ("speed", "at a speed"),
    ("current", "at so many amps"),
    ("power", "at so many watts"),
    ("setting", "at a motor setting"),
    ("off", "parked"),
];
const HEADINGS: &[(&str, &str)] =
    &[("into", "into wind and current"), ("across", "across them"), ("with", "with them")];
const SURFACES: &[(&str, &str)] =
    &[("asphalt", "Asphalt"), ("gravel", "Gravel"), ("grass", "Short grass"), ("sand", "Sand")];

/// How a stretch's draw can be given.
pub(crate) const fn kinds(boat: bool) -> &'static [(&'static str, &'static str)] {
    if boat { BOAT } else { CART }
}

/// The unit of the amount for a kind.
pub(crate) fn amount_unit(kind: &str, units: System) -> &'static str {
    match kind {
        "current" => "A",
        "power" => "W",
        "setting" => "of 10",
        "speed" => units.unit(Measure::Speed).name,
        "distance" => units.unit(Measure::Distance).name,
        _ => "",
    }
}

/// All fields of a stretch, as its panel shows them.
pub(crate) fn fields(form: Shown<'_>, prefix: &str, boat: bool) -> Vec<Field> {
    let kind = form.typed.get("kind");
    let mut specs = vec![
        Spec::words("name", "Name"),
        Spec::figure("minutes", "Lasts", "min", ""),
        Spec::choice("kind", "Given", kinds(boat)),
    ];
    if !matches!(kind, "hold" | "off") {
        specs.push(Spec::figure("amount", "Amount", amount_unit(kind, form.units), ""));
    }
    if kind != "off" {
        specs.push(Spec::figure("share", "Working", "%", "of the time, else off"));
    }
    if boat {
        if !matches!(kind, "hold" | "off") {
            specs.push(Spec::choice("heading", "Heading", HEADINGS));
        }
    } else {
        specs.extend([
            Spec::choice("surface", "On", SURFACES),
            Spec::figure("grade", "Grade", "%", "uphill positive"),
            Spec::figure("stops", "Stops", "", ""),
        ]);
    }
    form.fields(prefix, &specs)
}

/// The fields of a stretch that is there.
pub(crate) fn typed(stretch: &Stretch, units: System) -> Typed {
    let (kind, amount) = match stretch.duty {
        Duty::Off => ("off", String::new()),
        Duty::Current(a) => ("current", figures::typed(a.value())),
        Duty::Power(w) => ("power", figures::typed(w.value())),
        Duty::Setting(s) => ("setting", figures::typed(s)),
        Duty::Speed(v) => ("speed", shown(units, Measure::Speed, v.value())),
        Duty::Distance(d) => ("distance", shown(units, Measure::Distance, d.value())),
        Duty::HoldPlace => ("hold", String::new()),
    };
    Typed::default()
        .with("name", &*stretch.name)
        .with("minutes", figures::typed(stretch.lasts.minutes()))
        .with("kind", kind)
        .with("amount", amount)
        .with("share", figures::typed(stretch.share * 100.0))
        .with("heading", stretch.heading.key())
        .with("surface", stretch.surface.key())
        .with("grade", figures::typed(stretch.grade * 100.0))
        .with("stops", stretch.stops.to_string())
}

/// A share of the time typed as a percentage.
const WORKING: allowed::Allowed = allowed::Allowed { low: 1.0, high: 100.0, unit: "%" };
/// A grade typed as a percentage.
const GRADE: allowed::Allowed = allowed::Allowed { low: -35.0, high: 35.0, unit: "%" };

/// What must be known to read a stretch.
#[derive(Debug, Clone, Copy)]
pub(crate) struct About<'a> {
    /// Whether a motor setting has amps to it.
    pub(crate) draw_is_known: bool,
    /// How long the rest of the day is.
    pub(crate) others: Hours,
    /// The stretch as it was: what the form does not show is kept.
    pub(crate) before: Option<&'a Stretch>,
    pub(crate) units: System,
    pub(crate) boat: bool,
}

/// Reads a stretch.
pub(crate) fn read(typed: &Typed, about: About<'_>) -> Result<Stretch, Problems> {
    let mut r = Reader::of(typed, about.units);
    let name = r.name("name");
    let minutes = r.number("minutes", &allowed::MINUTES);
    if let Some(minutes) = minutes
        && let day = about.others + Hours::from_minutes(minutes)
        && day > day::LONGEST
    {
        let (day, most) = (day.value(), day::LONGEST.value());
        let says = format!(
            "The day would last {day:.0} h; at most {most:.0} h (7 days) can be worked out."
        );
        r.problem("minutes", says);
    }
    let duty = duty(&mut r, typed, about);
    let plain = Stretch::new("", Hours::ZERO, Duty::Off);
    let kept = about.before.unwrap_or(&plain).clone();
    let share = r.optional("share", &WORKING);
    // A field that is not on the form keeps what was.
    let heading = match typed.get("heading") {
        "" => Some(kept.heading),
        _ => r.choice("heading", Heading::from_key),
    };
    let surface = match typed.get("surface") {
        "" => Some(kept.surface),
        _ => r.choice("surface", Surface::from_key),
    };
    let grade = r.optional("grade", &GRADE);
    if about.boat && matches!(grade, Some(Some(g)) if g != 0.0) {
        r.problem("grade", "Water is level: a grade is for carts.");
    }
    let stops = r.whole_or("stops", &allowed::STOPS, kept.stops);
    let stretch = (|| {
        Some(Stretch {
            name: name?,
            lasts: Hours::from_minutes(minutes?),
            duty: duty?,
            share: share?.map_or(kept.share, |percent| percent / 100.0),
            heading: heading?,
            surface: surface?,
            grade: grade?.map_or(kept.grade, |percent| percent / 100.0),
            stops: stops?,
        })
    })();
    r.finish(stretch)
}

fn duty(r: &mut Reader<'_>, typed: &Typed, about: About<'_>) -> Option<Duty> {
    let kinds = kinds(about.boat);
    let kind = r.choice("kind", |k| kinds.iter().map(|(key, _)| *key).find(|key| *key == k))?;
    let before = about.before.map(|s| s.duty);
    let amount = typed.get("amount");
    match kind {
        "current" => r.number("amount", &allowed::CURRENT).map(|a| Duty::Current(Amps::of(a))),
        "power" => r.number("amount", &allowed::POWER).map(|w| Duty::Power(Watts::of(w))),
        "setting" => {
            if !about.draw_is_known {
                r.problem("kind", "Tell the motor's highest amps on the Rig page first.");
            }
            r.number("amount", &allowed::SETTING).map(Duty::Setting)
        }
        "speed" => {
            let read = r.measure("amount", Measure::Speed, &allowed::SPEED);
            let kept = match before {
                Some(Duty::Speed(v)) => Some(v.value()),
                _ => None,
            };
            untouched(about.units, Measure::Speed, kept, amount, read)
                .map(|v| Duty::Speed(MetresPerSecond::of(v)))
        }
        "distance" => {
            let read = r.measure("amount", Measure::Distance, &allowed::DISTANCE);
            let kept = match before {
                Some(Duty::Distance(d)) => Some(d.value()),
                _ => None,
            };
            untouched(about.units, Measure::Distance, kept, amount, read)
                .map(|d| Duty::Distance(Metres::of(d)))
        }
        "hold" => Some(Duty::HoldPlace),
        _ => Some(Duty::Off),
    }
}
