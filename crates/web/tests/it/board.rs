//! The Board: what it shows and what can be done on it.

use crate::app::TestApp;
use axum::http::StatusCode;

const BOARD: &str = "/rigs/1/board";

#[tokio::test]
async fn the_example_tells_its_story() {
    let app = TestApp::with_demo().await;
    let page = app.get(BOARD).await;
    assert_eq!(page.status, StatusCode::OK);
    let verdicts: Vec<_> = std::iter::zip(page.texts(".lane h3"), page.texts(".verdict")).collect();
    let verdict = |name: &str| {
        verdicts.iter().find(|(n, _)| n == name).map(|(_, v)| v.clone()).unwrap_or_default()
    };
    assert!(verdict("Two Stillwater 12-140").starts_with("Gets home with "));
    assert!(verdict("Two Marl Point 12-100").ends_with("mi) to spare"));
    assert!(verdict("Two Quarry AGM 31").ends_with("too deep"));
    assert!(verdict("Heron 24-50").starts_with("Stops at "));
    assert!(verdict("Reed 24-100 slim").starts_with("BMS shuts off at "));
    assert!(verdict("Now aboard: two tired AGM").ends_with(" short"));
    assert_eq!(page.text(".aside h2"), "Set aside: 3 packs");
    let reasons = page.texts(".reason");
    assert!(reasons[0].starts_with("weighs 361 lb, the craft may carry"), "{reasons:?}");
    assert!(reasons[1].contains("the system is 24 V: it takes 2 in series"));
    assert!(reasons[2].contains("a starting battery"));
    // Each picture is told in words to who cannot see it.
    let label = page.attribute("#lane-4 svg.water", "aria-label").unwrap();
    assert!(label.contains("Floor reached at ") && label.contains("50 % stays"), "{label}");
}

#[tokio::test]
async fn a_stretch_is_added_changed_copied_moved_removed_and_brought_back() {
    let app = TestApp::with_demo().await;
    let day = "?open=day";
    let names = async || {
        let page = app.get(&format!("{BOARD}{day}")).await;
        let mut names: Vec<String> = Vec::new();
        for n in 1..=12 {
            names.extend(page.attribute(&format!("#stretch-{n} [name=name]"), "value"));
        }
        names
    };
    let before = names().await;
    let added = app
        .swap(
            &format!("/rigs/1/stretches{day}"),
            "name=Round+the+island&minutes=30&amount=12&kind=current",
        )
        .await;
    assert_eq!(added.status, StatusCode::OK);
    assert!(added.text("#notice").starts_with("Added the stretch Round the island."));
    assert_eq!(added.header("HX-Replace-Url"), "/rigs/1/board?open=day");
    assert!(!added.body.contains("<html"), "a swap is a part of the page");
    assert_eq!(names().await.len(), before.len() + 1);
    let changed = app
        .post(
            &format!("/rigs/1/stretches/9{day}"),
            "name=Island&minutes=45&amount=11.5&kind=current",
        )
        .await;
    assert_eq!(changed.status, StatusCode::SEE_OTHER);
    assert_eq!(changed.header("location"), "/rigs/1/board?open=day");
    assert_eq!(names().await[8], "Island");
    app.post("/rigs/1/stretches/9/copy", "").await;
    app.post("/rigs/1/stretches/9/remove", "").await;
    app.post("/rigs/1/stretches/1/later", "").await;
    let page = app.get(&format!("{BOARD}{day}")).await;
    let blocks = page.texts(".block-words span");
    assert_eq!(&blocks[..2], ["Hold station 1, wind 8 mph", "Out to station 1"]);
    let back = app.swap("/rigs/1/undo", "").await;
    assert!(back.text("#notice").starts_with("Taken back: Moved the stretch Out to station 1."));
    for _ in 0..4 {
        app.post("/rigs/1/undo", "").await;
    }
    assert_eq!(names().await, before);
}

