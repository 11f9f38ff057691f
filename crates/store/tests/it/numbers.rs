//! A number is given once, and what has one keeps it.

use crate::together::{on_disk, unit};
use crate::{file, full_plan};
use lake_hour_core::house::HouseRules;
use lake_hour_store::{BatteryId, Change, Direction, Place, ShelfChange, Turned};

/// Undo and redo put a pack back in its place: what refers to it is not lost with it.
#[tokio::test]
async fn what_refers_to_a_pack_outlives_undo() {
    let (store, folder) = on_disk().await;
    let mut plan = full_plan();
    plan.packs.push(plan.packs[0].clone());
    let rig = store.import(plan).await.unwrap();
    let board = store.board(rig).await.unwrap();
    let raw = rusqlite::Connection::open(file(&folder)).unwrap();
    raw.execute_batch(
        "CREATE TABLE outing (pack_id INTEGER NOT NULL REFERENCES pack (id) ON DELETE CASCADE)",
    )
    .unwrap();
    raw.execute("INSERT INTO outing SELECT id FROM pack", []).unwrap();
    let outings =
        || raw.query_row("SELECT count(*) FROM outing", [], |r| r.get::<_, i64>(0)).unwrap();
    let before = outings();
    assert_eq!(before, 2);
    let mut pack = board.plan.packs[0].clone();
    pack.name = "Other".to_owned();
    store.change(rig, Change::EditPack(board.packs[0], Box::new(pack))).await.unwrap();
    store.change(rig, Change::MovePack(board.packs[0], Direction::Later)).await.unwrap();
    store
        .change(rig, Change::AddPack(Box::new(board.plan.packs[0].clone()), Place::Last))
        .await
        .unwrap();
    for _ in 0..3 {
        assert!(store.undo(rig, None).await.unwrap().done().is_some());
    }
    let after = store.board(rig).await.unwrap();
    assert_eq!((after.plan, after.packs), (board.plan, board.packs));
    assert!(store.redo(rig, None).await.unwrap().done().is_some());
    assert_eq!(outings(), before, "none went with its pack");
}

/// A pack that was removed may come back by Undo: until then nobody else is given its number.
#[tokio::test]
async fn what_undo_brings_back_takes_no_place_of_another_rigs() {
    let (store, _folder) = on_disk().await;
    let (rig, other) =
        (store.import(full_plan()).await.unwrap(), store.import(full_plan()).await.unwrap());
    // The newest pack and stretch there are, of the second rig.
    let newest = store.board(other).await.unwrap();
    let (pack, stretch) = (*newest.packs.last().unwrap(), *newest.stretches.last().unwrap());
    store.change(other, Change::RemovePack(pack)).await.unwrap();
    store.change(other, Change::RemoveStretch(stretch)).await.unwrap();
    let mut added = full_plan();
    added.packs[0].name = "Mine".to_owned();
    added.day.stretches[0].name = "Mine too".to_owned();
    let add = Change::AddPack(Box::new(added.packs[0].clone()), Place::Last);
    store.change(rig, add).await.unwrap();
    store
        .change(rig, Change::AddStretch(added.day.stretches[0].clone(), Place::Last))
        .await
        .unwrap();
    let mine = store.board(rig).await.unwrap();
    for _ in 0..2 {
        assert!(store.undo(other, None).await.unwrap().done().is_some());
    }
    assert_eq!(store.board(rig).await.unwrap().plan, mine.plan, "the first rig is as it was");
    assert_eq!(
        store.board(other).await.unwrap().plan,
        newest.plan,
        "and the second as it had been"
    );
    // The same of batteries: a page left open on one that is gone does not meet the next one.
    let add = |name: &str| ShelfChange::Add(Box::new(unit(name, 5.0)));
    let gone = store.change_shelf(add("Reed")).await.unwrap().made.unwrap();
    store.change_shelf(ShelfChange::Remove(BatteryId(gone))).await.unwrap();
    assert!(store.change_shelf(add("Sedge")).await.unwrap().made.unwrap() > gone);
}

/// Each change has a number of its own, also after one was taken back for good: an open window is told of it, and
/// its Undo does not take back another one.
#[tokio::test]
async fn no_two_changes_look_the_same() {
    let (store, _folder) = on_disk().await;
    let rig = store.import(full_plan()).await.unwrap();
    let mut seen = std::collections::HashSet::new();
    let rules = |reserve: f64| Change::EditRules(HouseRules { reserve, ..full_plan().rules });
    for n in 0..4 {
        store.change(rig, rules(0.25 + f64::from(n) / 100.0)).await.unwrap();
        let board = store.board(rig).await.unwrap();
        assert!(seen.insert(board.now.clone()), "{}", board.now);
        let old = board.undo.unwrap().id;
        store.undo(rig, None).await.unwrap();
        store.change(rig, rules(0.35 + f64::from(n) / 100.0)).await.unwrap();
        let board = store.board(rig).await.unwrap();
        assert!(seen.insert(board.now.clone()), "{}", board.now);
        assert!(matches!(store.undo(rig, Some(old)).await.unwrap(), Turned::Other(_)));
    }
    for n in 0..4 {
        let add = ShelfChange::Add(Box::new(unit(&format!("Reed {n}"), 5.0)));
        store.change_shelf(add).await.unwrap();
        assert!(seen.insert(store.now(rig).await.unwrap()));
        store.undo_shelf(None).await.unwrap();
    }
}
