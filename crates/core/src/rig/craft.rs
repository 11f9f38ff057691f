//! The boat or cart itself.

use super::lesson::Pushes;
use crate::keyed::keyed;
use crate::source::{Figure, Origin};
use crate::units::{Kilograms, Metres, Volts, Watts};

/// A grown person with what is worn. [kg] Common practice, no source.
pub const PERSON: Kilograms = Kilograms::of(82.0);

keyed! {
    /// What kind of craft it is.
    pub enum CraftKind {
        /// Kayak.
        Kayak,
        /// Canoe.
        Canoe,
        /// Flat-bottomed jon boat.
        JonBoat,
        /// V-hull skiff or deep-V.
        VHull,
        /// Bass-type glass boat.
        Bass,
        /// Pontoon boat or barge.
        Pontoon,
        /// Sailboat or cruiser with an auxiliary.
        Sailboat,
        /// Rowing skiff.
        RowingSkiff,
        /// Golf cart.
        GolfCart,
        /// Utility cart.
        UtilityCart,
        /// Low-speed vehicle.
        Lsv,
        /// Go-kart.
        GoKart,
        /// Motorbike.
        Motorbike,
        /// Small car conversion.
        Conversion,
    }
}

impl CraftKind {
    /// System voltage that is usual for it, until its owner says: common practice, no source.
    pub const fn usual_volts(self) -> Volts {
        match self {
            Self::GolfCart | Self::UtilityCart | Self::GoKart => Volts::of(48.0),
            Self::Lsv | Self::Motorbike | Self::Conversion => Volts::of(72.0),
            Self::Pontoon | Self::Bass => Volts::of(24.0),
            Self::Sailboat => Volts::of(48.0),
            Self::Kayak | Self::Canoe | Self::RowingSkiff | Self::JonBoat | Self::VHull => {
                Volts::of(12.0)
            }
        }
    }

    /// Highest electrical power that is usual for its motor, until its owner says. From memory: trolling motors of 34, 55, 80
    /// and 112 lbf take about 0.4, 0.65, 1.3 and 1.9 kW; controllers of carts let through 200 A and more at 48 V. [W]
    pub const fn usual_power(self) -> Watts {
        Watts::of(match self {
            Self::Kayak | Self::Canoe | Self::RowingSkiff => 400.0,
            Self::JonBoat | Self::VHull => 650.0,
            Self::Pontoon | Self::Bass => 1_300.0,
            Self::Sailboat => 5_000.0,
            Self::GolfCart | Self::UtilityCart | Self::GoKart => 9_600.0,
            Self::Lsv | Self::Motorbike => 14_400.0,
            Self::Conversion => 36_000.0,
        })
    }

    /// Whether it leans in a bend and may fall over: on two wheels.
    pub const fn leans(self) -> bool {
        matches!(self, Self::Motorbike)
    }

    /// Whether it floats: boats say hours where carts say miles.
    pub const fn is_boat(self) -> bool {
        matches!(
            self,
            Self::Kayak
                | Self::Canoe
                | Self::JonBoat
                | Self::VHull
                | Self::Bass
                | Self::Pontoon
                | Self::Sailboat
                | Self::RowingSkiff
        )
    }
}

/// What is typical of a kind of craft, for what its owner has not told.
///
/// All of it common practice, no source; a figure of one's own replaces it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Usual {
    /// Length over all. [m]
    pub length: Metres,
    /// Width over all. [m]
    pub width: Metres,
    /// Empty of people, gear and batteries. [kg]
    pub empty_mass: Kilograms,
    /// Drag area in the wind, `Cd A`. [m²]
    pub windage: f64,
    /// Gear, fuel and batteries: a cart's set of lead is most of it. [kg]
    pub gear: Kilograms,
}

