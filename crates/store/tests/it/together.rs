//! Many at once, cut off, damaged, badly named: nothing is lost and nothing is stuck.

use crate::{file, full_plan};
use lake_hour_core::house::HouseRules;
use lake_hour_core::shelf::{Battery, Candidate, Chemistry, Rating};
use lake_hour_core::units::{AmpHours, Hours, Kilograms, Money, Volts};
use lake_hour_formats::shelf::table;
use lake_hour_store::{
    Board, Change, Figure, OpenError, Progress, ShelfChange, ShelfQuery, Store, StoreError, Turned,
};
use std::convert::Infallible;
use std::io::Write;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::Ordering;

pub(crate) fn unit(name: &str, price: f64) -> Candidate {
    let rating = Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(20.0) };
    let mut battery = Battery::new(name, Chemistry::Lfp, Volts::of(12.8), rating);
    battery.price = Some(Money::of(price));
    Candidate::of(battery)
}

pub(crate) async fn on_disk() -> (Store, tempfile::TempDir) {
    let folder = tempfile::tempdir().unwrap();
    (Store::open(&file(&folder)).await.unwrap(), folder)
}

fn written(text: &[u8]) -> std::fs::File {
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(text).unwrap();
    file
}

fn rows(count: usize, price: f64) -> Vec<u8> {
    let mut text = table::header();
    for n in 0..count {
        text.extend(table::row(&unit(&format!("Reed {n}"), price)));
    }
    text
}

async fn shelf(store: &Store) -> lake_hour_store::ShelfPage {
    let query = ShelfQuery { page_size: 50, ..ShelfQuery::default() };
    store.shelf(query, Figure { rules: String::new(), of: |_: &Battery| None }).await.unwrap()
}

/// Eight writers change different parts of one rig, 2,000 pairs of them: each change is made to the rig as
/// it is then, and none is lost.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn two_parts_changed_at_once_are_both_changed() {
    let (store, _folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let writers = (0..8_u32).map(|writer| {
        let store = store.clone();
        tokio::spawn(async move {
            for _ in 0..500 {
                // Each counts on in its own name; the other one is read and written along with it.
                let change = move |board: &Board| {
                    let mut rig = board.plan.rig.clone();
                    let own = if writer % 2 == 0 { &mut rig.name } else { &mut rig.motor.name };
                    *own = (own.parse().unwrap_or(0) + 1).to_string();
                    Ok::<_, Infallible>((Change::EditRig(Box::new(rig)), ()))
                };
                store.change_by(rig, change).await.unwrap().unwrap();
            }
        })
    });
    for writer in writers {
        writer.await.unwrap();
    }
    let rig = store.board(rig).await.unwrap().plan.rig;
    assert_eq!((rig.name.as_str(), rig.motor.name.as_str()), ("2000", "2000"), "all are counted");
}

/// A change of the shelf is made to the battery as it is then.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn two_figures_of_a_battery_changed_at_once_are_both_changed() {
    let (store, _folder) = on_disk().await;
    let kept = store.change_shelf(ShelfChange::Add(Box::new(unit("Reed", 0.0)))).await.unwrap();
    let id = lake_hour_store::BatteryId(kept.made.unwrap());
    let writers = (0..6).map(|writer| {
        let store = store.clone();
        tokio::spawn(async move {
            for _ in 0..50 {
                let edit = move |before: &Candidate| {
                    let mut after = before.clone();
                    if writer % 2 == 0 {
                        after.battery.price = before.battery.price.map(|p| p + Money::of(1.0));
                    } else {
                        let kilos = before.battery.mass.map_or(0.0, Kilograms::value);
                        after.battery.mass = Some(Kilograms::of(kilos + 1.0));
                    }
                    Ok::<_, Infallible>((Some(after), ()))
                };
                store.edit_battery(id, edit).await.unwrap().unwrap();
            }
        })
    });
    for writer in writers {
        writer.await.unwrap();
    }
    let battery = store.battery(id).await.unwrap().candidate.battery;
    assert_eq!((battery.price, battery.mass), (Some(Money::of(150.0)), Some(Kilograms::of(150.0))));
}

