//! What goes wrong on machines and networks: slow, stalled, cut off, all at once.

use crate::program::{Program, command};
use std::io::{Read, Write};
use std::path::Path;
use std::time::Duration;

/// Every page and every file comes to its end, however a client says that it may be packed.
#[test]
fn every_address_answers_whole_to_a_client_that_unpacks() {
    let app = Program::demo();
    let addresses = [
        "/",
        "/rigs",
        "/plan",
        "/healthz",
        "/rigs/1/rig",
        "/rigs/1/day",
        "/rigs/1/shelf",
        "/rigs/1/packs",
        "/rigs/1/packs?pack=1-2x1&hand=yes&beside=1-2x1_4-2x2",
        "/rigs/1/packs/wiring.svg?pack=1-2x1",
        "/rigs/1/board",
        "/rigs/1/board?open=working-1",
        "/rigs/1/board?open=day",
        "/rigs/1/packs?fits=yes",
        "/rigs/1/shelf?open=paste",
        "/rigs/1/shelf?open=files",
        "/rigs/1/day?open=stretch-1",
        "/rigs/1/plan.json",
        "/rigs/1/shelf.csv",
        "/rigs/1/shelf.json",
        "/rigs/1/day.gpx",
        "/rigs/1/now",
        "/rigs/77/board",
        "/nowhere",
        "/assets/app.css",
        "/assets/app.js",
        "/assets/vendor/htmx.min.js",
        "/assets/icon.svg",
        "/assets/fonts/sofia-sans-semi-condensed.woff2",
    ];
    for address in addresses {
        let plain = app.get(address);
        for packing in ["gzip", "br", "gzip, deflate, br, zstd"] {
            let packed = app.ask("GET", address, &format!("Accept-Encoding: {packing}\r\n"), b"");
            assert_eq!(packed.status, plain.status, "{address} {packing}");
            assert_eq!(packed.text(), plain.text(), "{address} {packing}");
        }
    }
    assert!(app.get("/rigs/1/shelf.csv").text().lines().count() > 20);
    let shelf: serde_json::Value =
        serde_json::from_str(&app.get("/rigs/1/shelf.json").text()).unwrap();
    assert!(shelf["batteries"].as_array().unwrap().len() > 20);
}

/// Downloads that nobody takes hold nobody up.
#[test]
fn stalled_downloads_hold_nobody_up() {
    let folder = tempfile::tempdir().unwrap();
    let app = Program::serve(&folder.path().join("mine.db"));
    app.post("/start/own", "");
    fill(&app, 20_000);
    let stalled: Vec<_> = (0..20)
        .map(|n| {
            let mut stream = app.connect();
            let file = if n % 2 == 0 { "csv" } else { "json" };
            write!(stream, "GET /rigs/1/shelf.{file} HTTP/1.1\r\nHost: {}\r\n\r\n", app.host())
                .unwrap();
            stream
        })
        .collect();
    for page in ["board", "shelf", "day", "shelf?q=reed+77"] {
        assert_eq!(app.get(&format!("/rigs/1/{page}")).status, 200, "{page}");
    }
    let change = app.post("/rigs/1/template", "template=none");
    assert_eq!(change.status, 400, "a change is answered meanwhile");
    assert_eq!(app.post("/rigs/1/shelf/1/hide", "").status, 303, "and made");
    let whole = app.get("/rigs/1/shelf.csv");
    assert_eq!(whole.text().lines().count(), 20_001);
    drop(stalled);
}

/// A shelf of invented batteries, by its own file.
fn fill(app: &Program, count: usize) {
    let mut text = String::from("name,chemistry,nominal_voltage_v,capacity_ah,price\n");
    for n in 0..count {
        text.push_str(&format!("Reed {n},lfp,12.8,{},{}\n", 20 + n % 200, 150 + n % 700));
    }
    let sent = app.send_file("/rigs/1/shelf/file", "reeds.csv", text.as_bytes());
    let waiting = sent.leads_to();
    let number = waiting.split("file-").nth(1).unwrap().split('&').next().unwrap().to_owned();
    until(|| app.get(&waiting).text().contains("files/"));
    until(|| app.get(&waiting).text().contains("/take"));
    app.post(&format!("/rigs/1/shelf/files/{number}/take"), "");
    let shown = format!("of {count} batteries");
    until(|| app.get("/rigs/1/shelf?q=reed+1").text().contains(&shown));
}

