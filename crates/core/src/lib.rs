//! The computation behind Lake Hour: from a motor's draw to a pack that gets you home.
//!
//! No files, no clock, no random numbers, no network, no database: figures in, figures out. The
//! modules stand in the order in which an owner works:
//!
//! - [`units`] quantities as types, conversions with their sources, numbers as people type them
//! - [`source`] who vouches for a figure
//! - [`allowed`] what may be typed: one range for every input
//! - [`chemistry`] all that is true of a chemistry
//! - [`shelf`] batteries and what their labels say
//! - [`rig`] the craft, the motor, the bays, the chargers
//! - [`day`] the stretches of a day, and the weather
//! - [`propulsion`] what water, wind and road ask of the motor
//! - [`pack`] units in series and parallel, and why one must be set aside
//! - [`wiring`] a pack's circuit, its cables and fuses, and what is wrong with it
//! - [`drawdown`] the battery law and the day's run, every stretch in closed form
//! - [`refill`] hours back to full, and whether it is ready in time
//! - [`life`] ageing
//! - [`money`] what is paid over the years
//! - [`house`] the rules of the house: floors, reserve, horizon
//! - [`wants`] what its owner wants of a pack
//! - [`kept`] what is kept of a build: ticks, prices, readings
//! - [`plan`] rig, day, rules and packs together
//! - [`verdict`] the verdict on a pack, its band, and the working shown
//! - [`proposals`] which packs to think of, what one dead unit leaves of them, what would let others pass
//! - [`decide`] which pack comes first, how sure that is, and what would change it
//! - [`care`] what to do tonight and through the winter, what is due, what wears a pack
//! - [`learn`] what a log teaches of motor, hull and pack; [`log`] outings as they went
//! - [`build`] parts, order of work and readings of the one that is chosen; a card for the pocket
//!
//! A whole day:
//!
//! ```
//! use lake_hour_core::{verdict, day::*, house::HouseRules, pack::Pack, rig::*, shelf::*, units::*};
//!
//! let battery = Battery::new("Tern 12-100", Chemistry::Lfp, Volts::of(12.8),
//!     Rating::Capacity { ah: AmpHours::of(100.0), over: Hours::of(5.0) });
//! let pack = Pack::of(battery, 2, 1);
//! let rig = Rig::new("Sampling skiff", CraftKind::VHull, Volts::of(24.0));
//! let day = Day::starting_at(7 * 60)
//!     .then("Out", Hours::from_minutes(40.0), Duty::Current(Amps::of(22.0)))
//!     .then("Drift", Hours::of(2.0), Duty::Off)
//!     .then("Home", Hours::from_minutes(50.0), Duty::Current(Amps::of(30.0)));
//!
//! let result = verdict::evaluate(&rig, &day, &HouseRules::default(), &pack).expect("no settings used");
//! assert_eq!(result.outcome, verdict::Outcome::Home);
//! let left = result.drawn.expect("can be used").summary.charge_left;
//! assert!((left - (1.0 - (22.0 * 40.0 + 30.0 * 50.0) / 60.0 / 100.0)).abs() < 0.01);
//! ```
#![warn(missing_docs)]

pub mod allowed;
pub mod build;
pub mod care;
pub mod chemistry;
pub mod day;
pub mod decide;
pub mod drawdown;
pub mod house;
pub mod kept;
mod keyed;
pub mod learn;
pub mod life;
pub mod live;
pub mod log;
pub mod money;
mod numeric;
pub mod pack;
pub mod parts;
pub mod plan;
pub mod proposals;
pub mod propulsion;
pub mod refill;
pub mod rig;
pub mod shelf;
pub mod source;
pub mod units;
pub mod verdict;
pub mod wants;
pub mod wiring;
