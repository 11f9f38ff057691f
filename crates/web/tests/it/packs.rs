//! The Packs: what is proposed, in which order, refused by which figure; the pack that is opened; onto the Board.

use crate::app::{Answer, TestApp};
use axum::http::StatusCode;

const PACKS: &str = "/rigs/1/packs";

fn names(page: &Answer) -> Vec<String> {
    page.texts(".packs-row-words b")
}

/// Figures of the heading: packs judged, that get home, that fit.
fn counts(page: &Answer) -> [usize; 3] {
    let facts = page.text(".board-head .facts");
    let number = |word: &str| -> usize {
        let part =
            facts.split(" · ").find(|p| p.contains(word)).unwrap_or_else(|| panic!("{facts}"));
        part.split(' ').next().unwrap().replace(',', "").parse().unwrap()
    };
    [number("judged"), number("home"), number("fit")]
}

#[tokio::test]
async fn every_pack_of_the_shelf_is_listed_or_refused_by_its_figure() {
    let app = TestApp::with_demo().await;
    let page = app.get(PACKS).await;
    assert_eq!(page.status, StatusCode::OK);
    let [judged, home, fit] = counts(&page);
    assert!(judged > 80 && home > fit && fit > 30, "{judged} {home} {fit}");
    // Gets home and fits are asked for from the start; the pages hold those.
    let of = page.text(".packs-pages span");
    assert_eq!(of, format!("1 to 6 of {fit}"));
    let refused: usize =
        page.texts(".packs-refused b").iter().map(|n| n.parse::<usize>().unwrap()).sum();
    assert_eq!(refused + fit, judged, "each is listed or refused by one figure");
    assert_eq!(page.text(".packs-refused h2"), format!("Refused {refused}"));
    let words = page.texts(".packs-refused span").join(" ");
    for figure in
        ["wrong volts", "too heavy", "no room", "starting", "BMS shuts off", "empty on the way"]
    {
        assert!(words.contains(figure), "{figure}: {words}");
    }
    let near = page.texts(".packs-near li").join("; ");
    assert!(
        near.contains("A more continuous: its label says") && near.contains("Bow box were"),
        "{near}"
    );
    // What is put out of sight on the Shelf is not proposed, and not counted.
    app.post("/rigs/1/shelf/1/hide", "").await;
    let without = app.get(PACKS).await;
    assert!(without.text(".board-head .facts").contains(" 41 batteries"));
    assert!(!names(&without).contains(&"Two Marl Point 12-100".to_owned()));
    // Labels that are doubted come last, and say so.
    assert!(page.texts(".packs-row .misfit").is_empty());
    let last = app.get(&format!("{PACKS}?p=99")).await;
    assert!(last.texts(".packs-row .misfit").iter().all(|w| w == "Its label is doubted"));
    assert!(!last.texts(".packs-row .misfit").is_empty());
}

#[tokio::test]
async fn what_is_asked_for_narrows_the_list_and_the_orders_order_it() {
    let app = TestApp::with_demo().await;
    let list = async |query: &str| {
        let page = app.get(&format!("{PACKS}?{query}")).await;
        assert_eq!(page.status, StatusCode::OK, "{query}");
        page
    };
    let matching = |page: &Answer| {
        let pages = page.texts(".packs-pages span");
        let rows = names(page).len();
        pages.first().map_or(rows, |of| of.rsplit(' ').next().unwrap().parse().unwrap())
    };
    let all = matching(&list("").await);
    for query in [
        "want=home_fits_charger",
        "want=home_fits_no-lead",
        "want=home_fits_moves",
        "units=1",
        "weight=60",
        "weight=27+kg",
        "price=%24900",
        "chem=agm",
    ] {
        let some = matching(&list(query).await);
        assert!(some < all && some > 0, "{query}: {some} of {all}");
    }
    assert!(matching(&list("want=any").await) > all);
    assert_eq!(matching(&list("weight=60").await), matching(&list("weight=27.2155+kg").await));
    // Limits that make no sense are told beside their fields, and hide nothing.
    let wrong = list("weight=heavy&price=-4").await;
    assert!(wrong.text("#limit-weight-problem").contains("Type one from"));
    assert!(wrong.text("#limit-price-problem").contains("Type a number from"));
    assert_eq!(matching(&wrong), all);
    assert_eq!(wrong.attribute("#limit-weight", "value").as_deref(), Some("heavy"));
    // The lightest first, on every page.
    let mut masses: Vec<f64> = Vec::new();
    for page in 1..=4 {
        let page = list(&format!("by=light&want=home_fits_no-lead&weight=150&p={page}")).await;
        let figures = page.texts(".packs-row-figures span:last-child");
        let doubted = page.texts(".packs-row .misfit").len();
        let sure = figures.len() - doubted;
        masses.extend(
            figures.iter().take(sure).map(|m| m.split(' ').next().unwrap().parse::<f64>().unwrap()),
        );
    }
    assert!(masses.len() > 8 && masses.is_sorted(), "{masses:?}");
    let none = list("price=1").await;
    assert!(none.text(".packs-list .empty").starts_with("No pack is like that."));
}

