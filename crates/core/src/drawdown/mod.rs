//! How a pack runs down through a day: state in, state out, every stretch in closed form.
//!
//! [`law`] is one unit, [`bank`] a pack of them, [`load`] what is asked of it, [`run()`] the day.
//! [`mod@fit`] turns the label's ratings into a law, [`temperature`] what the cold takes from it, and
//! [`peukert`] is the second opinion that widens the band.
//!
//! What goes into a day and comes out of it are quantities ([`Leg`], [`Guard`], [`Summary`], [`Point`]); the
//! law and the bank, gone through millions of times, work in the bare numbers of the units they state.

pub mod bank;
pub mod fit;
pub mod law;
pub mod load;
pub mod peukert;
pub mod rested;
pub mod run;
pub mod temperature;

pub use bank::{Bank, BankState};
pub use fit::{Fit, fit, share_given};
pub use law::{Cold, State, UnitLaw};
pub use load::Demand;
pub use rested::{ByVolts, Rest, charge_by_volts};
pub use run::{
    Ended, Guard, Leg, Point, Summary, hours_at_this_pace, hours_until_floor, run, run_from,
    run_on, run_roughly, run_watched,
};
