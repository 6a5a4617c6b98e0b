//! A picture that darkens to its edges.

use veil_pixels::Window;
use veil_pixels::shape::ellipse::{Ellipse, SoftSide};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct VignetteControls {
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("Where it is brightest."),
        radii: [f64; 2] = ControlSpec::size("radii", [0.9, 0.6]).grip(Grip::Radii).help("Half the width and half the height of the ellipse about which it darkens."),
        softness: f64 = ControlSpec::length("softness", 500.0, 2000.0).within(0.0, 10_000.0).grip(Grip::Softness)
            .help("Length over which it goes from full light to the edge's."),
        strength: f64 = ControlSpec::number("strength", 0.5, (0.0, 1.0)).within(0.0, 1.0).help("The share of light that is missing beyond."),
        tint: [f64; 3] = ControlSpec::colour("tint", 0.0, (0.0, 1.0)).help("The colour of what light is left of the missing share."),
    }
}

pub(super) struct Vignette {
    spec: StageSpec,
}

impl Vignette {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "vignette",
                name: "Vignette",
                family: Family::Light,
                help: "Darkens a picture toward its edges.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: VignetteControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Vignette {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("hint", &[("strength", 0.25)]),
            Preset::of("porthole", &[("strength", 1.0), ("softness", 60.0)]).axes("radii", &[420.0, 420.0]),
        ]
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: VignetteControls = context.controls()?;
        let scale = context.scale();
        let ellipse = Ellipse {
            centre: controls.centre.map(|at| scale.length(at)),
            radii: controls.radii.map(|radius| scale.length(radius)),
            angle: 0.0,
            softness: scale.length(controls.softness),
            side: SoftSide::Both,
        };
        let lit = ellipse.over(wanted, context.cancel())?;
        let mut picture = context.picture(MAIN, wanted)?;
        let kept = controls.tint.map(|tint| 1.0 - (controls.strength * (1.0 - tint)) as f32);
        picture.fill_rows(context.cancel(), |y, row| {
            for (pixel, lit) in row.iter_mut().zip(lit.row(y)) {
                for (value, kept) in pixel.iter_mut().zip(kept) {
                    *value *= kept + (1.0 - kept) * lit;
                }
            }
        })?;
        Ok(Pixels::Picture(picture))
    }
}
