//! From all that could be built to a pack on the Board, by mouse, keyboard and thumb.

use super::driver::{Browser, in_a_browser};
use crate::program::Program;

/// Types into a field and goes on to the next.
async fn typed(b: &Browser, css: &str, text: &str) {
    b.fill(css, text).await;
    b.keys("" + thirtyfour::Key::Tab).await;
}

/// A boat's owner narrows the list, looks at the wiring, lengthens a cable, sets two packs side by side, takes one.
#[test]
fn a_pack_for_a_boat_is_found_looked_at_and_taken() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&format!("{}/rigs/1/board", app.address)).await.unwrap();
        b.keys("4").await;
        b.until("document.querySelector('.packs-row')").await;
        b.is_accessible("the packs").await;
        let before = b.text(".packs-pages span").await;
        b.click(".packs-wants .chip:last-child").await;
        b.until(&format!(
            "document.querySelector('.packs-pages span')?.textContent !== '{before}'"
        ))
        .await;
        typed(&b, "#limit-weight", "120").await;
        b.until("location.search.includes('weight=120')").await;
        b.until("document.querySelector('#pack-9-1x2')").await;
        b.click("#pack-9-1x2 .packs-row-link").await;
        b.until("document.querySelector('#packs-open-title')?.textContent === 'Two Heron 24-50'")
            .await;
        b.is_as_loaded_fresh("an opened pack").await;
        b.is_accessible("an opened pack").await;
        // A longer lead asks for a thicker cable, at once and with its field still there.
        let short = b.text(".wiring-runs tbody tr:first-child td").await;
        typed(&b, "#lead", "45").await;
        b.until("location.search.includes('lead=45')").await;
        b.until(&format!("document.querySelector('.wiring-runs tbody tr:first-child td')?.textContent !== '{short}'")).await;
        typed(&b, "#lead", "45000").await;
        b.until("document.querySelector('#lead-problem')").await;
        assert_eq!(
            b.value("document.querySelector('#lead').value").await,
            "45000",
            "kept as typed"
        );
        b.fill("#lead", "" + thirtyfour::Key::Backspace).await;
        b.keys("" + thirtyfour::Key::Tab).await;
        b.until("!document.querySelector('#lead-problem')").await;
        b.click("#compare").await;
        b.until("document.querySelectorAll('.packs-beside thead th').length === 1").await;
        b.click("#pack-4-2x2 .packs-row-link").await;
        b.until(
            "document.querySelector('#packs-open-title')?.textContent === 'Four Sandbar 12-50'",
        )
        .await;
        b.click("#compare").await;
        b.until("document.querySelectorAll('.packs-beside thead th').length === 2").await;
        b.is_accessible("packs side by side").await;
        b.click("#to-board").await;
        b.until("document.querySelector('#notice')?.textContent?.includes('Added the pack Four Sandbar 12-50')").await;
        b.until("document.querySelector('#on-board')").await;
        b.click("#on-board").await;
        b.until("document.querySelector('.lane h3')?.textContent?.includes('Four Sandbar 12-50')")
            .await;
    });
}

/// A cart's owner goes by keyboard, looks at the hill, and takes the pack.
#[test]
fn a_pack_for_a_cart_is_found_by_keyboard() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&format!("{}/rigs/3/packs", app.address)).await.unwrap();
        b.keys("jj").await;
        b.until("document.activeElement?.closest('.packs-row') === document.querySelectorAll('.packs-row')[1]").await;
        b.keys("" + thirtyfour::Key::Enter).await;
        b.until("document.querySelector('.packs-row-open') === document.querySelectorAll('.packs-row')[1]").await;
        typed(&b, "#hill", "12").await;
        b.until("document.querySelector('#packs-power dt')?.textContent?.startsWith('up 12 %')")
            .await;
        typed(&b, "#hill", "99").await;
        b.until("document.querySelector('#problem-hill')").await;
        b.is_accessible("a hill that is too steep").await;
        typed(&b, "#hill", "10").await;
        b.until("!document.querySelector('#problem-hill')").await;
        b.click("#packs-near a").await;
        b.until("document.querySelector('.packs-chosen')").await;
        b.value("document.activeElement?.blur()").await;
        b.keys("" + thirtyfour::Key::Escape).await;
        b.until("!document.querySelector('.packs-chosen')").await;
        b.click(".packs-row:not(:has([href*='label'])) .packs-row-link").await;
        b.until("document.querySelector('.packs-chosen')").await;
        let name = b.text("#packs-open-title").await;
        if b.value("!!document.querySelector('#to-board')").await == true {
            b.value("document.activeElement?.blur()").await;
            b.keys("p").await;
            b.until("document.querySelector('#on-board')").await;
        }
        b.keys("5").await;
        b.until(&format!(
            "[...document.querySelectorAll('.lane h3')].some(h => h.textContent.includes('{name}'))"
        ))
        .await;
    });
}

