//! The shelf: pages of it, changes, files in, and all of it taken back.

use lake_hour_core::shelf::{Battery, Candidate, Chemistry, DoubtKind, Rating, SizeClass};
use lake_hour_core::units::{AmpHours, Hours, Kilograms, Money, Volts};
use lake_hour_formats::shelf::table;
use lake_hour_store::{
    BatteryId, Change, Figure, Order, Progress, Report, ShelfChange, ShelfPage, ShelfQuery, Store,
    StoreError,
};
use std::io::Write;
use std::sync::Arc;
use std::sync::atomic::Ordering;

/// A 12 V lead unit with a price for every Ah.
pub(crate) fn lead(name: &str, ah: f64, price: f64) -> Candidate {
    let rating = Rating::Capacity { ah: AmpHours::of(ah), over: Hours::of(20.0) };
    let mut battery = Battery::new(name, Chemistry::Agm, Volts::of(12.0), rating);
    battery.mass = Some(Kilograms::of(ah * 0.29));
    battery.price = Some(Money::of(price));
    Candidate::of(battery)
}

pub(crate) async fn opened() -> (Store, tempfile::TempDir) {
    let folder = tempfile::tempdir().unwrap();
    (Store::open(&folder.path().join("shelf.db")).await.unwrap(), folder)
}

pub(crate) async fn add(store: &Store, candidate: Candidate) -> BatteryId {
    let kept = store.change_shelf(ShelfChange::Add(Box::new(candidate))).await.unwrap();
    BatteryId(kept.made.unwrap())
}

/// Six of them, 50 to 100 Ah at two a piece for an Ah.
pub(crate) async fn filled() -> (Store, tempfile::TempDir, Vec<BatteryId>) {
    let (store, folder) = opened().await;
    let mut ids = Vec::new();
    for n in 0..6 {
        let ah = f64::from(50 + 10 * n);
        let mut unit = lead(&format!("Sedge {n}"), ah, ah * 2.0);
        unit.battery.size_class =
            [None, Some(SizeClass::G24), Some(SizeClass::G31)][n as usize % 3];
        ids.push(add(&store, unit).await);
    }
    (store, folder, ids)
}

/// A figure to sort by.
pub(crate) fn by<F: Fn(&Battery) -> Option<f64>>(of: F) -> Figure<F> {
    Figure { rules: String::new(), of }
}

pub(crate) async fn look(store: &Store, query: ShelfQuery) -> ShelfPage {
    let query = ShelfQuery { page_size: query.page_size.max(1).max(4), ..query };
    store.shelf(query, by(|b| b.price.map(|p| -p.value()))).await.unwrap()
}

pub(crate) fn names(page: &ShelfPage) -> Vec<&str> {
    page.rows.iter().map(|s| s.candidate.battery.name.as_str()).collect()
}

