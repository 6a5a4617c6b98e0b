//! Where a number comes from at each frame.

mod ease;
mod follow;
pub mod formula;
mod gate;
mod jitter;
mod keys;
mod moment;
mod offset;
pub mod random;
mod retime;
mod track;
mod wave;

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::de::Error as _;
use serde::{Deserialize, Deserializer, Serialize};
use serde_json::Value;

use crate::tracks::TrackId;

pub use follow::{ControlAxis, FollowFeed, Others};
pub use formula::{Formula, FormulaError, INPUTS, PARTS, PixelFormula};
pub use gate::{GateFeed, Lengths};
pub use jitter::{JitterFeed, JitterForm};
pub use keys::{Ease, Key, Keys, Slopes};
pub(crate) use moment::is_zero;
pub use moment::{Moment, Span};
pub use offset::Offset;
pub use retime::{KeyMove, KeyShape, RetimeError};
pub use track::TrackFeed;
pub use wave::{WaveFeed, WaveForm};

/// The source of one number.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[serde(untagged)]
pub enum Feed {
    /// The same at every frame.
    Fixed(f64),
    /// Values at some frames, with the way between them.
    Keys(Keys),
    /// A formula of the frame.
    Formula(FormulaFeed),
    /// A value that comes again and again.
    Wave(WaveFeed),
    /// A value that wanders or jumps.
    Jitter(JitterFeed),
    /// A value that comes in irregular bursts.
    Gate(GateFeed),
    /// The value of another control.
    Follow(FollowFeed),
    /// A number of a track.
    Track(TrackFeed),
}

/// What a feed's form is told by, in an error.
const FORMS: &str = "a number, or one of `keys`, `formula`, `wave`, `jitter`, `burst`, `follow`, `track` with what belongs to it";

impl<'de> Deserialize<'de> for Feed {
    /// By the one word that each form has, so that an error tells what is wrong with that form.
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        let value = Value::deserialize(from)?;
        let has = |word: &str| value.get(word).is_some();
        let read = match () {
            () if value.is_number() => f64::deserialize(value).map(Self::Fixed),
            () if has("keys") => Keys::deserialize(value).map(Self::Keys),
            () if has("formula") => FormulaFeed::deserialize(value).map(Self::Formula),
            () if has("wave") => WaveFeed::deserialize(value).map(Self::Wave),
            () if has("jitter") => JitterFeed::deserialize(value).map(Self::Jitter),
            () if has("burst") => GateFeed::deserialize(value).map(Self::Gate),
            () if has("follow") => FollowFeed::deserialize(value).map(Self::Follow),
            () if has("track") => TrackFeed::deserialize(value).map(Self::Track),
            () => Err(serde_json::Error::custom(format!("`{value}` is no value; {FORMS} is"))),
        };
        read.map_err(D::Error::custom)
    }
}

/// A formula, and what is added to it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FormulaFeed {
    /// What is worked out.
    pub formula: Formula,
    /// What its words stand for: as a rule another control, followed.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub names: BTreeMap<String, Feed>,
    /// Added to every value.
    #[serde(default, skip_serializing_if = "Offset::is_nothing")]
    pub offset: Offset,
}

impl FormulaFeed {
    /// Of a formula whose words stand for nothing yet.
    pub const fn new(formula: Formula) -> Self {
        Self { formula, names: BTreeMap::new(), offset: Offset::Fixed(0.0) }
    }

    /// What a word stands for at a moment; nothing where it stands for nothing.
    pub fn word(&self, word: &str, moment: Moment, others: &dyn Others) -> f64 {
        self.names.get(word).map_or(0.0, |feed| feed.at(moment, others))
    }

    fn at(&self, moment: Moment, others: &dyn Others) -> f64 {
        let words: Vec<f64> =
            self.formula.words().iter().map(|word| self.word(word, moment, others)).collect();
        self.formula.at(moment, &words) + self.offset.at(moment.now)
    }
}

impl Feed {
    /// The value at a moment. What gives no number there (a formula, a control that is gone) gives 0.
    pub fn at(&self, moment: Moment, others: &dyn Others) -> f64 {
        let value = match self {
            Self::Fixed(value) => *value,
            Self::Keys(keys) => keys.at(moment.now),
            Self::Formula(feed) => feed.at(moment, others),
            Self::Wave(feed) => feed.at(moment.since) + feed.offset.at(moment.now),
            Self::Jitter(feed) => feed.at(moment.since) + feed.offset.at(moment.now),
            Self::Gate(feed) => feed.at(moment.since) + feed.offset.at(moment.now),
            Self::Follow(feed) => {
                others.number(&feed.follow, moment).unwrap_or(0.0) * feed.scale + feed.offset.at(moment.now)
            }
            Self::Track(feed) => {
                others.track(feed.track).map_or(0.0, |track| feed.of(track, moment.now))
                    + feed.offset.at(moment.now)
            }
        };
        if value.is_finite() { value } else { 0.0 }
    }

