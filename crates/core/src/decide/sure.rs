//! sure
