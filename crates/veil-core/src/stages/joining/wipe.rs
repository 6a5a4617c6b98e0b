//! From one picture to another.

use veil_pixels::filter::distance::{Side, distance};
use veil_pixels::noise::{Basis, Fold, Noise};
use veil_pixels::{Edge, Field, Picture, Raster, Rgba, Window, blend::mix};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

const TO: &str = "to";
const ORDER: &str = "order";
const START: &str = "start";
const IN_ORDER: &[&str] = &["angle", "field"];

controls! {
    struct WipeControls {
        progress: f64 = ControlSpec::number("progress", 0.5, (0.0, 1.0)).within(0.0, 1.0).help("0 is the main picture alone, 1 the other alone."),
        order: Order = ControlSpec::choice("order", Order::Angle).help("All at once, from one side to another, or where a field is low first."),
        angle: f64 = ControlSpec::angle("angle", 0.0).grip(Grip::Turn).when("order", &["angle"]).help("Which way it goes; at 0 to the right."),
        invert: bool = ControlSpec::switch("invert", false).when("order", IN_ORDER).help("What came last comes first."),
        softness: f64 = ControlSpec::number("softness", 0.1, (0.0, 1.0)).within(0.0, 1.0).when("order", IN_ORDER)
            .help("How long each place takes, as a share of the whole."),
        noise: f64 = ControlSpec::number("noise", 0.0, (0.0, 1.0)).within(0.0, 10.0).under("noise").when("order", IN_ORDER)
            .help("How far a pattern breaks the order up."),
        noise_size: f64 = ControlSpec::length("noise size", 60.0, 400.0).within(1.0, 5000.0).under("noise").when("order", IN_ORDER)
            .help("Size of the pattern."),
        seed: i32 = ControlSpec::whole("seed", 1, 0, 9999).under("noise").when("order", IN_ORDER).help("Which of the patterns."),
        spread: f64 = ControlSpec::number("spread", 0.7, (0.0, 1.0)).within(0.0, 1.0).under("from a start").when("order", IN_ORDER)
            .help("How much the way from the start says when a place changes, where a matte is in `start`: at 1 it alone does."),
        reaches: f64 = ControlSpec::length("reaches", 400.0, 2000.0).within(1.0, 4000.0).under("from a start").when("order", IN_ORDER)
            .help("So far from the start places change last."),
        glow: f64 = ControlSpec::number("edge glow", 0.0, (0.0, 10.0)).within(0.0, 1000.0).under("edge").when("order", IN_ORDER)
            .help("Light on what is about to go, right before it does."),
        glow_wide: f64 = ControlSpec::number("glow width", 0.05, (0.0, 0.5)).within(0.001, 1.0).under("edge").when("order", IN_ORDER)
            .help("How long before, as a share of the whole."),
        glow_colour: [f64; 3] = ControlSpec::colour("glow colour", 1.0, (0.0, 4.0)).under("edge").when("order", IN_ORDER)
            .help("The colour of that light."),
    }
}

/// The light at the edge comes and goes over this share of the progress.
const ENDS: f32 = 0.02;

/// Which places change first.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Order {
    Even,
    Angle,
    Field,
}

choice! {
    Order {
        Even = "even", "all at once";
        Angle = "angle", "from a side";
        Field = "field", "by a field";
    }
}

impl WipeControls {
    /// How far along the way across the frame a place lies, 0 to 1 from corner to corner.
    fn along(&self, display: Window) -> impl Fn(f32, f32) -> f32 {
        let (sin, cos) = (self.angle.to_radians() as f32).sin_cos();
        let (wide, high) = (display.width() as f32, display.height() as f32);
        let reach = (wide * cos.abs() + high * sin.abs()).max(1.0);
        let middle = [display.x0 as f32 + wide / 2.0, display.y0 as f32 + high / 2.0];
        move |x, y| ((x - middle[0]) * cos - (y - middle[1]) * sin) / reach + 0.5
    }

    /// How much of the other picture is seen where the order has this value.
    fn seen(&self, order: f32) -> f32 {
        let soft = (self.softness as f32).max(1e-4);
        let t = ((self.progress as f32 * (1.0 + soft) - order) / soft).clamp(0.0, 1.0);
        t * t * (3.0 - 2.0 * t)
    }

    /// The light on what has this value of the order.
    fn lit(&self, order: f32) -> f32 {
        let progress = self.progress as f32;
        // At both ends there is no edge.
        let edge = (progress.min(1.0 - progress) / ENDS).clamp(0.0, 1.0);
        let soft = (self.softness as f32).max(1e-4);
        let ahead = (order - progress * (1.0 + soft)) / self.glow_wide as f32;
        // It fades outward as a Gaussian does, and goes with what is going.
        let falls = if ahead > 0.0 { (-2.0 * ahead * ahead).exp() } else { 1.0 - self.seen(order) };
        self.glow as f32 * edge * falls
    }

    /// How far each place lies from the start, 0 to 1; none without one.
    fn far_from_start(&self, context: &Context<'_>, wanted: Window) -> Result<Option<Field>, StageError> {
        let most = context.scale().length(self.reaches).max(1.0);
        let reach = most.ceil() as i32;
        if self.spread <= 0.0 {
            return Ok(None);
        }
        let Some((start, domain)) = context.field(START, wanted.grow(reach, reach), Edge::Clear)? else {
            return Ok(None);
        };
        let mut far = distance(&start, domain.data, Side::Matte, most, wanted, context.cancel())?;
        far.change(context.cancel(), |far| (far / most).clamp(0.0, 1.0))?;
        Ok(Some(far))
    }

