//! How long a pack lives at this use.

pub mod ageing;

pub use ageing::{EndedBy, Keeping, Life, School, Stored, life, life_between};
