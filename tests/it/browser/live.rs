//! Under way in the hands of its users: from ramp to home with a stand-in, through silences, by hand, and from a second device.

use super::driver::{Browser, in_a_browser};
use crate::program::{Program, Server};

/// A short day with a small pack: out, a while at the reeds, home; long enough to be told to turn.
const SHORT: &str = r#"{"format":"lake-hour/plan","version":1,"currency":"USD",
 "rig":{"name":"Reed skiff","craft":{"kind":"v_hull","length_m":4.2},
  "motor":{"name":"Bow motor","system_voltage_v":24,"max_current_a":46}},
 "day":{"start":"07:00","ambient_c":18,"outings_per_year":20,"stretches":[
  {"name":"Out","minutes":40,"load":{"kind":"setting","setting":8}},
  {"name":"Along the reeds","minutes":60,"load":{"kind":"setting","setting":5}},
  {"name":"Home","minutes":40,"load":{"kind":"setting","setting":7}}]},
 "packs":[{"name":"Two small LFP","series":2,"parallel":1,"battery":{"name":"Marl Point 12-30","chemistry":"lfp",
  "nominal_voltage_v":12.8,"capacity_ah":30,"capacity_hours":20,"max_continuous_current_a":60}}]}"#;

/// As it stands in a form.
fn form_urlencoded(text: &str) -> String {
    text.bytes().map(|b| format!("%{b:02X}")).collect()
}

impl Browser {
    /// The page under way of a rig with the short day.
    async fn with_the_short_day(&self, app: &Program) {
        let plan: String = form_urlencoded(SHORT);
        let sent = app.post("/plan/take", &format!("plan={plan}"));
        assert_eq!(sent.status, 303, "{}", sent.text());
        let rig = sent.leads_to().split('/').nth(2).unwrap().to_owned();
        self.web.goto(format!("{}/rigs/{rig}/live", app.address)).await.unwrap();
    }

    async fn says(&self, what: &str) -> String {
        let text = self
            .value(&format!("document.querySelector('[data-face={what}]')?.textContent ?? ''"))
            .await;
        text.as_str().unwrap().to_owned()
    }
}

const HEADLINE: &str = "document.querySelector('[data-face=headline]')?.textContent ?? ''";

/// A stand-in sixty times as fast: out from the ramp, told to turn, turned, home; then the outing in the Log. On a phone, black
/// on white, everything in sight.
#[test]
fn from_the_ramp_to_home_with_a_warning_heeded_on_a_phone() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.size(390, 844, true).await;
        b.with_the_short_day(&app).await;
        b.click("#stand-in").await;
        b.until("document.querySelector('#live.state-live') !== null").await;
        b.until("document.documentElement.dataset.theme === 'sun'").await;
        b.until(&format!("/^Turn for home by/.test({HEADLINE})")).await;
        let fits = "document.documentElement.scrollHeight <= 844 && document.documentElement.scrollWidth <= 390";
        assert_eq!(b.value(fits).await, true, "nothing to scroll to");
        let large =
            "parseFloat(getComputedStyle(document.querySelector('[data-face=charge]')).fontSize)";
        assert!(b.value(large).await.as_f64().unwrap() >= 72.0);
        b.is_accessible("under way").await;
        let out: f64 = b.says("charge").await.parse().unwrap();
        // Told to turn, and turned.
        b.until_long(&format!("/^Turn for home now/.test({HEADLINE})")).await;
        b.click("#live-home").await;
        b.until(&format!("/^(Home|Slow|On the)/.test({HEADLINE})")).await;
        assert_eq!(b.value("document.querySelectorAll('[data-rows] li').length").await, 4);
        b.until_long(&format!("/^At the launch/.test({HEADLINE})")).await;
        let home: f64 = b.says("charge").await.parse().unwrap();
        assert!(home < out && home > 5.0, "{out} to {home}");
        assert!(!b.says("headline").await.contains("shut off"));
        b.click("#live-more summary").await;
        b.click("#live-end").await;
        b.until(
            "/Kept the practice trip/.test(document.querySelector('#notice')?.textContent ?? '')",
        )
        .await;
        b.until("/Under way/.test(document.querySelector('#practice').textContent)").await;
        b.until("/\\/log/.test(location.pathname)").await;
        // And seen again: what was said, against how it ended.
        b.click(".tabs a[href*='/live']").await;
        b.click(".live-over a").await;
        b.until("document.querySelector('[data-replay]')?.dataset.ready === 'yes'").await;
        assert!(b.text("figcaption").await.contains("it ended with"));
        b.is_as_loaded_fresh("the trip again").await;
        b.is_accessible("a trip that is over").await;
        b.click("[data-replay-run]").await;
        b.until("Number(document.querySelector('[data-replay-at]').value) > 2").await;
        b.click("[data-replay-run]").await;
    });
}

