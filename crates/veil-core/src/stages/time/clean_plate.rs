//! The place without what stands in front of it, made of frames in which that stands elsewhere.

use std::cell::RefCell;

use veil_pixels::clean::{Level, Stack};
use veil_pixels::fill::{membrane, patches};
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::Warp;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancelled, Edge, Field, Picture, Raster, Window};

use super::alignment::{Align, Alignment, LEFT_OUT};
use crate::controls::{ControlSet, ControlSpec, Grip, PointSpec, Value};
use crate::key::{Key, keyed_by_number};
use crate::picture::Frames;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Stage, StageError};
use crate::{choice, controls};

/// As setups have it.
pub(crate) const KIND: &str = "clean_plate";
/// The control that says what becomes of holes, and what fills them.
pub(crate) const FILLED: (&str, &str) = ("holes", "patches");

const fn point(name: &'static str, share: [f64; 2], with: &'static [&'static str]) -> ControlSpec<PointSpec> {
    ControlSpec::point(name, share)
        .grip(Grip::Point)
        .under("where it lies")
        .when("align", with)
        .help("A place that belongs to the background; let it go with a track, or key it.")
}

controls! {
    struct CleanControls {
        seen: Gist = ControlSpec::choice("takes", Gist::Median).help("The median leaves out what stands somewhere in fewer than half of the frames; the nearest has the least noise of other frames, and needs a matte of what to leave out."),
        over: Over = ControlSpec::choice("looks at", Over::Shot).help("Which frames it is made of."),
        first: i32 = ControlSpec::whole("first frame", 1001, -100_000, 1_000_000).when("over", &["some"]).help("The first of them."),
        last: i32 = ControlSpec::whole("last frame", 1024, -100_000, 1_000_000).when("over", &["some"]).help("The last of them."),
        most: i32 = ControlSpec::whole("frames at most", 24, 1, MOST_FRAMES).help("So many, spread evenly; more take longer and leave fewer holes."),
        align: Align = ControlSpec::choice("laid over each other", Align::Still).under("where it lies")
            .help("How frames come to lie on each other. Along the flow wants a matte of what to leave out, since that moves too."),
        place_1: [f64; 2] = point("place 1", [0.25, 0.25], &["one", "two", "four"]),
        place_2: [f64; 2] = point("place 2", [0.75, 0.25], &["two", "four"]),
        place_3: [f64; 2] = point("place 3", [0.75, 0.75], &["four"]),
        place_4: [f64; 2] = point("place 4", [0.25, 0.75], &["four"]),
        goes: bool = ControlSpec::switch("goes with the plate", true).under("where it lies")
            .help("Lies at each frame as the plate does; off, it stays as it lies at one of them."),
        lies: Lies = ControlSpec::choice("lies as at", Lies::First).under("where it lies")
            .help("The frame that the others are laid on; it should see much of the place."),
        like: f64 = ControlSpec::number("that frame", 1001.0, (1001.0, 1100.0)).within(-100_000.0, 1_000_000.0).under("where it lies").when("lies", &["number"])
            .help("Its number."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("where it lies").help("How frames are read between their pixels."),
        even: bool = ControlSpec::switch("even brightness", true).help("Takes out how the plate gets brighter or darker; what goes with the plate is as bright as that is."),
        holes: Holes = ControlSpec::choice("what was never seen", Holes::Left).help("Left, it is transparent: its alpha says where it is."),
    }
}

/// Most frames that are held at once.
const MOST_FRAMES: i32 = 64;

/// As much about a hole as half its size, and this many pixels of the raster more, tells what it is filled with.
const LEAST_ABOUT: i32 = 48;

/// What is taken of what is seen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Gist {
    Median,
    Nearest,
}

choice! {
    Gist {
        Median = "median", "the median of what is seen";
        Nearest = "nearest", "the nearest frame that sees it";
    }
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Over {
    Shot,
    Some,
}

choice! {
    Over {
        Shot = "shot", "the whole shot";
        Some = "some", "some of its frames";
    }
}

/// Where a frame's things lie.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Lies {
    First,
    Number,
}

choice! {
    Lies {
        First = "first", "the first that it looks at";
        Number = "number", "a frame, by number";
    }
}

/// What becomes of what no frame sees.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Holes {
    Left,
    Smooth,
    Patches,
}

choice! {
    Holes {
        Left = "left", "left as a hole";
        Smooth = "smooth", "filled smoothly";
        Patches = "patches", "filled with patches of the rest";
    }
}

