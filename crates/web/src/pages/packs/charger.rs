//! How the pack that is looked at gets full again: what each charger aboard does for it, or what to buy.

use super::opened::Line;
use crate::figures;
use crate::parts::decision::About;
use lake_hour_core::day::Day;
use lake_hour_core::pack::Pack;
use lake_hour_core::parts;
use lake_hour_core::plan::Plan;
use lake_hour_core::refill::{self, ByTurns, Misfit, Refill};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::system::System;
use lake_hour_core::units::{AmpHours, Amps, Hours};
use lake_hour_core::verdict::Evaluation;

/// How it gets full again.
#[derive(Debug, Clone)]
pub(super) struct ChargerView {
    pub(super) fits: bool,
    pub(super) lines: Vec<Line>,
    pub(super) misfits: Vec<String>,
    /// What to buy instead.
    pub(super) buy: Option<String>,
}

/// When a charger was forgotten overnight and is plugged in at seven, and the boat leaves at noon.
const FORGOTTEN: Hours = Hours::of(5.0);

impl ChargerView {
    pub(super) fn of(about: &About<'_>, evaluation: &Evaluation) -> Option<Self> {
        let refill = &evaluation.drawn.as_ref()?.refill;
        let (pack, plan) = (about.pack, about.plan);
        let mut lines = Vec::new();
        if let Some(by) = &refill.by {
            lines.push(Line::new("by", by.clone()));
            lines.extend(outputs(plan, pack, refill));
            lines.push(Line::new("from", figures::percent(refill.from)));
            let hours = |share| refill.until(share).map(|h| figures::hours(h.value()));
            if refill.from < 0.795 && refill.to > 0.8 {
                lines.push(Line::new("to 80 %", hours(0.8).unwrap_or_else(|| "never".to_owned())));
            }
            let full = figures::hours(refill.hours().value());
            let to =
                if refill.to < 0.995 { figures::percent(refill.to) } else { "full".to_owned() };
            lines.push(Line::new(format!("to {to}"), full));
            lines.extend(ready(refill, &plan.day, about.say.clock));
            if let Some(share) = refill.after(FORGOTTEN) {
                let name = format!(
                    "forgot overnight: {} to {}",
                    about.say.clock.words(7 * 60),
                    about.say.clock.words(12 * 60)
                );
                lines.push(Line::new(name, format!("{} by then", figures::percent(share))));
            }
        }
        lines.extend(one_inlet(plan, about.say.units));
        if let Some(ByTurns { charger, rounds, each }) = &refill.by_turns {
            let hours = figures::hours(each.value() * f64::from(*rounds));
            let each = figures::hours(each.value());
            let name = format!("one after another on {charger}");
            let value = format!("{rounds} x {each}, {hours} in all, moved by hand");
            lines.push(Line::new(name, value));
        }
        let whole = evaluation.capacity.unwrap_or(AmpHours::ZERO);
        let wanted = parts::chargers(&plan.rules, &plan.rig, pack, whole);
        let buy = wanted.filter(|_| refill.by.is_none()).map(|(count, wanted)| {
            let amps = |a: Amps| figures::amount(a.value().ceil());
            format!(
                "{} that {}: {} V for {}, {} to {} A, about {}{} (assumed).",
                if count > 1 { format!("{count}, one for each,") } else { "One".to_owned() },
                if count > 1 { "fit" } else { "fits" },
                figures::typed(wanted.volts.value()),
                pack.battery.chemistry.name(),
                amps(wanted.amps.0),
                amps(wanted.amps.1),
                about.say.money(wanted.typical_price()),
                if count > 1 { " each" } else { "" }
            )
        });
        let mut misfits: Vec<String> = Vec::new();
        if refill.by.is_none() {
            misfits.extend(refill.misfits.iter().map(ToString::to_string));
            let profile = |m: &Misfit| matches!(m, Misfit::Profile { .. });
            if refill.misfits.iter().any(profile) {
                misfits.push(wrong_profile(pack.battery.chemistry).to_owned());
            }
        }
        Some(Self { fits: refill.by.is_some(), lines, misfits, buy })
    }
}