#[tokio::test]
async fn a_page_is_searched_filtered_sorted_and_counted() {
    let (store, _folder, ids) = filled().await;
    let all = look(&store, ShelfQuery::default()).await;
    assert_eq!(names(&all), ["Sedge 0", "Sedge 1", "Sedge 2", "Sedge 3"]);
    assert_eq!((all.matching, all.shown, all.hidden), (6, 6, 0));
    let second = look(&store, ShelfQuery { page: 1, ..Default::default() }).await;
    assert_eq!(names(&second), ["Sedge 4", "Sedge 5"]);
    // A page that is not there is the last one.
    let far = look(&store, ShelfQuery { page: usize::MAX, ..Default::default() }).await;
    assert_eq!((far.page, names(&far).len()), (1, 2));
    let heavy = look(&store, ShelfQuery { order: Order::Capacity, ..Default::default() }).await;
    assert_eq!(names(&heavy)[0], "Sedge 5");
    let own = look(&store, ShelfQuery { order: Order::Reckoned, ..Default::default() }).await;
    assert_eq!(names(&own), ["Sedge 5", "Sedge 4", "Sedge 3", "Sedge 2"]);
    let grouped = look(&store, ShelfQuery { grouped: true, ..Default::default() }).await;
    assert_eq!(names(&grouped), ["Sedge 1", "Sedge 4", "Sedge 2", "Sedge 5"]);
    for (query, count) in [
        (ShelfQuery { words: "SEDGE 5".into(), ..Default::default() }, 1),
        (ShelfQuery { words: "agm 24".into(), ..Default::default() }, 2),
        (ShelfQuery { words: "%".into(), ..Default::default() }, 0),
        (ShelfQuery { words: "' OR 1=1 --".into(), ..Default::default() }, 0),
        (ShelfQuery { chemistry: Some(Chemistry::Lfp), ..Default::default() }, 0),
        (ShelfQuery { system: Some(12), ..Default::default() }, 6),
        (ShelfQuery { system: Some(0), ..Default::default() }, 0),
        (ShelfQuery { size_class: Some(SizeClass::G31), ..Default::default() }, 2),
        (ShelfQuery { heater: true, ..Default::default() }, 0),
        (ShelfQuery { hidden: true, ..Default::default() }, 0),
    ] {
        assert_eq!(look(&store, query.clone()).await.matching, count, "{query:?}");
    }
    assert_eq!(store.battery_named("sedge 2".into()).await.unwrap(), Some(ids[2]));
}

#[tokio::test]
async fn a_price_out_of_proportion_is_found_among_the_doubtful_until_it_is_accepted() {
    let (store, _folder, ids) = filled().await;
    let doubtful = |yes| ShelfQuery { doubtful: Some(yes), ..Default::default() };
    assert_eq!(look(&store, doubtful(true)).await.matching, 0);
    let mut cheap = lead("Sedge 0", 50.0, 20.0);
    let edit = |c: &Candidate| ShelfChange::Edit(ids[0], Box::new(c.clone()));
    store.change_shelf(edit(&cheap)).await.unwrap();
    let page = look(&store, doubtful(true)).await;
    assert_eq!(names(&page), ["Sedge 0"]);
    let doubts = page.rows[0].candidate.doubts(Some(page.rest(Chemistry::Agm)));
    assert_eq!(doubts[0].kind, DoubtKind::PriceForShelf);
    assert_eq!(look(&store, doubtful(false)).await.matching, 5);
    cheap.accepted.insert(DoubtKind::PriceForShelf);
    store.change_shelf(edit(&cheap)).await.unwrap();
    assert_eq!(look(&store, doubtful(true)).await.matching, 0);
    // Without a price nothing is doubtful about it.
    cheap.battery.price = None;
    store.change_shelf(edit(&cheap)).await.unwrap();
    assert_eq!(look(&store, doubtful(false)).await.matching, 6);
}

#[tokio::test]
async fn every_change_is_taken_back_and_made_again() {
    let (store, _folder, ids) = filled().await;
    let mut hidden = lead("Sedge 1", 60.0, 120.0);
    hidden.hidden = true;
    let before = look(&store, ShelfQuery::default()).await;
    let kept = store.change_shelf(ShelfChange::Edit(ids[1], Box::new(hidden))).await.unwrap();
    assert_eq!(kept.sentence, "Hid Sedge 1");
    let copy = store.change_shelf(ShelfChange::Copy(ids[1])).await.unwrap();
    assert_eq!(copy.sentence, "Copied to Sedge 1 (2)");
    store.change_shelf(ShelfChange::Remove(ids[5])).await.unwrap();
    let after = look(&store, ShelfQuery::default()).await;
    assert_eq!((after.shown, after.hidden), (5, 1));
    for said in ["Removed Sedge 5", "Copied to Sedge 1 (2)", "Hid Sedge 1"] {
        assert_eq!(store.undo_shelf(None).await.unwrap().done().as_deref(), Some(said));
    }
    assert_eq!(look(&store, ShelfQuery::default()).await.rows, before.rows);
    for _ in 0..3 {
        store.redo_shelf(None).await.unwrap().done().unwrap();
    }
    let again = look(&store, ShelfQuery::default()).await;
    assert_eq!((again.rows, again.redo), (after.rows, None));
    // What is gone or taken is told.
    let gone = store.change_shelf(ShelfChange::Remove(BatteryId(999))).await;
    assert!(matches!(gone, Err(StoreError::NotFound("battery"))));
    let twice = ShelfChange::Add(Box::new(lead("SEDGE 2", 50.0, 1.0)));
    assert!(matches!(store.change_shelf(twice).await, Err(StoreError::Taken(_))));
}

