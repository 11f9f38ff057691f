//! Where batteries can go.

use crate::keyed::keyed;
use crate::units::{Kilograms, Millimetres};

keyed! {
    /// Whereabouts in the craft a bay is.
    pub enum Whereabouts {
        /// In the bow.
        Bow,
        /// Amidships.
        Midship,
        /// In the stern.
        Stern,
        /// Under a seat.
        UnderSeat,
    }
}

impl Whereabouts {
    /// Where its middle usually is along the craft, 0 at the bow and 1 at the stern.
    pub const fn usual_position(self) -> f64 {
        match self {
            Self::Bow => 0.2,
            Self::Midship => 0.5,
            Self::Stern => 0.88,
            Self::UnderSeat => 0.6,
        }
    }
}

/// A place for batteries, by its clear inside.
#[derive(Debug, Clone, PartialEq)]
pub struct Bay {
    /// What it is called.
    pub name: String,
    /// Whereabouts it is.
    pub whereabouts: Whereabouts,
    /// Clear length, along the craft. [mm]
    pub length: Millimetres,
    /// Clear width, across the craft. [mm]
    pub width: Millimetres,
    /// Clear height. [mm]
    pub height: Millimetres,
    /// Weight it may carry. [kg]
    pub mass_limit: Option<Kilograms>,
    /// Closed off: what gasses must not go in without a vent.
    pub sealed: bool,
    /// Batteries stand upright here or not at all; otherwise sealed ones may lie on a side.
    pub upright_only: bool,
    /// Layers that it is built for, one standing on another; 1 or more. A unit stands on another only where its label
    /// says that it may.
    pub layers: u32,
    /// Where its middle is along the craft, 0 at the bow and 1 at the stern.
    pub position: f64,
}
