//! One float of a picture, or a mixture of them.

use veil_pixels::Window;

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind, Take};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct ChannelControls {
        which: Which = ControlSpec::choice("which", Which::Luma).help("What of each pixel becomes the field."),
        red: f64 = ControlSpec::number("red", 0.3333, (-1.0, 2.0)).under("weights").when("which", &["weights"]).help("Weight of red."),
        green: f64 = ControlSpec::number("green", 0.3333, (-1.0, 2.0)).under("weights").when("which", &["weights"]).help("Weight of green."),
        blue: f64 = ControlSpec::number("blue", 0.3333, (-1.0, 2.0)).under("weights").when("which", &["weights"]).help("Weight of blue."),
    }
}

/// What of a pixel.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Which {
    Luma,
    Red,
    Green,
    Blue,
    Alpha,
    Largest,
    Smallest,
    Weights,
}

choice! {
    Which {
        Luma = "luma", "luma";
        Red = "red", "red";
        Green = "green", "green";
        Blue = "blue", "blue";
        Alpha = "alpha", "alpha";
        Largest = "largest", "the largest of the three";
        Smallest = "smallest", "the smallest of the three";
        Weights = "weights", "by weights";
    }
}

pub(super) struct ChannelStage {
    spec: StageSpec,
}

impl ChannelStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "channel",
                name: "Channel",
                family: Family::Field,
                help: "Takes one channel of a picture, its luma, or a mixture by weights.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: ChannelControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ChannelStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: ChannelControls = context.controls()?;
        let picture = context.picture(MAIN, wanted)?;
        let take = |take: Take| take.apply(&picture, context.working(), context.cancel());
        let weights = [controls.red, controls.green, controls.blue].map(|weight| weight as f32);
        let mixed = |[r, g, b, _]: [f32; 4]| weights[0] * r + weights[1] * g + weights[2] * b;
        Ok(Pixels::Field(match controls.which {
            Which::Luma => take(Take::Luma)?,
            Which::Red => take(Take::Red)?,
            Which::Green => take(Take::Green)?,
            Which::Blue => take(Take::Blue)?,
            Which::Alpha => take(Take::Alpha)?,
            Which::Largest => picture.map(context.cancel(), |[r, g, b, _]| r.max(g).max(b))?,
            Which::Smallest => picture.map(context.cancel(), |[r, g, b, _]| r.min(g).min(b))?,
            Which::Weights => picture.map(context.cancel(), mixed)?,
        }))
    }
}
