//! Stages that make mattes.

mod between_outlines;
mod r#box;
mod depth_range;
mod ellipse;
pub(super) mod id_pick;
mod luma_range;
mod matte_strokes;
mod outline;
mod position_range;
mod screen_key;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(r#box::BoxStage::new()),
        Box::new(ellipse::EllipseStage::new()),
        Box::new(outline::OutlineStage::new()),
        Box::new(between_outlines::BetweenOutlines::new()),
        Box::new(id_pick::IdPick::new()),
        Box::new(screen_key::ScreenKey::new()),
        Box::new(luma_range::LumaRangeStage::new()),
        Box::new(depth_range::DepthRangeStage::new()),
        Box::new(position_range::PositionRangeStage::new()),
        Box::new(matte_strokes::MatteStrokes::new()),
    ]
}
