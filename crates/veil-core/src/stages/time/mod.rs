//! Stages that look at other moments of what they take.

mod motion_map;
mod still_frame;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![Box::new(still_frame::StillFrame::new()), Box::new(motion_map::MotionMap::new())]
}