/// What another chemistry's profile does to a battery.
const fn wrong_profile(chemistry: Chemistry) -> &'static str {
    match chemistry {
        Chemistry::Lfp | Chemistry::Nmc => {
            "A lead profile equalizes and floats, which wears lithium, and never sees the end it waits for when the BMS shuts off; below freezing it charges on."
        }
        Chemistry::Gel => {
            "Gel never above 14.1 V (12 V unit): a profile for AGM goes to 14.4 V and more, and its bubbles stay in the gel."
        }
        Chemistry::Agm => {
            "AGM is never equalized, and a profile for flooded lead does that; one for lithium stops before AGM is full."
        }
        Chemistry::Flooded => {
            "Flooded lead wants 14.4 V and more, and to be equalized now and then: other profiles leave it short of full."
        }
    }
}

/// What of a charger goes where: an output to each unit, or one to all of them side by side; and whether it is so little
/// that it takes more than a night.
fn outputs(plan: &Plan, pack: &Pack, refill: &Refill) -> Vec<Line> {
    let amps = |a: Amps| figures::amount(a.value());
    let mut lines = Vec::new();
    let Some(charge) = refill.charge else { return lines };
    let each = refill::strongest(&plan.rig, pack).is_some_and(|o| o.each_unit);
    let into =
        format!("{} A into {} Ah", amps(charge.current), figures::amount(charge.capacity.value()));
    if each {
        lines.push(Line::new("outputs", format!("{}, {into} each", pack.units())));
    } else if pack.parallel > 1 {
        let times = match pack.parallel {
            2 => "twice as long as one".to_owned(),
            n => format!("{n} times as long as one"),
        };
        lines.push(Line::new("one output for all side by side", format!("{into}: {times}")));
    }
    if charge.current * Hours::of(SLOW) < charge.capacity {
        let lead =
            if pack.battery.chemistry.is_lead() { ", and lead hardens meanwhile" } else { "" };
        let value = format!("under a twentieth of its Ah: more than a night{lead}");
        lines.push(Line::new(format!("{} A is little", amps(charge.current)), value).bad_if(true));
    }
    lines
}

/// A charger is slow that gives less than the ampere-hours over so many hours. Common practice, no source: lead wants a
/// tenth of them, a twentieth at least. [h]
const SLOW: f64 = 20.0;

/// Several chargers on one shore inlet: what they take together, against what its circuit gives for hours.
fn one_inlet(plan: &Plan, units: System) -> Option<Line> {
    let watts = refill::from_one_inlet(&plan.rig)?;
    // As outlets usually are, where these units are.
    let (volts, circuit) = if units == System::Metric { (230.0, 16.0) } else { (120.0, 15.0) };
    let (takes, gives) = (watts.value() / volts, circuit * refill::FOR_HOURS);
    let over = takes > gives;
    let then = if over { ": one after the other" } else { "" };
    let value = format!(
        "{} A; a {circuit} A circuit of {volts} V gives {} A for hours{then}",
        figures::amount(takes),
        figures::amount(gives)
    );
    Some(Line::new("all chargers on one inlet", value).bad_if(over))
}

/// "ready by 06:00: yes, 3.1 h early".
fn ready(refill: &Refill, day: &Day, clock: lake_hour_core::units::say::Clock) -> Option<Line> {
    let (by, ready, early) = (day.ready_by?, refill.ready?, refill.early?);
    let hours = figures::hours(early.value().abs());
    let value = match (ready, early.value() < 0.0) {
        (true, _) => format!("yes, {hours} early"),
        (false, true) => format!("no, {hours} late"),
        (false, false) => {
            format!("no: its hours bring it to {}", figures::percent(refill.reached))
        }
    };
    Some(Line::new(format!("ready by {}", clock.words(by)), value).bad_if(!ready))
}
