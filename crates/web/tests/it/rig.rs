//! The Rig: its sketch, its curves, its lists, and the list of rigs.

use crate::app::TestApp;
use axum::http::StatusCode;

const RIG: &str = "/rigs/1/rig";

#[tokio::test]
async fn the_sketch_and_the_curves_tell_their_figures_in_words_too() {
    let app = TestApp::with_demo().await;
    let page = app.get(RIG).await;
    let sketch = page.attribute(".sketch", "aria-label").unwrap();
    assert_eq!(sketch, "Heron Pond sampling skiff from above, 14.1 ft long, 2 battery bays");
    let bays = page.attribute(".bay-sealed", "aria-label").unwrap();
    assert!(bays.contains("closed off: nothing that gasses"), "{bays}");
    assert_eq!(page.texts("[data-curve=draw] .handle").len(), 5);
    assert_eq!(
        page.texts(".figures table")[0].split(' ').take(3).collect::<Vec<_>>(),
        ["1", "1.2", "A"]
    );
    // Froude: a waterline of 13 ft has a hull speed of 4.83 kn, 5.6 mph.
    assert!(page.text(".rig-top .implied").contains("hull speed 5.6 mph"));
}

#[tokio::test]
async fn one_measured_point_bends_the_curve_and_wrong_ones_are_told_by_their_row() {
    let app = TestApp::with_demo().await;
    let amps = |page: &crate::app::Answer| page.texts(".figures table")[0].clone();
    let one = app.swap("/rigs/1/draw?page=rig", "setting_0=5&amps_0=14&measured=on").await;
    assert!(amps(&one).contains("5 14 A") && amps(&one).contains("10 50 A"), "{}", amps(&one));
    assert_eq!(one.text("#motor-title .src"), "▪ measured");
    for (form, at, says) in [
        (
            "setting_0=3&amps_0=9&setting_1=8&amps_1=4",
            "#draw-amps_1",
            "A higher setting draws more: type at least 9 A.",
        ),
        (
            "setting_0=3&amps_0=9&setting_1=3&amps_1=9",
            "#draw-setting_1",
            "You typed this setting twice: type another, or remove it.",
        ),
        ("setting_0=11&amps_0=9", "#draw-setting_0", "Type a number from 0 to 10, as in 2."),
        (
            "setting_0=10&amps_0=77",
            "#draw-amps_0",
            "More than the motor's maximum of 50 A: type that at most.",
        ),
    ] {
        let page = app.swap("/rigs/1/draw?page=rig", form).await;
        assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
        assert_eq!(page.text(&format!("{at}-problem")), says);
    }
    assert_eq!(amps(&app.get(RIG).await), amps(&one), "nothing wrong was kept");
}

