//! Speed of the shelf, as ratios within one run: `cargo bench -p lake-hour-store`.
//!
//! Goals: a file of 100,000 batteries is taken at no less than half the rate at which the csv crate
//! parses it and one prepared statement inserts each row, its document made beforehand, into the same
//! table with the same indexes and settings, in one transaction. A page of 5,000 batteries is read within
//! twice the time of one of 50.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use lake_hour_core::shelf::Candidate;
use lake_hour_formats::shelf::table;
use lake_hour_store::{ShelfQuery, Store};
use std::io::{Seek, SeekFrom, Write};
use std::path::Path;
use std::sync::Arc;
use std::time::Instant;

const ROWS: usize = 100_000;

/// A shelf's file as this program writes it: every column is there.
fn file(rows: usize) -> (std::fs::File, Vec<String>) {
    let text: Vec<String> = (0..rows)
        .map(|n| {
            let ah = 50 + n % 150;
            format!(
                "{{\"battery\":{{\"name\":\"Widgeon {n}\",\"chemistry\":\"lfp\",\"nominal_voltage_v\":12.8,\
                 \"capacity_ah\":{ah},\"capacity_hours\":5,\"mass_kg\":{},\"length_mm\":330,\"width_mm\":173,\
                 \"height_mm\":215,\"price\":{},\"max_continuous_current_a\":{ah},\
                 \"cycles\":[{{\"depth\":0.8,\"cycles\":3500}}]}},\"energy_wh\":{}}}",
                ah as f64 / 9.0,
                ah * 3,
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

/// The plain way: parse, and insert each row's text.
fn plain(file: &std::fs::File, documents: &[String], database: &Path) -> f64 {
    let mut c = rusqlite::Connection::open(database).unwrap();
    c.execute_batch(
        "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; PRAGMA cache_size = -32768;",
    )
    .unwrap();
    c.execute_batch(include_str!("../migrations/0001_board.sql")).unwrap();
    c.execute_batch(include_str!("../migrations/0002_shelf.sql")).unwrap();
    let mut file = file.try_clone().unwrap();
    file.seek(SeekFrom::Start(0)).unwrap();
    let start = Instant::now();
    let t = c.transaction().unwrap();
    {
        let mut insert = t
            .prepare(
                "INSERT INTO battery (name, chemistry, lead, volts, ah, wh, kg, price, price_wh, kg_wh,
                    heater, monitor, hidden, doubts, price_ok, weight_ok, body)
                 VALUES (?1, ?2, 0, ?3, ?4, ?3 * ?4, ?5, ?6, ?6 / (?3 * ?4), ?5 / (?3 * ?4),
                    0, 0, 0, 0, 0, 0, ?7)",
            )
            .unwrap();
        let mut reader = csv::Reader::from_reader(file);
        let header = reader.headers().unwrap().clone();
        let at = |name: &str| header.iter().position(|h| h == name).unwrap();
        let (ah, kg, price) = (at("capacity_ah"), at("mass_kg"), at("price"));
        let mut record = csv::StringRecord::new();
        let mut documents = documents.iter();
        while reader.read_record(&mut record).unwrap() {
            let number = |n: usize| record[n].parse::<f64>().unwrap();
            insert
                .execute(rusqlite::params![
                    &record[0],
                    &record[1],
                    number(5),
                    number(ah),
                    number(kg),
                    number(price),
                    documents.next().unwrap(),
                ])
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
        plain(&all, &documents, &folder.path().join("b.db"))
    });
    println!("{ROWS} batteries taken in {ours:.2} s, the plain way in {theirs:.2} s");
    println!("rate against the plain way: {:.2} (goal: at least 0.5)", theirs / ours);

    let page = |rows: usize| {
        let folder = folder();
        runtime.block_on(async {
            let store = Store::open(&folder.path().join("a.db")).await.unwrap();
            store.take_file(file(rows).0, Arc::default()).await.unwrap();
            let mut times = Vec::new();
            for _ in 0..200 {
                let query = ShelfQuery { page_size: 30, ..ShelfQuery::default() };
                let start = Instant::now();
                let page = store.shelf(query, |_: &Candidate| None).await.unwrap();
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
}
