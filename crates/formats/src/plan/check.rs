//! A plan document against what is allowed: the core's plan, or every fault.

use super::{
    BatteryDocument, CapacityDocument, DayDocument, EnergyDocument, FORMAT, HouseRulesDocument,
    LoadDocument, PackDocument, PlanDocument, RatingDocument, RigDocument, RuntimeDocument,
    VERSION,
};
use crate::fault::{Checker, Faults};
use lake_hour_core::allowed;
use lake_hour_core::day::{self, Accessory, Day, Duty, Stretch};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::{Pack, WeakUnit};
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::{Craft, CraftKind, Motor, Rig, SettingPoint};
use lake_hour_core::shelf::{Battery, Chemistry, CyclePoint, Peak, Rating, Size};
use lake_hour_core::units::{
    AmpHours, Amps, Celsius, Hours, Kilograms, Millimetres, Ohms, Volts, WattHours, Watts,
};

/// Seconds a peak current is borne when the label does not say. Common practice, no source.
const USUAL_PEAK_SECONDS: f64 = 5.0;

pub(super) fn plan(doc: &PlanDocument) -> Result<Plan, Faults> {
    let mut c = Checker::default();
    if doc.format != FORMAT {
        c.fault("format", format!("must be \"{FORMAT}\""));
    }
    if doc.version != VERSION {
        c.fault("version", format!("this program reads version {VERSION}"));
    }
    let currency = doc.currency.clone().unwrap_or_else(|| "USD".to_owned());
    if currency.len() != 3 || !currency.bytes().all(|b| b.is_ascii_uppercase()) {
        c.fault("currency", "must be three capital letters, as in USD");
    }
    c.at_most("packs", doc.packs.len(), allowed::MOST_PACKS);
    let plan = Plan {
        currency,
        rig: rig(&mut c, &doc.rig),
        day: day(&mut c, &doc.day, &doc.rig),
        rules: rules(&mut c, doc.house_rules.as_ref()),
        packs: doc
            .packs
            .iter()
            .take(allowed::MOST_PACKS)
            .enumerate()
            .map(|(n, p)| pack(&mut c, &format!("packs[{n}]"), p))
            .collect(),
    };
    c.finish(plan)
}

fn rig(c: &mut Checker, doc: &RigDocument) -> Rig {
    let motor = &doc.motor;
    let mut before = -1.0;
    c.at_most("rig.motor.settings", motor.settings.len(), allowed::MOST_POINTS);
    let settings = motor.settings.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, p)| {
        let at = format!("rig.motor.settings[{n}]");
        let setting = c.number(format!("{at}.setting"), p.setting, &allowed::SETTING);
        if setting <= before {
            c.fault(&at, "settings must rise from one point to the next");
        }
        before = setting;
        let current = c.number(format!("{at}.current_a"), p.current_a, &allowed::CURRENT);
        SettingPoint { setting, current: Amps::of(current) }
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
    let name = |c: &mut Checker, at: &str, name: Option<&String>, usual: &str| match name {
        Some(n) => c.name(at, n),
        None => usual.to_owned(),
    };
    let (kind, length_m, loaded_mass) = match &doc.craft {
        None => (CraftKind::VHull, None, None),
        Some(craft) => (
            CraftKind::from_key(&craft.kind).unwrap_or_else(|| {
                let kinds = CraftKind::ALL.map(CraftKind::key).join(", ");
                c.fault("rig.craft.kind", format!("must be one of {kinds}"));
                CraftKind::VHull
            }),
            c.optional("rig.craft.length_m", craft.length_m, &allowed::CRAFT_LENGTH),
            c.optional("rig.craft.loaded_mass_kg", craft.loaded_mass_kg, &allowed::CRAFT_MASS),
        ),
    };
    let volts = |c: &mut Checker, at, v| c.optional(at, v, &allowed::VOLTAGE).map(Volts::of);
    Rig {
        name: name(c, "rig.name", doc.name.as_ref(), "Rig"),
        craft: Craft { kind, length_m, loaded_mass: loaded_mass.map(Kilograms::of) },
        motor: Motor {
            name: name(c, "rig.motor.name", motor.name.as_ref(), "Motor"),
            system_voltage: Volts::of(c.number(
                "rig.motor.system_voltage_v",
                motor.system_voltage_v,
                &allowed::SYSTEM_VOLTAGE,
            )),
            max_current: c
                .optional("rig.motor.max_current_a", motor.max_current_a, &allowed::LIMIT_CURRENT)
                .map(Amps::of),
            settings,
        },
        controller_max: volts(c, "rig.controller_max_voltage_v", doc.controller_max_voltage_v),
        controller_min: volts(c, "rig.controller_min_voltage_v", doc.controller_min_voltage_v),
        battery_mass_limit: c
            .optional("rig.battery_mass_limit_kg", doc.battery_mass_limit_kg, &allowed::CRAFT_MASS)
            .map(Kilograms::of),
    }
}