/// Waits for what comes by itself.
fn until(mut done: impl FnMut() -> bool) {
    for _ in 0..2400 {
        if done() {
            return;
        }
        std::thread::sleep(Duration::from_millis(50));
    }
    panic!("it never came");
}

/// Whatever hangs on it, it ends when it is told to; asked twice it does not even wait.
#[test]
fn it_ends_when_it_is_told_to() {
    let folder = tempfile::tempdir().unwrap();
    for (signal, twice) in [("-TERM", false), ("-INT", false), ("-INT", true)] {
        let db = folder.path().join(format!("mine{signal}{twice}.db"));
        let mut app = Program::serve(&db);
        app.post("/start/own", "");
        fill(&app, 5000);
        let mut half = app.connect();
        half.write_all(b"POST /rigs/1/rules HTTP/1.1\r\nHost: x\r\nContent-Len").unwrap();
        let mut body = app.connect();
        write!(
            body,
            "POST /rigs/1/rules HTTP/1.1\r\nHost: {}\r\nContent-Length: 99\r\n\r\nres",
            app.host()
        )
        .unwrap();
        let mut stalled = app.connect();
        write!(stalled, "GET /rigs/1/shelf.json HTTP/1.1\r\nHost: {}\r\n\r\n", app.host()).unwrap();
        let idle = app.connect();
        std::thread::sleep(Duration::from_millis(200));
        app.signal(signal);
        if twice {
            std::thread::sleep(Duration::from_millis(200));
            app.signal(signal);
        }
        let longest = Duration::from_secs(if twice { 3 } else { 9 });
        let ended = app.ends_within(longest).expect("it hangs");
        if !twice {
            assert!(ended.success(), "{ended}");
            let beside = [format!("{}-wal", db.display()), format!("{}-shm", db.display())];
            assert!(!beside.iter().any(|f| Path::new(f).exists()), "the one file is whole");
        }
        drop((half, body, stalled, idle));
    }
}

/// A request that never comes to its end is given up, and so is a connection that asks nothing.
#[test]
fn half_a_request_is_given_up() {
    let app = Program::demo();
    let halves: Vec<_> = (0..300)
        .map(|n| {
            let mut stream = app.connect();
            if n % 2 == 0 {
                stream.write_all(b"GET /rigs/1/board HTTP/1.1\r\nHost: 127.0").unwrap();
            }
            stream
        })
        .collect();
    assert_eq!(app.get("/rigs/1/board").status, 200);
    assert!(app.memory_mb() < 150, "{} MB", app.memory_mb());
    for mut stream in halves {
        let mut rest = Vec::new();
        // Closed or reset: both are an end. A timeout of the read would be none.
        let ended = stream.read_to_end(&mut rest);
        let stuck = ended.is_err_and(|e| e.kind() == std::io::ErrorKind::WouldBlock);
        assert!(!stuck, "it hangs on");
        assert!(!rest.starts_with(b"HTTP/1.1 200"));
    }
}

/// A first-time user's way: edits, a file out and in again, a stop, a copy of the one file elsewhere.
#[test]
fn everything_is_there_after_a_stop_and_a_move() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("mine.db");
    let mut app = Program::serve(&db);
    app.post("/start/demo", "");
    assert_eq!(app.post("/rigs/1/packs/1/copy", "").status, 303);
    app.post("/rigs/1/shelf/1/hide", "");
    let (shelf, plan) = (app.get("/rigs/1/shelf.csv").text(), app.get("/rigs/1/plan.json").text());
    let sent = app.send_file("/rigs/1/shelf/file", "mine.csv", shelf.as_bytes());
    let looked = app.get(&sent.leads_to()).text();
    for nothing in ["added", "changed", "with faults, skipped"] {
        assert!(looked.contains(&format!("<dt>{nothing}</dt><dd>0</dd>")), "{nothing}");
    }
    let board = app.get("/rigs/1/board").text();
    app.signal("-TERM");
    assert!(app.ends_within(Duration::from_secs(9)).is_some_and(|s| s.success()));
    let elsewhere = folder.path().join("elsewhere.db");
    std::fs::copy(&db, &elsewhere).unwrap();
    let moved = Program::serve(&elsewhere);
    assert_eq!(moved.get("/rigs/1/shelf.csv").text(), shelf);
    assert_eq!(moved.get("/rigs/1/plan.json").text(), plan);
    assert_eq!(moved.get("/rigs/1/board").text(), board);
}

