//! The light of a background that spills over the edge of what stands before it.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::light::glow::source;
use veil_pixels::{Edge, Field, Raster, Window};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};

const BACKGROUND: &str = "background";

controls! {
    struct LightWrapControls {
        width: f64 = ControlSpec::length("width", 20.0, 100.0).help("How far over the edge it spills, as the standard deviation of a blur."),
        strength: f64 = ControlSpec::number("strength", 1.0, (0.0, 3.0)).within(0.0, 100.0).help("Times that light."),
        threshold: f64 = ControlSpec::number("threshold", 0.0, (0.0, 2.0)).within(0.0, 1000.0).help("Only what is brighter spills."),
        tint: [f64; 3] = ControlSpec::colour("tint", 1.0, (0.0, 2.0)).help("The colour that the light is tinted with."),
    }
}

pub(super) struct LightWrap {
    spec: StageSpec,
}

impl LightWrap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "light_wrap",
                name: "Light wrap",
                family: Family::Light,
                help: "Lets the light of a background spill over the edge of what stands before it, which is cut out by its alpha.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(BACKGROUND, "background", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: LightWrapControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for LightWrap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shines(&self) -> bool {
        true
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: LightWrapControls = context.controls()?;
        let cancel = context.cancel();
        let sigma = Sigma::round(context.scale().length(controls.width));
        let (across, down) = sigma.reach();
        let Some(behind) = context.domain_of(BACKGROUND) else {
            return Ok(context.main(wanted)?.over(wanted));
        };
        let reads = Edge::Hold.reads_window(wanted.grow(across, down), behind.data);
        let background = context.picture(BACKGROUND, reads)?;
        let Pixels::Picture(before) = context.main(reads.union(wanted))?.over(reads.union(wanted)) else {
            return Err(context.fault("wants a picture"));
        };
        // Only what is seen of the background shines.
        let open: Field = Raster::written(reads, cancel, |y, row: &mut [f32]| {
            let own = &before.row(y)[(reads.x0 - before.window().x0) as usize..];
            row.iter_mut().zip(own).for_each(|(open, own)| *open = 1.0 - own[3].clamp(0.0, 1.0));
        })?;
        let shining =
            source(&background, Some(&open), controls.threshold as f32, context.working().luma(), cancel)?;
        let spilt = gaussian(&shining, behind.data, Edge::Hold, sigma, wanted, cancel)?;
        let colour = controls.tint.map(|part| (part * controls.strength) as f32);
        let mut made = before.cropped(wanted);
        made.fill_rows(cancel, |y, row| {
            for (out, spilt) in row.iter_mut().zip(spilt.row(y)) {
                let covers = out[3].clamp(0.0, 1.0);
                (0..3).for_each(|channel| out[channel] += spilt[channel] * colour[channel] * covers);
            }
        })?;
        Ok(Pixels::Picture(made))
    }
}
