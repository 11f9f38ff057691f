//! Copies: made while others write, checked before one takes its place, and what is refused.

use super::full_plan as plan;
use lake_hour_store::backup::{self, BadCopy, Kind};
use lake_hour_store::{Change, Place, Store};
use rusqlite::Connection;
use std::io::Write;
use std::path::Path;

/// Batteries on the demo's shelf.
const SHELF: usize = 42;

fn shelf() -> Vec<lake_hour_core::shelf::Candidate> {
    let demo = include_bytes!("../../../../demo/heron-pond.shelf.json");
    lake_hour_formats::shelf::read(demo).unwrap()
}

/// Every row of every table, as text.
fn rows(db: &Path) -> Vec<String> {
    let c = Connection::open(db).unwrap();
    let mut tables =
        c.prepare("SELECT name FROM sqlite_schema WHERE type = 'table' ORDER BY name").unwrap();
    let names: Vec<String> =
        tables.query_map([], |r| r.get(0)).unwrap().map(Result::unwrap).collect();
    let mut all = Vec::new();
    for name in names {
        let mut select = c.prepare(&format!("SELECT * FROM \"{name}\" ORDER BY 1")).unwrap();
        let columns = select.column_count();
        let found = select.query_map([], |r| {
            Ok((0..columns)
                .map(|n| format!("{:?}", r.get_ref_unwrap(n)))
                .collect::<Vec<_>>()
                .join("|"))
        });
        all.extend(found.unwrap().map(|row| format!("{name}: {}", row.unwrap())));
    }
    all.sort();
    all
}

/// A database with two rigs, some changes and a small shelf, closed again.
async fn filled(path: &Path) {
    let store = Store::open(path).await.unwrap();
    let rig = store.import(plan()).await.unwrap();
    store.import(plan()).await.unwrap();
    store.stock(shelf()).await.unwrap();
    let pack = plan().packs.remove(0);
    store.change(rig, Change::AddPack(Box::new(pack), Place::Last)).await.unwrap();
    store.close().await.unwrap();
}

#[tokio::test]
async fn a_copy_is_whole_while_others_write_and_brings_back_every_row() {
    let folder = tempfile::tempdir().unwrap();
    let (db, to) = (folder.path().join("a.db"), folder.path().join("copy.db"));
    filled(&db).await;
    let before = rows(&db);
    let store = Store::open(&db).await.unwrap();
    let rig = store.rigs().await.unwrap()[0].id;
    // Copies and changes at the same time: each copy is sound, and holds what was saved before it was begun.
    let writing = {
        let store = store.clone();
        tokio::spawn(async move {
            for _ in 0..40 {
                let pack = plan().packs.remove(0);
                store.change(rig, Change::AddPack(Box::new(pack), Place::Last)).await.unwrap();
            }
        })
    };
    for _ in 0..10 {
        let saved = store.board(rig).await.unwrap().packs.len();
        store.back_up(to.clone()).await.unwrap();
        let aside = backup::set_aside(&to, &db).unwrap();
        backup::look_at(&aside).unwrap();
        let c = Connection::open(&to).unwrap();
        let packs: i64 = c
            .query_row("SELECT count(*) FROM pack WHERE rig_id = ?1", [rig.0], |r| r.get(0))
            .unwrap();
        assert!(packs as usize >= saved, "{packs} {saved}");
        drop(c);
        backup::discard(&aside);
    }
    writing.await.unwrap();
    store.back_up(to.clone()).await.unwrap();
    let copied = rows(&to);
    // All that was changed is seen at once by those who look, the shelf too; what stood there is kept.
    let replaced = store.delete_all("2026-11-28-090000").await.unwrap().unwrap();
    // Pressed twice within a second: the copy of what there was is still that.
    assert_eq!(store.delete_all("2026-11-28-090000").await.unwrap(), None);
    let c = Connection::open(store.kept_copy(&replaced).unwrap()).unwrap();
    let kept: i64 = c.query_row("SELECT count(*) FROM pack", [], |r| r.get(0)).unwrap();
    assert!(kept > 40, "{kept}");
    drop(c);
    assert!(store.rigs().await.unwrap().is_empty());
    assert_eq!(store.batteries().await.unwrap(), 0);
    let aside = backup::set_aside(&to, &db).unwrap();
    let sound = backup::look_at(&aside).unwrap();
    assert_eq!((sound.rigs.len(), sound.batteries), (2, SHELF));
    store.bring_back(aside.clone(), "2026-11-28-090001").await.unwrap();
    backup::discard(&aside);
    assert_eq!(store.board(rig).await.unwrap().packs.len(), 42);
    assert_eq!(store.batteries().await.unwrap(), SHELF);
    assert!(store.kept_copy(&replaced).is_some() && store.kept_copy("../a.db").is_none());
    // Undo is there, and a new row gets a number that none had.
    assert!(store.board(rig).await.unwrap().undo.is_some());
    store.close().await.unwrap();
    let without_numbers = |all: &[String]| -> Vec<String> {
        all.iter().filter(|row| !row.starts_with("sqlite_sequence")).cloned().collect()
    };
    assert_eq!(without_numbers(&rows(&db)), without_numbers(&copied));
    // From the command line, with nothing running: the first state again, row for row.
    let first = folder.path().join("first.db");
    filled(&first).await;
    let aside = backup::set_aside(&first, &db).unwrap();
    backup::look_at(&aside).unwrap();
    let kept = backup::replace(&db, &aside, "2026-11-28-100000").unwrap().unwrap();
    assert_eq!(rows(&kept), copied);
    assert_eq!(rows(&db).len(), before.len());
    // One that is in use is not replaced.
    let store = Store::open(&db).await.unwrap();
    assert!(
        backup::replace(&db, &aside, "2026-11-28-110000")
            .unwrap_err()
            .to_string()
            .contains("in use")
    );
    drop(store);
}

