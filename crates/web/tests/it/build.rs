//! Build: choosing, ticks, readings that stop, what it costs all in, sheets, the card, bad input.

use crate::app::{Answer, TestApp};
use axum::http::StatusCode;

const BUILD: &str = "/rigs/1/build";

/// The demo with a pack chosen to be built.
async fn building(pack: i64) -> TestApp {
    let app = TestApp::with_demo().await;
    let chosen = app.post(&format!("{BUILD}/choose"), &format!("pack={pack}")).await;
    assert_eq!(chosen.status, StatusCode::SEE_OTHER);
    assert_eq!(chosen.header("location"), BUILD);
    app
}

/// "$972" as 972.
fn dollars(text: &str) -> f64 {
    let figure: String = text.chars().filter(|c| c.is_ascii_digit() || *c == '.').collect();
    figure.trim_matches('.').parse().unwrap()
}

async fn all_in(app: &TestApp, name: &str) -> f64 {
    let shared = app.get("/rigs/1/shared.json").await;
    assert_eq!(shared.status, StatusCode::OK);
    let shared: serde_json::Value = serde_json::from_str(&shared.body).unwrap();
    let packs = shared["result"]["packs"].as_array().unwrap();
    packs.iter().find(|pack| pack["name"] == name).unwrap()["price_total"].as_f64().unwrap()
}

async fn tick(app: &TestApp, step: &str, form: &str) -> Answer {
    app.swap(&format!("{BUILD}/steps/{step}/done?page=build"), form).await
}

#[tokio::test]
async fn nothing_is_built_until_a_pack_is_chosen() {
    let app = TestApp::with_demo().await;
    let page = app.get(BUILD).await;
    assert_eq!(page.text("#choose-it"), "Build this one");
    assert!(page.texts(".step").is_empty());
    for file in ["sheets", "card.html", "parts.csv"] {
        let answer = app.get(&format!("{BUILD}/{file}")).await;
        assert_eq!(answer.status, StatusCode::NOT_FOUND, "{file}");
    }
    assert_eq!(app.post(&format!("{BUILD}/choose"), "pack=x").await.status, StatusCode::NOT_FOUND);
    assert_eq!(app.post(&format!("{BUILD}/choose"), "pack=99").await.status, StatusCode::NOT_FOUND);
    // From the Board, in one tap; the tab says it.
    let page = app.swap("/rigs/1/build/choose/3", "").await;
    assert_eq!(page.text("h1"), "Two Marl Point 12-100 into Heron Pond sampling skiff");
    assert!(app.get("/rigs/1/board").await.texts("#lane-3 .tag").contains(&"to build".to_owned()));
    // Undo takes the choice back; a copy of a chosen pack is not chosen, one aboard not aboard twice.
    app.post("/rigs/1/packs/3/copy", "").await;
    app.post("/rigs/1/packs/8/copy", "").await;
    let board = app.get("/rigs/1/board").await;
    assert_eq!(board.texts(".tag").iter().filter(|t| *t == "to build").count(), 1);
    assert_eq!(board.texts(".tag-aboard").len(), 1);
    for _ in 0..3 {
        app.post("/rigs/1/undo?page=build", "").await;
    }
    assert_eq!(app.get(BUILD).await.text("#choose-it"), "Build this one");
}

