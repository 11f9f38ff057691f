//! A battery of the shelf as groups of fields: what its chemistry's labels say, and whatever it has.

use super::{Group, Problems, Reader, Shown, Spec, Typed, battery, shown, untouched};
use crate::figures;
use jiff::civil::Date;
use lake_hour_core::allowed;
use lake_hour_core::shelf::{Build, Candidate, Chemistry, Detail, Purpose, SizeClass};
use lake_hour_core::source::{Origin, Vouched};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Celsius, Kilograms, Volts, WattHours};

const BUILDS: &[(&str, &str)] = &[
    ("", "not said"),
    ("prismatic", "prismatic cells"),
    ("cylindrical", "cylindrical cells"),
    ("spiral", "spiral"),
    ("semi_solid", "\u{201c}semi-solid\u{201d}"),
];
const PURPOSES: &[(&str, &str)] = &[
    ("", "not said"),
    ("deep_cycle", "deep-cycle"),
    ("dual_purpose", "dual-purpose"),
    ("starting", "starting"),
];
const CLASSES: &[(&str, &str)] = &[
    ("", "none"),
    ("U1", "U1"),
    ("22NF", "22NF"),
    ("24", "24"),
    ("27", "27"),
    ("31", "31"),
    ("34", "34"),
    ("4D", "4D"),
    ("8D", "8D"),
    ("GC2", "GC2 (6 V cart)"),
    ("GC2H", "GC2H (6 V, tall)"),
    ("GC8", "GC8 (8 V cart)"),
    ("GC12", "GC12 (12 V cart)"),
];
const ORIGINS: &[(&str, &str)] = &[
    ("label", "the label or its table"),
    ("measured", "my own measuring"),
    ("told", "what I was told"),
    ("typical", "what is typical"),
];

/// For whom a field is offered though it is empty.
#[derive(Clone, Copy, PartialEq, Eq)]
enum For {
    All,
    Lead,
    Lithium,
}

type Offered = (Spec, For, Option<Detail>);

const KIND: &[Offered] = &[
    (Spec::words("name", "Name"), For::All, None),
    (Spec::choice("chemistry", "Chemistry", super::pack::CHEMISTRIES), For::All, None),
    (Spec::choice("build", "Built", BUILDS), For::All, None),
    (Spec::choice("purpose", "Made for", PURPOSES), For::All, None),
    (Spec::choice("class", "Standard size", CLASSES), For::All, None),
];

const ENERGY: &[Offered] = &[
    (
        Spec::figure("volts", "Nominal voltage", "V", "12, 12.8, 6 ..."),
        For::All,
        Some(Detail::Volts),
    ),
    (Spec::figure("ah", "Capacity", "Ah", ""), For::All, Some(Detail::Capacity)),
    (
        Spec::figure("over", "rated over", "h", "lead 20, LFP 5 if not said"),
        For::Lead,
        Some(Detail::Capacity),
    ),
    (
        Spec::figure("reserve", "Reserve", "min", "how long it gives 25 A"),
        For::Lead,
        Some(Detail::Reserve),
    ),
    (Spec::figure("energy", "Energy as printed", "Wh", ""), For::Lithium, Some(Detail::Energy)),
    (
        Spec::figure(
            "equivalent",
            "\u{201c}Lead-equivalent\u{201d}",
            "Ah",
            "not a capacity: not used",
        ),
        For::Lithium,
        Some(Detail::LeadEquivalent),
    ),
    (
        Spec {
            words: true,
            ..Spec::figure("ratings", "Further ratings", "", "90 Ah at 5 h; 48 min at 75 A")
        },
        For::Lead,
        Some(Detail::Ratings),
    ),
    (
        Spec::figure("cranking", "Cranking amps", "A", "CCA: 30 s at 0 °F; says nothing of Ah"),
        For::Lead,
        Some(Detail::Cranking),
    ),
];

