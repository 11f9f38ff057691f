//! Days to begin from, by kind of craft: invented outings on invented water and roads.

use super::{Conditions, Day, Duty, Heading, Stretch, Surface};
use crate::rig::CraftKind;
use crate::units::{Hours, Metres, MetresPerSecond, convert};

/// A day to begin from.
#[derive(Debug, Clone, PartialEq)]
pub struct Template {
    /// Its key in a form.
    pub key: &'static str,
    /// What it is called.
    pub name: &'static str,
    /// The day.
    pub day: Day,
}

/// A day as it is written down here.
struct Sheet {
    key: &'static str,
    name: &'static str,
    kinds: &'static [CraftKind],
    /// Minute of the day.
    start: u16,
    /// Wind. [mph]
    wind: f64,
    lines: &'static [Line],
}

/// A stretch as it is written down here.
#[derive(Clone, Copy)]
struct Line {
    name: &'static str,
    minutes: f64,
    does: Does,
    /// Share of the stretch that the motor works.
    share: f64,
    /// Rise over run of the road.
    grade: f64,
}

/// What a line of an example day asks, in the units it is told in.
#[derive(Clone, Copy)]
enum Does {
    /// Through the water. [mph]
    Go(f64, Heading),
    Off,
    Hold,
    /// On a road. [mi], stops
    Road(f64, Surface, u32),
}

/// A stretch on flat ground and in no wind, worked at all of the time.
const fn line(name: &'static str, minutes: f64, does: Does) -> Line {
    Line { name, minutes, does, share: 1.0, grade: 0.0 }
}

/// A run over the ground at a speed. [mph]
const fn go(name: &'static str, minutes: f64, mph: f64, heading: Heading) -> Line {
    line(name, minutes, Does::Go(mph, heading))
}

/// Nothing asked of the motor.
const fn off(name: &'static str, minutes: f64) -> Line {
    line(name, minutes, Does::Off)
}

/// A place held against wind and current.
const fn hold(name: &'static str, minutes: f64) -> Line {
    line(name, minutes, Does::Hold)
}

/// A distance by road, with the stops from which it starts again. [miles]
const fn road(name: &'static str, minutes: f64, miles: f64, surface: Surface, stops: u32) -> Line {
    line(name, minutes, Does::Road(miles, surface, stops))
}

impl Line {
    /// The same, the motor running for a share of the time only, above 0 to 1.
    const fn worked(self, share: f64) -> Self {
        Self { share, ..self }
    }

    /// The same on a slope, rise over run.
    const fn on_slope(self, grade: f64) -> Self {
        Self { grade, ..self }
    }

    /// The stretch as a plan keeps it, in SI units.
    fn stretch(self) -> Stretch {
        let mph = |v: f64| MetresPerSecond::of(v * convert::MS_PER_MPH);
        let (duty, heading) = match self.does {
            Does::Go(v, heading) => (Duty::Speed(mph(v)), heading),
            Does::Off => (Duty::Off, Heading::Into),
            Does::Hold => (Duty::HoldPlace, Heading::Into),
            Does::Road(miles, ..) => {
                (Duty::Distance(Metres::of(miles * convert::M_PER_MILE)), Heading::Into)
            }
        };
        let new = Stretch::new(self.name, Hours::from_minutes(self.minutes), duty);
        let stretch = Stretch { heading, share: self.share, grade: self.grade, ..new };
        match self.does {
            Does::Road(_, surface, stops) => Stretch { surface, stops, ..stretch },
            _ => stretch,
        }
    }
}

impl Sheet {
    /// The day with its conditions and what it is called.
    fn template(&self) -> Template {
        let wind = MetresPerSecond::of(self.wind * convert::MS_PER_MPH);
        let day = Day {
            conditions: Conditions { wind, ..Conditions::CALM },
            stretches: self.lines.iter().map(|line| line.stretch()).collect(),
            ..Day::starting_at(self.start)
        };
        Template { key: self.key, name: self.name, day }
    }
}

/// Slope of a hilly campground's loop. Common practice, no source.
const HILL: f64 = 0.045;

