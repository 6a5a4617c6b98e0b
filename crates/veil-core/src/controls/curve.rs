//! The points of a tone curve.

use serde::Serialize;
use serde_json::Value as Json;

use super::control_type::{ControlType, holding};
use super::form::Form;
use super::spec::ControlSpec;
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

impl ControlSpec<CurveSpec> {
    /// A tone curve.
    pub const fn curve(name: &'static str) -> Self {
        Self::of(name, CurveSpec)
    }
}

impl ControlType for CurveSpec {
    type Value = Curve;
    type Set = Curve;

    fn start(&self, _picture: PictureFormat) -> Curve {
        STRAIGHT.to_vec()
    }

    fn start_set(&self, _picture: PictureFormat) -> Curve {
        STRAIGHT.to_vec()
    }

    fn wanted(&self) -> String {
        "wants the points of a tone curve".into()
    }

    fn fits(&self, curve: &Curve) -> Result<(), String> {
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

    fn at(&self, set: &Curve, _moment: Moment, _others: &dyn Others) -> Option<Curve> {
        Some(set.clone())
    }

    fn line(&self, name: &str, value: &Curve, _media: &[Media]) -> String {
        format!("{name} of {}", value.words())
    }

    fn schema(&self) -> Json {
        holding("curve")
    }

    fn told(&self) -> String {
        "a tone curve".into()
    }
}
