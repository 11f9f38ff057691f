//! Build: two sheets of paper with all of it on them, the card without a server, the work by keyboard.

use super::driver::{Browser, in_a_browser};
use super::looks::bare;
use crate::program::{Program, run};
use thirtyfour::common::print::{PrintMargins, PrintParameters};
use thirtyfour::{Key, error::WebDriverResult};

fn choose(app: &Program, rig: u32, pack: u32) {
    let path = format!("/rigs/{rig}/build/choose");
    assert_eq!(app.post(&path, &format!("pack={pack}")).status, 303);
}

/// What stands beyond the edge of its sheet.
const CUT: &str = "[...document.querySelectorAll('.paper-sheet')].flatMap((sheet) => { \
    const edge = sheet.getBoundingClientRect(); \
    return [...sheet.querySelectorAll('*')].filter((e) => { const at = e.getBoundingClientRect(); \
      return at.width && (at.right > edge.right + 1 || at.bottom > edge.bottom + 1); }) \
      .map((e) => e.textContent.trim().slice(0, 40)); })";

/// Words of every element that matches, as they stand.
async fn words(b: &Browser, css: &str) -> Vec<String> {
    let found = b
        .value(&format!("[...document.querySelectorAll('{css}')].map((e) => e.textContent)"))
        .await;
    found.as_array().unwrap().iter().map(|t| bare(t.as_str().unwrap())).collect()
}

async fn paper(b: &Browser, (width, height): (f64, f64)) -> WebDriverResult<Vec<String>> {
    let parameters = PrintParameters {
        page: thirtyfour::common::print::PrintPage { width, height },
        margin: PrintMargins::default(),
        ..PrintParameters::default()
    };
    let pdf = b.web.print_page(parameters).await?;
    let sheets = pdf_extract::extract_text_from_mem_by_pages(&pdf).unwrap();
    Ok(sheets.iter().map(|sheet| bare(sheet)).collect())
}

/// For boat, canoe, cart and barge, one battery and several, lead and lithium: two sheets on Letter and on A4, with every part,
/// every step, its cautions and its limits, and nothing beyond an edge.
#[test]
fn all_of_a_build_is_on_two_sheets() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        for (rig, pack) in [(1, 3), (1, 5), (2, 15), (3, 21), (3, 24), (3, 19), (4, 26)] {
            choose(&app, rig, pack);
            b.web.goto(format!("{}/rigs/{rig}/build", app.address)).await.unwrap();
            let mut wanted =
                words(&b, ".step-line b, .step > .caution, .also dd, .card-turn").await;
            wanted.extend(
                words(&b, ".step-more summary")
                    .await
                    .into_iter()
                    .filter(|t| t.contains(":"))
                    .map(|t| t.split("ofstep").next().unwrap().to_owned()),
            );
            wanted.extend(words(&b, ".parts-table tbody b").await);
            assert!(wanted.len() > 45, "{}", wanted.len());
            b.web.goto(format!("{}/rigs/{rig}/build/sheets", app.address)).await.unwrap();
            b.tool("Emulation.setEmulatedMedia", serde_json::json!({"media": "print"})).await;
            let cut = b.value(CUT).await;
            assert_eq!(cut, serde_json::json!([]), "rig {rig}, pack {pack}");
            b.tool("Emulation.setEmulatedMedia", serde_json::json!({"media": ""})).await;
            for size in [(21.59, 27.94), (21.0, 29.7)] {
                let sheets = paper(&b, size).await.unwrap();
                assert_eq!(sheets.len(), 2, "rig {rig}, pack {pack}");
                let all = sheets.concat();
                for words in &wanted {
                    // The numbers of steps stand in a column of their own.
                    let words = words
                        .split_once('.')
                        .filter(|(n, _)| n.parse::<u32>().is_ok())
                        .map_or(words.as_str(), |(_, w)| w);
                    assert!(all.contains(words), "rig {rig}, pack {pack}: {words}");
                }
                assert!(all.contains("1of2") && all.contains("2of2") && all.contains("manuals"));
            }
        }
        choose(&app, 3, 21);
        b.web.goto(format!("{}/rigs/3/build/sheets", app.address)).await.unwrap();
        b.is_accessible("the sheets").await;
    });
}

