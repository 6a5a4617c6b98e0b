//! Light that spreads, bends, falls and is lost.

pub mod aperture;
pub mod defocus;
pub mod fog;
pub mod glow;
pub mod lamp;
pub mod rays;
pub mod refraction;
