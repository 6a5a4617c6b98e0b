//! Another place or another frame of a picture, brought over it with soft strokes.

use veil_pixels::blend::mix::mix;
use veil_pixels::fill::membrane;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::Warp;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Edge, Field, Picture, Raster, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, Laid, PointSpec};
use crate::key::{Key, keyed_by_number};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::stages::drawing::{Drawing, Moment};
use crate::{choice, controls};

const SOURCE: &str = "source";

const fn place(name: &'static str) -> ControlSpec<PointSpec> {
    ControlSpec::point(name, [0.5, 0.5]).grip(Grip::Point).under("what is brought")
}

controls! {
    struct PatchControls {
        strokes: Vec<Laid> = ControlSpec::shapes("strokes").grip(Grip::Drawn)
            .help("Brushed where it is brought to; each may be soft, go with a track, and be seen at some frames only."),
        brings: [f64; 2] = place("brings from").help("The place that is brought; it may be keyed or go with a track."),
        lands: [f64; 2] = place("lands at").help("Where that place comes to lie."),
        turn: f64 = ControlSpec::angle("turn", 0.0).under("what is brought").help("Turns what is brought about that place, counter-clockwise."),
        scale: f64 = ControlSpec::number("scale", 1.0, (0.5, 2.0)).within(0.01, 100.0).under("what is brought").help("How many times as large it is brought."),
        at: At = ControlSpec::choice("frame", At::Own).under("what is brought").help("Which frame of it is brought."),
        later: f64 = ControlSpec::number("frames later", 0.0, (-24.0, 24.0)).within(-100_000.0, 100_000.0).under("what is brought").when("at", &["later"])
            .help("How many frames on it is looked at; below 0 earlier."),
        number: f64 = ControlSpec::number("that frame", 1001.0, (1001.0, 1100.0)).within(-100_000.0, 1_000_000.0).under("what is brought").when("at", &["number"])
            .help("Its number."),
        blends: Blends = ControlSpec::choice("blends", Blends::Gradients)
            .help("With its gradients kept it takes on the light of where it comes to lie, so that no edge of light is left; as it is, it keeps its own."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("what is brought").help("How what is brought is read between its pixels."),
    }
}

/// Which frame is brought.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum At {
    Own,
    Later,
    Number,
}

choice! {
    At {
        Own = "own", "this frame";
        Later = "later", "a later or an earlier one";
        Number = "number", "a frame, by number";
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Blends {
    AsIs,
    Gradients,
}

choice! {
    Blends {
        AsIs = "as_is", "as it is";
        Gradients = "gradients", "with its gradients kept";
    }
}

keyed_by_number!(Blends);

impl PatchControls {
    /// The strokes, as one drawing.
    fn drawing(&self) -> Drawing {
        Drawing(vec![Moment { shapes: self.strokes.clone(), softness: 0.0 }])
    }

    /// From where what is brought lies to where it comes to lie, in full-resolution pixels.
    fn forth(&self) -> Homography {
        let [x, y] = self.brings;
        let [to_x, to_y] = self.lands;
        let about = if self.turn == 0.0 && self.scale == 1.0 {
            Homography::IDENTITY
        } else {
            Homography::scale(self.scale, self.scale).then(Homography::turn(self.turn.to_radians()))
        };
        if about == Homography::IDENTITY {
            return Homography::shift(to_x - x, to_y - y);
        }
        Homography::shift(-x, -y).then(about).then(Homography::shift(to_x, to_y))
    }

    fn frame(&self, now: f64) -> f64 {
        match self.at {
            At::Own => now,
            At::Later => now + self.later,
            At::Number => self.number,
        }
    }
}

/// Where it comes from.
fn source_slot(context: &Context<'_>) -> &'static str {
    if context.domain_of(SOURCE).is_some() { SOURCE } else { MAIN }
}

pub(super) struct Patch {
    spec: StageSpec,
}

impl Patch {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "patch",
                name: "Patch",
                family: Family::Time,
                help: "Brings another place or frame of the picture, or of another, over it with soft strokes.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(SOURCE, "what is brought", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: PatchControls::specs(),
                proxy_tolerance: 0.03,
            },
        }
    }
}

