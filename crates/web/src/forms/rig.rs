//! The rig as groups of fields and as lists: craft, motor, draw curve, measured speeds, bays, chargers.

use super::{Field, Problems, Reader, Shown, Spec, Typed, shown, untouched};
use crate::figures;
use lake_hour_core::allowed;
use lake_hour_core::rig::{
    Bay, Charger, CraftKind, Dial, MOST_PARTS, Owned, Rig, SettingPoint, SpeedPoint, Supply,
    Whereabouts,
};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{
    Amps, Hours, Kilograms, Metres, MetresPerSecond, Millimetres, Newtons, Volts,
};

pub(crate) const KINDS: &[(&str, &str)] = &[
    ("kayak", "Kayak"),
    ("canoe", "Canoe"),
    ("jon_boat", "Jon boat"),
    ("v_hull", "V-hull"),
    ("bass", "Bass-type boat"),
    ("pontoon", "Pontoon or barge"),
    ("sailboat", "Sailboat or cruiser"),
    ("rowing_skiff", "Rowing skiff"),
    ("golf_cart", "Golf cart"),
    ("utility_cart", "Utility cart"),
    ("lsv", "Low-speed vehicle"),
    ("go_kart", "Go-kart"),
    ("motorbike", "Motorbike"),
    ("conversion", "Small car conversion"),
];
const CRAFT: &[Spec] = &[
    Spec::words("name", "Name of the rig"),
    Spec::choice("kind", "What it is", KINDS),
    Spec::measure("length", "Length", Measure::Length, "14 ft 6 in; assumed if blank"),
    Spec::measure("empty", "Empty weight", Measure::Mass, "assumed if blank"),
    Spec::figure("people", "People aboard", "", ""),
    Spec::measure("gear", "Gear and batteries", Measure::Mass, ""),
    Spec::measure("loaded", "or weighed loaded", Measure::Mass, "wins over the sum"),
    Spec::measure("windage", "Windage", Measure::Area, "Cd x area; assumed if blank"),
    Spec::measure("limit", "Battery weight limit", Measure::Mass, "no limit if blank"),
    Spec::measure("trailer", "Trailer limit", Measure::Mass, "what it may carry"),
    Spec::tick("engine", "Has a gas engine too"),
];
const MOTOR: &[Spec] = &[
    Spec::words("motor", "Motor"),
    Spec::figure("volts", "System", "V", "12, 24, 36, 48 ..."),
    Spec::figure("also", "Also runs on", "V", "as in 12, 36").with_signs(),
    Spec::figure("max", "Max amps", "A", "50, or 1200 W").with_signs(),
    Spec::tick("typical", "Max amps are only assumed"),
    Spec::measure("thrust", "or its thrust", Measure::Force, "if the label has no amps"),
    Spec::figure("count", "Motors", "", "of this kind"),
    Spec {
        hint: "1 to 10 if blank; percent; 1, 2, 3, 4, 5",
        signs: true,
        ..Spec::words("dial", "Its dial")
    },
    Spec::tick("brushless", "Brushless"),
    Spec::tick("regenerates", "Regenerative braking"),
    Spec::figure("lowest", "Controller min", "V", "shuts off below"),
    Spec::figure("highest", "Controller max", "V", "volts it takes"),
    Spec::measure("lead", "Motor cable", Measure::Length, "batteries to motor, one way"),
    Spec::figure("drain", "Standing drain", "mA", "if it can't be switched off"),
];
const DRAW: &[Spec] = &[
    Spec { signs: true, ..Spec::figure("setting", "Setting", "", "") },
    Spec::figure("amps", "Amps", "A", ""),
    Spec::figure("volts", "Read at", "V", ""),
];
const MEASURED: &[Spec] = &[
    Spec::measure("speed", "Speed in calm water", Measure::Speed, ""),
    Spec::figure("amps", "Amps", "A", ""),
];
const PLACES: &[(&str, &str)] =
    &[("bow", "Bow"), ("midship", "Midship"), ("stern", "Stern"), ("under_seat", "Under a seat")];
const PLACES_ON_WHEELS: &[(&str, &str)] =
    &[("bow", "Front"), ("midship", "Middle"), ("stern", "Rear"), ("under_seat", "Under a seat")];
