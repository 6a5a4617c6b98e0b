//! What a stage is: all that the engine, the bench and the documents ask of it.

mod asked;
mod context;
mod error;
mod faulty;
mod riding;

use veil_pixels::colour::bare::OnColour;
use veil_pixels::sample::resample::Filter;
use veil_pixels::warp::displace::Moves;
use veil_pixels::warp::perspective::Homography;
use veil_pixels::{Cancel, Cancelled, Edge, Field, Map, Rgba, Window};

use crate::controls::Setting;
use crate::key::Key;
use crate::plates::Role;
use crate::signal::{Domain, Pixels, SignalKind};
use crate::spec::{Preset, StageSpec};

pub use asked::Asked;
pub use context::{Context, Rendered};
pub use error::{EngineError, StageError};
pub use faulty::Faulty;
pub use riding::Ride;

/// One stage of a setup. Pure: the same inputs and frame give the same pixels, on any number of
/// threads, in any order of calls, and a region equals the crop of the whole.
pub trait Stage: Send + Sync {
    /// What it declares; the one source of bench, schema and docs.
    fn spec(&self) -> &StageSpec;

    /// Raised when it gives other pixels than it did before, so that what was kept of it is not taken for what it gives.
    fn revision(&self) -> u32 {
        1
    }

    /// Writes what its pixels depend on besides controls and inputs: of time the very quantity that is used, of files what
    /// tells them apart. A stage that looks the same at every moment writes nothing.
    fn key(&self, _context: &Context<'_>, _key: &mut Key) -> Result<(), StageError> {
        Ok(())
    }

    /// The frames at which it looks at what a slot takes, which may lie between frames and outside of the shot; none where it
    /// looks only at the moment that it is asked at. What it gives is known by what it finds there, and by no other moment.
    fn looks_at(&self, _context: &Context<'_>, _slot: &str) -> Result<Option<Vec<f64>>, StageError> {
        Ok(None)
    }

    /// How long it is seen while it changes; for one that has the controls of that.
    fn shutter(&self, _context: &Context<'_>) -> Result<Option<Shutter>, StageError> {
        Ok(None)
    }

    /// Where its signal exists. By default, where its main input does.
    fn domain(&self, context: &Context<'_>) -> Result<Domain, StageError> {
        Ok(context.main_domain().unwrap_or_else(|| context.everywhere()))
    }

    /// What it does to each pixel of its main input by itself, of a kind, with what it takes else over a window; none where
    /// it does anything else. One that says this exists where its main input does, or more, and needs no [`Self::render`]
    /// for that kind.
    fn each_pixel(
        &self,
        _context: &Context<'_>,
        _kind: SignalKind,
        _wanted: Window,
    ) -> Result<Option<EachPixel>, StageError> {
        Ok(None)
    }

    /// Every pixel of `wanted`, which lies within the data window. One that is a warp leaves this to its move.
    fn render(&self, context: &Context<'_>, _wanted: Window) -> Result<Pixels, StageError> {
        Err(context.fault("gives nothing"))
    }

    /// Whether what it gives is seldom opaque, whatever it takes.
    fn cuts(&self) -> bool {
        false
    }

    /// Whether it adds light that covers nothing, as a glow does.
    fn shines(&self) -> bool {
        false
    }

    /// Settings to start from.
    fn presets(&self) -> Vec<Preset> {
        Vec::new()
    }

    /// What is to be known of its result though it works; one sentence.
    fn mark(&self, _context: &Context<'_>) -> Option<String> {
        None
    }

    /// The stage as a warp, where it moves its main input and does nothing else: its result, and where that exists, are
    /// those of its bracket.
    fn as_warp(&self) -> Option<&dyn WarpStage> {
        None
    }

    /// The stage as one that lays what it takes somewhere.
    fn as_placing(&self) -> Option<&dyn Placing> {
        None
    }

    /// Which passes it brings in; for a stage that says so.
    fn brings(&self, _context: &Context<'_>) -> Result<Vec<Role>, StageError> {
        Ok(Vec::new())
    }

