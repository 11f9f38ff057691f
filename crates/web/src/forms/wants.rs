//! What is wanted of a pack, as fields: how much each kind is wanted, and its limit.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use crate::frame::look::Look;
use lake_hour_core::units::say::Clock;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::wants::{Kind, Level, Want};
use lake_hour_store::{Board, Change};

const LEVELS: &[(&str, &str)] = &[("must", "must"), ("nice", "nice"), ("no_matter", "no matter")];

const fn level(name: &'static str, label: &'static str) -> Spec {
    Spec::choice(name, label, LEVELS)
}

/// A kind's two fields: how much it is wanted, and its limit where there is one.
const fn specs(kind: Kind) -> (Spec, Option<Spec>) {
    match kind {
        Kind::HomeWith => (
            level("home_with", "Home with charge left"),
            Some(Spec::figure(
                "home_with_limit",
                "at least",
                "%",
                "above the floor of its kind, which stays in",
            )),
        ),
        Kind::Long => {
            (level("long", "Hours to spare"), Some(Spec::figure("long_limit", "at least", "h", "")))
        }
        Kind::Light => (
            level("light", "Light"),
            Some(Spec::measure("light_limit", "at most", Measure::Mass, "")),
        ),
        Kind::Liftable => (
            level("liftable", "No heavy lift"),
            Some(Spec::measure("liftable_limit", "each at most", Measure::Mass, "")),
        ),
        Kind::Fits => (level("fits", "Fits"), Some(Spec::words("fits_limit", "the bay"))),
        Kind::CheapNow => (
            level("cheap_now", "Cheap now"),
            Some(Spec::figure("cheap_now_limit", "at most", "", "")),
        ),
        Kind::CheapOverYears => (
            level("cheap_over_years", "Cheap over the years"),
            Some(Spec::figure("cheap_over_years_limit", "at most", "", "")),
        ),
        Kind::MovesOn => (level("moves_on", "Still moves if one fails"), None),
        Kind::FullBy => (
            level("full_by", "Full by the clock"),
            Some(Spec::figure("full_by_limit", "by", "", "").with_signs()),
        ),
        Kind::Monitor => (level("monitor", "Tells its charge"), None),
        Kind::Warranty => (
            level("warranty", "Warranty"),
            Some(Spec::figure("warranty_limit", "at least", "years", "")),
        ),
        Kind::NoLead => (level("no_lead", "No lead"), None),
        Kind::Few => {
            (level("few", "Few batteries"), Some(Spec::figure("few_limit", "at most", "", "")))
        }
    }
}

/// One kind's fields.
pub(crate) struct WantFields {
    pub(crate) level: Field,
    pub(crate) limit: Option<Field>,
}

/// The fields of all kinds.
pub(crate) fn fields(form: Shown<'_>) -> Vec<WantFields> {
    let mut all = Vec::new();
    for kind in Kind::ALL {
        let (level, limit) = specs(kind);
        let mut fields = form.fields("wants", &[level]).into_iter();
        let limit = limit.and_then(|spec| form.fields("wants", &[spec]).pop());
        all.extend(fields.next().map(|level| WantFields { level, limit }));
    }
    all
}

/// What is wanted, as the fields show it: every kind, those never asked for at their usual limit.
pub(crate) fn typed(wants: &[Want], look: Look) -> Typed {
    Kind::ALL.into_iter().fold(Typed::default(), |typed, kind| {
        let want = of(wants, kind);
        let (level, limit) = specs(kind);
        let typed = typed.with(level.name, want.level.key());
        match limit {
            Some(spec) => typed.with(spec.name, limit_text(&want, look.units, look.clock)),
            None => typed,
        }
    })
}

fn of(wants: &[Want], kind: Kind) -> Want {
    let there = wants.iter().find(|w| w.kind == kind).cloned();
    there.unwrap_or_else(|| Want::of(kind, Level::NoMatter))
}

fn limit_text(want: &Want, units: System, clock: Clock) -> String {
    match want.kind {
        Kind::HomeWith => figures::typed(want.limit * 100.0),
        Kind::Light | Kind::Liftable => shown(units, Measure::Mass, want.limit),
        Kind::FullBy => clock.words(want.limit as u16),
        Kind::Fits => want.bay.clone().unwrap_or_default(),
        _ => figures::typed(want.limit),
    }
}

/// Reads what is wanted. A kind that does not matter and stands at its usual limit is not kept.
pub(crate) fn read(typed: &Typed, units: System, board: &Board) -> Result<Change, Problems> {
    let before = &board.plan.wants;
    let mut r = Reader::of(typed, units);
    let (mut wants, mut whole) = (Vec::new(), true);
    for kind in Kind::ALL {
        let (spec, limit) = specs(kind);
        let was = of(before, kind);
        let level = r.choice(spec.name, Level::from_key);
        let limit = match limit {
            None => Some(was.clone()),
            Some(limit) => read_limit(&mut r, limit.name, was, board),
        };
        match (level, limit) {
            (Some(level), Some(want)) => wants.push(Want { level, ..want }),
            _ => whole = false,
        }
    }
    wants.retain(|want| want.counts() || *want != Want::of(want.kind, Level::NoMatter));
    r.finish(whole.then_some(Change::EditWants(wants)))
}

/// A want with the limit that was typed.
fn read_limit(r: &mut Reader<'_>, name: &str, was: Want, board: &Board) -> Option<Want> {
    let kind = was.kind;
    if kind == Kind::Fits {
        let typed = r.text(name)?.trim();
        let bays = &board.plan.rig.bays;
        if !typed.is_empty() && !bays.iter().any(|bay| bay.name == typed) {
            let names: Vec<&str> = bays.iter().map(|bay| bay.name.as_str()).collect();
            let says = match names.as_slice() {
                [] => "No bay is on the Rig page yet. Leave this empty.".to_owned(),
                names => format!("Leave it empty for all bays, or type one: {}.", names.join(", ")),
            };
            r.problem(name, says);
            return None;
        }
        let bay = (!typed.is_empty()).then(|| typed.to_owned());
        return Some(Want { bay, ..was });
    }
    let range = kind.limit()?;
    let limit = match kind {
        Kind::HomeWith => r.number(name, &PERCENT)? / 100.0,
        Kind::Light | Kind::Liftable => {
            let read = r.measure(name, Measure::Mass, range);
            let typed = r.typed.get(name);
            untouched(r.units, Measure::Mass, Some(was.limit), typed, read)?
        }
        Kind::FullBy => match r.clock_if(name)? {
            Some(minute) => f64::from(minute),
            None => {
                r.problem(name, "Type a clock time, as in 5:30.");
                return None;
            }
        },
        _ => r.number(name, range)?,
    };
    Some(was.at(limit))
}

/// A share typed as a percentage.
const PERCENT: lake_hour_core::allowed::Allowed =
    lake_hour_core::allowed::Allowed { low: 0.0, high: 100.0, unit: "%" };

/// The next of the three, as a chip goes round.
pub(crate) const fn next(level: Level) -> Level {
    match level {
        Level::Must => Level::Nice,
        Level::Nice => Level::NoMatter,
        Level::NoMatter => Level::Must,
    }
}
