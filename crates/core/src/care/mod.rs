//! Care: what to do tonight and through the winter with a pack that is owned, what is due when, and what wears it.

mod chores;
mod health;
mod lay_up;
mod rainflow;
mod tonight;
mod weak;

pub use chores::{Due, due};
pub use health::{HABIT, Health, Wear, health};
pub use lay_up::{LayUp, Month, lay_up};
pub use rainflow::{Cycle, rainflow};
pub use tonight::{Act, DayUse, Evening, Reason, Tonight, tonight};
pub use weak::{RISEN, Ranked, Resisting, by_volts};