/// What is asked in the wrong way, or from elsewhere, is refused in words.
#[test]
fn what_is_asked_in_the_wrong_way_is_refused() {
    let app = Program::demo();
    let wrong = app.ask("DELETE", "/rigs/1/board", &format!("Origin: {}\r\n", app.address), b"");
    assert_eq!(wrong.status, 405);
    assert!(wrong.head.contains("allow: get,head"), "{}", wrong.head);
    assert!(wrong.text().contains("not used that way"));
    for gone in ["/rigs/99/shelf.csv", "/rigs/99/shelf.json", "/rigs/99/plan.json", "/rigs/99/now"]
    {
        assert_eq!(app.get(gone).status, 404, "{gone}");
    }
    let form = "Content-Type: application/x-www-form-urlencoded\r\n";
    let here = format!("Origin: {}\r\n", app.address);
    for from in [
        "Origin: http://\u{e9}vil\r\n".to_owned(),
        "Origin: null\r\n".to_owned(),
        "Origin: http://elsewhere:80\r\n".to_owned(),
        format!("{here}Sec-Fetch-Site: cross-site\r\n"),
        "Sec-Fetch-Site: same-site\r\n".to_owned(),
    ] {
        let refused = app.ask("POST", "/rigs/1/packs/1/copy", &format!("{form}{from}"), b"");
        assert_eq!(refused.status, 403, "{from}");
    }
    let same = format!("{form}{here}Sec-Fetch-Site: same-origin\r\n");
    assert_eq!(app.ask("POST", "/rigs/1/packs/1/copy", &same, b"").status, 303);
}

/// What it prints can be opened, and what it logs off a terminal has no colours.
#[test]
fn what_listens_everywhere_says_where_it_answers() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("mine.db");
    let app = Program::start(&["serve", "--listen", "0.0.0.0:0", "--db", db.to_str().unwrap()]);
    assert!(app.address.starts_with("http://127.0.0.1:"), "{}", app.address);
    assert_eq!(app.get("/rigs").status, 200);
    drop(app);
    std::fs::write(folder.path().join("notes.db"), "only some notes".repeat(80)).unwrap();
    for (listen, db, says) in [
        ("127.0.0.1:0", "notes.db", "it is no Lake Hour database; name another file with --db"),
        ("192.0.2.1:1", "other.db", "cannot listen on 192.0.2.1:1"),
        ("127.0.0.1:0", "notes.db/inside.db", "cannot make the folder"),
    ] {
        let ended = command()
            .args(["serve", "--listen", listen, "--db"])
            .arg(folder.path().join(db))
            .output()
            .unwrap();
        assert_eq!(ended.status.code(), Some(1));
        let said = String::from_utf8(ended.stderr).unwrap();
        assert!(said.contains(says) && !said.contains('\u{1b}'), "{said}");
        assert_eq!(said.lines().count(), 1, "one line for a fault: {said}");
    }
}

/// Two browsers change different parts of one rig at the same moment, 150 times: each time both changes
/// are there. What is sent says, as the pages' script does, which fields were typed in.
#[test]
fn two_changes_at_the_same_moment_are_both_there() {
    let app = Program::demo();
    let send = |path: &str, field: &str, n: u32| {
        let seen = format!("%7B%22touched%22:%5B%22{field}%22%5D,%22was%22:%7B%7D%7D");
        app.post(path, &format!("{field}={n}&seen={seen}&units=us"))
    };
    for n in 1..=150 {
        let (people, most) = (n % 8 + 1, n + 46);
        let answers = std::thread::scope(|scope| {
            let one = scope.spawn(|| send("/rigs/1/craft", "people", people));
            let other = scope.spawn(|| send("/rigs/1/motor", "max", most));
            [one.join().unwrap(), other.join().unwrap()]
        });
        assert!(answers.iter().all(|a| a.status == 303), "{}", answers[0].text());
        let plan = app.get("/rigs/1/plan.json").text();
        let rig = &serde_json::from_str::<serde_json::Value>(&plan).unwrap()["rig"];
        assert_eq!(rig["craft"]["people"].as_f64(), Some(f64::from(people)), "pair {n}");
        assert_eq!(rig["motor"]["max_current_a"].as_f64(), Some(f64::from(most)), "pair {n}");
    }
}

