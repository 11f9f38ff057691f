//! Speed of the shelf, as ratios within one run: `cargo bench -p lake-hour-store`.
//!
//! Goals: a file of 100,000 batteries is taken at no less than a quarter of the rate at which the csv crate
//! parses it and prepared statements insert each row, its document made beforehand, into the same
//! tables with the same indexes and settings, in one transaction: ours are checked, compared by name, noted
//! for undo, and written in pieces that let others write in between. A page of 5,000 batteries is read
//! within twice the time of one of 50. On a shelf of 100,000 a page of what was searched for, in any order,
//! and one by the price of a usable kWh take under 30 ms, and an edit with the page after it under 10 ms;
//! each no more than a twentieth of what reading every document would take.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use lake_hour_core::life::Keeping;
use lake_hour_core::money::per_usable_kwh;
use lake_hour_core::shelf::Battery;
use lake_hour_core::units::Money;
use lake_hour_formats::shelf::table;
use lake_hour_store::{Figure, Order, ShelfChange, ShelfQuery, Store};
use std::io::{Seek, SeekFrom, Write};
use std::path::Path;
use std::sync::Arc;
use std::time::Instant;

const ROWS: usize = 100_000;
const NAMES: [&str; 4] = ["Widgeon", "Marl Point", "Sedge Hollow", "Widgeon Duo"];

/// A shelf's file as this program writes it: every column is there.
fn file(rows: usize) -> (std::fs::File, Vec<String>) {
    let text: Vec<String> = (0..rows)
        .map(|n| {
            let ah = 50 + n % 150;
            format!(
                "{{\"battery\":{{\"name\":\"{} {n}\",\"chemistry\":\"lfp\",\"nominal_voltage_v\":12.8,\
                 \"capacity_ah\":{ah},\"capacity_hours\":5,\"mass_kg\":{},\"length_mm\":330,\"width_mm\":173,\
                 \"height_mm\":215,\"price\":{},\"max_continuous_current_a\":{ah},\
                 \"cycles\":[{{\"depth\":0.8,\"cycles\":{}}}]}},\"energy_wh\":{}}}",
                NAMES[n % NAMES.len()],
                ah as f64 / 9.0,
                ah * 3,
                2000 + n % 1999,
                ah as f64 * 12.8
            )
        })
        .collect();
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(&table::header()).unwrap();
    for line in &text {
        let candidate = lake_hour_formats::shelf::read_candidate(line).unwrap();
        file.write_all(&table::row(&candidate)).unwrap();
    }
    file.seek(SeekFrom::Start(0)).unwrap();
    (file, text)
}

/// The plain way: parse, and insert each row's text and what it is found by into the tables of a new shelf.
fn plain(file: &std::fs::File, documents: &[String], database: &Path) -> f64 {
    let mut c = rusqlite::Connection::open(database).unwrap();
    c.execute_batch(
        "PRAGMA synchronous = FULL; PRAGMA foreign_keys = ON; PRAGMA cache_size = -32768;",
    )
    .unwrap();
    let mut file = file.try_clone().unwrap();
    file.seek(SeekFrom::Start(0)).unwrap();
    let start = Instant::now();
    let t = c.transaction().unwrap();
    {
        let mut document =
            t.prepare("INSERT INTO battery (id, name, body) VALUES (?1, ?2, ?3)").unwrap();
        let mut insert = t
            .prepare(
                "INSERT INTO found (id, words, chemistry, volts, ah, kg, price, marks, doubts, promises)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, 0, 0, x'')",
            )
            .unwrap();
        let mut reader = csv::Reader::from_reader(file);
        let header = reader.headers().unwrap().clone();
        let at = |name: &str| header.iter().position(|h| h == name).unwrap();
        let (ah, kg, price) = (at("capacity_ah"), at("mass_kg"), at("price"));
        let mut record = csv::StringRecord::new();
        for (document_of, id) in documents.iter().zip(1_i64..) {
            assert!(reader.read_record(&mut record).unwrap());
            let number = |n: usize| record[n].parse::<f64>().unwrap();
            let words = format!("{} {}", record[0].to_lowercase(), &record[1]);
            document.execute((id, &record[0], document_of)).unwrap();
            insert
                .execute((id, &words, &record[1], number(5), number(ah), number(kg), number(price)))
                .unwrap();
        }
    }
    t.commit().unwrap();
    start.elapsed().as_secs_f64()
}

fn best(mut work: impl FnMut() -> f64) -> f64 {
    (0..3).map(|_| work()).fold(f64::INFINITY, f64::min)
}

