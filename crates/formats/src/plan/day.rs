//! The day and its stretches: the document, its check, its writing.

use super::rig::RigDocument;
use crate::fault::Checker;
use lake_hour_core::allowed;
use lake_hour_core::day::{
    self, Accessory, Charging, Conditions, Day, Duty, Heading, HourConditions, Keeps, SolarHour,
    Stretch, Surface,
};
use lake_hour_core::units::{Amps, Celsius, Hours, Metres, MetresPerSecond, Watts};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Minutes after midnight that an hour's change may begin at: within the longest day.
const FROM_MINUTE: allowed::Allowed = allowed::Allowed { low: 0.0, high: 11_520.0, unit: "min" };

/// The day out.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct DayDocument {
    /// Clock time of the start, `HH:MM`; 07:00 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub start: Option<String>,
    /// Temperature around the batteries. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ambient_c: Option<f64>,
    /// Temperature the batteries start at, when kept elsewhere. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub battery_start_c: Option<f64>,
    /// Days like this in a year; 30 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::OUTINGS.low, max = allowed::OUTINGS.high))]
    pub outings_per_year: Option<f64>,
    /// Days in a row without charging; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub days_without_charging: Option<f64>,
    /// A pack on which it goes slower than planned will do.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub slower_will_do: bool,
    /// Charge the batteries start with, 0 to 1; charged up to the ceiling if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::START_CHARGE.low, max = allowed::START_CHARGE.high))]
    pub start_charge: Option<f64>,
    /// What the sun gives by the hour, earliest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub solar: Vec<SolarDocument>,
    /// When an alternator, a generator or a charger gives something besides.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub charging: Vec<ChargingDocument>,
    /// Whether the charger aboard runs in the nights of an outing of several days.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub charge_overnight: bool,
    /// Clock time by which the batteries must be full again, `HH:MM`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ready_by: Option<String>,
    /// Wind. [m/s]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wind_ms: Option<f64>,
    /// The water's own current. [m/s]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub current_ms: Option<f64>,
    /// What changes by the hour, earliest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub hourly: Vec<HourlyDocument>,
    /// Where it goes: latitude and longitude in degrees, WGS 84.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub route: Vec<(f64, f64)>,
    /// What happens, in order.
    #[schemars(length(min = 1, max = day::MOST_STRETCHES))]
    pub stretches: Vec<StretchDocument>,
    /// Devices that draw all day.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub accessories: Vec<AccessoryDocument>,
}

/// One stretch of the day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StretchDocument {
    /// What it is called.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// How long. [min]
    #[schemars(range(min = allowed::MINUTES.low, max = allowed::MINUTES.high))]
    pub minutes: f64,
    /// What the motor does.
    pub load: LoadDocument,
    /// Share of the time the motor works, the rest off; 1 if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::WORKING_SHARE.low, max = allowed::WORKING_SHARE.high))]
    pub working_share: Option<f64>,
    /// `into`, `across` or `with` wind and current; into if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub heading: Option<String>,
    /// `asphalt`, `gravel`, `grass` or `sand`, for carts; asphalt if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub surface: Option<String>,
    /// Rise over run, positive uphill, for carts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::GRADE.low, max = allowed::GRADE.high))]
    pub grade: Option<f64>,
    /// Stops on the way, for carts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stops: Option<f64>,
    /// What stays where it is gone slower: `distance`, it gets somewhere, or `time`, it spends time; by its name and load if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub keeps: Option<String>,
    /// How far it goes by its setting, speed, current or power: its minutes follow from that. [m]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::DISTANCE.low, max = allowed::DISTANCE.high))]
    pub distance_m: Option<f64>,
}