#[tokio::test]
async fn a_pack_typed_from_its_label_gets_a_lane_and_loses_it_again() {
    let app = TestApp::with_demo().await;
    let label = "name=Two+Teal+12-110&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=110&series=2&parallel=1\
                 &max_continuous_current_a=100&mass_kg=28+lb&price=399&extra=300&cycles=4000";
    let page = app.swap("/rigs/1/packs/new?open=new-pack", label).await;
    assert_eq!(page.status, StatusCode::OK);
    assert_eq!(page.text(".lane h3"), "Two Teal 12-110", "a new pack stands on top");
    assert_eq!(page.text(".lane-name p"), "2 in series, 12.8 V 110 Ah each");
    assert_eq!(page.header("HX-Replace-Url"), BOARD);
    let figures = page.texts(".lane:first-of-type dd");
    assert_eq!(&figures[1..3], ["56 lb", "$1,098"]);
    app.post("/rigs/1/packs/12/remove", "").await;
    assert_ne!(app.get(BOARD).await.text(".lane h3"), "Two Teal 12-110");
    app.post("/rigs/1/undo", "").await;
    assert_eq!(app.get(BOARD).await.text(".lane h3"), "Two Teal 12-110");
}

#[tokio::test]
async fn the_rules_of_the_house_hold_for_every_lane() {
    let app = TestApp::with_demo().await;
    let quarry = async || {
        let page = app.get("/rigs/1/board?pin=4").await;
        (page.text(".lane h3"), page.text(".verdict"))
    };
    assert!(quarry().await.1.ends_with("too deep"));
    let rules = "reserve=10&flooded=50&agm=20&gel=50&lfp=10&nmc=15&horizon=10&kept=77&resting=100";
    app.post("/rigs/1/rules", rules).await;
    assert_eq!(quarry().await.0, "Two Quarry AGM 31", "a pinned lane stands on top");
    assert!(quarry().await.1.starts_with("Gets home with "), "{:?}", quarry().await);
    let heavier = "name=Skiff&kind=v_hull&people=2&limit=400";
    app.post("/rigs/1/craft?page=rig", heavier).await;
    let page = app.get(BOARD).await;
    assert_eq!(page.text(".rig-name"), "Skiff");
    assert_eq!(page.text(".aside h2"), "Set aside: 2 packs");
}

#[tokio::test]
async fn what_was_typed_wrongly_stays_beside_what_is_allowed() {
    let app = TestApp::with_demo().await;
    let before = app.get(BOARD).await.texts(".verdict");
    for (typed, says) in [
        ("", "Type a number from 0 to 2000 A, as in 10."),
        ("-3", "Type a number from 0 to 2000 A, as in 10."),
        ("NaN", "This is not a number. Type one from 0 to 2000 A, as in 10."),
        ("1e309", "Type a number from 0 to 2000 A, as in 10."),
        ("8,5,0", "It is not clear what the comma means. Write a point for decimals, as in 850."),
        ("lots", "This is not a number. Type one from 0 to 2000 A, as in 10."),
        ("%FF", "Some of this is not readable text. Type it again."),
    ] {
        let form = format!("name=Out&minutes=40&kind=current&amount={typed}");
        for page in [
            app.swap("/rigs/1/stretches/1?open=day", &form).await,
            app.post("/rigs/1/stretches/1?open=day", &form).await,
        ] {
            assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
            assert_eq!(page.text("#stretch-1 .problem"), says, "{typed}");
            let kept = page.attribute("#s1-amount", "value").unwrap();
            assert_eq!(kept, typed.replace("%FF", "\u{fffd}"));
            assert_eq!(page.attribute("#s1-amount", "aria-invalid").as_deref(), Some("true"));
            assert_eq!(page.texts(".verdict"), before, "nothing was saved");
        }
    }
    let page = app.swap("/rigs/1/stretches/1?open=day", "name=Out&minutes=10081&kind=off").await;
    assert_eq!(page.text("#stretch-1 .problem"), "Type a number from 0.5 to 10080 min, as in 70.");
    let pack = "name=X&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=100&series=65&parallel=0";
    let page = app.swap("/rigs/1/packs/new?open=new-pack", pack).await;
    assert_eq!(page.texts("#panel-new-pack .problem"), ["Type a number from 1 to 64, as in 8."; 2]);
    assert!(page.text("#notice").starts_with("Not saved yet: 2 fields need another look."));
    let page = app.swap("/rigs/1/day?open=day", "start=25:00&ambient=999&outings=x").await;
    assert_eq!(page.texts("#panel-day .field .problem").len(), 3);
}

