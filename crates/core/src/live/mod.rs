//! Under way: how much is left of a pack, and how long that lasts, from what a monitor or two readings tell.
//!
//! Two hundred guesses at what nobody knows (how full it was, what it really holds, what the meter adds, how it resists) are carried
//! along the same count of what was drawn, each through the battery's own law; now and then the volts say which of them are
//! believed. A particle filter over static unknowns: N. J. Gordon, D. J. Salmond, A. F. M. Smith, IEE Proc. F 140 (1993) 107; the
//! guesses are spread by a sequence and not at random, so that the same day always gives the same answer, and drawn towards their
//! mean when they are chosen anew (J. Liu, M. West in *Sequential Monte Carlo Methods in Practice*, Springer 2001, 197).

mod charge;
mod doubt;
mod guesses;
mod home;
mod joined;
mod now;
mod pace;
mod place;
mod trip;
mod watch;
mod ways;

pub use charge::{Begins, Heard, Left, Live};
pub use doubt::{KnownBy, Question};
pub use home::Way;
pub use joined::{Clue, Gauge};
pub use now::{End, Home, Leaves, MOST, Now, Row, SURE};
pub use pace::Pace;
pub use place::{EARTH, Graded, MOST_POINTS, Path, Place, Track};
pub use trip::{ByHand, FarBy, KnownAs, NoTrip, Setup, Told, Trip, WayBack, is_of_another_system};
pub use watch::{Is, Warning, Watch};
pub use ways::Gear;
