//! Values rounded to a few levels.

use veil_pixels::Window;

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct StepsControls {
        levels: i32 = ControlSpec::whole("levels", 5, 2, 64).help("So many levels from low to high, both among them; beyond them they go on as far apart."),
        low: f64 = ControlSpec::number("low", 0.0, (0.0, 1.0)).help("The value of the first level."),
        high: f64 = ControlSpec::number("high", 1.0, (0.0, 4.0)).help("The value of the last level; where it is that of the first, nothing is rounded."),
        softness: f64 = ControlSpec::number("softness", 0.1, (0.0, 1.0)).within(0.0, 1.0)
            .help("How much of the way from a level to the next the change takes; at 1 it is even."),
    }
}

pub(super) struct Steps {
    spec: StageSpec,
}

impl Steps {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "steps",
                name: "Steps",
                family: Family::Colour,
                help: "Rounds values to a few levels, as bands of energy, contour lines and drawn looks have them.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: StepsControls::specs(),
                proxy_tolerance: 0.06,
            },
        }
    }
}

impl StepsControls {
    fn rounded(&self) -> impl Fn(f32) -> f32 + Copy + Send + Sync + 'static {
        let (low, softness) = (self.low as f32, self.softness as f32);
        let step = ((self.high - self.low) / f64::from(self.levels - 1)) as f32;
        move |value| {
            if step == 0.0 || !value.is_finite() {
                return value;
            }
            let at = (value - low) / step;
            let below = at.floor();
            // The change lies about the middle of the way.
            let way = if softness > 0.0 {
                ((at - below - 0.5) / softness + 0.5).clamp(0.0, 1.0)
            } else {
                f32::from(at - below >= 0.5)
            };
            low + (below + way) * step
        }
    }
}

impl Stage for Steps {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let rounded = context.controls::<StepsControls>()?.rounded();
        Ok(match kind {
            SignalKind::Picture => Some(EachPixel::colour(move |colour| colour.map(rounded))),
            SignalKind::Field => Some(EachPixel::field(rounded)),
            SignalKind::Map => None,
        })
    }
}
