//! Stories of the Shelf.

use super::driver::in_a_browser;
use crate::program::Program;
use std::fmt::Write as _;
use thirtyfour::prelude::*;

/// A label typed by keyboard: its kind first, then what it says; a doubt is seen, mended, and the lane
/// on the Board says what was changed.
#[test]
fn a_label_is_typed_doubted_mended_and_picked() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&format!("{}/rigs/1/board", app.address)).await.unwrap();
        b.keys("3").await;
        b.until("document.querySelector('.facts')?.textContent?.startsWith('42 batteries')").await;
        b.is_accessible("the shelf").await;
        b.keys("n").await;
        b.find("#panel-kinds").await;
        b.is_accessible("the kinds").await;
        b.click("#panel-kinds .kinds a").await;
        b.until("document.querySelector('#panel-new h2')?.textContent === 'LFP, prismatic cells'")
            .await;
        assert_eq!(b.value("document.querySelectorAll('#new-cranking_a').length").await, 0);
        for (field, text) in [
            ("name", "Grebe 12-100"),
            ("nominal_voltage_v", "12.8"),
            ("capacity_ah", "100"),
            ("energy_wh", "1800"),
            ("max_continuous_current_a", "100"),
            ("mass_kg", "25 lb"),
            ("price", "299"),
        ] {
            b.fill(&format!("#new-{field}"), text).await;
        }
        b.choose("#new-size_class", "31").await;
        // A reload loses nothing of it.
        b.web.refresh().await.unwrap();
        b.until("document.querySelector('#new-energy_wh')?.value === '1800'").await;
        assert_eq!(b.value("document.querySelector('#new-size_class').value").await, "31");
        b.fill("#new-energy_wh", "x").await;
        b.click("#panel-new .button-main").await;
        b.until("document.querySelector('#new-energy_wh-problem')").await;
        assert_eq!(b.value("document.querySelector('#new-size_class').value").await, "31");
        b.fill("#new-energy_wh", "1800").await;
        b.click("#panel-new .button-main").await;
        b.until("document.querySelector('.opened-check .doubt')").await;
        let doubt = b.text(".opened-check .doubt").await;
        assert!(doubt.starts_with("Cannot be: 12.8 V x 100 Ah is 1280 Wh"), "{doubt}");
        b.is_accessible("an opened battery").await;
        b.click("#replace-energy_sum").await;
        b.until("document.querySelector('.opened .corrected')").await;
        // The picture of its place aboard, and the pick.
        let fit = b.text(".opened .fit-says").await;
        assert!(fit.starts_with("All 2 fit: Bow box"), "{fit}");
        b.click(".opened .button-main").await;
        b.until("document.querySelector('#notice')?.textContent?.includes('2 in series for 24 V')")
            .await;
        b.keys("5").await;
        b.until("document.querySelector('.lane h3')?.textContent?.includes('Grebe 12-100')").await;
        let notes = b.text(".lane .notes").await;
        assert!(notes.contains("the label says 1800 Wh, used here: 1280 Wh"), "{notes}");
    });
}

/// At the ramp: a shop's text pasted on the phone, looked through, kept and picked with a thumb.
#[test]
fn a_label_is_pasted_on_a_phone() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.size(390, 844, true).await;
        b.web.goto(&format!("{}/rigs/1/shelf", app.address)).await.unwrap();
        b.click("#open-paste").await;
        b.fill(
            "#paste-text",
            "Smew 24-60 LiFePO4\n25.6V 60Ah 1536Wh\nContinuous discharge: 60 A\nWeight 29 lbs\n$489\nLot 7",
        )
        .await;
        b.click("#panel-paste .button").await;
        b.until("document.querySelector('.understood')").await;
        b.is_accessible("a pasted text understood").await;
        let understood = b.text(".understood").await;
        assert!(understood.contains("60 Ah") && understood.contains("Lot 7"), "{understood}");
        let wide = b.value("document.documentElement.scrollWidth").await;
        assert_eq!(wide, 390, "nothing hangs over the edge");
        b.click("#panel-new .button-main").await;
        b.until("document.querySelector('.opened .plausible')").await;
        b.click(".opened .button-main").await;
        b.until("document.querySelector('#notice')?.textContent?.includes('1 in series for 24 V')")
            .await;
        assert_eq!(b.value("document.documentElement.scrollWidth").await, 390);
        b.click("#notice .link-button").await;
        b.until("document.querySelector('#notice')?.textContent?.includes('Taken back')").await;
        b.click("#open-fit").await;
        b.until("document.querySelectorAll('#panel-fit .fit').length === 11").await;
        let says = b
            .value("[...document.querySelectorAll('.fit-words')].map(w => w.textContent).join()")
            .await;
        assert!(says.as_str().unwrap().contains("in short"), "{says}");
        assert_eq!(b.value("document.documentElement.scrollWidth").await, 390);
    });
}

/// Searched and walked by keyboard alone; filters act at once and stand in the address.
#[test]
fn the_shelf_is_searched_and_walked_by_keyboard() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&format!("{}/rigs/1/shelf", app.address)).await.unwrap();
        b.keys("/").await;
        b.keys("quarry").await;
        b.until("document.querySelectorAll('article').length === 2").await;
        b.until("location.search === '?q=quarry'").await;
        assert_eq!(b.value("document.activeElement.id").await, "shelf-search");
        b.keys("" + Key::Escape).await;
        b.keys("j").await;
        b.keys("j").await;
        b.keys("" + Key::Enter).await;
        b.until("document.querySelector('.opened')?.getAttribute('aria-label') === 'Quarry AGM 31, opened'").await;
        b.choose("#by-mass", "measured").await;
        b.until("document.querySelector('.shelf-figs sup')?.textContent?.includes('measured')")
            .await;
        b.choose("#facet-label", "doubtful").await;
        b.until("document.querySelector('.shelf .empty')").await;
        b.web.goto(&format!("{}/rigs/1/shelf?label=doubtful", app.address)).await.unwrap();
        b.choose("#facet-by", "usable").await;
        b.until("location.search === '?label=doubtful&by=usable'").await;
    });
}