const BAYS: &[Spec] = &[
    Spec::words("name", "Bay"),
    Spec::choice("place", "Where", PLACES),
    Spec::measure("length", "Length", Measure::Side, ""),
    Spec::measure("width", "Width", Measure::Side, ""),
    Spec::measure("height", "Height", Measure::Side, ""),
    Spec::measure("limit", "Max weight", Measure::Mass, ""),
    Spec::figure("position", "How far back", "%", ""),
    Spec::figure("layers", "Layers", "", ""),
    Spec::tick("sealed", "Closed off"),
    Spec::tick("upright", "Upright only"),
];
const SUPPLIES: &[(&str, &str)] =
    &[("mains", "Shore or wall"), ("generator", "Generator"), ("solar", "Solar")];
const PROFILES: &[(&str, &str)] = &[
    ("", "Not known"),
    ("lead", "Lead only"),
    ("flooded", "Flooded only"),
    ("sealed", "AGM and gel"),
    ("lfp", "LFP only"),
    ("both", "Lead and LFP"),
];
const CHARGERS: &[Spec] = &[
    Spec::words("name", "Charger"),
    Spec::choice("supply", "Power", SUPPLIES),
    Spec::figure("banks", "Outputs", "", ""),
    Spec::figure("volts", "Volts", "V", ""),
    Spec::figure("amps", "Amps", "A", "").with_signs(),
    Spec::choice("profiles", "Profile", PROFILES),
    Spec::figure("absorbs", "Absorption", "V", ""),
    Spec::figure("hours", "Runs", "h", ""),
];

const OWNED: &[Spec] = &[
    Spec::tick("charger", "A charger that suits any of the packs"),
    Spec::tick("fuse", "Fuses with holders"),
    Spec::tick("breaker", "A breaker"),
    Spec::tick("cables", "Cables with lugs"),
    Spec::tick("meter", "A charge meter"),
];

/// What is there already, as ticks.
pub(crate) fn owned_typed(rig: &Rig) -> Typed {
    rig.owned.iter().fold(Typed::default(), |typed, owned| typed.with(owned.key(), "on"))
}

/// The ticks of what is there already.
pub(crate) fn owned_fields(form: Shown<'_>) -> Vec<Field> {
    form.fields("owned", OWNED)
}

/// Reads what is there already.
pub(crate) fn read_owned(typed: &Typed, units: System, before: &Rig) -> Result<Rig, Problems> {
    let r = Reader::of(typed, units);
    let owned = Owned::ALL.into_iter().filter(|owned| r.ticked(owned.key())).collect();
    r.finish(Some(Rig { owned, ..before.clone() }))
}

/// A field in the words of what moves: nothing on wheels has thrust, a bow or calm water.
fn spoken(spec: &Spec, boat: bool) -> Option<Spec> {
    let label = match spec.name {
        _ if boat => spec.label,
        "thrust" | "trailer" | "engine" => return None,
        "windage" => "Air drag area",
        "speed" => "Speed on the level",
        _ => spec.label,
    };
    let options = if !boat && spec.name == "place" { PLACES_ON_WHEELS } else { spec.options };
    Some(Spec { label, options, ..*spec })
}

fn all_spoken(specs: &[Spec], boat: bool) -> Vec<Spec> {
    specs.iter().filter_map(|s| spoken(s, boat)).collect()
}

/// The fields of the craft.
pub(crate) fn craft_fields(form: Shown<'_>, boat: bool) -> Vec<Field> {
    form.fields("craft", &all_spoken(CRAFT, boat))
}

/// The fields of the motor; that its amps are typical is said only where they are.
pub(crate) fn motor_fields(form: Shown<'_>, boat: bool, typical: bool) -> Vec<Field> {
    let mut all = all_spoken(MOTOR, boat);
    all.retain(|spec| typical || spec.name != "typical");
    form.fields("motor", &all)
}

/// The rows of a list, with a blank one behind.
pub(crate) fn draw_rows(form: Shown<'_>, count: usize) -> Vec<Vec<Field>> {
    form.rows("draw", DRAW, count)
}

