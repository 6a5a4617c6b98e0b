//! Red, green and blue moved apart.

use veil_pixels::colour::channels::{AlphaOf, Apart, together};
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Grip, NumberSpec, Unit};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};

use super::apart::{alpha, carried, domain};

/// The slots of what each channel is moved within.
const WITHIN: [&str; 3] = ["red_within", "green_within", "blue_within"];

const fn shift(name: &'static str, pixels: f64) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, pixels, (-100.0, 100.0)).unit(Unit::Px)
}

const fn scale(name: &'static str) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, 1.0, (0.5, 2.0)).within(0.01, 100.0)
}

controls! {
    struct ChannelShiftControls {
        red_x: f64 = shift("red x", 6.0).under("red").help("How far red goes to the right."),
        red_y: f64 = shift("red y", 0.0).under("red").help("How far red goes down."),
        red_angle: f64 = ControlSpec::angle("red angle", 0.0).under("red").help("How far red is turned about the centre."),
        red_scale: f64 = scale("red scale").under("red").help("Times the size of red, about the centre."),
        green_x: f64 = shift("green x", 0.0).under("green").help("How far green goes to the right."),
        green_y: f64 = shift("green y", 0.0).under("green").help("How far green goes down."),
        green_angle: f64 = ControlSpec::angle("green angle", 0.0).under("green").help("How far green is turned about the centre."),
        green_scale: f64 = scale("green scale").under("green").help("Times the size of green, about the centre."),
        blue_x: f64 = shift("blue x", -6.0).under("blue").help("How far blue goes to the right."),
        blue_y: f64 = shift("blue y", 0.0).under("blue").help("How far blue goes down."),
        blue_angle: f64 = ControlSpec::angle("blue angle", 0.0).under("blue").help("How far blue is turned about the centre."),
        blue_scale: f64 = scale("blue scale").under("blue").help("Times the size of blue, about the centre."),
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).under("all").help("What channels are turned and scaled about."),
        alpha: AlphaOf = alpha().under("all"),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).under("all").help("What is brought in from beyond the border."),
    }
}

impl ChannelShiftControls {
    /// From places of the picture to those of each channel.
    fn ways(&self) -> [Homography; 3] {
        let [x, y] = self.centre;
        let way = |right: f64, down: f64, angle: f64, scale: f64| {
            if [right, down, angle] == [0.0; 3] && scale == 1.0 {
                return Homography::IDENTITY;
            }
            Homography::shift(-x, -y)
                .then(Homography::scale(scale, scale))
                .then(Homography::turn(angle.to_radians()))
                .then(Homography::shift(x + right, y + down))
        };
        [
            way(self.red_x, self.red_y, self.red_angle, self.red_scale),
            way(self.green_x, self.green_y, self.green_angle, self.green_scale),
            way(self.blue_x, self.blue_y, self.blue_angle, self.blue_scale),
        ]
    }
}

pub(super) struct ChannelShift {
    spec: StageSpec,
}

impl ChannelShift {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "channel_shift",
                name: "Channel shift",
                family: Family::Light,
                help: "Moves, turns and scales red, green and blue apart, each within a matte of its own.",
                main: Some(Accepts::Picture),
                slots: vec![
                    SlotSpec::new(WITHIN[0], "red within", Accepts::Field),
                    SlotSpec::new(WITHIN[1], "green within", Accepts::Field),
                    SlotSpec::new(WITHIN[2], "blue within", Accepts::Field),
                ],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ChannelShiftControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for ChannelShift {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("torn", &[("red_x", 14.0), ("blue_x", -9.0), ("green_y", 3.0)]),
            Preset::of(
                "breathing",
                &[("red_x", 0.0), ("blue_x", 0.0), ("red_scale", 1.02), ("blue_scale", 0.98)],
            ),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: ChannelShiftControls = context.controls()?;
        Ok(domain(context, &controls.ways(), controls.outside))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: ChannelShiftControls = context.controls()?;
        let mut apart: [Option<Apart>; 3] = [None, None, None];
        for ((apart, forth), slot) in apart.iter_mut().zip(controls.ways()).zip(WITHIN) {
            let within = context.coverage(slot, wanted)?;
            *apart = carried(context, forth, controls.outside, within, wanted)?;
        }
        let picture = context.picture(MAIN, wanted)?;
        Ok(Pixels::Picture(together(&picture, &apart, controls.alpha, context.cancel())?))
    }
}
