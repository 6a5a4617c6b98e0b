//! A stand-in for a camera and a 3D renderer: it draws the made-up show Saltglass, with passes and truth.
//!
//! Rays are cast through a lens and a shutter, several a pixel, at surfaces of plain shape and rough
//! texture lit by the sky, by fire and by lamps of some size. So edges, blur and shadows are soft for the
//! reasons a photograph's are. Source: Cook, Porter and Carpenter, "Distributed Ray Tracing", 1984.

mod ball;
mod bounds;
mod camera;
mod elements;
mod film;
mod frame;
mod parts;
mod random;
mod scene;
mod scenes;
mod shots;
mod signal;
mod surface;
mod truth;

use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};

use veil_core::setup::Frames;
use veil_media::MediaError;

pub use elements::{CREST, Element};
pub use frame::{DrawnFrame, drawn_part};
pub use shots::Shot;
pub use truth::{SurfaceTruth, Truth, camera_file, truth};

/// The show's name.
pub const SHOW: &str = "Saltglass";

/// What is known of a shot before a frame of it is drawn.
#[derive(Clone, Debug, PartialEq)]
pub struct ShotPlan {
    /// `SG010`.
    pub code: &'static str,
    /// `kiln yard`.
    pub title: &'static str,
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
    /// Its frames.
    pub frames: Frames,
}

impl ShotPlan {
    /// The same with at most so many frames.
    pub fn at_most(mut self, count: Option<usize>) -> Self {
        if let Some(count) = count.and_then(|count| i32::try_from(count.max(1)).ok()) {
            self.frames.last = self.frames.last.min(self.frames.first + count - 1);
        }
        self
    }

    /// Where its frames are, below the show's folder.
    pub fn pattern(&self) -> String {
        format!("plates/{0}/{0}.####.exr", self.code)
    }

    fn file(&self, folder: &Path, frame: i32) -> PathBuf {
        folder.join(format!("plates/{0}/{0}.{frame:04}.exr", self.code))
    }

    /// How many frames from the first on are drawn without a gap.
    pub fn done_from_start(&self, folder: &Path) -> usize {
        (self.frames.first..=self.frames.last).take_while(|frame| self.file(folder, *frame).exists()).count()
    }
}

/// How drawing goes on beside other work.
#[derive(Clone, Copy)]
pub struct Beside<'a> {
    /// Ends it before the next frame.
    pub stop: &'a AtomicBool,
    /// Called before each band of a frame, on the thread that draws it; returns when that may go on.
    pub turn: &'a (dyn Fn() + Sync),
}

impl<'a> Beside<'a> {
    /// With nothing else that needs the machine.
    pub fn nothing(stop: &'a AtomicBool) -> Self {
        Self { stop, turn: &|| {} }
    }
}

/// Draws what is missing of some frames of a shot below `folder`, frame by frame, calling `after` with each frame that is
/// there. Frames that are there are left as they are.
pub fn draw(
    shot: Shot,
    frames: Frames,
    folder: &Path,
    beside: Beside<'_>,
    mut after: impl FnMut(i32),
) -> Result<(), MediaError> {
    let plan = shot.plan();
    truth::write(shot, folder)?;
    for frame in frames.first..=frames.last {
        if beside.stop.load(Ordering::Relaxed) {
            return Ok(());
        }
        let file = plan.file(folder, frame);
        if !file.exists() {
            frame::draw(shot, frame, &file, beside.turn)?;
        }
        after(frame);
    }
    Ok(())
}
