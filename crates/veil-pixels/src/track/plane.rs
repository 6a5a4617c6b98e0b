//! A region followed as one piece.
//!
//! The region is laid on each frame from coarse to fine, from where it was; what differs by far, as what passes in front
//! of it does, does not count. It is laid by its first frame as long as it still looks alike, so that small errors do
//! not add up, and by the last frame it was found in from then on.

use super::align::{Fit, Motion, Pattern};
use crate::sample::resize::block_means;
use crate::warp::perspective::Homography;
use crate::{Cancel, Cancelled, Field, Window};

/// How a region is followed.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct PlaneSettings {
    /// How it may change.
    pub motion: Motion,
    /// How alike it must be to be taken for the same, 0–1.
    pub least_likeness: f64,
}

impl Default for PlaneSettings {
    fn default() -> Self {
        Self { motion: Motion::Perspective, least_likeness: 0.5 }
    }
}

/// Images are made half as fine until the region's longer side is at most this many pixels.
const COARSEST: f64 = 40.0;
/// Most times that they are.
const MOST_LEVELS: u32 = 4;
/// Half the shorter side of a region, in pixels, from which on its turn and size can be told, and its shears.
const LEAST_TO_TURN: f64 = 6.0;
const LEAST_TO_LEAN: f64 = 12.0;
/// The finest images that are looked at alone.
const FINER: usize = 2;
/// Of what is seen of a region so much must be it.
const LEAST_SHARE: f64 = 0.3;
/// Pixels of the region that count, at each level.
const MOST_SAMPLES: usize = 4900;

/// Which places of a region count: by where they are in the first frame and in the one that is looked at.
pub trait Counts {
    /// Whether one does.
    fn counts(&self, first: [f64; 2], here: [f64; 2]) -> bool;
}

impl<F: Fn([f64; 2], [f64; 2]) -> bool> Counts for F {
    fn counts(&self, first: [f64; 2], here: [f64; 2]) -> bool {
        self(first, here)
    }
}

/// A region at one to so many.
struct Level {
    divisor: u32,
    pattern: Pattern,
}

/// A region as it is in one frame.
struct Model {
    levels: Vec<Level>,
    /// From the first frame to the one it is of.
    placed: Homography,
}

/// Follows one region.
pub struct PlaneTracker {
    settings: PlaneSettings,
    /// The box about the region, in the first frame.
    region: Window,
    first_image: Field,
    first: Model,
    last: Option<Model>,
    placed: Homography,
}

/// An image at one to so many; its places are those of the full one, divided.
pub(super) fn shrunk(image: &Field, divisor: u32, cancel: &Cancel) -> Result<Field, Cancelled> {
    if divisor == 1 { Ok(image.clone()) } else { block_means(image, divisor, cancel) }
}

/// The same homography between images at one to so many.
fn at_scale(placed: Homography, divisor: u32) -> Homography {
    let by = f64::from(divisor);
    Homography::scale(by, by).then(placed).then(Homography::scale(1.0 / by, 1.0 / by))
}

/// What can be told of a region whose halves are so many pixels: of a few only where it is.
fn motion_at(motion: Motion, half: [f64; 2]) -> Motion {
    let short = half[0].min(half[1]);
    match motion {
        _ if short < LEAST_TO_TURN => Motion::Shift,
        Motion::Affine | Motion::Perspective if short < LEAST_TO_LEAN => Motion::Similarity,
        wanted => wanted,
    }
}

impl Model {
    /// A region of a frame where `counts` holds, in the places of the first frame, which `placed` carries to it.
    fn new(
        images: &[(u32, Field)],
        region: Window,
        motion: Motion,
        placed: Homography,
        counts: &impl Counts,
    ) -> Option<Self> {
        let back = placed.inverse()?;
        let bounds = placed.window(region);
        let levels = images.iter().filter_map(|(divisor, image)| {
            let by = f64::from(*divisor);
            let centre =
                [f64::from(bounds.x0 + bounds.x1) / 2.0 / by, f64::from(bounds.y0 + bounds.y1) / 2.0 / by];
            let half = [bounds.width() as f64 / 2.0 / by, bounds.height() as f64 / 2.0 / by];
            let motion = motion_at(motion, half);
            let inside = |x: f64, y: f64| {
                back.at([x * by, y * by]).is_some_and(|first| counts.counts(first, [x * by, y * by]))
            };
            let pattern = Pattern::new(image, centre, half, motion, inside)?.thinned(MOST_SAMPLES);
            Some(Level { divisor: *divisor, pattern })
        });
        let levels: Vec<Level> = levels.collect();
        (!levels.is_empty()).then_some(Self { levels, placed })
    }

