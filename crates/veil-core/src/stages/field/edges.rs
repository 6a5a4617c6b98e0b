//! Thin lines where a picture changes.

use veil_pixels::filter::edges::{Lines, widened};
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind, Take};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};

controls! {
    struct EdgesControls {
        smooth: f64 = ControlSpec::length("smoothing", 1.5, 12.0)
            .help("Standard deviation of the blur before lines are looked for; more leaves out what is small."),
        high: f64 = ControlSpec::number("threshold", 0.03, (0.0, 0.3)).within(0.0, 65_504.0)
            .help("How much the value changes from pixel to pixel where a line begins."),
        low: f64 = ControlSpec::number("goes on to", 0.01, (0.0, 0.3)).within(0.0, 65_504.0)
            .help("A line that has begun goes on down to this change."),
        width: f64 = ControlSpec::length("width", 1.5, 20.0).help("How wide the lines are; never less than a pixel."),
        seen: bool = ControlSpec::switch("as seen", true)
            .help("Of a picture the square root of luma is looked at, about as an eye judges it, not the light itself."),
    }
}

pub(super) struct EdgesStage {
    spec: StageSpec,
}

impl EdgesStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "edges",
                name: "Edges",
                family: Family::Field,
                help: "Draws thin lines where a picture or field changes.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: EdgesControls::specs(),
                // A line is there or it is not, at each scale by itself.
                proxy_tolerance: 1.0,
            },
        }
    }
}

impl Stage for EdgesStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("outlines", &[("smooth", 3.0), ("high", 0.012), ("low", 0.004), ("width", 2.0)]),
            Preset::of("every detail", &[("smooth", 0.8), ("high", 0.015), ("low", 0.006), ("width", 1.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Domain { data: main.data.intersect(main.display), ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: EdgesControls = context.controls()?;
        let (data, cancel) = (self.domain(context)?.data, context.cancel());
        let values = match context.main(data)?.over(data) {
            Pixels::Field(field) => field,
            Pixels::Picture(picture) => {
                let luma = Take::Luma.apply(&picture, context.working(), cancel)?;
                if controls.seen { luma.map(cancel, |value: f32| value.max(0.0).sqrt())? } else { luma }
            }
            Pixels::Map(_) => return Err(StageError::Fault("lines are of pictures and fields".into())),
        };
        // A pixel of a proxy is as wide as several, and the value changes by as much more.
        let wide = context.scale().divisor() as f32;
        let lines = Lines {
            sigma: context.scale().length(controls.smooth),
            low: controls.low as f32 * wide,
            high: controls.high.max(controls.low) as f32 * wide,
        };
        let drawn =
            widened(&lines.of(&values, data, cancel)?, context.scale().length(controls.width), cancel)?;
        Ok(Pixels::Field(drawn.extended(wanted, data, Edge::Clear)))
    }
}
