//! One fact, one sentence: what a pack comes to is the same on every page, in every file and answer, and so is its price.

use crate::app::{HOST, TestApp};
use axum::body::Body;
use axum::http::{Request, header};
use serde_json::{Value, json};
use std::collections::BTreeMap;

const DEMO: &[u8] = include_bytes!("../../../../demo/heron-pond.plan.json");

/// The demo as it is; held in a gale; at a speed that it does not make; and on a 36 V motor that takes 24 V as well. Each as rig 2.
async fn scenes() -> Vec<TestApp> {
    let changes: [fn(&mut Value); 4] = [
        |_| {},
        |plan| {
            plan["day"]["stretches"][0]["load"] = json!({"kind": "setting", "setting": 5});
            plan["day"]["stretches"][1]["load"] = json!({"kind": "hold_place"});
            plan["day"]["hourly"] = json!([]);
            plan["day"]["wind_ms"] = json!(20.0);
        },
        |plan| {
            plan["day"]["stretches"][0]["load"] = json!({"kind": "speed", "speed_ms": 6.0});
        },
        |plan| {
            plan["rig"]["motor"]["system_voltage_v"] = json!(36);
            plan["rig"]["motor"]["also_accepts_v"] = json!([24]);
            plan["rig"]["controller_max_voltage_v"] = json!(60);
        },
    ];
    let mut all = Vec::new();
    for change in changes {
        let app = TestApp::with_demo().await;
        let mut plan: Value = serde_json::from_slice(DEMO).unwrap();
        change(&mut plan);
        let mut form = form_urlencoded::Serializer::new(String::new());
        form.append_pair("plan", &plan.to_string()).append_pair("as", "new");
        let answer = app.post("/plan/take", &form.finish()).await;
        assert_eq!(answer.header("location"), "/rigs/2/board", "{}", answer.body);
        all.push(app);
    }
    all
}

/// Numbers of the packs on a Board, in its order.
fn ids(body: &str) -> Vec<String> {
    let all = body.split("id=\"lane-").skip(1).filter_map(|rest| rest.split('"').next());
    all.filter(|id| id.bytes().all(|b| b.is_ascii_digit())).map(str::to_owned).collect()
}

#[tokio::test]
async fn a_verdict_and_a_price_are_the_same_on_every_page_and_in_every_file() {
    let mut seen = BTreeMap::new();
    for app in scenes().await {
        let board = app.get("/rigs/2/board").await;
        let names = board.texts(".lane h3");
        let ids = ids(&board.body);
        let said: BTreeMap<String, String> =
            std::iter::zip(names.clone(), board.texts(".lane .verdict")).collect();
        let plan = app.get("/rigs/2/plan.json").await.body;
        let request = Request::post("/api/evaluate")
            .header(header::HOST, HOST)
            .header(header::CONTENT_TYPE, "application/json")
            .body(Body::from(plan));
        let answer = app.send(request.unwrap()).await;
        let result: Value = serde_json::from_str(&answer.body).unwrap();
        let csv = app.get("/rigs/2/table.csv").await.body;
        let compared =
            app.get(&format!("/rigs/2/compare?packs={}-{}-{}", ids[0], ids[1], ids[2])).await;
        for (column, name) in compared.texts(".compare-table thead th a").iter().enumerate() {
            assert_eq!(
                compared.texts(".compare-table thead .verdict")[column],
                said[name],
                "{name}"
            );
        }
        let minis = app.get("/rigs/2/day").await;
        for (name, words) in std::iter::zip(minis.texts(".mini b"), minis.texts(".mini-verdict")) {
            assert_eq!(words, said[&name], "{name} on Day");
        }
        let packs = app.get("/rigs/2/packs?want=any").await;
        let rows =
            std::iter::zip(packs.texts(".packs-row-words > b"), packs.texts(".packs-row .verdict"));
        let mut on_packs = 0;
        for (name, words) in rows {
            if let Some(verdict) = said.get(&name) {
                assert!(words.starts_with(verdict.as_str()), "{name}: {words} / {verdict}");
                on_packs += 1;
            }
        }
        // What is counted as getting home does.
        let home = app.get("/rigs/2/packs?want=home").await;
        let verdicts = home.texts(".packs-row .verdict");
        assert!(verdicts.iter().all(|v| v.starts_with("Gets home")), "{verdicts:?}");
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
        let file = app.get("/rigs/2/decision.html").await.text("body");
        for (name, words) in &said {
            assert!(file.contains(words.as_str()), "{name}: {words}");
        }
        // What is built says the same.
        let first = &names[0];
        app.post("/rigs/2/build/choose", &format!("pack={}", ids[0])).await;
        let sheets = app.get("/rigs/2/build/sheets").await.texts(".paper-plan");
        assert!(sheets.iter().all(|s| s.starts_with(said[first].as_str())), "{sheets:?}");
        *seen.entry("on sheets").or_insert(0) += sheets.len();
        let built = app.get("/rigs/2/build").await;
        assert!(
            built.text(".build-day").contains(&said[first]),
            "{first}: {}",
            built.text(".build-day")
        );
    }
    for words in [
        "Gets home with",
        "Gets home, but",
        "Stops at",
        "BMS shuts off",
        "Cannot hold in",
        "Cannot make",
        "Gets home, ",
    ] {
        assert!(seen.contains_key(words), "{words} was never looked at: {seen:?}");
    }
    assert!(seen["on packs"] > 0 && seen["on sheets"] > 0, "{seen:?}");
}
