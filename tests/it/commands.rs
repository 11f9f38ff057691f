//! `evaluate` and `schema` on the command line, and two programs on one database.

use crate::program::{Program, command, run};

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
    assert_eq!(lines[0].matches(',').count(), lines[1].matches(',').count());
    let text = String::from_utf8(run(&["evaluate", "-", "--format", "text"], PLAN).stdout).unwrap();
    assert!(text.starts_with("Two Marl Point 12-100: home with "), "{text}");
    assert!(text.contains("licensed practice come first"));
    let working = run(&["evaluate", "-", "--working"], PLAN);
    assert!(String::from_utf8(working.stdout).unwrap().contains("1 - Ah drawn"));
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