    /// When each place changes, 0 to 1.
    fn order(&self, context: &Context<'_>, wanted: Window) -> Result<Field, StageError> {
        let mut order = match self.order {
            Order::Even => return Ok(Raster::clear(wanted)),
            Order::Field => context.coverage(ORDER, wanted)?.unwrap_or_else(|| Raster::clear(wanted)),
            Order::Angle => {
                let along = self.along(context.everywhere().display);
                Raster::written(wanted, context.cancel(), |y, row| {
                    for (x, out) in (wanted.x0..).zip(row) {
                        *out = along(x as f32 + 0.5, y as f32 + 0.5).clamp(0.0, 1.0);
                    }
                })?
            }
        };
        let (noise, invert, spread) = (self.noise as f32, self.invert, self.spread as f32);
        let far = self.far_from_start(context, wanted)?;
        let broken = (noise > 0.0).then(|| self.broken(context, wanted)).transpose()?;
        order.fill_rows(context.cancel(), |y, row| {
            let broken = broken.as_ref().map(|broken| broken.row(y));
            let far = far.as_ref().map(|far| far.row(y));
            for (at, order) in row.iter_mut().enumerate() {
                let spread = far.map_or(*order, |far| *order + spread * (far[at] - *order));
                let own = if invert { 1.0 - spread } else { spread };
                let strayed = broken.map_or(0.0, |broken| noise * broken[at].clamp(-1.0, 1.0));
                // Within 0 to 1 again, so that all has changed at the end and nothing at the start.
                *order = (own + 0.5 * strayed + 0.5 * noise) / (1.0 + noise);
            }
        })?;
        Ok(order)
    }

    /// Puts the light of the edge on what goes, as far as that covers anything.
    fn light(
        &self,
        made: &mut Picture,
        from: &Picture,
        order: &Field,
        context: &Context<'_>,
    ) -> Result<(), StageError> {
        let colour = self.glow_colour.map(|value| value as f32);
        made.fill_rows(context.cancel(), |y, row: &mut [Rgba]| {
            for ((pixel, from), order) in row.iter_mut().zip(from.row(y)).zip(order.row(y)) {
                let lit = self.lit(*order) * from[3];
                pixel.iter_mut().zip(colour).for_each(|(value, colour)| *value += lit * colour);
            }
        })?;
        Ok(())
    }

    fn broken(&self, context: &Context<'_>, wanted: Window) -> Result<Field, StageError> {
        let noise = Noise {
            seed: self.seed as u32,
            basis: Basis::Gradient,
            size: [self.noise_size; 2],
            offset: [0.0; 2],
            angle: 0.0,
            depth: None,
            period: None,
            octaves: 4,
            lacunarity: 2.0,
            gain: 0.5,
            fold: Fold::Plain,
        };
        let mut broken = noise.over(wanted, f64::from(context.scale().divisor()), context.cancel())?;
        // Gradient noise in octaves keeps well within its range.
        broken.change(context.cancel(), |value| value * 1.8)?;
        Ok(broken)
    }
}

pub(super) struct Wipe {
    spec: StageSpec,
}

impl Wipe {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "wipe",
                name: "Wipe",
                family: Family::Joining,
                help: "Goes from one picture to another: all at once, from a side, or in the order of a field or from a start, broken up by noise.",
                main: Some(Accepts::Picture),
                slots: vec![
                    SlotSpec::new(TO, "to", Accepts::Picture),
                    SlotSpec::new(ORDER, "order", Accepts::Field),
                    SlotSpec::new(START, "start", Accepts::Field),
                ],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: WipeControls::specs(),
                proxy_tolerance: 0.04,
            },
        }
    }
}

impl Stage for Wipe {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("dissolve", &[]).choosing("order", "even"),
            Preset::of("burn away", &[("noise", 1.5), ("softness", 0.03)]),
            Preset::of("spreading stain", &[("noise", 1.2), ("softness", 0.15), ("glow", 1.0)]),
            Preset::of("soft from below", &[("angle", 90.0), ("softness", 0.6)]),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let both = [MAIN, TO].into_iter().filter_map(|slot| context.domain_of(slot));
        let data = both.fold(Window::EMPTY, |all, domain| all.union(domain.data));
        Ok(Domain { data, ..context.everywhere() })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: WipeControls = context.controls()?;
        let (from, to) = (context.picture(MAIN, wanted)?, context.picture(TO, wanted)?);
        let cancel = context.cancel();
        Ok(Pixels::Picture(if controls.order == Order::Even {
            mix::mix(&from, &to, controls.progress as f32, None, cancel)?
        } else {
            let order = controls.order(context, wanted)?;
            let seen = order.map(cancel, |order: f32| controls.seen(order))?;
            let mut made = mix::mix(&from, &to, 1.0, Some(&seen), cancel)?;
            if controls.glow > 0.0 {
                controls.light(&mut made, &from, &order, context)?;
            }
            made
        }))
    }
}