fn day(c: &mut Checker, doc: &DayDocument, rig: &RigDocument) -> Day {
    let start_minute = match doc.start.as_deref() {
        None => 7 * 60,
        Some(clock) => day::clock(clock).unwrap_or_else(|| {
            c.fault("day.start", "must be a clock time from 00:00 to 23:59");
            0
        }),
    };
    let draw_is_known = rig.motor.max_current_a.is_some() || !rig.motor.settings.is_empty();
    c.at_most("day.stretches", doc.stretches.len(), day::MOST_STRETCHES);
    if doc.stretches.is_empty() {
        c.fault("day.stretches", "give at least one stretch");
    }
    let stretches: Vec<Stretch> = doc
        .stretches
        .iter()
        .take(day::MOST_STRETCHES)
        .enumerate()
        .map(|(n, s)| {
            let at = format!("day.stretches[{n}]");
            let duty = match s.load {
                LoadDocument::Off {} => Duty::Off,
                LoadDocument::Current { current_a } => Duty::Current(Amps::of(c.number(
                    format!("{at}.load.current_a"),
                    current_a,
                    &allowed::CURRENT,
                ))),
                LoadDocument::Power { power_w } => Duty::Power(Watts::of(c.number(
                    format!("{at}.load.power_w"),
                    power_w,
                    &allowed::POWER,
                ))),
                LoadDocument::Setting { setting } => {
                    if !draw_is_known {
                        c.fault(
                            format!("{at}.load.setting"),
                            "needs rig.motor.max_current_a or rig.motor.settings to know the amps",
                        );
                    }
                    Duty::Setting(c.number(
                        format!("{at}.load.setting"),
                        setting,
                        &allowed::SETTING,
                    ))
                }
            };
            Stretch {
                name: match &s.name {
                    Some(name) => c.name(format!("{at}.name"), name),
                    None => format!("Stretch {}", n + 1),
                },
                lasts: Hours::from_minutes(c.number(
                    format!("{at}.minutes"),
                    s.minutes,
                    &allowed::MINUTES,
                )),
                duty,
            }
        })
        .collect();
    c.at_most("day.accessories", doc.accessories.len(), allowed::MOST_POINTS);
    let accessories =
        doc.accessories.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, a)| {
            let at = format!("day.accessories[{n}]");
            Accessory {
                name: match &a.name {
                    Some(name) => c.name(format!("{at}.name"), name),
                    None => format!("Device {}", n + 1),
                },
                power: Watts::of(c.number(format!("{at}.power_w"), a.power_w, &allowed::POWER)),
            }
        });
    let accessories = accessories.collect();
    let celsius =
        |c: &mut Checker, at, t| c.optional(at, t, &allowed::TEMPERATURE).map(Celsius::of);
    let day = Day {
        start_minute,
        ambient: celsius(c, "day.ambient_c", doc.ambient_c),
        battery_start: celsius(c, "day.battery_start_c", doc.battery_start_c),
        outings_per_year: c
            .optional("day.outings_per_year", doc.outings_per_year, &allowed::OUTINGS)
            .unwrap_or(day::DEFAULT_OUTINGS),
        stretches,
        accessories,
    };
    if day.lasts() > day::LONGEST {
        let says = format!(
            "{:.0} h together; a day may last up to {:.0} h",
            day.lasts().value(),
            day::LONGEST.value()
        );
        c.fault("day.stretches", says);
    }
    day
}

