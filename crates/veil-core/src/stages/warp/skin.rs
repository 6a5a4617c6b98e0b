//! Lays a picture on something that moves and bends: a lattice, or what a render's pass says of it.

use veil_pixels::blend::mix;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::mesh::{Front, Sheet};
use veil_pixels::warp::skin::{Laid, Reads};
use veil_pixels::{Edge, Field, Map, Picture, Raster, Window};

use crate::controls::{ControlSet, ControlSpec, Grip, LaidLattice};
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Accepts, AmountRule, Family, Gives, MAIN, Passes, SlotSpec, StageSpec};
use crate::stage::{Context, Shutter, Stage, StageError};
use crate::stages::shutter;
use crate::{choice, controls};

const PASS: &str = "pass";
const BY_PASS: &[&str] = &["uv", "position"];

controls! {
    struct SkinControls {
        by: By = ControlSpec::choice("lies by", By::Lattice)
            .help("What says where the picture lies: a lattice that is drawn, keyed or goes with a followed surface, or a pass of a render."),
        lattice: LaidLattice = ControlSpec::lattice("lattice").grip(Grip::Drawn).when("by", &["lattice"])
            .help("Where the window of the picture lies: its points at rest are that window, and lie where they are dragged."),
        first: [f64; 2] = ControlSpec::point("window top left", [0.0, 0.0]).under("window")
            .help("The first corner of the part of the picture that is laid on, in the picture's own pixels."),
        last: [f64; 2] = ControlSpec::point("window bottom right", [1.0, 1.0]).under("window")
            .help("The corner across from it. How much of the picture exists makes no difference."),
        front: InFront = ControlSpec::choice("in front", InFront::Lower).when("by", &["lattice"]).under("folds")
            .help("Which cells lie in front where the lattice lies over itself."),
        backs: bool = ControlSpec::switch("backs are seen", false).when("by", &["lattice"]).under("folds")
            .help("Whether what has turned its back to us is still there."),
        across: Axis = ControlSpec::choice("across runs", Axis::X).when("by", &["position"]).under("in space")
            .help("The axis of the position pass that runs across the picture."),
        middle_across: f64 = ControlSpec::number("middle across", 0.0, (-20.0, 20.0)).when("by", &["position"]).under("in space")
            .help("Where the middle of the window lies along that axis, in the pass's units."),
        wide: f64 = ControlSpec::number("wide", 2.0, (0.1, 20.0)).within(1.0e-6, 1.0e6).when("by", &["position"]).under("in space")
            .help("How much of that axis the window takes."),
        upward: Axis = ControlSpec::choice("up runs", Axis::Y).when("by", &["position"]).under("in space")
            .help("The axis of the position pass that runs up the picture."),
        middle_up: f64 = ControlSpec::number("middle up", 0.0, (-20.0, 20.0)).when("by", &["position"]).under("in space")
            .help("Where the middle of the window lies along that axis."),
        high: f64 = ControlSpec::number("high", 2.0, (0.1, 20.0)).within(1.0e-6, 1.0e6).when("by", &["position"]).under("in space")
            .help("How much of that axis the window takes."),
        outside: Edge = ControlSpec::choice("beyond the window", Edge::Clear).when("by", BY_PASS)
            .help("What lies where the pass leads beyond the window."),
        sampling: Filter = ControlSpec::choice("sampling", Filter::Cubic).under("reading")
            .help("How the picture is read between its pixels; made smaller, it is read as softly as it needs."),
        shutter: f64 = shutter::open(),
        samples: i32 = shutter::samples(),
    }
}

/// A window of more pixels than this is not repeated, all of which has to be held.
const MOST_REPEATED: f64 = 3.0e7;

/// What says where the picture lies.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum By {
    Lattice,
    Uv,
    Position,
}

choice! {
    By {
        Lattice = "lattice", "a lattice";
        Uv = "uv", "a UV pass";
        Position = "position", "a position pass";
    }
}

