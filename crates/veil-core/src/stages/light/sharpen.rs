//! Edges made crisper.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::{Edge, Pixel, Raster, Window};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::Pixels;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{controls, each_kind};

use super::blur::main_within;

controls! {
    struct SharpenControls {
        size: f64 = ControlSpec::length("size", 1.5, 20.0).help("Standard deviation of the blur that the signal is compared with."),
        strength: f64 = ControlSpec::number("strength", 0.6, (0.0, 4.0)).within(0.0, 100.0).help("How many times the difference is added."),
        threshold: f64 = ControlSpec::number("threshold", 0.0, (0.0, 0.2)).within(0.0, 100.0)
            .help("Differences up to this are left alone, so that grain is not sharpened."),
    }
}

/// The source and what it differs from its blur, beyond the threshold, so many times.
fn sharpened<P: Pixel>(
    source: &Raster<P>,
    soft: &Raster<P>,
    strength: f32,
    threshold: f32,
    context: &Context<'_>,
) -> Result<Raster<P>, StageError> {
    let window = soft.window();
    let source = source.extended(window, source.window(), Edge::Clear);
    Ok(Raster::written(window, context.cancel(), |y, row| {
        row.copy_from_slice(source.row(y));
        let soft = P::floats(soft.row(y));
        for (at, (out, soft)) in P::floats_mut(row).iter_mut().zip(soft).enumerate() {
            // Coverage stays as it is.
            if P::CHANNELS == 4 && at % 4 == 3 {
                continue;
            }
            let apart = *out - soft;
            *out += strength * apart.signum() * (apart.abs() - threshold).max(0.0);
        }
    })?)
}

pub(super) struct Sharpen {
    spec: StageSpec,
}

impl Sharpen {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "sharpen",
                name: "Sharpen",
                family: Family::Light,
                help: "Adds to a signal what it differs by from its own blur.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: SharpenControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for Sharpen {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("touch", &[("size", 0.8), ("strength", 0.3)]),
            Preset::of("local contrast", &[("size", 24.0), ("strength", 0.25)]),
        ]
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: SharpenControls = context.controls()?;
        let sigma = Sigma::round(context.scale().length(controls.size));
        let (strength, threshold) = (controls.strength as f32, controls.threshold as f32);
        let (main, data) = main_within(context, sigma.reach(), Edge::Hold, wanted)?;
        Ok(each_kind!(&main.pixels, raster => {
            let soft = gaussian(raster, data, Edge::Hold, sigma, wanted, context.cancel())?;
            sharpened(raster, &soft, strength, threshold, context)?
        }))
    }
}