/// A motor with five speeds, measured at 2, 3 and 5: its curve, the day, the card and the ways home speak of its own five marks, and
/// what was measured is met there.
#[tokio::test]
async fn a_motors_own_dial_is_used_everywhere() {
    let app = TestApp::with_demo().await;
    // Typed as if it had ten, before its dial was told: a mark stays the mark that it was read at.
    let points = "setting_0=2&amps_0=7&setting_1=3&amps_1=14&setting_2=5&amps_2=40&measured=on";
    app.swap("/rigs/1/draw?page=rig", points).await;
    let motor = app.get(RIG).await.filled("#form-motor");
    let motor_with = |dial: &str| {
        let form = motor.iter().map(|(n, v)| (n, if n == "dial" { dial } else { v.as_str() }));
        form_urlencoded::Serializer::new(String::new()).extend_pairs(form).finish()
    };
    for (dial, says) in [("1, 2, 2", "twice"), ("R1, spot-lock", "speeds ahead")] {
        let page = app.swap("/rigs/1/motor?page=rig", &motor_with(dial)).await;
        assert!(page.text("#motor-dial-problem").contains(says), "{dial}");
        assert_eq!(page.attribute("#motor-dial", "value").as_deref(), Some(dial));
    }
    let dial = "1, 2, 3, 4, 5, R1, R2, spot-lock";
    let page = app.swap("/rigs/1/motor?page=rig", &motor_with(dial)).await;
    let table = page.texts(".figures table")[0].clone();
    for at in ["2 7 A", "3 14 A", "5 40 A"] {
        assert!(table.contains(at), "{table}");
    }
    assert_eq!(table.split(" A").count(), 6, "five speeds: {table}");
    assert_eq!(page.attribute("#draw-setting_1", "value").as_deref(), Some("3"));
    // The day is typed by its marks, and what is none is told.
    let day = app.get("/rigs/1/day?open=stretch-1").await.filled("#form-stretch");
    let stretch = |amount: &str| {
        let form = day.iter().map(|(n, v)| match n.as_str() {
            "amount" => (n.as_str(), amount),
            "kind" => (n.as_str(), "setting"),
            _ => (n.as_str(), v.as_str()),
        });
        form_urlencoded::Serializer::new(String::new()).extend_pairs(form).finish()
    };
    let path = "/rigs/1/stretches/1?page=day&open=stretch-1";
    for (amount, says) in [("6", "Your dial has 1, 2, 3, 4, 5"), ("R1", "no speed ahead")] {
        let page = app.swap(path, &stretch(amount)).await;
        assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY, "{amount}");
        assert!(page.text("#stretch-amount-problem").contains(says), "{amount}");
    }
    let page = app.swap(path, &stretch("3")).await;
    assert_eq!(page.status, StatusCode::OK, "{:?}", page.texts(".problem"));
    assert_eq!(page.attribute("#stretch-amount", "value").as_deref(), Some("3"));
    let page = app.get("/rigs/1/day?open=stretch-1").await;
    assert!(page.body.contains("14 A at ") && page.body.contains("as you read it"));
    // What was read stands wherever its figures do, and what is not known leads to its field.
    for place in ["rig", "day", "board"] {
        let rests = app.get(&format!("/rigs/1/{place}")).await.text(".assumed");
        assert!(rests.contains("14 A at setting 3, as you read it at"), "{place}: {rests}");
    }
    app.post("/rigs/1/live/begin", "source=hand&start=90&back=straight").await;
    let rests = app.get("/rigs/1/live").await.text(".assumed");
    assert!(rests.contains("14 A at setting 3, as you read it at"), "{rests}");
    app.post("/rigs/1/live/drop", "").await;
    let live = "source=hand&start=100&back=straight";
    app.post("/rigs/1/live/begin", live).await;
    let ways = app.get("/rigs/1/live").await.texts("[data-rows] b");
    assert_eq!(ways, ["Setting 5", "Setting 4", "Setting 3", "Setting 2", "Setting 1"]);
}

#[tokio::test]
async fn bays_chargers_and_speeds_are_lists_with_limits() {
    let app = TestApp::with_demo().await;
    let bay = "name_0=Box&place_0=bow&length_0=22+1%2F4&width_0=400+mm&height_0=10&limit_0=80&position_0=15&sealed_0=on";
    let page = app.swap("/rigs/1/bays?page=rig", bay).await;
    assert_eq!(page.attribute("#bay-length_0", "value").as_deref(), Some("22.2"));
    assert_eq!(page.attribute("#bay-width_0", "value").as_deref(), Some("15.7"));
    assert_eq!(page.texts(".bay").len(), 1);
    let coin = app
        .swap("/rigs/1/bays?page=rig", "name_0=Coin&place_0=bow&length_0=1&width_0=1&height_0=1")
        .await;
    assert_eq!(coin.texts("#form-bays .problem").len(), 3);
    let charger =
        "name_0=Big&supply_0=mains&banks_0=1&volts_0=24&amps_0=15&profiles_0=lfp&hours_0=";
    app.swap("/rigs/1/chargers?page=rig", charger).await;
    let board = app.get("/rigs/1/board?open=working-4").await;
    assert!(
        board
            .texts("#lane-4 .misfit")
            .concat()
            .contains("Needs a charger for AGM: Big has no such profile.")
    );
    let board = app.get("/rigs/1/board?open=working-1").await;
    assert!(board.text("#panel-working").contains("ready by 06:00"));
    let speeds = "speed_0=2&amps_0=5&speed_1=3&amps_1=4";
    let page = app.swap("/rigs/1/measured?page=rig", speeds).await;
    assert_eq!(
        page.text("#form-measured .problem"),
        "The faster one must have drawn more amps than the slower."
    );
}