/// What is brought, over a window: as much of it as there is.
fn brought(context: &Context<'_>, controls: &PatchControls, window: Window) -> Result<Picture, StageError> {
    let slot = source_slot(context);
    let frame = controls.frame(context.frame());
    let forth = context.at_scale(controls.forth());
    let picture = |window: Window| -> Result<Picture, StageError> {
        Ok(match context.signal_at(slot, frame, window)?.map(|signal| signal.over(window)) {
            Some(Pixels::Picture(picture)) => picture,
            _ => Picture::clear(window),
        })
    };
    if forth == Homography::IDENTITY {
        return picture(window);
    }
    let Some(Domain { data, .. }) = context.domain_of(slot) else { return Ok(Picture::clear(window)) };
    let back = forth.inverse().ok_or_else(|| context.fault("brings nothing: its scale is too small"))?;
    let mut warp = Warp::new(window, controls.sampling, Edge::Clear);
    warp.carry(back);
    let source = picture(warp.reads(data))?;
    let made = warp.apply(&source, data, context.cancel())?;
    Ok(warp.covered(made, &source, data, context.cancel())?)
}

/// The picture with all of it brought, over a window that holds every stroke.
fn patched(context: &Context<'_>, controls: &PatchControls, window: Window) -> Result<Picture, StageError> {
    let cancel = context.cancel();
    let Pixels::Picture(picture) = context.main(window)?.over(window) else {
        return Ok(Picture::clear(window));
    };
    let drawing = controls.drawing();
    let reach = drawing.reach(context);
    let covers = drawing.over(&Raster::clear(window.grow(reach, reach)), window, context)?;
    let brought = brought(context, controls, window)?;
    // Nothing is brought from where nothing is.
    let share: Field = Raster::written(window, cancel, |y, row: &mut [f32]| {
        for ((out, covers), brought) in row.iter_mut().zip(covers.row(y)).zip(brought.row(y)) {
            *out = covers.clamp(0.0, 1.0) * if brought[3] >= 1.0 { 1.0 } else { brought[3].max(0.0) };
        }
    })?;
    let brought = match controls.blends {
        Blends::AsIs => brought,
        Blends::Gradients => {
            let with = |a: &Picture, b: &Picture, times: f32| {
                Raster::written(window, cancel, |y, row: &mut [[f32; 4]]| {
                    for ((out, a), b) in row.iter_mut().zip(a.row(y)).zip(b.row(y)) {
                        *out = std::array::from_fn(|at| a[at] + times * b[at]);
                    }
                })
            };
            let apart = with(&picture, &brought, -1.0)?;
            with(&brought, &membrane(&apart, &share, cancel)?, 1.0)?
        }
    };
    Ok(mix(&picture, &brought, 1.0, Some(&share), cancel)?)
}

impl Stage for Patch {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: PatchControls = context.controls().ok()?;
        let drawing = controls.drawing();
        let strokes = drawing.window(context);
        let data = context.domain_of(source_slot(context))?.data;
        let from = context.at_scale(controls.forth()).inverse()?.window(strokes);
        let is_outside = !strokes.is_empty() && from.intersect(data).is_empty();
        let outside =
            || "brings nothing: the place that it brings from lies outside of the picture".to_owned();
        drawing.mark().or_else(|| is_outside.then(outside))
    }

    fn looks_at(&self, context: &Context<'_>, slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        let now = context.frame();
        let frame = context.controls::<PatchControls>()?.frame(now);
        Ok(match slot {
            MAIN => Some(if frame == now { vec![now] } else { vec![now, frame] }),
            SOURCE => Some(vec![frame]),
            _ => None,
        })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: PatchControls = context.controls()?;
        let Pixels::Picture(mut picture) = context.main(wanted)?.over(wanted) else {
            return Ok(Pixels::clear(SignalKind::Picture, wanted));
        };
        let drawing = controls.drawing();
        let data = context.main_domain().unwrap_or_else(|| context.everywhere()).data;
        // What keeps its gradients is spanned from what lies about all strokes, whichever part of it is asked for.
        let strokes = drawing.window(context).grow(2, 2).intersect(data);
        if strokes.intersect(wanted).is_empty() {
            return Ok(Pixels::Picture(picture));
        }
        let (now, slot) = (context.frame(), source_slot(context));
        let mut key = Key::of("patched").with(&context.print_at(MAIN, now)?);
        key.add(&context.print_at(slot, controls.frame(now))?);
        key.add(&controls.strokes);
        key.add(&context.at_scale(controls.forth()).rows());
        key.add(&controls.blends);
        key.add(&controls.sampling);
        let domain = Domain { data: strokes, ..context.everywhere() };
        let kept =
            context.kept(key, domain, &mut || Ok(Pixels::Picture(patched(context, &controls, strokes)?)))?;
        if let Pixels::Picture(made) = kept.over(strokes) {
            picture.fill_rows(context.cancel(), |y, row| {
                let part = strokes.intersect(wanted);
                if part.rows().contains(&y) {
                    let from = &made.row(y)[(part.x0 - strokes.x0) as usize..][..part.width()];
                    row[(part.x0 - wanted.x0) as usize..][..part.width()].copy_from_slice(from);
                }
            })?;
        }
        Ok(Pixels::Picture(picture))
    }
}
