//! A stretch of the day as a row of fields.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::day::{self, Day, Duty, Heading, Keeps, Stretch, Surface};
use lake_hour_core::propulsion::Implied;
use lake_hour_core::rig::Dial;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Hours, Metres, MetresPerSecond, Watts};

/// How a stretch's draw can be given, on a boat: (key, words).
const BOAT: &[(&str, &str)] = &[
    ("setting", "at a setting"),
    ("current", "at a current"),
    ("power", "at a power"),
    ("speed", "at a speed"),
    ("distance", "over a distance"),
    ("hold", "holding position"),
    ("off", "motor off"),
];
/// The same on wheels: there is no place to hold against anything.
const CART: &[(&str, &str)] = &[
    ("distance", "over a distance"),
    ("speed", "at a speed"),
    ("current", "at a current"),
    ("power", "at a power"),
    ("setting", "at a setting"),
    ("off", "parked"),
];
const HEADINGS: &[(&str, &str)] = &[
    ("into", "upwind, upstream"),
    ("across", "across the wind"),
    ("with", "downwind, downstream"),
];
const SURFACES: &[(&str, &str)] =
    &[("asphalt", "Asphalt"), ("gravel", "Gravel"), ("grass", "Short grass"), ("sand", "Sand")];

const KEEPS: &[(&str, &str)] =
    &[("", "by its name"), ("distance", "goes as far, later"), ("time", "lasts as long, slower")];

/// How a stretch's draw can be given.
pub(crate) const fn kinds(boat: bool) -> &'static [(&'static str, &'static str)] {
    if boat { BOAT } else { CART }
}

/// The unit of the amount for a kind.
pub(crate) fn amount_unit(kind: &str, units: System, dial: &Dial) -> &'static str {
    match kind {
        "current" => "A",
        "power" => "W",
        "setting" => figures::setting_unit(dial),
        "speed" => units.unit(Measure::Speed).name,
        "distance" => units.unit(Measure::Distance).name,
        _ => "",
    }
}

/// All fields of a stretch, as its panel shows them.
pub(crate) fn fields(form: Shown<'_>, prefix: &str, boat: bool, dial: &Dial) -> Vec<Field> {
    let kind = form.typed.get("kind");
    let mut specs = vec![
        Spec::words("name", "Name"),
        Spec::figure("minutes", "Lasts", "", "45 min, 1:30").with_signs(),
        Spec::choice("kind", "Given as", kinds(boat)),
    ];
    if !matches!(kind, "hold" | "off") {
        specs.push(match kind {
            "speed" => Spec::measure("amount", "Amount", Measure::Speed, ""),
            "distance" => Spec::measure("amount", "Amount", Measure::Distance, ""),
            "setting" if matches!(dial, Dial::Marks { .. }) => {
                Spec::figure("amount", "Amount", amount_unit(kind, form.units, dial), "")
                    .with_signs()
            }
            _ => Spec::figure("amount", "Amount", amount_unit(kind, form.units, dial), ""),
        });
    }
    if kind != "off" {
        specs.push(Spec::figure("share", "Motor on", "%", "of the time"));
    }
    if !matches!(kind, "hold" | "off" | "distance") {
        specs.push(Spec::measure(
            "far",
            "Goes",
            Measure::Distance,
            "its time follows; empty: as long as typed",
        ));
        specs.push(Spec::choice("keeps", "On a weaker pack", KEEPS));
    }
    if boat {
        if !matches!(kind, "hold" | "off") {
            specs.push(Spec::choice("heading", "Heading", HEADINGS));
        }
    } else {
        specs.extend([
            Spec::choice("surface", "Surface", SURFACES),
            Spec::figure("grade", "Grade", "%", "uphill; downhill with a minus").with_signs(),
            Spec::figure("stops", "Stops", "", ""),
        ]);
    }
    form.fields(prefix, &specs)
}

/// The key of a way to give the draw.
const fn kind(duty: Duty) -> &'static str {
    match duty {
        Duty::Off => "off",
        Duty::Current(_) => "current",
        Duty::Power(_) => "power",
        Duty::Setting(_) => "setting",
        Duty::Speed(_) => "speed",
        Duty::Distance(_) => "distance",
        Duty::HoldPlace => "hold",
    }
}

/// The fields of a stretch that is there.
pub(crate) fn typed(stretch: &Stretch, units: System, dial: &Dial) -> Typed {
    let amount = match stretch.duty {
        Duty::Off | Duty::HoldPlace => String::new(),
        Duty::Current(a) => figures::typed(a.value()),
        Duty::Power(w) => figures::typed(w.value()),
        Duty::Setting(s) => figures::typed_setting(dial, s),
        Duty::Speed(v) => shown(units, Measure::Speed, v.value()),
        Duty::Distance(d) => shown(units, Measure::Distance, d.value()),
    };
    Typed::default()
        .with("name", &*stretch.name)
        .with("minutes", lasts(stretch.lasts))
        .with("kind", kind(stretch.duty))
        .with("amount", amount)
        .with("share", figures::typed(stretch.share * 100.0))
        .with("heading", stretch.heading.key())
        .with("surface", stretch.surface.key())
        .with("grade", figures::typed(stretch.grade * 100.0))
        .with("stops", stretch.stops.to_string())
        .with("keeps", stretch.keeps.map_or("", Keeps::key))
        .with(
            "far",
            stretch.far.map(|d| shown(units, Measure::Distance, d.value())).unwrap_or_default(),
        )
}

