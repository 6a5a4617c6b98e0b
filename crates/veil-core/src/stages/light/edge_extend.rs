//! A figure's own colours under its soft edge.

use veil_pixels::filter::grow;
use veil_pixels::filter::outward::{outward, reach};
use veil_pixels::{Edge, Field, Picture, Raster, Window};

use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

const MATTE: &str = "edge";

controls! {
    struct ExtendControls {
        width: f64 = ControlSpec::length("width", 30.0, 200.0).within(1.0, 2000.0).help("How far its colours are drawn outward."),
        sure: f64 = ControlSpec::number("sure from", 0.95, (0.0, 1.0)).within(0.0, 0.999).help("Where the matte is higher, the colours are the figure's own; lower, the place behind may shine through."),
        inside: f64 = ControlSpec::length("inside", 2.0, 20.0).within(0.0, 200.0).help("How far from there inward colours are still not to be trusted."),
        gives: Kept = ControlSpec::choice("gives", Kept::Cut).help("Cut out, it can be laid over another background; opaque, it wants to be cut out further down."),
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Kept {
    Cut,
    Opaque,
}

choice! {
    Kept {
        Cut = "cut_out", "the figure cut out by the matte";
        Opaque = "opaque", "its colours, opaque as far as they go";
    }
}

pub(super) struct EdgeExtend {
    spec: StageSpec,
}

impl EdgeExtend {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "edge_extend",
                name: "Edge extend",
                family: Family::Light,
                help: "Draws a figure's colours outward under its soft edge, so that nothing of where it was shot is left in that; without a matte its alpha is the edge.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(MATTE, "edge", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: ExtendControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

/// The figure over a window, and what it is cut out by where that is not its alpha.
struct Figure {
    picture: Picture,
    cut: Option<Field>,
    /// How much of each pixel it covers.
    covers: Field,
}

impl Figure {
    fn of(context: &Context<'_>, reads: Window) -> Result<Self, StageError> {
        let cancel = context.cancel();
        let picture = context.picture(MAIN, reads)?;
        let cut = context.coverage(MATTE, reads)?;
        let mut covers: Field = picture.map(cancel, |pixel: [f32; 4]| pixel[3].clamp(0.0, 1.0))?;
        if let Some(cut) = &cut {
            covers.fill_rows(cancel, |y, row| {
                row.iter_mut().zip(cut.row(y)).for_each(|(covers, cut)| *covers *= cut);
            })?;
        }
        Ok(Self { picture, cut, covers })
    }

    /// How well the colour of each pixel is known to be the figure's.
    fn sureness(&self, context: &Context<'_>, controls: &ExtendControls) -> Result<Field, StageError> {
        let cancel = context.cancel();
        let sure = controls.sure as f32;
        let core = self.covers.map(cancel, |covers: f32| ((covers - sure) / (1.0 - sure)).clamp(0.0, 1.0))?;
        let inward = context.scale().length(controls.inside);
        let window = core.window();
        // Beyond the picture the figure goes on.
        let wide = window.grow(grow::reach(inward), grow::reach(inward));
        let held = core.extended(wide, window, Edge::Hold);
        Ok(grow::grown(&held, wide, -inward, window, cancel)?)
    }
}

impl Stage for EdgeExtend {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: ExtendControls = context.controls()?;
        let cancel = context.cancel();
        let Some(domain) = context.main_domain() else { return Ok(context.main(wanted)?.over(wanted)) };
        let width = context.scale().length(controls.width);
        let inward = grow::reach(context.scale().length(controls.inside));
        let blurred = reach(width);
        let reads = wanted.grow(blurred + inward, blurred + inward).intersect(domain.data);
        let figure = Figure::of(context, reads)?;
        let sureness = figure.sureness(context, &controls)?;
        let known: Picture = Raster::written(reads, cancel, |y, row: &mut [[f32; 4]]| {
            let pixels = figure.picture.row(y).iter().zip(sureness.row(y));
            for (out, ([red, green, blue, alpha], sure)) in row.iter_mut().zip(pixels) {
                let times = if *alpha > 0.0 { sure / alpha } else { 0.0 };
                *out = [red * times, green * times, blue * times, *sure];
            }
        })?;
        let inside = wanted.intersect(reads);
        let drawn = outward(&known, domain.data, width, inside, cancel)?;
        let mut made = drawn;
        let from = inside.x0.saturating_sub(reads.x0) as usize;
        made.fill_rows(cancel, |y, row| {
            let cut = figure.cut.as_ref().map(|cut| &cut.row(y)[from..]);
            let (own, covers) = (&figure.picture.row(y)[from..], &figure.covers.row(y)[from..]);
            let known = own.iter().zip(covers).zip(&sureness.row(y)[from..]);
            for (at, (out, ((own, covers), sure))) in row.iter_mut().zip(known).enumerate() {
                *out = match controls.gives {
                    Kept::Cut => laid_under(*own, cut.map_or(1.0, |cut| cut[at]), *covers, *sure, *out),
                    Kept::Opaque => laid_under(*own, 1.0, own[3].max(out[3]), *sure, *out),
                };
            }
        })?;
        let made = made.extended(wanted, inside, Edge::Clear);
        Ok(Pixels::Picture(made))
    }
}

/// A pixel of the figure: its own, cut out, as far as it is sure, what is drawn outward as far as anything is, and its own where
/// nothing else is known.
fn laid_under(own: [f32; 4], cut: f32, covers: f32, sure: f32, drawn: [f32; 4]) -> [f32; 4] {
    let taken = (1.0 - sure) * drawn[3];
    let light = |at: usize| own[at] * cut * (1.0 - taken) + drawn[at] * covers * taken;
    [light(0), light(1), light(2), covers]
}
