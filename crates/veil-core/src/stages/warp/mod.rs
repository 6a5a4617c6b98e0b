//! Stages that move a signal, and what they share.

mod bulge;
mod card;
mod corner_pin;
mod crop;
mod displace;
mod lattice;
mod lens;
mod morph;
mod plane_in_space;
mod polar;
mod projector;
mod remap;
pub(crate) mod reshaping;
mod shape_warp;
mod skin;
mod swirl;
mod transform;

use veil_pixels::warp::displace::Moves;
use veil_pixels::{Map, Raster};

use crate::controls::{ControlSpec, SwitchSpec};
use crate::stage::{Context, Stage, StageError};

/// In the order that they are listed in.
pub(super) fn all() -> Vec<Box<dyn Stage>> {
    vec![
        Box::new(displace::Displace::new()),
        Box::new(remap::Remap::new()),
        Box::new(bulge::BulgeStage::new()),
        Box::new(swirl::SwirlStage::new()),
        Box::new(polar::PolarStage::new()),
        Box::new(lens::LensStage::new()),
        Box::new(transform::Transform::new()),
        Box::new(corner_pin::CornerPin::new()),
        Box::new(lattice::LatticeStage::new()),
        Box::new(shape_warp::ShapeWarp::new()),
        Box::new(morph::Morph::new()),
        Box::new(skin::Skin::new()),
        Box::new(plane_in_space::PlaneInSpace::new()),
        Box::new(projector::Projector::new()),
        Box::new(crop::Crop::new()),
    ]
}

/// Moves longer than this many pixels of the raster lead out of any picture.
const MOST_MOVE: f32 = 65_536.0;

/// A map times a strength by axis, the row's amount and its matte. What is no number moves nothing.
pub(super) fn moved(context: &Context<'_>, map: &Map, by: [f32; 2]) -> Result<Moves, StageError> {
    let window = map.window();
    let [x, y] = by.map(|strength| strength * context.amount());
    let limited = |length: f32| if length.is_nan() { 0.0 } else { length.clamp(-MOST_MOVE, MOST_MOVE) };
    let matte = context.matte(window)?;
    let moves = Raster::written(window, context.cancel(), |line, row| {
        let moves = row.iter_mut().zip(map.row(line));
        match &matte {
            None => moves.for_each(|(out, m)| *out = [limited(m[0] * x), limited(m[1] * y)]),
            Some(matte) => {
                for ((out, m), coverage) in moves.zip(matte.row(line)) {
                    *out = [limited(m[0] * x * coverage), limited(m[1] * y * coverage)];
                }
            }
        }
    })?;
    Ok(Moves::new(moves))
}

/// The control that lets a sharp filter ring.
pub(super) const fn rings() -> ControlSpec<SwitchSpec> {
    ControlSpec::switch("coverage rings", false)
        .under("reading")
        .help("A sharp filter swings beyond an edge. Off, alpha stays within 0 and 1, and colour with it.")
}
