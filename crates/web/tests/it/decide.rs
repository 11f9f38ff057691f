//! The decision on the Board: wants, money, what would change the answer, what gets a pack home, schools, comparing, passing on.

use crate::app::{HOST, TestApp, post};
use axum::body::Body;
use axum::http::{Request, StatusCode, header};

const BOARD: &str = "/rigs/1/board";

/// The Board with its decision worked out.
async fn weighed(app: &TestApp, query: &str) -> crate::app::Answer {
    let sign = if query.is_empty() { "?" } else { "&" };
    let page = app.get(&format!("{BOARD}{query}{sign}weigh=yes")).await;
    assert_eq!(page.status, StatusCode::OK);
    page
}

fn form(fields: &[(String, String)], changes: &[(&str, &str)]) -> String {
    let mut out = form_urlencoded::Serializer::new(String::new());
    for (name, value) in fields {
        let typed = changes.iter().find(|(n, _)| n == name).map_or(value.as_str(), |(_, v)| v);
        out.append_pair(name, typed);
    }
    out.finish()
}

async fn json(app: &TestApp, path: &str, body: &str) -> (StatusCode, serde_json::Value) {
    let request = Request::post(path)
        .header(header::HOST, HOST)
        .header(header::CONTENT_TYPE, "application/json")
        .body(Body::from(body.to_owned()));
    let answer = app.send(request.unwrap()).await;
    (answer.status, serde_json::from_str(&answer.body).unwrap_or_default())
}

