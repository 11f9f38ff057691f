//! The day as its owner tells it: stretches of duty, one after another.

mod conditions;
mod templates;

pub use conditions::{Conditions, Heading, HourConditions, Surface};
pub use templates::{Template, templates};

use crate::keyed::keyed;
use crate::units::{Amps, Celsius, Hours, Metres, MetresPerSecond, Watts};

/// Longest day that can be worked out, motor stops included. [h]
pub const LONGEST: Hours = Hours::of(7.0 * 24.0);
/// Days out in a year, when not told.
pub const DEFAULT_OUTINGS: f64 = 30.0;
/// Most points of a route that are kept.
pub const MOST_ROUTE_POINTS: usize = 400;
/// Most stretches a day may have.
pub const MOST_STRETCHES: usize = 400;

/// A day on the water or the road.
#[derive(Debug, Clone, PartialEq)]
pub struct Day {
    /// Minute of the day at which it starts, 0 to 1439.
    pub start_minute: u16,
    /// Temperature around the batteries, if told. [°C]
    pub ambient: Option<Celsius>,
    /// Temperature the batteries start the day at, when kept elsewhere. [°C]
    pub battery_start: Option<Celsius>,
    /// Days like this in a year.
    pub outings_per_year: f64,
    /// Days in a row without charging in between, at least 1.
    pub days_without_charging: u32,
    /// Charge that the batteries start with, above 0 to 1; charged up to the ceiling of the house when not told.
    pub start_charge: Option<f64>,
    /// What the sun gives, earliest first.
    pub solar: Vec<SolarHour>,
    /// When an alternator, a generator or a charger gives something besides.
    pub charging: Vec<Charging>,
    /// Whether the charger that is aboard runs in the nights of an outing of several days, in its hours.
    pub charge_overnight: bool,
    /// Minute of the day by which the batteries must be full again.
    pub ready_by: Option<u16>,
    /// Wind and current, unless an hour says otherwise.
    pub conditions: Conditions,
    /// What changes by the hour, earliest first.
    pub hourly: Vec<HourConditions>,
    /// Where it goes, (latitude, longitude) in degrees, WGS 84; empty when not told.
    pub route: Vec<(f64, f64)>,
    /// What happens, in order.
    pub stretches: Vec<Stretch>,
    /// What runs all day beside the motor.
    pub accessories: Vec<Accessory>,
    /// Its owner does not mind a pack on which it goes slower than planned.
    pub slower_will_do: bool,
}

/// One stretch of the day at one duty.
#[derive(Debug, Clone, PartialEq)]
pub struct Stretch {
    /// What it is called.
    pub name: String,
    /// How long it lasts. [h]
    pub lasts: Hours,
    /// What the motor does.
    pub duty: Duty,
    /// Share of the time it does it, above 0 to 1; it is off for the rest ("a third of the time at 7,
    /// the rest drifting").
    pub share: f64,
    /// How wind and current stand to it.
    pub heading: Heading,
    /// What a cart rolls on.
    pub surface: Surface,
    /// Rise over run of the road, positive uphill.
    pub grade: f64,
    /// Stops of a cart on the way.
    pub stops: u32,
    /// What of it stays where it is gone slower, if told; see [`Self::keeps_on`].
    pub keeps: Option<Keeps>,
    /// How far it goes, where that is told and its time follows, see [`Plan::measured_out`](crate::plan::Plan::measured_out). [m]
    pub far: Option<Metres>,
}

keyed! {
    /// What of a stretch stays where another pack, or more wind, makes it slower.
    pub enum Keeps {
        /// It gets somewhere: as far as planned, in more time.
        Distance,
        /// It spends time: as long as planned, and slower.
        Time,
    }
}

impl Stretch {
    /// The same for so many times its time, as fast as before and so much farther.
    #[must_use]
    pub fn lengthened(mut self, times: f64) -> Self {
        self.lasts = self.lasts * times;
        self.far = self.far.map(|far| far * times);
        if let Duty::Distance(far) = &mut self.duty {
            *far = *far * times;
        }
        self
    }

    /// A stretch at one duty all the time, into the wind, on a level road.
    pub fn new(name: impl Into<String>, lasts: Hours, duty: Duty) -> Self {
        Self {
            name: name.into(),
            lasts,
            duty,
            share: 1.0,
            heading: Heading::Into,
            surface: Surface::Asphalt,
            grade: 0.0,
            stops: 0,
            keeps: None,
            far: None,
        }
    }

