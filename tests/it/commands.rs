//! `evaluate` and `schema` on the command line, and two programs on one database.

use crate::program::{Program, command, run};
use std::path::Path;

const PLAN: &[u8] = include_bytes!("../../crates/formats/tests/data/sampling-skiff.plan.json");

#[test]
fn a_plan_in_gives_a_result_out_in_three_forms() {
    let json = run(&["evaluate", "-"], PLAN);
    assert!(json.status.success());
    let result: serde_json::Value = serde_json::from_slice(&json.stdout).unwrap();
    assert_eq!(result["format"], "lake-hour/result");
    let pack = &result["packs"][0];
    assert_eq!((&pack["outcome"], &pack["price_total"]), (&"home".into(), &790.0.into()));
    assert!(pack["charge_left"].as_f64().unwrap() > 0.28);
    assert_eq!(pack["stops_at_min"], serde_json::Value::Null);
    assert_eq!(run(&["evaluate", "-"], PLAN).stdout, json.stdout, "the same every time");
    let csv = String::from_utf8(run(&["evaluate", "-", "--format", "csv"], PLAN).stdout).unwrap();
    let lines: Vec<&str> = csv.split("\r\n").collect();
    assert!(
        lines[0].starts_with("name,outcome,")
            && lines[1].starts_with("Two Marl Point 12-100,home,")
    );
    let text = String::from_utf8(run(&["evaluate", "-", "--format", "text"], PLAN).stdout).unwrap();
    assert!(text.starts_with("Two Marl Point 12-100: gets home with "), "{text}");
    assert!(text.contains("licensed practice come first"));
    let working = run(&["evaluate", "-", "--working"], PLAN);
    let working = String::from_utf8(working.stdout).unwrap();
    assert!(
        working.contains("start - Ah drawn / rated Ah")
            && working.contains("\"origin\": \"label\"")
    );
}

#[test]
fn bad_input_ends_with_two_and_a_line_for_each_fault() {
    let bad = String::from_utf8(PLAN.to_vec()).unwrap();
    let bad =
        bad.replace("\"series\":2", "\"series\":65").replace("\"minutes\":40", "\"minutes\":-1");
    let refused = run(&["evaluate", "-"], bad.as_bytes());
    assert_eq!(refused.status.code(), Some(2));
    assert!(refused.stdout.is_empty(), "no partial output");
    let lines = String::from_utf8(refused.stderr).unwrap();
    assert!(
        lines.contains("packs[0].series: 65 is not allowed; give a whole number from 1 to 64\n")
    );
    assert!(lines.contains("day.stretches[0].minutes: -1 is not allowed"), "{lines}");
    assert_eq!(lines.lines().count(), 2);
    for arguments in [
        &["evaluate", "/no/such/plan.json"][..],
        &["evaluate", "/"],
        &["evaluate", "/dev/zero"],
        &["evaluate", "-", "--format", "xml"],
        &["serve", "--listen", "nowhere"],
        &["paddle"],
    ] {
        let refused = run(arguments, b"\xff\xfe{");
        assert_eq!(refused.status.code(), Some(2), "{arguments:?}");
        assert!(!refused.stderr.is_empty() && refused.stdout.is_empty(), "{arguments:?}");
    }
}

#[test]
fn the_schemas_printed_are_those_committed() {
    for (name, committed) in [
        ("plan", &include_bytes!("../../docs/formats/plan.schema.json")[..]),
        ("result", include_bytes!("../../docs/formats/result.schema.json")),
        ("shelf", include_bytes!("../../docs/formats/shelf.schema.json")),
    ] {
        assert!(run(&["schema", name], b"").stdout == committed, "docs/formats/{name}.schema.json");
    }
}

#[test]
fn two_programs_do_not_share_a_database() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("mine.db");
    let first = Program::serve(&db);
    let second =
        command().args(["serve", "--listen", "127.0.0.1:0", "--db"]).arg(&db).output().unwrap();
    assert_eq!(second.status.code(), Some(1));
    let says = String::from_utf8(second.stderr).unwrap();
    assert!(says.contains("is in use by another running Lake Hour"), "{says}");
    // Once the first is gone, however it went, the file is free again.
    first.kill();
    drop(Program::serve(&db));
}

