//! The core's plan as a document: what is written can be read back to the same plan.

use super::{
    AccessoryDocument, BatteryDocument, CapacityDocument, CraftDocument, CyclesDocument,
    DayDocument, EnergyDocument, FORMAT, HouseRulesDocument, LoadDocument, MotorDocument,
    PackDocument, PlanDocument, RatingDocument, RigDocument, RuntimeDocument, SettingDocument,
    StretchDocument, VERSION, WeakUnitDocument,
};
use lake_hour_core::day::{self, Day, Duty};
use lake_hour_core::house::HouseRules;
use lake_hour_core::pack::Pack;
use lake_hour_core::plan::Plan;
use lake_hour_core::rig::Rig;
use lake_hour_core::shelf::{Battery, Chemistry, Rating};
use lake_hour_core::units::{Amps, Celsius, Kilograms, Volts};

/// A plan as a document.
pub fn write(plan: &Plan) -> PlanDocument {
    PlanDocument {
        format: FORMAT.to_owned(),
        version: VERSION,
        currency: Some(plan.currency.clone()),
        rig: rig(&plan.rig),
        day: day(&plan.day),
        house_rules: Some(rules(&plan.rules)),
        packs: plan.packs.iter().map(pack).collect(),
    }
}

fn rig(rig: &Rig) -> RigDocument {
    RigDocument {
        name: Some(rig.name.clone()),
        craft: Some(CraftDocument {
            kind: rig.craft.kind.key().to_owned(),
            length_m: rig.craft.length_m,
            loaded_mass_kg: rig.craft.loaded_mass.map(Kilograms::value),
        }),
        motor: MotorDocument {
            name: Some(rig.motor.name.clone()),
            system_voltage_v: rig.motor.system_voltage.value(),
            max_current_a: rig.motor.max_current.map(Amps::value),
            settings: rig
                .motor
                .settings
                .iter()
                .map(|p| SettingDocument { setting: p.setting, current_a: p.current.value() })
                .collect(),
        },
        controller_max_voltage_v: rig.controller_max.map(Volts::value),
        controller_min_voltage_v: rig.controller_min.map(Volts::value),
        battery_mass_limit_kg: rig.battery_mass_limit.map(Kilograms::value),
    }
}

fn day(day: &Day) -> DayDocument {
    DayDocument {
        start: Some(day::clock_words(day.start_minute)),
        ambient_c: day.ambient.map(Celsius::value),
        battery_start_c: day.battery_start.map(Celsius::value),
        outings_per_year: Some(day.outings_per_year),
        stretches: day
            .stretches
            .iter()
            .map(|s| StretchDocument {
                name: Some(s.name.clone()),
                minutes: s.lasts.minutes(),
                load: match s.duty {
                    Duty::Off => LoadDocument::Off {},
                    Duty::Current(a) => LoadDocument::Current { current_a: a.value() },
                    Duty::Power(w) => LoadDocument::Power { power_w: w.value() },
                    Duty::Setting(setting) => LoadDocument::Setting { setting },
                },
            })
            .collect(),
        accessories: day
            .accessories
            .iter()
            .map(|a| AccessoryDocument { name: Some(a.name.clone()), power_w: a.power.value() })
            .collect(),
    }
}

fn rules(rules: &HouseRules) -> HouseRulesDocument {
    let floor = Chemistry::ALL.map(|c| (c.key().to_owned(), rules.floor(c)));
    HouseRulesDocument {
        floor: Some(floor.into()),
        reserve: Some(rules.reserve),
        horizon_years: Some(rules.horizon_years),
        kept_at_c: Some(rules.keeping.temperature.value()),
        resting_charge: Some(rules.keeping.resting_charge),
    }
}

fn pack(pack: &Pack) -> PackDocument {
    PackDocument {
        name: Some(pack.name.clone()),
        series: Some(f64::from(pack.series)),
        parallel: Some(f64::from(pack.parallel)),
        extra_cost: Some(pack.extra_cost),
        weak_unit: pack.weak_unit.map(|w| WeakUnitDocument {
            capacity_share: w.capacity_share,
            resistance_factor: Some(w.resistance_factor),
        }),
        battery: battery(&pack.battery),
    }
}

fn battery(b: &Battery) -> BatteryDocument {
    BatteryDocument {
        name: Some(b.name.clone()),
        chemistry: b.chemistry.key().to_owned(),
        nominal_voltage_v: b.nominal_voltage.value(),
        ratings: b
            .ratings
            .iter()
            .map(|r| match *r {
                Rating::Capacity { ah, over } => RatingDocument::Capacity(CapacityDocument {
                    capacity_ah: ah.value(),
                    hours: over.value(),
                }),
                Rating::Runtime { at, lasted } => RatingDocument::Runtime(RuntimeDocument {
                    current_a: at.value(),
                    minutes: lasted.minutes(),
                }),
                Rating::Energy { wh, over } => RatingDocument::Energy(EnergyDocument {
                    energy_kwh: wh.value() / 1000.0,
                    hours: over.value(),
                }),
            })
            .collect(),
        cranking_a: b.cranking.map(Amps::value),
        mass_kg: b.mass.map(Kilograms::value),
        length_mm: b.size.map(|s| s.length.value()),
        width_mm: b.size.map(|s| s.width.value()),
        height_mm: b.size.map(|s| s.height.value()),
        price: b.price,
        max_continuous_current_a: b.max_continuous.map(Amps::value),
        peak_current_a: b.peak.map(|p| p.current.value()),
        peak_seconds: b.peak.map(|p| p.seconds),
        low_voltage_cutoff_v: b.low_voltage_cutoff.map(Volts::value),
        resistance_ohm: b.resistance.map(lake_hour_core::units::Ohms::value),
        cycles: b
            .cycles
            .iter()
            .map(|p| CyclesDocument { depth: p.depth, cycles: p.cycles })
            .collect(),
        calendar_years: b.calendar_years,
        ..BatteryDocument::default()
    }
}