/// A file that is being taken is taken, however many others are sent meanwhile; those only looked at give
/// way.
#[test]
fn a_file_being_taken_is_not_called_off_by_others() {
    let folder = tempfile::tempdir().unwrap();
    let app = Program::serve(&folder.path().join("mine.db"));
    app.post("/start/own", "");
    let mut text = String::from("name,chemistry,nominal_voltage_v,capacity_ah\n");
    (0..30_000).for_each(|n| text.push_str(&format!("Reed {n},lfp,12.8,100\n")));
    let waiting = app.send_file("/rigs/1/shelf/file", "reeds.csv", text.as_bytes()).leads_to();
    until(|| app.get(&waiting).text().contains("files/1/take"));
    app.post("/rigs/1/shelf/files/1/take", "");
    for n in 0..6 {
        let other = format!("name,chemistry,nominal_voltage_v,capacity_ah\nTeal {n},lfp,12.8,50\n");
        let sent = app.send_file("/rigs/1/shelf/file", "teal.csv", other.as_bytes());
        assert_eq!(sent.status, 303);
    }
    until(|| app.get(&waiting).text().contains("Take all of it back"));
    assert!(app.get("/rigs/1/shelf?q=reed+29999").text().contains("1 of 30000 batteries"));
    assert!(app.get("/rigs/1/shelf?open=file-2").text().contains("no longer held"), "the oldest");
}

/// A page that did not change is not sent again; what carries its mark is kept for a year, and nothing else.
#[test]
fn what_did_not_change_is_not_sent_again() {
    let app = Program::demo();
    let tag = |answer: &crate::program::Answer| {
        answer.head.split("etag: ").nth(1).unwrap().split('\r').next().unwrap().to_owned()
    };
    for page in ["/rigs/1/board", "/rigs/1/shelf", "/rigs", "/rigs/1/day?open=stretch-1"] {
        let first = app.get(page);
        let has = format!("If-None-Match: {}\r\n", tag(&first).replace("w/", "W/"));
        let again = app.ask("GET", page, &has, b"");
        assert_eq!((again.status, again.body.len()), (304, 0), "{page}");
        assert!(first.head.contains("cache-control: private, no-cache"), "{}", first.head);
        app.post("/rigs/1/packs/1/copy", "");
        app.post("/rigs/1/shelf/1/copy", "");
        app.post("/rigs/1/stretches/1/copy", "");
        if page != "/rigs" {
            assert_eq!(app.ask("GET", page, &has, b"").status, 200, "{page} is another by now");
        }
    }
    let page = app.get("/rigs/1/board").text();
    let marked: Vec<_> = page.split('"').filter(|part| part.starts_with("/assets/")).collect();
    assert!(marked.len() >= 8, "{marked:?}");
    for address in marked {
        let asset = app.get(address);
        assert!(asset.head.contains("max-age=31536000, immutable"), "{address}");
        let plain = app.get(address.split('?').next().unwrap());
        assert!(plain.head.contains("cache-control: no-cache"), "{address}");
        let other = app.get(&format!("{}?v=000000000000", address.split('?').next().unwrap()));
        assert!(other.head.contains("cache-control: no-cache"), "another version is not kept");
    }
    let styles = app.get("/assets/app.css").text();
    let fonts = styles.split("url(").skip(1).filter_map(|part| part.split(')').next());
    for font in fonts.filter(|f| f.contains("woff2")) {
        // Letters that few pages need are asked for when one does.
        let preloaded = page.contains(font.trim_matches('"'));
        assert_eq!(preloaded, !font.contains("-more"), "{font}, under the same address");
        assert!(app.get(font.trim_matches('"')).head.contains("immutable"), "{font}");
    }
}

