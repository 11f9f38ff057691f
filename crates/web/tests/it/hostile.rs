//! Whatever is typed into whatever form: an answer in words, no panic, nothing lost.

use crate::app::TestApp;
use axum::http::StatusCode;

/// Every form there is, with fields that are good but for the one named last.
const FORMS: &[(&str, &str, &str)] = &[
    (
        "/rigs/1/rules?open=rules",
        "reserve=20&flooded=50&agm=50&gel=50&lfp=10&nmc=15&horizon=10&kept=77&resting=100",
        "reserve",
    ),
    (
        "/rigs/1/packs/new?open=new-pack",
        "name=X&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=100&series=1&parallel=1&extra=0",
        "mass_kg",
    ),
    (
        "/rigs/1/packs/1?open=pack-1",
        "name=X&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=100&series=1&parallel=1&extra=0",
        "peak",
    ),
    ("/rigs/1/stretches/1?open=day", "name=Out&minutes=40&kind=current&amount=9", "minutes"),
    (
        "/rigs/1/stretches/1?page=day&open=stretch-1",
        "name=Out&minutes=40&kind=speed&amount=3&share=100&heading=into",
        "share",
    ),
    ("/rigs/1/stretches?page=day", "name=Out&minutes=40&kind=distance&amount=3", "amount"),
    ("/rigs/1/day?page=day", "start=07:00&outings=30&days=1&wind=0&current=0", "wind"),
    ("/rigs/1/hourly?page=day", "from_0=12:00&wind_0=3", "current_0"),
    ("/rigs/1/devices?page=day", "name_0=Sonar&draw_0=18&on_0=house", "hours_0"),
    ("/rigs/1/craft?page=rig", "name=Skiff&kind=v_hull&people=2", "windage"),
    ("/rigs/1/motor?page=rig", "motor=M&volts=24&max=50&count=1", "lowest"),
    ("/rigs/1/draw?page=rig", "setting_0=5&amps_0=12", "amps_1"),
    ("/rigs/1/measured?page=rig", "speed_0=2&amps_0=5", "amps_1"),
    (
        "/rigs/1/bays?page=rig",
        "name_0=Box&place_0=bow&length_0=20&width_0=15&height_0=10",
        "limit_0",
    ),
    (
        "/rigs/1/chargers?page=rig",
        "name_0=C&supply_0=mains&volts_0=12&amps_0=5&profiles_0=",
        "hours_0",
    ),
    (
        "/rigs/1/shelf?open=new-lfp-",
        "name=X&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=100&origin=label",
        "energy_wh",
    ),
    (
        "/rigs/1/shelf/1?open=edit-1",
        "name=X&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=100&origin=told",
        "cold_cutoff_c",
    ),
    ("/rigs/1/shelf/1/origins?open=battery-1", "by_volts=label", "on_volts"),
    ("/rigs/1/shelf/paste?open=paste", "", "text"),
];

/// What people and machines type where a figure is wanted.
fn wicked() -> Vec<String> {
    let mut all: Vec<String> = [
        "-1e9",
        "NaN",
        "inf",
        "-inf",
        "1e309",
        "0x1F",
        "1/0",
        "--",
        "1.2.3",
        "1,2,3",
        "lots",
        "%FF%FE",
        "<script>alert(1)</script>",
        "'; DROP TABLE rig; --",
        "\u{202e}12",
        "%00",
        "12 furlongs",
        "٣",
    ]
    .map(str::to_owned)
    .into();
    all.push("9".repeat(5000));
    all
}

/// All that is kept of rig 1 and of the shelf.
async fn kept(app: &TestApp) -> String {
    app.get("/rigs/1/plan.json").await.body + &app.get("/rigs/1/shelf.json").await.body
}

#[tokio::test]
async fn every_form_answers_whatever_is_typed_and_keeps_it_beside_what_is_allowed() {
    let app = TestApp::with_demo().await;
    let kept = kept(&app).await;
    for (address, good, field) in FORMS {
        for typed in wicked() {
            let encoded: String = if typed.starts_with('%') {
                typed.clone()
            } else {
                form_urlencoded::byte_serialize(typed.as_bytes()).collect()
            };
            let form = format!("{good}&{field}={encoded}");
            // A field that comes twice counts as it came last.
            let answer = app.swap(address, &form).await;
            let shown = format!("{address} {field}={}", typed.chars().take(40).collect::<String>());
            assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{shown}");
            let says = answer.texts(".problem");
            assert!(!says.is_empty() && says.iter().all(|s| s.len() < 250), "{shown}: {says:?}");
            assert!(!answer.body.contains("<script>alert"), "{shown}");
            assert!(answer.text("#notice").starts_with("Not saved yet"), "{shown}");
        }
    }
    assert!(self::kept(&app).await == kept, "nothing was changed by any of it");
}

