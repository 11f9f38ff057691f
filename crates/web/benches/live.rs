//! From what a source tells to what a page is told, in one run: `cargo bench -p lake-hour-web --bench live`.
//!
//! Goal: a tenth of a second in the middle, of a source that tells once a second, once the two go together.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use axum::body::Body;
use axum::http::{Request, header};
use futures_util::{SinkExt, StreamExt};
use lake_hour_store::Store;
use lake_hour_web::{App, Demo, router};
use std::time::{Duration, Instant};
use tokio::net::TcpListener;
use tokio_tungstenite::tungstenite::Message;
use tower::ServiceExt;

const HOST: &str = "127.0.0.1:8640";

/// Volts of a battery that say when they were told: a tenth of a volt for a hundredth of a second.
async fn tells(listener: TcpListener, begun: Instant) {
    let (stream, _) = listener.accept().await.unwrap();
    let mut socket = tokio_tungstenite::accept_async(stream).await.unwrap();
    loop {
        let volts = 100.0 + begun.elapsed().as_secs_f64() * 10.0;
        let told = format!(
            r#"{{"updates":[{{"values":[{{"path":"electrical.batteries.a.voltage","value":{volts}}},{{"path":"electrical.batteries.a.current","value":-9}}]}}]}}"#
        );
        if socket.send(Message::text(told)).await.is_err() {
            return;
        }
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
}

#[tokio::main]
async fn main() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("bench.db")).await.unwrap();
    let plan = include_bytes!("../../../demo/heron-pond.plan.json");
    store.import(lake_hour_formats::plan::read(plan).unwrap()).await.unwrap();
    let app = router(
        App::new(store, Demo { plans: Vec::new(), shelf: Vec::new() }),
        HOST.parse().unwrap(),
    );
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let form = format!(
        "source=signalk&address={}&start=100&back=straight",
        listener.local_addr().unwrap()
    );
    let begun = Instant::now();
    tokio::spawn(tells(listener, begun));
    let begin = Request::post("/rigs/1/live/begin")
        .header(header::HOST, HOST)
        .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
        .body(Body::from(form));
    app.clone().oneshot(begin.unwrap()).await.unwrap();
    let look = Request::get("/rigs/1/live/events").header(header::HOST, HOST).body(Body::empty());
    let answer = app.oneshot(look.unwrap()).await.unwrap();
    let mut events = answer.into_body().into_data_stream();
    let mut late = Vec::new();
    while begun.elapsed() < Duration::from_secs(25) {
        let text = String::from_utf8(events.next().await.unwrap().unwrap().to_vec()).unwrap();
        let now = begun.elapsed().as_secs_f64();
        let face: serde_json::Value =
            serde_json::from_str(text.trim().trim_start_matches("data: ")).unwrap();
        let volts =
            face["cells"][1][0].as_str().unwrap().trim_end_matches(" V").parse::<f64>().unwrap();
        late.push(now - (volts - 100.0) / 10.0);
    }
    let mut later = late.split_off(late.len() / 2);
    later.sort_by(f64::total_cmp);
    let (middle, worst) = (later[later.len() / 2], later[later.len() - 1]);
    println!(
        "told to told on: {:.0} ms in the middle (goal 100), {:.0} ms at the most",
        middle * 1e3,
        worst * 1e3
    );
}
