//! Size, rate and range of a shot.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::colour::Working;
use crate::key::{Key, Keyed};

/// Most frames of a shot.
const MOST_FRAMES: usize = 1_000_000;

/// A frame that somebody asks for; may lie between frames. Within eight digits of 0, as the names of files have them.
#[derive(Clone, Copy, Debug, PartialEq, Deserialize)]
#[serde(try_from = "f64")]
pub struct FrameNumber(f64);

impl FrameNumber {
    const FURTHEST: f64 = 99_999_999.0;

    /// As a number.
    pub const fn get(self) -> f64 {
        self.0
    }
}

/// Why a number is no frame.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
#[error("{0} is no frame; frames go from -99999999 to 99999999")]
pub struct NoFrame(f64);

impl TryFrom<f64> for FrameNumber {
    type Error = NoFrame;
    fn try_from(frame: f64) -> Result<Self, NoFrame> {
        if frame.abs() <= Self::FURTHEST { Ok(Self(frame)) } else { Err(NoFrame(frame)) }
    }
}

/// A run of frames, both ends in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Frames {
    /// First frame.
    pub first: i32,
    /// Last frame, not before the first.
    pub last: i32,
}

impl Frames {
    /// How many.
    pub fn count(self) -> usize {
        (i64::from(self.last) - i64::from(self.first) + 1).max(0) as usize
    }

    /// Whether a shot can have them: in order, at most a million, with numbers that a [`FrameNumber`] can have.
    pub fn is_usable(self) -> bool {
        let known = |frame: i32| FrameNumber::try_from(f64::from(frame)).is_ok();
        self.first <= self.last && self.count() <= MOST_FRAMES && known(self.first) && known(self.last)
    }

    /// Whether a frame is one of them.
    pub const fn holds(self, frame: i32) -> bool {
        frame >= self.first && frame <= self.last
    }
}

impl std::str::FromStr for Frames {
    type Err = String;

    /// `1001-1048`, or one frame.
    fn from_str(text: &str) -> Result<Self, String> {
        let parse = |part: &str| part.trim().parse::<i32>();
        let split = text.char_indices().skip(1).find(|(_, letter)| *letter == '-').map(|(index, _)| index);
        let ends = match split {
            Some(index) => (parse(&text[..index]), parse(&text[index + 1..])),
            None => (parse(text), parse(text)),
        };
        match ends {
            (Ok(first), Ok(last)) if (Self { first, last }).is_usable() => Ok(Self { first, last }),
            _ => Err(format!("`{text}` is no frame range; write 1001-1048 or 1001")),
        }
    }
}

impl PictureFormat {
    /// Square pixels of a usual working space, 24 a second.
    pub fn plain(width: u32, height: u32, frames: Frames) -> Self {
        Self { width, height, fps: 24.0, aspect: 1.0, frames, working: Working::default() }
    }
}

fn square() -> f64 {
    1.0
}

fn is_square(aspect: &f64) -> bool {
    *aspect == 1.0
}

/// Size, rate and range of a shot.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PictureFormat {
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
    /// Frames a second.
    pub fps: f64,
    /// How wide a pixel is for its height; 1 is square.
    #[serde(default = "square", skip_serializing_if = "is_square")]
    pub aspect: f64,
    /// The shot's frames.
    pub frames: Frames,
    /// The colours that pictures are worked on in; every shot of a show has the same.
    #[serde(default, skip_serializing_if = "Working::is_usual")]
    pub working: Working,
}

/// What of it pixels are made by; rate and range count where a stage uses them.
impl Keyed for PictureFormat {
    fn key(&self, key: &mut Key) {
        let Self { width, height, fps: _, aspect, frames: _, working } = self;
        key.add(width);
        key.add(height);
        key.add(aspect);
        key.add(working);
    }
}
