//! The stages, one file each. A new stage is a new file and one line in [`all`].

mod add_maps;
mod alpha;
mod apart;
mod arc;
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

use self::shutter::Shutter;
use crate::engine::{Context, Ride, StageError};
use crate::key::Key;
use crate::plates::Role;
use crate::setup::{Setting, StageKind};
use crate::signal::{Domain, Pixels};
use crate::spec::{Preset, StageSpec};
use veil_pixels::displace::Moves;
use veil_pixels::perspective::Homography;
use veil_pixels::{Map, Window};

pub use reading::Reading;

/// One stage of a setup. Pure: the same inputs and frame give the same pixels, on any number of
/// threads, in any order of calls, and a region equals the crop of the whole.
pub trait Stage: Send + Sync {
    /// What it declares; the one source of bench, schema and docs.
    fn spec(&self) -> &StageSpec;

    /// Raised when it gives other pixels than it did before, so that what was kept of it is not taken for what it gives.
    fn revision(&self) -> u32 {
        1
    }

    /// Writes what its pixels depend on besides controls and inputs: of time the very quantity that is used, of files what
    /// tells them apart. A stage that looks the same at every moment writes nothing.
    fn key(&self, _context: &Context<'_>, _key: &mut Key) -> Result<(), StageError> {
        Ok(())
    }

    /// How long it is seen while it changes; for one that has the controls of that.
    fn shutter(&self, _context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        Ok(None)
    }

    /// Where its signal exists. By default, where its main input does.
    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or_else(|| context.everywhere()))
    }

    /// Every pixel of `wanted`, which lies within the data window.
    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError>;

    /// Whether what it gives is seldom opaque, whatever it takes.
    fn cuts(&self) -> bool {
        false
    }

    /// Whether it adds light that covers nothing, as a glow does.
    fn shines(&self) -> bool {
        false
    }

    /// Settings to start from.
    fn presets(&self) -> Vec<Preset> {
        Vec::new()
    }

    /// What is to be known of its result though it works; one sentence.
    fn mark(&self, _context: &Context<'_>) -> Option<String> {
        None
    }

    /// The stage as a warp, where it moves its main input and does nothing else.
    fn as_warp(&self) -> Option<&dyn WarpStage> {
        None
    }

    /// The stage as one that lays what it takes somewhere.
    fn as_placing(&self) -> Option<&dyn Placing> {
        None
    }

    /// Which passes it brings in; for a stage that says so.
    fn brings(&self, _context: &Context<'_>) -> Result<Vec<Role>, StageError> {
        Ok(Vec::new())
    }

    /// What the file that it brings in says of itself in words.
    fn words(&self, _context: &Context<'_>) -> Result<Vec<(String, String)>, StageError> {
        Ok(Vec::new())
    }

    /// What it brings in beside the picture, over a window within its data window.
    fn bring(&self, context: &Context<'_>, _ride: &Ride, _wanted: Window) -> Result<Pixels, StageError> {
        Err(context.fault("brings no passes"))
    }
}

/// A warp's move. Neighbours are composed and sampled once.
pub trait WarpStage {
    /// How it is read between pixels and beyond the border, where it is the lowest of its bracket.
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError>;

    /// What kind of move it is.
    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError>;

    /// The moves of a window, in pixels of the proxy scale, for a warp by a map.
    fn moves(&self, _context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        Ok(Moves::new(Map::clear(window)))
    }
}

/// A stage that lays its main input on a box.
pub trait Placing {
    /// The settings that lay a box of the input, which is not empty, on another, in full-resolution pixels.
    fn laid(&self, from: Aligned, to: Aligned) -> Vec<(&'static str, Setting)>;
}

/// A box along the axes, in full-resolution pixels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Aligned {
    /// Its top left corner.
    pub first: [f64; 2],
    /// Its bottom right corner.
    pub last: [f64; 2],
}

impl Aligned {
    /// Its middle.
    pub fn middle(self) -> [f64; 2] {
        [0, 1].map(|axis| (self.first[axis] + self.last[axis]) / 2.0)
    }

    /// Its width and height.
    pub fn size(self) -> [f64; 2] {
        [0, 1].map(|axis| self.last[axis] - self.first[axis])
    }

    /// Its corners from the top left one on, clockwise.
    pub const fn corners(self) -> [[f64; 2]; 4] {
        let ([left, top], [right, bottom]) = (self.first, self.last);
        [[left, top], [right, top], [right, bottom], [left, bottom]]
    }
}

impl From<Window> for Aligned {
    fn from(window: Window) -> Self {
        Self { first: [window.x0, window.y0].map(f64::from), last: [window.x1, window.y1].map(f64::from) }
    }
}

/// A kind of move, in pixels of the proxy scale.
#[derive(Clone, Copy, Debug)]
pub enum Bend {
    /// From the input's places to the result's.
    Matrix(Homography),
    /// By [`WarpStage::moves`].
    Map {
        /// Standard deviation of the blur for each pixel moved.
        softness: f32,
        /// Outside of it nothing moves.
        within: Window,
    },
}

static ALL: LazyLock<Vec<Box<dyn Stage>>> = LazyLock::new(|| {
    vec![
        Box::new(plate::Plate::new()),
        Box::new(pass::PassStage::new()),
        Box::new(fill::Fill::new()),
        Box::new(gradient::GradientStage::new()),
        Box::new(text::TextStage::new()),
        Box::new(figure::FigureStage::new()),
        Box::new(r#box::BoxStage::new()),
        Box::new(ellipse::EllipseStage::new()),
        Box::new(outline::OutlineStage::new()),
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
