//! A figure before a green or blue screen.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::filter::grow::grown as widened;
use veil_pixels::key::screen_key::{
    Before, Despill, Edges, Method, Noise, Places, Screen, cleaned, figure, fitted, matte, unmixed,
};
use veil_pixels::{Edge, Field, Picture, Raster, Window};

use crate::controls::{ControlSet, ControlSpec, Unit, Value};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// The slots of a picture of the screen alone, of what is surely figure and surely not, and of what will be behind.
const CLEAN: &str = "clean";
const CORE: &str = "core";
const GARBAGE: &str = "garbage";
const BACKGROUND: &str = "background";

/// What is given.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kind {
    Picture,
    Matte,
}

choice! {
    Kind {
        Picture = "picture", "the figure cut out";
        Matte = "matte", "its matte";
    }
}

choice! {
    Screen {
        Green = "green", "green";
        Blue = "blue", "blue";
    }
}

/// Where the screen's colour at each pixel comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Lit {
    Uneven,
    Even,
}

choice! {
    Lit {
        Uneven = "uneven", "unevenly";
        Even = "even", "evenly";
    }
}

/// How a colour is told from the screen's.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum By {
    Difference,
    Distance,
}

choice! {
    By {
        Difference = "difference", "colour difference";
        Distance = "distance", "colour distance";
    }
}

/// What takes the place of the screen's light on the figure.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Toward {
    Grey,
    Background,
}

choice! {
    Toward {
        Grey = "grey", "a grey";
        Background = "background", "the background";
    }
}

controls! {
    struct ScreenKeyControls {
        gives: Kind = ControlSpec::choice("gives", Kind::Picture).help("The figure with its alpha, or its matte alone."),
        screen: Screen = ControlSpec::choice("screen", Screen::Green).help("The colour of the screen."),
        colour: [f64; 3] = ControlSpec::colours("screen colour", [0.06, 0.42, 0.09], (0.0, 1.0))
            .help("The screen's own colour: drag a box on the screen with Shift, then take it from there."),
        lit: Lit = ControlSpec::choice("lit", Lit::Uneven)
            .help("Unevenly, the colour is fitted to what is surely screen; a picture of the screen alone in its slot goes before both."),
        by: By = ControlSpec::choice("told by", By::Difference)
            .help("By the screen's channel against the others, or by how far a colour lies from the screen's."),
        reach: f64 = ControlSpec::number("reach", 0.4, (0.05, 1.0)).within(0.01, 10.0).when("by", &["distance"])
            .help("How far off a colour is wholly figure, as a share of the screen's brightness."),
        refine: f64 = ControlSpec::number("fine edges", 1.0, (0.0, 1.0)).within(0.0, 1.0)
            .help("How much the edge is worked out anew from the colours of figure and screen near it."),
        solid: f64 = ControlSpec::number("solid from", 0.5, (0.0, 1.0)).within(0.0, 1.0)
            .help("What is covered by this much and is no edge becomes wholly figure, as where the screen's light lies on it; at 1 nothing does, for glass and smoke."),
        edge: f64 = ControlSpec::length("edge width", 8.0, 60.0)
            .help("How wide the widest edge is, as where something is blurred by its motion; fine edges are sought over it."),
        clean: f64 = ControlSpec::number("clean up", 0.08, (0.0, 0.4)).within(0.0, 1.0).under("matte")
            .help("Coverage up to here becomes none where no figure is near: noise and folds of the screen. At 0 nothing is cleaned."),
        black: f64 = ControlSpec::number("black point", 0.0, (0.0, 0.5)).within(0.0, 1.0).under("matte")
            .help("Coverage up to here becomes none."),
        white: f64 = ControlSpec::number("white point", 1.0, (0.5, 1.0)).within(0.0, 1.0).under("matte")
            .help("Coverage from here on becomes whole."),
        offset: f64 = ControlSpec::number("edge offset", 0.0, (-10.0, 10.0)).within(-200.0, 200.0).unit(Unit::Px).under("matte")
            .help("Outward above 0, inward below."),
        blur: f64 = ControlSpec::length("edge blur", 0.0, 10.0).under("matte")
            .help("Standard deviation of the blur on the matte."),
        despill: f64 = ControlSpec::number("despill", 1.0, (0.0, 1.0)).within(0.0, 1.0).under("screen's light on the figure")
            .help("How much of the screen's light is taken off."),
        tight: f64 = ControlSpec::number("tight at edges", 1.0, (0.0, 1.0)).within(0.0, 1.0).under("screen's light on the figure")
            .help("Along edges, all above the mean of the other channels counts as the screen's light, not only what is above the larger."),
        back: f64 = ControlSpec::number("light kept", 0.5, (0.0, 1.0)).within(0.0, 1.0).under("screen's light on the figure")
            .help("How much of that light comes back in another colour."),
        toward: Toward = ControlSpec::choice("as", Toward::Grey).under("screen's light on the figure")
            .help("In which colour it comes back."),
    }
}

fn given(values: &[Value]) -> SignalKind {
    match values.first() {
        Some(Value::Choice(1)) => SignalKind::Field,
        _ => SignalKind::Picture,
    }
}

pub(super) struct ScreenKey {
    spec: StageSpec,
}

