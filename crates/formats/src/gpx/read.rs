//! Reading a file as a stream.

use super::pieces::{Pieces, Point};
use super::{GpxError, Way};
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use std::io::BufRead;

/// Most points looked at: twenty days at five a second.
const MOST_POINTS: u64 = 10_000_000;
/// Deepest nesting: GPX has about eight levels with extensions.
const DEEPEST: usize = 64;
/// Longest text of an element that is looked at. [bytes]
const LONGEST_TEXT: usize = 200;

/// Reads a track, or a route where there is no track. `progress` is told the bytes read now and then, and
/// stops the reading by answering false.
///
/// # Errors
/// [`GpxError`]. Bad points, gaps and times that run backwards are no error: the way says so.
pub fn read(source: impl BufRead, mut progress: impl FnMut(u64) -> bool) -> Result<Way, GpxError> {
    let mut xml = Reader::from_reader(source);
    xml.config_mut().trim_text(true);
    let mut state = Reading::default();
    let mut buffer = Vec::new();
    let mut events = 0_u64;
    loop {
        let event = xml.read_event_into(&mut buffer).map_err(|e| GpxError::Xml {
            at: xml.error_position(),
            why: e.to_string().chars().take(LONGEST_TEXT).collect(),
        })?;
        let at = xml.buffer_position();
        match event {
            Event::Start(start) => state.open(&start, at, false)?,
            Event::Empty(start) => {
                state.open(&start, at, true)?;
                state.close()?;
            }
            Event::End(_) => state.close()?,
            Event::Text(text) => state.text(&text),
            Event::DocType(_) => return Err(GpxError::DocumentType),
            Event::Eof if state.depth > 0 || !state.is_gpx => {
                return Err(if state.is_gpx {
                    GpxError::Xml { at, why: "it breaks off".to_owned() }
                } else {
                    GpxError::NotGpx
                });
            }
            Event::Eof => break,
            _ => {}
        }
        buffer.clear();
        events += 1;
        if events.is_multiple_of(4096) && !progress(at) {
            return Err(GpxError::NoPoints);
        }
    }
    state.finish()
}

/// Which element's text is wanted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
enum Wanted {
    #[default]
    Nothing,
    Elevation,
    Time,
    Name,
}

#[derive(Debug, Default)]
struct Reading {
    is_gpx: bool,
    depth: usize,
    wanted: Wanted,
    /// The point that is open, and at which depth.
    point: Option<(Option<Point>, usize)>,
    in_track: bool,
    name: Option<String>,
    way: Option<Pieces>,
    bad: u64,
}

impl Reading {
    fn way(&mut self) -> &mut Pieces {
        self.way.get_or_insert_with(Pieces::new)
    }

    fn open(&mut self, start: &BytesStart<'_>, at: u64, empty: bool) -> Result<(), GpxError> {
        let name = start.local_name();
        let name = name.as_ref();
        if self.depth == 0 {
            if name != "gpx" {
                return Err(GpxError::NotGpx);
            }
            self.is_gpx = true;
        }
        self.depth += 1;
        if self.depth > DEEPEST {
            let why = format!("more than {DEEPEST} elements inside one another");
            return Err(GpxError::Xml { at, why });
        }
        match name {
            "trkpt" | "rtept" if self.point.is_none() => {
                if name == "trkpt" && !self.in_track {
                    // A track tells what was; a route in the same file only what was meant.
                    self.in_track = true;
                    self.way = None;
                }
                let ignored = name == "rtept" && self.in_track;
                let place = if ignored { None } else { place(start) };
                if place.is_none() && !ignored {
                    self.bad += 1;
                }
                let point = place.map(|at| Point { at, elevation: None, time: None });
                self.point = Some((point, self.depth));
            }
            "trkseg" if self.in_track => self.way().interrupt(),
            "ele" if self.direct() => self.wanted = Wanted::Elevation,
            "time" if self.direct() => self.wanted = Wanted::Time,
            "name" if self.point.is_none() && self.name.is_none() => self.wanted = Wanted::Name,
            _ => {}
        }
        if empty {
            self.wanted = Wanted::Nothing;
        }
        Ok(())
    }

    /// Whether the element just opened is a child of the open point itself.
    fn direct(&self) -> bool {
        self.point.is_some_and(|(_, depth)| self.depth == depth + 1)
    }

    fn text(&mut self, text: &str) {
        let wanted = std::mem::take(&mut self.wanted);
        if text.len() > LONGEST_TEXT {
            return;
        }
        let point = self.point.as_mut().and_then(|(p, _)| p.as_mut());
        match (wanted, point) {
            (Wanted::Elevation, Some(point)) => {
                let height = text.trim().parse::<f64>().ok();
                point.elevation = height.filter(|h| (-500.0..=9000.0).contains(h));
            }
            (Wanted::Time, Some(point)) => {
                let time = text.trim().parse::<jiff::Timestamp>().ok();
                point.time = time.map(|t| t.as_millisecond() as f64 / 1000.0);
            }
            (Wanted::Name, None) => {
                self.name = lake_hour_core::allowed::name(text).ok();
            }
            _ => {}
        }
    }

    fn close(&mut self) -> Result<(), GpxError> {
        self.wanted = Wanted::Nothing;
        if let Some((point, depth)) = self.point
            && depth == self.depth
        {
            self.point = None;
            if let Some(point) = point {
                self.way().add(point);
                if self.way().points > MOST_POINTS {
                    return Err(GpxError::TooMany(MOST_POINTS));
                }
            }
        }
        self.depth = self.depth.saturating_sub(1);
        Ok(())
    }

    fn finish(self) -> Result<Way, GpxError> {
        let mut way = self.way.ok_or(GpxError::NoPoints)?;
        let pieces = way.finish();
        if pieces.is_empty() {
            return Err(GpxError::NoPoints);
        }
        let mut odd = Vec::new();
        let mut say = |count: u64, one: &str, many: &str| {
            if count > 0 {
                let what = if count == 1 { one } else { many };
                odd.push(format!("{count} {what}"));
            }
        };
        say(
            self.bad,
            "point without a place on earth was left out.",
            "points without a place on earth were left out.",
        );
        say(way.gaps, "gap is not counted.", "gaps are not counted.");
        say(
            way.jumps,
            "jump faster than 60 m/s is not counted.",
            "jumps faster than 60 m/s are not counted.",
        );
        say(
            way.backwards,
            "step back in time is not counted.",
            "steps back in time are not counted.",
        );
        let timed = way.timed * 2 > way.points;
        if !timed {
            odd.push("It has no times: a usual speed is taken.".to_owned());
        }
        let start_minute = way.first_time.map(|t| (t.rem_euclid(86_400.0) / 60.0).floor() as u16);
        Ok(Way {
            name: self.name,
            points: way.points,
            pieces,
            line: std::mem::take(&mut way.line),
            timed,
            start_minute,
            begins: way.first_time.map(|t| t as i64),
            odd,
        })
    }
}

/// Latitude and longitude of a point, if they are on the earth.
fn place(start: &BytesStart<'_>) -> Option<(f64, f64)> {
    let mut place = (None, None);
    for attribute in start.attributes().flatten() {
        let value = || attribute.value.trim().parse::<f64>().ok();
        match attribute.key.local_name().as_ref() {
            "lat" => place.0 = value(),
            "lon" => place.1 = value(),
            _ => {}
        }
    }
    let (lat, lon) = (place.0?, place.1?);
    ((-90.0..=90.0).contains(&lat) && (-180.0..=180.0).contains(&lon)).then_some((lat, lon))
}
