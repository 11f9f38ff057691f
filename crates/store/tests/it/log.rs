//! The log: changed, taken back and made again like all else, and hanging on nothing that Undo takes away.

use crate::full_plan;
use jiff::civil::date;
use lake_hour_core::log::{
    CapacityTest, Charge, Did, Log, Logged, Outing, Owned, Test, TestEnd, Used,
};
use lake_hour_core::pack::{Health, Taught};
use lake_hour_core::plan::Plan;
use lake_hour_core::units::{Amps, Hours};
use lake_hour_store::{Change, LogId, PackId, RigId, Store, StoreError};

fn outing(plan: &Plan, name: &str, left: f64, of: Option<i64>) -> Logged {
    let mut plan = plan.clone();
    plan.packs.truncate(1);
    plan.packs[0].chosen = false;
    Logged::Outing(Box::new(Outing {
        date: date(2026, 9, 22),
        name: name.to_owned(),
        hours: None,
        distance: None,
        start: Charge::Full,
        used: Used::Left(Charge::Meter(left)),
        wind: None,
        reading: None,
        note: String::new(),
        of,
        recorded: None,
        hot: None,
        counts: true,
        practice: false,
        plan,
    }))
}

fn add(entry: Logged) -> Change {
    Change::AddLogged("Logged".to_owned(), Box::new(entry))
}

async fn names(store: &Store, rig: RigId) -> Vec<String> {
    let kept = store.log(rig).await.unwrap();
    assert!(kept.unreadable.is_empty(), "{:?}", kept.unreadable);
    kept.log.outings().map(|(_, o)| o.name.clone()).collect()
}

async fn store() -> (tempfile::TempDir, std::path::PathBuf, Store, RigId) {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("log.db");
    let store = Store::open(&path).await.unwrap();
    let rig = store.import(full_plan()).await.unwrap();
    (folder, path, store, rig)
}

#[tokio::test]
async fn an_entry_is_logged_changed_removed_and_all_of_it_taken_back_and_made_again() {
    let (_folder, path, store, rig) = store().await;
    let plan = full_plan();
    let now = store.now(rig).await.unwrap();
    let made = store.change(rig, add(outing(&plan, "One", 0.5, None))).await.unwrap().made.unwrap();
    assert_ne!(store.now(rig).await.unwrap(), now, "another window learns of it");
    let edit = Change::EditLogged(
        "Changed".to_owned(),
        LogId(made),
        Box::new(outing(&plan, "Two", 0.4, None)),
    );
    store.change(rig, edit.clone()).await.unwrap();
    // The same once more is nothing to take back.
    store.change(rig, edit).await.unwrap();
    store.change(rig, Change::RemoveLogged("Removed".to_owned(), LogId(made))).await.unwrap();
    assert!(names(&store, rig).await.is_empty());
    for wanted in [&["Two"][..], &["One"], &[]] {
        store.undo(rig, None).await.unwrap();
        assert_eq!(names(&store, rig).await, wanted);
    }
    for wanted in [&["One"][..], &["Two"], &[]] {
        store.redo(rig, None).await.unwrap();
        assert_eq!(names(&store, rig).await, wanted);
    }
    store.undo(rig, None).await.unwrap();
    store.close().await.unwrap();
    // After a start it is all there, Undo too.
    let store = Store::open(&path).await.unwrap();
    assert_eq!(names(&store, rig).await, ["Two"]);
    store.undo(rig, None).await.unwrap();
    assert_eq!(names(&store, rig).await, ["One"]);
}

/// Nothing that is done to packs, days and rigs, or taken back of them, touches what was logged.
#[tokio::test]
async fn the_log_outlives_all_that_it_was_driven_by() {
    let (_folder, _path, store, rig) = store().await;
    let plan = full_plan();
    store.change(rig, add(outing(&plan, "One", 0.5, None))).await.unwrap();
    let before = store.log(rig).await.unwrap();
    let board = store.board(rig).await.unwrap();
    for pack in &board.packs {
        store.change(rig, Change::RemovePack(PackId(pack.0))).await.unwrap();
    }
    let mut other = full_plan();
    other.packs.clear();
    other.rig.name = "Another".to_owned();
    store.change(rig, Change::UsePlan(Box::new(other))).await.unwrap();
    assert_eq!(store.log(rig).await.unwrap(), before);
    while store.undo(rig, None).await.unwrap().done().is_some() {}
    assert!(names(&store, rig).await.is_empty(), "the first change was the entry itself");
    while store.redo(rig, None).await.unwrap().done().is_some() {}
    assert_eq!(store.log(rig).await.unwrap(), before);
    // Another rig's entries are none of its own.
    let other = store.import(full_plan()).await.unwrap();
    assert!(names(&store, other).await.is_empty());
    let id = before.log.all[0].0;
    let gone = Change::RemoveLogged(String::new(), LogId(id));
    assert!(matches!(store.change(other, gone).await, Err(StoreError::NotFound(_))));
    assert!(matches!(store.logged(other, LogId(id)).await, Err(StoreError::NotFound(_))));
    assert_eq!(names(&store, rig).await, ["One"]);
}

