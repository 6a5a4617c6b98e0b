//! Pictures laid on another, one after the other.

use veil_pixels::blend::{Encoding, Mode, blend_row, blend_row_encoded};
use veil_pixels::{Field, Picture, Rgba, Window};

use crate::controls::{ChoiceSpec, ControlSet, ControlSpec, NumberSpec, SwitchSpec};
use crate::matte_way::{MatteWay, met};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Belongs, Family, Gives, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, EachPixel, Stage, StageError};
use crate::{choice, controls};

/// The slots of the layers, from the lowest up, and those of their own mattes.
pub(crate) const LAYERS: [(&str, &str); 6] = [
    ("layer", "layer_matte"),
    ("layer2", "layer2_matte"),
    ("layer3", "layer3_matte"),
    ("layer4", "layer4_matte"),
    ("layer5", "layer5_matte"),
    ("layer6", "layer6_matte"),
];
const NAMES: [(&str, &str); 6] = [
    ("layer", "layer matte"),
    ("layer 2", "layer 2 matte"),
    ("layer 3", "layer 3 matte"),
    ("layer 4", "layer 4 matte"),
    ("layer 5", "layer 5 matte"),
    ("layer 6", "layer 6 matte"),
];

fn mode() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("mode", Mode::Over).help("How this layer meets what lies below.")
}

fn share() -> ControlSpec<NumberSpec> {
    ControlSpec::number("opacity", 1.0, (0.0, 1.0))
        .within(0.0, 1.0)
        .help("How much of this layer is laid on.")
}

fn encoding() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("worked in", Encoding::Linear)
        .help("Scene-linear light, or as a display encodes it, which modes made for 0 to 1 are used to.")
}

fn counts() -> ControlSpec<SwitchSpec> {
    ControlSpec::switch("counts", true).help("Whether this layer is laid on.")
}

controls! {
    struct BlendControls {
        layer_mode: Mode = mode(),
        layer_opacity: f64 = share(),
        layer_encoding: Encoding = encoding(),
        layer_counts: bool = counts(),
        layer2_mode: Mode = mode(),
        layer2_opacity: f64 = share(),
        layer2_encoding: Encoding = encoding(),
        layer2_counts: bool = counts(),
        layer3_mode: Mode = mode(),
        layer3_opacity: f64 = share(),
        layer3_encoding: Encoding = encoding(),
        layer3_counts: bool = counts(),
        layer4_mode: Mode = mode(),
        layer4_opacity: f64 = share(),
        layer4_encoding: Encoding = encoding(),
        layer4_counts: bool = counts(),
        layer5_mode: Mode = mode(),
        layer5_opacity: f64 = share(),
        layer5_encoding: Encoding = encoding(),
        layer5_counts: bool = counts(),
        layer6_mode: Mode = mode(),
        layer6_opacity: f64 = share(),
        layer6_encoding: Encoding = encoding(),
        layer6_counts: bool = counts(),
    }
}

/// How a layer is laid on.
#[derive(Clone, Copy)]
struct Laying {
    mode: Mode,
    share: f32,
    encoding: Encoding,
}

impl BlendControls {
    /// How each layer is laid on, from the lowest up; none where it does not count.
    fn list(&self) -> [Option<Laying>; 6] {
        let laying = |mode, opacity: f64, encoding, counts: bool| {
            (counts && opacity > 0.0).then_some(Laying { mode, share: opacity as f32, encoding })
        };
        [
            laying(self.layer_mode, self.layer_opacity, self.layer_encoding, self.layer_counts),
            laying(self.layer2_mode, self.layer2_opacity, self.layer2_encoding, self.layer2_counts),
            laying(self.layer3_mode, self.layer3_opacity, self.layer3_encoding, self.layer3_counts),
            laying(self.layer4_mode, self.layer4_opacity, self.layer4_encoding, self.layer4_counts),
            laying(self.layer5_mode, self.layer5_opacity, self.layer5_encoding, self.layer5_counts),
            laying(self.layer6_mode, self.layer6_opacity, self.layer6_encoding, self.layer6_counts),
        ]
    }
}

