//! The forms of rigs, days, packs and batteries: read into the core's types, or kept as typed with a sentence
//! beside the field.

pub(crate) mod battery;
pub(crate) mod build;
pub(crate) mod candidate;
pub(crate) mod day_frame;
pub(crate) mod dial;
pub(crate) mod first;
pub(crate) mod have;
pub(crate) mod live;
pub(crate) mod log;
pub(crate) mod pack;
pub(crate) mod rig;
pub(crate) mod rules;
pub(crate) mod stretch;
pub(crate) mod terms;
pub(crate) mod wants;

pub(crate) use crate::frame::form::*;
