//! Blur along the rays from a centre, or around it.

use veil_pixels::filter::zoom_blur::{Smear, ZoomBlur};
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec, Grip};
use crate::signal::{Domain, Pixels};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls, each_kind};

controls! {
    struct ZoomBlurControls {
        way: Smear = ControlSpec::choice("way", Smear::Along).help("Along the rays from the centre, as in a zoom, or around it, as in a spin."),
        centre: [f64; 2] = ControlSpec::point("centre", [0.5, 0.5]).grip(Grip::Point).help("What it is about."),
        zoom: f64 = ControlSpec::number("length", 0.1, (0.0, 1.0)).within(0.0, 1.0).when("way", &["along"])
            .help("From one end of a smeared dot to the other, as a share of how far it is from the centre."),
        spin: f64 = ControlSpec::angle("angle", 6.0).within(-360.0, 360.0).when("way", &["around"])
            .help("From one end of a smeared dot to the other."),
        outside: Edge = ControlSpec::choice("outside", Edge::Hold).help("What lies beyond the border."),
    }
}

choice! {
    Smear {
        Along = "along", "along the rays";
        Around = "around", "around";
    }
}

fn blur(controls: &ZoomBlurControls, context: &Context<'_>) -> ZoomBlur {
    let extent = match controls.way {
        // From so much nearer to so much farther.
        Smear::Along => ((2.0 + controls.zoom) / (2.0 - controls.zoom)).ln(),
        Smear::Around => controls.spin.to_radians(),
    };
    ZoomBlur {
        centre: controls.centre.map(|at| context.scale().length(at)),
        extent: extent as f32,
        smear: controls.way,
    }
}

pub(super) struct ZoomBlurStage {
    spec: StageSpec,
}

impl ZoomBlurStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "zoom_blur",
                name: "Zoom blur",
                family: Family::Light,
                help: "Smears every pixel toward and away from a centre, or around it.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ZoomBlurControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for ZoomBlurStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("breath", &[("zoom", 0.04)]),
            Preset::of("rush", &[("zoom", 0.4)]),
            Preset::of("spin", &[("spin", 12.0)]).choosing("way", "around"),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Domain { data: main.data.union(main.display), ..main })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: ZoomBlurControls = context.controls()?;
        let (blur, edge) = (blur(&controls, context), controls.outside);
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        let (data, frame) = (main.data, main.data.union(main.display));
        let source = context.main(blur.reads(wanted, frame, edge, data))?;
        let cancel = context.cancel();
        Ok(each_kind!(&source.pixels, raster => blur.apply(raster, data, frame, edge, wanted, cancel)?))
    }
}