/// What the motor does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum LoadDocument {
    /// Motor off.
    Off {},
    /// A steady current.
    Current {
        /// The current. [A]
        current_a: f64,
    },
    /// A steady power, until the motor is at its full setting.
    Power {
        /// The power. [W]
        power_w: f64,
    },
    /// A control setting; the motor fades as the voltage falls.
    Setting {
        /// The setting, 0 to 10.
        setting: f64,
    },
    /// A speed over the ground, held.
    Speed {
        /// The speed. [m/s]
        speed_ms: f64,
    },
    /// So far over the ground in these minutes.
    Distance {
        /// The distance. [m]
        distance_m: f64,
    },
    /// Staying in one place against wind and current.
    HoldPlace {},
}

/// What changes at a clock time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HourlyDocument {
    /// Minutes after the midnight before the start.
    pub from_min: f64,
    /// Wind from then on. [m/s]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wind_ms: Option<f64>,
    /// Current from then on. [m/s]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub current_ms: Option<f64>,
    /// Air from then on. [°C]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::TEMPERATURE.low, max = allowed::TEMPERATURE.high))]
    pub ambient_c: Option<f64>,
}

/// What panels give from a clock time on, until the next one says otherwise.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SolarDocument {
    /// Minutes after the midnight before the start.
    pub from_min: f64,
    /// Power into the pack. [W]
    #[schemars(range(min = allowed::POWER.low, max = allowed::POWER.high))]
    pub power_w: f64,
}

/// A time in which something charges the pack.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ChargingDocument {
    /// Minutes after the midnight before the start.
    pub from_min: f64,
    /// For how long. [min]
    #[schemars(range(min = allowed::MINUTES.low, max = allowed::MINUTES.high))]
    pub minutes: f64,
    /// Current into the pack. [A]
    #[schemars(range(min = allowed::CHARGER_CURRENT.low, max = allowed::CHARGER_CURRENT.high))]
    pub current_a: f64,
}

/// A device that draws all day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct AccessoryDocument {
    /// What it is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What it draws. [W]
    #[schemars(range(min = allowed::POWER.low, max = allowed::POWER.high))]
    pub power_w: f64,
    /// For how long; all day if absent. [h]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = allowed::DEVICE_HOURS.low, max = allowed::DEVICE_HOURS.high))]
    pub hours: Option<f64>,
    /// On a house battery of its own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub on_house: bool,
}

/// Whether the amps at a motor setting can be told.
pub(super) fn draw_is_known(rig: &RigDocument) -> bool {
    let motor = &rig.motor;
    motor.max_current_a.is_some() || motor.thrust_n.is_some() || !motor.settings.is_empty()
}

fn clock(c: &mut Checker, at: &str, text: &str) -> u16 {
    day::clock(text).unwrap_or_else(|| {
        c.fault(at, "must be a clock time from 00:00 to 23:59");
        0
    })
}

