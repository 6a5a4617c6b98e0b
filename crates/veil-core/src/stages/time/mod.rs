//! Stages that look at other moments of what they take.

mod afterimage;
mod alignment;
pub(crate) mod clean_plate;
mod fill_hole;
mod motion;
mod motion_map;
mod over_frames;
mod patch;
mod retime;
mod shift;
pub(crate) mod still_frame;

use veil_pixels::Window;

use crate::signal::{Pixels, SignalKind};
use crate::spec::MAIN;
use crate::stage::{Context, Stage, StageError};

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(still_frame::StillFrame::new()),
        Box::new(shift::Shift::new()),
        Box::new(retime::Retime::new()),
        Box::new(afterimage::Afterimage::new()),
        Box::new(over_frames::OverFrames::new()),
        Box::new(clean_plate::CleanPlate::new()),
        Box::new(fill_hole::FillHole::new()),
        Box::new(patch::Patch::new()),
        Box::new(motion_map::MotionMap::new()),
    ]
}

/// What comes in at one of the frames that the stage looks at, over a window.
fn at_frame(context: &Context<'_>, frame: f64, window: Window) -> Result<Pixels, StageError> {
    let kind = context.main_kind().unwrap_or(SignalKind::Picture);
    let signal = context.signal_at(MAIN, frame, window)?;
    Ok(signal.map_or_else(|| Pixels::clear(kind, window), |signal| signal.over(window)))
}
