//! Rows as SQLite keeps them. They are not the core's types: each way has its conversion here.

mod pack;
mod rig;
mod stretch;

pub(crate) use pack::PackRow;
pub(crate) use rig::RigRow;
pub(crate) use stretch::StretchRow;