pub(super) fn check(c: &mut Checker, doc: &DayDocument, draw_is_known: bool) -> Day {
    c.at_most("day.stretches", doc.stretches.len(), day::MOST_STRETCHES);
    c.at_most("day.hourly", doc.hourly.len(), allowed::MOST_POINTS);
    c.at_most("day.accessories", doc.accessories.len(), allowed::MOST_POINTS);
    let stretches = doc.stretches.iter().take(day::MOST_STRETCHES).enumerate();
    let stretches: Vec<Stretch> = stretches
        .map(|(n, s)| check_stretch(c, &format!("day.stretches[{n}]"), n, s, draw_is_known))
        .collect();
    let accessories = doc.accessories.iter().take(allowed::MOST_POINTS).enumerate();
    let accessories = accessories.map(|(n, a)| check_accessory(c, n, a)).collect();
    let celsius =
        |c: &mut Checker, at, t| c.optional(at, t, &allowed::TEMPERATURE).map(Celsius::of);
    let day = Day {
        start_minute: doc.start.as_deref().map_or(7 * 60, |t| clock(c, "day.start", t)),
        ambient: celsius(c, "day.ambient_c", doc.ambient_c),
        battery_start: celsius(c, "day.battery_start_c", doc.battery_start_c),
        outings_per_year: c
            .optional("day.outings_per_year", doc.outings_per_year, &allowed::OUTINGS)
            .unwrap_or(day::DEFAULT_OUTINGS),
        days_without_charging: c.count(
            "day.days_without_charging",
            doc.days_without_charging.unwrap_or(1.0),
            &allowed::DAYS_WITHOUT_CHARGING,
        ),
        slower_will_do: doc.slower_will_do,
        start_charge: c.optional("day.start_charge", doc.start_charge, &allowed::START_CHARGE),
        solar: check_solar(c, &doc.solar),
        charging: check_charging(c, &doc.charging),
        charge_overnight: doc.charge_overnight,
        ready_by: doc.ready_by.as_deref().map(|t| clock(c, "day.ready_by", t)),
        conditions: Conditions {
            wind: speed(c, "day.wind_ms", doc.wind_ms).unwrap_or(MetresPerSecond::ZERO),
            current: speed(c, "day.current_ms", doc.current_ms).unwrap_or(MetresPerSecond::ZERO),
            air: None,
        },
        hourly: check_hourly(c, &doc.hourly),
        route: check_route(c, &doc.route),
        stretches,
        accessories,
    };
    if day.lasts() > day::LONGEST {
        let says = format!(
            "{:.0} h together; a day may last up to {:.0} h",
            day.lasts().value(),
            day::LONGEST.value()
        );
        c.fault("day.stretches", says);
    }
    day
}

fn speed(c: &mut Checker, at: impl Into<String>, ms: Option<f64>) -> Option<MetresPerSecond> {
    c.optional(at, ms, &allowed::SPEED).map(MetresPerSecond::of)
}

fn check_route(c: &mut Checker, route: &[(f64, f64)]) -> Vec<(f64, f64)> {
    c.at_most("day.route", route.len(), day::MOST_ROUTE_POINTS);
    let good = |&(lat, lon): &(f64, f64)| lat.abs() <= 90.0 && lon.abs() <= 180.0;
    if let Some(n) = route.iter().position(|p| !good(p)) {
        c.fault(
            format!("day.route[{n}]"),
            "a latitude from -90 to 90, a longitude from -180 to 180",
        );
        return Vec::new();
    }
    route.iter().take(day::MOST_ROUTE_POINTS).copied().collect()
}

fn check_hourly(c: &mut Checker, docs: &[HourlyDocument]) -> Vec<HourConditions> {
    let mut before = -1.0;
    let hours = docs.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, doc)| {
        let at = |name: &str| format!("day.hourly[{n}].{name}");
        let from = c.number(at("from_min"), doc.from_min, &FROM_MINUTE);
        if from <= before {
            c.fault(at("from_min"), "hours must rise from one to the next");
        }
        before = from;
        let air = c.optional(at("ambient_c"), doc.ambient_c, &allowed::TEMPERATURE);
        HourConditions {
            from_minute: from as u32,
            wind: speed(c, at("wind_ms"), doc.wind_ms),
            current: speed(c, at("current_ms"), doc.current_ms),
            air: air.map(Celsius::of),
        }
    });
    hours.collect()
}

fn check_solar(c: &mut Checker, docs: &[SolarDocument]) -> Vec<SolarHour> {
    c.at_most("day.solar", docs.len(), allowed::MOST_POINTS);
    let mut before = -1.0;
    let hours = docs.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, doc)| {
        let at = |name: &str| format!("day.solar[{n}].{name}");
        let from = c.number(at("from_min"), doc.from_min, &FROM_MINUTE);
        if from <= before {
            c.fault(at("from_min"), "hours must rise from one to the next");
        }
        before = from;
        let power = Watts::of(c.number(at("power_w"), doc.power_w, &allowed::POWER));
        SolarHour { from_minute: from as u32, power }
    });
    hours.collect()
}

