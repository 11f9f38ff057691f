//! Where a figure comes from. Every figure that is shown can say so.

use crate::keyed::keyed;
keyed! {
    /// Who vouches for a figure, from the firmest to the weakest.
    pub enum Origin {
        /// Measured on this very battery, motor or boat.
        Measured,
        /// Printed on the label or in the maker's table.
        Label,
        /// Set by the user.
        #[strum(serialize = "set")]
        SetByYou,
        /// Told by someone: a shop, a friend, a forum.
        Told,
        /// Nobody told it: assumed, as is typical for the chemistry or craft.
        Typical,
    }
}

impl Origin {
    /// The words shown beside the figure.
    pub const fn words(self) -> &'static str {
        match self {
            Self::Measured => "measured",
            Self::Label => "from the label",
            Self::SetByYou => "you set it",
            Self::Told => "you were told",
            Self::Typical => "assumed",
        }
    }
}

/// Who vouches for a figure on the shelf, and since when.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Vouched {
    /// Who.
    pub by: Origin,
    /// The day it was noted, if known.
    pub on: Option<jiff::civil::Date>,
}

/// A figure with the one who vouches for it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Figure<T> {
    /// The figure.
    pub value: T,
    /// Who vouches for it.
    pub origin: Origin,
}

impl<T> Figure<T> {
    /// The label's figure where there is one, else what is typical.
    pub fn label_or(label: Option<T>, typical: T) -> Self {
        match label {
            Some(value) => Self { value, origin: Origin::Label },
            None => Self { value: typical, origin: Origin::Typical },
        }
    }
}
