//! Earlier frames that are still seen, ever less.

use veil_pixels::flow::midway::Motion;
use veil_pixels::sample::resample::Filter;
use veil_pixels::{Picture, Rgba, Window};

use super::at_frame;
use super::motion::motion;
use crate::controls::{ControlSet, ControlSpec};
use crate::signal::{Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// Which part of what comes in leaves something.
const SOURCE: &str = "source";

controls! {
    struct AfterControls {
        count: i32 = ControlSpec::whole("frames kept", 5, 0, 40).help("How many earlier frames are still seen; none before the shot's first."),
        every: i32 = ControlSpec::whole("every", 1, 1, 50).help("So many frames lie from one that is kept to the next."),
        keeps: f64 = ControlSpec::number("keeps", 0.7, (0.0, 1.0)).within(0.0, 1.0)
            .help("What share of each is left from one kept frame to the next."),
        tint: [f64; 3] = ControlSpec::colour("tint", 1.0, (0.0, 1.0)).help("Earlier frames are multiplied by it."),
        laid: Lies = ControlSpec::choice("laid", Lies::Lighter).help("How earlier frames are seen with this one."),
        between: i32 = ControlSpec::whole("between", 0, 0, 8).under("motion")
            .help("So many pictures between two kept frames, in which what moves is on its way, so that it leaves a trail and no steps."),
    }
}

/// How earlier frames are laid.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Lies {
    Lighter,
    Behind,
    Plus,
}

choice! {
    Lies {
        Lighter = "lighter", "where they are lighter";
        Behind = "behind", "behind it";
        Plus = "plus", "plus";
    }
}

/// The frames that are looked at: this one, and those kept, the latest first.
fn kept(context: &Context<'_>) -> Result<Vec<f64>, StageError> {
    let AfterControls { count, every, keeps, .. } = context.controls()?;
    let count = if keeps > 0.0 { count } else { 0 };
    let (now, first) = (context.frame(), f64::from(context.frames().first));
    let earlier =
        (1..=count).map(|number| now - f64::from(number * every)).take_while(|frame| *frame >= first);
    Ok(std::iter::once(now).chain(earlier).collect())
}

pub(super) struct Afterimage {
    spec: StageSpec,
}

impl Afterimage {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "afterimage",
                name: "Afterimage",
                family: Family::Time,
                help: "Lets earlier frames be seen ever less, tinted, in steps or as a trail.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(SOURCE, "what leaves one", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: AfterControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

fn picture(context: &Context<'_>, frame: f64, window: Window) -> Result<Picture, StageError> {
    match at_frame(context, frame, window)? {
        Pixels::Picture(picture) => Ok(picture),
        _ => Ok(Picture::clear(window)),
    }
}

/// What of a frame leaves something.
fn leaving(context: &Context<'_>, frame: f64, window: Window) -> Result<Picture, StageError> {
    let mut left = picture(context, frame, window)?;
    if let Some(Pixels::Field(source)) =
        context.signal_at(SOURCE, frame, window)?.map(|signal| signal.over(window))
    {
        left.fill_rows(context.cancel(), |y, row| {
            for (pixel, share) in row.iter_mut().zip(source.row(y)) {
                *pixel = pixel.map(|value| value * share.clamp(0.0, 1.0));
            }
        })?;
    }
    Ok(left)
}

impl AfterControls {
    /// An earlier picture as it is seen by now.
    fn faded(&self, picture: &Picture, steps: f64, context: &Context<'_>) -> Result<Picture, StageError> {
        let share = self.keeps.powf(steps) as f32;
        let [r, g, b] = self.tint.map(|tint| tint as f32 * share);
        // What is put on stays as light as one frame of it, however many there are in between.
        let light = if self.laid == Lies::Plus { 1.0 / (self.between + 1) as f32 } else { 1.0 };
        let by = [r * light, g * light, b * light, share * light];
        let fade = |pixel: Rgba| std::array::from_fn(|at| pixel[at] * by[at]);
        Ok(picture.map(context.cancel(), fade)?)
    }

    fn lay(&self, on: &mut Picture, earlier: &Picture, context: &Context<'_>) -> Result<(), StageError> {
        let laid = self.laid;
        let lay = |[r, g, b, a]: Rgba, [or, og, ob, oa]: Rgba| match laid {
            Lies::Lighter => [r.max(or), g.max(og), b.max(ob), a.max(oa)],
            Lies::Behind => {
                let seen = (1.0 - a).max(0.0);
                [r + or * seen, g + og * seen, b + ob * seen, a + oa * seen]
            }
            Lies::Plus => [r + or, g + og, b + ob, (a + oa).min(a.max(1.0))],
        };
        on.fill_rows(context.cancel(), |y, row| {
            row.iter_mut().zip(earlier.row(y)).for_each(|(on, earlier)| *on = lay(*on, *earlier));
        })?;
        Ok(())
    }
}

impl Stage for Afterimage {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn revision(&self) -> u32 {
        2
    }

    fn looks_at(&self, context: &Context<'_>, slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(matches!(slot, MAIN | SOURCE).then_some(kept(context)?))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: AfterControls = context.controls()?;
        let frames = kept(context)?;
        let mut made = picture(context, frames[0], wanted)?;
        let Some(domain) = context.main_domain() else { return Ok(Pixels::Picture(made)) };
        let window = if controls.between > 0 { domain.data } else { wanted };
        let mut later = leaving(context, frames[0], window)?;
        for (number, pair) in frames.windows(2).enumerate() {
            let earlier = leaving(context, pair[1], window)?;
            if controls.between > 0 {
                let forth = motion(context, [pair[0], pair[1]], domain)?;
                let back = motion(context, [pair[1], pair[0]], domain)?;
                for step in 1..=controls.between {
                    let share = f64::from(step) / f64::from(controls.between + 1);
                    let midway = Motion { forth: &forth, back: &back }.midway(
                        [&later, &earlier],
                        share as f32,
                        Filter::Linear,
                        wanted,
                        context.cancel(),
                    )?;
                    let faded = controls.faded(&midway, number as f64 + share, context)?;
                    controls.lay(&mut made, &faded, context)?;
                }
            }
            let faded = controls.faded(&earlier.cropped(wanted), number as f64 + 1.0, context)?;
            controls.lay(&mut made, &faded, context)?;
            later = earlier;
        }
        Ok(Pixels::Picture(made))
    }
}
