//! Signal K deltas (open marine data format, Signal K specification 1.7): what a monitor and a receiver tell, read leniently.
//!
//! One value comes often alone, strings come for numbers, nulls for what a sensor does not know: what cannot be read is counted
//! and passed over, never taken for nothing.

use lake_hour_core::live::Place;
use serde_json::Value;
use std::collections::BTreeMap;

/// What is told of one battery. Volts, amps, charge, kelvins as they come.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct BatteryTold {
    /// [V]
    pub volts: Option<f64>,
    /// Positive when it is discharged: the format has what charges positive. [A]
    pub amps: Option<f64>,
    /// [K]
    pub kelvins: Option<f64>,
    /// 0 to 1.
    pub charge: Option<f64>,
}

/// What a message tells.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Told {
    /// By the battery's own name in the data.
    pub batteries: BTreeMap<String, BatteryTold>,
    /// Where it is.
    pub place: Option<Place>,
    /// Speed over ground. [m/s]
    pub speed: Option<f64>,
    /// Values that could not be read.
    pub unreadable: u32,
}

/// What a message is.
#[derive(Debug, Clone, PartialEq)]
pub enum Message {
    /// The server's greeting: its name, and how fast it plays where it is our stand-in.
    Hello {
        /// As it calls itself.
        name: String,
        /// Times as fast as the clock.
        plays: Option<f64>,
    },
    /// Values.
    Delta(Told),
    /// Something else of the format, or of another boat.
    Other,
}

/// Most batteries that are told apart, and longest name of one.
const MOST_BATTERIES: usize = 32;
const LONGEST_NAME: usize = 60;
/// Most values of one message.
const MOST_VALUES: usize = 2000;
/// What can be of a boat or cart: beyond it a figure is none. [V], [A], [K], [m/s]
const VOLTS: (f64, f64) = (0.0, 2000.0);
const AMPS: (f64, f64) = (-5000.0, 5000.0);
const KELVINS: (f64, f64) = (200.0, 400.0);
const SPEED: (f64, f64) = (0.0, 60.0);

/// Reads a message; `None` where it is no JSON object.
pub fn read(text: &str) -> Option<Message> {
    let value: Value = serde_json::from_str(text).ok()?;
    let object = value.as_object()?;
    let Some(updates) = object.get("updates").and_then(Value::as_array) else {
        let is_hello = object.contains_key("self") && object.contains_key("version");
        if !is_hello {
            return Some(Message::Other);
        }
        let name = object.get("name").and_then(Value::as_str).unwrap_or("Signal K server");
        let plays = object.get("lakeHourStandIn").and_then(|s| s.get("speed")).and_then(number);
        return Some(Message::Hello {
            name: name.chars().take(LONGEST_NAME).collect(),
            plays: plays.filter(|p| (0.1..=3600.0).contains(p)),
        });
    };
    // Streams of others' positions come over the same wire; a context that is not told is our own.
    let context = object.get("context").and_then(Value::as_str).unwrap_or("vessels.self");
    if !context.starts_with("vessels.") || context.contains("mmsi") {
        return Some(Message::Other);
    }
    let mut told = Told::default();
    let values = updates.iter().filter_map(|u| u.get("values")?.as_array()).flatten();
    for value in values.take(MOST_VALUES) {
        let (Some(path), Some(value)) =
            (value.get("path").and_then(Value::as_str), value.get("value"))
        else {
            told.unreadable += 1;
            continue;
        };
        if value.is_null() {
            continue;
        }
        told.take(path, value);
    }
    Some(Message::Delta(told))
}

impl Told {
    fn take(&mut self, path: &str, value: &Value) {
        if let Some(rest) = path.strip_prefix("electrical.batteries.") {
            let Some((id, what)) = rest.split_once('.') else { return };
            return self.take_battery(id, what, value);
        }
        match path {
            "navigation.position" => {
                let of = |key: &str| value.get(key).and_then(number);
                // A receiver that knows nothing believes itself to be at 0, 0.
                let known = |(lat, lon): &(f64, f64)| lat.abs() > 1e-9 || lon.abs() > 1e-9;
                let place = of("latitude").zip(of("longitude")).filter(known);
                match place.and_then(|(lat, lon)| Place::of(lat, lon)) {
                    Some(place) => self.place = Some(place),
                    None => self.unreadable += 1,
                }
            }
            "navigation.speedOverGround" => match within(value, SPEED) {
                Some(speed) => self.speed = Some(speed),
                None => self.unreadable += 1,
            },
            _ => {}
        }
    }

    fn take_battery(&mut self, id: &str, what: &str, value: &Value) {
        if id.is_empty() || id.len() > LONGEST_NAME {
            return;
        }
        let within = match what {
            "voltage" => within(value, VOLTS),
            "current" => within(value, AMPS),
            "temperature" => within(value, KELVINS),
            "capacity.stateOfCharge" => match number(value) {
                // Some tell a percent where a ratio belongs.
                Some(percent) if (1.5..=100.0).contains(&percent) => Some(percent / 100.0),
                Some(ratio) if (0.0..=1.0).contains(&ratio) => Some(ratio),
                _ => None,
            },
            _ => return,
        };
        let Some(figure) = within else {
            self.unreadable += 1;
            return;
        };
        if self.batteries.len() >= MOST_BATTERIES && !self.batteries.contains_key(id) {
            return;
        }
        let battery = self.batteries.entry(id.to_owned()).or_default();
        match what {
            "voltage" => battery.volts = Some(figure),
            "current" => battery.amps = Some(-figure),
            "temperature" => battery.kelvins = Some(figure),
            _ => battery.charge = Some(figure),
        }
    }
}

/// A number, or one written as a string.
fn number(value: &Value) -> Option<f64> {
    let number = match value {
        Value::Number(n) => n.as_f64()?,
        Value::String(text) => text.trim().parse().ok()?,
        _ => return None,
    };
    number.is_finite().then_some(number)
}

fn within(value: &Value, (low, high): (f64, f64)) -> Option<f64> {
    number(value).filter(|n| (low..=high).contains(n))
}

/// What is asked of a server: its own vessel's batteries, place and speed, no more than once a second.
pub fn subscription() -> String {
    let of = |path: &str| serde_json::json!({"path": path, "period": 1000, "policy": "instant", "minPeriod": 500});
    serde_json::json!({"context": "vessels.self", "subscribe": [
        of("electrical.batteries.*"), of("navigation.position"), of("navigation.speedOverGround")]})
    .to_string()
}

#[cfg(test)]
mod tests;