/// Two days in a windy week, told by speeds and places: read, worked out, explained.
#[test]
fn a_plan_told_by_speeds_and_places_is_worked_out_without_an_amp() {
    let plan = serde_json::json!({"format": "lake-hour/plan", "version": 1,
        "rig": {"craft": {"kind": "canoe", "people": 2}, "motor": {"system_voltage_v": 12, "thrust_n": 200},
            "chargers": [{"bank_voltage_v": 12, "current_a": 8, "profiles": ["lfp"]}]},
        "day": {"days_without_charging": 2, "ready_by": "06:00", "wind_ms": 2.5,
            "stretches": [
                {"name": "Out", "minutes": 45, "load": {"kind": "speed", "speed_ms": 1.1}},
                {"name": "Watch", "minutes": 90, "working_share": 0.5, "load": {"kind": "hold_place"}},
                {"name": "Home", "minutes": 45, "heading": "with", "load": {"kind": "distance", "distance_m": 2800}}]},
        "packs": [{"battery": {"chemistry": "lfp", "nominal_voltage_v": 12.8, "capacity_ah": 60,
            "ratings": [{"current_a": 25, "minutes": 140}], "mass_kg": 7, "price": 210}}]});
    let done = run(&["evaluate", "-", "--working"], plan.to_string().as_bytes());
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let result: serde_json::Value = serde_json::from_slice(&done.stdout).unwrap();
    let pack = &result["packs"][0];
    let left = pack["charge_left"].as_f64().unwrap();
    assert!((0.2..1.0).contains(&left), "{left}");
    assert!(pack["charge_left_low"].as_f64().unwrap() < left);
    assert_eq!(pack["least_sure_of"], "draw", "nobody has measured it");
    assert_eq!(pack["ready_in_time"], true);
    assert!(pack["refill_hours"].as_f64().unwrap() > 0.5);
    let working = pack["working"].as_array().unwrap();
    assert!(working.iter().any(|l| l["figure"] == "refill" && l["terms"][0]["origin"] == "set"));
    // The kinetic model's sums: what is left and what was drawn are the whole.
    let drawn = pack["delivered_ah"].as_f64().unwrap();
    assert!((drawn / (1.0 - left) / 60.0 - 1.0).abs() < 0.08, "{drawn} Ah, {left}");
}

/// Saved while the server runs, brought back when it does not; what cannot be says why, and nothing is touched.
#[test]
fn a_backup_is_saved_while_it_serves_and_restored_when_it_does_not() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).to_str().unwrap().to_owned();
    let (db, copy) = (path("a.db"), path("copy.db"));
    let app = Program::serve(Path::new(&db));
    app.post("/start/demo", "");
    let saved = run(&["backup", "--db", &db, &copy], b"");
    assert!(saved.status.success(), "{saved:?}");
    assert!(String::from_utf8_lossy(&saved.stdout).starts_with("Saved "));
    app.post("/rigs/1/packs/1/remove", "");
    let busy = run(&["restore", "--db", &db, &copy], b"");
    assert_eq!(busy.status.code(), Some(1));
    assert!(String::from_utf8_lossy(&busy.stderr).contains("in use by another running Lake Hour"));
    app.kill();
    let says = |arguments: &[&str]| {
        let done = run(arguments, b"");
        assert_eq!((done.status.code(), done.stdout.len()), (Some(2), 0), "{arguments:?}");
        String::from_utf8_lossy(&done.stderr).into_owned()
    };
    std::fs::write(path("zip.db"), b"PK\x03\x04 bomb").unwrap();
    assert!(says(&["restore", "--db", &db, &path("zip.db")]).contains("zip of open files"));
    assert!(says(&["restore", "--db", &db, &path("none.db")]).contains("cannot be read"));
    assert!(says(&["restore", "--db", &db, &path("")]).contains("folder"));
    assert!(says(&["backup", "--db", &path("none.db"), &copy]).contains("no database yet"));
    assert!(says(&["backup", "--db", &db, &db]).contains("the database itself"));
    let restored = run(&["restore", "--db", &db, &copy], b"");
    assert!(restored.status.success(), "{restored:?}");
    let told = String::from_utf8_lossy(&restored.stdout).into_owned();
    assert!(
        told.starts_with("Restored 1 rig and 42 batteries") && told.contains("is kept as"),
        "{told}"
    );
    let app = Program::serve(Path::new(&db));
    assert_eq!(app.get("/rigs/1/plan.json").text().matches("\"series\"").count(), 11);
}

#[test]
fn the_command_line_explains_itself() {
    let help = String::from_utf8(run(&["--help"], b"").stdout).unwrap();
    for word in
        ["demo", "serve", "backup", "restore", "evaluate", "completions", "man", "First time:"]
    {
        assert!(help.contains(word), "{word}");
    }
    assert!(help.lines().all(|line| line.chars().count() <= 140));
    let man = String::from_utf8(run(&["man"], b"").stdout).unwrap();
    assert!(man.contains(".TH lake-hour 1") && man.contains("restore"));
    for shell in ["bash", "zsh", "fish", "powershell", "elvish"] {
        let script = run(&["completions", shell], b"").stdout;
        assert!(String::from_utf8(script).unwrap().contains("restore"), "{shell}");
    }
}
