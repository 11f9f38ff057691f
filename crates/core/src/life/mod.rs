//! How long a pack lives at this use.

pub mod ageing;

pub use ageing::{EndedBy, Keeping, Life, School, Stored, UNSURE_YEARS, life, life_between};