#[tokio::test]
async fn what_is_no_copy_is_refused_in_a_sentence_and_nothing_is_touched() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    filled(&db).await;
    let before = rows(&db);
    let refused = |make: &dyn Fn(&Path)| -> BadCopy {
        let file = folder.path().join("hostile.db");
        let _ = std::fs::remove_file(&file);
        make(&file);
        let bytes = std::fs::read(&file).unwrap_or_default();
        let refused = backup::set_aside(&file, &db).and_then(|aside| {
            let looked = backup::look_at(&aside);
            backup::discard(&aside);
            looked
        });
        // The file that was brought is as it came.
        assert_eq!(std::fs::read(&file).unwrap_or_default(), bytes);
        refused.unwrap_err()
    };
    let with = |sql: &'static str| {
        let db = db.clone();
        move |file: &Path| {
            std::fs::copy(&db, file).unwrap();
            Connection::open(file).unwrap().execute_batch(sql).unwrap();
        }
    };
    let written = |bytes: Vec<u8>| move |file: &Path| std::fs::write(file, &bytes).unwrap();
    let says = |bad: BadCopy| bad.to_string();
    assert!(says(refused(&|_| {})).contains("cannot be read"));
    assert!(says(refused(&written(b"hello".to_vec()))).contains("not a backup"));
    assert!(
        says(refused(&written(b"{\"format\":\"lake-hour/plan\"}".to_vec())))
            .contains("its own page")
    );
    // A zip is never unpacked, whatever it would swell to.
    assert!(
        says(refused(&written([b"PK\x03\x04".as_slice(), &[0; 4096]].concat()))).contains("zip")
    );
    assert!(
        says(refused(&|f| {
            Connection::open(f).unwrap().execute_batch("CREATE TABLE a (b)").unwrap();
        }))
        .contains("not a backup")
    );
    for (sql, what) in [
        ("CREATE TRIGGER t AFTER INSERT ON rig BEGIN DELETE FROM pack; END", "trigger t"),
        ("CREATE VIEW v AS SELECT load_extension('x')", "view v"),
        ("CREATE TABLE extra (a)", "table extra"),
        ("CREATE INDEX i ON rig (name)", "index i"),
    ] {
        assert!(says(refused(&with(sql))).contains(what), "{sql}");
    }
    assert!(says(refused(&with("DROP TABLE found"))).contains("missing"));
    assert!(matches!(refused(&with("PRAGMA user_version = 99")), BadCopy::Newer));
    assert!(matches!(
        refused(&with("PRAGMA foreign_keys = OFF; DELETE FROM rig")),
        BadCopy::Damaged(_)
    ));
    let whole = std::fs::read(&db).unwrap();
    assert!(matches!(refused(&written(whole[..whole.len() / 2].to_vec())), BadCopy::Damaged(_)));
    let mut scratched = whole.clone();
    for byte in &mut scratched[9000..13_000] {
        *byte ^= 0x5a;
    }
    assert!(matches!(refused(&written(scratched)), BadCopy::Damaged(_)));
    let huge = |file: &Path| {
        let mut f = std::fs::File::create(file).unwrap();
        f.write_all(b"SQLite format 3\0").unwrap();
    };
    assert!(matches!(refused(&huge), BadCopy::Damaged(_)));
    let sparse = folder.path().join("sparse.db");
    std::fs::File::create(&sparse).unwrap().set_len(backup::LARGEST + 1).unwrap();
    assert!(matches!(backup::set_aside(&sparse, &db), Err(BadCopy::TooLarge(_))));
    assert_eq!(rows(&db), before);
}