#[tokio::test]
async fn a_craft_of_nothing_and_a_motor_without_draw_are_told() {
    let app = TestApp::with_demo().await;
    let page = app
        .swap("/rigs/1/craft?page=rig", "name=&kind=ship&people=99&loaded=0&length=14+ft+6+in")
        .await;
    assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
    let problems = page.texts(".rig-top .field .problem");
    assert_eq!(problems.len(), 4, "{problems:?}");
    assert!(problems.contains(&"Give it a name.".to_owned()));
    assert_eq!(page.attribute("#craft-length", "value").as_deref(), Some("14 ft 6 in"));
    let motor = app.swap("/rigs/1/motor?page=rig", "motor=X&volts=24&max=1344+W&count=1").await;
    assert_eq!(motor.attribute("#motor-max", "value").as_deref(), Some("56"));
    let bad = app
        .swap("/rigs/1/motor?page=rig", "motor=X&volts=24&max=20&count=9&lowest=30&highest=20")
        .await;
    let problems = bad.texts(".two .field .problem");
    assert!(
        problems.iter().any(|p| p.contains("The draw curve below goes up to 46 A")),
        "{problems:?}"
    );
    assert!(problems.contains(&"Must be below the controller max, as in 40.".to_owned()));
}

#[tokio::test]
async fn rigs_are_duplicated_put_away_and_brought_back() {
    let app = TestApp::with_demo().await;
    let made = app.post("/rigs/1/duplicate", "").await;
    assert_eq!(made.header("location"), "/rigs/2/rig");
    app.post("/rigs/1/archive", "").await;
    let page = app.get("/rigs").await;
    assert_eq!(page.texts(".rigs a"), ["Heron Pond sampling skiff (2)"]);
    assert_eq!(app.get("/").await.header("location"), "/rigs/2/board");
    app.post("/rigs/1/bring-back", "").await;
    assert_eq!(app.get("/rigs").await.texts(".rigs a").len(), 2);
    assert_eq!(app.post("/rigs/77/duplicate", "").await.status, StatusCode::NOT_FOUND);
}

/// On wheels nothing is said of bows, thrust, calm water or take-out; a cart starts at 48 V, and one that
/// stands at 12 is asked about.
#[tokio::test]
async fn carts_speak_cart() {
    let app = TestApp::empty().await;
    app.post("/start/own-cart", "").await;
    app.post(
        "/rigs/1/packs/new",
        "name=Ridge&chemistry=lfp&nominal_voltage_v=51.2&capacity_ah=100&price=1500&series=1&parallel=1",
    )
    .await;
    for page in ["rig", "day", "board", "packs?fits=yes"] {
        let page = app.get(&format!("/rigs/1/{page}")).await;
        let kinds = page.texts("#craft-kind option");
        let words = kinds.iter().fold(page.text("main"), |t, kind| t.replace(kind.as_str(), " "));
        let words = words.to_lowercase();
        let options = page.texts("main select:not(#craft-kind) option").join(" ").to_lowercase();
        for word in [
            "take-out",
            "bow ",
            "stern",
            "thrust",
            "sonar",
            "calm",
            "upwind",
            "current, ",
            "launch",
            "boat",
            "hull",
            "water's",
        ] {
            assert!(!words.contains(word), "{word:?} in {words}");
            assert!(!options.contains(word), "{word:?} in {options}");
        }
    }
    let board = app.get("/rigs/1/board").await;
    assert!(
        board.text(".facts").starts_with("3 mi in 1 round · up to "),
        "{}",
        board.text(".facts")
    );
    assert!(
        board.text(".verdict").contains(" mi (")
            && board.text(".verdict").contains("rounds) to spare")
    );
    let labels = board.texts(".lane dt");
    assert_eq!(labels[0], "a charge");
    assert_eq!(labels[4], "per mile");
    // Fields that are not on a cart's form keep what was.
    let rig = app.get(RIG).await;
    assert_eq!(rig.attribute("#motor-volts", "value").as_deref(), Some("48"));
    assert!(rig.texts("#odd-volts").is_empty());
    let asked = app.swap("/rigs/1/motor?page=rig", "motor=X&volts=12&max=90&count=1").await;
    assert!(
        asked.text("#odd-volts").starts_with("Is it really 12 V? Most of this kind run on 48 V")
    );
    app.post("/start/own-kayak", "").await;
    assert_eq!(
        app.get("/rigs/2/rig").await.attribute("#motor-volts", "value").as_deref(),
        Some("12")
    );
}

