//! The decision: which pack comes first by what its owner wants, how sure that is, and what would change it.
//!
//! - [`Contest`] all packs of a plan beside one another, judged anew as often as something is asked
//! - [`tipping`] the value of each thing at which another pack comes first
//! - [`nearest`] what would let one pass where none does
//! - [`get_home`] the smallest change that gets a pack home
//! - [`sure`] how likely each pack is the best, and what to measure
//! - [`replace`] when what is aboard no longer does its day
//! - [`settle`] what it rests on that nobody told
//! - [`moments`] a day looked at from any of its moments

mod contest;
pub mod get_home;
pub mod moments;
pub mod nearest;
mod pareto;
pub mod replace;
pub mod settle;
pub mod sure;
pub mod tipping;

pub use contest::{Answer, Contest, Decided, Standing};
