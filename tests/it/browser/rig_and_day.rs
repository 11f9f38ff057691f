//! Stories of the Rig and the Day.

use super::driver::{Browser, in_a_browser};
use crate::program::Program;
use std::fmt::Write as _;
use std::io::Write as _;
use thirtyfour::prelude::*;

/// From nothing to a verdict without knowing one amp: what it is, its thrust off the label, a day to
/// begin from, one battery from a shop's label.
#[test]
fn a_newcomer_with_a_boat_gets_a_believable_day_without_an_amp() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let app = b.keeps(Program::serve(&folder.path().join("mine.db")));
        b.web.goto(&app.address).await.unwrap();
        b.click("form[action='/start/own'] .button").await;
        b.choose("#craft-kind", "jon_boat").await;
        b.until("document.querySelector('.facts').textContent.includes('14.1 ft')").await;
        b.fill("#craft-people", "2\t").await;
        b.until("document.querySelector('#undo')").await;
        b.fill("#motor-thrust", "55 lb\t").await;
        b.until("document.querySelector('[data-curve=draw]')").await;
        b.click("[data-tab='2']").await;
        b.choose("#template", "edge").await;
        b.click(".begin .button").await;
        b.until("document.querySelectorAll('[data-block]').length === 5").await;
        b.fill("#day-wind", "8\t").await;
        b.until("document.querySelector('.weather-text').textContent === 'wind 8 mph'").await;
        b.click("[data-block]:first-of-type").await;
        let implied = b.text(".implied").await;
        assert!(implied.contains("mph") && implied.contains("a mile"), "{implied}");
        b.click("[data-tab='5']").await;
        b.click("[data-key=new]").await;
        for (field, text) in [
            ("name", "Fennel 27"),
            ("nominal_voltage_v", "12"),
            ("reserve_minutes_25a", "160"),
            ("price", "149"),
        ] {
            b.fill(&format!("#new-{field}"), text).await;
        }
        b.choose("#new-chemistry", "flooded").await;
        b.click("#panel-new-pack .button-main").await;
        let verdict = b.text(".lane .verdict").await;
        assert!(verdict.starts_with("Gets ") || verdict.starts_with("Stops"), "{verdict}");
        let range = b.text(".lane .range").await;
        assert!(
            range.contains('%') || range.contains("day"),
            "from a bad day to a good one: {range}"
        );
    });
}

/// The same for a cart: miles, grades and stops instead of wind.
#[test]
fn a_newcomer_with_a_cart_gets_miles_and_watt_hours_a_mile() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let app = b.keeps(Program::serve(&folder.path().join("mine.db")));
        b.web.goto(&app.address).await.unwrap();
        b.click("form[action='/start/own'] .button").await;
        b.choose("#craft-kind", "utility_cart").await;
        b.until("document.querySelectorAll('.wheel').length === 4").await;
        b.fill("#motor-volts", "48\t").await;
        b.until("document.querySelector('.facts').textContent.includes('48 V')").await;
        b.click("[data-tab='2']").await;
        b.choose("#template", "rounds").await;
        b.click(".begin .button").await;
        b.until("document.querySelector('.facts').textContent.includes('14.5 mi')").await;
        let facts = b.text(".facts").await;
        let each: f64 = facts
            .split(" Wh/mi")
            .next()
            .and_then(|f| f.rsplit(' ').next())
            .and_then(|n| n.parse().ok())
            .unwrap();
        // Common practice, no source: 80 to 200 Wh a mile for a whole trip.
        assert!((80.0..=250.0).contains(&each), "{facts}");
        b.click("[data-block]:first-of-type").await;
        b.fill("#stretch-grade", "2\t").await;
        b.until("document.querySelector('#notice').textContent.includes('Changed the stretch')")
            .await;
        assert_ne!(b.text(".facts").await, facts, "another slope takes something else");
        b.click("[data-tab='5']").await;
        b.click("[data-key=new]").await;
        for (field, text) in [
            ("name", "Eight Fennel GC"),
            ("nominal_voltage_v", "6"),
            ("capacity_ah", "225"),
            ("series", "8"),
        ] {
            b.fill(&format!("#new-{field}"), text).await;
        }
        b.choose("#new-chemistry", "flooded").await;
        b.click("#panel-new-pack .button-main").await;
        b.find(".lane .verdict").await;
    });
}

