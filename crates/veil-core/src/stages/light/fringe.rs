//! Colours that part away from a centre, as a lens parts them.

use veil_pixels::colour::channels::{AlphaOf, Apart, together};
use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip, Unit};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};

use super::apart::{alpha, carried, domain};

controls! {
    struct FringeControls {
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("Where all colours meet."),
        red: f64 = ControlSpec::number("red", 3.0, (-30.0, 30.0)).within(-1000.0, 1000.0).unit(Unit::Px)
            .help("How far red is moved outward at a corner of the frame; below 0 inward."),
        blue: f64 = ControlSpec::number("blue", -3.0, (-30.0, 30.0)).within(-1000.0, 1000.0).unit(Unit::Px)
            .help("How far blue is moved outward at a corner of the frame; below 0 inward."),
        red_blur: f64 = ControlSpec::length("red blur", 0.0, 20.0).within(0.0, 100.0).help("Standard deviation of a blur of red alone."),
        blue_blur: f64 = ControlSpec::length("blue blur", 0.0, 20.0).within(0.0, 100.0).help("Standard deviation of a blur of blue alone."),
        alpha: AlphaOf = alpha(),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).help("What is brought in from beyond the border."),
    }
}

/// From places of the picture to those of a channel that is so many pixels farther out at a corner.
fn outward(controls: &FringeControls, pixels: f64, context: &Context<'_>) -> Homography {
    if pixels == 0.0 {
        return Homography::IDENTITY;
    }
    let full = f64::from(context.scale().divisor());
    let display = context.everywhere().display;
    let corner = (display.width() as f64).hypot(display.height() as f64) * full / 2.0;
    let scale = (1.0 + pixels / corner).max(0.05);
    let [x, y] = controls.centre;
    Homography::shift(-x, -y).then(Homography::scale(scale, scale)).then(Homography::shift(x, y))
}

/// One channel carried and blurred; none where neither does anything.
fn fringed(
    context: &Context<'_>,
    forth: Homography,
    blur: f64,
    edge: Edge,
    wanted: Window,
) -> Result<Option<Apart>, StageError> {
    let sigma = Sigma::round(context.scale().length(blur));
    if blur <= 0.0 {
        return carried(context, forth, edge, None, wanted);
    }
    let (x, y) = sigma.reach();
    let around = wanted.grow(x, y);
    let sharp = match carried(context, forth, edge, None, around)? {
        Some(apart) => apart.picture,
        None => {
            let data = context.main_domain().map_or(Window::EMPTY, |main| main.data);
            context.picture(MAIN, edge.reads_window(around, data))?.extended(around, data, edge)
        }
    };
    let picture = gaussian(&sharp, around, Edge::Hold, sigma, wanted, context.cancel())?;
    Ok(Some(Apart { picture, within: None }))
}

pub(super) struct Fringe {
    spec: StageSpec,
}

impl Fringe {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "fringe",
                name: "Fringe",
                family: Family::Light,
                help: "Colour fringing: red and blue moved or blurred apart, more and more away from a centre.",
                main: Some(Accepts::Picture),
                slots: Vec::new(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: FringeControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for Fringe {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("old lens", &[("red", 2.0), ("blue", -2.5), ("blue_blur", 0.8)]),
            Preset::of("cheap glass", &[("red", 9.0), ("blue", -9.0), ("blue_blur", 2.0)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: FringeControls = context.controls()?;
        let ways = [controls.red, controls.blue].map(|pixels| outward(&controls, pixels, context));
        Ok(domain(context, &ways, controls.outside))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: FringeControls = context.controls()?;
        let edge = controls.outside;
        let of = |pixels: f64, blur: f64| {
            fringed(context, outward(&controls, pixels, context), blur, edge, wanted)
        };
        let apart = [of(controls.red, controls.red_blur)?, None, of(controls.blue, controls.blue_blur)?];
        let picture = context.picture(MAIN, wanted)?;
        Ok(Pixels::Picture(together(&picture, &apart, controls.alpha, context.cancel())?))
    }
}