#[tokio::test]
async fn a_pack_goes_to_the_board_as_it_was_shown() {
    let app = TestApp::with_demo().await;
    let page = app.get(&format!("{PACKS}?want=home_fits_moves")).await;
    let (name, verdict) = (page.text("#packs-open-title"), page.text(".packs-verdict .verdict"));
    let which = page.attribute("form [name=pack]", "value").unwrap();
    let kept =
        app.swap(&format!("{PACKS}/take?want=home_fits_moves"), &format!("pack={which}")).await;
    assert_eq!(kept.status, StatusCode::OK);
    assert!(
        kept.text("#notice").contains(&format!("Added the pack {name}")),
        "{}",
        kept.text("#notice")
    );
    assert_eq!(kept.header("HX-Replace-Url"), "/rigs/1/packs?want=home_fits_moves");
    assert_eq!(kept.text("#on-board"), "On the Board");
    let board = app.get("/rigs/1/board").await;
    assert_eq!(board.texts(".lane h3")[0], name);
    assert_eq!(board.texts(".lane .verdict")[0], verdict, "one definition of the verdict");
    // Undo on the page takes it off again, redo brings it back; without scripts a redirect leads there.
    let undone = app.swap(&format!("{PACKS}/undo"), "").await;
    assert!(undone.text("#notice").starts_with("Taken back"), "{}", undone.text("#notice"));
    assert_ne!(app.get("/rigs/1/board").await.texts(".lane h3")[0], name);
    assert_eq!(app.post(&format!("{PACKS}/redo"), "").await.status, StatusCode::SEE_OTHER);
    assert_eq!(app.get("/rigs/1/board").await.texts(".lane h3")[0], name);
    // The price that was shown is the one on the Board, its charger with it.
    for odd in ["pack=", "pack=1", "pack=1-0x1", "pack=1-65x1", "pack=1-9x9", "pack=%3Cb%3E"] {
        let refused = app.swap(&format!("{PACKS}/take"), odd).await;
        assert_eq!(refused.status, StatusCode::BAD_REQUEST, "{odd}");
    }
    let gone = app.swap(&format!("{PACKS}/take"), "pack=9999-1x1").await;
    assert_eq!(gone.status, StatusCode::NOT_FOUND);
    let gone = app.get(&format!("{PACKS}?pack=9999-1x1")).await;
    assert!(gone.text(".packs-open .empty").contains("no longer on the Shelf"));
}

#[tokio::test]
async fn the_opened_pack_says_what_its_charger_a_dead_unit_and_its_weight_are_like() {
    let app = TestApp::with_demo().await;
    let open = async |query: &str| app.get(&format!("{PACKS}?{query}")).await;
    let lines = |page: &Answer| -> Vec<String> { page.texts(".packs-parts .packs-lines div") };
    // Two of 12 V on a charger of two outputs.
    let page = open("pack=1-2x1").await;
    assert_eq!(page.text("#part-charger"), "Your charger fits");
    let told = lines(&page).join("; ");
    for words in [
        "by Boathouse two-bank",
        "to full 7",
        "ready by 06:00 yes",
        "forgot overnight: 07:00 to 12:00",
        "than the set aboard",
        "bow about",
    ] {
        assert!(told.contains(words), "{words}: {told}");
    }
    assert!(page.text(".packs-failing .is-this").contains("12.8 V: the motor needs 24"));
    assert!(page.text(".packs-failing .is-this").ends_with("4 in 100 4 in 100"));
    // The rate is its reader's: doubled, the chances are about doubled.
    let often = open("pack=1-2x1&rate=10").await;
    assert!(often.text(".packs-failing .is-this").ends_with("19 in 100 19 in 100"));
    let wrong = open("pack=1-2x1&rate=90").await;
    assert!(wrong.text("#rate-problem").contains("from 0 to 50 in 100"));
    // One for 24 V has no charger aboard: why, and what to buy.
    let page = open("pack=10-1x1").await;
    assert_eq!(page.text("#part-charger"), "No charger aboard fits");
    let why = page.text(".packs-parts .misfit");
    assert!(why.contains("gives 2 x 12 V, this takes 1 x 25.6 V"), "{why}");
    assert!(
        page.text(".packs-parts section:first-child > p:last-child")
            .contains("One that fits: 25.6 V for LFP")
    );
    // A charger with another profile: what that does to the battery.
    app.post(
        "/rigs/1/chargers?page=rig",
        "name_0=Old&supply_0=mains&banks_0=2&volts_0=12&amps_0=5&profiles_0=flooded",
    )
    .await;
    let page = open("pack=1-2x1").await;
    let why = page.texts(".packs-parts .misfit").join(" ");
    assert!(why.contains("no such profile") && why.contains("equalizes and floats"), "{why}");
    // Strings side by side go on without one.
    let page = open("pack=4-2x2").await;
    assert!(page.text(".packs-failing .is-this").contains("1 of 2 strings, 25.6 V"));
}

