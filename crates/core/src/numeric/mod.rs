//! Sums without a meaning of their own: where a curve crosses zero, what lies between points.

mod line;
mod root;

pub(crate) use line::{along, log_log, monotone_cubic};
pub(crate) use root::{halved, last_positive};
