//! `lake-hour/trip`, version 1: what a trip under way began with, and all that was heard of it, one JSON object a line.

use crate::fault::{Checker, Faults};
use crate::plan::{self, PlanDocument};
use lake_hour_core::live::{Begins, ByHand, Clue, Gauge, Heard, Path, Place, Setup, Told, WayBack};
use lake_hour_core::units::{Amps, Celsius, Metres, MetresPerSecond, Volts};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What a document calls itself.
pub const FORMAT: &str = "lake-hour/trip";
/// The version this program writes, and the newest it reads.
pub const VERSION: u32 = 1;

/// What a battery of a source is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Which {
    /// The pack as a whole.
    Pack,
    /// One of its units in series, counted from 1.
    Unit(u32),
    /// Another one: a house battery, a starter.
    Other,
}

/// Where what is heard comes from.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Source {
    /// Nothing: what is read off is typed.
    #[default]
    Hand,
    /// A Signal K server.
    SignalK {
        /// As in `ws://192.168.1.20:3000/signalk/v1/stream`.
        address: String,
        /// Which of its batteries is which.
        #[serde(default)]
        batteries: BTreeMap<String, Which>,
    },
    /// A CSV file that grows.
    File {
        /// Where.
        path: String,
    },
    /// The stand-in that ships with the program.
    StandIn {
        /// Times as fast as the clock.
        speed: f64,
        /// What is true of its day is drawn of this.
        seed: u64,
    },
}

/// What a trip began with.
#[derive(Debug, Clone, PartialEq)]
pub struct Begun {
    /// What it counts from.
    pub setup: Setup,
    /// Where what is heard comes from.
    pub source: Source,
    /// The kind of meter that is read by hand, where it was said.
    pub gauge: Option<Gauge>,
}

#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Document {
    format: String,
    version: u32,
    plan: PlanDocument,
    /// Charge at the start, 0 to 1; full where not told and not called so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    start_charge: Option<f64>,
    /// One standard deviation of it, where a log knows it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    start_unsure: Option<f64>,
    /// Nobody said how full it began.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    start_not_said: bool,
    /// The kind of meter that is read by hand.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    gauge: Option<String>,
    warm_c: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    launch: Option<(f64, f64)>,
    #[serde(default)]
    back: BackDocument,
    #[serde(default)]
    source: Source,
}

#[derive(Debug, Clone, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
enum BackDocument {
    #[default]
    Straight,
    Track,
    /// Latitude, longitude, height in meters where it is told.
    Route(Vec<(f64, f64, Option<f64>)>),
}

/// As text.
///
/// # Errors
/// [`Faults`] where it cannot be written.
pub fn write(begun: &Begun) -> Result<String, Faults> {
    let Setup { plan, begins, warm, launch, back, sensed: _ } = &begun.setup;
    let document = Document {
        format: FORMAT.to_owned(),
        version: VERSION,
        plan: plan::write(plan),
        start_charge: match begins {
            Begins::Full | Begins::NotSaid => None,
            Begins::About(share) | Begins::Logged { charge: share, .. } => Some(*share),
        },
        start_unsure: match begins {
            Begins::Logged { unsure, .. } => Some(*unsure),
            _ => None,
        },
        start_not_said: *begins == Begins::NotSaid,
        gauge: begun.gauge.map(|gauge| gauge.key().to_owned()),
        warm_c: warm.value(),
        launch: launch.map(Place::degrees),
        back: match back {
            WayBack::Straight => BackDocument::Straight,
            WayBack::Track => BackDocument::Track,
            WayBack::Route(path) => BackDocument::Route(
                path.points()
                    .map(|(place, height)| {
                        let (lat, lon) = place.degrees();
                        (lat, lon, height)
                    })
                    .collect(),
            ),
        },
        source: begun.source.clone(),
    };
    serde_json::to_string(&document).map_err(|e| Faults::one("", e.to_string()))
}

/// From its text.
///
/// # Errors
/// [`Faults`] where it is none, or its figures are not allowed.
pub fn read(text: &str) -> Result<Begun, Faults> {
    let document: Document =
        serde_json::from_str(text).map_err(|e| Faults::one("", e.to_string()))?;
    if document.format != FORMAT || document.version != VERSION {
        return Err(Faults::one("format", "is not one that this program reads"));
    }
    let plan = plan::check(&document.plan)?;
    let mut c = Checker::default();
    // A log may know a pack to be empty; nobody begins with one that they call so.
    let least = if document.start_unsure.is_some() { 0.0 } else { 0.01 };
    if document.start_charge.is_some_and(|s| !(least..=1.0).contains(&s)) {
        c.fault("start_charge", "must be from 0.01 to 1, as in 0.8");
    }
    if document.start_unsure.is_some_and(|s| !(0.0..=1.0).contains(&s)) {
        c.fault("start_unsure", "must be from 0 to 1, as in 0.08");
    }
    let gauge = document.gauge.as_deref().map(Gauge::from_key);
    if gauge == Some(None) {
        c.fault("gauge", format!("must be one of {}", Gauge::keys()));
    }
    let begins = match (document.start_charge, document.start_unsure) {
        _ if document.start_not_said => Begins::NotSaid,
        (Some(charge), Some(unsure)) => Begins::Logged { charge, unsure },
        (Some(share), None) => Begins::About(share),
        (None, _) => Begins::Full,
    };
    let warm = Celsius::try_new(document.warm_c).ok().filter(|c| c.value().abs() <= 90.0);
    if warm.is_none() {
        c.fault("warm_c", "must be from -90 to 90, as in 20");
    }
    let place = |lat: f64, lon: f64| Place::of(lat, lon);
    let back = match document.back {
        BackDocument::Straight => WayBack::Straight,
        BackDocument::Track => WayBack::Track,
        BackDocument::Route(points) => WayBack::Route(Path::of(
            points.into_iter().filter_map(|(lat, lon, height)| Some((place(lat, lon)?, height))),
        )),
    };
    c.finish(())?;
    Ok(Begun {
        setup: Setup {
            plan,
            begins,
            warm: warm.unwrap_or(Celsius::of(20.0)),
            launch: document.launch.and_then(|(lat, lon)| place(lat, lon)),
            back,
            sensed: document.source != Source::Hand,
        },
        source: document.source,
        gauge: gauge.flatten(),
    })
}