#[tokio::test]
async fn the_list_counts_in_all_in_everywhere_and_ticks_stay() {
    let unbuilt = TestApp::with_demo().await;
    let before = all_in(&unbuilt, "Two Marl Point 12-100").await;
    let tern = all_in(&unbuilt, "Tern 24-120").await;
    let app = building(3).await;
    let page = app.get(BUILD).await;
    let total = dollars(&page.text("#parts-title"));
    let near = |a: f64, b: f64| assert!((a - b).abs() < 1e-9, "{a} {b}");
    // What is to be built costs what it did, and so does every other: each counts a list of its own.
    near(before, total);
    near(all_in(&app, "Tern 24-120").await, tern);
    near(all_in(&app, "Two Marl Point 12-100").await, total);
    near(dollars(&page.text(".build-counted b")), total);
    // Another price, a part of one's own, one at hand: the sums follow, in one place and in all.
    let parts = page.filled("body");
    let field = |name: &str| parts.iter().any(|(n, _)| n == name);
    assert!(field("price_switch") && field("note_main_fuse"));
    let page = app
        .swap(
            &format!("{BUILD}/parts?page=build"),
            "price_switch=41.50&note_switch=Boathouse+shelf",
        )
        .await;
    assert_eq!(page.text("#part-switch td:nth-child(3)"), "$42");
    app.swap(
        &format!("{BUILD}/own?page=build"),
        "name_0=Bolts&count_0=4&price_0=1.25&state_0=to_buy&note_0=",
    )
    .await;
    let page = app.swap(&format!("{BUILD}/parts/breaker/have?page=build"), "").await;
    let (switch, breaker) = (20.0, 27.0);
    let now = total - switch + 41.5 + 5.0 - breaker;
    assert!((all_in(&app, "Two Marl Point 12-100").await - now).abs() < 1e-9);
    assert!(page.text("#notice").starts_with("Breaker, resettable: at hand"));
    // The same for a pack that is not to be built: its price is its list's, which it shows when it is.
    let other = all_in(&app, "Tern 24-120").await;
    assert!((other - tern).abs() > 0.4, "{other} {tern}");
    app.post(&format!("{BUILD}/choose"), "pack=1").await;
    near(all_in(&app, "Tern 24-120").await, other);
    let listed = dollars(&app.get(BUILD).await.text("#parts-title"));
    assert!((listed - other).abs() <= 0.51, "{listed} {other}");
    app.post(&format!("{BUILD}/choose"), "pack=3").await;
    // Not counted, the batteries are left; the list still says its own sum.
    app.post(&format!("{BUILD}/counted/no"), "").await;
    near(all_in(&app, "Two Marl Point 12-100").await, 640.0);
    // To the dollar.
    let listed = dollars(&app.get(BUILD).await.text("#parts-title"));
    assert!((listed - now).abs() <= 0.5, "{listed} {now}");
    // A bought meter stays bought for another pack; its own jumper is not asked for.
    app.post(&format!("{BUILD}/parts/switch/bought"), "").await;
    app.post(&format!("{BUILD}/choose"), "pack=1").await;
    let other = app.get(BUILD).await;
    assert_eq!(other.attribute("#tick-switch", "aria-pressed").as_deref(), Some("true"));
    assert!(other.texts("#part-jumpers").is_empty());
    // The price of the batteries is the pack's own.
    app.post(&format!("{BUILD}/parts"), "price_batteries=700").await;
    assert!(
        app.get("/rigs/1/board?open=pack-1")
            .await
            .filled("body")
            .contains(&("price".into(), "700".into()))
    );
    let csv = app.get(&format!("{BUILD}/parts.csv")).await;
    assert!(
        csv.body
            .starts_with("quantity,part,size,price of one [USD],price is,sum [USD],state,note\r\n")
    );
    assert!(csv.body.contains("4,Bolts,,1.25,you set it,5.00,to buy,\r\n"), "{}", csv.body);
    assert!(csv.body.lines().all(|line| line.matches(',').count() >= 7));
    // All of it goes out with the plan and comes back.
    let plan = app.get("/rigs/1/plan.json").await.body;
    let read = lake_hour_formats::plan::read(plan.as_bytes()).unwrap();
    assert_eq!(read.build.own.len(), 1);
    assert_eq!(read.chosen().map(|p| p.name.as_str()), Some("Tern 24-120"));
}

