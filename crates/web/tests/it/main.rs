//! The pages through their router: what a person reads, what is refused, what is kept.
#![allow(clippy::unwrap_used)]

mod app;
mod board;
mod build;
mod data;
mod day;
mod decide;
mod hostile;
mod live;
mod log;
mod once;
mod packs;
mod refused;
mod rig;
mod share;
mod shelf;
mod verdicts;
