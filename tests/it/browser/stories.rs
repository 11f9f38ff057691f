//! Stories of the Board.

use super::driver::in_a_browser;
use crate::program::Program;
use thirtyfour::prelude::*;

/// A stretch is added, the lane and the verdict change, and after a reload it is all still there.
#[test]
fn a_longer_day_changes_the_verdict_and_survives_a_reload() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&app.address).await.unwrap();
        let lane = "#lane-3";
        let verdict = b.text("#lane-3 .verdict").await;
        assert!(verdict.starts_with("Gets home with"), "{verdict}");
        let line =
            b.value("document.querySelector('#lane-3 .charge').getAttribute('points')").await;
        b.click("#edit-day").await;
        b.fill("#s0-name", "Back for the net").await;
        b.fill("#s0-minutes", "120").await;
        b.fill("#s0-amount", "3.2").await;
        b.click("#stretch-0 .button-main").await;
        b.until("document.querySelector('#lane-3 .verdict').textContent.includes('Stops at')")
            .await;
        let longer =
            b.value("document.querySelector('#lane-3 .charge').getAttribute('points')").await;
        assert_ne!(line, longer, "{lane} is drawn anew");
        // The row for a new stretch is empty again and has the focus.
        assert_eq!(b.value("document.getElementById('s0-name').value").await, "");
        b.until("document.activeElement.id === 's0-name'").await;
        b.web.refresh().await.unwrap();
        assert!(b.text("#lane-3 .verdict").await.starts_with("Stops at"));
        let row = b.value("[...document.querySelectorAll('.stretch[data-row]')].find(r => r.querySelector('[name=name]').value === 'Back for the net').id.replace('stretch-', 's')").await;
        let row = row.as_str().unwrap().to_owned();
        // A figure changed in place: saved on leaving the field, the focus where it went.
        b.fill(&format!("#{row}-minutes"), "5\t").await;
        b.until("!document.querySelector('#lane-3 .verdict').textContent.includes('Stops')").await;
        assert_eq!(b.value("document.activeElement.id").await, format!("{row}-amount"));
        b.click(&format!("#{row}-remove")).await;
        b.until(&format!("!document.getElementById('{row}-name')")).await;
        b.click("#undo").await;
        b.until(&format!("document.getElementById('{row}-name')")).await;
    });
}

/// A pack is typed in, gets its lane, is changed, copied, removed, and brought back.
#[test]
fn a_pack_is_typed_in_and_gets_its_lane() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&app.address).await.unwrap();
        b.click("[data-key=new]").await;
        for (field, text) in [
            ("name", "Two Teal 12-60"),
            ("nominal_voltage_v", "12.8"),
            ("capacity_ah", "60"),
            ("series", "2"),
            ("mass_kg", "16"),
            ("price", "199"),
        ] {
            b.fill(&format!("#new-{field}"), text).await;
        }
        b.click("#panel-new-pack .button-main").await;
        b.until("document.querySelector('.lane h3').textContent === 'Two Teal 12-60'").await;
        let lane = b.value("document.querySelector('.lane').id.replace('lane-', '')").await;
        let lane = lane.as_str().unwrap().to_owned();
        let verdict = format!("#lane-{lane} .verdict");
        assert!(b.text(&verdict).await.starts_with("Stops at"));
        b.click(&format!("#lane-{lane} [data-lane-edit]")).await;
        b.fill(&format!("#pack{lane}-capacity_ah"), "160\t").await;
        b.until(&format!("document.querySelector('{verdict}').textContent.includes('Gets home')"))
            .await;
        b.click("#panel-pack .act-remove").await;
        b.until(&format!("!document.getElementById('lane-{lane}')")).await;
        assert!(b.text("#notice").await.starts_with("Removed the pack Two Teal 12-60."));
        b.click("#notice .link-button").await;
        b.until(&format!("document.getElementById('lane-{lane}')")).await;
        b.web.refresh().await.unwrap();
        assert!(b.text(&verdict).await.starts_with("Gets home"));
    });
}

/// What was typed wrongly stays, through the answer and through a reload.
#[test]
fn a_wrong_figure_stays_where_it_was_typed() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/board?open=day", app.address)).await.unwrap();
        b.fill("#s1-amount", "8..5").await;
        b.keys("" + Key::Enter).await;
        let says = b.text("#s1-amount-problem").await;
        assert_eq!(says, "This is not a number. Type one from 0 to 134 mph, as in 5.");
        assert_eq!(b.value("document.getElementById('s1-amount').value").await, "8..5");
        b.is_accessible("the day with a wrong figure").await;
        b.web.refresh().await.unwrap();
        b.until("document.getElementById('s1-amount').value === '8..5'").await;
        b.fill("#s1-amount", "8,5\t").await;
        // The draft is dropped once the server has taken the figure.
        b.until("sessionStorage.length === 0").await;
        b.until("!document.getElementById('s1-amount-problem')").await;
        b.web.refresh().await.unwrap();
        b.until("document.getElementById('s1-amount').value === '8.5'").await;
    });
}