#[tokio::test]
async fn steps_wait_and_a_wrong_reading_stops_them() {
    let app = building(3).await;
    let page = tick(&app, "old_negative", "").await;
    assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.text("#step-old_negative .problem").starts_with("First step "));
    for step in ["lay_out", "park", "unplug", "guard"] {
        assert_eq!(tick(&app, step, "").await.status, StatusCode::OK, "{step}");
    }
    // Letters are refused beside the field and stay as typed; nothing is ticked.
    let page = tick(&app, "unit_volts", "reading=thirteen&note=cold").await;
    assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.text("#step-unit_volts-reading-problem").contains("not a number"));
    assert_eq!(page.attribute("#step-unit_volts-reading", "value").as_deref(), Some("thirteen"));
    for (typed, stops) in [("9.1", "Too low"), ("26.6", "Too high"), ("-13.2", "Reversed")] {
        let page = tick(&app, "unit_volts", &format!("reading={typed}&note=cold")).await;
        assert_eq!(page.status, StatusCode::OK);
        assert!(page.text("#step-unit_volts .step-wrong").contains(stops), "{typed}");
        assert_eq!(page.attribute("#step-unit_volts-reading", "value").as_deref(), Some(typed));
        assert_eq!(tick(&app, "charge_each", "").await.status, StatusCode::UNPROCESSABLE_ENTITY);
    }
    let page = tick(&app, "unit_volts", "reading=13.2&note=cold").await;
    assert_eq!(page.attribute("#done-unit_volts", "aria-pressed").as_deref(), Some("true"));
    // A reason puts off; without one it is asked for; what is firm cannot be.
    let page = app.swap(&format!("{BUILD}/steps/picture_old/put_off?page=build"), "reason=").await;
    assert!(page.text("#step-picture_old-reason-problem").contains("Say why"));
    let page = app
        .swap(&format!("{BUILD}/steps/picture_old/save?page=build"), "reason=no+camera&note=")
        .await;
    assert!(page.text("#step-picture_old .step-off").starts_with("Put off: no camera"));
    let page =
        app.swap(&format!("{BUILD}/steps/switch_off/put_off?page=build"), "reason=later").await;
    assert!(page.text("#step-switch_off .problem").contains("cannot be put off"));
    // Undone: as it was, one after the other.
    let page = app.swap("/rigs/1/undo?page=build", "").await;
    assert!(page.texts("#step-picture_old .step-off").is_empty());
    assert_eq!(
        app.post(&format!("{BUILD}/steps/nonsense/done"), "").await.status,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        app.post(&format!("{BUILD}/steps/guard/nonsense"), "").await.status,
        StatusCode::NOT_FOUND
    );
    // A step that this work has not: said, nothing kept.
    let page = tick(&app, "interlock", "reading=yes").await;
    assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn the_card_is_one_small_file_that_asks_for_nothing() {
    let app = building(3).await;
    let card = app.get(&format!("{BUILD}/card.html")).await;
    assert!(card.header("content-disposition").starts_with("attachment"));
    assert!(card.body.len() < 60_000, "{} bytes", card.body.len());
    for asks in ["src=", "href=", "url(", "@import", "fetch(", "http:", "https:"] {
        assert!(!card.body.contains(asks), "{asks}");
    }
    // Names cannot end the script or begin an element.
    app.post("/rigs/1/craft", "name=%3C%2Fscript%3E%3Cimg+src%3Dx%3E").await;
    let card = app.get(&format!("{BUILD}/card.html")).await;
    assert!(!card.body.contains("<img"), "a name is text");
}

#[tokio::test]
async fn too_much_is_refused_in_words() {
    let app = building(3).await;
    let own: String = (0..10_000).map(|n| format!("name_{n}=Bolt&price_{n}=1&")).collect();
    let page = app.swap(&format!("{BUILD}/own?page=build"), &own).await;
    assert!(
        page.status == StatusCode::UNPROCESSABLE_ENTITY
            || page.status == StatusCode::PAYLOAD_TOO_LARGE
    );
    assert!(app.get(BUILD).await.texts("#form-own [data-row]").len() == 1);
    let page = app.swap(&format!("{BUILD}/parts?page=build"), "price_switch=-4").await;
    assert!(page.text("#parts-price_switch-problem").contains("from 0 to 1000000"));
    assert_eq!(page.attribute("#parts-price_switch", "value").as_deref(), Some("-4"));
    // In a file: each fault by its place.
    let mut plan: serde_json::Value =
        serde_json::from_str(&app.get("/rigs/1/plan.json").await.body).unwrap();
    let parts: Vec<_> =
        (0..10_000).map(|n| serde_json::json!({"name": format!("Bolt {n}")})).collect();
    plan["build"] = serde_json::json!({"own_parts": parts, "steps": [
        {"step": "guard", "state": "put_off"}, {"step": "dance"}, {"step": "guard"}]});
    plan["packs"][1]["chosen"] = true.into();
    let faults = lake_hour_formats::plan::read(plan.to_string().as_bytes()).unwrap_err();
    let all: Vec<String> = faults.0.iter().map(ToString::to_string).collect();
    for place in [
        "build.own_parts",
        "build.steps[0].reason",
        "build.steps[1].step",
        "build.steps[2].step",
        "packs[2].chosen",
    ] {
        assert!(all.iter().any(|f| f.starts_with(place)), "{place}: {all:?}");
    }
}