pub(crate) fn measured_rows(form: Shown<'_>, count: usize, boat: bool) -> Vec<Vec<Field>> {
    form.rows("measured", &all_spoken(MEASURED, boat), count)
}

pub(crate) fn bay_rows(form: Shown<'_>, count: usize, boat: bool) -> Vec<Vec<Field>> {
    form.rows("bay", &all_spoken(BAYS, boat), count)
}

pub(crate) fn charger_rows(form: Shown<'_>, count: usize) -> Vec<Vec<Field>> {
    form.rows("charger", CHARGERS, count)
}

fn measured(units: System, m: Measure, si: Option<f64>) -> String {
    si.map(|v| shown(units, m, v)).unwrap_or_default()
}

fn volts(v: Option<Volts>) -> String {
    v.map(|v| figures::typed(v.value())).unwrap_or_default()
}

pub(crate) fn craft_typed(rig: &Rig, units: System) -> Typed {
    let craft = &rig.craft;
    let mass = |m: Option<Kilograms>| measured(units, Measure::Mass, m.map(Kilograms::value));
    Typed::default()
        .with("name", &*rig.name)
        .with("kind", craft.kind.key())
        .with("length", measured(units, Measure::Length, craft.length_m))
        .with("empty", mass(craft.empty_mass))
        .with("people", craft.people.to_string())
        .with("gear", mass(craft.gear))
        .with("loaded", mass(craft.loaded_mass))
        .with("windage", measured(units, Measure::Area, craft.windage))
        .with("limit", mass(rig.battery_mass_limit))
        .with("trailer", mass(rig.trailer_limit))
        .with("engine", if rig.main_engine { "on" } else { "" })
}

pub(crate) fn motor_typed(rig: &Rig, units: System) -> Typed {
    let m = &rig.motor;
    let also: Vec<String> = m.also_accepts.iter().map(|v| figures::typed(v.value())).collect();
    Typed::default()
        .with("motor", &*m.name)
        .with("volts", figures::typed(m.system_voltage.value()))
        .with("also", also.join(", "))
        .with("max", m.max_current.map(|a| figures::typed(a.value())).unwrap_or_default())
        .with("typical", if m.max_is_typical { "on" } else { "" })
        .with("thrust", measured(units, Measure::Force, m.thrust.map(Newtons::value)))
        .with("count", m.count.to_string())
        .with("dial", m.dial.typed())
        .with("brushless", if m.brushless { "on" } else { "" })
        .with("regenerates", if m.regenerates { "on" } else { "" })
        .with("lowest", volts(rig.controller_min))
        .with("highest", volts(rig.controller_max))
        .with("lead", measured(units, Measure::Length, rig.lead.map(Metres::value)))
        .with(
            "drain",
            rig.standing_drain.map(|a| figures::typed(a.value() * 1000.0)).unwrap_or_default(),
        )
}

pub(crate) fn draw_typed(rig: &Rig) -> Typed {
    let typed =
        Typed::default().with("measured", if rig.motor.settings_measured { "on" } else { "" });
    rig.motor.settings.iter().enumerate().fold(typed, |t, (n, p)| {
        t.with(&format!("setting_{n}"), figures::typed_setting(&rig.motor.dial, p.setting))
            .with(&format!("amps_{n}"), figures::typed(p.current.value()))
            .with(&format!("volts_{n}"), volts(p.at))
    })
}

pub(crate) fn measured_typed(rig: &Rig, units: System) -> Typed {
    rig.measured.iter().enumerate().fold(Typed::default(), |t, (n, p)| {
        t.with(&format!("speed_{n}"), shown(units, Measure::Speed, p.speed.value()))
            .with(&format!("amps_{n}"), figures::typed(p.current.value()))
    })
}

pub(crate) fn bays_typed(rig: &Rig, units: System) -> Typed {
    rig.bays.iter().enumerate().fold(Typed::default(), |t, (n, b)| {
        let side = |mm: Millimetres| shown(units, Measure::Side, mm.value());
        let limit = measured(units, Measure::Mass, b.mass_limit.map(Kilograms::value));
        t.with(&format!("name_{n}"), &*b.name)
            .with(&format!("place_{n}"), b.whereabouts.key())
            .with(&format!("length_{n}"), side(b.length))
            .with(&format!("width_{n}"), side(b.width))
            .with(&format!("height_{n}"), side(b.height))
            .with(&format!("limit_{n}"), limit)
            .with(&format!("position_{n}"), figures::typed_coarse(b.position * 100.0))
            .with(&format!("layers_{n}"), b.layers.to_string())
            .with(&format!("sealed_{n}"), if b.sealed { "on" } else { "" })
            .with(&format!("upright_{n}"), if b.upright_only { "on" } else { "" })
    })
}

