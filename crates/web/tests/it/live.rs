//! Under way: by hand, from sources that behave and that do not, and what is told each second.

use crate::app::{Answer, HOST, TestApp};
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use futures_util::{SinkExt, StreamExt};
use std::time::Duration;
use tokio::net::TcpListener;
use tokio_tungstenite::tungstenite::Message;

impl TestApp {
    /// What is told next, each as it comes over the wire.
    async fn told(&self, count: usize) -> Vec<String> {
        let request = Request::get("/rigs/1/live/events").header(header::HOST, HOST);
        let request = request.body(Body::empty()).unwrap();
        let response = tower::ServiceExt::oneshot(self.router.clone(), request).await.unwrap();
        assert_eq!(response.status(), StatusCode::OK);
        let mut stream = response.into_body().into_data_stream();
        let mut all = Vec::new();
        while all.len() < count {
            let piece = tokio::time::timeout(Duration::from_secs(8), stream.next()).await;
            let piece = piece.expect("in time").expect("goes on").unwrap();
            all.push(String::from_utf8(piece.to_vec()).unwrap());
        }
        all
    }

    async fn face(&self) -> serde_json::Value {
        let told = self.told(1).await.remove(0);
        serde_json::from_str(told.trim().strip_prefix("data: ").expect("data")).unwrap()
    }

