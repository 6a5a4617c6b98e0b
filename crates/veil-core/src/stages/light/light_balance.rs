//! The light passes of a render, each with a gain and a tint of its own.

use veil_pixels::{Picture, Rgba, Window};

use crate::controls;
use crate::controls::{ColourSpec, ControlSet, ControlSpec, NumberSpec, SwitchSpec};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Belongs, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

/// The slots of the passes.
const LIGHTS: [&str; 8] = ["light1", "light2", "light3", "light4", "light5", "light6", "light7", "light8"];
const NAMES: [&str; 8] =
    ["light 1", "light 2", "light 3", "light 4", "light 5", "light 6", "light 7", "light 8"];

fn gain() -> ControlSpec<NumberSpec> {
    ControlSpec::number("gain", 1.0, (0.0, 4.0))
        .within(0.0, 1000.0)
        .help("Times this light; 1 leaves it as it is, 0 turns it off.")
}

fn tint() -> ControlSpec<ColourSpec> {
    ControlSpec::colour("tint", 1.0, (0.0, 2.0)).help("The colour that this light is tinted with.")
}

fn counts() -> ControlSpec<SwitchSpec> {
    ControlSpec::switch("counts", true).help("Off, this light stays as it was rendered.")
}

controls! {
    struct BalanceControls {
        light1_gain: f64 = gain(),
        light1_tint: [f64; 3] = tint(),
        light1_counts: bool = counts(),
        light2_gain: f64 = gain(),
        light2_tint: [f64; 3] = tint(),
        light2_counts: bool = counts(),
        light3_gain: f64 = gain(),
        light3_tint: [f64; 3] = tint(),
        light3_counts: bool = counts(),
        light4_gain: f64 = gain(),
        light4_tint: [f64; 3] = tint(),
        light4_counts: bool = counts(),
        light5_gain: f64 = gain(),
        light5_tint: [f64; 3] = tint(),
        light5_counts: bool = counts(),
        light6_gain: f64 = gain(),
        light6_tint: [f64; 3] = tint(),
        light6_counts: bool = counts(),
        light7_gain: f64 = gain(),
        light7_tint: [f64; 3] = tint(),
        light7_counts: bool = counts(),
        light8_gain: f64 = gain(),
        light8_tint: [f64; 3] = tint(),
        light8_counts: bool = counts(),
    }
}

impl BalanceControls {
    /// What is added of each light, in the order of the slots: none of one that stays.
    fn added(&self) -> [[f32; 3]; 8] {
        let of = |gain: f64, tint: [f64; 3], counts: bool| {
            tint.map(|tint| if counts { (gain * tint - 1.0) as f32 } else { 0.0 })
        };
        [
            of(self.light1_gain, self.light1_tint, self.light1_counts),
            of(self.light2_gain, self.light2_tint, self.light2_counts),
            of(self.light3_gain, self.light3_tint, self.light3_counts),
            of(self.light4_gain, self.light4_tint, self.light4_counts),
            of(self.light5_gain, self.light5_tint, self.light5_counts),
            of(self.light6_gain, self.light6_tint, self.light6_counts),
            of(self.light7_gain, self.light7_tint, self.light7_counts),
            of(self.light8_gain, self.light8_tint, self.light8_counts),
        ]
    }
}

pub(super) struct LightBalance {
    spec: StageSpec,
}

impl LightBalance {
    pub(super) fn new() -> Self {
        let slot = |(id, name)| SlotSpec::new(id, name, Accepts::Picture).belongs(Belongs::ToList("lights"));
        Self {
            spec: StageSpec {
                id: "light_balance",
                name: "Light balance",
                family: Family::Light,
                help: "Makes each light of a render brighter, darker or of another colour by its pass; what no pass has of the picture stays.",
                main: Some(Accepts::Picture),
                slots: LIGHTS.into_iter().zip(NAMES).map(slot).collect(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: BalanceControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for LightBalance {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: BalanceControls = context.controls()?;
        let mut lights: Vec<(Picture, [f32; 3])> = Vec::new();
        for (slot, added) in LIGHTS.into_iter().zip(controls.added()) {
            if added == [0.0; 3] {
                continue;
            }
            let Some(signal) = context.signal(slot, wanted)? else { continue };
            let Pixels::Picture(light) = &signal.pixels else {
                return Err(context.fault(&format!("wants a picture in `{slot}`")));
            };
            lights.push((light.clone(), added));
        }
        Ok(Some(EachPixel::rows_at(move |[x0, y], row| {
            for (start, run) in (x0..).step_by(RUN).zip(row.chunks_mut(RUN)) {
                lights.iter().for_each(|(light, added)| add(light, *added, [start, y], run));
            }
        })))
    }
}

/// Pixels that all lights are added to before the next ones: they stay in the nearest cache.
const RUN: usize = 256;

/// Adds some of a light to a run of at most [`RUN`] pixels from a place on.
fn add(light: &Picture, [red, green, blue]: [f32; 3], [x0, y]: [i32; 2], run: &mut [Rgba]) {
    let mut own = [[0.0; 4]; RUN];
    let own = light.run(x0, y, &mut own[..run.len()]);
    for ([r, g, b, _], light) in run.iter_mut().zip(own) {
        *r += red * light[0];
        *g += green * light[1];
        *b += blue * light[2];
    }
}
