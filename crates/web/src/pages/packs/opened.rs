//! The pack that is looked at: its charger, what one dead unit leaves, its weight.

use super::row::disc;
use crate::figures;
use crate::parts::decision::{self, About};
use lake_hour_core::day::Day;
use lake_hour_core::pack::{Pack, stow};
use lake_hour_core::plan::Plan;
use lake_hour_core::proposals::failing::{self, Remains, one_fails};
use lake_hour_core::refill::{self, ByTurns, Misfit, Refill, Wanted};
use lake_hour_core::rig::Rig;
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Amps, Hours, Kilograms, Millimetres};
use lake_hour_core::verdict::Evaluation;

/// A figure with its name.
#[derive(Debug, Clone)]
pub(super) struct Line {
    pub(super) name: String,
    pub(super) value: String,
    pub(super) bad: bool,
}

impl Line {
    pub(super) fn new(name: impl Into<String>, value: impl Into<String>) -> Self {
        Self { name: name.into(), value: value.into(), bad: false }
    }

    pub(super) fn bad_if(self, bad: bool) -> Self {
        Self { bad, ..self }
    }
}

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
        let buy = refill.by.is_none().then(|| {
            let whole = evaluation.capacity.unwrap_or(AmpHours::ZERO);
            let wanted = Wanted::of(pack, whole);
            let amps = |a: Amps| figures::amount(a.value().ceil());
            format!(
                "One that fits: {} V for {}, {} to {} A, about {} (typical).",
                figures::typed(wanted.volts.value()),
                pack.battery.chemistry.name(),
                amps(wanted.amps.0),
                amps(wanted.amps.1),
                about.say.money(wanted.typical_price())
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
        lines.push(Line::new("bank by bank", format!("{} outputs, {into} each", pack.units())));
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

/// What one dead unit leaves of a pack.
#[derive(Debug, Clone)]
pub(super) struct FailureRow {
    pub(super) name: String,
    pub(super) left: String,
    pub(super) gets: String,
    pub(super) disc: &'static str,
    pub(super) any: String,
    pub(super) stranded: String,
    pub(super) this: bool,
}

/// "1 in 50", "4 in 100", "under 1 in 1,000".
fn chance(share: f64) -> String {
    match share * 100.0 {
        p if p <= 0.0 => "none".to_owned(),
        p if p < 0.1 => "under 1 in 1,000".to_owned(),
        p if p < 0.95 => format!("{:.0} in 1,000", p * 10.0),
        p => format!("{p:.0} in 100"),
    }
}

impl FailureRow {
    /// `rest` is the verdict on what is left, where something is.
    pub(super) fn of(about: &About<'_>, rest: Option<&Evaluation>, rate: f64, this: bool) -> Self {
        let (pack, rig) = (about.pack, &about.plan.rig);
        let remains = one_fails(pack, rig);
        let chances = failing::chances(pack, rig, rate);
        let boat = about.is_boat();
        let stuck = if boat { "paddle" } else { "towed home" };
        let left = match &remains {
            Some(Remains::Strings(rest)) => format!(
                "{} of {} strings, {} V",
                rest.parallel,
                pack.parallel,
                figures::typed(rest.voltage().value())
            ),
            Some(Remains::LowerVolts(rest)) => format!(
                "{} of {} units: {} V, which the motor takes too",
                rest.series,
                pack.series,
                figures::typed(rest.voltage().value())
            ),
            None if pack.series > 1 => {
                let volts = (pack.battery.nominal_voltage * f64::from(pack.series - 1)).value();
                let needs = rig.motor.system_voltage.value();
                format!("{} V: the motor needs {}", figures::typed(volts), figures::typed(needs))
            }
            None => "nothing".to_owned(),
        };
        let (gets, disc) = match (&remains, rest) {
            (Some(remains), Some(rest)) => {
                let about = About { pack: remains.pack(), ..*about };
                let mut gets = decision::verdict(&about, rest);
                if let Some(setting) =
                    rest.drawn.as_ref().and_then(|d| d.highest_safe_setting).filter(|s| *s < 9.99)
                    && setting >= 0.5
                {
                    let setting = figures::amount((setting * 2.0).floor() / 2.0);
                    let slower = if boat {
                        format!("; at setting {setting} or lower all day")
                    } else {
                        format!("; at {setting} tenths of full throttle all day")
                    };
                    if rest.drawn.as_ref().is_some_and(|d| d.ended_early_at().is_some()) {
                        gets.push_str(&slower);
                    }
                }
                (gets, disc(rest.outcome))
            }
            _ => (stuck.to_owned(), "open"),
        };
        Self {
            name: pack.name.clone(),
            left,
            gets,
            disc,
            any: chance(chances.any),
            stranded: chance(chances.stranded),
            this,
        }
    }
}

/// Weight, against what is aboard, and where it sits.
pub(super) fn weight(about: &About<'_>, evaluation: &Evaluation) -> Vec<Line> {
    let (plan, pack, units) = (about.plan, about.pack, about.say.units);
    let Some(mass) = evaluation.mass else {
        return vec![Line::new("weight", "not on its label").bad_if(true)];
    };
    let mut lines = vec![Line::new("weight", figures::mass(mass, units))];
    let aboard = plan.aboard();
    if let Some(now) = aboard.and_then(Pack::mass) {
        let off = (mass - now).value();
        let words = match figures::mass(Kilograms::of(off.abs()), units) {
            _ if off.abs() < 0.5 => "the same".to_owned(),
            by if off < 0.0 => format!("{by} less"),
            by => format!("{by} more"),
        };
        lines.push(Line::new("than the set aboard", words));
    }
    if let Some(limit) = plan.rig.battery_mass_limit {
        let left = (limit - mass).value();
        let name = if about.is_boat() { "the boat may carry" } else { "the cart may carry" };
        let value = figures::mass(limit, units);
        lines.push(Line::new(name, value).bad_if(left < 0.0));
    }
    let heaviest = pack.battery.mass.filter(|m| m.value() > LIFT);
    if let Some(each) = heaviest {
        let value = format!("{} each: two people or a hoist", figures::mass(each, units));
        lines.push(Line::new("lift", value).bad_if(true));
    }
    lines.extend(balance(about, aboard));
    lines
}

/// What one person may lift: the load constant of the revised lifting equation, 51 lb, NIOSH 94-110. [kg]
const LIFT: f64 = 23.0;

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

/// "25.6 V · 100 Ah · 2.6 kWh", as its label says.
pub(super) fn label(pack: &Pack) -> String {
    let volts = format!("{} V", figures::typed(pack.voltage().value()));
    match (pack.capacity(), pack.energy()) {
        (Ok(ah), Ok(wh)) => {
            let ah = figures::amount(ah.value());
            format!("{volts} · {ah} Ah · {}", figures::energy(wh.value()))
        }
        _ => volts,
    }
}

/// Why it cannot be set out, where it cannot.
pub(super) fn places(rig: &Rig, pack: &Pack) -> Option<String> {
    if rig.bays.is_empty() {
        return Some("This rig has no bays yet: type their sizes on the Rig page.".to_owned());
    }
    let says = "Its size is not on the label: whether it fits is not known.";
    pack.battery.size.is_none().then(|| says.to_owned())
}

/// The air that lead in a closed-off bay asks for.
pub(super) fn air(rig: &Rig, pack: &Pack, units: System) -> Option<String> {
    let air = lake_hour_core::pack::air::air(pack)?;
    let closed = stow::stow(rig, pack)?.bays.into_iter().find(|b| {
        !b.stowed.spots.is_empty() && rig.bays.get(b.place).is_some_and(|bay| bay.sealed)
    })?;
    let (flow, openings) = match units {
        System::Metric => (format!("{:.1} m³", air.flow), format!("{:.0} cm²", air.openings)),
        _ => (
            format!("{:.0} cu ft", air.flow * CUBIC_FEET_PER_M3),
            format!("{:.1} sq in", air.openings / CM2_PER_SQUARE_INCH),
        ),
    };
    Some(format!(
        "{} is closed off: sealed lead gasses too when it is charged hard. Give it {flow} of air an hour while it charges, by openings of {openings} low and high (IEC 62485-3).",
        closed.bay
    ))
}

/// Cubic feet in a cubic metre, square centimetres in a square inch: exact by definition of foot and inch.
const CUBIC_FEET_PER_M3: f64 = 35.314_667;
const CM2_PER_SQUARE_INCH: f64 = 6.4516;

/// A pack in a column beside others.
#[derive(Debug, Clone)]
pub(super) struct Column {
    pub(super) name: String,
    pub(super) away: String,
    pub(super) href: String,
    /// In the order of [`Column::ROWS`].
    pub(super) cells: [String; 10],
    /// Length, width and height of one unit. [mm]
    pub(super) size: Option<[f64; 3]>,
}

impl Column {
    /// What is told of each.
    pub(super) const ROWS: [&'static str; 10] = [
        "Wired",
        "Today",
        "Weight",
        "Room",
        "Price",
        "Wiring",
        "Balance",
        "Full again",
        "If one unit fails",
        "Stranded in a season",
    ];

    pub(super) fn cell(&self, row: &usize) -> &str {
        self.cells.get(*row).map_or("", String::as_str)
    }

    pub(super) fn of(
        about: &About<'_>,
        evaluation: &Evaluation,
        rest: Option<&Evaluation>,
        wiring: Option<&super::wiring::WiringView>,
        rate: f64,
    ) -> Self {
        let (pack, say) = (about.pack, about.say);
        let unknown = || "not known".to_owned();
        let failure = FailureRow::of(about, rest, rate, false);
        let size = pack.battery.size.map(|s| [s.length, s.width, s.height].map(Millimetres::value));
        let litres = size.map(|[l, w, h]| l * w * h * 1e-6 * f64::from(pack.units()));
        let room = litres.map(|l| match say.units {
            System::Metric => format!("{l:.0} L"),
            _ => format!("{:.1} cu ft", l / LITRES_PER_CUBIC_FOOT),
        });
        let lifts = pack.battery.mass.map(|m| format!(", {} each", figures::mass(m, say.units)));
        let lifts = lifts.filter(|_| pack.units() > 1).unwrap_or_default();
        let price = evaluation.price_total.map(|p| {
            let charger = if pack.extra_cost.is_some() { " with charger" } else { "" };
            format!("{}{charger}", say.money(p))
        });
        let full = evaluation.drawn.as_ref().map(|d| match &d.refill.by {
            Some(by) => format!("{} by {by}", figures::hours(d.refill.hours().value())),
            None => "needs a charger".to_owned(),
        });
        let strings = if pack.units() == 1 {
            "inside the one battery"
        } else if pack.series == 1 {
            "side by side: by themselves"
        } else {
            "in series: each unit to full now and then"
        };
        let cells = [
            super::row::wired(pack),
            match evaluation.reasons.first() {
                Some(why) => format!("Set aside: it {}", why.sentence(say.units)),
                None => decision::verdict(about, evaluation),
            },
            evaluation.mass.map_or_else(unknown, |m| figures::mass(m, say.units)) + &lifts,
            room.unwrap_or_else(unknown),
            price.unwrap_or_else(unknown),
            wiring.map_or_else(unknown, |w| w.parts.clone()),
            strings.to_owned(),
            full.unwrap_or_else(unknown),
            format!("{}: {}", failure.left, failure.gets),
            failure.stranded,
        ];
        Self { name: pack.name.clone(), away: String::new(), href: String::new(), cells, size }
    }
}

/// Litres in a cubic foot: exact by definition of the foot, 28.3168.
const LITRES_PER_CUBIC_FOOT: f64 = 28.316_846_592;
