//! The craft, its motor, its bays and chargers: the document, its check, its writing.

use crate::fault::Checker;
use lake_hour_core::allowed;
use lake_hour_core::rig::{
    Bay, Charger, Craft, CraftKind, Dial, Lesson, MOST_PARTS, Motor, Owned, Pushes, Rig,
    SettingPoint, SpeedPoint, Supply, Whereabouts,
};
use lake_hour_core::shelf::Chemistry;
use lake_hour_core::units::{
    Amps, Hours, Kilograms, Metres, MetresPerSecond, Millimetres, Newtons, Volts,
};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The craft and its motor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RigDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// The boat or cart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub craft: Option<CraftDocument>,
    /// The motor.
    pub motor: MotorDocument,
    /// Highest voltage the controller bears. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub controller_max_voltage_v: Option<f64>,
    /// Lowest voltage at which the controller still works. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub controller_min_voltage_v: Option<f64>,
    /// Weight of battery the craft may carry. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::CRAFT_MASS.low, max = allowed::CRAFT_MASS.high))]
    pub battery_mass_limit_kg: Option<f64>,
    /// From the batteries to the motor, one way; its volts are then told behind that cable. [m]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::LEAD.low, max = allowed::LEAD.high))]
    pub motor_cable_m: Option<f64>,
    /// Weight its trailer may carry. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::CRAFT_MASS.low, max = allowed::CRAFT_MASS.high))]
    pub trailer_limit_kg: Option<f64>,
    /// A combustion engine pushes it besides.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub main_engine: bool,
    /// What it draws while it stands and cannot be switched off. [mA]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::STANDING_DRAIN.low, max = allowed::STANDING_DRAIN.high))]
    pub standing_drain_ma: Option<f64>,
    /// What is there already and serves whatever pack is chosen: of `charger`, `fuse`, `breaker`, `cables`, `meter`, each once.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub owned: Vec<String>,
    /// Where batteries can go.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bays: Vec<BayDocument>,
    /// What fills them again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub chargers: Vec<ChargerDocument>,
    /// Speeds measured in calm water, slowest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub measured_speeds: Vec<MeasuredSpeedDocument>,
}

/// The boat or cart.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CraftDocument {
    /// `kayak`, `canoe`, `jon_boat`, `v_hull`, `bass`, `pontoon`, `sailboat`, `rowing_skiff`,
    /// `golf_cart`, `utility_cart`, `lsv`, `go_kart`, `motorbike` or `conversion`.
    pub kind: String,
    /// Length. [m]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::CRAFT_LENGTH.low, max = allowed::CRAFT_LENGTH.high))]
    pub length_m: Option<f64>,
    /// Mass with people, gear and batteries. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::CRAFT_MASS.low, max = allowed::CRAFT_MASS.high))]
    pub loaded_mass_kg: Option<f64>,
    /// Mass without people, gear and batteries. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::CRAFT_MASS.low, max = allowed::CRAFT_MASS.high))]
    pub empty_mass_kg: Option<f64>,
    /// People aboard; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub people: Option<f64>,
    /// Gear, fuel and batteries; what is usual for the kind if absent. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::GEAR.low, max = allowed::GEAR.high))]
    pub gear_mass_kg: Option<f64>,
    /// Drag area in the wind, Cd A. [m2]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::WINDAGE.low, max = allowed::WINDAGE.high))]
    pub windage_m2: Option<f64>,
    /// What its log taught of what a speed takes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub learned_at_speed: Option<LessonDocument>,
    /// What its log taught of what holding a place takes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub learned_holding: Option<LessonDocument>,
}

/// By how much something differs from its label or what is typical, learnt from a log and taken over.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LessonDocument {
    /// Times as much as told or typical.
    #[schemars(range(min = allowed::LEARNED_TIMES.low, max = allowed::LEARNED_TIMES.high))]
    pub times: f64,
    /// Share of the doubt that is left, 0 to 1.
    #[schemars(range(min = allowed::DOUBT.low, max = allowed::DOUBT.high))]
    pub doubt: f64,
    /// Entries of the log that it rests on.
    #[schemars(range(min = allowed::LOG_ENTRIES.low, max = allowed::LOG_ENTRIES.high))]
    pub entries: f64,
    /// When it was taken over.
    #[schemars(with = "String")]
    pub on: jiff::civil::Date,
}

