//! The points of a tone curve.

use serde::Serialize;
use serde_json::Value as Json;

use super::setting::Form;
use super::{ControlKind, ControlSpec, ControlType, FromValue, Setting, Value, holding};
use crate::feed::{Moment, Others};
use crate::media::Media;
use crate::picture::PictureFormat;

/// Most points that a tone curve takes.
const MOST_POINTS: usize = 64;
/// How far a point may lie from nothing, either way.
const FAR: f64 = 100.0;
/// What a tone curve starts as: every value stays.
const STRAIGHT: [[f64; 2]; 2] = [[0.0; 2], [1.0; 2]];

/// The points of a tone curve: what a value is, and what it becomes.
pub type Curve = Vec<[f64; 2]>;

impl Form for Curve {
    fn words(&self) -> String {
        format!("{} points", self.len())
    }
}

/// A tone curve.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct CurveSpec;

impl ControlSpec {
    /// A tone curve.
    pub const fn curve(name: &'static str) -> Self {
        Self::of(name, ControlKind::Curve(CurveSpec))
    }
}

impl ControlType for CurveSpec {
    fn start(&self, _picture: PictureFormat) -> Value {
        Value::Curve(STRAIGHT.to_vec())
    }

    fn start_setting(&self, _picture: PictureFormat) -> Setting {
        Setting::Curve { curve: STRAIGHT.to_vec() }
    }

    fn fits(&self, setting: &Setting) -> Result<(), String> {
        let Setting::Curve { curve } = setting else { return Err("wants the points of a tone curve".into()) };
        if curve.is_empty() || curve.len() > MOST_POINTS {
            return Err(format!("takes 1 to {MOST_POINTS} points"));
        }
        let within = |value: &f64| (-FAR..=FAR).contains(value);
        if curve.iter().flatten().all(within) {
            Ok(())
        } else {
            Err(format!("takes points from -{FAR} to {FAR}"))
        }
    }

    fn at(&self, setting: &Setting, _moment: Moment, _others: &dyn Others) -> Option<Value> {
        match setting {
            Setting::Curve { curve } => Some(Value::Curve(curve.clone())),
            _ => None,
        }
    }

    fn line(&self, name: &str, value: &Value, _media: &[Media]) -> String {
        format!("{name} of {}", Curve::from_value(value).unwrap_or_default().words())
    }

    fn schema(&self) -> Json {
        holding("curve")
    }

    fn told(&self) -> String {
        "a tone curve".into()
    }
}

impl FromValue for Curve {
    fn from_value(value: &Value) -> Option<Self> {
        match value {
            Value::Curve(curve) => Some(curve.clone()),
            _ => None,
        }
    }
}
