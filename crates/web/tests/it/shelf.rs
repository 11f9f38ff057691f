//! The Shelf: labels typed, pasted, brought as files; doubted, mended, picked.

use crate::app::{DEMO_SHELF, TestApp};
use axum::http::StatusCode;
use lake_hour_core::shelf::{Candidate, DoubtKind};
use lake_hour_formats::shelf;
use std::collections::BTreeSet;

/// What each battery of the example is doubted for on the shelf that it stands on.
async fn doubts() -> Vec<(String, Vec<DoubtKind>)> {
    let folder = tempfile::tempdir().unwrap();
    let store = lake_hour_store::Store::open(&folder.path().join("shelf.db")).await.unwrap();
    let all = shelf::read(DEMO_SHELF).unwrap();
    store.stock(all.clone()).await.unwrap();
    let unsorted = lake_hour_store::Figure {
        rules: String::new(),
        of: |_: &lake_hour_core::shelf::Battery| None::<f64>,
    };
    let query = lake_hour_store::ShelfQuery { page_size: 1, ..Default::default() };
    let page = store.shelf(query, unsorted).await.unwrap();
    let of = |c: &Candidate| {
        let doubts = c.doubts(Some(page.rest(c.battery.chemistry)));
        (c.battery.name.clone(), doubts.into_iter().map(|d| d.kind).collect())
    };
    all.iter().map(of).collect()
}

/// The example holds honest labels and every kind of lie: invented data, made for this.
#[tokio::test]
async fn honest_labels_are_plausible_and_each_lie_is_told() {
    let all = doubts().await;
    assert_eq!(all.len(), 42);
    let of = |name: &str| &all.iter().find(|(n, _)| n == name).unwrap().1;
    for (name, lie) in [
        ("Big Splash 12-100", DoubtKind::EnergySum),
        ("Featherlight 12-200", DoubtKind::EnergyForWeight),
        ("Thunder AGM 140", DoubtKind::EnergyForSize),
        ("Thunder AGM 140", DoubtKind::ReserveMinutes),
        ("Thunder AGM 140", DoubtKind::RatesDisagree),
        ("Lead Beater 300", DoubtKind::LeadEquivalent),
        ("Cattail cranker", DoubtKind::CrankingOnly),
        ("Rocket start 1000", DoubtKind::CrankingForCapacity),
        ("Rocket start 1000", DoubtKind::MadeForStarting),
        ("Strongarm 12-30", DoubtKind::Continuous),
        ("Strongarm 12-30", DoubtKind::Peak),
        ("Round Twelve", DoubtKind::NominalVoltage),
        ("Round Twelve", DoubtKind::ChargeVoltage),
        ("Everlast 12K", DoubtKind::CyclesInYears),
        ("Everlast 12K", DoubtKind::CyclesForChemistry),
        ("Snow Goose 12-100", DoubtKind::SelfDischarge),
        ("Snow Goose 12-100", DoubtKind::ColdCharge),
        ("Forever 12-60", DoubtKind::Warranty),
        ("Tight Fit 24", DoubtKind::SizeForClass),
        ("Bargain Bay 12-100", DoubtKind::PriceForShelf),
        ("Bargain Bay 12-100", DoubtKind::WeightForShelf),
    ] {
        assert!(of(name).contains(&lie), "{name}: {:?}", of(name));
    }
    let told: BTreeSet<DoubtKind> = all.iter().flat_map(|(_, d)| d).copied().collect();
    assert_eq!(told.len(), DoubtKind::ALL.len());
    // The page finds the same ones, and the others are plausible.
    let app = TestApp::with_demo().await;
    let liars: BTreeSet<String> =
        all.iter().filter(|(_, d)| !d.is_empty()).map(|(n, _)| n.clone()).collect();
    let page = app.get("/rigs/1/shelf?label=doubtful").await;
    assert_eq!(page.texts(".shelf-name h2").into_iter().collect::<BTreeSet<_>>(), liars);
    let page = app.get("/rigs/1/shelf?label=plausible").await;
    assert_eq!(page.text(".pager span"), format!("1 to 16 of {}", 42 - liars.len()));
    assert_eq!(page.texts(".plausible").len(), 16);
}