/// The motor.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MotorDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Nominal voltage of the system. [V]
    pub system_voltage_v: f64,
    /// Highest current it draws. [A]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::LIMIT_CURRENT.low, max = allowed::LIMIT_CURRENT.high))]
    pub max_current_a: Option<f64>,
    /// Whether that current is what is usual for such a craft, and told by nobody.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub max_current_typical: bool,
    /// Other nominal voltages it can be wired for. [V]
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also_accepts_v: Vec<f64>,
    /// Highest static thrust. [N]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::THRUST.low, max = allowed::THRUST.high))]
    pub thrust_n: Option<f64>,
    /// Brushless.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub brushless: bool,
    /// Gives energy back when it brakes.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub regenerates: bool,
    /// Speeds of a stepped switch, numbered from 1; stepless if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub steps: Option<f64>,
    /// What stands on its dial, where that is not 1 to 10 or numbered speeds: its marks, the speeds ahead low to high, or `["percent"]`.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub dial: Vec<String>,
    /// How many alike run together; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<f64>,
    /// Whether the points of the draw curve were measured.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub settings_measured: bool,
    /// Known points of its draw curve, by rising setting.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub settings: Vec<SettingDocument>,
    /// What its log taught of what it draws.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub learned: Option<LessonDocument>,
}

/// One point of a draw curve.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SettingDocument {
    /// Control setting, 0 to 10.
    #[schemars(range(min = allowed::SETTING.low, max = allowed::SETTING.high))]
    pub setting: f64,
    /// Current drawn there. [A]
    pub current_a: f64,
    /// Voltage at which it was read; the loaded voltage of the pack aboard if absent. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::VOLTAGE.low, max = allowed::VOLTAGE.high))]
    pub at_voltage_v: Option<f64>,
}

/// A place for batteries, by its clear inside.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct BayDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// `bow`, `midship`, `stern` or `under_seat`.
    pub whereabouts: String,
    /// Clear length, along the craft. [mm]
    pub length_mm: f64,
    /// Clear width. [mm]
    pub width_mm: f64,
    /// Clear height. [mm]
    pub height_mm: f64,
    /// Weight it may carry. [kg]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::CRAFT_MASS.low, max = allowed::CRAFT_MASS.high))]
    pub mass_limit_kg: Option<f64>,
    /// Closed off, without a vent.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub sealed: bool,
    /// Batteries stand upright here or not at all.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub upright_only: bool,
    /// Layers that it is built for; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub layers: Option<f64>,
    /// Where its middle is, 0 at the bow and 1 at the stern.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::POSITION.low, max = allowed::POSITION.high))]
    pub position: Option<f64>,
}

/// A charger, a generator's charger, or solar panels.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ChargerDocument {
    /// Its name.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// `mains`, `generator` or `solar`; mains if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub supply: Option<String>,
    /// Outputs; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub banks: Option<f64>,
    /// Nominal voltage of each output. [V]
    #[schemars(range(min = allowed::SYSTEM_VOLTAGE.low, max = allowed::SYSTEM_VOLTAGE.high))]
    pub bank_voltage_v: f64,
    /// Current of each output. [A]
    #[schemars(range(min = allowed::CHARGER_CURRENT.low, max = allowed::CHARGER_CURRENT.high))]
    pub current_a: f64,
    /// Volts of each output in absorption. [V]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::VOLTAGE.low, max = allowed::VOLTAGE.high))]
    pub absorption_voltage_v: Option<f64>,
    /// Chemistries it has a profile for; not told if empty.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub profiles: Vec<String>,
    /// Hours out of a day it can run. [h]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::HOURS_OF_DAY.low, max = allowed::HOURS_OF_DAY.high))]
    pub hours: Option<f64>,
}

/// A speed and the current it took.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MeasuredSpeedDocument {
    /// Through the water or along the road. [m/s]
    #[schemars(range(min = allowed::SPEED.low, max = allowed::SPEED.high))]
    pub speed_ms: f64,
    /// Of all motors together. [A]
    pub current_a: f64,
}

