//! What the pack that is looked at weighs with all that comes with it, and where it sits.

use super::opened::Line;
use crate::figures;
use crate::parts::decision::About;
use lake_hour_core::pack::{Pack, stow};
use lake_hour_core::proposals::weight::{
    LOAD_CONSTANT, Load, lifting_index, on_the_trailer, planing,
};
use lake_hour_core::units::Kilograms;
use lake_hour_core::units::system::Measure;
use lake_hour_core::verdict::Evaluation;

/// A pack with all that comes with it; `None` where its label gives no weight, or the cables cannot be told.
pub(super) fn load(about: &About<'_>, evaluation: &Evaluation) -> Option<Load> {
    let cables = crate::parts::circuit::laid(about, evaluation, Some(true))?.1.ok()?.cable_mass();
    Load::of(&about.plan.rig, about.pack, cables, &evaluation.drawn.as_ref()?.refill)
}

/// Weight, against what is aboard, and where it sits.
pub(super) fn weight(
    about: &About<'_>,
    evaluation: &Evaluation,
    now: Option<&Evaluation>,
) -> Vec<Line> {
    let (plan, pack, units) = (about.plan, about.pack, about.say.units);
    let Some(mass) = evaluation.mass else {
        return vec![Line::new("weight", "not on its label").bad_if(true)];
    };
    let mut lines = vec![Line::new("batteries", figures::mass(mass, units))];
    let aboard = plan.aboard();
    let all = load(about, evaluation);
    if let Some(load) = &all {
        let with = load.cables + load.holders + load.charger;
        let with = format!("about {}", figures::mass(with, units));
        lines.push(Line::new("cables, holders, charger", with));
    }
    let all_now = aboard.zip(now).and_then(|(pack, now)| load(&About { pack, ..*about }, now));
    let more = |kg: Kilograms| match figures::mass(Kilograms::of(kg.value().abs()), units) {
        _ if kg.value().abs() < 0.5 => "the same".to_owned(),
        by if kg < Kilograms::ZERO => format!("{by} less"),
        by => format!("{by} more"),
    };
    let heavier_by = match (all, all_now, aboard.and_then(Pack::mass)) {
        (Some(all), Some(now), _) => {
            let by = all.whole() - now.whole();
            lines.push(Line::new("than the set aboard, all in", more(by)));
            by
        }
        (_, _, Some(now)) => {
            lines.push(Line::new("than the set aboard", more(mass - now)));
            mass - now
        }
        _ => Kilograms::ZERO,
    };
    if let Some(limit) = plan.rig.battery_mass_limit {
        let left = (limit - mass).value();
        let name = if about.is_boat() { "the boat may carry" } else { "the cart may carry" };
        let value = figures::mass(limit, units);
        lines.push(Line::new(name, value).bad_if(left < 0.0));
    }
    if let Some(each) = pack.battery.mass.filter(|m| *m > LOAD_CONSTANT) {
        let (mass, index) = (figures::mass(each, units), lifting_index(each));
        let value = format!("{mass} each, {index:.1} of what one may lift: two people or a hoist");
        lines.push(Line::new("lift", value).bad_if(true));
    }
    if let Some((carries, limit)) = on_the_trailer(&plan.rig, heavier_by) {
        let words = format!("{} of {}", figures::mass(carries, units), figures::mass(limit, units));
        lines.push(Line::new("on the trailer", words).bad_if(carries > limit));
    }
    lines.extend(balance(about, aboard));
    lines.extend(on_the_plane(about, heavier_by));
    lines
}

/// How the craft trims, or how its axles share the change.
fn balance(about: &About<'_>, aboard: Option<&Pack>) -> Option<Line> {
    let (rig, units) = (&about.plan.rig, about.say.units);
    let trim = stow::trim(rig, about.pack, aboard)?;
    let mass = |kg: f64| figures::mass(Kilograms::of(kg.abs()), units);
    if !about.is_boat() {
        let more = |kg: f64| if kg < 0.0 { "less" } else { "more" };
        let (front, rear) = trim.axles();
        return Some(Line::new(
            "on the axles",
            format!("front {} {}, rear {} {}", mass(front), more(front), mass(rear), more(rear)),
        ));
    }
    let bow = trim.bow().value() * 1000.0;
    if bow.abs() < 1.0 {
        return Some(Line::new("trim", "as now"));
    }
    let side = figures::measure(units, Measure::Side, bow.abs(), 1);
    let way = if bow > 0.0 { "deeper" } else { "higher" };
    Some(Line::new("bow", format!("about {side} {way} than now")))
}

/// What the pounds do on the plane, as a range.
fn on_the_plane(about: &About<'_>, heavier_by: Kilograms) -> Vec<Line> {
    let Some(planing) = planing(&about.plan.rig, heavier_by) else { return Vec::new() };
    if heavier_by.value().abs() < 0.5 {
        return Vec::new();
    }
    let range = |(near, far): (f64, f64)| {
        let (low, high) = (near.abs() * 100.0, far.abs() * 100.0);
        let way = if far < 0.0 { "less" } else { "more" };
        format!("{low:.1} to {high:.1} % {way}")
    };
    vec![
        Line::new("top speed on the gas engine", range(planing.top_speed)),
        Line::new("its fuel for a mile on plane", range(planing.fuel)),
    ]
}