impl CraftKind {
    /// What is typical of the kind.
    pub const fn usual(self) -> Usual {
        let (length, width, empty, windage, gear) = match self {
            Self::Kayak => (3.7, 0.85, 38.0, 0.6, 20.0),
            Self::Canoe => (4.9, 0.9, 32.0, 0.8, 30.0),
            Self::JonBoat => (4.3, 1.5, 110.0, 1.5, 50.0),
            Self::VHull => (4.3, 1.7, 140.0, 1.6, 50.0),
            Self::Bass => (5.5, 2.3, 700.0, 2.5, 120.0),
            Self::Pontoon => (6.1, 2.5, 800.0, 4.0, 150.0),
            Self::Sailboat => (7.5, 2.5, 2000.0, 4.0, 300.0),
            Self::RowingSkiff => (4.6, 1.4, 90.0, 1.2, 30.0),
            Self::GolfCart => (2.4, 1.2, 300.0, 1.2, 190.0),
            Self::UtilityCart => (2.9, 1.3, 400.0, 1.4, 250.0),
            Self::Lsv => (3.0, 1.4, 550.0, 1.3, 220.0),
            Self::GoKart => (1.8, 1.3, 90.0, 0.6, 60.0),
            Self::Motorbike => (2.1, 0.8, 120.0, 0.6, 40.0),
            Self::Conversion => (3.8, 1.6, 800.0, 0.7, 250.0),
        };
        Usual {
            length: Metres::of(length),
            width: Metres::of(width),
            empty_mass: Kilograms::of(empty),
            windage,
            gear: Kilograms::of(gear),
        }
    }
}

/// The craft, loaded as it goes out.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Craft {
    /// What kind it is.
    pub kind: CraftKind,
    /// Its length. [m]
    pub length_m: Option<f64>,
    /// Its mass with people, gear and batteries, weighed as it goes out. [kg]
    pub loaded_mass: Option<Kilograms>,
    /// Its mass without people, gear and batteries. [kg]
    pub empty_mass: Option<Kilograms>,
    /// People aboard.
    pub people: u32,
    /// Gear, fuel and batteries. [kg]
    pub gear: Option<Kilograms>,
    /// Drag area in the wind, `Cd A`. [m²]
    pub windage: Option<f64>,
    /// How much heavier it is than told: another pack aboard than the one it was weighed with. [kg]
    pub heavier_by: Kilograms,
    /// What its log taught of what speeds and holding take, taken over.
    pub learned: Pushes,
}

impl Craft {
    /// A craft of which only the kind is known, with one person aboard.
    pub const fn of(kind: CraftKind) -> Self {
        Self {
            kind,
            length_m: None,
            loaded_mass: None,
            empty_mass: None,
            people: 1,
            gear: None,
            windage: None,
            heavier_by: Kilograms::ZERO,
            learned: Pushes { at_speed: None, holding: None },
        }
    }

    /// Length over all. [m]
    pub fn length(&self) -> Figure<Metres> {
        Figure::label_or(self.length_m.map(Metres::of), self.kind.usual().length)
    }

    /// Mass as it goes out: as told, and what another pack adds to it or takes from it. [kg]
    pub fn mass(&self) -> Figure<Kilograms> {
        let told = self.mass_told();
        Figure { value: told.value + self.heavier_by, ..told }
    }

    /// Mass as it goes out with the pack that is aboard: as weighed, or the sum of hull, people at 82 kg, gear and fuel.
    /// [kg]
    pub fn mass_told(&self) -> Figure<Kilograms> {
        if let Some(value) = self.loaded_mass {
            return Figure { value, origin: Origin::SetByYou };
        }
        let empty = self.empty_mass.unwrap_or(self.kind.usual().empty_mass);
        let gear = self.gear.unwrap_or(self.kind.usual().gear);
        let told = self.empty_mass.is_some();
        Figure {
            value: empty + PERSON * f64::from(self.people) + gear,
            origin: if told { Origin::SetByYou } else { Origin::Typical },
        }
    }

    /// Drag area in the wind. [m²]
    pub fn windage(&self) -> Figure<f64> {
        Figure::label_or(self.windage, self.kind.usual().windage)
    }
}
