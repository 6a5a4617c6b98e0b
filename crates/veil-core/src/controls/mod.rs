//! What a stage can be told: the declared controls, each of a type, and their values at a moment.
//!
//! A type of control is one file here, and a line in the list of `kinds.rs`; what it is set to, where that has a form of its
//! own, a line in the list of `setting.rs`.

mod camera;
mod choice;
mod colour;
mod control_type;
mod curve;
mod form;
mod formula;
mod kinds;
mod lattice;
mod media;
mod names;
mod number;
mod pairs;
mod point;
mod points;
mod set;
mod setting;
mod shapes;
mod size;
mod space;
mod spec;
mod stops;
mod switch;
mod text;

pub use camera::CameraSpec;
pub use choice::ChoiceSpec;
pub use colour::ColourSpec;
pub use control_type::ControlType;
pub use curve::{Curve, CurveSpec};
pub use formula::FormulaSpec;
pub use kinds::{AnyControl, ControlKind, FromValue, Value};
pub use lattice::{LaidLattice, Lattice, LatticeSpec};
pub use media::{MediaSort, MediaSpec};
pub use names::NamesSpec;
pub use number::{NumberSpec, Unit};
pub use pairs::{Fence, LaidFence, LaidPair, LaidPairs, Own, Pair, PairSet, PairsSpec};
pub use point::PointSpec;
pub use points::{CarriedBy, KeyedPoints, PointsKey, PointsWay, ShapePoint};
pub use set::ControlSet;
pub use setting::Setting;
pub use shapes::{Drawn, Joins, Laid, Shapes, ShapesSpec, Side};
pub use size::SizeSpec;
pub use space::{Space, SpaceSpec};
pub use spec::{ControlSpec, Grip, When};
pub use stops::{Stop, Stops, StopsSpec};
pub use switch::SwitchSpec;
pub use text::TextSpec;
