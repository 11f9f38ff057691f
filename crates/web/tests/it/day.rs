//! The Day: its picture, its stretches, its weather, its devices, tracks and what-ifs.

use crate::app::{Answer, HOST, TestApp};
use axum::body::Body;
use axum::http::{StatusCode, header};

const DAY: &str = "/rigs/1/day";

#[tokio::test]
async fn a_stretch_says_what_it_comes_to_in_the_units_shown() {
    let app = TestApp::with_demo().await;
    let page = app.get(&format!("{DAY}?open=stretch-1")).await;
    assert_eq!(page.attribute("#stretch-amount", "value").as_deref(), Some("3.3"));
    let implied = page.text(".implied");
    for words in ["over the ground 3.3 mph", "covers 2.2 mi", "a mile 145 Wh"] {
        assert!(implied.contains(words), "{words} in {implied}");
    }
    assert!(page.text("#panel-stretch .fine").starts_with("From what you measured"));
    // Another kind of amount, typed with its unit, and the field that is not on the form is kept.
    let form = "name=Out&minutes=40&kind=speed&amount=5+km%2Fh&share=100&heading=with";
    let page = app.swap("/rigs/1/stretches/1?page=day&open=stretch-1", form).await;
    assert_eq!(page.header("HX-Replace-Url"), "/rigs/1/day?open=stretch-1");
    assert_eq!(page.attribute("#stretch-amount", "value").as_deref(), Some("3.11"));
    let metric = axum::http::Request::get(format!("{DAY}?open=stretch-1"))
        .header(header::HOST, HOST)
        .header(header::COOKIE, "units=metric");
    let page = app.send(metric.body(Body::empty()).unwrap()).await;
    assert_eq!(page.attribute("#stretch-amount", "value").as_deref(), Some("5"));
    assert!(page.text(".implied").contains("5 km/h"), "{}", page.text(".implied"));
    assert!(page.text(".timeline").contains("wind 12.9 km/h, 18 °C"));
}

#[tokio::test]
async fn blocks_are_lengthened_moved_split_and_brought_back() {
    let app = TestApp::with_demo().await;
    let names = |page: &Answer| -> Vec<String> { page.texts(".block-link span") };
    let before = app.get(DAY).await;
    // While an edge is dragged the picture and the lanes follow, and nothing is kept.
    let drag = axum::http::Request::get(format!("{DAY}?drag=8:300"))
        .header(header::HOST, HOST)
        .header("HX-Request-Type", "partial");
    let dragged = app.send(drag.body(Body::empty()).unwrap()).await;
    let whole = app.get(&format!("{DAY}?drag=8:300")).await;
    assert!(whole.body.contains(dragged.body.trim()), "what follows is what the page has there");
    assert!(dragged.body.starts_with("<div id=\"day-live\""), "only the part that follows");
    assert_ne!(dragged.texts(".mini-verdict"), before.texts(".mini-verdict"));
    assert_eq!(app.get(DAY).await.texts(".mini-verdict"), before.texts(".mini-verdict"));
    let page = app.swap("/rigs/1/stretches/8/minutes?page=day", "minutes=300").await;
    assert_eq!(page.texts(".mini-verdict"), dragged.texts(".mini-verdict"));
    let page = app.swap("/rigs/1/stretches/8/place?page=day", "place=0").await;
    assert_eq!(names(&page)[0], "Home into the wind");
    let page = app.swap("/rigs/1/stretches/8/split?page=day", "").await;
    assert_eq!(names(&page).len(), names(&before).len() + 1);
    let refused = app.swap("/rigs/1/stretches/8/minutes?page=day", "minutes=1e9").await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.text("#panel-stretch .problem").contains("10080 min"));
    let uphill = "name=Out&minutes=40&kind=current&amount=9&grade=-5";
    let at_sea = app.swap("/rigs/1/stretches/1?open=day", uphill).await;
    assert_eq!(at_sea.status, StatusCode::UNPROCESSABLE_ENTITY, "water is level");
    for _ in 0..3 {
        app.post("/rigs/1/undo?page=day", "").await;
    }
    assert_eq!(names(&app.get(DAY).await), names(&before));
}