#[tokio::test]
async fn a_log_from_elsewhere_keeps_naming_its_packs_under_their_new_numbers() {
    let (_folder, _path, store, rig) = store().await;
    let plan = full_plan();
    store.change(rig, add(outing(&plan, "Mine", 0.5, None))).await.unwrap();
    let pack = Logged::Owned(Box::new(Owned::of(plan.packs[0].clone(), date(2025, 4, 4))));
    let test = Logged::Test(Box::new(Test {
        date: date(2026, 9, 23),
        of: Some(40),
        unit: None,
        did: Did::Charged(Charge::Full),
        recorded: None,
        note: String::new(),
    }));
    let theirs =
        Log::of(vec![(40, pack), (41, outing(&plan, "Theirs", 0.3, Some(40))), (42, test)]);
    store.change(rig, Change::AddLog("Took a log".to_owned(), theirs)).await.unwrap();
    let log = store.log(rig).await.unwrap().log;
    let (id, _) = log.owned().next().unwrap();
    assert!(log.outings().any(|(_, o)| o.name == "Theirs" && o.of == Some(id)));
    assert!(log.tests().all(|(_, t)| t.of == Some(id)));
    assert_eq!(log.all.len(), 4);
    // One change, taken back as one.
    store.undo(rig, None).await.unwrap();
    assert_eq!(names(&store, rig).await, ["Mine"]);
    store.redo(rig, None).await.unwrap();
    assert_eq!(store.log(rig).await.unwrap().log, log);
}

#[tokio::test]
async fn an_entry_that_cannot_be_read_is_set_aside_and_hides_nothing_else() {
    let (_folder, path, store, rig) = store().await;
    let plan = full_plan();
    for name in ["One", "Two"] {
        store.change(rig, add(outing(&plan, name, 0.5, None))).await.unwrap();
    }
    store.close().await.unwrap();
    let raw = rusqlite::Connection::open(&path).unwrap();
    raw.execute("UPDATE logged SET body = '{\"kept\":2,\"kind\":\"outing\"}' WHERE id = 1", [])
        .unwrap();
    drop(raw);
    let store = Store::open(&path).await.unwrap();
    let kept = store.log(rig).await.unwrap();
    assert_eq!(kept.unreadable.len(), 1);
    assert_eq!(kept.log.outings().next().unwrap().1.name, "Two");
    // It may be removed, and comes back as it was.
    store.change(rig, Change::RemoveLogged(String::new(), LogId(1))).await.unwrap();
    assert!(store.log(rig).await.unwrap().unreadable.is_empty());
    store.undo(rig, None).await.unwrap();
    assert_eq!(store.log(rig).await.unwrap(), kept);
}

/// What a change of the log remembers is that entry, not the years before it.
#[tokio::test]
async fn undo_of_a_long_log_holds_no_more_than_of_a_short_one() {
    let (_folder, path, store, rig) = store().await;
    let plan = full_plan();
    let many = (1..=200).map(|n| (n, outing(&plan, &format!("Trip {n}"), 0.5, None))).collect();
    store.begin_log(rig, Log::of(many)).await.unwrap();
    assert!(store.board(rig).await.unwrap().undo.is_none(), "a beginning is nothing to take back");
    store.change(rig, add(outing(&plan, "Last", 0.5, None))).await.unwrap();
    store.close().await.unwrap();
    let raw = rusqlite::Connection::open(&path).unwrap();
    let held: i64 =
        raw.query_row("SELECT max(length(snapshot)) FROM history", [], |r| r.get(0)).unwrap();
    let rig: i64 = raw
        .query_row(
            "SELECT length(frame) + (SELECT sum(length(body)) FROM pack) FROM rig",
            [],
            |r| r.get(0),
        )
        .unwrap();
    assert!(held < 4 * rig, "{held} of {rig}");
}

