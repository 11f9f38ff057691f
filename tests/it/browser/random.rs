//! A random user: clicks, types and presses Enter anywhere, and nothing breaks.
//!
//! `LAKE_HOUR_STEPS` and `LAKE_HOUR_SEED` make it longer and another one.

use super::TABS;
use super::driver::{Browser, in_a_browser};
use crate::program::Program;
use thirtyfour::prelude::*;

/// Numbers that look random and are the same for the same seed: Marsaglia's xorshift.
struct Dice(u64);

impl Dice {
    fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % n as u64) as usize
    }
}

const TEXTS: [&str; 16] = [
    "",
    "12",
    "0",
    "-3",
    "7.5",
    "1e309",
    "NaN",
    "abc",
    "14 ft 6 in",
    "1,250",
    "0,8",
    "5 h",
    "07:30",
    "100000",
    "Ünïcode <b>x</b>",
    "1/2",
];

/// Everything that can be used now gets a number.
const MARK: &str = "(() => { let n = 0; document.querySelectorAll('[data-dice]').forEach(e => e.removeAttribute('data-dice')); \
    for (const e of document.querySelectorAll('a[href], button, summary, select, input, textarea')) { \
      const box = e.getBoundingClientRect(); \
      if (e.disabled || e.type === 'file' || e.type === 'hidden' || e.hasAttribute('download') || box.width < 2 || box.height < 2 || e.tabIndex < 0 && !e.matches('.act') || !e.checkVisibility({ visibilityProperty: true }) || document.querySelector('dialog[open]') && !e.closest('dialog')) continue; \
      if (e.matches('a') && e.origin !== location.origin) continue; \
      e.dataset.dice = n++; } return n; })()";

impl Browser {
    async fn counted(&self, what: &str) -> u64 {
        self.value(&format!("[...document.querySelectorAll('button')].filter(e => {what}).length"))
            .await
            .as_u64()
            .unwrap_or(0)
    }

    /// Nothing under way any more.
    async fn settles(&self) {
        self.is_drawn().await;
        // Fields are sent a moment after they are left.
        tokio::time::sleep(std::time::Duration::from_millis(60)).await;
        self.is_drawn().await;
    }

    async fn one_step(&self, dice: &mut Dice) -> Option<String> {
        // What is still worked out would redraw the page under the hand.
        for _ in 0..100 {
            if self.value("!document.querySelector('#weighing, #packs-progress')").await == true {
                break;
            }
            tokio::time::sleep(std::time::Duration::from_millis(30)).await;
        }
        let all = self.value(MARK).await.as_u64()? as usize;
        if all == 0 {
            return None;
        }
        let at = dice.below(all);
        let element = self.web.find(By::Css(format!("[data-dice='{at}']"))).await.ok()?;
        let tag = element.tag_name().await.ok()?;
        let kind = element.attr("type").await.ok()?.unwrap_or_default();
        let name = self.value(&format!("(() => {{ const e = document.querySelector('[data-dice=\"{at}\"]'); return e && (e.id || e.name || e.textContent.trim().slice(0, 30)); }})()")).await;
        if name.is_null() {
            return None;
        }
        let typed = (tag == "input" && !["checkbox", "submit"].contains(&kind.as_str()))
            || tag == "textarea";
        let done = if typed {
            let text = TEXTS[dice.below(TEXTS.len())];
            let enter = dice.below(3) == 0;
            let key = if enter { Key::Enter } else { Key::Tab };
            let sent = element
                .send_keys(Key::Control + "a")
                .await
                .and(element.send_keys(Key::Delete + text).await);
            sent.and(element.send_keys("" + key).await).ok()?;
            format!("typed {text:?} and {} into {name}", if enter { "Enter" } else { "Tab" })
        } else if tag == "select" {
            let options = element.find_all(By::Css("option")).await.ok()?;
            options.get(dice.below(options.len().max(1)))?.click().await.ok()?;
            format!("chose in {name}")
        } else {
            element.click().await.ok()?;
            format!("clicked {name}")
        };
        self.settles().await;
        Some(done)
    }
}

/// The id of the last thing on the page that Tab stops at.
const LAST: &str = "[...document.querySelectorAll('a[href], button, input:not([type=hidden]), select, summary, textarea, [tabindex=\"0\"]')] \
    .filter((e) => e.checkVisibility() && e.tabIndex >= 0).at(-1)?.id ?? ''";

fn asked(name: &str, usual: u64) -> u64 {
    std::env::var(name).ok().and_then(|v| v.parse().ok()).unwrap_or(usual)
}

fn a_user_at(width: u32, height: u32, seed: u64) {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.size(width, height, false).await;
        let seed = asked("LAKE_HOUR_SEED", seed);
        let mut dice = Dice(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1);
        let steps = asked("LAKE_HOUR_STEPS", 120);
        b.web.goto(&app.address).await.unwrap();
        for step in 0..steps {
            if dice.below(9) == 0 {
                let (rig, page) = (dice.below(4) + 1, TABS[dice.below(TABS.len())]);
                b.web.goto(format!("{}/rigs/{rig}/{page}", app.address)).await.unwrap();
            }
            let removes = "e.name === 'take-out' || /-remove$/.test(e.id)";
            let (path, before) = (b.value("location.pathname").await, b.counted(removes).await);
            let last = b.value(LAST).await.to_string();
            let Some(did) = b.one_step(&mut dice).await else { continue };
            let told = format!("seed {seed}, step {step}: {did} on {path}");
            let same_page = b.value("location.pathname").await == path;
            if did.starts_with("typed") {
                assert!(!same_page || b.counted(removes).await >= before, "{told}: a row is gone");
                // Tab leads out of the page from its very last field only.
                let out = did.ends_with(&format!("Tab into {last}"));
                let tag = b.value("document.activeElement.tagName").await;
                assert!(out || tag != "BODY", "{told}: no focus");
            }
            let wide = b.value("document.documentElement.scrollWidth - innerWidth").await;
            assert!(wide.as_i64().is_some_and(|w| w <= 1), "{told}: sideways by {wide}");
            b.has_the_headings_of_a_fresh_load(&told).await;
        }
    });
}

#[test]
fn a_random_user_breaks_nothing_at_a_desk() {
    a_user_at(1280, 800, 20);
}

#[test]
fn a_random_user_breaks_nothing_on_a_phone() {
    a_user_at(390, 844, 21);
}