#[tokio::test]
async fn weather_by_the_hour_and_devices_are_lists_that_are_typed() {
    let app = TestApp::with_demo().await;
    let hourly = "from_0=12:00&wind_0=25+mph&current_0=&air_0=&from_1=6:00&wind_1=3&air_1=50";
    let page = app.swap("/rigs/1/hourly?page=day", hourly).await;
    // What a forecast said for six holds at the start, at seven.
    assert_eq!(page.texts(".weather-text"), ["wind 3 mph, 50 °F", "wind 25 mph, 50 °F"]);
    let wild = app.swap("/rigs/1/hourly?page=day", "from_0=12:00&wind_0=300").await;
    assert_eq!(wild.text("#form-hourly .problem"), "Type a number from 0 to 134 mph, as in 5.");
    assert_eq!(wild.attribute("#hourly-wind_0", "value").as_deref(), Some("300"));
    let devices = "name_0=Display&draw_0=1.5+A&hours_0=&on_0=traction&name_1=Pump&draw_1=40&hours_1=2&on_1=house";
    let page = app.swap("/rigs/1/devices?page=day", devices).await;
    // 1.5 A at 12 V is 18 W (Joule's law).
    assert_eq!(page.attribute("#device-draw_0", "value").as_deref(), Some("18"));
    let sum = page.texts(".sum tbody tr");
    // At 24 V through a converter of 88 %, as the lanes count it: 0.85 A.
    assert!(sum.iter().any(|l| l.starts_with("Display 0.85 7.17 6.1")), "{sum:?}");
    let own = page.text("section[aria-labelledby=devices-title] .fine");
    assert!(own.contains("1 on a house battery of its own: nothing here counts it."), "{own}");
    let page = app.swap("/rigs/1/devices?page=day", &format!("{devices}&take-out=0")).await;
    assert_eq!(page.attribute("#device-name_0", "value").as_deref(), Some("Pump"));
    let frame = "start=06:30&outings=40&days=2&ready=05:30&wind=10&current=0.5&ambient=50&kept=68";
    let page = app.swap("/rigs/1/day?page=day", frame).await;
    assert_eq!(page.texts(".block-again").len(), 8, "the second day is drawn too");
    let board = app.get("/rigs/1/board").await;
    assert!(board.text(".facts").contains("2 days between charges"));
    let bad = app.swap("/rigs/1/day?page=day", "start=&outings=-1&days=0&wind=x").await;
    assert_eq!(bad.texts("section .field .problem").len(), 4);
}

/// Sun, an alternator and a charge to start with are typed where the day is, with their errors beside them, and count.
#[tokio::test]
async fn what_charges_on_the_way_is_typed_and_counts() {
    let app = TestApp::with_demo().await;
    let before = app.get("/rigs/1/board").await.texts(".verdict");
    let rows = "by_0=sun&from_0=9:00&for_0=&gives_0=120+W&by_1=sun&from_1=13:00&for_1=&gives_1=0&by_2=charger&from_2=10:30&for_2=45&gives_2=20+A";
    let page = app.swap("/rigs/1/charging?page=day", rows).await;
    assert_eq!(page.attribute("#charging-gives_0", "value").as_deref(), Some("120 W"));
    assert_eq!(page.attribute("#charging-for_2", "value").as_deref(), Some("45 min"));
    assert_ne!(app.get("/rigs/1/board").await.texts(".verdict"), before);
    let working = app.get("/rigs/1/board?open=working-1").await.text("#panel-working");
    assert!(working.contains("put in on the way"), "{working}");
    let wrong =
        "by_0=sun&from_0=9:00&for_0=30&gives_0=120&by_1=charger&from_1=x&for_1=&gives_1=900";
    let bad = app.swap("/rigs/1/charging?page=day", wrong).await;
    let says = bad.texts("#form-charging .problem");
    assert!(says.len() == 4 && says[0].starts_with("Leave it blank: the sun shines"), "{says:?}");
    assert_eq!(bad.attribute("#charging-for_0", "value").as_deref(), Some("30"), "nothing is lost");
    let crossed =
        "by_0=sun&from_0=9:00&for_0=&gives_0=20+A&by_1=charger&from_1=9:00&for_1=30&gives_1=90+W";
    let says =
        app.swap("/rigs/1/charging?page=day", crossed).await.texts("#form-charging .problem");
    assert!(says[0].contains("in watts") && says[1].contains("in amps"), "{says:?}");
    // A charge to start with, and nights on the charger.
    let frame = "start=07:00&outings=30&days=1&ready=&wind=8&current=&ambient=64&kept=&charge=60&overnight=on";
    let page = app.swap("/rigs/1/day?page=day", frame).await;
    assert_eq!(page.attribute("#day-charge", "value").as_deref(), Some("60"));
    let working = app.get("/rigs/1/board?open=working-1").await.text("#panel-working");
    assert!(working.contains("begins the day with 60 %"), "{working}");
    let typed = async |charge: &str| {
        let form = frame.replace("charge=60", &format!("charge={charge}"));
        app.swap("/rigs/1/day?page=day", &form).await
    };
    for wrong in ["160", "9+V", "900+Ah", "x+V"] {
        assert_eq!(typed(wrong).await.texts("#form-day .problem").len(), 1, "{wrong}");
    }
    // Two tired AGM are aboard, 110 Ah of 24 V: 55 Ah are half; 24.8 V after a rest are about two thirds.
    let half = typed("55+Ah").await;
    assert_eq!(half.attribute("#day-charge", "value").as_deref(), Some("50"));
    let rested = typed("24.8+V").await.attribute("#day-charge", "value").unwrap();
    assert!((55.0..75.0).contains(&rested.parse::<f64>().unwrap()), "{rested}");
}