    /// Asks until something is so.
    async fn until(
        &self,
        what: &str,
        is: impl Fn(&serde_json::Value) -> bool,
    ) -> serde_json::Value {
        for _ in 0..60 {
            let face = self.face().await;
            if is(&face) {
                return face;
            }
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        panic!("never {what}: {}", self.face().await);
    }
}

/// A meter far under a start that was called full is asked about at once, and the lower counts on until it is answered.
#[tokio::test]
async fn of_a_meter_and_a_count_that_clash_it_is_asked_which_is_right() {
    for (right, low, high) in
        [("percent", 20.0, 30.0), ("count", 90.0, 100.0), ("unsure", 20.0, 30.0)]
    {
        let app = TestApp::with_demo().await;
        app.post("/rigs/1/live/begin", "source=hand&start=100&back=straight").await;
        let page = app.post("/rigs/1/live/read", "meter=25&gauge=bms&far=2+mi").await;
        assert_eq!(page.status, StatusCode::SEE_OTHER);
        let page = app.get("/rigs/1/live").await;
        let charge = |page: &Answer| page.text("[data-face=charge]").parse::<f64>().unwrap();
        assert!((20.0..=30.0).contains(&charge(&page)), "{}", charge(&page));
        let asked = page.text("#live-ask");
        assert!(asked.contains("25 %") && page.texts("#form-right button").len() == 3, "{asked}");
        let face = app.face().await;
        assert_eq!(face["asks"], 1);
        assert!(face["water"][2].as_f64().unwrap() > 0.95, "{face}");
        app.post("/rigs/1/live/right", &format!("right={right}")).await;
        let page = app.get("/rigs/1/live").await;
        assert!(page.texts("#live-ask").is_empty(), "answered");
        assert!((low..=high).contains(&charge(&page)), "{right}: {}", charge(&page));
        assert_eq!(page.text("[data-face=note]").contains("the lower"), right == "unsure");
        // The kind of meter is asked once.
        let page = app.get("/rigs/1/live?open=reading").await;
        assert_eq!(page.attribute("#read-gauge option[selected]", "value").as_deref(), Some("bms"));
        // And told again after a restart it is the same.
        assert_eq!(app.face().await["asks"], 0);
    }
}

/// A start left blank is not full: nothing is known until something is read.
#[tokio::test]
async fn a_start_left_blank_is_what_the_log_knows_or_not_said() {
    let app = TestApp::with_demo().await;
    // A pack of the Board that is in no log.
    let page = app.get("/rigs/1/live").await;
    let new = page.attribute("#begin-of option[value^=pack-]", "value").expect("one not owned");
    app.post("/rigs/1/live/begin", &format!("source=hand&start=&back=straight&of={new}")).await;
    let face = app.face().await;
    let water = |n: usize| face["water"][n].as_f64().unwrap();
    assert!(water(1) < 0.3 && water(2) > 0.95, "{face}");
    assert!(face["sure"].as_str().unwrap().contains("nobody said"), "{face}");
    // The one in the log: what was left of its last outing, or was charged since.
    let app = TestApp::with_demo().await;
    let outing = "date=2026-09-22&of=pack-3&by=meter&end=43+Ah+used&hours=7";
    app.post("/rigs/1/log/new/log-outing?page=log", outing).await;
    assert!(app.get("/rigs/1/live").await.text("#begin-blank").contains("your log"));
    app.post("/rigs/1/live/begin", "source=hand&back=straight").await;
    let face = app.face().await;
    assert!(face["sure"].as_str().unwrap().contains("your log"), "{face}");
}

#[tokio::test]
async fn by_hand_two_figures_are_enough_and_the_outing_is_in_the_log() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/live").await;
    let packs = page.texts("#begin-of option");
    assert!(page.text("h1").contains("Under way") && packs[0].contains("tired AGM"), "{packs:?}");
    for (form, field) in [
        ("source=hand&start=0&back=straight", "begin-start"),
        ("source=hand&start=a+lot&back=straight", "begin-start"),
        ("source=signalk&address=8.8.8.8&back=straight", "begin-address"),
        ("source=signalk&address=&back=straight", "begin-address"),
        ("source=file&path=%2Fetc%2Fpasswd&back=straight", "begin-path"),
        ("source=file&path=nowhere.csv&back=straight", "begin-path"),
        ("source=magic&back=straight", "begin-source"),
        ("source=hand&back=sideways", "begin-back"),
        ("source=hand&back=straight&warm=9000", "begin-warm"),
    ] {
        let refused = app.swap("/rigs/1/live/begin", form).await;
        assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY, "{form}");
        assert!(refused.texts(&format!("#{field}-problem"))[0].len() > 15, "{form}");
    }
    app.post("/rigs/1/live/begin", "source=hand&start=90&back=straight").await;
    let page = app.get("/rigs/1/live").await;
    let charge: f64 = page.text("[data-face=charge]").parse().unwrap();
    assert!(
        (86.0..=91.0).contains(&charge) && page.text("[data-face=sure]").contains("by your plan")
    );
    assert_eq!(page.texts("[data-rows] li").len(), 4);
    let again = app.swap("/rigs/1/live/begin", "source=hand&back=straight").await;
    assert!(again.body.contains("[data-face") || again.body.contains("data-face"), "one at a time");
    // What the meter says counts; nothing, volts of another system, and what cannot be, is refused beside the field.
    for form in [
        "",
        "gauge=bms",
        "volts=9999",
        "volts=51.2",
        "meter=140",
        "meter=9&gauge=dial",
        "volts=x",
        "far=-3",
    ] {
        let refused = app.swap("/rigs/1/live/read", form).await;
        assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY, "{form}");
        assert!(!refused.texts(".problem").is_empty(), "{form}");
    }
    // Who is sure of them has them shown, and the charge does not follow them.
    let before = app.face().await["charge"].clone();
    assert!(app.get("/rigs/1/live?open=reading").await.texts("#read-sure").is_empty());
    let asked = app.swap("/rigs/1/live/read", "volts=51.2").await;
    assert!(asked.attribute("#read-sure", "type").is_some(), "asked whether it is so");
    app.post("/rigs/1/live/read", "volts=51.2&sure=on").await;
    let face = app.face().await;
    assert!(face["cells"].to_string().contains("51.2 V"), "{face}");
    assert_eq!((&face["charge"], &face["asks"]), (&before, &serde_json::json!(0)));
    app.post("/rigs/1/live/read", "meter=60&far=2+mi").await;
    let face = app.face().await;
    let now: f64 = face["charge"].as_str().unwrap().parse().unwrap();
    assert!(now < charge - 5.0, "{charge} to {now}");
    assert!(face["cells"].to_string().contains("2 mi"), "{face}");
    app.post("/rigs/1/live/read", "volts=23.9&amps=17").await;
    let face = app.face().await;
    assert!(
        face["cells"].to_string().contains("17 A") && face["cells"].to_string().contains("23.9 V")
    );
    // Where no setting gets home none is named, before any warning has waited long enough.
    app.post("/rigs/1/live/read", "far=200+mi").await;
    let face = app.face().await;
    assert!(face["headline"].as_str().unwrap().contains("unlikely"), "{face}");
    assert!(!face["sub"].as_str().unwrap().contains("setting"), "{face}");
    // What is off has no pace.
    app.post("/rigs/1/live/read", "volts=0").await;
    let face = app.face().await;
    assert_eq!((&face["pace_hours"], &face["pace_far"]), (&"off".into(), &"".into()));
    app.post("/rigs/1/live/read", "far=2+mi&volts=24.5").await;
    app.post("/rigs/1/live/home", "").await;
    let face = app.face().await;
    assert!(face["headline"].as_str().unwrap().starts_with("Home "), "{face}");
    let ended = app.post("/rigs/1/live/end", "").await;
    assert_eq!(ended.status, StatusCode::SEE_OTHER);
    let log = app.get("/rigs/1/log").await;
    let rows = log.texts(".log-rows tbody tr");
    assert!(rows.iter().any(|row| row.contains("Under way")), "{rows:?}");
    // Undo takes the outing away; the trip is still there to be seen again.
    assert!(app.get("/rigs/1/live").await.texts(".live-over a").len() == 1);
}