pub(super) fn check(c: &mut Checker, doc: &RigDocument) -> Rig {
    let name = |c: &mut Checker, at: &str, name: Option<&String>, usual: &str| match name {
        Some(n) => c.name(at, n),
        None => usual.to_owned(),
    };
    let volts = |c: &mut Checker, at, v| c.optional(at, v, &allowed::VOLTAGE).map(Volts::of);
    c.at_most("rig.bays", doc.bays.len(), MOST_PARTS);
    c.at_most("rig.chargers", doc.chargers.len(), MOST_PARTS);
    c.at_most("rig.measured_speeds", doc.measured_speeds.len(), MOST_PARTS);
    Rig {
        name: name(c, "rig.name", doc.name.as_ref(), "Rig"),
        craft: doc
            .craft
            .as_ref()
            .map_or(Craft::of(CraftKind::VHull), |craft| check_craft(c, craft)),
        motor: check_motor(c, &doc.motor),
        controller_max: volts(c, "rig.controller_max_voltage_v", doc.controller_max_voltage_v),
        controller_min: volts(c, "rig.controller_min_voltage_v", doc.controller_min_voltage_v),
        battery_mass_limit: c
            .optional("rig.battery_mass_limit_kg", doc.battery_mass_limit_kg, &allowed::CRAFT_MASS)
            .map(Kilograms::of),
        lead: c.optional("rig.motor_cable_m", doc.motor_cable_m, &allowed::LEAD).map(Metres::of),
        trailer_limit: c
            .optional("rig.trailer_limit_kg", doc.trailer_limit_kg, &allowed::CRAFT_MASS)
            .map(Kilograms::of),
        main_engine: doc.main_engine,
        standing_drain: c
            .optional("rig.standing_drain_ma", doc.standing_drain_ma, &allowed::STANDING_DRAIN)
            .map(|ma| Amps::of(ma / 1000.0)),
        owned: check_owned(c, &doc.owned),
        bays: numbered(&doc.bays, |n, bay| check_bay(c, n, bay)),
        chargers: numbered(&doc.chargers, |n, charger| check_charger(c, n, charger)),
        measured: check_measured(c, &doc.measured_speeds),
    }
}

/// The first of a list, each with its number.
fn numbered<D, T>(docs: &[D], mut check: impl FnMut(usize, &D) -> T) -> Vec<T> {
    docs.iter().take(MOST_PARTS).enumerate().map(|(n, doc)| check(n, doc)).collect()
}

fn check_craft(c: &mut Checker, doc: &CraftDocument) -> Craft {
    let kind = CraftKind::from_key(&doc.kind).unwrap_or_else(|| {
        let kinds = CraftKind::ALL.map(CraftKind::key).join(", ");
        c.fault("rig.craft.kind", format!("must be one of {kinds}"));
        CraftKind::VHull
    });
    let mut mass = |at, value, range| c.optional(at, value, range).map(Kilograms::of);
    let loaded_mass = mass("rig.craft.loaded_mass_kg", doc.loaded_mass_kg, &allowed::CRAFT_MASS);
    let empty_mass = mass("rig.craft.empty_mass_kg", doc.empty_mass_kg, &allowed::CRAFT_MASS);
    let gear = mass("rig.craft.gear_mass_kg", doc.gear_mass_kg, &allowed::GEAR);
    Craft {
        kind,
        length_m: c.optional("rig.craft.length_m", doc.length_m, &allowed::CRAFT_LENGTH),
        loaded_mass,
        empty_mass,
        people: c.count("rig.craft.people", doc.people.unwrap_or(1.0), &allowed::PEOPLE),
        gear,
        windage: c.optional("rig.craft.windage_m2", doc.windage_m2, &allowed::WINDAGE),
        heavier_by: Kilograms::ZERO,
        learned: Pushes {
            at_speed: check_lesson(c, "rig.craft.learned_at_speed", doc.learned_at_speed),
            holding: check_lesson(c, "rig.craft.learned_holding", doc.learned_holding),
        },
    }
}