/// Triggers under names that SQLite keeps for itself, with bodies that never end: refused by what they are, whatever they are called.
#[tokio::test]
async fn a_trigger_of_any_name_is_refused() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    filled(&db).await;
    for (name, sql) in [
        (
            "sqlite_quick",
            "CREATE TRIGGER sqlite_quick AFTER UPDATE ON rig BEGIN WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) DELETE FROM pack WHERE id IN (SELECT x FROM n); END",
        ),
        (
            "sqlite_view",
            "CREATE VIEW sqlite_view AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) SELECT * FROM n",
        ),
    ] {
        let copy = folder.path().join(format!("{name}.db"));
        std::fs::copy(&db, &copy).unwrap();
        let c = Connection::open(&copy).unwrap();
        let kind = sql.split(' ').nth(1).unwrap().to_lowercase();
        let table = if kind == "view" { name } else { "rig" };
        c.set_db_config(rusqlite::config::DbConfig::SQLITE_DBCONFIG_DEFENSIVE, false).unwrap();
        c.execute_batch("PRAGMA writable_schema = ON").unwrap();
        c.execute(
            "INSERT INTO sqlite_schema (type, name, tbl_name, rootpage, sql) VALUES (?1, ?2, ?3, 0, ?4)",
            [kind.as_str(), name, table, sql],
        )
        .unwrap();
        drop(c);
        let refused = backup::look_at(&copy);
        // SQLite itself takes a name of its own for damage, in some versions.
        assert!(matches!(refused, Err(BadCopy::Foreign(_) | BadCopy::Damaged(_))), "{refused:?}");
    }
}

/// A clock that ran a year ahead for ten nights: when it is right again, tonight's copy is kept all the same.
#[tokio::test]
async fn copies_of_days_to_come_push_out_no_copy_of_today() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("a.db")).await.unwrap();
    store.import(plan()).await.unwrap();
    for night in 10..20 {
        store.nightly(&format!("2027-12-{night}"), &format!("2027-W{night}")).await.unwrap();
    }
    store.nightly("2026-12-02", "2026-W49").await.unwrap();
    for name in ["daily-2026-12-02.db", "weekly-2026-W49.db"] {
        assert!(store.kept_copy(name).is_some(), "{name}");
    }
    let of = |kind| store.copies().iter().filter(|c| c.kind == kind).count();
    assert_eq!((of(Kind::Daily), of(Kind::Weekly)), (7, 4));
}

#[tokio::test]
async fn nightly_copies_are_as_many_as_are_kept() {
    let folder = tempfile::tempdir().unwrap();
    let db = folder.path().join("a.db");
    filled(&db).await;
    let store = Store::open(&db).await.unwrap();
    for day in 1..=20 {
        let (day, week) = (format!("2026-11-{day:02}"), format!("2026-W{:02}", 44 + day / 7));
        assert!(store.nightly(&day, &week).await.unwrap());
        assert!(!store.nightly(&day, &week).await.unwrap(), "once a day");
    }
    let whole = store.kept_copy("daily-2026-11-20.db").unwrap();
    for _ in 0..8 {
        // All in one second.
        store.bring_back(whole.clone(), "2026-11-28-000000").await.unwrap();
    }
    let copies = store.copies();
    let count = |kind: Kind| copies.iter().filter(|c| c.kind == kind).count();
    assert_eq!((count(Kind::Daily), count(Kind::Weekly), count(Kind::Replaced)), (7, 3, 5));
    assert_eq!(copies.iter().find(|c| c.kind == Kind::Daily).unwrap().name, "daily-2026-11-20.db");
    // Each is a copy that can be brought back.
    let path = store.kept_copy("daily-2026-11-14.db").unwrap();
    let aside = backup::set_aside(&path, &db).unwrap();
    assert_eq!(backup::look_at(&aside).unwrap().rigs.len(), 2);
    assert!(
        std::fs::read_dir(store.copies_folder()).unwrap().count() < 20,
        "nothing else piles up"
    );
}