/// Three answers, by a person who knows next to nothing: a rig, a day, packs that get home, all that is assumed told.
#[tokio::test]
async fn three_answers_lead_to_a_board() {
    let app = TestApp::empty().await;
    let start = app.get("/").await;
    assert_eq!(start.texts("#form-three label").len(), 6);
    // Nothing chosen, and things that cannot be: each beside its field, all of it still there.
    for (form, field, says) in [
        ("kind=&motor=50", "kind", "Choose what moves"),
        ("kind=kayak&motor=a+lot", "motor", "as in 55 lb"),
        ("kind=kayak&volts=9000", "volts", "from"),
        ("kind=kayak&years=4", "years", "Choose what you have now"),
        ("kind=kayak&has=agm&years=-4", "years", "from 0 to 40"),
        ("kind=kayak&how_long=8+mi", "long", "as in 5 h"),
        ("kind=golf_cart&how_long=900000", "long", "as in 8 mi"),
    ] {
        let page = app.post("/start/three", form).await;
        assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY, "{form}");
        assert!(page.text(&format!("#three-{field}-problem")).contains(says), "{form}");
    }
    let page = app.post("/start/three", "kind=kayak&motor=a+lot").await;
    assert_eq!(page.attribute("#three-motor", "value").as_deref(), Some("a lot"));
    assert_eq!(app.get("/rigs").await.texts(".rigs li").len(), 0);
    // Every kind, with everything left open: packs that move it, and a list of what is assumed.
    for (n, kind) in [
        "kayak",
        "canoe",
        "jon_boat",
        "v_hull",
        "rowing_skiff",
        "bass",
        "pontoon",
        "sailboat",
        "golf_cart",
        "utility_cart",
        "lsv",
        "go_kart",
        "motorbike",
        "conversion",
    ]
    .iter()
    .enumerate()
    {
        let begun = app.post("/start/three", &format!("kind={kind}&motor=&volts=&how_long=")).await;
        assert_eq!(begun.status, StatusCode::SEE_OTHER, "{kind}");
        assert_eq!(begun.header("location"), format!("/rigs/{}/board", n + 1));
        let board = app.get(begun.header("location")).await;
        assert!(!board.texts(".lane").is_empty(), "{kind}");
        assert!(board.texts(".assumed a").len() >= 5, "{kind}: {:?}", board.texts(".assumed a"));
    }
    // A boat with what is known of it: five hours, 55 lb at 12 V; a cart with its miles.
    let boat = app.post("/start/three", "kind=v_hull&motor=55+lb&volts=12&how_long=5").await;
    let board = app.get(boat.header("location")).await;
    assert!(board.text(".facts").starts_with("12 V \u{b7} 5 h"), "{}", board.text(".facts"));
    assert!(board.texts(".verdict").iter().any(|v| v.starts_with("Gets home")));
    assert_eq!(board.text("#next"), "Next: build it");
    let cart = app.post("/start/three", "kind=golf_cart&motor=150+A&volts=48&how_long=8+mi").await;
    let day = app.get(&cart.header("location").replace("board", "day")).await;
    assert!(day.body.contains("8 mi") || day.body.contains("8.0 mi"), "{}", day.text(".facts"));
    assert_eq!(day.text("#next"), "Next: packs");
    // What an owner has put on his shelf is left alone.
    assert_eq!(
        app.get("/data").await.text(".lead"),
        "16 rigs and 14 batteries, in one file on this machine. Nobody else has it."
    );
    for page in ["/model", "/glossary"] {
        let page = app.get(page).await;
        assert_eq!((page.status, page.texts("h1").len()), (StatusCode::OK, 1));
    }
}

