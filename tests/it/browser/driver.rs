//! One browser, and the few things people do in it.

use crate::program::Program;
use futures_util::FutureExt;
use std::io::{BufRead, BufReader, Write};
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::{Arc, LazyLock, Mutex};
use std::time::Duration;
use thirtyfour::prelude::*;

const DRIVER: &str = "/usr/bin/chromedriver";
const BROWSER: &str = "/usr/bin/chromium";

/// ChromeDriver on a free port. It ends with the tests, however they end: the shell around it sees its input close, asks it to shut down
/// with its browsers, and removes their profile.
struct DriverProcess {
    child: Child,
    port: u16,
    profile: PathBuf,
}

const AROUND: &str = r#"
"$1" --port=0 & driver=$!
read -r port
read -r _
exec 3<>"/dev/tcp/127.0.0.1/$port" && printf 'GET /shutdown HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n' >&3 && cat <&3 >/dev/null
kill "$driver"; wait "$driver"; rm -rf "$2"
"#;

impl DriverProcess {
    fn start() -> Self {
        let profile = tempfile::tempdir().unwrap().keep();
        let mut child = Command::new("bash")
            .args(["-c", AROUND, "driver", DRIVER])
            .arg(&profile)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            // A Ctrl-C ends the tests, and those end it.
            .process_group(0)
            .spawn()
            .unwrap();
        let mut lines = BufReader::new(child.stdout.take().unwrap()).lines();
        let port = lines
            .by_ref()
            .map_while(Result::ok)
            .find_map(|l| {
                l.split("started successfully on port ").nth(1)?.trim_end_matches('.').parse().ok()
            })
            .expect("chromedriver says its port");
        // Its pipe must be kept empty, or it stops when it is full.
        std::thread::spawn(move || lines.for_each(drop));
        writeln!(child.stdin.as_mut().unwrap(), "{port}").unwrap();
        Self { child, port, profile }
    }
}

impl Drop for DriverProcess {
    fn drop(&mut self) {
        drop(self.child.stdin.take());
        let _ = self.child.wait();
    }
}

/// A browser window on the program's pages.
pub(crate) struct Browser {
    pub(crate) web: WebDriver,
    programs: Mutex<Vec<Arc<Program>>>,
    _process: DriverProcess,
}

/// Where all browsers are talked to: they outlive their stories.
static RUNTIME: LazyLock<tokio::runtime::Runtime> = LazyLock::new(|| {
    tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build().unwrap()
});

/// Browsers whose story is over, each with one empty tab and no cookies.
static IDLE: Mutex<Vec<Arc<Browser>>> = Mutex::new(Vec::new());

/// Runs a story in a browser that no other story is in, in a tab of its own. Where there is none it is skipped aloud at home, and fails
/// where `CI` is set.
pub(crate) fn in_a_browser<F>(story: impl FnOnce(Arc<Browser>) -> F)
where
    F: Future<Output = ()>,
{
    if !Path::new(DRIVER).exists() || !Path::new(BROWSER).exists() {
        assert!(std::env::var_os("CI").is_none(), "no Chromium or ChromeDriver: run scripts/test");
        eprintln!("SKIPPED: no Chromium or ChromeDriver; scripts/test installs them");
        return;
    }
    RUNTIME.block_on(async {
        let idle = IDLE.lock().unwrap().pop();
        let browser = match idle {
            Some(browser) => browser,
            None => Arc::new(Browser::open_with(&[]).await),
        };
        let told = async {
            story(browser.clone()).await;
            browser.console_is_clean().await;
        };
        // A story that fails must close its browser all the same: left open, it would never end.
        let told = std::panic::AssertUnwindSafe(told).catch_unwind().await;
        if let Err(panic) = told {
            let _ = browser.web.clone().quit().await;
            std::panic::resume_unwind(panic);
        }
        browser.rests().await;
        IDLE.lock().unwrap().push(browser);
    });
}

impl Browser {
    /// Keeps a program running until the browser has closed: a page may ask for something after its
    /// story's last line, and would rightly complain that nobody answers.
    pub(crate) fn keeps(&self, program: Program) -> Arc<Program> {
        let program = Arc::new(program);
        self.programs.lock().unwrap().push(program.clone());
        program
    }

    /// Nothing of a story is left for the next: a tab of its own has none of the other's settings.
    async fn rests(&self) {
        let tab = self.web.new_tab().await.unwrap();
        for other in self.web.windows().await.unwrap() {
            if other != tab {
                self.web.switch_to_window(other).await.unwrap();
                self.web.close_window().await.unwrap();
            }
        }
        self.web.switch_to_window(tab).await.unwrap();
        self.tool("Network.clearBrowserCookies", serde_json::json!({})).await;
        self.tool("Browser.setDownloadBehavior", serde_json::json!({"behavior": "default"})).await;
        self.size(1280, 800, false).await;
        // What its last requests came to is of no interest any more.
        self.web.get_log("browser").await.unwrap();
        self.programs.lock().unwrap().clear();
    }

