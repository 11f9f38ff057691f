//! Plans read, refused and written.

use super::*;
use serde_json::{Value, json};

const SAMPLE: &str = include_str!("../../tests/data/sampling-skiff.plan.json");

fn sample() -> Value {
    serde_json::from_str(SAMPLE).expect("the sample is JSON")
}

fn faults(plan: &Value) -> Vec<String> {
    let bytes = serde_json::to_vec(plan).expect("writes");
    match read(&bytes) {
        Ok(_) => Vec::new(),
        Err(Faults(all)) => all.iter().map(ToString::to_string).collect(),
    }
}

/// The sample with one value put in at a pointer.
fn with(pointer: &str, value: Value) -> Value {
    let mut plan = sample();
    let (parent, last) = pointer.rsplit_once('/').expect("a pointer");
    let parent = plan.pointer_mut(parent).expect("exists");
    match parent {
        Value::Array(list) => list[last.parse::<usize>().expect("an index")] = value,
        other => other[last] = value,
    }
    plan
}

#[test]
fn the_sample_is_read_and_written_to_the_same_plan() {
    let plan = read(SAMPLE.as_bytes()).expect("a good plan");
    assert_eq!(plan.packs[0].battery.ratings.len(), 2);
    let again = serde_json::to_vec(&write(&plan)).expect("writes");
    assert_eq!(read(&again), Ok(plan));
}

#[test]
fn only_the_required_figures_are_needed() {
    let least = json!({"format": FORMAT, "version": 1,
        "rig": {"motor": {"system_voltage_v": 12}},
        "day": {"stretches": [{"minutes": 30, "load": {"kind": "current", "current_a": 8}}]},
        "packs": [{"battery": {"chemistry": "agm", "nominal_voltage_v": 12, "reserve_minutes_25a": 180}}]});
    assert_eq!(faults(&least), Vec::<String>::new());
}

#[test]
fn each_fault_is_named_by_place_and_says_what_is_allowed() {
    for (pointer, value, says) in [
        ("/format", json!("x"), "format: must be \"lake-hour/plan\""),
        ("/version", json!(2), "version: this program reads version 1"),
        ("/currency", json!("dollar"), "currency: must be three capital letters, as in USD"),
        (
            "/packs/0/series",
            json!(0),
            "packs[0].series: 0 is not allowed; give a whole number from 1 to 64",
        ),
        (
            "/packs/0/series",
            json!(65),
            "packs[0].series: 65 is not allowed; give a whole number from 1 to 64",
        ),
        (
            "/packs/0/parallel",
            json!(1.5),
            "packs[0].parallel: 1.5 is not allowed; give a whole number from 1 to 64",
        ),
        (
            "/packs/0/battery/chemistry",
            json!("water"),
            "packs[0].battery.chemistry: must be one of lfp, agm, gel, flooded, nmc",
        ),
        (
            "/packs/0/battery/capacity_ah",
            json!(-5),
            "packs[0].battery.capacity_ah: -5 is not allowed; give a number from 0.1 to 10000 Ah",
        ),
        (
            "/packs/0/battery/low_voltage_cutoff_v",
            json!(14),
            "packs[0].battery.low_voltage_cutoff_v: Must be below the battery's 12.8 V.",
        ),
        ("/rig/motor/system_voltage_v", json!(1e300), "rig.motor.system_voltage_v: 1"),
        ("/rig/craft/kind", json!("submarine"), "rig.craft.kind: must be one of kayak"),
        ("/day/start", json!("25:00"), "day.start: must be a clock time from 00:00 to 23:59"),
        ("/day/stretches", json!([]), "day.stretches: give at least one stretch"),
        (
            "/day/stretches/0/minutes",
            json!(0),
            "day.stretches[0].minutes: 0 is not allowed; give a number from 0.5 to 10080 min",
        ),
        (
            "/day/stretches/0/name",
            json!("x".repeat(81)),
            "day.stretches[0].name: Use at most 80 characters; this has 81.",
        ),
        ("/day/stretches/0/lenght", json!(1), "day.stretches[0].lenght: unknown field `lenght`"),
        ("/day/stretches/0/load", json!({"kind": "warp"}), "day.stretches[0].load"),
        (
            "/day/stretches/0/minutes",
            json!("ten"),
            "day.stretches[0].minutes: invalid type: string \"ten\"",
        ),
        (
            "/house_rules/floor/agm",
            json!(1),
            "house_rules.floor.agm: 1 is not allowed; give a number from 0 to 0.95",
        ),
        ("/house_rules/floor/coal", json!(0.5), "house_rules.floor.coal: not a chemistry"),
        (
            "/packs/0/battery/ratings/0",
            json!({"current_a": 5, "minutes": 9, "volts": 3}),
            "packs[0].battery.ratings[0]: a rating is {current_a, minutes}",
        ),
    ] {
        let found = faults(&with(pointer, value.clone()));
        assert!(found.iter().any(|f| f.starts_with(says)), "{pointer} = {value}: {found:?}");
    }
}

