use super::*;
use std::fmt::Write as _;

fn taken(text: &str) -> Recorded {
    read(text.as_bytes(), &TimeZone::UTC, None, |_| true).expect("a record")
}

/// Two hours at 20 A with the times written as `time` says, a row a minute, `turn` times the amps.
fn two_hours(heading: &str, mut row: impl FnMut(u32, f64, f64) -> String) -> String {
    let mut text = format!("{heading}\n");
    for minute in 0..=120 {
        let amps = if minute < 120 { 20.0 } else { 0.0 };
        let share = 1.0 - f64::from(minute) / 60.0 * 20.0 / 100.0;
        writeln!(text, "{}", row(minute, amps, share)).expect("to a string");
    }
    text
}

/// The same outing, as different monitors write it.
#[test]
fn the_same_outing_is_read_from_any_monitors_table() {
    let clock = |m: u32| format!("{:02}:{:02}:00", 7 + m / 60, m % 60);
    let tables = [
        two_hours("Timestamp,Voltage (V),Current (A),SOC (%)", |m, a, s| {
            format!("2026-09-22T{},12.9,{a},{:.2}", clock(m), s * 100.0)
        }),
        // Discharge negative, decimal commas, semicolons, the day first.
        two_hours("Datum;Time;Batterie Volt;Strom [A];Ladung %", |m, a, s| {
            let date = "22.09.2026";
            format!(
                "{date};{};12,9;{};{}",
                clock(m),
                format!("{:.1}", -a).replace('.', ","),
                format!("{:.2}", s * 100.0).replace('.', ",")
            )
        })
        .replace("Datum", "Date")
        .replace("Strom", "Current"),
        // US dates on a 12-hour clock; milliamps; something of its own before the table.
        format!(
            "Monitor export, version 3\nSerial,0017\n{}",
            two_hours("Date Time,Batt V,Batt mA,State of charge", |m, a, s| {
                let (hour, half) = ((6 + m / 60) % 12 + 1, "AM");
                format!(
                    "9/22/2026 {hour}:{:02}:00 {half},12.9,{},{:.2}",
                    m % 60,
                    a * 1000.0,
                    s * 100.0
                )
            })
        ),
        // Seconds since 1970, watts in the place of amps, °F.
        two_hours("time\tvolts\tpower (W)\ttemp (F)", |m, a, _| {
            let at = 1_790_060_400 + u64::from(m) * 60;
            format!("{at}\t12.9\t{}\t77", a * 12.9)
        }),
        // An offset: brought to the clock of the place.
        two_hours("Timestamp,V,A", |m, a, _| {
            format!("2026-09-22T{:02}:{:02}:00+02:00,12.9,{a}", 9 + m / 60, m % 60)
        }),
    ];
    for (n, text) in tables.iter().enumerate() {
        let recorded = taken(text);
        let trips = trips(&recorded);
        assert_eq!(trips.len(), 1, "{n}: {:?}", recorded.columns.told());
        let trip = &trips[0];
        assert!((trip.used_ah - 39.7).abs() < 0.2, "{n}: {trip:?}");
        assert!((trip.hours - 119.0 / 60.0).abs() < 1e-6, "{n}: {trip:?}");
        assert_eq!(trip.begins.date(), jiff::civil::date(2026, 9, 22), "{n}");
        assert_eq!(trip.begins.hour(), 7, "{n}: {trip:?}");
        if let Some((from, to)) = trip.share {
            assert!((from - 1.0).abs() < 1e-3 && (to - 0.603).abs() < 5e-3, "{n}: {from} {to}");
        }
        assert!((trip.used_wh.expect("volts are told") - 39.7 * 12.9).abs() < 3.0);
        let odd = recorded.odd.join("; ");
        assert_eq!(odd.contains("turned"), n == 1, "{n}: {odd}");
        assert_eq!(odd.contains("watts and volts"), n == 3, "{n}: {odd}");
    }
}