/// Undo takes back the change its button stood for, or nothing.
#[tokio::test]
async fn undo_takes_back_what_it_said_and_nothing_else() {
    let (store, _folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let rules = |reserve| Change::EditRules(HouseRules { reserve, ..HouseRules::default() });
    store.change(rig, rules(0.3)).await.unwrap();
    let button = store.board(rig).await.unwrap().undo.unwrap();
    store.change(rig, Change::RemovePack(store.board(rig).await.unwrap().packs[0])).await.unwrap();
    let refused = store.undo(rig, Some(button.id)).await.unwrap();
    assert!(matches!(&refused, Turned::Other(other) if other.starts_with("Removed the pack")));
    assert!((store.board(rig).await.unwrap().plan.rules.reserve - 0.3).abs() < 1e-12);
    let now = store.board(rig).await.unwrap().undo.unwrap();
    assert!(matches!(store.undo(rig, Some(now.id)).await.unwrap(), Turned::Done(_)));
    let shelf_button = {
        store.change_shelf(ShelfChange::Add(Box::new(unit("Reed", 1.0)))).await.unwrap();
        shelf(&store).await.undo.unwrap()
    };
    store.change_shelf(ShelfChange::Add(Box::new(unit("Sedge", 1.0)))).await.unwrap();
    let refused = store.undo_shelf(Some(shelf_button.id)).await.unwrap();
    assert_eq!(refused, Turned::Other("Added Sedge".to_owned()));
    assert_eq!(shelf(&store).await.shown, 2);
}

/// Edits come in between the pieces of a file, and the file is one change all the same.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn an_edit_does_not_wait_for_a_whole_file_which_stays_one_change() {
    let (store, _folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let progress = Arc::new(Progress::default());
    let taking = {
        let (store, progress) = (store.clone(), progress.clone());
        tokio::spawn(async move { store.take_file(written(&rows(8000, 300.0)), progress).await })
    };
    while progress.rows.load(Ordering::Relaxed) < 500 {
        tokio::task::yield_now().await;
    }
    let mut between = 0;
    while !taking.is_finished() && between < 5 {
        let rules =
            HouseRules { reserve: 0.2 + f64::from(between) / 100.0, ..HouseRules::default() };
        store.change(rig, Change::EditRules(rules)).await.unwrap();
        between += 1;
    }
    assert_eq!(between, 5, "five edits were done before the file was");
    assert!(!taking.is_finished() || progress.rows.load(Ordering::Relaxed) == 8000);
    let report = taking.await.unwrap().unwrap();
    assert_eq!((report.added, shelf(&store).await.shown), (8000, 8000));
    let undone = store.undo_shelf(None).await.unwrap().done();
    assert_eq!(
        (undone.unwrap().as_str(), shelf(&store).await.shown),
        ("Took a file: 8000 added, 0 changed", 0)
    );
    store.redo_shelf(None).await.unwrap();
    assert_eq!(shelf(&store).await.shown, 8000);
}

/// A file that was cut off by a crash leaves nothing behind but what somebody changed of it meanwhile.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn a_file_cut_off_by_a_crash_is_taken_back_at_the_next_start() {
    let (store, folder) = on_disk().await;
    store.take_file(written(&rows(600, 200.0)), Arc::default()).await.unwrap();
    // What a crash between two pieces leaves: an unfinished change.
    let raw = rusqlite::Connection::open(file(&folder)).unwrap();
    store.close().await.unwrap();
    raw.execute("UPDATE shelf_change SET undone = 2", []).unwrap();
    raw.execute(
        "INSERT INTO shelf_change (id, undone, sentence) VALUES (9, 0, 'Changed Reed 7')",
        [],
    )
    .unwrap();
    raw.execute("INSERT INTO shelf_was SELECT 9, id, body FROM battery WHERE name = 'Reed 7'", [])
        .unwrap();
    drop(raw);
    let store = Store::open(&file(&folder)).await.unwrap();
    let page = shelf(&store).await;
    assert_eq!((page.shown, page.rows[0].candidate.battery.name.as_str()), (1, "Reed 7"));
    assert_eq!(page.undo.unwrap().sentence, "Changed Reed 7");
}

