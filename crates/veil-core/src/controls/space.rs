//! A place in space.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{
    ControlType, axes_fit, fed, numbers, numbers_wanted, numbers_written, plain, short,
};
use super::number::Unit;
use super::spec::ControlSpec;
use crate::feed::{Feed, Moment, Others};
use crate::key::keyed_by_fields;
use crate::media::Media;
use crate::picture::PictureFormat;

/// Where a thing is in space: x runs right, y up and z toward the eye.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Space {
    /// Where its middle is.
    pub position: [f64; 3],
    /// Degrees about each axis, counter-clockwise as seen from where that points to: first about z, then x, then y.
    pub turn: [f64; 3],
    /// How many times as large it is along each of its own axes.
    pub scale: [f64; 3],
}

keyed_by_fields! {
    Space { position, turn, scale }
}

/// Where it starts: in the middle, upright, as large as it is.
const START: [f64; 9] = [0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 1.0, 1.0];

impl Space {
    const fn of([x, y, z, tx, ty, tz, sx, sy, sz]: [f64; 9]) -> Self {
        Self { position: [x, y, z], turn: [tx, ty, tz], scale: [sx, sy, sz] }
    }

    /// A place of the thing, by its own axes, in space.
    ///
    /// Source: rotations about coordinate axes, Foley, van Dam, Feiner and Hughes, "Computer Graphics: Principles and
    /// Practice", 1990, chapter 5.
    pub fn placed(&self, own: [f64; 3]) -> [f64; 3] {
        let mut at = [0, 1, 2].map(|axis| own[axis] * self.scale[axis]);
        for (about, [from, to]) in [(2, [0, 1]), (0, [1, 2]), (1, [2, 0])] {
            let (sin, cos) = self.turn[about].to_radians().sin_cos();
            [at[from], at[to]] = [at[from] * cos - at[to] * sin, at[from] * sin + at[to] * cos];
        }
        [0, 1, 2].map(|axis| at[axis] + self.position[axis])
    }
}

/// A place in space, nine numbers.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct SpaceSpec {
    /// Whether what stands there has no depth, so that its scale toward the eye does nothing and is not shown.
    pub flat: bool,
    /// What its place is counted in.
    pub unit: Unit,
}

impl ControlSpec<SpaceSpec> {
    /// A place in space.
    pub const fn space(name: &'static str) -> Self {
        Self::of(name, SpaceSpec { flat: false, unit: Unit::Px })
    }

    /// The same in metres of the world, y up.
    pub const fn metres(mut self) -> Self {
        self.kind.unit = Unit::Metres;
        self
    }

    /// The same place of something without depth.
    pub const fn flat(mut self) -> Self {
        self.kind.flat = true;
        self
    }
}

impl ControlType for SpaceSpec {
    type Value = Space;
    type Set = Vec<Feed>;

    fn start(&self, _picture: PictureFormat) -> Space {
        Space::of(START)
    }

    fn start_set(&self, _picture: PictureFormat) -> Vec<Feed> {
        plain(&START)
    }

    fn wanted(&self) -> String {
        numbers_wanted(self)
    }

    fn fits(&self, set: &Vec<Feed>) -> Result<(), String> {
        axes_fit(self, set)
    }

    fn at(&self, set: &Vec<Feed>, moment: Moment, others: &dyn Others) -> Option<Space> {
        numbers(self, set, moment, others).map(Space::of)
    }

    fn axes(&self) -> &'static [&'static str] {
        &["x", "y", "z", "turn x", "turn y", "turn z", "scale x", "scale y", "scale z"]
    }

    fn line(&self, name: &str, value: &Space, _media: &[Media]) -> String {
        format!("{name} {}", value.position.map(short).join(" "))
    }

    fn written(&self, text: &str) -> Result<Vec<Feed>, &'static str> {
        numbers_written(text)
    }

    fn schema(&self) -> Json {
        fed(self.axes().len())
    }

    fn told(&self) -> String {
        "a place in space: position, turn and scale".into()
    }
}