/// A pack built by hand, each mistake caught, on a phone.
#[test]
fn mistakes_of_a_pack_built_by_hand_are_caught() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.size(390, 844, true).await;
        b.web.goto(&format!("{}/rigs/1/packs", app.address)).await.unwrap();
        b.click("#by-hand").await;
        b.until("document.querySelector('#form-hand')").await;
        b.choose("#hand-battery", "3").await;
        b.until("location.search.includes('pack=3-')").await;
        b.choose("#hand-battery", "1").await;
        b.until("location.search.includes('pack=1-')").await;
        typed(&b, "#hand-series", "65").await;
        b.until("document.querySelector('#hand-series-problem')").await;
        assert_eq!(b.value("document.querySelector('#hand-series').value").await, "65");
        typed(&b, "#hand-series", "2").await;
        b.until("location.search.includes('pack=1-2x1')").await;
        b.is_accessible("built by hand").await;
        for (battery, words) in [("20", "in one string"), ("10", "does not belong")] {
            b.choose("#hand-odd-unit", battery).await;
            b.until(&format!(
                "document.querySelector('#hand-danger')?.textContent?.includes('{words}')"
            ))
            .await;
            b.gone("#to-board").await;
        }
        b.choose("#hand-odd-unit", "").await;
        b.gone("#hand-danger").await;
        b.choose("#hand-second", "1").await;
        b.until("document.querySelector('#hand-danger')?.textContent?.includes('side by side')")
            .await;
        b.choose("#hand-second", "").await;
        typed(&b, "#hand-odd", "70").await;
        b.until("document.querySelector('.hand-says')?.textContent?.includes('gives 70 Ah')").await;
        assert_eq!(
            b.value("document.documentElement.scrollWidth").await,
            390,
            "nothing hangs over"
        );
        b.is_as_loaded_fresh("built by hand").await;
    });
}

/// A shelf of thousands: the page goes on by itself until all of it is judged.
#[test]
fn a_long_shelf_is_judged_while_one_looks_on() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        let mut csv = String::from("name,chemistry,nominal_voltage_v,capacity_ah,mass_kg,price\n");
        for n in 0..9_000 {
            csv.push_str(&format!(
                "Sedge {n},lfp,12.8,{},{},{}\n",
                40 + n % 90,
                6 + n % 9,
                200 + n
            ));
        }
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("long.csv");
        std::fs::write(&file, csv).unwrap();
        b.web.goto(&format!("{}/rigs/1/shelf?open=files", app.address)).await.unwrap();
        b.find("#shelf-file").await.send_keys(file.to_str().unwrap()).await.unwrap();
        b.click("#form-shelf-file .button-main").await;
        b.until_long("document.querySelector('#take-file')").await;
        b.click("#take-file").await;
        b.until_long("document.querySelector('#undo-file')").await;
        b.click("[data-tab='4']").await;
        b.until("document.querySelector('#packs-progress progress')?.value > 0").await;
        b.until_long(
            "document.querySelector('.packs-row') && !document.querySelector('#packs-progress')",
        )
        .await;
        let facts = b.text(".board-head .facts").await;
        assert!(facts.contains("9,042 batteries"), "{facts}");
        b.is_as_loaded_fresh("a long shelf").await;
    });
}

/// A cruiser tells of a generator and the sun, sets two banks against one, and looks for a battery that starts the engine:
/// at a desk, then on a phone.
#[test]
fn two_banks_and_a_house_battery_are_worked_out() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(&format!("{}/rigs/1/rig", app.address)).await.unwrap();
        let row = "[id^=charger-name_1]";
        b.fill(row, "Pond generator").await;
        b.choose("[id^=charger-supply_1]", "generator").await;
        b.fill("[id^=charger-volts_1]", "24").await;
        b.fill("[id^=charger-amps_1]", "30" + thirtyfour::Key::Enter).await;
        b.until("document.querySelector('[id^=charger-name_2]')").await;
        b.web.goto(&format!("{}/rigs/1/packs?want=any&chem=agm", app.address)).await.unwrap();
        b.click("#two-banks").await;
        b.until("document.querySelector('#turn-figures')").await;
        b.is_as_loaded_fresh("two banks").await;
        b.is_accessible("two banks").await;
        typed(&b, "#turn-days", "6").await;
        b.until("document.querySelectorAll('.wiring-wide .t-day').length === 6").await;
        typed(&b, "#turn-days", "60").await;
        b.until("document.querySelector('#turn-days-problem')").await;
        assert_eq!(b.value("document.querySelector('#turn-days').value").await, "60", "kept");
        typed(&b, "#turn-days", "4").await;
        b.until("!document.querySelector('#turn-days-problem')").await;
        b.click("#source-generator").await;
        b.until("!document.querySelector('.t-generator')").await;
        b.click("#feeds-house").await;
        b.until("document.querySelector('#packs-turn p')?.textContent?.includes('house devices')")
            .await;
        // The engine, half typed first.
        typed(&b, "#house-cranks", "4").await;
        b.until("document.querySelector('#house-starter-problem')").await;
        typed(&b, "#house-starter", "150").await;
        b.until("document.querySelector('#starters tbody tr')").await;
        b.is_as_loaded_fresh("the house battery").await;
        b.size(390, 844, true).await;
        b.click("#house-offers tbody tr:nth-child(2) a").await;
        b.until("document.querySelector('#house-offers tr:nth-child(2).is-this')").await;
        b.is_accessible("the house battery on a phone").await;
        assert_eq!(b.value("document.documentElement.scrollWidth").await, 390);
        b.click("#will-they-fit").await;
        b.until("document.querySelector('#panel-fit .fit')").await;
        assert_eq!(b.value("document.documentElement.scrollWidth").await, 390);
    });
}