fn file(text: &[u8]) -> std::fs::File {
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(text).unwrap();
    file
}

pub(crate) async fn take(store: &Store, text: &[u8]) -> Report {
    let looked = store.look_at_file(file(text), Arc::default()).await.unwrap();
    let taken = store.take_file(file(text), Arc::default()).await.unwrap();
    let said = Report { change: None, ..taken.clone() };
    assert_eq!(looked, said, "what was announced is what was done");
    taken
}

#[tokio::test]
async fn a_file_is_one_change_that_says_beforehand_what_it_does() {
    let (store, _folder, _) = filled().await;
    let mut text = table::header();
    for n in 0..6 {
        let ah = f64::from(50 + 10 * n);
        let mut unit = lead(&format!("Sedge {n}"), ah, ah * 2.0);
        unit.battery.size_class =
            [None, Some(SizeClass::G24), Some(SizeClass::G31)][n as usize % 3];
        if n == 3 {
            unit.battery.price = Some(Money::of(1.0));
        }
        text.extend(table::row(&unit));
    }
    text.extend(table::row(&lead("Reed", 70.0, 140.0)));
    text.extend(table::row(&lead("REED", 71.0, 140.0)));
    let before = look(&store, ShelfQuery::default()).await;
    let report = take(&store, &text).await;
    assert_eq!((report.added, report.changed, report.same, report.faulty), (1, 1, 5, 1));
    assert_eq!(report.new, ["Reed"]);
    assert_eq!(
        (report.other[0].name.as_str(), &*report.other[0].differs),
        ("Sedge 3", &["price"][..])
    );
    assert_eq!((report.faults[0].line, report.faults[0].column.as_str()), (9, "name"));
    assert_eq!(report.faults[0].says, "This name stands on line 8 already.");
    let after = look(&store, ShelfQuery::default()).await;
    assert_eq!(after.shown, 7);
    assert_eq!(
        store.undo_shelf(None).await.unwrap().done().unwrap(),
        "Took a file: 1 added, 1 changed"
    );
    assert_eq!(look(&store, ShelfQuery::default()).await.rows, before.rows);
    store.redo_shelf(None).await.unwrap().done();
    assert_eq!(look(&store, ShelfQuery::default()).await.rows, after.rows);
    // Gone through in small steps, each battery comes once.
    let (mut names, mut last) = (Vec::new(), None);
    loop {
        let slice = store.batteries_after(last, 2).await.unwrap();
        names.extend(slice.batteries.into_iter().map(|s| s.candidate.battery.name));
        last = slice.last;
        if last.is_none() {
            break;
        }
    }
    names.sort();
    assert_eq!(names, ["Reed", "Sedge 0", "Sedge 1", "Sedge 2", "Sedge 3", "Sedge 4", "Sedge 5"]);
}