/// The source goes away and comes back; the program is killed and started again; nothing that was heard is lost, and the page
/// counts on by itself meanwhile and says so.
#[test]
fn through_a_lost_source_and_a_killed_server_it_goes_on() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let db = folder.path().join("a.db");
        let app = Program::serve(&db);
        let port = app.host().rsplit(':').next().unwrap().to_owned();
        let plan = folder.path().join("short.plan.json");
        std::fs::write(&plan, SHORT).unwrap();
        let plan = plan.to_str().unwrap();
        let plays = ["--speed", "60", "--plan", plan, "--listen"];
        let stand_in = Server::stand_in(&[&plays[..], &["127.0.0.1:0"]].concat());
        let source =
            stand_in.line.trim_start_matches("ws://").split('/').next().unwrap().to_owned();
        b.with_the_short_day(&app).await;
        b.choose("#begin-source", "signalk").await;
        b.fill("#begin-address", source.as_str()).await;
        b.fill("#begin-start", "100").await;
        b.click("#live-begin").await;
        // It tells of the pack and of each unit: asked once, kept for the next trip.
        let asked = "document.querySelectorAll('.live-which p').length === 3";
        b.until(asked).await;
        for (n, which) in ["pack", "unit-1", "unit-2"].into_iter().enumerate() {
            let says =
                "[...document.querySelectorAll('.live-which label b')].map(e => e.textContent)";
            let names = b.value(says).await;
            assert_eq!(names[n], ["traction", "unit1", "unit2"][n], "{names}");
            b.choose(&format!("#which-{n}"), which).await;
        }
        b.click(".live-which button.button-main").await;
        b.gone(".live-which").await;
        b.until("document.querySelector('#live.state-live') !== null").await;
        b.until("/counted for ([3-9]|[1-9][0-9]) min/.test(document.querySelector('[data-face=sure]').textContent)").await;
        drop(stand_in);
        b.until("document.querySelector('#live.state-lost') !== null").await;
        assert!(b.says("heard").await.contains("no source"));
        let before: f64 = b.says("charge").await.parse().unwrap();
        // It stays on the same address when it comes back.
        let again = Server::stand_in(&[&plays[..], &[&source]].concat());
        b.until_long("document.querySelector('#live.state-live') !== null").await;
        // What is heard is written every five seconds: once more than now, so that all of it until now is.
        let written = || {
            let c = rusqlite::Connection::open(&db).unwrap();
            c.query_row("SELECT count(*) FROM trip_part", [], |r| r.get::<_, i64>(0)).unwrap()
        };
        let before_it = written();
        while written() < before_it + 1 {
            b.is_told(1).await;
        }
        let counted = b.says("sure").await;
        app.kill();
        b.until("document.querySelector('#live.state-lost') !== null && /no word/.test(document.querySelector('[data-face=heard]').textContent)").await;
        assert!(b.says("sub").await.contains("counting on by itself"));
        let listen = format!("127.0.0.1:{port}");
        let app =
            b.keeps(Program::start(&["serve", "--listen", &listen, "--db", db.to_str().unwrap()]));
        b.until_long("document.querySelector('#live.state-live') !== null").await;
        let after: f64 = b.says("charge").await.parse().unwrap();
        assert!((before - 40.0..=before).contains(&after), "{before} to {after}");
        assert_ne!(counted, "", "it counted");
        assert!(b.says("sure").await.contains("since full"));
        // The page left in a pocket was told nothing meanwhile; here it is as it is now, whole.
        b.web.refresh().await.unwrap();
        b.until("document.querySelector('#live.state-live') !== null").await;
        assert_eq!(app.get("/healthz").status, 200);
        drop(again);
        // The console rightly notes that nobody answered for a while.
        b.web.get_log("browser").await.unwrap();
    });
}

/// Without any source, without a pointer, with a row half typed: two figures, Enter, and the way home.
#[test]
fn by_hand_without_any_source_two_figures_and_enter() {
    in_a_browser(async |b| {
        let app = b.keeps(Program::demo());
        b.web.goto(format!("{}/rigs/1/live", app.address)).await.unwrap();
        b.fill("#begin-start", "95").await;
        b.keys(thirtyfour::Key::Enter + "").await;
        b.until("document.querySelector('#live.state-hand') !== null").await;
        b.click("#live-read").await;
        b.fill("#read-volts", "24.4").await;
        // Half typed, and the clock goes on: a second told does not take it away.
        b.is_told(2).await;
        assert_eq!(b.value("document.querySelector('#read-volts').value").await, "24.4");
        b.fill("#read-amps", "900000").await;
        b.keys(thirtyfour::Key::Enter + "").await;
        b.until("document.querySelector('#read-amps-problem') !== null").await;
        assert_eq!(b.value("document.querySelector('#read-volts').value").await, "24.4");
        b.fill("#read-amps", "16").await;
        b.keys(thirtyfour::Key::Enter + "").await;
        b.gone("#panel-read").await;
        b.until("/16 A/.test(document.querySelector('[data-cells]').textContent)").await;
        b.is_as_loaded_fresh("by hand").await;
        b.is_accessible("by hand").await;
        // Back leads out of it and in again; the trip is still there.
        b.click(".tabs a[href*='/board']").await;
        b.until("document.querySelector('[data-lane]') !== null").await;
        b.web.back().await.unwrap();
        b.until("document.querySelector('#live.state-hand') !== null").await;
        b.until("/^[0-9]+$/.test(document.querySelector('[data-face=charge]').textContent)").await;
        b.click("#live-more summary").await;
        b.click("#live-drop").await;
        b.until("document.querySelector('#begin-title') !== null").await;
    });
}

