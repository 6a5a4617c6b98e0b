//! What comes in, slower, faster or in an order of its own.

use veil_pixels::blend::mix::mix;
use veil_pixels::flow::midway::Motion;
use veil_pixels::sample::resample::Filter;
use veil_pixels::{Cancel, Cancelled, Map, Pixel, Raster, Window};

use super::at_frame;
use super::motion::motion;
use crate::controls::{ControlSet, ControlSpec};
use crate::key::Key;
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, StageSpec};
use crate::stage::{Context, Ride, Stage, StageError};
use crate::{choice, controls};

controls! {
    struct RetimeControls {
        by: By = ControlSpec::choice("by", By::Rate).help("What says which frame is shown."),
        rate: f64 = ControlSpec::number("rate", 0.5, (0.0, 2.0)).within(-100.0, 100.0).when("by", &["rate"])
            .help("How many frames of what comes in go by in one: 0.5 is half as fast, below 0 it runs backward. Keyed, it gets faster and slower."),
        begins: Begins = ControlSpec::choice("counts from", Begins::First).when("by", &["rate"])
            .help("The frame that stays where it is."),
        start: f64 = ControlSpec::number("that frame", 1001.0, (1001.0, 1100.0)).when("begins", &["number"])
            .help("Its number."),
        shown: f64 = ControlSpec::number("shown frame", 1001.0, (1001.0, 1100.0)).when("by", &["number"])
            .help("The number of the frame that is shown; keyed, it may stand, run or go back."),
        between: Between = ControlSpec::choice("between frames", Between::Flow)
            .help("What is seen between two frames."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading").when("between", &["flow"])
            .help("How the pictures are read between their pixels."),
    }
}

/// What says which frame is shown.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum By {
    Rate,
    Number,
}

choice! {
    By {
        Rate = "rate", "a rate";
        Number = "number", "a frame's number";
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Begins {
    First,
    Number,
}

choice! {
    Begins {
        First = "first", "the shot's first frame";
        Number = "number", "a frame, by number";
    }
}

/// What is seen between two frames.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Between {
    Nearest,
    Blended,
    Flow,
}

choice! {
    Between {
        Nearest = "nearest", "the nearer one";
        Blended = "blended", "both blended";
        Flow = "flow", "what moves is on its way";
    }
}

/// Nearer than this to a frame, it is that frame.
const NEXT_TO_NOTHING: f64 = 1e-6;

/// Which frame is shown; may lie between frames.
fn shown(context: &Context<'_>, controls: &RetimeControls) -> Result<f64, StageError> {
    let start = match (controls.by, controls.begins) {
        (By::Number, _) => return Ok(controls.shown),
        (By::Rate, Begins::First) => f64::from(context.frames().first),
        (By::Rate, Begins::Number) => controls.start,
    };
    Ok(start + gone(context, start)?)
}

/// How many frames have gone by since a frame: the rate's sum, which between frames goes evenly from one to the next.
fn gone(context: &Context<'_>, start: f64) -> Result<f64, StageError> {
    // As much as any shot has; beyond it the last rate counts on.
    const MOST: f64 = 10_000.0;
    let rate = |frame: f64| Ok::<_, StageError>(context.controls_at::<RetimeControls>(frame)?.rate);
    let now = context.frame();
    let (toward, far) = ((now - start).signum(), (now - start).abs());
    let (mut sum, mut at, mut last) = (0.0, 0.0, rate(start)?);
    while at < far.min(MOST) {
        let step = (far - at).min(1.0);
        let next = rate(start + toward * (at + step))?;
        sum += f64::midpoint(last, next) * step;
        (at, last) = (at + step, next);
    }
    Ok(toward * (sum + last * (far - at)))
}

/// What is shown: one frame, or a share of the way from one to the next.
enum Shown {
    One(f64),
    Two([f64; 2], f64),
}

impl Shown {
    fn of(context: &Context<'_>, controls: &RetimeControls) -> Result<Self, StageError> {
        let shown = shown(context, controls)?;
        let (before, near) = (shown.floor(), shown.round());
        let is_one = controls.between == Between::Nearest || (shown - near).abs() < NEXT_TO_NOTHING;
        Ok(if is_one { Self::One(near) } else { Self::Two([before, before + 1.0], shown - before) })
    }

    /// The frames, the nearest first.
    fn frames(&self) -> Vec<f64> {
        match *self {
            Self::One(frame) => vec![frame],
            Self::Two([before, after], share) if share < 0.5 => vec![before, after],
            Self::Two([before, after], _) => vec![after, before],
        }
    }
}

pub(super) struct Retime {
    spec: StageSpec,
}

impl Retime {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "retime",
                name: "Retime",
                family: Family::Time,
                help: "Shows what comes in slower, faster or frame by frame as a curve has it.",
                main: Some(Accepts::Any),
                slots: Vec::new(),
                gives: Gives::LikeMain,
                amount: AmountRule::Mixes,
                passes: Passes::Joins,
                controls: RetimeControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

/// Both ways from one frame to the next; none where nothing comes in or it has no look of its own, as a map.
fn both_ways(context: &Context<'_>, [before, after]: [f64; 2]) -> Result<Option<[Map; 2]>, StageError> {
    let Some(domain) = context.main_domain() else { return Ok(None) };
    if !matches!(context.main_kind(), Some(SignalKind::Picture | SignalKind::Field)) {
        return Ok(None);
    }
    Ok(Some([motion(context, [before, after], domain)?, motion(context, [after, before], domain)?]))
}

/// A share of the way from one of two frames to the other.
struct Way<'a> {
    /// How both move to each other; none where they are blended where they are.
    along: Option<&'a [Map; 2]>,
    share: f32,
    /// None where values are taken as they are.
    filter: Option<Filter>,
}

impl Way<'_> {
    fn between<P: Pixel>(
        &self,
        both: [&Raster<P>; 2],
        wanted: Window,
        cancel: &Cancel,
    ) -> Result<Raster<P>, Cancelled> {
        match (self.along, self.filter) {
            (Some([forth, back]), Some(filter)) => {
                Motion { forth, back }.midway(both, self.share, filter, wanted, cancel)
            }
            (Some([forth, back]), None) => Motion { forth, back }.nearest(both, self.share, wanted, cancel),
            (None, _) => mix(both[0], both[1], self.share, None, cancel),
        }
    }

    fn of(&self, both: &[Pixels; 2], wanted: Window, context: &Context<'_>) -> Result<Pixels, StageError> {
        let cancel = context.cancel();
        Ok(match both {
            [Pixels::Picture(a), Pixels::Picture(b)] => {
                Pixels::Picture(self.between([a, b], wanted, cancel)?)
            }
            [Pixels::Field(a), Pixels::Field(b)] => Pixels::Field(self.between([a, b], wanted, cancel)?),
            [Pixels::Map(a), Pixels::Map(b)] => Pixels::Map(self.between([a, b], wanted, cancel)?),
            [one, _] => one.clone(),
        })
    }
}