    /// What of it stays where it is gone slower: as told, else by its load and its name.
    ///
    /// So many miles and a cart's round get somewhere, a place that is held and a motor that is off spend time. A speed, a setting, a
    /// current or a power does either: names such as "Out", "Across" or "Home" get somewhere, "Trolling" or "Drift" spend time; where
    /// the name says nothing a speed gets somewhere and the rest spends time. A choice.
    pub fn keeps_on(&self, boat: bool) -> Keeps {
        if self.far.is_some() {
            return Keeps::Distance;
        }
        match (self.keeps, self.duty) {
            (_, Duty::Off | Duty::HoldPlace) => Keeps::Time,
            (_, Duty::Distance(_)) => Keeps::Distance,
            (Some(told), _) => told,
            (None, _) if !boat => Keeps::Distance,
            (None, duty) => {
                let name = self.name.to_lowercase();
                let says = |all: &[&str]| {
                    let mut words = name.split(|c: char| !c.is_alphabetic());
                    words.any(|word| all.contains(&word))
                };
                match duty {
                    _ if says(&SPENDS_TIME) => Keeps::Time,
                    Duty::Speed(_) => Keeps::Distance,
                    _ if says(&GETS_SOMEWHERE) => Keeps::Distance,
                    _ => Keeps::Time,
                }
            }
        }
    }
}

/// Words of names that tell of getting somewhere, and of spending time. A choice.
const GETS_SOMEWHERE: [&str; 16] = [
    "out", "across", "cross", "home", "back", "return", "run", "ride", "transit", "transect",
    "round", "loop", "leg", "crossing", "way", "to",
];
const SPENDS_TIME: [&str; 14] = [
    "troll", "trolling", "drift", "drifting", "hold", "holding", "fish", "fishing", "cast",
    "casting", "cut", "cutting", "idle", "work",
];

/// What the motor is asked to do during a stretch.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Duty {
    /// Motor off.
    Off,
    /// A steady current, whatever the voltage. [A]
    Current(Amps),
    /// A steady power: the current rises as the voltage falls. [W]
    Power(Watts),
    /// A control setting, 0 to 10: the motor fades as the voltage falls.
    Setting(f64),
    /// A speed over the ground, held. [m/s]
    Speed(MetresPerSecond),
    /// So far over the ground in the time of the stretch. [m]
    Distance(Metres),
    /// Staying in one place against wind and current.
    HoldPlace,
}

/// A device that draws power.
#[derive(Debug, Clone, PartialEq)]
pub struct Accessory {
    /// What it is.
    pub name: String,
    /// What it draws. [W]
    pub power: Watts,
    /// For how long; all day when not told. [h]
    pub hours: Option<Hours>,
    /// On a house battery of its own, not on the traction pack.
    pub on_house: bool,
}

/// What panels give into the battery from a clock time on, until the next one says otherwise.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SolarHour {
    /// Minutes after the midnight before the start.
    pub from_minute: u32,
    /// Power into the battery. [W]
    pub power: Watts,
}

/// A time in which something charges besides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Charging {
    /// Minutes after the midnight before the start.
    pub from_minute: u32,
    /// For how long. [h]
    pub lasts: Hours,
    /// Current into the pack. [A]
    pub current: Amps,
}

/// A part of a stretch in which nothing around it changes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// How long. [h]
    pub lasts: Hours,
    /// Wind, current and air.
    pub conditions: Conditions,
    /// What the sun gives. [W]
    pub sun: Watts,
    /// What charges besides. [A]
    pub charging: Amps,
}

/// Shorter parts than this are not cut off. [h]
const SHORTEST_PART: f64 = 1e-6;

impl Day {
    /// The parts of the time from `from` to `to` after the start, cut wherever the weather, the sun or a charger
    /// changes: so that a stretch told in two comes to the same.
    pub fn parts(&self, from: Hours, to: Hours) -> Vec<Part> {
        let after = |minute: f64| (minute - f64::from(self.start_minute)) / 60.0;
        let mut cuts: Vec<f64> =
            self.hourly.iter().map(|h| after(f64::from(h.from_minute))).collect();
        cuts.extend(self.solar.iter().map(|s| after(f64::from(s.from_minute))));
        for c in &self.charging {
            let begins = after(f64::from(c.from_minute));
            cuts.extend([begins, begins + c.lasts.value()]);
        }
        let (from, to) = (from.value(), to.value());
        cuts.retain(|cut| *cut > from + SHORTEST_PART && *cut < to - SHORTEST_PART);
        cuts.push(to);
        cuts.sort_by(f64::total_cmp);
        let mut begins = from;
        let mut parts = Vec::with_capacity(cuts.len());
        for cut in cuts {
            if cut - begins <= SHORTEST_PART && begins > from {
                continue;
            }
            let middle = Hours::of(0.5 * (begins + cut));
            parts.push(Part {
                lasts: Hours::of(cut - begins),
                conditions: self.conditions_at(middle),
                sun: self.sun_at(middle),
                charging: self.charging_at(middle),
            });
            begins = cut;
        }
        parts
    }