/// What was said of a monitor's columns is there for the next file with the same headings, and for no other.
#[tokio::test]
async fn what_was_said_of_headings_is_remembered() {
    use lake_hour_formats::monitor::Column;
    let (_folder, _path, store, _rig) = store().await;
    let headings = |words: &[&str]| words.iter().map(|w| (*w).to_owned()).collect::<Vec<_>>();
    let (lake, other) = (headings(&["Zeit", "Strom"]), headings(&["Zeit Strom"]));
    assert_eq!(store.said_of(&lake).await.unwrap(), None);
    let said = vec![(Column::Time, 0), (Column::Amps, 1)];
    store.keep_said(&lake, said.clone()).await.unwrap();
    assert_eq!(store.said_of(&lake).await.unwrap(), Some(said));
    assert_eq!(store.said_of(&other).await.unwrap(), None);
    let again = vec![(Column::Time, 0), (Column::Watts, 1)];
    store.keep_said(&lake, again.clone()).await.unwrap();
    // However many monitors there are, the one that was told of last is known.
    for n in 0..210 {
        let one = headings(&[&format!("A{n}"), "B"]);
        store.keep_said(&one, again.clone()).await.unwrap();
        assert_eq!(store.said_of(&one).await.unwrap().as_ref(), Some(&again), "{n}");
    }
}

/// The rig's pack that is built like the one of a log.
async fn health(store: &Store, rig: RigId) -> (Health, Option<Taught>) {
    let pack = store.board(rig).await.unwrap().plan.packs.remove(0);
    (pack.health, pack.taught)
}

/// A capacity test is the Board's capacity the moment it is saved; undone, changed and removed it is what it then is.
#[tokio::test]
async fn a_capacity_test_counts_at_once_and_is_taken_back() {
    let (_folder, _path, store, rig) = store().await;
    let pack = full_plan().packs.remove(0);
    let told = health(&store, rig).await.0;
    let bought = Logged::Owned(Box::new(Owned::of(pack.clone(), date(2026, 9, 20))));
    let owned = store.change(rig, add(bought)).await.unwrap().made;
    let test = |share: f64| {
        let volts = pack.battery.end_voltage() * f64::from(pack.series);
        let test = |hours: f64| CapacityTest {
            current: Amps::of(10.0),
            lasted: Hours::of(hours),
            stop: volts,
            ended: TestEnd::Reached,
            temperature: None,
            energy: None,
        };
        let rated = test(5.0).found(&pack, 1.0).unwrap().rated.value();
        let did = Did::Capacity(test(rated * share));
        let note = String::new();
        let date = date(2026, 9, 24);
        Logged::Test(Box::new(Test { date, of: owned, unit: None, did, recorded: None, note }))
    };
    let id = LogId(store.change(rig, add(test(0.82))).await.unwrap().made.unwrap());
    let share = async || health(&store, rig).await.0.capacity_share / told.capacity_share;
    assert!((share().await - 0.82).abs() < 0.01, "{}", share().await);
    store.undo(rig, None).await.unwrap();
    assert_eq!(health(&store, rig).await.0, told);
    store.redo(rig, None).await.unwrap();
    let edit = Change::EditLogged(String::new(), id, Box::new(test(0.91)));
    store.change(rig, edit).await.unwrap();
    assert!((share().await - 0.91).abs() < 0.01, "{}", share().await);
    store.change(rig, Change::RemoveLogged(String::new(), id)).await.unwrap();
    assert_eq!(health(&store, rig).await.0, told);
    store.undo(rig, None).await.unwrap();
    assert!((share().await - 0.91).abs() < 0.01, "{}", share().await);
}

/// What a trip taught of its units is kept with the packs built alike, until it is undone or that trip is removed; an earlier one
/// counts again then.
#[tokio::test]
async fn what_a_trip_taught_stays_as_long_as_the_trip_does() {
    let (_folder, _path, store, rig) = store().await;
    let plan = full_plan();
    let trip = |day: i8, full: f64| {
        let Logged::Outing(mut outing) = outing(&plan, "Trip", 0.5, None) else { unreachable!() };
        outing.date = date(2026, 9, day);
        let mut covariance = [[0.0; 5]; 5];
        (0..5).for_each(|n| covariance[n][n] = 1e-4);
        let mean = [full, 0.0, 0.0, 0.0, 0.0];
        outing.plan.packs[0].taught = Some(Taught { mean, covariance, on: Some(outing.date) });
        Logged::Outing(outing)
    };
    let full = async || health(&store, rig).await.1.map(|t| t.mean[0]);
    assert_eq!(full().await, None);
    store.change(rig, add(trip(20, 0.01))).await.unwrap();
    assert_eq!(full().await, Some(0.01));
    let later = store.change(rig, add(trip(22, 0.02))).await.unwrap().made.unwrap();
    assert_eq!(full().await, Some(0.02));
    // One of a day before teaches nothing newer.
    store.change(rig, add(trip(18, 0.03))).await.unwrap();
    assert_eq!(full().await, Some(0.02));
    store.change(rig, Change::RemoveLogged(String::new(), LogId(later))).await.unwrap();
    assert_eq!(full().await, Some(0.01));
    store.undo(rig, None).await.unwrap();
    assert_eq!(full().await, Some(0.02));
}