#[tokio::test]
async fn a_chip_goes_round_its_levels_and_a_must_sets_aside() {
    let app = TestApp::with_demo().await;
    let page = app.get(BOARD).await;
    assert_eq!(page.texts(".want").len(), 5);
    assert!(page.attribute("#want-home_with", "class").unwrap().contains("want-nice"));
    assert!(
        page.attribute("#want-home_with", "aria-label")
            .unwrap()
            .contains("nice. Make it no matter")
    );
    let lanes = page.texts(".lane h3").len();
    app.post("/rigs/1/wants/home_with/no_matter", "").await;
    let page = app.swap("/rigs/1/wants/home_with/must", "").await;
    assert!(page.attribute("#want-home_with", "class").unwrap().contains("want-must"));
    // Those that do not get home with a tenth above their floor are set aside, each with what it has.
    assert_eq!(page.texts(".lane h3").len(), lanes - 5);
    assert_eq!(page.text(".aside h2"), "Set aside: 8 packs");
    let reasons = page.texts(".reason").join(" | ");
    assert!(reasons.contains("must be: home with 10 % above the floor (Stops at "), "{reasons}");
    assert!(
        page.texts(".aside-counts span").contains(&"5 home with 10 % above the floor".to_owned())
    );
    // Nothing is left at all: what excludes most is said.
    app.post(
        "/rigs/1/wants",
        &form(
            &app.get(&format!("{BOARD}?open=wants")).await.filled("#form-wants"),
            &[("cheap_now", "must"), ("cheap_now_limit", "10")],
        ),
    )
    .await;
    let none = app.get(BOARD).await;
    assert!(none.texts(".lane").is_empty());
    assert!(
        none.text(".excludes").contains("under $10.00 now (7 of 11 packs)"),
        "{}",
        none.text(".excludes")
    );
    let back = app.swap("/rigs/1/undo", "").await;
    assert!(back.text("#notice").contains("Changed what you want"));
    assert_eq!(app.get("/rigs/1/wants/nonsense/must").await.status, StatusCode::SEE_OTHER);
    assert_eq!(app.post("/rigs/1/wants/nonsense/must", "").await.status, StatusCode::NOT_FOUND);
    assert_eq!(app.post("/rigs/1/wants/home_with/never", "").await.status, StatusCode::NOT_FOUND);
    assert_eq!(app.post("/rigs/1/wants/preset/nobody", "").await.status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_chip_in_an_old_window_does_what_it_says() {
    let app = TestApp::with_demo().await;
    let old = app.get(BOARD).await;
    assert!(old.attribute("#want-home_with", "aria-label").unwrap().ends_with("Make it no matter"));
    let press = old.attribute("form:has(> #want-home_with)", "action").unwrap();
    // Two windows stand open; the same chip is pressed in both.
    for _ in 0..2 {
        let page = app.swap(&press, "").await;
        let says = page.attribute("#want-home_with", "aria-label").unwrap();
        assert!(says.contains("no matter. Make it must"), "{says}");
    }
}

#[tokio::test]
async fn wants_are_typed_with_limits_of_their_own_and_refused_beside_the_field() {
    let app = TestApp::with_demo().await;
    let open = format!("{BOARD}?open=wants");
    let fields = app.get(&open).await.filled("#form-wants");
    assert_eq!(fields.iter().find(|f| f.0 == "light_limit").unwrap().1, "60");
    let bad = form(
        &fields,
        &[
            ("light_limit", "heavy"),
            ("full_by_limit", "noon"),
            ("fits_limit", "Attic"),
            ("warranty_limit", "-3"),
        ],
    );
    let refused = app.swap("/rigs/1/wants?open=wants", &bad).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    let problems = refused.texts("#form-wants .problem").join(" | ");
    for says in ["not a number", "as in 7:00", "Bow box", "from 0 to 50 years"] {
        assert!(problems.contains(says), "{says}: {problems}");
    }
    assert_eq!(refused.attribute("#wants-fits_limit", "value").unwrap(), "Attic", "kept as typed");
    let good = form(
        &fields,
        &[
            ("full_by", "must"),
            ("full_by_limit", "6:15 AM"),
            ("no_lead", "nice"),
            ("light_limit", "65"),
        ],
    );
    assert_eq!(app.post("/rigs/1/wants?open=wants", &good).await.status, StatusCode::SEE_OTHER);
    let page = app.get(&open).await;
    let chips = page.texts(".want");
    assert!(
        chips.contains(&"full by 06:15".to_owned()) && chips.contains(&"under 65 lb".to_owned()),
        "{chips:?}"
    );
    // An untouched form changes nothing, in whatever units.
    let before = app.get("/rigs/1/plan.json").await.body;
    for units in ["us", "metric", "nautical"] {
        app.post(&format!("/units/{units}"), "").await;
        let request = Request::get(&open)
            .header(header::HOST, HOST)
            .header(header::COOKIE, format!("units={units}"));
        let page = app.send(request.body(Body::empty()).unwrap()).await;
        let same = form(&page.filled("#form-wants"), &[]);
        let sent =
            post("/rigs/1/wants?open=wants", "").header(header::COOKIE, format!("units={units}"));
        app.send(sent.body(Body::from(same)).unwrap()).await;
    }
    assert_eq!(app.get("/rigs/1/plan.json").await.body, before);
}

/// Each preset is another user of the same rig; the answers differ and each can be told the reason of.
#[tokio::test]
async fn presets_are_different_users_of_one_rig() {
    let app = TestApp::with_demo().await;
    let mut firsts = std::collections::BTreeSet::new();
    for preset in ["weekend_angler", "tournament", "guide", "liveaboard", "commuter", "campground"]
    {
        app.post(&format!("/rigs/1/wants/preset/{preset}"), "").await;
        let page = app.get(BOARD).await;
        assert!(!page.texts(".want").is_empty(), "{preset}");
        let none = page.texts(".excludes").len();
        let first = page.texts(".lane:has(.tag-first) h3");
        assert!(none == 1 || page.texts(".lane h3").len() <= 1 || first.len() == 1, "{preset}");
        firsts.extend(first);
    }
    assert!(!firsts.is_empty());
    let page = app.swap("/rigs/1/undo", "").await;
    assert!(page.text("#notice").starts_with("Taken back"));
}

#[tokio::test]
async fn money_is_typed_and_counts_in_every_figure() {
    let app = TestApp::with_demo().await;
    let open = format!("{BOARD}?open=money");
    let page = app.get(&open).await;
    assert!(page.text("#panel-money").contains("counts as $0.17"));
    let fields = page.filled("#form-money");
    let refused = app
        .swap(
            "/rigs/1/money?open=money",
            &form(
                &fields,
                &[("discount", "100"), ("sale", "-5"), ("currency", "dollars"), ("energy", "x")],
            ),
        )
        .await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    let problems = refused.texts("#form-money .problem").join(" | ");
    for says in ["from 0 to 50%", "from 0 to 1000000", "three letters", "not a number"] {
        assert!(problems.contains(says), "{says}: {problems}");
    }
    let all_in = |page: &crate::app::Answer| page.texts("#lane-3 dd")[2].clone();
    assert_eq!(all_in(&page), "$945");
    app.post(
        "/rigs/1/money",
        &form(&fields, &[("sale", "50"), ("currency", "eur"), ("energy", "0.5")]),
    )
    .await;
    let page = app.get(BOARD).await;
    assert_eq!(all_in(&page), "€895", "less what is sold");
    // The pack aboard is not sold to keep it, and the sums add up in its working.
    let working = app.get(&format!("{BOARD}?open=working-3")).await;
    let cost = working
        .texts(".working-line")
        .into_iter()
        .find(|l| l.starts_with("Cost per cycle"))
        .unwrap();
    assert!(cost.contains("less what you sell €50") && cost.contains("30 outings x"), "{cost}");
    assert!(page.text("#spent-title").contains("10 years"));
    let keys = page.texts(".spent-key li");
    assert_eq!(keys.iter().filter(|k| !k.contains("dearer")).count(), 4, "four lines: {keys:?}");
    assert_eq!(keys.len(), 5, "and one that crosses another: {keys:?}");
    let sums = page.texts(".spent-sums tbody th");
    assert!(sums.iter().any(|s| s.contains("by its label's cycles")), "{sums:?}");
    // A horizon of nothing is refused where it is typed.
    let rules = app.get(&format!("{BOARD}?open=rules")).await.filled("#form-rules");
    let refused = app.swap("/rigs/1/rules?open=rules", &form(&rules, &[("horizon", "0")])).await;
    assert!(refused.texts("#form-rules .problem").join(" ").contains("from 1 to 50 years"));
}

#[tokio::test]
async fn extras_are_told_item_by_item_and_a_credit_is_negative() {
    let app = TestApp::with_demo().await;
    let page = app.get(&format!("{BOARD}?open=pack-4")).await;
    let fields = page.filled("#pack-4");
    let typed = [("charger", "90"), ("cables", "40"), ("labour", "30"), ("disposal", "-12.5")];
    app.post("/rigs/1/packs/4?open=pack-4", &form(&fields, &typed)).await;
    let page = app.get(&format!("{BOARD}?open=pack-4")).await;
    let kept = page.filled("#pack-4");
    for (name, value) in typed {
        assert_eq!(kept.iter().find(|f| f.0 == name).unwrap().1, value);
    }
    assert_eq!(page.texts("#lane-4 dd")[2], "$798", "638 and 160 besides");
    let refused = app.swap("/rigs/1/packs/4?open=pack-4", &form(&kept, &[("cables", "-1")])).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn what_would_change_the_answer_is_told_drawn_and_mapped() {
    let app = TestApp::with_demo().await;
    let first = app.get(BOARD).await;
    assert!(first.text("#weighing").contains("Trying it out"));
    assert!(first.attribute("#weighing", "hx-get").unwrap().ends_with("weigh=yes"));
    let page = weighed(&app, "").await;
    let tips = page.texts(".tip p");
    assert!(tips.len() >= 5, "{tips:?}");
    assert!(
        tips.iter().any(|t| t.starts_with("Price of the first. If ") && t.contains("Now $320.")),
        "{tips:?}"
    );
    assert!(page.text("#change").contains("nothing within reason turns it."));
    assert_eq!(page.texts(".tip-bar svg[role=img]").len(), tips.len());
    assert!(page.text("#how-sure").contains("days in 100"));
    assert!(page.text("#how-sure").contains("Measure amps on"));
    // Known now, the page has it at once.
    let again = app.get(BOARD).await;
    assert!(again.texts("#weighing").is_empty());
    assert_eq!(again.texts(".tip p"), tips);
    let map = weighed(&app, "?map=wind.hours").await;
    assert_eq!(map.text("#map-title"), "Who comes first: wind and hours out");
    let key = map.texts(".map-key li");
    assert!(
        key.iter().any(|k| k.starts_with("Two Marl Point"))
            && key.iter().any(|k| k.starts_with("none gets home")),
        "{key:?}"
    );
    // All cells are drawn: 60 x 60 of them.
    let html = scraper::Html::parse_document(&map.body);
    let runs = scraper::Selector::parse(".map-picture rect").unwrap();
    let cells: usize =
        html.select(&runs).map(|r| r.attr("width").unwrap().parse::<usize>().unwrap()).sum();
    assert_eq!(cells, 3600);
    // A map of nonsense is none.
    assert!(weighed(&app, "?map=wind.wind").await.texts("#map").is_empty());
}

/// A pack that stops is brought home by a change that is offered, shown on every lane, and kept on the Day.
#[tokio::test]
async fn a_stopping_pack_is_brought_home_by_an_offered_change() {
    let app = TestApp::with_demo().await;
    let page = weighed(&app, "").await;
    let html = scraper::Html::parse_document(&page.body);
    let links = scraper::Selector::parse("#homes li:has(.disc:not(.disc-full)) a").unwrap();
    let offered: Vec<(String, String)> = html
        .select(&links)
        .map(|a| (a.text().collect::<String>(), a.attr("href").unwrap().to_owned()))
        .collect();
    assert!(offered.len() >= 4, "{offered:?}");
    for (words, href) in &offered {
        assert!(href.contains("if="), "{href}");
        let shown = app.get(href).await;
        assert!(
            shown.texts(".ifs .chip-on").contains(words),
            "{words}: {:?}",
            shown.texts(".ifs .chip")
        );
        assert!(!shown.texts(".was").is_empty(), "{words} changes something");
    }
    let reed =
        offered.iter().find(|(words, _)| words.ends_with("of the speed")).expect("slower home");
    let shown = app.get(&reed.1).await;
    let verdicts: Vec<_> =
        std::iter::zip(shown.texts(".lane h3"), shown.texts(".lane-figures .verdict")).collect();
    let (_, verdict) = verdicts.iter().find(|(n, _)| n == "Reed 24-100 slim").unwrap();
    assert!(verdict.starts_with("Gets home"), "{verdict}");
    // Kept, it is the day's.
    let query = reed.1.split_once('?').unwrap().1;
    app.post(&format!("/rigs/1/what-if?page=day&{query}"), "").await;
    let kept = app.get(BOARD).await;
    let verdicts: Vec<_> =
        std::iter::zip(kept.texts(".lane h3"), kept.texts(".lane-figures .verdict")).collect();
    assert!(verdicts.iter().any(|(n, v)| n == "Reed 24-100 slim" && v.starts_with("Gets home")));
    assert!(app.swap("/rigs/1/undo", "").await.text("#notice").starts_with("Taken back"));
}

#[tokio::test]
async fn another_string_or_size_is_put_beside_the_pack() {
    let app = TestApp::with_demo().await;
    let page = weighed(&app, "").await;
    let forms = page.texts("#homes form");
    assert!(
        forms.iter().any(|f| f == "one more beside it")
            && forms.iter().any(|f| f.starts_with("the next size, "))
    );
    let added = app.swap("/rigs/1/packs/6/string", "").await;
    assert_eq!(
        added.text("#notice").split('.').next().unwrap(),
        "Added the pack Heron 24-50, one string more"
    );
    let lanes = added.texts(".lane h3");
    assert!(lanes.contains(&"Heron 24-50, one string more".to_owned()));
    let sized = app.swap("/rigs/1/packs/6/sized", "ah=80").await;
    assert!(sized.texts(".lane h3").contains(&"Heron 24-50, larger".to_owned()));
    for bad in ["ah=", "ah=-3", "ah=1e99", "ah=x"] {
        assert_eq!(
            app.post("/rigs/1/packs/6/sized", bad).await.status,
            StatusCode::BAD_REQUEST,
            "{bad}"
        );
    }
}

#[tokio::test]
async fn lanes_fold_hide_and_come_back() {
    let app = TestApp::with_demo().await;
    let lanes = app.get(BOARD).await.texts(".lane").len();
    let folded = app.swap("/rigs/1/packs/3/slim", "").await;
    assert!(folded.attribute("#lane-3", "class").unwrap().contains("lane-slim"));
    let hidden = app.swap("/rigs/1/packs/2/hide", "").await;
    assert_eq!(hidden.texts(".lane").len(), lanes - 1);
    assert_eq!(hidden.text(".hidden-packs h2"), "Out of sight: 1");
    // Out of sight it is in no contest, and still in the plan.
    assert!(!weighed(&app, "").await.text("#how-sure").contains("Stillwater"));
    assert!(app.get("/rigs/1/plan.json").await.body.contains("\"shown\": \"hidden\""));
    let back = app.swap("/rigs/1/packs/2/full", "").await;
    assert_eq!(back.texts(".lane").len(), lanes);
}

#[tokio::test]
async fn schools_are_followed_everywhere_and_told_where_they_are_unusual() {
    let app = TestApp::with_demo().await;
    let page = app.get(&format!("{BOARD}?open=rules")).await;
    assert_eq!(page.texts(".school").len(), 12);
    assert_eq!(page.texts(".chip-chosen").len(), 12, "each house follows one of each");
    let says = page.texts(".school li").join(" | ");
    assert!(says.contains("would come first") && says.contains("the same answer"), "{says}");
    let page = app.swap("/rigs/1/schools/lfp_ceiling/2?open=rules", "").await;
    assert!(
        page.text(".board-rules .chip").contains("LFP 10 to 80 %"),
        "{}",
        page.text(".board-rules .chip")
    );
    let page = app.swap("/rigs/1/schools/old_charger/1?open=rules", "").await;
    assert!(page.text(".board-rules .chip").contains("drop-in is fine"));
    let page = app.swap("/rigs/1/schools/breaker/1?open=rules", "").await;
    assert!(page.text(".board-rules .chip").contains("the BMS is enough"));
    // The wiring follows it, but for lead, which has no BMS; what is asked for there goes before it.
    let wiring = |page: crate::app::Answer| page.texts("svg.wiring-wide text").join(" ");
    assert!(!wiring(app.get("/rigs/1/packs?pack=1-2x1").await).contains("breaker"));
    assert!(wiring(app.get("/rigs/1/packs?pack=1-2x1&breaker=on").await).contains("breaker"));
    assert_eq!(app.post("/rigs/1/schools/breaker/7", "").await.status, StatusCode::NOT_FOUND);
    assert_eq!(app.post("/rigs/1/schools/magic/0", "").await.status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn packs_stand_side_by_side_what_differs_first() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/compare?packs=3-4").await;
    assert_eq!(page.status, StatusCode::OK);
    assert_eq!(
        page.texts(".compare-table thead th a"),
        ["Two Marl Point 12-100", "Two Quarry AGM 31"]
    );
    let parts = page.texts(".compare-part");
    assert_eq!(parts[0], "Where they differ");
    let rows = page.texts(".compare-table tbody tr");
    let alike = rows.iter().position(|r| r == "Where they are alike").unwrap();
    assert!(rows[..alike].iter().any(|r| r.starts_with("weight 51 lb")), "{rows:?}");
    assert!(!page.texts(".is-better").is_empty());
    assert_eq!(page.texts(".compare .fit").len(), 2);
    assert_eq!(page.texts(".compare svg.wiring").len(), 2);
    let three = app.get("/rigs/1/compare?packs=3-4-1").await;
    assert_eq!(three.texts(".compare-table thead th").len(), 3);
    // As the form's choices send them; those that are nonsense or cannot be used are as if not asked for.
    assert_eq!(
        app.get("/rigs/1/compare?a=1&b=5&c=").await.texts(".compare-table thead th").len(),
        2
    );
    for odd in ["packs=3-3", "packs=9-10-11", "packs=x", "", "packs=99999999999999999999"] {
        let page = app.get(&format!("/rigs/1/compare?{odd}")).await;
        assert_eq!(
            (page.status, page.texts(".compare-table thead th").len()),
            (StatusCode::OK, 2),
            "{odd}"
        );
    }
}

#[tokio::test]
async fn a_board_is_passed_on_and_comes_back_whole() {
    let app = TestApp::with_demo().await;
    app.post("/rigs/1/packs/2/hide", "").await;
    app.post("/rigs/1/schools/old_charger/1", "").await;
    let fields = app.get(&format!("{BOARD}?open=money")).await.filled("#form-money");
    app.post("/rigs/1/money", &form(&fields, &[("discount", "3"), ("lithium", "-2")])).await;
    let shared = app.get("/rigs/1/shared.json").await;
    assert!(shared.header("content-disposition").contains("lake-hour.shared.json"));
    let document: serde_json::Value = serde_json::from_str(&shared.body).unwrap();
    assert_eq!(document["result"]["packs"].as_array().unwrap().len(), 11);
    let looked = app.upload("/plan", "shared.json", shared.body.as_bytes()).await;
    assert_eq!(looked.status, StatusCode::OK);
    let text = looked.text("textarea");
    let taken = form_urlencoded::Serializer::new(String::new())
        .append_pair("plan", &text)
        .append_pair("as", "new")
        .finish();
    let taken = app.post("/plan/take", &taken).await;
    assert_eq!(taken.status, StatusCode::SEE_OTHER);
    let plan = |body: &str| serde_json::from_str::<serde_json::Value>(body).unwrap();
    let (one, two) =
        (app.get("/rigs/1/plan.json").await.body, app.get("/rigs/2/plan.json").await.body);
    assert_eq!(plan(&one), plan(&two));
    // One of another version says so, and nothing is taken.
    let newer = shared.body.replacen("\"version\": 1", "\"version\": 9", 1);
    let refused = app.upload("/plan", "shared.json", newer.as_bytes()).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.body.contains("the file is version 9"), "{}", refused.body);
    // The page needs no server: nothing in it leads anywhere, its style stands in it.
    let page = app.get("/rigs/1/decision.html?if=wind").await;
    assert!(page.header("content-type").starts_with("text/html"));
    for outside in ["<script", "<link", "href=", "src=\"", "url(/", "http"] {
        assert!(!page.body.contains(outside), "{outside}");
    }
    assert!(page.text("body").contains("What if: wind up 5 mph.") && page.body.len() < 200_000);
    assert_eq!(page.texts(".lane").len(), 7);
    assert!(page.text("body").contains("What would change the answer"));
    let csv = app.get("/rigs/1/table.csv").await;
    assert_eq!(csv.body.lines().count(), 11, "a head, and ten that are in sight");
}

#[tokio::test]
async fn other_programs_get_the_same_documents() {
    let app = TestApp::with_demo().await;
    let plan = app.get("/rigs/1/plan.json").await.body;
    let (status, result) = json(&app, "/api/evaluate", &plan).await;
    assert_eq!(status, StatusCode::OK);
    let shared: serde_json::Value =
        serde_json::from_str(&app.get("/rigs/1/shared.json").await.body).unwrap();
    assert_eq!(result, shared["result"]);
    let (status, tipping) = json(&app, "/api/tipping", &plan).await;
    assert_eq!((status, tipping["first"].as_u64()), (StatusCode::OK, Some(2)));
    assert!(tipping["drivers"].as_array().unwrap().len() > 10);
    let (status, proposals) = json(&app, "/api/proposals", &plan).await;
    assert_eq!(status, StatusCode::OK);
    assert!(proposals["proposals"].as_array().unwrap().len() > 10);
    // What cannot be: where, and what is allowed.
    let hostile = [
        ("", ""),
        ("{}", ""),
        ("null", ""),
        ("[[[[", ""),
        ("{\"format\":\"lake-hour/plan\",\"version\":7}", ""),
        (&plan.replace("\"reserve\": 0.2", "\"reserve\": 7"), "house_rules.reserve"),
        (&plan.replace("\"price\": 1000", "\"price\": -4"), "wants[3].price"),
        (
            &plan.replace("\"outings_per_year\": 30", "\"outings_per_year\": 20800"),
            "day.outings_per_year",
        ),
        (&plan.replace("\"kind\": \"light\"", "\"kind\": \"magic\""), "wants[2].kind"),
        (&"[".repeat(100_000), ""),
    ];
    for (body, at) in hostile {
        for path in ["/api/evaluate", "/api/tipping", "/api/proposals"] {
            let (status, answer) = json(&app, path, body).await;
            assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{}", &body[..body.len().min(60)]);
            let faults = answer["faults"].as_array().unwrap();
            assert!(faults.iter().any(|f| f["at"] == at || at.is_empty()), "{at}: {answer}");
        }
    }
    let form = app.send(post("/api/evaluate", "").body(Body::from("a=b")).unwrap()).await;
    assert_eq!(form.status, StatusCode::UNSUPPORTED_MEDIA_TYPE);
    let huge = Request::post("/api/evaluate")
        .header(header::HOST, HOST)
        .header(header::CONTENT_TYPE, "application/json");
    let huge = app.send(huge.body(Body::from(vec![b' '; 3 << 20])).unwrap()).await;
    assert_eq!(huge.status, StatusCode::PAYLOAD_TOO_LARGE);
    // Elsewhere's page may not ask.
    let elsewhere = Request::post("/api/evaluate")
        .header(header::HOST, HOST)
        .header(header::ORIGIN, "http://elsewhere.example")
        .header(header::CONTENT_TYPE, "application/json");
    assert_eq!(
        app.send(elsewhere.body(Body::from(plan)).unwrap()).await.status,
        StatusCode::FORBIDDEN
    );
}

/// OpenAPI 3.1 (openapis.org, from memory): a version, an info with title and version, paths with operations, each response with
/// a description, and every reference leads to a schema that is there.
#[tokio::test]
async fn the_description_of_the_api_is_whole() {
    let app = TestApp::with_demo().await;
    let answer = app.get("/api/openapi.json").await;
    assert_eq!(answer.header("content-type"), "application/json");
    let api: serde_json::Value = serde_json::from_str(&answer.body).unwrap();
    assert_eq!(api["openapi"], "3.1.0");
    assert!(api["info"]["title"].is_string() && api["info"]["version"].is_string());
    let paths = api["paths"].as_object().unwrap();
    assert_eq!(
        paths.keys().collect::<Vec<_>>(),
        ["/api/evaluate", "/api/proposals", "/api/tipping"]
    );
    for path in paths.values() {
        for (status, response) in path["post"]["responses"].as_object().unwrap() {
            assert!(status.len() == 3 && response["description"].is_string());
        }
    }
    let refs: Vec<&str> =
        answer.body.split("\"$ref\": \"").skip(1).map(|s| s.split('"').next().unwrap()).collect();
    assert!(refs.len() > 20);
    for place in refs {
        let name = place.strip_prefix("#/components/schemas/").expect(place);
        assert!(api["components"]["schemas"][name].is_object(), "{name}");
    }
    let page = app.get("/api").await;
    assert_eq!(page.texts(".api code").len(), 3);
}

/// The figures of the line that is moved through the day, for the page's script.
#[tokio::test]
async fn every_moment_of_every_lane_is_told() {
    let app = TestApp::with_demo().await;
    let at = app.get(BOARD).await.attribute("#cursor", "data-moments").unwrap();
    let answer = app.get(&at).await;
    let told: serde_json::Value = serde_json::from_str(&answer.body).unwrap();
    let times = told["times"].as_array().unwrap();
    assert!(times.len() > 90 && times.len() < 130);
    assert_eq!(told["clocks"][0], "07:00");
    let lanes = told["lanes"].as_array().unwrap();
    assert_eq!(lanes.len(), 8, "those that are set aside have no day");
    for lane in lanes {
        for list in ["charge", "volts", "amps", "left", "home", "setting"] {
            assert_eq!(
                lane[list].as_array().unwrap().len(),
                lane["charge"].as_array().unwrap().len(),
                "{list}"
            );
        }
    }
    let agm = lanes.iter().find(|l| l["name"] == "Two Quarry AGM 31").unwrap();
    assert!(agm["turn_by"].as_str().unwrap().starts_with("10:"), "{}", agm["turn_by"]);
    assert_eq!(answer.body.len().min(120_000), answer.body.len(), "a picture's worth");
    // Where no pack can be judged there is nothing to tell, and no fault.
    app.post("/rigs/1/rig/draw", "").await;
    assert_eq!(app.get("/rigs/1/moments.json?if=turn.0-wind").await.status, StatusCode::OK);
}

/// Where a must leaves no pack the closest is named with what would let it pass, and passes once that is granted; no chance is told
/// as certain while something is assumed, and what to check first is named.
#[tokio::test]
async fn where_no_pack_passes_the_closest_is_named_and_passes_then() {
    let app = TestApp::with_demo().await;
    let sure = weighed(&app, "").await;
    assert!(sure.text(".settle").starts_with("Check first "), "{}", sure.text(".settle"));
    let chances = sure.texts(".sure td").join(" ");
    assert!(chances.contains("over 95") && !chances.contains("100"), "{chances}");
    let fields = app.get(&format!("{BOARD}?open=wants")).await.filled("#form-wants");
    let must = |limit: &str| form(&fields, &[("cheap_now", "must"), ("cheap_now_limit", limit)]);
    app.post("/rigs/1/wants", &must("700")).await;
    let page = weighed(&app, "").await;
    // What is aboard costs nothing, and does not get home.
    assert_eq!(
        page.texts(".lane .verdict").iter().filter(|v| v.starts_with("Gets home")).count(),
        0
    );
    let closest = page.texts("#nearest li");
    let limit = closest[0].split_once("under $").unwrap().1.split(' ').next().unwrap().to_owned();
    let name = closest[0].split(" passes").next().unwrap().to_owned();
    app.post("/rigs/1/wants", &must(&limit.replace(',', ""))).await;
    let page = weighed(&app, "").await;
    assert!(page.texts("#nearest").is_empty());
    assert!(page.texts(".lane h3").contains(&name), "{closest:?}");
    // Not one that can be used: the way to those that can.
    let plan = app.get("/rigs/1/plan.json").await.body;
    let mut plan = lake_hour_formats::plan::read(plan.as_bytes()).unwrap();
    plan.packs.retain(|pack| pack.battery.ratings.is_empty());
    plan.wants.clear();
    let text = serde_json::to_string(&lake_hour_formats::plan::write(&plan)).unwrap();
    let mut form = form_urlencoded::Serializer::new(String::new());
    form.append_pair("plan", &text).append_pair("as", "new");
    let board = app.post("/plan/take", &form.finish()).await;
    let page = app.get(board.header("location")).await;
    assert!(page.text(".excludes").ends_with("Packs that can"), "{}", page.text(".excludes"));
}
