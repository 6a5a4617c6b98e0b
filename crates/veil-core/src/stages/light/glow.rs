//! Light that spreads from what shines.

use veil_pixels::light::glow::{FallOff, GlowGives, Spread, lay, source};
use veil_pixels::{Edge, Window};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

use super::blur::{main_within, spread};

const SOURCE: &str = "source";

controls! {
    struct GlowControls {
        threshold: f64 = ControlSpec::number("threshold", 0.8, (0.0, 4.0)).within(0.0, 65_504.0)
            .help("The luma above which a place shines."),
        size: f64 = ControlSpec::length("size", 24.0, 200.0)
            .help("Standard deviation of the spread; any size costs about the same."),
        fall_off: FallOff = ControlSpec::choice("fall-off", FallOff::Gaussian)
            .help("A soft bell, or sharper in the middle and farther out, as light in a lens is."),
        octaves: i32 = ControlSpec::whole("octaves", 1, 1, 6)
            .help("How many glows are added up, each half as wide as the one before."),
        gain: f64 = ControlSpec::number("gain", 1.0, (0.0, 2.0)).within(0.0, 8.0)
            .help("How much stronger each narrower octave is than the one before; all together keep the light."),
        strength: f64 = ControlSpec::number("strength", 1.0, (0.0, 4.0)).within(0.0, 1000.0)
            .help("Times the light that is spread."),
        tint: [f64; 3] = ControlSpec::colour("tint", 1.0, (0.0, 2.0)).help("The colour that it is multiplied by."),
        gives: GlowGives = ControlSpec::choice("gives", GlowGives::Added)
            .help("The glow added to the picture, or the glow alone, to be laid on later."),
    }
}

choice! {
    FallOff {
        Gaussian = "gaussian", "Gaussian";
        Exponential = "exponential", "exponential";
    }
}

choice! {
    GlowGives {
        Added = "added", "added to the picture";
        Alone = "alone", "the glow alone";
    }
}

pub(super) struct GlowStage {
    spec: StageSpec,
}

impl GlowStage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "glow",
                name: "Glow",
                family: Family::Light,
                help: "Spreads the light of what is brighter than a threshold; the source matte says what may shine, the matte where it shows.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(SOURCE, "source matte", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: GlowControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

fn spread_of(controls: &GlowControls, context: &Context<'_>) -> Spread {
    Spread {
        size: context.scale().length(controls.size),
        fall_off: controls.fall_off,
        octaves: controls.octaves as u32,
        gain: controls.gain as f32,
    }
}

impl Stage for GlowStage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn shines(&self) -> bool {
        true
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("gentle", &[("threshold", 1.0), ("size", 30.0), ("strength", 0.6)]),
            Preset::of("tight", &[("threshold", 0.0), ("size", 8.0), ("strength", 2.0)]),
            Preset::of("wide", &[("threshold", 0.0), ("size", 120.0), ("strength", 1.2)])
                .choosing("fall_off", "exponential"),
            Preset::of("lens", &[("threshold", 1.0), ("size", 160.0), ("octaves", 4.0), ("gain", 1.4)])
                .choosing("fall_off", "exponential"),
        ]
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let controls: GlowControls = context.controls()?;
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(spread(main, spread_of(&controls, context).reach(), Edge::Clear))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: GlowControls = context.controls()?;
        let (spread, cancel) = (spread_of(&controls, context), context.cancel());
        let (main, data) = main_within(context, spread.reach(), Edge::Clear, wanted)?;
        let Pixels::Picture(picture) = &main.pixels else {
            return Err(context.fault("wants a picture"));
        };
        let shows = context.coverage(SOURCE, picture.window())?;
        let luma = context.working().luma();
        let shining = source(picture, shows.as_ref(), controls.threshold as f32, luma, cancel)?;
        let glow = spread.apply(&shining, data, wanted, cancel)?;
        let colour = controls.tint.map(|value| (value * controls.strength) as f32);
        Ok(Pixels::Picture(lay(picture, &glow, colour, controls.gives, cancel)?))
    }
}
