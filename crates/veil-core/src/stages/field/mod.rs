//! Stages that make fields or change them.

mod channel;
mod clamp;
pub(crate) mod combine_fields;
mod distance;
mod edges;
mod formula;
mod grid_lines;
mod grow;
mod invert;
mod levels;
mod line_stretch;
mod mosaic;
mod noise;
mod ring_wave;
mod soften;
mod spacing;
mod stripes;

use crate::stage::Stage;

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(channel::ChannelStage::new()),
        Box::new(noise::NoiseStage::new()),
        Box::new(stripes::StripesStage::new()),
        Box::new(grid_lines::GridLines::new()),
        Box::new(ring_wave::RingWave::new()),
        Box::new(formula::FormulaStage::new()),
        Box::new(combine_fields::CombineFields::new()),
        Box::new(edges::EdgesStage::new()),
        Box::new(levels::LevelsStage::new()),
        Box::new(clamp::ClampStage::new()),
        Box::new(invert::InvertStage::new()),
        Box::new(soften::Soften::new()),
        Box::new(grow::Grow::new()),
        Box::new(distance::Distance::new()),
        Box::new(line_stretch::LineStretch::new()),
        Box::new(mosaic::MosaicStage::new()),
    ]
}
