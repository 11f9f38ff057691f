//! Candidate batteries: what the label says, and the chemistry behind it.

pub mod battery;
pub mod chemistry;
pub mod rating;

pub use battery::{Battery, CyclePoint, NotForTraction, Peak, Size};
pub use chemistry::Chemistry;
pub use rating::Rating;
