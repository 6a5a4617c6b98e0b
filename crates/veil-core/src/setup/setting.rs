//! What a control is set to, as it stands in a setup.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::MediaId;
use crate::control::{Curve, Stops};
use crate::drawn::Shapes;
use crate::feed::Feed;

/// A control's setting. Which form fits depends on the control's type.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
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