#[tokio::test]
async fn a_broken_or_cancelled_file_leaves_nothing_behind() {
    let (store, _folder) = opened().await;
    let mut text = table::header();
    for n in 0..50 {
        text.extend(table::row(&lead(&format!("Reed {n}"), 70.0, 140.0)));
    }
    let mut open = text.clone();
    open.extend(b"\"never closed,");
    open.extend(b"agm,12\n".repeat(60_000));
    let report = take(&store, &open).await;
    assert!(report.broken.unwrap().starts_with("Line 52: a quote"));
    let called_off = Arc::new(Progress::default());
    called_off.cancelled.store(true, Ordering::Relaxed);
    assert!(store.take_file(file(&text), called_off).await.unwrap().cancelled);
    for bad in [&b"{\"format\":1}"[..], b"", b"a,b\n1,2\n"] {
        assert!(take(&store, bad).await.broken.is_some());
    }
    let page = look(&store, ShelfQuery::default()).await;
    assert_eq!((page.shown, page.undo), (0, None));
    assert_eq!(take(&store, &text).await.added, 50);
    // The same once more changes nothing, and is no change to take back.
    assert_eq!(take(&store, &text).await.same, 50);
    assert_eq!(
        store.undo_shelf(None).await.unwrap().done().unwrap(),
        "Took a file: 50 added, 0 changed"
    );
    assert_eq!(look(&store, ShelfQuery::default()).await.shown, 0);
}

/// The migrations, as each version of the program made its file by them.
const MIGRATIONS: [&str; 5] = [
    include_str!("../../migrations/0001_board.sql"),
    include_str!("../../migrations/0002_shelf.sql"),
    include_str!("../../migrations/0003_nothing_lost.sql"),
    include_str!("../../migrations/0004_found.sql"),
    include_str!("../../migrations/0005_numbers.sql"),
];

/// Documents as they were kept before they bore a version: a pack bare, a battery's figures beside it.
const FRAME: &str = r#"{"currency":"USD","rig":{"name":"Skiff","motor":{"system_voltage_v":24}},
    "day":{"start":"07:00","stretches":[]},"house_rules":{"reserve":0.25}}"#;
const STRETCH: &str = r#"{"name":"Out","minutes":40,"load":{"kind":"current","current_a":22}}"#;
const PACK: &str = r#"{"name":"Two Reed","series":2,"from":"Reed","battery":{"name":"Reed","chemistry":"agm",
    "nominal_voltage_v":12,"ratings":[{"capacity_ah":70,"hours":20}],"price":140}}"#;
const BATTERY: &str = r#"{"battery":{"name":"Reed","chemistry":"agm","nominal_voltage_v":12,
    "ratings":[{"capacity_ah":70,"hours":20}],"price":140},"size_class":"24","terminals":"post"}"#;