/// A pack that was low and is full again says how low, never that it went less than nothing too deep.
#[tokio::test]
async fn a_pack_charged_back_says_how_low_it_was() {
    let app = TestApp::with_demo().await;
    let frame = "start=07:00&outings=30&days=1&ready=&wind=8&current=&ambient=64&kept=&charge=60";
    app.post("/rigs/1/day?page=day", frame).await;
    let rows = "by_0=charger&from_0=9:00&for_0=300&gives_0=100+A";
    app.post("/rigs/1/charging?page=day", rows).await;
    let board = app.get("/rigs/1/board").await;
    let deep: Vec<_> = board.texts(".verdict").into_iter().filter(|v| v.contains("deep")).collect();
    assert!(!deep.is_empty() && deep.iter().all(|v| !v.contains('-')), "{deep:?}");
    assert!(board.body.contains("% on the way"));
    assert!(board.body.contains("is hard on it"), "100 A into 110 Ah of AGM");
}

/// What began before the day did holds from there on; what can never count is said to count for nothing.
#[tokio::test]
async fn charging_before_the_start_counts_or_is_said_not_to() {
    let app = TestApp::with_demo().await;
    let verdicts = async || app.get("/rigs/1/board").await.texts(".verdict");
    let before = verdicts().await;
    let typed = async |rows: &str| app.swap("/rigs/1/charging?page=day", rows).await;
    let early = typed("by_0=sun&from_0=6:00&for_0=&gives_0=120+W").await;
    assert_eq!(early.attribute("#charging-from_0", "value").as_deref(), Some("06:00"));
    let sunny = verdicts().await;
    assert_ne!(sunny, before, "the sun of 6:00 shines at 7:00");
    // The same told from the start on.
    typed("by_0=sun&from_0=7:00&for_0=&gives_0=120+W").await;
    assert_eq!(verdicts().await, sunny);
    for (from, minutes, counts) in [("6:45", 30, true), ("5:00", 45, false), ("15:00", 60, false)] {
        let row = format!("by_0=charger&from_0={from}&for_0={minutes}&gives_0=20+A");
        let says = typed(&row).await.text("#charging-says");
        assert_eq!(!says.starts_with("1 outside of the day's hours"), counts, "{from}: {says}");
        assert_eq!(app.get("/rigs/1/board").await.body.contains("charged on the way"), counts);
    }
    let frame = "start=07:00&outings=30&days=1&ready=&wind=8&current=&ambient=64&kept=&charge=&overnight=on";
    let says = app.swap("/rigs/1/day?page=day", frame).await.text("#charging-says");
    assert!(says.contains("no nights"), "{says}");
    // A day into the night: what is told for two o'clock comes at two, on the next morning.
    app.swap("/rigs/1/day?page=day", &frame.replace("07:00", "20:00")).await;
    let page = app.swap("/rigs/1/hourly?page=day", "from_0=2:00&wind_0=3").await;
    assert_eq!(page.texts(".weather-text"), ["wind 8 mph, 64 °F", "wind 3 mph, 64 °F"]);
    assert!(!app.get("/rigs/1/board").await.body.contains("charged on the way"));
}

/// On wheels the Day says what a mile takes and what of it matters.
#[tokio::test]
async fn a_carts_day_says_what_a_mile_takes() {
    let app = TestApp::with_demo().await;
    assert!(app.get(DAY).await.texts("#mile").is_empty());
    app.post("/start/own-cart", "").await;
    let cart = "/rigs/2/day";
    app.post("/rigs/2/template?page=day", "template=rounds").await;
    let says = app.get(cart).await.text("#mile");
    assert!(says.starts_with("A mile takes 1") && says.contains("hills"), "{says}");
}