#[test]
fn what_is_wrong_with_a_record_is_told_and_nothing_is_made_of_rubbish() {
    let refused = |text: &str| {
        read(text.as_bytes(), &TimeZone::UTC, None, |_| true).expect_err(text).to_string()
    };
    assert!(refused("").contains("headings"));
    assert!(refused("a,b,c\n1,2,3\n").contains("no column is the time"));
    assert!(refused("words\nmore words\n").contains("headings"));
    assert!(refused("Time,Volts\n2026-09-22 07:00:00,12.8\n").contains("no column is amps"));
    assert!(refused("Time,Volts,Amps\n").contains("no rows"));
    let bad = refused("Time,Volts,Amps\nyesterday,12.8,3\n");
    assert!(bad.contains("line 2") || bad.contains("line 1"), "{bad}");
    assert!(bad.contains("yesterday"), "{bad}");
    let cancelled =
        two_hours("Time,V,A", |m, a, _| format!("{},12.8,{a}", 1_790_060_400 + u64::from(m)))
            + &"1790070000,12.8,1\n".repeat(20_000);
    assert!(matches!(
        read(cancelled.as_bytes(), &TimeZone::UTC, None, |_| false),
        Err(NotTaken::Cancelled)
    ));
    // A row without an end is refused before it fills the memory; so is a quote that never ends.
    for endless in ["1", "\"", "1,"] {
        let row = std::io::Read::chain(
            &b"Time,V,A\n1790060400,12.8,3\n"[..],
            std::io::repeat(endless.as_bytes()[0]),
        );
        let refused = read(row, &TimeZone::UTC, None, |_| true).expect_err("no end").to_string();
        assert!(refused.contains("one row is longer than 64 kB"), "{refused}");
    }
    // A week of zeros is no outing.
    let zeros =
        two_hours("Time,V,A", |m, _, _| format!("{},12.8,0", 1_790_060_400 + u64::from(m) * 5040));
    assert!(trips(&taken(&zeros)).is_empty());
    // The clock set back, a gap, rows that are none: told, and counted once.
    let mut odd = two_hours("Time,V,A", |m, a, _| {
        let at = 1_790_060_400 + u64::from(m) * 60 + if m > 60 { 1800 } else { 0 };
        format!("{at},12.8,{a}")
    });
    odd.push_str("1790060400,12.8,99\nrubbish,12.8,99\n\u{fffd},,\n");
    let recorded = taken(&odd);
    let said = recorded.odd.join("; ");
    assert!(said.contains("set back: 1 rows") && said.contains("1 gap"), "{said}");
    assert!(said.contains("2 rows cannot be read"), "{said}");
    let trip = &trips(&recorded)[0];
    assert!((trip.used_ah - 39.3).abs() < 0.5, "nothing is counted in the gap: {trip:?}");
}

#[test]
fn two_days_are_two_outings_and_a_short_drive_round_the_dock_is_none() {
    let mut text = "Time,V,A\n".to_owned();
    let begins = 1_790_060_400_u64;
    for (from, minutes) in [(0, 60), (86_400, 90), (200_000, 3)] {
        for minute in 0..minutes {
            writeln!(text, "{},12.8,15", begins + from + minute * 60).expect("to a string");
        }
    }
    let found = trips(&taken(&text));
    assert_eq!(found.len(), 2);
    assert!((found[0].used_ah - 14.75).abs() < 0.01 && (found[1].used_ah - 22.25).abs() < 0.01);
}

