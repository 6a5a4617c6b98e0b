//! The form of a clear body, as stages share it that bend light by it or have its rim lit.

use veil_pixels::filter::blur::{Sigma, gaussian};
use veil_pixels::filter::distance::{Side, distance};
use veil_pixels::light::refraction::{facing, rounded, thrown_back};
use veil_pixels::{Cancel, Cancelled, Edge, Field, Picture, Raster, Window};

use crate::choice;
use crate::controls::{ChoiceSpec, ControlSpec, NumberSpec, Unit};
use crate::signal::Pixels;
use crate::spec::{Accepts, SlotSpec};
use crate::stage::{Context, StageError};
use crate::stages::outside::Directions;

/// What tells the form.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum By {
    Matte,
    Heights,
    Normals,
}

choice! {
    By {
        Matte = "matte", "a matte, made round";
        Heights = "heights", "a field of heights";
        Normals = "normals", "a normal pass";
    }
}

const FORM: &str = "form";
const NORMALS: &str = "normals";

pub(super) fn slots() -> Vec<SlotSpec> {
    vec![SlotSpec::new(FORM, "form", Accepts::Field), SlotSpec::new(NORMALS, "normals", Accepts::Picture)]
}

pub(super) fn by() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("form by", By::Matte)
        .under("form")
        .help("A matte is made round from its edge inward; heights are taken as they are; a normal pass tells each direction.")
}

pub(super) const fn round() -> ControlSpec<NumberSpec> {
    ControlSpec::length("round over", 60.0, 300.0)
        .under("form")
        .when("by", &["matte"])
        .help("How far from its edge inward the body is round; further in it is flat.")
}

pub(super) const fn height() -> ControlSpec<NumberSpec> {
    ControlSpec::number("height", 60.0, (0.0, 300.0))
        .unit(Unit::Px)
        .under("form")
        .when("by", &["heights"])
        .help("How many pixels a value of 1 stands out.")
}

pub(super) fn range() -> ControlSpec<ChoiceSpec> {
    ControlSpec::choice("range", Directions::Signed)
        .under("form")
        .when("by", &["normals"])
        .help("How the pass writes directions: from -1 to 1, or from 0 to 1 with a half for none.")
}

/// A form, in full-resolution pixels.
#[derive(Clone, Copy)]
pub(super) struct Form {
    pub by: By,
    pub round: f64,
    pub height: f64,
    pub range: Directions,
}

impl Form {
    /// The part of a window in which it covers anything.
    pub(super) fn bounds(self, context: &Context<'_>, wanted: Window) -> Result<Window, StageError> {
        let covers = match self.by {
            By::Matte | By::Heights => context.field(FORM, wanted, Edge::Hold)?.map(|(field, domain)| {
                field.extended(wanted, domain.data, Edge::Hold).bounds(|value| *value > 0.0)
            }),
            By::Normals => match context.signal(NORMALS, wanted)?.map(|signal| signal.over(wanted)) {
                Some(Pixels::Picture(pass)) => Some(pass.bounds(|pixel| pixel[3] > 0.0)),
                _ => None,
            },
        };
        Ok(covers.unwrap_or(Window::EMPTY))
    }

    /// The directions that it faces in and its coverage over a window; nothing where nothing tells it.
    pub(super) fn facing(self, context: &Context<'_>, wanted: Window) -> Result<Picture, StageError> {
        let cancel = context.cancel();
        match self.by {
            By::Matte => self.of_matte(context, wanted),
            By::Heights => {
                let around = wanted.grow(1, 1);
                let Some((field, domain)) = context.field(FORM, around, Edge::Hold)? else {
                    return Ok(Picture::clear(wanted));
                };
                let field = field.extended(around, domain.data, Edge::Hold);
                let high = context.scale().length(self.height);
                let heights = field.map(cancel, |value: f32| value * high)?;
                let covers =
                    field.map(cancel, |value: f32| if value > 0.0 { value.min(1.0) } else { 0.0 })?;
                Ok(facing(&heights, &covers, wanted, cancel)?)
            }
            By::Normals => match context.signal(NORMALS, wanted)?.map(|signal| signal.over(wanted)) {
                Some(Pixels::Picture(pass)) => Ok(read(&pass, self.range, cancel)?),
                _ => Ok(Picture::clear(wanted)),
            },
        }
    }

    fn of_matte(self, context: &Context<'_>, wanted: Window) -> Result<Picture, StageError> {
        // Of the radius; so that neither the steps of a matte's edge nor the ridge far inside is seen as one.
        const SMOOTH: f32 = 0.1;
        let cancel = context.cancel();
        let radius = context.scale().length(self.round).max(1.0);
        let sigma = Sigma::round((SMOOTH * radius).max(0.7));
        let (across, down) = sigma.reach();
        let around = wanted.grow(across + 1, down + 1);
        let far = radius.ceil() as i32;
        let reads = around.grow(far, far);
        let Some((field, domain)) = context.field(FORM, reads, Edge::Hold)? else {
            return Ok(Picture::clear(wanted));
        };
        // A body that the frame cuts is not round there.
        let matte = field.extended(reads, domain.data, Edge::Hold);
        let heights = distance(&matte, reads, Side::Rest, radius, around, cancel)?
            .map(cancel, |far: f32| rounded(far, radius))?;
        let heights = gaussian(&heights, around, Edge::Hold, sigma, wanted.grow(1, 1), cancel)?;
        Ok(facing(&heights, &matte, wanted, cancel)?)
    }
}

/// Directions of a pass, y of which is up, as those of a body.
fn read(pass: &Picture, range: Directions, cancel: &Cancel) -> Result<Picture, Cancelled> {
    pass.map(cancel, |[x, y, z, alpha]: [f32; 4]| {
        let covers = alpha.clamp(0.0, 1.0);
        let part = |value: f32| {
            let value = if covers > 0.0 { value / covers } else { 0.0 };
            match range {
                Directions::Signed => value,
                Directions::Shifted => value * 2.0 - 1.0,
            }
        };
        let [x, y, z] = [part(x), -part(y), part(z)];
        let length = (x * x + y * y + z * z).sqrt();
        // What faces away, or nowhere, bends nothing.
        if length > 1e-6 && z > 0.0 {
            [x / length, y / length, z / length, covers]
        } else {
            [0.0, 0.0, 1.0, covers]
        }
    })
}

/// How a body's rim is lit.
#[derive(Clone, Copy)]
pub(super) struct Lit {
    pub index: f64,
    /// Where light comes from, in degrees counter-clockwise from the right.
    pub angle: f64,
    /// From 0, all about, to 1, from there alone.
    pub directed: f64,
}

impl Lit {
    /// What a body throws back over its window.
    pub(super) fn rim(self, body: &Picture, cancel: &Cancel) -> Result<Field, Cancelled> {
        let (sin, cos) = self.angle.to_radians().sin_cos();
        let (from, directed, index) = ([cos as f32, -sin as f32], self.directed as f32, self.index as f32);
        Raster::written(body.window(), cancel, |y, row: &mut [f32]| {
            for (out, [nx, ny, nz, covers]) in row.iter_mut().zip(body.row(y)) {
                // What faces the eye is lit half; so that no edge is left where a body turns away.
                let toward = nx * from[0] + ny * from[1];
                let lit = 1.0 - directed * (1.0 - (0.5 + 0.5 * toward));
                *out = covers * lit * if *covers > 0.0 { thrown_back(*nz, index) } else { 0.0 };
            }
        })
    }
}
