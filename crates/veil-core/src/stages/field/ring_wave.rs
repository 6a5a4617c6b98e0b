//! Rings that grow from a centre.

use veil_pixels::Window;
use veil_pixels::shape::ring::{RingRange, RingShape, Rings};

use crate::controls::{ControlSet, ControlSpec, Grip, Unit};
use crate::key::Key;
use crate::signal::{Pixels, SignalKind};
use crate::spec::{AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct RingWaveControls {
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("What the rings are about."),
        radius: f64 = ControlSpec::number("radius", 200.0, (0.0, 1500.0)).unit(Unit::Px).grip(Grip::Reach)
            .help("How far out the foremost ring is; keyed, the rings grow."),
        growth: f64 = ControlSpec::number("growth", 0.0, (-40.0, 40.0)).unit(Unit::Px)
            .help("How far they grow each frame from the shot's start on, besides the radius."),
        wavelength: f64 = ControlSpec::length("wavelength", 60.0, 400.0).help("Width of a ring."),
        phase: f64 = ControlSpec::number("phase", 0.0, (0.0, 1.0))
            .help("Moves the wave behind the foremost ring; at 1 it is the same again."),
        ends: Ends = ControlSpec::choice("rings", Ends::Counted).under("rings")
            .help("As many as are counted, behind the foremost, or without end."),
        count: f64 = ControlSpec::number("count", 3.0, (0.0, 20.0)).within(0.0, 1000.0).under("rings").when("ends", &["counted"])
            .help("How many rings there are."),
        loss: f64 = ControlSpec::number("loss", 0.3, (0.0, 1.0)).within(0.0, 1.0).under("rings").when("ends", &["counted"])
            .help("How much weaker each ring is than the one before it."),
        fades: f64 = ControlSpec::length("fades over", 0.0, 2000.0).under("rings")
            .help("Length out from the centre over which they fall to a third; 0 for no fall."),
        shape: RingShape = ControlSpec::choice("profile", RingShape::Sine).under("values").help("The course of a ring from its front to its end."),
        range: RingRange = ControlSpec::choice("range", RingRange::Signed).under("values")
            .help("From -1 to 1 with 0 for no ring, as maps want it, or from 0 to 1."),
    }
}

/// Whether there is a last ring.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Ends {
    Counted,
    Endless,
}

choice! {
    Ends {
        Counted = "counted", "counted";
        Endless = "endless", "endless";
    }
}

choice! {
    RingShape {
        Sine = "sine", "sine";
        Triangle = "triangle", "triangle";
        Pulse = "pulse", "pulse";
    }
}

choice! {
    RingRange {
        Signed = "signed", "-1 to 1";
        Positive = "positive", "0 to 1";
    }
}

fn rings(controls: &RingWaveControls, context: &Context<'_>) -> Rings {
    let scale = context.scale();
    Rings {
        centre: controls.centre.map(|at| scale.length(at)),
        front: scale.length(controls.radius + controls.growth * context.since()),
        wavelength: scale.length(controls.wavelength),
        phase: controls.phase as f32,
        count: (controls.ends == Ends::Counted).then_some(controls.count as f32),
        shape: controls.shape,
        range: controls.range,
        fades_over: scale.length(controls.fades),
        loss: controls.loss as f32,
    }
}

pub(super) struct RingWave {
    spec: StageSpec,
}

impl RingWave {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "ring_wave",
                name: "Ring wave",
                family: Family::Field,
                help: "Rings about a centre that grow for ever: pressure in air, ripples on water.",
                main: None,
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: RingWaveControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for RingWave {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("shock", &[("count", 1.0), ("wavelength", 90.0), ("growth", 34.0), ("radius", 0.0)]),
            Preset::of(
                "ripples",
                &[("count", 6.0), ("loss", 0.2), ("growth", 5.0), ("radius", 0.0), ("wavelength", 40.0)],
            ),
            Preset::of("hum", &[("phase", 0.0), ("wavelength", 30.0), ("growth", 2.0)])
                .choosing("ends", "endless"),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: RingWaveControls = context.controls()?;
        if controls.growth != 0.0 {
            key.add(&context.since());
        }
        Ok(())
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        Ok(Pixels::Field(rings(&context.controls()?, context).over(wanted, context.cancel())?))
    }
}
