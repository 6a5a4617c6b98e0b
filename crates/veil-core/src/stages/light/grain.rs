//! Grain laid on a picture, as it is set or as another picture has it.

use veil_pixels::grain::measured::measured;
use veil_pixels::grain::{Grain as Measure, KNOTS, lay, light_at};
use veil_pixels::{Picture, Raster, Window};

use crate::controls::{ControlSet, ControlSpec, NumberSpec};
use crate::key::Key;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, Preset, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// As setups have it.
pub(crate) const KIND: &str = "grain";

const LIKE: &str = "like";
/// The middle of three brightnesses: a grey card.
const GREY: f64 = 0.18;

const fn strength(name: &'static str, default: f64) -> ControlSpec<NumberSpec> {
    ControlSpec::number(name, default, (0.0, 0.1)).within(0.0, 10.0).under("as set").when("after", &["set"])
}

controls! {
    struct GrainControls {
        after: After = ControlSpec::choice("taken from", After::Set).help("Two frames tell grain from structure wherever nothing moves; one frame only where it is flat."),
        frames_in: i32 = ControlSpec::whole("frames in", 0, 0, 100_000).when("after", &["two_frames", "flat"]).help("It is measured so many frames after the shot's first."),
        missing: bool = ControlSpec::switch("only what is missing", false).when("after", &["two_frames", "flat"]).help("Measures this picture's own grain as well and adds what it has less of."),
        dark: f64 = strength("in the dark", 0.002).help("Its standard deviation where there is no light."),
        grey: f64 = strength("in mid grey", 0.01).help("Its standard deviation at a light of 0.18."),
        white: f64 = strength("in white", 0.02).help("Its standard deviation at a light of 1."),
        size: f64 = ControlSpec::length("size", 0.6, 4.0).within(0.0, 20.0).under("as set").when("after", &["set"]).help("How wide it is: the standard deviation of the blur that makes it of noise of single pixels."),
        strength: f64 = ControlSpec::number("strength", 1.0, (0.0, 3.0)).within(0.0, 100.0).help("Times that much."),
        channels: [f64; 3] = ControlSpec::colour("channels", 1.0, (0.0, 2.0)).help("Times that much of red, green and blue; 0 leaves a channel as it is."),
        seed: i32 = ControlSpec::whole("seed", 1, 0, 9999).help("Which of the patterns. Each frame has its own."),
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum After {
    Set,
    TwoFrames,
    Flat,
}

choice! {
    After {
        Set = "set", "what is set here";
        TwoFrames = "two_frames", "two frames of what is like it";
        Flat = "flat", "flat parts of what is like it";
    }
}

impl GrainControls {
    /// As it is set, at full resolution.
    fn set(&self) -> Measure {
        let at = |light: f64| {
            let (root, grey) = (light.sqrt(), GREY.sqrt());
            let (share, [from, to]) = if root < grey {
                (root / grey, [self.dark, self.grey])
            } else {
                ((root - grey) / (1.0 - grey), [self.grey, self.white])
            };
            (from + (to - from) * share).max(0.0) as f32
        };
        let strength: [f32; KNOTS] = std::array::from_fn(|knot| at(f64::from(light_at(knot))));
        Measure { strength: [strength; 3], size: [self.size as f32; 3] }
    }

    /// The frame that grain is measured at, and where that wants two the next.
    fn measured_at(&self, context: &Context<'_>) -> [Option<f64>; 2] {
        let shot = context.frames();
        let first = shot.first.saturating_add(self.frames_in);
        let next = Some(f64::from(first.saturating_add(1).min(shot.last)));
        match self.after {
            After::Set => [None; 2],
            After::TwoFrames => [Some(f64::from(first.min(shot.last.saturating_sub(1)))), next],
            After::Flat => [Some(f64::from(first.min(shot.last))), None],
        }
    }
}

pub(super) struct Grain {
    spec: StageSpec,
}

impl Grain {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: KIND,
                name: "Grain",
                family: Family::Light,
                help: "Lays grain on a picture, by channel and brightness, as it is set or as another picture has it. Smaller scales have a pattern of their own that is as strong as theirs.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(LIKE, "like", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Keeps,
                controls: GrainControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

/// Of what is in a slot at one or two frames; worked out once. None where it tells nothing.
fn grain_of(
    context: &Context<'_>,
    slot: &str,
    [first, next]: [Option<f64>; 2],
) -> Result<Option<Measure>, StageError> {
    let (Some(first), Some(domain)) = (first, context.domain_of(slot)) else { return Ok(None) };
    let mut key = Key::of("grain").with(&context.scale()).with(&context.print_at(slot, first)?);
    if let Some(next) = next {
        key.add(&context.print_at(slot, next)?);
    }
    let at = |frame: f64| -> Result<Option<Picture>, StageError> {
        match context.signal_at(slot, frame, domain.data)?.map(|signal| signal.over(domain.data)) {
            Some(Pixels::Picture(picture)) => Ok(Some(picture)),
            _ => Ok(None),
        }
    };
    // A column for each brightness, one more for the size; without alpha nothing was told.
    let table = Window::sized(KNOTS as u32 + 1, 1);
    let kept = context.kept(key, Domain { data: table, ..context.everywhere() }, &mut || {
        let Some(picture) = at(first)? else { return Ok(Pixels::Picture(Raster::clear(table))) };
        let next = next.map(at).transpose()?.flatten();
        let told = measured(&picture, next.as_ref(), context.cancel())?;
        Ok(Pixels::Picture(Raster::from_fn(table, |x, _| {
            let Some(Measure { strength, size }) = &told else { return [0.0; 4] };
            let of = |channel: usize| strength[channel].get(x as usize).copied().unwrap_or(size[channel]);
            [of(0), of(1), of(2), 1.0]
        })))
    })?;
    let Pixels::Picture(kept) = kept.over(table) else { return Ok(None) };
    let row = kept.row(0);
    let strength = std::array::from_fn(|channel| std::array::from_fn(|knot| row[knot][channel]));
    let [red, green, blue, told] = row[KNOTS];
    Ok((told > 0.0).then_some(Measure { strength, size: [red, green, blue] }))
}

/// What is to be laid on; none where nothing tells it.
fn wanted_grain(context: &Context<'_>, controls: &GrainControls) -> Result<Option<Measure>, StageError> {
    let at = controls.measured_at(context);
    let told = match controls.after {
        After::Set => Some(controls.set().in_blocks_of(context.scale().divisor())),
        After::TwoFrames | After::Flat => grain_of(context, LIKE, at)?,
    };
    let own =
        if controls.missing && controls.after != After::Set { grain_of(context, MAIN, at)? } else { None };
    let Some(told) = told else { return Ok(None) };
    let mut grain = own.map_or(told, |own| told.beyond(&own));
    for (strengths, channel) in grain.strength.iter_mut().zip(controls.channels) {
        strengths.iter_mut().for_each(|strength| *strength *= (controls.strength * channel) as f32);
    }
    Ok(Some(grain))
}

impl Stage for Grain {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn presets(&self) -> Vec<Preset> {
        vec![
            Preset::of("fine", &[("dark", 0.001), ("grey", 0.005), ("white", 0.01), ("size", 0.4)]),
            Preset::of("coarse", &[("dark", 0.006), ("grey", 0.025), ("white", 0.04), ("size", 1.1)]),
        ]
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        key.add(&context.frame().floor());
        Ok(())
    }

    fn looks_at(&self, context: &Context<'_>, slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        let controls: GrainControls = context.controls()?;
        let mut frames: Vec<f64> = controls.measured_at(context).into_iter().flatten().collect();
        match slot {
            LIKE if !frames.is_empty() => {}
            MAIN if controls.missing && !frames.is_empty() => {
                frames.retain(|frame| *frame != context.frame());
                frames.insert(0, context.frame());
            }
            _ => return Ok(None),
        }
        Ok(Some(frames))
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let controls: GrainControls = context.controls()?;
        let mut picture = context.picture(MAIN, wanted)?;
        if let Some(grain) = wanted_grain(context, &controls)? {
            // A frame's number and the seed together, so that no two frames of a shot have the same.
            let seed = (context.frame().floor() as i64 as u32).wrapping_add((controls.seed as u32) << 20);
            lay(&mut picture, &grain, seed, context.cancel())?;
        }
        Ok(Pixels::Picture(picture))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let controls: GrainControls = context.controls().ok()?;
        if controls.after == After::Set {
            return None;
        }
        if context.domain_of(LIKE).is_none() {
            return Some("nothing is plugged in `like`, so no grain is laid on".into());
        }
        (controls.after == After::TwoFrames && context.frames().first == context.frames().last)
            .then(|| "the shot has one frame: two are wanted to measure grain by".into())
    }
}
