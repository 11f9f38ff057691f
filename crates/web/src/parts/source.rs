//! Where figures come from, on sight: a sign, a word, and for an assumed one the field that tells it.

use crate::figures;
use crate::frame::view::{Page, View};
use lake_hour_core::day::{Day, Duty};
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::propulsion;
use lake_hour_core::rig::Motor;
use lake_hour_core::shelf::Detail;
use lake_hour_core::source::Origin;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Celsius};
use lake_hour_core::verdict::Drawn;
use lake_hour_store::RigId;
use std::collections::BTreeMap;

/// The sign before a figure or its word.
pub(crate) const fn sign(by: Origin) -> &'static str {
    match by {
        Origin::Measured => "\u{25aa}",
        Origin::Label => "\u{25ab}",
        Origin::SetByYou => "\u{25e6}",
        Origin::Told => "\u{201c}",
        Origin::Typical => "~",
    }
}

/// A figure, who vouches for it, and where it is told.
#[derive(Debug, Clone)]
pub(crate) struct Source {
    by: Origin,
    /// "amps at settings 1 and 3".
    pub(crate) what: String,
    page: Page,
    field: &'static str,
}

/// What an answer rests on, as a page says it.
#[derive(Debug, Clone)]
pub(crate) struct Rests {
    /// By who vouches for it, the firmest first: sign, word, figures.
    pub(crate) known: Vec<(&'static str, &'static str, String)>,
    /// What is assumed, with the address where it is told.
    pub(crate) assumed: Vec<(String, String)>,
}

impl Rests {
    pub(crate) fn on(all: Vec<Source>, rig: RigId, view: View) -> Self {
        let mut known: BTreeMap<Origin, Vec<String>> = BTreeMap::new();
        let mut assumed = Vec::new();
        for s in all {
            if s.by == Origin::Typical {
                let href = format!("{}#{}", view.on(s.page).address(rig), s.field);
                assumed.push((s.what, href));
            } else {
                known.entry(s.by).or_default().push(s.what);
            }
        }
        let known = known.into_iter().map(|(by, what)| (sign(by), by.words(), what.join(", ")));
        Self { known: known.collect(), assumed }
    }
}

/// The same in a sentence, for paper: "▪ measured: amps at setting 3. ~ assumed: 924 lb loaded."
pub(crate) fn sentence(all: &[Source]) -> String {
    let of = |by: Origin| {
        let what: Vec<&str> = all.iter().filter(|s| s.by == by).map(|s| &*s.what).collect();
        let said = format!("{} {}: {}.", sign(by), by.words(), what.join(", "));
        (!what.is_empty()).then_some(said)
    };
    Origin::ALL.into_iter().filter_map(of).collect::<Vec<_>>().join(" ")
}

/// What a pack holds, and who vouches for it.
pub(crate) fn of_pack(pack: &Pack) -> (Origin, String) {
    let by = pack.capacity_origin();
    let left = figures::percent(pack.health.capacity_share);
    match by {
        Origin::Measured | Origin::SetByYou => (by, format!("holds {left} of its label")),
        _ => (by, "amp-hours".to_owned()),
    }
}

/// All that a plan's figures rest on but its packs, what counts most first.
pub(crate) fn of_plan(plan: &Plan, units: System) -> Vec<Source> {
    let mut all = of_draw(plan, units);
    all.extend(of_craft(plan, units));
    let day = &plan.day;
    let air = day.ambient.map_or(25.0, Celsius::value);
    let by = if day.ambient.is_some() { Origin::SetByYou } else { Origin::Typical };
    let warm = figures::measure(units, Measure::Temperature, air, 0);
    all.push(Source { by, what: format!("air {warm}"), page: Page::Day, field: "day-ambient" });
    all
}

/// What of a rig is not told at all.
pub(crate) fn untold(plan: &Plan) -> Vec<Source> {
    let not_told = |field, what: &str| Source {
        by: Origin::Typical,
        what: what.to_owned(),
        page: Page::Rig,
        field,
    };
    let mut all = Vec::new();
    if plan.rig.bays.is_empty() {
        all.push(not_told("bay-name_0", "room for batteries: not typed yet"));
    }
    if plan.rig.chargers.is_empty() {
        all.push(not_told("charger-name_0", "no charger yet"));
    }
    if let Some(words) = idle_sources(plan) {
        let page = Page::Day;
        all.push(Source { page, ..not_told("charging-says", &words) });
    }
    all
}

/// "Panels of the Rig give nothing on this day: it is not told when they run"; nothing where all is told.
pub(crate) fn idle_sources(plan: &Plan) -> Option<String> {
    let names: Vec<&str> = plan.idle_sources().map(|charger| charger.name.as_str()).collect();
    let they = if names.len() == 1 { "its hours are" } else { "their hours are" };
    (!names.is_empty())
        .then(|| format!("{} counted as off on this day: {they} not typed", names.join(" and ")))
}

/// What a trip's figures rest on: the pack that is aboard and what the motor draws.
pub(crate) fn of_trip(plan: &Plan, pack: &Pack, units: System) -> Vec<Source> {
    let (by, what) = of_pack(pack);
    let what = if by == Origin::Label { "the pack's amp-hours".to_owned() } else { what };
    let mut all = vec![Source { by, what, page: Page::Shelf, field: "main" }];
    all.extend(of_draw(plan, units));
    all
}

