//! A router over a temporary database, and the pages it answers with.

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use lake_hour_store::Store;
use lake_hour_web::{App, Demo, Example, router};
use scraper::{Html, Selector};
use tower::ServiceExt;

pub(crate) const HOST: &str = "127.0.0.1:8640";

pub(crate) const DEMO_SHELF: &[u8] = include_bytes!("../../../../demo/heron-pond.shelf.json");

pub(crate) struct TestApp {
    pub(crate) router: Router,
    _folder: tempfile::TempDir,
}

/// What came back.
pub(crate) struct Answer {
    pub(crate) status: StatusCode,
    pub(crate) headers: axum::http::HeaderMap,
    pub(crate) body: String,
}

impl TestApp {
    /// With the Heron Pond example as rig 1.
    pub(crate) async fn with_demo() -> Self {
        let app = Self::empty().await;
        assert_eq!(app.post("/start/demo", "").await.status, StatusCode::SEE_OTHER);
        app
    }

    pub(crate) async fn empty() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("test.db")).await.unwrap();
        Self::over(store, folder)
    }

    /// Over a store that is kept in a folder.
    pub(crate) fn over(store: Store, folder: tempfile::TempDir) -> Self {
        let plan = include_bytes!("../../../../demo/heron-pond.plan.json");
        let plan = lake_hour_formats::plan::read(plan).unwrap();
        let shelf = lake_hour_formats::shelf::read(DEMO_SHELF).unwrap();
        let plans = vec![Example { key: "demo", story: "", plan, log: Default::default() }];
        let app = App::new(store, Demo { plans, shelf });
        Self { router: router(app, HOST.parse().unwrap()), _folder: folder }
    }

    pub(crate) async fn send(&self, request: Request<Body>) -> Answer {
        let response = self.router.clone().oneshot(request).await.unwrap();
        let (parts, body) = response.into_parts();
        let bytes = axum::body::to_bytes(body, 16 << 20).await.unwrap();
        let body = String::from_utf8(bytes.to_vec()).unwrap_or_default();
        Answer { status: parts.status, headers: parts.headers, body }
    }

    pub(crate) async fn get(&self, path: &str) -> Answer {
        let request = Request::get(path).header(header::HOST, HOST).body(Body::empty());
        self.send(request.unwrap()).await
    }

    /// As a browser without scripts posts a form.
    pub(crate) async fn post(&self, path: &str, form: &str) -> Answer {
        self.send(post(path, form).body(Body::from(form.to_owned())).unwrap()).await
    }

    /// As the page's script posts it.
    pub(crate) async fn swap(&self, path: &str, form: &str) -> Answer {
        let request = post(path, form).header("HX-Request-Type", "partial");
        self.send(request.body(Body::from(form.to_owned())).unwrap()).await
    }
}

impl TestApp {
    /// A file sent by a form.
    pub(crate) async fn upload(&self, path: &str, name: &str, file: &[u8]) -> Answer {
        self.upload_with(path, name, file, &[]).await
    }

    /// The same with other fields beside the file.
    pub(crate) async fn upload_with(
        &self,
        path: &str,
        name: &str,
        file: &[u8],
        beside: &[(&str, &str)],
    ) -> Answer {
        let part = |name: &str| format!("--b\r\nContent-Disposition: form-data; name=\"{name}\"");
        let fields = beside.iter().map(|(name, said)| format!("{}\r\n\r\n{said}\r\n", part(name)));
        let fields: String = fields.collect();
        let head = format!("{fields}{}; filename=\"{name}\"\r\n\r\n", part("file"));
        let body = [head.as_bytes(), file, b"\r\n--b--\r\n"].concat();
        let mut request = post(path, "").body(Body::from(body)).unwrap();
        let kind = "multipart/form-data; boundary=b".parse().unwrap();
        request.headers_mut().insert(header::CONTENT_TYPE, kind);
        self.send(request).await
    }
}

pub(crate) fn post(path: &str, form: &str) -> axum::http::request::Builder {
    Request::post(path)
        .header(header::HOST, HOST)
        .header(header::ORIGIN, format!("http://{HOST}"))
        .header(header::CONTENT_TYPE, "application/x-www-form-urlencoded")
        .header(header::CONTENT_LENGTH, form.len())
}

impl Answer {
    pub(crate) fn header(&self, name: &str) -> &str {
        self.headers.get(name).map_or("", |v| v.to_str().unwrap())
    }

    /// The words of every element that matches, spaces made one.
    pub(crate) fn texts(&self, selector: &str) -> Vec<String> {
        let html = Html::parse_document(&self.body);
        let selector = Selector::parse(selector).unwrap();
        html.select(&selector)
            .map(|e| {
                let words: Vec<_> = e.text().flat_map(str::split_whitespace).collect();
                words.join(" ")
            })
            .collect()
    }

    pub(crate) fn text(&self, selector: &str) -> String {
        let all = self.texts(selector);
        all.first().cloned().unwrap_or_else(|| panic!("no {selector} in {}", self.body))
    }

    /// What a form holds as it stands: names and values, ticks only where they are on.
    pub(crate) fn filled(&self, form: &str) -> Vec<(String, String)> {
        let html = Html::parse_document(&self.body);
        let fields = Selector::parse("input[name], select[name], textarea[name]").unwrap();
        let chosen = Selector::parse("option[selected]").unwrap();
        let form = html.select(&Selector::parse(form).unwrap()).next().expect("the form is there");
        let value = |e: scraper::ElementRef<'_>| match e.value().name() {
            "select" => e.select(&chosen).next().and_then(|o| o.attr("value")).map(str::to_owned),
            "textarea" => Some(e.text().collect()),
            _ if e.attr("type") == Some("checkbox") && e.attr("checked").is_none() => None,
            _ => Some(e.attr("value").unwrap_or("on").to_owned()),
        };
        let named = |e| Some((scraper::ElementRef::attr(&e, "name")?.to_owned(), value(e)?));
        form.select(&fields).filter_map(named).collect()
    }

    pub(crate) fn attribute(&self, selector: &str, name: &str) -> Option<String> {
        let html = Html::parse_document(&self.body);
        let found = html.select(&Selector::parse(selector).unwrap()).next()?;
        found.attr(name).map(str::to_owned)
    }
}