#[tokio::test]
async fn the_wiring_is_drawn_sized_checked_and_saved() {
    let app = TestApp::with_demo().await;
    let page = app.get(&format!("{PACKS}?pack=1-2x1")).await;
    let sentence = page.attribute("svg.wiring-wide", "aria-label").unwrap();
    assert!(
        sentence.starts_with("Wiring of Two Marl Point 12-100: 2 in series, AWG 6"),
        "{sentence}"
    );
    assert!(page.text(".wiring-ok").contains("25.6 V, no loop, every wire protected"));
    let gauges = page.texts(".wiring-runs tbody tr").join("; ");
    for words in ["to the motor AWG 6 (16 mm²) 2 x", "120 A 50 A", "jumpers AWG", "charger AWG"] {
        assert!(gauges.contains(words), "{words}: {gauges}");
    }
    // Signs, not colors alone: each unit has a plus and a minus.
    let signs = page.body.matches("w-sign-plus").count();
    assert_eq!(signs, 2 * 2, "two units in two drawings");
    // A longer lead is a thicker one; an impossible one is told, and what was typed stays.
    let far = app.get(&format!("{PACKS}?pack=1-2x1&lead=60+ft&breaker=off")).await;
    assert!(far.text(".wiring-runs tbody tr").contains("2 x 60 ft"));
    assert!(!far.text(".wiring-runs tbody tr").contains("AWG 6 "));
    assert!(!far.text("svg.wiring-wide").contains("breaker"));
    for (lead, says) in
        [("0", "Type a number from"), ("500 m", "Type a number from"), ("x", "Type one from")]
    {
        let page = app.get(&format!("{PACKS}?pack=1-2x1&lead={}", lead.replace(' ', "+"))).await;
        assert!(page.text("#lead-problem").contains(says), "{lead}");
        assert_eq!(page.attribute("#lead", "value").as_deref(), Some(lead));
    }
    // As a file it is an SVG of its own: no class without its style, nothing from elsewhere.
    let file = app.get(&format!("{PACKS}/wiring.svg?pack=1-2x1")).await;
    assert_eq!((file.status, file.header("content-type")), (StatusCode::OK, "image/svg+xml"));
    assert!(
        file.body.starts_with("<svg xmlns=\"http://www.w3.org/2000/svg\"")
            && file.body.trim_end().ends_with("</svg>")
    );
    assert!(!file.body.contains("var(--") && !file.body.contains("href"));
    for query in ["", "?pack=9999-1x1"] {
        let status = app.get(&format!("{PACKS}/wiring.svg{query}")).await.status;
        assert!(status == StatusCode::NOT_FOUND || status == StatusCode::GONE, "{query}: {status}");
    }
}

#[tokio::test]
async fn packs_stand_beside_one_another() {
    let app = TestApp::with_demo().await;
    let page = app.get(&format!("{PACKS}?beside=1-2x1_10-1x1_9-1x2")).await;
    assert_eq!(page.texts(".packs-beside thead th a:first-child").len(), 3);
    let row = |name: &str| {
        let rows = page.texts(".packs-beside tbody tr");
        rows.into_iter().find(|r| r.starts_with(name)).unwrap_or_else(|| panic!("no {name}"))
    };
    assert_eq!(row("Wired"), "Wired 2 in series one unit 2 in parallel");
    assert!(row("Price").contains("with what it needs"));
    assert!(
        row("If one unit fails").contains("paddle")
            && row("If one unit fails").contains("1 of 2 strings")
    );
    assert!(row("Balance").contains("each unit to full"));
    assert!(row("Wiring").contains("cables"));
    // One unit of each over one another, from above and from the side, each told by its line.
    assert_eq!(page.body.matches("<rect class=\"silhouette").count(), 6);
    assert_eq!(page.texts(".outlines li").len(), 3);
}

#[tokio::test]
async fn without_a_draw_or_a_shelf_it_is_said_what_is_missing() {
    let app = TestApp::with_demo().await;
    app.post("/rigs/1/motor?page=rig", "motor=M&volts=24&count=1").await;
    let emptied = app.post("/rigs/1/draw?page=rig", "").await;
    assert_eq!(emptied.status, StatusCode::SEE_OTHER);
    let page = app.get(PACKS).await;
    assert!(
        page.text(".packs-page .empty").starts_with("No pack can be judged: stretch 6"),
        "{}",
        page.body
    );
    let empty = TestApp::empty().await;
    empty.post("/start/empty", "name=Skiff&kind=v_hull&volts=24").await;
    let page = empty.get(PACKS).await;
    if page.status == StatusCode::OK {
        assert!(page.text(".packs-page .empty").contains("The Shelf is empty"));
    }
}