/// A damaged pack, stretch, battery or frame is shown with its text; the rest of the pages lives.
#[test]
fn what_is_damaged_is_shown_with_its_text() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("mine.db");
    let app = Program::serve(&db);
    app.post("/start/demo", "");
    app.post("/start/demo-cart", "");
    let raw = rusqlite::Connection::open(&db).unwrap();
    raw.execute("UPDATE pack SET body = '{\"mast\": \"oak\"}' WHERE id = 2", []).unwrap();
    raw.execute("UPDATE stretch SET body = '{\"minutes\": -1}' WHERE id = 3", []).unwrap();
    raw.execute("UPDATE battery SET body = '{\"keel\": 1}' WHERE name LIKE 'Heron%'", []).unwrap();
    raw.execute("UPDATE rig SET frame = '{\"rudder\": 1}' WHERE id = 2", []).unwrap();
    let board = app.get("/rigs/1/board");
    assert_eq!(board.status, 200);
    let text = board.text();
    assert!(text.contains("A pack cannot be read any more") && text.contains("oak"));
    assert!(text.contains("A stretch cannot be read any more"));
    // With the reason, and its whole text to save.
    assert!(text.contains("unknown field") && text.contains("/rigs/1/kept/pack/2"), "{text}");
    let kept = app.get("/rigs/1/kept/pack/2");
    assert_eq!((kept.status, kept.text().as_str()), (200, "{\"mast\": \"oak\"}"));
    assert!(kept.head.contains("attachment"), "{}", kept.head);
    for gone in ["/rigs/1/kept/pack/999", "/rigs/2/kept/pack/2", "/rigs/1/kept/mast/2"] {
        assert_eq!(app.get(gone).status, 404, "{gone}");
    }
    assert!(text.contains("Tern 24-120"), "the others are there");
    let shelf = app.get("/rigs/1/shelf?q=heron").text();
    assert!(shelf.contains("A battery cannot be read any more") && shelf.contains("keel"));
    let saved = app.get("/rigs/1/shelf.csv");
    assert_eq!((saved.status, saved.text().contains("Heron 24-50")), (200, false));
    assert!(app.get("/rigs/1/shelf").text().contains("lacks what cannot be read: Heron"));
    assert_eq!(app.post("/rigs/1/packs/2/remove", "").status, 303);
    assert!(!app.get("/rigs/1/board").text().contains("oak"), "it can be removed");
    let frame = app.get("/rigs/2/board");
    assert!(frame.status == 500 && frame.text().contains("rudder"), "{}", frame.text());
    assert!(frame.text().contains("/rigs/2/kept/rig/2"), "{}", frame.text());
    // The shelf is no part of the rig: all its pages are there, and its batteries can be changed.
    let open = app.get("/rigs/2/shelf?q=marl").text();
    assert!(open.contains("Marl") && open.contains("A rig cannot be read any more"), "{open}");
    for path in ["shelf", "shelf.csv", "shelf.json", "shelf?open=files", "shelf?by=usable"] {
        assert_eq!(app.get(&format!("/rigs/2/{path}")).status, 200, "{path}");
    }
    let form = "name=Reed+5&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=50";
    assert_eq!(app.post("/rigs/2/shelf", form).status, 303);
    assert!(app.get("/rigs/1/shelf?q=reed+5").text().contains("Reed 5"));
    assert_eq!(app.get("/rigs/2/kept/rig/2").text(), "{\"rudder\": 1}");
    assert!(app.get("/rigs").text().contains("Heron Pond campground cart"));
    assert_eq!(app.get("/rigs/1/day").status, 200);
}

/// A disk that takes no more is said in words; what was called saved is there when it has room again.
#[cfg(unix)]
#[test]
fn a_full_disk_is_told_and_loses_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("mine.db");
    let mut saved = Vec::new();
    {
        let app = Program::serve_within(&db, 1_000);
        assert_eq!(app.post("/start/own", "").status, 303);
        let refused = (0..2_000).find_map(|n| {
            let form = format!("name=Heron+{n}&chemistry=agm&nominal_voltage_v=12&capacity_ah=70");
            let answer = app.post("/rigs/1/shelf", &form);
            if answer.status == 303 {
                saved.push(format!("Heron {n}"));
            }
            (answer.status != 303).then_some(answer)
        });
        let refused = refused.expect("at some time it is full");
        assert_eq!(refused.status, 507, "{}", refused.text());
        let says = refused.text();
        assert!(says.contains("disk") && says.contains("free space"), "{says}");
        // Everything can still be looked at, and saved elsewhere.
        assert_eq!(app.get("/rigs/1/board").status, 200);
        assert!(app.get("/rigs/1/shelf.csv").text().lines().count() > saved.len());
    }
    let app = Program::serve(&db);
    let shelf = app.get("/rigs/1/shelf.csv").text();
    for name in &saved {
        assert!(shelf.contains(&format!("{name},")), "{name} was called saved");
    }
    assert_eq!(
        app.post("/rigs/1/shelf", "name=Late&chemistry=agm&nominal_voltage_v=12&capacity_ah=70")
            .status,
        303
    );
}
