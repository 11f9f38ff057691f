//! A battery's own fields, by the core's list of figures: the same on the Board and on the shelf.

use super::{Field, Reader, Shown, Spec, Typed, shown};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::shelf::figures::{
    self as list, Figure, Group as Place, Holds, Label, Number, On, Value, Wrong,
};
use lake_hour_core::shelf::{Battery, Chemistry};
use lake_hour_core::source::Vouched;
use lake_hour_core::units::system::System;
use lake_hour_formats::words;

const FLAGS: &[(&str, &str)] = &[("", "not said"), ("yes", "yes"), ("no", "no")];

/// How a field of the list is asked for.
fn spec(field: &list::Field) -> Spec {
    let words = Spec { words: true, ..Spec::figure(field.key, field.label, "", field.hint) };
    match &field.holds {
        Holds::Number(n) => match n.measure {
            Some(measure) => Spec::measure(field.key, field.label, measure, field.hint),
            None => Spec::figure(field.key, field.label, n.typed().0.unit, field.hint),
        },
        Holds::Text(_) | Holds::Long(_) | Holds::Ratings | Holds::Cycles => words,
        Holds::Flag(_) => Spec { options: FLAGS, words: false, ..words },
        Holds::Choice(choice) => Spec { options: choice.options, words: false, ..words },
    }
}

/// The fields of some places of the list that are wanted, by their figure and whether something stands in
/// them or is wrong with them.
pub(crate) fn fields(
    prefix: &str,
    form: Shown<'_>,
    places: &[Place],
    wanted: impl Fn(&Figure, bool) -> bool,
) -> Vec<Field> {
    let filled = |key: &str| !form.typed.get(key).is_empty() || form.problems.get(key).is_some();
    let specs: Vec<Spec> = list::fields()
        .filter(|(figure, field)| {
            places.contains(&figure.group) && wanted(figure, filled(field.key))
        })
        .map(|(_, field)| spec(field))
        .collect();
    form.fields(prefix, &specs)
}

/// Whether labels of what is chosen in a form give a figure.
pub(crate) fn is_usual(figure: &Figure, typed: &Typed) -> bool {
    let lead = Chemistry::from_key(typed.get("chemistry")).is_some_and(Chemistry::is_lead);
    match figure.on {
        On::All => true,
        On::Lead => lead,
        On::Lithium => !lead,
    }
}

/// A label as it stands in a form.
pub(crate) fn typed(label: &Label, units: System) -> Typed {
    let words = |field: &list::Field, value: &Value| match (value, &field.holds) {
        (Value::Number(v), Holds::Number(n)) => match n.measure {
            Some(measure) => shown(units, measure, *v),
            None => figures::typed(v * n.typed().1),
        },
        (Value::Number(v), _) => figures::typed(*v),
        (Value::Text(text), _) => text.clone(),
        (Value::Flag(yes), _) => if *yes { "yes" } else { "no" }.to_owned(),
        (Value::Ratings(all), _) => words::ratings(all),
        (Value::Cycles(all), _) => words::cycles(all),
    };
    label
        .iter()
        .fold(Typed::default(), |typed, (field, value)| typed.with(field.key, words(field, value)))
}

/// Reads a battery. What the form does not show, and what was not touched in it, is kept from `before` to
/// the last digit; `None` where something is wrong, which the reader holds.
pub(crate) fn read(r: &mut Reader<'_>, before: Option<&Battery>) -> Option<Battery> {
    let kept = before.map(Label::of);
    let old = kept.as_ref().map(|label| typed(label, r.units));
    let mut label = kept.clone().unwrap_or_default();
    for (_, field) in list::fields() {
        let sent = r.typed.get(field.key).trim();
        let untouched = old.as_ref().is_some_and(|old| old.get(field.key) == sent);
        if r.typed.has(field.key) && !untouched {
            label.set(field, value(r, field));
        }
    }
    let name = r.name("name");
    let battery = label.battery().map_err(|wrong| {
        for wrong in wrong {
            tell(r, wrong);
        }
    });
    let mut battery = battery.ok()?;
    battery.name = name?;
    if let Some(before) = before {
        battery.origins.clone_from(&before.origins);
        battery.corrected.clone_from(&before.corrected);
    }
    Some(battery)
}

/// What stands in a field; `None` where it is empty, or wrong, which the reader then holds.
fn value(r: &mut Reader<'_>, field: &list::Field) -> Option<Value> {
    let key = field.key;
    if r.is_blank(key) {
        return None;
    }
    match &field.holds {
        Holds::Number(n) => number(r, key, n).map(Value::Number),
        Holds::Text(_) => r.text_of(key, allowed::NAME_LENGTH).map(Value::Text),
        Holds::Long(_) => r.text_of(key, allowed::TEXT_LENGTH).map(Value::Text),
        Holds::Flag(_) => {
            let flag = |k: &str| FLAGS.iter().any(|(f, _)| *f == k).then_some(k == "yes");
            r.choice(key, flag).map(Value::Flag)
        }
        Holds::Choice(choice) => {
            let known = |k: &str| {
                choice.options.iter().find(|(o, _)| *o == k).map(|(o, _)| (*o).to_owned())
            };
            r.choice(key, known).map(Value::Text)
        }
        Holds::Ratings => {
            let read = words::read_ratings(r.text(key)?);
            r.keep(key, read).map(Value::Ratings)
        }
        Holds::Cycles => {
            let read = words::read_cycles(r.text(key)?);
            r.keep(key, read).map(Value::Cycles)
        }
    }
}

fn number(r: &mut Reader<'_>, key: &str, n: &Number) -> Option<f64> {
    let (range, times) = n.typed();
    match n.measure {
        Some(measure) => r.measure(key, measure, &n.allowed),
        None if n.whole => r.whole(key, &range).map(f64::from),
        None => r.number(key, &range).map(|v| v / times),
    }
}

/// Says what is wrong beside its field, unless that follows from something that is said already.
fn tell(r: &mut Reader<'_>, wrong: Wrong) {
    if !list::fields().any(|(_, field)| wrong.follows(field.key) && r.has_problem(field.key)) {
        r.problem(wrong.key(), wrong);
    }
}

/// Notes who vouches for each figure that was typed; a figure typed over is no correction any more.
pub(crate) fn vouch(
    b: &mut Battery,
    sent: &Typed,
    units: System,
    before: Option<&Battery>,
    by: Vouched,
) {
    let old = before.map(|b| typed(&Label::of(b), units)).unwrap_or_default();
    for figure in list::FIGURES.iter().filter(|f| f.group != Place::Kind) {
        let touched = |field: &list::Field| {
            sent.has(field.key) && sent.get(field.key).trim() != old.get(field.key)
        };
        if !figure.fields.iter().any(touched) {
            continue;
        }
        b.corrected.retain(|was| was.detail != figure.detail);
        if figure.fields.iter().any(|field| !sent.get(field.key).trim().is_empty()) {
            b.origins.insert(figure.detail, by);
        } else {
            b.origins.remove(&figure.detail);
        }
    }
}
