//! A picture in other colours, by how light it is.

use veil_pixels::Window;
use veil_pixels::colour;

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct TintControls {
        way: Way = ControlSpec::choice("way", Way::Times).help("Its colours times another, or its luma from one colour to another."),
        bright: [f64; 3] = ControlSpec::colours("colour", [1.0, 0.85, 0.6], (0.0, 2.0)).help("What it is multiplied by, or what a luma of 1 becomes."),
        dark: [f64; 3] = ControlSpec::colour("dark", 0.0, (0.0, 1.0)).when("way", &["luma"]).help("What a luma of 0 becomes."),
    }
}

/// How a picture takes on a colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    Times,
    Luma,
}

choice! {
    Way {
        Times = "times", "times a colour";
        Luma = "luma", "luma to colours";
    }
}

pub(super) struct Tint {
    spec: StageSpec,
}

impl Tint {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "tint",
                name: "Tint",
                family: Family::Colour,
                help: "Gives a picture one colour, or two by how light it is.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: TintControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Tint {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("old print", &[])
                .choosing("way", "luma")
                .axes("bright", &[1.0, 0.82, 0.58])
                .axes("dark", &[0.03, 0.015, 0.01]),
            Preset::of("cold", &[]).axes("bright", &[0.7, 0.9, 1.2]),
        ]
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: TintControls = context.controls()?;
        let (bright, dark) =
            (controls.bright.map(|value| value as f32), controls.dark.map(|value| value as f32));
        let weights = context.working().luma();
        Ok(Some(match controls.way {
            Way::Times => {
                EachPixel::picture(move |[r, g, b, a]| [r * bright[0], g * bright[1], b * bright[2], a])
            }
            // Premultiplied: where nothing covers, the dark colour is not seen either.
            Way::Luma => EachPixel::picture(move |pixel| {
                let (luma, a) = (colour::luma(pixel, weights), pixel[3]);
                let of = |channel: usize| dark[channel] * a + (bright[channel] - dark[channel]) * luma;
                [of(0), of(1), of(2), a]
            }),
        }))
    }
}