#[tokio::test]
async fn what_is_built_by_hand_says_what_comes_of_it_and_danger_is_refused() {
    let app = TestApp::with_demo().await;
    let built = async |query: &str| app.get(&format!("{PACKS}?hand=yes&{query}")).await;
    // Two of 12 V, one worn to 70 %: the string is as good as that one, and the day is judged with it.
    let page = built("hb=1&hs=2&hp=1&odd=70").await;
    let says = page.texts(".hand-says").join(" ");
    assert!(says.contains("gives 70 Ah, what the worn one does, and not 100"), "{says}");
    let row = page.texts("#pack-1-2x1 .verdict").join(" ");
    let verdict = page.text(".packs-verdict .verdict");
    assert!(row.starts_with("Gets home") && !verdict.starts_with("Gets home"), "{row} / {verdict}");
    let kept = app.swap(&format!("{PACKS}/take?hand=yes&pack=1-2x1&odd=70"), "pack=1-2x1").await;
    assert_eq!(kept.status, StatusCode::OK);
    assert_eq!(app.get("/rigs/1/board").await.text(".lane .verdict"), verdict);
    // Another chemistry in the string, other volts, other volts side by side, another chemistry side by side.
    for (query, words) in [
        ("hb=1&hs=2&hp=1&ou=20", "Never LFP and Flooded in one string"),
        ("hb=1&hs=2&hp=1&ou=10", "does not belong among those of 12.8 V"),
        ("hb=1&hs=2&hp=1&sb=1&ss=1&sp=1", "Never 25.6 V and 12.8 V side by side: about"),
        ("hb=17&hs=2&hp=1&sb=20&ss=2&sp=1", "Never AGM and Flooded side by side"),
    ] {
        let page = built(query).await;
        assert!(
            page.text("#hand-danger").contains(words),
            "{query}: {}",
            page.text("#hand-danger")
        );
        assert!(
            page.texts("#to-board").is_empty() && page.texts("svg.wiring").is_empty(),
            "{query}"
        );
    }
    let refused = app.swap(&format!("{PACKS}/take?pack=1-2x1&ou=20"), "pack=1-2x1").await;
    assert_eq!(refused.status, StatusCode::NOT_FOUND, "nor by any other way");
    // Side by side with others of its kind they are told together.
    let page = built("hb=1&hs=2&hp=1&sb=2&ss=2&sp=1").await;
    assert!(page.text(".hand-says").contains("Ah together"), "{}", page.text(".hand-says"));
    // Impossible counts: beside their fields, kept as typed.
    for (query, id, words, typed) in [
        ("hb=1&hs=65&hp=1", "series", "from 1 to 64", "65"),
        ("hb=1&hs=2&hp=x", "parallel", "Type one from 1 to 64", "x"),
        ("hb=1&hs=9&hp=9", "series", "at most 64 batteries, this is 81", "9"),
        ("hb=1&hs=2&hp=1&odd=200", "odd", "from 5 to 100", "200"),
    ] {
        let page = built(query).await;
        assert!(page.text(&format!("#hand-{id}-problem")).contains(words), "{query}");
        assert_eq!(page.attribute(&format!("#hand-{id}"), "value").as_deref(), Some(typed));
    }
    // A form's address and the address it leads to show the same.
    let one = built("pack=4-1x1&hb=1&hs=2&hp=1").await;
    let other = app.get(&format!("{PACKS}?pack=1-2x1&hand=yes")).await;
    assert_eq!(one.text("main"), other.text("main"));
}

/// A cart is asked how it holds its hill, a boat is not.
#[tokio::test]
async fn a_cart_holds_its_hill_and_gets_up_to_speed() {
    let app = TestApp::with_demo().await;
    assert!(app.get(PACKS).await.texts("#packs-power").is_empty());
    app.post("/rigs/1/craft?page=rig", "name=Cart&kind=utility_cart&people=2").await;
    app.post("/rigs/1/motor?page=rig", "motor=M&volts=48&max=180&count=1").await;
    let page = app.get(&format!("{PACKS}?hill=10&to=15&secs=5&want=any&pack=17-4x1")).await;
    let lines = page.texts("#packs-power .packs-lines div");
    assert!(lines[0].starts_with("up 10 %, full") && lines[1].starts_with("up 10 %, at its floor"));
    let mph = |line: &str| -> f64 {
        let words: Vec<&str> = line.split(' ').collect();
        words[words.iter().position(|w| w.starts_with("mph")).unwrap() - 1].parse().unwrap()
    };
    let [full, low] =
        [0, 1].map(|n| mph(lines[n].rsplit_once(" floor ").map_or(lines[n].as_str(), |l| l.1)));
    assert!(low < full && full > 2.0, "{lines:?}");
    assert!(lines[3].contains("to 15 mph in 5 s asks"), "{lines:?}");
    let wrong = app.get(&format!("{PACKS}?hill=90&to=x&secs=0&want=any&pack=17-4x1")).await;
    for (field, words) in
        [("hill", "from 0 to 35%"), ("to", "not a number"), ("secs", "from 1 to 120 s")]
    {
        assert!(wrong.text(&format!("#problem-{field}")).contains(words), "{field}");
    }
    assert_eq!(wrong.attribute("#hill", "value").as_deref(), Some("90"));
}

