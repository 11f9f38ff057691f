//! The stand-in's days against what is said of them under way, and the stand-in itself.

mod days;