impl ScreenKey {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "screen_key",
                name: "Screen key",
                family: Family::Field,
                help: "Takes a figure off a green or blue screen, with its edges, and the screen's light off the figure.",
                main: Some(Accepts::Picture),
                slots: vec![
                    SlotSpec::new(CLEAN, "screen alone", Accepts::Picture),
                    SlotSpec::new(CORE, "hold matte", Accepts::Field),
                    SlotSpec::new(GARBAGE, "garbage matte", Accepts::Field),
                    SlotSpec::new(BACKGROUND, "background", Accepts::Picture),
                ],
                gives: Gives::ByControls(given),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ScreenKeyControls::specs(),
                proxy_tolerance: 0.12,
            },
        }
    }
}

/// The screen's colour at every pixel.
fn screen_of(
    context: &Context<'_>,
    controls: &ScreenKeyControls,
    picture: &Picture,
) -> Result<Picture, StageError> {
    let window = picture.window();
    if context.domain_of(CLEAN).is_some() {
        return context.picture(CLEAN, window);
    }
    let colour = controls.colour.map(|value| value as f32);
    Ok(match controls.lit {
        Lit::Uneven => fitted(picture, colour, controls.screen, context.cancel())?,
        Lit::Even => Raster::flat(window, [colour[0], colour[1], colour[2], 1.0]),
    })
}

/// The figure's coverage, and where each pixel lies about it.
fn matte_of(
    context: &Context<'_>,
    controls: &ScreenKeyControls,
    before: Before<'_>,
) -> Result<(Field, Places), StageError> {
    let picture = before.picture;
    let (window, cancel, scale) = (picture.window(), context.cancel(), context.scale());
    let method = match controls.by {
        By::Difference => Method::Difference,
        By::Distance => Method::Distance(controls.reach as f32),
    };
    let mut found = matte(before, method, cancel)?;
    let noise = Noise::of(before, &found);
    let (faint, width) = (controls.clean as f32, scale.length(controls.edge));
    let places = Places::of(&found, noise, faint, width, cancel)?;
    let edges = Edges { refine: controls.refine as f32, solid: controls.solid as f32 };
    found = unmixed(before, &found, &places, noise, edges, cancel)?;
    if controls.clean > 0.0 {
        found = cleaned(&found, &places, noise, faint, width, cancel)?;
    }
    let (black, white) = (controls.black as f32, controls.white.max(controls.black + 1e-3) as f32);
    found.change(cancel, |value| ((value - black) / (white - black)).clamp(0.0, 1.0))?;
    let offset = scale.length(controls.offset);
    if offset != 0.0 {
        found = widened(&found, window, offset, window, cancel)?;
    }
    if controls.blur > 0.0 {
        let sigma = Sigma::round(scale.length(controls.blur));
        found = gaussian(&found, window, Edge::Hold, sigma, window, cancel)?;
    }
    let (core, garbage) = (context.coverage(CORE, window)?, context.coverage(GARBAGE, window)?);
    let alpha = |x: i32, y: i32| picture.get(x, y).map_or(0.0, |pixel| pixel[3]);
    let held = Raster::from_fn(window, |x, y| {
        let at = |field: &Option<Field>| field.as_ref().and_then(|field| field.get(x, y)).unwrap_or(0.0);
        let solid = found.get(x, y).unwrap_or(0.0).max(at(&core));
        solid * (1.0 - at(&garbage)) * alpha(x, y).clamp(0.0, 1.0)
    });
    Ok((held, places))
}

impl Stage for ScreenKey {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn cuts(&self) -> bool {
        true
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Domain { data: main.data.intersect(main.display), ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: ScreenKeyControls = context.controls()?;
        // The colours of screen and figure come from all of the picture.
        let (whole, cancel) = (self.domain(context)?.data, context.cancel());
        let picture = context.picture(MAIN, whole)?;
        let behind = screen_of(context, &controls, &picture)?;
        let before = Before { picture: &picture, behind: &behind, screen: controls.screen };
        let (matte, places) = matte_of(context, &controls, before)?;
        if controls.gives == Kind::Matte {
            return Ok(Pixels::Field(matte.extended(wanted, whole, Edge::Clear)));
        }
        let background = match controls.toward {
            Toward::Grey => None,
            Toward::Background => Some(context.picture(BACKGROUND, whole)?),
        };
        let weights = context.working().luma();
        // As bright as a grey would be, in the background's colour.
        let toward = |x: i32, y: i32| {
            let [r, g, b, _] = background.as_ref().and_then(|picture| picture.get(x, y)).unwrap_or([1.0; 4]);
            let luma = weights[0] * r + weights[1] * g + weights[2] * b;
            if luma > 1e-4 { [r, g, b].map(|value| (value / luma).clamp(0.0, 4.0)) } else { [1.0; 3] }
        };
        let core = context.coverage(CORE, whole)?;
        let despill = Despill {
            amount: controls.despill as f32,
            back: controls.back as f32,
            tight: controls.tight as f32,
            width: context.scale().length(controls.edge),
        };
        let cut = figure(before, &matte, &places, despill, core.as_ref(), toward, cancel)?;
        Ok(Pixels::Picture(cut.extended(wanted, whole, Edge::Clear)))
    }
}