/// The odd unit of a pack, at its limits and just beyond: one that gives next to nothing is none, one that is better than the others is
/// not weak; one of half a sound one's resistance was measured badly, one of twenty times is dead. Common practice, no source.
#[test]
fn an_odd_unit_is_taken_within_its_limits() {
    for (field, low, high) in [("capacity_share", 0.05, 1.0), ("resistance_factor", 0.5, 20.0)] {
        let unit = |value: f64| {
            let mut unit = json!({"capacity_share": 0.8, "resistance_factor": 1.2});
            unit[field] = json!(value);
            with("/packs/0/weak_unit", unit)
        };
        for (value, good) in [(low, true), (high, true), (low * 0.99, false), (high * 1.01, false)]
        {
            let faults = faults(&unit(value));
            assert_eq!(faults.is_empty(), good, "{field} {value}: {faults:?}");
            assert!(faults.iter().all(|f| f.starts_with(&format!("packs[0].weak_unit.{field}"))));
        }
        let bytes = serde_json::to_vec(&unit(low)).expect("writes");
        let weak = read(&bytes).expect("good").packs[0].weak_unit.expect("said");
        let told =
            if field == "capacity_share" { weak.capacity_share } else { weak.resistance_factor };
        assert!((told - low).abs() < 1e-12, "it is taken as it is");
    }
}

#[test]
fn every_fault_is_told_at_once_and_many_are_counted() {
    let mut plan = with("/packs/0/series", json!(0));
    plan["day"]["start"] = json!("noon");
    assert_eq!(faults(&plan).len(), 2);
    let bad = json!({"minutes": -1, "load": {"kind": "off"}});
    plan["day"]["stretches"] = json!(vec![bad; 300]);
    let found = faults(&plan);
    assert_eq!(found.len(), 51);
    assert!(found[50].contains("more faults"), "{}", found[50]);
}

#[test]
fn too_many_too_long_and_too_large_are_refused_without_being_worked_on() {
    let stretch = json!({"minutes": 1, "load": {"kind": "off"}});
    let found = faults(&with("/day/stretches", json!(vec![stretch; 10_000])));
    assert_eq!(found, ["day.stretches: 10000 of them; at most 400 are allowed"]);
    let long = json!({"minutes": 10_080, "load": {"kind": "off"}});
    let found = faults(&with("/day/stretches", json!(vec![long; 2])));
    assert_eq!(found, ["day.stretches: 336 h together; a day may last up to 168 h"]);
    let huge = vec![b' '; LARGEST + 1];
    assert!(read(&huge).expect_err("too large").0[0].says.contains("at most 16 MB"));
}

#[test]
fn what_is_no_json_text_is_refused_with_the_place() {
    for (bytes, says) in [
        (&b"{\"format\": \xff}"[..], "plan: not UTF-8 text: byte 11"),
        (b"", "plan: EOF while parsing"),
        (b"{} x", "plan: missing field"),
        (b"[1, 2", "[0]: invalid type"),
        (b"{\"format\": NaN}", "format: expected value"),
    ] {
        let Faults(found) = read(bytes).expect_err("refused");
        assert!(found[0].to_string().starts_with(says), "{}", found[0]);
    }
    let deep = "[".repeat(100_000);
    assert!(read(deep.as_bytes()).is_err());
    let infinite = SAMPLE.replace("\"minutes\":40", "\"minutes\":1e309");
    assert!(read(infinite.as_bytes()).is_err());
}

