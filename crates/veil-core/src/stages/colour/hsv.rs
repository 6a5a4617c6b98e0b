//! Hue, saturation and value in the place of red, green and blue, and back.

use veil_pixels::Window;
use veil_pixels::colour::hsv::{hsv_from_rgb, rgb_from_hsv};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};
use crate::{choice, controls};

/// Which way it goes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    There,
    Back,
}

choice! {
    Way {
        There = "to_hsv", "to hue, saturation and value";
        Back = "from_hsv", "back to red, green and blue";
    }
}

controls! {
    struct HsvControls {
        way: Way = ControlSpec::choice("way", Way::There).help("Hue is put in red, in turns from 0 to 1; saturation in green; value in blue."),
    }
}

pub(super) struct Hsv {
    spec: StageSpec,
}

impl Hsv {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "hsv",
                name: "HSV and back",
                family: Family::Colour,
                help: "Makes hue, saturation and value of red, green and blue, so that rows between two of it work on those, and back.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: HsvControls::specs(),
                // A mean of hues is another hue.
                proxy_tolerance: 0.3,
            },
        }
    }
}

impl Stage for Hsv {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let HsvControls { way } = context.controls()?;
        Ok(Some(match way {
            Way::There => EachPixel::colour(hsv_from_rgb),
            Way::Back => EachPixel::colour(rgb_from_hsv),
        }))
    }
}
