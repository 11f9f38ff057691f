//! Speed of the log, as ratios within one run: `cargo bench -p lake-hour-store --bench log`.
//!
//! Goals: a monitor's table of a million rows is read in under 5 s, no more than eight times what the csv
//! crate and the standard library take to part it into cells and make figures of them; five years of outings at a row a second, 250 h of them, open in under 100 ms: the list of all with the line of one,
//! thinned for its picture; what a hundred outings teach is worked out in under 200 ms, no more than four times what it takes to
//! run each day of them once.
#![allow(clippy::print_stdout, clippy::unwrap_used)]

use jiff::ToSpan;
use jiff::civil::date;
use jiff::tz::TimeZone;
use lake_hour_core::log::{Charge, Log, Logged, Outing, Owned, Used, as_driven_with, thinned};
use lake_hour_formats::monitor::{self, Sample};
use lake_hour_store::{Change, Store};
use std::fmt::Write as _;
use std::hint::black_box;
use std::time::Instant;

const PLAN: &[u8] = include_bytes!("../../../demo/heron-pond.plan.json");
const ROWS: u32 = 1_000_000;
const OUTINGS: u32 = 60;
/// Of one of them. [s]
const LASTS: u32 = 15_000;

fn seconds<T>(work: impl FnOnce() -> T) -> (f64, T) {
    let begun = Instant::now();
    let made = work();
    (begun.elapsed().as_secs_f64(), made)
}

fn table() -> String {
    let mut text = "Timestamp,Voltage (V),Current (A),SOC (%),Temp (C)\n".to_owned();
    for n in 0..ROWS {
        let amps = if n % 20_000 < 15_000 { 12.0 + f64::from(n % 7) } else { 0.0 };
        writeln!(text, "{},12.9,{amps},{:.2},21", 1_790_060_400 + u64::from(n), 80.0).unwrap();
    }
    text
}

fn logged(outings: u32, recorded: &[i64]) -> Log {
    let plan = lake_hour_formats::plan::read(PLAN).unwrap();
    let pack = plan.packs[2].clone();
    let bought = date(2021, 5, 1);
    let mut all = vec![(1, Logged::Owned(Box::new(Owned::of(pack.clone(), bought))))];
    for n in 0..outings {
        let outing = Outing {
            date: bought.checked_add((i64::from(n) * 30).days()).unwrap(),
            name: format!("Outing {n}"),
            hours: None,
            distance: None,
            start: Charge::Full,
            used: Used::Left(Charge::Meter(0.2 + f64::from(n % 10) / 50.0)),
            wind: None,
            reading: None,
            note: String::new(),
            of: Some(1),
            recorded: recorded.get(n as usize).copied(),
            hot: None,
            counts: true,
            practice: false,
            plan: as_driven_with(&plan, &pack),
        };
        all.push((i64::from(n) + 2, Logged::Outing(Box::new(outing))));
    }
    Log::of(all)
}

fn main() {
    let text = table();
    let (plain, cells) = seconds(|| {
        let mut table = csv::Reader::from_reader(text.as_bytes());
        let mut row = csv::StringRecord::new();
        let mut cells = 0;
        while table.read_record(&mut row).unwrap() {
            let figures = row.iter().filter(|cell| black_box(cell.parse::<f64>()).is_ok());
            cells += figures.count();
        }
        cells
    });
    assert_eq!(cells, 5 * ROWS as usize);
    let (ours, recorded) =
        seconds(|| monitor::read(text.as_bytes(), &TimeZone::UTC, None, |_| true).unwrap());
    assert_eq!(recorded.rows, u64::from(ROWS));
    println!(
        "{ROWS} rows read in {ours:.2} s (goal: under 5), {:.1} times csv and parse (goal: 8)",
        ours / plain
    );

    let runtime = tokio::runtime::Runtime::new().unwrap();
    let folder = tempfile::tempdir().unwrap();
    let (opened, points) = runtime.block_on(async {
        let store = Store::open(&folder.path().join("a.db")).await.unwrap();
        let plan = lake_hour_formats::plan::read(PLAN).unwrap();
        let rig = store.import(plan).await.unwrap();
        let mut kept = Vec::new();
        for n in 0..OUTINGS {
            let row = |at| Sample {
                at,
                volts: 12.9,
                amps: 12.0 + ((at + n) % 9) as f32,
                share: 1.0 - at as f32 / 30_000.0,
                warm: 21.0,
            };
            kept.push(store.keep_recorded(rig, (0..LASTS).map(row).collect()).await.unwrap());
        }
        let log = logged(OUTINGS, &kept);
        store.change(rig, Change::AddLog("Took a log".to_owned(), log)).await.unwrap();
        // What stands in the file is read anew.
        store.close().await.unwrap();
        let store = Store::open(&folder.path().join("a.db")).await.unwrap();
        let begun = Instant::now();
        let log = store.log(rig).await.unwrap().log;
        let (_, last) = log.outings().next_back().unwrap();
        let recorded = store.recorded(rig, last.recorded.unwrap()).await.unwrap();
        assert_eq!(recorded.len(), LASTS as usize);
        let line: Vec<(f64, f64)> =
            recorded.iter().map(|s| (f64::from(s.at), f64::from(s.share))).collect();
        (begun.elapsed().as_secs_f64(), thinned(&line, 480).len())
    });
    println!(
        "{OUTINGS} outings of {LASTS} s: the list and one line of {points} points in {:.0} ms (goal: under 100)",
        opened * 1e3
    );

    let plan = lake_hour_formats::plan::read(PLAN).unwrap();
    let log = logged(100, &[]);
    let (once, ()) = seconds(|| {
        for (_, outing) in log.outings() {
            black_box(outing.expected().unwrap());
        }
    });
    let (learned, what) = seconds(|| log.learned(&plan, date(2029, 9, 1)));
    assert_eq!(what.count(), 100);
    println!(
        "100 outings teach in {:.0} ms (goal: under 200), {:.2} times running each once (goal: 4)",
        learned * 1e3,
        learned / once
    );
}