keyed_by_number!(Gist, Holes);

/// What the frames of a clean plate with these values are laid over each other by, and which they are.
pub(crate) fn laid_by(values: &[Value], shot: Frames) -> Option<(Vec<String>, Frames)> {
    let controls = CleanControls::read(values)?;
    let places = (1..=controls.align.places()).map(|number| format!("place_{number}"));
    Some((places.collect(), controls.range(shot)))
}

impl CleanControls {
    /// The frames that it looks at, from the first to the last.
    fn range(&self, shot: Frames) -> Frames {
        match self.over {
            Over::Shot => shot,
            Over::Some => Frames { first: self.first.min(self.last), last: self.first.max(self.last) },
        }
    }

    const fn places(&self) -> [[f64; 2]; 4] {
        [self.place_1, self.place_2, self.place_3, self.place_4]
    }
}

/// The frames that are looked at, and the one of them that the others are laid on.
struct Looks {
    frames: Vec<f64>,
    /// The number of that one.
    base: usize,
}

impl Looks {
    fn of(context: &Context<'_>, controls: &CleanControls) -> Self {
        let Frames { first, last } = controls.range(context.frames());
        let count = controls.most.clamp(1, MOST_FRAMES).min(last.saturating_sub(first).saturating_add(1));
        let far = f64::from(last) - f64::from(first);
        let at = |number: i32| {
            (f64::from(first) + far * f64::from(number) / f64::from((count - 1).max(1))).round()
        };
        let mut frames: Vec<f64> = (0..count).map(at).collect();
        let base = match controls.lies {
            // Along the flow each frame is made of its own: flows of many frames do not add up.
            _ if controls.align == Align::Flow && controls.goes => context.frame().round(),
            Lies::First => f64::from(first),
            Lies::Number => controls.like.round(),
        };
        if !frames.contains(&base) {
            frames.push(base);
            frames.sort_by(f64::total_cmp);
        }
        let base = frames.iter().position(|frame| *frame == base).unwrap_or(0);
        Self { frames, base }
    }

    fn base(&self) -> f64 {
        self.frames[self.base]
    }

    /// All of them by their numbers, the nearest to the base first; of two as near the earlier.
    fn nearest_first(&self) -> Vec<usize> {
        let mut order: Vec<usize> = (0..self.frames.len()).collect();
        order.sort_by(|a, b| {
            let far = |at: &usize| (self.frames[*at] - self.base()).abs();
            far(a).total_cmp(&far(b))
        });
        order
    }
}

/// All that it is made by at a moment.
struct Making<'a> {
    context: &'a Context<'a>,
    controls: CleanControls,
    looks: Looks,
    alignment: Alignment,
}

impl<'a> Making<'a> {
    fn of(context: &'a Context<'a>) -> Result<Self, StageError> {
        let controls: CleanControls = context.controls()?;
        let looks = Looks::of(context, &controls);
        let places = |frame: f64| Ok(context.controls_at::<CleanControls>(frame)?.places());
        let alignment = Alignment::of(context, controls.align, &looks.frames, looks.base(), &places)?;
        Ok(Self { context, controls, looks, alignment })
    }

    /// Whether it lies elsewhere at each moment.
    fn goes(&self) -> bool {
        self.controls.goes && self.alignment.moves()
    }

    /// From where it is made to where it is seen.
    fn forth(&self) -> Result<Homography, StageError> {
        if !self.goes() {
            return Ok(Homography::IDENTITY);
        }
        let now = self.context.controls::<CleanControls>()?.places();
        self.alignment.to(self.context, now)
    }

    /// Where it is made: where the base frame's things lie, as far as any frame reaches and no further than as much about the
    /// picture as there is of it.
    fn canvas(&self) -> Window {
        let Some(Domain { display, data }) = self.context.main_domain() else { return Window::EMPTY };
        if !self.goes() {
            return display.union(data);
        }
        let most = display.grow(display.width() as i32, display.height() as i32);
        let all = self.alignment.all().map(|(_, forth)| forth.window(data).intersect(most));
        all.reduce(Window::union).unwrap_or(Window::EMPTY).union(display)
    }