/// Which cells of the lattice lie in front.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum InFront {
    Lower,
    Upper,
    Right,
    Left,
}

choice! {
    InFront {
        Lower = "lower", "lower rows";
        Upper = "upper", "upper rows";
        Right = "right", "right columns";
        Left = "left", "left columns";
    }
}

/// An axis of space.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Axis {
    X,
    Y,
    Z,
}

choice! {
    Axis {
        X = "x", "x";
        Y = "y", "y";
        Z = "z", "z";
    }
}

/// A box in pixels of the raster: left, top, right, bottom.
type Sides = [f64; 4];

fn area([left, top, right, bottom]: Sides) -> f64 {
    (right - left) * (bottom - top)
}

/// A share of a box along each way as a place.
fn within([left, top, right, bottom]: Sides, [across, down]: [f64; 2]) -> [f64; 2] {
    [left + across * (right - left), top + down * (bottom - top)]
}

impl SkinControls {
    /// The window of the picture; none where it has no area.
    fn window(&self, context: &Context<'_>) -> Option<Sides> {
        let scale = 1.0 / f64::from(context.scale().divisor());
        let low = [0, 1].map(|axis| self.first[axis].min(self.last[axis]) * scale);
        let high = [0, 1].map(|axis| self.first[axis].max(self.last[axis]) * scale);
        (high[0] > low[0] && high[1] > low[1]).then_some([low[0], low[1], high[0], high[1]])
    }

    fn sheet(&self, context: &Context<'_>) -> Result<Sheet, StageError> {
        let front = match self.front {
            InFront::Lower => Front::Lower,
            InFront::Upper => Front::Upper,
            InFront::Right => Front::Right,
            InFront::Left => Front::Left,
        };
        let sheet = self.lattice.sheet(1.0 / f64::from(context.scale().divisor()), front, self.backs);
        sheet.ok_or_else(|| context.fault("has not as many places as its lattice has corners"))
    }

    /// The place of the picture that each pixel shows, and coverage of its own.
    fn places(
        &self,
        context: &Context<'_>,
        window: Sides,
        wanted: Window,
    ) -> Result<(Map, Option<Field>), StageError> {
        match self.by {
            By::Lattice => {
                let scale = 1.0 / f64::from(context.scale().divisor());
                let [left, top, right, bottom] = self.lattice.box_at_rest().map(|side| side * scale);
                let moves = self.sheet(context)?.over(wanted, context.cancel())?.map(context.cancel())?;
                let places = Raster::written(wanted, context.cancel(), |y, row: &mut [[f32; 2]]| {
                    for ((x, out), by) in (wanted.x0..).zip(row).zip(moves.row(y)) {
                        let rest =
                            [f64::from(x) + 0.5 - f64::from(by[0]), f64::from(y) + 0.5 - f64::from(by[1])];
                        let share = [(rest[0] - left) / (right - left), (rest[1] - top) / (bottom - top)];
                        *out = within(window, share).map(|at| at as f32);
                    }
                })?;
                Ok((places, None))
            }
            By::Uv => self.by_pass(context, wanted, |[u, v, _]| within(window, [u, 1.0 - v])),
            By::Position => self.by_pass(context, wanted, |at| {
                let share = |axis: Axis, middle: f64, whole: f64| (at[axis as usize] - middle) / whole + 0.5;
                let across = share(self.across, self.middle_across, self.wide);
                within(window, [across, 1.0 - share(self.upward, self.middle_up, self.high)])
            }),
        }
    }

    /// The places that a pass names, where it covers anything.
    fn by_pass(
        &self,
        context: &Context<'_>,
        wanted: Window,
        place: impl Fn([f64; 3]) -> [f64; 2] + Sync,
    ) -> Result<(Map, Option<Field>), StageError> {
        if context.domain_of(PASS).is_none() {
            return Err(context.fault("has nothing in its pass: give it a UV or a position pass there, or let it lie by its lattice"));
        }
        let pass = context.picture(PASS, wanted)?;
        let places = pass.map(context.cancel(), |[x, y, z, covered]: [f32; 4]| {
            let at = place([x, y, z].map(f64::from));
            let is_there = covered > 0.0 && at.iter().all(|along| along.is_finite());
            if is_there { at.map(|along| along as f32) } else { [f32::NAN; 2] }
        })?;
        let covered = pass.map(context.cancel(), |pixel: [f32; 4]| pixel[3].clamp(0.0, 1.0))?;
        Ok((places, Some(covered)))
    }

