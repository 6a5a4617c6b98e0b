//! Words as a picture or a field.

use std::sync::Arc;

use veil_pixels::Window;
use veil_pixels::shape::polygon::Polygon;
use veil_pixels::warp::perspective::Homography;

use crate::controls::{ControlSet, ControlSpec, Grip, MediaSort, Stops, Unit};
use crate::ids::MediaId;
use crate::key::Key;
use crate::lettering::{self, Align, Lettering};
use crate::signal::{Domain, Pixels};
use crate::spec::{AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

use super::painted::{Given, across, coloured, cut, given, laid};

controls! {
    struct TextControls {
        gives: Given = ControlSpec::choice("gives", Given::Picture).help("A picture, or a field of what the letters cover."),
        text: String = ControlSpec::text("text", "Saltglass").help("The words; each line of them is a line."),
        face: ShippedFace = ControlSpec::choice("face", ShippedFace::Plain).help("One of the faces that come along; a font of the show's own goes before."),
        font: Option<MediaId> = ControlSpec::media("font", MediaSort::Font).help("A font file of the show."),
        size: f64 = ControlSpec::length("size", 160.0, 600.0).within(1.0, 10_000.0).help("Height of the em square."),
        spacing: f64 = ControlSpec::number("spacing", 0.0, (-20.0, 100.0)).unit(Unit::Px).help("Added after each letter."),
        leading: f64 = ControlSpec::number("leading", 1.15, (0.5, 3.0)).within(0.0, 20.0).help("From one line to the next, in sizes."),
        align: Align = ControlSpec::choice("even at", Align::Middle).help("Where lines are even."),
        place: [f64; 2] = ControlSpec::point("place", [0.5, 0.5]).grip(Grip::Point).under("place").help("Where the middle of the block stands, or its start or end."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).under("place").help("How it is turned, counter-clockwise as seen."),
        fill: Fill = ControlSpec::choice("fill", Fill::Colour).under("fill").help("One colour, or a run of colours across the block."),
        colour: [f64; 3] = ControlSpec::colour("colour", 1.0, (0.0, 2.0)).under("fill").when("fill", &["colour"]).help("Red, green and blue in scene-linear light."),
        stops: Stops = ControlSpec::stops("stops").under("fill").when("fill", &["run"]).help("The colours across the block: click the bar for another, drag one to move it."),
        run_angle: f64 = ControlSpec::angle("run angle", -90.0).under("fill").when("fill", &["run"]).help("Which way the colours run; at -90 down."),
    }
}

choice! {
    Align {
        Start = "start", "start";
        Middle = "middle", "middle";
        End = "end", "end";
    }
}

/// The faces that come along.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum ShippedFace {
    Plain,
    Bold,
    Even,
}

choice! {
    ShippedFace {
        Plain = "plain", "plain";
        Bold = "bold", "bold";
        Even = "even", "evenly wide";
    }
}

impl ShippedFace {
    const fn bytes(self) -> &'static [u8] {
        match self {
            Self::Plain => include_bytes!("../../../fonts/barlow-semi-condensed-400.ttf"),
            Self::Bold => include_bytes!("../../../fonts/barlow-semi-condensed-600.ttf"),
            Self::Even => include_bytes!("../../../fonts/chivo-mono-400.ttf"),
        }
    }
}

/// What letters are filled with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Fill {
    Colour,
    Run,
}

choice! {
    Fill {
        Colour = "colour", "a colour";
        Run = "run", "a run of colours";
    }
}

/// A font, wherever it comes from.
enum Font {
    Shipped(&'static [u8]),
    File(Arc<Vec<u8>>),
}

impl Font {
    fn bytes(&self) -> &[u8] {
        match self {
            Self::Shipped(bytes) => bytes,
            Self::File(bytes) => bytes,
        }
    }
}

fn lettering(controls: &TextControls, context: &Context<'_>) -> Result<Lettering, StageError> {
    let font = match controls.font {
        None => Font::Shipped(controls.face.bytes()),
        some => Font::File(context.plates().font(context.medium(some)?)?),
    };
    let setting = lettering::Setting {
        size: controls.size,
        spacing: controls.spacing,
        leading: controls.leading,
        align: controls.align,
    };
    lettering::set(&controls.text, font.bytes(), setting)
        .ok_or_else(|| context.fault("has a font that cannot be read"))
}

fn letters(controls: &TextControls, context: &Context<'_>) -> Result<Polygon, StageError> {
    let [x, y] = controls.place;
    let small = 1.0 / f64::from(context.scale().divisor());
    let forth = Homography::turn(controls.angle.to_radians())
        .then(Homography::shift(x, y))
        .then(Homography::scale(small, small));
    Ok(laid(&lettering(controls, context)?.outlines, forth))
}

pub(super) struct TextStage {
    spec: StageSpec,
}

impl TextStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "text",
                name: "Text",
                family: Family::Source,
                help: "Words, set in a font, filled with a colour or a run of colours.",
                main: None,
                slots: Vec::new(),
                gives: Gives::ByControls(given),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: TextControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for TextStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("title", &[("size", 220.0), ("spacing", 12.0)]).choosing("face", "bold"),
            Preset::of("reading", &[("size", 40.0), ("leading", 1.4)]).choosing("face", "even"),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: TextControls = context.controls()?;
        if controls.font.is_some() {
            let font = context.medium(controls.font)?;
            key.add(&context.plates().fingerprint(font, 0, context.cancel())?);
        }
        Ok(())
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: TextControls = context.controls().ok()?;
        let lacking = lettering(&controls, context).ok()?.lacking;
        let listed = lacking.iter().map(|letter| format!("`{letter}`")).collect::<Vec<_>>().join(", ");
        (!lacking.is_empty()).then(|| format!("the font has no {listed}; an empty box stands there"))
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        let data = letters(&context.controls()?, context)?.window().intersect(everywhere.display);
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: TextControls = context.controls()?;
        let letters = letters(&controls, context)?;
        let covered = letters.over(wanted, context.cancel())?;
        Ok(match (controls.gives, controls.fill) {
            (Given::Field, _) => Pixels::Field(covered),
            (Given::Picture, Fill::Colour) => {
                Pixels::Picture(coloured(&covered, controls.colour.map(|value| value as f32), 1.0, context)?)
            }
            (Given::Picture, Fill::Run) => {
                let (colours, run) = across(&controls.stops, controls.run_angle, letters.window());
                Pixels::Picture(cut(&colours.over(run, wanted, context.cancel())?, &covered, context)?)
            }
        })
    }
}