    /// What the plate, and how bright frames are, is known by.
    fn key(&self, sort: &str) -> Result<Key, StageError> {
        let CleanControls { seen, sampling, even, holes, .. } = &self.controls;
        let mut key = Key::of(sort).with(seen).with(sampling).with(even).with(holes);
        key.add(&self.context.scale());
        key.add(&self.looks.base);
        for frame in &self.looks.frames {
            key.add(frame);
            key.add(&self.context.print_at(MAIN, *frame)?);
            key.add(&self.context.print_at(LEFT_OUT, *frame)?);
        }
        self.alignment.key(&mut key);
        Ok(key)
    }

    /// All frames, laid over each other.
    fn stack(&self, canvas: Window) -> Result<Stack, StageError> {
        let (context, cancel) = (self.context, self.context.cancel());
        let mut stack = Stack::new(canvas);
        for (number, frame) in self.looks.frames.iter().enumerate() {
            cancel.check()?;
            cancel.tell(number as u32, self.looks.frames.len() as u32);
            let signal = context.signal_at(MAIN, *frame, canvas)?;
            let Some(Pixels::Picture(picture)) = signal.as_ref().map(|signal| &signal.pixels) else {
                // Layers have their frames' numbers.
                stack.lay(&Picture::clear(Window::EMPTY), None, cancel)?;
                continue;
            };
            let left_out = match context
                .signal_at(LEFT_OUT, *frame, picture.window())?
                .map(|signal| signal.over(picture.window()))
            {
                Some(Pixels::Field(field)) => Some(field),
                _ => None,
            };
            let laid = self.alignment.laid(
                context,
                *frame,
                (picture, left_out.as_ref()),
                canvas,
                self.controls.sampling,
            )?;
            stack.lay(&laid.0, laid.1.as_ref(), cancel)?;
        }
        Ok(stack)
    }

    /// The plate, and how bright each frame is beside the base.
    fn made(&self, canvas: Window) -> Result<(Picture, Vec<Level>), StageError> {
        let cancel = self.context.cancel();
        let stack = self.stack(canvas);
        cancel.tell(0, 0);
        let stack = stack?;
        let levels = if self.controls.even {
            stack.levels(self.looks.base, cancel)?
        } else {
            vec![Level::NONE; stack.count()]
        };
        let plate = match self.controls.seen {
            Gist::Median => stack.median(&levels, cancel)?,
            Gist::Nearest => stack.first_seen(&self.looks.nearest_first(), &levels, cancel)?,
        };
        let hole = stack.never_seen(&plate, cancel)?;
        Ok((self.filled(plate, &hole)?, levels))
    }

    /// What frames reach to and none sees, filled from what is seen about it.
    fn filled(&self, mut plate: Picture, never_seen: &Field) -> Result<Picture, Cancelled> {
        let cancel = self.context.cancel();
        let holes = self.controls.holes;
        let bounds = never_seen.bounds(|value| *value > 0.0);
        if holes == Holes::Left || bounds.is_empty() {
            return Ok(plate);
        }
        let [wide, high] = [bounds.width(), bounds.height()].map(|side| side as i32 / 2 + LEAST_ABOUT);
        let about = bounds.grow(wide, high).intersect(plate.window());
        let known = plate.cropped(about);
        // What no frame reaches to tells nothing either.
        let hole = known.map(cancel, |pixel: [f32; 4]| f32::from(pixel[3] == 0.0))?;
        let made = match holes {
            Holes::Left | Holes::Smooth => membrane(&known, &hole, cancel)?,
            Holes::Patches => patches(&known, &hole, 1, cancel)?,
        };
        let first = plate.window().x0;
        plate.fill_rows(cancel, |y, row| {
            if !made.window().rows().contains(&y) {
                return;
            }
            let row = &mut row[(about.x0 - first) as usize..];
            let never_seen = &never_seen.row(y)[(about.x0 - first) as usize..];
            for ((out, made), hole) in row.iter_mut().zip(made.row(y)).zip(never_seen) {
                if *hole > 0.0 {
                    *out = *made;
                }
            }
        })?;
        Ok(plate)
    }