const LEAD: [Chemistry; 3] = [Chemistry::Flooded, Chemistry::Agm, Chemistry::Gel];

fn profiles_of(key: &str) -> Option<Vec<Chemistry>> {
    Some(match key {
        "" => Vec::new(),
        "lead" => LEAD.to_vec(),
        "flooded" => vec![Chemistry::Flooded],
        "sealed" => vec![Chemistry::Agm, Chemistry::Gel],
        "lfp" => vec![Chemistry::Lfp],
        "both" => [&LEAD[..], &[Chemistry::Lfp]].concat(),
        _ => return None,
    })
}

fn profiles_key(profiles: &[Chemistry]) -> &'static str {
    let all = PROFILES.iter().map(|(key, _)| *key);
    all.into_iter().find(|key| profiles_of(key).as_deref() == Some(profiles)).unwrap_or("both")
}

pub(crate) fn chargers_typed(rig: &Rig) -> Typed {
    rig.chargers.iter().enumerate().fold(Typed::default(), |t, (n, c)| {
        t.with(&format!("name_{n}"), &*c.name)
            .with(&format!("supply_{n}"), c.supply.key())
            .with(&format!("banks_{n}"), c.banks.to_string())
            .with(&format!("volts_{n}"), figures::typed(c.bank_voltage.value()))
            .with(&format!("amps_{n}"), figures::typed(c.current.value()))
            .with(&format!("profiles_{n}"), profiles_key(&c.profiles))
            .with(&format!("absorbs_{n}"), volts(c.absorption))
            .with(
                &format!("hours_{n}"),
                c.hours.map(|h| figures::typed(h.value())).unwrap_or_default(),
            )
    })
}

/// Reads the craft.
pub(crate) fn read_craft(typed: &Typed, units: System, before: &Rig) -> Result<Rig, Problems> {
    let mut r = Reader::of(typed, units);
    let name = r.name("name");
    let kind = r.choice("kind", CraftKind::from_key);
    let mut measure = |name: &str, of: Measure, range, kept: Option<f64>| -> Option<Option<f64>> {
        let read = r.measure_if(name, of, range)?;
        Some(untouched(units, of, kept, typed.get(name), read))
    };
    let craft = &before.craft;
    let kg = |m: Option<Kilograms>| m.map(Kilograms::value);
    let (mass, range) = (Measure::Mass, &allowed::CRAFT_MASS);
    let length = measure("length", Measure::Length, &allowed::CRAFT_LENGTH, craft.length_m);
    let empty = measure("empty", mass, range, kg(craft.empty_mass));
    let gear = measure("gear", mass, &allowed::GEAR, kg(craft.gear));
    let loaded = measure("loaded", mass, range, kg(craft.loaded_mass));
    let limit = measure("limit", mass, range, kg(before.battery_mass_limit));
    let trailer = measure("trailer", mass, range, kg(before.trailer_limit));
    let windage = measure("windage", Measure::Area, &allowed::WINDAGE, craft.windage);
    let people = r.whole_or("people", &allowed::PEOPLE, 1);
    let rig = (|| {
        let mut rig = before.clone();
        rig.name = name?;
        rig.craft.kind = kind?;
        rig.craft.length_m = length?;
        rig.craft.empty_mass = empty?.map(Kilograms::of);
        rig.craft.people = people?;
        rig.craft.gear = gear?.map(Kilograms::of);
        rig.craft.loaded_mass = loaded?.map(Kilograms::of);
        rig.craft.windage = windage?;
        rig.battery_mass_limit = limit?.map(Kilograms::of);
        // Nothing on wheels asks for these: they keep what was.
        if typed.has("trailer") {
            rig.trailer_limit = trailer?.map(Kilograms::of);
            rig.main_engine = r.ticked("engine");
        }
        Some(rig)
    })();
    r.finish(rig)
}

