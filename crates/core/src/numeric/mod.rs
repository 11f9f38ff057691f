//! Sums without a meaning of their own: where a curve crosses zero, what lies between points, quick powers.

mod gauss;
mod halton;
mod least;
mod line;
mod median;
mod power;
mod root;

pub(crate) use gauss::Lu;
pub(crate) use halton::halton;
pub(crate) use least::{Moved, least_squares};
pub(crate) use line::{along, log_log, monotone_cubic};
pub(crate) use median::median;
pub(crate) use power::{FOUR_SEVENTHS, Power, rough_seventh_root};
pub(crate) use root::{halved, last_positive};
