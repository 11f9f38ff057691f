//! Log in the hands of its users: an outing in four taps on a phone, a monitor's file, a test by the clock, what was learnt on
//! the Board.

use super::driver::in_a_browser;
use crate::program::Program;
use thirtyfour::Key;

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

/// An entry of any kind that is changed in this window speaks of no other window, and its form comes back as it was left.
#[test]
fn an_entry_that_is_changed_speaks_of_no_other_window() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let kinds =
            ["Volts of the units", "Last samples", "Load test", "Capacity test", "two tired AGM"];
        for (n, kind) in kinds.into_iter().enumerate() {
            b.web.goto(format!("{}/rigs/1/log", app.address)).await.unwrap();
            let edit = format!(
                "[...document.querySelectorAll('.log-rows tr')].find(r => r.textContent.includes('{kind}')).querySelector('a.act').href"
            );
            let edit = b.value(&edit).await.as_str().unwrap().to_owned();
            b.web.goto(&edit).await.unwrap();
            b.find("#panel-log [name=note]").await;
            let note = format!("looked at {n}");
            b.fill("#panel-log [name=note]", note.as_str()).await;
            b.keys(Key::Enter).await;
            b.until("/Changed/.test(document.querySelector('#notice').textContent)").await;
            let notice = b.text("#notice").await;
            assert!(!notice.contains("Another window"), "{kind}: {notice}");
            b.web.goto(&edit).await.unwrap();
            let kept = b.value("document.querySelector('#panel-log [name=note]').value").await;
            assert_eq!(kept.as_str(), Some(note.as_str()), "{kind}");
        }
    });
}

/// A monitor's file in words that are not known: asked about, taken, drawn as it counted; a track tells how far.
#[test]
fn a_monitors_file_is_asked_about_and_drawn_and_its_track_joins_it() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let folder = tempfile::tempdir().unwrap();
        let (csv, gpx) = (folder.path().join("lake.csv"), folder.path().join("lake.gpx"));
        let rows =
            (0..120).map(|n| format!("2026-09-21 {:02}:{:02};12,9;15000\n", 7 + n / 60, n % 60));
        std::fs::write(&csv, format!("Zeit;Spannung;Strom mA\n{}", rows.collect::<String>()))
            .unwrap();
        let points = (0..60).map(|n| {
            let lat = 45.0 + f64::from(n) * 0.001;
            format!(
                "<trkpt lat=\"{lat}\" lon=\"-90\"><time>2026-09-21T12:{n:02}:00Z</time></trkpt>"
            )
        });
        let track = format!(
            "<gpx version=\"1.1\"><trk><trkseg>{}</trkseg></trk></gpx>",
            points.collect::<String>()
        );
        std::fs::write(&gpx, track).unwrap();
        b.web.goto(format!("{}/rigs/2/log", app.address)).await.unwrap();
        b.click("#log-bring summary").await;
        b.find("#log-file").await.send_keys(csv.to_str().unwrap()).await.unwrap();
        b.click("#form-file .button").await;
        b.until("document.querySelector('#record-problem') !== null").await;
        b.is_accessible("the columns").await;
        b.choose("#column_0", "time").await;
        b.choose("#column_1", "volts").await;
        b.click("#record-save").await;
        b.until("/Logged the outing of 21 Sep 2026/.test(document.querySelector('#notice').textContent)").await;
        let title = b.text("#outing-title").await;
        assert!(title.starts_with("21 Sep 2026"), "{title}");
        b.find(".went-told").await;
        b.is_as_loaded_fresh("the log after a file").await;
        b.click("#log-bring summary").await;
        b.find("#log-file").await.send_keys(gpx.to_str().unwrap()).await.unwrap();
        b.click("#form-file .button").await;
        b.until("document.querySelector('.season')?.textContent.includes('mi')").await;
    });
}