/// Reads the motor. `needs_draw` tells whether the day has stretches by motor setting.
pub(crate) fn read_motor(
    typed: &Typed,
    units: System,
    before: &Rig,
    needs_draw: bool,
) -> Result<Rig, Problems> {
    let mut r = Reader::of(typed, units);
    let name = r.name_or("motor", "Motor");
    let volts = r.number("volts", &allowed::SYSTEM_VOLTAGE);
    let mut also = Some(Vec::new());
    for text in typed.get("also").split([',', ';']).filter(|t| !t.trim().is_empty()) {
        match lake_hour_core::units::parse::number(text, &allowed::SYSTEM_VOLTAGE) {
            Ok(v) => also.as_mut().map_or((), |all| all.push(Volts::of(v))),
            Err(bad) => {
                r.problem("also", bad);
                also = None;
            }
        }
    }
    if also.as_ref().is_some_and(|a| a.len() > MOST_PARTS) {
        r.problem("also", format!("At most {MOST_PARTS} fit."));
    }
    // "1344 W" is amps at the system's voltage.
    let max = match (typed.get("max").trim().strip_suffix('W'), volts) {
        (Some(watts), Some(volts)) => {
            match lake_hour_core::units::parse::number(watts, &allowed::POWER) {
                Ok(w) if w > 0.0 => Some(Some(w / volts)),
                Ok(_) => Some(None),
                Err(bad) => {
                    r.problem("max", bad);
                    None
                }
            }
        }
        _ => r.optional("max", &allowed::LIMIT_CURRENT),
    };
    let kept = before.motor.thrust.map(Newtons::value);
    let thrust = r.measure_if("thrust", Measure::Force, &allowed::THRUST);
    let thrust = thrust.map(|t| untouched(units, Measure::Force, kept, typed.get("thrust"), t));
    // A field that is not on the form keeps what was.
    let thrust = if typed.has("thrust") { thrust } else { Some(kept) };
    let count = r.whole_or("count", &allowed::MOTORS, 1);
    let dial = match Dial::read(typed.get("dial")) {
        Ok(dial) => Some(dial),
        Err(why) => {
            r.problem("dial", figures::capital(&format!("{why}.")));
            None
        }
    };
    let highest = r.optional("highest", &allowed::VOLTAGE);
    let lowest = r.optional("lowest", &allowed::VOLTAGE);
    let unknown = max == Some(None) && thrust == Some(None) && before.motor.settings.is_empty();
    if unknown && needs_draw {
        r.problem(
            "max",
            "The day has stretches by motor setting: enter its maximum amps, as in 50.",
        );
    }
    if let (Some(Some(max)), Some(point)) = (max, before.motor.settings.last())
        && point.current.value() > max * 1.001
    {
        let says = format!(
            "The draw curve below goes up to {}: type at least that, or change the curve first.",
            point.current
        );
        r.problem("max", says);
    }
    if let (Some(Some(lowest)), Some(Some(highest))) = (lowest, highest)
        && lowest >= highest
    {
        r.problem("lowest", "Must be below the controller max, as in 40.");
    }
    let kept = before.lead.map(Metres::value);
    let lead = r.measure_if("lead", Measure::Length, &allowed::LEAD);
    let lead = lead.map(|l| untouched(units, Measure::Length, kept, typed.get("lead"), l));
    let drain = r.optional("drain", &allowed::STANDING_DRAIN);
    let rig = (|| {
        let mut rig = before.clone();
        rig.motor.name = name?;
        rig.motor.system_voltage = Volts::of(volts?);
        rig.motor.also_accepts = also?;
        rig.motor.max_current = max?.map(Amps::of);
        // Another figure is its owner's.
        rig.motor.max_is_typical &=
            r.ticked("typical") && rig.motor.max_current == before.motor.max_current;
        rig.motor.thrust = thrust?.map(Newtons::of);
        rig.motor.count = count?;
        rig.turn_dial(dial?);
        rig.motor.brushless = r.ticked("brushless");
        rig.motor.regenerates = r.ticked("regenerates");
        rig.controller_max = highest?.map(Volts::of);
        rig.controller_min = lowest?.map(Volts::of);
        rig.lead = lead?.map(Metres::of);
        rig.standing_drain = drain?.map(|ma| Amps::of(ma / 1000.0));
        Some(rig)
    })();
    r.finish(rig)
}