/// What the motor draws at settings, at speeds and to hold a place, as far as the day asks for it.
fn of_draw(plan: &Plan, units: System) -> Vec<Source> {
    let (rig, day) = (&plan.rig, &plan.day);
    let rig_says = |by, what, field| Source { by, what, page: Page::Rig, field };
    let mut all = Vec::new();
    let by_setting = settings_of(&rig.motor, day);
    if by_setting.is_empty() || rig.motor.full_origin() == Origin::Typical {
        let most = rig.motor.full_current().map(|a| figures::amount(a.value()));
        let what = match (most, rig.motor.full_origin()) {
            (None, _) => "what the motor draws is not known".to_owned(),
            (Some(most), Origin::Typical) => format!("a typical motor of up to {most} A"),
            (Some(most), _) => format!("{most} A at most"),
        };
        all.push(rig_says(rig.motor.full_origin(), what, "motor-max"));
    }
    let motor = plan.rig_as_measured().motor;
    for (by, settings) in by_setting {
        let mut told: Vec<String> = Vec::new();
        for s in settings {
            let mark = figures::setting(&rig.motor.dial, s);
            match motor.read_at_setting(s) {
                Some((amps, at)) => told.push(format!(
                    "{}, as you read it at {:.1} V",
                    read_at(&mark, amps),
                    at.value()
                )),
                None => told.push(format!("amps at setting {mark}")),
            }
        }
        told.dedup();
        all.push(rig_says(by, told.join(", "), "motor-max"));
    }
    let asks = |of: fn(&Duty) -> bool| day.stretches.iter().find(|s| of(&s.duty));
    if let Some(s) = asks(|d| matches!(d, Duty::Speed(_) | Duty::Distance(_))) {
        let by = propulsion::origin(rig, s);
        let told: Vec<String> =
            rig.measured.iter().map(|p| figures::speed(p.speed, units)).collect();
        let what = match by {
            Origin::Typical => "what a speed takes, from its kind".to_owned(),
            _ if told.is_empty() => "what a speed takes, by your log".to_owned(),
            _ => format!("amps at {}", told.join(", ")),
        };
        all.push(rig_says(by, what, "measured-speed_0"));
    }
    if let Some(s) = asks(|d| *d == Duty::HoldPlace) {
        let by = propulsion::origin(rig, s);
        let what = match by {
            Origin::Measured => "what holding in the wind takes, by your log",
            _ => "what holding in the wind takes",
        };
        all.push(rig_says(by, what.to_owned(), "craft-windage"));
    }
    all
}

/// "9 A at setting 3".
fn read_at(mark: &str, amps: Amps) -> String {
    format!("{} A at setting {mark}", figures::amount(amps.value()))
}

/// Where a pack's volts make another figure of amps that were read at a setting, both, and why: of a day as it was drawn.
pub(crate) fn other_than_read(plan: &Plan, drawn: &Drawn) -> Vec<String> {
    let motor = plan.rig_as_measured().motor;
    let mut clock = 0.0;
    let mut said: Vec<String> = Vec::new();
    for stretch in &plan.day.stretches {
        clock += stretch.lasts.value();
        let Duty::Setting(setting) = stretch.duty else { continue };
        let Some((read, at)) = motor.read_at_setting(setting) else { continue };
        let ends = drawn.points.iter().find(|p| p.at.value() >= clock - 1e-6);
        let Some((amps, volts)) = ends.and_then(|p| Some((p.amps, p.volts?))) else { continue };
        if (amps / read - 1.0).abs() <= SAME {
            continue;
        }
        let words = format!(
            "You read {} and {:.1} V. This pack has {:.1} V there and gives {} A, devices included: a motor draws {} at {} volts.",
            read_at(&figures::setting(&motor.dial, setting), read),
            at.value(),
            volts.value(),
            figures::amount(amps.value()),
            if volts > at { "more" } else { "less" },
            if volts > at { "more" } else { "fewer" },
        );
        if !said.contains(&words) {
            said.push(words);
        }
    }
    said
}

/// Amps nearer to what was read than this share are what was read.
const SAME: f64 = 0.02;

/// Settings that a day is driven at, by who vouches for their amps.
fn settings_of(motor: &Motor, day: &Day) -> BTreeMap<Origin, Vec<f64>> {
    let mut all: BTreeMap<Origin, Vec<f64>> = BTreeMap::new();
    for s in &day.stretches {
        if let Duty::Setting(setting) = s.duty {
            all.entry(motor.origin_at(setting)).or_default().push(setting);
        }
    }
    all.values_mut().for_each(|settings| settings.sort_by(f64::total_cmp));
    all
}

/// What the craft weighs and how long it is.
fn of_craft(plan: &Plan, units: System) -> Vec<Source> {
    let craft = &plan.rig.craft;
    let (mass, length) = (craft.mass(), craft.length());
    let long = figures::measure(units, Measure::Length, length.value.value(), 1);
    let told = [
        (mass.origin, format!("{} loaded", figures::mass(mass.value, units)), "craft-loaded"),
        (length.origin, format!("{long} long"), "craft-length"),
    ];
    told.map(|(by, what, field)| Source { by, what, page: Page::Rig, field }).into()
}

/// Packs whose amp-hours nobody read off a label.
pub(crate) fn of_typical_packs(plan: &Plan) -> Option<Source> {
    let is_typical = |p: &&Pack| p.battery.origin(Detail::CAPACITY) == Origin::Typical;
    let count = plan.packs.iter().filter(is_typical).count();
    (count > 0).then(|| Source {
        by: Origin::Typical,
        what: format!("{count} packs of typical batteries: put real labels in their place"),
        page: Page::Shelf,
        field: "main",
    })
}
