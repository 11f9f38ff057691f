//! Whatever is submitted twice is done once; whatever is meant twice is done twice.

use super::app::TestApp;
use axum::http::StatusCode;

/// What the forms of a page that add say they are sent from.
async fn token(app: &TestApp, page: &str) -> String {
    app.get(page).await.attribute("input[name=once]", "value").unwrap()
}

async fn plan(app: &TestApp) -> serde_json::Value {
    serde_json::from_str(&app.get("/rigs/1/plan.json").await.body).unwrap()
}

#[tokio::test]
async fn a_form_sent_twice_adds_one() {
    let app = TestApp::with_demo().await;
    let stretches = async || plan(&app).await["day"]["stretches"].as_array().unwrap().len();
    let before = stretches().await;
    let add = async |once: &str| {
        app.post(
            "/rigs/1/stretches?page=day",
            &format!("kind=off&name=Rest&minutes=10&once={once}"),
        )
        .await
    };
    let once = token(&app, "/rigs/1/day").await;
    // At the same time, as a double click does, and once more after it.
    let (a, b) = tokio::join!(add(&once), add(&once));
    let c = add(&once).await;
    assert_eq!(stretches().await, before + 1);
    for answer in [a, b, c] {
        assert_eq!(answer.status, StatusCode::SEE_OTHER);
        assert!(
            answer.header("location").starts_with("/rigs/1/day"),
            "{}",
            answer.header("location")
        );
    }
    // From the page as it is now the same is another one.
    let next = token(&app, "/rigs/1/day").await;
    assert_ne!(next, once);
    add(&next).await;
    assert_eq!(stretches().await, before + 2);
    // Without a token nothing is taken for the same: other programs may send what they like.
    for _ in 0..2 {
        app.post("/rigs/1/stretches", "kind=off&name=Rest&minutes=10").await;
    }
    assert_eq!(stretches().await, before + 4);
    // What was refused was not done: it can be sent again, whatever is wrong with it.
    let once = token(&app, "/rigs/1/day").await;
    let bad = format!("kind=off&minutes=never&once={once}");
    for _ in 0..2 {
        assert_eq!(
            app.post("/rigs/1/stretches", &bad).await.status,
            StatusCode::UNPROCESSABLE_ENTITY
        );
    }
    assert_eq!(stretches().await, before + 4);
}

/// The same for everything else that adds.
#[tokio::test]
async fn every_form_that_adds_adds_one() {
    let app = TestApp::with_demo().await;
    let counts = async || {
        let plan = plan(&app).await;
        let rigs = app.get("/rigs").await.texts(".rigs > li").len();
        let shelf = app.get("/rigs/1/shelf.csv").await.body.lines().count();
        let log = app.get("/rigs/1/log.json").await.body.matches("\"outing\"").count();
        [
            plan["packs"].as_array().unwrap().len(),
            plan["day"]["stretches"].as_array().unwrap().len(),
            rigs,
            shelf,
            log,
        ]
    };
    let saved = app.get("/rigs/1/plan.json").await.body;
    let pack = "name=Reed&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=60&capacity_hours=5&series=2&parallel=1";
    let taken: String = saved.bytes().map(|b| format!("%{b:02x}")).collect();
    for (page, path, form, adds) in [
        ("/rigs/1/board?open=new", "/rigs/1/packs/new", pack, [1, 0, 0, 0, 0]),
        ("/rigs/1/day", "/rigs/1/stretches/1/copy", "", [0, 1, 0, 0, 0]),
        (
            "/rigs/1/shelf?open=new",
            "/rigs/1/shelf",
            "name=Reed+9&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=50&capacity_hours=5",
            [0, 0, 0, 1, 0],
        ),
        ("/rigs/1/shelf?battery=3", "/rigs/1/shelf/3/copy", "", [0, 0, 0, 1, 0]),
        ("/rigs/1/shelf", "/rigs/1/shelf/3/pick", "", [1, 0, 0, 0, 0]),
        ("/rigs", "/rigs/1/duplicate", "", [0, 0, 1, 0, 0]),
        ("/", "/start/own", "", [0, 0, 1, 0, 0]),
        ("/plan", "/plan/take", "", [0, 0, 1, 0, 0]),
        (
            "/rigs/1/log",
            "/rigs/1/log/new/log-outing?page=log",
            "date=2026-09-22&of=pack-3&by=meter&name=Trip&end=50+%25",
            [0, 0, 0, 0, 1],
        ),
    ] {
        let now = app.get("/rigs/1/now").await.body;
        let once = if page.starts_with("/rigs/1/") { now } else { "3".to_owned() };
        let form =
            if path == "/plan/take" { format!("plan={taken}&as=new") } else { form.to_owned() };
        let form = format!("{form}&once={once}");
        let before = counts().await;
        let (a, b) = tokio::join!(app.post(path, &form), app.post(path, &form));
        let after = counts().await;
        let added: Vec<usize> = std::iter::zip(after, before).map(|(a, b)| a - b).collect();
        assert_eq!(added, adds, "{path} {} {}", a.texts(".problem").join(" "), b.status);
        assert_eq!(
            a.header("location").split('?').next(),
            b.header("location").split('?').next(),
            "{path}"
        );
    }
}