#[tokio::test]
async fn what_older_programs_kept_is_read_and_worked_on() {
    for version in [1, 5] {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("old.db");
        let old = rusqlite::Connection::open(&path).unwrap();
        // As the programs of then folded names to compare them.
        let flags = rusqlite::functions::FunctionFlags::SQLITE_DETERMINISTIC;
        old.create_scalar_function("folded", 1, flags, |args| {
            Ok(args.get::<String>(0)?.to_lowercase())
        })
        .unwrap();
        for sql in &MIGRATIONS[..version] {
            old.execute_batch(sql).unwrap();
        }
        old.pragma_update(None, "user_version", version as i64).unwrap();
        if version == 5 {
            // By then files said whose they are.
            old.pragma_update(None, "application_id", 0x4c6b_4872).unwrap();
        }
        old.execute("INSERT INTO rig (id, name, frame) VALUES (1, 'Skiff', ?1)", [FRAME]).unwrap();
        for (list, body) in [("stretch", STRETCH), ("pack", PACK)] {
            let sql = format!("INSERT INTO {list} (rig_id, position, body) VALUES (1, 0, ?1)");
            old.execute(&sql, [body]).unwrap();
        }
        if version == 5 {
            old.execute("INSERT INTO battery (name, body) VALUES ('Reed', ?1)", [BATTERY]).unwrap();
        }
        drop(old);
        let store = Store::open(&path).await.unwrap();
        let rig = store.rigs().await.unwrap()[0].id;
        let board = store.board(rig).await.unwrap();
        assert_eq!(board.unreadable, []);
        assert_eq!(board.plan.day.stretches[0].name, "Out");
        let pack = &board.plan.packs[0];
        assert_eq!((pack.series, pack.battery.price), (2, Some(Money::of(140.0))));
        if version == 1 {
            // Its battery stands on no shelf yet.
            assert_eq!(board.built_of, [None]);
            add(&store, lead("Reed", 70.0, 140.0)).await;
        }
        let shelf = look(&store, ShelfQuery::default()).await;
        assert_eq!(shelf.shown, 1);
        let id = store.board(rig).await.unwrap().built_of[0].expect("found by its name");
        let mut reed = store.battery(id).await.unwrap().candidate;
        if version == 5 {
            assert_eq!(reed.battery.size_class, Some(SizeClass::G24));
            assert_eq!(reed.battery.others["terminals"], "post".into());
        }
        // Kept anew by this program; the pack knows it under another name too.
        store.change(rig, Change::EditPack(board.packs[0], Box::new(pack.clone()))).await.unwrap();
        reed.battery.name = "Sedge".to_owned();
        store.change_shelf(ShelfChange::Edit(id, Box::new(reed.clone()))).await.unwrap();
        assert_eq!(store.board(rig).await.unwrap().built_of, [Some(id)]);
        let labels = store.labels([id].into()).await.unwrap();
        assert_eq!(labels[&id], reed.battery);
        store.change_shelf(ShelfChange::Remove(id)).await.unwrap();
        assert_eq!(store.labels([id].into()).await.unwrap(), std::collections::BTreeMap::new());
        assert_eq!(&store.board(rig).await.unwrap().plan.packs[0], pack, "it lost nothing");
    }
}

#[tokio::test]
async fn what_was_changed_is_there_after_closing_and_can_still_be_taken_back() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("shelf.db");
    let id = {
        let store = Store::open(&path).await.unwrap();
        let id = add(&store, lead("Reed", 70.0, 140.0)).await;
        store.change_shelf(ShelfChange::Remove(id)).await.unwrap();
        store.close().await.unwrap();
        id
    };
    let store = Store::open(&path).await.unwrap();
    assert!(matches!(store.battery(id).await, Err(StoreError::NotFound("battery"))));
    let page = look(&store, ShelfQuery::default()).await;
    assert_eq!(page.undo.unwrap().sentence, "Removed Reed");
    store.undo_shelf(None).await.unwrap().done();
    // It comes back as the one it was.
    assert_eq!(store.battery(id).await.unwrap().candidate, lead("Reed", 70.0, 140.0));
}

#[tokio::test]
async fn only_the_newest_changes_are_remembered() {
    let (store, _folder) = opened().await;
    let id = add(&store, lead("Reed", 70.0, 140.0)).await;
    for n in 0..60 {
        let edit = ShelfChange::Edit(id, Box::new(lead("Reed", 70.0, 100.0 + f64::from(n))));
        store.change_shelf(edit).await.unwrap();
    }
    let mut undone = 0;
    while store.undo_shelf(None).await.unwrap().done().is_some() {
        undone += 1;
    }
    assert_eq!(undone, 50);
    // A new change ends what could be made again.
    store.change_shelf(ShelfChange::Copy(id)).await.unwrap();
    assert_eq!(store.redo_shelf(None).await.unwrap().done(), None);
}

#[tokio::test]
async fn the_example_is_put_on_a_shelf_once_and_never_over_ones_own() {
    let (store, _folder) = opened().await;
    let example = || vec![lead("Reed", 70.0, 140.0), lead("Sedge", 50.0, 100.0)];
    store.stock(example()).await.unwrap();
    store.stock(example()).await.unwrap();
    let page = look(&store, ShelfQuery::default()).await;
    assert_eq!((page.shown, page.undo), (2, None));
    for shelved in page.rows {
        store.change_shelf(ShelfChange::Remove(shelved.id)).await.unwrap();
    }
    store.stock(example()).await.unwrap();
    assert_eq!(look(&store, ShelfQuery::default()).await.shown, 0, "what was taken off stays off");
}

