//! Moves a signal by a map.

use veil_pixels::displace::Moves;
use veil_pixels::resample::Filter;
use veil_pixels::{Edge, Map, Window};

use crate::control::{ControlSet, ControlSpec};
use crate::controls;
use crate::engine::{Context, StageError};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};

use super::{Bend, Stage, WarpStage};

const MAP: &str = "map";

controls! {
    struct DisplaceControls {
        strength_x: f64 = ControlSpec::number("strength x", 1.0, (0.0, 50.0)).under("move")
            .help("Times how far the map moves the picture sideways."),
        strength_y: f64 = ControlSpec::number("strength y", 1.0, (0.0, 50.0)).under("move")
            .help("Times how far the map moves the picture up and down."),
        outside: Edge = ControlSpec::choice("outside", Edge::Mirror).under("move")
            .help("What is brought in from beyond the border."),
        softness: f64 = ControlSpec::number("blur with move", 0.0, (0.0, 2.0)).within(0.0, 10.0).under("softness")
            .help("Standard deviation of the blur for each pixel moved; bent air is also soft."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("softness")
            .help("How the picture is read between its pixels."),
    }
}

/// Moves longer than this many pixels of the raster lead out of any picture.
const MOST_MOVE: f32 = 65_536.0;

/// How far each pixel of `wanted` moves, in pixels of this scale, with strength, amount and matte.
fn moves(context: &Context<'_>, controls: &DisplaceControls, wanted: Window) -> Result<Moves, StageError> {
    let amount = context.amount();
    let scaled = |strength: f64| context.scale().length(strength) * amount;
    let (x, y) = (scaled(controls.strength_x), scaled(controls.strength_y));
    let limited = |length: f32| if length.is_nan() { 0.0 } else { length.clamp(-MOST_MOVE, MOST_MOVE) };
    let map = context.map(MAP, wanted)?;
    let matte = context.matte(wanted)?;
    let moves = Map::written(wanted, context.cancel(), |line, row| {
        let moves = row.iter_mut().zip(map.row(line));
        match &matte {
            None => {
                for (out, m) in moves {
                    *out = [limited(m[0] * x), limited(m[1] * y)];
                }
            }
            Some(matte) => {
                for ((out, m), coverage) in moves.zip(matte.row(line)) {
                    *out = [limited(m[0] * x * coverage), limited(m[1] * y * coverage)];
                }
            }
        }
    })?;
    Ok(Moves::new(moves))
}

pub(super) struct Displace {
    spec: StageSpec,
}

impl Displace {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "displace",
                name: "Displace",
                family: Family::Warp,
                help: "Moves each pixel by the map, in full-size pixels, and softens it by how far it went.",
                main: Some(Accepts::Any),
                slots: vec![SlotSpec::new(MAP, "map", Accepts::Map)],
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: DisplaceControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Displace {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        context.warped_domain()
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        context.warped(wanted)
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for Displace {
    fn reading(&self, context: &Context<'_>) -> Result<(Filter, Edge), StageError> {
        let controls: DisplaceControls = context.controls()?;
        Ok((controls.sampling, controls.outside))
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let controls: DisplaceControls = context.controls()?;
        let within = context.domain_of(MAP).map_or(Window::EMPTY, |domain| domain.data);
        Ok(Bend::Map { softness: controls.softness as f32, within })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        moves(context, &context.controls()?, window)
    }
}