const LIMITS: &[Offered] = &[
    (
        Spec::figure("continuous", "Continuous amps", "A", ""),
        For::Lithium,
        Some(Detail::Continuous),
    ),
    (Spec::figure("peak", "Peak amps", "A", ""), For::Lithium, Some(Detail::Peak)),
    (
        Spec::figure("seconds", "for up to", "s", "5 s if not said"),
        For::Lithium,
        Some(Detail::Peak),
    ),
    (Spec::figure("cutoff", "Shuts off at", "V", ""), For::Lithium, Some(Detail::Cutoff)),
    (Spec::figure("charge", "Charge volts", "V", ""), For::All, Some(Detail::ChargeVoltage)),
    (
        Spec::measure("cold", "No charge below", Measure::Temperature, ""),
        For::Lithium,
        Some(Detail::ColdCutoff),
    ),
    (Spec::choice("heater", "Heater", FLAGS), For::Lithium, Some(Detail::Heater)),
    (Spec::choice("monitor", "Battery monitor", FLAGS), For::Lithium, Some(Detail::Monitor)),
    (
        Spec::figure("milliohm", "Resistance", "milliohm", ""),
        For::Lithium,
        Some(Detail::Resistance),
    ),
    (Spec::figure("rest", "Self-discharge", "%", "a month"), For::All, Some(Detail::SelfDischarge)),
    (Spec::figure("most_series", "Max in series", "", ""), For::Lithium, Some(Detail::MaxSeries)),
];

const FLAGS: &[(&str, &str)] = &[("", "not said"), ("yes", "yes"), ("no", "no")];

const BODY: &[Offered] = &[
    (Spec::measure("mass", "Weight", Measure::Mass, ""), For::All, Some(Detail::Mass)),
    (Spec::measure("length", "Length", Measure::Side, ""), For::All, Some(Detail::Size)),
    (Spec::measure("width", "Width", Measure::Side, ""), For::All, Some(Detail::Size)),
    (
        Spec::measure("height", "Height", Measure::Side, "with terminals"),
        For::All,
        Some(Detail::Size),
    ),
    (Spec::words("ingress", "IP rating"), For::Lithium, Some(Detail::Ingress)),
    (Spec::words("terminals", "Terminals"), For::All, Some(Detail::Terminals)),
    (Spec::figure("price", "Price", "", ""), For::All, Some(Detail::Price)),
    (Spec::figure("cycles", "Rated cycles", "", ""), For::All, Some(Detail::Cycles)),
    (
        Spec::figure("depth", "at a depth of", "%", "80 % if not said"),
        For::All,
        Some(Detail::Cycles),
    ),
    (Spec::figure("years", "Calendar life", "years", ""), For::Lithium, Some(Detail::Years)),
    (Spec::figure("full", "Full warranty", "years", ""), For::All, Some(Detail::Warranty)),
    (Spec::figure("total", "prorated up to", "years", ""), For::All, Some(Detail::Warranty)),
];

const SAYS: &[Offered] = &[
    (Spec::choice("origin", "These figures come from", ORIGINS), For::All, None),
    (Spec { words: true, ..Spec::figure("on", "noted on", "", "year-month-day") }, For::All, None),
];

const GROUPS: [(&str, &[Offered]); 5] = [
    ("Kind", KIND),
    ("Volts and energy", ENERGY),
    ("Limits", LIMITS),
    ("Size, price, promises", BODY),
    ("Who says so", SAYS),
];