/// A setting without any amps known has no honest current.
#[test]
fn a_setting_needs_a_draw_curve() {
    let mut plan = sample();
    plan["rig"]["motor"] = json!({"system_voltage_v": 24});
    let found = faults(&plan);
    assert!(found[0].starts_with("day.stretches[2].load.setting: needs"), "{found:?}");
}

/// Schema and reader agree about every number: what the schema refuses the reader refuses too, and names its place; and nothing that was
/// good is refused by the schema.
#[test]
fn what_the_schema_refuses_is_refused_at_its_place() {
    fn numbers(value: &Value, at: &str, all: &mut Vec<String>) {
        match value {
            Value::Number(_) => all.push(at.to_owned()),
            Value::Array(list) => {
                for (n, one) in list.iter().enumerate() {
                    numbers(one, &format!("{at}/{n}"), all);
                }
            }
            Value::Object(map) => {
                for (key, one) in map {
                    numbers(one, &format!("{at}/{key}"), all);
                }
            }
            _ => {}
        }
    }
    let schema: Value = serde_json::from_str(&crate::schema::plan()).expect("a schema");
    let validator = jsonschema::validator_for(&schema).expect("a good schema");
    let (mut refused, mut beside) = (0, 0);
    for plan in [sample(), rich()] {
        let mut all = Vec::new();
        numbers(&plan, "", &mut all);
        assert!(all.len() > 20);
        for at in all {
            for value in
                [json!(-1e6), json!(-1), json!(0), json!(0.5), json!(3), json!(1e9), json!("7")]
            {
                let mut other = plan.clone();
                *other.pointer_mut(&at).expect("there") = value.clone();
                let (valid, faults) = (validator.is_valid(&other), faults(&other));
                assert!(valid || !faults.is_empty(), "{at} {value}: the schema alone refuses it");
                refused += usize::from(!valid);
                beside += usize::from(valid && !faults.is_empty());
            }
        }
    }
    // What one figure allows may depend on another, and not every limit stands in the schema yet.
    assert!(refused > beside, "{refused} refused by the schema, {beside} by the reader alone");
    for (at, value) in
        [("/format", json!("x")), ("/version", json!(2)), ("/day/stretches", json!([]))]
    {
        let mut other = sample();
        *other.pointer_mut(at).expect("there") = value;
        assert!(!validator.is_valid(&other) && !faults(&other).is_empty(), "{at}");
    }
}

/// JSON Schema drafts as read by the `jsonschema` crate.
#[test]
fn plan_and_result_satisfy_their_schemas() {
    let valid = |schema: &str, instance: &Value| {
        let schema: Value = serde_json::from_str(schema).expect("JSON");
        let validator = jsonschema::validator_for(&schema).expect("a schema");
        validator.iter_errors(instance).map(|e| e.to_string()).collect::<Vec<_>>()
    };
    assert_eq!(valid(&crate::schema::plan(), &sample()), Vec::<String>::new());
    assert!(
        !valid(&crate::schema::plan(), &with("/day/stretches/0/minutes", json!("x"))).is_empty()
    );
    let plan = read(SAMPLE.as_bytes()).expect("a good plan");
    let evaluations = plan.evaluate().expect("a draw curve");
    let result = crate::result::document(&plan, &evaluations, true);
    let json = serde_json::to_value(&result).expect("writes");
    assert_eq!(valid(&crate::schema::result(), &json), Vec::<String>::new());
    let pack = &json["packs"][0];
    assert_eq!(pack["price_total"], 790.0);
    // On the 20-hour basis of the battery fitted to both ratings; what the label says stands beside it.
    let energy = pack["energy_wh"].as_f64().expect("has one");
    assert!((energy / 2560.0 - 1.0).abs() < 0.01, "{energy}");
    assert_eq!(
        (&pack["label_capacity_ah"], &pack["label_capacity_hours"]),
        (&json!(100.0), &json!(20.0))
    );
    let (low, high) = (pack["charge_left_low"].as_f64(), pack["charge_left_high"].as_f64());
    assert!(low < pack["charge_left"].as_f64() && pack["charge_left"].as_f64() < high);
}