#[test]
fn rows_come_back_from_few_bytes_and_a_long_file_stays_small() {
    let recorded = taken(&two_hours("Time,V,A,SOC", |m, a, s| {
        format!(
            "{},{:.3},{a},{:.2}",
            1_790_060_400 + u64::from(m),
            12.8 + f64::from(m) * 0.001,
            s * 100.0
        )
    }));
    let bytes = pack(&recorded.samples);
    assert!(bytes.len() < recorded.samples.len() * 12, "{}", bytes.len());
    let back = unpack(&bytes).expect("its own bytes");
    assert_eq!(back.len(), recorded.samples.len());
    for (a, b) in back.iter().zip(&recorded.samples) {
        assert_eq!(a.at, b.at);
        assert!((a.volts - b.volts).abs() < 6e-4 && (a.amps - b.amps).abs() < 6e-3);
        assert!((a.share - b.share).abs() < 6e-5 && a.warm.is_nan());
    }
    assert!(unpack(&bytes[..bytes.len() - 1]).is_none() && unpack(&[0xff; 40]).is_none());
    assert!(unpack(&[]).is_some_and(|none| none.is_empty()));
    let long: String = std::iter::once("Time,V,A\n".to_owned())
        .chain((0..(MOST as u64) + 50).map(|n| format!("{},12.8,10\n", 1_790_060_400 + n)))
        .collect();
    let recorded = taken(&long);
    assert!(recorded.samples.len() <= MOST / 2 + 60);
    assert!(recorded.odd.iter().any(|o| o.contains("one in 2")), "{:?}", recorded.odd);
    let trip = &trips(&recorded)[0];
    assert!((trip.used_ah / (MOST as f64 / 360.0) - 1.0).abs() < 1e-3, "{trip:?}");
}

/// Headings in words that are not known: their table is shown, and read by what is said of it.
#[test]
fn a_table_in_other_words_is_read_by_what_is_said_of_it() {
    let text = two_hours("Zeit;Spannung;Strom mA;Stand;Grad F", |m, a, s| {
        format!(
            "2026-09-22 {:02}:{:02};12,9;{};{:.1};77",
            7 + m / 60,
            m % 60,
            a * 1000.0,
            s * 100.0
        )
        .replace('.', ",")
    });
    let refused = read(text.as_bytes(), &TimeZone::UTC, None, |_| true).expect_err("unknown words");
    assert!(matches!(refused, NotTaken::Columns(_)), "{refused}");
    let top = top(text.as_bytes()).expect("a table");
    assert_eq!(top.headings, ["Zeit", "Spannung", "Strom mA", "Stand", "Grad F"]);
    assert_eq!((top.rows.len(), top.rows[0][1].as_str()), (3, "12,9"));
    // Its milliamps are known by their unit; the rest is to be said.
    assert_eq!(top.guessed, [None, None, Some(Column::Amps), None, None]);
    let said = vec![
        (Column::Time, 0),
        (Column::Volts, 1),
        (Column::Amps, 2),
        (Column::Charge, 3),
        (Column::Warmth, 4),
        // What is not there says nothing.
        (Column::Watts, 40),
    ];
    let recorded =
        read(text.as_bytes(), &TimeZone::UTC, Some(&said), |_| true).expect("as it was said");
    let trip = &trips(&recorded)[0];
    assert!((trip.used_ah - 39.7).abs() < 0.2, "{trip:?}");
    let hot = |t: f64| trip.above(&recorded, t);
    assert_eq!((hot(30.0), hot(20.0)), (Some(0.0), Some(trip.hours)));
    let first = recorded.samples[0];
    assert!((first.warm - 25.0).abs() < 1e-3 && (first.volts - 12.9).abs() < 1e-3, "{first:?}");
    assert!((first.share - 1.0).abs() < 1e-3);
    // A time that is a voltage cannot be read, wherever it stands.
    let wrong = vec![(Column::Time, 1), (Column::Amps, 2)];
    let below = format!("Monitor 3\n{text}");
    let refused = read(below.as_bytes(), &TimeZone::UTC, Some(&wrong), |_| true);
    let says = refused.expect_err("volts are no time").to_string();
    assert!(says.starts_with("line 3: the time"), "{says}");
    // What another program keeps in bytes, or in two for each letter, is no table.
    let wide: Vec<u8> = "Time,A\n".encode_utf16().flat_map(u16::to_le_bytes).collect();
    assert!(matches!(super::top(wide.as_slice()), Err(NotTaken::NoText)));
    assert!(super::top("no table at all\nnothing\n".as_bytes()).is_err());
    for column in Column::ALL {
        assert_eq!(Column::from_key(column.key()), Some(column));
    }
}

