//! The pages, one folder for each tab: its routes, and the page put together. None knows another.

pub(crate) mod api;
pub(crate) mod board;
pub(crate) mod build;
pub(crate) mod compare;
pub(crate) mod data;
pub(crate) mod day;
pub(crate) mod kept;
pub(crate) mod live;
pub(crate) mod load;
pub(crate) mod log;
pub(crate) mod packs;
pub(crate) mod reading;
pub(crate) mod rig;
pub(crate) mod share;
pub(crate) mod shelf;
pub(crate) mod start;