async fn minutes(b: &Browser, id: u32) -> f64 {
    b.value(&format!("Number(document.getElementById('block-{id}').dataset.minutes)"))
        .await
        .as_f64()
        .unwrap()
}

/// Drags an element sideways or upwards, in steps as a hand does.
async fn pull(b: &Browser, css: &str, x: i64, y: i64) {
    let what = b.find(css).await;
    what.scroll_into_view().await.unwrap();
    let mut chain = b.web.action_chain().move_to_element_center(&what).click_and_hold();
    for _ in 0..4 {
        chain = chain.move_by_offset(x / 4, y / 4);
    }
    chain.release().perform().await.unwrap();
}

/// Edges lengthen, blocks move, by pointer and by keyboard; twenty lanes follow while it is dragged.
#[test]
fn blocks_are_dragged_and_twenty_lanes_follow() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        // Twelve more packs, so that twenty lanes stand on the board.
        let copy = "const done = arguments[0]; (async () => { for (let n = 0; n < 12; n++) await fetch('/rigs/1/packs/1/copy', {method: 'POST', headers: {'Content-Type': 'application/x-www-form-urlencoded'}}); done(1); })()";
        b.web.execute_async(copy, vec![]).await.unwrap();
        b.web.goto(format!("{}/rigs/1/day", app.address)).await.unwrap();
        b.until("document.querySelectorAll('.mini').length === 20").await;
        let before = minutes(&b, 1).await;
        pull(&b, "[data-edge='1']", 80, 0).await;
        b.until(&format!("document.getElementById('block-1').dataset.minutes > {before}")).await;
        b.until("document.querySelector('#notice').textContent.includes('Changed the stretch')")
            .await;
        let longer = minutes(&b, 1).await;
        assert!((longer % 5.0).abs() < 1e-9, "in steps of five minutes: {longer}");
        let drags = b.value("window.lakeDrags").await;
        let drags: Vec<f64> =
            drags.as_array().unwrap().iter().filter_map(serde_json::Value::as_f64).collect();
        let slowest = drags.iter().copied().fold(0.0, f64::max);
        println!("20 lanes: {} redraws while dragging, slowest {slowest:.0} ms", drags.len());
        pull(&b, "#block-1", 400, 0).await;
        b.until("document.querySelector('[data-block]').dataset.block !== '1'").await;
        b.web.refresh().await.unwrap();
        assert!((minutes(&b, 1).await - longer).abs() < 1e-9);
        // The same without a pointer.
        b.value("document.getElementById('block-1').focus()").await;
        b.keys("" + Key::Right).await;
        b.until(&format!("document.getElementById('block-1').dataset.minutes == {}", longer + 5.0))
            .await;
        let place = b.value("document.getElementById('block-1').dataset.index").await;
        b.value("document.getElementById('block-1').focus()").await;
        b.keys(Key::Shift + Key::Left).await;
        b.until(&format!(
            "document.getElementById('block-1').dataset.index !== '{}'",
            place.as_str().unwrap()
        ))
        .await;
        b.is_accessible("the day with a stretch open").await;
    });
}