choice! {
    Mode {
        Over = "over", "over";
        Plus = "plus", "plus";
        Multiply = "multiply", "multiply";
        Screen = "screen", "screen";
        Overlay = "overlay", "overlay";
        SoftLight = "soft_light", "soft light";
        HardLight = "hard_light", "hard light";
        Darken = "darken", "darken";
        Lighten = "lighten", "lighten";
        ColourDodge = "colour_dodge", "colour dodge";
        ColourBurn = "colour_burn", "colour burn";
        Difference = "difference", "difference";
        Exclusion = "exclusion", "exclusion";
        Minus = "minus", "minus the layer";
        MinusFrom = "minus_from", "layer minus this";
        Hue = "hue", "hue";
        Saturation = "saturation", "saturation";
        Colour = "colour", "colour";
        Luminosity = "luminosity", "luminosity";
        In = "in", "in";
        Out = "out", "out";
        Atop = "atop", "atop";
        Xor = "xor", "xor";
        Copy = "copy", "copy";
        Clear = "clear", "clear";
        DestinationOver = "destination_over", "destination over";
        DestinationIn = "destination_in", "destination in";
        DestinationOut = "destination_out", "destination out";
        DestinationAtop = "destination_atop", "destination atop";
    }
}

choice! {
    Encoding {
        Linear = "linear", "linear light";
        Display = "display", "display encoding";
    }
}

pub(super) struct Blend {
    spec: StageSpec,
}

/// A layer's slot and that of its matte.
fn layer_slots(
    (slots, names): ((&'static str, &'static str), (&'static str, &'static str)),
) -> [SlotSpec; 2] {
    [
        SlotSpec::new(slots.0, names.0, Accepts::Picture).belongs(Belongs::ToList("layers")),
        SlotSpec::new(slots.1, names.1, Accepts::Field).belongs(Belongs::ToEntry(slots.0)),
    ]
}

impl Blend {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "blend",
                name: "Blend",
                family: Family::Joining,
                help: "Lays pictures over the main one in their order, each by its own alpha and mode.",
                main: Some(Accepts::Picture),
                slots: LAYERS.into_iter().zip(NAMES).flat_map(layer_slots).collect(),
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::OwnUse,
                passes: Passes::Keeps,
                controls: BlendControls::specs(),
                proxy_tolerance: 0.02,
            },
        }
    }
}

impl Stage for Blend {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shines(&self) -> bool {
        true
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let nothing = Domain { data: Window::EMPTY, ..context.everywhere() };
        let main = context.main_domain().unwrap_or(nothing);
        let layers = LAYERS.iter().filter_map(|(slot, _)| context.domain_of(slot));
        Ok(Domain { data: layers.fold(main.data, |data, layer| data.union(layer.data)), ..main })
    }

    fn each_pixel(
        &self,
        context: &Context<'_>,
        _kind: SignalKind,
        wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        let controls: BlendControls = context.controls()?;
        let (matte, amount) = (context.matte(wanted)?, context.amount());
        let mut layers = Vec::new();
        for ((slot, own), laying) in LAYERS.into_iter().zip(controls.list()) {
            let (Some(laying), Some(signal)) = (laying, context.signal(slot, wanted)?) else { continue };
            let Pixels::Picture(picture) = &signal.pixels else {
                return Err(context.fault(&format!("wants a picture in `{slot}`")));
            };
            let shares = both(matte.as_ref(), context.coverage(own, wanted)?);
            layers.push(Layer { picture: picture.clone(), laying, shares });
        }
        Ok(Some(EachPixel::rows_at(move |[x0, y], row| {
            for (start, run) in (x0..).step_by(RUN).zip(row.chunks_mut(RUN)) {
                layers.iter().for_each(|layer| layer.lay([start, y], amount, run));
            }
        })))
    }
}

/// Pixels that are laid on together: what all layers make of them stays in the nearest cache.
const RUN: usize = 256;

/// A layer that counts, and where it shows.
struct Layer {
    picture: Picture,
    laying: Laying,
    shares: Option<Field>,
}

impl Layer {
    /// Lays it on a run of at most [`RUN`] pixels from a place on.
    fn lay(&self, [x0, y]: [i32; 2], amount: f32, run: &mut [Rgba]) {
        let (mut below, mut own) = ([[0.0; 4]; RUN], [[0.0; 4]; RUN]);
        let (below, own) = (&mut below[..run.len()], &mut own[..run.len()]);
        below.copy_from_slice(run);
        let Laying { mode, share, encoding } = self.laying;
        let laying = match encoding {
            Encoding::Linear => blend_row,
            Encoding::Display => blend_row_encoded,
        };
        let shares = self.shares.as_ref().map(|shares| &shares.row(y)[(x0 - shares.window().x0) as usize..]);
        laying(mode, below, self.picture.run(x0, y, own), amount * share, shares, run);
    }
}

/// Where the row's matte and a layer's own both are.
fn both(row: Option<&Field>, own: Option<Field>) -> Option<Field> {
    match (row, own) {
        (None, own) => own,
        (Some(row), None) => Some(row.clone()),
        (Some(row), Some(own)) => Some(met(own, row, MatteWay::Intersect)),
    }
}
