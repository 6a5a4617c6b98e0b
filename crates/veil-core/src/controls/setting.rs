//! What a control is set to, as it stands in a setup.

use schemars::JsonSchema;
use serde::de::Error as _;
use serde::{Deserialize, Deserializer, Serialize};
use serde_json::Value as Json;

use super::control_type::plain;
use super::curve::Curve;
use super::form::Form;
use super::lattice::Lattice;
use super::pairs::PairSet;
use super::points::KeyedPoints;
use super::shapes::Shapes;
use super::stops::Stops;
use crate::feed::{Feed, KeyMove};
use crate::ids::MediaId;

/// What stands in a setting of one form.
pub(super) trait Settled: Sized {
    /// What stands in a setting; none where it is of another form.
    fn of(setting: &Setting) -> Option<&Self>;

    /// The setting that it stands in.
    fn setting(self) -> Setting;
}

/// For a type of control that takes more than one form.
impl Settled for Setting {
    fn of(setting: &Setting) -> Option<&Self> {
        Some(setting)
    }

    fn setting(self) -> Setting {
        self
    }
}

macro_rules! plain_forms {
    ($($name:ident($type:ty))+) => {
        $(impl Settled for $type {
            fn of(setting: &Setting) -> Option<&Self> {
                match setting {
                    Setting::$name(held) => Some(held),
                    _ => None,
                }
            }

            fn setting(self) -> Setting {
                Setting::$name(self)
            }
        })+
    };
}

plain_forms! {
    Switch(bool)
    Choice(String)
    Names(Vec<String>)
    Feed(Feed)
}

macro_rules! forms {
    ($($(#[$said:meta])+ $name:ident { $(#[$part:meta])+ $word:ident: $type:ty })+) => {
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
            $($(#[$said])+ $name { $(#[$part])+ $word: $type },)+
            /// Of a number.
            Feed(Feed),
        }

        $(impl Settled for $type {
            fn of(setting: &Setting) -> Option<&Self> {
                match setting {
                    Setting::$name { $word } => Some($word),
                    _ => None,
                }
            }

            fn setting(self) -> Setting {
                Setting::$name { $word: self }
            }
        })+

        impl Setting {
            /// By the one word that a form has, so that an error tells what is wrong with that form.
            fn of_word(word: &str, held: &mut Json) -> Option<Result<Self, serde_json::Error>> {
                match word {
                    $(stringify!($word) => {
                        let read = <$type>::deserialize(std::mem::take(held));
                        Some(read.map(|$word| Self::$name { $word }))
                    })+
                    _ => None,
                }
            }

            fn form(&self) -> Option<&dyn Form> {
                match self {
                    $(Self::$name { $word } => Some($word),)+
                    Self::Switch(_) | Self::Choice(_) | Self::Names(_) | Self::Feed(_) => None,
                }
            }

            fn form_mut(&mut self) -> Option<&mut dyn Form> {
                match self {
                    $(Self::$name { $word } => Some($word),)+
                    Self::Switch(_) | Self::Choice(_) | Self::Names(_) | Self::Feed(_) => None,
                }
            }
        }
    };
}

forms! {
    /// Of a media control.
    Media {
        /// Which of the setup's media.
        media: MediaId
    }
    /// Of a point, size, colour or place in space: a feed for each axis.
    Axes {
        /// In the order of the axes.
        axes: Vec<Feed>
    }
    /// Of a gradient's stops.
    Stops {
        /// In any order.
        stops: Stops
    }
    /// Of a tone curve.
    Curve {
        /// Its points, in any order.
        curve: Curve
    }
    /// Of outlines drawn on the picture.
    Shapes {
        /// In the order they are joined in.
        shapes: Shapes
    }
    /// Of a lattice.
    Lattice {
        /// Its rows, columns and places.
        lattice: Lattice
    }
    /// Of outlines as they are and as they shall be.
    Pairs {
        /// With what is kept still.
        pairs: PairSet
    }
}

impl Form for MediaId {
    fn words(&self) -> String {
        format!("medium {}", self.0)
    }
}

impl Form for Vec<Feed> {
    fn feeds(&self) -> &[Feed] {
        self
    }

    fn feeds_mut(&mut self) -> &mut [Feed] {
        self
    }

    fn words(&self) -> String {
        self.iter().map(feed_words).collect::<Vec<_>>().join(" ")
    }
}

fn feed_words(feed: &Feed) -> String {
    match feed {
        Feed::Fixed(value) => format!("{value}"),
        other => other.word().unwrap_or_default().to_owned(),
    }
}

impl<'de> Deserialize<'de> for Setting {
    /// By its kind of JSON, or the one word that its form has.
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let mut value = Json::deserialize(from)?;
        let read = match &mut value {
            Json::Bool(on) => return Ok(Self::Switch(*on)),
            Json::String(text) => return Ok(Self::Choice(std::mem::take(text))),
            Json::Array(_) => Vec::deserialize(value).map(Self::Names),
            Json::Object(words) if words.len() == 1 => {
                let only = words.iter_mut().next();
                let of_word = only.and_then(|(word, held)| Self::of_word(word, held));
                of_word.unwrap_or_else(|| Feed::deserialize(value).map(Self::Feed))
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
        Self::Axes { axes: plain(values) }
    }

    /// Its feeds; none where it takes none.
    pub fn feeds(&self) -> &[Feed] {
        match self {
            Self::Feed(feed) => std::slice::from_ref(feed),
            other => other.form().map_or(&[], Form::feeds),
        }
    }

    /// Its feeds, to be changed.
    pub(crate) fn feeds_mut(&mut self) -> &mut [Feed] {
        match self {
            Self::Feed(feed) => std::slice::from_mut(feed),
            other => other.form_mut().map_or(&mut [], Form::feeds_mut),
        }
    }

    /// The same with another feed on one axis; as it is where it has no such axis.
    pub fn with_feed(&self, axis: usize, feed: Feed) -> Self {
        let mut made = self.clone();
        if let Some(slot) = made.feeds_mut().get_mut(axis) {
            *slot = feed;
        }
        made
    }

    /// Points that are keyed together, a list of them each: outlines, or the places of a lattice.
    pub fn drawn(&self) -> Vec<&KeyedPoints> {
        self.form().map_or_else(Vec::new, Form::drawn)
    }

    /// The same, to be changed.
    pub(crate) fn drawn_mut(&mut self) -> Vec<&mut KeyedPoints> {
        self.form_mut().map_or_else(Vec::new, Form::drawn_mut)
    }

    /// What is drawn becomes that of a picture so many times as large.
    pub(crate) fn scale_drawn(&mut self, factor: f64) {
        if let Some(form) = self.form_mut() {
            form.scale_drawn(factor);
        }
    }

    /// What is drawn keeps step with keys that are moved.
    pub(crate) fn retime_drawn(&mut self, by: KeyMove) {
        if let Some(form) = self.form_mut() {
            form.retime_drawn(by);
        }
    }

    /// A few words on what it is.
    pub fn words(&self) -> String {
        match self {
            Self::Switch(on) => if *on { "on" } else { "off" }.into(),
            Self::Choice(text) => text.clone(),
            Self::Names(names) if names.is_empty() => "nothing".into(),
            Self::Names(names) => names.join(", "),
            Self::Feed(feed) => feed_words(feed),
            other => other.form().map_or_else(String::new, Form::words),
        }
    }
}
