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

fn mph(v: f64) -> MetresPerSecond {
    MetresPerSecond::of(v * convert::MS_PER_MPH)
}

fn stretch(name: &str, minutes: f64, duty: Duty, heading: Heading) -> Stretch {
    Stretch { heading, ..Stretch::new(name, Hours::from_minutes(minutes), duty) }
}

fn road(name: &str, minutes: f64, miles: f64, surface: Surface, stops: u32) -> Stretch {
    let duty = Duty::Distance(Metres::of(miles * convert::M_PER_MILE));
    Stretch { surface, stops, ..Stretch::new(name, Hours::from_minutes(minutes), duty) }
}

fn day(start: u16, wind: f64, stretches: Vec<Stretch>) -> Day {
    let conditions = Conditions { wind: mph(wind), ..Conditions::CALM };
    Day { conditions, stretches, ..Day::starting_at(start) }
}

/// The days offered for a kind of craft: speeds and places, so that nobody needs to know an amp.
pub fn templates(kind: CraftKind) -> Vec<Template> {
    use Heading::{Across, Into, With};
    let go = |v: f64| Duty::Speed(mph(v));
    let all = match kind {
        CraftKind::Kayak | CraftKind::Canoe | CraftKind::RowingSkiff => vec![
            (
                "dawn",
                "Dawn loop with long stops",
                day(
                    5 * 60 + 30,
                    4.0,
                    vec![
                        stretch("Out along the reeds", 35.0, go(2.5), Across),
                        stretch("Watching, motor off", 50.0, Duty::Off, Into),
                        stretch("Round the island", 40.0, go(2.2), Across),
                        stretch("Watching, motor off", 45.0, Duty::Off, Into),
                        stretch("Home into the breeze", 40.0, go(2.5), Into),
                    ],
                ),
            ),
            (
                "drift",
                "Drift and reposition",
                day(
                    7 * 60,
                    6.0,
                    vec![
                        stretch("Out to the top of the drift", 30.0, go(3.0), Into),
                        Stretch {
                            share: 0.3,
                            ..stretch("Drift, a third under power", 180.0, go(1.5), Into)
                        },
                        stretch("Home", 30.0, go(3.0), With),
                    ],
                ),
            ),
        ],
        CraftKind::Pontoon => vec![
            (
                "cruise",
                "Evening cruise",
                day(
                    18 * 60,
                    5.0,
                    vec![
                        stretch("Down the lake", 50.0, go(3.0), With),
                        stretch("At anchor", 60.0, Duty::Off, Into),
                        stretch("Back along the shore", 55.0, go(3.0), Into),
                    ],
                ),
            ),
            (
                "barge",
                "Slow heavy work",
                day(
                    8 * 60,
                    5.0,
                    vec![
                        stretch("Out to the bed", 20.0, go(2.5), Across),
                        stretch("Cutting", 150.0, go(1.2), Across),
                        stretch("Home with the load", 25.0, go(2.2), Into),
                    ],
                ),
            ),
        ],
        CraftKind::Sailboat => vec![(
            "harbour",
            "Out of the harbour, sail, back in",
            day(
                10 * 60,
                8.0,
                vec![
                    stretch("Out of the harbour", 25.0, go(4.0), Into),
                    stretch("Under sail", 300.0, Duty::Off, Across),
                    stretch("Home in a calm", 60.0, go(4.0), Across),
                    stretch("Into the berth", 15.0, go(2.5), Into),
                ],
            ),
        )],
        CraftKind::JonBoat | CraftKind::VHull | CraftKind::Bass => vec![
            (
                "stations",
                "Two stations and a transect",
                day(
                    7 * 60,
                    8.0,
                    vec![
                        stretch("Out to station 1", 40.0, go(3.2), Across),
                        stretch("Hold station 1", 60.0, Duty::HoldPlace, Into),
                        stretch("Cross to station 2", 40.0, go(3.0), Across),
                        stretch("Hold station 2", 70.0, Duty::HoldPlace, Into),
                        stretch("Lunch, motor off", 45.0, Duty::Off, Into),
                        stretch("Transect", 90.0, go(1.8), Across),
                        stretch("Home into the wind", 50.0, go(3.2), Into),
                    ],
                ),
            ),
            (
                "edge",
                "Along the weed edge",
                day(
                    6 * 60,
                    6.0,
                    vec![
                        stretch("Out", 20.0, go(3.2), Across),
                        Stretch {
                            share: 0.35,
                            ..stretch("Working the edge", 240.0, go(1.3), Into)
                        },
                        stretch("Move to the point", 20.0, go(3.2), Across),
                        stretch("Holding on the point", 60.0, Duty::HoldPlace, Into),
                        stretch("Home", 30.0, go(3.2), Into),
                    ],
                ),
            ),
        ],
        CraftKind::GolfCart | CraftKind::UtilityCart => vec![
            (
                "rounds",
                "Three rounds of the campground",
                day(
                    8 * 60,
                    0.0,
                    vec![
                        road("Morning round", 70.0, 5.0, Surface::Gravel, 16),
                        Stretch::new("Parked", Hours::of(2.0), Duty::Off),
                        road("Noon round", 60.0, 4.5, Surface::Gravel, 12),
                        Stretch::new("Parked", Hours::of(2.5), Duty::Off),
                        road("Evening round", 70.0, 5.0, Surface::Gravel, 16),
                    ],
                ),
            ),
            (
                "greens",
                "A morning on grass",
                day(
                    7 * 60 + 30,
                    0.0,
                    vec![
                        road("Out to the far field", 15.0, 1.2, Surface::Asphalt, 2),
                        road("Round the field", 150.0, 4.0, Surface::Grass, 36),
                        road("Back", 15.0, 1.2, Surface::Asphalt, 2),
                    ],
                ),
            ),
        ],
        CraftKind::Lsv | CraftKind::Motorbike | CraftKind::Conversion => vec![(
            "town",
            "To town and back",
            day(
                9 * 60,
                0.0,
                vec![
                    road("To town", 24.0, 7.0, Surface::Asphalt, 9),
                    Stretch::new("Parked", Hours::of(1.5), Duty::Off),
                    road("Home", 24.0, 7.0, Surface::Asphalt, 9),
                ],
            ),
        )],
        CraftKind::GoKart => vec![(
            "heats",
            "Four heats",
            day(13 * 60, 0.0, {
                let heat = |n| road(&format!("Heat {n}"), 10.0, 4.5, Surface::Asphalt, 12);
                let wait = || Stretch::new("In the pit", Hours::from_minutes(20.0), Duty::Off);
                vec![heat(1), wait(), heat(2), wait(), heat(3), wait(), heat(4)]
            }),
        )],
    };
    all.into_iter().map(|(key, name, day)| Template { key, name, day }).collect()
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