/// The groups of fields of a battery's form: those its chemistry's labels have, and those filled in.
pub(crate) fn groups(prefix: &str, form: Shown<'_>) -> Vec<Group> {
    let chemistry = Chemistry::from_key(form.typed.get("chemistry"));
    let lead = chemistry.is_some_and(Chemistry::is_lead);
    GROUPS
        .map(|(title, offered)| {
            let wanted = |(spec, whom, _): &&Offered| {
                *whom == For::All
                    || (*whom == For::Lead) == lead
                    || !form.typed.get(spec.name).is_empty()
                    || form.problems.get(spec.name).is_some()
            };
            let specs: Vec<Spec> = offered.iter().filter(wanted).map(|o| o.0).collect();
            Group { title, fields: form.fields(prefix, &specs) }
        })
        .into()
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

/// The fields of a battery that is there.
pub(crate) fn typed(c: &Candidate, units: System) -> Typed {
    let some = |v: Option<f64>| v.map(figures::typed).unwrap_or_default();
    let flag = |f: Option<bool>| f.map_or("", |yes| if yes { "yes" } else { "no" });
    let cold = c.cold_cutoff.map(|t| shown(units, Measure::Temperature, t.value()));
    battery::typed(&c.battery, units)
        .with("build", c.build.map_or("", Build::key))
        .with("purpose", c.purpose.map_or("", Purpose::key))
        .with("class", c.size_class.map_or("", SizeClass::name))
        .with("energy", some(c.energy.map(WattHours::value)))
        .with("equivalent", some(c.lead_equivalent.map(AmpHours::value)))
        .with("charge", some(c.charge_voltage.map(Volts::value)))
        .with("cold", cold.unwrap_or_default())
        .with("heater", flag(c.heater))
        .with("monitor", flag(c.monitor))
        .with("rest", some(c.self_discharge.map(|s| s * 100.0)))
        .with("most_series", some(c.max_series.map(f64::from)))
        .with("ingress", c.ingress.as_deref().unwrap_or_default())
        .with("terminals", c.terminals.as_deref().unwrap_or_default())
        .with("full", some(c.warranty_full))
        .with("total", some(c.warranty_total))
        .with("origin", Origin::Label.key())
        .with("on", today().to_string())
}

/// A share typed as a percentage.
const REST_PERCENT: allowed::Allowed = allowed::Allowed { low: 0.0, high: 100.0, unit: "%" };

/// Reads a battery. What the form does not show is kept from `before`; the figures that were typed are
/// vouched for as the form says, the others as they were.
pub(crate) fn read(
    sent: &Typed,
    units: System,
    before: Option<&Candidate>,
) -> Result<Candidate, Problems> {
    let mut r = Reader::of(sent, units);
    let unit = battery::read(&mut r, before.map(|c| &c.battery));
    let or_none = |text: &str| text.is_empty();
    let build =
        r.choice("build", |k| if or_none(k) { Some(None) } else { Build::from_key(k).map(Some) });
    let purpose =
        r.choice(
            "purpose",
            |k| if or_none(k) { Some(None) } else { Purpose::from_key(k).map(Some) },
        );
    let class =
        r.choice(
            "class",
            |k| if or_none(k) { Some(None) } else { SizeClass::from_name(k).map(Some) },
        );
    let energy = r.optional("energy", &allowed::LABEL_ENERGY);
    let equivalent = r.optional("equivalent", &allowed::CAPACITY);
    let charge = r.optional("charge", &allowed::VOLTAGE);
    let cold = r.measure_if("cold", Measure::Temperature, &allowed::TEMPERATURE);
    let flag = |k: &str| match k {
        "" => Some(None),
        "yes" => Some(Some(true)),
        "no" => Some(Some(false)),
        _ => None,
    };
    let heater = r.choice("heater", flag);
    let monitor = r.choice("monitor", flag);
    let rest = r.optional("rest", &REST_PERCENT);
    let series = r.optional("most_series", &allowed::SERIES);
    let ingress = r.name_or("ingress", "");
    let terminals = r.name_or("terminals", "");
    let full = r.optional("full", &allowed::WARRANTY);
    let total = r.optional("total", &allowed::WARRANTY);
    let by =
        r.choice("origin", |k| if or_none(k) { Some(Origin::Label) } else { Origin::from_key(k) });
    let on = read_day(&mut r, "on");
    let candidate = (|| {
        let words = |text: String| (!text.is_empty()).then_some(text);
        let mut c = before.cloned().unwrap_or_else(|| {
            let rating = lake_hour_core::shelf::Rating::reserve(1.0);
            let battery =
                lake_hour_core::shelf::Battery::new("", Chemistry::Lfp, Volts::ZERO, rating);
            Candidate::of(battery)
        });
        c.battery = unit?;
        (c.build, c.purpose, c.size_class) = (build?, purpose?, class?);
        c.energy = energy?.map(WattHours::of);
        c.lead_equivalent = equivalent?.map(AmpHours::of);
        c.charge_voltage = charge?.map(Volts::of);
        let kept = before.and_then(|c| c.cold_cutoff).map(Celsius::value);
        let typed = sent.get("cold");
        c.cold_cutoff = untouched(units, Measure::Temperature, kept, typed, cold?).map(Celsius::of);
        (c.heater, c.monitor) = (heater?, monitor?);
        c.self_discharge = rest?.map(|percent| percent / 100.0);
        c.max_series = series?.map(|n| n.round() as u32);
        (c.ingress, c.terminals) = (words(ingress?), words(terminals?));
        (c.warranty_full, c.warranty_total) = (full?, total?);
        vouch(&mut c, sent, units, before, Vouched { by: by?, on: on? });
        fill_in(&mut c);
        Some(c)
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

/// Notes who vouches for each figure that was typed; a figure typed over is no correction any more.
fn vouch(c: &mut Candidate, sent: &Typed, units: System, before: Option<&Candidate>, by: Vouched) {
    let old = before.map(|b| typed(b, units)).unwrap_or_default();
    for (spec, _, detail) in GROUPS.iter().flat_map(|(_, offered)| *offered) {
        let (Some(detail), now) = (detail, sent.get(spec.name).trim()) else { continue };
        if now == old.get(spec.name) {
            continue;
        }
        c.battery.corrected.retain(|was| was.detail != *detail);
        if now.is_empty() {
            c.battery.origins.remove(detail);
        } else {
            c.battery.origins.insert(*detail, by);
        }
    }
}

/// Fills in the dimensions and the weight of a standard size where the label does not say.
fn fill_in(c: &mut Candidate) {
    let Some(class) = c.size_class else { return };
    let typical = Vouched { by: Origin::Typical, on: None };
    if c.battery.size.is_none() {
        c.battery.size = Some(class.size());
        c.battery.origins.insert(Detail::Size, typical);
    }
    if c.battery.mass.is_none()
        && let Some((low, high)) = class.typical_mass(c.battery.chemistry)
    {
        c.battery.mass = Some(Kilograms::of((low.value() + high.value()) / 2.0));
        c.battery.origins.insert(Detail::Mass, typical);
    }
}

/// Reads who vouches for each figure, and since when.
pub(crate) fn read_origins(sent: &Typed, before: &Candidate) -> Result<Candidate, Problems> {
    let mut r = Reader::of(sent, System::Metric);
    let mut c = before.clone();
    let mut whole = true;
    for detail in Detail::ALL {
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
            .with("volts", "12.8")
            .with("ah", "100")
            .with("class", "31")
            .with("on", "2026-05-31")
    }

    #[test]
    fn a_typed_label_says_who_vouches_and_what_is_typical() {
        let c = read(&sent(), System::Us, None).expect("good");
        let size = c.battery.size.expect("the standard one");
        assert!((size.length.value() - 330.0).abs() < 1e-9);
        assert_eq!(c.battery.origin(Detail::Size), Origin::Typical);
        assert_eq!(c.battery.origin(Detail::Mass), Origin::Typical);
        let day = "2026-05-31".parse().expect("a day");
        assert_eq!(
            c.battery.origins[&Detail::Capacity],
            Vouched { by: Origin::Label, on: Some(day) }
        );
        // Untouched, nothing changes; a figure typed over is vouched for anew.
        let again = typed(&c, System::Us).with("on", "2026-06-01").with("origin", "measured");
        assert_eq!(read(&again, System::Us, Some(&c)).expect("good"), c);
        let weighed = read(&again.with("mass", "26 lb"), System::Us, Some(&c)).expect("good");
        assert_eq!(weighed.battery.origin(Detail::Mass), Origin::Measured);
        assert_eq!(
            weighed.battery.origins[&Detail::Capacity],
            c.battery.origins[&Detail::Capacity]
        );
    }

    #[test]
    fn only_what_such_labels_say_is_offered() {
        let names = |chemistry| -> Vec<&str> {
            let typed = blank(chemistry, None).with("energy", "1280");
            let problems = Problems::default();
            let form = Shown { typed: &typed, problems: &problems, units: System::Us };
            groups("x", form).iter().flat_map(|g| g.fields.iter().map(|f| f.spec.name)).collect()
        };
        let lead = names(Chemistry::Agm);
        assert!(
            lead.contains(&"cranking") && lead.contains(&"energy") && !lead.contains(&"heater")
        );
        let lithium = names(Chemistry::Lfp);
        assert!(lithium.contains(&"heater") && !lithium.contains(&"cranking"));
    }

    #[test]
    fn each_bad_field_is_told() {
        let bad =
            sent().with("on", "last week").with("class", "99").with("rest", "-1").with("cold", "x");
        let problems = read(&bad, System::Us, None).expect_err("bad");
        assert_eq!(problems.get("on"), Some("Write the day as 2026-05-31."));
        assert_eq!(problems.get("class"), Some("Choose one of those offered."));
        assert_eq!(problems.count(), 4);
    }
}
