//! Nothing is cut off, too small to touch, or lost on paper.

use super::driver::{Browser, in_a_browser};
use crate::program::Program;

const PAGES: [&str; 17] = [
    "rig",
    "day",
    "day?open=stretch-1",
    "shelf",
    "shelf?open=battery-3",
    "packs?fits=yes",
    "packs",
    "packs?hand=yes&pack=1-2x1&beside=1-2x1_10-1x1_4-2x2&odd=80",
    "board",
    "board?open=day",
    "board?open=working-1",
    "board?open=pack-1",
    "build",
    "build?open=",
    "log",
    "log?open=entry-1",
    "live",
];

/// Boxes whose text is wider than they are.
const CLIPPED: &str = "[...document.querySelectorAll('body *')].filter(e => { \
    if (!e.checkVisibility() || e.closest('svg, .sr, .skip, [aria-hidden=true]') || !e.clientWidth || getComputedStyle(e).display === 'inline') return false; \
    const own = e.matches('input:not([type=checkbox]):not([type=file]), select') || [...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim()); \
    return own && e.scrollWidth > e.clientWidth + 1; \
  }).map(e => `${e.tagName}.${e.className}#${e.id} ${(e.value ?? e.textContent).trim().slice(0, 40)}`)";

/// Lists whose chosen words do not fit before their arrow: a list hides this from `scrollWidth`.
const CLIPPED_CHOICES: &str = "[...document.querySelectorAll('select')].filter(e => { \
    if (!e.checkVisibility()) return false; \
    const look = getComputedStyle(e), pen = document.createElement('canvas').getContext('2d'), arrow = 18; \
    pen.font = `${look.fontStyle} ${look.fontWeight} ${look.fontSize} ${look.fontFamily}`; \
    const room = e.clientWidth - parseFloat(look.paddingLeft) - parseFloat(look.paddingRight) - arrow; \
    return pen.measureText(e.selectedOptions[0]?.textContent ?? '').width > room + 1; \
  }).map(e => `${e.id} ${e.selectedOptions[0].textContent} in ${e.clientWidth}`)";

/// Every text box on every page in every theme, on a desk, a small and a wide one, a phone, and at 200 %.
#[test]
fn no_text_is_cut_off() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        for (rig, pack) in [(1, 3), (2, 17), (3, 21), (4, 26)] {
            app.post(&format!("/rigs/{rig}/build/choose"), &format!("pack={pack}"));
        }
        // The fonts may miss the first page of a slow machine; from then on they are there.
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        b.until("document.fonts.status === 'loaded'").await;
        for (width, height) in [(1024, 768), (1280, 800), (1600, 900), (390, 844), (640, 400)] {
            b.size(width, height, false).await;
            for (n, page) in PAGES.iter().enumerate() {
                // Rig by rig, so that all four are seen.
                let rig = if page.contains('=') { 1 } else { n % 4 + 1 };
                b.web.goto(format!("{}/rigs/{rig}/{page}", app.address)).await.unwrap();
                let choices = b.value(CLIPPED_CHOICES).await;
                assert_eq!(choices, serde_json::json!([]), "{page} of rig {rig} at {width}");
                for theme in ["day", "sun", "night"] {
                    b.value(&format!("document.documentElement.dataset.theme = '{theme}'")).await;
                    let clipped = b.value(CLIPPED).await;
                    assert_eq!(
                        clipped,
                        serde_json::json!([]),
                        "{page} of rig {rig} at {width} in {theme}"
                    );
                    let wide = b.value("document.documentElement.scrollWidth - innerWidth").await;
                    assert!(
                        wide.as_i64().is_some_and(|w| w <= 1),
                        "{page} at {width} in {theme}: sideways"
                    );
                }
            }
        }
    });
}

/// On a phone the answer is on the first screen, and everything is large enough for a thumb.
#[test]
fn a_phone_shows_the_answer_first_and_is_used_by_thumb() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.size(390, 844, true).await;
        for rig in 1..=4 {
            b.web.goto(format!("{}/rigs/{rig}/board", app.address)).await.unwrap();
            let top =
                b.value("document.querySelector('.top').getBoundingClientRect().height").await;
            assert!(top.as_f64().is_some_and(|h| h <= 96.0), "the header takes {top}");
            let end = b
                .value("document.querySelector('.lane .verdict').getBoundingClientRect().bottom")
                .await;
            assert!(end.as_f64().is_some_and(|y| y < 844.0), "the first answer ends at {end}");
            let what_ifs =
                b.value("document.querySelector('.board-rules').getBoundingClientRect().top").await;
            assert!(what_ifs.as_f64() > end.as_f64(), "the decision before the what-ifs");
        }
        for page in PAGES {
            b.web.goto(format!("{}/rigs/1/{page}", app.address)).await.unwrap();
            let small = b.value("[...document.querySelectorAll('.tabs a, .button, .act, input:not([type=checkbox]), select, .chip, .looks summary, .fold > summary')].filter(e => e.checkVisibility() && !e.closest('.sr')).filter(e => e.getBoundingClientRect().height < 43.5).map(e => e.className + ' ' + (e.textContent || e.name).trim().slice(0, 30))").await;
            assert_eq!(small, serde_json::json!([]), "{page}");
        }
        // A keypad of digits has no colon, no minus and no letters.
        b.web.goto(format!("{}/rigs/1/day?open=stretch-1", app.address)).await.unwrap();
        let digits = b.value("['day-start', 'day-ambient', 'stretch-minutes', 'day-ready'].filter(id => document.getElementById(id).inputMode === 'decimal')").await;
        assert_eq!(digits, serde_json::json!([]));
        // An opened working comes into view.
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        b.click("#lane-3 [data-lane-link]").await;
        b.until("document.querySelector('#panel-working')").await;
        b.until("document.querySelector('#panel-working').getBoundingClientRect().top < innerHeight - 60").await;
        // The parts of the Rig fold, and stay as they were put.
        b.web.goto(format!("{}/rigs/1/rig", app.address)).await.unwrap();
        assert_eq!(b.value("document.querySelector('#fold-motor-title').open").await, false);
        b.click("#fold-motor-title > summary").await;
        b.fill("#motor-count", "2\t").await;
        b.until("document.querySelector('#undo')").await;
        assert_eq!(b.value("document.querySelector('#fold-motor-title').open").await, true);
        assert_eq!(b.value("document.querySelector('#fold-chargers-title').open").await, false);
    });
}

