//! Open formats in and out. Works on bytes, never on paths; knows the core and nothing else.
//!
//! - [`battery`] a battery as a document, by the core's list of figures
//! - [`plan`] `lake-hour/plan`, version 1: what is asked
//! - [`decision`] tipping points, proposals, and a plan with its result in one file
//! - [`result`] `lake-hour/result`, version 1: what is answered, as JSON, CSV or plain text
//! - [`gpx`] GPX 1.1: a track or route becomes stretches, a day's route goes out
//! - [`shelf`] `lake-hour/shelf`, version 1, as JSON and as CSV; and label text as it is pasted
//! - [`logged`] `lake-hour/log`, version 1: outings, tests and packs that are owned
//! - [`monitor`] CSV of any battery monitor, and the outings in it
//! - [`signalk`] Signal K deltas of monitors and receivers
//! - [`underway`] `lake-hour/trip`, version 1: what a trip began with, and what was heard of it
//! - [`schema`] the documents as JSON Schema

pub mod battery;
pub mod decision;
pub mod fault;
pub mod gpx;
mod lift;
pub mod logged;
mod metered;
pub mod monitor;
pub mod plan;
pub mod result;
pub mod schema;
pub mod shelf;
pub mod signalk;
pub mod tables;
pub mod underway;
pub mod words;

pub use fault::{Fault, Faults};
