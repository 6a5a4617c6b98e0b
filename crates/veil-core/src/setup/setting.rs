//! What a control is set to, as it stands in a setup.

use schemars::JsonSchema;
use serde::de::Error as _;
use serde::{Deserialize, Deserializer, Serialize};
use serde_json::Value;

use super::MediaId;
use crate::control::{Curve, Stops};
use crate::drawn::Shapes;
use crate::feed::Feed;

/// A control's setting. Which form fits depends on the control's type.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[serde(untagged)]
pub enum Setting {
    /// Of a switch.
    Switch(bool),
    /// Of a choice: the id of its entry. Of a formula or a text: itself.
    Choice(String),
    /// Of a list of names.
    Names(Vec<String>),
    /// Of a media control.
    Media {
        /// Which of the setup's media.
        media: MediaId,
    },
    /// Of a point, size or colour: a feed for each axis.
    Axes {
        /// In the order of the axes.
        axes: Vec<Feed>,
    },
    /// Of a gradient's stops.
    Stops {
        /// In any order.
        stops: Stops,
    },
    /// Of a tone curve.
    Curve {
        /// Its points, in any order.
        curve: Curve,
    },
    /// Of outlines drawn on the picture.
    Shapes {
        /// In the order they are joined in.
        shapes: Shapes,
    },
    /// Of a number.
    Feed(Feed),
}

impl<'de> Deserialize<'de> for Setting {
    /// By its kind of JSON, or the one word that its form has, so that an error tells what is wrong with that form.
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let mut value = Value::deserialize(from)?;
        let read = match &mut value {
            Value::Bool(on) => return Ok(Self::Switch(*on)),
            Value::String(text) => return Ok(Self::Choice(std::mem::take(text))),
            Value::Array(_) => Vec::deserialize(value).map(Self::Names),
            Value::Object(words) if words.len() == 1 => {
                let mut part = |word: &str| words.remove(word);
                if let Some(media) = part("media") {
                    MediaId::deserialize(media).map(|media| Self::Media { media })
                } else if let Some(axes) = part("axes") {
                    Vec::deserialize(axes).map(|axes| Self::Axes { axes })
                } else if let Some(stops) = part("stops") {
                    Stops::deserialize(stops).map(|stops| Self::Stops { stops })
                } else if let Some(curve) = part("curve") {
                    Curve::deserialize(curve).map(|curve| Self::Curve { curve })
                } else if let Some(shapes) = part("shapes") {
                    Shapes::deserialize(shapes).map(|shapes| Self::Shapes { shapes })
                } else {
                    Feed::deserialize(value).map(Self::Feed)
                }
            }
            _ => Feed::deserialize(value).map(Self::Feed),
        };
        read.map_err(D::Error::custom)
    }
}

impl Setting {
    /// A plain number.
    pub const fn number(value: f64) -> Self {
        Self::Feed(Feed::Fixed(value))
    }

    /// Plain numbers of one control: a place, a size or a colour.
    pub fn numbers(values: &[f64]) -> Self {
        Self::Axes { axes: values.iter().copied().map(Feed::Fixed).collect() }
    }

    /// Its feeds; none where it takes none.
    pub fn feeds(&self) -> &[Feed] {
        match self {
            Self::Feed(feed) => std::slice::from_ref(feed),
            Self::Axes { axes } => axes,
            _ => &[],
        }
    }

    /// Its feeds, to be changed.
    pub(crate) fn feeds_mut(&mut self) -> &mut [Feed] {
        match self {
            Self::Feed(feed) => std::slice::from_mut(feed),
            Self::Axes { axes } => axes,
            _ => &mut [],
        }
    }

    /// The same with another feed on one axis; as it is where it has no such axis.
    pub fn with_feed(&self, axis: usize, feed: Feed) -> Self {
        let mut made = self.clone();
        match &mut made {
            Self::Feed(only) if axis == 0 => *only = feed,
            Self::Axes { axes } => {
                if let Some(slot) = axes.get_mut(axis) {
                    *slot = feed;
                }
            }
            _ => {}
        }
        made
    }
}
