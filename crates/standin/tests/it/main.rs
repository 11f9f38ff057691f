//! The stand-in's days against what is said of them under way, and the stand-in itself.
#![allow(clippy::unwrap_used, clippy::print_stdout)]

mod days;