impl Browser {
    /// The text of the sheets that the page prints on, without its spaces: lines break where they like.
    async fn printed(&self) -> Vec<String> {
        let parameters = thirtyfour::common::print::PrintParameters::default();
        let pdf = self.web.print_page(parameters).await.unwrap();
        let sheets = pdf_extract::extract_text_from_mem_by_pages(&pdf).unwrap();
        sheets.iter().map(|sheet| bare(sheet)).collect()
    }
}

pub(super) fn bare(text: &str) -> String {
    let bare: String = text.split_whitespace().collect();
    // Letters that a font joins.
    [("ﬃ", "ffi"), ("ﬄ", "ffl"), ("ﬀ", "ff"), ("ﬁ", "fi"), ("ﬂ", "fl")]
        .iter()
        .fold(bare, |text, (joined, letters)| text.replace(joined, letters))
}

/// Board and Day on paper: what, when, every lane with its reasons, no buttons. The day and the lanes take two sheets at most,
/// what the decision rests on a third.
#[test]
fn board_and_day_print_on_few_sheets() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        for (rig, name) in [(1, "Heron Pond sampling skiff"), (3, "Heron Pond campground cart")] {
            for page in ["board", "day"] {
                b.web.goto(format!("{}/rigs/{rig}/{page}", app.address)).await.unwrap();
                let told = b
                    .value(
                        "[...document.querySelectorAll('h1, .facts, .lane h3, .mini b, .verdict, \
                         .drive, .misfit, .mini-verdict, .aside .reason')].map(e => e.textContent)",
                    )
                    .await;
                let sheets = b.printed().await;
                let most = if page == "board" { 3 } else { 2 };
                assert!(
                    (1..=most).contains(&sheets.len()),
                    "{page} prints {} sheets",
                    sheets.len()
                );
                let all = sheets.concat();
                let heading = format!("{}.Printed20", bare(name));
                assert!(all.contains(&heading), "{heading} in {all}");
                for words in told.as_array().unwrap() {
                    let words = bare(words.as_str().unwrap());
                    assert!(all.contains(&words), "{page} of rig {rig} misses {words} in {all}");
                }
                for word in ["Undo", "Edit", "Remove", "Newpack", "Whatif", "Saveas", "Keepit"] {
                    assert!(!all.contains(word), "{page} prints {word}: {all}");
                }
            }
            assert!(b.value("document.title").await.as_str().unwrap().contains("Day"));
        }
        b.web.goto(format!("{}/rigs/1/board", app.address)).await.unwrap();
        let all = b.printed().await.concat();
        assert!(all.contains("Localcodes,themakers'manualsandlicensedpracticecomefirst."), "{all}");
    });
}

/// An opened pack prints with its whole picture, its cables and its cautions, and nothing that is only for a screen.
#[test]
fn a_pack_prints_with_its_wiring() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        for (rig, pack) in [(1, "1-2x1"), (1, "4-2x2"), (3, "25-8x1")] {
            b.web.goto(format!("{}/rigs/{rig}/packs?pack={pack}", app.address)).await.unwrap();
            let told = b
                .value(
                    "[...document.querySelectorAll('h1, h2, .packs-verdict .verdict, .wiring-wide text, .wiring-runs td, \
                     .wiring-ok, .wiring + .fine, .packs-lines dd, .packs-failing td, .fit-says')] \
                     .filter(e => !e.closest('.packs-list')).map(e => e.textContent)",
                )
                .await;
            let sheets = b.printed().await;
            assert!((1..=3).contains(&sheets.len()), "{pack} prints {} sheets", sheets.len());
            let all = sheets.concat();
            for words in told.as_array().unwrap() {
                let words = bare(words.as_str().unwrap());
                assert!(all.contains(&words), "{pack} misses {words} in {all}");
            }
            for word in ["Undo", "TotheBoard", "Compare", "SaveasSVG", "Buildbyhand"] {
                assert!(!all.contains(word), "{pack} prints {word}: {all}");
            }
        }
    });
}
