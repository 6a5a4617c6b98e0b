//! Reshapes a picture by outlines as they are and as they shall be.

use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::outlines::Quality;
use veil_pixels::{Edge, Field, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip, LaidPair, LaidPairs};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Bend, Context, Reading, Shutter, Stage, StageError, WarpStage};
use crate::stages::shutter;

use super::reshaping::{self, Around, Lies, about};
use super::rings;

controls! {
    struct ShapeWarpControls {
        outlines: LaidPairs = ControlSpec::pairs("outlines").grip(Grip::Drawn)
            .help("Draw a part as it is and as it shall be, and tie places that belong together; a fence keeps still what lies beyond it."),
        way: f64 = ControlSpec::number("way", 1.0, (0.0, 1.0)).within(-4.0, 5.0)
            .help("How far all have come: 0 as they are, 1 as they shall be. A pair may have its own."),
        quality: Quality = reshaping::quality(),
        density: f64 = reshaping::density(),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("reading")
            .help("What is brought in from beyond the border."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels."),
        rings: bool = rings(),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

pub(super) struct ShapeWarp {
    spec: StageSpec,
}

impl ShapeWarp {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "shape_warp",
                name: "Shape warp",
                family: Family::Warp,
                help: "Reshapes what comes in: outlines go from where they are to where they shall be, and what lies about them goes along.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::OwnUse,
                passes: Passes::Moves,
                controls: ShapeWarpControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ShapeWarp {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: ShapeWarpControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn as_warp(&self) -> Option<&dyn WarpStage> {
        Some(self)
    }
}

impl ShapeWarpControls {
    /// How far a pair goes.
    fn goes(&self, context: &Context<'_>) -> impl Fn(&LaidPair) -> f64 {
        let (way, amount) = (self.way, f64::from(context.amount()));
        move |pair| pair.amount.unwrap_or(way) * amount
    }

    fn around(&self) -> Around {
        Around { quality: self.quality, density: self.density }
    }
}

impl WarpStage for ShapeWarp {
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError> {
        let controls: ShapeWarpControls = context.controls()?;
        Ok(Reading { filter: controls.sampling, edge: controls.outside, rings: controls.rings })
    }

    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError> {
        let ShapeWarpControls { outlines, .. } = context.controls()?;
        let still = outlines.pairs.iter().all(|pair| pair.rest == pair.goal && pair.ties.is_empty());
        Ok(Bend::Map { softness: 0.0, within: if still { Window::EMPTY } else { about(context) } })
    }

    fn moves(&self, context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        let controls: ShapeWarpControls = context.controls()?;
        let (goes, matte) = (controls.goes(context), context.matte(window)?);
        let laid = &controls.outlines;
        reshaping::moves(context, laid, Lies::AtRest, goes, controls.around(), window, matte.as_ref())
    }

    fn folds(&self, context: &Context<'_>, window: Window) -> Result<Option<Field>, StageError> {
        let controls: ShapeWarpControls = context.controls()?;
        let (goes, around) = (controls.goes(context), controls.around());
        let shaped = reshaping::shaped(context, &controls.outlines, Lies::AtRest, &goes, around)?;
        Ok(Some(shaped.folded(window, context.cancel())?))
    }
}