    /// What the file that it brings in says of itself in words.
    fn words(&self, _context: &Context<'_>) -> Result<Vec<(String, String)>, StageError> {
        Ok(Vec::new())
    }

    /// What it brings in beside the picture, over a window within its data window.
    fn bring(&self, context: &Context<'_>, _ride: &Ride, _wanted: Window) -> Result<Pixels, StageError> {
        Err(context.fault("brings no passes"))
    }
}

/// A warp's move. Neighbours are composed and sampled once.
pub trait WarpStage {
    /// How it is read between pixels and beyond the border, where it is the lowest of its bracket.
    fn reading(&self, context: &Context<'_>) -> Result<Reading, StageError>;

    /// What kind of move it is.
    fn bend(&self, context: &Context<'_>) -> Result<Bend, StageError>;

    /// The moves of a window, in pixels of the proxy scale, for a warp by a map.
    fn moves(&self, _context: &Context<'_>, window: Window) -> Result<Moves, StageError> {
        Ok(Moves::new(Map::clear(window)))
    }

    /// How much of what it gives is seen, from 0 to 1, over a window: what stands before it hides it. None where all is; it is
    /// asked only where [`HOLDOUT`] or [`HOLDOUT_DEPTH`] is plugged.
    fn shows(&self, _context: &Context<'_>, _window: Window) -> Result<Option<Field>, StageError> {
        Ok(None)
    }

    /// 1 where what it bends lies on its back, for a warp that knows; for others it is told by the places that they read.
    fn folds(&self, _context: &Context<'_>, _window: Window) -> Result<Option<Field>, StageError> {
        Ok(None)
    }
}

/// A stage that lays its main input on a box.
pub trait Placing {
    /// The settings that lay a box of the input, which is not empty, on another, in full-resolution pixels.
    fn laid(&self, from: Aligned, to: Aligned) -> Vec<(&'static str, Setting)>;
}

/// A box along the axes, in full-resolution pixels.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Aligned {
    /// Its top left corner.
    pub first: [f64; 2],
    /// Its bottom right corner.
    pub last: [f64; 2],
}

impl Aligned {
    /// Its middle.
    pub fn middle(self) -> [f64; 2] {
        [0, 1].map(|axis| (self.first[axis] + self.last[axis]) / 2.0)
    }

    /// Its width and height.
    pub fn size(self) -> [f64; 2] {
        [0, 1].map(|axis| self.last[axis] - self.first[axis])
    }

    /// Its corners from the top left one on, clockwise.
    pub const fn corners(self) -> [[f64; 2]; 4] {
        let ([left, top], [right, bottom]) = (self.first, self.last);
        [[left, top], [right, top], [right, bottom], [left, bottom]]
    }
}

impl From<Window> for Aligned {
    fn from(window: Window) -> Self {
        Self { first: [window.x0, window.y0].map(f64::from), last: [window.x1, window.y1].map(f64::from) }
    }
}

/// A kind of move, in pixels of the proxy scale.
#[derive(Clone, Copy, Debug)]
pub enum Bend {
    /// From the input's places to the result's.
    Matrix(Homography),
    /// By [`WarpStage::moves`].
    Map {
        /// Standard deviation of the blur for each pixel moved.
        softness: f32,
        /// Outside of it nothing moves.
        within: Window,
    },
}

/// How a picture is read where it is moved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Reading {
    /// Between its pixels.
    pub filter: Filter,
    /// Beyond its border.
    pub edge: Edge,
    /// Whether a sharp filter may take coverage below none and above the whole.
    pub rings: bool,
}

/// The control that says how long it is seen, in degrees; none is seen sharp.
pub(crate) const SHUTTER: &str = "shutter";

/// The slots of what stands before what a warp gives: its matte, and the depth of everything. A warp with either is sampled by
/// itself.
pub(crate) const HOLDOUT: &str = "holdout";
pub(crate) const HOLDOUT_DEPTH: &str = "depth";

/// How long something is seen while it moves.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Shutter {
    /// 360 degrees are a whole frame.
    pub degrees: f64,
    /// In how many steps.
    pub samples: i32,
}