/// The page as it is loaded and what is told each second are the same words, and few of them.
#[tokio::test]
async fn the_page_and_what_is_told_are_the_same_words_and_small() {
    let app = TestApp::with_demo().await;
    app.post("/rigs/1/live/stand-in", "speed=600").await;
    app.until("heard", |f| f["state"] == "live").await;
    for told in app.told(3).await {
        assert!(told.len() < 2048, "{} bytes: {told}", told.len());
    }
    let page = app.get("/rigs/1/live").await;
    let frame: serde_json::Value =
        serde_json::from_str(&page.attribute("#live", "data-frame").unwrap()).unwrap();
    for key in ["clock", "heard", "headline", "sub", "charge", "sure", "pace_hours", "note"] {
        assert_eq!(
            page.text(&format!("[data-face={key}]")),
            frame[key].as_str().unwrap().trim(),
            "{key}"
        );
    }
    let rows: Vec<String> = frame["rows"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| format!("{} {}", r["gear"].as_str().unwrap(), r["says"].as_str().unwrap()))
        .collect();
    assert_eq!(page.texts("[data-rows] li"), rows);
    assert!(page.text("[data-face=sure]").contains("since full"));
    // A swap is the same page.
    let swapped = app.swap("/rigs/1/live/home", "").await;
    assert!(swapped.body.contains("<title>") && swapped.body.contains("id=\"live-out\""));
    app.post("/rigs/1/live/drop", "").await;
    let page = app.get("/rigs/1/live").await;
    assert!(page.texts("#begin-title").len() == 1 && page.texts(".live-over a").is_empty());
    let gone = app.get("/rigs/1/live/events").await;
    assert_eq!(gone.status, StatusCode::NOT_FOUND);
}

/// A server that says what it likes: answers each that listens with these, and then what comes of its turn.
async fn says(all: Vec<Message>) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap().to_string();
    tokio::spawn(async move {
        while let Ok((stream, _)) = listener.accept().await {
            let Ok(mut socket) = tokio_tungstenite::accept_async(stream).await else { continue };
            for message in &all {
                if socket.send(message.clone()).await.is_err() {
                    break;
                }
            }
            // It stays, and says no more.
            tokio::spawn(async move { while socket.next().await.is_some() {} });
        }
    });
    address
}