#[tokio::test]
async fn the_shelf_is_searched_sorted_grouped_and_paged() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/shelf").await;
    assert_eq!(page.text(".facts"), "42 batteries; this rig runs on 24 V");
    assert_eq!(page.texts(".shelf-name h2").len(), 16);
    assert_eq!(page.text(".pager span"), "1 to 16 of 42");
    let page = app.get("/rigs/1/shelf?p=3").await;
    assert_eq!(
        (page.texts(".shelf-name h2").len(), page.text(".pager a").as_str()),
        (10, "Previous")
    );
    let page = app.get("/rigs/1/shelf?chem=lfp&volts=36&by=weight").await;
    assert_eq!(page.texts(".shelf-name h2"), ["Kingfisher 36-64", "Weir 36-100"]);
    let page = app.get("/rigs/1/shelf?group=yes&volts=6").await;
    assert_eq!(page.texts(".shelf-class"), ["Group GC2", "Group GC2H"]);
    // By the price of a usable kWh over the life it has at this rig's day: lead and lithium in one row.
    let mut figures: Vec<f64> = Vec::new();
    for n in 1..=2 {
        let page = app.get(&format!("/rigs/1/shelf?label=plausible&by=usable&p={n}")).await;
        for why in page.texts(".shelf-figs .why") {
            let Some((before, _)) = why.split_once(" a usable kWh") else { continue };
            assert!(why.contains("outings in its life x usable share"), "{why}");
            figures.push(before.rsplit('$').next().unwrap().parse().unwrap());
        }
    }
    assert!(figures.len() > 20 && figures.is_sorted(), "{figures:?}");
    let page = app.get("/rigs/1/shelf?q=no+such").await;
    assert!(page.text(".empty").starts_with("No battery is like that."));
    assert_eq!(app.get("/rigs/7/shelf").await.status, StatusCode::NOT_FOUND);
    for odd in
        ["q=%FF%FE", "q=a&q=b", "p=-1", "p=99999999999999999999", "open=edit-999", "open=new-x-y"]
    {
        let page = app.get(&format!("/rigs/1/shelf?{odd}")).await;
        assert_eq!(page.status, StatusCode::OK, "{odd}");
    }
    let page = TestApp::empty().await;
    assert_eq!(page.post("/start/own", "").await.status, StatusCode::SEE_OTHER);
    assert!(page.get("/rigs/1/shelf").await.text(".empty").starts_with("An empty shelf."));
}

const COOT: &str = "name=Coot+12-100&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=100&energy_wh=1280&mass_kg=11+kg&\
                    max_continuous_current_a=100&price=300&cycles=3500&origin=told&on=2026-05-31";

#[tokio::test]
async fn a_label_is_typed_edited_copied_hidden_removed_and_all_of_it_taken_back() {
    let app = TestApp::with_demo().await;
    let kinds = app.get("/rigs/1/shelf?open=kinds").await;
    assert_eq!(kinds.texts("#panel-kinds .kinds li").len(), 12);
    assert!(kinds.text(".kinds").contains("never below freezing"));
    let page = app.swap("/rigs/1/shelf?open=new-lfp-", COOT).await;
    assert_eq!(page.text("#notice p"), "Added Coot 12-100. Undo");
    assert_eq!(page.header("HX-Replace-Url"), "/rigs/1/shelf?open=battery-43");
    assert!(page.text(".opened-check").contains("Nothing on this label contradicts itself"));
    assert_eq!(page.attribute("#by-capacity option[selected]", "value").unwrap(), "told");
    assert_eq!(page.attribute("#on-capacity", "value").unwrap(), "2026-05-31");
    let again = app.swap("/rigs/1/shelf?open=new-lfp-", COOT).await;
    assert_eq!(again.text(".problem"), "Another battery on the shelf has this name.");
    let wrong = COOT.replace("energy_wh=1280", "energy_wh=1800");
    let page = app.swap("/rigs/1/shelf/43?open=edit-43", &wrong).await;
    assert!(page.text(".opened-check .doubt").starts_with("Cannot be: 12.8 V x 100 Ah is 1280 Wh"));
    let page = app.swap("/rigs/1/shelf/43/copy", "").await;
    assert_eq!(page.attribute("#edit-name", "value").unwrap(), "Coot 12-100 (2)");
    app.swap("/rigs/1/shelf/44/hide", "").await;
    let page = app.get("/rigs/1/shelf?hidden=yes").await;
    assert_eq!(page.texts(".shelf-name h2"), ["Coot 12-100 (2)"]);
    app.swap("/rigs/1/shelf/44/show", "").await;
    let page = app.swap("/rigs/1/shelf/44/remove", "").await;
    assert_eq!(page.text("#notice p"), "Removed Coot 12-100 (2). Undo");
    assert_eq!(app.swap("/rigs/1/shelf/44/hide", "").await.status, StatusCode::NOT_FOUND);
    for _ in 0..6 {
        app.swap("/rigs/1/shelf/undo", "").await;
    }
    assert_eq!(
        app.get("/rigs/1/shelf").await.text(".facts"),
        "42 batteries; this rig runs on 24 V"
    );
    let page = app.swap("/rigs/1/shelf/redo", "").await;
    assert_eq!(page.text("#notice p"), "Made again: Added Coot 12-100. Undo");
}

