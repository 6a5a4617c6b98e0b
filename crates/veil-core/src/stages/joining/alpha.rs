//! The alpha of a picture.

use veil_pixels::{Window, colour};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct AlphaControls {
        how: How = ControlSpec::choice("how", How::Replace).help("What becomes of the alpha, and whether the colours go with it."),
        value: f64 = ControlSpec::number("value", 1.0, (0.0, 1.0)).within(0.0, 1.0).when("how", &["set"]).help("The alpha everywhere."),
    }
}

/// The slot of what gives the alpha.
const FROM: &str = "from";

/// What becomes of the alpha.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum How {
    Set,
    Replace,
    Multiply,
    Remove,
    Premultiply,
    Unpremultiply,
}

choice! {
    How {
        Set = "set", "set to a value";
        Replace = "replace", "replace by the slot's";
        Multiply = "multiply", "multiply by the slot's";
        Remove = "remove", "remove";
        Premultiply = "premultiply", "premultiply";
        Unpremultiply = "unpremultiply", "unpremultiply";
    }
}

impl How {
    /// The pixel with its new alpha. The colours are kept as they are without premultiplication where the alpha is given
    /// anew, so that what becomes thinner keeps its colour; an empty slot changes nothing.
    fn of(self, pixel: [f32; 4], given: Option<f32>, value: f32) -> [f32; 4] {
        let [r, g, b, alpha] = pixel;
        let with = |alpha: f32| {
            let [r, g, b, _] = colour::unpremultiplied(pixel);
            colour::premultiplied([r, g, b, alpha])
        };
        match (self, given) {
            (Self::Set, _) => with(value),
            (Self::Replace, Some(given)) => with(given),
            (Self::Multiply, Some(given)) => pixel.map(|float| float * given),
            (Self::Replace | Self::Multiply, None) => pixel,
            (Self::Remove, _) => [r, g, b, 1.0],
            (Self::Premultiply, _) => [r * alpha, g * alpha, b * alpha, alpha],
            (Self::Unpremultiply, _) => colour::unpremultiplied(pixel),
        }
    }
}

pub(super) struct AlphaStage {
    spec: StageSpec,
}

impl AlphaStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "alpha",
                name: "Alpha",
                family: Family::Joining,
                help: "Sets, replaces, multiplies or removes a picture's alpha; premultiplies and back.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(FROM, "alpha from", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: AlphaControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for AlphaStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn cuts(&self) -> bool {
        true
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: AlphaControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        // An alpha of its own is everywhere.
        let anywhere = matches!(controls.how, How::Set | How::Replace | How::Remove);
        Ok(if anywhere { Domain { data: main.data.union(main.display), ..main } } else { main })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: AlphaControls = context.controls()?;
        let from = context.coverage(FROM, wanted)?;
        let (how, value) = (controls.how, controls.value as f32);
        Ok(Some(EachPixel::rows_at(move |[x0, y], row| {
            let given = from.as_ref().map(|from| &from.row(y)[(x0 - wanted.x0) as usize..]);
            for (at, pixel) in row.iter_mut().enumerate() {
                *pixel = how.of(*pixel, given.map(|row| row[at]), value);
            }
        })))
    }
}
