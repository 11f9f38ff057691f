//! Tracks and routes, good and bad.

use super::*;
use lake_hour_core::day::{Day, Duty};
use std::fmt::Write as _;

fn parse(text: &str) -> Result<Way, GpxError> {
    read(text.as_bytes(), |_| true)
}

/// GPX 1.1 distances on the IUGG mean radius of 6,371,008.8 m: a hundredth of a degree of longitude at
/// 45° north is 786.27 m, of latitude 1111.95 m.
#[test]
fn distances_are_those_of_the_mean_sphere() {
    assert!((distance((45.0, 10.0), (45.0, 10.01)) - 786.27).abs() < 0.01);
    assert!((distance((45.0, 10.0), (45.01, 10.0)) - 1111.95).abs() < 0.01);
}

/// A track along a meridian: for each leg metres, seconds and metres climbed, a point every second.
fn track(legs: &[(f64, u32, f64)]) -> String {
    let (mut lat, mut clock, mut height) = (45.0, 0, 200.0);
    let mut points = String::new();
    for &(metres, seconds, climb) in legs {
        for n in 0..seconds {
            lat += metres / f64::from(seconds) / 111_194.93;
            height += climb / f64::from(seconds);
            clock += 1;
            // What a receiver makes of a height: off by three metres, up and down.
            let shown = height + if n % 2 == 0 { 3.0 } else { -3.0 };
            let (h, m, s) = (6 + clock / 3600, clock / 60 % 60, clock % 60);
            let _ = write!(
                points,
                "<trkpt lat=\"{lat:.7}\" lon=\"10\"><ele>{shown:.1}</ele><time>2026-05-01T{h:02}:{m:02}:{s:02}Z</time></trkpt>"
            );
        }
    }
    format!(
        "<?xml version=\"1.0\"?><gpx version=\"1.1\" creator=\"t\" xmlns=\"http://www.topografix.com/GPX/1/1\"><trk><name>Round the pond</name><trkseg>{points}</trkseg></trk></gpx>"
    )
}

#[test]
fn a_boats_track_becomes_legs_and_rests() {
    let text = track(&[(1500.0, 1000, 0.0), (1.0, 1200, 0.0), (600.0, 900, 0.0)]);
    let way = parse(&text).expect("a good track");
    assert_eq!((way.points, way.timed, way.start_minute), (3100, true, Some(360)));
    assert_eq!(way.name.as_deref(), Some("Round the pond"));
    assert!((way.metres() - 2101.0).abs() < 4.0, "{}", way.metres());
    assert!(way.odd.is_empty() && way.line.len() <= 257, "{:?}", way.odd);
    let legs = stretches(&way, true);
    let kinds: Vec<_> = legs.iter().map(|s| (s.duty == Duty::Off, s.lasts.minutes())).collect();
    assert_eq!(kinds.iter().map(|k| k.0).collect::<Vec<_>>(), [false, true, false]);
    for ((_, minutes), want) in kinds.iter().zip([1000.0 / 60.0, 20.0, 15.0]) {
        assert!((minutes - want).abs() < 0.5, "{minutes}, not {want}");
    }
}

#[test]
fn a_carts_track_keeps_its_grades_and_stops_through_noise() {
    let text =
        track(&[(2000.0, 500, 0.0), (0.5, 40, 0.0), (1500.0, 375, 75.0), (1500.0, 375, -75.0)]);
    let way = parse(&text).expect("a good track");
    let legs = stretches(&way, false);
    let steep = legs.iter().map(|s| s.grade).fold(f64::NEG_INFINITY, f64::max);
    let down = legs.iter().map(|s| s.grade).fold(f64::INFINITY, f64::min);
    assert!((steep - 0.05).abs() < 0.008 && (down + 0.05).abs() < 0.008, "{legs:?}");
    assert_eq!(legs.iter().map(|s| s.stops).sum::<u32>(), 1);
    let metres: f64 = way.metres();
    assert!((metres - 5000.0).abs() < 5.0, "{metres}");
}

#[test]
fn what_is_odd_is_said_and_what_is_no_route_refused() {
    let wrap = |inner: &str| {
        format!("<gpx version=\"1.1\" creator=\"t\"><trk><trkseg>{inner}</trkseg></trk></gpx>")
    };
    let odd = wrap(
        "<trkpt lat=\"45\" lon=\"10\"/><trkpt lat=\"91\" lon=\"10\"/><trkpt lat=\"x\" lon=\"10\"/><trkpt lat=\"45.01\" lon=\"10\"/><trkpt lat=\"46\" lon=\"10\"/>",
    );
    let way = parse(&odd).expect("two good points");
    assert!((way.metres() - 1111.95).abs() < 0.1);
    assert_eq!(
        way.odd,
        [
            "2 points without a place on earth were left out.",
            "1 jump faster than 60 m/s is not counted.",
            "It has no times: a usual speed is taken."
        ]
    );
    // 1.1 km at the usual 2.5 mph.
    assert!((stretches(&way, true)[0].lasts.minutes() - 16.5).abs() < 0.2);
    let times = wrap(
        "<trkpt lat=\"45\" lon=\"10\"><time>2026-05-01T07:00:00Z</time></trkpt><trkpt lat=\"45.001\" lon=\"10\"><time>2026-05-01T06:00:00Z</time></trkpt><trkpt lat=\"45.002\" lon=\"10\"><time>2026-05-01T06:02:00Z</time></trkpt>",
    );
    assert_eq!(parse(&times).expect("some").odd[0], "1 step back in time is not counted.");
    let bomb = "<!DOCTYPE g [<!ENTITY a \"aaaa\"><!ENTITY b \"&a;&a;\">]><gpx>&b;</gpx>";
    for (text, error) in [
        (bomb, GpxError::DocumentType),
        ("<kml></kml>", GpxError::NotGpx),
        ("", GpxError::NotGpx),
        ("<gpx></gpx>", GpxError::NoPoints),
        (&wrap("<trkpt lat=\"45\" lon=\"10\"/>"), GpxError::NoPoints),
    ] {
        assert_eq!(parse(text), Err(error), "{text}");
    }
    for text in ["<gpx><trk>", "<gpx></trk>", "\u{0}\u{1}", &"<gpx><a>".repeat(100)] {
        assert!(matches!(parse(text), Err(GpxError::Xml { .. } | GpxError::NotGpx)), "{text}");
    }
    let deep = format!("<gpx>{}", "<a>".repeat(100_000));
    assert!(parse(&deep).expect_err("too deep").to_string().contains("inside one another"));
}

#[test]
fn a_route_goes_out_and_comes_back() {
    let mut day = Day::starting_at(420).then(
        "Out & back",
        lake_hour_core::units::Hours::of(1.0),
        Duty::HoldPlace,
    );
    assert_eq!(write("Skiff", &day), None);
    day.route = vec![(45.0, 10.0), (45.01, 10.0), (45.01, 10.02)];
    let file = write("Skiff <one>", &day).expect("has a route");
    let text = String::from_utf8(file).expect("text");
    assert!(text.contains("Out &amp; back until 08:00") && text.contains("version=\"1.1\""));
    let way = parse(&text).expect("our own file");
    assert_eq!((way.line.clone(), way.points), (day.route.clone(), 3));
    assert!((way.metres() - 1111.95 - 1572.0).abs() < 2.0, "{}", way.metres());
}
