//! Safe hands: nothing is lost, changed or taken away behind anyone's back, however one moves.

use super::TABS;
use super::driver::{Browser, in_a_browser};
use crate::program::Program;
use thirtyfour::prelude::*;

/// Fields and what is typed into them.
type Row = &'static [(&'static str, &'static str)];

/// What a list is called on its page, and a good row for it: the page, its id, (field, text) of a new row.
const LISTS: [(&str, &str, Row); 6] = [
    ("rig", "draw", &[("setting", "9"), ("amps", "37")]),
    ("rig", "measured", &[("speed", "2"), ("amps", "9")]),
    ("rig", "bays", &[("name", "Cuddy"), ("length", "20"), ("width", "12"), ("height", "11")]),
    ("rig", "chargers", &[("name", "Spare"), ("volts", "24"), ("amps", "8")]),
    ("day", "devices", &[("name", "Lantern"), ("draw", "9")]),
    ("day", "hourly", &[("from", "9:30"), ("wind", "9")]),
];

/// The ids of fields begin with another word than their list in two cases.
fn field(list: &str, name: &str, row: usize) -> String {
    let stem = match list {
        "bays" => "bay",
        "chargers" => "charger",
        "devices" => "device",
        other => other,
    };
    format!("#{stem}-{name}_{row}")
}

impl Browser {
    async fn rows(&self, list: &str) -> usize {
        let count = format!("document.querySelectorAll('#form-{list} [name=take-out]').length");
        self.value(&count).await.as_u64().unwrap() as usize
    }

    /// The row that the focus stands in: its number, or none.
    async fn row_in_use(&self) -> Option<usize> {
        let id = self.value("document.activeElement.closest('[data-row]')?.id ?? ''").await;
        id.as_str()?.rsplit('-').next()?.parse().ok()
    }
}

/// Every ordered pair of tabs, by click and by digit, and every opened panel: the page that is swapped in
/// is the page that its address gives.
#[test]
fn a_page_reached_by_a_swap_is_the_page_loaded_fresh() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        let shown = b
            .value(
                "[...document.querySelectorAll('.tabs a')].map(a => a.pathname.split('/').pop())",
            )
            .await;
        assert_eq!(shown, serde_json::json!(TABS));
        for (n, from) in TABS.iter().enumerate() {
            for to in (1..=TABS.len()).filter(|to| *to != n + 1) {
                // Each pair one way, half of them by click and half by digit; the way back is the other.
                {
                    let by_key = (n < to) == ((n + to) % 2 == 0);
                    b.web.goto(format!("{}/rigs/1/{from}", app.address)).await.unwrap();
                    if by_key {
                        b.keys(to.to_string()).await;
                    } else {
                        b.click(&format!("[data-tab='{to}']")).await;
                    }
                    b.until(&format!(
                        "document.querySelector('[data-tab=\"{to}\"]').ariaCurrent === 'page' || document.querySelector('[data-tab=\"{to}\"][aria-current]')"
                    ))
                    .await;
                    b.is_as_loaded_fresh(&format!("{from} to tab {to}, key {by_key}")).await;
                }
            }
        }
        for (page, links) in [
            (
                "board",
                &[
                    "#edit-day",
                    "[data-key=new]",
                    ".board-rules .chip",
                    "#open-wants",
                    ".ifs .chip",
                    "[data-lane-edit]",
                    "[data-lane-link]",
                ][..],
            ),
            ("day", &["[data-block]", ".ifs .chip"]),
            (
                "shelf",
                &[
                    "#open-paste",
                    "#open-files",
                    "#open-fit",
                    "[data-key=new]",
                    "[data-lane-link]",
                    "[data-lane-edit]",
                ],
            ),
        ] {
            for link in links {
                b.web.goto(format!("{}/rigs/1/{page}", app.address)).await.unwrap();
                let was = b.value("location.href").await;
                b.click(link).await;
                b.until(&format!("location.href !== {was}")).await;
                b.is_as_loaded_fresh(&format!("{page} {link}")).await;
            }
        }
    });
}

