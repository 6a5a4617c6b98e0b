//! How mattes meet.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use veil_pixels::Field;

use crate::choice;
use crate::key::keyed_by_number;

/// How a matte meets those before it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum MatteWay {
    /// Where either is: the larger of the two.
    #[default]
    Add,
    /// Where the others are and it is not.
    Cut,
    /// Where both are.
    Intersect,
}

choice! {
    MatteWay {
        Add = "add", "add";
        Cut = "cut", "cut";
        Intersect = "intersect", "intersect";
    }
}

impl MatteWay {
    /// Two coverages as one. Source: common practice; cut and intersect as Porter and Duff's out and in have them.
    pub fn of(self, before: f32, this: f32) -> f32 {
        match self {
            Self::Add => before.max(this),
            Self::Cut => before * (1.0 - this),
            Self::Intersect => before * this,
        }
    }
}

/// Two mattes as one, over the first one's window.
pub fn met(before: Field, this: &Field, way: MatteWay) -> Field {
    let window = before.window();
    Field::from_fn(window, |x, y| way.of(before.get(x, y).unwrap_or(0.0), this.get(x, y).unwrap_or(0.0)))
}

keyed_by_number!(MatteWay);