#[tokio::test]
async fn the_house_battery_has_its_own_sum_and_its_own_proposals() {
    let app = TestApp::with_demo().await;
    let page = app.get(PACKS).await;
    // A pump of 40 W for three quarters of an hour.
    assert!(page.text("#packs-house tbody tr").starts_with("Water sampler pump 40 3.3 0.75 2.5"));
    assert!(
        page.text(".packs-house-sum")
            .starts_with("2.5 Ah at 12 V for one day between charges. Size to buy")
    );
    let offers = page.texts("#house-offers tbody tr");
    assert!(!offers.is_empty());
    let longer = app.get(&format!("{PACKS}?days=30")).await;
    assert!(longer.text(".packs-house-sum").starts_with("75 Ah at 12 V for 30 days"));
    assert_ne!(longer.texts("#house-offers tbody tr"), offers);
    let wrong = app.get(&format!("{PACKS}?days=0")).await;
    assert!(wrong.text("#house-days-problem").contains("from 0.5 to 60 days"));
    assert_eq!(wrong.attribute("#house-days", "value").as_deref(), Some("0"));
    // The best of them has its own run, and another may be looked at.
    assert!(page.text("#house-lane").contains("lasts one day"), "{}", page.text("#house-lane"));
    let second = page.attribute("#house-offers tbody tr:nth-child(2) a", "href").unwrap();
    let other = app.get(&second).await;
    assert_ne!(other.text("#house-lane b"), page.text("#house-lane b"));
    assert_eq!(other.text("#house-offers .is-this a"), other.text("#house-lane b"));
    // Longer than the week that is drawn: by the sum alone.
    assert!(longer.text("#house-lane").contains("Longer than 7 days"));
    // The same devices at 16 V draw fewer amps, of a battery that is sold for them.
    let sixteen = app.get(&format!("{PACKS}?hv=16")).await;
    assert!(
        sixteen.text("#packs-house tbody tr").starts_with("Water sampler pump 40 2.5 0.75 1.9")
    );
    assert!(sixteen.texts("#house-offers").is_empty(), "none on this shelf");
    // An engine to start: by cranking amps, which are no amp-hours; 4 x 3 s x 150 A are half an Ah.
    let engine = app.get(&format!("{PACKS}?cranks=4&starter=150")).await;
    assert!(engine.text(".packs-house-sum").starts_with("3 Ah at 12 V"));
    assert!(engine.text("#packs-house").contains("Engine, 4 starts - 150 3 s each 0.5"));
    let starters = engine.texts("#starters tbody tr").join("\n");
    assert!(starters.contains("Cattail cranker") && starters.contains("650 A cold"), "{starters}");
    assert!(engine.texts("#house-offers tbody tr").iter().all(|row| row.contains(" A ")));
    let strong = app.get(&format!("{PACKS}?cranks=1&starter=2900")).await;
    assert!(strong.text("#no-starter").contains("enough cranking amps"));
    let half = app.get(&format!("{PACKS}?cranks=4&starter=lots")).await;
    assert!(half.text("#house-starter-problem").starts_with("starter:"));
    assert_eq!(half.attribute("#house-starter", "value").as_deref(), Some("lots"));
    // Without such a device there is nothing to say.
    app.post("/rigs/1/devices?page=day", "").await;
    assert!(app.get(PACKS).await.texts("#packs-house").is_empty());
}

