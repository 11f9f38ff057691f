//! Entries come back as they were kept; what is wrong with one is told with its place.

use super::*;
use jiff::civil::date;
use lake_hour_core::log::Chore;

const PLAN: &[u8] = include_bytes!("../../../../demo/heron-pond.plan.json");

fn entries() -> Vec<Logged> {
    let mut plan = crate::plan::read(PLAN).expect("the example");
    plan.packs.truncate(1);
    let outing = Outing {
        date: date(2026, 9, 22),
        name: "Two stations".to_owned(),
        hours: Some(Hours::of(7.1)),
        distance: Some(Metres::of(9_000.0)),
        start: Charge::Full,
        used: Used::AmpHours(AmpHours::of(64.0)),
        wind: Some(MetresPerSecond::of(6.7)),
        reading: Some(Reading { setting: 5.0, current: Amps::of(12.6) }),
        note: "gusts".to_owned(),
        of: Some(1),
        recorded: Some(9),
        hot: Some(Hours::of(1.25)),
        counts: false,
        practice: false,
        plan: plan.clone(),
    };
    let mut owned = Owned::of(plan.packs[0].clone(), date(2025, 4, 4));
    owned.paid = Some(Money::of(640.0));
    (owned.full_years, owned.prorated_years) = (Some(2.0), Some(5.0));
    owned.next = Some(Next { date: date(2026, 9, 26), minute: 425 });
    (owned.kept_at, owned.retired) = (Some(Celsius::of(12.0)), Some(date(2026, 10, 1)));
    owned.units[0].serial = "A-17".to_owned();
    let test = |did| {
        let (of, unit, note) = (Some(1), Some(1), "bench".to_owned());
        Logged::Test(Box::new(Test {
            date: date(2026, 9, 1),
            of,
            unit,
            did,
            recorded: Some(3),
            note,
        }))
    };
    let capacity = CapacityTest {
        current: Amps::of(5.0),
        lasted: Hours::of(18.5),
        stop: Volts::of(10.5),
        ended: TestEnd::CutShort,
        temperature: Some(Celsius::of(15.0)),
        energy: Some(WattHours::of(1_100.0)),
    };
    let load = LoadTest {
        before: Volts::of(12.7),
        under: Volts::of(9.7),
        current: Amps::of(250.0),
        seconds: 15.0,
        temperature: None,
    };
    vec![
        Logged::Owned(Box::new(owned)),
        Logged::Outing(Box::new(Outing {
            used: Used::Left(Charge::Feel(0.5)),
            start: Charge::Meter(0.9),
            reading: None,
            ..outing.clone()
        })),
        Logged::Outing(Box::new(outing)),
        test(Did::Charged(Charge::Rested(Volts::of(25.4), Rest::OvernightCharged))),
        test(Did::Capacity(capacity)),
        test(Did::Load(load)),
        test(Did::Volts(vec![Volts::of(12.7), Volts::of(0.0)])),
        test(Did::Charges(vec![0.8, 0.0, 1.0])),
        test(Did::Resistances(vec![Ohms::of(0.005), Ohms::of(0.0071)])),
        test(Did::Care(Chore::Water, Some(date(2026, 9, 15)))),
        test(Did::Care(Chore::Test, None)),
    ]
}

#[test]
fn every_kind_of_entry_comes_back_as_it_was_kept() {
    for logged in entries() {
        let text = write_logged(&logged);
        assert!(text.starts_with("{\"kept\":2,\"kind\":"), "{}", &text[..60]);
        assert_eq!(read_logged(&text).expect("its own text"), logged);
    }
    let log = Log::of((1..).zip(entries()).collect());
    let text = serde_json::to_vec(&write(&log)).expect("a document");
    assert_eq!(read(&text).expect("its own document"), log);
}

#[test]
fn what_is_wrong_with_an_entry_is_told_with_its_place() {
    let log = Log::of((1..).zip(entries()).collect());
    let good = serde_json::to_string(&write(&log)).expect("a document");
    for (from, to, at) in [
        ("\"used_ah\":64.0", "\"used_ah\":-1.0", ".used_ah"),
        ("\"used_ah\":64.0", "\"used_ah\":64.0,\"end\":{\"by\":\"full\"}", ".end"),
        ("\"read_setting\":5.0,", "", ".read_setting"),
        ("\"hours\":7.1", "\"hours\":9000.0", ".hours"),
        ("\"charge\":0.5", "\"charge\":1.5", ".end.charge"),
        ("\"chore\":\"water\"", "\"chore\":\"paint\"", ".did.chore"),
        ("[0.8,0.0", "[1.8,0.0", ".did.charges[0]"),
        ("0.0071]", "0.0]", ".did.resistances_ohm[1]"),
        ("\"stop_v\":10.5", "\"stop_v\":0.0", ".did.stop_v"),
        ("\"series\":1.0", "\"series\":0.0", ".series"),
        ("\"format\":\"lake-hour/log\"", "\"format\":\"x\"", "format"),
        ("\"id\":2", "\"id\":1", "entries"),
    ] {
        assert!(good.contains(from), "{from}");
        let faults = read(good.replacen(from, to, 1).as_bytes()).expect_err(to);
        assert!(faults.0.iter().any(|f| f.at.ends_with(at)), "{to}: {faults:?}");
    }
    for bad in ["", "{}", "[]", "{\"format\":\"lake-hour/log\",\"version\":1,\"entries\":[{}]}"] {
        assert!(read(bad.as_bytes()).is_err(), "{bad}");
    }
    let newer = write_logged(&entries()[0]).replacen("\"kept\":2", "\"kept\":9", 1);
    assert!(read_logged(&newer).expect_err("newer").first().contains("newer"));
}
