//! Quantities as types: volts cannot be added to amperes, and every figure knows its unit.
//!
//! Inside the core only one unit per quantity exists (V, A, Ω, W, h, Ah, Wh, °C, kg). Anything a
//! person may type instead (lb, °F) is turned into it in [`convert`], the one place where
//! conversion factors stand, each with its source. [`parse`] reads numbers as people type them, [`system`]
//! is the set of units they read and type in.

pub mod convert;
mod kinds;
pub mod parse;
pub mod say;
pub mod system;
#[macro_use]
mod quantity;

pub use kinds::*;
pub use quantity::NotFinite;
