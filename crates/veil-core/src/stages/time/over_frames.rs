//! What is left of several frames together.

use veil_pixels::frames::{mean, median};
use veil_pixels::{Cancel, Cancelled, Pixel, Raster, Window};

use super::at_frame;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::Pixels;
use crate::spec::{Accepts, AmountRule, Family, Gives, Passes, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// So many frames on either side at most: all of them are held at once.
const MOST: i32 = 12;

controls! {
    struct OverControls {
        gives: Gist = ControlSpec::choice("gives", Gist::Median).help("The mean softens what moves; the median leaves out what is there in fewer than half of the frames."),
        before: i32 = ControlSpec::whole("frames before", 4, 0, MOST).help("How many frames before this one count."),
        after: i32 = ControlSpec::whole("frames after", 4, 0, MOST).help("How many frames after this one count."),
        every: i32 = ControlSpec::whole("every", 1, 1, 50).help("So many frames lie from one that counts to the next."),
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Gist {
    Mean,
    Median,
}

choice! {
    Gist {
        Mean = "mean", "the mean";
        Median = "median", "the median";
    }
}

/// The frames that count, this one first; only those of the shot.
fn counted(context: &Context<'_>) -> Result<Vec<f64>, StageError> {
    let OverControls { before, after, every, .. } = context.controls()?;
    let (now, shot) = (context.frame(), context.frames());
    let others =
        (-before..=after).filter(|number| *number != 0).map(|number| now + f64::from(number * every));
    let inside = others.filter(|frame| (f64::from(shot.first)..=f64::from(shot.last)).contains(frame));
    Ok(std::iter::once(now).chain(inside).collect())
}

pub(super) struct OverFrames {
    spec: StageSpec,
}

impl OverFrames {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "over_frames",
                name: "Mean over frames",
                family: Family::Time,
                help: "Gives the mean or the median of this frame and those about it; at the shot's ends of those that there are.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: OverControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

fn together<P: Pixel>(gives: Gist, all: &[Raster<P>], cancel: &Cancel) -> Result<Raster<P>, Cancelled> {
    let made = match gives {
        Gist::Mean => mean(all, cancel)?,
        Gist::Median => median(all, cancel)?,
    };
    Ok(made.unwrap_or_else(|| Raster::clear(Window::EMPTY)))
}

impl Stage for OverFrames {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn looks_at(&self, context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(Some(counted(context)?))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: OverControls = context.controls()?;
        let (mut pictures, mut fields, mut maps) = (Vec::new(), Vec::new(), Vec::new());
        for frame in counted(context)? {
            match at_frame(context, frame, wanted)? {
                Pixels::Picture(own) => pictures.push(own),
                Pixels::Field(own) => fields.push(own),
                Pixels::Map(own) => maps.push(own),
            }
        }
        let cancel = context.cancel();
        Ok(if !pictures.is_empty() {
            Pixels::Picture(together(controls.gives, &pictures, cancel)?)
        } else if !fields.is_empty() {
            Pixels::Field(together(controls.gives, &fields, cancel)?)
        } else {
            Pixels::Map(together(controls.gives, &maps, cancel)?)
        })
    }
}
