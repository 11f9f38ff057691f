//! A day's route as a file.

use super::distance;
use lake_hour_core::day::{self, Day};
use quick_xml::Writer;
use quick_xml::events::{BytesDecl, BytesEnd, BytesStart, BytesText, Event};

/// The route of a day as GPX 1.1: a route point for each point, and a waypoint where each stretch with a
/// distance of its own ends. `None` when the day has no route.
pub fn write(name: &str, day: &Day) -> Option<Vec<u8>> {
    if day.route.len() < 2 {
        return None;
    }
    let mut out = Writer::new_with_indent(Vec::new(), b' ', 1);
    // Writing to memory cannot fail.
    let _ = document(&mut out, name, day);
    Some(out.into_inner())
}

fn document(out: &mut Writer<Vec<u8>>, name: &str, day: &Day) -> std::io::Result<()> {
    out.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let mut gpx = BytesStart::new("gpx");
    gpx.push_attribute(("version", "1.1"));
    gpx.push_attribute(("creator", "Lake Hour"));
    gpx.push_attribute(("xmlns", "http://www.topografix.com/GPX/1/1"));
    out.write_event(Event::Start(gpx))?;
    let mut clock = 0.0;
    let whole = length(&day.route);
    let lasts = day.lasts().value().max(1e-9);
    for stretch in &day.stretches {
        clock += stretch.lasts.value();
        // Along the line by the share of the day: where it would be then.
        let at = along(&day.route, whole * (clock / lasts));
        let minute = day.clock_minute(lake_hour_core::units::Hours::of(clock));
        let words = format!("{} until {}", stretch.name, day::clock_words(minute));
        point(out, "wpt", at, Some(&words))?;
    }
    out.write_event(Event::Start(BytesStart::new("rte")))?;
    text(out, "name", name)?;
    for &at in &day.route {
        point(out, "rtept", at, None)?;
    }
    out.write_event(Event::End(BytesEnd::new("rte")))?;
    out.write_event(Event::End(BytesEnd::new("gpx")))
}

fn text(out: &mut Writer<Vec<u8>>, element: &str, words: &str) -> std::io::Result<()> {
    out.write_event(Event::Start(BytesStart::new(element)))?;
    out.write_event(Event::Text(BytesText::new(words)))?;
    out.write_event(Event::End(BytesEnd::new(element)))
}

fn point(
    out: &mut Writer<Vec<u8>>,
    element: &str,
    at: (f64, f64),
    name: Option<&str>,
) -> std::io::Result<()> {
    let mut start = BytesStart::new(element);
    start.push_attribute(("lat", format!("{:.6}", at.0).as_str()));
    start.push_attribute(("lon", format!("{:.6}", at.1).as_str()));
    match name {
        None => out.write_event(Event::Empty(start)),
        Some(name) => {
            out.write_event(Event::Start(start))?;
            text(out, "name", name)?;
            out.write_event(Event::End(BytesEnd::new(element)))
        }
    }
}

fn length(line: &[(f64, f64)]) -> f64 {
    line.windows(2).map(|p| distance(p[0], p[1])).sum()
}

/// The place some metres along a line.
fn along(line: &[(f64, f64)], metres: f64) -> (f64, f64) {
    let mut left = metres;
    for pair in line.windows(2) {
        let step = distance(pair[0], pair[1]);
        if step > 0.0 && left <= step {
            let part = left / step;
            let between = |a: f64, b: f64| a + (b - a) * part;
            return (between(pair[0].0, pair[1].0), between(pair[0].1, pair[1].1));
        }
        left -= step;
    }
    line[line.len() - 1]
}
