use super::*;
use proptest::prelude::*;

fn told(text: &str) -> Told {
    match read(text) {
        Some(Message::Delta(told)) => told,
        other => panic!("{other:?}"),
    }
}

fn delta(path: &str, value: &str) -> Told {
    let text = format!(
        r#"{{"context":"vessels.self","updates":[{{"values":[{{"path":"{path}","value":{value}}}]}}]}}"#
    );
    told(&text)
}

#[test]
fn figures_come_in_the_programs_units_and_signs() {
    let of = |what: &str, value: &str| {
        delta(&format!("electrical.batteries.a.{what}"), value).batteries["a"]
    };
    assert_eq!(of("voltage", "25.61").volts, Some(25.61));
    assert_eq!(of("current", "-11.4").amps, Some(11.4), "what it gives is positive here");
    assert_eq!(of("current", "\"-11.4\"").amps, Some(11.4));
    assert_eq!(of("temperature", "288.15").kelvins, Some(288.15));
    assert_eq!(of("capacity.stateOfCharge", "0.58").charge, Some(0.58));
    assert_eq!(of("capacity.stateOfCharge", "58").charge, Some(0.58));
    let place = delta("navigation.position", r#"{"latitude":44.2,"longitude":-72.6}"#).place;
    assert_eq!(place, Place::of(44.2, -72.6));
    assert_eq!(delta("navigation.speedOverGround", "1.3").speed, Some(1.3));
}

#[test]
fn what_cannot_be_is_passed_over_and_counted() {
    for (path, value) in [
        ("electrical.batteries.a.voltage", "1e9"),
        ("electrical.batteries.a.voltage", "\"NaN\""),
        ("electrical.batteries.a.current", "{}"),
        ("electrical.batteries.a.temperature", "15"),
        ("electrical.batteries.a.capacity.stateOfCharge", "-0.1"),
        ("navigation.position", r#"{"latitude":0,"longitude":0}"#),
        ("navigation.position", r#"{"latitude":95,"longitude":0}"#),
        ("navigation.speedOverGround", "-4"),
    ] {
        let told = delta(path, value);
        assert_eq!(
            (told.unreadable, told.batteries.len(), told.place, told.speed),
            (1, 0, None, None)
        );
    }
    assert_eq!(delta("electrical.batteries.a.voltage", "null"), Told::default());
    assert_eq!(delta("electrical.batteries.a.name", "\"x\""), Told::default());
    assert_eq!(read("not json"), None);
    assert_eq!(read("[1]"), None);
    assert_eq!(read("{}"), Some(Message::Other));
    let other = r#"{"context":"vessels.urn:mrn:imo:mmsi:366982330","updates":[{"values":[{"path":"navigation.speedOverGround","value":3}]}]}"#;
    assert_eq!(read(other), Some(Message::Other), "another boat");
    let many: Vec<String> = (0..500)
        .map(|n| format!(r#"{{"path":"electrical.batteries.b{n}.voltage","value":12}}"#))
        .collect();
    let text = format!(r#"{{"updates":[{{"values":[{}]}}]}}"#, many.join(","));
    assert_eq!(told(&text).batteries.len(), MOST_BATTERIES);
}

#[test]
fn a_greeting_says_who_it_is() {
    let hello = r#"{"name":"x","version":"1.7.0","self":"vessels.urn:a","roles":["main"],"lakeHourStandIn":{"speed":60}}"#;
    assert_eq!(read(hello), Some(Message::Hello { name: "x".to_owned(), plays: Some(60.0) }));
    let plain = r#"{"version":"2.0","self":"vessels.urn:a"}"#;
    assert!(matches!(read(plain), Some(Message::Hello { plays: None, .. })));
}

proptest! {
    /// Whatever comes over the wire is answered, and every figure is one that can be.
    #[test]
    fn garbage_is_no_figure(text in "\\PC{0,200}", value in any::<f64>(), path in "[a-zA-Z0-9.]{0,60}") {
        let _ = read(&text);
        let value = serde_json::json!({"updates": [{"values": [
            {"path": path, "value": value}, {"path": "electrical.batteries.x.voltage", "value": value}]}]});
        if let Some(Message::Delta(told)) = read(&value.to_string()) {
            for battery in told.batteries.values() {
                prop_assert!(battery.volts.is_none_or(|v| (0.0..=2000.0).contains(&v)));
            }
        }
    }
}

/// The paths, units and signs are those of the published schema: `@signalk/signalk-schema` 1.8.2 of the npm registry, which
/// `npm ci` brings for the tests.
#[test]
fn paths_and_units_are_those_of_the_published_schema() {
    let groups = concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../../node_modules/@signalk/signalk-schema/schemas/groups/"
    );
    let group = |name: &str| -> Value {
        let text = std::fs::read_to_string(format!("{groups}{name}.json"));
        let text = text.expect("the published schema: run npm ci --ignore-scripts first");
        serde_json::from_str(&text).expect("JSON")
    };
    let (electrical, navigation) = (group("electrical"), group("navigation"));
    let direct = &electrical["definitions"]["dcQualities"]["properties"];
    let keyed = &electrical["properties"]["batteries"]["patternProperties"];
    let battery = &keyed["(^[A-Za-z0-9]+$)"]["properties"];
    assert_eq!(direct["voltage"]["units"], "V");
    assert_eq!(direct["current"]["units"], "A");
    let sign = direct["current"]["description"].as_str().expect("words");
    assert!(sign.contains("Reversed for batteries (+ve = charging)"), "{sign}");
    assert_eq!(direct["temperature"]["units"], "K");
    assert_eq!(battery["capacity"]["properties"]["stateOfCharge"]["units"], "ratio");
    assert_eq!(navigation["properties"]["speedOverGround"]["units"], "m/s");
    assert!(
        navigation["properties"]["position"]["description"]
            .as_str()
            .expect("words")
            .contains("WGS84")
    );
    for path in ["electrical.batteries.*", "navigation.position", "navigation.speedOverGround"] {
        assert!(subscription().contains(path));
    }
}
