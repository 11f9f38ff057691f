//! The decision: wants by keyboard, the line through the day, a tipping point, a way home, side by side.

use super::driver::{Browser, in_a_browser};
use crate::program::Program;
use thirtyfour::Key;

const READY: &str = "document.querySelector('#homes') && !document.querySelector('#weighing')";

async fn board(b: &Browser, app: &Program) {
    b.web.goto(&format!("{}/rigs/1/board", app.address)).await.unwrap();
    b.until_long(READY).await;
}

/// An owner says what is wanted, by keyboard; the answer changes and can be taken back.
#[test]
fn wants_are_said_by_keyboard_and_change_the_answer() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        board(&b, &app).await;
        b.is_accessible("the decided board").await;
        assert_eq!(b.text(".lane:has(.tag-first) h3").await, "Two Marl Point 12-100");
        b.keys("w").await;
        b.until("document.querySelector('#panel-wants')").await;
        b.is_as_loaded_fresh("the wants").await;
        b.is_accessible("the wants").await;
        // A limit out of reason is told beside its field and stays as typed.
        b.fill("#wants-cheap_now_limit", "plenty").await;
        b.keys("" + Key::Tab).await;
        b.until("document.querySelector('#wants-cheap_now_limit-problem')").await;
        assert_eq!(
            b.value("document.querySelector('#wants-cheap_now_limit').value").await,
            "plenty"
        );
        b.fill("#wants-cheap_now_limit", "900").await;
        b.keys("" + Key::Tab).await;
        b.until("!document.querySelector('#wants-cheap_now_limit-problem')").await;
        b.choose("#wants-cheap_now", "must").await;
        b.until("document.querySelector('#want-cheap_now')?.classList.contains('want-must')").await;
        b.until_long(&format!("{READY} && document.querySelector('.lane:has(.tag-first) h3')?.textContent === 'Two Quarry AGM 31'")).await;
        b.keys("" + Key::Escape).await;
        b.until("!document.querySelector('#panel-wants')").await;
        b.keys("u").await;
        b.until("document.querySelector('#want-cheap_now')?.classList.contains('want-nice')").await;
        // A press on the chip does the same.
        b.click("#want-cheap_now").await;
        b.until("document.querySelector('#want-cheap_now')?.classList.contains('want-no_matter')")
            .await;
        b.until_long(READY).await;
        b.is_as_loaded_fresh("after a chip").await;
    });
}

/// One line through the day for all lanes, by pointer and by arrow keys; it asks the server once.
#[test]
fn a_line_is_moved_through_the_day() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        board(&b, &app).await;
        b.keys("t").await;
        b.until("document.activeElement?.id === 'cursor'").await;
        b.until("document.querySelector('.cursor-clock')?.textContent === '07:00'").await;
        for _ in 0..6 {
            b.keys("" + Key::PageUp).await;
        }
        b.until("document.querySelector('.cursor-clock')?.textContent === '10:00'").await;
        b.keys("" + Key::Right).await;
        b.until("document.querySelector('.cursor-clock')?.textContent === '10:05'").await;
        assert_eq!(b.value("document.querySelectorAll('.lane .cursor-line').length").await, 8);
        let says = b.text(".cursor-says").await;
        for part in
            ["above its floor", " V, ", " A, ", "left at this pace", "home from here ends with"]
        {
            assert!(says.contains(part), "{part}: {says}");
        }
        assert_eq!(
            b.value("document.querySelector('#cursor').getAttribute('aria-valuenow')").await,
            "185"
        );
        // The page's figures are the server's: what the working's table says of that time.
        b.keys("" + Key::End).await;
        b.until("document.querySelector('.cursor-clock')?.textContent === '14:10'").await;
        b.until("document.querySelector('#lane-6 .cursor-tag')?.textContent === 'ended'").await;
        let left = b.value("document.querySelector('#lane-3 .cursor-tag').textContent").await;
        let range = b.text("#lane-3 .range").await;
        let percent = range.split(" left").next().unwrap().to_owned();
        assert!(left.as_str().unwrap().starts_with(&percent), "{left} {range}");
        // The pointer moves it, without asking the server.
        let asked = "performance.getEntriesByType('resource').filter((r) => r.name.includes('moments.json')).length";
        assert_eq!(b.value(asked).await, 1);
        let move_to = |x: f64| {
            format!(
                "(() => {{ const p = document.querySelector('#lane-3 .lane-picture'); const r = p.getBoundingClientRect(); p.dispatchEvent(new PointerEvent('pointermove', {{ bubbles: true, clientX: r.left + r.width * {x}, clientY: r.top + 9 }})); return true; }})()"
            )
        };
        b.value(&move_to(0.0)).await;
        b.until("document.querySelector('.cursor-clock')?.textContent === '07:00'").await;
        for n in 0..60 {
            b.value(&move_to(f64::from(n) / 60.0)).await;
        }
        b.until("document.querySelector('.cursor-clock')?.textContent.startsWith('14:0')").await;
        assert_eq!(b.value(asked).await, 1);
        b.keys("" + Key::Escape).await;
        b.until("!document.querySelector('.cursor-line')").await;
    });
}