/// What an owner has now is told on the Rig, stands on the Board, is worth what it sells for, and is taken back whole.
#[tokio::test]
async fn what_one_has_now_is_told_on_the_rig_and_competes_on_the_board() {
    let app = TestApp::with_demo().await;
    let plan = |body: String| lake_hour_formats::plan::read(body.as_bytes()).unwrap();
    let mut bare = plan(app.get("/rigs/1/plan.json").await.body);
    bare.packs.retain(|p| !p.aboard);
    let text = serde_json::to_string(&lake_hour_formats::plan::write(&bare)).unwrap();
    let mut form = form_urlencoded::Serializer::new(String::new());
    form.append_pair("plan", &text).append_pair("as", "new");
    let to = app.post("/plan/take", &form.finish()).await;
    let rig = to.header("location").split('/').nth(2).unwrap().to_owned();
    let (page, file) = (format!("/rigs/{rig}/rig"), format!("/rigs/{rig}/plan.json"));
    assert!(app.get(&page).await.texts("#has").is_empty());
    let have = format!("/rigs/{rig}/have?page=rig");
    let refused = app
        .swap(
            &have,
            "kind=flooded&count=3&volts=6&ah=&years=4&symptom=shorter&left=&mass=&worth=50",
        )
        .await;
    assert!(
        refused.texts(".problem").iter().any(|t| t.contains("3 of 6 V do not make")),
        "{:?}",
        refused.texts(".problem")
    );
    let volts = bare.rig.motor.system_voltage.value();
    let count = (volts / 6.0).round() as u32;
    let typed = |left: &str| {
        format!(
            "kind=flooded&count={count}&volts=6&ah=&years=4&symptom=shorter&left={left}&mass=62&worth=50"
        )
    };
    app.post(&have, &typed("")).await;
    let told = plan(app.get(&file).await.body);
    let aboard = told.aboard().unwrap();
    assert_eq!((aboard.series, aboard.battery.chemistry.is_lead()), (count, true));
    assert!(aboard.is_worn_by_age() && aboard.health.capacity_share < 0.8);
    assert!((told.rules.money.sale.value() - 50.0).abs() < 1e-9);
    let shown = app.get(&page).await;
    assert!(shown.text("#has").contains("by its age and symptom, assumed"));
    assert!(!shown.text("#replace").is_empty());
    // What a test found stands above it; what was not touched stays.
    app.post(&have, &typed("91")).await;
    let tested = plan(app.get(&file).await.body);
    assert!((tested.aboard().unwrap().health.capacity_share - 0.91).abs() < 1e-9);
    assert_eq!(tested.aboard().unwrap().battery.mass, aboard.battery.mass);
    let filled = app.get(&page).await.filled("#form-have");
    let again: Vec<String> = filled.iter().map(|(k, v)| format!("{k}={v}")).collect();
    app.post(&have, &again.join("&")).await;
    assert_eq!(plan(app.get(&file).await.body), tested, "saved untouched");
    for _ in 0..2 {
        app.post(&format!("/rigs/{rig}/undo"), "").await;
    }
    assert_eq!(plan(app.get(&file).await.body).aboard(), None);
}
