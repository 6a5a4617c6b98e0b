//! Values along a free curve.

use veil_pixels::Window;
use veil_pixels::colour::tone::{Tone, tone_row};
use veil_pixels::colour::{linear_from_srgb, srgb_from_linear};

use crate::controls;
use crate::controls::{ControlSet, ControlSpec, Curve};
use crate::signal::{Domain, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};

controls! {
    struct ToneCurveControls {
        all: Curve = ControlSpec::curve("all").help("From what a value is to what it becomes: click for another point, drag it, Delete takes it away."),
        red: Curve = ControlSpec::curve("red").under("channels of a picture").help("Of red alone, after the curve of all."),
        green: Curve = ControlSpec::curve("green").under("channels of a picture").help("Of green alone, after the curve of all."),
        blue: Curve = ControlSpec::curve("blue").under("channels of a picture").help("Of blue alone, after the curve of all."),
        seen: bool = ControlSpec::switch("as seen", false).under("channels of a picture")
            .help("The curves work on values as a display has them, so that shadows have more of the curve."),
    }
}

/// The curves of a stage.
struct Tones {
    all: Tone,
    channels: [Tone; 3],
    seen: bool,
}

impl Tones {
    fn of(controls: &ToneCurveControls) -> Self {
        Self {
            all: Tone::through(&controls.all),
            channels: [&controls.red, &controls.green, &controls.blue].map(|curve| Tone::through(curve)),
            seen: controls.seen,
        }
    }

    fn colour(&self, channel: usize, value: f32) -> f32 {
        if !self.seen {
            return self.channels[channel].at(self.all.at(value));
        }
        let shown = srgb_from_linear(value);
        linear_from_srgb(self.channels[channel].at(self.all.at(shown)))
    }
}

pub(super) struct ToneCurve {
    spec: StageSpec,
}

impl ToneCurve {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "tone_curve",
                name: "Tone curve",
                family: Family::Colour,
                help: "Changes values along a free curve, of a field, or of a picture's colours together and apart.",
                main: Some(Accepts::PictureOrField),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ToneCurveControls::specs(),
                proxy_tolerance: 0.06,
            },
        }
    }
}

impl Stage for ToneCurve {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let tones = Tones::of(&context.controls()?);
        let main = context.main_domain().unwrap_or_else(|| context.everywhere());
        // Of a picture nothing stays nothing, since its alpha does.
        let nothing_stays = tones.all.at(0.0) == 0.0;
        Ok(if nothing_stays { main } else { Domain { data: main.data.union(main.display), ..main } })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let tones = Tones::of(&context.controls()?);
        Ok(match kind {
            SignalKind::Field => Some(EachPixel::field(move |value| tones.all.at(value))),
            SignalKind::Picture if !tones.seen => Some(EachPixel::rows(move |row| {
                tone_row(&tones.all, tones.channels.each_ref(), row);
            })),
            SignalKind::Picture => Some(EachPixel::colour(move |[r, g, b]| {
                [tones.colour(0, r), tones.colour(1, g), tones.colour(2, b)]
            })),
            SignalKind::Map => None,
        })
    }
}