#[tokio::test]
async fn the_shelf_is_read_while_a_file_is_taken() {
    let (store, _folder, _) = filled().await;
    let mut text = table::header();
    for n in 0..3000 {
        text.extend(table::row(&lead(&format!("Reed {n}"), 70.0, 140.0)));
    }
    let progress = Arc::new(Progress::default());
    let taking = tokio::spawn({
        let (store, progress) = (store.clone(), progress.clone());
        async move { store.take_file(file(&text), progress).await.unwrap() }
    });
    let mut seen = Vec::new();
    while !taking.is_finished() {
        let page = look(&store, ShelfQuery::default()).await;
        seen.push(page.shown);
        assert_eq!(page.shown, page.matching);
    }
    assert_eq!(taking.await.unwrap().added, 3000);
    assert!(seen.is_sorted() && seen.iter().all(|n| (6..=3006).contains(n)), "{seen:?}");
    assert_eq!(progress.rows.load(Ordering::Relaxed), 3000);
    // And the numbers beside the page are the new ones.
    assert_eq!(look(&store, ShelfQuery::default()).await.shown, 3006);
}

#[tokio::test]
async fn the_middle_price_follows_the_shelf() {
    let (store, _folder, ids) = filled().await;
    let usual = |page: &ShelfPage| page.rest(Chemistry::Flooded).price_per_wh;
    let before = look(&store, ShelfQuery::default()).await;
    assert!((usual(&before).unwrap().value() - 2.0 / 12.0).abs() < 1e-9);
    assert_eq!(before.rest(Chemistry::Lfp).price_per_wh, None, "too few to compare with");
    for (n, id) in ids.iter().enumerate() {
        let ah = 50.0 + 10.0 * n as f64;
        let dearer = lead(&format!("Sedge {n}"), ah, ah * 4.0);
        store.change_shelf(ShelfChange::Edit(*id, Box::new(dearer))).await.unwrap();
    }
    let after = look(&store, ShelfQuery::default()).await;
    assert!((usual(&after).unwrap().value() - 4.0 / 12.0).abs() < 1e-9);
    store.change_shelf(ShelfChange::Remove(ids[0])).await.unwrap();
    assert_eq!(usual(&look(&store, ShelfQuery::default()).await), None);
}

/// A file written by hand: some columns, another order, a battery that the shelf has.
#[tokio::test]
async fn a_short_file_lays_its_columns_over_what_is_there() {
    let (store, _folder, ids) = filled().await;
    let text = "price,name,chemistry,nominal_voltage_v,capacity_ah\n99,sedge 2,agm,12,70\n";
    let report = take(&store, text.as_bytes()).await;
    assert_eq!((report.changed, report.added), (1, 0));
    let now = store.battery(ids[2]).await.unwrap().candidate;
    assert_eq!(now.battery.price, Some(Money::of(99.0)));
    assert_eq!(now.battery.size_class, Some(SizeClass::G31), "the file has no column for it");
    assert_eq!(now.battery.mass, Some(Kilograms::of(70.0 * 0.29)));
    let bad =
        "name,chemistry,nominal_voltage_v,capacity_ah\nSedge 2,agm,12,0\nSedge 3,agm,twelve,80\n";
    let report = take(&store, bad.as_bytes()).await;
    assert_eq!((report.faulty, report.changed), (2, 0));
    let places: Vec<_> = report.faults.iter().map(|f| (f.line, f.column.as_str())).collect();
    assert_eq!(places, [(2, "capacity_ah"), (3, "nominal_voltage_v")]);
}