/// A bay is moved on the picture, a point of the draw curve pulled, each by pointer and by keyboard; the
/// numbers beside them follow.
#[test]
fn the_pictures_of_the_rig_are_edited_by_hand_and_by_keyboard() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        let value = async |id: &str| -> f64 {
            let text = b.value(&format!("document.getElementById('{id}').value")).await;
            text.as_str().unwrap().parse().unwrap()
        };
        let bay = value("bay-position_0").await;
        pull(&b, "[data-bay='0']", 60, 0).await;
        b.until(&format!("document.getElementById('bay-position_0').value > {bay}")).await;
        b.until("document.querySelector('#notice').textContent.includes('Changed the rig')").await;
        let moved = value("bay-position_0").await;
        b.value("document.querySelector(\"[data-bay='0']\").focus()").await;
        b.keys("" + Key::Left).await;
        // Said by the server, not only set by the key: the next drag begins on the page as it then stands.
        b.until(&format!("document.getElementById('bay-position_0').defaultValue < {moved}")).await;
        let amps = value("draw-amps_2").await;
        pull(&b, "[data-curve=draw] [data-handle='2']", 0, -20).await;
        b.until(&format!("document.getElementById('draw-amps_2').value > {amps}")).await;
        b.web.refresh().await.unwrap();
        assert!(value("draw-amps_2").await > amps, "it was kept");
        b.value("document.querySelector(\"[data-curve=draw] [data-handle='2']\").focus()").await;
        b.keys("" + Key::Down).await;
        b.until("document.querySelector('#notice').textContent.includes('Changed the rig')").await;
        // The other units, at once and everywhere.
        b.click("#looks > summary").await;
        b.click("[data-units=metric]").await;
        b.until("document.querySelector('.facts').textContent.includes('4.3 m')").await;
        assert_eq!(value("craft-length").await, 4.3);
    });
}

/// A file of fifty megabytes becomes the day, with its progress shown.
#[test]
fn a_track_of_fifty_megabytes_becomes_the_day() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("long.gpx");
        let mut file = std::io::BufWriter::new(std::fs::File::create(&path).unwrap());
        file.write_all(b"<gpx version=\"1.1\" creator=\"t\"><trk><name>Long day</name><trkseg>")
            .unwrap();
        let mut line = String::new();
        for n in 0..560_000_u32 {
            line.clear();
            // Eight hours at twenty points a second, slowly northwards.
            let (ms, lat) = (n * 50, 45.0 + f64::from(n) * 5e-7);
            let (h, m, s) = (6 + ms / 3_600_000, ms / 60_000 % 60, ms / 1000 % 60);
            write!(line, "<trkpt lat=\"{lat:.7}\" lon=\"10.0\"><ele>200.0</ele><time>2026-05-01T{h:02}:{m:02}:{s:02}.{:03}Z</time></trkpt>", ms % 1000).unwrap();
            file.write_all(line.as_bytes()).unwrap();
        }
        file.write_all(b"</trkseg></trk></gpx>").unwrap();
        file.into_inner().unwrap().sync_all().unwrap();
        let size = std::fs::metadata(&path).unwrap().len();
        assert!(size > 50_000_000, "{size}");
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/day", app.address)).await.unwrap();
        b.find("#gpx-file").await.send_keys(path.to_str().unwrap()).await.unwrap();
        let began = std::time::Instant::now();
        b.click("#form-gpx .button").await;
        b.until("document.querySelectorAll('[data-block]').length === 1").await;
        println!(
            "a GPX file of {} MB took {:.1} s, server at {} MB",
            size >> 20,
            began.elapsed().as_secs_f64(),
            app.memory_mb()
        );
        assert!(b.text(".facts").await.contains("7 h 4"), "{}", b.text(".facts").await);
        b.click("#undo").await;
        b.until("document.querySelectorAll('[data-block]').length === 8").await;
    });
}

/// The rules of axe-core on every new view and theme, and nothing sticks out sideways on a phone.
#[test]
fn rig_and_day_are_accessible_and_fit_a_phone() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let views = ["/rigs/1/rig", "/rigs/1/day", "/rigs/1/day?open=stretch-1&if=wind", "/rigs"];
        for theme in ["day", "night", "sun"] {
            for view in views {
                b.web.goto(format!("{}{view}", app.address)).await.unwrap();
                b.value(&format!("document.documentElement.dataset.theme = '{theme}'")).await;
                b.is_accessible(&format!("{theme} {view}")).await;
            }
        }
        b.size(390, 844, true).await;
        for view in views {
            b.web.goto(format!("{}{view}", app.address)).await.unwrap();
            b.find("main").await;
            assert_eq!(b.value("document.documentElement.scrollWidth").await, 390, "{view}");
        }
        b.is_accessible("a phone").await;
    });
}