/// Of a long shelf the first answer holds a part, and says of how much; asked again it goes on to the end.
#[tokio::test]
async fn a_long_shelf_is_gone_through_piece_by_piece() {
    let app = TestApp::with_demo().await;
    let mut csv = String::from(
        "name,chemistry,nominal_voltage_v,capacity_ah,capacity_hours,mass_kg,price,length_mm,width_mm,height_mm\n",
    );
    for n in 0..6_000 {
        csv.push_str(&format!(
            "Sedge {n},lfp,12.8,{},20,{},{},330,173,220\n",
            40 + n % 90,
            6 + n % 9,
            200 + n
        ));
    }
    let sent = app.upload("/rigs/1/shelf/file", "long.csv", csv.as_bytes()).await;
    let at = sent.header("location").to_owned();
    let id = at.rsplit('-').next().unwrap().to_owned();
    let wait = async |path: &str| {
        for _ in 0..600 {
            if app.get(path).await.texts(".file-state progress").is_empty() {
                return;
            }
            tokio::time::sleep(std::time::Duration::from_millis(25)).await;
        }
        panic!("it never ends");
    };
    wait(&at).await;
    app.post(&format!("/rigs/1/shelf/files/{id}/take"), "").await;
    wait(&at).await;
    // Whoever goes away in the middle leaves it to the next one, whole.
    for ms in [1, 4, 15, 40, 90] {
        let patience = std::time::Duration::from_millis(ms);
        let _ = tokio::time::timeout(patience, app.get(PACKS)).await;
    }
    let first = app.get(PACKS).await;
    let told = first.text("#packs-progress");
    assert!(told.contains(" of 6042 batteries judged so far"), "{told}");
    assert_eq!(first.attribute("#packs-progress", "hx-get").as_deref(), Some(PACKS));
    assert!(!names(&first).is_empty(), "what there is is shown");
    let (mut page, mut judged) = (first, 0);
    for _ in 0..200 {
        let now: usize =
            page.attribute("#packs-progress progress", "value").unwrap().parse().unwrap();
        assert!(now > judged, "it goes on");
        judged = now;
        page = app.get(PACKS).await;
        if page.texts("#packs-progress").is_empty() {
            break;
        }
    }
    assert!(page.texts("#packs-progress").is_empty() && counts(&page)[0] > 6_042);
    // Nothing has changed: all of it is there at once. A changed rig is gone through anew.
    assert_eq!(app.get(PACKS).await.text("main"), page.text("main"));
    app.post(
        "/rigs/1/rules?open=rules",
        "reserve=21&flooded=50&agm=50&gel=50&lfp=10&nmc=15&horizon=10&kept=77&resting=100",
    )
    .await;
    let mut again = app.get(PACKS).await;
    assert!(!again.texts("#packs-progress").is_empty());
    while !again.texts("#packs-progress").is_empty() {
        again = app.get(PACKS).await;
    }
    assert_eq!(counts(&again)[0], counts(&page)[0], "none was passed over");
}

/// What is typed without a unit keeps the one it was typed in, whatever is chosen afterwards.
#[tokio::test]
async fn limits_keep_the_units_they_were_typed_in() {
    let app = TestApp::with_demo().await;
    let shown = async |query: &str, units: &str| {
        let request = axum::http::Request::get(format!("{PACKS}?{query}"))
            .header("host", crate::app::HOST)
            .header("cookie", format!("units={units}"))
            .body(axum::body::Body::empty())
            .unwrap();
        app.send(request).await
    };
    let us = shown("weight=60&lead=20&pack=1-2x1", "us").await;
    let next = us.attribute(".orders a", "href").unwrap();
    assert!(next.contains("weight=60+lb") && next.contains("lead=20+ft"), "{next}");
    let query = next.split_once('?').unwrap().1;
    let metric = shown(query, "metric").await;
    assert_eq!(names(&us), names(&metric));
    assert!(metric.text(".wiring-runs td:nth-child(3)").contains("6.1 m"));
    // A what-if of the wind is another one in other units: what was judged for one is not told for the other.
    let of =
        async |units: &str| shown("if=wind&want=any", units).await.texts(".packs-row .verdict");
    let (mph, kmh) = (of("us").await, of("metric").await);
    let alone = TestApp::with_demo().await;
    let request = axum::http::Request::get(format!("{PACKS}?if=wind&want=any"))
        .header("host", crate::app::HOST)
        .header("cookie", "units=metric")
        .body(axum::body::Body::empty())
        .unwrap();
    assert_eq!(alone.send(request).await.texts(".packs-row .verdict"), kmh);
    assert_ne!(mph, kmh);
    // Too many batteries are told as that.
    let many = app.get(&format!("{PACKS}?pack=1-9x9")).await;
    assert!(many.text(".packs-open .empty").contains("at most 64 batteries"));
}

const CHARGERS: &str = "name_0=Boathouse+two-bank&supply_0=mains&banks_0=2&volts_0=12&amps_0=10&profiles_0=both\
     &name_1=Pond+generator&supply_1=generator&banks_1=1&volts_1=24&amps_1=30&hours_1=4";

