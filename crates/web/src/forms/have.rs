//! What an owner has now: how old it is, what is the matter, what it would sell for.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::pack::{Had, Health, Pack, Symptom};
use lake_hour_core::shelf::{Battery, Chemistry};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{AmpHours, Kilograms, Money, Volts};
use lake_hour_store::{Board, Change};

/// What it may be.
pub(crate) const KINDS: &[(&str, &str)] = &[
    ("", "Nothing yet"),
    ("flooded", "Flooded lead"),
    ("agm", "AGM"),
    ("gel", "Gel"),
    ("lfp", "LFP"),
    ("nmc", "Other lithium"),
];
const SYMPTOMS: &[(&str, &str)] = &[
    ("", "Not told"),
    ("as_ever", "As it ever was"),
    ("shorter", "Days have become shorter"),
    ("one_weak", "One is weaker or hotter"),
    ("wont_hold", "Does not hold its charge"),
    ("dead", "Dead"),
];
const WHAT: &[Spec] = &[
    Spec::choice("kind", "What it is", KINDS),
    Spec::figure("count", "How many", "", ""),
    Spec::figure("volts", "Volts of each", "V", ""),
    Spec::figure("ah", "Ah of each", "Ah", "what is usual if empty"),
];
const STATE: &[Spec] = &[
    Spec::figure("years", "Years old", "years", ""),
    Spec::choice("symptom", "How it does", SYMPTOMS),
    Spec::figure("left", "A test found", "%", "of its label; empty: by its age"),
    Spec::measure("mass", "Weight of each", Measure::Mass, ""),
    Spec::figure("worth", "Would sell for", "", "with its charger"),
];
const LEFT: allowed::Allowed = allowed::Allowed { low: 5.0, high: 120.0, unit: "%" };

/// The fields: what it is is asked for as long as nothing is aboard.
pub(crate) fn fields(form: Shown<'_>, is_aboard: bool) -> Vec<Field> {
    let mut all = if is_aboard { Vec::new() } else { form.fields("have", WHAT) };
    all.extend(form.fields("have", STATE));
    all
}

/// What stands in them.
pub(crate) fn typed(board: &Board, units: System) -> Typed {
    let plan = &board.plan;
    let worth = match plan.rules.money.sale {
        Money::ZERO => String::new(),
        sale => figures::typed(sale.value()),
    };
    let Some(pack) = plan.aboard() else { return Typed::default().with("worth", worth) };
    let had = pack.had.unwrap_or_default();
    let left = if pack.health == Health::NEW || pack.is_worn_by_age() {
        String::new()
    } else {
        figures::typed(pack.health.capacity_share * 100.0)
    };
    Typed::default()
        .with("years", had.years.map(figures::typed).unwrap_or_default())
        .with("symptom", had.symptom.map_or("", Symptom::key))
        .with("left", left)
        .with(
            "mass",
            pack.battery.mass.map(|m| shown(units, Measure::Mass, m.value())).unwrap_or_default(),
        )
        .with("worth", worth)
}

/// Reads it: a change of the pack that is aboard, or a new one.
pub(crate) fn read(typed: &Typed, units: System, board: &Board) -> Result<Change, Problems> {
    let mut r = Reader::of(typed, units);
    let plan = &board.plan;
    let at = plan.packs.iter().position(|pack| pack.aboard);
    let before = match at {
        Some(at) => Some(plan.packs[at].clone()),
        None => read_what(&mut r, plan.rig.motor.system_voltage),
    };
    let years = r.optional("years", &allowed::HAD_YEARS);
    let symptom = match r.text("symptom") {
        None | Some("") => Some(None),
        Some(key) => {
            let known = Symptom::from_key(key);
            if known.is_none() {
                r.problem("symptom", "Choose one of the list.");
            }
            known.map(Some)
        }
    };
    let left = r.optional("left", &LEFT);
    let mass = r.measure_if("mass", Measure::Mass, &allowed::UNIT_MASS);
    let was = before.as_ref().and_then(|p| p.battery.mass).map(Kilograms::value);
    let mass = mass.map(|mass| {
        mass.and_then(|read| untouched(units, Measure::Mass, was, typed.get("mass"), Some(read)))
    });
    let worth = r.optional("worth", &allowed::PRICE);
    let change = (|| {
        let had = Had { years: years?, symptom: symptom? };
        let mut pack = before?;
        let told = (had != Had::default()).then_some(had);
        let left = left?.map(|percent| percent / 100.0);
        let by_age = pack.is_worn_by_age();
        if told != pack.had || (by_age && left.is_some()) {
            // A unit that was typed by itself stays; one that only the symptom made goes with it.
            let own =
                pack.weak_unit.filter(|weak| pack.had.and_then(|h| h.weak_unit()) != Some(*weak));
            let health = pack.health;
            pack = pack.had(had);
            pack.had = told;
            pack.weak_unit = pack.weak_unit.or(own);
            if !by_age && left.is_some() {
                pack.health = health;
            }
        }
        match left {
            // What a test found stands above what the years make likely.
            Some(share) if (share - pack.health.capacity_share).abs() > 6e-6 => {
                pack.health = Health::at(share);
            }
            None if !pack.is_worn_by_age() => {
                pack.health = pack.had.map_or(Health::NEW, |had| had.health(&pack.battery));
            }
            _ => {}
        }
        pack.battery.mass = mass?.map(Kilograms::of);
        let worth = Money::of(worth?.unwrap_or(0.0));
        Some(Change::Have(at.map(|at| board.packs[at]), Box::new(pack), worth))
    })();
    r.finish(change)
}

/// What it is, where nothing is aboard yet.
fn read_what(r: &mut Reader<'_>, system: Volts) -> Option<Pack> {
    let chemistry = r.text("kind").and_then(Chemistry::from_key);
    if chemistry.is_none() {
        r.problem("kind", "Choose what it is, or leave this form as it is.");
    }
    let volts = r.number("volts", &allowed::UNIT_VOLTAGE).map(Volts::of);
    let count = r.whole("count", &allowed::SERIES);
    let ah = r.optional("ah", &allowed::CAPACITY).map(|ah| ah.map(AmpHours::of));
    let (chemistry, volts, count, ah) = (chemistry?, volts?, count?, ah?);
    let pack = of(chemistry, volts, count, ah, system);
    if pack.is_none() {
        let each = figures::typed(volts.value());
        let needs = figures::typed(system.value());
        r.problem("count", format!("{count} of {each} V do not make {needs} V."));
    }
    pack
}

/// So many batteries of unknown make as the pack that is aboard; `None` where they do not make the motor's volts.
pub(crate) fn of(
    chemistry: Chemistry,
    volts: Volts,
    count: u32,
    ah: Option<AmpHours>,
    system: Volts,
) -> Option<Pack> {
    let series = (system / volts).round().max(1.0);
    let near = (volts * series / system - 1.0).abs() < 0.15;
    let series = series as u32;
    if !near || count == 0 || !count.is_multiple_of(series) {
        return None;
    }
    let battery = Battery::of_unknown_make(chemistry, volts, ah);
    let pack = Pack::of(battery, series, count / series);
    Some(Pack { name: "What I have now".to_owned(), aboard: true, ..pack })
}