#[tokio::test]
async fn a_day_too_long_is_told_before_it_is_kept() {
    let app = TestApp::with_demo().await;
    let week = "name=Drift&minutes=10080&kind=off";
    let page = app.swap("/rigs/1/stretches?open=day", week).await;
    assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
    let says = page.text(".stretch-new .problem");
    assert!(says.starts_with("The day would last 175 h; it can be at most 168 h"), "{says}");
}

#[tokio::test]
async fn the_working_of_a_figure_names_its_numbers_and_who_vouches_for_them() {
    let app = TestApp::with_demo().await;
    let page = app.get("/rigs/1/board?open=working-4").await;
    let working = page.text("#panel-working");
    for words in [
        "start - Ah drawn / rated Ah",
        "110 Ah over 20 h",
        "205 min at 25 A",
        "from the label",
        "law of remembered current",
        "Assumed by its chemistry, since not given: internal resistance",
    ] {
        assert!(working.contains(words), "{words} in {working}");
    }
    assert!(page.texts("#panel-working tbody tr").len() > 8);
}

#[tokio::test]
async fn the_lanes_stand_in_the_order_asked_for() {
    let app = TestApp::with_demo().await;
    let first = async |query: &str| app.get(&format!("{BOARD}{query}")).await.text(".lane h3");
    assert_eq!(first("").await, "Tern 24-120");
    assert_eq!(first("?order=light").await, "Heron 24-50");
    assert_eq!(first("?order=light&pin=3").await, "Two Marl Point 12-100");
    assert_eq!(first("?order=nonsense&open=pack-999&pin=x").await, "Tern 24-120");
    let best = app.get(&format!("{BOARD}?order=best")).await.texts(".verdict");
    assert!(best[0].starts_with("Gets home") && best.last().unwrap().starts_with("BMS shuts off"));
}

#[tokio::test]
async fn an_empty_database_offers_a_first_step_and_the_plan_can_be_taken_away() {
    let app = TestApp::empty().await;
    assert_eq!(
        app.get("/").await.texts(".starts h3"),
        ["My own boat", "My own kayak", "My own cart", "A plan file"]
    );
    let begun = app.post("/start/own", "").await;
    assert_eq!(begun.header("location"), "/rigs/1/rig");
    let page = app.get(BOARD).await;
    assert!(page.text(".empty").starts_with("No packs yet."));
    assert_eq!(app.get("/").await.header("location"), BOARD);
    let file = app.get("/rigs/1/plan.json").await;
    assert!(file.header("content-disposition").starts_with("attachment"));
    assert_eq!(lake_hour_formats::plan::read(file.body.as_bytes()).unwrap().rig.name, "My boat");
}

/// What is corrected on the Shelf is offered where a pack was built of that battery, and taken over by one
/// undoable step. What its owner changed in the pack stays; another name on the shelf is no other battery,
/// and one that is removed there harms no pack.
#[tokio::test]
async fn a_correction_on_the_shelf_reaches_the_board() {
    let app = TestApp::with_demo().await;
    let id = |page: &crate::app::Answer| {
        page.attribute("article", "id").unwrap().replace("battery-", "")
    };
    let battery = id(&app.get("/rigs/1/shelf?q=stillwater").await);
    assert!(app.get(BOARD).await.texts(".relabel").is_empty());
    let form = "name=Stillwater+12-140&chemistry=lfp&nominal_voltage_v=12.8&capacity_ah=90&capacity_hours=5&mass_kg=14.1+kg&price=465";
    app.post(&format!("/rigs/1/shelf/{battery}"), form).await;
    let page = app.get(BOARD).await;
    assert_eq!(page.texts(".relabel span"), ["Its label changed on the Shelf."]);
    let before = page.text("#lane-2 .verdict");
    let page = app.swap("/rigs/1/packs/2/relabel", "").await;
    assert!(page.texts(".relabel").is_empty());
    assert_ne!(page.text("#lane-2 .verdict"), before);
    assert_eq!(page.text("#lane-2 .lane-name p"), "2 in series, 12.8 V 90 Ah each");
    assert_eq!(app.swap("/rigs/1/undo", "").await.text("#lane-2 .verdict"), before);
    // Its own figures now: the label has still changed, and these stay when it is taken.
    let own = "name=Two+Stillwater+12-140&capacity_ah=139&series=2&parallel=1";
    app.post("/rigs/1/packs/2", own).await;
    app.post(&format!("/rigs/1/shelf/{battery}"), "name=Stillwater+II&price=455").await;
    let page = app.swap("/rigs/1/packs/2/relabel", "").await;
    assert_eq!(page.text("#lane-2 .lane-name p"), "2 in series, 12.8 V 139 Ah each");
    let form = app.get("/rigs/1/board?open=pack-2").await;
    assert_eq!(form.attribute("#pack2-price", "value").unwrap(), "455");
    assert_eq!(form.attribute("#pack2-capacity_ah", "value").unwrap(), "139");
    assert_eq!(form.attribute("#pack2-link", "value"), None, "nobody gave one");
    assert!(app.get(BOARD).await.texts(".relabel").is_empty());
    let verdict = app.get(BOARD).await.text("#lane-2 .verdict");
    app.post(&format!("/rigs/1/shelf/{battery}/remove"), "").await;
    let page = app.get(BOARD).await;
    assert_eq!((page.texts(".relabel").len(), page.text("#lane-2 .verdict")), (0, verdict));
    assert_eq!(app.post("/rigs/1/packs/2/relabel", "").await.status, StatusCode::NOT_FOUND);
}

