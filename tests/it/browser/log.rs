//! Log in the hands of its users: an outing in four taps on a phone, a monitor's file, a test by the clock, what was learnt on
//! the Board.

use super::driver::in_a_browser;
use crate::program::Program;

/// From the Board: Log, Log an outing, what is left, Save.
#[test]
fn an_outing_is_logged_in_four_taps_on_a_phone() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.size(390, 844, true).await;
        b.web.goto(format!("{}/rigs/2/board", app.address)).await.unwrap();
        b.click(".tabs a[href*='/log']").await;
        b.until("document.querySelector('#log-outing') !== null").await;
        b.click("#log-outing").await;
        b.until("document.querySelector('#log-outing-end') !== null").await;
        b.fill("#log-outing-end", "52").await;
        b.click("#log-save").await;
        b.until("/Logged the outing/.test(document.querySelector('#notice').textContent)").await;
        let tonight = b.value("document.querySelector('.tonight').textContent").await;
        assert!(tonight.as_str().unwrap().contains("52 %"), "{tonight}");
        b.is_accessible("the log").await;
        b.is_as_loaded_fresh("the log").await;
        // Nothing is wider than the phone.
        let wide = b.value("document.documentElement.scrollWidth").await;
        assert!(wide.as_f64().unwrap() <= 390.0, "{wide}");
    });
}

/// What the log taught narrows the Board's bands, and Undo widens them again.
#[test]
fn what_was_learnt_narrows_the_bands_of_the_board() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let range =
            "document.querySelector('[data-lane] .range').textContent.match(/[0-9]+/g).map(Number)";
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        let before = b.value(range).await;
        b.web.goto(format!("{}/rigs/1/log", app.address)).await.unwrap();
        b.click("#take-over").await;
        b.until("document.querySelector('#leave-out') !== null").await;
        b.click(".tabs a[href*='/board']").await;
        b.until("document.querySelector('[data-lane] .range') !== null").await;
        let after = b.value(range).await;
        assert_ne!(before, after, "the Board uses what was learnt");
        b.web.goto(format!("{}/rigs/1/log", app.address)).await.unwrap();
        b.click("#undo").await;
        b.until("document.querySelector('#take-over') !== null").await;
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        assert_eq!(b.value(range).await, before);
    });
}

/// A test of hours by a clock that runs on through a reload; what it says stands in the form, and is saved.
#[test]
fn a_capacity_test_is_timed_through_a_reload() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/2/log?open=log-capacity", app.address)).await.unwrap();
        b.until("!document.querySelector('[data-timer]').hidden").await;
        b.click("[data-timer-begin]").await;
        b.web.refresh().await.unwrap();
        // Five hours later, by the clock of the browser.
        b.value(
            "(() => { const real = Date.now; Date.now = () => real() + 5 * 3600e3; return 0; })()",
        )
        .await;
        b.until("document.querySelector('[data-timer-clock]').textContent.startsWith('5:00:')")
            .await;
        b.click("[data-timer-end]").await;
        let lasted = b.value("document.querySelector('[name=lasted]').value").await;
        let minutes: f64 = lasted.as_str().unwrap().parse().unwrap();
        assert!((300.0..301.0).contains(&minutes), "{minutes}");
        b.fill("#log-capacity-amps", "10").await;
        b.fill("#log-capacity-stop", "10").await;
        b.click("#log-save").await;
        b.until("/Logged the capacity test/.test(document.querySelector('#notice').textContent)")
            .await;
        let row = b.value("document.querySelector('.log-rows tbody tr').textContent").await;
        assert!(row.as_str().unwrap().contains("of its label"), "{row}");
    });
}