/// The days there are: speeds and places, so that nobody needs to know an amp.
const SHEETS: &[Sheet] = &[
    Sheet {
        key: "dawn",
        name: "Dawn loop with long stops",
        kinds: &[CraftKind::Kayak, CraftKind::Canoe, CraftKind::RowingSkiff],
        start: 5 * 60 + 30,
        wind: 4.0,
        lines: &[
            go("Out along the reeds", 35.0, 2.5, Heading::Across),
            off("Watching, motor off", 50.0),
            go("Round the island", 40.0, 2.2, Heading::Across),
            off("Watching, motor off", 45.0),
            go("Home into the breeze", 40.0, 2.5, Heading::Into),
        ],
    },
    Sheet {
        key: "drift",
        name: "Drift and reposition",
        kinds: &[CraftKind::Kayak, CraftKind::Canoe, CraftKind::RowingSkiff],
        start: 7 * 60,
        wind: 6.0,
        lines: &[
            go("Out to the top of the drift", 30.0, 3.0, Heading::Into),
            go("Drift, a third under power", 180.0, 1.5, Heading::Into).worked(0.3),
            go("Home", 30.0, 3.0, Heading::With),
        ],
    },
    Sheet {
        key: "cruise",
        name: "Evening cruise",
        kinds: &[CraftKind::Pontoon],
        start: 18 * 60,
        wind: 5.0,
        lines: &[
            go("Down the lake", 50.0, 3.0, Heading::With),
            off("At anchor", 60.0),
            go("Back along the shore", 55.0, 3.0, Heading::Into),
        ],
    },
    Sheet {
        key: "barge",
        name: "Slow heavy work",
        kinds: &[CraftKind::Pontoon],
        start: 8 * 60,
        wind: 5.0,
        lines: &[
            go("Out to the bed", 20.0, 2.5, Heading::Across),
            go("Cutting", 150.0, 1.2, Heading::Across),
            go("Home with the load", 25.0, 2.2, Heading::Into),
        ],
    },
    Sheet {
        key: "harbour",
        name: "Out of the harbour, sail, back in",
        kinds: &[CraftKind::Sailboat],
        start: 10 * 60,
        wind: 8.0,
        lines: &[
            go("Out of the harbour", 25.0, 4.0, Heading::Into),
            off("Under sail", 300.0),
            go("Home in a calm", 60.0, 4.0, Heading::Across),
            go("Into the berth", 15.0, 2.5, Heading::Into),
        ],
    },
    Sheet {
        key: "edge",
        name: "Along the weed edge",
        kinds: &[CraftKind::JonBoat, CraftKind::VHull, CraftKind::Bass],
        start: 6 * 60,
        wind: 6.0,
        lines: &[
            go("Out", 20.0, 3.2, Heading::Across),
            go("Working the edge", 240.0, 1.3, Heading::Into).worked(0.35),
            go("Move to the point", 20.0, 3.2, Heading::Across),
            hold("Holding on the point", 60.0),
            go("Home", 30.0, 3.2, Heading::Into),
        ],
    },
    Sheet {
        key: "stations",
        name: "Two stations and a transect",
        kinds: &[CraftKind::JonBoat, CraftKind::VHull, CraftKind::Bass],
        start: 7 * 60,
        wind: 8.0,
        lines: &[
            go("Out to station 1", 40.0, 3.2, Heading::Across),
            hold("Hold station 1", 60.0),
            go("Cross to station 2", 40.0, 3.0, Heading::Across),
            hold("Hold station 2", 70.0),
            off("Lunch, motor off", 45.0),
            go("Transect", 90.0, 1.8, Heading::Across),
            go("Home into the wind", 50.0, 3.2, Heading::Into),
        ],
    },
    Sheet {
        key: "rounds",
        name: "Three rounds of the campground",
        kinds: &[CraftKind::GolfCart, CraftKind::UtilityCart],
        start: 8 * 60,
        wind: 0.0,
        lines: &[
            road("Morning round, up", 35.0, 2.5, Surface::Gravel, 8).worked(0.5).on_slope(HILL),
            road("Morning round, down", 35.0, 2.5, Surface::Gravel, 8).worked(0.5).on_slope(-HILL),
            off("Parked", 120.0),
            road("Noon round, up", 30.0, 2.25, Surface::Gravel, 6).worked(0.5).on_slope(HILL),
            road("Noon round, down", 30.0, 2.25, Surface::Gravel, 6).worked(0.5).on_slope(-HILL),
            off("Parked", 150.0),
            road("Evening round, up", 35.0, 2.5, Surface::Gravel, 8).worked(0.5).on_slope(HILL),
            road("Evening round, down", 35.0, 2.5, Surface::Gravel, 8).worked(0.5).on_slope(-HILL),
        ],
    },
    Sheet {
        key: "greens",
        name: "A morning on grass",
        kinds: &[CraftKind::GolfCart, CraftKind::UtilityCart],
        start: 7 * 60 + 30,
        wind: 0.0,
        lines: &[
            road("Out to the far field", 15.0, 1.2, Surface::Asphalt, 2),
            road("Round the field", 150.0, 4.0, Surface::Grass, 36).worked(0.35),
            road("Back", 15.0, 1.2, Surface::Asphalt, 2),
        ],
    },
    Sheet {
        key: "town",
        name: "To town and back",
        kinds: &[CraftKind::Lsv, CraftKind::Motorbike, CraftKind::Conversion],
        start: 9 * 60,
        wind: 0.0,
        lines: &[
            road("To town", 24.0, 7.0, Surface::Asphalt, 9).worked(0.85),
            off("Parked", 90.0),
            road("Home", 24.0, 7.0, Surface::Asphalt, 9).worked(0.85),
        ],
    },
    Sheet {
        key: "heats",
        name: "Four heats",
        kinds: &[CraftKind::GoKart],
        start: 13 * 60,
        wind: 0.0,
        lines: &[
            road("Heat 1", 10.0, 4.5, Surface::Asphalt, 12),
            off("In the pit", 20.0),
            road("Heat 2", 10.0, 4.5, Surface::Asphalt, 12),
            off("In the pit", 20.0),
            road("Heat 3", 10.0, 4.5, Surface::Asphalt, 12),
            off("In the pit", 20.0),
            road("Heat 4", 10.0, 4.5, Surface::Asphalt, 12),
        ],
    },
];

/// The days offered for a kind of craft.
pub fn templates(kind: CraftKind) -> Vec<Template> {
    SHEETS.iter().filter(|sheet| sheet.kinds.contains(&kind)).map(Sheet::template).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_kind_of_craft_has_a_day_that_needs_no_amps() {
        for kind in CraftKind::ALL {
            let all = templates(kind);
            assert!(!all.is_empty());
            for template in all {
                let stretches = &template.day.stretches;
                assert!(stretches.iter().all(|s| !matches!(
                    s.duty,
                    Duty::Current(_) | Duty::Power(_) | Duty::Setting(_)
                )));
                assert!(template.day.lasts().value() < 16.0, "{}", template.name);
                let holds = stretches.iter().any(|s| s.duty == Duty::HoldPlace);
                assert!(kind.is_boat() || !holds, "a cart holds no place");
            }
        }
    }
}