/// Every pack is priced with what it needs; where lists do not count, only one of which that is typed.
#[tokio::test]
async fn a_price_says_whether_it_counts_what_a_pack_needs() {
    let app = TestApp::with_demo().await;
    let teal = "name=Teal&chemistry=lfp&nominal_voltage_v=25.6&capacity_ah=100&price=500&series=1&parallel=1&extra=";
    app.post("/rigs/1/packs/new", teal).await;
    let label = async || app.get(BOARD).await.texts(".lane:first-of-type dt")[2].clone();
    let price = async || app.get(BOARD).await.texts(".lane:first-of-type dd")[2].clone();
    assert_eq!(label().await, "price with needs");
    assert_ne!(price().await, "$500");
    app.post("/rigs/1/build/counted/no", "").await;
    assert_eq!((label().await, price().await), ("price".to_owned(), "$500".to_owned()));
    app.post("/rigs/1/packs/12", &format!("{teal}0")).await;
    assert_eq!(label().await, "price with needs", "none needed is told too");
    app.post("/rigs/1/build/counted/yes", "").await;
    assert_eq!(price().await, "$500", "what was typed counts in place of the list");
    let page = app.get("/rigs/1/board?open=working-12").await;
    let working = page.text("#panel-working");
    assert!(
        working.contains("Cost per cycle: $") && working.contains("one outing is one cycle"),
        "{working}"
    );
    assert_eq!(page.texts(".lane:first-of-type dt")[3], "a cycle");
    // Two ratings of one label are told apart.
    let terms = app.get("/rigs/1/board?open=working-4").await.texts(".working-line:first-child dt");
    assert!(terms.contains(&"rating 1".to_owned()) && terms.contains(&"rating 2".to_owned()));
    // $890 over the label's 3,500 cycles is not what an outing costs, and the lane says why.
    let first = "#lane-1 .by-label";
    assert_eq!(page.text(first), "By label cycles $0.25, but age ends it first");
}

/// The same amps at the same volts on the Day, the Board and in the reason, and the volts stand beside them.
#[tokio::test]
async fn amps_say_at_which_volts() {
    let app = TestApp::with_demo().await;
    let day = app.get("/rigs/1/day?open=stretch-8").await;
    assert!(day.text(".implied").contains("draws 24 A at 24 V"), "{}", day.text(".implied"));
    assert_eq!(day.texts(".block-words b").last().unwrap(), "24 A");
    let board = app.get(BOARD).await;
    assert!(board.text(".day-name").contains("Amps at 24 V"));
    assert_eq!(board.texts(".block-words b").last().unwrap(), "24 A");
    // 24.2 A x 24 V is 580 W with the pack that is aboard; a lighter one asks for less, and at its own volts those are
    // the amps of the reason.
    let reason =
        board.texts(".verdict").into_iter().find(|v| v.starts_with("BMS shuts off")).unwrap();
    let figure = |before: &str, after: &str| -> f64 {
        reason.split(before).nth(1).unwrap().split(after).next().unwrap().parse().unwrap()
    };
    let watts = figure(": ", " A at") * figure(" A at ", " V");
    assert!((0.90..0.98).contains(&(watts / (24.2 * 24.0))), "{reason}: {watts} W");
}

