//! Candidate batteries: what the label says, how far to believe it, and the chemistry behind it.

pub mod battery;
pub mod candidate;
pub mod check;
pub mod chemistry;
pub mod detail;
pub mod kinds;
pub mod rating;
pub mod size_class;

pub use battery::{Battery, CyclePoint, NotForTraction, Peak, Size};
pub use candidate::{Build, Candidate, Purpose};
pub use check::{Doubt, DoubtKind, Rest, Suggestion, Sureness};
pub use chemistry::Chemistry;
pub use detail::{Correction, Detail};
pub use rating::Rating;
pub use size_class::SizeClass;