/// Everything by keyboard: lanes, working, day, undo, keys, themes.
#[test]
fn the_board_works_by_keyboard_alone() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&app.address).await.unwrap();
        b.find("#lane-1").await;
        b.keys("jj").await;
        assert_eq!(b.value("document.activeElement.closest('[data-lane]').id").await, "lane-2");
        b.keys("k").await;
        b.keys("" + Key::Enter).await;
        b.until("document.getElementById('panel-working')").await;
        assert!(b.value("location.search").await.as_str().unwrap().contains("open=working-1"));
        b.is_accessible("the working").await;
        b.keys("" + Key::Escape).await;
        b.until("!document.getElementById('panel-working')").await;
        b.keys("jj").await;
        b.keys("p").await;
        b.until("document.querySelector('.lane-pinned')").await;
        b.keys("d").await;
        b.until("document.getElementById('panel-day')").await;
        b.keys("?").await;
        b.until("document.getElementById('keys')?.open").await;
        b.is_accessible("the list of keys").await;
        b.keys("" + Key::Escape).await;
        b.until("!document.getElementById('keys')").await;
        b.click("#looks > summary").await;
        b.click("[data-theme-choice=night]").await;
        b.until("document.documentElement.dataset.theme === 'night'").await;
        b.web.refresh().await.unwrap();
        assert_eq!(b.value("document.documentElement.dataset.theme").await, "night");
    });
}

/// The rules of axe-core in every theme and panel, and nothing sticks out sideways on a phone.
#[test]
fn every_view_is_accessible_and_fits_a_phone() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let board = format!("{}/rigs/1/board", app.address);
        for theme in ["day", "night", "sun"] {
            for query in [
                "",
                "?open=day",
                "?open=new-pack",
                "?open=pack-9",
                "?open=rules",
                "?open=rig",
                "?open=working-4&pin=4&order=best",
            ] {
                b.web.goto(format!("{board}{query}")).await.unwrap();
                b.value(&format!("document.documentElement.dataset.theme = '{theme}'")).await;
                if theme == "day" || query.is_empty() {
                    b.is_accessible(&format!("{theme} {query}")).await;
                }
            }
        }
        b.size(390, 844, true).await;
        for query in ["", "?open=day", "?open=new-pack", "?open=working-4"] {
            b.web.goto(format!("{board}{query}")).await.unwrap();
            b.find("#lane-1").await;
            assert_eq!(b.value("document.documentElement.scrollWidth").await, 390, "{query}");
        }
        b.is_accessible("a phone").await;
    });
}

/// Without scripts each step is a plain visit, and works all the same.
#[test]
fn it_works_without_scripts() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let off = serde_json::json!({ "value": true });
        b.tool("Emulation.setScriptExecutionDisabled", off).await;
        b.web.goto(&app.address).await.unwrap();
        b.click("#edit-day").await;
        b.fill("#s2-amount", "1200").await;
        b.click("#stretch-2 noscript .button, #stretch-2 > .button").await;
        assert!(b.text("#lane-3 .verdict").await.starts_with("Stops at"));
        b.click("#s2-remove").await;
        b.gone("#s2-remove").await;
        b.click("#undo").await;
        // Only the page that comes of it offers this.
        b.find("#redo").await;
        b.find("#s2-amount[value='1200']").await;
        b.fill("#s2-amount", "lots").await;
        b.click("#stretch-2 noscript .button, #stretch-2 > .button").await;
        assert!(b.text("#s2-amount-problem").await.starts_with("This is not a number."));
        b.click("#looks > summary").await;
        b.click("[data-theme-choice=sun]").await;
        b.find("html[data-theme=sun]").await;
    });
}

/// A change that the page showed as made is there after the program was killed.
#[test]
fn what_was_shown_as_saved_survives_a_crash() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let db = folder.path().join("mine.db");
        let app = Program::serve(&db);
        b.web.goto(&app.address).await.unwrap();
        b.click("form[action='/start/own'] .button").await;
        b.fill("#craft-name", "Grebe\t").await;
        b.until("document.querySelector('.rig-name').textContent === 'Grebe'").await;
        app.kill();
        let app = b.keeps(Program::serve(&db));
        b.web.goto(&app.address).await.unwrap();
        assert_eq!(b.text(".rig-name").await, "Grebe");
        b.is_accessible("an empty board").await;
    });
}
