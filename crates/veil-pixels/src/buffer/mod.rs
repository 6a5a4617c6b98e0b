//! Rasters: what they hold, where, and what lies about them.

pub mod cancel;
pub mod edge;
pub mod pool;
pub(crate) mod prefetch;
pub mod raster;
pub mod window;
