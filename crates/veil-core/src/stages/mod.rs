//! The stages, one file each. A new stage is a new file and one line in [`all`]; what it must say is in [`crate::stage`].

mod add_maps;
mod alpha;
mod apart;
mod arc;
mod between_outlines;
pub(crate) mod blend;
mod blur;
mod r#box;
mod bulge;
mod channel;
mod channel_route;
mod channel_shift;
mod clamp;
mod colour_space;
pub(crate) mod combine_fields;
mod corner_pin;
mod crop;
mod cut_out;
mod depth_range;
mod directional_blur;
mod displace;
mod distance;
mod drawing;
mod edges;
mod ellipse;
mod field_to_colour;
mod figure;
mod fill;
mod r#final;
mod formula;
mod fringe;
mod glow;
mod grade;
mod gradient;
mod grid_lines;
mod grow;
mod hue_shift;
mod id_pick;
mod invert;
mod lattice;
mod lens;
mod levels;
mod line_stretch;
mod luma_range;
mod lut;
mod matte_strokes;
mod mosaic;
mod moving;
mod neutral;
mod noise;
mod normal_map;
mod outline;
mod outside;
mod painted;
mod pair_map;
mod pass;
mod plane_in_space;
mod plate;
mod polar;
mod position_range;
mod push_map;
mod reading;
mod remap;
mod ring_wave;
mod screen_key;
mod sharpen;
pub(crate) mod shutter;
mod soften;
mod spacing;
mod steepness_map;
mod still;
mod still_frame;
mod strength;
mod stripes;
mod swirl;
mod text;
mod tint;
mod tone_curve;
mod transform;
mod turn_map;
mod uv_map_in;
mod uv_map_out;
mod vignette;
mod wipe;
mod zoom_blur;

use std::collections::HashMap;
use std::sync::LazyLock;

use crate::setup::StageKind;
use crate::stage::Stage;

static ALL: LazyLock<Vec<Box<dyn Stage>>> = LazyLock::new(|| {
    vec![
        Box::new(plate::Plate::new()),
        Box::new(pass::PassStage::new()),
        Box::new(still_frame::StillFrame::new()),
        Box::new(fill::Fill::new()),
        Box::new(gradient::GradientStage::new()),
        Box::new(text::TextStage::new()),
        Box::new(figure::FigureStage::new()),
        Box::new(r#box::BoxStage::new()),
        Box::new(ellipse::EllipseStage::new()),
        Box::new(outline::OutlineStage::new()),
        Box::new(between_outlines::BetweenOutlines::new()),
        Box::new(id_pick::IdPick::new()),
        Box::new(screen_key::ScreenKey::new()),
        Box::new(luma_range::LumaRangeStage::new()),
        Box::new(depth_range::DepthRangeStage::new()),
        Box::new(position_range::PositionRangeStage::new()),
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
        Box::new(matte_strokes::MatteStrokes::new()),
        Box::new(steepness_map::SteepnessMap::new()),
        Box::new(normal_map::NormalMap::new()),
        Box::new(push_map::PushMap::new()),
        Box::new(pair_map::PairMap::new()),
        Box::new(uv_map_in::UvMapIn::new()),
        Box::new(uv_map_out::UvMapOut::new()),
        Box::new(strength::Strength::new()),
        Box::new(turn_map::TurnMap::new()),
        Box::new(neutral::Neutral::new()),
        Box::new(add_maps::AddMaps::new()),
        Box::new(displace::Displace::new()),
        Box::new(remap::Remap::new()),
        Box::new(bulge::BulgeStage::new()),
        Box::new(swirl::SwirlStage::new()),
        Box::new(polar::PolarStage::new()),
        Box::new(lens::LensStage::new()),
        Box::new(transform::Transform::new()),
        Box::new(corner_pin::CornerPin::new()),
        Box::new(lattice::LatticeStage::new()),
        Box::new(plane_in_space::PlaneInSpace::new()),
        Box::new(crop::Crop::new()),
        Box::new(arc::ArcStage::new()),
        Box::new(glow::GlowStage::new()),
        Box::new(blur::Blur::new()),
        Box::new(directional_blur::DirectionalBlur::new()),
        Box::new(zoom_blur::ZoomBlurStage::new()),
        Box::new(sharpen::Sharpen::new()),
        Box::new(fringe::Fringe::new()),
        Box::new(channel_shift::ChannelShift::new()),
        Box::new(vignette::Vignette::new()),
        Box::new(grade::GradeStage::new()),
        Box::new(tone_curve::ToneCurve::new()),
        Box::new(tint::Tint::new()),
        Box::new(field_to_colour::FieldToColour::new()),
        Box::new(hue_shift::HueShift::new()),
        Box::new(colour_space::ColourSpaceStage::new()),
        Box::new(lut::LutStage::new()),
        Box::new(blend::Blend::new()),
        Box::new(channel_route::ChannelRoute::new()),
        Box::new(wipe::Wipe::new()),
        Box::new(cut_out::CutOutStage::new()),
        Box::new(alpha::AlphaStage::new()),
        Box::new(r#final::Final::new()),
    ]
});

/// Every stage, in the order they are listed.
pub fn all() -> impl Iterator<Item = &'static dyn Stage> {
    ALL.iter().map(|stage| &**stage)
}

/// The stage of a kind; `None` for a tool's row and for unknown kinds.
pub fn find(kind: &StageKind) -> Option<&'static dyn Stage> {
    static BY_ID: LazyLock<HashMap<&'static str, &'static dyn Stage>> =
        LazyLock::new(|| all().map(|stage| (stage.spec().id, stage)).collect());
    BY_ID.get(kind.0.as_str()).copied()
}