    /// The word shown before the value; none for a plain one.
    pub const fn word(&self) -> Option<&'static str> {
        match self {
            Self::Fixed(_) => None,
            Self::Keys(_) => Some("keys"),
            Self::Formula(_) => Some("formula"),
            Self::Wave(_) => Some("wave"),
            Self::Jitter(_) => Some("jitter"),
            Self::Gate(_) => Some("gate"),
            Self::Follow(_) => Some("follows"),
            Self::Track(_) => Some("track"),
        }
    }

    /// The same feed, moved so that it gives `value` at the moment: a plain value is set, keys get a key
    /// there, the offset of anything else changes.
    pub fn set_at(&self, moment: Moment, value: f64, others: &dyn Others) -> Self {
        match self {
            Self::Fixed(_) => Self::Fixed(value),
            Self::Keys(keys) => Self::Keys(keys.with_value(moment.now, value)),
            _ => {
                let (mut made, by) = (self.clone(), value - self.at(moment, others));
                if let Some(offset) = made.offset_mut() {
                    *offset = offset.moved_at(moment.now, by);
                }
                made
            }
        }
    }

    /// Its keys, or those of what is added to it.
    pub fn keys(&self) -> Option<&Keys> {
        let offset = match self {
            Self::Keys(keys) => return Some(keys),
            Self::Fixed(_) => return None,
            Self::Formula(feed) => &feed.offset,
            Self::Wave(feed) => &feed.offset,
            Self::Jitter(feed) => &feed.offset,
            Self::Gate(feed) => &feed.offset,
            Self::Follow(feed) => &feed.offset,
            Self::Track(feed) => &feed.offset,
        };
        match offset {
            Offset::Keys(keys) => Some(keys),
            Offset::Fixed(_) => None,
        }
    }

    /// The same with others in the place of its keys, as [`keys`](Self::keys) gives them; where none are left, with the
    /// value that they had at a frame.
    #[must_use]
    pub(crate) fn with_keys(&self, keys: Option<Keys>, frame: f64) -> Self {
        let had = || self.keys().map_or(0.0, |keys| keys.at(frame));
        let mut made = self.clone();
        match made.offset_mut() {
            Some(offset) => *offset = keys.map_or_else(|| Offset::Fixed(had()), Offset::Keys),
            None => made = keys.map_or_else(|| Self::Fixed(had()), Self::Keys),
        }
        made
    }

    /// What is added to it; none where it has no such number of its own.
    fn offset_mut(&mut self) -> Option<&mut Offset> {
        match self {
            Self::Fixed(_) | Self::Keys(_) => None,
            Self::Formula(feed) => Some(&mut feed.offset),
            Self::Wave(feed) => Some(&mut feed.offset),
            Self::Jitter(feed) => Some(&mut feed.offset),
            Self::Gate(feed) => Some(&mut feed.offset),
            Self::Follow(feed) => Some(&mut feed.offset),
            Self::Track(feed) => Some(&mut feed.offset),
        }
    }

    /// The same with every value moved by so much.
    pub fn shifted(&self, by: f64) -> Self {
        self.plus(&Offset::Fixed(by))
    }

    /// The same with this added to every value.
    pub fn plus(&self, more: &Offset) -> Self {
        match self {
            Self::Fixed(value) => match more.shifted(*value) {
                Offset::Fixed(value) => Self::Fixed(value),
                Offset::Keys(keys) => Self::Keys(keys),
            },
            Self::Keys(keys) => match more {
                Offset::Fixed(by) => Self::Keys(keys.shifted(*by)),
                Offset::Keys(others) => Self::Keys(keys.plus(others)),
            },
            _ => {
                let mut made = self.clone();
                if let Some(offset) = made.offset_mut() {
                    *offset = offset.plus(more);
                }
                made
            }
        }
    }

    /// The same with every value multiplied.
    pub fn scaled(&self, factor: f64) -> Self {
        let mut made = self.clone();
        match &mut made {
            Self::Fixed(value) => *value *= factor,
            Self::Keys(keys) => *keys = keys.scaled(factor),
            Self::Formula(feed) => {
                // Only brackets nested to the limit fail here; the formula then stays as it was written.
                if let Ok(formula) = Formula::parse(&format!("({}) * {factor}", feed.formula.text())) {
                    (feed.formula, feed.offset) = (formula, feed.offset.scaled(factor));
                }
                return made;
            }
            Self::Wave(feed) => feed.span = feed.span.scaled(factor),
            Self::Jitter(feed) => feed.span = feed.span.scaled(factor),
            Self::Gate(feed) => feed.span = feed.span.scaled(factor),
            Self::Follow(feed) => feed.scale *= factor,
            Self::Track(feed) => feed.times *= factor,
        }
        if let Some(offset) = made.offset_mut() {
            *offset = offset.scaled(factor);
        }
        made
    }

    /// Every plain number in it that a control's bounds count for: the value, or each key's.
    pub fn numbers(&self) -> Vec<f64> {
        match self {
            Self::Fixed(value) => vec![*value],
            Self::Keys(keys) => keys.iter().map(|key| key.value + keys.offset()).collect(),
            _ => Vec::new(),
        }
    }

    /// What it follows: another control, or each that a formula names.
    pub fn follows(&self) -> Vec<&ControlAxis> {
        match self {
            Self::Follow(feed) => vec![&feed.follow],
            Self::Formula(feed) => feed.names.values().flat_map(Self::follows).collect(),
            _ => Vec::new(),
        }
    }

    /// Follows other numbers instead.
    pub(crate) fn follow_instead(&mut self, new: &impl Fn(&ControlAxis) -> ControlAxis) {
        self.replace_followers(&|feed: &FollowFeed| {
            Some(Self::Follow(FollowFeed { follow: new(&feed.follow), ..feed.clone() }))
        });
    }

    /// Puts something else in place of each follower in it, where `instead` gives that.
    pub(crate) fn replace_followers(&mut self, instead: &impl Fn(&FollowFeed) -> Option<Self>) {
        match self {
            Self::Follow(feed) => {
                if let Some(instead) = instead(feed) {
                    *self = instead;
                }
            }
            Self::Formula(feed) => feed.names.values_mut().for_each(|feed| feed.replace_followers(instead)),
            _ => {}
        }
    }

    /// The tracks in it.
    pub(crate) fn tracks(&self) -> Vec<TrackId> {
        match self {
            Self::Track(feed) => vec![feed.track],
            Self::Formula(feed) => feed.names.values().flat_map(Self::tracks).collect(),
            _ => Vec::new(),
        }
    }

    /// Puts something else in place of each track in it, where `instead` gives that.
    pub(crate) fn replace_tracks(&mut self, instead: &impl Fn(&TrackFeed) -> Option<Self>) {
        match self {
            Self::Track(feed) => {
                if let Some(instead) = instead(feed) {
                    *self = instead;
                }
            }
            Self::Formula(feed) => feed.names.values_mut().for_each(|feed| feed.replace_tracks(instead)),
            _ => {}
        }
    }

    /// Whether its numbers can be used; the error says what they must be.
    pub fn check(&self) -> Result<(), &'static str> {
        let span = |span: Span| span.low.is_finite() && span.high.is_finite();
        let good = |is_good: bool, wanted| if is_good { Ok(()) } else { Err(wanted) };
        let length = |frames: f64| frames > 0.0 && frames <= 1.0e6;
        match self {
            Self::Fixed(value) => good(value.is_finite(), "wants a number"),
            Self::Keys(_) => Ok(()),
            Self::Formula(feed) => {
                let named = feed.formula.words().iter().all(|word| feed.names.contains_key(word));
                good(
                    named && feed.offset.is_finite(),
                    "wants a formula whose every word stands for a control",
                )?;
                feed.names.values().try_for_each(Self::check)
            }
            Self::Wave(feed) => {
                good(length(feed.period), "wants a wave whose period is more than 0 frames")?;
                good(span(feed.span) && feed.phase.is_finite(), "wants a wave of numbers")
            }
            Self::Jitter(feed) => {
                good(
                    length(feed.every),
                    "wants a jitter with more than 0 frames from one value to the next",
                )?;
                good(span(feed.span), "wants a jitter between numbers")
            }
            Self::Gate(feed) => {
                let lengths = feed.burst.hold() && feed.pause.hold();
                good(
                    lengths,
                    "wants bursts and pauses of at least 1 frame, the shortest not above the longest",
                )?;
                good((0.0..=1.0).contains(&feed.chance), "wants a gate whose chance is from 0 to 1")?;
                let edges = (0.0..=1.0e6).contains(&feed.attack) && (0.0..=1.0e6).contains(&feed.release);
                good(
                    edges && span(feed.span),
                    "wants a gate with an attack and a release of 0 frames or more",
                )
            }
            Self::Follow(feed) => {
                good(feed.scale.is_finite() && feed.offset.is_finite(), "wants to follow by a number")
            }
            Self::Track(feed) => good(feed.is_finite(), "wants a track by numbers"),
        }
    }
}