/// How long it lasts, as it stands in its field and is read back: "45 min", "1 h 30 min".
pub(crate) fn lasts(time: Hours) -> String {
    let minutes = time.minutes();
    // Tenths of a second, so that what is kept comes back.
    let hours = (minutes / 60.0 + 1e-9).floor();
    let rest = figures::typed(minutes - hours * 60.0);
    match (hours > 0.0, rest.as_str()) {
        (false, _) => format!("{rest} min"),
        (true, "0") => format!("{hours} h"),
        (true, _) => format!("{hours} h {rest} min"),
    }
}

/// The fields of one more stretch: given as the last one was that had the motor on.
pub(crate) fn blank(day: &Day, boat: bool) -> Typed {
    let usual = if boat { "speed" } else { "distance" };
    let last = day.stretches.iter().rev().find(|s| s.duty != Duty::Off);
    Typed::default().with("kind", last.map_or(usual, |s| kind(s.duty))).with("share", "100")
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
    /// What it came to.
    pub(crate) implied: Option<Implied>,
    pub(crate) units: System,
    pub(crate) boat: bool,
    pub(crate) dial: &'a Dial,
}

/// Reads a stretch.
pub(crate) fn read(typed: &Typed, about: About<'_>) -> Result<Stretch, Problems> {
    let mut r = Reader::of(typed, about.units);
    let name = r.name("name");
    let minutes = r.minutes("minutes", &allowed::MINUTES);
    if let Some(minutes) = minutes
        && let day = about.others + Hours::from_minutes(minutes)
        && day > day::LONGEST
    {
        let (day, most) = (day.value(), day::LONGEST.value());
        let says = format!(
            "The day would last {day:.0} h; it can be at most {most:.0} h (7 days). Type a shorter time, as in 8 h."
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
        r.problem("grade", "Water is level: leave the grade at 0.");
    }
    let stops = r.whole_or("stops", &allowed::STOPS, kept.stops);
    let keeps = match (typed.has("keeps"), typed.get("keeps")) {
        (false, _) => Some(kept.keeps),
        (true, "") => Some(None),
        (true, _) => r.choice("keeps", Keeps::from_key).map(Some),
    };
    let far = if typed.has("far") {
        let read = r.measure_if("far", Measure::Distance, &allowed::DISTANCE);
        let was = kept.far.map(Metres::value);
        read.map(|read| {
            read.and_then(|si| {
                untouched(about.units, Measure::Distance, was, typed.get("far"), Some(si))
            })
        })
    } else {
        Some(kept.far.map(Metres::value))
    };
    // Whoever types another time means that time, unless he types how far as well.
    let other_time = typed.get("minutes").trim() != lasts(kept.lasts);
    let far = far.map(|far| {
        far.filter(|far| {
            !(other_time && kept.far.is_some_and(|was| (was.value() - far).abs() < 1e-9))
        })
    });
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
            keeps: keeps?,
            far: far?.map(Metres::of),
        })
    })();
    r.finish(stretch)
}

/// A duty given another way: the same amps as watts, the same speed as amps.
fn same_in(r: &mut Reader<'_>, kind: &str, implied: Implied, about: About<'_>) -> Option<Duty> {
    let told = match kind {
        "current" => Some(Duty::Current(implied.amps)),
        "power" => Some(Duty::Power(implied.watts)),
        "speed" => implied.speed.filter(|v| v.value() >= 0.0).map(Duty::Speed),
        "distance" => implied.distance.filter(|d| d.value() >= 0.0).map(Duty::Distance),
        "hold" => Some(Duty::HoldPlace),
        "off" => Some(Duty::Off),
        _ => None,
    };
    if told.is_none() {
        if kind == "setting" && !about.draw_is_known {
            r.problem("kind", DRAW_FIRST);
        }
        r.problem("amount", "Type the amount, as in 7.");
    }
    told
}

const DRAW_FIRST: &str = "Enter the motor's maximum amps on the Rig page first, as in 50.";

fn duty(r: &mut Reader<'_>, typed: &Typed, about: About<'_>) -> Option<Duty> {
    let kinds = kinds(about.boat);
    let given = r.choice("kind", |k| kinds.iter().map(|(key, _)| *key).find(|key| *key == k))?;
    let before = about.before.map(|s| s.duty);
    let amount = typed.get("amount");
    // Only the way it is given was changed: 3 mph are not 3 A. It stays what it came to.
    if let (Some(was), Some(implied)) = (about.before, about.implied)
        && kind(was.duty) != given
        && amount == self::typed(was, about.units, about.dial).get("amount")
    {
        return same_in(r, given, implied, about);
    }
    let kind = given;
    match kind {
        "current" => r.number("amount", &allowed::CURRENT).map(|a| Duty::Current(Amps::of(a))),
        "power" => r.number("amount", &allowed::POWER).map(|w| Duty::Power(Watts::of(w))),
        "setting" => {
            if !about.draw_is_known {
                r.problem("kind", DRAW_FIRST);
            }
            super::dial::setting(r, "amount", about.dial).map(Duty::Setting)
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
