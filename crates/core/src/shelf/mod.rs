//! Candidate batteries: what the label says, how far to believe it, and the chemistry behind it.

pub mod battery;
pub mod candidate;
pub mod check;
pub mod detail;
pub mod figures;
pub mod kinds;
pub mod rating;
pub mod size_class;
mod sums;

pub use crate::chemistry::Chemistry;
pub use battery::{Battery, Build, CyclePoint, NotForTraction, Peak, Purpose, Size};
pub use candidate::Candidate;
pub use check::{Doubt, DoubtKind, Rest, Suggestion, Sureness};
pub use detail::{Correction, Detail};
pub use rating::{Rating, Stated};
pub use size_class::SizeClass;