    /// Lays the region on a frame, from where the first frame's places are thought to be in it: from coarse to fine for
    /// what has gone far, and from the finer images alone, since little of it is seen on a coarse one behind what passes in
    /// front. The better one counts.
    fn fit(&self, images: &[(u32, Field)], thought: Homography, counts: &impl Counts) -> Option<Fit> {
        let finer = self.levels.len().saturating_sub(FINER);
        let starts = if finer == 0 { vec![0] } else { vec![0, finer] };
        let fits = starts.into_iter().filter_map(|start| self.fit_from(start, images, thought, counts));
        fits.max_by(|a, b| (a.likeness * a.share).total_cmp(&(b.likeness * b.share)))
    }

    fn fit_from(
        &self,
        start: usize,
        images: &[(u32, Field)],
        thought: Homography,
        counts: &impl Counts,
    ) -> Option<Fit> {
        let mut from_own = self.placed.inverse()?.then(thought);
        let mut best = None;
        for level in &self.levels[start..] {
            let (_, image) = images.iter().find(|(divisor, _)| *divisor == level.divisor)?;
            let start = at_scale(from_own, level.divisor);
            let by = f64::from(level.divisor);
            let back = self.placed.then(from_own).inverse()?;
            let seen = |[x, y]: [f64; 2]| {
                let here = [x * by, y * by];
                back.at(here).is_none_or(|first| counts.counts(first, here))
            };
            let fit = level.pattern.fit_plainly(image, start, seen)?;
            from_own = Homography::scale(1.0 / by, 1.0 / by).then(fit.placed).then(Homography::scale(by, by));
            best = Some(fit);
        }
        best.map(|fit| Fit { placed: self.placed.then(from_own), ..fit })
    }
}

impl PlaneTracker {
    /// Begins with the part of a box where `counts` holds; none where there is nothing to follow.
    pub fn new(
        image: &Field,
        region: Window,
        settings: PlaneSettings,
        counts: impl Counts,
        cancel: &Cancel,
    ) -> Result<Option<Self>, Cancelled> {
        let images = images(image, region, cancel)?;
        let first = Model::new(&images, region, settings.motion, Homography::IDENTITY, &counts);
        Ok(first.map(|first| Self {
            settings,
            region,
            first_image: image.clone(),
            first,
            last: None,
            placed: Homography::IDENTITY,
        }))
    }

    /// Lays the region on the next frame; none where it is lost.
    pub fn step(
        &mut self,
        image: &Field,
        counts: impl Counts,
        cancel: &Cancel,
    ) -> Result<Option<Fit>, Cancelled> {
        let images = images(image, self.region, cancel)?;
        let good = |fit: &Fit| fit.likeness >= self.settings.least_likeness && fit.share >= LEAST_SHARE;
        let by_last = self.last.as_ref().and_then(|last| last.fit(&images, self.placed, &counts));
        let thought = by_last.as_ref().filter(|fit| good(fit)).map_or(self.placed, |fit| fit.placed);
        let by_first = self.first.fit(&images, thought, &counts).filter(good);
        let Some(fit) = by_first.or(by_last.filter(good)) else { return Ok(None) };
        self.placed = fit.placed;
        // What is not as it was at first may be something in front, which goes a way of its own.
        let known = |first: [f64; 2], here: [f64; 2]| {
            let value = |image: &Field, [x, y]: [f64; 2]| image.get(x.floor() as i32, y.floor() as i32);
            let both = value(&self.first_image, first).zip(value(image, here));
            let alike = both.is_some_and(|(then, now)| fit.levels.alike(then, now));
            counts.counts(first, here) && (by_first.is_none() || alike)
        };
        self.last = Model::new(&images, self.region, self.settings.motion, fit.placed, &known);
        Ok(Some(fit))
    }
}

/// The images that a region is laid on, the coarsest first.
fn images(image: &Field, region: Window, cancel: &Cancel) -> Result<Vec<(u32, Field)>, Cancelled> {
    let longer = region.width().max(region.height()) as f64;
    let levels =
        (0..=MOST_LEVELS).take_while(|level| *level == 0 || longer / f64::from(1 << level) > COARSEST / 2.0);
    let levels: Vec<u32> = levels.collect();
    levels.into_iter().rev().map(|level| Ok((1 << level, shrunk(image, 1 << level, cancel)?))).collect()
}
