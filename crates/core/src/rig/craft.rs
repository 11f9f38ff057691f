//! The boat or cart itself.

use crate::units::Kilograms;

/// What kind of craft it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
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

impl CraftKind {
    /// All kinds, boats first.
    pub const ALL: [Self; 14] = [
        Self::Kayak,
        Self::Canoe,
        Self::JonBoat,
        Self::VHull,
        Self::Bass,
        Self::Pontoon,
        Self::Sailboat,
        Self::RowingSkiff,
        Self::GolfCart,
        Self::UtilityCart,
        Self::Lsv,
        Self::GoKart,
        Self::Motorbike,
        Self::Conversion,
    ];

    /// The key used in files and the database.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Kayak => "kayak",
            Self::Canoe => "canoe",
            Self::JonBoat => "jon_boat",
            Self::VHull => "v_hull",
            Self::Bass => "bass",
            Self::Pontoon => "pontoon",
            Self::Sailboat => "sailboat",
            Self::RowingSkiff => "rowing_skiff",
            Self::GolfCart => "golf_cart",
            Self::UtilityCart => "utility_cart",
            Self::Lsv => "lsv",
            Self::GoKart => "go_kart",
            Self::Motorbike => "motorbike",
            Self::Conversion => "conversion",
        }
    }

    /// The kind with this [`key`](Self::key).
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|k| k.key() == key)
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

/// The craft, loaded as it goes out.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Craft {
    /// What kind it is.
    pub kind: CraftKind,
    /// Its length. [m]
    pub length_m: Option<f64>,
    /// Its mass with people, gear and batteries. [kg]
    pub loaded_mass: Option<Kilograms>,
}