/// The card is opened from a file, without the server; what it says is what `evaluate` says of the same plan.
#[test]
fn the_card_says_what_evaluate_says_without_a_server() {
    let (app, folder) = (Program::demo(), tempfile::tempdir().unwrap());
    choose(&app, 1, 3);
    let card = folder.path().join("card.html");
    let text = app.get("/rigs/1/build/card.html").text();
    std::fs::write(&card, text.split_once("\r\n\r\n").map_or(text.as_str(), |(_, body)| body))
        .unwrap();
    let plan: serde_json::Value =
        serde_json::from_str(&app.get("/rigs/1/plan.json").text()).unwrap();
    drop(app);
    let all = |of: &serde_json::Value| of.as_array().unwrap().clone();
    // One stretch at the setting, in calm air, the day's devices on as they are on average: made here, not by the card.
    let lasts: f64 =
        all(&plan["day"]["stretches"]).iter().filter_map(|s| s["minutes"].as_f64()).sum();
    let devices: f64 = all(&plan["day"]["accessories"])
        .iter()
        .filter(|a| a["on_house"] != true)
        .map(|a| {
            let share = a["hours"].as_f64().map_or(1.0, |h| (h * 60.0 / lasts).min(1.0));
            a["power_w"].as_f64().unwrap() * share
        })
        .sum();
    let hours = |setting: f64, charge: f64| -> f64 {
        let mut plan = plan.clone();
        plan["packs"] = plan["packs"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|p| p["chosen"] == true || p["aboard"] == true)
            .cloned()
            .collect();
        let ambient = plan["day"]["ambient_c"].clone();
        plan["day"] = serde_json::json!({"start": "07:00", "ambient_c": ambient, "start_charge": charge,
            "stretches": [{"name": "So on", "minutes": 600, "load": {"kind": "setting", "setting": setting}}],
            "accessories": [{"name": "Devices", "power_w": devices}]});
        let out = run(&["evaluate", "-"], plan.to_string().as_bytes());
        let result: serde_json::Value = serde_json::from_slice(&out.stdout).unwrap();
        let pack = result["packs"]
            .as_array()
            .unwrap()
            .iter()
            .find(|p| p["name"] == "Two Marl Point 12-100");
        pack.unwrap()["hours_at_this_pace"].as_f64().unwrap()
    };
    in_a_browser(async |b| {
        b.size(390, 844, true).await;
        b.web.goto(format!("file://{}", card.display())).await.unwrap();
        b.until("!document.querySelector('#tool').hidden").await;
        let data = "JSON.parse(document.querySelector('#data').textContent)";
        for (setting, charge) in [(10, 100), (8, 60), (5, 35), (1, 80)] {
            b.value(&format!("[...document.querySelectorAll('#paces button')].find((x) => x.textContent === '{setting}').click()")).await;
            b.value(&format!("(() => {{ const c = document.querySelector('#charge'); c.value = {charge}; c.dispatchEvent(new Event('input')); }})()")).await;
            let told = b.value(&format!("(() => {{ const d = {data}; return d.lines.find((l) => l.name === '{setting}').hours[d.levels.indexOf({charge})]; }})()")).await;
            let should = hours(f64::from(setting), f64::from(charge) / 100.0);
            assert!(
                (told.as_f64().unwrap() / should - 1.0).abs() < 2e-3,
                "{setting} {charge}: {told} {should}"
            );
            // And in words that the eye reads: to what they are rounded to.
            let words = b.text("#hours").await;
            let (figure, unit) = words.split_once(' ').unwrap();
            let read = figure.parse::<f64>().unwrap() / if unit == "min" { 60.0 } else { 1.0 };
            assert!((read - should).abs() <= (0.05_f64).max(should * 0.05), "{words} {should}");
        }
        assert_eq!(b.value("document.documentElement.scrollWidth <= 390").await, true);
        // By thumb: a press less is five percent less; below the reserve it says so; a reload keeps both.
        b.value("(() => { const c = document.querySelector('#charge'); c.value = 30; c.dispatchEvent(new Event('input')); })()").await;
        b.click("#less").await;
        assert!(b.text("#charge-told").await.starts_with("25 %"));
        assert!(b.text("#says").await.starts_with("Inside the reserve"));
        b.is_accessible("the card").await;
        // On paper it is a quarter of a sheet of Letter or A4, whole, with its table open.
        b.tool("Emulation.setEmulatedMedia", serde_json::json!({"media": "print"})).await;
        let px = |mm: f64| mm / 25.4 * 96.0;
        let wide = b.value("document.querySelector('main').offsetWidth").await;
        let high = b.value("document.querySelector('main').scrollHeight").await;
        assert!(wide.as_f64().unwrap() <= px(105.0 - 8.0), "{wide}");
        assert!(high.as_f64().unwrap() <= px(139.0 - 8.0), "{high}");
        b.tool("Emulation.setEmulatedMedia", serde_json::json!({"media": ""})).await;
        let sheets = paper(&b, (21.0, 29.7)).await.unwrap();
        assert_eq!(sheets.len(), 1);
        let mut wanted = words(&b, ".card-table tbody b, .card-stops").await;
        wanted.extend(words(&b, ".card-turn").await);
        assert!(wanted.len() > 30 && wanted.iter().all(|w| sheets[0].contains(w)), "{sheets:?}");
    });
}

