//! Coverage of shapes, and the run of gradients.

pub mod arc;
pub mod between;
pub mod ellipse;
pub mod gradient;
pub mod outline;
pub mod polygon;
pub mod rectangle;
pub mod ring;
pub mod select;
pub mod spread;
pub mod stripes;
pub mod strokes;