fn rules(c: &mut Checker, doc: Option<&HouseRulesDocument>) -> HouseRules {
    let mut rules = HouseRules::default();
    let Some(doc) = doc else { return rules };
    for (key, &floor) in doc.floor.iter().flatten() {
        let at = format!("house_rules.floor.{key}");
        match Chemistry::from_key(key) {
            Some(chemistry) => {
                rules = rules.with_floor(chemistry, c.number(at, floor, &allowed::FLOOR));
            }
            None => c.fault(at, "not a chemistry: flooded, agm, gel, lfp or nmc"),
        }
    }
    let at = "house_rules.reserve";
    rules.reserve = c.optional(at, doc.reserve, &allowed::RESERVE).unwrap_or(rules.reserve);
    let at = "house_rules.horizon_years";
    let horizon = c.optional(at, doc.horizon_years, &allowed::HORIZON);
    rules.horizon_years = horizon.unwrap_or(rules.horizon_years);
    let at = "house_rules.kept_at_c";
    if let Some(t) = c.optional(at, doc.kept_at_c, &allowed::TEMPERATURE) {
        rules.keeping.temperature = Celsius::of(t);
    }
    let at = "house_rules.resting_charge";
    if let Some(share) = c.optional(at, doc.resting_charge, &allowed::DEPTH) {
        rules.keeping.resting_charge = share;
    }
    rules
}

fn pack(c: &mut Checker, at: &str, doc: &PackDocument) -> Pack {
    let battery = battery(c, &format!("{at}.battery"), &doc.battery);
    Pack {
        name: match &doc.name {
            Some(name) => c.name(format!("{at}.name"), name),
            None => battery.name.clone(),
        },
        series: c.count(format!("{at}.series"), doc.series.unwrap_or(1.0), &allowed::SERIES),
        parallel: c.count(
            format!("{at}.parallel"),
            doc.parallel.unwrap_or(1.0),
            &allowed::PARALLEL,
        ),
        extra_cost: c.number(
            format!("{at}.extra_cost"),
            doc.extra_cost.unwrap_or(0.0),
            &allowed::PRICE,
        ),
        weak_unit: doc.weak_unit.map(|w| WeakUnit {
            capacity_share: c.number(
                format!("{at}.weak_unit.capacity_share"),
                w.capacity_share,
                &allowed::WEAK_SHARE,
            ),
            resistance_factor: c.number(
                format!("{at}.weak_unit.resistance_factor"),
                w.resistance_factor.unwrap_or(1.0),
                &allowed::WEAK_RESISTANCE,
            ),
        }),
        battery,
    }
}