/// An afternoon's first steps by keyboard: a wrong reading stops, a right one goes on; two windows; Back leads to the Board.
#[test]
fn the_work_goes_on_by_keyboard() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        b.click("#lane-3 .lane-tools button:last-child").await;
        b.until(
            "document.querySelector('h1')?.textContent.startsWith('Two Marl Point 12-100 into')",
        )
        .await;
        b.is_as_loaded_fresh("a pack chosen on the Board").await;
        b.web.back().await.unwrap();
        b.until("document.querySelector('.lane')").await;
        assert!(b.value("location.pathname").await.as_str().unwrap().ends_with("/board"));
        b.keys("6").await;
        b.until("document.querySelector('.steps')").await;
        for step in ["lay_out", "park", "unplug", "guard"] {
            b.value(&format!("document.querySelector('#done-{step}').focus()")).await;
            b.keys("" + Key::Space).await;
            b.until(&format!("document.querySelector('#done-{step}').ariaPressed === 'true'"))
                .await;
            assert_eq!(b.value("document.activeElement.id").await, format!("done-{step}"));
        }
        b.is_as_loaded_fresh("steps done").await;
        b.value("document.querySelector('#more-unit_volts').open = true").await;
        b.fill("#step-unit_volts-reading", "9.4\n").await;
        b.until("document.querySelector('#step-unit_volts .step-wrong')").await;
        b.is_accessible("a step stopped").await;
        b.fill("#step-unit_volts-reading", "13.2").await;
        b.click("#done-unit_volts").await;
        b.until("document.querySelector('#done-unit_volts').ariaPressed === 'true'").await;
        b.is_as_loaded_fresh("a reading").await;
        // A step that was unfolded stays so while its note is saved.
        b.value("document.querySelector('#more-charge_each').open = true").await;
        b.fill("#step-charge_each-note", "borrowed a charger").await;
        b.keys("" + Key::Tab).await;
        b.until("document.querySelector('#step-charge_each-note').defaultValue === 'borrowed a charger'").await;
        assert_eq!(b.value("document.querySelector('#more-charge_each').open").await, true);
        assert_eq!(b.value("document.activeElement.id").await, "step-charge_each-reason");
        // Typed in one row while another is ticked: nothing is lost.
        b.fill("#parts-note_switch", "ask at the marina").await;
        b.click("#tick-breaker").await;
        b.until("document.querySelector('#tick-breaker').ariaPressed === 'true'").await;
        b.until("document.querySelector('#parts-note_switch').value === 'ask at the marina' && document.querySelector('#parts-note_switch').defaultValue === 'ask at the marina'").await;
        b.fill("#parts-price_switch", "cheap").await;
        b.keys("" + Key::Tab + Key::Tab + Key::Tab).await;
        b.until("document.querySelector('#parts-price_switch-problem')").await;
        assert_eq!(b.value("document.querySelector('#parts-price_switch').value").await, "cheap");
        b.fill("#parts-price_switch", "31").await;
        b.keys("" + Key::Enter).await;
        b.until("document.querySelector('#part-switch td:nth-child(3)').textContent === '$31'")
            .await;
        for theme in ["sun", "night", "day"] {
            b.value(&format!("document.documentElement.dataset.theme = '{theme}'")).await;
            b.is_accessible(&format!("Build in {theme}")).await;
        }
    });
}