    /// What the sun gives some time after the start. [W]
    fn sun_at(&self, after: Hours) -> Watts {
        let minute = f64::from(self.start_minute) + after.minutes();
        let last = self.solar.iter().rev().find(|s| f64::from(s.from_minute) <= minute);
        last.map_or(Watts::ZERO, |s| s.power)
    }

    /// What charges besides, some time after the start. [A]
    fn charging_at(&self, after: Hours) -> Amps {
        let minute = f64::from(self.start_minute) + after.minutes();
        let now = self.charging.iter().filter(|c| {
            let begins = f64::from(c.from_minute);
            begins <= minute && minute < begins + c.lasts.minutes()
        });
        now.map(|c| c.current).sum()
    }

    /// Whether the charger runs in nights between days: there are none when every day ends at its charger.
    pub const fn is_charged_overnight(&self) -> bool {
        self.charge_overnight && self.days_without_charging > 1
    }

    /// Whether anything charges on the way: in the hours of a day, or in a night between two of them.
    pub fn is_charged(&self) -> bool {
        let gives = |p: &Part| p.sun > Watts::ZERO || p.charging > Amps::ZERO;
        self.is_charged_overnight() || self.parts(Hours::ZERO, self.lasts()).iter().any(gives)
    }

    /// How many of the chargers on the way run outside of the day's hours only, and so count for nothing.
    pub fn charging_outside(&self) -> usize {
        let start = f64::from(self.start_minute);
        let end = start + self.lasts().minutes();
        let outside = |c: &&Charging| {
            let begins = f64::from(c.from_minute);
            begins >= end || begins + c.lasts.minutes() <= start
        };
        self.charging.iter().filter(outside).count()
    }

    /// Whether what it asks hangs on the weight of the craft: a speed or a distance is to be kept.
    pub fn hangs_on_weight(&self) -> bool {
        self.stretches.iter().any(|s| matches!(s.duty, Duty::Speed(_) | Duty::Distance(_)))
    }

    /// Whether what it asks hangs on the wind: a speed, a distance or a place to be kept, and not amps or watts told.
    pub fn hangs_on_wind(&self) -> bool {
        self.hangs_on_weight() || self.stretches.iter().any(|s| s.duty == Duty::HoldPlace)
    }

    /// How long an outing is where that is more than a day, as it follows "outings": "", " of 3 days each".
    pub fn days_each(&self) -> String {
        match self.days_without_charging {
            0 | 1 => String::new(),
            days => format!(" of {days} days each"),
        }
    }

    /// Rounds driven: runs of stretches between those with the motor off.
    pub fn rounds(&self) -> usize {
        self.stretches
            .chunk_by(|a, b| (a.duty == Duty::Off) == (b.duty == Duty::Off))
            .filter(|run| run.first().is_some_and(|s| s.duty != Duty::Off))
            .count()
    }

    /// An empty day, with 30 like it in a year.
    pub const fn starting_at(start_minute: u16) -> Self {
        Self {
            start_minute,
            ambient: None,
            battery_start: None,
            outings_per_year: DEFAULT_OUTINGS,
            days_without_charging: 1,
            start_charge: None,
            solar: Vec::new(),
            charging: Vec::new(),
            charge_overnight: false,
            ready_by: None,
            conditions: Conditions::CALM,
            hourly: Vec::new(),
            route: Vec::new(),
            stretches: Vec::new(),
            accessories: Vec::new(),
            slower_will_do: false,
        }
    }

    /// The day with one stretch more at its end.
    #[must_use]
    pub fn then(mut self, name: impl Into<String>, lasts: Hours, duty: Duty) -> Self {
        self.stretches.push(Stretch::new(name, lasts, duty));
        self
    }

    /// The same day, every stretch so many times as long and as far.
    #[must_use]
    pub fn as_long(mut self, times: f64) -> Self {
        for stretch in &mut self.stretches {
            *stretch = stretch.clone().lengthened(times);
            stretch.stops = (f64::from(stretch.stops) * times).round() as u32;
        }
        self
    }