/// What is offered brings a stopping pack home; dropped, all is as before.
#[test]
fn a_way_home_is_tried_and_dropped() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        board(&b, &app).await;
        let stops = "document.querySelector('#lane-7 .verdict').textContent.includes('shuts off')";
        b.until(stops).await;
        b.click("#homes a[href*='home.']").await;
        b.until("document.querySelector('#lane-7 .verdict').textContent.includes('Gets home')")
            .await;
        b.until_long(READY).await;
        b.is_as_loaded_fresh("with a way home").await;
        b.click(".ifs .chip-on").await;
        b.until(stops).await;
        // A map opens, and closes by Escape.
        b.click("#change .tip-map").await;
        b.until_long("document.querySelector('#map') && document.querySelector('#homes')").await;
        b.is_accessible("the map").await;
        b.keys("" + Key::Escape).await;
        b.until("!document.querySelector('#map')").await;
    });
}

/// Two packs side by side, chosen by the form; on a phone too.
#[test]
fn two_packs_stand_side_by_side() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        board(&b, &app).await;
        b.click("#compare").await;
        b.until("document.querySelectorAll('.compare-table thead th').length === 2").await;
        b.choose("#compare-c", "5").await;
        b.until("document.querySelectorAll('.compare-table thead th').length === 3").await;
        b.is_accessible("side by side").await;
        b.until("location.search.includes('c=5')").await;
        b.is_as_loaded_fresh("side by side").await;
        b.size(390, 844, true).await;
        assert_eq!(b.value("document.documentElement.scrollWidth <= innerWidth").await, true);
        b.click("#to-board").await;
        b.until_long(READY).await;
        assert_eq!(b.value("document.documentElement.scrollWidth <= innerWidth").await, true);
        b.is_accessible("the decided board on a phone").await;
    });
}

/// The saved page opens from a file, with no server, and asks for nothing.
#[test]
fn the_saved_decision_needs_no_server() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        board(&b, &app).await;
        let page = app.get("/rigs/1/decision.html").text();
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("decision.html");
        std::fs::write(&file, page).unwrap();
        b.web.goto(&format!("file://{}", file.display())).await.unwrap();
        b.until("document.querySelectorAll('.lane').length === 8").await;
        assert_eq!(b.value("performance.getEntriesByType('resource').length").await, 0);
        assert_eq!(
            b.value("getComputedStyle(document.querySelector('.lane')).borderRadius").await,
            "6px"
        );
    });
}

/// A lane is moved, folded and hidden by keys, and is still in use afterwards.
#[test]
fn lanes_are_moved_folded_and_hidden_by_keys() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        board(&b, &app).await;
        b.keys("j").await;
        b.until("document.activeElement?.closest('#lane-1')").await;
        b.keys("J").await;
        b.until(
            "[...document.querySelectorAll('.lane')].findIndex((l) => l.id === 'lane-1') === 1",
        )
        .await;
        b.until("document.activeElement?.closest('#lane-1')").await;
        b.keys("c").await;
        b.until("document.querySelector('#lane-1.lane-slim')").await;
        b.until("document.activeElement?.closest('#lane-1')").await;
        b.keys("c").await;
        b.until("document.querySelector('#lane-1:not(.lane-slim)')").await;
        b.keys("h").await;
        b.until("!document.querySelector('#lane-1') && document.querySelector('#show-1')").await;
        b.until_long(READY).await;
        b.is_as_loaded_fresh("a hidden lane").await;
        b.click("#show-1").await;
        b.until("document.querySelector('#lane-1')").await;
    });
}