/// A motor of which nothing is known: typical until its owner says so, said wherever cables hang on it; without any figure
/// nothing is built, and the page leads to the field.
#[tokio::test]
async fn a_motor_that_nobody_knows_is_typical_until_it_is_told() {
    let app = TestApp::empty().await;
    app.post("/start/three", "kind=v_hull&motor=&volts=12&how_long=5").await;
    let assumed = app.get("/rigs/1/board").await.texts(".assumed a");
    assert!(assumed[0].starts_with("a typical motor of up to 50 A"), "{assumed:?}");
    app.post(&format!("{BUILD}/choose"), "pack=1").await;
    let says = async || app.get(BUILD).await.text(".also").contains("A is assumed: cables");
    assert!(says().await && app.get(&format!("{BUILD}/sheets")).await.body.contains("(assumed)"));
    let rig = app.get("/rigs/1/rig").await;
    assert!(rig.attribute("#motor-typical", "checked").is_some());
    // Saved as it stands, it stays typical; another figure, or the tick taken away, is the owner's.
    let form = "motor=Motor&volts=12&count=1&lead=&max=";
    for (typed, typical) in [("50&typical=on", true), ("50", false), ("50&typical=on", false)] {
        app.post("/rigs/1/motor", &format!("{form}{typed}")).await;
        assert_eq!(says().await, typical, "{typed}");
    }
    assert!(app.get("/rigs/1/rig").await.texts("#motor-typical").is_empty());
    app.post("/rigs/1/motor", form).await;
    let page = app.get(BUILD).await;
    assert_eq!(page.attribute("#ask-amps", "href").as_deref(), Some("/rigs/1/rig#motor-max"));
    assert!(page.texts(".step").is_empty());
    assert_eq!(app.get(&format!("{BUILD}/sheets")).await.status, StatusCode::NOT_FOUND);
    // Packs lays its cables for the day, and says so.
    let packs = app.get("/rigs/1/packs?pack=7-1x1").await;
    assert!(packs.texts(".misfit").iter().any(|t| t.contains("is not told on Rig")));
}

/// What the Rig says is there already costs nothing for any pack, and is taken back on the Rig.
#[tokio::test]
async fn what_the_rig_has_already_costs_no_pack_anything() {
    let app = building(3).await;
    let names = ["Two Marl Point 12-100", "Tern 24-120"];
    let mut before = Vec::new();
    for name in names {
        before.push(all_in(&app, name).await);
    }
    let breaker = dollars(&app.get(BUILD).await.text("#part-breaker td:nth-child(3)"));
    app.post("/rigs/1/owned", "breaker=on").await;
    let page = app.get(BUILD).await;
    assert_eq!(page.text("#part-breaker td:nth-child(3)"), "have it");
    assert!(page.text("#part-breaker .part-states").ends_with("on the Rig"));
    for (name, before) in std::iter::zip(names, before) {
        let now = all_in(&app, name).await;
        assert!((before - breaker - now).abs() <= 0.5, "{name}: {before} {breaker} {now}");
    }
    let plan = app.get("/rigs/1/plan.json").await.body;
    let read = lake_hour_formats::plan::read(plan.as_bytes()).unwrap();
    assert_eq!(read.rig.owned, [lake_hour_core::rig::Owned::Breaker]);
    app.post("/rigs/1/owned", "").await;
    assert_ne!(app.get(BUILD).await.text("#part-breaker td:nth-child(3)"), "have it");
}
