//! get_home
