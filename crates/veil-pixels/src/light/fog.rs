//! Fog along a way through the air.
//!
//! - Shape: numbers; a way by its length and the heights of its ends.
//! - Units: lengths and heights in metres; density per metre, at the level.
//! - Range: a density and a thinning of 0 or more; any heights. What is infinitely far counts as [`FAR`] away.
//! - Formula: the light that is left is `exp(−τ)` (Beer and Lambert), τ the density summed along the way; one that thins with
//!   height as `exp(−b·h)` sums to `ρ·ℓ·exp(−b·h₀)·(1 − exp(−b·Δh)) / (b·Δh)` (Wenzel, "Real-time Atmospheric Effects in Games",
//!   2006).

/// How far away, in metres, what is infinitely far is taken to be.
pub const FAR: f64 = 1.0e6;

/// Fog that is the same everywhere at a height.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fog {
    /// Per metre, at the level.
    pub density: f64,
    /// By what share of itself it thins for each metre up.
    pub thins: f64,
    /// The height at which it has its density.
    pub level: f64,
}

impl Fog {
    /// How much of what is seen along a way it hides, from 0 to 1.
    pub fn hides(self, length: f64, [from, to]: [f64; 2]) -> f64 {
        if length <= 0.0 || self.density <= 0.0 {
            return 0.0;
        }
        let (begins, rises) = (self.thins * (from - self.level), self.thins * (to - from));
        let mean = if rises.abs() < 1e-6 { 1.0 - rises / 2.0 } else { -(-rises).exp_m1() / rises };
        let thickness = self.density * length.min(FAR) * (-begins).exp() * mean;
        // Far above it, and straight up, there is none, however long the way.
        if thickness.is_nan() { 0.0 } else { 1.0 - (-thickness).exp() }
    }
}