fn check_motor(c: &mut Checker, motor: &MotorDocument) -> Motor {
    let mut before = -1.0;
    c.at_most("rig.motor.settings", motor.settings.len(), allowed::MOST_POINTS);
    c.at_most("rig.motor.also_accepts_v", motor.also_accepts_v.len(), MOST_PARTS);
    let settings = motor.settings.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, p)| {
        let at = format!("rig.motor.settings[{n}]");
        let setting = c.number(format!("{at}.setting"), p.setting, &allowed::SETTING);
        if setting <= before {
            c.fault(&at, "settings must rise from one point to the next");
        }
        before = setting;
        let current = c.number(format!("{at}.current_a"), p.current_a, &allowed::CURRENT);
        let at = c.optional(format!("{at}.at_voltage_v"), p.at_voltage_v, &allowed::VOLTAGE);
        SettingPoint { setting, current: Amps::of(current), at: at.map(Volts::of) }
    });
    let settings: Vec<_> = settings.collect();
    for n in 1..settings.len() {
        if settings[n].current < settings[n - 1].current {
            c.fault(
                format!("rig.motor.settings[{n}].current_a"),
                "a higher setting cannot draw less",
            );
        }
    }
    let system = &allowed::SYSTEM_VOLTAGE;
    Motor {
        name: match &motor.name {
            Some(name) => c.name("rig.motor.name", name),
            None => "Motor".to_owned(),
        },
        system_voltage: Volts::of(c.number(
            "rig.motor.system_voltage_v",
            motor.system_voltage_v,
            system,
        )),
        max_current: c
            .optional("rig.motor.max_current_a", motor.max_current_a, &allowed::LIMIT_CURRENT)
            .map(Amps::of),
        max_is_typical: motor.max_current_typical && motor.max_current_a.is_some(),
        also_accepts: numbered(&motor.also_accepts_v, |n, v| {
            Volts::of(c.number(format!("rig.motor.also_accepts_v[{n}]"), *v, system))
        }),
        thrust: c.optional("rig.motor.thrust_n", motor.thrust_n, &allowed::THRUST).map(Newtons::of),
        brushless: motor.brushless,
        regenerates: motor.regenerates,
        dial: check_dial(c, motor),
        count: c.count("rig.motor.count", motor.count.unwrap_or(1.0), &allowed::MOTORS),
        settings,
        settings_measured: motor.settings_measured,
        read_at: None,
        learned: check_lesson(c, "rig.motor.learned", motor.learned),
    }
}

/// What a log taught.
fn check_lesson(c: &mut Checker, at: &str, doc: Option<LessonDocument>) -> Option<Lesson> {
    let doc = doc?;
    Some(Lesson {
        times: c.number(format!("{at}.times"), doc.times, &allowed::LEARNED_TIMES),
        doubt: c.number(format!("{at}.doubt"), doc.doubt, &allowed::DOUBT),
        entries: c.count(format!("{at}.entries"), doc.entries, &allowed::LOG_ENTRIES),
        on: doc.on,
    })
}

fn write_lesson(lesson: Lesson) -> LessonDocument {
    let Lesson { times, doubt, entries, on } = lesson;
    LessonDocument { times, doubt, entries: f64::from(entries), on }
}

fn check_bay(c: &mut Checker, n: usize, doc: &BayDocument) -> Bay {
    let at = |name: &str| format!("rig.bays[{n}].{name}");
    let whereabouts = Whereabouts::from_key(&doc.whereabouts).unwrap_or_else(|| {
        c.fault(at("whereabouts"), "must be bow, midship, stern or under_seat");
        Whereabouts::Bow
    });
    let name = match &doc.name {
        Some(name) => c.name(at("name"), name),
        None => format!("Bay {}", n + 1),
    };
    let mut side = |name: &str, mm| Millimetres::of(c.number(at(name), mm, &allowed::BAY_SIDE));
    let length = side("length_mm", doc.length_mm);
    let width = side("width_mm", doc.width_mm);
    let height = side("height_mm", doc.height_mm);
    Bay {
        name,
        whereabouts,
        length,
        width,
        height,
        mass_limit: c
            .optional(at("mass_limit_kg"), doc.mass_limit_kg, &allowed::CRAFT_MASS)
            .map(Kilograms::of),
        sealed: doc.sealed,
        upright_only: doc.upright_only,
        layers: c.count(at("layers"), doc.layers.unwrap_or(1.0), &allowed::LAYERS),
        position: c
            .optional(at("position"), doc.position, &allowed::POSITION)
            .unwrap_or(whereabouts.usual_position()),
    }
}