/// Back leads through what was looked at, each as it was.
#[test]
fn back_and_forward_lead_through_the_tabs() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        for tab in ["2", "5", "3"] {
            b.click(&format!("[data-tab='{tab}']")).await;
            b.until(&format!("document.querySelector('[data-tab=\"{tab}\"][aria-current]')")).await;
        }
        for title in ["Board", "Day", "Rig"] {
            b.web.back().await.unwrap();
            b.until(&format!("document.title.includes(': {title}')")).await;
            b.is_as_loaded_fresh(&format!("back to {title}")).await;
        }
        b.web.forward().await.unwrap();
        b.until("document.title.includes(': Day')").await;
    });
}

/// Enter saves and goes on to the next row; in a new row it adds it. No row ever goes by it.
#[test]
fn enter_in_a_row_saves_and_goes_on_and_removes_nothing() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        for (page, list, row) in LISTS {
            b.web.goto(format!("{}/rigs/1/{page}", app.address)).await.unwrap();
            let rows = b.rows(list).await;
            assert!(rows > 0, "{list} has rows to lose");
            let first = field(list, row[row.len() - 1].0, 0);
            b.click(&first).await;
            b.keys("" + Key::Enter).await;
            assert_eq!(b.row_in_use().await, Some(1), "{list}: on to the next row");
            // A whole new row, cell by cell, then Enter.
            for (name, text) in row {
                b.fill(&field(list, name, rows), *text).await;
            }
            b.keys("" + Key::Enter).await;
            b.until(&format!(
                "document.querySelectorAll('#form-{list} [name=take-out]').length === {}",
                rows + 1
            ))
            .await;
            assert!(b.value("document.querySelector('.problem')").await.is_null(), "{list}");
            let full =
                b.value(&format!("!document.querySelector('#form-{list} [data-new]')")).await;
            if full != true {
                assert_eq!(b.row_in_use().await, Some(rows + 1), "{list}: the next new row");
            }
            // Tab goes from the last cell of a row into the next one, past nothing that removes.
            b.value(&format!("[...document.querySelectorAll('#{list}-row-0 input, #{list}-row-0 select')].at(-1).focus()")).await;
            b.keys("" + Key::Tab).await;
            assert_eq!(b.row_in_use().await, Some(1), "{list}: Tab");
            b.is_as_loaded_fresh(list).await;
        }
        // The day's rows on the Board.
        b.web.goto(format!("{}/rigs/1/board?open=day", app.address)).await.unwrap();
        b.fill("#s1-minutes", "50").await;
        b.keys("" + Key::Enter).await;
        b.until("document.activeElement.id === 's2-name'").await;
        assert_eq!(b.value("document.getElementById('s1-minutes').value").await, "50 min");
        assert_eq!(b.value("document.querySelectorAll('.stretch[data-row]').length").await, 8);
    });
}

/// The same without scripts: the form's default button saves.
#[test]
fn enter_without_scripts_removes_nothing() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let off = serde_json::json!({ "value": true });
        b.tool("Emulation.setScriptExecutionDisabled", off).await;
        for (page, list, row) in LISTS {
            b.web.goto(format!("{}/rigs/1/{page}", app.address)).await.unwrap();
            let remove = format!("#form-{list} [name=take-out]");
            let before = b.web.find_all(By::Css(&remove)).await.unwrap().len();
            let shown = b.find(&format!("#form-{list}")).await;
            b.find(&field(list, row[0].0, 0)).await.send_keys("" + Key::Enter).await.unwrap();
            // The answer is a whole page; until it has come, what is shown is what was asked on.
            let mut waited = 0;
            while shown.tag_name().await.is_ok() {
                assert!(waited < 300, "{list}: no answer to Enter");
                waited += 1;
                tokio::time::sleep(std::time::Duration::from_millis(30)).await;
            }
            b.find(&format!("#form-{list}")).await;
            let after = b.web.find_all(By::Css(&remove)).await.unwrap().len();
            assert_eq!(before, after, "{list}");
        }
    });
}