    /// The picture as it lies at one moment.
    fn laid(&self, context: &Context<'_>, wanted: Window) -> Result<Picture, StageError> {
        let edge = if self.by == By::Lattice { Edge::Clear } else { self.outside };
        let (Some(window), Some(domain)) = (self.window(context), context.main_domain()) else {
            return Ok(Raster::clear(wanted));
        };
        if matches!(edge, Edge::Mirror | Edge::Repeat) && area(window) > MOST_REPEATED {
            return Err(context.fault("repeats a window of the picture that is too large for that"));
        }
        let Some(reads) = Reads::of(window, domain.data, edge, self.sampling) else {
            return Ok(Raster::clear(wanted));
        };
        let cancel = context.cancel();
        let (places, own) = self.places(context, window, wanted.grow(1, 1))?;
        let laid = Laid::new(places, own.as_ref(), (edge == Edge::Clear).then_some(window), cancel)?;
        let source = context.picture(MAIN, laid.reads(reads))?;
        Ok(laid.apply(&source, reads, cancel)?)
    }
}

pub(super) struct Skin {
    spec: StageSpec,
}

impl Skin {
    pub(super) fn new() -> Self {
        Self {
            spec: StageSpec {
                id: "skin",
                name: "Skin",
                family: Family::Warp,
                help: "Lays a window of a picture on something that moves and bends, by a lattice or by a render's pass.",
                main: Some(Accepts::Picture),
                slots: vec![SlotSpec::new(PASS, "pass", Accepts::Picture)],
                gives: Gives::Always(SignalKind::Picture),
                amount: AmountRule::Opacity,
                passes: Passes::Drops,
                controls: SkinControls::specs(),
                proxy_tolerance: 0.06,
            },
        }
    }
}

impl Stage for Skin {
    fn spec(&self) -> &StageSpec {
        &self.spec
    }

    fn shutter(&self, context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        let controls: SkinControls = context.controls()?;
        Ok(Some(Shutter { degrees: controls.shutter, samples: controls.samples }))
    }

    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        let everywhere = context.everywhere();
        let seen: Vec<SkinControls> = context.over_shutter()?;
        let mut data = Window::EMPTY;
        for controls in &seen {
            data = data.union(match controls.by {
                By::Lattice => {
                    let [left, top, right, bottom] = controls.sheet(context)?.bounds_of_all();
                    let most = everywhere
                        .display
                        .grow(everywhere.display.width() as i32, everywhere.display.height() as i32);
                    Window::new(
                        left.floor() as i32,
                        top.floor() as i32,
                        right.ceil() as i32,
                        bottom.ceil() as i32,
                    )
                    .intersect(most)
                }
                By::Uv | By::Position => context.domain_of(PASS).map_or(Window::EMPTY, |domain| domain.data),
            });
        }
        Ok(Domain { data, ..everywhere })
    }

    fn render(&self, context: &Context<'_>, wanted: Window) -> Result<Pixels, StageError> {
        let seen: Vec<SkinControls> = context.over_shutter()?;
        let mut mean: Option<Picture> = None;
        for (number, controls) in seen.iter().enumerate() {
            let laid = controls.laid(context, wanted)?;
            mean = Some(match mean {
                None => laid,
                Some(mean) => mix::mix(&mean, &laid, 1.0 / (number + 1) as f32, None, context.cancel())?,
            });
        }
        Ok(Pixels::Picture(mean.unwrap_or_else(|| Raster::clear(wanted))))
    }
}
