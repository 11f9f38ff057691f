use super::*;

fn plan_of_demo() -> lake_hour_core::plan::Plan {
    plan::read(include_bytes!("../../../../demo/heron-pond.plan.json")).expect("the demo's plan")
}

#[test]
fn what_a_trip_began_with_comes_back_as_it_was() {
    let place = |n: f64| Place::of(44.2 + n * 1e-3, -72.6).expect("a place");
    let path = Path::of((0..3).map(|n| (place(f64::from(n)), Some(f64::from(n)))));
    let batteries =
        BTreeMap::from([("a".to_owned(), Which::Pack), ("b".to_owned(), Which::Unit(2))]);
    let address = "ws://127.0.0.1:3000/signalk/v1/stream".to_owned();
    for (begins, back, source) in [
        (Begins::Full, WayBack::Straight, Source::Hand),
        (Begins::About(0.7), WayBack::Track, Source::SignalK { address, batteries }),
        (Begins::Full, WayBack::Route(path), Source::StandIn { speed: 60.0, seed: 3 }),
        (Begins::NotSaid, WayBack::Straight, Source::Hand),
        (Begins::Logged { charge: 0.55, unsure: 0.08 }, WayBack::Straight, Source::Hand),
    ] {
        let setup = Setup {
            plan: plan_of_demo(),
            begins,
            warm: Celsius::of(14.0),
            launch: Some(place(0.5)),
            back,
            sensed: source != Source::Hand,
        };
        let gauge = (begins == Begins::NotSaid).then_some(Gauge::Shunt);
        let begun = Begun { setup, source, gauge };
        let text = write(&begun).expect("text");
        assert_eq!(read(&text).expect("reads"), begun);
    }
}

#[test]
fn what_is_no_trip_is_refused_in_words() {
    let begun = Begun {
        setup: Setup {
            plan: plan_of_demo(),
            begins: Begins::Full,
            warm: Celsius::of(14.0),
            launch: None,
            back: WayBack::Straight,
            sensed: false,
        },
        source: Source::Hand,
        gauge: None,
    };
    let text = write(&begun).expect("text");
    for (from, to, says) in [
        ("\"warm_c\":14.0", "\"warm_c\":900", "warm_c"),
        ("\"version\":1,\"plan\"", "\"version\":9,\"plan\"", "format"),
        ("{\"format\"", "{\"start_charge\":7,\"format\"", "start_charge"),
        ("{\"format\"", "{\"start_unsure\":-1,\"format\"", "start_unsure"),
        ("{\"format\"", "{\"gauge\":\"a needle\",\"format\"", "gauge"),
    ] {
        let text = text.replacen(from, to, 1);
        let faults = read(&text).expect_err("refused");
        assert!(faults.first().contains(says), "{}", faults.first());
    }
    assert!(read("").is_err() && read("{}").is_err());
}

#[test]
fn what_was_heard_comes_back_line_by_line() {
    let place = Place::of(44.213_456_7, -72.6).expect("a place");
    let told = Told {
        pack: Heard { volts: Some(Volts::of(25.612)), current: Some(Amps::of(-3.25)) },
        meter: Some(0.58),
        warm: Some(Celsius::of(17.2)),
        speed: Some(MetresPerSecond::of(1.25)),
        place: Some(place),
        units: vec![Volts::of(12.8), Volts::of(12.812)],
    };
    let hand = ByHand {
        volts: Some(Volts::of(24.1)),
        far: Some(Metres::of(900.0)),
        gauge: Some(Gauge::Bms),
        ..ByHand::default()
    };
    let all = [
        (0.0, Event::Heard(Told::default())),
        (1.25, Event::Heard(told)),
        (90.0, Event::Typed(hand)),
        (91.0, Event::Turned(true)),
        (92.0, Event::Answered(Some(Clue::Percent))),
        (93.0, Event::Answered(None)),
    ];
    let text: String = all.iter().map(|(at, event)| line(*at, event)).collect();
    assert_eq!(lines(&text).collect::<Vec<_>>(), all);
    // A line that a crash cut off costs itself alone.
    let broken = format!("{text}{{\"t\":92,\"v\":2\n{}", line(93.0, &Event::Turned(false)));
    assert_eq!(lines(&broken).count(), 7);
}
