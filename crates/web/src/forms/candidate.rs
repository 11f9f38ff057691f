//! A battery of the shelf as groups of fields: what its chemistry's labels say, and whatever it has.

use super::{Group, Problems, Reader, Shown, Spec, Typed, battery};
use jiff::civil::Date;
use lake_hour_core::shelf::figures::{Figure, Group as Place, Label};
use lake_hour_core::shelf::{Battery, Build, Candidate, Chemistry, Detail};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::Kilograms;
use lake_hour_core::units::system::System;

const ORIGINS: &[(&str, &str)] = &[
    ("label", "the label or its table"),
    ("measured", "my own measuring"),
    ("told", "what I was told"),
    ("typical", "what is typical"),
];

const SAYS: &[Spec] = &[
    Spec::choice("origin", "These figures come from", ORIGINS),
    Spec { words: true, ..Spec::figure("on", "noted on", "", "year-month-day") },
];

const GROUPS: [(&str, Place); 5] = [
    ("Kind", Place::Kind),
    ("Volts and energy", Place::Energy),
    ("Limits", Place::Limits),
    ("Size, price, promises", Place::Body),
    ("Shop and notes", Place::Trade),
];

/// The groups of fields of a battery's form: those its chemistry's labels have, and those filled in.
pub(crate) fn groups(prefix: &str, form: Shown<'_>) -> Vec<Group> {
    let usual = |figure: &Figure, filled| filled || battery::is_usual(figure, form.typed);
    let mut groups: Vec<Group> = GROUPS
        .map(|(title, place)| Group {
            title,
            fields: battery::fields(prefix, form, &[place], usual),
        })
        .into();
    groups.push(Group { title: "Who says so", fields: form.fields(prefix, SAYS) });
    groups
}

/// The day it is, as it stands in a form.
pub(crate) fn today() -> Date {
    jiff::tz::TimeZone::UTC.to_datetime(jiff::Timestamp::now()).date()
}

/// The fields of a new battery of a kind.
pub(crate) fn blank(chemistry: Chemistry, build: Option<Build>) -> Typed {
    Typed::default()
        .with("chemistry", chemistry.key())
        .with("build", build.map_or("", Build::key))
        .with("origin", Origin::Label.key())
        .with("on", today().to_string())
}

/// The fields of a label, as it was read from text or from a battery that is there.
pub(crate) fn typed(label: &Label, units: System) -> Typed {
    battery::typed(label, units).with("origin", Origin::Label.key()).with("on", today().to_string())
}

/// Reads a battery. What the form does not show is kept from `before`; the figures that were typed are
/// vouched for as the form says, the others as they were.
pub(crate) fn read(
    sent: &Typed,
    units: System,
    before: Option<&Candidate>,
) -> Result<Candidate, Problems> {
    let mut r = Reader::of(sent, units);
    let unit = battery::read(&mut r, before.map(|c| &c.battery));
    let by = r
        .choice("origin", |k| if k.is_empty() { Some(Origin::Label) } else { Origin::from_key(k) });
    let on = read_day(&mut r, "on");
    let candidate = (|| {
        let mut unit = unit?;
        let vouched = Vouched { by: by?, on: on? };
        battery::vouch(&mut unit, sent, units, before.map(|c| &c.battery), vouched);
        fill_in(&mut unit);
        Some(match before {
            Some(before) => Candidate { battery: unit, ..before.clone() },
            None => Candidate::of(unit),
        })
    })();
    r.finish(candidate)
}

/// A day that may stay empty.
fn read_day(r: &mut Reader<'_>, name: &str) -> Option<Option<Date>> {
    let text = r.text(name)?.trim();
    if text.is_empty() {
        return Some(None);
    }
    let read: Result<Date, _> = text.parse();
    r.keep(name, read.map_err(|_| "Write the day as 2026-05-31.")).map(Some)
}