#[tokio::test]
async fn a_doubt_is_accepted_or_mended_and_the_board_says_what_was_changed() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/shelf?q=featherlight").await;
    let id = page.attribute("article", "id").unwrap();
    let id = id.strip_prefix("battery-").unwrap();
    let act = |act: &str| format!("/rigs/1/shelf/{id}/{act}?q=featherlight");
    let page = app.swap(&act("replace"), "doubt=energy_for_weight").await;
    assert_eq!(
        page.text(".shelf-check .corrected"),
        "capacity: the label says 200 Ah, used here: 93.8 Ah"
    );
    assert!(
        page.text(".shelf-figs b").contains("94 Ah ◦ (you set it)"),
        "{}",
        page.text(".shelf-figs b")
    );
    // What is picked takes it along: two in series for 24 V, and the lane says so.
    let page = app.swap(&act("pick"), "").await;
    assert_eq!(
        page.text("#notice p"),
        "Added the pack Featherlight 12-200: 2 in series for 24 V, on the Board. Undo Look at the Board"
    );
    let board = app.get("/rigs/1/board").await;
    assert_eq!(board.texts(".lane h3")[0], "Featherlight 12-200");
    assert!(board.text(".lane .notes").contains("the label says 200 Ah, used here: 93.8 Ah"));
    app.swap("/rigs/1/shelf/unpick", "").await;
    assert_ne!(app.get("/rigs/1/board").await.texts(".lane h3")[0], "Featherlight 12-200");
    let page = app.swap(&act("restore"), "figure=capacity").await;
    assert!(page.texts(".shelf-check .corrected").is_empty());
    let page = app.swap(&act("accept"), "doubt=energy_for_weight").await;
    assert!(page.text(".doubt-accepted p").starts_with("Accepted: 2560 Wh in 16.5 lb"));
    let page = app.swap(&act("doubt"), "doubt=energy_for_weight").await;
    assert!(page.texts(".doubt-accepted").is_empty());
    for (what, form) in
        [("replace", "doubt=warranty"), ("accept", "doubt=x"), ("restore", "figure=")]
    {
        assert_eq!(app.swap(&act(what), form).await.status, StatusCode::BAD_REQUEST, "{what}");
    }
    assert_eq!(app.swap(&act("eat"), "").await.status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_pasted_text_is_shown_as_understood_before_anything_is_kept() {
    let app = TestApp::with_demo().await;
    let text = "text=Moorhen+12-50%0A12.8+V+50+Ah+LiFePO4%0A%3Cscript%3Ealert(1)%3C/script%3E%0A6.1+kg%0ASeries+7";
    let page = app.swap("/rigs/1/shelf/paste?open=paste", text).await;
    assert_eq!(page.status, StatusCode::OK);
    let found = page.texts(".understood ul:first-of-type li");
    assert!(found.contains(&"50 Ah capacity 50 Ah".to_owned()), "{found:?}");
    assert_eq!(page.texts(".understood .left li"), ["Series 7"]);
    assert!(!page.body.contains("<script>alert"));
    assert_eq!(page.attribute("#new-capacity_ah", "value").unwrap(), "50");
    assert_eq!(page.attribute("#new-over", "value"), None, "the text did not say");
    let shelf = app.get("/rigs/1/shelf").await;
    assert_eq!(shelf.text(".facts"), "42 batteries; this rig runs on 24 V");
}

/// The file is looked at, then taken; the address that the answers lead to.
async fn sent(app: &TestApp, file: &[u8]) -> String {
    let answer = app.upload("/rigs/1/shelf/file?open=files", "pond.csv", file).await;
    assert_eq!(answer.status, StatusCode::SEE_OTHER);
    answer.header("location").to_owned()
}

async fn settled(app: &TestApp, address: &str) -> crate::app::Answer {
    for _ in 0..400 {
        let page = app.get(address).await;
        if page.texts(".file-state progress").is_empty() {
            return page;
        }
        tokio::time::sleep(std::time::Duration::from_millis(25)).await;
    }
    panic!("it never ends");
}

#[tokio::test]
async fn a_file_is_shown_then_taken_then_taken_back() {
    let app = TestApp::with_demo().await;
    let csv = app.get("/rigs/1/shelf.csv").await;
    assert_eq!(csv.header("content-type"), "text/csv; charset=utf-8");
    let json = app.get("/rigs/1/shelf.json").await.body;
    assert_eq!(shelf::read(json.as_bytes()).unwrap().len(), 42);
    // What was written changes nothing when it is read again, in either format.
    for file in [csv.body.as_bytes(), json.as_bytes()] {
        let page = settled(&app, &sent(&app, file).await).await;
        assert_eq!(page.texts(".file-state dd"), ["0", "0", "42", "0"]);
        assert!(page.texts("#take-file").is_empty());
    }
    let file = "name;chemistry;nominal_voltage_v;capacity_ah;mass_kg\n'=cmd|'/c calc'!A1;lfp;12,8;100;26 lb\n\
                Old Mill 8 V;flooded;8;170;28.6\nMoorhen;brick;12;1;1\n";
    let address = sent(&app, file.as_bytes()).await;
    let page = settled(&app, &address).await;
    assert_eq!(page.texts(".file-state dd"), ["1", "1", "0", "1"]);
    assert_eq!(
        page.text(".faults tbody tr"),
        "4 chemistry Must be one of lfp, agm, gel, flooded, nmc."
    );
    assert!(page.text(".file-state").contains("line 2, mass_kg: 26 lb is taken as 11.79 kg."));
    let state = page.text(".file-state");
    assert!(state.contains("Old Mill 8 V : capacity_ah, mass_kg Added"), "{state}");
    let id = address.rsplit('-').next().unwrap();
    app.swap(&format!("/rigs/1/shelf/files/{id}/take"), "").await;
    let page = settled(&app, &address).await;
    assert!(page.text(".file-sum").starts_with("Taken from pond.csv"));
    let csv = app.get("/rigs/1/shelf.csv").await.body;
    assert!(csv.contains("'=cmd|'/c calc'!A1,lfp"), "no formula goes out");
    let page = app.swap("/rigs/1/shelf/undo", "").await;
    assert_eq!(page.text("#notice p"), "Taken back: Took a file: 1 added, 1 changed.");
    assert_eq!(app.get("/rigs/1/shelf.json").await.body, json);
}

#[tokio::test]
async fn files_that_cannot_be_taken_are_refused_in_words() {
    let app = TestApp::with_demo().await;
    let none = app.upload("/rigs/1/shelf/file?open=files", "", b"").await;
    assert_eq!(none.text(".problem"), "Choose a CSV or JSON file first.");
    let huge = vec![b'x'; 129 << 20];
    let refused = app.upload("/rigs/1/shelf/file", "huge.csv", &huge).await;
    assert_eq!(refused.status, StatusCode::PAYLOAD_TOO_LARGE);
    let says = refused.text("#notice");
    assert!(says.contains("larger than 128 MB"), "{says}");
    for (file, why) in [
        (&b"volts,amps\n12,3\n"[..], "name is missing"),
        (b"{\"format\":\"lake-hour/shelf\",\"version\":9,\"batteries\":[]}", "reads version 1"),
        (b"{\"batteries\":[[[[", "line 1"),
    ] {
        let page = settled(&app, &sent(&app, file).await).await;
        assert!(page.text(".problem").contains(why), "{}", page.text(".problem"));
    }
    // Only some files are held; one that is gone says so, and cannot be taken.
    let first = "/rigs/1/shelf?open=file-99";
    assert!(app.get(first).await.text("#panel-files").contains("no longer held"));
    let gone = app.swap("/rigs/1/shelf/files/99/take", "").await;
    assert_eq!(gone.status, StatusCode::NOT_FOUND);
    let address = sent(&app, b"name,chemistry,nominal_voltage_v,capacity_ah\nX,agm,12,100\n").await;
    let id = address.rsplit('-').next().unwrap();
    let page = app.swap(&format!("/rigs/1/shelf/files/{id}/cancel"), "").await;
    assert!(page.text(".file-state").starts_with("Canceled: nothing of pond.csv is on the shelf."));
    assert_eq!(
        app.get("/rigs/1/shelf").await.text(".facts"),
        "42 batteries; this rig runs on 24 V"
    );
}

#[tokio::test]
async fn the_boards_packs_are_shown_in_their_bays_with_refusals_to_the_millimetre() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/packs?fits=yes").await;
    let fits = page.texts("#panel-fit .fit figcaption");
    assert_eq!(fits.len(), 11);
    assert!(fits[0].starts_with("Tern 24-120 one It fits: Bow box."), "{fits:?}");
    let says = page.texts("#panel-fit .fit-words").join("\n");
    assert!(says.contains("in short") && says.contains("never go in a closed-off bay"), "{says}");
    assert!(says.contains("upright, lengthwise"), "{says}");
    // To one scale: a bay is drawn as long as it is.
    let drawn =
        |name: &str| page.attribute("#panel-fit .fit-view", name).unwrap().parse::<f64>().unwrap();
    assert!((drawn("width") / drawn("height") - 560.0 / 380.0).abs() < 1e-9);
    let cranker = app.get("/rigs/1/shelf?q=cattail&open=battery-29").await;
    assert!(cranker.text(".opened-check").contains("neither Ah nor reserve minutes"));
}

