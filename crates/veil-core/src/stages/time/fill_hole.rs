//! What is missing of a picture, filled from what lies about it.

use veil_pixels::blend::mix::mix;
use veil_pixels::fill::{membrane, patches};
use veil_pixels::{Field, Picture, Window};

use crate::controls::{ControlSet, ControlSpec};
use crate::key::{Key, keyed_by_number};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

const HOLE: &str = "hole";

controls! {
    struct FillControls {
        with: With = ControlSpec::choice("filled", With::Smooth).help("Smoothly, as a membrane spanned over the hole, or with patches of the rest of the picture, which takes longer."),
        seed: i32 = ControlSpec::whole("seed", 1, 0, 1000).when("with", &["patches"]).help("Another one finds other patches."),
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum With {
    Smooth,
    Patches,
}

choice! {
    With {
        Smooth = "smooth", "smoothly";
        Patches = "patches", "with patches of the rest";
    }
}

keyed_by_number!(With);

/// Coverage below this is missing.
const WHOLE: f32 = 0.999;

pub(super) struct FillHole {
    spec: StageSpec,
}

impl FillHole {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "fill_hole",
                name: "Fill hole",
                family: Family::Time,
                help: "Fills where a field says, or else where the picture is transparent, from what lies about it.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(HOLE, "hole", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: FillControls::specs(),
                proxy_tolerance: 0.1,
            },
        }
    }
}

/// All of the picture, filled where `hole` is above 0.
fn filled(context: &Context<'_>, picture: &Picture, hole: &Field) -> Result<Picture, StageError> {
    let FillControls { with, seed } = context.controls()?;
    Ok(match with {
        With::Smooth => membrane(picture, hole, context.cancel())?,
        With::Patches => patches(picture, hole, seed.unsigned_abs(), context.cancel())?,
    })
}

/// What is filled, kept whole: a hole is filled from all that lies about it.
fn kept(context: &Context<'_>, domain: Domain) -> Result<Picture, StageError> {
    let window = domain.data;
    let prints = [context.print_at(MAIN, context.frame())?, context.print_at(HOLE, context.frame())?];
    let FillControls { with, seed } = context.controls()?;
    let key = Key::of("filled hole").with(&prints[0]).with(&prints[1]).with(&with).with(&seed);
    let signal = context.kept(key, domain, &mut || {
        let cancel = context.cancel();
        let Pixels::Picture(picture) = context.main(window)?.over(window) else {
            return Ok(Pixels::clear(SignalKind::Picture, window));
        };
        let made = match context.coverage(HOLE, window)? {
            Some(hole) => mix(&picture, &filled(context, &picture, &hole)?, 1.0, Some(&hole), cancel)?,
            None => {
                let hole = picture.map(cancel, |pixel: [f32; 4]| f32::from(pixel[3] < WHOLE))?;
                let mut made = filled(context, &picture, &hole)?;
                // What covers a part lies on what is filled in.
                made.fill_rows(cancel, |y, row| {
                    for (out, own) in row.iter_mut().zip(picture.row(y)) {
                        if own[3] < WHOLE {
                            let behind = *out;
                            *out = std::array::from_fn(|at| behind[at] * (1.0 - own[3]) + own[at]);
                        }
                    }
                })?;
                made
            }
        };
        Ok(Pixels::Picture(made))
    })?;
    match signal.over(window) {
        Pixels::Picture(picture) => Ok(picture),
        _ => Err(context.fault("takes pictures only")),
    }
}

impl Stage for FillHole {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let domain = context.main_domain().unwrap_or_else(|| context.everywhere());
        Ok(Pixels::Picture(kept(context, domain)?.cropped(wanted)))
    }
}