/// What stands half typed in a new row stays through every redraw and a reload, its choices and ticks too;
/// a row that is removed above it takes nothing of it along.
#[test]
fn a_half_typed_row_keeps_all_its_controls() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        b.fill("#bay-name_2", "Cuddy").await;
        b.choose("#bay-place_2", "stern").await;
        b.click("#bay-sealed_2").await;
        let kept = "document.querySelector('#bay-name_2')?.value === 'Cuddy' && document.querySelector('#bay-place_2')?.value === 'stern' && document.querySelector('#bay-sealed_2')?.checked";
        b.fill("#craft-people", "3\t").await;
        b.until("document.querySelector('#undo')").await;
        b.until(kept).await;
        b.web.refresh().await.unwrap();
        b.until(kept).await;
        b.click("[data-tab='2']").await;
        b.until("document.title.includes(': Day')").await;
        b.click("[data-tab='1']").await;
        b.until(kept).await;
        b.click("#bays-take-0").await;
        b.until("document.querySelectorAll('#form-bays [name=take-out]').length === 1").await;
        b.until("document.querySelector('#bay-name_1')?.value === 'Cuddy' && document.querySelector('#bay-place_1')?.value === 'stern'").await;
        // A new stretch takes the way the last one was given, and keeps another choice through a redraw.
        b.web.goto(format!("{}/rigs/1/day", app.address)).await.unwrap();
        assert_eq!(b.value("document.querySelector('#new-kind').value").await, "speed");
        b.fill("#new-name", "Creek").await;
        b.choose("#new-kind", "setting").await;
        b.fill("#new-amount", "7.5").await;
        b.fill("#day-outings", "31\t").await;
        b.until("document.querySelector('#undo')").await;
        b.until("document.querySelector('#new-kind').value === 'setting' && document.querySelector('#new-amount').value === '7.5'").await;
        b.fill("#new-minutes", "1h30").await;
        b.keys("" + Key::Enter).await;
        b.until(
            "document.querySelector('#notice').textContent.includes('Added the stretch Creek')",
        )
        .await;
        // It is what was typed: setting 7.5, not 7.5 mph.
        b.until("document.querySelector('#stretch-kind')?.value === 'setting' && document.querySelector('#stretch-amount')?.value === '7.5'").await;
        assert_eq!(b.value("document.querySelector('#stretch-minutes').value").await, "1 h 30 min");
        assert_eq!(b.value("document.querySelector('#new-name').value").await, "");
    });
}

/// Fields are judged when their row is left or Enter is pressed, never while it is being filled.
#[test]
fn a_row_is_judged_when_it_is_left_and_not_before() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/board?open=day", app.address)).await.unwrap();
        b.fill("#s1-amount", "8..5\t").await;
        // The answer to what was sent is there, and is not shown yet.
        b.until("performance.getEntriesByType('resource').some(e => e.initiatorType === 'fetch' && /stretches/.test(e.name))").await;
        b.is_drawn().await;
        assert!(b.value("document.querySelector('.problem')").await.is_null(), "still in its row");
        b.click("#s2-name").await;
        let says = b.text("#s1-amount-problem").await;
        assert!(says.starts_with("This is not a number."), "{says}");
        assert_eq!(b.value("document.getElementById('s1-amount').value").await, "8..5");
        b.web.goto(format!("{}/rigs/1/day", app.address)).await.unwrap();
        let new = b.rows("devices").await;
        b.fill(&field("devices", "name", new), "Lantern\t").await;
        b.is_drawn().await;
        assert!(b.value("document.querySelector('.problem')").await.is_null(), "not filled yet");
        b.click("#day-outings").await;
        b.until(&format!("document.querySelector('{}-problem')", field("devices", "draw", new)))
            .await;
        b.is_accessible("a row that was judged").await;
    });
}