#[tokio::test]
async fn names_are_words_whatever_is_in_them() {
    let app = TestApp::with_demo().await;
    let wicked = "%3Cscript%3Ealert(1)%3C/script%3E%22%27%3E";
    let form = COOT.replace("Coot+12-100", wicked);
    let page = app.swap("/rigs/1/shelf?open=new-lfp-", &form).await;
    assert_eq!(page.status, StatusCode::OK);
    let id = page.header("HX-Replace-Url").rsplit('-').next().unwrap().to_owned();
    app.swap(&format!("/rigs/1/shelf/{id}/pick"), "").await;
    for address in [
        format!("/rigs/1/shelf?open=battery-{id}"),
        format!("/rigs/1/shelf?open=edit-{id}"),
        "/rigs/1/packs?fits=yes".to_owned(),
        "/rigs/1/shelf?q=%3Cscript%3Ealert(1)".to_owned(),
        "/rigs/1/board".to_owned(),
    ] {
        let page = app.get(&address).await;
        assert_eq!(page.status, StatusCode::OK, "{address}");
        assert!(!page.body.contains("<script>alert"), "{address}");
    }
}

#[tokio::test]
async fn another_site_changes_nothing_on_the_shelf() {
    use axum::body::Body;
    let app = TestApp::with_demo().await;
    for (path, visited) in [
        ("/rigs/1/shelf", StatusCode::OK),
        ("/rigs/1/shelf/1", StatusCode::SEE_OTHER),
        ("/rigs/1/shelf/1/remove", StatusCode::SEE_OTHER),
        ("/rigs/1/shelf/1/pick", StatusCode::SEE_OTHER),
        ("/rigs/1/shelf/undo", StatusCode::SEE_OTHER),
        ("/rigs/1/shelf/paste", StatusCode::SEE_OTHER),
        ("/rigs/1/shelf/file", StatusCode::SEE_OTHER),
        ("/rigs/1/shelf/files/1/take", StatusCode::SEE_OTHER),
    ] {
        let mut request = crate::app::post(path, "").body(Body::from(COOT)).unwrap();
        request.headers_mut().insert("origin", "http://elsewhere.example".parse().unwrap());
        assert_eq!(app.send(request).await.status, StatusCode::FORBIDDEN, "{path}");
        // Visited as an address, none of them does anything.
        assert_eq!(app.get(path).await.status, visited, "{path}");
    }
    assert_eq!(
        app.get("/rigs/1/shelf.json").await.body,
        TestApp::with_demo().await.get("/rigs/1/shelf.json").await.body
    );
}

