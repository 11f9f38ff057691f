//! Your data on its page: saved, looked at, brought back, deleted with a last chance.

use crate::app::{DEMO_SHELF, TestApp};
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use lake_hour_store::Store;

async fn bytes(app: &TestApp, path: &str) -> Vec<u8> {
    use tower::ServiceExt;
    let request = Request::get(path).header(header::HOST, crate::app::HOST).body(Body::empty());
    let response = app.router.clone().oneshot(request.unwrap()).await.unwrap();
    assert_eq!(response.status(), StatusCode::OK, "{path}");
    axum::body::to_bytes(response.into_body(), 64 << 20).await.unwrap().to_vec()
}

fn rigs(page: &crate::app::Answer) -> Vec<String> {
    page.texts(".rigs > li > a")
}

#[tokio::test]
async fn a_backup_is_looked_at_first_and_then_takes_the_place_of_all() {
    let app = TestApp::with_demo().await;
    app.post("/rigs/1/build/choose", "pack=3").await;
    let copy = bytes(&app, "/data/lake-hour-backup.db").await;
    assert!(copy.starts_with(b"SQLite format 3\0"));
    app.post("/rigs/1/duplicate", "").await;
    let page = app.upload("/data/look", "mine.db", &copy).await;
    assert_eq!(page.status, StatusCode::OK);
    assert_eq!(page.text("#brought-title"), "mine.db is sound");
    assert_eq!(rigs(&app.get("/rigs").await).len(), 2, "nothing is changed by looking");
    let token = page.attribute("input[name=token]", "value").unwrap();
    assert_eq!(app.post("/data/restore", "token=999").await.status, StatusCode::NOT_FOUND);
    assert_eq!(
        app.post("/data/restore", &format!("token={token}")).await.status,
        StatusCode::SEE_OTHER
    );
    assert_eq!(rigs(&app.get("/rigs").await), ["Heron Pond sampling skiff"]);
    assert!(app.get("/rigs/1/build").await.text("h1").starts_with("Two Marl Point"));
    // A second press finds nothing to do twice.
    assert_eq!(
        app.post("/data/restore", &format!("token={token}")).await.status,
        StatusCode::NOT_FOUND
    );
    // What stood there is kept, and comes back.
    let data = app.get("/data").await;
    let name = data.attribute("input[name=name]", "value").unwrap();
    app.post("/data/kept", &format!("name={name}")).await;
    assert_eq!(rigs(&app.get("/rigs").await).len(), 2);
    assert_eq!(app.post("/data/kept", "name=..%2Ftest.db").await.status, StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn what_is_no_backup_is_refused_with_a_sentence() {
    let app = TestApp::with_demo().await;
    let whole = bytes(&app, "/data/lake-hour-backup.db").await;
    for (file, says) in [
        (&b"hello"[..], "not a backup"),
        (b"PK\x03\x04zzzz", "zip"),
        (DEMO_SHELF, "its own page"),
        (&whole[..5000], "damaged or cut off"),
        (b"", "Choose a backup first"),
    ] {
        let page = app.upload("/data/look", "it.db", file).await;
        assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(page.text(".notice-bad").contains(says), "{says}: {}", page.text(".notice-bad"));
    }
    assert_eq!(rigs(&app.get("/rigs").await).len(), 1);
}

#[tokio::test]
async fn all_is_saved_as_open_files_that_open_again() {
    let app = TestApp::with_demo().await;
    app.post("/start/own-cart", "").await;
    let zip = bytes(&app, "/data/lake-hour-files.zip").await;
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(zip)).unwrap();
    let mut read = |name: &str| {
        let mut bytes = Vec::new();
        std::io::Read::read_to_end(&mut zip.by_name(name).unwrap(), &mut bytes).unwrap();
        bytes
    };
    let plan =
        lake_hour_formats::plan::read(&read("01-heron-pond-sampling-skiff.plan.json")).unwrap();
    assert_eq!(plan.packs.len(), 11);
    assert!(lake_hour_formats::plan::read(&read("02-my-cart.plan.json")).is_ok());
    let shelf = lake_hour_formats::shelf::read(&read("shelf.json")).unwrap();
    assert_eq!(shelf.len(), 42);
    assert_eq!(read("shelf.csv").split(|b| *b == b'\n').count(), 44);
    assert!(
        String::from_utf8(read("01-heron-pond-sampling-skiff.result.csv"))
            .unwrap()
            .contains("Tern 24-120")
    );
    assert!(String::from_utf8(read("READ-ME.txt")).unwrap().contains("open files"));
}

#[tokio::test]
async fn deleting_all_asks_for_a_word_and_keeps_a_last_copy() {
    let app = TestApp::with_demo().await;
    let page = app.post("/data/delete", "word=yes").await;
    assert_eq!(page.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(page.text("#delete-problem").contains("Nothing was deleted"));
    // What was typed is still there, to be mended where it stands.
    let word = page.attribute("#delete-word[autofocus]", "value");
    assert_eq!(word.as_deref(), Some("yes"));
    assert_eq!(app.post("/data/delete", "word=Delete").await.status, StatusCode::SEE_OTHER);
    let data = app.get("/data").await;
    assert!(data.text(".lead").starts_with("0 rigs and 0 batteries"));
    // The start page again, as on the first day; and all of it comes back in one tap.
    assert_eq!(app.get("/").await.status, StatusCode::OK);
    let name = data.attribute("input[name=name]", "value").unwrap();
    app.post("/data/kept", &format!("name={name}")).await;
    assert!(app.get("/data").await.text(".lead").starts_with("1 rig and 42 batteries"));
}

/// A damaged file: every page says so, errors too; a kept copy brings all of it back without a restart.
#[tokio::test]
async fn a_damaged_file_is_told_on_every_page_until_a_copy_takes_its_place() {
    use std::io::{Seek, SeekFrom, Write};
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    let plan =
        lake_hour_formats::plan::read(include_bytes!("../../../../demo/heron-pond.plan.json"));
    let store = Store::open(&db).await.unwrap();
    store.import(plan.unwrap()).await.unwrap();
    store.nightly("2026-12-01", "2026-W49").await.unwrap();
    store.close().await.unwrap();
    let mut file = std::fs::File::options().write(true).open(&db).unwrap();
    file.seek(SeekFrom::Start(100 + 3 * 4096)).unwrap();
    file.write_all(&[0x5a; 30 * 4096]).unwrap();
    let store = Store::open(&db).await.unwrap();
    let app = TestApp::over(store, folder);
    for page in ["/rigs/1/board", "/rigs/1/shelf", "/rigs", "/data", "/rigs/9/board", "/nothing"] {
        assert_eq!(app.get(page).await.texts(".bar-trouble").len(), 1, "{page}");
    }
    let refused = app.post("/rigs/1/stretches/1/later", "").await;
    assert_eq!(refused.status, StatusCode::INSUFFICIENT_STORAGE);
    let page = app.get("/data").await;
    assert!(page.text("#way-back").contains("a.db") && !page.texts("#try-again").is_empty());
    assert_eq!(app.post("/data/again", "").await.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(app.get("/rigs/1/board").await.status, StatusCode::OK, "it can be looked at still");
    let back = app.post("/data/kept", "name=daily-2026-12-01.db").await;
    assert_eq!(back.status, StatusCode::SEE_OTHER, "{}", back.body);
    assert!(app.get("/rigs/1/board").await.texts(".bar-trouble").is_empty());
    assert_eq!(app.post("/rigs/1/stretches/1/later", "").await.status, StatusCode::SEE_OTHER);
}
