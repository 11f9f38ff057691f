//! moments
