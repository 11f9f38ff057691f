//! Figures that nobody has told yet, each with the way to tell it.

use crate::figures;
use crate::frame::view::{Page, View};
use lake_hour_core::plan::Plan;
use lake_hour_core::shelf::Detail;
use lake_hour_core::source::Origin;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_store::RigId;

/// A figure that is assumed, and where it is told.
pub(crate) struct Assumed {
    pub(crate) words: String,
    pub(crate) href: String,
}

/// All of a plan that is assumed, what counts most first.
pub(super) fn assumed(plan: &Plan, rig: RigId, view: View, units: System) -> Vec<Assumed> {
    let mut all = Vec::new();
    let mut told = |so: bool, page: Page, at: &str, words: String| {
        if so {
            all.push(Assumed { words, href: format!("{}#{at}", view.on(page).address(rig)) });
        }
    };
    let (craft, motor, day) = (&plan.rig.craft, &plan.rig.motor, &plan.day);
    let mass = craft.mass();
    let draw = match motor.full_current() {
        None => "what the motor draws is not told".to_owned(),
        Some(amps) if motor.max_is_typical => {
            format!("a typical motor of up to {} A", figures::amount(amps.value()))
        }
        Some(amps) if motor.settings.is_empty() => {
            format!("draw by setting typical up to {} A", figures::amount(amps.value()))
        }
        Some(_) => String::new(),
    };
    told(!draw.is_empty(), Page::Rig, "motor-max", draw);
    told(
        mass.origin == Origin::Typical,
        Page::Rig,
        "craft-loaded",
        format!("{} loaded", figures::mass(mass.value, units)),
    );
    let length = craft.length();
    told(
        length.origin == Origin::Typical,
        Page::Rig,
        "craft-length",
        format!("{} long", figures::measure(units, Measure::Length, length.value.value(), 1)),
    );
    told(
        plan.rig.measured.is_empty() && day.hangs_on_wind(),
        Page::Rig,
        "measured-speed_0",
        "what a speed takes, from its kind".to_owned(),
    );
    told(
        day.ambient.is_none(),
        Page::Day,
        "day-ambient",
        figures::measure(units, Measure::Temperature, 25.0, 0),
    );
    told(
        plan.rig.bays.is_empty(),
        Page::Rig,
        "bay-name_0",
        "room for batteries: not told".to_owned(),
    );
    told(plan.rig.chargers.is_empty(), Page::Rig, "charger-name_0", "no charger yet".to_owned());
    let typical =
        plan.packs.iter().filter(|p| p.battery.origin(Detail::CAPACITY) == Origin::Typical);
    let count = typical.count();
    told(
        count > 0,
        Page::Shelf,
        "main",
        format!("{count} packs of typical batteries: put real labels in their place"),
    );
    all
}