fn battery(c: &mut Checker, at: &str, doc: &BatteryDocument) -> Battery {
    let field = |name: &str| format!("{at}.{name}");
    let chemistry = Chemistry::from_key(&doc.chemistry).unwrap_or_else(|| {
        c.fault(field("chemistry"), "must be one of flooded, agm, gel, lfp, nmc");
        Chemistry::Agm
    });
    let ratings = ratings(c, at, doc, chemistry);
    if ratings.is_empty() && doc.cranking_a.is_none() {
        c.fault(at, "give capacity_ah, reserve_minutes_25a or a rating");
    }
    let mut optional =
        |name: &str, value, allowed: &allowed::Allowed| c.optional(field(name), value, allowed);
    let sides = [
        optional("length_mm", doc.length_mm, &allowed::BATTERY_SIDE),
        optional("width_mm", doc.width_mm, &allowed::BATTERY_SIDE),
        optional("height_mm", doc.height_mm, &allowed::BATTERY_SIDE),
    ];
    let peak = optional("peak_current_a", doc.peak_current_a, &allowed::LIMIT_CURRENT);
    let seconds = optional("peak_seconds", doc.peak_seconds, &allowed::PEAK_SECONDS);
    let battery = Battery {
        name: String::new(),
        chemistry,
        nominal_voltage: Volts::ZERO,
        ratings,
        cranking: optional("cranking_a", doc.cranking_a, &allowed::CRANKING).map(Amps::of),
        mass: optional("mass_kg", doc.mass_kg, &allowed::UNIT_MASS).map(Kilograms::of),
        size: match sides.map(|s| s.map(Millimetres::of)) {
            [Some(length), Some(width), Some(height)] => Some(Size { length, width, height }),
            _ => None,
        },
        price: optional("price", doc.price, &allowed::PRICE),
        max_continuous: optional(
            "max_continuous_current_a",
            doc.max_continuous_current_a,
            &allowed::LIMIT_CURRENT,
        )
        .map(Amps::of),
        peak: peak.map(|current| Peak {
            current: Amps::of(current),
            seconds: seconds.unwrap_or(USUAL_PEAK_SECONDS),
        }),
        low_voltage_cutoff: optional(
            "low_voltage_cutoff_v",
            doc.low_voltage_cutoff_v,
            &allowed::VOLTAGE,
        )
        .map(Volts::of),
        resistance: optional("resistance_ohm", doc.resistance_ohm, &allowed::RESISTANCE)
            .map(Ohms::of),
        cycles: Vec::new(),
        calendar_years: optional("calendar_years", doc.calendar_years, &allowed::YEARS),
    };
    let nominal =
        c.number(field("nominal_voltage_v"), doc.nominal_voltage_v, &allowed::UNIT_VOLTAGE);
    if let Some(v) = doc.low_voltage_cutoff_v
        && v >= nominal
    {
        c.fault(field("low_voltage_cutoff_v"), format!("must be below the nominal {nominal} V"));
    }
    c.at_most(&field("cycles"), doc.cycles.len(), allowed::MOST_POINTS);
    let cycles =
        doc.cycles.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, p)| CyclePoint {
            depth: c.number(field(&format!("cycles[{n}].depth")), p.depth, &allowed::DEPTH),
            cycles: c.number(field(&format!("cycles[{n}].cycles")), p.cycles, &allowed::CYCLES),
        });
    let cycles = cycles.collect();
    let name = match &doc.name {
        Some(name) => c.name(field("name"), name),
        None => format!("{} {nominal} V", chemistry.name()),
    };
    Battery { name, nominal_voltage: Volts::of(nominal), cycles, ..battery }
}

fn ratings(c: &mut Checker, at: &str, doc: &BatteryDocument, chemistry: Chemistry) -> Vec<Rating> {
    let mut ratings = Vec::new();
    let hours = |c: &mut Checker, at: String, h| Hours::of(c.number(at, h, &allowed::RATED_HOURS));
    if let Some(ah) = doc.capacity_ah {
        let over = doc.capacity_hours.unwrap_or(chemistry.usual_rating_hours());
        ratings.push(Rating::Capacity {
            ah: AmpHours::of(c.number(format!("{at}.capacity_ah"), ah, &allowed::CAPACITY)),
            over: hours(c, format!("{at}.capacity_hours"), over),
        });
    }
    if let Some(minutes) = doc.reserve_minutes_25a {
        let at = format!("{at}.reserve_minutes_25a");
        ratings.push(Rating::reserve(c.number(at, minutes, &allowed::RATED_MINUTES)));
    }
    c.at_most(&format!("{at}.ratings"), doc.ratings.len(), allowed::MOST_POINTS);
    for (n, rating) in doc.ratings.iter().take(allowed::MOST_POINTS).enumerate() {
        let at = |name: &str| format!("{at}.ratings[{n}].{name}");
        ratings.push(match *rating {
            RatingDocument::Runtime(RuntimeDocument { current_a, minutes }) => Rating::Runtime {
                at: Amps::of(c.number(at("current_a"), current_a, &allowed::LIMIT_CURRENT)),
                lasted: Hours::from_minutes(c.number(
                    at("minutes"),
                    minutes,
                    &allowed::RATED_MINUTES,
                )),
            },
            RatingDocument::Capacity(CapacityDocument { capacity_ah, hours: over }) => {
                Rating::Capacity {
                    ah: AmpHours::of(c.number(at("capacity_ah"), capacity_ah, &allowed::CAPACITY)),
                    over: hours(c, at("hours"), over),
                }
            }
            RatingDocument::Energy(EnergyDocument { energy_kwh, hours: over }) => Rating::Energy {
                wh: WattHours::of(
                    c.number(at("energy_kwh"), energy_kwh, &allowed::UNIT_ENERGY) * 1000.0,
                ),
                over: hours(c, at("hours"), over),
            },
        });
    }
    ratings
}