/// A second device, in a profile of its own: told nothing without the code, let in with it, once; shut out again.
#[test]
fn a_second_device_is_let_in_by_a_code_and_shut_out_again() {
    in_a_browser(async |b| {
        let folder = tempfile::tempdir().unwrap();
        let db = folder.path().join("a.db");
        let app = b.keeps(Program::start(&[
            "serve",
            "--listen",
            "127.0.0.1:0",
            "--db",
            db.to_str().unwrap(),
            "--share",
            "--share-on",
            "127.0.0.1:0",
        ]));
        b.web.goto(format!("{}/share", app.address)).await.unwrap();
        let door = b.text("#share-address").await;
        let code = b.text("#share-code").await;
        assert!(door.starts_with("https://127.0.0.1:") && b.text("#share-print").await.len() == 95);
        b.is_accessible("on your phone").await;
        let phone = Browser::open_with(&["--ignore-certificate-errors"]).await;
        phone.size(390, 844, true).await;
        phone.web.goto(format!("{door}/rigs/1/live")).await.unwrap();
        assert!(
            !phone.web.source().await.unwrap().contains("Lake Hour"),
            "not even whose door it is"
        );
        phone.web.goto(&door).await.unwrap();
        assert!(!phone.web.source().await.unwrap().contains("Lake Hour"));
        phone.fill("input[name=code]", "123456789").await;
        phone.click("button").await;
        phone.until("/Wrong code/.test(document.body.textContent)").await;
        phone.fill("input[name=code]", code.as_str()).await;
        phone.click("button").await;
        phone.until("/say yes/.test(document.body.textContent)").await;
        // The page at the machine asks by itself, and what is typed there stays while it is told more.
        b.until("document.querySelector('.share-ask input[name=name]') !== null").await;
        assert_ne!(b.text("#share-code").await, code, "it was used");
        b.is_accessible("a device that wants in").await;
        b.fill(".share-ask input[name=name]", "Deck phone").await;
        phone.web.goto(format!("{door}/rigs")).await.unwrap();
        assert!(!phone.web.source().await.unwrap().contains("Lake Hour"), "not before the yes");
        phone.web.goto(&door).await.unwrap();
        b.choose(".share-ask select[name=role]", "everything").await;
        b.click(".share-ask .button-main").await;
        b.until("/Deck phone/.test(document.querySelector('.devices')?.textContent)").await;
        b.until("document.querySelector('.share-ask') === null").await;
        phone.until("/Lake Hour/.test(document.title)").await;
        assert_eq!(
            phone.value("document.cookie.includes('seat')").await,
            false,
            "no script may read it"
        );
        // The same code lets nobody else in.
        let other = Browser::open_with(&["--ignore-certificate-errors"]).await;
        other.web.goto(&format!("{door}/join/{}", code.replace(' ', ""))).await.unwrap();
        other.click("button").await;
        other.until("/Wrong code/.test(document.body.textContent)").await;
        other.web.clone().quit().await.unwrap();
        // A rig is made on it: writes from the second listener are its own.
        phone.click("form[action='/start/demo'] button").await;
        phone.until("location.pathname.includes('/rigs/1/')").await;
        phone.web.goto(format!("{door}/share")).await.unwrap();
        assert!(
            !phone.web.source().await.unwrap().contains("share-code"),
            "codes are shown at the machine only"
        );
        b.web.goto(format!("{}/share", app.address)).await.unwrap();
        // Another name and less to do: what is left is said on every page that is refused.
        b.click(".devices summary").await;
        b.fill(".devices input[name=name]", "Old deck phone").await;
        b.choose(".devices select[name=role]", "watch").await;
        b.click(".devices .button-main").await;
        b.until("/Old deck phone[^]*Watch the trip/.test(document.querySelector('.devices')?.textContent)").await;
        phone.web.goto(&door).await.unwrap();
        phone.until("location.pathname === '/rigs/1/live'").await;
        phone.web.goto(format!("{door}/rigs/1/board")).await.unwrap();
        phone.until("/may only watch/.test(document.body.textContent)").await;
        b.click("form[action$='/remove'] button").await;
        b.until("/None/.test(document.querySelector('main').textContent)").await;
        phone.web.goto(format!("{door}/rigs/1/board")).await.unwrap();
        assert!(!phone.web.source().await.unwrap().contains("Lake Hour"), "shut out");
        phone.web.clone().quit().await.unwrap();
    });
}