#[tokio::test]
async fn a_what_if_shows_on_every_lane_and_is_kept_or_dropped() {
    let app = TestApp::with_demo().await;
    let plain = app.get("/rigs/1/board").await;
    let nudged = app.get("/rigs/1/board?if=wind-people").await;
    assert_ne!(plain.texts(".verdict"), nudged.texts(".verdict"));
    assert!(nudged.texts(".was").iter().all(|w| w.starts_with("was: ")));
    assert!(plain.texts(".was").is_empty());
    assert_eq!(app.get("/rigs/1/board").await.texts(".verdict"), plain.texts(".verdict"));
    let stated = "4 stretches are given by their draw or setting and stay as they are.";
    assert_eq!(nudged.texts("#unmoved"), [stated], "what the wind does not change is said");
    assert_eq!(app.get("/rigs/1/day?if=wind").await.texts("#unmoved"), [stated]);
    assert!(app.get("/rigs/1/day").await.texts("#unmoved").is_empty());
    let kept = app.post("/rigs/1/what-if?if=wind-people", "").await;
    let undone = app.get("/rigs/1/board").await;
    assert_eq!(
        undone.attribute("#undo", "title").as_deref(),
        Some("Took the day with the what-if")
    );
    assert_eq!(kept.header("location"), "/rigs/1/board");
    assert_eq!(app.get("/rigs/1/board").await.texts(".verdict"), nudged.texts(".verdict"));
}

/// Slower home: the last stretch that is driven, which the demo goes home on, and no other.
#[tokio::test]
async fn slower_home_shows_on_the_lanes_and_in_the_sum() {
    let app = TestApp::with_demo().await;
    let (plain, slower) = (app.get("/rigs/1/day").await, app.get("/rigs/1/day?if=slower").await);
    assert_eq!(slower.texts(".ifs .chip-on"), ["slower home"]);
    let rows = |page: &Answer| page.texts(".sum tbody tr");
    let (before, after) = (rows(&plain), rows(&slower));
    let changed: Vec<_> = before.iter().zip(&after).filter(|(a, b)| a != b).collect();
    // The way home takes longer, and so long runs what is on all day.
    let [(home, _), (sonar, _)] = changed.as_slice() else { panic!("{changed:?}") };
    assert!(home.starts_with("Home") && sonar.starts_with("5-inch sonar"), "{changed:?}");
    // What is to be looked for in a shop gets smaller with it.
    let size = |page: &Answer| {
        let words = page.text(".sum .fine");
        let ah = words.split("next size up ").nth(1).expect(&words).split(' ').next().expect("Ah");
        ah.parse::<f64>().expect(&words)
    };
    assert!(size(&slower) <= size(&plain) && size(&plain) > 0.0);
}

#[tokio::test]
async fn a_day_to_begin_from_needs_no_amps() {
    let app = TestApp::with_demo().await;
    let page = app.swap("/rigs/1/template?page=day", "template=edge").await;
    assert_eq!(page.texts(".block-link span")[1], "Working the edge");
    assert!(page.texts(".block-link b")[1].ends_with(", 35 %"));
    assert!(page.text("#notice").starts_with("Took the day Along the weed edge."));
    let none = app.swap("/rigs/1/template?page=day", "template=heats").await;
    assert_eq!(none.status, StatusCode::BAD_REQUEST);
}

async fn upload(app: &TestApp, file: &str) -> Answer {
    app.upload("/rigs/1/gpx?page=day", "a.gpx", file.as_bytes()).await
}

