//! The shapes of a drawing as a picture or a field.

use std::sync::Arc;

use veil_pixels::blend::{Mode, blend_row};
use veil_pixels::shape::polygon::Polygon;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Picture, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, MediaSort, Stops};
use crate::figure::Figure;
use crate::ids::MediaId;
use crate::key::Key;
use crate::signal::{Domain, Pixels};
use crate::spec::{AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

use super::painted::{Given, across, coloured, cut, given, laid};

controls! {
    struct FigureControls {
        gives: Given = ControlSpec::choice("gives", Given::Picture).help("A picture, or a field of what the shapes cover."),
        media: Option<MediaId> = ControlSpec::media("drawing", MediaSort::Figure).help("Which SVG file of the show."),
        place: [f64; 2] = ControlSpec::point("place", [0.5, 0.5]).grip(Grip::Point).under("place").help("Where the middle of the drawing lies."),
        high: f64 = ControlSpec::length("height", 400.0, 2000.0).within(0.1, 20_000.0).under("place").help("How high the drawing is."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).under("place").help("How it is turned, counter-clockwise as seen."),
        fill: Fill = ControlSpec::choice("fill", Fill::Own).under("fill").help("Each shape's own colour, one for all, or a run of colours."),
        colour: [f64; 3] = ControlSpec::colour("colour", 1.0, (0.0, 2.0)).under("fill").when("fill", &["colour"]).help("Red, green and blue in scene-linear light."),
        stops: Stops = ControlSpec::stops("stops").under("fill").when("fill", &["run"]).help("The colours across the drawing: click the bar for another, drag one to move it."),
        run_angle: f64 = ControlSpec::angle("run angle", -90.0).under("fill").when("fill", &["run"]).help("Which way the colours run; at -90 down."),
    }
}

/// What shapes are filled with.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Fill {
    Own,
    Colour,
    Run,
}

choice! {
    Fill {
        Own = "own", "their own";
        Colour = "colour", "a colour";
        Run = "run", "a run of colours";
    }
}

fn drawing(controls: &FigureControls, context: &Context<'_>) -> Result<Arc<Figure>, StageError> {
    let medium =
        controls.media.ok_or_else(|| context.fault("has no drawing yet; choose one on the bench"))?;
    Ok(context.plates().figure(context.medium(Some(medium))?)?)
}

/// The drawing's shapes, laid on the picture.
fn shapes(controls: &FigureControls, figure: &Figure, context: &Context<'_>) -> Vec<Polygon> {
    let ([wide, high], [x, y]) = (figure.size, controls.place);
    let times = controls.high / high.max(1e-6);
    let small = 1.0 / f64::from(context.scale().divisor());
    let forth = Homography::shift(-wide / 2.0, -high / 2.0)
        .then(Homography::scale(times, times))
        .then(Homography::turn(controls.angle.to_radians()))
        .then(Homography::shift(x, y))
        .then(Homography::scale(small, small));
    figure.shapes.iter().map(|shape| laid(&shape.outlines, forth)).collect()
}

fn window(shapes: &[Polygon]) -> Window {
    shapes.iter().fold(Window::EMPTY, |all, shape| all.union(shape.window()))
}

/// The shapes laid over each other in their own colours.
fn painted(
    figure: &Figure,
    shapes: &[Polygon],
    wanted: Window,
    context: &Context<'_>,
) -> Result<Picture, StageError> {
    let mut all = Picture::clear(wanted);
    for (shape, drawn) in figure.shapes.iter().zip(shapes) {
        let covered = drawn.over(wanted, context.cancel())?;
        let layer = coloured(&covered, shape.colour, shape.alpha, context)?;
        let below = all.clone();
        all.fill_rows(context.cancel(), |y, row| {
            blend_row(Mode::Over, below.row(y), layer.row(y), 1.0, None, row);
        })?;
    }
    Ok(all)
}

pub(super) struct FigureStage {
    spec: StageSpec,
}

impl FigureStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "figure",
                name: "Figure",
                family: Family::Source,
                help: "The filled shapes of an SVG drawing.",
                main: None,
                slots: Vec::new(),
                gives: Gives::ByControls(given),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: FigureControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for FigureStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let controls: FigureControls = context.controls()?;
        if controls.media.is_some() {
            let media = context.medium(controls.media)?;
            key.add(&context.plates().fingerprint(media, 0, context.cancel())?);
        }
        Ok(())
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: FigureControls = context.controls()?;
        let everywhere = context.everywhere();
        let shapes = shapes(&controls, &*drawing(&controls, context)?, context);
        Ok(Domain { data: window(&shapes).intersect(everywhere.display), ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: FigureControls = context.controls()?;
        let figure = drawing(&controls, context)?;
        let shapes = shapes(&controls, &figure, context);
        let own = painted(&figure, &shapes, wanted, context)?;
        let covered = own.map(context.cancel(), |pixel| pixel[3])?;
        Ok(match (controls.gives, controls.fill) {
            (Given::Field, _) => Pixels::Field(covered),
            (Given::Picture, Fill::Own) => Pixels::Picture(own),
            (Given::Picture, Fill::Colour) => {
                Pixels::Picture(coloured(&covered, controls.colour.map(|value| value as f32), 1.0, context)?)
            }
            (Given::Picture, Fill::Run) => {
                let (colours, run) = across(&controls.stops, controls.run_angle, window(&shapes));
                Pixels::Picture(cut(&colours.over(run, wanted, context.cancel())?, &covered, context)?)
            }
        })
    }
}
