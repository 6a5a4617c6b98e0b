//! The stops of a gradient.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::Value as Json;

use super::control_type::{ControlType, holding};
use super::form::Form;
use super::spec::ControlSpec;
use crate::feed::{Moment, Others};
use crate::key::keyed_by_fields;
use crate::media::Media;
use crate::picture::PictureFormat;

/// Most stops that a gradient takes.
const MOST_STOPS: usize = 64;
/// The largest half float.
const LARGEST: f64 = 65_504.0;

/// A stop of a gradient.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Stop {
    /// Where on the run, 0–1.
    pub at: f64,
    /// Red, green and blue, not premultiplied.
    pub colour: [f64; 3],
    /// 0–1.
    pub alpha: f64,
    /// Whether the way to the next stop is eased.
    #[serde(default)]
    pub smooth: bool,
}

keyed_by_fields! {
    Stop { at, colour, alpha, smooth }
}

impl From<Stop> for veil_pixels::shape::gradient::Stop {
    fn from(stop: Stop) -> Self {
        Self {
            at: stop.at as f32,
            colour: stop.colour.map(|value| value as f32),
            alpha: stop.alpha as f32,
            smooth: stop.smooth,
        }
    }
}

/// The stops of a gradient, in any order.
pub type Stops = Vec<Stop>;

impl Form for Stops {
    fn words(&self) -> String {
        format!("{} stops", self.len())
    }
}

/// A gradient.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
pub struct StopsSpec;

impl ControlSpec<StopsSpec> {
    /// The stops of a gradient.
    pub const fn stops(name: &'static str) -> Self {
        Self::of(name, StopsSpec)
    }
}

/// From black to white.
fn plain() -> Stops {
    [0.0, 1.0].map(|at| Stop { at, colour: [at; 3], alpha: 1.0, smooth: false }).to_vec()
}

impl ControlType for StopsSpec {
    type Value = Stops;
    type Set = Stops;

    fn start(&self, _picture: PictureFormat) -> Stops {
        plain()
    }

    fn start_set(&self, _picture: PictureFormat) -> Stops {
        plain()
    }

    fn wanted(&self) -> String {
        "wants the stops of a gradient".into()
    }

    fn fits(&self, stops: &Stops) -> Result<(), String> {
        if stops.is_empty() || stops.len() > MOST_STOPS {
            return Err(format!("takes 1 to {MOST_STOPS} stops"));
        }
        let share = |value: f64| (0.0..=1.0).contains(&value);
        let holds = |stop: &&Stop| {
            share(stop.at) && share(stop.alpha) && stop.colour.iter().all(|value| value.abs() <= LARGEST)
        };
        match stops.iter().find(|stop| !holds(stop)) {
            Some(stop) => Err(format!(
                "has a stop at {} whose place or alpha is not 0 to 1, or whose colour is too large",
                stop.at
            )),
            None => Ok(()),
        }
    }

    fn at(&self, set: &Stops, _moment: Moment, _others: &dyn Others) -> Option<Stops> {
        Some(set.clone())
    }

    fn line(&self, _name: &str, value: &Stops, _media: &[Media]) -> String {
        value.words()
    }

    fn schema(&self) -> Json {
        holding("stops")
    }

    fn told(&self) -> String {
        "the stops of a gradient".into()
    }
}