fn check_charger(c: &mut Checker, n: usize, doc: &ChargerDocument) -> Charger {
    let at = |name: &str| format!("rig.chargers[{n}].{name}");
    let supply = doc.supply.as_deref().unwrap_or("mains");
    let supply = Supply::from_key(supply).unwrap_or_else(|| {
        c.fault(at("supply"), "must be mains, generator or solar");
        Supply::Mains
    });
    c.at_most(&at("profiles"), doc.profiles.len(), Chemistry::ALL.len());
    let profiles = doc.profiles.iter().take(Chemistry::ALL.len()).filter_map(|key| {
        let known = Chemistry::from_key(key);
        if known.is_none() {
            c.fault(at("profiles"), "must be of flooded, agm, gel, lfp, nmc");
        }
        known
    });
    let profiles = profiles.collect();
    Charger {
        name: match &doc.name {
            Some(name) => c.name(at("name"), name),
            None => format!("Charger {}", n + 1),
        },
        supply,
        banks: c.count(at("banks"), doc.banks.unwrap_or(1.0), &allowed::CHARGER_BANKS),
        bank_voltage: Volts::of(c.number(
            at("bank_voltage_v"),
            doc.bank_voltage_v,
            &allowed::SYSTEM_VOLTAGE,
        )),
        current: Amps::of(c.number(at("current_a"), doc.current_a, &allowed::CHARGER_CURRENT)),
        absorption: c
            .optional(at("absorption_voltage_v"), doc.absorption_voltage_v, &allowed::VOLTAGE)
            .map(Volts::of),
        profiles,
        hours: c.optional(at("hours"), doc.hours, &allowed::HOURS_OF_DAY).map(Hours::of),
    }
}

fn check_owned(c: &mut Checker, doc: &[String]) -> Vec<Owned> {
    c.at_most("rig.owned", doc.len(), Owned::ALL.len());
    let mut all = Vec::new();
    for (n, key) in doc.iter().take(Owned::ALL.len()).enumerate() {
        match Owned::from_key(key) {
            Some(owned) if !all.contains(&owned) => all.push(owned),
            Some(_) => c.fault(format!("rig.owned[{n}]"), "is said twice; each once"),
            None => {
                c.fault(format!("rig.owned[{n}]"), format!("must be one of: {}", Owned::keys()));
            }
        }
    }
    all
}

fn check_measured(c: &mut Checker, docs: &[MeasuredSpeedDocument]) -> Vec<SpeedPoint> {
    let mut before = 0.0;
    numbered(docs, |n, doc| {
        let at = |name: &str| format!("rig.measured_speeds[{n}].{name}");
        let speed = c.number(at("speed_ms"), doc.speed_ms, &allowed::SPEED);
        if speed <= before {
            c.fault(at("speed_ms"), "speeds must be above zero and rise from one to the next");
        }
        before = speed;
        let current = c.number(at("current_a"), doc.current_a, &allowed::LIMIT_CURRENT);
        SpeedPoint { speed: MetresPerSecond::of(speed), current: Amps::of(current) }
    })
}