fn check_charging(c: &mut Checker, docs: &[ChargingDocument]) -> Vec<Charging> {
    c.at_most("day.charging", docs.len(), allowed::MOST_POINTS);
    let times = docs.iter().take(allowed::MOST_POINTS).enumerate().map(|(n, doc)| {
        let at = |name: &str| format!("day.charging[{n}].{name}");
        let minutes = c.number(at("minutes"), doc.minutes, &allowed::MINUTES);
        Charging {
            from_minute: c.number(at("from_min"), doc.from_min, &FROM_MINUTE) as u32,
            lasts: Hours::from_minutes(minutes),
            current: Amps::of(c.number(at("current_a"), doc.current_a, &allowed::CHARGER_CURRENT)),
        }
    });
    times.collect()
}

/// A key out of those allowed; the first and a fault if it is none of them.
fn key<T>(
    c: &mut Checker,
    at: String,
    text: Option<&String>,
    usual: T,
    read: fn(&str) -> Option<T>,
    says: &str,
) -> T {
    match text.map(|t| read(t)) {
        None => usual,
        Some(Some(value)) => value,
        Some(None) => {
            c.fault(at, says);
            usual
        }
    }
}

pub(super) fn check_stretch(
    c: &mut Checker,
    at: &str,
    n: usize,
    doc: &StretchDocument,
    draw_is_known: bool,
) -> Stretch {
    let place = |name: &str| format!("{at}.{name}");
    let load = |name: &str| format!("{at}.load.{name}");
    let duty = match doc.load {
        LoadDocument::Off {} => Duty::Off,
        LoadDocument::Current { current_a } => {
            Duty::Current(Amps::of(c.number(load("current_a"), current_a, &allowed::CURRENT)))
        }
        LoadDocument::Power { power_w } => {
            Duty::Power(Watts::of(c.number(load("power_w"), power_w, &allowed::POWER)))
        }
        LoadDocument::Setting { setting } => {
            if !draw_is_known {
                c.fault(
                    load("setting"),
                    "needs rig.motor.max_current_a or rig.motor.settings to know the amps",
                );
            }
            Duty::Setting(c.number(load("setting"), setting, &allowed::SETTING))
        }
        LoadDocument::Speed { speed_ms } => {
            Duty::Speed(MetresPerSecond::of(c.number(load("speed_ms"), speed_ms, &allowed::SPEED)))
        }
        LoadDocument::Distance { distance_m } => {
            Duty::Distance(Metres::of(c.number(load("distance_m"), distance_m, &allowed::DISTANCE)))
        }
        LoadDocument::HoldPlace {} => Duty::HoldPlace,
    };
    Stretch {
        name: match &doc.name {
            Some(name) => c.name(place("name"), name),
            None => format!("Stretch {}", n + 1),
        },
        lasts: Hours::from_minutes(c.number(place("minutes"), doc.minutes, &allowed::MINUTES)),
        duty,
        share: c
            .optional(place("working_share"), doc.working_share, &allowed::WORKING_SHARE)
            .unwrap_or(1.0),
        heading: key(
            c,
            place("heading"),
            doc.heading.as_ref(),
            Heading::Into,
            Heading::from_key,
            "must be into, across or with",
        ),
        surface: key(
            c,
            place("surface"),
            doc.surface.as_ref(),
            Surface::Asphalt,
            Surface::from_key,
            "must be asphalt, gravel, grass or sand",
        ),
        grade: c.optional(place("grade"), doc.grade, &allowed::GRADE).unwrap_or(0.0),
        stops: c.count(place("stops"), doc.stops.unwrap_or(0.0), &allowed::STOPS),
        keeps: doc.keeps.as_ref().map(|told| {
            key(
                c,
                place("keeps"),
                Some(told),
                Keeps::Time,
                Keeps::from_key,
                "must be distance or time",
            )
        }),
        far: c.optional(place("distance_m"), doc.distance_m, &allowed::DISTANCE).map(Metres::of),
    }
}