    /// The plate and how bright the moment is beside the base, both kept until a frame that they are made of changes.
    fn kept(&self) -> Result<(Picture, Level), StageError> {
        let context = self.context;
        let canvas = self.canvas();
        let made: RefCell<Option<(Picture, Vec<Level>)>> = RefCell::default();
        let make = || -> Result<(Picture, Vec<Level>), StageError> {
            if let Some(made) = made.borrow().as_ref() {
                return Ok(made.clone());
            }
            let fresh = self.made(canvas)?;
            *made.borrow_mut() = Some(fresh.clone());
            Ok(fresh)
        };
        let everywhere = context.everywhere();
        let domain = Domain { data: canvas, ..everywhere };
        let plate = context.kept(self.key("clean plate")?, domain, &mut || Ok(Pixels::Picture(make()?.0)))?;
        let Pixels::Picture(plate) = plate.over(canvas) else {
            return Err(context.fault("takes pictures only"));
        };
        if !(self.controls.even && self.controls.goes) {
            return Ok((plate, Level::NONE));
        }
        let count = self.looks.frames.len();
        let table = Window::sized(count as u32, 2);
        let domain = Domain { data: table, ..everywhere };
        let levels = context.kept(self.key("brightness of frames")?, domain, &mut || {
            let levels = make()?.1;
            Ok(Pixels::Picture(Raster::from_fn(table, |x, y| {
                let Some(Level { gain, offset }) = levels.get(x as usize) else { return [0.0; 4] };
                let [red, green, blue] = if y == 0 { gain } else { offset };
                [*red, *green, *blue, 1.0]
            })))
        })?;
        let Pixels::Picture(levels) = levels.over(table) else { return Ok((plate, Level::NONE)) };
        let level = |number: usize| {
            let row = |y| {
                let [red, green, blue, _] = levels.get(number as i32, y).unwrap_or_default();
                [red, green, blue]
            };
            Level { gain: row(0), offset: row(1) }
        };
        Ok((plate, between(&self.looks.frames, context.frame(), &level)))
    }
}

/// What a moment is between frames that are in order.
fn between(frames: &[f64], now: f64, level: &impl Fn(usize) -> Level) -> Level {
    let after = frames.partition_point(|frame| *frame < now).min(frames.len() - 1);
    let before = if frames[after] > now { after.saturating_sub(1) } else { after };
    let far = frames[after] - frames[before];
    let share = if far > 0.0 { (now - frames[before]) / far } else { 0.0 };
    level(before).toward(&level(after), share as f32)
}

pub(super) struct CleanPlate {
    spec: StageSpec,
}

impl CleanPlate {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: KIND,
                name: "Clean plate",
                family: Family::Time,
                help: "Gives the place without what stands in front of it, from frames in which that stands elsewhere.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(LEFT_OUT, "left out", Accepts::Field)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Mixes,
                passes: Passes::Drops,
                controls: CleanControls::specs(),
                proxy_tolerance: 0.05,
            },
        }
    }
}

impl Stage for CleanPlate {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn key(&self, context: &Context<'_>, key: &mut Key) -> Result<(), StageError> {
        let making = Making::of(context)?;
        making.alignment.key(key);
        key.add(&making.looks.base);
        if making.controls.even && making.controls.goes {
            key.add(&context.frame());
        }
        Ok(())
    }

    fn looks_at(&self, context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(Some(Looks::of(context, &context.controls()?).frames))
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let making = Making::of(context)?;
        let Some(domain) = context.main_domain() else { return Ok(context.everywhere()) };
        if !making.goes() {
            return Ok(domain);
        }
        let seen = making.forth()?.window(making.canvas());
        let most = domain.display.grow(domain.display.width() as i32, domain.display.height() as i32);
        Ok(Domain { data: seen.intersect(most), ..domain })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let making = Making::of(context)?;
        let cancel = context.cancel();
        let (plate, level) = making.kept()?;
        let forth = making.forth()?;
        let mut seen = if forth == Homography::IDENTITY {
            let window = plate.window();
            plate.extended(wanted, window, Edge::Clear)
        } else {
            let back = forth.inverse().ok_or_else(|| context.fault("has three places in a line"))?;
            let mut warp = Warp::new(wanted, making.controls.sampling, Edge::Clear);
            warp.carry(back);
            let made = warp.apply(&plate, plate.window(), cancel)?;
            warp.covered(made, &plate, plate.window(), cancel)?
        };
        let level = level.inverse();
        if level != Level::NONE {
            seen.change(cancel, |[red, green, blue, alpha]: [f32; 4]| {
                let light = |at: usize, value: f32| value * level.gain[at] + level.offset[at] * alpha;
                [light(0, red), light(1, green), light(2, blue), alpha]
            })?;
        }
        Ok(Pixels::Picture(seen))
    }

    fn mark(&self, context: &Context<'_>) -> Option<String> {
        let frames = Looks::of(context, &context.controls().ok()?).frames;
        (frames.len() < 2)
            .then(|| "looks at one frame: nothing that stands in it can be told from the place".into())
    }
}
