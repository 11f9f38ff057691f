//! A simulated boat or cart: plays a plan's day with a truth that differs from the plan, and speaks Signal K on loopback.
//!
//! - [`Sim`] the day and its truth, second by second, with what a monitor would tell of it
//! - [`serve`] the same over a WebSocket, as a Signal K server tells it

mod server;
mod sim;
mod truth;
mod unit;

pub use server::{Playing, Speed, serve};
pub use sim::{Moment, NoDay, Sim};
pub use truth::{Battery, Truth};
