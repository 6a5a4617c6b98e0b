//! Colour correction.

use veil_pixels::Window;
use veil_pixels::colour::bare::OnColour;
use veil_pixels::colour::grade::{Grade, Grader, grade_row};
use veil_pixels::colour::temperature::{NEUTRAL, RANGE, gains};

use crate::colour::Working;
use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::signal::SignalKind;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct GradeControls {
        exposure: f64 = ControlSpec::number("exposure", 0.0, (-5.0, 5.0)).within(-32.0, 32.0).unit(Unit::Stops).help("Light, in stops."),
        temperature: f64 = ControlSpec::number("temperature", NEUTRAL, (2000.0, 12_000.0)).within(RANGE[0], RANGE[1]).unit(Unit::Kelvin)
            .help("What white light becomes: lower is warmer, higher is bluer; the luma of white stays."),
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
        red: bool = ControlSpec::switch("red", true).under("channels").help("Red is graded."),
        green: bool = ControlSpec::switch("green", true).under("channels").help("Green is graded."),
        blue: bool = ControlSpec::switch("blue", true).under("channels").help("Blue is graded."),
        alpha: bool = ControlSpec::switch("alpha", false).under("channels").help("Alpha is graded as a grey, and the colours go with it."),
    }
}

fn grade(controls: &GradeControls, working: Working) -> Grade {
    let colour = |values: [f64; 3]| values.map(|value| value as f32);
    Grade {
        exposure: controls.exposure as f32,
        light: gains(controls.temperature, working.primaries()),
        lift: colour(controls.lift),
        gain: colour(controls.gain),
        offset: colour(controls.offset),
        contrast: controls.contrast as f32,
        pivot: controls.pivot as f32,
        gamma: controls.gamma.map(|value| value.max(0.01) as f32),
        saturation: controls.saturation as f32,
        luma: working.luma(),
    }
}

impl GradeControls {
    /// A colour, graded in the channels that are chosen.
    fn graded(&self, grade: &Grader, colour: [f32; 3]) -> [f32; 3] {
        let graded = grade.apply(colour);
        let chosen = |on: bool, channel: usize| if on { graded[channel] } else { colour[channel] };
        [chosen(self.red, 0), chosen(self.green, 1), chosen(self.blue, 2)]
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
                help: "Exposure, temperature, lift, gamma, gain, offset, contrast and saturation, on unpremultiplied colour.",
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

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: GradeControls = context.controls()?;
        let grade = grade(&controls, context.working());
        let (alpha, grader) = (controls.alpha, Grader::new(grade));
        if !alpha && controls.red && controls.green && controls.blue {
            return Ok(Some(EachPixel::rows(move |row| grade_row(&grader, row))));
        }
        let graded = OnColour::new(move |colour: [f32; 3]| controls.graded(&grader, colour));
        Ok(Some(EachPixel::picture(move |pixel| match alpha {
            false => graded.at(pixel),
            true => graded.under(pixel, grade.of_grey(pixel[3]).clamp(0.0, 1.0)),
        })))
    }
}
