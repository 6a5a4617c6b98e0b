//! Light that spreads.

pub mod glow;