/// Reads the points of the draw curve.
pub(crate) fn read_draw(
    typed: &Typed,
    units: System,
    before: &Rig,
    needs_draw: bool,
) -> Result<Rig, Problems> {
    let mut r = Reader::of(typed, units);
    let max = before.motor.max_current;
    let mut numbers = Vec::new();
    let rows =
        r.rows(&["setting", "amps", "volts"], before.motor.settings.len(), MOST_PARTS, |r, n| {
            let setting = super::dial::setting(r, "setting", &before.motor.dial);
            let amps = r.number("amps", &allowed::CURRENT);
            if let (Some(amps), Some(max)) = (amps, max)
                && amps > max.value() * 1.001
            {
                r.problem(
                    "amps",
                    format!("More than the motor's maximum of {max}: type that at most."),
                );
            }
            numbers.push(n);
            let at = r.optional("volts", &allowed::VOLTAGE);
            Some(SettingPoint {
                setting: setting?,
                current: Amps::of(amps?),
                at: at?.map(Volts::of),
            })
        });
    let rows = rows.map(|rows| {
        let mut rows: Vec<_> = std::iter::zip(rows, numbers).collect();
        rows.sort_by(|a, b| a.0.setting.total_cmp(&b.0.setting));
        rows
    });
    if let Some(rows) = &rows {
        for pair in rows.windows(2) {
            let ((low, _), (high, n)) = (pair[0], pair[1]);
            if high.setting <= low.setting {
                r.problem(
                    &format!("setting_{n}"),
                    "You typed this setting twice: type another, or remove it.",
                );
            } else if high.current < low.current {
                let says = format!("A higher setting draws more: type at least {}.", low.current);
                r.problem(&format!("amps_{n}"), says);
            }
        }
        if rows.is_empty() && needs_draw && before.motor.full_current().is_none() {
            r.problem(
                "amps_0",
                "The day has stretches by motor setting: keep one point, as in setting 10, 46 A.",
            );
        }
    }
    let rig = rows.map(|rows| {
        let mut rig = before.clone();
        rig.motor.settings = rows.into_iter().map(|(p, _)| p).collect();
        rig.motor.settings_measured = r.ticked("measured");
        rig
    });
    r.finish(rig)
}

/// Reads the measured speeds.
pub(crate) fn read_measured(typed: &Typed, units: System, before: &Rig) -> Result<Rig, Problems> {
    let mut r = Reader::of(typed, units);
    let rows = r.rows(&["speed", "amps"], before.measured.len(), MOST_PARTS, |r, n| {
        let speed = r.measure("speed", Measure::Speed, &SLOWEST);
        let amps = r.number("amps", &allowed::LIMIT_CURRENT);
        let kept = before.measured.get(n).map(|p| p.speed.value());
        let text = typed.get(&format!("speed_{n}"));
        let speed = untouched(units, Measure::Speed, kept, text, speed);
        Some(SpeedPoint { speed: MetresPerSecond::of(speed?), current: Amps::of(amps?) })
    });
    let rows = rows.map(|mut rows| {
        rows.sort_by(|a, b| a.speed.value().total_cmp(&b.speed.value()));
        rows
    });
    for (n, pair) in rows.iter().flat_map(|rows| rows.windows(2)).enumerate() {
        let (slow, fast) = (pair[0], pair[1]);
        if fast.speed <= slow.speed {
            r.problem(&format!("speed_{}", n + 1), "Type another speed than the first one's.");
        } else if fast.current <= slow.current {
            let says = "The faster one must have drawn more amps than the slower.";
            r.problem(&format!("amps_{}", n + 1), says);
        }
    }
    r.finish(rows.map(|measured| Rig { measured, ..before.clone() }))
}

/// A measured speed: from a tenth of a metre a second.
const SLOWEST: allowed::Allowed = allowed::Allowed { low: 0.1, high: 25.0, unit: "m/s" };
/// A place along the craft as a percentage.
const ALONG: allowed::Allowed = allowed::Allowed { low: 0.0, high: 100.0, unit: "%" };

