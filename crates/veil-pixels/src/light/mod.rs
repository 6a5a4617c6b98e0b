//! Light that spreads.

pub mod glow;
pub mod refraction;