/// A hundred thousand batteries: called off on the way, then looked at, taken, and taken back as one.
#[test]
fn a_file_of_a_hundred_thousand_batteries_is_taken_with_progress() {
    const ROWS: usize = 100_000;
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let folder = tempfile::tempdir().unwrap();
        let mut text = "name,chemistry,nominal_voltage_v,capacity_ah,mass_kg,price\n".to_owned();
        for n in 0..ROWS {
            let ah = 50 + n % 150;
            let _ = writeln!(text, "Widgeon {n},lfp,12.8,{ah},{}.5,{}", ah / 9, ah * 3);
        }
        let file = folder.path().join("widgeons.csv");
        std::fs::write(&file, text).unwrap();
        b.web.goto(&format!("{}/rigs/1/shelf?open=files", app.address)).await.unwrap();
        b.find("#shelf-file").await.send_keys(file.to_str().unwrap()).await.unwrap();
        b.click("#form-shelf-file .button").await;
        b.until_long("document.querySelector('.file-state dd')?.textContent === '100000'").await;
        b.click("#take-file").await;
        b.until("Number(document.querySelector('.file-state progress')?.value) > 0").await;
        b.click("#cancel-file").await;
        b.until_long("document.querySelector('.file-state')?.textContent?.includes('Canceled')")
            .await;
        b.click(".file-state .button").await;
        b.until("location.search === '?open=files' && document.querySelector('#shelf-file')").await;
        b.until_long("document.querySelector('.facts')?.textContent?.startsWith('42 batteries')")
            .await;
        b.find("#shelf-file").await.send_keys(file.to_str().unwrap()).await.unwrap();
        b.click("#form-shelf-file .button").await;
        b.until_long("document.querySelector('.file-state dd')?.textContent === '100000'").await;
        b.click("#take-file").await;
        b.until("document.querySelector('.file-state progress')").await;
        b.until_long("document.querySelector('.file-sum')?.textContent?.startsWith('Taken from')")
            .await;
        b.click("#panel-files [data-key=close]").await;
        b.until("document.querySelector('.facts')?.textContent?.startsWith('100042 batteries')")
            .await;
        assert_eq!(b.value("document.querySelectorAll('article').length").await, 16);
        b.click("#undo").await;
        b.until_long("document.querySelector('.facts')?.textContent?.startsWith('42 batteries')")
            .await;
    });
}

/// A file with faults is looked at; what is wrong stands there by line and column. Hidden, copied and
/// removed batteries come back.
#[test]
fn a_file_with_faults_and_the_way_back_from_every_change() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("pond.csv");
        let text = "name;chemistry;nominal_voltage_v;capacity_ah;mass_kg;price\nCoot;lfp;12,8;100;26 lb;300\n\
                    Grebe;agm;12;100;30;2026-05-01\nCoot;lfp;12,8;90;11;280\n";
        std::fs::write(&file, text).unwrap();
        b.web.goto(&format!("{}/rigs/1/shelf?open=files", app.address)).await.unwrap();
        b.find("#shelf-file").await.send_keys(file.to_str().unwrap()).await.unwrap();
        b.click("#form-shelf-file .button").await;
        b.until("document.querySelectorAll('.faults tbody tr').length === 2").await;
        b.is_accessible("a file looked at").await;
        let faults = b.text(".faults tbody").await;
        assert!(faults.contains("3 price This is not a number"), "{faults}");
        assert!(faults.contains("4 name This name stands on line 2 already."), "{faults}");
        // A reload keeps it; taking it takes what is good.
        b.web.refresh().await.unwrap();
        b.click("#take-file").await;
        b.until("document.querySelector('.file-sum')?.textContent?.startsWith('Taken from')").await;
        b.click("#undo-file").await;
        b.until("document.querySelector('.facts')?.textContent?.startsWith('42 batteries')").await;
        b.web.goto(&format!("{}/rigs/1/shelf?q=tern", app.address)).await.unwrap();
        b.click("article h2 a").await;
        b.until("document.querySelector('.opened')").await;
        b.click("[id^=copy-]").await;
        b.until("document.querySelector('#edit-name')?.value === 'Tern 24-120 (2)'").await;
        b.fill("#edit-price", "777").await;
        b.click(".opened .button-main").await;
        b.until(
            "document.querySelector('#notice')?.textContent?.includes('Changed Tern 24-120 (2)')",
        )
        .await;
        b.click("[id^=hide-]").await;
        b.until("document.querySelectorAll('article').length === 1").await;
        b.click("#facet-hidden").await;
        b.until("document.querySelector('article h2')?.textContent === 'Tern 24-120 (2)'").await;
        for _ in 0..3 {
            b.click("#undo").await;
            b.until("document.querySelector('#notice')?.textContent?.includes('Taken back')").await;
        }
        b.until("!document.querySelector('#undo')").await;
        // In daylight, and at twice the size: nothing hangs over, all of it can be reached.
        b.web.goto(&format!("{}/rigs/1/packs?fits=yes", app.address)).await.unwrap();
        b.click("#looks > summary").await;
        b.click("[data-theme-choice=sun]").await;
        b.is_accessible("the fit picture in daylight").await;
        b.size(640, 400, false).await;
        assert_eq!(b.value("document.documentElement.scrollWidth").await, 640);
    });
}
