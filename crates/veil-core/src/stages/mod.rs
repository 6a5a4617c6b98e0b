//! The stages, one file each. A new stage is a new file and one line in [`all`].

mod blend;
mod blur;
mod directional_blur;
mod displace;
mod distance;
mod ellipse;
mod r#final;
mod grade;
mod grow;
mod id_pick;
mod levels;
mod noise;
mod outside;
mod pass;
mod plate;
mod soften;
mod steepness_map;
mod strength;
mod transform;

use std::sync::LazyLock;

use crate::engine::{Context, StageError};
use crate::setup::StageKind;
use crate::signal::{Domain, Pixels};
use crate::spec::StageSpec;
use veil_pixels::Window;

/// One stage of a setup. Pure: the same inputs and frame give the same pixels, on any number of
/// threads, in any order of calls, and a region equals the crop of the whole.
pub trait Stage: Send + Sync {
    /// What it declares; the one source of bench, schema and docs.
    fn spec(&self) -> &StageSpec;

    /// What of the frame, besides controls and inputs, its pixels depend on. A stage that looks the
    /// same at every frame keeps the default.
    fn time_key(&self, _context: &Context<'_>) -> Result<u64, StageError> {
        Ok(0)
    }

    /// Where its signal exists. By default, where its main input does.
    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or_else(|| context.everywhere()))
    }

    /// Every pixel of `wanted`, which lies within the data window.
    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError>;
}

static ALL: LazyLock<Vec<Box<dyn Stage>>> = LazyLock::new(|| {
    vec![
        Box::new(plate::Plate::new()),
        Box::new(pass::PassStage::new()),
        Box::new(ellipse::EllipseStage::new()),
        Box::new(id_pick::IdPick::new()),
        Box::new(noise::NoiseStage::new()),
        Box::new(levels::LevelsStage::new()),
        Box::new(soften::Soften::new()),
        Box::new(grow::Grow::new()),
        Box::new(distance::Distance::new()),
        Box::new(steepness_map::SteepnessMap::new()),
        Box::new(strength::Strength::new()),
        Box::new(displace::Displace::new()),
        Box::new(transform::Transform::new()),
        Box::new(blur::Blur::new()),
        Box::new(directional_blur::DirectionalBlur::new()),
        Box::new(grade::GradeStage::new()),
        Box::new(blend::Blend::new()),
        Box::new(r#final::Final::new()),
    ]
});

/// Every stage, in the order they are listed.
pub fn all() -> impl Iterator<Item = &'static dyn Stage> {
    ALL.iter().map(|stage| &**stage)
}

/// The stage of a kind; `None` for a tool's row and for unknown kinds.
pub fn find(kind: &StageKind) -> Option<&'static dyn Stage> {
    all().find(|stage| stage.spec().id == kind.0)
}