/// The sample with everything a rig and a day can say.
fn rich() -> Value {
    let mut plan = sample();
    plan["rig"]["craft"] = json!({"kind": "jon_boat", "length_m": 4.4, "empty_mass_kg": 120,
        "people": 2, "gear_mass_kg": 60, "windage_m2": 1.5});
    plan["rig"]["motor"]["also_accepts_v"] = json!([12, 36]);
    plan["rig"]["motor"]["thrust_n"] = json!(350);
    plan["rig"]["motor"]["brushless"] = json!(true);
    plan["rig"]["motor"]["count"] = json!(2);
    plan["rig"]["motor"]["dial"] = json!(["low", "mid", "high", "R1", "spot-lock"]);
    plan["rig"]["motor"]["regenerates"] = json!(true);
    plan["rig"]["motor"]["settings_measured"] = json!(true);
    plan["rig"]["motor"]["max_current_typical"] = json!(true);
    plan["rig"]["bays"] = json!([{"name": "Bow box", "whereabouts": "bow", "length_mm": 560,
        "width_mm": 380, "height_mm": 260, "mass_limit_kg": 60, "sealed": true, "upright_only": true, "position": 0.2,
        "layers": 2}]);
    plan["rig"]["motor_cable_m"] = json!(4.5);
    plan["rig"]["trailer_limit_kg"] = json!(700);
    plan["rig"]["main_engine"] = json!(true);
    plan["rig"]["chargers"] = json!([{"name": "Dock", "supply": "mains", "banks": 2,
        "bank_voltage_v": 12, "current_a": 10, "absorption_voltage_v": 14.6, "profiles": ["agm", "lfp"], "hours": 10}]);
    plan["rig"]["measured_speeds"] = json!([{"speed_ms": 1.2, "current_a": 11}]);
    plan["day"]["days_without_charging"] = json!(2);
    plan["day"]["ready_by"] = json!("05:30");
    plan["day"]["wind_ms"] = json!(3.5);
    plan["day"]["current_ms"] = json!(0.3);
    plan["day"]["hourly"] = json!([{"from_min": 720, "wind_ms": 5, "ambient_c": 18}]);
    plan["day"]["route"] = json!([[45.0, 10.0], [45.01, 10.0]]);
    plan["day"]["stretches"][0]["load"] = json!({"kind": "speed", "speed_ms": 1.4});
    plan["day"]["stretches"][1]["load"] = json!({"kind": "hold_place"});
    plan["day"]["stretches"][2] = json!({"name": "Round", "minutes": 50, "working_share": 0.5,
        "heading": "with", "surface": "gravel", "grade": 0.02, "stops": 3,
        "load": {"kind": "distance", "distance_m": 2500}});
    plan["day"]["accessories"][0]["hours"] = json!(2);
    plan["day"]["accessories"][0]["on_house"] = json!(true);
    plan["packs"][0]["aboard"] = json!(true);
    plan
}

#[test]
fn all_that_a_rig_and_a_day_can_say_comes_back_the_same() {
    let bytes = serde_json::to_vec(&rich()).expect("writes");
    let plan = read(&bytes).expect("a good plan");
    assert_eq!(plan.rig.motor.count, 2);
    assert_eq!((plan.rig.bays[0].layers, plan.rig.main_engine), (2, true));
    assert_eq!(plan.rig.chargers[0].absorption, Some(lake_hour_core::units::Volts::of(14.6)));
    assert_eq!(plan.day.stretches[2].stops, 3);
    let again = serde_json::to_vec(&write(&plan)).expect("writes");
    assert_eq!(read(&again), Ok(plan.clone()));
    // The parts that a database keeps make up the same plan.
    let frame = write_frame(&plan);
    let stretches = plan.day.stretches.iter().map(write_stretch);
    let stretches = stretches.map(|s| read_stretch(&s).expect("ours")).collect();
    let packs =
        plan.packs.iter().map(|p| read_pack(&write_pack(p, None)).expect("ours").0).collect();
    assert_eq!(read_frame(&frame, stretches, packs), Ok(plan));
}