    /// A window in a profile of its own, with these switches besides.
    pub(crate) async fn open_with(switches: &[&str]) -> Self {
        let process = DriverProcess::start();
        let mut options = DesiredCapabilities::chrome();
        options.set_binary(BROWSER).unwrap();
        for flag in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
        ] {
            options.add_arg(flag).unwrap();
        }
        for switch in switches {
            options.add_arg(switch).unwrap();
        }
        options.add_arg(&format!("--user-data-dir={}", process.profile.display())).unwrap();
        options.set_browser_log_level(thirtyfour::common::log::LoggingPrefsLogLevel::All).unwrap();
        let web =
            WebDriver::new(format!("http://127.0.0.1:{}", process.port), options).await.unwrap();
        let browser = Self { web, programs: Mutex::default(), _process: process };
        browser.size(1280, 800, false).await;
        browser
    }

    pub(crate) async fn size(&self, width: u32, height: u32, phone: bool) {
        let scale = if phone { 3.0 } else { 1.0 };
        let metrics = serde_json::json!({
            "width": width, "height": height, "deviceScaleFactor": scale, "mobile": phone
        });
        self.tool("Emulation.setDeviceMetricsOverride", metrics).await;
    }

    /// A command to the browser itself, by the DevTools protocol.
    pub(crate) async fn tool(&self, method: &str, parameters: serde_json::Value) {
        self.web.cdp().send_raw(method, parameters).await.unwrap();
    }

    pub(crate) async fn find(&self, css: &str) -> WebElement {
        let wait =
            self.web.query(By::Css(css)).wait(Duration::from_secs(10), Duration::from_millis(30));
        wait.first().await.unwrap_or_else(|e| panic!("{css}: {e}"))
    }

    /// Waits until nothing of this is on the page; works without scripts too.
    pub(crate) async fn gone(&self, css: &str) {
        for _ in 0..300 {
            if self.web.find_all(By::Css(css)).await.is_ok_and(|found| found.is_empty()) {
                return;
            }
            tokio::time::sleep(Duration::from_millis(30)).await;
        }
        panic!("{css} is still there");
    }

    pub(crate) async fn text(&self, css: &str) -> String {
        // Between finding and reading, the answer to a form may have redrawn the page.
        for _ in 0..5 {
            if let Ok(text) = self.find(css).await.text().await {
                return text;
            }
        }
        panic!("{css}: redrawn again and again")
    }

    pub(crate) async fn click(&self, css: &str) {
        // A page that redraws itself may do so between finding and clicking.
        for _ in 0..5 {
            match self.find(css).await.click().await {
                Err(e) if e.to_string().contains("stale element") => {}
                done => return done.unwrap(),
            }
        }
        panic!("{css}: redrawn again and again")
    }

    /// Types into a field in place of what stands there.
    pub(crate) async fn fill(&self, css: &str, text: impl Into<TypingData>) {
        let field = self.find(css).await;
        field.send_keys(Key::Control + "a").await.unwrap();
        field.send_keys(text).await.unwrap();
    }

    /// Chooses an option by its value, as a person does: the page hears of it.
    pub(crate) async fn choose(&self, css: &str, value: &str) {
        let field = self.find(css).await;
        let option = field.find(By::Css(format!("option[value='{value}']"))).await.unwrap();
        option.click().await.unwrap();
    }

    pub(crate) async fn keys(&self, keys: impl Into<TypingData>) {
        self.web.active_element().await.unwrap().send_keys(keys).await.unwrap();
    }

    /// Waits until a script expression is true.
    pub(crate) async fn until(&self, expression: &str) {
        self.within(300, expression).await;
    }

    /// The same for work that is long.
    pub(crate) async fn until_long(&self, expression: &str) {
        self.within(4000, expression).await;
    }

    async fn within(&self, looks: usize, expression: &str) {
        let script = format!("return Boolean({expression})");
        for _ in 0..looks {
            if self.web.execute(&script, vec![]).await.unwrap().json().as_bool() == Some(true) {
                return;
            }
            tokio::time::sleep(Duration::from_millis(30)).await;
        }
        let shown = "(document.getElementById('notice')?.textContent ?? '').replace(/\\s+/g, ' ') + ' | in use: ' + (document.activeElement?.id || document.activeElement?.tagName) + ' | unsaved: ' + JSON.stringify({...sessionStorage})";
        panic!("never came true: {expression}; the page says: {}", self.value(shown).await);
    }

    pub(crate) async fn value(&self, expression: &str) -> serde_json::Value {
        let script = format!("return {expression}");
        self.web.execute(&script, vec![]).await.unwrap().json().clone()
    }

    /// Waits until no request of the page is under way and what its answer changed is drawn.
    pub(crate) async fn is_drawn(&self) {
        let look = "const done = arguments[0]; \
             const look = () => document.readyState !== 'complete' || document.querySelector('.htmx-request, .htmx-swapping') \
               ? setTimeout(look, 15) : requestAnimationFrame(() => requestAnimationFrame(() => done(true))); \
             look();";
        // A page that is left meanwhile answers nothing, and the next one is asked.
        for _ in 0..20 {
            if self.web.execute_async(look, vec![]).await.is_ok() {
                return;
            }
        }
        panic!("the page comes to no rest");
    }

    /// Waits until the trip under way has told the page so many times more how it is.
    pub(crate) async fn is_told(&self, times: u32) {
        let count = format!(
            "const done = arguments[0], told = new EventSource(document.querySelector('#live').dataset.events); \
             let left = {times}; told.onmessage = () => {{ left -= 1; if (left < 0) {{ told.close(); done(true); }} }};"
        );
        self.web.execute_async(&count, vec![]).await.unwrap();
    }

    /// Title, headings, controls and what stands in them are those of the same address loaded fresh.
    pub(crate) async fn is_as_loaded_fresh(&self, where_: &str) {
        self.compared("[document.title, heads(d), [...d.querySelectorAll('main input, main select, main textarea, main button, main a')].filter(e => !e.closest('#notice, noscript')).map(e => [e.tagName, e.id, e.name ?? '', e.type === 'checkbox' ? e.checked : e.value ?? '', e.tagName === 'A' || e.tagName === 'BUTTON' ? e.textContent.trim() : ''].join('|'))]", where_).await;
    }

    /// The title and the headings alone: what is half typed may differ.
    pub(crate) async fn has_the_headings_of_a_fresh_load(&self, where_: &str) {
        self.compared("[d.title, heads(d)]", where_).await;
    }

    /// Compares what a script makes of the page `d` with what it makes of its address loaded fresh.
    async fn compared(&self, what: &str, where_: &str) {
        let run = format!(
            "const done = arguments[0]; \
             const heads = d => [...d.querySelectorAll('h1,h2,h3,h4,legend,th')].map(e => e.textContent.replace(/\\s+/g, ' ').trim()); \
             const shape = d => {}; \
             fetch(location.href).then(r => r.status < 400 ? r.text() : null).then(text => {{ \
               if (text === null) return done(['', '']); \
               const fresh = shape(new DOMParser().parseFromString(text, 'text/html')); \
               const here = shape(document); \
               const flat = s => JSON.stringify(s); \
               done([flat(here), flat(fresh)]); \
             }}).catch(() => done(['', '']));",
            what.replace("[document.title", "[d.title")
        );
        // The page may still be on its way.
        let mut last = serde_json::Value::Null;
        for _ in 0..600 {
            last = self.web.execute_async(&run, vec![]).await.unwrap().json().clone();
            if last[0] == last[1] {
                return;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        assert_eq!(last[0], last[1], "{where_}");
    }

    /// No error in the console: content-policy violations are among them.
    async fn console_is_clean(&self) {
        let log = self.web.get_log("browser").await.unwrap();
        let bad: Vec<_> = log
            .iter()
            .map(|entry| format!("{entry:?}"))
            // A form answered with 422 is what is meant; the browser notes it all the same.
            .filter(|line| line.contains("SEVERE") || line.contains("Severe"))
            .filter(|line| !line.contains("status of 422"))
            .collect();
        assert!(bad.is_empty(), "the console says: {bad:#?}");
    }

    /// The rules of axe-core, the accessibility checker: no violation.
    pub(crate) async fn is_accessible(&self, where_: &str) {
        let axe = concat!(env!("CARGO_MANIFEST_DIR"), "/node_modules/axe-core/axe.min.js");
        let Ok(axe) = std::fs::read_to_string(axe) else {
            assert!(std::env::var_os("CI").is_none(), "no axe-core: run scripts/test");
            return;
        };
        self.web.execute(&axe, vec![]).await.unwrap();
        let run = "const done = arguments[0]; axe.run().then(r => done(r.violations.map(v => \
                   v.id + ': ' + v.nodes.map(n => n.target.join(' ') + ' ' + n.failureSummary).join(' | '))));";
        let found = self.web.execute_async(run, vec![]).await.unwrap().json().clone();
        assert_eq!(found, serde_json::json!([]), "{where_}");
    }
}