/// Reads the bays.
pub(crate) fn read_bays(typed: &Typed, units: System, before: &Rig) -> Result<Rig, Problems> {
    let mut r = Reader::of(typed, units);
    // Whatever is typed first begins a row: nothing of one that is half typed is passed over.
    let named =
        ["name", "length", "width", "height", "limit", "position", "layers", "sealed", "upright"];
    let rows = r.rows(&named, before.bays.len(), MOST_PARTS, |r, n| {
        let name = r.name_or("name", &format!("Bay {}", n + 1));
        let whereabouts = r.choice("place", Whereabouts::from_key);
        let kept = before.bays.get(n);
        let mut side = |name: &str, kept: Option<Millimetres>| {
            let read = r.measure(name, Measure::Side, &allowed::BAY_SIDE);
            let (kept, text) = (kept.map(Millimetres::value), typed.get(&format!("{name}_{n}")));
            untouched(units, Measure::Side, kept, text, read).map(Millimetres::of)
        };
        let length = side("length", kept.map(|b| b.length));
        let width = side("width", kept.map(|b| b.width));
        let height = side("height", kept.map(|b| b.height));
        let limit = r.measure_if("limit", Measure::Mass, &allowed::CRAFT_MASS);
        let kept_limit = kept.and_then(|b| b.mass_limit).map(Kilograms::value);
        let text = typed.get(&format!("limit_{n}"));
        let limit = limit.map(|l| untouched(units, Measure::Mass, kept_limit, text, l));
        let position = r.optional("position", &ALONG);
        let layers = r.whole_or("layers", &allowed::LAYERS, 1);
        Some(Bay {
            name: name?,
            whereabouts: whereabouts?,
            length: length?,
            width: width?,
            height: height?,
            mass_limit: limit?.map(Kilograms::of),
            layers: layers?,
            sealed: r.ticked("sealed"),
            upright_only: r.ticked("upright"),
            position: position?.map_or(whereabouts?.usual_position(), |p| p / 100.0),
        })
    });
    r.finish(rows.map(|bays| Rig { bays, ..before.clone() }))
}

/// What begins the row of a charger when it is typed.
const CHARGER_BEGINS: [&str; 6] = ["name", "volts", "amps", "banks", "absorbs", "hours"];

/// Reads the chargers.
pub(crate) fn read_chargers(typed: &Typed, units: System, before: &Rig) -> Result<Rig, Problems> {
    let mut r = Reader::of(typed, units);
    let rows = r.rows(&CHARGER_BEGINS, before.chargers.len(), MOST_PARTS, |r, n| {
        let name = r.name_or("name", &format!("Charger {}", n + 1));
        let supply = r.choice("supply", Supply::from_key);
        let banks = r.whole_or("banks", &allowed::CHARGER_BANKS, 1);
        let volts = r.number("volts", &allowed::SYSTEM_VOLTAGE);
        // "200 W" of panels: amps at the bank's voltage, a sixth of it lost in heat and regulator
        // (common practice, no source).
        let text = typed.get(&format!("amps_{n}")).trim();
        let amps = match (text.strip_suffix('W'), volts) {
            (Some(watts), Some(volts)) => {
                match lake_hour_core::units::parse::number(watts, &allowed::POWER) {
                    Ok(w) => Some((w * 0.84 / volts).clamp(0.1, 500.0)),
                    Err(bad) => {
                        r.problem("amps", bad);
                        None
                    }
                }
            }
            _ => r.number("amps", &allowed::CHARGER_CURRENT),
        };
        let profiles = r.choice("profiles", profiles_of);
        let absorbs = r.optional("absorbs", &allowed::VOLTAGE);
        let hours = r.optional("hours", &allowed::HOURS_OF_DAY);
        Some(Charger {
            name: name?,
            supply: supply?,
            banks: banks?,
            bank_voltage: Volts::of(volts?),
            current: Amps::of(amps?),
            absorption: absorbs?.map(Volts::of),
            profiles: profiles?,
            hours: hours?.map(Hours::of),
        })
    });
    r.finish(rows.map(|chargers| Rig { chargers, ..before.clone() }))
}
