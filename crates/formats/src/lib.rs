//! Open formats in and out. Works on bytes, never on paths; knows the core and nothing else.
//!
//! - [`plan`] `lake-hour/plan`, version 1: what is asked
//! - [`result`] `lake-hour/result`, version 1: what is answered, as JSON, CSV or plain text
//! - [`schema`] both as JSON Schema

pub mod fault;
pub mod plan;
pub mod result;
pub mod schema;
pub mod tables;

pub use fault::{Fault, Faults};