/// A stretch given another way stays what it came to: 3 mph never become 3 A.
#[test]
fn another_way_to_give_a_draw_keeps_the_draw() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/day?open=stretch-1", app.address)).await.unwrap();
        let facts = b.text(".facts").await;
        b.choose("#stretch-kind", "current").await;
        b.until("document.querySelector('#stretch-amount').value.startsWith('19.')").await;
        assert_eq!(b.text(".facts").await, facts);
        b.choose("#stretch-kind", "setting").await;
        b.until("document.querySelector('#stretch-amount-problem')").await;
        b.fill("#stretch-amount", "7.5\t").await;
        b.until("!document.querySelector('#stretch-amount-problem')").await;
        assert_eq!(b.value("document.querySelector('#stretch-kind').value").await, "setting");
    });
}

/// What is typed and not yet saved keeps its unit when others are chosen: inches never become millimeters.
#[test]
fn a_half_typed_figure_keeps_its_unit() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        // A new bay without its name, and so not saved; and a draft on another page.
        b.fill("#bay-length_2", "20").await;
        b.click("[data-tab='2']").await;
        b.until("document.title.includes(': Day')").await;
        b.fill("#new-amount", "3").await;
        b.click("#looks > summary").await;
        b.click("[data-units=metric]").await;
        b.until("document.querySelector('.facts').textContent.includes('km')").await;
        assert_eq!(b.value("document.querySelector('#new-amount').value").await, "3 mph");
        b.click("[data-tab='1']").await;
        b.until("document.title.includes(': Rig')").await;
        assert_eq!(b.value("document.querySelector('#bay-length_2').value").await, "20 in");
        b.fill("#bay-width_2", "300").await;
        b.fill("#bay-height_2", "250").await;
        b.fill("#bay-name_2", "Locker\n").await;
        b.until("document.querySelector('#undo')").await;
        let plan = app.get("/rigs/1/plan.json").text();
        let plan: serde_json::Value = serde_json::from_str(&plan).unwrap();
        let bay = &plan["rig"]["bays"][2];
        assert_eq!(bay["name"], "Locker");
        let near = |side: &str, mm: f64| (bay[side].as_f64().unwrap() - mm).abs() < 0.1;
        assert!(near("length_mm", 508.0) && near("width_mm", 300.0), "{bay}");
    });
}

/// A new row that is left by pressing another tab is saved, and that tab is what comes.
#[test]
fn a_row_left_for_another_page_is_saved_and_that_page_shown() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        for (field, typed) in
            [("name", "Locker"), ("length", "20"), ("width", "12"), ("height", "10")]
        {
            b.fill(&format!("#bay-{field}_2"), typed).await;
        }
        b.click("[data-tab='2']").await;
        b.until("document.title.includes(': Day')").await;
        b.until("document.querySelector('#undo')").await;
        b.is_as_loaded_fresh("the day").await;
        assert!(app.get("/rigs/1/plan.json").text().contains("Locker"));
    });
}

/// No control's name hides one of its form's own methods: that once left half a page behind.
#[test]
fn no_field_is_named_like_what_its_form_can_do() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        for page in [
            "rig",
            "day?open=stretch-1",
            "shelf?open=edit-3",
            "board?open=pack-1",
            "board?open=day",
        ] {
            b.web.goto(format!("{}/rigs/1/{page}", app.address)).await.unwrap();
            let hidden = b.value("[...document.forms].flatMap(f => [...f.elements].map(e => e.name).filter(n => n && typeof document.createElement('form')[n] === 'function'))").await;
            assert_eq!(hidden, serde_json::json!([]), "{page}");
            let default = b.value("[...document.forms].filter(f => { const first = [...f.elements].find(e => e.type === 'submit'); return first?.matches('.act-remove') && [...f.elements].some(e => e.matches('input, select')); }).map(f => f.id)").await;
            assert_eq!(default, serde_json::json!([]), "{page}: Remove is a form's default");
        }
    });
}