fn check_accessory(c: &mut Checker, n: usize, doc: &AccessoryDocument) -> Accessory {
    let at = |name: &str| format!("day.accessories[{n}].{name}");
    Accessory {
        name: match &doc.name {
            Some(name) => c.name(at("name"), name),
            None => format!("Device {}", n + 1),
        },
        power: Watts::of(c.number(at("power_w"), doc.power_w, &allowed::POWER)),
        hours: c.optional(at("hours"), doc.hours, &allowed::DEVICE_HOURS).map(Hours::of),
        on_house: doc.on_house,
    }
}

/// Nothing where it is as usual, so that files stay short.
pub(super) fn unless<T: Copy + PartialEq>(value: T, usual: T) -> Option<T> {
    (value != usual).then_some(value)
}

pub(super) fn write(day: &Day) -> DayDocument {
    let ms = |v: MetresPerSecond| unless(v.value(), 0.0);
    DayDocument {
        start: Some(day::clock_words(day.start_minute)),
        ambient_c: day.ambient.map(Celsius::value),
        battery_start_c: day.battery_start.map(Celsius::value),
        outings_per_year: Some(day.outings_per_year),
        days_without_charging: unless(f64::from(day.days_without_charging), 1.0),
        slower_will_do: day.slower_will_do,
        start_charge: day.start_charge,
        solar: day
            .solar
            .iter()
            .map(|s| SolarDocument { from_min: f64::from(s.from_minute), power_w: s.power.value() })
            .collect(),
        charging: day
            .charging
            .iter()
            .map(|t| ChargingDocument {
                from_min: f64::from(t.from_minute),
                minutes: t.lasts.minutes(),
                current_a: t.current.value(),
            })
            .collect(),
        charge_overnight: day.charge_overnight,
        ready_by: day.ready_by.map(day::clock_words),
        wind_ms: ms(day.conditions.wind),
        current_ms: ms(day.conditions.current),
        hourly: day
            .hourly
            .iter()
            .map(|h| HourlyDocument {
                from_min: f64::from(h.from_minute),
                wind_ms: h.wind.map(MetresPerSecond::value),
                current_ms: h.current.map(MetresPerSecond::value),
                ambient_c: h.air.map(Celsius::value),
            })
            .collect(),
        route: day.route.clone(),
        stretches: day.stretches.iter().map(write_stretch).collect(),
        accessories: day
            .accessories
            .iter()
            .map(|a| AccessoryDocument {
                name: Some(a.name.clone()),
                power_w: a.power.value(),
                hours: a.hours.map(Hours::value),
                on_house: a.on_house,
            })
            .collect(),
    }
}

pub(super) fn write_stretch(s: &Stretch) -> StretchDocument {
    StretchDocument {
        name: Some(s.name.clone()),
        minutes: s.lasts.minutes(),
        load: match s.duty {
            Duty::Off => LoadDocument::Off {},
            Duty::Current(a) => LoadDocument::Current { current_a: a.value() },
            Duty::Power(w) => LoadDocument::Power { power_w: w.value() },
            Duty::Setting(setting) => LoadDocument::Setting { setting },
            Duty::Speed(v) => LoadDocument::Speed { speed_ms: v.value() },
            Duty::Distance(d) => LoadDocument::Distance { distance_m: d.value() },
            Duty::HoldPlace => LoadDocument::HoldPlace {},
        },
        working_share: unless(s.share, 1.0),
        heading: unless(s.heading, Heading::Into).map(|h| h.key().to_owned()),
        surface: unless(s.surface, Surface::Asphalt).map(|s| s.key().to_owned()),
        grade: unless(s.grade, 0.0),
        stops: unless(f64::from(s.stops), 0.0),
        keeps: s.keeps.map(|keeps| keeps.key().to_owned()),
        distance_m: s.far.map(Metres::value),
    }
}
