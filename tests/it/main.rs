//! The program from outside: its commands, its layers, and its pages in a real browser.
#![allow(clippy::unwrap_used, clippy::print_stderr, clippy::print_stdout, clippy::float_cmp)]

mod browser;
mod commands;
mod faults;
mod layers;
mod program;
mod underway;