fn delta(values: &str) -> Message {
    Message::text(format!(r#"{{"context":"vessels.self","updates":[{{"values":[{values}]}}]}}"#))
}

fn battery(id: &str, volts: f64, amps: f64) -> Message {
    delta(&format!(
        r#"{{"path":"electrical.batteries.{id}.voltage","value":{volts}}},{{"path":"electrical.batteries.{id}.current","value":{amps}}}"#
    ))
}

#[tokio::test]
async fn garbage_floods_and_giants_end_no_trip() {
    let app = TestApp::with_demo().await;
    let mut all = vec![Message::text("{\"not\": ")];
    all.extend((0..3000).map(|n| battery("house", 24.9, -10.0 - f64::from(n % 3))));
    all.push(delta(r#"{"path":"electrical.batteries.house.voltage","value":null}"#));
    all.push(delta(r#"{"path":"electrical.batteries.house.current","value":"NaN"}"#));
    all.push(Message::binary(vec![7; 1000]));
    all.push(Message::text("x".repeat(2 << 20)));
    let address = says(all).await;
    app.post(
        "/rigs/1/live/begin",
        &format!("source=signalk&address={address}&start=100&back=straight"),
    )
    .await;
    let face = app.until("heard", |f| f["cells"].to_string().contains("24.9 V")).await;
    assert!(face["charge"].as_str().unwrap().parse::<f64>().unwrap() > 90.0);
    // It hung up over the giant: said, tried again, and what is left goes on.
    app.until("lost or again", |f| {
        f["note"].to_string().contains("tells more") || f["state"] == "lost"
    })
    .await;
    let page = app.get("/rigs/1/live").await;
    assert!(page.text(".live-menu").contains("Signal K at 127.0.0.1"));
    assert_eq!(app.post("/rigs/1/live/end", "").await.status, StatusCode::SEE_OTHER);
}

/// Two batteries: it is asked which is which, once; the next trip knows.
#[tokio::test]
async fn of_several_batteries_it_is_asked_which_is_which() {
    let app = TestApp::with_demo().await;
    let both = vec![battery("bow", 12.4, -17.0), battery("stern", 12.1, -17.0)];
    let address = says(both).await;
    app.post(
        "/rigs/1/live/begin",
        &format!("source=signalk&address={address}&start=100&back=straight"),
    )
    .await;
    let mut page = app.get("/rigs/1/live").await;
    for _ in 0..40 {
        if page.texts(".live-which p").len() == 2 {
            break;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
        page = app.get("/rigs/1/live").await;
    }
    assert!(page.texts(".live-which label")[0].contains("bow 12.4 V, 17 A"), "{}", page.body);
    app.post("/rigs/1/live/which", "which_0=unit-1&which_1=unit-2").await;
    let page = app.get("/rigs/1/live").await;
    assert!(page.texts(".live-which").is_empty());
    assert_eq!(app.get("/rigs/1/live/which").await.status, StatusCode::SEE_OTHER);
    // The next trip with it knows.
    app.post("/rigs/1/live/end", "").await;
    app.post(
        "/rigs/1/live/begin",
        &format!("source=signalk&address={address}&start=100&back=straight"),
    )
    .await;
    let face = app.until("both together", |f| f["cells"].to_string().contains("24.5 V")).await;
    assert_eq!(face["asks"], 0, "{face}");
}

/// A table that a monitor goes on writing.
#[tokio::test]
async fn a_file_that_grows_is_followed() {
    let app = TestApp::with_demo().await;
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("monitor.csv");
    std::fs::write(&path, "Time,Voltage (V),Current (A)\n2026-09-22 07:00:00,25.1,-12.0\n")
        .unwrap();
    let form = format!("source=file&path={}&back=track", path.display());
    app.post("/rigs/1/live/begin", &form).await;
    app.until("heard", |f| f["cells"].to_string().contains("25.1 V")).await;
    let more = std::fs::OpenOptions::new().append(true).open(&path);
    std::io::Write::write_all(
        &mut more.unwrap(),
        b"2026-09-22 07:00:02,24.6,-30.0\n2026-09-22 07:0",
    )
    .unwrap();
    app.until("grown", |f| f["cells"].to_string().contains("24.6 V")).await;
    std::fs::remove_file(&path).unwrap();
    app.until("lost", |f| f["state"] == "lost").await;
}

/// A drawn way home: its length counts, with its grades; another file is refused in words.
#[tokio::test]
async fn a_route_home_is_taken_from_a_file() {
    let app = TestApp::with_demo().await;
    app.post("/rigs/1/live/stand-in", "speed=120").await;
    let refused = app.upload("/rigs/1/live/route", "x.gpx", b"<nothing/>").await;
    assert!(refused.status.is_redirection() || refused.body.contains("Not taken"));
    let points: String = (0..30)
        .map(|n| {
            format!(
                "<trkpt lat=\"{}\" lon=\"-72.604\"><ele>{n}</ele></trkpt>",
                44.213 + f64::from(n) * 1e-3
            )
        })
        .collect();
    let gpx = format!(
        "<gpx version=\"1.1\" creator=\"t\" xmlns=\"http://www.topografix.com/GPX/1/1\"><trk><trkseg>{points}</trkseg></trk></gpx>"
    );
    app.upload("/rigs/1/live/route", "home.gpx", gpx.as_bytes()).await;
    let page = app.get("/rigs/1/live").await;
    assert!(
        page.text(".live-menu").contains("the route of your file"),
        "{}",
        page.text(".live-menu")
    );
    app.post("/rigs/1/live/back/track", "").await;
    assert!(!app.get("/rigs/1/live").await.text(".live-menu").contains("route of your file"));
}

/// Not shared: the page says how, and there is no code to be had.
#[tokio::test]
async fn unshared_nothing_is_offered() {
    let app = TestApp::with_demo().await;
    let page = app.get("/share").await;
    assert!(page.text("main").contains("serve --share") && page.texts("#share-code").is_empty());
    assert!(app.get("/manifest.webmanifest").await.header("content-type").contains("manifest"));
    assert!(app.get("/worker.js").await.header("content-type").contains("javascript"));
}
