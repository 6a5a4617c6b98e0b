//! Pulls parts of a picture by the points of a lattice.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::mesh::Mesh;
use veil_pixels::{Edge, Field, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip, LaidLattice};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Bend, Context, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::shutter;

use super::rings;

controls! {
    struct LatticeControls {
        lattice: LaidLattice = ControlSpec::lattice("lattice").grip(Grip::Drawn)
            .help("Drag its points on the picture; what lies between them goes along smoothly."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

/// No window is wider or higher.
const EVERYWHERE: i32 = 1 << 28;

pub(super) struct LatticeStage {
    spec: StageSpec,
}

impl LatticeStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "lattice",
                name: "Lattice",
                family: Family::Warp,
                help: "Pulls parts of what comes in by rows and columns of points; beyond them it goes as their border goes.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: LatticeControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for LatticeStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        3
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: LatticeControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl WarpStage for LatticeStage {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: LatticeControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let LatticeControls { lattice, .. } = context.controls()?;
        let everywhere = Window::new(-EVERYWHERE, -EVERYWHERE, EVERYWHERE, EVERYWHERE);
        Ok(Bend::Map { softness: 0.0, within: if lattice.is_still() { Window::EMPTY } else { everywhere } })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let inverse = mesh(context)?.over(window, context.cancel())?;
        Ok(Moves::bent(inverse, context.amount(), context.matte(window)?))
    }

    fn folds(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        Ok(Some(mesh(context)?.folded(window, context.cancel())?))
    }
}

fn mesh(context: &Context<'_>) -> Result<Mesh, StageError> {
    let LatticeControls { lattice, .. } = context.controls()?;
    let scale = 1.0 / f64::from(context.scale().divisor());
    lattice.mesh(scale).ok_or_else(|| context.fault("has not as many places as its lattice has corners"))
}
