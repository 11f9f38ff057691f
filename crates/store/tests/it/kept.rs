//! What the shelf is searched and sorted by agrees with the batteries it is made from.

use crate::shelf::{add, by, filled, lead, look, names, take};
use lake_hour_core::life::Keeping;
use lake_hour_core::money::per_usable_kwh;
use lake_hour_core::shelf::{Battery, Candidate, Chemistry, CyclePoint, Rating};
use lake_hour_core::units::{Amps, Hours, Money};
use lake_hour_formats::shelf::table;
use lake_hour_store::{Figure, Order, ShelfChange, ShelfQuery, Store, StoreError};
use rusqlite::functions::FunctionFlags;
use std::sync::{Arc, Mutex};

/// A shelf of the third version, in which a document stood among what it is looked up by.
#[tokio::test]
async fn an_older_shelf_is_found_again() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("old.db");
    let old = rusqlite::Connection::open(&path).unwrap();
    old.create_scalar_function("folded", 1, FunctionFlags::SQLITE_UTF8, |c| {
        Ok(c.get::<String>(0)?.to_lowercase())
    })
    .unwrap();
    for step in [
        include_str!("../../migrations/0001_board.sql"),
        include_str!("../../migrations/0002_shelf.sql"),
        include_str!("../../migrations/0003_nothing_lost.sql"),
    ] {
        old.execute_batch(step).unwrap();
    }
    let texts = [lead("Reed", 70.0, 140.0), lead("Ärger", 80.0, 90.0)]
        .map(|c| lake_hour_formats::shelf::write_candidate(&c));
    for text in texts.iter().map(String::as_str).chain(["{\"battery\":{\"name\":\"Teal\"}}"]) {
        old.execute(
            "INSERT INTO battery (name, chemistry, lead, volts, heater, monitor, hidden, doubts, price_ok,
                weight_ok, body) VALUES ('', 'agm', 1, 12, 0, 0, 0, 0, 0, 0, ?1)",
            [text],
        )
        .unwrap();
    }
    old.execute_batch(
        r#"INSERT INTO rig (id, name, frame) VALUES (1, 'Skiff', '{}');
        INSERT INTO pack (id, rig_id, position, body) VALUES (3, 1, 0, '{}');
        INSERT INTO history (rig_id, sentence, snapshot)
            VALUES (1, 'Removed', '{"stretches": [{"id": 4}], "packs": [{"id": 9}, {"id": 3}]}');
        INSERT INTO shelf_change (id, sentence) VALUES (7, 'Changed Reed');
        INSERT INTO shelf_was (change_id, battery_id, body) SELECT 7, id, body FROM battery WHERE id = 1;
        PRAGMA application_id = 1282099314; PRAGMA user_version = 3"#,
    )
    .unwrap();
    drop(old);
    let store = Store::open(&path).await.unwrap();
    // What only the history knows keeps its number.
    let raw = rusqlite::Connection::open(&path).unwrap();
    let given = |table: &str| -> i64 {
        raw.query_row("SELECT seq FROM sqlite_sequence WHERE name = ?1", [table], |r| r.get(0))
            .unwrap()
    };
    assert_eq!([given("stretch"), given("pack"), given("battery")], [4, 9, 3]);
    let by_price = ShelfQuery { order: Order::Price, ..ShelfQuery::default() };
    let page = look(&store, by_price).await;
    assert_eq!((names(&page), page.matching), (vec!["Ärger", "Reed"], 3));
    assert_eq!(page.unreadable.len(), 1, "it keeps its place");
    assert_eq!(page.undo.as_ref().map(|u| (u.id, u.sentence.as_str())), Some((7, "Changed Reed")));
    assert!(store.undo_shelf(Some(7)).await.unwrap().done().is_some());
    let named = ShelfQuery { words: "ÄRG lead".to_owned(), ..ShelfQuery::default() };
    assert_eq!(names(&look(&store, named).await), ["Ärger"]);
    let taken = store.change_shelf(ShelfChange::Add(Box::new(lead("ärger", 1.0, 1.0)))).await;
    assert!(matches!(taken, Err(StoreError::Taken(_))), "{taken:?}");
}

