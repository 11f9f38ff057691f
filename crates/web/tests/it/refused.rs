//! Who is not let in, and what does not fit.

use crate::app::{HOST, TestApp, post};
use axum::body::Body;
use axum::http::{Method, Request, StatusCode};

#[tokio::test]
async fn every_answer_carries_the_content_policy() {
    let app = TestApp::with_demo().await;
    for path in ["/rigs/1/board", "/healthz", "/nowhere", "/assets/app.css", "/favicon.ico"] {
        let answer = app.get(path).await;
        let policy = answer.header("content-security-policy");
        assert!(policy.contains("script-src 'self'") && !policy.contains("unsafe"), "{path}");
        assert_eq!(answer.header("x-content-type-options"), "nosniff");
        assert_eq!(answer.header("x-frame-options"), "DENY");
    }
    let board = app.get("/rigs/1/board").await.body;
    assert!(
        !board.contains(" style=") && !board.contains("<script>") && !board.contains(" onclick")
    );
    assert_eq!(app.get("/healthz").await.body, "ok");
}

#[tokio::test]
async fn a_name_that_is_not_ours_is_refused() {
    let app = TestApp::with_demo().await;
    for (host, status) in [
        (HOST, StatusCode::OK),
        ("localhost:8640", StatusCode::OK),
        ("[::1]:8640", StatusCode::OK),
        ("lake.example:8640", StatusCode::MISDIRECTED_REQUEST),
        ("127.0.0.1:9999", StatusCode::MISDIRECTED_REQUEST),
        ("127.0.0.1", StatusCode::MISDIRECTED_REQUEST),
        ("127.0.0.1.lake.example:8640", StatusCode::MISDIRECTED_REQUEST),
        ("", StatusCode::MISDIRECTED_REQUEST),
    ] {
        let request = Request::get("/rigs/1/board").header("host", host).body(Body::empty());
        assert_eq!(app.send(request.unwrap()).await.status, status, "{host}");
    }
}

#[tokio::test]
async fn another_site_cannot_write_here() {
    let app = TestApp::with_demo().await;
    let attempt = |name: &str, value: &str| {
        Request::post("/rigs/1/packs/1/remove")
            .header("host", HOST)
            .header(name, value)
            .body(Body::empty())
            .unwrap()
    };
    for (name, value) in [
        ("origin", "http://lake.example"),
        ("origin", "http://127.0.0.1:9999"),
        ("origin", "https://127.0.0.1:8640"),
        ("origin", "null"),
        ("sec-fetch-site", "cross-site"),
        ("sec-fetch-site", "same-site"),
    ] {
        let answer = app.send(attempt(name, value)).await;
        assert_eq!(answer.status, StatusCode::FORBIDDEN, "{name}: {value}");
        assert!(answer.text("#notice").contains("Nothing was changed"));
    }
    assert_eq!(app.get("/rigs/1/board").await.text(".lane h3"), "Tern 24-120");
    let own = app.send(attempt("origin", &format!("http://{HOST}"))).await;
    assert_eq!(own.status, StatusCode::SEE_OTHER);
}

#[tokio::test]
async fn what_is_too_large_or_no_form_is_refused_in_words() {
    let app = TestApp::with_demo().await;
    let huge = Body::from(vec![b'a'; 100 << 20]);
    let answer = app.send(post("/rigs/1/stretches", "").body(huge).unwrap()).await;
    assert_eq!(answer.status, StatusCode::PAYLOAD_TOO_LARGE);
    assert!(answer.text("#notice").contains("at most 256 kB"));
    let json = Request::post("/rigs/1/stretches")
        .header("host", HOST)
        .header("content-type", "application/json")
        .body(Body::from("{}"));
    assert_eq!(app.send(json.unwrap()).await.status, StatusCode::BAD_REQUEST);
}

