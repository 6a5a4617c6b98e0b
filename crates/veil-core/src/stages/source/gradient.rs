//! A run of colours.

use veil_pixels::shape::gradient::{Gradient, Run, Spread};
use veil_pixels::{Picture, Window};

use crate::controls::Setting;
use crate::controls::{ControlSet, ControlSpec, Grip, Stops};
use crate::signal::{Domain, Pixels, Take};
use crate::spec::{AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

use super::painted::{Given, given};

/// Where it runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Shape {
    Linear,
    Radial,
    Angular,
}

choice! {
    Shape {
        Linear = "linear", "linear";
        Radial = "radial", "radial";
        Angular = "angular", "angular";
    }
}

choice! {
    Spread {
        Hold = "hold", "hold";
        Mirror = "mirror", "mirror";
        Repeat = "repeat", "repeat";
        Clear = "clear", "clear";
    }
}

controls! {
    struct GradientControls {
        gives: Given = ControlSpec::choice("gives", Given::Picture).help("A picture of the colours, or a field of their luma."),
        shape: Shape = ControlSpec::choice("shape", Shape::Linear)
            .help("From one point to another, out from a point, or around it."),
        from: [f64; 2] = ControlSpec::point("from", [0.3, 0.5]).grip(Grip::Point)
            .help("Where the first stop is, or the centre."),
        to: [f64; 2] = ControlSpec::point("to", [0.7, 0.5]).grip(Grip::End).when("shape", &["linear", "angular"])
            .help("Where the last stop is, or the direction that an angular one begins in."),
        radius: f64 = ControlSpec::length("radius", 300.0, 1000.0).grip(Grip::Reach).when("shape", &["radial"])
            .help("How far from the centre the last stop is; at 0 all is the last stop."),
        stops: Stops = ControlSpec::stops("stops").under("colours")
            .help("The colours along the run: click the bar for another, drag one to move it."),
        spread: Spread = ControlSpec::choice("beyond", Spread::Hold).under("colours")
            .help("What follows beyond the ends of the run."),
    }
}

pub(super) struct GradientStage {
    spec: StageSpec,
}

impl GradientStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "gradient",
                name: "Gradient",
                family: Family::Source,
                help: "A run of colours along a line, out from a point, or around it.",
                main: None,
                slots: Vec::new(),
                gives: Gives::ByControls(given),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: GradientControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

fn run(controls: &GradientControls, context: &Context<'_>) -> Run {
    let scale = context.scale();
    let place = |point: [f64; 2]| point.map(|at| scale.length(at));
    let (from, to) = (place(controls.from), place(controls.to));
    match controls.shape {
        Shape::Linear => Run::Linear { from, to },
        Shape::Radial => Run::Radial { centre: from, radius: scale.length(controls.radius) },
        Shape::Angular => Run::Angular { centre: from, begins: to },
    }
}

fn colours(controls: &GradientControls) -> Gradient {
    Gradient::new(controls.stops.iter().map(|stop| (*stop).into()).collect(), controls.spread)
}

impl Stage for GradientStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        let stops = |stops: &[(f64, [f64; 3], f64)]| Setting::Stops {
            stops: stops
                .iter()
                .map(|(at, colour, alpha)| crate::controls::Stop {
                    at: *at,
                    colour: *colour,
                    alpha: *alpha,
                    smooth: true,
                })
                .collect(),
        };
        let of = |name, shape: &str, run: &[(f64, [f64; 3], f64)]| {
            let mut preset = Preset::of(name, &[]).choosing("shape", shape);
            preset.settings.push(("stops", stops(run)));
            preset
        };
        vec![
            of(
                "ember",
                "radial",
                &[
                    (0.0, [6.0, 3.2, 1.1], 1.0),
                    (0.3, [2.4, 0.7, 0.1], 0.9),
                    (0.7, [0.5, 0.06, 0.01], 0.4),
                    (1.0, [0.1, 0.0, 0.0], 0.0),
                ],
            ),
            of(
                "dusk",
                "linear",
                &[
                    (0.0, [0.03, 0.05, 0.12], 1.0),
                    (0.6, [0.28, 0.16, 0.2], 1.0),
                    (1.0, [0.9, 0.42, 0.16], 1.0),
                ],
            ),
            of("soft spot", "radial", &[(0.0, [1.0; 3], 1.0), (1.0, [1.0; 3], 0.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: GradientControls = context.controls()?;
        let everywhere = context.everywhere();
        let ends = run(&controls, context).window().filter(|_| colours(&controls).ends_clear());
        Ok(Domain {
            data: ends.map_or(everywhere.data, |window| window.intersect(everywhere.data)),
            ..everywhere
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: GradientControls = context.controls()?;
        let picture: Picture = colours(&controls).over(run(&controls, context), wanted, context.cancel())?;
        Ok(match controls.gives {
            Given::Picture => Pixels::Picture(picture),
            Given::Field => Pixels::Field(Take::Luma.apply(&picture, context.working(), context.cancel())?),
        })
    }
}