/// Something that was heard, or done, at a moment of a trip.
#[derive(Debug, Clone, PartialEq)]
pub enum Event {
    /// A source told this; nothing where it was silent.
    Heard(Told),
    /// Somebody typed this.
    Typed(ByHand),
    /// It turned for home, or not after all.
    Turned(bool),
    /// Of two that clash somebody said which is right; nothing where they are not sure.
    Answered(Option<Clue>),
}

/// As it stands in a line. Letters are short: there are tens of thousands of them.
#[derive(Debug, Default, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Line {
    /// Since the trip began. [s]
    t: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    v: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    a: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    m: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    w: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    s: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    p: Option<(f64, f64)>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    u: Vec<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    far: Option<f64>,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    hand: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    home: Option<bool>,
    /// The kind of meter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    g: Option<String>,
    /// Which of two is right, or `unsure`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    right: Option<String>,
}

/// Neither is known to be right.
const UNSURE: &str = "unsure";

/// One line of what was heard, with its end; when, in seconds since the trip began.
pub fn line(at: f64, event: &Event) -> String {
    let rounded = |value: f64, steps: f64| (value * steps).round() / steps;
    let line = Line { t: rounded(at, 100.0), ..Line::default() };
    let line = match event {
        Event::Heard(told) => Line {
            v: told.pack.volts.map(|v| rounded(v.value(), 1000.0)),
            a: told.pack.current.map(|a| rounded(a.value(), 1000.0)),
            m: told.meter.map(|m| rounded(m, 10_000.0)),
            w: told.warm.map(|w| rounded(w.value(), 10.0)),
            s: told.speed.map(|s| rounded(s.value(), 1000.0)),
            p: told.place.map(|p| {
                let (lat, lon) = p.degrees();
                (rounded(lat, 1e7), rounded(lon, 1e7))
            }),
            u: told.units.iter().map(|v| rounded(v.value(), 1000.0)).collect(),
            ..line
        },
        Event::Typed(hand) => Line {
            v: hand.volts.map(Volts::value),
            a: hand.current.map(Amps::value),
            m: hand.meter,
            far: hand.far.map(Metres::value),
            g: hand.gauge.map(|gauge| gauge.key().to_owned()),
            hand: true,
            ..line
        },
        Event::Turned(home) => Line { home: Some(*home), ..line },
        Event::Answered(right) => {
            Line { right: Some(right.map_or(UNSURE, Clue::key).to_owned()), ..line }
        }
    };
    // Its figures are finite, and a line of them is always text.
    serde_json::to_string(&line).map(|text| text + "\n").unwrap_or_default()
}

/// What was heard, from its lines: when, in seconds since the trip began, and what. Lines that cannot be read are left out.
pub fn lines(text: &str) -> impl Iterator<Item = (f64, Event)> + '_ {
    text.lines().filter_map(|text| {
        let line: Line = serde_json::from_str(text).ok()?;
        let volts = |v: Option<f64>| v.and_then(|v| Volts::try_new(v).ok());
        let amps = line.a.and_then(|a| Amps::try_new(a).ok());
        let event = if let Some(home) = line.home {
            Event::Turned(home)
        } else if let Some(right) = &line.right {
            Event::Answered(Clue::from_key(right))
        } else if line.hand {
            Event::Typed(ByHand {
                volts: volts(line.v),
                current: amps,
                meter: line.m,
                gauge: line.g.as_deref().and_then(Gauge::from_key),
                far: line.far.and_then(|f| Metres::try_new(f).ok()),
            })
        } else {
            Event::Heard(Told {
                pack: Heard { volts: volts(line.v), current: amps },
                meter: line.m,
                warm: line.w.and_then(|w| Celsius::try_new(w).ok()),
                speed: line.s.and_then(|s| MetresPerSecond::try_new(s).ok()),
                place: line.p.and_then(|(lat, lon)| Place::of(lat, lon)),
                units: line.u.iter().filter_map(|v| Volts::try_new(*v).ok()).collect(),
            })
        };
        line.t.is_finite().then_some((line.t, event))
    })
}

#[cfg(test)]
mod tests;