#[tokio::test]
async fn what_is_not_there_is_said_and_a_swap_leaves_the_page_standing() {
    let app = TestApp::with_demo().await;
    for path in ["/nowhere", "/rigs/99/board", "/rigs/x/board", "/assets/../Cargo.toml"] {
        let answer = app.get(path).await;
        assert!(answer.status.is_client_error(), "{path}: {}", answer.status);
    }
    let gone = app.swap("/rigs/1/stretches/999/copy", "").await;
    assert_eq!(gone.status, StatusCode::NOT_FOUND);
    assert_eq!(gone.header("HX-Retarget"), "#notice");
    assert!(
        gone.body.starts_with("<div id=\"notice\"") && gone.body.contains("may have been removed")
    );
    let request = Request::builder().method(Method::DELETE).uri("/rigs/1/packs/1");
    let request = request.header("host", HOST).body(Body::empty()).unwrap();
    assert!(app.send(request).await.status.is_client_error());
}

#[tokio::test]
async fn the_theme_is_remembered_and_never_sends_anyone_elsewhere() {
    let app = TestApp::with_demo().await;
    let chosen = Request::post("/theme/night")
        .header("host", HOST)
        .header("referer", "http://lake.example//evil/path");
    let answer = app.send(chosen.body(Body::empty()).unwrap()).await;
    assert_eq!(answer.header("location"), "/");
    assert!(answer.header("set-cookie").starts_with("theme=night; Path=/"));
    let page =
        Request::get("/rigs/1/board").header("host", HOST).header("cookie", "a=b; theme=sun");
    let page = app.send(page.body(Body::empty()).unwrap()).await;
    assert_eq!(page.attribute("html", "data-theme").as_deref(), Some("sun"));
}

/// Every page is well-formed HTML by the parser of the standard (WHATWG, by html5ever), and an id, a term and
/// what describes it stand once.
#[tokio::test]
async fn every_page_is_well_formed() {
    assert!(!scraper::Html::parse_document("<!doctype html><p></b>").errors.is_empty());
    let app = TestApp::with_demo().await;
    assert!(app.get("/rigs/1/build").await.text("#choose-it").starts_with("Build"));
    app.post("/rigs/1/build/choose", "pack=3").await;
    app.post("/rigs/1/build/steps/recycle/save", "reason=shop+closed").await;
    for address in [
        "/rigs",
        "/plan",
        "/data",
        "/model",
        "/glossary",
        "/rigs/1/build",
        "/rigs/1/build/sheets",
        "/rigs/1/build/card.html",
        "/nowhere",
        "/rigs/1/rig",
        "/rigs/1/day",
        "/rigs/1/day?open=stretch-1",
        "/rigs/1/board",
        "/rigs/1/board?open=day",
        "/rigs/1/board?open=rules",
        "/rigs/1/board?open=new-pack",
        "/rigs/1/board?open=pack-2",
        "/rigs/1/board?open=working-1",
        "/rigs/1/shelf?open=battery-2",
        "/rigs/1/shelf?open=edit-2",
        "/rigs/1/packs?fits=yes",
        "/rigs/1/shelf?open=files",
        "/rigs/1/shelf?open=kinds",
        "/rigs/1/shelf?open=paste",
    ] {
        let page = app.get(address).await;
        let html = scraper::Html::parse_document(&page.body);
        assert!(html.errors.is_empty(), "{address}: {:?}", html.errors);
        let mut ids = std::collections::HashSet::new();
        let any = scraper::Selector::parse("[id]").unwrap();
        for element in html.select(&any) {
            let id = element.value().id().unwrap();
            assert!(ids.insert(id.to_owned()), "{address}: two elements are called {id}");
        }
        for list in html.select(&scraper::Selector::parse("dl").unwrap()) {
            let mut terms = std::collections::HashSet::new();
            for term in list.select(&scraper::Selector::parse("dt").unwrap()) {
                let words: String = term.text().collect();
                assert!(terms.insert(words.clone()), "{address}: {words} is told twice");
            }
        }
    }
}