#[test]
fn each_fault_of_a_rig_and_a_day_is_named_by_its_place() {
    for (pointer, value, says) in [
        ("/rig/craft/kind", json!("ship"), "rig.craft.kind: must be one of kayak"),
        ("/rig/craft/people", json!(1.5), "rig.craft.people: 1.5 is not allowed"),
        ("/rig/craft/loaded_mass_kg", json!(0), "rig.craft.loaded_mass_kg: 0 is not allowed"),
        ("/rig/motor/count", json!(9), "rig.motor.count: 9 is not allowed"),
        ("/rig/motor/steps", json!(0.5), "rig.motor.steps: 0.5 is not allowed"),
        ("/rig/motor/thrust_n", json!(-1), "rig.motor.thrust_n: -1 is not allowed"),
        ("/rig/bays/0/length_mm", json!(20), "rig.bays[0].length_mm: 20 is not allowed"),
        ("/rig/bays/0/whereabouts", json!("mast"), "rig.bays[0].whereabouts: must be bow"),
        ("/rig/bays/0/position", json!(2), "rig.bays[0].position: 2 is not allowed"),
        ("/rig/chargers/0/supply", json!("wind"), "rig.chargers[0].supply: must be mains"),
        ("/rig/chargers/0/profiles", json!(["x"]), "rig.chargers[0].profiles: must be of"),
        ("/rig/chargers/0/banks", json!(0), "rig.chargers[0].banks: 0 is not allowed"),
        ("/rig/motor_cable_m", json!(0.01), "rig.motor_cable_m: 0.01 is not allowed"),
        ("/rig/trailer_limit_kg", json!(-4), "rig.trailer_limit_kg: -4 is not allowed"),
        ("/rig/bays/0/layers", json!(1.5), "rig.bays[0].layers: 1.5 is not allowed"),
        ("/rig/bays/0/layers", json!(9), "rig.bays[0].layers: 9 is not allowed"),
        (
            "/rig/chargers/0/absorption_voltage_v",
            json!(900),
            "rig.chargers[0].absorption_voltage_v: 900",
        ),
        ("/rig/measured_speeds/0/speed_ms", json!(0), "rig.measured_speeds[0].speed_ms: speeds"),
        ("/day/ready_by", json!("25:00"), "day.ready_by: must be a clock time"),
        ("/day/days_without_charging", json!(8), "day.days_without_charging: 8 is not allowed"),
        ("/day/wind_ms", json!(134), "day.wind_ms: 134 is not allowed; give a number from 0 to 60"),
        ("/day/hourly/0/from_min", json!(-5), "day.hourly[0].from_min: -5 is not allowed"),
        ("/day/route/1", json!([91, 0]), "day.route[1]: a latitude from -90 to 90"),
        ("/day/stretches/2/heading", json!("up"), "day.stretches[2].heading: must be into"),
        ("/day/stretches/2/surface", json!("ice"), "day.stretches[2].surface: must be asphalt"),
        ("/day/stretches/2/grade", json!(0.9), "day.stretches[2].grade: 0.9 is not allowed"),
        ("/day/stretches/2/working_share", json!(0), "day.stretches[2].working_share: 0 is not"),
        ("/day/stretches/2/keeps", json!("way"), "day.stretches[2].keeps: must be distance or"),
        (
            "/day/stretches/2/distance_m",
            json!(-3),
            "day.stretches[2].distance_m: -3 is not allowed",
        ),
        ("/rig/owned", json!(["meter", "meter"]), "rig.owned[1]: is said twice"),
        ("/rig/owned", json!(["boat"]), "rig.owned[0]: must be one of: charger"),
        ("/day/stretches/2/stops", json!(-1), "day.stretches[2].stops: -1 is not allowed"),
        ("/day/stretches/0/load/speed_ms", json!(99), "day.stretches[0].load.speed_ms: 99 is not"),
        ("/day/accessories/0/hours", json!(999), "day.accessories[0].hours: 999 is not allowed"),
    ] {
        let mut plan = rich();
        *plan.pointer_mut(pointer).unwrap_or(&mut Value::Null) = value.clone();
        if plan.pointer(pointer) != Some(&value) {
            let (parent, last) = pointer.rsplit_once('/').expect("a pointer");
            plan.pointer_mut(parent).expect("exists")[last] = value;
        }
        let found = faults(&plan);
        assert_eq!(found.len(), 1, "{pointer}: {found:?}");
        assert!(found[0].starts_with(says), "{pointer}: {}", found[0]);
    }
    let mut crowded = rich();
    crowded["rig"]["bays"] = json!(vec![crowded["rig"]["bays"][0].clone(); 13]);
    assert_eq!(faults(&crowded), ["rig.bays: 13 of them; at most 12 are allowed"]);
}
