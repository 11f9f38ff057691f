//! Speed of the Board's answers, as ratios within one run: `cargo bench -p lake-hour-web`.
//!
//! Twenty lanes with their bands. Goals: an answer whose packs are judged already, and one that opens a panel,
//! take at most half of what it takes where every pack is judged anew; a what-if that was looked at before no
//! more than that either. The Packs of a shelf of a thousand in 250 ms, the same again in 60.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use axum::Router;
use axum::body::Body;
use axum::http::Request;
use lake_hour_store::{Change, RigId, Store};
use lake_hour_web::{App, Demo, router};
use std::time::{Duration, Instant};
use tower::ServiceExt;

async fn asked(router: &Router, path: &str, swapped: bool) -> Duration {
    let mut request = Request::get(path).header("host", "127.0.0.1:8640");
    if swapped {
        request = request.header("HX-Request", "true").header("HX-Request-Type", "partial");
    }
    let start = Instant::now();
    let answer = router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap();
    assert!(answer.status().is_success(), "{path}: {}", answer.status());
    axum::body::to_bytes(answer.into_body(), usize::MAX).await.unwrap();
    start.elapsed()
}

fn median(mut times: Vec<Duration>) -> f64 {
    times.sort();
    times[times.len() / 2].as_secs_f64() * 1e3
}

const TIMES: usize = 40;

#[tokio::main]
async fn main() {
    // `cargo test --benches` only looks whether it runs.
    let times = if std::env::args().any(|a| a == "--bench") { TIMES } else { 1 };
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("bench.db")).await.unwrap();
    let plan = include_bytes!("../../../demo/heron-pond.plan.json");
    let mut plan = lake_hour_formats::plan::read(plan).unwrap();
    let packs = plan.packs.clone();
    plan.packs = packs.iter().cycle().take(20).cloned().collect();
    let rig = store.import(plan.clone()).await.unwrap();
    assert_eq!(rig, RigId(1));
    let app = App::new(store.clone(), Demo { plans: Vec::new(), shelf: Vec::new() });
    let router = router(app, "127.0.0.1:8640".parse().unwrap());
    let mut anew = Vec::new();
    for n in 0..times {
        // Another day is judged anew.
        let mut day = plan.day.clone();
        day.outings_per_year += n as f64 + 1.0;
        store.change(rig, Change::EditDay(Box::new(day))).await.unwrap();
        anew.push(asked(&router, "/rigs/1/board", false).await);
    }
    let anew = median(anew);
    println!("a board of 20 lanes, every pack judged anew: {anew:.2} ms");
    for (what, path, swapped) in [
        ("the same again", "/rigs/1/board", false),
        ("a panel opened", "/rigs/1/board?open=pack-2", true),
        ("its working opened", "/rigs/1/board?open=working-2", true),
        ("a what-if", "/rigs/1/board?if=wind", true),
        ("the day of it", "/rigs/1/day", false),
    ] {
        asked(&router, path, swapped).await;
        let mut all = Vec::new();
        for _ in 0..times {
            all.push(asked(&router, path, swapped).await);
        }
        let again = median(all);
        println!("{what}: {again:.2} ms, {:.2} of it (goal: at most 0.5)", again / anew);
    }
    thousand(&store, &router, &plan, times.min(8)).await;
}

/// What could be built of a thousand batteries.
async fn thousand(store: &Store, router: &Router, plan: &lake_hour_core::plan::Plan, times: usize) {
    let shelf = include_bytes!("../../../demo/heron-pond.shelf.json");
    let demo = lake_hour_formats::shelf::read(shelf).unwrap();
    let thousand = demo.iter().cycle().take(1_000).zip(0..).map(|(one, n)| {
        let mut one = one.clone();
        one.battery.name = format!("{} {n}", one.battery.name);
        one
    });
    store.stock(thousand.collect()).await.unwrap();
    let (mut anew, mut again, mut asks) = (Vec::new(), Vec::new(), 0);
    for n in 0..times {
        let mut day = plan.day.clone();
        day.outings_per_year += n as f64 + 100.0;
        store.change(RigId(1), Change::EditDay(Box::new(day))).await.unwrap();
        let start = Instant::now();
        let first = asked(router, "/rigs/1/packs", false).await;
        asks = 1;
        // Where the first answer holds only a part, the page asks on.
        while start.elapsed() < Duration::from_secs(5) && !is_done(router).await {
            asks += 1;
        }
        anew.push(first);
        again.push(asked(router, "/rigs/1/packs", false).await);
    }
    let (anew, again) = (median(anew), median(again));
    println!(
        "packs of 1,000 batteries: first answer {anew:.0} ms (goal 250), complete after {asks}; the same again {again:.0} ms (goal 60)"
    );
}

async fn is_done(router: &Router) -> bool {
    let request = Request::get("/rigs/1/packs").header("host", "127.0.0.1:8640");
    let answer = router.clone().oneshot(request.body(Body::empty()).unwrap()).await.unwrap();
    let body = axum::body::to_bytes(answer.into_body(), usize::MAX).await.unwrap();
    !String::from_utf8_lossy(&body).contains("id=\"packs-progress\"")
}
