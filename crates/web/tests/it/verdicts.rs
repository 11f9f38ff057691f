//! One fact, one sentence: what a pack comes to is the same on every page, in every file and answer, and so is its price.

use crate::app::{HOST, TestApp};
use axum::body::Body;
use axum::http::{Request, header};
use serde_json::Value;
use std::collections::BTreeMap;

/// The demo as it is; in a gale; and on a 36 V motor that takes 24 V as well.
async fn scenes() -> Vec<TestApp> {
    let as_is = TestApp::with_demo().await;
    let windy = TestApp::with_demo().await;
    let day = windy.get("/rigs/1/day").await.filled("#form-day");
    let mut day: BTreeMap<String, String> = day.into_iter().collect();
    day.insert("wind".into(), "30".into());
    windy.post("/rigs/1/day", &form(&day)).await;
    let other_volts = TestApp::with_demo().await;
    let motor = other_volts.get("/rigs/1/rig").await.filled("#form-motor");
    let mut motor: BTreeMap<String, String> = motor.into_iter().collect();
    motor.insert("volts".into(), "36".into());
    motor.insert("also".into(), "24".into());
    motor.insert("highest".into(), "60".into());
    let answer = other_volts.post("/rigs/1/motor", &form(&motor)).await;
    assert!(answer.status.is_redirection(), "{}", answer.body);
    vec![as_is, windy, other_volts]
}

fn form(fields: &BTreeMap<String, String>) -> String {
    let mut form = form_urlencoded::Serializer::new(String::new());
    form.extend_pairs(fields);
    form.finish()
}

#[tokio::test]
async fn a_verdict_and_a_price_are_the_same_on_every_page_and_in_every_file() {
    let mut seen = BTreeMap::new();
    for app in scenes().await {
        let board = app.get("/rigs/1/board").await;
        let names = board.texts(".lane h3");
        let said: BTreeMap<String, String> =
            std::iter::zip(names.clone(), board.texts(".lane .verdict")).collect();
        let plan = app.get("/rigs/1/plan.json").await.body;
        let request = Request::post("/api/evaluate")
            .header(header::HOST, HOST)
            .header(header::CONTENT_TYPE, "application/json")
            .body(Body::from(plan));
        let answer = app.send(request.unwrap()).await;
        let result: Value = serde_json::from_str(&answer.body).unwrap();
        let csv = app.get("/rigs/1/table.csv").await.body;
        let compared = app.get("/rigs/1/compare?packs=1-2-3").await;
        for (column, name) in compared.texts(".compare-table thead th a").iter().enumerate() {
            assert_eq!(
                compared.texts(".compare-table thead .verdict")[column],
                said[name],
                "{name}"
            );
        }
        let minis = app.get("/rigs/1/day").await;
        for (name, words) in std::iter::zip(minis.texts(".mini b"), minis.texts(".mini-verdict")) {
            assert_eq!(words, said[&name], "{name} on Day");
        }
        let packs = app.get("/rigs/1/packs?want=any").await;
        let rows =
            std::iter::zip(packs.texts(".packs-row-words > b"), packs.texts(".packs-row .verdict"));
        let mut on_packs = 0;
        for (name, words) in rows {
            if let Some(verdict) = said.get(&name) {
                assert!(words.starts_with(verdict.as_str()), "{name}: {words} / {verdict}");
                on_packs += 1;
            }
        }
        seen.entry("on packs").and_modify(|n| *n += on_packs).or_insert(on_packs);
        for (n, pack) in result["packs"].as_array().unwrap().iter().enumerate() {
            let name = pack["name"].as_str().unwrap();
            let Some(words) = said.get(name) else { continue };
            let what = pack["verdict"]["what"].as_str().unwrap();
            let begins = match what {
                "home" => "Gets home with",
                "home_slower" => "Gets home, ",
                "home_too_deep" => "Gets home, but",
                "stops" => "Stops at",
                "shuts_off" => "BMS shuts off",
                "cannot_hold" => "Cannot hold in",
                "cannot_make" => "Cannot make",
                other => panic!("{name} on a lane: {other}"),
            };
            assert!(words.starts_with(begins), "{name}: {what} {words}");
            *seen.entry(begins).or_insert(0) += 1;
            assert_eq!(pack["price_total"], pack["price_with_needs"], "{name}: one price");
            let price = pack["price_total"].as_f64();
            let line = csv.lines().nth(n + 1).unwrap();
            if let Some(price) = price {
                assert!(line.contains(&format!("{price}")), "{name}: {price} {line}");
            }
            if what != "home" {
                assert!(pack["verdict"]["limit"].is_string(), "{name}: {pack}");
            }
            if matches!(what, "cannot_hold" | "cannot_make") {
                assert_eq!(
                    (&pack["chance_home"], &pack["covers_the_distance"]),
                    (&0.0.into(), &false.into())
                );
            }
        }
        // What is built says the same.
        let first = &names[0];
        app.post("/rigs/1/build/choose", "pack=1").await;
        let built = app.get("/rigs/1/build").await;
        assert!(
            built.text(".build-day").contains(&said[first]),
            "{first}: {}",
            built.text(".build-day")
        );
    }
    for words in ["Gets home with", "Gets home, but", "Stops at", "Cannot hold in", "Gets home, "] {
        assert!(seen.contains_key(words), "{words} was never looked at: {seen:?}");
    }
    assert!(seen["on packs"] > 0, "{seen:?}");
}
