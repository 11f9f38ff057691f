//! Two windows at once, and what leaves the browser as a file.

use super::driver::{Browser, in_a_browser};
use crate::program::Program;
use std::path::Path;
use thirtyfour::prelude::*;

async fn in_window(b: &Browser, window: &WindowHandle) {
    b.web.switch_to_window(window.clone()).await.unwrap();
}

/// What two windows change in different fields is kept, in whatever order; where both change the same the
/// later one wins and is told, and the earlier one sees that something has happened.
#[test]
fn two_windows_change_one_rig() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let rig = format!("{}/rigs/1/rig", app.address);
        b.web.goto(&rig).await.unwrap();
        let first = b.web.window().await.unwrap();
        let second = b.web.new_tab().await.unwrap();
        in_window(&b, &second).await;
        b.web.goto(&rig).await.unwrap();
        b.fill("#craft-name", "Grebe\t").await;
        b.until("document.querySelector('.rig-name').textContent === 'Grebe'").await;
        in_window(&b, &first).await;
        b.until("!document.getElementById('elsewhere').hidden").await;
        b.is_accessible("a change in another window").await;
        // Another field of the same form, and another form.
        b.fill("#craft-people", "3\t").await;
        b.until("document.querySelector('.rig-name').textContent === 'Grebe'").await;
        assert_eq!(b.value("document.querySelector('#craft-people').value").await, "3");
        let told = b.text("#notice").await;
        assert!(!told.contains("Another window"), "they had not changed the same: {told}");
        assert!(b.value("document.getElementById('elsewhere').hidden").await == true, "shown now");
        // The same field: the second window still shows the old figure.
        in_window(&b, &second).await;
        b.fill("#craft-people", "4\t").await;
        b.until("document.querySelector('#notice').textContent.includes('Another window had changed the same')").await;
        b.click("#notice .link-button").await;
        b.until("document.querySelector('#craft-people').value === '3'").await;
        b.is_as_loaded_fresh("after the undo").await;
        in_window(&b, &first).await;
        b.until("!document.getElementById('elsewhere').hidden").await;
        b.click("#elsewhere a").await;
        b.until("document.getElementById('elsewhere').hidden").await;
        b.is_as_loaded_fresh("as it is now").await;
    });
}

/// Rows added in two windows are both there; a row is only removed where it is the one that was seen.
#[test]
fn two_windows_change_one_list() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let day = format!("{}/rigs/1/day", app.address);
        b.web.goto(&day).await.unwrap();
        let first = b.web.window().await.unwrap();
        let second = b.web.new_tab().await.unwrap();
        for (window, name) in [(&second, "Lantern"), (&first, "Radio")] {
            in_window(&b, window).await;
            if window == &second {
                b.web.goto(&day).await.unwrap();
            }
            b.fill("#device-name_2", name).await;
            b.fill("#device-draw_2", "5\n").await;
            b.until(&format!("[...document.querySelectorAll('[id^=device-name_]')].some(f => f.value === '{name}' && !f.closest('[data-new]'))")).await;
        }
        let names = "[...document.querySelectorAll('[id^=device-name_]')].map(f => f.value).join()";
        assert_eq!(b.value(names).await, "5-inch sonar,Water sampler pump,Lantern,Radio,");
        // The second window still shows three; its third is not what stands there once the first is gone.
        b.click(
            "#devices-row-0 ~ .row-outs button, #device-remove_0, [aria-label='Remove device 1']",
        )
        .await;
        b.until(&format!("{names} === 'Water sampler pump,Lantern,Radio,'")).await;
        in_window(&b, &second).await;
        b.click("[aria-label='Remove device 3']").await;
        b.until("document.querySelector('#notice').textContent.includes('Not removed')").await;
        b.until(&format!("{names} === 'Water sampler pump,Lantern,Radio,'")).await;
    });
}

/// An undo that another window has overtaken takes nothing back and says what would be first now.
#[test]
fn an_undo_overtaken_by_another_window_takes_nothing_back() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let rig = format!("{}/rigs/1/rig", app.address);
        b.web.goto(&rig).await.unwrap();
        b.fill("#craft-name", "Grebe\t").await;
        b.until("document.querySelector('#undo')").await;
        let first = b.web.window().await.unwrap();
        let second = b.web.new_tab().await.unwrap();
        in_window(&b, &second).await;
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        b.keys("p").await;
        app.post("/rigs/1/packs/1/copy", "");
        in_window(&b, &first).await;
        b.click("#undo").await;
        b.until("document.querySelector('#notice').textContent.includes('Nothing was done')").await;
        assert_eq!(b.text(".rig-name").await, "Grebe");
        b.click("#undo").await;
        b.until("document.querySelector('#notice').textContent.includes('Copied the pack')").await;
    });
}

/// Every file that a page offers is saved whole.
#[test]
fn every_file_is_saved_whole() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let folder = tempfile::tempdir().unwrap();
        let to = serde_json::json!({"behavior": "allow", "downloadPath": folder.path()});
        b.tool("Browser.setDownloadBehavior", to).await;
        for (page, link, file) in [
            ("shelf?open=files", "a[href*='shelf.csv']", "lake-hour-shelf.csv"),
            ("shelf?open=files", "a[href*='shelf.json']", "lake-hour-shelf.json"),
            ("rig", "a[href*='plan.json']", "lake-hour.plan.json"),
        ] {
            b.web.goto(format!("{}/rigs/1/{page}", app.address)).await.unwrap();
            b.click(link).await;
            let saved = saved(&folder.path().join(file)).await;
            let address = link.split('\'').nth(1).unwrap();
            assert_eq!(saved, app.get(&format!("/rigs/1/{address}")).text(), "{file}");
        }
    });
}

/// A file once it is whole: the browser names it last.
async fn saved(path: &Path) -> String {
    for _ in 0..200 {
        if let Ok(text) = std::fs::read_to_string(path)
            && !text.is_empty()
        {
            return text;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    panic!("{} was never saved", path.display());
}

/// Figures are in the units of the page they are typed on, whatever another window has chosen since.
#[test]
fn pounds_stay_pounds_when_another_window_turns_to_kilograms() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let rig = format!("{}/rigs/1/rig", app.address);
        b.web.goto(&rig).await.unwrap();
        let first = b.web.window().await.unwrap();
        let second = b.web.new_tab().await.unwrap();
        in_window(&b, &second).await;
        b.web.goto(&rig).await.unwrap();
        b.click("#looks > summary").await;
        b.click("[data-units=metric]").await;
        b.until("document.querySelector('#page').dataset.units === 'metric'").await;
        in_window(&b, &first).await;
        b.fill("#craft-gear", "220.5\t").await;
        b.until("document.querySelector('#page').dataset.units === 'metric'").await;
        assert_eq!(b.value("document.querySelector('#craft-gear').value").await, "100");
    });
}
