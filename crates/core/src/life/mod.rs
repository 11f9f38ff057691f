//! How long a pack lives at this use, and what that costs.

pub mod ageing;
pub mod cost;

pub use ageing::{EndedBy, Keeping, Life, School, Stored, life, life_between};
pub use cost::{Cost, NotTheLabels, cost, not_the_labels, per_usable_kwh};