/// An undo that was cut off goes on where it was.
#[tokio::test]
async fn an_undo_cut_off_by_a_crash_is_finished_at_the_next_start() {
    let (store, folder) = on_disk().await;
    store.take_file(written(&rows(700, 200.0)), Arc::default()).await.unwrap();
    store.take_file(written(&rows(700, 250.0)), Arc::default()).await.unwrap();
    store.close().await.unwrap();
    let raw = rusqlite::Connection::open(file(&folder)).unwrap();
    raw.execute("UPDATE shelf_change SET turned_to = -9223372036854775808 WHERE id = 2", [])
        .unwrap();
    drop(raw);
    let store = Store::open(&file(&folder)).await.unwrap();
    let page = shelf(&store).await;
    assert!(page.rows.iter().all(|s| s.candidate.battery.price == Some(Money::of(200.0))));
    assert_eq!(page.redo.unwrap().sentence, "Took a file: 0 added, 700 changed");
    store.redo_shelf(None).await.unwrap();
    assert!(
        shelf(&store)
            .await
            .rows
            .iter()
            .all(|s| s.candidate.battery.price == Some(Money::of(250.0)))
    );
}

/// Whoever gives up before his turn is not served after all.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn a_write_that_nobody_waits_for_any_more_is_withdrawn() {
    let (store, _folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let (hold, held) = std::sync::mpsc::channel::<()>();
    let slow = {
        let store = store.clone();
        tokio::spawn(async move {
            let wait = move |board: &Board| {
                let _ = held.recv();
                let rules = board.plan.rules;
                Ok::<_, Infallible>((Change::EditRules(rules), ()))
            };
            store.change_by(rig, wait).await
        })
    };
    tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    let rules = HouseRules { reserve: 0.44, ..HouseRules::default() };
    let given_up = tokio::time::timeout(
        std::time::Duration::from_millis(50),
        store.change(rig, Change::EditRules(rules)),
    );
    assert!(given_up.await.is_err(), "it had to wait");
    hold.send(()).unwrap();
    slow.await.unwrap().unwrap().unwrap();
    store.change(rig, Change::CopyPack(store.board(rig).await.unwrap().packs[0])).await.unwrap();
    let reserve = store.board(rig).await.unwrap().plan.rules.reserve;
    assert!((reserve - 0.44).abs() > 0.01, "what was given up did not happen: {reserve}");
}