/// Drawn low while warm, then left in the cold, which holds back what is left: each moment of the day is told
/// in figures that are figures.
#[tokio::test]
async fn a_pause_in_the_cold_is_told_in_figures() {
    let app = TestApp::with_demo().await;
    let plan = serde_json::json!({
        "format": "lake-hour/plan", "version": 1,
        "rig": {"motor": {"system_voltage_v": 12}},
        "day": {"start": "07:00", "ambient_c": -20, "battery_start_c": 25, "stretches": [
            {"name": "Out", "minutes": 60, "load": {"kind": "current", "current_a": 105}},
            {"name": "Parked", "minutes": 900, "load": {"kind": "off"}},
            {"name": "Back", "minutes": 30, "load": {"kind": "current", "current_a": 10}}]},
        "packs": [{"name": "Cold one", "series": 1, "parallel": 1, "battery": {
            "chemistry": "lfp", "nominal_voltage_v": 12.8, "capacity_ah": 120}}],
    });
    let form: String = form_urlencoded::Serializer::new(String::new())
        .append_pair("plan", &plan.to_string())
        .append_pair("as", "new")
        .finish();
    assert_eq!(app.post("/plan/take", &form).await.header("location"), "/rigs/2/board");
    let cells = app.get("/rigs/2/board?open=working-12").await.texts(".working-table td");
    assert!(cells.iter().any(|c| c == "too cold"), "{cells:?}");
    assert!(!cells.iter().any(|c| c.contains("inf") || c.contains("NaN")), "{cells:?}");
}

/// A plan file comes back: looked at first, as a new rig or over one, which Undo takes back.
#[tokio::test]
async fn a_plan_file_comes_back_and_is_looked_at_first() {
    let app = TestApp::with_demo().await;
    let file = app.get("/rigs/1/plan.json").await.body;
    let page = app
        .upload("/plan?rig=1", "saved.json", file.replace("sampling skiff", "old skiff").as_bytes())
        .await;
    assert_eq!(page.status, StatusCode::OK);
    assert!(page.text(".looked").contains("Heron Pond old skiff"), "{}", page.text(".looked"));
    assert_eq!(app.get("/rigs").await.texts(".rigs a").len(), 1, "nothing is kept yet");
    let plan = page.text("textarea[name=plan]");
    let form: String =
        form_urlencoded::Serializer::new(String::new()).append_pair("plan", &plan).finish();
    let made = app.post("/plan/take?rig=1", &format!("{form}&as=new")).await;
    assert_eq!(made.header("location"), "/rigs/2/board");
    assert_eq!(
        app.get("/rigs/2/board").await.texts(".lane h3"),
        app.get(BOARD).await.texts(".lane h3")
    );
    let over = app.post("/plan/take?rig=1", &format!("{form}&as=over")).await;
    assert_eq!(over.header("location"), "/rigs/1/board");
    assert_eq!(app.get(BOARD).await.text(".rig-name"), "Heron Pond old skiff");
    assert_eq!(app.swap("/rigs/1/undo", "").await.text(".rig-name"), "Heron Pond sampling skiff");
    // Whatever else is sent is refused with the place of what is wrong, and nothing is kept.
    for (text, says) in [
        ("{", "the file EOF while parsing"),
        (
            "{\"format\":\"lake-hour/plan\",\"version\":1,\"rig\":{\"motor\":{\"system_voltage_v\":-4}},\"day\":{\"stretches\":[]}}",
            "system_voltage_v",
        ),
        ("\u{0}", ""),
    ] {
        let page = app.upload("/plan", "x.json", text.as_bytes()).await;
        assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY, "{text}");
        assert!(page.text(".faults").contains(says), "{}", page.text(".faults"));
    }
    let none = app.upload("/plan", "x.json", b"").await;
    assert!(none.text("#plan-file-problem").starts_with("Choose a plan file first"));
    assert_eq!(
        app.upload("/plan", "x.json", &vec![b' '; 3 << 20]).await.status,
        StatusCode::PAYLOAD_TOO_LARGE
    );
    assert_eq!(
        app.post("/plan/take", "plan=x&as=new").await.status,
        StatusCode::UNPROCESSABLE_ENTITY
    );
    assert_eq!(app.get("/rigs").await.texts(".rigs a").len(), 2);
}