    /// How long the day lasts. [h]
    pub fn lasts(&self) -> Hours {
        self.stretches.iter().map(|s| s.lasts).sum()
    }

    /// From the first start until it is charged again: to the last take-out, nights between days without charging included, and to
    /// the end of the last night where a device runs through it. [h]
    pub fn span(&self) -> Hours {
        let days = f64::from(self.days_without_charging);
        self.lasts() * days + self.night() * f64::from(self.nights())
    }

    /// Nights that the charge has to last: those between the days, and the one after the last of several days where a device runs
    /// through it, a fridge that counts its whole day.
    pub fn nights(&self) -> u32 {
        let (days, between) =
            (self.days_without_charging, self.days_without_charging.saturating_sub(1));
        let through = days > 1 && !self.charge_overnight && self.night_power() > Watts::ZERO;
        if through { days } else { between }
    }

    /// What the devices on the traction pack draw on average through the day. [W]
    pub fn accessory_power(&self) -> Watts {
        let day = self.lasts().value().max(1e-9);
        let share = |a: &Accessory| a.hours.map_or(1.0, |h| (h.value() / day).min(1.0));
        self.accessories.iter().filter(|a| !a.on_house).map(|a| a.power * share(a)).sum()
    }

    /// From the end of a day to the start of the next, none when the day lasts 24 hours or more. [h]
    pub fn night(&self) -> Hours {
        (Hours::of(24.0) - self.lasts()).max(Hours::ZERO)
    }

    /// What the devices on the traction pack draw on average through a night between two days: those that run for more
    /// hours than the day has. [W]
    pub fn night_power(&self) -> Watts {
        let (day, night) = (self.lasts().value(), self.night().value());
        if night <= 0.0 {
            return Watts::ZERO;
        }
        let share =
            |a: &Accessory| a.hours.map_or(0.0, |h| ((h.value() - day) / night).clamp(0.0, 1.0));
        self.accessories.iter().filter(|a| !a.on_house).map(|a| a.power * share(a)).sum()
    }

    /// Hours on the water or the road in the time from the start of an outing to `at`, its nights left out. [h]
    ///
    /// The one definition of it: what a lake hour costs, the mean current and the band all ask here.
    pub fn hours_out(&self, at: Hours) -> Hours {
        let (day, whole) = (self.lasts().value(), self.lasts().value() + self.night().value());
        if self.days_without_charging <= 1 || whole <= 0.0 {
            return at.min(self.lasts());
        }
        let days = (at.value() / whole).floor().min(f64::from(self.days_without_charging));
        Hours::of(days * day + (at.value() - days * whole).clamp(0.0, day))
    }

    /// Wind, current and air some time after the start.
    pub fn conditions_at(&self, after: Hours) -> Conditions {
        let minute = f64::from(self.start_minute) + after.minutes();
        let mut now = Conditions { air: self.ambient.or(self.conditions.air), ..self.conditions };
        for hour in self.hourly.iter().filter(|h| f64::from(h.from_minute) <= minute) {
            now = hour.over(now);
        }
        now
    }

    /// When a stretch begins, by its place in the day. [h]
    pub fn begins(&self, stretch: usize) -> Hours {
        self.stretches.iter().take(stretch).map(|s| s.lasts).sum()
    }

    /// The most wind in a stretch, by its place in the day. [m/s]
    pub fn windiest(&self, stretch: usize) -> MetresPerSecond {
        let begins = self.begins(stretch);
        let Some(stretch) = self.stretches.get(stretch) else { return self.conditions.wind };
        let parts = self.parts(begins, begins + stretch.lasts);
        parts.iter().map(|p| p.conditions.wind).fold(MetresPerSecond::ZERO, MetresPerSecond::max)
    }

    /// The clock at some time after the start, as minutes of the day; days wrap at midnight.
    pub fn clock_minute(&self, after: Hours) -> u16 {
        let minute = f64::from(self.start_minute) + after.minutes();
        minute.round().rem_euclid(1440.0) as u16
    }
}

pub use crate::units::say::clock;

/// Minutes of the day as documents hold them, `HH:MM`.
pub fn clock_words(minute: u16) -> String {
    crate::units::say::Clock::Hours24.words(minute)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_clock_runs_past_midnight() {
        assert_eq!(clock_words(425), "07:05");
        let day = Day::starting_at(23 * 60);
        assert_eq!(clock_words(day.clock_minute(Hours::of(2.5))), "01:30");
    }
}