/// After a clean stop the one file holds everything.
#[tokio::test]
async fn the_one_file_is_whole_after_it_was_closed() {
    let (store, folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    store.change_shelf(ShelfChange::Add(Box::new(unit("Reed", 5.0)))).await.unwrap();
    store.close().await.unwrap();
    assert!(matches!(store.board(rig).await, Err(StoreError::Closed)));
    let elsewhere = folder.path().join("copy.db");
    std::fs::copy(file(&folder), &elsewhere).unwrap();
    let copy = Store::open(&elsewhere).await.unwrap();
    assert_eq!(copy.board(rig).await.unwrap().plan, full_plan());
    assert_eq!(shelf(&copy).await.shown, 1);
}

/// By whatever name the file is called, a second program does not get it.
#[cfg(target_os = "linux")]
#[tokio::test]
async fn a_link_is_no_way_past_the_lock() {
    let (store, folder) = on_disk().await;
    let (soft, hard) = (folder.path().join("soft.db"), folder.path().join("hard.db"));
    std::os::unix::fs::symlink(file(&folder), &soft).unwrap();
    std::fs::hard_link(file(&folder), &hard).unwrap();
    for link in [soft, hard] {
        assert!(matches!(Store::open(&link).await, Err(OpenError::InUse(_))), "{}", link.display());
    }
    store.close().await.unwrap();
    Store::open(&file(&folder)).await.unwrap();
}

/// Another program's database is left as it is; a name that SQLite would take for something special is a
/// name.
#[tokio::test]
async fn other_programs_files_are_left_alone_and_odd_names_are_names() {
    let folder = tempfile::tempdir().unwrap();
    let theirs = folder.path().join("theirs.db");
    let raw = rusqlite::Connection::open(&theirs).unwrap();
    raw.execute_batch(
        "CREATE TABLE rig (id INTEGER, mast TEXT); INSERT INTO rig VALUES (1, 'oak');",
    )
    .unwrap();
    drop(raw);
    let before = std::fs::read(&theirs).unwrap();
    let refused = Store::open(&theirs).await.unwrap_err();
    assert!(matches!(refused, OpenError::Foreign(_)), "{refused}");
    assert!(refused.to_string().len() < 300 && !refused.to_string().contains("CREATE"));
    assert_eq!(std::fs::read(&theirs).unwrap(), before);
    for odd in [":memory:", "file:odd.db?mode=memory"] {
        let path = folder.path().join(odd);
        let store = Store::open(&path).await.unwrap();
        let rig = store.import(full_plan()).await.unwrap();
        store.close().await.unwrap();
        let again = Store::open(&path).await.unwrap();
        assert_eq!(again.board(rig).await.unwrap().plan, full_plan(), "{odd} is on the disk");
    }
    let nowhere = Store::open(Path::new("/nowhere/at/all.db")).await.unwrap_err().to_string();
    assert!(nowhere.contains("cannot be opened"), "{nowhere}");
    let torn = folder.path().join("torn.db");
    let mut bytes = std::fs::read(folder.path().join(":memory:")).unwrap();
    for byte in &mut bytes[4096..] {
        *byte = 0x5a;
    }
    std::fs::write(&torn, bytes).unwrap();
    let says = match Store::open(&torn).await {
        Err(error) => error.to_string(),
        Ok(store) => store.rigs().await.unwrap_err().to_string(),
    };
    assert!(says.contains("the file is damaged; put a copy of it in its place"), "{says}");
}

/// What cannot be read any more is set aside with its text; the rest lives, and undo brings it back.
#[tokio::test]
async fn what_is_damaged_is_set_aside_and_the_rest_lives() {
    let (store, folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    for name in ["Reed", "Sedge", "Teal"] {
        store.change_shelf(ShelfChange::Add(Box::new(unit(name, 5.0)))).await.unwrap();
    }
    let raw = rusqlite::Connection::open(file(&folder)).unwrap();
    raw.execute("UPDATE stretch SET body = '{\"minutes\": -1}' WHERE position = 0", []).unwrap();
    raw.execute("UPDATE pack SET body = '[]' WHERE position = 0", []).unwrap();
    raw.execute(
        "UPDATE battery SET body = '{\"battery\":{\"name\":\"Sedge\"}}' WHERE name = 'Sedge'",
        [],
    )
    .unwrap();
    assert!(raw.execute("UPDATE pack SET body = 'no JSON'", []).is_err(), "checked by the table");
    let board = store.board(rig).await.unwrap();
    let (stretches, packs) = (full_plan().day.stretches, full_plan().packs);
    assert_eq!(board.plan.day.stretches[..], stretches[1..]);
    assert_eq!(board.plan.packs[..], packs[1..]);
    let told: Vec<_> = board.unreadable.iter().map(|(what, u)| (*what, u.text.as_str())).collect();
    assert_eq!(told, [("stretch", "{\"minutes\": -1}"), ("pack", "[]")]);
    let (_, stretch) = &board.unreadable[0];
    assert!(stretch.why.contains("missing field"), "{}", stretch.why);
    let part = lake_hour_store::Part::Stretch(stretch.id);
    assert_eq!(store.raw(rig, part).await.unwrap(), stretch.text);
    let page = shelf(&store).await;
    assert_eq!((page.rows.len(), page.unreadable.len()), (2, 1));
    assert_eq!(store.batteries_after(None, 9).await.unwrap().unreadable, ["Sedge"]);
    // It is removed, and comes back as it was.
    let sedge = lake_hour_store::BatteryId(page.unreadable[0].id);
    store.change_shelf(ShelfChange::Remove(sedge)).await.unwrap();
    assert_eq!(shelf(&store).await.unreadable.len(), 0);
    store.undo_shelf(None).await.unwrap();
    assert_eq!(shelf(&store).await.unreadable, page.unreadable);
    let pack = lake_hour_store::PackId(board.unreadable[1].1.id);
    let kept = store.change(rig, Change::RemovePack(pack)).await.unwrap();
    assert_eq!(kept.sentence, "Removed the pack that cannot be read");
    store.undo(rig, None).await.unwrap();
    assert_eq!(store.board(rig).await.unwrap().unreadable, board.unreadable);
    raw.execute("UPDATE rig SET frame = '{}'", []).unwrap();
    assert!(
        matches!(store.board(rig).await, Err(StoreError::Unreadable { text, .. }) if text == "{}")
    );
    assert_eq!(store.rigs().await.unwrap().len(), 1, "the list still shows it");
}

/// What could not be read back is not written.
#[tokio::test]
async fn nothing_is_written_that_could_not_be_read() {
    let (store, _folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let mut wrong = full_plan().rig;
    wrong.motor.count = 9_999;
    let refused = store.change(rig, Change::EditRig(Box::new(wrong))).await;
    assert!(matches!(refused, Err(StoreError::Unreadable { .. })));
    let refused = store.change_shelf(ShelfChange::Add(Box::new(unit("Reed", 1e300)))).await;
    assert!(matches!(refused, Err(StoreError::Unknown(_))));
    let mut pack = full_plan().packs[0].clone();
    pack.series = 9_999;
    let pack = Change::AddPack(Box::new(pack), lake_hour_store::Place::Last);
    assert!(matches!(store.change(rig, pack).await, Err(StoreError::Unreadable { .. })));
    assert_eq!(store.board(rig).await.unwrap().plan, full_plan());
    assert_eq!((shelf(&store).await.shown, store.board(rig).await.unwrap().undo), (0, None));
}

/// The case of letters is folded in every script.
#[tokio::test]
async fn names_that_differ_in_case_only_are_one() {
    let (store, _folder) = on_disk().await;
    for (name, same) in [("Ärger", "äRGER"), ("ΣΊΓΜΑ", "σίγμα"), ("Straße", "STRASSE")]
    {
        store.change_shelf(ShelfChange::Add(Box::new(unit(name, 5.0)))).await.unwrap();
        let taken = store.change_shelf(ShelfChange::Add(Box::new(unit(same, 6.0)))).await;
        assert!(matches!(taken, Err(StoreError::Taken(_))), "{same}");
        assert!(store.battery_named(same.to_owned()).await.unwrap().is_some());
        let mut text = table::header();
        text.extend(table::row(&unit(name, 5.0)));
        text.extend(table::row(&unit(same, 6.0)));
        let report = store.take_file(written(&text), Arc::default()).await.unwrap();
        assert_eq!((report.same, report.faulty), (1, 1), "{:?}", report.faults);
    }
}

/// What the Shelf's changes hold is bounded, and it is told when one has to go.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn large_changes_of_the_shelf_are_forgotten_in_time() {
    let (store, folder) = on_disk().await;
    for price in [100.0, 200.0, 300.0, 400.0] {
        store.take_file(written(&rows(300, price)), Arc::default()).await.unwrap();
    }
    let raw = rusqlite::Connection::open(file(&folder)).unwrap();
    let held: Vec<i64> = raw
        .prepare("SELECT bytes FROM shelf_change ORDER BY id")
        .unwrap()
        .query_map([], |r| r.get(0))
        .unwrap()
        .collect::<Result<_, _>>()
        .unwrap();
    assert!(held[0] < 10_000 && held[1..].iter().all(|b| *b > 30_000), "{held:?}");
    // As if each had been a file of fifty thousand.
    raw.execute("UPDATE shelf_change SET bytes = 20 << 20", []).unwrap();
    let add = |name: &str| ShelfChange::Add(Box::new(unit(name, 5.0)));
    let told = store.change_shelf(add("Teal")).await.unwrap().sentence;
    assert_eq!(
        told,
        "Added Teal. Older changes hold too much to be kept and can no longer be taken back"
    );
    assert_eq!(store.change_shelf(add("Sedge")).await.unwrap().sentence, "Added Sedge");
    let mut back = Vec::new();
    while let Some(sentence) = store.undo_shelf(None).await.unwrap().done() {
        back.push(sentence);
    }
    let file_taken = "Took a file: 0 added, 300 changed";
    assert_eq!(back, ["Added Sedge", "Added Teal", file_taken, file_taken]);
    // What is forgotten goes by itself.
    for _ in 0..200 {
        let left: i64 = raw
            .query_row("SELECT count(*) FROM shelf_was WHERE change_id < 3", [], |r| r.get(0))
            .unwrap();
        if left == 0 {
            return;
        }
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
    panic!("it was never tidied up");
}

/// What can be taken back is bounded in bytes, and its space is given back.
#[tokio::test(flavor = "multi_thread", worker_threads = 4)]
async fn the_memory_of_large_files_is_bounded() {
    let (store, folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let size = || std::fs::metadata(file(&folder)).unwrap().len();
    // A long history of one rig: pictures of many packs.
    for _ in 0..6 {
        let board = store.board(rig).await.unwrap();
        for pack in board.packs {
            store.change(rig, Change::CopyPack(pack)).await.unwrap_or_else(|_| panic!("fits"));
        }
        if store.board(rig).await.unwrap().packs.len() > 60 {
            break;
        }
    }
    for n in 0..120 {
        let rules = HouseRules { reserve: f64::from(n) / 300.0, ..HouseRules::default() };
        store.change(rig, Change::EditRules(rules)).await.unwrap();
    }
    store.close().await.unwrap();
    assert!(size() < 8 << 20, "{} MB", size() >> 20);
    let raw = rusqlite::Connection::open(file(&folder)).unwrap();
    let held: i64 =
        raw.query_row("SELECT sum(length(snapshot)) FROM history", [], |r| r.get(0)).unwrap();
    assert!(held <= 4 << 20, "{held}");
}

/// A shelf of 100,000 batteries, 23 MB of JSON, comes back from its own file.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_json_shelf_of_a_hundred_thousand_comes_back() {
    let (store, _folder) = on_disk().await;
    let mut text = br#"{"format":"lake-hour/shelf","version":1,"batteries":["#.to_vec();
    for n in 0..100_000 {
        let mut battery = unit(&format!("Reed {n}, a long name as shops write them"), 300.0);
        battery.battery.others.insert("ingress", "IP67".into());
        battery.battery.others.insert("terminals", "M8 bolts, brass, left and right".into());
        text.extend(if n == 0 { "\n" } else { ",\n" }.bytes());
        text.extend(lake_hour_formats::shelf::json(&battery).bytes());
    }
    text.extend(b"\n]}\n");
    assert!(text.len() > 20_000_000, "{}", text.len());
    let progress = Arc::new(Progress::default());
    let report = store.look_at_file(written(&text), progress.clone()).await.unwrap();
    assert_eq!((report.added, report.faulty, report.broken), (100_000, 0, None));
    assert_eq!(progress.read.load(Ordering::Relaxed), text.len() as u64);
}