/// From rig to rig, to the list of rigs, to other units and back: one page, its own title, no reload.
#[test]
fn rigs_and_units_are_changed_without_a_reload() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/board?order=light", app.address)).await.unwrap();
        b.value("(window.sameVisit = true)").await;
        b.click(".rig-name").await;
        b.until("document.title.startsWith('Rigs')").await;
        b.is_as_loaded_fresh("the rigs").await;
        b.is_accessible("the rigs").await;
        b.click(".rigs li:nth-child(2) a").await;
        b.until("document.title.startsWith('Heron Pond birding canoe: Board')").await;
        b.click("#looks > summary").await;
        b.click("[data-units=metric]").await;
        b.until("document.querySelector('.facts').textContent.includes('km/h')").await;
        b.is_as_loaded_fresh("the canoe in metric units").await;
        b.click("#looks > summary").await;
        b.click("[data-clock='12']").await;
        b.until("document.querySelector('.day-end').textContent.includes('AM')").await;
        b.click("[data-tab='2']").await;
        b.until("document.title.includes(': Day')").await;
        b.is_as_loaded_fresh("its day").await;
        b.click(".rig-name").await;
        b.until("document.title.startsWith('Rigs')").await;
        b.click("form[action='/start/own-cart'] .button").await;
        b.until("document.title.startsWith('My cart: Rig')").await;
        b.is_as_loaded_fresh("a new cart").await;
        b.fill("#motor-max", "200\t").await;
        b.until("document.querySelector('#undo')").await;
        b.click(".files a:last-child").await;
        b.until("document.title.startsWith('Open a plan file')").await;
        b.is_accessible("a plan file to open").await;
        let kept = b.value("[window.sameVisit, document.querySelectorAll('#page').length, document.querySelectorAll('#keys-shown').length]").await;
        assert_eq!(kept, serde_json::json!([true, 1, 1]));
    });
}

/// What was unfolded stays so when the page changes under it: by an answer to what was typed, and by one that
/// nobody asked for by hand.
#[test]
fn what_was_unfolded_stays_so() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/day?open=stretch-1", app.address)).await.unwrap();
        b.click(".sum > summary").await;
        b.fill("#stretch-minutes", "50\t").await;
        b.until("document.querySelector('#undo')").await;
        assert_eq!(b.value("document.querySelector('.sum').open").await, true);
        // The Board asks by itself for what would change its answer.
        b.click("[data-tab='5']").await;
        b.until("document.title.includes(': Board')").await;
        b.click("#looks > summary").await;
        b.until("document.querySelector('#change')").await;
        assert_eq!(b.value("document.querySelector('#looks').open").await, true);
        // What was chosen in a menu ends it.
        b.click("[data-units=metric]").await;
        b.until("document.querySelector('.facts').textContent.includes('km/h')").await;
        b.until("!document.querySelector('#looks').open").await;
    });
}

/// The Board's order, pin and what-ifs are there again after a look at the Shelf.
#[test]
fn the_board_is_as_it_was_after_a_look_at_the_shelf() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web
            .goto(format!("{}/rigs/1/board?order=light&pin=3&if=wind", app.address))
            .await
            .unwrap();
        let lanes = "[...document.querySelectorAll('.lane h3')].map(e => e.textContent).join()";
        let before = b.value(lanes).await;
        b.click("[data-tab='3']").await;
        b.until("document.title.includes(': Shelf')").await;
        b.fill("#shelf-search", "quarry").await;
        b.until("location.search.includes('q=quarry')").await;
        b.click("article h2 a").await;
        b.until("document.querySelector('.opened')").await;
        b.click("[data-tab='5']").await;
        b.until("document.title.includes(': Board')").await;
        assert_eq!(b.value(lanes).await, before);
        assert_eq!(b.value("document.querySelectorAll('.chip-on').length").await, 1);
    });
}