/// Fills in the dimensions and the weight of a standard size where the label does not say.
fn fill_in(b: &mut Battery) {
    let Some(class) = b.size_class else { return };
    let typical = Vouched { by: Origin::Typical, on: None };
    if b.size.is_none() {
        b.size = Some(class.size());
        b.origins.insert(Detail::SIZE, typical);
    }
    if b.mass.is_none()
        && let Some((low, high)) = class.typical_mass(b.chemistry)
    {
        b.mass = Some(Kilograms::of((low.value() + high.value()) / 2.0));
        b.origins.insert(Detail::MASS, typical);
    }
}

/// Reads who vouches for each figure, and since when.
pub(crate) fn read_origins(sent: &Typed, before: &Candidate) -> Result<Candidate, Problems> {
    let mut r = Reader::of(sent, System::Metric);
    let mut c = before.clone();
    let mut whole = true;
    for detail in Detail::vouched() {
        let (who, day) = (format!("by_{}", detail.key()), format!("on_{}", detail.key()));
        if sent.get(&who).is_empty() {
            continue;
        }
        let (by, on) = (r.choice(&who, Origin::from_key), read_day(&mut r, &day));
        match (by, on) {
            (Some(Origin::Label), Some(None)) => {
                c.battery.origins.remove(&detail);
            }
            (Some(by), Some(on)) => {
                c.battery.origins.insert(detail, Vouched { by, on });
            }
            _ => whole = false,
        }
    }
    r.finish(whole.then_some(c))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sent() -> Typed {
        blank(Chemistry::Lfp, Some(Build::Prismatic))
            .with("name", "Marl Point")
            .with("nominal_voltage_v", "12.8")
            .with("capacity_ah", "100")
            .with("size_class", "31")
            .with("on", "2026-05-31")
    }

    #[test]
    fn a_typed_label_says_who_vouches_and_what_is_typical() {
        let c = read(&sent(), System::Us, None).expect("good");
        let size = c.battery.size.expect("the standard one");
        assert!((size.length.value() - 330.0).abs() < 1e-9);
        assert_eq!(c.battery.origin(Detail::SIZE), Origin::Typical);
        assert_eq!(c.battery.origin(Detail::MASS), Origin::Typical);
        let day = "2026-05-31".parse().expect("a day");
        assert_eq!(
            c.battery.origins[&Detail::CAPACITY],
            Vouched { by: Origin::Label, on: Some(day) }
        );
        // Untouched, nothing changes; a figure typed over is vouched for anew.
        let again = typed(&Label::of(&c.battery), System::Us)
            .with("on", "2026-06-01")
            .with("origin", "measured");
        assert_eq!(read(&again, System::Us, Some(&c)).expect("good"), c);
        let weighed = read(&again.with("mass_kg", "26 lb"), System::Us, Some(&c)).expect("good");
        assert_eq!(weighed.battery.origin(Detail::MASS), Origin::Measured);
        assert_eq!(
            weighed.battery.origins[&Detail::CAPACITY],
            c.battery.origins[&Detail::CAPACITY]
        );
    }

    #[test]
    fn only_what_such_labels_say_is_offered() {
        let names = |chemistry| -> Vec<&str> {
            let typed = blank(chemistry, None).with("energy_wh", "1280");
            let problems = Problems::default();
            let form = Shown { typed: &typed, problems: &problems, units: System::Us };
            groups("x", form).iter().flat_map(|g| g.fields.iter().map(|f| f.spec.name)).collect()
        };
        let lead = names(Chemistry::Agm);
        assert!(
            lead.contains(&"cranking_a")
                && lead.contains(&"energy_wh")
                && !lead.contains(&"heater")
        );
        let lithium = names(Chemistry::Lfp);
        assert!(lithium.contains(&"heater") && !lithium.contains(&"cranking_a"));
    }

    #[test]
    fn each_bad_field_is_told() {
        let bad = sent()
            .with("on", "last week")
            .with("size_class", "99")
            .with("self_discharge_month", "-1")
            .with("cold_cutoff_c", "x");
        let problems = read(&bad, System::Us, None).expect_err("bad");
        assert_eq!(problems.get("on"), Some("Write the day as 2026-05-31."));
        assert_eq!(problems.get("size_class"), Some("Choose one of those offered."));
        assert_eq!(problems.count(), 4);
    }
}