/// A stretch that cannot be worked out, since the motor's draw was cleared: every pack stays in sight, with
/// which stretch it is and what is missing; nothing is shown as drawing nothing.
#[tokio::test]
async fn packs_stay_when_the_motors_draw_is_cleared() {
    let app = TestApp::with_demo().await;
    let packs = app.get("/rigs/1/plan.json").await.body.matches("\"series\"").count();
    // The motor is known by one point only, and that one is removed.
    for (form, fields) in [
        ("draw", "setting_0=10&amps_0=46"),
        ("motor", "motor=M&volts=24&max=&count=1"),
        ("draw", "setting_0=10&amps_0=46&take-out=0"),
    ] {
        let page = app.swap(&format!("/rigs/1/{form}?page=rig"), fields).await;
        assert_eq!(page.status, StatusCode::OK, "{form}: {:?}", page.texts(".problem"));
    }
    let page = app.get(BOARD).await;
    assert!(page.texts(".empty").is_empty() && page.texts(".lane h3").is_empty());
    let aside = page.texts(".aside li");
    assert_eq!(aside.len(), packs);
    let says = "what the motor draws in stretch 6 (Transect at setting 4) is not known";
    assert!(aside.iter().all(|one| one.contains(says)), "{aside:?}");
    assert!(page.text(".aside .misfit").contains("no pack can be judged"), "and what to do");
    assert_eq!(page.attribute(".aside .misfit a", "href").as_deref(), Some("/rigs/1/rig"));
    assert!(page.text(".day").contains("? A"), "{}", page.text(".day"));
    assert!(page.text(".facts").contains("at least "), "{}", page.text(".facts"));
    let day = app.get("/rigs/1/day").await;
    assert!(day.text(".facts").contains("at least "), "{}", day.text(".facts"));
    assert!(day.text(".sum summary").contains("at least "), "{}", day.text(".sum summary"));
    assert!(day.text(".strip-none").contains("Stretch 6 (Transect at setting 4)"));
}

/// Ceilings, the school of ageing and a pack's wear are typed, said in the facts, and count.
#[tokio::test]
async fn ceilings_schools_and_wear_are_typed_and_count() {
    let app = TestApp::with_demo().await;
    let years = async || {
        let working = app.get("/rigs/1/board?open=working-1").await.text("#panel-working");
        working.split("Life: ").nth(1).unwrap().chars().take(9).collect::<String>()
    };
    let before = years().await;
    let rules = "reserve=20&flooded=50&agm=50&gel=50&lfp=10&nmc=15&lfp_top=80&nmc_top=100&horizon=40&kept=77&resting=80&school=window";
    let page = app.swap("/rigs/1/rules?open=rules", rules).await;
    assert_eq!(page.status, StatusCode::OK);
    assert!(page.text(".board-rules").contains("LFP 10 to 80 %"), "{}", page.text(".board-rules"));
    let working = app.get("/rigs/1/board?open=working-1").await.text("#panel-working");
    assert!(working.contains("begins the day with 80 %"), "{working}");
    assert_ne!(years().await, before);
    let bad = app.swap("/rigs/1/rules?open=rules", &rules.replace("lfp=10", "lfp=78")).await;
    assert!(bad.text("#panel-rules .problem, .field .problem").contains("Must lie above"));
    // A pack at 80 % of its capacity has less to spare, and none but it.
    let of = async || app.get(BOARD).await.texts(".verdict");
    let sound = of().await;
    let form = app.get("/rigs/1/board?open=pack-1").await;
    assert_eq!(form.attribute("#pack1-left", "value").unwrap_or_default(), "");
    let older = app.get("/rigs/1/board?if=older").await.texts(".verdict");
    assert!(older.len() == sound.len() && older != sound);
}