/// Each form sent as it is shown changes nothing: what a page shows is what it would keep, in every set
/// of units.
#[tokio::test]
async fn a_form_sent_as_shown_changes_nothing() {
    use scraper::{Html, Selector};
    for units in ["us", "nautical", "metric"] {
        let app = TestApp::with_demo().await;
        let before = kept(&app).await;
        for page in [
            "/rigs/1/rig",
            "/rigs/1/day?open=stretch-1",
            "/rigs/1/day?open=stretch-6",
            "/rigs/1/board?open=rules",
            "/rigs/1/board?open=pack-4",
            "/rigs/1/board?open=day",
            "/rigs/1/shelf?open=edit-3",
            "/rigs/1/shelf?open=edit-26",
            "/rigs/1/shelf?open=battery-5",
        ] {
            let request = axum::http::Request::get(page)
                .header("host", crate::app::HOST)
                .header("cookie", format!("units={units}"));
            let shown = app.send(request.body(axum::body::Body::empty()).unwrap()).await;
            let forms: Vec<(String, String)> = {
                let html = Html::parse_document(&shown.body);
                let select = |css: &str| Selector::parse(css).unwrap();
                html.select(&select("form[data-draft]"))
                    .filter(|f| !f.attr("class").unwrap_or_default().contains("stretch-new"))
                    .map(|form| {
                        let mut body = form_urlencoded::Serializer::new(String::new());
                        for input in form.select(&select("input")) {
                            let off = input.attr("type") == Some("checkbox")
                                && input.attr("checked").is_none();
                            if let (Some(name), false) = (input.attr("name"), off) {
                                let on =
                                    if input.attr("type") == Some("checkbox") { "on" } else { "" };
                                body.append_pair(name, input.attr("value").unwrap_or(on));
                            }
                        }
                        for choice in form.select(&select("select")) {
                            let options = select("option");
                            let chosen = choice
                                .select(&options)
                                .find(|o| o.attr("selected").is_some())
                                .or_else(|| choice.select(&options).next())
                                .and_then(|o| o.attr("value"));
                            body.append_pair(
                                choice.attr("name").unwrap(),
                                chosen.unwrap_or_default(),
                            );
                        }
                        (form.attr("action").unwrap().to_owned(), body.finish())
                    })
                    .collect()
            };
            assert!(!forms.is_empty(), "{page} has forms");
            for (action, body) in forms {
                let request = crate::app::post(&action, "")
                    .header("HX-Request-Type", "partial")
                    .header("cookie", format!("units={units}"))
                    .body(axum::body::Body::from(body.clone()))
                    .unwrap();
                let answer = app.send(request).await;
                assert_eq!(
                    answer.status,
                    StatusCode::OK,
                    "{units} {action}: {body} {:?}",
                    answer.texts(".problem")
                );
                assert!(kept(&app).await == before, "{units}: {action} with {body}");
            }
        }
    }
}

#[tokio::test]
async fn units_are_remembered_and_unknown_ones_are_the_usual() {
    let app = TestApp::with_demo().await;
    let answer = app.post("/units/metric", "").await;
    assert_eq!(
        answer.header("set-cookie"),
        "units=metric; Path=/; Max-Age=31536000; SameSite=Strict"
    );
    assert!(app.post("/units/furlongs", "").await.header("set-cookie").starts_with("units=us;"));
    let with = |cookie: &'static str| {
        axum::http::Request::get("/rigs/1/board")
            .header("host", crate::app::HOST)
            .header("cookie", cookie)
            .body(axum::body::Body::empty())
            .unwrap()
    };
    let metric = app.send(with("theme=night; units=metric")).await;
    assert!(
        metric.text(".facts").contains("wind 12.9 km/h, changing · 18 °C"),
        "{}",
        metric.text(".facts")
    );
    assert_eq!(metric.attribute("html", "data-theme").as_deref(), Some("night"));
    let nautical = app.send(with("units=nautical")).await;
    assert!(nautical.text(".facts").contains("wind 7 kn"));
    assert!(app.send(with("units=<x>; theme=%00")).await.text(".facts").contains("wind 8 mph"));
}

