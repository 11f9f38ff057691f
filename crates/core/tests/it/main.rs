//! The core against laws, published figures, fine steps and porous-electrode simulations.
#![allow(clippy::unwrap_used, clippy::print_stdout, clippy::float_cmp)]

mod adds_up;
mod bands;
mod basis;
mod build;
mod care;
mod decide;
mod dice;
mod doubts;
mod duty;
mod edges;
mod fine_step;
mod label;
mod laws;
mod learn;
mod live;
mod log;
mod measured;
mod money;
mod notes;
mod other_owners;
mod outing;
mod plans;
mod proposals;
mod published;
mod reach;
mod reference;
mod shelf;
mod spare;
mod stow;
mod tested;
mod trips;
mod two_banks;
mod underway;
mod wiring;
mod work;
