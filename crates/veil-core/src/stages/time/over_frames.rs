//! What is left of several frames together.

use veil_pixels::flow::agree::agreement;
use veil_pixels::frames::{mean, median};
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::Warp;
use veil_pixels::warp::displace::Moves;
use veil_pixels::{Cancel, Cancelled, Edge, Pixel, Raster, Window};

use super::at_frame;
use super::motion::motion;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind};
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
        laid: Laid = ControlSpec::choice("laid over each other", Laid::Still).help("Along the motion, what moves is laid on where it is now, so that only grain goes; what is not seen in another frame counts as it is now."),
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

/// Where other frames lie.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Laid {
    Still,
    Along,
}

choice! {
    Laid {
        Still = "still", "as they are";
        Along = "along", "along the motion";
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

/// Another frame as it lies now: what is not surely the same there is as it is now.
fn laid<P: Pixel>(
    context: &Context<'_>,
    now: &Raster<P>,
    other: &Raster<P>,
    frame: f64,
) -> Result<Raster<P>, StageError> {
    let (window, cancel) = (now.window(), context.cancel());
    let domain = context.main_domain().unwrap_or_else(|| context.everywhere());
    let [forth, back] =
        [[context.frame(), frame], [frame, context.frame()]].map(|way| motion(context, way, domain));
    let (forth, back) = (forth?, back?);
    let sure = agreement(&forth, &back, cancel)?;
    let mut warp = Warp::new(window, Filter::Lanczos, Edge::Hold);
    warp.displace(Moves::new(forth.map(cancel, |[x, y]: [f32; 2]| [-x, -y])?), 0.0);
    let mut seen = warp.apply(other, other.window(), cancel)?;
    let first = window.x0;
    seen.fill_rows(cancel, |y, row| {
        let sure = &sure.row(y)[(first - sure.window().x0) as usize..];
        for ((seen, now), sure) in row.iter_mut().zip(now.row(y)).zip(sure) {
            *seen = now.mix(*seen, *sure);
        }
    })?;
    Ok(seen)
}

/// All that count as one, over a window.
fn as_one<P: Pixel>(context: &Context<'_>, wanted: Window) -> Result<Raster<P>, StageError>
where
    Raster<P>: TryFrom<Pixels>,
{
    let OverControls { gives, laid: lies, .. } = context.controls()?;
    let whole = match context.main_domain() {
        Some(domain) if lies == Laid::Along => domain.data.union(wanted),
        _ => wanted,
    };
    let mut all: Vec<Raster<P>> = Vec::new();
    for frame in counted(context)? {
        let Ok(other) = Raster::<P>::try_from(at_frame(context, frame, whole)?) else { continue };
        let other = match all.first() {
            Some(now) if lies == Laid::Along => laid(context, now, &other, frame)?,
            _ => other.cropped(wanted),
        };
        all.push(other);
    }
    Ok(together(gives, &all, context.cancel())?)
}

impl Stage for OverFrames {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn looks_at(&self, context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(Some(counted(context)?))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        Ok(match context.main_kind().unwrap_or(SignalKind::Picture) {
            SignalKind::Picture => Pixels::Picture(as_one(context, wanted)?),
            SignalKind::Field => Pixels::Field(as_one(context, wanted)?),
            SignalKind::Map => Pixels::Map(as_one(context, wanted)?),
        })
    }
}