fn main() {
    let runtime = tokio::runtime::Runtime::new().unwrap();
    let (all, documents) = file(ROWS);
    let folder = || tempfile::tempdir().unwrap();
    let ours = best(|| {
        let folder = folder();
        runtime.block_on(async {
            let store = Store::open(&folder.path().join("a.db")).await.unwrap();
            let start = Instant::now();
            let report = store.take_file(all.try_clone().unwrap(), Arc::default()).await.unwrap();
            assert_eq!(report.added, ROWS);
            start.elapsed().as_secs_f64()
        })
    });
    let theirs = best(|| {
        let folder = folder();
        let database = folder.path().join("b.db");
        runtime.block_on(async { Store::open(&database).await.unwrap().close().await.unwrap() });
        plain(&all, &documents, &database)
    });
    println!("{ROWS} batteries taken in {ours:.2} s, the plain way in {theirs:.2} s");
    println!("rate against the plain way: {:.2} (goal: at least 0.25)", theirs / ours);

    let page = |rows: usize| {
        let folder = folder();
        runtime.block_on(async {
            let store = Store::open(&folder.path().join("a.db")).await.unwrap();
            store.take_file(file(rows).0, Arc::default()).await.unwrap();
            let mut times = Vec::new();
            for _ in 0..200 {
                let query = ShelfQuery { page_size: 30, ..ShelfQuery::default() };
                let start = Instant::now();
                let page = store.shelf(query, usable()).await.unwrap();
                times.push(start.elapsed().as_secs_f64());
                assert_eq!((page.rows.len(), page.matching), (30, rows));
            }
            times.sort_by(f64::total_cmp);
            times[times.len() / 2] * 1000.0
        })
    };
    let (few, many) = (page(50), page(5_000));
    println!(
        "a page of 50 in {few:.2} ms, of 5,000 in {many:.2} ms: {:.2} (goal: at most 2)",
        many / few
    );

    let folder = folder();
    runtime.block_on(async {
        let store = Store::open(&folder.path().join("a.db")).await.unwrap();
        store.take_file(all.try_clone().unwrap(), Arc::default()).await.unwrap();
        large(&store).await;
    });
}

/// What is asked of a shelf of a hundred thousand, against reading all of it.
async fn large(store: &Store) {
    let median = |mut times: Vec<f64>| {
        times.sort_by(f64::total_cmp);
        times[times.len() / 2] * 1000.0
    };
    let start = Instant::now();
    let (mut last, mut read) = (None, 0);
    loop {
        let some = store.batteries_after(last, 200).await.unwrap();
        read += some.batteries.len();
        last = some.last;
        if last.is_none() {
            break;
        }
    }
    assert_eq!(read, ROWS);
    let whole = start.elapsed().as_secs_f64() * 1000.0;
    println!("every document of {ROWS} read in {whole:.0} ms");
    let of = |words: &str, order| ShelfQuery {
        words: words.to_owned(),
        order,
        page_size: 30,
        ..ShelfQuery::default()
    };
    for (what, query, matching) in [
        ("one searched for", of("Hollow 77774", Order::Name), 1),
        ("a hundredth, by price", of("marl 77", Order::Price), 0),
        ("half of them searched for", of("widgeon", Order::Name), ROWS / 2),
        ("half of them, the lightest first", of("widgeon", Order::Weight), ROWS / 2),
        ("all of them, by two letters", of("lf", Order::Name), ROWS),
        ("all of them, the cheapest first", of("", Order::Price), ROWS),
        ("all of them, by usable kWh", of("", Order::Reckoned), ROWS),
        ("half of them, by usable kWh", of("widgeon", Order::Reckoned), ROWS / 2),
    ] {
        let mut times = Vec::new();
        for _ in 0..25 {
            let query = query.clone();
            let start = Instant::now();
            let page = store.shelf(query, usable()).await.unwrap();
            times.push(start.elapsed().as_secs_f64());
            assert!(matching == 0 || page.matching == matching, "{what}: {}", page.matching);
        }
        let ms = median(times);
        println!("{what}: {ms:.1} ms (goal: 30), {:.3} of all (goal: 0.05)", ms / whole);
    }
    let (mut edits, mut pages) = (Vec::new(), Vec::new());
    let id = store.battery_named("Widgeon 44000".to_owned()).await.unwrap().unwrap();
    for n in 0..25 {
        let mut other = store.battery(id).await.unwrap().candidate;
        other.battery.price = Some(Money::of(100.0 + f64::from(n)));
        let start = Instant::now();
        store.change_shelf(ShelfChange::Edit(id, Box::new(other))).await.unwrap();
        edits.push(start.elapsed().as_secs_f64());
        store.shelf(of("", Order::Name), usable()).await.unwrap();
        pages.push(start.elapsed().as_secs_f64());
    }
    let (edit, page) = (median(edits), median(pages));
    println!("an edit: {edit:.1} ms, with the page after it {page:.1} ms (goal: 10)");
}

/// The price of a usable kWh, under rules of the usual kind.
fn usable() -> Figure<fn(&Battery) -> Option<f64>> {
    let of = |battery: &Battery| {
        per_usable_kwh(battery, 0.2, 60.0, Keeping::AS_RATED, 10.0).map(Money::value)
    };
    Figure { rules: "usual".to_owned(), of }
}