/// US owners see no millimeters or kilometers, metric ones no feet or miles; nothing is "-0".
#[tokio::test]
async fn no_page_mixes_the_units_shown() {
    let app = TestApp::with_demo().await;
    let with = |path: &str, units: &str| {
        axum::http::Request::get(path)
            .header("host", crate::app::HOST)
            .header("cookie", format!("units={units}"))
            .body(axum::body::Body::empty())
            .unwrap()
    };
    let pages = [
        "rig",
        "day?open=stretch-1",
        "packs?fits=yes",
        "shelf?open=battery-3",
        "shelf?label=doubtful&open=battery-34",
        "packs?pack=1-2x1",
        "packs?turn=yes&td=5&cranks=4&starter=150&lead=4",
        "packs?pack=19-2x2&beside=1-2x1_4-2x2",
        "board?open=working-5",
        "board?open=day",
    ];
    for page in pages {
        let path = format!("/rigs/1/{page}");
        let mut words = std::collections::BTreeMap::new();
        for units in ["us", "metric"] {
            let page = app.send(with(&path, units)).await;
            // Names are what people call things, and formulas are in SI: they are not told apart here.
            let names = page.texts(".block-words, .why p, option, .formula, .hint, .wiring-runs td:nth-child(2), .cable-name, .wiring");
            let text = names.iter().fold(page.text("main"), |t, n| t.replace(n.as_str(), " "));
            let text = text.replace("wind 8 mph", "").replace("wind 12 mph", "");
            words.insert(units, text);
        }
        let has = |units: &str, unit: &str| {
            let text = &words[units];
            let mut at = text.match_indices(unit);
            at.any(|(i, _)| {
                text[..i].ends_with(|c: char| c.is_ascii_digit()) || text[..i].ends_with("0 ")
            })
        };
        for unit in [" mm", " km", " kg", " km/h", " °C", " N ", " m²"] {
            assert!(!has("us", unit), "{unit} in {path}: {}", words["us"]);
        }
        for unit in [" in ", " mi", " lb", " mph", " °F", " ft", " lbf"] {
            if unit == " in " || unit == " mi" && words["metric"].contains(" min") {
                continue;
            }
            assert!(!has("metric", unit), "{unit} in {path}: {}", words["metric"]);
        }
        for (units, text) in words {
            for odd in ["-0.0", "-0 %", " 0.0 h", "NaN", "inf "] {
                assert!(!text.contains(odd), "{odd} in {path} in {units}: {text}");
            }
        }
    }
}

/// Twelve hours or twenty-four, as chosen: shown so and read both ways.
#[tokio::test]
async fn the_clock_is_the_one_that_was_chosen() {
    let app = TestApp::with_demo().await;
    assert!(app.post("/clock/12", "").await.header("set-cookie").starts_with("clock=12;"));
    assert!(app.post("/clock/sundial", "").await.header("set-cookie").starts_with("clock=24;"));
    let request = axum::http::Request::get("/rigs/1/day")
        .header("host", crate::app::HOST)
        .header("cookie", "clock=12")
        .body(axum::body::Body::empty())
        .unwrap();
    let day = app.send(request).await;
    assert_eq!(day.attribute("#day-start", "value").as_deref(), Some("7:00 AM"));
    assert_eq!(day.attribute("#hourly-from_0", "value").as_deref(), Some("12:00 PM"));
    assert!(day.text(".minis").contains("Stops at 12:53 PM"), "{}", day.text(".minis"));
    assert!(day.texts(".tick-text").contains(&"7 AM".to_owned()), "{:?}", day.texts(".tick-text"));
    for (typed, shown) in
        [("1300", "13:00"), ("1:00+PM", "13:00"), ("7+am", "07:00"), ("6:05", "06:05")]
    {
        let frame = format!("start={typed}&outings=40&days=1&wind=8&current=0");
        let page = app.swap("/rigs/1/day?page=day", &frame).await;
        assert_eq!(page.attribute("#day-start", "value").as_deref(), Some(shown), "{typed}");
    }
    let bad = app.swap("/rigs/1/day?page=day", "start=noon&outings=40&days=1").await;
    assert_eq!(bad.text("#day-start-problem"), "Type a clock time, as in 7:00, 1300 or 1:00 PM.");
}

/// A row that is begun at any of its fields is asked for the rest, beside them, and what was typed stays.
#[tokio::test]
async fn a_row_may_be_begun_at_any_of_its_fields() {
    let app = TestApp::with_demo().await;
    for (form, prefix, page, fields) in [
        ("bays", "bay", "rig", &["length", "limit", "position", "layers"][..]),
        ("chargers", "charger", "rig", &["amps", "banks", "absorbs", "hours"][..]),
        ("draw", "draw", "rig", &["amps", "volts"][..]),
        ("devices", "device", "day", &["hours"][..]),
    ] {
        let shown = app.get(&format!("/rigs/1/{page}")).await;
        let filled = shown.filled(&format!("#form-{form}"));
        for field in fields {
            let last = (0..13).rev().map(|n| format!("{field}_{n}"));
            let blank = last.clone().find(|name| filled.iter().any(|(n, _)| n == name)).unwrap();
            let mut typed = form_urlencoded::Serializer::new(String::new());
            typed.extend_pairs(filled.iter().filter(|(name, _)| *name != blank));
            typed.append_pair(&blank, "3");
            let path = format!("/rigs/1/{form}?page={page}");
            let answer = app.swap(&path, &typed.finish()).await;
            assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{form} {field}");
            let kept = answer.attribute(&format!("#{prefix}-{blank}"), "value");
            assert_eq!(kept.as_deref(), Some("3"), "{form} {field}");
        }
    }
}