/// Without scripts every act leads back to the page it came from.
#[tokio::test]
async fn without_scripts_every_act_leads_back() {
    let app = TestApp::with_demo().await;
    let added = app.post("/rigs/1/shelf?open=new-lfp-&q=coot", COOT).await;
    assert_eq!(added.status, StatusCode::SEE_OTHER);
    assert_eq!(added.header("location"), "/rigs/1/shelf?q=coot&open=battery-43");
    let refused = app.post("/rigs/1/shelf?open=new-lfp-", "name=X&chemistry=lfp").await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.text(".field-bad .problem").len() > 5);
    for (act, back) in
        [("hide", "/rigs/1/shelf"), ("show", "/rigs/1/shelf"), ("remove", "/rigs/1/shelf")]
    {
        let answer = app.post(&format!("/rigs/1/shelf/43/{act}"), "").await;
        assert_eq!(
            (answer.status, answer.header("location")),
            (StatusCode::SEE_OTHER, back),
            "{act}"
        );
    }
    let undone = app.post("/rigs/1/shelf/undo?p=2", "").await;
    assert_eq!(undone.header("location"), "/rigs/1/shelf?p=2");
}

#[tokio::test]
async fn figures_follow_the_units_that_are_shown() {
    let app = TestApp::with_demo().await;
    let with = |path: &str, units: &str| {
        let request = axum::http::Request::get(path)
            .header("host", crate::app::HOST)
            .header("cookie", format!("units={units}"));
        app.send(request.body(axum::body::Body::empty()).unwrap())
    };
    let us = with("/rigs/1/shelf?q=marl", "us").await;
    assert!(us.text(".shelf-row:not(.shelf-head)").contains("25 lb"), "{}", us.text("article"));
    assert!(
        us.text("article").contains("13 x 6.8 x 8.5 in")
            && us.text("article").contains("no charge under 32 °F")
    );
    let metric = with("/rigs/1/shelf?q=marl", "metric").await;
    let row = metric.text("article");
    assert!(row.contains("12 kg") && row.contains("330 x 173 x 215 mm"), "{row}");
    assert!(row.contains("no charge under 0 °C"), "{row}");
    // The same battery, drawn as large in both.
    let drawn = |page: &crate::app::Answer| page.attribute(".case", "width").unwrap();
    assert_eq!(drawn(&us), drawn(&metric));
    assert_eq!(drawn(&us), "66", "330 mm at a fifth of a pixel");
    // A form typed in one set is read in it.
    let edit = with("/rigs/1/shelf?open=edit-1", "metric").await;
    assert_eq!(edit.attribute("#edit-mass_kg", "value").unwrap(), "11.5");
    assert!(edit.text(".field-input .unit").len() < 4);
}