/// Whatever is done, what is shown from memory is what a program that has just been started shows.
#[tokio::test]
async fn what_is_kept_in_memory_is_what_the_file_holds() {
    let (store, folder, mut ids) = filled().await;
    let queries = || {
        let of = |words: &str, order, grouped| ShelfQuery {
            words: words.to_owned(),
            order,
            grouped,
            page_size: 500,
            ..ShelfQuery::default()
        };
        [
            of("", Order::Name, false),
            of("e", Order::Reckoned, false),
            of("", Order::PerWh, true),
            ShelfQuery { hidden: true, ..of("", Order::Newest, false) },
            ShelfQuery { doubtful: Some(true), ..of("lead", Order::Weight, false) },
        ]
    };
    // Any sequence will do; this one is the same at every run.
    let mut dice = 88_172_645_463_325_252_u64;
    let mut roll = |sides: u64| {
        dice ^= dice << 13;
        dice ^= dice >> 7;
        dice ^= dice << 17;
        dice % sides
    };
    for step in 0..150 {
        let id = ids[roll(ids.len() as u64) as usize];
        match roll(9) {
            0 | 1 => {
                let price = roll(900) as f64;
                let unit = lead(&format!("Reed {step}"), 50.0 + roll(90) as f64, price);
                ids.push(add(&store, unit).await);
            }
            2 => drop(store.change_shelf(ShelfChange::Remove(id)).await),
            3 => drop(store.change_shelf(ShelfChange::Copy(id)).await),
            4 => drop(store.undo_shelf(None).await.unwrap()),
            5 => drop(store.redo_shelf(None).await.unwrap()),
            6 => {
                let many = [9, 80][roll(2) as usize];
                let mut text = table::header();
                for n in 0..many {
                    text.extend(table::row(&lead(&format!("Teal {n}"), 70.0, roll(500) as f64)));
                }
                take(&store, &text).await;
            }
            _ => {
                let (name, hide, price) = (format!("Sedge {}", roll(40)), roll(4) == 0, roll(900));
                let edit = move |c: &Candidate| {
                    let mut c = c.clone();
                    c.battery.price = (price > 100).then_some(Money::of(price as f64));
                    c.battery.name = name;
                    c.hidden = hide;
                    Ok::<_, ()>((Some(c), ()))
                };
                drop(store.edit_battery(id, edit).await);
            }
        }
        if step % 5 != 4 {
            continue;
        }
        let mut kept = Vec::new();
        for query in queries() {
            kept.push(store.shelf(query, by(|b| b.price.map(Money::value))).await.unwrap());
        }
        let copy = folder.path().join(format!("{step}.db"));
        let raw = rusqlite::Connection::open(folder.path().join("shelf.db")).unwrap();
        raw.execute("VACUUM INTO ?1", [copy.to_str().unwrap()]).unwrap();
        let fresh = Store::open(&copy).await.unwrap();
        for (query, kept) in queries().into_iter().zip(kept) {
            assert_eq!(
                fresh.shelf(query, by(|b| b.price.map(Money::value))).await.unwrap(),
                kept,
                "step {step}"
            );
        }
        fresh.close().await.unwrap();
    }
}

/// The order by a figure is that of whole batteries, though only a part of each is kept in memory.
#[tokio::test]
async fn the_figure_to_sort_by_is_that_of_the_whole_battery() {
    let (store, _folder, _) = filled().await;
    let mut odd = lead("Odd", 70.0, 300.0);
    odd.battery.chemistry = Chemistry::Lfp;
    odd.battery.calendar_years = Some(4.0);
    odd.battery.cycles =
        vec![CyclePoint { depth: 0.5, cycles: 900.0 }, CyclePoint { depth: 0.9, cycles: 300.0 }];
    odd.battery.ratings.push(Rating::Runtime { at: Amps::of(25.0), lasted: Hours::of(9.0) });
    add(&store, odd).await;
    let mut none = lead("None", 70.0, 300.0);
    none.battery.ratings.clear();
    none.battery.cranking = Some(Amps::of(500.0));
    add(&store, none).await;
    let of = |b: &Battery| per_usable_kwh(b, 0.3, 80.0, Keeping::AS_RATED, 12.0).map(Money::value);
    let seen = Arc::new(Mutex::new(Vec::new()));
    let figure = Figure {
        rules: "these".to_owned(),
        of: {
            let seen = seen.clone();
            move |b: &Battery| {
                let figure = of(b);
                seen.lock().unwrap().push(figure);
                figure
            }
        },
    };
    let query = ShelfQuery { order: Order::Reckoned, page_size: 50, ..ShelfQuery::default() };
    let page = store.shelf(query.clone(), figure.clone()).await.unwrap();
    let mut worked_out = seen.lock().unwrap().clone();
    let whole: Vec<_> = page.rows.iter().map(|r| of(&r.candidate.battery)).collect();
    worked_out.sort_by(|a, b| a.unwrap_or(f64::MAX).total_cmp(&b.unwrap_or(f64::MAX)));
    assert_eq!(whole, worked_out);
    assert_eq!(names(&page).last(), Some(&"None"), "of which it cannot be said");
    store.shelf(query, figure).await.unwrap();
    assert_eq!(seen.lock().unwrap().len(), 8, "not worked out again");
}
