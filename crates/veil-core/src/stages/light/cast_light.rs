//! Light that something throws on what is about it.

use veil_pixels::blend::soft_light;
use veil_pixels::colour::bare::OnColour;
use veil_pixels::colour::{linear_from_srgb, srgb_from_linear};
use veil_pixels::light::lamp::unit;
use veil_pixels::{Edge, Rgba, Window};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::outside::Directions;
use crate::{choice, controls};

const SHAPE: &str = "shape";
const SHADOWS: &str = "shadows";
const NORMALS: &str = "normals";

controls! {
    struct CastLightControls {
        colour: [f64; 3] = ControlSpec::colour("colour", 1.0, (0.0, 2.0)).help("Of the light that is thrown."),
        strength: f64 = ControlSpec::number("strength", 0.5, (0.0, 4.0)).within(0.0, 1000.0).help("Times that light; with a shape, the most of it."),
        way: Way = ControlSpec::choice("falls as", Way::Light).help("As light on what throws it back in its own colours; with part of it added, so that what is black takes some; or as soft light, which keeps black and white."),
        lift: f64 = ControlSpec::number("added", 0.1, (0.0, 1.0)).within(0.0, 1.0).when("way", &["added"]).help("How much of the light is added, whatever it falls on."),
        shadows: f64 = ControlSpec::number("kept off shadows", 0.0, (0.0, 1.0)).within(0.0, 100.0).under("where").help("What is darker than this takes less of it, and none where it is black."),
        range: Directions = ControlSpec::choice("range", Directions::Signed).under("normals").help("How the normal pass writes directions: from -1 to 1, or from 0 to 1 with a half for none."),
        x: f64 = ControlSpec::number("from x", 0.0, (-1.0, 1.0)).under("normals").help("Where the light comes from, by the axes of the normal pass."),
        y: f64 = ControlSpec::number("from y", 1.0, (-1.0, 1.0)).under("normals").help("Where the light comes from, by the axes of the normal pass."),
        z: f64 = ControlSpec::number("from z", 0.5, (-1.0, 1.0)).under("normals").help("Where the light comes from, by the axes of the normal pass."),
        wrap: f64 = ControlSpec::number("wraps", 0.2, (0.0, 1.0)).within(0.0, 1.0).under("normals").help("How far it reaches round what turns away, as the light of something large does."),
    }
}

/// How light falls on a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    Light,
    Added,
    Soft,
}

choice! {
    Way {
        Light = "light", "light";
        Added = "added", "light, part of it added";
        Soft = "soft", "soft light";
    }
}

pub(super) struct CastLight {
    spec: StageSpec,
}

impl CastLight {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "cast_light",
                name: "Cast light",
                family: Family::Light,
                help: "Throws light of a colour on a picture, in a shape, off its shadows, by its normals.",
                main: Some(Accepts::Picture),
                slots: vec![
                    SlotSpec::new(SHAPE, "shape", Accepts::Field),
                    SlotSpec::new(SHADOWS, "kept off", Accepts::Field),
                    SlotSpec::new(NORMALS, "normals", Accepts::Picture),
                ],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: CastLightControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

impl Stage for CastLight {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("glow on a face", &[("strength", 0.6), ("shadows", 0.1)]).choosing("way", "soft"),
            Preset::of("screen in the dark", &[("strength", 1.5), ("lift", 0.05)]).choosing("way", "added"),
        ]
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: CastLightControls = context.controls()?;
        let cancel = context.cancel();
        let mut made = context.picture(MAIN, wanted)?;
        let shape = context
            .field(SHAPE, wanted, Edge::Clear)?
            .map(|(field, domain)| field.extended(wanted, domain.data, Edge::Clear));
        let kept_off = context.coverage(SHADOWS, wanted)?;
        let facing = context.domain_of(NORMALS).map(|_| context.picture(NORMALS, wanted)).transpose()?;
        let toward = [controls.x, controls.y, controls.z].map(|part| part as f32);
        let Some(toward) = unit(toward).or(facing.is_none().then_some([0.0; 3])) else {
            return Err(context.fault("has light that comes from nowhere; set where from"));
        };
        let colour = controls.colour.map(|part| (part * controls.strength) as f32);
        let luma = context.working().luma();
        made.fill_rows(cancel, |y, row| {
            let rows = (
                shape.as_ref().map(|one| one.row(y)),
                kept_off.as_ref().map(|one| one.row(y)),
                facing.as_ref().map(|one| one.row(y)),
            );
            for (number, pixel) in row.iter_mut().enumerate() {
                let mut share = rows.0.map_or(1.0, |shape| shape[number].max(0.0));
                share *= rows.1.map_or(1.0, |hidden| 1.0 - hidden[number]);
                share *= rows.2.map_or(1.0, |facing| faces(facing[number], &controls, toward));
                if share > 0.0 {
                    let light = colour.map(|part| part * share);
                    *pixel = OnColour::new(|own| lit(own, light, &controls, luma)).at(*pixel);
                }
            }
        })?;
        Ok(Pixels::Picture(made))
    }
}

/// How much of the light falls where a normal pass says this.
fn faces([x, y, z, _]: Rgba, controls: &CastLightControls, toward: [f32; 3]) -> f32 {
    let written = match controls.range {
        Directions::Signed => [x, y, z],
        Directions::Shifted => [x, y, z].map(|part| part * 2.0 - 1.0),
    };
    let wrap = controls.wrap as f32;
    unit(written).map_or(0.0, |normal| {
        let cosine: f32 = (0..3).map(|axis| normal[axis] * toward[axis]).sum();
        ((cosine + wrap) / (1.0 + wrap)).max(0.0)
    })
}

/// A colour with light on it.
fn lit(own: [f32; 3], light: [f32; 3], controls: &CastLightControls, luma: [f32; 3]) -> [f32; 3] {
    let bright: f32 = own.iter().zip(luma).map(|(part, weight)| part * weight).sum();
    let shadows = controls.shadows as f32;
    let open = if shadows > 0.0 { smooth((bright / shadows).clamp(0.0, 1.0)) } else { 1.0 };
    std::array::from_fn(|channel| {
        let (own, light) = (own[channel], light[channel] * open);
        match controls.way {
            Way::Light => own * (1.0 + light),
            Way::Added => own * (1.0 + light) + controls.lift as f32 * light,
            // As displays encode it, which the mode is made for; a layer of a half changes nothing.
            Way::Soft => linear_from_srgb(soft_light(srgb_from_linear(own), (0.5 + 0.5 * light).min(1.0))),
        }
    })
}

fn smooth(share: f32) -> f32 {
    share * share * (3.0 - 2.0 * share)
}