/// Everything a row is asked to tell, in one place.
#[tokio::test]
async fn a_row_tells_all_that_a_buyer_asks() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/shelf?q=osier").await;
    let row = page.text("article");
    for told in [
        "Osier 12-100 winter",
        "LFP, prismatic cells; deep-cycle",
        "12.8 V",
        "100 Ah",
        "1,280 Wh",
        "26 lb",
        "$389",
        "$389 / 100 Ah = $3.89.",
        "$389 / 1,280 Wh = $0.30.",
        "a usable kWh",
        "100 A (1 C)",
        "peak 200 A (2 C), 5 s",
        "3,500 cycles to 80 %",
        "warranty 5 years full, prorated to 10",
        "no charge under -4 °F",
        "heater",
        "battery monitor",
        "IP65",
        "M8",
        "Plausible",
    ] {
        assert!(row.contains(told), "{told} in {row}");
    }
    let picture = page.attribute(".to-scale", "aria-label").unwrap();
    assert_eq!(picture, "13 x 6.8 x 8.7 in; 90 % of its charge may be used");
    let opened = app.get("/rigs/1/shelf?q=osier&open=battery-7").await;
    let figures = opened.texts(".opened-figures tbody th");
    for figure in
        ["capacity", "energy as printed", "charging voltage", "self-discharge", "most in series"]
    {
        assert!(figures.contains(&figure.to_owned()), "{figure} in {figures:?}");
    }
    // Of the other family: a high bed, and a mark for what is only typical.
    let lead = app.get("/rigs/1/shelf?q=fennel+24").await;
    assert!(
        lead.attribute(".to-scale", "aria-label")
            .unwrap()
            .ends_with("50 % of its charge may be used")
    );
    assert_eq!(lead.text(".shelf-figs sup"), "~ (assumed)");
    // A label without a capacity: an empty case, not a full one.
    let cranker = app.get("/rigs/1/shelf?q=cattail").await;
    assert!(cranker.attribute(".to-scale", "aria-label").unwrap().ends_with("no Ah on the label"));
    assert!(cranker.texts(".tints, .bed").is_empty());
}