#[tokio::test]
async fn a_track_becomes_the_day_and_its_route_goes_out_again() {
    let app = TestApp::with_demo().await;
    assert_eq!(app.get("/rigs/1/day.gpx").await.status, StatusCode::NOT_FOUND);
    let points: String = (0..60)
        .map(|n| format!("<rtept lat=\"{}\" lon=\"10\"/>", 45.0 + f64::from(n) * 0.001))
        .collect();
    let file =
        format!("<gpx version=\"1.1\" creator=\"t\"><rte><name>Round</name>{points}</rte></gpx>");
    assert_eq!(upload(&app, &file).await.status, StatusCode::SEE_OTHER);
    let page = app.get(DAY).await;
    assert_eq!(page.texts(".block-link span"), ["Leg 1"]);
    assert!(page.text(".facts").starts_with("4.1 mi"), "{}", page.text(".facts"));
    let out = app.get("/rigs/1/day.gpx").await;
    assert!(out.body.contains("<rtept lat=\"45.000000\" lon=\"10.000000\"/>"));
    for (file, says) in [
        ("", "Choose a GPX file first."),
        ("<kml/>", "Not taken: it is not a GPX file: its first element is not gpx."),
        (
            "<!DOCTYPE x [<!ENTITY a \"b\">]><gpx/>",
            "Not taken: it declares a document type, which no GPX file needs; it was not read.",
        ),
    ] {
        let page = upload(&app, file).await;
        assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
        assert_eq!(page.text("#gpx-file-problem"), says);
    }
    assert_eq!(app.get(DAY).await.texts(".block-link span"), ["Leg 1"], "nothing was lost");
}

/// What a stretch keeps is by its name until its owner says otherwise, and so is whether a slower pack will do.
#[tokio::test]
async fn what_a_stretch_keeps_is_said_and_kept() {
    let app = TestApp::with_demo().await;
    let open = "/rigs/1/day?open=stretch-6";
    let fields = app.get(open).await.filled("#form-stretch");
    assert!(fields.contains(&("keeps".into(), String::new())), "{fields:?}");
    let mut form = form_urlencoded::Serializer::new(String::new());
    for (name, value) in &fields {
        form.append_pair(name, if name == "keeps" { "time" } else { value });
    }
    app.post("/rigs/1/stretches/6?page=day&open=stretch-6", &form.finish()).await;
    let day = app.get("/rigs/1/day").await.filled("#form-day");
    let mut form = form_urlencoded::Serializer::new(String::new());
    form.extend_pairs(day.iter().filter(|(name, _)| name != "slower")).append_pair("slower", "on");
    app.post("/rigs/1/day", &form.finish()).await;
    let plan = app.get("/rigs/1/plan.json").await.body;
    let plan = lake_hour_formats::plan::read(plan.as_bytes()).unwrap();
    assert_eq!(plan.day.stretches[5].keeps, Some(lake_hour_core::day::Keeps::Time));
    assert!(plan.day.slower_will_do);
    // A list that does not show it keeps it.
    app.post("/rigs/1/stretches/6/minutes?page=day", "minutes=50").await;
    let plan = app.get("/rigs/1/plan.json").await.body;
    let plan = lake_hour_formats::plan::read(plan.as_bytes()).unwrap();
    assert_eq!(plan.day.stretches[5].keeps, Some(lake_hour_core::day::Keeps::Time));
}

/// A stretch that is told by how far it goes has its time from that; whoever types another time means the time.
#[tokio::test]
async fn how_far_a_stretch_goes_gives_it_its_time() {
    let app = TestApp::with_demo().await;
    let read = async || {
        let body = app.get("/rigs/1/plan.json").await.body;
        lake_hour_formats::plan::read(body.as_bytes()).unwrap()
    };
    let at = read()
        .await
        .day
        .stretches
        .iter()
        .position(|s| matches!(s.duty, lake_hour_core::day::Duty::Setting(_)))
        .unwrap();
    let id = at + 1;
    let open = format!("/rigs/1/day?open=stretch-{id}");
    let fields = app.get(&open).await.filled("#form-stretch");
    let with = |far: &str| {
        let mut form = form_urlencoded::Serializer::new(String::new());
        for (name, value) in &fields {
            form.append_pair(name, if name == "far" { far } else { value });
        }
        form.finish()
    };
    let post = format!("/rigs/1/stretches/{id}?page=day&open=stretch-{id}");
    let before = read().await.day.stretches[at].clone();
    app.post(&post, &with("3")).await;
    let first = read().await.day.stretches[at].clone();
    assert!((first.far.unwrap().value() - 3.0 * 1609.344).abs() < 1.0);
    assert_ne!(first.lasts, before.lasts);
    app.post(&format!("/rigs/1/stretches/{id}/minutes?page=day"), "minutes=50").await;
    let typed = read().await.day.stretches[at].clone();
    assert!((typed.lasts.minutes() - 50.0).abs() < 1e-9, "{typed:?}");
    assert_eq!(typed.far, None);
    let refused = app.swap(&post, &with("-3")).await;
    assert!(!refused.texts("#form-stretch .problem").is_empty());
}
