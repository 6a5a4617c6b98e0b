//! Colour correction.

use veil_pixels::Window;
use veil_pixels::colour;
use veil_pixels::grade::Grade;

use crate::control::{ControlSet, ControlSpec, Unit};
use crate::controls;
use crate::engine::{Context, StageError};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, StageSpec};

use super::Stage;

controls! {
    struct GradeControls {
        exposure: f64 = ControlSpec::number("exposure", 0.0, (-5.0, 5.0)).within(-32.0, 32.0).unit(Unit::Stops).help("Light, in stops."),
        lift: [f64; 3] = ControlSpec::colour("lift", 0.0, (-0.2, 0.2)).help("What black becomes while white stays."),
        gamma: [f64; 3] = ControlSpec::colour("gamma", 1.0, (0.2, 4.0)).help("Raises the middle above 1, lowers it below."),
        gain: [f64; 3] = ControlSpec::colour("gain", 1.0, (0.0, 4.0)).help("Times the light."),
        offset: [f64; 3] = ControlSpec::colour("offset", 0.0, (-0.2, 0.2)).help("Added to everything."),
        contrast: f64 = ControlSpec::number("contrast", 1.0, (0.2, 3.0)).within(0.0, 20.0).under("contrast")
            .help("Power about the pivot."),
        pivot: f64 = ControlSpec::number("pivot", 0.18, (0.01, 1.0)).within(0.0001, 100.0).under("contrast")
            .help("The value that contrast leaves alone."),
        saturation: f64 = ControlSpec::number("saturation", 1.0, (0.0, 2.0)).within(0.0, 20.0).under("contrast")
            .help("0 is grey."),
    }
}

fn grade(controls: &GradeControls, luma: [f32; 3]) -> Grade {
    let colour = |values: [f64; 3]| values.map(|value| value as f32);
    Grade {
        exposure: controls.exposure as f32,
        lift: colour(controls.lift),
        gain: colour(controls.gain),
        offset: colour(controls.offset),
        contrast: controls.contrast as f32,
        pivot: controls.pivot as f32,
        gamma: controls.gamma.map(|value| value.max(0.01) as f32),
        saturation: controls.saturation as f32,
        luma,
    }
}

pub(super) struct GradeStage {
    spec: StageSpec,
}

impl GradeStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "grade",
                name: "Grade",
                family: Family::Colour,
                help: "Exposure, lift, gamma, gain, offset, contrast and saturation, on unpremultiplied colour.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: GradeControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for GradeStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("darker by a stop", &[("exposure", -1.0)]),
            Preset::of("contrast", &[("contrast", 1.4)]),
            Preset::of("faded", &[("contrast", 0.8), ("saturation", 0.6)]).axes("lift", &[0.02, 0.02, 0.03]),
            Preset::of("moonlight", &[("exposure", -1.6), ("saturation", 0.5)])
                .axes("gain", &[0.8, 0.95, 1.25]),
            Preset::of("ember", &[("exposure", 0.3), ("saturation", 1.2)]).axes("gain", &[1.2, 0.95, 0.75]),
        ]
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let grade = grade(&context.controls()?, context.working().luma());
        let picture = context.picture(MAIN, wanted)?;
        Ok(Pixels::Picture(picture.map(context.cancel(), |pixel| {
            colour::premultiplied(grade.apply(colour::unpremultiplied(pixel)))
        })?))
    }
}