impl Stage for Retime {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        if let Shown::Two(_, share) = Shown::of(context, &context.controls()?)? {
            key.add(&share);
        }
        Ok(())
    }

    fn looks_at(&self, context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(Some(Shown::of(context, &context.controls()?)?.frames()))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: RetimeControls = context.controls()?;
        let (frames, share) = match Shown::of(context, &controls)? {
            Shown::One(frame) => return at_frame(context, frame, wanted),
            Shown::Two(frames, share) => (frames, share as f32),
        };
        let along = if controls.between == Between::Flow { both_ways(context, frames)? } else { None };
        let window = along.as_ref().map_or(wanted, |[forth, _]| forth.window());
        let [before, after] = frames.map(|frame| at_frame(context, frame, window));
        let both = [before?, after?];
        Way { along: along.as_ref(), share, filter: Some(controls.sampling) }.of(&both, wanted, context)
    }

    fn bring(&self, context: &Context<'_>, ride: &Ride, wanted: Window) -> Result<Pixels, StageError> {
        let controls: RetimeControls = context.controls()?;
        let nothing = || context.fault("has nothing that brings passes");
        let shown = Shown::of(context, &controls)?;
        let nearest = shown.frames()[0];
        match (shown, controls.between) {
            (Shown::Two(frames, share), Between::Flow) => {
                let Some(along) = both_ways(context, frames)? else { return Err(nothing()) };
                let window = along[0].window();
                let [before, after] = frames.map(|frame| context.ride_at(MAIN, frame, ride, window));
                let both = [before?.ok_or_else(nothing)?, after?.ok_or_else(nothing)?];
                let filter = (!ride.is_data()).then_some(Filter::Linear);
                Way { along: Some(&along), share: share as f32, filter }.of(&both, wanted, context)
            }
            _ => context.ride_at(MAIN, nearest, ride, wanted)?.ok_or_else(nothing),
        }
    }
}