/// Rows of two batteries are not added up; numbers of rows are no batteries.
#[test]
fn rows_of_several_batteries_are_told_apart_or_refused() {
    let both = two_hours("Time,Device name,V,A", |m, a, _| {
        let clock = format!("2026-09-22 {:02}:{:02}", 7 + m / 60, m % 60);
        format!("{clock},Bow,12.9,{a}\n{clock},Stern,13.1,{a}")
    });
    let refused = read(both.as_bytes(), &TimeZone::UTC, None, |_| true).expect_err("two");
    assert!(refused.to_string().contains("2 batteries, Bow, Stern"), "{refused}");
    let one = both.lines().filter(|l| !l.contains("Stern")).collect::<Vec<_>>().join("\n");
    assert_eq!(trips(&taken(&one)).len(), 1);
    let numbered = two_hours("Time,Serial no,V,A", |m, a, _| {
        format!("2026-09-22 {:02}:{:02},{m},12.9,{a}", 7 + m / 60, m % 60)
    });
    assert_eq!(trips(&taken(&numbered)).len(), 1);
}

/// A meter that counts on while nothing runs is told of, and makes no outing.
#[test]
fn a_meter_whose_zero_is_off_is_told_of() {
    let night = |amps: f64| {
        two_hours("Time,V,A", |m, a, _| {
            let at = format!("2026-09-22 {:02}:{:02}", 7 + m / 60, m % 60);
            let amps = if m > 30 { amps } else { a };
            format!("{at},12.9,{amps}")
        })
    };
    let odd = taken(&night(0.3)).odd.join("; ");
    assert!(odd.contains("0.30 A while nothing is driven"), "{odd}");
    assert!(!taken(&night(0.0)).odd.join("; ").contains("while nothing"));
    assert_eq!(trips(&taken(&night(0.3))).len(), 1);
}

/// A test on the bench is one steady discharge: what it gave is what was counted, and anything else is said.
#[test]
fn a_bench_test_is_one_steady_discharge() {
    let row = |m: u32, volts: f64, amps: f64| {
        format!(
            "2026-09-{:02} {:02}:{:02},{volts:.2},{amps},68",
            22 + m / 1440,
            m / 60 % 24,
            m % 60
        )
    };
    let table = |amps: &dyn Fn(u32) -> f64| {
        let rows: Vec<String> = (0..=920)
            .map(|m| row(m, 12.8 - 2.3 * f64::from(m) / 920.0, if m < 920 { amps(m) } else { 0.0 }))
            .collect();
        format!("Time,Voltage (V),Current (A),Temp (F)\n{}\n", rows.join("\n"))
    };
    let of = |text: &str| {
        let recorded = taken(text);
        bench(&recorded, &trips(&recorded))
    };
    let found = of(&table(&|_| 5.0)).expect("a test");
    assert!((found.amps - 5.0).abs() < 1e-6 && (found.hours - 919.0 / 60.0).abs() < 1e-6);
    assert!((found.stop - 10.5).abs() < 0.01 && (found.warm.expect("told") - 20.0).abs() < 1e-3);
    assert!((found.energy - found.amps * found.hours * 11.65).abs() < 1.0, "{found:?}");
    assert!(matches!(of(&table(&|m| if m < 400 { 5.0 } else { 9.0 })), Err(NoBench::Unsteady(..))));
    assert_eq!(
        of(&table(&|m| if (200..600).contains(&m) { 0.0 } else { 5.0 })),
        Err(NoBench::Several(2))
    );
    assert_eq!(of("Time,V,A\n2026-09-22 07:00,12.8,0\n"), Err(NoBench::Several(0)));
    let blind = table(&|_| 5.0).replace("Voltage (V)", "Other");
    assert_eq!(of(&blind), Err(NoBench::NoVolts));
}