/// Two banks in turn: drawn over one axis, charged by what is chosen, held against the same two as one.
#[tokio::test]
async fn two_banks_take_turns() {
    let app = TestApp::with_demo().await;
    let turn = |query: &str| format!("{PACKS}?want=any&chem=agm&pack=17-2x1&turn=yes{query}");
    // As the demo stands nothing charges on the way: both are used up, and what is missing is told.
    let bare = app.get(&turn("")).await;
    assert_eq!(bare.texts("#packs-turn .wiring-wide .t-used").len(), 3, "two in turn and the one");
    assert!(bare.text("#turn-figures").contains("out after"), "{}", bare.text("#turn-figures"));
    assert!(bare.text("#packs-turn").contains("No generator's charger on the Rig fits one bank."));
    assert!(bare.text("#packs-turn").contains("The Day tells of no sun, and no panels"));
    assert!(!bare.text("#packs-turn").contains("enerator runs"), "there is none");
    app.swap("/rigs/1/chargers?page=rig", CHARGERS).await;
    let sun = "by_0=sun&from_0=09:00&gives_0=150+W&by_1=sun&from_1=17:00&gives_1=0+W";
    app.swap("/rigs/1/charging?page=day", sun).await;
    let both = app.get(&turn("&td=5")).await;
    let figures = both.text("#turn-figures");
    assert!(figures.contains("Gets through all of 4 d"), "{figures}");
    assert!(
        figures.contains("Put in by the sun") && figures.contains("Put in by the generator"),
        "{figures}"
    );
    assert!(!both.texts("#packs-turn .wiring-wide .t-generator").is_empty());
    // Without the sun lead never gets its last part: told what that costs.
    let dark = app.get(&turn("&td=5&src=generator")).await;
    let never = dark.text("#never-full");
    assert!(
        never.contains("Charged again to 82 % at most") && never.contains("50 % of its cycles"),
        "{never}"
    );
    // A chip turns its source on or off, and nothing else changes.
    let off = dark.attribute("#source-generator", "href").unwrap();
    assert!(off.contains("src=none") && off.contains("td=5"), "{off}");
    assert!(app.get(&off).await.texts("#packs-turn .t-generator").is_empty());
    assert!(
        !both.attribute("#source-shore", "aria-pressed").unwrap().contains("true"),
        "not asked for"
    );
    // Devices of the house alone, from a house battery.
    let house = app.get(&turn("&feeds=house")).await;
    assert!(house.text("#packs-turn").contains("feeding the house devices"));
    assert!(
        house.text("#turn-figures").contains("all of 3 d 0 h"),
        "{}",
        house.text("#turn-figures")
    );
    for wrong in ["0", "8", "2.5", "many"] {
        let page = app.get(&turn(&format!("&td={wrong}"))).await;
        assert!(page.text("#turn-days-problem").contains("from 1 to 7"), "{wrong}");
        assert_eq!(page.attribute("#turn-days", "value").as_deref(), Some(wrong));
    }
    let gone = app.get(&format!("{PACKS}?turn=yes&pack=9999-1x1")).await;
    assert!(gone.text("#turn-refused").contains("Open a pack first"));
}

/// What the rig tells of its charger, its inlet, its trailer and its engine is said of every pack.
#[tokio::test]
async fn what_the_rig_tells_is_held_against_each_pack() {
    let app = TestApp::with_demo().await;
    let pack = format!("{PACKS}?pack=17-2x1");
    let words = |page: &Answer| page.text("#packs-open");
    let before = app.get(&pack).await;
    assert!(words(&before).contains("outputs 2, 10 A into"), "{}", words(&before));
    // A second charger on the same inlet.
    app.swap("/rigs/1/chargers?page=rig", &CHARGERS.replace("generator&banks", "mains&banks"))
        .await;
    let two = app.get(&pack).await;
    assert!(words(&two).contains("all chargers on one inlet"), "{}", words(&two));
    // Too many volts for it.
    let hot =
        CHARGERS.replace("amps_0=10", "amps_0=10&absorbs_0=16").replace("volts_1=24", "volts_1=36");
    app.swap("/rigs/1/chargers?page=rig", &hot).await;
    let refused = app.get(&pack).await;
    assert!(words(&refused).contains("holds 16.0 V in absorption"), "{}", words(&refused));
    assert!(words(&refused).contains("it gasses its water away"));
    // One output for two units: by hand, one after the other.
    let one = "name_0=Little&supply_0=mains&banks_0=1&volts_0=12&amps_0=10&profiles_0=both";
    app.swap("/rigs/1/chargers?page=rig", one).await;
    let by_hand = app.get(&pack).await;
    assert!(words(&by_hand).contains("one after another on Little 2 x "), "{}", words(&by_hand));
    // The trailer carries the boat, not its people; pounds on the plane.
    let craft = app.get("/rigs/1/rig").await;
    assert_eq!(craft.attribute("#craft-trailer", "value").as_deref(), Some(""));
    let typed = "name=Skiff&kind=v_hull&people=2&loaded=1200+lb&trailer=800+lb&engine=on";
    assert_eq!(app.swap("/rigs/1/craft?page=rig", typed).await.status, StatusCode::OK);
    let heavy = app.get(&pack).await;
    assert!(words(&heavy).contains("on the trailer 8"), "{}", words(&heavy));
    assert!(heavy.texts("#packs-open .is-bad").iter().any(|l| l.starts_with("on the trailer")));
    let light = app.get(&format!("{PACKS}?want=any&chem=lfp&units=1")).await;
    let light = words(&light);
    assert!(light.contains("top speed on the gas engine") && light.contains("% more"), "{light}");
}