impl Shutter {
    /// The moments that are seen, about the middle of a frame; only that where there is no shutter.
    pub(crate) fn moments(self, frame: f64) -> Vec<f64> {
        let open = self.degrees / 360.0;
        if open <= 0.0 || self.samples < 2 {
            return vec![frame];
        }
        let count = f64::from(self.samples);
        (0..self.samples).map(|step| frame + ((f64::from(step) + 0.5) / count - 0.5) * open).collect()
    }
}

/// Changes a run of pixels in place, given the place of the first.
type OnRow<P> = Box<dyn Fn([i32; 2], &mut [P]) + Send + Sync>;

/// A change of each pixel by itself, a row of them at a time and in place.
pub enum EachPixel {
    /// Of pictures.
    Picture(OnRow<Rgba>),
    /// Of fields.
    Field(OnRow<f32>),
    /// Of maps.
    Map(OnRow<[f32; 2]>),
}

fn on_row<P: Copy + 'static>(f: impl Fn(P) -> P + Send + Sync + 'static) -> OnRow<P> {
    Box::new(move |_, row| row.iter_mut().for_each(|pixel| *pixel = f(*pixel)))
}

impl EachPixel {
    /// Of premultiplied pixels.
    pub fn picture(f: impl Fn(Rgba) -> Rgba + Send + Sync + 'static) -> Self {
        Self::Picture(on_row(f))
    }

    /// Of rows of premultiplied pixels, each of which is changed by itself whatever stands beside it.
    pub fn rows(f: impl Fn(&mut [Rgba]) + Send + Sync + 'static) -> Self {
        Self::Picture(Box::new(move |_, row| f(row)))
    }

    /// As [`Self::rows`], with the place of the first pixel: for what meets the same place of something else.
    pub fn rows_at(f: impl Fn([i32; 2], &mut [Rgba]) + Send + Sync + 'static) -> Self {
        Self::Picture(Box::new(f))
    }

    /// Of colours without their alpha, which stays.
    pub fn colour(f: impl Fn([f32; 3]) -> [f32; 3] + Send + Sync + 'static) -> Self {
        let changed = OnColour::new(f);
        Self::picture(move |pixel| changed.at(pixel))
    }

    /// Of the floats of a field.
    pub fn field(f: impl Fn(f32) -> f32 + Send + Sync + 'static) -> Self {
        Self::Field(on_row(f))
    }

    /// Of rows of a field, with the place of the first pixel.
    pub fn field_rows_at(f: impl Fn([i32; 2], &mut [f32]) + Send + Sync + 'static) -> Self {
        Self::Field(Box::new(f))
    }

    /// Of the moves of a map.
    pub fn map(f: impl Fn([f32; 2]) -> [f32; 2] + Send + Sync + 'static) -> Self {
        Self::Map(on_row(f))
    }

    pub(crate) fn on_pictures(&self, at: [i32; 2], row: &mut [Rgba]) {
        if let Self::Picture(f) = self {
            f(at, row);
        }
    }

    pub(crate) fn on_fields(&self, at: [i32; 2], row: &mut [f32]) {
        if let Self::Field(f) = self {
            f(at, row);
        }
    }

    pub(crate) fn on_maps(&self, at: [i32; 2], row: &mut [[f32; 2]]) {
        if let Self::Map(f) = self {
            f(at, row);
        }
    }

    /// All pixels, where they are of its kind; others as they are.
    pub(crate) fn over(&self, pixels: &Pixels, cancel: &Cancel) -> Result<Pixels, Cancelled> {
        let mut changed = pixels.clone();
        let x0 = changed.window().x0;
        match (self, &mut changed) {
            (Self::Picture(f), Pixels::Picture(picture)) => {
                picture.fill_rows(cancel, |y, row| f([x0, y], row))?;
            }
            (Self::Field(f), Pixels::Field(field)) => field.fill_rows(cancel, |y, row| f([x0, y], row))?,
            (Self::Map(f), Pixels::Map(map)) => map.fill_rows(cancel, |y, row| f([x0, y], row))?,
            _ => {}
        }
        Ok(changed)
    }
}
