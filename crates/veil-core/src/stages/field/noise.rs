//! A field of noise that evolves.

use veil_pixels::Window;
use veil_pixels::noise::{Basis, Fold, Noise};

use crate::controls::{ControlSet, ControlSpec, Unit};
use crate::key::Key;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct NoiseControls {
        basis: Basis = ControlSpec::choice("made of", Basis::Gradient)
            .help("Slopes or values on a grid, slopes on triangles, or strewn points and the walls between their cells."),
        size: [f64; 2] = ControlSpec::size("size", [0.06, 0.06])
            .help("Size of the pattern in x and y; 0 for no change along that axis."),
        angle: f64 = ControlSpec::angle("angle", 0.0).help("Turn of the pattern, counter-clockwise as seen."),
        offset_x: f64 = ControlSpec::number("offset x", 0.0, (-500.0, 500.0)).unit(Unit::Px)
            .help("How far the pattern is moved to the right."),
        offset_y: f64 = ControlSpec::number("offset y", 0.0, (-500.0, 500.0)).unit(Unit::Px)
            .help("How far the pattern is moved down."),
        octaves: i32 = ControlSpec::whole("octaves", 3, 1, 12).under("detail")
            .help("How many finer patterns are added up."),
        lacunarity: f64 = ControlSpec::number("lacunarity", 2.0, (1.0, 4.0)).within(1.0, 16.0).under("detail")
            .help("How much finer each octave is than the one before."),
        gain: f64 = ControlSpec::number("gain", 0.5, (0.0, 1.0)).within(0.0, 4.0).under("detail")
            .help("How much weaker each octave is than the one before."),
        fold: Fold = ControlSpec::choice("crests", Fold::Plain).under("detail")
            .help("Plain, with sharp crests, or with round lumps."),
        space: Space = ControlSpec::choice("space", Space::Deep).under("time")
            .help("Deep noise evolves; flat noise is quicker and stays as it is."),
        churn: f64 = ControlSpec::number("churn", 0.04, (0.0, 0.5)).under("time")
            .help("How fast it evolves each frame; one unit is a wholly new pattern."),
        depth: f64 = ControlSpec::number("depth", 0.0, (0.0, 10.0)).under("time")
            .help("Where in its evolution it starts."),
        looped: f64 = ControlSpec::number("loop", 0.0, (0.0, 240.0)).within(0.0, 100_000.0).unit(Unit::Frames).under("time")
            .help("After so many frames it is the same again; the churn is brought to the nearest that fits. 0 for no loop."),
        seed: i32 = ControlSpec::whole("seed", 1, 0, 9999).under("time").help("Which of the patterns."),
        cell: f64 = ControlSpec::number("size through", 1.0, (0.01, 20.0)).within(1e-4, 1.0e6).under("through")
            .help("Size of the pattern in the units of what is plugged in \"through\"."),
        contrast: f64 = ControlSpec::number("contrast", 1.0, (0.0, 4.0)).under("values")
            .help("Spread of the values about the level."),
        level: f64 = ControlSpec::number("level", 0.5, (0.0, 1.0)).under("values").help("The middle value."),
        invert: bool = ControlSpec::switch("invert", false).under("values").help("High becomes low."),
    }
}

choice! {
    Fold {
        Plain = "plain", "plain";
        Ridged = "ridged", "ridged";
        Billow = "billow", "billow";
    }
}

choice! {
    Basis {
        Gradient = "gradient", "gradient";
        Simplex = "simplex", "simplex";
        Value = "value", "value";
        Cells = "cells", "cells";
        Walls = "walls", "walls of cells";
    }
}

/// Whether there is a third axis, along which the pattern evolves.
#[derive(Clone, Copy, PartialEq)]
enum Space {
    Deep,
    Flat,
}
choice! {
    Space {
        Deep = "deep", "deep";
        Flat = "flat", "flat";
    }
}

/// Where in its evolution it is, and after how many wholly new patterns it is the same again.
fn depth(controls: &NoiseControls, context: &Context<'_>) -> (Option<f64>, Option<u32>) {
    if controls.space == Space::Flat {
        return (None, None);
    }
    if controls.looped < 1.0 {
        return (Some(controls.depth + controls.churn * context.since()), None);
    }
    // Simplex noise comes again after threes.
    let whole = if controls.basis == Basis::Simplex { 3.0 } else { 1.0 };
    let period = ((controls.churn.abs() * controls.looped / whole).round().clamp(1.0, 1.0e6) * whole) as u32;
    let turn = (context.since() / controls.looped).rem_euclid(1.0) * controls.churn.signum();
    (Some(controls.depth + turn * f64::from(period)), Some(period))
}

/// The slot of places that the pattern goes through.
const THROUGH: &str = "through";

pub(super) struct NoiseStage {
    spec: StageSpec,
}

impl NoiseStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "noise",
                name: "Noise",
                family: Family::Field,
                help: "A pattern without repetition, about 0 to 1, that evolves with the frame; through a pass of places it sticks to what moves.",
                main: None,
                slots: vec![SlotSpec::new(THROUGH, "through", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Field),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: NoiseControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for NoiseStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("heat", &[("octaves", 2.0), ("churn", 0.12)]).axes("size", &[40.0, 70.0]),
            Preset::of("smoke", &[("octaves", 6.0), ("gain", 0.6), ("churn", 0.02), ("contrast", 1.6)])
                .axes("size", &[260.0, 200.0]),
            Preset::of("crests", &[("octaves", 4.0), ("contrast", 1.4)]).choosing("fold", "ridged"),
            Preset::of("flicker", &[("octaves", 1.0), ("churn", 0.5), ("contrast", 3.0)])
                .axes("size", &[600.0, 600.0]),
            Preset::of("cells", &[("octaves", 1.0)]).choosing("basis", "cells").axes("size", &[60.0, 60.0]),
            Preset::of("bands", &[("octaves", 3.0), ("contrast", 2.0)]).axes("size", &[0.0, 24.0]),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: NoiseControls = context.controls()?;
        key.add(&depth(&controls, context).0);
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        Ok(context.domain_of(THROUGH).map_or(everywhere, |places| Domain { data: places.data, ..everywhere }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: NoiseControls = context.controls()?;
        let (depth, period) = depth(&controls, context);
        let noise = Noise {
            seed: controls.seed as u32,
            basis: controls.basis,
            size: controls.size,
            offset: [controls.offset_x, controls.offset_y],
            angle: controls.angle.to_radians(),
            depth,
            period,
            octaves: controls.octaves as u32,
            lacunarity: controls.lacunarity,
            gain: controls.gain,
            fold: controls.fold,
        };
        let mut field = match context.domain_of(THROUGH) {
            Some(_) => noise.through(&context.picture(THROUGH, wanted)?, controls.cell, context.cancel())?,
            None => noise.over(wanted, f64::from(context.scale().divisor()), context.cancel())?,
        };
        let contrast = controls.contrast as f32 * if controls.invert { -0.5 } else { 0.5 };
        let level = controls.level as f32;
        field.change(context.cancel(), |value| level + contrast * value)?;
        Ok(Pixels::Field(field))
    }
}
