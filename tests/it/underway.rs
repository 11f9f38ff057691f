//! Under way from outside: the stand-in's command, what the server holds through a whole day, many that look at once.

use crate::program::{Program, Server, run};
use std::io::Read;
use std::time::{Duration, Instant};

#[test]
fn the_stand_in_refuses_what_it_cannot_play_in_a_line_each() {
    for (arguments, says) in [
        (&["--speed", "0"][..], "--speed"),
        (&["--speed", "NaN"], "--speed"),
        (&["--listen", "0.0.0.0:0"], "--listen"),
        (&["--plan", "/nowhere/plan.json"], "/nowhere/plan.json"),
        (&["--plan", "Cargo.toml"], "line"),
    ] {
        let output = run(&[&["stand-in"], arguments].concat(), b"");
        let text = String::from_utf8(output.stderr).unwrap();
        assert_eq!(output.status.code(), Some(2), "{arguments:?}: {text}");
        assert!(text.contains(says) && output.stdout.is_empty(), "{text}");
    }
    let without = br#"{"format":"lake-hour/plan","version":1,"rig":{"name":"x","motor":{"system_voltage_v":12}},"day":{"stretches":[]},"packs":[]}"#;
    let output = run(&["stand-in", "--plan", "-"], without);
    assert_eq!(output.status.code(), Some(2));
}

/// The truth is written as it is played; the same seed plays the same day.
#[test]
fn the_truth_is_written_line_by_line_and_the_same_for_a_seed() {
    let folder = tempfile::tempdir().unwrap();
    let app = Program::demo();
    let mut firsts = Vec::new();
    for name in ["a.jsonl", "b.jsonl"] {
        let file = folder.path().join(name);
        let truth = file.to_str().unwrap();
        let plays = ["--speed", "600", "--seed", "11", "--listen", "127.0.0.1:0", "--truth", truth];
        let stand_in = Server::stand_in(&plays);
        let address = stand_in.line.trim_start_matches("ws://").split('/').next().unwrap();
        let form = format!("source=signalk&address={address}&start=100&back=straight");
        app.post("/rigs/1/live/begin", &form);
        let until = Instant::now() + Duration::from_secs(20);
        let mut text = String::new();
        while text.lines().count() < 40 && Instant::now() < until {
            std::thread::sleep(Duration::from_millis(100));
            text = std::fs::read_to_string(&file).unwrap();
        }
        app.post("/rigs/1/live/drop", "");
        firsts.push(text.lines().take(30).map(str::to_owned).collect::<Vec<_>>());
    }
    assert_eq!(firsts[0], firsts[1]);
    let line: serde_json::Value = serde_json::from_str(&firsts[0][20]).unwrap();
    assert!(
        (0.0..=1.0).contains(&line["charge"].as_f64().unwrap())
            && line["far_m"].as_f64().unwrap() >= 0.0
    );
}

/// Hours of a trip while twenty look on: the server grows by less than 30 MB, and tells each of them once a second.
#[test]
fn a_day_with_twenty_that_look_stays_small() {
    let app = Program::demo();
    app.post("/rigs/1/live/stand-in", "speed=600");
    std::thread::sleep(Duration::from_secs(3));
    let before = app.memory_mb();
    let looks: Vec<_> = (0..20)
        .map(|_| {
            let mut stream = app.connect();
            let ask = format!("GET /rigs/1/live/events HTTP/1.1\r\nHost: {}\r\n\r\n", app.host());
            std::io::Write::write_all(&mut stream, ask.as_bytes()).unwrap();
            std::thread::spawn(move || {
                let (mut all, mut piece) = (0, [0_u8; 4096]);
                let until = Instant::now() + Duration::from_secs(20);
                while Instant::now() < until {
                    all += stream.read(&mut piece).unwrap_or(0);
                }
                all
            })
        })
        .collect();
    let told: Vec<usize> = looks.into_iter().map(|look| look.join().unwrap()).collect();
    assert!(told.iter().all(|bytes| (10_000..80_000).contains(bytes)), "{told:?}");
    let grown = app.memory_mb().saturating_sub(before);
    println!("{before} MB, and {grown} more after three hours with twenty that look");
    assert!(grown < 30, "{before} MB and {grown} more");
    assert_eq!(app.post("/rigs/1/live/end", "").status, 303);
}

/// The clock of a small computer jumps by a year while a trip is under way, or is set back: it ends where it was last heard and is
/// logged so; set back it goes on, and nothing is lost or counted twice.
#[test]
fn a_clock_that_jumps_ends_a_trip_where_it_was_and_one_set_back_changes_nothing() {
    const YEAR: i64 = 366 * 86_400;
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    let start =
        || Program::start(&["serve", "--listen", "127.0.0.1:0", "--db", db.to_str().unwrap()]);
    let shift = |by: i64| {
        let c = rusqlite::Connection::open(&db).unwrap();
        // As if the trip had begun so much earlier is as if the clock had gone on by as much.
        assert_eq!(
            c.execute("UPDATE trip SET began = began - ?1 WHERE ended IS NULL", [by]).unwrap(),
            1
        );
    };
    let face = |page: &str| {
        let json = page.split("data-frame=\"").nth(1).unwrap().split('"').next().unwrap();
        let json = json
            .replace("&#34;", "\"")
            .replace("&quot;", "\"")
            .replace("&#38;", "&")
            .replace("&#39;", "'");
        serde_json::from_str::<serde_json::Value>(&json).unwrap()
    };
    let mut app = start();
    app.post("/start/demo", "");
    app.post("/rigs/1/live/begin", "source=hand&start=100&back=straight");
    app.post("/rigs/1/live/read", "volts=25.2&amps=18");
    let before = face(&app.get("/rigs/1/live").text());
    app.signal("-TERM");
    assert!(app.ends_within(Duration::from_secs(60)).is_some());
    shift(-YEAR);
    let mut app = start();
    let back = face(&app.get("/rigs/1/live").text());
    assert_eq!((&back["charge"], &back["state"]), (&before["charge"], &before["state"]));
    assert!(!app.get("/rigs/1/live").text().contains("where it was last heard"));
    app.signal("-TERM");
    assert!(app.ends_within(Duration::from_secs(60)).is_some());
    // By its own clock it is where it was; by the machine's it is two years later.
    shift(2 * YEAR);
    let app = start();
    let page = app.get("/rigs/1/live").text();
    assert!(page.contains("where it was last heard") && page.contains("366 days"), "{page}");
    let over = face(&page);
    assert_eq!(
        (&over["charge"], &over["falls"], &over["rows"]),
        (&before["charge"], &0.0.into(), &serde_json::json!([]))
    );
    app.post("/rigs/1/live/end", "");
    let log: serde_json::Value = serde_json::from_str(&app.get("/rigs/1/log.json").text()).unwrap();
    let entries = log["entries"].as_array().unwrap();
    let mine: Vec<_> = entries.iter().filter(|e| e["logged"]["name"] == "Under way").collect();
    assert_eq!(mine.len(), 1, "{log}");
    assert!(mine[0]["logged"]["hours"].as_f64().unwrap() < 1.0, "{}", mine[0]);
    assert!(app.get("/rigs/1/live").text().contains("begin-title"), "another can begin");
}