pub(super) fn write(rig: &Rig) -> RigDocument {
    let (craft, motor) = (&rig.craft, &rig.motor);
    RigDocument {
        name: Some(rig.name.clone()),
        craft: Some(CraftDocument {
            kind: craft.kind.key().to_owned(),
            length_m: craft.length_m,
            loaded_mass_kg: craft.loaded_mass.map(Kilograms::value),
            empty_mass_kg: craft.empty_mass.map(Kilograms::value),
            people: Some(f64::from(craft.people)),
            gear_mass_kg: craft.gear.map(Kilograms::value),
            windage_m2: craft.windage,
            learned_at_speed: craft.learned.at_speed.map(write_lesson),
            learned_holding: craft.learned.holding.map(write_lesson),
        }),
        motor: MotorDocument {
            name: Some(motor.name.clone()),
            system_voltage_v: motor.system_voltage.value(),
            max_current_a: motor.max_current.map(Amps::value),
            max_current_typical: motor.max_is_typical,
            also_accepts_v: motor.also_accepts.iter().map(|v| v.value()).collect(),
            thrust_n: motor.thrust.map(Newtons::value),
            brushless: motor.brushless,
            regenerates: motor.regenerates,
            steps: numbered_steps(&motor.dial).map(f64::from),
            dial: write_dial(&motor.dial),
            count: Some(f64::from(motor.count)),
            settings_measured: motor.settings_measured,
            learned: motor.learned.map(write_lesson),
            settings: motor
                .settings
                .iter()
                .map(|p| SettingDocument {
                    setting: p.setting,
                    current_a: p.current.value(),
                    at_voltage_v: p.at.map(Volts::value),
                })
                .collect(),
        },
        controller_max_voltage_v: rig.controller_max.map(Volts::value),
        controller_min_voltage_v: rig.controller_min.map(Volts::value),
        battery_mass_limit_kg: rig.battery_mass_limit.map(Kilograms::value),
        motor_cable_m: rig.lead.map(Metres::value),
        trailer_limit_kg: rig.trailer_limit.map(Kilograms::value),
        main_engine: rig.main_engine,
        standing_drain_ma: rig.standing_drain.map(|a| a.value() * 1000.0),
        owned: rig.owned.iter().map(|owned| owned.key().to_owned()).collect(),
        bays: rig.bays.iter().map(bay_document).collect(),
        chargers: rig.chargers.iter().map(charger_document).collect(),
        measured_speeds: rig
            .measured
            .iter()
            .map(|p| MeasuredSpeedDocument {
                speed_ms: p.speed.value(),
                current_a: p.current.value(),
            })
            .collect(),
    }
}

fn bay_document(bay: &Bay) -> BayDocument {
    BayDocument {
        name: Some(bay.name.clone()),
        whereabouts: bay.whereabouts.key().to_owned(),
        length_mm: bay.length.value(),
        width_mm: bay.width.value(),
        height_mm: bay.height.value(),
        mass_limit_kg: bay.mass_limit.map(Kilograms::value),
        sealed: bay.sealed,
        upright_only: bay.upright_only,
        layers: (bay.layers > 1).then(|| f64::from(bay.layers)),
        position: Some(bay.position),
    }
}

fn charger_document(charger: &Charger) -> ChargerDocument {
    ChargerDocument {
        name: Some(charger.name.clone()),
        supply: Some(charger.supply.key().to_owned()),
        banks: Some(f64::from(charger.banks)),
        bank_voltage_v: charger.bank_voltage.value(),
        current_a: charger.current.value(),
        absorption_voltage_v: charger.absorption.map(Volts::value),
        profiles: charger.profiles.iter().map(|p| p.key().to_owned()).collect(),
        hours: charger.hours.map(Hours::value),
    }
}

/// The speeds of a dial that are numbered from 1 and nothing else.
fn numbered_steps(dial: &Dial) -> Option<u32> {
    dial.steps().filter(|n| *dial == Dial::steps_of(*n))
}

fn write_dial(dial: &Dial) -> Vec<String> {
    match dial {
        Dial::Tenths => Vec::new(),
        Dial::Percent => vec!["percent".to_owned()],
        Dial::Marks { .. } if numbered_steps(dial).is_some() => Vec::new(),
        Dial::Marks { ahead, besides } => ahead.iter().chain(besides).cloned().collect(),
    }
}

fn check_dial(c: &mut Checker, motor: &MotorDocument) -> Dial {
    let steps = motor.steps.map(|steps| c.count("rig.motor.steps", steps, &allowed::STEPS));
    match motor.dial.as_slice() {
        [] => steps.map_or(Dial::Tenths, Dial::steps_of),
        [one] if one == "percent" => Dial::Percent,
        marks => match Dial::of(marks.iter().map(|m| m.trim().to_owned()).collect()) {
            Ok(dial) => dial,
            Err(why) => {
                c.fault("rig.motor.dial", why.to_string());
                Dial::Tenths
            }
        },
    }
}
