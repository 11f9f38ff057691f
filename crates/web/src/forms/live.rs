//! Under way: how a trip begins, and what is read off a meter on it.

use super::{Field, Problems, Reader, Shown, Spec, Typed};
use crate::frame::trips::{Address, table};
use lake_hour_core::allowed;
use lake_hour_core::live::{Begins, ByHand, Gauge, WayBack, is_of_another_system};
use lake_hour_core::units::system::{Measure, System};
use lake_hour_core::units::{Amps, Celsius, Metres, Volts};
use lake_hour_formats::underway::Source;

const SOURCES: &[(&str, &str)] = &[
    ("hand", "by hand: I read a meter"),
    ("signalk", "a Signal K server"),
    ("file", "a monitor's CSV file"),
];
const BACKS: &[(&str, &str)] = &[("straight", "straight"), ("track", "back along my track")];

const BEGIN: &[Spec] = &[
    Spec::choice("source", "Listen to", SOURCES),
    Spec {
        hint: "for Signal K: 192.168.1.20:3000",
        signs: true,
        ..Spec::words("address", "Its address")
    },
    Spec { hint: "for a file: its whole path here", ..Spec::words("path", "The file") },
    Spec::figure("start", "Charge now", "%", "100 if its charger ended"),
    Spec::choice("back", "The way home", BACKS),
    Spec::measure("warm", "Battery at", Measure::Temperature, "the day's air if blank"),
];

/// Kinds of meters, by the keys of [`Gauge`].
const GAUGES: &[(&str, &str)] = &[
    ("", "not said"),
    ("shunt", "a shunt, set at full"),
    ("bms", "the battery's BMS"),
    ("volts", "a voltage gauge"),
    ("feel", "no meter: my feel"),
];

const READ: &[Spec] = &[
    Spec::figure("meter", "Meter", "%", "if it has one"),
    Spec::choice("gauge", "The meter is", GAUGES),
    Spec::figure("volts", "Volts", "V", "of the whole pack"),
    Spec::figure("amps", "Amps", "A", "drawn now; 0 if it rests"),
    Spec::measure("far", "Home is", Measure::Distance, "if you know"),
    Spec::tick(SURE, "I am sure of the volts"),
];
/// Asked for only where volts are of another system.
const SURE: &str = "sure";

pub(crate) fn begin_fields(form: Shown<'_>) -> Vec<Field> {
    form.fields("begin", BEGIN)
}

pub(crate) fn read_fields(form: Shown<'_>) -> Vec<Field> {
    let is_asked = form.problems.get("volts").is_some() || !form.typed.get(SURE).is_empty();
    let mut all = READ.to_vec();
    all.retain(|spec| is_asked || spec.name != SURE);
    form.fields("read", &all)
}

/// A reading's form, with the kind of meter that was named last.
pub(crate) fn read_typed(gauge: Option<Gauge>) -> Typed {
    Typed::default().with("gauge", gauge.filter(|g| *g != Gauge::Unknown).map_or("", Gauge::key))
}

/// A new trip's form, as the last one was begun.
pub(crate) fn begin_typed(before: Option<(&Source, &WayBack)>) -> Typed {
    let (source, back) = match before {
        Some((source, back)) => (source, back),
        None => (&Source::Hand, &WayBack::Straight),
    };
    let typed = match source {
        Source::Hand | Source::StandIn { .. } => Typed::default().with("source", "hand"),
        Source::SignalK { address, .. } => {
            Typed::default().with("source", "signalk").with("address", address.as_str())
        }
        Source::File { path } => {
            Typed::default().with("source", "file").with("path", path.as_str())
        }
    };
    typed.with("back", if *back == WayBack::Track { "track" } else { "straight" })
}

/// How a trip begins, as it was typed.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Begin {
    pub(crate) source: Source,
    /// As it was typed; `None` where it was left blank.
    pub(crate) begins: Option<Begins>,
    pub(crate) back: WayBack,
    pub(crate) warm: Option<Celsius>,
}

pub(crate) fn read_begin(typed: &Typed, units: System) -> Result<Begin, Problems> {
    let mut r = Reader::of(typed, units);
    let source = match r.choice("source", |key| SOURCES.iter().map(|s| s.0).find(|k| *k == key)) {
        Some("signalk") => {
            let read = r.text("address").map(Address::read);
            let address = read.and_then(|read| r.keep("address", read));
            address.map(|a| Source::SignalK { address: a.words(), batteries: Default::default() })
        }
        Some("file") => {
            let read = r.text("path").map(table);
            let path = read.and_then(|read| r.keep("path", read));
            path.map(|p| Source::File { path: p.to_string_lossy().into_owned() })
        }
        Some(_) => Some(Source::Hand),
        None => None,
    };
    let start = match r.optional("start", &allowed::METERED_PERCENT) {
        Some(Some(percent)) if percent < 1.0 => {
            r.problem("start", "An empty battery is charged first: type 1 to 100, as in 80.");
            None
        }
        Some(Some(percent)) if percent < 100.0 => Some(Some(Begins::About(percent / 100.0))),
        Some(Some(_)) => Some(Some(Begins::Full)),
        Some(None) => Some(None),
        None => None,
    };
    let back = r.choice("back", |key| match key {
        "track" => Some(WayBack::Track),
        "straight" => Some(WayBack::Straight),
        _ => None,
    });
    let warm = r.measure_if("warm", Measure::Temperature, &allowed::TEMPERATURE);
    let read = (|| {
        Some(Begin { source: source?, begins: start?, back: back?, warm: warm?.map(Celsius::of) })
    })();
    r.finish(read)
}

/// What was read of a pack of so many volts.
pub(crate) fn read_reading(
    typed: &Typed,
    units: System,
    nominal: Volts,
) -> Result<ByHand, Problems> {
    let mut r = Reader::of(typed, units);
    let volts = r.optional("volts", &allowed::VOLTS_UNDER_LOAD);
    let amps = r.optional("amps", &allowed::METERED_CURRENT);
    let meter = r.optional("meter", &allowed::METERED_PERCENT);
    let gauge = r.choice("gauge", |key| match key {
        "" => Some(None),
        key => Gauge::from_key(key).map(Some),
    });
    let far = r.measure_if("far", Measure::Distance, &allowed::DISTANCE);
    if let Some(Some(read)) = volts
        && is_of_another_system(Volts::of(read), nominal)
        && !r.ticked(SURE)
    {
        let say = |share: f64| nominal.value() * share;
        r.problem(
            "volts",
            format!(
                "{read} V is not from this {:.0} V pack, which gives {:.0} to {:.0} V. Read it across the whole pack, or leave it blank. If your meter says so again, tick that you are sure: it is shown, and the charge does not follow it.",
                nominal.value(),
                say(0.7),
                say(1.25)
            ),
        );
    }
    let read = (|| {
        Some(ByHand {
            volts: volts?.map(Volts::of),
            current: amps?.map(Amps::of),
            meter: meter?.map(|percent| percent / 100.0),
            gauge: gauge?,
            far: far?.map(Metres::of),
        })
    })();
    if read.is_some_and(|read| ByHand { gauge: None, ..read } == ByHand::default()) {
        r.problem("volts", "Type what you read: volts and amps, or a meter's percent.");
    }
    r.finish(read)
}