/// The cable that the Rig tells of, and the one that is typed: the same figure on every page.
#[tokio::test]
async fn the_motors_cable_counts_on_every_page() {
    let app = TestApp::with_demo().await;
    let motor = app.get("/rigs/1/rig").await;
    let mut typed = form_urlencoded::Serializer::new(String::new());
    let form = motor.filled("form[action*='/motor']");
    typed.extend_pairs(form.iter().filter(|(name, _)| name != "lead"));
    let typed = typed.append_pair("lead", "15 ft").finish();
    let kept = app.swap("/rigs/1/motor?page=rig", &typed).await;
    assert_eq!(kept.attribute("#motor-lead", "value").as_deref(), Some("15"));
    let page = app.get(&format!("{PACKS}?pack=17-2x1")).await;
    assert_eq!(page.attribute("#lead", "placeholder").as_deref(), Some("15"));
    let board = app.get("/rigs/1/board?open=working-4").await;
    let working = board.text("#panel-working");
    let gauge = page.text(".wiring-runs tbody td").replace(" (", " ").replace(')', "");
    let awg = gauge.split_whitespace().take(2).collect::<Vec<_>>().join(" ");
    assert!(
        working.contains("cable to the motor")
            && working.contains(&format!("{awg}, 15 ft one way")),
        "{awg}"
    );
}

/// One stands on another where label and bay allow: drawn so, and counted so.
#[tokio::test]
async fn units_stand_in_layers_where_both_allow() {
    let app = TestApp::with_demo().await;
    let bay = "name_0=Tower&place_0=bow&length_0=14+in&width_0=9+in&height_0=22+in&position_0=20";
    app.swap("/rigs/1/bays?page=rig", bay).await;
    let pack = app.get(&format!("{PACKS}?want=any&pack=17-2x1")).await;
    assert!(
        pack.text("#packs-open .fit").contains("1 of 2 fit"),
        "{}",
        pack.text("#packs-open .fit")
    );
    app.swap("/rigs/1/bays?page=rig", &format!("{bay}&layers_0=2")).await;
    let silent = app.get(&format!("{PACKS}?want=any&pack=17-2x1")).await;
    assert!(silent.text("#packs-open .fit").contains("1 of 2 fit"), "its label says nothing");
    let wrong = app.swap("/rigs/1/bays?page=rig", &format!("{bay}&layers_0=9")).await;
    assert!(wrong.body.contains("from 1 to 4"));
    let edit = app.get("/rigs/1/shelf?open=edit-17").await;
    let mut form = form_urlencoded::Serializer::new(String::new());
    for (name, value) in edit.filled("#edit-battery-17") {
        form.append_pair(&name, if name == "stackable" { "yes" } else { &value });
    }
    let kept = app.swap("/rigs/1/shelf/17?open=edit-17", &form.finish()).await;
    assert_eq!(kept.status, StatusCode::OK);
    let both = app.get(&format!("{PACKS}?want=any&pack=17-2x1")).await;
    let fit = both.text("#packs-open .fit");
    assert!(fit.contains("All 2 fit") && fit.contains("in 2 layers"), "{fit}");
    assert_eq!(both.texts("#packs-open .fit-number"), ["1, 2"]);
}

/// Whatever stands in the address: a page, no figure that is none, and what was typed never as more than words.
#[tokio::test]
async fn anything_in_the_address_is_answered() {
    let app = TestApp::with_demo().await;
    app.swap("/rigs/1/chargers?page=rig", CHARGERS).await;
    let names = [
        "td", "src", "feeds", "hv", "cranks", "starter", "cs", "house", "days", "lead", "hill",
        "rate", "weight",
    ];
    let long = "9".repeat(400);
    let values = [
        "0",
        "-1",
        "1e308",
        "NaN",
        "inf",
        &long,
        "%00",
        "%3Cscript%3Ealert(1)",
        "9-64x64",
        "99999999-1x1",
        "1,5",
    ];
    for name in names {
        for value in values {
            let address = format!("{PACKS}?pack=17-2x1&turn=yes&cranks=1&starter=9&{name}={value}");
            let page = app.get(&address).await;
            // One name twice: the last counts, or the whole is as if it were not there.
            assert_eq!(page.status, StatusCode::OK, "{address}");
            assert!(!page.body.contains("<script>alert"), "{address}");
            let words = page.text("main");
            for none in ["NaN", "inf ", " -0 "] {
                let typed = value == none.trim();
                assert!(typed || !words.contains(none), "{none} for {address}");
            }
        }
    }
}
