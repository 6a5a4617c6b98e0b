//! How a picture moves from one frame to another, as a map.

use veil_pixels::flow::Fineness;
use veil_pixels::flow::agree::agreement;
use veil_pixels::{Map, Window};

use super::motion::motion_as;
use crate::controls::{ControlSet, ControlSpec, Unit, Value};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// The slot of a rendered motion pass.
const PASS: &str = "pass";

controls! {
    struct MotionControls {
        by: By = ControlSpec::choice("by", By::Picture).help("What says how it moves."),
        fineness: Fineness = ControlSpec::choice("sought", Fineness::Fine).when("by", &["picture"]).help("Quickly, its edges are softer, in about a quarter of the time."),
        to: To = ControlSpec::choice("to", To::Next).help("The frame that the moves lead to."),
        far: f64 = ControlSpec::number("frames on", 1.0, (-10.0, 10.0)).unit(Unit::Frames).when("to", &["far"])
            .help("How many frames later that is; below 0, earlier."),
        frame: f64 = ControlSpec::number("frame", 1001.0, (1001.0, 1100.0)).when("to", &["number"])
            .help("The number of the frame that the moves of all frames lead to."),
        gives: What = ControlSpec::choice("gives", What::Moves)
            .help("The moves, or how sure they are: 1 where the way back leads to where it began, 0 where something is covered."),
    }
}

/// What says how it moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum By {
    Picture,
    Pass,
}

choice! {
    By {
        Picture = "picture", "the picture itself";
        Pass = "pass", "the motion pass";
    }
}

choice! {
    Fineness {
        Fine = "fine", "finely";
        Quick = "quick", "quickly";
    }
}

/// Where the moves lead.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum To {
    Next,
    Before,
    Far,
    Number,
}

choice! {
    To {
        Next = "next", "the next frame";
        Before = "before", "the frame before";
        Far = "far", "frames on";
        Number = "number", "one frame, by number";
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum What {
    Moves,
    Sureness,
}

choice! {
    What {
        Moves = "moves", "the moves";
        Sureness = "sureness", "how sure they are";
    }
}

fn given(values: &[Value]) -> SignalKind {
    match MotionControls::read(values) {
        Some(MotionControls { gives: What::Sureness, .. }) => SignalKind::Field,
        _ => SignalKind::Map,
    }
}

pub(super) struct MotionMap {
    spec: StageSpec,
}

impl MotionMap {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "motion_map",
                name: "Motion map",
                family: Family::Time,
                help: "How far each pixel goes to where it lies in another frame; displaced by it with strength -1, that frame is seen as this one.",
                main: Some(Accepts::PictureOrField),
                slots: vec![SlotSpec::new(PASS, "motion pass", Accepts::Map)],
                gives: Gives::ByControls(given),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: MotionControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

/// The two frames that are compared.
fn frames(context: &Context<'_>) -> Result<[f64; 2], StageError> {
    let controls: MotionControls = context.controls()?;
    let now = context.frame();
    let other = match controls.to {
        To::Next => now + 1.0,
        To::Before => now - 1.0,
        To::Far => now + controls.far,
        To::Number => controls.frame,
    };
    Ok([now, other])
}

/// The moves from one frame to another all over the picture, in pixels of this scale.
fn moves(context: &Context<'_>, [from, to]: [f64; 2], domain: Domain) -> Result<Map, StageError> {
    let controls: MotionControls = context.controls()?;
    match controls.by {
        By::Picture => motion_as(context, [from, to], controls.fineness, domain),
        By::Pass => told(context, [from, to], domain),
    }
}

/// As the motion pass has it, which leads from each frame to the next: as far for each frame between.
fn told(context: &Context<'_>, [from, to]: [f64; 2], domain: Domain) -> Result<Map, StageError> {
    let pass = context.signal_at(PASS, from, domain.data)?.map(|signal| signal.over(domain.data));
    let Some(Pixels::Map(pass)) = pass else {
        return Err(context.fault("goes by a motion pass, but none is plugged"));
    };
    let share = (to - from) as f32 / context.scale().divisor() as f32;
    Ok(pass.map(context.cancel(), |way: [f32; 2]| way.map(|length| length * share))?)
}

impl Stage for MotionMap {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn looks_at(&self, context: &Context<'_>, slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        let controls: MotionControls = context.controls()?;
        Ok(match (controls.by, slot) {
            (By::Picture, MAIN) | (By::Pass, PASS) => Some(frames(context)?.to_vec()),
            _ => None,
        })
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or(Domain { data: Window::EMPTY, ..context.everywhere() }))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: MotionControls = context.controls()?;
        let domain = self.domain(context)?;
        let [now, other] = frames(context)?;
        let forth = moves(context, [now, other], domain)?;
        Ok(match controls.gives {
            What::Moves => {
                let pixel = context.scale().divisor() as f32;
                let part = forth.cropped(wanted);
                Pixels::Map(part.map(context.cancel(), |way: [f32; 2]| way.map(|length| length * pixel))?)
            }
            What::Sureness => {
                let back = moves(context, [other, now], domain)?;
                Pixels::Field(agreement(&forth, &back, context.cancel())?.cropped(wanted))
            }
        })
    }
}
