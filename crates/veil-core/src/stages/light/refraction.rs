//! A background bent by a clear body in front of it.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::light::refraction::{Clear, refracted};
use veil_pixels::{Edge, Window};

use super::body::{self, By, Form, Lit};
use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::outside::Directions;

controls! {
    struct RefractionControls {
        index: f64 = ControlSpec::number("index", 1.33, (1.0, 2.5)).within(1.0, 4.0).help("Index of refraction: air 1, water 1.33, glass 1.5; at 1 nothing is bent."),
        thickness: f64 = ControlSpec::length("thickness", 60.0, 300.0).help("How far light goes on inside."),
        fringe: f64 = ControlSpec::number("fringe", 0.0, (0.0, 0.2)).within(0.0, 1.0).help("By how much more blue is bent than red: water has 0.006, crown glass 0.008; more than glass has is a look."),
        rough: f64 = ControlSpec::length("roughness", 0.0, 40.0).help("Blurs what is seen through it, by so much."),
        by: By = body::by(),
        round: f64 = body::round(),
        height: f64 = body::height(),
        range: Directions = body::range(),
        rim: f64 = ControlSpec::number("rim", 0.0, (0.0, 4.0)).within(0.0, 100.0).under("rim").help("How much light its surface throws back, which is most where it turns away."),
        colour: [f64; 3] = ControlSpec::colour("rim colour", 1.0, (0.0, 2.0)).under("rim").help("Of that light."),
        angle: f64 = ControlSpec::angle("lit from", 60.0).under("rim").help("Where that light comes from, counter-clockwise from the right."),
        directed: f64 = ControlSpec::number("directed", 0.5, (0.0, 1.0)).within(0.0, 1.0).under("rim").help("From 0, from all about, to 1, from there alone."),
    }
}

pub(super) struct Refraction {
    spec: StageSpec,
}

impl Refraction {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "refraction",
                name: "Refraction",
                family: Family::Light,
                help: "Bends what is behind a body as a lens or water does, by its matte, its heights or its normals, and lights its rim.",
                main: Some(Accepts::Picture),
                slots: body::slots(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::OwnAmount,
                passes: Passes::Keeps,
                controls: RefractionControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for Refraction {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("water", &[("index", 1.33), ("thickness", 80.0), ("fringe", 0.006)]),
            Preset::of("glass", &[("index", 1.52), ("thickness", 120.0), ("fringe", 0.008), ("rim", 1.0)]),
            Preset::of("frosted", &[("index", 1.5), ("thickness", 60.0), ("rough", 8.0), ("rim", 0.6)]),
        ]
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: RefractionControls = context.controls()?;
        let (cancel, amount) = (context.cancel(), context.amount());
        let Some(domain) = context.main_domain() else {
            return Ok(Pixels::clear(SignalKind::Picture, wanted));
        };
        if amount == 0.0 {
            return Ok(context.main(wanted)?.over(wanted));
        }
        let form =
            Form { by: controls.by, round: controls.round, height: controls.height, range: controls.range };
        let bounds = form.bounds(context, wanted)?;
        let clear = Clear::of(controls.index, controls.fringe);
        let thickness = context.scale().length(controls.thickness) * amount;
        let sigma = Sigma::round(context.scale().length(controls.rough) * amount);
        let far = (thickness * clear.reach()).ceil() as i32 + 1;
        let (across, down) = sigma.reach();
        let bends = bounds.grow(far, far).intersect(domain.data);
        let reads = bends.grow(across, down).intersect(domain.data).union(wanted);
        let background = context.picture(MAIN, reads)?;
        if bounds.is_empty() {
            return Ok(Pixels::Picture(background.cropped(wanted)));
        }
        let behind = if controls.rough > 0.0 {
            gaussian(&background, domain.data, Edge::Hold, sigma, bends, cancel)?
        } else {
            background.cropped(bends)
        };
        let body = form.facing(context, bounds)?;
        let mut seen = refracted((&background, &behind), &body, clear, thickness, bounds, cancel)?;
        if controls.rim > 0.0 {
            let lit = Lit { index: controls.index, angle: controls.angle, directed: controls.directed };
            let rim = lit.rim(&body, cancel)?;
            let colour = controls.colour.map(|part| (part * controls.rim) as f32 * amount);
            seen.fill_rows(cancel, |y, row| {
                for (out, rim) in row.iter_mut().zip(rim.row(y)) {
                    (0..3).for_each(|channel| out[channel] += rim * colour[channel]);
                }
            })?;
        }
        let about = background.cropped(wanted);
        let made = about.with(&seen).unwrap_or(about);
        Ok(Pixels::Picture(made))
    }
}