#[tokio::test]
async fn more_are_sent_only_when_they_are_asked_for() {
    let app = TestApp::with_demo().await;
    let mut text = "name,chemistry,nominal_voltage_v,capacity_ah,size_class\n".to_owned();
    for n in 0..700 {
        text.push_str(&format!("Widgeon {n:03},agm,12,{},24\n", 60 + n % 20));
    }
    let address = sent(&app, text.as_bytes()).await;
    settled(&app, &address).await;
    let id = address.rsplit('-').next().unwrap();
    app.swap(&format!("/rigs/1/shelf/files/{id}/take"), "").await;
    settled(&app, &address).await;
    let page = app.get("/rigs/1/shelf").await;
    assert_eq!(
        (page.texts("article").len(), page.text(".facts").as_str()),
        (16, "742 batteries; this rig runs on 24 V")
    );
    let last = app.get("/rigs/1/shelf?q=widgeon&p=99").await;
    assert_eq!(last.text(".pager span"), "689 to 700 of 700");
    let found = app.get("/rigs/1/shelf?q=widgeon+69").await;
    assert_eq!(found.text(".pager span"), "1 to 16 of 17", "690 to 699, and those that end in 69");
}

/// A browser lays out no more than it must: a page has fewer than 800 elements, whatever the shelf holds.
#[tokio::test]
async fn a_full_page_of_the_shelf_is_small() {
    let app = TestApp::with_demo().await;
    for address in
        ["/rigs/1/shelf", "/rigs/1/shelf?label=doubtful", "/rigs/1/shelf?volts=12&by=usable"]
    {
        let page = app.get(address).await;
        // What stands in a template is not laid out before it is asked for.
        let all = page.texts("*").len() - page.texts("#keys, #keys *").len();
        assert!((500..800).contains(&all), "{address}: {all}");
    }
}

/// Packs of thousands of tiny units: some are drawn, and what is left out is said.
#[tokio::test]
async fn the_drawing_of_what_fits_is_bounded() {
    let app = TestApp::with_demo().await;
    let plan = app.get("/rigs/1/plan.json").await.body;
    let mut plan: serde_json::Value = serde_json::from_str(&plan).unwrap();
    let mut pack = plan["packs"][0].clone();
    pack["series"] = 64.into();
    pack["parallel"] = 64.into();
    for side in ["length_mm", "width_mm", "height_mm"] {
        pack["battery"][side] = 10.into();
        plan["rig"]["bays"][0][side] = 3_000.into();
    }
    let packs = (0..35).map(|n| {
        pack["name"] = format!("Mite {n}").into();
        pack.clone()
    });
    plan["packs"] = packs.collect();
    let form: String = form_urlencoded::Serializer::new(String::new())
        .append_pair("plan", &plan.to_string())
        .append_pair("as", "new")
        .finish();
    assert_eq!(app.post("/plan/take", &form).await.header("location"), "/rigs/2/board");
    let page = app.get("/rigs/2/packs?fits=yes").await;
    assert!(page.body.len() < 1_000_000, "{} bytes", page.body.len());
    assert_eq!(page.texts("#panel-fit .fit").len(), 30);
    assert!(page.text("#panel-fit").contains("5 more packs are on the Board and not drawn here"));
    let says = page.text("#panel-fit .fit-words");
    assert!(says.ends_with("; 24 of them are drawn"), "{says}");
}

/// Two bays may have one name: each is drawn as what it is.
#[tokio::test]
async fn bays_of_one_name_are_two() {
    let app = TestApp::with_demo().await;
    let bays = "name_0=Box&place_0=bow&length_0=13+in&width_0=7+in&height_0=9+in&position_0=20\
                &name_1=Box&place_1=stern&length_1=16+in&width_1=8+in&height_1=10+in&position_1=80";
    assert_eq!(app.swap("/rigs/1/bays?page=rig", bays).await.status, StatusCode::OK);
    let page = app.get("/rigs/1/packs?fits=yes").await;
    let bays = page.texts("#panel-fit .fit-bay > p:first-child");
    let of = |inside: &str| bays.iter().any(|b| b == &format!("Box {inside} clear"));
    assert!(of("13 in x 7 in x 9 in") && of("16 in x 8 in x 10 in"), "{bays:?}");
}