/// A start, the data, the words, the model, a build begun and not chosen, on a desk and on a phone, in every theme.
#[test]
fn the_pages_around_a_build_are_accessible_and_fit_a_phone() {
    in_a_browser(async |b| {
        let (app, folder) = (b.keeps(Program::demo()), tempfile::tempdir().unwrap());
        let empty = b.keeps(Program::serve(&folder.path().join("mine.db")));
        choose(&app, 3, 21);
        let pages = [
            (&empty, "/"),
            (&app, "/rigs"),
            (&app, "/data"),
            (&app, "/model"),
            (&app, "/glossary"),
            (&app, "/rigs/1/build"),
            (&app, "/rigs/3/build"),
        ];
        for (app, path) in &pages {
            b.web.goto(format!("{}{path}", app.address)).await.unwrap();
            for theme in ["day", "night", "sun"] {
                b.value(&format!("document.documentElement.dataset.theme = '{theme}'")).await;
                b.is_accessible(&format!("{path} in {theme}")).await;
            }
        }
        b.size(390, 844, true).await;
        for (app, path) in &pages {
            b.web.goto(format!("{}{path}", app.address)).await.unwrap();
            assert_eq!(b.value("document.documentElement.scrollWidth").await, 390, "{path}");
            let small = b.value("[...document.querySelectorAll('main button, main .button, main select, main input:not([type=checkbox]):not([type=hidden])')].filter((e) => e.checkVisibility() && e.getBoundingClientRect().height < 43 && !e.matches('.sr, .link-button, .act')).map((e) => e.outerHTML.slice(0, 90))").await;
            assert_eq!(small, serde_json::json!([]), "{path}: too small for a thumb");
        }
    });
}

/// From nothing to the two sheets, as a stranger goes: three answers, the Board, a pack, the sheets.
#[test]
fn a_stranger_gets_from_nothing_to_the_sheets() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let app = b.keeps(Program::serve(&folder.path().join("mine.db")));
        b.web.goto(&app.address).await.unwrap();
        b.click("#form-three .button-main").await;
        b.until("document.querySelector('#three-kind-problem')").await;
        b.choose("#three-kind", "v_hull").await;
        b.fill("#three-motor", "55 lb").await;
        b.fill("#three-volts", "12").await;
        b.fill("#three-long", "5").await;
        b.keys("" + Key::Enter).await;
        b.until("document.querySelector('.lane .lane-tools')").await;
        // What is assumed leads to its field.
        let to = b.value("[...document.querySelectorAll('.assumed a')].every((a) => a.hash)").await;
        assert_eq!(to, true);
        b.click(".assumed a").await;
        b.until("document.querySelector('#motor-max')").await;
        b.web.back().await.unwrap();
        b.until("document.querySelector('#next')").await;
        b.click("#next").await;
        b.until("document.querySelector('#choose-it')").await;
        b.is_as_loaded_fresh("nothing chosen yet").await;
        // The one that comes first on the Board stands there already.
        let offered =
            b.value("document.querySelector('#choose-pack').selectedOptions[0].textContent").await;
        assert!(offered.as_str().unwrap().ends_with("(comes first)"), "{offered}");
        b.click("#choose-it").await;
        b.until("document.querySelector('#next-step')").await;
        b.is_as_loaded_fresh("chosen").await;
        b.click(".build-files .button-main").await;
        b.until("document.querySelectorAll('.paper-step').length > 20").await;
    });
}
